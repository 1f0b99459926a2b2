//! How far a code is proved: *none → captured → decoded → tested → failed*.

use crate::model::{Code, CodeBody, TestEffect, Tested};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How far a function is proved. The order is that of the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum CodeState {
    /// There is no code.
    None,
    /// Timing that no protocol explains.
    Captured,
    /// A payload that only its gateway understands.
    Opaque,
    /// Bytes that were typed or taken from a set.
    Written,
    /// A message that is understood.
    Decoded,
    /// Tested, and it worked.
    Tested,
    /// Tested, and it did not.
    Failed,
}

impl CodeState {
    /// Its word in the table.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::None => "none",
            Self::Captured => "captured",
            Self::Opaque => "opaque",
            Self::Written => "written",
            Self::Decoded => "decoded",
            Self::Tested => "tested",
            Self::Failed => "failed",
        }
    }
}

/// How far a function with this code is proved.
#[must_use]
pub fn state_of(code: Option<&Code>) -> CodeState {
    let Some(code) = code else { return CodeState::None };
    match (&code.tested, &code.body) {
        (Some(Tested { effect: TestEffect::Worked, .. }), _) => CodeState::Tested,
        (Some(_), _) => CodeState::Failed,
        (None, CodeBody::Decoded { .. } | CodeBody::Radio { .. }) => CodeState::Decoded,
        (None, CodeBody::Raw { .. }) => CodeState::Captured,
        (None, CodeBody::Opaque { .. }) => CodeState::Opaque,
        (None, CodeBody::Ip { .. }) => CodeState::Written,
    }
}
