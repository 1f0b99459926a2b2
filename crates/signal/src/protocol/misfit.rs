//! Where a frame stops fitting a protocol.

use std::fmt;

/// Why a frame is not one of a protocol. Bits and durations are counted from 1 in sentences.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Misfit {
    /// The number of durations is wrong.
    Count {
        /// What the protocol has.
        expected: usize,
        /// What the frame has.
        found: usize,
    },
    /// The opening has the wrong shape.
    Leader {
        /// Measured mark and space, in µs.
        found: (u32, u32),
        /// Nominal mark and space, in µs.
        expected: (u32, u32),
    },
    /// Marks are longer or shorter than any receiver makes them.
    Stretch {
        /// Estimated stretch, in µs.
        us: i32,
    },
    /// One duration is no length that the protocol has.
    Duration {
        /// Place in the frame, counted from 0.
        index: usize,
        /// Measured, in µs.
        us: u32,
    },
    /// The two halves of a bit are alike.
    Halves {
        /// Place in the frame, counted from 0.
        bit: usize,
    },
    /// Bits that should be the complement of others are not.
    Complement {
        /// First and last bit of the checked ones, counted from 1.
        checked: (u8, u8),
        /// First and last bit of those that they repeat.
        of: (u8, u8),
    },
    /// Neither the address nor the command is followed by its complement.
    Complements,
    /// A computed check does not agree.
    Check {
        /// What is checked.
        what: &'static str,
        /// Computed value.
        expected: u32,
        /// Value in the frame.
        found: u32,
    },
    /// A bit with a fixed value has another.
    Fixed {
        /// What it is.
        what: &'static str,
    },
    /// Values that do not go together.
    Rule(&'static str),
}

impl Misfit {
    /// How far the frame came, 0–6: a frame that fails only in its check bits came furthest.
    #[must_use]
    pub fn progress(&self) -> u8 {
        match self {
            Self::Count { .. } => 1,
            Self::Leader { .. } => 0,
            Self::Stretch { .. } => 2,
            // A frame that fails in its first durations has not come far.
            Self::Duration { index, .. } if *index < 4 => 2,
            Self::Duration { .. } => 3,
            Self::Halves { .. } | Self::Fixed { .. } => 4,
            Self::Rule(_) => 5,
            Self::Complement { .. } | Self::Complements | Self::Check { .. } => 6,
        }
    }
}

impl fmt::Display for Misfit {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match *self {
            Self::Count { expected, found } if found < expected => {
                write!(
                    f,
                    "the frame has {found} durations where {expected} belong: it is cut short, or another protocol"
                )
            }
            Self::Count { expected, found } => {
                write!(
                    f,
                    "the frame has {found} durations where {expected} belong: two presses ran together, or another protocol"
                )
            }
            Self::Leader { found, expected } => write!(
                f,
                "it opens with {} and {} µs instead of {} and {} µs",
                found.0, found.1, expected.0, expected.1
            ),
            Self::Stretch { us } => {
                write!(f, "its marks are {us:+} µs off, more than any receiver does (−150 to +250 µs)")
            }
            Self::Duration { index, us } => {
                let kind = if index % 2 == 0 { "mark" } else { "space" };
                write!(f, "{kind} {} lasts {us} µs, which is none of its lengths", index / 2 + 1)
            }
            Self::Halves { bit } => write!(f, "the two halves of bit {} are alike", bit + 1),
            Self::Complement { checked, of } => {
                write!(f, "bits {}–{} are not the complement of bits {}–{}", checked.0, checked.1, of.0, of.1)
            }
            Self::Complements => f.write_str(
                "bits 9–16 are not the complement of bits 1–8: the extended form; bits 25–32 are not the complement of bits 17–24: noise",
            ),
            Self::Check { what, expected, found } => {
                write!(f, "its {what} is {found} where its other bits give {expected}")
            }
            Self::Fixed { what } => write!(f, "{what}"),
            Self::Rule(rule) => f.write_str(rule),
        }
    }
}
