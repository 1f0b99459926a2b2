//! All the light of a room under one finger: each zone keeps its share of it.

use crate::id::ZoneId;
use crate::model::{Level, May};
use std::collections::BTreeMap;

/// How bright it is together: the mean of all zones, in %.
#[must_use]
pub fn mean(levels: &BTreeMap<ZoneId, f64>) -> f64 {
    if levels.is_empty() { 0.0 } else { levels.values().sum::<f64>() / levels.len() as f64 }
}

/// Every zone on the way to another mean, within what people may set. From the dark all of them go up alike.
#[must_use]
pub fn spread(levels: &BTreeMap<ZoneId, f64>, to: u8, may: May) -> Vec<Level> {
    let (mean, to) = (mean(levels), f64::from(to));
    let share = |is: f64| if mean < 1.0 { to } else { is * to / mean };
    levels.iter().map(|(&zone, &is)| Level { zone, percent: within(share(is), may) }).collect()
}

/// A level as people may set it.
#[must_use]
#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "clamped")]
pub fn within(level: f64, may: May) -> u8 {
    (level.clamp(0.0, 100.0).round() as u8).clamp(may.least_percent, may.most_percent)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use uuid::Uuid;

    /// By hand: 60 and 20 are 40 together; half of that is 30 and 10.
    #[rstest]
    #[case::half(&[60.0, 20.0], 20, &[30, 10])]
    #[case::ceiling(&[60.0, 20.0], 80, &[80, 40])]
    #[case::floor(&[60.0, 20.0], 2, &[5, 5])]
    #[case::from_the_dark(&[0.0, 0.0], 30, &[30, 30])]
    #[case::hardly_lit(&[0.4, 0.0], 30, &[30, 30])]
    #[case::nothing(&[], 30, &[])]
    fn each_zone_keeps_its_share_within_the_limits(#[case] is: &[f64], #[case] to: u8, #[case] then: &[u8]) {
        let may = May { least_percent: 5, most_percent: 80 };
        let levels = (1..).zip(is).map(|(n, level)| (Uuid::from_u128(n).into(), *level)).collect();
        let percents: Vec<u8> = spread(&levels, to, may).into_iter().map(|level| level.percent).collect();
        assert_eq!(percents, then);
    }
}
