//! What people edit as one thing.

use super::{Activity, Code, CodeSet, Connection, Device, House, Profile, Room};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;
use uuid::Uuid;

/// Anything that has an id and a history.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "entity", content = "value")]
#[allow(clippy::large_enum_variant, reason = "a few at a time, never in a hot loop")]
pub enum Entity {
    /// The house itself.
    House(House),
    /// A room.
    Room(Room),
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
}

impl Entity {
    /// Its kind and its id.
    #[must_use]
    pub fn key(&self) -> (EntityKind, Uuid) {
        match self {
            Self::House(e) => (EntityKind::House, e.id.0),
            Self::Room(e) => (EntityKind::Room, e.id.0),
            Self::Profile(e) => (EntityKind::Profile, e.id.0),
            Self::Device(e) => (EntityKind::Device, e.id.0),
            Self::Connection(e) => (EntityKind::Connection, e.id.0),
            Self::Code(e) => (EntityKind::Code, e.id.0),
            Self::Activity(e) => (EntityKind::Activity, e.id.0),
            Self::CodeSet(e) => (EntityKind::CodeSet, e.id.0),
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
