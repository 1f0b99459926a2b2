//! When to send what: chains of commands with pauses between them, on media that carry one at a time.
//!
//! This is a job shop with time lags: every device is a job, every medium a machine, and the pauses
//! need no machine. [`schedule`] minimises *ready*, then the end of the whole, by branch and bound
//! over active schedules (Giffler & Thompson 1960): at each node the medium is taken on which a
//! command could end first, and every command that could start before that end is tried. The bound of
//! a node is the longest chain that is left, or the least head + all sends + the least tail of a
//! medium. A latest start (an open list closes) prunes; where nothing fits, commands of one list are
//! kept together as one block.

use crate::device::Medium;

/// How many partial schedules are looked at before the best one so far is taken.
pub const NODES: usize = 200_000;

/// One command.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Op {
    /// What carries it.
    pub medium: Medium,
    /// How long it occupies the medium, in ms.
    pub send_ms: u32,
    /// The least pause until the job's next command, in ms.
    pub lag_ms: u32,
    /// The greatest such pause, in ms.
    pub within_ms: Option<u32>,
    /// From its end until it can be seen or heard, in ms.
    pub shows_ms: u32,
    /// From its end until it has settled, in ms.
    pub settles_ms: u32,
}

/// The commands of one device.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Job {
    /// It cannot start before this, in ms.
    pub head_ms: u32,
    /// In order.
    pub ops: Vec<Op>,
    /// Does *ready* wait for it?
    pub needed: bool,
}

impl Job {
    /// From its start until it can be seen or heard, if nothing else is sent, in ms.
    #[must_use]
    pub fn alone_ms(&self) -> u32 {
        self.head_ms + self.rest(0, |op| op.shows_ms)
    }

    /// From the start of command `from` until the last tail has passed, if nothing else is sent.
    fn rest(&self, from: usize, tail: impl Fn(&Op) -> u32) -> u32 {
        let (mut at, mut latest) = (0, 0);
        for op in &self.ops[from.min(self.ops.len())..] {
            latest = latest.max(at + op.send_ms + tail(op));
            at += op.send_ms + op.lag_ms;
        }
        latest
    }
}

/// What a lower bound rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BoundBy {
    /// The chain of this job.
    Chain(usize),
    /// The commands that share a medium.
    Medium(Medium),
}

/// Start times.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Scheduled {
    /// For each job, when its commands start, in ms.
    pub starts_ms: Vec<Vec<u32>>,
    /// When all needed jobs can be seen or heard, in ms.
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
pub fn schedule(jobs: &[Job]) -> Scheduled {
    let root = Node::root(jobs);
    let (bound_ms, bound_by) = root.bound(jobs);
    let mut search = Search { jobs, best: None, nodes: 0, goal: (bound_ms, root.end_bound(jobs)), keep_lists: false };
    search.go(&root);
    if search.best.is_none() {
        // A list would close in every order tried: keep its commands together.
        search.keep_lists = true;
        search.go(&root);
    }
    let (optimal, nodes) = (search.nodes <= NODES, search.nodes);
    let (ready_ms, end_ms, starts_ms) = search.best.unwrap_or_default();
    let critical = critical(jobs, &starts_ms, ready_ms);
    let optimal = optimal || ready_ms == bound_ms;
    Scheduled { starts_ms, ready_ms, end_ms, bound_ms, bound_by, optimal, nodes, critical }
}

/// A partial schedule.
#[derive(Clone)]
struct Node {
    starts: Vec<Vec<u32>>,
    /// The earliest start of each job's next command.
    release: Vec<u32>,
    /// The latest start of each job's next command.
    deadline: Vec<Option<u32>>,
    free: [u32; SHARED.len()],
    /// The job whose list is open on each medium, while lists are kept together.
    holds: [Option<usize>; SHARED.len()],
    ready: u32,
    end: u32,
}

/// The media on which one send at a time fits; on others every device has a line of its own.
const SHARED: [Medium; 2] = [Medium::Ir, Medium::Rf433];

fn slot(medium: Medium) -> Option<usize> {
    SHARED.iter().position(|&shared| shared == medium)
}

impl Node {
    fn root(jobs: &[Job]) -> Self {
        let needed_heads = jobs.iter().filter(|job| job.needed && job.ops.is_empty()).map(|job| job.head_ms).max();
        Self {
            starts: jobs.iter().map(|job| Vec::with_capacity(job.ops.len())).collect(),
            release: jobs.iter().map(|job| job.head_ms).collect(),
            deadline: vec![None; jobs.len()],
            free: [0; SHARED.len()],
            holds: [None; SHARED.len()],
            ready: needed_heads.unwrap_or(0),
            end: jobs.iter().map(|job| job.head_ms).max().unwrap_or(0),
        }
    }

    fn next<'a>(&self, jobs: &'a [Job], job: usize) -> Option<&'a Op> {
        jobs[job].ops.get(self.starts[job].len())
    }

    fn earliest(&self, op: &Op, job: usize) -> u32 {
        self.release[job].max(slot(op.medium).map_or(0, |at| self.free[at]))
    }

    /// No completion is ready sooner than this, and why.
    fn bound(&self, jobs: &[Job]) -> (u32, Option<BoundBy>) {
        let (mut bound, mut by) = (self.ready, None);
        for (job, own) in jobs.iter().enumerate().filter(|(_, own)| own.needed) {
            if let Some(op) = self.next(jobs, job) {
                let chain = self.earliest(op, job) + own.rest(self.starts[job].len(), |op| op.shows_ms);
                if chain > bound {
                    (bound, by) = (chain, Some(BoundBy::Chain(job)));
                }
            }
        }
        for medium in SHARED {
            let (mut head, mut sum, mut tail) = (u32::MAX, 0, u32::MAX);
            for (job, own) in jobs.iter().enumerate().filter(|(_, own)| own.needed) {
                let mut at = self.next(jobs, job).map_or(0, |op| self.earliest(op, job));
                for (place, op) in own.ops.iter().enumerate().skip(self.starts[job].len()) {
                    if op.medium == medium {
                        head = head.min(at);
                        sum += op.send_ms;
                        tail = tail.min(own.rest(place, |op| op.shows_ms).saturating_sub(op.send_ms));
                    }
                    at += op.send_ms + op.lag_ms;
                }
            }
            if sum > 0 && head + sum + tail > bound {
                (bound, by) = (head + sum + tail, Some(BoundBy::Medium(medium)));
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

    fn send(&self, jobs: &[Job], job: usize, keep_lists: bool) -> Option<Self> {
        let op = self.next(jobs, job)?;
        let start = self.earliest(op, job);
        if self.deadline[job].is_some_and(|latest| start > latest) {
            return None;
        }
        let mut node = self.clone();
        let done = start + op.send_ms;
        node.starts[job].push(start);
        node.release[job] = done + op.lag_ms;
        node.deadline[job] = op.within_ms.map(|within| done + within.max(op.lag_ms));
        if let Some(at) = slot(op.medium) {
            node.free[at] = done;
        }
        node.end = node.end.max(done + op.settles_ms);
        if jobs[job].needed {
            node.ready = node.ready.max(done + op.shows_ms);
        }
        if keep_lists && let Some(at) = slot(op.medium) {
            let more = op.within_ms.is_some() && node.next(jobs, job).is_some();
            node.holds[at] = more.then_some(job);
        }
        Some(node)
    }
}

type Best = (u32, u32, Vec<Vec<u32>>);

struct Search<'a> {
    jobs: &'a [Job],
    best: Option<Best>,
    nodes: usize,
    goal: (u32, u32),
    keep_lists: bool,
}

impl Search<'_> {
    fn go(&mut self, node: &Node) {
        self.nodes += 1;
        if self.nodes > NODES || self.best.as_ref().is_some_and(|(ready, end, _)| (*ready, *end) <= self.goal) {
            return;
        }
        let bound = (node.bound(self.jobs).0, node.end_bound(self.jobs));
        if self.best.as_ref().is_some_and(|(ready, end, _)| bound >= (*ready, *end)) {
            return;
        }
        let Some(branches) = self.branches(node) else {
            self.best = Some((node.ready, node.end, node.starts.clone()));
            return;
        };
        for job in branches {
            if let Some(child) = node.send(self.jobs, job, self.keep_lists) {
                self.go(&child);
            }
        }
    }

    /// The jobs to try next, longest remaining tail first; `None` where all is sent.
    fn branches(&self, node: &Node) -> Option<Vec<usize>> {
        let open = || {
            (0..self.jobs.len()).filter_map(|job| {
                let op = node.next(self.jobs, job)?;
                let held = slot(op.medium).and_then(|at| node.holds[at]).is_some_and(|holder| holder != job);
                (!held).then(|| (job, op, node.earliest(op, job)))
            })
        };
        let (alone, first, start) = open().min_by_key(|(job, op, start)| (start + op.send_ms, *job))?;
        let (medium, end) = (first.medium, start + first.send_ms);
        if !medium.shared() {
            return Some(vec![alone]);
        }
        let mut branches: Vec<usize> =
            open().filter(|(_, op, start)| op.medium == medium && *start < end).map(|(job, _, _)| job).collect();
        let tail = |job: usize| {
            let own = &self.jobs[job];
            let rest = own.rest(node.starts[job].len(), |op| if own.needed { op.shows_ms } else { op.settles_ms });
            (own.needed, rest)
        };
        branches.sort_by_key(|&job| (std::cmp::Reverse(tail(job)), job));
        Some(branches)
    }
}

/// Walks back from the command that is seen or heard last to whatever made each one wait.
fn critical(jobs: &[Job], starts: &[Vec<u32>], ready: u32) -> Vec<(usize, usize)> {
    let all = || {
        starts
            .iter()
            .enumerate()
            .flat_map(|(job, own)| own.iter().enumerate().map(move |(op, &start)| (job, op, start)))
    };
    let ends_at = |job: usize, op: usize, start: u32| start + jobs[job].ops[op].send_ms;
    let mut at = all()
        .find(|&(job, op, start)| jobs[job].needed && ends_at(job, op, start) + jobs[job].ops[op].shows_ms == ready);
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
        let medium = jobs[job].ops[op].medium;
        at = own.or_else(|| {
            all().find(|&(other, place, from)| {
                medium.shared()
                    && jobs[other].ops[place].medium == medium
                    && ends_at(other, place, from) == start
                    && (other, place) != (job, op)
            })
        });
    }
    chain
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn op(send_ms: u32, lag_ms: u32, shows_ms: u32) -> Op {
        Op { medium: Medium::Ir, send_ms, lag_ms, within_ms: None, shows_ms, settles_ms: shows_ms }
    }

    fn job(ops: Vec<Op>) -> Job {
        Job { head_ms: 0, ops, needed: true }
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
        assert_eq!(scheduled.bound_by, Some(BoundBy::Medium(Medium::Ir)));
    }

    #[test]
    fn two_media_carry_at_once() {
        let radio = Op { medium: Medium::Rf433, ..op(100, 0, 1_000) };
        let scheduled = schedule(&[job(vec![op(100, 0, 1_000)]), job(vec![radio])]);
        assert_eq!(scheduled.starts_ms, [vec![0], vec![0]]);
    }

    #[test]
    fn what_is_not_needed_does_not_delay_what_is() {
        let off = Job { needed: false, ..job(vec![op(500, 0, 0)]) };
        let scheduled = schedule(&[off, job(vec![op(100, 0, 2_000)])]);
        assert_eq!(scheduled.starts_ms, [vec![100], vec![0]]);
        assert_eq!(scheduled.ready_ms, 2_100);
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
        let op = (any::<bool>(), 20u32..300, 0u32..900, 0u32..4_000).prop_map(|(radio, send_ms, lag_ms, tail)| Op {
            medium: if radio { Medium::Rf433 } else { Medium::Ir },
            send_ms,
            lag_ms,
            within_ms: None,
            shows_ms: tail,
            settles_ms: tail,
        });
        let job = (prop::collection::vec(op, 1..4), 0u32..500, any::<bool>()).prop_map(|(ops, head_ms, needed)| Job {
            head_ms,
            ops,
            needed,
        });
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
                walk(jobs, &node.send(jobs, job, false).unwrap(), best);
            }
        }
        let mut best = u32::MAX;
        walk(jobs, &Node::root(jobs), &mut best);
        best
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
            let mut sends: Vec<(Medium, u32, u32)> = vec![];
            for (job, starts) in jobs.iter().zip(&scheduled.starts_ms) {
                prop_assert_eq!(starts.len(), job.ops.len());
                for (place, &start) in starts.iter().enumerate() {
                    let op = job.ops[place];
                    sends.push((op.medium, start, start + op.send_ms));
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
