//! What people edit as one thing: each has a row, a version and a history of its own, so that two people at different
//! things of one room never meet.
//!
//! In memory a room holds its light, cues, surfaces and stories, because whatever computes wants them together. An edit
//! names one of them.

use super::{
    Accepted, Activity, Adoption, Code, CodeSet, Connection, Cue, DescribedProtocol, Device, ExitPath, FloorPlan,
    House, Lighting, Look, Measurement, ModeSwitch, Order, Picture, Placed, Profile, Room, RoomPlans, Story, Surface,
    TestResult, Voice, Zone,
};
use crate::id::RoomId;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::fmt;
use std::str::FromStr;
use utoipa::ToSchema;
use uuid::Uuid;

/// Anything that has an id and a history.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "entity", content = "value")]
#[allow(clippy::large_enum_variant, reason = "a few at a time, never in a hot loop")]
pub enum Entity {
    /// The house itself.
    House(House),
    /// A room, without what is edited by itself.
    Room(RoomCard),
    /// A device profile.
    Profile(Profile),
    /// A device.
    Device(Device),
    /// A cable.
    Connection(Connection),
    /// A code.
    Code(Code),
    /// An activity.
    Activity(Activity),
    /// A set of codes to try.
    CodeSet(CodeSet),
    /// The light of a room, without its cues. One a room; an empty one is none.
    Light(RoomLight),
    /// A line of a cue sheet.
    Cue(InRoom<Cue>),
    /// What people press.
    Surface(InRoom<Surface>),
    /// A recorded evening.
    Story(InRoom<Story>),
    /// What people say in a room. One a room; an empty one is none.
    Voice(InRoom<Voice>),
    /// How the plans of a room are made. One a room; the usual ones are none.
    Plans(InRoom<RoomPlans>),
    /// The floor plan of a room. One a room; one that was never drawn is none.
    Floor(InRoom<FloorPlan>),
    /// A protocol that somebody has described.
    Protocol(DescribedProtocol),
    /// Where a device stands.
    Placed(Placed),
    /// A finding that was accepted.
    Accepted(InRoom<Accepted>),
    /// A picture that keys show.
    Picture(Picture),
    /// A reading of a stopwatch.
    Measurement(Measurement),
    /// The result of a test.
    Result(TestResult),
    /// Something that is missing.
    Order(Order),
}

/// What kind of entity an id belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[allow(missing_docs, reason = "named as the entities are")]
pub enum EntityKind {
    House,
    Room,
    Profile,
    Device,
    Connection,
    Code,
    Activity,
    CodeSet,
    Light,
    Cue,
    Surface,
    Story,
    Voice,
    Plans,
    Floor,
    Protocol,
    Placed,
    Accepted,
    Picture,
    Measurement,
    Result,
    Order,
}

impl EntityKind {
    /// Is it evidence: what was seen stays seen, and neither plans nor drawings of a room are made from it?
    #[must_use]
    pub const fn is_evidence(self) -> bool {
        matches!(self, Self::Measurement | Self::Result)
    }
}

impl EntityKind {
    /// Every one of them, each after those that it refers to.
    pub const ALL: [Self; 22] = [
        Self::House,
        Self::Room,
        Self::Profile,
        Self::Device,
        Self::Connection,
        Self::Code,
        Self::Activity,
        Self::CodeSet,
        Self::Picture,
        Self::Light,
        Self::Cue,
        Self::Surface,
        Self::Story,
        Self::Voice,
        Self::Plans,
        Self::Floor,
        Self::Protocol,
        Self::Placed,
        Self::Accepted,
        Self::Measurement,
        Self::Result,
        Self::Order,
    ];

    /// Its word in keys, rows and the API.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::House => "house",
            Self::Room => "room",
            Self::Profile => "profile",
            Self::Device => "device",
            Self::Connection => "connection",
            Self::Code => "code",
            Self::Activity => "activity",
            Self::CodeSet => "code-set",
            Self::Light => "light",
            Self::Cue => "cue",
            Self::Surface => "surface",
            Self::Story => "story",
            Self::Voice => "voice",
            Self::Plans => "plans",
            Self::Floor => "floor",
            Self::Protocol => "protocol",
            Self::Placed => "placed",
            Self::Accepted => "accepted",
            Self::Picture => "picture",
            Self::Measurement => "measurement",
            Self::Result => "result",
            Self::Order => "order",
        }
    }

    /// Is there one of it in a room, known by the room's id?
    #[must_use]
    pub const fn one_a_room(self) -> bool {
        matches!(self, Self::Light | Self::Voice | Self::Plans | Self::Floor)
    }
}

/// The name of an entity within its house: its id; with its kind before it where the id is that of its room.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct EntityKey {
    /// Its kind.
    pub kind: EntityKind,
    /// Its id, or that of its room.
    pub id: Uuid,
}

impl fmt::Display for EntityKey {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.kind.one_a_room() { write!(f, "{}:{}", self.kind.word(), self.id) } else { self.id.fmt(f) }
    }
}

impl FromStr for EntityKind {
    type Err = ();

    fn from_str(word: &str) -> Result<Self, ()> {
        Self::ALL.into_iter().find(|kind| kind.word() == word).ok_or(())
    }
}

/// A room, without what is edited by itself.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct RoomCard {
    /// Its id.
    pub id: RoomId,
    /// What it is called.
    pub name: String,
    /// Its place in the list.
    pub position: u32,
    /// Is it a cupboard or a rack that holds equipment for other rooms?
    #[serde(default)]
    pub rack: bool,
    /// How it stays in step with what its devices tell.
    #[serde(default)]
    pub adoption: Adoption,
}

impl From<&Room> for RoomCard {
    fn from(room: &Room) -> Self {
        Self {
            id: room.id,
            name: room.name.clone(),
            position: room.position,
            rack: room.rack,
            adoption: room.rehearsal.adoption.clone(),
        }
    }
}

/// The light of a room, without its cues.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct RoomLight {
    /// The room.
    pub room: RoomId,
    /// What is dimmed together.
    #[serde(default)]
    pub zones: Vec<Zone>,
    /// Levels that belong together.
    #[serde(default)]
    pub looks: Vec<Look>,
    /// Switches of the mood: guests, bedtime, holiday.
    #[serde(default)]
    pub switches: Vec<ModeSwitch>,
    /// What stays lit for people on their way out and in.
    #[serde(default)]
    pub exit: Option<ExitPath>,
}

impl RoomLight {
    /// The light of a room.
    #[must_use]
    pub fn of(room: RoomId, light: &Lighting) -> Self {
        Self {
            room,
            zones: light.zones.clone(),
            looks: light.looks.clone(),
            switches: light.switches.clone(),
            exit: light.exit.clone(),
        }
    }

    /// Is there nothing in it?
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.zones.is_empty() && self.looks.is_empty() && self.switches.is_empty() && self.exit.is_none()
    }
}

/// Something and the room that it belongs to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct InRoom<T> {
    /// The room.
    pub room: RoomId,
    /// The thing itself.
    #[serde(flatten)]
    pub own: T,
}

impl<T> InRoom<T> {
    /// Something of a room.
    pub const fn new(room: RoomId, own: T) -> Self {
        Self { room, own }
    }
}

impl Entity {
    /// Its kind and its id; the id of its room, where there is one of it a room.
    #[must_use]
    pub fn key(&self) -> EntityKey {
        let (kind, id) = match self {
            Self::House(e) => (EntityKind::House, e.id.0),
            Self::Room(e) => (EntityKind::Room, e.id.0),
            Self::Profile(e) => (EntityKind::Profile, e.id.0),
            Self::Device(e) => (EntityKind::Device, e.id.0),
            Self::Connection(e) => (EntityKind::Connection, e.id.0),
            Self::Code(e) => (EntityKind::Code, e.id.0),
            Self::Activity(e) => (EntityKind::Activity, e.id.0),
            Self::CodeSet(e) => (EntityKind::CodeSet, e.id.0),
            Self::Light(e) => (EntityKind::Light, e.room.0),
            Self::Cue(e) => (EntityKind::Cue, e.own.id.0),
            Self::Surface(e) => (EntityKind::Surface, e.own.id.0),
            Self::Story(e) => (EntityKind::Story, e.own.id.0),
            Self::Voice(e) => (EntityKind::Voice, e.room.0),
            Self::Plans(e) => (EntityKind::Plans, e.room.0),
            Self::Floor(e) => (EntityKind::Floor, e.room.0),
            Self::Protocol(e) => (EntityKind::Protocol, e.id.0),
            Self::Placed(e) => (EntityKind::Placed, e.id.0),
            Self::Accepted(e) => (EntityKind::Accepted, e.own.id.0),
            Self::Picture(e) => (EntityKind::Picture, e.id.0),
            Self::Measurement(e) => (EntityKind::Measurement, e.id.0),
            Self::Result(e) => (EntityKind::Result, e.id.0),
            Self::Order(e) => (EntityKind::Order, e.id.0),
        };
        EntityKey { kind, id }
    }

    /// The room that it is a part of; none for what belongs to the house.
    #[must_use]
    pub fn part_of(&self) -> Option<RoomId> {
        match self {
            Self::Light(e) => Some(e.room),
            Self::Cue(e) => Some(e.room),
            Self::Surface(e) => Some(e.room),
            Self::Story(e) => Some(e.room),
            Self::Voice(e) => Some(e.room),
            Self::Plans(e) => Some(e.room),
            Self::Floor(e) => Some(e.room),
            Self::Accepted(e) => Some(e.room),
            _ => None,
        }
    }

    /// Is it what there is where nothing was ever put?
    #[must_use]
    pub fn is_empty(&self) -> bool {
        match self {
            Self::Light(e) => e.is_empty(),
            Self::Voice(e) => e.own == Voice::default(),
            Self::Plans(e) => e.own == RoomPlans::default(),
            Self::Floor(e) => e.own.is_bare(),
            _ => false,
        }
    }
}

/// Devices, each after those of them that it is reached through or stands behind.
#[must_use]
pub fn gateways_first<'a>(devices: impl IntoIterator<Item = &'a Device>) -> Vec<&'a Device> {
    let (mut done, mut left): (Vec<&Device>, Vec<&Device>) = (vec![], devices.into_iter().collect());
    while !left.is_empty() {
        let waiting: BTreeSet<_> = left.iter().map(|device| device.id).collect();
        let waits = |device: &&Device| {
            device.paths.iter().filter_map(|path| path.through).chain(device.behind).any(|id| waiting.contains(&id))
        };
        let (rest, next): (Vec<&Device>, Vec<&Device>) = left.iter().copied().partition(waits);
        if next.is_empty() {
            // Gateways that need each other: in any order, and the check will say so.
            done.extend(rest);
            break;
        }
        done.extend(next);
        left = rest;
    }
    done
}
