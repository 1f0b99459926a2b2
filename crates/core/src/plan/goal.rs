//! What every device of a room has to be for an activity, read from the wiring.

use super::{Belief, Situation, Start};
use crate::device::{Position, Power, Profile, Selection, Target};
use crate::finding::{Finding, Place, Stage, Weight};
use crate::id::{DeviceId, InputId, RoomId};
use crate::site::{Activity, Device, Site};
use crate::wiring::{Hop, Signal, path};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// What a device has to be.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct DeviceGoal {
    /// The device.
    pub device: DeviceId,
    /// On or off; none where it does not matter.
    pub on: Option<bool>,
    /// The input it has to show.
    pub input: Option<InputId>,
    /// Where it has to stand.
    pub position: Option<Position>,
    /// The goal in words, such as “on, input Disc”.
    pub wish: String,
    /// Why, in a sentence.
    pub why: String,
    /// Do picture or sound hang on it?
    pub needed: bool,
}

impl DeviceGoal {
    /// The goal in the terms of the device's machine.
    #[must_use]
    pub fn target(&self, profile: &Profile) -> Target {
        let index = self.input.and_then(|input| profile.input_index(input));
        Target { on: self.on, input: index.and_then(|index| u8::try_from(index).ok()), position: self.position }
    }
}

/// Goals, paths, and what was found on the way.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Goals {
    /// Device by device, in the order of the room.
    pub devices: Vec<DeviceGoal>,
    /// The cables of the picture.
    pub video: Vec<Hop>,
    /// The cables of the sound.
    pub audio: Vec<Hop>,
    /// What stands in the way.
    pub findings: Vec<Finding>,
}

/// What the devices of `room` have to be for `to`. Nothing is wanted of an unknown situation.
#[must_use]
pub fn goals(site: &Site, room: RoomId, to: Situation) -> Goals {
    let mut goals = Goals { devices: vec![], video: vec![], audio: vec![], findings: vec![] };
    let activity = match to {
        Situation::Unknown => return goals,
        Situation::Off => None,
        Situation::In { activity } => match site.activity(activity) {
            Some(found) if found.room == room => Some(found),
            _ => {
                let text = "This activity is not in this room any more. Choose another one.";
                goals.findings.push(Finding::new(Weight::Stops, "No activity", text, Place::on(Stage::Sequences)));
                return goals;
            }
        },
    };
    let mut wanted: BTreeMap<DeviceId, DeviceGoal> = BTreeMap::new();
    if let Some(activity) = activity {
        wire(site, activity, &mut goals, &mut wanted);
    }
    for device in site.devices_in(room) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        let mut goal = wanted.remove(&device.id).unwrap_or_else(|| rest(site, device, &profile, activity));
        goal.wish = wish(site, &goal);
        goals.devices.push(goal);
    }
    goals
}

/// What an activity wants of the devices on its paths and of what moves for it.
fn wire(site: &Site, activity: &Activity, goals: &mut Goals, wanted: &mut BTreeMap<DeviceId, DeviceGoal>) {
    let place = Place::on(Stage::Kit).activity(activity.id);
    let need = |device: DeviceId, why: String| DeviceGoal {
        device,
        on: Some(true),
        input: None,
        position: None,
        wish: String::new(),
        why,
        needed: true,
    };
    wanted.insert(activity.source, need(activity.source, format!("It plays {}.", activity.name)));
    let ends = [(Signal::Video, activity.seen_on, "picture"), (Signal::Audio, activity.heard_on, "sound")];
    for (signal, sink, what) in ends {
        let Some(sink) = sink else { continue };
        let Some(hops) = path(site, activity.source, sink, signal) else {
            let text = format!(
                "No cable brings the {what} of {} to {}. Wire them in Kit, or choose other devices for {}.",
                site.device_name(activity.source),
                site.device_name(sink),
                activity.name
            );
            goals.findings.push(Finding::new(Weight::Stops, "No path", text, place.device(sink)));
            wanted.entry(sink).or_insert_with(|| need(sink, format!("{} is to be there.", activity.name)));
            continue;
        };
        for hop in &hops {
            let why = format!(
                "The {what} comes from {} into {}.",
                site.device_name(hop.from),
                site.input(hop.to, hop.input).map_or_else(String::new, |input| input.name.clone())
            );
            let goal = wanted.entry(hop.to).or_insert_with(|| need(hop.to, why));
            match goal.input {
                Some(input) if input != hop.input => {
                    let text = format!(
                        "{} would need two inputs at once: one for the picture and one for the sound of {}.",
                        site.device_name(hop.to),
                        activity.name
                    );
                    goals.findings.push(Finding::new(Weight::Stops, "Two inputs", text, place.device(hop.to)));
                }
                _ => goal.input = Some(hop.input),
            }
        }
        match signal {
            Signal::Video => goals.video = hops,
            Signal::Audio => goals.audio = hops,
        }
    }
    for movement in &activity.moves {
        let goal = wanted.entry(movement.device).or_insert_with(|| DeviceGoal {
            on: None,
            why: format!("{} wants it there.", activity.name),
            ..need(movement.device, String::new())
        });
        goal.position = Some(movement.to);
    }
    for goal in wanted.values_mut() {
        let Some(profile) = site.profile_of(goal.device) else { continue };
        if !switched(&profile) {
            goal.on = None;
        }
        // Where there is nothing to choose, any input shows.
        if profile.selection == Selection::None {
            goal.input = None;
        }
        if site.device(goal.device).is_some_and(|d| !d.serves(activity.room)) {
            let text = format!(
                "{} does not serve this room. Tick the room at the device in Kit, or choose another device.",
                site.device_name(goal.device)
            );
            goals.findings.push(Finding::new(Weight::Remark, "Elsewhere", text, place.device(goal.device)));
        }
    }
}

/// Is it switched by keys of its own?
fn switched(profile: &Profile) -> bool {
    !matches!(profile.power, Power::AlwaysOn | Power::Follows { .. })
}

/// What is wanted of a device that the activity does not use: off and up. A device that serves other
/// rooms too is left as it is: somebody may be using it there.
fn rest(site: &Site, device: &Device, profile: &Profile, activity: Option<&Activity>) -> DeviceGoal {
    let elsewhere: Vec<&str> = device
        .rooms()
        .iter()
        .filter(|&&room| activity.is_none_or(|activity| activity.room != room))
        .filter_map(|&room| site.room(room))
        .map(|room| room.name.as_str())
        .collect();
    let shared = device.rooms().len() > 1;
    let why = match activity {
        _ if shared => format!("It also serves {}, so it is left as it is.", elsewhere.join(" and ")),
        Some(activity) => format!("{} does not use it.", activity.name),
        None => "The room is off.".to_owned(),
    };
    DeviceGoal {
        device: device.id,
        on: (switched(profile) && !shared).then_some(false),
        input: None,
        position: (profile.motion.is_some() && !shared).then_some(Position::Up),
        wish: String::new(),
        why,
        needed: activity.is_none(),
    }
}

fn wish(site: &Site, goal: &DeviceGoal) -> String {
    let mut words = Vec::new();
    match goal.on {
        Some(true) => words.push("on".to_owned()),
        Some(false) => words.push("off".to_owned()),
        None if goal.position.is_none() => words.push(undemanding(site, goal.device).to_owned()),
        None => {}
    }
    if let Some(input) = goal.input.and_then(|input| site.input(goal.device, input)) {
        words.push(format!("input {}", input.name));
    }
    match goal.position {
        Some(Position::Up) => words.push("up".to_owned()),
        Some(Position::Down) => words.push("down".to_owned()),
        None => {}
    }
    words.join(", ")
}

/// How a device is called of which neither power nor position is wanted.
fn undemanding(site: &Site, device: DeviceId) -> &'static str {
    match site.profile_of(device).map(|profile| profile.power) {
        Some(Power::Follows { .. }) => "follows",
        Some(Power::AlwaysOn) => "always on",
        _ => "as it is",
    }
}

/// What the devices of `room` may be in, in a named situation: every state that meets its goals.
#[must_use]
pub fn start(site: &Site, room: RoomId, from: Situation) -> Start {
    let goals = goals(site, room, from);
    goals
        .devices
        .iter()
        .filter_map(|goal| {
            let automaton = site.automaton(goal.device)?;
            let target = goal.target(automaton.profile());
            let states = automaton.states().into_iter().filter(|&state| target.met_by(state)).collect();
            Some((goal.device, Belief { states, busy_ms: 0 }))
        })
        .collect()
}
