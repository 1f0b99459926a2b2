//! Reading against bounds and against crates of the registry; `cargo bench -p kestrel-signal`.
//! The figures are kept in docs/PERFORMANCE.md.
#![allow(missing_docs, clippy::unwrap_used, reason = "a benchmark")]

use criterion::{Criterion, criterion_group, criterion_main};
use infrared::protocol::Nec;
use infrared::receiver::BufferInputReceiver;
use irp::{Decoder, InfraredData, Irp, Options};
use kestrel_signal::protocol::describe;
use kestrel_signal::{BuiltIn, Capture, Message, ProtocolId, read};
use std::hint::black_box;

const NEC: &str =
    "{38.4k,562.5}<1,-1|1,-3>(16,-8,D:8,S:8,F:8,~F:8,1,^108m,(16,-4,1,^108m)*)[D:0..255,S:0..255=255-D,F:0..255]";

/// The settings with which the decoder of the `irp` crate reads what receivers give.
fn irp_options() -> Options<'static> {
    Options { name: "nec", max_gap: 200_000, aeps: 100, eps: 10, ..Options::default() }
}

/// How many frames a compiled decoder finds.
fn irp_reads(options: &Options<'static>, dfa: &irp::DFA, events: &[InfraredData]) -> usize {
    let mut decoder = Decoder::new(options.clone());
    let mut found = 0;
    for event in events {
        decoder.dfa_input(*event, dfa, |_, _| found += 1);
    }
    found
}

fn decode(c: &mut Criterion) {
    let message = Message::new(ProtocolId::Nec, [("address", 4), ("command", 8)]).unwrap();
    let press = message.encode(1);
    let frame = &press[..press.len() - 1];
    let capture = Capture::new(press.clone(), None).unwrap();
    let mut group = c.benchmark_group("a NEC frame");
    group.bench_function("kestrel, one protocol", |b| {
        b.iter(|| BuiltIn::Nec.protocol().decode(black_box(frame)));
    });
    group.bench_function("kestrel, all protocols ranked", |b| b.iter(|| read(black_box(&capture))));
    let mut heard = vec![50_000];
    heard.extend(&press);
    group.bench_function("infrared crate, one protocol", |b| {
        let mut receiver = BufferInputReceiver::<Nec>::with_frequenzy(1_000_000);
        b.iter(|| receiver.iter(black_box(&heard)).next());
    });
    let irp = Irp::parse(NEC).unwrap();
    let options = irp_options();
    let dfa = irp.compile(&options).unwrap();
    let events = InfraredData::from_u32_slice(&press);
    assert!(irp_reads(&options, &dfa, &events) > 0, "what is timed is read");
    group.bench_function("irp crate, compiled decoder", |b| {
        b.iter(|| black_box(irp_reads(&options, &dfa, black_box(&events))));
    });
    group.finish();
}

/// 24 NEC captures, each with its clock off by up to 6 %, read by each decoder.
fn same_captures(c: &mut Criterion) {
    let presses: Vec<Vec<u32>> = (0..24)
        .map(|at| {
            let message = Message::new(ProtocolId::Nec, [("address", 4 + at), ("command", 8 * at)]).unwrap();
            let press = message.encode(1);
            press[..press.len() - 1].iter().map(|&us| us + us * (at % 7) / 100).collect()
        })
        .collect();
    let mut group = c.benchmark_group(format!("{} NEC captures", presses.len()));
    let captures: Vec<Capture> = presses.iter().map(|press| Capture::new(press.clone(), None).unwrap()).collect();
    assert!(captures.iter().all(|capture| read(capture).best.is_some()));
    group.bench_function("kestrel, one protocol", |b| {
        let protocol = BuiltIn::Nec.protocol();
        b.iter(|| presses.iter().filter(|press| protocol.decode(black_box(press)).is_ok()).count());
    });
    group.bench_function("kestrel, all protocols ranked", |b| {
        b.iter(|| captures.iter().filter(|capture| read(black_box(capture)).best.is_some()).count());
    });
    let described = describe("bench", NEC).unwrap();
    assert!(presses.iter().all(|press| described.decode(press).is_ok()), "what is timed is read");
    group.bench_function("kestrel, described in IRP", |b| {
        b.iter(|| presses.iter().filter(|press| described.decode(black_box(press)).is_ok()).count());
    });
    let heard: Vec<Vec<u32>> = presses.iter().map(|press| [&[50_000], press.as_slice()].concat()).collect();
    group.bench_function("infrared crate, one protocol", |b| {
        b.iter(|| {
            let mut receiver = BufferInputReceiver::<Nec>::with_frequenzy(1_000_000);
            heard.iter().filter(|press| receiver.iter(black_box(press)).next().is_some()).count()
        });
    });
    let irp = Irp::parse(NEC).unwrap();
    let options = irp_options();
    let dfa = irp.compile(&options).unwrap();
    let events: Vec<_> =
        presses.iter().map(|press| InfraredData::from_u32_slice(&[press.as_slice(), &[60_000]].concat())).collect();
    let read_by_irp = || events.iter().filter(|press| irp_reads(&options, &dfa, press) > 0).count();
    assert_eq!(read_by_irp(), presses.len(), "what is timed is read");
    group.bench_function("irp crate, compiled decoder", |b| b.iter(|| black_box(read_by_irp())));
    group.finish();
}

criterion_group!(benches, decode, same_captures);
criterion_main!(benches);
