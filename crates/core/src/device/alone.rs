//! The same search for one device that nothing couples, which nearly every search is about.
//!
//! Where there is one member and nothing on its way, a set of states is a row of plain records. It is kept in the order
//! of its states, so that what is alike stands side by side. The answers are those of [`super::homing`], many times
//! sooner (a test holds them against each other).

use super::homing::{Homing, Move, NoWord, Obstacle};
use super::search::{self, Cost, Found, Machine, Rest};
use super::timed::{self, Timed, Window, taken_after};
use super::{Automaton, Joint, Letter, Target};
use crate::device::automaton::State;
use crate::device::homing::Sending;
use crate::model::{Effect, Standing};
use std::cell::Cell;

/// One member, no couplings.
pub(super) struct Alone<'h, 'a> {
    machine: &'h Automaton<'a>,
    target: &'h Target,
    letters: &'h [Move],
    spent: &'h Cell<usize>,
    /// For each of them how it is sent.
    sendings: Vec<Sending>,
    places: Vec<usize>,
    moves: bool,
    least: Least,
}

/// What has to be sent and waited for at least, in ms, whatever the sequence.
#[derive(Default)]
struct Least {
    /// The shortest key that may switch it, and the shortest of the others.
    power_ms: u32,
    other_ms: u32,
    /// From switching it on until it takes keys, and until it can be seen.
    warm_up_ms: u32,
    shows_ms: u32,
    /// Until another input is up.
    input_ms: u32,
    /// From wherever it stands to where it should.
    travel_ms: u32,
}

impl Least {
    fn of(machine: &Automaton<'_>, target: &Target, letters: &[Move], sendings: &[Sending]) -> Self {
        let power = |letter: Letter| matches!(letter, Letter::Key(key) if machine.is_power_key(key));
        let shortest = |of_power: bool| {
            let own = letters.iter().zip(sendings).filter(|((_, letter, _), _)| power(*letter) == of_power);
            own.map(|(_, sending)| sending.ms).min().unwrap_or(0)
        };
        let on = State { on: true, ..State::default() };
        let there = target.position.map(|position| State { position: Standing::from(position), ..on });
        Self {
            power_ms: shortest(true),
            other_ms: shortest(false),
            warm_up_ms: machine.settle(on, Effect::WarmUp).hi_ms,
            shows_ms: machine.shows_after(on, Effect::WarmUp).hi_ms,
            input_ms: machine.settle(on, Effect::Input).hi_ms,
            travel_ms: there.map_or(0, |there| machine.settle(there, Effect::Travel).hi_ms),
        }
    }
}

impl<'h, 'a> Alone<'h, 'a> {
    /// The machine and the start states, where there is one device alone.
    pub(super) fn of(homing: &'h Homing<'_, 'a>, start: &[Joint]) -> Option<(Self, Vec<Timed>)> {
        let plain = |joint: &Joint| if joint.pending.is_empty() { joint.members.first().copied() } else { None };
        let (Some(target), true) = (homing.targets.first(), homing.group.is_single()) else { return None };
        let start: Option<Vec<Timed>> = start.iter().map(plain).collect();
        let machine = homing.group.machine(0);
        let sendings: Vec<Sending> =
            homing.letters.iter().map(|&(member, letter, _)| homing.sending(member, letter)).collect();
        let alone = Self {
            machine,
            target,
            letters: &homing.letters,
            spent: homing.spent,
            least: Least::of(machine, target, &homing.letters, &sendings),
            sendings,
            places: (0..homing.letters.len()).collect(),
            moves: machine.profile().motion.is_some(),
        };
        Some((alone, start?))
    }

    /// As [`search::words`].
    pub(super) fn words(&self, start: &[Timed], budget: usize) -> Result<Found<Move>, NoWord> {
        let Found { words, nodes, shortest, whole } = search::words(self, start, budget)?;
        let words = words.into_iter().map(|(word, cost)| (self.spelled(&word), cost)).collect();
        Ok(Found { words, nodes, shortest, whole })
    }

    fn spelled(&self, word: &[usize]) -> Vec<Move> {
        word.iter().map(|&place| self.letters[place]).collect()
    }

    /// No sequence brings this state home sooner, in ms: what cools has to cool before it is switched on, what starts has
    /// to start, another input has to come up, a screen has to travel.
    fn left_of(&self, timed: &Timed) -> u32 {
        let Least { power_ms, other_ms, warm_up_ms, shows_ms, input_ms, travel_ms } = self.least;
        let state = timed.state;
        let elsewhere = self.target.input.is_some_and(|input| input != state.input);
        let input = |ready_ms: u32| if elsewhere { ready_ms + other_ms + input_ms } else { 0 };
        let power = match self.target.on {
            // It may come on with another input than it was left with: only the start is sure.
            Some(true) if !state.on => timed.power.hi_ms + power_ms + shows_ms,
            Some(true) => {
                let own = timed.power.hi_ms.max(timed.picture_ms).max(input(timed.power.hi_ms));
                // Or it is switched off and on again.
                own.min(2 * power_ms + shows_ms.max(warm_up_ms))
            }
            Some(false) if state.on => timed.power.hi_ms + power_ms,
            _ => 0,
        };
        let travel = self.target.position.map_or(0, |position| {
            if Standing::from(position) == state.position {
                timed.travel.hi_ms.min(travel_ms)
            } else {
                other_ms + travel_ms
            }
        });
        power.max(travel)
    }

    /// As [`search::obstacle`].
    pub(super) fn obstacle(&self, start: &[Timed], budget: usize) -> Option<Obstacle<Joint>> {
        let found = search::obstacle(self, start, budget)?;
        Some(Obstacle {
            states: found.states.into_iter().map(|timed| Joint::of([timed])).collect(),
            minimal: found.minimal,
        })
    }
}

/// How long until an open list has closed, in ms.
fn list(timed: &Timed) -> u32 {
    if timed.state.cursor.is_some() { timed.closes.hi_ms } else { 0 }
}

/// A state without the times that are left, but for what a letter makes something else of.
fn timeless(timed: &Timed) -> Timed {
    // A stop does something else to what surely travels than to what may have arrived.
    let travel = Window { lo_ms: timed.travel.lo_ms.min(1), hi_ms: timed.travel.hi_ms.min(1) };
    Timed { travel, closes: timed.closes, ..Timed::from(timed.state) }
}

/// What differs only in the times that are left is taken as one, with the widest windows; in the order of [`timeless`].
fn merge(set: &mut Vec<Timed>) {
    let key = |timed: &Timed| (timed.state, timed.travel.lo_ms.min(1), timed.travel.hi_ms.min(1), timed.closes);
    set.sort_unstable_by_key(key);
    set.dedup_by(|next, known| {
        let alike = key(next) == key(known);
        if alike {
            *known = known.widened(next);
        }
        alike
    });
}

fn states(set: &[Timed]) -> Vec<State> {
    let mut states: Vec<State> = set.iter().map(|timed| timed.state).collect();
    states.sort_unstable();
    states.dedup();
    states
}

fn settles(set: &[Timed]) -> u32 {
    set.iter().map(Timed::settles_ms).max().unwrap_or(0)
}

impl Machine for Alone<'_, '_> {
    type State = Timed;
    type Letter = usize;

    fn letters(&self) -> &[usize] {
        &self.places
    }

    fn apply(&self, set: &[Timed], place: usize) -> Option<(Vec<Timed>, Cost)> {
        let (_, letter, patient) = self.letters[place];
        let lists = set.iter().map(list).max().unwrap_or(0);
        let taken = set.iter().map(|timed| taken_after(self.machine, timed, letter)).max().unwrap_or(0);
        if patient && lists <= taken {
            // That is the same without waiting for it.
            return None;
        }
        let wait_ms = if patient { lists } else { taken };
        let sending = self.sendings[place];
        let passed = Window::exactly(wait_ms + sending.ms);
        let mut before: Vec<Timed> = Vec::with_capacity(set.len() + 8);
        set.iter().for_each(|timed| before.extend(timed::elapse(self.machine, timed, passed)));
        let mut after: Vec<Timed> = Vec::with_capacity(before.len() + 8);
        for timed in &before {
            after.extend(
                timed::press(self.machine, timed, letter).into_iter().map(|(next, _)| next.relevant(self.target)),
            );
        }
        if !patient && before.iter().all(|timed| timed.state.cursor.is_none()) {
            // A stop changes nothing but how long one has to wait.
            let sooner = self.moves && settles(&after) < settles(&before);
            if !sooner && states(&before) == states(&after) {
                return None;
            }
        }
        merge(&mut after);
        Some((after, sending.after(wait_ms)))
    }

    fn apart(&self, set: &[Timed]) -> (Vec<Timed>, Vec<u32>) {
        let mut times = Vec::with_capacity(set.len() * 6);
        for timed in set {
            times.extend([timed.power, timed.input, timed.travel, timed.pause].map(|left| left.hi_ms));
            times.extend([timed.picture_ms, timed.gap_ms]);
        }
        (set.iter().map(timeless).collect(), times)
    }

    fn looked_at(&self, states: usize) {
        self.spent.set(self.spent.get() + states);
    }

    fn left(&self, set: &[Timed]) -> u32 {
        set.iter().map(|timed| self.left_of(timed)).max().unwrap_or(0)
    }

    fn finish(&self, set: &[Timed]) -> Option<Rest> {
        // A list that is open closes by itself.
        let home = |timed: &Timed| {
            let rest = Window::exactly(timed.settles_ms());
            timed::elapse(self.machine, timed, rest).iter().all(|end| self.target.met_by(end.state))
        };
        let shows_ms = || set.iter().map(Timed::shows_ms).max().unwrap_or(0);
        set.iter().all(home).then(|| Rest { settles_ms: settles(set), shows_ms: shows_ms() })
    }
}
