//! Every plan of every room of the demo house: its promises, and the simulated room that has to end as it says.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test")]

use kestrel_core::check;
use kestrel_core::demo::{self, ids};
use kestrel_core::edit::{Edit, apply};
use kestrel_core::id::RoomId;
use kestrel_core::model::{CodeBody, EntityKind, Site, Situation};
use kestrel_core::plan::{Plan, plan};
use kestrel_core::room::SimRoom;
use proptest::prelude::*;
use rstest::rstest;
use std::collections::BTreeMap;

/// Every way between two situations of a room.
fn ways(site: &Site, room: RoomId) -> Vec<(Situation, Situation)> {
    let inside: Vec<Situation> =
        site.activities.iter().filter(|a| a.room == room).map(|a| Situation::In { activity: a.id }).collect();
    let starts = inside.iter().copied().chain([Situation::Off, Situation::Unknown]);
    let ends: Vec<Situation> = inside.iter().copied().chain([Situation::Off]).collect();
    starts.flat_map(|from| ends.iter().map(move |&to| (from, to))).filter(|(from, to)| from != to).collect()
}

fn plans(site: &Site) -> Vec<Plan> {
    site.rooms
        .iter()
        .flat_map(|room| ways(site, room.id).into_iter().map(|(from, to)| plan(site, room.id, from, to)))
        .collect()
}

#[test]
fn no_plan_is_ready_before_its_bound_nor_slower_than_one_device_after_another() {
    let site = demo::with_disc();
    let plans = plans(&site);
    assert!(plans.len() > 20, "{}", plans.len());
    for plan in plans {
        assert!(Some(plan.bound_ms) <= plan.ready_ms, "{:?} → {:?}", plan.from, plan.to);
        if plan.optimal {
            assert!(plan.ready_ms <= Some(plan.sequential_ms.max(plan.bound_ms)), "{:?} → {:?}", plan.from, plan.to);
        }
    }
}

#[test]
fn commands_keep_their_distance_and_share_no_medium() {
    let site = demo::with_disc();
    for plan in plans(&site) {
        let mut free: BTreeMap<_, u32> = BTreeMap::new();
        let mut last: BTreeMap<_, u32> = BTreeMap::new();
        let mut steps = plan.steps.clone();
        steps.sort_by_key(|step| step.start_ms);
        for step in steps {
            if step.medium.shared() {
                let until = free.insert(step.medium, step.end_ms).unwrap_or(0);
                assert!(step.start_ms >= until, "{} overlaps on {:?}", step.name, step.medium);
            }
            let gap = site.profile_of(step.device).unwrap().times.gap_ms;
            if let Some(before) = last.insert(step.device, step.end_ms) {
                assert!(step.start_ms >= before + gap, "{} comes too soon after {before} ms", step.name);
            }
            assert!(step.latest_ms.is_none_or(|latest| step.start_ms <= latest), "{} comes too late", step.name);
            assert!(step.start_ms <= step.end_ms && !step.why.is_empty());
        }
    }
}

/// Sends a plan into a simulated room; what is different at the end.
fn rehearsed(plan: &Plan, sim: &mut SimRoom, start_ms: u64) -> Vec<String> {
    for step in &plan.steps {
        let body: &CodeBody = step.code.as_ref().unwrap();
        let durations = body.send_us(step.press, step.frames);
        let now = start_ms + u64::from(step.end_ms);
        sim.advance(now);
        match body {
            CodeBody::Ip { command } => {
                sim.receive_bytes(now, step.device, &command.bytes().unwrap());
            }
            _ => {
                sim.radiate(now, step.medium, &durations);
            }
        }
    }
    sim.advance(start_ms + u64::from(plan.span_ms()) + 1);
    sim.differences(&plan.goals)
}

#[rstest]
#[case::the_fastest_devices(0.0)]
#[case::devices_in_the_middle(0.5)]
#[case::the_slowest_devices(1.0)]
fn the_boat_hall_ends_as_every_plan_from_off_says(#[case] pace: f64) {
    let site = demo::with_disc();
    let room = ids::boat_hall();
    for activity in site.activities.iter().filter(|a| a.room == room) {
        let plan = plan(&site, room, Situation::Off, Situation::In { activity: activity.id });
        assert!(plan.runnable, "{}: {:?}", activity.name, plan.findings);
        let mut sim = SimRoom::new(&site, room, pace);
        assert_eq!(rehearsed(&plan, &mut sim, 0), Vec::<String>::new(), "{}", activity.name);
    }
}

#[rstest]
#[case::fast(0.0)]
#[case::slow(1.0)]
fn one_evening_goes_from_activity_to_activity_and_home(#[case] pace: f64) {
    let site = demo::with_disc();
    let room = ids::boat_hall();
    let mut sim = SimRoom::new(&site, room, pace);
    let mut now = Situation::Off;
    let mut clock = 0;
    let evening = site.activities.iter().filter(|a| a.room == room).map(|a| Situation::In { activity: a.id });
    for next in evening.chain([Situation::Off]) {
        let plan = plan(&site, room, now, next);
        assert_eq!(rehearsed(&plan, &mut sim, clock), Vec::<String>::new(), "{now:?} → {next:?}");
        // Everything has cooled down before the next one.
        clock += u64::from(plan.end_ms) + 200_000;
        sim.advance(clock);
        now = next;
    }
}

#[test]
fn what_stops_a_plan_is_said_and_what_can_be_sent_has_its_codes() {
    for site in [demo::marram_point(), demo::with_disc()] {
        for plan in plans(&site) {
            if plan.runnable {
                assert!(plan.steps.iter().all(|step| step.code.is_some()), "{:?} → {:?}", plan.from, plan.to);
            } else {
                assert!(!plan.findings.is_empty(), "{:?} → {:?} is stopped without a word", plan.from, plan.to);
            }
        }
    }
}

#[test]
fn every_note_in_the_margin_is_a_sentence_with_a_place() {
    let site = demo::marram_point();
    for room in &site.rooms {
        let notes = check::room(&site, room.id);
        for finding in notes.findings {
            assert!(finding.text.ends_with('.') && finding.text.len() > 30, "{}", finding.text);
            assert!(!finding.title.is_empty() && finding.title.len() <= 24, "{}", finding.title);
            if let Some(device) = finding.place.device {
                assert!(site.device(device).is_some(), "{}", finding.text);
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    /// A house with things missing is checked and planned without a panic, and says what stops it.
    #[test]
    fn a_damaged_house_is_still_judged(cuts in prop::collection::vec((0usize..4, 0usize..200), 1..12)) {
        let mut site = demo::with_disc();
        for (what, at) in cuts {
            let (kind, ids): (EntityKind, Vec<uuid::Uuid>) = match what {
                0 => (EntityKind::Connection, site.connections.iter().map(|c| c.id.0).collect()),
                1 => (EntityKind::Code, site.codes.iter().map(|c| c.id.0).collect()),
                2 => (EntityKind::Activity, site.activities.iter().map(|a| a.id.0).collect()),
                _ => (EntityKind::Device, site.devices.iter().map(|d| d.id.0).collect()),
            };
            if ids.is_empty() { continue }
            let id = ids[at % ids.len()];
            // Devices in use are refused; that is fine.
            let _ = apply(&mut site, &Edit::Remove { kind, id, base: 0 });
        }
        for room in &site.rooms {
            let notes = check::room(&site, room.id);
            prop_assert!(notes.codes.done <= notes.codes.total);
            for (from, to) in ways(&site, room.id) {
                let plan = plan(&site, room.id, from, to);
                let coded = plan.steps.iter().all(|step| step.code.is_some());
                prop_assert!(!plan.runnable || coded);
                prop_assert!(plan.runnable || !plan.findings.is_empty());
            }
        }
    }
}
