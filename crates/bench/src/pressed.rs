//! A key that was pressed, as the runtime understood it.

use kestrel_core::id::{DeviceId, FunctionId};
use kestrel_core::model::Gesture;
use serde::Serialize;
use utoipa::ToSchema;

/// A key that was pressed, as the runtime understood it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = PressSeen)]
pub struct Pressed {
    /// When, in ms.
    pub at_ms: u64,
    /// On which keypad.
    pub device: DeviceId,
    /// Which key.
    pub function: FunctionId,
    /// What the finger did.
    pub gesture: Gesture,
}
