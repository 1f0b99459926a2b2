//! A state with what is left of whatever is under way.
//!
//! Warming, cooling, an input that comes up, a travel and an open list each take between a shortest
//! and a longest time. A [`Timed`] state therefore carries *windows*: the least and the greatest time
//! that may be left, one for each thing that can be under way at once. A new one never shortens another
//! that goes on, but: switching off ends the start, the picture, the input and the list; a new input
//! takes the place of the one that was coming; a stop ends a travel.
//!
//! Two things act on a state. [`elapse`] lets time pass, again known only between two bounds; where a
//! window may or may not have closed meanwhile, both successors are kept. [`press`] sends a key at one
//! instant; where the device may or may not take it, both successors are kept too. Every real course of
//! events is among the successors, so what holds for all of them is certain.

use crate::device::automaton::{Automaton, Letter, State, Target};
use crate::model::{Effect, Selection, Span, Standing};
use smallvec::SmallVec;

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

    /// The same, but it may be over already.
    #[must_use]
    pub const fn or_over(self) -> Self {
        Self { lo_ms: 0, hi_ms: self.hi_ms }
    }

    /// May it last?
    #[must_use]
    pub const fn lasts(self) -> bool {
        self.hi_ms > 0
    }

    /// The least window that holds both.
    #[must_use]
    pub fn or(self, other: Self) -> Self {
        Self { lo_ms: self.lo_ms.min(other.lo_ms), hi_ms: self.hi_ms.max(other.hi_ms) }
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

/// Something that can be under way in a device, and keeps keys from being taken or makes somebody wait.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Residual {
    /// It starts up.
    WarmUp,
    /// It shuts down.
    CoolDown,
    /// The picture, or the sound, is not there yet.
    Picture,
    /// Another input comes up.
    Input,
    /// It travels.
    Travel,
    /// Its motor has to stand still before it is reversed.
    Pause,
    /// Its list is open, and closes by itself.
    List,
    /// Its last command may still make it deaf.
    Gap,
}

/// A state and what is under way in it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct Timed {
    /// The state; where something travels, the end that it travels to.
    pub state: State,
    /// Starting where it is on, shutting down where it is off.
    pub power: Window,
    /// How long until its picture or sound is there, at the latest, in ms.
    pub picture_ms: u32,
    /// How long until the chosen input is up.
    pub input: Window,
    /// How long until it has arrived.
    pub travel: Window,
    /// How long until its motor may be driven the other way; the travel and the pause behind it.
    pub pause: Window,
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
        self.settles_ms() == 0 && self.state.cursor.is_none()
    }

    /// How long until nothing is under way, at the latest, in ms.
    #[must_use]
    pub fn settles_ms(&self) -> u32 {
        let closes = if self.state.cursor.is_some() { self.closes.hi_ms } else { 0 };
        [self.power.hi_ms, self.pause.hi_ms, closes].into_iter().fold(self.shows_ms(), u32::max)
    }

    /// How long until it can be seen and heard as it will be, at the latest, in ms.
    #[must_use]
    pub fn shows_ms(&self) -> u32 {
        let starts = if self.state.on { self.power.hi_ms } else { 0 };
        self.picture_ms.max(starts).max(self.input.hi_ms).max(self.travel.hi_ms)
    }

    /// Everything that may be under way, and for how long.
    #[must_use]
    pub fn under_way(&self) -> SmallVec<[(Residual, Window); 4]> {
        let power = if self.state.on { Residual::WarmUp } else { Residual::CoolDown };
        let closes = if self.state.cursor.is_some() { self.closes } else { Window::default() };
        [
            (power, self.power),
            (Residual::Picture, Window { lo_ms: 0, hi_ms: self.picture_ms }),
            (Residual::Input, self.input),
            (Residual::Travel, self.travel),
            (Residual::Pause, self.pause),
            (Residual::List, closes),
            (Residual::Gap, Window { lo_ms: 0, hi_ms: self.gap_ms }),
        ]
        .into_iter()
        .filter(|(_, left)| left.lasts())
        .collect()
    }

    /// The one thing under way that is told first, and for how long.
    #[must_use]
    pub fn doing(&self) -> (Effect, Window) {
        if self.travel.lasts() {
            (Effect::Travel, self.travel)
        } else if self.power.lasts() {
            (if self.state.on { Effect::WarmUp } else { Effect::CoolDown }, self.power)
        } else if self.input.lasts() {
            (Effect::Input, self.input)
        } else if self.pause.lasts() {
            (Effect::Halt, self.pause)
        } else {
            (Effect::None, Window::default())
        }
    }

    /// The state with that one thing under way, as [`Timed::doing`] tells it.
    #[must_use]
    pub fn with_doing(self, effect: Effect, left: Window) -> Self {
        match effect {
            Effect::None => self,
            Effect::WarmUp | Effect::CoolDown => Self { power: left, ..self },
            Effect::Input => Self { input: left, ..self },
            Effect::Travel => Self { travel: left, pause: left, ..self },
            Effect::Halt => Self { pause: left, ..self },
        }
    }

    /// May it be travelling?
    #[must_use]
    pub fn may_travel(&self) -> bool {
        self.travel.lasts()
    }

    /// The same at any later moment: whatever is under way may be over.
    #[must_use]
    pub fn any_time_later(self) -> Self {
        Self {
            power: self.power.or_over(),
            input: self.input.or_over(),
            travel: self.travel.or_over(),
            pause: self.pause.or_over(),
            closes: self.closes.or_over(),
            ..self
        }
    }

    /// One that holds this and another that differs only in the times that are left.
    #[must_use]
    pub fn widened(self, other: &Self) -> Self {
        Self {
            state: self.state,
            power: self.power.or(other.power),
            picture_ms: self.picture_ms.max(other.picture_ms),
            input: self.input.or(other.input),
            travel: self.travel.or(other.travel),
            pause: self.pause.or(other.pause),
            closes: self.closes.or(other.closes),
            gap_ms: self.gap_ms.max(other.gap_ms),
        }
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
    let span: Window = machine.settle(state, effect).into();
    let after = Timed { state, ..*before };
    match effect {
        Effect::None => after,
        Effect::WarmUp => {
            let picture_ms = machine.shows_after(state, effect).hi_ms;
            Timed { power: span, picture_ms, input: Window::default(), ..after }
        }
        Effect::CoolDown => Timed { power: span, picture_ms: 0, input: Window::default(), ..after },
        Effect::Input => Timed { input: span, ..after },
        Effect::Travel => {
            // From half-way it takes less.
            let at_an_end = matches!(before.state.position, Standing::Up | Standing::Down);
            let whole = at_an_end && !before.travel.lasts();
            let travel = if whole { span } else { span.or_over() };
            Timed { travel, pause: travel.longer(machine.reversal_ms()), ..after }
        }
        Effect::Halt => Timed { travel: Window::default(), pause: span, ..after },
    }
}

/// What keeps `letter` from being taken, apart from its motor.
fn deaf(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> SmallVec<[(Residual, Window); 4]> {
    let mut deaf = SmallVec::new();
    if timed.power.lasts() {
        if timed.state.on {
            deaf.push((Residual::WarmUp, timed.power));
        } else if matches!(letter, Letter::Key(key) if machine.is_power_key(key)) {
            deaf.push((Residual::CoolDown, timed.power));
        }
    }
    if timed.input.lasts() {
        deaf.push((Residual::Input, timed.input));
    }
    if timed.gap_ms > 0 {
        deaf.push((Residual::Gap, Window { lo_ms: 0, hi_ms: timed.gap_ms }));
    }
    deaf
}

/// Where a key drives its motor; none for every other key.
fn drives_to(machine: &Automaton<'_>, letter: Letter) -> Option<Standing> {
    let (Letter::Key(key), Some(motion)) = (letter, machine.profile().motion) else { return None };
    if key == motion.up {
        Some(Standing::Up)
    } else if key == motion.down {
        Some(Standing::Down)
    } else {
        machine.named_stop(key).map(Standing::Stop)
    }
}

fn is_stop(machine: &Automaton<'_>, letter: Letter) -> bool {
    let by_key = |letter| machine.profile().motion.is_some_and(|motion| motion.stop.map(Letter::Key) == Some(letter));
    matches!(letter, Letter::StopAt(_)) || by_key(letter)
}

/// How long ago what goes down has left its upper limit; none where it goes elsewhere, or nobody knows when it left and from
/// where. A travel of which at least something is left for certain began at that limit, and what is left of it says when.
fn since_the_top(machine: &Automaton<'_>, timed: &Timed) -> Option<Window> {
    let whole: Window = machine.profile().motion?.travel_down.into();
    let left = timed.travel;
    let known = timed.state.position == Standing::Down && left.lo_ms > 0 && left.hi_ms <= whole.hi_ms;
    let window =
        Window { lo_ms: whole.hi_ms.saturating_sub(left.hi_ms), hi_ms: whole.lo_ms.saturating_sub(left.lo_ms) };
    (known && window.lo_ms <= window.hi_ms).then_some(window)
}

/// How long until a letter that stops by time is due: when it should have arrived, from now on, at the least. None for every other
/// letter, and where it stops nothing at its place.
#[must_use]
pub fn due_in(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> Option<u32> {
    let Letter::StopAt(at) = letter else { return None };
    let stop = machine.timed_stop(at)?;
    Some(stop.after_ms.saturating_sub(since_the_top(machine, timed)?.lo_ms))
}

/// Where it stands once it was stopped on its way: at the stops by time at which it may have been, and anywhere.
fn stopped_at(machine: &Automaton<'_>, timed: &Timed) -> SmallVec<[Standing; 2]> {
    let mut places: SmallVec<[Standing; 2]> = SmallVec::new();
    let mut surely = false;
    if let Some(since) = since_the_top(machine, timed) {
        for (at, stop) in machine.profile().timed_stops() {
            let (first, last) = (stop.after_ms, stop.after_ms + stop.late_ms);
            if since.hi_ms >= first && since.lo_ms <= last {
                places.push(Standing::Stop(at));
                surely |= since.lo_ms >= first && since.hi_ms <= last;
            }
        }
    }
    if !surely {
        places.push(Standing::Between);
    }
    places
}

/// Does its motor have to stand still before it takes this key? On the way, only the other direction has to wait.
fn reverses(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> bool {
    timed.pause.lasts() && drives_to(machine, letter).is_some_and(|to| to != timed.state.position)
}

/// What is under way that keeps `letter` from being taken, or from doing what it is for.
#[must_use]
pub fn blocked(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> SmallVec<[(Residual, Window); 4]> {
    let mut blocked = deaf(machine, timed, letter);
    if reverses(machine, timed, letter) {
        let kind = if timed.travel.lasts() { Residual::Travel } else { Residual::Pause };
        blocked.push((kind, timed.pause));
    }
    blocked
}

/// How long until `letter` is taken for certain, in ms.
#[must_use]
pub fn taken_after(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> u32 {
    let power_key = || matches!(letter, Letter::Key(key) if machine.is_power_key(key));
    let power = if timed.power.lasts() && (timed.state.on || power_key()) { timed.power.hi_ms } else { 0 };
    let motor = if reverses(machine, timed, letter) { timed.pause.hi_ms } else { 0 };
    power.max(timed.input.hi_ms).max(timed.gap_ms).max(motor)
}

/// Every state that `timed` may be in once a time within `passed` has gone by.
#[must_use]
pub fn elapse(machine: &Automaton<'_>, timed: &Timed, passed: Window) -> SmallVec<[Timed; 2]> {
    let mut after = *timed;
    after.power = timed.power.after(passed);
    after.picture_ms = timed.picture_ms.saturating_sub(passed.lo_ms);
    after.input = timed.input.after(passed);
    after.travel = timed.travel.after(passed);
    after.pause = timed.pause.after(passed);
    after.gap_ms = timed.gap_ms.saturating_sub(passed.lo_ms);
    let mut all = SmallVec::new();
    let Some(entry) = timed.state.cursor else {
        all.push(after);
        return all;
    };
    after.closes = timed.closes.after(passed);
    let mut closed = after;
    closed.closes = Window::default();
    closed.state.cursor = None;
    if machine.remembers_entry() {
        closed.state.last = entry;
    }
    if after.closes.lasts() {
        all.push(after);
    }
    if after.closes.lo_ms == 0 {
        all.push(closed);
    }
    all
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

/// What a device may be in after a key, and what it made of it.
pub type Pressed = SmallVec<[(Timed, Reaction); 2]>;

/// Every state that `timed` may be in after `letter` at this instant.
#[must_use]
pub fn press(machine: &Automaton<'_>, timed: &Timed, letter: Letter) -> Pressed {
    let gap_ms = machine.profile().times.gap_ms;
    let mut all = Pressed::new();
    let deaf = deaf(machine, timed, letter);
    if !deaf.is_empty() {
        all.push((Timed { gap_ms, ..*timed }, Reaction::Missed));
    }
    if deaf.iter().all(|(_, left)| left.lo_ms == 0) {
        let mut free = Timed { gap_ms, ..*timed };
        for (kind, _) in &deaf {
            match kind {
                Residual::WarmUp | Residual::CoolDown => free.power = Window::default(),
                Residual::Input => free.input = Window::default(),
                _ => {}
            }
        }
        let motor = is_stop(machine, letter) || reverses(machine, timed, letter);
        let pressed =
            if motor { press_motor(machine, free, letter) } else { SmallVec::from_iter([(free, Reaction::Took)]) };
        all.extend(pressed.into_iter().map(|(free, reaction)| match reaction {
            Reaction::Took if !is_stop(machine, letter) => (taken(machine, &free, letter), reaction),
            _ => (free, reaction),
        }));
    }
    all.sort_unstable();
    all.dedup();
    all
}

/// A stop, or a key that drives the motor the other way: one that runs only stops. What it may be once the key was
/// noticed; [`Reaction::Took`] where it stands still long enough to be driven.
fn press_motor(machine: &Automaton<'_>, timed: Timed, letter: Letter) -> Pressed {
    let mut all = Pressed::new();
    let stops = is_stop(machine, letter);
    if timed.travel.lasts() {
        let pause = Window::exactly(machine.reversal_ms());
        for position in stopped_at(machine, &timed) {
            let state = State { position, ..timed.state };
            let halted = Timed { state, travel: Window::default(), pause, ..timed };
            all.push((halted, if stops { Reaction::Took } else { Reaction::Halted }));
        }
    }
    if timed.travel.lo_ms == 0 {
        // It had arrived.
        let pause = Window { lo_ms: 0, hi_ms: timed.pause.hi_ms.min(machine.reversal_ms()) };
        let pause = if timed.travel.lasts() { pause } else { timed.pause };
        let arrived = Timed { travel: Window::default(), pause, ..timed };
        if stops {
            all.push((arrived, Reaction::Took));
        } else {
            if pause.lasts() {
                all.push((arrived, Reaction::Missed));
            }
            if pause.lo_ms == 0 {
                all.push((Timed { pause: Window::default(), ..arrived }, Reaction::Took));
            }
        }
    }
    all
}

/// The state after a key that was taken.
fn taken(machine: &Automaton<'_>, before: &Timed, letter: Letter) -> Timed {
    let (state, effect) = machine.send(before.state, letter);
    let mut taken = set_off(machine, before, state, effect);
    taken.closes = match machine.profile().selection {
        Selection::Menu { closes_after, .. } if state.cursor.is_some() => closes_after.into(),
        _ => Window::default(),
    };
    if state.cursor.is_some() && before.state.cursor == state.cursor && !opens_list(machine, letter) {
        // A key that has nothing to do with the list does not keep it open.
        taken.closes = before.closes;
    }
    taken
}

/// Is this one of the keys of the input list?
fn opens_list(machine: &Automaton<'_>, letter: Letter) -> bool {
    let Selection::Menu { open, next, previous, confirm, .. } = machine.profile().selection else { return false };
    [open, next, previous, confirm].map(Letter::Key).contains(&letter)
}

/// Everything that the device may be found in by somebody who knows nothing: each state once, with everything that can
/// be under way in it at any residual. Such a state holds every other that differs only in what is left.
#[must_use]
pub fn anything(machine: &Automaton<'_>, target: &Target) -> Vec<Timed> {
    let times = &machine.profile().times;
    let any = |span: Span| Window { lo_ms: 0, hi_ms: span.hi_ms };
    let mut all: Vec<Timed> = machine
        .states_for(target)
        .into_iter()
        .map(|state| {
            let mut timed = Timed { gap_ms: times.gap_ms, ..settled(machine, state) };
            timed.closes = timed.closes.or_over();
            if !machine.never_off() {
                timed.power = any(if state.on { times.warm_up } else { times.cool_down });
                timed.picture_ms = if state.on { machine.shows_after(state, Effect::WarmUp).hi_ms } else { 0 };
            }
            if state.on && machine.profile().inputs.len() > 1 {
                timed.input = any(times.input);
            }
            if machine.profile().motion.is_some() {
                let at_rest = match state.position {
                    Standing::Between => true,
                    // Nothing drives it there: it stands there or it does not.
                    Standing::Stop(at) => machine.timed_stop(at).is_some(),
                    Standing::Up | Standing::Down => false,
                };
                if !at_rest {
                    timed.travel = any(machine.settle(state, Effect::Travel));
                }
                timed.pause = timed.travel.longer(machine.reversal_ms()).or_over();
            }
            timed
        })
        .collect();
    all.sort_unstable();
    all.dedup();
    all
}
