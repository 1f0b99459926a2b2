//! Everything that a command can leave by: the gateway, and the drivers of devices on the network.

use crate::clock::Clock;
use crate::drive::gateway::Driver;
use crate::drive::{Drive, DriverError};
use crate::net::Net;
use kestrel_core::id::DeviceId;
use kestrel_core::model::{CodeBody, Medium, Press};
use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::sync::Arc;
use tokio::sync::Mutex;

/// The gateway of a room, connected again when it was lost.
pub struct GatewayLink {
    net: Net,
    address: SocketAddr,
    clock: Clock,
    driver: Mutex<Option<Arc<Driver>>>,
}

impl GatewayLink {
    /// A link that connects when it is first used.
    #[must_use]
    pub fn new(net: Net, address: SocketAddr, clock: Clock) -> Self {
        Self { net, address, clock, driver: Mutex::new(None) }
    }

    /// Where it listens.
    #[must_use]
    pub fn address(&self) -> SocketAddr {
        self.address
    }

    /// The driver, connected.
    ///
    /// # Errors
    /// Where the gateway cannot be reached, also after a few tries.
    pub async fn driver(&self) -> Result<Arc<Driver>, DriverError> {
        let mut driver = self.driver.lock().await;
        if let Some(open) = driver.as_ref().filter(|open| !open.gone()) {
            return Ok(open.clone());
        }
        *driver = None;
        let connect = || Driver::connect(&self.net, self.address, self.clock.clone());
        let fresh = Arc::new(self.clock.trying(connect).await?);
        *driver = Some(fresh.clone());
        Ok(fresh)
    }
}

/// The ways out of a room.
#[derive(Clone)]
pub struct Wires {
    /// The gateway of the room: for whatever names no other one, and for learning.
    pub gateway: Arc<GatewayLink>,
    /// Every gateway that stands in the room, or that one of its devices is reached through.
    pub gateways: Arc<BTreeMap<DeviceId, Arc<GatewayLink>>>,
    /// Devices that are reached through a gateway that somebody has named.
    pub through: Arc<BTreeMap<(DeviceId, Medium), DeviceId>>,
    /// Devices on the network, or why one cannot be driven.
    pub drives: Arc<BTreeMap<DeviceId, Result<Arc<Drive>, DriverError>>>,
    /// Sensors that were added to devices.
    pub sensors: Arc<BTreeMap<DeviceId, Arc<Drive>>>,
}

impl Wires {
    /// The driver of a device on the network.
    ///
    /// # Errors
    /// Where it has none, or must not be driven.
    pub fn drive(&self, device: DeviceId) -> Result<Arc<Drive>, DriverError> {
        let none = || Err(DriverError::NoWay("this device is not on the network of this room".to_owned()));
        self.drives.get(&device).cloned().unwrap_or_else(none)
    }

    /// The gateway that sends to a device on a medium.
    fn gateway_for(&self, device: DeviceId, medium: Medium) -> &GatewayLink {
        let named = self.through.get(&(device, medium)).and_then(|gateway| self.gateways.get(gateway));
        named.unwrap_or(&self.gateway)
    }

    /// What tells what a device is doing: its driver, or the sensor that was added to it.
    ///
    /// # Errors
    /// Where nothing tells.
    pub fn eyes(&self, device: DeviceId) -> Result<Arc<Drive>, DriverError> {
        match self.sensors.get(&device) {
            Some(sensor) => Ok(sensor.clone()),
            None => self.drive(device),
        }
    }

    /// Sends a function of a device: `body`, its key pressed as `press` says with at least `frames`
    /// frames. Returns when its last silence has passed, or the device has answered.
    ///
    /// # Errors
    /// Where it did not go out, or the answer is wrong.
    pub async fn send(
        &self,
        device: DeviceId,
        body: &CodeBody,
        press: Press,
        frames: Option<u32>,
    ) -> Result<(), DriverError> {
        match body {
            CodeBody::Ip { command } => self.drive(device)?.command(command).await,
            CodeBody::Opaque { payload, medium, .. } => {
                let send_ms = body.send_ms(press, frames);
                self.gateway_for(device, *medium)
                    .driver()
                    .await?
                    .send_payload(*medium, &payload.base64(), send_ms)
                    .await
            }
            _ => {
                let driver = self.gateway_for(device, body.medium()).driver().await?;
                driver.send(body.medium(), body.carrier_hz(), &body.send_us(press, frames)).await
            }
        }
    }
}

/// The lanes on which commands wait for each other: one for each shared medium, and one for each device
/// on wires of its own.
#[must_use]
pub fn lane(medium: Medium, device: DeviceId) -> (Medium, Option<DeviceId>) {
    if medium.shared() { (medium, None) } else { (medium, Some(device)) }
}
