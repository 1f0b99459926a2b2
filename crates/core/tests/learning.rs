//! Learning as people do it, mistakes included: each is named, and what is kept is what was pressed.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test")]

use kestrel_core::codes::judge::{Judgement, Trouble, judge};
use kestrel_core::demo::{self, ids};
use kestrel_core::id::{DeviceId, FunctionId};
use kestrel_core::model::{Code, CodeBody, Medium, Press, Site};
use kestrel_core::room::handset::{self, Thumb};
use kestrel_signal::Capture;
use rstest::rstest;
use std::collections::BTreeSet;
use uuid::Uuid;

/// The house with every code of a device forgotten.
fn forgotten(device: DeviceId) -> Site {
    let mut site = demo::marram_point();
    site.codes.retain(|code| code.device != device);
    site
}

fn heard(site: &Site, device: DeviceId, key: FunctionId, seed: u64) -> (Medium, Capture) {
    let press = Press { hold_ms: 150, ..Press::default() };
    let radiated = handset::press(site, device, key, Thumb::Press(press), seed).unwrap();
    (radiated.medium, radiated.capture)
}

fn keep(site: &mut Site, device: DeviceId, function: FunctionId, body: CodeBody) {
    site.codes.push(Code {
        id: Uuid::now_v7().into(),
        device,
        function,
        body,
        captured: None,
        since: None,
        tested: None,
    });
}

fn troubles(judgement: &Judgement) -> Vec<Trouble> {
    judgement.remarks.iter().map(|remark| remark.trouble).collect()
}

#[rstest]
#[case::receiver(ids::receiver())]
#[case::projector(ids::projector())]
#[case::streamer(ids::streamer())]
#[case::console(ids::console())]
#[case::disc_player(ids::disc_player())]
#[case::deck_display(ids::deck_display())]
#[case::cabin_display(ids::cabin_display())]
fn a_whole_handset_is_learned_key_by_key_as_its_maker_meant_it(#[case] device: DeviceId) {
    let mut site = forgotten(device);
    let keys = handset::keys(&site, device);
    assert!(keys.len() >= 4);
    for (seed, key) in (11..).zip(keys.iter().filter(|key| key.medium == Medium::Ir)) {
        let presses = [heard(&site, device, key.function, seed)];
        let judgement = judge(&site, device, key.function, Medium::Ir, &presses);
        let stops: Vec<_> = judgement.remarks.iter().filter(|remark| remark.stops).collect();
        assert!(stops.is_empty(), "{}: {stops:?}", key.name);
        let body = judgement.body.unwrap_or_else(|| panic!("{} is heard", key.name));
        let answers = site.model_of(device).unwrap().function(key.function).unwrap().answers_to.clone().unwrap();
        assert_eq!(body.key_words(), answers.key_words(), "{}", key.name);
        keep(&mut site, device, key.function, body);
    }
}

#[rstest]
#[case::receiver(ids::receiver())]
#[case::projector(ids::projector())]
#[case::console(ids::console())]
#[case::disc_player(ids::disc_player())]
fn the_wrong_key_is_always_noticed(#[case] device: DeviceId) {
    let site = demo::with_disc();
    let known: BTreeSet<FunctionId> =
        site.codes.iter().filter(|code| code.device == device).map(|code| code.function).collect();
    let keys: Vec<FunctionId> =
        handset::keys(&site, device).into_iter().map(|key| key.function).filter(|key| known.contains(key)).collect();
    for &asked in &keys {
        for &pressed in keys.iter().filter(|&&pressed| pressed != asked) {
            let presses = [heard(&site, device, pressed, 3)];
            let judgement = judge(&site, device, asked, Medium::Ir, &presses);
            let named = judgement.remarks.iter().find(|remark| {
                matches!(remark.trouble, Trouble::SameAsAnother | Trouble::ToggleOnly | Trouble::Swapped)
            });
            let named = named.unwrap_or_else(|| panic!("{:?}", troubles(&judgement)));
            assert_eq!(named.function, Some(pressed), "{}", named.text);
        }
    }
}

#[test]
fn silence_says_what_to_try() {
    let site = demo::marram_point();
    let judgement = judge(&site, ids::receiver(), ids::receiver_disc(), Medium::Ir, &[]);
    assert_eq!(troubles(&judgement), [Trouble::NothingHeard]);
    assert!(judgement.body.is_none() && judgement.remarks[0].stops);
    assert!(judgement.remarks[0].text.len() > 40, "{}", judgement.remarks[0].text);
}

#[test]
fn two_keys_in_two_presses_are_noticed() {
    let device = ids::receiver();
    let site = forgotten(device);
    let keys = handset::keys(&site, device);
    let presses = [heard(&site, device, keys[0].function, 1), heard(&site, device, keys[1].function, 2)];
    let judgement = judge(&site, device, keys[0].function, Medium::Ir, &presses);
    assert!(troubles(&judgement).contains(&Trouble::TwoKeys), "{:?}", troubles(&judgement));
}

#[test]
fn a_slip_of_the_thumb_is_too_short_or_unknown_and_never_kept_as_a_key() {
    let device = ids::receiver();
    let site = forgotten(device);
    for (seed, key) in (5..).zip(handset::keys(&site, device)) {
        let radiated = handset::press(&site, device, key.function, Thumb::Slip, seed).unwrap();
        let judgement = judge(&site, device, key.function, Medium::Ir, &[(radiated.medium, radiated.capture)]);
        assert!(!judgement.remarks.is_empty(), "{} slipped without a word", key.name);
        let decoded = matches!(judgement.body, Some(CodeBody::Decoded { .. }));
        assert!(!decoded || troubles(&judgement).contains(&Trouble::TooShort), "{}", key.name);
    }
}

#[test]
fn a_radio_key_on_an_infrared_handset_is_told_and_the_other_way_round() {
    let device = ids::cabin_display();
    let site = forgotten(device);
    let keys = handset::keys(&site, device);
    let lamp = keys.iter().find(|key| key.medium == Medium::Rf433).unwrap();
    let radio = [heard(&site, device, lamp.function, 9)];
    let judgement = judge(&site, device, lamp.function, Medium::Ir, &radio);
    assert!(troubles(&judgement).contains(&Trouble::IsRadio), "{:?}", troubles(&judgement));
    let power = keys.iter().find(|key| key.medium == Medium::Ir).unwrap();
    let infrared = [heard(&site, device, power.function, 9)];
    let judgement = judge(&site, device, power.function, Medium::Rf433, &infrared);
    assert!(troubles(&judgement).contains(&Trouble::IsInfrared), "{:?}", troubles(&judgement));
}

#[test]
fn radio_wants_a_second_press_and_then_keeps_a_fixed_code() {
    let device = ids::screen();
    let site = forgotten(device);
    for key in handset::keys(&site, device) {
        let first = heard(&site, device, key.function, 21);
        let one = judge(&site, device, key.function, Medium::Rf433, std::slice::from_ref(&first));
        assert!(troubles(&one).contains(&Trouble::PressAgain), "{:?}", troubles(&one));
        let both = [first, heard(&site, device, key.function, 22)];
        let two = judge(&site, device, key.function, Medium::Rf433, &both);
        assert!(!troubles(&two).contains(&Trouble::PressAgain), "{:?}", troubles(&two));
        let answers = site.model_of(device).unwrap().function(key.function).unwrap().answers_to.clone().unwrap();
        assert_eq!(two.body.unwrap().key_words(), answers.key_words(), "{}", key.name);
    }
}

#[test]
fn every_remark_is_a_sentence() {
    let site = demo::with_disc();
    for device in &site.devices {
        let keys = handset::keys(&site, device.id);
        for key in &keys {
            for other in keys.iter().take(3) {
                let presses = [heard(&site, device.id, other.function, 2)];
                for remark in judge(&site, device.id, key.function, key.medium, &presses).remarks {
                    assert!(remark.text.ends_with(['.', '?', ')']) && remark.text.len() > 30, "{}", remark.text);
                }
            }
        }
    }
}
