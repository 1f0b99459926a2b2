//! What an edit costs, in a small house and in a large one: processor time of this process, and what a line of the
//! history weighs. Bound: 30 ms of processor time and 20 kB in a house of 400 devices and 8,000 codes.
//!
//! Run with `cargo bench -p kestrel-store --features testing`.
#![allow(clippy::unwrap_used, reason = "a bench")]

use kestrel_core::demo::{self, ids};
use kestrel_core::edit::{Edit, Entity};
use kestrel_core::model::{Code, Device, Site};
use kestrel_store::{By, Store, testing};
use std::time::Duration;
use uuid::Uuid;

/// How many edits are averaged.
const EDITS: u32 = 200;

/// The demo house with so many more devices, each with 22 codes.
fn house(more: u128) -> Site {
    let mut site = demo::marram_point();
    let device = site.device(ids::receiver()).unwrap().clone();
    let code = site.codes.iter().find(|code| code.device == device.id).unwrap().clone();
    let functions = site.profile(device.profile).unwrap().functions.clone();
    for at in 0..more {
        let id = Uuid::from_u128(7 << 96 | at).into();
        site.devices.push(Device { id, name: format!("Box {at}"), overrides: vec![], ..device.clone() });
        for (key, function) in (0..).zip(functions.iter().cycle().take(22)) {
            let own = Uuid::from_u128(8 << 96 | at << 32 | key).into();
            site.codes.push(Code { id: own, device: id, function: function.id, ..code.clone() });
        }
    }
    site.sort();
    site
}

/// Processor time of this process so far, user and system, as Linux counts it (in ticks of 10 ms).
fn processor() -> Duration {
    let stat = std::fs::read_to_string("/proc/self/stat").unwrap();
    let fields: Vec<&str> = stat.rsplit(')').next().unwrap().split_whitespace().collect();
    // After the name, utime and stime are the 12th and 13th fields.
    let ticks: u64 = fields[11..13].iter().map(|ticks| ticks.parse::<u64>().unwrap()).sum();
    Duration::from_millis(ticks * 10)
}

async fn edits(store: &Store) -> Duration {
    let mut now = store.load(ids::house()).await.unwrap();
    let before = processor();
    for at in 0..EDITS {
        let device = now.site.device(ids::projector()).unwrap();
        let entity = Entity::Device(Device { name: format!("Lantern {at}"), ..device.clone() });
        let base = now.versions.get(&entity.key()).copied();
        now = store.edit(ids::house(), By::name("bench"), &[Edit::Put { entity, base }]).await.unwrap().snapshot;
    }
    (processor() - before) / EDITS
}

#[tokio::main(flavor = "current_thread")]
async fn main() {
    let mut each = Vec::new();
    for (name, more) in [("small", 0), ("large", 360)] {
        let (store, _) = testing::fresh().await;
        let site = house(more);
        store.add_house(&site).await.unwrap();
        let took = edits(&store).await;
        println!(
            "{name}: {} devices, {} codes: {:.2} ms of processor time an edit",
            site.devices.len(),
            site.codes.len(),
            took.as_secs_f64() * 1e3
        );
        each.push(took);
    }
    println!("large to small: {:.1}", each[1].as_secs_f64() / each[0].as_secs_f64().max(1e-6));
    assert!(each[1] < Duration::from_millis(30), "the bound is 30 ms of processor time an edit");
}
