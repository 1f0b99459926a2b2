//! Which devices of a room have to be looked at together: those that switch each other, read from wiring and
//! profiles; those that react to one code; and what a lowered screen cuts off from its emitter.

use crate::codes::reach::hears;
use crate::device::group::{CoupledBy, CouplingAct, Echo, Screened};
use crate::device::{Group, Letter, Window};
use crate::id::{DeviceId, FunctionId, InputId, RoomId};
use crate::model::{Cable, Medium, Power, Site};
use std::collections::{BTreeMap, BTreeSet, VecDeque};

/// A link between devices, before it has found its group.
struct Loose {
    from: DeviceId,
    to: DeviceId,
    on: bool,
    deed: CouplingAct,
    delay: Window,
}

/// The devices of a room in groups, each in the order of the room: joined where one can switch another, hears what is
/// meant for another, or hides another; alone where nothing joins them.
#[must_use]
pub fn groups(site: &Site, room: RoomId) -> Vec<Group<'_>> {
    let devices: Vec<DeviceId> = site.devices_in(room).map(|device| device.id).collect();
    let links = links(site, &devices);
    let mut leader: BTreeMap<DeviceId, DeviceId> = devices.iter().map(|&device| (device, device)).collect();
    let (echoes, screens) = (echoes(site, &devices), screens(site, &devices));
    let joined = links.iter().map(|link| (link.from, link.to));
    let joined = joined.chain(echoes.iter().map(|(from, _, to, _)| (*from, *to)));
    for (a, b) in joined.chain(screens.iter().map(|(screen, hidden, _)| (*screen, *hidden))) {
        let (a, b) = (leader[&a], leader[&b]);
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
        let own = echoes.iter().filter_map(|&(from, letter, to, also)| {
            Some(Echo { from: group.place(from)?, letter, to: group.place(to)?, also })
        });
        group.echoes = own.collect();
        let own = screens.iter().filter_map(|(screen, hidden, letters)| {
            Some(Screened { screen: group.place(*screen)?, hidden: group.place(*hidden)?, letters: letters.clone() })
        });
        group.screens = own.collect();
    }
    groups.into_iter().map(|(_, group)| group).collect()
}

/// Every key of a device that does something in its machine.
fn letters(site: &Site, device: DeviceId) -> Vec<FunctionId> {
    let Some(profile) = site.profile_of(device) else { return vec![] };
    let mut keys: Vec<FunctionId> =
        profile.keys().into_iter().chain(profile.comfort_keys()).map(|(key, _)| key).collect();
    keys.sort_unstable();
    keys.dedup();
    keys
}

/// Keys of one device to which another reacts too: one code, and both in reach of it.
fn echoes(site: &Site, devices: &[DeviceId]) -> Vec<(DeviceId, Letter, DeviceId, Letter)> {
    let mut said: BTreeMap<(Medium, String), Vec<(DeviceId, FunctionId)>> = BTreeMap::new();
    for &device in devices {
        for key in letters(site, device) {
            let Some(code) = site.code(device, key).filter(|code| code.body.medium().shared()) else { continue };
            if let Some(words) = code.body.key_words() {
                said.entry((code.body.medium(), words)).or_default().push((device, key));
            }
        }
    }
    let mut echoes = Vec::new();
    for ((medium, _), keys) in &said {
        for &(from, letter) in keys {
            for &(to, also) in keys.iter().filter(|(to, _)| *to != from && hears(site, from, *to, *medium)) {
                echoes.push((from, Letter::Key(letter), to, Letter::Key(also)));
            }
        }
    }
    echoes
}

/// Screens of the room, what stands behind each, and what is sent to that by infrared.
fn screens(site: &Site, devices: &[DeviceId]) -> Vec<(DeviceId, DeviceId, Vec<Letter>)> {
    let behind = |&hidden: &DeviceId| {
        let screen = site.device(hidden)?.behind.filter(|screen| devices.contains(screen))?;
        site.profile_of(screen)?.motion.filter(|motion| motion.hides)?;
        let keys = letters(site, hidden).into_iter().map(Letter::Key);
        let tunes = (1u8..).zip(&site.profile_of(hidden)?.apps).map(|(app, _)| Letter::Tune(app)).collect::<Vec<_>>();
        let infrared = |letter: &Letter| super::chain::sending(site, hidden, *letter).medium == Medium::Ir;
        let letters: Vec<Letter> = keys.chain(tunes).filter(infrared).collect();
        (!letters.is_empty()).then_some((screen, hidden, letters))
    };
    devices.iter().filter_map(behind).collect()
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
