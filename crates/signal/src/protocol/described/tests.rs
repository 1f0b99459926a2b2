//! Descriptions against the protocols that are built in, and against what is none.

use super::*;
use crate::protocol::Period;
use crate::protocol::tests::{
    IRP_KASEIKYO, IRP_NEC, IRP_NEC_32, IRP_PD16, IRP_PD32, IRP_PD42, IRP_RC5, IRP_RC5_15, IRP_RC6,
};
use crate::protocol::tests::{IRP_RC6_6A_T, IRP_SIRC12, IRP_SIRC15, IRP_SIRC20};
use crate::{Capture, Message, Protocols, read_among};
use rstest::rstest;

/// Marks longer by the stretch, spaces shorter, the clock off by a share.
fn distorted(durations: &[u32], stretch: i32, clock: f64) -> Vec<u32> {
    let one = |(at, &us): (usize, &u32)| {
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a duration")]
        let us = (f64::from(us) * clock).round() as u32;
        us.saturating_add_signed(if at % 2 == 0 { stretch } else { -stretch })
    };
    durations.iter().enumerate().map(one).collect()
}

fn spread(step: u32, max: u32) -> u32 {
    max.checked_add(1).map_or(step.wrapping_mul(2_654_435_761), |count| step.wrapping_mul(2_654_435_761) % count)
}

/// Every notation that describes a protocol that is built in: what is sent is read back over the range of every field, also
/// through the receivers and clocks that there are.
#[rstest]
#[case::nec("d-nec", IRP_NEC)]
#[case::rc5("d-rc5", IRP_RC5)]
#[case::rc5_15("d-rc5-15", IRP_RC5_15)]
#[case::rc6("d-rc6", IRP_RC6)]
#[case::rc6_6a_t("d-rc6-6a-t", IRP_RC6_6A_T)]
#[case::sirc_12("d-sirc-12", IRP_SIRC12)]
#[case::sirc_15("d-sirc-15", IRP_SIRC15)]
#[case::sirc_20("d-sirc-20", IRP_SIRC20)]
#[case::kaseikyo("d-kaseikyo", IRP_KASEIKYO)]
#[case::pd32("d-pd32", IRP_PD32)]
#[case::pd16("d-pd16", IRP_PD16)]
#[case::nec_32("d-nec-32", IRP_NEC_32)]
#[case::pd42("d-pd42", IRP_PD42)]
fn what_is_described_is_read_back(#[case] name: &str, #[case] irp: &str) {
    let own = describe(name, irp).unwrap();
    for step in 1..60_u32 {
        let fields = own
            .fields
            .iter()
            .enumerate()
            .map(|(at, spec)| (spec.name, spread(step * 7 + u32::try_from(at).unwrap() * 31, spec.max)));
        let message = Message::of(own, fields.collect::<Vec<_>>()).unwrap();
        let frame = message.layout(Turn::First).durations_us();
        for (stretch, clock) in [(0, 1.0), (100, 1.0), (-50, 1.0), (60, 1.04), (60, 0.97), (140, 1.0)] {
            let heard = distorted(&frame, stretch, clock);
            assert_eq!(own.decode(&heard), Ok(message), "{message} {stretch} {clock}");
        }
        // A whole press, among all that is built in.
        let mut heard = message.encode(3);
        heard.pop();
        let known = Protocols::built_in().clone().with(own);
        let reading = read_among(&Capture::new(heard, None).unwrap(), &known);
        let found = reading.candidates.iter().find(|found| found.protocol == own.id).unwrap();
        assert!(found.message.same_key(&message) && found.confidence > 0.9, "{message} {found:?}");
    }
}

#[test]
fn what_a_description_says_is_drawn_with_its_fields_and_its_checks() {
    let looked = look_at("doorbell", "{36k,400}<1,-1|1,-3>(16,-8,K:8,~K:8,1,^50m)*[K:0..255=5]").unwrap();
    assert_eq!(looked.carrier_hz, 36_000);
    assert_eq!(looked.fields, [LookedField { name: "K".to_owned(), max: 255, default: Some(5) }]);
    assert_eq!((looked.frame.len(), looked.check_bits, looked.least_frames), (35, 8, 1));
    assert_eq!(looked.frame[..4], [6_400, 3_200, 400, 1_200], "a 1 first: 5, the least significant bit first");
    let labels: Vec<&str> = looked.parts.iter().map(|part| part.label).collect();
    assert_eq!((labels[0], labels[1], labels[9], labels[17]), ("leader", "field 1", "check", "stop"));
    let bits: Vec<Option<bool>> = looked.parts[1..9].iter().map(|part| part.value).collect();
    assert_eq!(bits, [true, false, true, false, false, false, false, false].map(Some));
    assert!(looked.held.is_none());
    // Kept, the fields have their names.
    let kept = describe("doorbell", "{36k,400}<1,-1|1,-3>(16,-8,K:8,~K:8,1,^50m)*[K:0..255=5]").unwrap();
    let layout = Message::of(kept, []).unwrap().layout(Turn::First);
    assert!(layout.parts().any(|part| matches!(part, Part::Bit { label: "K", index: 0, value: true })));
}

#[test]
fn a_short_frame_that_follows_says_that_the_key_is_held() {
    let own =
        describe("held", "{38k,560}<1,-1|1,-3>(16,-8,D:8,F:8,1,^80m,(16,-4,1,^80m)*)[D:0..255,F:0..255]").unwrap();
    let message = Message::of(own, [("D", 7), ("F", 33)]).unwrap();
    let mut heard = message.encode(3);
    assert_eq!(heard.len(), 36 + 4 + 4);
    heard.pop();
    let reading = read_among(&Capture::new(heard, None).unwrap(), &Protocols::built_in().clone().with(own));
    let best = reading.best.unwrap();
    assert_eq!((best.message, best.frames_matched, best.held_signs), (message, 1, 2));
}

#[test]
fn a_frame_that_is_sent_three_times_is_one_that_receivers_want_three_times() {
    let own = describe("thrice", "{40k,500}<1,-1|2,-1>(5,-1,F:10,^40m)3[F:0..1023]").unwrap();
    assert_eq!((own.least_frames, own.period), (3, Period::StartToStart(40_000.0)));
    let message = Message::of(own, [("F", 611)]).unwrap();
    assert_eq!(own.decode(&message.layout(Turn::First).durations_us()), Ok(message));
}

#[test]
fn a_bit_that_toggles_is_known_as_one() {
    let own =
        describe("toggles", "{36k,msb,889}<1,-1|-1,1>(1,1:1,T:1,D:5,F:6,^114m)*[D:0..31,F:0..63,T@:0..1=0]").unwrap();
    let press = Message::of(own, [("D", 5), ("F", 12)]).unwrap();
    assert!(press.same_key(&press.with_toggle(true)) && press != press.with_toggle(true));
}

/// A message is written with its description, and read where nobody has heard of it.
#[test]
fn a_message_carries_its_description() {
    let text = r#"{"protocol":"irp:afar{38k,500}<1,-1|1,-3>(8,-4,K:12,1,^60m)*[K:0..4095]","fields":{"K":77}}"#;
    let message: Message = serde_json::from_str(text).unwrap();
    assert_eq!(message.to_string(), "afar K=77");
    assert_eq!(serde_json::to_string(&message).unwrap(), text);
    let wrong = text.replace("<1,-1|", "<1,-1;");
    let error = serde_json::from_str::<Message>(&wrong).unwrap_err().to_string();
    assert!(error.contains("At character"), "{error}");
    // The same notation under another name is another protocol, and one name with two notations is two.
    let other: Message = serde_json::from_str(&text.replace("afar", "near")).unwrap();
    assert_ne!(other, message);
}

#[rstest]
#[case::nothing("", "expected is")]
#[case::no_field("{38k,500}<1,-1|1,-3>(8,-4,7:8,1,^60m)*", "it names no field")]
#[case::a_field_without_a_range("{38k,500}<1,-1|1,-3>(8,-4,K:8,L:8,1,^60m)*[K:0..255]", "not defined")]
#[case::no_silence("{38k,500}<1,-1|1,-3>(8,-4,K:8,1)*[K:0..255]", "say the silence after it")]
#[case::a_short_silence("{38k,500}<1,-1|1,-3>(8,-4,K:8,1,-4m)*[K:0..255]", "the silence at its end is 4000 µs")]
#[case::an_extent_that_is_too_short("{38k,500}<1,-1|1,-3>(8,-4,K:8,1,^5m)*[K:0..255]", "extent shorter than duration")]
#[case::it_loops("{38k,500}<1,-1|1,-3>(8,-4,A:8,K:8,1,^60m)*{A=B+1,B=A+1}[K:0..255]", "circular")]
#[case::it_divides_by_nothing("{38k,500}<1,-1|1,-3>(8,-4,K:8,C:4,1,^60m)*{C=K/(K-K)}[K:0..255]", "divide by zero")]
#[case::it_never_ends(
    "{38k,500}<1,-1|1,-3>(8,-4,K:8,1,^60m)1000000000[K:0..255]",
    "it repeats its parts 1000000000 times"
)]
#[case::nested_repeats("{38k,500}<1,-1|1,-3>((((8,-4,K:8,1,-9m)50)50)50)50[K:0..255]", "times; at most 64")]
#[case::it_is_nested("{38k,500}<1,-1|1,-3>((((((((((((((1,-1))))))))))))))[K:0..255]", "nested deeper than 12")]
#[case::a_bracket_is_open("{38k,500}<1,-1|1,-3>(8,-4,K:8,1,^60m[K:0..255]", "“(” is never closed")]
#[case::a_bracket_of_another_kind("{38k,500}<1,-1|1,-3>(8,-4,K:8,1,^60m]*[K:0..255]", "closes the “(” at character 21")]
#[case::a_number_without_end(
    "{38k,500}<1,-1|1,-3>(8,-4,K:8,1,^60000000000000000000m)*[K:0..255]",
    "a number has at most"
)]
#[case::a_strange_letter("{38k,500}<1,-1|1,-3>(8,-4,Ä:8,1,^60m)*[Ä:0..255]", "“Ä” is no part of the notation")]
#[case::two_frames(
    "{38k,500}<1,-1|1,-3>(8,-4,K:8,1,-20m,8,-4,~K:8,1,-20m)*[K:0..255]",
    "2 frames that are not the same"
)]
#[case::an_ending("{38k,500}<1,-1|1,-3>(8,-4,K:8,1,-20m,(8,-4,1,-20m)*,8,-2,1,-40m)[K:0..255]", "let go")]
#[case::six_fields(
    "{38k,500}<1,-1|1,-3>(8,-4,A:2,B:2,C:2,D:2,E:2,F:2,1,^60m)*[A:0..3,B:0..3,C:0..3,D:0..3,E:0..3,F:0..3]",
    "it has 6 fields"
)]
#[case::a_field_that_is_not_sent("{38k,500}<1,-1|1,-3>(8,-4,K:8,1,^60m)*[K:0..255,L:0..3]", "read back")]
#[case::a_carrier_of_radio("{4000k,500}<1,-1|1,-3>(8,-4,K:8,1,^60m)*[K:0..255]", "its carrier of 4000000 Hz")]
#[case::a_wrong_bar("{38k,500}<1,-1;1,-3>(8,-4,K:8,1,^60m)*[K:0..255]", "At character 15: “;” does not fit here")]
fn what_is_no_description_is_told_with_its_place(#[case] irp: &str, #[case] said: &str) {
    let why = look_at("doorbell", irp).unwrap_err();
    assert!(why.to_string().contains(said), "{why}");
}

#[test]
fn a_description_of_a_hundred_kilobytes_is_told_and_not_read() {
    let long = format!("{{38k,500}}<1,-1|1,-3>({}K:8,1,^60m)*[K:0..255]", "1,-1,".repeat(20_000));
    assert!(look_at("long", &long).unwrap_err().to_string().contains("at most 2000 are read"));
}

#[rstest]
#[case("nec", "is built in")]
#[case("", "letters, digits and hyphens")]
#[case("a b", "letters, digits and hyphens")]
#[case("7up", "begins with a letter")]
fn a_name_is_a_word_of_its_own(#[case] name: &str, #[case] said: &str) {
    let why = describe(name, "{38k,500}<1,-1|1,-3>(8,-4,K:8,1,^60m)*[K:0..255]").unwrap_err();
    assert!(why.to_string().contains(said), "{why}");
}

#[test]
fn a_frame_of_another_remote_says_where_it_stops_fitting() {
    let own = describe("picky", "{38k,500}<1,-1|1,-3>(16,-8,K:8,~K:8,1,^60m)*[K:0..255]").unwrap();
    let frame = Message::of(own, [("K", 3)]).unwrap().layout(Turn::First).durations_us();
    assert_eq!(own.decode(&frame[..20]), Err(Misfit::Count { expected: 35, found: 20 }));
    let mut other = frame.clone();
    other[0] = 2_000;
    assert!(matches!(own.decode(&other), Err(Misfit::Leader { .. })));
    let mut other = frame.clone();
    other[7] = 3_100;
    assert_eq!(own.decode(&other), Err(Misfit::Duration { index: 7, us: 3_100 }));
    let mut other = frame;
    other[5] = if other[5] > 1_000 { 500 } else { 1_500 };
    assert!(own.decode(&other).unwrap_err().to_string().contains("what they say twice is not the same"));
}
