//! Every reader of files and texts, as something that takes any bytes: the fuzz targets call them, and a short run with the
//! same seeds is a test (`crates/core/tests/fuzzed.rs`). None may stop the program, hang, or keep what it cannot write again.

use kestrel_core::{codes::import, demo, file};
use kestrel_signal::ip::{IpCommand, parse_mac};
use kestrel_signal::payload::Payload;
use kestrel_signal::propose::propose;
use kestrel_signal::protocol::described::look_at;
use kestrel_signal::{Capture, Message, exchange, radio, read, text};

/// A reader, and texts that it reads: what is mutated.
pub struct Reader {
    /// What it is called.
    pub name: &'static str,
    /// It takes anything.
    pub takes: fn(&[u8]),
    /// Texts that it reads.
    pub seeds: &'static [&'static str],
}

/// All of them.
pub const READERS: &[Reader] = &[
    Reader { name: "capture", takes: capture, seeds: CAPTURES },
    Reader { name: "codes", takes: codes, seeds: CODES },
    Reader { name: "site_file", takes: site_file, seeds: &[SITE] },
    Reader { name: "irp", takes: irp, seeds: IRP },
    Reader { name: "message", takes: message, seeds: MESSAGES },
    Reader { name: "command", takes: command, seeds: COMMANDS },
    Reader { name: "payload", takes: payload, seeds: &["26 00 0a 00", "JgAKAA==", "0x2600", "26:00:0a"] },
];

fn words(bytes: &[u8]) -> std::borrow::Cow<'_, str> {
    String::from_utf8_lossy(bytes)
}

/// A capture in any form; what is read can be written as text and is the same.
pub fn capture(bytes: &[u8]) {
    let Ok(parsed) = exchange::capture(bytes, None) else { return };
    let reading = read(&parsed.capture);
    assert!(reading.best.is_none_or(|best| (0.0..=1.0).contains(&best.confidence)));
    let _ = radio::read(&parsed.capture);
    let _ = propose(&[parsed.capture.clone(), parsed.capture.clone(), parsed.capture.clone()]);
    let written = text::to_signed(parsed.capture.durations_us());
    let again = text::parse(written.as_bytes()).map(|again| again.capture.durations_us().to_vec());
    assert!(again.is_ok_and(|again| again == parsed.capture.durations_us()));
}

/// A file of several codes.
pub fn codes(bytes: &[u8]) {
    let Ok((_, found)) = import::read(&words(bytes)) else { return };
    let _ = import::preview(&demo::marram_point(), None, &found);
}

/// A site file: what is read is written again, and read as the same.
pub fn site_file(bytes: &[u8]) {
    let Ok(site) = file::read(&words(bytes)) else { return };
    let written = file::write(&site);
    assert!(file::read(&written).is_ok_and(|again| again == site));
}

/// A description of a protocol: what is told can be sent.
pub fn irp(bytes: &[u8]) {
    let Ok(looked) = look_at("fuzzed", &words(bytes)) else { return };
    assert!(Capture::new(looked.frame, None).is_ok());
}

/// A message as it is written in a file.
pub fn message(bytes: &[u8]) {
    let Ok(message) = serde_json::from_slice::<Message>(bytes) else { return };
    assert!(!message.encode(1).is_empty());
    let written = serde_json::to_string(&message).unwrap_or_default();
    assert!(serde_json::from_str::<Message>(&written).is_ok_and(|again| again == message));
}

/// A command on the network, and an address of hardware.
pub fn command(bytes: &[u8]) {
    let _ = parse_mac(&words(bytes));
    let Ok(command) = serde_json::from_slice::<IpCommand>(bytes) else { return };
    let _ = command.bytes();
    let _ = command.to_string();
}

/// What a gateway gave.
pub fn payload(bytes: &[u8]) {
    let Ok(payload) = Payload::parse(&words(bytes)) else { return };
    assert!(Payload::parse(&payload.hex()).is_ok_and(|again| again == payload));
}

const CAPTURES: &[&str] = &[
    "+9024 -4512 +564 -564 +564 -1692 +564",
    "pulse 9024\nspace 4512\npulse 564\n",
    "# a comment\n9024,4512,564,564,564",
    "Time [s],Channel 0\n0.000000,0\n0.000100,1\n0.009100,0\n0.013600,1\n0.014160,0\n",
    "$timescale 1 us $end\n$var wire 1 ! D0 $end\n$enddefinitions $end\n#0\n0!\n#100\n1!\n#9100\n0!\n#13600\n1!\n#14160\n0!\n",
];

const CODES: &[&str] = &[
    "[[protocols]]\nname = \"x\"\nprotocol = \"nec\"\nvariant = \"necx\"\n[protocols.scancodes]\n0x117a31 = \"KEY_DVD\"\n",
    "[[protocols]]\nprotocol = \"raw\"\n[[protocols.raw]]\nkeycode = \"KEY_UP\"\nraw = [9000, 4500, 560]\n",
    "device,function,presses,hold_ms,as,code\nReceiver,Disc,1,0,message,nec-ext address=0x7a11 command=0x31\n",
    "# Receiver · Disc\n+9024 -4512 +564 -564 +564 -1692 +564\n",
];

const SITE: &str = "{\"format\":\"kestrel-dune-site\",\"version\":5,\"site\":{\"house\":{\"id\":\"00000000-0000-0000-0000-000000000001\",\"name\":\"A\"},\"rooms\":[],\"profiles\":[],\"devices\":[],\"connections\":[],\"codes\":[],\"activities\":[]}}";

const IRP: &[&str] = &[
    "{38k,500}<1,-1|1,-3>(12,-6,D:16,F:8,~F:8,1,^90m)*[D:0..65535,F:0..255]",
    "{36k,msb,889}<1,-1|-1,1>(1,1:1,T:1,D:5,F:6,^114m)*[D:0..31,F:0..63,T@:0..1=0]",
    "{38k,450}<1,-1|1,-3>(8,-4,D:8,F:8,C:4,1,^75m)*{C=(D^(D>>4)^F^(F>>4))&15}[D:0..255,F:0..255]",
    "{38k,300,msb}<1,-2|1,-3|1,-4|1,-5>(9,-5,D:8,1,^60m)3[D:0..255]",
];

const MESSAGES: &[&str] = &[
    "{\"protocol\":\"nec\",\"fields\":{\"address\":4,\"command\":8}}",
    "{\"protocol\":\"irp:afar{38k,500}<1,-1|1,-3>(8,-4,K:12,1,^60m)*[K:0..4095]\",\"fields\":{\"K\":77}}",
];

const COMMANDS: &[&str] = &[
    "02:00:5e:10:00:01",
    "{\"protocol\":\"pjlink\",\"command\":\"POWR 1\"}",
    "{\"protocol\":\"payload\",\"transport\":\"tcp\",\"port\":23,\"form\":\"text\",\"text\":\"PWON\\\\r\"}",
];
