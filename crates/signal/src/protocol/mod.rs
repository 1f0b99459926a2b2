//! The infrared protocols, one file each, with its timing at the top and its source.
//!
//! A [`Protocol`] is a constant: names, ranges and timing as data, and two functions, one that lays a
//! frame out ([`Layout`]) and one that reads a frame back. [`Message`] is a protocol with the values
//! of its fields; it can only be made through [`Message::new`], so every message can be sent.

mod biphase;
pub mod described;
mod distance;
mod id;
mod kaseikyo;
mod message;
mod misfit;
mod nec;
mod nec32;
mod nec_ext;
mod pd16;
mod pd32;
mod pd42;
mod rc5;
mod rc5_more;
mod rc6;
mod rc6_6a;
mod set;
mod sirc;
#[cfg(test)]
mod tests;

pub use described::{NotDescribed, describe};
pub use id::{DescribedId, ProtocolId};
pub use message::{FieldError, Message};
pub use misfit::Misfit;
pub use set::Protocols;

use super::layout::Layout;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How many fields a protocol has at most.
pub const MAX_FIELDS: usize = 5;

/// Field values in the order of [`Protocol::fields`]; the rest is 0.
pub type Values = [u32; MAX_FIELDS];

/// The protocols that are built in, by their names.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[allow(missing_docs, reason = "each is described in its own file")]
pub enum BuiltIn {
    #[serde(rename = "nec")]
    Nec,
    #[serde(rename = "nec-ext")]
    NecExt,
    #[serde(rename = "nec-32")]
    Nec32,
    #[serde(rename = "rc5")]
    Rc5,
    #[serde(rename = "rc5-15")]
    Rc5x15,
    #[serde(rename = "rc5-20")]
    Rc5x20,
    #[serde(rename = "rc6")]
    Rc6,
    #[serde(rename = "rc6-6a")]
    Rc6Mode6a,
    #[serde(rename = "rc6-6a-t")]
    Rc6Mode6aToggle,
    #[serde(rename = "sirc-12")]
    Sirc12,
    #[serde(rename = "sirc-15")]
    Sirc15,
    #[serde(rename = "sirc-20")]
    Sirc20,
    #[serde(rename = "kaseikyo")]
    Kaseikyo,
    #[serde(rename = "pd32")]
    Pd32,
    #[serde(rename = "pd16")]
    Pd16,
    #[serde(rename = "pd42")]
    Pd42,
}

/// One field of a message.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FieldSpec {
    /// Its name in JSON, on the command line and on the screen.
    pub name: &'static str,
    /// The greatest value; the least is 0.
    pub max: u32,
    /// The value taken when none is given; `None` where one must be.
    pub default: Option<u32>,
}

const fn field(name: &'static str, max: u32) -> FieldSpec {
    FieldSpec { name, max, default: None }
}

const fn toggle() -> FieldSpec {
    FieldSpec { name: "toggle", max: 1, default: Some(0) }
}

/// When the next frame of a held key may start.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Period {
    /// From the start of one frame to the start of the next, in µs.
    StartToStart(f64),
    /// Silence after the last mark, in µs.
    Silence(f64),
}

/// Which frame of a press: the first, or one that follows while the key is held.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Turn {
    /// The first.
    First,
    /// Any other.
    Held,
}

/// A protocol: its constants and its two directions. One that is not built in is made by whoever knows it, and handed
/// to a reader as part of a set ([`Protocols`]).
pub struct Protocol {
    /// Its name.
    pub id: ProtocolId,
    /// Carrier in Hz.
    pub carrier_hz: u32,
    /// The time unit in µs.
    pub unit_us: f64,
    /// How far a duration may be off before one symbol reads as another, in µs: half of the distance
    /// between the two lengths that carry a 0 and a 1.
    pub flip_us: f64,
    /// Its fields in canonical order.
    pub fields: &'static [FieldSpec],
    /// The spacing of frames.
    pub period: Period,
    /// How many frames a receiver wants at least.
    pub least_frames: u32,
    /// How many bits of a frame only repeat or check others.
    pub check_bits: u32,
    /// Where the numbers come from.
    pub source: &'static str,
    /// How values become a frame, and a frame values.
    pub coding: &'static dyn Coding,
}

impl std::fmt::Debug for Protocol {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.id.written())
    }
}

/// The two directions of a protocol.
pub trait Coding: Send + Sync {
    /// Checks that go across fields.
    ///
    /// # Errors
    /// A sentence on what does not go together.
    fn valid(&self, values: &Values) -> Result<(), &'static str>;

    /// Lays a frame out.
    fn layout(&self, values: &Values, turn: Turn) -> Layout;

    /// Reads one frame (durations in µs, a mark first and last).
    ///
    /// # Errors
    /// A [`Misfit`] that says where it stops fitting.
    fn decode(&self, frame_us: &[u32]) -> Result<Values, Misfit>;

    /// Is this frame only a sign that the key is still held?
    fn is_held_sign(&self, _frame_us: &[u32]) -> bool {
        false
    }
}

/// The coding of a protocol that is built in: a function each.
struct Functions {
    valid: fn(&Values) -> Result<(), &'static str>,
    layout: fn(&Values, Turn) -> Layout,
    decode: fn(&[u32]) -> Result<Values, Misfit>,
    is_held_sign: fn(&[u32]) -> bool,
}

impl Coding for Functions {
    fn valid(&self, values: &Values) -> Result<(), &'static str> {
        (self.valid)(values)
    }

    fn layout(&self, values: &Values, turn: Turn) -> Layout {
        (self.layout)(values, turn)
    }

    fn decode(&self, frame_us: &[u32]) -> Result<Values, Misfit> {
        (self.decode)(frame_us)
    }

    fn is_held_sign(&self, frame_us: &[u32]) -> bool {
        (self.is_held_sign)(frame_us)
    }
}

const fn always(_: &Values) -> Result<(), &'static str> {
    Ok(())
}

fn never(_: &[u32]) -> bool {
    false
}

impl Protocol {
    /// Reads one frame of marks and spaces in µs (a mark first and last) as this protocol.
    ///
    /// # Errors
    /// A [`Misfit`] that says where it stops fitting.
    pub fn decode(&'static self, frame_us: &[u32]) -> Result<Message, Misfit> {
        if frame_us.is_empty() {
            return Err(Misfit::Count { expected: 1, found: 0 });
        }
        let values = self.coding.decode(frame_us)?;
        self.coding.valid(&values).map_err(Misfit::Rule)?;
        Ok(Message::from_values(self, values))
    }

    /// Does this frame only say that the key is still held?
    #[must_use]
    pub fn is_held_sign(&self, frame_us: &[u32]) -> bool {
        self.coding.is_held_sign(frame_us)
    }
}

/// The `count` bits of `value`, least significant first.
fn lsb_first(value: u32, count: u32) -> impl Iterator<Item = bool> {
    (0..count).map(move |bit| value >> bit & 1 == 1)
}

/// The `count` bits of `value`, most significant first.
fn msb_first(value: u32, count: u32) -> impl Iterator<Item = bool> {
    (0..count).rev().map(move |bit| value >> bit & 1 == 1)
}
