//! Rooms in whose files names are letters, and how they are asked.

#![allow(clippy::unwrap_used, dead_code, reason = "a test, and not every test asks everything")]

use kestrel_core::file;
use kestrel_core::model::{Site, Situation};
use kestrel_core::plan::{Plan, plan};
use kestrel_core::prove::{Analysis, CellPlan};

pub fn house(name: &str) -> Site {
    let path = format!("{}/tests/data/truth/{name}.kdune.json", env!("CARGO_MANIFEST_DIR"));
    file::read(&std::fs::read_to_string(path).unwrap()).unwrap()
}

pub fn situation(site: &Site, name: &str) -> Situation {
    match name {
        "off" => Situation::Off,
        "unknown" => Situation::Unknown,
        name => Situation::In { activity: site.activities.iter().find(|known| known.name == name).unwrap().id },
    }
}

pub fn cell(site: &Site, from: &str, to: &str) -> CellPlan {
    let room = site.rooms.iter().find(|room| room.name == "R").unwrap().id;
    Analysis::of(site, room).cell_plan(situation(site, from), situation(site, to))
}

pub fn planned(site: &Site, from: &str, to: &str) -> Plan {
    let room = site.rooms.iter().find(|room| room.name == "R").unwrap().id;
    plan(site, room, situation(site, from), situation(site, to))
}
