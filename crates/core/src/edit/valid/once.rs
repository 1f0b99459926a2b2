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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::edit::{Edit, apply};
    use crate::file;
    use crate::model::{Activity, RoomCard};
    use rstest::rstest;
    use uuid::Uuid;

    fn put(site: &mut Site, entity: Entity) -> Result<(), String> {
        apply(site, &Edit::Put { entity, base: None }).map(|_| ()).map_err(|error| error.to_string())
    }

    /// A copy of something under another id: its place is taken.
    fn twin(site: &Site, kind: EntityKind) -> Entity {
        let id = Uuid::from_u128(77);
        match kind {
            EntityKind::Room => {
                let card = RoomCard::from(site.room(ids::boat_hall()).unwrap());
                Entity::Room(RoomCard { id: id.into(), name: card.name.to_uppercase(), ..card })
            }
            EntityKind::Device => {
                let mut own = site.device(ids::receiver()).unwrap().clone();
                (own.id, own.name) = (id.into(), own.name.to_uppercase());
                Entity::Device(own)
            }
            EntityKind::Activity => {
                let own = site.activity(ids::feature_film()).unwrap().clone();
                Entity::Activity(Activity { id: id.into(), name: own.name.to_lowercase(), ..own })
            }
            EntityKind::Connection => {
                let mut own = site.connections[0];
                own.id = id.into();
                Entity::Connection(own)
            }
            _ => {
                let mut own = site.codes[0].clone();
                own.id = id.into();
                Entity::Code(own)
            }
        }
    }

    #[rstest]
    #[case::room(EntityKind::Room, "“BOAT HALL” is taken")]
    #[case::device(EntityKind::Device, "is taken. Choose another name")]
    #[case::activity(EntityKind::Activity, "“feature film” is taken")]
    #[case::cable(EntityKind::Connection, "is there already, from this output to this input")]
    #[case::code(EntityKind::Code, "this function has a code of this kind already")]
    fn what_there_may_be_once_is_refused_twice_by_an_edit_and_in_a_file(#[case] kind: EntityKind, #[case] says: &str) {
        let mut site = demo::marram_point();
        let twin = twin(&site, kind);
        let refused = put(&mut site, twin.clone()).unwrap_err();
        assert!(refused.contains(says), "{refused}");
        assert_eq!(site, demo::marram_point(), "nothing was changed");
        // A file is no way around it.
        site.put(twin);
        let refused = file::read(&file::write(&site)).unwrap_err().to_string().to_lowercase();
        assert!(refused.contains(&says.to_lowercase()), "{refused}");
    }

    #[test]
    fn what_is_put_again_does_not_stand_in_its_own_way() {
        let mut site = demo::marram_point();
        for entity in crate::model::entities(&demo::marram_point()) {
            assert_eq!(beside(&site, &entity).map_err(|error| error.to_string()), Ok(()), "{:?}", entity.key());
        }
        let own = site.activity(ids::feature_film()).unwrap().clone();
        assert_eq!(put(&mut site, Entity::Activity(Activity { name: "FEATURE FILM".to_owned(), ..own })), Ok(()));
    }

    #[test]
    fn a_name_that_another_room_has_is_free_here() {
        let mut site = demo::marram_point();
        let mut own = site.device(ids::receiver()).unwrap().clone();
        (own.id, own.room, own.serves) = (Uuid::from_u128(78).into(), ids::slip_deck(), vec![]);
        assert_eq!(put(&mut site, Entity::Device(own.clone())), Ok(()));
        assert!(file::read(&file::write(&site)).is_ok());
        // Where it serves the hall as well, the hall has two of that name.
        own.serves = vec![ids::slip_deck(), ids::boat_hall()];
        site.put(Entity::Device(own));
        let refused = file::read(&file::write(&site)).unwrap_err().to_string();
        assert!(refused.contains("is taken"), "{refused}");
    }

    #[test]
    fn a_house_has_so_many_rooms_and_not_one_more() {
        let mut site = demo::marram_point();
        let room = |n: usize| RoomCard {
            id: Uuid::from_u128(n as u128 + 1_000).into(),
            name: format!("Room {n}"),
            position: 0,
            rack: false,
            adoption: crate::model::Adoption::default(),
        };
        let mut number = 0;
        while site.rooms.len() < ROOMS_MAX {
            number += 1;
            site.put(Entity::Room(room(number)));
        }
        let refused = put(&mut site, Entity::Room(room(number + 1))).unwrap_err();
        assert_eq!(refused, "Rooms: a house has 1000 at most. Make another house.");
        let last = RoomCard { name: "The last".to_owned(), ..room(number) };
        assert_eq!(put(&mut site, Entity::Room(last)), Ok(()), "one that is there can still be changed");
    }

    #[rstest]
    #[case(1_000_000, true)]
    #[case(1_000_001, false)]
    #[case(u32::MAX, false)]
    fn a_place_in_a_list_is_a_number_after_which_there_is_another(#[case] position: u32, #[case] fits: bool) {
        let mut site = demo::marram_point();
        let own = site.activity(ids::feature_film()).unwrap().clone();
        let done = put(&mut site, Entity::Activity(Activity { position, ..own }));
        assert_eq!(done.is_ok(), fits, "{done:?}");
    }
}
