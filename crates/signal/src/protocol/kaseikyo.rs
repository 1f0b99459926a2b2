//! `kaseikyo`: 48 bits pulse distance at 37 kHz, unit 432 µs.
//!
//! | bits | what |
//! | --- | --- |
//! | 1–16 | vendor, low byte first |
//! | 17–20 | vendor parity: XOR of the vendor's nibbles |
//! | 21–24 | device |
//! | 25–32 | subdevice |
//! | 33–40 | function |
//! | 41–44 | extension |
//! | 45–48 | checksum: XOR of the nibbles of device, subdevice, function, extension |
//!
//! Leader 8 and 4 units, stop mark, 173 units of silence. Least significant bit first. Source: *from
//! memory*.

use super::distance::Distance;
use super::{
    FieldSpec, Functions, Layout, Misfit, Period, Protocol, ProtocolId, Turn, Values, always, field, lsb_first, never,
};
use crate::layout::Part;

const UNIT_US: f64 = 432.0;
const FRAME: Distance = Distance { unit_ns: 432_000, leader: (8, 4), bits: 48 };
const FIELDS: [FieldSpec; 5] = [
    field("vendor", 0xffff),
    field("device", 15),
    field("subdevice", 255),
    field("function", 255),
    field("extension", 15),
];

pub(super) static KASEIKYO: Protocol = Protocol {
    id: ProtocolId::Kaseikyo,
    carrier_hz: 37_000,
    unit_us: UNIT_US,
    flip_us: UNIT_US,
    fields: &FIELDS,
    period: Period::Silence(173.0 * UNIT_US),
    least_frames: 1,
    check_bits: 8,
    source: "from memory",
    coding: &Functions { valid: always, layout, decode, is_held_sign: never },
};

fn nibbles(value: u32) -> u32 {
    (0..8).fold(0, |acc, i| acc ^ (value >> (4 * i) & 15))
}

fn checksum(values: &Values) -> u32 {
    values[1..].iter().fold(0, |acc, &value| acc ^ nibbles(value))
}

fn layout(values: &Values, _: Turn) -> Layout {
    let [vendor, device, subdevice, function, extension] = *values;
    let mut layout = Layout::new(UNIT_US);
    layout.pair(8, 4, Part::Leader);
    let parts = [
        ("vendor", vendor, 16),
        ("parity", nibbles(vendor), 4),
        ("device", device, 4),
        ("subdevice", subdevice, 8),
        ("function", function, 8),
        ("extension", extension, 4),
        ("checksum", checksum(values), 4),
    ];
    let mut index = 0;
    for (label, value, count) in parts {
        for bit in lsb_first(value, count) {
            layout.distance_bit(index, label, bit);
            index += 1;
        }
    }
    layout.push(true, 1, Part::Stop);
    layout
}

fn decode(frame: &[u32]) -> Result<Values, Misfit> {
    let bits = FRAME.decode(frame)?;
    let take = |from: u32, count: u32| u32::try_from(bits >> from & ((1 << count) - 1)).unwrap_or(0);
    let vendor = take(0, 16);
    if take(16, 4) != nibbles(vendor) {
        return Err(Misfit::Check { what: "vendor parity", expected: nibbles(vendor), found: take(16, 4) });
    }
    let values = [vendor, take(20, 4), take(24, 8), take(32, 8), take(40, 4)];
    if take(44, 4) != checksum(&values) {
        return Err(Misfit::Check { what: "checksum", expected: checksum(&values), found: take(44, 4) });
    }
    Ok(values)
}
