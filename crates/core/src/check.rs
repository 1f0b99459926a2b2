//! Everything that the margin would say of a room, and how much of each stage is done.

use crate::commission::{self, Run, TestLine, TestState};
use crate::evidence;
use crate::finding::{Finding, Stage, Weight};
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::kit::twins;
use crate::model::{
    Basis, Deed, Device, DeviceKind, FindingKind, Power, Profile, SeenIn, Site, Situation, Span, Talk, TestEffect,
    Timing,
};
use crate::next::{self, NextStep};
use crate::plan::goal;
use crate::prove::Analysis;
use crate::space;
use crate::{adopt, cue, kit, surface, wiring};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::sync::Arc;
use utoipa::ToSchema;

/// What is done of what there is to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
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
    /// Lines of the cue sheet about which there is nothing to say.
    pub cues: Share,
    /// Surfaces about which there is nothing to say but remarks.
    pub surfaces: Share,
    /// Activities that a kept evening goes through.
    pub rehearse: Share,
    /// Tests that are passed, or not possible here.
    pub handover: Share,
    /// What comes next in a young room; none where a first plan can be sent.
    pub next: Option<NextStep>,
}

/// What the plans of a room say of it: by far the largest part of a check, and one that stands as long as
/// [`crate::prove::stands`] says so.
#[derive(Debug, Clone, PartialEq)]
pub struct Planned {
    findings: Vec<Finding>,
    sequences: Share,
    /// Every switch of the room with its plans.
    pub runs: Arc<Vec<Run>>,
}

/// Checks a room.
#[must_use]
pub fn room(site: &Site, room: RoomId) -> Notes {
    room_planned(site, room, &planned(site, room))
}

/// Checks a room whose plans are known.
#[must_use]
pub fn room_planned(site: &Site, room: RoomId, planned: &Planned) -> Notes {
    let mut findings = wiring::check(site, room);
    findings.extend(kit::check::room(site, room));
    findings.extend(space::find::findings(site, room));
    findings.extend(twins::check(site, room));
    for device in site.devices_in(room) {
        if let Some(profile) = site.profile_of(device.id) {
            findings.extend(tests(site, device, &profile));
            findings.extend(assumptions(site, device, &profile));
        }
    }
    findings.extend(planned.findings.iter().cloned());
    findings.extend(twice_wanted(site, room));
    findings.extend(adopt::in_step(site, room).findings);
    findings.extend(cue::find::findings(site, room));
    findings.extend(surface::find::findings(site, room));
    let tests = commission::list(site, room, &planned.runs);
    findings.extend(visited(site, room, &tests));
    findings.sort_by(|a, b| a.weight.cmp(&b.weight).then_with(|| a.text.cmp(&b.text)));
    findings.dedup();
    // What somebody has accepted is told with the reason, last; it is back once it says something else.
    let accepted = site.room(room).map(|room| room.accepted.as_slice()).unwrap_or_default();
    for finding in &mut findings {
        let known = accepted.iter().find(|known| known.found == finding.kind);
        finding.accepted = known.map(|known| known.reason.clone());
    }
    findings.sort_by_key(|finding| finding.accepted.is_some());
    let cues = cues(site, room, &findings);
    let surfaces = surfaces(site, room, &findings);
    let (kit, codes) = (kit(site, room, &findings), coded(site, room));
    let rehearse = rehearsed(site, room);
    let done = tests.iter().filter(|line| !commission::list::is_left(line)).count();
    let handover = Share { done: count(done), total: count(tests.len()) };
    let next = next::step(site, room, &findings);
    Notes { kit, codes, sequences: planned.sequences, cues, surfaces, rehearse, handover, next, findings }
}

/// What stands in the way of the plans of a room, and how many of them can be sent: each activity from off,
/// and off from the first activity.
#[must_use]
pub fn planned(site: &Site, room: RoomId) -> Planned {
    let activities = site.activities.iter().filter(|activity| activity.room == room);
    let situations: Vec<Situation> = activities.map(|activity| Situation::In { activity: activity.id }).collect();
    let Some(&first) = situations.first() else {
        return Planned { findings: vec![], sequences: Share { done: 0, total: 0 }, runs: Arc::default() };
    };
    let analysis = Analysis::of(site, room);
    let total = count(situations.len() + 1);
    let wanted = situations.into_iter().map(|to| (Situation::Off, to)).chain([(first, Situation::Off)]);
    let (mut findings, mut done) = (Vec::new(), 0);
    for (from, to) in wanted {
        let plan = analysis.plan(from, to);
        done += u32::from(plan.runnable);
        findings.extend(plan.findings);
    }
    findings.extend(analysis.findings());
    let runs = Arc::new(commission::run::of(&analysis));
    Planned { findings, sequences: Share { done, total }, runs }
}

/// What the visit has left behind: readings outside the intervals in use, tests that failed and were forgotten.
fn visited(site: &Site, room: RoomId, tests: &[TestLine]) -> Vec<Finding> {
    let mut findings = Vec::new();
    let read: BTreeSet<DeviceId> = site.measurements.iter().map(|own| own.device).collect();
    for device in site.devices_in(room).filter(|device| device.room == room && read.contains(&device.id)) {
        for timing in Timing::ALL.into_iter().filter(|timing| !timing.is_pause()) {
            let known = evidence::known(site, device.id, timing, false);
            if let Some(Span { lo_ms, hi_ms, .. }) = known.in_use.filter(|_| known.outside > 0) {
                let kind =
                    FindingKind::ReadingOutside { device: device.id, timing, count: known.outside, lo_ms, hi_ms };
                findings.push(Finding::of(site, kind));
            }
        }
    }
    let mut failed = tests.iter().filter(|line| {
        line.state == TestState::Failed && line.result.as_ref().is_some_and(|own| own.seen == SeenIn::House)
    });
    if let Some(first) = failed.next() {
        let kind = FindingKind::FailedInHouse { room, count: count(failed.count() + 1), first: first.of.clone() };
        findings.push(Finding::of(site, kind));
    }
    findings
}

/// A device that serves several rooms and that their activities want in different ways.
fn twice_wanted(site: &Site, room: RoomId) -> Vec<Finding> {
    let wants = |device: DeviceId, room: RoomId| {
        let activities = site.activities.iter().filter(move |activity| activity.room == room);
        activities.filter_map(move |activity| {
            let goals = goal::goals(site, room, Situation::In { activity: activity.id });
            let goal = goals.devices.into_iter().find(|goal| goal.device == device && goal.on == Some(true))?;
            Some((activity.name.clone(), goal.input, goal.app))
        })
    };
    let mut findings = Vec::new();
    for device in site.devices_in(room).filter(|device| device.rooms().len() > 1) {
        for &other in device.rooms().iter().filter(|&&other| other != room) {
            let differs = wants(device.id, room).find_map(|here| {
                wants(device.id, other)
                    .find(|there| (&there.1, &there.2) != (&here.1, &here.2))
                    .map(|there| (here.0, there.0))
            });
            if let Some((here, there)) = differs {
                let kind = FindingKind::WantedTwice { device: device.id, room: other, here, there };
                findings.push(Finding::of(site, kind));
            }
        }
    }
    findings
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

fn cues(site: &Site, room: RoomId, findings: &[Finding]) -> Share {
    let all = site.room(room).map(|room| room.lighting.cues.as_slice()).unwrap_or_default();
    let open = |finding: &&Finding| finding.accepted.is_none() && finding.place.stage == Stage::Cues;
    let clear =
        |cue: &&crate::model::Cue| !findings.iter().filter(open).any(|finding| finding.place.cue == Some(cue.id));
    Share { done: count(all.iter().filter(clear).count()), total: count(all.len()) }
}

fn surfaces(site: &Site, room: RoomId, findings: &[Finding]) -> Share {
    let all = site.room(room).map(|room| room.surfaces.as_slice()).unwrap_or_default();
    let open = |finding: &&Finding| finding.accepted.is_none() && finding.weight < Weight::Remark;
    let clear = |surface: &&crate::model::Surface| {
        !findings.iter().filter(open).any(|finding| finding.place.surface == Some(surface.id))
    };
    Share { done: count(all.iter().filter(clear).count()), total: count(all.len()) }
}

/// Activities that a kept evening asks for, or ends in.
fn rehearsed(site: &Site, room: RoomId) -> Share {
    let stories = site.room(room).map(|room| room.rehearsal.stories.as_slice()).unwrap_or_default();
    let asked = stories.iter().flat_map(|story| {
        let asks = story.events.iter().filter_map(|event| match event.deed {
            Deed::Request { to } => Some(to),
            _ => None,
        });
        asks.chain(story.taken_for)
    });
    let met: BTreeSet<Situation> = asked.collect();
    let mut share = Share { done: 0, total: 0 };
    for activity in site.activities.iter().filter(|activity| activity.room == room) {
        share.total += 1;
        share.done += u32::from(met.contains(&Situation::In { activity: activity.id }));
    }
    share
}

fn coded(site: &Site, room: RoomId) -> Share {
    let mut share = Share { done: 0, total: 0 };
    for device in site.devices_in(room) {
        let Some(profile) = site.profile(device.profile) else { continue };
        let by_name = matches!(site.talk_of(device.id), Talk::Mqtt | Talk::E131);
        if profile.kind == DeviceKind::Keypad || (profile.kind == DeviceKind::Light && by_name) {
            // It sends presses of its own, or is told levels by name; nobody learns its keys.
            continue;
        }
        share.total += count(profile.functions.len());
        let known = profile.functions.iter().filter(|function| site.code(device.id, function.id).is_some());
        share.done += count(known.count());
    }
    share
}

/// Codes that were tested and failed; on and off that do each other's work.
fn tests(site: &Site, device: &Device, profile: &Profile) -> Vec<Finding> {
    let mut findings = Vec::new();
    let failed = |function: FunctionId| {
        site.codes_of(device.id, function)
            .find_map(|code| code.tested.as_ref().filter(|t| t.effect != TestEffect::Worked))
    };
    let swapped = match profile.power {
        Power::Discrete { on, off } | Power::NetworkWake { wake: on, off } => swapped(site, device, on, off),
        _ => None,
    };
    if let Some((weight, why)) = swapped {
        let function = profile.keys().first().map(|(key, _)| *key);
        let certain = weight == Weight::Stops;
        findings.push(Finding::of(site, FindingKind::Swapped { device: device.id, function, certain, why }));
    }
    for function in &profile.functions {
        let Some(tested) = failed(function.id) else { continue };
        let (function, effect, note) = (function.id, tested.effect, tested.note.clone());
        findings.push(Finding::of(site, FindingKind::TestFailed { device: device.id, function, effect, note }));
    }
    findings
}

/// Do on and off hold each other's codes? Told by what the model's remote sends, where that is known, by a
/// test, or by another device of the same model.
fn swapped(site: &Site, device: &Device, on: FunctionId, off: FunctionId) -> Option<(Weight, String)> {
    let words = |device, function| site.codes_of(device, function).find_map(|code| code.body.key_words());
    let (own_on, own_off) = (words(device.id, on)?, words(device.id, off)?);
    if own_on == own_off {
        return None;
    }
    let said = |function| {
        let wrong =
            |code: &crate::model::Code| code.tested.as_ref().is_some_and(|t| t.effect == TestEffect::WrongThing);
        site.codes_of(device.id, function).any(wrong)
    };
    let tested = if said(on) || said(off) { "a test did the opposite, and " } else { "" };
    let model = site.model_of(device.id)?;
    let sends =
        |function| model.function(function).and_then(|f| f.answers_to.as_ref()).and_then(|body| body.key_words());
    if let (Some(on), Some(off)) = (sends(on), sends(off)) {
        let exchanged = on == own_off && off == own_on;
        return exchanged
            .then(|| (Weight::Stops, format!("{tested}the remote of this model sends {on} for on and {off} for off")));
    }
    if said(on) && said(off) {
        return Some((Weight::Stops, "both did the wrong thing when they were tested".to_owned()));
    }
    let twin = site.devices.iter().find(|other| {
        other.profile == device.profile
            && other.id != device.id
            && words(other.id, on).as_ref() == Some(&own_off)
            && words(other.id, off).as_ref() == Some(&own_on)
    })?;
    let weight = if tested.is_empty() { Weight::Caution } else { Weight::Stops };
    let doubt = if tested.is_empty() { "; one of the two is wrong, and a test tells which" } else { "" };
    Some((weight, format!("{tested}{} of the same model holds them the other way round{doubt}", twin.name)))
}

/// Waits that nobody measured and no profile gives.
fn assumptions(site: &Site, device: &Device, profile: &Profile) -> Vec<Finding> {
    use crate::model::AssumedTime;
    let times = &profile.times;
    let mut spans: Vec<(AssumedTime, Span)> = vec![
        (AssumedTime::WarmUp, times.warm_up),
        (AssumedTime::CoolDown, times.cool_down),
        (AssumedTime::Input, times.input),
    ];
    if let Some(motion) = &profile.motion {
        spans.extend([(AssumedTime::TravelUp, motion.travel_up), (AssumedTime::TravelDown, motion.travel_down)]);
    }
    spans
        .into_iter()
        .filter(|(_, span)| span.basis == Basis::Assumed && span.hi_ms > 0)
        .map(|(time, Span { lo_ms, hi_ms, .. })| {
            Finding::of(site, FindingKind::Assumed { device: device.id, time, lo_ms, hi_ms })
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::model::Accepted;

    #[test]
    fn the_demo_room_says_what_is_left_to_do() {
        let notes = room(&demo::marram_point(), ids::boat_hall());
        assert_eq!(notes.kit, Share { done: 13, total: 13 });
        assert_eq!(notes.codes, Share { done: 42, total: 44 });
        assert_eq!(notes.cues, Share { done: 10, total: 10 });
        assert_eq!(notes.sequences, Share { done: 3, total: 4 });
        let titles: Vec<&str> = notes.findings.iter().map(|f| f.title.as_str()).collect();
        assert_eq!(
            titles,
            [
                "Keep clear",
                "Keep clear",
                "Code missing",
                "Assumed",
                "Assumed",
                "Assumed",
                "Assumed",
                "Assumed",
                "Failed in the house",
                "A better path"
            ]
        );
    }

    #[test]
    fn swapped_codes_and_failed_tests_are_said() {
        let notes = room(&demo::marram_point(), ids::bunk_cabin());
        let text = |title: &str| notes.findings.iter().find(|f| f.title == title).map(|f| f.text.clone()).unwrap();
        assert!(
            text("On and off swapped").contains("a test did the opposite, and the remote of this model"),
            "{}",
            text("On and off swapped")
        );
        assert!(text("Test failed").contains("It was on, and it went off"));
        assert!(text("Same code").contains("“HDMI 1” and “HDMI 2” on Cabin display"));
    }

    #[test]
    fn where_the_remote_is_not_known_a_twin_or_a_test_tells() {
        let mut site = demo::marram_point();
        for profile in &mut site.profiles {
            profile.functions.iter_mut().for_each(|function| function.answers_to = None);
        }
        let found = |site: &Site| {
            let notes = room(site, ids::bunk_cabin());
            notes.findings.into_iter().find(|f| f.title == "On and off swapped").map(|f| (f.weight, f.text))
        };
        let (weight, text) = found(&site).unwrap();
        assert!(weight == Weight::Stops && text.contains("Disc player of the same model"), "{text}");
        site.codes.iter_mut().for_each(|code| code.tested = None);
        let (weight, text) = found(&site).unwrap();
        assert!(weight == Weight::Caution && text.contains("a test tells which"), "{text}");
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
    fn what_was_accepted_comes_back_when_it_says_something_else() {
        let mut site = demo::with_disc();
        let heat = |site: &Site| {
            let notes = room(site, ids::slip_deck());
            notes.findings.into_iter().find(|found| found.title == "Unattended heat").unwrap()
        };
        let found = heat(&site);
        assert_eq!(found.accepted, None);
        let deck = site.rooms.iter_mut().find(|room| room.id == ids::slip_deck()).unwrap();
        let reason = "The heater is locked out by its own thermostat.".to_owned();
        let id = crate::id::AcceptedId(uuid::Uuid::from_u128(5));
        deck.accepted.push(Accepted { id, found: found.kind, reason: reason.clone() });
        assert_eq!(heat(&site).accepted, Some(reason.clone()));
        let notes = room(&site, ids::slip_deck()).findings;
        assert!(notes.last().unwrap().accepted.is_some(), "told last");
        let heaters = site.devices.iter_mut().filter(|device| device.name == "Heater");
        heaters.for_each(|heater| heater.name = "Stove".to_owned());
        assert_eq!(heat(&site).accepted, Some(reason), "another name changes no fact");
        let heat_cue = heat(&site).place.cue;
        let deck = site.rooms.iter_mut().find(|room| room.id == ids::slip_deck()).unwrap();
        let cue = deck.lighting.cues.iter_mut().find(|cue| Some(cue.id) == heat_cue).unwrap();
        cue.id = uuid::Uuid::from_u128(6).into();
        assert_eq!(heat(&site).accepted, None, "another cue is another matter");
    }

    #[test]
    fn an_empty_room_has_nothing_to_say() {
        let mut site = demo::marram_point();
        site.activities.clear();
        site.devices.clear();
        site.rooms.iter_mut().for_each(|room| room.lighting = crate::model::Lighting::default());
        let notes = room(&site, ids::boat_hall());
        assert_eq!((notes.findings.len(), notes.sequences.total), (0, 0));
    }
}
