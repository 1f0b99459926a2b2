//! What a finger does to a key.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How long a key is down before that is a hold, in ms.
pub const HOLD_MS: u64 = 600;

/// How long after a tap a second one may start, in ms.
pub const DOUBLE_MS: u64 = 350;

/// What a finger does to a key.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Gesture {
    /// Down and up.
    #[default]
    Tap,
    /// The same twice in a row.
    DoubleTap,
    /// Down for longer.
    Hold,
    /// Up again after a hold.
    Release,
}

impl Gesture {
    /// Every one of them.
    pub const ALL: [Self; 4] = [Self::Tap, Self::DoubleTap, Self::Hold, Self::Release];

    /// In a sentence about a key.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Tap => "tapped",
            Self::DoubleTap => "tapped twice",
            Self::Hold => "held",
            Self::Release => "let go after a hold",
        }
    }

    /// How a finger does it: when the key goes down and comes up, in ms.
    #[must_use]
    pub fn strokes(self) -> &'static [(u64, bool)] {
        match self {
            Self::Tap => &[(0, true), (90, false)],
            Self::DoubleTap => &[(0, true), (90, false), (210, true), (300, false)],
            Self::Hold | Self::Release => &[(0, true), (1_500, false)],
        }
    }
}
