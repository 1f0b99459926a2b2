//! Codes over HTTP: learning from the handset stand-in, testing, finding, files in and out.

use super::{body, call, demo_app, hall, house, request, shown};
use axum::http::StatusCode;
use kestrel_core::demo::{self, ids};
use rstest::rstest;
use serde_json::{Value, json};
use tower::ServiceExt;

/// A path with its `DEVICE`, `ROOM` and `CODE` filled in.
fn filled(path: &str) -> String {
    let site = demo::marram_point();
    let code = site.codes.iter().find(|code| code.device == ids::receiver()).unwrap();
    path.replace("DEVICE", &ids::receiver().to_string())
        .replace("ROOM", &ids::boat_hall().to_string())
        .replace("CODE", &code.id.to_string())
}

#[tokio::test]
async fn a_key_is_learned_from_the_handset_and_the_attempt_is_written_down() {
    let app = demo_app().await;
    call(&app, "POST", &hall("/rehearsal/rate"), json!({"rate": 8.0})).await;
    let key = json!({"device": ids::receiver(), "function": ids::receiver_disc(), "medium": "ir"});
    let press = json!({"device": ids::receiver(), "key": ids::receiver_disc(), "hold_ms": 150});
    let (learn, handset) = (hall("/learn"), hall("/handset"));
    let (learned, pressed) = tokio::join!(call(&app, "POST", &learn, key), call(&app, "POST", &handset, press));
    assert_eq!((learned.0, pressed.0), (StatusCode::OK, StatusCode::OK), "{} {}", learned.1, pressed.1);
    let message = &learned.1["judgement"]["body"]["message"];
    assert_eq!(message["protocol"], "nec-ext", "{}", learned.1);
    assert_eq!(message["fields"], json!({"address": 31249, "command": 49}));
    let path = house(&format!("/attempts?device={}&function={}", ids::receiver(), ids::receiver_disc()));
    let (_, attempts) = call(&app, "GET", &path, Value::Null).await;
    assert_eq!((attempts[0]["what"].as_str(), attempts[0]["outcome"].as_str()), (Some("learn"), Some("heard")));
}

#[tokio::test]
async fn silence_is_said_after_ten_seconds_of_the_benchs_clock() {
    let app = demo_app().await;
    call(&app, "POST", &hall("/rehearsal/rate"), json!({"rate": 20.0})).await;
    let key = json!({"device": ids::receiver(), "function": ids::receiver_disc(), "medium": "ir"});
    let (status, learned) = call(&app, "POST", &hall("/learn"), key).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(learned["judgement"]["remarks"][0]["trouble"], "nothing-heard", "{learned}");
    let (_, swept) = call(&app, "POST", &hall("/sweep"), Value::Null).await;
    assert_eq!(swept["frequency_hz"], Value::Null);
}

#[tokio::test]
async fn a_test_that_proves_something_is_written_into_the_code() {
    let app = demo_app().await;
    call(&app, "POST", &hall("/rehearsal/rate"), json!({"rate": 20.0})).await;
    let on = demo::marram_point().profile_of(ids::projector()).unwrap().functions[0].id;
    let what = json!({"device": ids::projector(), "function": on});
    let (status, tested) = call(&app, "POST", &hall("/test"), what).await;
    assert_eq!((status, tested["effect"].as_str()), (StatusCode::OK, Some("worked")), "{tested}");
    let (_, view) = call(&app, "GET", &house(""), Value::Null).await;
    let line = view["codes"].as_array().unwrap().iter().find(|code| code["function"] == on.to_string()).unwrap();
    assert_eq!((line["state"].as_str(), line["tested"]["effect"].as_str()), (Some("tested"), Some("worked")));
    let disc = json!({"device": ids::receiver(), "function": ids::receiver_disc()});
    let (status, problem) = call(&app, "POST", &hall("/test"), disc).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
}

#[tokio::test]
async fn a_code_that_nobody_keeps_is_tried_on_the_device() {
    let app = demo_app().await;
    call(&app, "POST", &hall("/rehearsal/rate"), json!({"rate": 20.0})).await;
    let message = json!({"protocol": "nec", "fields": {"address": 50, "command": 2}});
    let what = json!({"device": ids::projector(), "body": {"as": "decoded", "message": message}});
    let (status, heard) = call(&app, "POST", &hall("/try"), what).await;
    assert_eq!(status, StatusCode::OK, "{heard}");
    assert_eq!(heard["heard"][0]["outcome"]["what"], "starting up");
}

#[tokio::test]
async fn an_untried_command_that_was_searched_for_is_not_offered_again() {
    let app = demo_app().await;
    let path = house(&format!("/devices/{}/untried", ids::receiver()));
    let (_, first) = call(&app, "GET", &path, Value::Null).await;
    let sent = first["next"][0]["words"].as_str().unwrap_or_else(|| panic!("{first}"));
    let tried = json!({"device": ids::receiver(), "what": "search", "outcome": "nothing", "sent": sent});
    assert_eq!(call(&app, "POST", &house("/attempts"), tried).await.0, StatusCode::OK);
    let (_, second) = call(&app, "GET", &path, Value::Null).await;
    assert_eq!(second["left"].as_u64(), first["left"].as_u64().map(|left| left - 1));
    assert_ne!(second["next"][0]["words"], sent);
    assert!(first["caution"].as_str().is_some_and(|caution| caution.len() > 40));
}

#[tokio::test]
async fn code_sets_are_ranked_by_what_was_tried() {
    let app = demo_app().await;
    let (_, sets) = call(&app, "GET", &house("/code-sets"), Value::Null).await;
    let chosen: Vec<&str> = sets.as_array().unwrap().iter().filter_map(|set| set["id"].as_str()).collect();
    assert!(chosen.len() > 2, "{sets}");
    let (_, view) = call(&app, "POST", &house("/presets"), json!({"sets": chosen, "trials": []})).await;
    let next = &view["ranking"]["next"];
    let trial = json!({"function": next["function"], "sent": next["sent"], "worked": false});
    let (_, later) = call(&app, "POST", &house("/presets"), json!({"sets": chosen, "trials": [trial]})).await;
    let against = |view: &Value| {
        let ranked = view["ranking"]["sets"].as_array().unwrap();
        ranked.iter().filter(|set| set["against"].as_u64() > Some(0)).count()
    };
    assert_eq!(against(&view), 0);
    assert!(against(&later) > 0, "{later}");
}

#[tokio::test]
async fn an_import_is_looked_at_first_and_then_carried_out_as_one_step() {
    let app = demo_app().await;
    let text = "device,function,presses,hold_ms,as,code\n\
                Receiver,Disc,1,0,message,nec-ext address=0x7a11 command=0x31\n\
                Receiver,Night mode,1,0,message,nec-ext address=0x7a11 command=0x77\n";
    let source = json!({"from": "file", "text": text});
    let (status, preview) =
        call(&app, "POST", &house("/imports/preview"), json!({"source": source, "device": null})).await;
    assert_eq!(status, StatusCode::OK, "{preview}");
    let fates: Vec<&str> = preview["lines"].as_array().unwrap().iter().filter_map(|l| l["fate"].as_str()).collect();
    assert_eq!(fates, ["new-code", "new-function"], "{preview}");
    let (_, before) = call(&app, "GET", &house(""), Value::Null).await;
    let carried = json!({"source": source, "device": null, "chosen": [0, 1]});
    let (status, saved) = call(&app, "POST", &house("/imports"), carried.clone()).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let codes = |view: &Value| view["codes"].as_array().unwrap().len();
    assert_eq!(codes(&shown(&app).await), codes(&before) + 2);
    let (status, problem) = call(&app, "POST", &house("/imports"), carried).await;
    assert_eq!((status, problem["kind"].as_str()), (StatusCode::UNPROCESSABLE_ENTITY, Some("nothing")));
    call(&app, "POST", &house("/undo"), Value::Null).await;
    let undone = shown(&app).await;
    assert_eq!((codes(&undone), &undone["profiles"]), (codes(&before), &before["profiles"]));
}

#[rstest]
#[case::table("csv", "device,function,presses,hold_ms,as,code")]
#[case::keymap("keymap", "[[protocols]]")]
#[case::captures("pulse", "pulse ")]
#[case::signed("signed", "+")]
#[case::logic_analyser("vcd", "$timescale")]
#[tokio::test]
async fn every_export_is_written_and_says_what_it_left_out(#[case] format: &str, #[case] holds: &str) {
    let app = demo_app().await;
    let path = house(&format!("/codes.export?device={}&format={format}", ids::receiver()));
    let response = app.clone().oneshot(request("GET", &path, "")).await.unwrap();
    assert_eq!(response.status(), StatusCode::OK);
    let left_out = response.headers()["kestrel-left-out"].to_str().unwrap().to_owned();
    let text = body(response).await;
    assert!(text.as_str().unwrap().contains(holds), "{text}");
    assert!(left_out.parse::<usize>().is_ok(), "{left_out}");
}

#[tokio::test]
async fn what_is_exported_is_imported_as_the_same() {
    let app = demo_app().await;
    let (_, text) = call(&app, "GET", &house("/codes.export?format=csv"), Value::Null).await;
    let source = json!({"source": {"from": "file", "text": text}, "device": null});
    let (_, preview) = call(&app, "POST", &house("/imports/preview"), source).await;
    let lines = preview["lines"].as_array().unwrap();
    assert!(lines.len() > 100 && preview["unread"] == json!([]), "{}", preview["unread"]);
    assert!(lines.iter().all(|line| line["fate"] == "same"), "{preview}");
}

#[rstest]
#[case::payload("/api/payloads", json!({"text": "JgAKAA=="}), "hex", "26000a00")]
#[case::command(
    "/api/commands",
    json!({"kind": "payload", "transport": "tcp", "form": "text", "text": "PWR ON",
           "terminator": "cr", "checksum": "none"}),
    "hex",
    "50 57 52 20 4f 4e 0d"
)]
#[case::pjlink("/api/commands", json!({"kind": "pjlink", "command": "POWR 1"}), "text", r"%1POWR 1\r")]
#[tokio::test]
async fn what_is_typed_is_shown_as_bytes(
    #[case] path: &str,
    #[case] sent: Value,
    #[case] field: &str,
    #[case] expected: &str,
) {
    let (status, view) = call(&demo_app().await, "POST", path, sent).await;
    assert_eq!((status, view[field].as_str()), (StatusCode::OK, Some(expected)), "{view}");
}

#[rstest]
#[case::no_payload("POST", "/api/payloads", json!({"text": "26 0"}), 422, "one is missing")]
#[case::no_mac("POST", "/api/commands", json!({"kind": "wake-on-lan", "mac": "02:1a"}), 422, "six pairs")]
#[case::no_pjlink("POST", "/api/commands", json!({"kind": "pjlink", "command": "POW"}), 422, "four letters")]
#[case::too_many_captures("POST", "/api/readings/combined", json!({"captures": []}), 422, "1 to 16")]
#[case::no_format("GET", "H/codes.export?format=brass", Value::Null, 400, "format")]
#[case::unknown_device("GET", "H/codes.export?format=csv&device=ROOM", Value::Null, 404, "no such device")]
#[case::advice_for_nobody("GET", "H/devices/ROOM/advice", Value::Null, 404, "no such device")]
#[case::search_for_nobody("GET", "H/devices/ROOM/untried", Value::Null, 404, "no such device")]
#[case::twins_of_nothing("GET", "H/codes/ROOM/twins", Value::Null, 404, "Undo brings it back")]
#[case::no_file("POST", "H/imports/preview", json!({"source": {"from": "file", "text": "brass"}}), 422, "")]
#[case::empty_file("POST", "H/imports/preview", json!({"source": {"from": "file", "text": ""}}), 422, "")]
#[case::unknown_set("POST", "H/presets", json!({"sets": ["6b640000-0000-7000-8000-0000000000ff"], "trials": []}), 404, "Reload")]
#[case::long_note("POST", "H/attempts", json!({"device": filled("DEVICE"), "what": "test", "outcome": "x".repeat(81)}), 422, "Shorten")]
#[case::no_such_key(
    "POST",
    "H/rooms/ROOM/handset",
    json!({"device": filled("DEVICE"), "key": filled("ROOM")}),
    422,
    "no such key"
)]
#[case::too_many_presses(
    "POST",
    "H/rooms/ROOM/handset",
    json!({"device": filled("DEVICE"), "key": ids::receiver_disc(), "presses": 200}),
    422,
    "1 to 9"
)]
#[tokio::test]
async fn bad_input_says_what_to_do(
    #[case] method: &str,
    #[case] path: &str,
    #[case] sent: Value,
    #[case] status: u16,
    #[case] expected: &str,
) {
    let path = filled(&path.replace('H', &house("")));
    let (answered, problem) = call(&demo_app().await, method, &path, sent).await;
    let detail = problem["detail"].as_str().unwrap_or_default();
    assert_eq!(answered.as_u16(), status, "{problem}");
    assert!(detail.len() > 20 && detail.contains(expected), "{detail}");
}

#[tokio::test]
async fn a_file_with_two_signals_asks_which() {
    let vcd = "$timescale 1us $end\n$var wire 1 ! ir $end\n$var wire 1 \" led $end\n$enddefinitions $end\n\
               #0\n0!\n0\"\n#1000\n1!\n1\"\n#1600\n0!\n0\"\n";
    let response = demo_app().await.oneshot(request("POST", "/api/readings", vcd)).await.unwrap();
    assert_eq!(response.status(), StatusCode::UNPROCESSABLE_ENTITY);
    let problem = body(response).await;
    assert_eq!((problem["kind"].as_str(), &problem["choices"]), (Some("choose-signal"), &json!(["ir", "led"])));
}

#[tokio::test]
async fn keys_that_worked_are_kept_as_one_step_and_compared_in_the_cores_words() {
    let app = demo_app().await;
    let (_, sets) = call(&app, "GET", &house("/code-sets"), Value::Null).await;
    let chosen: Vec<&str> = sets.as_array().unwrap().iter().filter_map(|set| set["id"].as_str()).collect();
    let (_, view) = call(&app, "POST", &house("/presets"), json!({"sets": chosen, "trials": []})).await;
    let next = &view["ranking"]["next"];
    let keys = view["keys"].as_array().unwrap().iter().find(|set| set["set"] == next["set"]).unwrap();
    let one = keys["keys"].as_array().unwrap().iter().find(|one| one["words"] == next["sent"]);
    assert!(one.is_some(), "what is sent next is a key of its set, in the same words: {next}");
    let message = json!({"protocol": "nec-ext", "fields": {"address": 31249, "command": 119}});
    let keys = json!([{"name": "Night mode", "body": {"as": "decoded", "message": message}}]);
    let path = house(&format!("/devices/{}/proven", ids::receiver()));
    let (status, saved) = call(&app, "POST", &path, json!({"keys": keys, "note": "Found by search."})).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let view = shown(&app).await;
    let codes = view["codes"].as_array().unwrap();
    let kept = codes.iter().find(|code| code["summary"] == "nec-ext address=31249 command=119").unwrap();
    assert_eq!((kept["state"].as_str(), kept["tested"]["note"].as_str()), (Some("tested"), Some("Found by search.")));
    call(&app, "POST", &house("/undo"), Value::Null).await;
    assert_eq!(shown(&app).await["codes"].as_array().unwrap().len(), codes.len() - 1);
    let (status, _) = call(&app, "POST", &path, json!({"keys": [], "note": ""})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn key_names_that_repeat_in_a_keymap_are_each_kept_and_that_is_said() {
    let app = demo_app().await;
    let text = "[[protocols]]\nprotocol = \"nec\"\nvariant = \"nec\"\n[protocols.scancodes]\n0x0401 = \"KEY_SLEEP\"\n0x0402 = \"KEY_SLEEP\"\n";
    let asked = json!({"source": {"from": "file", "text": text}, "device": ids::receiver()});
    let (status, preview) = call(&app, "POST", &house("/imports/preview"), asked.clone()).await;
    assert_eq!(status, StatusCode::OK);
    let names: Vec<&str> =
        preview["lines"].as_array().unwrap().iter().map(|line| line["name"].as_str().unwrap()).collect();
    assert_eq!(names.len(), 2);
    assert_eq!(names[1], format!("{} 2", names[0]));
    let remark = preview["remarks"][0].as_str().unwrap();
    assert!(remark.contains("stands twice with different codes"), "{remark}");
    let mut taken = asked;
    taken["chosen"] = json!([0, 1]);
    let (status, saved) = call(&app, "POST", &house("/imports"), taken).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let put = saved["changed"]["put"].as_array().unwrap();
    assert_eq!(put.iter().filter(|put| put["entity"] == "code").count(), 2, "{saved}");
}

#[tokio::test]
async fn more_sets_than_there_are_bits_in_a_word_are_compared_and_too_many_are_refused() {
    let app = demo_app().await;
    let (_, sets) = call(&app, "GET", &house("/code-sets"), Value::Null).await;
    let ids: Vec<&Value> = sets.as_array().unwrap().iter().map(|set| &set["id"]).collect();
    // The same set named a hundred times is one set.
    let hundred: Vec<&Value> = ids.iter().copied().cycle().take(100).collect();
    let (status, view) = call(&app, "POST", &house("/presets"), json!({"sets": hundred, "trials": []})).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    assert_eq!(view["ranking"]["sets"].as_array().unwrap().len(), ids.len());
    let thousands: Vec<&Value> = ids.iter().copied().cycle().take(1_001).collect();
    let (status, problem) = call(&app, "POST", &house("/presets"), json!({"sets": thousands, "trials": []})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["detail"].as_str().unwrap().starts_with("At most 1000 sets"), "{problem}");
}
