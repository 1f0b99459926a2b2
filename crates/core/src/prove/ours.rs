//! The states that a room can be in when nobody but us touches it.
//!
//! *Ours* is the least set that contains the handed-over state (the room off after its first activity was
//! tried last) and is closed under our own plans, right and wrong, each broken off after any of its commands for
//! another one; under settling, couplings and auto-standby at any moment between plans; and under the plans of other
//! rooms on devices that they share with this one. What belongs to an activity is what our plans to it leave behind.
//!
//! What is still under way stays in the set with windows from nothing to the longest, so that one state holds every
//! moment of it ([`Merged`]). Nothing is ever taken out. Where the set of a group grows too large, it is said
//! ([`Ours::cut`]) and nothing is concluded from it.

use crate::device::group::{Cut, Pending, walked};
use crate::device::homing::NODES;
use crate::device::{Group, Joint, State, Target, Timed, timed};
use crate::id::{DeviceId, RoomId};
use crate::model::{Policy, Site, Situation};
use crate::plan::derive::HomeCache;
use crate::plan::{Derived, PlanRequest, couple, derive, goal};
use std::cell::{OnceCell, RefCell};
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
    /// What the groups may be in where a situation is current, whatever may still be under way.
    pub hot: BTreeMap<Situation, Sets>,
    /// The same once everything has settled.
    pub settled: BTreeMap<Situation, Sets>,
    /// The same in states that meet the goals, with nothing else taken into account.
    pub nominal: BTreeMap<Situation, Sets>,
    /// Groups whose sets were not followed to their end.
    pub cut: BTreeSet<usize>,
    /// Sequences of keys that were found on the way.
    cache: HomeCache,
    /// What the searches for them had looked at when all that is ours was known.
    spent: Option<usize>,
    /// Everything that each group may be in; empty where nobody can count it.
    everything: OnceCell<Sets>,
    /// The same once everything has settled; empty where that cannot be counted.
    at_rest: OnceCell<Sets>,
    /// What is derived from everything asks for no start, as long as every group has a sequence: it is made once for each
    /// goal, with whatever is under way and with everything at rest.
    from_everything: RefCell<BTreeMap<(Situation, bool), Derived>>,
    /// Goals to which there is no plan from everything at rest.
    none_at_rest: RefCell<BTreeSet<Situation>>,
}

/// Joint start states that are looked at one by one before a group is called not proved.
pub(super) const STARTS_MAX: usize = 300_000;

/// Joint states above which only every pair of two members' states is met where a plan is made from everything.
const WHOLE_MAX: usize = 5_000;

/// The largest set of a group that is followed.
const SET_MAX: usize = 3_000;

/// States of one group that are looked at while its set grows: at the moments of a course, after each key of a plan.
const LOOKED_MAX: usize = 250_000;

/// Rounds after which a set that still grows is given up.
const ROUNDS: usize = 40;

/// Sets of states that the search for one plan after another was broken off may look at.
const NODES_BROKEN_OFF: usize = NODES / 10;

/// States to which the searches of one room send letters before they have to make do with less.
const SPENT_MAX: usize = 2_500_000;

/// Sets of states that one search may look at then.
const NODES_LATE: usize = NODES / 80;

/// Plans of one group that are asked for while its set grows.
const PLANS: usize = 6_000;

/// States of a group, those that differ only in what is left of things taken as one.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
struct Merged(BTreeMap<Vec<State>, Joint>);

impl Merged {
    /// Takes a state in, at this and at any later moment. Tells whether that is new.
    fn take(&mut self, joint: &Joint) -> bool {
        let members = joint.members.iter().map(|member| member.any_time_later()).collect();
        let pending = joint.pending.iter().map(|event| Pending { left: event.left.or_over(), ..*event }).collect();
        let own = Joint { members, pending };
        let key = own.members.iter().map(|member| member.state).collect();
        match self.0.entry(key) {
            std::collections::btree_map::Entry::Vacant(free) => {
                free.insert(own);
                true
            }
            std::collections::btree_map::Entry::Occupied(mut known) => {
                let both = merged(known.get(), &own);
                let new = *known.get() != both;
                known.insert(both);
                new
            }
        }
    }

    fn set(&self) -> BTreeSet<Joint> {
        self.0.values().cloned().collect()
    }
}

/// One state that holds two which differ only in what is left: an event that only one of them has on its way may be.
fn merged(a: &Joint, b: &Joint) -> Joint {
    let members = a.members.iter().zip(&b.members).map(|(a, b)| a.widened(b)).collect();
    let mut pending: BTreeMap<usize, Pending> = BTreeMap::new();
    for (joint, other) in [(a, b), (b, a)] {
        for event in &joint.pending {
            let theirs = other.pending.iter().find(|known| known.link == event.link);
            let left = theirs.map_or(event.left, |theirs| event.left.or(theirs.left));
            let maybe = theirs.is_none_or(|theirs| theirs.maybe) || event.maybe;
            pending.insert(event.link, Pending { link: event.link, left, maybe });
        }
    }
    Joint { members, pending: pending.into_values().collect() }
}

impl<'a> Ours<'a> {
    /// Works out what is ours.
    #[must_use]
    pub fn of(site: &'a Site, room: RoomId) -> Self {
        let groups = couple::groups(site, room);
        let interests = goal::interests(site, room);
        let mut situations = vec![Situation::Off];
        let own = site.activities.iter().filter(|activity| activity.room == room);
        situations.extend(own.map(|activity| Situation::In { activity: activity.id }));
        let mut cut = BTreeSet::new();
        let mut nominal: BTreeMap<Situation, Sets> = BTreeMap::new();
        for &situation in &situations {
            let start = goal::start(site, room, situation);
            let sets = groups.iter().enumerate().map(|(at, group)| {
                derive::joint(group, &start).unwrap_or_else(|Cut| {
                    cut.insert(at);
                    BTreeSet::new()
                })
            });
            let sets: Sets = sets.collect();
            nominal.insert(situation, sets);
        }
        let nominal = handed_over(site, room, &groups, nominal);
        let mut ours = Self {
            site,
            room,
            groups,
            interests,
            situations,
            hot: BTreeMap::new(),
            settled: BTreeMap::new(),
            nominal,
            cut,
            cache: HomeCache::default(),
            spent: None,
            everything: OnceCell::new(),
            at_rest: OnceCell::new(),
            from_everything: RefCell::default(),
            none_at_rest: RefCell::default(),
        };
        ours.close();
        // From now on every plan has the same budget, whichever is asked for first.
        ours.spent = Some(ours.cache.spent.get());
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

    /// A plan from what is known of each group; where a group has no sequence from all of it, from the largest part
    /// that has one.
    #[must_use]
    pub fn derive_from(&self, known: &Sets, from: Situation, to: Situation) -> Derived {
        self.derive_from_part(known, from, to, true)
    }

    /// The same where `known` may hold no more than every pair of states of two members.
    fn derive_from_part(&self, known: &Sets, from: Situation, to: Situation, whole: bool) -> Derived {
        derive(&PlanRequest {
            site: self.site,
            room: self.room,
            from: Some(from),
            to,
            groups: &self.groups,
            known: known.clone(),
            house_except: None,
            cache: Some(&self.cache),
            handed: self.handed_states(from),
            nodes: if self.spent.unwrap_or(self.cache.spent.get()) > SPENT_MAX { NODES_LATE } else { NODES },
            whole,
        })
    }

    /// From which states the plans of the room are made.
    #[must_use]
    pub fn policy(&self) -> Policy {
        self.site.room(self.room).map_or(Policy::Trusting, |room| room.plans.policy)
    }

    /// The plan of a policy where the groups may be in `ours`, and what it was made from.
    #[must_use]
    pub fn plan_for(&self, ours: Sets, from: Situation, to: Situation, policy: Policy) -> (Derived, Sets) {
        match policy {
            Policy::Trusting => (self.derive_from(&ours, from, to), ours),
            Policy::Safe => self.safe(ours, from, to),
        }
    }

    /// Everything that a group may be in, with anything under way and any event on its way. Where that is a great deal, the
    /// part of it in which every pair of states of two members is met: sequences are found member by member, so that they
    /// are the same. (A proof never goes by this, it looks at all of it.)
    fn all_of(&self, group: usize) -> BTreeSet<Joint> {
        let lists = self.anything(group);
        let own = &self.groups[group];
        let count = lists.iter().map(Vec::len).try_fold(1usize, usize::checked_mul);
        if count.is_some_and(|count| count <= WHOLE_MAX) {
            return Product::new(own, &lists).collect();
        }
        let mut all = BTreeSet::new();
        for (one, states) in lists.iter().enumerate() {
            for (other, theirs) in lists.iter().enumerate().skip(one + 1) {
                for (at, &state) in states.iter().enumerate() {
                    for (place, &their) in theirs.iter().enumerate() {
                        let rest = lists.iter().enumerate().map(|(member, list)| match member {
                            _ if member == one => state,
                            _ if member == other => their,
                            _ => list[(at + place) % list.len()],
                        });
                        let joint = own.with_any_event(Joint::of(rest));
                        if own.is_consistent(&joint) {
                            all.insert(joint);
                        }
                    }
                }
            }
        }
        all
    }

    /// The same for each group.
    pub(super) fn everything(&self) -> &Sets {
        self.everything.get_or_init(|| (0..self.groups.len()).map(|group| self.all_of(group)).collect())
    }

    /// The same once everything has settled; empty where that cannot be counted.
    fn everything_at_rest(&self) -> &Sets {
        let of_group = |(group, all): (&Group<'a>, &BTreeSet<Joint>)| {
            let rest = all.iter().map(|joint| group.settled(&super::at_rest(joint)));
            let rest: Result<Vec<BTreeSet<Joint>>, Cut> = rest.collect();
            rest.map(|rest| rest.into_iter().flatten().collect()).unwrap_or_default()
        };
        self.at_rest.get_or_init(|| self.groups.iter().zip(self.everything()).map(of_group).collect())
    }

    /// The plan from everything. A group whose states cannot be counted starts from ours, and so does one that no sequence
    /// brings there from everything.
    fn safe(&self, ours: Sets, from: Situation, to: Situation) -> (Derived, Sets) {
        let (derived, mut known) = self.derive_from_all(self.everything(), &ours, from, to, false);
        if derived.parts.is_empty() {
            return (derived, known);
        }
        for at in derived.parts.into_keys() {
            known[at].clone_from(&ours[at]);
        }
        (self.derive_from_part(&known, from, to, false), known)
    }

    /// The plan from everything at rest, and what it was made from; a group whose states cannot be counted starts from ours.
    #[must_use]
    pub(super) fn safe_at_rest(&self, ours: Sets, from: Situation, to: Situation) -> (Derived, Sets) {
        self.derive_from_all(self.everything_at_rest(), &ours, from, to, true)
    }

    /// Was it seen that there is no plan from everything at rest, wherever the room is taken to be?
    pub(super) fn has_none_at_rest(&self, to: Situation) -> bool {
        self.none_at_rest.borrow().contains(&to)
    }

    fn derive_from_all(&self, all: &Sets, ours: &Sets, from: Situation, to: Situation, rest: bool) -> (Derived, Sets) {
        let counted = all.iter().all(|set| !set.is_empty());
        let hand = self.site.room(self.room).map(|room| room.plans.hand.as_slice()).unwrap_or_default();
        let touched = hand.iter().any(|change| (change.from, change.to) == (from, to));
        let pick = |(all, ours): (&BTreeSet<Joint>, &BTreeSet<Joint>)| if all.is_empty() { ours } else { all }.clone();
        let known: Sets = all.iter().zip(ours).map(pick).collect();
        if let Some(derived) = self.from_everything.borrow().get(&(to, rest)).filter(|_| counted && !touched) {
            let mut derived = derived.clone();
            derived.plan.from = Some(from);
            return (derived, known);
        }
        let derived = self.derive_from_part(&known, from, to, false);
        if counted && !touched && rest && !derived.parts.is_empty() {
            self.none_at_rest.borrow_mut().insert(to);
        }
        // Which part is served where there is no sequence from all of it hangs on the start.
        if counted && !touched && (derived.parts.is_empty() || !rest) {
            self.from_everything.borrow_mut().insert((to, rest), derived.clone());
        }
        (derived, known)
    }

    /// The state of each group that is handed over in a situation.
    fn handed_states(&self, from: Situation) -> Vec<Option<Joint>> {
        let nominal = self.nominal.get(&from);
        (0..self.groups.len()).map(|at| nominal.and_then(|sets| sets[at].iter().next().cloned())).collect()
    }

    /// Grows what is ours until nothing more belongs to it.
    fn close(&mut self) {
        let mut grown = Grown {
            sets: BTreeMap::new(),
            asked: BTreeSet::new(),
            plans: vec![0; self.groups.len()],
            nodes: vec![0; self.groups.len()],
            looked: vec![0; self.groups.len()],
        };
        for at in 0..self.groups.len() {
            let off = self.nominal.get(&Situation::Off).map(|sets| sets[at].clone()).unwrap_or_default();
            for joint in off {
                self.add(&mut grown, Situation::Off, at, &joint);
            }
        }
        let mut done: BTreeMap<(Situation, Situation), Sets> = BTreeMap::new();
        for round in 0.. {
            let mut changed = false;
            for from in self.situations.clone() {
                let known = grown.known(from, self.groups.len());
                if known.iter().all(BTreeSet::is_empty) {
                    continue;
                }
                for to in self.situations.clone() {
                    if from == to || done.get(&(from, to)) == Some(&known) {
                        continue;
                    }
                    done.insert((from, to), known.clone());
                    let (derived, _) = self.plan_for(known.clone(), from, to, self.policy());
                    for (at, known) in known.iter().enumerate() {
                        changed |= self.leave_behind(&mut grown, at, known, &derived.scripts[at], to);
                    }
                }
                changed |= self.others(&mut grown, from);
            }
            if !changed {
                break;
            }
            if round == ROUNDS {
                self.cut.extend(0..self.groups.len());
                break;
            }
        }
        let count = self.groups.len();
        self.hot = self.situations.iter().map(|&situation| (situation, grown.known(situation, count))).collect();
        for (situation, sets) in &self.hot {
            let mut settled = vec![BTreeSet::new(); count];
            for (at, set) in sets.iter().enumerate() {
                for joint in set {
                    match self.groups[at].settled(joint) {
                        Ok(rest) => settled[at].extend(rest),
                        Err(Cut) => {
                            self.cut.insert(at);
                        }
                    }
                }
            }
            self.settled.insert(*situation, settled);
        }
    }

    /// Adds what a script leaves behind to what belongs to `to`, and what becomes of it where it is broken off.
    fn leave_behind(
        &mut self,
        grown: &mut Grown,
        at: usize,
        starts: &BTreeSet<Joint>,
        script: &crate::plan::Script,
        to: Situation,
    ) -> bool {
        if starts.is_empty() || self.cut.contains(&at) {
            return false;
        }
        let Ok(prefixes) = run::prefixes(&self.groups[at], starts, script) else {
            self.cut.insert(at);
            return false;
        };
        grown.looked[at] += prefixes.iter().map(BTreeSet::len).sum::<usize>();
        let mut changed = false;
        let (inner, ends) = prefixes.split_at(prefixes.len() - 1);
        for end in ends.iter().flatten() {
            changed |= self.add(grown, to, at, end);
        }
        for prefix in inner.iter().skip(1) {
            for next in self.situations.clone().into_iter().filter(|&next| next != to) {
                changed |= self.broken_off(grown, at, prefix, (self.room, next), next);
            }
        }
        changed
    }

    /// Adds what the plan for `next` of a room makes of a group that was left in one of these states, to what belongs to
    /// `current`.
    fn broken_off(
        &mut self,
        grown: &mut Grown,
        at: usize,
        left: &BTreeSet<Joint>,
        next: (RoomId, Situation),
        current: Situation,
    ) -> bool {
        if grown.looked[at] > LOOKED_MAX || self.cache.spent.get() > SPENT_MAX {
            self.cut.insert(at);
        }
        if self.cut.contains(&at) {
            return false;
        }
        let mut known = Merged::default();
        let mut before = walked();
        for joint in left {
            if grown.looked[at] > LOOKED_MAX {
                self.cut.insert(at);
                return false;
            }
            match self.groups[at].at_any_moment(joint) {
                Ok(all) => {
                    grown.looked[at] += all.len() + walked() - before;
                    before = walked();
                    all.iter().for_each(|joint| {
                        known.take(joint);
                    });
                }
                Err(Cut) => {
                    self.cut.insert(at);
                    return false;
                }
            }
        }
        let known = known.set();
        if !grown.asked.insert((at, next, current, known.clone())) {
            return false;
        }
        grown.plans[at] += 1;
        if grown.plans[at] > PLANS {
            self.cut.insert(at);
            return false;
        }
        let derived = derive(&PlanRequest {
            site: self.site,
            room: next.0,
            from: None,
            to: next.1,
            groups: &self.groups[at..=at],
            known: vec![known.clone()],
            house_except: None,
            cache: Some(&self.cache),
            handed: vec![None],
            nodes: NODES_BROKEN_OFF,
            whole: true,
        });
        grown.nodes[at] += derived.plan.homing_nodes;
        if grown.nodes[at] > NODES {
            self.cut.insert(at);
            return false;
        }
        let Ok(mut prefixes) = run::prefixes(&self.groups[at], &known, &derived.scripts[0]) else {
            self.cut.insert(at);
            return false;
        };
        grown.looked[at] += prefixes.iter().map(BTreeSet::len).sum::<usize>();
        let ends = prefixes.pop().unwrap_or_default();
        let mut changed = false;
        for end in &ends {
            changed |= self.add(grown, current, at, end);
        }
        changed
    }

    /// What other rooms do meanwhile to devices that they share with this one.
    fn others(&mut self, grown: &mut Grown, current: Situation) -> bool {
        let mut changed = false;
        for at in 0..self.groups.len() {
            let members = self.groups[at].members.iter();
            let elsewhere: BTreeSet<RoomId> = members
                .flat_map(|(device, _)| {
                    self.site.device(*device).map(|device| device.rooms().to_vec()).unwrap_or_default()
                })
                .filter(|room| *room != self.room)
                .collect();
            for room in elsewhere {
                let activities = self.site.activities.iter().filter(|activity| activity.room == room);
                let asked = activities.map(|activity| Situation::In { activity: activity.id });
                for to in asked.chain([Situation::Off]).collect::<Vec<_>>() {
                    let known = grown.known(current, self.groups.len()).swap_remove(at);
                    if !known.is_empty() {
                        changed |= self.broken_off(grown, at, &known, (room, to), current);
                    }
                }
            }
        }
        changed
    }

    /// Takes a state in with everything that becomes of it if nobody asks for anything: settling, couplings, and
    /// devices that switch themselves off at any moment.
    fn add(&mut self, grown: &mut Grown, situation: Situation, at: usize, joint: &Joint) -> bool {
        let targets: Vec<Target> = self.groups[at]
            .members
            .iter()
            .map(|(device, _)| self.interests.get(device).copied().unwrap_or_default())
            .collect();
        let group = &self.groups[at];
        let set = grown.sets.entry((situation, at)).or_default();
        let mut open = vec![group.relevant(joint.clone(), &targets)];
        let mut changed = false;
        let before = walked();
        let looked = grown.looked[at];
        while let Some(next) = open.pop() {
            grown.looked[at] = grown.looked[at].max(looked + walked() - before);
            if set.0.len() > SET_MAX || grown.looked[at] > LOOKED_MAX {
                self.cut.insert(at);
                break;
            }
            let Ok(moments) = group.at_any_moment(&next) else {
                self.cut.insert(at);
                continue;
            };
            grown.looked[at] += moments.len();
            for moment in moments {
                if !set.take(&moment) {
                    continue;
                }
                changed = true;
                for (member, (_, machine)) in group.members.iter().enumerate() {
                    let timed = moment.members[member];
                    if machine.profile().auto_standby.is_some() && timed.state.on {
                        let (state, effect) = machine.switch(timed.state, false);
                        let off = timed::set_off(machine, &timed, state, effect);
                        open.push(group.changed(&moment, member, off));
                    }
                }
            }
        }
        changed
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

/// For which group, by which room for what, what was current, and from what.
type AskedFor = (usize, (RoomId, Situation), Situation, BTreeSet<Joint>);

/// What is ours so far.
struct Grown {
    sets: BTreeMap<(Situation, usize), Merged>,
    /// Plans that were asked for.
    asked: BTreeSet<AskedFor>,
    /// How many, group by group.
    plans: Vec<usize>,
    /// What the searches for them looked at, group by group.
    nodes: Vec<usize>,
    /// States that were looked at, group by group.
    looked: Vec<usize>,
}

impl Grown {
    fn known(&self, situation: Situation, groups: usize) -> Sets {
        (0..groups).map(|at| self.sets.get(&(situation, at)).map(Merged::set).unwrap_or_default()).collect()
    }
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

/// Every combination of the members' states that can be, one after the other.
pub(super) struct Product<'p, 'a> {
    group: &'p Group<'a>,
    lists: &'p [Vec<Timed>],
    next: Option<Vec<usize>>,
}

impl<'p, 'a> Product<'p, 'a> {
    pub(super) fn new(group: &'p Group<'a>, lists: &'p [Vec<Timed>]) -> Self {
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
            let joint = self.group.with_any_event(joint);
            if self.group.is_consistent(&joint) {
                return Some(joint);
            }
        }
    }
}
