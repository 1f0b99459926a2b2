use super::find::{Conditions, Minutes, findings};
use super::preview::{Act, Evening, TimedEvent, play, usual};
use super::starts::{Way, starts};
use super::*;
use crate::demo::{self, ids};
use crate::finding::{Finding, Weight};
use crate::id::{DeviceId, RoomId, SwitchId, ZoneId};
use crate::light::watch::{CueAct, Happening, Watch};
use crate::model::{Also, Cue, ExitPath, Gesture, Light, Lighting, Moment, Playback, Provided, Site, Situation, Tell};
use jiff::civil::date;
use jiff::{Timestamp, ToSpan};
use proptest::prelude::*;
use rstest::rstest;
use std::collections::BTreeMap;
use uuid::Uuid;

fn site() -> Site {
    demo::with_disc()
}

/// 20:00 of a winter's evening at the demo house.
fn winter() -> Timestamp {
    "2027-01-15T20:00:00Z".parse().unwrap()
}

/// Noon of a summer's day there.
fn summer() -> Timestamp {
    "2027-06-21T11:00:00Z".parse().unwrap()
}

fn lit(site: &Site, room: RoomId) -> &Lighting {
    &site.room(room).unwrap().lighting
}

fn zone(site: &Site, name: &str) -> ZoneId {
    site.rooms.iter().flat_map(|room| &room.lighting.zones).find(|zone| zone.name == name).unwrap().id
}

fn level(evening: &Evening, zone: ZoneId, minute: u64) -> f64 {
    let at_ms = minute * 60_000;
    let line = evening.lines.iter().find(|line| line.zone == zone).unwrap();
    let after = line.points.iter().position(|point| point.at_ms > at_ms).unwrap_or(line.points.len());
    let before = line.points[after - 1];
    match line.points.get(after) {
        Some(next) => {
            let share = (at_ms - before.at_ms) as f64 / (next.at_ms - before.at_ms) as f64;
            before.level + share * (next.level - before.level)
        }
        None => before.level,
    }
}

fn titles(found: &[Finding]) -> Vec<&str> {
    found.iter().map(|finding| finding.title.as_str()).collect()
}

/// The lights of the Boat Hall from the start of the film to the way out at night, zone by zone.
#[test]
fn a_film_from_arrival_to_the_way_out() {
    let site = site();
    let events = usual(&site, ids::feature_film());
    let evening = play(&site, ids::boat_hall(), winter(), 120 * 60_000, &events);
    let zones = ["Ceiling", "Walls", "Steps", "Shelf"].map(|name| zone(&site, name));
    let at = |minute| zones.map(|zone| level(&evening, zone, minute).round() as u8);
    assert_eq!(at(4), [0, 0, 0, 0]);
    assert_eq!(at(9), [60, 40, 40, 30], "arrival");
    assert_eq!(at(30), [0, 0, 10, 0], "film");
    assert_eq!(at(42), [10, 20, 30, 10], "pause");
    assert_eq!(at(60), [0, 0, 10, 0], "on again");
    assert_eq!(at(97), [20, 20, 30, 20], "credits");
    assert_eq!(at(103), [60, 40, 40, 30], "over");
    assert_eq!(at(106), [20, 0, 40, 0], "the way out is lit");
    assert_eq!(at(119), [0, 0, 0, 0], "and dark after the walk");
    assert!(evening.dark_at_start && evening.sunset_ms.is_none());
    let walls = evening.lines.iter().find(|line| line.zone == zones[1]).unwrap();
    assert_eq!((walls.light[0], walls.light[50], walls.light[100]), (0.0, 3.16, 100.0), "IEC 62386-102");
    let held: Vec<&str> = evening.fired.iter().filter_map(|fired| fired.held.as_deref()).collect();
    assert!(held.contains(&"it is dark outside"), "{held:?}");
}

#[test]
fn a_fade_goes_on_from_where_the_light_is() {
    let site = site();
    let walls = zone(&site, "Walls");
    let film = Act::Happens { what: Happening::Starts { activity: ids::feature_film() } };
    let plays = Act::Transport { device: ids::disc_player(), transport: Playback::Playing, way: Way::OwnRemote };
    let events = [TimedEvent { at_ms: 0, act: film }, TimedEvent { at_ms: 500, act: plays }];
    let evening = play(&site, ids::boat_hall(), winter(), 60_000, &events);
    let line = evening.lines.iter().find(|line| line.zone == walls).unwrap();
    // 40 % in 1 s; at half a second, 20 %, on to 0 % in 4 s.
    let points: Vec<(u64, u8)> = line.points.iter().map(|p| (p.at_ms, p.level.round() as u8)).collect();
    assert_eq!(points, [(0, 0), (0, 0), (500, 20), (4_500, 0), (60_000, 0)]);
}

/// A level set by hand on the wall holds until the next cue that sets its zone.
#[test]
fn a_hand_on_the_wall_holds_until_the_next_cue() {
    let site = site();
    let shelf = zone(&site, "Shelf");
    let device = ids::disc_player();
    let act = |at_ms, act| TimedEvent { at_ms, act };
    let says = |transport| Act::Transport { device, transport, way: Way::OwnRemote };
    let events = [
        act(0, Act::Happens { what: Happening::Starts { activity: ids::feature_film() } }),
        act(60_000, says(Playback::Playing)),
        act(120_000, Act::Happens { what: Happening::Hand { zone: shelf, percent: 25 } }),
        act(1_200_000, says(Playback::Paused)),
    ];
    let evening = play(&site, ids::boat_hall(), winter(), 1_800_000, &events);
    assert_eq!(level(&evening, shelf, 19).round() as u8, 25);
    assert_eq!(level(&evening, shelf, 21).round() as u8, 10);
}

/// By voice, by casting, by the maker's own remote: a source that says what it does catches every way; one that does not
/// catches our key alone.
#[test]
fn every_way_of_starting_is_caught_or_has_a_remedy() {
    let site = site();
    let all = starts(&site, ids::boat_hall());
    let of = |device, transport| {
        all.iter().filter(move |start| start.device == device && start.transport == transport).collect::<Vec<_>>()
    };
    let disc = of(ids::disc_player(), Playback::Playing);
    assert!(disc.iter().all(|start| !start.caught_by.is_empty()), "{disc:?}");
    assert!(disc.iter().any(|start| start.way == Way::OwnRemote));
    let streamer = of(ids::streamer(), Playback::Playing);
    let caught: Vec<Way> = streamer.iter().filter(|start| !start.caught_by.is_empty()).map(|s| s.way).collect();
    assert_eq!(caught, [Way::OurKey]);
    let voice = streamer.iter().find(|start| start.way == Way::Voice).unwrap();
    assert!(voice.remedy.as_ref().unwrap().contains("reports its transport"), "{voice:?}");
    let loft = starts(&site, ids::chart_loft());
    assert!(loft.iter().any(|start| start.way == Way::Cast && !start.caught_by.is_empty()), "{loft:?}");
}

#[test]
fn the_boat_hall_has_no_hazard_and_the_bunk_cabin_every_mistake() {
    let site = site();
    let hall = findings(&site, ids::boat_hall());
    assert_eq!(titles(&hall), Vec::<&str>::new(), "{hall:?}");
    let cabin = findings(&site, ids::bunk_cabin());
    let expected =
        ["Two cues fight", "Never fires", "A ring of cues", "Never reset", "Dark way out", "Below the lamp's floor"];
    for title in expected {
        assert!(titles(&cabin).contains(&title), "{title}: {:?}", titles(&cabin));
    }
    let deck = findings(&site, ids::slip_deck());
    assert_eq!(titles(&deck), ["Unattended heat", "Unattended movement"]);
    assert!(deck.iter().all(|finding| finding.weight == Weight::Hazard));
}

fn put(site: &mut Site, room: RoomId, change: impl FnOnce(&mut Lighting)) {
    change(&mut site.rooms.iter_mut().find(|known| known.id == room).unwrap().lighting);
}

/// The clock at 20:30 and the sunset meet on some evening of the year, and are said with its date.
#[test]
fn the_clock_and_the_sun_fight_on_a_date() {
    let cabin = findings(&site(), ids::bunk_cabin());
    let fight = cabin.iter().find(|found| found.text.contains("20:30") && found.title == "Two cues fight").unwrap();
    assert!(fight.text.contains("(on 2027-"), "{}", fight.text);
    // In the dark of winter only they do not: the sun sets at 20:30 in the lighter half of the year alone.
    let mut site = site();
    put(&mut site, ids::bunk_cabin(), |light| {
        let at_noon = Provided::Between { from_min: 0, to_min: 1_140 };
        light
            .cues
            .iter_mut()
            .filter(|cue| matches!(cue.moment, Moment::Sun { .. }))
            .for_each(|cue| cue.provided = vec![at_noon.clone()]);
    });
    let calm = findings(&site, ids::bunk_cabin());
    assert!(!calm.iter().any(|found| found.title == "Two cues fight" && found.text.contains("20:30")), "{calm:?}");
}

#[test]
fn conditions_that_exclude_each_other_are_no_fight() {
    let mut site = site();
    put(&mut site, ids::bunk_cabin(), |light| {
        light.cues.retain(|cue| matches!(cue.moment, Moment::Starts { .. }));
        light.cues[0].provided = vec![Provided::NotIn {
            activity: match light.cues[1].moment {
                Moment::Starts { activity } => activity,
                _ => None,
            },
        }];
    });
    assert!(!titles(&findings(&site, ids::bunk_cabin())).contains(&"Two cues fight"));
}

#[test]
fn loud_announcements_and_flashing_lamps_are_hazards() {
    let mut site = site();
    let room = ids::chart_loft();
    let quiet = titles(&findings(&site, room)).into_iter().map(str::to_owned).collect::<Vec<_>>();
    assert!(!quiet.iter().any(|title| title == "Sudden loudness" || title == "Can flash"), "{quiet:?}");
    put(&mut site, room, |light| {
        for look in &mut light.looks {
            look.fade_ms = 0;
        }
        for cue in &mut light.cues {
            for also in &mut cue.also {
                if let Also::Say { percent, .. } = also {
                    *percent = 90;
                }
            }
        }
    });
    // The sensor tells after 200 ms: a change each way takes 400 ms, which is slower than three a second.
    let slow = findings(&site, room);
    assert!(titles(&slow).contains(&"Sudden loudness") && !titles(&slow).contains(&"Can flash"), "{:?}", titles(&slow));
    let sensor = site.profile_of(ids::stair_sensor()).unwrap().id;
    for profile in site.profiles.iter_mut().filter(|profile| profile.id == sensor) {
        profile.feedback = crate::model::Feedback::Push { delay_ms: 50, tells: vec![Tell::Motion] };
    }
    assert!(titles(&findings(&site, room)).contains(&"Can flash"));
}

/// A lamp on a timer is no hazard; the same moment with a heater is.
#[test]
fn a_candle_on_a_timer_is_no_hazard() {
    let mut site = site();
    put(&mut site, ids::slip_deck(), |light| light.cues.iter_mut().for_each(|cue| cue.also.clear()));
    assert_eq!(titles(&findings(&site, ids::slip_deck())), Vec::<&str>::new());
}

#[test]
fn a_room_without_a_named_way_out_says_so() {
    let mut site = site();
    put(&mut site, ids::boat_hall(), |light| light.exit = None);
    assert_eq!(titles(&findings(&site, ids::boat_hall())), ["No way out named"]);
    put(&mut site, ids::boat_hall(), |light| {
        light.exit = Some(ExitPath { zones: vec![light.zones[2].id], percent: 30, walk_s: 60 });
        light.cues.retain(|cue| cue.moment != Moment::RoomOff);
    });
    let found = findings(&site, ids::boat_hall());
    let way_out = found.iter().find(|finding| finding.title == "Dark way out").unwrap();
    assert!(way_out.text.starts_with("Nothing lights Steps on the way out"), "{}", way_out.text);
}

/// No cue is twice in one chain: a ring of switches goes round once.
#[test]
fn a_ring_goes_round_once() {
    let site = site();
    let mut watch = Watch::new(&site, ids::bunk_cabin(), winter());
    let light = lit(&site, ids::bunk_cabin());
    let bedtime = light.switches[0].id;
    watch.happen(0, &Happening::Set { switch: bedtime, on: true });
    let rounds: Vec<&crate::light::watch::Fired> = watch.fired().iter().filter(|fired| fired.held.is_none()).collect();
    assert_eq!(rounds.len(), 2, "{rounds:?}");
}

#[test]
fn a_snack_break_puts_source_playback_and_light_back() {
    let site = site();
    let mut watch = Watch::new(&site, ids::chart_loft(), winter());
    let (remote, streamer) = (ids::loft_remote(), ids::loft_streamer());
    let lamps = zone(&site, "Loft lamps");
    watch.happen(0, &Happening::Starts { activity: ids::loft_film() });
    watch.happen(60_000, &Happening::Says { device: streamer, transport: Playback::Playing });
    let pause = site.profile_of(remote).unwrap().functions[11].id;
    let press = Happening::Press { device: remote, function: pause, gesture: Gesture::DoubleTap };
    let deeds = watch.happen(120_000, &press);
    assert!(deeds.contains(&CueAct::Transport { device: streamer, transport: Playback::Paused }), "{deeds:?}");
    assert_eq!(watch.level(lamps, 130_000), 25.0);
    // Nobody presses again: ten minutes later it goes on by itself.
    assert_eq!(watch.next_ms(130_000), Some(720_000));
    let back = watch.pass(720_000);
    assert!(back.iter().any(|(_, deed)| *deed == CueAct::Transport { device: streamer, transport: Playback::Playing }));
    assert_eq!(watch.level(lamps, 730_000), 0.0);
}

/// A visit to another activity puts back the light that was there, also where the cue itself leaves it alone, and a
/// second press comes back sooner.
#[rstest]
#[case::by_itself(None)]
#[case::by_a_second_press(Some(60_000))]
fn a_visit_elsewhere_leaves_no_trace(#[case] again_ms: Option<u64>) {
    let mut site = site();
    let (streamer, keypad) = (ids::loft_streamer(), ids::loft_keypad());
    let key = site.profile_of(keypad).unwrap().functions[3].id;
    let moment = Moment::Press { device: keypad, function: key, gesture: Gesture::Hold };
    put(&mut site, ids::chart_loft(), |light| {
        let visit = Also::StepAside { device: streamer, to: Some(ids::loft_news()), minutes: 5 };
        let id = Uuid::from_u128(9).into();
        light.cues.push(Cue {
            id,
            position: 0,
            moment,
            provided: vec![],
            light: Light::Stays,
            also: vec![visit],
            off: false,
        });
    });
    let mut watch = Watch::new(&site, ids::chart_loft(), winter());
    let (lamps, strip) = (zone(&site, "Loft lamps"), zone(&site, "Shelf strip"));
    watch.happen(0, &Happening::Starts { activity: ids::loft_film() });
    watch.happen(60_000, &Happening::Says { device: streamer, transport: Playback::Playing });
    watch.happen(90_000, &Happening::Hand { zone: lamps, percent: 15 });
    let press = Happening::Press { device: keypad, function: key, gesture: Gesture::Hold };
    let news = Situation::In { activity: ids::loft_news() };
    assert!(watch.happen(120_000, &press).contains(&CueAct::Ask { to: news }));
    watch.happen(121_000, &Happening::Starts { activity: ids::loft_news() });
    assert_eq!(watch.level(lamps, 130_000), 50.0, "the arrival look of the news");
    let back = match again_ms {
        Some(after) => watch.happen(120_000 + after, &press),
        None => watch.pass(420_000).into_iter().map(|(_, deed)| deed).collect(),
    };
    let film = Situation::In { activity: ids::loft_film() };
    assert!(back.contains(&CueAct::Ask { to: film }), "{back:?}");
    assert!(back.contains(&CueAct::Transport { device: streamer, transport: Playback::Playing }), "{back:?}");
    assert_eq!(watch.happen(425_000, &Happening::Starts { activity: ids::loft_film() }), [], "no arrival");
    assert_eq!((watch.level(lamps, 500_000), watch.level(strip, 500_000)), (15.0, 8.0));
    assert_eq!(watch.pass(900_000), [], "once");
}

/// The snack is over in bed: the source pauses, and the room goes off a while later, unless it is off already.
#[test]
fn pause_and_off_comes_later_and_once() {
    let mut site = site();
    let streamer = ids::loft_streamer();
    put(&mut site, ids::chart_loft(), |light| {
        light.cues[2].also = vec![Also::PauseAndOff { device: streamer, after_s: 300 }];
    });
    let mut watch = Watch::new(&site, ids::chart_loft(), winter());
    watch.happen(0, &Happening::Starts { activity: ids::loft_film() });
    let paused = Happening::Says { device: streamer, transport: Playback::Paused };
    let deeds = watch.happen(60_000, &paused);
    assert!(deeds.contains(&CueAct::Transport { device: streamer, transport: Playback::Paused }));
    assert_eq!(watch.next_ms(60_000), Some(360_000));
    assert_eq!(watch.pass(360_000), [(360_000, CueAct::Ask { to: Situation::Off })]);
    watch.happen(400_000, &paused);
    watch.happen(410_000, &Happening::RoomOff);
    assert_eq!(watch.pass(900_000), [], "it is off already");
}

#[test]
fn light_goes_back_to_what_it_was_before_the_last_look() {
    let mut site = site();
    let disc = ids::disc_player();
    put(&mut site, ids::boat_hall(), |light| light.cues[3].light = Light::Before { fade_ms: 1_000 });
    let mut watch = Watch::new(&site, ids::boat_hall(), winter());
    let shelf = zone(&site, "Shelf");
    watch.happen(0, &Happening::Starts { activity: ids::feature_film() });
    watch.happen(60_000, &Happening::Says { device: disc, transport: Playback::Playing });
    assert_eq!(watch.level(shelf, 70_000), 0.0);
    watch.happen(80_000, &Happening::Says { device: disc, transport: Playback::Paused });
    assert_eq!(watch.level(shelf, 90_000), 30.0, "the arrival look");
}

#[test]
fn a_switch_goes_off_by_itself_and_a_cue_of_the_clock_asks_for_it() {
    let site = site();
    let mut watch = Watch::new(&site, ids::chart_loft(), winter());
    let guests = lit(&site, ids::chart_loft()).switches[0].id;
    watch.happen(0, &Happening::Set { switch: guests, on: true });
    // Half past ten, 2.5 h later: guests are there, nothing is said. 15 January 2027 is a Friday, which is excluded anyway.
    assert_eq!(watch.pass(3 * 3_600_000), []);
    assert!(watch.is_on(guests));
    watch.pass(7 * 3_600_000);
    assert!(!watch.is_on(guests));
    // Sunday's half past ten.
    let sunday = (2 * 24 + 3) * 3_600_000;
    let said = watch.pass(sunday);
    assert!(said.iter().any(|(_, deed)| matches!(deed, CueAct::Also { what: Also::Say { .. } })), "{said:?}");
}

#[test]
fn by_day_the_room_goes_dark_at_once() {
    let site = site();
    let events = usual(&site, ids::feature_film());
    let evening = play(&site, ids::boat_hall(), summer(), 120 * 60_000, &events);
    assert!(!evening.dark_at_start);
    assert_eq!(level(&evening, zone(&site, "Steps"), 106).round() as u8, 0);
}

/// Our calendar, read by a parser that the project did not write: one event for every evening, at the minute of the cue.
#[test]
fn schedules_are_read_by_an_independent_parser() {
    let site = site();
    let text = calendar::calendar(&site, ids::chart_loft(), date(2027, 3, 26));
    let calendars: Vec<_> = ical::IcalParser::new(text.as_bytes()).map(Result::unwrap).collect();
    let events = &calendars[0].events;
    let property = |event: &ical::parser::ical::component::IcalEvent, name: &str| {
        event.properties.iter().find(|known| known.name == name).and_then(|known| known.value.clone()).unwrap()
    };
    let of = |day: &str| {
        events
            .iter()
            .filter(|event| property(event, "SUMMARY").starts_with("22:30"))
            .find(|event| property(event, "UID").ends_with(day))
            .map(|event| property(event, "DTSTART"))
    };
    // Half past ten by the clock on the wall, before and after the clocks go forward on 28 March 2027.
    assert_eq!(of("2027-03-25"), None);
    assert_eq!(of("2027-03-26"), None, "a Friday");
    assert_eq!(of("2027-03-28").as_deref(), Some("20270328T213000Z"));
    assert_eq!(of("2027-04-01").as_deref(), Some("20270401T213000Z"));
    assert_eq!(of("2028-01-03").as_deref(), Some("20280103T223000Z"));
    assert_eq!(events.iter().filter(|event| property(event, "SUMMARY").contains("sunset")).count(), 366);
}

#[test]
fn a_copied_room_has_light_of_its_own() {
    let site = site();
    let own = lit(&site, ids::boat_hall());
    let other: DeviceId = Uuid::from_u128(77).into();
    let mut others: BTreeMap<Uuid, Uuid> = own.ids().map(|id| (id, Uuid::from_u128(id.as_u128() ^ 1 << 64))).collect();
    others.insert(ids::disc_player().0, other.0);
    let moved = crate::edit::copy::with_ids(own, &others);
    assert_eq!((moved.zones.len(), moved.looks.len(), moved.cues.len()), (4, 7, own.cues.len()));
    assert!(moved.zones.iter().all(|zone| own.zone(zone.id).is_none()));
    assert!(moved.looks[0].levels.iter().all(|level| moved.zone(level.zone).is_some()));
    assert!(moved.cues.iter().any(|cue| cue.moment == Moment::Says { device: other, transport: Playback::Playing }));
}

#[rstest]
#[case::time(|light: &mut Lighting| light.cues[0].moment = Moment::Clock { minute: 1440, until: None }, "between 0:00 and 23:59")]
#[case::level(|light: &mut Lighting| light.looks[0].levels[0].percent = 101, "between 0 and 100 %")]
#[case::look(|light: &mut Lighting| { light.looks.remove(0); }, "look")]
#[case::name(|light: &mut Lighting| light.zones[1].name = "Ceiling".to_owned(), "taken")]
#[case::days(|light: &mut Lighting| light.cues[0].provided = vec![Provided::Days { days: vec![8] }], "1 is Monday")]
#[case::fade(|light: &mut Lighting| light.looks[0].fade_ms = 3_600_001, "an hour at most")]
fn what_makes_no_sense_is_refused(#[case] change: fn(&mut Lighting), #[case] says: &str) {
    let mut site = site();
    put(&mut site, ids::boat_hall(), change);
    let error = crate::edit::valid::light::room(site.room(ids::boat_hall()).unwrap()).unwrap_err().to_string();
    assert!(error.contains(says), "{error}");
}

fn provided() -> impl Strategy<Value = Provided> {
    let (switch, film) = (SwitchId(Uuid::from_u128(1)), ids::feature_film());
    prop_oneof![
        (0u16..1440, 0u16..1440).prop_map(|(from_min, to_min)| Provided::Between { from_min, to_min }),
        prop::collection::vec(1u8..=7, 1..5).prop_map(|days| Provided::Days { days }),
        any::<bool>().prop_map(move |on| Provided::Switch { switch, on }),
        any::<bool>().prop_map(|dark| Provided::Dark { dark }),
        any::<bool>().prop_map(move |film_is_on| Provided::In { activity: film_is_on.then_some(film) }),
        any::<bool>().prop_map(move |film_is_on| Provided::NotIn { activity: film_is_on.then_some(film) }),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

    /// Reasoning over intervals says the same as trying every minute of a year, every switch and every activity.
    #[test]
    fn intervals_agree_with_brute_force(
        one in prop::collection::vec(provided(), 0..4),
        other in prop::collection::vec(provided(), 0..4),
    ) {
        let place = crate::model::Standpoint {
            latitude: 51.2.into(), longitude: (-14.5).into(), zone: "MPT0MPS,M3.5.0/1,M10.5.0".to_owned(),
        };
        let year = super::find::Year::at(Some(&place));
        let cue = |provided: Vec<Provided>| Cue {
            position: 0,
            id: Uuid::nil().into(),
            moment: Moment::Press { device: ids::loft_keypad(), function: ids::receiver_disc(), gesture: Gesture::Tap },
            provided, light: Light::Stays, also: vec![], off: false,
        };
        let (a, b) = (cue(one.clone()), cue(other.clone()));
        let both = Conditions::of(&a).zip(Conditions::of(&b)).and_then(|(a, b)| a.and(&b));
        let reasoned = both.is_some_and(|both| both.happens(&year));
        let mut site = site();
        site.house.place = Some(place);
        // A week of every month, every quarter of an hour: narrow windows can be missed by trying, not by reasoning.
        let (switch, within) = ([false, true], [None, Some(ids::feature_film()), Some(ids::streaming())]);
        let watches = within.map(|activity| {
            let mut watch = Watch::new(&site, ids::boat_hall(), winter());
            if let Some(activity) = activity {
                watch.happen(0, &Happening::Starts { activity });
            }
            watch
        });
        let all: Vec<&Provided> = one.iter().chain(&other).collect();
        let zone = site.house.place.as_ref().unwrap().time_zone();
        let tried = watches.into_iter().any(|mut watch| {
            (0..12 * 7).any(|day| {
                let day = date(2027, 1, 1).checked_add((day / 7 * 30 + day % 7).days()).unwrap();
                (0..1440).step_by(15).any(|minute| {
                    watch.set_time(0, crate::light::hours::clock(&zone, day, minute).unwrap());
                    switch.iter().any(|is_on| {
                        all.iter().all(|provided| match provided {
                            Provided::Switch { on, .. } => on == is_on,
                            other => watch.holds(other, 0),
                        })
                    })
                })
            })
        });
        prop_assert!(!tried || reasoned, "found by trying and not by reasoning: {one:?} {other:?}");
        let windows = one.iter().chain(&other).filter(|p| matches!(p, Provided::Between { .. })).count();
        prop_assert!(tried || !reasoned || windows > 0, "reasoned and not found: {one:?} {other:?}");
    }

    #[test]
    fn minutes_are_a_set(a in (0u16..1440, 0u16..1440), b in (0u16..1440, 0u16..1440)) {
        let (left, right) = (Minutes::between(a.0, a.1), Minutes::between(b.0, b.1));
        let both = left.and(&right);
        for minute in 0..1440 {
            prop_assert_eq!(both.has(minute), left.has(minute) && right.has(minute));
            prop_assert_eq!(left.rest().has(minute), !left.has(minute));
        }
    }
}

/// 23:00 to 1:30, over midnight: what it set goes back to what it was.
#[test]
fn a_cue_of_two_clock_times_puts_back_at_the_second_what_it_set_at_the_first() {
    let mut site = demo::marram_point();
    let room = site.rooms.find_mut(|room| room.id == ids::boat_hall()).unwrap();
    let look = room.lighting.looks[0].clone();
    room.lighting.switches[0].off_after_min = None;
    let switch = room.lighting.switches[0].id;
    let mut cue = room.lighting.cues[0].clone();
    cue.moment = Moment::Clock { minute: 23 * 60, until: Some(90) };
    cue.provided = vec![];
    cue.light = Light::Look { look: look.id, fade_ms: Some(0) };
    cue.also = vec![Also::Set { switch, on: true }];
    room.lighting.cues = vec![cue];
    let zone = look.levels[0].zone;
    let mut watch = Watch::new(&site, ids::boat_hall(), winter());
    let (_, minute) = watch.local(0);
    let until = |clock: u64| ((clock + 1440 - u64::from(minute)) % 1440) * 60_000;
    watch.happen(1, &Happening::Dim { zone, percent: 7, fade_ms: 0 });
    let (from, to) = (until(23 * 60), until(90));
    assert!(from < to, "{from} {to}");
    watch.pass(from);
    assert!((watch.level(zone, from) - f64::from(look.levels[0].percent)).abs() < 0.1);
    assert!(watch.is_on(switch));
    assert_eq!(watch.next_ms(from), Some(to));
    watch.pass(to - 1);
    assert!(watch.is_on(switch));
    let deeds = watch.pass(to);
    assert!(deeds.iter().any(|(at, deed)| *at == to && matches!(deed, CueAct::Level { percent: 7, .. })), "{deeds:?}");
    assert!((watch.level(zone, to) - 7.0).abs() < 0.1);
    assert!(!watch.is_on(switch));
}
