//! Protocols that people describe, over HTTP: proposed, looked at, kept, learned on, exported and imported.

use super::{body, call, demo_app, house, request, shown};
use axum::http::StatusCode;
use kestrel_core::demo::ids;
use kestrel_signal::protocol::describe;
use kestrel_signal::{Message, text};
use serde_json::{Value, json};
use tower::ServiceExt;
use uuid::Uuid;

const IRP: &str = "{38k,500}<1,-1|1,-3>(12,-6,D:16,F:8,~F:8,1,^90m)*[D:0..65535,F:0..255]";

/// What a learner hears of a key of a remote that no protocol fits.
fn capture(key: u32) -> String {
    let message = Message::of(describe("unheard-of", IRP).unwrap(), [("D", 0x7a11), ("F", key)]).unwrap();
    text::to_signed(&message.encode(3))
}

fn put(value: &Value, base: Option<i64>) -> Value {
    json!({"edits": [{"do": "put", "entity": {"entity": "protocol", "value": value}, "base": base}]})
}

fn own(irp: &str) -> Value {
    json!({"id": Uuid::from_u128(0xde5c), "name": "lantern", "irp": irp, "note": "the remote of the brass lantern"})
}

#[tokio::test]
async fn a_protocol_is_proposed_kept_read_with_and_carried_elsewhere_by_its_codes() {
    let app = demo_app().await;
    let captures: Vec<String> = [3, 77, 128].into_iter().map(capture).collect();
    let (status, found) = call(&app, "POST", "/api/protocols/propose", json!({"captures": captures})).await;
    assert_eq!(status, StatusCode::OK, "{found}");
    assert_eq!((found["explained"].as_u64(), found["frames"].as_u64()), (Some(9), Some(9)));
    let irp = found["irp"].as_str().unwrap();

    let (_, looked) = call(&app, "POST", "/api/protocols/look", json!({"name": "lantern", "irp": irp})).await;
    assert_eq!(looked["looked"]["fields"][1]["name"], "F", "{looked}");
    let (status, saved) = call(&app, "POST", &house("/edits"), put(&own(irp), None)).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    assert!(saved["title"].as_str().unwrap().contains("the protocol “lantern”"), "{saved}");

    // Nobody knows it but this house.
    let seen = |at: String, text: String| {
        let app = app.clone();
        async move { body(app.oneshot(request("POST", &at, text)).await.unwrap()).await }
    };
    assert!(seen("/api/readings".to_owned(), capture(201)).await["reading"]["best"].is_null());
    let id = house("").rsplit('/').next().unwrap().to_owned();
    let reading = seen(format!("/api/readings?house={id}"), capture(201)).await;
    let best = &reading["reading"]["best"];
    assert_eq!(best["fields"], json!({"D": 0x7a11, "F": 201}), "{reading}");
    let protocol = best["protocol"].as_str().unwrap();
    assert!(protocol.starts_with("irp:lantern{38k,"), "{protocol}");

    // A code of it, exported and imported at another device: the file says what it means.
    let code = json!({
        "id": Uuid::from_u128(0xc0de), "device": ids::receiver(), "function": ids::receiver_disc(),
        "body": {"as": "decoded", "message": {"protocol": protocol, "fields": {"D": 0x7a11, "F": 201}}},
        "captured": null, "tested": null,
    });
    let edit = json!({"edits": [{"do": "put", "entity": {"entity": "code", "value": code}, "base": null}]});
    let (status, saved) = call(&app, "POST", &house("/edits"), edit).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let (_, listed) = call(&app, "GET", &house("/protocols"), Value::Null).await;
    assert_eq!((listed[0]["name"].as_str(), listed[0]["codes"].as_u64()), (Some("lantern"), Some(1)), "{listed}");
    let table =
        format!("device,function,presses,hold_ms,as,code\nReceiver,Lantern,1,0,message,\"{protocol} D=31249 F=9\"\n");
    let source = json!({"from": "file", "text": table});
    let (status, preview) =
        call(&app, "POST", &house("/imports/preview"), json!({"source": source, "device": ids::receiver()})).await;
    assert_eq!(status, StatusCode::OK, "{preview}");
    assert_eq!(preview["lines"][0]["summary"], "lantern D=31249 F=9", "{preview}");

    // What codes are made of stays as it is; without them it may change.
    let version = shown(&app).await["versions"][Uuid::from_u128(0xde5c).to_string()].as_i64();
    let other = IRP.replace("^90m", "^95m");
    let (status, refused) = call(&app, "POST", &house("/edits"), put(&own(&other), version)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{refused}");
    assert!(refused["detail"].as_str().unwrap().contains("1 code is made of “lantern” as it is"), "{refused}");
}

#[tokio::test]
async fn a_mistake_is_told_with_its_place_and_nothing_is_kept() {
    let app = demo_app().await;
    let wrong = IRP.replace("<1,-1|", "<1,-1;");
    let (status, looked) = call(&app, "POST", "/api/protocols/look", json!({"name": "lantern", "irp": wrong})).await;
    assert_eq!((status, looked["at"].as_u64()), (StatusCode::OK, Some(14)), "{looked}");
    assert!(looked["problem"].as_str().unwrap().starts_with("At character 15: “;”"), "{looked}");
    let (status, refused) = call(&app, "POST", &house("/edits"), put(&own(&wrong), None)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused["detail"].as_str().unwrap().contains("At character 15"), "{refused}");
    let (status, refused) =
        call(&app, "POST", "/api/protocols/propose", json!({"captures": [capture(3), "hello", capture(4)]})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused["detail"].as_str().unwrap().starts_with("Capture 2: "), "{refused}");
    let (_, progress) = call(&app, "GET", &super::hall("/gateways/progress"), Value::Null).await;
    assert!(progress.is_null(), "nobody looks for gateways");
}
