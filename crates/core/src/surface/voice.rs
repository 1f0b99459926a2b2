//! Names that people say: for activities, devices, channels and looks.
//!
//! Two names collide where one is contained in the other, where they sound alike, or where one is also the name of a
//! room, a channel or a service (*common practice*). Likeness in sound is judged by double metaphone, word by word.
//! After a change the voice service must be synchronised again.

use crate::finding::Finding;
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::model::{Called, FindingKind, Likeness, Room, Site, Talk, Voice};
use rphonetic::DoubleMetaphone;
use serde::Serialize;
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// Something with its names.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Named {
    /// What.
    pub of: Called,
    /// Its own name.
    pub own: String,
    /// What people say for it.
    pub names: Vec<String>,
}

/// A sentence that people can say.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Phrase {
    /// The sentence.
    pub say: String,
    /// What happens then.
    pub does: String,
    /// The command of a scene that was made for a device which a voice service cannot list.
    pub scene: Option<SceneCommand>,
    /// Is it new since the voice service was told?
    pub fresh: bool,
}

/// What a scene sends.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct SceneCommand {
    /// To which device.
    pub device: DeviceId,
    /// Which function.
    pub function: FunctionId,
}

/// Two names that collide.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Collision {
    /// A name of this room.
    pub name: String,
    /// What it belongs to.
    pub of: Called,
    /// What it collides with, in words.
    pub with: String,
    /// Why.
    pub why: Likeness,
    /// Another name, which collides with nothing; none where none was found.
    pub instead: Option<String>,
}

/// The voice of a room, worked out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct VoiceSheet {
    /// Everything that has names.
    pub named: Vec<Named>,
    /// What can be said.
    pub phrases: Vec<Phrase>,
    /// What the voice service still knows and is gone.
    pub gone: Vec<String>,
    /// Names that collide.
    pub collisions: Vec<Collision>,
}

/// Everything in a room that can be named, with what people say for it.
#[must_use]
pub fn named(site: &Site, room: RoomId) -> Vec<Named> {
    let Some(own) = site.room(room) else { return vec![] };
    let mut all: Vec<(Called, String)> = Vec::new();
    let activities = site.activities.iter().filter(|activity| activity.room == room);
    all.extend(activities.clone().map(|known| (Called::Activity { activity: known.id }, known.name.clone())));
    for device in site.devices_in(room) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        if profile.power_keys().is_some() || profile.motion.is_some() {
            all.push((Called::Device { device: device.id }, device.name.clone()));
        }
        if activities.clone().any(|activity| activity.source == device.id) {
            let channels = profile.apps.iter();
            all.extend(
                channels.map(|app| (Called::Channel { device: device.id, name: app.name.clone() }, app.name.clone())),
            );
        }
    }
    all.extend(own.lighting.looks.iter().map(|look| (Called::Look { look: look.id }, look.name.clone())));
    let names = |of: &Called, name: &str| {
        let spoken = own.voice.names.iter().find(|spoken| spoken.of == *of && !spoken.names.is_empty());
        spoken.map_or_else(|| vec![name.to_owned()], |spoken| spoken.names.clone())
    };
    all.into_iter().map(|(of, own)| Named { names: names(&of, &own), of, own }).collect()
}

/// What can be said in a room.
#[must_use]
pub fn phrases(site: &Site, room: RoomId) -> Vec<Phrase> {
    let Some(own) = site.room(room) else { return vec![] };
    let known: BTreeSet<&str> =
        own.voice.synced.iter().flat_map(|synced| &synced.phrases).map(String::as_str).collect();
    let mut phrases = Vec::new();
    let mut say = |say: String, does: String, scene: Option<SceneCommand>| {
        let fresh = !known.contains(say.as_str());
        phrases.push(Phrase { say, does, scene, fresh });
    };
    for thing in named(site, room) {
        for name in &thing.names {
            match &thing.of {
                Called::Activity { .. } => say(format!("Start {name}"), format!("{} begins.", thing.own), None),
                Called::Channel { device, .. } => {
                    say(format!("Watch {name}"), format!("{} on {}.", thing.own, site.device_name(*device)), None);
                }
                Called::Look { .. } => say(format!("Set {name}"), format!("The light goes to {}.", thing.own), None),
                Called::Device { device } => scenes(site, *device, name, &mut say),
            }
        }
    }
    say(format!("Turn off {}", own.name), "Everything in the room goes off.".to_owned(), None);
    phrases
}

/// A device that a voice service can list needs no scene; for the others a pair is made, on and off, up and down.
fn scenes(site: &Site, device: DeviceId, name: &str, say: &mut impl FnMut(String, String, Option<SceneCommand>)) {
    let Some(profile) = site.profile_of(device) else { return };
    let own = site.device_name(device);
    if site.talk_of(device) != Talk::Lines && site.device(device).is_some_and(|known| !known.network.ip.is_empty()) {
        say(format!("Turn on {name}"), format!("{own}, as the voice service lists it."), None);
        say(format!("Turn off {name}"), format!("{own}, as the voice service lists it."), None);
        return;
    }
    let mut pair = |function: FunctionId, say_it: String| {
        let does = format!("Scene: {own} “{}”.", site.function_name(device, function));
        say(say_it, does, Some(SceneCommand { device, function }));
    };
    if let Some((on, off)) = profile.power_keys().filter(|(on, off)| on != off) {
        pair(on, format!("Turn on {name}"));
        pair(off, format!("Turn off {name}"));
    }
    if let Some(motion) = profile.motion {
        pair(motion.down, format!("Lower {name}"));
        pair(motion.up, format!("Raise {name}"));
    }
}

fn words(text: &str) -> Vec<String> {
    text.to_lowercase()
        .split(|c: char| !c.is_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(str::to_owned)
        .collect()
}

/// Does a name sound like another, word by word? Each word has a likely and a less likely sound.
fn sounds_like(a: &[String], b: &[String]) -> bool {
    let code = DoubleMetaphone::default();
    let figure = |word: &String| word.chars().all(|c| c.is_ascii_digit());
    a.len() == b.len()
        && a.iter().zip(b).all(|(a, b)| {
            if figure(a) || figure(b) {
                return a == b;
            }
            let (a, b) = (code.double_metaphone(a), code.double_metaphone(b));
            let heard = [b.primary(), b.alternate()];
            [a.primary(), a.alternate()].into_iter().any(|sound| !sound.is_empty() && heard.contains(&sound))
        })
}

fn inside(part: &[String], whole: &[String]) -> bool {
    !part.is_empty() && whole.len() > part.len() && whole.windows(part.len()).any(|window| sounds_like(window, part))
}

/// Why two names are heard as one; none where they are not.
#[must_use]
pub fn collide(a: &str, b: &str) -> Option<Likeness> {
    let (x, y) = (words(a), words(b));
    if x == y {
        Some(Likeness::Same)
    } else if inside(&x, &y) || inside(&y, &x) {
        Some(Likeness::Contained)
    } else if !x.is_empty() && sounds_like(&x, &y) {
        Some(Likeness::SoundsAlike)
    } else {
        None
    }
}

/// Every name of the house that one could be taken for, beside those of one thing.
fn others(site: &Site, room: RoomId, of: &Called) -> Vec<(String, String)> {
    let mut all = Vec::new();
    for known in &site.rooms {
        all.push((known.name.clone(), format!("the room {}", known.name)));
        for thing in named(site, known.id) {
            if thing.of == *of || (known.id != room && same_channel(&thing.of, of)) {
                continue;
            }
            let kind = match thing.of {
                Called::Activity { .. } => "the activity",
                Called::Device { .. } => "the device",
                Called::Channel { .. } => "the channel or service",
                Called::Look { .. } => "the look",
            };
            let place = if known.id == room { String::new() } else { format!(" in {}", known.name) };
            all.extend(thing.names.iter().map(|name| (name.clone(), format!("{kind} {name}{place}"))));
        }
    }
    all
}

/// One channel in two rooms may be called the same: a voice service asks which room, or knows.
fn same_channel(a: &Called, b: &Called) -> bool {
    matches!((a, b), (Called::Channel { name: a, .. }, Called::Channel { name: b, .. }) if a == b)
}

/// Names of a room that collide with another one of the house.
#[must_use]
pub fn collisions(site: &Site, room: RoomId) -> Vec<Collision> {
    let Some(own) = site.room(room) else { return vec![] };
    let mut found = Vec::new();
    for thing in named(site, room) {
        let others = others(site, room, &thing.of);
        for name in &thing.names {
            let Some((with, why)) =
                others.iter().find_map(|(other, words)| Some((words.clone(), collide(name, other)?)))
            else {
                continue;
            };
            found.push(Collision {
                name: name.clone(),
                of: thing.of.clone(),
                with,
                why,
                instead: instead(own, name, &others),
            });
        }
    }
    found
}

/// Other words for what people name (*common practice*: short, and nothing else in the house).
const OTHERWISE: [(&str, &[&str]); 8] = [
    ("screen", &["picture", "canvas"]),
    ("display", &["picture", "telly"]),
    ("film", &["cinema", "movie night"]),
    ("cartoons", &["kids", "story time"]),
    ("music", &["tunes", "songs"]),
    ("games", &["play time", "console"]),
    ("television", &["telly", "programmes"]),
    ("night", &["sleep", "bedtime"]),
];

/// Another name, that nothing is taken for. A longer one that contains the old one would still collide, so another
/// word is tried first, then the place with a number.
fn instead(room: &Room, name: &str, others: &[(String, String)]) -> Option<String> {
    let place = room.name.split_whitespace().next().unwrap_or(&room.name);
    let said = words(name);
    let words =
        OTHERWISE.iter().filter(|(word, _)| said.iter().any(|known| known == word)).flat_map(|(_, other)| *other);
    let tries = [format!("{place} {name}"), format!("our {name}")]
        .into_iter()
        .chain(words.clone().map(|word| format!("{place} {word}")))
        .chain(words.map(|word| (*word).to_owned()))
        .chain(["one", "two", "three", "four"].map(|number| format!("{place} {number}")));
    let mut tries = tries;
    tries.find(|fresh| others.iter().all(|(other, _)| collide(fresh, other).is_none()))
}

/// The voice of a room, worked out.
#[must_use]
pub fn sheet(site: &Site, room: RoomId) -> VoiceSheet {
    let phrases = phrases(site, room);
    let gone = site.room(room).and_then(|room| room.voice.synced.as_ref()).map(|synced| {
        let stands = |phrase: &&String| !phrases.iter().any(|known| known.say == **phrase);
        synced.phrases.iter().filter(stands).cloned().collect()
    });
    VoiceSheet { named: named(site, room), gone: gone.unwrap_or_default(), collisions: collisions(site, room), phrases }
}

/// What the margin says of names. Only where somebody has begun to use voice.
#[must_use]
pub fn findings(site: &Site, room: RoomId) -> Vec<Finding> {
    let Some(own) = site.room(room).filter(|room| room.voice != Voice::default()) else { return vec![] };
    let mut findings: Vec<Finding> = collisions(site, room)
        .into_iter()
        .map(|Collision { name, with, why, instead, .. }| {
            Finding::of(site, FindingKind::NamesCollide { room, name, with, why, instead })
        })
        .collect();
    if own.voice.synced.is_some() {
        let sheet = sheet(site, room);
        let fresh = sheet.phrases.iter().filter(|phrase| phrase.fresh).count();
        if fresh + sheet.gone.len() > 0 {
            findings.push(Finding::of(site, FindingKind::NotSynced { room, fresh, gone: sheet.gone.len() }));
        }
    }
    findings
}
