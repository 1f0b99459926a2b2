//! The round: the switches of a room that are open or stale, in the order that takes the least time.
//!
//! It is a directed rural postman problem from off to off: every wanted switch is walked once, and others connect them where
//! they are needed. A switch costs the time until everything has settled and has been looked at, so that it does not depend
//! on what came before. Without further switches the wanted ones are balanced by a cheapest assignment (a situation that is
//! entered more often than left gets switches that leave it); where that hangs together, no shorter round exists. Where it
//! falls apart, connections are tried one after another, cheapest bound first; the bound of what was not looked at is told.

use pathfinding::matrix::Matrix;
use pathfinding::prelude::kuhn_munkres_min;
use std::cmp::Reverse;
use std::collections::{BTreeSet, BinaryHeap};

/// A round.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Round {
    /// The situations in the order in which they are visited: the first and the last is the start.
    pub stops: Vec<usize>,
    /// What it takes.
    pub cost: u64,
    /// No round takes less.
    pub bound: u64,
}

/// Sets of connections that are looked at before the gap is told.
const LOOKS: usize = 4_000;

/// The cheapest closed walk from `start` that takes every wanted arc. `cost[i][j]` is that of the arc from i to j; none where
/// there is no such arc. None where there is no such walk.
#[must_use]
pub fn round(cost: &[Vec<Option<u64>>], wanted: &[(usize, usize)], start: usize) -> Option<Round> {
    round_within(cost, wanted, start, LOOKS)
}

/// The same, with so many sets of connections before the search is narrowed.
fn round_within(cost: &[Vec<Option<u64>>], wanted: &[(usize, usize)], start: usize, looks: usize) -> Option<Round> {
    if wanted.is_empty() {
        return Some(Round { stops: vec![start], cost: 0, bound: 0 });
    }
    let n = cost.len();
    let ways = shortest(cost);
    let own: u64 = wanted.iter().map(|&(a, b)| cost[a][b]).sum::<Option<u64>>()?;
    // Best first: a set of connections with the assignment that balances them.
    let mut open = BinaryHeap::new();
    let mut seen = BTreeSet::new();
    let push = |open: &mut BinaryHeap<_>, extra: Vec<(usize, usize)>| {
        if let Some((total, arcs)) = balanced(&ways, wanted, &extra, n) {
            open.push((Reverse(total), Reverse(extra), arcs));
        }
    };
    push(&mut open, vec![]);
    let mut looked = 0;
    let mut bound = 0;
    while let Some((Reverse(total), Reverse(extra), arcs)) = open.pop() {
        looked += 1;
        // The cheapest of what is open bounds all that was not looked at, as long as nothing was left out.
        if looked <= looks {
            bound = total;
        }
        let all: Vec<(usize, usize)> = wanted.iter().chain(&arcs).copied().collect();
        let part = reached(&all, start, n);
        let outside = |&(a, _): &(usize, usize)| !part.contains(&a);
        if !all.iter().any(outside) {
            let stops = walk(&arcs, wanted, &ways, start, n)?;
            return Some(Round { stops, cost: own + total, bound: own + bound });
        }
        // Some arc must lead out of what hangs together with the start, to something that is wanted.
        let goals: BTreeSet<usize> = all.iter().filter(|arc| outside(arc)).flat_map(|&(a, b)| [a, b]).collect();
        let mut next: Vec<(u64, (usize, usize))> = Vec::new();
        for &from in &part {
            for &to in &goals {
                if let Some(way) = ways[from][to].as_ref() {
                    next.push((way.0, (from, to)));
                }
            }
        }
        next.sort_unstable();
        // Late in the search only the cheapest connection is followed: the bound stays that of what was left.
        let width = if looked >= looks { 1 } else { next.len() };
        for (_, arc) in next.into_iter().take(width) {
            let mut more = extra.clone();
            more.push(arc);
            more.sort_unstable();
            if seen.insert(more.clone()) {
                push(&mut open, more);
            }
        }
    }
    None
}

type Ways = Vec<Vec<Option<(u64, usize)>>>;

/// The cheapest way between any two situations, and its first stop (Floyd and Warshall).
fn shortest(cost: &[Vec<Option<u64>>]) -> Ways {
    let n = cost.len();
    let mut ways: Ways =
        cost.iter().map(|row| row.iter().enumerate().map(|(to, cost)| cost.map(|cost| (cost, to))).collect()).collect();
    for middle in 0..n {
        for from in 0..n {
            for to in 0..n {
                let (Some((first, stop)), Some((second, _))) = (ways[from][middle], ways[middle][to]) else { continue };
                if from != to && ways[from][to].is_none_or(|(known, _)| first + second < known) {
                    ways[from][to] = Some((first + second, stop));
                }
            }
        }
    }
    ways
}

/// The cheapest connections, those of `extra` among them, with which every situation is left as often as it is entered.
fn balanced(
    ways: &Ways,
    wanted: &[(usize, usize)],
    extra: &[(usize, usize)],
    n: usize,
) -> Option<(u64, Vec<(usize, usize)>)> {
    let mut surplus = vec![0_i64; n];
    for &(from, to) in wanted.iter().chain(extra) {
        surplus[from] -= 1;
        surplus[to] += 1;
    }
    let mut total: u64 = extra.iter().map(|&(from, to)| ways[from][to].map(|way| way.0)).sum::<Option<u64>>()?;
    let many = |sign: i64| -> Vec<usize> {
        let of = |(at, &by): (usize, &i64)| std::iter::repeat_n(at, usize::try_from(by * sign).unwrap_or(0));
        surplus.iter().enumerate().flat_map(of).collect()
    };
    let (leave, enter) = (many(1), many(-1));
    let mut arcs = extra.to_vec();
    if !leave.is_empty() {
        const NONE: i64 = 1_000_000_000_000;
        let price = |from: usize, to: usize| ways[from][to].map_or(NONE, |way| i64::try_from(way.0).unwrap_or(NONE));
        let rows = leave.iter().map(|&from| enter.iter().map(|&to| price(from, to)).collect::<Vec<_>>());
        let (sum, chosen) = kuhn_munkres_min(&Matrix::from_rows(rows).ok()?);
        if sum >= NONE {
            return None;
        }
        total += u64::try_from(sum).ok()?;
        arcs.extend(chosen.into_iter().zip(&leave).map(|(to, &from)| (from, enter[to])));
    }
    Some((total, arcs))
}

/// What hangs together with the start, whichever way the arcs point: with all arcs balanced, that is as good as a way.
fn reached(arcs: &[(usize, usize)], start: usize, n: usize) -> BTreeSet<usize> {
    let mut part = BTreeSet::from([start]);
    for _ in 0..n {
        for &(a, b) in arcs {
            if part.contains(&a) || part.contains(&b) {
                part.extend([a, b]);
            }
        }
    }
    part
}

/// An Eulerian tour through all arcs (Hierholzer), connections walked by their cheapest ways.
fn walk(arcs: &[(usize, usize)], wanted: &[(usize, usize)], ways: &Ways, start: usize, n: usize) -> Option<Vec<usize>> {
    let mut out: Vec<Vec<(usize, bool)>> = vec![vec![]; n];
    for &(from, to) in wanted {
        out[from].push((to, true));
    }
    for &(from, to) in arcs {
        out[from].push((to, false));
    }
    // What is wanted is walked first, in the order of the room.
    out.iter_mut().for_each(|list| list.sort_by_key(|&(to, own)| (own, Reverse(to))));
    let mut stack = vec![(start, true)];
    let mut tour = Vec::new();
    while let Some(&(at, own)) = stack.last() {
        match out[at].pop() {
            Some(next) => stack.push(next),
            None => {
                tour.push((at, own));
                stack.pop();
            }
        }
    }
    tour.reverse();
    let mut stops = vec![tour.first()?.0];
    for pair in tour.windows(2) {
        let ((mut at, _), (to, own)) = (pair[0], pair[1]);
        if own {
            stops.push(to);
            continue;
        }
        while at != to {
            at = ways[at][to]?.1;
            stops.push(at);
        }
    }
    Some(stops)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    type Costs = Vec<Vec<Option<u64>>>;

    fn complete(n: usize, of: impl Fn(usize, usize) -> u64) -> Costs {
        (0..n).map(|a| (0..n).map(|b| (a != b).then(|| of(a, b))).collect()).collect()
    }

    fn every(n: usize) -> Vec<(usize, usize)> {
        (0..n).flat_map(|a| (0..n).filter(move |&b| b != a).map(move |b| (a, b))).collect()
    }

    /// Walks the stops: what it costs, and what it takes of the wanted.
    fn walked(cost: &Costs, stops: &[usize]) -> (u64, BTreeSet<(usize, usize)>) {
        let arcs: Vec<(usize, usize)> = stops.windows(2).map(|pair| (pair[0], pair[1])).collect();
        (arcs.iter().map(|&(a, b)| cost[a][b].unwrap()).sum(), arcs.into_iter().collect())
    }

    /// The cheapest by trying every order of the wanted arcs.
    fn by_force(cost: &Costs, wanted: &[(usize, usize)], start: usize) -> Option<u64> {
        let ways = shortest(cost);
        let between = |a: usize, b: usize| if a == b { Some(0) } else { ways[a][b].map(|way| way.0) };
        fn go(
            at: usize,
            left: &[(usize, usize)],
            start: usize,
            between: &dyn Fn(usize, usize) -> Option<u64>,
            cost: &Costs,
        ) -> Option<u64> {
            if left.is_empty() {
                return between(at, start);
            }
            let each = (0..left.len()).filter_map(|next| {
                let (from, to) = left[next];
                let mut rest = left.to_vec();
                rest.swap_remove(next);
                Some(between(at, from)? + cost[from][to]? + go(to, &rest, start, between, cost)?)
            });
            each.min()
        }
        go(start, wanted, start, &between, cost)
    }

    /// On a complete graph with every switch wanted nothing has to be walked twice: it is Eulerian.
    #[rstest]
    #[case(2)]
    #[case(4)]
    #[case(12)]
    fn all_switches_of_a_room_take_their_sum(#[case] n: usize) {
        let cost = complete(n, |a, b| 10 + 7 * a as u64 + 3 * b as u64);
        let wanted = every(n);
        let sum: u64 = wanted.iter().map(|&(a, b)| cost[a][b].unwrap()).sum();
        let found = round(&cost, &wanted, 0).unwrap();
        assert_eq!((found.cost, found.bound), (sum, sum));
        let (took, arcs) = walked(&cost, &found.stops);
        assert_eq!((took, arcs.len()), (sum, wanted.len()));
    }

    #[test]
    fn two_islands_are_joined_by_the_cheapest_bridge() {
        // 1 ⇄ 2 and 3 ⇄ 4 are wanted; the start is 0.
        let cost = complete(5, |a, b| if a.abs_diff(b) == 1 { 10 } else { 100 });
        let wanted = [(1, 2), (2, 1), (3, 4), (4, 3)];
        let found = round(&cost, &wanted, 0).unwrap();
        assert_eq!(Some(found.cost), by_force(&cost, &wanted, 0));
        assert_eq!(found.cost, found.bound);
    }

    #[test]
    fn what_cannot_be_reached_has_no_round() {
        let mut cost = complete(3, |_, _| 5);
        cost[0][2] = None;
        cost[1][2] = None;
        assert_eq!(round(&cost, &[(2, 1)], 0), None);
        assert_eq!(round(&cost, &[], 0).unwrap().stops, [0]);
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]
        #[test]
        fn no_round_is_shorter(
            n in 2_usize..6,
            costs in proptest::collection::vec(1_u64..60, 36),
            missing in proptest::collection::vec(proptest::bool::weighted(0.15), 36),
            picked in proptest::collection::vec(0_usize..30, 1..8),
        ) {
            let cost: Costs = (0..n)
                .map(|a| (0..n).map(|b| (a != b && !missing[a * 6 + b]).then(|| costs[a * 6 + b])).collect())
                .collect();
            let there: Vec<(usize, usize)> = every(n).into_iter().filter(|&(a, b)| cost[a][b].is_some()).collect();
            prop_assume!(!there.is_empty());
            let wanted: BTreeSet<(usize, usize)> = picked.iter().map(|at| there[at % there.len()]).collect();
            let wanted: Vec<(usize, usize)> = wanted.into_iter().collect();
            let (found, least) = (round(&cost, &wanted, 0), by_force(&cost, &wanted, 0));
            prop_assert_eq!(found.as_ref().map(|round| round.cost), least);
            if let Some(found) = found {
                prop_assert_eq!(found.bound, found.cost);
                let (took, arcs) = walked(&cost, &found.stops);
                prop_assert_eq!(took, found.cost);
                prop_assert!(wanted.iter().all(|arc| arcs.contains(arc)));
                prop_assert_eq!((found.stops[0], *found.stops.last().unwrap()), (0, 0));
            }
            // A search that is narrowed early says no more than it knows.
            for looks in 0..3 {
                let Some(narrow) = round_within(&cost, &wanted, 0, looks) else { continue };
                prop_assert!(least.is_some_and(|least| narrow.bound <= least && least <= narrow.cost), "{narrow:?} {least:?}");
            }
        }
    }
}
