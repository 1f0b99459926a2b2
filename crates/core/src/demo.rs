//! The demo house: *Marram Point*, a lifeboat station turned family home on an invented coast.
//!
//! Every maker, model and code here is invented. Ids are fixed, so that links and tests stay valid.
//! Two codes are missing on purpose: *Disc* on the receiver, which the film needs (a capture of it
//! lies in `demo/captures/receiver-disc.txt`), and *Stop* on the disc player.

use crate::device::{
    AfterPowerOn, Basis, Cable, DeviceKind, Function, Input, ListEnds, ListOpens, Medium, Motion, Output, Position,
    Power, Profile, Selection, Span, Times,
};
use crate::id::{ActivityId, CodeId, ConnectionId, DeviceId, FunctionId, InputId, OutputId};
use crate::signal::radio::{RadioCode, USUAL_UNIT_US};
use crate::signal::{Message, ProtocolId};
use crate::site::{Activity, Code, CodeBody, Connection, Device, House, Move, Room, Site};
use uuid::Uuid;

/// Fixed ids: a kind and a number.
fn id<T: From<Uuid>>(kind: u32, number: u32) -> T {
    Uuid::from_u128(0x6b64_0000_0000_7000_8000_0000_0000_0000 | u128::from(kind) << 80 | u128::from(number)).into()
}

/// The numbers of the demo's devices; profiles carry the same.
const PROJECTOR: u32 = 1;
const SCREEN: u32 = 2;
const RECEIVER: u32 = 3;
const DISC_PLAYER: u32 = 4;
const STREAMER: u32 = 5;

fn device_id(number: u32) -> DeviceId {
    id(3, number)
}

/// The function number `index` of a demo profile.
fn function_id(profile: u32, index: u32) -> FunctionId {
    id(6, profile * 100 + index)
}

fn input_id(profile: u32, index: u32) -> InputId {
    id(4, profile * 100 + index)
}

fn output_id(profile: u32, index: u32) -> OutputId {
    id(5, profile * 100 + index)
}

/// A key of a model's remote: its name and what it sends.
type Key = (&'static str, CodeBody);

fn decoded<const N: usize>(protocol: ProtocolId, fields: [(&str, u32); N]) -> Option<CodeBody> {
    Message::new(protocol, fields).ok().map(|message| CodeBody::Decoded { message })
}

fn keys<const N: usize>(
    protocol: ProtocolId,
    device: &[(&'static str, u32)],
    names: [(&'static str, u32); N],
) -> Vec<Key> {
    let command = |command| device.iter().copied().chain([("command", command)]);
    names
        .into_iter()
        .filter_map(|(name, value)| {
            Message::new(protocol, command(value)).ok().map(|message| (name, CodeBody::Decoded { message }))
        })
        .collect()
}

/// A key of the screen's radio remote.
fn radio(key: u32) -> Option<CodeBody> {
    RadioCode::ook24(0x5_a3c1, key).ok().map(|code| CodeBody::Radio { code, unit_us: USUAL_UNIT_US })
}

fn functions(profile: u32, keys: &[Key]) -> Vec<Function> {
    (0..)
        .zip(keys)
        .map(|(index, (name, body))| Function {
            id: function_id(profile, index),
            name: (*name).to_owned(),
            answers_to: Some(body.clone()),
        })
        .collect()
}

fn inputs(profile: u32, names: &[(&str, Cable, Option<u32>)]) -> Vec<Input> {
    (0..)
        .zip(names)
        .map(|(index, &(name, cable, select))| Input {
            id: input_id(profile, index),
            name: name.to_owned(),
            cable,
            select: select.map(|key| function_id(profile, key)),
        })
        .collect()
}

fn outputs(profile: u32, names: &[(&str, Cable)]) -> Vec<Output> {
    (0..)
        .zip(names)
        .map(|(index, &(name, cable))| Output { id: output_id(profile, index), name: name.to_owned(), cable })
        .collect()
}

fn projector() -> Profile {
    let key = |index| function_id(PROJECTOR, index);
    let codes = keys(
        ProtocolId::Nec,
        &[("address", 50)],
        [("Power on", 2), ("Power off", 46), ("Source", 7), ("Right", 22), ("Left", 23), ("OK", 28)],
    );
    Profile {
        id: id(2, PROJECTOR),
        maker: "Tarnbeck".to_owned(),
        model: "P2".to_owned(),
        kind: DeviceKind::Projector,
        medium: Medium::Ir,
        power: Power::Discrete { on: key(0), off: key(1) },
        after_power_on: AfterPowerOn::Last,
        selection: Selection::Menu {
            open: key(2),
            next: key(3),
            previous: key(4),
            confirm: key(5),
            opens: ListOpens::First,
            ends: ListEnds::Clamp,
            closes_after: Span::profile(8_000, 12_000),
        },
        motion: None,
        times: Times {
            warm_up: Span { lo_ms: 24_100, hi_ms: 29_400, basis: Basis::Measured { n: 9 } },
            picture: Span { lo_ms: 24_100, hi_ms: 29_400, basis: Basis::Measured { n: 9 } },
            cool_down: Span::profile(60_000, 90_000),
            input: Span::profile(3_000, 6_400),
            gap_ms: 1_000,
        },
        inputs: inputs(
            PROJECTOR,
            &[("HDMI 1", Cable::Hdmi, None), ("HDMI 2", Cable::Hdmi, None), ("HDMI 3", Cable::Hdmi, None)],
        ),
        outputs: vec![],
        functions: functions(PROJECTOR, &codes),
    }
}

fn screen() -> Profile {
    let key = |index| function_id(SCREEN, index);
    let codes: Vec<Key> = [("Down", 1), ("Up", 2), ("Stop", 4)]
        .into_iter()
        .filter_map(|(name, key)| radio(key).map(|body| (name, body)))
        .collect();
    Profile {
        id: id(2, SCREEN),
        maker: "Skerrow".to_owned(),
        model: "120".to_owned(),
        kind: DeviceKind::Screen,
        medium: Medium::Rf433,
        power: Power::AlwaysOn,
        after_power_on: AfterPowerOn::Last,
        selection: Selection::None,
        motion: Some(Motion {
            up: key(1),
            down: key(0),
            stop: Some(key(2)),
            travel_up: Span::profile(23_000, 26_000),
            travel_down: Span::profile(22_000, 24_000),
        }),
        times: Times {
            warm_up: Span::NONE,
            picture: Span::NONE,
            cool_down: Span::NONE,
            input: Span::NONE,
            gap_ms: 500,
        },
        inputs: vec![],
        outputs: vec![],
        functions: functions(SCREEN, &codes),
    }
}

fn receiver() -> Profile {
    let key = |index| function_id(RECEIVER, index);
    let codes = keys(
        ProtocolId::NecExt,
        &[("address", 0x7a11)],
        [
            ("Power on", 0x1a),
            ("Power off", 0x1b),
            ("Disc", 0x31),
            ("Stream", 0x32),
            ("Game", 0x33),
            ("Volume up", 0x02),
            ("Volume down", 0x03),
            ("Mute", 0x05),
        ],
    );
    Profile {
        id: id(2, RECEIVER),
        maker: "Ruskel".to_owned(),
        model: "R9".to_owned(),
        kind: DeviceKind::Receiver,
        medium: Medium::Ir,
        power: Power::Discrete { on: key(0), off: key(1) },
        after_power_on: AfterPowerOn::Last,
        selection: Selection::Discrete,
        motion: None,
        times: Times {
            warm_up: Span::profile(4_000, 6_000),
            picture: Span::profile(5_000, 7_000),
            cool_down: Span::profile(1_000, 2_000),
            input: Span::profile(1_000, 2_500),
            gap_ms: 300,
        },
        inputs: inputs(
            RECEIVER,
            &[("Disc", Cable::Hdmi, Some(2)), ("Stream", Cable::Hdmi, Some(3)), ("Game", Cable::Hdmi, Some(4))],
        ),
        outputs: outputs(RECEIVER, &[("Monitor out", Cable::Hdmi), ("Speakers", Cable::Speaker)]),
        functions: functions(RECEIVER, &codes),
    }
}

fn disc_player() -> Profile {
    let key = |index| function_id(DISC_PLAYER, index);
    let codes = keys(
        ProtocolId::Sirc20,
        &[("address", 26), ("extended", 90)],
        [("Power on", 46), ("Power off", 47), ("Play", 50), ("Pause", 57), ("Stop", 56), ("Eject", 22)],
    );
    Profile {
        id: id(2, DISC_PLAYER),
        maker: "Orrin".to_owned(),
        model: "D1".to_owned(),
        kind: DeviceKind::DiscPlayer,
        medium: Medium::Ir,
        power: Power::Discrete { on: key(0), off: key(1) },
        after_power_on: AfterPowerOn::Last,
        selection: Selection::None,
        motion: None,
        times: Times {
            warm_up: Span::assumed(9_000, 18_000),
            picture: Span::assumed(9_000, 18_000),
            cool_down: Span::profile(2_000, 4_000),
            input: Span::NONE,
            gap_ms: 300,
        },
        inputs: vec![],
        outputs: outputs(DISC_PLAYER, &[("HDMI out", Cable::Hdmi)]),
        functions: functions(DISC_PLAYER, &codes),
    }
}

fn streamer() -> Profile {
    let codes = keys(
        ProtocolId::Rc5,
        &[("address", 20)],
        [("Home", 14), ("OK", 87), ("Play", 53), ("Pause", 48), ("Back", 10)],
    );
    Profile {
        id: id(2, STREAMER),
        maker: "Pellan".to_owned(),
        model: "S1".to_owned(),
        kind: DeviceKind::Streamer,
        medium: Medium::Ir,
        power: Power::AlwaysOn,
        after_power_on: AfterPowerOn::Last,
        selection: Selection::None,
        motion: None,
        times: Times {
            warm_up: Span::NONE,
            picture: Span::NONE,
            cool_down: Span::NONE,
            input: Span::NONE,
            gap_ms: 200,
        },
        inputs: vec![],
        outputs: outputs(STREAMER, &[("HDMI out", Cable::Hdmi)]),
        functions: functions(STREAMER, &codes),
    }
}

/// The house as a programmer finds it on the second day: wired, nearly all codes learned.
#[must_use]
pub fn marram_point() -> Site {
    let hall = id(1, 1);
    let profiles = vec![projector(), screen(), receiver(), disc_player(), streamer()];
    let names = [
        (STREAMER, "Streamer"),
        (DISC_PLAYER, "Disc player"),
        (RECEIVER, "Receiver"),
        (PROJECTOR, "Projector"),
        (SCREEN, "Screen"),
    ];
    let devices = (0..)
        .zip(names)
        .map(|(position, (number, name))| Device {
            id: device_id(number),
            room: hall,
            profile: id(2, number),
            name: name.to_owned(),
            position,
        })
        .collect();
    let cable = |number, (from, output), (to, input)| Connection {
        id: id::<ConnectionId>(7, number),
        from_device: device_id(from),
        from_output: output_id(from, output),
        to_device: device_id(to),
        to_input: input_id(to, input),
    };
    let missing = [function_id(RECEIVER, 2), function_id(DISC_PLAYER, 4)];
    let codes = (0..)
        .zip(
            profiles
                .iter()
                .zip([PROJECTOR, SCREEN, RECEIVER, DISC_PLAYER, STREAMER])
                .flat_map(|(profile, number)| profile.functions.iter().map(move |function| (number, function))),
        )
        .filter(|(_, (_, function))| !missing.contains(&function.id))
        .filter_map(|(index, (number, function))| {
            Some(Code {
                id: id::<CodeId>(8, index),
                device: device_id(number),
                function: function.id,
                body: function.answers_to.clone()?,
                captured: None,
            })
        })
        .collect();
    let activity = |number, name: &str, source| Activity {
        id: id::<ActivityId>(9, number),
        room: hall,
        name: name.to_owned(),
        position: number,
        source: device_id(source),
        seen_on: Some(device_id(PROJECTOR)),
        heard_on: Some(device_id(RECEIVER)),
        moves: vec![Move { device: device_id(SCREEN), to: Position::Down }],
    };
    let mut site = Site {
        house: House { id: id(0, 1), name: "Marram Point".to_owned() },
        rooms: vec![Room { id: hall, name: "Boat Hall".to_owned(), position: 0 }],
        devices,
        connections: vec![
            cable(1, (DISC_PLAYER, 0), (RECEIVER, 0)),
            cable(2, (STREAMER, 0), (RECEIVER, 1)),
            cable(3, (RECEIVER, 0), (PROJECTOR, 2)),
        ],
        codes,
        activities: vec![activity(1, "Feature film", DISC_PLAYER), activity(2, "Streaming", STREAMER)],
        profiles,
    };
    site.sort();
    site
}

/// What the receiver's remote sends for *Disc*, the code that the demo lacks.
#[must_use]
pub fn missing_code() -> Option<CodeBody> {
    decoded(ProtocolId::NecExt, [("address", 0x7a11), ("command", 0x31)])
}

/// Ids that tests and the walk through the product refer to.
pub mod ids {
    use super::{DISC_PLAYER, PROJECTOR, RECEIVER, SCREEN, STREAMER, device_id, function_id, id};
    use crate::id::{ActivityId, DeviceId, FunctionId, HouseId, RoomId};

    /// Marram Point.
    #[must_use]
    pub fn house() -> HouseId {
        id(0, 1)
    }
    /// Boat Hall.
    #[must_use]
    pub fn boat_hall() -> RoomId {
        id(1, 1)
    }
    /// The projector.
    #[must_use]
    pub fn projector() -> DeviceId {
        device_id(PROJECTOR)
    }
    /// The screen.
    #[must_use]
    pub fn screen() -> DeviceId {
        device_id(SCREEN)
    }
    /// The receiver.
    #[must_use]
    pub fn receiver() -> DeviceId {
        device_id(RECEIVER)
    }
    /// The disc player.
    #[must_use]
    pub fn disc_player() -> DeviceId {
        device_id(DISC_PLAYER)
    }
    /// The streamer.
    #[must_use]
    pub fn streamer() -> DeviceId {
        device_id(STREAMER)
    }
    /// *Disc* on the receiver.
    #[must_use]
    pub fn receiver_disc() -> FunctionId {
        function_id(RECEIVER, 2)
    }
    /// *Feature film*.
    #[must_use]
    pub fn feature_film() -> ActivityId {
        id(9, 1)
    }
    /// *Streaming*.
    #[must_use]
    pub fn streaming() -> ActivityId {
        id(9, 2)
    }
}
