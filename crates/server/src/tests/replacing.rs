//! Another model in the place of a device, over HTTP.

use super::*;
use kestrel_core::library;

fn model(maker: &str, name: &str) -> String {
    library::all().iter().find(|own| own.maker == maker && own.model == name).unwrap().id.to_string()
}

fn of_projector(part: &str) -> String {
    house(&format!("/devices/{}/replacement{part}", ids::projector()))
}

#[tokio::test]
async fn what_a_replacement_does_is_told_before_and_undo_takes_all_of_it_back() {
    let app = demo_app().await;
    let (_, before) = call(&app, "GET", &house(""), Value::Null).await;
    let asked = json!({"model": model("Orrin", "L5")});
    let (status, view) = call(&app, "POST", &of_projector("/preview"), asked.clone()).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    assert_eq!((&view["model"], &view["refused"]), (&json!("Orrin L5"), &Value::Null));
    let part =
        |name: &str| view["parts"].as_array().unwrap().iter().find(|part| part["name"] == json!(name)).unwrap().clone();
    assert_eq!(part("HDMI 3")["used_by"], json!(["the cable from Receiver"]));
    assert!(part("HDMI 3")["to"].is_string(), "by what is plugged");
    assert!(view["lost"].as_array().unwrap().iter().any(|line| line.as_str().unwrap().contains("Tarnbeck P2")));
    let (_, unchanged) = call(&app, "GET", &house(""), Value::Null).await;
    assert_eq!(unchanged, before, "a preview changes nothing");

    let (status, saved) = call(&app, "POST", &of_projector(""), asked).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let (_, after) = call(&app, "GET", &house(""), Value::Null).await;
    let projector = |view: &Value| {
        let id = json!(ids::projector());
        view["devices"].as_array().unwrap().iter().find(|own| own["id"] == id).unwrap().clone()
    };
    assert_ne!(projector(&after)["profile"], projector(&before)["profile"]);
    assert_eq!(projector(&after)["name"], json!("Projector"));
    assert_eq!(after["connections"].as_array().unwrap().len(), before["connections"].as_array().unwrap().len());
    call(&app, "POST", &house("/undo"), Value::Null).await;
    let (_, again) = call(&app, "GET", &house(""), Value::Null).await;
    for part in ["devices", "profiles", "connections", "codes", "activities", "rooms"] {
        assert_eq!(again[part], before[part], "{part}");
    }
}

#[tokio::test]
async fn what_it_changes_in_plans_and_verdicts_is_told_room_by_room() {
    let app = demo_app().await;
    let display = {
        let site = kestrel_core::demo::marram_point();
        site.devices_in(ids::tidy_cabin()).find(|own| own.name == "Tidy display").unwrap().id
    };
    let path = house(&format!("/devices/{display}/replacement/effect"));
    let (status, rooms) = call(&app, "POST", &path, json!({"model": model("Haldane", "T43")})).await;
    assert_eq!(status, StatusCode::OK, "{rooms}");
    assert_eq!(rooms[0]["room"], json!(ids::tidy_cabin()));
    let change = &rooms[0]["changes"][0];
    assert!(change["before"]["verdict"].is_string() && change["after"]["verdict"].is_string(), "{rooms}");
    let cells = rooms[0]["changes"].as_array().unwrap().len() as u64 + rooms[0]["unchanged"].as_u64().unwrap();
    assert_eq!(cells, 2);
}

#[tokio::test]
async fn a_replacement_that_cannot_be_is_refused_with_what_to_change_first() {
    let app = demo_app().await;
    let screen = json!({"model": model("Skerrow", "120")});
    let (status, view) = call(&app, "POST", &of_projector("/preview"), screen.clone()).await;
    assert_eq!(status, StatusCode::OK);
    let refused = view["refused"].as_str().unwrap();
    assert!(refused.contains("shows no picture. Choose a display."), "{refused}");
    let (status, problem) = call(&app, "POST", &of_projector(""), screen).await;
    assert_eq!((status, problem["detail"].as_str().unwrap()), (StatusCode::UNPROCESSABLE_ENTITY, refused));
    for (body, expected) in [
        (json!({"model": "6b640000-0001-7000-8000-0000000fffff"}), StatusCode::NOT_FOUND),
        (json!({"model": "P2"}), StatusCode::UNPROCESSABLE_ENTITY),
        (json!({}), StatusCode::UNPROCESSABLE_ENTITY),
    ] {
        for part in ["/preview", "/effect", ""] {
            let (status, problem) = call(&app, "POST", &of_projector(part), body.clone()).await;
            assert_eq!(status, expected, "{part} {body}: {problem}");
            assert!(problem["detail"].as_str().is_some_and(|text| !text.is_empty()), "{problem}");
        }
    }
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let device = view["devices"].as_array().unwrap().iter().find(|own| own["id"] == json!(ids::projector())).unwrap();
    let (status, same) = call(&app, "POST", &of_projector(""), json!({"model": device["profile"]})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(same["detail"].as_str().unwrap().contains("already"), "{same}");
}

#[tokio::test]
async fn a_key_chosen_by_hand_takes_the_code_along_where_the_remote_is_the_same() {
    let app = demo_app().await;
    let asked = json!({"model": model("Orrin", "L5"), "codes_stay": true});
    let (_, view) = call(&app, "POST", &of_projector("/preview"), asked).await;
    let key = |list: &str, at: usize| {
        view[list].as_array().unwrap().iter().filter(|part| part["what"] == json!("key")).nth(at).unwrap().clone()
    };
    let (old, new) = (key("parts", 0), key("choices", 3));
    let chosen = json!([{"id": old["id"], "to": new["id"]}]);
    let asked = json!({"model": model("Orrin", "L5"), "codes_stay": true, "chosen": chosen});
    let (_, view) = call(&app, "POST", &of_projector("/preview"), asked.clone()).await;
    let part = view["parts"].as_array().unwrap().iter().find(|part| part["id"] == old["id"]).unwrap();
    assert_eq!(part["to"], new["id"]);
    let (status, saved) = call(&app, "POST", &of_projector(""), asked).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
}
