//! The simulated room: devices that receive waveforms, decode them with their own decoders, and change
//! state over time. The same automata that plans are made from run here forwards, with the things a
//! plan can only bound: how long a warm-up really takes, and keys that come at the wrong moment.
//!
//! Time is passed in, in ms; nothing here has a clock. Every duration takes
//! `lo + pace · (hi − lo)`, so that a room can be quick (0), slow (1) or in between.

mod device;
pub mod handset;
mod receiver;
#[cfg(test)]
mod tests;

pub use device::{DeviceView, NOTHING_TO_CHANGE, Outcome, PowerView};

use crate::device::{Medium, Span};
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::plan::goal::DeviceGoal;
use crate::signal::{Capture, radio, read};
use crate::site::Site;
use device::SimDevice;
use receiver::Receiver;
use serde::Serialize;
use utoipa::ToSchema;

/// What one device made of one transmission.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Heard {
    /// The device.
    pub device: DeviceId,
    /// The function that it understood.
    pub function: FunctionId,
    /// Its name.
    pub name: String,
    /// What it did.
    pub outcome: Outcome,
}

/// A room full of simulated devices.
#[derive(Debug, Clone)]
pub struct SimRoom {
    devices: Vec<SimDevice>,
    now_ms: u64,
}

impl SimRoom {
    /// The room as room-off leaves it, at time 0: everything off, everything up.
    #[must_use]
    pub fn new(site: &Site, room: RoomId, pace: f64) -> Self {
        let devices = site
            .devices_in(room)
            .filter_map(|device| {
                let profile = site.profile_of(device.id)?;
                Some(SimDevice::new(device, &profile, Receiver::new(site, device, &profile), pace.clamp(0.0, 1.0)))
            })
            .collect();
        Self { devices, now_ms: 0 }
    }

    /// Takes over changed profiles and codes; devices that stay keep their state.
    pub fn refit(&mut self, site: &Site, room: RoomId, pace: f64) {
        let mut fresh = Self::new(site, room, pace);
        for device in &mut fresh.devices {
            if let Some(old) = self.devices.iter().find(|old| old.id() == device.id()) {
                device.take_state(old);
            }
        }
        fresh.now_ms = self.now_ms;
        *self = fresh;
    }

    /// Lets time pass up to `now_ms`; going back is ignored.
    pub fn advance(&mut self, now_ms: u64) {
        self.now_ms = self.now_ms.max(now_ms);
        for device in &mut self.devices {
            device.advance(self.now_ms);
        }
    }

    /// A transmission ends at `now_ms`: every device in reach decodes it and acts on it.
    pub fn radiate(&mut self, now_ms: u64, medium: Medium, durations_us: &[u32]) -> Vec<Heard> {
        self.advance(now_ms);
        let now = self.now_ms;
        self.devices.iter_mut().filter_map(|device| device.receive(now, medium, durations_us)).collect()
    }

    /// Bytes arrive on the socket of a device at `now_ms`: what it did and what it answers, if it
    /// understood them.
    pub fn receive_bytes(&mut self, now_ms: u64, device: DeviceId, bytes: &[u8]) -> Option<(Heard, Vec<u8>)> {
        self.advance(now_ms);
        let now = self.now_ms;
        self.devices.iter_mut().find(|known| known.id() == device)?.receive_bytes(now, bytes)
    }

    /// The room as it stands.
    #[must_use]
    pub fn view(&self) -> Vec<DeviceView> {
        self.devices.iter().map(|device| device.view(self.now_ms)).collect()
    }

    /// When the next device settles, in ms, if anything is under way.
    #[must_use]
    pub fn next_event_ms(&self) -> Option<u64> {
        self.devices.iter().filter_map(SimDevice::busy_until_ms).min()
    }

    /// Where the room is not what it should be: a sentence for each device.
    #[must_use]
    pub fn differences(&self, goals: &[DeviceGoal]) -> Vec<String> {
        goals
            .iter()
            .filter_map(|goal| {
                let device = self.devices.iter().find(|device| device.id() == goal.device)?;
                device.difference(goal, self.now_ms)
            })
            .collect()
    }
}

/// What a transmission says, in words: the reading of a decoder that knows every protocol.
#[must_use]
pub fn meaning(medium: Medium, durations_us: &[u32]) -> String {
    let words = Capture::new(durations_us.to_vec(), None).ok().and_then(|capture| match medium {
        Medium::Ir => read(&capture).best.map(|best| best.message.to_string()),
        Medium::Rf433 => radio::read(&capture).ok().map(|heard| heard.candidates[0].to_string()),
        _ => None,
    });
    words.unwrap_or_else(|| format!("raw timing, {} durations", durations_us.len()))
}

/// How long something with this span takes at this pace, in ms.
fn takes(span: Span, pace: f64) -> u64 {
    let extra = f64::from(span.hi_ms.saturating_sub(span.lo_ms)) * pace;
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "0 ≤ extra ≤ u32::MAX")]
    let extra = extra.round() as u64;
    u64::from(span.lo_ms) + extra
}
