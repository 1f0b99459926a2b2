//! The models. The first nine are those of the demo's Boat Hall.

use crate::library::build::{
    BLUETOOTH, IP, IR, MESH, RF, SERIAL, TRIGGER, function_id, infrared, input_id, inputs, json, outputs, plain, radio,
    silent, tcp, times, tristate,
};
use crate::model::{
    AfterMains, AfterPowerOn, App, Basis, Cable, CodeBody, Couples, DeviceKind, Feedback, ListEnds, ListOpens, Mode,
    ModeValue, Motion, Mute, Power, Press, Profile, Reach, Selection, Span, Talk, Tell, Unlisted, Volume, Wifi,
};
use kestrel_signal::ip::{IpCommand, Verb};
use kestrel_signal::{Message, ProtocolId};

/// A model of the library; its number is part of its ids.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
#[allow(missing_docs, reason = "each is described by its profile")]
pub enum Model {
    Projector = 1,
    Screen = 2,
    Receiver = 3,
    DiscPlayer = 4,
    Streamer = 5,
    Amplifier = 6,
    Console = 7,
    Blind = 8,
    Gateway = 9,
    WatchDisplay = 10,
    SoundBar = 11,
    Tuner = 12,
    DeckDisplay = 13,
    Awning = 14,
    Heater = 15,
    CabinDisplay = 16,
    NetworkSwitch = 17,
    Dimmer = 18,
    DoorGate = 19,
    LampProjector = 20,
    PlainDisplay = 21,
    NetDisplay = 22,
    NetReceiver = 23,
    NetProjector = 24,
    NetStreamer = 25,
    Strip = 26,
    Speaker = 27,
    Motion = 28,
    NetTuner = 29,
    Door = 30,
    Keypad = 31,
    HandRemote = 32,
    Controller = 33,
}

impl Model {
    const ALL: [Self; 33] = [
        Self::Projector,
        Self::Screen,
        Self::Receiver,
        Self::DiscPlayer,
        Self::Streamer,
        Self::Amplifier,
        Self::Console,
        Self::Blind,
        Self::Gateway,
        Self::WatchDisplay,
        Self::SoundBar,
        Self::Tuner,
        Self::DeckDisplay,
        Self::Awning,
        Self::Heater,
        Self::CabinDisplay,
        Self::NetworkSwitch,
        Self::Dimmer,
        Self::DoorGate,
        Self::LampProjector,
        Self::PlainDisplay,
        Self::NetDisplay,
        Self::NetReceiver,
        Self::NetProjector,
        Self::NetStreamer,
        Self::Strip,
        Self::Speaker,
        Self::Motion,
        Self::NetTuner,
        Self::Door,
        Self::Keypad,
        Self::HandRemote,
        Self::Controller,
    ];

    /// Its number.
    #[must_use]
    pub fn number(self) -> u32 {
        self as u32
    }
}

/// Every model.
#[must_use]
pub fn all() -> Vec<Profile> {
    Model::ALL.into_iter().map(model).collect()
}

/// The profile of a model.
#[must_use]
pub fn model(which: Model) -> Profile {
    let n = which.number();
    match which {
        Model::Projector => projector(n),
        Model::Screen => screen(n),
        Model::Receiver => receiver(n),
        Model::DiscPlayer => disc_player(n),
        Model::Streamer => streamer(n),
        Model::Amplifier => amplifier(n),
        Model::Console => console(n),
        Model::Blind => blind(n),
        Model::Gateway => Profile {
            wifi: Some(Wifi::Only24),
            ..plain(n, "Brackwater", "Bridge 2", DeviceKind::Gateway, &[IR, RF], vec![])
        },
        Model::WatchDisplay => watch_display(n),
        Model::SoundBar => sound_bar(n),
        Model::Tuner => tuner(n),
        Model::DeckDisplay => deck_display(n),
        Model::Awning => awning(n),
        Model::Heater => plain(n, "Ostwick", "H2", DeviceKind::Heater, &[RF], silent(["On", "Off"])),
        Model::CabinDisplay => cabin_display(n),
        Model::NetworkSwitch => Profile {
            inputs: inputs(n, &[("Uplink", Cable::Network, None)]),
            outputs: outputs(n, &[("Port 1", Cable::Network), ("Port 2", Cable::Network), ("Port 3", Cable::Network)]),
            ..plain(n, "Brackwater", "N8", DeviceKind::Network, &[IP], vec![])
        },
        Model::Dimmer => Profile {
            talks: Some(Talk::Mqtt),
            feedback: Feedback::Push { delay_ms: 300, tells: vec![Tell::Level] },
            ..plain(n, "Ostwick", "D4", DeviceKind::Light, &[MESH], silent(["On", "Off", "Brighter", "Darker"]))
        },
        Model::DoorGate => plain(n, "Ostwick", "Gate 1", DeviceKind::Blind, &[RF], silent(["Open"])),
        Model::LampProjector => lamp_projector(n),
        Model::PlainDisplay => plain_display(n),
        Model::NetDisplay => net_display(n),
        Model::NetReceiver => net_receiver(n),
        Model::NetProjector => net_projector(n),
        Model::NetStreamer => net_streamer(n),
        Model::Strip => {
            Profile { talks: Some(Talk::E131), ..plain(n, "Ostwick", "L300", DeviceKind::Light, &[IP], vec![]) }
        }
        Model::Speaker => {
            Profile { talks: Some(Talk::Speaker), ..plain(n, "Ostwick", "V1", DeviceKind::Speakers, &[IP], vec![]) }
        }
        Model::Motion => Profile {
            talks: Some(Talk::Mqtt),
            feedback: Feedback::Push { delay_ms: 200, tells: vec![Tell::Motion] },
            ..plain(n, "Ostwick", "M1", DeviceKind::Sensor, &[MESH], vec![])
        },
        Model::NetTuner => net_tuner(n),
        Model::Door => Profile {
            talks: Some(Talk::Mqtt),
            feedback: Feedback::Push { delay_ms: 200, tells: vec![Tell::Door] },
            ..plain(n, "Ostwick", "C1", DeviceKind::Sensor, &[MESH], vec![])
        },
        Model::Keypad => presses(n, "K4", silent(["Key 1", "Key 2", "Key 3", "Key 4"])),
        Model::Controller => presses(
            n,
            "G6",
            silent([
                "Face 1",
                "Face 2",
                "Face 3",
                "Face 4",
                "Face 5",
                "Face 6",
                "Turned left",
                "Turned right",
                "Shaken",
            ]),
        ),
        Model::HandRemote => presses(
            n,
            "R12",
            silent([
                "Watch", "Listen", "Off", "Up", "Down", "Left", "Right", "OK", "Louder", "Softer", "Play", "Pause",
            ]),
        ),
    }
}

fn projector(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let measured = Span { lo_ms: 24_100, hi_ms: 29_400, basis: Basis::Measured { n: 9 } };
    let keys = infrared(
        ProtocolId::Nec,
        &[("address", 50)],
        "command",
        [("Power on", 2), ("Power off", 46), ("Source", 7), ("Right", 22), ("Left", 23), ("OK", 28)],
    );
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        after_power_on: AfterPowerOn::Fixed { id: input_id(n, 0) },
        selection: Selection::Menu {
            open: key(2),
            next: key(3),
            previous: key(4),
            confirm: key(5),
            opens: ListOpens::First,
            ends: ListEnds::Clamp,
            closes_after: Span::profile(8_000, 12_000),
        },
        times: times(measured, measured, Span::profile(60_000, 90_000), Span::profile(3_000, 6_400), 1_000),
        inputs: inputs(
            n,
            &[("HDMI 1", Cable::Hdmi, None), ("HDMI 2", Cable::Hdmi, None), ("HDMI 3", Cable::Hdmi, None)],
        ),
        ..plain(n, "Tarnbeck", "P2", DeviceKind::Projector, &[IR], keys)
    }
}

fn screen(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let mut profile =
        plain(n, "Skerrow", "120", DeviceKind::Screen, &[RF], radio(0x5_a3c1, [("Down", 1), ("Up", 2), ("Stop", 4)]));
    profile.motion = Some(Motion {
        up: key(1),
        down: key(0),
        stop: Some(key(2)),
        travel_up: Span::profile(23_000, 26_000),
        travel_down: Span::profile(22_000, 24_000),
        reversal_ms: 500,
        stops_between: true,
        hides: false,
    });
    profile.times.gap_ms = 500;
    profile
}

fn receiver(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = infrared(
        ProtocolId::NecExt,
        &[("address", 0x7a11)],
        "command",
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
    let mut outputs = outputs(
        n,
        &[
            ("Monitor out", Cable::Hdmi),
            ("Speakers", Cable::Speaker),
            ("Trigger out", Cable::Trigger),
            ("Pre out", Cable::Analogue),
        ],
    );
    outputs[0].returns = Some(input_id(n, 3));
    let mut inputs = inputs(
        n,
        &[
            ("Disc", Cable::Hdmi, Some(2)),
            ("Stream", Cable::Hdmi, Some(3)),
            ("Game", Cable::Hdmi, Some(4)),
            ("TV audio", Cable::ReturnAudio, None),
        ],
    );
    for (input, reported) in inputs.iter_mut().zip(["BD", "MPLAY", "GAME1", "ARC"]) {
        input.reports = Some(reported.to_owned());
    }
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        selection: Selection::Discrete,
        volume: Some(Volume {
            up: key(5),
            down: key(6),
            step_tenths: 10,
            range: 98,
            ceiling: 70,
            after_power_on: None,
            absolute: true,
            mute: Some(Mute::Toggle { key: key(7) }),
        }),
        couples: Some(Couples {
            wakes: false,
            woken: true,
            sleeps: false,
            put_to_sleep: false,
            delay: Span::assumed(500, 3_000),
        }),
        times: times(
            Span::profile(4_000, 6_000),
            Span::profile(5_000, 7_000),
            Span::profile(1_000, 2_000),
            Span::profile(1_000, 2_500),
            300,
        ),
        feedback: Feedback::Poll {
            every_ms: 5_000,
            time_out_ms: 1_000,
            tells: vec![Tell::Power, Tell::Input, Tell::Volume],
        },
        inputs,
        outputs,
        ..plain(n, "Ruskel", "R9", DeviceKind::Receiver, &[IR, IP, SERIAL], keys)
    }
}

fn disc_player(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = infrared(
        ProtocolId::Sirc20,
        &[("address", 26), ("extended", 90)],
        "command",
        [("Power on", 46), ("Power off", 47), ("Play", 50), ("Pause", 57), ("Stop", 56), ("Eject", 22)],
    );
    let start = Span::assumed(9_000, 18_000);
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        auto_standby: Some(Span::profile(1_800_000, 1_860_000)),
        times: times(start, start, Span::profile(2_000, 4_000), Span::NONE, 300),
        outputs: outputs(n, &[("HDMI out", Cable::Hdmi), ("Optical out", Cable::Optical)]),
        ..plain(n, "Orrin", "D1", DeviceKind::DiscPlayer, &[IR], keys)
    }
}

fn streamer(n: u32) -> Profile {
    let keys = infrared(
        ProtocolId::Rc5,
        &[("address", 20)],
        "command",
        [("Home", 14), ("OK", 87), ("Play", 53), ("Pause", 48), ("Back", 10), ("Home twice", 14), ("Home held", 14)],
    );
    let mut profile = Profile {
        outputs: outputs(n, &[("HDMI out", Cable::Hdmi)]),
        ..plain(n, "Pellan", "S1", DeviceKind::Streamer, &[IR, BLUETOOTH], keys)
    };
    profile.functions[5].press = Press { presses: 2, ..Press::default() };
    profile.functions[6].press = Press { hold_ms: 1_200, ..Press::default() };
    profile
}

fn amplifier(n: u32) -> Profile {
    Profile {
        power: Power::Follows { delay: Span::profile(500, 2_000) },
        inputs: inputs(n, &[("Line in", Cable::Analogue, None), ("Trigger in", Cable::Trigger, None)]),
        outputs: outputs(n, &[("Speakers", Cable::Speaker)]),
        ..plain(n, "Ruskel", "A3", DeviceKind::Amplifier, &[TRIGGER], vec![])
    }
}

fn console(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = infrared(
        ProtocolId::Rc6,
        &[("address", 92)],
        "command",
        [("Power on", 0x0d), ("Power off", 0x0e), ("Home", 0x54), ("OK", 0x5c)],
    );
    let start = Span::assumed(15_000, 25_000);
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        couples: Some(Couples {
            wakes: true,
            woken: false,
            sleeps: false,
            put_to_sleep: true,
            delay: Span::assumed(500, 3_000),
        }),
        after_mains: AfterMains::Last,
        times: times(start, start, Span::assumed(5_000, 10_000), Span::NONE, 300),
        outputs: outputs(n, &[("HDMI out", Cable::Hdmi)]),
        ..plain(n, "Pellan", "G2", DeviceKind::Console, &[IR, BLUETOOTH], keys)
    }
}

fn blind(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = tristate(400, [("Up", "0F0F1000FF10"), ("Down", "0F0F1000FF01"), ("Stop", "0F0F1000FF11")]);
    let mut profile = plain(n, "Skerrow", "B40", DeviceKind::Blind, &[RF], keys);
    profile.motion = Some(Motion {
        up: key(0),
        down: key(1),
        stop: Some(key(2)),
        travel_up: Span::assumed(18_000, 30_000),
        travel_down: Span::assumed(18_000, 30_000),
        reversal_ms: 1_000,
        stops_between: true,
        hides: false,
    });
    profile.times.gap_ms = 500;
    profile
}

fn watch_display(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = infrared(
        ProtocolId::Pd32,
        &[("address", 0x0707)],
        "command",
        [
            ("Power", 0x02),
            ("Source", 0x01),
            ("Volume up", 0x07),
            ("Volume down", 0x0b),
            ("Mute", 0x0f),
            ("Up", 0x60),
            ("Down", 0x61),
            ("Left", 0x65),
            ("Right", 0x62),
            ("OK", 0x68),
        ],
    );
    let start = Span::profile(4_000, 9_000);
    Profile {
        power: Power::Toggle { key: key(0) },
        selection: Selection::Cycle { next: key(1), previous: None },
        volume: Some(Volume {
            up: key(2),
            down: key(3),
            step_tenths: 10,
            range: 50,
            ceiling: 30,
            after_power_on: None,
            absolute: false,
            mute: Some(Mute::Toggle { key: key(4) }),
        }),
        auto_standby: Some(Span::profile(14_400_000, 14_460_000)),
        times: times(start, start, Span::assumed(1_000, 3_000), Span::profile(1_000, 3_000), 300),
        inputs: inputs(
            n,
            &[("Aerial", Cable::Hdmi, None), ("HDMI 1", Cable::Hdmi, None), ("HDMI 2", Cable::Hdmi, None)],
        ),
        outputs: outputs(n, &[("Optical out", Cable::Optical)]),
        // Keys for on and off that its remote does not show, as makers keep them for service.
        unlisted: [(0x99, true), (0x98, false)]
            .into_iter()
            .filter_map(|(command, on)| {
                let message = Message::new(ProtocolId::Pd32, [("address", 0x0707), ("command", command)]).ok()?;
                Some(Unlisted { sends: CodeBody::Decoded { message }, on })
            })
            .collect(),
        ..plain(n, "Haldane", "T43", DeviceKind::Display, &[IR], keys)
    }
}

fn sound_bar(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = infrared(
        ProtocolId::Kaseikyo,
        &[("vendor", 0x5aa5), ("device", 4), ("subdevice", 9), ("extension", 1)],
        "function",
        [("Power on", 1), ("Power off", 2), ("Optical", 16), ("HDMI", 17), ("Volume up", 32), ("Volume down", 33)],
    );
    let start = Span::profile(2_000, 4_000);
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        after_power_on: AfterPowerOn::Last,
        selection: Selection::Discrete,
        volume: Some(Volume {
            up: key(4),
            down: key(5),
            step_tenths: 20,
            range: 40,
            ceiling: 28,
            after_power_on: Some(12),
            absolute: false,
            mute: None,
        }),
        modes: vec![Mode {
            name: "Sound mode".to_owned(),
            values: ["Film", "Voice", "Night"]
                .map(|name| ModeValue { name: name.to_owned(), select: None, for_kinds: vec![] })
                .to_vec(),
            next: None,
        }],
        times: times(start, start, Span::profile(500, 1_000), Span::profile(500, 1_000), 250),
        inputs: inputs(n, &[("Optical", Cable::Optical, Some(2)), ("HDMI", Cable::Hdmi, Some(3))]),
        ..plain(n, "Ruskel", "B1", DeviceKind::SoundBar, &[IR], keys)
    }
}

fn tuner(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = infrared(
        ProtocolId::NecExt,
        &[("address", 0x31c4)],
        "command",
        [
            ("Power on", 0x40),
            ("Power off", 0x41),
            ("OK", 0x1c),
            ("0", 0x10),
            ("1", 0x11),
            ("2", 0x12),
            ("3", 0x13),
            ("4", 0x14),
            ("5", 0x15),
            ("6", 0x16),
            ("7", 0x17),
            ("8", 0x18),
            ("9", 0x19),
            ("Channel up", 0x20),
            ("Channel down", 0x21),
        ],
    );
    let start = Span::profile(8_000, 15_000);
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        apps: [("Harbour News", "104"), ("Tideline", "212")]
            .map(|(name, number)| App { name: name.to_owned(), reach: Reach::Digits { number: number.to_owned() } })
            .to_vec(),
        times: times(start, start, Span::profile(1_000, 3_000), Span::NONE, 300),
        outputs: outputs(n, &[("HDMI out", Cable::Hdmi), ("HDMI out 2", Cable::Hdmi)]),
        ..plain(n, "Pellan", "T1", DeviceKind::Tuner, &[IR], keys)
    }
}

fn deck_display(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let mut keys = infrared(
        ProtocolId::Pd16,
        &[("address", 0x43)],
        "command",
        [("Power on", 0x30), ("Power off", 0x31), ("HDMI 1", 0x38), ("HDMI 2", 0x39)],
    );
    keys.extend(tcp([("Picture mute on", "VMUTE 1", "OK"), ("Picture mute off", "VMUTE 0", "OK")]));
    let start = Span::profile(6_000, 11_000);
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        selection: Selection::Discrete,
        times: times(start, start, Span::profile(1_000, 2_000), Span::profile(1_000, 2_000), 300),
        inputs: inputs(n, &[("HDMI 1", Cable::Hdmi, Some(2)), ("HDMI 2", Cable::Hdmi, Some(3))]),
        wifi: Some(Wifi::Both),
        ..plain(n, "Haldane", "O55", DeviceKind::Display, &[IR, IP], keys)
    }
}

fn awning(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let mut profile =
        plain(n, "Skerrow", "A3", DeviceKind::Blind, &[RF], radio(0x1_90e7, [("In", 2), ("Out", 1), ("Stop", 4)]));
    profile.motion = Some(Motion {
        up: key(0),
        down: key(1),
        stop: Some(key(2)),
        travel_up: Span::profile(30_000, 38_000),
        travel_down: Span::profile(30_000, 38_000),
        reversal_ms: 1_000,
        stops_between: true,
        hides: false,
    });
    profile.times.gap_ms = 500;
    profile
}

/// Its handset is infrared but for the lamp key, which is radio.
fn cabin_display(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let mut keys = infrared(
        ProtocolId::Rc5,
        &[("address", 1)],
        "command",
        [("Power on", 61), ("Power off", 62), ("HDMI 1", 40), ("HDMI 2", 41), ("Volume up", 16), ("Volume down", 17)],
    );
    keys.extend(radio(0x7_1d20, [("Lamp", 8)]));
    let start = Span::profile(3_000, 6_000);
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        selection: Selection::Discrete,
        times: times(start, start, Span::profile(500, 1_000), Span::profile(500, 1_500), 250),
        inputs: inputs(n, &[("HDMI 1", Cable::Hdmi, Some(2)), ("HDMI 2", Cable::Hdmi, Some(3))]),
        ..plain(n, "Haldane", "C32", DeviceKind::Display, &[IR, RF], keys)
    }
}

/// The same display in a later version: no lamp key, and times that were measured.
fn plain_display(n: u32) -> Profile {
    let mut profile = cabin_display(n);
    profile.model = "C32 B".to_owned();
    profile.offers = vec![IR];
    profile.functions.retain(|function| function.name != "Lamp");
    let measured = |lo_ms, hi_ms| Span { lo_ms, hi_ms, basis: Basis::Measured { n: 9 } };
    let start = measured(3_100, 5_200);
    (profile.times.warm_up, profile.times.picture) = (start, start);
    (profile.times.cool_down, profile.times.input) = (measured(600, 900), measured(700, 1_400));
    profile
}

/// A model of another maker whose remote uses the same address as the projector of the demo, with on and
/// off the other way round: a preset that half works.
fn lamp_projector(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = infrared(
        ProtocolId::Nec,
        &[("address", 50)],
        "command",
        [("Power on", 46), ("Power off", 2), ("Source", 7), ("Right", 24), ("Left", 25), ("OK", 28)],
    );
    let start = Span::profile(40_000, 60_000);
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        selection: Selection::Cycle { next: key(2), previous: None },
        times: times(start, start, Span::profile(90_000, 120_000), Span::profile(3_000, 6_000), 1_000),
        inputs: inputs(n, &[("HDMI 1", Cable::Hdmi, None), ("HDMI 2", Cable::Hdmi, None)]),
        ..plain(n, "Orrin", "L5", DeviceKind::Projector, &[IR], keys)
    }
}

/// What the display on the network is woken by; the demo's device has this address.
pub(crate) const NET_DISPLAY_MAC: &str = "02:4d:50:00:00:28";

fn put(path: &str, body: &str) -> Option<CodeBody> {
    let command = IpCommand::Http { verb: Verb::Put, path: path.to_owned(), body: body.to_owned() };
    Some(CodeBody::Ip { command })
}

/// Woken by a packet, told the rest over HTTP, and asked what it is doing.
fn net_display(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let wake = CodeBody::Ip { command: IpCommand::WakeOnLan { mac: NET_DISPLAY_MAC.to_owned() } };
    let keys = vec![
        ("Wake", Some(wake)),
        ("Power off", put("/power", r#"{"on":false}"#)),
        ("HDMI 1", put("/input", r#"{"input":"HDMI 1"}"#)),
        ("HDMI 2", put("/input", r#"{"input":"HDMI 2"}"#)),
    ];
    let start = Span::profile(5_000, 9_000);
    let mut inputs = inputs(n, &[("HDMI 1", Cable::Hdmi, Some(2)), ("HDMI 2", Cable::Hdmi, Some(3))]);
    for input in &mut inputs {
        input.reports = Some(input.name.clone());
    }
    Profile {
        power: Power::NetworkWake { wake: key(0), off: key(1) },
        selection: Selection::Discrete,
        talks: Some(Talk::Http),
        times: times(start, start, Span::profile(1_000, 2_000), Span::profile(500, 1_500), 200),
        feedback: Feedback::Poll { every_ms: 2_000, time_out_ms: 1_000, tells: vec![Tell::Power, Tell::Input] },
        inputs,
        ..plain(n, "Haldane", "N65", DeviceKind::Display, &[IP], keys)
    }
}

/// Text lines both ways: it tells by itself what changes.
fn net_receiver(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let mut keys = tcp([
        ("Power on", "power on", "ok"),
        ("Power off", "power off", "ok"),
        ("Disc", "input BD", "ok"),
        ("Stream", "input MPLAY", "ok"),
    ]);
    let louder = [("Volume up", 0x02), ("Volume down", 0x03), ("Mute", 0x05)];
    keys.extend(infrared(ProtocolId::NecExt, &[("address", 0x7a12)], "command", louder));
    let mut inputs = inputs(n, &[("Disc", Cable::Hdmi, Some(2)), ("Stream", Cable::Hdmi, Some(3))]);
    for (input, reported) in inputs.iter_mut().zip(["BD", "MPLAY"]) {
        input.reports = Some(reported.to_owned());
    }
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        selection: Selection::Discrete,
        volume: Some(Volume {
            up: key(4),
            down: key(5),
            step_tenths: 10,
            range: 98,
            ceiling: 60,
            after_power_on: Some(30),
            absolute: true,
            mute: Some(Mute::Toggle { key: key(6) }),
        }),
        times: times(
            Span::profile(3_000, 5_000),
            Span::profile(4_000, 6_000),
            Span::profile(500, 1_500),
            Span::profile(800, 2_000),
            200,
        ),
        feedback: Feedback::Push { delay_ms: 300, tells: vec![Tell::Power, Tell::Input, Tell::Volume] },
        inputs,
        outputs: outputs(
            n,
            &[("Monitor out", Cable::Hdmi), ("Monitor out 2", Cable::Hdmi), ("Speakers", Cable::Speaker)],
        ),
        ..plain(n, "Ruskel", "R9 N", DeviceKind::Receiver, &[IP, IR], keys)
    }
}

/// PJLink class 1 with a password.
fn net_projector(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let command = |text: &str| Some(CodeBody::Ip { command: IpCommand::Pjlink { command: text.to_owned() } });
    let keys = vec![
        ("Power on", command("POWR 1")),
        ("Power off", command("POWR 0")),
        ("HDMI 1", command("INPT 31")),
        ("HDMI 2", command("INPT 32")),
    ];
    let start = Span::profile(12_000, 18_000);
    let mut inputs = inputs(n, &[("HDMI 1", Cable::Hdmi, Some(2)), ("HDMI 2", Cable::Hdmi, Some(3))]);
    for (input, code) in inputs.iter_mut().zip(["31", "32"]) {
        input.reports = Some(code.to_owned());
    }
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        selection: Selection::Discrete,
        talks: Some(Talk::Pjlink),
        times: times(start, start, Span::profile(15_000, 25_000), Span::profile(1_000, 3_000), 500),
        feedback: Feedback::Poll { every_ms: 4_000, time_out_ms: 1_000, tells: vec![Tell::Power, Tell::Input] },
        inputs,
        ..plain(n, "Tarnbeck", "P7", DeviceKind::Projector, &[IP], keys)
    }
}

/// A keypad or a hand remote: it does nothing but tell what was pressed.
fn presses(n: u32, name: &str, keys: Vec<super::build::Key>) -> Profile {
    Profile {
        talks: Some(Talk::Mqtt),
        feedback: Feedback::Push { delay_ms: 50, tells: vec![Tell::Presses] },
        ..plain(n, "Ostwick", name, DeviceKind::Keypad, &[MESH], keys)
    }
}

/// Channels by name, one JSON document a line.
fn net_tuner(n: u32) -> Profile {
    let key = |index| function_id(n, index);
    let keys = json([
        ("Power on", r#"{"do":"power","on":true}"#),
        ("Power off", r#"{"do":"power","on":false}"#),
        ("Harbour News", r#"{"do":"app","name":"Harbour News"}"#),
        ("Tideline", r#"{"do":"app","name":"Tideline"}"#),
    ]);
    let start = Span::profile(4_000, 7_000);
    Profile {
        power: Power::Discrete { on: key(0), off: key(1) },
        talks: Some(Talk::Player),
        apps: [("Harbour News", 2), ("Tideline", 3)]
            .map(|(name, index)| App { name: name.to_owned(), reach: Reach::Launch { function: key(index) } })
            .to_vec(),
        times: times(start, start, Span::profile(500, 1_500), Span::NONE, 200),
        feedback: Feedback::Push { delay_ms: 200, tells: vec![Tell::Power, Tell::Transport, Tell::App] },
        outputs: outputs(n, &[("HDMI out", Cable::Hdmi)]),
        ..plain(n, "Pellan", "T3", DeviceKind::Tuner, &[IP], keys)
    }
}

/// It reports what it plays, and a phone can cast to it.
fn net_streamer(n: u32) -> Profile {
    let keys = infrared(
        ProtocolId::Rc5,
        &[("address", 21)],
        "command",
        [("Home", 14), ("OK", 87), ("Play", 53), ("Pause", 48), ("Stop", 54)],
    );
    Profile {
        talks: Some(Talk::Player),
        feedback: Feedback::Push { delay_ms: 200, tells: vec![Tell::Transport, Tell::App] },
        apps: ["Tideline", "Lantern"]
            .map(|name| App { name: name.to_owned(), reach: Reach::Launch { function: function_id(n, 0) } })
            .to_vec(),
        outputs: outputs(n, &[("HDMI out", Cable::Hdmi)]),
        ..plain(n, "Pellan", "S3", DeviceKind::Streamer, &[IR, IP], keys)
    }
}
