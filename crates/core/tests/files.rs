//! Site files of the version before: a golden file is kept, read, and written again as the version of now.
#![allow(clippy::unwrap_used, reason = "a test")]

use flate2::read::GzDecoder;
use kestrel_core::model::{FindingKind, Site, Tell};
use kestrel_core::{demo, file};
use std::io::Read;

fn unpacked(golden: &[u8]) -> String {
    let mut text = String::new();
    GzDecoder::new(golden).read_to_string(&mut text).unwrap();
    text
}

/// The demo house as version 1 wrote it.
fn version_1() -> String {
    unpacked(include_bytes!("data/marram-point.v1.kdune.json.gz"))
}

/// The same house as the first program of version 2 wrote it.
fn version_2() -> Site {
    let text = unpacked(include_bytes!("data/marram-point.v2.kdune.json.gz"));
    assert!(text.contains("\"version\": 2"));
    file::read(&text).unwrap()
}

#[test]
fn the_golden_file_of_version_1_is_read_as_that_of_version_2() {
    assert!(version_1().contains("\"version\": 1"));
    assert_eq!(file::read(&version_1()).unwrap(), version_2());
}

#[test]
fn a_file_of_version_1_is_written_as_version_5_and_is_the_same_from_then_on() {
    let site = file::read(&version_1()).unwrap();
    let text = file::write(&site);
    assert!(text.contains("\"version\": 5"));
    assert_eq!(file::write(&file::read(&text).unwrap()), text);
}

#[test]
fn words_that_meant_something_in_version_1_mean_it_still_and_others_are_left_out() {
    let power = |words: &str| format!("\"tells\": [\n            {words},");
    let old = version_1().replacen(&power("\"power\""), &power("\"Power\", \"banana\""), 1);
    assert!(old.contains("banana"));
    let site = file::read(&old).unwrap();
    assert_eq!(site, version_2());
    let sensor = version_1().replacen(
        "\"feedback\": {\n          \"how\": \"none\"",
        "\"feedback\": {\n          \"how\": \"sensor\", \"delay_ms\": 5, \"senses\": \"Reed CONTACT\"",
        1,
    );
    let site = file::read(&sensor).unwrap();
    let told = site.profiles.iter().filter(|profile| profile.feedback.tells(Tell::Position)).count();
    let before = version_2().profiles.iter().filter(|p| p.feedback.tells(Tell::Position)).count();
    assert_eq!(told, before + 1);
}

#[test]
fn a_note_that_was_accepted_by_its_sentence_is_accepted_by_its_facts() {
    let site = demo::marram_point();
    let deck = site.rooms.iter().find(|room| room.name == "Slip Deck").unwrap();
    let notes = kestrel_core::check::room(&site, deck.id).findings;
    let heat = notes.iter().find(|note| matches!(note.kind, FindingKind::UnattendedHeat { .. })).unwrap();
    let mut value: serde_json::Value = serde_json::from_str(&version_1()).unwrap();
    let rooms = value["site"]["rooms"].as_array_mut().unwrap();
    let own = rooms.iter_mut().find(|room| room["name"] == "Slip Deck").unwrap();
    own["accepted"] = serde_json::json!([
        { "title": heat.title, "text": heat.text, "reason": "Locked out." },
        { "title": heat.title, "text": "Something that nobody says any more.", "reason": "Old." },
    ]);
    let site = file::read(&value.to_string()).unwrap();
    let accepted = &site.rooms.iter().find(|room| room.name == "Slip Deck").unwrap().accepted;
    assert!(accepted.iter().any(|known| known.found == heat.kind));
    assert!(
        accepted.iter().any(|known| matches!(known.found, FindingKind::Earlier { .. })),
        "kept, and matches nothing"
    );
}

#[test]
fn a_version_of_minus_one_is_no_version() {
    let text = version_1().replacen("\"version\": 1", "\"version\": -1", 1);
    assert!(file::read(&text).unwrap_err().to_string().contains("“version” is -1"));
}
