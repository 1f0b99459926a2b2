//! The shape of a described frame: found out by sending it with other values and looking at what changes.

use super::{NotDescribed, Sent, not};
use crate::clean::FRAME_GAP_US;
use crate::protocol::{MAX_FIELDS, Misfit, Period, Values};

/// A frame has no more durations than this.
const MAX_DURATIONS: usize = 400;

/// A frame has to say where it ends.
pub(super) const NO_SILENCE: &str = "it ends with a mark: say the silence after it, as -40m or ^108m";

/// What a mark or a space of a frame stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Slot {
    /// It opens the frame.
    Leader,
    /// It is always the same.
    Fixed,
    /// It says one bit of a field.
    Field {
        /// Which field.
        field: usize,
        /// Which bit, the least significant one is 0.
        bit: u32,
    },
    /// Several bits change it, or one that stands elsewhere already.
    Check {
        /// The duration that says it.
        by: usize,
        /// Longer than this it is a 1, in µs.
        long: u32,
    },
}

/// The shape of a described protocol.
#[derive(Debug, Clone)]
pub(super) struct Shape {
    /// How many times the frame stands in one press.
    pub frames: u32,
    pub period: Period,
    /// Silences from this length on end a frame, in µs.
    pub silence_us: u32,
    /// Half of the least difference of two of its lengths, in µs.
    pub flip_us: f64,
    pub check_bits: u32,
    /// What each duration stands for, where every frame has as many.
    pub slots: Vec<Slot>,
    /// What fields are called in a drawing.
    pub labels: [&'static str; MAX_FIELDS],
    /// How many durations a frame has, least and most of what was tried.
    count: (usize, usize),
    /// The first mark and space, where they are always the same.
    leader: Option<(u32, u32)>,
    /// Its lengths: marks, and spaces.
    lengths: [Vec<u32>; 2],
    /// What a held key leaves out of its frame, where the rest is the same.
    opening: Vec<u32>,
    /// The sign that a key is still held, where it says nothing else.
    held_sign: Option<Vec<u32>>,
    /// How long each duration is for the bits that it says; only where the notation's reader cannot read this.
    pub tables: Vec<Table>,
}

/// How long one duration of a frame is for the bits that it says.
#[derive(Debug, Clone)]
pub(super) struct Table {
    /// Which duration.
    at: usize,
    /// Which bits: field and place.
    bits: Vec<(usize, u32)>,
    /// Its length for every way in which they can be set.
    lengths: Vec<u32>,
}

/// One duration says no more bits than this.
const BITS_MOST: usize = 4;

/// What each duration says, for descriptions that the notation's reader can only send.
pub(super) fn tables(
    maxima: &[u32],
    base: &Values,
    frame_of: &dyn Fn(&Values) -> Option<Vec<u32>>,
) -> Result<Vec<Table>, NotDescribed> {
    let no = || not("it cannot be read back: its bits do not each have a mark or a space of their own");
    let frame = frame_of(base).ok_or_else(no)?;
    let mut left: Vec<(usize, u32)> = Vec::new();
    for (field, &max) in maxima.iter().enumerate() {
        left.extend((0..u32::BITS - max.leading_zeros()).map(|bit| (field, bit)));
    }
    let flipped = |values: &Values, (field, bit): (usize, u32)| {
        let mut own = *values;
        own[field] ^= 1 << bit;
        own
    };
    let mut by: Vec<Vec<(usize, u32)>> = vec![Vec::new(); frame.len()];
    for &bit in &left {
        let other = frame_of(&flipped(base, bit)).filter(|other| other.len() == frame.len()).ok_or_else(no)?;
        (0..frame.len()).filter(|&at| other[at] != frame[at]).for_each(|at| by[at].push(bit));
    }
    let mut all = Vec::new();
    for (at, bits) in by.into_iter().enumerate() {
        if bits.is_empty() || bits.len() > BITS_MOST || bits.iter().any(|bit| !left.contains(bit)) {
            continue;
        }
        left.retain(|bit| !bits.contains(bit));
        let mut lengths = Vec::new();
        for set in 0..1_u32 << bits.len() {
            let mut own = *base;
            for (place, &(field, bit)) in bits.iter().enumerate() {
                own[field] = own[field] & !(1 << bit) | (set >> place & 1) << bit;
            }
            lengths.push(*frame_of(&own).ok_or_else(no)?.get(at).ok_or_else(no)?);
        }
        all.push(Table { at, bits, lengths });
    }
    if left.is_empty() { Ok(all) } else { Err(no()) }
}

/// The frame of a press and, where it is another one, that of a held key; each from its first mark to its last.
pub(super) fn frames(sent: &Sent) -> Result<(Vec<u32>, Option<Vec<u32>>), NotDescribed> {
    let first = one(if sent[0].is_empty() { &sent[1] } else { &sent[0] })?.0;
    let held = if sent[0].is_empty() || sent[1].is_empty() { None } else { Some(one(&sent[1])?.0) };
    Ok((first.clone(), held.filter(|held| *held != first)))
}

/// The one frame that stands in what is sent, how often, and the silence after it.
fn one(sent: &[u32]) -> Result<(Vec<u32>, u32, u32), NotDescribed> {
    if sent.len() < 4 {
        return Err(not("it sends fewer than two marks"));
    }
    if sent.len() > MAX_DURATIONS * 4 {
        return Err(not(format!("a press has {} durations; at most {} are sent", sent.len(), MAX_DURATIONS * 4)));
    }
    if !sent.len().is_multiple_of(2) {
        return Err(not(NO_SILENCE));
    }
    let mut all: Vec<(&[u32], u32)> = Vec::new();
    let mut from = 0;
    for at in (1..sent.len()).step_by(2) {
        if sent[at] >= FRAME_GAP_US || at + 1 == sent.len() {
            all.push((&sent[from..at], sent[at]));
            from = at + 1;
        }
    }
    let Some(&(frame, silence)) = all.last() else { return Err(not("it sends nothing")) };
    if silence < FRAME_GAP_US {
        return Err(not(format!(
            "the silence at its end is {silence} µs; at least {FRAME_GAP_US} µs are needed to tell where a frame ends"
        )));
    }
    if all.iter().any(|(other, _)| *other != frame) {
        return Err(not(format!(
            "a press has {} frames that are not the same; describe the one that says the key",
            all.len()
        )));
    }
    if frame.len() > MAX_DURATIONS {
        return Err(not(format!("a frame has {} durations; at most {MAX_DURATIONS} are read", frame.len())));
    }
    Ok((frame.to_vec(), u32::try_from(all.len()).unwrap_or(u32::MAX), silence))
}

impl Shape {
    /// The shape of what is sent with these fields.
    pub fn of(
        maxima: &[u32],
        base: &Values,
        send: &dyn Fn(&Values) -> Result<Sent, NotDescribed>,
    ) -> Result<Self, NotDescribed> {
        let first_of = |values: &Values| {
            let sent = send(values)?;
            one(if sent[0].is_empty() { &sent[1] } else { &sent[0] })
        };
        let (frame, many, _) = first_of(base)?;
        let with = |pattern: u32| -> Values {
            let mut own = *base;
            maxima
                .iter()
                .enumerate()
                .for_each(|(at, max)| own[at] = (pattern & all_ones(*max)).min(*max).max(base[at].min(*max)));
            own
        };
        let mut tried = vec![*base];
        tried.extend([with(0), with(u32::MAX), with(0x5555_5555), with(0xaaaa_aaaa)]);
        let mut flips: Vec<(usize, u32, Values)> = Vec::new();
        for (field, &max) in maxima.iter().enumerate() {
            for bit in 0..u32::BITS - max.leading_zeros() {
                let mut own = *base;
                own[field] ^= 1 << bit;
                if own[field] <= max {
                    flips.push((field, bit, own));
                }
            }
        }
        tried.extend(flips.iter().map(|(_, _, own)| *own));
        let mut seen: Vec<(Vec<u32>, u32)> = Vec::new();
        for own in &tried {
            // What one combination cannot send is told when somebody wants to send it.
            if let Ok((frame, frames, silence)) = first_of(own) {
                if frames != many {
                    return Err(not(
                        "some of its values make a silence that ends the frame: it cannot be told from two",
                    ));
                }
                seen.push((frame, silence));
            }
        }
        let lengths = [0, 1].map(|kind| {
            let mut all: Vec<u32> =
                seen.iter().flat_map(|(own, _)| own.iter().skip(kind).step_by(2).copied()).collect();
            all.sort_unstable();
            all.dedup();
            all
        });
        let inside = seen.iter().flat_map(|(own, _)| own.iter().skip(1).step_by(2)).copied().max().unwrap_or(0);
        let least_silence = seen.iter().map(|(_, silence)| *silence).min().unwrap_or(FRAME_GAP_US);
        let counts = || seen.iter().map(|(own, _)| own.len());
        let count = (counts().min().unwrap_or(0), counts().max().unwrap_or(0));
        let opens = (frame[0], frame.get(1).copied().unwrap_or(0));
        let leader = seen.iter().all(|(own, _)| (own[0], own.get(1).copied().unwrap_or(0)) == opens).then_some(opens);
        let whole = |(own, silence): &(Vec<u32>, u32)| own.iter().sum::<u32>() + silence;
        let to_start = seen.iter().map(whole).max().unwrap_or(0);
        let period = if seen.iter().all(|own| own.1 == seen[0].1) && seen.iter().any(|own| whole(own) != to_start) {
            Period::Silence(f64::from(seen[0].1))
        } else {
            Period::StartToStart(f64::from(to_start))
        };
        let held_of = |values: &Values| frames(&send(values)?).map(|(_, held)| held);
        let held = held_of(base)?;
        let says_nothing = flips.iter().all(|(_, _, own)| held_of(own).is_ok_and(|other| other == held));
        let left_out = held.as_ref().map_or(0, |held| frame.len().saturating_sub(held.len()));
        let tail = |own: &Values| {
            let both = send(own).and_then(|sent| frames(&sent));
            both.is_ok_and(|(first, held)| {
                held.is_some_and(|held| first.ends_with(&held) && first.len() == held.len() + left_out)
            })
        };
        let opens_only = left_out > 0 && left_out.is_multiple_of(2) && !says_nothing;
        let opening = if opens_only && tail(base) && flips.iter().all(|(_, _, own)| tail(own)) {
            frame[..left_out].to_vec()
        } else {
            vec![]
        };
        let several = lengths.iter().any(|own| own.len() > 3);
        let (slots, check_bits) =
            slots(&frame, &flips, &|own| first_of(own).ok().map(|(frame, _, _)| frame), leader, several);
        Ok(Self {
            frames: many,
            period,
            silence_us: (inside + inside / 4).max(least_silence / 2).min(least_silence),
            flip_us: flip(&lengths),
            check_bits,
            slots,
            labels: LABELS,
            count,
            leader,
            lengths,
            opening,
            tables: vec![],
            held_sign: held.filter(|held| says_nothing && held.len() < frame.len()),
        })
    }

    /// The whole of a frame that a held key has sent without its opening; none of any other.
    pub fn with_opening(&self, frame: &[u32]) -> Option<Vec<u32>> {
        let short = !self.opening.is_empty() && frame.len() + self.opening.len() == self.count.0;
        short.then(|| self.opening.iter().chain(frame).copied().collect())
    }

    /// What a frame says by its tables, its marks taken to be `stretch` µs too long.
    pub fn looked_up(&self, frame: &[u32], stretch: i32) -> Option<Values> {
        let mut values: Values = [0; MAX_FIELDS];
        for own in &self.tables {
            let us = unstretched(own.at, *frame.get(own.at)?, stretch);
            let set = (0..own.lengths.len()).min_by_key(|&set| own.lengths[set].abs_diff(us))?;
            for (place, &(field, bit)) in own.bits.iter().enumerate() {
                values[field] |= u32::from(set >> place & 1 == 1) << bit;
            }
        }
        Some(values)
    }

    /// Is each duration of a frame nearer to what is sent than to anything else?
    pub fn is_like(&self, frame: &[u32], sent: &[u32], stretch: i32) -> bool {
        frame.iter().zip(sent).enumerate().all(|(at, (&us, &sent))| {
            let off = f64::from(unstretched(at, us, stretch).abs_diff(sent));
            off <= (self.flip_us * 0.9).max(0.08 * f64::from(sent))
        })
    }

    /// Has every frame as many durations?
    pub const fn is_fixed(&self) -> bool {
        self.count.0 == self.count.1
    }

    /// Can a frame be one of these, by how it opens and by how long it is?
    pub fn opens(&self, frame: &[u32]) -> Result<(), Misfit> {
        let (least, most) = self.count;
        if least == most && frame.len() != least {
            return Err(Misfit::Count { expected: least, found: frame.len() });
        }
        let Some(expected) = self.leader else { return Ok(()) };
        let found = (frame[0], frame.get(1).copied().unwrap_or(0));
        let near =
            |found: u32, expected: u32| f64::from(found.abs_diff(expected)) <= 160.0 + 0.15 * f64::from(expected);
        if near(found.0, expected.0) && near(found.1, expected.1) {
            Ok(())
        } else {
            Err(Misfit::Leader { found, expected })
        }
    }

    /// Why a frame that opens well is none of these.
    pub fn misfit(&self, frame: &[u32]) -> Misfit {
        let near = |us: u32, known: u32| f64::from(us.abs_diff(known)) <= self.flip_us + 0.08 * f64::from(known);
        let odd =
            frame.iter().enumerate().find(|(at, us)| !self.lengths[at % 2].iter().any(|known| near(**us, *known)));
        match odd {
            Some((index, &us)) => Misfit::Duration { index, us },
            None => Misfit::Rule("its bits do not fit its description: what they say twice is not the same"),
        }
    }

    /// Does a frame only say that the key is still held?
    pub fn is_held_sign(&self, frame: &[u32]) -> bool {
        let near = |us: u32, known: u32| f64::from(us.abs_diff(known)) <= 160.0 + 0.15 * f64::from(known);
        self.held_sign
            .as_ref()
            .is_some_and(|own| own.len() == frame.len() && own.iter().zip(frame).all(|(known, us)| near(*us, *known)))
    }
}

/// A duration as it was sent, marks taken to be `stretch` µs too long.
pub(super) fn unstretched(at: usize, us: u32, stretch: i32) -> u32 {
    us.saturating_add_signed(if at.is_multiple_of(2) { -stretch } else { stretch })
}

/// What fields are called in a drawing; the drawing's own words have the letters.
const LABELS: [&str; MAX_FIELDS] = ["field 1", "field 2", "field 3", "field 4", "field 5"];

/// As many ones as the greatest value has bits.
fn all_ones(max: u32) -> u32 {
    u32::MAX.checked_shr(max.leading_zeros()).unwrap_or(0)
}

/// Half of the least difference between two lengths of a kind, in µs. Lengths that differ by less than a tenth are one, written
/// twice.
fn flip(lengths: &[Vec<u32>; 2]) -> f64 {
    let steps = lengths.iter().flat_map(|own| own.windows(2)).filter(|pair| (pair[1] - pair[0]) * 10 > pair[0]);
    let least = steps.map(|pair| pair[1] - pair[0]).min();
    let shortest = lengths.iter().filter_map(|own| own.first()).min().copied().unwrap_or(400);
    f64::from(least.unwrap_or(shortest).min(4 * shortest)) / 2.0
}

/// What each duration stands for, by what changes when one bit does.
fn slots(
    frame: &[u32],
    flips: &[(usize, u32, Values)],
    send: &dyn Fn(&Values) -> Option<Vec<u32>>,
    leader: Option<(u32, u32)>,
    several: bool,
) -> (Vec<Slot>, u32) {
    let mut by: Vec<Vec<(usize, u32, u32)>> = vec![Vec::new(); frame.len()];
    for (field, bit, own) in flips {
        let Some(other) = send(own) else { continue };
        if other.len() != frame.len() {
            return (vec![], 0);
        }
        for at in 0..frame.len() {
            if other[at] != frame[at] {
                by[at].push((*field, *bit, other[at]));
            }
        }
    }
    let mut said: Vec<(usize, u32)> = Vec::new();
    let mut all: Vec<Slot> = Vec::with_capacity(frame.len());
    let mut check_bits = 0;
    for (at, own) in by.iter().enumerate() {
        all.push(match own[..] {
            [] if at < 2 && leader.is_some_and(|(mark, _)| mark > 2 * frame[frame.len() - 1]) => Slot::Leader,
            [] => Slot::Fixed,
            [(field, bit, _)] if !said.contains(&(field, bit)) => {
                said.push((field, bit));
                Slot::Field { field, bit }
            }
            // One of several lengths says two bits.
            [(field, bit, _), (other, place, _)]
                if several && !said.contains(&(field, bit)) && !said.contains(&(other, place)) =>
            {
                said.extend([(field, bit), (other, place)]);
                Slot::Field { field, bit: bit.max(place) }
            }
            [(_, _, other), ..] => {
                check_bits += 1;
                Slot::Check { by: at, long: u32::midpoint(frame[at], other) }
            }
        });
    }
    // The mark of a bit in pulse distance, and the space of one in pulse length, belong to their bit.
    for at in (0..all.len().saturating_sub(1)).step_by(2) {
        match (all[at], all[at + 1]) {
            (Slot::Fixed, own @ (Slot::Field { .. } | Slot::Check { .. })) => all[at] = own,
            (own @ (Slot::Field { .. } | Slot::Check { .. }), Slot::Fixed) => all[at + 1] = own,
            _ => {}
        }
    }
    (all, check_bits)
}
