//! What the old remotes could, against a surface: every function of every device, where it is now, and how many
//! presses away.

use crate::id::{ActivityId, DeviceId, FunctionId, KeyId, PageId, RoomId};
use crate::model::{DeviceKind, Does, Favourite, Gesture, Profile, Selection, Shortcut, Site, Surface, SurfaceKey};
use crate::plan::favourite;
use crate::surface::bar::Bar;
use crate::surface::now::sendable;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet, VecDeque};
use utoipa::ToSchema;

/// Where a function of an old remote is now.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum Cover {
    /// On a key.
    Bound {
        /// Which.
        key: KeyId,
        /// On which page.
        page: PageId,
        /// How it is pressed.
        gesture: Gesture,
        /// Presses from the page of an activity that uses the device, or from the first page; 1 is at once.
        presses: u32,
    },
    /// Activities send it: power, inputs.
    ByActivities,
    /// Looks set it: a dimmer is told its level and needs no code.
    ByLooks,
    /// On no key.
    Missing,
    /// It could not be sent if it were.
    Impossible {
        /// Why.
        why: String,
    },
}

/// A function of an old remote.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Covered {
    /// Of which device.
    pub device: DeviceId,
    /// Which.
    pub function: FunctionId,
    /// Its name.
    pub name: String,
    /// Where it is now.
    pub cover: Cover,
}

/// What a binding can send, in an activity.
#[must_use]
pub fn sent(site: &Site, room: RoomId, does: &Does, activity: Option<ActivityId>) -> Vec<(DeviceId, FunctionId)> {
    let sounds = || site.activity(activity?)?.heard_on;
    let of = |device: DeviceId, shortcut: Shortcut, name: &str| {
        let activity = site.activities.iter().find(|known| known.room == room && known.source == device);
        let plan = activity
            .map(|activity| favourite::of(site, activity, &Favourite { name: name.to_owned(), does: shortcut }));
        plan.map(|plan| plan.steps.iter().map(|step| (step.device, step.function)).collect()).unwrap_or_default()
    };
    match does {
        Does::Command { device, function, .. } => vec![(*device, *function)],
        Does::Jump { device, seconds } => {
            let device = device.or_else(|| Some(site.activity(activity?)?.source));
            let skips = device.and_then(|device| Some((device, site.profile_of(device)?.skips?)));
            skips.map(|(device, skips)| (device, skips.presses(*seconds).0)).into_iter().collect()
        }
        Does::Volume { device, steps, .. } => {
            let device = device.or_else(sounds);
            let volume = device.and_then(|device| Some((device, site.profile_of(device)?.volume?)));
            volume
                .map(|(device, volume)| (device, if *steps > 0 { volume.up } else { volume.down }))
                .into_iter()
                .collect()
        }
        Does::Mute => {
            let mute = sounds().and_then(|device| Some((device, site.profile_of(device)?.volume?.mute?)));
            mute.map(|(device, mute)| mute.keys().map(|key| (device, key)).to_vec()).unwrap_or_default()
        }
        Does::App { device, name } => of(*device, Shortcut::App { name: name.clone() }, name),
        Does::Power { device } => {
            let keys = site.profile_of(*device).and_then(|profile| profile.power_keys());
            keys.map(|(on, off)| vec![(*device, on), (*device, off)]).unwrap_or_default()
        }
        _ => vec![],
    }
}

/// How many presses it takes from a page to each of the others.
fn turns(surface: &Surface, from: PageId) -> BTreeMap<PageId, u32> {
    let mut far = BTreeMap::from([(from, 0)]);
    let mut next = VecDeque::from([from]);
    while let Some(at) = next.pop_front() {
        let presses = far.get(&at).copied().unwrap_or_default() + 1;
        let page = surface.pages.iter().find(|page| page.id == at);
        for binding in page.into_iter().flat_map(|page| &page.keys).flat_map(|key| &key.bindings) {
            let to = match &binding.does {
                Does::Page { page } => Some(*page),
                Does::Activity { activity } => {
                    surface.pages.iter().find(|page| page.activity == Some(*activity)).map(|page| page.id)
                }
                _ => None,
            };
            if let Some(to) = to.filter(|to| !far.contains_key(to)) {
                far.insert(to, presses);
                next.push_back(to);
            }
        }
    }
    far
}

/// Pages from which presses are counted for a device: those of the activities that use it, and the first.
fn starts(site: &Site, surface: &Surface, device: DeviceId) -> BTreeSet<PageId> {
    let uses = |activity: ActivityId| {
        site.activity(activity).is_some_and(|known| {
            known.source == device || known.seen_on == Some(device) || known.heard_on == Some(device)
        })
    };
    // The display of a remote and its keys are seen at once.
    let seen = |at: usize| at == 0 || !surface.kind.is_glass();
    let pages = surface.pages.iter().enumerate();
    pages.filter(|(at, page)| seen(*at) || page.activity.is_some_and(uses)).map(|(_, page)| page.id).collect()
}

/// Where a function can be found: a page, a key on it, and how that is pressed.
type Spot<'a> = (PageId, &'a SurfaceKey, Gesture);

/// Every function of the old remotes of a room against a surface.
#[must_use]
pub fn cover(site: &Site, room: RoomId, surface: &Surface) -> Vec<Covered> {
    let activities: Vec<Option<ActivityId>> = site
        .activities
        .iter()
        .filter(|activity| activity.room == room)
        .map(|activity| Some(activity.id))
        .chain([None])
        .collect();
    // Where each function can be found.
    let mut found: BTreeMap<(DeviceId, FunctionId), Vec<Spot<'_>>> = BTreeMap::new();
    for (page, key) in surface.keys() {
        for binding in &key.bindings {
            let scope: Vec<Option<ActivityId>> = match binding.in_activity.or(page.activity) {
                Some(only) => vec![Some(only)],
                None => activities.clone(),
            };
            let sends = scope.into_iter().flat_map(|activity| sent(site, room, &binding.does, activity));
            for function in sends.collect::<BTreeSet<_>>() {
                found.entry(function).or_default().push((page.id, key, binding.gesture));
            }
        }
    }
    let mut covered = Vec::new();
    for device in site.devices_in(room) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        if matches!(profile.kind, DeviceKind::Gateway | DeviceKind::Network | DeviceKind::Keypad | DeviceKind::Sensor) {
            continue;
        }
        let far: Vec<BTreeMap<PageId, u32>> =
            starts(site, surface, device.id).into_iter().map(|page| turns(surface, page)).collect();
        let macros = by_activities(&profile);
        let dims = dims(site, room, device.id);
        for function in &profile.functions {
            let best = found.get(&(device.id, function.id)).into_iter().flatten().filter_map(|(page, key, gesture)| {
                let presses = far.iter().filter_map(|far| far.get(page)).min()? + 1;
                Some(Cover::Bound { key: key.id, page: *page, gesture: *gesture, presses })
            });
            let best = best.min_by_key(|cover| match cover {
                Cover::Bound { presses, .. } => *presses,
                _ => u32::MAX,
            });
            let cover = match (best, sendable(site, device.id, function.id)) {
                (None, Err(Bar::NoCode { .. })) if dims => Cover::ByLooks,
                (_, Err(bar)) => Cover::Impossible { why: bar.exactly(site) },
                (Some(bound), Ok(())) => bound,
                (None, Ok(())) if macros.contains(&function.id) => Cover::ByActivities,
                (None, Ok(())) => Cover::Missing,
            };
            covered.push(Covered { device: device.id, function: function.id, name: function.name.clone(), cover });
        }
    }
    covered
}

/// Is it a dimmer whose level looks of the room set?
fn dims(site: &Site, room: RoomId, device: DeviceId) -> bool {
    let zones = site.room(room).map(|room| room.lighting.zones.as_slice()).unwrap_or_default();
    zones.iter().any(|zone| zone.device == device)
}

/// What plans send: power, inputs, what moves, settings.
fn by_activities(profile: &Profile) -> BTreeSet<FunctionId> {
    let mut keys: BTreeSet<FunctionId> = profile.keys().into_iter().map(|(key, _)| key).collect();
    keys.extend(profile.inputs.iter().filter_map(|input| input.select));
    keys.extend(profile.modes.iter().flat_map(|mode| mode.values.iter().filter_map(|value| value.select)));
    if let Selection::Menu { open, next, previous, confirm, .. } = profile.selection {
        keys.extend([open, next, previous, confirm]);
    }
    keys
}

/// Activities that no key of the surface starts.
#[must_use]
pub fn unreachable(site: &Site, room: RoomId, surface: &Surface) -> Vec<ActivityId> {
    let Some(first) = surface.pages.first() else { return vec![] };
    let far = turns(surface, first.id);
    let started: BTreeSet<ActivityId> = surface
        .keys()
        .filter(|(page, _)| far.contains_key(&page.id))
        .flat_map(|(_, key)| &key.bindings)
        .filter_map(|binding| match binding.does {
            Does::Activity { activity } => Some(activity),
            _ => None,
        })
        .collect();
    let own = site.activities.iter().filter(|activity| activity.room == room).map(|activity| activity.id);
    own.filter(|activity| !started.contains(activity)).collect()
}
