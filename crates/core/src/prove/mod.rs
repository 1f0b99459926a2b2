//! Will it behave? Every cell of the switch matrix, proved from every state a device can be in.
//!
//! [`ours`] works out the states that our own plans leave behind; [`run`] carries a script forwards from
//! sets of states, [`abstracted`] does so quickly for coupled groups; [`story`] tells how a plan goes wrong,
//! [`rests`] what a verdict rests on, [`supported`] what the runtime may call ready unseen, [`loss`] how likely a lost press spoils it, [`remedy`] what would help,
//! [`hands`] what other hands do, [`handed`] where an evening starts, and [`diagnose`] goes backwards from what was seen.
//!
//! Groups that nothing couples are proved apart, each for every delay that its lag windows allow, so the
//! work grows with the largest coupled group and not with the house.

pub mod abstracted;
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

use crate::model::FindingKind;
pub use handed::{Handed, handed};
pub use light::{LightGoal, LightProof};
pub use loss::{Loss, Raise, Range};
pub use rests::RestsOn;
pub use stands::stands;
pub use story::{Beat, Course};
pub use support::supported;

use crate::device::{Group, Joint, Target, Timed};
use crate::finding::Finding;
use crate::id::RoomId;
use crate::model::{Policy, Site, Situation};
use crate::plan::{Derived, Plan, Script, run};
use ours::{Ours, Sets};
use serde::Serialize;
use std::cell::{OnceCell, RefCell};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// Joint start states that are looked at one by one before a group is called not proved.
const STARTS_MAX: usize = 300_000;

/// How far a plan can be relied on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Guarantee {
    /// It ends right from every state and for every duration within its interval.
    Certain,
    /// It ends right from the states that our own plans leave behind.
    IfNobodyElse,
    /// Some of those end wrong.
    AtRisk,
}

/// One cell of the switch matrix.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Cell {
    /// Where it starts.
    pub from: Situation,
    /// Where it leads.
    pub to: Situation,
    /// When picture and sound are there (all off, for room-off), everything settled at the start, in ms.
    pub ready_ms: u32,
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
    /// States that were looked at.
    pub states: usize,
    /// Was the proof given up for too many states? The verdict is then the lesser one.
    pub given_up: bool,
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
}

/// A cell with its plan and what it rests on.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CellPlan {
    /// The cell.
    pub cell: Cell,
    /// Its plan.
    pub plan: Plan,
    /// The plan right after the last one, where that is another.
    pub hot: Option<Plan>,
    /// Every wait that it needs, the weakest first.
    pub rests: Vec<RestsOn>,
    /// What happens where it is broken off and something else is asked for.
    pub broken_off: String,
}

/// A room, ready to be asked about its cells.
pub struct Analysis<'a> {
    ours: Ours<'a>,
    /// Everything that each group may be in.
    everything: OnceCell<Sets>,
    /// What is derived from everything asks for no start: it is made once for each goal.
    from_everything: RefCell<BTreeMap<Situation, (Derived, BTreeSet<usize>)>>,
}

/// The plan of a cell and what it was made from.
struct Made {
    derived: Derived,
    known: Sets,
    /// Groups for which no sequence is right from all of what is known.
    bent: BTreeSet<usize>,
    /// Is it what its policy asks for, for every group?
    complete: bool,
}

impl<'a> Analysis<'a> {
    /// Takes a room apart.
    #[must_use]
    pub fn of(site: &'a Site, room: RoomId) -> Self {
        Self { ours: Ours::of(site, room), everything: OnceCell::new(), from_everything: RefCell::default() }
    }

    /// What is ours.
    #[must_use]
    pub fn ours(&self) -> &Ours<'a> {
        &self.ours
    }

    fn policy(&self) -> Policy {
        self.ours.site.room(self.ours.room).map_or(Policy::Trusting, |room| room.plans.policy)
    }

    /// The settled states of ours in which `from` is current; those that meet its goals where none is known.
    fn ours_in(&self, from: Situation) -> Sets {
        let nominal = self.ours.nominal.get(&from).cloned().unwrap_or_default();
        let Some(known) = self.ours.settled.get(&from) else { return nominal };
        known
            .iter()
            .zip(nominal)
            .map(|(known, nominal)| if known.is_empty() { nominal } else { known.clone() })
            .collect()
    }

    /// Everything that a group may be in, where it can be counted.
    fn all_of(&self, group: usize) -> Option<BTreeSet<Joint>> {
        let lists = self.ours.anything(group);
        let count = lists.iter().map(Vec::len).try_fold(1usize, usize::checked_mul)?;
        if count > STARTS_MAX {
            return None;
        }
        Some(Product::new(&self.ours.groups[group], &lists).collect())
    }

    fn make(&self, from: Situation, to: Situation, policy: Policy) -> Made {
        let ours = self.ours_in(from);
        if policy == Policy::Trusting {
            let (derived, bent) = self.ours.derive_from(&ours, from, to);
            let complete = bent.is_empty();
            return Made { derived, known: ours, bent, complete };
        }
        let everything = self.everything.get_or_init(|| {
            let all = |group| self.all_of(group).unwrap_or_default();
            (0..self.ours.groups.len()).map(all).collect()
        });
        let (derived, bent) = self.derive_from_everything(everything, &ours, from, to);
        if bent.is_empty() {
            return Made { derived, known: vec![], bent, complete: true };
        }
        // Where nothing is right from every state, it is derived from ours.
        let known: Sets = everything
            .iter()
            .zip(ours)
            .enumerate()
            .map(|(at, (all, ours))| if all.is_empty() || bent.contains(&at) { ours } else { all.clone() })
            .collect();
        let (derived, bent) = self.ours.derive_from(&known, from, to);
        Made { derived, known, bent, complete: false }
    }

    /// What is derived from everything, and the groups for which that cannot be. A group whose states cannot be
    /// counted starts from ours.
    fn derive_from_everything(
        &self,
        everything: &Sets,
        ours: &Sets,
        from: Situation,
        to: Situation,
    ) -> (Derived, BTreeSet<usize>) {
        let counted = everything.iter().all(|set| !set.is_empty());
        let hand = self.ours.site.room(self.ours.room).map(|room| room.plans.hand.as_slice()).unwrap_or_default();
        let touched = hand.iter().any(|change| (change.from, change.to) == (from, to));
        if counted
            && !touched
            && let Some((derived, bent)) = self.from_everything.borrow().get(&to)
        {
            let mut derived = derived.clone();
            derived.plan.from = Some(from);
            return (derived, bent.clone());
        }
        let pick = |(all, ours): (&BTreeSet<Joint>, &BTreeSet<Joint>)| if all.is_empty() { ours } else { all }.clone();
        let known: Sets = everything.iter().zip(ours).map(pick).collect();
        let found = self.ours.derive_from(&known, from, to);
        if counted && !touched {
            self.from_everything.borrow_mut().insert(to, found.clone());
        }
        found
    }

    /// The matrix.
    #[must_use]
    pub fn matrix(&self) -> Matrix {
        let cells = self.ends().into_iter().map(|(from, to)| self.cell(from, to)).collect();
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
            cells.push(self.cell(from, to));
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

    fn matrix_of(&self, cells: Vec<Cell>) -> Matrix {
        let situations = self.ours.situations.clone();
        let name =
            |group: &Group<'_>| group.members.iter().map(|(device, _)| self.ours.site.device_name(*device)).collect();
        Matrix {
            room: self.ours.room,
            states: cells.iter().map(|cell| cell.states).sum(),
            situations,
            cells,
            coupled: self.ours.groups.iter().filter(|group| !group.links.is_empty()).map(name).collect(),
        }
    }

    /// The plan of one cell.
    #[must_use]
    pub fn plan(&self, from: Situation, to: Situation) -> Plan {
        self.make(from, to, self.policy()).derived.plan
    }

    /// One cell.
    #[must_use]
    pub fn cell(&self, from: Situation, to: Situation) -> Cell {
        self.look_into(from, to).0
    }

    /// One cell with its plan.
    #[must_use]
    pub fn cell_plan(&self, from: Situation, to: Situation) -> CellPlan {
        let (cell, made, hot) = self.look_into(from, to);
        let rests = rests::rests_on(self.ours.site, &made.derived.plan);
        let broken_off = self.broken_off(&made, from, to);
        let hot = hot.map(|hot| hot.derived.plan).filter(|hot| hot.ready_ms != made.derived.plan.ready_ms);
        CellPlan { cell, plan: made.derived.plan, hot, rests, broken_off }
    }

    /// The proof of a cell, cold and hot, and the plan for somebody who asks right after the last one.
    fn judge(&self, made: &Made, from: Situation, to: Situation) -> (Proof, Option<Made>) {
        let hot = self.hot(from, to, self.policy());
        let mut proof = self.prove(made, from);
        if let Some((true, told)) = hot.as_ref().map(|hot| self.prove_from_hot(hot, from)) {
            proof.guarantee = Guarantee::AtRisk;
            proof.story = proof.story.or(told);
        }
        (proof, hot)
    }

    fn look_into(&self, from: Situation, to: Situation) -> (Cell, Made, Option<Made>) {
        let site = self.ours.site;
        let policy = self.policy();
        let made = self.make(from, to, policy);
        let other = match policy {
            Policy::Trusting => Policy::Safe,
            Policy::Safe => Policy::Trusting,
        };
        let other = self.make(from, to, other);
        let (proof, hot) = self.judge(&made, from, to);
        let (mut guarantee, story) = (proof.guarantee, proof.story);
        let nobody_else = site.room(self.ours.room).is_some_and(|room| room.plans.nobody_else);
        if nobody_else && guarantee == Guarantee::IfNobodyElse {
            guarantee = Guarantee::Certain;
        }
        let light = light::light(site, self.ours.room, from, to);
        let dark = light.as_ref().is_some_and(|light| light.wrong.is_some());
        let plan = &made.derived.plan;
        let rests = rests::rests_on(site, plan);
        let waits_hold = rests.iter().all(|rest| rest.holds);
        let targets: Vec<Vec<Target>> =
            (0..self.ours.groups.len()).map(|group| self.ours.targets(&plan.goals, group)).collect();
        let starts = self.starts_of(&made, from);
        let loss = loss::loss(site, &self.ours.groups, &starts, &made.derived.scripts, &targets);
        let cell = Cell {
            from,
            to,
            ready_ms: plan.ready_ms,
            hot_ms: hot.as_ref().map(|hot| hot.derived.plan.ready_ms).filter(|&ms| ms > plan.ready_ms),
            bound_ms: plan.bound_ms,
            optimal: plan.optimal,
            sends: plan.steps.len(),
            policy,
            other_ms: other.complete.then_some(other.derived.plan.ready_ms),
            guarantee: if dark { Guarantee::AtRisk } else { guarantee },
            waits_hold,
            verdict: if dark && guarantee != Guarantee::AtRisk {
                "At risk: the light".to_owned()
            } else {
                verdict(guarantee, waits_hold, nobody_else)
            },
            weakest: rests.into_iter().find(|rest| !rest.holds),
            states: proof.states,
            given_up: proof.given_up,
            story,
            loss,
            light,
            runnable: plan.runnable,
        };
        (cell, made, hot)
    }

    /// The states from which a plan was made, for what does not ask about other hands.
    fn starts_of(&self, made: &Made, from: Situation) -> Sets {
        let nominal = self.ours.nominal.get(&from).cloned().unwrap_or_default();
        let ours = self.ours_in(from);
        let pick = |(group, ours): (usize, BTreeSet<Joint>)| {
            if made.bent.contains(&group) { nominal[group].clone() } else { ours }
        };
        ours.into_iter().enumerate().map(pick).collect()
    }

    /// The plan for somebody who asks right after the last one, where something is still under way then.
    fn hot(&self, from: Situation, to: Situation, policy: Policy) -> Option<Made> {
        if policy == Policy::Safe {
            // The safe plan is made for everything that can be under way.
            return None;
        }
        let hot = self.ours.hot.get(&from)?;
        let busy = hot.iter().flatten().any(|joint| joint.settles_ms() > 0);
        if !busy {
            return None;
        }
        let known: Sets =
            hot.iter().zip(self.ours_in(from)).map(|(hot, cold)| hot.union(&cold).cloned().collect()).collect();
        let (derived, bent) = self.ours.derive_from(&known, from, to);
        let complete = bent.is_empty();
        Some(Made { derived, known, bent, complete })
    }

    fn prove_from_hot(&self, hot: &Made, from: Situation) -> (bool, Option<Course>) {
        let mut told = None;
        for group in 0..self.ours.groups.len() {
            if hot.bent.contains(&group) {
                continue;
            }
            let targets = self.ours.targets(&hot.derived.plan.goals, group);
            let script = &hot.derived.scripts[group];
            let (failure, _) = run::first_failure(&self.ours.groups[group], hot.known[group].iter(), script, &targets);
            if let Some(start) = failure {
                told = self.tell(group, &start, hot, from, &targets);
                return (true, told);
            }
        }
        (false, told)
    }

    fn tell(&self, group: usize, start: &Joint, made: &Made, from: Situation, targets: &[Target]) -> Option<Course> {
        let nominal = self.ours.nominal.get(&from).and_then(|sets| sets[group].iter().next());
        let own = &self.ours.groups[group];
        story::story(self.ours.site, own, start, nominal, &made.derived.scripts[group], &made.derived.plan, targets)
    }

    fn prove(&self, made: &Made, from: Situation) -> Proof {
        let mut proof = Proof { guarantee: Guarantee::Certain, states: 0, given_up: false, story: None };
        let ours = self.ours_in(from);
        for (group, ours) in ours.iter().enumerate() {
            let found = self.prove_group(group, made, from, ours);
            proof.states += found.states;
            proof.given_up |= found.given_up;
            if found.guarantee > proof.guarantee {
                (proof.guarantee, proof.story) = (found.guarantee, found.story);
            }
        }
        proof
    }

    fn prove_group(&self, at: usize, made: &Made, from: Situation, ours: &BTreeSet<Joint>) -> Proof {
        let group = &self.ours.groups[at];
        let targets = self.ours.targets(&made.derived.plan.goals, at);
        let script: &Script = &made.derived.scripts[at];
        let lists = self.ours.anything(at);
        let certain = |states| Proof { guarantee: Guarantee::Certain, states, given_up: false, story: None };
        if targets.iter().all(|target| *target == Target::default()) {
            return certain(0);
        }
        let (from_ours, mut states) = run::first_failure(group, simplest_first(ours).into_iter(), script, &targets);
        if let Some(start) = from_ours {
            let story = self.tell(at, &start, made, from, &targets);
            return Proof { guarantee: Guarantee::AtRisk, states, given_up: false, story };
        }
        if !group.links.is_empty()
            && script.look.is_none()
            && abstracted::all_arrive(group, &lists, &script.steps, &targets)
        {
            let count = lists.iter().map(Vec::len).fold(1usize, usize::saturating_mul);
            return certain(states.saturating_add(count));
        }
        // Settled states first: they make the shorter stories.
        let settled = |list: &Vec<Timed>| list.iter().copied().filter(Timed::is_settled).collect();
        let simple: Vec<Vec<Timed>> = lists.iter().map(settled).collect();
        let mut met = 0;
        let everything = Product::new(group, &simple).chain(Product::new(group, &lists)).take(STARTS_MAX);
        let (from_all, looked_at) = run::first_failure(group, everything.inspect(|_| met += 1), script, &targets);
        let given_up = met == STARTS_MAX;
        states += looked_at;
        match from_all {
            None if !given_up => certain(states),
            None => Proof { guarantee: Guarantee::IfNobodyElse, states, given_up, story: None },
            Some(start) => {
                let story = self.tell(at, &start, made, from, &targets);
                Proof { guarantee: Guarantee::IfNobodyElse, states, given_up: false, story }
            }
        }
    }

    /// Can a plan be broken off after any of its commands, and every other situation be asked for then? The
    /// runtime goes on from exactly what it knows then.
    fn broken_off(&self, made: &Made, from: Situation, to: Situation) -> String {
        let starts = self.starts_of(made, from);
        let mut stuck = Vec::new();
        for (at, group) in self.ours.groups.iter().enumerate() {
            if !group.links.is_empty() {
                continue;
            }
            let prefixes = run::prefixes(group, &starts[at], &made.derived.scripts[at]);
            let inner = prefixes.len().saturating_sub(1);
            for prefix in &prefixes[..inner] {
                for &next in self.ours.situations.iter().filter(|&&next| next != to) {
                    let goals = crate::plan::goal::goals(self.ours.site, self.ours.room, next).devices;
                    let targets = self.ours.targets(&goals, at);
                    let later: BTreeSet<Joint> = prefix.iter().map(ours::any_time_later).collect();
                    let sending = |device, letter| crate::plan::chain::sending(self.ours.site, device, letter);
                    let home = crate::device::homing::home_group(group, &later, &targets, &|_, _| false, &sending);
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

    /// Devices whose own group is not certain in this cell.
    #[must_use]
    pub fn weak_spots(&self, from: Situation, to: Situation) -> Vec<crate::id::DeviceId> {
        let made = self.make(from, to, self.policy());
        let ours = self.ours_in(from);
        let weak = (0..self.ours.groups.len())
            .filter(|&group| self.prove_group(group, &made, from, &ours[group]).guarantee != Guarantee::Certain);
        weak.flat_map(|group| self.ours.groups[group].members.iter().map(|(device, _)| *device)).collect()
    }

    /// What the margin says of the cells: those at risk, a note a device.
    #[must_use]
    pub fn findings(&self) -> Vec<Finding> {
        let site = self.ours.site;
        let mut findings: Vec<Finding> = Vec::new();
        for &from in &self.ours.situations {
            for &to in self.ours.situations.iter().filter(|&&to| to != from) {
                let (proof, _) = self.judge(&self.make(from, to, self.policy()), from, to);
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

struct Proof {
    guarantee: Guarantee,
    states: usize,
    given_up: bool,
    story: Option<Course>,
}

/// A verdict in words.
#[must_use]
pub fn verdict(guarantee: Guarantee, waits_hold: bool, nobody_else: bool) -> String {
    let word = match guarantee {
        Guarantee::Certain if nobody_else => "Certain, by the rule that nobody else touches it",
        Guarantee::Certain => "Certain",
        Guarantee::IfNobodyElse => "Certain if nobody else touches it",
        Guarantee::AtRisk => return "At risk".to_owned(),
    };
    if waits_hold { word.to_owned() } else { format!("{word}, if the waits hold") }
}

/// Settled states first: they make the shorter stories.
fn simplest_first(set: &BTreeSet<Joint>) -> Vec<&Joint> {
    let mut all: Vec<&Joint> = set.iter().collect();
    all.sort_by_key(|joint| joint.settles_ms());
    all
}

/// Every combination of the members' states that can be, one after the other.
struct Product<'p, 'a> {
    group: &'p Group<'a>,
    lists: &'p [Vec<Timed>],
    next: Option<Vec<usize>>,
}

impl<'p, 'a> Product<'p, 'a> {
    fn new(group: &'p Group<'a>, lists: &'p [Vec<Timed>]) -> Self {
        let next = lists.iter().all(|list| !list.is_empty()).then(|| vec![0; lists.len()]);
        Self { group, lists, next }
    }
}

impl Iterator for Product<'_, '_> {
    type Item = Joint;

    fn next(&mut self) -> Option<Joint> {
        loop {
            let places = self.next.as_mut()?;
            let joint = Joint::of(places.iter().zip(self.lists).map(|(&place, list)| list[place]));
            let more = places.iter_mut().zip(self.lists).any(|(place, list)| {
                *place += 1;
                let over = *place == list.len();
                if over {
                    *place = 0;
                }
                !over
            });
            if !more {
                self.next = None;
            }
            if self.group.is_consistent(&joint) {
                return Some(joint);
            }
        }
    }
}
