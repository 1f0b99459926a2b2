//! Houses beside each other: no row, no edit and no import of one ever reaches another.

use super::*;
use kestrel_core::model::{House, RoomCard, Site};

/// The demo house again, with another house id and the same ids everywhere else: as a file that was copied by hand.
fn twin() -> Site {
    let site = demo::marram_point();
    let house = House { id: HouseId(Uuid::from_u128(99)), name: "Copy".to_owned(), ..site.house.clone() };
    Site { house, ..site }
}

#[tokio::test]
async fn a_house_with_the_ids_of_another_one_lives_beside_it_and_nothing_is_lost() {
    let store = demo_house().await;
    assert!(store.add_house(&twin()).await.unwrap());
    let other = twin().house.id;
    // Read anew from the rows, as after a restart.
    let fresh = Store::new(store.address()).unwrap();
    assert_eq!(*fresh.load(ids::house()).await.unwrap().site, demo::marram_point());
    assert_eq!(*fresh.load(other).await.unwrap().site, twin());
}

#[tokio::test]
async fn an_edit_of_one_house_leaves_the_rows_of_another_alone() {
    let store = demo_house().await;
    store.add_house(&twin()).await.unwrap();
    let other = twin().house.id;
    let now = store.load(other).await.unwrap();
    // A room is put with an id that a room of the first house has; and a device with one of its devices.
    let mut card = RoomCard::from(now.site.room(ids::boat_hall()).unwrap());
    card.name = "Barn".to_owned();
    let entity = Entity::Room(card);
    let base = now.versions.get(&entity.key()).copied();
    store.edit(other, By::name("tester"), &[Edit::Put { entity, base }, rename(&now, "Lantern")]).await.unwrap();
    let fresh = Store::new(store.address()).unwrap();
    assert_eq!(*fresh.load(ids::house()).await.unwrap().site, demo::marram_point());
    assert_eq!(fresh.load(other).await.unwrap().site.room(ids::boat_hall()).unwrap().name, "Barn");
}

#[tokio::test]
async fn an_import_whose_ids_exist_in_another_house_gets_new_ones_everywhere() {
    let store = demo_house().await;
    let (apart, new_ids) = store.apart(twin()).await.unwrap();
    assert!(new_ids);
    assert!(!kestrel_core::edit::copy::share_ids(&apart, &demo::marram_point()));
    assert!(store.add_house(&apart).await.unwrap());
    let loaded = store.load(apart.house.id).await.unwrap();
    assert_eq!(loaded.site.devices.len(), demo::marram_point().devices.len());
    // Everything that referred to something still does.
    kestrel_core::file::read(&kestrel_core::file::write(&loaded.site)).unwrap();
    let (again, new_ids) = store.apart(Site::empty(House { name: "Empty".to_owned(), ..twin().house })).await.unwrap();
    assert!(!new_ids && again.house.id == twin().house.id, "what shares nothing keeps its ids");
}

#[tokio::test]
async fn a_macro_under_way_in_one_house_is_not_that_of_another() {
    let store = demo_house().await;
    store.add_house(&twin()).await.unwrap();
    let (one, other) = (ids::house(), twin().house.id);
    store.run_began(one, ids::boat_hall(), "Feature film").await.unwrap();
    assert_eq!(store.take_run(other, ids::boat_hall()).await.unwrap(), None);
    assert_eq!(store.take_run(one, ids::boat_hall()).await.unwrap().as_deref(), Some("Feature film"));
}
