//! The Linux kernel's remote keymaps: TOML with one or more `[[protocols]]`, each a protocol and a table
//! of scancodes to key names.
//!
//! Scancodes by protocol, as the kernel's decoders make them (*from memory*):
//!
//! | protocol, variant | scancode |
//! | --- | --- |
//! | `nec`, `nec` | address, command, 8 bits each |
//! | `nec`, `necx` | first address byte, second, command |
//! | `nec`, `nec32` | ~address, address, ~command, command |
//! | `nec` without a variant | by its length: 16, 24 or 32 bits |
//! | `rc5` | address from bit 8, command of 7 bits |
//! | `rc5`, `rc5x_20` | address from bit 16, command from bit 8, data |
//! | `rc5`, `rc5_sz` | 14 bits without the toggle bit |
//! | `rc6`, `rc6_0` | address from bit 8, command of 8 bits |
//! | `rc6`, `rc6_6a_20`, `_24`, `_32`, `rc6_mce` | the data as they are, without a toggle bit |
//! | `rc_mm`, `rcmm12`, `rcmm24`, `rcmm32` | the bits as sent |
//! | a variant that ends in 12, 15 or 20 | `sirc`: device from bit 16, extended from bit 8, function |
//! | `pulse_distance`, `pulse_length` | the bits as sent, with the timing beside them |
//! | `raw` | `keycode` and the durations themselves |
//!
//! Three more protocols go there by names that are trade marks: they are told by a digest of the name ([`named`]).
//!
//! Protocols that are known here by their shape alone are written with their timing. Key names map to our
//! functions through the vocabulary; a name that it does not know is kept as it is.

use crate::codes::formats::{Found, Import, Unread};
use crate::codes::vocabulary;
use crate::model::{CodeBody, Medium, Press};
use kestrel_signal::exchange::ExchangeError;
use kestrel_signal::layout::Part;
use kestrel_signal::protocol::Turn;
use kestrel_signal::{BuiltIn, Capture, Message, ProtocolId, read as read_capture};
use std::collections::{HashMap, HashSet};
use std::fmt::Write as _;
use toml::{Table, Value};

/// The largest keymap that is read, in bytes.
const MAX_BYTES: usize = 4_000_000;

/// Is it a keymap?
#[must_use]
pub fn looks_like(text: &str) -> bool {
    text.lines().any(|line| line.trim_start().starts_with("[[protocols]]"))
}

/// Reads a keymap. Entries that cannot be read are listed with their line; the rest is kept.
///
/// # Errors
/// Where the file as a whole is no TOML or has no protocol.
pub fn read(text: &str) -> Result<Import, ExchangeError> {
    if text.len() > MAX_BYTES {
        return Err(ExchangeError::Shape(format!(
            "The keymap is {} bytes long; at most 4 MB can be read.",
            text.len()
        )));
    }
    let table: Table = text.parse().map_err(|error: toml::de::Error| {
        ExchangeError::Shape(format!("The keymap is no TOML: {}", plain(&error, text)))
    })?;
    let protocols =
        table.get("protocols").and_then(Value::as_array).filter(|list| !list.is_empty()).ok_or_else(|| {
            ExchangeError::Shape("The keymap has no [[protocols]], so there is nothing to read.".to_owned())
        })?;
    let mut import = Import::default();
    let mut lines = Lines::new(text);
    for protocol in protocols {
        lines.next_protocol();
        let Some(protocol) = protocol.as_table() else { continue };
        read_protocol(protocol, &mut lines, &mut import);
    }
    Ok(import)
}

fn plain(error: &toml::de::Error, text: &str) -> String {
    let line = error.span().map_or(1, |span| text[..span.start.min(text.len())].matches('\n').count() + 1);
    format!("line {line}: {}.", error.message().trim_end_matches('.'))
}

/// Where entries stand in the text: the parser forgets it. Each block's keys are noted once, so that a long keymap is
/// walked once.
struct Lines<'a> {
    lines: Vec<&'a str>,
    at: usize,
    start: usize,
    /// Of the present block: the line where each key stands first, counted from 1.
    keys: HashMap<&'a str, usize>,
}

impl<'a> Lines<'a> {
    fn new(text: &'a str) -> Self {
        Self { lines: text.lines().collect(), at: 0, start: 0, keys: HashMap::new() }
    }

    fn next_protocol(&mut self) {
        let opens = |line: &&str| line.trim_start().starts_with("[[protocols]]");
        let from = |at: usize| self.lines.iter().skip(at).position(opens).map(|ahead| at + ahead);
        self.start = from(self.at).map_or(self.lines.len(), |at| at + 1);
        self.at = self.start;
        let end = from(self.start).unwrap_or(self.lines.len());
        self.keys.clear();
        for (at, line) in self.lines.iter().enumerate().take(end).skip(self.start) {
            if let Some((key, _)) = line.split_once('=') {
                self.keys.entry(key.trim().trim_matches('"')).or_insert(at + 1);
            }
        }
    }

    /// The line of the protocol's block that opens with `key`, counted from 1.
    fn of(&self, key: &str) -> usize {
        self.keys.get(key).copied().unwrap_or(self.start).max(1)
    }
}

fn read_protocol(protocol: &Table, lines: &mut Lines<'_>, import: &mut Import) {
    let word = |name: &str| protocol.get(name).and_then(Value::as_str).unwrap_or("").to_lowercase();
    let (kind, variant) = (word("protocol"), word("variant"));
    if let Some(raw) = protocol.get("raw").and_then(Value::as_array) {
        for entry in raw {
            match raw_entry(entry) {
                Ok((key, body)) => import.found.push(found(&key, body, lines.of("keycode"))),
                Err(why) => import.unread.push(Unread { line: lines.of("raw"), why }),
            }
        }
    }
    let Some(scancodes) = protocol.get("scancodes").and_then(Value::as_table) else {
        if protocol.get("raw").is_none() {
            let why = "This protocol has neither scancodes nor raw timing.".to_owned();
            import.unread.push(Unread { line: lines.start, why });
        }
        return;
    };
    for (scancode, key) in scancodes {
        let line = lines.of(scancode);
        let read = key
            .as_str()
            .ok_or_else(|| format!("{scancode} names no key: a text such as \"KEY_PLAY\" belongs there."))
            .and_then(|key| Ok((key, number(scancode)?)))
            .and_then(|(key, value)| Ok((key, body(protocol, &kind, &variant, value)?)));
        match read {
            Ok((key, body)) => import.found.push(found(key, body, line)),
            Err(why) => import.unread.push(Unread { line, why }),
        }
    }
}

fn found(key: &str, body: CodeBody, line: usize) -> Found {
    let name =
        vocabulary::of_keymap(key).map_or_else(|| key.chars().take(crate::model::NAME_MAX).collect(), str::to_owned);
    Found { name, device: None, press: Press::default(), body, line }
}

fn number(text: &str) -> Result<u64, String> {
    let digits = text.trim().to_lowercase();
    let parsed = match digits.strip_prefix("0x") {
        Some(hex) => u64::from_str_radix(hex, 16),
        None => digits.parse(),
    };
    parsed.map_err(|_| format!("“{text}” is no scancode: it is a number such as 0x0408."))
}

fn raw_entry(entry: &Value) -> Result<(String, CodeBody), String> {
    let table = entry.as_table().ok_or("A raw entry has a keycode and a list of durations.")?;
    let key = table.get("keycode").and_then(Value::as_str).ok_or("A raw entry names no keycode.")?;
    let list =
        table.get("raw").and_then(Value::as_array).ok_or_else(|| format!("{key} has no list “raw” of durations."))?;
    let durations: Option<Vec<u32>> =
        list.iter().map(|value| value.as_integer().and_then(|us| u32::try_from(us.unsigned_abs()).ok())).collect();
    let durations = durations.ok_or_else(|| format!("{key}: every duration is a whole number of µs."))?;
    let capture = Capture::new(durations, None).map_err(|error| format!("{key}: {error}"))?;
    Ok((key.to_owned(), of_capture(capture)))
}

/// A message where the timing says one, else the timing.
fn of_capture(capture: Capture) -> CodeBody {
    match read_capture(&capture).best {
        Some(best) => CodeBody::heard(best.message, capture.carrier_hz(), best.whole_repeats),
        None => CodeBody::Raw { capture, medium: Medium::Ir },
    }
}

/// The same of timing that a scancode stands for: nobody has heard it, so it says nothing of a held key or of a carrier.
fn of_shape(capture: Capture) -> CodeBody {
    match of_capture(capture) {
        CodeBody::Decoded { message, .. } => CodeBody::of(message),
        raw => raw,
    }
}

fn body(protocol: &Table, kind: &str, variant: &str, scancode: u64) -> Result<CodeBody, String> {
    let byte = |at: u32| u32::try_from(scancode >> at & 0xff).unwrap_or(0);
    let above = |bits: u32| scancode >> bits != 0;
    let name = |kind: &str| kind.replace(['-', '_'], "");
    let message = |id: ProtocolId, fields: &[(&str, u32)]| {
        Message::new(id, fields.iter().copied()).map(CodeBody::of).map_err(|error| error.to_string())
    };
    let too_long = |bits: u32| format!("0x{scancode:x} has more than the {bits} bits of {kind}.");
    match (name(kind).as_str(), name(variant).as_str()) {
        ("nec", "necx") | ("necx", _) if above(24) => Err(too_long(24)),
        ("nec", "necx") | ("necx", _) => match (byte(16), byte(8)) {
            (low, high) if low == !high & 0xff => message(ProtocolId::Nec, &[("address", low), ("command", byte(0))]),
            (low, high) => message(ProtocolId::NecExt, &[("address", low | high << 8), ("command", byte(0))]),
        },
        ("nec", "nec32") => {
            if above(32) {
                return Err(too_long(32));
            }
            let sent = [byte(16), byte(24), byte(0), byte(8)];
            let code = sent.iter().rev().fold(0u32, |bits, &byte| bits << 8 | byte);
            // Bytes that are complements are one of the shorter forms.
            message(ProtocolId::Nec32, &[("code", code)])
                .or_else(|_| Ok(of_shape(distance(&Shape::NEC, u64::from(code))?)))
        }
        // Without a variant, or with the shortest one, its length says which it is.
        ("nec", _) if above(32) => Err(too_long(32)),
        ("nec", _) if above(24) => body(protocol, kind, "nec32", scancode),
        ("nec", _) if above(16) => body(protocol, kind, "necx", scancode),
        ("nec", _) => message(ProtocolId::Nec, &[("address", byte(8)), ("command", byte(0))]),
        ("rc5", "" | "rc5") => {
            if above(13) {
                return Err(too_long(13));
            }
            message(ProtocolId::Rc5, &[("address", byte(8)), ("command", byte(0))])
        }
        ("rc5", "rc5x20") | ("rc5x20", _) => {
            if above(21) {
                return Err(too_long(21));
            }
            message(ProtocolId::Rc5x20, &[("address", byte(16)), ("command", byte(8)), ("data", byte(0))])
        }
        ("rc5", "rc5sz") | ("rc5sz", _) => {
            if above(14) || scancode >> 12 & 1 == 1 {
                return Err(format!(
                    "0x{scancode:x} has bits that {kind} does not send: it has 14, and bit 12 is its toggle."
                ));
            }
            let bits = u32::try_from(scancode).unwrap_or(0);
            let address = bits >> 6 & 63 | (bits >> 13 & 1) << 6;
            message(ProtocolId::Rc5x15, &[("address", address), ("command", bits & 63)])
        }
        ("rc6", "rc66a20" | "rc66a24" | "rc66a32" | "rc6mce") | ("rc6mce", _) => {
            let bits = match name(variant).as_str() {
                "rc66a20" => 20,
                "rc66a24" => 24,
                _ => 32,
            };
            if above(bits) {
                return Err(too_long(bits));
            }
            let data = u32::try_from(scancode).unwrap_or(0);
            match data >> 16 {
                0x800f if bits == 32 => {
                    let fields = [("address", data >> 8 & 127), ("command", byte(0)), ("toggle", data >> 15 & 1)];
                    message(ProtocolId::Rc6Mode6aToggle, &fields)
                }
                _ => message(ProtocolId::Rc6Mode6a, &[("bits", bits), ("data", data)]),
            }
        }
        ("rcmm", _) | (_, "rcmm12" | "rcmm24" | "rcmm32") => {
            let bits = if variant.ends_with("12") || (variant.is_empty() && !above(12)) {
                12
            } else if variant.ends_with("24") || (variant.is_empty() && !above(24)) {
                24
            } else {
                32
            };
            if above(bits) {
                return Err(too_long(bits));
            }
            Ok(of_shape(pairs(bits, scancode)?))
        }
        ("rc6", "" | "rc60") => {
            if above(16) {
                return Err(too_long(16));
            }
            message(ProtocolId::Rc6, &[("address", byte(8)), ("command", byte(0))])
        }
        ("pulsedistance", _) | ("pulselength", _) => {
            Ok(of_shape(distance(&Shape::of(protocol, name(kind) == "pulselength")?, scancode)?))
        }
        (family, variant) if !family.starts_with("rc") && !family.starts_with("nec") && sirc(variant).is_some() => {
            let (id, bits) = sirc(variant).unwrap_or((ProtocolId::Sirc12, 5));
            if above(24) {
                return Err(too_long(24));
            }
            let mut fields = vec![("address", byte(16)), ("command", byte(0))];
            if bits == 20 {
                fields.push(("extended", byte(8)));
            }
            message(id, &fields)
        }
        (family, _) if named(family).is_some() => match named(family) {
            Some(Named::Pd16) if above(16) => Err(too_long(16)),
            Some(Named::Pd16) => message(ProtocolId::Pd16, &[("address", byte(8)), ("command", byte(0))]),
            Some(Named::Pd42) if above(21) => Err(too_long(21)),
            Some(Named::Pd42) => {
                let address = u32::try_from(scancode >> 8 & 0x1fff).unwrap_or(0);
                message(ProtocolId::Pd42, &[("address", address), ("command", byte(0))])
            }
            _ if above(13) => Err(too_long(13)),
            _ => Ok(of_shape(echoed(byte(8) & 31, byte(0))?)),
        },
        _ => Err(match (kind, variant) {
            ("", _) => "This entry stands under no protocol.".to_owned(),
            (kind, "") => format!("The protocol “{kind}” is not known here."),
            (kind, variant) => format!("The protocol “{kind}”, variant “{variant}”, is not known here."),
        }),
    }
}

/// A protocol that keymaps name by a trade mark.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Named {
    Pd16,
    Pd42,
    /// 15 bits, sent again with the command inverted.
    Echoed,
}

/// The protocol of this name, told by the digest of the name (FNV-1a of 64 bits).
fn named(name: &str) -> Option<Named> {
    let digest = name
        .bytes()
        .fold(0xcbf2_9ce4_8422_2325u64, |hash, byte| (hash ^ u64::from(byte)).wrapping_mul(0x0100_0000_01b3));
    match digest {
        PD16_NAME => Some(Named::Pd16),
        PD42_NAME => Some(Named::Pd42),
        ECHOED_NAME => Some(Named::Echoed),
        _ => None,
    }
}

const PD16_NAME: u64 = 0x454a_7519_3a46_c296;
const PD42_NAME: u64 = 0xc99e_730d_964c_ff31;
const ECHOED_NAME: u64 = 0x6e30_a349_3acb_ac07;

/// Bits in pairs, most significant first, each a mark and one of four spaces (*from memory*), three times.
fn pairs(bits: u32, scancode: u64) -> Result<Capture, String> {
    const SPACES_US: [u32; 4] = [278, 444, 611, 778];
    let mut frame = vec![417, 278];
    for pair in (0..bits / 2).rev() {
        let value = usize::try_from(scancode >> (2 * pair) & 3).unwrap_or(0);
        frame.extend([167, SPACES_US[value]]);
    }
    frame.push(167);
    thrice(&frame, 15_000)
}

/// 5 bits of address, 8 of command, 2 that say which frame it is, least significant first; then the same with the command
/// inverted (*from memory*).
fn echoed(address: u32, command: u32) -> Result<Capture, String> {
    let frame = |command: u32, mark: u32| -> Vec<u32> {
        let bits = address & 31 | (command & 0xff) << 5 | mark << 13;
        let mut frame: Vec<u32> =
            (0..15).flat_map(|bit| if bits >> bit & 1 == 1 { [320, 1_680] } else { [320, 680] }).collect();
        frame.push(320);
        frame
    };
    let press = [frame(command, 0b01), vec![40_000], frame(!command, 0b10)].concat();
    thrice(&press, 40_000)
}

fn thrice(frame: &[u32], gap_us: u32) -> Result<Capture, String> {
    let mut durations = frame.to_vec();
    for _ in 0..2 {
        durations.push(gap_us);
        durations.extend(frame);
    }
    Capture::new(durations, None).map_err(|error| error.to_string())
}

fn sirc(variant: &str) -> Option<(ProtocolId, u32)> {
    let bits = [(ProtocolId::Sirc12, 12), (ProtocolId::Sirc15, 15), (ProtocolId::Sirc20, 20)];
    bits.into_iter().find(|(_, bits)| variant.ends_with(&bits.to_string()))
}

/// A pulse-distance or pulse-length signal in µs.
struct Shape {
    header: (u32, u32),
    zero: (u32, u32),
    one: (u32, u32),
    trailer: u32,
    bits: u32,
    lsb_first: bool,
}

impl Shape {
    const NEC: Self =
        Self { header: (9000, 4500), zero: (563, 563), one: (563, 1688), trailer: 563, bits: 32, lsb_first: true };

    fn of(protocol: &Table, length: bool) -> Result<Self, String> {
        let value = |name: &str, default: u32| match protocol.get(name) {
            None => Ok(default),
            Some(value) => value
                .as_integer()
                .and_then(|us| u32::try_from(us).ok())
                .filter(|us| *us <= 1_000_000)
                .ok_or_else(|| format!("“{name}” is no whole number of µs.")),
        };
        let bits = value("bits", 4)?;
        if bits == 0 || bits > 64 {
            return Err(format!("{bits} bits cannot be read; 1 to 64 can."));
        }
        // Defaults as in the kernel's generic decoders (*from memory*).
        let (zero, one) = if length {
            let space = value("bit_space", 625)?;
            ((value("bit_0_pulse", 375)?, space), (value("bit_1_pulse", 1_625)?, space))
        } else {
            let pulse = value("bit_pulse", 625)?;
            ((pulse, value("bit_0_space", 375)?), (pulse, value("bit_1_space", 1_625)?))
        };
        Ok(Self {
            header: (value("header_pulse", 2_125)?, value("header_space", 1_875)?),
            zero,
            one,
            trailer: value("trailer_pulse", if length { 0 } else { 625 })?,
            bits,
            lsb_first: value("reverse", 0)? == 1,
        })
    }
}

/// The durations of a scancode, twice: protocols without check bits want to be seen again.
fn distance(shape: &Shape, scancode: u64) -> Result<Capture, String> {
    let order: Vec<u32> = if shape.lsb_first { (0..shape.bits).collect() } else { (0..shape.bits).rev().collect() };
    let mut frame = Vec::new();
    let mut push = |(mark, space): (u32, u32)| frame.extend([mark, space]);
    if shape.header.0 > 0 {
        push(shape.header);
    }
    for bit in order {
        push(if scancode >> bit & 1 == 1 { shape.one } else { shape.zero });
    }
    if shape.trailer > 0 {
        frame.push(shape.trailer);
    } else {
        frame.pop();
    }
    thrice(&frame, 40_000)
}

/// One function as it is written.
pub struct Entry<'a> {
    /// The function's name.
    pub name: &'a str,
    /// What is sent.
    pub body: &'a CodeBody,
}

/// A key with its timing.
fn timing(key: &str, durations_us: &[u32]) -> String {
    let list: Vec<String> = durations_us.iter().map(ToString::to_string).collect();
    format!("\n  [[protocols.raw]]\n  keycode = {}\n  raw = [{}]\n", quoted(key), list.join(", "))
}

/// A protocol with its number of bits where it has several, and its scancodes with their keys.
type Block = ((BuiltIn, u32), Vec<(String, String)>);

/// Codes as a keymap, a block for each protocol; and what it cannot hold, with the reason.
#[must_use]
pub fn write(title: &str, entries: &[Entry<'_>]) -> (String, Vec<String>) {
    let mut blocks: Vec<Block> = Vec::new();
    let mut written = HashSet::new();
    let (mut raw, mut left_out) = (String::new(), Vec::new());
    for entry in entries {
        let key = vocabulary::to_keymap(entry.name).map_or_else(|| entry.name.to_owned(), str::to_owned);
        match entry.body {
            CodeBody::Decoded { message, .. } => {
                let Some(own) = message.protocol_id().built_in() else {
                    // What somebody has described is no protocol of a keymap: its timing is.
                    raw.push_str(&timing(&key, &entry.body.press_us()));
                    continue;
                };
                let bits = message.get("bits").unwrap_or(0);
                if own == BuiltIn::Rc6Mode6a && (![20, 24, 32].contains(&bits) || message.get("toggle") == Some(1)) {
                    left_out
                        .push(format!("{}: a keymap holds rc6-6a with 20, 24 or 32 bits and no toggle", entry.name));
                    continue;
                }
                let scancode = scancode(own, message);
                let block = (own, bits);
                let at = blocks.iter().position(|(id, _)| *id == block).unwrap_or_else(|| {
                    blocks.push((block, vec![]));
                    blocks.len() - 1
                });
                if !written.insert((block, scancode.clone())) {
                    left_out.push(format!("{}: its scancode {scancode} is that of another function", entry.name));
                } else {
                    blocks[at].1.push((scancode, key));
                }
            }
            CodeBody::Raw { capture, medium: Medium::Ir } => {
                raw.push_str(&timing(&key, capture.durations_us()));
            }
            other => left_out.push(format!("{}: a keymap holds infrared alone, and this is {other}", entry.name)),
        }
    }
    let mut text = format!("# {}\n", title.replace(char::is_control, " "));
    for line in &left_out {
        let _ = writeln!(text, "# Not in this file: {}", line.replace(char::is_control, " "));
    }
    for ((id, bits), scancodes) in blocks {
        let header = header(id, bits);
        let _ = write!(text, "\n[[protocols]]\nname = {}\n{header}[protocols.scancodes]\n", quoted(id.name()));
        for (scancode, key) in scancodes {
            let _ = writeln!(text, "{scancode} = {}", quoted(&key));
        }
    }
    if !raw.is_empty() {
        let _ = write!(text, "\n[[protocols]]\nname = \"raw timing\"\nprotocol = \"raw\"\n{raw}");
    }
    (text, left_out)
}

fn quoted(text: &str) -> String {
    Value::String(text.to_owned()).to_string()
}

fn header(id: BuiltIn, bits: u32) -> String {
    let distance = |kind: &str, values: &[(&str, u32)]| {
        values
            .iter()
            .fold(format!("protocol = \"{kind}\"\n"), |text, (name, value)| format!("{text}{name} = {value}\n"))
    };
    let spaces = |header: (u32, u32), unit: u32, bits: u32| {
        distance(
            "pulse_distance",
            &[
                ("header_pulse", header.0),
                ("header_space", header.1),
                ("bit_pulse", unit),
                ("bit_0_space", unit),
                ("bit_1_space", 3 * unit),
                ("trailer_pulse", unit),
                ("bits", bits),
                ("reverse", 1),
            ],
        )
    };
    let pulses = |bits: u32| {
        distance(
            "pulse_length",
            &[
                ("header_pulse", 2_400),
                ("header_space", 600),
                ("bit_space", 600),
                ("bit_0_pulse", 600),
                ("bit_1_pulse", 1_200),
                ("trailer_pulse", 0),
                ("bits", bits),
                ("reverse", 1),
            ],
        )
    };
    match id {
        BuiltIn::Nec => "protocol = \"nec\"\nvariant = \"nec\"\n".to_owned(),
        BuiltIn::NecExt => "protocol = \"nec\"\nvariant = \"necx\"\n".to_owned(),
        BuiltIn::Nec32 => "protocol = \"nec\"\nvariant = \"nec32\"\n".to_owned(),
        BuiltIn::Rc5x15 => "protocol = \"rc5\"\nvariant = \"rc5_sz\"\n".to_owned(),
        BuiltIn::Rc5x20 => "protocol = \"rc5\"\nvariant = \"rc5x_20\"\n".to_owned(),
        BuiltIn::Rc6Mode6a => format!("protocol = \"rc6\"\nvariant = \"rc6_6a_{bits}\"\n"),
        BuiltIn::Rc6Mode6aToggle => "protocol = \"rc6\"\nvariant = \"rc6_mce\"\n".to_owned(),
        BuiltIn::Pd42 => spaces((9_000, 4_500), 563, 42),
        BuiltIn::Rc5 => "protocol = \"rc5\"\nvariant = \"rc5\"\n".to_owned(),
        BuiltIn::Rc6 => "protocol = \"rc6\"\nvariant = \"rc6_0\"\n".to_owned(),
        BuiltIn::Sirc12 => pulses(12),
        BuiltIn::Sirc15 => pulses(15),
        BuiltIn::Sirc20 => pulses(20),
        BuiltIn::Kaseikyo => spaces((3_456, 1_728), 432, 48),
        BuiltIn::Pd32 => spaces((4_512, 4_512), 564, 32),
        BuiltIn::Pd16 => spaces((8_400, 4_200), 525, 16),
    }
}

fn scancode(own: BuiltIn, message: &Message) -> String {
    let get = |name: &str| u64::from(message.get(name).unwrap_or(0));
    let (address, command) = (get("address"), get("command"));
    match own {
        BuiltIn::Nec | BuiltIn::Rc5 | BuiltIn::Rc6 => format!("0x{:04x}", address << 8 | command),
        BuiltIn::Nec32 => {
            let [a, b, c, d] = message.get("code").unwrap_or(0).to_le_bytes();
            format!("0x{:08x}", u32::from_be_bytes([b, a, d, c]))
        }
        BuiltIn::Rc5x15 => format!("0x{:04x}", (address >> 6 & 1) << 13 | (address & 63) << 6 | command),
        BuiltIn::Rc5x20 => format!("0x{:06x}", address << 16 | command << 8 | get("data")),
        BuiltIn::Rc6Mode6a => format!("0x{:x}", get("data")),
        BuiltIn::Rc6Mode6aToggle => format!("0x{:08x}", 0x800f_0000 | address << 8 | command),
        BuiltIn::NecExt => format!("0x{:06x}", (address & 0xff) << 16 | (address >> 8) << 8 | command),
        _ => format!("0x{:x}", sent_bits(message)),
    }
}

/// The bits of a frame, the first sent in bit 0.
fn sent_bits(message: &Message) -> u64 {
    message.layout(Turn::First).parts().fold(0, |bits, part| match part {
        Part::Bit { index, value: true, .. } => bits | 1 << index,
        _ => bits,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    const MIXED: &str = r#"
[[protocols]]
name = "first"
protocol = "nec"
variant = "nec"
[protocols.scancodes]
0x0408 = "KEY_POWER"
0x0409 = "KEY_VOLUMEUP"
0x1000000409 = "KEY_MUTE"
[[protocols]]
name = "second"
protocol = "rc5"
[protocols.scancodes]
0x1e3b = "KEY_SELECT"
0x1e0d = "KEY_FROBNICATE"
[[protocols]]
name = "third"
protocol = "mystery"
[protocols.scancodes]
0x1 = "KEY_UP"
"#;

    /// What keymaps name, and what each of its scancodes is here. All of it can be sent, and is written as it was read.
    #[rstest]
    #[case::short("nec", "nec", "0x0408", "nec address=4 command=8")]
    #[case::nec_by_length("nec", "", "0x10409", "nec-ext address=1025 command=9")]
    #[case::nec_of_four_bytes("nec", "nec", "0x02fd48b7", "nec address=253 command=183")]
    #[case::nec_32("nec", "nec32", "0x12345678", "nec-32 code=1450709556")]
    #[case::rc5_with_data("rc5", "rc5x_20", "0x1e3b05", "rc5-20 address=30 command=59 data=5 toggle=0")]
    #[case::rc5_of_15_bits("rc5", "rc5_sz", "0x28c9", "rc5-15 address=99 command=9 toggle=0")]
    #[case::rc6_6a_20("rc6", "rc6_6a_20", "0xfab25", "rc6-6a bits=20 data=1026853 toggle=0")]
    #[case::rc6_6a_24("rc6", "rc6_6a_24", "0xbf5201", "rc6-6a bits=24 data=12538369 toggle=0")]
    #[case::rc6_6a_32("rc6", "rc6_6a_32", "0x80460001", "rc6-6a bits=32 data=2152071169 toggle=0")]
    #[case::rc6_6a_t("rc6", "rc6_mce", "0x800f0422", "rc6-6a-t address=4 command=34 toggle=0")]
    fn every_scancode_is_kept_and_can_be_sent(
        #[case] protocol: &str,
        #[case] variant: &str,
        #[case] scancode: &str,
        #[case] expected: &str,
    ) {
        let text = format!(
            "[[protocols]]\nname = \"one\"\nprotocol = \"{protocol}\"\nvariant = \"{variant}\"\n[protocols.scancodes]\n{scancode} = \"KEY_POWER\"\n"
        );
        let import = read(&text).unwrap();
        assert_eq!(import.unread.len(), 0, "{:?}", import.unread);
        let body = &import.found[0].body;
        assert_eq!(body.to_string(), expected);
        let CodeBody::Decoded { message, .. } = body else { panic!("{body}") };
        let capture = Capture::new(message.encode(message.least_frames().max(2)), None).unwrap();
        assert_eq!(read_capture(&capture).best.unwrap().message, *message);
        let (written, left_out) = write("back", &[Entry { name: "Power", body }]);
        assert!(left_out.is_empty(), "{left_out:?}");
        assert_eq!(read(&written).unwrap().found[0].body, *body, "{written}");
    }

    #[rstest]
    #[case("rcmm32", "0x12345678")]
    #[case("rcmm24", "0x234567")]
    #[case("rcmm12", "0x123")]
    fn what_has_no_name_here_is_kept_as_timing(#[case] variant: &str, #[case] scancode: &str) {
        let text = format!(
            "[[protocols]]\nprotocol = \"rc_mm\"\nvariant = \"{variant}\"\n[protocols.scancodes]\n{scancode} = \"KEY_OK\"\n"
        );
        let import = read(&text).unwrap();
        assert!(import.unread.is_empty(), "{:?}", import.unread);
        assert!(matches!(import.found[0].body, CodeBody::Raw { .. }), "{}", import.found[0].body);
    }

    #[test]
    fn several_protocols_in_one_file_and_unknown_ones_listed_line_by_line() {
        let import = read(MIXED).unwrap();
        let said: Vec<String> = import.found.iter().map(|f| format!("{} {} {}", f.line, f.name, f.body)).collect();
        assert_eq!(
            said,
            [
                "7 Power nec address=4 command=8",
                "8 Volume up nec address=4 command=9",
                "14 Select rc5 address=30 command=59 toggle=0",
                "15 KEY_FROBNICATE rc5 address=30 command=13 toggle=0",
            ]
        );
        assert_eq!(import.unread.iter().map(|unread| unread.line).collect::<Vec<_>>(), [9, 20]);
        assert!(import.unread[0].why.contains("more than the 32 bits"), "{}", import.unread[0].why);
        assert!(import.unread[1].why.contains("“mystery” is not known"));
    }

    #[rstest]
    #[case::no_toml("[[protocols]\nname =", "The keymap is no TOML: line 1")]
    #[case::empty("", "has no [[protocols]]")]
    fn what_is_no_keymap_says_why(#[case] text: &str, #[case] expected: &str) {
        let error = read(text).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }

    #[test]
    fn a_damaged_entry_does_not_cost_the_others() {
        let text = "[[protocols]]\nprotocol = \"nec\"\n[protocols.scancodes]\n0xzz = \"KEY_UP\"\n0x0401 = 7\n0x0402 = \"KEY_OK\"\n";
        let import = read(text).unwrap();
        assert_eq!(import.found.len(), 1);
        assert_eq!(import.unread.iter().map(|unread| unread.line).collect::<Vec<_>>(), [4, 5]);
    }

    #[test]
    fn raw_timing_is_decoded_where_it_can_be() {
        let sent = Message::new(ProtocolId::Nec, [("address", 4), ("command", 8)]).unwrap().encode(1);
        let list: Vec<String> = sent.iter().map(ToString::to_string).collect();
        let text = format!(
            "[[protocols]]\nprotocol = \"raw\"\n[[protocols.raw]]\nkeycode = \"KEY_OK\"\nraw = [{}]\n[[protocols.raw]]\nkeycode = \"KEY_UP\"\nraw = [100, 0]\n",
            list.join(", ")
        );
        let import = read(&text).unwrap();
        assert_eq!(import.found[0].body.to_string(), "nec address=4 command=8");
        assert!(import.unread[0].why.contains("Value 2 is 0 µs"));
    }

    #[test]
    fn all_four_bytes_of_a_nec32_scancode_are_understood() {
        // ~address, address, ~command, command
        let text = "[[protocols]]\nprotocol = \"nec\"\nvariant = \"nec32\"\n[protocols.scancodes]\n0xfb04f708 = \"KEY_OK\"\n0x12345678 = \"KEY_UP\"\n";
        let import = read(text).unwrap();
        assert_eq!(import.found[0].body.to_string(), "nec address=4 command=8");
        assert_eq!(
            import.found[1].body.to_string(),
            "nec-32 code=1450709556",
            "the command's complement does not hold"
        );
    }

    fn any_message() -> impl Strategy<Value = Message> {
        (0..kestrel_signal::BuiltIn::ALL.len(), prop::collection::vec(any::<u32>(), 5)).prop_filter_map(
            "fields that go together",
            |(which, values)| {
                let protocol = kestrel_signal::BuiltIn::ALL[which].protocol();
                let within = |value: u32, max: u32| max.checked_add(1).map_or(value, |count| value % count);
                let fields = protocol.fields.iter().zip(values).map(|(spec, value)| match spec.name {
                    "bits" => (spec.name, [20, 24, 32][value as usize % 3]),
                    _ => (spec.name, within(value, spec.max)),
                });
                Message::new(protocol.id, fields).ok().map(|message| message.with_toggle(false))
            },
        )
    }

    proptest! {
        #[test]
        fn a_keymap_written_by_us_is_read_back_the_same(messages in prop::collection::vec(any_message(), 1..12)) {
            let bodies: Vec<CodeBody> = messages.iter().map(|&message| CodeBody::of(message)).collect();
            let names: Vec<String> = (0..bodies.len()).map(|n| format!("Custom “{n}”")).collect();
            let entries: Vec<Entry<'_>> = names.iter().zip(&bodies).map(|(name, body)| Entry { name, body }).collect();
            let (text, left_out) = write("A test", &entries);
            let import = read(&text).unwrap();
            prop_assert!(import.unread.is_empty(), "{:?}\n{}", import.unread, text);
            prop_assert_eq!(import.found.len() + left_out.len(), bodies.len());
            for found in &import.found {
                let at = names.iter().position(|name| *name == found.name).unwrap();
                prop_assert_eq!(&found.body, &bodies[at]);
            }
        }
    }
}
