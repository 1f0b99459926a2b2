//! Codes that stand in each other's way: the same code on two devices that hear it, or twice on one, and
//! codes that differ so little that they were likely learned from neighbouring keys.

use crate::finding::Finding;
use crate::id::{CodeId, DeviceId, FunctionId, RoomId};
use crate::model::{Code, CodeBody, FindingKind, Site};
use crate::space::hears::may_hear;
use kestrel_signal::layout::Part;
use kestrel_signal::protocol::Turn;
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// A code that resembles another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Twin {
    /// The code.
    pub code: CodeId,
    /// Its device.
    pub device: DeviceId,
    /// Its function.
    pub function: FunctionId,
    /// What is sent, in words.
    pub summary: String,
    /// In how many bits of a frame they differ, check bits apart; 0 is the same code.
    pub bits: u32,
    /// May the receivers of both hear it (the same room and in reach, or radio)?
    pub both_hear: bool,
}

/// The payload bits of a message, complements and checks apart, and what must agree beside them.
fn payload(body: &CodeBody) -> Option<(String, u64)> {
    match body {
        CodeBody::Decoded { message, .. } => {
            let message = message.with_toggle(false);
            let bits = message.layout(Turn::First).parts().fold(0u64, |bits, part| match part {
                Part::Bit { index, value: true, label }
                    if !label.starts_with('~') && !matches!(label, "parity" | "checksum") =>
                {
                    bits | 1 << index
                }
                _ => bits,
            });
            Some((message.protocol_id().to_string(), bits))
        }
        CodeBody::Radio { code, .. } => Some(("radio".to_owned(), u64::from(code.pulses()))),
        _ => None,
    }
}

/// Codes of the house that differ from `body` in at most `most` bits, the nearest first.
#[must_use]
pub fn near(site: &Site, device: DeviceId, own: Option<CodeId>, body: &CodeBody, most: u32) -> Vec<Twin> {
    let Some((family, bits)) = payload(body) else { return vec![] };
    let mut twins: Vec<Twin> = site
        .codes
        .iter()
        .filter(|code| Some(code.id) != own)
        .filter_map(|code| {
            let (other, theirs) = payload(&code.body)?;
            let apart = (bits ^ theirs).count_ones();
            (other == family && apart <= most).then(|| Twin {
                code: code.id,
                device: code.device,
                function: code.function,
                summary: code.body.to_string(),
                bits: apart,
                both_hear: may_hear(site, device, code.device, body.medium()),
            })
        })
        .collect();
    twins.sort_by_key(|twin| (twin.bits, twin.device != device, twin.code));
    twins
}

/// What codes of a room stand in each other's way.
#[must_use]
pub fn check(site: &Site, room: RoomId) -> Vec<Finding> {
    let mut said: BTreeMap<String, Vec<&Code>> = BTreeMap::new();
    for code in &site.codes {
        if let Some(words) = code.body.key_words().filter(|_| code.body.medium().shared()) {
            said.entry(words).or_default().push(code);
        }
    }
    let inside = |device: DeviceId| site.device(device).is_some_and(|device| device.serves(room));
    let mut findings = Vec::new();
    for (words, codes) in said.iter().filter(|(_, codes)| codes.len() > 1) {
        for (at, code) in codes.iter().enumerate().filter(|(_, code)| inside(code.device)) {
            if let Some(first) = codes[..at].iter().find(|known| known.device == code.device) {
                findings.extend(same_on_one_device(site, words, first, code));
            } else if let Some(first) = codes[..at].iter().find(|known| {
                known.device != code.device && may_hear(site, known.device, code.device, code.body.medium())
            }) {
                findings.push(Finding::of(
                    site,
                    FindingKind::BothReact {
                        device: code.device,
                        function: code.function,
                        other: first.device,
                        other_function: first.function,
                        code: words.clone(),
                    },
                ));
            }
        }
    }
    findings
}

/// Two functions of one device with one code, unless the key is pressed in another way.
fn same_on_one_device(site: &Site, words: &str, first: &Code, code: &Code) -> Option<Finding> {
    let profile = site.model_of(code.device)?;
    let press = |function| profile.function(function).map(|function| function.press);
    if press(first.function) != press(code.function) {
        return None;
    }
    let toggles = matches!((&first.body, &code.body), (CodeBody::Decoded { message: a, .. }, CodeBody::Decoded { message: b, .. }) if a != b);
    let (device, function, first, code) = (code.device, code.function, first.function, words.to_owned());
    let kind = if toggles {
        FindingKind::ToggleNotTwo { device, function, first, code }
    } else {
        FindingKind::SameCode { device, function, first, code }
    };
    Some(Finding::of(site, kind))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use kestrel_signal::{Message, ProtocolId};

    fn body(protocol: ProtocolId, fields: &[(&'static str, u32)]) -> CodeBody {
        CodeBody::of(Message::new(protocol, fields.iter().copied()).unwrap())
    }

    fn with_body(site: &mut Site, device: DeviceId, at: usize, body: CodeBody) {
        site.codes.iter_mut().filter(|code| code.device == device).nth(at).unwrap().body = body;
    }

    #[test]
    fn near_twins_come_nearest_first() {
        let site = demo::marram_point();
        let on = body(ProtocolId::Nec, &[("address", 50), ("command", 2)]);
        let twins = near(&site, ids::projector(), None, &on, 2);
        assert_eq!(twins[0].bits, 0, "the projector's own “Power on”");
        assert!(twins.windows(2).all(|pair| pair[0].bits <= pair[1].bits));
        assert!(twins.iter().all(|twin| twin.summary.starts_with("nec address=50")));
    }

    #[test]
    fn one_code_on_two_devices_of_a_room_makes_both_react() {
        let mut site = demo::marram_point();
        let power =
            site.code(ids::projector(), site.model_of(ids::projector()).unwrap().functions[0].id).unwrap().body.clone();
        with_body(&mut site, ids::streamer(), 0, power);
        let finding = check(&site, ids::boat_hall()).into_iter().find(|finding| finding.title == "Both react").unwrap();
        assert!(finding.text.contains("both will react to either"), "{}", finding.text);
    }

    #[test]
    fn the_same_infrared_code_in_another_room_is_no_matter() {
        let findings = check(&demo::marram_point(), ids::boat_hall());
        assert!(findings.iter().all(|finding| finding.title != "Both react"), "{findings:?}");
    }

    #[test]
    fn codes_that_differ_in_the_toggle_bit_alone_are_one_key() {
        let mut site = demo::marram_point();
        for (at, toggle) in [(0, 0), (1, 1)] {
            let power = body(ProtocolId::Rc5, &[("address", 3), ("command", 12), ("toggle", toggle)]);
            with_body(&mut site, ids::receiver(), at, power);
        }
        let finding =
            check(&site, ids::boat_hall()).into_iter().find(|f| f.title == "A toggle, not two codes").unwrap();
        assert!(finding.text.contains("flips at every press"), "{}", finding.text);
    }

    #[test]
    fn home_twice_and_home_held_are_functions_of_their_own() {
        let findings = check(&demo::marram_point(), ids::boat_hall());
        assert!(findings.is_empty(), "{findings:?}");
    }
}
