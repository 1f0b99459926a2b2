//! Which sends are in each other's way.
//!
//! Two infrared sends are, unless it is sure that no receiver hears both emitters; two radio sends likewise. Sends of one
//! gateway always are, unless its model says that it can send on several outputs at once, and these are different ones.
//! In a room without a floor plan all infrared is one medium, and all radio of a house is one as long as nothing says
//! otherwise. That gives a graph of the emitters in use; each clique that cannot be made larger is a medium of the
//! schedule ([`super::jobs::Media`]), and an emitter occupies all of those that it is in: two sends have a medium in common
//! exactly where their emitters are joined.

use super::chain::Send;
use super::derive::PlanRequest;
use super::jobs::Media;
use crate::id::{DeviceId, RoomId};
use crate::model::{Medium, Site};
use crate::space::hears::{self, by_lead, heard, is_drawn};
use crate::space::scene::optics;
use crate::space::way::gateway_for;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// What light or radio comes out of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Emitter {
    /// All infrared of a room without a plan: the place of the room.
    Room(usize),
    /// The emitter of a gateway.
    Gateway(DeviceId),
    /// A lead of a gateway, stuck on the window of a device.
    Lead(DeviceId, DeviceId),
    /// Radio of which nobody knows where it is sent.
    Radio,
    /// The radio of a gateway.
    Antenna(DeviceId),
}

/// The media of a problem, and which of them each send occupies.
#[derive(Debug, Default)]
pub(super) struct Airspace {
    of: BTreeMap<(DeviceId, Medium), Media>,
    names: Vec<&'static str>,
}

impl Airspace {
    /// The media of a request: what is sent to any of its devices, or by the arrival look.
    pub(super) fn of(request: &PlanRequest<'_>) -> Self {
        let site = request.site;
        let mut emitters: BTreeMap<(DeviceId, Medium), Emitter> = BTreeMap::new();
        let devices = request.groups.iter().flat_map(|group| group.members.iter().map(|(device, _)| *device));
        let rooms: BTreeSet<RoomId> = match request.house_except {
            None => BTreeSet::from([request.room]),
            Some(except) => site.rooms.iter().map(|room| room.id).filter(|room| !except.contains(room)).collect(),
        };
        let others = rooms.iter().flat_map(|&room| site.devices_in(room)).map(|device| device.id);
        for device in devices.chain(others) {
            for medium in [Medium::Ir, Medium::Rf433] {
                emitters.entry((device, medium)).or_insert_with(|| emitter(request, device, medium));
            }
        }
        let all: Vec<Emitter> = emitters.values().copied().collect::<BTreeSet<_>>().into_iter().collect();
        let ears = Ears::of(site, &all);
        let joined = |a: usize, b: usize| a == b || ears.joined(all[a], all[b]);
        let neighbours: Vec<BTreeSet<usize>> =
            (0..all.len()).map(|a| (0..all.len()).filter(|&b| a != b && joined(a, b)).collect()).collect();
        let mut occupied = vec![Media::NONE; all.len()];
        let mut names = Vec::new();
        for clique in cliques(&neighbours) {
            // Past what a set can hold several cliques are one medium: that holds more apart than has to be, never less.
            let number = u8::try_from(names.len() % Media::MOST).unwrap_or(0);
            clique.iter().for_each(|&member| occupied[member] = occupied[member].and(number));
            let radio = clique.iter().any(|&member| matches!(all[member], Emitter::Radio | Emitter::Antenna(_)));
            names.push(if radio { Medium::Rf433.name() } else { Medium::Ir.name() });
        }
        let media = |emitter: Emitter| all.binary_search(&emitter).map_or(Media::NONE, |at| occupied[at]);
        Self { of: emitters.into_iter().map(|(key, emitter)| (key, media(emitter))).collect(), names }
    }

    /// What a send occupies.
    pub(super) fn media(&self, send: &Send) -> Media {
        if !send.medium.shared() {
            return Media::NONE;
        }
        self.of.get(&(send.device, send.medium)).copied().unwrap_or(Media::ALL)
    }

    /// What a medium is.
    pub(super) fn name(&self, medium: u8) -> &'static str {
        self.names.get(usize::from(medium)).copied().unwrap_or("a medium")
    }
}

/// Out of what comes what is sent to a device.
fn emitter(request: &PlanRequest<'_>, device: DeviceId, medium: Medium) -> Emitter {
    let site = request.site;
    let Some(own) = site.device(device) else { return Emitter::Room(0) };
    let drawn = is_drawn(site, own.room);
    let gateway = || gateway_for(site, own, medium).ok();
    if medium == Medium::Rf433 {
        return match if drawn { gateway() } else { None } {
            Some(gateway) => Emitter::Antenna(gateway),
            None => Emitter::Radio,
        };
    }
    if !drawn {
        // What serves several rooms from a cupboard is reached by the emitters of the cupboard.
        let here = own.serves(request.room) && request.house_except.is_none();
        let room = if here { request.room } else { own.room };
        return Emitter::Room(site.rooms.iter().position(|known| known.id == room).unwrap_or(0));
    }
    match gateway() {
        Some(gateway) if by_lead(site, gateway, device) => Emitter::Lead(gateway, device),
        Some(gateway) => Emitter::Gateway(gateway),
        None => Emitter::Room(site.rooms.iter().position(|known| known.id == own.room).unwrap_or(0)),
    }
}

/// Who could hear an emitter.
struct Ears<'a> {
    site: &'a Site,
    by_light: BTreeSet<DeviceId>,
    by_radio: BTreeSet<DeviceId>,
    /// What is known of the light in each room that has a plan.
    rooms: BTreeMap<RoomId, Arc<hears::Ears>>,
}

impl<'a> Ears<'a> {
    fn of(site: &'a Site, emitters: &[Emitter]) -> Self {
        let placed = |emitter: &Emitter| !matches!(emitter, Emitter::Room(_) | Emitter::Radio);
        if !emitters.iter().any(placed) {
            return Self { site, by_light: BTreeSet::new(), by_radio: BTreeSet::new(), rooms: BTreeMap::new() };
        }
        let with = |medium: Medium| {
            site.codes.iter().filter(move |code| code.body.medium() == medium).map(|code| code.device).collect()
        };
        let drawn = site.rooms.iter().map(|room| room.id).filter(|&room| is_drawn(site, room));
        let rooms = drawn.map(|room| (room, hears::ears(site, room))).collect();
        Self { site, by_light: with(Medium::Ir), by_radio: with(Medium::Rf433), rooms }
    }

    /// Are sends of these two in each other's way?
    fn joined(&self, a: Emitter, b: Emitter) -> bool {
        use Emitter::{Antenna, Gateway, Lead, Radio, Room};
        match (a, b) {
            (Radio, Radio | Antenna(_)) | (Antenna(_), Radio) => true,
            (Antenna(one), Antenna(other)) => {
                let hears = |gateway: DeviceId, device: DeviceId| {
                    heard(self.site, Some(gateway), device, device, Medium::Rf433).may_be()
                };
                self.by_radio.iter().any(|&device| hears(one, device) && hears(other, device))
            }
            (Radio | Antenna(_), _) | (_, Radio | Antenna(_)) => false,
            // All of the infrared of a room without a plan is one medium; a gateway of another room is in no one's way.
            (Room(one), Room(other)) => one == other,
            (Room(place), Gateway(gateway) | Lead(gateway, _)) | (Gateway(gateway) | Lead(gateway, _), Room(place)) => {
                let room = self.site.rooms.get(place).map(|room| room.id);
                room.is_some_and(|room| self.site.device(gateway).is_some_and(|own| own.serves(room)))
            }
            (Gateway(one) | Lead(one, _), Gateway(other) | Lead(other, _)) => {
                let several = optics(self.site, one).and_then(|own| own.emits).is_some_and(|own| own.several_at_once);
                if one == other && !several {
                    return true;
                }
                self.by_light.iter().any(|&device| self.hears(a, device) && self.hears(b, device))
            }
        }
    }

    /// May a device hear the light of this emitter?
    fn hears(&self, emitter: Emitter, device: DeviceId) -> bool {
        match emitter {
            Emitter::Lead(_, on) => on == device,
            // Whoever is meant: what is told of the emitter itself is asked.
            Emitter::Gateway(gateway) => self.site.device(device).is_some_and(|own| {
                match self.rooms.get(&own.room).and_then(|room| room.of.get(&(gateway, device))) {
                    Some(ear) => ear.heard.may_be(),
                    None => hears::in_sight(self.site, own, gateway),
                }
            }),
            _ => false,
        }
    }
}

/// The cliques of a graph that cannot be made larger (Bron and Kerbosch 1973, with a pivot).
fn cliques(neighbours: &[BTreeSet<usize>]) -> Vec<BTreeSet<usize>> {
    let mut found = Vec::new();
    let all = (0..neighbours.len()).collect();
    grow(neighbours, &BTreeSet::new(), all, BTreeSet::new(), &mut found);
    found
}

fn grow(
    neighbours: &[BTreeSet<usize>],
    clique: &BTreeSet<usize>,
    mut open: BTreeSet<usize>,
    mut done: BTreeSet<usize>,
    found: &mut Vec<BTreeSet<usize>>,
) {
    let Some(&pivot) = open.union(&done).max_by_key(|&&vertex| neighbours[vertex].intersection(&open).count()) else {
        if !clique.is_empty() {
            found.push(clique.clone());
        }
        return;
    };
    let tried: Vec<usize> = open.difference(&neighbours[pivot]).copied().collect();
    for vertex in tried {
        let mut larger = clique.clone();
        larger.insert(vertex);
        let own = &neighbours[vertex];
        grow(
            neighbours,
            &larger,
            open.intersection(own).copied().collect(),
            done.intersection(own).copied().collect(),
            found,
        );
        open.remove(&vertex);
        done.insert(vertex);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Two emitters have a medium in common exactly where they are joined, and every one has at least one.
        #[test]
        fn cliques_say_what_the_graph_says(edges in prop::collection::btree_set((0usize..9, 0usize..9), 0..24)) {
            let joined = |a: usize, b: usize| edges.contains(&(a, b)) || edges.contains(&(b, a));
            let neighbours: Vec<BTreeSet<usize>> =
                (0..9).map(|a| (0..9).filter(|&b| a != b && joined(a, b)).collect()).collect();
            let cliques = cliques(&neighbours);
            for a in 0..9 {
                prop_assert!(cliques.iter().any(|clique| clique.contains(&a)));
                for b in (0..9).filter(|&b| b != a) {
                    let together = cliques.iter().any(|clique| clique.contains(&a) && clique.contains(&b));
                    prop_assert_eq!(together, joined(a, b));
                }
            }
        }
    }
}
