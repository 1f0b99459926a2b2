//! When the sun rises and sets: the NOAA solar equations (*source: the NOAA Solar Calculator, after Meeus, Astronomical
//! Algorithms; coefficients from memory, checked against an independent library in the tests*). Good to a minute or so
//! between 72° north and south.

use crate::model::Standpoint;
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

/// Where the middle of the sun stands when its edge is seen on the horizon, in degrees.
const HORIZON: f64 = -0.833;

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

    /// How high the sun stands, in degrees.
    #[must_use]
    pub fn elevation(&self, at: Timestamp) -> f64 {
        let sun = Position::at(at);
        let minutes = minutes_of_day(at) + sun.equation_min + 4.0 * f64::from(self.longitude);
        let hour_angle = (minutes / 4.0 - 180.0).to_radians();
        let (latitude, declination) = (f64::from(self.latitude).to_radians(), sun.declination);
        let sine = latitude.sin() * declination.sin() + latitude.cos() * declination.cos() * hour_angle.cos();
        sine.clamp(-1.0, 1.0).asin().to_degrees()
    }

    /// Is it dark outside: is the sun below the horizon?
    #[must_use]
    pub fn is_dark(&self, at: Timestamp) -> bool {
        self.elevation(at) < HORIZON
    }

    /// Sunrise (or sunset) of a local day; none where the sun does not cross the horizon on it.
    #[must_use]
    pub fn sun(&self, day: Date, rises: bool) -> Option<Timestamp> {
        let noon = day.at(12, 0, 0, 0).to_zoned(self.time_zone()).ok()?.timestamp();
        // Twice, so that the sun of the event itself is taken, and not that of noon.
        let first = self.crossing(noon, Position::at(noon), rises)?;
        self.crossing(noon, Position::at(first), rises)
    }

    /// When the sun crosses the horizon in the half day before (or after) its highest point of the day around `noon`.
    fn crossing(&self, noon: Timestamp, sun: Position, rises: bool) -> Option<Timestamp> {
        let latitude = f64::from(self.latitude).to_radians();
        let cosine = (HORIZON.to_radians().sin() - latitude.sin() * sun.declination.sin())
            / (latitude.cos() * sun.declination.cos());
        if !(-1.0..=1.0).contains(&cosine) {
            return None;
        }
        let half_day_min = 4.0 * cosine.acos().to_degrees();
        // The highest point that is nearest to noon by the clock.
        let highest = 720.0 - 4.0 * f64::from(self.longitude) - sun.equation_min;
        let mut off = highest - minutes_of_day(noon);
        off -= (off / 1440.0).round() * 1440.0;
        let event = off + if rises { -half_day_min } else { half_day_min };
        #[expect(clippy::cast_possible_truncation, reason = "less than two days")]
        let seconds = (event * 60.0).round() as i64;
        Timestamp::from_second(noon.as_second() + seconds).ok()
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

fn minutes_of_day(at: Timestamp) -> f64 {
    #[expect(clippy::cast_precision_loss, reason = "a day has 86,400 s")]
    let seconds = at.as_second().rem_euclid(86_400) as f64;
    seconds / 60.0
}

/// Where the sun stands on the sky.
#[derive(Debug, Clone, Copy)]
struct Position {
    /// In radians.
    declination: f64,
    /// How far the sundial is ahead of the clock, in minutes.
    equation_min: f64,
}

impl Position {
    fn at(at: Timestamp) -> Self {
        #[expect(clippy::cast_precision_loss, reason = "a time is well within 52 bits")]
        let t = (at.as_second() as f64 / 86_400.0 + 2_440_587.5 - 2_451_545.0) / 36_525.0;
        let mean_longitude = (280.466_46 + t * (36_000.769_83 + t * 0.000_303_2)).rem_euclid(360.0).to_radians();
        let anomaly = (357.529_11 + t * (35_999.050_29 - 0.000_153_7 * t)).to_radians();
        let eccentricity = 0.016_708_634 - t * (0.000_042_037 + 0.000_000_126_7 * t);
        let centre = anomaly.sin() * (1.914_602 - t * (0.004_817 + 0.000_014 * t))
            + (2.0 * anomaly).sin() * (0.019_993 - 0.000_101 * t)
            + (3.0 * anomaly).sin() * 0.000_289;
        let node = (125.04 - 1_934.136 * t).to_radians();
        let longitude = (mean_longitude.to_degrees() + centre - 0.005_69 - 0.004_78 * node.sin()).to_radians();
        let mean_tilt = 23.0 + (26.0 + (21.448 - t * (46.815 + t * (0.000_59 - t * 0.001_813))) / 60.0) / 60.0;
        let tilt = (mean_tilt + 0.002_56 * node.cos()).to_radians();
        let declination = (tilt.sin() * longitude.sin()).asin();
        let y = (tilt / 2.0).tan().powi(2);
        let equation = y * (2.0 * mean_longitude).sin() - 2.0 * eccentricity * anomaly.sin()
            + 4.0 * eccentricity * y * anomaly.sin() * (2.0 * mean_longitude).cos()
            - 0.5 * y * y * (4.0 * mean_longitude).sin()
            - 1.25 * eccentricity * eccentricity * (2.0 * anomaly).sin();
        Self { declination, equation_min: 4.0 * equation.to_degrees() }
    }
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
