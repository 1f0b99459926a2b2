//! What an edit of the surfaces of a room must satisfy.

use super::{EditError, field, name};
use crate::model::{Does, Gesture, Held, Room, Site, Surface, SurfaceKey};
use crate::surface::contrast;
use std::collections::BTreeSet;

/// The most surfaces of a room, pages of a surface, keys of a page and bindings of a key.
const MOST: [usize; 4] = [40, 40, 200, 40];

pub(crate) fn room(site: &Site, room: &Room) -> Result<(), EditError> {
    if room.surfaces.len() > MOST[0] {
        return Err(field("Surfaces", format!("a room has {} at most. Remove some.", MOST[0])));
    }
    let mut seen = BTreeSet::new();
    for surface in &room.surfaces {
        name("Name of the surface", &surface.name)?;
        if !seen.insert(surface.name.to_lowercase()) {
            return Err(field("Name of the surface", format!("“{}” is taken. Choose another name.", surface.name)));
        }
        self::surface(site, surface)?;
    }
    Ok(())
}

fn surface(site: &Site, surface: &Surface) -> Result<(), EditError> {
    let size = 10..=1_000;
    if !size.contains(&surface.width_mm) || !size.contains(&surface.height_mm) {
        return Err(field("Size", "a surface is 10 to 1000 mm wide and high. Measure it."));
    }
    if !(1..=40).contains(&surface.columns) || !(1..=40).contains(&surface.rows) {
        return Err(field("Grid", "has 1 to 40 columns and rows."));
    }
    if !(10..=200).contains(&surface.letter_tenths_mm) {
        return Err(field("Letters", "are 1 to 20 mm high."));
    }
    if let Some(may) = &surface.may
        && (may.least_percent > may.most_percent || may.most_percent > 100)
    {
        return Err(field("Limits", "the darkest level lies below the brightest, and that at 100 % at most."));
    }
    if surface.trial.as_ref().is_some_and(|trial| !(1..=365).contains(&trial.quiet_days)) {
        return Err(field("Trial", "the quiet days are 1 to 365."));
    }
    if surface.pages.len() > MOST[1] {
        return Err(field("Pages", format!("a surface has {} at most. Remove some.", MOST[1])));
    }
    let most = surface.kind.most_keys();
    for page in &surface.pages {
        name("Name of the page", &page.name)?;
        if page.keys.len() > most.unwrap_or(MOST[2]) {
            let many = most.unwrap_or(MOST[2]);
            return Err(field("Keys", format!("a {} has {many} at most. Remove some.", surface.kind.words())));
        }
        for key in &page.keys {
            self::key(site, surface, key)?;
        }
    }
    Ok(())
}

fn key(site: &Site, surface: &Surface, key: &SurfaceKey) -> Result<(), EditError> {
    if key.label.chars().count() > 60 || key.label.chars().any(char::is_control) {
        return Err(field("Label", "has 60 characters at most, on one line."));
    }
    if key.wide == 0 || key.tall == 0 || key.column.saturating_add(key.wide) > surface.columns || key.row > 100 {
        return Err(field("Place", format!("“{}” stands beside the grid. Move it back.", key.label)));
    }
    if let Some(picture) = key.picture
        && !site.pictures.iter().any(|known| known.id == picture)
    {
        return Err(EditError::NoSuch("picture"));
    }
    if let Some(tint) = &key.tint
        && (contrast::parse(&tint.ink).is_none() || contrast::parse(&tint.ground).is_none())
    {
        return Err(field("Colour", "is written as #1c6470."));
    }
    if key.bindings.len() > MOST[3] {
        return Err(field("Key", format!("“{}” does too many things. Remove some.", key.label)));
    }
    for binding in &key.bindings {
        // A look or a switch that goes on and off four times a second would flash.
        if binding.held != Held::Once && !matches!(binding.does, Does::Command { .. } | Does::Volume { .. }) {
            return Err(field("While held", "only commands and volume go on while a key is held."));
        }
        if binding.most_per_s.is_some_and(|most| !(1..=30).contains(&most)) {
            return Err(field("At most", "lies between 1 and 30 a second."));
        }
        match &binding.does {
            Does::Command { times, .. } if !(1..=30).contains(times) => {
                return Err(field("Times", "a command is sent 1 to 30 times."));
            }
            Does::Volume { steps, unit, .. } if *steps == 0 || steps.unsigned_abs() > unit.most().unsigned_abs() => {
                return Err(field("Louder or softer", "volume goes 1 to 30 steps, 50 % or 20 dB up or down at most."));
            }
            Does::Jump { seconds, .. } if *seconds == 0 || seconds.unsigned_abs() > 600 => {
                return Err(field("Jump", "goes 1 to 600 s on or back."));
            }
            Does::HouseRest if binding.gesture != Gesture::Hold => {
                return Err(field("Whole house to rest", "is on a key that is held: a tap comes too easily."));
            }
            _ => {}
        }
    }
    Ok(())
}
