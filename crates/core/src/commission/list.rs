//! The tests that a room needs, generated from the house.

use super::reader::{Reader, differences};
use super::run::Run;
use crate::adopt;
use crate::evidence;
use crate::id::RoomId;
use crate::model::{
    Device, DeviceKind, Feedback, Gesture, Outcome, RestingFact, SeenIn, Site, Situation, Tell, TestOf, TestResult,
    Timing, cue_words, situation_name, test_title,
};
use crate::words::{and, capital, seconds};
use serde::Serialize;
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// How a test stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum TestState {
    /// It failed, and nothing of it has changed since.
    Failed,
    /// Something that it rests on has changed since.
    Stale,
    /// Nobody has done it.
    Open,
    /// It passed in the rehearsal room, which is not the house.
    Rehearsed,
    /// It cannot be done here.
    NotPossible,
    /// It passed.
    Passed,
}

/// A test, and how it stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct TestLine {
    /// What it tests.
    pub of: TestOf,
    /// Its kind, in a word.
    pub kind: &'static str,
    /// What it is called.
    pub title: String,
    /// What to do.
    pub to_do: String,
    /// What must be seen.
    pub to_see: String,
    /// What to take care of; none where nothing can hurt.
    pub care: Option<String>,
    /// How long it takes, with a look at what is seen, in s.
    pub takes_s: u32,
    /// Does it fit into a wait of another one: nothing has to be sent for it?
    pub fits_in: bool,
    /// Can the rehearsal room do it by itself?
    pub rehearsable: bool,
    /// How it stands.
    pub state: TestState,
    /// Why it is stale, each in a sentence.
    pub because: Vec<String>,
    /// What came of it last.
    pub result: Option<TestResult>,
    /// What it rests on.
    #[serde(skip)]
    pub facts: Vec<RestingFact>,
}

/// To look whether everything is as it should be, in s (*your own measure*: walk it).
pub const LOOK_S: u32 = 10;

/// The tests of a room, in the order in which a visit goes.
#[must_use]
pub fn list(site: &Site, room: RoomId, runs: &[Run]) -> Vec<TestLine> {
    let mut all = Vec::new();
    functions(site, room, &mut all);
    waits(site, room, runs, &mut all);
    switches(site, room, runs, &mut all);
    cues(site, room, &mut all);
    keys(site, room, &mut all);
    in_step(site, room, &mut all);
    safety(site, room, &mut all);
    phrases(site, room, &mut all);
    all
}

/// What a test says, before it is known how it stands.
struct Asked {
    of: TestOf,
    to_do: String,
    to_see: String,
    care: Option<String>,
    takes_s: u32,
    fits_in: bool,
    rehearsable: bool,
}

fn push(all: &mut Vec<TestLine>, reader: Reader<'_>, asked: Asked) {
    let site = reader.site;
    let facts = reader.facts();
    let result = site.result_of(&asked.of).cloned();
    let because = result.as_ref().map(|result| differences(&result.facts, &facts)).unwrap_or_default();
    let state = match &result {
        None => TestState::Open,
        Some(_) if !because.is_empty() => TestState::Stale,
        Some(result) => match (result.outcome, result.seen) {
            (Outcome::Failed, _) => TestState::Failed,
            (Outcome::NotPossible, _) => TestState::NotPossible,
            (Outcome::Passed, SeenIn::Rehearsed) => TestState::Rehearsed,
            (Outcome::Passed, SeenIn::House) => TestState::Passed,
        },
    };
    let Asked { of, to_do, to_see, care, takes_s, fits_in, rehearsable } = asked;
    let (kind, title) = (of.kind(), test_title(site, &of));
    // What it rested on then has been compared: nobody reads digests.
    let result = result.map(TestResult::without_facts);
    all.push(TestLine {
        of,
        kind,
        title,
        to_do,
        to_see,
        care,
        takes_s,
        fits_in,
        rehearsable,
        state,
        because,
        result,
        facts,
    });
}

/// What can hurt somebody when a device is driven.
fn care(site: &Site, device: &Device) -> Option<String> {
    let profile = site.profile_of(device.id)?;
    if profile.motion.is_some() {
        return Some(format!("{} moves: keep clear of it, and stand where you can see it.", device.name));
    }
    (profile.kind == DeviceKind::Heater)
        .then(|| format!("{} makes heat: nothing may lie on it, and somebody stays with it.", device.name))
}

fn functions(site: &Site, room: RoomId, all: &mut Vec<TestLine>) {
    for device in site.devices_in(room).filter(|device| device.room == room) {
        let Some(model) = site.model_of(device.id) else { continue };
        for function in model.functions.iter().filter(|function| site.code(device.id, function.id).is_some()) {
            let mut reader = Reader::new(site);
            reader.code(device.id, function.id);
            reader.read(format!("means {}", function.id), format!("what {} is for", function.name), &function.means);
            push(
                all,
                reader,
                Asked {
                    of: TestOf::Function { device: device.id, function: function.id },
                    to_do: format!("Send “{}” to {} once.", function.name, device.name),
                    to_see: format!("{} does it: {}.", device.name, function.name),
                    care: care(site, device),
                    takes_s: 5,
                    fits_in: false,
                    rehearsable: true,
                },
            );
        }
    }
}

/// The times that plans of the room wait for, and how well each is known.
fn waits(site: &Site, room: RoomId, runs: &[Run], all: &mut Vec<TestLine>) {
    let mut needed = BTreeSet::new();
    for run in runs {
        for wait in &run.plan.waits {
            let timings: &[Timing] = match wait.effect {
                crate::model::Effect::WarmUp => &[Timing::WarmUp, Timing::Picture],
                crate::model::Effect::CoolDown => &[Timing::CoolDown],
                crate::model::Effect::Input => &[Timing::Input],
                crate::model::Effect::Travel => &[Timing::TravelUp, Timing::TravelDown],
                _ => &[],
            };
            needed.extend(timings.iter().map(|&timing| (wait.device, timing)));
        }
    }
    for (device, timing) in needed {
        let known = evidence::known(site, device, timing, false);
        let Some(in_use) = known.in_use.filter(|_| site.devices_in(room).any(|own| own.id == device)) else { continue };
        let mut reader = Reader::new(site);
        reader.time(device, timing);
        let percent = site.house.coverage_percent;
        let lacks = match in_use.basis {
            crate::model::Basis::Confirmed => 0,
            crate::model::Basis::Measured { n, struck } => evidence::lacking(n, struck, known.ends, percent),
            _ => evidence::lacking(0, 0, known.ends, percent),
        };
        let seen = if lacks == 0 {
            format!("It is known well enough: {}.", in_use.basis.words())
        } else {
            format!(
                "{lacks} more readings within {} to {} make {percent} %.",
                seconds(in_use.lo_ms),
                seconds(in_use.hi_ms)
            )
        };
        let own = site.device(device);
        let laps = lacks.max(1);
        let asked = Asked {
            of: TestOf::Wait { device, timing },
            to_do: format!("Time it with the stopwatch: {}, {}.", site.device_name(device), known.span),
            to_see: seen,
            care: own.and_then(|own| care(site, own)),
            takes_s: laps.saturating_mul(in_use.hi_ms.div_ceil(1_000) + 5),
            fits_in: false,
            rehearsable: false,
        };
        push(all, reader, asked);
        // Readings are the result of this test: nobody has to write one down beside them.
        if let Some(line) = all.last_mut().filter(|line| lacks == 0 && line.state == TestState::Open) {
            line.state = TestState::Passed;
        }
    }
}

fn switches(site: &Site, room: RoomId, runs: &[Run], all: &mut Vec<TestLine>) {
    for run in runs.iter().filter(|run| run.ready_ms.is_some()) {
        push_switch(site, room, run, false, all);
    }
    for run in runs.iter().filter(|run| run.hot_ms.is_some() && run.ready_ms.is_some()) {
        push_switch(site, room, run, true, all);
    }
}

/// What a plan was made from.
fn read_plan(reader: &mut Reader<'_>, run: &Run) {
    let plan = &run.plan;
    for step in &plan.steps {
        reader.code(step.device, step.function);
    }
    for wait in &plan.waits {
        let name = reader.site.device_name(wait.device);
        let key = format!("wait {} {:?} {}", wait.device, wait.effect, wait.from_ms);
        reader.read(key, format!("how long {name} takes"), &(wait.span.lo_ms, wait.span.hi_ms));
    }
    let cables = |hops: &[crate::wiring::Hop]| serde_json::to_value(hops).unwrap_or_default();
    reader.read("video".to_owned(), "the cables of the picture".to_owned(), &cables(&plan.video));
    reader.read("audio".to_owned(), "the cables of the sound".to_owned(), &cables(&plan.audio));
    let steps: Vec<_> = plan.steps.iter().map(|step| (step.device, step.function, step.start_ms)).collect();
    let goals: Vec<_> =
        plan.goals.iter().map(|goal| (goal.device, goal.on, goal.input, goal.position, goal.needed)).collect();
    reader.read("steps".to_owned(), "what is sent when".to_owned(), &(steps, run.ready_ms, run.hot_ms));
    reader.read("goals".to_owned(), "what every device has to be".to_owned(), &goals);
}

fn push_switch(site: &Site, room: RoomId, run: &Run, hot: bool, all: &mut Vec<TestLine>) {
    let mut reader = Reader::new(site);
    read_plan(&mut reader, run);
    let (from, to) = (situation_name(site, run.from), situation_name(site, run.to));
    let ready = if hot { run.hot_ms } else { run.ready_ms }.unwrap_or_default();
    let moving: Vec<String> = run
        .plan
        .goals
        .iter()
        .filter(|goal| site.moves(goal.device) && goal.position.is_some())
        .map(|goal| site.device_name(goal.device))
        .collect();
    let care = (!moving.is_empty()).then(|| format!("{} may move: keep clear.", and(&moving)));
    let to_see = match run.to {
        Situation::Off => format!("Everything is off within {}.", seconds(ready)),
        _ => format!("Picture and sound of {to} within {}.", seconds(ready)),
    };
    let to_do = match (hot, run.from) {
        (true, _) => format!("As soon as {from} is there, start {to}: something still cools or moves."),
        (false, Situation::Off) => format!("With everything off and settled, start {to}."),
        (false, _) => format!("In {from}, once everything has settled, start {to}."),
    };
    push(
        all,
        reader,
        Asked {
            of: TestOf::Switch { room, from: run.from, to: run.to, hot },
            to_do,
            to_see,
            care,
            takes_s: run.settled_ms().div_ceil(1_000) + LOOK_S,
            fits_in: false,
            rehearsable: !hot,
        },
    );
}

fn cues(site: &Site, room: RoomId, all: &mut Vec<TestLine>) {
    let Some(lighting) = site.room(room).map(|room| &room.lighting) else { return };
    for cue in &lighting.cues {
        let mut reader = Reader::new(site);
        reader.read(
            format!("cue {}", cue.id),
            "the line of the cue sheet".to_owned(),
            &(&cue.moment, &cue.provided, &cue.light, &cue.also),
        );
        if let crate::model::Light::Look { look, .. } = &cue.light {
            reader.read(format!("look {look}"), "the look".to_owned(), &lighting.look(*look).map(|look| &look.levels));
        }
        for zone in &lighting.zones {
            reader.read(
                format!("zone {}", zone.id),
                format!("how {} is dimmed", zone.name),
                &(zone.device, zone.curve),
            );
        }
        let provided: Vec<String> = cue.provided.iter().map(|one| cue_words::provided(site, lighting, one)).collect();
        let when = cue_words::moment(site, lighting, &cue.moment);
        let only = if provided.is_empty() { String::new() } else { format!(", provided {}", and(&provided)) };
        let mut see = vec![format!("light {}", cue_words::light(lighting, &cue.light))];
        see.extend(cue.also.iter().map(|also| cue_words::also(site, lighting, also)));
        push(
            all,
            reader,
            Asked {
                of: TestOf::Cue { cue: cue.id },
                to_do: format!("Make it happen: {when}{only}."),
                to_see: format!("{}.", capital(&and(&see))),
                care: None,
                takes_s: 20,
                fits_in: false,
                rehearsable: true,
            },
        );
    }
}

fn keys(site: &Site, room: RoomId, all: &mut Vec<TestLine>) {
    let surfaces = site.room(room).map(|room| room.surfaces.as_slice()).unwrap_or_default();
    for surface in surfaces {
        for (_, key) in surface.keys() {
            let gestures: BTreeSet<Gesture> = key.bindings.iter().map(|binding| binding.gesture).collect();
            for gesture in gestures {
                let mut reader = Reader::new(site);
                let own: Vec<_> = key.bindings.iter().filter(|binding| binding.gesture == gesture).collect();
                reader.read(format!("key {}", key.id), format!("what “{}” does", key.label), &own);
                if let (Some(device), Some(function)) = (surface.device, key.sends) {
                    reader.code(device, function);
                }
                let does: Vec<String> = own
                    .iter()
                    .map(|binding| crate::surface::now::words(site, room, Some(surface), &binding.does))
                    .collect::<BTreeSet<_>>()
                    .into_iter()
                    .collect();
                push(
                    all,
                    reader,
                    Asked {
                        of: TestOf::Key { surface: surface.id, key: key.id, gesture },
                        to_do: format!("On {}, “{}” is {}.", surface.name, key.label, gesture.words()),
                        to_see: format!("{}.", capital(&does.join("; or ")),),
                        care: None,
                        takes_s: 6,
                        fits_in: false,
                        rehearsable: false,
                    },
                );
            }
        }
        if surface.kind.has_labels() {
            let mut reader = Reader::new(site);
            let labels: Vec<_> = surface.keys().map(|(_, key)| (key.id, &key.label)).collect();
            reader.read(format!("labels {}", surface.id), format!("the labels of {}", surface.name), &labels);
            push(
                all,
                reader,
                Asked {
                    of: TestOf::Label { surface: surface.id },
                    to_do: format!("Hold the printed labels against {}.", surface.name),
                    to_see: format!("{} labels, each on its key and legible from the seat.", labels.len()),
                    care: None,
                    takes_s: 30,
                    fits_in: true,
                    rehearsable: false,
                },
            );
        }
    }
}

fn in_step(site: &Site, room: RoomId, all: &mut Vec<TestLine>) {
    for device in site.devices_in(room).filter(|device| device.room == room) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        let lost = site.room(room).map_or(0, |room| room.rehearsal.adoption.lost_polls);
        let Some(noticed) = adopt::noticed_ms(&profile, lost).filter(|_| profile.feedback.tells(Tell::Power)) else {
            continue;
        };
        let mut reader = Reader::new(site);
        reader.behaviour(device.id, "what it tells", |profile| profile.feedback.clone());
        reader.way(device.id);
        reader.read("noticed".to_owned(), "how soon a change is noticed".to_owned(), &noticed);
        push(
            all,
            reader,
            Asked {
                of: TestOf::InStep { room, device: device.id },
                to_do: format!("Press the own power button of {}.", device.name),
                to_see: format!("It is noticed within {}.", seconds(noticed)),
                care: care(site, device),
                takes_s: noticed.div_ceil(1_000) + LOOK_S,
                fits_in: false,
                rehearsable: matches!(profile.feedback, Feedback::Poll { .. } | Feedback::Push { .. }),
            },
        );
    }
}

fn safety(site: &Site, room: RoomId, all: &mut Vec<TestLine>) {
    for device in site.devices_in(room).filter(|device| device.room == room) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        if let Some(motion) = profile.motion {
            let mut reader = Reader::new(site);
            reader.behaviour(device.id, "how it moves", |profile| profile.motion);
            [Some(motion.up), Some(motion.down), motion.stop].into_iter().flatten().for_each(|key| {
                reader.code(device.id, key);
            });
            let to_see = match motion.stop {
                Some(_) => "It stands within 1 s, and stays there.".to_owned(),
                None => "It has no stop key: cut its power, and see that it stands.".to_owned(),
            };
            push(
                all,
                reader,
                Asked {
                    of: TestOf::Stop { device: device.id },
                    to_do: format!("Half way down, press the stop key of {}.", device.name),
                    to_see,
                    care: care(site, device),
                    takes_s: motion.travel_down.hi_ms.div_ceil(1_000) + LOOK_S,
                    fits_in: false,
                    rehearsable: false,
                },
            );
        }
        if let Some(volume) = profile.volume {
            let mut reader = Reader::new(site);
            reader.behaviour(device.id, "how loud it is", |profile| profile.volume);
            let unit = if volume.decibels { " dB" } else { "" };
            push(
                all,
                reader,
                Asked {
                    of: TestOf::Ceiling { device: device.id },
                    to_do: format!(
                        "With something soft playing, hold louder on every surface that reaches {}.",
                        device.name
                    ),
                    to_see: format!("It stops at {}{unit} of {}.", volume.ceiling, volume.range),
                    care: Some("Begin soft; protect ears and loudspeakers.".to_owned()),
                    takes_s: 30,
                    fits_in: false,
                    rehearsable: false,
                },
            );
        }
    }
    let Some(own) = site.room(room) else { return };
    if let Some(exit) = &own.lighting.exit {
        let mut reader = Reader::new(site);
        reader.read(format!("way out {room}"), "the way out".to_owned(), exit);
        let zones: Vec<&str> =
            exit.zones.iter().filter_map(|&zone| own.lighting.zone(zone)).map(|zone| zone.name.as_str()).collect();
        push(
            all,
            reader,
            Asked {
                of: TestOf::WayOut { room },
                to_do: format!("Switch {} off and walk out.", own.name),
                to_see: format!("{} at {} % or more for {} s.", and(&zones), exit.percent, exit.walk_s),
                care: None,
                takes_s: exit.walk_s + LOOK_S,
                fits_in: false,
                rehearsable: false,
            },
        );
    }
    let mains: Vec<_> =
        site.devices_in(room).filter_map(|device| Some((device.id, site.profile_of(device.id)?.after_mains))).collect();
    if !mains.is_empty() && site.activities.iter().any(|activity| activity.room == room) {
        let mut reader = Reader::new(site);
        for &(device, _) in &mains {
            reader.behaviour(device, "what it does when mains come back", |profile| profile.after_mains);
        }
        push(
            all,
            reader,
            Asked {
                of: TestOf::MainsBack { room },
                to_do: "Once everything has cooled, switch the breaker of the room off for a minute and on again.".to_owned(),
                to_see: "Nothing moves, heats or plays by itself, and the room says what it is in.".to_owned(),
                care: Some(
                    "Only a competent person works at the breaker, and only after lamps have cooled; local rules come first."
                        .to_owned(),
                ),
                takes_s: 180,
                fits_in: false,
                rehearsable: false,
            },
        );
    }
}

fn phrases(site: &Site, room: RoomId, all: &mut Vec<TestLine>) {
    // Where nobody speaks to a room, nobody has to try it.
    if site.room(room).is_none_or(|room| room.voice.names.is_empty() && room.voice.synced.is_none()) {
        return;
    }
    for phrase in crate::surface::voice::phrases(site, room) {
        let mut reader = Reader::new(site);
        reader.read(format!("phrase {}", phrase.say), format!("what “{}” does", phrase.say), &phrase.does);
        let asked = Asked {
            of: TestOf::Phrase { room, phrase: phrase.say.clone() },
            to_do: format!("Say “{}” as the family would, from the seat, with sound playing.", phrase.say),
            to_see: phrase.does.clone(),
            care: None,
            takes_s: 10,
            fits_in: false,
            rehearsable: false,
        };
        push(all, reader, asked);
    }
}

/// Does a line still need a visit?
#[must_use]
pub fn is_left(line: &TestLine) -> bool {
    !matches!(line.state, TestState::Passed | TestState::NotPossible)
}
