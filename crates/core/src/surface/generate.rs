//! The whole default layout of a surface, from the activities of its room and their devices.
//!
//! A function has one place on the grid, in every activity and every room: whoever has learned one page has learned
//! all of them. Rows that nothing in the house uses are left out. What has no place of its own (apps, favourites,
//! looks, what moves) follows below, in that order.
//!
//! Generated anew, a layout keeps what a hand has made: keys that were changed stay where and as they are, keys that
//! were taken away stay away, pages that were added stay.

use super::{Binding, Does, Held, Key, Kind, LISTED, Lit, Page, Role, Surface};
use crate::codes::vocabulary::{Group, TERMS};
use crate::device::{DeviceKind, Profile};
use crate::gesture::Gesture;
use crate::id::{ActivityId, DeviceId, FunctionId, PageId, RoomId};
use crate::site::{Activity, Site};
use std::collections::BTreeSet;
use uuid::Uuid;

/// A key that could be there, before it has a place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Offer {
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

fn on(gesture: Gesture, does: Does, held: Held) -> Binding {
    Binding { gesture, in_activity: None, does, held }
}

fn offer(role: Role, label: &str, does: Does, lit: Option<Lit>) -> Offer {
    Offer { role, label: label.to_owned(), bindings: vec![tap(does)], lit }
}

/// Where a function of the vocabulary stands: column and row of a grid of four columns.
const PLACES: [(&str, u8, u8); 42] = [
    ("Back", 0, 1),
    ("Up", 1, 1),
    ("Menu", 2, 1),
    ("Volume up", 3, 1),
    ("Left", 0, 2),
    ("OK", 1, 2),
    ("Right", 2, 2),
    ("Volume down", 3, 2),
    ("Home", 0, 3),
    ("Down", 1, 3),
    ("Info", 2, 3),
    ("Mute", 3, 3),
    ("Play", 0, 4),
    ("Pause", 1, 4),
    ("Stop", 2, 4),
    ("Play/pause", 3, 4),
    ("Rewind", 0, 5),
    ("Forward", 1, 5),
    ("Previous", 2, 5),
    ("Next", 3, 5),
    ("Guide", 0, 6),
    ("Last channel", 1, 6),
    ("Channel down", 2, 6),
    ("Channel up", 3, 6),
    ("Red", 0, 7),
    ("Green", 1, 7),
    ("Yellow", 2, 7),
    ("Blue", 3, 7),
    ("1", 0, 8),
    ("2", 1, 8),
    ("3", 2, 8),
    ("Voice", 3, 8),
    ("4", 0, 9),
    ("5", 1, 9),
    ("6", 2, 9),
    ("Subtitles", 3, 9),
    ("7", 0, 10),
    ("8", 1, 10),
    ("9", 2, 10),
    ("Audio track", 3, 10),
    ("0", 1, 11),
    ("Enter", 2, 11),
];

/// Columns that places are made for.
const COLUMNS: u8 = 4;

fn place(role: &Role) -> Option<(u8, u8)> {
    match role {
        Role::Start => Some((0, 0)),
        Role::Before => Some((1, 0)),
        Role::StopAll => Some((2, 0)),
        Role::RoomOff => Some((3, 0)),
        Role::Term { name } => PLACES.iter().find(|(known, ..)| known == name).map(|&(_, column, row)| (column, row)),
        _ => None,
    }
}

/// Names are longer than one cell.
fn width(role: &Role) -> u8 {
    match role {
        Role::Start | Role::Before | Role::StopAll | Role::RoomOff => 1,
        Role::Term { name } if place(role).is_some() || name.chars().count() < 10 => 1,
        _ => 2,
    }
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
pub fn of_activity(site: &Site, activity: &Activity) -> Vec<Offer> {
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
fn volume(device: DeviceId, profile: &Profile) -> Vec<Offer> {
    let Some(volume) = profile.volume else {
        let mut keys = of_group(device, profile, &[Group::Volume]);
        for binding in keys.iter_mut().filter(|key| key.label.starts_with("Volume ")).flat_map(|key| &mut key.bindings)
        {
            binding.held = Held::Repeats;
        }
        return keys;
    };
    let mut offers = Vec::new();
    for (name, label, steps) in [("Volume up", "Louder", 1), ("Volume down", "Softer", -1)] {
        let bindings = vec![on(Gesture::Tap, Does::Volume { device: None, steps }, Held::Repeats)];
        offers.push(Offer { role: Role::Term { name: name.to_owned() }, label: label.to_owned(), bindings, lit: None });
    }
    if volume.mute.is_some() {
        offers.push(offer(Role::Term { name: "Mute".to_owned() }, "Silent", Does::Mute, Some(Lit::Muted)));
    }
    offers
}

/// Keys of a source. Home, home twice and home held are one key.
fn source(device: DeviceId, profile: &Profile) -> Vec<Offer> {
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
        offers.push(Offer {
            role: Role::Term { name: "Voice".to_owned() },
            label: "Voice".to_owned(),
            bindings,
            lit: None,
        });
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

fn of_group(device: DeviceId, profile: &Profile, groups: &[Group]) -> Vec<Offer> {
    let inputs: BTreeSet<FunctionId> = profile.inputs.iter().filter_map(|input| input.select).collect();
    let term = |name: &str| TERMS.iter().find(|term| term.name == name && groups.contains(&term.group));
    let wanted = profile.functions.iter().filter(|function| !inputs.contains(&function.id));
    wanted
        .filter_map(|function| {
            let term = term(&function.name)?;
            let does = Does::Command { device, function: function.id, times: 1 };
            Some(Offer {
                role: Role::Term { name: term.name.to_owned() },
                label: function.name.clone(),
                bindings: vec![on(Gesture::Tap, does, held(term.name))],
                lit: None,
            })
        })
        .collect()
}

/// Activities as keys, lit while they run.
fn activities(site: &Site, room: RoomId) -> Vec<Offer> {
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

fn room_off() -> Offer {
    let mut off = offer(Role::RoomOff, "Room off", Does::RoomOff, Some(Lit::Off));
    off.bindings.push(on(Gesture::Hold, Does::StopAll, Held::Once));
    off
}

fn stop_all() -> Offer {
    offer(Role::StopAll, "Stop all", Does::StopAll, None)
}

/// Looks and mode switches.
fn light(site: &Site, room: RoomId) -> Vec<Offer> {
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
fn moves(site: &Site, room: RoomId) -> Vec<Offer> {
    let mut offers = Vec::new();
    for device in site.devices_in(room) {
        let Some(motion) = site.profile_of(device.id).and_then(|profile| profile.motion) else { continue };
        for function in [Some(motion.up), Some(motion.down), motion.stop].into_iter().flatten() {
            let label = format!("{} {}", device.name, site.function_name(device.id, function).to_lowercase());
            let does = Does::Command { device: device.id, function, times: 1 };
            offers.push(offer(Role::Moves { device: device.id, function }, &label, does, None));
        }
    }
    offers
}

/// The power of each device, on or off by what is known of it: for when something went wrong.
fn powers(site: &Site, room: RoomId) -> Vec<Offer> {
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

/// A page before it has places.
struct Sketch {
    name: String,
    activity: Option<ActivityId>,
    offers: Vec<Offer>,
}

const START: &str = "Activities";
const TROUBLE: &str = "If something is wrong";

fn page_role(name: &str) -> Role {
    Role::Page { name: name.to_owned() }
}

/// The pages of a surface of glass.
fn sketches(site: &Site, room: RoomId) -> Vec<Sketch> {
    let mut first = activities(site, room);
    first.extend([stop_all(), room_off()]);
    first.extend(light(site, room));
    first.extend(moves(site, room));
    tell_apart(&mut first);
    let mut pages = vec![Sketch { name: START.to_owned(), activity: None, offers: first }];
    for activity in site.activities.iter().filter(|activity| activity.room == room) {
        let back = offer(Role::Start, START, Does::Page { page: PageId(Uuid::nil()) }, None);
        let mut offers = vec![back, stop_all(), room_off()];
        if site.activities.iter().filter(|known| known.room == room).count() > 1 {
            offers.push(offer(Role::Before, "Before", Does::Before, None));
        }
        offers.extend(of_activity(site, activity));
        offers.extend(light(site, room));
        offers.extend(moves(site, room));
        tell_apart(&mut offers);
        pages.push(Sketch { name: activity.name.clone(), activity: Some(activity.id), offers });
    }
    let powers = powers(site, room);
    if !powers.is_empty() {
        let back = offer(Role::Start, START, Does::Page { page: PageId(Uuid::nil()) }, None);
        let mut offers = vec![back, stop_all(), room_off()];
        offers.extend(powers);
        pages.push(Sketch { name: TROUBLE.to_owned(), activity: None, offers });
        let to = offer(page_role(TROUBLE), TROUBLE, Does::Page { page: PageId(Uuid::nil()) }, None);
        pages[0].offers.push(to);
    }
    pages
}

/// A look may be called like a key: then it says that it is light.
fn tell_apart(offers: &mut [Offer]) {
    let labels: Vec<String> = offers.iter().map(|offer| offer.label.to_lowercase()).collect();
    for offer in offers.iter_mut().filter(|offer| matches!(offer.role, Role::Look { .. })) {
        if labels.iter().filter(|label| **label == offer.label.to_lowercase()).count() > 1 {
            offer.label.push_str(" light");
        }
    }
}

/// Every key that a room could have on the page of an activity.
#[must_use]
pub fn every_offer(site: &Site, room: RoomId, activity: Option<&Activity>) -> Vec<Offer> {
    let mut offers = activities(site, room);
    offers.extend([stop_all(), room_off(), offer(Role::Before, "Before", Does::Before, None)]);
    offers.extend(activity.map(|activity| of_activity(site, activity)).unwrap_or_default());
    offers.extend(light(site, room));
    offers.extend(moves(site, room));
    offers.extend(powers(site, room));
    offers
}

/// What a key does in an activity.
type Meant = (ActivityId, Vec<Binding>);

/// One page for all activities: what has hard keys means something else in each of them.
fn one_for_all(site: &Site, room: RoomId, offers: &mut Vec<Offer>) {
    let own: Vec<&Activity> = site.activities.iter().filter(|activity| activity.room == room).collect();
    let mut by_role: Vec<(Offer, Vec<Meant>)> = Vec::new();
    for activity in &own {
        for offer in of_activity(site, activity) {
            let meant = (activity.id, offer.bindings.clone());
            match by_role.iter_mut().find(|(known, _)| known.role == offer.role) {
                Some((_, all)) => all.push(meant),
                None => by_role.push((offer, vec![meant])),
            }
        }
    }
    for (mut offer, meant) in by_role {
        let same = meant.len() == own.len() && meant.windows(2).all(|pair| pair[0].1 == pair[1].1);
        if !same {
            offer.bindings = meant
                .into_iter()
                .flat_map(|(activity, bindings)| {
                    bindings.into_iter().map(move |binding| Binding { in_activity: Some(activity), ..binding })
                })
                .collect();
        }
        offers.push(offer);
    }
}

/// Rows of the grid that something in the house uses, so that a function stands in the same place in every room.
fn used_rows(site: &Site) -> Vec<u8> {
    let mut rows: BTreeSet<u8> = BTreeSet::from([0]);
    for activity in &site.activities {
        rows.extend(of_activity(site, activity).iter().filter_map(|offer| place(&offer.role)).map(|(_, row)| row));
    }
    rows.into_iter().collect()
}

/// Lays a surface out anew. What a hand has made stays.
#[must_use]
pub fn generate(site: &Site, room: RoomId, surface: &Surface, fresh: &mut dyn FnMut() -> Uuid) -> Surface {
    let mut made = surface.clone();
    if surface.kind.is_glass() {
        glass(site, room, surface, &mut made, fresh);
    } else {
        hard(site, room, surface, &mut made, fresh);
    }
    turn_pages(&mut made);
    made
}

fn glass(site: &Site, room: RoomId, old: &Surface, made: &mut Surface, fresh: &mut dyn FnMut() -> Uuid) {
    let rows = used_rows(site);
    let sketches = sketches(site, room);
    let mut pages = Vec::new();
    let mut known = BTreeSet::new();
    for sketch in &sketches {
        let same = |page: &&Page| match sketch.activity {
            Some(activity) => page.activity == Some(activity),
            None => page.activity.is_none() && page.name == sketch.name,
        };
        let before = old.pages.iter().find(same);
        known.extend(before.map(|page| page.id));
        let id = before.map_or_else(|| PageId(fresh()), |page| page.id);
        // On the first page activities are what one looks for.
        let first = sketch.name == START;
        let grid = Grid { columns: old.columns, rows: &rows, last: None, top: u8::from(first) };
        let keys = laid(&grid, &sketch.offers, before, None, fresh);
        let without = before.map(|page| page.without.clone()).unwrap_or_default();
        pages.push(Page { id, name: sketch.name.clone(), activity: sketch.activity, keys, without });
    }
    // What a hand has added stays, behind the rest; pages of activities that are gone go.
    let extra = old.pages.iter().filter(|page| !known.contains(&page.id));
    let kept = extra.filter(|page| page.activity.is_none() && page.keys.iter().any(|key| key.by_hand));
    pages.extend(kept.cloned());
    made.pages = pages;
}

fn hard(site: &Site, room: RoomId, old: &Surface, made: &mut Surface, fresh: &mut dyn FnMut() -> Uuid) {
    // The keys of a remote with a display stand behind what the display lists.
    let before = old.pages.iter().find(|page| page.name != LISTED);
    let functions: Vec<(FunctionId, String)> = old
        .device
        .and_then(|device| site.profile_of(device))
        .map(|profile| profile.functions.iter().map(|function| (function.id, function.name.clone())).collect())
        .unwrap_or_default();
    let remote = matches!(old.kind, Kind::HandRemote | Kind::DisplayRemote);
    let mut offers = activities(site, room);
    if remote && functions.is_empty() {
        offers.extend([stop_all(), room_off()]);
        one_for_all(site, room, &mut offers);
        offers.extend(light(site, room));
        offers.extend(moves(site, room));
        tell_apart(&mut offers);
    } else if remote {
        offers.extend([room_off(), stop_all()]);
        one_for_all(site, room, &mut offers);
        offers.extend(light(site, room));
    } else {
        offers = few(site, room, old, functions.len());
    }
    let rows: Vec<u8> = if remote { used_rows(site) } else { vec![] };
    let keys = if functions.is_empty() {
        let top = if remote { 1 } else { 0 };
        let grid = Grid { columns: old.columns, rows: &rows, last: Some(old.rows), top };
        laid(&grid, &offers, before, None, fresh)
    } else {
        let pairs = on_hard_keys(site, &offers, &functions, remote);
        let grid = Grid { columns: old.columns, rows: &[], last: None, top: 0 };
        laid(&grid, &pairs.iter().map(|(offer, _)| offer.clone()).collect::<Vec<_>>(), before, Some(&pairs), fresh)
    };
    let id = before.map_or_else(|| PageId(fresh()), |page| page.id);
    let without = before.map(|page| page.without.clone()).unwrap_or_default();
    let name = before.map_or_else(|| "Keys".to_owned(), |page| page.name.clone());
    made.pages = vec![Page { id, name, activity: None, keys, without }];
    if old.kind == Kind::DisplayRemote {
        made.pages.insert(0, listed(site, room, old, fresh));
    }
}

/// What can be watched, as lines on the small display of a remote: activities, then the channels of their sources and
/// their favourites.
fn listed(site: &Site, room: RoomId, old: &Surface, fresh: &mut dyn FnMut() -> Uuid) -> Page {
    let before = old.pages.iter().find(|page| page.name == LISTED);
    let mut offers = activities(site, room);
    for activity in site.activities.iter().filter(|activity| activity.room == room) {
        for mut offer in of_activity(site, activity) {
            if matches!(offer.role, Role::App { .. } | Role::Favourite { .. })
                && offers.iter().all(|known| known.label != offer.label)
            {
                for binding in &mut offer.bindings {
                    binding.in_activity = Some(activity.id);
                }
                offers.push(offer);
            }
        }
    }
    let grid = Grid { columns: 1, rows: &[], last: None, top: 0 };
    let mut keys = laid(&grid, &offers, before, None, fresh);
    // A line is as wide as the display.
    keys.iter_mut().filter(|key| !key.by_hand).for_each(|key| key.wide = old.columns);
    let id = before.map_or_else(|| PageId(fresh()), |page| page.id);
    let without = before.map(|page| page.without.clone()).unwrap_or_default();
    Page { id, name: LISTED.to_owned(), activity: None, keys, without }
}

/// The few keys of a keypad, a fob or a controller. The last one is *Room off*; with a single key it is held for that.
fn few(site: &Site, room: RoomId, surface: &Surface, hard_keys: usize) -> Vec<Offer> {
    let cells = usize::from(surface.columns) * usize::from(surface.rows);
    let many = if hard_keys > 0 { hard_keys } else { cells };
    let many = surface.kind.most_keys().map_or(many, |most| many.min(most));
    let mut wanted = if surface.kind == Kind::KeyFob { moves(site, room) } else { vec![] };
    wanted.extend(activities(site, room));
    wanted.extend(light(site, room));
    if surface.kind != Kind::KeyFob {
        wanted.extend(moves(site, room));
    }
    tell_apart(&mut wanted);
    let Some(first) = wanted.first().cloned() else { return vec![] };
    if many <= 1 {
        let mut only = first;
        only.bindings.push(on(Gesture::Hold, Does::RoomOff, Held::Once));
        return vec![only];
    }
    wanted.truncate(many - 1);
    wanted.push(room_off());
    wanted
}

/// The hard keys of a device, each with what its name says, or else what is next in line.
fn on_hard_keys(
    site: &Site,
    offers: &[Offer],
    functions: &[(FunctionId, String)],
    by_name: bool,
) -> Vec<(Offer, FunctionId)> {
    let mut left: Vec<&Offer> = offers.iter().collect();
    let mut pairs: Vec<(Option<&Offer>, FunctionId, &str)> = Vec::new();
    for (function, name) in functions {
        let found = by_name.then(|| left.iter().position(|offer| means(site, &offer.role, name))).flatten();
        pairs.push((found.map(|at| left.remove(at)), *function, name));
    }
    let mut rest = left.into_iter();
    pairs
        .into_iter()
        .filter_map(|(found, function, name)| {
            let next = || if by_name { None } else { rest.next() };
            let offer = found.or_else(next)?;
            let label = if by_name { name.to_owned() } else { offer.label.clone() };
            Some((Offer { label, ..offer.clone() }, function))
        })
        .collect()
}

/// Does the name of a hard key say this role?
fn means(site: &Site, role: &Role, name: &str) -> bool {
    let lower = name.to_lowercase();
    match role {
        Role::Term { name: term } => {
            *term == name || TERMS.iter().any(|known| known.name == term && known.also.contains(&lower.as_str()))
        }
        Role::RoomOff => matches!(lower.as_str(), "off" | "power off" | "all off"),
        Role::Activity { activity } => site.activity(*activity).is_some_and(|known| {
            known.name.to_lowercase() == lower
                || (lower == "watch" && known.seen_on.is_some())
                || (lower == "listen" && known.seen_on.is_none() && known.heard_on.is_some())
        }),
        Role::Look { look } => site.rooms.iter().filter_map(|room| room.lighting.look(*look)).any(|l| l.name == name),
        _ => false,
    }
}

/// Where keys go.
struct Grid<'a> {
    columns: u8,
    /// Rows of places that are there; none where there are no places.
    rows: &'a [u8],
    /// Rows in all, where there can be no more.
    last: Option<u8>,
    /// Activities come first, below so many rows.
    top: u8,
}

/// Keys in their places. What a hand has made stays; what does not fit on hard keys is left out.
fn laid(
    grid: &Grid<'_>,
    offers: &[Offer],
    before: Option<&Page>,
    sends: Option<&[(Offer, FunctionId)]>,
    fresh: &mut dyn FnMut() -> Uuid,
) -> Vec<Key> {
    let mut keys: Vec<Key> =
        before.map(|page| page.keys.iter().filter(|key| key.by_hand).cloned().collect()).unwrap_or_default();
    let unwanted = |role: &Role| {
        before.is_some_and(|page| {
            page.without.contains(role) || page.keys.iter().any(|key| key.by_hand && key.role.as_ref() == Some(role))
        })
    };
    let wanted: Vec<(usize, &Offer)> = offers.iter().enumerate().filter(|(_, offer)| !unwanted(&offer.role)).collect();
    let heads = |offer: &Offer| grid.top > 0 && matches!(offer.role, Role::Activity { .. });
    let lines = heads_rows(grid, wanted.iter().filter(|(_, offer)| heads(offer)).count());
    let fits = |key: &Key, keys: &[Key]| {
        key.column.saturating_add(key.wide) <= grid.columns
            && grid.last.is_none_or(|last| key.row < last)
            && !keys.iter().any(|known| known.covers(key))
    };
    let mut later = Vec::new();
    for (at, offer) in wanted {
        let mut key = Key {
            id: before
                .and_then(|page| page.keys.iter().find(|key| key.role.as_ref() == Some(&offer.role)))
                .map_or_else(|| fresh().into(), |key| key.id),
            role: Some(offer.role.clone()),
            label: offer.label.clone(),
            picture: None,
            column: 0,
            row: 0,
            wide: if grid.rows.is_empty() || grid.columns < COLUMNS { 1 } else { width(&offer.role) },
            tall: 1,
            bindings: offer.bindings.clone(),
            lit: offer.lit.clone(),
            sends: sends.and_then(|pairs| pairs.get(at)).map(|(_, function)| *function),
            tint: None,
            by_hand: false,
        };
        let own = place(&offer.role).filter(|_| grid.columns >= COLUMNS);
        let row = own.and_then(|(_, row)| grid.rows.iter().position(|known| *known == row));
        if let (Some((column, own_row)), Some(row)) = (own, row) {
            key.column = column;
            key.row = u8::try_from(row).unwrap_or(u8::MAX) + if own_row == 0 { 0 } else { lines };
            if fits(&key, &keys) {
                keys.push(key);
                continue;
            }
        }
        later.push((heads(offer), key));
    }
    let flow = if grid.rows.is_empty() {
        0
    } else {
        let used = keys.iter().filter(|key| !key.by_hand).map(|key| key.row + key.tall).max().unwrap_or(grid.top);
        used.max(grid.top + lines)
    };
    for (head, mut key) in later {
        let from = if head { grid.top } else { flow };
        let to = grid.last.unwrap_or(from.saturating_add(60));
        let free =
            (from..to).flat_map(|row| (0..grid.columns).map(move |column| (column, row))).find(|&(column, row)| {
                (key.column, key.row) = (column, row);
                fits(&key, &keys)
            });
        if let Some((column, row)) = free {
            (key.column, key.row) = (column, row);
            keys.push(key);
        }
    }
    keys.sort_by_key(|key| (key.row, key.column));
    keys
}

/// Rows that so many activities need.
fn heads_rows(grid: &Grid<'_>, many: usize) -> u8 {
    let side_by_side = usize::from((grid.columns / 2).max(1));
    u8::try_from(many.div_ceil(side_by_side)).unwrap_or(u8::MAX)
}

/// Keys that turn a page point at it.
fn turn_pages(surface: &mut Surface) {
    let pages: Vec<(PageId, String)> = surface.pages.iter().map(|page| (page.id, page.name.clone())).collect();
    let Some((first, _)) = pages.first().cloned() else { return };
    for key in surface.pages.iter_mut().flat_map(|page| &mut page.keys) {
        let to = match &key.role {
            Some(Role::Start) => Some(first),
            Some(Role::Page { name }) => pages.iter().find(|(_, known)| known == name).map(|(id, _)| *id),
            _ => None,
        };
        for binding in &mut key.bindings {
            if let (Does::Page { page }, Some(to)) = (&mut binding.does, to) {
                *page = to;
            }
        }
    }
}
