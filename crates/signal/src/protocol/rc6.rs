//! `rc6`, mode 0: biphase with halves of 444 µs (16 cycles of 36 kHz); a 1 is mark then space.
//!
//! | part | units |
//! | --- | --- |
//! | leader | mark 6, space 2 |
//! | start bit | 1 |
//! | mode | 000 |
//! | toggle | one bit with halves of 2 units |
//! | address, command | 8 bits each, most significant first |
//! | closing silence | 6 |
//!
//! Period 106.7 ms. Source: *from memory*.

use super::biphase::Halves;
use super::{
    FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, always, field, msb_first, never,
    toggle,
};
use crate::layout::Part;

/// 16 cycles of 36 kHz.
const UNIT_US: f64 = 16.0 / 0.036;
const UNIT_NS: i32 = 444_444;
/// Leader 6, start, 3 mode bits, toggle 2, 16 data bits.
const MARKED: i32 = 6 + 1 + 3 + 2 + 16;
const UNITS: u32 = 8 + 2 + 6 + 4 + 32;
const FIELDS: [FieldSpec; 3] = [field("address", 255), field("command", 255), toggle()];

pub(super) static RC6: Protocol = Protocol {
    id: ProtocolId::Rc6,
    carrier_hz: 36_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US / 2.0,
    fields: &FIELDS,
    period: Period::StartToStart(106_700.0),
    least_frames: 1,
    check_bits: 4,
    source: "from memory",
    coding: &Functions { valid: always, layout, decode, is_held_sign: never },
};

fn layout(values: &Values, _: Turn) -> Layout {
    let [address, command, toggle, ..] = *values;
    let mut layout = Layout::new(UNIT_US);
    layout.pair(6, 2, Part::Leader);
    let head = [("start", true), ("mode", false), ("mode", false), ("mode", false)];
    for (index, (label, value)) in head.into_iter().enumerate() {
        layout.biphase_bit(index, label, value, value, 1);
    }
    layout.biphase_bit(4, "toggle", toggle == 1, toggle == 1, 2);
    let address = msb_first(address, 8).map(|value| ("address", value));
    let command = msb_first(command, 8).map(|value| ("command", value));
    for (index, (label, value)) in address.chain(command).enumerate() {
        layout.biphase_bit(5 + index, label, value, value, 1);
    }
    layout
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let found = (frame[0], frame.get(1).copied().unwrap_or(0));
    if !(2_000..=3_300).contains(&found.0) || !(550..=1_250).contains(&found.1) {
        return Err(Misfit::Leader { found, expected: (2_667, 889) });
    }
    if frame.len() > 43 {
        return Err(Misfit::Count { expected: 43, found: frame.len() });
    }
    let halves = Halves::cut(frame, UNIT_NS, MARKED, 6, 0)?.padded(UNITS, frame.len())?;
    if !(0..8).all(|unit| halves.at(unit) == (unit < 6)) {
        return Err(Misfit::Leader { found, expected: (2_667, 889) });
    }
    if !halves.opens_with_mark(8, 1, 0)? {
        return Err(Misfit::Fixed { what: "its start bit is 0" });
    }
    for bit in 1..4u8 {
        if halves.opens_with_mark(8 + 2 * u32::from(bit), 1, usize::from(bit))? {
            return Err(Misfit::Fixed { what: "its mode is not 0" });
        }
    }
    let toggle = halves.opens_with_mark(16, 2, 4)?;
    let mut bits = 0u32;
    for bit in 0..16u8 {
        bits = bits << 1 | u32::from(halves.opens_with_mark(20 + 2 * u32::from(bit), 1, 5 + usize::from(bit))?);
    }
    Ok([bits >> 8, bits & 255, u32::from(toggle), 0, 0])
}
