//! One long recording of a whole handset, every key pressed in turn: split, read, grouped and named.
//!
//! Names stand before it in the order of the keys, on lines `# Keys: Power, Up, Down`; keys beyond them are *Key 7* and so on,
//! to be named by ear afterwards: the preview tells when each was first pressed.

use crate::codes::formats::{Found, Import, Unread};
use crate::model::{CodeBody, Medium, NAME_MAX, Press};
use kestrel_signal::Protocols;
use kestrel_signal::exchange;
use kestrel_signal::long::{KeyHeard, Said, handset, presses};

/// What a line with names begins with, in any case.
const NAMES: &str = "# keys:";

/// The names that stand before a recording, in their order.
fn names(text: &str) -> Vec<String> {
    let of_line = |line: &str| {
        let own = line.get(..NAMES.len()).filter(|start| start.eq_ignore_ascii_case(NAMES))?;
        Some(line[own.len()..].split([',', ';']).map(|name| name.trim().chars().take(NAME_MAX).collect()).collect())
    };
    let lists: Vec<Vec<String>> = text.lines().filter_map(|line| of_line(line.trim_start())).collect();
    lists.into_iter().flatten().filter(|name: &String| !name.is_empty()).collect()
}

/// Reads a recording of several keys; none where the text is no recording of several presses. What cannot be read is listed key
/// by key.
#[must_use]
pub fn read(text: &str, known: &Protocols) -> Option<Import> {
    let parsed = exchange::capture(text.as_bytes(), None).ok()?;
    if presses(&parsed.capture).len() < 2 {
        return None;
    }
    let names = names(text);
    let keys = handset(&parsed.capture, known);
    let mut import = Import { remarks: parsed.remarks, ..Import::default() };
    let count = keys.len();
    for (at, key) in keys.into_iter().enumerate() {
        let name = names.get(at).cloned().unwrap_or_else(|| format!("Key {}", at + 1));
        let heard = told(&key);
        match body(&key) {
            Some(body) => {
                if key.confidence < kestrel_signal::reading::DOUBTFUL {
                    import.remarks.push(format!("{name}, {heard}: doubtful. {}", key.remarks.join(" ")));
                }
                import.found.push(Found { name, device: None, press: Press::default(), body, line: at + 1 });
            }
            None => {
                import.unread.push(Unread { line: at + 1, why: format!("{name}, {heard}: {}", key.remarks.join(" ")) })
            }
        }
    }
    match (names.len(), count) {
        (0, _) => import.remarks.push(format!(
            "{count} keys were heard. Begin the text with a line “# Keys: Power, Up, Down, …” to name them in this order."
        )),
        (given, heard) if given != heard => import.remarks.push(format!(
            "{given} names for {heard} keys: {}. A key that was pressed too briefly, or twice in different ways, shifts those after it: check by ear.",
            if given < heard { "the last ones are numbered" } else { "the last names are left over" }
        )),
        _ => {}
    }
    Some(import)
}

/// When and how often a key was pressed.
fn told(key: &KeyHeard) -> String {
    let seconds = key.at_us / 1_000_000;
    let times = if key.presses == 1 { "once".to_owned() } else { format!("{} times", key.presses) };
    format!("first at {}:{:02}, pressed {times}", seconds / 60, seconds % 60)
}

fn body(key: &KeyHeard) -> Option<CodeBody> {
    Some(match &key.says {
        Said::Message(message) => CodeBody::heard(*message, key.capture.carrier_hz(), key.whole_repeats),
        Said::Radio(code, unit_us) => {
            #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "150 to 700")]
            let unit_us = unit_us.round() as u32;
            CodeBody::Radio { code: *code, unit_us }
        }
        // A few sparks are no key; a whole frame of an unknown protocol is kept as timing.
        Said::Nothing if key.capture.durations_us().len() < 16 => return None,
        Said::Nothing => CodeBody::Raw { capture: key.capture.clone(), medium: Medium::Ir },
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use kestrel_signal::{Message, ProtocolId, text};

    fn heard(text: &str) -> Option<Import> {
        read(text, Protocols::built_in())
    }

    fn recording(commands: &[u32]) -> String {
        let mut durations = Vec::new();
        for &command in commands {
            durations.extend(Message::new(ProtocolId::Nec, [("address", 4), ("command", command)]).unwrap().encode(2));
            if let Some(last) = durations.last_mut() {
                *last += 600_000;
            }
        }
        text::to_signed(&durations)
    }

    #[test]
    fn keys_get_the_names_of_the_list_in_their_order() {
        let text = format!("# Keys: Power, Volume up\n# keys: Mute\n{}", recording(&[8, 9, 8, 10, 11]));
        let import = heard(&text).unwrap();
        let found: Vec<(&str, String)> =
            import.found.iter().map(|found| (found.name.as_str(), found.body.to_string())).collect();
        let said = ["Power", "Volume up", "Mute", "Key 4"].into_iter().zip(8..12);
        assert_eq!(
            found,
            said.map(|(name, command)| (name, format!("nec address=4 command={command}"))).collect::<Vec<_>>()
        );
        assert!(
            import.remarks[0].starts_with("3 names for 4 keys: the last ones are numbered"),
            "{:?}",
            import.remarks
        );
    }

    #[test]
    fn without_a_list_they_are_numbered_and_that_is_said() {
        let import = heard(&recording(&[8, 9])).unwrap();
        assert_eq!(import.found[1].name, "Key 2");
        assert!(import.remarks[0].starts_with("2 keys were heard."), "{:?}", import.remarks);
    }

    #[test]
    fn one_press_is_no_recording_of_a_handset() {
        assert!(heard(&recording(&[8])).is_none());
        assert!(heard("hello").is_none());
    }

    #[test]
    fn what_is_not_understood_is_kept_as_timing_or_listed() {
        let strange = "+300 -437 +574 -711 +848 -985 +1122 -300 +437 -574 +711 -848 +985 -1122 +300 -437 +574 -700000";
        let sparks = "+300 -437 +574 -711 +848 -985 +1122 -300 +437 -700000";
        let import = heard(&format!("{} {strange} {sparks} +9000", recording(&[8]))).unwrap();
        assert!(matches!(import.found[1].body, CodeBody::Raw { .. }));
        assert!(
            import.unread[0].why.contains("first at 0:0") && import.unread[0].why.contains("Not recognised"),
            "{:?}",
            import.unread
        );
    }
}
