//! How a command reaches a device: the ways that a model offers, and those that were set up.

use crate::id::DeviceId;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// On what a command travels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Medium {
    /// Infrared.
    Ir,
    /// Radio at 433.92 MHz, fixed codes.
    Rf433,
    /// The network.
    Ip,
    /// A serial line.
    Serial,
    /// A mesh of small radios, bridged to the network over MQTT.
    Mesh,
    /// A 12 V trigger.
    Trigger,
    /// The power of a USB socket.
    UsbPower,
    /// Bluetooth: it can be neither learned nor sent by a gateway.
    Bluetooth,
}

impl Medium {
    /// Its name in a sentence.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Ir => "infrared",
            Self::Rf433 => "radio",
            Self::Ip => "the network",
            Self::Serial => "a serial line",
            Self::Mesh => "mesh radio",
            Self::Trigger => "a 12 V trigger",
            Self::UsbPower => "USB power",
            Self::Bluetooth => "Bluetooth",
        }
    }

    /// Is it shared by every device in reach, so that two sends at once disturb each other?
    #[must_use]
    pub fn shared(self) -> bool {
        matches!(self, Self::Ir | Self::Rf433)
    }

    /// Can a gateway learn from a handset that sends by it?
    #[must_use]
    pub fn learnable(self) -> bool {
        matches!(self, Self::Ir | Self::Rf433)
    }

    /// Does it need a gateway that sends for the controller?
    #[must_use]
    pub fn needs_gateway(self) -> bool {
        matches!(self, Self::Ir | Self::Rf433 | Self::Serial | Self::Mesh)
    }
}

/// A way in which a model can be told something.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
pub struct Offer {
    /// On what the command travels.
    pub medium: Medium,
    /// Does the device answer on it?
    pub replies: bool,
}

/// Which bands a radio network has.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Wifi {
    /// 2.4 GHz alone.
    #[serde(rename = "2.4-only")]
    Only24,
    /// 2.4 and 5 GHz.
    Both,
}

/// Test counts of a path: `lost` presses of `of` did not arrive.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
pub struct Tries {
    /// How many were lost.
    pub lost: u32,
    /// Of how many.
    pub of: u32,
}

/// A way that was set up for a device. The first of a device's paths is the preferred one.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct ControlPath {
    /// On what the command travels.
    pub medium: Medium,
    /// Does the device answer on it?
    #[serde(default)]
    pub replies: bool,
    /// The gateway that sends.
    #[serde(default)]
    pub through: Option<DeviceId>,
    /// Presses that were lost, of those that were counted.
    #[serde(default)]
    pub tries: Tries,
    /// The emitter, the socket, the pairing: what one has to find again.
    #[serde(default)]
    pub note: String,
}

impl From<Offer> for ControlPath {
    fn from(offer: Offer) -> Self {
        Self {
            medium: offer.medium,
            replies: offer.replies,
            through: None,
            tries: Tries::default(),
            note: String::new(),
        }
    }
}

/// A class of paths, as practitioners rank them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PathClass {
    /// IP with feedback.
    IpFeedback,
    /// Serial with replies.
    SerialReplies,
    /// Mesh radio: two-way, through a bridge.
    Mesh,
    /// IP without feedback.
    IpOneWay,
    /// Infrared with discrete codes.
    IrDiscrete,
    /// Radio.
    Rf,
    /// One-way serial.
    SerialOneWay,
    /// Infrared toggles.
    IrToggle,
    /// 12 V trigger.
    Trigger,
    /// USB power.
    UsbPower,
    /// Bluetooth.
    Bluetooth,
}

impl PathClass {
    /// The usual order (*common practice*; mesh, trigger, USB power and Bluetooth placed by us).
    pub const USUAL: [Self; 11] = [
        Self::IpFeedback,
        Self::SerialReplies,
        Self::Mesh,
        Self::IpOneWay,
        Self::IrDiscrete,
        Self::Rf,
        Self::SerialOneWay,
        Self::IrToggle,
        Self::Trigger,
        Self::UsbPower,
        Self::Bluetooth,
    ];

    /// The class of a path; `discrete` tells whether power has a key for on and one for off.
    #[must_use]
    pub fn of(offer: Offer, discrete: bool) -> Self {
        match (offer.medium, offer.replies) {
            (Medium::Ip, true) => Self::IpFeedback,
            (Medium::Ip, false) => Self::IpOneWay,
            (Medium::Serial, true) => Self::SerialReplies,
            (Medium::Serial, false) => Self::SerialOneWay,
            (Medium::Mesh, _) => Self::Mesh,
            (Medium::Ir, _) if discrete => Self::IrDiscrete,
            (Medium::Ir, _) => Self::IrToggle,
            (Medium::Rf433, _) => Self::Rf,
            (Medium::Trigger, _) => Self::Trigger,
            (Medium::UsbPower, _) => Self::UsbPower,
            (Medium::Bluetooth, _) => Self::Bluetooth,
        }
    }

    /// Its name.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::IpFeedback => "IP with feedback",
            Self::SerialReplies => "serial with replies",
            Self::Mesh => "mesh radio",
            Self::IpOneWay => "IP without feedback",
            Self::IrDiscrete => "infrared with discrete codes",
            Self::Rf => "radio",
            Self::SerialOneWay => "one-way serial",
            Self::IrToggle => "infrared toggles",
            Self::Trigger => "12 V trigger",
            Self::UsbPower => "USB power",
            Self::Bluetooth => "Bluetooth",
        }
    }
}
