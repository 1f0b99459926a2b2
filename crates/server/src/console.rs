//! What verbs read and print, and how they fail.

use kestrel_signal::text;
use std::io::Read;

/// What went wrong: bad input, or anything else.
pub(crate) enum Failure {
    Input(String),
    Other(String),
}

/// Prints to standard output; a reader that has gone away is no error.
pub(crate) fn print(text: impl AsRef<str>) {
    use std::io::Write;
    let _ = writeln!(std::io::stdout(), "{}", text.as_ref());
}

pub(crate) fn input(file: &str) -> Result<Vec<u8>, Failure> {
    // One byte more than is read, so that a text that is too long is told from one that just fits.
    input_within(file, text::MAX_TEXT_BYTES as u64 + 1)
}

pub(crate) fn input_within(file: &str, limit: u64) -> Result<Vec<u8>, Failure> {
    let mut bytes = Vec::new();
    let result = if file == "-" {
        std::io::stdin().lock().take(limit).read_to_end(&mut bytes)
    } else {
        std::fs::File::open(file).and_then(|opened| opened.take(limit).read_to_end(&mut bytes))
    };
    result.map(|_| bytes).map_err(|error| Failure::Input(format!("{file} cannot be read: {error}")))
}
