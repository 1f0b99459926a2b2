//! The derivation of a plan: goals → words → chains → schedule → steps and waits with their reasons.
//!
//! | file | what |
//! | --- | --- |
//! | [`request`] | what a plan is asked for, and what comes of it |
//! | [`words`] | sequences of keys that bring each group home |
//! | [`order`] | what holds a job back, and what a send occupies |
//! | [`script`] | the plan as it is read, and as it is proved and run |

mod order;
mod request;
mod script;
mod words;

pub use request::{Derived, HomeCache, LookScript, PlanRequest, Script, ScriptStep, joint};

use script::{hazards, missing_codes};
use words::choices;

use crate::device::homing::Word;
use crate::device::look::Seen;
use crate::finding::{Finding, Weight};
use crate::id::DeviceId;
use crate::model::{FindingKind, PlanChange};
use crate::plan::chain::Send;
use crate::plan::goal::{self, DeviceGoal, Goals};
use crate::plan::jobs::Job;
use crate::plan::run;
use crate::plan::schedule::{self, BoundBy, Scheduled};
use crate::plan::{Plan, hand};
use crate::wiring;
use std::collections::BTreeMap;

/// How many choices of words are scheduled.
const CHOICES: usize = 24;

/// Joint states above which a coupled group is not homed as one machine.
const JOINT_MAX: usize = 60;

/// Labels that are looked at before a coupled group is homed device by device.
const JOINT_NODES: usize = 600;

/// Groups of more members are homed device by device.
const JOINT_MEMBERS: usize = 2;

/// More states than this are not enumerated for a coupled group.
const PRODUCT_MAX: usize = 400_000;

/// What was found for one chain: the sends that can be chosen, in their order of preference.
struct Chain {
    group: usize,
    options: Vec<Vec<Send>>,
    look: Option<PlannedLook>,
    shortest: bool,
    nodes: usize,
}

/// A look and its branches.
struct PlannedLook {
    ms: u32,
    branches: Vec<(Seen, Word)>,
    worst: usize,
}

/// One choice of words with its schedule, the changes by hand that fit nothing, and what was found.
struct Laid {
    sends: Vec<Vec<Send>>,
    jobs: Vec<Job>,
    scheduled: Scheduled,
    misfits: Vec<String>,
    notes: Vec<Finding>,
}

struct Deriver<'r> {
    request: &'r PlanRequest<'r>,
    goals: BTreeMap<DeviceId, DeviceGoal>,
    changes: Vec<PlanChange>,
    findings: Vec<Finding>,
}

/// Derives the plan.
#[must_use]
pub fn derive(request: &PlanRequest<'_>) -> Derived {
    let site = request.site;
    let Goals { devices: goals, video, audio, mut findings } = match request.house_except {
        Some(except) => goal::house(site, except),
        None => goal::goals(site, request.room, request.to),
    };
    if request.house_except.is_none() {
        findings.extend(wiring::check(site, request.room));
    }
    let changes = match request.house_except {
        None => site.room(request.room).map(|room| hand::of(&room.plans.hand, request.from, request.to)),
        Some(_) => None,
    };
    let mut deriver = Deriver {
        request,
        goals: goals.iter().map(|goal| (goal.device, goal.clone())).collect(),
        changes: changes.unwrap_or_default(),
        findings,
    };
    let mut derived = deriver.solve(false);
    let coupled = request.groups.iter().any(|group| !group.links.is_empty());
    if coupled && !deriver.arrives(&derived) {
        // The couplings spoil it: settle what causes them first.
        let careful = deriver.solve(true);
        if deriver.arrives(&careful) {
            derived = careful;
        }
    }
    let plan = &mut derived.plan;
    (plan.goals, plan.video, plan.audio) = (goals, video, audio);
    plan.findings.append(&mut deriver.findings);
    plan.findings.sort_by(|a, b| a.weight.cmp(&b.weight).then_with(|| a.text.cmp(&b.text)));
    plan.findings.dedup();
    plan.runnable = plan.findings.iter().all(|finding| finding.weight != Weight::Stops);
    derived
}

/// What came of scheduling every choice of words.
struct Choice {
    best: Option<Laid>,
    bound: Option<(u32, Option<BoundBy>)>,
    /// Was every choice looked at, and each scheduled to the end?
    proved: bool,
    rules: Vec<super::KeptRule>,
}

impl Deriver<'_> {
    fn needed(&self, device: DeviceId) -> bool {
        self.goals.get(&device).is_some_and(|goal| goal.needed)
    }

    /// Do the coupled groups end where they should, from everything that is known?
    fn arrives(&self, derived: &Derived) -> bool {
        self.request.groups.iter().zip(&self.request.known).zip(&derived.scripts).all(|((group, known), script)| {
            group.links.is_empty() || run::all_arrive(group, known.iter(), script, &self.targets(group))
        })
    }

    fn solve(&mut self, upstream_first: bool) -> Derived {
        let mut found = Vec::new();
        let mut before_links: Vec<(usize, usize, u32)> = Vec::new();
        let mut chains: Vec<Chain> = Vec::new();
        for (at, group) in self.request.groups.iter().enumerate() {
            let known = &self.request.known[at];
            if group.links.is_empty() {
                match self.single(at, group, known) {
                    Ok(chain) => chains.extend(chain),
                    Err(finding) => found.push(*finding),
                }
            } else {
                self.coupled(at, group, known, upstream_first, &mut chains, &mut before_links, &mut found);
            }
        }
        let arrival = self.arrival();
        let extra = chains.len();
        chains.extend(arrival.into_iter().map(|send| Chain {
            group: usize::MAX,
            options: vec![vec![send]],
            look: None,
            shortest: true,
            nodes: 0,
        }));
        let derived = self.lay_out(&chains, extra, &before_links, found.clone());
        if upstream_first {
            self.findings.retain(|finding| !found.contains(finding));
        }
        derived
    }

    /// The best of the choices of words, each scheduled, and the bound over all of them.
    fn best_choice(&mut self, chains: &[Chain], arrival_from: usize, links: &[(usize, usize, u32)]) -> Choice {
        let site = self.request.site;
        let mut best: Option<Laid> = None;
        let mut bound: Option<(u32, Option<BoundBy>)> = None;
        let mut proved = true;
        let mut rules = Vec::new();
        for (number, choice) in choices(chains).into_iter().enumerate() {
            if number == CHOICES {
                proved = false;
                break;
            }
            let mut sends = choice;
            let mut notes = Vec::new();
            let misfits = hand::carry_out(site, &mut sends, &self.changes, &mut notes);
            let jobs: Vec<Job> = sends.iter().zip(chains).map(|(own, chain)| self.job(own, chain)).collect();
            let (before, kept) = self.before(&sends, arrival_from, links, &mut notes);
            let scheduled = schedule::schedule(&jobs, &before);
            proved &= scheduled.optimal || scheduled.ready_ms == scheduled.bound_ms;
            if bound.is_none_or(|(known, _)| scheduled.bound_ms < known) {
                bound = Some((scheduled.bound_ms, scheduled.bound_by));
            }
            let sent = |sends: &[Vec<Send>]| sends.iter().map(Vec::len).sum::<usize>();
            let figure = |scheduled: &Scheduled, sends: &[Vec<Send>]| {
                (!scheduled.feasible, scheduled.ready_ms, scheduled.end_ms, sent(sends))
            };
            let done = number == 0
                && scheduled.ready_ms == scheduled.bound_ms
                && matches!(scheduled.bound_by, Some(BoundBy::Chain(_)) | None);
            let better =
                best.as_ref().is_none_or(|known| figure(&scheduled, &sends) < figure(&known.scheduled, &known.sends));
            if better {
                rules = kept;
                best = Some(Laid { sends, jobs, scheduled, misfits, notes });
            }
            // The quickest word of every chain, and the longest chain decides: no other choice is ready sooner.
            if done {
                break;
            }
        }
        Choice { best, bound, proved, rules }
    }

    /// What keeps the plan from being ready sooner, in words.
    fn bound_words(&self, bound_by: Option<BoundBy>, sends: &[Vec<Send>]) -> String {
        let site = self.request.site;
        match bound_by {
            None => "nothing has to be sent".to_owned(),
            Some(BoundBy::Chain(job)) => match sends[job].first() {
                Some(send) => format!("the longest chain, that of {}", site.device_name(send.device)),
                None => "the longest chain".to_owned(),
            },
            Some(BoundBy::Medium(medium)) => format!("the commands that share {}", self.resource_name(medium)),
        }
    }

    fn lay_out(
        &mut self,
        chains: &[Chain],
        arrival_from: usize,
        links: &[(usize, usize, u32)],
        found: Vec<Finding>,
    ) -> Derived {
        let site = self.request.site;
        let Choice { best, bound, proved, rules } = self.best_choice(chains, arrival_from, links);
        let Some(Laid { sends, jobs, scheduled, misfits, notes }) = best else {
            return self.nothing(found);
        };
        self.findings.extend(found);
        self.findings.extend(notes);
        self.findings.extend(sends.iter().flat_map(|own| missing_codes(site, own)));
        self.findings.extend(hazards(site, &sends));
        if !scheduled.feasible {
            self.findings.push(Finding::of(site, FindingKind::OrderNotKept));
        }
        let (bound_ms, bound_by) = bound.unwrap_or((0, None));
        let all_shortest = chains.iter().all(|chain| chain.shortest);
        let is_optimal = match bound_by {
            // A chain whose sequence is the shortest bounds the plan, whatever the others are.
            Some(BoundBy::Chain(job)) if scheduled.ready_ms == bound_ms => chains[job].shortest,
            _ => all_shortest && (scheduled.ready_ms == bound_ms || (proved && scheduled.optimal)),
        };
        let bound_by = self.bound_words(bound_by, &sends);
        let mut plan = Plan {
            room: self.request.room,
            from: self.request.from,
            to: self.request.to,
            steps: Vec::new(),
            waits: Vec::new(),
            looks: Vec::new(),
            goals: Vec::new(),
            video: Vec::new(),
            audio: Vec::new(),
            ready_ms: scheduled.ready_ms,
            end_ms: scheduled.end_ms,
            bound_ms: bound_ms.min(scheduled.ready_ms),
            bound_by,
            optimal: scheduled.feasible && is_optimal,
            not_shortest: chains
                .iter()
                .zip(&sends)
                .filter(|(chain, _)| !chain.shortest)
                .filter_map(|(_, own)| own.first().map(|send| send.device))
                .collect(),
            nodes: scheduled.nodes,
            homing_nodes: chains.iter().map(|chain| chain.nodes).sum(),
            sequential_ms: jobs.iter().map(Job::alone_ms).sum(),
            rules,
            misfits,
            runnable: true,
            findings: Vec::new(),
        };
        let scripts = self.write(chains, &sends, &scheduled, &mut plan);
        Derived { plan, scripts }
    }

    fn nothing(&mut self, found: Vec<Finding>) -> Derived {
        self.findings.extend(found);
        let plan = Plan {
            room: self.request.room,
            from: self.request.from,
            to: self.request.to,
            steps: vec![],
            waits: vec![],
            looks: vec![],
            goals: vec![],
            video: vec![],
            audio: vec![],
            ready_ms: 0,
            end_ms: 0,
            bound_ms: 0,
            bound_by: "nothing has to be sent".to_owned(),
            optimal: true,
            not_shortest: vec![],
            nodes: 0,
            homing_nodes: 0,
            sequential_ms: 0,
            rules: vec![],
            misfits: vec![],
            runnable: true,
            findings: vec![],
        };
        Derived { plan, scripts: self.request.groups.iter().map(|_| Script::default()).collect() }
    }
}
