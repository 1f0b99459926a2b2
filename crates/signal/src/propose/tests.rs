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
