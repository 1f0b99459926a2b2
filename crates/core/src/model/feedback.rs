//! What a device tells of itself.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A matter of which a device can tell how it stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Tell {
    /// On or off.
    Power,
    /// Which input is chosen.
    Input,
    /// How loud it is.
    Volume,
    /// Is its sound off?
    Mute,
    /// Does it play, pause, or rest?
    Transport,
    /// What it runs or receives.
    App,
    /// Where it stands, if it moves.
    Position,
    /// How bright it is.
    Level,
    /// Somebody moves.
    Motion,
    /// Somebody is there.
    Presence,
    /// A door or window stands open.
    Door,
    /// A key of it was pressed.
    Presses,
}

impl Tell {
    /// Every one of them, in the order in which they are offered.
    pub const ALL: [Self; 12] = [
        Self::Power,
        Self::Input,
        Self::Volume,
        Self::Mute,
        Self::Transport,
        Self::App,
        Self::Position,
        Self::Level,
        Self::Motion,
        Self::Presence,
        Self::Door,
        Self::Presses,
    ];

    /// In a sentence.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Power => "power",
            Self::Input => "input",
            Self::Volume => "volume",
            Self::Mute => "mute",
            Self::Transport => "transport",
            Self::App => "app or channel",
            Self::Position => "position",
            Self::Level => "level of light",
            Self::Motion => "motion",
            Self::Presence => "presence",
            Self::Door => "door",
            Self::Presses => "presses of its keys",
        }
    }
}

/// What a sensor that was added to a device senses.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Sense {
    /// How much it draws from the mains: on or off.
    PowerDraw,
    /// The light of its picture or lamp: on or off.
    Light,
    /// A contact at its lower end, such as a screen's bottom bar: its position.
    Contact,
}

impl Sense {
    /// Every one of them, in the order in which they are offered.
    pub const ALL: [Self; 3] = [Self::PowerDraw, Self::Light, Self::Contact];

    /// In a sentence.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::PowerDraw => "power draw",
            Self::Light => "light",
            Self::Contact => "contact at its lower end",
        }
    }

    /// What is known by it.
    #[must_use]
    pub const fn tells(self) -> Tell {
        match self {
            Self::PowerDraw | Self::Light => Tell::Power,
            Self::Contact => Tell::Position,
        }
    }
}

/// What it tells of itself.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "how")]
pub enum Feedback {
    /// Nothing.
    #[default]
    None,
    /// It answers when asked.
    Poll {
        /// How often it is asked, in ms.
        every_ms: u32,
        /// How long an answer may take, in ms.
        time_out_ms: u32,
        /// What it tells.
        tells: Vec<Tell>,
    },
    /// It tells by itself.
    Push {
        /// How much later, in ms.
        delay_ms: u32,
        /// What it tells.
        tells: Vec<Tell>,
    },
    /// A sensor was added.
    Sensor {
        /// What it senses.
        senses: Sense,
        /// How much later, in ms.
        delay_ms: u32,
    },
}

impl Feedback {
    /// Does it tell this?
    #[must_use]
    pub fn tells(&self, what: Tell) -> bool {
        match self {
            Self::None => false,
            Self::Poll { tells, .. } | Self::Push { tells, .. } => tells.contains(&what),
            Self::Sensor { senses, .. } => senses.tells() == what,
        }
    }
}
