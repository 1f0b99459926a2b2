//! The machine made from a profile: settled states, keys, and what a key does in a state.
//!
//! This is its first form. States are *settled* ones (nothing warms, cools or moves); what a key sets
//! in motion is told as an [`Effect`], with the interval until it has settled. Whoever walks the
//! machine waits for the end of that interval before the next key, which is always safe.

use super::profile::{AfterPowerOn, ListEnds, ListOpens, Power, Profile, Selection, Span};
use crate::id::FunctionId;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use utoipa::ToSchema;

/// Where something that moves stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Position {
    /// Rolled up, open, out of the way.
    Up,
    /// Down, closed, in use.
    Down,
}

/// A settled state. Inputs and list entries are counted from 0 in the profile's order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
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
    pub position: Position,
}

/// What a key sets in motion.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Effect {
    /// Nothing that takes time.
    None,
    /// It starts up.
    WarmUp,
    /// It shuts down.
    CoolDown,
    /// Another input comes up.
    Input,
    /// It travels.
    Travel,
}

/// What is wanted of a device; `None` leaves a matter open.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default)]
pub struct Target {
    /// On or off.
    pub on: Option<bool>,
    /// The input, counted from 0.
    pub input: Option<u8>,
    /// Where it should stand.
    pub position: Option<Position>,
}

impl Target {
    /// Does a state meet it, with no list open?
    #[must_use]
    pub fn met_by(&self, state: State) -> bool {
        self.on.is_none_or(|on| on == state.on)
            && (self.input.is_none_or(|input| input == state.input) || self.on == Some(false))
            && self.position.is_none_or(|position| position == state.position)
            && state.cursor.is_none()
    }
}

/// The machine of a profile.
#[derive(Debug, Clone)]
pub struct Automaton<'a> {
    profile: Cow<'a, Profile>,
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

    /// Every settled state: what the device may be in when nothing is known of it.
    #[must_use]
    pub fn states(&self) -> Vec<State> {
        let positions: &[Position] =
            if self.profile.motion.is_some() { &[Position::Up, Position::Down] } else { &[Position::Up] };
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
                    for &position in positions {
                        states.push(State { on, input, cursor: None, last, position });
                        if on && menu {
                            let open = entries().map(|entry| State { on, input, cursor: Some(entry), last, position });
                            states.extend(open);
                        }
                    }
                }
            }
        }
        states
    }

    /// Does no key of its own switch it off? What follows another device's power counts as on here; the
    /// joint machine of both is a later step.
    #[must_use]
    pub fn never_off(&self) -> bool {
        matches!(self.profile.power, Power::AlwaysOn | Power::Follows { .. })
    }

    /// What `key` does in `state`: the state after it has settled, and what it sets in motion.
    #[must_use]
    pub fn press(&self, state: State, key: FunctionId) -> (State, Effect) {
        if let Some(after) = self.press_motion(state, key) {
            return after;
        }
        if let Some(after) = self.press_power(state, key) {
            return after;
        }
        if state.on { self.press_selection(state, key) } else { (state, Effect::None) }
    }

    fn press_motion(&self, state: State, key: FunctionId) -> Option<(State, Effect)> {
        let motion = self.profile.motion.as_ref()?;
        let position = if key == motion.up {
            Position::Up
        } else if key == motion.down {
            Position::Down
        } else {
            return None;
        };
        let effect = if position == state.position { Effect::None } else { Effect::Travel };
        Some((State { position, ..state }, effect))
    }

    fn press_power(&self, state: State, key: FunctionId) -> Option<(State, Effect)> {
        let on = match self.profile.power {
            Power::Discrete { on, off } | Power::NetworkWake { wake: on, off } if key == on || key == off => key == on,
            Power::Toggle { key: toggle } if key == toggle => !state.on,
            _ if self.profile.wake_keys.contains(&key) && !state.on => true,
            _ => return None,
        };
        Some(match (state.on, on) {
            (false, true) => {
                let input = match self.profile.after_power_on {
                    AfterPowerOn::Last => state.input,
                    AfterPowerOn::Fixed { id } => self.index(self.profile.input_index(id)),
                };
                (State { on, input, ..state }, Effect::WarmUp)
            }
            (true, false) => (State { on, cursor: None, ..state }, Effect::CoolDown),
            _ => (state, Effect::None),
        })
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

    fn choose(&self, state: State, input: u8) -> (State, Effect) {
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
                (Some(motion), Position::Up) => motion.travel_up,
                (Some(motion), Position::Down) => motion.travel_down,
                (None, _) => Span::NONE,
            },
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
            Effect::CoolDown => Span::NONE,
            _ => self.settle(state, effect),
        }
    }
}
