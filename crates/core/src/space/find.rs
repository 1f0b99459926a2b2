//! What is wrong in a room as it stands in space. A room without a plan has no findings of this kind, and neither has what is
//! not placed.

use super::cables::length;
use super::hears::{ears, is_drawn};
use super::picture::UP_DEG;
use super::reach::{BARELY_DB, REACHES_DB, radio_db, senders};
use super::scene::{optics, place_of, placed, point};
use super::seats::{Asked, RoomPicture, pictures};
use crate::finding::Finding;
use crate::id::{ConnectionId, DeviceId, RoomId};
use crate::model::{Cable, FindingKind, Medium, Placed, Site};
use serde::Serialize;
use utoipa::ToSchema;

/// What is wrong in a room in space.
#[must_use]
pub fn findings(site: &Site, room: RoomId) -> Vec<Finding> {
    if !is_drawn(site, room) {
        return vec![];
    }
    let mut kinds = of_reach(site, room);
    kinds.extend(of_radios(site, room));
    kinds.extend(of_cables(site, room));
    for picture in pictures(site, room, Asked::default()) {
        kinds.extend(of_picture(&picture));
        kinds.extend(keystone(site, &picture));
    }
    kinds.into_iter().map(|kind| Finding::of(site, kind)).collect()
}

/// Devices that are told by infrared first, and the gateway of the room that reaches each best.
fn of_reach(site: &Site, room: RoomId) -> Vec<FindingKind> {
    let ears = ears(site, room);
    let leads: Vec<DeviceId> = placed(site, room).flat_map(|own| own.leads.iter().copied()).collect();
    let mut all = Vec::new();
    for own in site.devices_in(room) {
        let device = own.id;
        let by_light = site.paths_of(device).first().is_some_and(|path| path.medium == Medium::Ir);
        let said = site.codes.iter().any(|code| code.device == device && code.body.medium() == Medium::Ir);
        if !by_light || leads.contains(&device) {
            continue;
        }
        let known = ears.of.iter().filter(|((_, receiver), _)| *receiver == device);
        let Some(((gateway, _), ear)) = known.max_by(|a, b| a.1.up_db.total_cmp(&b.1.up_db)) else {
            // What has no codes is told nothing by infrared: nothing hangs on where it stands.
            if said && own.room == room && senders(site, room).next().is_some() {
                all.push(FindingKind::ReachUnknown { device, placed: place_of(site, device).is_some() });
            }
            continue;
        };
        let gateway = *gateway;
        if ear.up_db < BARELY_DB {
            all.push(FindingKind::OutOfReach { device, gateway });
        } else if ear.up_db < REACHES_DB {
            #[expect(clippy::cast_possible_truncation, reason = "between 0 and 6 dB")]
            let tenths_db = (ear.up_db * 10.0).round() as i16;
            all.push(FindingKind::BarelyReached { device, gateway, tenths_db });
        } else if ear.down_db() < BARELY_DB {
            all.push(FindingKind::BehindScreen { device, gateway });
        }
    }
    all
}

/// Gateways of other rooms whose radio a receiver hears together with that of a gateway of this room: what both send at one
/// moment is lost on it.
fn of_radios(site: &Site, room: RoomId) -> Vec<FindingKind> {
    let radios = |here: bool| {
        let sends = |own: &&Placed| {
            optics(site, own.device).is_some_and(|own| own.radio.is_some_and(|own| own.sends_tenths_dbm.is_some()))
        };
        let there = move |own: &&Placed| site.device(own.device).is_some_and(|own| (own.room == room) == here);
        site.placed.iter().filter(sends).filter(there).map(|own| own.device)
    };
    let receivers: Vec<DeviceId> = site
        .devices
        .iter()
        .filter(|own| site.paths_of(own.id).first().is_some_and(|path| path.medium == Medium::Rf433))
        .map(|own| own.id)
        .collect();
    let hears = |gateway: DeviceId, device: DeviceId| radio_db(site, gateway, device).is_some_and(|db| db >= BARELY_DB);
    let mut all = Vec::new();
    for own in radios(true) {
        for other in radios(false) {
            if let Some(&heard_by) = receivers.iter().find(|&&device| hears(own, device) && hears(other, device)) {
                all.push(FindingKind::RadiosMeet { device: own, other, heard_by });
            }
        }
    }
    all
}

/// How long a cable of a kind may be, in m (*common practice* for passive cables).
const fn longest(cable: Cable) -> Option<f64> {
    match cable {
        Cable::Hdmi | Cable::Optical => Some(10.0),
        Cable::Analogue => Some(15.0),
        Cable::Speaker | Cable::Trigger => Some(30.0),
        Cable::UsbPower => Some(5.0),
        Cable::Network => Some(100.0),
        Cable::ReturnAudio => None,
    }
}

/// A cable between two things that are placed, as it would be laid.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CableLength {
    /// Which.
    pub connection: ConnectionId,
    /// How long it is along walls and ceiling, a tenth to spare, in m.
    pub metres: f64,
    /// How long a passive one of its kind may be, in m (*common practice*); none where nobody says.
    pub most_m: Option<f64>,
}

/// The cables between things that are placed in a room.
#[must_use]
pub fn cables(site: &Site, room: RoomId) -> Vec<CableLength> {
    let Some(plan) = site.room(room).map(|own| &own.floor).filter(|plan| plan.is_drawn()) else { return vec![] };
    let block = plan.block();
    let here = |device: DeviceId| placed(site, room).find(|own| own.device == device).map(|own| point(own.at_mm));
    let laid = site.connections.iter().filter_map(|own| {
        let metres = length(&block, here(own.from_device)?, here(own.to_device)?);
        let metres = (metres * 10.0).ceil() / 10.0;
        Some(CableLength { connection: own.id, metres, most_m: longest(site.cable(own)?) })
    });
    laid.collect()
}

/// Cables that are too long for their kind.
fn of_cables(site: &Site, room: RoomId) -> Vec<FindingKind> {
    let too_long = cables(site, room).into_iter().filter_map(|own| {
        let most = own.most_m.filter(|most| own.metres > *most)?;
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a length within a room")]
        let (tenths_m, most_m) = ((own.metres * 10.0).round() as u32, most as u32);
        Some(FindingKind::CableLong { connection: own.connection, tenths_m, most_m })
    });
    too_long.collect()
}

/// A lens is square to its picture within this, in degrees.
const SQUARE_DEG: f64 = 2.0;

/// A projector that is not square to its picture: what makes it a rectangle again costs resolution.
fn keystone(site: &Site, own: &RoomPicture) -> Option<FindingKind> {
    let projector = own.throw.as_ref()?.projector;
    let (lens, picture) = (place_of(site, projector)?.facing(), place_of(site, own.on)?.facing());
    let off = lens.angle_between(-picture).to_degrees();
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "an angle of at most 180°")]
    let deg = off.round() as u32;
    (off > SQUARE_DEG).then_some(FindingKind::Keystone { device: projector, deg })
}

fn of_picture(own: &RoomPicture) -> Vec<FindingKind> {
    let mut all = Vec::new();
    if let Some((throw, why)) = own.throw.as_ref().and_then(|throw| Some((throw, throw.wrong.clone()?))) {
        all.push(FindingKind::LensDoesNotFit { device: throw.projector, why });
    }
    let hidden: Vec<(&str, f64)> = own
        .seats
        .iter()
        .filter_map(|seat| Some((seat.name.as_str(), seat.over_heads_m.filter(|over| *over < 0.0)?)))
        .collect();
    if let Some(worst) = hidden.iter().map(|(_, over)| *over).reduce(f64::min) {
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a few cm")]
        let cm = (-worst * 100.0).ceil() as u32;
        let seats = hidden.iter().map(|(name, _)| (*name).to_owned()).collect();
        all.push(FindingKind::EdgeHidden { device: own.on, seats, cm });
    }
    let front = own.seats.iter().map(|seat| seat.row).min();
    let steepest = own.seats.iter().filter(|seat| Some(seat.row) == front).max_by(|a, b| a.up_deg.total_cmp(&b.up_deg));
    if let Some(seat) = steepest.filter(|seat| seat.up_deg > UP_DEG) {
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "an angle of at most 90°")]
        let deg = seat.up_deg.round() as u32;
        all.push(FindingKind::TooSteep { device: own.on, seat: seat.name.clone(), deg });
    }
    if let Some(white) = own.white.filter(|white| *white < super::picture::CINEMA_WHITE) {
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "below 48 cd/m²")]
        let white = white.round() as u32;
        all.push(FindingKind::TooDim { device: own.on, white });
    }
    all
}
