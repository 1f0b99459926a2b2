//! An evening in a room, as it was recorded: what was asked for, what hands did, what was broken, and how it
//! ended. Played again after an edit it is a test of the house.

use crate::id::{DeviceId, InputId, StoryId, SwitchId};
use crate::model::{Effect, Hand, Situation, Standing};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What is wrong with a device or its wire.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Faults {
    /// So many of its frames or answers are lost, in %.
    pub lost_percent: u8,
    /// So many of its answers arrive garbled, in %.
    pub garbled_percent: u8,
    /// Its answers come this much later, in ms.
    pub slow_ms: u32,
    /// It takes connections and says nothing.
    pub silent: bool,
    /// It closes every connection at once.
    pub closes: bool,
    /// It refuses the right password.
    pub wrong_digest: bool,
}

impl Faults {
    /// Is anything wrong?
    #[must_use]
    pub fn any(&self) -> bool {
        *self != Self::default()
    }
}

/// The longest delay of an answer, in ms.
pub const SLOW_MAX_MS: u32 = 60_000;

/// Something that happens in an evening.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum Deed {
    /// Somebody asks for an activity, or for off.
    Request {
        /// Which.
        to: Situation,
    },
    /// Somebody presses stop.
    Stop,
    /// Somebody lets the runtime bring an adopted activity to its end.
    Complete,
    /// A hand.
    Hand {
        /// Which.
        hand: Hand,
    },
    /// Something breaks, or is mended.
    Fault {
        /// At which device.
        device: DeviceId,
        /// What is wrong from now on.
        faults: Faults,
    },
    /// A device restarts.
    Restart {
        /// Which.
        device: DeviceId,
    },
    /// The clock of the house shows this time.
    Time {
        /// As it is typed: `2027-01-15T20:00`.
        local: String,
    },
    /// Somebody sets a mode switch.
    Switch {
        /// Which.
        switch: SwitchId,
        /// On?
        on: bool,
    },
    /// The room is found like this, and taken for something: where a counterexample of the proof starts.
    Stand {
        /// How its devices stand; those that are left out stay as they are.
        devices: Vec<Stand>,
        /// What the runtime takes it for.
        taken_for: Situation,
        /// Where in their intervals the durations lie from now on, in %.
        pace_percent: u8,
    },
}

/// How a device is found.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Stand {
    /// The device.
    pub device: DeviceId,
    /// On?
    pub on: bool,
    /// Its input; the one to come back to, while it is off.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub input: Option<InputId>,
    /// The marked entry of its list, while that is open.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub marked: Option<InputId>,
    /// The entry at which its list opens, where it opens at the last one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub last: Option<InputId>,
    /// Where it stands or travels to, where it moves.
    #[serde(default)]
    pub position: Standing,
    /// Is its sound off?
    #[serde(default)]
    pub muted: bool,
    /// The value of each setting.
    #[serde(default)]
    pub settings: [u8; 4],
    /// What it runs or receives, counted from 1; 0 is anything else.
    #[serde(default)]
    pub app: u8,
    /// What is under way.
    #[serde(default)]
    pub doing: Effect,
    /// How long that still takes, or its list stays open, at least, in ms.
    #[serde(default)]
    pub left_lo_ms: u32,
    /// The same at most, in ms.
    #[serde(default)]
    pub left_hi_ms: u32,
}

/// A deed and its time.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct StoryEvent {
    /// When, in ms from the start of the evening.
    pub at_ms: u64,
    /// What.
    #[serde(flatten)]
    pub deed: Deed,
}

/// How a device has to stand at the end.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct End {
    /// The device.
    pub device: DeviceId,
    /// On?
    pub on: bool,
    /// The input, where it is on and has several.
    #[serde(default)]
    pub input: Option<InputId>,
    /// How far down, in %, where it moves.
    #[serde(default)]
    pub down_percent: Option<u8>,
}

/// An evening.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = KeptStory)]
pub struct Story {
    /// Its id.
    pub id: StoryId,
    /// Its place in the list.
    #[serde(default)]
    pub position: u32,
    /// What it is called.
    pub name: String,
    /// Chance, where something is lost at random: the same number gives the same evening.
    pub seed: u64,
    /// What happens, in order of time.
    pub events: Vec<StoryEvent>,
    /// How long the evening lasts, in ms.
    pub length_ms: u64,
    /// How the devices stand at its end.
    pub ends: Vec<End>,
    /// What the runtime takes the room to be in at its end; none where it does not know.
    #[serde(default)]
    pub taken_for: Option<Situation>,
}

/// The most events of a story.
pub const EVENTS_MAX: usize = 2_000;

/// The longest evening, in ms: a day.
pub const LENGTH_MAX_MS: u64 = 86_400_000;
