//! Hidden discretes: commands of a device's address that no key of its remote sends. Makers often keep
//! keys for on, off and every input there. This module says in which order to try them; it never sends
//! anything.
//!
//! The order (*common practice*): next to known power and input commands first, since makers number
//! functions in groups; then in the gaps between known commands; then next to their ends; then the rest.
//! A command that is known or was tried is never offered again.

use crate::id::DeviceId;
use crate::model::{CodeBody, Site};
use kestrel_signal::{Message, ProtocolId};
use serde::Serialize;
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// What must be said before anything is sent.
pub const CAUTION: &str = "Unknown commands can change service settings, and some of them cannot be taken back without the maker. Watch the device, go one step at a time, and stop at the first menu that you do not know.";

/// A command to try.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Untried {
    /// What would be sent.
    #[schema(value_type = Message)]
    pub message: Message,
    /// In words; attempts are remembered under them.
    pub words: String,
    /// Why it comes at this place.
    pub why: String,
}

/// The untried commands of the address that a device uses most, the most promising first.
///
/// # Errors
/// Where no decoded code says which address to search.
pub fn untried(site: &Site, device: DeviceId, tried: &[String]) -> Result<Vec<Untried>, String> {
    let known: Vec<(String, Message)> = site
        .codes
        .iter()
        .filter(|code| code.device == device)
        .filter_map(|code| match &code.body {
            CodeBody::Decoded { message, .. } => {
                Some((site.function_name(device, code.function), message.with_toggle(false)))
            }
            _ => None,
        })
        .collect();
    let Some(base) = most_used(&known) else {
        return Err(format!(
            "{} has no decoded code yet, so nobody knows its address. Learn one of its keys first.",
            site.device_name(device)
        ));
    };
    let field = command_field(&base);
    let same = |message: &Message| family(message) == family(&base);
    let taken: BTreeSet<u32> = known.iter().filter(|(_, m)| same(m)).filter_map(|(_, m)| m.get(field)).collect();
    let anchors: Vec<(String, u32)> = known
        .iter()
        .filter(|(name, message)| same(message) && promising(site, device, name))
        .filter_map(|(name, message)| Some((name.clone(), message.get(field)?)))
        .collect();
    let max = base.protocol().fields.iter().find(|spec| spec.name == field).map_or(0, |spec| spec.max);
    let mut order: Vec<(u32, u32, String)> = Vec::new();
    for command in 0..=max.min(255) {
        let near = anchors.iter().map(|(name, anchor)| (command.abs_diff(*anchor), name)).min();
        let below = taken.range(..command).next_back();
        let above = taken.range(command + 1..).next();
        let (rank, why) = match (near, below, above) {
            (Some((apart @ 1..=3, name)), ..) => (apart, format!("{apart} beside “{name}”")),
            (_, Some(below), Some(above)) => (10 + above - below, format!("in the gap between {below} and {above}")),
            (_, Some(edge), None) | (_, None, Some(edge)) if command.abs_diff(*edge) <= 8 => {
                (300 + command.abs_diff(*edge), format!("next to {edge}, at the end of what is known"))
            }
            _ => (600, "nothing speaks for it".to_owned()),
        };
        order.push((rank, command, why));
    }
    order.sort();
    let tried: BTreeSet<&str> = tried.iter().map(String::as_str).collect();
    let offers =
        order.into_iter().filter(|(_, command, _)| !taken.contains(command)).filter_map(|(_, command, why)| {
            let fields = base.fields().map(|(name, value)| (name, if name == field { command } else { value }));
            let message = Message::new(base.protocol_id(), fields).ok()?;
            let words = message.to_string();
            (!tried.contains(words.as_str())).then_some(Untried { message, words, why })
        });
    Ok(offers.collect())
}

/// The message whose address most codes share (the first on a tie).
fn most_used(known: &[(String, Message)]) -> Option<Message> {
    let count = |message: &Message| known.iter().filter(|(_, other)| family(other) == family(message)).count();
    known.iter().map(|(_, message)| *message).rev().max_by_key(count)
}

/// Protocol and all fields but the command.
fn family(message: &Message) -> (ProtocolId, Vec<u32>) {
    let field = command_field(message);
    (message.protocol_id(), message.fields().filter(|(name, _)| *name != field).map(|(_, value)| value).collect())
}

/// The field that says the key: of a protocol that somebody has described the one that is called F, as the notation has it, or
/// else the last one.
fn command_field(message: &Message) -> &'static str {
    match message.protocol_id() {
        ProtocolId::Kaseikyo => "function",
        ProtocolId::BuiltIn(_) => "command",
        ProtocolId::Described(_) => {
            let mut names = message.protocol().fields.iter().map(|field| field.name).filter(|name| *name != "toggle");
            let last = names.clone().next_back().unwrap_or("toggle");
            names.find(|name| *name == "F").unwrap_or(last)
        }
    }
}

/// Functions beside which makers keep discrete ones: power and inputs.
fn promising(site: &Site, device: DeviceId, name: &str) -> bool {
    use super::vocabulary::{Group, TERMS};
    let listed = TERMS.iter().find(|term| term.name.eq_ignore_ascii_case(name));
    listed.is_some_and(|term| matches!(term.group, Group::Power | Group::Inputs))
        || site.model_of(device).is_some_and(|profile| profile.inputs.iter().any(|input| input.name == name))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};

    #[test]
    fn commands_beside_power_come_first_and_known_ones_never() {
        let site = demo::marram_point();
        let offers = untried(&site, ids::watch_display(), &[]).unwrap();
        assert_eq!(offers[0].words, "pd32 address=1799 command=0");
        assert!(offers[0].why.contains("beside “Source”"), "{}", offers[0].why);
        let known: Vec<String> = site.codes.iter().filter_map(|code| code.body.key_words()).collect();
        assert!(offers.iter().all(|offer| !known.contains(&offer.words)));
        assert_eq!(offers.len(), 256 - 10);
    }

    #[test]
    fn what_was_tried_is_never_offered_again() {
        let site = demo::marram_point();
        let all = untried(&site, ids::watch_display(), &[]).unwrap();
        let tried: Vec<String> = all[..5].iter().map(|offer| offer.words.clone()).collect();
        let rest = untried(&site, ids::watch_display(), &tried).unwrap();
        assert_eq!(rest, all[5..]);
    }

    #[test]
    fn gaps_come_before_the_far_ends() {
        let offers = untried(&demo::marram_point(), ids::watch_display(), &[]).unwrap();
        let place =
            |command: u32| offers.iter().position(|offer| offer.message.get("command") == Some(command)).unwrap();
        assert!(place(0x63) < place(0x99), "0x63 lies between Right and Left");
        assert!(place(0x69) < place(0x99), "0x69 lies beside the last known one");
    }

    #[test]
    fn a_device_without_a_decoded_code_asks_for_one() {
        let error = untried(&demo::marram_point(), ids::heater(), &[]).unwrap_err();
        assert!(error.contains("Learn one of its keys first"), "{error}");
    }
}
