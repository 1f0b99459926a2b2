//! The whole of a house as one value: what every computation takes.

use super::{Activity, Connection, Device, House, Room};
pub use crate::model::Code;

use crate::id::{ActivityId, DeviceId, FunctionId, InputId, OutputId, ProfileId, RoomId, ZoneId};
use crate::model::{Cable, CodeSet, Input, Medium, Output, Profile, Talk, Zone, with_overrides};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
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
