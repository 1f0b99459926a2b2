//! How far a screen comes down, and when it is stopped for that.
//!
//! A surface hangs from a case with a black drop above the picture. Where the bottom edge of the picture must be says how far
//! it travels; its travel time says when it is stopped. The time is exact, the place is not: it spreads with the travel as it
//! was measured, and with how late a stop may be sent.

use crate::model::Span;

/// What hangs in a case, in m.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Drop {
    /// The lower edge of the case, above the floor.
    pub case_bottom: f64,
    /// The black cloth above the picture, when the screen is all the way down.
    pub black: f64,
    /// The height of the picture.
    pub picture: f64,
    /// What hangs below the picture: the border and the bar.
    pub below: f64,
}

impl Drop {
    /// How far it travels from its upper limit to its lower one.
    #[must_use]
    pub fn travel(&self) -> f64 {
        self.black + self.picture + self.below
    }

    /// The bottom edge of the picture when it is all the way down, above the floor.
    #[must_use]
    pub fn lowest(&self) -> f64 {
        self.case_bottom - self.black - self.picture
    }

    /// How far down it is when the bottom edge of the picture is so high above the floor, as a share of the whole way.
    #[must_use]
    pub fn share_for(&self, bottom: f64) -> f64 {
        (self.case_bottom - bottom + self.below) / self.travel()
    }

    /// How high the bottom edge of the picture is at a share of the way.
    #[must_use]
    pub fn bottom_at(&self, share: f64) -> f64 {
        self.case_bottom + self.below - share * self.travel()
    }
}

/// A stop on the way.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StopHeight {
    /// How far down, in % of the whole way.
    pub percent: f64,
    /// When the stop is sent, after leaving the upper limit, in ms.
    pub after_ms: u32,
    /// How far off it may be to either side, in % of the whole way.
    pub spread_percent: f64,
    /// The same in m.
    pub spread: f64,
}

/// Why there is no such stop.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoStop {
    /// The edge would be above the case, or the picture still in it.
    TooHigh,
    /// It does not come down so far.
    TooLow,
    /// How long it travels is not known.
    NoTravel,
}

/// Where a screen is stopped so that the bottom edge of its picture is so high above the floor. `travels` is how long the whole
/// way down takes, `late_ms` by how much a stop may be sent later than it should.
///
/// # Errors
/// Where it cannot be stopped there.
pub fn stop_height(drop: &Drop, bottom: f64, travels: Span, late_ms: u32) -> Result<StopHeight, NoStop> {
    if travels.hi_ms == 0 {
        return Err(NoStop::NoTravel);
    }
    let share = drop.share_for(bottom);
    if share > 1.0 + 1e-9 {
        return Err(NoStop::TooLow);
    }
    // A picture of which a part is still in the case is none.
    if drop.bottom_at(share) + drop.picture > drop.case_bottom + 1e-9 {
        return Err(NoStop::TooHigh);
    }
    let (lo, hi) = (f64::from(travels.lo_ms.max(1)), f64::from(travels.hi_ms));
    // After the same time the slowest motor is here and the quickest there; the time lies so that both are as far off.
    let after = share * 2.0 * lo * hi / (lo + hi);
    let (least, most) = (after / hi, ((after + f64::from(late_ms)) / lo).min(1.0));
    let spread = (share - least).max(most - share).max(0.0);
    #[expect(
        clippy::cast_possible_truncation,
        clippy::cast_sign_loss,
        reason = "a time between 0 and that of the travel"
    )]
    let after_ms = after.round() as u32;
    Ok(StopHeight { percent: share * 100.0, after_ms, spread_percent: spread * 100.0, spread: spread * drop.travel() })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const SCREEN: Drop = Drop { case_bottom: 2.50, black: 0.60, picture: 1.494, below: 0.06 };

    #[test]
    fn a_screen_of_24_s_is_stopped_on_its_way() {
        // All the way down the bottom edge is at 0.406 m; at 0.793 m it has come 82 % of its way.
        assert!((SCREEN.lowest() - 0.406).abs() < 1e-9);
        let found = stop_height(&SCREEN, 0.794, Span::assumed(24_000, 24_000), 0).unwrap();
        assert!((found.percent - 82.0).abs() < 0.1, "{found:?}");
        assert!((f64::from(found.after_ms) - 240.0 * found.percent).abs() < 1.0);
        assert!(found.spread_percent.abs() < 1e-9, "an exact motor and a punctual stop are exact");
    }

    #[test]
    fn the_spread_comes_from_the_travel_and_from_a_late_stop() {
        let even = Span::assumed(23_400, 24_600);
        let by_travel = stop_height(&SCREEN, 0.794, even, 0).unwrap();
        assert!((by_travel.spread_percent - 82.0 * 0.6 / 24.0).abs() < 0.1, "{by_travel:?}");
        let late = stop_height(&SCREEN, 0.794, even, 300).unwrap();
        assert!((late.spread_percent - by_travel.spread_percent - 100.0 * 0.3 / 23.4).abs() < 0.01, "{late:?}");
        assert!((late.spread - late.spread_percent / 100.0 * SCREEN.travel()).abs() < 1e-12);
    }

    #[test]
    fn where_it_cannot_be_stopped_it_says_why() {
        let travels = Span::assumed(23_000, 25_000);
        assert_eq!(stop_height(&SCREEN, 0.30, travels, 0), Err(NoStop::TooLow));
        assert_eq!(stop_height(&SCREEN, 1.60, travels, 0), Err(NoStop::TooHigh));
        assert_eq!(stop_height(&SCREEN, 0.80, Span::assumed(0, 0), 0), Err(NoStop::NoTravel));
    }

    proptest! {
        /// Whatever motor within its interval, and however late the stop: the edge is within the spread.
        #[test]
        fn every_motor_stops_within_the_spread(
            lo in 10_000_u32..30_000, wider in 0_u32..5_000, motor in 0.0_f64..=1.0, late in 0_u32..500, share in 0.0_f64..=1.0
        ) {
            let travels = Span::assumed(lo, lo + wider);
            let bottom = 0.41 + 0.5 * share;
            let Ok(found) = stop_height(&SCREEN, bottom, travels, late) else { return Ok(()) };
            let takes = f64::from(lo) + motor * f64::from(wider);
            for sent in [f64::from(found.after_ms), f64::from(found.after_ms + late)] {
                let percent = (sent / takes).min(1.0) * 100.0;
                prop_assert!((percent - found.percent).abs() <= found.spread_percent + 0.02, "{} {:?}", percent, found);
            }
        }
    }
}
