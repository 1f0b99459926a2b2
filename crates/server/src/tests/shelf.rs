//! The shelf over HTTP: starting, copying, removing and putting back; site files and backups.

use super::{call, demo_app, house, request};
use crate::guard::Allowed;
use crate::houses::Houses;
use axum::Router;
use axum::body::Body;
use axum::http::StatusCode;
use kestrel_core::demo::{self, ids};
use kestrel_core::file;
use rstest::rstest;
use serde_json::{Value, json};
use tower::ServiceExt;

async fn empty_app() -> Router {
    let (store, _) = kestrel_store::testing::fresh().await;
    crate::serve::app(Houses::new(store, None), Allowed::new(7310, None))
}

async fn bytes(app: &Router, path: &str) -> (StatusCode, Vec<u8>) {
    let response = app.clone().oneshot(request("GET", path, Body::empty())).await.unwrap();
    let status = response.status();
    (status, axum::body::to_bytes(response.into_body(), usize::MAX).await.unwrap().to_vec())
}

/// Sends a file; gives the answer.
async fn send(app: &Router, path: &str, content: impl Into<Body>) -> (StatusCode, Value) {
    let response = app.clone().oneshot(request("POST", path, content)).await.unwrap();
    let status = response.status();
    let body = axum::body::to_bytes(response.into_body(), usize::MAX).await.unwrap();
    (status, serde_json::from_slice(&body).unwrap_or(Value::Null))
}

async fn names(app: &Router) -> Vec<String> {
    let (_, shelf) = call(app, "GET", "/api/shelf", Value::Null).await;
    shelf["houses"].as_array().unwrap().iter().map(|own| own["name"].as_str().unwrap().to_owned()).collect()
}

#[tokio::test]
async fn a_house_is_started_with_a_cinema_whose_first_plan_can_be_sent() {
    let app = empty_app().await;
    let (status, points) = call(&app, "GET", "/api/starting-points", Value::Null).await;
    assert_eq!((status, points.as_array().unwrap().len()), (StatusCode::OK, 5));
    let asked = json!({"name": " Teal House ", "client": "The Ottars", "rooms": [
        {"name": "Den", "start": "cinema"}, {"name": "Larder", "start": "empty"}]});
    let (status, made) = call(&app, "POST", "/api/houses", asked).await;
    assert_eq!(status, StatusCode::OK, "{made}");
    let own = format!("/api/houses/{}", made["house"].as_str().unwrap());
    let (_, view) = call(&app, "GET", &own, Value::Null).await;
    assert_eq!((&view["house"]["name"], &view["house"]["client"]), (&json!("Teal House"), &json!("The Ottars")));
    assert_eq!(view["rooms"].as_array().unwrap().len(), 2);
    let film = &view["activities"][0]["id"];
    let room = made["room"].as_str().unwrap();
    let (_, cell) =
        call(&app, "GET", &format!("{own}/rooms/{room}/cell?from=off&to={}", film.as_str().unwrap()), Value::Null)
            .await;
    assert_eq!(cell["cell"]["runnable"], true, "{}", cell["cell"]["verdict"]);
    let (_, summary) = call(&app, "GET", &format!("{own}/summary"), Value::Null).await;
    assert_eq!(summary["rooms"][0]["next"], Value::Null, "{summary}");
    assert_eq!(summary["rooms"][1]["next"]["step"], 1);
    assert_eq!(summary["stages"]["codes"]["done"], summary["stages"]["codes"]["total"]);
    let (_, shelf) = call(&app, "GET", "/api/shelf", Value::Null).await;
    assert_eq!((&shelf["houses"][0]["as_of"], &shelf["houses"][0]["summary"]), (&json!(0), &summary));
}

#[rstest]
#[case::no_name(json!({"name": "  "}), "Name of the house: give it a name")]
#[case::long(json!({"name": "x".repeat(10_000)}), "Name of the house: give it a name of 1 to 80 characters")]
#[case::long_note(json!({"name": "Teal", "note": "x".repeat(300)}), "Note: is one line of at most 200 characters")]
#[case::room(json!({"name": "Teal", "rooms": [{"name": "", "start": "empty"}]}), "Name of the room: give it a name")]
#[case::rooms(json!({"name": "Teal", "rooms": vec![json!({"name": "Den", "start": "empty"}); 41]}), "at most 40 rooms")]
#[tokio::test]
async fn a_house_that_cannot_be_started_is_refused_in_a_sentence(#[case] asked: Value, #[case] expected: &str) {
    let app = empty_app().await;
    let (status, said) = call(&app, "POST", "/api/houses", asked).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(said["detail"].as_str().unwrap().contains(expected), "{said}");
    assert!(names(&app).await.is_empty());
}

#[tokio::test]
async fn a_removed_house_is_gone_and_can_be_put_back() {
    let app = demo_app().await;
    let (status, _) = call(&app, "DELETE", &house(""), Value::Null).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let (status, _) = call(&app, "DELETE", &house(""), Value::Null).await;
    assert_eq!(status, StatusCode::NOT_FOUND, "from two pages");
    let (status, said) = call(&app, "GET", &house(""), Value::Null).await;
    assert_eq!(status, StatusCode::NOT_FOUND, "{said}");
    let (_, shelf) = call(&app, "GET", "/api/shelf", Value::Null).await;
    assert_eq!((shelf["houses"].as_array().unwrap().len(), &shelf["removed"][0]["name"]), (0, &json!("Marram Point")));
    let back = format!("/api/shelf/removed/{}", ids::house());
    let (status, made) = call(&app, "POST", &back, Value::Null).await;
    assert_eq!((status, &made["said"]), (StatusCode::OK, &json!("Marram Point is back, as it was.")));
    let (status, _) = call(&app, "POST", &back, Value::Null).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

/// A browser hands on no event without data.
#[tokio::test]
async fn a_page_in_a_house_that_is_removed_is_told() {
    use futures::StreamExt;
    let app = demo_app().await;
    let open = app.clone().oneshot(request("GET", &house("/events"), Body::empty())).await.unwrap();
    let mut told = open.into_body().into_data_stream();
    call(&app, "DELETE", &house(""), Value::Null).await;
    let event = told.next().await.unwrap().unwrap();
    assert_eq!(String::from_utf8_lossy(&event), "event: gone\ndata: look again\n\n");
}

#[tokio::test]
async fn the_demo_house_comes_to_an_emptied_shelf_when_it_is_asked_for_and_is_never_there_twice() {
    let app = empty_app().await;
    for _ in 0..2 {
        let (status, made) = call(&app, "POST", "/api/shelf/demo", Value::Null).await;
        assert_eq!((status, &made["name"]), (StatusCode::OK, &json!("Marram Point")));
    }
    call(&app, "DELETE", &house(""), Value::Null).await;
    call(&app, "POST", "/api/shelf/demo", Value::Null).await;
    assert_eq!(names(&app).await, ["Marram Point"]);
}

#[tokio::test]
async fn a_full_room_is_removed_in_one_step_that_undo_takes_back() {
    let app = demo_app().await;
    let room = house(&format!("/rooms/{}", ids::boat_hall()));
    let (_, before) = call(&app, "GET", &house(""), Value::Null).await;
    let (_, going) = call(&app, "GET", &format!("{room}/removal"), Value::Null).await;
    assert!(going["devices"].as_array().unwrap().contains(&json!("Projector")), "{going}");
    let (status, saved) = call(&app, "DELETE", &room, Value::Null).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let (_, after) = call(&app, "GET", &house(""), Value::Null).await;
    assert_eq!(after["rooms"].as_array().unwrap().len() + 1, before["rooms"].as_array().unwrap().len());
    call(&app, "POST", &house("/undo"), Value::Null).await;
    let (_, again) = call(&app, "GET", &house(""), Value::Null).await;
    for part in ["rooms", "devices", "activities", "connections"] {
        assert_eq!(again[part], before[part], "{part}");
    }
    let (status, _) = call(&app, "DELETE", &house(&format!("/rooms/{}", ids::house())), Value::Null).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_room_is_added_with_what_it_begins_with() {
    let app = demo_app().await;
    let asked = json!({"name": "Snug", "start": "bedroom"});
    let (status, saved) = call(&app, "POST", &house("/rooms"), asked).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let id = saved["made"].as_str().unwrap();
    let (_, notes) = call(&app, "GET", &house(&format!("/rooms/{id}/notes")), Value::Null).await;
    assert_eq!(notes["next"], Value::Null);
    assert_eq!(notes["codes"]["done"], notes["codes"]["total"]);
}

#[tokio::test]
async fn a_site_file_goes_out_without_secrets_and_comes_back_without_losing_them() {
    let app = demo_app().await;
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let mut device =
        view["devices"].as_array().unwrap().iter().find(|own| own["id"] == json!(ids::receiver())).unwrap().clone();
    device["records"]["local_key"] = json!("k3y");
    device["network"]["allowed"] = json!("192.0.2.7:4000");
    let put = |device: &Value, base: &Value| json!({"edits": [{"do": "put", "entity": {"entity": "device", "value": device}, "base": base}]});
    let id = ids::receiver().to_string();
    call(&app, "POST", &house("/edits"), put(&device, &view["versions"][&id])).await;
    let (_, bare) = bytes(&app, &house("/site")).await;
    let (_, whole) = bytes(&app, &house("/site?secrets=true")).await;
    let holds = |file: &[u8], text: &str| String::from_utf8_lossy(file).contains(text);
    assert!(!holds(&bare, "k3y") && holds(&whole, "k3y"));
    assert!(!holds(&bare, "192.0.2.7:4000") && !holds(&whole, "192.0.2.7:4000"), "leave is never in a file");
    let (status, preview) = send(&app, "/api/shelf/imports/preview", bare.clone()).await;
    assert_eq!(status, StatusCode::OK, "{preview}");
    assert_eq!(
        (&preview["secrets"], &preview["there"]["changes"]),
        (&json!(false), &json!(1)),
        "leave is withdrawn: {preview}"
    );
    let (status, made) = send(&app, "/api/shelf/imports?how=replace", bare).await;
    assert_eq!(status, StatusCode::OK, "{made}");
    let (_, again) = bytes(&app, &house("/site?secrets=true")).await;
    assert_eq!(again, whole, "the key is still there");
}

#[tokio::test]
async fn a_site_file_is_taken_in_as_a_copy_and_in_place_of() {
    let app = demo_app().await;
    let text = file::write(&demo::marram_point());
    let (status, said) = send(&app, "/api/shelf/imports?how=new", text.clone()).await;
    assert_eq!((status, &said["kind"]), (StatusCode::CONFLICT, &json!("there")));
    let (status, made) = send(&app, "/api/shelf/imports?how=copy", text.clone()).await;
    assert_eq!((status, &made["name"]), (StatusCode::OK, &json!("Marram Point 2")));
    assert_ne!(made["house"], json!(ids::house()));
    assert_eq!(names(&app).await, ["Marram Point", "Marram Point 2"]);
    let mut site = demo::marram_point();
    site.house.note = "Changed elsewhere".to_owned();
    let (status, _) = send(&app, "/api/shelf/imports?how=replace", file::write(&site)).await;
    assert_eq!(status, StatusCode::OK);
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    assert_eq!((&view["house"]["note"], view["undo"].is_object()), (&json!("Changed elsewhere"), true));
    call(&app, "DELETE", &house(""), Value::Null).await;
    let (status, _) = send(&app, "/api/shelf/imports?how=replace", text).await;
    assert_eq!(status, StatusCode::CONFLICT, "what is removed is put back first");
}

#[tokio::test]
async fn a_file_with_ids_of_another_house_is_given_its_own() {
    let app = demo_app().await;
    let mut site = demo::marram_point();
    site.house.id = uuid::Uuid::from_u128(9).into();
    site.house.name = "Ness End".to_owned();
    let (status, made) = send(&app, "/api/shelf/imports?how=new", file::write(&site)).await;
    assert_eq!(status, StatusCode::OK);
    assert!(made["said"].as_str().unwrap().contains("ids of its own"), "{made}");
    assert_eq!(names(&app).await, ["Marram Point", "Ness End"]);
}

fn half() -> Vec<u8> {
    let text = file::write(&demo::marram_point());
    text.as_bytes()[..text.len() / 2].to_vec()
}

#[rstest]
#[case::newer(file::write(&demo::marram_point()).replacen("\"version\": 5", "\"version\": 9", 1).into_bytes(), "this program reads up to version 5")]
#[case::half(half(), "ends too soon")]
#[case::zip(b"PK\x03\x04zip".to_vec(), "ZIP")]
#[case::picture(b"\x89PNG\r\n".to_vec(), "a picture, whatever its name says")]
#[case::empty(vec![], "The file is empty")]
#[case::bytes(vec![0xfe, 0xff, 0, 1, 2], "no text")]
#[case::other(b"{}".to_vec(), "no site file")]
#[tokio::test]
async fn a_bad_site_file_gets_a_sentence_and_changes_nothing(#[case] content: Vec<u8>, #[case] expected: &str) {
    let app = demo_app().await;
    for path in ["/api/shelf/imports/preview", "/api/shelf/imports?how=replace"] {
        let (status, said) = send(&app, path, content.clone()).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{said}");
        let detail = said["detail"].as_str().unwrap();
        assert!(detail.to_lowercase().contains(&expected.to_lowercase()), "{detail}");
    }
    let (_, log) = call(&app, "GET", &house("/log"), Value::Null).await;
    assert_eq!(log, json!([]));
}

#[tokio::test]
async fn a_file_of_300_mb_is_refused_before_it_is_read() {
    let app = empty_app().await;
    let mut asked = request("POST", "/api/shelf/imports/preview", Body::empty());
    asked.headers_mut().insert("content-length", "300000000".parse().unwrap());
    let response = app.oneshot(asked).await.unwrap();
    assert_eq!(response.status(), StatusCode::PAYLOAD_TOO_LARGE);
    let body = axum::body::to_bytes(response.into_body(), 10_000).await.unwrap();
    assert!(String::from_utf8_lossy(&body).contains("larger than 200 MB"));
}

#[tokio::test]
async fn a_backup_is_taken_to_a_second_installation_where_everything_is_as_it_was() {
    let app = demo_app().await;
    let asked = json!({"name": "Teal House", "rooms": [{"name": "Den", "start": "bedroom"}]});
    call(&app, "POST", "/api/houses", asked).await;
    call(&app, "POST", &house("/rooms"), json!({"name": "Snug", "start": "empty"})).await;
    let (status, backup) = bytes(&app, "/api/backup?secrets=true").await;
    assert_eq!(status, StatusCode::OK);
    let second = empty_app().await;
    let (status, preview) = send(&second, "/api/restore/preview", backup.clone()).await;
    assert_eq!(status, StatusCode::OK, "{preview}");
    assert_eq!((preview["manifest"]["houses"].as_array().unwrap().len(), &preview["replaces"]), (2, &json!([])));
    assert!(names(&second).await.is_empty(), "a look changes nothing");
    let (status, said) = send(&second, "/api/restore", backup.clone()).await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert_eq!(names(&second).await, ["Marram Point", "Teal House"]);
    for path in ["/site?secrets=true", "/log"] {
        assert_eq!(bytes(&second, &house(path)).await, bytes(&app, &house(path)).await, "{path}");
    }
    // Into a used installation: the house is as it was in the backup again.
    call(&app, "POST", &house("/undo"), Value::Null).await;
    let (_, preview) = send(&app, "/api/restore/preview", backup.clone()).await;
    assert_eq!(preview["replaces"].as_array().unwrap().len(), 2);
    send(&app, "/api/restore", backup).await;
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    assert!(view["rooms"].as_array().unwrap().iter().any(|room| room["name"] == "Snug"));
}

#[tokio::test]
async fn a_bad_backup_gets_a_sentence_and_touches_nothing() {
    let app = demo_app().await;
    let (_, good) = bytes(&app, "/api/backup").await;
    let changed = |from: &str, to: &str| {
        let text = String::from_utf8(good.clone()).unwrap().replacen(from, to, 1);
        assert_eq!(text.len(), good.len(), "the same length, so that it is still an archive");
        text.into_bytes()
    };
    let cases: [(Vec<u8>, &str); 6] = [
        (good[..good.len() / 2].to_vec(), "ends too soon"),
        (b"PK\x03\x04".to_vec(), "a ZIP"),
        (b"hello".to_vec(), "no tar archive"),
        (changed("\"version\": 1,", "\"version\": 7,"), "reads up to version 1"),
        (changed("Lifeboat station", "Lifeboat stazion"), "damaged"),
        (changed("kestrel-dune-backup", "kestrel-tune-backup"), "no backup"),
    ];
    for (content, expected) in cases {
        for path in ["/api/restore/preview", "/api/restore"] {
            let (status, said) = send(&app, path, content.clone()).await;
            assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{expected}: {said}");
            assert!(said["detail"].as_str().unwrap().contains(expected), "{expected}: {said}");
        }
    }
    assert_eq!(names(&app).await, ["Marram Point"]);
}

#[tokio::test]
async fn a_daily_backup_is_made_at_once_for_its_owner_alone_and_old_ones_are_let_go() {
    use std::os::unix::fs::PermissionsExt;
    let app = demo_app().await;
    let folder = std::env::temp_dir().join(format!("kestrel-daily-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let old = folder.join("daily-20200101T000000Z.kdune-backup.tar");
    std::fs::write(&old, "old").unwrap();
    let other = folder.join("holiday.jpg");
    std::fs::write(&other, "mine").unwrap();
    let asked = json!({"folder": folder, "keep": 1, "secrets": false});
    let (status, last) = call(&app, "PUT", "/api/shelf/daily-backup", asked).await;
    assert_eq!(status, StatusCode::OK, "{last}");
    assert!(last["made_at"].is_string() && last["trouble"].is_null(), "{last}");
    let made: Vec<_> = std::fs::read_dir(&folder).unwrap().flatten().map(|entry| entry.path()).collect();
    assert!(made.contains(&other) && !made.contains(&old) && made.len() == 2, "{made:?}");
    let own = made.iter().find(|path| **path != other).unwrap();
    assert_eq!(std::fs::metadata(own).unwrap().permissions().mode() & 0o777, 0o600);
    let (_, shelf) = call(&app, "GET", "/api/shelf", Value::Null).await;
    assert_eq!((&shelf["daily"]["keep"], &shelf["last"]["made_at"]), (&json!(1), &last["made_at"]));
    std::fs::remove_dir_all(&folder).unwrap();
    let nowhere = json!({"folder": "/nowhere/at/all", "keep": 1, "secrets": false});
    let (status, said) = call(&app, "PUT", "/api/shelf/daily-backup", nowhere).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(said["detail"].as_str().unwrap().contains("name a folder that is there"), "{said}");
}
