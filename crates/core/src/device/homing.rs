//! The shortest sequence of keys that is right from every state of a belief.
//!
//! Over the states of a [`Group`] a key costs the longest time until every state takes it, plus its
//! transmission; all states let that time pass first. A key can also be held back until an open list
//! has closed and every coupling has landed. The search itself is [`super::search`].

use super::group::{Group, Joint};
use super::search::{self, Cost, Found, Machine};
use super::timed::{Window, taken_after};
use crate::device::automaton::{Automaton, Letter, State, Target};
use crate::id::DeviceId;
use crate::model::{Effect, Medium, Span};
use rustc_hash::FxHashMap;
use std::cell::RefCell;
use std::collections::BTreeSet;

pub use super::search::{NODES, NoWord};

/// How long a letter takes to send, and on what.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Sending {
    /// In ms.
    pub ms: u32,
    /// On what.
    pub medium: Medium,
}

/// One key of a word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct WordStep {
    /// To which device.
    pub device: DeviceId,
    /// The key.
    pub letter: Letter,
    /// How long it is sent, and on what.
    pub sending: Sending,
    /// The least pause before it, from the end of the key before, in ms.
    pub wait_ms: u32,
    /// The greatest such pause, in ms: a list would have closed.
    pub within_ms: Option<u32>,
    /// The slowest thing that it may set in motion.
    pub effect: Effect,
    /// How long that may take until the next key is taken.
    pub settle: Span,
    /// How long until it can be seen or heard.
    pub shows: Span,
}

/// A sequence of keys.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Word {
    /// Its keys in order.
    pub steps: Vec<WordStep>,
    /// What it costs, settling included.
    pub cost: Cost,
    /// How long everything takes to settle after its last key, in ms.
    pub settle_ms: u32,
}

/// Words for a belief.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Homed {
    /// The non-dominated ones, the quickest first.
    pub words: Vec<Word>,
    /// How many labels were looked at.
    pub nodes: usize,
    /// Is the first proved to be the shortest?
    pub shortest: bool,
}

/// What can be sent to a group: to which member, what, and whether lists and couplings are waited out first.
type Move = (usize, Letter, bool);

struct Homing<'g, 'a> {
    group: &'g Group<'a>,
    targets: &'g [Target],
    letters: Vec<Move>,
    sending: &'g dyn Fn(DeviceId, Letter) -> Sending,
    /// What was asked of `sending` before: it encodes a whole frame each time.
    sent_before: RefCell<FxHashMap<(usize, Letter), Sending>>,
}

impl Homing<'_, '_> {
    /// How long a letter to a member takes to send, and on what.
    fn sending(&self, member: usize, letter: Letter) -> Sending {
        let mut known = self.sent_before.borrow_mut();
        *known.entry((member, letter)).or_insert_with(|| (self.sending)(self.group.members[member].0, letter))
    }

    fn wait_ms(&self, set: &[Joint], (member, letter, patient): Move) -> u32 {
        let machine = self.group.machine(member);
        let one = |joint: &Joint| {
            let taken = taken_after(machine, &joint.members[member], letter);
            if patient { taken.max(lists_and_links(joint)) } else { taken }
        };
        set.iter().map(one).max().unwrap_or(0)
    }

    /// Waits and sends; the states before the key and after it.
    fn sent(&self, set: &[Joint], step: Move) -> (BTreeSet<Joint>, BTreeSet<Joint>) {
        let (member, letter, _) = step;
        let passed = self.wait_ms(set, step) + self.sending(member, letter).ms;
        let mut before = BTreeSet::new();
        for joint in set {
            before.extend(self.group.elapse(joint, Window::exactly(passed)).into_iter().map(|(after, _)| after));
        }
        let mut after = BTreeSet::new();
        for joint in &before {
            for (next, _) in self.group.press(joint, member, letter) {
                after.insert(self.group.relevant(next, self.targets));
            }
        }
        (before, after)
    }
}

/// How long until every open list has closed and every event has landed, in ms.
fn lists_and_links(joint: &Joint) -> u32 {
    let lists = joint.members.iter().filter(|member| member.state.cursor.is_some()).map(|member| member.closes.hi_ms);
    lists.chain(joint.pending.iter().map(|event| event.left.hi_ms)).max().unwrap_or(0)
}

impl Machine for Homing<'_, '_> {
    type State = Joint;
    type Letter = Move;

    fn letters(&self) -> &[Move] {
        &self.letters
    }

    fn apply(&self, set: &[Joint], step: Move) -> Option<(Vec<Joint>, Cost)> {
        if step.2 && set.iter().all(|joint| lists_and_links(joint) == 0) {
            return None;
        }
        let wait_ms = self.wait_ms(set, step);
        let (before, after) = self.sent(set, step);
        let states = |set: &BTreeSet<Joint>| -> BTreeSet<Vec<State>> {
            set.iter().map(|joint| joint.members.iter().map(|member| member.state).collect()).collect()
        };
        let lists = before.iter().any(|joint| joint.members[step.0].state.cursor.is_some());
        if !step.2 && !lists && states(&before) == states(&after) && before.iter().all(|joint| joint.pending.is_empty())
        {
            return None;
        }
        let sending = self.sending(step.0, step.1);
        let mut on_air_ms = [0; 2];
        match sending.medium {
            Medium::Ir => on_air_ms[0] = sending.ms,
            Medium::Rf433 => on_air_ms[1] = sending.ms,
            _ => {}
        }
        Some((merged(after), Cost { ms: wait_ms + sending.ms, on_air_ms, sends: 1 }))
    }

    fn apart(&self, set: &[Joint]) -> (Vec<Joint>, Vec<u32>) {
        let mut times = Vec::with_capacity(set.len() * 3);
        let states = set.iter().map(|joint| {
            let mut timeless = joint.clone();
            for member in &mut timeless.members {
                times.extend([member.busy.hi_ms, member.shows_ms, member.gap_ms]);
                (member.busy, member.shows_ms, member.gap_ms) = (Window::default(), 0, 0);
            }
            timeless
        });
        (states.collect(), times)
    }

    fn finish(&self, set: &[Joint]) -> Option<u32> {
        let home = |joint: &Joint| self.group.settled(joint).iter().all(|end| self.group.meets(end, self.targets));
        // What is wanted must be there: a device that is off has nothing to show.
        set.iter().all(home).then(|| set.iter().map(Joint::settles_ms).max().unwrap_or(0))
    }
}

/// States that differ only in the times that are left are taken as one, with the widest windows.
fn merged(set: BTreeSet<Joint>) -> Vec<Joint> {
    let mut merged: Vec<Joint> = Vec::with_capacity(set.len());
    let alike = |a: &Joint, b: &Joint| {
        a.pending == b.pending
            && a.members
                .iter()
                .zip(&b.members)
                .all(|(a, b)| a.state == b.state && a.effect == b.effect && a.closes == b.closes)
    };
    for joint in set {
        match merged.iter_mut().find(|known| alike(known, &joint)) {
            Some(known) => {
                for (known, own) in known.members.iter_mut().zip(&joint.members) {
                    known.busy.lo_ms = known.busy.lo_ms.min(own.busy.lo_ms);
                    known.busy.hi_ms = known.busy.hi_ms.max(own.busy.hi_ms);
                    known.shows_ms = known.shows_ms.max(own.shows_ms);
                    known.gap_ms = known.gap_ms.max(own.gap_ms);
                }
            }
            None => merged.push(joint),
        }
    }
    merged.sort_unstable();
    merged
}

fn homing<'g, 'a>(
    group: &'g Group<'a>,
    targets: &'g [Target],
    forbidden: &dyn Fn(DeviceId, Letter) -> bool,
    sending: &'g dyn Fn(DeviceId, Letter) -> Sending,
) -> Homing<'g, 'a> {
    let mut letters = Vec::new();
    for (member, ((device, machine), target)) in group.members.iter().zip(targets).enumerate() {
        let own = machine.letters(target).into_iter().filter(|&letter| !forbidden(*device, letter));
        letters.extend(own.flat_map(|letter| [(member, letter, false), (member, letter, true)]));
    }
    Homing { group, targets, letters, sending, sent_before: RefCell::default() }
}

/// The words that bring every state of `belief` to `targets`, one target a member.
///
/// # Errors
/// [`NoWord::Proved`] where none exists, [`NoWord::GaveUp`] past [`NODES`] labels.
pub fn home_group(
    group: &Group<'_>,
    belief: &BTreeSet<Joint>,
    targets: &[Target],
    forbidden: &dyn Fn(DeviceId, Letter) -> bool,
    sending: &dyn Fn(DeviceId, Letter) -> Sending,
) -> Result<Homed, NoWord> {
    home_within(group, belief, targets, forbidden, sending, NODES)
}

/// The same with a budget of labels.
///
/// # Errors
/// As [`home_group`].
pub fn home_within(
    group: &Group<'_>,
    belief: &BTreeSet<Joint>,
    targets: &[Target],
    forbidden: &dyn Fn(DeviceId, Letter) -> bool,
    sending: &dyn Fn(DeviceId, Letter) -> Sending,
    budget: usize,
) -> Result<Homed, NoWord> {
    let machine = homing(group, targets, forbidden, sending);
    let start: BTreeSet<Joint> = belief.iter().map(|joint| group.relevant(joint.clone(), targets)).collect();
    let start: Vec<Joint> = start.into_iter().collect();
    let Found { words, nodes, shortest } = search::words(&machine, &start, budget)?;
    let words = words.into_iter().map(|(letters, cost)| replay(&machine, &start, &letters, cost)).collect();
    Ok(Homed { words, nodes, shortest })
}

/// The word for one device that nothing couples, from settled states; `send_ms` tells how long a key lasts.
///
/// # Errors
/// As [`home_group`].
pub fn home(
    automaton: &Automaton<'_>,
    belief: &BTreeSet<State>,
    target: Target,
    send_ms: impl Fn(Letter) -> u32,
) -> Result<Word, NoWord> {
    let group = Group::single(DeviceId(uuid::Uuid::nil()), automaton.clone());
    let belief = belief.iter().map(|&state| Joint::of([super::timed::settled(automaton, state)])).collect();
    let sending = |_, letter| Sending { ms: send_ms(letter), medium: Medium::Ir };
    let homed = home_group(&group, &belief, &[target], &|_, _| false, &sending)?;
    Ok(homed.words.into_iter().next().unwrap_or_default())
}

/// Start states that no word brings to `targets` together: a pair where there is one, else a set of which
/// every smaller part can be brought there.
#[must_use]
pub fn obstacle(
    group: &Group<'_>,
    belief: &BTreeSet<Joint>,
    targets: &[Target],
    forbidden: &dyn Fn(DeviceId, Letter) -> bool,
    sending: &dyn Fn(DeviceId, Letter) -> Sending,
) -> Option<Vec<Joint>> {
    let machine = homing(group, targets, forbidden, sending);
    let mut start: Vec<Joint> = belief.iter().map(|joint| group.relevant(joint.clone(), targets)).collect();
    // Settled states make the simpler story.
    start.sort_by_key(|joint| (joint.settles_ms(), joint.clone()));
    start.dedup();
    search::obstacle(&machine, &start, NODES / 10)
}

/// The greatest part of the settled states that one word brings to `target`, by searching the preimages of
/// the goal: a key takes a set backwards to everything that it brings into the set.
#[must_use]
pub fn largest(automaton: &Automaton<'_>, target: Target) -> Vec<State> {
    let mut states: Vec<State> = automaton.states_for(&target);
    states.sort_unstable();
    let letters = automaton.letters(&target);
    let after: Vec<Vec<Option<usize>>> = letters
        .iter()
        .map(|&letter| {
            states
                .iter()
                .map(|&state| states.binary_search(&target.relevant(automaton.send(state, letter).0)).ok())
                .collect()
        })
        .collect();
    let goal: Vec<bool> = states.iter().map(|&state| target.met_by(state)).collect();
    let size = |set: &[bool]| set.iter().filter(|&&is| is).count();
    let mut best = goal.clone();
    let mut known = BTreeSet::from([goal.clone()]);
    let mut open = std::collections::VecDeque::from([goal]);
    while let Some(set) = open.pop_front() {
        if size(&set) > size(&best) {
            best = set.clone();
        }
        if known.len() > NODES || size(&best) == states.len() {
            break;
        }
        for to in &after {
            let before: Vec<bool> = to.iter().map(|to| to.is_some_and(|to| set[to])).collect();
            if size(&before) > 0 && known.insert(before.clone()) {
                open.push_back(before);
            }
        }
    }
    states.iter().zip(best).filter(|(_, is)| *is).map(|(&state, _)| state).collect()
}

/// Walks a word once more and writes down what each key waits for and sets in motion.
fn replay(machine: &Homing<'_, '_>, start: &[Joint], letters: &[Move], cost: Cost) -> Word {
    let mut set: Vec<Joint> = start.to_vec();
    let mut steps = Vec::with_capacity(letters.len());
    for &step in letters {
        let (member, letter, patient) = step;
        let device = machine.group.members[member].0;
        let sending = (machine.sending)(device, letter);
        let wait_ms = machine.wait_ms(&set, step);
        let (before, after) = machine.sent(&set, step);
        let open = set.iter().flat_map(|joint| &joint.members).filter(|member| member.state.cursor.is_some());
        let closes = open.map(|member| member.closes.lo_ms).filter(|&ms| ms > 0).min();
        // Where the list is waited out, being later does no harm.
        let within_ms = closes.filter(|_| !patient).map(|ms| ms.saturating_sub(sending.ms + 1).max(wait_ms));
        let automaton = machine.group.machine(member);
        let (mut effect, mut settle, mut shows) = (Effect::None, Span::NONE, Span::NONE);
        for joint in &before {
            let (state, caused) = automaton.send(joint.members[member].state, letter);
            let (until_next, until_seen) = (automaton.settle(state, caused), automaton.shows_after(state, caused));
            if until_next.hi_ms > settle.hi_ms || effect == Effect::None {
                (effect, settle) = (caused, until_next);
            }
            if until_seen.hi_ms > shows.hi_ms {
                shows = until_seen;
            }
        }
        steps.push(WordStep { device, letter, sending, wait_ms, within_ms, effect, settle, shows });
        set = merged(after);
    }
    let settle_ms = set.iter().map(Joint::settles_ms).max().unwrap_or(0);
    Word { steps, cost, settle_ms }
}
