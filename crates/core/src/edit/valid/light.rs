//! What an edit of the light of a room, or of the place of a house, must satisfy.

use super::{EditError, field, name};
use crate::model::{Also, Cue, House, Light, Lighting, Moment, Provided, Room, Site};
use std::collections::BTreeSet;

/// The most zones, looks, cues and mode switches of a room.
const MANY: usize = 300;

/// The longest fade, in ms (1 hour).
const FADE_MAX_MS: u32 = 3_600_000;

/// Where a house stands.
pub(super) fn place(house: &House) -> Result<(), EditError> {
    let Some(place) = &house.place else { return Ok(()) };
    if !(-90.0..=90.0).contains(&f64::from(place.latitude)) || !(-180.0..=180.0).contains(&f64::from(place.longitude)) {
        return Err(field("Place", "latitudes lie between −90 and 90°, longitudes between −180 and 180°."));
    }
    if !place.zone_is_known() {
        let problem = format!(
            "“{}” is no time zone. Type its IANA name, or a rule such as XST0XDT,M3.5.0/1,M10.5.0.",
            place.zone
        );
        return Err(field("Time zone", problem));
    }
    Ok(())
}

/// The light of a room.
pub(crate) fn room(room: &Room) -> Result<(), EditError> {
    let light = &room.lighting;
    let most = [light.zones.len(), light.looks.len(), light.cues.len(), light.switches.len(), room.accepted.len()];
    if most.iter().any(|count| *count > MANY) {
        return Err(field("Light", format!("a room has {MANY} zones, looks or cues at most. Remove some.")));
    }
    once("zone", light.zones.iter().map(|zone| &zone.name))?;
    once("look", light.looks.iter().map(|look| &look.name))?;
    once("mode switch", light.switches.iter().map(|switch| &switch.name))?;
    for zone in &light.zones {
        if zone.floor_percent > 50 {
            return Err(field("Floor", "lies between 0 and 50 %."));
        }
    }
    for look in &light.looks {
        if look.fade_ms > FADE_MAX_MS {
            return Err(field("Fade", "takes an hour at most."));
        }
        if look.levels.iter().any(|level| level.percent > 100) {
            return Err(field("Level", "lies between 0 and 100 %."));
        }
    }
    if let Some(exit) = &light.exit
        && (exit.percent > 100 || exit.walk_s > 3_600)
    {
        return Err(field("Way out", "its level lies between 0 and 100 %, and it is walked within an hour."));
    }
    light.cues.iter().try_for_each(|cue| self::cue(light, cue))?;
    for accepted in &room.accepted {
        if accepted.reason.trim().is_empty() || accepted.reason.len() > 500 {
            return Err(field("Reason", "says in up to 500 characters why this is no trouble here."));
        }
    }
    Ok(())
}

fn cue(light: &Lighting, cue: &Cue) -> Result<(), EditError> {
    if let Moment::Clock { minute, until } = cue.moment {
        if minute >= 1440 || until.is_some_and(|until| until >= 1440) {
            return Err(field("Time", "lies between 0:00 and 23:59."));
        }
        if until == Some(minute) {
            return Err(field("Time", "the second time is another one than the first."));
        }
    }
    if matches!(cue.moment, Moment::Sun { offset_min, .. } if offset_min.unsigned_abs() > 720) {
        return Err(field("Sun", "the moment lies within 12 hours of sunrise or sunset."));
    }
    for provided in &cue.provided {
        match provided {
            Provided::Between { from_min, to_min } if *from_min > 1440 || *to_min > 1440 || from_min == to_min => {
                return Err(field("Between", "two different times between 0:00 and 24:00."));
            }
            Provided::Days { days } if days.is_empty() || days.iter().any(|day| !(1..=7).contains(day)) => {
                return Err(field("Days", "at least one; 1 is Monday, 7 is Sunday."));
            }
            _ => {}
        }
    }
    for also in &cue.also {
        match also {
            Also::Say { percent, text, .. } if *percent > 100 || text.trim().is_empty() || text.len() > 400 => {
                return Err(field("Announcement", "has up to 400 characters, and a volume between 0 and 100 %."));
            }
            Also::Chime { percent, name, length_ms, .. }
                if *percent > 100 || name.trim().is_empty() || name.chars().count() > 80 || *length_ms > 10_000 =>
            {
                return Err(field("Chime", "has a name of up to 80 characters, and a volume between 0 and 100 %."));
            }
            Also::Volume { steps, unit, .. } if *steps == 0 || steps.unsigned_abs() > unit.most().unsigned_abs() => {
                return Err(field("Volume", "goes by 1 to 30 steps, 50 % or 20 dB at most."));
            }
            Also::StepAside { minutes, .. } if !(1..=180).contains(minutes) => {
                return Err(field("Step aside", "takes 1 to 180 minutes."));
            }
            Also::PauseAndOff { after_s, .. } if *after_s > 7_200 => {
                return Err(field("Pause and off", "the room goes off within two hours."));
            }
            _ => {}
        }
    }
    let look = match &cue.light {
        Light::Look { look, fade_ms } => {
            if fade_ms.is_some_and(|ms| ms > FADE_MAX_MS) {
                return Err(field("Fade", "takes an hour at most."));
            }
            Some(*look)
        }
        Light::Stays | Light::Before { .. } => None,
    };
    match look {
        Some(look) if light.look(look).is_none() => Err(EditError::NoSuch("look")),
        _ => Ok(()),
    }
}

/// The sounds of chimes are there, and are sounds.
pub(crate) fn sounds(site: &Site, cue: &Cue) -> Result<(), EditError> {
    for also in &cue.also {
        if let Also::Chime { sound, .. } = also
            && !site.pictures.iter().any(|known| known.id == *sound && known.is_sound())
        {
            return Err(EditError::NoSuch("sound of a chime"));
        }
    }
    Ok(())
}

fn once<'a>(what: &str, names: impl Iterator<Item = &'a String>) -> Result<(), EditError> {
    let mut known = BTreeSet::new();
    for one in names {
        name(&format!("Name of the {what}"), one)?;
        if !known.insert(one) {
            return Err(field(&format!("Name of the {what}"), format!("“{one}” is taken. Choose another one.")));
        }
    }
    Ok(())
}
