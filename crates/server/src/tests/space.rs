//! The room in space over HTTP: reach, gateways, the picture, and what cannot be.

use super::{call, demo_app, hall, house, shown};
use axum::http::StatusCode;
use kestrel_core::demo::{self, ids};
use serde_json::{Value, json};
use uuid::Uuid;

fn gateway() -> Value {
    let site = demo::marram_point();
    json!(site.devices.iter().find(|own| own.name == "Hall gateway").unwrap().id)
}

#[tokio::test]
async fn what_a_gateway_reaches_is_told_with_its_field() {
    let app = demo_app().await;
    let gateway = gateway();
    let path = hall(&format!("/reach?gateway={}&device={}", gateway.as_str().unwrap(), ids::receiver()));
    let (status, view) = call(&app, "GET", &path, Value::Null).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    let lines = view["reach"]["lines"].as_array().unwrap();
    let receiver = lines.iter().find(|own| own["device"] == json!(ids::receiver())).unwrap();
    assert_eq!((receiver["reached"].as_str(), receiver["hears"].as_str()), (Some("reaches"), Some("surely")));
    assert_eq!(view["field"]["columns"], 64);
    let nobody = hall(&format!("/reach?gateway={}", ids::receiver()));
    let (status, refused) = call(&app, "GET", &nobody, Value::Null).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused["detail"].as_str().unwrap().contains("nothing is known of its emitter"), "{refused}");
}

#[tokio::test]
async fn the_cheapest_set_is_put_into_the_house_in_one_step() {
    let app = demo_app().await;
    let (status, set) = call(&app, "POST", &hall("/gateways"), json!({})).await;
    assert_eq!(
        (status, set["proved"].as_bool(), set["price"].as_u64()),
        (StatusCode::OK, Some(true), Some(2_900)),
        "{set}"
    );
    let before = shown(&app).await;
    let (status, saved) = call(&app, "POST", &hall("/gateways/apply"), json!({})).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let after = shown(&app).await;
    let many = |view: &Value, list: &str| view[list].as_array().unwrap().len();
    assert_eq!(
        (many(&after, "devices"), many(&after, "placed")),
        (many(&before, "devices") + 1, many(&before, "placed") + 1)
    );
    call(&app, "POST", &house("/undo"), Value::Null).await;
    let back = shown(&app).await;
    assert_eq!((&back["devices"], &back["placed"]), (&before["devices"], &before["placed"]));
}

#[tokio::test]
async fn the_picture_is_told_seat_by_seat() {
    let app = demo_app().await;
    let (status, all) = call(&app, "GET", &hall("/picture?bottom_mm=840"), Value::Null).await;
    assert_eq!(status, StatusCode::OK, "{all}");
    assert_eq!(all[0]["seats"].as_array().unwrap().len(), 5);
    assert!(all[0]["stop"]["after_ms"].as_u64().unwrap() > 10_000, "{}", all[0]["stop"]);
}

#[tokio::test]
async fn a_place_is_an_entity_with_a_line_of_history() {
    let app = demo_app().await;
    let before = shown(&app).await;
    let mut own = before["placed"][0].clone();
    own["at_mm"] = json!([3_000, 2_000, 2_300]);
    let put = |own: &Value| json!({"edits": [{"do": "put", "entity": {"entity": "placed", "value": own}, "base": 0}]});
    let (status, saved) = call(&app, "POST", &house("/edits"), put(&own)).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    assert!(saved["title"].as_str().unwrap().contains("the place of"), "{saved}");
    assert_eq!(shown(&app).await["placed"][0]["at_mm"], own["at_mm"]);
    own["at_mm"] = json!([90_000, 2_000, 2_300]);
    let (status, refused) = call(&app, "POST", &house("/edits"), put(&own)).await;
    assert_eq!(status, StatusCode::CONFLICT, "made from an older version: {refused}");
    let mut new = own.clone();
    new["id"] = json!(Uuid::from_u128(99));
    let other = json!({"edits": [{"do": "put", "entity": {"entity": "placed", "value": new}, "base": null}]});
    let (status, refused) = call(&app, "POST", &house("/edits"), other).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused["detail"].as_str().unwrap().contains("outside the room"), "{refused}");
    call(&app, "POST", &house("/undo"), Value::Null).await;
    assert_eq!(shown(&app).await["placed"], before["placed"]);
}
