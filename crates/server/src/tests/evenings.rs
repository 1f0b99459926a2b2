//! Evenings over HTTP: hands, rules, stories, trials, and what a stop of the server leaves.

use super::{asked, call, demo_app, hall, house, told};
use crate::guard::Allowed;
use crate::houses::Houses;
use crate::serve::app;
use axum::Router;
use axum::http::StatusCode;
use kestrel_core::demo::{self, ids};
use kestrel_store::testing;
use serde_json::{Value, json};

fn loft(rest: &str) -> String {
    house(&format!("/rooms/{}{rest}", ids::chart_loft()))
}

async fn until(app: &Router, done: impl FnMut(&Value) -> bool) -> Value {
    told(app, &loft("/rehearsal/events"), done).await
}

#[tokio::test]
async fn a_hand_is_noticed_and_the_room_adopted() {
    let app = demo_app().await;
    call(&app, "POST", &loft("/rehearsal/rate"), json!({"rate": 20.0})).await;
    let to = json!({"to": {"is": "in", "activity": ids::loft_television()}});
    let (status, _) = call(&app, "POST", &loft("/rehearsal/run"), to).await;
    assert_eq!(status, StatusCode::OK);
    let view = until(&app, |view| view["run"]["end"] == "ready").await;
    assert_eq!(view["run"]["in_truth"], json!([]));
    let hand = json!({"does": "power", "device": ids::loft_display()});
    let (status, said) = call(&app, "POST", &loft("/rehearsal/hand"), hand).await;
    assert_eq!((status, &said["said"]), (StatusCode::OK, &json!("off, cooling")));
    let view = until(&app, |view| view["taken_for"]["activity"] == json!(ids::loft_music())).await;
    let notice = view["notices"].as_array().unwrap().last().unwrap();
    assert_eq!(notice["kind"], "adopted");
    let (_, rules) = call(&app, "GET", &loft("/in-step"), Value::Null).await;
    assert!(rules["rules"][0]["sentence"].as_str().unwrap().starts_with("When Loft receiver shows Stream"));
    let (_, csv) = call(&app, "GET", &loft("/rehearsal/wire"), Value::Null).await;
    assert!(csv.as_str().unwrap().starts_with("at_ms,direction,device,medium,meaning,bytes,heard"), "{csv}");
}

/// What devices report while a run drives them is a reading of the rehearsal room, and nobody's last edit.
#[tokio::test]
async fn a_run_adds_readings_by_feedback_and_leaves_the_line_of_undo_alone() {
    let app = demo_app().await;
    call(&app, "POST", &loft("/rehearsal/rate"), json!({"rate": 20.0})).await;
    until(&app, |view| {
        let drives = view["drives"].as_array().unwrap();
        drives.iter().any(|drive| drive["device"] == json!(ids::loft_receiver()) && !drive["told"].is_null())
    })
    .await;
    let to = json!({"to": {"is": "in", "activity": ids::loft_television()}});
    call(&app, "POST", &loft("/rehearsal/run"), to).await;
    until(&app, |view| view["run"]["end"] == "ready").await;
    let by_feedback = |shown: &Value| {
        let all = shown["measurements"].as_array().unwrap().clone();
        all.into_iter().filter(|own| own["by_way"] == "by feedback").collect::<Vec<_>>()
    };
    let shown = asked(&app, &house(""), |shown| !by_feedback(shown).is_empty()).await;
    for own in by_feedback(&shown) {
        assert_eq!((own["seen"].as_str(), own["early_ms"].is_u64()), (Some("rehearsed"), true), "{own}");
    }
    let (status, refused) = call(&app, "POST", &house("/undo"), Value::Null).await;
    assert!(status.is_client_error(), "{refused}");
}

#[tokio::test]
async fn an_evening_is_kept_with_the_house_and_played_again() {
    let app = demo_app().await;
    call(&app, "POST", &loft("/rehearsal/record"), Value::Null).await;
    let hand = json!({"does": "power", "device": ids::loft_receiver()});
    call(&app, "POST", &loft("/rehearsal/hand"), hand).await;
    let (status, _) = call(&app, "POST", &loft("/rehearsal/keep"), json!({"name": " "})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "and the recording goes on");
    let (status, story) = call(&app, "POST", &loft("/rehearsal/keep"), json!({"name": "Late"})).await;
    assert_eq!((status, &story["events"][0]["hand"]["does"]), (StatusCode::OK, &json!("power")), "{story}");
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let room = ids::chart_loft().to_string();
    let kept = view["rooms"].as_array().unwrap().iter().find(|known| known["id"] == room.as_str()).unwrap();
    assert_eq!(kept["rehearsal"]["stories"][0]["name"], "Late");
    let (status, played) = call(&app, "POST", &loft("/stories/replay"), Value::Null).await;
    assert_eq!((status, &played[0]["played"]["passed"]), (StatusCode::OK, &json!(true)), "{played}");
}

#[tokio::test]
async fn trials_are_started_looked_at_and_cancelled() {
    let app = demo_app().await;
    let (_, none) = call(&app, "GET", &loft("/trials"), Value::Null).await;
    assert_eq!(none, Value::Null);
    let request = json!({"evenings": 2000, "seed": 3, "hands": true, "faults": false});
    let (status, view) = call(&app, "POST", &loft("/trials"), request).await;
    assert_eq!((status, &view["report"]), (StatusCode::OK, &Value::Null));
    call(&app, "DELETE", &loft("/trials"), Value::Null).await;
    let view = asked(&app, &loft("/trials"), |view| !view["report"].is_null() || !view["failed"].is_null()).await;
    if view["failed"].is_null() {
        assert!(view["report"]["evenings"].as_u64().unwrap() < 2000);
        assert_eq!(view["report"]["wrong"], 0, "{view}");
    } else {
        assert_eq!(view["failed"], "Cancelled before the first evening.");
    }
}

/// Killed in the middle of a macro: after the restart the room is unknown, not ready, and nothing was lost.
#[tokio::test]
async fn after_a_kill_in_the_middle_of_a_macro_the_room_is_unknown() {
    let (store, _) = testing::fresh().await;
    store.add_house(&demo::marram_point()).await.unwrap();
    let first = app(Houses::new(store.clone(), None), Allowed::new(7310, None));
    let to = json!({"to": {"is": "in", "activity": ids::loft_film()}});
    let (status, _) = call(&first, "POST", &loft("/rehearsal/run"), to).await;
    assert_eq!(status, StatusCode::OK);
    // Another server on the same database, as after a kill: the first never wrote that it was done.
    let second = app(Houses::new(store, None), Allowed::new(7310, None));
    let (_, view) = call(&second, "GET", &loft("/rehearsal"), Value::Null).await;
    assert_eq!(view["taken_for"], Value::Null);
    let notice = view["notices"][0]["text"].as_str().unwrap();
    assert!(notice.starts_with("The server was stopped in the middle of Loft film"), "{notice}");
    let (_, rooms) = call(&second, "GET", &house(""), Value::Null).await;
    assert_eq!(rooms["rooms"].as_array().unwrap().len(), 7);
}

/// What a story plays is a macro that nobody asked for: it is noted all the same.
#[tokio::test]
async fn after_a_kill_in_the_middle_of_a_played_story_the_room_is_unknown() {
    let (store, _) = testing::fresh().await;
    store.add_house(&demo::marram_point()).await.unwrap();
    let first = app(Houses::new(store.clone(), None), Allowed::new(7310, None));
    let film = json!({"is": "in", "activity": ids::loft_film()});
    let events = json!({"events": [{"at_ms": 0, "is": "request", "to": film}]});
    let (status, _) = call(&first, "POST", &loft("/rehearsal/play"), events).await;
    assert_eq!(status, StatusCode::OK);
    until(&first, |view| !view["run"].is_null()).await;
    // The note is written beside the run: it is there before anybody can ask for long.
    let noted = async {
        while !store.is_under_way(ids::house(), ids::chart_loft()).await.unwrap() {
            tokio::task::yield_now().await;
        }
    };
    tokio::time::timeout(super::PATIENCE, noted).await.unwrap();
    let second = app(Houses::new(store, None), Allowed::new(7310, None));
    let (_, view) = call(&second, "GET", &loft("/rehearsal"), Value::Null).await;
    assert!(view["notices"][0]["text"].as_str().unwrap().contains("in the middle of Loft film"), "{view}");
}

#[tokio::test]
async fn a_counterexample_is_an_evening_that_can_be_played() {
    let app = demo_app().await;
    let watch = |path: &str| house(&format!("/rooms/{}{path}", ids::watch_room()));
    let query = format!("/plan/counterexample?from=off&to={}", ids::television());
    let (status, found) = call(&app, "GET", &watch(&query), Value::Null).await;
    assert_eq!(status, StatusCode::OK, "{found}");
    assert!(found["headline"].as_str().unwrap().starts_with("Display was on"), "{found}");
    assert_eq!(found["story"]["events"][0]["is"], "stand");
    assert!(!found["ends_wrong"].as_array().unwrap().is_empty(), "{found}");
    let mut events = found["story"]["events"].clone();
    let (status, _) = call(&app, "POST", &watch("/rehearsal/play"), json!({"events": events})).await;
    assert_eq!(status, StatusCode::OK);
    events[0]["pace_percent"] = json!(101);
    let (status, refused) = call(&app, "POST", &watch("/rehearsal/play"), json!({"events": events})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused["detail"].as_str().unwrap().contains("between 0 and 100 %"), "{refused}");
    let tidy = house(&format!("/rooms/{}/plan/counterexample?from=off&to={}", ids::tidy_cabin(), ids::television()));
    let (status, _) = call(&app, "GET", &tidy, Value::Null).await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "the activity is of another room");
}

#[tokio::test]
async fn a_key_of_a_keypad_arrives_as_a_gesture() {
    let app = demo_app().await;
    let site = demo::marram_point();
    let key = site.profile_of(ids::loft_remote()).unwrap().functions[11].id;
    // Twenty times as fast, the 350 ms between two taps would be 17 ms of a machine that may be busy.
    call(&app, "POST", &loft("/rehearsal/rate"), json!({"rate": 1})).await;
    // A keypad that has answered once is heard whole: before that, half of a gesture may be lost.
    until(&app, |view| {
        let drives = view["drives"].as_array().unwrap();
        drives.iter().any(|drive| drive["device"] == json!(ids::loft_remote()) && !drive["told"].is_null())
    })
    .await;
    let hand = json!({"does": "press", "device": ids::loft_remote(), "function": key, "gesture": "double-tap"});
    let (status, said) = call(&app, "POST", &loft("/rehearsal/hand"), hand).await;
    assert_eq!((status, said["said"].as_str()), (StatusCode::OK, Some("“Pause” tapped twice")));
    let view = until(&app, |view| !view["pressed"].as_array().unwrap().is_empty()).await;
    let pressed = &view["pressed"][0];
    assert_eq!((&pressed["gesture"], &pressed["function"]), (&json!("double-tap"), &json!(key)));
}

#[tokio::test]
async fn a_cue_sheet_an_evening_and_a_calendar_over_http() {
    let app = demo_app().await;
    let (status, sheet) = call(&app, "GET", &hall("/cues"), Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(sheet["lines"][2]["moment"], "Disc player plays");
    assert!(sheet["starts"].as_array().unwrap().iter().any(|start| start["remedy"].is_string()));
    let asked = json!({"start": "2027-01-15T20:00", "length_ms": 7_200_000, "activity": ids::feature_film()});
    let (status, evening) = call(&app, "POST", &hall("/evening"), asked.clone()).await;
    assert_eq!((status, evening["lines"].as_array().unwrap().len()), (StatusCode::OK, 4));
    assert_eq!(evening["events"].as_array().unwrap().len(), 7);
    for (field, wrong, says) in [("start", json!("tea"), "is no time"), ("length_ms", json!(0), "two days")] {
        let mut asked = asked.clone();
        asked[field] = wrong;
        let (status, problem) = call(&app, "POST", &hall("/evening"), asked).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(problem["detail"].as_str().unwrap().contains(says), "{problem}");
    }
    let (status, _) = call(&app, "GET", &loft("/cues.ics?from=yesterday"), Value::Null).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, problem) = call(&app, "POST", &loft("/rehearsal/time"), json!({"time": "noon"})).await;
    assert!(status.is_client_error(), "{problem}");
    let (_, view) = call(&app, "POST", &loft("/rehearsal/time"), json!({"time": "2027-06-21T12:00"})).await;
    assert_eq!(
        (view["light"]["dark"].as_bool(), view["light"]["time"].as_str()),
        (Some(false), Some("2027-06-21T12:00"))
    );
}

/// The stairs belong to another room: its own rehearsal drives them.
#[tokio::test]
async fn a_look_lights_a_zone_of_another_room() {
    let app = demo_app().await;
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let room = |id: String| view["rooms"].as_array().unwrap().iter().find(|room| room["id"] == *id).unwrap().clone();
    let steps = room(ids::boat_hall().to_string())["lighting"]["zones"][2]["id"].clone();
    let mut light = room(ids::chart_loft().to_string())["lighting"].clone();
    light.as_object_mut().unwrap().remove("cues");
    light["room"] = json!(ids::chart_loft());
    for look in light["looks"].as_array_mut().unwrap() {
        look["levels"].as_array_mut().unwrap().push(json!({"zone": steps, "percent": 33}));
    }
    let base = &view["versions"][format!("light:{}", ids::chart_loft())];
    let edit = json!({"edits": [{"do": "put", "entity": {"entity": "light", "value": light}, "base": base}]});
    let (status, saved) = call(&app, "POST", &house("/edits"), edit).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let to = json!({"to": {"is": "in", "activity": ids::loft_film()}});
    assert_eq!(call(&app, "POST", &loft("/rehearsal/run"), to).await.0, StatusCode::OK);
    let lit = |view: &Value| {
        let zones = view["light"]["zones"].as_array().unwrap();
        zones.iter().find(|zone| zone["zone"] == steps).unwrap()["to_percent"].as_f64().unwrap()
    };
    told(&app, &hall("/rehearsal/events"), |hall| (lit(hall) - 33.0).abs() < 0.5).await;
}
