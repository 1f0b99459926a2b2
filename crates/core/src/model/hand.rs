//! What people and the mains do in a room without asking the runtime.

use super::Gesture;
use crate::id::{DeviceId, FunctionId, InputId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Something that somebody, or the mains, does in the room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "does")]
#[schema(as = RoomHand)]
pub enum Hand {
    /// Presses the device's own power button.
    Power {
        /// Whose.
        device: DeviceId,
    },
    /// Chooses an input with the device's own keys.
    Input {
        /// Of which device.
        device: DeviceId,
        /// Which.
        input: InputId,
    },
    /// Presses a key of its own remote.
    Key {
        /// Whose.
        device: DeviceId,
        /// Which.
        function: FunctionId,
    },
    /// Pulls its plug, or puts it back.
    Plug {
        /// Whose.
        device: DeviceId,
        /// Is it in the wall now?
        plugged: bool,
    },
    /// The mains of the room go, or come back.
    Mains {
        /// Are they there now?
        on: bool,
    },
    /// Sets a level on the wall.
    Level {
        /// Of which light.
        device: DeviceId,
        /// How bright, in %.
        percent: u8,
    },
    /// Sends something to a player from a phone: it wakes, and plays.
    Cast {
        /// To which.
        device: DeviceId,
    },
    /// Presses a key of a keypad or a hand remote that sends its presses to the runtime.
    Press {
        /// Of which.
        device: DeviceId,
        /// Which key.
        function: FunctionId,
        /// How.
        gesture: Gesture,
    },
    /// Trips a sensor: walks by, opens the door. Or leaves it alone again.
    Trip {
        /// Which.
        device: DeviceId,
        /// Tripped?
        on: bool,
    },
}

impl Hand {
    /// To which device; none for the mains of the room.
    #[must_use]
    pub fn device(&self) -> Option<DeviceId> {
        match self {
            Self::Mains { .. } => None,
            Self::Power { device }
            | Self::Input { device, .. }
            | Self::Key { device, .. }
            | Self::Plug { device, .. }
            | Self::Level { device, .. }
            | Self::Cast { device }
            | Self::Press { device, .. }
            | Self::Trip { device, .. } => Some(*device),
        }
    }
}
