//! Adoption rules of the demo rooms, and of rooms changed for a story.

use super::*;
use crate::demo::{self, ids};
use rstest::rstest;

fn film() -> Situation {
    Situation::In { activity: ids::feature_film() }
}

fn seen(on: bool, input: Option<u8>) -> Seen {
    Seen { on: Some(on), input, down: None }
}

/// The receiver of the Boat Hall is polled every 5 s, answers within 1 s and shows an input after 2.5 s:
/// (0 + 1) × 5 s + 1 s + 2.5 s = 8.5 s.
#[rstest]
#[case(0, "8.5 s")]
#[case(2, "18.5 s")]
fn a_rule_is_a_sentence_with_the_time_in_which_it_is_noticed(#[case] lost: u8, #[case] within: &str) {
    let mut site = demo::with_disc();
    site.rooms[0].rehearsal.adoption.lost_polls = lost;
    let step = in_step(&site, ids::boat_hall());
    let rule = step.rules.iter().find(|rule| rule.to == film()).unwrap();
    assert_eq!(
        rule.sentence,
        format!("When Receiver shows Disc (it says BD), the room is in Feature film; noticed within {within}.")
    );
    assert!(rule.on);
}

#[test]
fn what_the_receiver_shows_tells_the_activity() {
    let site = demo::with_disc();
    let step = in_step(&site, ids::boat_hall());
    let told = |input| told(&site, &step, &BTreeMap::from([(ids::receiver(), seen(true, input))]), None);
    assert_eq!(told(Some(0)), Told::One(film()));
    assert_eq!(told(Some(1)), Told::One(Situation::In { activity: ids::streaming() }));
    assert_eq!(told(Some(3)), Told::Nothing);
    assert_eq!(super::told(&site, &step, &BTreeMap::new(), None), Told::Nothing);
}

/// The projector tells nothing, so a receiver that is off is not yet a room that is off.
#[test]
fn off_needs_every_device_that_shows_or_sounds() {
    let site = demo::with_disc();
    let step = in_step(&site, ids::boat_hall());
    let off = step.rules.iter().find(|rule| rule.to == Situation::Off).unwrap();
    assert!(!off.on && off.blocked.as_ref().unwrap().starts_with("Projector shows or sounds"), "{off:?}");
    let seen = BTreeMap::from([(ids::receiver(), seen(false, None))]);
    assert_eq!(told(&site, &step, &seen, Some(film())), Told::Nothing);
}

/// Music without a picture: the sound system alone tells that it is over.
#[test]
fn music_is_over_when_the_sound_system_is_off() {
    let mut site = demo::with_disc();
    let music = site.activities.iter_mut().find(|activity| activity.id == ids::streaming()).unwrap();
    music.seen_on = None;
    let step = in_step(&site, ids::boat_hall());
    let off = BTreeMap::from([(ids::receiver(), seen(false, None))]);
    let music = Situation::In { activity: ids::streaming() };
    assert_eq!(told(&site, &step, &off, Some(music)), Told::One(Situation::Off));
    assert_eq!(told(&site, &step, &off, Some(film())), Told::Nothing);
}

#[test]
fn two_inputs_with_one_name_are_a_finding_and_cannot_be_told_apart() {
    let mut site = demo::with_disc();
    let receiver = site.profile_of(ids::receiver()).unwrap().inputs.clone();
    let device = site.devices.iter_mut().find(|device| device.id == ids::receiver()).unwrap();
    device.reported.insert(receiver[1].id, "bd".to_owned());
    let step = in_step(&site, ids::boat_hall());
    assert!(step.findings.iter().any(|finding| finding.title == "One name for two inputs"), "{:?}", step.findings);
    assert_eq!(input_called(&site, ids::receiver(), "BD"), None);
    assert_eq!(input_called(&site, ids::receiver(), "game1"), Some(2));
}

/// Two activities that differ in their source alone, which tells nothing, look alike.
#[test]
fn activities_that_look_alike_are_a_finding_and_only_the_current_one_is_kept() {
    let mut site = demo::with_disc();
    let mut twin = site.activity(ids::feature_film()).unwrap().clone();
    twin.id = uuid::Uuid::from_u128(77).into();
    twin.name = "Short film".to_owned();
    let other = Situation::In { activity: twin.id };
    site.activities.push(twin);
    let step = in_step(&site, ids::boat_hall());
    let found = step.findings.iter().find(|finding| finding.title == "Looks alike").unwrap();
    assert!(found.text.starts_with("Feature film and Short film can look the same"), "{}", found.text);
    let disc = BTreeMap::from([(ids::receiver(), seen(true, Some(0)))]);
    assert_eq!(told(&site, &step, &disc, None), Told::Several(vec![film(), other]));
    assert_eq!(told(&site, &step, &disc, Some(other)), Told::One(other));
}

#[test]
fn a_rule_can_be_switched_off_and_do_without_a_condition() {
    let mut site = demo::with_disc();
    site.rooms[0].rehearsal.adoption.switched_off = vec![film()];
    let step = in_step(&site, ids::boat_hall());
    let rule = step.rules.iter().find(|rule| rule.to == film()).unwrap();
    assert!(!rule.on && rule.blocked.is_none());
    site.rooms[0].rehearsal.adoption.switched_off.clear();
    site.rooms[0].rehearsal.adoption.without = vec![Amendment { to: film(), device: ids::receiver() }];
    let step = in_step(&site, ids::boat_hall());
    let rule = step.rules.iter().find(|rule| rule.to == film()).unwrap();
    assert!(!rule.on && rule.blocked.is_some(), "{rule:?}");
}

#[test]
fn devices_that_tell_nothing_are_listed_with_the_sensor_that_would_help() {
    let step = in_step(&demo::with_disc(), ids::boat_hall());
    let gap = |device| step.gaps.iter().find(|gap| gap.device == device).map(|gap| gap.sensor.as_str());
    assert!(gap(ids::projector()).unwrap().contains("mains plug"));
    assert!(gap(ids::screen()).unwrap().contains("contact"));
    assert_eq!(gap(ids::receiver()), None);
}
