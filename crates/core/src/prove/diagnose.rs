//! Backwards from what was seen: the smallest sets of causes that produce it, likeliest first, and the
//! check that best tells them apart.
//!
//! The likelihoods are rough: a lost press at the upper end of its range (3 % where nothing was tested), a
//! wait by its basis, and 5 % for another hand or a device that had gone off (*invented*, to rank by). Beside the machines
//! stand the usual reasons why nothing is seen or heard although everything is switched as it should be: sound off, turned
//! down, a wrong output of the source, a source asleep, a loose cable (their shares are *invented* too).

use super::Analysis;
use super::hands::deeds;
use super::loss::{tries_of, wilson};
use crate::device::group::Group;
use crate::device::{Joint, Target, words};
use crate::id::{DeviceId, InputId};
use crate::model::{Basis, Site, Situation, Standing};
use crate::plan::{Plan, Script, ScriptStep, goal};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// What a client saw after a macro.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct DisplaySeen {
    /// Was there a picture?
    pub picture: Option<bool>,
    /// Was there sound?
    pub sound: Option<bool>,
    /// What single devices showed.
    pub devices: Vec<SeenDevice>,
}

/// What one device showed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct SeenDevice {
    /// Which.
    pub device: DeviceId,
    /// On or off.
    #[serde(default)]
    pub on: Option<bool>,
    /// The input that it showed.
    #[serde(default)]
    pub input: Option<InputId>,
    /// Was it all the way down?
    #[serde(default)]
    pub down: Option<bool>,
}

/// A set of causes that produces what was seen.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Explanation {
    /// The causes, one or two.
    pub causes: Vec<String>,
    /// How likely against the others, in %.
    pub share_percent: f64,
    /// How everything stands then.
    pub leaves: Vec<String>,
}

/// The answer.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Diagnosis {
    /// Does the plan itself lead to what was seen?
    pub as_planned: bool,
    /// The explanations, likeliest first.
    pub explanations: Vec<Explanation>,
    /// The check that best tells them apart, where there is more than one.
    pub next: Option<Check>,
}

/// A check.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Check {
    /// What to look at.
    pub look: String,
    /// What each answer leaves.
    pub answers: Vec<Answered>,
}

/// One answer of a check.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Answered {
    /// What is seen.
    pub seen: String,
    /// How likely, in %.
    pub share_percent: f64,
    /// How many explanations it leaves.
    pub leaves: usize,
}

/// One cause in one group, and how the group ends with it; or, with a number of its own behind the groups, something that
/// no machine knows of and that takes picture or sound away.
struct Cause {
    group: usize,
    text: String,
    weight: f64,
    ends: BTreeSet<Joint>,
    takes: Takes,
}

/// What is not seen or heard although every device stands as it should.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
struct Takes {
    picture: bool,
    sound: bool,
}

/// What produces `seen` after the plan from one situation to another.
#[must_use]
pub fn diagnose(analysis: &Analysis<'_>, from: Situation, to: Situation, seen: &DisplaySeen) -> Diagnosis {
    let ours = analysis.ours();
    let made = analysis.make(from, to, analysis.policy());
    let site = ours.site;
    let mut usual: Vec<BTreeSet<Joint>> = Vec::new();
    let mut causes: Vec<Cause> = Vec::new();
    for (at, group) in ours.groups.iter().enumerate() {
        let targets = ours.targets(&made.derived.plan.goals, at);
        let Some(start) = ours.nominal.get(&from).and_then(|sets| sets[at].iter().next()).cloned() else {
            usual.push(BTreeSet::new());
            continue;
        };
        let script = &made.derived.scripts[at];
        let steps = steps_of(script);
        let end = |start: &Joint, lost: Option<usize>| ends(analysis, at, start, steps, lost, &targets);
        let normal = end(&start, None);
        let mut found = of_keys(&made.derived.plan, site, group, steps, |lost| end(&start, Some(lost)));
        found.extend(of_hands(site, group, &start, &normal, |start| end(start, None)));
        let differs = found.into_iter().filter(|(_, _, ends)| *ends != normal);
        causes.extend(differs.map(|(text, weight, ends)| Cause {
            group: at,
            text,
            weight,
            ends,
            takes: Takes::default(),
        }));
        usual.push(normal);
    }
    causes.extend(beside_the_machines(analysis, to, usual.len()));
    let matches = |choice: &[&Cause]| {
        let takes = Takes {
            picture: choice.iter().any(|cause| cause.takes.picture),
            sound: choice.iter().any(|cause| cause.takes.sound),
        };
        let groups: Vec<&BTreeSet<Joint>> = (0..usual.len())
            .map(|at| choice.iter().find(|cause| cause.group == at).map_or(&usual[at], |cause| &cause.ends))
            .collect();
        fits(analysis, to, &groups, takes, seen)
    };
    let as_planned = matches(&[]);
    let mut chosen = explaining(&causes, matches);
    let weight = |choice: &[&Cause]| choice.iter().map(|cause| cause.weight).product::<f64>();
    chosen.sort_by(|a, b| weight(b).total_cmp(&weight(a)));
    let whole: f64 = chosen.iter().map(|choice| weight(choice)).sum();
    let share = |choice: &[&Cause]| if whole > 0.0 { weight(choice) / whole * 100.0 } else { 0.0 };
    let next = best_check(analysis, &usual, &chosen, &share);
    let explanations = explained(site, &ours.groups, &chosen, share);
    Diagnosis { as_planned, explanations, next }
}

/// A cause in words, how likely it is, and how its group ends with it.
type Found = (String, f64, BTreeSet<Joint>);

/// What can have happened to the keys of a plan: never sent, lost on the way, or sent too early.
fn of_keys(
    plan: &Plan,
    site: &Site,
    group: &Group<'_>,
    steps: &[ScriptStep],
    without: impl Fn(usize) -> BTreeSet<Joint>,
) -> Vec<Found> {
    let mut found = Vec::new();
    for (place, step) in steps.iter().enumerate() {
        let device = group.members[step.member].0;
        let name = site.device_name(device);
        let planned = step.step.and_then(|step| plan.steps.get(step));
        let key = planned.map_or_else(|| "a key".to_owned(), |planned| format!("“{}”", planned.name));
        let ends = without(place);
        if planned.is_some_and(|planned| planned.code.is_none()) {
            found.push((format!("{key} of {name} has no code and was never sent"), 1.0, ends));
            continue;
        }
        let lost = wilson(tries_of(site, device, step.letter)).map_or(0.03, |range| range.hi);
        found.push((format!("{key} did not reach {name}"), lost, ends.clone()));
        let before = plan
            .waits
            .iter()
            .rfind(|wait| wait.device == device && planned.is_some_and(|planned| wait.to_ms <= planned.start_ms));
        if let Some(wait) = before {
            let weight = match wait.span.basis {
                Basis::Assumed => 0.1,
                Basis::Profile => 0.03,
                Basis::Measured { n, struck } => f64::from(struck + 1) / (f64::from(n) + 1.0),
                Basis::Confirmed => 0.001,
            };
            let took = wait.label.split(" · ").next().unwrap_or("busy");
            found.push((format!("{name} was {took} for longer than the plan waits, and missed {key}"), weight, ends));
        }
    }
    found
}

/// What hands can have done to the members of a group, before the plan and after it.
fn of_hands(
    site: &Site,
    group: &Group<'_>,
    start: &Joint,
    normal: &BTreeSet<Joint>,
    end: impl Fn(&Joint) -> BTreeSet<Joint>,
) -> Vec<Found> {
    let mut found = Vec::new();
    for member in 0..group.members.len() {
        let name = site.device_name(group.members[member].0);
        for (what, left) in deeds(group, member, start) {
            for rest in group.settled(&left).unwrap_or_default() {
                found.push((format!("{name}: {what} before"), weight_of(&what), end(&rest)));
            }
        }
        for done in normal {
            for (what, left) in deeds(group, member, done) {
                found.push((
                    format!("{name}: {what} afterwards"),
                    weight_of(&what),
                    group.settled(&left).unwrap_or_default(),
                ));
            }
        }
    }
    found
}

/// Why nothing is seen or heard although every device stands as the plan wants it.
fn beside_the_machines(analysis: &Analysis<'_>, to: Situation, groups: usize) -> Vec<Cause> {
    let site = analysis.ours().site;
    let Situation::In { activity } = to else { return vec![] };
    let Some(activity) = site.activity(activity) else { return vec![] };
    let (sound, picture) = (Takes { sound: true, picture: false }, Takes { picture: true, sound: false });
    let both = Takes { picture: true, sound: true };
    let mut found: Vec<(String, f64, Takes)> = Vec::new();
    let source = site.device_name(activity.source);
    found.push((format!("{source} is asleep, or plays nothing"), 0.04, both));
    if let Some(heard) = activity.heard_on {
        let name = site.device_name(heard);
        let volume = site.profile_of(heard).and_then(|profile| profile.volume);
        if volume.is_some_and(|volume| volume.mute.is_some()) {
            found.push((format!("the sound of {name} is switched off (mute)"), 0.08, sound));
        }
        if volume.is_some() {
            found.push((format!("{name} is turned down"), 0.07, sound));
        }
        found.push((format!("the sound output of {source} is set to something that {name} cannot play"), 0.03, sound));
    }
    if let Some(shown) = activity.seen_on {
        let name = site.device_name(shown);
        found.push((
            format!("the picture output of {source} is set to something that {name} cannot show"),
            0.02,
            picture,
        ));
    }
    let goals = goal::goals(site, analysis.ours().room, to);
    for hop in &goals.video {
        let sounds_too = goals.audio.iter().any(|other| other.connection == hop.connection);
        let text = format!("the cable from {} to {} is loose", site.device_name(hop.from), site.device_name(hop.to));
        found.push((text, 0.01, Takes { picture: true, sound: sounds_too }));
    }
    for hop in goals.audio.iter().filter(|hop| goals.video.iter().all(|other| other.connection != hop.connection)) {
        let text = format!("the cable from {} to {} is loose", site.device_name(hop.from), site.device_name(hop.to));
        found.push((text, 0.01, sound));
    }
    let cause =
        |(place, (text, weight, takes))| Cause { group: groups + place, text, weight, ends: BTreeSet::new(), takes };
    found.into_iter().enumerate().map(cause).collect()
}

/// The smallest sets of causes that lead to what was seen: one, else two in different groups, else three.
fn explaining(causes: &[Cause], matches: impl Fn(&[&Cause]) -> bool) -> Vec<Vec<&Cause>> {
    let mut chosen: Vec<Vec<&Cause>> =
        causes.iter().map(|cause| vec![cause]).filter(|choice| matches(choice)).collect();
    if chosen.is_empty() {
        for (at, first) in causes.iter().enumerate() {
            for second in causes[at + 1..].iter().filter(|second| second.group != first.group) {
                let pair = vec![first, second];
                if chosen.len() < 400 && matches(&pair) {
                    chosen.push(pair);
                }
            }
        }
    }
    if chosen.is_empty() {
        for (at, first) in causes.iter().enumerate() {
            for (next, second) in
                causes.iter().enumerate().skip(at + 1).filter(|(_, second)| second.group != first.group)
            {
                let apart = |third: &&Cause| third.group != first.group && third.group != second.group;
                for third in causes[next + 1..].iter().filter(apart) {
                    let three = vec![first, second, third];
                    if chosen.len() < 100 && matches(&three) {
                        chosen.push(three);
                    }
                }
            }
        }
    }
    chosen
}

/// The likeliest of them in words, each said once.
fn explained(
    site: &Site,
    groups: &[Group<'_>],
    chosen: &[Vec<&Cause>],
    share: impl Fn(&[&Cause]) -> f64,
) -> Vec<Explanation> {
    let mut explanations: Vec<Explanation> = Vec::new();
    for choice in chosen {
        let mut texts: Vec<String> = choice.iter().map(|cause| cause.text.clone()).collect();
        texts.sort();
        if explanations.len() < 12 && !explanations.iter().any(|known| known.causes == texts) {
            let leaves = choice.iter().flat_map(|cause| {
                let group = groups.get(cause.group);
                group
                    .into_iter()
                    .flat_map(|group| cause.ends.iter().take(1).flat_map(move |end| words::members(site, group, end)))
            });
            explanations.push(Explanation { causes: texts, share_percent: share(choice), leaves: leaves.collect() });
        }
    }
    explanations
}

fn weight_of(what: &str) -> f64 {
    if what.contains("mains") { 0.01 } else { 0.05 }
}

fn steps_of(script: &Script) -> &[ScriptStep] {
    match &script.look {
        Some(look) => {
            look.branches.iter().map(|(_, steps)| steps.as_slice()).max_by_key(|steps| steps.len()).unwrap_or(&[])
        }
        None => &script.steps,
    }
}

/// Where a group comes to rest, one key being lost.
fn ends(
    analysis: &Analysis<'_>,
    at: usize,
    start: &Joint,
    steps: &[ScriptStep],
    lost: Option<usize>,
    targets: &[Target],
) -> BTreeSet<Joint> {
    let group = &analysis.ours().groups[at];
    let mut states = BTreeSet::from([group.relevant(start.clone(), targets)]);
    for (place, step) in steps.iter().enumerate() {
        let mut next = BTreeSet::new();
        for joint in &states {
            for (before, _) in group.elapse(joint, step.after).unwrap_or_default() {
                if lost == Some(place) {
                    next.insert(before);
                } else {
                    next.extend(group.press(&before, step.member, step.letter).into_iter().map(|(after, _)| after));
                }
            }
        }
        states = next.into_iter().map(|joint| group.relevant(joint, targets)).collect();
    }
    states.iter().flat_map(|joint| group.settled(joint).unwrap_or_default()).collect()
}

/// Can the groups, each in one of its ends, show what was seen?
fn fits(analysis: &Analysis<'_>, to: Situation, ends: &[&BTreeSet<Joint>], takes: Takes, seen: &DisplaySeen) -> bool {
    let ours = analysis.ours();
    let one = |device: DeviceId, test: &dyn Fn(&crate::device::State) -> bool| {
        ours.groups.iter().zip(ends).any(|(group, ends)| {
            group.place(device).is_some_and(|member| ends.iter().any(|end| test(&end.members[member].state)))
        })
    };
    for known in &seen.devices {
        let index = known.input.and_then(|input| ours.site.profile_of(known.device)?.input_index(input));
        let test = |state: &crate::device::State| {
            known.on.is_none_or(|on| on == state.on)
                && index.is_none_or(|index| state.on && usize::from(state.input) == index)
                && known.down.is_none_or(|down| down == (state.position == Standing::Down))
        };
        if !one(known.device, &test) {
            return false;
        }
    }
    let goals = goal::goals(ours.site, ours.room, to);
    let carries = |hops: &[crate::wiring::Hop], ends_at: Option<DeviceId>, sounds: bool| {
        let mut devices: BTreeSet<DeviceId> = hops.iter().flat_map(|hop| [hop.from, hop.to]).collect();
        devices.extend(ends_at);
        devices.into_iter().all(|device| {
            let Some(goal) = goals.devices.iter().find(|goal| goal.device == device) else { return true };
            let Some(machine) = ours.site.automaton(device) else { return true };
            let target = Target { position: None, modes: [None; 4], app: None, ..goal.target(machine.profile()) };
            let target = if sounds { target } else { Target { muted: None, ..target } };
            one(device, &|state| target.met_by(crate::device::State { cursor: None, ..*state }))
        })
    };
    let activity = match to {
        Situation::In { activity } => ours.site.activity(activity),
        _ => None,
    };
    let hidden = activity.and_then(|a| a.seen_on).and_then(|seen| ours.site.device(seen)?.behind);
    let uncovered = hidden.is_none_or(|screen| one(screen, &|state| state.position == Standing::Up));
    // Where the screen belongs to the picture, a picture needs it down.
    let screens = activity.iter().flat_map(|a| &a.moves).filter(|movement| {
        let kind = ours.site.model_of(movement.device).map(|profile| profile.kind);
        kind == Some(crate::model::DeviceKind::Screen)
    });
    let spread =
        screens.map(|movement| movement.device).all(|screen| one(screen, &|state| state.position == Standing::Down));
    let picture = activity.is_some_and(|a| a.seen_on.is_some())
        && carries(&goals.video, activity.and_then(|a| a.seen_on), false)
        && uncovered
        && spread
        && !takes.picture;
    let sound = activity.is_some_and(|a| a.heard_on.is_some())
        && carries(&goals.audio, activity.and_then(|a| a.heard_on), true)
        && !takes.sound;
    // An activity without a picture says nothing of a picture that is seen beside it; so with sound.
    let shows = activity.is_none_or(|activity| activity.seen_on.is_some());
    let sounds = activity.is_none_or(|activity| activity.heard_on.is_some());
    seen.picture.is_none_or(|wanted| !shows || wanted == picture)
        && seen.sound.is_none_or(|wanted| !sounds || wanted == sound)
}

/// The look at a device that tells most: the one whose answers are the most evenly spread.
fn best_check(
    analysis: &Analysis<'_>,
    usual: &[BTreeSet<Joint>],
    chosen: &[Vec<&Cause>],
    share: &dyn Fn(&[&Cause]) -> f64,
) -> Option<Check> {
    if chosen.len() < 2 {
        return None;
    }
    let ours = analysis.ours();
    let site: &Site = ours.site;
    let mut best: Option<(f64, Check)> = None;
    for (at, group) in ours.groups.iter().enumerate() {
        for (member, (device, machine)) in group.members.iter().enumerate() {
            let mut answers: Vec<Answered> = Vec::new();
            for choice in chosen {
                let ends = choice.iter().find(|cause| cause.group == at).map_or(&usual[at], |cause| &cause.ends);
                let Some(end) = ends.iter().next() else { continue };
                let seen = words::state(machine.profile(), &end.members[member]);
                let own = share(choice);
                match answers.iter_mut().find(|answer| answer.seen == seen) {
                    Some(answer) => {
                        answer.share_percent += own;
                        answer.leaves += 1;
                    }
                    None => answers.push(Answered { seen, share_percent: own, leaves: 1 }),
                }
            }
            let tells: f64 = answers
                .iter()
                .map(|answer| answer.share_percent / 100.0)
                .filter(|&p| p > 0.0)
                .map(|p| -p * p.log2())
                .sum();
            if tells > 0.01 && best.as_ref().is_none_or(|(known, _)| tells > *known) {
                answers.sort_by(|a, b| b.share_percent.total_cmp(&a.share_percent));
                best = Some((tells, Check { look: format!("See how {} stands", site.device_name(*device)), answers }));
            }
        }
    }
    best.map(|(_, check)| check)
}
