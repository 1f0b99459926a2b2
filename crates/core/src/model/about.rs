//! What an entity is about: the rooms and the devices that a change of it concerns.

use super::{Entity, Profile, Site, TestOf};
use crate::id::{DeviceId, RoomId};
use std::collections::BTreeSet;

/// The rooms and the devices that something concerns.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct About {
    /// Rooms; none where it concerns the house, or nothing that is still there.
    pub rooms: BTreeSet<RoomId>,
    /// Devices.
    pub devices: BTreeSet<DeviceId>,
}

impl About {
    /// One room.
    #[must_use]
    pub fn room(room: RoomId) -> Self {
        Self { rooms: BTreeSet::from([room]), devices: BTreeSet::new() }
    }

    /// One device, the room that it stands in, and every room that it serves.
    #[must_use]
    pub fn device(site: &Site, device: DeviceId) -> Self {
        let own = site.device(device).into_iter();
        let rooms = own.flat_map(|own| own.rooms().iter().copied().chain([own.room])).collect();
        Self { rooms, devices: BTreeSet::from([device]) }
    }

    /// Both.
    pub fn and(&mut self, other: Self) {
        self.rooms.extend(other.rooms);
        self.devices.extend(other.devices);
    }
}

impl Entity {
    /// What it is about, in the house as it is.
    #[must_use]
    pub fn about(&self, site: &Site) -> About {
        match self {
            Self::Room(own) => About::room(own.id),
            Self::Device(own) => About::device(site, own.id),
            Self::Code(own) => About::device(site, own.device),
            Self::Measurement(own) => About::device(site, own.device),
            Self::Placed(own) => About::device(site, own.device),
            Self::Profile(own) => of_model(site, own),
            Self::Connection(own) => {
                let mut both = About::device(site, own.from_device);
                both.and(About::device(site, own.to_device));
                both
            }
            Self::Activity(own) => About::room(own.room),
            Self::Order(own) => own.room.map(About::room).unwrap_or_default(),
            Self::Result(own) => of_test(site, &own.of),
            Self::Light(_)
            | Self::Cue(_)
            | Self::Surface(_)
            | Self::Story(_)
            | Self::Voice(_)
            | Self::Plans(_)
            | Self::Floor(_)
            | Self::Accepted(_) => self.part_of().map(About::room).unwrap_or_default(),
            Self::House(_) | Self::CodeSet(_) | Self::Picture(_) | Self::Protocol(_) => About::default(),
        }
    }
}

/// A model is about every device that is one.
fn of_model(site: &Site, model: &Profile) -> About {
    let mut all = About::default();
    for device in site.devices.iter().filter(|device| device.profile == model.id) {
        all.and(About::device(site, device.id));
    }
    all
}

fn of_test(site: &Site, test: &TestOf) -> About {
    let found = |room: Option<RoomId>| room.map(About::room).unwrap_or_default();
    match test {
        TestOf::Function { device, .. }
        | TestOf::Wait { device, .. }
        | TestOf::Stop { device }
        | TestOf::Ceiling { device }
        | TestOf::InStep { device, .. } => About::device(site, *device),
        TestOf::Switch { room, .. }
        | TestOf::WayOut { room }
        | TestOf::MainsBack { room }
        | TestOf::Phrase { room, .. } => About::room(*room),
        TestOf::Cue { cue } => found(site.cue(*cue).map(|(room, _)| room.id)),
        TestOf::Key { surface, .. } | TestOf::Label { surface } => {
            found(site.rooms.iter().find(|room| room.surface(*surface).is_some()).map(|room| room.id))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::model::{EntityKind, entities};

    fn of(site: &Site, kind: EntityKind) -> Vec<(Entity, About)> {
        let all = entities(site).into_iter().filter(|own| own.key().kind == kind);
        all.map(|own| (own.clone(), own.about(site))).collect()
    }

    #[test]
    fn a_device_concerns_every_room_that_it_serves_and_its_model_every_device_that_is_one() {
        let site = demo::with_disc();
        for (own, about) in of(&site, EntityKind::Device) {
            let Entity::Device(device) = own else { unreachable!() };
            assert_eq!(about.rooms, device.rooms().iter().copied().chain([device.room]).collect());
            assert_eq!(about.devices, BTreeSet::from([device.id]));
        }
        let receiver = site.device(ids::receiver()).unwrap();
        let model = of(&site, EntityKind::Profile);
        let (_, about) = model.iter().find(|(own, _)| own.key().id == receiver.profile.0).unwrap();
        assert!(about.devices.contains(&receiver.id) && about.rooms.contains(&ids::boat_hall()));
    }

    #[test]
    fn a_cable_concerns_both_of_its_ends() {
        let site = demo::with_disc();
        for (own, about) in of(&site, EntityKind::Connection) {
            let Entity::Connection(cable) = own else { unreachable!() };
            assert_eq!(about.devices, BTreeSet::from([cable.from_device, cable.to_device]));
        }
    }

    #[test]
    fn every_result_of_the_demo_concerns_a_room_of_it() {
        let site = demo::with_disc();
        let results = of(&site, EntityKind::Result);
        assert!(!results.is_empty());
        for (own, about) in results {
            assert!(!about.rooms.is_empty(), "{own:?}");
        }
    }

    #[test]
    fn the_house_concerns_no_room_more_than_another() {
        let site = demo::with_disc();
        assert_eq!(of(&site, EntityKind::House)[0].1, About::default());
    }
}
