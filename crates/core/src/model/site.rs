//! The whole of a house as one value: what every computation takes.

use super::list::Listed;
use super::{
    Activity, Connection, Cue, DescribedProtocol, Device, House, List, Measurement, Order, Picture, Placed, Room,
    Surface, TestOf, TestResult,
};
use crate::id::{CueId, SurfaceId};
pub use crate::model::Code;

use crate::id::{ActivityId, DeviceId, FunctionId, InputId, OutputId, ProfileId, RoomId, ZoneId};
use crate::model::{Cable, CodeSet, Input, Medium, Output, Profile, Talk, Zone, with_overrides};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::collections::HashMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// A house and everything in it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Site {
    /// The house itself.
    pub house: House,
    /// Its rooms, in their order.
    #[schema(value_type = Vec<Room>)]
    pub rooms: List<Room>,
    /// The profiles that its devices use.
    #[schema(value_type = Vec<Profile>)]
    pub profiles: List<Profile>,
    /// Its devices, room by room in their order.
    #[schema(value_type = Vec<Device>)]
    pub devices: List<Device>,
    /// Its cables.
    #[schema(value_type = Vec<Connection>)]
    pub connections: List<Connection>,
    /// What is known of its commands.
    #[schema(value_type = Vec<Code>)]
    pub codes: List<Code>,
    /// Sets of codes to try on a device.
    #[serde(default)]
    #[schema(value_type = Vec<CodeSet>)]
    pub code_sets: List<CodeSet>,
    /// What its rooms are used for, in their order.
    #[schema(value_type = Vec<Activity>)]
    pub activities: List<Activity>,
    /// Pictures that its keys show.
    #[serde(default, skip_serializing_if = "List::is_empty")]
    #[schema(value_type = Vec<Picture>)]
    pub pictures: List<Picture>,
    /// Protocols that its people have described.
    #[serde(default, skip_serializing_if = "List::is_empty")]
    #[schema(value_type = Vec<DescribedProtocol>)]
    pub protocols: List<DescribedProtocol>,
    /// Where its devices stand.
    #[serde(default, skip_serializing_if = "List::is_empty")]
    #[schema(value_type = Vec<Placed>)]
    pub placed: List<Placed>,
    /// What the stopwatch said, reading by reading.
    #[serde(default, skip_serializing_if = "List::is_empty")]
    #[schema(value_type = Vec<Measurement>)]
    pub measurements: List<Measurement>,
    /// What was tested, the last result of each test.
    #[serde(default, skip_serializing_if = "List::is_empty")]
    #[schema(value_type = Vec<TestResult>)]
    pub results: List<TestResult>,
    /// What is missing.
    #[serde(default, skip_serializing_if = "List::is_empty")]
    #[schema(value_type = Vec<Order>)]
    pub orders: List<Order>,
}

impl Site {
    /// A house with nothing in it.
    #[must_use]
    pub fn empty(house: House) -> Self {
        Self {
            house,
            rooms: List::new(),
            profiles: List::new(),
            devices: List::new(),
            connections: List::new(),
            codes: List::new(),
            code_sets: List::new(),
            activities: List::new(),
            pictures: List::new(),
            protocols: List::new(),
            placed: List::new(),
            measurements: List::new(),
            results: List::new(),
            orders: List::new(),
        }
    }

    /// The room of this id.
    #[must_use]
    pub fn room(&self, id: RoomId) -> Option<&Room> {
        self.rooms.of_id(id.0)
    }

    /// The zone of light of this id, in whatever room.
    #[must_use]
    pub fn zone(&self, id: ZoneId) -> Option<&Zone> {
        self.rooms.iter().find_map(|room| room.lighting.zone(id))
    }

    /// A line of a cue sheet, and the room that it belongs to.
    #[must_use]
    pub fn cue(&self, id: CueId) -> Option<(&Room, &Cue)> {
        self.rooms.iter().find_map(|room| Some((room, room.lighting.cues.iter().find(|cue| cue.id == id)?)))
    }

    /// A surface, of whatever room.
    #[must_use]
    pub fn surface(&self, id: SurfaceId) -> Option<&Surface> {
        self.rooms.iter().find_map(|room| room.surface(id))
    }

    /// The profile of this id.
    #[must_use]
    pub fn profile(&self, id: ProfileId) -> Option<&Profile> {
        self.profiles.of_id(id.0)
    }

    /// The device of this id.
    #[must_use]
    pub fn device(&self, id: DeviceId) -> Option<&Device> {
        self.devices.of_id(id.0)
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

    /// Can it move: a screen, a blind, an awning?
    #[must_use]
    pub fn moves(&self, device: DeviceId) -> bool {
        self.profile_of(device).is_some_and(|profile| profile.motion.is_some())
    }

    /// The last result of a test.
    #[must_use]
    pub fn result_of(&self, test: &TestOf) -> Option<&TestResult> {
        self.results.iter().find(|result| result.of == *test)
    }

    /// The activity of this id.
    #[must_use]
    pub fn activity(&self, id: ActivityId) -> Option<&Activity> {
        self.activities.of_id(id.0)
    }

    /// Everything that is known of a function of a device: at most one code for each medium.
    pub fn codes_of(&self, device: DeviceId, function: FunctionId) -> impl Iterator<Item = &Code> {
        self.codes.of_owner((device.0, function.0))
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
        let tidy = |room: &Room| {
            room.lighting.cues.is_sorted_by_key(|cue| cue.position)
                && room.surfaces.is_sorted_by_key(|surface| surface.position)
                && room.rehearsal.stories.is_sorted_by_key(|story| story.position)
                && room.accepted.is_sorted_by_key(|accepted| accepted.id)
        };
        while let Some(room) = self.rooms.find_mut(|room| !tidy(room)) {
            room.lighting.cues.sort_by_key(|cue| cue.position);
            room.surfaces.sort_by_key(|surface| surface.position);
            room.rehearsal.stories.sort_by_key(|story| story.position);
            room.accepted.sort_by_key(|accepted| accepted.id);
        }
        self.rooms.sort_by_key(|room| (room.position, room.id));
        let order: HashMap<RoomId, usize> = self.rooms.iter().zip(0..).map(|(room, at)| (room.id, at)).collect();
        let place = |id: RoomId| order.get(&id).copied();
        self.devices.sort_by_key(|device| (place(device.room), device.position, device.id));
        self.activities.sort_by_key(|activity| (place(activity.room), activity.position, activity.id));
        self.profiles.sort_by_key(|profile| profile.id);
        self.connections.sort_by_key(|connection| connection.id);
        self.codes.sort_by_key(|code| code.id);
        self.code_sets.sort_by_key(|set| set.id);
        self.pictures.sort_by_key(|picture| picture.id);
        self.protocols.sort_by_key(|own| own.id);
        self.placed.sort_by_key(|own| (own.device, own.id));
        self.measurements.sort_by_key(|reading| (reading.device, reading.timing, reading.at, reading.id));
        self.results.sort_by_key(|result| result.id);
        self.orders.sort_by_key(|order| order.id);
    }

    /// Gives cues, surfaces and stories the places in which they stand, as the site file of version 1 had them.
    pub fn number(&mut self) {
        for room in self.rooms.iter_mut() {
            (0..).zip(&mut room.lighting.cues).for_each(|(at, cue)| cue.position = at);
            (0..).zip(&mut room.surfaces).for_each(|(at, surface)| surface.position = at);
            (0..).zip(&mut room.rehearsal.stories).for_each(|(at, story)| story.position = at);
        }
    }
}

macro_rules! listed {
    ($($item:ty),+) => {$(
        impl Listed for $item {
            fn listed_id(&self) -> Uuid {
                self.id.0
            }
        }
    )+};
}

listed!(
    Room,
    Profile,
    Device,
    Connection,
    CodeSet,
    Activity,
    Picture,
    DescribedProtocol,
    Placed,
    Measurement,
    TestResult,
    Order
);

impl Listed for Code {
    fn listed_id(&self) -> Uuid {
        self.id.0
    }

    fn owner(&self) -> Option<(Uuid, Uuid)> {
        Some((self.device.0, self.function.0))
    }
}
