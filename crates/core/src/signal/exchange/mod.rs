//! The open file formats in which signals and code sets come and go.
//!
//! | format | holds | module |
//! | --- | --- | --- |
//! | pulse/space text, signed text | one capture; several, when each has its `# name` | [`crate::signal::text`], [`named`] |
//! | CSV of durations | one capture | [`durations`] |
//! | VCD (IEEE 1364) | one signal or several | [`vcd`] |
//! | Linux remote keymap (TOML) | decoded infrared codes and raw timing | [`keymap`] |
//! | code set CSV | every code, field by field | [`table`] |
//!
//! Nothing is read by guessing at a file's name: [`capture`] looks at what is in it.

pub mod durations;
pub mod keymap;
pub mod named;
pub mod table;
pub mod vcd;

use super::capture::CaptureError;
use super::text::{self, Parsed};
use thiserror::Error;

/// A code as an import finds it: a name and what is sent.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Found {
    /// The name of the function.
    pub name: String,
    /// The device that the file names, if it does.
    pub device: Option<String>,
    /// How its key is pressed.
    pub press: crate::device::Press,
    /// What is sent.
    pub body: crate::codes::CodeBody,
    /// The line of the file where it stands, counted from 1.
    pub line: usize,
}

/// A line of a file that could not be read.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, utoipa::ToSchema)]
pub struct Unread {
    /// Counted from 1.
    pub line: usize,
    /// What is wrong with it.
    pub why: String,
}

/// What was found in a file that holds several codes.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Import {
    /// The codes.
    pub found: Vec<Found>,
    /// The lines that could not be read.
    pub unread: Vec<Unread>,
}

/// Why a file cannot be read at all.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum ExchangeError {
    /// It is no capture.
    #[error(transparent)]
    Capture(#[from] CaptureError),
    /// It holds several signals.
    #[error("The file holds {} signals: {}. Choose the one that carries the remote.", .0.len(), .0.join(", "))]
    Signals(Vec<String>),
    /// Its shape is not that of its format.
    #[error("{0}")]
    Shape(String),
}

/// Reads one capture from any of the text forms, a CSV of durations, or a VCD; `signal` names the one to
/// take of a VCD with several.
///
/// # Errors
/// With the line and what was expected, or the names of the signals to choose from.
pub fn capture(bytes: &[u8], signal: Option<&str>) -> Result<Parsed, ExchangeError> {
    if bytes.len() > text::MAX_TEXT_BYTES {
        return Err(CaptureError::TooLarge(bytes.len()).into());
    }
    // Spreadsheets and editors begin a file of UTF-8 with a byte order mark.
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    if vcd::looks_like(bytes) {
        return vcd::read(bytes, signal);
    }
    if durations::looks_like(bytes) {
        return durations::read(bytes);
    }
    Ok(text::parse(bytes)?)
}
