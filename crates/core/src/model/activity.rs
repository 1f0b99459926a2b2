//! What a room is used for, and what comes with it.

use super::Position;
use crate::id::{ActivityId, DeviceId, FunctionId, RoomId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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

/// What comes with an activity beside source, picture and sound.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Extras {
    /// How loud it starts, on the scale of the device that sounds.
    pub volume: Option<u32>,
    /// Settings of devices: picture mode, lens memory, sound mode.
    pub settings: Vec<Setting>,
    /// What the source runs or receives, by its name in the profile.
    pub app: Option<String>,
    /// The arrival look: commands that are sent at the start, so that nobody comes into a dark room.
    pub arrival: Vec<Arrival>,
    /// What is one press away while it runs.
    pub favourites: Vec<Favourite>,
}

/// A setting that an activity wants.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Setting {
    /// Of which device.
    pub device: DeviceId,
    /// Which setting, by its name in the profile.
    pub mode: String,
    /// Which value.
    pub value: String,
}

/// A command of the arrival look.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Arrival {
    /// To which device.
    pub device: DeviceId,
    /// Which.
    pub function: FunctionId,
}

/// Something that is one press away.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Favourite {
    /// What it is called.
    pub name: String,
    /// What it does.
    pub does: Shortcut,
}

/// What a favourite does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "does")]
pub enum Shortcut {
    /// A channel by its number: the digits, and the enter key where there is one.
    Channel {
        /// 1 to 6 digits.
        number: String,
    },
    /// An app or a channel of the source's profile.
    App {
        /// Its name there.
        name: String,
    },
    /// The same key several times, such as four steps forward.
    Presses {
        /// Which key of the source.
        function: FunctionId,
        /// How often, 1–30.
        times: u8,
    },
    /// Louder or softer by so many steps.
    Volume {
        /// Steps, −30 to 30.
        steps: i8,
    },
}

impl Extras {
    /// The same for a copy of the room: devices exchanged.
    #[must_use]
    pub fn moved(&self, twin: &impl Fn(DeviceId) -> DeviceId) -> Self {
        let mut moved = self.clone();
        moved.settings.iter_mut().for_each(|setting| setting.device = twin(setting.device));
        moved.arrival.iter_mut().for_each(|arrival| arrival.device = twin(arrival.device));
        moved
    }
}
