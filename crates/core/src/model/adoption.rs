//! What a user decides about staying in step.

use super::Situation;
use crate::id::DeviceId;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a user decides about staying in step in a room.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Adoption {
    /// Adopted activities are completed: sound system, screen and light follow.
    pub complete: bool,
    /// So many polls in a row may be lost before a device counts as silent.
    pub lost_polls: u8,
    /// Rules that are switched off, by what they lead to.
    pub switched_off: Vec<Situation>,
    /// Conditions that rules do without.
    pub without: Vec<Amendment>,
}

/// A condition that a rule does without.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Amendment {
    /// Which rule, by what it leads to.
    pub to: Situation,
    /// Which device does not matter for it.
    pub device: DeviceId,
}

impl Adoption {
    /// The same for a copy of the room, whose devices and activities have other ids.
    #[must_use]
    pub fn moved(&self, device: &impl Fn(DeviceId) -> DeviceId, to: &impl Fn(Situation) -> Situation) -> Self {
        let amendment = |known: &Amendment| Amendment { to: to(known.to), device: device(known.device) };
        Self {
            complete: self.complete,
            lost_polls: self.lost_polls,
            switched_off: self.switched_off.iter().map(|&situation| to(situation)).collect(),
            without: self.without.iter().map(amendment).collect(),
        }
    }
}

/// The most polls that may be lost.
pub const LOST_POLLS_MAX: u8 = 20;
