//! Hands in the room: what people and the mains do without asking the runtime.

use super::SimRoom;
use super::device::SimDevice;
use crate::device::group::CouplingAct;
use crate::id::DeviceId;
use crate::model::Hand;

impl SimRoom {
    /// A hand does something at `now_ms`: what came of it, in words. `None` where the device is not here.
    pub fn hand(&mut self, now_ms: u64, hand: &Hand) -> Option<String> {
        self.advance(now_ms);
        let (now, before) = (self.now_ms, self.powers());
        let said = match hand {
            Hand::Mains { on } => {
                for index in 0..self.devices.len() {
                    self.plug(index, *on);
                }
                if *on { "the mains are back" } else { "the mains are gone" }.to_owned()
            }
            Hand::Plug { device, plugged } => {
                let index = self.devices.iter().position(|known| known.id() == *device)?;
                self.plug(index, *plugged);
                if *plugged { "plugged in" } else { "plug pulled" }.to_owned()
            }
            _ => {
                let device = hand.device()?;
                self.devices.iter_mut().find(|known| known.id() == device)?.by_hand(now, hand)
            }
        };
        self.couple(&before);
        Some(said)
    }

    /// A plug goes in or out; what follows another device's power follows it at once.
    fn plug(&mut self, index: usize, plugged: bool) {
        let now = self.now_ms;
        let (id, follows) = (self.devices[index].id(), self.devices[index].follows());
        let fed = || {
            let feeds = |link: &&super::SimLink| link.to == id && matches!(link.deed, CouplingAct::Follow(_));
            let from = self.links.iter().find(feeds).map(|link| link.from);
            from.is_some_and(|from| self.devices.iter().any(|device| device.id() == from && device.is_on()))
        };
        let comes_on = follows.then(fed);
        self.devices[index].plug(now, plugged, comes_on);
    }

    /// Is this device's plug in the wall? What is not in this room counts as plugged.
    #[must_use]
    pub fn plugged(&self, device: DeviceId) -> bool {
        self.devices.iter().find(|known| known.id() == device).is_none_or(SimDevice::is_plugged)
    }
}
