//! Stories of the trade, as machines.

use super::homing::NoWord;
use super::*;
use crate::demo;
use crate::id::FunctionId;
use rstest::rstest;
use std::collections::BTreeSet;

/// The demo projector with another input list.
fn projector(opens: ListOpens, ends: ListEnds) -> Profile {
    let site = demo::marram_point();
    let mut profile = site.profile_of(demo::ids::projector()).unwrap().clone();
    if let Selection::Menu { opens: own_opens, ends: own_ends, .. } = &mut profile.selection {
        (*own_opens, *own_ends) = (opens, ends);
    }
    profile
}

fn names(profile: &Profile, word: &Word) -> Vec<String> {
    word.steps.iter().map(|step| profile.function(step.key).unwrap().name.clone()).collect()
}

fn anything(profile: &Profile) -> BTreeSet<State> {
    Automaton::new(profile).states().into_iter().collect()
}

fn solve(profile: &Profile, belief: &BTreeSet<State>, target: Target) -> Result<Vec<String>, NoWord> {
    home(Automaton::new(profile), belief, target, |_| 100).map(|word| names(profile, &word))
}

fn on_input(input: u8) -> Target {
    Target { on: Some(true), input: Some(input), position: None }
}

fn on(input: u8) -> BTreeSet<State> {
    BTreeSet::from([State { on: true, input, cursor: None, position: Position::Up }])
}

/// From off the list opens at its first entry: open, right, right, OK.
#[test]
fn a_list_that_opens_at_its_first_entry_is_counted_from_there() {
    let profile = projector(ListOpens::First, ListEnds::Clamp);
    let off: BTreeSet<State> = anything(&profile).into_iter().filter(|s| !s.on).collect();
    assert_eq!(solve(&profile, &off, on_input(2)).unwrap(), ["Power on", "Source", "Right", "Right", "OK"]);
}

/// The list opens at the input of today, which nobody knows, but stops at its end: right, right is
/// always the last entry; for the middle one, go to an end and count back.
#[rstest]
#[case(2, &["Source", "Right", "Right", "OK"])]
#[case(0, &["Source", "Left", "Left", "OK"])]
#[case(1, &["Source", "Left", "Left", "Right", "OK"])]
fn a_list_that_clamps_is_safe_from_any_input(#[case] input: u8, #[case] keys: &[&str]) {
    let profile = projector(ListOpens::Current, ListEnds::Clamp);
    let belief = anything(&profile).into_iter().filter(|s| s.on && s.cursor.is_none()).collect();
    let found = solve(&profile, &belief, on_input(input)).unwrap();
    assert_eq!(found.len(), keys.len());
    if input != 1 {
        assert_eq!(found, keys);
    }
}

#[test]
fn a_list_that_wraps_and_opens_anywhere_cannot_be_made_certain() {
    let profile = projector(ListOpens::Current, ListEnds::Wrap);
    let belief = anything(&profile).into_iter().filter(|s| s.on && s.cursor.is_none()).collect();
    assert_eq!(solve(&profile, &belief, on_input(1)), Err(NoWord::Proved));
    assert_eq!(
        solve(&profile, &on(0), on_input(1)).unwrap(),
        ["Source", "Right", "OK"],
        "but it can from a known input"
    );
}

#[test]
fn a_toggle_alone_cannot_be_made_certain() {
    let mut profile = projector(ListOpens::First, ListEnds::Clamp);
    let Power::Discrete { on: key, .. } = profile.power else { unreachable!() };
    profile.power = Power::Toggle { key };
    let target = Target { on: Some(true), ..Target::default() };
    assert_eq!(solve(&profile, &anything(&profile), target), Err(NoWord::Proved));
    assert_eq!(solve(&profile, &on(0), target).unwrap(), Vec::<String>::new(), "known to be on, nothing is sent");
}

#[test]
fn what_is_already_right_needs_no_key() {
    let profile = projector(ListOpens::First, ListEnds::Clamp);
    assert!(solve(&profile, &on(2), on_input(2)).unwrap().is_empty());
}

#[test]
fn an_open_list_is_closed_by_the_word() {
    let profile = projector(ListOpens::First, ListEnds::Clamp);
    let open = BTreeSet::from([State { on: true, input: 2, cursor: Some(0), position: Position::Up }]);
    assert_eq!(solve(&profile, &open, on_input(2)).unwrap(), ["Source"], "the key that opens the list closes it");
}

#[test]
fn a_cycle_goes_the_shorter_way_where_there_is_one() {
    let mut profile = projector(ListOpens::First, ListEnds::Clamp);
    let Selection::Menu { next, previous, .. } = profile.selection else { unreachable!() };
    profile.selection = Selection::Cycle { next, previous: Some(previous) };
    assert_eq!(solve(&profile, &on(0), on_input(2)).unwrap(), ["Left"]);
    profile.selection = Selection::Cycle { next, previous: None };
    assert_eq!(solve(&profile, &on(0), on_input(2)).unwrap(), ["Right", "Right"]);
}

#[test]
fn power_on_may_change_the_input() {
    let mut profile = projector(ListOpens::First, ListEnds::Clamp);
    profile.after_power_on = AfterPowerOn::Fixed { id: profile.inputs[1].id };
    let off = BTreeSet::from([State { on: false, input: 0, cursor: None, position: Position::Up }]);
    assert_eq!(solve(&profile, &off, on_input(1)).unwrap(), ["Power on"]);
}

#[test]
fn keys_that_a_device_does_not_know_change_nothing() {
    let profile = projector(ListOpens::First, ListEnds::Clamp);
    let machine = Automaton::new(&profile);
    let stranger = FunctionId(uuid::Uuid::from_u128(7));
    for state in machine.states() {
        assert_eq!(machine.press(state, stranger), (state, Effect::None));
    }
}
