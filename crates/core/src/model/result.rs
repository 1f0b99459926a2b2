//! What was tested in a house, and what was seen.

use crate::id::{CueId, DeviceId, FunctionId, KeyId, PhotoId, ResultId, RoomId, SurfaceId};
use crate::model::{Gesture, SeenIn, Situation, Timing};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A test that a house needs, by what it tests.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "test")]
#[allow(missing_docs, reason = "named as what they are")]
pub enum TestOf {
    /// A command is sent once, and its effect is seen.
    Function { device: DeviceId, function: FunctionId },
    /// A time is measured often enough.
    Wait { device: DeviceId, timing: Timing },
    /// A switch is run in the room from its start.
    Switch {
        room: RoomId,
        from: Situation,
        to: Situation,
        /// Right after the one before, while something still cools?
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        hot: bool,
    },
    /// The light is as on the sheet.
    Cue { cue: CueId },
    /// A key of a surface does what it is for.
    Key { surface: SurfaceId, key: KeyId, gesture: Gesture },
    /// The device's own button is pressed, and that is noticed.
    InStep { room: RoomId, device: DeviceId },
    /// The stop key stops what moves.
    Stop { device: DeviceId },
    /// It gets no louder than its ceiling.
    Ceiling { device: DeviceId },
    /// The way out stays lit.
    WayOut { room: RoomId },
    /// Mains come back after a cut.
    MainsBack { room: RoomId },
    /// What is said starts what it names.
    Phrase { room: RoomId, phrase: String },
    /// The labels of a surface are on it, and read as printed.
    Label { surface: SurfaceId },
}

impl TestOf {
    /// Its kind, in a word.
    #[must_use]
    pub const fn kind(&self) -> &'static str {
        match self {
            Self::Function { .. } => "function",
            Self::Wait { .. } => "wait",
            Self::Switch { .. } => "switch",
            Self::Cue { .. } => "cue",
            Self::Key { .. } => "surface key",
            Self::InStep { .. } => "in step",
            Self::Stop { .. } | Self::Ceiling { .. } | Self::WayOut { .. } | Self::MainsBack { .. } => "safety",
            Self::Phrase { .. } => "spoken phrase",
            Self::Label { .. } => "label",
        }
    }
}

/// What came of a test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[schema(as = TestOutcome)]
pub enum Outcome {
    /// It was seen as it should be.
    Passed,
    /// It was not.
    Failed,
    /// It cannot be done here.
    NotPossible,
}

/// Something that a test rests on: what it is, and a digest of what it said when the test was done.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
pub struct RestingFact {
    /// What it is, whatever it is called.
    pub key: String,
    /// The same in words, as *the code of Disc on Receiver*.
    pub what: String,
    /// Its digest, in hex.
    pub digest: String,
}

/// The result of a test: one for each test, the last one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct TestResult {
    /// Its id.
    pub id: ResultId,
    /// Of which test.
    pub of: TestOf,
    /// What came of it.
    pub outcome: Outcome,
    /// Where it was seen.
    pub seen: SeenIn,
    /// What was seen, or why it is not possible.
    #[serde(default)]
    pub note: String,
    /// A photo of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub photo: Option<PhotoId>,
    /// When, in UTC.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// By whom.
    #[serde(default)]
    pub who: String,
    /// What it rested on then, by name.
    #[serde(default)]
    pub facts: Vec<RestingFact>,
}

impl TestResult {
    /// The result for whoever looks at it: without the digests by which it is known to be stale.
    #[must_use]
    pub fn without_facts(self) -> Self {
        Self { facts: vec![], ..self }
    }
}

/// How far something is that is missing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum OrderState {
    /// It is wanted.
    Wanted,
    /// It is ordered.
    Ordered,
    /// It is fitted.
    Fitted,
}

/// Something that a house still needs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Order {
    /// Its id.
    pub id: crate::id::OrderId,
    /// For which room; none for the house.
    #[serde(default)]
    pub room: Option<RoomId>,
    /// What.
    pub what: String,
    /// How many (1–999).
    pub quantity: u32,
    /// How far it is.
    pub state: OrderState,
    /// What for.
    #[serde(default)]
    pub note: String,
}
