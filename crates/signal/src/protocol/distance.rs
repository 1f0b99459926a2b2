//! Pulse distance: every bit is a mark of 1 unit and a space of 1 (0) or 3 (1) units.

use super::Misfit;

/// What mark stretch is believed, in µs: receivers do −60 to +150, and a clock that is 3 % off adds
/// up to 50 to the estimate.
pub(super) const STRETCH_US: std::ops::RangeInclusive<i32> = -150..=250;

/// The shape of a pulse-distance frame.
pub(super) struct Distance {
    /// The unit in ns.
    pub unit_ns: i32,
    /// Leader mark and space in units; (0, 0) where there is none.
    pub leader: (i32, i32),
    /// How many bits.
    pub bits: usize,
}

impl Distance {
    /// The bits of `frame`, the first sent in bit 0.
    ///
    /// The stretch is taken from the mean of the bits' marks, which are all one unit; a space is then
    /// a 0 below 2 units and a 1 above.
    pub(super) fn decode(&self, frame: &[u32]) -> Result<u64, Misfit> {
        let lead = if self.leader.0 > 0 { 2 } else { 0 };
        let expected = lead + 2 * self.bits + 1;
        if frame.len() != expected {
            return Err(self.leader_misfit(frame).unwrap_or(Misfit::Count { expected, found: frame.len() }));
        }
        let body = &frame[lead..];
        let unit = self.unit_ns / 1000;
        let mut sum = 0i32;
        for pair in body.chunks(2) {
            sum += clamped(pair[0]);
        }
        let stretch = sum / (self.bits as i32 + 1) - unit;
        if let Some(misfit) = self.leader_misfit(frame) {
            return Err(misfit);
        }
        if !STRETCH_US.contains(&stretch) {
            return Err(Misfit::Stretch { us: stretch });
        }
        let slack = unit * 9 / 20;
        let (mark_low, mark_high) = (unit + stretch - slack, unit + stretch + slack);
        let (space_low, space_high) = (unit - stretch - slack, 3 * unit - stretch + unit * 3 / 4);
        let threshold = 2 * unit - stretch;
        let mut value = 0u64;
        for (bit, pair) in body.chunks_exact(2).enumerate() {
            let (mark, space) = (clamped(pair[0]), clamped(pair[1]));
            if mark < mark_low || mark > mark_high {
                return Err(Misfit::Duration { index: lead + 2 * bit, us: pair[0] });
            }
            // 2 units ± 1/5 belongs to neither.
            if space < space_low || space > space_high || (space - threshold).abs() < unit / 5 {
                return Err(Misfit::Duration { index: lead + 2 * bit + 1, us: pair[1] });
            }
            value |= u64::from(space > threshold) << bit;
        }
        let stop = clamped(body[body.len() - 1]);
        if stop < mark_low || stop > mark_high {
            return Err(Misfit::Duration { index: frame.len() - 1, us: body[body.len() - 1] });
        }
        Ok(value)
    }

    /// The leader within a fifth of its nominal length, and the stretch on top.
    fn leader_misfit(&self, frame: &[u32]) -> Option<Misfit> {
        let (mark, space) = (self.leader.0 * self.unit_ns / 1000, self.leader.1 * self.unit_ns / 1000);
        if mark == 0 {
            return None;
        }
        let found = (frame.first().copied().unwrap_or(0), frame.get(1).copied().unwrap_or(0));
        let near = |us: u32, nominal: i32| (clamped(us) - nominal).abs() <= nominal / 5 + 150;
        if near(found.0, mark) && near(found.1, space) {
            return None;
        }
        Some(Misfit::Leader { found, expected: (mark.unsigned_abs(), space.unsigned_abs()) })
    }
}

pub(super) fn clamped(us: u32) -> i32 {
    i32::try_from(us).unwrap_or(i32::MAX / 4).min(i32::MAX / 4)
}
