//! What an edit is answered with, what other pages are told, and requests that come twice.

use super::{body, call, demo_app, house, renamed, request, shown};
use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use futures::StreamExt;
use kestrel_core::demo::{self, ids};
use kestrel_core::id::DeviceId;
use kestrel_core::model::{Code, House, Site};
use serde_json::{Value, json};
use tower::ServiceExt;
use uuid::Uuid;

#[tokio::test]
async fn an_edit_is_answered_with_what_changed_and_not_with_the_house() {
    let app = demo_app().await;
    let (_, saved) = renamed(&app, "Little box", 0).await;
    let changed = &saved["changed"];
    assert_eq!((changed["revision"].as_i64(), changed["put"].as_array().unwrap().len()), (Some(1), 1));
    assert_eq!((&changed["put"][0]["entity"], &changed["put"][0]["version"]), (&json!("device"), &json!(1)));
    assert_eq!(changed["undo"]["title"], saved["title"]);
    assert!(saved.to_string().len() < 4_000, "{}", saved.to_string().len());
}

#[tokio::test]
async fn lines_of_codes_that_follow_from_a_change_come_with_it() {
    let app = demo_app().await;
    let before = shown(&app).await;
    // Another press of a key changes how long its code is sent.
    let receiver = before["devices"].as_array().unwrap().iter().find(|d| d["id"] == json!(ids::receiver())).unwrap();
    let profiles = before["profiles"].as_array().unwrap();
    let mut profile = profiles.iter().find(|profile| profile["id"] == receiver["profile"]).unwrap().clone();
    let function = profile["functions"][0]["id"].clone();
    profile["functions"][0]["press"] = json!({"presses": 1, "hold_ms": 3000, "gap_ms": 400});
    let edit = json!({"edits": [{"do": "put", "entity": {"entity": "profile", "value": profile}, "base": 0}]});
    let (status, saved) = call(&app, "POST", &house("/edits"), edit).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let put = saved["changed"]["put"].as_array().unwrap();
    let line = put.iter().find(|one| one["entity"] == "code").unwrap();
    assert_eq!((&line["value"]["function"], &line["key"]), (&function, &Value::Null));
    let known = shown(&app).await;
    let same = known["codes"].as_array().unwrap().iter().find(|code| code["id"] == line["value"]["id"]).unwrap();
    assert_eq!(same, &line["value"], "the line is that of the whole house");
}

fn named(name: &str, base: i64, request_id: Uuid, device: &Value) -> Request<Body> {
    let mut device = device.clone();
    device["name"] = json!(name);
    let edit = json!({"edits": [{"do": "put", "entity": {"entity": "device", "value": device}, "base": base}]});
    let mut request = request("POST", &house("/edits"), edit.to_string());
    request.headers_mut().insert("kestrel-request", request_id.to_string().parse().unwrap());
    request.headers_mut().insert("kestrel-who", "Zo%C3%AB".parse().unwrap());
    request
}

#[tokio::test]
async fn a_retry_after_a_broken_connection_gets_the_first_answer_and_makes_no_second_edit() {
    let app = demo_app().await;
    let device = shown(&app).await["devices"][0].clone();
    let send = async |app: &Router| {
        body(app.clone().oneshot(named("Box", 0, Uuid::from_u128(1), &device)).await.unwrap()).await
    };
    let (first, second) = (send(&app).await, send(&app).await);
    assert_eq!((&first["again"], &second["again"]), (&json!(false), &json!(true)));
    assert_eq!((&first["title"], &first["changed"]["put"]), (&second["title"], &second["changed"]["put"]));
    let (_, log) = call(&app, "GET", &house("/log"), Value::Null).await;
    assert_eq!(log.as_array().unwrap().len(), 1);
    assert_eq!(log[0]["who"], "Zoë", "a name in any script stands in the log");
}

#[tokio::test]
async fn a_copy_that_is_asked_for_twice_is_made_once_and_both_answers_name_it() {
    let app = demo_app().await;
    let copy = async |app: &Router| {
        let ask = json!({"what": "device", "id": ids::projector()}).to_string();
        let mut request = request("POST", &house("/copies"), ask);
        request.headers_mut().insert("kestrel-request", Uuid::from_u128(2).to_string().parse().unwrap());
        body(app.clone().oneshot(request).await.unwrap()).await
    };
    let before = shown(&app).await["devices"].as_array().unwrap().len();
    let (first, second) = (copy(&app).await, copy(&app).await);
    assert_eq!((&first["again"], &second["again"]), (&json!(false), &json!(true)), "{second}");
    assert_eq!(first["made"], second["made"]);
    let devices = shown(&app).await["devices"].as_array().unwrap().clone();
    assert_eq!(devices.len(), before + 1);
    assert!(devices.iter().any(|device| device["id"] == first["made"]));
}

#[tokio::test]
async fn other_pages_are_told_what_changed() {
    let app = demo_app().await;
    let stream = app.clone().oneshot(request("GET", &house("/events"), Body::empty())).await.unwrap();
    let mut events = stream.into_body().into_data_stream();
    renamed(&app, "Little box", 0).await;
    let told = String::from_utf8(events.next().await.unwrap().unwrap().to_vec()).unwrap();
    let data = told.lines().find_map(|line| line.strip_prefix("data:")).unwrap();
    let edited: Value = serde_json::from_str(data.trim()).unwrap();
    assert_eq!(edited["changed"]["put"][0]["value"]["name"], "Little box");
    assert_eq!(edited["changed"]["revision"], 1);
}

#[tokio::test]
async fn the_answer_to_an_edit_is_as_small_in_a_house_of_8000_codes() {
    let (store, _) = kestrel_store::testing::fresh().await;
    let mut site = demo::marram_point();
    let device = site.device(ids::receiver()).unwrap().clone();
    let code = site.codes.iter().find(|code| code.device == device.id).unwrap().clone();
    let id = |kind: u128, at: u128| Uuid::from_u128(kind << 96 | at);
    for at in 0..360_u128 {
        let twin = DeviceId(id(7, at));
        site.devices.push(kestrel_core::model::Device {
            id: twin,
            name: format!("Box {at}"),
            overrides: vec![],
            ..device.clone()
        });
        let functions = site.profile(device.profile).unwrap().functions.clone();
        for (key, function) in (0..).zip(functions.iter().take(22)) {
            let own = Code { id: id(8, at * 1_000 + key).into(), device: twin, function: function.id, ..code.clone() };
            site.codes.push(own);
        }
    }
    site.sort();
    store.add_house(&site).await.unwrap();
    let app = crate::serve::app(crate::houses::Houses::new(store, None), crate::guard::Allowed::new(7310, None));
    let (status, saved) = renamed(&app, "Little box", 0).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    assert!(saved.to_string().len() < 20_000, "{}", saved.to_string().len());
}

#[tokio::test]
async fn a_room_with_the_id_of_another_houses_room_is_put_over_http_and_the_other_house_stays_whole() {
    let (store, _) = kestrel_store::testing::fresh().await;
    store.add_house(&demo::marram_point()).await.unwrap();
    let other = House { id: Uuid::from_u128(9).into(), name: "Other".to_owned(), ..demo::marram_point().house };
    let other_id = other.id;
    store.add_house(&Site::empty(other)).await.unwrap();
    let app =
        crate::serve::app(crate::houses::Houses::new(store.clone(), None), crate::guard::Allowed::new(7310, None));
    let room = json!({"id": ids::boat_hall(), "name": "Barn", "position": 0});
    let edit = json!({"edits": [{"do": "put", "entity": {"entity": "room", "value": room}, "base": null}]});
    let (status, said) = call(&app, "POST", &format!("/api/houses/{other_id}/edits"), edit).await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert_eq!(*store.load(ids::house()).await.unwrap().site, demo::marram_point());
    // Rehearsals are of a room of a house: that of the other house has none of the first one's devices.
    let path = format!("/api/houses/{other_id}/rooms/{}/rehearsal", ids::boat_hall());
    call(&app, "GET", &super::hall("/rehearsal"), Value::Null).await;
    let (_, theirs) = call(&app, "GET", &path, Value::Null).await;
    assert_eq!(theirs["devices"].as_array().map(Vec::len), Some(0), "{theirs}");
}

#[tokio::test]
async fn a_picture_is_kept_once_by_what_is_in_it_and_shown_to_page_and_phone() {
    let app = demo_app().await;
    let png = [b"\x89PNG\r\n\x1a\n".as_slice(), &[1, 2, 3]].concat();
    let named = app.clone().oneshot(request("POST", "/api/pictures", png.clone())).await.unwrap();
    let picture = body(named).await;
    let put = json!({"do": "put", "entity": {"entity": "picture", "value": picture}, "base": null});
    for _ in 0..2 {
        let (status, said) = call(&app, "POST", &house("/edits"), json!({"edits": [put]})).await;
        assert_eq!(status, StatusCode::OK, "{said}");
    }
    let path = house(&format!("/pictures/{}", picture["id"].as_str().unwrap()));
    let shown = app.clone().oneshot(request("GET", &path, Body::empty())).await.unwrap();
    assert_eq!(shown.headers()["content-type"], "image/png");
    assert_eq!(axum::body::to_bytes(shown.into_body(), 100).await.unwrap(), png);
    let no_picture = app.clone().oneshot(request("POST", "/api/pictures", "text")).await.unwrap();
    assert_eq!(no_picture.status(), StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn how_a_device_of_its_own_behaves_and_whom_it_serves_is_told_with_the_house_and_with_each_change() {
    let app = demo_app().await;
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let id = ids::receiver().to_string();
    let find =
        |list: &Value, id: &Value| list.as_array().unwrap().iter().find(|one| one["id"] == *id).cloned().unwrap();
    let mut device = find(&view["devices"], &json!(id));
    let mut model = find(&view["profiles"], &device["profile"]);
    let put = |entity: &str, value: &Value, base: &Value| json!({"edits": [{"do": "put", "entity": {"entity": entity, "value": value}, "base": base}]});
    device["overrides"] = json!([{"field": "gap", "value": 1_234}]);
    device["serves"] = json!([ids::boat_hall(), ids::watch_room()]);
    let (status, saved) = call(&app, "POST", &house("/edits"), put("device", &device, &view["versions"][&id])).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let told = &saved["changed"]["behaves"][&id];
    assert_eq!(told["own"]["times"]["gap_ms"], 1_234);
    assert_eq!(told["own"]["name"], model["name"]);
    assert_eq!(told["serves"], json!([ids::boat_hall(), ids::watch_room()]));
    // A change of the model is one of the device's own profile, too.
    model["maker"] = json!("Tarnbeck and daughters");
    let base = &view["versions"][model["id"].as_str().unwrap()];
    let (_, saved) = call(&app, "POST", &house("/edits"), put("profile", &model, base)).await;
    assert_eq!(saved["changed"]["behaves"][&id]["own"]["maker"], "Tarnbeck and daughters", "{saved}");
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    assert_eq!(view["behaves"][&id], saved["changed"]["behaves"][&id]);
}
