//! The picture of a room as its seats see it: size, throw, angles, light, sight lines, and how far the screen comes down.

use super::geometry::Rect;
use super::picture::{
    CINEMA_WHITE, HEAD, LAST_ROW_DEG, Lens as PureLens, Seen, Throw, UP_DEG, ambient, contrast, from_lamp, gain_at,
    heights_away, luminance, over_head, seen, throw,
};
use super::scene::{optics, placed, point};
use super::stop::{Drop, NoStop, StopHeight, stop_height};
use crate::id::{DeviceId, LookId, RoomId};
use crate::model::{Lens, NamedStop, PictureSurface, Placed, Seat, Site, TimedStop};
use glam::DVec3;
use serde::Serialize;
use utoipa::ToSchema;

/// How late a stop may be sent, in ms: the press and its way (*common practice*).
pub const LATE_MS: u32 = 300;

/// What a seat sees, as a line.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SeatLine {
    /// What the seat is called.
    pub name: String,
    /// Its row, counted from 1 at the picture.
    pub row: u8,
    /// From the eye to the middle of the picture, in m.
    pub distance_m: f64,
    /// From edge to edge, in degrees.
    pub wide_deg: f64,
    /// Up to the top edge, in degrees.
    pub up_deg: f64,
    /// Off the axis, in degrees.
    pub off_axis_deg: f64,
    /// Pixels in a degree.
    pub pixels_per_degree: f64,
    /// The luminance of white, in cd/m²; none where nothing is known of the light.
    pub white: Option<f64>,
    /// The contrast that is left, to 1; none where nothing is known of the light.
    pub contrast: Option<f64>,
    /// How far it sees over the heads in front to the bottom edge, in m; less than 0 where that is hidden, none where nobody sits
    /// in front.
    pub over_heads_m: Option<f64>,
}

/// How the projector stands to its picture.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ThrowLine {
    /// The projector.
    pub projector: DeviceId,
    /// From the lens to the picture, in m.
    pub distance_m: f64,
    /// Distance over width.
    pub ratio: f64,
    /// The least and the greatest ratio of its lens.
    pub ratios: [f64; 2],
    /// The shift that is needed, up and sideways, in %.
    pub shift_percent: [f64; 2],
    /// What its lens has of both, in %.
    pub shifts_percent: [f64; 2],
    /// Does the spot fit the lens?
    pub fits: bool,
    /// The narrowest and the widest picture from here, in m.
    pub widths_m: [f64; 2],
    /// What is wrong, in a sentence; none where it fits.
    pub wrong: Option<String>,
}

/// How far the screen comes down.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct StopLine {
    /// The screen.
    pub screen: DeviceId,
    /// How high the bottom edge of the picture is, in m.
    pub bottom_m: f64,
    /// How far down that is, in % of the whole way.
    pub percent: f64,
    /// When the stop is sent after leaving the upper limit, in ms; 0 where it goes to its lower limit.
    pub after_ms: u32,
    /// How far off that may be to either side, in % of the way.
    pub spread_percent: f64,
    /// The same in m.
    pub spread_m: f64,
    /// Why it cannot be stopped there; none where it can.
    pub wrong: Option<String>,
    /// It as a position that activities can ask for, still without a name; none where it is no stop by time.
    pub position: Option<NamedStop>,
    /// Why it cannot be such a position; none where it can, or where none is needed.
    pub no_position: Option<String>,
}

/// The picture of a room.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RoomPicture {
    /// What shows it: the screen, or the display.
    pub on: DeviceId,
    /// Its width and height, in m.
    pub size_m: [f64; 2],
    /// Its diagonal, in m.
    pub diagonal_m: f64,
    /// How high its bottom edge is above the floor, in m.
    pub bottom_m: f64,
    /// The distance at which a pixel is one arc minute, in m.
    pub design_m: f64,
    /// The projector; none for a display.
    pub throw: Option<ThrowLine>,
    /// The luminance of white straight ahead, in cd/m²; none where nothing is known of the light.
    pub white: Option<f64>,
    /// Ambient light on the picture by lamps and daylight, in lux.
    pub ambient_lux: f64,
    /// Seats, in the order of the plan.
    pub seats: Vec<SeatLine>,
    /// How far the screen comes down; none where nothing does.
    pub stop: Option<StopLine>,
    /// What a practitioner would remark, each in a sentence.
    pub remarks: Vec<String>,
}

/// What is asked of a picture.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Asked {
    /// How high its bottom edge should be, in m; where the screen is all the way down, if none.
    pub bottom: Option<f64>,
    /// The look that is on; no lamps, if none.
    pub look: Option<LookId>,
    /// Is daylight let in?
    pub daylight: bool,
}

/// The pictures of a room: each screen and each display that is placed.
#[must_use]
pub fn pictures(site: &Site, room: RoomId, asked: Asked) -> Vec<RoomPicture> {
    placed(site, room)
        .filter_map(|own| {
            let surface = optics(site, own.device)?.surface?;
            picture_of(site, room, own, surface, asked)
        })
        .collect()
}

/// A figure with two places behind the point.
fn cm(value: f64) -> f64 {
    (value * 100.0).round() / 100.0
}

/// A figure with one place behind the point.
fn tenth(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}

fn picture_of(site: &Site, room: RoomId, own: &Placed, surface: PictureSurface, asked: Asked) -> Option<RoomPicture> {
    let drop = surface.comes_down().then(|| drop_of(own, &surface));
    let bottom = asked.bottom.filter(|_| drop.is_some()).or_else(|| drop.map(|drop| drop.lowest()));
    let stop = drop.zip(bottom).map(|(drop, bottom)| stop_line(site, own.device, &drop, bottom));
    let down = drop.zip(bottom).map_or(1.0, |(drop, bottom)| drop.share_for(bottom).clamp(0.0, 1.0));
    let picture = own.picture(&surface, down)?;
    let projector = projector_of(site, room, own.device);
    let lens = projector.map(|(_, lens)| lens);
    let throw = projector.map(|(at, lens)| throw_line(at, lens, &picture));
    let raster = lens.map_or([3_840, 2_160], |lens| lens.raster);
    let gain = f64::from(surface.gain_hundredths) / 100.0;
    let lit = lens.map(|lens| raster_area(&picture, lens));
    let white = lens
        .zip(lit)
        .map(|(lens, area)| luminance(lens.lumens.into(), gain, f64::from(lens.kept_percent) / 100.0, area));
    let ambient_lux = lux_on(site, room, &picture, asked);
    let kept = f64::from(surface.ambient_percent) / 100.0;
    let light = lens.zip(white).map(|(lens, white)| Light {
        white,
        gain,
        half_gain_deg: surface.half_gain_deg.into(),
        black: white / f64::from(lens.contrast.max(1)),
        ambient: ambient(ambient_lux, gain, kept),
    });
    let plan = &site.room(room)?.floor;
    let seats: Vec<SeatLine> =
        plan.seats.iter().map(|seat| seat_line(seat, &plan.seats, &picture, raster[0], light)).collect();
    let mut found = RoomPicture {
        on: own.device,
        size_m: [cm(picture.u.length()), cm(picture.v.length())],
        diagonal_m: cm(picture.u.length().hypot(picture.v.length())),
        bottom_m: cm(picture.corner.z),
        design_m: cm(heights_away(raster[1].into()) * picture.v.length()),
        throw,
        white: white.map(tenth),
        ambient_lux: tenth(ambient_lux),
        seats,
        stop,
        remarks: vec![],
    };
    found.remarks = remarks(&found, surface);
    Some(found)
}

/// What hangs in the case of a screen.
#[must_use]
pub fn drop_of(own: &Placed, surface: &PictureSurface) -> Drop {
    let mm = |mm: u32| f64::from(mm) / 1_000.0;
    Drop {
        case_bottom: point(own.at_mm).z - mm(own.size_mm[2]) / 2.0,
        black: mm(surface.black_mm),
        picture: mm(surface.size_mm[1]),
        below: mm(surface.below_mm),
    }
}

fn stop_line(site: &Site, screen: DeviceId, drop: &Drop, bottom: f64) -> StopLine {
    let travels = site.profile_of(screen).and_then(|own| own.motion).map(|motion| motion.travel_down);
    let bare = StopLine {
        screen,
        bottom_m: cm(bottom),
        percent: tenth(drop.share_for(bottom) * 100.0),
        after_ms: 0,
        spread_percent: 0.0,
        spread_m: 0.0,
        wrong: None,
        position: None,
        no_position: None,
    };
    if (bottom - drop.lowest()).abs() < 1e-6 {
        return bare;
    }
    match stop_height(drop, bottom, travels.unwrap_or(crate::model::Span::NONE), LATE_MS) {
        Ok(StopHeight { percent, after_ms, spread_percent, spread }) => {
            let position = position(site, screen, percent, after_ms, spread_percent);
            StopLine {
                percent: tenth(percent),
                after_ms,
                spread_percent: tenth(spread_percent),
                spread_m: cm(spread),
                no_position: position.as_ref().err().cloned(),
                position: position.ok(),
                ..bare
            }
        }
        Err(why) => {
            let wrong = match why {
                NoStop::TooHigh => format!(
                    "Part of the picture would still be in the case: at most {:.2} m.",
                    drop.case_bottom - drop.picture
                ),
                NoStop::TooLow => format!("It comes down no further than {:.2} m.", drop.lowest()),
                NoStop::NoTravel => "How long it travels is not known: time it with the stopwatch.".to_owned(),
            };
            StopLine { wrong: Some(wrong), ..bare }
        }
    }
}

/// A stop by time as a position of the screen.
fn position(
    site: &Site,
    screen: DeviceId,
    percent: f64,
    after_ms: u32,
    spread_percent: f64,
) -> Result<NamedStop, String> {
    let motion = site.profile_of(screen).and_then(|own| own.motion).ok_or("It does not move.")?;
    let stop = motion.stop.filter(|_| motion.stops_between);
    let key = stop.ok_or("It has no key that stops it on its way, so no activity can ask for this height.")?;
    if after_ms + LATE_MS >= motion.travel_down.lo_ms {
        return Err("So near to its lower limit the quickest motor may be there before the stop comes. Let it go to the limit, or measure its travel.".to_owned());
    }
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "shares of a way")]
    let (down_percent, spread) = (percent.round().clamp(1.0, 99.0) as u8, (spread_percent * 10.0).ceil() as u16);
    let timed = Some(TimedStop { after_ms, late_ms: LATE_MS, spread_per_mille: spread.min(500) });
    Ok(NamedStop { name: String::new(), key, down_percent, timed })
}

/// The projector that shows on a screen: the one that is wired to nothing else that shows, or the only one.
fn projector_of(site: &Site, room: RoomId, screen: DeviceId) -> Option<(&Placed, Lens)> {
    if !optics(site, screen)?.surface?.comes_down() && !site.model_of(screen)?.inputs.is_empty() {
        // A display shows by itself.
        return None;
    }
    placed(site, room).find_map(|own| Some((own, optics(site, own.device)?.lens?)))
}

fn throw_line(own: &Placed, lens: Lens, picture: &Rect) -> ThrowLine {
    let share = |hundredths: u16| f64::from(hundredths) / 100.0;
    let pure = PureLens {
        throw_least: share(lens.throw_least_hundredths),
        throw_most: share(lens.throw_most_hundredths),
        shift_v: f64::from(lens.shift_v_percent) / 100.0,
        shift_h: f64::from(lens.shift_h_percent) / 100.0,
    };
    let is: Throw = throw(own.front(), &pure, picture);
    let wrong = if is.distance <= 0.0 {
        Some("It stands behind the picture: turn it, or move it to the seats.".to_owned())
    } else if !is.zooms(&pure) {
        Some(format!(
            "From {:.2} m its zoom shows {:.2} to {:.2} m wide, not {:.2} m: it belongs between {:.2} and {:.2} m away.",
            is.distance,
            is.narrowest,
            is.widest,
            picture.u.length(),
            pure.throw_least * picture.u.length(),
            pure.throw_most * picture.u.length(),
        ))
    } else if !is.fits(&pure) {
        Some(
            "The picture lies outside what the lens shifts: move it nearer to the axis. Keystone correction would do it too, and costs resolution."
                .to_owned(),
        )
    } else {
        None
    };
    ThrowLine {
        projector: own.device,
        distance_m: cm(is.distance),
        ratio: cm(is.ratio),
        ratios: [pure.throw_least, pure.throw_most],
        shift_percent: [tenth(is.shift_v * 100.0), tenth(is.shift_h * 100.0)],
        shifts_percent: [pure.shift_v * 100.0, pure.shift_h * 100.0],
        fits: wrong.is_none(),
        widths_m: [cm(is.narrowest), cm(is.widest)],
        wrong,
    }
}

/// The raster that is lit: the whole panel, also where the picture has another aspect, in m².
fn raster_area(picture: &Rect, lens: Lens) -> f64 {
    let aspect = f64::from(lens.raster[0]) / f64::from(lens.raster[1].max(1));
    let (width, height) = (picture.u.length(), picture.v.length());
    if width / height >= aspect { width * width / aspect } else { height * height * aspect }
}

#[derive(Clone, Copy)]
struct Light {
    white: f64,
    gain: f64,
    half_gain_deg: f64,
    black: f64,
    ambient: f64,
}

fn seat_line(seat: &Seat, all: &[Seat], picture: &Rect, columns: u16, light: Option<Light>) -> SeatLine {
    let eye = point(seat.eye_mm);
    let Seen { distance, wide_deg, up_deg, off_axis_deg, pixels_per_degree } = seen(eye, picture, columns.into());
    let white = light.map(|light| light.white * gain_at(light.gain, light.half_gain_deg, off_axis_deg) / light.gain);
    let left = light.zip(white).map(|(light, white)| contrast(white, light.black, light.ambient));
    // To the bottom edge, straight ahead of the eye as far as the picture goes.
    let along = (eye - picture.corner).dot(picture.u) / picture.u.length_squared();
    let bottom = picture.at(along.clamp(0.0, 1.0), 0.0);
    let heads = all.iter().filter(|other| other.row < seat.row);
    let over = heads.filter_map(|other| over_head(eye, point(other.eye_mm) + DVec3::Z * HEAD, bottom));
    SeatLine {
        name: seat.name.clone(),
        row: seat.row,
        distance_m: cm(distance),
        wide_deg: tenth(wide_deg),
        up_deg: tenth(up_deg),
        off_axis_deg: tenth(off_axis_deg),
        pixels_per_degree: tenth(pixels_per_degree),
        white: white.map(tenth),
        contrast: left.map(f64::round),
        over_heads_m: over.reduce(f64::min).map(cm),
    }
}

/// Ambient light on a picture, in lux: the lamps of a look as far as their light is known, and daylight.
fn lux_on(site: &Site, room: RoomId, picture: &Rect, asked: Asked) -> f64 {
    let Some(own) = site.room(room) else { return 0.0 };
    let mut lux = if asked.daylight { f64::from(own.floor.daylight_lux) } else { 0.0 };
    let look = own.lighting.looks.iter().find(|look| Some(look.id) == asked.look);
    let Some(look) = look else { return lux };
    let (middle, normal) = (picture.middle(), picture.normal());
    for zone in &own.lighting.zones {
        let percent = look.levels.iter().find(|level| level.zone == zone.id).map_or(0, |level| level.percent);
        let lamps = own.floor.lamps.iter().filter(|lamp| lamp.zone == zone.id);
        for lamp in lamps {
            let lumens = f64::from(lamp.lumens) * f64::from(percent) / 100.0;
            lux += from_lamp(lumens, point(lamp.at_mm), middle, normal);
        }
    }
    lux
}

fn remarks(found: &RoomPicture, surface: PictureSurface) -> Vec<String> {
    let mut all = Vec::new();
    if let Some(wrong) = found.throw.as_ref().and_then(|own| own.wrong.clone()) {
        all.push(wrong);
    }
    if let Some(wrong) = found.stop.as_ref().and_then(|own| own.wrong.clone()) {
        all.push(wrong);
    }
    if let Some(white) = found.white.filter(|white| *white < CINEMA_WHITE) {
        all.push(format!("White is {white:.0} cd/m²: cinema white is {CINEMA_WHITE:.0} cd/m² (SMPTE ST 431-1)."));
    }
    let last = found.seats.iter().map(|seat| seat.row).max();
    for seat in &found.seats {
        if let Some(over) = seat.over_heads_m.filter(|over| *over < 0.0) {
            all.push(format!(
                "{} does not see the bottom edge: heads in front hide it by {:.0} cm.",
                seat.name,
                -over * 100.0
            ));
        }
        if seat.row == 1 && seat.up_deg > UP_DEG {
            all.push(format!(
                "{} looks up {:.0}° to the top edge: at most {UP_DEG:.0}° (SMPTE EG 18-1994, from memory).",
                seat.name, seat.up_deg
            ));
        }
        if Some(seat.row) == last && seat.wide_deg < LAST_ROW_DEG {
            all.push(format!("{} sees {:.0}° from edge to edge: the last row should have {LAST_ROW_DEG:.0}° (SMPTE EG 18-1994, from memory).", seat.name, seat.wide_deg));
        }
    }
    if surface.mass_g > 25_000 {
        all.push(format!(
            "The screen weighs {:.0} kg: two people lift it, it hangs from joists or a rated fixing, and its mains plug is a matter for a licensed electrician under local codes.",
            f64::from(surface.mass_g) / 1_000.0
        ));
    }
    all
}
