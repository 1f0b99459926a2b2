//! The store against a real PostgreSQL, a fresh database a test.

mod handover;
mod houses;
mod line;
mod shelf;
mod upgrade;

use crate::{AttemptKind, By, Fate, LogKind, NewAttempt, Saved, Snapshot, Store, StoreError, testing};
use jiff::Timestamp;
use kestrel_core::demo::{self, ids};
use kestrel_core::edit::Edit;
use kestrel_core::id::{CodeId, HouseId};
use kestrel_core::model::{Code, Device, Entity, EntityKind, Override};
use uuid::Uuid;

async fn demo_house() -> Store {
    let (store, _) = testing::fresh().await;
    assert!(store.add_house(&demo::marram_point()).await.unwrap());
    store
}

fn rename(now: &Snapshot, name: &str) -> Edit {
    let device = now.site.device(ids::projector()).unwrap();
    let base = now.versions.get(&Entity::Device(device.clone()).key()).copied();
    Edit::Put { entity: Entity::Device(Device { name: name.to_owned(), ..device.clone() }), base }
}

async fn edit(store: &Store, edits: &[Edit]) -> Saved {
    store.edit(ids::house(), By::name("tester"), edits).await.unwrap()
}

#[tokio::test]
async fn a_house_comes_back_as_it_was_stored() {
    let store = demo_house().await;
    let snapshot = store.load(ids::house()).await.unwrap();
    assert_eq!(*snapshot.site, demo::marram_point());
    assert_eq!((snapshot.revision, &snapshot.undo, &snapshot.redo), (0, &None, &None));
    let houses = store.houses().await.unwrap();
    assert_eq!((houses.len(), houses[0].name.as_str()), (1, "Marram Point"));
    assert!(!store.add_house(&demo::marram_point()).await.unwrap(), "a second time it is there already");
}

#[tokio::test]
async fn an_edit_is_kept_with_its_line_in_the_log() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let saved = edit(&store, &[rename(&now, "Beamer")]).await;
    assert_eq!(saved.title, "Beamer: name “Projector” → “Beamer”");
    let loaded = store.load(ids::house()).await.unwrap();
    assert_eq!(loaded, saved.snapshot, "what an edit returns is what is stored");
    let undo = loaded.undo.clone().unwrap();
    assert_eq!((undo.title.as_str(), undo.who.as_str()), ("Beamer: name “Projector” → “Beamer”", "tester"));
    let log = store.log(ids::house(), None, 10).await.unwrap();
    assert_eq!((log.len(), log[0].who.as_str(), log[0].kind), (1, "tester", LogKind::Edit));
    let touched = &log[0].changes[0];
    assert_eq!(
        (touched.kind, touched.fate, &touched.fields[..]),
        (EntityKind::Device, Fate::Changed, &["name".to_owned()][..])
    );
}

#[tokio::test]
async fn undo_and_redo_walk_the_whole_history() {
    let store = demo_house().await;
    let first = store.load(ids::house()).await.unwrap();
    let second = edit(&store, &[rename(&first, "Beamer")]).await.snapshot;
    let third = edit(&store, &[rename(&second, "Lantern")]).await.snapshot;
    let name = async |store: &Store| store.load(ids::house()).await.unwrap().site.device_name(ids::projector());
    store.undo(ids::house(), By::name("tester")).await.unwrap();
    assert_eq!(name(&store).await, "Beamer");
    store.undo(ids::house(), By::name("tester")).await.unwrap();
    assert_eq!(store.load(ids::house()).await.unwrap().site, first.site);
    assert!(matches!(store.undo(ids::house(), By::name("tester")).await, Err(StoreError::Nothing("undo"))));
    store.redo(ids::house(), By::name("tester")).await.unwrap();
    assert_eq!(name(&store).await, "Beamer");
    let last = store.redo(ids::house(), By::name("tester")).await.unwrap();
    assert_eq!(last.snapshot.site, third.site);
    assert!(matches!(store.redo(ids::house(), By::name("tester")).await, Err(StoreError::Nothing("redo"))));
    assert_eq!(store.log(ids::house(), None, 50).await.unwrap().len(), 6, "nothing is ever taken out of the log");
}

#[tokio::test]
async fn a_new_edit_after_an_undo_ends_the_redo() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    edit(&store, &[rename(&now, "Beamer")]).await;
    let undone = store.undo(ids::house(), By::name("tester")).await.unwrap();
    assert!(undone.snapshot.redo.is_some());
    let saved = edit(&store, &[rename(&undone.snapshot, "Lantern")]).await;
    assert_eq!(saved.snapshot.redo, None);
}

#[tokio::test]
async fn a_stale_edit_is_refused_and_says_what_came_between() {
    let store = demo_house().await;
    let seen_by_both = store.load(ids::house()).await.unwrap();
    edit(&store, &[rename(&seen_by_both, "Beamer")]).await;
    let error = store.edit(ids::house(), By::name("other"), &[rename(&seen_by_both, "Lantern")]).await.unwrap_err();
    let message = error.to_string();
    assert!(message.starts_with("Beamer was changed in the meantime (“Beamer: name"), "{message}");
    assert!(matches!(error, StoreError::Stale { version: 1, .. }));
    assert_eq!(store.load(ids::house()).await.unwrap().site.device_name(ids::projector()), "Beamer");
}

#[tokio::test]
async fn an_undo_makes_older_versions_stale_too() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let renamed = edit(&store, &[rename(&now, "Beamer")]).await.snapshot;
    store.undo(ids::house(), By::name("tester")).await.unwrap();
    assert!(matches!(
        store.edit(ids::house(), By::name("other"), &[rename(&renamed, "Lantern")]).await,
        Err(StoreError::Stale { .. })
    ));
}

#[tokio::test]
async fn two_pages_that_save_at_once_do_not_lose_either() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let edits = [rename(&now, "Beamer"), rename(&now, "Lantern")];
    let (a, b) = tokio::join!(
        store.edit(ids::house(), By::name("a"), &edits[..1]),
        store.edit(ids::house(), By::name("b"), &edits[1..])
    );
    assert_eq!([a.is_ok(), b.is_ok()].iter().filter(|ok| **ok).count(), 1, "one is saved, one is told");
}

#[tokio::test]
async fn a_step_of_several_edits_is_saved_whole_or_not_at_all() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let bad = Edit::Remove { kind: EntityKind::Device, id: ids::receiver().0, base: 0 };
    let error = store.edit(ids::house(), By::name("tester"), &[rename(&now, "Beamer"), bad]).await.unwrap_err();
    assert!(error.to_string().contains("is part of Feature film"), "{error}");
    assert_eq!(store.load(ids::house()).await.unwrap(), now);
}

#[tokio::test]
async fn removing_and_bringing_back_keeps_every_row() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let edits = [
        Edit::Remove { kind: EntityKind::Activity, id: ids::streaming().0, base: 0 },
        Edit::Remove { kind: EntityKind::Device, id: ids::streamer().0, base: 0 },
    ];
    edit(&store, &edits).await;
    store.undo(ids::house(), By::name("tester")).await.unwrap();
    assert_eq!(store.load(ids::house()).await.unwrap().site, now.site);
}

#[tokio::test]
async fn parts_of_a_profile_can_trade_names_and_places() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let mut profile = now.site.model_of(ids::receiver()).unwrap().clone();
    profile.inputs.swap(0, 1);
    let (first, second) = (profile.inputs[0].name.clone(), profile.inputs[1].name.clone());
    (profile.inputs[0].name, profile.inputs[1].name) = (second, first);
    edit(&store, &[Edit::Put { entity: Entity::Profile(profile.clone()), base: Some(0) }]).await;
    let loaded = store.load(ids::house()).await.unwrap();
    assert_eq!(loaded.site.model_of(ids::receiver()), Some(&profile));
}

#[tokio::test]
async fn an_id_that_is_taken_or_gone_is_said() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let Edit::Put { entity, .. } = rename(&now, "Beamer") else { unreachable!() };
    let error = store.edit(ids::house(), By::name("tester"), &[Edit::Put { entity, base: None }]).await.unwrap_err();
    assert!(matches!(error, StoreError::Exists));
    let gone = Edit::Remove { kind: EntityKind::Code, id: Uuid::from_u128(1), base: 4 };
    assert!(
        store.edit(ids::house(), By::name("tester"), &[gone]).await.unwrap_err().to_string().contains("was removed")
    );
    assert!(matches!(store.load(HouseId(Uuid::from_u128(1))).await, Err(StoreError::NoHouse)));
}

#[tokio::test]
async fn a_code_keeps_its_capture() {
    let store = demo_house().await;
    let body = demo::missing_code().unwrap();
    let captured = kestrel_signal::Capture::new(body.press_us(), Some(38_000)).unwrap();
    let code = Code {
        id: CodeId(Uuid::from_u128(77)),
        device: ids::receiver(),
        function: ids::receiver_disc(),
        body,
        captured: Some(captured),
        since: Timestamp::from_second(1_790_000_000).ok(),
        tested: None,
    };
    edit(&store, &[Edit::Put { entity: Entity::Code(code.clone()), base: None }]).await;
    let loaded = store.load(ids::house()).await.unwrap();
    assert_eq!(loaded.site.code(ids::receiver(), ids::receiver_disc()), Some(&code));
}

#[tokio::test]
async fn a_database_that_is_not_there_is_said_and_not_a_panic() {
    let store = Store::new("postgres://kestrel:x@127.0.0.1:9/none").unwrap();
    assert!(matches!(store.ping().await, Err(StoreError::Unreachable(_))));
}

#[tokio::test]
async fn attempts_are_facts_that_an_undo_leaves_alone() {
    let store = demo_house().await;
    let attempt = |what, outcome: &str| NewAttempt {
        device: ids::receiver(),
        function: Some(ids::receiver_disc()),
        what,
        outcome: outcome.to_owned(),
        sent: None,
        note: String::new(),
    };
    for (what, outcome) in [
        (AttemptKind::Learn, "nothing-heard"),
        (AttemptKind::Test, "worked"),
        (AttemptKind::Preset, "no"),
        (AttemptKind::Search, "menu"),
    ] {
        store.attempted(ids::house(), "tester", attempt(what, outcome)).await.unwrap();
    }
    let now = store.load(ids::house()).await.unwrap();
    edit(&store, &[rename(&now, "Beamer")]).await;
    store.undo(ids::house(), By::name("tester")).await.unwrap();
    let all = store.attempts(ids::house(), ids::receiver(), None, 10).await.unwrap();
    let outcomes: Vec<&str> = all.iter().map(|one| one.outcome.as_str()).collect();
    assert_eq!(outcomes, ["menu", "no", "worked", "nothing-heard"], "the newest first");
    assert_eq!(all[1].what, AttemptKind::Preset);
    assert_eq!(store.attempts(ids::house(), ids::receiver(), None, 2).await.unwrap().len(), 2);
    assert_eq!(store.attempts(ids::house(), ids::projector(), None, 10).await.unwrap(), []);
    let other = Some(ids::house().0.into());
    assert_eq!(store.attempts(ids::house(), ids::receiver(), other, 10).await.unwrap(), []);
}

#[tokio::test]
async fn a_photo_belongs_to_one_house() {
    let store = demo_house().await;
    let id = store.add_photo(ids::house(), "image/png", vec![0, 255, 7]).await.unwrap();
    let kept = store.photo(ids::house(), id).await.unwrap();
    assert_eq!(kept, Some(("image/png".to_owned(), vec![0, 255, 7])));
    let nowhere = HouseId::from(Uuid::from_u128(5));
    assert_eq!(store.photo(nowhere, id).await.unwrap(), None);
    assert!(matches!(store.add_photo(nowhere, "image/png", vec![1]).await, Err(StoreError::NoHouse)));
}

#[tokio::test]
async fn a_device_comes_back_with_its_paths_records_and_differences() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let mut device = now.site.device(ids::receiver()).unwrap().clone();
    device.records.serial_number = "R9-0042".to_owned();
    device.network.reserved = false;
    device.overrides.push(Override::Gap(320));
    device.reported.insert(now.site.profile_of(device.id).unwrap().inputs[0].id, "BD".to_owned());
    let base = now.versions.get(&Entity::Device(device.clone()).key()).copied();
    edit(&store, &[Edit::Put { entity: Entity::Device(device.clone()), base }]).await;
    assert_eq!(store.load(ids::house()).await.unwrap().site.device(device.id), Some(&device));
}

#[tokio::test]
async fn calls_of_the_household_are_kept_closed_once_and_in_the_backup() {
    use crate::{Amiss, Facts};
    use kestrel_core::model::Secrets;
    let store = demo_house().await;
    let facts =
        Facts { taken_for: "Streaming".to_owned(), believed: vec!["Projector: on".to_owned()], ..Facts::default() };
    let house = ids::house();
    let id = store.keep_call(house, ids::boat_hall(), Amiss::NoSound, "Kitchen phone", &facts).await.unwrap();
    let later = store.keep_call(house, ids::chart_loft(), Amiss::Light, "Loft phone", &Facts::default()).await.unwrap();
    let calls = store.calls(house).await.unwrap();
    assert_eq!(calls.iter().map(|call| call.id).collect::<Vec<_>>(), [later, id], "the newest first");
    assert_eq!((calls[1].what, &calls[1].facts), (Amiss::NoSound, &facts));
    assert_eq!(store.open_calls().await.unwrap().get(&house), Some(&2));
    assert!(store.close_call(house, later, "A lamp").await.unwrap());
    assert!(!store.close_call(house, later, "Again").await.unwrap(), "it is closed");
    let calls = store.calls(house).await.unwrap();
    assert_eq!((calls[0].id, calls[1].outcome.as_str()), (id, "A lamp"), "open ones go first");
    let rows = store.rows_of(&[house], Secrets::Kept).await.unwrap();
    assert_eq!(rows["service_call"].lines().count(), 2);
}

/// Surfaces that were kept before are called as the program calls them now.
#[tokio::test]
async fn names_that_the_program_gave_surfaces_are_brought_up_to_date() {
    let mut before = demo::marram_point();
    let old = [("Start", "Activities"), ("Finish", "Room off"), ("Stop moving", "Stop all")];
    for page in before.rooms.iter_mut().flat_map(|room| &mut room.surfaces).flat_map(|own| &mut own.pages) {
        let back = |name: &mut String| {
            if let Some((_, was)) = old.iter().find(|(now, _)| now == name) {
                *name = (*was).to_owned();
            }
        };
        back(&mut page.name);
        page.keys.iter_mut().for_each(|key| back(&mut key.label));
    }
    assert_ne!(before, demo::marram_point());
    let mut now = before;
    kestrel_core::upgrade::plain_names(&mut now);
    assert_eq!(now, demo::marram_point());
}
