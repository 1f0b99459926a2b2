//! The shelf: removing and putting back, copies, what belongs to the installation, and backups.

use super::*;
use crate::{RestoreError, Tables};
use chrono::{TimeDelta, Utc};
use kestrel_core::file;
use kestrel_core::model::Secrets;

/// The demo house with a history, an attempt, a photo and a link; and its key of a device, with leave to drive it.
async fn lived_in() -> (Store, String, HouseId) {
    let (store, address) = testing::fresh().await;
    let mut site = demo::marram_point();
    let mut device = site.device(ids::receiver()).unwrap().clone();
    device.records.local_key = "k3y".to_owned();
    device.network.allowed = "192.0.2.7:4000".to_owned();
    site.put(Entity::Device(device));
    store.add_house(&site).await.unwrap();
    let house = site.house.id;
    for name in ["Barn", "Shed"] {
        let known = store.load(house).await.unwrap();
        let mut card = kestrel_core::model::RoomCard::from(known.site.room(ids::boat_hall()).unwrap());
        card.name = name.to_owned();
        let entity = Entity::Room(card);
        let base = known.versions.get(&entity.key()).copied();
        store.edit(house, By::name("tester"), &[Edit::Put { entity, base }]).await.unwrap();
    }
    store.undo(house, By::name("tester")).await.unwrap();
    let attempt = NewAttempt {
        device: ids::receiver(),
        function: None,
        what: AttemptKind::Learn,
        outcome: "nothing heard".to_owned(),
        sent: None,
        note: "far away".to_owned(),
    };
    store.attempted(house, "tester", attempt).await.unwrap();
    store.add_photo(house, "image/png", vec![0x89, 0, 255]).await.unwrap();
    store.make_link(house, ids::boat_hall(), ids::hall_phone(), "Kitchen").await.unwrap();
    (store, address, house)
}

/// Everything that is known of a house, in one text.
async fn all_of(store: &Store, house: HouseId) -> String {
    let snapshot = store.load(house).await.unwrap();
    let log = serde_json::to_string(&store.log(house, None, 500).await.unwrap()).unwrap();
    let tried = store.attempts(house, ids::receiver(), None, 100).await.unwrap();
    let links = store.links(house, ids::boat_hall()).await.unwrap();
    let (undo, redo) = (&snapshot.undo, &snapshot.redo);
    format!("{} {:?} {undo:?} {redo:?} {log} {tried:?} {links:?}", file::write(&snapshot.site), snapshot.versions)
}

#[tokio::test]
async fn a_backup_brings_everything_back_byte_for_byte_into_an_empty_installation() {
    let (store, _, house) = lived_in().await;
    let before = all_of(&store, house).await;
    let rows = store.rows_of(&[house], Secrets::Kept).await.unwrap();
    let (other, _) = testing::fresh().await;
    other.put_rows(&[house], &rows).await.unwrap();
    assert_eq!(all_of(&other, house).await, before);
    assert_eq!(other.rows_of(&[house], Secrets::Kept).await.unwrap(), rows, "photos and all");
    // Undo and redo go on where they were.
    other.redo(house, By::name("tester")).await.unwrap();
    assert_eq!(other.load(house).await.unwrap().site.room(ids::boat_hall()).unwrap().name, "Shed");
}

#[tokio::test]
async fn a_restore_into_a_used_installation_replaces_its_houses_and_leaves_the_others() {
    let (store, _, house) = lived_in().await;
    let rows = store.rows_of(&[house], Secrets::Kept).await.unwrap();
    let before = all_of(&store, house).await;
    let (copy, _) = store.copy_house(house).await.unwrap();
    store.undo(house, By::name("tester")).await.unwrap();
    assert_ne!(all_of(&store, house).await, before);
    store.put_rows(&[house], &rows).await.unwrap();
    assert_eq!(all_of(&store, house).await, before);
    assert!(store.load(copy).await.is_ok());
}

#[tokio::test]
async fn leave_to_drive_a_device_is_in_no_backup_and_secrets_only_where_they_are_asked_for() {
    let (store, _, house) = lived_in().await;
    let bare = store.rows_of(&[house], Secrets::LeftOut).await.unwrap();
    let whole = store.rows_of(&[house], Secrets::Kept).await.unwrap();
    let text = |rows: &Tables| rows.values().cloned().collect::<String>();
    assert!(!text(&whole).contains("192.0.2.7:4000") && text(&whole).contains("k3y"));
    assert!(!text(&bare).contains("192.0.2.7:4000") && !text(&bare).contains("k3y"));
    assert!(!bare.contains_key("surface_link"));
    let (other, _) = testing::fresh().await;
    other.put_rows(&[house], &bare).await.unwrap();
    let device = other.load(house).await.unwrap().site.device(ids::receiver()).unwrap().clone();
    assert_eq!((device.network.allowed.as_str(), device.records.local_key.as_str()), ("", ""));
}

#[tokio::test]
async fn a_damaged_backup_touches_nothing() {
    let (store, _, house) = lived_in().await;
    let before = all_of(&store, house).await;
    let good = store.rows_of(&[house], Secrets::Kept).await.unwrap();
    let spoilt = |spoil: &dyn Fn(&mut Tables)| {
        let mut rows = good.clone();
        spoil(&mut rows);
        rows
    };
    let half = spoilt(&|rows| {
        let device = rows.get_mut("device").unwrap();
        device.truncate(device.len() / 2);
    });
    let no_rooms = spoilt(&|rows| drop(rows.remove("room")));
    let no_house = spoilt(&|rows| drop(rows.remove("house")));
    let strange = spoilt(&|rows| drop(rows.insert("users".to_owned(), String::new())));
    let wrong = spoilt(&|rows| {
        let profile = rows.get_mut("profile").unwrap();
        *profile = profile.replacen("\"power\":", "\"powder\":", 1);
    });
    for rows in [half, no_rooms, no_house, strange, wrong] {
        let said = store.put_rows(&[house], &rows).await.unwrap_err();
        assert!(!matches!(&said, RestoreError::Store(error) if matches!(error, StoreError::Unreachable(_))), "{said}");
        assert_eq!(all_of(&store, house).await, before, "{said}");
    }
}

#[tokio::test]
async fn a_removed_house_is_gone_everywhere_and_comes_back_as_it_was() {
    let (store, _, house) = lived_in().await;
    let before = all_of(&store, house).await;
    store.remove_house(house).await.unwrap();
    assert!(matches!(store.load(house).await, Err(StoreError::NoHouse)));
    assert!(matches!(store.undo(house, By::name("tester")).await, Err(StoreError::NoHouse)));
    assert!(matches!(store.remove_house(house).await, Err(StoreError::NoHouse)), "twice");
    assert_eq!(store.houses().await.unwrap(), []);
    assert!(store.shelf().await.unwrap()[0].removed_at.is_some());
    assert!(store.removed_at(house).await.unwrap().is_some());
    store.put_back(house).await.unwrap();
    assert!(matches!(store.put_back(house).await, Err(StoreError::NoHouse)), "twice");
    assert_eq!(all_of(&store, house).await, before);
}

#[tokio::test]
async fn a_removed_house_is_let_go_after_thirty_days_and_not_before() {
    let (store, _, house) = lived_in().await;
    store.remove_house(house).await.unwrap();
    assert_eq!(store.let_go(Utc::now() + TimeDelta::days(29)).await.unwrap(), 0);
    assert_eq!(store.let_go(Utc::now() + TimeDelta::days(31)).await.unwrap(), 1);
    assert!(matches!(store.put_back(house).await, Err(StoreError::NoHouse)));
}

#[tokio::test]
async fn a_copy_of_a_house_has_ids_of_its_own_its_photos_and_no_leave_to_drive_anything() {
    let (store, _, house) = lived_in().await;
    let (copy, name) = store.copy_house(house).await.unwrap();
    assert_ne!(copy, house);
    assert_eq!(name, "Marram Point 2");
    let site = store.load(copy).await.unwrap().site.clone();
    let before = store.load(house).await.unwrap().site.clone();
    assert_eq!(site.devices.len(), before.devices.len());
    assert!(site.devices.iter().all(|device| device.network.allowed.is_empty() && before.device(device.id).is_none()));
    let photos = store.rows_of(&[copy], Secrets::Kept).await.unwrap()["photo"].lines().count();
    assert_eq!(photos, 1);
    assert_eq!(store.log(copy, None, 10).await.unwrap().len(), 0);
}

#[tokio::test]
async fn what_is_said_of_a_house_is_kept_as_of_its_revision() {
    let (store, _, house) = lived_in().await;
    assert_eq!(store.shelf().await.unwrap()[0].summary, None);
    store.keep_summary(house, 3, serde_json::json!({"rooms": 4})).await.unwrap();
    let line = store.shelf().await.unwrap().remove(0);
    assert_eq!((line.revision, line.summary), (3, Some((3, serde_json::json!({"rooms": 4})))));
    assert!(line.edited_at <= Utc::now() && line.edited_at > Utc::now() - TimeDelta::minutes(5));
}

#[tokio::test]
async fn a_setting_belongs_to_the_installation_and_stays() {
    let (store, _) = testing::fresh().await;
    assert_eq!(store.setting::<u32>("keep").await.unwrap(), None);
    store.set("keep", &7).await.unwrap();
    store.set("keep", &8).await.unwrap();
    assert_eq!(store.setting::<u32>("keep").await.unwrap(), Some(8));
}
