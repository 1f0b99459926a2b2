//! Files out and in again through the public interface: nothing is lost, and what a format cannot hold is
//! named.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test")]

use kestrel_core::codes::export::{Export, Format, Scope, export, title};
use kestrel_core::codes::import::{self, LineFate};
use kestrel_core::demo::{self, ids};
use kestrel_core::edit::{Edit, apply, entities, revert};
use kestrel_core::id::DeviceId;
use kestrel_core::model::{Code, CodeBody, Entity, Medium, Site};
use kestrel_signal::exchange::{ExchangeError, capture};
use kestrel_signal::ip::IpCommand;
use kestrel_signal::payload::Payload;
use kestrel_signal::{Capture, read};
use rstest::rstest;
use uuid::Uuid;

fn exported(site: &Site, device: DeviceId, format: Format) -> Export {
    export(site, Scope::Device(device), format).unwrap()
}

fn bodies(site: &Site, device: DeviceId) -> Vec<(String, CodeBody)> {
    let mut found: Vec<_> = site
        .codes
        .iter()
        .filter(|code| code.device == device)
        .map(|code| (site.function_name(device, code.function), code.body.clone()))
        .collect();
    found.sort_by(|one, other| one.0.cmp(&other.0));
    found
}

fn numbers() -> impl FnMut() -> Uuid {
    let mut next = 9_000_u128;
    move || {
        next += 1;
        Uuid::from_u128(next)
    }
}

/// The house with every code of a device forgotten.
fn forgotten(device: DeviceId) -> Site {
    let mut site = demo::marram_point();
    site.codes.retain(|code| code.device != device);
    site
}

/// The house after an import from a file, carried out entity by entity.
fn after(mut site: Site, device: Option<DeviceId>, text: &str) -> Site {
    let (_, found) = import::read(text).unwrap();
    assert_eq!(found.unread, [], "every line is understood");
    let chosen: Vec<usize> = (0..found.found.len()).collect();
    let now = jiff::Timestamp::UNIX_EPOCH;
    for entity in import::entities(&site, device, &found, &chosen, now, &mut numbers()) {
        apply(&mut site, &Edit::Put { entity, base: None }).unwrap();
    }
    site
}

#[rstest]
#[case::receiver(ids::receiver())]
#[case::projector(ids::projector())]
#[case::streamer(ids::streamer())]
#[case::screen(ids::screen())]
#[case::console(ids::console())]
#[case::watch_display(ids::watch_display())]
#[case::deck_display(ids::deck_display())]
#[case::cabin_display(ids::cabin_display())]
fn a_table_holds_every_code_of_a_device(#[case] device: DeviceId) {
    let demo = demo::marram_point();
    let file = exported(&demo, device, Format::Csv);
    assert_eq!(file.left_out, Vec::<String>::new());
    let site = after(forgotten(device), Some(device), &file.text);
    assert_eq!(bodies(&site, device), bodies(&demo, device));
    assert_eq!(site.profiles, demo.profiles, "the model has its functions already");
}

#[rstest]
#[case::receiver(ids::receiver())]
#[case::projector(ids::projector())]
#[case::console(ids::console())]
#[case::watch_display(ids::watch_display())]
fn a_keymap_holds_what_is_infrared_and_names_what_is_not(#[case] device: DeviceId) {
    let demo = demo::marram_point();
    let file = exported(&demo, device, Format::Keymap);
    let site = after(forgotten(device), Some(device), &file.text);
    let (own, all) = (bodies(&site, device), bodies(&demo, device));
    assert_eq!(own.len() + file.left_out.len(), all.len(), "{:?}", file.left_out);
    for (name, body) in own {
        let before = all.iter().find(|(known, _)| *known == name).unwrap();
        assert_eq!(body.key_words(), before.1.key_words(), "{name}");
    }
}

#[rstest]
#[case::pulse(Format::Pulse)]
#[case::signed(Format::Signed)]
fn captures_under_names_come_back_as_the_messages_that_they_are(#[case] format: Format) {
    for device in [ids::receiver(), ids::projector(), ids::watch_display()] {
        let demo = demo::marram_point();
        let file = exported(&demo, device, format);
        let site = after(forgotten(device), Some(device), &file.text);
        let words = |site: &Site| -> Vec<(String, Option<String>)> {
            bodies(site, device).into_iter().map(|(name, body)| (name, body.key_words())).collect()
        };
        let mut wanted = words(&demo);
        wanted.retain(|(name, _)| !file.left_out.iter().any(|left| left.contains(name.as_str())));
        assert_eq!(words(&site), wanted, "{}", demo.device_name(device));
    }
}

#[test]
fn a_dump_for_the_logic_analyser_holds_one_signal_a_code() {
    let demo = demo::marram_point();
    let file = exported(&demo, ids::receiver(), Format::Vcd);
    let error = capture(file.text.as_bytes(), None).unwrap_err();
    let ExchangeError::Signals(names) = error else { panic!("it asks which: {error}") };
    assert_eq!(names.len(), bodies(&demo, ids::receiver()).len() - file.left_out.len());
    for name in &names {
        let parsed = capture(file.text.as_bytes(), Some(name)).unwrap();
        let best = read(&parsed.capture).best.unwrap_or_else(|| panic!("{name} is read"));
        assert!(best.worst_error_us <= 2.0, "{name}: written to the µs, read to the µs");
    }
}

#[test]
fn what_has_no_timing_is_named_and_not_dropped() {
    let mut site = demo::marram_point();
    let plain = site.codes.iter().find(|code| code.device == ids::receiver()).unwrap().clone();
    let payload = Payload::new(vec![0x26, 0, 10, 0]).unwrap();
    let opaque = CodeBody::Opaque { payload, medium: Medium::Rf433, send_ms: Some(120), presses: 1 };
    let command = CodeBody::Ip { command: IpCommand::Pjlink { command: "POWR 1".to_owned() } };
    for (at, body) in [opaque, command].into_iter().enumerate() {
        site.codes.push(Code { id: Uuid::from_u128(at as u128).into(), body, ..plain.clone() });
    }
    for format in [Format::Keymap, Format::Pulse, Format::Signed, Format::Vcd] {
        let left_out = exported(&site, ids::receiver(), format).left_out;
        assert_eq!(left_out.len(), 2, "{format:?}: {left_out:?}");
    }
    let table = exported(&site, ids::receiver(), Format::Csv);
    assert_eq!(table.left_out, Vec::<String>::new(), "the table holds everything");
    let (_, found) = import::read(&table.text).unwrap();
    assert!(found.found.iter().any(|one| matches!(one.body, CodeBody::Opaque { .. })));
    assert!(found.found.iter().any(|one| matches!(one.body, CodeBody::Ip { .. })));
}

#[test]
fn the_whole_house_goes_into_one_table_and_back_into_a_house_without_codes() {
    let demo = demo::marram_point();
    let file = export(&demo, Scope::House, Format::Csv).unwrap();
    let mut empty = demo.clone();
    empty.codes.clear();
    let site = after(empty, None, &file.text);
    for device in &demo.devices {
        assert_eq!(bodies(&site, device.id), bodies(&demo, device.id), "{}", device.name);
    }
    assert_eq!(title(&demo, Scope::House), "Marram Point");
    assert_eq!(title(&demo, Scope::Room(ids::boat_hall())), "Boat Hall");
}

#[test]
fn an_import_says_beforehand_what_it_would_do() {
    let demo = demo::marram_point();
    let mut changed = demo.clone();
    let known: Vec<usize> =
        (0..changed.codes.len()).filter(|&at| changed.codes[at].device == ids::receiver()).collect();
    changed.codes[known[0]].body = changed.codes[known[1]].body.clone();
    let gone = changed.codes.remove(known[2]);
    let file = exported(&demo, ids::receiver(), Format::Csv);
    let (_, found) = import::read(&file.text).unwrap();
    let fates: Vec<(String, LineFate)> =
        import::preview(&changed, None, &found).into_iter().map(|line| (line.name, line.fate)).collect();
    let of = |fate: LineFate| fates.iter().filter(|(_, known)| *known == fate).count();
    assert_eq!((of(LineFate::Replaces), of(LineFate::NewCode), of(LineFate::NewFunction)), (1, 1, 0), "{fates:?}");
    let missing = demo.function_name(ids::receiver(), gone.function);
    assert!(fates.contains(&(missing, LineFate::NewCode)));
    let elsewhere = file.text.replace("Receiver,", "Nobody,");
    let (_, lost) = import::read(&elsewhere).unwrap();
    assert!(import::preview(&changed, None, &lost).iter().all(|line| line.fate == LineFate::NoDevice));
}

#[test]
fn an_import_is_undone_change_by_change() {
    let before = forgotten(ids::receiver());
    let mut site = before.clone();
    let file = exported(&demo::marram_point(), ids::receiver(), Format::Csv);
    let (_, found) = import::read(&file.text).unwrap();
    let chosen: Vec<usize> = (0..found.found.len()).collect();
    let now = jiff::Timestamp::UNIX_EPOCH;
    let made = import::entities(&site, Some(ids::receiver()), &found, &chosen, now, &mut numbers());
    let mut done = Vec::new();
    for entity in made {
        done.push(apply(&mut site, &Edit::Put { entity, base: None }).unwrap());
    }
    for changes in done.iter().rev() {
        revert(&mut site, changes);
    }
    assert_eq!(site, before);
}

#[test]
fn a_table_from_a_spreadsheet_of_another_country_is_read() {
    let text = "\u{feff}function;presses;hold_ms;as;code\r\nDisc;1;0;message;nec-ext address=0x7a11 command=0x31\r\n";
    let (format, found) = import::read(text).unwrap();
    assert_eq!((format, found.found.len(), found.unread.len()), ("csv", 1, 0));
    assert_eq!(found.found[0].body, demo::missing_code().unwrap());
}

#[rstest]
#[case::signed("+9000 -4500 +560 -560 +560")]
#[case::pulse("pulse 9000\nspace 4500\npulse 560\nspace 560\npulse 560\n")]
fn a_byte_order_mark_is_no_part_of_a_capture(#[case] text: &str) {
    let plain = capture(text.as_bytes(), None).unwrap();
    let marked = capture(format!("\u{feff}{text}").as_bytes(), None).unwrap();
    assert_eq!(marked.capture, plain.capture);
    assert_eq!(plain.capture.durations_us(), [9_000, 4_500, 560, 560, 560]);
}

#[rstest]
#[case::no_number("Disc,many,0,message,nec address=1 command=2", "presses is a number")]
#[case::too_many("Disc,12,0,message,nec address=1 command=2", "from 1 to 9")]
#[case::held("Disc,1,long,message,nec address=1 command=2", "whole number of ms")]
#[case::nameless(",1,0,message,nec address=1 command=2", "names no function")]
#[case::unknown_kind("Disc,1,0,brass,1", "“brass” is not known")]
#[case::unknown_protocol("Disc,1,0,message,brass address=1", "brass")]
#[case::half_a_message("Disc,1,0,message,nec address=1", "command")]
#[case::odd_payload("Disc,1,0,opaque,26000", "")]
fn a_bad_row_is_told_with_its_line_and_the_others_are_read(#[case] row: &str, #[case] expected: &str) {
    let text = format!("function,presses,hold_ms,as,code\nOne,1,0,message,nec address=1 command=2\n{row}\n");
    let (_, found) = import::read(&text).unwrap();
    assert_eq!((found.found.len(), found.unread.len()), (1, 1), "{row}");
    assert_eq!(found.unread[0].line, 3);
    assert!(found.unread[0].why.contains(expected), "{}", found.unread[0].why);
}

#[rstest]
#[case::nothing("", "empty")]
#[case::words("these are not codes", "")]
#[case::other_columns("name,value\na,1\n", "")]
#[case::page("<html><body>no</body></html>", "")]
fn a_file_of_another_kind_gets_a_sentence(#[case] text: &str, #[case] expected: &str) {
    let error = import::read(text).unwrap_err().to_string();
    assert!(error.len() > 30 && error.contains(expected), "{error}");
}

#[test]
fn every_entity_survives_json() {
    for entity in entities(&demo::marram_point()) {
        let text = serde_json::to_string(&entity).unwrap();
        assert_eq!(serde_json::from_str::<Entity>(&text).unwrap(), entity, "{text}");
    }
    let capture: Capture = Capture::new(vec![900, 450, 560], Some(38_000)).unwrap();
    let text = serde_json::to_string(&capture).unwrap();
    assert_eq!(serde_json::from_str::<Capture>(&text).unwrap(), capture);
}
