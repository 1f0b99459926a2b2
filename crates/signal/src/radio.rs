//! Fixed codes by radio at 433.92 MHz: on-off keying, one short unit *a* of typically 250–500 µs.
//!
//! | code | sync | 0 | 1 | F |
//! | --- | --- | --- | --- | --- |
//! | `ook-24` | a high, 31a low | a high, 3a low | 3a high, a low | |
//! | `ook-tristate-12` | the same | two 0 pulses | two 1 pulses | a 0 pulse, then a 1 pulse |
//!
//! `ook-24` is 20 bits of identity and 4 of key, the first sent most significant. Frames repeat at
//! least 4 times. Every legal tristate frame is a legal `ook-24` frame too: both readings are given,
//! tristate first. Source: *from memory*.
//!
//! A payload that changes from press to press is a rolling code: it is recognised and refused, because
//! replaying it would open a door or a gate for whoever holds the recording, and only once.

use super::Capture;
use serde::{Deserialize, Serialize};
use std::fmt;
use thiserror::Error;
use utoipa::ToSchema;

/// How many frames a press has at least.
pub const LEAST_FRAMES: u32 = 4;

/// The unit that is sent where none is known, in µs (*common practice*).
pub const USUAL_UNIT_US: u32 = 350;

/// What units are believed, in µs.
pub const UNITS_US: std::ops::RangeInclusive<u32> = 150..=700;

/// One of three states.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
pub enum Trit {
    /// Both pulses short.
    #[serde(rename = "0")]
    Zero,
    /// Both pulses long.
    #[serde(rename = "1")]
    One,
    /// A short and a long pulse: the pin was left open.
    #[serde(rename = "F")]
    Float,
}

/// What a radio key says.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "code")]
pub enum RadioCode {
    /// 24 bits.
    #[serde(rename = "ook-24")]
    Ook24 {
        /// Which remote, 0–1048575.
        identity: u32,
        /// Which key, 0–15.
        key: u32,
    },
    /// 12 trits.
    #[serde(rename = "ook-tristate-12")]
    Tristate12 {
        /// In the order of sending.
        trits: [Trit; 12],
    },
}

/// A capture that reads as a fixed code.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RadioReading {
    /// The code; where a tristate reading is possible it comes first.
    pub candidates: Vec<RadioCode>,
    /// The short unit, in µs.
    pub unit_us: f64,
    /// How many frames say so.
    pub frames: usize,
    /// How many frames say something else or were damaged.
    pub strays: usize,
    /// By how much the receiver makes pulses longer than they were sent, in µs.
    pub stretch_us: f64,
    /// 0–1: how far the worst pulse is from reading differently, times the share of frames that say the same; halved where only
    /// one frame says it.
    pub confidence: f64,
    /// Sentences on what else was seen.
    pub remarks: Vec<String>,
}

/// Why captures are no fixed code.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum RadioError {
    /// No sync.
    #[error(
        "No frame was found: a fixed code opens with a short pulse and 31 times as much silence. Hold the key longer, closer to the learner."
    )]
    NoSync,
    /// A sync, but what follows is no 24 pulses.
    #[error(
        "A frame starts but does not hold 24 clear pulses. Hold the key closer to the learner, away from other radio."
    )]
    Damaged,
    /// Two presses say different things.
    #[error(
        "This is a rolling code: {changed} of 24 bits changed between two presses of one key. It is not stored and cannot be replayed. Use the maker's own receiver, or a contact output of it."
    )]
    Rolling {
        /// How many bits changed.
        changed: u32,
    },
    /// One press is not enough to tell.
    #[error("One press cannot tell a fixed code from a rolling one. Press the same key again.")]
    OnePress,
    /// A value outside of its range.
    #[error("{0}")]
    Range(&'static str),
}

impl RadioCode {
    /// A 24-bit code.
    ///
    /// # Errors
    /// Where identity (20 bits) or key (4 bits) are out of range.
    pub fn ook24(identity: u32, key: u32) -> Result<Self, RadioError> {
        if identity >= 1 << 20 {
            return Err(RadioError::Range("The identity has 20 bits: 0 to 1048575."));
        }
        if key >= 16 {
            return Err(RadioError::Range("The key has 4 bits: 0 to 15."));
        }
        Ok(Self::Ook24 { identity, key })
    }

    /// The 24 pulses, the first sent in the highest bit: 1 is a long pulse.
    #[must_use]
    pub fn pulses(&self) -> u32 {
        match self {
            Self::Ook24 { identity, key } => (identity & 0xf_ffff) << 4 | (key & 15),
            Self::Tristate12 { trits } => trits.iter().fold(0, |bits, trit| {
                bits << 2
                    | match trit {
                        Trit::Zero => 0b00,
                        Trit::One => 0b11,
                        Trit::Float => 0b01,
                    }
            }),
        }
    }

    /// Every code that these pulses can be, tristate first.
    #[must_use]
    pub fn of_pulses(pulses: u32) -> Vec<Self> {
        let mut codes = Vec::new();
        let mut trits = [Trit::Zero; 12];
        let legal = trits.iter_mut().enumerate().all(|(place, trit)| {
            match pulses >> (22 - 2 * place) & 3 {
                0b00 => *trit = Trit::Zero,
                0b11 => *trit = Trit::One,
                0b01 => *trit = Trit::Float,
                _ => return false,
            }
            true
        });
        if legal {
            codes.push(Self::Tristate12 { trits });
        }
        codes.push(Self::Ook24 { identity: pulses >> 4 & 0xf_ffff, key: pulses & 15 });
        codes
    }

    /// Marks and spaces in µs of a press: each frame a sync and 24 pulses, then a closing sync's mark.
    #[must_use]
    pub fn encode(&self, unit_us: u32, frames: u32) -> Vec<u32> {
        let pulses = self.pulses();
        let mut durations = Vec::new();
        for _ in 0..frames.max(LEAST_FRAMES) {
            durations.extend([unit_us, 31 * unit_us]);
            for bit in (0..24).rev() {
                let long = pulses >> bit & 1 == 1;
                durations.extend(if long { [3 * unit_us, unit_us] } else { [unit_us, 3 * unit_us] });
            }
        }
        durations.extend([unit_us, 31 * unit_us]);
        durations
    }
}

impl fmt::Display for RadioCode {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Ook24 { identity, key } => write!(f, "ook-24 identity={identity} key={key}"),
            Self::Tristate12 { trits } => {
                f.write_str("ook-tristate-12 ")?;
                trits.iter().try_for_each(|trit| {
                    f.write_str(match trit {
                        Trit::Zero => "0",
                        Trit::One => "1",
                        Trit::Float => "F",
                    })
                })
            }
        }
    }
}

/// Reads a capture of one press.
///
/// # Errors
/// Where there is no sync, or no frame is whole.
pub fn read(capture: &Capture) -> Result<RadioReading, RadioError> {
    let durations = capture.durations_us();
    let mut seen: Vec<Seen> = Vec::new();
    let (mut syncs, mut strays) = (0, 0);
    let mut at = 0;
    while at + 1 < durations.len() {
        if !is_sync(durations[at], durations[at + 1]) {
            at += 2;
            continue;
        }
        syncs += 1;
        match frame(&durations[at + 2..]) {
            Some(read) => {
                seen.push(read);
                at += 2 + 48;
            }
            // What follows the last sync is silence and no damage.
            None if durations.len() - at > 48 => {
                strays += 1;
                at += 2;
            }
            None => at += 2,
        }
    }
    if syncs == 0 {
        return Err(RadioError::NoSync);
    }
    let says = |pulses: u32| seen.iter().filter(move |other| other.pulses == pulses);
    let best =
        seen.iter().map(|frame| frame.pulses).max_by_key(|&pulses| says(pulses).count()).ok_or(RadioError::Damaged)?;
    let frames = says(best).count();
    let mean = |of: fn(&Seen) -> f64| says(best).map(of).sum::<f64>() / frames as f64;
    let strays = strays + seen.len() - frames;
    let surest = says(best).map(|frame| frame.confidence).fold(0.0, f64::max);
    let share = frames as f64 / (frames + strays) as f64;
    let mut remarks = Vec::new();
    if frames == 1 {
        remarks
            .push("One frame only: nothing confirms it. Hold the key until several frames have been heard.".to_owned());
    }
    if strays > 0 {
        remarks.push(format!("{strays} of {} frames say something else or were damaged.", frames + strays));
    }
    Ok(RadioReading {
        candidates: RadioCode::of_pulses(best),
        unit_us: mean(|frame| frame.unit_us),
        frames,
        strays,
        stretch_us: mean(|frame| frame.stretch_us),
        confidence: (surest * share * if frames == 1 { 0.5 } else { 1.0 }).clamp(0.0, 1.0),
        remarks,
    })
}

/// A short pulse and 31 times as much silence: 32 units together, however the receiver stretches the pulse.
fn is_sync(high: u32, low: u32) -> bool {
    let unit = (f64::from(high) + f64::from(low)) / 32.0;
    let units = f64::from(*UNITS_US.start())..=f64::from(*UNITS_US.end());
    units.contains(&unit) && (0.35 * unit..=1.7 * unit).contains(&f64::from(high))
}

/// One frame as it was heard.
#[derive(Debug, Clone, Copy)]
struct Seen {
    pulses: u32,
    unit_us: f64,
    stretch_us: f64,
    confidence: f64,
}

/// 24 pulses, high and low each. A receiver makes highs longer and lows shorter by as much: that is estimated and taken out. The
/// last low may be longer: silence follows.
fn frame(durations: &[u32]) -> Option<Seen> {
    if durations.len() < 47 {
        return None;
    }
    let highs: Vec<f64> = durations.iter().step_by(2).take(24).map(|&us| f64::from(us)).collect();
    let lows: Vec<f64> = durations.iter().skip(1).step_by(2).take(23).map(|&us| f64::from(us)).collect();
    // A bit lasts four units whatever it says, and however it is stretched.
    let unit = highs.iter().zip(&lows).map(|(high, low)| high + low).sum::<f64>() / (4.0 * 23.0);
    if !(f64::from(*UNITS_US.start()) * 0.8..=f64::from(*UNITS_US.end()) * 1.2).contains(&unit) {
        return None;
    }
    let nominal = |long: bool| if long { 3.0 * unit } else { unit };
    let mut stretch = 0.0;
    // The second round sees what the first one has found.
    for _ in 0..2 {
        stretch = highs.iter().map(|high| high - nominal(high - stretch > 2.0 * unit)).sum::<f64>() / 24.0;
    }
    if stretch.abs() > STRETCH_MOST * unit {
        return None;
    }
    let (mut pulses, mut worst) = (0u32, 0.0f64);
    for (bit, high) in highs.iter().enumerate() {
        let long = high - stretch > 2.0 * unit;
        worst = worst.max((high - stretch - nominal(long)).abs());
        if let Some(low) = lows.get(bit) {
            worst = worst.max((low + stretch - nominal(!long)).abs());
        }
        pulses = pulses << 1 | u32::from(long);
    }
    // Half of the way between a short pulse and a long one is one unit.
    (worst < WORST * unit).then_some(Seen {
        pulses,
        unit_us: unit,
        stretch_us: stretch,
        confidence: 1.0 - worst / unit,
    })
}

/// A receiver stretches by no more than this share of the unit.
const STRETCH_MOST: f64 = 0.6;

/// A pulse that is off by more than this share of the unit is none.
const WORST: f64 = 0.75;

/// Two or more presses of one key: the code, if it is a fixed one.
///
/// # Errors
/// [`RadioError::Rolling`] where the presses differ, [`RadioError::OnePress`] where there is only one.
pub fn read_presses(presses: &[Capture]) -> Result<RadioReading, RadioError> {
    let readings: Vec<RadioReading> = presses.iter().map(read).collect::<Result<_, _>>()?;
    let [first, rest @ ..] = &readings[..] else { return Err(RadioError::OnePress) };
    if rest.is_empty() {
        return Err(RadioError::OnePress);
    }
    let pulses = |reading: &RadioReading| reading.candidates.first().map_or(0, RadioCode::pulses);
    let changed = rest.iter().map(|other| (pulses(first) ^ pulses(other)).count_ones()).max().unwrap_or(0);
    if changed > 0 {
        return Err(RadioError::Rolling { changed });
    }
    Ok(first.clone())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn capture(durations: Vec<u32>) -> Capture {
        Capture::new(durations, None).unwrap()
    }

    #[test]
    fn a_frame_looks_as_the_table_says() {
        let press = RadioCode::ook24(1, 8).unwrap().encode(300, 4);
        assert_eq!(press[..4], [300, 9_300, 300, 900], "sync, then a 0");
        // Bit 20 of 24 is the identity's last: a 1 is long, then short.
        assert_eq!(press[2 + 2 * 19..2 + 2 * 21], [900, 300, 900, 300]);
        assert_eq!(press.len(), 4 * 50 + 2);
    }

    #[test]
    fn a_press_has_four_frames_at_least() {
        let code = RadioCode::ook24(5, 1).unwrap();
        assert_eq!(code.encode(350, 1), code.encode(350, LEAST_FRAMES));
        assert_eq!(read(&capture(code.encode(350, 1))).unwrap().frames, 4);
    }

    #[test]
    fn one_frame_only_is_said_and_worth_half() {
        let code = RadioCode::ook24(5, 1).unwrap();
        let one = read(&capture(code.encode(350, 4)[..50].to_vec())).unwrap();
        assert_eq!((one.frames, one.candidates[1]), (1, code));
        assert!(one.confidence <= 0.5 && one.remarks[0].starts_with("One frame only"), "{one:?}");
        let whole = read(&capture(code.encode(350, 4))).unwrap();
        assert!(whole.confidence > 0.99 && whole.remarks.is_empty(), "{whole:?}");
    }

    #[rstest]
    #[case([Trit::Zero; 12], "ook-tristate-12 000000000000")]
    #[case([Trit::Float; 12], "ook-tristate-12 FFFFFFFFFFFF")]
    fn a_legal_tristate_frame_reads_as_both_tristate_first(#[case] trits: [Trit; 12], #[case] text: &str) {
        let code = RadioCode::Tristate12 { trits };
        let reading = read(&capture(code.encode(USUAL_UNIT_US, 4))).unwrap();
        assert_eq!(reading.candidates.len(), 2);
        assert_eq!(reading.candidates[0].to_string(), text);
        assert_eq!(reading.candidates[0].pulses(), reading.candidates[1].pulses());
    }

    #[test]
    fn a_long_then_short_pair_is_no_trit() {
        let code = RadioCode::ook24(0b10 << 18, 0).unwrap();
        let reading = read(&capture(code.encode(350, 4))).unwrap();
        assert_eq!(reading.candidates, [code]);
    }

    #[test]
    fn a_code_that_changes_between_presses_is_refused() {
        let presses = [0x5a3c1, 0x1f7e2].map(|id| capture(RadioCode::ook24(id, 1).unwrap().encode(350, 4)));
        let error = read_presses(&presses).unwrap_err();
        assert!(matches!(error, RadioError::Rolling { changed } if changed > 3));
        assert!(error.to_string().contains("cannot be replayed"));
    }

    #[test]
    fn two_equal_presses_are_a_fixed_code_and_one_is_not_enough() {
        let press = capture(RadioCode::ook24(0x5a3c1, 1).unwrap().encode(350, 4));
        assert_eq!(read_presses(std::slice::from_ref(&press)), Err(RadioError::OnePress));
        assert_eq!(read_presses(&[]), Err(RadioError::OnePress));
        assert_eq!(read_presses(&[press.clone(), press]).unwrap().frames, 4);
    }

    #[rstest]
    #[case::silence(vec![350, 500_000], RadioError::NoSync)]
    #[case::infrared(vec![9000, 4500, 560, 560, 560, 1690], RadioError::NoSync)]
    #[case::cut_short([vec![350, 10_850], [350, 1050].repeat(10)].concat(), RadioError::Damaged)]
    #[case::no_pulses([vec![350, 10_850], [350, 350].repeat(40)].concat(), RadioError::Damaged)]
    fn what_is_no_code_says_why(#[case] durations: Vec<u32>, #[case] expected: RadioError) {
        assert_eq!(read(&capture(durations)), Err(expected));
    }

    #[rstest]
    #[case(1 << 20, 0, "20 bits")]
    #[case(0, 16, "4 bits")]
    fn values_out_of_range_are_refused(#[case] identity: u32, #[case] key: u32, #[case] expected: &str) {
        assert!(RadioCode::ook24(identity, key).unwrap_err().to_string().contains(expected));
    }

    proptest! {
        #[test]
        fn encode_then_read_is_identity(
            pulses in 0u32..1 << 24,
            unit in 250u32..=500,
            jitter in prop::collection::vec(-30i32..=30, 210),
        ) {
            let code = RadioCode::of_pulses(pulses)[0];
            let heard = code.encode(unit, 4).iter().zip(jitter).map(|(&us, j)| us.saturating_add_signed(j)).collect();
            let reading = read(&capture(heard)).unwrap();
            prop_assert_eq!(reading.candidates[0], code);
            prop_assert_eq!(reading.frames, 4);
            prop_assert!((reading.unit_us - f64::from(unit)).abs() < 12.0);
        }

        /// A receiver that stretches is estimated and taken out.
        #[test]
        fn stretch_is_compensated(pulses in 0u32..1 << 24, unit in 250u32..=500, stretch in -60i32..=120) {
            let code = RadioCode::of_pulses(pulses)[0];
            let sign = |at: usize| if at.is_multiple_of(2) { stretch } else { -stretch };
            let press = code.encode(unit, 4).into_iter().enumerate();
            let heard = press.map(|(at, us)| us.saturating_add_signed(sign(at)).max(1)).collect();
            let reading = read(&capture(heard)).unwrap();
            prop_assert_eq!(reading.candidates[0], code);
            prop_assert!((reading.stretch_us - f64::from(stretch)).abs() < 3.0, "{}", reading.stretch_us);
            prop_assert!(reading.confidence > 0.95, "{}", reading.confidence);
        }

        #[test]
        fn every_reading_has_the_same_pulses(pulses in 0u32..1 << 24) {
            for code in RadioCode::of_pulses(pulses) {
                prop_assert_eq!(code.pulses(), pulses);
            }
        }

        #[test]
        fn a_lost_frame_is_counted_and_the_rest_still_read(pulses in 0u32..1 << 24, damaged in 0usize..4) {
            let code = RadioCode::of_pulses(pulses)[0];
            let mut press = code.encode(350, 4);
            press[damaged * 50 + 12] = 5;
            let reading = read(&capture(press)).unwrap();
            prop_assert_eq!(reading.candidates[0], code);
            prop_assert!(reading.frames >= 2);
        }

        #[test]
        fn no_capture_panics(durations in prop::collection::vec(1u32..60_000, 1..200)) {
            let _ = read(&capture(durations));
        }
    }
}
