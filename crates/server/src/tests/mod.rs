//! The HTTP interface on a real database, and the command line's own rules.

mod changes;
mod codes;
mod evenings;
mod handover;
mod kit;
mod long;
mod proofs;
mod protocols;
mod replacing;
mod rooms;
mod shelf;
mod space;
mod surfaces;

use crate::guard::Allowed;
use crate::houses::Houses;
use crate::serve::app;
use axum::Router;
use axum::body::Body;
use axum::http::{Request, Response, StatusCode, header};
use futures::StreamExt;
use kestrel_core::demo::{self, ids};
use kestrel_store::testing;
use rstest::rstest;
use serde_json::{Value, json};
use tower::ServiceExt;

async fn demo_app() -> Router {
    let (store, _) = testing::fresh().await;
    store.add_house(&demo::marram_point()).await.unwrap();
    app(Houses::new(store, None), Allowed::new(7310, None))
}

fn request(method: &str, path: &str, body: impl Into<Body>) -> Request<Body> {
    Request::builder()
        .method(method)
        .uri(path)
        .header(header::HOST, "127.0.0.1:7310")
        .header(header::CONTENT_TYPE, "application/json")
        .body(body.into())
        .unwrap()
}

async fn body(response: Response<Body>) -> Value {
    let bytes = axum::body::to_bytes(response.into_body(), 10_000_000).await.unwrap();
    serde_json::from_slice(&bytes).unwrap_or_else(|_| json!(String::from_utf8_lossy(&bytes)))
}

async fn call(app: &Router, method: &str, path: &str, json: Value) -> (StatusCode, Value) {
    let sent = if json.is_null() { Body::empty() } else { Body::from(json.to_string()) };
    let response = app.clone().oneshot(request(method, path, sent)).await.unwrap();
    (response.status(), body(response).await)
}

/// How long something may take to come about, before a test gives it up.
const PATIENCE: std::time::Duration = std::time::Duration::from_secs(60);

/// Listens to a stream of events until one is as it should be, and gives that back.
async fn told(app: &Router, path: &str, mut done: impl FnMut(&Value) -> bool) -> Value {
    let response = app.clone().oneshot(request("GET", path, Body::empty())).await.unwrap();
    assert_eq!(response.status(), StatusCode::OK);
    let mut stream = response.into_body().into_data_stream();
    let listening = async {
        let mut text = String::new();
        loop {
            let piece = stream.next().await.expect("the stream has ended").unwrap();
            text.push_str(std::str::from_utf8(&piece).unwrap());
            while let Some((event, rest)) = text.split_once("\n\n") {
                let data = event.lines().find_map(|line| line.strip_prefix("data: "));
                if let Some(view) = data.map(|data| serde_json::from_str(data).unwrap()).filter(|view| done(view)) {
                    return view;
                }
                text = rest.to_owned();
            }
        }
    };
    tokio::time::timeout(PATIENCE, listening).await.expect("it did not come to that")
}

/// Asks again and again until the answer is as it should be.
async fn asked(app: &Router, path: &str, done: impl Fn(&Value) -> bool) -> Value {
    let asking = async {
        loop {
            let (_, view) = call(app, "GET", path, Value::Null).await;
            if done(&view) {
                return view;
            }
            tokio::task::yield_now().await;
        }
    };
    tokio::time::timeout(PATIENCE, asking).await.expect("it did not come to that")
}

fn house(rest: &str) -> String {
    format!("/api/houses/{}{rest}", ids::house())
}

fn hall(rest: &str) -> String {
    house(&format!("/rooms/{}{rest}", ids::boat_hall()))
}

/// The house as it stands.
async fn shown(app: &Router) -> Value {
    call(app, "GET", &house(""), Value::Null).await.1
}

async fn renamed(app: &Router, name: &str, base: i64) -> (StatusCode, Value) {
    let (_, view) = call(app, "GET", &house(""), Value::Null).await;
    let mut device = view["devices"].as_array().unwrap()[0].clone();
    device["name"] = json!(name);
    let edit = json!({"edits": [{"do": "put", "entity": {"entity": "device", "value": device}, "base": base}]});
    call(app, "POST", &house("/edits"), edit).await
}

#[tokio::test]
async fn the_demo_house_is_listed_and_shown() {
    let app = demo_app().await;
    let (status, list) = call(&app, "GET", "/api/houses", Value::Null).await;
    assert_eq!((status, list[0]["name"].as_str()), (StatusCode::OK, Some("Marram Point")));
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    assert_eq!(view["devices"].as_array().unwrap().len(), 44);
    assert_eq!(view["codes"].as_array().unwrap().len(), 174);
}

#[tokio::test]
async fn an_edit_is_undone_and_redone_over_http() {
    let app = demo_app().await;
    let (status, saved) = renamed(&app, "Little box", 0).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(saved["title"], "Little box: name “Streamer” → “Little box”");
    let (_, undone) = call(&app, "POST", &house("/undo"), Value::Null).await;
    assert_eq!(undone["changed"]["put"][0]["value"]["name"], "Streamer");
    let (_, redone) = call(&app, "POST", &house("/redo"), Value::Null).await;
    assert_eq!(redone["changed"]["put"][0]["value"]["name"], "Little box");
    let (status, problem) = call(&app, "POST", &house("/redo"), Value::Null).await;
    assert_eq!((status, problem["detail"].as_str()), (StatusCode::CONFLICT, Some("There is nothing to redo.")));
    let (_, log) = call(&app, "GET", &house("/log?limit=2"), Value::Null).await;
    assert_eq!(log[0]["title"], "Redone: Little box: name “Streamer” → “Little box”");
    assert_eq!(log.as_array().unwrap().len(), 2);
}

#[tokio::test]
async fn a_stale_edit_is_a_conflict_with_the_present_version() {
    let app = demo_app().await;
    renamed(&app, "Little box", 0).await;
    let (status, problem) = renamed(&app, "Other box", 0).await;
    assert_eq!(status, StatusCode::CONFLICT);
    assert_eq!((problem["kind"].as_str(), problem["version"].as_i64()), (Some("stale"), Some(1)));
}

#[rstest]
#[case::unknown_house("GET", "/api/houses/00000000-0000-0000-0000-000000000001", "", 404)]
#[case::no_uuid("GET", "/api/houses/marram", "", 400)]
#[case::no_such_address("GET", "/api/nothing", "", 404)]
#[case::wrong_method("DELETE", "/api/houses", "", 405)]
#[case::broken_json("POST", "/api/houses/HOUSE/edits", "{", 400)]
#[case::wrong_shape("POST", "/api/houses/HOUSE/edits", r#"{"edits":[{"do":"dance"}]}"#, 422)]
#[case::nul_in_name(
    "POST",
    "/api/houses/HOUSE/edits",
    r#"{"edits":[{"do":"put","entity":{"entity":"house","value":{"id":"HOUSE","name":"a\u0000b"}},"base":0}]}"#,
    422
)]
#[case::long_name(
    "POST",
    "/api/houses/HOUSE/edits",
    r#"{"edits":[{"do":"put","entity":{"entity":"house","value":{"id":"HOUSE","name":"LONG"}},"base":0}]}"#,
    422
)]
#[case::bad_from("GET", "/api/houses/HOUSE/rooms/ROOM/plan?from=here&to=off", "", 400)]
#[case::to_unknown("GET", "/api/houses/HOUSE/rooms/ROOM/plan?from=off&to=unknown", "", 400)]
#[case::no_query("GET", "/api/houses/HOUSE/rooms/ROOM/plan", "", 400)]
#[case::unknown_room("GET", "/api/houses/HOUSE/rooms/HOUSE/notes", "", 404)]
#[case::unknown_code("GET", "/api/houses/HOUSE/codes/HOUSE", "", 404)]
#[case::bad_rate("POST", "/api/houses/HOUSE/rooms/ROOM/rehearsal/rate", r#"{"rate":1000}"#, 422)]
#[case::unknown_device(
    "POST",
    "/api/houses/HOUSE/rooms/ROOM/rehearsal/send",
    r#"{"device":"HOUSE","function":"HOUSE"}"#,
    404
)]
#[case::run_to_unknown("POST", "/api/houses/HOUSE/rooms/ROOM/rehearsal/run", r#"{"to":{"is":"unknown"}}"#, 422)]
#[case::hand_nowhere(
    "POST",
    "/api/houses/HOUSE/rooms/ROOM/rehearsal/hand",
    r#"{"does":"power","device":"HOUSE"}"#,
    404
)]
#[case::strange_hand("POST", "/api/houses/HOUSE/rooms/ROOM/rehearsal/hand", r#"{"does":"dance"}"#, 422)]
#[case::lost_too_often(
    "POST",
    "/api/houses/HOUSE/rooms/ROOM/rehearsal/fault",
    r#"{"device":"HOUSE","faults":{"lost_percent":101}}"#,
    422
)]
#[case::nothing_recorded("POST", "/api/houses/HOUSE/rooms/ROOM/rehearsal/keep", r#"{"name":"Evening"}"#, 422)]
#[case::nothing_adopted("POST", "/api/houses/HOUSE/rooms/ROOM/rehearsal/complete", "", 422)]
#[case::no_steps("POST", "/api/houses/HOUSE/rooms/ROOM/rehearsal/nudge", r#"{"device":"HOUSE","steps":0}"#, 422)]
#[case::no_evenings(
    "POST",
    "/api/houses/HOUSE/rooms/ROOM/trials",
    r#"{"evenings":0,"seed":1,"hands":true,"faults":true}"#,
    422
)]
#[tokio::test]
async fn bad_requests_are_problems_and_never_a_500(
    #[case] method: &str,
    #[case] path: &str,
    #[case] sent: &str,
    #[case] status: u16,
) {
    let fill = |text: &str| {
        text.replace("HOUSE", &ids::house().to_string())
            .replace("ROOM", &ids::boat_hall().to_string())
            .replace("LONG", &"x".repeat(10_000))
    };
    let response = demo_app().await.oneshot(request(method, &fill(path), Body::from(fill(sent)))).await.unwrap();
    assert_eq!(response.status().as_u16(), status);
    assert_eq!(response.headers()[header::CONTENT_TYPE], "application/problem+json");
    let problem = body(response).await;
    assert!(problem["detail"].as_str().is_some_and(|detail| detail.len() > 10), "{problem}");
    assert_eq!(problem["status"], status);
}

#[rstest]
#[case::empty(b"".to_vec(), 422, "empty")]
#[case::binary(vec![0xff, 0xd8, 0x00], 422, "not text")]
#[case::milliseconds(b"+9.02 -4.5".to_vec(), 422, "multiply by 1000")]
#[case::huge(vec![b'1'; 1_000_001], 413, "at most 1 MB")]
#[case::larger_than_any_body(vec![b'1'; 9_500_000], 413, "larger than 9 MB")]
#[tokio::test]
async fn captures_that_are_none_get_a_sentence(#[case] bytes: Vec<u8>, #[case] status: u16, #[case] expected: &str) {
    let response = demo_app().await.oneshot(request("POST", "/api/readings", bytes)).await.unwrap();
    assert_eq!(response.status().as_u16(), status);
    let problem = body(response).await;
    assert!(problem["detail"].as_str().unwrap().contains(expected), "{problem}");
}

#[tokio::test]
async fn a_pasted_capture_is_read() {
    let text = kestrel_signal::text::to_signed(&demo::missing_code().unwrap().press_us());
    let response = demo_app().await.oneshot(request("POST", "/api/readings", text)).await.unwrap();
    let read = body(response).await;
    assert_eq!(read["reading"]["best"]["protocol"], "nec-ext");
    assert_eq!(read["reading"]["best"]["fields"], json!({"address": 31249, "command": 49}));
    assert_eq!(read["format"], "signed");
}

#[tokio::test]
async fn notes_and_a_plan_come_with_their_reasons() {
    let app = demo_app().await;
    let (_, notes) = call(&app, "GET", &hall("/notes"), Value::Null).await;
    assert_eq!(notes["codes"], json!({"done": 42, "total": 44}));
    let path = hall(&format!("/plan?from=off&to={}", ids::feature_film()));
    let (_, plan) = call(&app, "GET", &path, Value::Null).await;
    assert_eq!((plan["ready_ms"].as_u64(), plan["runnable"].as_bool()), (Some(39_340), Some(false)));
}

#[tokio::test]
async fn one_press_reaches_the_rehearsal_room_over_its_socket() {
    let app = demo_app().await;
    call(&app, "POST", &hall("/rehearsal/rate"), json!({"rate": 20.0})).await;
    let site = demo::marram_point();
    let on = site.profile_of(ids::projector()).unwrap().functions[0].id;
    let (status, sent) =
        call(&app, "POST", &hall("/rehearsal/send"), json!({"device": ids::projector(), "function": on})).await;
    assert_eq!(status, StatusCode::OK, "{sent}");
    assert_eq!(sent["heard"][0]["outcome"], json!({"did": "obeyed", "what": "starting up"}));
    let (_, view) = call(&app, "GET", &hall("/rehearsal"), Value::Null).await;
    let sent = view["wire"].as_array().unwrap().iter().find(|line| line["routine"] == false).unwrap();
    assert_eq!(sent["meaning"], "nec address=50 command=2");
    let (status, problem) =
        call(&app, "POST", &hall("/rehearsal/run"), json!({"to": {"is": "in", "activity": ids::feature_film()}})).await;
    assert_eq!((status, problem["kind"].as_str()), (StatusCode::UNPROCESSABLE_ENTITY, Some("not-runnable")));
}

#[tokio::test]
async fn other_hosts_and_other_pages_are_refused() {
    let app = demo_app().await;
    let foreign_host = Request::builder().uri("/api/houses").header(header::HOST, "evil.example").body(Body::empty());
    let response = app.clone().oneshot(foreign_host.unwrap()).await.unwrap();
    assert_eq!(response.status(), StatusCode::MISDIRECTED_REQUEST);
    let mut foreign_page = request("POST", &house("/undo"), "");
    foreign_page.headers_mut().insert(header::ORIGIN, "http://evil.example".parse().unwrap());
    assert_eq!(app.clone().oneshot(foreign_page).await.unwrap().status(), StatusCode::FORBIDDEN);
    let mut own_page = request("POST", &house("/undo"), "");
    own_page.headers_mut().insert(header::ORIGIN, "http://localhost:7310".parse().unwrap());
    assert_eq!(app.oneshot(own_page).await.unwrap().status(), StatusCode::CONFLICT, "nothing to undo");
}

#[tokio::test]
async fn every_answer_carries_the_security_headers_and_no_inline_script() {
    let response = demo_app().await.oneshot(request("GET", "/", "")).await.unwrap();
    let policy = response.headers()["content-security-policy"].to_str().unwrap().to_owned();
    assert!(policy.contains("script-src 'self';"), "{policy}");
    assert_eq!(response.headers()["x-content-type-options"], "nosniff");
}

#[tokio::test]
async fn a_lost_database_is_said_with_503() {
    let store = kestrel_store::Store::new("postgres://kestrel:x@127.0.0.1:9/none").unwrap();
    let app = app(Houses::new(store, None), Allowed::new(7310, None));
    for path in ["/healthz".to_owned(), "/api/houses".to_owned(), house("")] {
        let (status, problem) = call(&app, "GET", &path, Value::Null).await;
        assert_eq!((status, problem["kind"].as_str()), (StatusCode::SERVICE_UNAVAILABLE, Some("unreachable")));
    }
}

#[tokio::test]
async fn open_pages_are_told_of_an_edit() {
    use futures::StreamExt;
    let app = demo_app().await;
    let events = app.clone().oneshot(request("GET", &house("/events"), "")).await.unwrap();
    renamed(&app, "Little box", 0).await;
    let mut stream = events.into_body().into_data_stream();
    let first = String::from_utf8(stream.next().await.unwrap().unwrap().to_vec()).unwrap();
    assert!(first.starts_with("event: edited\n") && first.contains("\"revision\":1"), "{first}");
}
