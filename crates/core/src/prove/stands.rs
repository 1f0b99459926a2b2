//! What plans and proofs of a room rest on: as long as nothing of it has changed, they stand.

use crate::id::{DeviceId, RoomId};
use crate::model::{Activity, Cable, Code, Device, FloorPlan, Measurement, Profile, Room, Site};
use std::collections::BTreeSet;

/// Do the plans and proofs of a room that were made in one house stand in another, later one? A *no* may be too careful;
/// a *yes* is never wrong. Lists that were not touched are the same memory, which is seen at once.
#[must_use]
pub fn stands(then: &Site, now: &Site, room: RoomId) -> bool {
    std::ptr::eq(then, now)
        || (same_house(then, now)
            && then.room(room).map(own) == now.room(room).map(own)
            && same_devices(then, now, room)
            && same_places(then, now, room))
}

/// What light and radio meet: plans without what people sit on and what lamps shine. Radio passes the walls of every room.
fn same_places(then: &Site, now: &Site, room: RoomId) -> bool {
    if then.rooms.shares(&now.rooms) && then.placed.shares(&now.placed) {
        return true;
    }
    let walls = |room: &Room| FloorPlan {
        openings: vec![],
        seats: vec![],
        spots: vec![],
        lamps: vec![],
        daylight_lux: 0,
        ..room.floor.clone()
    };
    let drawn = |site: &Site| site.rooms.iter().any(|room| room.floor.is_drawn());
    if !drawn(then) && !drawn(now) {
        return true;
    }
    let concerned = concerned(now, room);
    let gateway =
        |device| crate::space::scene::optics(now, device).is_some_and(|own| own.emits.is_some() || own.radio.is_some());
    let of = |site: &Site| {
        let own = |own: &&crate::model::Placed| concerned.contains(&own.device) || gateway(own.device);
        site.placed.iter().filter(own).cloned().collect::<Vec<_>>()
    };
    then.rooms.iter().map(walls).eq(now.rooms.iter().map(walls)) && of(then) == of(now)
}

fn same_house(then: &Site, now: &Site) -> bool {
    let own = |site: &Site| (site.house.coverage_percent, site.house.path_order.clone(), site.house.place.clone());
    let rooms = |site: &Site| site.rooms.iter().map(|room| (room.id, room.name.clone())).collect::<Vec<_>>();
    own(then) == own(now) && (then.rooms.shares(&now.rooms) || rooms(then) == rooms(now))
}

/// A room without what people press and say, and without which notes were accepted: that moves no proof.
fn own(room: &Room) -> Room {
    Room { surfaces: vec![], voice: Default::default(), accepted: vec![], floor: Default::default(), ..room.clone() }
}

/// Cables, activities, and what concerns the room of devices, models and codes.
fn same_devices(then: &Site, now: &Site, room: RoomId) -> bool {
    let shared = then.devices.shares(&now.devices)
        && then.profiles.shares(&now.profiles)
        && then.activities.shares(&now.activities)
        && then.codes.shares(&now.codes)
        && then.measurements.shares(&now.measurements);
    if then.connections != now.connections {
        return false;
    }
    if shared {
        return true;
    }
    let (before, after) = (concerned(then, room), concerned(now, room));
    before == after
        && activities(then, room).eq(activities(now, room))
        && with_models(then, &before).eq(with_models(now, &after))
        && (then.codes.shares(&now.codes) || codes(then, &before).eq(codes(now, &after)))
        && (then.measurements.shares(&now.measurements) || readings(then, &before).eq(readings(now, &after)))
}

/// The devices that a plan of the room may speak of: those that serve it or are named by its activities, the gateways and
/// screens that these name, and whatever hangs on them by a cable that carries picture, sound or a switching signal.
fn concerned(site: &Site, room: RoomId) -> BTreeSet<DeviceId> {
    let mut all: BTreeSet<DeviceId> = site.devices_in(room).map(|device| device.id).collect();
    for activity in activities(site, room) {
        all.insert(activity.source);
        all.extend(activity.seen_on.into_iter().chain(activity.heard_on));
        all.extend(activity.moves.iter().map(|movement| movement.device));
    }
    let named =
        |device: &Device| device.paths.iter().filter_map(|path| path.through).chain(device.behind).collect::<Vec<_>>();
    let more: Vec<DeviceId> = devices(site, &all).flat_map(named).collect();
    all.extend(more);
    let carries: Vec<_> = site.connections.iter().filter(|cable| site.cable(cable) != Some(Cable::Network)).collect();
    loop {
        let reached = carries.iter().filter(|cable| all.contains(&cable.from_device) != all.contains(&cable.to_device));
        let reached: Vec<DeviceId> = reached.flat_map(|cable| [cable.from_device, cable.to_device]).collect();
        if reached.is_empty() {
            return all;
        }
        all.extend(reached);
    }
}

fn devices<'a>(site: &'a Site, which: &BTreeSet<DeviceId>) -> impl Iterator<Item = &'a Device> {
    site.devices.iter().filter(|device| which.contains(&device.id))
}

fn with_models<'a>(
    site: &'a Site,
    which: &BTreeSet<DeviceId>,
) -> impl Iterator<Item = (&'a Device, Option<&'a Profile>)> {
    devices(site, which).map(|device| (device, site.profile(device.profile)))
}

fn codes<'a>(site: &'a Site, which: &BTreeSet<DeviceId>) -> impl Iterator<Item = &'a Code> {
    site.codes.iter().filter(|code| which.contains(&code.device))
}

fn readings<'a>(site: &'a Site, which: &BTreeSet<DeviceId>) -> impl Iterator<Item = &'a Measurement> {
    site.measurements.iter().filter(|own| which.contains(&own.device))
}

fn activities(site: &Site, room: RoomId) -> impl Iterator<Item = &Activity> {
    site.activities.iter().filter(move |activity| activity.room == room)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::check::planned;
    use crate::demo::{self, ids};
    use crate::edit::{Edit, apply};
    use crate::model::{Entity, entities};
    use crate::prove::Analysis;

    #[test]
    fn proofs_stand_until_something_of_their_room_is_edited() {
        let before = demo::marram_point();
        let room = ids::chart_loft();
        assert!(stands(&before, &before.clone(), room));
        let edited = |change: fn(&mut Site)| {
            let mut after = before.clone();
            change(&mut after);
            stands(&before, &after, room)
        };
        assert!(edited(|site| site.house.name.push('!')));
        assert!(
            edited(|site| site.devices.find_mut(|d| d.id == ids::projector()).unwrap().name.push('!')),
            "elsewhere"
        );
        assert!(edited(|site| site.rooms.find_mut(|r| r.id == ids::chart_loft()).unwrap().surfaces.clear()));
        assert!(!edited(|site| site.house.coverage_percent += 1));
        assert!(!edited(|site| site.devices.find_mut(|d| d.id == ids::loft_display()).unwrap().name.push('!')));
        assert!(!edited(|site| site.connections.clear()));
        assert!(!edited(|site| site.activities.find_mut(|a| a.room == ids::chart_loft()).unwrap().name.push('!')));
    }

    /// The house with one of its devices, models, rooms or activities changed in all that a plan may tell of it.
    fn changed(before: &Site) -> Vec<Site> {
        let mut all = Vec::new();
        let mut with = |change: &dyn Fn(&mut Site)| {
            let mut after = before.clone();
            change(&mut after);
            all.push(after);
        };
        for at in 0..before.devices.len() {
            with(&|site| site.devices[at].name.push('!'));
            with(&|site| site.devices[at].paths.clear());
        }
        for at in 0..before.profiles.len() {
            with(&|site| {
                let profile = &mut site.profiles[at];
                profile.model.push('!');
                profile.times.warm_up.hi_ms += 1_000;
                profile.times.gap_ms += 100;
                profile.inputs.iter_mut().for_each(|input| input.name.push('!'));
                profile.functions.iter_mut().for_each(|function| function.name.push('!'));
            });
        }
        for at in 0..before.activities.len() {
            with(&|site| site.activities[at].name.push('!'));
        }
        for at in 0..before.rooms.len() {
            with(&|site| site.rooms[at].lighting.zones.iter_mut().for_each(|zone| zone.name.push('!')));
            with(&|site| site.rooms[at].lighting.cues.clear());
        }
        all
    }

    /// Whatever is changed: where the plans of a room are said to stand, they are the same.
    #[test]
    fn what_is_said_to_stand_says_the_same_after_every_change() {
        let before = demo::marram_point();
        for room in [ids::watch_room(), ids::chart_loft(), ids::slip_deck()] {
            let plans = planned(&before, room);
            let (mut stood, mut fell) = (0, 0);
            for after in changed(&before) {
                if stands(&before, &after, room) {
                    stood += 1;
                    assert_eq!(planned(&after, room), plans);
                } else {
                    fell += 1;
                }
            }
            assert!(stood > 60 && fell > 5, "{stood} changes leave the room alone, {fell} do not");
        }
    }

    /// A gateway that stands in another room, and a box that only passes the sound on, are told of in plans.
    #[test]
    fn what_stands_elsewhere_and_is_spoken_of_here_counts() {
        let mut before = demo::marram_point();
        let room = ids::watch_room();
        before.devices.find_mut(|d| d.id == ids::watch_display()).unwrap().paths = vec![crate::model::ControlPath {
            through: Some(ids::loft_gateway()),
            ..before.device(ids::projector()).unwrap().paths[0].clone()
        }];
        let mut after = before.clone();
        after.devices.find_mut(|d| d.id == ids::loft_gateway()).unwrap().name.push('!');
        assert!(!stands(&before, &after, room));
        assert!(stands(&before, &after, ids::tidy_cabin()));
    }

    /// Whatever entity of the house is taken out: where the plans of a room are said to stand, they are the same.
    #[test]
    fn what_is_said_to_stand_is_worked_out_the_same_anew() {
        let before = demo::marram_point();
        let room = ids::tidy_cabin();
        let (plans, matrix) = (planned(&before, room), Analysis::of(&before, room).matrix());
        let mut stood = 0;
        for entity in entities(&before) {
            let key = entity.key();
            let mut after = before.clone();
            let taken = match &entity {
                Entity::House(_) => Ok(vec![]),
                _ => apply(&mut after, &Edit::Remove { kind: key.kind, id: key.id, base: 0 }),
            };
            if taken.is_ok() && stands(&before, &after, room) {
                stood += 1;
                assert_eq!(planned(&after, room), plans, "{key:?}");
                if stood % 10 == 0 {
                    assert_eq!(Analysis::of(&after, room).matrix(), matrix, "{key:?}");
                }
            }
        }
        assert!(stood > 50, "{stood} entities were taken out without a change of this room");
    }
}
