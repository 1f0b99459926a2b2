//! `nec-ext`: the frame of [`nec`](super::nec) with a 16-bit address, low byte first.
//!
//! A frame whose second byte is the complement of the first is `nec`; such an address is refused
//! here, so that every frame has one reading. Source: as `nec`.

use super::nec::{self, UNIT_US};
use super::{FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, field};

const FIELDS: [FieldSpec; 2] = [field("address", 0xffff), field("command", 255)];

pub(super) static NEC_EXT: Protocol = Protocol {
    id: ProtocolId::NecExt,
    carrier_hz: 38_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US,
    fields: &FIELDS,
    period: Period::StartToStart(108_000.0),
    least_frames: 1,
    check_bits: 8,
    source: "published timing table; held-key frame from memory",
    coding: &Functions { valid, layout, decode, is_held_sign: nec::is_held_sign },
};

fn valid(values: &Values) -> Result<(), &'static str> {
    let [low, high] = [values[0] & 0xff, values[0] >> 8];
    if low == !high & 0xff {
        return Err(
            "This address is a byte and its complement: that is nec with the low byte as its address, not nec-ext.",
        );
    }
    Ok(())
}

fn layout(values: &Values, turn: Turn) -> Layout {
    if turn == Turn::Held {
        return nec::held();
    }
    let [address, command, ..] = *values;
    nec::frame([
        ("address", address & 0xff),
        ("address", address >> 8),
        ("command", command),
        ("~command", !command & 0xff),
    ])
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let [low, high, command, _] = nec::bytes(frame)?;
    Ok([low | high << 8, command, 0, 0, 0])
}
