//! From cables to signal paths.
//!
//! A device passes on what comes in at its chosen input. A path from a source to where it is seen or
//! heard is therefore a chain of cables, and each device on it needs the input where the chain
//! enters. Picture and sound are looked for apart: a picture needs cables that carry one all the way.

#[cfg(test)]
mod tests;

use crate::finding::{Finding, Place, Stage, Weight};
use crate::id::{ConnectionId, DeviceId, InputId, RoomId};
use crate::site::Site;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet, VecDeque};
use utoipa::ToSchema;

/// What travels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Signal {
    /// Picture.
    Video,
    /// Sound.
    Audio,
}

/// One cable of a path.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Hop {
    /// The cable.
    pub connection: ConnectionId,
    /// The device that gives.
    pub from: DeviceId,
    /// The device that takes.
    pub to: DeviceId,
    /// The input at which it takes.
    pub input: InputId,
}

/// The path with the fewest cables from `source` to `sink`, the same one every time; `None` where
/// there is none. A path from a device to itself has no hops.
#[must_use]
pub fn path(site: &Site, source: DeviceId, sink: DeviceId, signal: Signal) -> Option<Vec<Hop>> {
    let mut came_by: BTreeMap<DeviceId, Hop> = BTreeMap::new();
    let mut queue = VecDeque::from([source]);
    while let Some(device) = queue.pop_front() {
        if device == sink {
            return Some(walk_back(&came_by, source, sink));
        }
        let mut out: Vec<_> = site.connections.iter().filter(|c| c.from_device == device).collect();
        out.sort_by_key(|connection| connection.id);
        for connection in out {
            let carries = site.cable(connection).is_some_and(|cable| signal == Signal::Audio || cable.carries_video());
            let to = connection.to_device;
            if carries && to != source && !came_by.contains_key(&to) {
                came_by.insert(to, Hop { connection: connection.id, from: device, to, input: connection.to_input });
                queue.push_back(to);
            }
        }
    }
    None
}

fn walk_back(came_by: &BTreeMap<DeviceId, Hop>, source: DeviceId, sink: DeviceId) -> Vec<Hop> {
    let mut hops = Vec::new();
    let mut at = sink;
    while at != source {
        let Some(hop) = came_by.get(&at) else { break };
        hops.push(*hop);
        at = hop.from;
    }
    hops.reverse();
    hops
}

/// What is wrong with the cables of a room.
#[must_use]
pub fn check(site: &Site, room: RoomId) -> Vec<Finding> {
    let mut findings = Vec::new();
    let inside = |device: DeviceId| site.device(device).is_some_and(|d| d.room == room);
    let mut taken: BTreeMap<(DeviceId, InputId), ConnectionId> = BTreeMap::new();
    for connection in site.connections.iter().filter(|c| inside(c.to_device)) {
        let place = Place::on(Stage::Kit).device(connection.to_device).connection(connection.id);
        let input = site.input(connection.to_device, connection.to_input);
        let name = format!(
            "{} on {}",
            input.map_or("an input", |input| input.name.as_str()),
            site.device_name(connection.to_device)
        );
        if taken.insert((connection.to_device, connection.to_input), connection.id).is_some() {
            let text = format!("Two cables go into {name}. Only one can be plugged in; remove the other.");
            findings.push(Finding::new(Weight::Stops, "Two cables", text, place));
        }
        if let (Some(cable), Some(input)) = (site.cable(connection), input)
            && cable != input.cable
        {
            let text = format!(
                "The plug does not fit: {} gives {cable:?}, {name} takes {:?}. Wire it to another input.",
                site.device_name(connection.from_device),
                input.cable
            );
            findings.push(Finding::new(Weight::Stops, "Wrong plug", text, place));
        }
    }
    if let Some(device) = loop_in(site, room) {
        let text = format!(
            "The cables run in a circle through {}: its output comes back to its own input. Remove one of them.",
            site.device_name(device)
        );
        findings.push(Finding::new(Weight::Stops, "Loop", text, Place::on(Stage::Kit).device(device)));
    }
    for device in site.devices_in(room) {
        let plays = site.profile(device.profile).is_some_and(|profile| profile.kind.plays());
        if plays && !site.connections.iter().any(|c| c.from_device == device.id) {
            let text = format!("{} is wired to nothing: nobody can see or hear it.", device.name);
            findings.push(Finding::new(Weight::Caution, "Not wired", text, Place::on(Stage::Kit).device(device.id)));
        }
    }
    findings
}

/// A device that a circle of cables runs through.
fn loop_in(site: &Site, room: RoomId) -> Option<DeviceId> {
    site.devices_in(room).map(|device| device.id).find(|&start| {
        let mut seen = BTreeSet::new();
        let mut queue = vec![start];
        while let Some(device) = queue.pop() {
            for connection in site.connections.iter().filter(|c| c.from_device == device) {
                if connection.to_device == start {
                    return true;
                }
                if seen.insert(connection.to_device) {
                    queue.push(connection.to_device);
                }
            }
        }
        false
    })
}
