//! A wrong course of events told in the order of time.

use crate::device::group::{CouplingAct, Group};
use crate::device::timed::Reaction;
use crate::device::{Joint, Letter, State, Target, Timed, words};
use crate::id::DeviceId;
use crate::model::{Effect, Site, Stand, Standing};
use crate::plan::run::{Event, trace};
use crate::plan::{Plan, Script};
use crate::words::seconds;
use serde::Serialize;
use utoipa::ToSchema;

/// One thing that happens in a story.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Beat {
    /// When, in ms from the start of the plan.
    pub at_ms: u32,
    /// To which device.
    pub device: DeviceId,
    /// The step of the plan, if it is one.
    pub step: Option<usize>,
    /// What happens.
    pub text: String,
    /// Is this where it goes wrong?
    pub turns: bool,
}

/// The shortest wrong course of events.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Course {
    /// In one sentence.
    pub headline: String,
    /// In the order of time; the first beats say how it stood at the start.
    pub beats: Vec<Beat>,
    /// How it ends.
    pub end: String,
    /// The device that ends wrong.
    pub device: DeviceId,
    /// How the devices of its group stood at the start.
    pub stands: Vec<Stand>,
}

/// Tells how the script of a group goes wrong from `start`; `expected` is what the plan was made for.
#[must_use]
pub fn story(
    site: &Site,
    group: &Group<'_>,
    start: &Joint,
    expected: Option<&Joint>,
    script: &Script,
    plan: &Plan,
    targets: &[Target],
) -> Option<Course> {
    let (events, end) = trace(group, start, script, targets)?;
    let name = |member: usize| site.device_name(group.members[member].0);
    let profile = |member: usize| group.machine(member).profile();
    let mut beats = Vec::new();
    let mut odd = Vec::new();
    for (member, timed) in start.members.iter().enumerate() {
        let usual = expected
            .is_some_and(|joint| joint.members[member].relevant(&targets[member]) == timed.relevant(&targets[member]));
        if !usual {
            let text = format!("{} was {}.", name(member), words::state(profile(member), timed));
            odd.push(text.trim_end_matches('.').to_owned());
            beats.push(Beat { at_ms: 0, device: group.members[member].0, step: None, text, turns: false });
        }
    }
    let steps: &[crate::plan::ScriptStep] =
        match &script.look {
            None => &script.steps,
            Some(look) => look.branches.iter().map(|(_, steps)| steps.as_slice()).find(|steps| {
                events.iter().filter(|event| matches!(event, Event::Key { .. })).count() == steps.len()
            })?,
        };
    let turn = tell(site, group, &events, steps, plan, targets, &mut beats);
    let wrong = (0..end.members.len()).find(|&member| !targets[member].met_by(end.members[member].state)).unwrap_or(0);
    let device = group.members[wrong].0;
    let wish = plan.goals.iter().find(|goal| goal.device == device).map_or("", |goal| goal.wish.as_str());
    let end =
        format!("{} ends {}, and should be {wish}.", name(wrong), words::state(profile(wrong), &end.members[wrong]));
    let headline = match (odd.as_slice(), turn) {
        ([], Some(turn)) => format!("{turn}."),
        ([], None) => end.clone(),
        (odd, Some(turn)) => format!("{}; {turn}.", odd.join(", ")),
        (odd, None) => format!("{}, and nothing in the plan changes that.", odd.join(", ")),
    };
    let stood = |(member, timed)| Stand::of(profile(member), group.members[member].0, timed);
    let stands = start.members.iter().enumerate().map(stood).collect();
    Some(Course { headline, beats, end, device, stands })
}

/// Every event as a beat; the one at which it turns, in a sentence without its stop.
fn tell(
    site: &Site,
    group: &Group<'_>,
    events: &[Event],
    steps: &[crate::plan::ScriptStep],
    plan: &Plan,
    targets: &[Target],
    beats: &mut Vec<Beat>,
) -> Option<String> {
    let name = |member: usize| site.device_name(group.members[member].0);
    let profile = |member: usize| group.machine(member).profile();
    let mut turn: Option<String> = None;
    for event in events {
        match event {
            Event::Links { links, after, step } => {
                let at_ms = steps.get(*step).map_or(0, |step| step.at_ms);
                for &at in links {
                    let link = group.links[at];
                    let (from, to) = (name(link.from), name(link.to));
                    let now = words::state(profile(link.to), &after.members[link.to]);
                    let text = match link.deed {
                        CouplingAct::Follow(on) => format!("{to} followed {from} {}.", if on { "on" } else { "off" }),
                        CouplingAct::Wake(_) => format!("{from} woke {to} over HDMI: it was {now}."),
                        CouplingAct::Sleep => format!("{from} put {to} to standby over HDMI."),
                    };
                    turn.get_or_insert_with(|| text.trim_end_matches('.').to_owned());
                    beats.push(Beat { at_ms, device: group.members[link.to].0, step: None, text, turns: true });
                }
            }
            Event::Key { step, reaction, before, after } => {
                let Some(own) = steps.get(*step) else { continue };
                let member = own.member;
                let key = match own.letter {
                    Letter::Key(key) => site.function_name(group.members[member].0, key),
                    Letter::Tune(_) => "the number".to_owned(),
                    Letter::StopAt(_) => profile(member)
                        .motion
                        .and_then(|motion| motion.stop)
                        .map_or_else(|| "stop".to_owned(), |key| site.function_name(group.members[member].0, key)),
                };
                let faint = group.is_faint(member, own.letter);
                let (did, odd) =
                    told(profile(member), &before.members[member], &after.members[member], *reaction, faint);
                let text = format!("“{key}” {did}.");
                let turns = odd || against(&before.members[member], &after.members[member], &targets[member]);
                if turns {
                    turn.get_or_insert_with(|| format!("“{key}” {did}"));
                }
                let device = group.members[member].0;
                let at_ms = own.step.and_then(|step| plan.steps.get(step)).map_or(own.at_ms, |step| step.start_ms);
                beats.push(Beat { at_ms, device, step: own.step, text, turns });
                for other in (0..group.members.len()).filter(|&other| other != member) {
                    let (was, is) = (&before.members[other], &after.members[other]);
                    if was.state == is.state {
                        continue;
                    }
                    let (did, _) = told(profile(other), was, is, Reaction::Took, false);
                    let text = format!("{} heard “{key}” too, which {did}.", name(other));
                    turn.get_or_insert_with(|| text.trim_end_matches('.').to_owned());
                    beats.push(Beat { at_ms, device: group.members[other].0, step: None, text, turns: true });
                }
            }
        }
    }
    turn
}

/// What a device made of a key, and whether that is not what the key is for. `faint` where it may not arrive however the room
/// stands.
fn told(
    profile: &crate::model::Profile,
    before: &Timed,
    after: &Timed,
    reaction: Reaction,
    faint: bool,
) -> (String, bool) {
    let input = |index: u8| profile.inputs.get(usize::from(index)).map_or("?", |input| input.name.as_str());
    let (was, is) = (before.state, after.state);
    match reaction {
        Reaction::Missed => {
            let why = match before.doing() {
                (Effect::WarmUp, _) => "it was still starting up".to_owned(),
                (Effect::CoolDown, left) => {
                    format!("it was still cooling, for up to {} more", seconds(left.hi_ms.max(1)))
                }
                (Effect::Input, _) => "its input was still changing".to_owned(),
                (Effect::Travel | Effect::Halt, _) => "its motor was not ready to be reversed".to_owned(),
                (Effect::None, _) if before.gap_ms > 0 => "it came too soon after the key before".to_owned(),
                (Effect::None, _) if faint => "where it stands, nobody knows for sure that it arrives".to_owned(),
                (Effect::None, _) => "a lowered screen kept it off".to_owned(),
            };
            (format!("was not taken: {why}"), true)
        }
        Reaction::Halted => ("only stopped its motor: it was moving the other way".to_owned(), true),
        Reaction::Took => {
            let did = if was.on != is.on {
                format!("switched it {}", if is.on { "on" } else { "off" })
            } else if was.input != is.input {
                format!("changed its input to {}", input(is.input))
            } else if was.position != is.position {
                match is.position {
                    Standing::Up => "started it upwards".to_owned(),
                    Standing::Down => "started it downwards".to_owned(),
                    Standing::Between => "stopped it on the way".to_owned(),
                    Standing::Stop(at) => {
                        match profile.stops.get(usize::from(at)).filter(|stop| stop.timed.is_some()) {
                            Some(stop) => format!("stopped it at “{}”", stop.name),
                            None => "started it towards a stop".to_owned(),
                        }
                    }
                }
            } else {
                match (was.cursor, is.cursor) {
                    (None, Some(entry)) => format!("opened its list at {}", input(entry)),
                    (Some(_), Some(entry)) => format!("moved the mark to {}", input(entry)),
                    (Some(_), None) => "closed its list".to_owned(),
                    (None, None) if was.muted != is.muted && is.muted => "silenced it".to_owned(),
                    (None, None) if was == is => "changed nothing".to_owned(),
                    (None, None) => "was taken".to_owned(),
                }
            };
            (did, false)
        }
    }
}

/// Did a key lead away from the goal?
fn against(before: &Timed, after: &Timed, target: &Target) -> bool {
    let on = |state: State| target.on.is_none_or(|on| on == state.on);
    on(before.state) && !on(after.state)
}
