//! Several captures in one text: each stands under its name in a comment, `# Device · Function`.

use crate::codes::formats::{Found, Import, Unread};
use crate::model::{CodeBody, Medium, Press};
use kestrel_signal::exchange::ExchangeError;
use kestrel_signal::{radio, read as read_capture, text};

/// Between the name of a device and that of a function.
const DOT: char = '·';

/// Does it hold several named captures?
#[must_use]
pub fn looks_like(text: &str) -> bool {
    text.lines().filter(|line| is_name(line)).count() > 1
}

fn is_name(line: &str) -> bool {
    line.strip_prefix("# ").is_some_and(|name| name.contains(DOT))
}

/// Reads captures with their names. One that cannot be read is listed with its line.
///
/// # Errors
/// Where no name is found.
pub fn read(text: &str) -> Result<Import, ExchangeError> {
    let mut import = Import::default();
    let mut block: Option<(usize, &str, String)> = None;
    let mut close = |block: Option<(usize, &str, String)>| {
        let Some((line, name, body)) = block else { return };
        match text::parse(body.as_bytes()) {
            Ok(parsed) => {
                let (device, function) = name.split_once(DOT).unwrap_or(("", name));
                let body = match (read_capture(&parsed.capture).best, radio::read(&parsed.capture)) {
                    (Some(best), _) => CodeBody::heard(best.message, parsed.capture.carrier_hz(), best.whole_repeats),
                    (None, Ok(heard)) => {
                        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "150 to 700")]
                        let unit_us = heard.unit_us.round() as u32;
                        CodeBody::Radio { code: heard.candidates[0], unit_us }
                    }
                    (None, Err(_)) => CodeBody::Raw { capture: parsed.capture, medium: Medium::Ir },
                };
                import.found.push(Found {
                    name: function.trim().to_owned(),
                    device: Some(device.trim().to_owned()).filter(|device| !device.is_empty()),
                    press: Press::default(),
                    body,
                    line,
                });
            }
            Err(error) => import.unread.push(Unread { line, why: error.to_string() }),
        }
    };
    for (index, line) in text.lines().enumerate() {
        if is_name(line) {
            close(block.take());
            block = Some((index + 1, line.trim_start_matches("# ").trim(), String::new()));
        } else if let Some((.., body)) = &mut block {
            body.push_str(line);
            body.push('\n');
        }
    }
    close(block);
    if import.found.is_empty() && import.unread.is_empty() {
        return Err(ExchangeError::Shape("No capture stands under a name such as “# Receiver · Disc”.".to_owned()));
    }
    Ok(import)
}

#[cfg(test)]
mod tests {
    use super::*;
    use kestrel_signal::{Capture, Message, ProtocolId};

    #[test]
    fn named_captures_are_read_one_by_one() {
        let one = Message::new(ProtocolId::Nec, [("address", 4), ("command", 8)]).unwrap().encode(1);
        let capture = Capture::new(one.clone(), None).unwrap();
        let text = format!(
            "# Receiver · Disc\n{}\n# Receiver · Bad\npulse long\n# Receiver · Stream\n{}\n",
            text::to_pulse_space(&capture),
            text::to_signed(&one)
        );
        assert!(looks_like(&text));
        let import = read(&text).unwrap();
        assert_eq!(import.found.len(), 2);
        assert_eq!((import.found[0].device.as_deref(), import.found[0].name.as_str()), (Some("Receiver"), "Disc"));
        assert_eq!(import.unread.len(), 1);
        assert!(import.unread[0].why.contains("“long” is not a duration"));
    }

    #[test]
    fn a_plain_capture_has_no_names() {
        assert!(!looks_like("# learned yesterday\npulse 9000\nspace 4500"));
        assert!(read("pulse 9000").is_err());
    }
}
