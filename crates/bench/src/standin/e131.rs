//! E1.31 (ANSI E1.31-2018, streaming ACN): levels in UDP packets.
//!
//! A data packet has 638 bytes with 512 slots: the root layer (preamble 0x0010, the identifier
//! `ASC-E1.17`, vector 4, the sender's CID), the framing layer (vector 2, the source's name, priority,
//! sequence number, options, universe) and the DMP layer (vector 2, addresses 0, increment 1, the count of
//! properties, the start code 0, then the slots). A receiver takes packets in order of their sequence:
//! one that is up to 19 behind the last is dropped, anything further back counts as a new start. A sender
//! that has nothing new repeats its last packet every 800–1000 ms; 2.5 s of silence means it is gone.

use kestrel_core::room::Want;
use thiserror::Error;

/// The port of E1.31.
pub const PORT: u16 = 5_568;

/// The identifier of the ACN packets.
const IDENTIFIER: [u8; 12] = *b"ASC-E1.17\0\0\0";

/// Slots of a universe.
pub const SLOTS: usize = 512;

/// Where the start code lies.
const START_CODE: usize = 125;

/// A packet of levels.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Packet {
    /// The sender.
    pub cid: [u8; 16],
    /// What it calls itself, up to 63 bytes.
    pub source: String,
    /// Its priority, 0–200.
    pub priority: u8,
    /// Counts up and wraps.
    pub sequence: u8,
    /// Is this its last packet?
    pub terminated: bool,
    /// Which universe, 1–63999.
    pub universe: u16,
    /// The levels, up to 512.
    pub slots: Vec<u8>,
}

/// Why a packet is none.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum NotE131 {
    /// It is too short.
    #[error("{0} bytes are too few for an E1.31 packet")]
    Short(usize),
    /// It is something else.
    #[error("this is no E1.31 data packet")]
    Other,
    /// Its lengths do not fit.
    #[error("the lengths in this E1.31 packet do not fit it")]
    Lengths,
}

/// Flags 0x7 in the upper four bits, the length in the rest.
fn flags_and_length(length: usize) -> [u8; 2] {
    (0x7000 | u16::try_from(length & 0x0fff).unwrap_or(0)).to_be_bytes()
}

impl Packet {
    /// Its bytes.
    #[must_use]
    pub fn bytes(&self) -> Vec<u8> {
        let slots = &self.slots[..self.slots.len().min(SLOTS)];
        let whole = START_CODE + 1 + slots.len();
        let mut bytes = Vec::with_capacity(whole);
        bytes.extend([0x00, 0x10, 0x00, 0x00]);
        bytes.extend(IDENTIFIER);
        bytes.extend(flags_and_length(whole - 16));
        bytes.extend(4u32.to_be_bytes());
        bytes.extend(self.cid);
        bytes.extend(flags_and_length(whole - 38));
        bytes.extend(2u32.to_be_bytes());
        let mut name = [0; 64];
        for (place, byte) in name.iter_mut().take(63).zip(self.source.bytes()) {
            *place = byte;
        }
        bytes.extend(name);
        bytes.push(self.priority);
        bytes.extend([0, 0]);
        bytes.push(self.sequence);
        bytes.push(if self.terminated { 0x40 } else { 0 });
        bytes.extend(self.universe.to_be_bytes());
        bytes.extend(flags_and_length(whole - 115));
        bytes.extend([0x02, 0xa1, 0x00, 0x00, 0x00, 0x01]);
        bytes.extend(u16::try_from(slots.len() + 1).unwrap_or(513).to_be_bytes());
        bytes.push(0);
        bytes.extend(slots);
        bytes
    }
}

/// Reads a packet.
///
/// # Errors
/// What is wrong with it.
pub fn parse(bytes: &[u8]) -> Result<Packet, NotE131> {
    if bytes.len() <= START_CODE {
        return Err(NotE131::Short(bytes.len()));
    }
    let word = |at: usize| u16::from_be_bytes([bytes[at], bytes[at + 1]]);
    let long = |at: usize| u32::from_be_bytes([bytes[at], bytes[at + 1], bytes[at + 2], bytes[at + 3]]);
    let right = word(0) == 0x0010
        && bytes[4..16] == IDENTIFIER
        && long(18) == 4
        && long(40) == 2
        && bytes[117] == 0x02
        && bytes[118] == 0xa1
        && bytes[START_CODE] == 0;
    if !right {
        return Err(NotE131::Other);
    }
    let count = usize::from(word(123));
    let lengths = usize::from(word(16) & 0x0fff) + 16 == bytes.len() && START_CODE + count == bytes.len();
    if !lengths || count == 0 {
        return Err(NotE131::Lengths);
    }
    let name = &bytes[44..108];
    let name = &name[..name.iter().position(|&byte| byte == 0).unwrap_or(64)];
    let mut cid = [0; 16];
    cid.copy_from_slice(&bytes[22..38]);
    Ok(Packet {
        cid,
        source: String::from_utf8_lossy(name).into_owned(),
        priority: bytes[108],
        sequence: bytes[111],
        terminated: bytes[112] & 0x40 != 0,
        universe: word(113),
        slots: bytes[START_CODE + 1..].to_vec(),
    })
}

/// The receiver of an LED strip: takes packets in their order.
#[derive(Debug, Default)]
pub struct StripReceiver {
    last: Option<u8>,
}

impl StripReceiver {
    /// What a packet asks of the strip: the mean of its first three slots. `None` where it is out of order.
    pub fn take(&mut self, packet: &Packet) -> Option<Want> {
        if let Some(last) = self.last {
            // The difference is a signed byte; what is 0 to 19 behind is late (E1.31, 6.7.2).
            let ahead = packet.sequence.wrapping_sub(last).cast_signed();
            if ahead <= 0 && ahead > -20 {
                return None;
            }
        }
        self.last = Some(packet.sequence);
        if packet.terminated {
            self.last = None;
            return None;
        }
        let slots: Vec<u32> = packet.slots.iter().take(3).map(|&slot| u32::from(slot)).collect();
        let mean = slots.iter().sum::<u32>() * 100 / (255 * u32::try_from(slots.len().max(1)).unwrap_or(1));
        Some(Want::Level { percent: u8::try_from(mean).unwrap_or(100), fade_ms: 0 })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn packet(sequence: u8) -> Packet {
        Packet {
            cid: *b"kestrel dune cid",
            source: "bench".to_owned(),
            priority: 100,
            sequence,
            terminated: false,
            universe: 7,
            slots: vec![128; SLOTS],
        }
    }

    /// ANSI E1.31-2018, table 4-1: a full packet has 638 bytes; flags and lengths of the three layers are
    /// 0x726e, 0x7258 and 0x720b, and 513 properties follow.
    #[test]
    fn the_layout_is_that_of_the_standard() {
        let bytes = packet(1).bytes();
        assert_eq!(bytes.len(), 638);
        assert_eq!(&bytes[..18], b"\x00\x10\x00\x00ASC-E1.17\x00\x00\x00\x72\x6e");
        assert_eq!(&bytes[18..22], &[0, 0, 0, 4]);
        assert_eq!(&bytes[38..44], &[0x72, 0x58, 0, 0, 0, 2]);
        assert_eq!(&bytes[108..117], &[100, 0, 0, 1, 0, 0, 7, 0x72, 0x0b]);
        assert_eq!(&bytes[117..126], &[2, 0xa1, 0, 0, 0, 1, 0x02, 0x01, 0]);
        assert_eq!(parse(&bytes), Ok(packet(1)));
    }

    #[rstest]
    #[case(&[], NotE131::Short(0))]
    #[case(&[0x41; 200], NotE131::Other)]
    fn what_is_no_packet_is_told(#[case] bytes: &[u8], #[case] why: NotE131) {
        assert_eq!(parse(bytes), Err(why));
    }

    #[test]
    fn a_truncated_packet_has_the_wrong_lengths() {
        let bytes = packet(1).bytes();
        assert_eq!(parse(&bytes[..600]), Err(NotE131::Lengths));
    }

    /// E1.31, 6.7.2: a packet that is less than 20 behind is late; further back is a new start.
    #[rstest]
    #[case(11, true)]
    #[case(10, false)]
    #[case(9, false)]
    #[case(247, false)]
    #[case(246, true)]
    fn late_packets_are_dropped(#[case] sequence: u8, #[case] taken: bool) {
        let mut receiver = StripReceiver::default();
        assert_eq!(receiver.take(&packet(10)), Some(Want::Level { percent: 50, fade_ms: 0 }));
        assert_eq!(receiver.take(&packet(sequence)).is_some(), taken);
    }
}
