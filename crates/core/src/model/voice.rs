//! What people say in a room.

use crate::id::{ActivityId, DeviceId, LookId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What people say in a room.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Voice {
    /// Names beside the own ones.
    pub names: Vec<Spoken>,
    /// What the voice service was told last; none where it never was.
    pub synced: Option<Synced>,
}

/// Names of one thing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Spoken {
    /// Of what.
    pub of: Called,
    /// What people say for it, instead of its own name.
    pub names: Vec<String>,
}

/// What has a name.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum Called {
    /// An activity.
    Activity {
        /// Which.
        activity: ActivityId,
    },
    /// A device.
    Device {
        /// Which.
        device: DeviceId,
    },
    /// An app or a channel of a source.
    Channel {
        /// Of which source.
        device: DeviceId,
        /// Its name in the profile.
        name: String,
    },
    /// A look.
    Look {
        /// Which.
        look: LookId,
    },
}

/// What the voice service was told.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Synced {
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: jiff::Timestamp,
    /// The phrases.
    pub phrases: Vec<String>,
}
