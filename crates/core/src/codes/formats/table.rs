//! A code set as CSV, one code a row, every kind of code: the columns are `device`, `function`, `presses`,
//! `hold_ms`, `as` and `code`. `as` is `message`, `radio`, `raw`, `opaque` or `command`; `code` is what
//! belongs to it in one cell: a message in words (`nec address=4 command=8`), signed text, hex, or JSON.

use crate::codes::formats::{Found, Import, Unread};
use crate::model::{CodeBody, Medium, Press};
use crate::sheet;
use kestrel_signal::exchange::ExchangeError;
use kestrel_signal::payload::Payload;
use kestrel_signal::radio::{RadioCode, Trit, USUAL_UNIT_US};
use kestrel_signal::{Message, ProtocolId, text};

const HEADING: [&str; 6] = ["device", "function", "presses", "hold_ms", "as", "code"];

/// Is it a code set?
#[must_use]
pub fn looks_like(text: &str) -> bool {
    let heading = text.lines().find(|line| !line.trim().is_empty()).unwrap_or("").to_lowercase();
    ["function", "code"]
        .iter()
        .all(|name| heading.split([',', ';', '\t']).any(|column| column.trim().trim_matches('"') == *name))
}

/// Reads a code set; a row that cannot be read is listed with its line, the rest is kept.
///
/// # Errors
/// Where the heading lacks a column.
pub fn read(text: &str) -> Result<Import, ExchangeError> {
    // The reader counts a row behind a carriage return to the line before.
    let text = &text.replace("\r\n", "\n");
    let heading = text.lines().find(|line| !line.trim().is_empty()).unwrap_or("");
    let separator = [b';', b'\t'].into_iter().find(|&mark| heading.as_bytes().contains(&mark)).unwrap_or(b',');
    let mut reader =
        csv::ReaderBuilder::new().delimiter(separator).flexible(true).trim(csv::Trim::All).from_reader(text.as_bytes());
    let shape = |error: csv::Error| ExchangeError::Shape(format!("The CSV cannot be read: {error}."));
    let names: Vec<String> = reader.headers().map_err(shape)?.iter().map(str::to_lowercase).collect();
    let at = |name: &str| names.iter().position(|known| known == name);
    let (Some(function), Some(code)) = (at("function"), at("code")) else {
        return Err(ExchangeError::Shape(format!("The heading needs the columns {}.", HEADING.join(", "))));
    };
    let (device, kind) = (at("device"), at("as"));
    let (presses, hold) = (at("presses"), at("hold_ms"));
    let mut import = Import::default();
    for row in reader.records() {
        let row = match row {
            Ok(row) => row,
            Err(error) => {
                let line = error.position().map_or(0, |position| usize::try_from(position.line()).unwrap_or(0));
                import
                    .unread
                    .push(Unread { line, why: "The row is damaged: a quotation mark is missing, perhaps.".to_owned() });
                continue;
            }
        };
        let line = row.position().map_or(0, |position| usize::try_from(position.line()).unwrap_or(0));
        let cell = |column: Option<usize>| column.and_then(|column| row.get(column)).map_or("", sheet::plain);
        let number = |column: Option<usize>, default: u32| {
            if cell(column).is_empty() { Ok(default) } else { cell(column).parse::<u32>() }
        };
        let read = (|| {
            if cell(Some(function)).is_empty() {
                return Err("The row names no function.".to_owned());
            }
            let presses = number(presses, 1).ok().and_then(|n| u8::try_from(n).ok()).filter(|n| (1..=9).contains(n));
            let presses = presses.ok_or("presses is a number from 1 to 9.")?;
            let hold_ms = number(hold, 0).map_err(|_| "hold_ms is a whole number of ms.".to_owned())?;
            let press = Press { presses, hold_ms, ..Press::default() };
            Ok(Found {
                name: cell(Some(function)).to_owned(),
                device: Some(cell(device).to_owned()).filter(|name| !name.is_empty()),
                press,
                body: body(cell(kind), cell(Some(code)))?,
                line,
            })
        })();
        match read {
            Ok(found) => import.found.push(found),
            Err(why) => import.unread.push(Unread { line, why }),
        }
    }
    Ok(import)
}

fn body(kind: &str, code: &str) -> Result<CodeBody, String> {
    match kind {
        "" | "message" => decoded(code),
        "radio" => radio(code),
        "raw" => {
            let (medium, code) = match code.strip_prefix("radio ") {
                Some(rest) => (Medium::Rf433, rest),
                None => (Medium::Ir, code),
            };
            let parsed = text::parse(code.as_bytes()).map_err(|error| error.to_string())?;
            Ok(CodeBody::Raw { capture: parsed.capture, medium })
        }
        "opaque" => {
            let (medium, code) = match code.strip_prefix("radio ") {
                Some(rest) => (Medium::Rf433, rest),
                None => (Medium::Ir, code),
            };
            let payload = Payload::parse(code).map_err(|error| error.to_string())?;
            Ok(CodeBody::Opaque { payload, medium, send_ms: None, presses: 1 })
        }
        "command" => {
            let command: kestrel_signal::ip::IpCommand =
                serde_json::from_str(code).map_err(|error| format!("“code” is no command: {error}."))?;
            command.bytes().map_err(|error| error.to_string())?;
            Ok(CodeBody::Ip { command })
        }
        other => Err(format!("“{other}” is not known: as is message, radio, raw, opaque or command.")),
    }
}

/// How a held key repeats, where it sends its whole frame again.
const WHOLE: &str = "repeats=whole";

/// A message, and behind it what of its capture is not the protocol's own: `carrier=40000`, `repeats=whole`.
fn decoded(code: &str) -> Result<CodeBody, String> {
    let (mut carrier_hz, mut whole_repeats, mut words) = (None, false, Vec::new());
    for word in code.split_whitespace() {
        if let Some(hz) = word.strip_prefix("carrier=") {
            let usual = |hz: &u32| (10_000..=600_000).contains(hz);
            let hz = hz.parse().ok().filter(usual);
            carrier_hz = Some(hz.ok_or_else(|| format!("“{word}” is no carrier: it is 10000 to 600000 Hz."))?);
        } else if word == WHOLE {
            whole_repeats = true;
        } else {
            words.push(word);
        }
    }
    Ok(CodeBody::Decoded { message: message(&words.join(" "))?, carrier_hz, whole_repeats })
}

/// What `decoded` reads.
fn as_decoded(message: &Message, carrier_hz: Option<u32>, whole_repeats: bool) -> String {
    let carrier = carrier_hz.map(|hz| format!(" carrier={hz}")).unwrap_or_default();
    let repeats = if whole_repeats { format!(" {WHOLE}") } else { String::new() };
    format!("{}{carrier}{repeats}", message.written())
}

/// `nec address=4 command=8` as a message.
pub(crate) fn message(words: &str) -> Result<Message, String> {
    let mut words = words.split_whitespace();
    let protocol: ProtocolId = words
        .next()
        .ok_or("The cell “code” is empty.")?
        .parse()
        .map_err(|error: kestrel_signal::FieldError| error.to_string())?;
    let fields: Vec<(&str, u32)> = words
        .map(|word| {
            let (name, value) = word.split_once('=').ok_or_else(|| format!("“{word}” is not name=value."))?;
            let number = match value.strip_prefix("0x") {
                Some(hex) => u32::from_str_radix(hex, 16),
                None => value.parse(),
            };
            Ok((name, number.map_err(|_| format!("“{word}” is not name=value."))?))
        })
        .collect::<Result<_, String>>()?;
    Message::new(protocol, fields).map_err(|error| error.to_string())
}

fn radio(words: &str) -> Result<CodeBody, String> {
    let mut words = words.split_whitespace();
    let (kind, rest): (Option<&str>, Vec<&str>) = (words.next(), words.collect());
    let value = |name: &str| rest.iter().find_map(|word| word.strip_prefix(name)?.strip_prefix('='));
    let unit_us = match value("unit") {
        None => USUAL_UNIT_US,
        Some(unit) => unit.parse().map_err(|_| format!("“unit={unit}” is no number of µs."))?,
    };
    let number = |name: &str| {
        value(name).and_then(|text| text.parse::<u32>().ok()).ok_or_else(|| format!("{name}=… is missing."))
    };
    let code = match kind {
        Some("ook-24") => RadioCode::ook24(number("identity")?, number("key")?).map_err(|error| error.to_string())?,
        Some("ook-tristate-12") => {
            let letters = rest.first().copied().unwrap_or("");
            let mut trits = [Trit::Zero; 12];
            if letters.chars().count() != 12 {
                return Err("ook-tristate-12 has twelve of 0, 1 and F.".to_owned());
            }
            for (trit, letter) in trits.iter_mut().zip(letters.chars()) {
                *trit = match letter {
                    '0' => Trit::Zero,
                    '1' => Trit::One,
                    'F' | 'f' => Trit::Float,
                    other => return Err(format!("“{other}” is no trit: 0, 1 or F.")),
                };
            }
            RadioCode::Tristate12 { trits }
        }
        _ => return Err("A radio code starts with ook-24 or ook-tristate-12.".to_owned()),
    };
    Ok(CodeBody::Radio { code, unit_us })
}

/// A code as it is written: the device, the function, how its key is pressed, and what is sent.
pub type Row<'a> = (&'a str, &'a str, Press, &'a CodeBody);

/// A code set as CSV.
///
/// # Errors
/// Where a row cannot be written (never in practice: it is made in memory).
pub fn write(rows: &[Row<'_>]) -> Result<String, csv::Error> {
    let row = |(device, function, press, body): &Row<'_>| {
        let radio = |medium: &Medium| if *medium == Medium::Rf433 { "radio " } else { "" };
        let (kind, code) = match body {
            CodeBody::Decoded { message, carrier_hz, whole_repeats } => {
                ("message", as_decoded(message, *carrier_hz, *whole_repeats))
            }
            CodeBody::Radio { code, unit_us } => ("radio", format!("{code} unit={unit_us}")),
            CodeBody::Raw { capture, medium } => {
                ("raw", format!("{}{}", radio(medium), text::to_signed(capture.durations_us()).trim()))
            }
            CodeBody::Opaque { payload, medium, .. } => ("opaque", format!("{}{}", radio(medium), payload.hex())),
            CodeBody::Ip { command } => ("command", serde_json::to_string(command).unwrap_or_default()),
        };
        let (presses, hold) = (press.presses.to_string(), press.hold_ms.to_string());
        vec![(*device).to_owned(), (*function).to_owned(), presses, hold, kind.to_owned(), code]
    };
    sheet::written(std::iter::once(HEADING.map(str::to_owned).to_vec()).chain(rows.iter().map(row)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library;
    use rstest::rstest;

    /// What was captured besides the message is kept on the way out and back.
    #[test]
    fn the_carrier_and_the_way_in_which_a_key_repeats_are_kept() {
        let message = message("nec address=4 command=8").unwrap();
        let body = CodeBody::Decoded { message, carrier_hz: Some(40_000), whole_repeats: true };
        let text = write(&[("Amp", "Disc", Press::default(), &body)]).unwrap();
        assert!(text.contains("nec address=4 command=8 carrier=40000 repeats=whole"), "{text}");
        assert_eq!(read(&text).unwrap().found[0].body, body);
        let wrong = text.replace("40000", "4000000");
        assert!(read(&wrong).unwrap().unread[0].why.contains("is no carrier"), "{wrong}");
    }

    #[test]
    fn every_code_of_the_library_is_read_back_the_same() {
        let sets = library::code_sets();
        let rows: Vec<Row<'_>> = sets
            .iter()
            .flat_map(|set| set.keys.iter().map(|key| (set.name.as_str(), key.name.as_str(), key.press, &key.body)))
            .collect();
        let text = write(&rows).unwrap();
        assert!(looks_like(&text));
        let import = read(&text).unwrap();
        assert!(import.unread.is_empty(), "{:?}", import.unread);
        assert_eq!(import.found.len(), rows.len());
        for (found, (device, function, press, body)) in import.found.iter().zip(&rows) {
            assert_eq!((found.device.as_deref(), found.name.as_str()), (Some(*device), *function));
            assert_eq!((&found.press, &found.body), (press, *body));
        }
    }

    #[test]
    fn a_name_that_begins_a_formula_is_written_harmless_and_read_back_the_same() {
        let body = CodeBody::Raw { capture: text::parse(b"+9000 -4500 +560").unwrap().capture, medium: Medium::Ir };
        let text = write(&[("=Player", "-", Press::default(), &body)]).unwrap();
        assert!(text.contains("'=Player,'-,1,0,raw,'+9000 -4500 +560"), "{text}");
        let found = read(&text).unwrap().found.remove(0);
        assert_eq!((found.device.as_deref(), found.name.as_str(), found.body), (Some("=Player"), "-", body));
    }

    #[rstest]
    #[case("opaque", "radio 26 00", "opaque payload, 2 bytes")]
    #[case("raw", "+9000 -4500 +560", "raw timing, 3 durations")]
    #[case("", "rc5 address=1 command=0x0c", "rc5 address=1 command=12 toggle=0")]
    fn other_kinds_are_read(#[case] kind: &str, #[case] code: &str, #[case] said: &str) {
        assert_eq!(body(kind, code).unwrap().to_string(), said);
    }

    #[rstest]
    #[case("message", "", "is empty")]
    #[case("message", "nec address=4", "needs the field “command”")]
    #[case("message", "nec address=4 command=900", "it goes from 0 to 255")]
    #[case("radio", "ook-24 identity=5", "key=… is missing")]
    #[case("radio", "ook-tristate-12 00F", "twelve of 0, 1 and F")]
    #[case("command", "{}", "is no command")]
    #[case("magic", "x", "“magic” is not known")]
    fn a_row_that_cannot_be_read_says_why(#[case] kind: &str, #[case] code: &str, #[case] expected: &str) {
        let text = format!(
            "device,function,as,code\nTV,Power,{kind},\"{}\"\nTV,Mute,,nec address=4 command=8\n",
            code.replace('"', "\"\"")
        );
        let import = read(&text).unwrap();
        assert_eq!((import.found.len(), import.unread.len(), import.unread[0].line), (1, 1, 2));
        assert!(import.unread[0].why.contains(expected), "{}", import.unread[0].why);
    }
}
