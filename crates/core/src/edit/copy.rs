//! Duplicates: a device, a room with everything in it, a profile. Ids come from the caller, since the
//! core makes nothing up.

use crate::id::{ActivityId, DeviceId, FunctionId, InputId, OutputId, ProfileId, RoomId};
use crate::model::{
    Activity, Code, Device, Entity, Network, Override, Power, Profile, Reach, Records, Secrets, Selection, Site,
    Situation, Surface, leaving,
};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::collections::{BTreeMap, HashSet};
use uuid::Uuid;

/// “Display” → “Display 2”, or the next number that is free.
#[must_use]
pub fn free_name(name: &str, taken: &[String]) -> String {
    let numbered = name.rsplit_once(' ').filter(|(_, last)| last.bytes().all(|b| b.is_ascii_digit()));
    let base = numbered.map_or(name, |(base, _)| base);
    let is_taken = |wanted: &str| taken.iter().any(|known| known.to_lowercase() == wanted.to_lowercase());
    (2..)
        .map(|number| {
            let number = format!(" {number}");
            let room = crate::model::NAME_MAX - number.len();
            format!("{}{number}", base.chars().take(room).collect::<String>().trim_end())
        })
        .find(|wanted| !is_taken(wanted))
        .unwrap_or_else(|| name.to_owned())
}

/// A device again in the same room: its paths, overrides and codes, without what belongs to one piece of
/// hardware (addresses, serial number, keys, photos, tests) and without its cables.
#[must_use]
pub fn device(site: &Site, id: DeviceId, fresh: &mut impl FnMut() -> Uuid) -> Option<Vec<Entity>> {
    let original = site.device(id)?;
    let taken: Vec<String> = site.devices.iter().filter(|d| d.room == original.room).map(|d| d.name.clone()).collect();
    let last = site.devices.iter().filter(|d| d.room == original.room).map(|d| d.position).max().unwrap_or(0);
    let copy = Device {
        id: fresh().into(),
        name: free_name(&original.name, &taken),
        position: last + 1,
        network: crate::model::Network::default(),
        records: fresh_records(original),
        ..original.clone()
    };
    let codes = codes(site, id, copy.id, &BTreeMap::new(), fresh);
    Some(std::iter::once(Entity::Device(copy)).chain(codes.into_iter().map(Entity::Code)).collect())
}

/// What a second piece of the same hardware shares with the first.
fn fresh_records(original: &Device) -> Records {
    Records {
        needs_cloud: original.records.needs_cloud,
        battery: original.records.battery.clone(),
        dock: original.records.dock.clone(),
        driver: original.records.driver.clone(),
        ..Records::default()
    }
}

fn codes(
    site: &Site,
    from: DeviceId,
    to: DeviceId,
    functions: &BTreeMap<FunctionId, FunctionId>,
    fresh: &mut impl FnMut() -> Uuid,
) -> Vec<Code> {
    site.codes
        .iter()
        .filter(|code| code.device == from)
        .map(|code| Code {
            id: fresh().into(),
            device: to,
            function: functions.get(&code.function).copied().unwrap_or(code.function),
            tested: None,
            ..code.clone()
        })
        .collect()
}

/// A value with other ids in place of those in `others`; what is not among them stays as it is.
#[must_use]
pub fn with_ids<T: Serialize + DeserializeOwned + Clone>(value: &T, others: &BTreeMap<Uuid, Uuid>) -> T {
    let rewritten = serde_json::to_value(value).map(|value| rewritten(value, others));
    rewritten.and_then(serde_json::from_value).unwrap_or_else(|_| value.clone())
}

fn rewritten(value: Value, others: &BTreeMap<Uuid, Uuid>) -> Value {
    match value {
        Value::String(text) => {
            let other = Uuid::parse_str(&text).ok().and_then(|id| others.get(&id));
            Value::String(other.map_or(text, Uuid::to_string))
        }
        Value::Array(all) => all.into_iter().map(|one| rewritten(one, others)).collect(),
        Value::Object(all) => {
            let other = |name: String| {
                let id = Uuid::parse_str(&name).ok().and_then(|id| others.get(&id));
                id.map_or(name, Uuid::to_string)
            };
            all.into_iter().map(|(name, one)| (other(name), rewritten(one, others))).collect()
        }
        plain => plain,
    }
}

/// A room with its devices, the cables between them, their codes and its activities. Devices that only
/// serve the room from elsewhere stay shared and are not doubled.
#[must_use]
pub fn room(site: &Site, id: RoomId, fresh: &mut impl FnMut() -> Uuid) -> Option<Vec<Entity>> {
    let original = site.room(id)?;
    let taken: Vec<String> = site.rooms.iter().map(|room| room.name.clone()).collect();
    let copy = crate::model::Room {
        id: fresh().into(),
        name: free_name(&original.name, &taken),
        position: site.rooms.iter().map(|room| room.position).max().unwrap_or(0) + 1,
        ..original.clone()
    };
    let inside: Vec<&Device> = site.devices.iter().filter(|device| device.room == id).collect();
    let ids: BTreeMap<DeviceId, DeviceId> = inside.iter().map(|device| (device.id, fresh().into())).collect();
    let activities: BTreeMap<ActivityId, ActivityId> = site
        .activities
        .iter()
        .filter(|activity| activity.room == id)
        .map(|activity| (activity.id, fresh().into()))
        .collect();
    let twin = |device: DeviceId| ids.get(&device).copied().unwrap_or(device);
    let situation = |known: Situation| match known {
        Situation::In { activity } => {
            Situation::In { activity: activities.get(&activity).copied().unwrap_or(activity) }
        }
        other => other,
    };
    // What the copy has of its own has ids of its own, wherever they stand.
    let own = original.lighting.ids().chain(original.surfaces.iter().flat_map(Surface::ids));
    let mut others: BTreeMap<Uuid, Uuid> = own.map(|id| (id, fresh())).collect();
    others.extend(ids.iter().map(|(from, to)| (from.0, to.0)));
    others.extend(activities.iter().map(|(from, to)| (from.0, to.0)));
    let copy = crate::model::Room {
        plans: original.plans.moved(&twin, &situation),
        rehearsal: crate::model::Rehearsing {
            adoption: original.rehearsal.adoption.moved(&twin, &situation),
            // An evening is a test of the room in which it was recorded.
            stories: vec![],
        },
        lighting: with_ids(&original.lighting, &others),
        surfaces: with_ids(&original.surfaces, &others),
        voice: crate::model::Voice { synced: None, ..with_ids(&original.voice, &others) },
        floor: with_ids(&original.floor, &others),
        ..copy
    };
    let mut all = vec![Entity::Room(crate::model::RoomCard::from(&copy))];
    all.extend(twins(&inside, &ids, |room| if room == id { copy.id } else { room }));
    for connection in &site.connections {
        if let (Some(&from), Some(&to)) = (ids.get(&connection.from_device), ids.get(&connection.to_device)) {
            let twin = crate::model::Connection { id: fresh().into(), from_device: from, to_device: to, ..*connection };
            all.push(Entity::Connection(twin));
        }
    }
    for (&from, &to) in &ids {
        all.extend(codes(site, from, to, &BTreeMap::new(), fresh).into_iter().map(Entity::Code));
    }
    for activity in site.activities.iter().filter(|activity| activity.room == id) {
        let moved = Activity { id: activities[&activity.id], room: copy.id, ..with_twins(activity, &twin) };
        all.push(Entity::Activity(moved));
    }
    all.extend(crate::model::parts(&copy));
    for own in &site.placed {
        if let Some(&device) = ids.get(&own.device) {
            let leads = own.leads.iter().map(|lead| twin(*lead)).collect();
            all.push(Entity::Placed(crate::model::Placed { id: fresh().into(), device, leads, ..own.clone() }));
        }
    }
    Some(all)
}

/// An activity with the devices of the copy.
fn with_twins(activity: &Activity, twin: &impl Fn(DeviceId) -> DeviceId) -> Activity {
    let mut moved = activity.clone();
    moved.extras = activity.extras.moved(twin);
    moved.source = twin(moved.source);
    moved.seen_on = moved.seen_on.map(twin);
    moved.heard_on = moved.heard_on.map(twin);
    moved.moves.iter_mut().for_each(|one| one.device = twin(one.device));
    moved
}

/// The devices of a room once more: with ids, rooms and gateways of the copy, and no address, key or account.
fn twins(inside: &[&Device], ids: &BTreeMap<DeviceId, DeviceId>, place: impl Fn(RoomId) -> RoomId) -> Vec<Entity> {
    let twin = |device: DeviceId| ids.get(&device).copied().unwrap_or(device);
    let mut all = Vec::new();
    for device in crate::model::gateways_first(inside.iter().copied()) {
        let mut twin = Device {
            id: ids[&device.id],
            room: place(device.room),
            serves: device.serves.iter().map(|&room| place(room)).collect(),
            network: Network::default(),
            records: fresh_records(device),
            behind: device.behind.map(twin),
            ..device.clone()
        };
        for path in &mut twin.paths {
            path.through = path.through.map(|gateway| ids.get(&gateway).copied().unwrap_or(gateway));
        }
        all.push(Entity::Device(twin));
    }
    all
}

/// A profile again, under another model name.
#[must_use]
pub fn profile(site: &Site, id: ProfileId, fresh: &mut impl FnMut() -> Uuid) -> Option<Entity> {
    let original = site.profile(id)?;
    let same_maker = site.profiles.iter().filter(|known| known.maker == original.maker);
    let taken: Vec<String> = same_maker.map(|known| known.model.clone()).collect();
    let mut copy = renumbered(original, fresh).0;
    copy.model = free_name(&original.model, &taken);
    Some(Entity::Profile(copy))
}

/// A profile with ids of its own everywhere, and what each function has become.
pub fn renumbered(original: &Profile, fresh: &mut impl FnMut() -> Uuid) -> (Profile, BTreeMap<FunctionId, FunctionId>) {
    let functions: BTreeMap<FunctionId, FunctionId> =
        original.functions.iter().map(|function| (function.id, fresh().into())).collect();
    let inputs: BTreeMap<InputId, InputId> = original.inputs.iter().map(|i| (i.id, fresh().into())).collect();
    let outputs: BTreeMap<OutputId, OutputId> = original.outputs.iter().map(|o| (o.id, fresh().into())).collect();
    let key = |id: FunctionId| functions.get(&id).copied().unwrap_or(id);
    let input = |id: InputId| inputs.get(&id).copied().unwrap_or(id);
    let mut copy = original.clone();
    copy.id = fresh().into();
    copy.functions.iter_mut().for_each(|function| function.id = key(function.id));
    for own in &mut copy.inputs {
        own.id = input(own.id);
        own.select = own.select.map(key);
    }
    for own in &mut copy.outputs {
        own.id = outputs.get(&own.id).copied().unwrap_or(own.id);
        own.returns = own.returns.map(input);
    }
    rekey(&mut copy, &key, &input);
    (copy, functions)
}

/// Points everything in a profile that names a key or an input to its new id.
fn rekey(profile: &mut Profile, key: &impl Fn(FunctionId) -> FunctionId, input: &impl Fn(InputId) -> InputId) {
    use crate::model::{AfterPowerOn, Mute};
    match &mut profile.power {
        Power::AlwaysOn | Power::Follows { .. } => {}
        Power::Discrete { on, off } | Power::NetworkWake { wake: on, off } => (*on, *off) = (key(*on), key(*off)),
        Power::Toggle { key: toggle } => *toggle = key(*toggle),
    }
    profile.wake_keys.iter_mut().for_each(|id| *id = key(*id));
    if let AfterPowerOn::Fixed { id } = &mut profile.after_power_on {
        *id = input(*id);
    }
    match &mut profile.selection {
        Selection::None | Selection::Discrete => {}
        Selection::Cycle { next, previous } => (*next, *previous) = (key(*next), previous.map(key)),
        Selection::Menu { open, next, previous, confirm, .. } => {
            for id in [open, next, previous, confirm] {
                *id = key(*id);
            }
        }
    }
    if let Some(motion) = &mut profile.motion {
        (motion.up, motion.down, motion.stop) = (key(motion.up), key(motion.down), motion.stop.map(key));
    }
    if let Some(skips) = &mut profile.skips {
        (skips.back, skips.forward) = (key(skips.back), key(skips.forward));
    }
    if let Some(volume) = &mut profile.volume {
        (volume.up, volume.down) = (key(volume.up), key(volume.down));
        match &mut volume.mute {
            Some(Mute::Discrete { on, off }) => (*on, *off) = (key(*on), key(*off)),
            Some(Mute::Toggle { key: toggle }) => *toggle = key(*toggle),
            None => {}
        }
    }
    for mode in &mut profile.modes {
        mode.next = mode.next.map(key);
        mode.values.iter_mut().for_each(|value| value.select = value.select.map(key));
    }
    for app in &mut profile.apps {
        if let Reach::Launch { function } = &mut app.reach {
            *function = key(*function);
        }
    }
}

/// The overrides of a device that still differ from its model.
#[must_use]
pub fn needed_overrides(model: &Profile, overrides: &[Override]) -> Vec<Override> {
    Override::differences(model, &crate::model::with_overrides(model, overrides))
}

/// Do two houses have an id in common? Pictures do not count: theirs say what is in them.
#[must_use]
pub fn share_ids(a: &Site, b: &Site) -> bool {
    let mut own = HashSet::new();
    super::ids_in(a, &mut |_, id| {
        own.insert(id);
    });
    let mut shared = false;
    super::ids_in(b, &mut |_, id| shared |= own.contains(&id));
    shared
}

/// A house in which everything has an id of its own. Photos keep theirs: they are not in the house itself. What was measured
/// and tested in the one is no evidence for the other, and stays behind.
#[must_use]
pub fn house(site: &Site, fresh: &mut impl FnMut() -> Uuid) -> Site {
    let mut others = BTreeMap::new();
    super::ids_in(site, &mut |_, id| {
        others.insert(id, fresh());
    });
    let bare = Site { measurements: Default::default(), results: Default::default(), ..leaving(site, Secrets::Kept) };
    let mut copy = with_ids(&bare, &others);
    copy.sort();
    copy
}
