//! The drivers: what speaks to a device on the network, written as if for the real thing.
//!
//! Which driver a device gets is told by its [`Talk`]. Where it is found is the stand-in's address, or any
//! that a user has typed; an address outside this machine must have been allowed.

pub mod gateway;
pub mod http;
pub mod json;
pub mod lines;
pub mod link;
pub mod mqtt;
pub mod pjlink;
pub mod strip;

use crate::clock::Clock;
use crate::net::Net;
use kestrel_core::adopt::input_called;
use kestrel_core::commission::feedback::Says;
use kestrel_core::device::look::Seen;
use kestrel_core::id::DeviceId;
use kestrel_core::model::{Site, Talk};
use kestrel_core::room::{NowPlaying, Want};
use kestrel_signal::ip::{IpCommand, Transport};
use serde::{Deserialize, Serialize};
use std::net::SocketAddr;
use thiserror::Error;
use tokio::sync::broadcast;
use utoipa::ToSchema;

/// Why a command did not go out, or was not answered.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum DriverError {
    /// No connection can be made.
    #[error("the gateway at {address} cannot be reached ({why})")]
    Unreachable {
        /// Where it should be.
        address: String,
        /// What the system says.
        why: String,
    },
    /// It hung up.
    #[error("the gateway closed the connection")]
    Closed,
    /// It says nothing.
    #[error("the gateway did not answer within {0} s")]
    Silent(u64),
    /// No connection to a device can be made.
    #[error("the device at {address} cannot be reached ({why})")]
    DeviceUnreachable {
        /// Where it should be.
        address: String,
        /// What the system says.
        why: String,
    },
    /// A device hung up.
    #[error("the device closed the connection without an answer")]
    DeviceClosed,
    /// A device says nothing.
    #[error("the device did not answer within {0} s")]
    DeviceSilent(u64),
    /// A device answers something else.
    #[error("the device answered “{got}” where “{expected}” was expected")]
    Answer {
        /// What should have come.
        expected: String,
        /// What came.
        got: String,
    },
    /// A device says no.
    #[error("the device refused: {0}")]
    DeviceRefused(String),
    /// The password is wrong.
    #[error("the device does not take the password; type it again in Kit")]
    Password,
    /// The address is outside this machine, and nobody has allowed it.
    #[error(
        "{0} is outside this machine. Allow it in Kit, at the device's address, or leave the address empty for the stand-in"
    )]
    NotAllowed(String),
    /// There is no way to send it here.
    #[error("{0}")]
    NoWay(String),
    /// It refused.
    #[error("the gateway refused: {0}")]
    Refused(String),
}

/// What a device tells of itself; none where it does not tell.
#[derive(Debug, Clone, PartialEq, Default, Serialize, ToSchema)]
pub struct Report {
    /// Its power in a word: on, off, starting, cooling.
    pub power: Option<String>,
    /// The input, as it calls it.
    pub input: Option<String>,
    /// How loud, in tenths of its scale's unit.
    pub volume_tenths: Option<u32>,
    /// Is its sound off?
    pub muted: Option<bool>,
    /// How far down, in %.
    pub down_percent: Option<u8>,
    /// What it plays.
    pub playing: Option<NowPlaying>,
    /// How bright, in %.
    pub level_percent: Option<u8>,
    /// Was the level set by a hand on the wall?
    pub by_hand: bool,
    /// Tripped?
    pub tripped: Option<bool>,
    /// A key that went down or came up.
    pub stroke: Option<Stroke>,
}

/// A key that went down or came up.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Stroke {
    /// The key's name.
    pub key: String,
    /// Down?
    pub down: bool,
}

impl Report {
    /// Does it come on or go off, so that what it says may change by itself?
    #[must_use]
    pub fn settling(&self) -> bool {
        matches!(self.power.as_deref(), Some("starting" | "cooling"))
    }

    /// What the machine of the device is seen in.
    #[must_use]
    pub fn seen(&self, site: &Site, device: DeviceId) -> Seen {
        let on = self.power.as_deref().map(|power| matches!(power, "on" | "starting"));
        let input = self.input.as_ref().filter(|_| on != Some(false));
        Seen {
            on,
            input: input.and_then(|name| input_called(site, device, name)),
            down: self.down_percent.map(|percent| percent == 100),
        }
    }

    /// What a stopwatch goes by.
    #[must_use]
    pub fn says(&self, site: &Site, device: DeviceId) -> Says {
        Says { seen: self.seen(site, device), settling: self.settling(), down_percent: self.down_percent }
    }
}

/// The driver of one device.
pub enum Drive {
    /// Text lines.
    Lines(lines::Lines),
    /// PJLink.
    Pjlink(pjlink::Pjlink),
    /// HTTP and Wake-on-LAN.
    Http(http::Http),
    /// Players and speakers.
    Json(json::Json),
    /// Dimmers, sensors and keypads behind a broker.
    Mqtt(mqtt::Mqtt),
    /// An LED strip.
    Strip(strip::Strip),
}

/// Where a device is found.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Address {
    /// By TCP.
    pub tcp: SocketAddr,
    /// By UDP.
    pub udp: SocketAddr,
}

impl Drive {
    /// The driver of a device that is found at `address`.
    #[must_use]
    pub fn new(
        site: &Site,
        device: DeviceId,
        net: &Net,
        address: Address,
        clock: &Clock,
        bus: &crate::bus::Bus,
    ) -> Self {
        let password = site.device(device).map(|device| device.network.password.clone()).unwrap_or_default();
        match site.talk_of(device) {
            Talk::Lines => Self::Lines(lines::Lines::new(net, address.tcp, clock, pushes(site, device))),
            Talk::Pjlink => Self::Pjlink(pjlink::Pjlink::new(net, address.tcp, clock, password)),
            Talk::Http => Self::Http(http::Http::new(net, address, clock)),
            Talk::Player | Talk::Speaker => Self::Json(json::Json::new(net, address.tcp, clock)),
            Talk::Mqtt => Self::Mqtt(mqtt::Mqtt::new(bus.clone(), device, clock)),
            Talk::E131 => Self::Strip(strip::Strip::new(net, address.udp, clock)),
        }
    }

    /// The driver of a sensor that was added to a device.
    #[must_use]
    pub fn sensor(bus: &crate::bus::Bus, device: DeviceId, clock: &Clock) -> Self {
        Self::Mqtt(mqtt::Mqtt::new(bus.clone(), device, clock))
    }

    /// Sends one of the device's own commands and checks the answer.
    ///
    /// # Errors
    /// Where it did not go out, or the answer is another one.
    pub async fn command(&self, command: &IpCommand) -> Result<(), DriverError> {
        let datagram =
            matches!(command, IpCommand::WakeOnLan { .. } | IpCommand::Payload { transport: Transport::Udp, .. });
        match self {
            Self::Http(http) if datagram || matches!(command, IpCommand::Http { .. }) => http.command(command).await,
            Self::Pjlink(pjlink) if matches!(command, IpCommand::Pjlink { .. }) => pjlink.command(command).await,
            Self::Lines(lines) if !datagram => lines.command(command).await,
            Self::Json(json) if !datagram => json.command(command).await,
            _ => Err(DriverError::NoWay(format!("{command} is not spoken by the driver of this device"))),
        }
    }

    /// Tells it something by name.
    ///
    /// # Errors
    /// Where it did not go out, was refused, or the device has no such thing.
    pub async fn want(&self, want: &Want) -> Result<(), DriverError> {
        match self {
            Self::Lines(lines) => lines.want(want).await,
            Self::Http(http) => http.want(want).await,
            Self::Json(json) => json.want(want).await,
            Self::Mqtt(mqtt) => mqtt.want(want).await,
            Self::Strip(strip) => strip.want(want).await,
            Self::Pjlink(pjlink) => pjlink.want(want).await,
        }
    }

    /// Asks what it is doing.
    ///
    /// # Errors
    /// Where nothing sensible comes back.
    pub async fn poll(&self) -> Result<Report, DriverError> {
        match self {
            Self::Lines(lines) => lines.poll().await,
            Self::Pjlink(pjlink) => pjlink.poll().await,
            Self::Http(http) => http.poll().await,
            Self::Json(json) => json.poll().await,
            Self::Mqtt(mqtt) => mqtt.poll().await,
            Self::Strip(_) => Ok(Report::default()),
        }
    }

    /// What it tells by itself; none where it does not.
    #[must_use]
    pub fn reports(&self) -> Option<broadcast::Receiver<Report>> {
        match self {
            Self::Lines(lines) => Some(lines.reports()),
            Self::Json(json) => Some(json.reports()),
            Self::Mqtt(mqtt) => Some(mqtt.reports()),
            Self::Pjlink(_) | Self::Http(_) | Self::Strip(_) => None,
        }
    }
}

/// Does the model tell of changes by itself?
fn pushes(site: &Site, device: DeviceId) -> bool {
    site.profile_of(device)
        .is_some_and(|profile| matches!(profile.feedback, kestrel_core::model::Feedback::Push { .. }))
}

/// Where a driver finds a device that a user has placed at an address of his own; none for the stand-in.
///
/// # Errors
/// Where the address is none, or is outside this machine and not allowed.
pub fn typed_address(site: &Site, device: DeviceId) -> Result<Option<SocketAddr>, DriverError> {
    let Some(network) = site.device(device).map(|device| &device.network) else { return Ok(None) };
    let typed = network.drive_at.trim();
    if typed.is_empty() {
        return Ok(None);
    }
    let address: SocketAddr = typed.parse().map_err(|_| {
        DriverError::NoWay(format!(
            "“{typed}” is no address to drive. It has an IP address and a port, such as 10.0.4.13:4352"
        ))
    })?;
    if address.ip().is_loopback() || network.allowed.trim() == typed {
        Ok(Some(address))
    } else {
        Err(DriverError::NotAllowed(typed.to_owned()))
    }
}
