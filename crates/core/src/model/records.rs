//! What a service call needs to know of a device.

use crate::id::PhotoId;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The longest note, in characters.
pub const NOTE_MAX: usize = 4_000;

/// The most photos of a device.
pub const PHOTOS_MAX: usize = 24;

/// What a service call needs. Empty texts are what nobody has written down yet.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Records {
    /// Its serial number.
    pub serial_number: String,
    /// Its firmware version.
    pub firmware: String,
    /// The version of the driver that talks to it.
    pub driver: String,
    /// How it was paired.
    pub paired: String,
    /// The key it is reached with on the local network. Left out of exports unless asked for.
    pub local_key: String,
    /// The account it is bound to. Left out of exports unless asked for.
    pub account: String,
    /// Does it need the maker's cloud? None where nobody knows.
    pub needs_cloud: Option<bool>,
    /// The battery of its remote, or its own.
    pub battery: String,
    /// Its dock or charger.
    pub dock: String,
    /// Where it stands: the shelf, the corner, the height.
    pub stands: String,
    /// Anything else.
    pub notes: String,
    /// Photos of its label and its back.
    pub photos: Vec<Photo>,
}

/// A photo. Its bytes are kept apart and never change.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Photo {
    /// Its id.
    pub id: PhotoId,
    /// What it shows.
    pub caption: String,
}

impl Records {
    /// The texts with the names that the screen gives them; secrets last.
    #[must_use]
    pub fn texts(&self) -> [(&'static str, &str); 10] {
        [
            ("Serial number", &self.serial_number),
            ("Firmware", &self.firmware),
            ("Driver", &self.driver),
            ("Paired", &self.paired),
            ("Battery", &self.battery),
            ("Dock", &self.dock),
            ("Stands", &self.stands),
            ("Notes", &self.notes),
            ("Local key", &self.local_key),
            ("Account", &self.account),
        ]
    }
}
