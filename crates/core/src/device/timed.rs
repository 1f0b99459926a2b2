//! A state with what is left of whatever is under way.
//!
//! Warming, cooling, an input that comes up, a travel and an open list each take between a shortest
//! and a longest time. A [`Timed`] state therefore carries *windows*: the least and the greatest time
//! that may be left. Two things act on it. [`elapse`] lets time pass, again known only between two
//! bounds; where a window may or may not have closed meanwhile, both successors are kept. [`press`]
//! sends a key at one instant; where the device may or may not take it, both successors are kept too.
//! Every real course of events is among the successors, so what holds for all of them is certain.

use crate::device::automaton::{Automaton, Letter, State, Target};
use crate::model::{Effect, Motion, Selection, Span, Standing};

/// Longer than anything takes, in ms: “as long as it likes”.
pub const FOREVER_MS: u32 = u32::MAX / 4;

/// A time between two bounds, both included, in ms.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct Window {
    /// The least.
    pub lo_ms: u32,
    /// The greatest.
    pub hi_ms: u32,
}

impl Window {
    /// Exactly this long.
    #[must_use]
    pub const fn exactly(ms: u32) -> Self {
        Self { lo_ms: ms, hi_ms: ms }
    }

    /// At least this long.
    #[must_use]
    pub const fn at_least(ms: u32) -> Self {
        Self { lo_ms: ms, hi_ms: FOREVER_MS }
    }

    /// What is left of it after a time within `passed`.
    #[must_use]
    pub fn after(self, passed: Self) -> Self {
        Self { lo_ms: self.lo_ms.saturating_sub(passed.hi_ms), hi_ms: self.hi_ms.saturating_sub(passed.lo_ms) }
    }

    /// The time from one that lies within `earlier` to one that lies within this.
    #[must_use]
    pub fn since(self, earlier: Self) -> Self {
        self.after(earlier)
    }

    fn longer(self, ms: u32) -> Self {
        Self { lo_ms: self.lo_ms + ms, hi_ms: self.hi_ms + ms }
    }
}

impl From<Span> for Window {
    fn from(span: Span) -> Self {
        Self { lo_ms: span.lo_ms.min(span.hi_ms), hi_ms: span.hi_ms }
    }
}

impl From<Window> for Span {
    fn from(window: Window) -> Self {
        Self::profile(window.lo_ms, window.hi_ms)
    }
}

/// A state and what is under way in it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct Timed {
    /// The state; where something travels, the end that it travels to.
    pub state: State,
    /// What is under way.
    pub effect: Effect,
    /// How long that may still keep keys from being taken.
    pub busy: Window,
    /// How long until it can be seen or heard, at the latest, in ms.
    pub shows_ms: u32,
    /// When its open list closes by itself.
    pub closes: Window,
    /// How long its last command may still make it deaf, in ms.
    pub gap_ms: u32,
}

impl From<State> for Timed {
    fn from(state: State) -> Self {
        Self { state, ..Self::default() }
    }
}

impl Timed {
    /// Is nothing under way?
    #[must_use]
    pub fn is_settled(&self) -> bool {
        self.busy.hi_ms == 0 && self.shows_ms == 0 && self.state.cursor.is_none()
    }

    /// How long until nothing is under way, at the latest, in ms.
    #[must_use]
    pub fn settles_ms(&self) -> u32 {
        let closes = if self.state.cursor.is_some() { self.closes.hi_ms } else { 0 };
        self.busy.hi_ms.max(self.shows_ms).max(closes)
    }

    /// The same, as far as `target` cares.
    #[must_use]
    pub fn relevant(self, target: &Target) -> Self {
        Self { state: target.relevant(self.state), ..self }
    }
}

/// A state in which nothing is under way but an open list, whose last key was just pressed.
#[must_use]
pub fn settled(machine: &Automaton<'_>, state: State) -> Timed {
    let closes = match machine.profile().selection {
        Selection::Menu { closes_after, .. } if state.cursor.is_some() => closes_after.into(),
        _ => Window::default(),
    };
    Timed { closes, ..Timed::from(state) }
}

/// The state with whatever a change of power, input or position sets in motion.
#[must_use]
pub fn set_off(machine: &Automaton<'_>, before: &Timed, state: State, effect: Effect) -> Timed {
    if effect == Effect::None {
        return Timed { state, ..*before };
    }
    let settle = machine.settle(state, effect);
    let reversal = if effect == Effect::Travel { machine.reversal_ms() } else { 0 };
    Timed {
        state,
        effect,
        busy: <Window as From<Span>>::from(settle).longer(reversal),
        shows_ms: machine.shows_after(state, effect).hi_ms,
        ..*before
    }
}

/// What is under way that keeps `letter` from being taken; `None` where nothing does.
#[must_use]
pub fn blocked(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> Option<Window> {
    if timed.busy.hi_ms == 0 {
        return None;
    }
    let key = match letter {
        Letter::Key(key) => Some(key),
        Letter::Tune(_) => None,
    };
    let power = key.is_some_and(|key| machine.is_power_key(key));
    let stop = key.and_then(|key| machine.named_stop(key)).map(Standing::Stop);
    let moves = |motion: &Motion| key == Some(motion.up) || key == Some(motion.down) || stop.is_some();
    let motion = machine.profile().motion.filter(moves);
    let blocks = match timed.effect {
        Effect::None => false,
        Effect::WarmUp | Effect::Input => true,
        Effect::CoolDown => power,
        // On the way, only the other direction has to wait.
        Effect::Travel => motion.is_some_and(|motion| match timed.state.position {
            Standing::Down => key == Some(motion.up) || stop.is_some(),
            // It may be going either way.
            Standing::Stop(_) => stop != Some(timed.state.position),
            _ => key == Some(motion.down) || stop.is_some(),
        }),
        Effect::Halt => motion.is_some(),
    };
    blocks.then_some(timed.busy)
}

/// How long until `letter` is taken for certain, in ms.
#[must_use]
pub fn taken_after(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> u32 {
    blocked(machine, timed, letter).map_or(0, |busy| busy.hi_ms).max(timed.gap_ms)
}

/// Every state that `timed` may be in once a time within `passed` has gone by.
#[must_use]
pub fn elapse(machine: &Automaton<'_>, timed: &Timed, passed: Window) -> Vec<Timed> {
    let mut after = *timed;
    after.busy = timed.busy.after(passed);
    after.shows_ms = timed.shows_ms.saturating_sub(passed.lo_ms);
    after.gap_ms = timed.gap_ms.saturating_sub(passed.lo_ms);
    if after.busy.hi_ms == 0 && after.shows_ms == 0 {
        after.effect = Effect::None;
    }
    let Some(entry) = timed.state.cursor else { return vec![after] };
    after.closes = timed.closes.after(passed);
    let mut closed = after;
    closed.closes = Window::default();
    closed.state.cursor = None;
    if machine.remembers_entry() {
        closed.state.last = entry;
    }
    match after.closes {
        Window { hi_ms: 0, .. } => vec![closed],
        Window { lo_ms: 0, .. } => vec![after, closed],
        _ => vec![after],
    }
}

/// What a device made of a key.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Reaction {
    /// It took it.
    Took,
    /// It did not notice it, because something was under way or the key came too soon.
    Missed,
    /// Its motor only stopped.
    Halted,
}

/// Every state that `timed` may be in after `letter` at this instant.
#[must_use]
pub fn press(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> Vec<(Timed, Reaction)> {
    let gap_ms = machine.profile().times.gap_ms;
    let mut after = Vec::with_capacity(2);
    let stops = machine.profile().motion.is_some_and(|motion| motion.stop.map(Letter::Key) == Some(letter));
    let reversal = machine.reversal_ms();
    if stops && timed.effect == Effect::Travel && timed.busy.hi_ms > reversal {
        let busy = Window::exactly(reversal);
        let between = State { position: Standing::Between, ..timed.state };
        after.push((
            Timed { state: between, effect: Effect::Halt, busy, gap_ms, shows_ms: 0, ..*timed },
            Reaction::Took,
        ));
        if timed.busy.lo_ms <= reversal {
            after.push((Timed { gap_ms, ..*timed }, Reaction::Took));
        }
        return after;
    }
    let blocked = blocked(machine, timed, letter);
    if let Some(busy) = blocked {
        if timed.effect == Effect::Travel && busy.hi_ms > reversal {
            let state = State { position: Standing::Between, ..timed.state };
            let busy = Window::exactly(reversal);
            after.push((Timed { state, effect: Effect::Halt, busy, gap_ms, shows_ms: 0, ..*timed }, Reaction::Halted));
        } else {
            after.push((Timed { gap_ms, ..*timed }, Reaction::Missed));
        }
        if timed.effect == Effect::Travel && busy.lo_ms <= reversal && busy.hi_ms > reversal {
            after.push((Timed { gap_ms, ..*timed }, Reaction::Missed));
        }
    } else if timed.gap_ms > 0 {
        after.push((Timed { gap_ms, ..*timed }, Reaction::Missed));
    }
    if blocked.is_none_or(|busy| busy.lo_ms == 0) {
        let idle = Timed { gap_ms, ..*timed };
        let idle =
            if blocked.is_some() { Timed { effect: Effect::None, busy: Window::default(), ..idle } } else { idle };
        let (state, effect) = machine.send(timed.state, letter);
        let mut taken = set_off(machine, &idle, state, effect);
        if state.cursor.is_some()
            && let Selection::Menu { closes_after, .. } = machine.profile().selection
        {
            taken.closes = closes_after.into();
        } else {
            taken.closes = Window::default();
        }
        if state.cursor.is_some() && idle.state.cursor == state.cursor && !opens_list(machine, letter) {
            // A key that has nothing to do with the list does not keep it open.
            taken.closes = timed.closes;
        }
        after.push((taken, Reaction::Took));
    }
    after.sort_unstable();
    after.dedup();
    after
}

/// Is this one of the keys of the input list?
fn opens_list(machine: &Automaton<'_>, letter: Letter) -> bool {
    let Selection::Menu { open, next, previous, confirm, .. } = machine.profile().selection else { return false };
    [open, next, previous, confirm].map(Letter::Key).contains(&letter)
}

/// Everything that the device may be found in by somebody who knows nothing: every settled state, and
/// everything that can be under way in it at any residual.
#[must_use]
pub fn anything(machine: &Automaton<'_>, target: &Target) -> Vec<Timed> {
    let times = &machine.profile().times;
    let any = |span: Span| Window { lo_ms: 0, hi_ms: span.hi_ms };
    let mut all = Vec::new();
    for state in machine.states_for(target) {
        let settled = Timed::from(state);
        if state.cursor.is_some() {
            let closes_after = match machine.profile().selection {
                Selection::Menu { closes_after, .. } => closes_after,
                _ => Span::NONE,
            };
            all.push(Timed { closes: any(closes_after), ..settled });
            continue;
        }
        all.push(settled);
        let power = !machine.never_off();
        let mut under_way = |effect: Effect, span: Span, shows_ms: u32, longer: u32| {
            if span.hi_ms + longer > 0 {
                let busy = Window { lo_ms: 0, hi_ms: span.hi_ms + longer };
                all.push(Timed { effect, busy, shows_ms, ..settled });
            }
        };
        if power && state.on {
            under_way(Effect::WarmUp, times.warm_up, machine.shows_after(state, Effect::WarmUp).hi_ms, 0);
        }
        if power && !state.on {
            under_way(Effect::CoolDown, times.cool_down, 0, 0);
        }
        if state.on && machine.profile().inputs.len() > 1 {
            under_way(Effect::Input, times.input, times.input.hi_ms, 0);
        }
        if machine.profile().motion.is_some() && state.position != Standing::Between {
            let span = machine.settle(state, Effect::Travel);
            under_way(Effect::Travel, span, span.hi_ms, machine.reversal_ms());
        }
    }
    all.sort_unstable();
    all.dedup();
    all
}
