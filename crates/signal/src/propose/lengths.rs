//! Marks and spaces by their lengths: how bits are coded.

use super::{NoProposal, no};
use crate::clean::Frame;

/// How bits are coded.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Coding {
    /// The space says the bit.
    Distance,
    /// The mark says the bit.
    Length,
    /// Mark and space together last the same, the longer one of the two says the bit.
    Both,
    /// The space says two bits, by so many lengths.
    Position(usize),
    /// A bit has two halves, and the step between them says it.
    Biphase {
        /// Does the first bit open with its space, of which nothing is seen?
        hidden: bool,
    },
}

impl Coding {
    pub fn words(self) -> &'static str {
        match self {
            Self::Distance => "bits in pulse distance",
            Self::Length => "bits in pulse length",
            Self::Both => "bits whose mark and space last the same together",
            Self::Position(_) => "pulses in positions, two bits each",
            Self::Biphase { .. } => "bits in two halves (biphase)",
        }
    }
}

/// The lengths of a remote's marks and spaces.
#[derive(Debug, Clone)]
pub(super) struct Lengths {
    pub coding: Coding,
    /// The unit, in µs.
    pub unit_us: u32,
    /// By how much marks are longer than sent, and spaces shorter, in µs.
    stretch_us: f64,
    /// The first mark and space, where they open every frame.
    leader: Option<(f64, f64)>,
    marks: Vec<f64>,
    spaces: Vec<f64>,
}

/// Lengths that belong together: sorted values are parted where the next one is longer by a good part of the shortest one.
fn clusters(mut values: Vec<f64>) -> Vec<f64> {
    values.sort_by(f64::total_cmp);
    let step = values.first().map_or(0.0, |shortest| (0.4 * shortest).max(110.0));
    let mut all: Vec<Vec<f64>> = Vec::new();
    for value in values {
        match all.last_mut() {
            Some(own) if own.last().is_some_and(|last| value - last < step) => own.push(value),
            _ => all.push(vec![value]),
        }
    }
    #[expect(clippy::cast_precision_loss, reason = "some thousands of durations")]
    let mean = |own: &Vec<f64>| own.iter().sum::<f64>() / own.len() as f64;
    all.iter().map(mean).collect()
}

fn nearest(known: &[f64], us: u32) -> Option<usize> {
    let off = |own: &f64| (own - f64::from(us)).abs();
    let (at, own) = known.iter().enumerate().min_by(|a, b| off(a.1).total_cmp(&off(b.1)))?;
    (off(own) <= 0.3 * own).then_some(at)
}

impl Lengths {
    /// The ways in which the lengths of these frames can be read, the likelier one first.
    pub fn of(whole: &[Vec<Frame<'_>>]) -> Result<Vec<Self>, NoProposal> {
        let frames = || whole.iter().flatten().map(|frame| frame.durations_us);
        let at = |from: usize| -> Vec<f64> {
            frames().flat_map(|own| own.iter().skip(from).step_by(2)).map(|&us| f64::from(us)).collect()
        };
        let (marks, spaces) = (clusters(at(2)), clusters(at(3)));
        let first =
            |index: usize| clusters(frames().filter_map(|own| own.get(index)).map(|&us| f64::from(us)).collect());
        let (opens, then) = (first(0), first(1));
        let longest = |own: &[f64]| own.last().copied().unwrap_or(f64::MAX);
        let leads = opens.len() == 1
            && then.len() == 1
            && (opens[0] > 1.7 * longest(&marks) || then[0] > 1.7 * longest(&spaces));
        let (leader, marks, spaces) =
            if leads { (Some((opens[0], then[0])), marks, spaces) } else { (None, clusters(at(0)), clusters(at(1))) };
        let coding: Vec<Coding> = match (marks.len(), spaces.len()) {
            (1, 2) => vec![Coding::Distance],
            (1, 3 | 4) => vec![Coding::Position(spaces.len())],
            (2, 1) => vec![Coding::Length],
            (2, 2) => {
                let pairs = || frames().flat_map(|own| own[if leads { 2 } else { 0 }..].chunks_exact(2));
                let sums = clusters(pairs().map(|pair| f64::from(pair[0] + pair[1])).collect());
                let halves = [Coding::Biphase { hidden: true }, Coding::Biphase { hidden: false }];
                if sums.len() == 1 { [Coding::Both].into_iter().chain(halves).collect() } else { halves.to_vec() }
            }
            (1, 1) => return no("Every mark and every space lasts the same: nothing in these frames says a key."),
            (marks, spaces) => {
                return no(format!(
                    "Its marks have {marks} lengths and its spaces {spaces}: no way to code bits that is known here. Another remote may be among them, or the captures are too noisy."
                ));
            }
        };
        Ok(coding.into_iter().map(|coding| Self::with(coding, leader, marks.clone(), spaces.clone())).collect())
    }

    fn with(coding: Coding, leader: Option<(f64, f64)>, marks: Vec<f64>, spaces: Vec<f64>) -> Self {
        let (mark, space) = (marks[0], spaces[0]);
        // A receiver makes marks longer by what it takes off spaces: of two that are nearly alike, their mean is the unit.
        let alike = (mark - space).abs() <= 0.45 * mark.max(space);
        let (unit, stretch_us) = match coding {
            // From one position to the next is a unit, whatever the receiver adds to marks.
            Coding::Position(_) => {
                let step = spaces.windows(2).map(|pair| pair[1] - pair[0]).fold(f64::INFINITY, f64::min);
                let marks = (mark / step).round().max(1.0);
                (step, mark - marks * step)
            }
            _ if alike => (f64::midpoint(mark, space), (mark - space) / 2.0),
            _ => (mark, 0.0),
        };
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "some hundred µs")]
        let unit_us = (unit.round() as u32).max(1);
        Self { coding, unit_us, stretch_us, leader, marks, spaces }
    }

    /// A length as it was sent, in IRP: in units where it is a whole number of them, in µs elsewhere.
    pub fn written(&self, us: u32, mark: bool) -> String {
        self.length(f64::from(us), mark)
    }

    fn length(&self, us: f64, mark: bool) -> String {
        let sent = us - if mark { self.stretch_us } else { -self.stretch_us };
        let units = (sent / f64::from(self.unit_us)).round().max(1.0);
        let off = (sent - units * f64::from(self.unit_us)).abs();
        let sign = if mark { "" } else { "-" };
        if off <= 0.1 * sent || off <= 60.0 { format!("{sign}{units}") } else { format!("{sign}{sent:.0}u") }
    }

    /// The bits in IRP.
    pub fn spec(&self) -> String {
        let (mark, space) = (|us: f64| self.length(us, true), |us: f64| self.length(us, false));
        let pairs: Vec<String> = match self.coding {
            Coding::Distance | Coding::Position(_) => {
                self.spaces.iter().map(|own| format!("{},{}", mark(self.marks[0]), space(*own))).collect()
            }
            Coding::Length => {
                self.marks.iter().map(|own| format!("{},{}", mark(*own), space(self.spaces[0]))).collect()
            }
            Coding::Both => vec![
                format!("{},{}", mark(self.marks[0]), space(self.spaces[1])),
                format!("{},{}", mark(self.marks[1]), space(self.spaces[0])),
            ],
            Coding::Biphase { .. } => vec!["1,-1".to_owned(), "-1,1".to_owned()],
        };
        format!("<{}>", pairs.join("|"))
    }

    /// What stands before the bits, in IRP.
    pub fn opening(&self) -> Vec<String> {
        let mut all = Vec::new();
        if let Some((mark, space)) = self.leader {
            all.extend([self.length(mark, true), self.length(space, false)]);
        }
        if self.coding == (Coding::Biphase { hidden: true }) {
            // Of the first bit only the second half is seen.
            all.push("1".to_owned());
        }
        all
    }

    /// Does a mark close the last space?
    pub fn has_stop(&self) -> bool {
        matches!(self.coding, Coding::Distance | Coding::Position(_))
    }

    /// The bits of a frame, in the order of sending; none where it is not made like this.
    pub fn bits(&self, frame: &[u32]) -> Option<Vec<bool>> {
        let body = &frame[if self.leader.is_some() { 2 } else { 0 }..];
        let near = |known: &[f64], us: &u32| nearest(known, *us);
        match self.coding {
            Coding::Distance => {
                body.iter().skip(1).step_by(2).map(|us| near(&self.spaces, us).map(|at| at == 1)).collect()
            }
            Coding::Position(_) => {
                let two = body.iter().skip(1).step_by(2).map(|us| near(&self.spaces, us));
                let two: Option<Vec<usize>> = two.collect();
                Some(two?.into_iter().flat_map(|at| [at & 2 != 0, at & 1 != 0]).collect())
            }
            Coding::Length | Coding::Both => {
                body.iter().step_by(2).map(|us| near(&self.marks, us).map(|at| at == 1)).collect()
            }
            Coding::Biphase { hidden } => self.halves(body, hidden),
        }
    }

    /// The bits of a body in two halves each.
    fn halves(&self, body: &[u32], hidden: bool) -> Option<Vec<bool>> {
        let mut chips: Vec<bool> = if hidden { vec![false] } else { vec![] };
        for (at, &us) in body.iter().enumerate() {
            let known = if at % 2 == 0 { &self.marks } else { &self.spaces };
            let many = nearest(known, us)? + 1;
            chips.extend(std::iter::repeat_n(at % 2 == 0, many));
        }
        if !chips.len().is_multiple_of(2) {
            // The last half is a space, of which nothing is seen.
            chips.push(false);
        }
        let bits: Option<Vec<bool>> =
            chips.chunks_exact(2).map(|pair| (pair[0] != pair[1]).then_some(pair[1])).collect();
        // The first bit is written as a mark of its own.
        bits.map(|own| if hidden { own[1..].to_vec() } else { own })
    }

    /// What was found, in words.
    pub fn words(&self) -> String {
        let us = |own: f64| format!("{own:.0} µs");
        let bits = match self.coding {
            Coding::Distance => format!(
                "Pulse distance: a mark of {}, then a space of {} for 0 and {} for 1",
                us(self.marks[0]),
                us(self.spaces[0]),
                us(self.spaces[1])
            ),
            Coding::Position(many) => format!(
                "Pulse position: a mark of {}, then a space of one of {many} lengths for two bits, from {} on",
                us(self.marks[0]),
                us(self.spaces[0])
            ),
            Coding::Length => format!(
                "Pulse length: a mark of {} for 0 and {} for 1, then a space of {}",
                us(self.marks[0]),
                us(self.marks[1]),
                us(self.spaces[0])
            ),
            Coding::Both => format!(
                "A short mark and a long space for 0, a long mark and a short space for 1: {} and {}",
                us(self.marks[0]),
                us(self.marks[1])
            ),
            Coding::Biphase { .. } => format!("Biphase: two halves of {} to a bit", us(f64::from(self.unit_us))),
        };
        match self.leader {
            Some((mark, space)) => {
                format!("{bits}; a leader of {:.1} and {:.1} ms opens the frame.", mark / 1_000.0, space / 1_000.0)
            }
            None => format!("{bits}; no leader opens the frame."),
        }
    }
}
