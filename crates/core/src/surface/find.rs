//! What is wrong with a surface: keys that do nothing, two meanings on one gesture, nothing to stop what moves, keys
//! that are too small or too faint, labels that say something else than what happens.

use super::cover::{self, Cover, sent};
use crate::finding::Finding;
use crate::id::{ActivityId, DeviceId, FunctionId, RoomId};
use crate::model::{
    Does, FindingKind, Gesture, Held, MissingFunctions, Moment, Profile, Site, Surface, SurfaceKey, SurfaceKind,
    SurfacePage,
};
use crate::surface::{contrast, engrave, guest};
use std::collections::{BTreeMap, BTreeSet};

/// The least size of a key, in mm (*common practice*: a fingertip).
pub const LEAST_MM: f64 = 9.0;

/// What the margin says of the surfaces of a room, and of the names that people say there.
#[must_use]
pub fn findings(site: &Site, room: RoomId) -> Vec<Finding> {
    let own = site.room(room).map(|room| room.surfaces.as_slice()).unwrap_or_default();
    let mut findings: Vec<Finding> = own.iter().flat_map(|surface| of(site, room, surface)).collect();
    findings.extend(stored(site, room));
    findings.extend(super::voice::findings(site, room));
    findings
}

/// Looks that the household has stored and nobody has reviewed.
fn stored(site: &Site, room: RoomId) -> Vec<Finding> {
    let looks = site.room(room).map(|room| room.lighting.looks.as_slice()).unwrap_or_default();
    let told = looks.iter().filter_map(|look| Some((look, look.stored.as_ref()?)));
    told.map(|(look, stored)| {
        let (look, by) = (look.name.clone(), stored.by.clone());
        Finding::of(site, FindingKind::LookToReview { look, by })
    })
    .collect()
}

/// What is wrong with one surface.
#[must_use]
pub fn of(site: &Site, room: RoomId, surface: &Surface) -> Vec<Finding> {
    let mut findings = Vec::new();
    for (page, key) in surface.keys() {
        findings.extend(nothing(site, room, surface, page, key));
        findings.extend(two_meanings(site, room, surface, key));
        findings.extend(slow_tap(site, surface, key));
        findings.extend(too_small(site, surface, key));
        findings.extend(too_faint(site, surface, key));
        findings.extend(contradicts(site, surface, key));
    }
    findings.extend(surface.labelled().filter_map(|key| no_room(site, surface, key)));
    findings.extend(surface.pages.iter().flat_map(|page| no_stop(site, room, surface, page)));
    findings.extend(unreachable(site, room, surface));
    findings.extend(strangers(site, room, surface));
    findings.extend(missing(site, room, surface));
    findings.extend(dead_hard_keys(site, surface));
    findings
}

fn activity_name(site: &Site, id: ActivityId) -> String {
    site.activity(id).map_or_else(|| "an activity that is gone".to_owned(), |activity| activity.name.clone())
}

/// A key that does nothing, at all or in an activity in which others do.
fn nothing(site: &Site, room: RoomId, surface: &Surface, page: &SurfacePage, key: &SurfaceKey) -> Option<Finding> {
    if key.bindings.is_empty() {
        return Some(Finding::of(site, FindingKind::KeyDoesNothing { surface: surface.id, key: key.id }));
    }
    let own = site.activities.iter().filter(|activity| activity.room == room);
    let idle: Vec<ActivityId> = own
        .filter(|activity| page.activity.is_none_or(|id| id == activity.id))
        .filter(|activity| Gesture::ALL.into_iter().all(|gesture| key.binding(gesture, Some(activity.id)).is_none()))
        .map(|activity| activity.id)
        .collect();
    if idle.is_empty() {
        return None;
    }
    let kind = FindingKind::Idle { surface: surface.id, key: key.id, activities: idle };
    Some(Finding::of(site, kind))
}

/// Two bindings that one gesture could mean, and cues that listen to the same key.
fn two_meanings(site: &Site, room: RoomId, surface: &Surface, key: &SurfaceKey) -> Option<Finding> {
    let mut seen = BTreeSet::new();
    let twice = key.bindings.iter().find(|binding| !seen.insert((binding.gesture, binding.in_activity)));
    if let Some(binding) = twice {
        let kind = FindingKind::TwoMeanings { surface: surface.id, key: key.id, gesture: binding.gesture };
        return Some(Finding::of(site, kind));
    }
    let held_tap = key.bindings.iter().any(|binding| binding.gesture == Gesture::Tap && binding.held != Held::Once);
    let hold = key.bindings.iter().any(|binding| binding.gesture == Gesture::Hold);
    if held_tap && hold {
        return Some(Finding::of(site, FindingKind::HeldTwice { surface: surface.id, key: key.id }));
    }
    let (device, function) = (surface.device?, key.sends?);
    let cues = site.room(room).map(|room| room.lighting.cues.as_slice()).unwrap_or_default();
    let listens = cues.iter().filter(|cue| !cue.off).find_map(|cue| match cue.moment {
        Moment::Press { device: d, function: f, gesture } if (d, f) == (device, function) => {
            key.bindings.iter().any(|binding| binding.gesture == gesture).then_some(gesture)
        }
        _ => None,
    })?;
    let kind = FindingKind::CueToo { surface: surface.id, key: key.id, gesture: listens };
    Some(Finding::of(site, kind))
}

/// A double tap makes every tap wait for the second one.
fn slow_tap(site: &Site, surface: &Surface, key: &SurfaceKey) -> Option<Finding> {
    let double = key.bindings.iter().any(|binding| binding.gesture == Gesture::DoubleTap);
    let repeated = key.bindings.iter().any(|binding| {
        binding.gesture == Gesture::Tap
            && (binding.held == Held::Repeats || matches!(binding.does, Does::Volume { .. }))
    });
    if !double || !repeated {
        return None;
    }
    Some(Finding::of(site, FindingKind::SlowTap { surface: surface.id, key: key.id }))
}

fn too_small(site: &Site, surface: &Surface, key: &SurfaceKey) -> Option<Finding> {
    let (wide, high) = surface.key_mm(key);
    if wide >= LEAST_MM && high >= LEAST_MM {
        return None;
    }
    let kind = FindingKind::SmallKey {
        surface: surface.id,
        key: key.id,
        wide_tenths: tenths(wide),
        high_tenths: tenths(high),
        least_tenths: tenths(LEAST_MM),
    };
    Some(Finding::of(site, kind))
}

fn too_faint(site: &Site, surface: &Surface, key: &SurfaceKey) -> Option<Finding> {
    let tint = key.tint.as_ref()?;
    let ratio = contrast::contrast(contrast::parse(&tint.ink)?, contrast::parse(&tint.ground)?);
    if ratio >= contrast::LEAST {
        return None;
    }
    let (contrast_tenths, least_tenths) = (tenths(ratio), tenths(contrast::LEAST));
    let kind = FindingKind::FaintLabel { surface: surface.id, key: key.id, contrast_tenths, least_tenths };
    Some(Finding::of(site, kind))
}

/// A measure in tenths.
fn tenths(value: f64) -> u32 {
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a measure of a key, clamped")]
    let tenths = (value * 10.0).round().clamp(0.0, 100_000.0) as u32;
    tenths
}

/// A label that cannot be cut or printed as it is.
fn no_room(site: &Site, surface: &Surface, key: &SurfaceKey) -> Option<Finding> {
    if !surface.kind.has_labels() || key.label.is_empty() || key.sends.is_some() && surface.kind != SurfaceKind::Keypad
    {
        return None;
    }
    let fit = engrave::fit(surface, key);
    if fit.fits {
        return None;
    }
    let (letters, lines) = (fit.letters, fit.lines);
    Some(Finding::of(site, FindingKind::LabelTooLong { surface: surface.id, key: key.id, letters, lines }))
}

/// What the code of a function really does: that of the function which answers to it.
fn really(site: &Site, profile: &Profile, device: DeviceId, function: FunctionId) -> FunctionId {
    let Some(code) = site.code(device, function) else { return function };
    let own = profile.function(function).and_then(|known| known.answers_to.as_ref());
    if own == Some(&code.body) {
        return function;
    }
    let other = profile.functions.iter().find(|known| known.answers_to.as_ref() == Some(&code.body));
    other.map_or(function, |known| known.id)
}

/// A label that says one thing where the key provably does another.
fn contradicts(site: &Site, surface: &Surface, key: &SurfaceKey) -> Option<Finding> {
    let label = key.label.to_lowercase();
    let says = |word: &str| label.split(|c: char| !c.is_alphanumeric()).any(|part| part == word);
    let tell = |does: String| {
        Some(Finding::of(site, FindingKind::LabelSaysOtherwise { surface: surface.id, key: key.id, does }))
    };
    for binding in key.bindings.iter().filter(|binding| binding.gesture == Gesture::Tap) {
        match &binding.does {
            Does::Activity { activity } if says("off") => {
                return tell(format!("starts {}", activity_name(site, *activity)));
            }
            Does::RoomOff if says("on") => return tell("finishes the room".to_owned()),
            Does::Volume { steps, .. } => {
                let up = says("louder") || label.contains('+');
                let down = says("softer") || label.contains('−');
                if (up && *steps < 0) || (down && *steps > 0) {
                    return tell(if *steps > 0 { "makes it louder" } else { "makes it softer" }.to_owned());
                }
            }
            Does::Switch { on: Some(to), .. } if (says("off") && *to) || (says("on") && !*to) => {
                return tell(format!("switches {}", if *to { "on" } else { "off" }));
            }
            Does::Command { device, function, .. } => {
                let Some(automaton) = site.automaton(*device) else { continue };
                let profile = automaton.profile();
                let sends = really(site, profile, *device, *function);
                if let Some(motion) = profile.motion {
                    let (up, down) = (sends == motion.up, sends == motion.down);
                    if (says("up") && down) || (says("down") && up) || (says("stop") && (up || down)) {
                        return tell(format!("moves {} {}", site.device_name(*device), if up { "up" } else { "down" }));
                    }
                    continue;
                }
                let lands = |from: bool| {
                    automaton
                        .states()
                        .into_iter()
                        .filter(|state| state.on == from)
                        .any(|state| automaton.press(state, sends).0.on != from)
                };
                if !automaton.is_power_key(sends) {
                    continue;
                }
                if says("off") && lands(false) {
                    return tell(format!("switches {} on when it is off", site.device_name(*device)));
                }
                if says("on") && !says("off") && lands(true) {
                    return tell(format!("switches {} off when it is on", site.device_name(*device)));
                }
            }
            _ => {}
        }
    }
    None
}

/// What moves from a page must be stopped from it.
fn no_stop(site: &Site, room: RoomId, surface: &Surface, page: &SurfacePage) -> Vec<Finding> {
    let sends: Vec<(DeviceId, FunctionId)> = page
        .keys
        .iter()
        .flat_map(|key| &key.bindings)
        .flat_map(|binding| sent(site, room, &binding.does, binding.in_activity.or(page.activity)))
        .collect();
    let stops_all = page.keys.iter().flat_map(|key| &key.bindings).any(|binding| binding.does == Does::StopAll);
    let mut seen = BTreeSet::new();
    let mut findings = Vec::new();
    for (device, _) in &sends {
        let Some(motion) = site.profile_of(*device).and_then(|profile| profile.motion) else { continue };
        let moves = sends.contains(&(*device, motion.up)) || sends.contains(&(*device, motion.down));
        let stops = match motion.stop {
            Some(stop) => stops_all || sends.contains(&(*device, stop)),
            None => false,
        };
        if !moves || stops || !seen.insert(*device) {
            continue;
        }
        let (page, known) = (page.name.clone(), motion.stop.is_some());
        findings.push(Finding::of(site, FindingKind::NoStop { surface: surface.id, page, device: *device, known }));
    }
    findings
}

fn unreachable(site: &Site, room: RoomId, surface: &Surface) -> Vec<Finding> {
    let few = matches!(surface.kind, SurfaceKind::Keypad | SurfaceKind::KeyFob | SurfaceKind::Controller);
    cover::unreachable(site, room, surface)
        .into_iter()
        .filter(|_| !few)
        .map(|activity| Finding::of(site, FindingKind::ActivityWithoutKey { surface: surface.id, activity }))
        .collect()
}

/// What a guest would have to ask about.
fn strangers(site: &Site, room: RoomId, surface: &Surface) -> Vec<Finding> {
    let mut told = BTreeSet::new();
    let mut findings = Vec::new();
    for way in guest::test(site, room, surface).into_iter().filter(|way| !way.presses.is_empty()) {
        let (surface, activity) = (surface.id, way.activity);
        for press in way.presses {
            if let Some(why) = press.unclear.filter(|_| told.insert(press.key)) {
                let (key, label) = (press.key, press.label);
                findings.push(Finding::of(site, FindingKind::GuestAsks { surface, activity, key, label, why }));
            }
        }
        if let Some(missing) = way.missing {
            findings.push(Finding::of(site, FindingKind::GuestStuck { surface, activity, missing }));
        }
    }
    findings
}

/// What the old remotes could and this one cannot; only where it stands for them.
fn missing(site: &Site, room: RoomId, surface: &Surface) -> Option<Finding> {
    if !surface.kind.is_glass() && !matches!(surface.kind, SurfaceKind::HandRemote | SurfaceKind::DisplayRemote) {
        return None;
    }
    let mut by_device: BTreeMap<DeviceId, Vec<String>> = BTreeMap::new();
    for covered in cover::cover(site, room, surface) {
        if covered.cover == Cover::Missing {
            by_device.entry(covered.device).or_default().push(covered.name);
        }
    }
    if by_device.is_empty() {
        return None;
    }
    let missing = by_device.into_iter().map(|(device, functions)| MissingFunctions { device, functions }).collect();
    Some(Finding::of(site, FindingKind::LessThanBefore { surface: surface.id, missing }))
}

/// Hard keys that stand for nothing.
fn dead_hard_keys(site: &Site, surface: &Surface) -> Option<Finding> {
    let profile = site.profile_of(surface.device?)?;
    let keys: Vec<String> = profile
        .functions
        .iter()
        .filter(|function| surface.hard_key(function.id).is_none())
        .map(|function| function.name.clone())
        .collect();
    if keys.is_empty() {
        return None;
    }
    Some(Finding::of(site, FindingKind::DeadKeys { surface: surface.id, keys }))
}
