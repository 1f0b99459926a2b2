//! What a player is doing.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a player is doing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[schema(as = PlayTransport)]
pub enum Playback {
    /// Nothing plays.
    #[default]
    Stopped,
    /// It plays.
    Playing,
    /// It stands still.
    Paused,
}
