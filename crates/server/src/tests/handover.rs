//! The visit over HTTP: readings, tests, papers, handovers, the logbook, calls, and signing in.

use super::{body, call, demo_app, house, request, shown};
use crate::houses::Houses;
use crate::password;
use crate::serve::for_network;
use axum::Router;
use axum::body::Body;
use axum::http::{StatusCode, header};
use kestrel_core::demo::{self, ids};
use kestrel_store::testing;
use rstest::rstest;
use serde_json::{Value, json};
use tower::ServiceExt;
use uuid::Uuid;

fn hall(path: &str) -> String {
    house(&format!("/rooms/{}{path}", ids::boat_hall()))
}

fn cabin(path: &str) -> String {
    house(&format!("/rooms/{}{path}", ids::tidy_cabin()))
}

fn reading(ms: u32, seen: &str) -> Value {
    let value = json!({
        "id": Uuid::now_v7(), "device": ids::projector(), "timing": "warm-up", "ms": ms, "seen": seen,
        "at": "2027-05-03T10:00:00Z", "who": "R. Ferrow"
    });
    json!({"do": "put", "entity": {"entity": "measurement", "value": value}, "base": null})
}

async fn read(app: &Router, times: &[u32], seen: &str) {
    let edits: Vec<Value> = times.iter().map(|&ms| reading(ms, seen)).collect();
    let (status, saved) = call(app, "POST", &house("/edits"), json!({"edits": edits})).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
}

fn warm_up() -> Value {
    json!({"device": ids::projector(), "timing": "warm-up"})
}

const NINE: [u32; 9] = [24_200, 25_000, 25_400, 26_000, 26_100, 26_600, 27_900, 28_400, 28_900];

#[tokio::test]
async fn readings_are_taken_over_once_they_were_taken_in_the_house_and_one_undo_takes_that_back() {
    let app = demo_app().await;
    let line = async || {
        let (_, view) = call(&app, "GET", &hall("/stopwatch"), Value::Null).await;
        let lines = view["lines"].as_array().unwrap().clone();
        let own =
            |one: &&Value| one["known"]["device"] == json!(ids::projector()) && one["known"]["timing"] == "warm-up";
        lines.iter().find(own).unwrap().clone()
    };
    read(&app, &NINE, "rehearsed").await;
    assert_eq!((&line().await["known"]["n"], &line().await["rehearsed"]["percent"]), (&json!(0), &json!(90)));
    let (status, refused) = call(&app, "POST", &hall("/stopwatch/take"), warm_up()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{refused}");
    let mut would = warm_up();
    would["rehearsed"] = json!(true);
    let (status, effect) = call(&app, "POST", &hall("/stopwatch/effect"), would).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(effect["span"]["hi_ms"], 28_900);
    read(&app, &NINE, "house").await;
    let (status, _) = call(&app, "POST", &hall("/stopwatch/take"), warm_up()).await;
    assert_eq!(status, StatusCode::OK);
    let taken = line().await;
    assert_eq!(taken["known"]["in_use"]["basis"], json!({"from": "measured", "n": 9}));
    assert_eq!(taken["known"]["in_use_percent"], 90);
    call(&app, "POST", &house("/undo"), Value::Null).await;
    assert_eq!(line().await["known"]["in_use"]["basis"], json!({"from": "profile"}));
}

#[tokio::test]
async fn a_lap_of_the_house_counts_as_hot_until_the_lamp_has_cooled() {
    let app = demo_app().await;
    let lap = async |seen: &str, ms: u32| {
        let mut lap = warm_up();
        lap["ms"] = json!(ms);
        lap["seen"] = json!(seen);
        call(&app, "POST", &hall("/stopwatch/lap"), lap).await
    };
    for seen in ["rehearsed", "house", "house"] {
        assert_eq!(lap(seen, 25_000).await.0, StatusCode::OK);
    }
    let all = shown(&app).await["measurements"].as_array().unwrap().clone();
    let hot = all.iter().filter(|own| own["hot"] == true && own["device"] == json!(ids::projector()));
    assert_eq!(hot.count(), 1, "the second start of the house");
    let (status, refused) = lap("house", 700_000).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused["detail"].as_str().unwrap().contains("10 minutes"), "{refused}");
    let (_, view) = call(&app, "GET", &hall("/stopwatch"), Value::Null).await;
    let own = |one: &&Value| one["known"]["device"] == json!(ids::projector()) && one["known"]["timing"] == "warm-up";
    let line = view["lines"].as_array().unwrap().iter().find(own).unwrap();
    assert!(line["hot_until"].is_string() && line["rests_until"].is_null(), "{line}");
    let strikes = all.iter().filter(|own| {
        let start = ["warm-up", "picture"].contains(&own["timing"].as_str().unwrap());
        own["device"] == json!(ids::projector()) && own["seen"] == "house" && start
    });
    assert_eq!(line["strikes"], json!(strikes.count()));
}

#[tokio::test]
async fn the_rehearsal_room_begins_a_lap_from_where_it_begins_in_the_house() {
    let app = demo_app().await;
    let (status, view) = call(&app, "POST", &hall("/stopwatch/begin"), warm_up()).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    let own = view["devices"].as_array().unwrap().iter().find(|one| one["device"] == json!(ids::projector()));
    assert_eq!(own.unwrap()["power"], "starting");
    let none = json!({"device": ids::receiver(), "timing": "travel-up"});
    let (status, refused) = call(&app, "POST", &hall("/stopwatch/begin"), none).await;
    assert!(status.is_client_error(), "{status}");
    assert!(refused["detail"].as_str().unwrap().contains("Time it in the house"), "{refused}");
}

#[tokio::test]
async fn the_longest_pause_between_digits_is_looked_for_by_numbers() {
    let app = demo_app().await;
    let site = demo::marram_point();
    let tuner = site.devices.iter().find(|device| device.name == "Tuner").unwrap();
    let room = |path: &str| house(&format!("/rooms/{}{path}", tuner.room));
    let tried = |counted: u32| json!([{"pause_ms": 500, "sent": 3, "counted": counted}]);
    let (status, view) =
        call(&app, "POST", &room("/gap"), json!({"device": tuner.id, "tried": tried(3), "longest": true})).await;
    assert_eq!((status, &view["next"]["pause_ms"]), (StatusCode::OK, &json!(1_000)), "{view}");
    let (_, view) =
        call(&app, "POST", &room("/gap"), json!({"device": tuner.id, "tried": tried(1), "longest": true})).await;
    assert_eq!(view["next"]["next"], "path-loses");
    let found: Vec<Value> = [500, 1_000, 2_000, 4_000, 2_828, 2_828, 2_828]
        .map(|pause: u32| json!({"pause_ms": pause, "sent": 3, "counted": if pause > 3_000 { 0 } else { 3 }}))
        .to_vec();
    let take =
        |timing: &str| json!({"device": tuner.id, "timing": timing, "tried": found, "seen": "house", "longest": true});
    let (status, refused) = call(&app, "POST", &room("/gap/take"), take("gap")).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{refused}");
    let (status, saved) = call(&app, "POST", &room("/gap/take"), take("digits")).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let devices = shown(&app).await["devices"].as_array().unwrap().clone();
    let own = devices.iter().find(|own| own["id"] == json!(tuner.id)).unwrap()["overrides"].to_string();
    assert!(own.contains("2260"), "{own}");
    let (status, refused) =
        call(&app, "POST", &room("/gap/numbers"), json!({"device": tuner.id, "pause_ms": 9, "numbers": 3})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{refused}");
}

#[rstest]
#[case(json!([{"pause_ms": 1000, "sent": 10, "counted": 10}]), "send")]
#[case(json!([{"pause_ms": 1000, "sent": 10, "counted": 8}]), "path-loses")]
#[tokio::test]
async fn the_gap_finder_says_what_comes_next(#[case] tried: Value, #[case] next: &str) {
    let app = demo_app().await;
    let (status, view) = call(&app, "POST", &hall("/gap"), json!({"device": ids::receiver(), "tried": tried})).await;
    assert_eq!((status, view["next"]["next"].as_str()), (StatusCode::OK, Some(next)), "{view}");
}

#[tokio::test]
async fn louder_power_and_motors_are_never_sent_in_bursts() {
    let app = demo_app().await;
    let site = demo::marram_point();
    let up = site.profile_of(ids::receiver()).unwrap().volume.unwrap().up;
    let motion = site.profile_of(ids::screen()).unwrap().motion.unwrap().down;
    for (device, function) in [(ids::receiver(), up), (ids::screen(), motion)] {
        let burst = json!({"device": device, "function": function, "pause_ms": 500, "presses": 6});
        let (status, refused) = call(&app, "POST", &hall("/gap/burst"), burst).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(refused["detail"].as_str().unwrap().contains("never sent in bursts"), "{refused}");
    }
}

fn off_to_games() -> Value {
    let games = demo::marram_point();
    let games = games.activities.iter().find(|own| own.name == "Games" && own.room == ids::boat_hall()).unwrap().id;
    json!({"test": "switch", "room": ids::boat_hall(), "from": {"is": "off"}, "to": {"is": "in", "activity": games}})
}

#[tokio::test]
async fn a_result_is_written_down_once_and_somebody_elses_is_not_overwritten_unseen() {
    let app = demo_app().await;
    let passed = json!({"of": off_to_games(), "outcome": "passed", "known": null});
    let (status, saved) = call(&app, "POST", &hall("/tests/result"), passed.clone()).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let failed = json!({"of": off_to_games(), "outcome": "failed", "note": "no picture", "known": null});
    let (status, refused) = call(&app, "POST", &hall("/tests/result"), failed).await;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(refused["detail"].as_str().unwrap().contains("meanwhile: passed"), "{refused}");
    // A failure without a word of what was seen says nothing.
    let at =
        shown(&app).await["results"].as_array().unwrap().iter().find(|own| own["of"] == off_to_games()).unwrap()["at"]
            .clone();
    let bare = json!({"of": off_to_games(), "outcome": "failed", "known": at});
    let (status, _) = call(&app, "POST", &hall("/tests/result"), bare).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let gone = json!({"of": {"test": "stop", "device": Uuid::from_u128(4)}, "outcome": "passed"});
    let (status, refused) = call(&app, "POST", &hall("/tests/result"), gone).await;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(refused["detail"].as_str().unwrap().contains("not on the list any more"), "{refused}");
}

#[tokio::test]
async fn the_rehearsal_room_does_a_switch_by_itself_and_says_rehearsed() {
    let app = demo_app().await;
    let (status, saved) = call(&app, "POST", &hall("/tests/rehearse"), json!({"of": off_to_games()})).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let (_, view) = call(&app, "GET", &hall("/tests"), Value::Null).await;
    let line = view["lines"].as_array().unwrap().iter().find(|own| own["of"] == off_to_games()).unwrap().clone();
    assert_eq!(
        (line["state"].as_str(), line["result"]["seen"].as_str()),
        (Some("rehearsed"), Some("rehearsed")),
        "{line}"
    );
    let words = view["round"]["words"].as_str().unwrap();
    assert!(words.contains("no shorter round exists"), "{words}");
}

#[tokio::test]
async fn a_handover_is_kept_as_it_was_and_today_is_compared_with_it() {
    let app = demo_app().await;
    let rooms = json!({"note": "Cabin", "rooms": [ids::tidy_cabin()]});
    let (status, made) = call(&app, "POST", &house("/handovers"), rooms).await;
    assert_eq!((status, made["number"].as_i64()), (StatusCode::OK, Some(1)), "{made}");
    let paper = house("/papers/record?handover=1");
    let (_, before) = call(&app, "GET", &paper, Value::Null).await;
    assert!(before.as_str().unwrap().contains("handover 1"));
    let mut device = shown(&app).await["devices"]
        .as_array()
        .unwrap()
        .iter()
        .find(|own| own["name"] == "Tidy display")
        .unwrap()
        .clone();
    device["name"] = json!("Cabin screen");
    let edit = json!({"edits": [{"do": "put", "entity": {"entity": "device", "value": device}, "base": 0}]});
    let (status, saved) = call(&app, "POST", &house("/edits"), edit).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    assert_eq!(call(&app, "GET", &paper, Value::Null).await.1, before, "what was handed over never changes");
    let (_, found) = call(&app, "GET", &house("/compare?from=1"), Value::Null).await;
    let texts: Vec<&str> = found.as_array().unwrap().iter().filter_map(|own| own["text"].as_str()).collect();
    assert!(texts.iter().any(|text| text.contains("“Tidy display” → “Cabin screen”")), "{texts:?}");
    let (_, notes) = call(&app, "GET", &cabin("/notes"), Value::Null).await;
    let since = |own: &&Value| own["title"] == "Changed since";
    assert!(
        notes["findings"].as_array().unwrap().iter().find(since).is_some(),
        "the room that was handed over says so"
    );
    let (_, notes) = call(&app, "GET", &hall("/notes"), Value::Null).await;
    assert!(notes["findings"].as_array().unwrap().iter().find(since).is_none(), "and another one does not");
    let (status, _) = call(&app, "GET", &house("/papers/poster"), Value::Null).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn the_house_is_put_back_as_it_was_and_keeps_what_was_seen() {
    let app = demo_app().await;
    let note = async |text: &str| {
        let mut own = shown(&app).await["house"].clone();
        let base = shown(&app).await["versions"][own["id"].as_str().unwrap()].clone();
        own["note"] = json!(text);
        let edit = json!({"edits": [{"do": "put", "entity": {"entity": "house", "value": own}, "base": base}]});
        assert_eq!(call(&app, "POST", &house("/edits"), edit).await.0, StatusCode::OK);
    };
    note("first").await;
    note("second").await;
    read(&app, &[25_000], "house").await;
    let (_, lines) = call(&app, "GET", &house("/logbook?kind=measurement"), Value::Null).await;
    assert_eq!(lines.as_array().unwrap().len(), 1);
    let (_, since) = call(&app, "GET", &house("/as-it-was/1"), Value::Null).await;
    assert!(since[0]["text"].as_str().unwrap().contains("“first” → “second”"), "{since}");
    let readings = shown(&app).await["measurements"].as_array().unwrap().len();
    let (status, saved) = call(&app, "POST", &house("/as-it-was"), json!({"revision": 1})).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let after = shown(&app).await;
    assert_eq!(after["house"]["note"], "first");
    assert_eq!(after["measurements"].as_array().unwrap().len(), readings, "evidence is never taken back");
    let (status, _) = call(&app, "POST", &house("/as-it-was"), json!({"revision": 99})).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (status, again) = call(&app, "POST", &house("/as-it-was"), json!({"revision": 1})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{again}");
    note("third").await;
    // One thing alone: the sentence says which.
    let (_, since) = call(&app, "GET", &house("/as-it-was/1"), Value::Null).await;
    let own = since.as_array().unwrap().iter().find(|own| own["kind"] == "house").unwrap();
    let only = json!({"revision": 1, "only": {"kind": own["kind"], "id": own["id"]}});
    assert_eq!(call(&app, "POST", &house("/as-it-was"), only).await.0, StatusCode::OK);
    assert_eq!(shown(&app).await["house"]["note"], "first");
    let other = json!({"revision": 1, "only": {"kind": "device", "id": Uuid::from_u128(3)}});
    assert_eq!(call(&app, "POST", &house("/as-it-was"), other).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let file = app.clone().oneshot(request("GET", &house("/logbook/csv"), Body::empty())).await.unwrap();
    assert!(body(file).await.as_str().unwrap().starts_with("at,kind,who"));
}

#[tokio::test]
async fn a_call_is_weighed_written_down_and_weighs_next_time() {
    let app = demo_app().await;
    let says = json!({"picture": true, "sound": false, "before": "power-cut", "answers": {}});
    let (status, view) = call(&app, "POST", &hall("/service"), says.clone()).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    let mute = format!("mute {}", ids::receiver());
    let share = |view: &Value| {
        let causes = view["causes"].as_array().unwrap();
        causes.iter().find(|own| own["id"] == json!(mute)).map_or(0.0, |own| own["percent"].as_f64().unwrap())
    };
    let outcome = json!({"said": "no sound", "outcome": "It was muted.", "cause": mute, "minutes": 12});
    for _ in 0..3 {
        let (status, _) = call(&app, "POST", &hall("/service/outcome"), outcome.clone()).await;
        assert_eq!(status, StatusCode::OK);
    }
    let (_, again) = call(&app, "POST", &hall("/service"), says).await;
    assert!(share(&again) > share(&view), "{} {}", share(&again), share(&view));
    let (_, lines) = call(&app, "GET", &house("/logbook?kind=call"), Value::Null).await;
    assert_eq!((lines.as_array().unwrap().len(), lines[0]["minutes"].as_i64()), (3, Some(12)));
}

#[tokio::test]
async fn a_cause_that_was_found_is_a_story_of_the_room_from_then_on() {
    let app = demo_app().await;
    let film = json!({"is": "in", "activity": ids::feature_film()});
    let says = json!({"picture": false, "before": "power-cut", "to": film, "answers": {}});
    let cause = format!("mains-left-off {}", ids::receiver());
    let told = |cause: &str| json!({"said": "no picture", "outcome": "It stayed off.", "cause": cause, "says": says, "story": true});
    let (status, written) = call(&app, "POST", &hall("/service/outcome"), told(&cause)).await;
    assert_eq!(status, StatusCode::OK, "{written}");
    let name = written["story"].as_str().unwrap();
    assert!(name.contains("after a power cut"), "{name}");
    let (_, again) = call(&app, "POST", &hall("/service/outcome"), told(&cause)).await;
    assert_eq!(again["story"], json!(format!("{name} (2)")), "a name of its own");
    let stories = async || {
        let rooms = shown(&app).await["rooms"].as_array().unwrap().clone();
        let own = rooms.iter().find(|room| room["id"] == json!(ids::boat_hall())).unwrap().clone();
        own["rehearsal"]["stories"].as_array().unwrap().clone()
    };
    let kept = stories().await.into_iter().find(|one| one["name"] == json!(name)).unwrap();
    assert_eq!(kept["taken_for"], film);
    let requests =
        |one: &Value| one["events"].as_array().unwrap().iter().filter(|event| event["is"] == "request").count();
    assert_eq!((requests(&kept), kept["events"].as_array().unwrap().len()), (1, 3), "{kept}");
    let many = stories().await.len();
    let (status, written) =
        call(&app, "POST", &hall("/service/outcome"), told(&format!("unplugged {}", ids::receiver()))).await;
    assert_eq!((status, &written["story"]), (StatusCode::OK, &Value::Null), "nobody but a hand mends that");
    assert_eq!(stories().await.len(), many);
}

#[tokio::test]
async fn the_shelf_says_when_somebody_was_there_last() {
    let app = demo_app().await;
    let last = async || {
        let (_, shelf) = call(&app, "GET", "/api/shelf", Value::Null).await;
        shelf["houses"][0]["last_visit"].clone()
    };
    assert_eq!(last().await, Value::Null);
    for kind in ["note", "visit"] {
        let line = json!({"kind": kind, "room": ids::boat_hall(), "text": "Screen levelled.", "minutes": 90});
        assert_eq!(call(&app, "POST", &house("/logbook"), line).await.0, StatusCode::OK);
        assert_eq!(last().await.is_string(), kind == "visit");
    }
}

async fn network() -> Router {
    let (store, _) = testing::fresh().await;
    store.add_house(&demo::marram_point()).await.unwrap();
    password::set(&store, &password::hashed("a sentence of the tide").unwrap()).await.unwrap();
    for_network(Houses::new(store, None))
}

#[tokio::test]
async fn nothing_of_a_house_is_reached_over_the_network_without_a_session() {
    let app = network().await;
    for (method, path) in [
        ("GET", "/api/houses"),
        ("GET", "/api/openapi.json"),
        ("GET", "/api/session"),
        ("POST", "/api/backup"),
        ("DELETE", "/api/session"),
    ] {
        let (status, answer) = call(&app, method, path, Value::Null).await;
        assert_eq!(status, StatusCode::UNAUTHORIZED, "{method} {path}: {answer}");
    }
    assert_eq!(call(&app, "GET", "/healthz", Value::Null).await.0, StatusCode::OK);
    let (status, _) = call(&app, "POST", "/api/session", json!({"password": "a sentence of the tidf"})).await;
    assert_eq!(status, StatusCode::UNAUTHORIZED);
    let signed = app
        .clone()
        .oneshot(request("POST", "/api/session", json!({"password": "a sentence of the tide"}).to_string()))
        .await
        .unwrap();
    assert_eq!(signed.status(), StatusCode::NO_CONTENT);
    let cookie = signed.headers()[header::SET_COOKIE].to_str().unwrap().to_owned();
    assert!(cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"), "{cookie}");
    let secret = cookie.split(';').next().unwrap().to_owned();
    let with = async |method: &str, path: &str, origin: Option<&str>| {
        let mut own = request(method, path, Body::empty());
        own.headers_mut().insert(header::COOKIE, secret.parse().unwrap());
        if let Some(origin) = origin {
            own.headers_mut().insert(header::ORIGIN, origin.parse().unwrap());
        }
        let answer = app.clone().oneshot(own).await.unwrap();
        (answer.status(), body(answer).await)
    };
    assert_eq!(with("GET", "/api/houses", None).await.0, StatusCode::OK);
    let (_, view) = with("GET", "/api/session", None).await;
    assert_eq!((view["signed_in"].as_bool(), view["sessions"].as_array().unwrap().len()), (Some(true), 1));
    assert_eq!(with("POST", &house("/undo"), Some("http://elsewhere.invalid")).await.0, StatusCode::FORBIDDEN);
    assert_eq!(with("DELETE", "/api/session", None).await.0, StatusCode::NO_CONTENT);
    assert_eq!(with("GET", "/api/houses", None).await.0, StatusCode::UNAUTHORIZED, "signed out");
}

#[tokio::test]
async fn thousands_of_wrong_passwords_are_sent_away() {
    let app = network().await;
    let tries = (0..40).map(|_| call(&app, "POST", "/api/session", json!({"password": "not this one"})));
    let answers = futures::future::join_all(tries).await;
    let away = answers.iter().filter(|(status, _)| *status == StatusCode::TOO_MANY_REQUESTS).count();
    assert!(away >= 20, "{away}");
}
