//! When the sun rises and sets, and how high it stands: the crate `solar-positioning` (NREL's Solar Position Algorithm),
//! checked against another library in the tests.

use crate::model::Standpoint;
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use rustc_hash::FxHashMap;
use solar_positioning::time::JulianDate;
use solar_positioning::{Horizon, Location, SolarEvents, SolarPositions};
use std::cell::RefCell;

/// Where the middle of the sun stands when its edge is seen on the horizon, in degrees (*common practice*).
const HORIZON: f64 = -0.833;

/// By how much the time of astronomers is ahead of the clock, in s: 69 in these years. A minute more or less moves no
/// sunset by a second.
const DELTA_T: f64 = 69.0;

/// Days whose sun is remembered: proofs and previews ask for the same few again and again.
const DAYS_KEPT: usize = 2_000;

/// Latitude, longitude, zone, the day, and whether the sun rises.
type AskedDay = (u64, u64, String, Date, bool);

thread_local! {
    static DAYS: RefCell<FxHashMap<AskedDay, Option<Timestamp>>> = RefCell::default();
}

impl Standpoint {
    /// Its time zone; UTC, where the name is none.
    #[must_use]
    pub fn time_zone(&self) -> TimeZone {
        zone_called(&self.zone).unwrap_or(TimeZone::UTC)
    }

    /// Is the name of its zone one?
    #[must_use]
    pub fn zone_is_known(&self) -> bool {
        zone_called(&self.zone).is_some()
    }

    fn location(&self) -> Location {
        Location { latitude: self.latitude.into(), longitude: self.longitude.into() }
    }

    /// How high the sun stands, in degrees, as if there were no air.
    #[must_use]
    pub fn elevation(&self, at: Timestamp) -> f64 {
        let position = JulianDate::new(julian(at), DELTA_T)
            .and_then(|at| SolarPositions::new().at_from_julian(at, self.location(), 0.0, None));
        // A place is checked when it is typed, and a time is one of these millennia.
        position.map_or(0.0, |position| position.elevation_angle())
    }

    /// Is it dark outside: is the sun below the horizon?
    #[must_use]
    pub fn is_dark(&self, at: Timestamp) -> bool {
        self.elevation(at) < HORIZON
    }

    /// Sunrise (or sunset) of a local day; none where the sun does not cross the horizon on it.
    #[must_use]
    pub fn sun(&self, day: Date, rises: bool) -> Option<Timestamp> {
        let Location { latitude, longitude } = self.location();
        let asked = (latitude.to_bits(), longitude.to_bits(), self.zone.clone(), day, rises);
        DAYS.with_borrow_mut(|days| {
            if days.len() > DAYS_KEPT {
                days.clear();
            }
            *days.entry(asked).or_insert_with(|| self.sun_of(day, rises))
        })
    }

    fn sun_of(&self, day: Date, rises: bool) -> Option<Timestamp> {
        let start = |day: Date| Some(julian(day.to_zoned(self.time_zone()).ok()?.timestamp()));
        let (from, to) = (start(day)?, start(day.tomorrow().ok()?)?);
        let (place, horizon) = (self.location(), Horizon::Custom(HORIZON));
        let events = SolarEvents::new();
        let found = if rises {
            events.next_rise_from_julian(from, to, place, DELTA_T, horizon)
        } else {
            events.next_set_from_julian(from, to, place, DELTA_T, horizon)
        };
        #[expect(clippy::cast_possible_truncation, reason = "a second of these millennia")]
        let second = |julian: f64| ((julian - UNIX_EPOCH) * DAY_S).round() as i64;
        Timestamp::from_second(second(found.ok()??)).ok()
    }

    /// When it is dark on a local day that has a sunset, as minutes of the day by the clock.
    #[must_use]
    pub fn minute_of(&self, day: Date, rises: bool) -> Option<u16> {
        let local = self.sun(day, rises)?.to_zoned(self.time_zone());
        u16::try_from(i32::from(local.hour()) * 60 + i32::from(local.minute())).ok()
    }
}

/// A time zone by its IANA name, or by a rule as in POSIX.
fn zone_called(name: &str) -> Option<TimeZone> {
    TimeZone::get(name).or_else(|_| TimeZone::posix(name)).ok()
}

/// The beginning of 1970 as a Julian date.
const UNIX_EPOCH: f64 = 2_440_587.5;

const DAY_S: f64 = 86_400.0;

fn julian(at: Timestamp) -> f64 {
    at.as_duration().as_secs_f64() / DAY_S + UNIX_EPOCH
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::Degrees;
    use jiff::civil::date;
    use rstest::rstest;

    fn at(latitude: f64, longitude: f64, zone: &str) -> Standpoint {
        Standpoint { latitude: latitude.into(), longitude: longitude.into(), zone: zone.to_owned() }
    }

    /// Values of the library `astral` (PyPI, 3.2), to the second, in UTC.
    #[rstest]
    #[case(0.0, 0.0, date(2026, 3, 20), "06:04:20", "18:10:30")]
    #[case(0.0, 0.0, date(2026, 6, 21), "05:58:19", "18:05:19")]
    #[case(0.0, 0.0, date(2026, 12, 21), "05:54:30", "18:01:38")]
    #[case(52.5, -3.25, date(2026, 3, 20), "06:16:02", "18:25:51")]
    #[case(52.5, -3.25, date(2026, 6, 21), "03:50:13", "20:39:25")]
    #[case(52.5, -3.25, date(2026, 12, 21), "08:21:48", "16:00:20")]
    #[case(52.5, -3.25, date(2026, 10, 25), "06:56:35", "16:56:39")]
    #[case(68.4, 17.4, date(2026, 3, 20), "04:50:58", "17:06:45")]
    #[case(68.4, 17.4, date(2026, 10, 25), "06:35:33", "14:31:54")]
    fn sunrise_and_sunset(
        #[case] latitude: f64,
        #[case] longitude: f64,
        #[case] day: Date,
        #[case] rise: &str,
        #[case] set: &str,
    ) {
        let place = at(latitude, longitude, "UTC");
        for (rises, expected) in [(true, rise), (false, set)] {
            let expected: Timestamp = format!("{day}T{expected}Z").parse().unwrap();
            let found = place.sun(day, rises).unwrap();
            assert!((found.as_second() - expected.as_second()).abs() <= 60, "{found} and not {expected}");
        }
    }

    /// South of the equator and far east, where the local day is another one than that in UTC. Values of `astral`.
    #[test]
    fn the_local_day_counts() {
        let place = at(-33.9, 151.2, "Etc/GMT-10");
        let expected: Timestamp = "2026-06-20T21:00:31Z".parse().unwrap();
        let found = place.sun(date(2026, 6, 21), true).unwrap();
        assert!((found.as_second() - expected.as_second()).abs() <= 90, "{found}");
        let set: Timestamp = "2026-06-21T06:53:33Z".parse().unwrap();
        assert!((place.sun(date(2026, 6, 21), false).unwrap().as_second() - set.as_second()).abs() <= 60);
    }

    /// Beyond the polar circle the sun stays up in June and down in December (`astral` says the same).
    #[test]
    fn there_are_days_without_a_sunset() {
        let place = at(68.4, 17.4, "UTC");
        for day in [date(2026, 6, 21), date(2026, 12, 21)] {
            assert_eq!((place.sun(day, true), place.sun(day, false)), (None, None));
        }
        assert!(!place.is_dark("2026-06-21T23:30:00Z".parse().unwrap()));
        assert!(place.is_dark("2026-12-21T11:00:00Z".parse().unwrap()));
    }

    #[test]
    fn it_is_dark_between_sunset_and_sunrise() {
        let place = at(52.5, -3.25, "UTC");
        let set = place.sun(date(2026, 10, 25), false).unwrap();
        for (minutes, dark) in [(-3, false), (3, true)] {
            let moment = Timestamp::from_second(set.as_second() + minutes * 60).unwrap();
            assert_eq!(place.is_dark(moment), dark, "{moment}: {}", place.elevation(moment));
        }
    }

    #[test]
    fn degrees_are_kept_as_they_are_typed() {
        let degrees: Degrees = serde_json::from_str("-3.2501").unwrap();
        assert_eq!(serde_json::to_string(&degrees).unwrap(), "-3.2501");
    }
}
