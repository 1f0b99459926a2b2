//! `sirc-12`, `sirc-15`, `sirc-20`: pulse width at 40 kHz, unit 600 µs.
//!
//! | part | mark | space |
//! | --- | --- | --- |
//! | leader | 4 units | 1 unit |
//! | 0 | 1 unit | 1 unit |
//! | 1 | 2 units | 1 unit |
//!
//! 7 command bits, then the address (5 or 8 bits), then 8 extended bits in the longest form; least
//! significant first. 45 ms from start to start; receivers want at least 3 frames (*from memory*).

use super::distance::{STRETCH_US, clamped};
use super::{
    FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Values, always, field, lsb_first, never,
};
use crate::layout::Part;

const UNIT_US: f64 = 600.0;
const FIELDS_12: [FieldSpec; 2] = [field("address", 31), field("command", 127)];
const FIELDS_15: [FieldSpec; 2] = [field("address", 255), field("command", 127)];
const FIELDS_20: [FieldSpec; 3] = [field("address", 31), field("command", 127), field("extended", 255)];

pub(super) static SIRC_12: Protocol = Protocol {
    id: ProtocolId::Sirc12,
    carrier_hz: 40_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US / 2.0,
    fields: &FIELDS_12,
    period: Period::StartToStart(45_000.0),
    least_frames: 3,
    check_bits: 0,
    source: "published timing table; number of frames from memory",
    coding: &Functions {
        valid: always,
        layout: |values, _| layout(values, 5, 0),
        decode: |frame| decode(frame, 12).map(|bits| [bits >> 7, bits & 127, 0, 0, 0]),
        is_held_sign: never,
    },
};

pub(super) static SIRC_15: Protocol = Protocol {
    id: ProtocolId::Sirc15,
    fields: &FIELDS_15,
    coding: &Functions {
        valid: always,
        layout: |values, _| layout(values, 8, 0),
        decode: |frame| decode(frame, 15).map(|bits| [bits >> 7, bits & 127, 0, 0, 0]),
        is_held_sign: never,
    },
    ..SIRC_12
};

pub(super) static SIRC_20: Protocol = Protocol {
    id: ProtocolId::Sirc20,
    fields: &FIELDS_20,
    coding: &Functions {
        valid: always,
        layout: |values, _| layout(values, 5, 8),
        decode: |frame| decode(frame, 20).map(|bits| [bits >> 7 & 31, bits & 127, bits >> 12, 0, 0]),
        is_held_sign: never,
    },
    ..SIRC_12
};

fn layout(values: &Values, address_bits: u32, extended_bits: u32) -> Layout {
    let [address, command, extended, ..] = *values;
    let command = lsb_first(command, 7).map(|value| ("command", value));
    let address = lsb_first(address, address_bits).map(|value| ("address", value));
    let extended = lsb_first(extended, extended_bits).map(|value| ("extended", value));
    let mut layout = Layout::new(UNIT_US);
    layout.pair(4, 1, Part::Leader);
    for (index, (label, value)) in command.chain(address).chain(extended).enumerate() {
        let part = Part::Bit { index: u8::try_from(index).unwrap_or(u8::MAX), label, value };
        layout.pair(if value { 2 } else { 1 }, 1, part);
    }
    layout
}

/// The bits of a frame, the first sent in bit 0. All spaces are one unit: the stretch is what they lack.
fn decode(frame: &[u32], bits: usize) -> Result<u32, Misfit> {
    let found = (frame[0], frame.get(1).copied().unwrap_or(0));
    if !(1_900..=2_900).contains(&found.0) || !(300..=950).contains(&found.1) {
        return Err(Misfit::Leader { found, expected: (2_400, 600) });
    }
    let expected = 1 + 2 * bits + 1;
    if frame.len() + 1 != expected {
        return Err(Misfit::Count { expected: expected - 1, found: frame.len() });
    }
    let spaces: i32 = frame.iter().skip(1).step_by(2).map(|&us| clamped(us)).sum();
    let stretch = 600 - spaces / bits as i32;
    if !STRETCH_US.contains(&stretch) {
        return Err(Misfit::Stretch { us: stretch });
    }
    let mut value = 0u32;
    for (index, &us) in frame.iter().enumerate().skip(1) {
        if index % 2 == 1 {
            if (clamped(us) + stretch - 600).abs() > 240 {
                return Err(Misfit::Duration { index, us });
            }
            continue;
        }
        let mark = clamped(us) - stretch;
        let one = mark > 900;
        if (mark - if one { 1200 } else { 600 }).abs() > 240 {
            return Err(Misfit::Duration { index, us });
        }
        value |= u32::from(one) << (index / 2 - 1);
    }
    Ok(value)
}
