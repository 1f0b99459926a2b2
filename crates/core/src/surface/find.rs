//! What is wrong with a surface: keys that do nothing, two meanings on one gesture, nothing to stop what moves, keys
//! that are too small or too faint, labels that say something else than what happens.

use super::cover::{self, Cover, sent};
use crate::finding::{Finding, Place, Stage, Weight};
use crate::id::{ActivityId, DeviceId, FunctionId, RoomId};
use crate::model::{Does, Gesture, Held, Key, Kind, Moment, Page, Profile, Site, Surface};
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
        let text = format!(
            "{} stored other levels in {}. Keep them or put the old ones back before anything is engraved.",
            stored.by, look.name
        );
        Finding::new(Weight::Remark, "Look to review", text, Place::on(Stage::Cues))
    })
    .collect()
}

fn at(surface: &Surface) -> Place {
    Place::on(Stage::Surfaces).surface(surface.id)
}

fn on(surface: &Surface, key: &Key) -> Place {
    at(surface).key(key.id)
}

fn called(key: &Key) -> String {
    if key.label.is_empty() { "A key without a label".to_owned() } else { format!("“{}”", key.label) }
}

/// What is wrong with one surface.
#[must_use]
pub fn of(site: &Site, room: RoomId, surface: &Surface) -> Vec<Finding> {
    let mut findings = Vec::new();
    for (page, key) in surface.keys() {
        findings.extend(nothing(site, room, surface, page, key));
        findings.extend(two_meanings(site, room, surface, key));
        findings.extend(slow_tap(surface, key));
        findings.extend(too_small(surface, key));
        findings.extend(too_faint(surface, key));
        findings.extend(contradicts(site, surface, key));
    }
    findings.extend(surface.labelled().filter_map(|key| no_room(surface, key)));
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
fn nothing(site: &Site, room: RoomId, surface: &Surface, page: &Page, key: &Key) -> Option<Finding> {
    if key.bindings.is_empty() {
        let text =
            format!("{} on {} does nothing. Give it something to do, or take it away.", called(key), surface.name);
        return Some(Finding::new(Weight::Caution, "Key does nothing", text, on(surface, key)));
    }
    let own = site.activities.iter().filter(|activity| activity.room == room);
    let idle: Vec<String> = own
        .filter(|activity| page.activity.is_none_or(|id| id == activity.id))
        .filter(|activity| Gesture::ALL.into_iter().all(|gesture| key.binding(gesture, Some(activity.id)).is_none()))
        .map(|activity| activity.name.clone())
        .collect();
    if idle.is_empty() {
        return None;
    }
    let text = format!("{} on {} does nothing in {}.", called(key), surface.name, idle.join(", "));
    Some(Finding::new(Weight::Remark, "Idle in an activity", text, on(surface, key)))
}

/// Two bindings that one gesture could mean, and cues that listen to the same key.
fn two_meanings(site: &Site, room: RoomId, surface: &Surface, key: &Key) -> Option<Finding> {
    let mut seen = BTreeSet::new();
    let twice = key.bindings.iter().find(|binding| !seen.insert((binding.gesture, binding.in_activity)));
    if let Some(binding) = twice {
        let text = format!(
            "{} on {} means two things when it is {}. Take one of them away, or give it another gesture.",
            called(key),
            surface.name,
            binding.gesture.words()
        );
        return Some(Finding::new(Weight::Caution, "Two meanings", text, on(surface, key)));
    }
    let held_tap = key.bindings.iter().any(|binding| binding.gesture == Gesture::Tap && binding.held != Held::Once);
    let hold = key.bindings.iter().any(|binding| binding.gesture == Gesture::Hold);
    if held_tap && hold {
        let text = format!(
            "{} on {} goes on while it is held, and has a meaning of its own for a hold: both happen. Choose one.",
            called(key),
            surface.name
        );
        return Some(Finding::new(Weight::Caution, "Two meanings", text, on(surface, key)));
    }
    let (device, function) = (surface.device?, key.sends?);
    let cues = site.room(room).map(|room| room.lighting.cues.as_slice()).unwrap_or_default();
    let listens = cues.iter().filter(|cue| !cue.off).find_map(|cue| match cue.moment {
        Moment::Press { device: d, function: f, gesture } if (d, f) == (device, function) => {
            key.bindings.iter().any(|binding| binding.gesture == gesture).then_some(gesture)
        }
        _ => None,
    })?;
    let text = format!(
        "{} on {} has a cue of its own for being {}, and does something here too: both happen.",
        called(key),
        surface.name,
        listens.words()
    );
    Some(Finding::new(Weight::Caution, "Two meanings", text, on(surface, key)))
}

/// A double tap makes every tap wait for the second one.
fn slow_tap(surface: &Surface, key: &Key) -> Option<Finding> {
    let double = key.bindings.iter().any(|binding| binding.gesture == Gesture::DoubleTap);
    let repeated = key.bindings.iter().any(|binding| {
        binding.gesture == Gesture::Tap
            && (binding.held == Held::Repeats || matches!(binding.does, Does::Volume { .. }))
    });
    if !double || !repeated {
        return None;
    }
    let text = format!(
        "{} on {} is tapped again and again, and its double tap makes every tap wait for {} ms. Use a hold instead.",
        called(key),
        surface.name,
        crate::model::DOUBLE_MS
    );
    Some(Finding::new(Weight::Caution, "Slow tap", text, on(surface, key)))
}

fn too_small(surface: &Surface, key: &Key) -> Option<Finding> {
    let (wide, high) = surface.key_mm(key);
    if wide >= LEAST_MM && high >= LEAST_MM {
        return None;
    }
    let text = format!(
        "{} on {} is {wide:.1} × {high:.1} mm: below {LEAST_MM:.0} mm fingers miss it. Make it larger, or the grid coarser.",
        called(key),
        surface.name
    );
    Some(Finding::new(Weight::Caution, "Small key", text, on(surface, key)))
}

fn too_faint(surface: &Surface, key: &Key) -> Option<Finding> {
    let tint = key.tint.as_ref()?;
    let ratio = contrast::contrast(contrast::parse(&tint.ink)?, contrast::parse(&tint.ground)?);
    if ratio >= contrast::LEAST {
        return None;
    }
    let text = format!(
        "{} on {} has a contrast of {ratio:.1} to 1; {} to 1 can be read (WCAG 2.2, AA). Choose colours further apart.",
        called(key),
        surface.name,
        contrast::LEAST
    );
    Some(Finding::new(Weight::Caution, "Faint label", text, on(surface, key)))
}

/// A label that cannot be cut or printed as it is.
fn no_room(surface: &Surface, key: &Key) -> Option<Finding> {
    if !surface.kind.has_labels() || key.label.is_empty() || key.sends.is_some() && surface.kind != Kind::Keypad {
        return None;
    }
    let fit = engrave::fit(surface, key);
    if fit.fits {
        return None;
    }
    let text = format!(
        "{} does not fit on its key on {}: {} letters on {} lines do, {:.1} mm high.",
        called(key),
        surface.name,
        fit.letters,
        fit.lines,
        f64::from(surface.letter_tenths_mm) / 10.0
    );
    Some(Finding::new(Weight::Remark, "Label does not fit", text, on(surface, key)))
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
fn contradicts(site: &Site, surface: &Surface, key: &Key) -> Option<Finding> {
    let label = key.label.to_lowercase();
    let says = |word: &str| label.split(|c: char| !c.is_alphanumeric()).any(|part| part == word);
    let tell = |does: String| {
        let text = format!("{} on {} {does}. Change the label or the key.", called(key), surface.name);
        Some(Finding::new(Weight::Caution, "Label says otherwise", text, on(surface, key)))
    };
    for binding in key.bindings.iter().filter(|binding| binding.gesture == Gesture::Tap) {
        match &binding.does {
            Does::Activity { activity } if says("off") => {
                return tell(format!("starts {}", activity_name(site, *activity)));
            }
            Does::RoomOff if says("on") => return tell("puts the room off".to_owned()),
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
fn no_stop(site: &Site, room: RoomId, surface: &Surface, page: &Page) -> Vec<Finding> {
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
        let why = if motion.stop.is_some() {
            "Put its stop, or a key that stops everything, beside it."
        } else {
            "It has no stop that is known here: learn one, or leave it to somebody who stands beside it."
        };
        let name = site.device_name(*device);
        let text =
            format!("{name} can be moved from “{}” of {} and not be stopped there. {why}", page.name, surface.name);
        findings.push(Finding::new(Weight::Hazard, "Nothing to stop it", text, at(surface).device(*device)));
    }
    findings
}

fn unreachable(site: &Site, room: RoomId, surface: &Surface) -> Vec<Finding> {
    let few = matches!(surface.kind, Kind::Keypad | Kind::KeyFob | Kind::Controller);
    cover::unreachable(site, room, surface)
        .into_iter()
        .filter(|_| !few)
        .map(|activity| {
            let text = format!("No key of {} starts {}.", surface.name, activity_name(site, activity));
            Finding::new(Weight::Caution, "Activity without a key", text, at(surface).activity(activity))
        })
        .collect()
}

/// What a guest would have to ask about.
fn strangers(site: &Site, room: RoomId, surface: &Surface) -> Vec<Finding> {
    let mut told = BTreeSet::new();
    let mut findings = Vec::new();
    for way in guest::test(site, room, surface).into_iter().filter(|way| !way.presses.is_empty()) {
        let name = activity_name(site, way.activity);
        for press in way.presses {
            if let Some(why) = press.unclear.filter(|_| told.insert(press.key)) {
                let text = format!("On the way to {name} a guest presses “{}” on {}. {why}", press.label, surface.name);
                findings.push(Finding::new(Weight::Remark, "A guest would ask", text, at(surface).key(press.key)));
            }
        }
        if let Some(missing) = way.missing {
            let text = format!("A guest gets stuck on the way to {name} on {}: {missing}", surface.name);
            findings.push(Finding::new(
                Weight::Caution,
                "A guest gets stuck",
                text,
                at(surface).activity(way.activity),
            ));
        }
    }
    findings
}

/// What the old remotes could and this one cannot; only where it stands for them.
fn missing(site: &Site, room: RoomId, surface: &Surface) -> Option<Finding> {
    if !surface.kind.is_glass() && !matches!(surface.kind, Kind::HandRemote | Kind::DisplayRemote) {
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
    let count: usize = by_device.values().map(Vec::len).sum();
    let list: Vec<String> = by_device
        .iter()
        .map(|(device, names)| format!("{}: {}", site.device_name(*device), names.join(", ")))
        .collect();
    let text = format!("{count} functions of the old remotes are on no key of {}. {}.", surface.name, list.join("; "));
    Some(Finding::new(Weight::Remark, "Less than before", text, at(surface)))
}

/// Hard keys that stand for nothing.
fn dead_hard_keys(site: &Site, surface: &Surface) -> Option<Finding> {
    let profile = site.profile_of(surface.device?)?;
    let dead: Vec<&str> = profile
        .functions
        .iter()
        .filter(|function| surface.hard_key(function.id).is_none())
        .map(|function| function.name.as_str())
        .collect();
    if dead.is_empty() {
        return None;
    }
    let text = format!("Keys of {} that do nothing: {}.", surface.name, dead.join(", "));
    Some(Finding::new(Weight::Remark, "Dead hard keys", text, at(surface)))
}
