//! Taking a full room away in one step: what goes with it, and what other rooms still need.

use super::Step;
use crate::id::{DeviceId, RoomId};
use crate::model::{Activity, Device, DeviceKind, Entity, Site};
use serde::Serialize;
use utoipa::ToSchema;

/// What goes with a room, in words for whoever is about to remove it.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, ToSchema)]
pub struct Going {
    /// Activities that go.
    pub activities: Vec<String>,
    /// Devices that go, with their codes and cables.
    pub devices: Vec<String>,
    /// Devices that other rooms use: they stay, and stand there from then on.
    pub moved: Vec<MovedDevice>,
    /// Codes that go.
    pub codes: usize,
    /// Surfaces that go.
    pub surfaces: usize,
    /// Lines of the cue sheet that go.
    pub cues: usize,
    /// Stories that go.
    pub stories: usize,
}

/// A device that stands in another room from then on.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct MovedDevice {
    /// Which.
    pub device: String,
    /// The room.
    pub room: String,
}

fn uses(activity: &Activity, device: DeviceId) -> bool {
    activity.source == device
        || activity.seen_on == Some(device)
        || activity.heard_on == Some(device)
        || activity.moves.iter().any(|own| own.device == device)
        || activity.extras.arrival.iter().any(|own| own.device == device)
        || activity.extras.settings.iter().any(|own| own.device == device)
}

/// The room in which a device of `room` is still needed, if any.
fn needed_in(site: &Site, room: RoomId, device: &Device) -> Option<RoomId> {
    let serves = device.serves.iter().copied().find(|&other| other != room && site.room(other).is_some());
    serves.or_else(|| site.activities.iter().find(|own| own.room != room && uses(own, device.id)).map(|own| own.room))
}

/// What goes with a room, and the steps that take it away, in their order.
#[must_use]
pub fn removal(site: &Site, id: RoomId) -> (Going, Vec<Step>) {
    let (mut going, mut steps) = (Going::default(), Vec::new());
    let Some(room) = site.room(id) else { return (going, steps) };
    for activity in site.activities.iter().filter(|own| own.room == id) {
        going.activities.push(activity.name.clone());
        steps.push(Step::Remove(Entity::Activity(activity.clone()).key()));
    }
    let mut gone = Vec::new();
    for device in site.devices.iter() {
        let serves: Vec<RoomId> = device.serves.iter().copied().filter(|&other| other != id).collect();
        if device.room == id {
            match needed_in(site, id, device) {
                Some(other) => {
                    let name = site.room(other).map_or_else(String::new, |room| room.name.clone());
                    going.moved.push(MovedDevice { device: device.name.clone(), room: name });
                    steps.push(Step::Put(Box::new(Entity::Device(Device { room: other, serves, ..device.clone() }))));
                }
                None => gone.push(device.clone()),
            }
        } else if device.serves.contains(&id) {
            steps.push(Step::Put(Box::new(Entity::Device(Device { serves, ..device.clone() }))));
        }
    }
    // A device of another room that was reached through a gateway of this one is reached as its model offers.
    for device in site.devices.iter().filter(|own| !gone.iter().any(|gone| gone.id == own.id)) {
        let mut device = device.clone();
        let before = device.paths.len();
        device.paths.retain(|path| !gone.iter().any(|gone| path.through == Some(gone.id)));
        if device.paths.len() < before {
            device.serves.retain(|&other| other != id);
            if let Some(Step::Put(known)) = steps.iter_mut().find(|step| is_device(step, device.id))
                && let Entity::Device(known) = known.as_mut()
            {
                known.paths = device.paths;
            } else {
                steps.push(Step::Put(Box::new(Entity::Device(device))));
            }
        }
    }
    let gateway = |own: &Device| site.model_of(own.id).is_some_and(|model| model.kind == DeviceKind::Gateway);
    gone.sort_by_key(|own| (through_it(site, own.id) || gateway(own), own.position));
    for device in gone {
        going.codes += site.codes.iter().filter(|code| code.device == device.id).count();
        going.devices.push(device.name.clone());
        steps.push(Step::Remove(Entity::Device(device).key()));
    }
    (going.surfaces, going.cues) = (room.surfaces.len(), room.lighting.cues.len());
    going.stories = room.rehearsal.stories.len();
    steps.push(Step::Remove(Entity::Room(room.into()).key()));
    (going, steps)
}

fn through_it(site: &Site, gateway: DeviceId) -> bool {
    site.devices.iter().any(|own| own.paths.iter().any(|path| path.through == Some(gateway)))
}

fn is_device(step: &Step, id: DeviceId) -> bool {
    matches!(step, Step::Put(entity) if matches!(entity.as_ref(), Entity::Device(own) if own.id == id))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::edit::{Edit, apply};

    fn without(site: &Site, room: RoomId) -> (Going, Site) {
        let (going, steps) = removal(site, room);
        let mut site = site.clone();
        for step in steps {
            let edit = match step {
                Step::Put(entity) => Edit::Put { entity: *entity, base: None },
                Step::Remove(key) => Edit::Remove { kind: key.kind, id: key.id, base: 0 },
            };
            apply(&mut site, &edit).unwrap_or_else(|error| panic!("{edit:?}: {error}"));
        }
        (going, site)
    }

    #[test]
    fn every_room_of_the_demo_house_can_be_removed_one_after_another_down_to_none() {
        let mut site = demo::marram_point();
        while let Some(room) = site.rooms.first().map(|room| room.id) {
            let (_, after) = without(&site, room);
            assert!(after.room(room).is_none());
            assert!(after.activities.iter().all(|own| own.room != room));
            assert!(after.devices.iter().all(|own| own.room != room && !own.serves.contains(&room)));
            crate::file::read(&crate::file::write(&after)).unwrap();
            site = after;
        }
        assert!(site.devices.is_empty() && site.activities.is_empty() && site.codes.is_empty());
    }

    #[test]
    fn a_device_that_another_room_uses_stays_and_stands_there() {
        let site = demo::marram_point();
        let tuner = site.devices.iter().find(|own| own.serves.len() > 1).unwrap().clone();
        let (going, after) = without(&site, tuner.room);
        let kept = after.device(tuner.id).unwrap();
        assert_ne!(kept.room, tuner.room);
        assert!(going.moved.iter().any(|moved| moved.device == tuner.name), "{going:?}");
        assert!(!going.devices.contains(&tuner.name));
    }

    #[test]
    fn what_goes_is_told_before() {
        let site = demo::marram_point();
        let (going, _) = removal(&site, ids::boat_hall());
        assert!(going.activities.contains(&"Feature film".to_owned()));
        assert!(going.devices.contains(&"Projector".to_owned()));
        let room = site.room(ids::boat_hall()).unwrap();
        assert_eq!((going.surfaces, going.cues), (room.surfaces.len(), room.lighting.cues.len()));
        assert!(going.codes > 20, "{}", going.codes);
    }
}
