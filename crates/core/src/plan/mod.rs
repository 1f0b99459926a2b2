//! From an activity to a plan: which device gets which command when.
//!
//! [`goal`] reads from the wiring what every device of the room has to be; [`couple`] tells which devices
//! switch each other; [`crate::device::homing`] finds the keys; [`schedule`] lays them out in time.
//! [`derive`] puts these together and explains every step and every wait; [`order`] holds what a user
//! decides about plans, [`favourite`] makes single presses of the family into steps.

pub mod abstracted;
mod airspace;
pub mod chain;
pub mod couple;
pub mod derive;
pub mod favourite;
pub mod goal;
mod hand;
pub mod jobs;
pub mod run;
pub mod schedule;
mod temporal;
#[cfg(test)]
mod tests;

use crate::model::Situation;
pub use derive::{Derived, PlanRequest, Script, ScriptStep, derive};

use crate::device::homing::NODES;
use crate::device::{Group, Timed};
use crate::finding::Finding;
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::model::{CodeBody, Effect, Medium, Press, Site, Span};
use crate::wiring::Hop;
use goal::DeviceGoal;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// How long a command is taken to last while its code is missing, in ms (*common practice*: one frame).
pub const ASSUMED_SEND_MS: u32 = 110;

/// What the devices of a room may be in; devices that are not named may be in any state.
pub type Start = BTreeMap<DeviceId, BTreeSet<Timed>>;

/// One command.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Step {
    /// Its place in the plan.
    pub index: usize,
    /// To which device.
    pub device: DeviceId,
    /// Which function.
    pub function: FunctionId,
    /// The function's name.
    pub name: String,
    /// By which medium.
    pub medium: Medium,
    /// When its first mark starts, in ms.
    pub start_ms: u32,
    /// When its last silence ends, in ms.
    pub end_ms: u32,
    /// It must start by then (a list would have closed), in ms.
    pub latest_ms: Option<u32>,
    /// What is sent; none where the code is missing.
    pub code: Option<CodeBody>,
    /// How its key is pressed.
    pub press: Press,
    /// How many frames in a row its receiver needs, where more than the protocol says.
    pub frames: Option<u32>,
    /// Why it is sent.
    pub why: String,
    /// Does *ready* hang on it?
    pub critical: bool,
    /// How many of the same to the same device come before it.
    pub nth: u32,
    /// Was it added, moved or given another pause by hand?
    pub by_hand: bool,
}

/// A time in which a device settles.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Wait {
    /// Which device.
    pub device: DeviceId,
    /// What it is doing.
    pub effect: Effect,
    /// From, in ms.
    pub from_ms: u32,
    /// Until it is safe to rely on, in ms.
    pub to_ms: u32,
    /// The interval and its basis.
    pub span: Span,
    /// What it is, in words.
    pub label: String,
    /// Does *ready* hang on it?
    pub critical: bool,
}

/// A device is looked at before anything is sent to it, and what is seen decides.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LookFirst {
    /// Which device.
    pub device: DeviceId,
    /// From, in ms.
    pub from_ms: u32,
    /// Until its answer is there at the latest, in ms.
    pub to_ms: u32,
    /// What can be seen, and what is done then.
    pub branches: Vec<Branch>,
}

/// One thing that can be seen, and the commands that follow.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Branch {
    /// On or off, where that is told.
    pub on: Option<bool>,
    /// The input, counted from 0, where that is told.
    pub input: Option<u8>,
    /// In words.
    pub seen: String,
    /// The commands, in ms from the end of the look; the plan shows those of the worst branch.
    pub commands: Vec<BranchCommand>,
    /// When picture or sound are there, in ms from the end of the look.
    pub ready_ms: u32,
    /// Is this the branch that the plan shows?
    pub worst: bool,
}

/// A command of a branch.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BranchCommand {
    /// Which function.
    pub function: FunctionId,
    /// Its name.
    pub name: String,
    /// When it starts, in ms from the end of the look.
    pub start_ms: u32,
}

/// A rule of the order that this plan keeps.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct KeptRule {
    /// What it says, and why.
    pub text: String,
    /// Is it one of the built-in ones?
    pub built_in: bool,
}

/// A plan.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Plan {
    /// The room; the first one of a plan for the house.
    pub room: RoomId,
    /// Where it starts.
    pub from: Option<Situation>,
    /// Where it leads.
    pub to: Situation,
    /// Its commands in order of time.
    pub steps: Vec<Step>,
    /// The waits between and after them.
    pub waits: Vec<Wait>,
    /// Devices that are looked at first.
    pub looks: Vec<LookFirst>,
    /// What every device of the room has to be, in the order of the room.
    pub goals: Vec<DeviceGoal>,
    /// The cables of the picture.
    pub video: Vec<Hop>,
    /// The cables of the sound.
    pub audio: Vec<Hop>,
    /// When picture and sound are there (all off, for room-off), in ms; none where it cannot be sent for want of any
    /// sequence of keys.
    pub ready_ms: Option<u32>,
    /// When everything has settled, in ms.
    pub end_ms: u32,
    /// No plan can be ready sooner, in ms.
    pub bound_ms: u32,
    /// What the bound rests on.
    pub bound_by: String,
    /// Is *ready* proved to be the least, over the non-dominated sequences of each device?
    pub optimal: bool,
    /// Devices whose sequence is right but not proved to be the shortest.
    pub not_shortest: Vec<DeviceId>,
    /// How many partial schedules were looked at.
    pub nodes: usize,
    /// How many sets of states were looked at for the sequences of keys.
    pub homing_nodes: usize,
    /// The same commands one device after another, in ms.
    pub sequential_ms: u32,
    /// The rules of the order that it keeps.
    pub rules: Vec<KeptRule>,
    /// Changes by hand that fit no command any more: kept, and without effect.
    pub misfits: Vec<String>,
    /// Can it be sent as it is?
    pub runnable: bool,
    /// Devices that no sequence brings home from everything that they may be in: it serves the largest part of that,
    /// ends wrong from the rest, and is sent only when somebody says so.
    pub confirm: Vec<DeviceId>,
    /// What was found on the way.
    pub findings: Vec<Finding>,
}

impl Plan {
    /// How long it is under way, in ms.
    #[must_use]
    pub fn span_ms(&self) -> u32 {
        self.end_ms.max(self.ready_ms.unwrap_or(0))
    }
}

/// Plans the way of `room` from a named situation.
#[must_use]
pub fn plan(site: &Site, room: RoomId, from: Situation, to: Situation) -> Plan {
    let start = goal::start(site, room, from);
    let groups = couple::groups(site, room);
    derive(&PlanRequest { from: Some(from), ..request(site, room, &groups, &start, to) }).plan
}

/// Plans the way of `room` from what its devices may be in.
#[must_use]
pub fn plan_from(site: &Site, room: RoomId, start: &Start, to: Situation) -> Plan {
    derived_from(site, room, start, to).plan
}

/// The same, with what each group of devices is sent.
#[must_use]
pub fn derived_from(site: &Site, room: RoomId, start: &Start, to: Situation) -> Derived {
    let groups = couple::groups(site, room);
    derive(&request(site, room, &groups, start, to))
}

/// What is asked for where a room may be in anything that `start` says. A group with too many states has none, and the
/// plan says so.
fn request<'a>(site: &'a Site, room: RoomId, groups: &'a [Group<'a>], start: &Start, to: Situation) -> PlanRequest<'a> {
    let known = groups.iter().map(|group| derive::joint(group, start).unwrap_or_default()).collect();
    let handed = groups.iter().map(|_| None).collect();
    PlanRequest {
        site,
        room,
        from: None,
        to,
        groups,
        known,
        house_except: None,
        cache: None,
        handed,
        nodes: NODES,
        whole: true,
    }
}

/// Switches every room of the house off but those excepted.
#[must_use]
pub fn house_off(site: &Site, except: &[RoomId]) -> Option<Plan> {
    let first = site.rooms.iter().find(|room| !except.contains(&room.id))?.id;
    let mut groups = Vec::new();
    let mut known = Vec::new();
    let mut seen = BTreeSet::new();
    for room in site.rooms.iter().filter(|room| !except.contains(&room.id)) {
        // Where the house stands is not known: a room may be off or in any of its activities.
        let mut start = goal::start(site, room.id, Situation::Off);
        for activity in site.activities.iter().filter(|activity| activity.room == room.id) {
            for (device, states) in goal::start(site, room.id, Situation::In { activity: activity.id }) {
                start.entry(device).or_default().extend(states);
            }
        }
        for group in couple::groups(site, room.id) {
            if group.members.iter().all(|(device, _)| seen.insert(*device)) {
                known.push(derive::joint(&group, &start).unwrap_or_default());
                groups.push(group);
            }
        }
    }
    let request = PlanRequest {
        site,
        room: first,
        from: None,
        to: Situation::Off,
        groups: &groups,
        known,
        house_except: Some(except),
        cache: None,
        handed: vec![],
        nodes: NODES,
        whole: true,
    };
    Some(derive(&request).plan)
}

/// How long one press of a function lasts, in ms.
#[must_use]
pub fn send_ms(site: &Site, device: DeviceId, function: FunctionId) -> u32 {
    let (press, frames) = press_of(site, device, function);
    site.code(device, function).map_or(ASSUMED_SEND_MS, |code| code.body.send_ms(press, frames))
}

/// How the key of a function is pressed, and how many frames its receiver needs.
#[must_use]
pub fn press_of(site: &Site, device: DeviceId, function: FunctionId) -> (Press, Option<u32>) {
    let function = site.model_of(device).and_then(|profile| profile.function(function));
    function.map_or((Press::default(), None), |function| (function.press, function.frames))
}

/// On what a command for this function travels: that of its code, else of the preferred path.
#[must_use]
pub fn medium_of(site: &Site, device: DeviceId, function: FunctionId) -> Medium {
    let code = site.code(device, function).map(|code| code.body.medium());
    code.or_else(|| site.paths_of(device).first().map(|path| path.medium)).unwrap_or(Medium::Ir)
}
