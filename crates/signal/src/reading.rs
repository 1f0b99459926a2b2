//! Reading a capture: every protocol tried, what fits ranked, and how well it fits.
//!
//! # What the confidence means
//! The best frame is laid out anew from its fields with exact timing, and the receiver's mark stretch
//! and the sender's clock error are fitted out by least squares. What is left is the *error* of every
//! duration. `confidence` is `1 − worst error / flip`, where *flip* is the error at which a 0 would
//! read as a 1 (half of the distance between the two lengths), times the share of the frames that say
//! the same key. 1 is a perfect signal; at 0 a bit is a coin toss.
//!
//! Three doubts lower it, each told as a remark. A *stretch* beyond what receivers do (−60 to +150 µs) or a *clock* that is more
//! than 6 % off: no sender of this protocol looks like that, so it may be another one. *Fewer frames* than receivers of the
//! protocol want. And a frame that is *perhaps cut*: it is the front of a longer member of its family, stands alone, and the
//! capture ends with it.

use super::Capture;
use super::clean::{Cleaned, Frame, clean, clean_harder};
use super::layout::PartSpan;
use super::protocol::{Message, Misfit, Period, Protocol, ProtocolId, Protocols, Turn};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// Frames beyond this many say nothing new.
const FRAMES_READ: usize = 64;

/// What a capture says.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Reading {
    /// The most likely reading, if there is any.
    pub best: Option<Candidate>,
    /// Every reading that fits, the most likely first.
    pub candidates: Vec<Candidate>,
    /// A sentence: what it is, or why it was not recognised.
    pub why: String,
    /// The capture after cleaning: mark, space, …, in µs.
    pub cleaned: Cleaned,
    /// The frames of the cleaned capture.
    pub frames: Vec<FrameSeen>,
}

/// Where a frame lies in the cleaned capture.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FrameSeen {
    /// Start, in µs.
    pub start_us: u64,
    /// From its first mark to the end of its last, in µs.
    pub length_us: u64,
    /// How many durations it has.
    pub durations: usize,
    /// The silence after it in µs; none where the capture ends.
    pub gap_us: Option<u32>,
}

/// One way to read a capture.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Candidate {
    /// The protocol.
    pub protocol: ProtocolId,
    /// Its fields.
    pub fields: BTreeMap<String, u32>,
    /// 0–1: how far the worst duration is from reading differently (see the module's text).
    pub confidence: f64,
    /// How many frames say this key.
    pub frames_matched: usize,
    /// How many short frames say that it is still held.
    pub held_signs: usize,
    /// How many frames there are.
    pub frames_total: usize,
    /// By how much marks are longer (and spaces shorter) than sent, in µs.
    pub stretch_us: f64,
    /// How much slower (+) or faster (−) the sender's clock runs, in %.
    pub unit_error_percent: f64,
    /// The largest error of a duration once stretch and clock are taken out, in µs.
    pub worst_error_us: f64,
    /// The root mean square of the errors, in µs.
    pub rms_error_us: f64,
    /// Nominal carrier in Hz.
    pub carrier_hz: u32,
    /// Measured time from the first frame's start to the next one's, in µs.
    pub period_us: Option<u64>,
    /// Does a held key send its whole frame again, where others of this protocol send a shorter one? It is to be sent like that.
    pub whole_repeats: bool,
    /// Start of the frame that is drawn, in µs.
    pub frame_start_us: u64,
    /// Its parts over its measured durations, in µs from the frame's start.
    pub parts: Vec<PartSpan>,
    /// The error of each of its durations in µs, stretch and clock taken out.
    pub errors_us: Vec<f64>,
    /// Sentences on what else was seen.
    pub remarks: Vec<String>,
    /// The message itself.
    #[serde(skip)]
    pub message: Message,
    /// The frames that say it.
    #[serde(skip)]
    matched: Vec<usize>,
}

/// Reads a capture against every protocol that is built in.
#[must_use]
pub fn read(capture: &Capture) -> Reading {
    read_among(capture, Protocols::built_in())
}

/// Reads a capture against a set of protocols.
#[must_use]
pub fn read_among(capture: &Capture, protocols: &Protocols) -> Reading {
    let reading = read_cleaned(capture, clean(capture), protocols);
    if reading.best.as_ref().is_some_and(|best| best.confidence >= DOUBTFUL) {
        return reading;
    }
    // Where nothing sound is found, a longer glitch may be what spoils it.
    let harder = clean_harder(capture);
    if harder == reading.cleaned {
        return reading;
    }
    let again = read_cleaned(capture, harder, protocols);
    let sure = |reading: &Reading| reading.best.as_ref().map_or(0.0, |best| best.confidence);
    if sure(&again) > sure(&reading) { again } else { reading }
}

/// A reading below this is doubtful.
pub const DOUBTFUL: f64 = 0.5;

fn read_cleaned(capture: &Capture, cleaned: Cleaned, protocols: &Protocols) -> Reading {
    let frames = cleaned.frames();
    let mut candidates: Vec<Candidate> = Vec::new();
    let mut nearest: Option<(&Protocol, Misfit)> = None;
    for protocol in protocols.iter() {
        match read_as(protocol, &frames) {
            Ok(candidate) => candidates.push(candidate),
            Err(misfit) => {
                if nearest.is_none_or(|(_, best)| nearness(misfit) > nearness(best)) {
                    nearest = Some((protocol, misfit));
                }
            }
        }
    }
    candidates.sort_by(|a, b| b.confidence.total_cmp(&a.confidence));
    several_remotes(&mut candidates);
    candidates.iter_mut().for_each(|candidate| candidate.remarks.extend(off_carrier(capture, candidate)));
    let best = candidates.first().cloned();
    let why = best.as_ref().map_or_else(|| why_not(&frames, nearest), why);
    let frames = frames.iter().map(seen).collect();
    Reading { best, candidates, why, cleaned, frames }
}

/// Frames that say something in another protocol than those of the best reading: another remote was heard.
fn several_remotes(candidates: &mut [Candidate]) {
    let Some((best, rest)) = candidates.split_first_mut() else { return };
    // What is read in the same frames is another reading of one remote.
    let other = rest.iter().find(|other| other.matched.iter().all(|frame| !best.matched.contains(frame)));
    if let Some(other) = other {
        best.remarks.push(format!(
            "Two remotes were heard: {} {} say {}, {} {} say {}. Learn one remote at a time, the other one out of sight.",
            best.matched.len(),
            if best.matched.len() == 1 { "frame" } else { "frames" },
            best.message,
            other.matched.len(),
            if other.matched.len() == 1 { "frame" } else { "frames" },
            other.message,
        ));
    }
}

/// A carrier further from the protocol's own than this is told, as a share.
const CARRIER_OFF: f64 = 0.03;

/// What was measured of the carrier, where it is not that of the protocol.
fn off_carrier(capture: &Capture, candidate: &Candidate) -> Option<String> {
    let measured = f64::from(capture.carrier_hz()?);
    let own = f64::from(candidate.carrier_hz);
    let off = measured / own - 1.0;
    (off.abs() > CARRIER_OFF).then(|| {
        format!(
            "Its carrier is {:.1} kHz, {:.0} % {} the {:.1} kHz of {}: some receivers hear that worse.",
            measured / 1_000.0,
            off.abs() * 100.0,
            if off > 0.0 { "above" } else { "below" },
            own / 1_000.0,
            candidate.protocol
        )
    })
}

/// How much a stretch or a clock that no sender or receiver has takes of the confidence, as a factor, and in words.
fn implausible(protocol: &Protocol, fit: &Fit) -> (f64, Option<String>) {
    let clock = (fit.scale - 1.0) * 100.0;
    let over = |value: f64, from: f64, width: f64| ((value.abs() - from) / width).clamp(0.0, 1.0);
    let by_clock = over(clock, CLOCK_PERCENT, 2.0);
    let by_stretch = if fit.stretch_us > 0.0 {
        over(fit.stretch_us, STRETCH_MOST_US, 100.0)
    } else {
        over(fit.stretch_us, STRETCH_LEAST_US, 60.0)
    };
    let doubt = by_clock.max(by_stretch);
    let words = (doubt > 0.0).then(|| {
        format!(
            "Its clock is {clock:+.1} % off and its marks are {:+.0} µs long: hardly a sender of {}, perhaps another protocol.",
            fit.stretch_us, protocol.id
        )
    });
    (1.0 - 0.75 * doubt, words)
}

/// Senders' clocks are no further off than this, in %.
const CLOCK_PERCENT: f64 = 6.0;

/// Receivers make marks longer by up to this, in µs, and shorter by up to the other.
const STRETCH_MOST_US: f64 = 160.0;
const STRETCH_LEAST_US: f64 = 70.0;

/// Is a frame that stands alone at the end of a capture the front of a longer one of its family?
fn perhaps_cut(protocol: &Protocol, matched: &[usize], frames: &[Frame<'_>]) -> bool {
    let [only] = matched else { return false };
    use ProtocolId as Id;
    let family =
        matches!(protocol.id, Id::Sirc12 | Id::Sirc15 | Id::Pd16 | Id::Rc5 | Id::Rc6 | Id::Rc6Mode6a | Id::Rc5x15);
    family && frames.get(*only).is_some_and(|frame| frame.gap_us.is_none())
}

/// Which of two misfits says more: one that came far, else a right leader over a wrong one.
fn nearness(misfit: Misfit) -> u8 {
    match misfit {
        Misfit::Stretch { .. } => 0,
        Misfit::Count { .. } => 2,
        other => {
            if other.progress() >= 3 {
                other.progress()
            } else {
                1
            }
        }
    }
}

fn seen(frame: &Frame<'_>) -> FrameSeen {
    FrameSeen {
        start_us: frame.start_us,
        length_us: frame.durations_us.iter().map(|&us| u64::from(us)).sum(),
        durations: frame.durations_us.len(),
        gap_us: frame.gap_us,
    }
}

/// Reads all frames as one protocol; the error is that of the frame that came furthest.
fn read_as(protocol: &'static Protocol, frames: &[Frame<'_>]) -> Result<Candidate, Misfit> {
    let mut fits: Vec<(usize, Message)> = Vec::new();
    let mut held_signs = 0;
    let mut misfit = Misfit::Leader { found: (0, 0), expected: (0, 0) };
    for (index, frame) in frames.iter().take(FRAMES_READ).enumerate() {
        match protocol.decode(frame.durations_us) {
            Ok(message) => fits.push((index, message)),
            Err(_) if protocol.is_held_sign(frame.durations_us) => held_signs += 1,
            Err(error) if nearness(error) >= nearness(misfit) => misfit = error,
            Err(_) => {}
        }
    }
    let (message, matched) = majority(&fits).ok_or(misfit)?;
    let leads = |index: usize| frames[index].durations_us.len() == message.layout(Turn::First).durations_us().len();
    if matched.len() < 2 && !leads(matched[0]) {
        // A frame without its leader proves nothing alone.
        return Err(Misfit::Leader { found: (0, 0), expected: (0, 0) });
    }
    let toggles = matched.iter().any(|&at| fits.iter().any(|&(i, m)| i == at && m != message));
    let fitted = matched
        .iter()
        .map(|&index| (index, fit(&message, &fits, index, frames[index].durations_us)))
        .min_by(|a, b| a.1.worst_us.total_cmp(&b.1.worst_us));
    let Some((index, fit)) = fitted else { return Err(misfit) };
    let frames_total = frames.len().min(FRAMES_READ);
    let share = (matched.len() + held_signs) as f64 / frames_total.max(1) as f64;
    let mut remarks = remarks(protocol, &matched, &fits, message, toggles, held_signs, frames_total);
    let (plausible, why) = implausible(protocol, &fit);
    remarks.extend(why);
    let wanted = f64::from(protocol.least_frames.max(1));
    let held = ((matched.len() + held_signs) as f64 / wanted).min(1.0);
    // One of three frames is worth two thirds of a whole press.
    let enough = 0.5 + 0.5 * held;
    let cut = perhaps_cut(protocol, &matched, frames);
    if cut {
        remarks.push(
            "Perhaps cut: the capture ends with its only frame, which could be the front of a longer one. Hold the key longer."
                .to_owned(),
        );
    }
    let whole = if cut { 0.7 } else { 1.0 };
    Ok(Candidate {
        protocol: protocol.id,
        fields: message.fields().map(|(name, value)| (name.to_owned(), value)).collect(),
        confidence: ((1.0 - fit.worst_us / protocol.flip_us) * share * plausible * enough * whole).clamp(0.0, 1.0),
        frames_matched: matched.len(),
        held_signs,
        frames_total,
        stretch_us: fit.stretch_us,
        unit_error_percent: (fit.scale - 1.0) * 100.0,
        worst_error_us: fit.worst_us,
        rms_error_us: fit.rms_us,
        carrier_hz: protocol.carrier_hz,
        whole_repeats: whole_repeats(&message, &matched, held_signs, frames),
        period_us: (matched.len() > 1).then(|| frames[matched[1]].start_us - frames[matched[0]].start_us),
        frame_start_us: frames[index].start_us,
        parts: fit.parts,
        errors_us: fit.errors_us,
        remarks,
        message,
        matched,
    })
}

/// Did a held key send its whole frame again, in a protocol that has a shorter one for that? Two presses one after the other
/// are further apart.
fn whole_repeats(message: &Message, matched: &[usize], held_signs: usize, frames: &[Frame<'_>]) -> bool {
    let (first, held) = (message.layout(Turn::First).durations_us(), message.layout(Turn::Held).durations_us());
    let [one, two, ..] = matched else { return false };
    if held_signs > 0 || first == held || frames[*two].durations_us.len() != first.len() {
        return false;
    }
    let apart = frames[*two].start_us - frames[*one].start_us;
    let length: u32 = first.iter().sum();
    let usual = match message.protocol().period {
        Period::StartToStart(us) => us,
        Period::Silence(us) => us + f64::from(length),
    };
    #[expect(clippy::cast_precision_loss, reason = "some ms")]
    let apart = apart as f64;
    apart < 1.4 * usual
}

/// The key that most frames say (the earliest on a tie) and the frames that say it.
fn majority(fits: &[(usize, Message)]) -> Option<(Message, Vec<usize>)> {
    let mut best: Option<(Message, Vec<usize>)> = None;
    for &(_, message) in fits {
        if best.as_ref().is_some_and(|(known, _)| known.same_key(&message)) {
            continue;
        }
        let same: Vec<usize> = fits.iter().filter(|(_, other)| other.same_key(&message)).map(|&(i, _)| i).collect();
        if best.as_ref().is_none_or(|(_, known)| same.len() > known.len()) {
            best = Some((message, same));
        }
    }
    best
}

fn remarks(
    protocol: &Protocol,
    matched: &[usize],
    fits: &[(usize, Message)],
    message: Message,
    toggles: bool,
    held_signs: usize,
    total: usize,
) -> Vec<String> {
    let mut remarks = Vec::new();
    if protocol.id == ProtocolId::NecExt {
        remarks.push("Bits 9–16 are not the complement of bits 1–8: the extended form.".to_owned());
    }
    if let Some((_, other)) = fits.iter().find(|(_, other)| !other.same_key(&message)) {
        remarks.push(format!("Two keys were heard: some frames say {other}. Learn one key at a time."));
    }
    if toggles {
        remarks.push("The toggle bit changed: the key was pressed more than once.".to_owned());
    }
    let strays = total.saturating_sub(matched.len() + held_signs);
    if strays > 0 && fits.len() == matched.len() {
        remarks.push(format!("{strays} of {total} frames did not fit, cut short perhaps."));
    }
    if matched.len() + held_signs < protocol.least_frames as usize {
        remarks.push(format!(
            "Only {} of the {} frames that receivers want was held long enough to be heard; a press is sent with {}.",
            matched.len(),
            protocol.least_frames,
            protocol.least_frames
        ));
    }
    remarks
}

/// How well a frame fits its message.
struct Fit {
    stretch_us: f64,
    scale: f64,
    worst_us: f64,
    rms_us: f64,
    errors_us: Vec<f64>,
    parts: Vec<PartSpan>,
}

/// Least squares over the frame: mark = scale · nominal + stretch, space = scale · nominal − stretch.
fn fit(message: &Message, fits: &[(usize, Message)], index: usize, measured: &[u32]) -> Fit {
    let own = fits.iter().find(|(i, _)| *i == index).map_or(*message, |&(_, own)| own);
    let first = own.layout(Turn::First);
    let ideal = first.durations_us();
    let (layout, ideal) = if ideal.len() == measured.len() {
        (first, ideal)
    } else {
        let held = own.layout(Turn::Held);
        let ideal = held.durations_us();
        (held, ideal)
    };
    let (mut aa, mut ab, mut bb, mut ay, mut by) = (0.0, 0.0, 0.0, 0.0, 0.0);
    let rows = || {
        ideal
            .iter()
            .zip(measured)
            .enumerate()
            .map(|(i, (&nominal, &us))| (f64::from(nominal), if i % 2 == 0 { 1.0 } else { -1.0 }, f64::from(us)))
    };
    for (nominal, sign, us) in rows() {
        aa += nominal * nominal;
        ab += nominal * sign;
        bb += 1.0;
        ay += nominal * us;
        by += sign * us;
    }
    let det = aa * bb - ab * ab;
    let (scale, stretch) =
        if det.abs() < 1e-6 { (1.0, 0.0) } else { ((ay * bb - ab * by) / det, (aa * by - ab * ay) / det) };
    let errors_us: Vec<f64> = rows().map(|(nominal, sign, us)| us - scale * nominal - sign * stretch).collect();
    // A leader may be off without any bit being in danger: it is judged by its decoder alone.
    let bits = usize::from(ideal.first().is_some_and(|&us| us > 2_000)) * 2;
    let worst_us = errors_us.iter().skip(bits).fold(0.0f64, |worst, error| worst.max(error.abs()));
    let rms_us = (errors_us.iter().map(|e| e * e).sum::<f64>() / errors_us.len().max(1) as f64).sqrt();
    Fit { stretch_us: stretch, scale, worst_us, rms_us, errors_us, parts: layout.spans_over(&ideal, measured) }
}

fn why(best: &Candidate) -> String {
    let checks = best.message.protocol().check_bits;
    let check = match (checks, best.frames_matched) {
        (0, 1) => "a single frame without check bits, so nothing confirms it; hold the key longer".to_owned(),
        (0, n) => format!("{n} frames say the same"),
        (_, 1) => format!("its {checks} check bits agree"),
        (_, n) => format!("its {checks} check bits agree and {n} frames say the same"),
    };
    format!("Read as {}: {check}.", best.message)
}

fn why_not(frames: &[Frame<'_>], nearest: Option<(&Protocol, Misfit)>) -> String {
    let longest = frames.iter().map(|frame| frame.durations_us.len()).max().unwrap_or(0);
    if longest < 8 {
        return format!(
            "Not recognised: the longest frame has {longest} durations, fewer than any protocol. The key was held too briefly, or the remote was too far from the learner."
        );
    }
    match nearest {
        Some((protocol, misfit)) if misfit.progress() >= 3 => {
            format!("Not recognised. It comes closest to {}, but {misfit}.", protocol.id)
        }
        Some((protocol, misfit @ Misfit::Count { .. })) => {
            format!("Not recognised. It opens like {}, but {misfit}.", protocol.id)
        }
        _ => format!(
            "Not recognised: no known protocol opens with {} µs and {} µs.",
            frames[0].durations_us[0],
            frames[0].durations_us.get(1).copied().unwrap_or(0)
        ),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text;
    use rstest::rstest;

    fn nec(frames: u32) -> Vec<u32> {
        Message::new(ProtocolId::Nec, [("address", 4), ("command", 8)]).unwrap().encode(frames)
    }

    fn read_durations(durations: Vec<u32>) -> Reading {
        read(&Capture::new(durations, None).unwrap())
    }

    #[test]
    fn a_clean_frame_reads_with_full_confidence_and_every_bit_placed() {
        let best = read_durations(nec(1)).best.unwrap();
        assert_eq!(best.message.to_string(), "nec address=4 command=8");
        assert!(best.confidence > 0.99, "{}", best.confidence);
        assert_eq!(best.parts.len(), 34);
        assert_eq!(best.parts[0].label, "leader");
        assert_eq!(best.parts[3].value, Some(true), "address 4 has its third bit set");
    }

    #[test]
    fn short_held_frames_are_folded_into_one_press() {
        let best = read_durations(nec(3)).best.unwrap();
        assert_eq!((best.frames_matched, best.held_signs, best.frames_total), (1, 2, 3));
        assert!(best.remarks.is_empty(), "{:?}", best.remarks);
    }

    #[rstest]
    #[case(100)]
    #[case(-60)]
    #[case(150)]
    fn the_stretch_of_the_receiver_is_estimated_and_removed(#[case] stretch: i32) {
        let sign = |index: usize| if index.is_multiple_of(2) { stretch } else { -stretch };
        let stretched = nec(1).into_iter().enumerate().map(|(i, us)| us.saturating_add_signed(sign(i))).collect();
        let best = read_durations(stretched).best.unwrap();
        assert!((best.stretch_us - f64::from(stretch)).abs() < 1.0, "{}", best.stretch_us);
        assert!(best.confidence > 0.99);
    }

    #[test]
    fn a_slow_sender_clock_is_measured() {
        let slow = nec(1).iter().map(|&us| us + us / 25).collect();
        let best = read_durations(slow).best.unwrap();
        assert!((best.unit_error_percent - 4.0).abs() < 0.3, "{}", best.unit_error_percent);
    }

    /// Two ways of holding a key: a short frame that says so, or the whole frame again.
    #[test]
    fn the_way_in_which_a_held_key_repeats_is_told() {
        let best = read_durations(nec(3)).best.unwrap();
        assert!(!best.whole_repeats);
        let whole = |times: usize| nec(1).repeat(times);
        assert!(read_durations(whole(3)).best.unwrap().whole_repeats);
        // Two presses, one after the other.
        let mut twice = nec(1);
        *twice.last_mut().unwrap() += 300_000;
        twice.extend(nec(1));
        assert!(!read_durations(twice).best.unwrap().whole_repeats);
        let message = Message::new(ProtocolId::Nec, [("address", 4), ("command", 8)]).unwrap();
        assert_eq!(message.encode_held(3, true), whole(3));
        assert_eq!(message.encode_held(3, false), nec(3));
    }

    #[test]
    fn two_keys_in_one_capture_are_said() {
        let mut both = nec(1);
        both.extend(Message::new(ProtocolId::Nec, [("address", 4), ("command", 9)]).unwrap().encode(1));
        let best = read_durations(both).best.unwrap();
        assert!(best.remarks[0].contains("Two keys were heard"), "{:?}", best.remarks);
    }

    #[test]
    fn a_toggle_that_flips_is_two_presses_of_one_key() {
        let press = Message::new(ProtocolId::Rc5, [("address", 5), ("command", 70)]).unwrap();
        let mut both = press.encode(1);
        both.extend(press.with_toggle(true).encode(1));
        let best = read_durations(both).best.unwrap();
        assert_eq!(best.frames_matched, 2);
        assert!(best.remarks[0].contains("toggle bit changed"));
    }

    #[test]
    fn a_frame_with_a_wrong_check_says_which_bits() {
        let mut wrong = nec(1);
        // Flip the last check bit: a long space becomes a short one.
        wrong[65] = if wrong[65] > 1000 { 563 } else { 1688 };
        let reading = read_durations(wrong);
        assert!(reading.best.is_none());
        assert!(reading.why.contains("bits 25–32 are not the complement of bits 17–24"), "{}", reading.why);
    }

    #[test]
    fn a_cut_frame_is_not_recognised_and_says_so() {
        let reading = read_durations(nec(1)[..31].to_vec());
        assert!(reading.best.is_none());
        assert!(reading.why.contains("cut short"), "{}", reading.why);
    }

    #[test]
    fn a_single_frame_without_check_bits_asks_for_more() {
        let sirc = Message::new(ProtocolId::Sirc12, [("address", 1), ("command", 21)]).unwrap();
        let best = read_durations(sirc.encode(1)).best.unwrap();
        assert!(best.remarks[0].contains("Only 1 of the 3 frames"), "{:?}", best.remarks);
        assert!(read_durations(sirc.encode(3)).best.unwrap().remarks.is_empty());
    }

    #[test]
    fn one_bare_frame_is_not_taken_for_a_key() {
        let message = Message::new(ProtocolId::Pd16, [("address", 7), ("command", 9)]).unwrap();
        let press = message.encode(2);
        let bare = press[36..].to_vec();
        assert!(read_durations(bare).best.is_none());
        assert!(read_durations(press).best.is_some());
    }

    #[test]
    fn text_of_noise_says_why_it_is_nothing() {
        let parsed = text::parse(b"+1350 -1834 +601 -880 +2946 -692 +1113 -1689 +541 -4219").unwrap();
        let reading = read(&parsed.capture);
        assert!(reading.best.is_none());
        assert!(reading.why.starts_with("Not recognised"));
    }
}
