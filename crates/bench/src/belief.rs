//! What the runtime believes of each device: what it was told, not what it did.

use kestrel_core::device::look::{self, Seen};
use kestrel_core::device::timed::{self, Timed, Window};
use kestrel_core::device::{Letter, Standing};
use kestrel_core::id::{DeviceId, FunctionId, RoomId};
use kestrel_core::plan::{Situation, Start, goal};
use kestrel_core::site::Site;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// What each device of a room may be in, as of a moment.
#[derive(Debug, Clone, Default)]
pub struct Beliefs {
    states: BTreeMap<DeviceId, (u64, BTreeSet<Timed>)>,
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
        let states = start.into_iter().map(|(device, belief)| (device, (0, belief))).collect();
        let mut off = Self { states };
        off.follow(site, room);
        off
    }

    /// What follows another device's power is off where that is.
    fn follow(&mut self, site: &Site, room: RoomId) {
        for group in kestrel_core::plan::couple::groups(site, room).iter().filter(|group| !group.links.is_empty()) {
            for link in &group.links {
                let kestrel_core::device::group::Deed::Follow(_) = link.deed else { continue };
                let (from, to) = (group.members[link.from].0, group.members[link.to].0);
                let powers: BTreeSet<bool> =
                    self.states.get(&from).into_iter().flat_map(|(_, states)| states).map(|s| s.state.on).collect();
                if let Some((_, states)) = self.states.get_mut(&to) {
                    states.retain(|timed| powers.contains(&timed.state.on));
                }
            }
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
    }

    /// A command went out: every state that the device may be in takes it, and so does what it switches.
    pub fn sent(&mut self, site: &Site, room: RoomId, device: DeviceId, function: FunctionId, now_ms: u64) {
        let before = self.now(site, device, now_ms);
        let Some(automaton) = site.automaton(device) else { return };
        let after: BTreeSet<Timed> = before
            .iter()
            .flat_map(|timed| timed::press(&automaton, timed, Letter::Key(function)))
            .map(|(after, _)| after)
            .collect();
        let powers = |states: &BTreeSet<Timed>| states.iter().map(|s| s.state.on).collect::<BTreeSet<bool>>();
        let switched = powers(&before) != powers(&after);
        self.states.insert(device, (now_ms, after.clone()));
        if switched {
            self.coupled(site, room, device, &powers(&after), now_ms);
        }
    }

    /// What a device that has gone on or off does to those that are coupled to it: whenever it lands.
    fn coupled(&mut self, site: &Site, room: RoomId, device: DeviceId, powers: &BTreeSet<bool>, now_ms: u64) {
        let groups = kestrel_core::plan::couple::groups(site, room);
        let Some(group) = groups.iter().find(|group| group.place(device).is_some()) else { return };
        for link in group.links.iter().filter(|link| group.members[link.from].0 == device && powers.contains(&link.on))
        {
            let target = group.members[link.to].0;
            let belief = self.now(site, target, now_ms);
            let landed = group.landed(link, &belief, powers.len() == 1);
            self.states.insert(target, (now_ms, landed));
        }
    }

    /// A look at a device: what does not fit is no longer believed.
    pub fn saw(&mut self, site: &Site, device: DeviceId, seen: Seen, now_ms: u64) {
        let Some(automaton) = site.automaton(device) else { return };
        let fits = |timed: &Timed| look::seen(automaton.profile(), timed) == seen;
        let mut states: BTreeSet<Timed> = self.now(site, device, now_ms).into_iter().filter(fits).collect();
        if states.is_empty() {
            // It is not what was believed: whatever looks like this.
            states = automaton.states().into_iter().map(Timed::from).filter(fits).collect();
        }
        self.states.insert(device, (now_ms, states));
    }

    fn now(&self, site: &Site, device: DeviceId, now_ms: u64) -> BTreeSet<Timed> {
        let Some(automaton) = site.automaton(device) else { return BTreeSet::new() };
        match self.states.get(&device) {
            None => automaton.states().into_iter().map(Timed::from).collect(),
            Some((at_ms, states)) => {
                let passed = u32::try_from(now_ms.saturating_sub(*at_ms)).unwrap_or(timed::FOREVER_MS);
                let passed = Window::exactly(passed.min(timed::FOREVER_MS));
                states.iter().flat_map(|timed| timed::elapse(&automaton, timed, passed)).collect()
            }
        }
    }

    /// What a plan that starts now may start from.
    #[must_use]
    pub fn start(&self, site: &Site, now_ms: u64) -> Start {
        self.states.keys().map(|&device| (device, self.now(site, device, now_ms))).collect()
    }

    /// Beliefs in words, in the order of the room.
    #[must_use]
    pub fn view(&self, site: &Site, room: RoomId) -> Vec<BeliefView> {
        site.devices_in(room)
            .map(|device| {
                let text = self
                    .states
                    .get(&device.id)
                    .map_or("anything".to_owned(), |(_, states)| in_words(site, device.id, states));
                BeliefView { device: device.id, text }
            })
            .collect()
    }
}

fn in_words(site: &Site, device: DeviceId, states: &BTreeSet<Timed>) -> String {
    use kestrel_core::device::Power;
    let Some(profile) = site.profile_of(device) else { return "gone".to_owned() };
    let all = |test: &dyn Fn(&kestrel_core::device::State) -> bool| states.iter().all(|timed| test(&timed.state));
    let mut words = Vec::new();
    if profile.power != Power::AlwaysOn {
        words.push(match (all(&|s| s.on), all(&|s| !s.on)) {
            (true, false) => "on".to_owned(),
            (false, true) => "off".to_owned(),
            _ => "on or off".to_owned(),
        });
    }
    if profile.motion.is_some() {
        words.push(match (all(&|s| s.position == Standing::Down), all(&|s| s.position == Standing::Up)) {
            (true, false) => "down".to_owned(),
            (false, true) => "up".to_owned(),
            _ => "up or down".to_owned(),
        });
    }
    let on = states.iter().any(|timed| timed.state.on);
    if on && profile.inputs.len() > 1 {
        let inputs: BTreeSet<u8> = states.iter().filter(|s| s.state.on).map(|s| s.state.input).collect();
        let name = |index: &u8| profile.inputs.get(usize::from(*index)).map_or("?", |input| input.name.as_str());
        words.push(match inputs.len() {
            1 => inputs.iter().map(name).collect(),
            _ => "any input".to_owned(),
        });
    }
    if words.is_empty() { "always on".to_owned() } else { words.join(", ") }
}
