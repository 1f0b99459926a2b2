//! The command line, run as a person or a script runs it.
#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test")]

use rstest::rstest;
use serde_json::{Value, json};
use std::io::Write;
use std::process::{Command, Output, Stdio};

fn run(arguments: &[&str], input: &[u8]) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_kestrel-dune"))
        .args(arguments)
        .env_remove("KESTREL_DATABASE_URL")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A verb that refuses early has closed its input: that is no fault of the test.
    let _ = child.stdin.take().unwrap().write_all(input);
    child.wait_with_output().unwrap()
}

fn text(bytes: &[u8]) -> String {
    String::from_utf8(bytes.to_vec()).unwrap()
}

fn decoded(input: &[u8]) -> Value {
    let output = run(&["decode", "--json", "-"], input);
    assert!(output.status.success(), "{}", text(&output.stderr));
    serde_json::from_slice(&output.stdout).unwrap()
}

#[rstest]
#[case("nec", &["address=4", "command=8"])]
#[case("nec-ext", &["address=31249", "command=49"])]
#[case("rc5", &["address=20", "command=87", "toggle=1"])]
#[case("rc6", &["address=39", "command=179"])]
#[case("sirc-12", &["address=1", "command=21"])]
#[case("sirc-15", &["address=176", "command=117"])]
#[case("sirc-20", &["address=26", "command=46", "extended=90"])]
#[case("kaseikyo", &["vendor=8194", "device=3", "subdevice=96", "function=172", "extension=1"])]
#[case("pd32", &["address=31842", "command=159"])]
#[case("pd16", &["address=131", "command=112"])]
fn what_encode_prints_decode_reads(#[case] protocol: &str, #[case] fields: &[&str], #[values(1, 3)] repeats: u32) {
    let repeats = repeats.to_string();
    let mut arguments = vec!["encode", protocol];
    arguments.extend(fields);
    arguments.extend(["--repeats", &repeats]);
    let encoded = run(&arguments, b"");
    assert!(encoded.status.success(), "{}", text(&encoded.stderr));
    assert!(text(&encoded.stdout).starts_with('+'));
    let best = &decoded(&encoded.stdout)["best"];
    assert_eq!(best["protocol"], protocol);
    for field in fields {
        let (name, value) = field.split_once('=').unwrap();
        assert_eq!(best["fields"][name], json!(value.parse::<u32>().unwrap()), "{best}");
    }
}

#[test]
fn a_field_can_be_hexadecimal() {
    let decimal = run(&["encode", "nec", "address=50", "command=46"], b"");
    let hexadecimal = run(&["encode", "nec", "address=0x32", "command=0x2e"], b"");
    assert_eq!(decimal.stdout, hexadecimal.stdout);
}

#[test]
fn repeats_follow_the_first_frame() {
    let one = text(&run(&["encode", "nec", "address=4", "command=8"], b"").stdout);
    let two = text(&run(&["encode", "nec", "address=4", "command=8", "--repeats", "1"], b"").stdout);
    assert_eq!(one.split_whitespace().count(), 68);
    // The held-key frame: 9 ms, 2.25 ms, a stop mark and its silence.
    assert_eq!(two.split_whitespace().count(), 68 + 4);
    assert!(two.starts_with(one.trim_end()));
}

#[test]
fn the_json_document_has_the_shape_that_is_promised() {
    let nothing = decoded(b"+1350 -1834 +601 -880 +2946 -692 +1113 -1689 +541 -4219");
    assert_eq!((&nothing["best"], &nothing["candidates"]), (&Value::Null, &json!([])));
    assert!(nothing["why"].as_str().unwrap().starts_with("Not recognised"));
    let press = run(&["encode", "nec", "address=4", "command=8"], b"").stdout;
    let reading = decoded(&press);
    assert_eq!(reading["candidates"][0], reading["best"]);
    assert!(reading["best"]["confidence"].as_f64().unwrap() > 0.99);
}

#[test]
fn a_radio_capture_is_read_as_a_fixed_code() {
    let capture = include_bytes!("../../../demo/captures/screen-preset.txt");
    let reading = decoded(capture);
    assert_eq!(reading["best"], Value::Null);
    assert_eq!(reading["radio"]["candidates"], json!([{"code": "ook-24", "identity": 369_601, "key": 8}]));
    let printed = text(&run(&["decode", "-"], capture).stdout);
    assert!(printed.contains("ook-24 identity=369601 key=8"), "{printed}");
}

#[test]
fn a_person_gets_a_table() {
    let press = run(&["encode", "rc5", "address=20", "command=87"], b"").stdout;
    let printed = text(&run(&["decode", "-"], &press).stdout);
    assert!(printed.starts_with("Read as rc5 address=20 command=87 toggle=0"), "{printed}");
    assert!(printed.contains("confidence") && printed.contains("0x57"), "{printed}");
}

#[rstest]
#[case::no_file(&["decode", "/nowhere/at.all"], "", "cannot be read")]
#[case::empty(&["decode", "-"], "", "The capture is empty")]
#[case::milliseconds(&["decode", "-"], "+9.02 -4.5", "multiply by 1000")]
#[case::unknown_protocol(&["encode", "morse", "a=1"], "", "There is no protocol “morse”")]
#[case::no_pair(&["encode", "nec", "address"], "", "is not name=value")]
#[case::out_of_range(&["encode", "nec", "address=256", "command=1"], "", "goes from 0 to 255")]
#[case::missing(&["encode", "nec", "address=25"], "", "needs the field “command”")]
#[case::too_many(&["encode", "nec", "address=2", "command=1", "--repeats", "5000"], "", "0 to 1000")]
#[case::unknown_verb(&["juggle"], "", "unrecognized subcommand")]
fn bad_input_ends_with_code_2_and_says_what_to_do(
    #[case] arguments: &[&str],
    #[case] input: &str,
    #[case] expected: &str,
) {
    let output = run(arguments, input.as_bytes());
    assert_eq!(output.status.code(), Some(2));
    assert!(text(&output.stderr).contains(expected), "{}", text(&output.stderr));
    assert!(output.stdout.is_empty(), "nothing on standard output");
}

#[test]
fn a_database_that_is_not_there_ends_with_code_1() {
    let output = run(&["serve", "--port", "0", "--database-url", "postgres://kestrel:x@127.0.0.1:9/none"], b"");
    assert_eq!(output.status.code(), Some(1));
    assert!(text(&output.stderr).contains("The database cannot be reached"), "{}", text(&output.stderr));
}

#[test]
fn the_description_is_valid_json_with_every_route() {
    let description: Value = serde_json::from_slice(&run(&["openapi"], b"").stdout).unwrap();
    let paths = description["paths"].as_object().unwrap();
    for path in ["/healthz", "/api/houses/{house}/edits", "/api/readings", "/api/houses/{house}/rooms/{room}/plan"] {
        assert!(paths.contains_key(path), "{path}");
    }
}
