//! The gap finder: the shortest pause between commands that a device follows.
//!
//! Bursts of presses of a key whose effect can be counted are sent at a pause; the count that was seen is typed. What the
//! path itself loses is measured first, at one second between presses. Then the pause is halved until presses are lost, and
//! bisected by √2 between the last clean and the first lossy one. The shortest pause with three clean bursts, times 1.25, is
//! what a plan waits (*common practice*; three clean bursts of six say no more than that at most one press in five is lost).

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
    }
}
