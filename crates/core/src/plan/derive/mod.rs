//! The derivation of a plan: goals → words → chains → schedule → steps and waits with their reasons.
//!
//! | file | what |
//! | --- | --- |
//! | [`request`] | what a plan is asked for, and what comes of it |
//! | [`words`] | sequences of keys that bring each group home |
//! | [`choose`] | which of them each device is sent |
//! | [`order`] | what holds a job back, and what a send occupies |
//! | [`script`] | the plan as it is read, and as it is proved and run |

mod choose;
mod order;
mod request;
mod script;
mod words;

pub use request::{Derived, HomeCache, LookScript, PlanRequest, Script, ScriptStep, joint};

use choose::Choice;
use script::{hazards, unsent};

use crate::device::homing::Word;
use crate::device::look::Seen;
use crate::device::{Group, Joint, Timed};
use crate::finding::{Finding, Weight};
use crate::id::DeviceId;
use crate::model::{FindingKind, PlanChange, Standing};
use crate::plan::abstracted;
use crate::plan::airspace::Airspace;
use crate::plan::chain::Send;
use crate::plan::goal::{self, DeviceGoal, Goals};
use crate::plan::jobs::Job;
use crate::plan::run;
use crate::plan::schedule::{BoundBy, Scheduled};
use crate::plan::{Plan, hand};
use crate::wiring;
use rustc_hash::FxHashSet;
use std::collections::{BTreeMap, BTreeSet};

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
    /// Are these all the words that can be the best in a schedule?
    whole: bool,
    nodes: usize,
}

impl Chain {
    /// The same, begun `ms` later.
    fn later(mut self, ms: u32) -> Self {
        for first in self.options.iter_mut().filter_map(|sends| sends.first_mut()) {
            first.wait_ms += ms;
            first.evidence_ms += ms;
        }
        self
    }
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
    media: Airspace,
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
        media: Airspace::of(request),
        findings,
    };
    let before = deriver.findings.clone();
    let mut derived = deriver.solve(false);
    let coupled = request.groups.iter().any(|group| !group.is_single());
    if coupled && !deriver.arrives(&derived) {
        // The couplings spoil it: settle what causes them first.
        let found = std::mem::replace(&mut deriver.findings, before);
        let careful = deriver.solve(true);
        if deriver.arrives(&careful) {
            derived = careful;
        } else {
            deriver.findings = found;
        }
    }
    deriver.forgive(&mut derived);
    let plan = &mut derived.plan;
    (plan.goals, plan.video, plan.audio) = (goals, video, audio);
    plan.findings.append(&mut deriver.findings);
    plan.findings.sort_by(|a, b| a.weight.cmp(&b.weight).then_with(|| a.text.cmp(&b.text)));
    plan.findings.dedup();
    let served = |finding: &Finding| {
        let device = finding.no_safe_way()?;
        let group = request.groups.iter().position(|group| group.place(device).is_some())?;
        derived.parts.get(&group).map(|part| !part.is_empty())
    };
    plan.confirm =
        plan.findings.iter().filter(|finding| served(finding) == Some(true)).filter_map(Finding::no_safe_way).collect();
    plan.runnable =
        plan.findings.iter().all(|finding| finding.weight != Weight::Stops || served(finding) == Some(true));
    if !plan.runnable && plan.steps.is_empty() {
        // Nothing brings it there: that is no plan that is ready at once.
        plan.ready_ms = None;
    }
    derived
}

impl Deriver<'_> {
    fn needed(&self, device: DeviceId) -> bool {
        self.goals.get(&device).is_some_and(|goal| goal.needed)
    }

    /// Do the coupled groups end where they should, from everything that is known?
    fn arrives(&self, derived: &Derived) -> bool {
        self.request
            .groups
            .iter()
            .zip(&self.request.known)
            .zip(&derived.scripts)
            .all(|((group, known), script)| group.is_single() || self.group_arrives(group, known, script, true))
    }

    /// Does a group end where it should, from everything that is known of it? `one_by_one` where that is all there is: else
    /// only one set of states a member can tell.
    fn group_arrives(&self, group: &Group<'_>, known: &BTreeSet<Joint>, script: &Script, one_by_one: bool) -> bool {
        let targets = self.targets(group);
        // One set a member says *yes* sooner, where it does.
        let quick = || {
            let of_member = |member: usize| {
                let different: FxHashSet<Timed> = known.iter().map(|joint| joint.members[member]).collect();
                different.into_iter().collect::<Vec<Timed>>()
            };
            let lists: Vec<Vec<Timed>> = (0..group.members.len()).map(of_member).collect();
            script.look.is_none() && abstracted::all_arrive(group, &lists, &script.steps, &targets)
        };
        let few = known.len() <= JOINT_MAX;
        (!few && quick()) || ((few || one_by_one) && run::all_arrive(group, known.iter(), script, &targets))
    }

    /// A member that no sequence of its own brings home may be brought there by what switches it: where a whole group
    /// arrives from all that is known of it, nothing is missing.
    fn forgive(&mut self, derived: &mut Derived) {
        let short: Vec<usize> = derived.parts.keys().copied().collect();
        for at in short {
            let group = &self.request.groups[at];
            let (known, script) = (&self.request.known[at], &derived.scripts[at]);
            if !group.is_single() && !known.is_empty() && self.group_arrives(group, known, script, self.request.whole) {
                derived.parts.remove(&at);
                let of_group = |device: DeviceId| group.place(device).is_some();
                self.findings.retain(|finding| !finding.no_safe_way().is_some_and(of_group));
            }
        }
    }

    fn solve(&mut self, upstream_first: bool) -> Derived {
        let mut short: Vec<(usize, Finding, BTreeSet<Joint>)> = Vec::new();
        let mut before_links: Vec<(usize, usize, u32)> = Vec::new();
        let mut chains: Vec<Chain> = Vec::new();
        for (at, group) in self.request.groups.iter().enumerate() {
            let known = &self.request.known[at];
            if group.is_single() {
                let solved = self.single(at, group, known);
                chains.extend(solved.chain);
                short.extend(solved.short.map(|(finding, part)| (at, finding, part)));
            } else {
                let mut found = Vec::new();
                self.coupled(at, group, known, upstream_first, &mut chains, &mut before_links, &mut found);
                short.extend(found.into_iter().map(|(finding, part)| (at, finding, part)));
            }
        }
        let arrival = self.arrival();
        let extra = chains.len();
        chains.extend(arrival.into_iter().map(|send| Chain {
            group: usize::MAX,
            options: vec![vec![send]],
            look: None,
            shortest: true,
            whole: true,
            nodes: 0,
        }));
        let found: Vec<Finding> = short.iter().map(|(_, finding, _)| finding.clone()).collect();
        let mut derived = self.lay_out(&chains, extra, &before_links, found.clone());
        for (at, _, part) in short {
            // Where several members of a group fall short, it is made for what all their parts have in common.
            let known = derived.parts.get(&at).map(|known| known.intersection(&part).cloned().collect());
            derived.parts.insert(at, known.unwrap_or(part));
        }
        derived.cut = (0..self.request.groups.len()).filter(|&at| self.request.known[at].is_empty()).collect();
        derived
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
            Some(BoundBy::Medium(medium)) => format!("the commands that share {}", self.media.name(medium)),
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
        let Choice { best, bound, proved, rules, nodes } = self.best_choice(chains, arrival_from, links);
        let Some(Laid { sends, jobs, scheduled, misfits, notes }) = best else {
            return self.nothing(found);
        };
        self.findings.extend(found);
        self.findings.extend(notes);
        self.findings.extend(sends.iter().flat_map(|own| unsent(site, own)));
        self.findings.extend(hazards(site, &sends));
        if !scheduled.feasible {
            self.findings.push(Finding::of(site, FindingKind::OrderNotKept));
        }
        let (bound_ms, bound_by) = bound;
        // What is already under way is not there sooner, whatever is sent.
        let floor_ms = self.floor_ms();
        let (bound_ms, ready_ms) = (bound_ms.max(floor_ms), scheduled.ready_ms.max(floor_ms));
        let end_ms = scheduled.end_ms.max(floor_ms);
        let (all_shortest, whole) = (chains.iter().all(|chain| chain.shortest), chains.iter().all(|chain| chain.whole));
        let is_optimal = match bound_by {
            // A chain whose sequence is the shortest bounds the plan, whatever the others are.
            _ if ready_ms == floor_ms => true,
            Some(BoundBy::Chain(job)) if ready_ms == bound_ms => chains[job].shortest,
            // Over these words, and only where all of them were kept.
            _ => all_shortest && whole && (ready_ms == bound_ms || proved),
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
            ready_ms: Some(ready_ms),
            end_ms,
            bound_ms: bound_ms.min(ready_ms),
            bound_by,
            optimal: scheduled.feasible && is_optimal,
            not_shortest: chains
                .iter()
                .zip(&sends)
                .filter(|(chain, _)| !chain.shortest)
                .filter_map(|(_, own)| own.first().map(|send| send.device))
                .collect(),
            nodes,
            homing_nodes: chains.iter().map(|chain| chain.nodes).sum(),
            sequential_ms: jobs.iter().map(Job::alone_ms).sum(),
            rules,
            misfits,
            runnable: true,
            confirm: vec![],
            findings: Vec::new(),
        };
        let scripts = self.write(chains, &sends, &scheduled, &mut plan);
        Derived { plan, scripts, parts: BTreeMap::new(), cut: BTreeSet::new() }
    }

    /// When what is under way already, and wanted, is there at the latest: a picture that is coming, a screen that is
    /// on its way.
    fn floor_ms(&self) -> u32 {
        let mut floor = 0;
        for (group, known) in self.request.groups.iter().zip(&self.request.known) {
            for (member, target) in self.targets(group).iter().enumerate() {
                if !self.needed(group.members[member].0) {
                    continue;
                }
                for timed in known.iter().map(|joint| &joint.members[member]) {
                    let arrives = target.position.is_some_and(|to| Standing::from(to) == timed.state.position);
                    let shows = timed.state.on && target.on != Some(false);
                    floor = floor.max(if arrives { timed.travel.hi_ms } else { 0 });
                    floor = floor.max(if shows {
                        timed.power.hi_ms.max(timed.picture_ms).max(timed.input.hi_ms)
                    } else {
                        0
                    });
                }
            }
        }
        floor
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
            ready_ms: Some(self.floor_ms()),
            end_ms: self.floor_ms(),
            bound_ms: self.floor_ms(),
            bound_by: "nothing has to be sent".to_owned(),
            optimal: true,
            not_shortest: vec![],
            nodes: 0,
            homing_nodes: 0,
            sequential_ms: 0,
            rules: vec![],
            misfits: vec![],
            runnable: true,
            confirm: vec![],
            findings: vec![],
        };
        let scripts = self.request.groups.iter().map(|_| Script::default()).collect();
        Derived { plan, scripts, parts: BTreeMap::new(), cut: BTreeSet::new() }
    }
}
