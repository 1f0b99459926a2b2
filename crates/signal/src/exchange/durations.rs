//! A capture as CSV, with a heading that says what its columns are, in one of three shapes:
//!
//! * `level,duration_us`: 1 is a mark and 0 a space (also `mark`/`space`, `pulse`/`space`);
//! * `mark_us,space_us`: a pair a row, the last space may be missing;
//! * `duration_us`: mark, space, mark, ….
//!
//! Separators are commas, semicolons or tabs. We write the first shape.

use super::ExchangeError;
use crate::capture::{Capture, CaptureError};
use crate::text::{self, Parsed};
use std::fmt::Write as _;

#[derive(Clone, Copy, PartialEq, Eq)]
enum Shape {
    Level { level: usize, duration: usize },
    Pair { mark: usize, space: usize },
    Single { duration: usize },
}

fn separator(line: &str) -> u8 {
    [b';', b'\t'].into_iter().find(|&mark| line.as_bytes().contains(&mark)).unwrap_or(b',')
}

fn shape(line: &str) -> Option<Shape> {
    let heading = line.to_lowercase();
    let columns: Vec<&str> =
        heading.split(char::from(separator(line))).map(|column| column.trim().trim_matches('"')).collect();
    let at = |names: &[&str]| columns.iter().position(|column| names.contains(column));
    let duration = at(&["duration_us", "duration", "us", "length_us"]);
    let (mark, space) = (at(&["mark_us", "mark", "pulse_us", "pulse"]), at(&["space_us", "space"]));
    match (at(&["level", "value", "kind"]), duration, mark, space) {
        (Some(level), Some(duration), ..) => Some(Shape::Level { level, duration }),
        (_, _, Some(mark), Some(space)) => Some(Shape::Pair { mark, space }),
        (_, Some(duration), ..) => Some(Shape::Single { duration }),
        _ => None,
    }
}

/// Does it open with a heading of one of the three shapes?
#[must_use]
pub fn looks_like(bytes: &[u8]) -> bool {
    let text = String::from_utf8_lossy(bytes.get(..200).unwrap_or(bytes));
    text.lines().find(|line| !line.trim().is_empty()).and_then(shape).is_some()
}

/// Reads a capture.
///
/// # Errors
/// With the line, and what was expected there.
pub fn read(bytes: &[u8]) -> Result<Parsed, ExchangeError> {
    let heading = String::from_utf8_lossy(bytes);
    let heading = heading.lines().find(|line| !line.trim().is_empty()).unwrap_or_default();
    let shape = shape(heading)
        .ok_or_else(|| ExchangeError::Shape("The CSV has no heading such as level,duration_us.".to_owned()))?;
    let mut reader =
        csv::ReaderBuilder::new().delimiter(separator(heading)).flexible(true).trim(csv::Trim::All).from_reader(bytes);
    let mut signed = String::new();
    let mut count = 0;
    for row in reader.records() {
        let row = row.map_err(|error| ExchangeError::Shape(format!("The CSV cannot be read: {error}.")))?;
        let line = row.position().map_or(0, |position| usize::try_from(position.line()).unwrap_or(0));
        let cell = |at: usize| row.get(at).unwrap_or("");
        let next_is_mark = count % 2 == 0;
        let mut push = |mark: bool, text: &str| -> Result<(), ExchangeError> {
            let us = microseconds(text, line)?;
            let _ = write!(signed, "{}{us} ", if mark { '+' } else { '-' });
            count += 1;
            Ok(())
        };
        match shape {
            Shape::Level { level, duration } => {
                let mark = match cell(level).to_lowercase().as_str() {
                    "1" | "mark" | "pulse" | "high" | "on" | "true" => true,
                    "0" | "space" | "low" | "off" | "false" => false,
                    other => {
                        let why = format!("Line {line}: “{other}” is no level. Expected 1 (mark) or 0 (space).");
                        return Err(ExchangeError::Shape(why));
                    }
                };
                push(mark, cell(duration))?;
            }
            Shape::Pair { mark, space } => {
                push(true, cell(mark))?;
                if !cell(space).is_empty() {
                    push(false, cell(space))?;
                }
            }
            Shape::Single { duration } => push(next_is_mark, cell(duration))?,
        }
    }
    let parsed = text::parse(signed.as_bytes())?;
    Ok(Parsed { format: "csv", ..parsed })
}

/// A duration in whole µs; a number with a decimal part is told apart from no number at all.
fn microseconds(text: &str, line: usize) -> Result<u32, CaptureError> {
    let word = || text.chars().take(24).collect();
    match text.parse::<u32>() {
        Ok(0) => Err(CaptureError::ZeroLine { line }),
        Ok(us) => Ok(us),
        Err(_) if text.starts_with('-') => Err(CaptureError::Negative { line, word: word() }),
        Err(_) if text.replace(',', ".").parse::<f64>().is_ok() && text.contains(['.', ',']) => {
            Err(CaptureError::Decimal { line, word: word() })
        }
        Err(_) => Err(CaptureError::Word { line, word: word() }),
    }
}

/// The capture as `level,duration_us`.
#[must_use]
pub fn write(capture: &Capture) -> String {
    let mut text = String::from("level,duration_us\n");
    for (index, us) in capture.durations_us().iter().enumerate() {
        let _ = writeln!(text, "{},{us}", (index + 1) % 2);
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case::levels("level,duration_us\n1,9000\n0,4500\n1,560\n")]
    #[case::words("kind;us\nmark;9000\nspace;4500\npulse;560\n")]
    #[case::pairs("mark_us,space_us\n9000,4500\n560,\n")]
    #[case::tabs("pulse\tspace\n9000\t4500\n560\n")]
    #[case::single("duration_us\n9000\n4500\n560\n")]
    #[case::leading_blank_line("\n\"level\",\"duration\"\n1,9000\n0,4500\n1,560\n")]
    fn three_shapes_are_read(#[case] text: &str) {
        assert!(looks_like(text.as_bytes()));
        let parsed = read(text.as_bytes()).unwrap();
        assert_eq!((parsed.capture.durations_us(), parsed.format), (&[9000, 4500, 560][..], "csv"));
    }

    #[rstest]
    #[case("level,duration_us\n1,9000\n2,4500\n", "Line 3: “2” is no level")]
    #[case("level,duration_us\n1,9.02\n", "Line 2: “9.02” has a decimal part")]
    #[case("level;duration_us\n1;9,02\n", "Line 2: “9,02” has a decimal part")]
    #[case("level,duration_us\n1,-5\n", "Line 2: “-5” is negative")]
    #[case("level,duration_us\n1,0\n", "Line 2: a duration of 0 µs")]
    #[case("level,duration_us\n1,long\n", "“long” is not a duration")]
    #[case("duration_us\n", "is empty")]
    fn what_cannot_be_read_says_where(#[case] text: &str, #[case] expected: &str) {
        let error = read(text.as_bytes()).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }

    #[test]
    fn other_texts_are_left_to_their_own_readers() {
        assert!(!looks_like(b"+9000 -4500"));
        assert!(!looks_like(b"pulse 9000\nspace 4500"));
    }

    proptest! {
        #[test]
        fn what_we_write_is_read_back(durations in prop::collection::vec(100u32..50_000, 1..200)) {
            let capture = Capture::new(durations, None).unwrap();
            prop_assert_eq!(read(write(&capture).as_bytes()).unwrap().capture, capture);
        }
    }
}
