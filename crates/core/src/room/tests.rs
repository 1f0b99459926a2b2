//! The simulated room against the plans, and against itself.

use super::*;
use crate::demo::{self, ids};
use crate::model::{CodeBody, Position, Site, Situation};
use crate::plan::{goal, plan};
use kestrel_signal::{Message, ProtocolId};
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
        Outcome::Obeyed { what } | Outcome::Unchanged { what } => what,
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
    let end = start_ms + u64::from(plan.ready_ms.unwrap());
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
    let CodeBody::Decoded { message, .. } =
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
    let site = whole();
    assert_eq!(meaning(&site, Medium::Ir, &press(ids::projector(), "Power on")), "nec address=50 command=2");
    assert_eq!(meaning(&site, Medium::Rf433, &press(ids::screen(), "Up")), "ook-24 identity=369601 key=2");
}

/// What people and the mains do, and what a device has beside power and input.
mod hands {
    use super::*;
    use crate::model::{Hand, Playback};
    use crate::room::Want;
    use crate::room::comfort::{CREDITS_MS, FILM_MS};
    use rstest::rstest;

    fn loft() -> SimRoom {
        SimRoom::new(&demo::with_disc(), ids::chart_loft(), 0.5)
    }

    fn view(room: &SimRoom, device: DeviceId) -> DeviceView {
        room.view().into_iter().find(|view| view.device == device).unwrap()
    }

    #[test]
    fn a_pulled_plug_stops_everything_and_a_device_comes_back_as_its_profile_says() {
        let mut room = SimRoom::new(&demo::with_disc(), ids::boat_hall(), 0.5);
        for device in [ids::console(), ids::receiver()] {
            assert!(room.want(0, device, &Want::Power { on: true }).is_some());
        }
        room.advance(60_000);
        assert_eq!(room.hand(60_000, &Hand::Mains { on: false }).unwrap(), "the mains are gone");
        assert!(room.view().iter().all(|view| !view.plugged && view.power == PowerView::Off));
        let off = room.hand(61_000, &Hand::Power { device: ids::receiver() }).unwrap();
        assert_eq!(off, "nothing: its plug is out");
        room.hand(62_000, &Hand::Mains { on: true });
        // The console comes back as it was, the receiver stays off until the console wakes it over HDMI.
        assert_eq!(view(&room, ids::console()).power, PowerView::Starting);
        assert_eq!(view(&room, ids::receiver()).power, PowerView::Off);
        room.advance(120_000);
        assert_eq!(view(&room, ids::receiver()).power, PowerView::On);
    }

    #[test]
    fn what_moves_stands_still_where_it_lost_its_plug() {
        let mut room = SimRoom::new(&demo::with_disc(), ids::boat_hall(), 0.5);
        room.want(0, ids::screen(), &Want::Move { down: true });
        room.hand(11_500, &Hand::Plug { device: ids::screen(), plugged: false });
        room.hand(20_000, &Hand::Plug { device: ids::screen(), plugged: true });
        let screen = view(&room, ids::screen());
        assert_eq!((screen.down_percent, screen.moving), (Some(50), None));
    }

    /// The disc player switches itself off after half an hour, but not while it plays.
    #[test]
    fn automatic_standby_waits_until_nothing_plays() {
        let mut room = SimRoom::new(&demo::with_disc(), ids::boat_hall(), 0.5);
        room.want(0, ids::disc_player(), &Want::Power { on: true });
        room.advance(30_000);
        room.want(30_000, ids::disc_player(), &Want::Transport { to: Playback::Playing, from_ms: None });
        room.advance(3_000_000);
        assert_eq!(view(&room, ids::disc_player()).power, PowerView::On);
        room.want(3_000_000, ids::disc_player(), &Want::Transport { to: Playback::Paused, from_ms: None });
        room.advance(5_000_000);
        assert_eq!(view(&room, ids::disc_player()).power, PowerView::Off);
    }

    #[rstest]
    #[case(0, false, Playback::Playing)]
    #[case(CREDITS_MS, true, Playback::Playing)]
    #[case(FILM_MS, false, Playback::Stopped)]
    fn a_film_has_credits_and_an_end(#[case] at_ms: u64, #[case] credits: bool, #[case] transport: Playback) {
        let mut room = loft();
        room.want(0, ids::loft_streamer(), &Want::Transport { to: Playback::Playing, from_ms: None });
        room.advance(at_ms);
        let playing = view(&room, ids::loft_streamer()).playing.unwrap();
        assert_eq!((playing.credits, playing.transport), (credits, transport));
    }

    #[test]
    fn a_fade_starts_from_the_level_that_is_there() {
        let mut room = loft();
        let level = |room: &SimRoom| view(room, ids::loft_dimmer()).level_percent.unwrap();
        room.hand(0, &Hand::Level { device: ids::loft_dimmer(), percent: 80 });
        room.want(1_000, ids::loft_dimmer(), &Want::Level { percent: 0, fade_ms: 4_000 });
        room.advance(3_000);
        assert_eq!(level(&room), 40);
        assert!(room.under_way());
        room.want(3_000, ids::loft_dimmer(), &Want::Level { percent: 100, fade_ms: 2_000 });
        room.advance(4_000);
        assert_eq!(level(&room), 70);
        room.advance(9_000);
        assert_eq!((level(&room), room.under_way()), (100, false));
    }

    #[test]
    fn a_spoken_line_returns_to_the_volume_before() {
        let mut room = loft();
        room.want(0, ids::loft_receiver(), &Want::Power { on: true });
        room.advance(10_000);
        let loud = |room: &SimRoom| view(room, ids::loft_receiver()).volume_tenths.unwrap();
        assert_eq!(loud(&room), 300);
        room.want(10_000, ids::loft_receiver(), &Want::Say { text: "Ten minutes".to_owned(), percent: 50 });
        assert_eq!(loud(&room), 490);
        // A second line while the first is spoken still returns to what was before both.
        room.want(10_100, ids::loft_receiver(), &Want::Say { text: "Ten minutes".to_owned(), percent: 20 });
        room.advance(20_000);
        assert_eq!(loud(&room), 300);
    }

    #[rstest]
    #[case::no_such_input(Want::Input { index: 9 }, "it has no such input")]
    #[case::no_motion(Want::Move { down: true }, "it does not move")]
    #[case::too_loud(Want::Volume { tenths: 9_999 }, "its scale ends at 98")]
    #[case::no_player(Want::Transport { to: Playback::Playing, from_ms: None }, "it cannot do that")]
    fn what_a_device_cannot_do_is_said(#[case] want: Want, #[case] why: &str) {
        let mut room = loft();
        room.want(0, ids::loft_receiver(), &Want::Power { on: true });
        room.advance(10_000);
        let outcome = room.want(10_000, ids::loft_receiver(), &want).unwrap();
        assert_eq!(outcome, Outcome::Ignored { why: why.to_owned() });
    }

    /// A display behind a screen that is down gets no infrared.
    #[test]
    fn infrared_does_not_pass_a_screen_that_is_down() {
        let mut site = demo::with_disc();
        site.rooms.find_mut(|room| room.id == ids::boat_hall()).unwrap().floor = Default::default();
        site.devices.iter_mut().find(|device| device.id == ids::projector()).unwrap().behind = Some(ids::screen());
        let mut room = SimRoom::new(&site, ids::boat_hall(), 0.5);
        let on = site.profile_of(ids::projector()).unwrap().functions[0].clone();
        let sent = on.answers_to.unwrap().send_us(on.press, None);
        assert_eq!(room.radiate(0, Medium::Ir, &sent).len(), 1);
        room.want(1_000, ids::screen(), &Want::Move { down: true });
        assert_eq!(room.radiate(60_000, Medium::Ir, &sent).len(), 0);
    }
}

/// A screen whose third key drives it to a stop for another shape of picture.
mod stops {
    use super::*;
    use crate::edit;
    use crate::model::{Entity, NamedStop, Profile};
    use crate::prove::{Analysis, Guarantee};
    use rstest::rstest;

    fn masked(percent: u8) -> Site {
        let mut site = whole();
        let profile = site.device(ids::screen()).unwrap().profile;
        site.profiles.iter_mut().filter(|known| known.id == profile).for_each(|profile| {
            let motion = profile.motion.as_mut().unwrap();
            let key = motion.stop.take().unwrap();
            profile.stops = vec![NamedStop { name: "Scope".to_owned(), key, down_percent: percent, timed: None }];
        });
        site.activities.iter_mut().filter(|known| known.id == ids::feature_film()).for_each(|activity| {
            activity.moves.iter_mut().for_each(|movement| movement.to = Position::Stop(0));
        });
        site
    }

    fn film() -> Situation {
        Situation::In { activity: ids::feature_film() }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        #[test]
        fn a_plan_ends_at_the_stop_and_up_again_at_every_pace(pace in 0.0f64..=1.0, percent in 1u8..=99) {
            let site = masked(percent);
            let mut room = room(&site, pace);
            let (end, wrong) = run(&site, &mut room, Situation::Off, film(), 0);
            prop_assert!(wrong.is_empty(), "{:?}", wrong);
            prop_assert_eq!(view(&room, ids::screen()).down_percent, Some(percent));
            let (_, wrong) = run(&site, &mut room, film(), Situation::Off, end + 60_000);
            prop_assert!(wrong.is_empty(), "{:?}", wrong);
        }
    }

    #[test]
    fn it_is_proved_like_an_end_and_named_in_the_goal() {
        let site = masked(70);
        let proved =
            |site: &Site| Analysis::of(site, ids::boat_hall()).cell_plan(Situation::Off, film()).cell.guarantee;
        assert_eq!(proved(&site), proved(&whole()));
        assert_ne!(proved(&site), Guarantee::AtRisk);
        let goals = goal::goals(&site, ids::boat_hall(), film()).devices;
        let wish = &goals.iter().find(|goal| goal.device == ids::screen()).unwrap().wish;
        assert!(wish.contains("at “Scope”"), "{wish}");
    }

    #[test]
    fn another_key_of_its_motor_only_stops_it_on_the_way() {
        let site = masked(70);
        let mut room = room(&site, 0.0);
        room.radiate(0, Medium::Rf433, &press(ids::screen(), "Stop"));
        let heard = room.radiate(5_500, Medium::Rf433, &press(ids::screen(), "Down"));
        assert_eq!(heard[0].outcome, Outcome::Obeyed { what: "stopped at 25 % down".to_owned() });
        room.radiate(8_000, Medium::Rf433, &press(ids::screen(), "Stop"));
        room.advance(60_000);
        assert_eq!(view(&room, ids::screen()).down_percent, Some(70));
    }

    fn refused(change: impl Fn(&mut Profile)) -> String {
        let site = masked(70);
        let profile = site.device(ids::screen()).unwrap().profile;
        let mut profile = site.profile(profile).unwrap().clone();
        change(&mut profile);
        edit::validate(&site, &Entity::Profile(profile)).unwrap_err().to_string()
    }

    #[rstest]
    #[case::too_far(|p: &mut Profile| p.stops[0].down_percent = 100, "Give 1 to 99")]
    #[case::unnamed(|p: &mut Profile| p.stops[0].name = " ".to_owned(), "has no name")]
    #[case::twice(|p: &mut Profile| p.stops.push(p.stops[0].clone()), "two are called")]
    #[case::an_end(|p: &mut Profile| p.stops[0].key = p.motion.unwrap().down, "does something else already")]
    #[case::still(|p: &mut Profile| p.motion = None, "does not move")]
    #[case::in_use(|p: &mut Profile| p.stops.clear(), "moves Screen to “Scope”. Choose another position")]
    fn what_cannot_be_a_stop_is_refused(#[case] change: fn(&mut Profile), #[case] why: &str) {
        let said = refused(change);
        assert!(said.contains(why), "{said}");
    }

    #[test]
    fn an_activity_cannot_move_to_a_stop_that_is_not_there() {
        let site = masked(70);
        let mut film = site.activities.iter().find(|known| known.id == ids::feature_film()).unwrap().clone();
        film.moves.iter_mut().for_each(|movement| movement.to = Position::Stop(1));
        let refused = edit::validate(&site, &Entity::Activity(film)).unwrap_err();
        assert!(refused.to_string().contains("has no such stop"), "{refused}");
    }
}
