//! Words that bring every member of a set of states home, whatever the machine.
//!
//! The search walks *sets* of states in order of cost (Dijkstra over sets). A label says at what cost a
//! set was reached: time, time on each shared medium, transmissions. A label is dropped where another
//! one has reached the same set, or a set that it contains, at no greater cost in any of these, because
//! what brings a set home brings its subsets home too. Sets that differ in nothing but the time that is
//! left of something are compared by the moment at which that will be over: to wait and then to be where
//! another label is already is no gain. What is left at the end are the *non-dominated* words. Where the labels run out without reaching home, no word exists: that is a proof, not a
//! failure. The budget is a number of labels, so that results reproduce on any machine.

use super::automaton::Letter;
use crate::model::Medium;
use rustc_hash::{FxBuildHasher, FxHashMap};
use std::cmp::Reverse;
use std::collections::BinaryHeap;
use std::hash::{BuildHasher, Hash};
use std::rc::Rc;

/// How many labels are looked at before the search gives up.
pub const NODES: usize = 20_000;

/// How many states a label may hold on the average, each letter counted: a set of a hundred states is more work than one
/// of two.
const STATES_EACH: usize = 400;

/// What a label costs besides, counted in states.
const LABEL: usize = 60;

/// How many non-dominated words are kept.
const WORDS: usize = 12;

/// How many reached sets are compared for containment; it is an economy and changes no answer.
const COMPARED: usize = 300;

/// What a word costs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Cost {
    /// Time, in ms; at the end, until everything has settled.
    pub ms: u32,
    /// Time until it can be seen and heard, in ms: a device may settle for longer.
    pub seen_ms: u32,
    /// Time on each shared medium (infrared, radio), in ms.
    pub on_air_ms: [u32; 2],
    /// Transmissions.
    pub sends: u32,
}

impl Cost {
    fn plus(self, other: Self) -> Self {
        Self {
            ms: self.ms.saturating_add(other.ms),
            seen_ms: self.seen_ms.saturating_add(other.seen_ms),
            on_air_ms: [self.on_air_ms[0] + other.on_air_ms[0], self.on_air_ms[1] + other.on_air_ms[1]],
            sends: self.sends + other.sends,
        }
    }

    /// The same with a rest that has to settle after the last letter.
    fn with(self, rest: Rest) -> Self {
        Self {
            ms: self.ms.saturating_add(rest.settles_ms),
            seen_ms: self.seen_ms.saturating_add(rest.shows_ms),
            ..self
        }
    }

    fn no_greater(&self, other: &Self) -> bool {
        self.ms <= other.ms
            && self.seen_ms <= other.seen_ms
            && self.sends <= other.sends
            && self.on_air_ms[0] <= other.on_air_ms[0]
            && self.on_air_ms[1] <= other.on_air_ms[1]
    }
}

/// How long a letter takes to send, and on what.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Sending {
    /// In ms.
    pub ms: u32,
    /// On what.
    pub medium: Medium,
}

impl Sending {
    /// What it costs after a pause, in ms.
    pub(super) fn after(self, wait_ms: u32) -> Cost {
        let mut on_air_ms = [0; 2];
        match self.medium {
            Medium::Ir => on_air_ms[0] = self.ms,
            Medium::Rf433 => on_air_ms[1] = self.ms,
            _ => {}
        }
        Cost { ms: wait_ms + self.ms, seen_ms: wait_ms + self.ms, on_air_ms, sends: 1 }
    }
}

/// What can be sent to a group: to which member, what, and whether lists and couplings are waited out first.
pub(super) type Move = (usize, Letter, bool);

/// What is still under way in a set that is home.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Rest {
    /// Until everything has settled, in ms.
    pub settles_ms: u32,
    /// Until it can be seen and heard, in ms; never longer.
    pub shows_ms: u32,
}

/// Something that can be brought home.
pub trait Machine {
    /// Its states.
    type State: Clone + Ord + Hash;
    /// What can be sent to it.
    type Letter: Copy;

    /// What can be sent.
    fn letters(&self) -> &[Self::Letter];

    /// Every state that a member of `set` may be in after `letter`, sorted and without doubles, and what it
    /// costs; `None` where it would change nothing.
    fn apply(&self, set: &[Self::State], letter: Self::Letter) -> Option<(Vec<Self::State>, Cost)>;

    /// The set without the times that are left of things, and these times in a fixed order, in ms. Two sets
    /// that are equal in the first differ only in how long one has to wait.
    fn apart(&self, set: &[Self::State]) -> (Vec<Self::State>, Vec<u32>) {
        (set.to_vec(), vec![])
    }

    /// Hears how many states a step of the search sends a letter to.
    fn looked_at(&self, _states: usize) {}

    /// No word brings the set home sooner than in this time, in ms: what has to be waited for, whatever is sent.
    fn left(&self, _set: &[Self::State]) -> u32 {
        0
    }

    /// Is every member home, once it has settled? How long that takes at the latest.
    fn finish(&self, set: &[Self::State]) -> Option<Rest>;
}

/// Words, the quickest first.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Found<L> {
    /// The words with their costs, none dominated by another.
    pub words: Vec<(Vec<L>, Cost)>,
    /// Labels looked at.
    pub nodes: usize,
    /// Is it proved that no word is shorter than the first?
    pub shortest: bool,
    /// Are these all of the non-dominated ones?
    pub whole: bool,
}

/// Why there is no word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoWord {
    /// Every set that can be reached was looked at: none exists.
    Proved,
    /// The search was given up; one may exist.
    GaveUp,
}

struct Label<L> {
    /// What is left at least, in ms.
    left_ms: u32,
    /// Which set, and which of those known of it that differ in times; none for the end.
    set: Option<(usize, usize)>,
    cost: Cost,
    from: Option<(usize, L)>,
}

/// Everything that was reached of one set apart from its times.
struct Bucket<S> {
    sets: Vec<Rc<[S]>>,
    /// Costs, and the moments at which things will be over.
    reached: Vec<(Cost, Vec<u32>)>,
}

/// Is there nothing in which the second is better than the first?
fn dominates(first: &(Cost, Vec<u32>), second: &(Cost, Vec<u32>)) -> bool {
    first.0.no_greater(&second.0) && first.1.iter().zip(&second.1).all(|(first, second)| first <= second)
}

/// The non-dominated words from `start`; past `budget` labels, one found by merging pairs greedily.
///
/// # Errors
/// [`NoWord::Proved`] where none exists, [`NoWord::GaveUp`] where none was found.
pub fn words<M: Machine>(machine: &M, start: &[M::State], budget: usize) -> Result<Found<M::Letter>, NoWord> {
    let (found, nodes, exhausted) = search(machine, start, budget);
    if !found.is_empty() {
        let whole = exhausted && found.len() < WORDS;
        return Ok(Found { words: found, nodes, shortest: true, whole });
    }
    if exhausted {
        return Err(NoWord::Proved);
    }
    let (word, cost) = greedy(machine, start, budget).ok_or(NoWord::GaveUp)?;
    Ok(Found { words: vec![(word, cost)], nodes, shortest: false, whole: false })
}

/// The same, where the search ends within so many labels.
pub fn words_at_once<M: Machine>(
    machine: &M,
    start: &[M::State],
    budget: usize,
) -> Option<Result<Found<M::Letter>, NoWord>> {
    match search(machine, start, budget) {
        (_, _, false) => None,
        (found, _, true) if found.is_empty() => Some(Err(NoWord::Proved)),
        (words, nodes, true) => {
            let whole = words.len() < WORDS;
            Some(Ok(Found { words, nodes, shortest: true, whole }))
        }
    }
}

type Words<L> = Vec<(Vec<L>, Cost)>;

/// The words, how many labels were looked at, and whether nothing is left to look at.
fn search<M: Machine>(machine: &M, start: &[M::State], budget: usize) -> (Words<M::Letter>, usize, bool) {
    let mut search = Search::new(machine, start);
    let mut expanded: Vec<(usize, Moment)> = Vec::new();
    let mut found: Words<M::Letter> = Vec::new();
    let (mut nodes, mut work) = (0, 0);
    while let Some(Reverse((.., at))) = search.heap.pop() {
        let cost = search.labels[at].cost;
        let left_ms = search.labels[at].left_ms;
        let least = cost.with(Rest { settles_ms: left_ms, shows_ms: left_ms });
        if found.iter().any(|(_, best)| best.no_greater(&least)) {
            continue;
        }
        let Some((bucket, place)) = search.labels[at].set else {
            found.push((spell(&search.labels, at), cost));
            if found.len() >= WORDS {
                break;
            }
            continue;
        };
        let set = Rc::clone(&search.buckets[bucket].sets[place]);
        let own = (cost, machine.apart(&set).1.iter().map(|left| left + cost.ms).collect::<Vec<u32>>());
        if search.buckets[bucket].reached.iter().any(|other| *other != own && dominates(other, &own)) {
            continue;
        }
        let contains = |(other, best): &(usize, Moment)| {
            *other != bucket
                && best.0.no_greater(&cost)
                && may_contain(&search.marks[*other], &search.marks[bucket])
                && best.1.iter().all(|&over| over <= cost.ms)
                && is_subset(&search.keys[*other], &search.keys[bucket])
        };
        if expanded.iter().any(contains) {
            continue;
        }
        nodes += 1;
        let states = set.len() * machine.letters().len();
        machine.looked_at(states + LABEL);
        work += states;
        if nodes > budget || work > budget.saturating_mul(STATES_EACH) {
            return (found, nodes, false);
        }
        if expanded.len() < COMPARED {
            expanded.push((bucket, own));
        }
        search.expand(machine, at, &set);
    }
    (found, nodes, true)
}

/// What a set cost, and the moments at which things in it will be over.
type Moment = (Cost, Vec<u32>);

/// What has been reached, and what is still to be looked at.
struct Search<M: Machine> {
    /// Where the sets apart from their times stand in `buckets` and `keys`.
    known: FxHashMap<Rc<[M::State]>, usize>,
    keys: Vec<Rc<[M::State]>>,
    /// For each of them which states it holds, roughly.
    marks: Vec<Marks>,
    buckets: Vec<Bucket<M::State>>,
    labels: Vec<Label<M::Letter>>,
    heap: BinaryHeap<Reverse<(u32, u32, u32, usize)>>,
}

impl<M: Machine> Search<M> {
    fn new(machine: &M, start: &[M::State]) -> Self {
        let mut start = start.to_vec();
        start.sort();
        start.dedup();
        let (key, times) = machine.apart(&start);
        let key: Rc<[M::State]> = key.into();
        Self {
            known: FxHashMap::from_iter([(Rc::clone(&key), 0)]),
            marks: vec![marks(&key)],
            keys: vec![key],
            buckets: vec![Bucket { sets: vec![start.into()], reached: vec![(Cost::default(), times)] }],
            labels: vec![Label { left_ms: 0, set: Some((0, 0)), cost: Cost::default(), from: None }],
            heap: BinaryHeap::from([Reverse((0, 0, 0, 0))]),
        }
    }

    fn push(&mut self, label: Label<M::Letter>) {
        let cost = label.cost;
        self.heap.push(Reverse((
            cost.seen_ms.saturating_add(label.left_ms),
            cost.sends,
            cost.on_air_ms[0] + cost.on_air_ms[1],
            self.labels.len(),
        )));
        self.labels.push(label);
    }

    /// Everything that follows from a set: being done with it, and each key.
    fn expand(&mut self, machine: &M, at: usize, set: &[M::State]) {
        let (cost, from) = (self.labels[at].cost, self.labels[at].from);
        if let Some(rest) = machine.finish(set) {
            self.push(Label { left_ms: 0, set: None, cost: cost.with(rest), from });
        }
        for &letter in machine.letters() {
            let Some((after, price)) = machine.apply(set, letter) else { continue };
            let next = cost.plus(price);
            let (key, times) = machine.apart(&after);
            let index = match self.known.get(&key[..]) {
                Some(&index) => index,
                None => {
                    let key: Rc<[M::State]> = key.into();
                    self.marks.push(marks(&key));
                    self.keys.push(Rc::clone(&key));
                    self.buckets.push(Bucket { sets: vec![], reached: vec![] });
                    self.known.insert(key, self.buckets.len() - 1);
                    self.buckets.len() - 1
                }
            };
            let own = (next, times.iter().map(|left| left + next.ms).collect::<Vec<u32>>());
            let bucket = &mut self.buckets[index];
            if bucket.reached.iter().any(|other| dominates(other, &own)) {
                continue;
            }
            bucket.reached.retain(|other| !dominates(&own, other));
            bucket.reached.push(own);
            let left_ms = machine.left(&after);
            bucket.sets.push(after.into());
            let place = bucket.sets.len() - 1;
            self.push(Label { left_ms, set: Some((index, place)), cost: next, from: Some((at, letter)) });
        }
    }
}

/// One bit a state, several states a bit.
type Marks = [u64; 4];

fn marks<S: Hash>(set: &[S]) -> Marks {
    let mut marks = [0; 4];
    for state in set {
        let hash = FxBuildHasher.hash_one(state);
        // The upper bits of this hash are the better ones.
        let bit = hash >> 56;
        marks[usize::from((bit >> 6) as u8)] |= 1 << (bit & 63);
    }
    marks
}

/// May the first set be a part of the second? A *no* is sure.
fn may_contain(part: &Marks, whole: &Marks) -> bool {
    part.iter().zip(whole).all(|(part, whole)| part & !whole == 0)
}

fn spell<L: Copy>(labels: &[Label<L>], mut at: usize) -> Vec<L> {
    let mut word = Vec::new();
    while let Some((from, letter)) = labels[at].from {
        word.push(letter);
        at = from;
    }
    word.reverse();
    word
}

fn is_subset<T: Ord>(part: &[T], whole: &[T]) -> bool {
    let mut rest = whole.iter();
    part.len() <= whole.len() && part.iter().all(|member| rest.find(|other| *other >= member) == Some(member))
}

/// Merges pairs until one state is left, then brings it home. The word is right, but perhaps not shortest.
fn greedy<M: Machine>(machine: &M, start: &[M::State], budget: usize) -> Option<(Vec<M::Letter>, Cost)> {
    let (mut set, mut word, mut cost) = (start.to_vec(), Vec::new(), Cost::default());
    for _ in 0..start.len() * 2 {
        if let Some(rest) = machine.finish(&set) {
            return Some((word, cost.with(rest)));
        }
        let part = if set.len() > 2 { &set[..2] } else { &set[..] };
        let (found, ..) = search(machine, part, budget / 10);
        let (letters, _) = found.into_iter().next()?;
        if letters.is_empty() {
            // This pair is home; the others are not. Start from the other end.
            set.reverse();
            let part = if set.len() > 2 { &set[..2] } else { &set[..] };
            let (found, ..) = search(machine, part, budget / 10);
            let (letters, _) = found.into_iter().next()?;
            if letters.is_empty() {
                return None;
            }
            (set, cost) = spelled(machine, &set, &letters, cost);
            word.extend(letters);
            continue;
        }
        (set, cost) = spelled(machine, &set, &letters, cost);
        word.extend(letters);
    }
    None
}

fn spelled<M: Machine>(machine: &M, set: &[M::State], word: &[M::Letter], mut cost: Cost) -> (Vec<M::State>, Cost) {
    let mut set = set.to_vec();
    for &letter in word {
        if let Some((after, price)) = machine.apply(&set, letter) {
            (set, cost) = (after, cost.plus(price));
        }
    }
    (set, cost)
}

/// States that cannot be brought home together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Obstacle<S> {
    /// The states.
    pub states: Vec<S>,
    /// Was it proved that every smaller part of them can be? Where a search was given up, fewer may do.
    pub minimal: bool,
}

/// What a search for one set came to.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Way {
    Found,
    None,
    /// The budget ended it.
    Unknown,
}

/// How many searches of the full budget are spent on the reason why there is no way.
const SEARCHES: usize = 4;

/// Pairs that are tried in order; no more than a page can wait for.
const PAIRS: usize = 2_000;

/// States of `start` that cannot be brought home together: a single one or a pair, where there is one, else a set of
/// which every smaller part can be. `None` where the search cannot tell.
pub fn obstacle<M: Machine>(machine: &M, start: &[M::State], budget: usize) -> Option<Obstacle<M::State>> {
    // What all searches together may look at.
    let mut left = budget * SEARCHES;
    let mut way = |set: &[M::State]| {
        if left == 0 {
            return Way::Unknown;
        }
        let (found, nodes, exhausted) = search(machine, set, budget.min(left));
        left = left.saturating_sub(nodes);
        match (found.is_empty(), exhausted) {
            (false, _) => Way::Found,
            (true, true) => Way::None,
            (true, false) => Way::Unknown,
        }
    };
    let mut sure = true;
    for state in start {
        match way(std::slice::from_ref(state)) {
            Way::None => return Some(Obstacle { states: vec![state.clone()], minimal: true }),
            Way::Unknown => sure = false,
            Way::Found => {}
        }
    }
    let pairs =
        start.iter().enumerate().flat_map(|(at, first)| start[at + 1..].iter().map(move |second| (first, second)));
    for (first, second) in pairs.take(PAIRS) {
        let pair = [first.clone(), second.clone()];
        match way(&pair) {
            Way::None => return Some(Obstacle { states: pair.to_vec(), minimal: sure }),
            Way::Unknown => break,
            Way::Found => {}
        }
    }
    let mut set = start.to_vec();
    if way(&set) != Way::None {
        return None;
    }
    let (mut at, mut minimal) = (0, true);
    while at < set.len() {
        let mut smaller = set.clone();
        smaller.remove(at);
        match way(&smaller) {
            Way::None => set = smaller,
            left => {
                // A part of which nothing is known is not called harmless.
                minimal &= left == Way::Found;
                at += 1;
            }
        }
    }
    Some(Obstacle { states: set, minimal })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    /// A machine given as a table: `keys[k][s]` is where key k leads from state s; every key costs 1.
    struct Table {
        keys: Vec<Vec<usize>>,
        letters: Vec<usize>,
        goal: Vec<usize>,
    }

    impl Table {
        fn new(keys: Vec<Vec<usize>>, goal: Vec<usize>) -> Self {
            Self { letters: (0..keys.len()).collect(), keys, goal }
        }
    }

    impl Machine for Table {
        type State = usize;
        type Letter = usize;

        fn letters(&self) -> &[usize] {
            &self.letters
        }

        fn apply(&self, set: &[usize], letter: usize) -> Option<(Vec<usize>, Cost)> {
            let mut after: Vec<usize> = set.iter().map(|&state| self.keys[letter][state]).collect();
            after.sort_unstable();
            after.dedup();
            Some((after, Cost { ms: 1, seen_ms: 1, on_air_ms: [0, 0], sends: 1 }))
        }

        fn finish(&self, set: &[usize]) -> Option<Rest> {
            set.iter().all(|state| self.goal.contains(state)).then_some(Rest::default())
        }
    }

    /// The automaton C_n of Černý: one key turns the circle, the other moves a single state on. Its shortest
    /// synchronising word has length (n − 1)² [Černý 1964], whatever the state that it ends in.
    #[rstest]
    #[case(3, 4)]
    #[case(4, 9)]
    #[case(5, 16)]
    #[case(6, 25)]
    fn the_automaton_of_cerny_takes_the_square(#[case] n: usize, #[case] expected: usize) {
        let turn = (0..n).map(|state| (state + 1) % n).collect();
        let step = (0..n).map(|state| if state == n - 1 { 0 } else { state }).collect();
        let lengths = (0..n).map(|goal| {
            let machine = Table::new(vec![Vec::clone(&turn), Vec::clone(&step)], vec![goal]);
            words(&machine, &(0..n).collect::<Vec<_>>(), NODES).unwrap().words[0].0.len()
        });
        assert_eq!(lengths.min(), Some(expected));
    }

    /// Found by a random search: three keys on five states. Every two of the first three states can be brought to
    /// the last one together, the three cannot.
    #[test]
    fn pairs_do_not_suffice() {
        let keys = vec![vec![4, 4, 0, 1, 0], vec![0, 2, 4, 2, 4], vec![4, 0, 4, 4, 0]];
        let machine = Table::new(keys, vec![4]);
        for pair in [[0, 1], [0, 2], [1, 2]] {
            assert!(words(&machine, &pair, NODES).is_ok(), "{pair:?}");
        }
        assert_eq!(words(&machine, &[0, 1, 2], NODES).unwrap_err(), NoWord::Proved);
        assert_eq!(obstacle(&machine, &[0, 1, 2], NODES), Some(Obstacle { states: vec![0, 1, 2], minimal: true }));
    }

    #[test]
    fn an_obstacle_of_two_is_named_as_two() {
        // Two states that no key brings together, and one that is home.
        let machine = Table::new(vec![vec![1, 0, 2]], vec![2]);
        assert_eq!(
            obstacle(&machine, &[0, 1, 2], NODES).map(|found| found.states.len()),
            Some(1),
            "alone they cannot either"
        );
        let machine = Table::new(vec![vec![1, 0]], vec![1]);
        assert_eq!(obstacle(&machine, &[0, 1], NODES), Some(Obstacle { states: vec![0, 1], minimal: true }));
    }

    #[test]
    fn past_the_budget_pairs_are_merged_and_that_is_said() {
        let n = 7;
        let turn = (0..n).map(|state| (state + 1) % n).collect();
        let step = (0..n).map(|state| if state == n - 1 { 0 } else { state }).collect();
        let machine = Table::new(vec![turn, step], vec![0]);
        let all: Vec<usize> = (0..n).collect();
        let found = words(&machine, &all, 60);
        if let Ok(found) = found {
            assert!(!found.shortest && found.words[0].0.len() >= (n - 1) * (n - 1));
            let end = found.words[0].0.iter().fold(all, |set, &letter| machine.apply(&set, letter).unwrap().0);
            assert_eq!(end, [0]);
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(120))]

        /// A word brings all home, and what is known better is never slower.
        #[test]
        fn knowing_more_is_never_slower(
            keys in prop::collection::vec(prop::collection::vec(0usize..6, 6), 1..4),
            goal in 0usize..6,
            known in prop::collection::btree_set(0usize..6, 1..4),
        ) {
            let machine = Table::new(keys, vec![goal]);
            let all: Vec<usize> = (0..6).collect();
            let part: Vec<usize> = known.into_iter().collect();
            if let Ok(whole) = words(&machine, &all, NODES) {
                let less = words(&machine, &part, NODES).unwrap();
                prop_assert!(less.words[0].1.ms <= whole.words[0].1.ms);
                let end = less.words[0].0.iter().fold(part, |set, &letter| machine.apply(&set, letter).unwrap().0);
                prop_assert_eq!(end, vec![goal]);
            }
        }
    }
}
