//! A description proposed from captures: what a remote sends that no protocol fits.
//!
//! Three or more captures of different keys show what stays the same and what changes. The frames are taken apart by the
//! lengths of their marks and spaces ([`lengths`](Lengths)), which say how bits are coded; bits that repeat others are found
//! ([`structure`]), and what is left becomes fields. The proposal is then tried on every frame that it was made from: what it
//! does not explain is told.

mod lengths;
mod structure;

use crate::capture::Capture;
use crate::clean::{Frame, clean};
use crate::protocol::described::{Trial, trial};
use lengths::{Coding, Lengths};
use serde::Serialize;
use std::fmt::Write as _;
use structure::{Check, Piece, structure};
use utoipa::ToSchema;

/// So many captures are needed at least.
pub const CAPTURES_LEAST: usize = 3;

/// A frame with fewer durations says no key.
const SHORT: usize = 12;

/// A description that explains captures.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Proposal {
    /// The description, in IRP.
    pub irp: String,
    /// How many frames it reads.
    pub explained: usize,
    /// How many frames there are that could say a key.
    pub frames: usize,
    /// How far the worst duration is off, stretch taken out, in µs.
    pub worst_us: f64,
    /// From how much on one bit would read as another, in µs.
    pub flip_us: f64,
    /// Its fields.
    pub fields: Vec<ProposedField>,
    /// What was found, a sentence each.
    pub words: Vec<String>,
}

/// A field of a proposal.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ProposedField {
    /// Its name.
    pub name: String,
    /// How many bits it has.
    pub bits: usize,
    /// What each capture says.
    pub values: Vec<u32>,
}

/// Why there is no proposal: a sentence.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NoProposal(pub String);

impl std::fmt::Display for NoProposal {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.0)
    }
}

impl std::error::Error for NoProposal {}

fn no<T>(why: impl Into<String>) -> Result<T, NoProposal> {
    Err(NoProposal(why.into()))
}

/// A description of what several captures of one remote say, each of another key.
///
/// # Errors
/// Why none can be proposed.
pub fn propose(captures: &[Capture]) -> Result<Proposal, NoProposal> {
    if captures.len() < CAPTURES_LEAST {
        return no(format!(
            "{} of {CAPTURES_LEAST} captures: capture {CAPTURES_LEAST} or more different keys of this remote, so that what changes can be told from what stays.",
            captures.len()
        ));
    }
    let cleaned: Vec<_> = captures.iter().map(clean).collect();
    let all: Vec<Vec<Frame<'_>>> = cleaned.iter().map(|own| own.frames()).collect();
    let whole: Vec<Vec<Frame<'_>>> =
        all.iter().map(|own| own.iter().filter(|frame| frame.durations_us.len() >= SHORT).copied().collect()).collect();
    if let Some(at) = whole.iter().position(Vec::is_empty) {
        return no(format!(
            "Capture {} has no frame that is long enough to say a key: hold the key longer, nearer to the learner.",
            at + 1
        ));
    }
    let mut reasons = Vec::new();
    for lengths in Lengths::of(&whole)? {
        match from_lengths(captures, &all, &whole, &lengths) {
            Ok(found) => return Ok(found),
            Err(why) => reasons.push(why),
        }
    }
    Err(reasons.into_iter().next().unwrap_or_else(|| NoProposal("Nothing in these captures repeats.".to_owned())))
}

/// The description that one reading of the lengths gives, tried on every frame.
fn from_lengths(
    captures: &[Capture],
    all: &[Vec<Frame<'_>>],
    whole: &[Vec<Frame<'_>>],
    lengths: &Lengths,
) -> Result<Proposal, NoProposal> {
    // What a capture says is what most of its frames say.
    let mut said: Vec<Vec<bool>> = Vec::new();
    for (at, frames) in whole.iter().enumerate() {
        let read: Vec<Vec<bool>> = frames.iter().filter_map(|frame| lengths.bits(frame.durations_us)).collect();
        let most = read.iter().max_by_key(|own| read.iter().filter(|other| other == own).count());
        match most {
            Some(own) => said.push(own.clone()),
            None => return no(format!("The frames of capture {} are not made of {}.", at + 1, lengths.coding.words())),
        }
    }
    let bits = said[0].len();
    if let Some(at) = said.iter().position(|own| own.len() != bits) {
        return no(format!(
            "Capture {} has {} bits where capture 1 has {bits}: another remote, or a frame that is cut.",
            at + 1,
            said[at].len()
        ));
    }
    if bits > 128 {
        return no(format!("A frame of {bits} bits is longer than any remote's key: record one key at a time."));
    }
    if said.iter().all(|own| *own == said[0]) {
        return no("Every capture says the same: capture different keys.");
    }
    let found = structure(&said, lengths.coding.msb())?;
    let carriers: Vec<u32> = captures.iter().filter_map(Capture::carrier_hz).collect();
    let carrier = if carriers.is_empty() {
        None
    } else {
        Some(carriers.iter().map(|own| u64::from(*own)).sum::<u64>() / carriers.len() as u64)
    };
    let silence = Silence::of(all);
    let held = held(all, lengths);
    let irp = written(lengths, &found, carrier, &silence, held.as_deref());
    let trial = match trial(&irp) {
        Ok(trial) => trial,
        Err(why) => return no(format!("What was found makes no description that can be sent: {why}")),
    };
    told(&trial, whole, &said, lengths, &found, carrier, &silence, irp)
}

/// The description in IRP.
fn written(
    lengths: &Lengths,
    found: &structure::Structure,
    carrier: Option<u64>,
    silence: &Silence,
    held: Option<&str>,
) -> String {
    let mut irp = String::from("{");
    #[expect(clippy::cast_precision_loss, reason = "a carrier of some kHz")]
    let khz = carrier.map_or(38.0, |hz| (hz as f64 / 100.0).round() / 10.0);
    let _ = write!(irp, "{khz}k,{}{}}}{}(", lengths.unit_us, if found.msb { ",msb" } else { "" }, lengths.spec());
    for item in lengths.opening() {
        let _ = write!(irp, "{item},");
    }
    for piece in &found.pieces {
        let _ = match piece {
            Piece::Field { name, bits } => write!(irp, "{name}:{bits},"),
            Piece::Complement { of, bits } => write!(irp, "~{of}:{bits},"),
            Piece::Check { bits } => write!(irp, "C:{bits},"),
        };
    }
    if lengths.has_stop() {
        irp.push_str("1,");
    }
    let silence = silence.written();
    let _ = match held {
        Some(held) => write!(irp, "{silence},({held},{silence})*)"),
        None => write!(irp, "{silence})*"),
    };
    if let Some(check) = &found.check {
        let _ = write!(irp, "{{C={}}}", check.written(&found.pieces));
    }
    let fields = found.pieces.iter().filter_map(|piece| match piece {
        Piece::Field { name, bits } => Some(format!("{name}:0..{}", (1_u64 << bits) - 1)),
        _ => None,
    });
    let _ = write!(irp, "[{}]", fields.collect::<Vec<_>>().join(","));
    irp
}

#[expect(clippy::too_many_arguments, reason = "everything that was found is told")]
fn told(
    trial: &Trial,
    whole: &[Vec<Frame<'_>>],
    said: &[Vec<bool>],
    lengths: &Lengths,
    found: &structure::Structure,
    carrier: Option<u64>,
    silence: &Silence,
    irp: String,
) -> Result<Proposal, NoProposal> {
    let (mut explained, mut frames, mut worst_us) = (0, 0, 0.0_f64);
    for frame in whole.iter().flatten() {
        frames += 1;
        if let Some(off) = trial.worst_us(frame.durations_us) {
            explained += 1;
            worst_us = worst_us.max(off);
        }
    }
    if explained * 3 < frames * 2 {
        return no(format!(
            "The best description found reads only {explained} of {frames} frames: hold the keys longer, nearer to the learner, one remote at a time."
        ));
    }
    let fields: Vec<ProposedField> = found
        .fields(said)
        .into_iter()
        .map(|(name, bits, values)| ProposedField { name: name.to_owned(), bits, values })
        .collect();
    let mut words = vec![lengths.words()];
    words.push(format!(
        "{} bits, the {} significant one of a field first.",
        said[0].len(),
        if found.msb { "most" } else { "least" }
    ));
    for field in &fields {
        let same = field.values.iter().all(|value| *value == field.values[0]);
        let what = if same {
            format!("the same in every capture ({})", field.values[0])
        } else {
            let all: Vec<String> = field.values.iter().map(u32::to_string).collect();
            format!("{}: it says the key", all.join(", "))
        };
        words.push(format!("{} has {} bits, {what}.", field.name, field.bits));
    }
    words.extend(found.checks());
    words.push(silence.words());
    if carrier.is_none() {
        words.push("No capture tells its carrier: 38 kHz is assumed, as most remotes have it.".to_owned());
    }
    words.push(format!(
        "It explains {explained} of {frames} frames; the worst duration is {worst_us:.0} µs off, {:.0} µs would change a bit.",
        trial.flip_us()
    ));
    Ok(Proposal { irp, explained, frames, worst_us, flip_us: trial.flip_us(), fields, words })
}

/// What is between two frames.
enum Silence {
    /// From start to start, in µs.
    Period(u64),
    /// From the end of one to the start of the next, in µs.
    Gap(u64),
    /// Each capture has one frame.
    Guess(u64),
}

impl Silence {
    fn of(all: &[Vec<Frame<'_>>]) -> Self {
        let pairs = || all.iter().flat_map(|own| own.windows(2));
        let mut periods: Vec<u64> = pairs().map(|pair| pair[1].start_us - pair[0].start_us).collect();
        let mut gaps: Vec<u64> = pairs().filter_map(|pair| pair[0].gap_us.map(u64::from)).collect();
        periods.sort_unstable();
        gaps.sort_unstable();
        let longest =
            all.iter().flatten().map(|own| own.durations_us.iter().map(|&us| u64::from(us)).sum::<u64>()).max();
        let (Some(&period), Some(&gap)) = (periods.get(periods.len() / 2), gaps.get(gaps.len() / 2)) else {
            return Self::Guess((longest.unwrap_or(0) + 40_000).div_ceil(10_000) * 10_000);
        };
        let spread = |own: &[u64]| own[own.len() * 9 / 10].saturating_sub(own[own.len() / 10]);
        if spread(&periods) <= spread(&gaps) + 500 && period > longest.unwrap_or(0) + 6_000 {
            Self::Period(period)
        } else {
            Self::Gap(gap)
        }
    }

    fn written(&self) -> String {
        #[expect(clippy::cast_precision_loss, reason = "some ms")]
        let ms = |us: u64| (us as f64 / 100.0).round() / 10.0;
        match *self {
            Self::Period(us) | Self::Guess(us) => format!("^{}m", ms(us)),
            Self::Gap(us) => format!("-{}m", ms(us)),
        }
    }

    fn words(&self) -> String {
        match self {
            Self::Period(us) => format!("A held key starts a frame every {} ms.", us / 1_000),
            Self::Gap(us) => format!("A held key leaves {} ms between two frames.", us / 1_000),
            Self::Guess(us) => format!(
                "No capture has two frames of a held key: {} ms from start to start are a guess. Hold a key longer to have it measured.",
                us / 1_000
            ),
        }
    }
}

/// The short frame that says that a key is still held, where every capture that has one has the same.
fn held(all: &[Vec<Frame<'_>>], lengths: &Lengths) -> Option<String> {
    let short: Vec<&[u32]> = all
        .iter()
        .flat_map(|own| own.iter().skip(1))
        .map(|frame| frame.durations_us)
        .filter(|own| (3..SHORT).contains(&own.len()))
        .collect();
    let first = *short.first()?;
    let same = short.iter().all(|own| own.len() == first.len());
    let follow = all.iter().flat_map(|own| own.iter().skip(1)).count();
    if !same || short.len() * 2 < follow {
        return None;
    }
    let items = first.iter().enumerate().map(|(at, &us)| lengths.written(us, at % 2 == 0));
    Some(items.collect::<Vec<_>>().join(","))
}

impl Check {
    /// The check as an expression of the fields before it.
    fn written(&self, pieces: &[Piece]) -> String {
        let width = self.bits;
        let mask = (1_u32 << width) - 1;
        let mut terms = Vec::new();
        for piece in pieces {
            let (name, bits) = match piece {
                Piece::Field { name, bits } => ((*name).to_owned(), *bits),
                Piece::Complement { of, bits } => (format!("(~{of}:{bits})"), *bits),
                Piece::Check { .. } => continue,
            };
            for at in 0..bits / width {
                terms.push(if at == 0 {
                    format!("({name}&{mask})")
                } else {
                    format!("(({name}>>{})&{mask})", at * width)
                });
            }
        }
        let sum = terms.join(if self.sum { "+" } else { "^" });
        if self.complement { format!("(~({sum}))&{mask}") } else { format!("({sum})&{mask}") }
    }
}

impl Coding {
    /// Are fields written with their most significant bit first?
    fn msb(self) -> Option<bool> {
        match self {
            // Two bits to a space, and two halves to a bit, are written from the front.
            Self::Position(_) | Self::Biphase { .. } => Some(true),
            Self::Distance | Self::Length | Self::Both => None,
        }
    }
}

#[cfg(test)]
mod tests;
