//! A room as light and radio see it: walls, cupboards and screens of its floor plan, emitters and windows of what is placed.

use super::geometry::{Block, Rect, direction};
use super::infrared::{Emitter, Face, Pane, Scene, Window, order};
use crate::id::{DeviceId, RoomId};
use crate::model::{Cupboard, Emits, FloorPlan, Hears, Opening, Optics, PictureSurface, Placed, Site, Wall};
use glam::DVec3;
use std::collections::BTreeMap;

/// A screen throws so much infrared light back, as a share (*from memory*).
const SCREEN_REFLECTS: f64 = 0.7;

/// How a room stands: which screens are down, and whether its doors are open.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Posture {
    /// How far each screen is down, as a share of its way; one that is not named is up.
    pub down: BTreeMap<DeviceId, f64>,
    /// Are all doors of cupboards open? They are as the plan says otherwise.
    pub open: bool,
}

impl Posture {
    /// Screens up and doors open: nothing is in the way.
    #[must_use]
    pub fn best() -> Self {
        Self { down: BTreeMap::new(), open: true }
    }

    /// The same with every screen of a room all the way down.
    #[must_use]
    pub fn all_down(site: &Site, room: RoomId) -> Self {
        let down = screens(site, room).map(|(placed, _)| (placed.device, 1.0)).collect();
        Self { down, open: false }
    }
}

/// A point of the plan, in m.
#[must_use]
pub fn point(mm: [i32; 3]) -> DVec3 {
    DVec3::new(f64::from(mm[0]), f64::from(mm[1]), f64::from(mm[2])) / 1_000.0
}

/// A size of the plan, in m.
#[must_use]
pub fn size(mm: [u32; 3]) -> DVec3 {
    DVec3::new(f64::from(mm[0]), f64::from(mm[1]), f64::from(mm[2])) / 1_000.0
}

impl FloorPlan {
    /// The room as a box, in m.
    #[must_use]
    pub fn block(&self) -> Block {
        Block { least: DVec3::ZERO, most: size(self.size_mm) }
    }

    /// An opening in its wall.
    #[must_use]
    pub fn opening(&self, own: &Opening) -> Rect {
        let room = self.block();
        let mm = |mm: u32| f64::from(mm) / 1_000.0;
        let (from, wide, bottom, high) = (mm(own.from_mm), mm(own.width_mm), mm(own.bottom_mm), mm(own.height_mm));
        let (corner, u) = match own.wall {
            Wall::Left => (DVec3::new(0.0, from, bottom), DVec3::Y),
            Wall::Right => (DVec3::new(room.most.x, from, bottom), DVec3::Y),
            Wall::Top => (DVec3::new(from, 0.0, bottom), DVec3::X),
            Wall::Bottom => (DVec3::new(from, room.most.y, bottom), DVec3::X),
        };
        Rect { corner, u: u * wide, v: DVec3::Z * high }
    }
}

impl Cupboard {
    /// Its box, in m.
    #[must_use]
    pub fn block(&self) -> Block {
        Block::around(point(self.at_mm), size(self.size_mm))
    }

    /// Its door; none for a shelf.
    #[must_use]
    pub fn door(&self) -> Option<Rect> {
        let sides = self.block().sides();
        Some(match self.opens_to? {
            Wall::Left => sides[0],
            Wall::Right => sides[1],
            Wall::Top => sides[2],
            Wall::Bottom => sides[3],
        })
    }

    /// What light has to go through on its way out of it.
    fn panes(&self, open: bool) -> Vec<Pane> {
        let Some(door) = self.door() else { return vec![] };
        let passes = if open || !self.closed { 1.0 } else { f64::from(self.door_passes_percent) / 100.0 };
        let pane = |rect: Rect| Pane { rect, lets_through: if rect == door { passes } else { 0.0 } };
        self.block().sides().map(pane).into_iter().filter(|pane| pane.lets_through < 1.0).collect()
    }
}

impl Placed {
    /// Where its front looks.
    #[must_use]
    pub fn facing(&self) -> DVec3 {
        direction(f64::from(self.azimuth_deg), f64::from(self.elevation_deg))
    }

    /// The middle of its front.
    #[must_use]
    pub fn front(&self) -> DVec3 {
        point(self.at_mm) + self.facing() * (f64::from(self.size_mm[1]) / 2_000.0)
    }

    /// Its case as a box along the walls: turned by a quarter where it looks across the room.
    #[must_use]
    pub fn block(&self) -> Block {
        let [wide, deep, high] = self.size_mm;
        let across = (f64::from(self.azimuth_deg).to_radians().cos()).abs() >= std::f64::consts::FRAC_1_SQRT_2;
        Block::around(point(self.at_mm), size(if across { [deep, wide, high] } else { [wide, deep, high] }))
    }

    /// Its emitter.
    #[must_use]
    pub fn emitter(&self, own: &Emits) -> Emitter {
        let (at, facing) = (self.front(), self.facing());
        Emitter { at, facing, intensity: f64::from(own.mw_per_sr) / 1_000.0, order: order(f64::from(own.half_deg)) }
    }

    /// Its window.
    #[must_use]
    pub fn window(&self, own: &Hears) -> Window {
        let (at, facing) = (self.front(), self.facing());
        let least = f64::from(own.least_uw_per_m2) / 1_000_000.0;
        Window { at, facing, least, order: order(f64::from(own.half_deg)) }
    }

    /// Its picture: of a screen so far down (as a share of its way), of a display as it is. None where the picture is still in
    /// its case.
    #[must_use]
    pub fn picture(&self, surface: &PictureSurface, down: f64) -> Option<Rect> {
        let [wide, high] = surface.size_mm.map(|mm| f64::from(mm) / 1_000.0);
        let right = self.facing().with_z(0.0).normalize_or(DVec3::X).cross(DVec3::Z);
        let middle = point(self.at_mm);
        let bottom = if surface.comes_down() {
            let case = middle.z - f64::from(self.size_mm[2]) / 2_000.0;
            let bottom = case + f64::from(surface.below_mm) / 1_000.0 - down * surface.travel();
            if bottom + high > case + 1e-6 {
                return None;
            }
            bottom
        } else {
            middle.z - high / 2.0
        };
        let out = self.facing() * if surface.comes_down() { 0.0 } else { f64::from(self.size_mm[1]) / 2_000.0 };
        let corner = (middle + out).with_z(bottom) - right * (wide / 2.0);
        // Its front looks into the room: right as somebody sees it who looks at it.
        let own = Rect { corner, u: right * wide, v: DVec3::Z * high };
        Some(if own.normal().dot(self.facing()) >= 0.0 {
            own
        } else {
            Rect { corner: own.at(1.0, 0.0), u: -own.u, ..own }
        })
    }
}

impl PictureSurface {
    /// Does it come down out of a case?
    #[must_use]
    pub const fn comes_down(&self) -> bool {
        self.black_mm > 0
    }

    /// How far it travels, in m.
    #[must_use]
    pub fn travel(&self) -> f64 {
        f64::from(self.black_mm + self.size_mm[1] + self.below_mm) / 1_000.0
    }

    /// How many times as wide as high it is.
    #[must_use]
    pub fn aspect(&self) -> f64 {
        f64::from(self.size_mm[0]) / f64::from(self.size_mm[1].max(1))
    }
}

/// What is placed in a room.
pub fn placed(site: &Site, room: RoomId) -> impl Iterator<Item = &Placed> {
    site.placed.iter().filter(move |own| site.device(own.device).is_some_and(|device| device.room == room))
}

/// Where a device stands; none where nobody has placed it.
#[must_use]
pub fn place_of(site: &Site, device: DeviceId) -> Option<&Placed> {
    site.placed.iter().find(|own| own.device == device)
}

/// What is known of a device in space.
#[must_use]
pub fn optics(site: &Site, device: DeviceId) -> Option<&Optics> {
    site.model_of(device)?.optics.as_deref()
}

/// The screens of a room that come down.
pub fn screens(site: &Site, room: RoomId) -> impl Iterator<Item = (&Placed, PictureSurface)> {
    placed(site, room).filter_map(|own| {
        let surface = optics(site, own.device)?.surface?;
        surface.comes_down().then_some((own, surface))
    })
}

/// The cloth of a screen that is so far down.
fn cloth(own: &Placed, surface: &PictureSurface, down: f64) -> Option<Rect> {
    let length = down.clamp(0.0, 1.0) * surface.travel();
    if length <= 0.0 {
        return None;
    }
    let wide = f64::from(surface.size_mm[0]) / 1_000.0;
    let right = own.facing().with_z(0.0).normalize_or(DVec3::X).cross(DVec3::Z);
    let case = point(own.at_mm).z - f64::from(own.size_mm[2]) / 2_000.0;
    let corner = point(own.at_mm).with_z(case - length) - right * (wide / 2.0);
    Some(Rect { corner, u: right * wide, v: DVec3::Z * length })
}

/// The room as infrared light sees it. Windows and doors in walls throw back what the wall does; the insides of cupboards
/// throw nothing back.
#[must_use]
pub fn scene(site: &Site, room: RoomId, posture: &Posture) -> Scene {
    let Some(plan) = site.room(room).map(|own| &own.floor).filter(|plan| plan.is_drawn()) else {
        return Scene::default();
    };
    let materials = [plan.walls[0], plan.walls[1], plan.walls[2], plan.walls[3], plan.floor, plan.ceiling];
    let share = |percent: u8| f64::from(percent) / 100.0;
    let sides = plan.block().sides().into_iter().zip(materials);
    let mut faces: Vec<Face> = sides
        .map(|(rect, material)| Face { rect, reflects: share(material.reflects_percent()), both_sides: false })
        .collect();
    let mut panes: Vec<Pane> = plan.cupboards.iter().flat_map(|own| own.panes(posture.open)).collect();
    for (own, surface) in screens(site, room) {
        let down = posture.down.get(&own.device).copied().unwrap_or(0.0);
        if let Some(rect) = cloth(own, &surface, down) {
            faces.push(Face { rect, reflects: SCREEN_REFLECTS, both_sides: true });
            panes.push(Pane { rect, lets_through: share(surface.passes_percent) });
        }
    }
    Scene { panes, faces }
}

/// The screen that is between two points of a room.
#[must_use]
pub fn screen_between(site: &Site, room: RoomId, posture: &Posture, from: DVec3, to: DVec3) -> Option<DeviceId> {
    let mut down = screens(site, room).filter_map(|(own, surface)| {
        let rect = cloth(own, &surface, posture.down.get(&own.device).copied().unwrap_or(0.0))?;
        rect.is_crossed(from, to).then_some(own.device)
    });
    down.next()
}

/// The cupboard whose closed door or wall is between two points of a room.
#[must_use]
pub fn cupboard_between<'a>(plan: &'a FloorPlan, posture: &Posture, from: DVec3, to: DVec3) -> Option<&'a Cupboard> {
    let stops = |own: &&Cupboard| {
        own.panes(posture.open).iter().any(|pane| pane.lets_through < 0.5 && pane.rect.is_crossed(from, to))
    };
    plan.cupboards.iter().find(stops)
}
