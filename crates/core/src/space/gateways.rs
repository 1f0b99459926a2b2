//! The cheapest set of gateways for a house: which model at which spot, turned where, with which leads.

use super::cover::{Candidate, Cover, NoCover, Serves, cheapest};
use super::geometry::direction;
use super::infrared::{Emitter, FINE, Scene, order};
use super::radio::Link;
use super::reach::{Hears, REACHES_DB, radio_hears};
use super::scene::{Posture, optics, place_of, point, scene};
use crate::id::{DeviceId, PlacedId, ProfileId, RoomId};
use crate::model::{DeviceKind, Medium, Optics, Placed, Profile, Site};
use glam::DVec3;
use serde::Serialize;
use utoipa::ToSchema;

/// What a lead costs, in the smallest unit of the house's money (*invented*).
pub const LEAD_PRICE: u64 = 600;

/// The margin that a lead on a window gives, in dB: it lies on it (*common practice*).
pub const LEAD_DB: f64 = 21.0;

/// A lead is no longer than this, in m (*common practice*).
pub const LEAD_LENGTH: f64 = 3.0;

/// Spots along walls and ceiling are so far apart, in m.
const APART: f64 = 0.5;

/// So many spots of a room are looked at, besides those that are marked.
const SPOTS_MOST: usize = 24;

/// Media that a gateway sends through the air.
const THROUGH_AIR: [Medium; 2] = [Medium::Ir, Medium::Rf433];

/// How a spot is turned: so many ways around.
const TURNS: i16 = 8;

/// A box of the answer.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct GatewayAt {
    /// Which model.
    pub profile: ProfileId,
    /// In which room.
    pub room: RoomId,
    /// What the spot is called, or how it lies.
    pub spot: String,
    /// Where, in mm.
    pub at_mm: [i32; 3],
    /// Where it looks, in degrees.
    pub azimuth_deg: i16,
    /// Devices that it serves, each with its margin in dB; with a lead where that is said.
    pub serves: Vec<ServedDevice>,
    /// What it costs with its leads, in the smallest unit of the house's money.
    pub price: u64,
}

/// A device that a box serves.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ServedDevice {
    /// Which.
    pub device: DeviceId,
    /// With what margin, in dB.
    pub margin_db: f64,
    /// By a lead?
    pub lead: bool,
}

/// The cheapest set, and what else there is.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct GatewaySet {
    /// The boxes.
    pub boxes: Vec<GatewayAt>,
    /// What all of it costs.
    pub price: u64,
    /// No set costs less.
    pub bound: u64,
    /// Is that proved?
    pub proved: bool,
    /// Was it given up before any set was found?
    pub stopped: bool,
    /// The smallest margin, in dB.
    pub least_db: f64,
    /// Devices of which no two can be served by one box: so many boxes are needed at least.
    pub apart: Vec<DeviceId>,
    /// The usual alternatives, priced: what, and what it costs; none where it does not reach everything.
    pub others: Vec<Alternative>,
    /// Devices that nothing reaches.
    pub unreached: Vec<DeviceId>,
    /// Devices for which no claim is made: they are not placed, or nothing is known of them.
    pub unknown: Vec<DeviceId>,
    /// In a sentence or two.
    pub words: Vec<String>,
}

/// Another way to buy it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Alternative {
    /// What.
    pub what: String,
    /// What it costs, in the smallest unit of the house's money; none where it does not reach everything.
    pub price: Option<u64>,
}

/// A device that has to be reached.
struct Wanted {
    device: DeviceId,
    room: RoomId,
    by: Vec<Medium>,
}

/// A box that could be bought, and where.
struct Offer<'a> {
    profile: &'a Profile,
    optics: &'a Optics,
    room: RoomId,
    spot: String,
    at: DVec3,
    azimuth_deg: i16,
}

/// Devices of some rooms that are reached through the air; those of which nothing is known stand beside.
fn wanted(site: &Site, rooms: &[RoomId]) -> (Vec<Wanted>, Vec<DeviceId>) {
    let (mut all, mut unknown) = (Vec::new(), Vec::new());
    for device in site.devices.iter().filter(|own| rooms.contains(&own.room)) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        if profile.kind == DeviceKind::Gateway {
            continue;
        }
        let by: Vec<Medium> =
            site.paths_of(device.id).iter().map(|path| path.medium).filter(|own| THROUGH_AIR.contains(own)).collect();
        if by.is_empty() {
            continue;
        }
        let known = optics(site, device.id);
        let hears = known.is_some_and(|own| {
            by.contains(&Medium::Ir) && own.hears.is_some() || by.contains(&Medium::Rf433) && own.radio.is_some()
        });
        if place_of(site, device.id).is_some() && hears {
            all.push(Wanted { device: device.id, room: device.room, by });
        } else {
            unknown.push(device.id);
        }
    }
    (all, unknown)
}

/// Spots of a room: those that are marked, and a grid along its walls and ceiling, thinned to no more than a few.
fn spots(site: &Site, room: RoomId) -> Vec<(String, DVec3)> {
    let Some(plan) = site.room(room).map(|own| &own.floor).filter(|plan| plan.is_drawn()) else { return vec![] };
    let mut all: Vec<(String, DVec3)> = plan.spots.iter().map(|own| (own.name.clone(), point(own.at_mm))).collect();
    let size = plan.block().size();
    let mut grid = Vec::new();
    let steps = |length: f64| {
        #[expect(clippy::cast_possible_truncation, reason = "a room is at most 60 m long")]
        let many = (length / APART) as i32;
        (1..many.max(2)).map(|at| f64::from(at) * APART)
    };
    let high = (size.z - 0.3).clamp(0.3, 2.2);
    for x in steps(size.x) {
        grid.push((format!("upper wall of the plan, {x:.1} m along"), DVec3::new(x, 0.05, high)));
        grid.push((format!("lower wall of the plan, {x:.1} m along"), DVec3::new(x, size.y - 0.05, high)));
    }
    for y in steps(size.y) {
        grid.push((format!("left wall of the plan, {y:.1} m along"), DVec3::new(0.05, y, high)));
        grid.push((format!("right wall of the plan, {y:.1} m along"), DVec3::new(size.x - 0.05, y, high)));
    }
    grid.push(("ceiling, middle".to_owned(), DVec3::new(size.x / 2.0, size.y / 2.0, size.z - 0.05)));
    let every = grid.len().div_ceil(SPOTS_MOST).max(1);
    all.extend(grid.into_iter().step_by(every));
    all
}

/// How far the search for the cheapest set is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(tag = "part", rename_all = "kebab-case")]
pub enum Looking {
    /// What each box would reach from each place is worked out.
    Weighing {
        /// So many of them are done.
        done: usize,
        /// Of so many.
        of: usize,
    },
    /// The cheapest set of them is looked for. Prices are in the smallest unit of the house's money.
    Choosing {
        /// What the best set so far costs; none before there is one.
        best: Option<u64>,
        /// No set costs less than this.
        bound: u64,
    },
    /// The set is found; what is usually bought is worked out beside it.
    Comparing,
}

/// The cheapest set of gateways that reaches every device of some rooms, of models that have a price. `goes_on` is told now
/// and then how far it is: where it says no, the best set so far is told with its bound, or nothing at all before there is
/// one.
#[must_use]
pub fn set(site: &Site, rooms: &[RoomId], models: &[&Profile], goes_on: &mut dyn FnMut(Looking) -> bool) -> GatewaySet {
    let (wanted, unknown) = wanted(site, rooms);
    let mut offers = Vec::new();
    for &room in rooms {
        let turns = |optics: &Optics| if optics.emits.is_some() { TURNS } else { 1 };
        for (spot, at) in spots(site, room) {
            for profile in models {
                let Some(optics) = profile.optics.as_deref().filter(|own| own.price.is_some()) else { continue };
                for turn in 0..turns(optics) {
                    let azimuth_deg = turn * (360 / TURNS) - 180;
                    offers.push(Offer { profile, optics, room, spot: spot.clone(), at, azimuth_deg });
                }
            }
        }
    }
    let scenes: Vec<(RoomId, Scene)> =
        rooms.iter().map(|&room| (room, scene(site, room, &Posture::all_down(site, room)))).collect();
    let mut candidates: Vec<Candidate> = Vec::with_capacity(offers.len());
    for (done, own) in offers.iter().enumerate() {
        if !goes_on(Looking::Weighing { done, of: offers.len() }) {
            break;
        }
        candidates.push(candidate(site, own, &wanted, &scenes));
    }
    // A part of the places says nothing of what is cheapest.
    let all = candidates.len() == offers.len();
    let mut found = if all { answer(&offers, &candidates, &wanted, goes_on) } else { nothing(vec![]) };
    found.stopped |= !all;
    found.unknown = unknown;
    found.words = words(site, &found);
    found
}

fn candidate(site: &Site, own: &Offer<'_>, wanted: &[Wanted], scenes: &[(RoomId, Scene)]) -> Candidate {
    let scene = scenes.iter().find(|(room, _)| *room == own.room).map(|(_, scene)| scene);
    let emitter = own.optics.emits.map(|emits| Emitter {
        at: own.at,
        facing: direction(f64::from(own.azimuth_deg), if own.at.z > 1.5 { -15.0 } else { 0.0 }),
        intensity: f64::from(emits.mw_per_sr) / 1_000.0,
        order: order(f64::from(emits.half_deg)),
    });
    let lit = emitter.as_ref().zip(scene).map(|(emitter, scene)| scene.lit(emitter, None, FINE * 2.0));
    let mut leads = own.optics.emits.map_or(0, |own| own.leads);
    let serves = wanted.iter().map(|device| {
        let infrared = device.by.contains(&Medium::Ir) && device.room == own.room;
        let window = place_of(site, device.device).zip(optics(site, device.device).and_then(|own| own.hears));
        let window = window.map(|(place, hears)| place.window(&hears)).filter(|_| infrared);
        let light = emitter.as_ref().zip(scene).zip(lit.as_ref()).zip(window.as_ref());
        let light = light.map(|(((emitter, scene), lit), window)| {
            window.margin_db(scene.straight(emitter, window) + scene.bounced(lit, window))
        });
        let radio = device.by.contains(&Medium::Rf433).then(|| radio(site, own, device.device)).flatten();
        let free = light.into_iter().chain(radio).filter(|db| *db >= REACHES_DB).reduce(f64::max);
        if let Some(margin_db) = free {
            return Some(Serves { extra: 0, margin_db });
        }
        let near = window.is_some_and(|window| window.at.distance(own.at) <= LEAD_LENGTH);
        (near && leads > 0).then(|| {
            leads -= 1;
            Serves { extra: LEAD_PRICE, margin_db: LEAD_DB }
        })
    });
    Candidate { price: own.optics.price.unwrap_or(0).into(), serves: serves.collect() }
}

/// The margin of the radio of a box at a device, with fading taken off; none below what is sure.
fn radio(site: &Site, own: &Offer<'_>, device: DeviceId) -> Option<f64> {
    let (sends, hears) = (own.optics.radio?, optics(site, device)?.radio?);
    let link = Link {
        sends_dbm: f64::from(sends.sends_tenths_dbm?) / 10.0,
        gain_db: f64::from(sends.gain_tenths_db + hears.gain_tenths_db) / 10.0,
        needs_dbm: f64::from(hears.needs_dbm?),
    };
    let margin = super::reach::link_db(site, &link, (own.room, own.at), device)?;
    (radio_hears(margin) == Hears::Surely).then_some(margin - super::radio::FADING_DB)
}

fn nothing(unreached: Vec<DeviceId>) -> GatewaySet {
    GatewaySet {
        boxes: vec![],
        price: 0,
        bound: 0,
        proved: false,
        stopped: false,
        least_db: 0.0,
        apart: vec![],
        others: vec![],
        unreached,
        unknown: vec![],
        words: vec![],
    }
}

fn answer(
    offers: &[Offer<'_>],
    candidates: &[Candidate],
    wanted: &[Wanted],
    goes_on: &mut dyn FnMut(Looking) -> bool,
) -> GatewaySet {
    let chosen = cheapest(candidates, wanted.len(), &mut |best, bound| goes_on(Looking::Choosing { best, bound }));
    let cover = match chosen {
        Ok(cover) => cover,
        Err(NoCover::Unreached(devices)) => {
            return nothing(devices.into_iter().map(|at| wanted[at].device).collect());
        }
        Err(NoCover::Stopped) => return GatewaySet { stopped: true, ..nothing(vec![]) },
    };
    let Cover { ref chosen, ref by, price, bound, least_db, ref apart } = cover;
    let boxes = chosen.iter().map(|&at| {
        let own = &offers[at];
        let serves: Vec<ServedDevice> = (0..wanted.len())
            .filter(|&device| by[device] == at)
            .filter_map(|device| {
                let serves = candidates[at].serves[device]?;
                let margin_db = (serves.margin_db * 10.0).round() / 10.0;
                Some(ServedDevice { device: wanted[device].device, margin_db, lead: serves.extra > 0 })
            })
            .collect();
        let leads = serves.iter().filter(|own| own.lead).count() as u64 * LEAD_PRICE;
        #[expect(clippy::cast_possible_truncation, reason = "a place within a room")]
        let at_mm = (own.at * 1_000.0).round().to_array().map(|mm| mm as i32);
        GatewayAt {
            profile: own.profile.id,
            room: own.room,
            spot: own.spot.clone(),
            at_mm,
            azimuth_deg: own.azimuth_deg,
            serves,
            price: candidates[at].price + leads,
        }
    });
    let least_db = if wanted.is_empty() { 0.0 } else { (least_db * 10.0).round() / 10.0 };
    let mut all =
        GatewaySet { boxes: boxes.collect(), price, bound, proved: cover.is_proved(), least_db, ..nothing(vec![]) };
    all.apart = apart.iter().map(|&at| wanted[at].device).collect();
    all.others = others(offers, candidates, wanted, goes_on);
    all
}

/// What else is usually bought: boxes of one model alone.
fn others(
    offers: &[Offer<'_>],
    candidates: &[Candidate],
    wanted: &[Wanted],
    goes_on: &mut dyn FnMut(Looking) -> bool,
) -> Vec<Alternative> {
    let mut models: Vec<&Profile> = Vec::new();
    for own in offers {
        if models.iter().all(|known| known.id != own.profile.id) {
            models.push(own.profile);
        }
    }
    if models.len() < 2 {
        return vec![];
    }
    let mut all = Vec::new();
    for model in models {
        let own: Vec<Candidate> = offers
            .iter()
            .zip(candidates)
            .filter(|(offer, _)| offer.profile.id == model.id)
            .map(|(_, candidate)| candidate.clone())
            .collect();
        let found = cheapest(&own, wanted.len(), &mut |_, _| goes_on(Looking::Comparing));
        if found == Err(NoCover::Stopped) {
            // It was not looked for to the end: nothing is said of it.
            continue;
        }
        let found = found.ok();
        let many = found.as_ref().map_or(0, |cover| cover.chosen.len());
        let what = match many {
            0 => format!("{} alone", model.model),
            1 => format!("one {} alone", model.model),
            many => format!("{many} × {} alone", model.model),
        };
        all.push(Alternative { what, price: found.map(|cover| cover.price) });
    }
    all
}

/// Money as one writes it.
#[must_use]
pub fn money(price: u64) -> String {
    if price.is_multiple_of(100) { format!("{}", price / 100) } else { format!("{}.{:02}", price / 100, price % 100) }
}

fn words(site: &Site, found: &GatewaySet) -> Vec<String> {
    let names = |devices: &[DeviceId]| devices.iter().map(|own| site.device_name(*own)).collect::<Vec<_>>().join(", ");
    let mut all = Vec::new();
    if !found.unreached.is_empty() {
        all.push(format!(
            "Nothing reaches {}: move it, mark a spot that sees it, or give it another way of control.",
            names(&found.unreached)
        ));
    }
    if found.stopped {
        all.push("It was given up before any set was found: look again, or in one room at a time.".to_owned());
    }
    if found.boxes.is_empty() {
        return all;
    }
    let many = match found.boxes.len() {
        1 => "One box".to_owned(),
        2 => "Two".to_owned(),
        3 => "Three".to_owned(),
        many => many.to_string(),
    };
    let reach = if found.boxes.len() == 1 { "reaches" } else { "reach" };
    let proved = if found.proved {
        "no set is cheaper".to_owned()
    } else {
        format!("no set costs less than {}", money(found.bound))
    };
    all.push(format!("{many} at {} {reach} everything; {proved}.", money(found.price)));
    if found.boxes.len() > 1 && found.apart.len() == found.boxes.len() {
        all.push(format!("Fewer cannot: no box reaches two of {}.", names(&found.apart)));
    }
    for other in &found.others {
        match other.price {
            Some(price) if price > found.price => {
                all.push(format!("{} would cost {}.", crate::words::capital(&other.what), money(price)))
            }
            None => all.push(format!("{} does not reach everything.", crate::words::capital(&other.what))),
            Some(_) => {}
        }
    }
    all
}

/// A box as it would be placed.
#[must_use]
pub fn as_placed(own: &GatewayAt, id: PlacedId, device: DeviceId) -> Placed {
    let leads = own.serves.iter().filter(|served| served.lead).map(|served| served.device).collect();
    let elevation_deg = if own.at_mm[2] > 1_500 { -15 } else { 0 };
    let (at_mm, size_mm) = (own.at_mm, [120, 20, 120]);
    Placed { id, device, at_mm, size_mm, azimuth_deg: own.azimuth_deg, elevation_deg, leads }
}
