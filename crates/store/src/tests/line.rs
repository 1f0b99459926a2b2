//! The line of undo and redo, requests that come twice, and how much a line of the history weighs.

use super::*;
use kestrel_core::model::{InRoom, RoomLight};

async fn names(store: &Store) -> (String, String) {
    let site = store.load(ids::house()).await.unwrap().site.clone();
    (site.device_name(ids::projector()), site.device_name(ids::receiver()))
}

async fn renamed(store: &Store, device: kestrel_core::id::DeviceId, name: &str) -> Saved {
    let now = store.load(ids::house()).await.unwrap();
    let entity = Entity::Device(Device { name: name.to_owned(), ..now.site.device(device).unwrap().clone() });
    let base = now.versions.get(&entity.key()).copied();
    edit(store, &[Edit::Put { entity, base }]).await
}

async fn undo(store: &Store) -> Result<Saved, StoreError> {
    store.undo(ids::house(), By::name("tester")).await
}

async fn redo(store: &Store) -> Result<Saved, StoreError> {
    store.redo(ids::house(), By::name("tester")).await
}

#[tokio::test]
async fn redo_after_an_undo_an_edit_and_another_undo_makes_that_edit_again_and_not_the_first() {
    let store = demo_house().await;
    renamed(&store, ids::projector(), "Lantern").await;
    undo(&store).await.unwrap();
    renamed(&store, ids::receiver(), "Amp").await;
    undo(&store).await.unwrap();
    redo(&store).await.unwrap();
    assert_eq!(names(&store).await, ("Projector".to_owned(), "Amp".to_owned()));
    assert!(matches!(redo(&store).await, Err(StoreError::Nothing("redo"))), "the first was discarded by the second");
    let log = store.log(ids::house(), None, 20).await.unwrap();
    assert!(log.iter().any(|line| line.title.contains("Lantern") && line.undone), "it stays in the log: {log:?}");
}

#[tokio::test]
async fn a_removal_with_all_that_hung_on_it_can_be_undone_and_made_again_over_and_over() {
    let store = demo_house().await;
    let before = store.load(ids::house()).await.unwrap();
    let streamer = Edit::Remove { kind: EntityKind::Device, id: ids::streamer().0, base: 0 };
    edit(&store, &[Edit::Remove { kind: EntityKind::Activity, id: ids::streaming().0, base: 0 }, streamer]).await;
    let after = store.load(ids::house()).await.unwrap();
    for _ in 0..3 {
        undo(&store).await.unwrap();
        assert_eq!(store.load(ids::house()).await.unwrap().site, before.site);
        redo(&store).await.unwrap();
        assert_eq!(store.load(ids::house()).await.unwrap().site, after.site);
    }
}

#[tokio::test]
async fn an_edit_after_an_undone_cascade_leaves_nothing_to_redo_and_no_error_behind() {
    let store = demo_house().await;
    let edits = [
        Edit::Remove { kind: EntityKind::Activity, id: ids::streaming().0, base: 0 },
        Edit::Remove { kind: EntityKind::Device, id: ids::streamer().0, base: 0 },
    ];
    edit(&store, &edits).await;
    undo(&store).await.unwrap();
    renamed(&store, ids::receiver(), "Amp").await;
    assert!(matches!(redo(&store).await, Err(StoreError::Nothing(_))));
    undo(&store).await.unwrap();
    redo(&store).await.unwrap();
    assert_eq!(names(&store).await.1, "Amp");
}

/// A client of a surface stores the first look of the Boat Hall with another level.
async fn store_look(store: &Store, percent: u8) -> Saved {
    let now = store.load(ids::house()).await.unwrap();
    let room = now.site.room(ids::boat_hall()).unwrap();
    let mut light = RoomLight::of(room.id, &room.lighting);
    light.looks[0].levels[0].percent = percent;
    let entity = Entity::Light(light);
    let base = now.versions.get(&entity.key()).copied();
    let by = By { client: true, ..By::name("Kids (surface)") };
    store.edit(ids::house(), by, &[Edit::Put { entity, base }]).await.unwrap()
}

#[tokio::test]
async fn what_a_client_stores_is_in_the_log_and_not_on_the_programmers_line() {
    let store = demo_house().await;
    renamed(&store, ids::projector(), "Lantern").await;
    undo(&store).await.unwrap();
    let stored = store_look(&store, 33).await;
    assert!(stored.snapshot.redo.is_some(), "it discards nothing that can be made again");
    assert_eq!(stored.snapshot.undo, None);
    redo(&store).await.unwrap();
    assert_eq!(names(&store).await.0, "Lantern");
    let log = store.log(ids::house(), None, 20).await.unwrap();
    let line = log.iter().find(|line| line.by_client).unwrap();
    assert_eq!(line.who, "Kids (surface)");
    let undone = undo(&store).await.unwrap();
    assert!(undone.title.contains("Lantern"), "{}", undone.title);
    let now = store.load(ids::house()).await.unwrap();
    let look = &now.site.room(ids::boat_hall()).unwrap().lighting.looks[0];
    assert_eq!(look.levels[0].percent, 33, "what the client stored stands");
}

#[tokio::test]
async fn an_undo_that_would_overwrite_what_a_client_stored_is_refused_with_a_sentence() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let room = now.site.room(ids::boat_hall()).unwrap();
    let mut light = RoomLight::of(room.id, &room.lighting);
    light.looks[0].levels[0].percent = 11;
    let entity = Entity::Light(light);
    let base = now.versions.get(&entity.key()).copied();
    edit(&store, &[Edit::Put { entity, base }]).await;
    store_look(&store, 44).await;
    let before = store.load(ids::house()).await.unwrap();
    let error = undo(&store).await.unwrap_err();
    let said = error.to_string();
    assert!(said.contains("cannot be undone") && said.contains("by Kids (surface)"), "{said}");
    assert_eq!(store.load(ids::house()).await.unwrap(), before, "nothing was touched");
}

#[tokio::test]
async fn undoing_somebody_elses_edit_says_whose_it_is() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let saved = store.edit(ids::house(), By::name("Ana"), &[rename(&now, "Lantern")]).await.unwrap();
    assert_eq!(saved.snapshot.undo.as_ref().unwrap().who, "Ana");
    let undone = store.undo(ids::house(), By::name("Ben")).await.unwrap();
    assert_eq!(undone.title, "Undone: Lantern: name “Projector” → “Lantern” (by Ana)");
}

#[tokio::test]
async fn a_request_that_comes_twice_is_carried_out_once_and_answered_twice() {
    let store = demo_house().await;
    let now = store.load(ids::house()).await.unwrap();
    let by = || By { request: Some(Uuid::from_u128(7)), ..By::name("tester") };
    let edits = [rename(&now, "Lantern")];
    let first = store.edit(ids::house(), by(), &edits).await.unwrap();
    renamed(&store, ids::receiver(), "Amp").await;
    let second = store.edit(ids::house(), by(), &edits).await.unwrap();
    assert!(!first.again && second.again);
    assert_eq!((&second.title, &second.touched), (&first.title, &first.touched));
    assert_eq!(second.snapshot.revision, 2, "the house as it stands now");
    let undone = By { request: Some(Uuid::from_u128(8)), ..By::name("tester") };
    store.undo(ids::house(), undone.clone()).await.unwrap();
    store.undo(ids::house(), undone).await.unwrap();
    assert_eq!(names(&store).await, ("Lantern".to_owned(), "Receiver".to_owned()), "one step was taken back, not two");
}

/// How much the last line of the history weighs, in bytes.
async fn weight(store: &Store, revision: i64) -> usize {
    use crate::schema::change;
    use diesel::prelude::*;
    use diesel_async::RunQueryDsl;
    let mut conn = store.connection().await.unwrap();
    let changes: serde_json::Value =
        change::table.find((ids::house().0, revision)).select(change::changes).first(&mut conn).await.unwrap();
    changes.to_string().len()
}

#[tokio::test]
async fn the_history_of_an_ordinary_edit_is_under_10_kb() {
    let store = demo_house().await;
    let saved = renamed(&store, ids::projector(), "Lantern").await;
    assert!(weight(&store, saved.snapshot.revision).await < 2_000);
    // A key that moves on a phone with dozens of them.
    let site = saved.snapshot.site.clone();
    let room = site.rooms.iter().find(|room| !room.surfaces.is_empty()).unwrap();
    let mut own = room.surfaces[0].clone();
    let keys = own.keys().count();
    own.pages[0].keys[0].row += 1;
    let entity = Entity::Surface(InRoom::new(room.id, own));
    let base = saved.snapshot.versions.get(&entity.key()).copied();
    let saved = edit(&store, &[Edit::Put { entity, base }]).await;
    let bytes = weight(&store, saved.snapshot.revision).await;
    assert!(keys > 20 && bytes < 2_000, "{keys} keys, {bytes} bytes");
    // A function is renamed in a model with all its codes.
    let mut profile = saved.snapshot.site.model_of(ids::receiver()).unwrap().clone();
    profile.functions[0].name = "On".to_owned();
    let entity = Entity::Profile(profile);
    let base = saved.snapshot.versions.get(&entity.key()).copied();
    let saved = edit(&store, &[Edit::Put { entity, base }]).await;
    assert!(weight(&store, saved.snapshot.revision).await < 2_000);
    undo(&store).await.unwrap();
    undo(&store).await.unwrap();
    undo(&store).await.unwrap();
    assert_eq!(*store.load(ids::house()).await.unwrap().site, demo::marram_point());
}

#[tokio::test]
async fn two_people_at_different_cues_of_one_room_never_meet() {
    let store = demo_house().await;
    let seen_by_both = store.load(ids::house()).await.unwrap();
    let room = seen_by_both.site.room(ids::boat_hall()).unwrap();
    for (at, who) in [(0, "Ana"), (1, "Ben")] {
        let mut own = room.lighting.cues[at].clone();
        own.off = !own.off;
        let entity = Entity::Cue(InRoom::new(room.id, own));
        let base = seen_by_both.versions.get(&entity.key()).copied();
        store.edit(ids::house(), By::name(who), &[Edit::Put { entity, base }]).await.unwrap();
    }
    let now = store.load(ids::house()).await.unwrap();
    let cues = &now.site.room(ids::boat_hall()).unwrap().lighting.cues;
    assert!(cues[0].off && cues[1].off);
}
