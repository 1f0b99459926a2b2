//! What is wrong in a room as it stands in space. A room without a plan has no findings of this kind, and neither has what is
//! not placed.

use super::cables::length;
use super::infrared::{Emitter, FINE, Lit, Scene, Window};
use super::reach::{BARELY_DB, REACHES_DB, senders};
use super::scene::{Posture, optics, place_of, placed, point, scene, screens};
use super::seats::{Asked, RoomPicture, pictures};
use crate::finding::Finding;
use crate::id::{DeviceId, RoomId};
use crate::model::{Cable, FindingKind, FloorPlan, Medium, Site};

/// What is wrong in a room in space.
#[must_use]
pub fn findings(site: &Site, room: RoomId) -> Vec<Finding> {
    let Some(plan) = site.room(room).map(|own| &own.floor).filter(|plan| plan.is_drawn()) else { return vec![] };
    let mut kinds = of_reach(site, room);
    kinds.extend(of_cables(site, room, plan));
    for picture in pictures(site, room, Asked::default()) {
        kinds.extend(of_picture(&picture));
    }
    kinds.into_iter().map(|kind| Finding::of(site, kind)).collect()
}

/// Patches are so coarse at first: findings are worked out after every edit.
const ROUGH: f64 = 0.6;

/// A margin that is nearer than this to what is asked is worked out with fine patches, in dB.
const NEAR_DB: f64 = 2.0;

/// What the gateways of a room send while it stands in one way, made once for all of its devices.
struct Sent {
    scene: Scene,
    boxes: Vec<(DeviceId, Emitter, Vec<Lit>)>,
}

impl Sent {
    fn of(site: &Site, room: RoomId, posture: &Posture) -> Self {
        let scene = scene(site, room, posture);
        let emitters =
            senders(site, room).filter_map(|own| Some((own, place_of(site, own)?.emitter(&optics(site, own)?.emits?))));
        let boxes = emitters.map(|(own, emitter)| (own, emitter, scene.lit(&emitter, None, ROUGH))).collect();
        Self { scene, boxes }
    }

    /// The gateway that reaches a window best, with its margin in dB.
    fn best(&self, window: &Window) -> Option<(DeviceId, f64)> {
        let margins = self.boxes.iter().map(|(own, emitter, lit)| {
            let rough = window.margin_db(self.scene.straight(emitter, window) + self.scene.bounced(lit, window));
            let close = [BARELY_DB, REACHES_DB].into_iter().any(|asked| (rough - asked).abs() < NEAR_DB);
            let margin = if close { window.margin_db(self.scene.irradiance(emitter, window, FINE)) } else { rough };
            (*own, margin)
        });
        margins.max_by(|a, b| a.1.total_cmp(&b.1))
    }
}

/// Devices that are told by infrared first, and the gateway of the room that reaches each best.
fn of_reach(site: &Site, room: RoomId) -> Vec<FindingKind> {
    let up = Sent::of(site, room, &Posture::default());
    let moves = screens(site, room).next().is_some();
    let down = moves.then(|| Sent::of(site, room, &Posture::all_down(site, room)));
    let leads: Vec<DeviceId> = placed(site, room).flat_map(|own| own.leads.iter().copied()).collect();
    let mut all = Vec::new();
    for own in site.devices_in(room) {
        let device = own.id;
        let by_light = site.paths_of(device).first().is_some_and(|path| path.medium == Medium::Ir);
        if !by_light || leads.contains(&device) {
            continue;
        }
        let window = place_of(site, device).zip(optics(site, device).and_then(|own| own.hears));
        let Some(window) = window.map(|(place, hears)| place.window(&hears)) else { continue };
        let Some((gateway, margin)) = up.best(&window) else { continue };
        if margin < BARELY_DB {
            all.push(FindingKind::OutOfReach { device, gateway });
        } else if margin < REACHES_DB {
            #[expect(clippy::cast_possible_truncation, reason = "between 0 and 6 dB")]
            let tenths_db = (margin * 10.0).round() as i16;
            all.push(FindingKind::BarelyReached { device, gateway, tenths_db });
        } else if down.as_ref().and_then(|down| down.best(&window)).is_some_and(|(_, margin)| margin < BARELY_DB) {
            all.push(FindingKind::BehindScreen { device, gateway });
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

/// Cables between things that are placed, along walls and ceiling, that are too long for their kind.
fn of_cables(site: &Site, room: RoomId, plan: &FloorPlan) -> Vec<FindingKind> {
    let block = plan.block();
    let here = |device: DeviceId| placed(site, room).find(|own| own.device == device).map(|own| point(own.at_mm));
    let too_long = site.connections.iter().filter_map(|own| {
        let (from, to) = (here(own.from_device)?, here(own.to_device)?);
        let most = longest(site.cable(own)?)?;
        let metres = length(&block, from, to);
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a length within a room")]
        let tenths_m = (metres * 10.0).ceil() as u32;
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a figure of the table above")]
        let most_m = most as u32;
        (metres > most).then_some(FindingKind::CableLong { connection: own.id, tenths_m, most_m })
    });
    too_long.collect()
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
