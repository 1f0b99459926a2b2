//! Edits of the demo house.

use super::*;
use crate::demo::{self, ids};
use crate::id::{CodeId, DeviceId, InputId, RoomId};
use crate::model::{
    Activity, AfterPowerOn, App, CodeBody, CodeSet, ControlPath, Device, Feedback, Function, House, Input, Medium,
    Mode, Offer, Override, Reach, Selection, Span, Tell, Tries, Volume,
};
use crate::model::{Surface, SurfaceKey};
use kestrel_signal::Capture;
use kestrel_signal::ip::IpCommand;
use kestrel_signal::payload::Payload;
use kestrel_signal::radio::RadioCode;
use proptest::prelude::*;
use rstest::rstest;

fn put(entity: Entity) -> Edit {
    Edit::Put { entity, base: None }
}

fn remove(kind: EntityKind, id: Uuid) -> Edit {
    Edit::Remove { kind, id, base: 0 }
}

fn device(site: &Site, id: DeviceId) -> Device {
    site.device(id).unwrap().clone()
}

#[test]
fn a_renamed_device_is_one_change_and_undo_brings_the_house_back() {
    let before = demo::marram_point();
    let mut site = before.clone();
    let renamed = Device { name: "  Beamer ".to_owned(), ..device(&site, ids::projector()) };
    let changes = apply(&mut site, &put(Entity::Device(renamed))).unwrap();
    assert_eq!(site.device_name(ids::projector()), "Beamer");
    assert_eq!(describe(&site, &changes), "Beamer: name “Projector” → “Beamer”");
    revert(&mut site, &changes);
    assert_eq!(site, before);
}

#[test]
fn the_same_again_changes_nothing() {
    let mut site = demo::marram_point();
    let same = put(Entity::Device(device(&site, ids::projector())));
    assert_eq!(apply(&mut site, &same), Ok(vec![]));
}

#[test]
fn removing_a_device_takes_its_cables_and_codes_along_and_undo_brings_all_back() {
    let before = demo::marram_point();
    let mut site = before.clone();
    site.activities.retain(|a| a.source != ids::streamer());
    let with_one_activity = site.clone();
    let changes = apply(&mut site, &remove(EntityKind::Device, ids::streamer().0)).unwrap();
    assert_eq!(changes.len(), 1 + 14 + 1 + 1, "a cable, 14 codes, where it stands, the device");
    assert_eq!(describe(&site, &changes), "Removed Streamer, and 16 things that hung on it");
    assert!(!site.codes.iter().any(|c| c.device == ids::streamer()));
    revert(&mut site, &changes);
    assert_eq!(site, with_one_activity);
}

#[test]
fn a_profile_that_loses_an_input_loses_its_cable() {
    let mut site = demo::marram_point();
    let mut profile = site.model_of(ids::receiver()).unwrap().clone();
    profile.inputs.remove(1);
    let changes = apply(&mut site, &put(Entity::Profile(profile))).unwrap();
    assert_eq!(changes.len(), 2);
    assert!(!site.connections.iter().any(|c| c.from_device == ids::streamer()));
}

#[test]
fn times_are_told_in_seconds() {
    let mut site = demo::marram_point();
    let mut profile = site.model_of(ids::projector()).unwrap().clone();
    profile.times.warm_up.hi_ms = 31_000;
    let changes = apply(&mut site, &put(Entity::Profile(profile))).unwrap();
    assert_eq!(describe(&site, &changes), "Tarnbeck P2: longest time 29.4 s → 31 s");
}

#[rstest]
#[case::empty("", "Give it a name")]
#[case::blank("   ", "Give it a name")]
#[case::long(&"x".repeat(10_000), "10000 characters; at most 80")]
#[case::control("Pro\0jector", "control character")]
#[case::taken("receiver", "“receiver” is taken")]
fn bad_names_get_a_sentence(#[case] name: &str, #[case] expected: &str) {
    let mut site = demo::marram_point();
    let renamed = Device { name: name.to_owned(), ..device(&site, ids::projector()) };
    let error = apply(&mut site, &put(Entity::Device(renamed))).unwrap_err().to_string();
    assert!(error.contains(expected), "{error}");
    assert_eq!(site, demo::marram_point(), "and nothing has changed");
}

#[test]
fn a_device_in_use_is_not_removed() {
    let mut site = demo::marram_point();
    let error = apply(&mut site, &remove(EntityKind::Device, ids::projector().0)).unwrap_err();
    assert_eq!(
        error.to_string(),
        "Projector is part of Feature film, Streaming, Games. Choose another device there first."
    );
    let error = apply(&mut site, &remove(EntityKind::Room, ids::boat_hall().0)).unwrap_err();
    assert!(error.to_string().contains("Boat Hall still holds"));
    assert_eq!(apply(&mut site, &remove(EntityKind::Device, Uuid::from_u128(3))), Err(EditError::Gone));
}

#[test]
fn a_plug_that_does_not_fit_and_a_second_code_are_refused() {
    let mut site = demo::marram_point();
    let speakers = site.model_of(ids::receiver()).unwrap().outputs[1].id;
    let mut cable = site.connections[2];
    cable.from_output = speakers;
    let error = apply(&mut site, &put(Entity::Connection(cable))).unwrap_err().to_string();
    assert!(error.contains("the plug does not fit"), "{error}");
    let second = Code { id: CodeId(Uuid::from_u128(2)), ..site.codes[0].clone() };
    let error = apply(&mut site, &put(Entity::Code(second))).unwrap_err().to_string();
    assert!(error.contains("has a code of this kind already"), "{error}");
}

#[rstest]
#[case::reversed_span(|p: &mut Profile| p.times.warm_up.lo_ms = 99_000, "the shortest time stands first")]
#[case::too_long(|p: &mut Profile| p.times.cool_down.hi_ms = 700_000, "longer than 10 minutes")]
#[case::no_inputs(|p: &mut Profile| { p.after_power_on = AfterPowerOn::Last; p.inputs.clear(); }, "no input")]
#[case::lost_key(|p: &mut Profile| { p.functions.remove(0); }, "the key for “power on” is missing")]
#[case::twins(|p: &mut Profile| p.inputs[1].name = "hdmi 1".to_owned(), "“hdmi 1” is taken")]
#[case::list_shuts(|p: &mut Profile| p.times.gap_ms = 9_000, "no entry can ever be chosen")]
fn profiles_that_contradict_themselves_are_refused(#[case] spoil: fn(&mut Profile), #[case] expected: &str) {
    let mut site = demo::marram_point();
    let mut profile = site.model_of(ids::projector()).unwrap().clone();
    spoil(&mut profile);
    let error = apply(&mut site, &put(Entity::Profile(profile))).unwrap_err().to_string();
    assert!(error.contains(expected), "{error}");
}

#[rstest]
#[case::nameless_maker(|p: &mut Profile| p.maker.clear(), "Maker: is empty")]
#[case::long_model(|p: &mut Profile| p.model = "m".repeat(81), "81 characters; at most 80")]
#[case::many_inputs(|p: &mut Profile| {
    let plain = p.inputs[0].clone();
    p.inputs.extend((0..40).map(|at| Input { id: InputId(Uuid::from_u128(at)), name: format!("In {at}"), ..plain.clone() }));
}, "more than 32")]
#[case::many_functions(|p: &mut Profile| {
    let plain = p.functions[0].clone();
    p.functions.extend((0..400).map(|at| Function { id: Uuid::from_u128(at).into(), name: format!("Key {at}"), ..plain.clone() }));
}, "more than 400")]
#[case::same_id(|p: &mut Profile| p.functions[1].id = p.functions[0].id, "two of them have the same id")]
#[case::nameless_function(|p: &mut Profile| p.functions[0].name = " ".to_owned(), "Function: is empty")]
#[case::same_function(|p: &mut Profile| p.functions[1].name = p.functions[0].name.to_uppercase(), "is taken")]
#[case::no_presses(|p: &mut Profile| p.functions[0].press.presses = 0, "a number from 1 to 9")]
#[case::ten_presses(|p: &mut Profile| p.functions[0].press.presses = 10, "a number from 1 to 9")]
#[case::held_for_ever(|p: &mut Profile| p.functions[0].press.hold_ms = 30_001, "longer than 30 s")]
#[case::no_pause(|p: &mut Profile| p.functions[0].press.gap_ms = 99, "between 0.1 and 5 s")]
#[case::no_frames(|p: &mut Profile| p.functions[0].frames = Some(0), "a number from 1 to 100")]
#[case::fixed_input(|p: &mut Profile| {
    p.after_power_on = AfterPowerOn::Fixed { id: InputId(Uuid::from_u128(9)) };
}, "is not one of the inputs")]
#[case::volume_ceiling(|p: &mut Profile| p.volume = Some(Volume { ceiling: 101, range: 100, ..volume() }), "between 0 and 100")]
#[case::loud_start(|p: &mut Profile| {
    p.volume = Some(Volume { after_power_on: Some(120), range: 100, ..volume() });
}, "between 0 and 100")]
#[case::no_step(|p: &mut Profile| p.volume = Some(Volume { step_tenths: 0, ..volume() }), "more than 0")]
#[case::same_offer(|p: &mut Profile| p.offers = vec![p.offers[0], p.offers[0]], "named twice")]
#[case::nameless_mode(|p: &mut Profile| p.modes = vec![mode("")], "Setting: is empty")]
#[case::bad_channel(|p: &mut Profile| p.apps = vec![channel("7a")], "no channel number")]
#[case::long_channel(|p: &mut Profile| p.apps = vec![channel("1234567")], "1 to 6 digits")]
#[case::fast_poll(|p: &mut Profile| p.feedback = poll(50, 20), "0.1 s to 10 min")]
#[case::late_answer(|p: &mut Profile| p.feedback = poll(1_000, 2_000), "before the next question")]
#[case::endless_standby(|p: &mut Profile| p.auto_standby = Some(Span::profile(1, 90_000_000)), "at most a day")]
#[case::long_gap(|p: &mut Profile| {
    p.selection = Selection::None;
    p.inputs.clear();
    p.after_power_on = AfterPowerOn::Last;
    p.times.gap_ms = 60_001;
}, "longer than a minute")]
fn every_field_of_a_profile_has_bounds_that_are_said(#[case] spoil: fn(&mut Profile), #[case] expected: &str) {
    let mut site = demo::marram_point();
    let mut profile = site.model_of(ids::projector()).unwrap().clone();
    spoil(&mut profile);
    let error = apply(&mut site, &put(Entity::Profile(profile))).unwrap_err().to_string();
    assert!(error.contains(expected), "{error}");
    assert_eq!(site, demo::marram_point(), "and nothing has changed");
}

fn volume() -> Volume {
    let [up, down] = [1, 2].map(|at| Uuid::from_u128(at).into());
    Volume {
        up,
        down,
        step_tenths: 5,
        range: 100,
        ceiling: 80,
        after_power_on: None,
        absolute: false,
        mute: None,
        decibels: false,
    }
}

fn mode(name: &str) -> Mode {
    Mode { name: name.to_owned(), values: vec![], next: None }
}

fn channel(number: &str) -> App {
    App { name: "News".to_owned(), reach: Reach::Digits { number: number.to_owned() } }
}

fn poll(every_ms: u32, time_out_ms: u32) -> Feedback {
    Feedback::Poll { every_ms, time_out_ms, tells: vec![Tell::Power] }
}

#[rstest]
#[case::radio_unit(CodeBody::Radio { code: RadioCode::Ook24 { identity: 1, key: 1 }, unit_us: 90 }, "between 150 and 700 µs")]
#[case::radio_key(CodeBody::Radio { code: RadioCode::Ook24 { identity: 1, key: 200 }, unit_us: 350 }, "Radio code")]
#[case::raw_on_the_network(
    CodeBody::Raw { capture: Capture::new(vec![900, 450], None).unwrap(), medium: Medium::Ip },
    "by infrared or radio"
)]
#[case::opaque_on_a_wire(opaque(Medium::Serial, None, 1), "by infrared or radio")]
#[case::opaque_never_ends(opaque(Medium::Ir, Some(60_001), 1), "between 1 ms and 60 s")]
#[case::opaque_ten_times(opaque(Medium::Ir, None, 10), "a number from 1 to 9")]
#[case::command_without_text(CodeBody::Ip { command: IpCommand::Pjlink { command: "P".to_owned() } }, "no PJLink command")]
#[case::no_mac(CodeBody::Ip { command: IpCommand::WakeOnLan { mac: "02".to_owned() } }, "no MAC address")]
fn what_cannot_be_sent_is_not_kept(#[case] body: CodeBody, #[case] expected: &str) {
    let mut site = demo::marram_point();
    let code = Code { id: CodeId(Uuid::from_u128(2)), body, ..site.codes[0].clone() };
    let error = apply(&mut site, &put(Entity::Code(code))).unwrap_err().to_string();
    assert!(error.contains(expected), "{error}");
}

fn opaque(medium: Medium, send_ms: Option<u32>, presses: u8) -> CodeBody {
    CodeBody::Opaque { payload: Payload::new(vec![1, 2]).unwrap(), medium, send_ms, presses }
}

#[test]
fn what_a_thing_refers_to_must_be_there() {
    let mut site = demo::marram_point();
    let nowhere = Uuid::from_u128(77);
    let receiver = device(&site, ids::receiver());
    let code = site.codes[0].clone();
    let cable = site.connections[0];
    let cases = [
        (Entity::Device(Device { room: nowhere.into(), ..receiver.clone() }), "room"),
        (Entity::Device(Device { profile: nowhere.into(), ..receiver }), "profile"),
        (Entity::Code(Code { device: nowhere.into(), ..code.clone() }), "device"),
        (Entity::Code(Code { function: nowhere.into(), ..code }), "function"),
        (Entity::Connection(Connection { from_output: nowhere.into(), ..cable }), "output"),
        (Entity::Connection(Connection { to_input: nowhere.into(), ..cable }), "input"),
        (Entity::House(House { id: nowhere.into(), ..site.house.clone() }), "house"),
    ];
    for (entity, what) in cases {
        assert_eq!(apply(&mut site, &put(entity)), Err(EditError::NoSuch(what)));
    }
    assert_eq!(site, demo::marram_point());
}

#[test]
fn sound_comes_back_only_where_the_output_takes_it() {
    let mut site = demo::marram_point();
    let demo = demo::marram_point();
    let refused: Vec<String> = demo
        .connections
        .clone()
        .into_iter()
        .filter(|cable| demo.output(cable.from_device, cable.from_output).unwrap().returns.is_none())
        .map(|cable| {
            let edit = put(Entity::Connection(Connection { return_audio: true, ..*cable }));
            apply(&mut site, &edit).unwrap_err().to_string()
        })
        .collect();
    assert!(!refused.is_empty() && refused.iter().all(|why| why.contains("takes no sound back")), "{refused:?}");
}

#[test]
fn a_device_with_cables_keeps_its_model() {
    let mut site = demo::marram_point();
    let other = site.device(ids::projector()).unwrap().profile;
    let moved = Device { profile: other, ..device(&site, ids::receiver()) };
    let error = apply(&mut site, &put(Entity::Device(moved))).unwrap_err().to_string();
    assert!(error.contains("has cables or codes of its present profile"), "{error}");
}

#[test]
fn a_code_set_is_checked_key_by_key() {
    let mut site = demo::marram_point();
    let set = site.code_sets[0].clone();
    let spoiled = |spoil: fn(&mut CodeSet)| {
        let mut own = set.clone();
        spoil(&mut own);
        own
    };
    let cases: [(CodeSet, &str); 4] = [
        (spoiled(|set| set.name.clear()), "Name of the code set: is empty"),
        (spoiled(|set| set.keys[0].name = "\u{7}".to_owned()), "control character"),
        (spoiled(|set| set.keys[0].press.presses = 12), "a number from 1 to 9"),
        (spoiled(|set| set.source = "s".repeat(4_001)), "at most 4000 fit"),
    ];
    for (set, expected) in cases {
        let error = apply(&mut site, &put(Entity::CodeSet(set))).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }
}

#[test]
fn an_activity_must_be_playable() {
    let mut site = demo::marram_point();
    let film = site.activity(ids::feature_film()).unwrap().clone();
    let cases = [
        (Activity { source: ids::projector(), ..film.clone() }, "plays nothing"),
        (Activity { seen_on: Some(ids::streamer()), ..film.clone() }, "shows no picture"),
        (Activity { heard_on: Some(ids::streamer()), ..film.clone() }, "makes no sound"),
        (Activity { seen_on: None, heard_on: None, ..film.clone() }, "nothing is seen or heard"),
        (Activity { source: DeviceId(Uuid::from_u128(1)), ..film.clone() }, "does not exist"),
        (Activity { name: "Streaming".to_owned(), ..film }, "is taken"),
    ];
    for (activity, expected) in cases {
        let error = apply(&mut site, &put(Entity::Activity(activity))).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }
}

#[test]
fn the_demo_house_passes_every_check_and_is_in_order() {
    let demo = demo::marram_point();
    let mut site = Site::empty(demo.house.clone());
    for entity in entities(&demo) {
        apply(&mut site, &put(entity)).unwrap();
    }
    assert_eq!(site, demo);
    let profile = site.model_of(ids::projector()).unwrap();
    assert!(matches!(profile.selection, Selection::Menu { .. }));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn undo_then_redo_is_identity(names in prop::collection::vec("[A-Z][a-z]{3,9}", 1..8)) {
        let mut site = demo::marram_point();
        let mut done: Vec<(Site, Vec<Change>)> = vec![];
        for (at, name) in names.iter().enumerate() {
            let id = [ids::projector(), ids::screen(), ids::streamer()][at % 3];
            let before = site.clone();
            let renamed = Device { name: name.clone(), ..device(&site, id) };
            if let Ok(changes) = apply(&mut site, &put(Entity::Device(renamed))) {
                done.push((before, changes));
            }
        }
        let last = site.clone();
        for (before, changes) in done.iter().rev() {
            revert(&mut site, changes);
            prop_assert_eq!(&site, before);
        }
        for (_, changes) in &done {
            carry_out(&mut site, changes);
        }
        prop_assert_eq!(site, last);
    }
}

#[test]
fn a_test_that_is_written_down_says_what_came_of_it() {
    use crate::model::{TestEffect, Tested};
    let mut site = demo::marram_point();
    let known = site.codes.iter().find(|code| code.device == ids::receiver()).unwrap().clone();
    let tested =
        Tested { at: jiff::Timestamp::UNIX_EPOCH, effect: TestEffect::WrongThing, note: "It hummed.".to_owned() };
    let edit = put(Entity::Code(Code { tested: Some(tested), ..known }));
    let changes = apply(&mut site, &edit).unwrap();
    assert!(describe(&site, &changes).ends_with("tested, wrong thing"), "{}", describe(&site, &changes));
}

#[rstest]
#[case::own_gateway(|d: &mut Device| d.paths = vec![path(Medium::Ir, Some(d.id))], "its own gateway")]
#[case::twice(|d: &mut Device| d.paths = vec![path(Medium::Ir, None), path(Medium::Ir, None)], "infrared is named twice")]
#[case::more_lost_than_tried(|d: &mut Device| {
    let tries = Tries { lost: 5, of: 4 };
    d.paths = vec![ControlPath { tries, ..path(Medium::Ir, None) }];
}, "5 of 4 presses cannot be lost")]
#[case::same_room(|d: &mut Device| d.serves = vec![ids::watch_room(), ids::watch_room()], "named twice")]
#[case::no_such_room(|d: &mut Device| d.serves = vec![RoomId(Uuid::from_u128(1))], "room that this refers to does not exist")]
#[case::long_note(|d: &mut Device| d.records.notes = "x".repeat(5_000), "at most 4000 fit")]
#[case::nul(|d: &mut Device| d.network.ip = "10.0\0.1".to_owned(), "control character")]
#[case::override_that_contradicts(|d: &mut Device| {
    d.overrides = vec![Override::WarmUp(Span::profile(9_000, 1_000))];
}, "the shortest time stands first")]
fn devices_that_contradict_themselves_are_refused(#[case] spoil: fn(&mut Device), #[case] expected: &str) {
    let mut site = demo::marram_point();
    let mut device = site.device(ids::receiver()).unwrap().clone();
    spoil(&mut device);
    let error = apply(&mut site, &put(Entity::Device(device))).unwrap_err().to_string();
    assert!(error.contains(expected), "{error}");
}

fn path(medium: Medium, through: Option<DeviceId>) -> ControlPath {
    ControlPath { through, ..ControlPath::from(Offer { medium, replies: false }) }
}

#[test]
fn a_field_of_its_own_changes_the_device_and_not_the_model() {
    let mut site = demo::marram_point();
    let mut device = site.device(ids::projector()).unwrap().clone();
    device.overrides = vec![Override::Gap(1_500)];
    apply(&mut site, &put(Entity::Device(device))).unwrap();
    assert_eq!(site.profile_of(ids::projector()).unwrap().times.gap_ms, 1_500);
    assert_eq!(site.model_of(ids::projector()).unwrap().times.gap_ms, 1_000);
}

#[test]
fn a_second_code_by_another_medium_is_kept_and_the_preferred_one_sent() {
    use kestrel_signal::ip::IpCommand;
    let mut site = demo::marram_point();
    let known = site.codes.iter().find(|code| code.device == ids::receiver()).unwrap().clone();
    let command = IpCommand::Pjlink { command: "POWR 1".to_owned() };
    let second = Code { id: CodeId(Uuid::from_u128(2)), body: CodeBody::Ip { command }, ..known.clone() };
    apply(&mut site, &put(Entity::Code(second.clone()))).unwrap();
    assert_eq!(site.code(ids::receiver(), known.function).unwrap().id, known.id, "infrared is preferred");
    let mut device = site.device(ids::receiver()).unwrap().clone();
    device.paths.reverse();
    apply(&mut site, &put(Entity::Device(device))).unwrap();
    assert_eq!(site.code(ids::receiver(), known.function).unwrap().id, second.id, "now the network is");
}

#[test]
fn a_gateway_in_use_is_not_removed() {
    let mut site = demo::marram_point();
    let error = apply(&mut site, &remove(EntityKind::Device, ids::hall_gateway().0)).unwrap_err().to_string();
    assert!(error.contains("Hall gateway is the gateway of Disc player, Receiver, Projector"), "{error}");
}

mod duplicates {
    use super::*;
    use crate::edit::copy;

    fn numbers() -> impl FnMut() -> Uuid {
        let mut next = 5_000u128;
        move || {
            next += 1;
            Uuid::from_u128(next)
        }
    }

    fn carried_out(site: &mut Site, entities: Vec<Entity>) {
        for entity in entities {
            apply(site, &put(entity)).unwrap();
        }
    }

    #[test]
    fn a_device_is_doubled_with_its_codes_and_without_its_address() {
        let mut site = demo::marram_point();
        let entities = copy::device(&site, ids::receiver(), &mut numbers()).unwrap();
        carried_out(&mut site, entities);
        let twin = site.devices.iter().find(|device| device.name == "Receiver 2").unwrap();
        assert!(twin.network.is_empty() && twin.paths.len() == 2);
        assert_eq!(site.codes.iter().filter(|code| code.device == twin.id).count(), 7);
    }

    #[test]
    fn a_room_is_doubled_with_everything_in_it() {
        let mut site = demo::marram_point();
        let entities = copy::room(&site, ids::boat_hall(), &mut numbers()).unwrap();
        carried_out(&mut site, entities);
        let twin = site.rooms.iter().find(|room| room.name == "Boat Hall 2").unwrap().id;
        assert_eq!(site.devices_in(twin).count(), 13);
        let light = &site.room(twin).unwrap().lighting;
        assert_eq!(light.zones.len(), 4);
        assert!(light.zones.iter().all(|zone| site.device(zone.device).unwrap().room == twin), "its own dimmers");
        assert_eq!(site.activities.iter().filter(|activity| activity.room == twin).count(), 3);
        let receiver = site.devices_in(twin).find(|device| device.name == "Receiver").unwrap();
        let gateway = receiver.paths[0].through.unwrap();
        assert_eq!(site.device(gateway).unwrap().room, twin, "its gateway is the one of the new room");
        let wired = site.connections.iter().filter(|c| site.device(c.to_device).unwrap().room == twin).count();
        assert_eq!(wired, 6);
    }

    #[test]
    fn a_profile_is_doubled_with_ids_of_its_own() {
        let mut site = demo::marram_point();
        let model = site.device(ids::projector()).unwrap().profile;
        let entity = copy::profile(&site, model, &mut numbers()).unwrap();
        carried_out(&mut site, vec![entity]);
        let twin = site.profiles.iter().find(|profile| profile.model == "P2 2").unwrap();
        let keys: Vec<_> = twin.keys().into_iter().map(|(key, _)| key).collect();
        assert!(keys.iter().all(|key| twin.function(*key).is_some()), "its keys are its own");
        assert!(site.profile(model).unwrap().functions.iter().all(|f| twin.function(f.id).is_none()));
    }

    #[test]
    fn a_free_name_counts_on_and_never_grows_too_long() {
        let taken = ["Display 2".to_owned(), "display 3".to_owned()];
        assert_eq!(copy::free_name("Display", &taken), "Display 4");
        assert_eq!(copy::free_name("Display 2", &[]), "Display 2");
        assert_eq!(copy::free_name(&"x".repeat(80), &[]).chars().count(), 80);
    }
}

#[test]
fn two_profiles_that_share_a_function_or_an_input_are_refused() {
    let mut site = demo::marram_point();
    let known = site.model_of(ids::receiver()).unwrap().clone();
    let mut twin = Profile { id: Uuid::from_u128(1).into(), model: "Twin".to_owned(), ..known.clone() };
    let refused =
        |site: &mut Site, twin: &Profile| apply(site, &put(Entity::Profile(twin.clone()))).unwrap_err().to_string();
    assert!(refused(&mut site, &twin).contains("stands for something else in this house"));
    twin = crate::edit::copy::renumbered(&twin, &mut Uuid::new_v4).0;
    twin.inputs[0].id = known.inputs[0].id;
    assert!(refused(&mut site, &twin).contains("stands for something else in this house"));
    twin = crate::edit::copy::renumbered(&twin, &mut Uuid::new_v4).0;
    apply(&mut site, &put(Entity::Profile(twin))).unwrap();
    assert_eq!(site.model_of(ids::receiver()), Some(&known), "the first has lost nothing");
}

#[test]
fn the_same_cable_twice_is_refused() {
    let mut site = demo::marram_point();
    let cable = Connection { id: Uuid::from_u128(1).into(), ..site.connections[0] };
    let error = apply(&mut site, &put(Entity::Connection(cable))).unwrap_err().to_string();
    assert!(error.contains("is there already"), "{error}");
}

#[test]
fn one_key_id_twice_is_refused_on_one_surface_and_in_the_whole_house() {
    let mut site = demo::marram_point();
    let room = site.room(ids::boat_hall()).unwrap().clone();
    let surface = room.surfaces[0].clone();
    let own = |surface: &crate::model::Surface| Entity::Surface(crate::model::InRoom::new(room.id, surface.clone()));
    let mut twice = surface.clone();
    let key = twice.pages[0].keys[0].clone();
    twice.pages.last_mut().unwrap().keys.push(key);
    let error = apply(&mut site, &put(own(&twice))).unwrap_err().to_string();
    assert!(error.contains("stands for two things"), "{error}");
    let elsewhere = crate::model::Surface { id: Uuid::from_u128(1).into(), name: "Twin".to_owned(), ..surface };
    let error = apply(&mut site, &put(own(&elsewhere))).unwrap_err().to_string();
    assert!(error.contains("stands for something else"), "{error}");
    assert_eq!(site, demo::marram_point(), "nothing was touched");
}

#[test]
fn a_room_goes_with_all_that_is_edited_by_itself_and_comes_back_whole() {
    let before = demo::marram_point();
    let mut site = before.clone();
    let cupboard = site.rooms.iter().find(|room| !room.lighting.cues.is_empty()).unwrap().clone();
    let own = crate::model::parts(&cupboard).len();
    site.devices.retain(|device| device.room != cupboard.id && !device.serves(cupboard.id));
    site.activities.retain(|activity| activity.room != cupboard.id);
    let with_parts = site.clone();
    let remove = Edit::Remove { kind: EntityKind::Room, id: cupboard.id.0, base: 0 };
    let changes = apply(&mut site, &remove).unwrap();
    // What was still to be ordered for it is then to be ordered for the house.
    let ordered = with_parts.orders.iter().filter(|order| order.room == Some(cupboard.id)).count();
    assert_eq!(changes.len(), own + ordered + 1);
    assert!(
        site.orders.len() == with_parts.orders.len() && site.orders.iter().all(|own| own.room != Some(cupboard.id))
    );
    assert_eq!(site.room(cupboard.id), None);
    revert(&mut site, &changes);
    assert_eq!(site, with_parts);
}

#[test]
fn an_empty_light_is_none_and_to_put_it_is_to_remove_what_there_was() {
    let mut site = demo::marram_point();
    let key = crate::model::EntityKey { kind: EntityKind::Light, id: ids::boat_hall().0 };
    assert!(find(&site, key).is_some());
    let empty = crate::model::RoomLight::of(ids::boat_hall(), &crate::model::Lighting::default());
    let cues = site.room(ids::boat_hall()).unwrap().lighting.cues.len();
    // Cues that refer to its looks would be lost: they go first.
    let lines = site.room(ids::boat_hall()).unwrap().lighting.cues.clone();
    for cue in lines {
        apply(&mut site, &Edit::Remove { kind: EntityKind::Cue, id: cue.id.0, base: 0 }).unwrap();
    }
    let changes = apply(&mut site, &put(Entity::Light(empty.clone()))).unwrap();
    assert!(cues > 0 && changes[0].after.is_none());
    assert_eq!(find(&site, key), None);
    assert_eq!(apply(&mut site, &put(Entity::Light(empty))).unwrap(), []);
    revert(&mut site, &changes);
    assert!(find(&site, key).is_some());
}

/// What a line of the log says of a change, in words and not in counts.
#[rstest]
#[case::key_added(|s: &mut Surface| { let key = s.pages[0].keys[0].clone(); s.pages[0].keys.push(SurfaceKey { id: Uuid::from_u128(9).into(), label: "Cosy".to_owned(), ..key }) }, "Hall phone: key “Cosy” added")]
#[case::key_removed(|s: &mut Surface| s.pages[0].keys.retain(|key| key.label != "Finish"), "Hall phone: key “Finish” removed")]
#[case::keys_moved(|s: &mut Surface| s.pages[0].keys.swap(0, 1), "Hall phone: order of keys changed")]
#[case::page_renamed(|s: &mut Surface| s.pages[0].name = "Begin".to_owned(), "Hall phone: name “Start” → “Begin”")]
#[case::column(|s: &mut Surface| s.pages[0].keys[0].column = 3, "→ 3")]
fn the_log_says_what_changed_in_words(#[case] change: fn(&mut Surface), #[case] says: &str) {
    let site = demo::marram_point();
    let own =
        site.room(ids::boat_hall()).unwrap().surfaces.iter().find(|own| own.name == "Hall phone").unwrap().clone();
    let mut next = own.clone();
    change(&mut next);
    let entity = |own: Surface| Some(Entity::Surface(crate::model::InRoom::new(ids::boat_hall(), own)));
    let line = describe(&site, &[Change { before: entity(own), after: entity(next) }]);
    assert!(line.contains(says), "{line}");
    assert!(!line.contains("another") && !line.contains("keys 1"), "{line}");
}

#[test]
fn the_log_names_what_an_id_stands_for() {
    let site = demo::marram_point();
    let film = site.activity(ids::feature_film()).unwrap().clone();
    let games = Activity { source: ids::streamer(), ..film.clone() };
    let change = Change { before: Some(Entity::Activity(film)), after: Some(Entity::Activity(games)) };
    assert_eq!(describe(&site, &[change]), "Feature film: source “Disc player” → “Streamer”");
}
