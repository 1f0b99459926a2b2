//! The simulated room against the plans, and against itself.

use super::*;
use crate::demo::{self, ids};
use crate::device::Position;
use crate::plan::{Situation, goal, plan};
use crate::signal::{Message, ProtocolId};
use crate::site::{CodeBody, Site};
use proptest::prelude::*;

fn whole() -> Site {
    demo::with_disc()
}

fn room(site: &Site, pace: f64) -> SimRoom {
    SimRoom::new(site, ids::boat_hall(), pace)
}

fn press(device: crate::id::DeviceId, name: &str) -> Vec<u32> {
    let site = whole();
    let profile = site.model_of(device).unwrap();
    let function = profile.functions.iter().find(|f| f.name == name).unwrap();
    function.answers_to.as_ref().unwrap().press_us()
}

fn view(room: &SimRoom, device: crate::id::DeviceId) -> DeviceView {
    room.view().into_iter().find(|v| v.device == device).unwrap()
}

fn ignored(heard: &[Heard]) -> &str {
    match &heard[0].outcome {
        Outcome::Ignored { why } => why,
        Outcome::Obeyed { what } => what,
    }
}

/// Sends a plan as the runtime does and says what differs at the end.
fn run(site: &Site, room: &mut SimRoom, from: Situation, to: Situation, start_ms: u64) -> (u64, Vec<String>) {
    let plan = plan(site, ids::boat_hall(), from, to);
    for step in &plan.steps {
        let code = step.code.as_ref().unwrap();
        let heard = room.radiate(start_ms + u64::from(step.end_ms), step.medium, &code.press_us());
        assert_eq!(heard.len(), 1, "{} is understood by one device", step.name);
    }
    let end = start_ms + u64::from(plan.ready_ms);
    room.advance(end);
    (end, room.differences(&goal::goals(site, ids::boat_hall(), to).devices))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// The law that ties plan and room together: whatever the real durations, a plan ends in its goal.
    #[test]
    fn a_plan_from_off_ends_right_at_every_pace(pace in 0.0f64..=1.0) {
        let site = whole();
        let mut room = room(&site, pace);
        let film = Situation::In { activity: ids::feature_film() };
        let streaming = Situation::In { activity: ids::streaming() };
        let (end, wrong) = run(&site, &mut room, Situation::Off, film, 0);
        prop_assert!(wrong.is_empty(), "{:?}", wrong);
        let (end, wrong) = run(&site, &mut room, film, streaming, end + 5_000);
        prop_assert!(wrong.is_empty(), "{:?}", wrong);
        let (_, wrong) = run(&site, &mut room, streaming, Situation::Off, end + 5_000);
        prop_assert!(wrong.is_empty(), "{:?}", wrong);
    }
}

#[test]
fn a_projector_that_starts_up_ignores_its_menu_and_says_why() {
    let site = whole();
    let mut room = room(&site, 1.0);
    room.radiate(108, Medium::Ir, &press(ids::projector(), "Power on"));
    assert_eq!(view(&room, ids::projector()).power, PowerView::Starting);
    let heard = room.radiate(10_000, Medium::Ir, &press(ids::projector(), "Source"));
    assert_eq!(ignored(&heard), "it is starting up and takes commands in 19.5 s");
    room.advance(29_508);
    assert_eq!(view(&room, ids::projector()).power, PowerView::On);
}

#[test]
fn a_cooling_lamp_ignores_power_keys() {
    let site = whole();
    let mut room = room(&site, 1.0);
    room.radiate(0, Medium::Ir, &press(ids::projector(), "Power on"));
    room.radiate(40_000, Medium::Ir, &press(ids::projector(), "Power off"));
    assert_eq!(view(&room, ids::projector()).power, PowerView::Cooling);
    let heard = room.radiate(60_000, Medium::Ir, &press(ids::projector(), "Power on"));
    assert!(ignored(&heard).starts_with("it is cooling"), "{}", ignored(&heard));
    room.advance(130_000);
    assert_eq!(view(&room, ids::projector()).power, PowerView::Off);
}

#[test]
fn a_code_of_another_device_is_not_understood() {
    let site = whole();
    let mut room = room(&site, 0.5);
    let stranger = Message::new(ProtocolId::Nec, [("address", 51), ("command", 2)]).unwrap();
    assert!(room.radiate(0, Medium::Ir, &stranger.encode(1)).is_empty());
    assert!(room.radiate(0, Medium::Rf433, &press(ids::projector(), "Power on")).is_empty(), "nor by radio");
}

#[test]
fn a_press_with_too_few_frames_is_not_understood() {
    let site = whole();
    let CodeBody::Decoded { message } =
        site.model_of(ids::disc_player()).unwrap().functions[0].answers_to.clone().unwrap()
    else {
        unreachable!()
    };
    assert!(room(&site, 0.5).radiate(0, Medium::Ir, &message.encode(2)).is_empty());
    assert_eq!(room(&site, 0.5).radiate(0, Medium::Ir, &message.encode(3)).len(), 1);
}

#[test]
fn the_screen_travels_stops_and_is_found_half_way() {
    let site = whole();
    let mut room = room(&site, 0.0);
    room.radiate(0, Medium::Rf433, &press(ids::screen(), "Down"));
    assert_eq!(view(&room, ids::screen()).moving, Some(Position::Down));
    let heard = room.radiate(11_000, Medium::Rf433, &press(ids::screen(), "Stop"));
    assert_eq!(heard[0].outcome, Outcome::Obeyed { what: "stopped at 50 % down".to_owned() });
    let film = Situation::In { activity: ids::feature_film() };
    let goals = goal::goals(&site, ids::boat_hall(), film).devices;
    room.advance(60_000);
    let wrong = room.differences(&goals);
    assert!(wrong.contains(&"Screen should be down but is 50 % down.".to_owned()), "{wrong:?}");
}

#[test]
fn a_reversal_only_stops_the_motor() {
    let site = whole();
    let mut room = room(&site, 0.0);
    room.radiate(0, Medium::Rf433, &press(ids::screen(), "Down"));
    let heard = room.radiate(5_500, Medium::Rf433, &press(ids::screen(), "Up"));
    assert_eq!(heard[0].outcome, Outcome::Obeyed { what: "stopped at 25 % down".to_owned() });
    assert_eq!(view(&room, ids::screen()).moving, None);
}

#[test]
fn an_edit_keeps_what_is_on_on() {
    let mut site = whole();
    let mut room = room(&site, 0.5);
    room.radiate(0, Medium::Ir, &press(ids::receiver(), "Power on"));
    room.advance(20_000);
    site.devices.iter_mut().for_each(|device| device.name.push('!'));
    room.refit(&site, ids::boat_hall(), 0.5);
    assert_eq!(view(&room, ids::receiver()).power, PowerView::On);
}

#[test]
fn what_is_on_the_air_is_told_in_words() {
    assert_eq!(meaning(Medium::Ir, &press(ids::projector(), "Power on")), "nec address=50 command=2");
    assert_eq!(meaning(Medium::Rf433, &press(ids::screen(), "Up")), "ook-24 identity=369601 key=2");
}
