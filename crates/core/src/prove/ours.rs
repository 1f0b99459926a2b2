//! The states that a room can be in when nobody but us touches it.
//!
//! *Ours* is the least set that contains the handed-over state (the room off after its first activity was
//! tried last) and is closed under our own plans, settling, couplings and auto-standby. What belongs to an
//! activity is what our plans to it leave behind. A macro that is broken off leaves states that belong to
//! no activity: the runtime goes on from exactly those (see [`super::Analysis::broken_off`]).

use crate::device::{Group, Joint, Target, Timed, Window, timed};
use crate::finding::Finding;
use crate::id::{DeviceId, RoomId};
use crate::model::{Site, Situation};
use crate::plan::derive::HomeCache;
use crate::plan::{Derived, PlanRequest, couple, derive, goal};
use std::collections::{BTreeMap, BTreeSet};

use crate::plan::run;

/// What the groups of a room may be in, group by group.
pub type Sets = Vec<BTreeSet<Joint>>;

/// A room, taken apart for proofs.
pub struct Ours<'a> {
    /// The house.
    pub site: &'a Site,
    /// The room.
    pub room: RoomId,
    /// Its devices in groups.
    pub groups: Vec<Group<'a>>,
    /// What its activities care about.
    pub interests: BTreeMap<DeviceId, Target>,
    /// Off, and its activities in their order.
    pub situations: Vec<Situation>,
    /// What the groups may be in, settled, where a situation is current.
    pub settled: BTreeMap<Situation, Sets>,
    /// The same right after the last command that led there.
    pub hot: BTreeMap<Situation, Sets>,
    /// The same in states that meet the goals, with nothing else taken into account.
    pub nominal: BTreeMap<Situation, Sets>,
    /// Sequences of keys that were found on the way.
    cache: HomeCache,
}

/// The largest set of a group that is followed.
const SET_MAX: usize = 4_000;

/// Rounds after which the sets are taken as they are.
const ROUNDS: usize = 4;

impl<'a> Ours<'a> {
    /// Works out what is ours.
    #[must_use]
    pub fn of(site: &'a Site, room: RoomId) -> Self {
        let groups = couple::groups(site, room);
        let interests = goal::interests(site, room);
        let mut situations = vec![Situation::Off];
        let own = site.activities.iter().filter(|activity| activity.room == room);
        situations.extend(own.map(|activity| Situation::In { activity: activity.id }));
        let nominal: BTreeMap<Situation, Sets> = situations
            .iter()
            .map(|&situation| {
                let start = goal::start(site, room, situation);
                let sets = groups.iter().map(|group| capped(derive::joint(site, group, &start))).collect();
                (situation, sets)
            })
            .collect();
        let nominal = handed_over(site, room, &groups, nominal);
        let mut ours = Self {
            site,
            room,
            groups,
            interests,
            situations,
            settled: BTreeMap::new(),
            hot: BTreeMap::new(),
            nominal,
            cache: HomeCache::default(),
        };
        ours.close();
        ours
    }

    /// The targets of a group in a situation.
    #[must_use]
    pub fn targets(&self, goals: &[goal::DeviceGoal], group: usize) -> Vec<Target> {
        let own = &self.groups[group];
        own.members
            .iter()
            .map(|(device, machine)| {
                let goal = goals.iter().find(|goal| goal.device == *device);
                goal.map(|goal| goal.target(machine.profile())).unwrap_or_default()
            })
            .collect()
    }

    /// A plan from what is known of each group; where a group has no sequence from all of it, from the states
    /// that meet the goals of `from`. Says for which groups that was so.
    #[must_use]
    pub fn derive_from(&self, known: &Sets, from: Situation, to: Situation) -> (Derived, BTreeSet<usize>) {
        let request = |known: Sets| PlanRequest {
            site: self.site,
            room: self.room,
            from: Some(from),
            to,
            groups: &self.groups,
            known,
            house_except: None,
            cache: Some(&self.cache),
        };
        let derived = derive(&request(known.clone()));
        let mut known = known.clone();
        let mut bent = BTreeSet::new();
        for device in derived.plan.findings.iter().filter_map(Finding::no_safe_way) {
            let group = self.groups.iter().position(|g| g.place(device).is_some());
            let (Some(group), Some(nominal)) = (group, self.nominal.get(&from)) else { continue };
            // What meets the goals of where we are, or else the one state that is handed over.
            let targets = self.targets(&goal::goals(self.site, self.room, from).devices, group);
            let own = &self.groups[group];
            let good: BTreeSet<Joint> =
                known[group].iter().filter(|joint| own.meets(joint, &targets)).cloned().collect();
            let smaller = !good.is_empty() && good.len() < known[group].len();
            known[group] = if smaller { good } else { nominal[group].iter().take(1).cloned().collect() };
            bent.insert(group);
        }
        if bent.is_empty() {
            return (derived, bent);
        }
        let again = derive(&request(known.clone()));
        let still: Vec<usize> = again
            .plan
            .findings
            .iter()
            .filter_map(Finding::no_safe_way)
            .filter_map(|device| self.groups.iter().position(|group| group.place(device).is_some()))
            .collect();
        if still.is_empty() {
            return (again, bent);
        }
        for group in still {
            if let Some(nominal) = self.nominal.get(&from) {
                known[group] = nominal[group].iter().take(1).cloned().collect();
            }
        }
        (derive(&request(known)), bent)
    }

    fn close(&mut self) {
        let off = self.nominal.get(&Situation::Off).cloned().unwrap_or_default();
        let off: Sets = off.into_iter().enumerate().map(|(group, set)| self.asleep(group, set)).collect();
        self.settled.insert(Situation::Off, off.clone());
        self.hot.insert(Situation::Off, off);
        let mut done: BTreeMap<(Situation, Situation), Sets> = BTreeMap::new();
        for _ in 0..ROUNDS {
            let mut changed = false;
            for from in self.situations.clone() {
                let Some(known) = self.settled.get(&from).cloned() else { continue };
                for to in self.situations.clone() {
                    if from == to || done.get(&(from, to)) == Some(&known) {
                        continue;
                    }
                    done.insert((from, to), known.clone());
                    let (derived, bent) = self.derive_from(&known, from, to);
                    for (group, known) in known.iter().enumerate() {
                        // Where the plan cannot be right from everything, what it leaves behind is what it is for.
                        let starts =
                            if bent.contains(&group) { self.nominal[&from][group].clone() } else { known.clone() };
                        changed |= self.leave_behind(group, &starts, &derived, to);
                    }
                }
            }
            if !changed {
                break;
            }
        }
    }

    /// Adds what a script leaves behind to what belongs to `to`.
    fn leave_behind(&mut self, at: usize, starts: &BTreeSet<Joint>, derived: &Derived, to: Situation) -> bool {
        let group = &self.groups[at];
        let ends = run::prefixes(group, starts, &derived.scripts[at]).pop().unwrap_or_default();
        let targets = self.targets(&derived.plan.goals, at);
        let mut settled = BTreeSet::new();
        let mut hot = BTreeSet::new();
        for end in &ends {
            // A plan that goes wrong leads nowhere: it is at risk, and what it leaves behind is not its goal.
            let rest = group.settled(end);
            if rest.iter().all(|joint| group.meets(joint, &targets)) {
                settled.extend(rest);
                hot.insert(any_time_later(end));
            }
        }
        let settled = self.asleep(at, settled);
        let count = self.groups.len();
        let mut changed = false;
        for (all, new) in [(&mut self.settled, settled), (&mut self.hot, hot)] {
            let sets = all.entry(to).or_insert_with(|| vec![BTreeSet::new(); count]);
            if sets[at].len() < SET_MAX {
                let before = sets[at].len();
                sets[at].extend(new);
                changed |= sets[at].len() > before;
            }
        }
        changed
    }

    /// With devices that have switched themselves off, and what that causes.
    fn asleep(&self, at: usize, set: BTreeSet<Joint>) -> BTreeSet<Joint> {
        let group = &self.groups[at];
        let mut all = set.clone();
        let mut open: Vec<Joint> = set.into_iter().collect();
        while let Some(joint) = open.pop() {
            for (member, (_, machine)) in group.members.iter().enumerate() {
                let timed = joint.members[member];
                if machine.profile().auto_standby.is_none() || !timed.state.on || all.len() > SET_MAX {
                    continue;
                }
                let (state, effect) = machine.switch(timed.state, false);
                let off = timed::set_off(machine, &timed, state, effect);
                for rest in group.settled(&group.changed(&joint, member, off)) {
                    if all.insert(rest.clone()) {
                        open.push(rest);
                    }
                }
            }
        }
        all
    }

    /// Everything that the members of a group may be in, with anything under way: one list a member.
    #[must_use]
    pub fn anything(&self, group: usize) -> Vec<Vec<Timed>> {
        let own = &self.groups[group];
        own.members
            .iter()
            .map(|(device, machine)| {
                let interest = self.interests.get(device).copied().unwrap_or_default();
                timed::anything(machine, &interest)
            })
            .collect()
    }
}

/// What becomes of a state within the time that it needs to settle, whenever that is looked at.
#[must_use]
pub fn any_time_later(joint: &Joint) -> Joint {
    let mut later = joint.clone();
    for member in &mut later.members {
        member.busy = Window { lo_ms: 0, ..member.busy };
        member.closes = Window { lo_ms: 0, ..member.closes };
    }
    for event in &mut later.pending {
        event.left = Window { lo_ms: 0, ..event.left };
    }
    later
}

/// The room as it is handed over: off after its first activity was tried last, so that the inputs are those
/// of the first activity that uses a device.
fn handed_over(
    site: &Site,
    room: RoomId,
    groups: &[Group<'_>],
    mut nominal: BTreeMap<Situation, Sets>,
) -> BTreeMap<Situation, Sets> {
    let mut first: BTreeMap<DeviceId, Target> = BTreeMap::new();
    for activity in site.activities.iter().filter(|activity| activity.room == room) {
        for goal in goal::goals(site, room, Situation::In { activity: activity.id }).devices {
            let Some(profile) = site.profile_of(goal.device).filter(|_| goal.on == Some(true)) else { continue };
            first.entry(goal.device).or_insert_with(|| goal.target(&profile));
        }
    }
    let Some(off) = nominal.get_mut(&Situation::Off) else { return nominal };
    for (group, set) in groups.iter().zip(off) {
        let as_left = |joint: &&Joint| {
            group.members.iter().zip(&joint.members).all(|((device, _), member)| {
                let wanted = first.get(device).copied().unwrap_or_default();
                let state = member.state;
                wanted.input.is_none_or(|input| input == state.input)
                    && wanted.modes.iter().zip(state.modes).all(|(wanted, is)| wanted.is_none_or(|value| value == is))
                    && !state.muted
                    && state.app == 0
            })
        };
        let left: BTreeSet<Joint> = set.iter().filter(as_left).cloned().collect();
        if !left.is_empty() {
            *set = left;
        }
    }
    nominal
}

fn capped(set: BTreeSet<Joint>) -> BTreeSet<Joint> {
    if set.len() <= SET_MAX { set } else { set.into_iter().take(SET_MAX).collect() }
}
