//! A capture as CSV, with a heading that says what its columns are, in one of four shapes:
//!
//! * `level,duration_us`: 1 is a mark and 0 a space (also `mark`/`space`, `pulse`/`space`);
//! * `mark_us,space_us`: a pair a row, the last space may be missing;
//! * `duration_us`: mark, space, mark, …;
//! * `time,level`, as logic analysers write it: when the level became what it is, or what it was at each sample. The unit of
//!   the time stands in the heading (`Time [s]`, `time_us`, `Time (ms)`); without one it is s. The level is the first other
//!   column that holds only 0 and 1 and changes. A signal that rests high is taken to be inverted, and that is said.
//!
//! Separators are commas, semicolons or tabs; decimals are rounded to whole µs. We write the first shape.

use super::ExchangeError;
use crate::capture::{Capture, CaptureError};
use crate::text::{self, Parsed};
use std::fmt::Write as _;

#[derive(Clone, Copy, PartialEq)]
enum Shape {
    Level { level: usize, duration: usize },
    Pair { mark: usize, space: usize },
    Single { duration: usize },
    Stamps { time: usize, us: f64 },
}

/// A column of time stamps, and how many µs its unit has.
fn stamps(column: &str) -> Option<f64> {
    let words: Vec<&str> = column.split(|c: char| !c.is_alphanumeric() && c != 'µ').filter(|w| !w.is_empty()).collect();
    let (&first, rest) = words.split_first()?;
    if !matches!(first, "time" | "timestamp" | "start" | "t") {
        return None;
    }
    Some(match rest.last().copied() {
        Some("us" | "µs") => 1.0,
        Some("ms") => 1_000.0,
        Some("ns") => 0.001,
        _ => 1_000_000.0,
    })
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
        _ => columns
            .iter()
            .enumerate()
            .filter(|_| columns.len() > 1)
            .find_map(|(time, column)| stamps(column).map(|us| Shape::Stamps { time, us })),
    }
}

/// Does it open with a heading of one of these shapes?
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
    // The reader counts a row behind a carriage return to the line before.
    let plain = String::from_utf8_lossy(bytes).replace("\r\n", "\n");
    let bytes = plain.as_bytes();
    let heading = plain.as_str();
    let heading = heading.lines().find(|line| !line.trim().is_empty()).unwrap_or_default();
    let shape = shape(heading)
        .ok_or_else(|| ExchangeError::Shape("The CSV has no heading such as level,duration_us.".to_owned()))?;
    let mut reader =
        csv::ReaderBuilder::new().delimiter(separator(heading)).flexible(true).trim(csv::Trim::All).from_reader(bytes);
    if let Shape::Stamps { time, us } = shape {
        return levels(&mut reader, time, us);
    }
    let mut spans: Vec<(bool, f64)> = Vec::new();
    for row in reader.records() {
        let row = row.map_err(|error| ExchangeError::Shape(format!("The CSV cannot be read: {error}.")))?;
        let line = row.position().map_or(0, |position| usize::try_from(position.line()).unwrap_or(0));
        let cell = |at: usize| row.get(at).unwrap_or("");
        let next_is_mark = spans.len().is_multiple_of(2);
        let mut push = |mark: bool, text: &str| -> Result<(), ExchangeError> {
            spans.push((mark, microseconds(text, line)?));
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
            Shape::Stamps { .. } => {}
        }
    }
    Ok(text::of_spans(&spans, None, "csv", vec![])?)
}

/// The most channels beside the time that are looked at.
const CHANNELS_MAX: usize = 64;

/// Reads time stamps and levels.
fn levels(reader: &mut csv::Reader<&[u8]>, time: usize, us: f64) -> Result<Parsed, ExchangeError> {
    let mut stamps: Vec<f64> = Vec::new();
    // For each column what it said at each stamp; none where it is no level.
    let mut columns: Vec<Option<Vec<bool>>> = Vec::new();
    for row in reader.records() {
        let row = row.map_err(|error| ExchangeError::Shape(format!("The CSV cannot be read: {error}.")))?;
        let line = row.position().map_or(0, |position| usize::try_from(position.line()).unwrap_or(0));
        let text = row.get(time).unwrap_or("").replace(',', ".");
        let at = text.parse::<f64>().ok().filter(|at| at.is_finite()).ok_or_else(|| {
            let word: String = text.chars().take(24).collect();
            ExchangeError::Shape(format!("Line {line}: “{word}” is no time. Expected a number, such as 0.009024."))
        })?;
        if stamps.last().is_some_and(|before| at < *before) {
            return Err(ExchangeError::Shape(format!(
                "Line {line}: the time goes back. Export the samples in their order."
            )));
        }
        columns.resize_with(columns.len().max(row.len().min(CHANNELS_MAX)), || Some(vec![]));
        for (place, column) in columns.iter_mut().enumerate() {
            let level = match row.get(place).map(str::trim) {
                Some("1" | "1.0" | "true" | "high") => Some(true),
                Some("0" | "0.0" | "false" | "low") => Some(false),
                _ => None,
            };
            match (column.as_mut(), level) {
                (Some(known), Some(level)) => known.push(level),
                _ => *column = None,
            }
        }
        stamps.push(at);
    }
    let changes = |column: &Vec<bool>| column.windows(2).any(|two| two[0] != two[1]);
    let level = columns.into_iter().enumerate().find_map(|(place, column)| {
        column.filter(|column| place != time && column.len() == stamps.len() && changes(column))
    });
    let level = level.ok_or_else(|| {
        ExchangeError::Shape(
            "Beside the time no column holds 0 and 1 and changes. Export one digital channel.".to_owned(),
        )
    })?;
    let mut spans: Vec<(bool, f64)> = Vec::new();
    for (place, high) in level.iter().enumerate() {
        let length = stamps.get(place + 1).map_or(0.0, |next| (next - stamps[place]) * us);
        match spans.last_mut() {
            Some((mark, whole)) if mark == high => *whole += length,
            _ => spans.push((*high, length)),
        }
    }
    let (inverted, remark) = rests_high(&spans);
    let last = spans.len();
    let spans: Vec<(bool, f64)> = spans
        .into_iter()
        .enumerate()
        // Nobody knows how long the last level lasted.
        .filter(|(place, (_, length))| *length > 0.0 || place + 1 < last)
        .map(|(_, (high, length))| (high != inverted, length))
        .collect();
    Ok(text::of_spans(&spans, None, "csv", remark.into_iter().collect())?)
}

/// Is a signal inverted? Silence is longer than sound: one that is mostly high rests high. With the sentence that says so.
pub(super) fn rests_high(spans: &[(bool, f64)]) -> (bool, Option<String>) {
    let whole = |wanted: bool| spans.iter().filter(|(high, _)| *high == wanted).map(|(_, us)| *us).sum::<f64>();
    // A carrier that was recorded is high for less than half of its marks; what the first level is says the rest.
    let inverted = whole(true) > whole(false) && spans.first().is_some_and(|(high, _)| *high);
    let remark = "The signal rests high, so its low parts were taken as marks.";
    (inverted, inverted.then(|| remark.to_owned()))
}

/// A duration in µs, decimals included.
fn microseconds(text: &str, line: usize) -> Result<f64, CaptureError> {
    let word = || text.chars().take(24).collect();
    let plain = text.replace(',', ".");
    let digits = plain.bytes().all(|b| b.is_ascii_digit() || b == b'.');
    match plain.parse::<f64>() {
        _ if text.starts_with('-') => Err(CaptureError::Negative { line, word: word() }),
        Ok(us) if digits && us == 0.0 => Err(CaptureError::ZeroLine { line }),
        Ok(us) if digits && us.is_finite() => Ok(us),
        _ => Err(CaptureError::Word { line, word: word() }),
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
    #[case::decimals("level,duration_us\n1,9000.2\n0,4500.1\n1,559.9\n")]
    #[case::leading_blank_line("\n\"level\",\"duration\"\n1,9000\n0,4500\n1,560\n")]
    fn three_shapes_are_read(#[case] text: &str) {
        assert!(looks_like(text.as_bytes()));
        let parsed = read(text.as_bytes()).unwrap();
        assert_eq!((parsed.capture.durations_us(), parsed.format), (&[9000, 4500, 560][..], "csv"));
    }

    #[rstest]
    #[case("level,duration_us\n1,9000\n2,4500\n", "Line 3: “2” is no level")]
    #[case("level,duration_us\n1,9.02\n0,4.51\n1,0.56\n0,0.56\n", "multiply by 1000")]
    #[case("level,duration_us\r\n1,9000\r\n2,4500\r\n", "Line 3: “2” is no level")]
    #[case("time,level\n0.1,0\nlater,1\n", "Line 3: “later” is no time")]
    #[case("time,level\n0.2,0\n0.1,1\n", "Line 3: the time goes back")]
    #[case("time,volt\n0.1,1.65\n0.2,3.3\n", "no column holds 0 and 1")]
    #[case("level,duration_us\n1,-5\n", "Line 2: “-5” is negative")]
    #[case("level,duration_us\n1,0\n", "Line 2: a duration of 0 µs")]
    #[case("level,duration_us\n1,long\n", "“long” is not a duration")]
    #[case("duration_us\n", "is empty")]
    fn what_cannot_be_read_says_where(#[case] text: &str, #[case] expected: &str) {
        let error = read(text.as_bytes()).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }

    /// As analysers write it: when a level became what it is, or a row a sample; one or several channels; high or low at rest.
    #[rstest]
    #[case::seconds("Time [s],Channel 0\n0.0,0\n0.001,1\n0.010,0\n0.0145,1\n0.01506,0\n", false)]
    #[case::microseconds("time_us;D0\n0;0\n1000;1\n10000;0\n14500;1\n15060;0\n", false)]
    #[case::still_channel("Time (ms),Clock,IR\n0,1,0\n1,1,1\n10,1,0\n14.5,1,1\n15.06,1,0\n", false)]
    #[case::rests_high("Time [s],IR\n0.0,1\n0.1,0\n0.109,1\n0.1135,0\n0.11406,1\n0.2,1\n", true)]
    #[case::samples("time_us,level\n0,0\n500,0\n1000,1\n5500,1\n10000,0\n14500,1\n15060,0\n15500,0\n", false)]
    #[case::decimal_comma("Time [s];IR\n0,0;0\n0,001;1\n0,010;0\n0,0145;1\n0,01506;0\n", false)]
    fn time_stamps_and_levels_are_read(#[case] text: &str, #[case] inverted: bool) {
        assert!(looks_like(text.as_bytes()));
        let parsed = read(text.as_bytes()).unwrap();
        assert_eq!(parsed.capture.durations_us()[..3], [9000, 4500, 560]);
        assert_eq!(parsed.remarks.iter().any(|remark| remark.contains("rests high")), inverted, "{:?}", parsed.remarks);
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
