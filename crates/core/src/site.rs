//! The whole of a house as one value: what every computation takes.

pub use crate::codes::{Code, CodeBody};

use crate::adopt::Adoption;
use crate::codes::CodeSet;
use crate::cue::sun::Standpoint;
use crate::cue::{Lighting, Zone};
use crate::device::{
    Automaton, Cable, ControlPath, Input, Medium, Output, Override, PathClass, Position, Profile, with_overrides,
};
use crate::id::{
    ActivityId, ConnectionId, DeviceId, FunctionId, HouseId, InputId, OutputId, ProfileId, RoomId, SurfaceId, ZoneId,
};
use crate::kit::{Network, Records, Talk};
use crate::plan::order::{Extras, RoomPlans};
use crate::story::Story;
use crate::surface::Surface;
use crate::surface::voice::Voice;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::collections::BTreeMap;
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
    /// Sets of codes to try on a device.
    #[serde(default)]
    pub code_sets: Vec<CodeSet>,
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
    /// The order in which control paths are preferred here; the usual one where it is empty.
    #[serde(default)]
    pub path_order: Vec<PathClass>,
    /// How often, in %, a measured wait must cover the next time for a verdict to rest on it (50–99).
    #[serde(default = "House::usual_coverage")]
    pub coverage_percent: u8,
    /// Where it stands, for sunrise and sunset; none where nobody has said.
    #[serde(default)]
    pub place: Option<Standpoint>,
}

impl House {
    /// Nine measurements cover nine times of ten.
    #[must_use]
    pub const fn usual_coverage() -> u8 {
        90
    }

    /// The order in which control paths are preferred: the house's own, completed by the usual one.
    #[must_use]
    pub fn preferred_paths(&self) -> Vec<PathClass> {
        let mut order = self.path_order.clone();
        order.extend(PathClass::USUAL.into_iter().filter(|class| !self.path_order.contains(class)));
        order
    }
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
    /// Is it a cupboard or a rack that holds equipment for other rooms?
    #[serde(default)]
    pub rack: bool,
    /// How its plans are made, and what was changed in them by hand.
    #[serde(default)]
    pub plans: RoomPlans,
    /// How it stays in step, and the stories that are its tests.
    #[serde(default)]
    pub rehearsal: Rehearsing,
    /// Its zones, looks, cues and mode switches.
    #[serde(default)]
    pub lighting: Lighting,
    /// What people press here.
    #[serde(default)]
    pub surfaces: Vec<Surface>,
    /// What people say here.
    #[serde(default)]
    pub voice: Voice,
    /// Findings that somebody has looked at and accepted.
    #[serde(default)]
    pub accepted: Vec<Accepted>,
}

/// A finding that somebody has accepted. It comes back when what it says changes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Accepted {
    /// Its title.
    pub title: String,
    /// What it said.
    pub text: String,
    /// Why it is no trouble here.
    pub reason: String,
}

/// How a room is rehearsed.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Rehearsing {
    /// How it stays in step with what its devices tell.
    pub adoption: Adoption,
    /// Evenings that were recorded and are kept as tests.
    pub stories: Vec<Story>,
}

/// A device in a room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Device {
    /// Its id.
    pub id: DeviceId,
    /// Where it stands.
    pub room: RoomId,
    /// The rooms that it serves; the one where it stands, where this is empty.
    #[serde(default)]
    pub serves: Vec<RoomId>,
    /// How it behaves.
    pub profile: ProfileId,
    /// What it is called.
    pub name: String,
    /// Its place in the list.
    pub position: u32,
    /// The ways in which a command reaches it, the preferred one first; what its model offers, in the
    /// house's order, where this is empty.
    #[serde(default)]
    pub paths: Vec<ControlPath>,
    /// Where it is on the network.
    #[serde(default)]
    pub network: Network,
    /// What a service call needs.
    #[serde(default)]
    pub records: Records,
    /// The name that the device reports for an input, read back from it.
    #[serde(default)]
    pub reported: BTreeMap<InputId, String>,
    /// Fields in which it differs from its model.
    #[serde(default)]
    pub overrides: Vec<Override>,
    /// The screen that hides it when it is down.
    #[serde(default)]
    pub behind: Option<DeviceId>,
}

impl Room {
    /// A surface of this room.
    #[must_use]
    pub fn surface(&self, id: SurfaceId) -> Option<&Surface> {
        self.surfaces.iter().find(|surface| surface.id == id)
    }
}

impl Device {
    /// Does it serve this room?
    #[must_use]
    pub fn serves(&self, room: RoomId) -> bool {
        if self.serves.is_empty() { self.room == room } else { self.serves.contains(&room) }
    }

    /// The rooms that it serves.
    #[must_use]
    pub fn rooms(&self) -> &[RoomId] {
        if self.serves.is_empty() { std::slice::from_ref(&self.room) } else { &self.serves }
    }
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
    /// Does sound come back through it (HDMI return audio)?
    #[serde(default)]
    pub return_audio: bool,
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
    /// What comes with it.
    #[serde(default)]
    pub extras: Extras,
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

    /// The zone of light of this id, in whatever room.
    #[must_use]
    pub fn zone(&self, id: ZoneId) -> Option<&Zone> {
        self.rooms.iter().find_map(|room| room.lighting.zone(id))
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

    /// The model of a device, without what the device has of its own.
    #[must_use]
    pub fn model_of(&self, device: DeviceId) -> Option<&Profile> {
        self.profile(self.device(device)?.profile)
    }

    /// How a device behaves: its model, with the fields in which it differs.
    #[must_use]
    pub fn profile_of(&self, device: DeviceId) -> Option<Cow<'_, Profile>> {
        let device = self.device(device)?;
        let model = self.profile(device.profile)?;
        Some(match device.overrides.as_slice() {
            [] => Cow::Borrowed(model),
            own => Cow::Owned(with_overrides(model, own)),
        })
    }

    /// The machine of a device.
    #[must_use]
    pub fn automaton(&self, device: DeviceId) -> Option<Automaton<'_>> {
        self.profile_of(device).map(Automaton::of)
    }

    /// The ways in which a command reaches a device, the preferred one first.
    #[must_use]
    pub fn paths_of(&self, device: DeviceId) -> Vec<ControlPath> {
        match (self.device(device), self.model_of(device)) {
            (Some(device), _) if !device.paths.is_empty() => device.paths.clone(),
            (Some(device), Some(_)) => {
                crate::kit::advise(self, device).into_iter().map(|advice| advice.offer.into()).collect()
            }
            _ => vec![],
        }
    }

    /// Is a device in the reach of a gateway? As far as anybody has said so: a path of the device on this medium names the
    /// gateway that sends, or none does.
    #[must_use]
    pub fn reaches(&self, gateway: DeviceId, device: DeviceId, medium: Medium) -> bool {
        let paths = self.device(device).map(|device| device.paths.as_slice()).unwrap_or_default();
        let mut named = paths.iter().filter(|path| path.medium == medium).filter_map(|path| path.through).peekable();
        named.peek().is_none() || named.any(|through| through == gateway)
    }

    /// The protocol in which a device is spoken to on the network.
    #[must_use]
    pub fn talk_of(&self, device: DeviceId) -> Talk {
        let own = self.device(device).and_then(|device| device.network.talks);
        own.or_else(|| self.model_of(device)?.talks).unwrap_or_default()
    }

    /// The activity of this id.
    #[must_use]
    pub fn activity(&self, id: ActivityId) -> Option<&Activity> {
        self.activities.iter().find(|activity| activity.id == id)
    }

    /// Everything that is known of a function of a device: at most one code for each medium.
    pub fn codes_of(&self, device: DeviceId, function: FunctionId) -> impl Iterator<Item = &Code> {
        self.codes.iter().filter(move |code| code.device == device && code.function == function)
    }

    /// The code of a function that is sent: that of the most preferred path which has one.
    #[must_use]
    pub fn code(&self, device: DeviceId, function: FunctionId) -> Option<&Code> {
        let mut codes = self.codes_of(device, function);
        let first = codes.next()?;
        let rest: Vec<&Code> = codes.collect();
        if rest.is_empty() {
            return Some(first);
        }
        let paths = self.paths_of(device);
        let rank = |code: &&Code| paths.iter().position(|path| path.medium == code.body.medium());
        std::iter::once(first).chain(rest).min_by_key(|code| (rank(code).unwrap_or(usize::MAX), code.id))
    }

    /// The devices that serve a room, in their order.
    pub fn devices_in(&self, room: RoomId) -> impl Iterator<Item = &Device> {
        self.devices.iter().filter(move |device| device.serves(room))
    }

    /// The name of a device; its id where it is gone.
    #[must_use]
    pub fn device_name(&self, id: DeviceId) -> String {
        self.device(id).map_or_else(|| id.to_string(), |device| device.name.clone())
    }

    /// The name of a function of a device; its id where it is gone.
    #[must_use]
    pub fn function_name(&self, device: DeviceId, function: FunctionId) -> String {
        self.model_of(device)
            .and_then(|profile| profile.function(function))
            .map_or_else(|| function.to_string(), |function| function.name.clone())
    }

    /// The output of a device.
    #[must_use]
    pub fn output(&self, device: DeviceId, output: OutputId) -> Option<&Output> {
        self.model_of(device)?.outputs.iter().find(|o| o.id == output)
    }

    /// The input of a device.
    #[must_use]
    pub fn input(&self, device: DeviceId, input: InputId) -> Option<&Input> {
        self.model_of(device)?.inputs.iter().find(|i| i.id == input)
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
        self.code_sets.sort_by_key(|set| set.id);
    }
}
