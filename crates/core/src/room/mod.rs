//! The simulated room: devices that receive waveforms, decode them with their own decoders, and change
//! state over time. The same automata that plans are made from run here forwards, with the things a
//! plan can only bound: how long a warm-up really takes, and keys that come at the wrong moment.
//!
//! Time is passed in, in ms; nothing here has a clock. Every duration takes
//! `lo + pace · (hi − lo)`, so that a room can be quick (0), slow (1) or in between.

pub mod comfort;
mod device;
pub mod ending;
pub mod evidence;
mod hand;
pub mod handset;
mod receiver;
#[cfg(test)]
mod tests;

pub use comfort::{NowPlaying, Want};
pub use device::{DeviceView, Outcome, PowerView};

use crate::device::Window;
use crate::device::group::CouplingAct;
use crate::device::look::Seen;
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::model::{Medium, Site, Span, Stand};
use crate::plan::couple;
use crate::plan::goal::DeviceGoal;
use crate::space::hears::is_drawn;
use crate::space::scene::{Posture, place_of};
use device::SimDevice;
use kestrel_signal::{Capture, radio, read, read_among};
use receiver::Receiver;
use serde::Serialize;
use std::collections::BTreeSet;
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
    links: Vec<SimLink>,
    /// Events on their way: when, and which link.
    pending: Vec<(u64, usize)>,
    now_ms: u64,
}

/// One device switches another.
#[derive(Debug, Clone, Copy)]
struct SimLink {
    from: DeviceId,
    to: DeviceId,
    on: bool,
    deed: CouplingAct,
    delay: Window,
}

impl SimRoom {
    /// The room as room-off leaves it, at time 0: everything off, everything up.
    #[must_use]
    pub fn new(site: &Site, room: RoomId, pace: f64) -> Self {
        let devices = site
            .devices_in(room)
            .filter_map(|device| {
                let profile = site.profile_of(device.id)?;
                let receiver = Receiver::new(site, device, &profile);
                let mut own = SimDevice::new(device, &profile, receiver, pace.clamp(0.0, 1.0));
                // Where both are placed on a plan, light itself says what the screen keeps off.
                let placed = |device: DeviceId| place_of(site, device).is_some();
                if is_drawn(site, device.room) && placed(device.id) && device.behind.is_some_and(placed) {
                    own.stand_free();
                }
                Some(own)
            })
            .collect();
        let mut links = Vec::new();
        for group in couple::groups(site, room) {
            links.extend(group.links.iter().map(|link| SimLink {
                from: group.members[link.from].0,
                to: group.members[link.to].0,
                on: link.on,
                deed: link.deed,
                delay: link.delay,
            }));
        }
        Self { devices, links, pending: vec![], now_ms: 0 }
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
        if fresh.links.len() == self.links.len() {
            fresh.pending.clone_from(&self.pending);
        }
        *self = fresh;
    }

    /// Lets time pass up to `now_ms`; going back is ignored.
    pub fn advance(&mut self, now_ms: u64) {
        loop {
            let link = self.pending.iter().copied().filter(|(at, _)| *at <= now_ms).min();
            let standby = self.devices.iter().enumerate().filter_map(|(at, device)| Some((device.standby_ms()?, at)));
            let standby = standby.filter(|(at, _)| *at <= now_ms).min();
            match (link, standby) {
                (None, None) => break,
                (Some(next), other) if other.is_none_or(|other| next.0 <= other.0) => {
                    self.pending.retain(|event| *event != next);
                    let (at_ms, link) = (next.0.max(self.now_ms), self.links[next.1]);
                    self.pass(at_ms);
                    let before = self.powers();
                    if let Some(device) = self.devices.iter_mut().find(|device| device.id() == link.to) {
                        device.coupled(at_ms, link.deed);
                    }
                    self.couple(&before);
                }
                (_, Some((at_ms, device))) => {
                    let at_ms = at_ms.max(self.now_ms);
                    self.pass(at_ms);
                    let before = self.powers();
                    self.devices[device].stand_by(at_ms);
                    self.couple(&before);
                }
                (Some(_), None) => break,
            }
        }
        self.pass(now_ms);
    }

    fn pass(&mut self, now_ms: u64) {
        self.now_ms = self.now_ms.max(now_ms);
        for device in &mut self.devices {
            device.advance(self.now_ms);
        }
    }

    fn powers(&self) -> Vec<bool> {
        self.devices.iter().map(SimDevice::is_on).collect()
    }

    /// Devices that have gone on or off since switch those that are coupled to them.
    fn couple(&mut self, before: &[bool]) {
        for (device, was_on) in self.devices.iter().zip(before) {
            if device.is_on() == *was_on {
                continue;
            }
            for (at, link) in self.links.iter().enumerate() {
                if link.from == device.id() && link.on == device.is_on() {
                    let follows = matches!(link.deed, CouplingAct::Follow(_));
                    let links = &self.links;
                    self.pending.retain(|&(_, old)| !(follows && links[old].to == link.to));
                    self.pending.push((self.now_ms + takes(link.delay.into(), device.pace()), at));
                }
            }
        }
    }

    /// A transmission ends at `now_ms`: every device in reach decodes it and acts on it. Infrared does not
    /// reach what stands behind a screen that is down.
    pub fn radiate(&mut self, now_ms: u64, medium: Medium, durations_us: &[u32]) -> Vec<Heard> {
        self.radiate_but(now_ms, medium, durations_us, &BTreeSet::new())
    }

    /// The same where it is lost on the way to some devices.
    pub fn radiate_but(
        &mut self,
        now_ms: u64,
        medium: Medium,
        durations_us: &[u32],
        lost: &BTreeSet<DeviceId>,
    ) -> Vec<Heard> {
        self.advance(now_ms);
        let (now, before) = (self.now_ms, self.powers());
        let down: Vec<DeviceId> = self.devices.iter().filter(|d| d.is_down()).map(SimDevice::id).collect();
        let hidden = |device: &SimDevice| medium == Medium::Ir && device.behind().is_some_and(|by| down.contains(&by));
        let reached = self.devices.iter_mut().filter(|device| !lost.contains(&device.id()) && !hidden(device));
        let heard = reached.filter_map(|device| device.receive(now, medium, durations_us)).collect();
        self.couple(&before);
        heard
    }

    /// How the room stands: how far its screens are down.
    #[must_use]
    pub fn posture(&self, now_ms: u64) -> Posture {
        let down = self.devices.iter().filter_map(|device| Some((device.id(), device.down_share(now_ms)?)));
        Posture { down: down.collect(), open: false }
    }

    /// A device is told something by name, over a protocol of its own. `None` where it is not here.
    pub fn want(&mut self, now_ms: u64, device: DeviceId, want: &Want) -> Option<Outcome> {
        self.advance(now_ms);
        let (now, before) = (self.now_ms, self.powers());
        let outcome = self.devices.iter_mut().find(|known| known.id() == device)?.want(now, want);
        self.couple(&before);
        Some(outcome)
    }

    /// Devices are found as they are told to stand; durations lie at `pace` of their intervals from now on.
    pub fn stand(&mut self, now_ms: u64, site: &Site, stands: &[Stand], pace: f64) {
        self.advance(now_ms);
        self.pending.clear();
        for device in &mut self.devices {
            let stand = stands.iter().find(|stand| stand.device == device.id());
            if let Some((stand, profile)) = stand.and_then(|stand| Some((stand, site.profile_of(stand.device)?))) {
                device.stand(self.now_ms, &stand.timed(&profile), pace.clamp(0.0, 1.0));
            }
        }
    }

    /// Does anything move, warm, cool or fade?
    #[must_use]
    pub fn under_way(&self) -> bool {
        let busy = |device: &SimDevice| device.busy_until_ms().is_some() || device.fading(self.now_ms);
        !self.pending.is_empty() || self.devices.iter().any(busy)
    }

    /// Bytes arrive on the socket of a device at `now_ms`: what it did and what it answers, if it
    /// understood them.
    pub fn receive_bytes(&mut self, now_ms: u64, device: DeviceId, bytes: &[u8]) -> Option<(Heard, Vec<u8>)> {
        self.advance(now_ms);
        let (now, before) = (self.now_ms, self.powers());
        let answer = self.devices.iter_mut().find(|known| known.id() == device)?.receive_bytes(now, bytes);
        self.couple(&before);
        answer
    }

    /// What a device tells of itself; `None` where it is not in this room.
    #[must_use]
    pub fn seen(&self, device: DeviceId) -> Option<Seen> {
        self.devices.iter().find(|known| known.id() == device).map(SimDevice::seen)
    }

    /// The room as it stands.
    #[must_use]
    pub fn view(&self) -> Vec<DeviceView> {
        self.devices.iter().map(|device| device.view(self.now_ms)).collect()
    }

    /// When the next device settles, in ms, if anything is under way.
    #[must_use]
    pub fn next_event_ms(&self) -> Option<u64> {
        let devices = self.devices.iter().filter_map(SimDevice::busy_until_ms);
        devices.chain(self.pending.iter().map(|(at, _)| *at)).min()
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

/// What a transmission says, in words: the reading of a decoder that knows every protocol, also those of this house.
#[must_use]
pub fn meaning(site: &Site, medium: Medium, durations_us: &[u32]) -> String {
    let words = Capture::new(durations_us.to_vec(), None).ok().and_then(|capture| match medium {
        Medium::Ir => {
            let own = || read_among(&capture, &site.protocols_read()).best;
            read(&capture).best.or_else(own).map(|best| best.message.to_string())
        }
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
