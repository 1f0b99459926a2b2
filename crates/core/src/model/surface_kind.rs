//! What kinds of surface there are, and the sizes that they start with.
//!
//! Sizes are *your own measure*: measure the thing in your hand and type that. What stands here is invented to
//! start from.

use super::Surface;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a surface is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[schema(as = SurfaceKind)]
pub enum SurfaceKind {
    /// A hand remote with hard keys.
    HandRemote,
    /// A phone.
    Phone,
    /// A phone that folds open to twice its width.
    FoldingPhone,
    /// A tablet.
    Tablet,
    /// A keypad on the wall, with 1 to 8 keys.
    Keypad,
    /// A hand remote with a small display that lists what can be watched.
    DisplayRemote,
    /// A key fob.
    KeyFob,
    /// Something that is turned, tapped and shaken: a face or a gesture is a key.
    Controller,
    /// A page in the browser.
    Browser,
}

/// The size that a kind starts with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct SurfaceSize {
    /// In mm.
    pub width_mm: u16,
    /// In mm.
    pub height_mm: u16,
    /// Keys side by side, on one sheet.
    pub columns: u8,
    /// Keys one above the other.
    pub rows: u8,
}

impl SurfaceKind {
    /// Every kind.
    pub const ALL: [Self; 9] = [
        Self::HandRemote,
        Self::Phone,
        Self::FoldingPhone,
        Self::Tablet,
        Self::Keypad,
        Self::DisplayRemote,
        Self::KeyFob,
        Self::Controller,
        Self::Browser,
    ];

    /// In a sentence.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::HandRemote => "hand remote",
            Self::Phone => "phone",
            Self::FoldingPhone => "folding phone",
            Self::Tablet => "tablet",
            Self::Keypad => "wall keypad",
            Self::DisplayRemote => "hand remote with a display",
            Self::KeyFob => "key fob",
            Self::Controller => "gesture controller",
            Self::Browser => "page in the browser",
        }
    }

    /// Is it glass, whose keys change with the page and whose pages can be longer than it is?
    #[must_use]
    pub fn is_glass(self) -> bool {
        matches!(self, Self::Phone | Self::FoldingPhone | Self::Tablet | Self::Browser)
    }

    /// Are its labels cut, printed or stuck on?
    #[must_use]
    pub fn has_labels(self) -> bool {
        !self.is_glass()
    }

    /// Pages that are seen side by side.
    #[must_use]
    pub fn sheets(self) -> u8 {
        if matches!(self, Self::FoldingPhone | Self::Tablet | Self::Browser) { 2 } else { 1 }
    }

    /// The most keys that it can have; none where only its size limits it.
    #[must_use]
    pub fn most_keys(self) -> Option<usize> {
        match self {
            Self::Keypad => Some(8),
            Self::KeyFob => Some(6),
            _ => None,
        }
    }

    /// The height of letters that it starts with, in tenths of a mm: what is read from across a room has larger ones.
    #[must_use]
    pub fn usual_letters(self) -> u16 {
        if self == Self::Keypad { 35 } else { Surface::usual_letters() }
    }

    /// The size that it starts with.
    #[must_use]
    pub fn usual(self) -> SurfaceSize {
        let size = |width_mm, height_mm, columns, rows| SurfaceSize { width_mm, height_mm, columns, rows };
        match self {
            Self::HandRemote => size(48, 182, 4, 14),
            Self::Phone => size(64, 138, 4, 10),
            Self::FoldingPhone => size(130, 138, 4, 10),
            Self::Tablet => size(220, 140, 4, 10),
            Self::Keypad => size(80, 80, 1, 4),
            Self::DisplayRemote => size(48, 182, 4, 14),
            Self::KeyFob => size(36, 60, 2, 2),
            Self::Controller => size(240, 40, 6, 1),
            Self::Browser => size(260, 150, 4, 10),
        }
    }
}
