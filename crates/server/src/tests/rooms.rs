//! The rehearsal room over HTTP, key by key, and the lists that ship with the program.

use super::{call, demo_app, hall, house, told};
use axum::http::StatusCode;
use kestrel_core::demo::{self, ids};
use serde_json::{Value, json};

fn loft(rest: &str) -> String {
    house(&format!("/rooms/{}{rest}", ids::chart_loft()))
}

fn device<'a>(view: &'a Value, id: &impl serde::Serialize) -> &'a Value {
    let devices = view["devices"].as_array().unwrap();
    devices.iter().find(|known| known["device"] == json!(id)).unwrap()
}

#[tokio::test]
async fn a_clock_that_stands_still_is_stepped_and_the_room_starts_over() {
    let app = demo_app().await;
    let (_, view) = call(&app, "POST", &loft("/rehearsal/rate"), json!({"rate": 0})).await;
    assert_eq!(view["rate"], json!(0.0));
    let before = view["now_ms"].as_u64().unwrap();
    let (status, view) = call(&app, "POST", &loft("/rehearsal/step"), json!({"ms": 1500})).await;
    assert_eq!((status, view["now_ms"].as_u64()), (StatusCode::OK, Some(before + 1_500)));
    let hand = json!({"does": "power", "device": ids::loft_receiver()});
    call(&app, "POST", &loft("/rehearsal/hand"), hand).await;
    // To the next thing that happens by itself: the receiver is warm.
    let (_, view) = call(&app, "POST", &loft("/rehearsal/step"), json!({})).await;
    assert!(view["now_ms"].as_u64().unwrap() > before + 1_500);
    assert_ne!(device(&view, &ids::loft_receiver())["power"], json!("off"));
    let (status, view) = call(&app, "POST", &loft("/rehearsal/reset"), Value::Null).await;
    assert_eq!((status, &device(&view, &ids::loft_receiver())["power"]), (StatusCode::OK, &json!("off")));
    assert_eq!((&view["wire"], &view["run"]), (&json!([]), &Value::Null));
}

#[tokio::test]
async fn a_macro_is_stopped_and_says_so() {
    let app = demo_app().await;
    let to = json!({"to": {"is": "in", "activity": ids::loft_film()}});
    assert_eq!(call(&app, "POST", &loft("/rehearsal/run"), to).await.0, StatusCode::OK);
    let (status, view) = call(&app, "POST", &loft("/rehearsal/stop"), Value::Null).await;
    assert_eq!((status, &view["run"]["end"]), (StatusCode::OK, &json!("stopped")), "{}", view["run"]);
}

#[tokio::test]
async fn a_device_restarts_and_is_off_as_after_a_cut_of_the_mains() {
    let app = demo_app().await;
    let hand = json!({"does": "power", "device": ids::loft_display()});
    call(&app, "POST", &loft("/rehearsal/hand"), hand).await;
    let restart = json!({"device": ids::loft_display()});
    let (status, view) = call(&app, "POST", &loft("/rehearsal/restart"), restart).await;
    assert_eq!((status, &device(&view, &ids::loft_display())["power"]), (StatusCode::OK, &json!("off")));
    let restart = json!({"device": ids::projector()});
    let (status, problem) = call(&app, "POST", &loft("/rehearsal/restart"), restart).await;
    assert_eq!((status, &problem["kind"]), (StatusCode::NOT_FOUND, &json!("not-found")));
}

#[tokio::test]
async fn a_device_on_the_network_is_told_something_by_name() {
    let app = demo_app().await;
    call(&app, "POST", &loft("/rehearsal/rate"), json!({"rate": 20})).await;
    let to = json!({"to": {"is": "in", "activity": ids::loft_television()}});
    call(&app, "POST", &loft("/rehearsal/run"), to).await;
    told(&app, &loft("/rehearsal/events"), |view| view["run"]["end"] == "ready").await;
    let want = json!({"device": ids::loft_display(), "want": {"want": "message", "text": "Tea"}});
    let (status, view) = call(&app, "POST", &loft("/rehearsal/want"), want).await;
    assert_eq!((status, &device(&view, &ids::loft_display())["message"]), (StatusCode::OK, &json!("Tea")), "{view}");
    let want = json!({"device": ids::projector(), "want": {"want": "message", "text": "Tea"}});
    let (status, problem) = call(&app, "POST", &loft("/rehearsal/want"), want).await;
    assert!(status.is_client_error(), "{problem}");
}

#[tokio::test]
async fn a_mode_switch_is_set() {
    let app = demo_app().await;
    let site = demo::marram_point();
    let (room, switch) = site
        .rooms
        .iter()
        .find_map(|room| Some((room.id, room.lighting.switches.first()?)))
        .expect("a room with a mode switch");
    let path = house(&format!("/rooms/{room}/rehearsal/switch"));
    for on in [true, false] {
        let (status, view) = call(&app, "POST", &path, json!({"switch": switch.id, "on": on})).await;
        assert_eq!(status, StatusCode::OK);
        let known = view["light"]["switches"].as_array().unwrap();
        let own = known.iter().find(|own| own["switch"] == json!(switch.id)).unwrap();
        assert_eq!(own["on"], json!(on));
    }
}

#[tokio::test]
async fn a_page_is_copied_to_a_surface_of_another_room() {
    let app = demo_app().await;
    let site = demo::marram_point();
    let hall_phone = site.surface(ids::hall_phone()).unwrap();
    let (room, other) = site
        .rooms
        .iter()
        .filter(|room| room.id != ids::boat_hall())
        .flat_map(|room| room.surfaces.iter().map(|surface| (room.id, surface)))
        .max_by_key(|(_, surface)| surface.columns)
        .expect("a surface of another room");
    let page = hall_phone.pages.first().unwrap();
    let request = json!({"page": page.id, "surface": ids::hall_phone(), "to_room": room, "to": other.id});
    let (status, copied) = call(&app, "POST", &hall("/surfaces/copy"), request).await;
    assert_eq!(status, StatusCode::OK, "{copied}");
    assert_ne!(copied["page"]["id"], json!(page.id), "it is another page");
    let kept = copied["page"]["keys"].as_array().unwrap().len();
    let left_out = copied["left_out"].as_array().unwrap().len();
    assert!(kept > 0 && kept + left_out >= page.keys.len(), "every key is copied or told as left out: {copied}");
    let gone = json!({"page": room, "surface": ids::hall_phone(), "to_room": room, "to": other.id});
    assert_eq!(call(&app, "POST", &hall("/surfaces/copy"), gone).await.0, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn the_vocabulary_the_ready_made_commands_and_the_library_are_listed() {
    let app = demo_app().await;
    let (status, terms) = call(&app, "GET", "/api/vocabulary", Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    let names: Vec<&str> = terms.as_array().unwrap().iter().filter_map(|term| term["name"].as_str()).collect();
    assert!(names.contains(&"Power on") && names.contains(&"Volume up"), "{names:?}");
    let (status, commands) = call(&app, "GET", "/api/commands/pjlink", Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    let on = commands.as_array().unwrap().iter().find(|ready| ready["name"] == "Power on").unwrap();
    // PJLink class 1: %1POWR 1 switches on.
    assert_eq!(on["command"]["command"], json!("POWR 1"));
    let (status, models) = call(&app, "GET", "/api/library", Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    assert!(models.as_array().unwrap().len() > 20);
}

#[tokio::test]
async fn a_nul_in_a_link_or_its_label_is_refused_in_a_sentence() {
    let app = demo_app().await;
    let request = json!({"surface": ids::hall_phone(), "label": "Kit\u{0}chen"});
    let (status, problem) = call(&app, "POST", &hall("/surface-links"), request).await;
    assert_eq!((status, &problem["kind"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("refused")));
    for path in ["/api/live/a%00b", "/api/live/a%00b/events", "/api/live/a%00b/manifest.webmanifest"] {
        assert_eq!(call(&app, "GET", path, Value::Null).await.0, StatusCode::GONE, "{path}");
    }
    let gone = hall("/surface-links/a%00b");
    assert_eq!(call(&app, "DELETE", &gone, Value::Null).await.0, StatusCode::NOT_FOUND);
}
