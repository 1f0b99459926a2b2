//! `rc5`: 14 biphase bits of two halves of 889 µs (32 cycles of 36 kHz); a 1 is space then mark.
//!
//! | bits | what |
//! | --- | --- |
//! | 1 | start, 1 |
//! | 2 | field: the inverted 7th command bit |
//! | 3 | toggle, flips with each new press |
//! | 4–8 | address, most significant first |
//! | 9–14 | command bits 6–1, most significant first |
//!
//! Period 4096 cycles, 113.8 ms. The frame is 24.9 ms long (*from memory*).

use super::biphase::Halves;
use super::{
    FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, always, field, msb_first, never,
    toggle,
};

/// 32 cycles of 36 kHz.
const UNIT_US: f64 = 32.0 / 0.036;
const UNIT_NS: i32 = 888_889;
const FIELDS: [FieldSpec; 3] = [field("address", 31), field("command", 127), toggle()];

pub(super) static RC5: Protocol = Protocol {
    id: ProtocolId::Rc5,
    carrier_hz: 36_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US / 2.0,
    fields: &FIELDS,
    period: Period::StartToStart(4096.0 / 0.036),
    least_frames: 1,
    check_bits: 1,
    source: "published timing table; length of the frame from memory",
    coding: &Functions { valid: always, layout, decode, is_held_sign: never },
};

fn layout(values: &Values, _: Turn) -> Layout {
    let [address, command, toggle, ..] = *values;
    let head = [("start", true), ("field", command & 64 == 0), ("toggle", toggle == 1)];
    let address = msb_first(address, 5).map(|value| ("address", value));
    let command = msb_first(command, 6).map(|value| ("command", value));
    let mut layout = Layout::new(UNIT_US);
    for (index, (label, value)) in head.into_iter().chain(address).chain(command).enumerate() {
        layout.biphase_bit(index, label, value, !value, 1);
    }
    layout
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let halves = Halves::cut(frame, UNIT_NS, 14, 2, 1)?.padded(28, frame.len())?;
    let mut bits = 0u32;
    for bit in 0..14u8 {
        let one = !halves.opens_with_mark(u32::from(bit) * 2, 1, usize::from(bit))?;
        bits = bits << 1 | u32::from(one);
    }
    if bits >> 13 & 1 == 0 {
        return Err(Misfit::Fixed { what: "its start bit is 0" });
    }
    let extra = if bits >> 12 & 1 == 0 { 64 } else { 0 };
    Ok([bits >> 6 & 31, bits & 63 | extra, bits >> 11 & 1, 0, 0])
}
