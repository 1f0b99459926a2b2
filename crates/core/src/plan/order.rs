//! What a user decides about plans: what comes with an activity, in which order things go, and what was
//! changed by hand.

use super::Situation;
use crate::device::Position;
use crate::id::{DeviceId, FunctionId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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

/// How the plans of a room are made.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct RoomPlans {
    /// Trusting or safe.
    pub policy: Policy,
    /// Nobody else touches the devices of this room: its remotes are locked away.
    pub nobody_else: bool,
    /// What goes before what.
    pub rules: Vec<OrderRule>,
    /// What was changed by hand.
    pub hand: Vec<HandChange>,
}

/// From which states a plan is derived.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Policy {
    /// From the states that our own plans leave behind: quick.
    #[default]
    Trusting,
    /// From every state that there is: slower, and right whatever anybody did.
    Safe,
}

/// What a device is told, as far as an order cares.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum When {
    /// In plans that lead to an activity.
    Starting,
    /// In plans that lead to off.
    Stopping,
    /// In every plan.
    Always,
}

/// Where a device comes in the order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "goes")]
pub enum Goes {
    /// Before everything else.
    First,
    /// After everything else.
    Last,
    /// After one other device.
    After {
        /// Which.
        other: DeviceId,
    },
}

/// A rule about the order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct OrderRule {
    /// Whose commands.
    pub device: DeviceId,
    /// When they go.
    #[serde(flatten)]
    pub goes: Goes,
    /// In which plans.
    pub when: When,
}

/// A change of one plan by hand. Commands are named by device, function and how many of the same come
/// before, so that a change outlives a new derivation as long as its command is still there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct HandChange {
    /// The plan that starts here …
    pub from: Situation,
    /// … and leads there.
    pub to: Situation,
    /// What is changed.
    pub change: Change,
}

/// What is changed by hand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "change")]
pub enum Change {
    /// A command starts at this time.
    Pin {
        /// To which device.
        device: DeviceId,
        /// Which.
        function: FunctionId,
        /// How many of the same to the same device come before.
        nth: u32,
        /// When, in ms.
        at_ms: u32,
    },
    /// The pause before a command.
    Wait {
        /// To which device.
        device: DeviceId,
        /// Which.
        function: FunctionId,
        /// How many of the same to the same device come before.
        nth: u32,
        /// From the end of the command before, in ms.
        ms: u32,
    },
    /// A command more, after the last one to its device.
    Add {
        /// To which device.
        device: DeviceId,
        /// Which.
        function: FunctionId,
        /// From the end of the command before, in ms.
        after_ms: u32,
    },
    /// A command that is never sent.
    Forbid {
        /// To which device.
        device: DeviceId,
        /// Which.
        function: FunctionId,
    },
}

impl Change {
    /// The device and the function that it is about.
    #[must_use]
    pub fn about(&self) -> (DeviceId, FunctionId) {
        match *self {
            Self::Pin { device, function, .. }
            | Self::Wait { device, function, .. }
            | Self::Add { device, function, .. }
            | Self::Forbid { device, function } => (device, function),
        }
    }
}

/// A position in words.
#[must_use]
pub fn position_word(position: Position) -> &'static str {
    match position {
        Position::Up => "up",
        Position::Down => "down",
    }
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

impl RoomPlans {
    /// The same for a copy of the room: devices and activities exchanged.
    #[must_use]
    pub fn moved(&self, twin: &impl Fn(DeviceId) -> DeviceId, situation: &impl Fn(Situation) -> Situation) -> Self {
        let mut moved = self.clone();
        for rule in &mut moved.rules {
            rule.device = twin(rule.device);
            if let Goes::After { other } = &mut rule.goes {
                *other = twin(*other);
            }
        }
        for known in &mut moved.hand {
            (known.from, known.to) = (situation(known.from), situation(known.to));
            match &mut known.change {
                Change::Pin { device, .. }
                | Change::Wait { device, .. }
                | Change::Add { device, .. }
                | Change::Forbid { device, .. } => *device = twin(*device),
            }
        }
        moved
    }
}
