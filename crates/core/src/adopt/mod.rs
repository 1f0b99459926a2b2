//! Staying in step: which activity a room is in, read from what its devices tell of themselves.
//!
//! An adoption rule says: when these devices report this, the room is in that activity. The rules are
//! derived from wiring and feedback. To *adopt* changes what the surfaces control and what is believed,
//! and sends nothing; to *complete* the adopted activity is a second step that a room may allow.
//!
//! A rule is noticed at the latest after (lost polls that are tolerated + 1) × poll + reply time-out +
//! the time that the device needs to settle, of the slowest of its devices.

#[cfg(test)]
mod tests;

use crate::device::look::Seen;
use crate::finding::Finding;
use crate::id::{ActivityId, DeviceId, InputId, RoomId};
use crate::model::{Activity, Adoption, Amendment, Feedback, FindingKind, Profile, Selection, Site, Situation, Tell};
use crate::plan::goal;
use crate::words::{and, seconds};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// What one device has to report.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Condition {
    /// The device.
    pub device: DeviceId,
    /// On or off, where that counts.
    pub on: Option<bool>,
    /// The input that it has to show, where that counts.
    pub input: Option<InputId>,
    /// In words: “the receiver shows Disc (it says BD)”.
    pub text: String,
    /// Was it taken out by hand?
    pub left_out: bool,
}

impl Condition {
    /// Does what was seen of the device meet it? A device that was not heard meets nothing.
    #[must_use]
    pub fn met(&self, site: &Site, seen: Option<&Seen>) -> bool {
        if self.left_out {
            return true;
        }
        let Some(seen) = seen else { return false };
        let input = self.input.and_then(|input| site.profile_of(self.device)?.input_index(input));
        let shows = input.is_none_or(|index| seen.input.map(usize::from) == Some(index));
        self.on.is_none_or(|on| seen.on == Some(on)) && shows
    }
}

/// When these devices report this, the room is there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct AdoptionRule {
    /// Where the room is then.
    pub to: Situation,
    /// Only while this activity is current, for a rule that leads to off.
    pub while_in: Option<ActivityId>,
    /// What has to be reported, all of it.
    pub conditions: Vec<Condition>,
    /// The rule as a sentence.
    pub sentence: String,
    /// How long it takes to be noticed at most, in ms.
    pub noticed_ms: u32,
    /// Is it in force?
    pub on: bool,
    /// Why it is not in force though nobody switched it off; none where it is or somebody did.
    pub blocked: Option<String>,
}

/// A device that tells too little.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Gap {
    /// The device.
    pub device: DeviceId,
    /// What cannot be known.
    pub text: String,
    /// The sensor that would close the gap.
    pub sensor: String,
}

/// How a room stays in step.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct InStep {
    /// The rules, in the order of the activities, those that lead to off last.
    pub rules: Vec<AdoptionRule>,
    /// Devices that tell too little.
    pub gaps: Vec<Gap>,
    /// What was found.
    pub findings: Vec<Finding>,
}

/// What a room is in, as its devices tell.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Told {
    /// No rule fits.
    Nothing,
    /// One situation.
    One(Situation),
    /// Several activities look alike.
    Several(Vec<Situation>),
}

/// What a device calls an input when it reports it: the name that was read back, the model's, or the label
/// in capitals.
#[must_use]
pub fn reported_name(site: &Site, device: DeviceId, input: InputId) -> Option<String> {
    if let Some(own) = site.device(device)?.reported.get(&input) {
        return Some(own.clone());
    }
    let profile = site.profile_of(device)?;
    let input = profile.inputs.iter().find(|known| known.id == input)?;
    Some(input.reports.clone().unwrap_or_else(|| input.name.to_uppercase()))
}

/// The input that a device means by a name that it reports, counted from 0; `None` where no input or more
/// than one is called so.
#[must_use]
pub fn input_called(site: &Site, device: DeviceId, name: &str) -> Option<u8> {
    let profile = site.profile_of(device)?;
    let called = |input: &&crate::model::Input| {
        reported_name(site, device, input.id).is_some_and(|known| known.eq_ignore_ascii_case(name))
    };
    let mut fits = profile.inputs.iter().enumerate().filter(|(_, input)| called(input));
    let (index, _) = fits.next()?;
    if fits.next().is_some() { None } else { u8::try_from(index).ok() }
}

/// How long a change at a device takes to be noticed at most, in ms; `None` where it tells nothing.
#[must_use]
pub fn noticed_ms(profile: &Profile, lost_polls: u8) -> Option<u32> {
    let settle = profile.times.input.hi_ms.max(profile.times.gap_ms);
    Some(match &profile.feedback {
        Feedback::None => return None,
        Feedback::Poll { every_ms, time_out_ms, .. } => {
            (u32::from(lost_polls) + 1).saturating_mul(*every_ms).saturating_add(*time_out_ms).saturating_add(settle)
        }
        Feedback::Push { delay_ms, .. } | Feedback::Sensor { delay_ms, .. } => delay_ms.saturating_add(settle),
    })
}

/// How a room stays in step: rules, gaps, findings.
#[must_use]
pub fn in_step(site: &Site, room: RoomId) -> InStep {
    let adoption = site.room(room).map(|room| room.rehearsal.adoption.clone()).unwrap_or_default();
    let activities: Vec<&Activity> = site.activities.iter().filter(|activity| activity.room == room).collect();
    let mut rules: Vec<AdoptionRule> =
        activities.iter().map(|activity| activity_rule(site, room, activity, &adoption)).collect();
    let mut off: Vec<AdoptionRule> = Vec::new();
    for activity in &activities {
        let rule = off_rule(site, activity, &adoption);
        // Activities that are seen and heard on the same devices share one rule.
        if !off.iter().any(|known| known.conditions == rule.conditions && known.blocked == rule.blocked) {
            off.push(rule);
        }
    }
    let findings = findings(site, room, &mut rules);
    rules.extend(off);
    InStep { rules, gaps: gaps(site, room), findings }
}

fn activity_rule(site: &Site, room: RoomId, activity: &Activity, adoption: &Adoption) -> AdoptionRule {
    let to = Situation::In { activity: activity.id };
    let goals = goal::goals(site, room, to);
    let mut conditions = Vec::new();
    let mut distinguishes = false;
    for goal in &goals.devices {
        let Some(profile) = site.profile_of(goal.device) else { continue };
        let shows_or_sounds = activity.seen_on == Some(goal.device) || activity.heard_on == Some(goal.device);
        // Devices that rest matter only where their being on would mean a picture.
        let dark = activity.seen_on.is_none() && profile.kind.shows() && goal.on == Some(false);
        if !(goal.needed || shows_or_sounds || dark) {
            continue;
        }
        let on = goal.on.filter(|_| profile.feedback.tells(Tell::Power));
        let input = goal.input.filter(|_| profile.feedback.tells(Tell::Input) && profile.selection != Selection::None);
        if on.is_none() && input.is_none() {
            continue;
        }
        distinguishes |= input.is_some() || (on == Some(true) && (shows_or_sounds || goal.device == activity.source));
        let left_out = adoption.without.contains(&Amendment { to, device: goal.device });
        conditions.push(condition(site, goal.device, on, input, left_out));
    }
    let blocked = if conditions.iter().all(|condition| condition.left_out) {
        Some("None of its devices tells what it is doing.".to_owned())
    } else if !distinguishes {
        Some("What its devices tell does not say which activity it is.".to_owned())
    } else {
        None
    };
    finish(site, to, None, conditions, blocked, adoption)
}

/// Off is adopted only when every device that shows or sounds reports it.
fn off_rule(site: &Site, activity: &Activity, adoption: &Adoption) -> AdoptionRule {
    let mut conditions: Vec<Condition> = Vec::new();
    let mut silent = Vec::new();
    for device in activity.seen_on.into_iter().chain(activity.heard_on) {
        if conditions.iter().any(|known| known.device == device) {
            continue;
        }
        let left_out = adoption.without.contains(&Amendment { to: Situation::Off, device });
        let tells_power = site.profile_of(device).is_some_and(|profile| profile.feedback.tells(Tell::Power));
        if tells_power {
            conditions.push(condition(site, device, Some(false), None, left_out));
        } else if !left_out {
            silent.push(site.device_name(device));
        }
    }
    let blocked = match (silent.as_slice(), conditions.iter().all(|condition| condition.left_out)) {
        ([], false) => None,
        ([], true) => Some("Nothing that shows or sounds tells whether it is on.".to_owned()),
        (names, _) => Some(format!(
            "{} shows or sounds, and does not tell whether it is on: off is never adopted from {} alone.",
            names.join(" and "),
            if conditions.is_empty() { "nothing" } else { "the others" },
        )),
    };
    finish(site, Situation::Off, Some(activity.id), conditions, blocked, adoption)
}

fn condition(site: &Site, device: DeviceId, on: Option<bool>, input: Option<InputId>, left_out: bool) -> Condition {
    let name = site.device_name(device);
    let profile = site.profile_of(device);
    let label = input.and_then(|id| profile.as_ref()?.inputs.iter().find(|i| i.id == id).map(|i| i.name.clone()));
    let says = input.and_then(|input| reported_name(site, device, input));
    let power = on.map(|on| if on { "on" } else { "off" });
    let text = match (power, label) {
        (Some("off"), _) => format!("{name} is off"),
        (_, Some(label)) => match says.filter(|said| *said != label) {
            Some(said) => format!("{name} shows {label} (it says {said})"),
            None => format!("{name} shows {label}"),
        },
        (Some(power), None) => format!("{name} is {power}"),
        (None, None) => format!("{name} is heard"),
    };
    Condition { device, on, input, text, left_out }
}

fn finish(
    site: &Site,
    to: Situation,
    while_in: Option<ActivityId>,
    conditions: Vec<Condition>,
    blocked: Option<String>,
    adoption: &Adoption,
) -> AdoptionRule {
    let used: Vec<&Condition> = conditions.iter().filter(|condition| !condition.left_out).collect();
    let noticed =
        used.iter().filter_map(|c| noticed_ms(site.profile_of(c.device)?.as_ref(), adoption.lost_polls)).max();
    let noticed_ms = noticed.unwrap_or(0);
    let when: Vec<&str> = used.iter().map(|condition| condition.text.as_str()).collect();
    let name = |id| site.activity(id).map_or_else(|| "an activity".to_owned(), |a| a.name.clone());
    let there = match to {
        Situation::In { activity } => format!("the room is in {}", name(activity)),
        _ => "the room is off".to_owned(),
    };
    let sentence = match when.as_slice() {
        [] => format!("Nothing tells that {there}."),
        _ => format!("When {}, {there}; noticed within {}.", and(&when), seconds(noticed_ms)),
    };
    let on = blocked.is_none() && !adoption.switched_off.contains(&to);
    AdoptionRule { to, while_in, conditions, sentence, noticed_ms, on, blocked }
}

/// Activities that look alike to what the devices tell, and inputs that are called the same.
fn findings(site: &Site, room: RoomId, rules: &mut [AdoptionRule]) -> Vec<Finding> {
    let mut findings = Vec::new();
    let mut alike: BTreeSet<usize> = BTreeSet::new();
    for a in 0..rules.len() {
        for b in a + 1..rules.len() {
            if rules[a].on && rules[b].on && together(&rules[a], &rules[b]) {
                alike.extend([a, b]);
                let (one, other) = (rules[a].to, rules[b].to);
                findings.push(Finding::of(site, FindingKind::LooksAlike { one, other }));
            }
        }
    }
    for device in site.devices_in(room) {
        let Some(profile) = site.profile_of(device.id).filter(|profile| profile.feedback.tells(Tell::Input)) else {
            continue;
        };
        let mut called: BTreeMap<String, Vec<&str>> = BTreeMap::new();
        for input in &profile.inputs {
            let said = reported_name(site, device.id, input.id).unwrap_or_default().to_lowercase();
            called.entry(said).or_default().push(&input.name);
        }
        for (said, inputs) in called.into_iter().filter(|(_, inputs)| inputs.len() > 1) {
            let inputs = inputs.into_iter().map(str::to_owned).collect();
            findings.push(Finding::of(site, FindingKind::OneName { device: device.id, name: said, inputs }));
        }
    }
    findings
}

/// Can both rules fit at once? They cannot where a device would have to be two things.
fn together(a: &AdoptionRule, b: &AdoptionRule) -> bool {
    let (mut shared, mut apart) = (false, false);
    for own in a.conditions.iter().filter(|condition| !condition.left_out) {
        for other in b.conditions.iter().filter(|condition| !condition.left_out && condition.device == own.device) {
            shared = true;
            let power = own.on.zip(other.on).is_some_and(|(x, y)| x != y);
            let input = own.input.zip(other.input).is_some_and(|(x, y)| x != y);
            apart |= power || input;
        }
    }
    shared && !apart
}

/// Devices without feedback, each with the sensor that would close the gap.
fn gaps(site: &Site, room: RoomId) -> Vec<Gap> {
    let used: BTreeSet<DeviceId> = site
        .activities
        .iter()
        .filter(|activity| activity.room == room)
        .flat_map(|activity| {
            let goals = goal::goals(site, room, Situation::In { activity: activity.id });
            let matters = |goal: &goal::DeviceGoal| goal.needed || goal.position.is_some() || goal.on == Some(true);
            goals.devices.into_iter().filter(matters).map(|goal| goal.device)
        })
        .collect();
    let mut gaps = Vec::new();
    for device in site.devices_in(room).filter(|device| used.contains(&device.id)) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        let automaton = crate::device::Automaton::new(&profile);
        let gap = |text: String, sensor: &str| Gap { device: device.id, text, sensor: sensor.to_owned() };
        if profile.motion.is_some() {
            if !profile.feedback.tells(Tell::Position) {
                let text = format!("{} does not tell where it stands.", device.name);
                gaps.push(gap(text, "a contact at its end, which tells when it is all the way down"));
            }
        } else if !automaton.never_off() && !profile.feedback.tells(Tell::Power) {
            let follows = matches!(profile.power, crate::model::Power::Follows { .. });
            let sensor = if follows {
                "a sensor of the draw of its mains plug, or feedback from the device that it follows"
            } else {
                "a sensor of the draw of its mains plug, which tells on from off"
            };
            gaps.push(gap(format!("{} does not tell whether it is on.", device.name), sensor));
        } else if profile.inputs.len() > 1
            && profile.selection != Selection::None
            && !profile.feedback.tells(Tell::Input)
        {
            let text = format!("{} does not tell which input it shows.", device.name);
            gaps.push(gap(text, "none that can be bought: use a key for each input, or control over the network"));
        }
    }
    gaps
}

/// What the room is in, from what its devices told last. `current` is what it is taken to be in.
#[must_use]
pub fn told(site: &Site, in_step: &InStep, seen: &BTreeMap<DeviceId, Seen>, current: Option<Situation>) -> Told {
    let fits = |rule: &&AdoptionRule| {
        let here = rule.while_in.is_none_or(|only| {
            // A rule that leads to off holds for every activity with the same devices.
            current.is_some_and(|current| match current {
                Situation::In { activity } => activity == only || same_places(site, activity, only),
                _ => false,
            })
        });
        rule.on && here && rule.conditions.iter().all(|condition| condition.met(site, seen.get(&condition.device)))
    };
    let mut found: Vec<Situation> = in_step.rules.iter().filter(fits).map(|rule| rule.to).collect();
    // Where nobody knows what the room was in, it is off once everything that ever shows or sounds is.
    let mut off = in_step.rules.iter().filter(|rule| rule.to == Situation::Off).peekable();
    let met = |rule: &AdoptionRule| {
        rule.on && rule.conditions.iter().all(|condition| condition.met(site, seen.get(&condition.device)))
    };
    if current.is_none() && off.peek().is_some() && off.all(met) {
        found.push(Situation::Off);
    }
    found.dedup();
    match found.as_slice() {
        [] => Told::Nothing,
        [one] => Told::One(*one),
        // Where the room is taken to be in one of those that look alike, that is it.
        several => match current.filter(|current| several.contains(current)) {
            Some(current) => Told::One(current),
            None => Told::Several(found),
        },
    }
}

fn same_places(site: &Site, a: ActivityId, b: ActivityId) -> bool {
    let places = |id| site.activity(id).map(|activity: &Activity| (activity.seen_on, activity.heard_on));
    places(a).is_some() && places(a) == places(b)
}
