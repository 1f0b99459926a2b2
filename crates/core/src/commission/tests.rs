//! The list of tests of the demo house, and what an edit makes stale.

use super::list::{TestLine, TestState, list};
use super::run::runs;
use crate::demo::{self, ids};
use crate::edit::{self, Edit};
use crate::id::{DeviceId, MeasurementId, ResultId};
use crate::model::{
    CodeBody, Entity, EntityKind, Measurement, Outcome, SeenIn, Site, Situation, Span, TestOf, TestResult, Timing, find,
};
use kestrel_signal::{Message, ProtocolId};
use proptest::prelude::*;
use std::collections::{BTreeMap, BTreeSet};
use uuid::Uuid;

/// The demo house without its own evidence.
fn bare() -> Site {
    let mut site = demo::with_disc();
    site.measurements = Default::default();
    site.results = Default::default();
    site
}

fn of_hall(site: &Site) -> Vec<TestLine> {
    list(site, ids::boat_hall(), &runs(site, ids::boat_hall()))
}

fn result(number: u128, line: &TestLine, outcome: Outcome, seen: SeenIn) -> TestResult {
    TestResult {
        id: ResultId(Uuid::from_u128(9_000 + number)),
        of: line.of.clone(),
        outcome,
        seen,
        note: "as it should be".to_owned(),
        photo: None,
        at: "2027-05-03T10:00:00Z".parse().unwrap(),
        who: "R. Ferrow".to_owned(),
        facts: line.facts.clone(),
    }
}

/// The house with every test of the hall passed.
fn all_passed() -> Site {
    let mut site = bare();
    let lines = of_hall(&site);
    site.results.extend((0..).zip(&lines).map(|(at, line)| result(at, line, Outcome::Passed, SeenIn::House)));
    site
}

fn stale(site: &Site) -> BTreeMap<TestOf, Vec<String>> {
    let lines = of_hall(site).into_iter().filter(|line| line.state == TestState::Stale);
    lines.map(|line| (line.of, line.because)).collect()
}

#[test]
fn the_demo_shows_every_state_of_a_test_and_a_finished_room() {
    let site = demo::marram_point();
    let states: BTreeSet<TestState> = of_hall(&site).iter().map(|line| line.state).collect();
    let all = [
        TestState::Failed,
        TestState::Stale,
        TestState::Open,
        TestState::Rehearsed,
        TestState::NotPossible,
        TestState::Passed,
    ];
    assert_eq!(states, BTreeSet::from(all), "run the example `evidence` where the facts of tests have changed");
    let tidy = list(&site, ids::tidy_cabin(), &runs(&site, ids::tidy_cabin()));
    let left: Vec<&str> =
        tidy.iter().filter(|line| line.state != TestState::Passed).map(|l| l.title.as_str()).collect();
    assert!(left.is_empty() && tidy.len() > 5, "{left:?}");
}

#[test]
fn the_hall_has_tests_of_every_kind_and_each_says_what_to_do_and_see() {
    let lines = of_hall(&bare());
    let kinds: BTreeSet<&str> = lines.iter().map(|line| line.kind).collect();
    for kind in ["function", "wait", "switch", "cue", "surface key", "in step", "safety"] {
        assert!(kinds.contains(kind), "{kind} of {kinds:?}");
    }
    for line in &lines {
        assert!(!line.to_do.is_empty() && !line.to_see.is_empty() && line.takes_s > 0, "{line:?}");
        assert!(!line.title.contains("gone"), "{}", line.title);
    }
    let own: BTreeSet<&TestOf> = lines.iter().map(|line| &line.of).collect();
    assert_eq!(own.len(), lines.len(), "each test once");
}

#[test]
fn whoever_can_be_hurt_is_warned() {
    let lines = of_hall(&bare());
    let of = |want: &TestOf| lines.iter().find(|line| line.of == *want).unwrap();
    let stop = of(&TestOf::Stop { device: ids::screen() });
    assert!(stop.care.as_ref().unwrap().contains("keep clear"), "{:?}", stop.care);
    let mains = of(&TestOf::MainsBack { room: ids::boat_hall() });
    assert!(mains.care.as_ref().unwrap().contains("competent person"));
}

#[test]
fn a_code_that_is_learned_anew_makes_stale_what_rests_on_it_and_an_undo_brings_it_back() {
    let mut site = all_passed();
    assert!(stale(&site).is_empty(), "{:?}", stale(&site));
    let mut code = site.codes.iter().find(|code| code.function == ids::receiver_disc()).unwrap().clone();
    let message = Message::new(ProtocolId::NecExt, [("address", 0x7a11), ("command", 0x32)]).unwrap();
    code.body = CodeBody::of(message);
    let changes = edit::apply(&mut site, &Edit::Put { entity: Entity::Code(code), base: None }).unwrap();
    let found = stale(&site);
    let function = TestOf::Function { device: ids::receiver(), function: ids::receiver_disc() };
    assert_eq!(found[&function], ["the code of Disc on Receiver was changed"]);
    let film = Situation::In { activity: ids::feature_film() };
    let switch = TestOf::Switch { room: ids::boat_hall(), from: Situation::Off, to: film, hot: false };
    assert_eq!(found[&switch], ["the code of Disc on Receiver was changed"]);
    assert!(found.keys().all(|of| matches!(of, TestOf::Function { .. } | TestOf::Switch { .. })), "{found:?}");
    let back = TestOf::Switch { room: ids::boat_hall(), from: film, to: Situation::Off, hot: false };
    assert!(!found.contains_key(&back), "room-off sends no Disc");
    edit::revert(&mut site, &changes);
    assert!(stale(&site).is_empty());
}

#[test]
fn another_name_makes_nothing_stale() {
    let mut site = all_passed();
    let mut device = site.device(ids::receiver()).unwrap().clone();
    device.name = "Sea box".to_owned();
    edit::apply(&mut site, &Edit::Put { entity: Entity::Device(device), base: None }).unwrap();
    assert!(stale(&site).is_empty(), "{:?}", stale(&site));
}

#[test]
fn what_failed_is_failed_until_something_changes_and_a_rehearsed_pass_is_no_pass() {
    let mut site = bare();
    let lines = of_hall(&site);
    site.results.push(result(1, &lines[0], Outcome::Failed, SeenIn::House));
    site.results.push(result(2, &lines[1], Outcome::Passed, SeenIn::Rehearsed));
    site.results.push(result(3, &lines[2], Outcome::NotPossible, SeenIn::House));
    let states: Vec<TestState> = of_hall(&site).iter().take(4).map(|line| line.state).collect();
    assert_eq!(states, [TestState::Failed, TestState::Rehearsed, TestState::NotPossible, TestState::Open]);
}

#[test]
fn waits_that_were_read_often_enough_are_passed_without_a_tick() {
    let mut site = bare();
    let line = |site: &Site| {
        let warm = TestOf::Wait { device: ids::projector(), timing: Timing::WarmUp };
        of_hall(site).into_iter().find(|line| line.of == warm).unwrap()
    };
    assert_eq!(line(&site).state, TestState::Open);
    assert!(line(&site).to_see.starts_with("9 more readings"), "{}", line(&site).to_see);
    let device = site.devices.find_mut(|device| device.id == ids::projector()).unwrap();
    device.overrides.push(crate::model::Override::WarmUp(Span {
        lo_ms: 24_100,
        hi_ms: 29_400,
        basis: crate::model::Basis::Confirmed,
    }));
    assert_eq!(line(&site).state, TestState::Passed);
}

/// Edits of every kind of thing that a test of the hall may rest on, and of some on which none does.
fn edits(site: &Site) -> Vec<Entity> {
    let mut all = Vec::new();
    for code in site.codes.iter().filter(|code| site.device(code.device).is_some_and(|d| d.room == ids::boat_hall())) {
        let mut own = code.clone();
        if let CodeBody::Decoded { message, .. } = &own.body
            && message.protocol().id == ProtocolId::NecExt
        {
            let message = Message::new(ProtocolId::NecExt, [("address", 0x1234), ("command", 0x77)]).unwrap();
            own.body = CodeBody::of(message);
            all.push(Entity::Code(own));
        }
    }
    for device in site.devices.iter() {
        let mut own = device.clone();
        own.name = format!("{} anew", own.name);
        all.push(Entity::Device(own));
        let mut own = device.clone();
        own.network.ip = "192.0.2.250".to_owned();
        all.push(Entity::Device(own));
    }
    for profile in site.profiles.iter() {
        let mut own = profile.clone();
        own.times.warm_up = Span::assumed(own.times.warm_up.lo_ms, own.times.warm_up.hi_ms + 900);
        own.times.picture.hi_ms = own.times.picture.hi_ms.max(own.times.warm_up.hi_ms);
        all.push(Entity::Profile(own));
        let mut own = profile.clone();
        if let Some(volume) = &mut own.volume {
            volume.ceiling = volume.ceiling.saturating_sub(1);
            all.push(Entity::Profile(own));
        }
    }
    for room in site.rooms.iter() {
        for cue in &room.lighting.cues {
            let mut own = cue.clone();
            own.also.clear();
            own.provided = vec![crate::model::Provided::Between { from_min: 1_200, to_min: 1_300 }];
            all.push(Entity::Cue(crate::model::InRoom::new(room.id, own)));
        }
        for surface in &room.surfaces {
            let mut own = surface.clone();
            if let Some(key) = own.pages.iter_mut().flat_map(|page| &mut page.keys).next() {
                key.label = "Anew".to_owned();
                all.push(Entity::Surface(crate::model::InRoom::new(room.id, own)));
            }
        }
    }
    all
}

/// What a test asks for, names aside: when it is ready, what is sent, what has to be there.
fn answers(site: &Site) -> BTreeMap<TestOf, String> {
    let runs = runs(site, ids::boat_hall());
    let mut all = BTreeMap::new();
    for run in &runs {
        let sent: Vec<_> = run
            .plan
            .steps
            .iter()
            .map(|step| (step.device, step.function, step.start_ms, step.code.as_ref().map(ToString::to_string)))
            .collect();
        let of = TestOf::Switch { room: ids::boat_hall(), from: run.from, to: run.to, hot: false };
        all.insert(of, format!("{:?} {sent:?}", run.ready_ms));
    }
    for code in site.codes.iter() {
        let of = TestOf::Function { device: code.device, function: code.function };
        all.insert(of, site.code(code.device, code.function).map(|code| code.body.to_string()).unwrap_or_default());
    }
    all
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn an_edit_makes_stale_exactly_the_tests_whose_facts_differ(at in 0_usize..10_000) {
        let before = all_passed();
        let edits = edits(&before);
        let entity = edits[at % edits.len()].clone();
        let mut after = before.clone();
        let Ok(changes) = edit::apply(&mut after, &Edit::Put { entity, base: None }) else { return Ok(()) };
        let found = stale(&after);
        let (then, now) = (of_hall(&before), of_hall(&after));
        for line in &now {
            let Some(known) = then.iter().find(|known| known.of == line.of) else { continue };
            let plain = |line: &TestLine| line.facts.iter().map(|fact| (fact.key.clone(), fact.digest.clone())).collect::<Vec<_>>();
            prop_assert_eq!(plain(known) != plain(line), found.contains_key(&line.of), "{}", line.title);
            prop_assert!(!found.contains_key(&line.of) || !line.because.is_empty());
        }
        // No test whose answer is another one stays current.
        let (was, is) = (answers(&before), answers(&after));
        for (of, answer) in &is {
            if was.get(of).is_some_and(|known| known != answer) && now.iter().any(|line| line.of == *of) {
                prop_assert!(found.contains_key(of), "{of:?}: {answer}");
            }
        }
        edit::revert(&mut after, &changes);
        prop_assert!(stale(&after).is_empty(), "an undo brings all of them back");
    }
}

fn reading(number: u128, device: DeviceId, ms: u32) -> Measurement {
    let at = "2027-05-03T10:00:00Z".parse().unwrap();
    Measurement::new(MeasurementId(Uuid::from_u128(number)), device, Timing::WarmUp, ms, at)
}

#[test]
fn a_reading_goes_with_its_device_and_an_undo_brings_it_back() {
    let mut site = bare();
    let reading = reading(77, ids::disc_player(), 4_000);
    edit::apply(&mut site, &Edit::Put { entity: Entity::Measurement(reading.clone()), base: None }).unwrap();
    let used: Vec<_> = site.activities.iter().filter(|a| a.source == ids::disc_player()).map(|a| a.id.0).collect();
    for id in used {
        site.take(crate::model::EntityKey { kind: EntityKind::Activity, id });
    }
    let remove = Edit::Remove { kind: EntityKind::Device, id: ids::disc_player().0, base: 0 };
    let changes = edit::apply(&mut site, &remove).unwrap();
    assert!(site.measurements.is_empty());
    edit::revert(&mut site, &changes);
    let key = Entity::Measurement(reading.clone()).key();
    assert_eq!(find(&site, key), Some(Entity::Measurement(reading)));
}

#[test]
fn readings_of_no_time_and_of_hours_are_refused() {
    let mut site = bare();
    for ms in [0, 3_600_000] {
        let reading = reading(78, ids::projector(), ms);
        let refused = edit::apply(&mut site, &Edit::Put { entity: Entity::Measurement(reading), base: None });
        assert!(refused.unwrap_err().to_string().contains("between 1 ms and 10 minutes"));
    }
}
