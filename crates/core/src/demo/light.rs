//! The light of the demo house. *Boat Hall* follows what the disc player says, *Chart Loft* its keypad and sensors; the
//! *Bunk Cabin* and the *Slip Deck* show the mistakes that people make.

use super::{BOAT_HALL, BUNK_CABIN, CHART_LOFT, SLIP_DECK, device_id, id, which};
use crate::id::{ActivityId, DeviceId, FunctionId, LookId, SwitchId, ZoneId};
use crate::library::function_id;
use crate::model::{
    Accepted, Also, Cue, Curve, ExitPath, Feedback, Gesture, Level, Light, Lighting, Look, ModeSwitch, Moment,
    Override, Provided, Situation, Standpoint, Tell, Transport, Zone,
};

/// On an invented coast, an hour later in summer.
pub(super) fn place() -> Standpoint {
    let zone = "MPT0MPS,M3.5.0/1,M10.5.0".to_owned();
    Standpoint { latitude: 51.2.into(), longitude: (-14.5).into(), zone }
}

/// The disc player of the Boat Hall is on the network too and says what it plays.
pub(super) fn overrides(device: u32) -> Vec<Override> {
    if device != 4 {
        return vec![];
    }
    vec![Override::Feedback(Feedback::Push { delay_ms: 300, tells: vec![Tell::Transport] })]
}

fn zone_id(number: u32) -> ZoneId {
    id(12, number)
}

fn look_id(number: u32) -> LookId {
    id(13, number)
}

fn switch_id(number: u32) -> SwitchId {
    id(15, number)
}

fn activity(number: u32) -> ActivityId {
    id(9, number)
}

fn function(device: u32, index: u32) -> FunctionId {
    function_id(which(device).number(), index)
}

fn zone(number: u32, name: &str, device: u32) -> Zone {
    let (floor_percent, curve) = (5, Curve::Logarithmic);
    Zone { id: zone_id(number), name: name.to_owned(), device: device_id(device), floor_percent, curve }
}

fn look(number: u32, name: &str, fade_ms: u32, levels: &[(u32, u8)]) -> Look {
    let levels = levels.iter().map(|&(zone, percent)| Level { zone: zone_id(zone), percent }).collect();
    Look { id: look_id(number), name: name.to_owned(), levels, fade_ms, stored: None }
}

fn cue(number: u32, moment: Moment, provided: Vec<Provided>, light: Light, also: Vec<Also>) -> Cue {
    Cue { id: id(14, number), position: 0, moment, provided, light, also, off: false }
}

fn to(look: u32) -> Light {
    Light::Look { look: look_id(look), fade_ms: None }
}

fn says(device: DeviceId, transport: Transport) -> Moment {
    Moment::Says { device, transport }
}

/// What was looked at and accepted.
pub(super) fn accepted(_room: u32) -> Vec<Accepted> {
    vec![]
}

pub(super) fn lighting(room: u32) -> Lighting {
    match room {
        BOAT_HALL => boat_hall(),
        BUNK_CABIN => bunk_cabin(),
        SLIP_DECK => slip_deck(),
        CHART_LOFT => chart_loft(),
        _ => Lighting::default(),
    }
}

fn boat_hall() -> Lighting {
    let disc = device_id(4);
    let leaving = switch_id(1);
    Lighting {
        zones: vec![zone(1, "Ceiling", 53), zone(2, "Walls", 54), zone(3, "Steps", 55), zone(4, "Shelf", 56)],
        looks: vec![
            look(1, "Arrival", 1_000, &[(1, 60), (2, 40), (3, 40), (4, 30)]),
            look(2, "Film", 4_000, &[(1, 0), (2, 0), (3, 10), (4, 0)]),
            look(3, "Pause", 2_000, &[(1, 10), (2, 20), (3, 30), (4, 10)]),
            look(4, "Credits", 8_000, &[(1, 20), (2, 20), (3, 30), (4, 20)]),
            look(5, "Games", 2_000, &[(1, 10), (2, 12), (3, 30), (4, 12)]),
            look(6, "Way out", 800, &[(1, 20), (2, 0), (3, 40), (4, 0)]),
            look(7, "Dark", 120_000, &[(1, 0), (2, 0), (3, 0), (4, 0)]),
        ],
        cues: vec![
            cue(
                1,
                Moment::Starts { activity: None },
                vec![Provided::NotIn { activity: Some(activity(3)) }],
                to(1),
                vec![Also::Set { switch: leaving, on: false }],
            ),
            cue(2, Moment::Starts { activity: Some(activity(3)) }, vec![], to(5), vec![]),
            cue(3, says(disc, Transport::Playing), vec![], to(2), vec![]),
            cue(4, says(disc, Transport::Paused), vec![], to(3), vec![]),
            cue(5, Moment::Credits { device: disc }, vec![], to(4), vec![]),
            cue(6, says(disc, Transport::Stopped), vec![Provided::NotIn { activity: None }], to(1), vec![]),
            cue(7, Moment::Sent { device: device_id(5), function: function(5, 2) }, vec![], to(2), vec![]),
            cue(
                8,
                Moment::RoomOff,
                vec![Provided::Dark { dark: true }],
                to(6),
                vec![Also::Set { switch: leaving, on: true }],
            ),
            cue(
                9,
                Moment::RoomOff,
                vec![Provided::Dark { dark: false }],
                Light::Look { look: look_id(7), fade_ms: Some(5_000) },
                vec![],
            ),
            cue(
                10,
                Moment::Switched { switch: leaving, on: false },
                vec![Provided::In { activity: None }],
                to(7),
                vec![],
            ),
        ],
        switches: vec![ModeSwitch { id: leaving, name: "Leaving".to_owned(), at_first: false, off_after_min: Some(2) }],
        exit: Some(ExitPath { zones: vec![zone_id(3)], percent: 30, walk_s: 60 }),
    }
}

fn chart_loft() -> Lighting {
    let (keypad, remote) = (51, 52);
    let streamer = device_id(42);
    let guests = switch_id(2);
    let key = |device: u32, index, gesture| Moment::Press {
        device: device_id(device),
        function: function(device, index),
        gesture,
    };
    let ask = |number| Also::Macro { to: Situation::In { activity: activity(number) } };
    Lighting {
        zones: vec![zone(10, "Loft lamps", 45), zone(11, "Shelf strip", 46)],
        looks: vec![
            look(10, "Comfortable", 1_500, &[(10, 50), (11, 40)]),
            look(11, "Film", 3_000, &[(10, 0), (11, 8)]),
            look(12, "Interval", 1_500, &[(10, 25), (11, 30)]),
            look(13, "Stairs", 800, &[(10, 35), (11, 30)]),
            look(14, "Dark", 90_000, &[(10, 0), (11, 0)]),
        ],
        cues: vec![
            cue(20, Moment::Starts { activity: None }, vec![], to(10), vec![]),
            cue(
                21,
                says(streamer, Transport::Playing),
                vec![Provided::NotIn { activity: Some(activity(12)) }],
                to(11),
                vec![],
            ),
            cue(22, says(streamer, Transport::Paused), vec![], to(12), vec![]),
            cue(23, Moment::Credits { device: streamer }, vec![], to(12), vec![]),
            cue(24, Moment::RoomOff, vec![], to(13), vec![]),
            cue(
                25,
                Moment::Sensor { device: device_id(47), tripped: true },
                vec![Provided::Dark { dark: true }, Provided::In { activity: None }],
                to(13),
                vec![],
            ),
            cue(
                26,
                Moment::Sensor { device: device_id(47), tripped: false },
                vec![Provided::In { activity: None }],
                to(14),
                vec![],
            ),
            cue(27, key(keypad, 0, Gesture::Tap), vec![], Light::Stays, vec![ask(10)]),
            cue(28, key(keypad, 1, Gesture::Tap), vec![], Light::Stays, vec![ask(12)]),
            cue(29, key(keypad, 2, Gesture::Tap), vec![], to(10), vec![]),
            cue(30, key(keypad, 2, Gesture::Hold), vec![], Light::Stays, vec![Also::Set { switch: guests, on: true }]),
            cue(31, key(keypad, 3, Gesture::Tap), vec![], Light::Stays, vec![Also::Macro { to: Situation::Off }]),
            cue(
                32,
                key(remote, 11, Gesture::DoubleTap),
                vec![],
                to(12),
                vec![Also::StepAside { device: streamer, to: None, minutes: 10 }],
            ),
            cue(
                33,
                Moment::Clock { minute: 22 * 60 + 30 },
                vec![Provided::Days { days: vec![7, 1, 2, 3, 4] }, Provided::Switch { switch: guests, on: false }],
                Light::Stays,
                vec![Also::Say { device: device_id(44), text: "It is half past ten".to_owned(), percent: 30 }],
            ),
            cue(
                34,
                Moment::Sun { rises: false, offset_min: -20 },
                vec![Provided::NotIn { activity: None }],
                to(10),
                vec![],
            ),
        ],
        switches: vec![ModeSwitch { id: guests, name: "Guests".to_owned(), at_first: false, off_after_min: Some(360) }],
        exit: Some(ExitPath { zones: vec![zone_id(10)], percent: 30, walk_s: 45 }),
    }
}

/// Every mistake that light can have, at least once.
fn bunk_cabin() -> Lighting {
    let cartoons = activity(7);
    let (bedtime, holiday) = (switch_id(3), switch_id(4));
    let set = |switch, on| Also::Set { switch, on };
    Lighting {
        zones: vec![zone(20, "Bunk lamp", 18)],
        looks: vec![
            look(20, "Reading", 1_000, &[(20, 60)]),
            look(21, "Cartoons", 0, &[(20, 3)]),
            look(22, "Night", 2_000, &[(20, 0)]),
        ],
        cues: vec![
            // Two looks for one moment.
            cue(40, Moment::Starts { activity: None }, vec![], to(20), vec![]),
            cue(41, Moment::Starts { activity: Some(cartoons) }, vec![], to(21), vec![]),
            // The streamer says nothing of what it plays.
            cue(42, says(device_id(33), Transport::Playing), vec![], to(22), vec![]),
            // It is never dark at noon.
            cue(
                43,
                Moment::Ends { activity: Some(cartoons) },
                vec![Provided::Between { from_min: 720, to_min: 780 }, Provided::Dark { dark: true }],
                to(20),
                vec![],
            ),
            // Dark on the way out.
            cue(44, Moment::RoomOff, vec![], to(22), vec![set(bedtime, true)]),
            // A ring: one switch sets the other and back.
            cue(45, Moment::Switched { switch: bedtime, on: true }, vec![], Light::Stays, vec![set(holiday, true)]),
            cue(46, Moment::Switched { switch: holiday, on: true }, vec![], Light::Stays, vec![set(bedtime, true)]),
            // By the clock at bedtime, and by the sun at the same minute on some evening of the year.
            cue(47, Moment::Clock { minute: 20 * 60 + 30 }, vec![], to(22), vec![]),
            cue(48, Moment::Sun { rises: false, offset_min: 0 }, vec![], to(20), vec![]),
        ],
        switches: vec![
            ModeSwitch { id: bedtime, name: "Bedtime".to_owned(), at_first: false, off_after_min: None },
            ModeSwitch { id: holiday, name: "Holiday".to_owned(), at_first: false, off_after_min: None },
        ],
        exit: Some(ExitPath { zones: vec![zone_id(20)], percent: 20, walk_s: 30 }),
    }
}

/// The heater by the clock, the awning by the sun.
fn slip_deck() -> Lighting {
    let send = |device: u32, index| Also::Command { device: device_id(device), function: function(device, index) };
    Lighting {
        cues: vec![
            cue(60, Moment::Clock { minute: 19 * 60 }, vec![], Light::Stays, vec![send(15, 0)]),
            cue(61, Moment::Sun { rises: true, offset_min: 120 }, vec![], Light::Stays, vec![send(14, 0)]),
        ],
        ..Lighting::default()
    }
}
