//! The cues of the clock and the sun as a calendar (iCalendar, RFC 5545).

use crate::id::RoomId;
use crate::light::hours;
use crate::model::{Cue, Moment, Provided, Site, cue_words as words};
use icalendar::{Calendar, Component, Event};
use jiff::ToSpan;
use jiff::civil::Date;

/// For so many days the moments of the sun are written out, each by itself.
const DAYS: i64 = 366;

/// The calendar of a room, from a day on. Times are in UTC; a cue of the clock is written out day by day too, so that a
/// change of the clock is in it.
#[must_use]
pub fn calendar(site: &Site, room: RoomId, from: Date) -> String {
    let mut calendar = Calendar::new();
    let Some(own) = site.room(room) else { return calendar.to_string() };
    calendar.name(&format!("{} · {}", site.house.name, own.name));
    let lighting = &own.lighting;
    for cue in lighting.cues.iter().filter(|cue| !cue.off) {
        let timed = matches!(cue.moment, Moment::Clock { .. } | Moment::Sun { .. });
        if !timed {
            continue;
        }
        let summary = words::line(site, lighting, cue);
        let mut does = vec![format!("light: {}", words::light(lighting, &cue.light))];
        does.extend(cue.also.iter().map(|also| words::also(site, lighting, also)));
        for after in 0..DAYS {
            let Ok(day) = from.checked_add(after.days()) else { break };
            if !on_day(cue, day) {
                continue;
            }
            let Some(at) = hours::on(site.house.place.as_ref(), &cue.moment, day) else { continue };
            let stamp = at.strftime("%Y%m%dT%H%M%SZ").to_string();
            let event = Event::new()
                .uid(&format!("{}-{day}", cue.id))
                .summary(&summary)
                .description(&does.join("\n"))
                .add_property("DTSTAMP", &stamp)
                .add_property("DTSTART", &stamp)
                .add_property("DURATION", lasts(cue))
                .done();
            calendar.push(event);
        }
    }
    calendar.to_string()
}

/// How long it holds: until its second time, where it has one, over midnight too.
fn lasts(cue: &Cue) -> String {
    let minutes = match cue.moment {
        Moment::Clock { minute, until: Some(until) } => (u32::from(until) + 1440 - u32::from(minute)) % 1440,
        _ => 1,
    };
    format!("PT{minutes}M")
}

/// Does a cue fire on this day of the week?
fn on_day(cue: &Cue, day: Date) -> bool {
    let number = u8::try_from(day.weekday().to_monday_one_offset()).unwrap_or(1);
    cue.provided.iter().all(|provided| match provided {
        Provided::Days { days } => days.contains(&number),
        _ => true,
    })
}
