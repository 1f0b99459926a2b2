//! Evidence, the house as it was, handovers and sessions.

use super::*;
use crate::{NewHandover, NewVisit, VisitKind};
use kestrel_core::model::{Measurement, Timing};
use std::collections::BTreeMap;

fn reading(number: u128) -> Edit {
    let at = "2027-05-03T10:00:00Z".parse().unwrap();
    let own = Measurement::new(Uuid::from_u128(number).into(), ids::projector(), Timing::WarmUp, 25_000, at);
    Edit::Put { entity: Entity::Measurement(own), base: None }
}

#[tokio::test]
async fn a_house_is_as_it_was_after_every_line_of_its_history_undo_and_redo_among_them() {
    let store = demo_house().await;
    let by = || By::name("tester");
    let mut states = vec![(*store.load(ids::house()).await.unwrap().site).clone()];
    let mut keep = async || states.push((*store.load(ids::house()).await.unwrap().site).clone());
    for name in ["Lantern", "Lamp"] {
        let now = store.load(ids::house()).await.unwrap();
        store.edit(ids::house(), by(), &[rename(&now, name)]).await.unwrap();
        keep().await;
    }
    store.edit(ids::house(), by(), &[reading(7)]).await.unwrap();
    keep().await;
    store.undo(ids::house(), by()).await.unwrap();
    keep().await;
    store.undo(ids::house(), by()).await.unwrap();
    keep().await;
    store.redo(ids::house(), by()).await.unwrap();
    keep().await;
    for (revision, state) in (0..).zip(&states) {
        let then = store.as_it_was(ids::house(), revision).await.unwrap();
        assert_eq!(then.as_ref(), Some(state), "revision {revision}");
    }
    assert_eq!(store.as_it_was(ids::house(), 99).await.unwrap(), None);
    assert_eq!(store.as_it_was(ids::house(), -1).await.unwrap(), None);
}

#[tokio::test]
async fn a_handover_is_numbered_once_and_read_back_as_it_was() {
    let store = demo_house().await;
    let site = store.load(ids::house()).await.unwrap().site.clone();
    let papers = BTreeMap::from([("record".to_owned(), "<p>as built</p>".to_owned())]);
    let rooms = [ids::tidy_cabin()];
    let new = |number| NewHandover {
        number,
        who: "tester",
        revision: 0,
        note: "first part",
        rooms: &rooms,
        site: &site,
        papers: &papers,
    };
    assert!(store.hand_over(ids::house(), &new(1)).await.unwrap());
    assert!(!store.hand_over(ids::house(), &new(1)).await.unwrap(), "the number is taken");
    assert!(store.hand_over(ids::house(), &new(2)).await.unwrap());
    let all = store.handovers(ids::house()).await.unwrap();
    assert_eq!(all.iter().map(|own| own.number).collect::<Vec<_>>(), [2, 1]);
    let now = store.load(ids::house()).await.unwrap();
    store.edit(ids::house(), By::name("tester"), &[rename(&now, "Lantern")]).await.unwrap();
    assert_eq!(store.handed_over(ids::house(), 1).await.unwrap().as_ref(), Some(&*site));
    assert_eq!(store.handed_over(ids::house(), 9).await.unwrap(), None);
    let paper = store.paper(ids::house(), 1, "record").await.unwrap();
    assert_eq!(paper.as_deref(), Some("<p>as built</p>"));
    assert_eq!(store.last_handover(ids::house(), ids::tidy_cabin()).await.unwrap(), Some((2, 0)));
    assert_eq!(store.last_handover(ids::house(), ids::boat_hall()).await.unwrap(), None);
}

#[tokio::test]
async fn evidence_notes_and_handovers_are_in_a_backup_and_back_from_it() {
    let store = demo_house().await;
    store.edit(ids::house(), By::name("tester"), &[reading(7)]).await.unwrap();
    let note = NewVisit {
        kind: VisitKind::Visit,
        room: Some(ids::boat_hall()),
        device: None,
        text: "Second visit".to_owned(),
        photo: None,
        minutes: Some(95),
    };
    store.note(ids::house(), "tester", &note).await.unwrap();
    let before = (store.load(ids::house()).await.unwrap().site.clone(), store.visits(ids::house()).await.unwrap());
    let rows = store.rows_of(&[ids::house()], kestrel_core::model::Secrets::Kept).await.unwrap();
    store.put_rows(&[ids::house()], &rows).await.unwrap();
    let after = (store.load(ids::house()).await.unwrap().site.clone(), store.visits(ids::house()).await.unwrap());
    assert_eq!(before, after);
}

#[tokio::test]
async fn a_session_is_known_by_its_digest_until_it_is_ended() {
    let store = demo_house().await;
    let id = store.sign_in("0a", "a tablet").await.unwrap();
    store.sign_in("0b", "a phone").await.unwrap();
    assert_eq!(store.session("0a").await.unwrap(), Some(id));
    assert_eq!(store.session("0c").await.unwrap(), None);
    assert_eq!(store.sign_out(Some(id)).await.unwrap(), 1);
    assert_eq!(store.session("0a").await.unwrap(), None);
    assert_eq!(store.sign_out(None).await.unwrap(), 1);
    assert_eq!(store.sessions().await.unwrap(), []);
}
