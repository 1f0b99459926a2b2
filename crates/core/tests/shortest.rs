//! Plans with no needless key, and answers in rooms that once had none: files as in `truth.rs`.
//!
//! How long an answer takes is measured in `benches/speed.rs`, never here.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test")]

mod letters;

use kestrel_core::demo;
use kestrel_core::id::RoomId;
use kestrel_core::model::{Medium, Site, Situation};
use kestrel_core::plan::{Script, couple, derived_from, goal, run};
use kestrel_core::prove::{Analysis, Guarantee};
use letters::{cell, house, planned};
use rstest::rstest;

/// What leaves the right input and comes back, or selects what is there already, is left out: the same ready, with the
/// fewest transmissions.
#[rstest]
#[case("the-right-input-already", "off", "B", 40_108, 2)]
#[case("switches-that-come-on-right", "off", "Act 1", 13_194, 6)]
#[case("a-chain-that-comes-on-right", "off", "Act 1", 14_030, 4)]
fn no_key_is_needless(
    #[case] name: &str,
    #[case] from: &str,
    #[case] to: &str,
    #[case] ready_ms: u32,
    #[case] sends: usize,
) {
    let plan = cell(&house(name), from, to).plan;
    assert_eq!((plan.ready_ms, plan.steps.len()), (Some(ready_ms), sends));
    assert!(plan.optimal);
}

/// Two displays whose pictures come late: the input that they come up with is not left and chosen again.
#[test]
fn a_slow_picture_is_no_reason_for_more_keys() {
    let mut site = demo::with_disc();
    let room = demo::ids::watch_room();
    let display = site.device(demo::ids::watch_display()).unwrap().profile;
    site.profiles.find_mut(|profile| profile.id == display).unwrap().times.picture.hi_ms += 15_000;
    let to = Situation::In { activity: demo::ids::television() };
    let plan = Analysis::of(&site, room).cell_plan(Situation::Off, to).plan;
    let slow = plan.steps.iter().filter(|step| step.device == demo::ids::watch_display()).count();
    let before = Analysis::of(&demo::with_disc(), room).cell_plan(Situation::Off, to).plan;
    assert_eq!(slow, before.steps.iter().filter(|step| step.device == demo::ids::watch_display()).count());
}

/// A choice of words that no bound forbids is found: 7.398 s once everything has settled, and 3 s more right after the
/// plan before, which leaves a device that cools.
#[test]
fn ten_devices_on_two_media_are_as_soon_as_can_be() {
    let found = cell(&house("ten-devices-on-two-media"), "off", "Act 1");
    assert_eq!((found.cell.ready_ms, found.cell.optimal), (Some(7_398), true));
    assert_eq!((found.plan.ready_ms, found.plan.bound_ms), (Some(10_398), 10_398));
}

/// The bound is one: none is ready sooner; and where the search for the best did not end, it says so.
#[rstest]
#[case("ten-devices-with-long-sends", "Act 1")]
#[case("ten-devices-with-rules", "Act 1")]
#[case("eight-devices-with-many-words", "Act 2")]
#[case("a-list-that-no-sequence-leaves", "Act 1")]
fn many_words_have_a_plan_and_an_honest_bound(#[case] name: &str, #[case] to: &str) {
    let plan = cell(&house(name), "off", to).plan;
    let ready = plan.ready_ms.unwrap();
    assert!(plan.bound_ms <= ready && !plan.steps.is_empty(), "{name}: {ready} {}", plan.bound_ms);
}

/// A list that remembers its last entry, from any state: to one end, count, confirm.
#[test]
fn a_list_of_six_that_remembers_is_counted_from_its_end() {
    let plan = planned(&house("a-list-of-six-that-remembers"), "unknown", "Act 1");
    assert_eq!((plan.ready_ms, plan.steps.len(), plan.optimal), (Some(14_164), 8, true));
}

#[test]
fn a_list_behind_a_cool_down_is_homed_from_anything() {
    let plan = planned(&house("a-list-behind-a-cool-down"), "unknown", "A");
    assert_eq!((plan.ready_ms, plan.steps.len(), plan.optimal), (Some(31_148), 6, true));
}

/// Why there is no sequence is told by states of which every smaller part has one.
#[test]
fn the_reason_why_there_is_none_is_minimal() {
    let site = house("a-list-that-remembers-and-wraps");
    let plan = planned(&site, "unknown", "A");
    let finding = plan.findings.iter().find(|finding| finding.no_safe_way().is_some()).expect("a list that wraps");
    // What is wanted, and two states: one whose input is right, and one whose input is not.
    assert_eq!(finding.text.matches('“').count(), 3, "{}", finding.text);
    assert!(finding.text.contains("ends right both from") && finding.text.contains("and from"), "{}", finding.text);
}

/// Rooms in which something can be left out of a script, if anything can anywhere.
fn rooms() -> Vec<(Site, RoomId)> {
    let demo = demo::with_disc();
    let mut all: Vec<(Site, RoomId)> = demo.rooms.iter().map(|room| (demo.clone(), room.id)).collect();
    for name in ["the-right-input-already", "switches-that-come-on-right", "something-that-moves-and-switches"] {
        let site = house(name);
        let room = site.rooms.iter().find(|room| room.name == "R").unwrap().id;
        all.push((site, room));
    }
    all
}

/// A sequence from which any key is left out does not bring everything home any more.
#[test]
fn no_part_of_a_sequence_can_be_left_out() {
    let mut tried = 0;
    for (site, room) in rooms() {
        let groups = couple::groups(&site, room);
        let activities = site.activities.iter().filter(|activity| activity.room == room);
        let situations: Vec<Situation> =
            activities.map(|activity| Situation::In { activity: activity.id }).chain([Situation::Off]).collect();
        for &from in &situations {
            for &to in situations.iter().filter(|&&to| to != from) {
                let start = goal::start(&site, room, from);
                let derived = derived_from(&site, room, &start, to);
                for (at, (group, script)) in groups.iter().zip(&derived.scripts).enumerate() {
                    let (true, None, None) = (group.is_single(), &script.look, derived.parts.get(&at)) else {
                        continue;
                    };
                    let known = kestrel_core::plan::derive::joint(group, &start).unwrap();
                    let goal = derived.plan.goals.iter().find(|goal| goal.device == group.members[0].0);
                    let target = goal.map(|goal| goal.target(group.machine(0).profile())).unwrap_or_default();
                    let arrives = |script: &Script| run::all_arrive(group, known.iter(), script, &[target]);
                    assert!(arrives(script), "{from:?} to {to:?}");
                    for place in 0..script.steps.len() {
                        let mut less = script.clone();
                        let left_out = less.steps.remove(place);
                        if let Some(next) = less.steps.get_mut(place) {
                            next.after.lo_ms += left_out.after.lo_ms;
                            next.after.hi_ms = next.after.hi_ms.saturating_add(left_out.after.hi_ms);
                        }
                        let name = site.device_name(group.members[0].0);
                        assert!(!arrives(&less), "{name}, {from:?} to {to:?}: key {place} is needless");
                        tried += 1;
                    }
                }
            }
        }
    }
    assert!(tried > 100, "{tried} keys were left out in turn");
}

/// What a cell comes to, without names.
type Figures = (Guarantee, Option<u32>, Option<u32>, usize, bool);

fn figures(site: &Site, room: RoomId) -> Vec<Figures> {
    let matrix = Analysis::of(site, room).matrix();
    matrix.cells.iter().map(|c| (c.guarantee, c.ready_ms, c.hot_ms, c.sends, c.optimal)).collect()
}

/// Names and the order of devices in a list decide nothing.
#[test]
fn a_room_renamed_and_reordered_has_the_same_plans() {
    for room in [demo::ids::boat_hall(), demo::ids::watch_room(), demo::ids::slip_deck()] {
        let before = demo::with_disc();
        let mut after = before.clone();
        let last = u32::try_from(after.devices.len()).unwrap();
        for at in 0..after.devices.len() {
            let device = &mut after.devices[at];
            device.name = format!("Z{} {}", 99 - at, device.name);
            device.position = last - device.position.min(last);
        }
        for at in 0..after.activities.len() {
            after.activities[at].name.push('!');
        }
        after.sort();
        assert_eq!(figures(&before, room), figures(&after, room));
    }
}

/// Radio and infrared are sent side by side: the media decide how soon ten devices can be told.
#[test]
fn sends_of_one_medium_follow_each_other() {
    let site = house("ten-devices-with-long-sends");
    let plan = cell(&site, "off", "Act 1").plan;
    for medium in [Medium::Ir, Medium::Rf433] {
        let mut sends: Vec<(u32, u32)> =
            plan.steps.iter().filter(|step| step.medium == medium).map(|step| (step.start_ms, step.end_ms)).collect();
        sends.sort_unstable();
        assert!(sends.windows(2).all(|pair| pair[0].1 <= pair[1].0), "{medium:?}: {sends:?}");
    }
}
