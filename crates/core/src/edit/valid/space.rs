//! Floor plans, and where things stand.

use super::{EditError, field, name};
use crate::id::RoomId;
use crate::model::{FloorPlan, Opening, Optics, Placed, SIDE_LEAST_MM, SIDE_MAX_MM, Site, Wall};
use crate::words::metres;

/// The most seats, cupboards, openings, spots and lamps of a room.
const MOST: usize = 200;

pub(super) fn floor(site: &Site, room: RoomId, plan: &FloorPlan) -> Result<(), EditError> {
    site.room(room).ok_or(EditError::NoSuch("room"))?;
    for (what, mm) in ["Length", "Width", "Height"].into_iter().zip(plan.size_mm) {
        if !(SIDE_LEAST_MM..=SIDE_MAX_MM).contains(&mm) {
            let (least, most) = (metres(SIDE_LEAST_MM), metres(SIDE_MAX_MM));
            return Err(field(what, format!("of a room lies between {least} and {most}; {} is none.", metres(mm))));
        }
    }
    let counts = [plan.openings.len(), plan.seats.len(), plan.cupboards.len(), plan.spots.len(), plan.lamps.len()];
    if counts.into_iter().any(|many| many > MOST) {
        return Err(field("Floor plan", format!("has at most {MOST} seats, and as many of each other kind.")));
    }
    plan.openings.iter().try_for_each(|own| opening(plan, own))?;
    for seat in &plan.seats {
        name("Seat", &seat.name)?;
        inside(plan, seat.eye_mm, "The eye", &seat.name)?;
        if !(1..=40).contains(&seat.row) {
            return Err(field("Row", "is a number from 1 to 40, counted from the picture."));
        }
    }
    for own in &plan.cupboards {
        name("Cupboard", &own.name)?;
        inside(plan, own.at_mm, "The middle", &own.name)?;
        if own.size_mm.contains(&0) || own.door_passes_percent > 100 {
            return Err(field(
                "Cupboard",
                format!("{} has a size in every direction, and a door that lets 0 to 100 % through.", own.name),
            ));
        }
    }
    for spot in &plan.spots {
        name("Spot", &spot.name)?;
        inside(plan, spot.at_mm, "The spot", &spot.name)?;
    }
    for lamp in &plan.lamps {
        inside(plan, lamp.at_mm, "The lamp", "of a zone")?;
        if lamp.lumens > 100_000 {
            return Err(field("Lamp", "has at most 100,000 lm."));
        }
    }
    if plan.daylight_lux > 100_000 {
        return Err(field("Daylight", "is at most 100,000 lx."));
    }
    // What stands here stands inside still.
    let here = site.placed.iter().filter(|own| site.device(own.device).is_some_and(|device| device.room == room));
    for own in here {
        inside(plan, own.at_mm, "The middle", &site.device_name(own.device))?;
    }
    Ok(())
}

fn opening(plan: &FloorPlan, own: &Opening) -> Result<(), EditError> {
    let along = match own.wall {
        Wall::Left | Wall::Right => plan.size_mm[1],
        Wall::Top | Wall::Bottom => plan.size_mm[0],
    };
    let fits = |from: u32, size: u32, room: u32| size > 0 && from.checked_add(size).is_some_and(|end| end <= room);
    if fits(own.from_mm, own.width_mm, along) && fits(own.bottom_mm, own.height_mm, plan.size_mm[2]) {
        return Ok(());
    }
    Err(field(
        "Opening",
        format!("lies in its wall, which is {} long and {} high.", metres(along), metres(plan.size_mm[2])),
    ))
}

fn inside(plan: &FloorPlan, at_mm: [i32; 3], what: &str, name: &str) -> Result<(), EditError> {
    let within = at_mm.into_iter().zip(plan.size_mm).all(|(at, side)| u32::try_from(at).is_ok_and(|at| at <= side));
    if within {
        return Ok(());
    }
    let [x, y, z] = plan.size_mm.map(metres);
    Err(field("Place", format!("{what} of {name} is outside the room, which is {x} by {y} by {z}.")))
}

pub(super) fn placed(site: &Site, own: &Placed) -> Result<(), EditError> {
    let device = site.device(own.device).ok_or(EditError::NoSuch("device"))?;
    let room = site.room(device.room).ok_or(EditError::NoSuch("room"))?;
    let called = &device.name;
    if !room.floor.is_drawn() {
        return Err(field("Place", format!("{} has no plan yet: draw the room first.", room.name)));
    }
    inside(&room.floor, own.at_mm, "The middle", called)?;
    if own.size_mm.iter().any(|mm| !(1..=20_000).contains(mm)) {
        return Err(field("Size", format!("{called} is 1 mm to 20 m wide, deep and high.")));
    }
    if !(-180..=180).contains(&own.azimuth_deg) || !(-90..=90).contains(&own.elevation_deg) {
        return Err(field("Direction", "lies between −180° and 180° around, and −90° and 90° up."));
    }
    if let Some(other) = site.placed.iter().find(|other| other.device == own.device && other.id != own.id) {
        let _ = other;
        return Err(field("Place", format!("{called} stands somewhere already. Move it there.")));
    }
    for lead in &own.leads {
        site.device(*lead).ok_or(EditError::NoSuch("device"))?;
    }
    let plugs = site.model_of(own.device).and_then(|model| model.optics.as_deref()).and_then(|own| own.emits);
    if own.leads.len() > plugs.map_or(0, |emits| usize::from(emits.leads)) {
        return Err(field("Leads", format!("{called} has no plug left for a lead. Take another one off first.")));
    }
    Ok(())
}

/// Figures of a model in space.
pub(super) fn optics(own: &Optics) -> Result<(), EditError> {
    let angle = |deg: u8, what: &str| {
        if (1..=90).contains(&deg) { Ok(()) } else { Err(field(what, "lies between 1° and 90°.")) }
    };
    if let Some(emits) = own.emits {
        angle(emits.half_deg, "Half angle of the emitter")?;
    }
    if let Some(hears) = own.hears {
        angle(hears.half_deg, "Half angle of the window")?;
        if hears.least_uw_per_m2 == 0 {
            return Err(field("Least irradiance", "is more than 0 µW/m²."));
        }
    }
    if let Some(lens) = own.lens {
        if lens.throw_least_hundredths == 0 || lens.throw_least_hundredths > lens.throw_most_hundredths {
            return Err(field("Throw ratio", "goes from a least one above 0 to a greatest one that is no smaller."));
        }
        if lens.raster.contains(&0) || lens.kept_percent > 100 {
            return Err(field("Lens", "has columns and lines, and keeps at most 100 % of its light."));
        }
    }
    if let Some(surface) = own.surface {
        angle(surface.half_gain_deg, "Half-gain angle")?;
        if surface.size_mm.iter().any(|mm| !(50..=20_000).contains(mm)) || surface.gain_hundredths == 0 {
            return Err(field("Surface", "is 5 cm to 20 m wide and high, and has a gain above 0."));
        }
        if surface.passes_percent > 100 || surface.ambient_percent > 100 {
            return Err(field("Surface", "lets through, and leaves of ambient light, 0 to 100 %."));
        }
    }
    Ok(())
}
