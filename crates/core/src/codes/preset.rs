//! Which of several code sets does a device follow? Each press of a function splits the sets: those that
//! hold the code that was sent, and those that do not. [`tell_apart`] finds the presses that leave one set
//! with the fewest of them in the worst case, and ranks the sets on the way.
//!
//! With up to [`EXACT`] sets the plan is exact (dynamic programming over subsets); beyond that the press
//! that halves the sets best is taken each time, and that is said.

use crate::id::CodeSetId;
use crate::model::CodeSet;
use fixedbitset::FixedBitSet;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use utoipa::ToSchema;

/// How many sets are told apart exactly.
pub const EXACT: usize = 12;

/// What one press showed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Tried {
    /// The function that was sent.
    pub function: String,
    /// What was sent, in words.
    pub sent: String,
    /// Did the device do as the function says?
    pub worked: bool,
}

/// A press to make next.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct NextPress {
    /// The function.
    pub function: String,
    /// The set whose code is sent.
    pub set: CodeSetId,
    /// What is sent, in words.
    pub sent: String,
    /// How many sets stay if it works.
    pub if_works: usize,
    /// How many sets stay if it does not.
    pub if_not: usize,
}

/// How far the sets are told apart.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Ranking {
    /// Every set, the likeliest first: how many presses speak for and against it.
    pub sets: Vec<Ranked>,
    /// The press to make next; none where one set is left or the rest cannot be told apart.
    pub next: Option<NextPress>,
    /// How many more presses there are in the worst case.
    pub presses_left: usize,
    /// Is that the least possible?
    pub exact: bool,
    /// In a sentence.
    pub why: String,
}

/// One set in the ranking.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Ranked {
    /// The set.
    pub set: CodeSetId,
    /// Its name.
    pub name: String,
    /// Presses that speak for it.
    pub fits: usize,
    /// Presses that speak against it.
    pub against: usize,
    /// How many functions that work for the device it could bring.
    pub keys: usize,
}

/// Does a set agree with a trial?
fn agrees(set: &CodeSet, trial: &Tried) -> Option<bool> {
    let own = set.key(&trial.function)?.body.key_words()?;
    Some((own == trial.sent) == trial.worked)
}

/// Ranks sets by what was tried, and finds the press that tells the rest apart.
#[must_use]
pub fn tell_apart(sets: &[CodeSet], trials: &[Tried]) -> Ranking {
    let mut ranked: Vec<Ranked> = sets
        .iter()
        .map(|set| {
            let votes: Vec<bool> = trials.iter().filter_map(|trial| agrees(set, trial)).collect();
            Ranked {
                set: set.id,
                name: set.name.clone(),
                fits: votes.iter().filter(|fits| **fits).count(),
                against: votes.iter().filter(|fits| !**fits).count(),
                keys: set.keys.len(),
            }
        })
        .collect();
    ranked.sort_by_key(|one| (one.against, std::cmp::Reverse((one.fits, one.keys)), one.set));
    let left: Vec<&CodeSet> =
        sets.iter().filter(|set| ranked.iter().any(|one| one.set == set.id && one.against == 0)).collect();
    let tried: BTreeSet<(String, String)> =
        trials.iter().map(|t| (t.function.to_lowercase(), t.sent.clone())).collect();
    let presses: Vec<Candidate> = candidates(&left)
        .into_iter()
        .filter(|c| !tried.contains(&(c.function.to_lowercase(), c.sent.clone())))
        .collect();
    let exact = left.len() <= EXACT;
    let (presses_left, best) = if exact {
        let masks = presses.iter().map(|press| press.with.ones().fold(0, |mask, at| mask | 1 << at)).collect();
        Exact { presses: masks, known: HashMap::new() }.solve((1 << left.len()) - 1)
    } else {
        let best = presses.iter().enumerate().min_by_key(|(_, c)| c.worse(left.len())).map(|(at, _)| at);
        (usize::try_from(usize::BITS - left.len().leading_zeros()).unwrap_or(0), best)
    };
    let next = best.filter(|_| left.len() > 1).map(|at| &presses[at]).map(|press| NextPress {
        function: press.function.clone(),
        set: left[press.with.minimum().unwrap_or(0)].id,
        sent: press.sent.clone(),
        if_works: press.holding(),
        if_not: left.len() - press.holding(),
    });
    let why = match (left.len(), &next) {
        (0, _) => "No set agrees with what was tried. Learn the keys, or try another set.".to_owned(),
        (1, _) => format!("Only “{}” agrees with what was tried.", left[0].name),
        (n, None) => format!(
            "{n} sets agree, and no press can tell them apart: they hold the same codes for the same functions."
        ),
        (n, Some(_)) => format!(
            "{n} sets agree so far; {presses_left} more {} tell them apart at most.",
            if presses_left == 1 { "press" } else { "presses" }
        ),
    };
    Ranking { sets: ranked, next, presses_left, exact, why }
}

/// A press: which of the sets that are left hold what is sent.
struct Candidate {
    function: String,
    sent: String,
    /// Places in the list of sets.
    with: FixedBitSet,
}

impl Candidate {
    /// How many sets hold what is sent.
    fn holding(&self) -> usize {
        self.with.count_ones(..)
    }

    /// How many sets stay of so many in the worse case.
    fn worse(&self, sets: usize) -> usize {
        self.holding().max(sets - self.holding())
    }
}

/// Every press that tells some of the sets apart. A set that lacks the function says nothing and counts
/// as not holding the code.
fn candidates(sets: &[&CodeSet]) -> Vec<Candidate> {
    let mut with: BTreeMap<(String, String), (String, FixedBitSet)> = BTreeMap::new();
    for (at, set) in sets.iter().enumerate() {
        for key in &set.keys {
            if let Some(words) = key.body.key_words() {
                let empty = || (key.name.clone(), FixedBitSet::with_capacity(sets.len()));
                with.entry((key.name.to_lowercase(), words)).or_insert_with(empty).1.insert(at);
            }
        }
    }
    let mut presses: Vec<Candidate> = with
        .into_iter()
        .filter(|(_, (_, holding))| !holding.is_full())
        .map(|((_, sent), (function, with))| Candidate { function, sent, with })
        .collect();
    // Of presses that tell as much the one that is easiest to see: power first, as the vocabulary has it.
    presses.sort_by_key(|press| super::vocabulary::rank(&press.function));
    presses
}

/// The fewest presses in the worst case.
struct Exact {
    /// Of each press, the sets that hold what is sent, a bit each.
    presses: Vec<u64>,
    known: HashMap<u64, (usize, Option<usize>)>,
}

impl Exact {
    fn solve(&mut self, left: u64) -> (usize, Option<usize>) {
        if left.count_ones() <= 1 {
            return (0, None);
        }
        if let Some(known) = self.known.get(&left) {
            return *known;
        }
        // Nothing can do better than halving every time.
        let floor = (u64::BITS - (u64::from(left.count_ones()) - 1).leading_zeros()) as usize;
        let mut best: (usize, Option<usize>) = (0, None);
        for at in 0..self.presses.len() {
            let with = self.presses[at] & left;
            if with == 0 || with == left {
                continue;
            }
            let worst = 1 + self.solve(with).0.max(self.solve(left & !with).0);
            if best.1.is_none() || worst < best.0 {
                best = (worst, Some(at));
            }
            if best.1.is_some() && best.0 <= floor {
                break;
            }
        }
        self.known.insert(left, best);
        best
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::{CodeBody, Press, SetKey};
    use kestrel_signal::{Message, ProtocolId};
    use uuid::Uuid;

    /// Sets that hold the given commands for functions A, B, C, …; 0 leaves one out.
    fn set(number: u128, commands: &[u32]) -> CodeSet {
        let key = |(at, &command): (usize, &u32)| {
            let message = Message::new(ProtocolId::Nec, [("address", 1), ("command", command)]).ok()?;
            let name = char::from(b'A' + u8::try_from(at).ok()?).to_string();
            (command > 0).then(|| SetKey { name, press: Press::default(), body: CodeBody::of(message) })
        };
        CodeSet {
            id: CodeSetId(Uuid::from_u128(number)),
            name: format!("Set {number}"),
            kind: None,
            source: String::new(),
            keys: commands.iter().enumerate().filter_map(key).collect(),
        }
    }

    #[test]
    fn no_set_is_passed_over_however_many_there_are() {
        // A hundred sets that share one code; only the last ten have another one for A, and one of them alone for B.
        let sets: Vec<CodeSet> =
            (0..100).map(|n| set(n, &[if n < 90 { 5 } else { 6 }, if n == 99 { 8 } else { 7 }])).collect();
        let first = tell_apart(&sets, &[]);
        assert_eq!((first.exact, first.next.as_ref().map(|next| next.if_works + next.if_not)), (false, Some(100)));
        let trial =
            |function: &str, command: u32| Tried { function: function.to_owned(), sent: words(command), worked: true };
        let ten = tell_apart(&sets, &[trial("A", 6)]);
        let next = ten.next.as_ref().map(|next| (next.function.as_str(), next.if_works.min(next.if_not)));
        assert_eq!((ten.exact, next), (true, Some(("B", 1))));
        let last = tell_apart(&sets, &[trial("A", 6), trial("B", 8)]);
        assert_eq!((last.sets[0].set, last.why.as_str()), (sets[99].id, "Only “Set 99” agrees with what was tried."));
    }

    fn words(command: u32) -> String {
        format!("nec address=1 command={command}")
    }

    #[test]
    fn four_sets_are_told_apart_with_two_presses() {
        // A splits them in halves, B splits each half.
        let sets = [set(1, &[1, 1]), set(2, &[1, 2]), set(3, &[2, 1]), set(4, &[2, 2])];
        let ranking = tell_apart(&sets, &[]);
        assert_eq!((ranking.presses_left, ranking.exact), (2, true));
        let next = ranking.next.unwrap();
        assert_eq!((next.if_works, next.if_not), (2, 2));
    }

    #[test]
    fn sets_that_all_differ_in_one_function_need_one_press_less_than_there_are() {
        let sets = [set(1, &[1]), set(2, &[2]), set(3, &[3])];
        assert_eq!(tell_apart(&sets, &[]).presses_left, 2);
    }

    #[test]
    fn what_was_tried_rules_sets_out_and_ranks_the_rest() {
        let sets = [set(1, &[1, 1]), set(2, &[1, 2]), set(3, &[2, 2])];
        let trials = [Tried { function: "a".to_owned(), sent: words(1), worked: true }];
        let ranking = tell_apart(&sets, &trials);
        let order: Vec<(&str, usize)> = ranking.sets.iter().map(|one| (one.name.as_str(), one.against)).collect();
        assert_eq!(order, [("Set 1", 0), ("Set 2", 0), ("Set 3", 1)]);
        assert_eq!(ranking.next.unwrap().function, "B");
    }

    #[test]
    fn one_set_left_needs_no_more_presses() {
        let sets = [set(1, &[1]), set(2, &[2])];
        let trials = [Tried { function: "A".to_owned(), sent: words(1), worked: false }];
        let ranking = tell_apart(&sets, &trials);
        assert_eq!((ranking.presses_left, ranking.next), (0, None));
        assert!(ranking.why.contains("Only “Set 2”"));
    }

    #[test]
    fn equal_sets_cannot_be_told_apart_and_that_is_said() {
        let ranking = tell_apart(&[set(1, &[1]), set(2, &[1])], &[]);
        assert_eq!(ranking.next, None);
        assert!(ranking.why.contains("no press can tell them apart"));
    }

    #[test]
    fn no_set_that_agrees_says_so() {
        let trials = [Tried { function: "A".to_owned(), sent: words(1), worked: false }];
        assert!(tell_apart(&[set(1, &[1])], &trials).why.contains("No set agrees"));
        assert!(tell_apart(&[], &[]).next.is_none());
    }

    /// By brute force over all orders of presses, for three functions and up to five sets.
    #[test]
    fn the_number_of_presses_is_the_least_there_is() {
        fn least(left: &[usize], sets: &[Vec<u32>]) -> usize {
            if left.len() <= 1 {
                return 0;
            }
            let mut best = usize::MAX;
            for function in 0..3 {
                for command in 1..4 {
                    let (with, without): (Vec<usize>, Vec<usize>) =
                        left.iter().partition(|&&at| sets[at][function] == command);
                    if !with.is_empty() && !without.is_empty() {
                        best = best.min(1 + least(&with, sets).max(least(&without, sets)));
                    }
                }
            }
            best
        }
        let mut state = 12_345u32;
        for _ in 0..60 {
            let mut commands: Vec<Vec<u32>> = Vec::new();
            while commands.len() < 5 {
                let row: Vec<u32> = (0..3)
                    .map(|_| {
                        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                        1 + (state >> 20) % 3
                    })
                    .collect();
                if !commands.contains(&row) {
                    commands.push(row);
                }
            }
            let sets: Vec<CodeSet> = (1..).zip(&commands).map(|(number, row)| set(number, row)).collect();
            let all: Vec<usize> = (0..5).collect();
            assert_eq!(tell_apart(&sets, &[]).presses_left, least(&all, &commands), "{commands:?}");
        }
    }
}
