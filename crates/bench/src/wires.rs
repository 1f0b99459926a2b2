//! Everything that a command can leave by: the gateway, and the sockets of devices on the network.

use crate::driver::{Driver, DriverError};
use crate::ip::{self, Address};
use kestrel_core::device::{Medium, Press};
use kestrel_core::id::DeviceId;
use kestrel_core::site::CodeBody;
use std::collections::BTreeMap;
use std::sync::Arc;

/// The ways out of a room.
#[derive(Clone)]
pub struct Wires {
    /// The gateway.
    pub gateway: Arc<Driver>,
    /// Devices on the network.
    pub devices: Arc<BTreeMap<DeviceId, Address>>,
}

impl Wires {
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
        rate: f64,
    ) -> Result<(), DriverError> {
        match body {
            CodeBody::Ip { command } => {
                let address = self.devices.get(&device).copied().ok_or_else(|| {
                    DriverError::NoWay("the rehearsal room has no socket for this device yet; try again".to_owned())
                })?;
                ip::send(address, command).await.map(|_| ())
            }
            CodeBody::Opaque { payload, medium, .. } => {
                let send_ms = body.send_ms(press, frames);
                self.gateway.send_payload(*medium, &payload.base64(), send_ms, rate).await
            }
            _ => self.gateway.send(body.medium(), body.carrier_hz(), &body.send_us(press, frames), rate).await,
        }
    }
}

/// The lanes on which commands wait for each other: one for each shared medium, and one for each device
/// on wires of its own.
#[must_use]
pub fn lane(medium: Medium, device: DeviceId) -> (Medium, Option<DeviceId>) {
    if medium.shared() { (medium, None) } else { (medium, Some(device)) }
}
