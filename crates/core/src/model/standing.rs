//! Where something that moves stands, and what can be under way.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Where something that moves stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Position {
    /// Rolled up, open, out of the way.
    Up,
    /// Down, closed, in use.
    Down,
    /// At a place between that has a key of its own: the number of the profile's stop, from 0.
    Stop(u8),
}

/// Where something that moves stands, stops on the way included.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Standing {
    /// At its upper end; also what does not move.
    #[default]
    Up,
    /// Stopped on the way.
    Between,
    /// At its lower end.
    Down,
    /// At a place between that has a key of its own: the number of the profile's stop, from 0.
    Stop(u8),
}

impl From<Position> for Standing {
    fn from(position: Position) -> Self {
        match position {
            Position::Up => Self::Up,
            Position::Down => Self::Down,
            Position::Stop(at) => Self::Stop(at),
        }
    }
}

/// What a key sets in motion.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Effect {
    /// Nothing that takes time.
    #[default]
    None,
    /// It starts up.
    WarmUp,
    /// It shuts down.
    CoolDown,
    /// Another input comes up.
    Input,
    /// It travels.
    Travel,
    /// Its motor stands still before it may be reversed.
    Halt,
}

/// How many settings of a device are followed; further ones are left alone.
pub const MODES: usize = 4;
