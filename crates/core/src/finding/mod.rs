//! What the engine has found about a house: the notes in the margin.

use crate::id::{ActivityId, ConnectionId, CueId, DeviceId, FunctionId, KeyId, SurfaceId};
use serde::Serialize;
use utoipa::ToSchema;

/// How much a finding matters. The order is that of the margin, worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Weight {
    /// Someone can be hurt.
    Hazard,
    /// It will not work.
    Stops,
    /// It may not work.
    Caution,
    /// Worth knowing.
    Remark,
}

/// Which stage of the work mends it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Stage {
    /// Devices and wiring.
    Kit,
    /// Commands.
    Codes,
    /// Activities and plans.
    Sequences,
    /// Light that follows.
    Cues,
    /// What people press.
    Surfaces,
    /// The room that answers.
    Rehearse,
}

/// Where a finding is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Place {
    /// The stage that mends it.
    pub stage: Stage,
    /// The device, if it is about one.
    pub device: Option<DeviceId>,
    /// The function, if it is about one.
    pub function: Option<FunctionId>,
    /// The cable, if it is about one.
    pub connection: Option<ConnectionId>,
    /// The activity, if it is about one.
    pub activity: Option<ActivityId>,
    /// The line of the cue sheet, if it is about one.
    pub cue: Option<CueId>,
    /// The surface, if it is about one.
    pub surface: Option<SurfaceId>,
    /// The key of a surface, if it is about one.
    pub key: Option<KeyId>,
}

impl Place {
    /// On a stage, nowhere in particular.
    #[must_use]
    pub const fn on(stage: Stage) -> Self {
        Self {
            stage,
            device: None,
            function: None,
            connection: None,
            activity: None,
            cue: None,
            surface: None,
            key: None,
        }
    }

    /// At a device.
    #[must_use]
    pub const fn device(mut self, device: DeviceId) -> Self {
        self.device = Some(device);
        self
    }

    /// At a function.
    #[must_use]
    pub const fn function(mut self, function: FunctionId) -> Self {
        self.function = Some(function);
        self
    }

    /// At a cable.
    #[must_use]
    pub const fn connection(mut self, connection: ConnectionId) -> Self {
        self.connection = Some(connection);
        self
    }

    /// At a line of the cue sheet.
    #[must_use]
    pub const fn cue(mut self, cue: CueId) -> Self {
        self.cue = Some(cue);
        self
    }

    /// At a surface.
    #[must_use]
    pub const fn surface(mut self, surface: SurfaceId) -> Self {
        self.surface = Some(surface);
        self
    }

    /// At a key of a surface.
    #[must_use]
    pub const fn key(mut self, key: KeyId) -> Self {
        self.key = Some(key);
        self
    }

    /// At an activity.
    #[must_use]
    pub const fn activity(mut self, activity: ActivityId) -> Self {
        self.activity = Some(activity);
        self
    }
}

/// One finding: a sentence with its reason, and where to mend it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Finding {
    /// How much it matters.
    pub weight: Weight,
    /// One or two words that name the kind.
    pub title: String,
    /// What was found, why, and what to do.
    pub text: String,
    /// Where.
    pub place: Place,
    /// Why somebody has accepted it; none where nobody has.
    pub accepted: Option<String>,
}

impl Finding {
    /// A finding.
    #[must_use]
    pub fn new(weight: Weight, title: &str, text: impl Into<String>, place: Place) -> Self {
        Self { weight, title: title.to_owned(), text: text.into(), place, accepted: None }
    }
}
