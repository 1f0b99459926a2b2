//! Entities of a site: found, listed, put in their places, taken out. Nothing is checked here.

use super::{
    Entity, EntityKey, EntityKind, FloorPlan, InRoom, Lighting, List, Room, RoomCard, RoomLight, RoomPlans, Site,
    Voice, gateways_first,
};
use crate::id::RoomId;

/// Finds an entity. What there is one of in a room is not there while it is empty.
#[must_use]
pub fn find(site: &Site, key: EntityKey) -> Option<Entity> {
    let id = key.id;
    let room = || site.rooms.iter().find(|room| room.id.0 == id);
    match key.kind {
        EntityKind::House => (site.house.id.0 == id).then(|| Entity::House(site.house.clone())),
        EntityKind::Room => room().map(|room| Entity::Room(RoomCard::from(room))),
        EntityKind::Profile => site.profiles.iter().find(|e| e.id.0 == id).cloned().map(Entity::Profile),
        EntityKind::Device => site.devices.iter().find(|e| e.id.0 == id).cloned().map(Entity::Device),
        EntityKind::Connection => site.connections.iter().find(|e| e.id.0 == id).copied().map(Entity::Connection),
        EntityKind::Code => site.codes.iter().find(|e| e.id.0 == id).cloned().map(Entity::Code),
        EntityKind::Activity => site.activities.iter().find(|e| e.id.0 == id).cloned().map(Entity::Activity),
        EntityKind::CodeSet => site.code_sets.iter().find(|e| e.id.0 == id).cloned().map(Entity::CodeSet),
        EntityKind::Picture => site.pictures.iter().find(|e| e.id.0 == id).cloned().map(Entity::Picture),
        EntityKind::Measurement => site.measurements.of_id(id).cloned().map(Entity::Measurement),
        EntityKind::Result => site.results.of_id(id).cloned().map(Entity::Result),
        EntityKind::Order => site.orders.of_id(id).cloned().map(Entity::Order),
        EntityKind::Protocol => site.protocols.of_id(id).cloned().map(Entity::Protocol),
        EntityKind::Placed => site.placed.of_id(id).cloned().map(Entity::Placed),
        EntityKind::Light | EntityKind::Voice | EntityKind::Plans | EntityKind::Floor => {
            room().and_then(|room| parts(room).into_iter().find(|part| part.key() == key))
        }
        EntityKind::Cue | EntityKind::Surface | EntityKind::Story | EntityKind::Accepted => {
            site.rooms.iter().find_map(|room| part(room, key))
        }
    }
}

/// One of the many things of a room.
fn part(room: &Room, key: EntityKey) -> Option<Entity> {
    let id = key.id;
    match key.kind {
        EntityKind::Cue => {
            let own = room.lighting.cues.iter().find(|e| e.id.0 == id).cloned();
            own.map(|own| Entity::Cue(InRoom::new(room.id, own)))
        }
        EntityKind::Surface => {
            let own = room.surfaces.iter().find(|e| e.id.0 == id).cloned();
            own.map(|own| Entity::Surface(InRoom::new(room.id, own)))
        }
        EntityKind::Story => {
            let own = room.rehearsal.stories.iter().find(|e| e.id.0 == id).cloned();
            own.map(|own| Entity::Story(InRoom::new(room.id, own)))
        }
        EntityKind::Accepted => {
            let own = room.accepted.iter().find(|e| e.id.0 == id).cloned();
            own.map(|own| Entity::Accepted(InRoom::new(room.id, own)))
        }
        _ => None,
    }
}

/// Everything of a room that is edited by itself, each after those that it refers to.
#[must_use]
pub fn parts(room: &Room) -> Vec<Entity> {
    let one_each = [
        Entity::Light(RoomLight::of(room.id, &room.lighting)),
        Entity::Voice(InRoom::new(room.id, room.voice.clone())),
        Entity::Plans(InRoom::new(room.id, room.plans.clone())),
        Entity::Floor(InRoom::new(room.id, room.floor.clone())),
    ];
    let mut all: Vec<Entity> = one_each.into_iter().filter(|part| !part.is_empty()).collect();
    all.extend(room.lighting.cues.iter().map(|own| Entity::Cue(InRoom::new(room.id, own.clone()))));
    all.extend(room.surfaces.iter().map(|own| Entity::Surface(InRoom::new(room.id, own.clone()))));
    all.extend(room.rehearsal.stories.iter().map(|own| Entity::Story(InRoom::new(room.id, own.clone()))));
    all.extend(room.accepted.iter().map(|own| Entity::Accepted(InRoom::new(room.id, own.clone()))));
    all
}

/// Every entity of a site, each after those that it refers to.
#[must_use]
pub fn entities(site: &Site) -> Vec<Entity> {
    let mut all = vec![Entity::House(site.house.clone())];
    all.extend(site.rooms.iter().map(|room| Entity::Room(RoomCard::from(room))));
    all.extend(site.profiles.iter().cloned().map(Entity::Profile));
    all.extend(gateways_first(&site.devices).into_iter().cloned().map(Entity::Device));
    all.extend(site.connections.iter().copied().map(Entity::Connection));
    all.extend(site.codes.iter().cloned().map(Entity::Code));
    all.extend(site.activities.iter().cloned().map(Entity::Activity));
    all.extend(site.code_sets.iter().cloned().map(Entity::CodeSet));
    all.extend(site.pictures.iter().cloned().map(Entity::Picture));
    all.extend(site.rooms.iter().flat_map(parts));
    all.extend(site.protocols.iter().cloned().map(Entity::Protocol));
    all.extend(site.placed.iter().cloned().map(Entity::Placed));
    all.extend(site.measurements.iter().cloned().map(Entity::Measurement));
    all.extend(site.results.iter().cloned().map(Entity::Result));
    all.extend(site.orders.iter().cloned().map(Entity::Order));
    all
}

impl Site {
    /// Puts an entity in its place, in place of the one with its id.
    pub fn put(&mut self, entity: Entity) {
        let site = self;
        let key = entity.key();
        let id = key.id;
        match entity {
            Entity::House(e) => site.house = e,
            Entity::Room(e) => set_room(site, e),
            Entity::Profile(e) => place(&mut site.profiles, |known| known.id.0 == id, Some(e)),
            Entity::Device(e) => place(&mut site.devices, |known| known.id.0 == id, Some(e)),
            Entity::Connection(e) => place(&mut site.connections, |known| known.id.0 == id, Some(e)),
            Entity::Code(e) => place(&mut site.codes, |known| known.id.0 == id, Some(e)),
            Entity::Activity(e) => place(&mut site.activities, |known| known.id.0 == id, Some(e)),
            Entity::CodeSet(e) => place(&mut site.code_sets, |known| known.id.0 == id, Some(e)),
            Entity::Picture(e) => place(&mut site.pictures, |known| known.id.0 == id, Some(e)),
            Entity::Measurement(e) => place(&mut site.measurements, |known| known.id.0 == id, Some(e)),
            Entity::Result(e) => place(&mut site.results, |known| known.id.0 == id, Some(e)),
            Entity::Protocol(e) => place(&mut site.protocols, |known| known.id.0 == id, Some(e)),
            Entity::Placed(e) => place(&mut site.placed, |known| known.id.0 == id, Some(e)),
            Entity::Order(e) => place(&mut site.orders, |known| known.id.0 == id, Some(e)),
            part => {
                // A part that has moved to another room leaves the one where it was.
                let from = find(site, key).and_then(|known| known.part_of());
                if from != part.part_of() && !key.kind.one_a_room() {
                    set_part(site, from, key, None);
                }
                set_part(site, part.part_of(), key, Some(part));
            }
        }
    }

    /// Takes an entity out.
    pub fn take(&mut self, key: EntityKey) {
        let site = self;
        let id = key.id;
        match key.kind {
            EntityKind::House => {}
            EntityKind::Room => site.rooms.retain(|known| known.id.0 != id),
            EntityKind::Profile => site.profiles.retain(|known| known.id.0 != id),
            EntityKind::Device => site.devices.retain(|known| known.id.0 != id),
            EntityKind::Connection => site.connections.retain(|known| known.id.0 != id),
            EntityKind::Code => site.codes.retain(|known| known.id.0 != id),
            EntityKind::Activity => site.activities.retain(|known| known.id.0 != id),
            EntityKind::CodeSet => site.code_sets.retain(|known| known.id.0 != id),
            EntityKind::Picture => site.pictures.retain(|known| known.id.0 != id),
            EntityKind::Measurement => site.measurements.retain(|known| known.id.0 != id),
            EntityKind::Result => site.results.retain(|known| known.id.0 != id),
            EntityKind::Order => site.orders.retain(|known| known.id.0 != id),
            EntityKind::Protocol => site.protocols.retain(|known| known.id.0 != id),
            EntityKind::Placed => site.placed.retain(|known| known.id.0 != id),
            EntityKind::Light | EntityKind::Voice | EntityKind::Plans | EntityKind::Floor => {
                set_part(site, Some(RoomId(id)), key, None)
            }
            _ => {
                let room = find(site, key).and_then(|known| known.part_of());
                set_part(site, room, key, None);
            }
        }
    }
}

/// Puts an item in the place of the one with its id, or at the end; takes it out where there is none after.
fn place<T: Clone>(list: &mut List<T>, is: impl Fn(&T) -> bool, after: Option<T>) {
    match after {
        None => list.retain(|item| !is(item)),
        Some(after) => match list.find_mut(&is) {
            Some(item) => *item = after,
            None => list.push(after),
        },
    }
}

fn place_in<T>(list: &mut Vec<T>, is: impl Fn(&T) -> bool, after: Option<T>) {
    match (list.iter().position(is), after) {
        (Some(at), Some(after)) => list[at] = after,
        (Some(at), None) => drop(list.remove(at)),
        (None, after) => list.extend(after),
    }
}

/// A room keeps what is edited by itself.
fn set_room(site: &mut Site, card: RoomCard) {
    match site.rooms.find_mut(|room| room.id == card.id) {
        Some(room) => {
            (room.name, room.position, room.rack) = (card.name, card.position, card.rack);
            room.rehearsal.adoption = card.adoption;
        }
        None => site.rooms.push(Room::from(card)),
    }
}

fn set_part(site: &mut Site, room: Option<RoomId>, key: EntityKey, part: Option<Entity>) {
    let Some(room) = room.and_then(|id| site.rooms.find_mut(|room| room.id == id)) else { return };
    let id = key.id;
    match (key.kind, part) {
        (EntityKind::Light, part) => {
            let light = match part {
                Some(Entity::Light(light)) => light,
                _ => RoomLight::of(room.id, &Lighting::default()),
            };
            room.lighting = Lighting {
                zones: light.zones,
                looks: light.looks,
                switches: light.switches,
                exit: light.exit,
                cues: std::mem::take(&mut room.lighting.cues),
            };
        }
        (EntityKind::Voice, Some(Entity::Voice(voice))) => room.voice = voice.own,
        (EntityKind::Voice, _) => room.voice = Voice::default(),
        (EntityKind::Plans, Some(Entity::Plans(plans))) => room.plans = plans.own,
        (EntityKind::Plans, _) => room.plans = RoomPlans::default(),
        (EntityKind::Floor, Some(Entity::Floor(floor))) => room.floor = floor.own,
        (EntityKind::Floor, _) => room.floor = FloorPlan::default(),
        (EntityKind::Cue, part) => {
            let own = part.and_then(|part| if let Entity::Cue(cue) = part { Some(cue.own) } else { None });
            place_in(&mut room.lighting.cues, |known| known.id.0 == id, own);
        }
        (EntityKind::Surface, part) => {
            let own = part.and_then(|part| if let Entity::Surface(surface) = part { Some(surface.own) } else { None });
            place_in(&mut room.surfaces, |known| known.id.0 == id, own);
        }
        (EntityKind::Story, part) => {
            let own = part.and_then(|part| if let Entity::Story(story) = part { Some(story.own) } else { None });
            place_in(&mut room.rehearsal.stories, |known| known.id.0 == id, own);
        }
        (EntityKind::Accepted, part) => {
            let own = part.and_then(|part| if let Entity::Accepted(found) = part { Some(found.own) } else { None });
            place_in(&mut room.accepted, |known| known.id.0 == id, own);
        }
        _ => {}
    }
}
