//! One long recording of a whole handset: every key pressed in turn, in any order.
//!
//! Presses are parted by silence: frames of one press follow each other within 114 ms (the longest period of a protocol here),
//! and nobody lets go of a key and finds the next one sooner than that. Each press is read alone; presses of one key are one,
//! in the order in which keys were first pressed.

use super::radio::{self, RadioCode};
use super::{Capture, Message, Protocols, Reading, read_among};

/// A silence at least this long parts two presses, in µs.
pub const PRESS_GAP_US: u32 = 180_000;

/// A press of fewer durations is a spark.
const LEAST_DURATIONS: usize = 8;

/// What one key of the handset said.
#[derive(Debug, Clone, PartialEq)]
pub struct KeyHeard {
    /// What it says.
    pub says: Said,
    /// The press that was read best.
    pub capture: Capture,
    /// When it was first pressed, in µs from the start of the recording.
    pub at_us: u64,
    /// How often it was pressed.
    pub presses: usize,
    /// 0–1, as in a reading; 0 where nothing was understood.
    pub confidence: f64,
    /// What was remarked on that press.
    pub remarks: Vec<String>,
    /// Does the held key send its whole frame again, where others of its protocol send a shorter one?
    pub whole_repeats: bool,
}

/// What a press says.
#[derive(Debug, Clone, PartialEq)]
pub enum Said {
    /// An infrared message.
    Message(Message),
    /// A fixed radio code with its unit in µs.
    Radio(RadioCode, f64),
    /// Nothing that is understood: its timing is all there is.
    Nothing,
}

impl Said {
    fn same_key(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Message(a), Self::Message(b)) => a.same_key(b),
            (Self::Radio(a, _), Self::Radio(b, _)) => a == b,
            // Two that are not understood may be anything.
            _ => false,
        }
    }
}

/// The presses of a recording, each as a capture of its own, with its start in µs.
#[must_use]
pub fn presses(capture: &Capture) -> Vec<(u64, Capture)> {
    let (mut all, mut own, mut start, mut now) = (Vec::new(), Vec::new(), 0u64, 0u64);
    let close = |own: &mut Vec<u32>, start: u64, all: &mut Vec<(u64, Capture)>| {
        let durations = std::mem::take(own);
        if durations.len() >= LEAST_DURATIONS {
            all.extend(Capture::new(durations, capture.carrier_hz()).ok().map(|press| (start, press)));
        }
    };
    for (index, &us) in capture.durations_us().iter().enumerate() {
        let silence = index % 2 == 1 && us >= PRESS_GAP_US;
        if silence {
            close(&mut own, start, &mut all);
        } else {
            if own.is_empty() {
                start = now;
            }
            own.push(us);
        }
        now += u64::from(us);
    }
    close(&mut own, start, &mut all);
    all
}

fn said(press: &Capture, reading: &Reading) -> (Said, f64, Vec<String>) {
    if let Some(best) = &reading.best {
        return (Said::Message(best.message), best.confidence, best.remarks.clone());
    }
    match radio::read(press) {
        Ok(heard) => (Said::Radio(heard.candidates[0], heard.unit_us), heard.confidence, heard.remarks),
        Err(_) => (Said::Nothing, 0.0, vec![reading.why.clone()]),
    }
}

/// The keys of a recording, in the order in which they were first pressed.
#[must_use]
pub fn handset(capture: &Capture, protocols: &Protocols) -> Vec<KeyHeard> {
    let mut keys: Vec<KeyHeard> = Vec::new();
    for (at_us, press) in presses(capture) {
        let reading = read_among(&press, protocols);
        let whole_repeats = reading.best.as_ref().is_some_and(|best| best.whole_repeats);
        let (says, confidence, remarks) = said(&press, &reading);
        match keys.iter_mut().find(|known| known.says.same_key(&says)) {
            Some(known) => {
                known.presses += 1;
                known.whole_repeats |= whole_repeats;
                if confidence > known.confidence {
                    (known.capture, known.confidence, known.remarks) = (press, confidence, remarks);
                }
            }
            None => keys.push(KeyHeard { says, capture: press, at_us, presses: 1, confidence, remarks, whole_repeats }),
        }
    }
    keys
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ProtocolId;
    use proptest::prelude::*;

    fn message(id: ProtocolId, command: u32) -> Message {
        Message::new(id, [("address", 5), ("command", command)]).unwrap()
    }

    fn recording(pressed: &[Vec<u32>]) -> Capture {
        let mut durations = Vec::new();
        for press in pressed {
            durations.extend(press);
            if let Some(last) = durations.last_mut() {
                *last += 400_000;
            }
        }
        Capture::new(durations, None).unwrap()
    }

    #[test]
    fn every_key_once_in_the_order_in_which_it_was_first_pressed() {
        let press = |command: u32| message(ProtocolId::Nec, command).encode(3);
        let toggled = message(ProtocolId::Rc5, 9);
        let heard = recording(&[
            press(1),
            press(2),
            press(1),
            toggled.encode(2),
            toggled.with_toggle(true).encode(2),
            RadioCode::ook24(0b10 << 18, 3).unwrap().encode(350, 4),
            vec![150, 20_000],
        ]);
        let keys = handset(&heard, Protocols::built_in());
        let said: Vec<(String, usize)> = keys
            .iter()
            .map(|key| match &key.says {
                Said::Message(message) => (message.to_string(), key.presses),
                Said::Radio(code, _) => (code.to_string(), key.presses),
                Said::Nothing => ("?".to_owned(), key.presses),
            })
            .collect();
        let expected = [
            ("nec address=5 command=1", 2),
            ("nec address=5 command=2", 1),
            ("rc5 address=5 command=9 toggle=0", 2),
            ("ook-24 identity=524288 key=3", 1),
        ];
        assert_eq!(said, expected.map(|(said, presses)| (said.to_owned(), presses)));
        assert!(keys.iter().all(|key| key.confidence > 0.9), "{keys:?}");
    }

    #[test]
    fn what_is_not_understood_is_kept_with_the_reason() {
        let strange: Vec<u32> = (0..40).map(|at| 300 + 137 * (at % 7)).collect();
        let keys = handset(&recording(&[strange]), Protocols::built_in());
        assert!(matches!(keys[0].says, Said::Nothing) && keys[0].remarks[0].starts_with("Not recognised"), "{keys:?}");
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        #[test]
        fn any_order_of_keys_comes_back(order in prop::collection::vec(0u32..20, 1..30), stretch in -60i32..=120) {
            let press = |command: u32| -> Vec<u32> {
                let press = message(ProtocolId::Nec, command).encode(2);
                let sign = |at: usize| if at.is_multiple_of(2) { stretch } else { -stretch };
                press.into_iter().enumerate().map(|(at, us)| us.saturating_add_signed(sign(at))).collect()
            };
            let keys = handset(&recording(&order.iter().map(|&own| press(own)).collect::<Vec<_>>()), Protocols::built_in());
            let mut first: Vec<u32> = Vec::new();
            for &own in &order {
                if !first.contains(&own) {
                    first.push(own);
                }
            }
            let found: Vec<Said> = keys.iter().map(|key| key.says.clone()).collect();
            prop_assert_eq!(found, first.into_iter().map(|own| Said::Message(message(ProtocolId::Nec, own))).collect::<Vec<_>>());
            prop_assert_eq!(keys.iter().map(|key| key.presses).sum::<usize>(), order.len());
        }
    }
}
