//! Proposals against remotes whose protocol is known.

use super::*;
use crate::protocol::describe;
use crate::{Message, ProtocolId, Protocols, read_among};
use rstest::rstest;

fn heard(mut durations: Vec<u32>, stretch: i32) -> Capture {
    durations.pop();
    let one = |(at, us): (usize, u32)| us.saturating_add_signed(if at % 2 == 0 { stretch } else { -stretch });
    Capture::new(durations.into_iter().enumerate().map(one).collect(), Some(38_000)).unwrap()
}

fn of_irp(irp: &str, keys: &[&[(&str, u32)]], frames: u32, stretch: i32) -> Vec<Capture> {
    let own = describe("made-up", irp).unwrap();
    keys.iter().map(|fields| heard(Message::of(own, fields.iter().copied()).unwrap().encode(frames), stretch)).collect()
}

/// What is proposed reads every capture that it was made from, and a key that it has not seen.
fn explains(captures: &[Capture], unseen: &Capture) -> Proposal {
    let found = propose(captures).unwrap();
    assert_eq!(found.explained, found.frames, "{found:?}");
    let own = describe("proposed", &found.irp).unwrap();
    let known = Protocols::built_in().clone().with(own);
    for capture in captures.iter().chain([unseen]) {
        let reading = read_among(capture, &known);
        let own = reading.candidates.iter().find(|read| read.protocol == own.id);
        assert!(own.is_some_and(|own| own.confidence > 0.6), "{} {reading:?}", found.irp);
    }
    found
}

#[rstest]
#[case::clean(0)]
#[case::long_marks(90)]
#[case::short_marks(-50)]
fn pulse_distance_with_a_complement(#[case] stretch: i32) {
    let irp = "{38k,500}<1,-1|1,-3>(12,-6,D:16,F:8,~F:8,1,^90m)*[D:0..65535,F:0..255]";
    let keys: [&[(&str, u32)]; 4] = [
        &[("D", 0x7a11), ("F", 3)],
        &[("D", 0x7a11), ("F", 77)],
        &[("D", 0x7a11), ("F", 128)],
        &[("D", 0x7a11), ("F", 201)],
    ];
    let all = of_irp(irp, &keys, 3, stretch);
    let found = explains(&all[..3], &all[3]);
    assert!(found.irp.contains("D:16,F:8,~F:8,1,^90m"), "{}", found.irp);
    assert!(found.irp.contains("(12,-6,"), "{}", found.irp);
    assert_eq!(found.fields[1].values, [3, 77, 128]);
    assert!(found.words.iter().any(|words| words == "Bits 25 to 32 are the complement of F."), "{:?}", found.words);
    assert!(
        found.words.last().unwrap().starts_with("It explains 9 of 9 frames; the worst duration is"),
        "{:?}",
        found.words
    );
}

#[rstest]
#[case::exclusive_or("{C=(D^(D>>4)^(D>>8)^(D>>12)^F^(F>>4))&15}", "the exclusive or of the nibbles")]
#[case::sum("{C=((D&15)+((D>>4)&15)+((D>>8)&15)+((D>>12)&15)+(F&15)+((F>>4)&15))&15}", "the sum of the nibbles")]
fn a_check_of_nibbles_is_found(#[case] check: &str, #[case] said: &str) {
    let irp = format!("{{38k,450}}<1,-1|1,-3>(8,-4,D:16,F:8,C:4,1,^75m)*{check}[D:0..65535,F:0..255]");
    let keys: [&[(&str, u32)]; 5] = [
        &[("D", 0x3c52), ("F", 17)],
        &[("D", 0x3c52), ("F", 34)],
        &[("D", 0x3c52), ("F", 201)],
        &[("D", 0x3c52), ("F", 90)],
        &[("D", 0x3c52), ("F", 145)],
    ];
    let all = of_irp(&irp, &keys, 2, 30);
    let found = explains(&all[..4], &all[4]);
    assert!(found.words.iter().any(|words| words.contains(said)), "{:?}", found.words);
}

#[test]
fn pulse_length_in_three_frames() {
    let all: Vec<Capture> = [21, 46, 90, 113]
        .into_iter()
        .map(|key| heard(Message::new(ProtocolId::Sirc12, [("address", 1), ("command", key)]).unwrap().encode(3), 40))
        .collect();
    let found = explains(&all[..3], &all[3]);
    assert!(found.irp.contains("<1,-1|2,-1>(4,-1,"), "{}", found.irp);
    assert!(found.words[0].starts_with("Pulse length"), "{:?}", found.words);
}

#[test]
fn two_halves_to_a_bit() {
    let all: Vec<Capture> = [12, 33, 54, 62]
        .into_iter()
        .map(|key| heard(Message::new(ProtocolId::Rc5, [("address", 5), ("command", key)]).unwrap().encode(3), 60))
        .collect();
    let found = explains(&all[..3], &all[3]);
    assert!(found.irp.contains("<1,-1|-1,1>(1,"), "{}", found.irp);
}

#[test]
fn two_bits_to_a_space() {
    let irp = "{38k,300,msb}<1,-2|1,-3|1,-4|1,-5>(9,-5,D:8,F:8,1,^60m)*[D:0..255,F:0..255]";
    let keys: [&[(&str, u32)]; 4] = [
        &[("D", 0x1b), ("F", 0xe4)],
        &[("D", 0x1b), ("F", 0x39)],
        &[("D", 0x1b), ("F", 0x4e)],
        &[("D", 0x1b), ("F", 0x93)],
    ];
    let all = of_irp(irp, &keys, 2, 0);
    let found = explains(&all[..3], &all[3]);
    assert!(found.words[0].starts_with("Pulse position"), "{:?}", found.words);
}

#[test]
fn a_short_frame_of_a_held_key_is_part_of_the_proposal() {
    let all: Vec<Capture> = [8, 21, 77, 130]
        .into_iter()
        .map(|key| heard(Message::new(ProtocolId::Nec, [("address", 4), ("command", key)]).unwrap().encode(3), 50))
        .collect();
    let found = explains(&all[..3], &all[3]);
    assert!(found.irp.contains(",(16,-4,1,^108"), "{}", found.irp);
}

#[rstest]
#[case::two_captures(2, "2 of 3 captures")]
#[case::the_same_key(0, "Every capture says the same")]
fn what_cannot_be_told_apart_is_said(#[case] many: usize, #[case] said: &str) {
    let irp = "{38k,500}<1,-1|1,-3>(12,-6,D:16,F:8,1,^90m)*[D:0..65535,F:0..255]";
    let one: &[(&str, u32)] = &[("D", 17), ("F", 5)];
    let keys = vec![one; if many == 0 { 3 } else { many }];
    let why = propose(&of_irp(irp, &keys, 2, 0)).unwrap_err();
    assert!(why.to_string().contains(said), "{why}");
}

#[test]
fn noise_makes_no_proposal() {
    let mut seed = 7_u64;
    let mut random = |most: u64| {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        u32::try_from(100 + (seed >> 33) % most).unwrap()
    };
    for _ in 0..50 {
        let captures: Vec<Capture> =
            (0..3).map(|_| Capture::new((0..61).map(|_| random(3_000)).collect(), None).unwrap()).collect();
        assert!(propose(&captures).is_err());
    }
}

/// A small generator (xorshift, Marsaglia 2003), so that a seed always gives the same capture.
struct Chance(u64);

impl Chance {
    fn within(&mut self, most: i32) -> i32 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        i32::try_from(self.0 % u64::try_from(2 * most + 1).unwrap()).unwrap() - most
    }
}

/// What a learner gives: marks longer or shorter, a clock that is off, and jitter at every edge.
fn as_heard(capture: &Capture, stretch: i32, clock_per_mille: u32, jitter: i32, chance: &mut Chance) -> Capture {
    let one = |(at, &us): (usize, &u32)| {
        let own = us / 1_000 * clock_per_mille + us % 1_000 * clock_per_mille / 1_000;
        let stretch = if at.is_multiple_of(2) { stretch } else { -stretch };
        own.saturating_add_signed(stretch + chance.within(jitter)).max(60)
    };
    Capture::new(capture.durations_us().iter().enumerate().map(one).collect(), capture.carrier_hz()).unwrap()
}

/// The general forms of bits, each with a remote that uses it: pulse distance of 36 and of 42 bits, pulse length, mark and space
/// together, positions, two halves.
const FORMS: [(&str, &str); 6] = [
    ("distance, 36 bits", "{38k,480}<1,-1|1,-3>(9,-5,D:16,F:20,1,^100m)*[D:0..65535,F:0..1048575]"),
    ("distance, 42 bits", "{38k,520}<1,-1|1,-3>(16,-8,D:13,~D:13,F:8,~F:8,1,^110m)*[D:0..8191,F:0..255]"),
    ("length", "{40k,550}<1,-1|2,-1>(5,-1,F:8,D:8,^60m)*[D:0..255,F:0..255]"),
    ("both", "{38k,400}<1,-3|3,-1>(8,-4,D:8,F:8,^60m)*[D:0..255,F:0..255]"),
    ("position", "{38k,320,msb}<1,-2|1,-3|1,-4|1,-5>(9,-6,D:8,F:8,1,^60m)*[D:0..255,F:0..255]"),
    ("two halves", "{36k,msb,800}<1,-1|-1,1>(1,D:5,F:8,^100m)*[D:0..31,F:0..255]"),
];

/// Keys of which no two say the same, and which between them show both values of most bits.
const KEYS: [u32; 6] = [0x2d, 0x53, 0x8e, 0xb4, 0x71, 0xca];

/// What is proposed from captures as learners give them reads a key that was in none of them, over what receivers and senders do.
#[rstest]
#[case::clean(0, 1_000, 0)]
#[case::long_marks(70, 1_000, 0)]
#[case::short_marks(-40, 1_000, 0)]
#[case::a_slow_clock(0, 1_030, 0)]
#[case::a_fast_clock(0, 970, 0)]
#[case::jitter(0, 1_000, 25)]
#[case::all_of_it(40, 1_015, 20)]
fn every_general_form_is_described_from_what_learners_give(
    #[case] stretch: i32,
    #[case] clock: u32,
    #[case] jitter: i32,
) {
    let mut chance = Chance(0x2545_f491_4f6c_dd1d);
    for (form, irp) in FORMS {
        let made = describe("made-up", irp).unwrap();
        let captures: Vec<Capture> = KEYS
            .iter()
            .map(|&key| {
                let fields = [("D", 0x15), ("F", key)];
                let press = Message::of(made, fields).unwrap().encode(3);
                as_heard(&heard(press, 0), stretch, clock, jitter, &mut chance)
            })
            .collect();
        let found = propose(&captures[..5]).unwrap_or_else(|why| panic!("{form}: {why}"));
        assert_eq!(found.explained, found.frames, "{form}: {found:?}");
        let own = describe("proposed", &found.irp).unwrap();
        let known = Protocols::built_in().clone().with(own);
        let reading = read_among(&captures[5], &known);
        let read = reading.candidates.iter().find(|read| read.protocol == own.id);
        assert!(read.is_some_and(|read| read.confidence > 0.5), "{form}: {} {reading:?}", found.irp);
    }
}

/// Two remotes among the captures: nothing is made of what does not belong together.
#[test]
fn captures_of_two_remotes_make_no_proposal_that_is_called_whole() {
    let one = of_irp(FORMS[0].1, &[&[("D", 1), ("F", 5)], &[("D", 1), ("F", 9)]], 2, 0);
    let other = of_irp(FORMS[2].1, &[&[("D", 3), ("F", 7)]], 2, 0);
    let all: Vec<Capture> = one.into_iter().chain(other).collect();
    match propose(&all) {
        Err(why) => assert!(!why.to_string().is_empty()),
        Ok(found) => assert!(found.explained < found.frames, "{found:?}"),
    }
}

/// A capture that is too short to say a key is named by its number.
#[test]
fn a_capture_that_says_nothing_is_named() {
    let mut all = of_irp(FORMS[0].1, &[&[("D", 1), ("F", 5)], &[("D", 1), ("F", 9)]], 2, 0);
    all.push(Capture::new(vec![500, 500, 500], None).unwrap());
    let why = propose(&all).unwrap_err().to_string();
    assert!(why.starts_with("Capture 3 has no frame that is long enough"), "{why}");
}
