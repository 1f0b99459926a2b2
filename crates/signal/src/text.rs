//! Two open text forms of a capture, both read and written.
//!
//! *Pulse/space text*: one duration a line, `pulse 9024` or `space 4512` in any case, `#` or `//` starts a comment,
//! `carrier 38000` may state the carrier in Hz, and `timeout 125000` counts as a space.
//! *Signed text*: numbers in µs, `+` (or no sign) a mark, `-` a space, separated by blanks,
//! commas or line ends. Where no value has a sign the values are taken as mark, space, mark, ….
//! Decimals are rounded to whole µs (a decimal comma where signs part the values). UTF-8 and, with a byte order mark,
//! UTF-16 are read. Where the carrier itself was recorded ([`super::envelope`]), its envelope is taken.

use super::capture::{Capture, CaptureError, MAX_DURATION_US};
use super::envelope::envelope;
use std::borrow::Cow;
use std::fmt::Write;

/// The longest text that is read, in bytes.
pub const MAX_TEXT_BYTES: usize = 1_000_000;

/// What was read, and what had to be assumed on the way.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Parsed {
    /// The capture.
    pub capture: Capture,
    /// The form of the text: `pulse-space` or `signed`.
    pub format: &'static str,
    /// Sentences on what was assumed or joined.
    pub remarks: Vec<String>,
}

/// Reads pulse/space text or signed text, whichever it is.
///
/// # Errors
/// A [`CaptureError`] with the line and what was expected there.
pub fn parse(bytes: &[u8]) -> Result<Parsed, CaptureError> {
    if bytes.len() > MAX_TEXT_BYTES {
        return Err(CaptureError::TooLarge(bytes.len()));
    }
    let text = decoded(bytes)?;
    let text: &str = &text;
    if let Some(at) = text.find('\0') {
        return Err(CaptureError::Binary(at + 1));
    }
    let words = text.split(|c: char| !c.is_alphabetic());
    let named = words.into_iter().any(|word| ["pulse", "space"].iter().any(|name| word.eq_ignore_ascii_case(name)));
    let (levels, carrier, format) =
        if named { (pulse_space(text)?, carrier(text)?, "pulse-space") } else { (signed(text)?, None, "signed") };
    assemble(levels, carrier, format)
}

/// Bytes as text: UTF-8, or UTF-16 behind a byte order mark.
///
/// # Errors
/// Where they are no text, with the place.
pub fn decoded(bytes: &[u8]) -> Result<Cow<'_, str>, CaptureError> {
    let wide = |bytes: &[u8], unit: fn([u8; 2]) -> u16| {
        let units = bytes.chunks(2).map(|pair| unit([pair[0], pair.get(1).copied().unwrap_or(0)]));
        let mut text = String::with_capacity(bytes.len() / 2);
        for (at, c) in char::decode_utf16(units).enumerate() {
            text.push(c.map_err(|_| CaptureError::Binary(2 * at + 3))?);
        }
        Ok(Cow::Owned(text))
    };
    match bytes {
        [0xff, 0xfe, rest @ ..] => wide(rest, u16::from_le_bytes),
        [0xfe, 0xff, rest @ ..] => wide(rest, u16::from_be_bytes),
        [0xef, 0xbb, 0xbf, rest @ ..] | rest => {
            let text = std::str::from_utf8(rest).map_err(|e| CaptureError::Binary(e.valid_up_to() + 1))?;
            Ok(Cow::Borrowed(text))
        }
    }
}

/// One value with the level it stands for; `None` where the text does not say.
struct Level {
    mark: Option<bool>,
    /// In µs, decimals included.
    us: f64,
}

fn pulse_space(text: &str) -> Result<Vec<Level>, CaptureError> {
    let mut levels = Vec::new();
    for (line, content) in lines(text) {
        let mut words = content.split_whitespace();
        while let Some(word) = words.next() {
            let mark = match word.to_ascii_lowercase().as_str() {
                "pulse" => true,
                "space" | "timeout" => false,
                "carrier" => {
                    words.next();
                    continue;
                }
                _ => return Err(CaptureError::Word { line, word: shortened(word) }),
            };
            let number = words.next().unwrap_or("");
            if number.starts_with('-') {
                return Err(CaptureError::Negative { line, word: shortened(number) });
            }
            levels.push(Level { mark: Some(mark), us: microseconds(number, line, levels.len() + 1)? });
        }
    }
    Ok(levels)
}

fn carrier(text: &str) -> Result<Option<u32>, CaptureError> {
    for (line, content) in lines(text) {
        let mut words = content.split_whitespace();
        if words.next().is_some_and(|word| word.eq_ignore_ascii_case("carrier")) {
            let word = words.next().unwrap_or("");
            return match word.parse() {
                Ok(hz) => Ok(Some(hz)),
                Err(_) => Err(CaptureError::Word { line, word: shortened(word) }),
            };
        }
    }
    Ok(None)
}

fn signed(text: &str) -> Result<Vec<Level>, CaptureError> {
    let mut levels = Vec::new();
    for (line, content) in lines(text) {
        // A comma between two digits without a blank is a decimal comma where signs part the values.
        let content = if decimal_comma(content).is_some() { content.replace(',', ".") } else { content.to_owned() };
        for word in content.split(|c: char| c.is_whitespace() || matches!(c, ',' | ';' | '[' | ']')) {
            if word.is_empty() {
                continue;
            }
            let (mark, digits) = match word.as_bytes()[0] {
                b'+' => (Some(true), &word[1..]),
                b'-' => (Some(false), &word[1..]),
                _ => (None, word),
            };
            levels.push(Level { mark, us: microseconds(digits, line, levels.len() + 1)? });
        }
    }
    Ok(levels)
}

/// A comma between two digits without a blank is a decimal comma when signs separate the values.
fn decimal_comma(line: &str) -> Option<&str> {
    line.split_whitespace().find(|word| {
        word.starts_with(['+', '-'])
            && word.match_indices(',').any(|(at, _)| {
                let bytes = word.as_bytes();
                at > 0 && bytes[at - 1].is_ascii_digit() && bytes.get(at + 1).is_some_and(u8::is_ascii_digit)
            })
    })
}

fn lines(text: &str) -> impl Iterator<Item = (usize, &str)> {
    let plain = |line: &'_ str| line.find("//").map_or(line.len(), |at| at).min(line.find('#').unwrap_or(line.len()));
    text.lines().enumerate().map(move |(index, line)| (index + 1, &line[..plain(line)]))
}

fn microseconds(word: &str, line: usize, position: usize) -> Result<f64, CaptureError> {
    let digits = word.strip_suffix("us").or_else(|| word.strip_suffix("µs")).unwrap_or(word);
    if !digits.is_empty() && digits.bytes().all(|b| b.is_ascii_digit()) {
        let us: u64 = digits.parse().unwrap_or(u64::MAX);
        return match u32::try_from(us) {
            Ok(0) => Err(CaptureError::Zero { position }),
            Ok(us) if us <= MAX_DURATION_US => Ok(f64::from(us)),
            _ => Err(CaptureError::TooLong { position, us }),
        };
    }
    let plain = digits.bytes().all(|b| b.is_ascii_digit() || b == b'.');
    if let Some(us) = digits.parse::<f64>().ok().filter(|us| plain && us.is_finite()) {
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "told in whole µs")]
        return match us {
            us if us <= 0.0 => Err(CaptureError::Zero { position }),
            us if us <= f64::from(MAX_DURATION_US) => Ok(us),
            us => Err(CaptureError::TooLong { position, us: us as u64 }),
        };
    }
    if digits.replace(',', ".").parse::<f64>().is_ok_and(f64::is_finite) && digits.contains(',') {
        return Err(CaptureError::Decimal { line, word: shortened(word) });
    }
    Err(CaptureError::Word { line, word: shortened(word) })
}

fn shortened(word: &str) -> String {
    if word.chars().count() <= 24 { word.to_owned() } else { word.chars().take(23).chain(['…']).collect() }
}

fn assemble(levels: Vec<Level>, carrier: Option<u32>, format: &'static str) -> Result<Parsed, CaptureError> {
    let unsigned = levels.iter().all(|level| level.mark.is_none());
    let spans: Vec<(bool, f64)> = levels
        .iter()
        .enumerate()
        .map(|(index, level)| (level.mark.unwrap_or(!unsigned || index % 2 == 0), level.us))
        .collect();
    let mut remarks = Vec::new();
    if unsigned && levels.len() > 1 {
        remarks.push("No value has a sign; they were read as mark, space, mark, ….".to_owned());
    }
    of_spans(&spans, carrier, format, remarks)
}

/// A capture of marks and spaces with their lengths in µs, whatever the first one is and whichever follow each other.
///
/// # Errors
/// Where there is no mark, or everything is too short.
pub(crate) fn of_spans(
    spans: &[(bool, f64)],
    carrier: Option<u32>,
    format: &'static str,
    mut remarks: Vec<String>,
) -> Result<Parsed, CaptureError> {
    if spans.is_empty() {
        return Err(CaptureError::Empty);
    }
    let mut lengths: Vec<f64> = Vec::with_capacity(spans.len());
    let (mut joined, mut led) = (0, false);
    for &(mark, us) in spans {
        let next_is_mark = lengths.len().is_multiple_of(2);
        match lengths.last_mut() {
            None if !mark => led = true,
            Some(last) if mark != next_is_mark => {
                *last += us;
                joined += 1;
            }
            _ => lengths.push(us),
        }
    }
    if lengths.is_empty() {
        return Err(CaptureError::NoMark);
    }
    if led {
        remarks.push("The silence before the first mark was left out.".to_owned());
    }
    if joined > 0 {
        remarks.push(format!("{joined} neighbouring values of the same kind were joined."));
    }
    let mut carrier = carrier;
    if let Some(found) = envelope(&lengths) {
        remarks.push(format!(
            "The carrier itself was recorded, at {:.1} kHz: its envelope was taken.",
            f64::from(found.carrier_hz) / 1_000.0
        ));
        carrier = carrier.or(Some(found.carrier_hz));
        lengths = found.lengths_us;
    }
    // Rounded along the way, so that no error adds up.
    let (mut at, mut edge) = (0.0, 0u64);
    let mut durations = Vec::with_capacity(lengths.len());
    for (index, us) in lengths.iter().enumerate() {
        at += us;
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "told in whole µs")]
        let to = at.round() as u64;
        let us = to.saturating_sub(edge);
        durations.push(u32::try_from(us).map_err(|_| CaptureError::TooLong { position: index + 1, us })?.max(1));
        edge = to.max(edge + 1);
    }
    let longest = durations.iter().copied().max().unwrap_or(0);
    let decimals = spans.iter().any(|(_, us)| us.fract() != 0.0);
    if longest < 100 && (durations.len() >= 4 || decimals) {
        return Err(CaptureError::Milliseconds { longest });
    }
    Ok(Parsed { capture: Capture::new(durations, carrier)?, format, remarks })
}

/// The capture as pulse/space text, one duration a line.
#[must_use]
pub fn to_pulse_space(capture: &Capture) -> String {
    let mut text = String::new();
    if let Some(hz) = capture.carrier_hz() {
        let _ = writeln!(text, "carrier {hz}");
    }
    for (index, us) in capture.durations_us().iter().enumerate() {
        let _ = writeln!(text, "{} {us}", if index % 2 == 0 { "pulse" } else { "space" });
    }
    text
}

/// Durations (mark first) as signed text on one line.
#[must_use]
pub fn to_signed(durations_us: &[u32]) -> String {
    let mut text = String::new();
    for (index, us) in durations_us.iter().enumerate() {
        let sign = if index % 2 == 0 { '+' } else { '-' };
        let _ = write!(text, "{}{sign}{us}", if index == 0 { "" } else { " " });
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn durations(text: &str) -> Vec<u32> {
        parse(text.as_bytes()).unwrap().capture.durations_us().to_vec()
    }

    #[rstest]
    #[case::pulse_space("pulse 9024\nspace 4512\npulse 560\n", vec![9024, 4512, 560])]
    #[case::one_line("pulse 9024 space 4512 pulse 560", vec![9024, 4512, 560])]
    #[case::comments("# power on\npulse 9024 # leader\nspace 4512", vec![9024, 4512])]
    #[case::timeout("pulse 560\ntimeout 125000", vec![560, 125_000])]
    #[case::signed("+9024 -4512 +560", vec![9024, 4512, 560])]
    #[case::signed_commas("+9024, -4512, +560", vec![9024, 4512, 560])]
    #[case::units("+9024us -4512µs +560us", vec![9024, 4512, 560])]
    #[case::unsigned("9024 4512 560", vec![9024, 4512, 560])]
    #[case::leading_space("-20000 +9024 -4512", vec![9024, 4512])]
    #[case::split_space("+9024 -4000 -512 +560", vec![9024, 4512, 560])]
    #[case::carrier_line("carrier 38000\npulse 500\nspace 600", vec![500, 600])]
    #[case::any_case("Carrier 38000\nPULSE 500\nSpace 600", vec![500, 600])]
    #[case::slashes("// power on\npulse 9024 // leader\nspace 4512", vec![9024, 4512])]
    #[case::decimals("+9024.4 -4512.4 +560.4", vec![9024, 4513, 560])]
    #[case::decimal_comma("+9024,5 -4512,0 +560", vec![9025, 4512, 560])]
    #[case::crlf("pulse 9024\r\nspace 4512\r\n", vec![9024, 4512])]
    fn both_forms_are_read(#[case] text: &str, #[case] expected: Vec<u32>) {
        assert_eq!(durations(text), expected);
    }

    #[rstest]
    #[case::empty("", "empty")]
    #[case::blank(" \n\n", "empty")]
    #[case::zero("+9024 -0 +560", "Value 2 is 0 µs")]
    #[case::negative_pulse("pulse -9024", "without a sign")]
    #[case::milliseconds("+9.024 -4.512 +0.56 -0.56", "multiply by 1000")]
    #[case::few_milliseconds("+9.02 -4.51", "multiply by 1000")]
    #[case::half_a_number("+9e3 -4512", "is not a duration")]
    #[case::whole_milliseconds("+9 -4 +1 -1 +1", "too short for microseconds")]
    #[case::words("hello there", "“hello” is not a duration")]
    #[case::missing_number("pulse\nspace 20", "not a duration")]
    #[case::too_long("+9024 -99000000", "longer than 10 s")]
    #[case::overflow("+99999999999999999999999", "longer than 10 s")]
    #[case::only_silence("-500", "only silence")]
    #[case::not_text("+9024\0-4512", "not text")]
    #[case::bad_carrier("carrier high\npulse 500", "“high” is not a duration")]
    fn bad_text_gets_a_sentence(#[case] text: &str, #[case] expected: &str) {
        let message = parse(text.as_bytes()).unwrap_err().to_string();
        assert!(message.contains(expected), "{message}");
    }

    #[test]
    fn bytes_that_are_no_text_and_huge_texts_are_refused() {
        assert_eq!(parse(&[b'+', 0xff, 0xfe]), Err(CaptureError::Binary(2)));
        assert_eq!(parse(&[0xff, 0xfe, 0x00, 0xd8, b'+', 0]), Err(CaptureError::Binary(3)), "half a character");
        assert!(matches!(parse(&vec![b' '; MAX_TEXT_BYTES + 1]), Err(CaptureError::TooLarge(_))));
    }

    #[test]
    fn sixteen_bits_a_character_are_read_in_either_order() {
        let text = "pulse 9024\r\nspace 4512\r\npulse 560";
        let little: Vec<u8> = [0xff, 0xfe].into_iter().chain(text.encode_utf16().flat_map(u16::to_le_bytes)).collect();
        let big: Vec<u8> = [0xfe, 0xff].into_iter().chain(text.encode_utf16().flat_map(u16::to_be_bytes)).collect();
        for bytes in [little, big] {
            assert_eq!(parse(&bytes).unwrap().capture.durations_us(), [9024, 4512, 560]);
        }
    }

    #[test]
    fn the_line_of_a_mistake_is_counted_with_carriage_returns_too() {
        let error = parse(b"pulse 9024\r\nspace 4512\r\npulse long\r\n").unwrap_err().to_string();
        assert!(error.starts_with("Line 3:"), "{error}");
    }

    #[test]
    fn what_was_assumed_is_said() {
        let parsed = parse(b"9024 4512 560").unwrap();
        assert_eq!(parsed.remarks, ["No value has a sign; they were read as mark, space, mark, …."]);
    }

    proptest! {
        #[test]
        fn both_forms_round_trip(durations in prop::collection::vec(100u32..100_000, 4..200)) {
            let capture = Capture::new(durations.clone(), Some(38_000)).unwrap();
            let read = parse(to_pulse_space(&capture).as_bytes()).unwrap();
            prop_assert_eq!(&read.capture, &capture);
            let read = parse(to_signed(&durations).as_bytes()).unwrap();
            prop_assert_eq!(read.capture.durations_us(), &durations[..]);
        }

        #[test]
        fn no_input_panics(bytes in prop::collection::vec(any::<u8>(), 0..400), text in "[+\\-0-9,. \npulsace#]{0,200}") {
            let _ = parse(&bytes);
            let _ = parse(text.as_bytes());
        }
    }
}
