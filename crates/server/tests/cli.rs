//! The command line as a user meets it: what it prints, and its exit codes (0, 1 for anything that failed,
//! 2 for bad input).
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test")]

use rstest::rstest;
use std::io::Write;
use std::path::PathBuf;
use std::process::{Command, Output, Stdio};

fn run(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_kestrel-dune")).args(args).output().unwrap()
}

fn run_with(args: &[&str], input: &[u8]) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_kestrel-dune"))
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(input).unwrap();
    child.wait_with_output().unwrap()
}

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

fn demo_capture(name: &str) -> String {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../demo/captures").join(name).display().to_string()
}

#[rstest]
#[case::nec(&["nec", "address=4", "command=8"])]
#[case::hex(&["nec", "address=0x04", "command=0x08"])]
#[case::rc5(&["rc5", "address=5", "command=12", "toggle=1"])]
#[case::rc6(&["rc6", "address=5", "command=12", "toggle=0"])]
#[case::sirc(&["sirc-12", "address=1", "command=21"])]
#[case::held(&["nec", "address=4", "command=8", "--repeats", "5"])]
fn what_is_encoded_is_decoded_as_the_same(#[case] args: &[&str]) {
    let encoded = run(&[&["encode"], args].concat());
    assert!(encoded.status.success(), "{}", text(&encoded.stderr));
    let decoded = run_with(&["decode", "--json", "-"], &encoded.stdout);
    assert!(decoded.status.success(), "{}", text(&decoded.stderr));
    let reading: serde_json::Value = serde_json::from_slice(&decoded.stdout).unwrap();
    let best = &reading["best"];
    assert_eq!(best["protocol"], args[0]);
    for field in args.iter().filter_map(|arg| arg.split_once('=')) {
        let value = field.1.strip_prefix("0x").map_or_else(|| field.1.parse(), |hex| u64::from_str_radix(hex, 16));
        assert_eq!(best["fields"][field.0], value.unwrap(), "{best}");
    }
}

#[test]
fn a_capture_of_the_walk_is_told_in_words() {
    let output = run(&["decode", &demo_capture("receiver-disc.txt")]);
    let said = text(&output.stdout);
    assert!(output.status.success(), "{}", text(&output.stderr));
    for part in ["nec-ext", "confidence", "address", "31249", "0x7a11", "command", "0x31"] {
        assert!(said.contains(part), "{part} is not in {said}");
    }
}

#[test]
fn a_radio_capture_is_told_as_radio() {
    let output = run(&["decode", "--json", &demo_capture("screen-preset.txt")]);
    let document: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(document["best"], serde_json::Value::Null);
    assert!(document["radio"]["frames"].as_u64() > Some(1), "{document}");
}

#[test]
fn what_no_protocol_explains_is_said_and_is_no_failure() {
    let output = run(&["decode", &demo_capture("unknown-key.pulse")]);
    assert!(output.status.success());
    assert!(text(&output.stdout).len() > 30);
}

#[rstest]
#[case::no_such_file(&["decode", "/nowhere/at/all.txt"], "cannot be read")]
#[case::no_such_protocol(&["encode", "brass", "address=1"], "brass")]
#[case::no_value(&["encode", "nec", "address"], "is not name=value")]
#[case::no_number(&["encode", "nec", "address=x", "command=1"], "is not name=value")]
#[case::too_large(&["encode", "nec", "address=256", "command=1"], "address")]
#[case::field_missing(&["encode", "nec", "address=1"], "command")]
#[case::unknown_field(&["encode", "nec", "address=1", "command=1", "brass=1"], "brass")]
#[case::too_many_repeats(&["encode", "nec", "address=1", "command=1", "--repeats", "1001"], "0 to 1000")]
fn bad_input_ends_with_2_and_a_sentence(#[case] args: &[&str], #[case] expected: &str) {
    let output = run(args);
    let said = text(&output.stderr);
    assert_eq!(output.status.code(), Some(2), "{said}");
    assert!(said.starts_with("kestrel-dune: ") && said.contains(expected), "{said}");
    assert_eq!(text(&output.stdout), "", "nothing that a pipe would take for a result");
}

#[rstest]
#[case::empty(b"")]
#[case::words(b"neither pulses nor spaces")]
#[case::binary(&[0xff, 0x00, 0xfe])]
#[case::milliseconds(b"+9.02 -4.5 +0.56")]
#[case::half_a_file(b"$timescale 1us $end\n$var wire 1 ! ir $end")]
fn a_text_that_is_no_capture_ends_with_2(#[case] input: &[u8]) {
    let output = run_with(&["decode", "-"], input);
    assert_eq!(output.status.code(), Some(2), "{}", text(&output.stderr));
    assert!(text(&output.stderr).len() > 40, "{}", text(&output.stderr));
}

#[test]
fn a_database_that_is_away_ends_with_1() {
    let output = Command::new(env!("CARGO_BIN_EXE_kestrel-dune"))
        .args(["demo", "--port", "0"])
        .env("KESTREL_DATABASE_URL", "postgres://kestrel:x@127.0.0.1:9/none")
        .output()
        .unwrap();
    assert_eq!(output.status.code(), Some(1), "{}", text(&output.stdout));
    assert!(text(&output.stderr).contains("database"), "{}", text(&output.stderr));
}

#[test]
fn the_description_of_the_interface_is_the_one_that_is_kept() {
    let output = run(&["openapi"]);
    let kept = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs/openapi.json");
    let kept: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(kept).unwrap()).unwrap();
    let made: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(made, kept, "run: kestrel-dune openapi > docs/openapi.json");
}

/// The site file of the demo house, in a file of its own.
fn site_file(name: &str, change: impl Fn(String) -> String) -> PathBuf {
    let path = std::env::temp_dir().join(format!("kestrel-{}-{name}.kdune.json", std::process::id()));
    let text = change(text(&run(&["export", "demo"]).stdout));
    std::fs::write(&path, text).unwrap();
    path
}

fn json(output: &Output) -> serde_json::Value {
    assert!(output.status.success(), "{}", text(&output.stderr));
    serde_json::from_slice(&output.stdout).unwrap()
}

#[test]
fn a_plan_is_derived_from_a_site_file() {
    let site = site_file("plan", |text| text);
    let args = ["plan", site.to_str().unwrap(), "--room", "boat hall", "--from", "off", "--to", "streaming", "--json"];
    let plan = json(&run(&args));
    // Right after the last plan its lamp still cools for up to 90 s; both times are told.
    assert_eq!((plan["ready_ms"].as_u64(), plan["bound_ms"].as_u64()), (Some(129_340), Some(129_340)));
    assert_eq!(plan["settled_ms"].as_u64(), Some(39_340));
    assert!(plan["rests"].as_array().unwrap().iter().any(|rest| rest["what"].as_str().unwrap().contains("cooling")));
    assert_eq!((plan["optimal"].as_bool(), plan["runnable"].as_bool()), (Some(true), Some(true)));
    assert_eq!(plan["critical_chain"][0], "Projector: Power on");
    assert!(plan["steps"].as_array().unwrap().iter().all(|step| step["end_ms"].as_u64() >= step["start_ms"].as_u64()));
    let unknown = run(&[&args[..5], &["unknown", "--to", "off"]].concat());
    assert!(
        unknown.status.success() && text(&unknown.stdout).contains("Anything → Off in Boat Hall"),
        "{}",
        text(&unknown.stderr)
    );
}

#[test]
fn every_cell_is_proved_from_a_site_file() {
    let site = site_file("prove", |text| text);
    let rooms = json(&run(&["prove", site.to_str().unwrap(), "--json"]));
    let watch = rooms.as_array().unwrap().iter().find(|room| room["name"] == "Watch Room").unwrap();
    let risk = watch["cells"].as_array().unwrap().iter().find(|cell| cell["guarantee"] == "at-risk").unwrap();
    assert!(risk["story"]["beats"].as_array().unwrap().len() >= 2 && risk["states"].as_u64() > Some(0));
    let one = run(&["prove", site.to_str().unwrap(), "--room", "Bunk Cabin, tidy"]);
    assert!(text(&one.stdout).lines().filter(|line| line.ends_with("  Certain")).count() == 2, "{}", text(&one.stdout));
}

#[test]
fn a_check_fails_where_a_cell_is_at_risk() {
    let site = site_file("check", |text| text);
    let output = run(&["check", site.to_str().unwrap()]);
    assert_eq!(output.status.code(), Some(1));
    assert!(text(&output.stdout).contains("Watch Room: caution: At risk"), "{}", text(&output.stdout));
    assert!(text(&output.stderr).contains("4 cells of the switch matrix are at risk"));
}

#[rstest]
#[case::newer(|text: String| text.replacen("\"version\": 5", "\"version\": 7", 1), "reads up to version 5")]
#[case::truncated(|text: String| text[..2_000].to_owned(), "ends too soon")]
#[case::other(|_| "{}".to_owned(), "no site file")]
fn a_bad_site_file_is_refused(#[case] spoil: fn(String) -> String, #[case] expected: &str) {
    let site = site_file(&expected.replace(' ', "-"), spoil);
    for verb in ["check", "prove"] {
        let output = run(&[verb, site.to_str().unwrap()]);
        assert_eq!(output.status.code(), Some(2), "{verb}");
        assert!(text(&output.stderr).contains(expected), "{}", text(&output.stderr));
    }
}

#[rstest]
#[case(&["--room", "Moon Room", "--from", "off", "--to", "off"], "the rooms are Boat Hall")]
#[case(&["--room", "Boat Hall", "--from", "off", "--to", "opera"], "it can be off, Feature film")]
fn what_is_not_there_is_named_with_what_is(#[case] args: &[&str], #[case] expected: &str) {
    let site = site_file("names", |text| text);
    let output = run(&[&["plan", site.to_str().unwrap()], args].concat());
    assert_eq!(output.status.code(), Some(2));
    assert!(text(&output.stderr).contains(expected), "{}", text(&output.stderr));
}

#[test]
fn the_schema_in_docs_is_that_of_the_types() {
    let kept = std::fs::read_to_string(PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs/site.schema.json"));
    assert_eq!(
        kept.unwrap().trim(),
        text(&run(&["schema"]).stdout).trim(),
        "kestrel-dune schema > docs/site.schema.json"
    );
}
