//! `pd16`: 16 bits pulse distance at 38 kHz, unit 525 µs; only the first frame has a leader.
//!
//! Leader 16 and 8 units; address, command, least significant bit first; stop mark, 45 units of
//! silence. Source: *from memory*.

use super::distance::Distance;
use super::{
    FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, always, field, lsb_first, never,
};
use crate::layout::Part;

const UNIT_US: f64 = 525.0;
const FIRST: Distance = Distance { unit_ns: 525_000, leader: (16, 8), bits: 16 };
const HELD: Distance = Distance { unit_ns: 525_000, leader: (0, 0), bits: 16 };
const FIELDS: [FieldSpec; 2] = [field("address", 255), field("command", 255)];

pub(super) static PD16: Protocol = Protocol {
    id: ProtocolId::Pd16,
    carrier_hz: 38_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US,
    fields: &FIELDS,
    period: Period::Silence(45.0 * UNIT_US),
    // One frame has no check bits; the second, bare one is the check.
    least_frames: 2,
    check_bits: 0,
    source: "from memory",
    coding: &Functions { valid: always, layout, decode, is_held_sign: never },
};

fn layout(values: &Values, turn: Turn) -> Layout {
    let [address, command, ..] = *values;
    let mut layout = Layout::new(UNIT_US);
    if turn == Turn::First {
        layout.pair(16, 8, Part::Leader);
    }
    let bits = [("address", address), ("command", command)];
    let bits = bits.into_iter().flat_map(|(label, value)| lsb_first(value, 8).map(move |bit| (label, bit)));
    for (index, (label, bit)) in bits.enumerate() {
        layout.distance_bit(index, label, bit);
    }
    layout.push(true, 1, Part::Stop);
    layout
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let bits = if frame.len() == 33 { HELD.decode(frame)? } else { FIRST.decode(frame)? };
    let [address, command, ..] = bits.to_le_bytes();
    Ok([u32::from(address), u32::from(command), 0, 0, 0])
}
