//! What an edit of plans must satisfy: coverage, policy and rules of a room, extras of an activity.

use super::{EditError, field, name};
use crate::id::DeviceId;
use crate::model::{
    Activity, Adoption, Deed, Device, EVENTS_MAX, Faults, Goes, Hand, House, LENGTH_MAX_MS, LOST_POLLS_MAX, Motion,
    NamedStop, Override, PlanChange, Position, Profile, Room, SLOW_MAX_MS, STOPS_MAX, Selection, Shortcut, Site, Stand,
    TimedStop,
};
use crate::words::seconds;

/// The most rules, changes by hand, favourites and arrival commands.
const MANY: usize = 200;

/// The latest that a command can be pinned to, in ms (1 hour).
const PIN_MAX_MS: u32 = 3_600_000;

/// The longest that something may be under way at the start of an evening, in ms (1 hour).
const LEFT_MAX_MS: u32 = 3_600_000;

/// The longest line that is said of a house, in characters.
const LINE_MAX: usize = 200;

pub(super) fn house(house: &House) -> Result<(), EditError> {
    super::light::place(house)?;
    let lines = [("Note", &house.note), ("Client", &house.client)];
    let programmer =
        [("Name of the programmer", &house.programmer.name), ("Telephone number", &house.programmer.phone)];
    for (what, line) in lines.into_iter().chain(programmer) {
        if line.chars().count() > LINE_MAX || line.chars().any(char::is_control) {
            return Err(field(what, format!("is one line of at most {LINE_MAX} characters. Shorten it.")));
        }
    }
    if let Some(stays) = &house.stays {
        let (host, port) = stays.rsplit_once(':').unwrap_or((stays, "80"));
        let plain = |c: char| c.is_ascii_alphanumeric() || matches!(c, '.' | '-' | ':' | '[' | ']');
        let usable = !host.is_empty() && host.chars().all(plain) && port.parse::<u16>().is_ok_and(|port| port > 0);
        if !usable || stays.len() > LINE_MAX {
            let problem = "is a host and a port, such as 192.0.2.40:7311, as phones in the house reach it.";
            return Err(field("Machine that stays", problem));
        }
    }
    if (50..=99).contains(&house.coverage_percent) {
        return Ok(());
    }
    Err(field("Coverage of measured waits", "lies between 50 and 99 %: 90 % takes 9 measurements, 99 % takes 99."))
}

pub(super) fn room(room: &Room) -> Result<(), EditError> {
    let plans = &room.plans;
    if plans.rules.len() > MANY || plans.hand.len() > MANY {
        return Err(field("Plans", format!("there are more than {MANY} rules or changes by hand. Remove some.")));
    }
    // A rule about a device that is gone has no effect; it is not refused, so that nothing typed is lost.
    for rule in &plans.rules {
        if let Goes::After { other } = rule.goes
            && other == rule.device
        {
            return Err(field("Order rule", "a device cannot come after itself. Choose another one."));
        }
    }
    for known in &plans.hand {
        let ms = match known.change {
            PlanChange::Pin { at_ms, .. } => at_ms,
            PlanChange::Wait { ms, .. } => ms,
            PlanChange::Add { after_ms, .. } => after_ms,
            PlanChange::Forbid { .. } => 0,
        };
        if ms > PIN_MAX_MS {
            return Err(field(
                "Change by hand",
                "lies more than an hour away. Times are in seconds on the screen and in ms in the API.",
            ));
        }
    }
    Ok(())
}

/// How a room stays in step.
pub(super) fn adoption(adoption: &Adoption) -> Result<(), EditError> {
    if adoption.lost_polls > LOST_POLLS_MAX {
        return Err(field("Lost polls", format!("lie between 0 and {LOST_POLLS_MAX}.")));
    }
    if adoption.switched_off.len() > MANY || adoption.without.len() > MANY {
        return Err(field("Staying in step", format!("there are more than {MANY} changes to rules. Remove some.")));
    }
    Ok(())
}

/// The stories of a room.
pub(super) fn stories(room: &Room) -> Result<(), EditError> {
    let stories = &room.rehearsal.stories;
    if stories.len() > MANY {
        return Err(field("Stories", format!("a room keeps {MANY} stories at most. Remove some.")));
    }
    for (at, story) in stories.iter().enumerate() {
        name("Name of the story", &story.name)?;
        if stories[..at].iter().any(|known| known.name == story.name) {
            return Err(field("Name of the story", format!("“{}” is taken. Choose another one.", story.name)));
        }
        if story.events.len() > EVENTS_MAX || story.length_ms > LENGTH_MAX_MS {
            return Err(field(
                "Story",
                format!("“{}” is too long: {EVENTS_MAX} events and one day are the most.", story.name),
            ));
        }
        let ordered = story.events.windows(2).all(|pair| pair[0].at_ms <= pair[1].at_ms);
        if !ordered || story.events.last().is_some_and(|last| last.at_ms > story.length_ms) {
            return Err(field("Story", format!("the events of “{}” are not in order of time.", story.name)));
        }
        story.events.iter().try_for_each(|event| deed(&event.deed))?;
    }
    Ok(())
}

/// Checks something that happens in an evening.
///
/// # Errors
/// A field out of its range.
pub fn deed(deed: &Deed) -> Result<(), EditError> {
    match deed {
        Deed::Fault { faults, .. } => self::faults(faults),
        Deed::Stand { devices, pace_percent, .. } => stand(devices, *pace_percent),
        Deed::Hand { hand: Hand::Level { percent: 101.., .. } } => Err(field("Level", "lies between 0 and 100 %.")),
        _ => Ok(()),
    }
}

fn stand(devices: &[Stand], pace_percent: u8) -> Result<(), EditError> {
    if pace_percent > 100 {
        return Err(field("Story", "durations lie between 0 and 100 % of their intervals."));
    }
    if devices.iter().any(|stand| stand.left_hi_ms > LEFT_MAX_MS) {
        return Err(field("Story", "something is under way for more than an hour. Choose a shorter time."));
    }
    Ok(())
}

/// Checks what may be wrong with a device or its wire.
///
/// # Errors
/// A field out of its range.
pub fn faults(faults: &Faults) -> Result<(), EditError> {
    if faults.lost_percent > 100 || faults.garbled_percent > 100 {
        return Err(field("Faults", "lost and garbled lie between 0 and 100 %."));
    }
    if faults.slow_ms > SLOW_MAX_MS {
        return Err(field("Faults", "an answer comes 60 s late at most."));
    }
    Ok(())
}

pub(super) fn extras(site: &Site, activity: &Activity) -> Result<(), EditError> {
    let extras = &activity.extras;
    if extras.favourites.len() > MANY || extras.arrival.len() > MANY || extras.settings.len() > MANY {
        return Err(field("Activity", format!("has more than {MANY} favourites, lights or settings. Remove some.")));
    }
    if let Some(wanted) = extras.volume {
        let profile = activity.heard_on.and_then(|device| site.profile_of(device));
        let Some(volume) = profile.as_ref().and_then(|profile| profile.volume) else {
            return Err(field(
                "Start volume",
                "what sounds in this activity has no volume keys. Choose another device, or leave it empty.",
            ));
        };
        if wanted > volume.ceiling {
            let problem = format!("{wanted} is above the ceiling of {}. Choose a lower value.", volume.ceiling);
            return Err(field("Start volume", problem));
        }
    }
    for arrival in &extras.arrival {
        let model = site.model_of(arrival.device).ok_or(EditError::NoSuch("light"))?;
        model.function(arrival.function).ok_or(EditError::NoSuch("function"))?;
    }
    for favourite in &extras.favourites {
        name("Favourite", &favourite.name)?;
        match &favourite.does {
            Shortcut::Channel { number } => {
                if !(1..=6).contains(&number.len()) || !number.bytes().all(|b| b.is_ascii_digit()) {
                    let problem = format!("“{number}” is no channel number: 1 to 6 digits.");
                    return Err(field("Favourite", problem));
                }
            }
            Shortcut::Presses { times, function } => {
                let model = site.model_of(activity.source).ok_or(EditError::NoSuch("source"))?;
                model.function(*function).ok_or(EditError::NoSuch("function"))?;
                if !(1..=30).contains(times) {
                    return Err(field("Favourite", "a key is pressed 1 to 30 times."));
                }
            }
            Shortcut::Volume { steps } => {
                if *steps == 0 || !(-30..=30).contains(steps) {
                    return Err(field("Favourite", "the volume goes up or down by 1 to 30 steps."));
                }
            }
            Shortcut::App { .. } => {}
        }
    }
    Ok(())
}

pub(super) fn behind(site: &Site, device: &Device) -> Result<(), EditError> {
    let Some(screen) = device.behind else { return Ok(()) };
    let moves = site.moves(screen);
    if screen == device.id || !moves {
        let name = site.device_name(screen);
        return Err(field("Stands behind", format!("{name} is no screen that moves. Choose another one, or none.")));
    }
    Ok(())
}

/// What a profile says that cannot be.
pub(super) fn contradictions(profile: &Profile) -> Result<(), EditError> {
    if let Selection::Menu { open, next, previous, confirm, .. } = profile.selection {
        let keys = [open, next, previous, confirm];
        if (1..keys.len()).any(|at| keys[..at].contains(&keys[at])) {
            return Err(field("Input list", "one key has two parts in it. Choose a key of its own for each."));
        }
    }
    if let Some(motion) = profile.motion
        && motion.up == motion.down
    {
        return Err(field("Motion", "up and down are the same key. Choose two."));
    }
    stops(profile)?;
    if profile.modes.iter().any(|mode| mode.values.is_empty()) {
        return Err(field("Setting", "has no values. Name them, or remove it."));
    }
    if let Some(couples) = profile.couples
        && (couples.delay.lo_ms > couples.delay.hi_ms || couples.delay.hi_ms > 60_000)
    {
        return Err(field("Control over HDMI", "the shortest delay stands first, and it is at most a minute."));
    }
    Ok(())
}

/// Stops between the ends of something that moves.
fn stops(profile: &Profile) -> Result<(), EditError> {
    let refuse = |problem: String| Err(field("Stops between its ends", problem));
    if profile.stops.is_empty() {
        return Ok(());
    }
    let Some(motion) = profile.motion else {
        return refuse("it does not move. Say how it moves, or remove the stops.".to_owned());
    };
    if profile.stops.len() > STOPS_MAX {
        return refuse(format!("there are {}. Keep at most {STOPS_MAX}.", profile.stops.len()));
    }
    for (at, stop) in profile.stops.iter().enumerate() {
        let (name, before) = (stop.name.trim(), &profile.stops[..at]);
        if name.is_empty() {
            return refuse("one has no name. Name it, or remove it.".to_owned());
        }
        if before.iter().any(|other| other.name.trim().eq_ignore_ascii_case(name)) {
            return refuse(format!("two are called “{name}”. Name them apart."));
        }
        if !(1..=99).contains(&stop.down_percent) {
            return refuse(format!("“{name}” is at {} % of the way down. Give 1 to 99.", stop.down_percent));
        }
        if let Some(timed) = stop.timed {
            by_time(name, stop, timed, &motion)?;
            continue;
        }
        let end = stop.key == motion.up || stop.key == motion.down || Some(stop.key) == motion.stop;
        if end || before.iter().any(|other| other.key == stop.key) {
            return refuse(format!("the key of “{name}” does something else already. Choose a key of its own."));
        }
    }
    Ok(())
}

/// A stop by time, on something that goes down and can be stopped on its way.
fn by_time(name: &str, stop: &NamedStop, timed: TimedStop, motion: &Motion) -> Result<(), EditError> {
    let refuse = |problem: String| Err(field("Stops between its ends", problem));
    if motion.stop != Some(stop.key) || !motion.stops_between {
        return refuse(format!(
            "“{name}” is reached by time, and that takes a stop key that stops it on its way. Say so in Motion."
        ));
    }
    let latest = u64::from(timed.after_ms) + u64::from(timed.late_ms);
    if timed.after_ms == 0 || latest >= u64::from(motion.travel_down.lo_ms) {
        let (after, least) = (seconds(timed.after_ms), seconds(motion.travel_down.lo_ms));
        return refuse(format!(
            "“{name}” is reached {after} after the upper limit, and going down may be over after {least} already. Give a time between, the lateness included, or let it go to its lower limit."
        ));
    }
    if timed.spread_per_mille > 500 {
        return refuse(format!("“{name}” may be off by more than half of the travel. Measure the travel."));
    }
    Ok(())
}

/// Activities name a stop by its place in the list: one that is in use keeps its place, or goes last.
pub(super) fn stops_in_use(site: &Site, profile: &Profile) -> Result<(), EditError> {
    let Some(before) = site.profile(profile.id) else { return Ok(()) };
    for activity in &site.activities {
        for movement in &activity.moves {
            let Position::Stop(at) = movement.to else { continue };
            // A device with stops of its own does not ask the model.
            let own = |device: &Device| device.overrides.iter().any(|own| matches!(own, Override::Stops(_)));
            let of_this =
                site.device(movement.device).is_some_and(|device| device.profile == profile.id && !own(device));
            let Some(was) = before.stops.get(usize::from(at)).filter(|_| of_this) else { continue };
            let same = |is: &NamedStop| is.key == was.key || is.name == was.name;
            if !profile.stops.get(usize::from(at)).is_some_and(same) {
                let (device, stop) = (site.device_name(movement.device), &was.name);
                return Err(EditError::InUse(format!(
                    "“{}” moves {device} to “{stop}”. Choose another position there first.",
                    activity.name
                )));
            }
        }
    }
    Ok(())
}

/// The same for the stops of one device, whatever they come from.
pub(super) fn own_stops_in_use(site: &Site, device: &Device, now: &Profile) -> Result<(), EditError> {
    let Some(before) = site.profile_of(device.id) else { return Ok(()) };
    for activity in &site.activities {
        for movement in activity.moves.iter().filter(|movement| movement.device == device.id) {
            let Position::Stop(at) = movement.to else { continue };
            let Some(was) = before.stops.get(usize::from(at)) else { continue };
            if !now
                .stops
                .get(usize::from(at))
                .is_some_and(|is| is.name == was.name || (is.timed.is_none() && is.key == was.key))
            {
                return Err(EditError::InUse(format!(
                    "“{}” moves {} to “{}”. Choose another position there first.",
                    activity.name, device.name, was.name
                )));
            }
        }
    }
    Ok(())
}

/// Does an activity use this device for its arrival look?
pub(super) fn lights(activity: &Activity, device: DeviceId) -> bool {
    activity.extras.arrival.iter().any(|arrival| arrival.device == device)
}
