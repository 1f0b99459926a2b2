//! The shortest sequence of keys that is right from every state of a belief.
//!
//! The search walks *sets* of states in order of cost (Dijkstra): a key is applied to every member,
//! and before it all members wait for whatever the last key may have set in motion in any of them.
//! The first set of which every member meets the target is reached by the shortest word. Where the
//! sets run out, no word exists; that is a proof, not a failure.
//!
//! First form: states are settled ones (see [`super::automaton`]) and one word is returned, the
//! shortest in time and among those the one with the fewest keys.

use super::automaton::{Automaton, Effect, State, Target};
use super::profile::{Selection, Span};
use crate::id::FunctionId;
use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet, BinaryHeap};

/// How many sets are looked at before the search gives up.
pub const NODES: usize = 20_000;

/// One key of a word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct WordStep {
    /// The key.
    pub key: FunctionId,
    /// The slowest thing it may set in motion.
    pub effect: Effect,
    /// How long that may take until the next key is accepted.
    pub settle: Span,
    /// How long until it can be seen or heard.
    pub shows: Span,
    /// The next key must follow within this time in ms, or the list has closed.
    pub within_ms: Option<u32>,
}

/// A sequence of keys.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Word {
    /// Its keys in order.
    pub steps: Vec<WordStep>,
    /// How many sets were looked at.
    pub nodes: usize,
}

/// Why there is no word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoWord {
    /// Every set that can be reached was looked at: none exists.
    Proved,
    /// The search was given up; one may exist.
    GaveUp,
}

/// How a set was reached: at what cost in ms, with how many presses, from which set by which key.
type Reached = (u64, u32, Option<(usize, WordStep)>);

/// The shortest word that brings every state of `belief` to `target`; `send_ms` tells how long a key
/// takes to send.
///
/// # Errors
/// [`NoWord::Proved`] where none exists, [`NoWord::GaveUp`] past [`NODES`] sets.
pub fn home(
    automaton: &Automaton<'_>,
    belief: &BTreeSet<State>,
    target: Target,
    send_ms: impl Fn(FunctionId) -> u32,
) -> Result<Word, NoWord> {
    let mut keys: Vec<FunctionId> = automaton.profile().keys().into_iter().map(|(key, _)| key).collect();
    keys.sort_unstable();
    keys.dedup();
    let start: Vec<State> = belief.iter().copied().collect();
    let mut sets = vec![start.clone()];
    let mut known: BTreeMap<Vec<State>, usize> = BTreeMap::from([(start, 0)]);
    let mut best: Vec<Reached> = vec![(0, 0, None)];
    let mut heap = BinaryHeap::from([Reverse((0u64, 0u32, 0usize))]);
    let mut nodes = 0;
    while let Some(Reverse((cost, presses, at))) = heap.pop() {
        if (best[at].0, best[at].1) < (cost, presses) {
            continue;
        }
        nodes += 1;
        if nodes > NODES {
            return Err(NoWord::GaveUp);
        }
        if sets[at].iter().all(|&state| target.met_by(state)) {
            return Ok(Word { steps: trace(&best, at), nodes });
        }
        for &key in &keys {
            let (after, step) = press_all(automaton, &sets[at], key);
            if after == sets[at] {
                continue;
            }
            let lag = u64::from(step.settle.hi_ms.max(automaton.profile().times.gap_ms));
            let next = (cost + u64::from(send_ms(key)) + lag, presses + 1);
            let index = *known.entry(after).or_insert_with_key(|set| {
                sets.push(set.clone());
                best.push((u64::MAX, u32::MAX, None));
                sets.len() - 1
            });
            if next < (best[index].0, best[index].1) {
                best[index] = (next.0, next.1, Some((at, step)));
                heap.push(Reverse((next.0, next.1, index)));
            }
        }
    }
    Err(NoWord::Proved)
}

fn press_all(automaton: &Automaton<'_>, set: &[State], key: FunctionId) -> (Vec<State>, WordStep) {
    let mut after = BTreeSet::new();
    let (mut effect, mut settle, mut shows, mut open) = (Effect::None, Span::NONE, Span::NONE, false);
    for &state in set {
        let (next, caused) = automaton.press(state, key);
        let (until_next, until_seen) = (automaton.settle(next, caused), automaton.shows_after(next, caused));
        if until_next.hi_ms > settle.hi_ms || effect == Effect::None {
            (effect, settle) = (caused, until_next);
        }
        if until_seen.hi_ms > shows.hi_ms {
            shows = until_seen;
        }
        open |= next.cursor.is_some();
        after.insert(next);
    }
    let within_ms = match automaton.profile().selection {
        Selection::Menu { closes_after, .. } if open => Some(closes_after.lo_ms),
        _ => None,
    };
    (after.into_iter().collect(), WordStep { key, effect, settle, shows, within_ms })
}

fn trace(best: &[Reached], mut at: usize) -> Vec<WordStep> {
    let mut steps = Vec::new();
    while let Some((from, step)) = best[at].2 {
        steps.push(step);
        at = from;
    }
    steps.reverse();
    steps
}
