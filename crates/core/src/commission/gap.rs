//! The gap finder: the shortest pause between commands that a device follows.
//!
//! Bursts of presses of a key whose effect can be counted are sent at a pause; the count that was seen is typed. What the
//! path itself loses is measured first, at one second between presses. Then the pause is halved until presses are lost, and
//! bisected by √2 between the last clean and the first lossy one. The shortest pause with three clean bursts, times 1.25, is
//! what a plan waits (*common practice*; three clean bursts of six say no more than that at most one press in five is lost).
//!
//! The longest pause between the digits of a number is found the other way round: numbers are entered at pauses that double
//! until one is no longer taken as one number.

use crate::evidence::CLEAN_BURSTS;
use crate::id::{DeviceId, FunctionId};
use crate::model::{DeviceKind, Site, Tries};
use crate::prove::loss::{Range, wilson};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// The pause at which the path itself is measured, in ms.
pub const SLOW_MS: u32 = 1_000;

/// No shorter pause is tried, in ms: a frame has to end before the next one.
pub const LEAST_MS: u32 = 40;

/// Light changes no faster than three times a second, in ms from press to press.
pub const LIGHT_MS: u32 = 334;

/// Presses of the first burst, at the slow pause.
pub const SLOW_PRESSES: u32 = 10;

/// Presses of every other burst.
pub const PRESSES: u32 = 6;

/// No burst has more presses.
pub const PRESSES_MAX: u32 = 20;

/// No pause between presses is longer, in ms.
pub const PAUSE_MAX_MS: u32 = 5_000;

/// So many bursts end any search.
pub const BURSTS_MAX: usize = 60;

/// Numbers are entered with this pause between their digits first, in ms.
pub const NUMBER_MS: u32 = 500;

/// So many numbers make a burst.
pub const NUMBERS: u32 = 3;

/// A burst that was sent, and what was counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = CountedBurst)]
pub struct Tried {
    /// The pause, in ms.
    pub pause_ms: u32,
    /// Presses that were sent.
    pub sent: u32,
    /// Presses that were counted.
    pub counted: u32,
}

/// What was lost at a pause.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LostAt {
    /// The pause, in ms.
    pub pause_ms: u32,
    /// Bursts at it.
    pub bursts: u32,
    /// Presses that were lost, of those that were sent.
    pub tries: Tries,
    /// The share that is lost, as a 95 % range (Wilson's score interval).
    pub range: Option<Range>,
}

/// What comes next.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "next")]
pub enum NextBurst {
    /// Send a burst.
    Send {
        /// At this pause, in ms.
        pause_ms: u32,
        /// So many presses.
        presses: u32,
        /// Why, in a sentence.
        why: String,
    },
    /// The path itself loses presses: that is to be mended first.
    PathLoses,
    /// It is found.
    Found {
        /// The shortest pause with three clean bursts, in ms.
        clean_ms: u32,
        /// The pause for plans, in ms.
        pause_ms: u32,
    },
}

impl Tried {
    /// Can it have been sent and counted like this?
    #[must_use]
    pub const fn is_sound(&self) -> bool {
        self.sent > 0 && self.sent <= PRESSES_MAX && self.counted <= 2 * self.sent && self.pause_ms <= PAUSE_MAX_MS
    }
}

/// What comes after these bursts; `least_ms` is the shortest pause that may be tried.
#[must_use]
pub fn next(tried: &[Tried], least_ms: u32) -> NextBurst {
    let mut at: BTreeMap<u32, (usize, bool)> = BTreeMap::new();
    for burst in tried {
        let (bursts, lost) = at.entry(burst.pause_ms).or_default();
        *bursts += 1;
        // Counting more than was sent is a loss of another kind: one press was taken for two.
        *lost |= burst.counted != burst.sent;
    }
    let send = |pause_ms: u32, why: &str| {
        let presses = if pause_ms >= SLOW_MS { SLOW_PRESSES } else { PRESSES };
        NextBurst::Send { pause_ms, presses, why: why.to_owned() }
    };
    let Some(&(slow, lossy)) = at.get(&SLOW_MS) else {
        return send(SLOW_MS, "What the path itself loses, at a pause that every device follows.");
    };
    if lossy {
        return NextBurst::PathLoses;
    }
    let bad = at.iter().filter(|(_, (_, lost))| *lost).map(|(ms, _)| *ms).max();
    let good = at.iter().find(|(ms, (_, lost))| !lost && bad.is_none_or(|bad| **ms > bad));
    let (good, bursts) = good.map_or((SLOW_MS, slow), |(ms, (bursts, _))| (*ms, *bursts));
    let finer = match bad {
        None => (good / 2).max(least_ms),
        Some(bad) if u64::from(good) * 10 > u64::from(bad) * 15 => root_of_two(good).max(bad + 1),
        Some(_) => good,
    };
    if finer < good {
        let why = if bad.is_none() {
            "Nothing was lost: half the pause."
        } else {
            "Between the last clean pause and the first lossy one."
        };
        return send(finer, why);
    }
    if bursts < CLEAN_BURSTS {
        return send(good, "Once more: three clean bursts are wanted at the shortest pause.");
    }
    NextBurst::Found { clean_ms: good, pause_ms: (good * 5).div_ceil(4).div_ceil(10) * 10 }
}

/// What comes after these bursts of numbers, of which those were counted that were taken as one: the longest pause between
/// digits is looked for. A plan keeps a fifth below what was found.
#[must_use]
pub fn next_longest(tried: &[Tried]) -> NextBurst {
    let lossy = |burst: &&Tried| burst.counted != burst.sent;
    let bad = tried.iter().filter(lossy).map(|burst| burst.pause_ms).min();
    let good = tried.iter().filter(|burst| !lossy(burst) && bad.is_none_or(|bad| burst.pause_ms < bad));
    let good = good.map(|burst| burst.pause_ms).max();
    let send = |pause_ms: u32, why: &str| NextBurst::Send { pause_ms, presses: NUMBERS, why: why.to_owned() };
    let Some(good) = good else {
        return match bad {
            None => send(NUMBER_MS, "A pause at which every device takes the digits as one number."),
            Some(_) => NextBurst::PathLoses,
        };
    };
    let longer = match bad {
        None => (good * 2).min(PAUSE_MAX_MS),
        Some(bad) if u64::from(bad) * 10 > u64::from(good) * 15 => times_root_of_two(good).min(bad - 1),
        Some(_) => good,
    };
    if longer > good {
        let why = if bad.is_none() {
            "Each was taken as one number: twice the pause."
        } else {
            "Between the last pause at which each was one number and the first at which one was not."
        };
        return send(longer, why);
    }
    if tried.iter().filter(|burst| burst.pause_ms == good && !lossy(burst)).count() < CLEAN_BURSTS {
        return send(good, "Once more: three clean bursts are wanted at the longest pause.");
    }
    NextBurst::Found { clean_ms: good, pause_ms: good * 4 / 50 * 10 }
}

/// A pause times √2, in whole ms.
fn times_root_of_two(ms: u32) -> u32 {
    (u64::from(ms) * 14_142 / 10_000).try_into().unwrap_or(ms)
}

/// The digits of a number that a device takes: of the first channel with two of them or more. None where it has none.
#[must_use]
pub fn number(site: &Site, device: DeviceId) -> Option<(u8, Vec<FunctionId>)> {
    let apps = site.profile_of(device)?.apps.len();
    let all = (1..=apps).filter_map(|app| u8::try_from(app).ok());
    let mut keys = all.map(|app| (app, crate::plan::chain::digits_of(site, device, app)));
    keys.find(|(_, keys)| keys.len() > 1 && keys.iter().all(|key| site.code(device, *key).is_some()))
}

/// A pause divided by √2, in whole ms.
fn root_of_two(ms: u32) -> u32 {
    (u64::from(ms) * 10_000 / 14_142).try_into().unwrap_or(ms)
}

/// What was lost at each pause, the longest first.
#[must_use]
pub fn lost(tried: &[Tried]) -> Vec<LostAt> {
    let mut at: BTreeMap<u32, (u32, Tries)> = BTreeMap::new();
    for burst in tried {
        let (bursts, tries) = at.entry(burst.pause_ms).or_default();
        *bursts += 1;
        tries.of += burst.sent;
        tries.lost += burst.sent.abs_diff(burst.counted).min(burst.sent);
    }
    let told = |(pause_ms, (bursts, tries))| LostAt { pause_ms, bursts, tries, range: wilson(tries) };
    at.into_iter().rev().map(told).collect()
}

/// The keys of a device that may be sent in bursts: what can be counted and hurts nobody. Power, motors, heat and *louder*
/// are never sent in bursts.
#[must_use]
pub fn keys(site: &Site, device: DeviceId) -> Vec<FunctionId> {
    let Some(profile) = site.profile_of(device) else { return vec![] };
    if profile.motion.is_some() || profile.kind == DeviceKind::Heater {
        return vec![];
    }
    let mut never: Vec<FunctionId> = profile.keys().iter().map(|(key, _)| *key).collect();
    if let Some(volume) = &profile.volume {
        never.push(volume.up);
        never.retain(|key| *key != volume.down);
    }
    let power = profile.power_keys().map(|(on, off)| [on, off]).into_iter().flatten();
    let inputs: Vec<FunctionId> = match &profile.selection {
        crate::model::Selection::Menu { next, previous, .. } => vec![*next, *previous],
        crate::model::Selection::Cycle { next, .. } => vec![*next],
        _ => vec![],
    };
    never.retain(|key| !inputs.contains(key));
    never.extend(power);
    let free = profile.functions.iter().map(|function| function.id).filter(|key| !never.contains(key));
    free.filter(|&key| site.code(device, key).is_some()).collect()
}

/// The shortest pause that may be tried on a device, in ms.
#[must_use]
pub fn least_ms(site: &Site, device: DeviceId) -> u32 {
    match site.model_of(device).map(|model| model.kind) {
        Some(DeviceKind::Light) => LIGHT_MS,
        _ => LEAST_MS,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use proptest::prelude::*;

    /// A device that follows every pause from `needs` on, and loses every other press below.
    fn found_on(needs: u32) -> (NextBurst, Vec<Tried>) {
        let mut tried = Vec::new();
        loop {
            match next(&tried, LEAST_MS) {
                NextBurst::Send { pause_ms, presses, .. } => {
                    let counted = if pause_ms >= needs { presses } else { presses / 2 };
                    tried.push(Tried { pause_ms, sent: presses, counted });
                    assert!(tried.len() < 40, "{tried:?}");
                }
                end => return (end, tried),
            }
        }
    }

    #[test]
    fn a_pause_of_180_ms_is_found_between_177_and_250() {
        let (end, tried) = found_on(180);
        assert_eq!(end, NextBurst::Found { clean_ms: 250, pause_ms: 320 });
        assert_eq!(tried.iter().map(|one| one.pause_ms).collect::<Vec<_>>(), [1_000, 500, 250, 125, 176, 250, 250]);
        let lost = lost(&tried);
        assert_eq!((lost[0].pause_ms, lost[0].tries), (1_000, Tries { lost: 0, of: 10 }));
        assert_eq!((lost[4].pause_ms, lost[4].tries), (125, Tries { lost: 3, of: 6 }));
        // None lost in 10: at most 3.84/(10 + 3.84) = 27.8 % (Wilson 1927).
        assert!((lost[0].range.unwrap().hi - 0.278).abs() < 0.001);
    }

    /// A device that takes digits as one number up to `closes` apart.
    fn longest_of(closes: u32) -> (NextBurst, Vec<Tried>) {
        let mut tried = Vec::new();
        loop {
            match next_longest(&tried) {
                NextBurst::Send { pause_ms, presses, .. } => {
                    let counted = if pause_ms <= closes { presses } else { 0 };
                    tried.push(Tried { pause_ms, sent: presses, counted });
                    assert!(tried.len() < 40, "{tried:?}");
                }
                end => return (end, tried),
            }
        }
    }

    #[test]
    fn a_number_that_closes_after_three_seconds_is_found_below_that() {
        let (end, tried) = longest_of(3_000);
        assert_eq!(
            tried.iter().map(|one| one.pause_ms).collect::<Vec<_>>(),
            [500, 1_000, 2_000, 4_000, 2_828, 2_828, 2_828]
        );
        assert_eq!(end, NextBurst::Found { clean_ms: 2_828, pause_ms: 2_260 });
        assert_eq!(longest_of(60_000).0, NextBurst::Found { clean_ms: PAUSE_MAX_MS, pause_ms: 4_000 });
        assert_eq!(longest_of(NUMBER_MS - 1).0, NextBurst::PathLoses);
    }

    #[test]
    fn a_number_of_two_digits_that_are_learned_is_entered() {
        let site = demo::marram_point();
        let (device, (app, keys)) =
            site.devices.iter().find_map(|own| Some((own.id, number(&site, own.id)?))).expect("the demo has a tuner");
        assert!(app >= 1 && keys.len() > 1);
        assert!(keys.iter().all(|key| site.code(device, *key).is_some()));
        assert_eq!(number(&site, ids::screen()), None);
    }

    #[test]
    fn a_path_that_loses_presses_by_itself_is_said_first() {
        let one = Tried { pause_ms: SLOW_MS, sent: 10, counted: 9 };
        assert_eq!(next(&[one], LEAST_MS), NextBurst::PathLoses);
    }

    #[test]
    fn a_press_that_counts_twice_is_no_clean_burst() {
        let slow = Tried { pause_ms: SLOW_MS, sent: 10, counted: 10 };
        let twice = Tried { pause_ms: 500, sent: 6, counted: 7 };
        assert!(matches!(next(&[slow, twice], LEAST_MS), NextBurst::Send { pause_ms: 707, .. }));
    }

    #[test]
    fn motors_heat_power_and_louder_are_never_sent_in_bursts() {
        let site = demo::with_disc();
        assert!(keys(&site, ids::screen()).is_empty());
        let keys = keys(&site, ids::receiver());
        let profile = site.profile_of(ids::receiver()).unwrap();
        let volume = profile.volume.unwrap();
        assert!(keys.contains(&volume.down) && !keys.contains(&volume.up));
        let (on, off) = profile.power_keys().unwrap();
        assert!(!keys.contains(&on) && !keys.contains(&off));
    }

    proptest! {
        #[test]
        fn it_ends_no_shorter_than_the_device_needs(needs in LEAST_MS..=SLOW_MS) {
            let (end, tried) = found_on(needs);
            let NextBurst::Found { clean_ms, pause_ms } = end else { return Err(TestCaseError::fail(format!("{end:?}"))) };
            prop_assert!(clean_ms >= needs && pause_ms >= clean_ms);
            prop_assert!(clean_ms < needs * 3 / 2 + 2, "{clean_ms} for {needs}");
            let clean = tried.iter().filter(|one| one.pause_ms == clean_ms && one.sent == one.counted).count();
            prop_assert!(clean >= CLEAN_BURSTS || clean_ms == SLOW_MS);
        }

        #[test]
        fn a_number_is_never_held_open_longer_than_the_device_does(closes in NUMBER_MS..=PAUSE_MAX_MS) {
            let (end, _) = longest_of(closes);
            let NextBurst::Found { clean_ms, pause_ms } = end else { return Err(TestCaseError::fail(format!("{end:?}"))) };
            prop_assert!(clean_ms <= closes && pause_ms <= clean_ms);
            prop_assert!(clean_ms * 3 / 2 + 2 > closes, "{clean_ms} for {closes}");
        }
    }
}
