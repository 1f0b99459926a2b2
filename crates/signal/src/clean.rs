//! Taking a capture apart: stray blips out, frames split at long silences.

use super::Capture;
use serde::Serialize;
use utoipa::ToSchema;

/// A silence at least this long ends a frame, in µs. The longest space inside a frame is a 4.5 ms
/// leader; the shortest silence between frames is 6.6 ms (`sirc-20` with every bit set).
pub const FRAME_GAP_US: u32 = 5_600;

/// A mark shorter than this with long silence on both sides is a stray blip, in µs: shorter than the
/// shortest mark of any protocol here (`kaseikyo`, 432 µs) shrunk by the worst receiver.
pub const BLIP_US: u32 = 250;

/// A glitch inside a frame, in µs: no receiver follows the carrier that fast.
const GLITCH_US: u32 = 90;

/// What may be a glitch where a capture cannot be read otherwise, in µs: still shorter than the shortest mark or space of any
/// protocol here, shrunk by the worst receiver.
const LONG_GLITCH_US: u32 = 200;

/// A space this long after a stray mark that opens a frame parts the two, in µs: no frame opens with so short a mark and so
/// long a space.
const PARTED_US: u32 = 1_000;

/// One frame: marks and spaces from its first mark to its last.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Frame<'a> {
    /// Durations in µs, a mark first and a mark last.
    pub durations_us: &'a [u32],
    /// When it starts, in µs from the start of the cleaned capture.
    pub start_us: u64,
    /// The silence after it in µs; `None` where the capture ends.
    pub gap_us: Option<u32>,
}

/// A capture without blips, and what was taken out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Cleaned {
    /// Durations in µs: mark, space, …, a mark first and a mark last.
    pub durations_us: Vec<u32>,
    /// Sentences on what was taken out.
    pub removed: Vec<String>,
}

/// Takes stray blips and glitches out.
#[must_use]
pub fn clean(capture: &Capture) -> Cleaned {
    clean_of(capture, GLITCH_US)
}

/// The same for a capture that says nothing as it is: longer glitches are taken out too.
#[must_use]
pub(crate) fn clean_harder(capture: &Capture) -> Cleaned {
    clean_of(capture, LONG_GLITCH_US)
}

fn clean_of(capture: &Capture, glitch_us: u32) -> Cleaned {
    let source = capture.durations_us();
    let mut kept: Vec<u32> = Vec::with_capacity(source.len());
    let (mut blips, mut glitches) = (0, 0);
    let mut index = 0;
    while index < source.len() {
        let us = source[index];
        let is_mark = index % 2 == 0;
        let before = if kept.is_empty() { u32::MAX } else { *kept.last().unwrap_or(&u32::MAX) };
        let after = source.get(index + 1).copied();
        let short = is_mark && us < BLIP_US;
        // Alone before a frame, or after one, or with silence on both sides.
        let opens = before >= FRAME_GAP_US && after.is_none_or(|gap| gap >= PARTED_US);
        let closes = before >= PARTED_US && after.is_none_or(|gap| gap >= FRAME_GAP_US);
        let alone = short && (opens || (closes && !kept.is_empty()));
        let glitch = us < glitch_us && !kept.is_empty() && after.is_some() && !alone;
        if alone && (after.is_some() || !kept.is_empty()) {
            blips += 1;
            if let (Some(last), Some(gap)) = (kept.last_mut(), after) {
                *last = last.saturating_add(us).saturating_add(gap);
            }
            index += 2;
        } else if glitch {
            glitches += 1;
            if let (Some(last), Some(next)) = (kept.last_mut(), after) {
                *last = last.saturating_add(us).saturating_add(next);
            }
            index += 2;
        } else {
            kept.push(us);
            index += 1;
        }
    }
    if kept.len().is_multiple_of(2) {
        kept.pop();
    }
    let mut removed = Vec::new();
    if blips > 0 {
        removed.push(format!(
            "{blips} stray {} taken out (under {BLIP_US} µs, alone).",
            plural(blips, "blip was", "blips were")
        ));
    }
    if glitches > 0 {
        removed.push(format!(
            "{glitches} {} inside a frame closed (under {glitch_us} µs).",
            plural(glitches, "glitch was", "glitches were")
        ));
    }
    Cleaned { durations_us: kept, removed }
}

fn plural<'a>(n: usize, one: &'a str, many: &'a str) -> &'a str {
    if n == 1 { one } else { many }
}

impl Cleaned {
    /// The frames, in order of time.
    #[must_use]
    pub fn frames(&self) -> Vec<Frame<'_>> {
        let mut frames = Vec::new();
        let (mut start, mut clock, mut start_us) = (0, 0, 0);
        for (index, &us) in self.durations_us.iter().enumerate() {
            clock += u64::from(us);
            let gap = index % 2 == 1 && us >= FRAME_GAP_US;
            if gap {
                frames.push(Frame { durations_us: &self.durations_us[start..index], start_us, gap_us: Some(us) });
                (start, start_us) = (index + 1, clock);
            }
        }
        if start < self.durations_us.len() {
            frames.push(Frame { durations_us: &self.durations_us[start..], start_us, gap_us: None });
        }
        frames
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn cleaned(durations: &[u32]) -> Cleaned {
        clean(&Capture::new(durations.to_vec(), None).unwrap())
    }

    #[rstest]
    #[case::leading_blip(&[143, 19_687, 9000, 4500, 560], &[9000, 4500, 560], 1)]
    #[case::trailing_blip(&[9000, 4500, 560, 20_000, 120], &[9000, 4500, 560], 1)]
    #[case::blip_between_frames(&[900, 900, 900, 20_000, 100, 30_000, 900], &[900, 900, 900, 50_100, 900], 1)]
    #[case::a_blip_just_before_a_frame(&[143, 3_000, 9000, 4500, 560], &[9000, 4500, 560], 1)]
    #[case::a_blip_just_after_a_frame(&[9000, 4500, 560, 3_000, 120, 30_000, 9000, 4500, 560], &[9000, 4500, 560, 33_120, 9000, 4500, 560], 1)]
    #[case::glitch_in_a_mark(&[5000, 40, 3960, 4500, 560], &[9000, 4500, 560], 1)]
    #[case::nothing_to_do(&[9000, 4500, 560], &[9000, 4500, 560], 0)]
    #[case::last_gap_left_out(&[9000, 4500, 560, 40_000], &[9000, 4500, 560], 0)]
    fn blips_go_and_marks_stay(#[case] durations: &[u32], #[case] kept: &[u32], #[case] remarks: usize) {
        let cleaned = cleaned(durations);
        assert_eq!(cleaned.durations_us, kept);
        assert_eq!(cleaned.removed.len(), remarks);
    }

    #[test]
    fn a_lone_short_mark_is_all_there_is_and_stays() {
        assert_eq!(cleaned(&[120]).durations_us, [120]);
    }

    #[test]
    fn frames_are_split_at_long_silences_and_keep_their_start() {
        let cleaned = cleaned(&[2400, 600, 1200, 26_000, 2400, 600, 1200]);
        let frames = cleaned.frames();
        assert_eq!(frames.len(), 2);
        assert_eq!(frames[0].gap_us, Some(26_000));
        assert_eq!((frames[1].start_us, frames[1].gap_us), (30_200, None));
    }
}
