//! When moments of the clock and the sun are on a date, daylight saving included: a local time that is skipped fires at
//! the jump, one that comes twice fires once.

use crate::model::{Moment, Standpoint};
use jiff::Timestamp;
use jiff::civil::{Date, DateTime};
use jiff::tz::{AmbiguousOffset, TimeZone};

/// When a moment of the clock or the sun is on a local day; none for other moments, and where the sun neither rises
/// nor sets.
#[must_use]
pub fn on(place: Option<&Standpoint>, moment: &Moment, day: Date) -> Option<Timestamp> {
    match *moment {
        Moment::Clock { minute, .. } => clock(&zone(place), day, minute),
        Moment::Sun { rises, offset_min } => {
            let sun = place?.sun(day, rises)?;
            Timestamp::from_second(sun.as_second() + i64::from(offset_min) * 60).ok()
        }
        _ => None,
    }
}

/// The time zone of a house; UTC where it stands nowhere.
#[must_use]
pub fn zone(place: Option<&Standpoint>) -> TimeZone {
    place.map_or(TimeZone::UTC, Standpoint::time_zone)
}

/// A time by the clock of a house, typed as `2027-01-15T20:00`; none where it is no time.
#[must_use]
pub fn typed(place: Option<&Standpoint>, text: &str) -> Option<Timestamp> {
    let local = text.trim().parse::<DateTime>().ok()?;
    Some(local.to_zoned(zone(place)).ok()?.timestamp())
}

/// When the clock shows a time on a day.
#[must_use]
pub fn clock(zone: &TimeZone, day: Date, minute: u16) -> Option<Timestamp> {
    let (hour, minute) = (i8::try_from(minute / 60).ok()?, i8::try_from(minute % 60).ok()?);
    let local = day.at(hour.min(23), minute, 0, 0);
    let ambiguous = zone.to_ambiguous_zoned(local);
    if matches!(ambiguous.offset(), AmbiguousOffset::Gap { .. }) {
        // Skipped: it fires when the clock jumps over it.
        let before = zone.to_ambiguous_zoned(local).earlier().ok()?.timestamp();
        return zone.following(before).next().map(|change| change.timestamp());
    }
    // Twice: it fires the first time.
    ambiguous.earlier().ok().map(|zoned| zoned.timestamp())
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;
    use rstest::rstest;

    /// An hour later in summer, from the last Sunday of March to the last of October, at 01:00 UTC.
    const RULE: &str = "XST0XDT,M3.5.0/1,M10.5.0";

    fn summer_time() -> TimeZone {
        TimeZone::posix(RULE).unwrap()
    }

    /// The clocks go forward at 01:00 UTC on 29 March 2026 and back at 01:00 UTC on 25 October 2026.
    #[rstest]
    #[case::usual(date(2026, 3, 28), 90, "2026-03-28T01:30:00Z")]
    #[case::skipped(date(2026, 3, 29), 90, "2026-03-29T01:00:00Z")]
    #[case::after_the_jump(date(2026, 3, 29), 150, "2026-03-29T01:30:00Z")]
    #[case::twice(date(2026, 10, 25), 90, "2026-10-25T00:30:00Z")]
    #[case::after_both(date(2026, 10, 25), 150, "2026-10-25T02:30:00Z")]
    #[case::midnight(date(2026, 7, 1), 0, "2026-06-30T23:00:00Z")]
    fn the_clock_on_days_on_which_it_is_changed(#[case] day: Date, #[case] minute: u16, #[case] expected: &str) {
        assert_eq!(clock(&summer_time(), day, minute).unwrap(), expected.parse().unwrap());
    }

    #[rstest]
    #[case("2027-06-15T20:00", Some("2027-06-15T19:00:00Z"))]
    #[case(" 2027-01-15T20:00 ", Some("2027-01-15T20:00:00Z"))]
    #[case("tea time", None)]
    fn a_typed_time_is_that_of_the_house(#[case] text: &str, #[case] expected: Option<&str>) {
        let place = Standpoint { latitude: 0.0.into(), longitude: 0.0.into(), zone: RULE.to_owned() };
        assert_eq!(typed(Some(&place), text), expected.map(|time| time.parse().unwrap()));
    }

    #[test]
    fn the_sun_with_an_offset_needs_a_place() {
        let moment = Moment::Sun { rises: false, offset_min: -30 };
        assert_eq!(on(None, &moment, date(2026, 6, 21)), None);
        let place = Standpoint { latitude: 52.5.into(), longitude: (-3.25).into(), zone: RULE.to_owned() };
        let set = place.sun(date(2026, 6, 21), false).unwrap();
        let found = on(Some(&place), &moment, date(2026, 6, 21)).unwrap();
        assert_eq!(set.as_second() - found.as_second(), 30 * 60);
    }
}
