//! Protocols that users describe, in IRP, the open notation of infrared protocols.
//!
//! A description is read, sent and decoded by the `irp` crate. Its limits are ours: a press is one frame, the same one or
//! another one while the key is held; an ending after the key is let go is not sent. What a description may be is looked at
//! before anything is made of it ([`guard`]), and what the crate cannot do ends in a sentence, never in a stop.
//!
//! A described protocol is known by its name and its notation together ([`DescribedId`]): a message that is written down
//! carries both, so it means the same in another house, and nothing that is described later changes it.
//!
//! ```
//! use kestrel_signal::{Capture, Message, Protocols, protocol::describe, read, read_among};
//!
//! let doorbell = describe("doorbell", "{36k,400}<1,-1|1,-3>(6,-2,K:8,~K:8,1,^50m)*[K:0..255]")?;
//! let ring = Message::of(doorbell, [("K", 0xa5)])?;
//! let mut heard = ring.encode(3);
//! heard.pop();
//! let capture = Capture::new(heard, None)?;
//! assert!(read(&capture).best.is_none(), "no protocol that is built in fits");
//! let known = Protocols::built_in().clone().with(doorbell);
//! assert_eq!(read_among(&capture, &known).best.expect("it is known now").message, ring);
//! // Written down, it carries its description.
//! assert!(ring.protocol_id().written().starts_with("irp:doorbell{36k,400}"));
//! let mistake = describe("doorbell", "{36k,400}<1,-1|1,-3>(6,-2,K:8,1,^50m)*").unwrap_err();
//! assert_eq!(mistake.to_string(), "This cannot be described: it names no field: say each with its range at the end, as [K:0..255].");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub(crate) mod guard;
mod shape;
#[cfg(test)]
mod tests;

use super::{BuiltIn, Coding, DescribedId, FieldSpec, MAX_FIELDS, Misfit, Protocol, ProtocolId, Turn, Values};
use crate::layout::{Layout, Part};
use irp::{DFA, Decoder, InfraredData, Irp, Options, Vartable};
use shape::{Shape, Slot};
use std::cell::RefCell;
use std::collections::{BTreeMap, HashMap};
use std::fmt;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::rc::Rc;

/// Why something is no description of a protocol.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NotDescribed {
    /// Where it goes wrong, in characters from 0; none where no one place is wrong.
    pub at: Option<usize>,
    /// Why.
    pub why: String,
}

impl fmt::Display for NotDescribed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.at {
            Some(at) => write!(f, "At character {}: {}.", at + 1, self.why),
            None => write!(f, "This cannot be described: {}.", self.why),
        }
    }
}

impl std::error::Error for NotDescribed {}

impl NotDescribed {
    /// The same with its place in the text as it was typed.
    fn in_the_text(self, places: &[usize]) -> Self {
        let at = self.at.map(|at| places.get(at).copied().unwrap_or_else(|| places.last().map_or(0, |last| last + 1)));
        Self { at, ..self }
    }
}

/// A description without its blanks, and where each of its characters stands in the text as it was typed.
fn squeezed(irp: &str) -> (String, Vec<usize>) {
    let kept = irp.chars().enumerate().filter(|(_, own)| !own.is_whitespace());
    kept.map(|(at, own)| (own, at)).unzip()
}

fn not(why: impl Into<String>) -> NotDescribed {
    NotDescribed { at: None, why: why.into() }
}

/// How many descriptions are known at once in a program: they are kept for good, since messages name them.
const MAX_KNOWN: usize = 4_000;

/// The protocol that a name and a description in IRP make.
///
/// # Errors
/// Where the name is none, and what is wrong with the description, with its place.
pub fn describe(name: &str, irp: &str) -> Result<&'static Protocol, NotDescribed> {
    name_of(name)?;
    let (irp, places) = squeezed(irp);
    let text = format!("{name}{irp}");
    if let Some(known) = DescribedId::known(&text) {
        return Ok(known);
    }
    let protocol = Described::of(&irp).map_err(|why| why.in_the_text(&places))?;
    if DescribedId::many() >= MAX_KNOWN {
        return Err(not(format!("{MAX_KNOWN} protocols are known already; start anew")));
    }
    Ok(protocol.make_known(text))
}

/// What a description says, without keeping it: for one that is still being typed.
///
/// # Errors
/// As [`describe`].
pub fn look_at(name: &str, irp: &str) -> Result<Looked, NotDescribed> {
    name_of(name)?;
    let (irp, places) = squeezed(irp);
    let (own, facts) = Described::compiled(&irp).map_err(|why| why.in_the_text(&places))?;
    let frame = own.frame(&facts.base, Turn::First).unwrap_or_default();
    let held = own.frame(&facts.base, Turn::Held).filter(|held| *held != frame);
    let fields = facts.fields.iter().map(|(name, max, default)| LookedField {
        name: name.clone(),
        max: *max,
        default: *default,
    });
    Ok(Looked {
        carrier_hz: facts.carrier_hz,
        fields: fields.collect(),
        parts: own.lay(&frame, &facts.base).spans_over(&frame, &frame),
        frame,
        held,
        check_bits: own.shape.check_bits,
        least_frames: own.shape.frames,
    })
}

/// A description that is tried on frames, and not kept.
pub(crate) struct Trial(Described);

/// A description to be tried.
///
/// # Errors
/// As [`describe`].
pub(crate) fn trial(irp: &str) -> Result<Trial, NotDescribed> {
    Described::compiled(irp).map(|(own, _)| Trial(own))
}

impl Trial {
    /// From how much on one bit reads as another, in µs.
    pub fn flip_us(&self) -> f64 {
        self.0.shape.flip_us
    }

    /// How far the worst duration of a frame is off, the stretch of its marks taken out, in µs; none where it is not read.
    pub fn worst_us(&self, frame: &[u32]) -> Option<f64> {
        let values = self.0.decode(frame).ok()?;
        let sent = self.0.frame(&values, Turn::First)?;
        let skipped = sent.len().checked_sub(frame.len())?;
        let off = |at: usize| {
            let own = f64::from(frame[at]) - f64::from(sent[at + skipped]);
            if at.is_multiple_of(2) { own } else { -own }
        };
        let stretch = (0..frame.len()).map(off).sum::<f64>() / f64::from(u32::try_from(frame.len()).ok()?);
        // A leader may be off without any bit being in danger.
        Some((2..frame.len()).map(|at| (off(at) - stretch).abs()).fold(0.0, f64::max))
    }
}

/// What a description says: its frame, and its fields.
#[derive(Debug, Clone, PartialEq, serde::Serialize, utoipa::ToSchema)]
pub struct Looked {
    /// Its carrier, in Hz.
    pub carrier_hz: u32,
    /// Its fields.
    pub fields: Vec<LookedField>,
    /// A frame with every field at its default or least value: mark, space, …, in µs.
    pub frame: Vec<u32>,
    /// The frame that is sent while the key is held, where that is another one, in µs.
    pub held: Option<Vec<u32>>,
    /// The parts of the frame.
    pub parts: Vec<crate::layout::PartSpan>,
    /// How many of its bits only repeat or check others.
    pub check_bits: u32,
    /// How many frames a press has at least.
    pub least_frames: u32,
}

/// A field of a description.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, utoipa::ToSchema)]
pub struct LookedField {
    /// Its name.
    pub name: String,
    /// Its greatest value; the least is 0.
    pub max: u32,
    /// The value that it has where none is given; none where one must be.
    pub default: Option<u32>,
}

fn name_of(name: &str) -> Result<(), NotDescribed> {
    let first = name.chars().next().is_some_and(|own| own.is_ascii_alphabetic());
    let rest = name.chars().all(|own| own.is_ascii_alphanumeric() || own == '-' || own == '_');
    if !first || !rest || name.len() > 24 {
        return Err(not("its name is 1 to 24 letters, digits and hyphens, and begins with a letter"));
    }
    if BuiltIn::ALL.iter().any(|own| own.name().eq_ignore_ascii_case(name)) {
        return Err(not(format!("“{name}” is built in: give it another name")));
    }
    Ok(())
}

/// What the notation crate makes of a description. It counts its references, so it stays in its thread.
struct Compiled {
    irp: Irp,
    /// Its reader; none where it can send this and not read it: more than two kinds of bits.
    dfa: Option<DFA>,
}

/// How many descriptions a thread keeps ready.
const READY: usize = 32;

thread_local! {
    static COMPILED: RefCell<HashMap<String, Rc<Compiled>>> = RefCell::new(HashMap::new());
}

/// A description that is ready to be sent and read.
pub(super) struct Described {
    irp: String,
    /// The fields as the notation names them.
    letters: Vec<String>,
    shape: Shape,
}

/// What is known of a description besides its shape.
struct Facts {
    carrier_hz: u32,
    unit_us: f64,
    fields: Vec<(String, u32, Option<u32>)>,
    base: Values,
}

impl Described {
    fn of(irp: &str) -> Result<Protocol, NotDescribed> {
        let (mut own, facts) = Self::compiled(irp)?;
        let fields = facts.fields.into_iter().map(|(name, max, default)| FieldSpec { name: name.leak(), max, default });
        let fields: Vec<FieldSpec> = fields.collect();
        fields.iter().enumerate().for_each(|(at, field)| own.shape.labels[at] = field.name);
        let shape = &own.shape;
        Ok(Protocol {
            // It is known by what it is once it is kept.
            id: ProtocolId::Described(DescribedId::none()),
            carrier_hz: facts.carrier_hz,
            unit_us: facts.unit_us,
            flip_us: shape.flip_us,
            fields: fields.leak(),
            period: shape.period,
            least_frames: shape.frames,
            check_bits: shape.check_bits,
            source: "described by its user, in IRP",
            coding: Box::leak(Box::new(own)),
        })
    }

    fn compiled(irp: &str) -> Result<(Self, Facts), NotDescribed> {
        guard::check(irp)?;
        let parsed = guarded(|| Irp::parse(irp))?.map_err(|error| mistake(irp, &error))?;
        let carrier_hz = u32::try_from(parsed.carrier()).unwrap_or(u32::MAX);
        if carrier_hz > 0 && !(10_000..=600_000).contains(&carrier_hz) {
            return Err(not(format!("its carrier of {carrier_hz} Hz is none of infrared (10 to 600 kHz)")));
        }
        if parsed.has_ending() {
            return Err(not("it sends something when the key is let go, which is not done here"));
        }
        if parsed.parameters.is_empty() {
            return Err(not("it names no field: say each with its range at the end, as [K:0..255]"));
        }
        if parsed.parameters.len() > MAX_FIELDS {
            return Err(not(format!("it has {} fields; at most {MAX_FIELDS} are read", parsed.parameters.len())));
        }
        let mut fields = Vec::new();
        let mut base: Values = [0; MAX_FIELDS];
        for (at, own) in parsed.parameters.iter().enumerate() {
            let max = u32::try_from(own.max).map_err(|_| not(format!("{} has more than 32 bits", own.name)))?;
            let least = u32::try_from(own.min).unwrap_or(0);
            let default = default_of(irp, &own.name);
            base[at] = default.unwrap_or(least);
            let name = if own.persistent && max == 1 { "toggle".to_owned() } else { own.name.clone() };
            fields.push((name, max, default));
        }
        let letters: Vec<String> = parsed.parameters.iter().map(|own| own.name.clone()).collect();
        let unit = parsed.unit();
        #[expect(clippy::cast_precision_loss, reason = "a unit is a few thousand µs")]
        let unit_us = *unit.numer() as f64 / *unit.denom() as f64;
        let maxima: Vec<u32> = fields.iter().map(|(_, max, _)| *max).collect();
        let send = |values: &Values| encode(&parsed, &letters, values);
        let shape = guarded(|| Shape::of(&maxima, &base, &send))??;
        let names: Vec<&str> = fields.iter().map(|(name, _, _)| name.as_str()).collect();
        if let Some(twice) = names.iter().enumerate().find(|(at, name)| names[..*at].contains(name)) {
            return Err(not(format!("the field {} stands twice", twice.1)));
        }
        let mut own = Self { irp: irp.to_owned(), letters, shape };
        // What cannot be read back is told now, and not when a key is learned.
        if own.with(|compiled| compiled.dfa.is_none()).unwrap_or(true) {
            let frame_of = |values: &Values| own.frame(values, Turn::First);
            own.shape.tables = guarded(|| shape::tables(&maxima, &base, &frame_of))??;
        }
        let sent = own.frame(&base, Turn::First).unwrap_or_default();
        match own.decode(&sent) {
            Ok(values) if values == base => {}
            Ok(_) => {
                return Err(not("what it sends is read back as something else: a field is sent in part or not at all"));
            }
            Err(misfit) => return Err(not(format!("what it sends cannot be read back: {misfit}"))),
        }
        Ok((own, Facts { carrier_hz, unit_us, fields, base }))
    }

    /// Does something with what the notation crate makes of it; none where that gives up.
    fn with<T>(&self, then: impl FnOnce(&Compiled) -> T) -> Option<T> {
        let known = COMPILED.with_borrow(|known| known.get(&self.irp).cloned());
        let compiled = match known {
            Some(known) => known,
            None => {
                let made = guarded(|| {
                    let irp = Irp::parse(&self.irp).ok()?;
                    let dfa = guarded(|| irp.compile(&self.options()).ok()).ok().flatten();
                    Some(Rc::new(Compiled { irp, dfa }))
                });
                let made = made.ok()??;
                COMPILED.with_borrow_mut(|known| {
                    if known.len() >= READY {
                        known.clear();
                    }
                    known.insert(self.irp.clone(), made.clone());
                });
                made
            }
        };
        guarded(|| then(&compiled)).ok()
    }

    fn options(&self) -> Options<'static> {
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a few hundred µs")]
        let aeps = (self.shape.flip_us * 0.9) as u32;
        Options { name: "described", aeps, eps: 8, max_gap: self.shape.silence_us, ..Options::default() }
    }

    /// A frame: mark, space, …, mark; none where these values cannot be sent.
    fn frame(&self, values: &Values, turn: Turn) -> Option<Vec<u32>> {
        self.with(|compiled| {
            let sent = encode(&compiled.irp, &self.letters, values).ok()?;
            let (first, held) = shape::frames(&sent).ok()?;
            Some(match turn {
                Turn::First => first,
                Turn::Held => held.unwrap_or(first),
            })
        })?
    }

    /// The parts of a frame: what each mark and space stands for.
    fn lay(&self, frame: &[u32], values: &Values) -> Layout {
        let mut layout = Layout::new(1.0);
        let mut bit = 0_u8;
        let fits = self.shape.slots.len() == frame.len();
        for (at, &us) in frame.iter().enumerate() {
            let slot = if fits { self.shape.slots[at] } else { Slot::Fixed };
            let part = match slot {
                Slot::Leader => Part::Leader,
                Slot::Fixed if at + 1 == frame.len() => Part::Stop,
                Slot::Fixed => Part::Leader,
                Slot::Field { field, bit: place } => {
                    let value = values[field] >> place & 1 == 1;
                    Part::Bit { index: bit, label: self.shape.labels[field], value }
                }
                Slot::Check { by, long } => {
                    let value = frame[by] > long;
                    Part::Bit { index: bit, label: "check", value }
                }
            };
            // A bit is a mark and its space.
            if at % 2 == 1 && matches!(part, Part::Bit { .. }) {
                bit = bit.saturating_add(1);
            }
            layout.push(at.is_multiple_of(2), u16::try_from(us).unwrap_or(u16::MAX), part);
        }
        layout
    }

    /// What a frame says, its marks taken to be `stretch` µs too long.
    fn heard(&self, dfa: &DFA, frame: &[u32], stretch: i32) -> Option<HashMap<String, i64>> {
        let mut decoder = Decoder::new(self.options());
        let mut heard = None;
        for _ in 0..self.shape.frames {
            for (at, &us) in frame.iter().enumerate() {
                let us = shape::unstretched(at, us, stretch);
                let own = if at.is_multiple_of(2) { InfraredData::Flash(us) } else { InfraredData::Gap(us) };
                decoder.dfa_input(own, dfa, |_, vars| heard = Some(vars));
            }
            let silence = InfraredData::Gap(self.shape.silence_us.saturating_mul(4));
            decoder.dfa_input(silence, dfa, |_, vars| heard = Some(vars));
        }
        heard
    }
}

/// By how much marks are taken to be too long, in µs, one after the other.
const STRETCHES: [i32; 4] = [0, 80, -60, 150];

impl Coding for Described {
    fn valid(&self, values: &Values) -> Result<(), &'static str> {
        match self.frame(values, Turn::First) {
            Some(_) => Ok(()),
            None => Err(
                "These values cannot be sent by this description: one is below its range, or its frame is too long.",
            ),
        }
    }

    fn layout(&self, values: &Values, turn: Turn) -> Layout {
        self.lay(&self.frame(values, turn).unwrap_or_default(), values)
    }

    fn decode(&self, frame: &[u32]) -> Result<Values, Misfit> {
        // A held key may send its frame without what opens it.
        let whole = self.shape.with_opening(frame);
        let frame = whole.as_deref().unwrap_or(frame);
        self.shape.opens(frame)?;
        let heard = self.with(|compiled| {
            STRETCHES.iter().find_map(|&stretch| {
                let mut values: Values = [0; MAX_FIELDS];
                match &compiled.dfa {
                    Some(dfa) => {
                        let heard = self.heard(dfa, frame, stretch)?;
                        for (at, letter) in self.letters.iter().enumerate() {
                            values[at] = u32::try_from(*heard.get(letter)?).ok()?;
                        }
                    }
                    None => values = self.shape.looked_up(frame, stretch)?,
                }
                if compiled.dfa.is_some() && self.shape.is_fixed() {
                    return Some(values);
                }
                // It is that only if it would be sent like this.
                let (sent, _) = shape::frames(&encode(&compiled.irp, &self.letters, &values).ok()?).ok()?;
                let same =
                    sent.len() == frame.len() && (compiled.dfa.is_some() || self.shape.is_like(frame, &sent, stretch));
                same.then_some(values)
            })
        });
        heard.flatten().ok_or_else(|| self.shape.misfit(frame))
    }

    fn is_held_sign(&self, frame: &[u32]) -> bool {
        self.shape.is_held_sign(frame)
    }
}

/// Calls the notation crate, which may give up in the middle.
fn guarded<T>(call: impl FnOnce() -> T) -> Result<T, NotDescribed> {
    catch_unwind(AssertUnwindSafe(call)).map_err(|_| not("the notation's reader gives up on it"))
}

/// A press, its repeat and its ending, in µs.
type Sent = [Vec<u32>; 3];

fn encode(irp: &Irp, letters: &[String], values: &Values) -> Result<Sent, NotDescribed> {
    let mut vars = Vartable::new();
    for (letter, &value) in letters.iter().zip(values) {
        vars.set(letter.clone(), i64::from(value));
    }
    guarded(|| irp.encode(vars))?.map_err(|why| match why.as_str() {
        "stream must end with a gap" => not(shape::NO_SILENCE),
        _ => not(why),
    })
}

/// The default of a field, where it is a plain number.
fn default_of(irp: &str, name: &str) -> Option<u32> {
    let specs = irp.rsplit_once('[')?.1;
    let own = specs.trim_end().trim_end_matches(']').split(',').find(|own| {
        let known = own.split(':').next().unwrap_or_default();
        known.trim().trim_end_matches('@').trim() == name
    })?;
    own.split_once('=')?.1.trim().parse().ok()
}

/// What the reader of the notation says of a mistake, with its place in characters.
fn mistake(irp: &str, error: &str) -> NotDescribed {
    let Some((place, wanted)) = error.rsplit_once(": expected ") else { return not(error.to_owned()) };
    let mut numbers = place.rsplit(|own: char| !own.is_ascii_digit()).filter(|own| !own.is_empty());
    let column: Option<usize> = numbers.next().and_then(|own| own.parse().ok());
    let at = column.map(|column| column.saturating_sub(1));
    let found = at.and_then(|at| irp.chars().nth(at));
    let wanted = wanted.trim_start_matches("one of ");
    let why = match found {
        Some(found) => format!("“{found}” does not fit here; expected is {wanted}"),
        None => format!("it ends too soon; expected is {wanted}"),
    };
    NotDescribed { at, why }
}

/// Descriptions that are known, by name and notation.
pub(super) type Known = BTreeMap<String, &'static Protocol>;
