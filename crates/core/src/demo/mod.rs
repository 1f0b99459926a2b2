//! The demo house: *Marram Point*, a lifeboat station turned family home on an invented coast.
//!
//! Every maker, model, address and code here is invented; the models are those of
//! [`crate::library`]. Ids are fixed, so that links and tests stay valid.
//!
//! *Boat Hall* is nearly done: two codes are missing on purpose, *Disc* on the receiver, which the film
//! needs (a capture of it lies in `demo/captures/receiver-disc.txt`), and *Stop* on the disc player. The
//! *Bunk Cabin* shows the mistakes that people make, and *Bunk Cabin, tidy* is the same room without.

mod light;
mod press;

use crate::id::{ActivityId, CodeId, CodeSetId, ConnectionId, DeviceId, RoomId};
use crate::library::{Model, NET_DISPLAY_MAC, function_id, input_id, model, output_id, profile_id};
use crate::model::{
    Activity, Code, CodeBody, CodeSet, Connection, ControlPath, Device, Extras, Favourite, House, Link, List, Medium,
    Move, Network, Offer, Policy, Position, Profile, Records, Rehearsing, Room, RoomPlans, Shortcut, Site, Talk,
    TestEffect, Tested, Tries, Voice,
};
use jiff::Timestamp;
use kestrel_signal::{Message, ProtocolId};
use std::collections::BTreeMap;
use uuid::Uuid;

/// Fixed ids: a kind and a number.
fn id<T: From<Uuid>>(kind: u32, number: u32) -> T {
    Uuid::from_u128(0x6b64_0000_0000_7000_8000_0000_0000_0000 | u128::from(kind) << 80 | u128::from(number)).into()
}

const BOAT_HALL: u32 = 1;
const WATCH_ROOM: u32 = 2;
const SLIP_DECK: u32 = 3;
const BUNK_CABIN: u32 = 4;
const TIDY_CABIN: u32 = 5;
const CUPBOARD: u32 = 6;
const CHART_LOFT: u32 = 7;

/// The devices: number (below 30 the same as their model's), model, room, name.
const DEVICES: [(u32, Model, u32, &str); 44] = [
    (5, Model::Streamer, BOAT_HALL, "Streamer"),
    (4, Model::DiscPlayer, BOAT_HALL, "Disc player"),
    (7, Model::Console, BOAT_HALL, "Console"),
    (3, Model::Receiver, BOAT_HALL, "Receiver"),
    (6, Model::Amplifier, BOAT_HALL, "Amplifier"),
    (1, Model::Projector, BOAT_HALL, "Projector"),
    (2, Model::Screen, BOAT_HALL, "Screen"),
    (8, Model::Blind, BOAT_HALL, "Blind"),
    (53, Model::Dimmer, BOAT_HALL, "Ceiling dimmer"),
    (54, Model::Dimmer, BOAT_HALL, "Wall dimmer"),
    (55, Model::Dimmer, BOAT_HALL, "Step dimmer"),
    (56, Model::Dimmer, BOAT_HALL, "Shelf dimmer"),
    (9, Model::Gateway, BOAT_HALL, "Hall gateway"),
    (10, Model::WatchDisplay, WATCH_ROOM, "Display"),
    (11, Model::SoundBar, WATCH_ROOM, "Sound bar"),
    (30, Model::Gateway, WATCH_ROOM, "Watch gateway"),
    (12, Model::Tuner, CUPBOARD, "Tuner"),
    (17, Model::NetworkSwitch, CUPBOARD, "Network switch"),
    (31, Model::Streamer, SLIP_DECK, "Deck streamer"),
    (13, Model::DeckDisplay, SLIP_DECK, "Deck display"),
    (14, Model::Awning, SLIP_DECK, "Awning"),
    (15, Model::Heater, SLIP_DECK, "Heater"),
    (32, Model::Gateway, SLIP_DECK, "Deck gateway"),
    (33, Model::Streamer, BUNK_CABIN, "Cabin streamer"),
    (16, Model::CabinDisplay, BUNK_CABIN, "Cabin display"),
    (34, Model::DiscPlayer, BUNK_CABIN, "Cabin disc player"),
    (35, Model::Gateway, BUNK_CABIN, "Cabin gateway"),
    (18, Model::Dimmer, BUNK_CABIN, "Cabin dimmer"),
    (36, Model::Streamer, TIDY_CABIN, "Tidy streamer"),
    (37, Model::PlainDisplay, TIDY_CABIN, "Tidy display"),
    (38, Model::Gateway, TIDY_CABIN, "Tidy gateway"),
    (42, Model::NetStreamer, CHART_LOFT, "Loft streamer"),
    (41, Model::NetReceiver, CHART_LOFT, "Loft receiver"),
    (43, Model::NetProjector, CHART_LOFT, "Loft projector"),
    (40, Model::NetDisplay, CHART_LOFT, "Loft display"),
    (44, Model::Speaker, CHART_LOFT, "Loft speaker"),
    (45, Model::Dimmer, CHART_LOFT, "Loft dimmer"),
    (46, Model::Strip, CHART_LOFT, "Shelf strip"),
    (49, Model::NetTuner, CHART_LOFT, "Loft tuner"),
    (47, Model::Motion, CHART_LOFT, "Stair sensor"),
    (50, Model::Door, CHART_LOFT, "Loft door"),
    (51, Model::Keypad, CHART_LOFT, "Loft keypad"),
    (52, Model::HandRemote, CHART_LOFT, "Loft remote"),
    (48, Model::Gateway, CHART_LOFT, "Loft gateway"),
];

fn device_id(number: u32) -> DeviceId {
    id(3, number)
}

fn room_id(number: u32) -> RoomId {
    id(1, number)
}

fn which(number: u32) -> Model {
    DEVICES.iter().find(|(known, ..)| *known == number).map_or(Model::Projector, |(_, model, ..)| *model)
}

fn rooms() -> Vec<Room> {
    let names = [
        (BOAT_HALL, "Boat Hall"),
        (WATCH_ROOM, "Watch Room"),
        (SLIP_DECK, "Slip Deck"),
        (BUNK_CABIN, "Bunk Cabin"),
        (TIDY_CABIN, "Bunk Cabin, tidy"),
        (CUPBOARD, "Cupboard"),
        (CHART_LOFT, "Chart Loft"),
    ];
    let room = |(position, (number, name)): (u32, (u32, &str))| Room {
        id: room_id(number),
        name: name.to_owned(),
        position,
        rack: number == CUPBOARD,
        plans: RoomPlans {
            // Where children press buttons, plans take the time that makes them right from any state.
            policy: if matches!(number, BUNK_CABIN | TIDY_CABIN) { Policy::Safe } else { Policy::Trusting },
            ..RoomPlans::default()
        },
        rehearsal: Rehearsing::default(),
        lighting: light::lighting(number),
        surfaces: vec![],
        voice: Voice::default(),
        accepted: light::accepted(number),
    };
    (0..).zip(names).map(room).collect()
}

fn network(link: Link, ip: &str, mac: &str, reserved: bool, port: Option<u16>) -> Network {
    Network { link, ip: ip.to_owned(), mac: mac.to_owned(), reserved, port, ..Network::default() }
}

/// Where devices are on the network; the Bunk Cabin has been typed in a hurry.
fn networks() -> BTreeMap<u32, Network> {
    BTreeMap::from([
        (3, network(Link::Wired, "10.0.4.13", "02:4d:50:00:00:03", true, Some(6_001))),
        (
            4,
            Network {
                talks: Some(Talk::Player),
                ..network(Link::Wired, "10.0.4.14", "02:4d:50:00:00:04", true, Some(6_100))
            },
        ),
        (9, network(Link::Wifi24, "10.0.4.19", "02:4d:50:00:00:09", true, None)),
        (30, network(Link::Wifi24, "10.0.4.30", "02:4d:50:00:00:1e", true, None)),
        (17, network(Link::Wired, "10.0.4.2", "02:4d:50:00:00:11", true, None)),
        (13, network(Link::Wifi5, "10.0.4.23", "02:4d:50:00:00:0d", false, Some(6_055))),
        (32, network(Link::Wifi24, "10.0.4.32", "02:4d:50:00:00:20", true, None)),
        (35, network(Link::Wifi5, "10.0.4.30", "02:4d:50:00:00", true, None)),
        (38, network(Link::Wifi24, "10.0.4.38", "02:4d:50:00:00:26", true, None)),
        (40, network(Link::Wired, "10.0.4.40", NET_DISPLAY_MAC, true, Some(8_080))),
        (41, network(Link::Wired, "10.0.4.41", "02:4d:50:00:00:29", true, Some(6_001))),
        (42, network(Link::Wired, "10.0.4.42", "02:4d:50:00:00:2a", true, Some(6_100))),
        (
            43,
            Network {
                password: "chart-loft".to_owned(),
                ..network(Link::Wired, "10.0.4.43", "02:4d:50:00:00:2b", true, Some(4_352))
            },
        ),
        (44, network(Link::Wired, "10.0.4.44", "02:4d:50:00:00:2c", true, Some(6_200))),
        (49, network(Link::Wired, "10.0.4.49", "02:4d:50:00:00:31", true, Some(6_300))),
        (46, network(Link::Wired, "10.0.4.46", "02:4d:50:00:00:2e", true, Some(5_568))),
        (48, network(Link::Wifi24, "10.0.4.48", "02:4d:50:00:00:30", true, None)),
    ])
}

fn path(medium: Medium, replies: bool, through: Option<u32>) -> ControlPath {
    ControlPath { through: through.map(device_id), ..ControlPath::from(Offer { medium, replies }) }
}

fn tried(path: ControlPath, lost: u32, of: u32) -> ControlPath {
    ControlPath { tries: Tries { lost, of }, ..path }
}

/// Paths that were set up; other devices take what their models offer.
fn paths() -> BTreeMap<u32, Vec<ControlPath>> {
    BTreeMap::from([
        (1, vec![tried(path(Medium::Ir, false, Some(9)), 1, 60)]),
        (3, vec![tried(path(Medium::Ir, false, Some(9)), 0, 40), path(Medium::Ip, true, None)]),
        (4, vec![tried(path(Medium::Ir, false, Some(9)), 2, 50)]),
        (10, vec![tried(path(Medium::Ir, false, Some(30)), 3, 50)]),
        (13, vec![path(Medium::Ir, false, Some(32)), path(Medium::Ip, true, None)]),
        (18, vec![path(Medium::Mesh, true, Some(35))]),
        (53, vec![path(Medium::Mesh, true, Some(9))]),
        (54, vec![path(Medium::Mesh, true, Some(9))]),
        (55, vec![path(Medium::Mesh, true, Some(9))]),
        (56, vec![path(Medium::Mesh, true, Some(9))]),
        (45, vec![path(Medium::Mesh, true, Some(48))]),
        (47, vec![path(Medium::Mesh, true, Some(48))]),
        (50, vec![path(Medium::Mesh, true, Some(48))]),
        (51, vec![path(Medium::Mesh, true, Some(48))]),
        (52, vec![path(Medium::Mesh, true, Some(48))]),
    ])
}

fn records() -> BTreeMap<u32, Records> {
    let text = str::to_owned;
    BTreeMap::from([
        (
            9,
            Records {
                firmware: text("2.4.1"),
                paired: text("Held its key for 5 s until the lamp blinked, then joined the 2.4 GHz network."),
                local_key: text("invented-local-key-9"),
                needs_cloud: Some(false),
                stands: text("On the shelf under the projector, facing the screen."),
                ..Records::default()
            },
        ),
        (
            16,
            Records {
                battery: text("Two small round cells in the handset, changed in spring."),
                stands: text("Above the lower bunk."),
                ..Records::default()
            },
        ),
    ])
}

fn devices() -> Vec<Device> {
    let (networks, paths, records) = (networks(), paths(), records());
    (0..)
        .zip(DEVICES)
        .map(|(position, (number, model, room, name))| Device {
            id: device_id(number),
            room: room_id(room),
            serves: if number == 12 { vec![room_id(WATCH_ROOM), room_id(SLIP_DECK)] } else { vec![] },
            profile: profile_id(model.number()),
            name: name.to_owned(),
            position,
            paths: paths.get(&number).cloned().unwrap_or_default(),
            network: networks.get(&number).cloned().unwrap_or_default(),
            records: records.get(&number).cloned().unwrap_or_default(),
            reported: BTreeMap::new(),
            overrides: light::overrides(number),
            behind: None,
        })
        .collect()
}

fn cables() -> Vec<Connection> {
    let cable = |number, (from, output), (to, input)| Connection {
        id: id::<ConnectionId>(7, number),
        from_device: device_id(from),
        from_output: output_id(which(from).number(), output),
        to_device: device_id(to),
        to_input: input_id(which(to).number(), input),
        return_audio: false,
    };
    vec![
        cable(1, (4, 0), (3, 0)),
        cable(2, (5, 0), (3, 1)),
        cable(3, (3, 0), (1, 2)),
        cable(4, (7, 0), (3, 2)),
        cable(5, (3, 2), (6, 1)),
        cable(6, (3, 3), (6, 0)),
        cable(7, (12, 0), (10, 1)),
        cable(8, (10, 0), (11, 0)),
        cable(9, (12, 1), (13, 0)),
        cable(10, (31, 0), (13, 1)),
        cable(11, (33, 0), (16, 0)),
        cable(12, (36, 0), (37, 0)),
        cable(13, (42, 0), (41, 1)),
        cable(14, (41, 0), (43, 0)),
        cable(15, (41, 1), (40, 0)),
        cable(16, (49, 0), (40, 1)),
    ]
}

/// What nobody has learned yet, as (device, number of the function).
const MISSING: [(u32, u32); 3] = [(3, 2), (4, 4), (16, 5)];

/// In the Bunk Cabin on and off of the disc player were learned in the wrong order, and both inputs of the
/// display from one key.
const MIXED_UP: [(u32, u32, u32); 3] = [(34, 0, 1), (34, 1, 0), (16, 3, 2)];

fn codes(profiles: &[Profile]) -> Vec<Code> {
    let since = Timestamp::from_second(1_790_000_000).ok();
    let mut codes = Vec::new();
    for (number, model, ..) in DEVICES {
        let Some(profile) = profiles.iter().find(|known| known.id == profile_id(model.number())) else { continue };
        for (index, function) in (0..).zip(&profile.functions) {
            if MISSING.contains(&(number, index)) {
                continue;
            }
            let mixed = MIXED_UP.iter().find(|(device, wanted, _)| (*device, *wanted) == (number, index));
            let sent = mixed.map_or(Some(function), |(.., other)| profile.functions.get(*other as usize));
            let Some(body) = sent.and_then(|function| function.answers_to.clone()) else { continue };
            let tested = (number == 34 && index == 0).then(|| Tested {
                at: since.unwrap_or_default(),
                effect: TestEffect::WrongThing,
                note: "It was on, and it went off.".to_owned(),
            });
            codes.push(Code {
                id: id::<CodeId>(8, number * 100 + index),
                device: device_id(number),
                function: function.id,
                body,
                captured: None,
                since,
                tested,
            });
        }
    }
    codes
}

/// The television of the Watch Room starts at a volume and has favourites.
fn extras(activity: u32) -> Extras {
    if activity == 13 {
        return Extras { app: Some("Harbour News".to_owned()), ..Extras::default() };
    }
    if activity != 4 {
        return Extras::default();
    }
    let favourite = |name: &str, does| Favourite { name: name.to_owned(), does };
    Extras {
        volume: Some(14),
        app: Some("Tideline".to_owned()),
        favourites: vec![
            favourite("Harbour News", Shortcut::Channel { number: "104".to_owned() }),
            favourite("Five louder", Shortcut::Volume { steps: 5 }),
            favourite(
                "Next channel but two",
                Shortcut::Presses { function: function_id(Model::Tuner.number(), 13), times: 3 },
            ),
        ],
        ..Extras::default()
    }
}

fn activities() -> Vec<Activity> {
    let activity = |number, room, name: &str, source, seen: Option<u32>, heard: Option<u32>, down: &[u32]| Activity {
        id: id::<ActivityId>(9, number),
        room: room_id(room),
        name: name.to_owned(),
        position: number,
        source: device_id(source),
        seen_on: seen.map(device_id),
        heard_on: heard.map(device_id),
        moves: down.iter().map(|&device| Move { device: device_id(device), to: Position::Down }).collect(),
        extras: extras(number),
    };
    vec![
        activity(1, BOAT_HALL, "Feature film", 4, Some(1), Some(3), &[2]),
        activity(2, BOAT_HALL, "Streaming", 5, Some(1), Some(3), &[2]),
        activity(3, BOAT_HALL, "Games", 7, Some(1), Some(3), &[2, 8]),
        activity(4, WATCH_ROOM, "Television", 12, Some(10), Some(11), &[]),
        activity(5, SLIP_DECK, "Deck television", 12, Some(13), Some(13), &[14]),
        activity(6, SLIP_DECK, "Deck music", 31, None, Some(13), &[]),
        activity(7, BUNK_CABIN, "Cartoons", 33, Some(16), Some(16), &[]),
        activity(8, TIDY_CABIN, "Cartoons", 36, Some(37), Some(37), &[]),
        activity(10, CHART_LOFT, "Loft film", 42, Some(43), Some(41), &[]),
        activity(11, CHART_LOFT, "Loft television", 42, Some(40), Some(41), &[]),
        activity(12, CHART_LOFT, "Loft music", 42, None, Some(41), &[]),
        activity(13, CHART_LOFT, "Loft news", 49, Some(40), Some(40), &[]),
    ]
}

/// Two code sets that a projector of this kind might follow, besides those of the library.
fn sets() -> Vec<CodeSet> {
    let older = crate::library::code_sets().into_iter().find(|set| set.name == "Orrin L5");
    older
        .into_iter()
        .map(|set| CodeSet {
            id: id::<CodeSetId>(10, 1),
            name: "Projectors of the old harbour office".to_owned(),
            source: "Copied from a keymap file.".to_owned(),
            keys: set.keys.into_iter().filter(|key| key.name != "OK").collect(),
            ..set
        })
        .collect()
}

/// The house as a programmer finds it on the second day.
#[must_use]
pub fn marram_point() -> Site {
    let mut models: Vec<Model> = DEVICES.iter().map(|(_, model, ..)| *model).collect();
    models.sort_unstable();
    models.dedup();
    let profiles: Vec<Profile> = models.into_iter().map(model).collect();
    let mut site = Site {
        house: House {
            id: id(0, 1),
            name: "Marram Point".to_owned(),
            path_order: vec![],
            coverage_percent: House::usual_coverage(),
            place: Some(light::place()),
        },
        rooms: rooms().into(),
        devices: devices().into(),
        connections: cables().into(),
        codes: codes(&profiles).into(),
        code_sets: sets().into(),
        activities: activities().into(),
        profiles: profiles.into(),
        pictures: List::new(),
    };
    site.sort();
    press::furnish(&mut site);
    site.number();
    site
}

/// What the receiver's remote sends for *Disc*, the code that the demo lacks.
#[must_use]
pub fn missing_code() -> Option<CodeBody> {
    let message = Message::new(ProtocolId::NecExt, [("address", 0x7a11), ("command", 0x31)]);
    message.ok().map(|message| CodeBody::Decoded { message })
}

/// The house with the code for *Disc* learned, so that the film can be sent.
#[must_use]
pub fn with_disc() -> Site {
    let mut site = marram_point();
    site.codes.extend(missing_code().map(|body| Code {
        id: id::<CodeId>(8, 302),
        device: ids::receiver(),
        function: ids::receiver_disc(),
        body,
        captured: None,
        since: None,
        tested: None,
    }));
    site.sort();
    site
}

/// Ids that tests and the walk through the product refer to.
pub mod ids {
    use super::{device_id, id, room_id};
    use crate::id::{ActivityId, DeviceId, FunctionId, HouseId, RoomId, SurfaceId};
    use crate::library::function_id;

    macro_rules! named {
        ($($(#[$doc:meta])* $name:ident: $type:ty = $value:expr;)+) => {
            $($(#[$doc])* #[must_use] pub fn $name() -> $type { $value })+
        };
    }

    named! {
        /// Marram Point.
        house: HouseId = id(0, 1);
        /// Boat Hall.
        boat_hall: RoomId = room_id(super::BOAT_HALL);
        /// Watch Room.
        watch_room: RoomId = room_id(super::WATCH_ROOM);
        /// Slip Deck.
        slip_deck: RoomId = room_id(super::SLIP_DECK);
        /// Bunk Cabin.
        bunk_cabin: RoomId = room_id(super::BUNK_CABIN);
        /// Bunk Cabin, tidy.
        tidy_cabin: RoomId = room_id(super::TIDY_CABIN);
        /// Chart Loft, where everything is on the network.
        chart_loft: RoomId = room_id(super::CHART_LOFT);
        /// The cupboard with equipment for several rooms.
        cupboard: RoomId = room_id(super::CUPBOARD);
        /// The projector.
        projector: DeviceId = device_id(1);
        /// The screen.
        screen: DeviceId = device_id(2);
        /// The receiver.
        receiver: DeviceId = device_id(3);
        /// The disc player.
        disc_player: DeviceId = device_id(4);
        /// The streamer.
        streamer: DeviceId = device_id(5);
        /// The amplifier.
        amplifier: DeviceId = device_id(6);
        /// The game console.
        console: DeviceId = device_id(7);
        /// The gateway of the Boat Hall.
        hall_gateway: DeviceId = device_id(9);
        /// The display whose power can only be toggled.
        watch_display: DeviceId = device_id(10);
        /// The tuner in the cupboard.
        tuner: DeviceId = device_id(12);
        /// The display on the deck.
        deck_display: DeviceId = device_id(13);
        /// The heater.
        heater: DeviceId = device_id(15);
        /// The display of the Bunk Cabin.
        cabin_display: DeviceId = device_id(16);
        /// The disc player of the Bunk Cabin.
        cabin_disc_player: DeviceId = device_id(34);
        /// The gateway of the Bunk Cabin.
        cabin_gateway: DeviceId = device_id(35);
        /// The display of the Chart Loft, on HTTP.
        loft_display: DeviceId = device_id(40);
        /// The receiver of the Chart Loft, on text lines.
        loft_receiver: DeviceId = device_id(41);
        /// The streamer of the Chart Loft.
        loft_streamer: DeviceId = device_id(42);
        /// The projector of the Chart Loft, on PJLink.
        loft_projector: DeviceId = device_id(43);
        /// The speaker of the Chart Loft.
        loft_speaker: DeviceId = device_id(44);
        /// The dimmer of the Chart Loft, on MQTT.
        loft_dimmer: DeviceId = device_id(45);
        /// The LED strip of the Chart Loft, on E1.31.
        shelf_strip: DeviceId = device_id(46);
        /// The motion sensor of the Chart Loft.
        stair_sensor: DeviceId = device_id(47);
        /// The gateway of the Chart Loft.
        loft_gateway: DeviceId = device_id(48);
        /// The tuner of the Chart Loft, on JSON lines.
        loft_tuner: DeviceId = device_id(49);
        /// The door sensor of the Chart Loft.
        loft_door: DeviceId = device_id(50);
        /// The wall keypad of the Chart Loft.
        loft_keypad: DeviceId = device_id(51);
        /// The hand remote of the Chart Loft.
        loft_remote: DeviceId = device_id(52);
        /// *Disc* on the receiver.
        receiver_disc: FunctionId = function_id(3, 2);
        /// The generated phone of the Boat Hall.
        hall_phone: SurfaceId = id(16, 1);
        /// The remote of the Bunk Cabin with its mistakes.
        toy_remote: SurfaceId = id(16, 4);
        /// The hand remote of the Chart Loft with its keys.
        loft_keys: SurfaceId = id(16, 3);
        /// The keypad of the Slip Deck that cannot stop the awning.
        deck_keypad: SurfaceId = id(16, 5);
        /// *Feature film*.
        feature_film: ActivityId = id(9, 1);
        /// *Streaming*.
        streaming: ActivityId = id(9, 2);
        /// *Loft film* on the projector of the Chart Loft.
        loft_film: ActivityId = id(9, 10);
        /// *Loft television* on its display.
        loft_television: ActivityId = id(9, 11);
        /// *Loft music*, without a picture.
        loft_music: ActivityId = id(9, 12);
        /// *Loft news*, a channel of the tuner.
        loft_news: ActivityId = id(9, 13);
        /// *Television* in the Watch Room.
        television: ActivityId = id(9, 4);
    }
}
