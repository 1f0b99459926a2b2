//! Why a key would do nothing: for the family in their words, for the programmer in those of the trade.

use crate::id::{ActivityId, DeviceId, FunctionId};
use crate::model::Site;

/// Why a key would do nothing now.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Bar {
    /// What it was for is gone.
    Gone {
        /// What that was.
        what: &'static str,
    },
    /// There was nothing on before.
    NothingBefore,
    /// Nothing is on that it could change.
    NothingPlays,
    /// No activity uses the source.
    Unused {
        /// Which.
        device: DeviceId,
    },
    /// A favourite of another activity.
    NotOf {
        /// Its name.
        favourite: String,
        /// What is on.
        activity: ActivityId,
    },
    /// The model has no such keys.
    NoKeys {
        /// Of which device.
        device: DeviceId,
        /// Which keys.
        what: &'static str,
    },
    /// There is no code for a command.
    NoCode {
        /// Of which device.
        device: DeviceId,
        /// Which command.
        function: FunctionId,
    },
    /// Nothing carries a command to the device.
    NoWay {
        /// To which device.
        device: DeviceId,
        /// Which command.
        function: FunctionId,
    },
    /// A shortcut that cannot be worked out.
    NoShortcut {
        /// Of which source.
        device: DeviceId,
        /// Why.
        why: String,
    },
    /// The device is off.
    Off {
        /// Which.
        device: DeviceId,
    },
    /// Nobody knows whether the device is on.
    Unsure {
        /// Which.
        device: DeviceId,
    },
}

impl Bar {
    /// For the family: what is the matter and what they can do about it, without a word of the trade.
    #[must_use]
    pub fn plainly(&self, site: &Site) -> String {
        match self {
            Self::Gone { .. } => "This key does nothing any more.".to_owned(),
            Self::NothingBefore => "Nothing was on before this.".to_owned(),
            Self::NothingPlays => "Nothing is on now. Start something first.".to_owned(),
            Self::NotOf { favourite, .. } => format!("{favourite} is not for what is on now."),
            Self::Unused { device }
            | Self::NoKeys { device, .. }
            | Self::NoCode { device, .. }
            | Self::NoWay { device, .. }
            | Self::NoShortcut { device, .. } => {
                format!("{} is not set up for this yet.", the(&site.device_name(*device)))
            }
            Self::Off { device } => {
                format!("{} is off. Start what you would like first.", the(&site.device_name(*device)))
            }
            Self::Unsure { device } => {
                let name = the(&site.device_name(*device));
                format!("{name} may be on or off: nobody can tell from here. Look at it first.")
            }
        }
    }

    /// For the programmer: what is missing, by its name.
    #[must_use]
    pub fn exactly(&self, site: &Site) -> String {
        let name = |device: &DeviceId| site.device_name(*device);
        match self {
            Self::Gone { what } => format!("That {what} is gone."),
            Self::NothingBefore => "There was no activity before this one.".to_owned(),
            Self::NothingPlays => "Nothing is playing.".to_owned(),
            Self::Unused { device } => format!("No activity uses {}.", name(device)),
            Self::NotOf { favourite, activity } => {
                let activity = site.activity(*activity).map_or("what is on", |known| known.name.as_str());
                format!("“{favourite}” is no favourite of {activity}.")
            }
            Self::NoKeys { device, what } => format!("{} has no {what}.", name(device)),
            Self::NoCode { device, function } => {
                format!("“{}” of {} has no code yet.", site.function_name(*device, *function), name(device))
            }
            Self::NoWay { device, function } => {
                format!("“{}” has no way to {}.", site.function_name(*device, *function), name(device))
            }
            Self::NoShortcut { why, .. } => why.clone(),
            Self::Off { device } => format!("{} is off.", name(device)),
            Self::Unsure { device } => format!("Nobody knows whether {} is on.", name(device)),
        }
    }
}

/// A device at the head of a sentence: *Disc player* is *The disc player*. A name with capitals of its own keeps them.
#[must_use]
pub fn the(name: &str) -> String {
    let mut letters = name.chars();
    let Some(first) = letters.next() else { return "That".to_owned() };
    let rest = letters.as_str();
    if name.to_lowercase().starts_with("the ") || rest.chars().any(char::is_uppercase) {
        return name.to_owned();
    }
    format!("The {}{rest}", first.to_lowercase())
}
