//! Biphase: every bit has two halves, one a mark and one a space, so that a frame holds a fixed
//! number of marked units whatever it says. That is where the stretch is taken from.

use super::Misfit;
use super::distance::{STRETCH_US, clamped};

/// Half-bits of a frame, a mark is 1, the first in the highest of `count` bits.
pub(super) struct Halves {
    bits: u128,
    count: u32,
}

impl Halves {
    /// Cuts `frame` into units of `unit_ns` ns, given that `marked` of them are marks. Durations may
    /// be up to `longest` units. `lead` spaces are missing at the front.
    pub(super) fn cut(frame: &[u32], unit_ns: i32, marked: i32, longest: i32, lead: u32) -> Result<Self, Misfit> {
        let marks: i32 = frame.iter().step_by(2).map(|&us| clamped(us).min(1_000_000)).sum();
        let count = i32::try_from(frame.len().div_ceil(2)).unwrap_or(i32::MAX);
        let stretch = (marks - marked * unit_ns / 1000) / count.max(1);
        if !STRETCH_US.contains(&stretch) {
            return Err(Misfit::Stretch { us: stretch });
        }
        let (mut bits, mut length) = (0u128, lead);
        for (index, &us) in frame.iter().enumerate() {
            let mark = index % 2 == 0;
            let ns = (clamped(us).min(1_000_000) - if mark { stretch } else { -stretch }) * 1000;
            let units = (ns + unit_ns / 2) / unit_ns;
            if units < 1 || units > longest || (ns - units * unit_ns).abs() > unit_ns * 2 / 5 {
                return Err(Misfit::Duration { index, us });
            }
            for _ in 0..units {
                bits = bits << 1 | u128::from(mark);
                length += 1;
            }
            if length > 120 {
                return Err(Misfit::Count { expected: 120, found: frame.len() });
            }
        }
        Ok(Self { bits, count: length })
    }

    /// Appends one space where a trailing one fell into the silence; errors where the length is wrong.
    pub(super) fn padded(mut self, expected: u32, durations: usize) -> Result<Self, Misfit> {
        if self.count + 1 == expected {
            self.bits <<= 1;
            self.count += 1;
        }
        if self.count == expected {
            Ok(self)
        } else {
            // A biphase frame of n halves has n/2 to n durations; report the middle.
            let middle = usize::try_from(expected).unwrap_or(0) * 3 / 4;
            Err(Misfit::Count { expected: middle, found: durations })
        }
    }

    /// How many units there are.
    pub(super) fn units(&self) -> u32 {
        self.count
    }

    /// The half at `at`, counted from the front.
    pub(super) fn at(&self, at: u32) -> bool {
        self.bits >> (self.count - 1 - at) & 1 == 1
    }

    /// The bit whose halves of `width` units start at `at`: does it open with a mark?
    pub(super) fn opens_with_mark(&self, at: u32, width: u32, bit: usize) -> Result<bool, Misfit> {
        let (first, second) = (self.at(at), self.at(at + width));
        let even = (1..width).all(|i| self.at(at + i) == first && self.at(at + width + i) == second);
        if first == second || !even { Err(Misfit::Halves { bit }) } else { Ok(first) }
    }
}
