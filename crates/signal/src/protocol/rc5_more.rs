//! `rc5-15` and `rc5-20`: relatives of [`super::rc5`] in the same timing, 15 and 20 biphase bits.
//!
//! | bits | `rc5-15` | `rc5-20` |
//! | --- | --- | --- |
//! | 1 | start, 1 | start, 1 |
//! | 2 | the highest address bit | field: the inverted 7th command bit |
//! | 3 | toggle | toggle |
//! | then | 6 address bits, 6 command bits | 5 address bits, a space of 4 units, 6 command bits, 6 data bits |
//!
//! Most significant bit first; a 1 is space then mark. Source: *from memory*.

use super::biphase::Halves;
use super::rc5::RC5;
use super::{
    FieldSpec, Functions, Layout, Misfit, Protocol, ProtocolId, Turn, Values, always, field, msb_first, never, toggle,
};
use crate::layout::Part;

const UNIT_US: f64 = 32.0 / 0.036;
const UNIT_NS: i32 = 888_889;
const FIELDS_15: [FieldSpec; 3] = [field("address", 127), field("command", 63), toggle()];
const FIELDS_20: [FieldSpec; 4] = [field("address", 31), field("command", 127), field("data", 63), toggle()];

pub(super) static RC5_15: Protocol = Protocol {
    id: ProtocolId::Rc5x15,
    fields: &FIELDS_15,
    // The start bit alone is fixed: a second frame says so too.
    least_frames: 2,
    source: "from memory",
    coding: &Functions { valid: always, layout: layout_15, decode: decode_15, is_held_sign: never },
    ..RC5
};

pub(super) static RC5_20: Protocol = Protocol {
    id: ProtocolId::Rc5x20,
    fields: &FIELDS_20,
    source: "from memory",
    coding: &Functions { valid: always, layout: layout_20, decode: decode_20, is_held_sign: never },
    ..RC5
};

type Bits = Vec<(&'static str, bool)>;

fn put(layout: &mut Layout, from: usize, bits: Bits) {
    for (index, (label, value)) in bits.into_iter().enumerate() {
        layout.biphase_bit(from + index, label, value, !value, 1);
    }
}

fn named(label: &'static str, value: u32, count: u32) -> impl Iterator<Item = (&'static str, bool)> {
    msb_first(value, count).map(move |bit| (label, bit))
}

fn layout_15(values: &Values, _: Turn) -> Layout {
    let [address, command, toggle, ..] = *values;
    let head = [("start", true), ("address", address >> 6 & 1 == 1), ("toggle", toggle == 1)];
    let mut layout = Layout::new(UNIT_US);
    put(
        &mut layout,
        0,
        head.into_iter().chain(named("address", address, 6)).chain(named("command", command, 6)).collect(),
    );
    layout
}

fn layout_20(values: &Values, _: Turn) -> Layout {
    let [address, command, data, toggle, ..] = *values;
    let head = [("start", true), ("field", command & 64 == 0), ("toggle", toggle == 1)];
    let mut layout = Layout::new(UNIT_US);
    put(&mut layout, 0, head.into_iter().chain(named("address", address, 5)).collect());
    layout.push(false, 4, Part::Stop);
    put(&mut layout, 8, named("command", command, 6).chain(named("data", data, 6)).collect());
    layout
}

fn bits(halves: &Halves, from: u32, count: u8, first: u8) -> Result<u32, Misfit> {
    let mut bits = 0u32;
    for bit in 0..count {
        let one = !halves.opens_with_mark(from + u32::from(bit) * 2, 1, usize::from(first + bit))?;
        bits = bits << 1 | u32::from(one);
    }
    Ok(bits)
}

fn decode_15(frame: &[u32]) -> Result<Values, Misfit> {
    let halves = Halves::cut(frame, UNIT_NS, 15, 2, 1)?.padded(30, frame.len())?;
    let bits = bits(&halves, 0, 15, 0)?;
    if bits >> 14 & 1 == 0 {
        return Err(Misfit::Fixed { what: "its start bit is 0" });
    }
    Ok([bits >> 6 & 63 | (bits >> 13 & 1) << 6, bits & 63, bits >> 12 & 1, 0, 0])
}

fn decode_20(frame: &[u32]) -> Result<Values, Misfit> {
    let halves = Halves::cut(frame, UNIT_NS, 20, 6, 1)?.padded(44, frame.len())?;
    let head = bits(&halves, 0, 8, 0)?;
    if !(16..20).all(|unit| !halves.at(unit)) {
        return Err(Misfit::Fixed { what: "no space of four units follows its address" });
    }
    let rest = bits(&halves, 20, 12, 8)?;
    if head >> 7 & 1 == 0 {
        return Err(Misfit::Fixed { what: "its start bit is 0" });
    }
    let extra = if head >> 6 & 1 == 0 { 64 } else { 0 };
    Ok([head & 31, rest >> 6 & 63 | extra, rest & 63, head >> 5 & 1, 0])
}
