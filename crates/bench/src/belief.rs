//! What the runtime believes of each device: what it was told, not what it did.

use kestrel_core::device::look::Seen;
use kestrel_core::device::timed::{self, Timed, Window};
use kestrel_core::device::{Letter, Target};
use kestrel_core::id::{DeviceId, FunctionId, RoomId};
use kestrel_core::model::{Site, Standing};
use kestrel_core::plan::{Start, couple};
use kestrel_core::room::{DeviceView, PowerView};
use kestrel_core::space::reach::Hears;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// Where a belief comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum How {
    /// The device was told so.
    Commanded,
    /// The device told so.
    Seen,
    /// Nobody said so.
    Assumed,
}

/// What each device of a room may be in, as of a moment.
#[derive(Debug, Clone, Default)]
pub struct Beliefs {
    states: BTreeMap<DeviceId, (u64, BTreeSet<Timed>)>,
    how: BTreeMap<DeviceId, (How, u64)>,
    /// How loud each device may be, in tenths of its scale's unit.
    volumes: BTreeMap<DeviceId, (u32, u32)>,
}

/// What keeps a motor from being driven the other way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reversal {
    /// It may be moving, and needs this long at most to have arrived and stood still, in ms.
    Moves {
        /// How long.
        for_ms: u32,
    },
    /// It has to stand still for this long, in ms.
    Pauses {
        /// How long.
        for_ms: u32,
    },
}

/// What is certain of a device.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Certain {
    /// Is it on?
    pub on: Option<bool>,
    /// Which input, counted from 0.
    pub input: Option<u8>,
    /// What it runs or receives, counted from 1; 0 is anything else.
    pub app: Option<u8>,
    /// Is its sound off?
    pub muted: Option<bool>,
    /// The value of each setting.
    pub modes: [Option<u8>; 4],
}

/// A belief in words.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct BeliefView {
    /// The device.
    pub device: DeviceId,
    /// What it is believed to be.
    pub text: String,
    /// Where that comes from.
    pub how: How,
    /// How old it is, in ms.
    pub age_ms: u64,
    /// Is it otherwise in truth?
    pub differs: bool,
    /// How loud it may be, from and to, in tenths of its scale's unit; none where it has no volume.
    pub volume_tenths: Option<(u32, u32)>,
}

impl Beliefs {
    /// What may be believed of a room that is found at a moment, or handed over at 0.
    #[must_use]
    pub fn at(now_ms: u64, known: Start) -> Self {
        let how = known.keys().map(|&device| (device, (How::Assumed, now_ms))).collect();
        let states = known.into_iter().map(|(device, belief)| (device, (now_ms, belief))).collect();
        Self { states, how, ..Self::default() }
    }

    /// Nobody knows anything.
    #[must_use]
    pub fn unknown() -> Self {
        Self::default()
    }

    /// Takes over an edited house: devices that are new or have another profile may be in any state.
    pub fn refit(&mut self, old: &Site, new: &Site, room: RoomId) {
        let same = |device: &DeviceId| {
            new.device(*device).is_some_and(|d| d.serves(room))
                && old.profile_of(*device).map(|p| (p.power, p.selection, p.inputs.len()))
                    == new.profile_of(*device).map(|p| (p.power, p.selection, p.inputs.len()))
        };
        self.states.retain(|device, _| same(device));
    }

    /// A command went out. Where it surely arrives, every state that the device may be in takes it, and so does what it
    /// switches; where it may not arrive, both are believed; where a screen surely keeps it off, nothing has changed.
    pub fn sent(&mut self, site: &Site, room: RoomId, device: DeviceId, function: FunctionId, now_ms: u64) {
        match self.arrives(site, room, device, function, now_ms) {
            Hears::Surely => self.took(site, room, device, function, now_ms),
            Hears::Maybe => self.perhaps_sent(site, room, device, function, now_ms),
            Hears::SurelyNot => {}
        }
    }

    /// Does a key arrive, as screens are believed to hang?
    fn arrives(&self, site: &Site, room: RoomId, device: DeviceId, function: FunctionId, now_ms: u64) -> Hears {
        let way = couple::arrival(site, room, device, function);
        let mut arrives = if way.surely { Hears::Surely } else { Hears::Maybe };
        for (screen, surely_not) in way.screens {
            let hangs = self.now(site, screen, now_ms);
            let all = |end: Standing| hangs.iter().all(|own| own.state.position == end && !own.may_travel());
            if surely_not && all(Standing::Down) && !hangs.is_empty() {
                return Hears::SurelyNot;
            }
            if !all(Standing::Up) {
                arrives = Hears::Maybe;
            }
        }
        arrives
    }

    /// A command has arrived: every state that the device may be in takes it, and so does what it switches.
    fn took(&mut self, site: &Site, room: RoomId, device: DeviceId, function: FunctionId, now_ms: u64) {
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
        self.how.insert(device, (How::Commanded, now_ms));
        self.louder(site, device, function, switched);
        if switched {
            self.coupled(site, room, device, &powers(&after), now_ms);
        }
    }

    /// What a device that has gone on or off does to those that are coupled to it: whenever it lands.
    fn coupled(&mut self, site: &Site, room: RoomId, device: DeviceId, powers: &BTreeSet<bool>, now_ms: u64) {
        let groups = couple::groups(site, room);
        let Some(group) = groups.iter().find(|group| group.place(device).is_some()) else { return };
        for link in group.links.iter().filter(|link| group.members[link.from].0 == device && powers.contains(&link.on))
        {
            let target = group.members[link.to].0;
            let belief = self.now(site, target, now_ms);
            let landed = group.landed(link, &belief, powers.len() == 1);
            self.states.insert(target, (now_ms, landed));
            self.how.insert(target, (How::Assumed, now_ms));
        }
    }

    /// A command may have gone out or not: the device may have taken it or not.
    pub fn perhaps_sent(&mut self, site: &Site, room: RoomId, device: DeviceId, function: FunctionId, now_ms: u64) {
        let before: Vec<(DeviceId, BTreeSet<Timed>)> =
            self.states.keys().map(|&known| (known, self.now(site, known, now_ms))).collect();
        self.took(site, room, device, function, now_ms);
        for (known, states) in before {
            if let Some((at_ms, after)) = self.states.get_mut(&known)
                && *at_ms == now_ms
            {
                after.extend(states);
            }
        }
        self.how.insert(device, (How::Assumed, now_ms));
    }

    /// A look at a device: what does not fit is no longer believed. Tells whether anything that was believed
    /// does fit. Where an echo of our own last command may still be on its way (`early`), a report that fits
    /// nothing is of before, and is left alone. What tells that it is starting or cooling (`settling`) is not believed
    /// to be done with it.
    pub fn saw(
        &mut self,
        site: &Site,
        device: DeviceId,
        (seen, settling): (Seen, bool),
        now_ms: u64,
        early: bool,
    ) -> bool {
        let Some(automaton) = site.automaton(device) else { return true };
        // What is not told this time is left open.
        let fits = |timed: &Timed| {
            let state = timed.state;
            seen.on.is_none_or(|on| state.on == on)
                && (!settling || !timed.is_settled())
                && seen.input.is_none_or(|input| !state.on || state.input == input)
                && seen
                    .down
                    .is_none_or(|down| down == (state.position == Standing::Down) || (!down && timed.may_travel()))
        };
        let known = self.states.contains_key(&device);
        let mut states: BTreeSet<Timed> = self.now(site, device, now_ms).into_iter().filter(fits).collect();
        let fitted = !states.is_empty();
        if !fitted {
            if early {
                return true;
            }
            // It is not what was believed: whatever looks like this.
            let anything = || timed::anything(&automaton, &Target::default()).into_iter();
            let settled = || automaton.states().into_iter().map(Timed::from);
            states = if settling { anything().filter(fits).collect() } else { settled().filter(fits).collect() };
            if states.is_empty() {
                states = settled().filter(|timed| seen.on.is_none_or(|on| timed.state.on == on)).collect();
            }
        }
        self.states.insert(device, (now_ms, states));
        self.how.insert(device, (How::Seen, now_ms));
        fitted || !known
    }

    /// How loud a device says it is.
    pub fn heard_volume(&mut self, device: DeviceId, tenths: u32) {
        self.volumes.insert(device, (tenths, tenths));
    }

    /// How loud it may be, in tenths of its scale's unit; none where it has no volume.
    #[must_use]
    pub fn volume(&self, site: &Site, device: DeviceId) -> Option<(u32, u32)> {
        let volume = site.profile_of(device)?.volume?;
        Some(self.volumes.get(&device).copied().unwrap_or((0, volume.range * 10)))
    }

    /// A press that may make it louder or softer, or wake it at a volume of its own.
    fn louder(&mut self, site: &Site, device: DeviceId, function: FunctionId, switched: bool) {
        let Some(volume) = site.profile_of(device).and_then(|profile| profile.volume) else { return };
        let range = volume.range * 10;
        let (lo, hi) = self.volumes.get(&device).copied().unwrap_or((0, range));
        let step = volume.step_tenths;
        let now = if switched {
            volume.after_power_on.map_or((lo, hi), |start| (start * 10, start * 10))
        } else if function == volume.up {
            // It may have been missed: only the upper end is sure to move.
            (lo, (hi + step).min(range))
        } else if function == volume.down {
            (lo.saturating_sub(step), hi)
        } else {
            return;
        };
        self.volumes.insert(device, now);
    }

    /// It was stepped down for certain, `presses` times.
    pub fn softer(&mut self, site: &Site, device: DeviceId, presses: u32) {
        if let Some(volume) = site.profile_of(device).and_then(|profile| profile.volume) {
            let (lo, hi) = self.volume(site, device).unwrap_or((0, volume.range * 10));
            let down = volume.step_tenths * presses;
            self.volumes.insert(device, (lo.saturating_sub(down), hi.saturating_sub(down)));
        }
    }

    /// May it be what it is in truth?
    #[must_use]
    pub fn agrees(&self, site: &Site, truth: &DeviceView, now_ms: u64) -> bool {
        let Some(profile) = site.profile_of(truth.device) else { return true };
        let on = matches!(truth.power, PowerView::On | PowerView::Starting | PowerView::Always);
        let input = truth.input.and_then(|input| profile.input_index(input));
        let down = truth.down_percent;
        let moving = truth.moving.is_some();
        self.now(site, truth.device, now_ms).iter().any(|timed| {
            let state = timed.state;
            let stands = match (down, moving) {
                (None, _) | (_, true) => true,
                (Some(100), _) => state.position == Standing::Down,
                (Some(0), _) => state.position == Standing::Up,
                (Some(at), _) => match state.position {
                    Standing::Between => true,
                    Standing::Stop(stop) => {
                        let timed = profile.stops.get(usize::from(stop)).and_then(|stop| stop.timed);
                        // What is told is rounded down to a percent.
                        let off = timed.map_or(0, |timed| u32::from(timed.spread_per_mille) + 10);
                        profile.down_per_mille(state.position).abs_diff(u32::from(at) * 10) <= off
                    }
                    Standing::Up | Standing::Down => false,
                },
            };
            state.on == on && (!on || input.is_none_or(|index| usize::from(state.input) == index)) && stands
        })
    }

    /// What every state that it may be in has in common.
    #[must_use]
    pub fn certain(&self, site: &Site, device: DeviceId, now_ms: u64) -> Certain {
        let states = self.now(site, device, now_ms);
        let one = |of: &dyn Fn(&Timed) -> u8| {
            let mut values = states.iter().map(of);
            let first = values.next()?;
            values.all(|value| value == first).then_some(first)
        };
        let flag = |of: &dyn Fn(&Timed) -> bool| one(&|timed| u8::from(of(timed))).map(|value| value == 1);
        Certain {
            on: flag(&|timed| timed.state.on),
            input: one(&|timed| timed.state.input),
            app: one(&|timed| timed.state.app),
            muted: flag(&|timed| timed.state.muted),
            modes: [0, 1, 2, 3].map(|at| one(&|timed| timed.state.modes[at])),
        }
    }

    /// How long its last command may still make it deaf, in ms.
    #[must_use]
    pub fn deaf_ms(&self, site: &Site, device: DeviceId, now_ms: u64) -> u64 {
        self.now(site, device, now_ms).iter().map(|timed| u64::from(timed.gap_ms)).max().unwrap_or(0)
    }

    /// What a key that drives it to `target` has to wait for: is it still moving to somewhere else, or else how long its
    /// motor has to stand still, in ms? None where it can be driven at once.
    #[must_use]
    pub fn reversal(&self, site: &Site, device: DeviceId, target: Standing, now_ms: u64) -> Option<Reversal> {
        let states = self.now(site, device, now_ms);
        let other = || states.iter().filter(|timed| timed.state.position != target && timed.pause.lasts());
        if other().any(Timed::may_travel) {
            return Some(Reversal::Moves { for_ms: other().map(|timed| timed.pause.hi_ms).max().unwrap_or(0) });
        }
        other().map(|timed| timed.pause.hi_ms).max().map(|for_ms| Reversal::Pauses { for_ms })
    }

    /// May it be moving still?
    #[must_use]
    pub fn may_move(&self, site: &Site, device: DeviceId, now_ms: u64) -> bool {
        self.now(site, device, now_ms).iter().any(|timed| timed.may_travel())
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

    /// Has it told this itself?
    #[must_use]
    pub fn is_seen(&self, device: DeviceId) -> bool {
        self.how.get(&device).is_some_and(|(how, _)| *how == How::Seen)
    }

    /// What a plan that starts now may start from.
    #[must_use]
    pub fn start(&self, site: &Site, now_ms: u64) -> Start {
        self.states.keys().map(|&device| (device, self.now(site, device, now_ms))).collect()
    }

    /// Beliefs in words, in the order of the room, beside what is true.
    #[must_use]
    pub fn view(&self, site: &Site, room: RoomId, truth: &[DeviceView], now_ms: u64) -> Vec<BeliefView> {
        site.devices_in(room)
            .map(|device| {
                let text = self
                    .states
                    .get(&device.id)
                    .map_or("anything".to_owned(), |(_, states)| in_words(site, device.id, states));
                let (how, since) = self.how.get(&device.id).copied().unwrap_or((How::Assumed, 0));
                let truth = truth.iter().find(|view| view.device == device.id);
                BeliefView {
                    device: device.id,
                    text,
                    how,
                    age_ms: now_ms.saturating_sub(since),
                    differs: truth.is_some_and(|truth| !self.agrees(site, truth, now_ms)),
                    volume_tenths: self.volume(site, device.id),
                }
            })
            .collect()
    }
}

fn in_words(site: &Site, device: DeviceId, states: &BTreeSet<Timed>) -> String {
    use kestrel_core::model::Power;
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
            _ => match states.iter().map(|timed| timed.state.position).collect::<BTreeSet<_>>().first() {
                Some(&Standing::Stop(at)) if all(&|s| s.position == Standing::Stop(at)) => {
                    profile.position_words(kestrel_core::model::Position::Stop(at))
                }
                _ => "up or down".to_owned(),
            },
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
