//! Where a device is on the network, and in which protocol it is spoken to.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a device is on the network.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Link {
    /// It is not.
    #[default]
    None,
    /// By cable.
    Wired,
    /// By radio at 2.4 GHz.
    #[serde(rename = "wifi-2.4")]
    Wifi24,
    /// By radio at 5 GHz.
    #[serde(rename = "wifi-5")]
    Wifi5,
}

/// The protocol in which a device is spoken to on the network. Which driver it gets is told by this alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Talk {
    /// Text lines over TCP, and the bytes of its own commands.
    #[default]
    Lines,
    /// PJLink class 1 over TCP.
    Pjlink,
    /// HTTP; woken by Wake-on-LAN.
    Http,
    /// JSON lines of a player: transport, position, app.
    Player,
    /// JSON lines of a speaker that says or plays something.
    Speaker,
    /// MQTT, through a broker.
    Mqtt,
    /// E1.31 (streaming ACN) over UDP.
    E131,
}

impl Talk {
    /// Its name in a sentence.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Lines => "text lines",
            Self::Pjlink => "PJLink",
            Self::Http => "HTTP",
            Self::Player => "player lines",
            Self::Speaker => "speaker lines",
            Self::Mqtt => "MQTT",
            Self::E131 => "E1.31",
        }
    }
}

/// Where a device is on the network.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Network {
    /// How it is connected.
    pub link: Link,
    /// Its address, as it was typed.
    pub ip: String,
    /// Its MAC address, as it was typed.
    pub mac: String,
    /// Is the address reserved for it?
    pub reserved: bool,
    /// The port it listens on.
    pub port: Option<u16>,
    /// The protocol, where it is another than its model's.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub talks: Option<Talk>,
    /// The password of its protocol, where it wants one.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub password: String,
    /// Where the driver finds it, as host:port; the stand-in on this machine where it is empty.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub drive_at: String,
    /// The address outside this machine that a user has allowed the driver to reach.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub allowed: String,
}

impl Network {
    /// Has anything been entered?
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}
