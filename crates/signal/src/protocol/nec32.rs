//! `nec-32`: four bytes in the timing of [`super::nec`], as they are: neither half is checked.
//!
//! Order: least significant bit first, the lowest byte of `code` first. A frame whose bytes are complements, or nearly so, is no
//! `nec-32`: it is `nec` or `nec-ext`, perhaps damaged. Source: that of `nec`.

use super::distance::Distance;
use super::nec::{self, UNIT_US};
use super::{FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, field};

const FRAME: Distance = Distance { unit_ns: 562_500, leader: (16, 8), bits: 32 };
const FIELDS: [FieldSpec; 1] = [field("code", u32::MAX)];

/// So many bits of the last two bytes differ at least from being complements: fewer are a damaged frame of another form.
const DIFFER: u32 = 2;

pub(super) static NEC_32: Protocol = Protocol {
    id: ProtocolId::Nec32,
    carrier_hz: 38_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US,
    fields: &FIELDS,
    period: Period::StartToStart(108_000.0),
    // Nothing in a frame checks it: the second one does.
    least_frames: 2,
    check_bits: 0,
    source: "published timing table; held-key frame from memory",
    coding: &Functions { valid, layout, decode, is_held_sign: nec::is_held_sign },
};

fn valid(values: &Values) -> Result<(), &'static str> {
    let [_, _, c, d] = values[0].to_le_bytes();
    if (c ^ !d).count_ones() < DIFFER {
        return Err("The third byte is followed by its complement, or nearly: that is nec or nec-ext.");
    }
    Ok(())
}

fn layout(values: &Values, _: Turn) -> Layout {
    let [a, b, c, d] = values[0].to_le_bytes().map(u32::from);
    nec::frame([("code", a), ("code", b), ("code", c), ("code", d)])
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let bits = FRAME.decode(frame)?;
    Ok([u32::try_from(bits).unwrap_or(0), 0, 0, 0, 0])
}
