//! What there may be once only: a name in its list, a cable between two plugs, a code of a function on a medium. And how
//! many there may be.

use super::{EditError, field};
use crate::id::{DeviceId, FunctionId, InputId, OutputId, RoomId};
use crate::model::{Entity, EntityKey, EntityKind, Medium, Site};
use std::collections::{HashMap, HashSet};

/// The most rooms, and activities, of a house.
pub(crate) const ROOMS_MAX: usize = 1_000;
pub(crate) const ACTIVITIES_MAX: usize = 5_000;

/// What an entity takes for itself.
#[derive(PartialEq, Eq, Hash)]
enum Place {
    Room(String),
    Activity(RoomId, String),
    Cable(DeviceId, OutputId, DeviceId, InputId),
    Code(DeviceId, FunctionId, Medium),
}

fn place(entity: &Entity) -> Option<Place> {
    Some(match entity {
        Entity::Room(room) => Place::Room(room.name.to_lowercase()),
        Entity::Activity(activity) => Place::Activity(activity.room, activity.name.to_lowercase()),
        Entity::Connection(c) => Place::Cable(c.from_device, c.from_output, c.to_device, c.to_input),
        Entity::Code(code) => Place::Code(code.device, code.function, code.body.medium()),
        _ => return None,
    })
}

/// Is it taken by another entity of the house?
fn taken(site: &Site, entity: &Entity) -> bool {
    match entity {
        Entity::Room(own) => {
            let name = own.name.to_lowercase();
            site.rooms.iter().any(|known| known.id != own.id && known.name.to_lowercase() == name)
        }
        Entity::Device(own) => {
            let name = own.name.to_lowercase();
            site.devices_in(own.room).any(|known| known.id != own.id && known.name.to_lowercase() == name)
        }
        Entity::Activity(own) => {
            let name = own.name.to_lowercase();
            let others = site.activities.iter().filter(|known| known.room == own.room && known.id != own.id);
            others.map(|known| known.name.to_lowercase()).any(|known| known == name)
        }
        Entity::Connection(own) => {
            let ends = place(entity);
            let others =
                site.connections.iter().filter(|known| known.id != own.id && known.from_device == own.from_device);
            others.map(|known| place(&Entity::Connection(*known))).any(|known| known == ends)
        }
        Entity::Code(own) => site
            .codes_of(own.device, own.function)
            .any(|known| known.id != own.id && known.body.medium() == own.body.medium()),
        _ => false,
    }
}

fn refused(entity: &Entity) -> EditError {
    let name = |what: &str, name: &str| field(what, format!("“{name}” is taken. Choose another name."));
    match entity {
        Entity::Room(own) => name("Name of the room", &own.name),
        Entity::Device(own) => name("Name of the device", &own.name),
        Entity::Activity(own) => name("Name of the activity", &own.name),
        Entity::Connection(_) => {
            field("Cable", "is there already, from this output to this input. Choose another plug.")
        }
        _ => field(
            "Code",
            "this function has a code of this kind already; someone saved one in the meantime. Reload and compare.",
        ),
    }
}

/// Is there a place for an entity beside the others of a house?
pub(super) fn beside(site: &Site, entity: &Entity) -> Result<(), EditError> {
    if taken(site, entity) {
        return Err(refused(entity));
    }
    let full = |what: &str, most: usize| field(what, format!("a house has {most} at most. Make another house."));
    match entity {
        Entity::Room(own) if site.rooms.len() >= ROOMS_MAX && site.room(own.id).is_none() => {
            Err(full("Rooms", ROOMS_MAX))
        }
        Entity::Activity(own) if site.activities.len() >= ACTIVITIES_MAX && site.activity(own.id).is_none() => {
            Err(full("Activities", ACTIVITIES_MAX))
        }
        _ => Ok(()),
    }
}

/// The same of all the entities of a house, each against all others, in one walk.
pub(super) fn among(entities: &[Entity]) -> Result<(), (EntityKey, EditError)> {
    let mut places = HashSet::new();
    let mut serving: HashMap<(RoomId, String), u32> = HashMap::new();
    for entity in entities {
        if let Entity::Device(device) = entity {
            for room in device.rooms() {
                *serving.entry((*room, device.name.to_lowercase())).or_default() += 1;
            }
        }
    }
    for entity in entities {
        if matches!(entity, Entity::Device(own) if serving.get(&(own.room, own.name.to_lowercase())) > Some(&1)) {
            return Err((entity.key(), refused(entity)));
        }
        if place(entity).is_some_and(|place| !places.insert(place)) {
            return Err((entity.key(), refused(entity)));
        }
    }
    let count = |kind: EntityKind| entities.iter().filter(move |entity| entity.key().kind == kind);
    for (kind, what, most) in
        [(EntityKind::Room, "Rooms", ROOMS_MAX), (EntityKind::Activity, "Activities", ACTIVITIES_MAX)]
    {
        if let Some(first) = count(kind).nth(most) {
            return Err((first.key(), field(what, format!("a house has {most} at most. Make another house."))));
        }
    }
    Ok(())
}
