//! Cues in words.

use crate::id::{ActivityId, DeviceId, SwitchId};
use crate::model::{Also, Light, Lighting, Moment, Playback, Provided, Site};
use crate::words::{clock, seconds};

fn activity(site: &Site, id: Option<ActivityId>, none: &str) -> String {
    match id {
        Some(id) => site.activity(id).map_or_else(|| "an activity that is gone".to_owned(), |known| known.name.clone()),
        None => none.to_owned(),
    }
}

fn switch(lighting: &Lighting, id: SwitchId) -> &str {
    lighting.switch(id).map_or("a switch that is gone", |switch| switch.name.as_str())
}

/// What a transport does, in a sentence about it.
#[must_use]
pub fn transport(transport: Playback) -> &'static str {
    match transport {
        Playback::Playing => "plays",
        Playback::Paused => "pauses",
        Playback::Stopped => "stops",
    }
}

/// A moment.
#[must_use]
pub fn moment(site: &Site, lighting: &Lighting, moment: &Moment) -> String {
    let device = |id: DeviceId| site.device_name(id);
    match moment {
        Moment::Starts { activity: id } => format!("{} starts", activity(site, *id, "any activity")),
        Moment::Ends { activity: id } => format!("{} ends", activity(site, *id, "any activity")),
        Moment::RoomOff => "finish".to_owned(),
        Moment::Says { device: id, transport: to } => format!("{} {}", device(*id), transport(*to)),
        Moment::Sent { device: id, function } => {
            format!("{} is sent “{}”", device(*id), site.function_name(*id, *function))
        }
        Moment::Credits { device: id } => format!("credits on {}", device(*id)),
        Moment::Clock { minute, until: None } => clock(*minute),
        Moment::Clock { minute, until: Some(until) } => format!("{} to {}", clock(*minute), clock(*until)),
        Moment::Sun { rises, offset_min } => {
            let event = if *rises { "sunrise" } else { "sunset" };
            match offset_min {
                0 => event.to_owned(),
                after @ 1.. => format!("{after} min after {event}"),
                before => format!("{} min before {event}", before.unsigned_abs()),
            }
        }
        Moment::Sensor { device: id, tripped } => {
            format!("{} {}", device(*id), if *tripped { "trips" } else { "is at rest" })
        }
        Moment::Press { device: id, function, gesture } => {
            format!("{}: “{}” {}", device(*id), site.function_name(*id, *function), gesture.words())
        }
        Moment::Switched { switch: id, on } => {
            format!("{} goes {}", switch(lighting, *id), if *on { "on" } else { "off" })
        }
    }
}

const DAYS: [&str; 7] = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/// A condition.
#[must_use]
pub fn provided(site: &Site, lighting: &Lighting, provided: &Provided) -> String {
    match provided {
        Provided::Between { from_min, to_min } => format!("{}–{}", clock(*from_min), clock(*to_min)),
        Provided::Days { days } => match days.as_slice() {
            [1, 2, 3, 4, 5] => "weekdays".to_owned(),
            [6, 7] => "weekend".to_owned(),
            days => {
                let names: Vec<&str> =
                    days.iter().filter_map(|day| DAYS.get(usize::from(*day).wrapping_sub(1)).copied()).collect();
                names.join(", ")
            }
        },
        Provided::Dark { dark: true } => "dark outside".to_owned(),
        Provided::Dark { dark: false } => "light outside".to_owned(),
        Provided::Switch { switch: id, on } => {
            format!("{} {}", switch(lighting, *id), if *on { "on" } else { "off" })
        }
        Provided::In { activity: None } => "nothing on".to_owned(),
        Provided::NotIn { activity: None } => "something on".to_owned(),
        Provided::In { activity: id } => format!("in {}", activity(site, *id, "off")),
        Provided::NotIn { activity: id } => format!("not in {}", activity(site, *id, "off")),
    }
}

/// What the light does.
#[must_use]
pub fn light(lighting: &Lighting, light: &Light) -> String {
    match light {
        Light::Stays => "stays".to_owned(),
        Light::Look { look, fade_ms } => match lighting.look(*look) {
            Some(look) => format!("{} in {}", look.name, seconds(fade_ms.unwrap_or(look.fade_ms))),
            None => "a look that is gone".to_owned(),
        },
        Light::Before { fade_ms } => format!("as before in {}", seconds(*fade_ms)),
    }
}

/// What else happens.
#[must_use]
pub fn also(site: &Site, lighting: &Lighting, also: &Also) -> String {
    let device = |id: DeviceId| site.device_name(id);
    match also {
        Also::Macro { to } => format!("ask for {}", crate::model::situation_name(site, *to)),
        Also::Command { device: id, function } => format!("{}: “{}”", device(*id), site.function_name(*id, *function)),
        Also::Volume { device: id, steps, unit } => {
            let way = if *steps < 0 { "softer" } else { "louder" };
            format!("{} {} {way}", device(*id), unit.amount(*steps))
        }
        Also::Say { device: id, text, percent } => format!("{} says “{text}” at {percent} %", device(*id)),
        Also::Chime { device: id, name, percent, .. } => format!("{} plays “{name}” at {percent} %", device(*id)),
        Also::Message { device: id, text } if text.is_empty() => format!("{}: message away", device(*id)),
        Also::Message { device: id, text } => format!("{} shows “{text}”", device(*id)),
        Also::Set { switch: id, on } => format!("{} {}", switch(lighting, *id), if *on { "on" } else { "off" }),
        Also::PauseAndOff { device: id, after_s } => {
            format!("pause {}, finish after {}", device(*id), seconds(after_s * 1000))
        }
        Also::StepAside { device: id, to, minutes } => match to {
            Some(_) => format!("pause {}, to {} for {minutes} min, then back", device(*id), activity(site, *to, "")),
            None => format!("pause {} for {minutes} min, then back", device(*id)),
        },
    }
}

/// A cue in one line.
#[must_use]
pub fn line(site: &Site, lighting: &Lighting, cue: &crate::model::Cue) -> String {
    let mut line = moment(site, lighting, &cue.moment);
    if !cue.provided.is_empty() {
        let all: Vec<String> = cue.provided.iter().map(|one| provided(site, lighting, one)).collect();
        line = format!("{line} ({})", all.join(", "));
    }
    line
}
