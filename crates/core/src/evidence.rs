//! What readings of a stopwatch say of the next time.
//!
//! A wait no shorter than n exchangeable readings covers the next one with probability at least n/(n+1), whatever the
//! distribution; what rests on both ends, (n−1)/(n+1) (order statistics, a standard result). With s of them left out, by
//! somebody or because they lie outside the interval in use, s is taken off above the line and n stays below it. A run in
//! which nothing was seen in time took longer than all that were seen. Only what was seen in the house counts; what a
//! library or a model says was measured elsewhere, and is *from the profile* here.

use crate::id::DeviceId;
use crate::model::{Basis, Ends, Measurement, SeenIn, Site, Span, Timing};
use serde::Serialize;
use utoipa::ToSchema;

/// Clean bursts at one pause after which it is taken.
pub const CLEAN_BURSTS: usize = 3;

/// With what probability, in %, n readings of which `out` are left out cover the next time (rounded down).
#[must_use]
pub fn coverage(n: u32, out: u32, ends: Ends) -> u8 {
    let within = u64::from(n.saturating_sub(out.saturating_add(at_ends(ends))));
    u8::try_from(within * 100 / (u64::from(n) + 1)).unwrap_or(99)
}

/// How many more readings, none of them left out, cover the next time with this probability, in %.
#[must_use]
pub fn lacking(n: u32, out: u32, ends: Ends, percent: u8) -> u32 {
    let percent = u32::from(percent.clamp(1, 99));
    let needed = (percent + 100 * (at_ends(ends) + out.min(10_000_000))).div_ceil(100 - percent);
    needed.saturating_sub(n)
}

/// What both ends cost more than one.
fn at_ends(ends: Ends) -> u32 {
    u32::from(ends == Ends::Both)
}

/// The readings of one time of one device, the oldest first.
pub fn readings(site: &Site, device: DeviceId, timing: Timing) -> impl Iterator<Item = &Measurement> {
    site.measurements.iter().filter(move |own| own.device == device && own.timing == timing)
}

/// Does it count: seen in the house, from a device that had settled?
fn counts(own: &Measurement) -> bool {
    own.seen == SeenIn::House && !own.hot
}

/// Is it one of the readings that an interval is made from?
fn within(own: &Measurement) -> bool {
    own.struck.is_none() && !own.timed_out
}

/// On what an interval in use rests, where it says that it was measured: the readings of this device in this house that
/// bear it out. What has none, or what its model says, is from the profile.
#[must_use]
pub fn basis(site: &Site, device: DeviceId, timing: Timing, span: Span, ends: Ends) -> Basis {
    if !matches!(span.basis, Basis::Measured { .. }) {
        return span.basis;
    }
    let own = site.device(device).is_some_and(|device| timing.is_own(&device.overrides));
    let (n, out) = if timing.is_pause() {
        (clean(site, device, timing, if timing == Timing::Gap { span.hi_ms } else { span.lo_ms }), 0)
    } else {
        counted(site, device, timing, span, ends)
    };
    if own && n > 0 { Basis::Measured { n, struck: out } } else { Basis::Profile }
}

/// How many readings there are, and how many of them an interval leaves out.
fn counted(site: &Site, device: DeviceId, timing: Timing, span: Span, ends: Ends) -> (u32, u32) {
    let (mut n, mut out) = (0, 0);
    for own in readings(site, device, timing).filter(|own| counts(own)) {
        n += 1;
        let fits = match ends {
            Ends::Longest => within(own) && own.ms <= span.hi_ms,
            // What was not seen in time took longer: at the lower end it is no trouble.
            Ends::Shortest => own.struck.is_none() && own.earliest_ms() >= span.lo_ms,
            Ends::Both => within(own) && own.earliest_ms() >= span.lo_ms && own.ms <= span.hi_ms,
        };
        out += u32::from(!fits);
    }
    (n, out)
}

/// Clean bursts at the pause in use, or at a shorter one from which on all were clean.
fn clean(site: &Site, device: DeviceId, timing: Timing, pause_ms: u32) -> u32 {
    let bursts = readings(site, device, timing).filter(|own| own.seen == SeenIn::House && own.struck.is_none());
    let bursts: Vec<(u32, bool)> =
        bursts.filter_map(|own| own.burst.map(|burst| (own.ms, burst.counted == burst.sent))).collect();
    let lost_at = bursts.iter().filter(|(ms, clean)| !clean && *ms <= pause_ms).map(|(ms, _)| *ms).max();
    let good = bursts.iter().filter(|(ms, clean)| *clean && *ms <= pause_ms && lost_at.is_none_or(|lost| *ms > lost));
    u32::try_from(good.count()).unwrap_or(u32::MAX)
}

impl Timing {
    /// Is it found by bursts instead of by a stopwatch?
    #[must_use]
    pub const fn is_pause(self) -> bool {
        matches!(self, Self::Gap | Self::Digits)
    }
}

/// How many more readings a coverage takes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct MoreReadings {
    /// For what coverage, in %.
    pub percent: u8,
    /// How many more, none of them left out.
    pub more: u32,
}

/// What the readings of one time of one device say.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct TimingKnown {
    /// Of which device.
    pub device: DeviceId,
    /// Of what.
    pub timing: Timing,
    /// From what to what, as *power on → picture or sound*.
    pub span: &'static str,
    /// Which end of it is used.
    pub ends: Ends,
    /// The interval in use, and what it rests on; none where plans wait for no such thing.
    pub in_use: Option<Span>,
    /// With what probability the interval in use covers the next time, in %; none where nothing was read in the house.
    pub in_use_percent: Option<u8>,
    /// Readings that count.
    pub n: u32,
    /// Those of them that are struck, or in which nothing was seen in time.
    pub out: u32,
    /// Readings in the rehearsal room: they count for nothing.
    pub rehearsed: u32,
    /// From the shortest to the longest reading; none where there is none.
    pub proposal: Option<Span>,
    /// With what probability that would cover the next time, in %.
    pub percent: u8,
    /// How many more for what is usual.
    pub more: Vec<MoreReadings>,
    /// Readings outside the interval in use.
    pub outside: u32,
}

/// What the readings of one time of one device say. With `rehearsed`, those of the rehearsal room are looked at instead: to
/// show what the same would be worth in the house.
#[must_use]
pub fn known(site: &Site, device: DeviceId, timing: Timing, rehearsed: bool) -> TimingKnown {
    let seen = if rehearsed { SeenIn::Rehearsed } else { SeenIn::House };
    let all: Vec<&Measurement> = readings(site, device, timing).collect();
    let own: Vec<&&Measurement> = all.iter().filter(|own| own.seen == seen).collect();
    let cold = own.iter().filter(|own| !own.hot);
    let count = |n: usize| u32::try_from(n).unwrap_or(u32::MAX);
    let n = count(cold.clone().count());
    let ends = timing.used();
    let fits = |own: &&&&Measurement| own.struck.is_none() && (!own.timed_out || ends == Ends::Shortest);
    let out = n - count(cold.filter(fits).count());
    let times = own.iter().filter(|own| within(own));
    let interval = times.clone().map(|own| own.earliest_ms()).min().zip(times.map(|own| own.ms).max());
    let profile = site.profile_of(device);
    let in_use = profile.as_ref().and_then(|profile| timing.span(profile));
    let in_use = in_use.map(|span| Span { basis: basis(site, device, timing, span, ends), ..span });
    let outside = in_use.map_or(0, |span| {
        // What a device reported lies between two questions: it is outside only where all of that is.
        let beyond = |own: &Measurement| match ends {
            Ends::Longest => own.earliest_ms() > span.hi_ms,
            Ends::Shortest => own.ms < span.lo_ms,
            Ends::Both => own.earliest_ms() > span.hi_ms || own.ms < span.lo_ms,
        };
        count(
            all.iter()
                .filter(|own| own.seen == SeenIn::House && own.struck.is_none())
                .filter(|own| beyond(own))
                .count(),
        )
    });
    let in_use_percent = in_use.and_then(|span| match span.basis {
        Basis::Measured { n, struck } => Some(coverage(n, struck, ends)),
        _ => None,
    });
    TimingKnown {
        device,
        timing,
        span: timing.words(),
        ends,
        in_use,
        in_use_percent,
        n,
        out,
        rehearsed: count(all.iter().filter(|own| own.seen == SeenIn::Rehearsed).count()),
        proposal: interval.filter(|_| !timing.is_pause()).map(|(lo_ms, hi_ms)| Span {
            lo_ms,
            hi_ms,
            basis: Basis::Measured { n, struck: out },
        }),
        percent: coverage(n, out, ends),
        more: [90, 95, 99].map(|percent| MoreReadings { percent, more: lacking(n, out, ends, percent) }).to_vec(),
        outside,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::id::MeasurementId;
    use crate::model::{Burst, Override};
    use proptest::prelude::*;
    use rstest::rstest;
    use uuid::Uuid;

    /// n/(n+1): 9 readings for 90 %, 99 for 99 %; (n−1)/(n+1): 19 for 90 % (order statistics, a standard result).
    #[rstest]
    #[case(90, Ends::Longest, 0, 9)]
    #[case(99, Ends::Longest, 0, 99)]
    #[case(50, Ends::Longest, 0, 1)]
    #[case(95, Ends::Longest, 0, 19)]
    #[case(90, Ends::Both, 0, 19)]
    #[case(90, Ends::Longest, 1, 19)]
    #[case(90, Ends::Shortest, 0, 9)]
    fn coverage_by_order_statistics(#[case] percent: u8, #[case] ends: Ends, #[case] out: u32, #[case] n: u32) {
        assert_eq!(lacking(0, out, ends, percent), n);
        assert!(coverage(n, out, ends) >= percent && coverage(n - 1, out, ends) < percent);
    }

    /// The same by simulation: of 20,000 times n readings and one more, how often is the last no longer than the s-th
    /// longest of those before, and how often does it lie between the shortest and the longest?
    #[rstest]
    #[case(9, 0)]
    #[case(5, 0)]
    #[case(10, 1)]
    #[case(12, 3)]
    fn order_statistics_by_simulation(#[case] n: usize, #[case] struck: usize) {
        const RUNS: usize = 20_000;
        let mut state = 0x9e37_79b9_7f4a_7c15_u64;
        let mut next = || {
            state ^= state << 13;
            state ^= state >> 7;
            state ^= state << 17;
            state
        };
        let (mut below, mut between) = (0_usize, 0_usize);
        for _ in 0..RUNS {
            let mut seen: Vec<u64> = (0..n).map(|_| next()).collect();
            seen.sort_unstable();
            let new = next();
            // The longest ones are struck: nothing worse can be struck.
            below += usize::from(new <= seen[n - 1 - struck]);
            between += usize::from((seen[0]..=seen[n - 1]).contains(&new));
        }
        let share = |hits: usize| hits as f64 / RUNS as f64;
        let expected = (n - struck) as f64 / (n + 1) as f64;
        assert!((share(below) - expected).abs() < 0.015, "{} {expected}", share(below));
        if struck == 0 {
            let both = (n - 1) as f64 / (n + 1) as f64;
            assert!((share(between) - both).abs() < 0.015, "{} {both}", share(between));
        }
    }

    fn reading(number: u128, ms: u32) -> Measurement {
        let at = "2027-05-03T10:00:00Z".parse().unwrap();
        Measurement::new(MeasurementId(Uuid::from_u128(4_000 + number)), ids::projector(), Timing::WarmUp, ms, at)
    }

    fn taken_over(site: &mut Site) {
        let known = known(site, ids::projector(), Timing::WarmUp, false);
        let profile = site.profile_of(ids::projector()).unwrap().into_owned();
        let own = Timing::WarmUp.with(&profile, known.proposal.unwrap());
        let device = site.devices.find_mut(|device| device.id == ids::projector()).unwrap();
        device.overrides.retain(|known| !matches!(known, Override::WarmUp(_)));
        device.overrides.extend(own);
    }

    fn in_use(site: &Site) -> TimingKnown {
        known(site, ids::projector(), Timing::WarmUp, false)
    }

    #[test]
    fn nine_readings_cover_nine_times_of_ten_and_a_rehearsed_one_covers_nothing() {
        let mut site = demo::marram_point();
        assert!(!matches!(in_use(&site).in_use.unwrap().basis, Basis::Measured { .. }), "no reading in this house");
        site.measurements.extend((0..9).map(|at| Measurement { seen: SeenIn::Rehearsed, ..reading(at, 25_000) }));
        assert_eq!((in_use(&site).n, in_use(&site).proposal, in_use(&site).rehearsed), (0, None, 9));
        site.measurements.extend((0..9).map(|at| reading(20 + at, 24_000 + 100 * u32::try_from(at).unwrap())));
        let told = in_use(&site);
        assert_eq!((told.n, told.percent), (9, 90));
        assert_eq!(told.proposal.map(|span| (span.lo_ms, span.hi_ms)), Some((24_000, 24_800)));
        taken_over(&mut site);
        assert_eq!(in_use(&site).in_use.unwrap().basis, Basis::measured(9));
        assert_eq!(in_use(&site).in_use_percent, Some(90));
    }

    #[test]
    fn what_is_struck_timed_out_or_outside_still_counts_below_the_line() {
        let mut site = demo::marram_point();
        site.measurements.extend((0..9).map(|at| reading(at, 25_000)));
        taken_over(&mut site);
        let struck = Some("door was open".to_owned());
        site.measurements.push(Measurement { struck, ..reading(30, 31_000) });
        assert_eq!(in_use(&site).in_use_percent, Some(81), "(10−1)/11");
        assert_eq!(in_use(&site).outside, 0, "what is struck is no finding");
        site.measurements.push(Measurement { timed_out: true, ..reading(31, 60_000) });
        assert_eq!(in_use(&site).in_use_percent, Some(75), "(11−2)/12");
        site.measurements.push(reading(32, 26_000));
        let told = in_use(&site);
        assert_eq!((told.in_use_percent, told.outside), (Some(69), 2), "(12−3)/13");
        assert_eq!(told.proposal.map(|span| span.hi_ms), Some(26_000), "nobody knows how long the silent one took");
    }

    /// handover.md §1: by feedback the lower end loses one poll interval and the time-out of the reply.
    #[test]
    fn what_a_device_reported_may_have_been_true_since_it_was_last_asked() {
        let mut site = demo::marram_point();
        let reported = |number, ms| Measurement { early_ms: 3_000, ..reading(number, ms) };
        site.measurements.extend([reported(1, 26_000), reported(2, 27_000)]);
        let told = in_use(&site);
        assert_eq!(told.proposal.map(|span| (span.lo_ms, span.hi_ms)), Some((23_000, 27_000)));
        let hi_ms = told.in_use.unwrap().hi_ms;
        site.measurements.push(reported(3, hi_ms + 2_000));
        assert_eq!(in_use(&site).outside, 0, "it may have been in time");
        site.measurements.push(reported(4, hi_ms + 3_001));
        assert_eq!(in_use(&site).outside, 1);
        let both = Span { lo_ms: 23_000, hi_ms: 27_000, basis: Basis::Profile };
        let left_out = |span, ends| counted(&site, ids::projector(), Timing::WarmUp, span, ends).1;
        assert_eq!(left_out(both, Ends::Both), 2);
        assert_eq!(left_out(Span { lo_ms: 23_001, ..both }, Ends::Both), 3, "23.0 s is below 23.001 s");
        assert_eq!(left_out(both, Ends::Shortest), 0);
    }

    #[test]
    fn what_a_model_calls_measured_is_from_the_profile() {
        let mut site = demo::marram_point();
        let model = site.device(ids::projector()).unwrap().profile;
        let own = site.profiles.find_mut(|profile| profile.id == model).unwrap();
        own.times.warm_up.basis = Basis::measured(40);
        assert_eq!(in_use(&site).in_use.unwrap().basis, Basis::Profile);
    }

    #[test]
    fn a_pause_rests_on_its_clean_bursts() {
        let mut site = demo::marram_point();
        let burst = |number, ms, counted| Measurement {
            timing: Timing::Gap,
            burst: Some(Burst { sent: 6, counted }),
            ..reading(number, ms)
        };
        site.measurements.extend([burst(1, 200, 6), burst(2, 200, 6), burst(3, 200, 6), burst(4, 140, 4)]);
        let span = Span { lo_ms: 0, hi_ms: 250, basis: Basis::measured(3) };
        let own = |site: &Site, span| basis(site, ids::projector(), Timing::Gap, span, Ends::Longest);
        assert_eq!(own(&site, span), Basis::Profile, "nobody has taken it over");
        site.devices.find_mut(|d| d.id == ids::projector()).unwrap().overrides.push(Override::GapBasis(span.basis));
        assert_eq!(own(&site, span), Basis::measured(3));
        site.measurements.push(burst(5, 220, 5));
        assert_eq!(own(&site, span), Basis::Profile, "a longer pause has lost a press since");
    }

    proptest! {
        #[test]
        fn what_lacks_is_the_least_that_covers(n in 0_u32..60, out in 0_u32..5, percent in 50_u8..=99, both: bool) {
            let ends = if both { Ends::Both } else { Ends::Longest };
            let out = out.min(n);
            let covers = |n: u32| u64::from(n.saturating_sub(out + u32::from(both))) * 100
                >= u64::from(percent) * (u64::from(n) + 1);
            let lacks = lacking(n, out, ends, percent);
            prop_assert!(covers(n + lacks));
            prop_assert!(lacks == 0 || !covers(n + lacks - 1));
        }
    }
}
