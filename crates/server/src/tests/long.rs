//! What takes long: it shows how far it is, can be ended, and is told as failed where it failed.

use super::{asked, call, demo_app, hall, house, told};
use crate::houses::{Houses, Trial};
use crate::routes::TrialView;
use crate::work::LONG;
use axum::http::StatusCode;
use kestrel_bench::trials::TrialRequest;
use kestrel_core::demo::{self, ids};
use kestrel_store::testing;
use serde_json::{Value, json};
use std::sync::Arc;

fn loft(rest: &str) -> String {
    house(&format!("/rooms/{}{rest}", ids::chart_loft()))
}

const TWO_THOUSAND: TrialRequest = TrialRequest { evenings: 2_000, seed: 1, hands: true, faults: true };

#[tokio::test]
async fn notes_and_plans_are_answered_while_trials_run_and_others_wait() {
    let app = demo_app().await;
    // Whatever else is under way: these wait for their turn.
    let (release, held) = std::sync::mpsc::channel::<()>();
    let other = tokio::spawn(LONG.run(move || held.recv()));
    let request = json!({"evenings": 2000, "seed": 1, "hands": true, "faults": true});
    let (_, view) = call(&app, "POST", &loft("/trials"), request).await;
    assert_eq!((&view["waiting"], &view["done"]), (&json!(true), &json!(0)));
    let (status, notes) = call(&app, "GET", &hall("/notes"), Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    assert!(!notes["findings"].as_array().unwrap().is_empty());
    let (status, _) = call(&app, "GET", &hall("/matrix"), Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    let (_, view) = call(&app, "DELETE", &loft("/trials"), Value::Null).await;
    assert_eq!((&view["failed"], &view["waiting"]), (&json!("Cancelled before the first evening."), &json!(false)));
    release.send(()).unwrap();
    other.await.unwrap().unwrap().unwrap();
}

#[tokio::test]
async fn trials_that_fail_are_told_as_failed() {
    let trial = Trial::new(TWO_THOUSAND);
    let running = serde_json::to_value(TrialView::from(trial.clone())).unwrap();
    assert_eq!((&running["failed"], &running["report"]), (&Value::Null, &Value::Null));
    let failed = LONG.run(|| -> u8 { std::panic::panic_any("a fault") }).await.unwrap_err();
    trial.ends(Err(failed.detail));
    let view = serde_json::to_value(TrialView::from(trial.clone())).unwrap();
    assert_eq!(
        (&view["failed"], &view["waiting"]),
        (&json!("The run ended unexpectedly: that is a fault of this program. Try again."), &json!(false))
    );
    trial.ends(Err("later".to_owned()));
    assert!(trial.outcome().unwrap().unwrap_err().starts_with("The run"), "what was said first stays");
}

#[tokio::test]
async fn a_story_that_is_played_shows_how_far_it_is_and_can_be_stopped() {
    let app = demo_app().await;
    let hand =
        |at_ms: u64| json!({"at_ms": at_ms, "is": "hand", "hand": {"does": "power", "device": ids::loft_receiver()}});
    let events = json!({"events": [hand(0), hand(3_600_000)]});
    let (status, view) = call(&app, "POST", &loft("/rehearsal/play"), events.clone()).await;
    assert_eq!((status, &view["playing"]["of"]), (StatusCode::OK, &json!(2)));
    let view = told(&app, &loft("/rehearsal/events"), |view| view["playing"]["done"] == 1).await;
    assert_eq!(view["playing"]["under_way"], json!(true));
    let (_, view) = call(&app, "DELETE", &loft("/rehearsal/play"), Value::Null).await;
    assert_eq!((&view["playing"]["under_way"], &view["playing"]["done"]), (&json!(false), &json!(1)));
    // *Stop everything* ends an evening, too.
    call(&app, "POST", &loft("/rehearsal/play"), events).await;
    let (_, view) = call(&app, "POST", &loft("/rehearsal/stop"), Value::Null).await;
    assert_eq!(view["playing"]["under_way"], json!(false));
}

#[tokio::test]
async fn a_second_play_takes_the_place_of_the_first() {
    let app = demo_app().await;
    call(&app, "POST", &loft("/rehearsal/rate"), json!({"rate": 20})).await;
    let hand = |at_ms: u64, device| json!({"at_ms": at_ms, "is": "hand", "hand": {"does": "power", "device": device}});
    // The first would switch the display at 2 s; the second switches the receiver at 4 s.
    let first = json!({"events": [hand(2_000, ids::loft_display())]});
    let second = json!({"events": [hand(4_000, ids::loft_receiver())]});
    call(&app, "POST", &loft("/rehearsal/play"), first).await;
    let (_, view) = call(&app, "POST", &loft("/rehearsal/play"), second).await;
    assert_eq!((&view["playing"]["of"], &view["playing"]["done"]), (&json!(1), &json!(0)));
    let view = told(&app, &loft("/rehearsal/events"), |view| view["playing"]["under_way"] == false).await;
    let power = |device| {
        let devices = view["devices"].as_array().unwrap();
        devices.iter().find(|known| known["device"] == json!(device)).unwrap()["power"].clone()
    };
    assert_eq!(view["playing"], json!({"done": 1, "of": 1, "under_way": false, "refused": []}));
    assert_eq!(power(ids::loft_display()), json!("off"), "the first never came to it");
    assert_ne!(power(ids::loft_receiver()), json!("off"));
}

#[tokio::test]
async fn what_a_played_story_could_not_do_is_told() {
    let app = demo_app().await;
    let events = json!({"events": [{"at_ms": 0, "is": "restart", "device": ids::projector()}]});
    call(&app, "POST", &loft("/rehearsal/play"), events).await;
    let view = told(&app, &loft("/rehearsal/events"), |view| view["playing"]["under_way"] == false).await;
    assert_eq!(view["playing"]["refused"], json!(["That device is not in this room any more."]));
}

#[tokio::test]
async fn a_proof_tells_how_far_it_is_and_ends_with_the_last_page_that_waits() {
    let app = demo_app().await;
    let (status, none) = call(&app, "GET", &hall("/matrix/progress"), Value::Null).await;
    assert_eq!((status, none), (StatusCode::OK, Value::Null));
    let (store, _) = testing::fresh().await;
    let houses = Houses::new(store, None);
    let room = (ids::house(), ids::boat_hall());
    let site = Arc::new(demo::marram_point());
    let (one, two) = (houses.proving(room, &site), houses.proving(room, &site));
    assert!(one.goes_on(3, 12));
    assert_eq!(houses.under_proof(room).unwrap().so_far(), (3, 12));
    houses.waits_no_more(room, &one);
    assert!(two.goes_on(4, 12), "another page still waits");
    houses.waits_no_more(room, &two);
    assert!(!two.goes_on(5, 12));
    assert!(houses.under_proof(room).is_none());
}

#[tokio::test]
async fn a_proof_of_the_house_before_an_edit_does_not_hold_the_one_after() {
    let (store, _) = testing::fresh().await;
    let houses = Houses::new(store, None);
    let room = (ids::house(), ids::boat_hall());
    let before = houses.proving(room, &Arc::new(demo::marram_point()));
    let after = houses.proving(room, &Arc::new(demo::with_disc()));
    assert!(before.goes_on(6, 12) && after.goes_on(0, 12));
    assert_eq!(houses.under_proof(room).unwrap().so_far(), (0, 12), "how far the new one is");
    houses.waits_no_more(room, &before);
    assert!(!before.goes_on(7, 12), "nobody waits for the old one");
    assert!(after.goes_on(1, 12) && houses.under_proof(room).is_some());
}

#[tokio::test]
async fn a_proof_that_is_cancelled_says_so_and_can_be_asked_for_again() {
    let app = demo_app().await;
    let path = hall("/matrix/progress");
    let cancel = async {
        asked(&app, &path, |view| !view.is_null()).await;
        assert_eq!(call(&app, "DELETE", &path, Value::Null).await.0, StatusCode::NO_CONTENT);
    };
    let matrix = hall("/matrix");
    let (answer, ()) = tokio::join!(call(&app, "GET", &matrix, Value::Null), cancel);
    assert_eq!((answer.0, &answer.1["kind"]), (StatusCode::CONFLICT, &json!("cancelled")), "{}", answer.1);
    assert_eq!(call(&app, "GET", &hall("/matrix"), Value::Null).await.0, StatusCode::OK);
}
