//! A set of codes that a device may follow: imported from a file, copied from another device, or from
//! the library.

use crate::id::CodeSetId;
use crate::model::{CodeBody, DeviceKind, Press};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// One key of a set.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct SetKey {
    /// The function that it is for, by name.
    pub name: String,
    /// How its key is pressed.
    #[serde(default)]
    pub press: Press,
    /// What is sent.
    pub body: CodeBody,
}

/// A set of codes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct CodeSet {
    /// Its id.
    pub id: CodeSetId,
    /// What it is called.
    pub name: String,
    /// What kind of device it is for, where known.
    #[serde(default)]
    pub kind: Option<DeviceKind>,
    /// Where it comes from.
    #[serde(default)]
    pub source: String,
    /// Its keys.
    pub keys: Vec<SetKey>,
}

impl CodeSet {
    /// The key for a function of this name, capitals apart.
    #[must_use]
    pub fn key(&self, name: &str) -> Option<&SetKey> {
        let wanted = name.to_lowercase();
        self.keys.iter().find(|key| key.name.to_lowercase() == wanted)
    }
}
