//! The same search for one device that nothing couples, which nearly every search is about.
//!
//! Where there is one member and nothing on its way, a set of states is a row of plain records. It is kept in the order
//! of its states, so that what is alike stands side by side. The answers are those of [`super::homing`], many times
//! sooner (a test holds them against each other).

use super::search::{self, Cost, Found, Machine, Move, NoWord, Obstacle, Rest, Sending};
use super::timed::{self, FOREVER_MS, Timed, Window, due_in, taken_after};
use super::{Automaton, Joint, Letter, Target};
use crate::device::automaton::State;
use crate::model::{Effect, Position, Standing};
use rustc_hash::FxHashMap;
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
            travel_ms: match target.position {
                // How soon it is there hangs on where it is.
                Some(Position::Stop(at)) if machine.timed_stop(at).is_some() => 0,
                _ => there.map_or(0, |there| machine.settle(there, Effect::Travel).hi_ms),
            },
        }
    }
}

impl<'h, 'a> Alone<'h, 'a> {
    /// The machine with what is wanted of it, what can be sent to it and how, and where what was looked at is added up.
    pub(super) fn new(
        machine: &'h Automaton<'a>,
        target: &'h Target,
        letters: &'h [Move],
        sendings: Vec<Sending>,
        spent: &'h Cell<usize>,
    ) -> Self {
        Self {
            machine,
            target,
            letters,
            spent,
            least: Least::of(machine, target, letters, &sendings),
            sendings,
            places: (0..letters.len()).collect(),
            moves: machine.profile().motion.is_some(),
        }
    }

    /// As [`search::words`].
    pub(super) fn words(&self, start: &[Timed], budget: usize) -> Result<Found<Move>, NoWord> {
        let quick = if budget > QUICK { search::words_at_once(self, start, QUICK) } else { None };
        let found = match quick {
            Some(found) => found,
            // That two states never come together is seen sooner than by walking everything that can be reached.
            None if budget > QUICK && self.apart_for_ever(start).is_some() => Err(NoWord::Proved),
            None => search::words(self, start, budget),
        };
        let Found { words, nodes, shortest, whole } = found?;
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

    /// As [`search::obstacle`]; two states that cannot be brought home together are found first, without any time.
    pub(super) fn obstacle(&self, start: &[Timed], budget: usize) -> Option<Obstacle<Joint>> {
        let joints = |states: Vec<Timed>| states.into_iter().map(|timed| Joint::of([timed])).collect();
        if let Some(pair) = self.apart_for_ever(start) {
            let alone = |timed: &Timed| search::words(self, std::slice::from_ref(timed), budget).is_ok();
            let minimal = pair[0] == pair[1] || pair.iter().all(alone);
            let mut states = pair.to_vec();
            states.dedup();
            return Some(Obstacle { states: joints(states), minimal });
        }
        let found = search::obstacle(self, start, budget)?;
        Some(Obstacle { states: joints(found.states), minimal: found.minimal })
    }

    /// Two states (or one, twice) that no sequence brings home together even if nothing took any time and a list closed
    /// whenever it is wanted. Where there is none, time may still keep some apart. Not told of what moves: a stop on the
    /// way makes more of it than any key at rest.
    fn apart_for_ever(&self, start: &[Timed]) -> Option<[Timed; 2]> {
        // Lists that close at different times could be told apart by waiting.
        let mut open = start.iter().filter(|timed| timed.state.cursor.is_some()).map(|timed| timed.closes);
        let alike = open.next().is_none_or(|first| open.all(|closes| closes == first));
        if self.moves || !alike {
            return None;
        }
        let mut states: Vec<State> = start.iter().map(|timed| timed.state).collect();
        let mut places: FxHashMap<State, usize> = FxHashMap::default();
        states.sort_unstable();
        states.dedup();
        places.extend(states.iter().enumerate().map(|(at, &state)| (state, at)));
        let keys: Vec<Letter> =
            self.letters.iter().filter(|(.., patient)| !patient).map(|&(_, letter, _)| letter).collect();
        // Where each key leads from each state, and what becomes of an open list that closes.
        let mut after: Vec<Vec<usize>> = Vec::new();
        let mut at = 0;
        while at < states.len() && states.len() <= PAIRED {
            let state = states[at];
            let closed = timed::elapse(self.machine, &timed::settled(self.machine, state), Window::exactly(FOREVER_MS));
            let closed = closed.into_iter().map(|timed| timed.state);
            let next = keys.iter().map(|&key| self.machine.send(state, key).0).chain(closed);
            let mut own = Vec::with_capacity(keys.len() + 1);
            for next in next.map(|next| self.target.relevant(next)) {
                own.push(*places.entry(next).or_insert_with(|| {
                    states.push(next);
                    states.len() - 1
                }));
            }
            after.push(own);
            at += 1;
        }
        if states.len() > PAIRED {
            return None;
        }
        // Pairs that can be brought home, from the goal backwards: as long as there are more.
        let count = states.len();
        let home: Vec<bool> = states.iter().map(|&state| self.target.met_by(state)).collect();
        let mut can = vec![false; count * count];
        (0..count * count).for_each(|pair| can[pair] = home[pair / count] && home[pair % count]);
        loop {
            let mut more = false;
            for pair in (0..count * count).filter(|&pair| pair / count <= pair % count) {
                let (one, other) = (pair / count, pair % count);
                let leads = |key: usize| can[after[one][key] * count + after[other][key]];
                if !can[pair] && (0..=keys.len()).any(leads) {
                    can[pair] = true;
                    can[other * count + one] = true;
                    more = true;
                }
            }
            if !more {
                break;
            }
        }
        let apart = |a: &Timed, b: &Timed| Some(!can[places.get(&a.state)? * count + places.get(&b.state)?]);
        let alone = start.iter().find(|timed| apart(timed, timed) == Some(true)).map(|timed| [*timed, *timed]);
        let both = || {
            let pairs = start.iter().enumerate().flat_map(|(at, a)| start[at + 1..].iter().map(move |b| (a, b)));
            pairs.into_iter().find(|(a, b)| apart(a, b) == Some(true)).map(|(a, b)| [*a, *b])
        };
        alone.or_else(both)
    }
}

/// Sets that are looked at before the states are compared in pairs.
const QUICK: usize = 200;

/// States of one device of which every pair is looked at.
const PAIRED: usize = 400;

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
        let sending = self.sendings[place];
        let due = set.iter().filter_map(|timed| due_in(self.machine, timed, letter)).max();
        if matches!(letter, Letter::StopAt(_)) && due.is_none() {
            return None;
        }
        let wait_ms = if patient { lists } else { taken }.max(due.unwrap_or(0).saturating_sub(sending.ms));
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
        // As long as a list is open, the picture is not what it will be.
        let shows_ms = || set.iter().map(|timed| timed.shows_ms().max(list(timed))).max().unwrap_or(0);
        set.iter().all(home).then(|| Rest { settles_ms: settles(set), shows_ms: shows_ms() })
    }
}
