//! Several captures of one key, combined into one better reading.
//!
//! Every capture is read alone. Frames of the same message and the same number of durations are laid over
//! each other and averaged, duration by duration: noise of n frames shrinks with √n, while what they share
//! (stretch, clock) stays and is estimated as always.

use super::{Capture, Message, Protocols, Reading, read_among};
use crate::clean::clean;
use serde::Serialize;
use utoipa::ToSchema;

/// One reading of several captures.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Combined {
    /// The averaged frame with its repeats, or the best of the captures where they cannot be averaged.
    pub capture: Capture,
    /// What it says.
    pub reading: Reading,
    /// How many captures say the same key.
    pub agree: usize,
    /// Sentences on what the captures have to do with each other.
    pub remarks: Vec<String>,
}

/// Combines captures of one key; `None` where there is none.
#[must_use]
pub fn combine(captures: &[Capture]) -> Option<Combined> {
    combine_among(captures, Protocols::built_in())
}

/// The same, read against a set of protocols.
#[must_use]
pub fn combine_among(captures: &[Capture], protocols: &Protocols) -> Option<Combined> {
    let read = |capture: &Capture| read_among(capture, protocols);
    let readings: Vec<Reading> = captures.iter().map(read).collect();
    let messages: Vec<Option<Message>> =
        readings.iter().map(|reading| reading.best.as_ref().map(|best| best.message)).collect();
    let votes = |wanted: &Message| messages.iter().flatten().filter(|message| message.same_key(wanted)).count();
    let leader = messages
        .iter()
        .enumerate()
        .filter_map(|(at, message)| message.map(|m| (at, m)))
        .max_by(|(a, one), (b, other)| votes(one).cmp(&votes(other)).then(b.cmp(a)));
    let Some((at, message)) = leader else {
        let at = (0..captures.len()).max_by_key(|&at| readings[at].frames.iter().map(|frame| frame.durations).max())?;
        let (capture, reading) = (captures[at].clone(), readings[at].clone());
        return Some(Combined { capture, reading, agree: 0, remarks: vec![] });
    };
    let agree = votes(&message);
    let mut remarks = Vec::new();
    let strangers = captures.len() - agree;
    if strangers > 0 && captures.len() > 1 {
        remarks
            .push(format!("{strangers} of {} captures say something else or nothing; {agree} agree.", captures.len()));
    }
    let toggles: Vec<u32> =
        messages.iter().flatten().filter(|m| m.same_key(&message)).filter_map(|m| m.get("toggle")).collect();
    if toggles.contains(&0) && toggles.contains(&1) {
        remarks.push("The captures differ in the toggle bit alone: presses of one key.".to_owned());
    }
    if captures.len() == 1 {
        return Some(Combined { capture: captures[at].clone(), reading: readings[at].clone(), agree, remarks });
    }
    let capture = averaged(captures, &readings, &message).unwrap_or_else(|| captures[at].clone());
    let better = read(&capture);
    let reading = if better.best.as_ref().is_some_and(|best| best.message.same_key(&message)) {
        better
    } else {
        readings[at].clone()
    };
    Some(Combined { capture, reading, agree, remarks })
}

/// The mean of all whole frames of a message, put in place of the frame of the first capture that says it.
fn averaged(captures: &[Capture], readings: &[Reading], message: &Message) -> Option<Capture> {
    let mut sum: Vec<u64> = Vec::new();
    let mut count = 0u64;
    for (capture, reading) in captures.iter().zip(readings) {
        let best = reading.best.as_ref().filter(|best| best.message == *message);
        let Some(best) = best else { continue };
        let cleaned = clean(capture);
        for frame in cleaned.frames() {
            let said = message.protocol().decode(frame.durations_us);
            if frame.durations_us.len() == best.errors_us.len() && said.as_ref() == Ok(message) {
                if sum.is_empty() {
                    sum = vec![0; frame.durations_us.len()];
                }
                if sum.len() == frame.durations_us.len() {
                    sum.iter_mut().zip(frame.durations_us).for_each(|(total, &us)| *total += u64::from(us));
                    count += 1;
                }
            }
        }
    }
    if count == 0 {
        return None;
    }
    let frame: Vec<u32> =
        sum.iter().map(|total| u32::try_from((total + count / 2) / count).unwrap_or(u32::MAX)).collect();
    // As many frames as receivers want, spaced as the protocol spaces them.
    let ideal = message.encode(message.least_frames().max(2));
    let gap = ideal.iter().copied().filter(|&us| us >= super::clean::FRAME_GAP_US).max().unwrap_or(40_000);
    let mut durations = frame.clone();
    for _ in 1..message.least_frames() {
        durations.push(gap);
        durations.extend(&frame);
    }
    Capture::new(durations, captures.first().and_then(Capture::carrier_hz)).ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ProtocolId;
    use crate::read;
    use proptest::prelude::*;

    fn nec(command: u32) -> Message {
        Message::new(ProtocolId::Nec, [("address", 4), ("command", command)]).unwrap()
    }

    fn noisy(message: &Message, seed: u32) -> Capture {
        let mut state = seed;
        let durations = message.encode(1).into_iter().map(|us| {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            us.saturating_add_signed(i32::try_from(state >> 16).unwrap_or(0) % 241 - 120)
        });
        Capture::new(durations.collect(), None).unwrap()
    }

    #[test]
    fn nine_captures_read_better_than_the_worst_of_them() {
        let captures: Vec<Capture> = (1..10).map(|seed| noisy(&nec(8), seed * 77)).collect();
        let combined = combine(&captures).unwrap();
        let best = combined.reading.best.unwrap();
        let single = captures.iter().filter_map(|c| read(c).best).map(|best| best.worst_error_us).fold(0.0, f64::max);
        assert_eq!((combined.agree, best.message), (9, nec(8)));
        assert!(best.worst_error_us < single / 1.5, "{} against {single}", best.worst_error_us);
    }

    #[test]
    fn a_stranger_is_outvoted_and_named() {
        let captures = [noisy(&nec(8), 1), noisy(&nec(9), 2), noisy(&nec(8), 3)];
        let combined = combine(&captures).unwrap();
        assert_eq!(combined.reading.best.unwrap().message, nec(8));
        assert!(combined.remarks[0].contains("1 of 3 captures say something else"));
    }

    #[test]
    fn presses_that_differ_in_the_toggle_bit_are_said() {
        let press = Message::new(ProtocolId::Rc5, [("address", 5), ("command", 70)]).unwrap();
        let captures = [press, press.with_toggle(true)].map(|m| Capture::new(m.encode(1), None).unwrap());
        let combined = combine(&captures).unwrap();
        assert!(combined.remarks[0].contains("toggle bit alone"), "{:?}", combined.remarks);
        assert_eq!(combined.agree, 2);
    }

    #[test]
    fn nothing_and_noise_are_combined_without_harm() {
        assert!(combine(&[]).is_none());
        let noise = Capture::new(vec![1350, 1834, 601, 880, 2946], None).unwrap();
        let combined = combine(&[noise.clone(), noise]).unwrap();
        assert_eq!((combined.agree, combined.reading.best), (0, None));
    }

    proptest! {
        #[test]
        fn one_capture_is_read_as_it_is(command in 0u32..256, seed in 1u32..9_999) {
            let capture = noisy(&nec(command), seed);
            prop_assert_eq!(combine(std::slice::from_ref(&capture)).unwrap().reading, read(&capture));
        }
    }
}
