//! When to send what: chains of commands with pauses between them, on media that carry one at a time.
//!
//! This is a job shop with time lags: every chain is a job, every medium a machine, and the pauses need
//! no machine. [`schedule`] minimises *ready*, then the end of the whole, by branch and bound over active
//! schedules (Giffler & Thompson 1960): at each node the medium is taken on which a command could end
//! first, and every command that could start before that end is tried. The bound of a node is the longest
//! chain that is left, or the least head + all sends + the least tail of a medium.
//!
//! A greatest pause (an open list closes by itself) can make it necessary to start a command *later* than
//! it could, which no active schedule does. Where there is one, the second search
//! ([`super::temporal`]) goes on from the best active schedule, and is complete.

use super::jobs::{Before, Best, Job, Op};
use super::temporal;

/// How many partial schedules are looked at before the best one so far is taken.
pub const NODES: usize = 200_000;

/// How many shared media there can be in one problem.
pub const RESOURCES: usize = 64;

/// What a lower bound rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BoundBy {
    /// The chain of this job.
    Chain(usize),
    /// The commands that share a medium.
    Medium(u8),
}

/// Start times.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Scheduled {
    /// For each job, when its commands start, in ms.
    pub starts_ms: Vec<Vec<u32>>,
    /// When all that is needed can be seen or heard, in ms.
    pub ready_ms: u32,
    /// When everything has settled, in ms.
    pub end_ms: u32,
    /// No schedule is ready sooner, in ms.
    pub bound_ms: u32,
    /// What that rests on.
    pub bound_by: Option<BoundBy>,
    /// Is it proved that none is ready sooner?
    pub optimal: bool,
    /// Partial schedules looked at.
    pub nodes: usize,
    /// Commands (job, place) that *ready* hangs on.
    pub critical: Vec<(usize, usize)>,
    /// Can all greatest pauses, orders and pinned times be kept? If not, pins and orders were given up.
    pub feasible: bool,
}

impl Scheduled {
    /// Does *ready* hang on this command?
    #[must_use]
    pub fn is_critical(&self, job: usize, op: usize) -> bool {
        self.critical.contains(&(job, op))
    }
}

/// The schedule that is ready first, and of those the one that ends first.
#[must_use]
pub fn schedule(jobs: &[Job], before: &[Before]) -> Scheduled {
    schedule_within(jobs, before, NODES)
}

/// The same with a budget of partial schedules.
#[must_use]
pub fn schedule_within(jobs: &[Job], before: &[Before], budget: usize) -> Scheduled {
    let root = Node::root(jobs);
    let (bound_ms, bound_by) = root.bound(jobs);
    let goal = (bound_ms, root.end_bound(jobs));
    let mut search = Search { jobs, before, best: None, nodes: 0, budget, goal, keep_lists: false };
    search.go(&root);
    if search.best.is_none() {
        // A list would close in every order tried: keep its commands together.
        search.keep_lists = true;
        search.go(&root);
    }
    let mut nodes = search.nodes;
    let mut exhausted = nodes <= budget;
    let mut best = search.best;
    let idle = jobs.iter().flat_map(|job| &job.ops).any(|op| op.within_ms.is_some() || op.pin_ms.is_some());
    let reached = |best: &Option<Best>| best.as_ref().is_some_and(|(ready, ..)| *ready == bound_ms);
    if idle && !reached(&best) {
        let found = temporal::search(jobs, before, best.as_ref().map(|(ready, end, _)| (*ready, *end)), budget / 8);
        nodes += found.nodes;
        exhausted = found.exhausted;
        best = found.best.or(best);
    }
    let Some((ready_ms, end_ms, starts_ms)) = best else {
        return given_up(jobs, before, budget);
    };
    let critical = critical(jobs, before, &starts_ms, ready_ms);
    let optimal = exhausted || ready_ms == bound_ms;
    Scheduled { starts_ms, ready_ms, end_ms, bound_ms, bound_by, optimal, nodes, critical, feasible: true }
}

/// Nothing fits: pins and orders are given up, so that there is something to look at.
fn given_up(jobs: &[Job], before: &[Before], budget: usize) -> Scheduled {
    let mut loose = jobs.to_vec();
    let pinned = loose.iter().flat_map(|job| &job.ops).any(|op| op.pin_ms.is_some());
    loose.iter_mut().flat_map(|job| &mut job.ops).for_each(|op| op.pin_ms = None);
    if pinned {
        return Scheduled { feasible: false, optimal: false, ..schedule_within(&loose, before, budget) };
    }
    if !before.is_empty() {
        return Scheduled { feasible: false, optimal: false, ..schedule_within(&loose, &[], budget) };
    }
    loose.iter_mut().flat_map(|job| &mut job.ops).for_each(|op| op.within_ms = None);
    Scheduled { feasible: false, optimal: false, ..schedule_within(&loose, &[], budget) }
}

/// A partial schedule.
#[derive(Clone)]
struct Node {
    starts: Vec<Vec<u32>>,
    /// The earliest start of each job's next command.
    release: Vec<u32>,
    /// The latest start of each job's next command.
    deadline: Vec<Option<u32>>,
    free: Vec<u32>,
    /// The job whose list is open on each medium, while lists are kept together.
    holds: Vec<Option<usize>>,
    ready: u32,
    end: u32,
}

fn slot(op: &Op) -> Option<usize> {
    op.resource.map(usize::from)
}

fn resources(jobs: &[Job]) -> usize {
    jobs.iter().flat_map(|job| &job.ops).filter_map(slot).max().map_or(0, |most| most + 1).min(RESOURCES)
}

impl Node {
    fn root(jobs: &[Job]) -> Self {
        let media = resources(jobs);
        Self {
            starts: jobs.iter().map(|job| Vec::with_capacity(job.ops.len())).collect(),
            release: jobs.iter().map(|job| job.head_ms).collect(),
            deadline: vec![None; jobs.len()],
            free: vec![0; media],
            holds: vec![None; media],
            ready: 0,
            end: jobs.iter().map(|job| job.head_ms).max().unwrap_or(0),
        }
    }

    fn next<'a>(&self, jobs: &'a [Job], job: usize) -> Option<&'a Op> {
        jobs[job].ops.get(self.starts[job].len())
    }

    /// The earliest start of a job's next command; `None` while one that goes before it is not sent.
    fn open(&self, jobs: &[Job], before: &[Before], job: usize) -> Option<u32> {
        let op = self.next(jobs, job)?;
        let mut start = self.earliest(op, job);
        for rule in before.iter().filter(|rule| rule.then == (job, self.starts[job].len())) {
            let (first, place) = rule.first;
            let done = self.starts[first].get(place)? + jobs[first].ops[place].send_ms + rule.lag_ms;
            start = start.max(done);
        }
        Some(start)
    }

    fn earliest(&self, op: &Op, job: usize) -> u32 {
        self.release[job].max(slot(op).map_or(0, |at| self.free[at])).max(op.pin_ms.unwrap_or(0))
    }

    /// No completion is ready sooner than this, and why.
    fn bound(&self, jobs: &[Job]) -> (u32, Option<BoundBy>) {
        let (mut bound, mut by) = (self.ready, None);
        for (job, own) in jobs.iter().enumerate() {
            if let Some(op) = self.next(jobs, job) {
                let rest = own.ready_rest(self.starts[job].len());
                let chain = self.earliest(op, job) + rest;
                if rest > 0 && chain > bound {
                    (bound, by) = (chain, Some(BoundBy::Chain(job)));
                }
            }
        }
        for medium in 0..self.free.len() {
            let (mut head, mut sum, mut tail) = (u32::MAX, 0, u32::MAX);
            for (job, own) in jobs.iter().enumerate() {
                let mut at = self.next(jobs, job).map_or(0, |op| self.earliest(op, job));
                for (place, op) in own.ops.iter().enumerate().skip(self.starts[job].len()) {
                    let rest = own.ready_rest(place);
                    // Only sends that something needed waits for count.
                    if slot(op) == Some(medium) && rest > 0 {
                        head = head.min(at);
                        sum += op.send_ms;
                        tail = tail.min(rest.saturating_sub(op.send_ms));
                    }
                    at += op.send_ms + op.lag_ms;
                }
            }
            if sum > 0 && head + sum + tail > bound {
                (bound, by) = (head + sum + tail, u8::try_from(medium).ok().map(BoundBy::Medium));
            }
        }
        (bound, by)
    }

    fn end_bound(&self, jobs: &[Job]) -> u32 {
        (0..jobs.len())
            .filter_map(|job| {
                let op = self.next(jobs, job)?;
                Some(self.earliest(op, job) + jobs[job].rest(self.starts[job].len(), |op| op.settles_ms))
            })
            .fold(self.end, u32::max)
    }

    fn send(&self, jobs: &[Job], before: &[Before], job: usize, keep_lists: bool) -> Option<Self> {
        let op = self.next(jobs, job)?;
        let start = self.open(jobs, before, job)?;
        if self.deadline[job].is_some_and(|latest| start > latest) || op.pin_ms.is_some_and(|pin| start > pin) {
            return None;
        }
        let mut node = self.clone();
        let done = start + op.send_ms;
        node.starts[job].push(start);
        node.release[job] = done + op.lag_ms;
        node.deadline[job] = op.within_ms.map(|within| done + within.max(op.lag_ms));
        if let Some(at) = slot(op) {
            node.free[at] = done;
        }
        node.end = node.end.max(done + op.settles_ms);
        if op.needed {
            node.ready = node.ready.max(done + op.shows_ms);
        }
        if keep_lists && let Some(at) = slot(op) {
            let more = op.within_ms.is_some() && node.next(jobs, job).is_some();
            node.holds[at] = more.then_some(job);
        }
        Some(node)
    }
}

struct Search<'a> {
    jobs: &'a [Job],
    before: &'a [Before],
    best: Option<Best>,
    nodes: usize,
    budget: usize,
    goal: (u32, u32),
    keep_lists: bool,
}

impl Search<'_> {
    fn go(&mut self, node: &Node) {
        self.nodes += 1;
        if self.nodes > self.budget || self.best.as_ref().is_some_and(|(ready, end, _)| (*ready, *end) <= self.goal) {
            return;
        }
        let bound = (node.bound(self.jobs).0, node.end_bound(self.jobs));
        if self.best.as_ref().is_some_and(|(ready, end, _)| bound >= (*ready, *end)) {
            return;
        }
        if (0..self.jobs.len()).all(|job| node.next(self.jobs, job).is_none()) {
            self.best = Some((node.ready, node.end, node.starts.clone()));
            return;
        }
        for job in self.branches(node) {
            if let Some(child) = node.send(self.jobs, self.before, job, self.keep_lists) {
                self.go(&child);
            }
        }
    }

    /// The jobs to try next, longest remaining tail first.
    fn branches(&self, node: &Node) -> Vec<usize> {
        let open = || {
            (0..self.jobs.len()).filter_map(|job| {
                let op = node.next(self.jobs, job)?;
                let start = node.open(self.jobs, self.before, job)?;
                let held = slot(op).and_then(|at| node.holds[at]).is_some_and(|holder| holder != job);
                (!held).then_some((job, op, start))
            })
        };
        let Some((alone, first, start)) = open().min_by_key(|(job, op, start)| (start + op.send_ms, *job)) else {
            return vec![];
        };
        let (medium, end) = (slot(first), start + first.send_ms);
        if medium.is_none() {
            return vec![alone];
        }
        let mut branches: Vec<usize> =
            open().filter(|(_, op, start)| slot(op) == medium && *start < end).map(|(job, ..)| job).collect();
        let tail = |job: usize| {
            let own = &self.jobs[job];
            let from = node.starts[job].len();
            (own.ready_rest(from), own.rest(from, |op| op.settles_ms))
        };
        branches.sort_by_key(|&job| (std::cmp::Reverse(tail(job)), job));
        branches
    }
}

/// Walks back from the command that is seen or heard last to whatever made each one wait.
fn critical(jobs: &[Job], before: &[Before], starts: &[Vec<u32>], ready: u32) -> Vec<(usize, usize)> {
    let all = || {
        starts
            .iter()
            .enumerate()
            .flat_map(|(job, own)| own.iter().enumerate().map(move |(op, &start)| (job, op, start)))
    };
    let ends_at = |job: usize, op: usize, start: u32| start + jobs[job].ops[op].send_ms;
    let mut at = all().find(|&(job, op, start)| {
        jobs[job].ops[op].needed && ends_at(job, op, start) + jobs[job].ops[op].shows_ms == ready
    });
    let mut chain = Vec::new();
    while let Some((job, op, start)) = at {
        chain.push((job, op));
        if start == 0 {
            break;
        }
        let own = op
            .checked_sub(1)
            .map(|before| (job, before, starts[job][before]))
            .filter(|&(job, before, from)| ends_at(job, before, from) + jobs[job].ops[before].lag_ms == start);
        let rule = before.iter().filter(|rule| rule.then == (job, op)).find_map(|rule| {
            let (first, place) = rule.first;
            let from = starts[first][place];
            (ends_at(first, place, from) + rule.lag_ms == start).then_some((first, place, from))
        });
        let medium = jobs[job].ops[op].resource;
        at = own.or(rule).or_else(|| {
            all().find(|&(other, place, from)| {
                medium.is_some()
                    && jobs[other].ops[place].resource == medium
                    && ends_at(other, place, from) == start
                    && (other, place) != (job, op)
            })
        });
        if at.is_some_and(|(job, op, _)| chain.contains(&(job, op))) {
            break;
        }
    }
    chain
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn op(send_ms: u32, lag_ms: u32, shows_ms: u32) -> Op {
        Op {
            resource: Some(0),
            send_ms,
            lag_ms,
            within_ms: None,
            shows_ms,
            settles_ms: shows_ms,
            needed: true,
            pin_ms: None,
        }
    }

    fn job(ops: Vec<Op>) -> Job {
        Job { head_ms: 0, ops }
    }

    fn schedule(jobs: &[Job]) -> Scheduled {
        super::schedule(jobs, &[])
    }

    #[test]
    fn nothing_to_send_is_ready_at_once() {
        let scheduled = schedule(&[]);
        assert_eq!((scheduled.ready_ms, scheduled.bound_ms, scheduled.optimal), (0, 0, true));
    }

    /// By hand: the long warm-up goes first, the short one waits for the medium: 100 + 30 000 ms.
    #[test]
    fn the_longest_warm_up_is_sent_first() {
        let scheduled = schedule(&[job(vec![op(100, 0, 5_000)]), job(vec![op(100, 0, 30_000)])]);
        assert_eq!(scheduled.starts_ms, [vec![100], vec![0]]);
        assert_eq!((scheduled.ready_ms, scheduled.bound_ms), (30_100, 30_100));
        assert_eq!(scheduled.critical, [(1, 0)]);
    }

    /// By hand: two equal jobs on one medium. One of them waits 100 ms; the bound of the medium sees it.
    #[test]
    fn the_bound_of_a_medium_counts_all_of_its_sends() {
        let scheduled = schedule(&[job(vec![op(100, 0, 1_000)]), job(vec![op(100, 0, 1_000)])]);
        assert_eq!((scheduled.ready_ms, scheduled.bound_ms), (1_200, 1_200));
        assert_eq!(scheduled.bound_by, Some(BoundBy::Medium(0)));
    }

    #[test]
    fn two_media_carry_at_once() {
        let radio = Op { resource: Some(1), ..op(100, 0, 1_000) };
        let scheduled = schedule(&[job(vec![op(100, 0, 1_000)]), job(vec![radio])]);
        assert_eq!(scheduled.starts_ms, [vec![0], vec![0]]);
    }

    #[test]
    fn what_is_not_needed_does_not_delay_what_is() {
        let off = job(vec![Op { needed: false, ..op(500, 0, 0) }]);
        let scheduled = schedule(&[off, job(vec![op(100, 0, 2_000)])]);
        assert_eq!(scheduled.starts_ms, [vec![100], vec![0]]);
        assert_eq!(scheduled.ready_ms, 2_100);
    }

    /// Six jobs on six machines, each job in a fixed order: the benchmark ft06 has makespan 55 [Fisher & Thompson
    /// 1963, from memory].
    #[test]
    fn the_benchmark_ft06_takes_55() {
        const FT06: [[(u8, u32); 6]; 6] = [
            [(2, 1), (0, 3), (1, 6), (3, 7), (5, 3), (4, 6)],
            [(1, 8), (2, 5), (4, 10), (5, 10), (0, 10), (3, 4)],
            [(2, 5), (3, 4), (5, 8), (0, 9), (1, 1), (4, 7)],
            [(1, 5), (0, 5), (2, 5), (3, 3), (4, 8), (5, 9)],
            [(2, 9), (1, 3), (4, 5), (5, 4), (0, 3), (3, 1)],
            [(1, 3), (3, 3), (5, 9), (0, 10), (4, 4), (2, 1)],
        ];
        let jobs: Vec<Job> = FT06
            .iter()
            .map(|ops| job(ops.iter().map(|&(machine, ms)| Op { resource: Some(machine), ..op(ms, 0, 0) }).collect()))
            .collect();
        let scheduled = super::schedule_within(&jobs, &[], 3_000_000);
        assert_eq!((scheduled.ready_ms, scheduled.optimal), (55, true), "{} nodes", scheduled.nodes);
    }

    /// By hand: the list closes 300 ms after Open. A long send of 2 s that ready hangs on goes first, and Open waits
    /// for it although it could start at once: no active schedule does that.
    #[test]
    fn a_list_is_opened_later_where_that_is_quicker() {
        let open = Op { within_ms: Some(300), ..op(100, 200, 0) };
        let confirm = Op { needed: false, ..op(100, 0, 0) };
        let list = job(vec![Op { needed: false, ..open }, confirm]);
        let long = Job { head_ms: 150, ops: vec![op(2_000, 0, 5_000)] };
        let scheduled = schedule(&[list, long]);
        assert_eq!(scheduled.ready_ms, 7_150);
        assert_eq!(scheduled.starts_ms[1], [150]);
        let [open, confirm] = scheduled.starts_ms[0][..] else { unreachable!() };
        assert!(open >= 2_150 && confirm - (open + 100) <= 300, "{scheduled:?}");
    }

    #[test]
    fn a_pinned_command_starts_then_and_others_go_round_it() {
        let pinned = job(vec![Op { pin_ms: Some(500), ..op(100, 0, 0) }]);
        let scheduled = schedule(&[pinned, job(vec![op(450, 0, 0), op(200, 0, 0)])]);
        assert_eq!(scheduled.starts_ms, [vec![500], vec![0, 600]]);
        assert!(scheduled.feasible);
    }

    #[test]
    fn what_goes_before_what_is_kept_and_a_circle_is_given_up() {
        let jobs = [job(vec![op(100, 0, 0)]), job(vec![op(100, 0, 9_000)])];
        let rule = Before { first: (0, 0), then: (1, 0), lag_ms: 50 };
        let scheduled = super::schedule(&jobs, &[rule]);
        assert_eq!(scheduled.starts_ms, [vec![0], vec![150]]);
        assert_eq!(scheduled.critical, [(1, 0), (0, 0)]);
        let back = Before { first: (1, 0), then: (0, 0), lag_ms: 0 };
        assert!(!super::schedule(&jobs, &[rule, back]).feasible);
    }

    /// By hand: the list closes 1 s after a key. A 3 s send of another device must not fall between.
    #[test]
    fn an_open_list_is_not_left_waiting() {
        let list = Op { within_ms: Some(1_000), ..op(100, 500, 0) };
        let scheduled = schedule(&[job(vec![list, op(100, 0, 0)]), job(vec![op(3_000, 0, 9_000)])]);
        let [open, confirm] = scheduled.starts_ms[0][..] else { unreachable!() };
        assert!(confirm - (open + 100) <= 1_000, "{scheduled:?}");
    }

    fn any_jobs() -> impl Strategy<Value = Vec<Job>> {
        let op = (any::<bool>(), 20u32..300, 0u32..900, 0u32..4_000, any::<bool>());
        let op = op.prop_map(|(radio, send_ms, lag_ms, tail, needed)| Op {
            resource: Some(u8::from(radio)),
            needed,
            ..super::tests::op(send_ms, lag_ms, tail)
        });
        let job = (prop::collection::vec(op, 1..4), 0u32..500).prop_map(|(ops, head_ms)| Job { head_ms, ops });
        prop::collection::vec(job, 1..4)
    }

    /// Every order of all sends, by brute force.
    fn least_ready(jobs: &[Job]) -> u32 {
        fn walk(jobs: &[Job], node: &Node, best: &mut u32) {
            let open: Vec<usize> = (0..jobs.len()).filter(|&job| node.next(jobs, job).is_some()).collect();
            if open.is_empty() {
                *best = (*best).min(node.ready);
            }
            for job in open {
                walk(jobs, &node.send(jobs, &[], job, false).unwrap(), best);
            }
        }
        let mut best = u32::MAX;
        walk(jobs, &Node::root(jobs), &mut best);
        best
    }

    /// The least ready of all schedules with greatest pauses, on a grid of 50 ms, by trying every start time.
    fn least_on_grid(jobs: &[Job], horizon: u32) -> Option<u32> {
        fn place(jobs: &[Job], at: (usize, usize), starts: &mut Vec<Vec<u32>>, horizon: u32, best: &mut Option<u32>) {
            let (job, op) = at;
            let Some(own) = jobs.get(job) else {
                let ends = jobs.iter().zip(starts.iter()).flat_map(|(job, starts)| job.ops.iter().zip(starts));
                let ready = ends.map(|(op, start)| start + op.send_ms + op.shows_ms).max().unwrap_or(0);
                *best = Some(best.map_or(ready, |known| known.min(ready)));
                return;
            };
            let Some(this) = own.ops.get(op) else {
                return place(jobs, (job + 1, 0), starts, horizon, best);
            };
            let (from, to) = match op.checked_sub(1).map(|before| (starts[job][before], own.ops[before])) {
                None => (own.head_ms, horizon),
                Some((start, before)) => {
                    let end = start + before.send_ms;
                    (end + before.lag_ms, before.within_ms.map_or(horizon, |within| end + within.max(before.lag_ms)))
                }
            };
            let mut start = from.div_ceil(50) * 50;
            while start <= to.min(horizon) {
                let free = jobs.iter().zip(starts.iter()).flat_map(|(job, starts)| job.ops.iter().zip(starts)).all(
                    |(other, &begun)| {
                        other.resource != this.resource
                            || begun + other.send_ms <= start
                            || start + this.send_ms <= begun
                    },
                );
                if free {
                    starts[job].push(start);
                    place(jobs, (job, op + 1), starts, horizon, best);
                    starts[job].pop();
                }
                start += 50;
            }
        }
        let mut best = None;
        place(jobs, (0, 0), &mut vec![vec![]; jobs.len()], horizon, &mut best);
        best
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(40))]

        /// Lists that close, against every start time on a grid on which all times lie.
        #[test]
        fn with_lists_that_close_none_is_ready_sooner(
            raw in prop::collection::vec((1u32..4, 0u32..3, prop::option::of(0u32..3), 0u32..12, 0u32..3), 2..5),
        ) {
            let mut jobs = vec![job(vec![]), job(vec![])];
            for (at, (send, lag, within, tail, _)) in raw.iter().enumerate() {
                let own = Op {
                    within_ms: within.map(|more| (lag + more) * 50),
                    ..op(send * 50, lag * 50, tail * 50)
                };
                jobs[at % 2].ops.push(own);
            }
            let scheduled = super::schedule(&jobs, &[]);
            prop_assert!(scheduled.feasible && scheduled.optimal);
            prop_assert_eq!(Some(scheduled.ready_ms), least_on_grid(&jobs, 1_600));
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]

        #[test]
        fn no_order_of_sends_is_ready_sooner(jobs in any_jobs()) {
            prop_assert_eq!(schedule(&jobs).ready_ms, least_ready(&jobs));
        }

        #[test]
        fn a_plan_never_beats_its_bound_and_no_medium_carries_two(jobs in any_jobs()) {
            let scheduled = schedule(&jobs);
            prop_assert!(scheduled.ready_ms >= scheduled.bound_ms);
            let mut sends: Vec<(Option<u8>, u32, u32)> = vec![];
            for (job, starts) in jobs.iter().zip(&scheduled.starts_ms) {
                prop_assert_eq!(starts.len(), job.ops.len());
                for (place, &start) in starts.iter().enumerate() {
                    let op = job.ops[place];
                    sends.push((op.resource, start, start + op.send_ms));
                    if let Some(&next) = starts.get(place + 1) {
                        prop_assert!(next >= start + op.send_ms + op.lag_ms);
                    }
                }
            }
            for (at, a) in sends.iter().enumerate() {
                for b in &sends[at + 1..] {
                    prop_assert!(a.0 != b.0 || a.2 <= b.1 || b.2 <= a.1);
                }
            }
        }
    }
}
