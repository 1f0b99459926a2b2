//! The inventory over HTTP: copies, photos, tables, advice, inputs that are read back.

use super::{body, call, demo_app, hall, house, request, shown};
use axum::http::{StatusCode, header};
use kestrel_core::demo::{self, ids};
use rstest::rstest;
use serde_json::{Value, json};
use tower::ServiceExt;

#[tokio::test]
async fn a_room_is_doubled_as_one_step_and_undone() {
    let app = demo_app().await;
    let (_, before) = call(&app, "GET", &house(""), Value::Null).await;
    let what = json!({"what": "room", "id": ids::bunk_cabin()});
    let (status, saved) = call(&app, "POST", &house("/copies"), what).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let count = |view: &Value, of: &str| view[of].as_array().unwrap().len();
    let in_room = |view: &Value, room: &str| {
        view["devices"].as_array().unwrap().iter().filter(|device| device["room"] == room).count()
    };
    let made = saved["made"].as_str().unwrap();
    let view = shown(&app).await;
    assert_eq!(in_room(&view, made), in_room(&before, &ids::bunk_cabin().to_string()));
    assert!(count(&view, "codes") > count(&before, "codes"));
    call(&app, "POST", &house("/undo"), Value::Null).await;
    let undone = shown(&app).await;
    for of in ["rooms", "devices", "codes", "connections", "activities"] {
        assert_eq!(count(&undone, of), count(&before, of), "{of}");
    }
}

#[rstest]
#[case::device("device", ids::receiver().0)]
#[case::profile("profile", demo::marram_point().device(ids::receiver()).unwrap().profile.0)]
#[case::model("model", kestrel_core::library::all()[0].id.0)]
#[tokio::test]
async fn everything_that_can_be_doubled_gets_ids_of_its_own(#[case] what: &str, #[case] id: uuid::Uuid) {
    let app = demo_app().await;
    let (status, saved) = call(&app, "POST", &house("/copies"), json!({"what": what, "id": id})).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    assert_ne!(saved["made"], json!(id));
    let (status, problem) = call(&app, "POST", &house("/copies"), json!({"what": what, "id": ids::house()})).await;
    assert_eq!((status, problem["kind"].as_str()), (StatusCode::NOT_FOUND, Some("not-found")));
}

#[tokio::test]
async fn a_photo_is_kept_byte_by_byte() {
    let app = demo_app().await;
    let picture = [b"\x89PNG\r\n\x1a\n".as_slice(), &[0, 1, 2, 255]].concat();
    let kept = app.clone().oneshot(request("POST", &house("/photos"), picture.clone())).await.unwrap();
    assert_eq!(kept.status(), StatusCode::OK);
    let id = body(kept).await["id"].as_str().unwrap().to_owned();
    let shown = app.clone().oneshot(request("GET", &house(&format!("/photos/{id}")), "")).await.unwrap();
    assert_eq!(shown.headers()[header::CONTENT_TYPE], "image/png");
    assert_eq!(axum::body::to_bytes(shown.into_body(), 100).await.unwrap(), picture);
    let (status, _) = call(&app, "GET", &house(&format!("/photos/{}", ids::house())), Value::Null).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[rstest]
#[case::text(b"no picture".to_vec(), 422, "PNG, JPEG or WebP")]
#[case::nothing(vec![], 422, "PNG, JPEG or WebP")]
#[case::huge([b"\x89PNG".as_slice(), &vec![0; 8_000_001]].concat(), 422, "more than 8 MB")]
#[tokio::test]
async fn a_photo_that_is_none_gets_a_sentence(#[case] bytes: Vec<u8>, #[case] status: u16, #[case] expected: &str) {
    let response = demo_app().await.oneshot(request("POST", &house("/photos"), bytes)).await.unwrap();
    assert_eq!(response.status().as_u16(), status);
    let problem = body(response).await;
    assert!(problem["detail"].as_str().unwrap().contains(expected), "{problem}");
}

#[tokio::test]
async fn the_tables_are_csv_and_secrets_leave_only_when_asked_for() {
    let app = demo_app().await;
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let mut device = view["devices"].as_array().unwrap()[0].clone();
    device["records"]["local_key"] = json!("k3y-of-the-box");
    let edit = json!({"edits": [{"do": "put", "entity": {"entity": "device", "value": device}, "base": 0}]});
    let (status, saved) = call(&app, "POST", &house("/edits"), edit).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let read = async |rest: &str| call(&app, "GET", &house(rest), Value::Null).await.1.as_str().unwrap().to_owned();
    let addresses = read("/tables/addresses.csv").await;
    assert!(addresses.starts_with("device,room,"), "{addresses}");
    assert!(!read("/tables/records.csv").await.contains("k3y-of-the-box"));
    assert!(read("/tables/records.csv?secrets=true").await.contains("k3y-of-the-box"));
    let one_room = read(&format!("/tables/addresses.csv?room={}", ids::slip_deck())).await;
    assert!(one_room.lines().count() < addresses.lines().count());
}

#[tokio::test]
async fn the_ways_to_control_a_device_come_best_first_with_a_reason() {
    let app = demo_app().await;
    let path = house(&format!("/devices/{}/advice", ids::receiver()));
    let (status, advice) = call(&app, "GET", &path, Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    assert!(advice.as_array().unwrap().len() > 1, "{advice}");
    assert!(advice[0]["why"].as_str().is_some_and(|why| why.ends_with('.')), "{advice}");
    let (_, conclusion) = call(
        &app,
        "POST",
        "/api/remotes",
        json!({"works_through_hand": true, "camera_shows": false, "label_mhz": 433.92}),
    )
    .await;
    assert_eq!((conclusion["kind"].as_str(), conclusion["certain"].as_bool()), (Some("radio433"), Some(true)));
}

#[tokio::test]
async fn an_input_is_read_back_from_a_device_that_is_on() {
    let app = demo_app().await;
    call(&app, "POST", &hall("/rehearsal/rate"), json!({"rate": 20.0})).await;
    let site = demo::with_disc();
    let receiver = site.profile_of(ids::receiver()).unwrap();
    let asked = json!({"device": ids::receiver(), "input": receiver.inputs[1].id});
    let (status, problem) = call(&app, "POST", &hall("/read-back"), asked.clone()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["detail"].as_str().unwrap().contains("Is it on?"), "{problem}");
    let on = receiver.functions[0].id;
    call(&app, "POST", &hall("/rehearsal/send"), json!({"device": ids::receiver(), "function": on})).await;
    for _ in 0..40 {
        let (status, read) = call(&app, "POST", &hall("/read-back"), asked.clone()).await;
        if status == StatusCode::OK {
            assert_eq!(read["reported"], "MPLAY");
            return;
        }
    }
    panic!("the receiver never showed the input");
}
