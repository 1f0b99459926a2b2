//! How much infrared light of an emitter arrives at a window: straight, and by one bounce.
//!
//! An emitter sends I(θ) = I₀·cosᵐθ with m = −ln 2 / ln cos θ½ (Lambertian order; Kahn and Barry 1997). A window takes
//! cosᵏφ of what arrives, with k from its angle of half sensitivity likewise. Straight: E = I(θ)·g(φ)·τ / d². By one bounce
//! from a patch dA of reflectance ρ: dE = I(θ₁)·ρ·cos β₁·cos β₂·g(φ)·τ₁·τ₂·dA / (π·d₁²·d₂²), summed over walls, ceiling,
//! floor and a lowered screen. The margin is 10·log₁₀(E / E_min) dB. One bounce leaves out up to some 5 dB of light that
//! bounces more often.

use super::geometry::Rect;
use glam::DVec3;

/// The order of a lobe whose half angle is given, in degrees: m = −ln 2 / ln cos θ½.
#[must_use]
pub fn order(half_deg: f64) -> f64 {
    let half = half_deg.clamp(1.0, 89.0).to_radians().cos();
    -std::f64::consts::LN_2 / half.ln()
}

/// A power; the usual windows (45° and 60°) have whole ones, which are quick.
fn power(base: f64, exponent: f64) -> f64 {
    if (exponent - 1.0).abs() < 1e-9 {
        base
    } else if (exponent - 2.0).abs() < 1e-9 {
        base * base
    } else {
        base.powf(exponent)
    }
}

/// An emitter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Emitter {
    /// Where, in m.
    pub at: DVec3,
    /// Where it looks.
    pub facing: DVec3,
    /// Its radiant intensity straight ahead, in W/sr.
    pub intensity: f64,
    /// The order of its lobe.
    pub order: f64,
}

impl Emitter {
    /// What it sends into a direction, in W/sr.
    #[must_use]
    pub fn towards(&self, way: DVec3) -> f64 {
        let cos = self.facing.dot(way.normalize_or_zero());
        if cos <= 0.0 { 0.0 } else { self.intensity * power(cos, self.order) }
    }

    /// All that it sends, in W: 2π·I₀/(m + 1).
    #[must_use]
    pub fn flux(&self) -> f64 {
        std::f64::consts::TAU * self.intensity / (self.order + 1.0)
    }
}

/// The window of a receiver.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Window {
    /// Where, in m.
    pub at: DVec3,
    /// Where it looks.
    pub facing: DVec3,
    /// The least irradiance that it follows, straight ahead, in W/m².
    pub least: f64,
    /// The order of its sensitivity.
    pub order: f64,
}

impl Window {
    /// What it takes of light from a direction (from it towards the light), as a share.
    #[must_use]
    pub fn takes(&self, towards: DVec3) -> f64 {
        let cos = self.facing.dot(towards.normalize_or_zero());
        if cos <= 0.0 { 0.0 } else { power(cos, self.order) }
    }

    /// The margin of an irradiance over what it needs, in dB; minus infinity in the dark.
    #[must_use]
    pub fn margin_db(&self, irradiance: f64) -> f64 {
        10.0 * (irradiance / self.least).log10()
    }
}

/// Something that lets a share of the light through: a pane, a door, a screen.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pane {
    /// Where.
    pub rect: Rect,
    /// The share that it lets through.
    pub lets_through: f64,
}

/// Something that light bounces from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Face {
    /// Where. Its front is the side that it bounces to.
    pub rect: Rect,
    /// The share that comes back.
    pub reflects: f64,
    /// Does light bounce from its back as well?
    pub both_sides: bool,
}

/// What stands in a room.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Scene {
    /// What light passes through.
    pub panes: Vec<Pane>,
    /// What light bounces from.
    pub faces: Vec<Face>,
}

/// A small piece of a face, with what arrives there.
#[derive(Debug, Clone, Copy)]
pub struct Lit {
    at: DVec3,
    normal: DVec3,
    /// What it sends back along its normal, in W/sr: ρ·E·dA/π.
    back: f64,
    area: f64,
}

impl Scene {
    /// The share of light that arrives from one point at another.
    #[must_use]
    pub fn between(&self, from: DVec3, to: DVec3) -> f64 {
        let crossed = self.panes.iter().filter(|pane| pane.rect.is_crossed(from, to));
        crossed.map(|pane| pane.lets_through).product()
    }

    /// What arrives straight from an emitter at a window, in W/m².
    #[must_use]
    pub fn straight(&self, emitter: &Emitter, window: &Window) -> f64 {
        let way = window.at - emitter.at;
        let squared = way.length_squared();
        if squared == 0.0 {
            return 0.0;
        }
        let bare = emitter.towards(way) * window.takes(-way) / squared;
        if bare == 0.0 { 0.0 } else { bare * self.between(emitter.at, window.at) }
    }

    /// What the faces send back, as patches that are no larger than `fineness` times their distance from the emitter, and
    /// no larger than that times their distance from `near`, where one place is looked at more closely, and never larger
    /// than half a metre, or somewhat more where less than the usual fineness is asked for.
    #[must_use]
    pub fn lit(&self, emitter: &Emitter, near: Option<DVec3>, fineness: f64) -> Vec<Lit> {
        let mut all = Vec::new();
        for face in &self.faces {
            self.patches(face, face.rect, emitter, near, fineness, SPLITS, &mut all);
        }
        all
    }

    #[expect(clippy::too_many_arguments, reason = "it calls itself with a part of the same face")]
    fn patches(
        &self,
        face: &Face,
        rect: Rect,
        emitter: &Emitter,
        near: Option<DVec3>,
        fineness: f64,
        splits: u32,
        all: &mut Vec<Lit>,
    ) {
        let size = rect.u.length().max(rect.v.length());
        let middle = rect.middle();
        let far = |point: DVec3| (nearest(&rect, point) - point).length();
        let wanted = far(emitter.at).min(near.map_or(f64::INFINITY, far)).max(LEAST) * fineness;
        // Where less is asked for, patches far from everything are larger.
        let largest = LARGEST * (fineness / FINE).clamp(1.0, 1.8);
        if size > wanted.min(largest) && splits > 0 {
            for part in halves(&rect) {
                self.patches(face, part, emitter, near, fineness, splits - 1, all);
            }
            return;
        }
        let way = middle - emitter.at;
        let squared = way.length_squared();
        let mut normal = rect.normal();
        let mut cos = -normal.dot(way.normalize_or_zero());
        if cos < 0.0 && face.both_sides {
            (normal, cos) = (-normal, -cos);
        }
        if cos <= 0.0 || squared == 0.0 {
            return;
        }
        let bare = emitter.towards(way) * cos / squared;
        if bare == 0.0 {
            return;
        }
        let arrives = bare * self.between(emitter.at, middle);
        if arrives > 0.0 {
            let area = rect.area();
            all.push(Lit { at: middle, normal, back: arrives * face.reflects * area / std::f64::consts::PI, area });
        }
    }

    /// What arrives from lit patches at a window, in W/m².
    #[must_use]
    pub fn bounced(&self, lit: &[Lit], window: &Window) -> f64 {
        let from = |patch: &Lit| {
            let way = window.at - patch.at;
            let cos = patch.normal.dot(way);
            if cos <= 0.0 {
                return 0.0;
            }
            // A patch that is near is a disc, not a point.
            let squared = way.length_squared() + patch.area / std::f64::consts::PI;
            let length = way.length();
            let seen = -window.facing.dot(way) / length;
            if seen <= 0.0 {
                return 0.0;
            }
            let bare = patch.back * (cos / length) * power(seen, window.order) / squared;
            if bare == 0.0 { 0.0 } else { bare * self.between(patch.at, window.at) }
        };
        lit.iter().map(from).sum()
    }

    /// All that arrives at a window, in W/m².
    #[must_use]
    pub fn irradiance(&self, emitter: &Emitter, window: &Window, fineness: f64) -> f64 {
        self.straight(emitter, window) + self.bounced(&self.lit(emitter, Some(window.at), fineness), window)
    }
}

/// The usual fineness of patches.
pub const FINE: f64 = 0.25;

/// How often a face is halved at most.
const SPLITS: u32 = 16;

/// A patch is never larger than this, in m.
const LARGEST: f64 = 0.5;

/// Nearer than this nothing is made finer, in m.
const LEAST: f64 = 0.08;

/// The halves of a rectangle, across its longer edge.
fn halves(rect: &Rect) -> [Rect; 2] {
    if rect.u.length() >= rect.v.length() {
        [rect.part(0.0, 0.0, 0.5, 1.0), rect.part(0.5, 0.0, 0.5, 1.0)]
    } else {
        [rect.part(0.0, 0.0, 1.0, 0.5), rect.part(0.0, 0.5, 1.0, 0.5)]
    }
}

/// The point of a rectangle that is nearest to another one.
fn nearest(rect: &Rect, point: DVec3) -> DVec3 {
    let from = point - rect.corner;
    let share = |edge: DVec3| (from.dot(edge) / edge.length_squared()).clamp(0.0, 1.0);
    rect.at(share(rect.u), share(rect.v))
}

#[cfg(test)]
mod tests {
    use super::super::geometry::{Block, direction};
    use super::*;
    use rstest::rstest;
    use std::f64::consts::PI;

    const ROOM: Block = Block { least: DVec3::ZERO, most: DVec3::new(6.4, 4.2, 2.6) };

    fn empty(reflects: f64) -> Scene {
        let face = |rect| Face { rect, reflects, both_sides: false };
        Scene { panes: vec![], faces: ROOM.sides().map(face).to_vec() }
    }

    fn emitter(half_deg: f64) -> Emitter {
        let order = order(half_deg);
        Emitter { at: DVec3::new(5.9, 2.1, 1.4), facing: direction(180.0, 10.0), intensity: 0.1, order }
    }

    /// space.md: “m for θ½ = 60° is 1” (Kahn and Barry 1997).
    #[test]
    fn a_lobe_of_sixty_degrees_is_lambertian() {
        assert!((order(60.0) - 1.0).abs() < 1e-12);
        let own = emitter(20.0);
        let off = direction(180.0, 30.0);
        assert!((own.towards(off) / own.towards(own.facing) - 0.5).abs() < 1e-9, "half of it at its half angle");
    }

    /// All that falls on the walls, in W, by the middles of small squares.
    fn on_walls(irradiance: impl Fn(DVec3, DVec3) -> f64) -> f64 {
        let mut sum = 0.0;
        for side in ROOM.sides() {
            let n = 80;
            for s in 0..n {
                for t in 0..n {
                    let mid = |at: i32| (f64::from(at) + 0.5) / f64::from(n);
                    sum += irradiance(side.at(mid(s), mid(t)), side.normal()) * side.area() / f64::from(n * n);
                }
            }
        }
        sum
    }

    /// space.md: “the irradiance of a bare emitter summed over the six walls of an empty box equals 2π·I₀/(m+1) within 1 %”.
    #[rstest]
    #[case::wide(60.0)]
    #[case::usual(25.0)]
    fn all_that_an_emitter_sends_arrives_at_the_walls(#[case] half_deg: f64) {
        let (scene, own) = (empty(0.0), emitter(half_deg));
        let sum = on_walls(|at, normal| {
            let window = Window { at, facing: normal, least: 1.0, order: 1.0 };
            scene.straight(&own, &window)
        });
        assert!((sum / own.flux() - 1.0).abs() < 0.01, "{sum} of {}", own.flux());
    }

    /// space.md: “and the bounced irradiance (k = 1) summed over the walls equals ρ times that flux”.
    #[test]
    fn what_bounces_arrives_at_the_walls_again() {
        let (scene, own) = (empty(0.7), emitter(60.0));
        let lit = scene.lit(&own, None, 0.15);
        let back: f64 = lit.iter().map(|patch| patch.back * PI).sum();
        assert!((back / (0.7 * own.flux()) - 1.0).abs() < 0.01, "{back}");
        let sum = on_walls(|at, normal| scene.bounced(&lit, &Window { at, facing: normal, least: 1.0, order: 1.0 }));
        assert!((sum / (0.7 * own.flux()) - 1.0).abs() < 0.02, "{sum} of {}", 0.7 * own.flux());
    }

    /// The bounce converges: halving the patches changes the margin by less than 0.2 dB.
    #[rstest]
    #[case::across_the_room(DVec3::new(0.6, 1.0, 0.8), 0.0)]
    #[case::in_a_corner(DVec3::new(0.1, 0.1, 0.1), 45.0)]
    #[case::turned_away(DVec3::new(3.0, 2.0, 1.0), 180.0)]
    #[case::close_to_a_wall(DVec3::new(2.0, 4.15, 1.2), -90.0)]
    fn finer_patches_change_next_to_nothing(#[case] at: DVec3, #[case] azimuth: f64) {
        let (scene, own) = (empty(0.7), emitter(25.0));
        let window = Window { at, facing: direction(azimuth, 0.0), least: 1e-4, order: order(45.0) };
        let margin = |fine: f64| window.margin_db(scene.irradiance(&own, &window, fine));
        let change = (margin(FINE) - margin(FINE / 2.0)).abs();
        assert!(change < 0.2, "{change} dB at {}", margin(FINE));
    }

    #[test]
    fn a_closed_door_takes_all_and_glass_a_little() {
        let own = emitter(25.0);
        let window = Window { at: DVec3::new(0.5, 2.1, 0.9), facing: DVec3::X, least: 1e-4, order: 1.0 };
        let pane = |lets_through| Scene {
            panes: vec![Pane {
                rect: Rect { corner: DVec3::new(1.0, 1.5, 0.0), u: DVec3::Y * 1.2, v: DVec3::Z * 2.0 },
                lets_through,
            }],
            faces: vec![],
        };
        let bare = Scene::default().straight(&own, &window);
        assert!((pane(0.85).straight(&own, &window) / bare - 0.85).abs() < 1e-12);
        assert_eq!(pane(0.0).straight(&own, &window), 0.0);
        // Twice as far is a quarter, which is 6 dB.
        let ahead = |d: f64| {
            let own = Emitter { facing: DVec3::NEG_X, ..own };
            let window = Window { at: own.at - DVec3::X * d, facing: DVec3::X, ..window };
            window.margin_db(Scene::default().straight(&own, &window))
        };
        assert!((ahead(1.0) - ahead(2.0) - 6.0206).abs() < 1e-3);
    }

    #[test]
    fn a_window_that_looks_away_lives_by_what_bounces() {
        let (scene, own) = (empty(0.7), emitter(25.0));
        let away = Window { at: DVec3::new(3.0, 2.1, 1.0), facing: DVec3::NEG_X, least: 1e-4, order: 1.0 };
        assert_eq!(scene.straight(&own, &away), 0.0);
        assert!(scene.irradiance(&own, &away, FINE) > 0.0);
        assert_eq!(empty(0.0).irradiance(&own, &away, FINE), 0.0);
    }
}
