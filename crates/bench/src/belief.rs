//! What the runtime believes of each device: what it was told, not what it did.

use kestrel_core::device::State;
use kestrel_core::id::{DeviceId, FunctionId, RoomId};
use kestrel_core::plan::{Belief, Situation, Start, goal};
use kestrel_core::site::Site;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// Beliefs about the devices of a room, and until when they may be busy.
#[derive(Debug, Clone, Default)]
pub struct Beliefs {
    states: BTreeMap<DeviceId, BTreeSet<State>>,
    busy_until_ms: BTreeMap<DeviceId, u64>,
}

/// A belief in words.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct BeliefView {
    /// The device.
    pub device: DeviceId,
    /// What it is believed to be.
    pub text: String,
}

impl Beliefs {
    /// As room-off leaves the room.
    #[must_use]
    pub fn off(site: &Site, room: RoomId) -> Self {
        let start = goal::start(site, room, Situation::Off);
        Self {
            states: start.into_iter().map(|(device, belief)| (device, belief.states)).collect(),
            busy_until_ms: BTreeMap::new(),
        }
    }

    /// Takes over an edited house: devices that are new or have another profile may be in any state.
    pub fn refit(&mut self, old: &Site, new: &Site, room: RoomId) {
        let same = |device: &DeviceId| {
            new.device(*device).is_some_and(|d| d.room == room)
                && old.profile_of(*device).map(|p| (p.power, p.selection, p.inputs.len()))
                    == new.profile_of(*device).map(|p| (p.power, p.selection, p.inputs.len()))
        };
        self.states.retain(|device, _| same(device));
        self.busy_until_ms.retain(|device, _| same(device));
    }

    /// A command went out: every state that the device may be in takes it.
    pub fn sent(&mut self, site: &Site, device: DeviceId, function: FunctionId, now_ms: u64) {
        let Some(automaton) = site.automaton(device) else { return };
        let states = self.states.entry(device).or_insert_with(|| automaton.states().into_iter().collect());
        let mut longest = 0;
        *states = states
            .iter()
            .map(|&state| {
                let (after, effect) = automaton.press(state, function);
                longest = longest.max(automaton.settle(after, effect).hi_ms);
                after
            })
            .collect();
        if longest > 0 {
            self.busy_until_ms.insert(device, now_ms + u64::from(longest));
        }
    }

    /// What a plan that starts now may start from.
    #[must_use]
    pub fn start(&self, now_ms: u64) -> Start {
        self.states
            .iter()
            .map(|(&device, states)| {
                let until = self.busy_until_ms.get(&device).copied().unwrap_or(0);
                let busy_ms = u32::try_from(until.saturating_sub(now_ms)).unwrap_or(u32::MAX);
                (device, Belief { states: states.clone(), busy_ms })
            })
            .collect()
    }

    /// Beliefs in words, in the order of the room.
    #[must_use]
    pub fn view(&self, site: &Site, room: RoomId) -> Vec<BeliefView> {
        site.devices_in(room)
            .map(|device| {
                let text = self
                    .states
                    .get(&device.id)
                    .map_or("anything".to_owned(), |states| in_words(site, device.id, states));
                BeliefView { device: device.id, text }
            })
            .collect()
    }
}

fn in_words(site: &Site, device: DeviceId, states: &BTreeSet<State>) -> String {
    use kestrel_core::device::{Position, Power};
    let Some(profile) = site.profile_of(device) else { return "gone".to_owned() };
    let all = |test: &dyn Fn(&State) -> bool| states.iter().all(test);
    let mut words = Vec::new();
    if let Power::Follows { .. } = profile.power {
        words.push("follows its trigger".to_owned());
    } else if profile.power != Power::AlwaysOn {
        words.push(match (all(&|s| s.on), all(&|s| !s.on)) {
            (true, false) => "on".to_owned(),
            (false, true) => "off".to_owned(),
            _ => "on or off".to_owned(),
        });
    }
    if profile.motion.is_some() {
        words.push(match (all(&|s| s.position == Position::Down), all(&|s| s.position == Position::Up)) {
            (true, false) => "down".to_owned(),
            (false, true) => "up".to_owned(),
            _ => "up or down".to_owned(),
        });
    }
    let on = states.iter().any(|state| state.on);
    if on && profile.inputs.len() > 1 {
        let inputs: BTreeSet<u8> = states.iter().filter(|state| state.on).map(|state| state.input).collect();
        let name = |index: &u8| profile.inputs.get(usize::from(*index)).map_or("?", |input| input.name.as_str());
        words.push(match inputs.len() {
            1 => inputs.iter().map(name).collect(),
            _ => "any input".to_owned(),
        });
    }
    if words.is_empty() { "always on".to_owned() } else { words.join(", ") }
}
