//! The whole of a house as one value: what every computation takes.

use crate::device::{Automaton, Cable, Input, Output, Position, Profile};
use crate::id::{
    ActivityId, CodeId, ConnectionId, DeviceId, FunctionId, HouseId, InputId, OutputId, ProfileId, RoomId,
};
use crate::signal::radio::{self, RadioCode};
use crate::signal::{Capture, Message};
use serde::{Deserialize, Serialize};
use std::fmt;
use utoipa::ToSchema;

/// A house and everything in it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Site {
    /// The house itself.
    pub house: House,
    /// Its rooms, in their order.
    pub rooms: Vec<Room>,
    /// The profiles that its devices use.
    pub profiles: Vec<Profile>,
    /// Its devices, room by room in their order.
    pub devices: Vec<Device>,
    /// Its cables.
    pub connections: Vec<Connection>,
    /// What is known of its commands.
    pub codes: Vec<Code>,
    /// What its rooms are used for, in their order.
    pub activities: Vec<Activity>,
}

/// A house.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct House {
    /// Its id.
    pub id: HouseId,
    /// What it is called.
    pub name: String,
}

/// A room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Room {
    /// Its id.
    pub id: RoomId,
    /// What it is called.
    pub name: String,
    /// Its place in the list.
    pub position: u32,
}

/// A device in a room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Device {
    /// Its id.
    pub id: DeviceId,
    /// Where it is.
    pub room: RoomId,
    /// How it behaves.
    pub profile: ProfileId,
    /// What it is called.
    pub name: String,
    /// Its place in the list.
    pub position: u32,
}

/// A cable.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Connection {
    /// Its id.
    pub id: ConnectionId,
    /// The device that gives.
    pub from_device: DeviceId,
    /// Its output.
    pub from_output: OutputId,
    /// The device that takes.
    pub to_device: DeviceId,
    /// Its input.
    pub to_input: InputId,
}

/// What is sent for a function.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "as")]
pub enum CodeBody {
    /// A message of a known protocol, sent with exact timing.
    Decoded {
        /// What it says.
        message: Message,
    },
    /// A fixed code by radio at 433.92 MHz.
    Radio {
        /// What it says.
        code: RadioCode,
        /// The short unit it is sent with, in µs.
        unit_us: u32,
    },
    /// Timing as it was captured, sent as it is.
    Raw {
        /// Marks and spaces.
        capture: Capture,
    },
}

impl CodeBody {
    /// Marks and spaces in µs of one press, with the silence at its end.
    #[must_use]
    pub fn press_us(&self) -> Vec<u32> {
        match self {
            Self::Decoded { message } => message.encode(message.least_frames()),
            Self::Radio { code, unit_us } => code.encode(*unit_us, radio::LEAST_FRAMES),
            Self::Raw { capture } => {
                let mut durations = capture.durations_us().to_vec();
                if durations.len() % 2 == 1 {
                    durations.push(RAW_SILENCE_US);
                }
                durations
            }
        }
    }

    /// The carrier to send with, in Hz; 38 kHz where nobody knows.
    #[must_use]
    pub fn carrier_hz(&self) -> u32 {
        match self {
            Self::Decoded { message } => message.protocol().carrier_hz,
            Self::Radio { .. } => RADIO_HZ,
            Self::Raw { capture } => capture.carrier_hz().unwrap_or(38_000),
        }
    }

    /// What it says, a toggle bit apart: two functions with the same words do the same. Raw timing says
    /// nothing that could be compared.
    #[must_use]
    pub fn key_words(&self) -> Option<String> {
        match self {
            Self::Decoded { message } => Some(message.with_toggle(false).to_string()),
            Self::Radio { code, .. } => Some(code.to_string()),
            Self::Raw { .. } => None,
        }
    }

    /// How long one press occupies its medium, in ms, rounded up.
    #[must_use]
    pub fn send_ms(&self) -> u32 {
        let us: u64 = self.press_us().iter().map(|&us| u64::from(us)).sum();
        u32::try_from(us.div_ceil(1000)).unwrap_or(u32::MAX)
    }
}

impl fmt::Display for CodeBody {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Decoded { message } => message.fmt(f),
            Self::Radio { code, .. } => code.fmt(f),
            Self::Raw { capture } => write!(f, "raw timing, {} durations", capture.durations_us().len()),
        }
    }
}

/// The radio of fixed codes, in Hz.
const RADIO_HZ: u32 = 433_920_000;

/// The silence after a raw capture that ends with a mark, in µs: longer than any gap inside a press.
const RAW_SILENCE_US: u32 = 40_000;

/// What is known of one function of one device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Code {
    /// Its id.
    pub id: CodeId,
    /// The device.
    pub device: DeviceId,
    /// The function.
    pub function: FunctionId,
    /// What is sent.
    pub body: CodeBody,
    /// The capture that it was read from, if any.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub captured: Option<Capture>,
}

/// What a room is used for: what should be on, seen and heard.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Activity {
    /// Its id.
    pub id: ActivityId,
    /// Where.
    pub room: RoomId,
    /// What it is called.
    pub name: String,
    /// Its place in the list.
    pub position: u32,
    /// What plays.
    pub source: DeviceId,
    /// Where it is seen.
    pub seen_on: Option<DeviceId>,
    /// Where it is heard.
    pub heard_on: Option<DeviceId>,
    /// What moves for it.
    pub moves: Vec<Move>,
}

/// Something that moves for an activity.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Move {
    /// What.
    pub device: DeviceId,
    /// Where to.
    pub to: Position,
}

impl Site {
    /// The room of this id.
    #[must_use]
    pub fn room(&self, id: RoomId) -> Option<&Room> {
        self.rooms.iter().find(|room| room.id == id)
    }

    /// The profile of this id.
    #[must_use]
    pub fn profile(&self, id: ProfileId) -> Option<&Profile> {
        self.profiles.iter().find(|profile| profile.id == id)
    }

    /// The device of this id.
    #[must_use]
    pub fn device(&self, id: DeviceId) -> Option<&Device> {
        self.devices.iter().find(|device| device.id == id)
    }

    /// The profile of a device.
    #[must_use]
    pub fn profile_of(&self, device: DeviceId) -> Option<&Profile> {
        self.profile(self.device(device)?.profile)
    }

    /// The machine of a device.
    #[must_use]
    pub fn automaton(&self, device: DeviceId) -> Option<Automaton<'_>> {
        self.profile_of(device).map(Automaton::new)
    }

    /// The activity of this id.
    #[must_use]
    pub fn activity(&self, id: ActivityId) -> Option<&Activity> {
        self.activities.iter().find(|activity| activity.id == id)
    }

    /// What is known of a function of a device.
    #[must_use]
    pub fn code(&self, device: DeviceId, function: FunctionId) -> Option<&Code> {
        self.codes.iter().find(|code| code.device == device && code.function == function)
    }

    /// The devices of a room, in their order.
    pub fn devices_in(&self, room: RoomId) -> impl Iterator<Item = &Device> {
        self.devices.iter().filter(move |device| device.room == room)
    }

    /// The name of a device; its id where it is gone.
    #[must_use]
    pub fn device_name(&self, id: DeviceId) -> String {
        self.device(id).map_or_else(|| id.to_string(), |device| device.name.clone())
    }

    /// The name of a function of a device; its id where it is gone.
    #[must_use]
    pub fn function_name(&self, device: DeviceId, function: FunctionId) -> String {
        self.profile_of(device)
            .and_then(|profile| profile.function(function))
            .map_or_else(|| function.to_string(), |function| function.name.clone())
    }

    /// The output of a device.
    #[must_use]
    pub fn output(&self, device: DeviceId, output: OutputId) -> Option<&Output> {
        self.profile_of(device)?.outputs.iter().find(|o| o.id == output)
    }

    /// The input of a device.
    #[must_use]
    pub fn input(&self, device: DeviceId, input: InputId) -> Option<&Input> {
        self.profile_of(device)?.inputs.iter().find(|i| i.id == input)
    }

    /// What a cable carries, as its output says; `None` where an end is gone.
    #[must_use]
    pub fn cable(&self, connection: &Connection) -> Option<Cable> {
        self.output(connection.from_device, connection.from_output).map(|output| output.cable)
    }

    /// Sorts everything that has a place: rooms, devices and activities by it, the rest by id, so that
    /// equal houses are equal values.
    pub fn sort(&mut self) {
        self.rooms.sort_by_key(|room| (room.position, room.id));
        let order: Vec<RoomId> = self.rooms.iter().map(|room| room.id).collect();
        let place = |id: RoomId| order.iter().position(|&room| room == id);
        self.devices.sort_by_key(|device| (place(device.room), device.position, device.id));
        self.activities.sort_by_key(|activity| (place(activity.room), activity.position, activity.id));
        self.profiles.sort_by_key(|profile| profile.id);
        self.connections.sort_by_key(|connection| connection.id);
        self.codes.sort_by_key(|code| code.id);
    }
}
