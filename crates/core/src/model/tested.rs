//! What a test of a code showed.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a test of a function showed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum TestEffect {
    /// The device did as its function says.
    Worked,
    /// Nothing happened.
    Nothing,
    /// Something else happened.
    WrongThing,
    /// It works only sometimes.
    Sometimes,
}

impl TestEffect {
    /// Its name in a sentence.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Worked => "worked",
            Self::Nothing => "nothing happened",
            Self::WrongThing => "the wrong thing happened",
            Self::Sometimes => "it works only sometimes",
        }
    }
}

/// A test of a code.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Tested {
    /// When, in UTC.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What happened.
    pub effect: TestEffect,
    /// In words.
    #[serde(default)]
    pub note: String,
}
