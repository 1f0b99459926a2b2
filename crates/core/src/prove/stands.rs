//! What plans and proofs of a room rest on: as long as nothing of it has changed, they stand.

use crate::id::{DeviceId, RoomId};
use crate::model::{Code, Device, Room, Site};

/// Do the plans and proofs of a room that were made in one house stand in another, later one? A *no* may be too careful;
/// a *yes* is never wrong. Lists that were not touched are the same memory, which is seen at once.
#[must_use]
pub fn stands(then: &Site, now: &Site, room: RoomId) -> bool {
    std::ptr::eq(then, now)
        || (same_house(then, now)
            && then.room(room).map(own) == now.room(room).map(own)
            && same_devices(then, now, room)
            && (then.connections == now.connections)
            && same_codes(then, now, room)
            && (then.activities.shares(&now.activities) || of(then, room).eq(of(now, room))))
}

fn same_house(then: &Site, now: &Site) -> bool {
    let own = |site: &Site| (site.house.coverage_percent, site.house.path_order.clone(), site.house.place.clone());
    let rooms = |site: &Site| site.rooms.iter().map(|room| (room.id, room.name.clone())).collect::<Vec<_>>();
    own(then) == own(now) && (then.rooms.shares(&now.rooms) || rooms(then) == rooms(now))
}

/// A room without what people press and say, and without which notes were accepted: that moves no proof.
fn own(room: &Room) -> Room {
    Room { surfaces: vec![], voice: Default::default(), accepted: vec![], ..room.clone() }
}

fn same_devices(then: &Site, now: &Site, room: RoomId) -> bool {
    if then.devices.shares(&now.devices) && then.profiles.shares(&now.profiles) {
        return true;
    }
    let same = |(a, b): (&Device, &Device)| a == b && then.profile(a.profile) == now.profile(b.profile);
    then.devices_in(room).count() == now.devices_in(room).count()
        && then.devices_in(room).zip(now.devices_in(room)).all(same)
}

fn same_codes(then: &Site, now: &Site, room: RoomId) -> bool {
    let inside = |site: &Site, device: DeviceId| site.device(device).is_some_and(|device| device.serves(room));
    let codes =
        |site: &Site| -> Vec<Code> { site.codes.iter().filter(|code| inside(site, code.device)).cloned().collect() };
    then.codes.shares(&now.codes) || codes(then) == codes(now)
}

fn of(site: &Site, room: RoomId) -> impl Iterator<Item = &crate::model::Activity> {
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
