//! The derivation of a plan: goals → words → chains → schedule → steps and waits with their reasons.

use super::chain::{self, Send};
use super::goal::{self, DeviceGoal, Goals};
use super::jobs::{Before, Job, Op};
use super::run;
use super::schedule::{self, BoundBy, Scheduled};
use crate::device::homing::{self, Homed, NODES, NoWord, Word};
use crate::device::look::{Seen, look_ms, seen};
use crate::device::timed::FOREVER_MS;
use crate::device::{Group, Joint, Letter, Target, Timed, Window};
use crate::finding::{Finding, Weight};
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::model::{
    DeviceKind, Effect, FindingKind, Goes, Medium, NoWay, OrderRule, PlanChange, Power, Site, Situation, Span, When,
};
use crate::plan::{Branch, BranchCommand, KeptRule, LookFirst, Plan, Start, Step, Wait, hand, press_of};
use crate::wiring;
use crate::words::seconds;
use rustc_hash::FxHashSet;
use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet, HashMap};

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

/// What a plan is asked for.
pub struct PlanRequest<'a> {
    /// The house.
    pub site: &'a Site,
    /// The room.
    pub room: RoomId,
    /// Where it starts, where that has a name: changes by hand go by it.
    pub from: Option<Situation>,
    /// Where it leads.
    pub to: Situation,
    /// The devices of the room in groups.
    pub groups: &'a [Group<'a>],
    /// What each group may be in.
    pub known: Vec<BTreeSet<Joint>>,
    /// For a plan that switches the house off: the rooms that are left alone.
    pub house_except: Option<&'a [RoomId]>,
    /// Sequences that were found before for the same groups.
    pub cache: Option<&'a HomeCache>,
}

/// What is asked for: a group by its place, what is known of it, and what is wanted.
type Asked = ((usize, Option<usize>), BTreeSet<Joint>, Vec<Target>);

/// Sequences of keys that were found for the groups of a room: many plans ask for the same ones.
#[derive(Debug, Default)]
pub struct HomeCache {
    found: RefCell<HashMap<Asked, Result<Homed, NoWord>>>,
}

/// What is sent to one group, in order of time.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Script {
    /// The keys.
    pub steps: Vec<ScriptStep>,
    /// A look that comes first, and what is sent after each thing that can be seen.
    pub look: Option<LookScript>,
}

/// A look at a device that is alone in its group.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LookScript {
    /// How long it takes at most, in ms.
    pub ms: u32,
    /// What can be seen and what is sent then.
    pub branches: Vec<(Seen, Vec<ScriptStep>)>,
}

/// One key of a script.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ScriptStep {
    /// To which member of the group.
    pub member: usize,
    /// What.
    pub letter: Letter,
    /// When it takes effect: the end of its send, in ms.
    pub at_ms: u32,
    /// How long after the key before (or the start), with every delay that the plan allows.
    pub after: Window,
    /// The step of the plan that completes it; none for a branch that the plan does not show.
    pub step: Option<usize>,
}

/// A plan and the scripts of its groups, in their order.
#[derive(Debug, Clone, PartialEq)]
pub struct Derived {
    /// The plan.
    pub plan: Plan,
    /// What each group is sent.
    pub scripts: Vec<Script>,
}

/// Every combination of the members' states that can be; devices that are not named may be in any state.
#[must_use]
pub fn joint(site: &Site, group: &Group<'_>, start: &Start) -> BTreeSet<Joint> {
    let _ = site;
    let mut all = vec![Joint::default()];
    for (device, machine) in &group.members {
        let states: Vec<Timed> = match start.get(device) {
            Some(known) => known.iter().copied().collect(),
            None => machine.states().into_iter().map(Timed::from).collect(),
        };
        if all.len().saturating_mul(states.len()) > PRODUCT_MAX {
            break;
        }
        let joined = |joint: &Joint| {
            let joint = joint.clone();
            states
                .iter()
                .map(move |&state| {
                    let mut next = joint.clone();
                    next.members.push(state);
                    next
                })
                .collect::<Vec<_>>()
        };
        all = all.iter().flat_map(joined).filter(|joint| group.is_consistent(joint)).collect();
    }
    // A product that was cut short says nothing; what follows treats the group as too large.
    all.into_iter().filter(|joint| joint.members.len() == group.members.len()).collect()
}

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

impl Deriver<'_> {
    fn targets(&self, group: &Group<'_>) -> Vec<Target> {
        let target = |device: &DeviceId, profile| self.goals.get(device).map(|goal| goal.target(profile));
        group.members.iter().map(|(device, machine)| target(device, machine.profile()).unwrap_or_default()).collect()
    }

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

    fn sending(&self) -> impl Fn(DeviceId, Letter) -> homing::Sending + '_ {
        |device, letter| chain::sending(self.request.site, device, letter)
    }

    /// What was found before for the same question, where nothing is forbidden by hand.
    fn cached(
        &self,
        at: (usize, Option<usize>),
        known: &BTreeSet<Joint>,
        targets: &[Target],
        home: impl Fn() -> Result<Homed, NoWord>,
    ) -> Result<Homed, NoWord> {
        let forbids = self.changes.iter().any(|change| matches!(change, PlanChange::Forbid { .. }));
        let Some(cache) = self.request.cache.filter(|_| !forbids) else { return home() };
        let asked = (at, known.clone(), targets.to_vec());
        if let Some(found) = cache.found.borrow().get(&asked) {
            return found.clone();
        }
        let found = home();
        cache.found.borrow_mut().insert(asked, found.clone());
        found
    }

    /// The chain of a device that nothing couples.
    fn single(&self, at: usize, group: &Group<'_>, known: &BTreeSet<Joint>) -> Result<Option<Chain>, Box<Finding>> {
        let targets = self.targets(group);
        let (device, machine) = &group.members[0];
        let forbidden = |device, letter| hand::forbids(&self.changes, device, letter);
        let sending = self.sending();
        let home = |known: &BTreeSet<Joint>| homing::home_group(group, known, &targets, &forbidden, &sending);
        match self.cached((at, None), known, &targets, || home(known)) {
            Ok(homed) => Ok(self.chain_of(at, group, known, homed)),
            Err(no) => {
                let look = look_ms(machine.profile()).and_then(|ms| {
                    let mut classes: BTreeMap<Seen, BTreeSet<Joint>> = BTreeMap::new();
                    for joint in known {
                        for (after, _) in group.elapse(joint, Window::exactly(ms)) {
                            classes.entry(seen(machine.profile(), &after.members[0])).or_default().insert(after);
                        }
                    }
                    let branches: Option<Vec<(Seen, Word)>> = classes
                        .into_iter()
                        .map(|(seen, class)| Some((seen, home(&class).ok()?.words.into_iter().next()?)))
                        .collect();
                    let branches = branches?;
                    let worst = (0..branches.len()).max_by_key(|&at| branches[at].1.cost.ms)?;
                    Some(PlannedLook { ms, branches, worst })
                });
                let Some(look) = look else { return Err(Box::new(self.no_way(*device, group, known, &targets, no))) };
                let word = &look.branches[look.worst].1;
                let mut sends = chain::spell(self.request.site, word, |device| self.needed(device));
                self.with_volume(group, known, &mut sends, word.settle_ms);
                Ok(Some(Chain { group: at, options: vec![sends], look: Some(look), shortest: true, nodes: 0 }))
            }
        }
    }

    fn chain_of(&self, at: usize, group: &Group<'_>, known: &BTreeSet<Joint>, homed: Homed) -> Option<Chain> {
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
        (!nothing).then_some(Chain { group: at, options, look: None, shortest: homed.shortest, nodes: homed.nodes })
    }

    /// Steps of volume after the word, where the activity starts at a volume of its own.
    fn with_volume(&self, group: &Group<'_>, known: &BTreeSet<Joint>, sends: &mut Vec<Send>, settle_ms: u32) {
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
    fn coupled(
        &self,
        at: usize,
        group: &Group<'_>,
        known: &BTreeSet<Joint>,
        upstream_first: bool,
        chains: &mut Vec<Chain>,
        before: &mut Vec<(usize, usize, u32)>,
        found: &mut Vec<Finding>,
    ) {
        let targets = self.targets(group);
        let forbidden = |device, letter| hand::forbids(&self.changes, device, letter);
        let sending = self.sending();
        if known.len() <= JOINT_MAX && group.members.len() <= JOINT_MEMBERS && !known.is_empty() {
            let homed = self.cached((at, None), known, &targets, || {
                homing::home_within(group, known, &targets, &forbidden, &sending, JOINT_NODES)
            });
            if let Ok(homed) = homed
                && homed.shortest
            {
                chains.extend(self.chain_of(at, group, known, homed));
                return;
            }
        }
        let mut place: BTreeMap<usize, usize> = BTreeMap::new();
        for member in group.upstream_first() {
            let (device, machine) = &group.members[member];
            // Few of a great many are different: told apart by hash before they are put in order.
            let different: FxHashSet<Timed> = known.iter().map(|joint| joint.members[member]).collect();
            let mut belief: BTreeSet<Joint> = different.into_iter().map(|timed| Joint::of([timed])).collect();
            if belief.is_empty() {
                belief = machine.states().into_iter().map(|state| Joint::of([Timed::from(state)])).collect();
            }
            let causes: Vec<usize> =
                group.links.iter().filter(|link| link.to == member).map(|link| link.from).collect();
            if upstream_first {
                belief = group.closed_under_events(member, &belief);
            }
            // What only follows has no keys of its own, and nothing is asked of it here.
            let own = [Target {
                on: targets[member].on.filter(|_| !matches!(machine.profile().power, Power::Follows { .. })),
                ..targets[member]
            }];
            let alone = Group::single(*device, machine.clone());
            let home = || homing::home_group(&alone, &belief, &own, &forbidden, &sending);
            match self.cached((at, Some(member)), &belief, &own, home) {
                Ok(homed) => {
                    let chain = self.chain_of(at, &alone, &belief, Homed { shortest: false, ..homed });
                    if let Some(chain) = chain {
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
                Err(no) => found.push(self.no_way(*device, &alone, &belief, &own, no)),
            }
        }
    }

    fn no_way(
        &self,
        device: DeviceId,
        group: &Group<'_>,
        known: &BTreeSet<Joint>,
        targets: &[Target],
        no: NoWord,
    ) -> Finding {
        let wish = self.goals.get(&device).map_or_else(String::new, |goal| goal.wish.clone());
        let why = match no {
            NoWord::Proved => {
                let forbidden = |device, letter| hand::forbids(&self.changes, device, letter);
                let sending = self.sending();
                let together = homing::obstacle(group, known, targets, &forbidden, &sending).unwrap_or_default();
                let machine = group.machine(0);
                let states = together
                    .iter()
                    .map(|joint| crate::device::words::state(machine.profile(), &joint.members[0]))
                    .collect();
                NoWay::Proved { states }
            }
            NoWord::GaveUp => NoWay::GaveUp { sets: NODES },
        };
        Finding::of(self.request.site, FindingKind::NoSafeWay { device, wish, why })
    }

    /// The commands of the arrival look.
    fn arrival(&self) -> Vec<Send> {
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

    fn lay_out(
        &mut self,
        chains: &[Chain],
        arrival_from: usize,
        links: &[(usize, usize, u32)],
        found: Vec<Finding>,
    ) -> Derived {
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
        let bound_by = match bound_by {
            None => "nothing has to be sent".to_owned(),
            Some(BoundBy::Chain(job)) => match sends[job].first() {
                Some(send) => format!("the longest chain, that of {}", site.device_name(send.device)),
                None => "the longest chain".to_owned(),
            },
            Some(BoundBy::Medium(medium)) => format!("the commands that share {}", self.resource_name(medium)),
        };
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

    /// The shared medium of a send: infrared is one a room, radio one a house.
    fn resource(&self, send: &Send) -> Option<u8> {
        let site = self.request.site;
        match send.medium {
            Medium::Rf433 => Some(0),
            Medium::Ir => {
                // What serves several rooms from a cupboard is reached by the emitters of the cupboard.
                let room = site.device(send.device).map(|device| device.room);
                let place = site.rooms.iter().position(|known| Some(known.id) == room).unwrap_or(0);
                let here = site.device(send.device).is_some_and(|device| device.serves(self.request.room));
                let own = site.rooms.iter().position(|known| known.id == self.request.room).unwrap_or(0);
                let place = if here && self.request.house_except.is_none() { own } else { place };
                u8::try_from(place % (schedule::RESOURCES - 1) + 1).ok()
            }
            _ => None,
        }
    }

    fn resource_name(&self, resource: u8) -> String {
        if resource == 0 { Medium::Rf433.name().to_owned() } else { Medium::Ir.name().to_owned() }
    }

    fn job(&self, sends: &[Send], chain: &Chain) -> Job {
        let look = chain.look.as_ref().map_or(0, |look| look.ms);
        let head_ms = look + sends.first().map_or(0, |send| send.wait_ms);
        let op = |(at, send): (usize, &Send)| {
            let next = sends.get(at + 1);
            let shows_ms = send.shows.hi_ms;
            Op {
                resource: self.resource(send),
                send_ms: send.send_ms,
                lag_ms: next.map_or(0, |next| next.wait_ms),
                within_ms: next.and_then(|next| next.within_ms),
                shows_ms,
                settles_ms: shows_ms.max(send.settle.hi_ms),
                needed: send.needed,
                pin_ms: send.pin_ms,
            }
        };
        Job { head_ms, ops: sends.iter().enumerate().map(op).collect() }
    }

    /// What goes before what: links, hidden devices, built-in rules and the room's own.
    fn before(
        &self,
        sends: &[Vec<Send>],
        arrival_from: usize,
        links: &[(usize, usize, u32)],
        notes: &mut Vec<Finding>,
    ) -> (Vec<Before>, Vec<KeptRule>) {
        let site = self.request.site;
        let mut before = Vec::new();
        let mut kept = Vec::new();
        let ends = |job: usize| sends[job].len().checked_sub(1);
        let mut first_then = |first: usize, then: usize, lag_ms: u32| {
            if let (Some(end), false) = (ends(first), sends[then].is_empty() || first == then) {
                before.push(Before { first: (first, end), then: (then, 0), lag_ms });
            }
        };
        for &(first, then, lag_ms) in links {
            first_then(first, then, lag_ms);
        }
        let owner = |job: usize| sends[job].first().map(|send| send.device);
        let jobs_of = |device: DeviceId| (0..sends.len()).filter(move |&job| owner(job) == Some(device));
        let kind = |device: DeviceId| site.model_of(device).map(|profile| profile.kind);
        let starting = matches!(self.request.to, Situation::In { .. });
        // Lights first.
        for light in arrival_from..sends.len() {
            for other in 0..arrival_from {
                first_then(light, other, 0);
            }
        }
        if arrival_from < sends.len() {
            let text = "Light first: nobody comes into a dark room (built in).";
            kept.push(KeptRule { text: text.to_owned(), built_in: true });
        }
        // Power amplifiers last on, first off.
        for job in 0..arrival_from {
            let Some(device) = owner(job).filter(|&device| kind(device) == Some(DeviceKind::Amplifier)) else {
                continue;
            };
            for other in (0..arrival_from)
                .filter(|&other| other != job && owner(other).and_then(kind) != Some(DeviceKind::Amplifier))
            {
                if starting { first_then(other, job, 0) } else { first_then(job, other, 0) }
            }
            let name = site.device_name(device);
            let text = if starting {
                format!("{name} last: a power amplifier comes on when everything before it is quiet (built in).")
            } else {
                format!(
                    "{name} first: a power amplifier goes off before what it amplifies, so that nothing thumps (built in)."
                )
            };
            kept.push(KeptRule { text, built_in: true });
        }
        let own: &[OrderRule] = site.room(self.request.room).map_or(&[], |room| &room.plans.rules);
        for rule in own {
            let applies = match rule.when {
                When::Always => true,
                When::Starting => starting,
                When::Stopping => !starting,
            };
            let Some(job) = jobs_of(rule.device).next().filter(|_| applies) else { continue };
            let name = site.device_name(rule.device);
            let text = match rule.goes {
                Goes::First => {
                    (0..sends.len()).for_each(|other| first_then(job, other, 0));
                    format!("{name} first (a rule of this room).")
                }
                Goes::Last => {
                    (0..sends.len()).for_each(|other| first_then(other, job, 0));
                    format!("{name} last (a rule of this room).")
                }
                Goes::After { other } => {
                    let Some(first) = jobs_of(other).next() else { continue };
                    first_then(first, job, 0);
                    format!("{name} after {} (a rule of this room).", site.device_name(other))
                }
            };
            kept.push(KeptRule { text, built_in: false });
        }
        self.hidden(sends, &mut before, &mut kept, notes);
        (before, kept)
    }

    /// A device behind a screen is told what it has to do while the screen is up.
    fn hidden(
        &self,
        sends: &[Vec<Send>],
        before: &mut Vec<Before>,
        kept: &mut Vec<KeptRule>,
        notes: &mut Vec<Finding>,
    ) {
        let site = self.request.site;
        for (job, own) in sends.iter().enumerate() {
            let Some(first) = own.first() else { continue };
            let Some(screen) = site.device(first.device).and_then(|device| device.behind) else { continue };
            let cut_off = own.iter().any(|send| send.medium == Medium::Ir);
            let hides = site.profile_of(screen).and_then(|profile| profile.motion).is_some_and(|motion| motion.hides);
            if !cut_off || !hides {
                continue;
            }
            let (name, screen_name) = (site.device_name(first.device), site.device_name(screen));
            let moves = sends.iter().enumerate().find_map(|(other, sends)| {
                let travel = |send: &Send| send.device == screen && send.effect == Effect::Travel;
                sends.iter().rposition(travel).map(|place| (other, place, sends[place]))
            });
            match moves {
                Some((other, place, travel)) => {
                    let up = site.profile_of(screen).and_then(|profile| profile.motion).map(|motion| motion.up);
                    if up == Some(travel.function) {
                        before.push(Before { first: (other, place), then: (job, 0), lag_ms: travel.settle.hi_ms });
                        let text = format!(
                            "{name} after {screen_name} is up: it is cut off from its emitter before (built in)."
                        );
                        kept.push(KeptRule { text, built_in: true });
                    } else {
                        before.push(Before { first: (job, own.len() - 1), then: (other, place), lag_ms: 0 });
                        let text = format!(
                            "{name} before {screen_name} comes down: it is cut off from its emitter then (built in)."
                        );
                        kept.push(KeptRule { text, built_in: true });
                    }
                }
                None => {
                    let down = self
                        .goals
                        .get(&screen)
                        .and_then(|goal| goal.position)
                        .is_some_and(|to| to != crate::model::Position::Up);
                    if down {
                        let kind = FindingKind::CutOff { device: first.device, screen };
                        notes.push(Finding::of(site, kind));
                    }
                }
            }
        }
    }

    /// Steps and waits with their times, and the scripts of the groups.
    fn write(&self, chains: &[Chain], sends: &[Vec<Send>], scheduled: &Scheduled, plan: &mut Plan) -> Vec<Script> {
        let site = self.request.site;
        let mut keys: Vec<(usize, usize, Letter, DeviceId, u32, Window, usize)> = Vec::new();
        let mut counted: BTreeMap<(DeviceId, FunctionId), u32> = BTreeMap::new();
        for (at, (chain, own)) in chains.iter().zip(sends).enumerate() {
            let starts = &scheduled.starts_ms[at];
            let look_ms = chain.look.as_ref().map_or(0, |look| look.ms);
            let head = own.first().map_or(0, |send| send.wait_ms);
            if let Some(look) = &chain.look {
                plan.looks.push(self.look(chain, look));
            }
            if let Some(first) = own.first()
                && head > 0
            {
                plan.waits.push(Wait {
                    device: first.device,
                    effect: Effect::None,
                    from_ms: look_ms,
                    to_ms: look_ms + head,
                    span: Span::assumed(0, head),
                    label: format!("busy from before · ≤ {}", seconds(head)),
                    critical: scheduled.is_critical(at, 0),
                });
            }
            let (mut last_end, mut since) = (look_ms, Window::default());
            for (number, (send, &start_ms)) in own.iter().zip(starts).enumerate() {
                let end_ms = start_ms + send.send_ms;
                let critical = scheduled.is_critical(at, number);
                let before_ms = if number == 0 { look_ms } else { starts[number - 1] + own[number - 1].send_ms };
                let nth = counted.entry((send.device, send.function)).or_default();
                plan.steps.push(Step {
                    index: plan.steps.len(),
                    device: send.device,
                    function: send.function,
                    name: site.function_name(send.device, send.function),
                    medium: send.medium,
                    start_ms,
                    end_ms,
                    latest_ms: send.within_ms.filter(|_| number > 0).map(|within| before_ms + within),
                    code: site.code(send.device, send.function).map(|code| code.body.clone()),
                    press: press_of(site, send.device, send.function).0,
                    frames: press_of(site, send.device, send.function).1,
                    why: self.why(send),
                    critical,
                    nth: *nth,
                    by_hand: send.by_hand,
                });
                *nth += 1;
                since.lo_ms += send.wait_ms + send.send_ms;
                since.hi_ms = match send.within_ms {
                    Some(within) if number > 0 => since.hi_ms.saturating_add(within.max(send.wait_ms) + send.send_ms),
                    _ if send.pin_ms.is_some() => since.hi_ms.max(end_ms - last_end),
                    _ => FOREVER_MS,
                };
                if let Some(letter) = send.letter
                    && chain.group != usize::MAX
                {
                    let window = Window { lo_ms: since.lo_ms, hi_ms: since.hi_ms.max(since.lo_ms).min(FOREVER_MS) };
                    keys.push((chain.group, at, letter, send.device, end_ms, window, plan.steps.len() - 1));
                    (since, last_end) = (Window::default(), end_ms);
                }
                let span = if send.shows.hi_ms > send.settle.hi_ms { send.shows } else { send.settle };
                if span.hi_ms > 0 {
                    plan.waits.push(Wait {
                        device: send.device,
                        effect: send.effect,
                        from_ms: end_ms,
                        to_ms: end_ms + span.hi_ms,
                        span,
                        label: wait_label(send.effect, span),
                        critical,
                    });
                }
            }
        }
        let mut order: Vec<usize> = (0..plan.steps.len()).collect();
        order.sort_by_key(|&at| (plan.steps[at].start_ms, plan.steps[at].device, at));
        let mut place = vec![0; order.len()];
        for (new, &old) in order.iter().enumerate() {
            place[old] = new;
        }
        plan.steps.sort_by_key(|step| place[step.index]);
        for (index, step) in plan.steps.iter_mut().enumerate() {
            step.index = index;
        }
        plan.waits.sort_by_key(|wait| (wait.from_ms, wait.device));
        let mut scripts: Vec<Script> = self.request.groups.iter().map(|_| Script::default()).collect();
        keys.sort_by_key(|&(group, _, _, _, at_ms, _, step)| (group, at_ms, place[step]));
        for (at, &(group, chain, letter, device, at_ms, window, step)) in keys.iter().enumerate() {
            let own = &self.request.groups[group];
            let Some(member) = own.place(device) else { continue };
            // Chains of one group side by side: each key comes as planned, or somewhat later.
            let before = keys[..at].iter().rev().find(|key| key.0 == group);
            let after = match before {
                Some(before) if before.1 != chain => {
                    let planned = at_ms - before.4;
                    Window { lo_ms: planned, hi_ms: planned + run::LATE_MS }
                }
                None if !own.links.is_empty() => Window { lo_ms: at_ms, hi_ms: at_ms + run::LATE_MS },
                _ => window,
            };
            scripts[group].steps.push(ScriptStep { member, letter, at_ms, after, step: Some(place[step]) });
        }
        for chain in chains.iter().filter(|chain| chain.group != usize::MAX) {
            if let Some(look) = &chain.look {
                let branch = |(number, (seen, word)): (usize, &(Seen, Word))| {
                    if number == look.worst {
                        return (*seen, std::mem::take(&mut scripts[chain.group].steps));
                    }
                    (*seen, script_of(word))
                };
                let branches = look.branches.iter().enumerate().map(branch).collect();
                scripts[chain.group].look = Some(LookScript { ms: look.ms, branches });
            }
        }
        scripts
    }

    fn digit(&self, send: &Send) -> bool {
        let name = self.request.site.function_name(send.device, send.function);
        name.len() == 1 && name.bytes().all(|byte| byte.is_ascii_digit())
    }

    fn why(&self, send: &Send) -> String {
        if send.by_hand && !send.needed {
            return "Added by hand.".to_owned();
        }
        match self.goals.get(&send.device) {
            // All but the last digit of a number complete nothing yet.
            Some(goal) if send.letter.is_none() && goal.app.is_some() && self.digit(send) => goal.why.clone(),
            Some(goal) if send.letter.is_none() && goal.volume.is_some() => {
                format!("It starts at volume {}.", goal.volume.unwrap_or(0))
            }
            Some(_) if send.letter.is_none() => "The arrival look.".to_owned(),
            Some(goal) => goal.why.clone(),
            None => "The arrival look.".to_owned(),
        }
    }

    fn look(&self, chain: &Chain, look: &PlannedLook) -> LookFirst {
        let site = self.request.site;
        let (device, machine) = &self.request.groups[chain.group].members[0];
        let branch = |(number, (seen, word)): (usize, &(Seen, Word))| {
            let mut at = 0;
            let commands = chain::spell(site, word, |_| true).into_iter().map(|send| {
                let start_ms = at + send.wait_ms;
                at = start_ms + send.send_ms;
                BranchCommand { function: send.function, name: site.function_name(*device, send.function), start_ms }
            });
            Branch {
                on: seen.on,
                input: seen.input,
                seen: seen.in_words(machine.profile()),
                commands: commands.collect(),
                ready_ms: word.cost.ms,
                worst: number == look.worst,
            }
        };
        LookFirst {
            device: *device,
            from_ms: 0,
            to_ms: look.ms,
            branches: look.branches.iter().enumerate().map(branch).collect(),
        }
    }
}

/// A branch that the plan does not show, as a script of its own.
fn script_of(word: &Word) -> Vec<ScriptStep> {
    let mut at_ms = 0;
    let step = |step: &homing::WordStep| {
        let least = step.wait_ms + step.sending.ms;
        at_ms += least;
        let most = step.within_ms.map_or(FOREVER_MS, |within| within + step.sending.ms);
        let after = Window { lo_ms: least, hi_ms: most.max(least) };
        ScriptStep { member: 0, letter: step.letter, at_ms, after, step: None }
    };
    word.steps.iter().map(step).collect()
}

/// Every choice of one word a chain, the quickest of all first.
fn choices(chains: &[Chain]) -> Vec<Vec<Vec<Send>>> {
    let mut all: Vec<Vec<usize>> = vec![vec![0; chains.len()]];
    for (at, chain) in chains.iter().enumerate() {
        for option in 1..chain.options.len() {
            if all.len() > CHOICES * 2 {
                break;
            }
            let more: Vec<Vec<usize>> = all
                .iter()
                .filter(|choice| choice[at] == 0)
                .map(|choice| {
                    let mut choice = choice.clone();
                    choice[at] = option;
                    choice
                })
                .collect();
            all.extend(more);
        }
    }
    all.sort_by_key(|choice| choice.iter().sum::<usize>());
    all.into_iter()
        .map(|choice| choice.iter().zip(chains).map(|(&option, chain)| chain.options[option].clone()).collect())
        .collect()
}

fn missing_codes(site: &Site, sends: &[Send]) -> Vec<Finding> {
    let keys: BTreeSet<(DeviceId, FunctionId)> = sends.iter().map(|send| (send.device, send.function)).collect();
    keys.into_iter()
        .filter(|&(device, key)| site.code(device, key).is_none())
        .map(|(device, function)| Finding::of(site, FindingKind::CodeMissing { device, function }))
        .collect()
}

fn hazards(site: &Site, sends: &[Vec<Send>]) -> Vec<Finding> {
    let moves: BTreeSet<DeviceId> =
        sends.iter().flatten().filter(|send| send.effect == Effect::Travel).map(|send| send.device).collect();
    moves
        .into_iter()
        .map(|device| {
            let stop = site.profile_of(device).and_then(|profile| profile.motion).and_then(|motion| motion.stop);
            Finding::of(site, FindingKind::KeepClear { device, stop: stop.is_some() })
        })
        .collect()
}

/// What a device is doing, until when at the latest, and how that is known.
fn wait_label(effect: Effect, span: Span) -> String {
    let doing = match effect {
        Effect::None => "settling",
        Effect::WarmUp => "starting up",
        Effect::CoolDown => "cooling down",
        Effect::Input => "input coming up",
        Effect::Travel => "moving",
        Effect::Halt => "standing still",
    };
    format!("{doing} · ≤ {}, {}", seconds(span.hi_ms), span.basis.words())
}
