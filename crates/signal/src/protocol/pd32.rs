//! `pd32`: 32 bits pulse distance at 38 kHz, unit 564 µs, leader 8 and 8 units.
//!
//! 16-bit address low byte first, command, ~command; least significant bit first; 108 ms from start
//! to start. Source: *from memory*.

use super::distance::Distance;
use super::{
    FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, always, field, lsb_first, never,
};
use crate::layout::Part;

const UNIT_US: f64 = 564.0;
const FRAME: Distance = Distance { unit_ns: 564_000, leader: (8, 8), bits: 32 };
const FIELDS: [FieldSpec; 2] = [field("address", 0xffff), field("command", 255)];

pub(super) static PD32: Protocol = Protocol {
    id: ProtocolId::Pd32,
    carrier_hz: 38_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US,
    fields: &FIELDS,
    period: Period::StartToStart(108_000.0),
    least_frames: 1,
    check_bits: 8,
    source: "from memory",
    coding: &Functions { valid: always, layout, decode, is_held_sign: never },
};

fn layout(values: &Values, _: Turn) -> Layout {
    let [address, command, ..] = *values;
    let mut layout = Layout::new(UNIT_US);
    layout.pair(8, 8, Part::Leader);
    let parts = [("address", address, 16), ("command", command, 8), ("~command", !command & 0xff, 8)];
    let bits = parts.into_iter().flat_map(|(label, value, count)| lsb_first(value, count).map(move |bit| (label, bit)));
    for (index, (label, bit)) in bits.enumerate() {
        layout.distance_bit(index, label, bit);
    }
    layout.push(true, 1, Part::Stop);
    layout
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let [low, high, command, check, ..] = FRAME.decode(frame)?.to_le_bytes();
    if command != !check {
        return Err(Misfit::Complement { checked: (25, 32), of: (17, 24) });
    }
    Ok([u32::from(u16::from_le_bytes([low, high])), u32::from(command), 0, 0, 0])
}
