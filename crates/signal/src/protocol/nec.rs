//! `nec`: 8-bit address and command, each followed by its complement.
//!
//! | part | mark | space |
//! | --- | --- | --- |
//! | leader | 16 units, 9 ms | 8 units, 4.5 ms |
//! | 0 | 1 unit, 562.5 µs | 1 unit |
//! | 1 | 1 unit | 3 units |
//! | stop | 1 unit | to 108 ms from the start |
//! | held key | 9 ms | 2.25 ms, stop mark, to 108 ms |
//!
//! Order: address, ~address, command, ~command, least significant bit first. Carrier 38 kHz.
//! Source: the published timing table; the held-key frame is quoted *from memory*.

use super::distance::Distance;
use super::{
    FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, always, field, lsb_first,
};
use crate::layout::Part;

pub(super) const UNIT_US: f64 = 562.5;
const FRAME: Distance = Distance { unit_ns: 562_500, leader: (16, 8), bits: 32 };
const FIELDS: [FieldSpec; 2] = [field("address", 255), field("command", 255)];

pub(super) static NEC: Protocol = Protocol {
    id: ProtocolId::Nec,
    carrier_hz: 38_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US,
    fields: &FIELDS,
    period: Period::StartToStart(108_000.0),
    least_frames: 1,
    check_bits: 16,
    source: "published timing table; held-key frame from memory",
    coding: &Functions { valid: always, layout, decode, is_held_sign },
};

fn layout(values: &Values, turn: Turn) -> Layout {
    if turn == Turn::Held {
        return held();
    }
    let [address, command, ..] = *values;
    frame([
        ("address", address & 0xff),
        ("~address", !address & 0xff),
        ("command", command),
        ("~command", !command & 0xff),
    ])
}

/// A whole frame of four bytes.
pub(super) fn frame(bytes: [(&'static str, u32); 4]) -> Layout {
    let mut layout = Layout::new(UNIT_US);
    layout.pair(16, 8, Part::Leader);
    let mut index = 0;
    for (label, byte) in bytes {
        for value in lsb_first(byte, 8) {
            layout.distance_bit(index, label, value);
            index += 1;
        }
    }
    layout.push(true, 1, Part::Stop);
    layout
}

/// The short frame that says that the key is still held.
pub(super) fn held() -> Layout {
    let mut layout = Layout::new(UNIT_US);
    layout.pair(16, 4, Part::Leader);
    layout.push(true, 1, Part::Stop);
    layout
}

/// The four bytes of a frame in order of sending, the command's complement checked.
pub(super) fn bytes(frame: &[u32]) -> Result<[u32; 4], Misfit> {
    let bits = FRAME.decode(frame)?;
    let [a, b, c, d, ..] = bits.to_le_bytes();
    if c != !d {
        if a != !b {
            return Err(Misfit::Complements);
        }
        return Err(Misfit::Complement { checked: (25, 32), of: (17, 24) });
    }
    Ok([a, b, c, d].map(u32::from))
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let [address, inverted, command, _] = bytes(frame)?;
    if address != !inverted & 0xff {
        return Err(Misfit::Complement { checked: (9, 16), of: (1, 8) });
    }
    Ok([address, command, 0, 0, 0])
}

/// 9 ms, 2.25 ms and a stop mark, within a fifth.
pub(super) fn is_held_sign(frame: &[u32]) -> bool {
    matches!(*frame, [7_200..=10_800, 1_800..=2_700, 300..=850])
}
