//! The size and the place of the picture, what each seat sees of it, and how bright it is.

use super::geometry::{Rect, direction};
use glam::DVec3;

/// An inch, in m.
pub const INCH: f64 = 0.0254;

/// A foot-lambert, in cd/m².
pub const FOOT_LAMBERT: f64 = 3.426;

/// Cinema white, in cd/m² (14 fL; SMPTE ST 431-1).
pub const CINEMA_WHITE: f64 = 48.0;

/// The angle from edge to edge at the last row, in degrees (SMPTE EG 18-1994, *from memory*).
pub const LAST_ROW_DEG: f64 = 30.0;

/// How far the first row looks up at most, in degrees (SMPTE EG 18-1994, *from memory*).
pub const UP_DEG: f64 = 35.0;

/// From the eye to the top of a head, in m (*from memory*, editable).
pub const HEAD: f64 = 0.12;

/// The eye of somebody who sits, above the floor, in m (*from memory*, editable).
pub const EYE: f64 = 1.15;

/// A size, in m.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Size {
    /// Its width.
    pub width: f64,
    /// Its height.
    pub height: f64,
}

impl Size {
    /// From its width, and how many times as wide as high it is.
    #[must_use]
    pub fn wide(width: f64, aspect: f64) -> Self {
        Self { width, height: width / aspect }
    }

    /// From its diagonal.
    #[must_use]
    pub fn across(diagonal: f64, aspect: f64) -> Self {
        let height = diagonal / aspect.hypot(1.0);
        Self { width: height * aspect, height }
    }

    /// From corner to corner.
    #[must_use]
    pub fn diagonal(self) -> f64 {
        self.width.hypot(self.height)
    }

    /// How many times as wide as high.
    #[must_use]
    pub fn aspect(self) -> f64 {
        self.width / self.height
    }

    /// In m².
    #[must_use]
    pub fn area(self) -> f64 {
        self.width * self.height
    }

    /// An image of another aspect within it: as wide, or as high, whichever fits.
    #[must_use]
    pub fn within(self, aspect: f64) -> Self {
        if aspect >= self.aspect() {
            Self::wide(self.width, aspect)
        } else {
            Self { width: self.height * aspect, height: self.height }
        }
    }

    /// A surface of another aspect that is as high, as wide, or as large.
    #[must_use]
    pub fn same(self, constant: Constant, aspect: f64) -> Self {
        match constant {
            Constant::Height => Self { width: self.height * aspect, height: self.height },
            Constant::Width => Self::wide(self.width, aspect),
            Constant::Area => {
                let height = (self.area() / aspect).sqrt();
                Self { width: height * aspect, height }
            }
        }
    }
}

/// What stays when the aspect changes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Constant {
    /// Its height.
    Height,
    /// Its width.
    Width,
    /// Its area.
    Area,
}

/// A lens.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lens {
    /// The least throw ratio: distance over width.
    pub throw_least: f64,
    /// The greatest.
    pub throw_most: f64,
    /// How far the picture shifts up and down, in shares of its height: 0.5 puts its edge on the axis.
    pub shift_v: f64,
    /// How far it shifts sideways, in shares of its width.
    pub shift_h: f64,
}

/// How a projector stands to a picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Throw {
    /// From the lens to the surface, square to it, in m.
    pub distance: f64,
    /// Distance over width.
    pub ratio: f64,
    /// How far the picture is shifted up, in shares of its height.
    pub shift_v: f64,
    /// How far sideways, in shares of its width.
    pub shift_h: f64,
    /// The narrowest picture that the zoom gives from here, in m wide.
    pub narrowest: f64,
    /// The widest.
    pub widest: f64,
}

impl Throw {
    /// Does the lens reach it? Shift in both ways at once is less than each alone: an ellipse of what either allows
    /// (*common practice*).
    #[must_use]
    pub fn fits(&self, lens: &Lens) -> bool {
        self.zooms(lens) && self.shifts(lens) <= 1.0
    }

    /// Is the distance right?
    #[must_use]
    pub fn zooms(&self, lens: &Lens) -> bool {
        (lens.throw_least - 1e-9..=lens.throw_most + 1e-9).contains(&self.ratio)
    }

    /// How much of the shift that the lens has is needed; 1 is all of it.
    #[must_use]
    pub fn shifts(&self, lens: &Lens) -> f64 {
        let share = |is: f64, most: f64| {
            if is.abs() < 1e-9 {
                0.0
            } else if most > 0.0 {
                is / most
            } else {
                f64::INFINITY
            }
        };
        share(self.shift_v, lens.shift_v).hypot(share(self.shift_h, lens.shift_h))
    }
}

/// How a lens stands to a picture. `picture` looks into the room: its u runs to the right as one sees it, its v up.
#[must_use]
pub fn throw(lens_at: DVec3, lens: &Lens, picture: &Rect) -> Throw {
    let (right, up, out) = (picture.u.normalize(), picture.v.normalize(), picture.normal());
    let from = lens_at - picture.middle();
    let distance = from.dot(out);
    let (width, height) = (picture.u.length(), picture.v.length());
    Throw {
        distance,
        ratio: distance / width,
        shift_v: -from.dot(up) / height,
        shift_h: -from.dot(right) / width,
        narrowest: distance / lens.throw_most,
        widest: distance / lens.throw_least,
    }
}

/// What a seat sees.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    /// From the eye to the middle of the picture, in m.
    pub distance: f64,
    /// From edge to edge, in degrees.
    pub wide_deg: f64,
    /// Up to the top edge, in degrees above the horizon.
    pub up_deg: f64,
    /// Off the axis of the picture, in degrees.
    pub off_axis_deg: f64,
    /// Pixels in a degree in the middle of the picture.
    pub pixels_per_degree: f64,
}

/// What an eye sees of a picture with so many columns.
#[must_use]
pub fn seen(eye: DVec3, picture: &Rect, columns: u32) -> Seen {
    let middle = picture.middle();
    let to = |s: f64, t: f64| picture.at(s, t) - eye;
    let wide_deg = to(0.0, 0.5).angle_between(to(1.0, 0.5)).to_degrees();
    let top = to(0.5, 1.0);
    let up_deg = top.z.atan2(top.x.hypot(top.y)).to_degrees();
    let away = eye - middle;
    let pixel = picture.u / f64::from(columns.max(1));
    let one = (middle - pixel / 2.0 - eye).angle_between(middle + pixel / 2.0 - eye).to_degrees();
    Seen {
        distance: away.length(),
        wide_deg,
        up_deg,
        off_axis_deg: picture.normal().angle_between(away).to_degrees(),
        pixels_per_degree: if one > 0.0 { 1.0 / one } else { 0.0 },
    }
}

/// The distance at which a pixel is one arc minute, in heights of the picture: D/H = 1/(N·tan(1/60°)).
#[must_use]
pub fn heights_away(lines: u32) -> f64 {
    1.0 / (f64::from(lines) * (1.0_f64 / 60.0).to_radians().tan())
}

/// How far an eye sees above the bottom edge over a head in front, in m; less than 0 where that edge is hidden. None where the
/// head is not on the way.
#[must_use]
pub fn over_head(eye: DVec3, head: DVec3, bottom: DVec3) -> Option<f64> {
    let way = (bottom - eye).truncate();
    let along = (head - eye).truncate().dot(way) / way.length_squared();
    if !(0.0..1.0).contains(&along) || along < 1e-9 {
        return None;
    }
    let beside = (eye.truncate() + way * along - head.truncate()).length();
    if beside > SHOULDER {
        return None;
    }
    // Where the line of sight to the bottom edge passes the head, above its top.
    Some(eye.z + (bottom.z - eye.z) * along - head.z)
}

/// A head hides what is within this of its middle, to both sides, in m (*common practice*).
pub const SHOULDER: f64 = 0.25;

/// The luminance of white, in cd/m²: L = Φ·g·k/(π·A), A the whole raster that is lit.
#[must_use]
pub fn luminance(lumens: f64, gain: f64, kept: f64, raster: f64) -> f64 {
    lumens * gain * kept / (std::f64::consts::PI * raster)
}

/// The gain of a surface at an angle, from its gain straight ahead and the angle at which half of that is left.
#[must_use]
pub fn gain_at(gain: f64, half_gain_deg: f64, off_axis_deg: f64) -> f64 {
    // A lobe as an emitter has one; a matt surface of gain 1 or less scatters alike to all sides.
    if half_gain_deg >= 89.0 {
        return gain;
    }
    gain * off_axis_deg.to_radians().cos().max(0.0).powf(super::infrared::order(half_gain_deg))
}

/// What ambient light of so many lux adds, in cd/m²; `kept` is what a light-rejecting surface leaves of it.
#[must_use]
pub fn ambient(lux: f64, gain: f64, kept: f64) -> f64 {
    lux * gain * kept / std::f64::consts::PI
}

/// The contrast that is left: (L_w + L_amb)/(L_b + L_amb).
#[must_use]
pub fn contrast(white: f64, black: f64, ambient: f64) -> f64 {
    (white + ambient) / (black + ambient)
}

/// The illuminance of a lamp on the ceiling at a place that looks somewhere, in lux: a Lambertian lobe straight down.
#[must_use]
pub fn from_lamp(lumens: f64, lamp: DVec3, at: DVec3, facing: DVec3) -> f64 {
    let way = at - lamp;
    let squared = way.length_squared();
    let (out, into) = (direction(0.0, -90.0).dot(way.normalize_or_zero()), facing.dot(-way.normalize_or_zero()));
    if out <= 0.0 || into <= 0.0 || squared == 0.0 { 0.0 } else { lumens / std::f64::consts::PI * out * into / squared }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    /// A picture at x = 0.2, across the room, that looks along x: seen from the room, right is towards −y.
    fn picture(size: Size, bottom: f64) -> Rect {
        let corner = DVec3::new(0.2, 2.1 + size.width / 2.0, bottom);
        let own = Rect { corner, u: DVec3::NEG_Y * size.width, v: DVec3::Z * size.height };
        // u × v looks back at the wall where right is −y: turned so that it looks into the room.
        if own.normal().x > 0.0 { own } else { Rect { corner: own.at(1.0, 0.0), u: -own.u, v: own.v } }
    }

    fn screen() -> Rect {
        picture(Size::across(120.0 * INCH, 16.0 / 9.0), 0.84)
    }

    /// space.md: “120 in 16:9: 104.6 × 58.8 in”.
    #[test]
    fn a_hundred_and_twenty_inches_of_sixteen_to_nine() {
        let own = Size::across(120.0, 16.0 / 9.0);
        assert!((own.width - 104.6).abs() < 0.05 && (own.height - 58.8).abs() < 0.05, "{own:?}");
        assert!((own.diagonal() - 120.0).abs() < 1e-9);
    }

    #[test]
    fn an_image_of_another_aspect_is_cut_off_on_one_side_alone() {
        let own = Size::across(120.0 * INCH, 16.0 / 9.0);
        let wide = own.within(2.39);
        assert!((wide.width - own.width).abs() < 1e-12 && wide.height < own.height);
        let old = own.within(4.0 / 3.0);
        assert!((old.height - own.height).abs() < 1e-12 && old.width < own.width);
        assert!((own.same(Constant::Area, 2.39).area() - own.area()).abs() < 1e-9);
        assert!((own.same(Constant::Height, 2.39).height - own.height).abs() < 1e-12);
        assert!((own.same(Constant::Width, 2.39).width - own.width).abs() < 1e-12);
    }

    /// space.md: “1000 lm on 2 m² at gain 1: 159.2 cd/m²”, and 48 cd/m² are 14 fL.
    #[test]
    fn a_thousand_lumens_on_two_square_metres() {
        assert!((luminance(1_000.0, 1.0, 1.0, 2.0) - 159.2).abs() < 0.05);
        assert!((CINEMA_WHITE / FOOT_LAMBERT - 14.0).abs() < 0.05);
    }

    /// space.md: 3.2 heights for 1080 lines, 1.6 for 2160 (ITU-R BT.1845, *from memory*).
    #[rstest]
    #[case(1_080, 3.2)]
    #[case(2_160, 1.6)]
    fn a_pixel_of_one_arc_minute(#[case] lines: u32, #[case] heights: f64) {
        assert!((heights_away(lines) - heights).abs() < 0.05);
    }

    #[test]
    fn a_pixel_is_sixty_to_the_degree_at_the_design_distance() {
        let own = picture(Size::wide(1.92, 16.0 / 9.0), 0.6);
        let eye = own.middle() + own.normal() * heights_away(1_080) * own.v.length();
        assert!((seen(eye, &own, 1_920).pixels_per_degree - 60.0).abs() < 0.1);
    }

    #[test]
    fn a_lens_in_its_box_fits_and_outside_it_says_by_how_much() {
        let lens = Lens { throw_least: 1.35, throw_most: 2.02, shift_v: 0.6, shift_h: 0.25 };
        let own = screen();
        let at = |back: f64, above: f64| own.middle() + own.normal() * back + DVec3::Z * above;
        let height = own.v.length();
        let good = throw(at(4.0, height * 0.5), &lens, &own);
        assert!(good.fits(&lens), "{good:?}");
        assert!((good.ratio - 4.0 / own.u.length()).abs() < 1e-12 && (good.shift_v + 0.5).abs() < 1e-9);
        let near = throw(at(2.0, 0.0), &lens, &own);
        assert!(!near.zooms(&lens) && near.widest < own.u.length());
        let high = throw(at(4.0, height * 0.7), &lens, &own);
        assert!(high.zooms(&lens) && !high.fits(&lens) && high.shifts(&lens) > 1.0);
        // Both shifts at once are less than each alone.
        let both = throw(at(4.0, height * 0.5) + own.u.normalize() * own.u.length() * 0.2, &lens, &own);
        assert!(!both.fits(&lens));
    }

    /// A section by hand: eye 1.15 m at 5 m, a head of 1.27 m at 4 m, the bottom edge at 0.84 m and 0.2 m. The line to the edge
    /// passes the head at 1.15 − 0.31·1/4.8 = 1.0854 m: 18 cm below its top, so the edge is hidden. Raised by 0.3 m on a riser
    /// the eye is at 1.45 m: 1.45 − 0.61/4.8 = 1.3229 m, 5 cm over the head.
    #[test]
    fn a_second_row_sees_the_bottom_edge_once_it_is_raised() {
        let bottom = DVec3::new(0.2, 2.1, 0.84);
        let head = DVec3::new(4.0, 2.1, EYE + HEAD);
        let flat = over_head(DVec3::new(5.0, 2.1, EYE), head, bottom).unwrap();
        assert!((flat + 0.1846).abs() < 1e-3, "{flat}");
        let raised = over_head(DVec3::new(5.0, 2.1, EYE + 0.3), head, bottom).unwrap();
        assert!((raised - 0.0529).abs() < 1e-3, "{raised}");
        assert_eq!(over_head(DVec3::new(5.0, 3.5, EYE), head, bottom + DVec3::Y), None, "beside it");
        assert_eq!(over_head(DVec3::new(3.0, 2.1, EYE), head, bottom), None, "behind the eye");
    }

    #[test]
    fn seats_off_the_axis_see_less_light_and_less_angle() {
        let own = screen();
        let middle = DVec3::new(3.6, 2.1, EYE);
        let end = DVec3::new(3.6, 3.6, EYE);
        let (a, b) = (seen(middle, &own, 3_840), seen(end, &own, 3_840));
        assert!(a.wide_deg > b.wide_deg && a.off_axis_deg < b.off_axis_deg);
        assert!((gain_at(1.3, 35.0, 35.0) - 0.65).abs() < 1e-9);
        assert_eq!(gain_at(1.0, 90.0, 60.0), 1.0, "matt");
        assert!(contrast(60.0, 0.02, ambient(20.0, 1.0, 1.0)) < 11.0);
        assert!((contrast(60.0, 0.03, 0.0) - 2_000.0).abs() < 1e-9);
    }

    #[test]
    fn a_lamp_straight_above_lights_the_table_and_not_the_ceiling() {
        let lamp = DVec3::new(2.0, 2.0, 2.6);
        let below = DVec3::new(2.0, 2.0, 0.6);
        // 400 lm over π sr, 2 m away: 31.8 lx.
        assert!((from_lamp(400.0, lamp, below, DVec3::Z) - 31.83).abs() < 0.01);
        assert_eq!(from_lamp(400.0, lamp, below, DVec3::NEG_Z), 0.0);
        assert_eq!(from_lamp(400.0, lamp, lamp, DVec3::Z), 0.0);
    }

    proptest! {
        #[test]
        fn sizes_lead_back(width in 0.3_f64..6.0, aspect in 1.0_f64..3.0) {
            let own = Size::wide(width, aspect);
            let back = Size::across(own.diagonal(), aspect);
            prop_assert!((back.width - width).abs() < 1e-9 && (back.aspect() - aspect).abs() < 1e-9);
            prop_assert!(own.within(2.0).area() <= own.area() + 1e-9);
        }
    }
}
