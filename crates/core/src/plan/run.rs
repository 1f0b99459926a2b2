//! A script run forwards from sets of states: every course of events that the intervals allow.
//!
//! A run starts from every state that is asked about and keeps, after each key, the set of states that
//! the group may be in; equal states are merged. For a story, [`trace`] follows a single start state and
//! remembers which way led where.

use crate::device::group::{Cut, Group, walked};
use crate::device::look::seen;
use crate::device::timed::Reaction;
use crate::device::{Joint, Target, Window};
use crate::plan::{Script, ScriptStep};
use rustc_hash::FxHashSet;
use std::borrow::Borrow;
use std::collections::{BTreeMap, BTreeSet};

/// How much later than planned a key may come within a group whose devices switch each other, in ms; a
/// runtime that is later derives the plan anew.
pub const LATE_MS: u32 = 2_000;

/// States that one run looks at before it is given up.
pub const STATES_MAX: usize = 400_000;

/// What came of running a script from some states.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Outcome {
    /// The first of the states from which some course of events ends wrong.
    pub failure: Option<Joint>,
    /// How many states were looked at.
    pub states: usize,
    /// Was something left out for its number? Without a failure, nothing is proved then.
    pub cut: bool,
}

impl Outcome {
    /// Was every course of events looked at, and do all of them end right?
    #[must_use]
    pub fn proves(&self) -> bool {
        self.failure.is_none() && !self.cut
    }
}

/// Does every course of events, from every one of these states, end at the targets? No, where it cannot be told.
pub fn all_arrive<'j>(
    group: &Group<'_>,
    starts: impl Iterator<Item = &'j Joint>,
    script: &Script,
    targets: &[Target],
) -> bool {
    first_failure(group, starts, script, targets).proves()
}

/// Runs a script from each of these states until some course of events ends wrong.
pub fn first_failure<J: Borrow<Joint>>(
    group: &Group<'_>,
    starts: impl Iterator<Item = J>,
    script: &Script,
    targets: &[Target],
) -> Outcome {
    first_failure_within(group, starts, script, targets, STATES_MAX)
}

/// The same, looking at no more than so many states.
pub fn first_failure_within<J: Borrow<Joint>>(
    group: &Group<'_>,
    starts: impl Iterator<Item = J>,
    script: &Script,
    targets: &[Target],
    most: usize,
) -> Outcome {
    let mut known: Vec<FxHashSet<Joint>> = Vec::new();
    let mut outcome = Outcome::default();
    let before = walked();
    for start in starts {
        let start = group.relevant(start.borrow().clone(), targets);
        if fails(group, &start, script, targets, &mut known, &mut outcome) {
            outcome.failure = Some(start);
            return outcome;
        }
        if outcome.states + (walked() - before) > most {
            outcome.cut = true;
            return outcome;
        }
    }
    outcome
}

/// Does some course of events from `start` end wrong? States that were met at the same place of the same
/// script before, and ended right, are not followed again.
fn fails(
    group: &Group<'_>,
    start: &Joint,
    script: &Script,
    targets: &[Target],
    known: &mut Vec<FxHashSet<Joint>>,
    outcome: &mut Outcome,
) -> bool {
    let Some(look) = &script.look else { return follow(group, start, &script.steps, targets, known, outcome) };
    outcome.states += 1;
    let Ok(seen_then) = group.elapse(start, Window::exactly(look.ms)) else {
        outcome.cut = true;
        return false;
    };
    seen_then.into_iter().any(|(after, _)| {
        let sight = seen(group.machine(0).profile(), &after.members[0]);
        let branch = look.branches.iter().find(|(known, _)| *known == sight);
        branch.is_none_or(|(_, steps)| follow(group, &after, steps, targets, &mut Vec::new(), outcome))
    })
}

fn follow(
    group: &Group<'_>,
    start: &Joint,
    steps: &[ScriptStep],
    targets: &[Target],
    known: &mut Vec<FxHashSet<Joint>>,
    outcome: &mut Outcome,
) -> bool {
    if known.len() < steps.len() + 1 {
        known.resize_with(steps.len() + 1, FxHashSet::default);
    }
    let mut open: Vec<(usize, Joint)> = vec![(0, start.clone())];
    while let Some((at, joint)) = open.pop() {
        if !known[at].insert(joint.clone()) {
            continue;
        }
        outcome.states += 1;
        if outcome.states > STATES_MAX {
            outcome.cut = true;
            return false;
        }
        let Some(step) = steps.get(at) else {
            match group.settled(&joint) {
                Ok(ends) if ends.iter().all(|end| group.meets(end, targets)) => {}
                Ok(_) => return true,
                Err(Cut) => outcome.cut = true,
            }
            continue;
        };
        let Ok(then) = group.elapse(&joint, step.after) else {
            outcome.cut = true;
            continue;
        };
        for (before, _) in then {
            for (after, _) in group.press(&before, step.member, step.letter) {
                open.push((at + 1, group.relevant(after, targets)));
            }
        }
    }
    false
}

/// Every state that a script may leave behind right after each of its keys: entry 0 is the start itself,
/// the last entry the end. A script with a look gives its start and its ends.
///
/// # Errors
/// Where there are too many.
pub fn prefixes(group: &Group<'_>, starts: &BTreeSet<Joint>, script: &Script) -> Result<Vec<BTreeSet<Joint>>, Cut> {
    let Some(look) = &script.look else { return walk(group, starts, &script.steps) };
    let mut ends = BTreeSet::new();
    for start in starts {
        for (after, _) in group.elapse(start, Window::exactly(look.ms))? {
            let sight = seen(group.machine(0).profile(), &after.members[0]);
            if let Some((_, steps)) = look.branches.iter().find(|(known, _)| *known == sight) {
                let end = walk(group, &BTreeSet::from([after]), steps)?.pop();
                ends.extend(end.unwrap_or_default());
            }
        }
    }
    Ok(vec![starts.clone(), ends])
}

fn walk(group: &Group<'_>, starts: &BTreeSet<Joint>, steps: &[ScriptStep]) -> Result<Vec<BTreeSet<Joint>>, Cut> {
    let mut sets = vec![starts.clone()];
    for step in steps {
        let mut next = BTreeSet::new();
        for joint in &sets[sets.len() - 1] {
            for (before, _) in group.elapse(joint, step.after)? {
                next.extend(group.press(&before, step.member, step.letter).into_iter().map(|(after, _)| after));
            }
            if next.len() > STATES_MAX {
                return Err(Cut);
            }
        }
        sets.push(next);
    }
    Ok(sets)
}

/// One thing that happened on the way to a wrong end.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Event {
    /// A key, and what the device made of it.
    Key {
        /// Which step of the script.
        step: usize,
        /// What the device made of it.
        reaction: Reaction,
        /// Before.
        before: Joint,
        /// After.
        after: Joint,
    },
    /// Links had their effect in the time before a key, or after the last one.
    Links {
        /// Which.
        links: Vec<usize>,
        /// After.
        after: Joint,
        /// Before which step of the script.
        step: usize,
    },
}

/// One wrong course of events from `start`: what happened, and the end. `None` where all end right.
#[must_use]
pub fn trace(group: &Group<'_>, start: &Joint, script: &Script, targets: &[Target]) -> Option<(Vec<Event>, Joint)> {
    let start = group.relevant(start.clone(), targets);
    let (start, steps) = match &script.look {
        None => (start, &script.steps),
        Some(look) => {
            let window = Window::exactly(look.ms);
            group.elapse(&start, window).ok()?.into_iter().find_map(|(after, _)| {
                let sight = seen(group.machine(0).profile(), &after.members[0]);
                let (_, steps) = look.branches.iter().find(|(known, _)| *known == sight)?;
                follow(group, &after, steps, targets, &mut Vec::new(), &mut Outcome::default())
                    .then_some((after, steps))
            })?
        }
    };
    let mut walk = Tracing { group, steps, targets, nodes: vec![(start, None, vec![])] };
    // All runs have as many keys, so any wrong end will do. Where few states are met, that of the first in order; else the
    // one that is met first.
    walk.in_breadth().or_else(|| walk.in_depth())
}

/// States that are looked at in order before the first wrong end that is met is taken.
const IN_ORDER: usize = 3_000;

/// A script followed from one state, with the way back from each state that was met.
struct Tracing<'t, 'a> {
    group: &'t Group<'a>,
    steps: &'t [ScriptStep],
    targets: &'t [Target],
    nodes: Vec<(Joint, Option<usize>, Vec<Event>)>,
}

impl Tracing<'_, '_> {
    /// Every state after the next key, with what happened on the way.
    fn after(&self, joint: &Joint, at: usize) -> Option<Vec<(Joint, Vec<Event>)>> {
        let step = self.steps[at];
        let mut all = Vec::new();
        for (before, links) in self.group.elapse(joint, step.after).ok()? {
            for (after, reaction) in self.group.press(&before, step.member, step.letter) {
                let after = self.group.relevant(after, self.targets);
                let mut events = Vec::new();
                if !links.is_empty() {
                    events.push(Event::Links { links: links.clone(), after: before.clone(), step: at });
                }
                events.push(Event::Key { step: at, reaction, before: before.clone(), after: after.clone() });
                all.push((after, events));
            }
        }
        Some(all)
    }

    fn met(&mut self, joint: Joint, from: usize, events: Vec<Event>) -> usize {
        self.nodes.push((joint, Some(from), events));
        self.nodes.len() - 1
    }

    fn in_breadth(&mut self) -> Option<(Vec<Event>, Joint)> {
        let mut layer = vec![0usize];
        for at in 0..self.steps.len() {
            let mut next: BTreeMap<Joint, usize> = BTreeMap::new();
            for &from in &layer {
                let joint = self.nodes[from].0.clone();
                for (after, events) in self.after(&joint, at)? {
                    next.entry(after).or_insert_with_key(|after| self.met(after.clone(), from, events));
                }
                if self.nodes.len() > IN_ORDER {
                    return None;
                }
            }
            layer = next.into_values().collect();
        }
        layer.into_iter().find_map(|last| self.wrong_end(last))
    }

    fn in_depth(&mut self) -> Option<(Vec<Event>, Joint)> {
        self.nodes.truncate(1);
        let mut known: Vec<FxHashSet<Joint>> = vec![FxHashSet::default(); self.steps.len() + 1];
        let mut open: Vec<(usize, usize)> = vec![(0, 0)];
        while let Some((at, node)) = open.pop() {
            if at == self.steps.len() {
                if let Some(found) = self.wrong_end(node) {
                    return Some(found);
                }
                continue;
            }
            if self.nodes.len() > STATES_MAX {
                return None;
            }
            let joint = self.nodes[node].0.clone();
            for (after, events) in self.after(&joint, at)? {
                if known[at + 1].insert(after.clone()) {
                    let next = self.met(after, node, events);
                    open.push((at + 1, next));
                }
            }
        }
        None
    }

    /// The course that led here, where it ends wrong.
    fn wrong_end(&self, last: usize) -> Option<(Vec<Event>, Joint)> {
        let ends = self.group.settled(&self.nodes[last].0).ok()?;
        let wrong = ends.into_iter().find(|end| !self.group.meets(end, self.targets))?;
        let mut events = Vec::new();
        let mut at = Some(last);
        while let Some(node) = at {
            events.extend(self.nodes[node].2.iter().rev().cloned());
            at = self.nodes[node].1;
        }
        events.reverse();
        Some((events, wrong))
    }
}
