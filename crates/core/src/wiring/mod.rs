//! From cables to signal paths.
//!
//! A device passes on what comes in at its chosen input. A path from a source to where it is seen or
//! heard is therefore a chain of cables, and each device on it needs the input where the chain
//! enters. Picture and sound are looked for apart: a picture needs cables that carry one all the way.
//! Sound can also come back through an HDMI output (return audio); it then enters as an input of its own
//! that has no plug.

#[cfg(test)]
mod tests;

use crate::finding::Finding;
use crate::id::{ConnectionId, DeviceId, InputId, RoomId};
use crate::model::{Cable, DeviceKind, FindingKind, Site};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet, VecDeque};
use utoipa::ToSchema;

/// What travels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PathSignal {
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
    /// Does the signal run against the cable (return audio)?
    pub back: bool,
}

/// Every hop that a signal can take out of `device`, in a fixed order.
fn hops_from(site: &Site, device: DeviceId, signal: PathSignal) -> Vec<Hop> {
    let mut hops: Vec<Hop> = Vec::new();
    for connection in &site.connections {
        let Some(cable) = site.cable(connection) else { continue };
        let carries = match signal {
            PathSignal::Video => cable.carries_video(),
            PathSignal::Audio => cable.carries_audio(),
        };
        if carries && connection.from_device == device {
            let (to, input) = (connection.to_device, connection.to_input);
            hops.push(Hop { connection: connection.id, from: device, to, input, back: false });
        }
        if signal == PathSignal::Audio && connection.return_audio && connection.to_device == device {
            let output = site.output(connection.from_device, connection.from_output);
            if let Some(input) = output.and_then(|output| output.returns) {
                let to = connection.from_device;
                hops.push(Hop { connection: connection.id, from: device, to, input, back: true });
            }
        }
    }
    hops.sort_by_key(|hop| (hop.back, hop.connection));
    hops
}

/// The path with the fewest cables from `source` to `sink`, the same one every time; `None` where
/// there is none. A path from a device to itself has no hops.
#[must_use]
pub fn path(site: &Site, source: DeviceId, sink: DeviceId, signal: PathSignal) -> Option<Vec<Hop>> {
    let mut came_by: BTreeMap<DeviceId, Hop> = BTreeMap::new();
    let mut queue = VecDeque::from([source]);
    while let Some(device) = queue.pop_front() {
        if device == sink {
            return Some(walk_back(&came_by, source, sink));
        }
        for hop in hops_from(site, device, signal) {
            if hop.to != source && !came_by.contains_key(&hop.to) {
                came_by.insert(hop.to, hop);
                queue.push_back(hop.to);
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

/// Every device that a signal of `source` can reach.
#[must_use]
pub fn reach(site: &Site, source: DeviceId, signal: PathSignal) -> BTreeSet<DeviceId> {
    let mut seen = BTreeSet::from([source]);
    let mut queue = vec![source];
    while let Some(device) = queue.pop() {
        for hop in hops_from(site, device, signal) {
            if seen.insert(hop.to) {
                queue.push(hop.to);
            }
        }
    }
    seen
}

/// What is wrong with the cables of a room.
#[must_use]
pub fn check(site: &Site, room: RoomId) -> Vec<Finding> {
    let mut findings = Vec::new();
    let inside = |device: DeviceId| site.device(device).is_some_and(|d| d.serves(room));
    let mut taken: BTreeMap<(DeviceId, InputId), ConnectionId> = BTreeMap::new();
    let mut given: BTreeMap<(DeviceId, crate::id::OutputId), ConnectionId> = BTreeMap::new();
    for connection in site.connections.iter().filter(|c| inside(c.to_device)) {
        let (input, id) = (site.input(connection.to_device, connection.to_input), connection.id);
        if taken.insert((connection.to_device, connection.to_input), connection.id).is_some() {
            findings.push(Finding::of(site, FindingKind::CablesIntoOne { connection: id }));
        }
        if given.insert((connection.from_device, connection.from_output), connection.id).is_some()
            && site.cable(connection) != Some(Cable::Speaker)
        {
            findings.push(Finding::of(site, FindingKind::CablesOutOfOne { connection: id }));
        }
        if let (Some(cable), Some(input)) = (site.cable(connection), input)
            && cable != input.cable
        {
            findings.push(Finding::of(site, FindingKind::WrongPlug { connection: id }));
        }
    }
    let loops =
        [(loop_in(site, room, |cable| cable.carries_audio()), false), (loop_in(site, room, Cable::drives_power), true)];
    for (device, power) in loops {
        findings.extend(device.map(|device| Finding::of(site, FindingKind::CableLoop { device, power })));
    }
    findings.extend(sources(site, room));
    findings.extend(return_audio(site, room));
    findings
}

/// Sources that nobody can see or hear.
fn sources(site: &Site, room: RoomId) -> Vec<Finding> {
    let kind = |device: DeviceId| site.model_of(device).map(|profile| profile.kind);
    let mut findings = Vec::new();
    for device in site.devices_in(room).filter(|device| kind(device.id).is_some_and(DeviceKind::plays)) {
        if !site.connections.iter().any(|c| c.from_device == device.id) {
            findings.push(Finding::of(site, FindingKind::NotWired { device: device.id }));
            continue;
        }
        let arrives = |signal, there: fn(DeviceKind) -> bool| {
            reach(site, device.id, signal).into_iter().any(|end| end != device.id && kind(end).is_some_and(there))
        };
        if !arrives(PathSignal::Video, DeviceKind::shows) && !arrives(PathSignal::Audio, DeviceKind::sounds) {
            findings.push(Finding::of(site, FindingKind::Unreachable { device: device.id }));
        }
    }
    findings
}

/// Cables through which sound comes back.
fn return_audio(site: &Site, room: RoomId) -> Vec<Finding> {
    let mut findings = Vec::new();
    for connection in site.connections.iter().filter(|c| c.return_audio) {
        if !site.device(connection.from_device).is_some_and(|device| device.serves(room)) {
            continue;
        }
        let twice = site.connections.iter().any(|other| {
            other.id != connection.id
                && other.from_device == connection.to_device
                && other.to_device == connection.from_device
                && site.cable(other).is_some_and(Cable::carries_audio)
        });
        if twice {
            findings.push(Finding::of(site, FindingKind::SoundTwice { connection: connection.id }));
        }
        let uses = |forward: bool| {
            site.activities.iter().find(|activity| {
                let used = |signal, sink: Option<DeviceId>| {
                    sink.and_then(|sink| path(site, activity.source, sink, signal)).is_some_and(|hops| {
                        hops.iter().any(|hop| hop.connection == connection.id && hop.back != forward)
                    })
                };
                activity.room == room
                    && (used(PathSignal::Video, activity.seen_on) || used(PathSignal::Audio, activity.heard_on))
            })
        };
        if let (Some(forward), Some(back)) = (uses(true), uses(false)) {
            let (forward, back) = (forward.id, back.id);
            findings.push(Finding::of(site, FindingKind::UsedBothWays { connection: connection.id, forward, back }));
        }
    }
    findings
}

/// A device that a circle of cables of a kind runs through.
fn loop_in(site: &Site, room: RoomId, counts: impl Fn(Cable) -> bool) -> Option<DeviceId> {
    site.devices_in(room).map(|device| device.id).find(|&start| {
        let mut seen = BTreeSet::new();
        let mut queue = vec![start];
        while let Some(device) = queue.pop() {
            let out = site.connections.iter().filter(|c| c.from_device == device);
            for connection in out.filter(|c| site.cable(c).is_some_and(&counts)) {
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
