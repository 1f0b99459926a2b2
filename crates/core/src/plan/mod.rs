//! From an activity to a plan: which device gets which command when.
//!
//! [`goal`] reads from the wiring what every device of the room has to be; [`crate::device::homing`]
//! finds the keys; [`schedule`] lays them out in time. [`plan`] puts the three together and explains
//! every step and every wait.

pub mod goal;
pub mod schedule;
#[cfg(test)]
mod tests;

use crate::device::homing::NoWord;
use crate::device::{Effect, Medium, Press, Span, State, Word, home};
use crate::finding::{Finding, Place, Stage, Weight};
use crate::id::{ActivityId, DeviceId, FunctionId, RoomId};
use crate::site::{CodeBody, Site};
use crate::wiring::{self, Hop};
use goal::{DeviceGoal, Goals};
use schedule::{Job, Op, Scheduled};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// How long a command is taken to last while its code is missing, in ms (*common practice*: one frame).
pub const ASSUMED_SEND_MS: u32 = 110;

/// Where a room is, or should be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum Situation {
    /// As room-off leaves it.
    Off,
    /// Nobody knows. Only a start can be unknown.
    Unknown,
    /// In an activity.
    In {
        /// Which.
        activity: ActivityId,
    },
}

/// What a device may be in when a plan starts.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Belief {
    /// Its possible states.
    pub states: BTreeSet<State>,
    /// How long it may still be busy with an earlier command, in ms.
    pub busy_ms: u32,
}

/// What the devices of a room may be in; devices that are not named may be in any state.
pub type Start = BTreeMap<DeviceId, Belief>;

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

/// A plan.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Plan {
    /// The room.
    pub room: RoomId,
    /// Where it starts.
    pub from: Option<Situation>,
    /// Where it leads.
    pub to: Situation,
    /// Its commands in order of time.
    pub steps: Vec<Step>,
    /// The waits between and after them.
    pub waits: Vec<Wait>,
    /// What every device of the room has to be, in the order of the room.
    pub goals: Vec<DeviceGoal>,
    /// The cables of the picture.
    pub video: Vec<Hop>,
    /// The cables of the sound.
    pub audio: Vec<Hop>,
    /// When picture and sound are there (all off, for room-off), in ms.
    pub ready_ms: u32,
    /// When everything has settled, in ms.
    pub end_ms: u32,
    /// No plan can be ready sooner, in ms.
    pub bound_ms: u32,
    /// What the bound rests on.
    pub bound_by: String,
    /// Is *ready* proved to be the least, over the shortest sequence of each device?
    pub optimal: bool,
    /// How many partial schedules were looked at.
    pub nodes: usize,
    /// The same commands one device after another, in ms.
    pub sequential_ms: u32,
    /// Can it be sent as it is?
    pub runnable: bool,
    /// What was found on the way.
    pub findings: Vec<Finding>,
}

/// Plans the way of `room` from a named situation.
#[must_use]
pub fn plan(site: &Site, room: RoomId, from: Situation, to: Situation) -> Plan {
    let mut plan = plan_from(site, room, &goal::start(site, room, from), to);
    plan.from = Some(from);
    plan
}

/// The keys of one device, or what stands in their way.
struct Chain {
    device: DeviceId,
    word: Word,
    busy_ms: u32,
    goal: DeviceGoal,
}

/// Plans the way of `room` from what its devices may be in.
#[must_use]
pub fn plan_from(site: &Site, room: RoomId, start: &Start, to: Situation) -> Plan {
    let Goals { devices: goals, video, audio, mut findings } = goal::goals(site, room, to);
    findings.extend(wiring::check(site, room));
    let mut chains = Vec::new();
    for goal in &goals {
        match chain(site, start, goal) {
            Ok(chain) => chains.extend(chain),
            Err(finding) => findings.push(finding),
        }
    }
    let jobs: Vec<Job> = chains.iter().map(|chain| job(site, chain)).collect();
    let scheduled = schedule::schedule(&jobs);
    findings.extend(chains.iter().flat_map(|chain| missing_codes(site, chain)));
    findings.extend(hazards(site, &chains));
    findings.sort_by_key(|finding| finding.weight);
    findings.dedup();
    let runnable = findings.iter().all(|finding| finding.weight != Weight::Stops);
    let mut plan = Plan {
        room,
        from: None,
        to,
        steps: Vec::new(),
        waits: Vec::new(),
        goals,
        video,
        audio,
        ready_ms: scheduled.ready_ms,
        end_ms: scheduled.end_ms,
        bound_ms: scheduled.bound_ms,
        bound_by: scheduled.bound_by.map_or_else(
            || "nothing has to be sent".to_owned(),
            |bound| match bound {
                schedule::BoundBy::Chain(job) => {
                    format!("the longest chain, that of {}", site.device_name(chains[job].device))
                }
                schedule::BoundBy::Medium(medium) => format!("the commands that share {}", medium.name()),
            },
        ),
        optimal: scheduled.optimal,
        nodes: scheduled.nodes,
        sequential_ms: jobs.iter().map(Job::alone_ms).sum(),
        runnable,
        findings,
    };
    lay_out(site, &chains, &jobs, &scheduled, &mut plan);
    plan
}

fn chain(site: &Site, start: &Start, goal: &DeviceGoal) -> Result<Option<Chain>, Finding> {
    let Some(automaton) = site.automaton(goal.device) else { return Ok(None) };
    let anything = Belief { states: automaton.states().into_iter().collect(), busy_ms: 0 };
    let belief = start.get(&goal.device).unwrap_or(&anything);
    let send_ms = |key| send_ms(site, goal.device, key);
    match home(&automaton, &belief.states, goal.target(automaton.profile()), send_ms) {
        Ok(word) if word.steps.is_empty() && belief.busy_ms == 0 => Ok(None),
        Ok(word) => Ok(Some(Chain { device: goal.device, word, busy_ms: belief.busy_ms, goal: goal.clone() })),
        Err(no) => {
            let name = site.device_name(goal.device);
            let why = match no {
                NoWord::Proved => "no sequence of its keys ends right from every state it may be in",
                NoWord::GaveUp => "the search for a sequence of keys was given up after 20 000 sets of states",
            };
            let text = format!(
                "{name} cannot be brought to “{}”: {why}. Give it a key of its own for on and for off, or start from a known state.",
                goal.wish
            );
            Err(Finding::new(Weight::Stops, "No safe way", text, Place::on(Stage::Kit).device(goal.device)))
        }
    }
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

fn job(site: &Site, chain: &Chain) -> Job {
    let profile = site.profile_of(chain.device);
    let gap_ms = profile.as_ref().map_or(0, |profile| profile.times.gap_ms);
    let ops = chain.word.steps.iter().map(|step| Op {
        medium: medium_of(site, chain.device, step.key),
        send_ms: send_ms(site, chain.device, step.key),
        lag_ms: gap_ms.max(step.settle.hi_ms),
        within_ms: step.within_ms,
        shows_ms: step.shows.hi_ms,
        settles_ms: step.shows.hi_ms.max(step.settle.hi_ms),
    });
    Job { head_ms: chain.busy_ms, ops: ops.collect(), needed: chain.goal.needed }
}

/// On what a command for this function travels: that of its code, else of the preferred path.
fn medium_of(site: &Site, device: DeviceId, function: FunctionId) -> Medium {
    let code = site.code(device, function).map(|code| code.body.medium());
    code.or_else(|| site.paths_of(device).first().map(|path| path.medium)).unwrap_or(Medium::Ir)
}

fn missing_codes(site: &Site, chain: &Chain) -> Vec<Finding> {
    let keys: BTreeSet<FunctionId> = chain.word.steps.iter().map(|step| step.key).collect();
    keys.into_iter()
        .filter(|&key| site.code(chain.device, key).is_none())
        .map(|key| {
            let name = site.function_name(chain.device, key);
            let text = format!(
                "{} has no code for “{name}”, so no macro that needs it can be sent. Paste a capture of that key in Codes.",
                site.device_name(chain.device)
            );
            let place = Place::on(Stage::Codes).device(chain.device).function(key);
            Finding::new(Weight::Stops, "Code missing", text, place)
        })
        .collect()
}

fn hazards(site: &Site, chains: &[Chain]) -> Vec<Finding> {
    let moves = |chain: &&Chain| chain.word.steps.iter().any(|step| step.effect == Effect::Travel);
    chains
        .iter()
        .filter(moves)
        .map(|chain| {
            let stop = site.profile_of(chain.device).and_then(|profile| profile.motion).and_then(|motion| motion.stop);
            let name = site.device_name(chain.device);
            let text = if stop.is_some() {
                format!("{name} moves when a macro runs. Keep people and things clear of it, and its Stop key within reach.")
            } else {
                format!(
                    "{name} moves when a macro runs and has no Stop key. Keep people and things clear of it, and add a stop."
                )
            };
            Finding::new(Weight::Hazard, "Keep clear", text, Place::on(Stage::Kit).device(chain.device))
        })
        .collect()
}

/// Steps and waits with their times.
fn lay_out(site: &Site, chains: &[Chain], jobs: &[Job], scheduled: &Scheduled, plan: &mut Plan) {
    for (at, (chain, starts)) in chains.iter().zip(&scheduled.starts_ms).enumerate() {
        if chain.busy_ms > 0 {
            plan.waits.push(Wait {
                device: chain.device,
                effect: Effect::None,
                from_ms: 0,
                to_ms: chain.busy_ms,
                span: Span::assumed(0, chain.busy_ms),
                label: format!("busy from before · ≤ {}", seconds(chain.busy_ms)),
                critical: scheduled.is_critical(at, 0),
            });
        }
        for (number, (step, &start_ms)) in chain.word.steps.iter().zip(starts).enumerate() {
            let op = &jobs[at].ops[number];
            let end_ms = start_ms + op.send_ms;
            let critical = scheduled.is_critical(at, number);
            let previous = number.checked_sub(1).map(|before| (starts[before], &jobs[at].ops[before]));
            plan.steps.push(Step {
                index: 0,
                device: chain.device,
                function: step.key,
                name: site.function_name(chain.device, step.key),
                medium: op.medium,
                start_ms,
                end_ms,
                latest_ms: previous.and_then(|(start, op)| Some(start + op.send_ms + op.within_ms?)),
                code: site.code(chain.device, step.key).map(|code| code.body.clone()),
                press: press_of(site, chain.device, step.key).0,
                frames: press_of(site, chain.device, step.key).1,
                why: chain.goal.why.clone(),
                critical,
            });
            let span = if step.shows.hi_ms > step.settle.hi_ms { step.shows } else { step.settle };
            if span.hi_ms > 0 {
                plan.waits.push(Wait {
                    device: chain.device,
                    effect: step.effect,
                    from_ms: end_ms,
                    to_ms: end_ms + span.hi_ms,
                    span,
                    label: wait_label(step.effect, span),
                    critical,
                });
            }
        }
    }
    plan.steps.sort_by_key(|step| (step.start_ms, step.device));
    for (index, step) in plan.steps.iter_mut().enumerate() {
        step.index = index;
    }
    plan.waits.sort_by_key(|wait| (wait.from_ms, wait.device));
}

/// What a device is doing, until when at the latest, and how that is known.
fn wait_label(effect: Effect, span: Span) -> String {
    let doing = match effect {
        Effect::None => "settling",
        Effect::WarmUp => "starting up",
        Effect::CoolDown => "cooling down",
        Effect::Input => "input coming up",
        Effect::Travel => "moving",
    };
    format!("{doing} · ≤ {}, {}", seconds(span.hi_ms), span.basis.words())
}

/// 29400 → “29.4 s”, 6000 → “6 s”.
#[must_use]
pub fn seconds(ms: u32) -> String {
    let (whole, tenths) = ((ms + 50) / 1000, (ms + 50) % 1000 / 100);
    if tenths == 0 { format!("{whole} s") } else { format!("{whole}.{tenths} s") }
}
