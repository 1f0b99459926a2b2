//! Will it behave? Every cell of the switch matrix, proved from every state a device can be in.
//!
//! [`ours`] works out the states that our own plans leave behind; [`run`] carries a script forwards from
//! sets of states, [`crate::plan::abstracted`] does so quickly for coupled groups; [`story`] tells how a plan goes wrong,
//! [`rests`] what a verdict rests on, [`supported`] what the runtime may call ready unseen, [`loss`] how likely a lost press spoils it, [`remedy`] what would help,
//! [`hands`] what other hands do, [`handed`] where an evening starts, and [`diagnose`] goes backwards from what was seen.
//!
//! Groups that nothing couples are proved apart, each for every delay that its lag windows allow, so the
//! work grows with the largest coupled group and not with the house.

pub mod changes;
pub mod diagnose;
pub mod explore;
mod handed;
pub mod hands;
pub mod light;
pub mod loss;
pub mod ours;
pub mod remedy;
pub mod rests;
mod stands;
pub mod story;
mod support;
#[cfg(test)]
mod tests;
pub mod waits;

use crate::model::FindingKind;
pub use handed::{Handed, handed};
pub use light::{LightGoal, LightProof};
pub use loss::{Loss, Raise, Range};
pub use rests::RestsOn;
pub use stands::stands;
pub use story::{Beat, Course};
pub use support::supported;
pub use waits::WaitOfRoom;

use crate::device::{Group, Joint, Target, Timed};
use crate::finding::Finding;
use crate::id::{DeviceId, RoomId};
use crate::model::{Policy, Site, Situation};
use crate::plan::{Derived, Plan, Script, abstracted, run};
use crate::space::way::{Hitch, way};
use ours::{Ours, Product, STARTS_MAX, Sets};
use serde::Serialize;
use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// How far a plan can be relied on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Guarantee {
    /// It ends right from every state and for every duration within its interval.
    #[default]
    Certain,
    /// It ends right from the states that our own plans leave behind.
    IfNobodyElse,
    /// There were too many states to look at; no wrong end was found among those that were.
    NotProved,
    /// Some of those end wrong.
    AtRisk,
}

/// A proof that did not come to its end.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct NotProved {
    /// The devices, by name, that have too many states together.
    pub devices: Vec<String>,
    /// States that were looked at.
    pub looked_at: usize,
    /// States from which it was not tried at all; none where nobody can count them.
    pub left: Option<usize>,
    /// Was only the part beyond our own plans left out?
    pub beyond_ours: bool,
}

/// A device to which nothing can be sent.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Unsent {
    /// Which.
    pub device: DeviceId,
    /// Why.
    pub hitch: Hitch,
    /// The same in words.
    pub why: String,
}

/// One cell of the switch matrix.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Cell {
    /// Where it starts.
    pub from: Situation,
    /// Where it leads.
    pub to: Situation,
    /// When picture and sound are there (all off, for room-off), everything settled at the start, in ms; none where there
    /// is no plan that could be sent.
    pub ready_ms: Option<u32>,
    /// The same right after the last plan, where that is later: something still cools, in ms.
    pub hot_ms: Option<u32>,
    /// No plan is ready sooner, in ms.
    pub bound_ms: u32,
    /// Is that reached, or proved to be out of reach?
    pub optimal: bool,
    /// Transmissions.
    pub sends: usize,
    /// From which states it was derived.
    pub policy: Policy,
    /// When the plan of the other policy would be ready, in ms; none where that has no plan.
    pub other_ms: Option<u32>,
    /// How far it can be relied on.
    pub guarantee: Guarantee,
    /// Is every wait that it needs confirmed, or measured often enough?
    pub waits_hold: bool,
    /// The verdict in words.
    pub verdict: String,
    /// The weakest wait, where they do not all hold.
    pub weakest: Option<RestsOn>,
    /// How surely all waits that were measured hold together, in %; none where one of them was not.
    pub together_percent: Option<u8>,
    /// States that were looked at.
    pub states: usize,
    /// What was left out of the proof, where it did not come to its end.
    pub not_proved: Option<NotProved>,
    /// Devices to which its commands cannot be sent: as long as there is one, the verdict is of the plan alone.
    pub cannot_be_sent: Vec<Unsent>,
    /// Devices for which it is right only from the largest part of what they may be in.
    pub confirm: Vec<DeviceId>,
    /// The shortest wrong course of events, where there is one.
    pub story: Option<Course>,
    /// How likely a lost press spoils it.
    pub loss: Loss,
    /// What the light does; none where no cue of the room sets a level.
    pub light: Option<LightProof>,
    /// Can it be sent as it is?
    pub runnable: bool,
}

/// The switch matrix of a room.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Matrix {
    /// The room.
    pub room: RoomId,
    /// Off, and its activities in their order.
    pub situations: Vec<Situation>,
    /// Every pair of two different ones.
    pub cells: Vec<Cell>,
    /// States that were looked at in all.
    pub states: usize,
    /// Groups of devices that switch each other, by name.
    pub coupled: Vec<Vec<String>>,
    /// The waits that its verdicts rest on, the one first that decides most of them.
    pub waits: Vec<WaitOfRoom>,
}

/// A cell with its plan and what it rests on.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CellPlan {
    /// The cell.
    pub cell: Cell,
    /// Its plan: right whenever it is asked for, also right after the plan before. This is what is proved, printed and
    /// exported.
    pub plan: Plan,
    /// The quicker plan for a room in which everything has settled, where that is another.
    pub cold: Option<Plan>,
    /// Every wait that it needs, the weakest first.
    pub rests: Vec<RestsOn>,
    /// What happens where it is broken off and something else is asked for.
    pub broken_off: String,
}

/// A room, ready to be asked about its cells.
pub struct Analysis<'a> {
    ours: Ours<'a>,
    /// What came of running a script of a group from everything: many cells send the same.
    from_all: RefCell<Vec<Known>>,
}

/// A script of a group and its targets, and what came of it from everything.
struct Known {
    group: usize,
    script: Script,
    targets: Vec<Target>,
    found: FromAll,
}

/// A script run from everything that a group may be in.
#[derive(Clone)]
struct FromAll {
    outcome: run::Outcome,
    /// Start states that were taken up.
    met: usize,
}

/// States that all the proofs of one room from everything may look at: what two seconds are enough for.
const STATES_OF_ROOM: usize = 1_200_000;

/// Yet no fewer than these in one of them.
const STATES_OF_PROOF: usize = 10_000;

/// The plan of a cell and what it was made from.
struct Made {
    derived: Derived,
    known: Sets,
}

impl<'a> Analysis<'a> {
    /// Takes a room apart.
    #[must_use]
    pub fn of(site: &'a Site, room: RoomId) -> Self {
        Self { ours: Ours::of(site, room), from_all: RefCell::default() }
    }

    /// What is ours.
    #[must_use]
    pub fn ours(&self) -> &Ours<'a> {
        &self.ours
    }

    fn policy(&self) -> Policy {
        self.ours.policy()
    }

    /// The states of ours in which `from` is current, settled or with whatever may still be under way; those that meet
    /// its goals where none is known.
    fn ours_in(&self, from: Situation, hot: bool) -> Sets {
        let nominal = self.ours.nominal.get(&from).cloned().unwrap_or_default();
        let sets = if hot { &self.ours.hot } else { &self.ours.settled };
        let Some(known) = sets.get(&from) else { return nominal };
        known
            .iter()
            .zip(nominal)
            .map(|(known, nominal)| if known.is_empty() { nominal } else { known.clone() })
            .collect()
    }

    /// The plan that is right whenever it is asked for.
    fn make(&self, from: Situation, to: Situation, policy: Policy) -> Made {
        let (derived, known) = self.ours.plan_for(self.ours_in(from, true), from, to, policy);
        Made { derived, known }
    }

    /// The plan for a room in which everything has settled.
    fn cold(&self, from: Situation, to: Situation, policy: Policy) -> Made {
        let ours = self.ours_in(from, false);
        let (derived, known) = match policy {
            Policy::Trusting => (self.ours.derive_from(&ours, from, to), ours),
            Policy::Safe => self.ours.safe_at_rest(ours, from, to),
        };
        Made { derived, known }
    }

    /// The matrix.
    #[must_use]
    pub fn matrix(&self) -> Matrix {
        let cells = self.ends().into_iter().map(|(from, to)| self.cell_and_rests(from, to)).collect();
        self.matrix_of(cells)
    }

    /// The matrix, cell by cell: `goes_on` is told how many of how many are done, and ends it by saying no.
    #[must_use]
    pub fn matrix_watched(&self, mut goes_on: impl FnMut(usize, usize) -> bool) -> Option<Matrix> {
        let ends = self.ends();
        let of = ends.len();
        let mut cells = Vec::with_capacity(of);
        for (from, to) in ends {
            if !goes_on(cells.len(), of) {
                return None;
            }
            cells.push(self.cell_and_rests(from, to));
        }
        Some(self.matrix_of(cells))
    }

    /// Every pair of different situations, row by row.
    fn ends(&self) -> Vec<(Situation, Situation)> {
        let situations = &self.ours.situations;
        let row =
            |from: &Situation| situations.iter().filter(|to| *to != from).map(|to| (*from, *to)).collect::<Vec<_>>();
        situations.iter().flat_map(row).collect()
    }

    fn matrix_of(&self, cells: Vec<(Cell, Vec<RestsOn>)>) -> Matrix {
        let waits = waits::waits(&cells);
        let cells: Vec<Cell> = cells.into_iter().map(|(cell, _)| cell).collect();
        let situations = self.ours.situations.clone();
        let name =
            |group: &Group<'_>| group.members.iter().map(|(device, _)| self.ours.site.device_name(*device)).collect();
        Matrix {
            room: self.ours.room,
            states: cells.iter().map(|cell| cell.states).sum(),
            situations,
            cells,
            waits,
            coupled: self.ours.groups.iter().filter(|group| !group.links.is_empty()).map(name).collect(),
        }
    }

    /// The plan of one cell.
    #[must_use]
    pub fn plan(&self, from: Situation, to: Situation) -> Plan {
        self.make(from, to, self.policy()).derived.plan
    }

    /// The plan of one cell, and the quicker one for a room in which everything has settled.
    #[must_use]
    pub fn both_plans(&self, from: Situation, to: Situation) -> (Plan, Plan) {
        let policy = self.policy();
        (self.make(from, to, policy).derived.plan, self.cold(from, to, policy).derived.plan)
    }

    /// One cell.
    #[must_use]
    pub fn cell(&self, from: Situation, to: Situation) -> Cell {
        self.look_into(from, to).0
    }

    /// One cell, with what it rests on.
    fn cell_and_rests(&self, from: Situation, to: Situation) -> (Cell, Vec<RestsOn>) {
        let (cell, _, _, rests) = self.look_into(from, to);
        (cell, rests)
    }

    /// One cell with its plan.
    #[must_use]
    pub fn cell_plan(&self, from: Situation, to: Situation) -> CellPlan {
        let (cell, made, cold, rests) = self.look_into(from, to);
        let broken_off = self.broken_off(&made, from, to);
        let cold = Some(cold.derived.plan).filter(|cold| cold.ready_ms != made.derived.plan.ready_ms);
        CellPlan { cell, plan: made.derived.plan, cold, rests, broken_off }
    }

    fn look_into(&self, from: Situation, to: Situation) -> (Cell, Made, Made, Vec<RestsOn>) {
        let site = self.ours.site;
        let policy = self.policy();
        let made = self.make(from, to, policy);
        let cold = self.cold(from, to, policy);
        let proof = self.judge(&made, &cold, from);
        let nobody_else = site.room(self.ours.room).is_some_and(|room| room.plans.nobody_else);
        let guarantee = match proof.guarantee {
            Guarantee::IfNobodyElse if nobody_else => Guarantee::Certain,
            other => other,
        };
        let light = light::light(site, self.ours.room, from, to);
        let dark = light.as_ref().is_some_and(|light| light.wrong.is_some());
        let plan = &made.derived.plan;
        let rests = self.rests(&made, guarantee);
        let waits_hold = rests.iter().all(|rest| rest.holds);
        let cannot_be_sent = unsent(site, plan);
        let said = Said {
            guarantee,
            waits_hold,
            nobody_else,
            dark,
            beyond: proof.not_proved.as_ref().is_some_and(|cut| cut.beyond_ours),
            unsent: cannot_be_sent.first().map(|unsent| unsent.why.clone()),
        };
        let cell = Cell {
            from,
            to,
            ready_ms: cold.derived.plan.ready_ms,
            hot_ms: plan.ready_ms.filter(|&ms| cold.derived.plan.ready_ms.is_none_or(|cold| ms > cold)),
            bound_ms: cold.derived.plan.bound_ms,
            optimal: cold.derived.plan.optimal,
            sends: plan.steps.len(),
            policy,
            other_ms: self.other(from, to, policy),
            guarantee: if dark { Guarantee::AtRisk } else { guarantee },
            waits_hold,
            verdict: said.verdict(),
            together_percent: rests::together(&rests),
            weakest: rests.iter().find(|rest| !rest.holds).cloned(),
            states: proof.states,
            not_proved: proof.not_proved,
            confirm: plan.confirm.clone(),
            story: proof.story,
            loss: self.loss(&made, from),
            light,
            runnable: plan.runnable && cannot_be_sent.is_empty(),
            cannot_be_sent,
        };
        (cell, made, cold, rests)
    }

    /// When the plan of the other policy would be ready; none where that has no plan for all that it asks for.
    fn other(&self, from: Situation, to: Situation, policy: Policy) -> Option<u32> {
        let other = match policy {
            Policy::Trusting => Policy::Safe,
            Policy::Safe => Policy::Trusting,
        };
        if other == Policy::Safe && self.ours.has_none_at_rest(to) {
            return None;
        }
        let made = self.cold(from, to, other);
        let whole = made.derived.parts.is_empty() && made.derived.cut.is_empty();
        made.derived.plan.ready_ms.filter(|_| whole && made.derived.plan.runnable)
    }

    fn loss(&self, made: &Made, from: Situation) -> Loss {
        let targets: Vec<Vec<Target>> =
            (0..self.ours.groups.len()).map(|group| self.ours.targets(&made.derived.plan.goals, group)).collect();
        let starts = self.starts_of(made, from);
        loss::loss(self.ours.site, &self.ours.groups, &starts, &made.derived.scripts, &targets)
    }

    /// The waits that the verdict of a plan needs, the weakest first.
    fn rests(&self, made: &Made, guarantee: Guarantee) -> Vec<RestsOn> {
        let everything = (guarantee == Guarantee::Certain).then(|| {
            (0..self.ours.groups.len()).map(|group| self.ours.anything(group)).collect::<Vec<Vec<Vec<Timed>>>>()
        });
        rests::rests_on(self.ours.site, &self.ours.groups, &made.known, everything.as_deref(), &made.derived)
    }

    /// The states from which a plan was made, for what does not ask about other hands.
    fn starts_of(&self, made: &Made, from: Situation) -> Sets {
        let ours = self.ours_in(from, false);
        let pick = |(group, ours): (usize, BTreeSet<Joint>)| {
            let nominal = self.ours.nominal.get(&from).map(|sets| sets[group].clone()).unwrap_or_default();
            if made.derived.parts.contains_key(&group) { nominal } else { ours }
        };
        ours.into_iter().enumerate().map(pick).collect()
    }

    /// The proof of a cell: of its plan whenever it is asked for, and of the quicker one for a room that has settled.
    fn judge(&self, made: &Made, cold: &Made, from: Situation) -> Proof {
        let mut proof = self.prove(made, from);
        if proof.guarantee == Guarantee::AtRisk || cold.derived.scripts == made.derived.scripts {
            return proof;
        }
        for (at, starts) in self.ours_in(from, false).iter().enumerate() {
            let targets = self.ours.targets(&cold.derived.plan.goals, at);
            let script = &cold.derived.scripts[at];
            let found = run::first_failure(&self.ours.groups[at], starts.iter(), script, &targets);
            proof.states += found.states;
            if let Some(start) = found.failure {
                proof.guarantee = Guarantee::AtRisk;
                proof.story = self.tell(at, &start, cold, from, &targets);
                return proof;
            }
        }
        if proof.guarantee == Guarantee::Certain {
            self.touched_long_ago(&mut proof, cold, from);
        }
        proof
    }

    /// The quicker plan is sent to a room that has settled, but somebody may have touched it before that: a certain cell
    /// is certain for that plan too, from everything at rest.
    fn touched_long_ago(&self, proof: &mut Proof, cold: &Made, from: Situation) {
        for at in 0..self.ours.groups.len() {
            let (found, whole) = self.run_from_rest(at, cold);
            proof.states += found.states;
            if found.failure.is_none() && whole {
                continue;
            }
            proof.guarantee = Guarantee::IfNobodyElse;
            if let Some(start) = found.failure {
                let targets = self.ours.targets(&cold.derived.plan.goals, at);
                proof.story = self.tell(at, &start, cold, from, &targets);
                return;
            }
            let group = &self.ours.groups[at];
            proof.not_proved = Some(NotProved {
                devices: group.members.iter().map(|(device, _)| self.ours.site.device_name(*device)).collect(),
                looked_at: proof.states,
                left: None,
                beyond_ours: true,
            });
        }
    }

    /// The script of a group from everything at rest, and whether all of that was looked at.
    fn run_from_rest(&self, at: usize, made: &Made) -> (run::Outcome, bool) {
        let group = &self.ours.groups[at];
        let targets = self.ours.targets(&made.derived.plan.goals, at);
        let simple: Vec<Vec<Timed>> =
            self.ours.anything(at).iter().map(|list| list.iter().map(still).collect()).collect();
        let (mut met, mut settles) = (0, true);
        let rest = Product::new(group, &simple).take(STARTS_MAX).inspect(|_| met += 1);
        let rest = rest.flat_map(|joint| {
            group.settled(&at_rest(&joint)).unwrap_or_else(|_| {
                settles = false;
                BTreeSet::new()
            })
        });
        let most = self.states_of_proof();
        let found = run::first_failure_within(group, rest, &made.derived.scripts[at], &targets, most);
        let whole = settles && !found.cut && met < STARTS_MAX;
        (found, whole)
    }

    fn tell(&self, group: usize, start: &Joint, made: &Made, from: Situation, targets: &[Target]) -> Option<Course> {
        let nominal = self.ours.nominal.get(&from).and_then(|sets| sets[group].iter().next());
        let own = &self.ours.groups[group];
        story::story(self.ours.site, own, start, nominal, &made.derived.scripts[group], &made.derived.plan, targets)
    }

    fn prove(&self, made: &Made, from: Situation) -> Proof {
        let mut proof = Proof::default();
        for (group, ours) in self.ours_in(from, true).iter().enumerate() {
            let found = self.prove_group(group, made, from, ours);
            proof.states += found.states;
            if found.guarantee > proof.guarantee {
                (proof.guarantee, proof.story) = (found.guarantee, found.story);
            }
            proof.not_proved = match (proof.not_proved.take(), found.not_proved) {
                (Some(known), Some(more)) => Some(NotProved {
                    devices: known.devices.into_iter().chain(more.devices).collect(),
                    looked_at: known.looked_at + more.looked_at,
                    left: known.left.zip(more.left).map(|(a, b)| a.saturating_add(b)),
                    beyond_ours: known.beyond_ours && more.beyond_ours,
                }),
                (known, more) => known.or(more),
            };
        }
        proof
    }

    fn prove_group(&self, at: usize, made: &Made, from: Situation, ours: &BTreeSet<Joint>) -> Proof {
        let group = &self.ours.groups[at];
        let targets = self.ours.targets(&made.derived.plan.goals, at);
        let script: &Script = &made.derived.scripts[at];
        let lists = self.ours.anything(at);
        if targets.iter().all(|target| *target == Target::default()) {
            return Proof::default();
        }
        // Settled states first: they make the shorter stories.
        let settled = self.ours_in(from, false).swap_remove(at);
        let starts = settled.iter().chain(simplest_first(ours));
        let from_ours = run::first_failure(group, starts, script, &targets);
        let mut states = from_ours.states;
        if let Some(start) = from_ours.failure {
            let story = self.tell(at, &start, made, from, &targets);
            return Proof { guarantee: Guarantee::AtRisk, states, story, ..Proof::default() };
        }
        let count = lists.iter().map(Vec::len).try_fold(1usize, usize::checked_mul);
        let quick = !group.is_single()
            && script.look.is_none()
            && abstracted::all_arrive(group, &lists, &script.steps, &targets);
        if quick {
            return Proof { states: states.saturating_add(count.unwrap_or(usize::MAX)), ..Proof::default() };
        }
        let whole_ours = !from_ours.cut && !self.ours.cut.contains(&at) && !made.derived.cut.contains(&at);
        let FromAll { outcome: from_all, met } = self.run_from_all(at, script, &targets, &lists);
        let cut = from_all.cut;
        states += from_all.states;
        let guarantee = match (from_all.failure.is_none() && !cut, whole_ours) {
            (true, _) => Guarantee::Certain,
            (false, true) => Guarantee::IfNobodyElse,
            (false, false) => Guarantee::NotProved,
        };
        let story = from_all.failure.as_ref().and_then(|start| self.tell(at, start, made, from, &targets));
        let unproved = guarantee == Guarantee::NotProved || (cut && from_all.failure.is_none());
        let not_proved = unproved.then(|| NotProved {
            devices: group.members.iter().map(|(device, _)| self.ours.site.device_name(*device)).collect(),
            looked_at: states,
            left: count.map(|count| count.saturating_sub(met)),
            beyond_ours: guarantee == Guarantee::IfNobodyElse,
        });
        Proof { guarantee, states, not_proved, story }
    }

    /// A script of a group from everything that this may be in; the same one is run once.
    fn run_from_all(&self, group: usize, script: &Script, targets: &[Target], lists: &[Vec<Timed>]) -> FromAll {
        let same = |known: &&Known| {
            (known.group, known.targets.as_slice()) == (group, targets) && known.script.sends_as(script)
        };
        if let Some(known) = self.from_all.borrow().iter().find(same) {
            return known.found.clone();
        }
        let own = &self.ours.groups[group];
        // At rest first: it makes the shorter stories.
        let simple: Vec<Vec<Timed>> = lists.iter().map(|list| list.iter().map(still).collect()).collect();
        let mut met = 0;
        let everything = Product::new(own, &simple).map(|joint| at_rest(&joint)).chain(Product::new(own, lists));
        let everything = everything.take(STARTS_MAX).inspect(|_| met += 1);
        let mut outcome = run::first_failure_within(own, everything, script, targets, self.states_of_proof());
        outcome.cut |= met == STARTS_MAX;
        let found = FromAll { outcome, met };
        let (script, targets) = (script.clone(), targets.to_vec());
        self.from_all.borrow_mut().push(Known { group, script, targets, found: found.clone() });
        found
    }

    /// States that one proof from everything may look at.
    fn states_of_proof(&self) -> usize {
        let situations = self.ours.situations.len();
        let cells = situations * situations.saturating_sub(1);
        (STATES_OF_ROOM / cells.max(1)).clamp(STATES_OF_PROOF, run::STATES_MAX)
    }

    /// Can a plan be broken off after any of its commands, and every other situation be asked for then? The
    /// runtime goes on from exactly what it knows then.
    fn broken_off(&self, made: &Made, from: Situation, to: Situation) -> String {
        let starts = self.starts_of(made, from);
        let mut stuck = Vec::new();
        for (at, group) in self.ours.groups.iter().enumerate() {
            if !group.is_single() {
                continue;
            }
            let Ok(prefixes) = run::prefixes(group, &starts[at], &made.derived.scripts[at]) else { continue };
            let inner = prefixes.len().saturating_sub(1);
            for prefix in &prefixes[..inner] {
                for &next in self.ours.situations.iter().filter(|&&next| next != to) {
                    let goals = crate::plan::goal::goals(self.ours.site, self.ours.room, next).devices;
                    let targets = self.ours.targets(&goals, at);
                    let later: BTreeSet<Joint> = prefix
                        .iter()
                        .map(|joint| Joint::of(joint.members.iter().map(|member| member.any_time_later())))
                        .collect();
                    let sending = |device, letter| crate::plan::chain::sending(self.ours.site, device, letter);
                    let budget = (crate::device::homing::NODES / 10, &std::cell::Cell::new(0));
                    let home =
                        crate::device::homing::home_counted(group, &later, &targets, &|_, _| false, &sending, budget);
                    if home.is_err() {
                        stuck.push(self.ours.site.device_name(group.members[0].0));
                    }
                }
            }
        }
        stuck.sort();
        stuck.dedup();
        if stuck.is_empty() {
            "It can be broken off after any command: whatever is asked for then, a sequence leads there.".to_owned()
        } else {
            format!(
                "Broken off in between, {} can be left in a state from which no sequence is certain: let it finish.",
                stuck.join(" and ")
            )
        }
    }

    /// Devices whose own group is not certain in this cell, for the plan of any moment or for the quicker one.
    #[must_use]
    pub fn weak_spots(&self, from: Situation, to: Situation) -> Vec<crate::id::DeviceId> {
        let (made, cold) = (self.make(from, to, self.policy()), self.cold(from, to, self.policy()));
        let ours = self.ours_in(from, true);
        let holds_from_rest = |group: usize| {
            cold.derived.scripts[group] == made.derived.scripts[group]
                || matches!(self.run_from_rest(group, &cold), (found, true) if found.failure.is_none())
        };
        let weak = (0..self.ours.groups.len()).filter(|&group| {
            self.prove_group(group, &made, from, &ours[group]).guarantee != Guarantee::Certain
                || !holds_from_rest(group)
        });
        weak.flat_map(|group| self.ours.groups[group].members.iter().map(|(device, _)| *device)).collect()
    }

    /// What the margin says of the cells: those at risk, a note a device.
    #[must_use]
    pub fn findings(&self) -> Vec<Finding> {
        let site = self.ours.site;
        let mut findings: Vec<Finding> = Vec::new();
        for &from in &self.ours.situations {
            for &to in self.ours.situations.iter().filter(|&&to| to != from) {
                let (made, cold) = (self.make(from, to, self.policy()), self.cold(from, to, self.policy()));
                let proof = self.judge(&made, &cold, from);
                let Some(story) = proof.story.filter(|_| proof.guarantee == Guarantee::AtRisk) else { continue };
                // One note a device is enough; the matrix shows the rest.
                if !findings.iter().any(|known| known.place.device == Some(story.device)) {
                    let kind = FindingKind::AtRisk { from, to, device: story.device, story: story.headline };
                    findings.push(Finding::of(site, kind));
                }
            }
        }
        findings
    }
}

#[derive(Default)]
struct Proof {
    guarantee: Guarantee,
    states: usize,
    not_proved: Option<NotProved>,
    story: Option<Course>,
}

/// What a verdict says.
#[derive(Debug, Clone, Default)]
pub struct Said {
    /// How far the plan can be relied on.
    pub guarantee: Guarantee,
    /// Is every wait known well enough?
    pub waits_hold: bool,
    /// Is it a rule that nobody else touches the devices?
    pub nobody_else: bool,
    /// Does the light go wrong?
    pub dark: bool,
    /// Was what lies beyond our own plans not proved?
    pub beyond: bool,
    /// Why nothing can be sent to one of its devices.
    pub unsent: Option<String>,
}

impl Said {
    /// The verdict in words.
    #[must_use]
    pub fn verdict(&self) -> String {
        let plan = self.of_the_plan();
        match &self.unsent {
            Some(why) => format!("Cannot be sent: {why}. The plan: {plan}"),
            None => plan,
        }
    }

    fn of_the_plan(&self) -> String {
        let word = match self.guarantee {
            Guarantee::AtRisk => return "At risk".to_owned(),
            _ if self.dark => return "At risk: the light".to_owned(),
            Guarantee::NotProved => return "Not proved: too many states".to_owned(),
            Guarantee::Certain if self.nobody_else => "Certain, by the rule that nobody else touches it",
            Guarantee::Certain => "Certain",
            Guarantee::IfNobodyElse => "Certain if nobody else touches it",
        };
        let word = if self.waits_hold { word.to_owned() } else { format!("{word}, if the waits hold") };
        if self.beyond { format!("{word}; beyond that not proved") } else { word }
    }
}

/// The devices of a plan to which its commands cannot be sent, each with the first reason.
#[must_use]
pub fn unsent(site: &Site, plan: &Plan) -> Vec<Unsent> {
    let hitches =
        plan.steps.iter().filter_map(|step| Some((step.device, way(site, step.device, step.function).err()?)));
    let hitches: BTreeMap<DeviceId, Hitch> = hitches.collect();
    let told =
        |(device, hitch): (DeviceId, Hitch)| Unsent { device, hitch, why: hitch.sentence(&site.device_name(device)) };
    hitches.into_iter().map(told).collect()
}

/// A state in which nothing is under way.
fn still(timed: &Timed) -> Timed {
    Timed { closes: timed.closes, ..Timed::from(timed.state) }
}

/// The same for a group: what follows another is on its way there, everything else has landed.
fn at_rest(joint: &Joint) -> Joint {
    let members = joint.members.iter().map(still).collect();
    let pending = joint.pending.iter().filter(|event| !event.maybe).copied().collect();
    Joint { members, pending }
}

/// Settled states first: they make the shorter stories.
fn simplest_first(set: &BTreeSet<Joint>) -> Vec<&Joint> {
    let mut all: Vec<&Joint> = set.iter().collect();
    all.sort_by_key(|joint| joint.settles_ms());
    all
}
