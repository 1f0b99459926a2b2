//! A database that the version before made: nothing of it is lost, it says the same, and its history can be undone.
//!
//! `data/version-1.sql.gz` is a dump of the demo house in a database of version 1, after eight edits of the kinds whose form
//! has changed since; `data/version-1.expected.json` is what that version said of the house before them.

use super::*;
use crate::testing;
use diesel_async::{AsyncConnection, AsyncPgConnection, SimpleAsyncConnection};
use flate2::read::GzDecoder;
use kestrel_core::check;
use kestrel_core::model::{Feedback, FindingKind, Site, Tell, cue_words};
use kestrel_core::prove::Analysis;
use std::io::Read;

const DUMP: &[u8] = include_bytes!("data/version-1.sql.gz");
const EXPECTED: &str = include_str!("data/version-1.expected.json");

async fn of_version_1() -> Store {
    let mut sql = String::new();
    GzDecoder::new(DUMP).read_to_string(&mut sql).unwrap();
    let plain: String = sql.lines().filter(|line| !line.starts_with('\\')).flat_map(|line| [line, "\n"]).collect();
    let (store, url) = testing::empty().await;
    let mut conn = AsyncPgConnection::establish(&url).await.unwrap();
    conn.batch_execute(&plain).await.unwrap();
    store
}

async fn migrated() -> Store {
    let store = of_version_1().await;
    assert!(store.wants_a_dump().await.unwrap(), "it holds a house, and is dumped before it is touched");
    store.migrate().await.unwrap();
    assert!(!store.wants_a_dump().await.unwrap());
    store
}

async fn back_to_the_beginning(store: &Store) -> Site {
    while store.load(ids::house()).await.unwrap().undo.is_some() {
        store.undo(ids::house(), By::name("tester")).await.unwrap();
    }
    (*store.load(ids::house()).await.unwrap().site).clone()
}

#[tokio::test]
async fn what_was_edited_in_the_version_before_is_there_after_the_upgrade() {
    let store = migrated().await;
    let now = store.load(ids::house()).await.unwrap();
    let site = &now.site;
    assert_eq!((now.revision, site.device_name(ids::projector()).as_str()), (8, "Lantern"));
    assert_eq!(now.undo.as_ref().unwrap().who, "Ben");
    assert_eq!(now.redo.as_ref().unwrap().title, "Amp: name “Receiver” → “Amp”");
    let hall = site.room(ids::boat_hall()).unwrap();
    assert_eq!(hall.lighting.looks[0].fade_ms, 3_210);
    // The picture that stood inside a key is kept by what is in it.
    let shown = hall.surfaces[0].pages[0].keys[0].picture.unwrap();
    assert_eq!(site.pictures.iter().map(|picture| picture.id).collect::<Vec<_>>(), [shown]);
    // What a device tells: words that meant something do, whatever their case; “banana” meant nothing.
    let told = site.profiles.iter().map(|profile| &profile.feedback);
    let push = |feedback: &&Feedback| matches!(feedback, Feedback::Push { tells, .. } if tells[..] == [Tell::Power, Tell::Input]);
    assert_eq!(told.filter(push).count(), 1);
    // The note that was accepted by its sentence is accepted by its kind and facts.
    let deck = site.room(ids::slip_deck()).unwrap();
    assert!(matches!(deck.accepted[0].found, FindingKind::UnattendedHeat { .. }), "{:?}", deck.accepted);
    let notes = check::room(site, ids::slip_deck()).findings;
    assert!(notes.iter().any(|note| note.accepted.as_deref() == Some("Locked out by its own thermostat.")));
}

#[tokio::test]
async fn versions_of_before_still_name_what_an_edit_was_made_from() {
    let store = migrated().await;
    let now = store.load(ids::house()).await.unwrap();
    assert_eq!(now.versions.len(), kestrel_core::model::entities(&now.site).len());
    store.edit(ids::house(), By::name("tester"), &[rename(&now, "Beamer")]).await.unwrap();
}

#[tokio::test]
async fn the_whole_history_of_the_version_before_can_be_undone_and_made_again() {
    let store = migrated().await;
    let edited = store.load(ids::house()).await.unwrap();
    let site = back_to_the_beginning(&store).await;
    // The demo house as it was then: the golden site file of that version.
    let golden = include_bytes!("../../../core/tests/data/marram-point.v1.kdune.json.gz");
    let mut text = String::new();
    std::io::Read::read_to_string(&mut flate2::read::GzDecoder::new(golden.as_slice()), &mut text).unwrap();
    // A file that is read has its surfaces called as they are now; in the database they wait until they are laid out anew,
    // since the history could not be undone otherwise.
    let mut named = site;
    kestrel_core::upgrade::plain_names(&mut named);
    // What is called measured without a reading counts as from the profile, whatever it says.
    kestrel_core::upgrade::from_the_profile(&mut named);
    assert_eq!(named, kestrel_core::file::read(&text).unwrap());
    while store.load(ids::house()).await.unwrap().redo.is_some() {
        store.redo(ids::house(), By::name("tester")).await.unwrap();
    }
    let mut wanted = (*edited.site).clone();
    let receiver = wanted.devices.find_mut(|device| device.id == ids::receiver()).unwrap();
    receiver.name = "Amp".to_owned();
    assert_eq!(*store.load(ids::house()).await.unwrap().site, wanted, "also the edit that had been undone then");
}

#[tokio::test]
async fn the_log_of_the_version_before_is_read() {
    let store = migrated().await;
    let log = store.log(ids::house(), None, 20).await.unwrap();
    assert_eq!(log.len(), 8);
    let cue = log.iter().flat_map(|line| &line.changes).find(|touched| touched.kind == EntityKind::Cue).unwrap();
    assert_eq!(cue.fate, Fate::Removed, "an entity of then can be several of now");
}

#[tokio::test]
async fn plans_verdicts_notes_cues_and_surfaces_are_as_the_version_before_said() {
    let store = migrated().await;
    let site = back_to_the_beginning(&store).await;
    let expected: serde_json::Value = serde_json::from_str(EXPECTED).unwrap();
    for room in &site.rooms {
        let said = &expected["rooms"][&room.name];
        let matrix = Analysis::of(&site, room.id).matrix();
        // How a plan is judged has become stricter since; the plans are the same. Where no sequence is right from everything,
        // the plan was made for any moment before; it is the hot one of the two that a cell has now.
        let before = said["cells"].as_array().unwrap();
        assert_eq!(before.len(), matrix.cells.len(), "{}", room.name);
        for (said, cell) in before.iter().zip(&matrix.cells) {
            assert_eq!([&said[0], &said[1]], [&serde_json::json!(cell.from), &serde_json::json!(cell.to)]);
            let times = [cell.ready_ms, cell.hot_ms].map(|ms| serde_json::json!(ms));
            assert!(times.contains(&said[3]), "{}: {said} is now {times:?}", room.name);
        }
        // What has to do with the judgement of plans is said in other words now; every other note is there still.
        let judged = ["At risk", "No safe way"];
        let notes: Vec<_> = check::room(&site, room.id)
            .findings
            .iter()
            .map(|found| serde_json::json!([found.title, found.text, found.weight]))
            .collect();
        for note in said["notes"].as_array().unwrap().iter().filter(|note| !judged.contains(&note[0].as_str().unwrap()))
        {
            assert!(notes.contains(note), "{}: {note} of {notes:?}", room.name);
        }
        let light = &room.lighting;
        let cues: Vec<_> = light
            .cues
            .iter()
            .map(|cue| {
                serde_json::json!([
                    cue_words::moment(&site, light, &cue.moment),
                    cue.provided.iter().map(|one| cue_words::provided(&site, light, one)).collect::<Vec<_>>(),
                    cue_words::light(light, &cue.light),
                    cue.also.iter().map(|also| cue_words::also(&site, light, also)).collect::<Vec<_>>(),
                ])
            })
            .collect();
        assert_eq!(said["cues"], serde_json::json!(cues), "{}", room.name);
        let surfaces: Vec<_> = room
            .surfaces
            .iter()
            .map(|own| serde_json::json!([own.name, own.pages.len(), own.keys().count()]))
            .collect();
        assert_eq!(said["surfaces"], serde_json::json!(surfaces), "{}", room.name);
    }
}
