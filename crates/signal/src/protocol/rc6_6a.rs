//! `rc6-6a` and `rc6-6a-t`: mode 6 of [`super::rc6`], 16 to 32 bits of customer code and data, most significant first.
//!
//! | part | units |
//! | --- | --- |
//! | leader | mark 6, space 2 |
//! | start bit | 1 |
//! | mode | 110 |
//! | toggle | one bit with halves of 2 units |
//! | data | 16 to 32 bits |
//!
//! Remotes with the customer code 0x800f keep the double bit at 0 and flip the bit behind the customer code with each press:
//! these are `rc6-6a-t`. Period 106.7 ms. Source: *from memory*.

use super::biphase::Halves;
use super::rc6::RC6;
use super::{
    FieldSpec, Functions, Layout, Misfit, Protocol, ProtocolId, Turn, Values, always, field, msb_first, never, toggle,
};
use crate::layout::Part;

const UNIT_US: f64 = 16.0 / 0.036;
const UNIT_NS: i32 = 444_444;
/// Leader, start, mode and the double bit, in units.
const HEAD: u32 = 8 + 2 + 6 + 4;
const FIELDS: [FieldSpec; 3] =
    [FieldSpec { name: "bits", max: 32, default: Some(32) }, field("data", u32::MAX), toggle()];
const FIELDS_T: [FieldSpec; 3] = [field("address", 127), field("command", 255), toggle()];

/// The customer code whose remotes flip a bit of the data.
const FLIPS: u32 = 0x800f;

pub(super) static RC6_6A: Protocol = Protocol {
    id: ProtocolId::Rc6Mode6a,
    fields: &FIELDS,
    source: "from memory",
    coding: &Functions { valid, layout, decode, is_held_sign: never },
    ..RC6
};

pub(super) static RC6_6A_T: Protocol = Protocol {
    id: ProtocolId::Rc6Mode6aToggle,
    fields: &FIELDS_T,
    check_bits: 21,
    source: "from memory",
    coding: &Functions { valid: always, layout: layout_t, decode: decode_t, is_held_sign: never },
    ..RC6
};

fn valid(values: &Values) -> Result<(), &'static str> {
    let [bits, data, toggle, ..] = *values;
    if !(16..=32).contains(&bits) {
        return Err("rc6-6a has 16 to 32 bits of data.");
    }
    if bits < 32 && data >> bits != 0 {
        return Err("The data has more bits than are sent.");
    }
    if bits == 32 && toggle == 0 && data >> 16 == FLIPS {
        return Err("The customer code 0x800f keeps its toggle bit in the data: that is rc6-6a-t.");
    }
    Ok(())
}

fn frame(bits: u32, data: u32, toggle: bool, label: impl Fn(u32) -> &'static str) -> Layout {
    let mut layout = Layout::new(UNIT_US);
    layout.pair(6, 2, Part::Leader);
    let head = [("start", true), ("mode", true), ("mode", true), ("mode", false)];
    for (index, (label, value)) in head.into_iter().enumerate() {
        layout.biphase_bit(index, label, value, value, 1);
    }
    layout.biphase_bit(4, "toggle", toggle, toggle, 2);
    for (index, value) in msb_first(data, bits).enumerate() {
        let place = bits - 1 - u32::try_from(index).unwrap_or(0);
        layout.biphase_bit(5 + index, label(place), value, value, 1);
    }
    layout
}

fn layout(values: &Values, _: Turn) -> Layout {
    let [bits, data, toggle, ..] = *values;
    frame(bits, data, toggle == 1, |_| "data")
}

fn layout_t(values: &Values, _: Turn) -> Layout {
    let [address, command, toggle, ..] = *values;
    frame(32, FLIPS << 16 | toggle << 15 | address << 8 | command, false, |place| match place {
        16..=31 => "customer",
        15 => "toggle",
        8..=14 => "address",
        _ => "command",
    })
}

/// How many bits of data, the data, and the double bit.
fn parts(frame: &[u32]) -> Result<(u32, u32, bool), Misfit> {
    let found = (frame[0], frame.get(1).copied().unwrap_or(0));
    if !(2_000..=3_300).contains(&found.0) || !(550..=1_250).contains(&found.1) {
        return Err(Misfit::Leader { found, expected: (2_667, 889) });
    }
    let ns: u64 = frame.iter().map(|&us| u64::from(us.min(1_000_000)) * 1_000).sum();
    let units = u32::try_from((ns + u64::from(UNIT_NS.unsigned_abs()) / 2) / u64::from(UNIT_NS.unsigned_abs()));
    // The last half may be a space that fell into the silence.
    let bits_of = |units: u32| units.saturating_sub(HEAD).div_ceil(2);
    let count = Misfit::Count { expected: 64, found: frame.len() };
    let cut = |bits: u32| {
        if !(14..=36).contains(&bits) {
            return Err(count);
        }
        Halves::cut(frame, UNIT_NS, 6 + 1 + 3 + 2 + i32::try_from(bits).unwrap_or(32), 6, 0)
    };
    // A clock that is off makes the frame as a whole longer: its single durations say how many units there are.
    let bits = bits_of(cut(bits_of(units.unwrap_or(u32::MAX)))?.units());
    if !(16..=32).contains(&bits) {
        return Err(count);
    }
    let halves = cut(bits)?.padded(HEAD + 2 * bits, frame.len())?;
    if !(0..8).all(|unit| halves.at(unit) == (unit < 6)) {
        return Err(Misfit::Leader { found, expected: (2_667, 889) });
    }
    if !halves.opens_with_mark(8, 1, 0)? {
        return Err(Misfit::Fixed { what: "its start bit is 0" });
    }
    for (bit, one) in [(1u8, true), (2, true), (3, false)] {
        if halves.opens_with_mark(8 + 2 * u32::from(bit), 1, usize::from(bit))? != one {
            return Err(Misfit::Fixed { what: "its mode is not 6" });
        }
    }
    let toggle = halves.opens_with_mark(16, 2, 4)?;
    let mut data = 0u32;
    for bit in 0..bits {
        let one = halves.opens_with_mark(HEAD + 2 * bit, 1, 5 + usize::try_from(bit).unwrap_or(0))?;
        data = data << 1 | u32::from(one);
    }
    Ok((bits, data, toggle))
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let (bits, data, toggle) = parts(frame)?;
    Ok([bits, data, u32::from(toggle), 0, 0])
}

fn decode_t(frame: &[u32]) -> Result<Values, Misfit> {
    let (bits, data, toggle) = parts(frame)?;
    if bits != 32 || data >> 16 != FLIPS || toggle {
        return Err(Misfit::Fixed { what: "its customer code is not 0x800f" });
    }
    Ok([data >> 8 & 127, data & 255, data >> 15 & 1, 0, 0])
}
