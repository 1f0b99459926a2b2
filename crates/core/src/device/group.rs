//! Devices that change each other are one machine.
//!
//! A 12 V trigger, USB power or control over HDMI lets one device switch another. Devices that are
//! joined by such [`CoupledBy`]s form a [`Group`]; its state, a [`Joint`], holds every member's [`Timed`]
//! state and the events that are on their way, each landing anywhere within its delay. Devices that react to
//! one code are joined too, and a device with the screen that cuts it off while it is down. A device that
//! nothing joins to another is a group of its own.

use super::timed::{self, Reaction, Timed, Window, set_off};
use crate::device::automaton::{Automaton, Letter, State, Target};
use crate::id::DeviceId;
use crate::model::Standing;
use rustc_hash::FxHashSet;
use smallvec::SmallVec;
use std::cell::Cell;
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
    /// Keys to which another member reacts as well.
    pub echoes: Vec<Echo>,
    /// Members that a lowered screen cuts off.
    pub screens: Vec<Screened>,
    /// What may or may not be heard, however the room stands.
    pub faint: Vec<Faint>,
}

/// A key of one member that is also one of another: both have the same code, and both are in reach.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Echo {
    /// The member that is meant.
    pub from: usize,
    /// What is sent to it.
    pub letter: Letter,
    /// The member that hears it too.
    pub to: usize,
    /// What that takes it for.
    pub also: Letter,
    /// How it gets there.
    pub by: EchoBy,
}

/// How a key that is meant for another gets to a device.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum EchoBy {
    /// As what is meant for it does: screens cut it off in the same way.
    TheSameWay,
    /// Another way, on which it surely arrives.
    Surely,
    /// Another way, on which it may arrive or not.
    Maybe,
}

/// What is sent to a member, and may arrive there or not.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Faint {
    /// The member.
    pub member: usize,
    /// What is sent to it.
    pub letters: Vec<Letter>,
}

/// A member that infrared does not surely reach while a screen is down before it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Screened {
    /// The screen.
    pub screen: usize,
    /// The member behind it.
    pub hidden: usize,
    /// What is sent to it by infrared.
    pub letters: Vec<Letter>,
    /// Does surely nothing arrive while the screen is all the way down? Else it may.
    pub surely: bool,
}

/// A walk through states that its budget has ended: nothing may be concluded from what was seen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("too many states")]
pub struct Cut;

/// An event on its way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Pending {
    /// Which link.
    pub link: usize,
    /// When it lands.
    pub left: Window,
    /// Is it not known to be on its way at all?
    pub maybe: bool,
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

    /// How long until everything can be seen and heard as it will be, at the latest, in ms; an open list is in the way.
    #[must_use]
    pub fn shows_ms(&self) -> u32 {
        let list = |member: &Timed| if member.state.cursor.is_some() { member.closes.hi_ms } else { 0 };
        let members = self.members.iter().map(|member| member.shows_ms().max(list(member))).max().unwrap_or(0);
        self.pending.iter().map(|event| event.left.hi_ms).max().unwrap_or(0).max(members)
    }
}

/// Courses of events within one wait that are followed before it is given up.
const COURSES: usize = 20_000;

thread_local! {
    /// Courses of events that were followed in this thread.
    static WALKED: Cell<usize> = const { Cell::new(0) };
}

/// How many courses of events were followed in this thread so far: what budgets are counted in, besides states.
#[must_use]
pub fn walked() -> usize {
    WALKED.get()
}

/// States that are followed to where they come to rest; a circle of couplings never does.
const RESTS: usize = 5_000;

impl<'a> Group<'a> {
    /// A device that nothing couples.
    #[must_use]
    pub fn single(device: DeviceId, machine: Automaton<'a>) -> Self {
        Self { members: vec![(device, machine)], links: vec![], echoes: vec![], screens: vec![], faint: vec![] }
    }

    /// Is it one device that nothing joins to another, and that surely hears what is sent to it?
    #[must_use]
    pub fn is_single(&self) -> bool {
        self.members.len() == 1 && self.faint.is_empty()
    }

    /// Is it a matter of joint states what a key does: to two devices, behind a screen, or perhaps not at all?
    #[must_use]
    pub fn is_in_doubt(&self) -> bool {
        !self.echoes.is_empty() || !self.screens.is_empty() || !self.faint.is_empty()
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

    /// A key is sent to a member at this instant: what the group may be then, and what the member made of it.
    #[must_use]
    pub fn press(&self, joint: &Joint, member: usize, letter: Letter) -> Vec<(Joint, Reaction)> {
        let mut all = self.heard(joint, member, letter);
        for echo in self.echoes.iter().filter(|echo| (echo.from, echo.letter) == (member, letter)) {
            let also = |(joint, reaction): &(Joint, Reaction)| {
                let reaction = *reaction;
                let heard = match echo.by {
                    EchoBy::TheSameWay => self.heard(joint, echo.to, echo.also),
                    EchoBy::Surely => self.arrived(joint, echo.to, echo.also),
                    EchoBy::Maybe => {
                        let mut all = self.arrived(joint, echo.to, echo.also);
                        all.push((joint.clone(), Reaction::Missed));
                        all
                    }
                };
                heard.into_iter().map(move |(after, _)| (after, reaction))
            };
            all = all.iter().flat_map(also).collect();
        }
        all
    }

    /// May a key fail to arrive at a member, however the room stands?
    #[must_use]
    pub fn is_faint(&self, member: usize, letter: Letter) -> bool {
        self.faint.iter().any(|known| known.member == member && known.letters.contains(&letter))
    }

    /// A key arrives at a member, or a screen keeps it off.
    fn heard(&self, joint: &Joint, member: usize, letter: Letter) -> Vec<(Joint, Reaction)> {
        let hides = |known: &&Screened| known.hidden == member && known.letters.contains(&letter);
        let (mut cut_off, mut surely) = (self.is_faint(member, letter), false);
        for screened in self.screens.iter().filter(hides) {
            // Only one that has arrived at its upper end is known to hide nothing.
            let screen = &joint.members[screened.screen];
            cut_off |= screen.state.position != Standing::Up || screen.travel.lasts();
            surely |= screened.surely && screen.state.position == Standing::Down && !screen.travel.lasts();
        }
        let mut all = Vec::with_capacity(2);
        if cut_off {
            all.push((joint.clone(), Reaction::Missed));
        }
        if !surely {
            all.extend(self.arrived(joint, member, letter));
        }
        all
    }

    /// A key has arrived at a member.
    fn arrived(&self, joint: &Joint, member: usize, letter: Letter) -> Vec<(Joint, Reaction)> {
        let pressed = timed::press(self.machine(member), &joint.members[member], letter).into_iter();
        pressed.map(|(after, reaction)| (self.changed(joint, member, after), reaction)).collect()
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
                next.pending.push(Pending { link: at, left: delay, maybe: false });
            });
            next.pending.sort_unstable();
        }
        next
    }

    /// Every state of the group once a time within `passed` has gone by, and the events that landed meanwhile.
    ///
    /// # Errors
    /// Where there are too many courses of events.
    pub fn elapse(&self, joint: &Joint, passed: Window) -> Result<Vec<(Joint, Vec<usize>)>, Cut> {
        if joint.pending.is_empty() {
            return Ok(self.pass(joint, passed).into_iter().map(|after| (after, vec![])).collect());
        }
        let start = Walk {
            members: joint.members.iter().map(|&member| (member, Window::default())).collect(),
            pending: joint.pending.clone(),
            now_ms: 0,
        };
        let mut out = Vec::new();
        let mut known = FxHashSet::from_iter([start.clone()]);
        let mut open = vec![(start, Vec::new())];
        while let Some((walk, landed)) = open.pop() {
            self.end_here(&walk, &landed, passed, &mut out);
            for (next, at) in self.landings(&walk, passed) {
                if known.insert(next.clone()) {
                    let mut landed = landed.clone();
                    landed.push(at);
                    open.push((next, landed));
                }
            }
            if known.len() > COURSES {
                WALKED.set(WALKED.get() + known.len());
                return Err(Cut);
            }
        }
        WALKED.set(WALKED.get() + known.len());
        out.sort();
        out.dedup_by(|a, b| a.0 == b.0);
        Ok(out)
    }

    /// The states if nothing more lands within the time.
    fn end_here(&self, walk: &Walk, landed: &[usize], passed: Window, out: &mut Vec<(Joint, Vec<usize>)>) {
        // What is known to be on its way has landed by then at the latest.
        let last = walk.last_ms();
        if last <= passed.lo_ms {
            return;
        }
        let until = Window { lo_ms: passed.lo_ms, hi_ms: passed.hi_ms.min(last) };
        let rest = walk
            .members
            .iter()
            .enumerate()
            .map(|(member, (timed, clock))| timed::elapse(self.machine(member), timed, until.since(*clock)));
        let left = walk.pending.iter().map(|event| Pending { left: event.left.since(until), ..*event });
        let pending: SmallVec<[Pending; 2]> = left.filter(|event| !event.maybe || event.left.lasts()).collect();
        for members in product(rest.collect()) {
            out.push((Joint { members, pending: pending.clone() }, landed.to_vec()));
        }
    }

    /// Every way in which one event lands next, and which.
    fn landings(&self, walk: &Walk, passed: Window) -> Vec<(Walk, usize)> {
        let last = walk.last_ms();
        let mut all = Vec::new();
        for (place, event) in walk.pending.iter().enumerate() {
            // Members that it does not reach keep their exact time.
            let own = event.left;
            let lands = Window { lo_ms: own.lo_ms.max(walk.now_ms), hi_ms: own.hi_ms.min(passed.hi_ms).min(last) };
            if lands.lo_ms > lands.hi_ms {
                continue;
            }
            let link = self.links[event.link];
            let machine = self.machine(link.to);
            let (timed, clock) = walk.members[link.to];
            for before in timed::elapse(machine, &timed, lands.since(clock)) {
                for after in deed_done(machine, &before, link.deed) {
                    let mut next = walk.clone();
                    next.pending.remove(place);
                    next.members[link.to] = (after, lands);
                    next.now_ms = lands.lo_ms;
                    if before.state.on != after.state.on {
                        self.cause(link.to, after.state.on, |link, delay| {
                            next.pending.retain(|old| !self.overtakes(link, old.link));
                            let left = Window {
                                lo_ms: lands.lo_ms.saturating_add(delay.lo_ms),
                                hi_ms: lands.hi_ms.saturating_add(delay.hi_ms),
                            };
                            next.pending.push(Pending { link, left, maybe: false });
                        });
                        next.pending.sort_unstable();
                    }
                    all.push((next, event.link));
                }
            }
        }
        all
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
    ///
    /// # Errors
    /// Where there are too many on the way there; a circle of couplings never rests.
    pub fn settled(&self, joint: &Joint) -> Result<BTreeSet<Joint>, Cut> {
        let mut done = BTreeSet::new();
        let mut known = FxHashSet::default();
        let mut open = vec![joint.clone()];
        while let Some(mut next) = open.pop() {
            let ms = next.settles_ms();
            if ms == 0 {
                next.members.iter_mut().for_each(|member| member.gap_ms = 0);
                done.insert(next);
                continue;
            }
            if known.len() > RESTS {
                return Err(Cut);
            }
            if known.insert(next.clone()) {
                open.extend(self.elapse(&next, Window::exactly(ms))?.into_iter().map(|(after, _)| after));
            }
        }
        // Where everything goes round in a circle, nothing is ever reached.
        if done.is_empty() { Err(Cut) } else { Ok(done) }
    }

    /// Every state in which the group can be at any moment from now on, if nothing more is sent.
    ///
    /// # Errors
    /// As [`Group::settled`].
    pub fn at_any_moment(&self, joint: &Joint) -> Result<BTreeSet<Joint>, Cut> {
        let mut all = BTreeSet::new();
        let mut open = vec![joint.clone()];
        while let Some(next) = open.pop() {
            if !all.insert(next.clone()) {
                continue;
            }
            if all.len() > RESTS {
                return Err(Cut);
            }
            let ms = next.settles_ms();
            if ms > 0 {
                open.extend(self.elapse(&next, Window { lo_ms: 0, hi_ms: ms })?.into_iter().map(|(after, _)| after));
                open.extend(self.settled(&next)?);
            }
        }
        Ok(all)
    }

    /// The state with every event that couplings may have on their way. A level that its cable already carries is
    /// known to arrive.
    #[must_use]
    pub fn with_any_event(&self, mut joint: Joint) -> Joint {
        joint.pending = (0..self.links.len())
            .filter_map(|at| {
                let link = self.links[at];
                let (from, to) = (joint.members[link.from].state.on, joint.members[link.to].state.on);
                let left = link.delay.or_over();
                match link.deed {
                    CouplingAct::Follow(on) => {
                        (from == on && to != on).then_some(Pending { link: at, left, maybe: false })
                    }
                    _ => left.lasts().then_some(Pending { link: at, left, maybe: true }),
                }
            })
            .collect();
        joint
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
        let any_time = Timed::any_time_later;
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
            .map(|after| {
                let later = |left: Window| {
                    if left.lasts() { Window { hi_ms: left.hi_ms + link.delay.hi_ms, ..left } } else { left }
                };
                let picture_ms = if after.picture_ms > 0 { after.picture_ms + link.delay.hi_ms } else { 0 };
                Timed { power: later(after.power), input: later(after.input), picture_ms, ..after }
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
#[derive(Clone, PartialEq, Eq, Hash)]
struct Walk {
    members: SmallVec<[(Timed, Window); 2]>,
    /// What is still to land, counted from the start.
    pending: SmallVec<[Pending; 2]>,
    /// Nothing lands before this, in ms.
    now_ms: u32,
}

impl Walk {
    /// When something has landed for certain, in ms.
    fn last_ms(&self) -> u32 {
        self.pending.iter().filter(|event| !event.maybe).map(|event| event.left.hi_ms).min().unwrap_or(u32::MAX)
    }
}

/// Every way to pick one of each.
fn product(lists: Vec<SmallVec<[Timed; 2]>>) -> Vec<Members> {
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
        // What is always on cannot be switched off by another device.
        let on = on || machine.never_off();
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
                woken = if woken.power.lasts() {
                    Timed { state, ..woken }
                } else {
                    set_off(machine, &woken, state, effect)
                };
            }
            let cooling = !before.state.on && before.power.lasts();
            match (cooling, before.power.lo_ms) {
                (true, 1..) => vec![*before],
                (true, 0) => vec![*before, woken],
                _ => vec![woken],
            }
        }
    }
}
