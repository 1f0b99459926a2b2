//! Surfaces over HTTP: generated, compared, labelled, and opened by a link.

use super::{call, demo_app, hall, house, request, told};
use crate::houses::Houses;
use crate::serve::for_phones;
use axum::Router;
use axum::http::StatusCode;
use kestrel_core::demo::{self, ids};
use kestrel_store::testing;
use rstest::rstest;
use serde_json::{Value, json};
use tower::ServiceExt;

async fn link(app: &Router) -> String {
    let asked = json!({"surface": ids::hall_phone(), "label": "Kitchen phone"});
    let (status, link) = call(app, "POST", &hall("/surface-links"), asked).await;
    assert_eq!(status, StatusCode::OK, "{link}");
    link["token"].as_str().unwrap().to_owned()
}

fn key(view: &Value, label: &str) -> String {
    let pages = view["surface"]["pages"].as_array().unwrap();
    let keys = pages.iter().flat_map(|page| page["keys"].as_array().unwrap());
    let mut found = keys.filter(|key| key["label"] == label);
    found.next().unwrap_or_else(|| panic!("no “{label}”"))["id"].as_str().unwrap().to_owned()
}

#[tokio::test]
async fn a_surface_is_generated_compared_and_labelled() {
    let app = demo_app().await;
    let blank = json!({"id": "00000000-0000-4000-8000-000000000001", "name": "New", "kind": "phone",
        "width_mm": 64, "height_mm": 138, "columns": 4, "rows": 10});
    let watch = house(&format!("/rooms/{}/surfaces/generate", ids::watch_room()));
    let (status, made) = call(&app, "POST", &watch, blank).await;
    assert_eq!(status, StatusCode::OK);
    assert!(made["pages"].as_array().unwrap().iter().any(|page| page["name"] == "Television"), "{made}");
    let (_, sheet) = call(&app, "GET", &hall(&format!("/surfaces/{}", ids::hall_phone())), Value::Null).await;
    assert!(sheet["cover"].as_array().unwrap().iter().any(|known| known["cover"]["is"] == "bound"));
    assert_eq!(sheet["trying"]["offered"], json!(false));
    let labels = hall(&format!("/surfaces/{}/labels.svg?labels=stickers", ids::hall_phone()));
    let (status, none) = call(&app, "GET", &labels, Value::Null).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(none["detail"], "A phone has no labels to cut or stick on: its keys are drawn on glass.");
    let loft = house(&format!("/rooms/{}/surfaces/{}/labels.svg?labels=stickers", ids::chart_loft(), ids::loft_keys()));
    let (status, svg) = call(&app, "GET", &loft, Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    assert!(svg.as_str().unwrap().contains("<svg"), "{svg}");
    let no_page = format!("{loft}&page={}", ids::hall_phone());
    assert_eq!(call(&app, "GET", &no_page, Value::Null).await.0, StatusCode::NOT_FOUND);
    let (_, voice) = call(&app, "GET", &hall("/voice"), Value::Null).await;
    assert!(voice["phrases"].as_array().unwrap().iter().any(|phrase| phrase["say"] == "Start Feature film"));
}

#[tokio::test]
async fn what_a_key_does_in_an_activity_is_what_is_meant_for_it_before_what_is_meant_for_all() {
    let app = demo_app().await;
    let site = demo::marram_point();
    let all = site.rooms.iter().flat_map(|room| room.surfaces.iter().map(move |surface| (room.id, surface)));
    let keys =
        all.flat_map(|(room, own)| own.pages.iter().flat_map(|page| &page.keys).map(move |key| (room, own.id, key)));
    let mut own = keys.flat_map(|(room, own, key)| key.bindings.iter().map(move |binding| (room, own, key, binding)));
    let (room, surface, key, meant) = own.find(|(_, _, _, binding)| binding.in_activity.is_some()).unwrap();
    let activity = meant.in_activity.unwrap();
    let path = |end: &str| house(&format!("/rooms/{room}/surfaces/{surface}/keys{end}"));
    let says = |told: &Value| {
        let all = told.as_array().unwrap().iter();
        let mut found = all.filter(|one| one["key"] == json!(key.id) && one["gesture"] == json!(meant.gesture));
        found.next().map(|one| one["in_activity"].clone())
    };
    let (status, told) = call(&app, "GET", &path(&format!("?activity={activity}")), Value::Null).await;
    assert_eq!(status, StatusCode::OK, "{told}");
    assert_eq!(says(&told), Some(json!(activity)));
    let (_, told) = call(&app, "GET", &path(""), Value::Null).await;
    assert!(says(&told).is_none_or(|activity| activity.is_null()), "{told}");
    let (status, _) = call(&app, "GET", &path("?activity=film"), Value::Null).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
}

#[tokio::test]
async fn a_change_is_counted_in_the_trial_of_its_surface_alone() {
    let app = demo_app().await;
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let rooms = view["rooms"].as_array().unwrap();
    let room = rooms.iter().find(|room| room["id"] == json!(ids::boat_hall())).unwrap();
    let mut surface = room["surfaces"][0].clone();
    let key = surface["id"].as_str().unwrap().to_owned();
    assert!(view["versions"][&key].is_i64(), "{key}");
    surface["room"] = json!(ids::boat_hall());
    surface["trial"] = json!({"since": "2026-01-01T00:00:00Z", "quiet_days": 3});
    let put = |own: &Value, base: &Value| json!({"edits": [{"do": "put", "entity": {"entity": "surface", "value": own}, "base": base}]});
    let (status, saved) = call(&app, "POST", &house("/edits"), put(&surface, &view["versions"][&key])).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let sheet = hall(&format!("/surfaces/{}", ids::hall_phone()));
    let (_, trying) = call(&app, "GET", &sheet, Value::Null).await;
    assert_eq!(trying["trying"]["changes"], json!(0), "beginning a trial is no change");
    surface["pages"][0]["keys"][0]["label"] = json!("Halt");
    let (status, saved) =
        call(&app, "POST", &house("/edits"), put(&surface, &saved["changed"]["put"][0]["version"])).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let (_, trying) = call(&app, "GET", &sheet, Value::Null).await;
    assert_eq!(trying["trying"]["changes"], json!(1));
    assert_eq!(trying["trying"]["days_quiet"], json!(0));
}

#[tokio::test]
async fn a_link_opens_presses_and_is_withdrawn() {
    let app = demo_app().await;
    let token = link(&app).await;
    assert_eq!(token.len(), 64);
    let live = format!("/api/live/{token}");
    let (status, view) = call(&app, "GET", &live, Value::Null).await;
    assert_eq!((status, &view["now"]["status"]), (StatusCode::OK, &json!("Everything is off")));
    let (status, problem) =
        call(&app, "POST", &format!("{live}/press"), json!({"key": key(&view, "Louder"), "gesture": "tap"})).await;
    assert_eq!(
        (status, &problem["detail"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("Nothing is on now. Start something first."))
    );
    let games = json!({"key": key(&view, "Games"), "gesture": "tap"});
    let (status, _) = call(&app, "POST", &format!("{live}/press"), games).await;
    assert_eq!(status, StatusCode::OK);
    let (_, view) = call(&app, "GET", &live, Value::Null).await;
    assert_eq!(view["now"]["status"], "Starting Games");
    let (_, manifest) = call(&app, "GET", &format!("{live}/manifest.webmanifest"), Value::Null).await;
    assert_eq!(manifest["start_url"], json!(format!("/s/{token}")));
    let (_, links) = call(&app, "GET", &hall("/surface-links"), Value::Null).await;
    assert!(links[0]["used_at"].is_string(), "{links}");
    let gone = hall(&format!("/surface-links/{token}"));
    assert_eq!(call(&app, "DELETE", &gone, Value::Null).await.0, StatusCode::NO_CONTENT);
    assert_eq!(call(&app, "GET", &live, Value::Null).await.0, StatusCode::GONE);
    assert_eq!(call(&app, "DELETE", &gone, Value::Null).await.0, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_client_stores_a_look_within_limits_and_it_waits_for_a_review() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let (_, view) = call(&app, "GET", &live, Value::Null).await;
    let zone = &view["now"]["zones"][1]["zone"];
    let (status, _) = call(&app, "POST", &format!("{live}/dim"), json!({"zone": zone, "percent": 100})).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    // What is stored is how bright it is, and it takes a moment to get there.
    let lit =
        |now: &Value| now["zones"].as_array().unwrap().iter().any(|own| own["zone"] == *zone && own["percent"] == 80.0);
    told(&app, &format!("{live}/events"), lit).await;
    let look = &view["looks"].as_array().unwrap().iter().find(|look| look["name"] == "Pause").unwrap()["look"];
    let (status, problem) = call(&app, "POST", &format!("{live}/store"), json!({"look": look})).await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{problem}");
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let rooms = view["rooms"].as_array().unwrap();
    let room = rooms.iter().find(|room| room["id"] == json!(ids::boat_hall())).unwrap();
    let stored = room["lighting"]["looks"].as_array().unwrap().iter().find(|known| known["id"] == *look).unwrap();
    let level = |levels: &Value| {
        levels.as_array().unwrap().iter().find(|level| level["zone"] == *zone).unwrap()["percent"].clone()
    };
    assert_eq!((level(&stored["levels"]), level(&stored["stored"]["before"])), (json!(80), json!(20)));
    assert_eq!(stored["stored"]["by"], "Kitchen phone");
    let (_, notes) = call(&app, "GET", &hall("/notes"), Value::Null).await;
    assert!(notes["findings"].as_array().unwrap().iter().any(|finding| finding["title"] == "Look to review"));
}

/// What phones can reach over the network of the house: surfaces behind their links, and nothing of the workbench.
#[rstest]
#[case::houses("/api/houses", StatusCode::NOT_FOUND)]
#[case::edits("/api/houses/6b640000-0000-7000-8000-000000000001/edits", StatusCode::NOT_FOUND)]
#[case::workbench("/", StatusCode::NOT_FOUND)]
#[case::room("/houses/6b640000-0000-7000-8000-000000000001", StatusCode::NOT_FOUND)]
#[case::guessed("/api/live/0000000000000000000000000000000000000000000000000000000000000000", StatusCode::GONE)]
#[case::surface("/s/whatever", StatusCode::OK)]
#[tokio::test]
async fn phones_reach_nothing_but_surfaces(#[case] path: &str, #[case] status: StatusCode) {
    let (store, _) = testing::fresh().await;
    store.add_house(&demo::marram_point()).await.unwrap();
    let response = for_phones(Houses::new(store, None)).oneshot(request("GET", path, "")).await.unwrap();
    assert_eq!(response.status(), status);
    assert!(response.headers().contains_key("content-security-policy"));
}

#[tokio::test]
async fn a_phone_that_presses_too_fast_is_refused_and_stopping_never_is() {
    let app = demo_app().await;
    let token = link(&app).await;
    let (_, view) = call(&app, "GET", &format!("/api/live/{token}"), Value::Null).await;
    let pages = view["surface"]["pages"].as_array().unwrap();
    let keys: Vec<&Value> = pages.iter().flat_map(|page| page["keys"].as_array().unwrap()).collect();
    let does = |key: &Value, what: &str| {
        key["bindings"].as_array().unwrap().iter().any(|binding| binding["does"]["does"] == what)
    };
    let turns = keys.iter().find(|key| does(key, "page")).unwrap()["id"].clone();
    let stops = keys.iter().find(|key| does(key, "stop-all")).unwrap()["id"].clone();
    let press = async |key: &Value| {
        let asked = json!({"key": key, "gesture": "tap"});
        call(&app, "POST", &format!("/api/live/{token}/press"), asked).await
    };
    let mut refused = None;
    for _ in 0..400 {
        let (status, said) = press(&turns).await;
        if status == StatusCode::TOO_MANY_REQUESTS {
            refused = Some(said);
            break;
        }
    }
    assert_eq!(refused.unwrap()["detail"], "That was too fast. Wait a moment, then press again.");
    for _ in 0..3 {
        assert_eq!(press(&stops).await.0, StatusCode::OK);
    }
}

/// *Not right?*: what the household says is kept as an open call, with what was believed, sent and seen; what can be done is
/// said with what moves; and the programmer closes it with what it was.
#[tokio::test]
async fn what_is_not_right_is_an_open_call_and_can_be_put_right() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let (_, view) = call(&app, "GET", &live, Value::Null).await;
    let streaming = json!({"key": key(&view, "Streaming"), "gesture": "tap"});
    assert_eq!(call(&app, "POST", &format!("{live}/press"), streaming).await.0, StatusCode::OK);
    let (status, way) = call(&app, "POST", &format!("{live}/not-right"), json!({"what": "no-picture"})).await;
    assert_eq!((status, &way["to"]), (StatusCode::OK, &json!("Streaming")), "{way}");
    assert!(way["moves"].as_array().unwrap().contains(&json!("Screen")), "{way}");
    let (_, calls) = call(&app, "GET", &house("/calls"), Value::Null).await;
    let one = &calls[0];
    assert_eq!((&one["what"], &one["said_by"]), (&json!("no-picture"), &json!("Kitchen phone")));
    assert!(!one["facts"]["believed"].as_array().unwrap().is_empty(), "{one}");
    let (_, shelf) = call(&app, "GET", "/api/shelf", Value::Null).await;
    assert_eq!(shelf["houses"][0]["open_calls"], 1);
    assert_eq!(call(&app, "POST", &format!("{live}/put-right"), Value::Null).await.0, StatusCode::NO_CONTENT);
    let (_, rehearsal) = call(&app, "GET", &hall("/rehearsal"), Value::Null).await;
    assert_eq!(rehearsal["run"]["cause"], "righted");
    let close = house(&format!("/calls/{}/close", one["id"].as_str().unwrap()));
    let (status, problem) = call(&app, "POST", &close, json!({"outcome": " "})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    let outcome = json!({"outcome": "A plug was out."});
    assert_eq!(call(&app, "POST", &close, outcome.clone()).await.0, StatusCode::NO_CONTENT);
    assert_eq!(call(&app, "POST", &close, outcome).await.0, StatusCode::NOT_FOUND);
    let (_, calls) = call(&app, "GET", &house("/calls"), Value::Null).await;
    assert_eq!(calls[0]["outcome"], "A plug was out.");
}

/// Stop moving is no key: it is at hand on every surface, also where somebody has taken the key away.
#[tokio::test]
async fn whatever_moves_can_be_stopped_from_every_surface_however_often_somebody_presses() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let (_, view) = call(&app, "GET", &live, Value::Null).await;
    assert_eq!(view["now"]["stops"], true);
    for _ in 0..60 {
        assert_eq!(call(&app, "POST", &format!("{live}/stop"), Value::Null).await.0, StatusCode::NO_CONTENT);
    }
}

#[tokio::test]
async fn a_surface_says_how_soon_each_thing_is_there_and_what_is_not_set_up() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let (_, soon) = call(&app, "GET", &format!("{live}/soon"), Value::Null).await;
    let of = |id: String| {
        soon.as_array().unwrap().iter().find(|one| one["activity"] == json!(id)).unwrap()["ready_s"].clone()
    };
    assert!(of(ids::streaming().to_string()).as_u64().is_some_and(|seconds| seconds > 1), "{soon}");
    assert!(of(ids::feature_film().to_string()).is_null(), "the code of its input is missing: {soon}");
}

/// A refusal that the trade would word is worded for the family, and kept for the programmer as it is.
#[tokio::test]
async fn a_press_that_comes_to_nothing_is_told_without_a_word_of_the_trade() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let (_, view) = call(&app, "GET", &live, Value::Null).await;
    let film = json!({"key": key(&view, "Feature film"), "gesture": "tap"});
    let (status, problem) = call(&app, "POST", &format!("{live}/press"), film).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let said = problem["detail"].as_str().unwrap();
    assert_eq!(kestrel_core::surface::plainly::trade_word(said), None, "{said}");
    let (_, rehearsal) = call(&app, "GET", &hall("/rehearsal"), Value::Null).await;
    let kept = rehearsal["notices"].as_array().unwrap().last().unwrap()["text"].as_str().unwrap().to_owned();
    assert!(kept.contains("code"), "{kept}");
}

#[rstest]
#[case::none(vec![], StatusCode::UNPROCESSABLE_ENTITY, "no sound that this program reads")]
#[case::picture(b"\x89PNG\r\n\x1a\n".to_vec(), StatusCode::UNPROCESSABLE_ENTITY, "WAV, FLAC or MP3")]
#[case::fifty_megabytes(vec![0; 50_000_000], StatusCode::PAYLOAD_TOO_LARGE, "larger than 8 MB")]
#[tokio::test]
async fn a_sound_that_is_none_is_refused_with_what_to_do(
    #[case] bytes: Vec<u8>,
    #[case] status: StatusCode,
    #[case] says: &str,
) {
    let app = demo_app().await;
    let response = app.oneshot(request("POST", "/api/sounds", bytes)).await.unwrap();
    assert_eq!(response.status(), status);
    let said = super::body(response).await;
    assert!(said["detail"].as_str().unwrap().contains(says), "{said}");
}

/// The whole house: every room is finished, and the way out of each is lit as its walk wants it.
#[tokio::test]
async fn the_whole_house_goes_to_rest_from_one_key_that_is_held() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let (_, view) = call(&app, "GET", &live, Value::Null).await;
    let games = json!({"key": key(&view, "Games"), "gesture": "tap"});
    assert_eq!(call(&app, "POST", &format!("{live}/press"), games).await.0, StatusCode::OK);
    let rest = key(&view, "Whole house to rest");
    let now = view["now"]["keys"].as_array().unwrap().iter().find(|own| own["key"] == json!(rest)).unwrap();
    assert!(now["meanings"][0]["words"].as_str().unwrap().contains("keep clear"), "{now}");
    let tapped = call(&app, "POST", &format!("{live}/press"), json!({"key": rest, "gesture": "tap"})).await;
    assert_eq!(tapped.0, StatusCode::OK);
    let (_, rehearsal) = call(&app, "GET", &hall("/rehearsal"), Value::Null).await;
    assert_eq!(rehearsal["run"]["to"]["is"], "in", "a tap does nothing");
    let held = call(&app, "POST", &format!("{live}/press"), json!({"key": rest, "gesture": "hold"})).await;
    assert_eq!(held.0, StatusCode::OK, "{}", held.1);
    let off = |view: &Value| view["run"]["to"]["is"] == "off";
    super::asked(&app, &hall("/rehearsal"), off).await;
    let loft = house(&format!("/rooms/{}/rehearsal", ids::chart_loft()));
    super::asked(&app, &loft, off).await;
    let site = demo::marram_point();
    let exit = site.room(ids::boat_hall()).unwrap().lighting.exit.clone().unwrap();
    let lit = |now: &Value| {
        exit.zones.iter().all(|zone| {
            let level = now["zones"].as_array().unwrap().iter().find(|own| own["zone"] == json!(zone)).unwrap();
            level["percent"].as_f64().unwrap() >= f64::from(exit.percent)
        })
    };
    told(&app, &format!("{live}/events"), lit).await;
}

/// A phone that loses the network in the middle of a held key: its stream of events ends, and the key is let go.
#[tokio::test]
async fn a_key_that_is_held_is_let_go_when_the_phone_loses_the_network() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let (_, view) = call(&app, "GET", &live, Value::Null).await;
    let streaming = json!({"key": key(&view, "Streaming"), "gesture": "tap"});
    assert_eq!(call(&app, "POST", &hall("/rehearsal/rate"), json!({"rate": 10.0})).await.0, StatusCode::OK);
    assert_eq!(call(&app, "POST", &format!("{live}/press"), streaming).await.0, StatusCode::OK);
    super::asked(&app, &live, |view| view["now"]["status"] == "Streaming is on").await;
    assert_eq!(call(&app, "POST", &hall("/rehearsal/rate"), json!({"rate": 1.0})).await.0, StatusCode::OK);
    let stream = app.clone().oneshot(request("GET", &format!("{live}/events"), "")).await.unwrap();
    let held = json!({"key": key(&view, "Softer"), "gesture": "hold"});
    assert_eq!(call(&app, "POST", &format!("{live}/press"), held).await.0, StatusCode::OK);
    drop(stream);
    let sent = async || {
        let (_, view) = call(&app, "GET", &hall("/rehearsal"), Value::Null).await;
        let lines = view["wire"].as_array().unwrap().iter();
        lines
            .filter(|line| {
                line["meaning"].as_str().unwrap_or_default().contains("command=22")
                    || !line["routine"].as_bool().unwrap()
            })
            .count()
    };
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    let at_first = sent().await;
    tokio::time::sleep(std::time::Duration::from_millis(1_500)).await;
    assert!(sent().await <= at_first + 1, "nothing goes on after the phone is gone");
}

/// All the light under one finger is one request: each lamp keeps its share, within the limits of the surface.
#[tokio::test]
async fn all_the_light_is_dimmed_together() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let all = json!({"zone": null, "percent": 90});
    assert_eq!(call(&app, "POST", &format!("{live}/dim"), all).await.0, StatusCode::NO_CONTENT);
    let lit = |now: &Value| now["zones"].as_array().unwrap().iter().all(|zone| zone["percent"] == 80.0);
    let now = told(&app, &format!("{live}/events"), lit).await;
    assert_eq!(now["together_percent"], 80.0);
}

/// What cannot be stopped is told with what to do, also where somebody presses the key for it.
#[tokio::test]
async fn a_stop_that_cannot_be_sent_says_to_keep_clear() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let (_, view) = call(&app, "GET", &live, Value::Null).await;
    let site = demo::marram_point();
    let screen = site.devices.iter().find(|own| own.id == ids::screen()).unwrap();
    let stop = site.profile_of(screen.id).unwrap().motion.unwrap().stop.unwrap();
    let code = site.code(screen.id, stop).unwrap().id;
    let gone = json!({"edits": [{"do": "remove", "kind": "code", "id": code, "base": 0}]});
    let (status, said) = call(&app, "POST", &house("/edits"), gone).await;
    assert_eq!(status, StatusCode::OK, "{said}");
    let says = "The screen may still be moving. Keep clear, and stop it at its own switch.";
    let (status, problem) = call(&app, "POST", &format!("{live}/stop"), Value::Null).await;
    assert_eq!((status, &problem["detail"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!(says)));
    let press = json!({"key": key(&view, "Stop moving"), "gesture": "tap"});
    let (_, problem) = call(&app, "POST", &format!("{live}/press"), press).await;
    assert_eq!(problem["detail"], says);
}

/// Whoever says the same again and again is told that it is written down.
#[tokio::test]
async fn a_call_is_not_kept_without_end() {
    let app = demo_app().await;
    let live = format!("/api/live/{}", link(&app).await);
    let mut refused = None;
    for _ in 0..12 {
        let (status, said) = call(&app, "POST", &format!("{live}/not-right"), json!({"what": "else"})).await;
        if status == StatusCode::TOO_MANY_REQUESTS {
            refused = Some(said);
            break;
        }
    }
    assert!(refused.unwrap()["detail"].as_str().unwrap().contains("is written down"));
}
