//! The complete search for schedules with greatest pauses and pinned times.
//!
//! The start times form a network of differences: *b* starts at least so long after *a*, or at most. Its
//! least solution is the earliest schedule. Where two commands on one medium overlap in it, one of them
//! has to go first: both orders are tried. Every schedule that there is lies below one of the branches, so
//! the search is complete.

use super::jobs::{Before, Best, Job};
use std::collections::VecDeque;

/// What was found.
pub(super) struct Searched {
    /// The best schedule that is better than the one known before.
    pub best: Option<Best>,
    /// Networks looked at.
    pub nodes: usize,
    /// Was everything looked at?
    pub exhausted: bool,
}

/// The network: `arcs[a]` holds (b, w) for “b starts no sooner than w after a”. Node 0 is time 0.
struct Network<'a> {
    jobs: &'a [Job],
    /// Job and place of each node but the first.
    ops: Vec<(usize, usize)>,
    arcs: Vec<Vec<(usize, i64)>>,
    horizon: i64,
    best: Option<Best>,
    limit: Option<(u32, u32)>,
    nodes: usize,
    budget: usize,
}

/// Schedules that are ready before `known`, or as soon and end before it.
pub(super) fn search(jobs: &[Job], before: &[Before], known: Option<(u32, u32)>, budget: usize) -> Searched {
    let ops: Vec<(usize, usize)> =
        jobs.iter().enumerate().flat_map(|(job, own)| (0..own.ops.len()).map(move |op| (job, op))).collect();
    let node = |at: (usize, usize)| ops.iter().position(|&op| op == at).map_or(0, |place| place + 1);
    let mut arcs: Vec<Vec<(usize, i64)>> = vec![vec![]; ops.len() + 1];
    let mut horizon = 0i64;
    for (job, own) in jobs.iter().enumerate() {
        horizon += i64::from(own.head_ms);
        for (place, op) in own.ops.iter().enumerate() {
            let at = node((job, place));
            horizon += i64::from(op.send_ms) + i64::from(op.lag_ms) + i64::from(op.pin_ms.unwrap_or(0));
            if place == 0 {
                arcs[0].push((at, i64::from(own.head_ms)));
            }
            if let Some(pin) = op.pin_ms {
                arcs[0].push((at, i64::from(pin)));
                arcs[at].push((0, -i64::from(pin)));
            }
            if place + 1 < own.ops.len() {
                let next = node((job, place + 1));
                arcs[at].push((next, i64::from(op.send_ms) + i64::from(op.lag_ms)));
                if let Some(within) = op.within_ms {
                    arcs[next].push((at, -(i64::from(op.send_ms) + i64::from(within.max(op.lag_ms)))));
                }
            }
        }
    }
    for rule in before {
        let (first, place) = rule.first;
        let weight = i64::from(jobs[first].ops[place].send_ms) + i64::from(rule.lag_ms);
        horizon += weight;
        arcs[node(rule.first)].push((node(rule.then), weight));
    }
    let mut network = Network { jobs, ops, arcs, horizon: horizon + 1, best: None, limit: known, nodes: 0, budget };
    let mut starts = vec![0i64; network.arcs.len()];
    if network.relax(&mut starts, (0..network.arcs.len()).collect()) {
        network.go(&starts);
    }
    Searched { best: network.best, nodes: network.nodes, exhausted: network.nodes <= budget }
}

impl Network<'_> {
    /// Raises start times until every arc holds; false where they would rise for ever.
    fn relax(&self, starts: &mut [i64], open: Vec<usize>) -> bool {
        let mut raised = vec![0usize; starts.len()];
        let mut open = VecDeque::from(open);
        while let Some(at) = open.pop_front() {
            for &(to, weight) in &self.arcs[at] {
                let least = starts[at] + weight;
                if starts[to] < least {
                    raised[to] += 1;
                    // First in, first out: what is raised more often than there are commands lies on a circle.
                    if to == 0 || least > self.horizon || raised[to] > starts.len() {
                        return false;
                    }
                    starts[to] = least;
                    open.push_back(to);
                }
            }
        }
        true
    }

    fn send_ms(&self, node: usize) -> i64 {
        let (job, op) = self.ops[node - 1];
        i64::from(self.jobs[job].ops[op].send_ms)
    }

    fn figures(&self, starts: &[i64]) -> (u32, u32) {
        let (mut ready, mut end) = (0i64, 0i64);
        for (place, &(job, op)) in self.ops.iter().enumerate() {
            let own = &self.jobs[job].ops[op];
            let done = starts[place + 1] + i64::from(own.send_ms);
            end = end.max(done + i64::from(own.settles_ms));
            if own.needed {
                ready = ready.max(done + i64::from(own.shows_ms));
            }
        }
        let heads = self.jobs.iter().map(|job| i64::from(job.head_ms)).max().unwrap_or(0);
        let ms = |time: i64| u32::try_from(time).unwrap_or(u32::MAX);
        (ms(ready), ms(end.max(heads)))
    }

    /// Two commands that overlap on one medium, those that start first.
    fn conflict(&self, starts: &[i64]) -> Option<(usize, usize)> {
        let media = |node: usize| {
            let (job, op) = self.ops[node - 1];
            self.jobs[job].ops[op].media
        };
        let mut first: Option<(i64, usize, usize)> = None;
        for a in 1..starts.len() {
            for b in a + 1..starts.len() {
                let shared = media(a).meets(media(b));
                let apart = starts[a] + self.send_ms(a) <= starts[b] || starts[b] + self.send_ms(b) <= starts[a];
                let at = starts[a].max(starts[b]);
                if shared && !apart && first.is_none_or(|(known, ..)| at < known) {
                    first = Some((at, a, b));
                }
            }
        }
        first.map(|(_, a, b)| (a, b))
    }

    fn go(&mut self, starts: &[i64]) {
        self.nodes += 1;
        let figures = self.figures(starts);
        if self.nodes > self.budget || self.limit.is_some_and(|limit| figures >= limit) {
            return;
        }
        let Some((a, b)) = self.conflict(starts) else {
            let mut all: Vec<Vec<u32>> = self.jobs.iter().map(|job| Vec::with_capacity(job.ops.len())).collect();
            for (place, &(job, _)) in self.ops.iter().enumerate() {
                all[job].push(u32::try_from(starts[place + 1]).unwrap_or(u32::MAX));
            }
            self.limit = Some(figures);
            self.best = Some((figures.0, figures.1, all));
            return;
        };
        let tail = |node: usize| {
            let (job, op) = self.ops[node - 1];
            self.jobs[job].ready_rest(op)
        };
        let (first, then) = if (starts[a], std::cmp::Reverse(tail(a))) <= (starts[b], std::cmp::Reverse(tail(b))) {
            (a, b)
        } else {
            (b, a)
        };
        for (first, then) in [(first, then), (then, first)] {
            let send_ms = self.send_ms(first);
            self.arcs[first].push((then, send_ms));
            let mut next = starts.to_vec();
            if self.relax(&mut next, vec![first]) {
                self.go(&next);
            }
            self.arcs[first].pop();
        }
    }
}
