//! Points, rectangles and boxes of a room, in metres. x runs along the length of the room, y along its width, z up; an
//! azimuth of 0° looks along x and turns towards y, an elevation of 90° looks at the ceiling.

use glam::DVec3;

/// What is nearer than this is the same place, in m.
const SAME: f64 = 1e-6;

/// A direction from its azimuth and elevation, in degrees.
#[must_use]
pub fn direction(azimuth_deg: f64, elevation_deg: f64) -> DVec3 {
    let (az, el) = (azimuth_deg.to_radians(), elevation_deg.to_radians());
    DVec3::new(el.cos() * az.cos(), el.cos() * az.sin(), el.sin())
}

/// The azimuth and the elevation of a direction, in degrees.
#[must_use]
pub fn angles(direction: DVec3) -> (f64, f64) {
    let flat = direction.x.hypot(direction.y);
    (direction.y.atan2(direction.x).to_degrees(), direction.z.atan2(flat).to_degrees())
}

/// The angle between two directions, in degrees.
#[must_use]
pub fn between_deg(a: DVec3, b: DVec3) -> f64 {
    a.angle_between(b).to_degrees()
}

/// A rectangle in space: a corner and its two edges.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rect {
    /// One of its corners.
    pub corner: DVec3,
    /// The edge from it along one side.
    pub u: DVec3,
    /// The edge from it along the other side, at a right angle.
    pub v: DVec3,
}

impl Rect {
    /// Its front looks along u × v.
    #[must_use]
    pub fn normal(&self) -> DVec3 {
        self.u.cross(self.v).normalize_or_zero()
    }

    /// In m².
    #[must_use]
    pub fn area(&self) -> f64 {
        self.u.cross(self.v).length()
    }

    /// A point on it, from 0 to 1 along each edge.
    #[must_use]
    pub fn at(&self, s: f64, t: f64) -> DVec3 {
        self.corner + self.u * s + self.v * t
    }

    /// Its middle.
    #[must_use]
    pub fn middle(&self) -> DVec3 {
        self.at(0.5, 0.5)
    }

    /// Its four corners, one after another.
    #[must_use]
    pub fn corners(&self) -> [DVec3; 4] {
        [self.at(0.0, 0.0), self.at(1.0, 0.0), self.at(1.0, 1.0), self.at(0.0, 1.0)]
    }

    /// Its part from (s, t), so wide and so high.
    #[must_use]
    pub fn part(&self, s: f64, t: f64, wide: f64, high: f64) -> Self {
        Self { corner: self.at(s, t), u: self.u * wide, v: self.v * high }
    }

    /// Four rectangles that make it up.
    #[must_use]
    pub fn quarters(&self) -> [Self; 4] {
        [(0.0, 0.0), (0.5, 0.0), (0.0, 0.5), (0.5, 0.5)].map(|(s, t)| self.part(s, t, 0.5, 0.5))
    }

    /// Is it crossed on the way from one point to another? Its own ends do not count: what lies on it is not behind it.
    #[must_use]
    pub fn is_crossed(&self, from: DVec3, to: DVec3) -> bool {
        self.crossing(from, to).is_some()
    }

    /// Where it is crossed on the way from one point to another, as a share of that way.
    #[must_use]
    pub fn crossing(&self, from: DVec3, to: DVec3) -> Option<f64> {
        // Asked millions of times for one field: no root is drawn before the plane of it is crossed at all.
        let normal = self.u.cross(self.v);
        let way = to - from;
        let along = normal.dot(way);
        let share = normal.dot(self.corner - from) / along;
        if !(0.0..=1.0).contains(&share) {
            return None;
        }
        let length = way.length();
        if along.abs() < SAME * normal.length() {
            return None;
        }
        if share * length < SAME || (1.0 - share) * length < SAME {
            return None;
        }
        let hit = from + way * share - self.corner;
        let within = |edge: DVec3| {
            let part = hit.dot(edge) / edge.length_squared();
            (-1e-9..=1.0 + 1e-9).contains(&part)
        };
        (within(self.u) && within(self.v)).then_some(share)
    }
}

/// A box that stands along the walls: a cupboard, the case of a device.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Block {
    /// The corner with the least of all three.
    pub least: DVec3,
    /// The corner with the most of all three.
    pub most: DVec3,
}

impl Block {
    /// Around a middle, so long along x, y and z.
    #[must_use]
    pub fn around(middle: DVec3, size: DVec3) -> Self {
        Self { least: middle - size / 2.0, most: middle + size / 2.0 }
    }

    /// Is a point inside, or on its surface?
    #[must_use]
    pub fn holds(&self, point: DVec3) -> bool {
        point.cmpge(self.least - SAME).all() && point.cmple(self.most + SAME).all()
    }

    /// How large, along x, y and z.
    #[must_use]
    pub fn size(&self) -> DVec3 {
        self.most - self.least
    }

    /// Do two of them share some space?
    #[must_use]
    pub fn meets(&self, other: &Self) -> bool {
        (self.least + SAME).cmplt(other.most).all() && (other.least + SAME).cmplt(self.most).all()
    }

    /// Its six sides, looking inwards: the walls at x = 0, at its end, at y = 0, at its end, the floor, and the ceiling.
    #[must_use]
    pub fn sides(&self) -> [Rect; 6] {
        let (a, size) = (self.least, self.size());
        let (x, y, z) = (DVec3::X * size.x, DVec3::Y * size.y, DVec3::Z * size.z);
        [
            Rect { corner: a, u: y, v: z },
            Rect { corner: a + x, u: z, v: y },
            Rect { corner: a, u: z, v: x },
            Rect { corner: a + y, u: x, v: z },
            Rect { corner: a, u: x, v: y },
            Rect { corner: a + z, u: y, v: x },
        ]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case::along_the_room(0.0, 0.0, DVec3::X)]
    #[case::across(90.0, 0.0, DVec3::Y)]
    #[case::up(0.0, 90.0, DVec3::Z)]
    #[case::back(180.0, 0.0, DVec3::NEG_X)]
    fn an_azimuth_turns_from_x_towards_y(#[case] az: f64, #[case] el: f64, #[case] looks: DVec3) {
        assert!(direction(az, el).abs_diff_eq(looks, 1e-12));
    }

    #[test]
    fn the_sides_of_a_room_look_inwards_and_add_up() {
        let room = Block { least: DVec3::ZERO, most: DVec3::new(6.4, 4.2, 2.6) };
        let middle = (room.least + room.most) / 2.0;
        for side in room.sides() {
            assert!(side.normal().dot(middle - side.middle()) > 0.0, "{side:?}");
        }
        let area: f64 = room.sides().iter().map(Rect::area).sum();
        assert!((area - 2.0 * (6.4 * 4.2 + 6.4 * 2.6 + 4.2 * 2.6)).abs() < 1e-9);
    }

    #[test]
    fn what_stands_between_is_crossed_and_what_one_stands_on_is_not() {
        let screen = Rect { corner: DVec3::new(1.0, 1.0, 0.5), u: DVec3::Y * 2.0, v: DVec3::Z * 1.5 };
        let (behind, before) = (DVec3::new(0.2, 2.0, 1.0), DVec3::new(4.0, 2.0, 1.0));
        assert!(screen.is_crossed(before, behind) && screen.is_crossed(behind, before));
        assert!(!screen.is_crossed(before, DVec3::new(1.0, 2.0, 1.0)), "it ends on it");
        assert!(!screen.is_crossed(before, DVec3::new(0.2, 2.0, 3.5)), "over it");
        assert!(!screen.is_crossed(before, DVec3::new(1.5, 2.0, 1.0)), "in front of it");
        assert!(!screen.is_crossed(DVec3::new(1.0, 0.0, 1.0), DVec3::new(1.0, 4.0, 1.0)), "along it");
    }

    proptest! {
        #[test]
        fn angles_lead_back_to_the_direction(az in -179.0_f64..179.0, el in -89.0_f64..89.0) {
            let (back_az, back_el) = angles(direction(az, el));
            prop_assert!((back_az - az).abs() < 1e-9 && (back_el - el).abs() < 1e-9);
        }

        #[test]
        fn quarters_make_up_the_whole(w in 0.1_f64..5.0, h in 0.1_f64..5.0) {
            let whole = Rect { corner: DVec3::ONE, u: DVec3::X * w, v: DVec3::Z * h };
            let area: f64 = whole.quarters().iter().map(Rect::area).sum();
            prop_assert!((area - whole.area()).abs() < 1e-9);
        }
    }
}
