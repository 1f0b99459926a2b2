//! Where a room is, or should be.

use super::Site;
use crate::id::ActivityId;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Where a room is, or should be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum Situation {
    /// As room-off leaves it.
    Off,
    /// Nobody knows. Only a start can be unknown.
    Unknown,
    /// In an activity.
    In {
        /// Which.
        activity: ActivityId,
    },
}

/// The name of a situation.
#[must_use]
pub fn situation_name(site: &Site, situation: Situation) -> String {
    match situation {
        Situation::Off => "Off".to_owned(),
        Situation::Unknown => "Anything".to_owned(),
        Situation::In { activity } => {
            site.activity(activity).map_or_else(|| "gone".to_owned(), |known| known.name.clone())
        }
    }
}
