//! What a gateway reaches, with what margin, and why not.

use super::infrared::{Emitter, FINE, Lit, Scene, Window};
use super::radio::{FADING_DB, Link};
use super::scene::{Posture, cupboard_between, optics, place_of, placed, point, scene, screen_between};
use crate::id::{DeviceId, RoomId};
use crate::model::{Material, Medium, Site};
use glam::DVec3;
use serde::Serialize;
use utoipa::ToSchema;

/// From this margin on a device is reached, in dB.
pub const REACHES_DB: f64 = 6.0;

/// From this margin on it is barely reached, in dB.
pub const BARELY_DB: f64 = 0.0;

/// One bounce leaves out up to so much diffuse light and some: below this in the best case nothing arrives, in dB.
pub const NEVER_DB: f64 = -10.0;

/// How far a gateway is looked along its wall for a better place, in m.
const LOOK_ALONG: f64 = 4.0;

/// How a device is reached.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = ReachedHow)]
#[serde(rename_all = "kebab-case")]
pub enum Reached {
    /// By 6 dB or more.
    Reaches,
    /// By 0 dB or more.
    Barely,
    /// Not.
    Not,
}

impl Reached {
    /// What a margin says, in dB.
    #[must_use]
    pub fn by(margin_db: f64) -> Self {
        if margin_db >= REACHES_DB {
            Self::Reaches
        } else if margin_db >= BARELY_DB {
            Self::Barely
        } else {
            Self::Not
        }
    }
}

/// Whether a frame is heard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, ToSchema)]
#[schema(as = IsHeard)]
#[serde(rename_all = "kebab-case")]
pub enum Hears {
    /// Surely: by 6 dB or more.
    Surely,
    /// It may, or may not.
    Maybe,
    /// Surely not: below −10 dB even with the screen up and doors open.
    SurelyNot,
}

/// Why a device is not reached.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = ReachWhy)]
#[serde(rename_all = "kebab-case", tag = "why")]
pub enum Why {
    /// Behind a lowered screen.
    Screen {
        /// Which.
        screen: DeviceId,
    },
    /// Behind the door or the wall of a cupboard.
    Cupboard {
        /// What it is called.
        name: String,
    },
    /// The gateway does not look at it.
    TurnedAway,
    /// It does not look at the gateway.
    LooksAway,
    /// It is too far.
    Far,
}

/// What would help.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = ReachHelp)]
#[serde(rename_all = "kebab-case", tag = "help")]
pub enum Help {
    /// Turn the gateway.
    Turn {
        /// To this azimuth, in degrees.
        azimuth_deg: i16,
        /// And this elevation, in degrees.
        elevation_deg: i8,
        /// By how much that is, in degrees.
        by_deg: f64,
        /// The margin then, in dB.
        margin_db: f64,
    },
    /// A lead on its window.
    Lead,
    /// Leave the door open.
    Open {
        /// The margin then, in dB.
        margin_db: f64,
    },
    /// Move the gateway along its wall.
    Move {
        /// To here, in mm.
        at_mm: [i32; 3],
        /// How far that is, in m.
        by_m: f64,
        /// The margin then, in dB.
        margin_db: f64,
    },
}

/// How a device of a room is reached by a gateway.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ReachLine {
    /// The device.
    pub device: DeviceId,
    /// By infrared or by radio, in dB over what it needs; none in the dark.
    pub margin_db: Option<f64>,
    /// The same with screens up and doors open.
    pub best_db: Option<f64>,
    /// What that says.
    pub reached: Reached,
    /// Whether a frame is heard, whatever the screens do.
    pub hears: Hears,
    /// How far it is, in m.
    pub metres: f64,
    /// Is it reached by a lead?
    pub lead: bool,
    /// Why it is not reached.
    pub why: Option<Why>,
    /// What would help, the least trouble first.
    pub help: Vec<Help>,
}

/// What is reached from a gateway.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = GatewayReach)]
pub struct Reach {
    /// Devices that are placed and understand it.
    pub lines: Vec<ReachLine>,
    /// Devices of the room for which no claim is made: they are not placed, or nothing is known of their window.
    pub unknown: Vec<DeviceId>,
}

/// Margin as a figure that can be told; none in the dark.
fn told(margin_db: f64) -> Option<f64> {
    margin_db.is_finite().then_some((margin_db * 10.0).round() / 10.0)
}

/// What an infrared gateway reaches in its room, as the room stands.
#[must_use]
pub fn reach(site: &Site, room: RoomId, gateway: DeviceId, posture: &Posture) -> Option<Reach> {
    let own = place_of(site, gateway)?;
    let emitter = own.emitter(&optics(site, gateway)?.emits?);
    let [now, best, worst] = [posture.clone(), Posture::best(), Posture::all_down(site, room)].map(|posture| {
        let scene = scene(site, room, &posture);
        (posture, scene)
    });
    let mut all = Reach { lines: vec![], unknown: vec![] };
    for device in site.devices_in(room).filter(|device| device.id != gateway) {
        let window = place_of(site, device.id).zip(optics(site, device.id).and_then(|own| own.hears));
        let Some(window) = window.map(|(place, hears)| place.window(&hears)) else {
            if site.paths_of(device.id).iter().any(|path| path.medium == Medium::Ir) {
                all.unknown.push(device.id);
            }
            continue;
        };
        let lead = own.leads.contains(&device.id);
        let margin = |scene: &Scene| window.margin_db(scene.irradiance(&emitter, &window, FINE));
        let (here_db, best_db, worst_db) = (margin(&now.1), margin(&best.1), margin(&worst.1));
        let hears = if lead || here_db.min(worst_db) >= REACHES_DB {
            Hears::Surely
        } else if best_db < NEVER_DB {
            Hears::SurelyNot
        } else {
            Hears::Maybe
        };
        let reached = if lead { Reached::Reaches } else { Reached::by(here_db) };
        let why = (reached == Reached::Not).then(|| why(site, room, &now.0, &emitter, &window));
        let help = if reached == Reached::Reaches {
            vec![]
        } else {
            help(site, room, gateway, &now.1, &emitter, &window, best_db)
        };
        let metres = emitter.at.distance(window.at);
        let (margin_db, best_db) = (told(here_db), told(best_db));
        all.lines.push(ReachLine { device: device.id, margin_db, best_db, reached, hears, metres, lead, why, help });
    }
    Some(all)
}

fn why(site: &Site, room: RoomId, posture: &Posture, emitter: &Emitter, window: &Window) -> Why {
    if let Some(screen) = screen_between(site, room, posture, emitter.at, window.at) {
        return Why::Screen { screen };
    }
    let plan = site.room(room).map(|own| &own.floor);
    if let Some(own) = plan.and_then(|plan| cupboard_between(plan, posture, emitter.at, window.at)) {
        return Why::Cupboard { name: own.name.clone() };
    }
    let way = window.at - emitter.at;
    let away = |facing: DVec3, way: DVec3| facing.angle_between(way).to_degrees() > 60.0;
    if away(emitter.facing, way) {
        Why::TurnedAway
    } else if away(window.facing, -way) {
        Why::LooksAway
    } else {
        Why::Far
    }
}

fn help(
    site: &Site,
    room: RoomId,
    gateway: DeviceId,
    scene: &Scene,
    emitter: &Emitter,
    window: &Window,
    best_db: f64,
) -> Vec<Help> {
    let mut all = Vec::new();
    let margin = |emitter: &Emitter| window.margin_db(scene.irradiance(emitter, window, FINE));
    let facing = (window.at - emitter.at).normalize_or_zero();
    let turned = margin(&Emitter { facing, ..*emitter });
    if turned >= REACHES_DB {
        let (azimuth, elevation) = super::geometry::angles(facing);
        #[expect(clippy::cast_possible_truncation, reason = "an angle of at most 180°")]
        all.push(Help::Turn {
            azimuth_deg: azimuth.round() as i16,
            elevation_deg: elevation.round() as i8,
            by_deg: emitter.facing.angle_between(facing).to_degrees().round(),
            margin_db: told(turned).unwrap_or_default(),
        });
    }
    let emits = optics(site, gateway).and_then(|own| own.emits);
    let used = place_of(site, gateway).map_or(0, |own| own.leads.len());
    if emits.is_some_and(|own| usize::from(own.leads) > used) {
        all.push(Help::Lead);
    }
    if best_db >= REACHES_DB && turned < REACHES_DB {
        all.push(Help::Open { margin_db: told(best_db).unwrap_or_default() });
    }
    if let Some(plan) = site.room(room).map(|own| &own.floor).filter(|plan| plan.is_drawn()) {
        all.extend(moved(&plan.block(), scene, emitter, window));
    }
    all
}

/// The nearest place along its wall from which a gateway reaches a window, turned to it.
fn moved(room: &super::geometry::Block, scene: &Scene, emitter: &Emitter, window: &Window) -> Option<Help> {
    // Along the wall that it hangs at: across the way that it looks.
    let along = if emitter.facing.x.abs() >= emitter.facing.y.abs() { DVec3::Y } else { DVec3::X };
    let steps = (1..=16).flat_map(|step| [f64::from(step), -f64::from(step)]).map(|step| step * LOOK_ALONG / 16.0);
    let mut found = steps.map(|by| emitter.at + along * by).filter(|at| room.holds(*at)).filter_map(|at| {
        let facing = (window.at - at).normalize_or_zero();
        let margin = window.margin_db(scene.irradiance(&Emitter { at, facing, ..*emitter }, window, FINE));
        (margin >= REACHES_DB).then_some((at, margin))
    });
    let (at, margin) = found.next()?;
    #[expect(clippy::cast_possible_truncation, reason = "a place within a room")]
    let at_mm = (at * 1_000.0).round().to_array().map(|mm| mm as i32);
    Some(Help::Move { at_mm, by_m: at.distance(emitter.at), margin_db: told(margin)? })
}

/// The field of a gateway on the plan of its room: the margin of a window that looks like a device's, at its height, at every
/// place.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = ReachField)]
pub struct Field {
    /// How far its places are apart, in m.
    pub step_m: f64,
    /// How many there are along the length of the room.
    pub columns: usize,
    /// And along its width.
    pub rows: usize,
    /// The margin at each, in tenths of a dB, row by row; the least there is in the dark.
    pub tenths_db: Vec<i16>,
    /// The height at which it is drawn, in m.
    pub height_m: f64,
}

/// How far the places of a field are apart, in m.
const STEP: f64 = 0.1;

/// A field looks at patches of this fineness.
const FIELD_FINE: f64 = 0.7;

/// The field of a gateway for a device of its room.
#[must_use]
pub fn field(site: &Site, room: RoomId, gateway: DeviceId, device: DeviceId, posture: &Posture) -> Option<Field> {
    let plan = site.room(room).map(|own| &own.floor).filter(|plan| plan.is_drawn())?;
    let emitter = place_of(site, gateway)?.emitter(&optics(site, gateway)?.emits?);
    let own = place_of(site, device)?.window(&optics(site, device)?.hears?);
    let scene = scene(site, room, posture);
    let lit = scene.lit(&emitter, None, FIELD_FINE);
    let size = plan.block().size();
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a room is at most 60 m long")]
    let many = |length: f64| (length / STEP).ceil().max(1.0) as usize;
    let (columns, rows) = (many(size.x), many(size.y));
    #[expect(clippy::cast_precision_loss, reason = "at most 600 places along a side")]
    let window = |column: usize, row: usize| {
        let at = DVec3::new((column as f64 + 0.5) * STEP, (row as f64 + 0.5) * STEP, own.at.z);
        Window { at, ..own }
    };
    let bounced = Bounced::of(&scene, &lit, (columns, rows), &window);
    let tenths_db = (0..rows).flat_map(|row| (0..columns).map(move |column| (column, row)));
    let tenths_db = tenths_db.map(|(column, row)| {
        let own = window(column, row);
        tenths(own.margin_db(scene.straight(&emitter, &own) + bounced.at(column, row)))
    });
    Some(Field { step_m: STEP, columns, rows, tenths_db: tenths_db.collect(), height_m: own.at.z })
}

fn tenths(margin: f64) -> i16 {
    #[expect(clippy::cast_possible_truncation, reason = "kept within the range")]
    let own = (margin * 10.0).clamp(-9_999.0, 9_999.0).round() as i16;
    own
}

/// What bounces to the places of a field. It changes slowly from place to place: it is worked out at every second one along
/// both sides, and between these it is their mean, unless something stands between them.
struct Bounced<'s, W> {
    scene: &'s Scene,
    lit: &'s [Lit],
    columns: usize,
    rows: usize,
    window: &'s W,
    /// At every second place, row by row.
    known: Vec<f64>,
}

impl<'s, W: Fn(usize, usize) -> Window> Bounced<'s, W> {
    fn of(scene: &'s Scene, lit: &'s [Lit], (columns, rows): (usize, usize), window: &'s W) -> Self {
        let places = (0..rows).step_by(2).flat_map(|row| (0..columns).step_by(2).map(move |column| (column, row)));
        let known = places.map(|(column, row)| scene.bounced(lit, &window(column, row))).collect();
        Self { scene, lit, columns, rows, window, known }
    }

    fn at(&self, column: usize, row: usize) -> f64 {
        let own = (self.window)(column, row);
        let beside = |place: usize| if place.is_multiple_of(2) { [place, place] } else { [place - 1, place + 1] };
        let (across, along) = (beside(column), beside(row));
        let mut sum = 0.0;
        for place in along {
            for other in across {
                let free = || self.scene.between(own.at, (self.window)(other, place).at) == 1.0;
                if other >= self.columns || place >= self.rows || ((other, place) != (column, row) && !free()) {
                    return self.scene.bounced(self.lit, &own);
                }
                sum += self.known[(place / 2) * self.columns.div_ceil(2) + other / 2];
            }
        }
        sum / 4.0
    }
}

/// How radio of one device arrives at another one, in dB over what it needs, fading left out; none where nothing is known of
/// either radio, or where one of them is not placed in a room that has a plan.
#[must_use]
pub fn radio_db(site: &Site, sender: DeviceId, receiver: DeviceId) -> Option<f64> {
    let (sends, hears) = (optics(site, sender)?.radio?, optics(site, receiver)?.radio?);
    let link = Link {
        sends_dbm: f64::from(sends.sends_tenths_dbm?) / 10.0,
        gain_db: f64::from(sends.gain_tenths_db + hears.gain_tenths_db) / 10.0,
        needs_dbm: f64::from(hears.needs_dbm?),
    };
    let room = site.device(sender)?.room;
    link_db(site, &link, (room, point(place_of(site, sender)?.at_mm)), receiver)
}

/// The margin of a link from a place in a room to a device, in dB, fading left out; none where either room has no plan.
#[must_use]
pub fn link_db(site: &Site, link: &Link, (room, at): (RoomId, DVec3), receiver: DeviceId) -> Option<f64> {
    let other = site.device(receiver)?.room;
    let to = in_house(site, other, point(place_of(site, receiver)?.at_mm))?;
    let from = in_house(site, room, at)?;
    Some(link.margin_db(from.distance(to), walls_db(site, (room, from), (other, to))))
}

/// Is radio heard: surely, maybe, or surely not?
#[must_use]
pub fn radio_hears(margin_db: f64) -> Hears {
    if margin_db - FADING_DB >= REACHES_DB {
        Hears::Surely
    } else if margin_db + FADING_DB < NEVER_DB {
        Hears::SurelyNot
    } else {
        Hears::Maybe
    }
}

/// How high a storey is, in m (*common practice*).
const STOREY: f64 = 2.8;

/// What a ceiling between storeys takes, in dB.
const CEILING: Material = Material::Concrete;

/// Where a place of a room is in the house, in m.
fn in_house(site: &Site, room: RoomId, at: DVec3) -> Option<DVec3> {
    let plan = site.room(room).map(|room| &room.floor).filter(|plan| plan.is_drawn())?;
    let corner = DVec3::new(f64::from(plan.at_mm[0]), f64::from(plan.at_mm[1]), 0.0) / 1_000.0;
    Some(corner + at + DVec3::Z * STOREY * f64::from(plan.storey))
}

/// What walls and ceilings take on the way, in dB: each wall of another room's plan that is crossed, by its material, and each
/// storey.
fn walls_db(site: &Site, (room, from): (RoomId, DVec3), (other, to): (RoomId, DVec3)) -> f64 {
    let storey = |room: RoomId| site.room(room).map(|room| room.floor.storey);
    let storeys = storey(room).zip(storey(other)).map_or(0, |(a, b)| a.abs_diff(b));
    let mut crossed: Vec<(f64, f64)> = Vec::new();
    for room in site.rooms.iter().filter(|room| room.floor.is_drawn()) {
        let plan = &room.floor;
        let low = f64::from(plan.storey) * STOREY;
        let least = DVec3::new(f64::from(plan.at_mm[0]) / 1_000.0, f64::from(plan.at_mm[1]) / 1_000.0, low);
        let block = super::geometry::Block { least, most: least + super::scene::size(plan.size_mm) };
        for (side, material) in block.sides().into_iter().zip(plan.walls) {
            crossed
                .extend(side.crossing(from, to).map(|share| (share * from.distance(to), material.takes_db().into())));
        }
    }
    crossed.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut taken = f64::from(storeys) * f64::from(CEILING.takes_db());
    let mut last: Option<(f64, f64)> = None;
    for (at, db) in crossed {
        // The wall between two rooms is drawn in both plans: it is one wall, as thick as the thicker one.
        match last.filter(|(before, _)| at - before < ONE_WALL) {
            Some((before, counted)) => {
                taken += (db - counted).max(0.0);
                last = Some((before, counted.max(db)));
            }
            None => {
                taken += db;
                last = Some((at, db));
            }
        }
    }
    taken
}

/// Sides of two rooms that are crossed within this of each other are one wall, in m.
const ONE_WALL: f64 = 0.5;

/// What is placed in a room and sends infrared light.
pub fn senders(site: &Site, room: RoomId) -> impl Iterator<Item = DeviceId> {
    let emits = |device: DeviceId| optics(site, device).is_some_and(|own| own.emits.is_some());
    placed(site, room).map(|own| own.device).filter(move |device| emits(*device))
}
