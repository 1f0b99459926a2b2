//! The open file formats in which one capture comes and goes.
//!
//! | format | holds | module |
//! | --- | --- | --- |
//! | pulse/space text, signed text | one capture | [`crate::text`] |
//! | CSV of durations, or of time stamps and levels | one capture | [`durations`] |
//! | VCD (IEEE 1364) | one signal or several | [`vcd`] |
//!
//! Nothing is read by guessing at a file's name: [`capture`] looks at what is in it.

pub mod durations;
pub mod vcd;

use super::capture::CaptureError;
use super::text::{self, Parsed};
use thiserror::Error;

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
    // Spreadsheets and editors begin a file with a byte order mark, of UTF-8 or of UTF-16.
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    let wide = matches!(bytes, [0xff, 0xfe, ..] | [0xfe, 0xff, ..]);
    let decoded = if wide { text::decoded(bytes)?.into_owned() } else { String::new() };
    let bytes = if wide { decoded.as_bytes() } else { bytes };
    if vcd::looks_like(bytes) {
        return vcd::read(bytes, signal);
    }
    if durations::looks_like(bytes) {
        return durations::read(bytes);
    }
    Ok(text::parse(bytes)?)
}
