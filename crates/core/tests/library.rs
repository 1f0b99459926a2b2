//! The models and code sets that ship with the product: every one can be added, learned and told from the others.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test")]

use kestrel_core::codes::preset;
use kestrel_core::codes::vocabulary::TERMS;
use kestrel_core::edit::{Edit, apply, copy};
use kestrel_core::id::DeviceId;
use kestrel_core::model::{CodeBody, Device, Entity, Medium, Override, Press, Profile, Site, Span, with_overrides};
use kestrel_core::room::handset::{self, Thumb};
use kestrel_core::{demo, library};
use kestrel_signal::read;
use rstest::rstest;
use std::collections::{BTreeMap, BTreeSet};
use uuid::Uuid;

fn numbers() -> impl FnMut() -> Uuid {
    let mut next = 70_000_u128;
    move || {
        next += 1;
        Uuid::from_u128(next)
    }
}

fn name(profile: &Profile) -> String {
    format!("{} {}", profile.maker, profile.model)
}

/// The demo house with one more device of a model, and its id.
fn with_one(model: &Profile) -> (Site, DeviceId) {
    let mut site = demo::marram_point();
    let profile = copy::renumbered(model, &mut numbers()).0;
    let template = site.devices[0].clone();
    let device = Device {
        id: Uuid::from_u128(4).into(),
        profile: profile.id,
        name: "The new one".to_owned(),
        paths: vec![],
        overrides: vec![],
        reported: BTreeMap::default(),
        ..template
    };
    let id = device.id;
    for entity in [Entity::Profile(profile), Entity::Device(device)] {
        apply(&mut site, &Edit::Put { entity, base: None }).unwrap_or_else(|error| panic!("{}: {error}", name(model)));
    }
    (site, id)
}

#[test]
fn every_model_can_be_added_to_a_house() {
    let models = library::all();
    assert!(models.len() >= 12);
    let names: BTreeSet<String> = models.iter().map(name).collect();
    assert_eq!(names.len(), models.len(), "each has a name of its own");
    for model in models {
        let (site, device) = with_one(model);
        assert_eq!(site.profile_of(device).unwrap().functions.len(), model.functions.len());
    }
}

#[test]
fn a_copy_of_a_model_shares_no_id_with_it() {
    for model in library::all() {
        let (copied, map) = copy::renumbered(model, &mut numbers());
        assert_ne!(copied.id, model.id);
        let old: BTreeSet<_> = model.functions.iter().map(|f| f.id).collect();
        assert!(copied.functions.iter().all(|f| !old.contains(&f.id)), "{}", name(model));
        assert_eq!(map.len(), model.functions.len());
        let known: BTreeSet<_> = copied.functions.iter().map(|f| f.id).collect();
        for (key, part) in copied.keys().into_iter().chain(copied.comfort_keys()) {
            assert!(known.contains(&key), "{}: the key for {part}", name(model));
        }
        let inputs: BTreeSet<_> = model.inputs.iter().map(|input| input.id).collect();
        assert!(copied.inputs.iter().all(|input| !inputs.contains(&input.id)));
    }
}

/// What a handset of the library sends is read as what its model answers to, whatever the jitter.
#[rstest]
#[case(1)]
#[case(77)]
#[case(4_711)]
fn every_infrared_key_is_read_as_what_its_model_answers_to(#[case] seed: u64) {
    let mut read_keys = 0;
    for model in library::all() {
        let (site, device) = with_one(model);
        for key in handset::keys(&site, device).into_iter().filter(|key| key.medium == Medium::Ir) {
            let answers = site.profile_of(device).unwrap().function(key.function).unwrap().answers_to.clone().unwrap();
            let press = Press { hold_ms: 150, ..Press::default() };
            let radiated = handset::press(&site, device, key.function, Thumb::Press(press), seed).unwrap();
            let CodeBody::Decoded { message, .. } = &answers else { continue };
            let best = read(&radiated.capture).best.unwrap_or_else(|| panic!("{} of {}", key.name, name(model)));
            assert_eq!(&best.protocol, &message.protocol().id, "{} of {}", key.name, name(model));
            read_keys += 1;
        }
    }
    assert!(read_keys > 60, "{read_keys}");
}

#[test]
fn a_slip_of_the_thumb_is_never_read_as_another_key() {
    for model in library::all() {
        let (site, device) = with_one(model);
        let words: BTreeSet<String> = site
            .profile_of(device)
            .unwrap()
            .functions
            .iter()
            .filter_map(|f| f.answers_to.as_ref().and_then(CodeBody::key_words))
            .collect();
        for key in handset::keys(&site, device).into_iter().filter(|key| key.medium == Medium::Ir) {
            let Some(radiated) = handset::press(&site, device, key.function, Thumb::Slip, 5) else { continue };
            let Some(best) = read(&radiated.capture).best else { continue };
            let said = format!("{} {:?}", best.protocol, best.fields);
            assert!(!words.contains(&said), "{} of {} is read as {said}", key.name, name(model));
        }
    }
}

#[test]
fn keys_of_one_model_differ_unless_they_are_one_key() {
    for model in library::all() {
        let mut seen: BTreeMap<String, &str> = BTreeMap::new();
        for function in model.functions.iter().filter(|f| f.press.is_tap()) {
            let Some(words) = function.answers_to.as_ref().and_then(CodeBody::key_words) else { continue };
            let other = seen.insert(words.clone(), &function.name);
            assert_eq!(other, None, "{} of {} sends {words} too", function.name, name(model));
        }
    }
}

#[test]
fn every_code_set_has_named_keys_and_can_be_sent() {
    let sets = library::code_sets();
    let ids: BTreeSet<_> = sets.iter().map(|set| set.id).collect();
    assert_eq!(ids.len(), sets.len());
    for set in &sets {
        let names: BTreeSet<String> = set.keys.iter().map(|key| key.name.to_lowercase()).collect();
        assert_eq!(names.len(), set.keys.len(), "{}", set.name);
        assert!(set.keys.iter().all(|key| match &key.body {
            CodeBody::Ip { command } => command.bytes().is_ok(),
            body => body.send_ms(key.press, None) > 0,
        }));
        assert_eq!(set.key(&set.keys[0].name.to_uppercase()).map(|key| &key.name), Some(&set.keys[0].name));
    }
}

#[test]
fn the_sets_of_the_library_are_told_apart_by_the_true_answers() {
    let sets: Vec<_> = library::code_sets().into_iter().filter(|set| set.keys.len() > 3).collect();
    for wanted in &sets {
        let mut trials = Vec::new();
        for _ in 0..60 {
            let ranking = preset::tell_apart(&sets, &trials);
            let Some(next) = ranking.next else { break };
            let own = wanted.key(&next.function).and_then(|key| key.body.key_words());
            let worked = own.as_deref() == Some(next.sent.as_str());
            trials.push(preset::Tried { function: next.function, sent: next.sent, worked });
        }
        let ranking = preset::tell_apart(&sets, &trials);
        let place = ranking.sets.iter().position(|one| one.set == wanted.id).unwrap();
        assert_eq!(ranking.sets[place].against, 0, "{} is never ruled out by its own answers", wanted.name);
        assert!(trials.len() < 40, "{} presses for {}", trials.len(), wanted.name);
    }
}

#[test]
fn the_vocabulary_names_each_function_once() {
    let names: BTreeSet<String> = TERMS.iter().map(|term| term.name.to_lowercase()).collect();
    assert_eq!(names.len(), TERMS.len());
}

#[rstest]
#[case::gap(Override::Gap(900))]
#[case::warm_up(Override::WarmUp(Span::profile(1_000, 2_000)))]
#[case::cool_down(Override::CoolDown(Span::profile(1_000, 2_000)))]
#[case::picture(Override::Picture(Span::profile(3_000, 4_000)))]
#[case::input_change(Override::InputChange(Span::profile(500, 700)))]
#[case::standby(Override::AutoStandby(Some(Span::profile(600_000, 1_200_000))))]
#[case::apps(Override::Apps(vec![]))]
fn a_field_in_which_a_device_differs_is_found_again(#[case] own: Override) {
    for model in library::all() {
        let changed = with_overrides(model, std::slice::from_ref(&own));
        let found = Override::differences(model, &changed);
        assert_eq!(with_overrides(model, &found), changed, "{}", name(model));
        assert!(found.len() <= 1);
        assert_eq!(copy::needed_overrides(model, &found), found, "what differs is needed");
        assert_eq!(Override::differences(model, model), vec![]);
    }
}
