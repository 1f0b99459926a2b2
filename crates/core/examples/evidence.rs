//! Writes the evidence of the demo house into its site file: readings, results of tests with what they rest on, an order
//! list. `cargo run -p kestrel-core --example evidence` from the top of the repository, after the house or the facts of its
//! tests have changed.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a tool for the developers of the demo house")]

use jiff::Timestamp;
use kestrel_core::commission::{TestLine, list, runs};
use kestrel_core::demo::ids;
use kestrel_core::id::{DeviceId, RoomId};
use kestrel_core::model::{
    Burst, CodeBody, Measurement, Order, OrderState, Outcome, SeenIn, Site, Span, TestOf, TestResult, Timing,
};
use kestrel_core::papers::{self, Chapter, Links, Made, RoomPart};
use kestrel_core::prove::Analysis;
use kestrel_core::{check, file};
use kestrel_signal::{Message, ProtocolId};
use std::fs;
use std::mem::discriminant;
use uuid::Uuid;

const FILE: &str = "demo/marram-point.kdune.json";
const WHO: &str = "R. Ferrow";

fn id<T: From<Uuid>>(kind: u32, number: u32) -> T {
    Uuid::from_u128(0x6b64_0000_0000_7000_8000_0000_0000_0000 | u128::from(kind) << 80 | u128::from(number)).into()
}

fn at(minute: i64) -> Timestamp {
    let start: Timestamp = "2027-04-30T09:00:00Z".parse().unwrap();
    start.checked_add(jiff::SignedDuration::from_mins(minute)).unwrap()
}

/// Nine readings between two times, and the interval in use.
fn read(site: &mut Site, device: DeviceId, timing: Timing, lo_ms: u32, hi_ms: u32) {
    let first = u32::try_from(site.measurements.len()).unwrap();
    for step in 0..9_u32 {
        // The shortest, the longest, and others between them in no order.
        let place = [4, 0, 6, 3, 8, 1, 5, 7, 2][step as usize];
        let ms = if timing.is_pause() { hi_ms } else { lo_ms + (hi_ms - lo_ms) * place / 8 };
        site.measurements.push(Measurement {
            burst: timing.is_pause().then_some(Burst { sent: 6, counted: 6 }),
            by_way: if timing.is_pause() { "gap finder" } else { "by hand" }.to_owned(),
            who: WHO.to_owned(),
            ..Measurement::new(id(30, first + step + 1), device, timing, ms, at(i64::from(first + step) * 2))
        });
    }
    let span = Span { lo_ms, hi_ms, basis: kestrel_core::model::Basis::measured(9) };
    let profile = site.profile_of(device).unwrap().into_owned();
    let own = site.devices.find_mut(|own| own.id == device).unwrap();
    for change in timing.with(&profile, span) {
        own.overrides.retain(|known| discriminant(known) != discriminant(&change));
        own.overrides.push(change);
    }
}

fn lines(site: &Site, room: RoomId) -> Vec<TestLine> {
    list(site, room, &runs(site, room))
}

fn write(site: &mut Site, line: &TestLine, outcome: Outcome, seen: SeenIn, note: &str) {
    let number = u32::try_from(site.results.len()).unwrap() + 1;
    site.results.push(TestResult {
        id: id(31, number),
        of: line.of.clone(),
        outcome,
        seen,
        note: note.to_owned(),
        photo: None,
        at: at(i64::from(number) * 3),
        who: WHO.to_owned(),
        facts: line.facts.clone(),
    });
}

fn main() {
    let text = fs::read_to_string(FILE).unwrap();
    let mut site = file::read(&text).unwrap();
    site.measurements = Default::default();
    site.results = Default::default();
    site.orders = Default::default();
    // The tidy cabin is handed over: its display was timed, and every test was passed.
    let tidy = site.devices.iter().find(|device| device.name == "Tidy display").unwrap().id;
    for (timing, lo, hi) in [
        (Timing::WarmUp, 3_100, 5_200),
        (Timing::Picture, 3_100, 5_200),
        (Timing::CoolDown, 600, 900),
        (Timing::Input, 700, 1_400),
        (Timing::Gap, 0, 250),
    ] {
        read(&mut site, tidy, timing, lo, hi);
    }
    for line in lines(&site, ids::tidy_cabin()) {
        write(&mut site, &line, Outcome::Passed, SeenIn::House, "As it should be.");
    }
    // The hall shows every state of a test.
    let hall = lines(&site, ids::boat_hall());
    let functions: Vec<&TestLine> = hall.iter().filter(|line| matches!(line.of, TestOf::Function { .. })).collect();
    write(&mut site, functions[0], Outcome::Passed, SeenIn::House, "");
    write(&mut site, functions[1], Outcome::Passed, SeenIn::House, "");
    write(
        &mut site,
        functions[2],
        Outcome::Failed,
        SeenIn::House,
        "Nothing happened; the door of the cabinet was shut.",
    );
    write(&mut site, functions[3], Outcome::Passed, SeenIn::Rehearsed, "Understood in the rehearsal room.");
    write(&mut site, functions[4], Outcome::NotPossible, SeenIn::House, "The key does nothing without a disc in it.");
    // One has a code that was learned anew since.
    let stale = functions[5];
    let TestOf::Function { device, function } = stale.of else { panic!("a function") };
    let now = site.code(device, function).unwrap().body.clone();
    let code = site.codes.find_mut(|code| code.device == device && code.function == function).unwrap();
    if let CodeBody::Decoded { .. } = &now {
        let message = Message::new(ProtocolId::NecExt, [("address", 0x1234), ("command", 0x77)]).unwrap();
        code.body = CodeBody::of(message);
    }
    let then = lines(&site, ids::boat_hall()).into_iter().find(|line| line.of == stale.of).unwrap();
    site.codes.find_mut(|code| code.device == device && code.function == function).unwrap().body = now;
    write(&mut site, &then, Outcome::Passed, SeenIn::House, "");
    let order = |number, room, what: &str, quantity, state, note: &str| Order {
        id: id(32, number),
        room,
        what: what.to_owned(),
        quantity,
        state,
        note: note.to_owned(),
    };
    site.orders.push(order(
        1,
        Some(ids::boat_hall()),
        "Light sensor for the lamp of the disc player",
        1,
        OrderState::Wanted,
        "so that its power is seen",
    ));
    site.orders.push(order(
        2,
        Some(ids::watch_room()),
        "Current sensor for the display",
        1,
        OrderState::Ordered,
        "its power can only be toggled",
    ));
    site.orders.push(order(3, None, "Emitter, self-adhesive", 4, OrderState::Fitted, ""));
    site.sort();
    fs::write(FILE, file::write(&site)).unwrap();
    // What was handed over, as it was: papers are kept and never made anew.
    let room = ids::tidy_cabin();
    let matrix = Analysis::of(&site, room).matrix();
    let (own, tests) = (runs(&site, room), lines(&site, room));
    let findings = check::room(&site, room).findings;
    let part = RoomPart { room, matrix: &matrix, runs: &own, tests: &tests, findings: &findings };
    let made = Made { date: "3 May 2027".to_owned(), revision: 0, handover: Some(1) };
    fs::create_dir_all("demo/handover").unwrap();
    fs::write("demo/handover/record.html", papers::record(&site, &[part], &Chapter::ALL, false, &made)).unwrap();
    let client = papers::client(&site, &[(room, &matrix, [0; 3])], &Links::new(), &made);
    fs::write("demo/handover/client.html", client).unwrap();
    fs::write("demo/handover/orders.html", papers::orders_html(&site, &made)).unwrap();
    println!("{} readings, {} results", site.measurements.len(), site.results.len());
}
