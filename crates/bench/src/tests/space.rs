//! A room that is drawn: what is sent through the gateway that is heard, and what is believed of what may not arrive.

use super::*;
use crate::belief::Beliefs;
use kestrel_core::device::{State, Timed};
use kestrel_core::model::{Placed, Standing};
use kestrel_core::plan::Start;
use std::collections::BTreeSet;

fn hall_gateway(site: &Site) -> DeviceId {
    site.devices.iter().find(|own| own.name == "Hall gateway").unwrap().id
}

fn placed(site: &Site, device: DeviceId) -> Placed {
    site.placed.iter().find(|own| own.device == device).unwrap().clone()
}

/// The hall with a second gateway beside the first one, whose light gets nowhere: the first in the list is the weak one.
fn with_a_weak_gateway() -> Site {
    let mut site = whole();
    let own = hall_gateway(&site);
    let mut second = site.device(own).unwrap().clone();
    (second.id, second.name) = (DeviceId(uuid::Uuid::from_u128(1)), "Second gateway".to_owned());
    let mut place = placed(&site, own);
    (place.id, place.device) = (kestrel_core::id::PlacedId(uuid::Uuid::from_u128(2)), second.id);
    let mut weak = site.profiles.iter().find(|profile| profile.id == second.profile).unwrap().clone();
    weak.id = kestrel_core::id::ProfileId(uuid::Uuid::from_u128(3));
    weak.optics.as_mut().unwrap().emits.as_mut().unwrap().mw_per_sr = 1;
    site.devices.find_mut(|known| known.id == own).unwrap().profile = weak.id;
    site.profiles.push(weak);
    // Whichever reaches it.
    while let Some(device) = site.devices.find_mut(|own| own.paths.iter().any(|path| path.through.is_some())) {
        device.paths.iter_mut().for_each(|path| path.through = None);
    }
    site.devices.push(second);
    site.placed.push(place);
    site
}

/// The front of the disc player is behind the cloth of the screen.
fn behind_the_cloth() -> Site {
    let mut site = whole();
    let own = site.placed.find_mut(|own| own.device == ids::disc_player()).unwrap();
    (own.at_mm, own.azimuth_deg) = ([20, 2_100, 1_200], 0);
    site
}

/// Plans count on the gateway that is heard best; what is sent in the rehearsal room goes through that one, and not through
/// the first in the list.
#[tokio::test(start_paused = true)]
async fn of_two_gateways_in_a_room_the_one_that_is_heard_sends() {
    let site = with_a_weak_gateway();
    let weak = hall_gateway(&site);
    let best = kestrel_core::space::way::way(&site, ids::projector(), function(&site, ids::projector(), "Power on"));
    assert_ne!(best.unwrap().gateway, Some(weak));
    let rehearsal = Rehearsal::in_memory(Arc::new(site), ids::boat_hall(), 1.0);
    rehearsal.run(film()).await.unwrap();
    arrived_but(&ended(&rehearsal).await, &[]);
    assert_eq!(power(&rehearsal, ids::projector()), PowerView::On);
    assert_eq!(power(&rehearsal, ids::disc_player()), PowerView::On);
}

/// Nothing went wrong, and in truth nothing but this is otherwise than it should be.
fn arrived_but(run: &RunView, differs: &[&str]) {
    assert!(matches!(run.end, Some(RunEnd::Ready | RunEnd::Sent)), "{run:?}");
    assert_eq!(run.in_truth, differs, "{run:?}");
}

#[rstest]
#[case::it_hangs_before_the_window(Some(Standing::Down), &[true])]
#[case::it_hangs_above_the_window(Some(Standing::Up), &[false])]
#[case::nobody_knows_how_it_hangs(None, &[false, true])]
fn what_a_screen_may_keep_off_is_believed_both_ways(#[case] screen: Option<Standing>, #[case] is_on: &[bool]) {
    let site = behind_the_cloth();
    let hall = ids::boat_hall();
    let state = |state: State| BTreeSet::from([Timed::from(state)]);
    let mut known = Start::from([(ids::disc_player(), state(State { on: true, ..State::default() }))]);
    known.extend(screen.map(|position| (ids::screen(), state(State { on: true, position, ..State::default() }))));
    let mut beliefs = Beliefs::at(0, known);
    beliefs.sent(&site, hall, ids::disc_player(), function(&site, ids::disc_player(), "Power off"), 1_000);
    let after = beliefs.start(&site, 60_000);
    let found: BTreeSet<bool> = after[&ids::disc_player()].iter().map(|own| own.state.on).collect();
    assert_eq!(found, is_on.iter().copied().collect());
}
