//! Speed against bounds and against crates of the registry; `cargo bench -p kestrel-core`.
//! The figures are kept in docs/PERFORMANCE.md.
#![allow(missing_docs, clippy::unwrap_used, reason = "a benchmark")]

use criterion::{Criterion, criterion_group, criterion_main};
use infrared::protocol::Nec;
use infrared::receiver::BufferInputReceiver;
use irp::{Decoder, InfraredData, Irp, Options};
use kestrel_core::demo::{self, ids};
use kestrel_core::plan::{Situation, plan};
use kestrel_core::signal::{Capture, Message, ProtocolId, read};
use std::hint::black_box;

const NEC: &str =
    "{38.4k,564}<1,-1|1,-3>(16,-8,D:8,S:8,F:8,~F:8,1,^108m,(16,-4,1,^108m)*)[D:0..255,S:0..255=255-D,F:0..255]";

fn decode(c: &mut Criterion) {
    let message = Message::new(ProtocolId::Nec, [("address", 4), ("command", 8)]).unwrap();
    let press = message.encode(1);
    let frame = &press[..press.len() - 1];
    let capture = Capture::new(press.clone(), None).unwrap();
    let mut group = c.benchmark_group("a NEC frame");
    group.bench_function("kestrel, one protocol", |b| {
        b.iter(|| ProtocolId::Nec.protocol().decode(black_box(frame)));
    });
    group.bench_function("kestrel, all protocols ranked", |b| b.iter(|| read(black_box(&capture))));
    let mut heard = vec![50_000];
    heard.extend(&press);
    group.bench_function("infrared crate, one protocol", |b| {
        let mut receiver = BufferInputReceiver::<Nec>::with_frequenzy(1_000_000);
        b.iter(|| receiver.iter(black_box(&heard)).next());
    });
    let irp = Irp::parse(NEC).unwrap();
    let options = Options { name: "nec", max_gap: 100_000, ..Options::default() };
    let dfa = irp.compile(&options).unwrap();
    let events = InfraredData::from_u32_slice(&press);
    group.bench_function("irp crate, compiled decoder", |b| {
        b.iter(|| {
            let mut decoder = Decoder::new(options.clone());
            let mut found = 0;
            for event in &events {
                decoder.dfa_input(*event, &dfa, |_, _| found += 1);
            }
            black_box(found)
        });
    });
    group.finish();
}

fn planning(c: &mut Criterion) {
    let site = demo::marram_point();
    let film = Situation::In { activity: ids::feature_film() };
    c.bench_function("plan of the demo room, off to film", |b| {
        b.iter(|| plan(black_box(&site), ids::boat_hall(), Situation::Off, film));
    });
    c.bench_function("plan of the demo room, unknown to film", |b| {
        b.iter(|| plan(black_box(&site), ids::boat_hall(), Situation::Unknown, film));
    });
}

criterion_group!(benches, decode, planning);
criterion_main!(benches);
