//! What a verdict rests on: the waits, and how well each is known.
//!
//! A wait no shorter than n exchangeable observations covers the next one with probability at least
//! n/(n+1), whatever the distribution (order statistics, a standard result): nine measurements for 90 %.

use crate::id::DeviceId;
use crate::model::{Basis, Site, Span};
use crate::plan::{Plan, Wait};
use crate::words::seconds;
use serde::Serialize;
use utoipa::ToSchema;

/// A wait that the verdict needs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RestsOn {
    /// Of which device.
    pub device: DeviceId,
    /// What is waited for, in words.
    pub what: String,
    /// The interval and its basis.
    pub span: Span,
    /// Is it confirmed, or measured often enough?
    pub holds: bool,
    /// How many measurements are missing for that.
    pub lacks: u32,
    /// How sure it is, in %, where it was measured.
    pub coverage_percent: Option<u8>,
}

/// How many measurements cover the next time with this probability, in %.
#[must_use]
pub fn measurements_for(percent: u8) -> u32 {
    let percent = u32::from(percent.clamp(1, 99));
    percent.div_ceil(100 - percent)
}

/// With what probability, in %, the longest of n measurements covers the next time (rounded down).
#[must_use]
pub fn coverage_of(n: u32) -> u8 {
    u8::try_from(u64::from(n) * 100 / (u64::from(n) + 1)).unwrap_or(99)
}

/// The waits that a plan needs, the weakest first.
#[must_use]
pub fn rests_on(site: &Site, plan: &Plan) -> Vec<RestsOn> {
    let wanted = measurements_for(site.house.coverage_percent);
    let needs = |wait: &&Wait| {
        // A wait matters where a command follows it, or ready does.
        let followed = plan.steps.iter().any(|step| step.device == wait.device && step.start_ms >= wait.to_ms);
        let needed = plan.goals.iter().any(|goal| goal.device == wait.device && goal.needed);
        wait.span.hi_ms > 0 && wait.effect != crate::model::Effect::None && (followed || needed)
    };
    let mut rests: Vec<RestsOn> = plan
        .waits
        .iter()
        .filter(needs)
        .map(|wait| {
            let (holds, lacks, coverage_percent) = match wait.span.basis {
                Basis::Confirmed => (true, 0, None),
                Basis::Measured { n } => (n >= wanted, wanted.saturating_sub(n), Some(coverage_of(n))),
                Basis::Profile | Basis::Assumed => (false, wanted, None),
            };
            let doing = wait.label.split(" · ").next().unwrap_or_default();
            let what = format!("{} {doing}, up to {}", site.device_name(wait.device), seconds(wait.span.hi_ms));
            RestsOn { device: wait.device, what, span: wait.span, holds, lacks, coverage_percent }
        })
        .collect();
    let strength = |rest: &RestsOn| match rest.span.basis {
        Basis::Assumed => 0,
        Basis::Profile => 1,
        Basis::Measured { n } => 2 + n,
        Basis::Confirmed => u32::MAX,
    };
    rests.sort_by_key(|rest| (rest.holds, strength(rest), std::cmp::Reverse(rest.span.hi_ms)));
    rests.dedup_by(|a, b| a.what == b.what);
    rests
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// n/(n+1): 9 measurements for 90 %, 99 for 99 %.
    #[rstest]
    #[case(90, 9)]
    #[case(99, 99)]
    #[case(50, 1)]
    #[case(95, 19)]
    fn coverage_by_order_statistics(#[case] percent: u8, #[case] n: u32) {
        assert_eq!(measurements_for(percent), n);
        assert!(coverage_of(n) >= percent && coverage_of(n - 1) < percent);
    }
}
