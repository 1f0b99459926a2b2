//! The machine made from a profile: settled states, keys, and what a key does in a state.
//!
//! States are *settled* ones (nothing warms, cools or moves); what a key sets in motion is told as an
//! [`Effect`], with the interval until it has settled. [`super::timed`] adds the time that is left of it.

use crate::id::{DeviceId, FunctionId};
use crate::model::{
    AfterPowerOn, Effect, ListEnds, ListOpens, MODES, Mute, NamedStop, Position, Power, Profile, Reach, Selection,
    Site, Span, Standing, TimedStop,
};
use std::borrow::Cow;

/// A settled state. Inputs and list entries are counted from 0 in the profile's order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct State {
    /// On or off.
    pub on: bool,
    /// The chosen input; the one to come back to, when off.
    pub input: u8,
    /// The marked entry, while the list is open.
    pub cursor: Option<u8>,
    /// The entry that was marked when the list closed, where it opens there; else 0.
    pub last: u8,
    /// Where it stands, if it moves.
    pub position: Standing,
    /// Is its sound off?
    pub muted: bool,
    /// The value of each setting.
    pub modes: [u8; 4],
    /// What it runs or receives, counted from 1; 0 is anything else.
    pub app: u8,
}

/// What is wanted of a device; `None` leaves a matter open.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct Target {
    /// On or off.
    pub on: Option<bool>,
    /// The input, counted from 0.
    pub input: Option<u8>,
    /// Where it should stand.
    pub position: Option<Position>,
    /// Sound off or on.
    pub muted: Option<bool>,
    /// The value of each setting.
    pub modes: [Option<u8>; 4],
    /// What it should run or receive, counted from 1.
    pub app: Option<u8>,
}

impl Target {
    /// Does a state meet it, with no list open?
    #[must_use]
    pub fn met_by(&self, state: State) -> bool {
        let off = self.on == Some(false);
        self.on.is_none_or(|on| on == state.on)
            && (off || self.input.is_none_or(|input| input == state.input))
            && (off || self.muted.is_none_or(|muted| muted == state.muted))
            && (off || self.app.is_none_or(|app| app == state.app))
            && (off || self.modes.iter().zip(state.modes).all(|(wanted, is)| wanted.is_none_or(|value| value == is)))
            && self.position.is_none_or(|position| Standing::from(position) == state.position)
            && state.cursor.is_none()
    }

    /// The state without what this target leaves open and nothing else depends on: sound off, settings
    /// and what runs. It keeps the search for keys small and changes no answer.
    #[must_use]
    pub fn relevant(&self, state: State) -> State {
        let mut modes = state.modes;
        for (value, wanted) in modes.iter_mut().zip(self.modes) {
            *value = if wanted.is_some() { *value } else { 0 };
        }
        State {
            muted: state.muted && self.muted.is_some(),
            modes,
            app: if self.app.is_some() { state.app } else { 0 },
            ..state
        }
    }
}

/// Something that can be sent to a device.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Letter {
    /// A key.
    Key(FunctionId),
    /// The digits of an app or a channel, counted from 1, and the enter key where there is one.
    Tune(u8),
    /// The stop key, when what goes down has come to this stop by time: the number of the profile's stop, from 0.
    StopAt(u8),
}

/// The machine of a profile.
#[derive(Debug, Clone)]
pub struct Automaton<'a> {
    profile: Cow<'a, Profile>,
}

impl Site {
    /// The machine of a device.
    #[must_use]
    pub fn automaton(&self, device: DeviceId) -> Option<Automaton<'_>> {
        self.profile_of(device).map(Automaton::of)
    }
}

impl<'a> Automaton<'a> {
    /// The machine of `profile`.
    #[must_use]
    pub fn new(profile: &'a Profile) -> Self {
        Self { profile: Cow::Borrowed(profile) }
    }

    /// The machine of a profile that may be a device's own.
    #[must_use]
    pub fn of(profile: Cow<'a, Profile>) -> Self {
        Self { profile }
    }

    /// The profile.
    #[must_use]
    pub fn profile(&self) -> &Profile {
        &self.profile
    }

    fn inputs(&self) -> u8 {
        u8::try_from(self.profile.inputs.len()).unwrap_or(u8::MAX).max(1)
    }

    /// How many values each setting has; 1 where there is nothing to follow.
    fn mode_values(&self, mode: usize) -> u8 {
        self.profile.modes.get(mode).and_then(|mode| u8::try_from(mode.values.len()).ok()).unwrap_or(1).max(1)
    }

    /// Every settled state, as far as `target` cares: what the device may be in when nothing is known of it.
    #[must_use]
    pub fn states_for(&self, target: &Target) -> Vec<State> {
        let mut states = self.states();
        let mutes = target.muted.is_some() && self.profile.volume.is_some_and(|volume| volume.mute.is_some());
        let mut spread = |count: u8, set: &dyn Fn(&mut State, u8)| {
            states = states
                .iter()
                .flat_map(|state| {
                    (0..count).map(move |value| {
                        let mut state = *state;
                        set(&mut state, value);
                        state
                    })
                })
                .collect();
        };
        if mutes {
            spread(2, &|state, value| state.muted = value == 1);
        }
        if target.app.is_some() {
            let apps = u8::try_from(self.profile.apps.len()).unwrap_or(u8::MAX - 1);
            spread(apps + 1, &|state, value| state.app = value);
        }
        for mode in (0..MODES).filter(|&mode| target.modes[mode].is_some()) {
            spread(self.mode_values(mode), &move |state, value| state.modes[mode] = value);
        }
        states
    }

    /// Every settled state of power, inputs, list and position.
    #[must_use]
    pub fn states(&self) -> Vec<State> {
        let mut positions = match self.profile.motion {
            // A stop, or a key for the other direction, can always leave it half-way.
            Some(_) => vec![Standing::Up, Standing::Between, Standing::Down],
            None => vec![Standing::Up],
        };
        if self.profile.motion.is_some() {
            positions.extend((0..).zip(&self.profile.stops).map(|(at, _)| Standing::Stop(at)));
        }
        let menu = matches!(self.profile.selection, Selection::Menu { .. });
        let remembers = matches!(self.profile.selection, Selection::Menu { opens: ListOpens::LastUsed, .. });
        let entries = || 0..self.inputs();
        let lasts = 0..if remembers { self.inputs() } else { 1 };
        let mut states = Vec::new();
        for on in [false, true] {
            if !on && self.never_off() {
                continue;
            }
            for input in entries() {
                for last in lasts.clone() {
                    for &position in &positions {
                        let closed = State { on, input, last, position, ..State::default() };
                        states.push(closed);
                        if on && menu {
                            states.extend(entries().map(|entry| State { cursor: Some(entry), ..closed }));
                        }
                    }
                }
            }
        }
        states
    }

    /// Is it never switched off?
    #[must_use]
    pub fn never_off(&self) -> bool {
        self.profile.power == Power::AlwaysOn
    }

    /// Everything that can be sent to it and matters for `target`.
    #[must_use]
    pub fn letters(&self, target: &Target) -> Vec<Letter> {
        let mut letters: Vec<Letter> = self.profile.keys().into_iter().map(|(key, _)| Letter::Key(key)).collect();
        if target.muted.is_some() {
            match self.profile.volume.and_then(|volume| volume.mute) {
                Some(Mute::Discrete { on, off }) => letters.extend([Letter::Key(on), Letter::Key(off)]),
                Some(Mute::Toggle { key }) => letters.push(Letter::Key(key)),
                None => {}
            }
        }
        for (mode, _) in self.profile.modes.iter().zip(target.modes).filter(|(_, wanted)| wanted.is_some()) {
            letters.extend(mode.next.map(Letter::Key));
            letters.extend(mode.values.iter().filter_map(|value| value.select).map(Letter::Key));
        }
        if let Some(app) = target.app
            && let Some(wanted) = usize::from(app).checked_sub(1).and_then(|at| self.profile.apps.get(at))
        {
            letters.push(match wanted.reach {
                Reach::Launch { function } => Letter::Key(function),
                Reach::Digits { .. } => Letter::Tune(app),
            });
        }
        if let Some(Position::Stop(at)) = target.position
            && self.timed_stop(at).is_some()
        {
            letters.push(Letter::StopAt(at));
        }
        letters.sort_unstable();
        letters.dedup();
        letters
    }

    /// What `letter` does in a settled `state`.
    #[must_use]
    pub fn send(&self, state: State, letter: Letter) -> (State, Effect) {
        match letter {
            Letter::Key(key) => self.press(state, key),
            Letter::Tune(app) if state.on => (State { app, ..state }, Effect::None),
            // What it does depends on how far it has come: see [`super::timed`].
            Letter::Tune(_) | Letter::StopAt(_) => (state, Effect::None),
        }
    }

    /// What `key` does in `state`: the state after it has settled, and what it sets in motion.
    #[must_use]
    pub fn press(&self, state: State, key: FunctionId) -> (State, Effect) {
        if let Some(after) = self.press_motion(state, key) {
            return after;
        }
        if let Some(on) = self.wanted_power(state, key) {
            return self.switch(state, on);
        }
        if !state.on {
            return (state, Effect::None);
        }
        match self.press_comfort(state, key) {
            Some(after) => (after, Effect::None),
            None => self.press_selection(state, key),
        }
    }

    fn press_motion(&self, state: State, key: FunctionId) -> Option<(State, Effect)> {
        let motion = self.profile.motion.as_ref()?;
        let position = if key == motion.up {
            Standing::Up
        } else if key == motion.down {
            Standing::Down
        } else if motion.stop == Some(key) {
            return Some((state, Effect::None));
        } else {
            Standing::Stop(self.named_stop(key)?)
        };
        let effect = if position == state.position { Effect::None } else { Effect::Travel };
        Some((State { position, ..state }, effect))
    }

    /// The stop between its ends to which this key drives it.
    #[must_use]
    pub fn named_stop(&self, key: FunctionId) -> Option<u8> {
        let own = |stop: &NamedStop| stop.timed.is_none() && stop.key == key;
        self.profile.stops.iter().position(own).and_then(|at| u8::try_from(at).ok())
    }

    /// When it is stopped for this one of its stops; none where that has a key of its own.
    #[must_use]
    pub fn timed_stop(&self, at: u8) -> Option<TimedStop> {
        self.profile.stops.get(usize::from(at))?.timed
    }

    /// What this key makes of its power; `None` where it has nothing to do with it.
    fn wanted_power(&self, state: State, key: FunctionId) -> Option<bool> {
        match self.profile.power {
            Power::Discrete { on, off } | Power::NetworkWake { wake: on, off } if key == on || key == off => {
                Some(key == on)
            }
            Power::Toggle { key: toggle } if key == toggle => Some(!state.on),
            _ => (self.profile.wake_keys.contains(&key) && !state.on).then_some(true),
        }
    }

    /// Does its input list open where it was left?
    #[must_use]
    pub fn remembers_entry(&self) -> bool {
        matches!(self.profile.selection, Selection::Menu { opens: ListOpens::LastUsed, .. })
    }

    /// Does this key have to do with power?
    #[must_use]
    pub fn is_power_key(&self, key: FunctionId) -> bool {
        let own = match self.profile.power {
            Power::AlwaysOn | Power::Follows { .. } => false,
            Power::Discrete { on, off } | Power::NetworkWake { wake: on, off } => key == on || key == off,
            Power::Toggle { key: toggle } => key == toggle,
        };
        own || self.profile.wake_keys.contains(&key)
    }

    /// Switches it on or off, by a key or by whatever else does it.
    #[must_use]
    pub fn switch(&self, state: State, on: bool) -> (State, Effect) {
        match (state.on, on) {
            (false, true) => {
                let input = match self.profile.after_power_on {
                    AfterPowerOn::Last => state.input,
                    AfterPowerOn::Fixed { id } => self.index(self.profile.input_index(id)),
                };
                (State { on, input, muted: false, app: 0, ..state }, Effect::WarmUp)
            }
            (true, false) => (State { on, cursor: None, muted: false, app: 0, ..state }, Effect::CoolDown),
            _ => (state, Effect::None),
        }
    }

    fn press_comfort(&self, state: State, key: FunctionId) -> Option<State> {
        match self.profile.volume.and_then(|volume| volume.mute) {
            Some(Mute::Discrete { on, off }) if key == on || key == off => {
                return Some(State { muted: key == on, ..state });
            }
            Some(Mute::Toggle { key: toggle }) if key == toggle => return Some(State { muted: !state.muted, ..state }),
            _ => {}
        }
        for (at, mode) in self.profile.modes.iter().take(MODES).enumerate() {
            let value = match mode.values.iter().position(|value| value.select == Some(key)) {
                Some(value) => self.index(Some(value)),
                None if mode.next == Some(key) => (state.modes[at] + 1) % self.mode_values(at),
                None => continue,
            };
            let mut modes = state.modes;
            modes[at] = value;
            return Some(State { modes, ..state });
        }
        let launches = |reach: &Reach| matches!(reach, Reach::Launch { function } if *function == key);
        let app = self.profile.apps.iter().position(|app| launches(&app.reach))?;
        Some(State { app: self.index(Some(app)) + 1, ..state })
    }
    fn press_selection(&self, state: State, key: FunctionId) -> (State, Effect) {
        match self.profile.selection {
            Selection::None => (state, Effect::None),
            Selection::Discrete => match self.profile.inputs.iter().position(|input| input.select == Some(key)) {
                Some(index) => self.choose(state, self.index(Some(index))),
                None => (state, Effect::None),
            },
            Selection::Cycle { next, previous } => {
                let forward = key == next;
                if forward || previous == Some(key) {
                    self.choose(state, self.step(state.input, forward, ListEnds::Wrap))
                } else {
                    (state, Effect::None)
                }
            }
            Selection::Menu { open, next, previous, confirm, opens, ends, .. } => {
                let cursor = match state.cursor {
                    None if key == open => Some(match opens {
                        ListOpens::First => 0,
                        ListOpens::Current => state.input,
                        ListOpens::LastUsed => state.last,
                    }),
                    None => None,
                    Some(entry) if key == confirm => {
                        let last = if opens == ListOpens::LastUsed { entry } else { 0 };
                        return self.choose(State { cursor: None, last, ..state }, entry);
                    }
                    Some(entry) if key == next || key == previous => Some(self.step(entry, key == next, ends)),
                    // The key that opens the list closes it too.
                    Some(_) if key == open => None,
                    open => open,
                };
                let last = match (state.cursor, cursor, opens) {
                    (Some(entry), None, ListOpens::LastUsed) => entry,
                    _ => state.last,
                };
                (State { cursor, last, ..state }, Effect::None)
            }
        }
    }

    /// Chooses an input, by a key or by whatever else does it.
    #[must_use]
    pub fn choose(&self, state: State, input: u8) -> (State, Effect) {
        (State { input, ..state }, if input == state.input { Effect::None } else { Effect::Input })
    }

    fn step(&self, at: u8, forward: bool, ends: ListEnds) -> u8 {
        let count = self.inputs();
        match (forward, ends) {
            (true, ListEnds::Wrap) => (at + 1) % count,
            (true, ListEnds::Clamp) => (at + 1).min(count - 1),
            (false, ListEnds::Wrap) => (at + count - 1) % count,
            (false, ListEnds::Clamp) => at.saturating_sub(1),
        }
    }

    fn index(&self, index: Option<usize>) -> u8 {
        index.and_then(|index| u8::try_from(index).ok()).unwrap_or(0)
    }

    /// How long it must stand still before it is reversed, in ms.
    #[must_use]
    pub fn reversal_ms(&self) -> u32 {
        self.profile.motion.map_or(0, |motion| motion.reversal_ms)
    }

    /// How long until `effect` lets the next key through.
    #[must_use]
    pub fn settle(&self, state: State, effect: Effect) -> Span {
        let times = &self.profile.times;
        match effect {
            Effect::None => Span::NONE,
            Effect::WarmUp => times.warm_up,
            Effect::CoolDown => times.cool_down,
            Effect::Input => times.input,
            Effect::Travel => match (&self.profile.motion, state.position) {
                (Some(motion), Standing::Up) => motion.travel_up,
                // From wherever it stands: at once, or the whole way in the slower direction.
                (Some(motion), Standing::Stop(_)) => {
                    let slower = if motion.travel_up.hi_ms > motion.travel_down.hi_ms {
                        motion.travel_up
                    } else {
                        motion.travel_down
                    };
                    Span { lo_ms: 0, ..slower }
                }
                (Some(motion), _) => motion.travel_down,
                (None, _) => Span::NONE,
            },
            Effect::Halt => Span::profile(self.reversal_ms(), self.reversal_ms()),
        }
    }

    /// How long until `effect` can be seen or heard: the picture, the input, the end of the travel.
    #[must_use]
    pub fn shows_after(&self, state: State, effect: Effect) -> Span {
        match effect {
            Effect::WarmUp => {
                let times = &self.profile.times;
                if times.picture.hi_ms >= times.warm_up.hi_ms { times.picture } else { times.warm_up }
            }
            Effect::CoolDown | Effect::Halt => Span::NONE,
            _ => self.settle(state, effect),
        }
    }
}
