//! A recording of the carrier itself: its envelope, and the carrier that was measured.
//!
//! A receiver takes the carrier off; a photodiode or a probe at the emitter records it, so that every mark is a row of short
//! pulses. Such a recording is told by its pulses: nearly all marks are shorter than a cycle of the slowest carrier.

/// The slowest carrier that remotes use has a cycle of so many µs (20 kHz).
const CYCLE_MOST_US: f64 = 50.0;

/// Pulses further apart than this are marks of their own, in µs: longer than two cycles of the slowest carrier, shorter than
/// any space.
const APART_US: f64 = 130.0;

/// Pulses from which it can be told.
const PULSES_LEAST: usize = 40;

/// What was recorded, without its carrier.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Envelope {
    /// Marks and spaces in µs, a mark first.
    pub lengths_us: Vec<f64>,
    /// The carrier in Hz.
    pub carrier_hz: u32,
}

/// The envelope of a recording of the carrier; none where it is none.
pub(crate) fn envelope(lengths_us: &[f64]) -> Option<Envelope> {
    let marks = lengths_us.iter().step_by(2);
    let short = marks.clone().filter(|us| **us < CYCLE_MOST_US).count();
    if short < PULSES_LEAST || short * 10 < marks.count() * 9 {
        return None;
    }
    let mut out: Vec<f64> = Vec::new();
    // Within marks: how many whole cycles, and how long they take together.
    let (mut cycles, mut took) = (0u32, 0.0);
    let mut mark = 0.0;
    for (index, &us) in lengths_us.iter().enumerate() {
        if index % 2 == 0 {
            mark += us;
            continue;
        }
        if us < APART_US {
            mark += us;
            let cycle = lengths_us[index - 1] + us;
            if cycle < CYCLE_MOST_US {
                cycles += 1;
                took += cycle;
            }
            continue;
        }
        // The last pulse of a mark is followed by the rest of its cycle.
        let rest = if cycles > 0 { (took / f64::from(cycles) - lengths_us[index - 1]).max(0.0) } else { 0.0 };
        out.extend([mark + rest, us - rest]);
        mark = 0.0;
    }
    if mark > 0.0 {
        out.push(mark);
    }
    if cycles == 0 || out.len() < 2 {
        return None;
    }
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "between 20 kHz and 1 MHz")]
    let carrier_hz = (f64::from(cycles) / took * 1_000_000.0).round() as u32;
    (10_000..=1_000_000).contains(&carrier_hz).then_some(Envelope { lengths_us: out, carrier_hz })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Message, ProtocolId, read, text};
    use rstest::rstest;
    use std::fmt::Write as _;

    /// A press as a probe at the emitter records it: cycles of the carrier, high for a third of each.
    fn modulated(press: &[u32], carrier: f64) -> String {
        let cycle = 1_000_000.0 / carrier;
        let mut text = String::new();
        for (index, &us) in press.iter().enumerate() {
            if index % 2 == 1 {
                let _ = write!(text, "-{us} ");
                continue;
            }
            let pulses = (f64::from(us) / cycle).round().max(1.0);
            for pulse in 0..pulses as u32 {
                let _ = write!(text, "+{:.3} ", cycle / 3.0);
                if f64::from(pulse + 1) < pulses {
                    let _ = write!(text, "-{:.3} ", cycle * 2.0 / 3.0);
                }
            }
        }
        text
    }

    #[rstest]
    #[case(ProtocolId::Nec, 38_000.0)]
    #[case(ProtocolId::Nec, 56_000.0)]
    #[case(ProtocolId::Rc5, 36_000.0)]
    #[case(ProtocolId::Sirc12, 40_000.0)]
    fn a_recording_of_the_carrier_is_read_and_its_carrier_measured(#[case] id: ProtocolId, #[case] carrier: f64) {
        let message = Message::new(id, [("address", 4), ("command", 8)]).unwrap();
        let parsed = text::parse(modulated(&message.encode(3), carrier).as_bytes()).unwrap();
        let hz = f64::from(parsed.capture.carrier_hz().unwrap());
        assert!((hz / carrier - 1.0).abs() < 0.005, "{hz}");
        assert!(parsed.remarks.iter().any(|remark| remark.contains("envelope was taken")), "{:?}", parsed.remarks);
        let best = read(&parsed.capture).best.unwrap();
        assert_eq!(best.message, message);
        let off = best.remarks.iter().any(|remark| remark.contains("Its carrier is"));
        assert_eq!(off, carrier == 56_000.0, "{:?}", best.remarks);
    }

    #[test]
    fn an_ordinary_capture_has_no_envelope() {
        let press = Message::new(ProtocolId::Nec, [("address", 4), ("command", 8)]).unwrap().encode(2);
        let lengths: Vec<f64> = press.into_iter().map(f64::from).collect();
        assert_eq!(envelope(&lengths), None);
        assert_eq!(envelope(&[10.0, 10.0].repeat(60)), None, "no space parts its marks");
    }
}
