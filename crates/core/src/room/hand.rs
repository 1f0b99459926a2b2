//! Hands in the room: what people and the mains do without asking the runtime.

use super::SimRoom;
use super::device::SimDevice;
use crate::device::group::Deed;
use crate::gesture::Gesture;
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

impl SimRoom {
    /// A hand does something at `now_ms`: what came of it, in words. `None` where the device is not here.
    pub fn hand(&mut self, now_ms: u64, hand: &Hand) -> Option<String> {
        self.advance(now_ms);
        let (now, before) = (self.now_ms, self.powers());
        let said = match hand {
            Hand::Mains { on } => {
                for index in 0..self.devices.len() {
                    self.plug(index, *on);
                }
                if *on { "the mains are back" } else { "the mains are gone" }.to_owned()
            }
            Hand::Plug { device, plugged } => {
                let index = self.devices.iter().position(|known| known.id() == *device)?;
                self.plug(index, *plugged);
                if *plugged { "plugged in" } else { "plug pulled" }.to_owned()
            }
            _ => {
                let device = hand.device()?;
                self.devices.iter_mut().find(|known| known.id() == device)?.by_hand(now, hand)
            }
        };
        self.couple(&before);
        Some(said)
    }

    /// A plug goes in or out; what follows another device's power follows it at once.
    fn plug(&mut self, index: usize, plugged: bool) {
        let now = self.now_ms;
        let (id, follows) = (self.devices[index].id(), self.devices[index].follows());
        let fed = || {
            let feeds = |link: &&super::SimLink| link.to == id && matches!(link.deed, Deed::Follow(_));
            let from = self.links.iter().find(feeds).map(|link| link.from);
            from.is_some_and(|from| self.devices.iter().any(|device| device.id() == from && device.is_on()))
        };
        let comes_on = follows.then(fed);
        self.devices[index].plug(now, plugged, comes_on);
    }

    /// Is this device's plug in the wall? What is not in this room counts as plugged.
    #[must_use]
    pub fn plugged(&self, device: DeviceId) -> bool {
        self.devices.iter().find(|known| known.id() == device).is_none_or(SimDevice::is_plugged)
    }
}
