//! Gains by hand, and calls that end in a cause.

use super::*;
use crate::commission::runs;
use crate::demo::{self, ids};
use crate::prove::Analysis;
use rstest::rstest;

/// Two causes of one half each: a question that both answer alike tells nothing; one that only one affirms tells one bit;
/// one with 3/4 and 1/4 tells 1 − H(1/4) = 0.1887 bit (worked by hand).
#[rstest]
#[case(&[(0.5, 0.5), (0.5, 0.5)], 0.0)]
#[case(&[(0.5, 1.0), (0.5, 0.0)], 1.0)]
#[case(&[(0.5, 0.75), (0.5, 0.25)], 0.188_722)]
#[case(&[(0.25, 1.0), (0.75, 0.0)], 0.811_278)]
fn what_an_answer_tells(#[case] causes: &[(f64, f64)], #[case] bits: f64) {
    let before = entropy(causes.iter().map(|(share, _)| *share));
    assert!((gain(before, causes) - bits).abs() < 1e-5, "{}", gain(before, causes));
}

fn asked(says: &ClientSays, log: &BTreeMap<String, u32>) -> ServiceView {
    let site = demo::with_disc();
    let matrix = Analysis::of(&site, ids::boat_hall()).matrix();
    weigh(&site, ids::boat_hall(), &matrix, &runs(&site, ids::boat_hall()), says, log)
}

fn no_sound() -> ClientSays {
    ClientSays { picture: Some(true), sound: Some(false), before: Some(Before::PowerCut), ..ClientSays::default() }
}

#[test]
fn a_picture_and_no_sound_since_the_power_cut_has_causes_and_a_question() {
    let view = asked(&no_sound(), &BTreeMap::new());
    let site = demo::with_disc();
    let (likeliest, sum) = (&view.causes[0], view.causes.iter().map(|cause| cause.percent).sum::<f64>());
    assert!(sum > 60.0 && sum <= 100.5, "{sum}");
    // Whatever it is, it is on the way of the sound and not on that of the picture.
    let name = likeliest.device.map(|device| site.device_name(device)).unwrap_or_default();
    assert!(["Amplifier", "Receiver"].contains(&name.as_str()), "{likeliest:?}");
    let question = view.next.unwrap();
    assert!(question.text.ends_with('?'), "{}", question.text);
    assert!(view.tells_bits > WORTH_BITS);
    assert!(!view.check.is_empty());
}

#[test]
fn an_answer_moves_the_weights_and_is_not_asked_again() {
    let first = asked(&no_sound(), &BTreeMap::new());
    let question = first.next.unwrap();
    let mut says = no_sound();
    says.answers.insert(question.id.clone(), false);
    let second = asked(&says, &BTreeMap::new());
    assert_ne!(second.next.map(|next| next.id), Some(question.id));
    let percents = |view: &[Cause]| view.iter().map(|cause| cause.percent.to_string()).collect::<Vec<_>>();
    assert_ne!(percents(&first.causes), percents(&second.causes));
}

#[test]
fn what_this_house_has_had_before_weighs_more() {
    let none = asked(&no_sound(), &BTreeMap::new());
    let share =
        |view: &ServiceView, id: &str| view.causes.iter().find(|cause| cause.id == id).map_or(0.0, |c| c.percent);
    let id = format!("mute {}", ids::receiver());
    let often = asked(&no_sound(), &BTreeMap::from([(id.clone(), 6)]));
    assert!(share(&often, &id) > share(&none, &id), "{} {}", share(&often, &id), share(&none, &id));
}

#[test]
fn there_is_always_an_answer() {
    let says = ClientSays {
        picture: Some(true),
        sound: Some(true),
        light: Some(true),
        screen: Some(true),
        remote: Some(true),
        ..ClientSays::default()
    };
    let view = asked(&says, &BTreeMap::new());
    assert!(!view.causes.is_empty() && !view.check.is_empty());
    let site = demo::marram_point();
    let matrix = Analysis::of(&site, ids::cupboard()).matrix();
    let empty = weigh(&site, ids::cupboard(), &matrix, &[], &ClientSays::default(), &BTreeMap::new());
    assert!(!empty.causes.is_empty());
}
