//! Devices that change each other are one machine.
//!
//! A 12 V trigger, USB power or control over HDMI lets one device switch another. Devices that are
//! joined by such [`CoupledBy`]s form a [`Group`]; its state, a [`Joint`], holds every member's [`Timed`]
//! state and the events that are on their way, each landing anywhere within its delay. A device that
//! nothing couples is a group of its own.

use super::timed::{self, Reaction, Timed, Window, set_off};
use crate::device::automaton::{Automaton, Letter, State, Target};
use crate::id::DeviceId;
use crate::model::Effect;
use smallvec::SmallVec;
use std::collections::BTreeSet;

/// The states of all members; groups are small, most of one.
pub type Members = SmallVec<[Timed; 2]>;

/// What an event does to the device that it reaches.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum CouplingAct {
    /// Its power follows.
    Follow(bool),
    /// It is woken, and this input is taken where it has one.
    Wake(Option<u8>),
    /// It is put to standby.
    Sleep,
}

/// One way in which a member changes another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct CoupledBy {
    /// The member that causes it.
    pub from: usize,
    /// The member that it reaches.
    pub to: usize,
    /// Does it happen when `from` goes on, or when it goes off?
    pub on: bool,
    /// What it does.
    pub deed: CouplingAct,
    /// How much later.
    pub delay: Window,
}

/// Devices that are joined by links, or one alone.
#[derive(Debug, Clone)]
pub struct Group<'a> {
    /// Its devices, each with its machine.
    pub members: Vec<(DeviceId, Automaton<'a>)>,
    /// What couples them.
    pub links: Vec<CoupledBy>,
}

/// An event on its way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Pending {
    /// Which link.
    pub link: usize,
    /// When it lands.
    pub left: Window,
}

/// The state of a group.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct Joint {
    /// The states of its members.
    pub members: Members,
    /// The events on their way.
    pub pending: SmallVec<[Pending; 2]>,
}

impl Joint {
    /// Nothing on its way.
    #[must_use]
    pub fn of(members: impl IntoIterator<Item = Timed>) -> Self {
        Self { members: members.into_iter().collect(), pending: SmallVec::new() }
    }

    /// How long until nothing is under way, at the latest, in ms.
    #[must_use]
    pub fn settles_ms(&self) -> u32 {
        let members = self.members.iter().map(Timed::settles_ms).max().unwrap_or(0);
        self.pending.iter().map(|event| event.left.hi_ms).max().unwrap_or(0).max(members)
    }
}

/// How many steps of events within one wait are followed; a circle of links ends there.
const CHAIN: usize = 12;

impl<'a> Group<'a> {
    /// A device that nothing couples.
    #[must_use]
    pub fn single(device: DeviceId, machine: Automaton<'a>) -> Self {
        Self { members: vec![(device, machine)], links: vec![] }
    }

    /// The machine of a member.
    #[must_use]
    pub fn machine(&self, member: usize) -> &Automaton<'a> {
        &self.members[member].1
    }

    /// The place of a device.
    #[must_use]
    pub fn place(&self, device: DeviceId) -> Option<usize> {
        self.members.iter().position(|(known, _)| *known == device)
    }

    /// A key reaches a member at this instant.
    #[must_use]
    pub fn press(&self, joint: &Joint, member: usize, letter: Letter) -> Vec<(Joint, Reaction)> {
        let before = &joint.members[member];
        timed::press(self.machine(member), before, letter)
            .into_iter()
            .map(|(after, reaction)| (self.changed(joint, member, after), reaction))
            .collect()
    }

    /// The group with a member in another state, and the events that this causes.
    #[must_use]
    pub fn changed(&self, joint: &Joint, member: usize, after: Timed) -> Joint {
        let was_on = joint.members[member].state.on;
        let mut next = joint.clone();
        next.members[member] = after;
        if was_on != after.state.on {
            self.cause(member, after.state.on, |at, delay| {
                next.pending.retain(|event| !self.overtakes(at, event.link));
                next.pending.push(Pending { link: at, left: delay });
            });
            next.pending.sort_unstable();
        }
        next
    }

    /// Every state of the group once a time within `passed` has gone by; `tell` hears of the events.
    #[must_use]
    pub fn elapse(&self, joint: &Joint, passed: Window) -> Vec<(Joint, Vec<usize>)> {
        if joint.pending.is_empty() {
            return self.pass(joint, passed).into_iter().map(|after| (after, vec![])).collect();
        }
        let walk = Walk {
            members: joint.members.iter().map(|&member| (member, Window::default())).collect(),
            pending: joint.pending.iter().map(|event| (event.link, event.left)).collect(),
            landed: Vec::new(),
            now_ms: 0,
        };
        let mut out = Vec::new();
        self.walk(walk, passed, &mut out);
        if out.len() > 1 {
            out.sort();
            out.dedup_by(|a, b| a.0 == b.0);
        }
        out
    }

    fn walk(&self, walk: Walk, passed: Window, out: &mut Vec<(Joint, Vec<usize>)>) {
        // Some event has landed by then at the latest.
        let last = walk.pending.iter().map(|(_, at)| at.hi_ms).min().unwrap_or(u32::MAX);
        if last > passed.lo_ms || walk.landed.len() >= CHAIN {
            let until = Window { lo_ms: passed.lo_ms, hi_ms: passed.hi_ms.min(last) };
            let rest = walk
                .members
                .iter()
                .enumerate()
                .map(|(member, (timed, clock))| timed::elapse(self.machine(member), timed, until.since(*clock)));
            let pending: SmallVec<[Pending; 2]> =
                walk.pending.iter().map(|&(link, at)| Pending { link, left: at.since(until) }).collect();
            for members in product(rest.collect()) {
                out.push((Joint { members, pending: pending.clone() }, walk.landed.clone()));
            }
        }
        if walk.landed.len() >= CHAIN {
            return;
        }
        for (place, &(at, own)) in walk.pending.iter().enumerate() {
            // One of them lands first. Members that it does not reach keep their exact time.
            let lands = Window { lo_ms: own.lo_ms.max(walk.now_ms), hi_ms: own.hi_ms.min(passed.hi_ms).min(last) };
            if lands.lo_ms > lands.hi_ms {
                continue;
            }
            let link = self.links[at];
            let machine = self.machine(link.to);
            let (timed, clock) = walk.members[link.to];
            for before in timed::elapse(machine, &timed, lands.since(clock)) {
                for after in deed_done(machine, &before, link.deed) {
                    let mut next = walk.clone();
                    next.pending.remove(place);
                    next.members[link.to] = (after, lands);
                    next.landed.push(at);
                    next.now_ms = lands.lo_ms;
                    if before.state.on != after.state.on {
                        let caused = |delay: Window| Window {
                            lo_ms: lands.lo_ms + delay.lo_ms,
                            hi_ms: lands.hi_ms + delay.hi_ms,
                        };
                        self.cause(link.to, after.state.on, |caused_link, delay| {
                            next.pending.retain(|(old, _)| !self.overtakes(caused_link, *old));
                            next.pending.push((caused_link, caused(delay)));
                        });
                    }
                    self.walk(next, passed, out);
                }
            }
        }
    }

    /// Hears of every link that a member's going on or off sets on its way.
    fn cause(&self, member: usize, on: bool, mut tell: impl FnMut(usize, Window)) {
        for (at, link) in self.links.iter().enumerate() {
            if link.from == member && link.on == on {
                tell(at, link.delay);
            }
        }
    }

    /// Is an event of `old` that is still on its way overtaken by one of `new`? A cable carries one level.
    fn overtakes(&self, new: usize, old: usize) -> bool {
        let (new_link, old_link) = (&self.links[new], &self.links[old]);
        let follows = |link: &CoupledBy| matches!(link.deed, CouplingAct::Follow(_));
        new == old
            || (follows(new_link) && follows(old_link) && old_link.from == new_link.from && old_link.to == new_link.to)
    }

    /// Lets time pass for every member, with nothing on its way.
    fn pass(&self, joint: &Joint, passed: Window) -> Vec<Joint> {
        let rest = joint.members.iter().enumerate();
        let rest = rest.map(|(member, timed)| timed::elapse(self.machine(member), timed, passed)).collect();
        product(rest).into_iter().map(|members| Joint { members, pending: SmallVec::new() }).collect()
    }

    /// Every state in which the group can come to rest.
    #[must_use]
    pub fn settled(&self, joint: &Joint) -> BTreeSet<Joint> {
        let mut done = BTreeSet::new();
        let mut open = vec![joint.clone()];
        let mut rounds = 0;
        while let Some(next) = open.pop() {
            let ms = next.settles_ms();
            rounds += 1;
            if ms == 0 || rounds > 500 {
                let mut next = next;
                next.members.iter_mut().for_each(|member| member.gap_ms = 0);
                done.insert(next);
                continue;
            }
            open.extend(self.elapse(&next, Window::exactly(ms)).into_iter().map(|(after, _)| after));
        }
        done
    }

    /// Can the members be in these states together? What follows another device's power is on where that
    /// is, unless the change is on its way. Members that are not there yet are not looked at.
    #[must_use]
    pub fn is_consistent(&self, joint: &Joint) -> bool {
        self.links.iter().all(|link| {
            let (Some(from), Some(to)) = (joint.members.get(link.from), joint.members.get(link.to)) else {
                return true;
            };
            let on_its_way = joint.pending.iter().any(|event| self.links[event.link].to == link.to);
            !matches!(link.deed, CouplingAct::Follow(_)) || on_its_way || from.state.on == to.state.on
        })
    }

    /// The members, each after those that can switch it, as far as there is no circle.
    #[must_use]
    pub fn upstream_first(&self) -> Vec<usize> {
        let mut order: Vec<usize> = Vec::new();
        while order.len() < self.members.len() {
            let open = || (0..self.members.len()).filter(|member| !order.contains(member));
            let causes = |member: usize| {
                self.links.iter().filter(|link| link.to == member && !order.contains(&link.from)).count()
            };
            let Some(next) = open().min_by_key(|&member| (causes(member), member)) else { break };
            order.push(next);
        }
        order
    }

    /// Everything that a member may be in if events that reach it may land at any time.
    #[must_use]
    pub fn closed_under_events(&self, member: usize, belief: &BTreeSet<Joint>) -> BTreeSet<Joint> {
        let machine = self.machine(member);
        let any_time = |timed: Timed| Timed { busy: Window { lo_ms: 0, ..timed.busy }, ..timed };
        let mut all = belief.clone();
        let mut open: Vec<Joint> = belief.iter().cloned().collect();
        while let Some(joint) = open.pop() {
            for link in self.links.iter().filter(|link| link.to == member) {
                let before = joint.members[0];
                for after in deed_done(machine, &before, link.deed) {
                    let next = Joint::of([any_time(after)]);
                    if all.insert(next.clone()) {
                        open.push(next);
                    }
                }
            }
        }
        all
    }

    /// What a link makes of what its target may be in, at whatever moment it lands; `surely` where it is known
    /// to be on its way, else what was stays possible.
    #[must_use]
    pub fn landed(&self, link: &CoupledBy, belief: &BTreeSet<Timed>, surely: bool) -> BTreeSet<Timed> {
        let machine = self.machine(link.to);
        let mut after: BTreeSet<Timed> = belief
            .iter()
            .flat_map(|before| deed_done(machine, before, link.deed))
            .map(|after| Timed {
                busy: Window { hi_ms: after.busy.hi_ms + link.delay.hi_ms, ..after.busy },
                shows_ms: after.shows_ms + link.delay.hi_ms,
                ..after
            })
            .collect();
        if !surely {
            after.extend(belief);
        }
        after
    }

    /// Does every member meet its target, with nothing on its way?
    #[must_use]
    pub fn meets(&self, joint: &Joint, targets: &[Target]) -> bool {
        joint.pending.is_empty()
            && joint.members.iter().zip(targets).all(|(member, target)| target.met_by(member.state))
    }

    /// The state as far as the targets care.
    #[must_use]
    pub fn relevant(&self, mut joint: Joint, targets: &[Target]) -> Joint {
        for (member, target) in joint.members.iter_mut().zip(targets) {
            *member = member.relevant(target);
        }
        joint
    }
}

/// A group on its way through a time: each member with the time that it has already spent.
#[derive(Clone)]
struct Walk {
    members: SmallVec<[(Timed, Window); 2]>,
    /// Which link, and when it lands, from the start.
    pending: SmallVec<[(usize, Window); 2]>,
    landed: Vec<usize>,
    /// Nothing lands before this, in ms.
    now_ms: u32,
}

/// Every way to pick one of each.
fn product(lists: Vec<Vec<Timed>>) -> Vec<Members> {
    let mut all: Vec<Members> = vec![SmallVec::new()];
    for list in lists {
        if let [only] = list[..] {
            all.iter_mut().for_each(|members| members.push(only));
            continue;
        }
        all = all
            .into_iter()
            .flat_map(|members| {
                list.iter()
                    .map(move |&timed| {
                        let mut members = members.clone();
                        members.push(timed);
                        members
                    })
                    .collect::<Vec<_>>()
            })
            .collect();
    }
    all
}

/// Every state that an event may bring a device to.
pub(crate) fn deed_done(machine: &Automaton<'_>, before: &Timed, deed: CouplingAct) -> Vec<Timed> {
    let switched = |on: bool| {
        let (state, effect) = machine.switch(before.state, on);
        set_off(machine, before, state, effect)
    };
    match deed {
        CouplingAct::Follow(on) => vec![switched(on)],
        CouplingAct::Sleep => vec![switched(false)],
        CouplingAct::Wake(input) => {
            let mut woken = switched(true);
            if let Some(input) = input {
                let (state, effect) = machine.choose(woken.state, input);
                let state = State { cursor: None, ..state };
                // While it starts up, the input comes with the picture.
                woken = if woken.effect == Effect::WarmUp && woken.busy.hi_ms > 0 {
                    Timed { state, ..woken }
                } else {
                    set_off(machine, &woken, state, effect)
                };
            }
            let cooling = before.effect == Effect::CoolDown && before.busy.hi_ms > 0;
            match (cooling, before.busy.lo_ms) {
                (true, 1..) => vec![*before],
                (true, 0) => vec![*before, woken],
                _ => vec![woken],
            }
        }
    }
}
