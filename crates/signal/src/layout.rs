//! A frame as its protocol draws it: marks and spaces in units, each with the part it plays.

use serde::Serialize;
use utoipa::ToSchema;

/// What a stretch of a frame stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// The opening that wakes the receiver's gain control.
    Leader,
    /// One bit, counted from 0 in the order of sending.
    Bit {
        /// Position in the frame.
        index: u8,
        /// The field it belongs to; a leading `~` marks a complement.
        label: &'static str,
        /// Its value.
        value: bool,
    },
    /// The mark that closes the last space.
    Stop,
}

/// One mark or space of nominal length.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Chip {
    mark: bool,
    units: u16,
    part: Part,
}

/// A frame in units.
#[derive(Debug, Clone, PartialEq)]
pub struct Layout {
    unit_us: f64,
    chips: Vec<Chip>,
}

/// A stretch of time that stands for one part, in µs from the start of the frame.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PartSpan {
    /// `leader`, `stop`, or the field's name (with a leading `~` for its complement).
    pub label: &'static str,
    /// The bit's place in the frame, counted from 0 in the order of sending.
    pub bit: Option<u8>,
    /// The bit's value.
    pub value: Option<bool>,
    /// Start, in µs.
    pub from_us: f64,
    /// End, in µs.
    pub to_us: f64,
}

impl Layout {
    /// An empty frame whose unit lasts `unit_us` µs.
    #[must_use]
    pub fn new(unit_us: f64) -> Self {
        Self { unit_us, chips: Vec::with_capacity(128) }
    }

    /// Adds a mark of `mark` units and a space of `space` units that play `part` (0 leaves one out).
    pub fn pair(&mut self, mark: u16, space: u16, part: Part) {
        self.push(true, mark, part);
        self.push(false, space, part);
    }

    /// Adds a mark or a space of `units` units.
    pub fn push(&mut self, mark: bool, units: u16, part: Part) {
        if units > 0 {
            self.chips.push(Chip { mark, units, part });
        }
    }

    /// One bit in pulse distance: a mark of 1 unit, then a space of 1 (0) or 3 (1).
    pub fn distance_bit(&mut self, index: usize, label: &'static str, value: bool) {
        self.pair(1, if value { 3 } else { 1 }, bit(index, label, value));
    }

    /// One bit in two halves of `units` units, `first` telling whether it opens with a mark.
    pub fn biphase_bit(&mut self, index: usize, label: &'static str, value: bool, first: bool, units: u16) {
        let part = bit(index, label, value);
        self.push(first, units, part);
        self.push(!first, units, part);
    }

    /// Durations in µs, a mark first and a mark last: neighbours of the same kind joined, edges
    /// rounded cumulatively. A space at either end belongs to the silence around the frame.
    #[must_use]
    pub fn durations_us(&self) -> Vec<u32> {
        let mut durations = Vec::with_capacity(self.chips.len());
        let (mut units, mut edge, mut level) = (0u32, 0u32, None);
        for chip in self.sounding() {
            if level.is_some_and(|mark| mark != chip.mark) {
                let at = self.rounded(units);
                durations.push(at - edge);
                edge = at;
            }
            level = Some(chip.mark);
            units += u32::from(chip.units);
        }
        durations.push(self.rounded(units) - edge);
        durations
    }

    /// The part of every mark and space, in order.
    pub fn parts(&self) -> impl Iterator<Item = Part> + '_ {
        self.chips.iter().map(|chip| chip.part)
    }

    /// Nominal length from the first mark's start to the last mark's end, in µs.
    #[must_use]
    pub fn length_us(&self) -> u32 {
        self.rounded(self.sounding().map(|chip| u32::from(chip.units)).sum())
    }

    #[expect(
        clippy::cast_possible_truncation,
        clippy::cast_sign_loss,
        reason = "a frame is far shorter than u32::MAX µs"
    )]
    fn rounded(&self, units: u32) -> u32 {
        (f64::from(units) * self.unit_us).round() as u32
    }

    fn sounding(&self) -> impl Iterator<Item = &Chip> {
        let from = self.chips.iter().position(|chip| chip.mark).unwrap_or(0);
        let to = self.chips.iter().rposition(|chip| chip.mark).map_or(0, |at| at + 1);
        self.chips[from.min(to)..to].iter()
    }

    /// The parts laid over `measured` durations; `ideal` are those of [`Self::durations_us`], of the same
    /// number. Where a boundary falls inside one duration it is placed in proportion.
    #[must_use]
    pub fn spans_over(&self, ideal: &[u32], measured: &[u32]) -> Vec<PartSpan> {
        let edges = |durations: &[u32]| {
            let mut at = 0.0;
            let mut edges = Vec::with_capacity(durations.len() + 1);
            edges.push(0.0);
            edges.extend(durations.iter().map(|&us| {
                at += f64::from(us);
                at
            }));
            edges
        };
        let (ideal, real) = (edges(ideal), edges(measured));
        // Boundaries come in order of time: the search goes on where the last one ended.
        let mut segment = 1;
        let mut place = |units: u32| {
            let at = f64::from(units) * self.unit_us;
            while segment + 1 < ideal.len() && ideal[segment] + 0.75 < at {
                segment += 1;
            }
            let share = (at - ideal[segment - 1]) / (ideal[segment] - ideal[segment - 1]);
            let (from, to) = (real[(segment - 1).min(real.len() - 1)], real[segment.min(real.len() - 1)]);
            from + share.clamp(0.0, 1.0) * (to - from)
        };
        let mut spans: Vec<PartSpan> = Vec::with_capacity(64);
        let (mut units, mut from_us, mut last) = (0u32, 0.0, None);
        for chip in self.sounding() {
            units += u32::from(chip.units);
            let to_us = place(units);
            match spans.last_mut() {
                Some(span) if last == Some(chip.part) => span.to_us = to_us,
                _ => spans.push(span(chip.part, from_us, to_us)),
            }
            last = Some(chip.part);
            from_us = to_us;
        }
        spans
    }
}

fn bit(index: usize, label: &'static str, value: bool) -> Part {
    Part::Bit { index: u8::try_from(index).unwrap_or(u8::MAX), label, value }
}

fn span(part: Part, from_us: f64, to_us: f64) -> PartSpan {
    let (label, bit, value) = match part {
        Part::Leader => ("leader", None, None),
        Part::Stop => ("stop", None, None),
        Part::Bit { index, label, value } => (label, Some(index), Some(value)),
    };
    PartSpan { label, bit, value, from_us, to_us }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn edges_are_rounded_cumulatively() {
        let mut layout = Layout::new(562.5);
        for index in 0..4 {
            layout.distance_bit(index, "address", false);
        }
        layout.push(true, 1, Part::Stop);
        // 562.5 µs a step: edges at 563, 1125, 1688, 2250 … and never half a microsecond off.
        assert_eq!(layout.durations_us(), [563, 562, 563, 562, 563, 562, 563, 562, 563]);
        assert_eq!(layout.length_us(), 5063);
    }

    #[test]
    fn halves_of_the_same_kind_are_joined_and_spaces_at_the_ends_left_out() {
        let mut layout = Layout::new(889.0);
        layout.biphase_bit(0, "start", true, false, 1);
        layout.biphase_bit(1, "field", false, true, 1);
        assert_eq!(layout.durations_us(), [1778]);
    }

    #[test]
    fn a_boundary_inside_a_long_mark_is_placed_in_proportion() {
        let mut layout = Layout::new(1000.0);
        layout.biphase_bit(0, "a", true, false, 1);
        layout.biphase_bit(1, "b", false, true, 1);
        layout.biphase_bit(2, "c", false, true, 1);
        let spans = layout.spans_over(&layout.durations_us(), &[2200, 800, 1200]);
        assert_eq!(spans.iter().map(|s| s.label).collect::<Vec<_>>(), ["a", "b", "c"]);
        assert!((spans[0].to_us - 1100.0).abs() < 1.0, "{spans:?}");
        assert!((spans[1].to_us - 3000.0).abs() < 1.0, "{spans:?}");
    }
}
