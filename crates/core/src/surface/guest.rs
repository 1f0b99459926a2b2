//! The guest test: from a cold room to a picture, by a person who sees only labels.
//!
//! The rules of what a guest does not understand are our own (*common practice*: no abbreviations, no socket names, no
//! makers; a label says what one gets).

use crate::id::{ActivityId, KeyId, RoomId};
use crate::model::{Activity, DeviceKind, Does, Gesture, Site, Surface, SurfaceKey, SurfacePage};
use serde::Serialize;
use std::collections::{BTreeSet, VecDeque};
use utoipa::ToSchema;

/// A press of a guest.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct GuestPress {
    /// Which key.
    pub key: KeyId,
    /// What is written on it.
    pub label: String,
    /// Why that needs explaining; none where it speaks for itself.
    pub unclear: Option<String>,
}

/// The way to one activity.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct GuestWay {
    /// Which activity.
    pub activity: ActivityId,
    /// The presses, in order; empty where there is no way.
    pub presses: Vec<GuestPress>,
    /// What is missing; none where it leads to picture or sound.
    pub missing: Option<String>,
}

/// The shortest way to each activity of a room, for somebody who starts at the first page with everything off.
#[must_use]
pub fn test(site: &Site, room: RoomId, surface: &Surface) -> Vec<GuestWay> {
    let own = site.activities.iter().filter(|activity| activity.room == room);
    own.map(|activity| way(site, surface, activity)).collect()
}

fn tap_of(key: &SurfaceKey) -> Option<&Does> {
    key.binding(Gesture::Tap, None).map(|binding| &binding.does)
}

fn way(site: &Site, surface: &Surface, activity: &Activity) -> GuestWay {
    let missing = |why: String| GuestWay { activity: activity.id, presses: vec![], missing: Some(why) };
    let Some(mut presses) = to_activity(site, surface, activity) else {
        return missing(format!("No key starts {}.", activity.name));
    };
    // A source that waits for somebody to press play: there has to be a key for that.
    let kind = site.profile_of(activity.source).map(|profile| profile.kind);
    let waits =
        kind == Some(DeviceKind::DiscPlayer) || (kind == Some(DeviceKind::Streamer) && activity.extras.app.is_none());
    let mut lacks = None;
    if waits {
        let own = |page: &&SurfacePage| page.activity == Some(activity.id);
        let any = |page: &&SurfacePage| page.activity.is_none();
        let pages: Vec<&SurfacePage> = match surface.pages.iter().find(own) {
            Some(page) => vec![page],
            None => surface.pages.iter().filter(any).collect(),
        };
        let plays = |key: &SurfaceKey, name: &str| {
            key.binding(Gesture::Tap, Some(activity.id)).is_some_and(|binding| match binding.does {
                Does::Command { device, function, .. } => {
                    device == activity.source && site.function_name(device, function) == name
                }
                _ => false,
            })
        };
        let found = ["Play", "Play/pause", "OK"].iter().find_map(|name| {
            pages.iter().find_map(|page| page.keys.iter().find(|key| plays(key, name)).map(|key| (*page, key)))
        });
        match found {
            Some((page, key)) => presses.push(pressed(site, page, key, None)),
            None => {
                lacks = Some(format!("{} waits to be played, and no key does that.", site.device_name(activity.source)))
            }
        }
    }
    GuestWay { activity: activity.id, presses, missing: lacks }
}

/// Page by page to the key that starts it.
fn to_activity(site: &Site, surface: &Surface, activity: &Activity) -> Option<Vec<GuestPress>> {
    let first = surface.pages.first()?;
    let mut seen = BTreeSet::from([first.id]);
    let mut next = VecDeque::from([(first, Vec::new())]);
    while let Some((page, so_far)) = next.pop_front() {
        for key in &page.keys {
            match tap_of(key) {
                Some(Does::Activity { activity: to }) if *to == activity.id => {
                    let mut presses = so_far;
                    presses.push(pressed(site, page, key, Some(activity)));
                    return Some(presses);
                }
                Some(Does::Page { page: to }) if seen.insert(*to) => {
                    if let Some(to) = surface.pages.iter().find(|page| page.id == *to) {
                        let mut presses = so_far.clone();
                        presses.push(pressed(site, page, key, None));
                        next.push_back((to, presses));
                    }
                }
                _ => {}
            }
        }
    }
    None
}

fn pressed(site: &Site, page: &SurfacePage, key: &SurfaceKey, starts: Option<&Activity>) -> GuestPress {
    GuestPress { key: key.id, label: key.label.clone(), unclear: unclear(site, page, key, starts) }
}

fn words(text: &str) -> Vec<String> {
    text.to_lowercase()
        .split(|c: char| !c.is_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(str::to_owned)
        .collect()
}

/// Capitals that everybody knows.
const KNOWN: [&str; 4] = ["OK", "TV", "CD", "DVD"];

/// Why a label needs explaining.
#[must_use]
pub fn unclear(site: &Site, page: &SurfacePage, key: &SurfaceKey, starts: Option<&Activity>) -> Option<String> {
    let label = key.label.trim();
    if label.is_empty() {
        return key.picture.is_none().then(|| "Nothing is written on it.".to_owned());
    }
    if page.keys.iter().any(|other| other.id != key.id && other.label.trim().eq_ignore_ascii_case(label)) {
        return Some(format!("Two keys here are called “{label}”."));
    }
    let said = words(label);
    if let Some(socket) =
        ["hdmi", "av", "aux", "input", "optical", "scart"].iter().find(|s| said.iter().any(|w| w == *s))
    {
        return Some(format!("“{socket}” names a socket, not what one gets."));
    }
    let makers =
        site.profiles.iter().flat_map(|profile| [&profile.maker, &profile.model]).filter(|name| name.len() > 1);
    if let Some(maker) = makers.into_iter().find(|name| said == words(name) || said.contains(&name.to_lowercase())) {
        return Some(format!("“{maker}” is a maker or a model, not what one gets."));
    }
    let short = |part: &&str| {
        let letters = part.chars().filter(|c| c.is_alphabetic()).count();
        (2..=4).contains(&letters)
            && part.chars().all(|c| c.is_uppercase() || c.is_ascii_digit())
            && !KNOWN.contains(part)
    };
    if let Some(part) = label.split(|c: char| !c.is_alphanumeric()).find(short) {
        return Some(format!("“{part}” is an abbreviation."));
    }
    if let Some(activity) = starts {
        let name = words(&activity.name);
        if !said.iter().any(|word| name.contains(word)) {
            return Some(format!("It starts {} and does not say so.", activity.name));
        }
    }
    None
}
