//! The shortest sequence of keys that is right from every state of a belief.
//!
//! Over the states of a [`Group`] a key costs the longest time until every state takes it, plus its
//! transmission; all states let that time pass first. A key can also be held back until an open list
//! has closed and every coupling has landed. The search itself is [`super::search`].

use super::alone::Alone;
use super::group::{Cut, Group, Joint};
use super::search::{self, Cost, Found, Machine, Move, Rest};
use super::timed::{Timed, Window, due_in, taken_after};
use crate::device::automaton::{Automaton, Letter, State, Target};
use crate::id::DeviceId;
use crate::model::{Effect, Medium, Span};
use rustc_hash::{FxHashMap, FxHashSet};
use std::cell::{Cell, RefCell};
use std::collections::BTreeSet;

pub use super::search::{NODES, NoWord, Obstacle, Sending};

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
    /// Are these all of them? Else a choice among them is the best of those that were kept.
    pub whole: bool,
}

struct Homing<'g, 'a> {
    group: &'g Group<'a>,
    targets: &'g [Target],
    letters: Vec<Move>,
    sending: &'g dyn Fn(DeviceId, Letter) -> Sending,
    /// What was asked of `sending` before: it encodes a whole frame each time.
    sent_before: RefCell<FxHashMap<(usize, Letter), Sending>>,
    /// Were there more courses of events somewhere than are followed?
    cut: Cell<bool>,
    /// States to which letters were sent, in all searches that are counted together.
    spent: &'g Cell<usize>,
}

impl<'a> Homing<'_, 'a> {
    /// The same for one device alone, with its start states, where it is one with nothing on its way.
    fn alone<'h>(&'h self, start: &[Joint]) -> Option<(Alone<'h, 'a>, Vec<Timed>)> {
        let plain = |joint: &Joint| if joint.pending.is_empty() { joint.members.first().copied() } else { None };
        let target = self.targets.first().filter(|_| self.group.is_single())?;
        let start: Option<Vec<Timed>> = start.iter().map(plain).collect();
        let sendings = self.letters.iter().map(|&(member, letter, _)| self.sending(member, letter)).collect();
        Some((Alone::new(self.group.machine(0), target, &self.letters, sendings, self.spent), start?))
    }

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
        let due = set.iter().filter_map(|joint| due_in(machine, &joint.members[member], letter)).max();
        let due = due.map_or(0, |due| due.saturating_sub(self.sending(member, letter).ms));
        set.iter().map(one).max().unwrap_or(0).max(due)
    }

    /// Waits and sends; the states before the key and after it. None where there were too many on the way.
    fn sent(&self, set: &[Joint], step: Move) -> Option<(BTreeSet<Joint>, BTreeSet<Joint>)> {
        let (member, letter, _) = step;
        let passed = self.wait_ms(set, step) + self.sending(member, letter).ms;
        let mut before = BTreeSet::new();
        for joint in set {
            match self.group.elapse(joint, Window::exactly(passed)) {
                Ok(after) => before.extend(after.into_iter().map(|(after, _)| after)),
                Err(Cut) => {
                    self.cut.set(true);
                    return None;
                }
            }
        }
        let mut after = BTreeSet::new();
        for joint in &before {
            for (next, _) in self.group.press(joint, member, letter) {
                after.insert(self.group.relevant(next, self.targets));
            }
        }
        Some((before, after))
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
        let machine = self.group.machine(step.0);
        let due = |joint: &Joint| due_in(machine, &joint.members[step.0], step.1).is_some();
        if matches!(step.1, Letter::StopAt(_)) && !set.iter().any(due) {
            return None;
        }
        let wait_ms = self.wait_ms(set, step);
        let (before, after) = self.sent(set, step)?;
        let states = |set: &BTreeSet<Joint>| -> BTreeSet<Vec<State>> {
            set.iter().map(|joint| joint.members.iter().map(|member| member.state).collect()).collect()
        };
        let lists = before.iter().any(|joint| joint.members[step.0].state.cursor.is_some());
        let settles = |set: &BTreeSet<Joint>| set.iter().map(Joint::settles_ms).max().unwrap_or(0);
        let quiet = before.iter().all(|joint| joint.pending.is_empty());
        // A stop changes nothing but how long one has to wait.
        let sooner = self.group.machine(step.0).profile().motion.is_some() && settles(&after) < settles(&before);
        if !step.2 && !lists && quiet && !sooner && states(&before) == states(&after) {
            return None;
        }
        let sending = self.sending(step.0, step.1);
        Some((merged(after), sending.after(wait_ms)))
    }

    fn looked_at(&self, states: usize) {
        self.spent.set(self.spent.get() + states);
    }

    fn apart(&self, set: &[Joint]) -> (Vec<Joint>, Vec<u32>) {
        let mut times = Vec::with_capacity(set.len() * 6);
        let states = set.iter().map(|joint| {
            let mut timeless = joint.clone();
            for member in &mut timeless.members {
                let left = [member.power, member.input, member.travel, member.pause];
                times.extend(left.map(|left| left.hi_ms).into_iter().chain([member.picture_ms, member.gap_ms]));
                // A stop does something else to what surely travels than to what may have arrived.
                let travels = Window { lo_ms: member.travel.lo_ms.min(1), hi_ms: member.travel.hi_ms.min(1) };
                let (state, closes) = (member.state, member.closes);
                *member = Timed { travel: travels, closes, ..Timed::from(state) };
            }
            timeless
        });
        (states.collect(), times)
    }

    fn finish(&self, set: &[Joint]) -> Option<Rest> {
        let home = |joint: &Joint| match self.group.settled(joint) {
            Ok(ends) => ends.iter().all(|end| self.group.meets(end, self.targets)),
            Err(Cut) => {
                self.cut.set(true);
                false
            }
        };
        // What is wanted must be there: a device that is off has nothing to show.
        let most = |of: fn(&Joint) -> u32| set.iter().map(of).max().unwrap_or(0);
        set.iter().all(home).then(|| Rest { settles_ms: most(Joint::settles_ms), shows_ms: most(Joint::shows_ms) })
    }
}

/// States that differ only in the times that are left are taken as one, with the widest windows.
fn merged(set: BTreeSet<Joint>) -> Vec<Joint> {
    let mut merged: Vec<Joint> = Vec::with_capacity(set.len());
    let alike = |a: &Joint, b: &Joint| {
        a.pending == b.pending
            && a.members.iter().zip(&b.members).all(|(a, b)| {
                let travels = |timed: &Timed| (timed.travel.lo_ms > 0, timed.travel.lasts());
                a.state == b.state && a.closes == b.closes && travels(a) == travels(b)
            })
    };
    for joint in set {
        match merged.iter_mut().find(|known| alike(known, &joint)) {
            Some(known) => {
                for (known, own) in known.members.iter_mut().zip(&joint.members) {
                    *known = known.widened(own);
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
    spent: &'g Cell<usize>,
) -> Homing<'g, 'a> {
    let mut letters = Vec::new();
    for (member, ((device, machine), target)) in group.members.iter().zip(targets).enumerate() {
        let own = machine.letters(target).into_iter().filter(|&letter| !forbidden(*device, letter));
        letters.extend(own.flat_map(|letter| [(member, letter, false), (member, letter, true)]));
    }
    Homing { group, targets, letters, sending, sent_before: RefCell::default(), cut: Cell::new(false), spent }
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
    home_counted(group, belief, targets, forbidden, sending, (NODES, &Cell::new(0)))
}

/// The same with a budget of labels, adding up the states to which letters were sent.
///
/// # Errors
/// As [`home_group`].
pub fn home_counted(
    group: &Group<'_>,
    belief: &BTreeSet<Joint>,
    targets: &[Target],
    forbidden: &dyn Fn(DeviceId, Letter) -> bool,
    sending: &dyn Fn(DeviceId, Letter) -> Sending,
    (budget, spent): (usize, &Cell<usize>),
) -> Result<Homed, NoWord> {
    let machine = homing(group, targets, forbidden, sending, spent);
    let start: BTreeSet<Joint> = belief.iter().map(|joint| group.relevant(joint.clone(), targets)).collect();
    let start: Vec<Joint> = start.into_iter().collect();
    let found = match machine.alone(&start) {
        Some((alone, start)) => alone.words(&start, budget),
        None => search::words(&machine, &start, budget),
    };
    // What was not followed may hold a word, or a shorter one.
    let cut = machine.cut.get();
    let Found { words, nodes, shortest, whole } = found.map_err(|no| if cut { NoWord::GaveUp } else { no })?;
    let words = words.into_iter().filter_map(|(letters, cost)| replay(&machine, &start, &letters, cost)).collect();
    Ok(Homed { words, nodes, shortest: shortest && !cut, whole: whole && !cut })
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
    spent: &Cell<usize>,
) -> Option<Obstacle<Joint>> {
    let machine = homing(group, targets, forbidden, sending, spent);
    let mut start: Vec<Joint> = belief.iter().map(|joint| group.relevant(joint.clone(), targets)).collect();
    // Settled states make the simpler story.
    start.sort_by_key(|joint| (joint.settles_ms(), joint.clone()));
    start.dedup();
    let found = match machine.alone(&start) {
        Some((alone, start)) => alone.obstacle(&start, NODES / 10)?,
        None => search::obstacle(&machine, &start, NODES / 10)?,
    };
    Some(Obstacle { minimal: found.minimal && !machine.cut.get(), ..found })
}

/// Parts of a belief that one word may bring to `targets`, the greatest first, by searching the preimages of the goal:
/// a key takes a set backwards to everything that it brings into the set, and waiting is left out of account. Whether a
/// part really has a word is for [`home_group`] to say. Of parts of one size those with `nominal` come first.
#[must_use]
pub fn parts(
    group: &Group<'_>,
    belief: &BTreeSet<Joint>,
    targets: &[Target],
    forbidden: &dyn Fn(DeviceId, Letter) -> bool,
    nominal: Option<&Joint>,
) -> Vec<BTreeSet<Joint>> {
    let sending = |_, _| Sending { ms: 0, medium: Medium::Ir };
    let spent = Cell::new(0);
    let machine = homing(group, targets, forbidden, &sending, &spent);
    let letters: Vec<Move> = machine.letters.iter().copied().filter(|step| !step.2).collect();
    let Some(map) = StateMap::of(group, belief, targets, &letters) else { return vec![] };
    let home: Vec<bool> = map.states.iter().map(|joint| group.meets(joint, targets)).collect();
    let inside = |set: &[bool]| -> BTreeSet<usize> {
        (0..map.starts.len()).filter(|&at| map.starts[at].iter().all(|&state| set[state])).collect()
    };
    let mut known = FxHashSet::from_iter([home.clone()]);
    let mut found: BTreeSet<BTreeSet<usize>> = BTreeSet::new();
    let mut open = std::collections::VecDeque::from([home]);
    while let Some(set) = open.pop_front() {
        found.insert(inside(&set));
        if known.len() > PARTS {
            break;
        }
        for to in &map.after {
            let brings = |ends: &Vec<usize>| !ends.is_empty() && ends.iter().all(|&end| set[end]);
            let before: Vec<bool> = to.iter().map(brings).collect();
            if before.iter().any(|&is| is) && known.insert(before.clone()) {
                open.push_back(before);
            }
        }
    }
    let all: Vec<&Joint> = belief.iter().collect();
    let states = |joint: &Joint| joint.members.iter().map(|member| member.state).collect::<Vec<State>>();
    let wanted = |part: &BTreeSet<usize>| {
        nominal.is_some_and(|nominal| part.iter().any(|&at| states(all[at]) == states(nominal)))
    };
    let mut found: Vec<BTreeSet<usize>> = found.into_iter().filter(|part| !part.is_empty()).collect();
    // States that no sequence tells apart count once: a device that is off is no likelier for each input to which it
    // might come back.
    let class = |at: usize| found.iter().map(|part| part.contains(&at)).collect::<Vec<bool>>();
    let classes: Vec<Vec<bool>> = (0..all.len()).map(class).collect();
    let size = |part: &BTreeSet<usize>| part.iter().map(|&at| &classes[at]).collect::<BTreeSet<_>>().len();
    found.sort_by_key(|part| (std::cmp::Reverse(size(part)), !wanted(part), std::cmp::Reverse(part.len())));
    found.into_iter().map(|part| part.into_iter().map(|at| all[at].clone()).collect()).collect()
}

/// Sets that are looked at while the parts of a belief are searched.
const PARTS: usize = 4_000;

/// States of a group that are told apart while the parts of a belief are searched.
const STATES: usize = 3_000;

/// The states of a group with nothing under way but open lists, and where each key leads from each of them.
struct StateMap {
    states: Vec<Joint>,
    /// For each key and state, every state that it may lead to.
    after: Vec<Vec<Vec<usize>>>,
    /// For each start, the states in which it can come to rest.
    starts: Vec<Vec<usize>>,
}

impl StateMap {
    fn of(group: &Group<'_>, belief: &BTreeSet<Joint>, targets: &[Target], letters: &[Move]) -> Option<Self> {
        let mut map = Self { states: vec![], after: vec![vec![]; letters.len()], starts: vec![] };
        let mut places: FxHashMap<Joint, usize> = FxHashMap::default();
        let mut place = |joint: Joint, states: &mut Vec<Joint>| {
            let joint = group.relevant(joint, targets);
            *places.entry(joint.clone()).or_insert_with(|| {
                states.push(joint);
                states.len() - 1
            })
        };
        for joint in belief {
            let ends = group.settled(joint).ok()?;
            map.starts.push(ends.into_iter().map(|end| place(end, &mut map.states)).collect());
        }
        let mut at = 0;
        while at < map.states.len() {
            if map.states.len() > STATES {
                return None;
            }
            for (number, &(member, letter, _)) in letters.iter().enumerate() {
                let mut ends = BTreeSet::new();
                for (after, _) in group.press(&map.states[at].clone(), member, letter) {
                    for end in at_rest(group, &after)? {
                        ends.insert(place(end, &mut map.states));
                    }
                }
                map.after[number].push(ends.into_iter().collect());
            }
            at += 1;
        }
        Some(map)
    }
}

/// Where a group comes to rest while its lists stay open.
fn at_rest(group: &Group<'_>, joint: &Joint) -> Option<Vec<Joint>> {
    let open = joint.members.iter().any(|member| member.state.cursor.is_some());
    if !open || !joint.pending.is_empty() {
        return Some(group.settled(joint).ok()?.into_iter().collect());
    }
    let members = joint.members.iter().enumerate();
    Some(vec![Joint::of(members.map(|(at, member)| super::timed::settled(group.machine(at), member.state)))])
}

/// Walks a word once more and writes down what each key waits for and sets in motion.
fn replay(machine: &Homing<'_, '_>, start: &[Joint], letters: &[Move], cost: Cost) -> Option<Word> {
    let mut set: Vec<Joint> = start.to_vec();
    let mut steps = Vec::with_capacity(letters.len());
    for &step in letters {
        let (member, letter, patient) = step;
        let device = machine.group.members[member].0;
        let sending = (machine.sending)(device, letter);
        let wait_ms = machine.wait_ms(&set, step);
        let (before, after) = machine.sent(&set, step)?;
        let open = set.iter().flat_map(|joint| &joint.members).filter(|member| member.state.cursor.is_some());
        let closes = open.map(|member| member.closes.lo_ms).filter(|&ms| ms > 0).min();
        // Where the list is waited out, being later does no harm.
        let within_ms = closes.filter(|_| !patient).map(|ms| ms.saturating_sub(sending.ms + 1).max(wait_ms));
        let automaton = machine.group.machine(member);
        let within_ms = match letter {
            Letter::StopAt(at) => {
                let late_ms = automaton.timed_stop(at).map_or(0, |stop| stop.late_ms);
                Some(within_ms.unwrap_or(u32::MAX).min(wait_ms + late_ms))
            }
            _ => within_ms,
        };
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
        if let Letter::StopAt(at) = letter
            && let Some(stop) = automaton.timed_stop(at)
        {
            // What is stopped on its way travels no longer than until then.
            let own = |known: &&mut WordStep| known.device == device && known.effect == Effect::Travel;
            if let Some(travel) = steps.iter_mut().rev().find(own) {
                let span = Span { lo_ms: stop.after_ms, hi_ms: stop.after_ms, basis: travel.settle.basis };
                (travel.settle, travel.shows) = (span, span);
            }
        }
        steps.push(WordStep { device, letter, sending, wait_ms, within_ms, effect, settle, shows });
        set = merged(after);
    }
    let settle_ms = set.iter().map(Joint::settles_ms).max().unwrap_or(0);
    Some(Word { steps, cost, settle_ms })
}

#[cfg(test)]
mod tests {
    use super::super::tests::laws::any_profile;
    use super::super::timed::anything;
    use super::*;
    use crate::id::DeviceId;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(60))]

        /// The search for one device alone finds words of the same costs as that for groups of any size, from everything
        /// that can be under way.
        #[test]
        fn one_device_alone_is_brought_home_as_in_a_group(profile in any_profile(), input in 0u8..3) {
            let machine = Automaton::new(&profile);
            let input = input % u8::try_from(profile.inputs.len()).unwrap();
            let target = Target { on: Some(true), input: Some(input), ..Target::default() };
            let group = Group::single(DeviceId(uuid::Uuid::nil()), machine.clone());
            let sending = |_, _| Sending { ms: 100, medium: Medium::Ir };
            let start: Vec<Joint> = anything(&machine, &target).into_iter().map(|timed| Joint::of([timed])).collect();
            let (targets, spent) = ([target], Cell::new(0));
            let general = homing(&group, &targets, &|_, _| false, &sending, &spent);
            let slow = search::words(&general, &start, 400);
            let (alone, plain) = general.alone(&start).unwrap();
            let quick = alone.words(&plain, 2_000);
            match (slow, quick) {
                (Ok(slow), Ok(quick)) if slow.whole && quick.whole => {
                    let costs = |found: &Found<Move>| {
                        let mut costs: Vec<_> = found.words.iter().map(|(_, c)| (c.seen_ms, c.ms, c.sends)).collect();
                        costs.sort_unstable();
                        costs
                    };
                    prop_assert_eq!(costs(&slow), costs(&quick));
                }
                (Err(NoWord::Proved), quick) => prop_assert!(quick.is_err()),
                (slow, Err(NoWord::Proved)) => prop_assert!(slow.is_err()),
                // One of them was given up, or found more words than are kept.
                _ => {}
            }
        }
    }
}
