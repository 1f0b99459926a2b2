//! Value change dumps (IEEE 1364), as logic analysers export them.
//!
//! A signal of one bit is high during a mark. Some analysers invert it (a receiver's output is low during
//! a mark): a signal that rests high is taken to be inverted, and that is said. Times are rounded to
//! whole µs. A file with several signals that change asks which.

use super::ExchangeError;
use crate::capture::{Capture, MAX_DURATIONS};
use crate::text::{self, Parsed};
use std::collections::BTreeMap;
use std::io::{Cursor, Read as _};
use vcd::{Command, IdCode, Parser, SimulationCommand, TimescaleUnit, Value, VarType, Writer};

/// Is it a value change dump?
#[must_use]
pub fn looks_like(bytes: &[u8]) -> bool {
    let head = String::from_utf8_lossy(bytes.get(..4_000).unwrap_or(bytes));
    head.trim_start().starts_with('$') && (head.contains("$timescale") || head.contains("$var"))
}

/// So deep may scopes stand in each other: far deeper than any instrument writes them, and no deeper than the parser,
/// which calls itself for each, can go.
const SCOPES_MAX: usize = 64;

/// How deep scopes stand in each other. What stands in a comment or another text is no scope.
fn depth(bytes: &[u8]) -> usize {
    let mut words = bytes.split(u8::is_ascii_whitespace).filter(|word| !word.is_empty());
    let (mut now, mut most) = (0usize, 0);
    while let Some(word) = words.next() {
        match word {
            b"$scope" => now += 1,
            b"$upscope" => now = now.saturating_sub(1),
            b"$comment" | b"$date" | b"$version" => {
                words.find(|word| word == b"$end");
            }
            b"$enddefinitions" => break,
            _ => {}
        }
        most = most.max(now);
    }
    most
}

/// One signal of a file: when it had which value, in ticks.
struct Signal {
    name: String,
    changes: Vec<(u64, bool)>,
}

/// Reads a capture; `signal` names the one to take where several change.
///
/// # Errors
/// Where the file is damaged, nothing changes in it, or several signals do.
pub fn read(bytes: &[u8], signal: Option<&str>) -> Result<Parsed, ExchangeError> {
    let damaged = |error: std::io::Error| ExchangeError::Shape(format!("The VCD cannot be read: {error}."));
    let scopes = depth(bytes);
    if scopes > SCOPES_MAX {
        let why = format!(
            "The VCD has scopes {scopes} deep in each other; at most {SCOPES_MAX} can be read. Export the signals alone."
        );
        return Err(ExchangeError::Shape(why));
    }
    // The parser wants a line to end, and the last one often does not.
    let mut parser = Parser::new(Cursor::new(bytes).chain(Cursor::new(b"\n")));
    let header = parser.parse_header().map_err(damaged)?;
    let (factor, unit) = header.timescale.ok_or_else(|| {
        ExchangeError::Shape(
            "The VCD has no $timescale, so nobody knows how long its marks are. Export it again with one.".to_owned(),
        )
    })?;
    let mut signals: BTreeMap<IdCode, Signal> = BTreeMap::new();
    collect(&header.items, "", &mut signals);
    if signals.is_empty() {
        return Err(ExchangeError::Shape("The VCD has no signal of one bit.".to_owned()));
    }
    let mut now = 0;
    for command in parser {
        match command.map_err(damaged)? {
            Command::Timestamp(at) => now = at,
            Command::ChangeScalar(id, value) => {
                // What is not known yet, or floats, is no level: the one before goes on.
                let high = match value {
                    Value::V0 => Some(false),
                    Value::V1 => Some(true),
                    Value::X | Value::Z => None,
                };
                if let Some((signal, high)) = signals.get_mut(&id).zip(high)
                    && signal.changes.last().is_none_or(|(_, last)| *last != high)
                {
                    signal.changes.push((now, high));
                }
            }
            _ => {}
        }
    }
    let moving: Vec<&Signal> = signals.values().filter(|signal| signal.changes.len() > 1).collect();
    let chosen = match (signal, moving.as_slice()) {
        (Some(name), _) => signals
            .values()
            .find(|signal| signal.name == name)
            .ok_or_else(|| ExchangeError::Signals(moving.iter().map(|signal| signal.name.clone()).collect()))?,
        (None, [only]) => only,
        (None, []) => return Err(ExchangeError::Shape("No signal of the VCD ever changes.".to_owned())),
        (None, several) => {
            return Err(ExchangeError::Signals(several.iter().map(|signal| signal.name.clone()).collect()));
        }
    };
    capture(chosen, now, f64::from(factor) * us_of(unit))
}

fn us_of(unit: TimescaleUnit) -> f64 {
    match unit {
        TimescaleUnit::S => 1e6,
        TimescaleUnit::MS => 1e3,
        TimescaleUnit::US => 1.0,
        TimescaleUnit::NS => 1e-3,
        TimescaleUnit::PS => 1e-6,
        TimescaleUnit::FS => 1e-9,
    }
}

fn collect(items: &[vcd::ScopeItem], path: &str, signals: &mut BTreeMap<IdCode, Signal>) {
    for item in items {
        match item {
            vcd::ScopeItem::Var(var) if var.size == 1 => {
                let name = if path.is_empty() { var.reference.clone() } else { format!("{path}.{}", var.reference) };
                signals.entry(var.code).or_insert(Signal { name, changes: vec![] });
            }
            vcd::ScopeItem::Scope(scope) => {
                let inner = if path.is_empty() { String::new() } else { format!("{path}.{}", scope.identifier) };
                // The outermost scope names the instrument and not the signal.
                collect(&scope.items, &inner, signals);
            }
            _ => {}
        }
    }
}

/// Marks and spaces of a signal that ends at tick `end`.
fn capture(signal: &Signal, end: u64, us_per_tick: f64) -> Result<Parsed, ExchangeError> {
    let spans: Vec<(bool, u64)> = signal
        .changes
        .iter()
        .enumerate()
        .map(|(index, &(from, high))| {
            (high, signal.changes.get(index + 1).map_or(end, |next| next.0).saturating_sub(from))
        })
        .collect();
    #[expect(clippy::cast_precision_loss, reason = "a recording is far shorter than that")]
    let spans: Vec<(bool, f64)> =
        spans.into_iter().map(|(high, ticks)| (high, ticks as f64 * us_per_tick)).filter(|(_, us)| *us > 0.0).collect();
    let (inverted, remark) = super::durations::rests_high(&spans);
    let spans: Vec<(bool, f64)> = spans.into_iter().map(|(high, us)| (high != inverted, us)).collect();
    Ok(text::of_spans(&spans, None, "vcd", remark.into_iter().collect())?)
}

/// Captures as one file, a signal each, one after another, in µs. Names lose their blanks.
///
/// # Errors
/// Where the file cannot be put together (it is made in memory, so never in practice).
pub fn write(captures: &[(String, &Capture)]) -> std::io::Result<String> {
    let mut out = Vec::new();
    let mut writer = Writer::new(&mut out);
    writer.timescale(1, TimescaleUnit::US)?;
    writer.add_module("signals")?;
    let mut ids = Vec::new();
    for (name, _) in captures {
        ids.push(writer.add_var(VarType::Wire, 1, &identifier(name), None)?);
    }
    writer.upscope()?;
    writer.enddefinitions()?;
    writer.begin(SimulationCommand::Dumpvars)?;
    for &id in &ids {
        writer.change_scalar(id, Value::V0)?;
    }
    writer.end()?;
    let mut now = 0u64;
    for ((_, capture), &id) in captures.iter().zip(&ids) {
        now += 10_000;
        for (index, &us) in capture.durations_us().iter().enumerate().take(MAX_DURATIONS) {
            writer.timestamp(now)?;
            writer.change_scalar(id, if index % 2 == 0 { Value::V1 } else { Value::V0 })?;
            now += u64::from(us);
        }
        writer.timestamp(now)?;
        writer.change_scalar(id, Value::V0)?;
    }
    writer.timestamp(now + 10_000)?;
    String::from_utf8(out).map_err(std::io::Error::other)
}

fn identifier(name: &str) -> String {
    let plain: String = name.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '_' }).collect();
    if plain.is_empty() { "signal".to_owned() } else { plain }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn capture_of(durations: &[u32]) -> Capture {
        Capture::new(durations.to_vec(), None).unwrap()
    }

    fn dump(body: &str) -> String {
        format!(
            "$timescale 1 us $end\n$scope module logic $end\n$var wire 1 ! D0 $end\n$var wire 1 # D1 $end\n$upscope $end\n$enddefinitions $end\n{body}"
        )
    }

    #[test]
    fn a_signal_becomes_marks_and_spaces() {
        let text = dump("#0 0! 0#\n#100 1!\n#9100 0!\n#13600 1!\n#14160 0!\n#60000");
        assert!(looks_like(text.as_bytes()));
        let parsed = read(text.as_bytes(), None).unwrap();
        assert_eq!(parsed.capture.durations_us(), [9000, 4500, 560, 45_840]);
    }

    #[test]
    fn a_signal_that_rests_high_is_inverted_and_that_is_said() {
        let text = dump("#0 1! 0#\n#20000 0!\n#29000 1!\n#33500 0!\n#34060 1!\n#90000\n");
        let parsed = read(text.as_bytes(), None).unwrap();
        assert_eq!(parsed.capture.durations_us()[..3], [9000, 4500, 560]);
        assert!(parsed.remarks.iter().any(|remark| remark.contains("rests high")));
    }

    #[rstest]
    #[case::unknown_then_low("#0 x! 0#\n#10 0!\n#100 1!\n#9100 0!\n#13600 1!\n#14160 0!\n#60000", false)]
    #[case::unknown_then_high("#0 x! 0#\n#10 1!\n#20000 0!\n#29000 1!\n#33500 0!\n#34060 1!\n#90000\n", true)]
    #[case::floats_in_between("#0 0! 0#\n#100 1!\n#4000 z!\n#4001 1!\n#9100 0!\n#13600 1!\n#14160 0!\n#60000", false)]
    fn a_signal_that_starts_unknown_is_read(#[case] body: &str, #[case] inverted: bool) {
        let parsed = read(dump(body).as_bytes(), None).unwrap();
        assert_eq!(parsed.capture.durations_us()[..3], [9000, 4500, 560]);
        assert_eq!(parsed.remarks.iter().any(|remark| remark.contains("rests high")), inverted);
    }

    #[test]
    fn a_file_with_several_signals_asks_which() {
        let text = dump("#0 0! 0#\n#100 1! 1#\n#700 0!\n#900 0#\n#1300 1!\n#1900 0!\n#9000\n");
        let error = read(text.as_bytes(), None).unwrap_err();
        assert_eq!(error, ExchangeError::Signals(vec!["D0".to_owned(), "D1".to_owned()]));
        assert!(error.to_string().contains("2 signals: D0, D1"));
        assert_eq!(read(text.as_bytes(), Some("D1")).unwrap().capture.durations_us()[0], 800);
        assert!(read(text.as_bytes(), Some("D7")).is_err());
    }

    #[rstest]
    #[case::no_scale("$var wire 1 ! D0 $end $enddefinitions $end\n#0 1!\n#5 0!\n", "no $timescale")]
    #[case::still("$timescale 1 us $end $var wire 1 ! D0 $end $enddefinitions $end\n#0 0!\n", "ever changes")]
    #[case::damaged("$timescale 1 us $end $var wire one ! D0 $end", "cannot be read")]
    #[case::buses("$timescale 1 us $end $var wire 8 ! D0 $end $enddefinitions $end\n#0\n", "no signal of one bit")]
    fn what_is_no_dump_says_why(#[case] text: &str, #[case] expected: &str) {
        let error = read(text.as_bytes(), None).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }

    #[rstest]
    #[case::deep(6_000, Some("6000 deep"))]
    #[case::too_deep(65, Some("65 deep"))]
    #[case::as_deep_as_it_goes(64, None)]
    fn scopes_that_stand_deep_in_each_other_are_refused_and_not_walked(
        #[case] scopes: usize,
        #[case] why: Option<&str>,
    ) {
        let text = format!(
            "$timescale 1 us $end\n$comment $scope in words $end\n{}$var wire 1 ! D0 $end\n{}$enddefinitions $end\n#0 0!\n#100 1!\n#9100 0!\n#13600 1!\n#14160 0!\n#60000",
            "$scope module logic $end\n".repeat(scopes),
            "$upscope $end\n".repeat(scopes),
        );
        match (read(text.as_bytes(), None), why) {
            (Ok(parsed), None) => assert_eq!(parsed.capture.durations_us()[..2], [9000, 4500]),
            (Err(error), Some(why)) => assert!(error.to_string().contains(why), "{error}"),
            (read, _) => panic!("{read:?}"),
        }
    }

    #[test]
    fn times_that_jump_back_and_forth_are_read_or_refused_without_an_overflow() {
        let far = u64::MAX - 1;
        let text = dump(&format!("#0 0!\n#{far} 1!\n#1 0!\n#{far} 1!\n#2 0!\n#{far} 1!\n#3 0!\n#{far}\n"));
        let _ = read(text.as_bytes(), Some("D0"));
    }

    #[rstest]
    #[case("1 us", 9_000)]
    #[case("100 ns", 90_000)]
    #[case("1 ns", 9_000_000)]
    fn the_time_scale_is_respected(#[case] scale: &str, #[case] ticks: u64) {
        let text = format!(
            "$timescale {scale} $end $var wire 1 ! D0 $end $enddefinitions $end\n#0 1!\n#{ticks} 0!\n#{} 1!\n#{} 0!\n#{}\n",
            ticks * 2,
            ticks * 2 + ticks / 10,
            ticks * 9
        );
        assert_eq!(read(text.as_bytes(), None).unwrap().capture.durations_us()[..3], [9000, 9000, 900]);
    }

    proptest! {
        #[test]
        fn what_we_write_is_read_back(durations in prop::collection::vec(100u32..50_000, 2..120)) {
            let mut durations = durations;
            if durations.len() % 2 == 0 {
                durations.pop();
            }
            let capture = capture_of(&durations);
            let text = write(&[("Power on".to_owned(), &capture)]).unwrap();
            let read = read(text.as_bytes(), None).unwrap();
            prop_assert_eq!(&read.capture.durations_us()[..durations.len()], &durations[..]);
        }
    }
}
