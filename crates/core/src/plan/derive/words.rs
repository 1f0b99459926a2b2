//! The words: sequences of keys that bring each group of devices home, several of each where there are.

use super::request::{Asked, HomeCache};
use super::{Chain, Deriver, JOINT_MAX, JOINT_MEMBERS, JOINT_NODES, PlannedLook};
use crate::device::homing::{self, Homed, NODES, NoWord, Word};
use crate::device::look::{Seen, look_ms, seen};
use crate::device::{Group, Joint, Letter, State, Target, Timed, Window};
use crate::finding::Finding;
use crate::id::DeviceId;
use crate::model::{FindingKind, NoWay, PlanChange, Power, Situation};
use crate::plan::chain::{self, Send};
use crate::plan::hand;
use rustc_hash::FxHashSet;
use std::cell::Cell;
use std::collections::{BTreeMap, BTreeSet};

impl Deriver<'_> {
    pub(super) fn targets(&self, group: &Group<'_>) -> Vec<Target> {
        let target = |device: &DeviceId, profile| self.goals.get(device).map(|goal| goal.target(profile));
        group.members.iter().map(|(device, machine)| target(device, machine.profile()).unwrap_or_default()).collect()
    }

    fn sending(&self) -> impl Fn(DeviceId, Letter) -> homing::Sending + '_ {
        |device, letter| chain::sending(self.request.site, device, letter)
    }

    /// What a hand has forbidden.
    fn forbidden(&self) -> impl Fn(DeviceId, Letter) -> bool {
        |device, letter| hand::forbids(self.request.site, &self.changes, device, letter)
    }

    /// What was found before for the same question, where nothing is forbidden by hand.
    pub(super) fn cached(
        &self,
        at: (usize, Option<usize>),
        known: &BTreeSet<Joint>,
        targets: &[Target],
        home: impl Fn() -> Result<Homed, NoWord>,
    ) -> Result<Homed, NoWord> {
        let Some((cache, asked)) = self.asked(at, known, targets) else { return home() };
        if let Some(found) = cache.found.borrow().get(&asked) {
            return found.clone();
        }
        let found = home();
        cache.found.borrow_mut().insert(asked, found.clone());
        found
    }

    /// Where it is kept what was found, and under what; nowhere where something is forbidden by hand.
    fn asked(
        &self,
        (at, member): (usize, Option<usize>),
        known: &BTreeSet<Joint>,
        targets: &[Target],
    ) -> Option<(&HomeCache, Asked)> {
        let forbids = self.changes.iter().any(|change| matches!(change, PlanChange::Forbid { .. }));
        let cache = self.request.cache.filter(|_| !forbids)?;
        let first = self.request.groups[at].members.first()?.0;
        Some((cache, ((first, member), known.clone(), targets.to_vec(), self.request.nodes)))
    }

    /// A sequence from everything that is known, within the budget.
    fn home(
        &self,
        group: &Group<'_>,
        known: &BTreeSet<Joint>,
        targets: &[Target],
        nodes: usize,
    ) -> Result<Homed, NoWord> {
        let forbidden = self.forbidden();
        let own = Cell::new(0);
        let spent = self.request.cache.map_or(&own, |cache| &cache.spent);
        homing::home_counted(group, known, targets, &forbidden, &self.sending(), (nodes, spent))
    }

    /// Why there is no sequence from all of what is known; the one for the largest part of it, and that part.
    fn short_of(
        &self,
        at: (usize, Option<usize>),
        group: &Group<'_>,
        known: &BTreeSet<Joint>,
        targets: &[Target],
        no: NoWord,
    ) -> (Finding, Option<Homed>, BTreeSet<Joint>) {
        let handed = self.request.handed.get(at.0).and_then(Option::as_ref);
        let handed =
            handed.map(|joint| at.1.map_or_else(|| joint.clone(), |member| Joint::of([joint.members[member]])));
        let find = || {
            let why = self.why_not(group, known, targets, no);
            let (homed, part) = self.largest_part(group, known, targets, handed.as_ref());
            (why, homed, part)
        };
        let (why, homed, part) = match self.asked(at, known, targets) {
            None => find(),
            Some((cache, asked)) => {
                let asked = (asked, handed.clone());
                let known = cache.short.borrow().get(&asked).cloned();
                known.unwrap_or_else(|| {
                    let found = find();
                    cache.short.borrow_mut().insert(asked, found.clone());
                    found
                })
            }
        };
        let device = group.members[0].0;
        let wish = self.goals.get(&device).map_or_else(String::new, |goal| goal.wish.clone());
        (Finding::of(self.request.site, FindingKind::NoSafeWay { device, wish, why }), homed, part)
    }

    /// The chain of a device that nothing couples.
    pub(super) fn single(&self, at: usize, group: &Group<'_>, known: &BTreeSet<Joint>) -> Solved {
        let targets = self.targets(group);
        let machine = group.machine(0);
        let home = |known: &BTreeSet<Joint>| self.home(group, known, &targets, self.request.nodes);
        match self.cached((at, None), known, &targets, || home(known)) {
            Ok(homed) => Solved::whole(self.chain_of(at, group, known, homed)),
            Err(no) => {
                let look = look_ms(machine.profile()).and_then(|ms| {
                    let mut classes: BTreeMap<Seen, BTreeSet<Joint>> = BTreeMap::new();
                    for joint in known {
                        for (after, _) in group.elapse(joint, Window::exactly(ms)).ok()? {
                            classes.entry(seen(machine.profile(), &after.members[0])).or_default().insert(after);
                        }
                    }
                    let branches: Option<Vec<(Seen, Word)>> = classes
                        .into_iter()
                        .map(|(seen, class)| Some((seen, home(&class).ok()?.words.into_iter().next()?)))
                        .collect();
                    let branches = branches?;
                    let worst = (0..branches.len()).max_by_key(|&at| branches[at].1.cost.seen_ms)?;
                    Some(PlannedLook { ms, branches, worst })
                });
                let Some(look) = look else {
                    let (finding, homed, part) = self.short_of((at, None), group, known, &targets, no);
                    let chain = homed.and_then(|homed| self.chain_of(at, group, &part, homed));
                    return Solved { chain, short: Some((finding, part)) };
                };
                let word = &look.branches[look.worst].1;
                let mut sends = chain::spell(self.request.site, word, |device| self.needed(device));
                self.with_volume(group, known, &mut sends, word.settle_ms);
                Solved::whole(Some(Chain {
                    group: at,
                    options: vec![sends],
                    look: Some(look),
                    shortest: true,
                    whole: true,
                    nodes: 0,
                }))
            }
        }
    }

    pub(super) fn chain_of(
        &self,
        at: usize,
        group: &Group<'_>,
        known: &BTreeSet<Joint>,
        homed: Homed,
    ) -> Option<Chain> {
        let options: Vec<Vec<Send>> = homed
            .words
            .iter()
            .map(|word| {
                let mut sends = chain::spell(self.request.site, word, |device| self.needed(device));
                self.with_volume(group, known, &mut sends, word.settle_ms);
                sends
            })
            .collect();
        let nothing = options.iter().all(Vec::is_empty);
        (!nothing).then_some(Chain {
            group: at,
            options,
            look: None,
            shortest: homed.shortest,
            nodes: homed.nodes,
            whole: homed.whole,
        })
    }

    /// Steps of volume after the word, where the activity starts at a volume of its own.
    pub(super) fn with_volume(
        &self,
        group: &Group<'_>,
        known: &BTreeSet<Joint>,
        sends: &mut Vec<Send>,
        settle_ms: u32,
    ) {
        for (member, (device, machine)) in group.members.iter().enumerate() {
            let wanted = self.goals.get(device).and_then(|goal| goal.volume);
            let (Some(wanted), Some(volume)) = (wanted, machine.profile().volume) else { continue };
            let off = known.iter().all(|joint| !joint.members[member].state.on);
            let belief = match volume.after_power_on {
                Some(value) if off => (value * 10, value * 10),
                _ => (0, volume.range * 10),
            };
            let gap = machine.profile().times.gap_ms;
            let mut wait = if sends.is_empty() { 0 } else { settle_ms.max(gap) };
            for key in chain::volume(machine.profile(), belief, wanted) {
                sends.push(Send { letter: None, ..Send::single(self.request.site, *device, key, wait) });
                wait = gap;
            }
        }
    }

    /// The chains of devices that switch each other: as one machine where that is small, else one by one,
    /// those that cause something first where `upstream_first` asks for it.
    #[allow(clippy::too_many_arguments, reason = "one step of the derivation")]
    pub(super) fn coupled(
        &self,
        at: usize,
        group: &Group<'_>,
        known: &BTreeSet<Joint>,
        upstream_first: bool,
        chains: &mut Vec<Chain>,
        before: &mut Vec<(usize, usize, u32)>,
        found: &mut Vec<(Finding, BTreeSet<Joint>)>,
    ) {
        let targets = self.targets(group);
        // Devices that only hear or hide each other are solved apart first, and together where that goes wrong.
        let apart = group.links.is_empty() && !upstream_first;
        if !apart && known.len() <= JOINT_MAX && group.members.len() <= JOINT_MEMBERS && !known.is_empty() {
            let homed = self.cached((at, None), known, &targets, || self.home(group, known, &targets, JOINT_NODES));
            if let Ok(homed) = homed
                && homed.shortest
            {
                chains.extend(self.chain_of(at, group, known, homed));
                return;
            }
        }
        let mut place: BTreeMap<usize, usize> = BTreeMap::new();
        // What couplings still have on their way is waited out first.
        let (calm, calm_ms) = if upstream_first { calmed(group, known) } else { None }.unwrap_or((known.clone(), 0));
        for member in group.upstream_first() {
            let (device, machine) = &group.members[member];
            let belief = belief_of(group, member, &calm, upstream_first);
            let causes: Vec<usize> =
                group.links.iter().filter(|link| link.to == member).map(|link| link.from).collect();
            // What only follows has no keys of its own, and nothing is asked of it here.
            let own = [Target {
                on: targets[member].on.filter(|_| !matches!(machine.profile().power, Power::Follows { .. })),
                ..targets[member]
            }];
            let alone = Group::single(*device, machine.clone());
            let home = || self.home(&alone, &belief, &own, self.request.nodes);
            match self.cached((at, Some(member)), &belief, &own, home) {
                Ok(homed) => {
                    let shortest = homed.shortest && group.links.is_empty() && group.echoes.is_empty();
                    let chain = self.chain_of(at, &alone, &belief, Homed { shortest, ..homed });
                    if let Some(chain) = chain.map(|chain| chain.later(calm_ms)) {
                        if upstream_first {
                            for cause in causes.iter().filter_map(|cause| place.get(cause)) {
                                let delay = group.links.iter().filter(|link| link.to == member);
                                let delay = delay.map(|link| link.delay.hi_ms).max().unwrap_or(0);
                                before.push((*cause, chains.len(), delay));
                            }
                        }
                        place.insert(member, chains.len());
                        chains.push(chain);
                    }
                }
                Err(no) => {
                    let (finding, homed, part) = self.short_of((at, Some(member)), &alone, &belief, &own, no);
                    let chain =
                        homed.and_then(|homed| self.chain_of(at, &alone, &part, Homed { shortest: false, ..homed }));
                    if let Some(chain) = chain.map(|chain| chain.later(calm_ms)) {
                        place.insert(member, chains.len());
                        chains.push(chain);
                    }
                    let kept: BTreeSet<State> = part.iter().map(|joint| joint.members[0].state).collect();
                    let of_part =
                        |joint: &&Joint| kept.contains(&targets[member].relevant(joint.members[member].state));
                    found.push((finding, known.iter().filter(of_part).cloned().collect()));
                }
            }
        }
    }

    /// The largest part of a belief that a sequence brings home, and that; an empty part where there is none.
    fn largest_part(
        &self,
        group: &Group<'_>,
        known: &BTreeSet<Joint>,
        targets: &[Target],
        handed: Option<&Joint>,
    ) -> (Option<Homed>, BTreeSet<Joint>) {
        let forbidden = self.forbidden();
        let few = self.request.nodes < NODES / 20;
        let tried = if few { PARTS_TRIED / 8 } else { PARTS_TRIED };
        for part in homing::parts(group, known, targets, &forbidden, handed).into_iter().take(tried) {
            if let Ok(homed) = self.home(group, &part, targets, self.request.nodes) {
                return (Some(homed), part);
            }
        }
        (None, BTreeSet::new())
    }

    fn why_not(&self, group: &Group<'_>, known: &BTreeSet<Joint>, targets: &[Target], no: NoWord) -> NoWay {
        match no {
            NoWord::Proved => {
                let forbidden = self.forbidden();
                let own = Cell::new(0);
                let spent = self.request.cache.map_or(&own, |cache| &cache.spent);
                let together = homing::obstacle(group, known, targets, &forbidden, &self.sending(), spent);
                let (states, minimal) = together.map_or((vec![], true), |found| (found.states, found.minimal));
                let machine = group.machine(0);
                let say = |joint: &Joint| crate::device::words::state(machine.profile(), &joint.members[0]);
                NoWay::Proved { states: states.iter().map(say).collect(), minimal }
            }
            NoWord::GaveUp => NoWay::GaveUp { sets: self.request.nodes },
        }
    }

    /// The commands of the arrival look.
    pub(super) fn arrival(&self) -> Vec<Send> {
        let Situation::In { activity } = self.request.to else { return vec![] };
        let Some(activity) = self.request.site.activity(activity) else { return vec![] };
        if self.request.from == Some(self.request.to) {
            return vec![];
        }
        let send = |arrival: &crate::model::Arrival| Send {
            letter: None,
            ..Send::single(self.request.site, arrival.device, arrival.function, 0)
        };
        activity.extras.arrival.iter().map(send).collect()
    }
}

/// What came of the search for one device.
pub(super) struct Solved {
    pub(super) chain: Option<Chain>,
    /// Why there is no sequence from all of what is known, and the part that the chain is for.
    pub(super) short: Option<(Finding, BTreeSet<Joint>)>,
}

impl Solved {
    fn whole(chain: Option<Chain>) -> Self {
        Self { chain, short: None }
    }
}

/// Parts of a belief that are tried before it is said that none has a sequence.
const PARTS_TRIED: usize = 24;

/// What a group is once everything that couplings may have on their way has landed, and how long that takes.
fn calmed(group: &Group<'_>, known: &BTreeSet<Joint>) -> Option<(BTreeSet<Joint>, u32)> {
    let (mut set, mut waited) = (known.clone(), 0);
    for _ in 0..8 {
        let events = set.iter().flat_map(|joint| &joint.pending);
        let Some(ms) = events.map(|event| event.left.hi_ms).max() else { return Some((set, waited)) };
        let mut next = BTreeSet::new();
        for joint in &set {
            next.extend(group.elapse(joint, Window::exactly(ms)).ok()?.into_iter().map(|(after, _)| after));
        }
        (set, waited) = (next, waited + ms);
    }
    None
}

/// What one member of a group may be: any state where nothing is known, and what events may still make of it.
fn belief_of(group: &Group<'_>, member: usize, known: &BTreeSet<Joint>, upstream_first: bool) -> BTreeSet<Joint> {
    // Few of a great many are different: told apart by hash before they are put in order.
    let different: FxHashSet<Timed> = known.iter().map(|joint| joint.members[member]).collect();
    let mut belief: BTreeSet<Joint> = different.into_iter().map(|timed| Joint::of([timed])).collect();
    if belief.is_empty() {
        let states = group.machine(member).states();
        belief = states.into_iter().map(|state| Joint::of([Timed::from(state)])).collect();
    }
    if upstream_first { group.closed_under_events(member, &belief) } else { belief }
}
