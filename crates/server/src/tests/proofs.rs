//! The switch matrix and what is asked of it, over HTTP.

use super::{call, demo_app, house};
use axum::http::StatusCode;
use kestrel_core::demo::{self, ids};
use kestrel_core::id::RoomId;
use rstest::rstest;
use serde_json::{Value, json};

fn tv() -> String {
    demo::marram_point().activities.iter().find(|a| a.name == "Television").unwrap().id.to_string()
}

fn room(id: RoomId, rest: &str) -> String {
    house(&format!("/rooms/{id}{rest}"))
}

#[tokio::test]
async fn the_matrix_is_proved_once_and_kept_until_the_room_is_touched() {
    let app = demo_app().await;
    let (status, first) = call(&app, "GET", &room(ids::watch_room(), "/matrix"), Value::Null).await;
    assert_eq!((status, first["cells"].as_array().unwrap().len()), (StatusCode::OK, 2));
    let off = first["cells"].as_array().unwrap().iter().find(|cell| cell["to"]["is"] == "off").unwrap();
    assert_eq!(off["guarantee"], "at-risk");
    assert!(off["story"]["headline"].as_str().unwrap().contains("“Power” switched it on"), "{off}");
    let (_, again) = call(&app, "GET", &room(ids::watch_room(), "/matrix"), Value::Null).await;
    assert_eq!(first, again);
}

/// The remedy is applied as the page applies it, and the cell turns certain.
#[tokio::test]
async fn an_applied_remedy_makes_the_cell_what_it_said() {
    let app = demo_app().await;
    let ends = format!("?from={}&to=off", tv());
    let (_, remedies) = call(&app, "GET", &room(ids::watch_room(), &format!("/remedies{ends}")), Value::Null).await;
    let best = &remedies[0];
    assert_eq!(best["guarantee"], "certain", "{best}");
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let edits: Vec<Value> = best["changes"]
        .as_array()
        .unwrap()
        .iter()
        .map(|entity| {
            let kind = entity["entity"].as_str().unwrap();
            let own = entity["value"]["id"].as_str().map(str::to_owned);
            let key = own.unwrap_or_else(|| format!("{kind}:{}", entity["value"]["room"].as_str().unwrap()));
            let base = &view["versions"][key];
            json!({"do": "put", "entity": entity, "base": base})
        })
        .collect();
    let (status, saved) = call(&app, "POST", &house("/edits"), json!({"edits": edits})).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let (_, after) = call(&app, "GET", &room(ids::watch_room(), &format!("/cell{ends}")), Value::Null).await;
    assert_eq!((&after["cell"]["guarantee"], &after["cell"]["ready_ms"]), (&best["guarantee"], &best["ready_ms"]));
    let (_, matrix) = call(&app, "GET", &room(ids::watch_room(), "/matrix"), Value::Null).await;
    let at_risk = matrix["cells"].as_array().unwrap().iter().filter(|cell| cell["guarantee"] == "at-risk").count();
    assert_eq!(json!(at_risk), best["at_risk"], "{matrix}");
}

#[rstest]
#[case::same("?from=off&to=off", "choose two different ones")]
#[case::unknown("?from=unknown&to=off", "an activity of this room")]
#[case::nonsense("?from=off&to=moon", "expected off")]
#[case::elsewhere("?from=off&to=6b640000-0009-7000-8000-000000000001", "an activity of this room")]
#[tokio::test]
async fn a_cell_that_is_none_gets_a_sentence(#[case] ends: &str, #[case] expected: &str) {
    let app = demo_app().await;
    for what in ["cell", "remedies", "hands"] {
        let (status, problem) =
            call(&app, "GET", &room(ids::watch_room(), &format!("/{what}{ends}")), Value::Null).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{what}");
        assert!(problem["detail"].as_str().unwrap().contains(expected), "{problem}");
    }
}

#[tokio::test]
async fn other_hands_schools_and_a_diagnosis_are_answered() {
    let app = demo_app().await;
    let ends = format!("?from=off&to={}", tv());
    let (status, hands) = call(&app, "GET", &room(ids::watch_room(), &format!("/hands{ends}")), Value::Null).await;
    assert!(status.is_success() && hands.as_array().unwrap().iter().any(|hand| hand["ends_right"] == false), "{hands}");
    let (_, schools) = call(&app, "GET", &room(ids::boat_hall(), "/schools"), Value::Null).await;
    assert_eq!(schools["couples"], true);
    let seen = json!({"picture": false, "sound": false});
    let (status, found) = call(&app, "POST", &room(ids::watch_room(), &format!("/diagnosis{ends}")), seen).await;
    assert_eq!(status, StatusCode::OK, "{found}");
    assert!(found["explanations"][0]["causes"][0].as_str().unwrap().contains("Display"), "{found}");
    let (status, _) =
        call(&app, "POST", &room(ids::watch_room(), &format!("/diagnosis{ends}")), json!({"picture": 5})).await;
    assert!(status.is_client_error());
}

#[tokio::test]
async fn the_house_goes_off_but_what_is_excepted() {
    let app = demo_app().await;
    let (_, plan) = call(&app, "GET", &house("/off"), Value::Null).await;
    let (_, but) = call(&app, "GET", &house(&format!("/off?except={}", ids::boat_hall())), Value::Null).await;
    let count = |plan: &Value| plan["steps"].as_array().unwrap().len();
    assert!(count(&but) < count(&plan));
    let (status, problem) = call(&app, "GET", &house("/off?except=moon"), Value::Null).await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "{problem}");
}

#[tokio::test]
async fn keys_are_pressed_on_the_machine_of_a_device() {
    let app = demo_app().await;
    let source = demo::marram_point().model_of(ids::projector()).unwrap().functions[2].id;
    let asked = json!({"start": null, "keys": [{"function": source, "wait_ms": 1000}]});
    let path = house(&format!("/devices/{}/explore", ids::projector()));
    let (status, found) = call(&app, "POST", &path, asked).await;
    assert_eq!((status, found["steps"][0]["name"].as_str()), (StatusCode::OK, Some("Source")));
    assert_eq!(found["states"].as_array().unwrap().len(), 15);
    let (_, favourites) = call(&app, "GET", &house(&format!("/activities/{}/favourites", tv())), Value::Null).await;
    assert_eq!(favourites.as_array().unwrap().len(), 3);
}
