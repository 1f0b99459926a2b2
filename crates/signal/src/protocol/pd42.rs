//! `pd42`: 42 bits pulse distance at 38 kHz, unit 562.5 µs: 13 bits of address and their complement, 8 of command and theirs.
//!
//! Leader 16 and 8 units; least significant bit first; a stop mark. A held key repeats the frame. Source: *from memory*.

use super::distance::Distance;
use super::{
    FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, always, field, lsb_first, never,
};
use crate::layout::Part;

const UNIT_US: f64 = 562.5;
const FRAME: Distance = Distance { unit_ns: 562_500, leader: (16, 8), bits: 42 };
const FIELDS: [FieldSpec; 2] = [field("address", 0x1fff), field("command", 255)];

pub(super) static PD42: Protocol = Protocol {
    id: ProtocolId::Pd42,
    carrier_hz: 38_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US,
    fields: &FIELDS,
    period: Period::Silence(40.0 * UNIT_US),
    least_frames: 1,
    check_bits: 21,
    source: "from memory",
    coding: &Functions { valid: always, layout, decode, is_held_sign: never },
};

fn layout(values: &Values, _: Turn) -> Layout {
    let [address, command, ..] = *values;
    let mut layout = Layout::new(UNIT_US);
    layout.pair(16, 8, Part::Leader);
    let parts =
        [("address", address, 13), ("~address", !address, 13), ("command", command, 8), ("~command", !command, 8)];
    let bits = parts.into_iter().flat_map(|(label, value, count)| lsb_first(value, count).map(move |bit| (label, bit)));
    for (index, (label, bit)) in bits.enumerate() {
        layout.distance_bit(index, label, bit);
    }
    layout.push(true, 1, Part::Stop);
    layout
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let bits = FRAME.decode(frame)?;
    let part = |from: u32, count: u32| u32::try_from(bits >> from & ((1 << count) - 1)).unwrap_or(0);
    let (address, command) = (part(0, 13), part(26, 8));
    if part(13, 13) != !address & 0x1fff {
        return Err(Misfit::Complement { checked: (14, 26), of: (1, 13) });
    }
    if part(34, 8) != !command & 0xff {
        return Err(Misfit::Complement { checked: (35, 42), of: (27, 34) });
    }
    Ok([address, command, 0, 0, 0])
}
