//! Everything that the margin would say of a room, and how much of each stage is done.

use crate::device::{Basis, Profile, Span};
use crate::finding::{Finding, Place, Stage, Weight};
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::plan::{Situation, plan, seconds};
use crate::site::{Device, Site};
use crate::wiring;
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// What is done of what there is to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Share {
    /// Done.
    pub done: u32,
    /// In all.
    pub total: u32,
}

/// The state of the work in a room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Notes {
    /// Worst first.
    pub findings: Vec<Finding>,
    /// Devices without a finding that stops them.
    pub kit: Share,
    /// Functions with a code.
    pub codes: Share,
    /// Plans from off, and room-off, that can be sent.
    pub sequences: Share,
}

/// Checks a room.
#[must_use]
pub fn room(site: &Site, room: RoomId) -> Notes {
    let mut findings = wiring::check(site, room);
    for device in site.devices_in(room) {
        if let Some(profile) = site.profile(device.profile) {
            findings.extend(codes(site, device, profile));
            findings.extend(assumptions(device, profile));
        }
    }
    let mut sendable = 0;
    let activities: Vec<_> = site.activities.iter().filter(|activity| activity.room == room).collect();
    let situations = activities.iter().map(|activity| Situation::In { activity: activity.id });
    for to in situations.chain((!activities.is_empty()).then_some(Situation::Off)) {
        let from = if to == Situation::Off { Situation::Unknown } else { Situation::Off };
        let plan = plan(site, room, from, to);
        sendable += u32::from(plan.runnable);
        findings.extend(plan.findings);
    }
    findings.sort_by(|a, b| a.weight.cmp(&b.weight).then_with(|| a.text.cmp(&b.text)));
    findings.dedup();
    let total = count(activities.len() + usize::from(!activities.is_empty()));
    Notes {
        kit: kit(site, room, &findings),
        codes: coded(site, room),
        sequences: Share { done: sendable, total },
        findings,
    }
}

fn count(n: usize) -> u32 {
    u32::try_from(n).unwrap_or(u32::MAX)
}

fn kit(site: &Site, room: RoomId, findings: &[Finding]) -> Share {
    let stopped = |device: DeviceId| {
        findings
            .iter()
            .any(|f| f.weight == Weight::Stops && f.place.stage == Stage::Kit && f.place.device == Some(device))
    };
    let total = count(site.devices_in(room).count());
    Share { done: count(site.devices_in(room).filter(|device| !stopped(device.id)).count()), total }
}

fn coded(site: &Site, room: RoomId) -> Share {
    let mut share = Share { done: 0, total: 0 };
    for device in site.devices_in(room) {
        let Some(profile) = site.profile(device.profile) else { continue };
        share.total += count(profile.functions.len());
        let known = profile.functions.iter().filter(|function| site.code(device.id, function.id).is_some());
        share.done += count(known.count());
    }
    share
}

/// Two functions with one code.
fn codes(site: &Site, device: &Device, profile: &Profile) -> Vec<Finding> {
    let mut said: BTreeMap<String, FunctionId> = BTreeMap::new();
    let mut findings = Vec::new();
    for function in &profile.functions {
        let Some(code) = site.code(device.id, function.id) else { continue };
        let Some(words) = code.body.key_words() else { continue };
        if let Some(&first) = said.get(&words) {
            let text = format!(
                "“{}” and “{}” on {} hold the same code ({words}). One of them was learned from the wrong key: learn it again.",
                site.function_name(device.id, first),
                function.name,
                device.name
            );
            let place = Place::on(Stage::Codes).device(device.id).function(function.id);
            findings.push(Finding::new(Weight::Caution, "Same code", text, place));
        }
        said.entry(words).or_insert(function.id);
    }
    findings
}

/// Waits that nobody measured and no profile gives.
fn assumptions(device: &Device, profile: &Profile) -> Vec<Finding> {
    let times = &profile.times;
    let mut spans: Vec<(&str, Span)> =
        vec![("starts up in", times.warm_up), ("cools down in", times.cool_down), ("changes input in", times.input)];
    if let Some(motion) = &profile.motion {
        spans.extend([("goes up in", motion.travel_up), ("goes down in", motion.travel_down)]);
    }
    spans
        .into_iter()
        .filter(|(_, span)| span.basis == Basis::Assumed && span.hi_ms > 0)
        .map(|(does, span)| {
            let text = format!(
                "{} {does} {}–{}. Nobody measured it; a plan waits for the longer time.",
                device.name,
                seconds(span.lo_ms).trim_end_matches(" s"),
                seconds(span.hi_ms)
            );
            Finding::new(Weight::Caution, "Assumed", text, Place::on(Stage::Kit).device(device.id))
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};

    #[test]
    fn the_demo_room_says_what_is_left_to_do() {
        let notes = room(&demo::marram_point(), ids::boat_hall());
        assert_eq!(notes.kit, Share { done: 5, total: 5 });
        assert_eq!(notes.codes, Share { done: 26, total: 28 });
        assert_eq!(notes.sequences, Share { done: 2, total: 3 });
        let titles: Vec<&str> = notes.findings.iter().map(|f| f.title.as_str()).collect();
        assert_eq!(titles, ["Keep clear", "Code missing", "Assumed"]);
    }

    #[test]
    fn one_code_for_two_functions_is_found() {
        let mut site = demo::marram_point();
        let source = site.codes.iter().find(|c| c.device == ids::receiver()).unwrap().body.clone();
        site.codes.iter_mut().filter(|c| c.device == ids::receiver()).nth(1).unwrap().body = source;
        let notes = room(&site, ids::boat_hall());
        let finding = notes.findings.iter().find(|f| f.title == "Same code").unwrap();
        assert!(
            finding.text.starts_with("“Power on” and “Power off” on Receiver hold the same code"),
            "{}",
            finding.text
        );
    }

    #[test]
    fn an_empty_room_has_nothing_to_say() {
        let mut site = demo::marram_point();
        site.activities.clear();
        site.devices.clear();
        let notes = room(&site, ids::boat_hall());
        assert_eq!((notes.findings.len(), notes.sequences.total), (0, 0));
    }
}
