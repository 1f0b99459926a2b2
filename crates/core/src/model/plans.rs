//! What a user decides about plans: what comes with an activity, in which order things go, and what was
//! changed by hand.

use crate::id::{DeviceId, FunctionId};
use crate::model::Situation;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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
    pub change: PlanChange,
}

/// What is changed by hand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "change")]
pub enum PlanChange {
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

impl PlanChange {
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
                PlanChange::Pin { device, .. }
                | PlanChange::Wait { device, .. }
                | PlanChange::Add { device, .. }
                | PlanChange::Forbid { device, .. } => *device = twin(*device),
            }
        }
        moved
    }
}
