//! Which devices of a room have to be looked at together: those that switch each other, read from wiring and
//! profiles; those that react to one code; and what a lowered screen cuts off from its emitter. What is sent to a device and
//! may not arrive there is said of its group as well.

use crate::device::group::{CoupledBy, CouplingAct, Echo, EchoBy, Faint, Screened};
use crate::device::{Group, Letter, Window};
use crate::id::{DeviceId, FunctionId, InputId, RoomId};
use crate::model::{Cable, Medium, Power, Site};
use crate::space::hears::{Heard, by_lead, heard, is_drawn};
use crate::space::reach::Hears;
use crate::space::scene::place_of;
use crate::space::way::gateway_for;
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
    let sent: Vec<Sent> = devices.iter().flat_map(|&device| sent(site, device)).collect();
    let (echoes, screens) = (echoes(site, &devices, &sent), screens(site, &devices, &sent));
    let joined = links.iter().map(|link| (link.from, link.to));
    let joined = joined.chain(echoes.iter().map(|echo| (echo.from, echo.to)));
    for (a, b) in joined.chain(screens.iter().map(|own| (own.screen, own.hidden))) {
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
        let own = echoes.iter().filter_map(|echo| {
            let (from, to) = (group.place(echo.from)?, group.place(echo.to)?);
            Some(Echo { from, letter: echo.letter, to, also: echo.also, by: echo.by })
        });
        group.echoes = own.collect();
        let own = screens.iter().filter_map(|own| {
            let (screen, hidden) = (group.place(own.screen)?, group.place(own.hidden)?);
            Some(Screened { screen, hidden, letters: own.letters.clone(), surely: own.surely })
        });
        group.screens = own.collect();
        let faint = sent.iter().filter(|sent| sent.heard.up != Hears::Surely);
        let own =
            faint.filter_map(|sent| Some(Faint { member: group.place(sent.device)?, letters: sent.letters.clone() }));
        group.faint = own.collect();
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

/// What is sent to a device over a shared medium, and how it hears that.
struct Sent {
    device: DeviceId,
    medium: Medium,
    gateway: Option<DeviceId>,
    letters: Vec<Letter>,
    heard: Heard,
}

/// What is sent to a device by infrared and by radio. What cannot be sent at all is told elsewhere, and is taken as heard here.
fn sent(site: &Site, device: DeviceId) -> Vec<Sent> {
    let keys = letters(site, device).into_iter().map(Letter::Key);
    let apps = site.profile_of(device).map_or(0, |profile| profile.apps.len());
    let tunes = (1u8..).take(apps).map(Letter::Tune);
    let profile = site.profile_of(device);
    let timed: Vec<u8> = profile.iter().flat_map(|profile| profile.timed_stops().map(|(at, _)| at)).collect();
    let mut all: Vec<Sent> = Vec::new();
    for letter in keys.chain(tunes).chain(timed.into_iter().map(Letter::StopAt)) {
        let key = super::chain::keys_of(site, device, letter).first().copied();
        let Some(medium) = key.map(|key| super::medium_of(site, device, key)) else { continue };
        if !medium.shared() {
            continue;
        }
        if let Some(known) = all.iter_mut().find(|known| known.medium == medium) {
            known.letters.push(letter);
            continue;
        }
        let gateway = site.device(device).and_then(|own| gateway_for(site, own, medium).ok());
        let heard = match gateway {
            Some(_) => heard(site, gateway, device, device, medium),
            None => Heard::always(Hears::Surely),
        };
        all.push(Sent { device, medium, gateway, letters: vec![letter], heard });
    }
    all
}

/// How what is sent to a device with one of its keys gets there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Arrival {
    /// While nothing is before it: surely, or does nobody know?
    pub surely: bool,
    /// The screens that keep it off while they are not up; `true` where nothing arrives while they are all the way down.
    pub screens: Vec<(DeviceId, bool)>,
}

/// How a key of a device of this room gets to it.
#[must_use]
pub fn arrival(site: &Site, room: RoomId, device: DeviceId, key: FunctionId) -> Arrival {
    let medium = super::medium_of(site, device, key);
    let sent: Vec<Sent> = sent(site, device).into_iter().filter(|sent| sent.medium == medium).collect();
    let devices: Vec<DeviceId> = site.devices_in(room).map(|device| device.id).collect();
    Arrival {
        surely: sent.iter().all(|sent| sent.heard.up == Hears::Surely),
        screens: screens(site, &devices, &sent).into_iter().map(|own| (own.screen, own.surely)).collect(),
    }
}

/// A key of one device to which another reacts too.
struct LooseEcho {
    from: DeviceId,
    letter: Letter,
    to: DeviceId,
    also: Letter,
    by: EchoBy,
}

/// Keys of one device to which another reacts too: one code, and both in reach of it.
fn echoes(site: &Site, devices: &[DeviceId], sent: &[Sent]) -> Vec<LooseEcho> {
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
    for ((medium, _), keys) in said.iter().filter(|(_, keys)| keys.len() > 1) {
        for &(from, letter) in keys {
            for &(to, also) in keys.iter().filter(|(to, _)| *to != from) {
                if let Some(by) = echo_by(site, sent, from, to, *medium) {
                    echoes.push(LooseEcho { from, letter: Letter::Key(letter), to, also: Letter::Key(also), by });
                }
            }
        }
    }
    echoes
}

/// How what is meant for one device gets to another; none where it surely does not.
fn echo_by(site: &Site, sent: &[Sent], from: DeviceId, to: DeviceId, medium: Medium) -> Option<EchoBy> {
    let gateway = |device: DeviceId| sent.iter().find(|sent| (sent.device, sent.medium) == (device, medium))?.gateway;
    let (own, theirs) = (gateway(from), gateway(to));
    let heard = heard(site, own, from, to, medium);
    let drawn = site.device(to).is_some_and(|device| is_drawn(site, device.room));
    let lead = |gateway: Option<DeviceId>, device| gateway.is_some_and(|gateway| by_lead(site, gateway, device));
    let one_way = !drawn || (own == theirs && !lead(own, from) && !lead(theirs, to));
    heard.may_be().then_some(match (one_way, heard.is_sure()) {
        (true, _) => EchoBy::TheSameWay,
        (false, true) => EchoBy::Surely,
        (false, false) => EchoBy::Maybe,
    })
}

/// A screen, and what it keeps from a device while it is down.
struct LooseScreen {
    screen: DeviceId,
    hidden: DeviceId,
    letters: Vec<Letter>,
    surely: bool,
}

/// Screens of the room, what each of them cuts off from its emitter, and what is sent to that by infrared. Where both are
/// placed on a floor plan, that is worked out; elsewhere it is what somebody has said to stand behind the screen.
fn screens(site: &Site, devices: &[DeviceId], sent: &[Sent]) -> Vec<LooseScreen> {
    let mut all = Vec::new();
    for sent in sent.iter().filter(|sent| sent.medium == Medium::Ir) {
        let hidden = sent.device;
        let by_plan = sent.heard.down.iter().filter(|(screen, _)| devices.contains(screen));
        all.extend(by_plan.map(|&(screen, heard)| LooseScreen {
            screen,
            hidden,
            letters: sent.letters.clone(),
            surely: heard == Hears::SurelyNot,
        }));
        let drawn = site.device(hidden).is_some_and(|device| is_drawn(site, device.room));
        let said = site.device(hidden).and_then(|device| device.behind).filter(|screen| devices.contains(screen));
        let said = said.filter(|&screen| {
            let placed = drawn && place_of(site, hidden).is_some() && place_of(site, screen).is_some();
            !placed && site.profile_of(screen).and_then(|own| own.motion).is_some_and(|motion| motion.hides)
        });
        all.extend(said.map(|screen| LooseScreen { screen, hidden, letters: sent.letters.clone(), surely: true }));
    }
    all
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
