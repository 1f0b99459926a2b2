//! What could be on a surface: keys, before they have a place.

use crate::codes::vocabulary::{Group, TERMS};
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::model::{Activity, Binding, DeviceKind, Does, Gesture, Held, Lit, LoudUnit, Profile, Role, Site};
use std::collections::BTreeSet;

/// What the key that ends a room is called.
pub const FINISH: &str = "Finish";

/// What the key that stops what moves is called.
pub const STOP_MOVING: &str = "Stop moving";

/// What the key for the whole house is called.
pub const HOUSE_REST: &str = "Whole house to rest";

/// What the key back to the activity before is called.
pub const BEFORE: &str = "Before";

/// What the family reads where the vocabulary has a word of the trade, or of a maker's remote.
const PLAIN: [(&str, &str); 28] = [
    ("Home", "Its menu"),
    ("Menu", "Choices"),
    ("Top menu", "Disc menu"),
    ("Select", "Choose"),
    ("Exit", "Leave"),
    ("Info", "About this"),
    ("Guide", "What is on"),
    ("Volume up", "Louder"),
    ("Volume down", "Softer"),
    ("Mute", "Silent"),
    ("Mute on", "Silent"),
    ("Mute off", "Sound again"),
    ("Channel up", "Next channel"),
    ("Channel down", "Channel before"),
    ("Play/pause", "Play or pause"),
    ("Forward", "Wind on"),
    ("Rewind", "Wind back"),
    ("Next", "Next part"),
    ("Previous", "Part before"),
    ("Audio track", "Language"),
    ("Sound mode", "Kind of sound"),
    ("Picture mode", "Kind of picture"),
    ("Aspect", "Picture shape"),
    ("Picture mute on", "Hide picture"),
    ("Picture mute off", "Show picture"),
    ("Lens memory 1", "Picture size 1"),
    ("Lens memory 2", "Picture size 2"),
    ("Lens memory 3", "Picture size 3"),
];

/// What a key of the vocabulary is called on a surface.
#[must_use]
pub fn plainly(term: &str) -> &str {
    PLAIN.iter().find(|(known, _)| *known == term).map_or(term, |(_, plain)| plain)
}

/// A key that could be there, before it has a place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Proposed {
    /// What it is there for.
    pub role: Role,
    /// What is written on it.
    pub label: String,
    /// What it does.
    pub bindings: Vec<Binding>,
    /// When it is lit.
    pub lit: Option<Lit>,
}

/// A binding of a tap, in every activity.
#[must_use]
pub fn tap(does: Does) -> Binding {
    on(Gesture::Tap, does, Held::Once)
}

pub(super) fn on(gesture: Gesture, does: Does, held: Held) -> Binding {
    Binding { gesture, in_activity: None, does, held, most_per_s: None }
}

pub(super) fn offer(role: Role, label: &str, does: Does, lit: Option<Lit>) -> Proposed {
    Proposed { role, label: label.to_owned(), bindings: vec![tap(does)], lit }
}

/// Navigation and winding go on while the key is down.
fn held(name: &str) -> Held {
    let passes =
        ["Up", "Down", "Left", "Right", "Rewind", "Forward", "Page up", "Page down", "Channel up", "Channel down"];
    if passes.contains(&name) { Held::Passes } else { Held::Once }
}

/// What an activity could have on its page: navigation and transport to the source, volume to whatever makes the
/// sound, picture keys to the display, the apps of the source.
#[must_use]
pub fn of_activity(site: &Site, activity: &Activity) -> Vec<Proposed> {
    let mut offers = Vec::new();
    if let Some(profile) = site.profile_of(activity.source) {
        offers.extend(source(activity.source, &profile));
    }
    if let Some((sounds, profile)) = activity.heard_on.and_then(|heard| Some((heard, site.profile_of(heard)?))) {
        offers.extend(volume(sounds, &profile));
    }
    if let Some((seen, profile)) = activity.seen_on.and_then(|seen| Some((seen, site.profile_of(seen)?))) {
        offers.extend(of_group(seen, &profile, &[Group::Picture, Group::Presets]));
        for mode in &profile.modes {
            for value in &mode.values {
                let Some(function) = value.select else { continue };
                let role = Role::Term { name: site.function_name(seen, function) };
                let lit = Lit::Mode { device: seen, mode: mode.name.clone(), value: value.name.clone() };
                if offers.iter().all(|known| known.role != role) {
                    offers.push(offer(
                        role,
                        &value.name,
                        Does::Command { device: seen, function, times: 1 },
                        Some(lit),
                    ));
                }
            }
        }
    }
    for favourite in &activity.extras.favourites {
        // A channel that is there already.
        if offers.iter().any(|known| known.label == favourite.name) {
            continue;
        }
        let name = favourite.name.clone();
        offers.push(offer(Role::Favourite { name: name.clone() }, &name, Does::Favourite { name: name.clone() }, None));
    }
    offers
}

/// Louder, softer and silent: in steps that are counted where the profile knows them, otherwise as the keys that they are.
fn volume(device: DeviceId, profile: &Profile) -> Vec<Proposed> {
    let Some(volume) = profile.volume else {
        let mut keys = of_group(device, profile, &[Group::Volume]);
        for binding in keys.iter_mut().filter(|key| loudness(&key.role)).flat_map(|key| &mut key.bindings) {
            binding.held = Held::Repeats;
        }
        return keys;
    };
    let mut offers = Vec::new();
    for (name, label, steps) in [("Volume up", "Louder", 1), ("Volume down", "Softer", -1)] {
        let does = Does::Volume { device: None, steps, unit: LoudUnit::Steps };
        let bindings = vec![on(Gesture::Tap, does, Held::Repeats)];
        offers.push(Proposed {
            role: Role::Term { name: name.to_owned() },
            label: label.to_owned(),
            bindings,
            lit: None,
        });
    }
    if volume.mute.is_some() {
        offers.push(offer(Role::Term { name: "Mute".to_owned() }, "Silent", Does::Mute, Some(Lit::Muted)));
    }
    offers
}

/// Keys of a source. Home, home twice and home held are one key.
fn source(device: DeviceId, profile: &Profile) -> Vec<Proposed> {
    let mut offers = of_group(device, profile, &[Group::Navigation, Group::Transport, Group::Digits]);
    let find = |name: &str| profile.functions.iter().find(|known| known.name == name).map(|known| known.id);
    if let Some(home) = offers.iter_mut().find(|offer| offer.role == Role::Term { name: "Home".to_owned() }) {
        for (name, gesture) in [("Home twice", Gesture::DoubleTap), ("Home held", Gesture::Hold)] {
            if let Some(function) = find(name) {
                home.bindings.push(on(gesture, Does::Command { device, function, times: 1 }, Held::Once));
            }
        }
        offers.retain(|offer| !matches!(&offer.role, Role::Term { name } if name.starts_with("Home ")));
    }
    // The voice key of a streamer is passed through for as long as it is held.
    if let Some(function) = find("Voice") {
        let does = Does::Command { device, function, times: 1 };
        let bindings = vec![on(Gesture::Tap, does, Held::Passes)];
        offers.push(Proposed {
            role: Role::Term { name: "Voice".to_owned() },
            label: "Voice".to_owned(),
            bindings,
            lit: None,
        });
    }
    if let Some(skips) = profile.skips {
        for (seconds, way) in [(skips.back_s, "back"), (skips.forward_s, "on")] {
            let (on, by) = (way == "on", i16::try_from(seconds).unwrap_or(600));
            let does = Does::Jump { device: Some(device), seconds: if on { by } else { -by } };
            offers.push(offer(Role::Jump { on }, &format!("{seconds} s {way}"), does, None));
        }
    }
    for app in &profile.apps {
        let name = app.name.clone();
        let lit = Lit::App { device, name: name.clone() };
        offers.push(offer(
            Role::App { name: name.clone() },
            &name,
            Does::App { device, name: name.clone() },
            Some(lit),
        ));
    }
    offers
}

fn of_group(device: DeviceId, profile: &Profile, groups: &[Group]) -> Vec<Proposed> {
    let inputs: BTreeSet<FunctionId> = profile.inputs.iter().filter_map(|input| input.select).collect();
    let term = |name: &str| TERMS.iter().find(|term| term.name == name && groups.contains(&term.group));
    let wanted = profile.functions.iter().filter(|function| !inputs.contains(&function.id));
    wanted
        .filter_map(|function| {
            let term = term(&function.name)?;
            let does = Does::Command { device, function: function.id, times: 1 };
            Some(Proposed {
                role: Role::Term { name: term.name.to_owned() },
                label: plainly(term.name).to_owned(),
                bindings: vec![on(Gesture::Tap, does, held(term.name))],
                lit: None,
            })
        })
        .collect()
}

/// Louder and softer.
fn loudness(role: &Role) -> bool {
    matches!(role, Role::Term { name } if name == "Volume up" || name == "Volume down")
}

/// A device and the way that it moves, without saying a word twice: “Screen” and “Screen down” are *Screen down*.
fn moving(device: &str, way: &str) -> String {
    let way = way.to_lowercase();
    let last = device.split_whitespace().next_back().unwrap_or_default().to_lowercase();
    let own = way.strip_prefix(&last).filter(|rest| rest.starts_with(' ')).map_or(way.as_str(), str::trim_start);
    format!("{device} {own}")
}

/// Activities as keys, lit while they run.
pub(super) fn activities(site: &Site, room: RoomId) -> Vec<Proposed> {
    let own = site.activities.iter().filter(|activity| activity.room == room);
    own.map(|activity| {
        let id = activity.id;
        offer(
            Role::Activity { activity: id },
            &activity.name,
            Does::Activity { activity: id },
            Some(Lit::Activity { activity: id }),
        )
    })
    .collect()
}

pub(super) fn room_off() -> Proposed {
    let mut off = offer(Role::RoomOff, FINISH, Does::RoomOff, Some(Lit::Off));
    off.bindings.push(on(Gesture::Hold, Does::StopAll, Held::Once));
    off
}

/// The whole house to rest, by holding; offered where there is more than one room to finish.
pub(super) fn house_rest(site: &Site) -> Option<Proposed> {
    let rooms: BTreeSet<RoomId> = site.activities.iter().map(|activity| activity.room).collect();
    (rooms.len() > 1).then(|| Proposed {
        role: Role::HouseRest,
        label: HOUSE_REST.to_owned(),
        bindings: vec![on(Gesture::Hold, Does::HouseRest, Held::Once)],
        lit: None,
    })
}

/// A twist of a controller: softer to the left, louder to the right, with a limit on how much comes at once.
pub(super) fn twist(name: &str) -> Option<Proposed> {
    let lower = name.to_lowercase();
    let turned =
        |way: &str| lower.contains("turn") && lower.contains(way) || lower.contains("twist") && lower.contains(way);
    let (steps, label) = match (turned("left"), turned("right")) {
        (true, false) => (-1, "Softer"),
        (false, true) => (1, "Louder"),
        _ => return None,
    };
    let does = Does::Volume { device: None, steps, unit: LoudUnit::Steps };
    let binding = Binding { most_per_s: Some(TWISTS_PER_S), ..tap(does) };
    let term = if steps > 0 { "Volume up" } else { "Volume down" };
    Some(Proposed {
        role: Role::Term { name: term.to_owned() },
        label: label.to_owned(),
        bindings: vec![binding],
        lit: None,
    })
}

/// So many twists count in a second (*your own measure*: turn it as fast as you can and listen).
const TWISTS_PER_S: u8 = 4;

pub(super) fn stop_all() -> Proposed {
    offer(Role::StopAll, STOP_MOVING, Does::StopAll, None)
}

/// Looks and mode switches.
pub(super) fn light(site: &Site, room: RoomId) -> Vec<Proposed> {
    let Some(room) = site.room(room) else { return vec![] };
    let looks = room.lighting.looks.iter().map(|look| {
        let id = look.id;
        offer(Role::Look { look: id }, &look.name, Does::Look { look: id }, Some(Lit::Look { look: id }))
    });
    let switches = room.lighting.switches.iter().map(|switch| {
        let id = switch.id;
        let does = Does::Switch { switch: id, on: None };
        offer(Role::Switch { switch: id }, &switch.name, does, Some(Lit::Switch { switch: id }))
    });
    looks.chain(switches).collect()
}

/// What moves: up, down and stop of each screen, blind and awning.
pub(super) fn moves(site: &Site, room: RoomId) -> Vec<Proposed> {
    let mut offers = Vec::new();
    for device in site.devices_in(room) {
        let Some(motion) = site.profile_of(device.id).and_then(|profile| profile.motion) else { continue };
        for function in [Some(motion.up), Some(motion.down), motion.stop].into_iter().flatten() {
            let label = moving(&device.name, &site.function_name(device.id, function));
            let does = Does::Command { device: device.id, function, times: 1 };
            offers.push(offer(Role::Moves { device: device.id, function }, &label, does, None));
        }
    }
    offers
}

/// The power of each device, on or off by what is known of it: for when something went wrong.
pub(super) fn powers(site: &Site, room: RoomId) -> Vec<Proposed> {
    let powered = site.devices_in(room).filter(|device| {
        site.profile_of(device.id)
            .is_some_and(|profile| profile.power_keys().is_some() && profile.kind != DeviceKind::Heater)
    });
    powered
        .map(|device| {
            let id = device.id;
            offer(Role::Power { device: id }, &device.name, Does::Power { device: id }, Some(Lit::On { device: id }))
        })
        .collect()
}

/// A look may be called like a key: then it says that it is light.
pub(super) fn tell_apart(offers: &mut [Proposed]) {
    let labels: Vec<String> = offers.iter().map(|offer| offer.label.to_lowercase()).collect();
    for offer in offers.iter_mut().filter(|offer| matches!(offer.role, Role::Look { .. })) {
        if labels.iter().filter(|label| **label == offer.label.to_lowercase()).count() > 1 {
            offer.label.push_str(" light");
        }
    }
}

/// Every key that a room could have on the page of an activity.
#[must_use]
pub fn every_offer(site: &Site, room: RoomId, activity: Option<&Activity>) -> Vec<Proposed> {
    let mut offers = activities(site, room);
    offers.extend([stop_all(), room_off(), offer(Role::Before, BEFORE, Does::Before, None)]);
    offers.extend(activity.map(|activity| of_activity(site, activity)).unwrap_or_default());
    offers.extend(light(site, room));
    offers.extend(moves(site, room));
    offers.extend(powers(site, room));
    offers
}
