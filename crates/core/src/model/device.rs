//! A device in a room, and a cable between two.

use super::{ControlPath, Network, Override, Records};
use crate::id::{ConnectionId, DeviceId, InputId, OutputId, ProfileId, RoomId};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

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

impl Device {
    /// A device of which nothing more is known than what it is and where.
    #[must_use]
    pub fn new(id: DeviceId, room: RoomId, profile: ProfileId, name: String) -> Self {
        Self {
            id,
            room,
            serves: vec![],
            profile,
            name,
            position: 0,
            paths: vec![],
            network: Network::default(),
            records: Records::default(),
            reported: BTreeMap::new(),
            overrides: vec![],
            behind: None,
        }
    }

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
