//! Commands on the network or a serial line: bytes, what closes them, what checks them, what comes back.
//!
//! *Wake-on-LAN*: 6 bytes FF, then the MAC address 16 times, 102 bytes in all (the magic packet white
//! paper), by UDP broadcast, usually to port 9 (*common practice*). *PJLink class 1*: text commands
//! that end in CR, over TCP port 4352 (JBMIA's specification); with authentication the first one is
//! preceded by the MD5 of the greeting's digits and the password, in hex.

use crc::{CRC_8_I_432_1, CRC_8_ROHC, CRC_8_SMBUS, CRC_16_ARC, CRC_16_KERMIT, CRC_16_MODBUS, CRC_16_XMODEM, Crc};
use md5::{Digest, Md5};
use serde::{Deserialize, Serialize};
use std::fmt;
use thiserror::Error;
use utoipa::ToSchema;

/// The port of PJLink.
pub const PJLINK_PORT: u16 = 4352;

/// The usual port of Wake-on-LAN.
pub const WAKE_PORT: u16 = 9;

/// The longest payload that is typed, in characters.
pub const TEXT_MAX: usize = 4_096;

/// How a payload travels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Transport {
    /// A TCP connection.
    Tcp,
    /// A UDP datagram.
    Udp,
    /// A serial line.
    Serial,
}

/// How a payload is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Form {
    /// Text, with the escapes `\r` `\n` `\t` `\0` `\\` and `\xHH`.
    Text,
    /// Hex bytes, with or without blanks.
    Hex,
}

/// What closes a payload.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Terminator {
    /// Nothing.
    None,
    /// Carriage return.
    Cr,
    /// Line feed.
    Lf,
    /// Both.
    CrLf,
}

impl Terminator {
    /// Its bytes.
    #[must_use]
    pub fn bytes(self) -> &'static [u8] {
        match self {
            Self::None => b"",
            Self::Cr => b"\r",
            Self::Lf => b"\n",
            Self::CrLf => b"\r\n",
        }
    }
}

/// What checks a payload; it stands between the payload and its terminator. Names and parameters of
/// the CRCs are those of the catalogue of parametrised CRC algorithms.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub enum Checksum {
    /// Nothing.
    #[serde(rename = "none")]
    None,
    /// The sum of all bytes, its lowest 8 bits.
    #[serde(rename = "sum-8")]
    Sum8,
    /// All bytes XORed.
    #[serde(rename = "xor-8")]
    Xor8,
    /// CRC-8/SMBUS.
    #[serde(rename = "crc-8/smbus")]
    Crc8Smbus,
    /// CRC-8/I-432-1.
    #[serde(rename = "crc-8/i-432-1")]
    Crc8I432,
    /// CRC-8/ROHC.
    #[serde(rename = "crc-8/rohc")]
    Crc8Rohc,
    /// CRC-16/ARC, low byte first.
    #[serde(rename = "crc-16/arc")]
    Crc16Arc,
    /// CRC-16/MODBUS, low byte first.
    #[serde(rename = "crc-16/modbus")]
    Crc16Modbus,
    /// CRC-16/KERMIT, low byte first.
    #[serde(rename = "crc-16/kermit")]
    Crc16Kermit,
    /// CRC-16/XMODEM, high byte first.
    #[serde(rename = "crc-16/xmodem")]
    Crc16Xmodem,
}

impl Checksum {
    /// Its bytes over `bytes`. A reflected CRC of 16 bits goes low byte first, another one high byte
    /// first (*common practice*).
    #[must_use]
    pub fn over(self, bytes: &[u8]) -> Vec<u8> {
        match self {
            Self::None => vec![],
            Self::Sum8 => vec![bytes.iter().fold(0, |sum: u8, &byte| sum.wrapping_add(byte))],
            Self::Xor8 => vec![bytes.iter().fold(0, |sum, &byte| sum ^ byte)],
            Self::Crc8Smbus => vec![Crc::<u8>::new(&CRC_8_SMBUS).checksum(bytes)],
            Self::Crc8I432 => vec![Crc::<u8>::new(&CRC_8_I_432_1).checksum(bytes)],
            Self::Crc8Rohc => vec![Crc::<u8>::new(&CRC_8_ROHC).checksum(bytes)],
            Self::Crc16Arc => Crc::<u16>::new(&CRC_16_ARC).checksum(bytes).to_le_bytes().to_vec(),
            Self::Crc16Modbus => Crc::<u16>::new(&CRC_16_MODBUS).checksum(bytes).to_le_bytes().to_vec(),
            Self::Crc16Kermit => Crc::<u16>::new(&CRC_16_KERMIT).checksum(bytes).to_le_bytes().to_vec(),
            Self::Crc16Xmodem => Crc::<u16>::new(&CRC_16_XMODEM).checksum(bytes).to_be_bytes().to_vec(),
        }
    }
}

/// The verb of an HTTP request.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "UPPERCASE")]
#[allow(missing_docs, reason = "named as in RFC 9110")]
pub enum Verb {
    Get,
    Post,
    Put,
}

impl Verb {
    fn name(self) -> &'static str {
        match self {
            Self::Get => "GET",
            Self::Post => "POST",
            Self::Put => "PUT",
        }
    }
}

/// A command on the network or a serial line.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "kind")]
pub enum IpCommand {
    /// Bytes.
    Payload {
        /// How they travel.
        transport: Transport,
        /// How they are written.
        form: Form,
        /// The payload as it is written.
        text: String,
        /// What closes it.
        terminator: Terminator,
        /// What checks it.
        checksum: Checksum,
        /// What the device should answer with, written in the same form; none where it says nothing.
        #[serde(default)]
        expect: Option<String>,
    },
    /// An HTTP request.
    Http {
        /// Its verb.
        verb: Verb,
        /// The path, from `/` on.
        path: String,
        /// The body, if any.
        #[serde(default)]
        body: String,
    },
    /// Wakes a device over the network.
    WakeOnLan {
        /// The MAC address.
        mac: String,
    },
    /// A PJLink command of class 1, such as `POWR 1`.
    Pjlink {
        /// Four letters, a blank, the parameter.
        command: String,
    },
}

/// Why a command cannot be sent.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum IpError {
    /// Nothing there.
    #[error("The payload is empty. Type what the device wants to hear.")]
    Empty,
    /// Too long.
    #[error("The payload has {0} characters; at most {TEXT_MAX} fit.")]
    TooLong(usize),
    /// A backslash that nothing follows, or the wrong thing.
    #[error(r"“{0}” is no escape. Known are \r \n \t \0 \\ and \xHH with two hex digits.")]
    Escape(String),
    /// Not hex.
    #[error("“{0}” is no hex byte. Write pairs of 0–9 and A–F, such as 02 50 4F.")]
    Hex(String),
    /// A MAC address of another shape.
    #[error("“{0}” is no MAC address. It has six pairs of hex digits, such as 02:1a:00:00:00:05.")]
    Mac(String),
    /// A PJLink command of another shape.
    #[error(
        "“{0}” is no PJLink command. It has four letters, a blank and a parameter of up to 128 characters, such as POWR 1 or INPT ?."
    )]
    Pjlink(String),
    /// An HTTP path of another shape.
    #[error("“{0}” is no path. It starts with / and has no blanks.")]
    Path(String),
}

/// What stands for the address of a device that nobody has named.
const SOME_HOST: &str = "device";

impl IpCommand {
    /// The bytes that are sent.
    ///
    /// # Errors
    /// An [`IpError`] that says what is wrong with what was typed.
    pub fn bytes(&self) -> Result<Vec<u8>, IpError> {
        self.bytes_to(SOME_HOST)
    }

    /// The same to a device at this address: an HTTP request names it.
    ///
    /// # Errors
    /// As above.
    pub fn bytes_to(&self, host: &str) -> Result<Vec<u8>, IpError> {
        match self {
            Self::Payload { form, text, terminator, checksum, expect, .. } => {
                if let Some(expect) = expect {
                    written(*form, expect)?;
                }
                let mut bytes = written(*form, text)?;
                if bytes.is_empty() {
                    return Err(IpError::Empty);
                }
                bytes.extend(checksum.over(&bytes));
                bytes.extend(terminator.bytes());
                Ok(bytes)
            }
            Self::Http { verb, path, body } => {
                if !path.starts_with('/') || path.chars().any(|c| c.is_whitespace() || c.is_control()) {
                    return Err(IpError::Path(shortened(path)));
                }
                if path.len() + body.len() > TEXT_MAX {
                    return Err(IpError::TooLong(path.len() + body.len()));
                }
                // As the driver sends it; a request that only asks has no length where it has no body.
                let length = if body.is_empty() && *verb == Verb::Get {
                    String::new()
                } else {
                    format!("content-length: {}\r\n", body.len())
                };
                let head =
                    format!("{} {path} HTTP/1.1\r\nhost: {host}\r\ncontent-type: application/json\r\n", verb.name());
                Ok(format!("{head}{length}\r\n{body}").into_bytes())
            }
            Self::WakeOnLan { mac } => magic_packet(parse_mac(mac)?).map(|packet| packet.to_vec()),
            Self::Pjlink { command } => pjlink(command),
        }
    }

    /// The bytes that the device should answer with; none where it says nothing.
    #[must_use]
    pub fn expected(&self) -> Option<Vec<u8>> {
        match self {
            Self::Payload { form, expect: Some(expect), terminator, .. } => {
                let mut bytes = written(*form, expect).ok()?;
                bytes.extend(terminator.bytes());
                Some(bytes)
            }
            Self::Pjlink { command } if !command.ends_with('?') => {
                let name = command.get(..4)?;
                Some(format!("%1{name}=OK\r").into_bytes())
            }
            _ => None,
        }
    }
}

impl fmt::Display for IpCommand {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Payload { transport, text, .. } => {
                let transport = match transport {
                    Transport::Tcp => "TCP",
                    Transport::Udp => "UDP",
                    Transport::Serial => "serial",
                };
                write!(f, "{transport} “{}”", shortened(text))
            }
            Self::Http { verb, path, body } if body.is_empty() => {
                write!(f, "HTTP {} {}", verb.name(), shortened(path))
            }
            Self::Http { verb, path, body } => {
                write!(f, "HTTP {} {} {}", verb.name(), shortened(path), shortened(body))
            }
            Self::WakeOnLan { mac } => write!(f, "Wake-on-LAN {mac}"),
            Self::Pjlink { command } => write!(f, "PJLink %1{command}"),
        }
    }
}

fn shortened(text: &str) -> String {
    if text.chars().count() <= 32 { text.to_owned() } else { text.chars().take(31).chain(['…']).collect() }
}

fn written(form: Form, text: &str) -> Result<Vec<u8>, IpError> {
    if text.chars().count() > TEXT_MAX {
        return Err(IpError::TooLong(text.chars().count()));
    }
    match form {
        Form::Text => unescape(text),
        Form::Hex => {
            // Bytes may stand apart by blanks, commas, colons or hyphens, each with a prefix or none.
            let words = text.split(|c: char| c.is_whitespace() || matches!(c, ',' | ';' | ':' | '-'));
            let mut bytes = Vec::new();
            for word in words.filter(|word| !word.is_empty()) {
                let digits = word.strip_prefix("0x").or_else(|| word.strip_prefix("0X")).unwrap_or(word);
                bytes.extend(hex::decode(digits).map_err(|_| IpError::Hex(shortened(word)))?);
            }
            Ok(bytes)
        }
    }
}

fn unescape(text: &str) -> Result<Vec<u8>, IpError> {
    let mut bytes = Vec::with_capacity(text.len());
    let mut rest = text.chars();
    while let Some(character) = rest.next() {
        if character != '\\' {
            bytes.extend(character.to_string().bytes());
            continue;
        }
        match rest.next() {
            Some('r') => bytes.push(b'\r'),
            Some('n') => bytes.push(b'\n'),
            Some('t') => bytes.push(b'\t'),
            Some('0') => bytes.push(0),
            Some('\\') => bytes.push(b'\\'),
            Some('x') => {
                let digits: String = rest.by_ref().take(2).collect();
                // Two hex digits and nothing else: a sign is no digit.
                let byte = hex::decode(&digits).ok().and_then(|bytes| bytes.first().copied());
                bytes.push(byte.ok_or_else(|| IpError::Escape(format!("\\x{digits}")))?);
            }
            other => return Err(IpError::Escape(format!("\\{}", other.map_or_else(String::new, String::from)))),
        }
    }
    Ok(bytes)
}

/// Six bytes from a MAC address: six pairs of hex digits with colons or hyphens between them, three groups of four with points, or
/// twelve digits.
///
/// # Errors
/// [`IpError::Mac`] where it has another shape.
pub fn parse_mac(text: &str) -> Result<[u8; 6], IpError> {
    let plain = text.trim();
    let groups = |mark: char, many: usize, digits: usize| {
        let groups: Vec<&str> = plain.split(mark).collect();
        groups.len() == many && groups.iter().all(|group| group.len() == digits)
    };
    if !(groups(':', 6, 2) || groups('-', 6, 2) || groups('.', 3, 4) || groups(':', 1, 12)) {
        return Err(IpError::Mac(shortened(text)));
    }
    let digits: String = plain.chars().filter(|c| !matches!(c, ':' | '-' | '.')).collect();
    let mut mac = [0; 6];
    hex::decode_to_slice(&digits, &mut mac).map_err(|_| IpError::Mac(shortened(text)))?;
    Ok(mac)
}

fn magic_packet(mac: [u8; 6]) -> Result<[u8; 102], IpError> {
    let mut packet = [0xff; 102];
    for copy in packet[6..].chunks_exact_mut(6) {
        copy.copy_from_slice(&mac);
    }
    Ok(packet)
}

fn pjlink(command: &str) -> Result<Vec<u8>, IpError> {
    let wrong = || IpError::Pjlink(shortened(command));
    let (name, parameter) = command.split_once(' ').ok_or_else(wrong)?;
    let named = name.len() == 4 && name.bytes().all(|b| b.is_ascii_uppercase() || b.is_ascii_digit());
    let plain = (1..=128).contains(&parameter.len()) && parameter.bytes().all(|b| (0x20..0x7f).contains(&b));
    if !named || !plain {
        return Err(wrong());
    }
    Ok(format!("%1{command}\r").into_bytes())
}

/// What stands before the first PJLink command when the greeting asks for authentication: the MD5 of
/// the greeting's eight digits and the password, in hex.
#[must_use]
pub fn pjlink_digest(digits: &str, password: &str) -> String {
    hex::encode(Md5::digest(format!("{digits}{password}")))
}

/// PJLink class 1 as a ready-made set: the name of a function and its command. Input 31 is the first
/// digital one.
pub const PJLINK_SET: [(&str, &str); 13] = [
    ("Power on", "POWR 1"),
    ("Power off", "POWR 0"),
    ("Power state", "POWR ?"),
    ("Digital 1", "INPT 31"),
    ("Digital 2", "INPT 32"),
    ("Digital 3", "INPT 33"),
    ("Input state", "INPT ?"),
    ("Picture mute on", "AVMT 31"),
    ("Picture mute off", "AVMT 30"),
    ("Mute state", "AVMT ?"),
    ("Error state", "ERST ?"),
    ("Lamp hours", "LAMP ?"),
    ("Input list", "INST ?"),
];

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn payload(form: Form, text: &str, terminator: Terminator, checksum: Checksum) -> IpCommand {
        let transport = Transport::Tcp;
        IpCommand::Payload { transport, form, text: text.to_owned(), terminator, checksum, expect: None }
    }

    /// The check values of the CRC catalogue over “123456789”.
    #[rstest]
    #[case(Checksum::Crc8Smbus, &[0xf4])]
    #[case(Checksum::Crc8I432, &[0xa1])]
    #[case(Checksum::Crc8Rohc, &[0xd0])]
    #[case(Checksum::Crc16Arc, &[0x3d, 0xbb])]
    #[case(Checksum::Crc16Modbus, &[0x37, 0x4b])]
    #[case(Checksum::Crc16Kermit, &[0x89, 0x21])]
    #[case(Checksum::Crc16Xmodem, &[0x31, 0xc3])]
    #[case::sum(Checksum::Sum8, &[0xdd])]
    #[case::xor(Checksum::Xor8, &[0x31])]
    fn catalogue_check_values(#[case] checksum: Checksum, #[case] expected: &[u8]) {
        assert_eq!(checksum.over(b"123456789"), expected);
    }

    #[rstest]
    #[case(Form::Text, "PWR ON", Terminator::Cr, Checksum::None, b"PWR ON\r")]
    #[case(Form::Text, r"\x02A\x03", Terminator::None, Checksum::Xor8, b"\x02A\x03\x40")]
    #[case(Form::Text, r"a\\b\0\t", Terminator::CrLf, Checksum::None, b"a\\b\0\t\r\n")]
    #[case(Form::Hex, "02 41 03", Terminator::Lf, Checksum::Sum8, b"\x02A\x03\x46\n")]
    #[case(Form::Text, "é", Terminator::None, Checksum::None, "é".as_bytes())]
    fn payloads_become_bytes(
        #[case] form: Form,
        #[case] text: &str,
        #[case] terminator: Terminator,
        #[case] checksum: Checksum,
        #[case] expected: &[u8],
    ) {
        assert_eq!(payload(form, text, terminator, checksum).bytes().unwrap(), expected);
    }

    #[rstest]
    #[case(Form::Text, "", "is empty")]
    #[case(Form::Text, r"a\q", r"“\q” is no escape")]
    #[case(Form::Text, r"\x4", r"“\x4” is no escape")]
    #[case(Form::Text, "a\\", "is no escape")]
    #[case(Form::Hex, "02 4", "is no hex byte")]
    #[case(Form::Hex, "PWR", "is no hex byte")]
    fn what_cannot_be_sent_says_why(#[case] form: Form, #[case] text: &str, #[case] expected: &str) {
        let error = payload(form, text, Terminator::None, Checksum::None).bytes().unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }

    #[rstest]
    #[case::bare("02504F", b"\x02PO")]
    #[case::blanks("02 50 4f", b"\x02PO")]
    #[case::colons("02:50:4F", b"\x02PO")]
    #[case::prefixes("0x02, 0x50, 0X4F", b"\x02PO")]
    #[case::one_prefix("0x02504F", b"\x02PO")]
    fn hex_is_read_as_it_is_written_elsewhere(#[case] text: &str, #[case] bytes: &[u8]) {
        assert_eq!(payload(Form::Hex, text, Terminator::None, Checksum::None).bytes().unwrap(), bytes);
    }

    #[rstest]
    #[case::a_sign_is_no_digit(Form::Text, r"\x+1", r"\x+1")]
    #[case::a_blank_is_no_digit(Form::Text, r"\x 1", r"\x 1")]
    #[case::half_a_byte(Form::Hex, "02 5 4F", "“5” is no hex byte")]
    #[case::two_prefixes(Form::Hex, "0x0x02", "is no hex byte")]
    fn escapes_and_hex_are_strict(#[case] form: Form, #[case] text: &str, #[case] expected: &str) {
        let error = payload(form, text, Terminator::None, Checksum::None).bytes().unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }

    /// The magic packet white paper: a synchronisation stream of 6 bytes FF, then 16 copies.
    #[rstest]
    #[case("02:1a:00:00:00:05")]
    #[case("02-1A-00-00-00-05")]
    #[case("021a.0000.0005")]
    fn a_magic_packet_is_ff_and_sixteen_copies(#[case] mac: &str) {
        let packet = IpCommand::WakeOnLan { mac: mac.to_owned() }.bytes().unwrap();
        assert_eq!(packet.len(), 102);
        assert_eq!(packet[..6], [0xff; 6]);
        assert!(packet[6..].chunks(6).all(|copy| copy == [0x02, 0x1a, 0, 0, 0, 5]));
    }

    #[rstest]
    #[case("02:1a:00:00:00")]
    #[case("02:1a:00:00:00:zz")]
    #[case::too_few_digits_in_one("2:1a:00:00:00:050")]
    #[case::mixed("02:1a-00:00-00:05")]
    #[case::points_in_pairs("02.1a.00.00.00.05")]
    #[case::a_sign("+2:1a:00:00:00:05")]
    #[case("")]
    fn a_malformed_mac_is_refused(#[case] mac: &str) {
        assert!(matches!(parse_mac(mac), Err(IpError::Mac(_))));
    }

    /// The example of the PJLink specification (JBMIA).
    #[test]
    fn the_published_pjlink_digest() {
        assert_eq!(pjlink_digest("498e4a67", "JBMIAProjectorLink"), "5d8409bc1c3fa39749434aa3a5c38682");
    }

    #[test]
    fn every_command_of_the_pjlink_set_is_well_formed() {
        for (name, command) in PJLINK_SET {
            let bytes = IpCommand::Pjlink { command: command.to_owned() }.bytes().unwrap();
            assert!(bytes.starts_with(b"%1") && bytes.ends_with(b"\r"), "{name}");
        }
        let answer = IpCommand::Pjlink { command: "POWR 1".to_owned() }.expected().unwrap();
        assert_eq!(answer, b"%1POWR=OK\r");
    }

    #[rstest]
    #[case("POWR1")]
    #[case("POW 1")]
    #[case("powr 1")]
    #[case("POWR 1\rPOWR 0")]
    fn a_malformed_pjlink_command_is_refused(#[case] command: &str) {
        assert!(IpCommand::Pjlink { command: command.to_owned() }.bytes().is_err());
    }

    #[test]
    fn an_http_request_states_its_length() {
        let command = IpCommand::Http { verb: Verb::Post, path: "/input".to_owned(), body: "disc".to_owned() };
        let text = String::from_utf8(command.bytes().unwrap()).unwrap();
        assert!(text.starts_with("POST /input HTTP/1.1\r\n") && text.ends_with("content-length: 4\r\n\r\ndisc"));
        let text = String::from_utf8(command.bytes_to("192.0.2.7:80").unwrap()).unwrap();
        assert!(text.contains("\r\nhost: 192.0.2.7:80\r\n"), "{text}");
        let wrong = IpCommand::Http { verb: Verb::Get, path: "in put".to_owned(), body: String::new() };
        assert!(wrong.bytes().is_err());
    }
}
