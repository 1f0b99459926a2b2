//! The infrared protocols, one file each, with its timing at the top and its source.
//!
//! A [`Protocol`] is a constant: names, ranges and timing as data, and two functions, one that lays a
//! frame out ([`Layout`]) and one that reads a frame back. [`Message`] is a protocol with the values
//! of its fields; it can only be made through [`Message::new`], so every message can be sent.

mod biphase;
mod distance;
mod kaseikyo;
mod message;
mod misfit;
mod nec;
mod nec_ext;
mod pd16;
mod pd32;
mod rc5;
mod rc6;
mod sirc;
#[cfg(test)]
mod tests;

pub use message::{FieldError, Message};
pub use misfit::Misfit;

use super::layout::Layout;
use serde::{Deserialize, Serialize};
use std::fmt;
use std::str::FromStr;
use utoipa::ToSchema;

/// How many fields a protocol has at most.
pub const MAX_FIELDS: usize = 5;

/// Field values in the order of [`Protocol::fields`]; the rest is 0.
pub type Values = [u32; MAX_FIELDS];

/// A protocol's name as it is written everywhere.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[allow(missing_docs, reason = "each is described in its own file")]
pub enum ProtocolId {
    #[serde(rename = "nec")]
    Nec,
    #[serde(rename = "nec-ext")]
    NecExt,
    #[serde(rename = "rc5")]
    Rc5,
    #[serde(rename = "rc6")]
    Rc6,
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

/// A protocol: its constants and its two directions.
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
    /// Checks that go across fields.
    pub(crate) valid: fn(&Values) -> Result<(), &'static str>,
    /// Lays a frame out.
    pub(crate) layout: fn(&Values, Turn) -> Layout,
    /// Reads one frame (durations in µs, a mark first and last).
    pub(crate) decode: fn(&[u32]) -> Result<Values, Misfit>,
    /// Is this frame only a sign that the key is still held?
    pub(crate) is_held_sign: fn(&[u32]) -> bool,
}

const fn always(_: &Values) -> Result<(), &'static str> {
    Ok(())
}

fn never(_: &[u32]) -> bool {
    false
}

static ALL: [&Protocol; 10] = [
    &nec::NEC,
    &nec_ext::NEC_EXT,
    &rc5::RC5,
    &rc6::RC6,
    &sirc::SIRC_12,
    &sirc::SIRC_15,
    &sirc::SIRC_20,
    &kaseikyo::KASEIKYO,
    &pd32::PD32,
    &pd16::PD16,
];

impl Protocol {
    /// Every protocol.
    #[must_use]
    pub fn all() -> &'static [&'static Protocol] {
        &ALL
    }

    /// Reads one frame of marks and spaces in µs (a mark first and last) as this protocol.
    ///
    /// # Errors
    /// A [`Misfit`] that says where it stops fitting.
    pub fn decode(&'static self, frame_us: &[u32]) -> Result<Message, Misfit> {
        if frame_us.is_empty() {
            return Err(Misfit::Count { expected: 1, found: 0 });
        }
        let values = (self.decode)(frame_us)?;
        (self.valid)(&values).map_err(Misfit::Rule)?;
        Ok(Message::from_values(self.id, values))
    }

    /// Does this frame only say that the key is still held?
    #[must_use]
    pub fn is_held_sign(&self, frame_us: &[u32]) -> bool {
        (self.is_held_sign)(frame_us)
    }
}

impl ProtocolId {
    /// The protocol of this name.
    #[must_use]
    pub fn protocol(self) -> &'static Protocol {
        match self {
            Self::Nec => &nec::NEC,
            Self::NecExt => &nec_ext::NEC_EXT,
            Self::Rc5 => &rc5::RC5,
            Self::Rc6 => &rc6::RC6,
            Self::Sirc12 => &sirc::SIRC_12,
            Self::Sirc15 => &sirc::SIRC_15,
            Self::Sirc20 => &sirc::SIRC_20,
            Self::Kaseikyo => &kaseikyo::KASEIKYO,
            Self::Pd32 => &pd32::PD32,
            Self::Pd16 => &pd16::PD16,
        }
    }

    /// The name as written.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Nec => "nec",
            Self::NecExt => "nec-ext",
            Self::Rc5 => "rc5",
            Self::Rc6 => "rc6",
            Self::Sirc12 => "sirc-12",
            Self::Sirc15 => "sirc-15",
            Self::Sirc20 => "sirc-20",
            Self::Kaseikyo => "kaseikyo",
            Self::Pd32 => "pd32",
            Self::Pd16 => "pd16",
        }
    }
}

impl fmt::Display for ProtocolId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

impl FromStr for ProtocolId {
    type Err = FieldError;

    fn from_str(name: &str) -> Result<Self, FieldError> {
        ALL.iter().map(|p| p.id).find(|id| id.name() == name).ok_or_else(|| FieldError::Protocol {
            name: name.chars().take(40).collect(),
            known: ALL.map(|p| p.id.name()).join(", "),
        })
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
