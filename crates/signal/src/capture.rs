//! What a learner heard: marks and spaces in µs.

use serde::{Deserialize, Serialize};
use thiserror::Error;
use utoipa::ToSchema;

/// The longest single duration that is taken for a signal, in µs (10 s). Longer is a paused recorder.
pub const MAX_DURATION_US: u32 = 10_000_000;

/// The most durations one capture may hold; a minute of the densest protocol stays below it.
pub const MAX_DURATIONS: usize = 100_000;

/// Marks and spaces in µs, alternating, a mark first. The silence at the end may be missing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(try_from = "RawCapture")]
pub struct Capture {
    /// Carrier frequency in Hz, where the learner measured it.
    #[serde(skip_serializing_if = "Option::is_none")]
    carrier_hz: Option<u32>,
    /// Durations in µs: mark, space, mark, …
    durations_us: Vec<u32>,
}

#[derive(Deserialize)]
struct RawCapture {
    carrier_hz: Option<u32>,
    durations_us: Vec<u32>,
}

impl TryFrom<RawCapture> for Capture {
    type Error = CaptureError;

    fn try_from(raw: RawCapture) -> Result<Self, CaptureError> {
        Self::new(raw.durations_us, raw.carrier_hz)
    }
}

impl Capture {
    /// A capture of `durations_us` (mark first).
    ///
    /// # Errors
    /// Where there is none, too many, one of 0 or one over [`MAX_DURATION_US`], or where the carrier
    /// is not within 10–1000 kHz.
    pub fn new(durations_us: Vec<u32>, carrier_hz: Option<u32>) -> Result<Self, CaptureError> {
        if durations_us.is_empty() {
            return Err(CaptureError::Empty);
        }
        if durations_us.len() > MAX_DURATIONS {
            return Err(CaptureError::TooMany(durations_us.len()));
        }
        for (index, &us) in durations_us.iter().enumerate() {
            if us == 0 {
                return Err(CaptureError::Zero { position: index + 1 });
            }
            if us > MAX_DURATION_US {
                return Err(CaptureError::TooLong { position: index + 1, us: u64::from(us) });
            }
        }
        if let Some(hz) = carrier_hz
            && !(10_000..=1_000_000).contains(&hz)
        {
            return Err(CaptureError::Carrier(hz));
        }
        Ok(Self { carrier_hz, durations_us })
    }

    /// Durations in µs: mark, space, mark, …
    #[must_use]
    pub fn durations_us(&self) -> &[u32] {
        &self.durations_us
    }

    /// Carrier frequency in Hz, where known.
    #[must_use]
    pub fn carrier_hz(&self) -> Option<u32> {
        self.carrier_hz
    }

    /// The time from the first edge to the last, in µs.
    #[must_use]
    pub fn length_us(&self) -> u64 {
        self.durations_us.iter().map(|&us| u64::from(us)).sum()
    }
}

/// Why a text or a list of durations is no capture. Each message says what to do.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum CaptureError {
    /// Nothing there.
    #[error(
        "The capture is empty. Paste lines of “pulse 9024” and “space 4512”, or signed text such as “+9024 -4512”."
    )]
    Empty,
    /// More than a capture can hold.
    #[error(
        "The capture holds {0} durations; at most {MAX_DURATIONS} can be read. Keep one key press and remove the rest."
    )]
    TooMany(usize),
    /// More bytes than a capture can hold.
    #[error("The capture is {0} bytes long; at most 1 MB can be read. Keep one key press and remove the rest.")]
    TooLarge(usize),
    /// Not text.
    #[error(
        "This is not text (a byte 0 or an unreadable character stands at byte {0}). Export the capture as pulse/space text or signed text."
    )]
    Binary(usize),
    /// A duration of 0 µs.
    #[error(
        "Value {position} is 0 µs. Every mark and space lasts at least 1 µs; remove the value or learn the key again."
    )]
    Zero {
        /// Counted from 1.
        position: usize,
    },
    /// A duration of 0 µs, where lines are counted.
    #[error("Line {line}: a duration of 0 µs. Every mark and space lasts at least 1 µs; remove the line.")]
    ZeroLine {
        /// Counted from 1.
        line: usize,
    },
    /// Longer than a signal lasts.
    #[error(
        "Value {position} is {us} µs, longer than 10 s. Durations are in microseconds; cut the recording to one key press."
    )]
    TooLong {
        /// Counted from 1.
        position: usize,
        /// The duration, in µs.
        us: u64,
    },
    /// A carrier outside of what remotes use.
    #[error("A carrier of {0} Hz is outside 10 000–1 000 000 Hz. State it in Hz (38 kHz is 38000) or leave it out.")]
    Carrier(u32),
    /// A word that is no duration.
    #[error("Line {line}: “{word}” is not a duration. Expected whole microseconds, such as “pulse 9024” or “+9024”.")]
    Word {
        /// Counted from 1.
        line: usize,
        /// The word, shortened.
        word: String,
    },
    /// A decimal comma or point.
    #[error(
        "Line {line}: “{word}” has a decimal part. Durations are whole microseconds; if these are milliseconds, multiply by 1000 (9.02 ms is 9020)."
    )]
    Decimal {
        /// Counted from 1.
        line: usize,
        /// The word, shortened.
        word: String,
    },
    /// A negative number after *pulse* or *space*.
    #[error("Line {line}: “{word}” is negative. After “pulse” and “space” stands a length, without a sign.")]
    Negative {
        /// Counted from 1.
        line: usize,
        /// The word, shortened.
        word: String,
    },
    /// Everything is too short to be microseconds.
    #[error(
        "The longest value is {longest}; that is too short for microseconds. If these are milliseconds, multiply by 1000."
    )]
    Milliseconds {
        /// The longest value in the text.
        longest: u32,
    },
    /// No mark at all.
    #[error(
        "There is no mark (carrier on) in this capture, only silence. Learn the key again with the remote close to the learner."
    )]
    NoMark,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_capture_from_json_is_checked_like_any_other() {
        let zero = serde_json::from_str::<Capture>(r#"{"durations_us":[560,0]}"#);
        assert!(zero.unwrap_err().to_string().contains("Value 2 is 0 µs"));
    }

    #[test]
    fn a_carrier_in_khz_is_refused_with_the_unit() {
        let error = Capture::new(vec![560], Some(38)).unwrap_err();
        assert!(error.to_string().contains("38 kHz is 38000"));
    }

    #[test]
    fn the_length_is_the_sum_of_marks_and_spaces() {
        assert_eq!(Capture::new(vec![9000, 4500, 560], None).unwrap().length_us(), 14_060);
    }
}
