//! What is wrong in a room as it stands in space. A room without a plan has no findings of this kind, and neither has what is
//! not placed.

use super::reach::{BARELY_DB, REACHES_DB, margin_db, senders};
use super::scene::{Posture, place_of, screens};
use super::seats::{Asked, RoomPicture, pictures};
use crate::finding::Finding;
use crate::id::{DeviceId, RoomId};
use crate::model::{FindingKind, Medium, Site};

/// What is wrong in a room in space.
#[must_use]
pub fn findings(site: &Site, room: RoomId) -> Vec<Finding> {
    if !site.room(room).is_some_and(|own| own.floor.is_drawn()) {
        return vec![];
    }
    let mut kinds = of_reach(site, room);
    for picture in pictures(site, room, Asked::default()) {
        kinds.extend(of_picture(&picture));
    }
    kinds.into_iter().map(|kind| Finding::of(site, kind)).collect()
}

/// Devices that are told by infrared first, and the gateway of the room that reaches each best.
fn of_reach(site: &Site, room: RoomId) -> Vec<FindingKind> {
    let boxes: Vec<DeviceId> = senders(site, room).collect();
    if boxes.is_empty() {
        return vec![];
    }
    let (up, down) = (Posture::default(), Posture::all_down(site, room));
    let moves = screens(site, room).next().is_some();
    let mut all = Vec::new();
    for device in site.devices_in(room) {
        let by_light = site.paths_of(device.id).first().is_some_and(|path| path.medium == Medium::Ir);
        if !by_light || boxes.iter().any(|own| place_of(site, *own).is_some_and(|own| own.leads.contains(&device.id))) {
            continue;
        }
        let reaches = |posture: &Posture| {
            let margins = boxes.iter().filter_map(|own| Some((*own, margin_db(site, room, *own, device.id, posture)?)));
            margins.max_by(|a, b| a.1.total_cmp(&b.1))
        };
        let Some((gateway, margin)) = reaches(&up) else { continue };
        let device = device.id;
        if margin < BARELY_DB {
            all.push(FindingKind::OutOfReach { device, gateway });
        } else if margin < REACHES_DB {
            #[expect(clippy::cast_possible_truncation, reason = "between 0 and 6 dB")]
            let tenths_db = (margin * 10.0).round() as i16;
            all.push(FindingKind::BarelyReached { device, gateway, tenths_db });
        } else if moves && reaches(&down).is_none_or(|(_, margin)| margin < BARELY_DB) {
            all.push(FindingKind::BehindScreen { device, gateway });
        }
    }
    all
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
    if let Some(white) = own.white.filter(|white| *white < super::picture::CINEMA_WHITE) {
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "below 48 cd/m²")]
        let white = white.round() as u32;
        all.push(FindingKind::TooDim { device: own.on, white });
    }
    all
}
