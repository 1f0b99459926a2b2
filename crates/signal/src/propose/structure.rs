//! What the bits of several frames say: what stays, what changes, and what only repeats or checks others.

use super::{NoProposal, no};

/// A part of the bits, in the order of sending.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Piece {
    /// A field.
    Field {
        /// Its name.
        name: &'static str,
        /// How many bits.
        bits: usize,
    },
    /// The complement of the field before it.
    Complement {
        /// Of which.
        of: &'static str,
        /// How many bits.
        bits: usize,
    },
    /// The check over all that stands before it.
    Check {
        /// How many bits.
        bits: usize,
    },
}

impl Piece {
    fn bits(&self) -> usize {
        match self {
            Self::Field { bits, .. } | Self::Complement { bits, .. } | Self::Check { bits } => *bits,
        }
    }
}

/// A check: the sum or the exclusive or of nibbles or bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Check {
    /// How wide: 4 or 8 bits.
    pub bits: usize,
    /// A sum, or an exclusive or?
    pub sum: bool,
    /// Is its complement sent?
    pub complement: bool,
}

/// What the bits say.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Structure {
    pub pieces: Vec<Piece>,
    pub check: Option<Check>,
    /// Is the most significant bit of a field sent first?
    pub msb: bool,
}

/// Names of fields, in the order in which they are given: what stays, and what changes.
const STAYS: [&str; 3] = ["D", "S", "E"];
const CHANGES: [&str; 3] = ["F", "G", "H"];

fn value(bits: &[bool], msb: bool) -> u32 {
    let fold = |all: u32, bit: &bool| all << 1 | u32::from(*bit);
    if msb { bits.iter().fold(0, fold) } else { bits.iter().rev().fold(0, fold) }
}

/// What the bits of several frames say. `msb` says which bit of a field comes first, where that is given.
pub(super) fn structure(said: &[Vec<bool>], msb: Option<bool>) -> Result<Structure, NoProposal> {
    let bits = said[0].len();
    // A check is the last nibble or byte; a sum shows which bit comes first.
    let orders: Vec<bool> = msb.map_or_else(|| vec![false, true], |own| vec![own]);
    for width in [8, 4] {
        if bits <= 2 * width || !(bits - width).is_multiple_of(width) {
            continue;
        }
        let body = bits - width;
        // What repeats the byte before it is told as that.
        if said.iter().all(|own| body >= width && (0..width).all(|at| own[body - width + at] != own[body + at])) {
            break;
        }
        for &msb in &orders {
            for (sum, complement) in [(false, false), (true, false), (false, true), (true, true)] {
                let check = Check { bits: width, sum, complement };
                if checks(said, body, check, msb) {
                    let pieces = fields(said, body)?;
                    if pieces.iter().all(|piece| piece.bits().is_multiple_of(width)) {
                        let pieces = pieces.into_iter().chain([Piece::Check { bits: width }]).collect();
                        return Ok(Structure { pieces, check: Some(check), msb });
                    }
                }
            }
        }
    }
    Ok(Structure { pieces: fields(said, bits)?, check: None, msb: msb.unwrap_or(false) })
}

/// Is what stands behind `body` this check of it, in every frame? It has to change, and not as one of the parts does.
fn checks(said: &[Vec<bool>], body: usize, check: Check, msb: bool) -> bool {
    let mask = (1_u32 << check.bits) - 1;
    let last = |own: &Vec<bool>| value(&own[body..body + check.bits], msb);
    let mut seen: Vec<u32> = said.iter().map(last).collect();
    seen.sort_unstable();
    seen.dedup();
    if seen.len() < 2 || said.len() < 3 {
        return false;
    }
    said.iter().all(|own| {
        let parts = own[..body].chunks_exact(check.bits).map(|part| value(part, msb));
        let all = if check.sum { parts.fold(0, u32::wrapping_add) } else { parts.fold(0, |all, own| all ^ own) };
        let all = if check.complement { !all } else { all } & mask;
        all == last(own)
    })
}

/// The fields of the first so many bits.
fn fields(said: &[Vec<bool>], bits: usize) -> Result<Vec<Piece>, NoProposal> {
    let changes = |from: usize, to: usize| said.iter().any(|own| own[from..to] != said[0][from..to]);
    let mirrored =
        |from: usize, many: usize| said.iter().all(|own| (0..many).all(|at| own[from + at] != own[from + many + at]));
    // First what is sent twice, then bytes, then what is left.
    let mut parts: Vec<(usize, usize, bool)> = Vec::new();
    let mut at = 0;
    while at < bits {
        let left = bits - at;
        let twice = [8, 16, 13, 12, 10, 9, 7, 6, 5, 4]
            .into_iter()
            .find(|&many| 2 * many <= left && mirrored(at, many) && (many >= 7 || changes(at, at + many)));
        match twice {
            Some(many) => {
                parts.push((at, many, true));
                at += 2 * many;
            }
            None => {
                let many = if bits.is_multiple_of(8) || left >= 16 { 8.min(left) } else { left.min(8) };
                parts.push((at, many, false));
                at += many;
            }
        }
    }
    if !bits.is_multiple_of(8) && parts.iter().all(|(_, _, twice)| !twice) {
        parts = runs(bits, &changes);
    }
    // Neighbours of a kind are one field.
    let mut merged: Vec<(usize, usize, bool)> = Vec::new();
    for (from, many, twice) in parts {
        let same_kind = |last: &(usize, usize, bool)| {
            !twice && !last.2 && last.1 + many <= 32 && changes(last.0, last.0 + last.1) == changes(from, from + many)
        };
        match merged.last_mut() {
            Some(last) if same_kind(last) => last.1 += many,
            _ => merged.push((from, many, twice)),
        }
    }
    let (mut stays, mut varies) = (STAYS.into_iter(), CHANGES.into_iter());
    let mut pieces = Vec::new();
    for (from, bits, twice) in merged {
        let name = if changes(from, from + bits) { varies.next() } else { stays.next() };
        let Some(name) = name else {
            return no("What stays and what changes is too mixed to be told apart: capture more keys, of one remote.");
        };
        pieces.push(Piece::Field { name, bits });
        if twice {
            pieces.push(Piece::Complement { of: name, bits });
        }
    }
    if pieces.iter().filter(|piece| matches!(piece, Piece::Field { .. })).count() > 5 {
        return no("More than five fields change or stay by turns: capture more keys, of one remote.");
    }
    Ok(pieces)
}

/// What stays, from the first to the last bit that changes, and what stays behind it.
fn runs(bits: usize, changes: &impl Fn(usize, usize) -> bool) -> Vec<(usize, usize, bool)> {
    let first = (0..bits).find(|&at| changes(at, at + 1)).unwrap_or(0);
    let last = (0..bits).rev().find(|&at| changes(at, at + 1)).unwrap_or(bits - 1) + 1;
    let mut all = Vec::new();
    for (from, to) in [(0, first), (first, last), (last, bits)] {
        let mut at = from;
        while at < to {
            let many = (to - at).min(32);
            all.push((at, many, false));
            at += many;
        }
    }
    all
}

impl Structure {
    /// Each field with what each frame says of it.
    pub fn fields(&self, said: &[Vec<bool>]) -> Vec<(&'static str, usize, Vec<u32>)> {
        let mut at = 0;
        let mut all = Vec::new();
        for piece in &self.pieces {
            let bits = piece.bits();
            if let Piece::Field { name, .. } = piece {
                let values = said.iter().map(|own| value(&own[at..at + bits], self.msb)).collect();
                all.push((*name, bits, values));
            }
            at += bits;
        }
        all
    }

    /// What only repeats or checks, in words.
    pub fn checks(&self) -> Vec<String> {
        let mut at = 0;
        let mut all = Vec::new();
        for piece in &self.pieces {
            let bits = piece.bits();
            match piece {
                Piece::Complement { of, .. } => {
                    all.push(format!("Bits {} to {} are the complement of {of}.", at + 1, at + bits));
                }
                Piece::Check { .. } => {
                    let check = self.check.map_or("", |own| match (own.sum, own.complement) {
                        (true, false) => "the sum",
                        (true, true) => "the complement of the sum",
                        (false, false) => "the exclusive or",
                        (false, true) => "the complement of the exclusive or",
                    });
                    let of = if bits == 4 { "nibbles" } else { "bytes" };
                    all.push(format!("Bits {} to {} are {check} of the {of} before them.", at + 1, at + bits));
                }
                Piece::Field { .. } => {}
            }
            at += bits;
        }
        if all.is_empty() {
            all.push("Nothing checks its bits: two equal frames are all that confirms a key.".to_owned());
        }
        all
    }
}
