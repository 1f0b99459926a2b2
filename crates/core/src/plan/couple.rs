//! Which devices of a room switch each other, read from wiring and profiles.

use crate::device::group::{CoupledBy, CouplingAct};
use crate::device::{Group, Window};
use crate::id::{DeviceId, InputId, RoomId};
use crate::model::{Cable, Power, Site};
use std::collections::{BTreeMap, BTreeSet, VecDeque};

/// A link between devices, before it has found its group.
struct Loose {
    from: DeviceId,
    to: DeviceId,
    on: bool,
    deed: CouplingAct,
    delay: Window,
}

/// The devices of a room in groups, each in the order of the room: joined where one can switch another,
/// alone where nothing couples them.
#[must_use]
pub fn groups(site: &Site, room: RoomId) -> Vec<Group<'_>> {
    let devices: Vec<DeviceId> = site.devices_in(room).map(|device| device.id).collect();
    let links = links(site, &devices);
    let mut leader: BTreeMap<DeviceId, DeviceId> = devices.iter().map(|&device| (device, device)).collect();
    for link in &links {
        let (a, b) = (leader[&link.from], leader[&link.to]);
        leader.values_mut().filter(|known| **known == b).for_each(|known| *known = a);
    }
    let mut groups: Vec<(DeviceId, Group<'_>)> = Vec::new();
    for &device in &devices {
        let Some(machine) = site.automaton(device) else { continue };
        match groups.iter_mut().find(|(known, _)| *known == leader[&device]) {
            Some((_, group)) => group.members.push((device, machine)),
            None => groups.push((leader[&device], Group::single(device, machine))),
        }
    }
    for (_, group) in &mut groups {
        let own = links.iter().filter_map(|link| {
            let (from, to) = (group.place(link.from)?, group.place(link.to)?);
            Some(CoupledBy { from, to, on: link.on, deed: link.deed, delay: link.delay })
        });
        let own: Vec<CoupledBy> = own.collect();
        group.links = own;
    }
    groups.into_iter().map(|(_, group)| group).collect()
}

fn links(site: &Site, devices: &[DeviceId]) -> Vec<Loose> {
    let mut links = Vec::new();
    let inside = |device: DeviceId| devices.contains(&device);
    for connection in &site.connections {
        let (from, to) = (connection.from_device, connection.to_device);
        let drives = site.cable(connection).is_some_and(Cable::drives_power);
        if drives
            && inside(from)
            && inside(to)
            && let Some(Power::Follows { delay }) = site.profile_of(to).map(|profile| profile.power)
        {
            let follow = |on| Loose { from, to, on, deed: CouplingAct::Follow(on), delay: delay.into() };
            links.extend([follow(true), follow(false)]);
        }
    }
    for &device in devices {
        let Some(own) = site.profile_of(device).and_then(|profile| profile.couples) else { continue };
        for (other, input, downstream) in along_hdmi(site, device) {
            let Some(theirs) = site.profile_of(other).and_then(|profile| profile.couples) else { continue };
            if !inside(other) {
                continue;
            }
            if own.wakes && theirs.woken && downstream {
                let index = input.and_then(|input| site.profile_of(other)?.input_index(input));
                let index = index.and_then(|index| u8::try_from(index).ok());
                let deed = CouplingAct::Wake(index);
                links.push(Loose { from: device, to: other, on: true, deed, delay: own.delay.into() });
            }
            if own.sleeps && theirs.put_to_sleep {
                links.push(Loose {
                    from: device,
                    to: other,
                    on: false,
                    deed: CouplingAct::Sleep,
                    delay: own.delay.into(),
                });
            }
        }
    }
    links
}

/// Every device that HDMI joins to this one, with the input at which it takes the picture where it lies
/// downstream, and whether it does.
fn along_hdmi(site: &Site, device: DeviceId) -> Vec<(DeviceId, Option<InputId>, bool)> {
    let mut found = Vec::new();
    for down in [true, false] {
        let mut seen = BTreeSet::from([device]);
        let mut queue = VecDeque::from([device]);
        while let Some(at) = queue.pop_front() {
            for connection in site.connections.iter().filter(|c| site.cable(c) == Some(Cable::Hdmi)) {
                let (near, far) = if down {
                    (connection.from_device, connection.to_device)
                } else {
                    (connection.to_device, connection.from_device)
                };
                if near == at && seen.insert(far) {
                    found.push((far, down.then_some(connection.to_input), down));
                    queue.push_back(far);
                }
            }
        }
    }
    found
}
