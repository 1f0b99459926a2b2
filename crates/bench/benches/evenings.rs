//! How much faster than real time an evening is played, and what one more look at a room costs. Figures and bounds:
//! docs/PERFORMANCE.md.
#![allow(missing_docs, clippy::unwrap_used, reason = "a benchmark")]

use criterion::{Criterion, criterion_group, criterion_main};
use kestrel_bench::Rehearsal;
use kestrel_bench::story::on_simulated_clock;
use kestrel_bench::trials::{Progress, TrialRequest, make_up, run};
use kestrel_core::demo::{self, ids};
use std::hint::black_box;
use std::sync::Arc;

/// The least ratio of simulated to real time.
const FASTER: f64 = 1_000.0;

fn evenings(c: &mut Criterion) {
    let site = Arc::new(demo::with_disc());
    let asked = TrialRequest { evenings: 1, seed: 7, hands: true, faults: true };
    let mut group = c.benchmark_group("an evening at random");
    group.sample_size(10);
    for (name, room) in [("Chart Loft", ids::chart_loft()), ("Boat Hall", ids::boat_hall())] {
        let (_, length_ms) = make_up(&site, room, asked.seed, &asked);
        group.bench_function(format!("{name}, {} min", length_ms / 60_000), |b| {
            b.iter(|| {
                let report = run(black_box(&site), room, &asked, &Progress::default()).unwrap();
                let faster = report.simulated_ms as f64 / (report.took_ms.max(1) as f64);
                assert!(faster > FASTER, "only {faster:.0} times real time");
            });
        });
    }
    group.finish();
    let rehearsals = on_simulated_clock(async {
        (0..50).map(|_| Rehearsal::in_memory(site.clone(), ids::chart_loft(), 1.0).view()).collect::<Vec<_>>()
    });
    assert_eq!(rehearsals.unwrap().len(), 50);
    c.bench_function("the view of a room, as JSON", |b| {
        b.iter(|| {
            on_simulated_clock(async {
                let rehearsal = Rehearsal::in_memory(site.clone(), ids::chart_loft(), 1.0);
                serde_json::to_string(&rehearsal.view()).map(|text| text.len()).unwrap_or(0)
            })
        });
    });
}

criterion_group!(benches, evenings);
criterion_main!(benches);
