//! Speed against bounds and against crates of the registry; `cargo bench -p kestrel-core`.
//! The figures are kept in docs/PERFORMANCE.md.
#![allow(missing_docs, clippy::unwrap_used, reason = "a benchmark")]

use criterion::{Criterion, criterion_group, criterion_main};
use kestrel_core::check;
use kestrel_core::codes::export::{Format, Scope, export};
use kestrel_core::codes::import;
use kestrel_core::cue::{find, preview};
use kestrel_core::demo::{self, ids};
use kestrel_core::device::{Automaton, State, Target, home};
use kestrel_core::edit::copy;
use kestrel_core::file;
use kestrel_core::id::{InputId, RoomId};
use kestrel_core::kit::twins;
use kestrel_core::model::{
    Activity, AfterPowerOn, Code, CodeBody, Couples, Device, Function, Input, ListEnds, ListOpens, Rehearsing, Room,
    RoomPlans, Selection, Site, Situation, Span,
};
use kestrel_core::plan::plan;
use kestrel_core::prove::{Analysis, stands};
use kestrel_core::space::scene::Posture;
use kestrel_core::space::{self as room_in_space, gateways, reach};
use kestrel_signal::{Message, ProtocolId};
use std::collections::BTreeSet;
use std::hint::black_box;
use uuid::Uuid;

const DEVICES: usize = 400;
const CODES_EACH: u32 = 20;

/// A house of 400 devices with 20 codes each, in 20 rooms.
fn large_house() -> Site {
    let mut number = 1_u128 << 64;
    let mut fresh = || {
        number += 1;
        Uuid::from_u128(number)
    };
    let demo = demo::marram_point();
    let mut model = copy::renumbered(demo.model_of(ids::receiver()).unwrap(), &mut fresh).0;
    let plain = model.functions[0].clone();
    model.functions =
        (0..CODES_EACH).map(|at| Function { id: fresh().into(), name: format!("Key {at}"), ..plain.clone() }).collect();
    let template = demo.device(ids::receiver()).unwrap().clone();
    let mut site = demo.clone();
    (site.rooms, site.devices, site.codes, site.profiles) = Default::default();
    (site.connections, site.activities) = Default::default();
    for at in 0..20_u32 {
        site.rooms.push(Room {
            id: fresh().into(),
            name: format!("Room {at}"),
            position: at,
            rack: false,
            plans: RoomPlans::default(),
            rehearsal: Rehearsing::default(),
            lighting: Default::default(),
            accepted: vec![],
            floor: Default::default(),
            surfaces: vec![],
            voice: Default::default(),
        });
    }
    for at in 0..DEVICES {
        let id = fresh().into();
        let room = site.rooms[at % 20].id;
        site.devices.push(Device { id, room, profile: model.id, name: format!("Device {at}"), ..template.clone() });
        for (command, function) in (0..).zip(&model.functions) {
            // A low byte of 0 to 200 is never the complement of the high byte, which would make it plain NEC.
            let at = u32::try_from(at).unwrap();
            let fields = [("address", at / 200 * 0x0100 + 0x0200 + at % 200), ("command", command)];
            let message = Message::new(ProtocolId::NecExt, fields).unwrap();
            site.codes.push(Code {
                id: fresh().into(),
                device: id,
                function: function.id,
                body: CodeBody::of(message),
                captured: None,
                since: None,
                tested: None,
            });
        }
    }
    site.profiles.push(model);
    site.sort();
    site
}

fn large(c: &mut Criterion) {
    let site = large_house();
    assert_eq!((site.devices.len(), site.codes.len()), (400, 8_000));
    let room = site.rooms[0].id;
    let code = &site.codes[0];
    let mut group = c.benchmark_group("400 devices, 8000 codes");
    group.sample_size(20);
    group.bench_function("what is wrong in a room", |b| b.iter(|| check::room(black_box(&site), room)));
    group.bench_function("codes near to one", |b| {
        b.iter(|| twins::near(black_box(&site), code.device, Some(code.id), &code.body, 2));
    });
    group.bench_function("every code as CSV", |b| b.iter(|| export(black_box(&site), Scope::House, Format::Csv)));
    let text = export(&site, Scope::House, Format::Csv).unwrap().text;
    group.bench_function("the CSV read and compared", |b| {
        b.iter(|| {
            let (_, found) = import::read(black_box(&text)).unwrap();
            import::preview(&site, None, &found)
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

/// Five devices of the Boat Hall that switch each other, with more than 100,000 joint start states and nine situations.
fn coupled_house() -> Site {
    let mut site = demo::with_disc();
    let couples =
        Couples { wakes: true, woken: true, sleeps: false, put_to_sleep: true, delay: Span::assumed(500, 3_000) };
    for device in [ids::projector(), ids::disc_player()] {
        let model = site.device(device).unwrap().profile;
        let profile = site.profiles.iter_mut().find(|profile| profile.id == model).unwrap();
        profile.couples = Some(Couples { wakes: device == ids::disc_player(), ..couples });
        if device == ids::projector() {
            for more in 4..8 {
                let id = InputId(Uuid::from_u128(900 + more));
                profile.inputs.push(Input { id, name: format!("HDMI {more}"), ..profile.inputs[0].clone() });
            }
        }
    }
    let hall: Vec<Activity> = site.activities.iter().filter(|a| a.room == ids::boat_hall()).cloned().collect();
    for copy in 0..5 {
        let original = &hall[copy % hall.len()];
        let id = Uuid::from_u128(700 + copy as u128).into();
        let name = format!("{} again {copy}", original.name);
        site.activities.push(Activity { id, name, position: 20, ..original.clone() });
    }
    site.sort();
    site
}

fn proving(c: &mut Criterion) {
    let site = demo::with_disc();
    let mut group = c.benchmark_group("proof");
    group.sample_size(10);
    group.bench_function("matrix of a room with couplings (Boat Hall, 12 cells)", |b| {
        b.iter(|| Analysis::of(black_box(&site), ids::boat_hall()).matrix());
    });
    group.bench_function("matrix of a room without (Slip Deck, 6 cells)", |b| {
        b.iter(|| Analysis::of(black_box(&site), ids::slip_deck()).matrix());
    });
    let coupled = coupled_house();
    let analysis = Analysis::of(&coupled, ids::boat_hall());
    let ours = analysis.ours();
    let most = (0..ours.groups.len()).max_by_key(|&at| ours.groups[at].members.len()).unwrap();
    let joint: usize = ours.anything(most).iter().map(Vec::len).product();
    assert!(ours.groups[most].members.len() >= 5 && joint >= 16_000, "{joint} joint start states");
    assert_eq!(ours.situations.len(), 9);
    group.bench_function(
        "matrix of five coupled devices, 72 cells, over 16,000 joint start states, each with every residual",
        |b| {
            b.iter(|| Analysis::of(black_box(&coupled), ids::boat_hall()).matrix());
        },
    );
    // One edit that changes nothing of any machine: the room is proved again.
    let mut edited = coupled.clone();
    let own = edited.activities.iter().position(|activity| activity.room == ids::boat_hall()).unwrap();
    edited.activities[own].name.push('!');
    group.bench_function("the same after an activity was renamed", |b| {
        b.iter(|| Analysis::of(black_box(&edited), ids::boat_hall()).matrix());
    });
    group.finish();
}

fn house(text: &str) -> (Site, RoomId) {
    let site = file::read(text).unwrap();
    let room = site.rooms.iter().find(|room| room.name == "R").unwrap().id;
    (site, room)
}

/// Sequences of keys from every state, and plans of ten devices with several sequences each; names of the files in
/// `tests/shortest.rs`.
fn words(c: &mut Criterion) {
    let mut group = c.benchmark_group("words");
    group.sample_size(10);
    // A list of eight entries that opens where it was left, from every state.
    let site = demo::marram_point();
    let mut profile = site.model_of(ids::projector()).unwrap().clone();
    profile.after_power_on = AfterPowerOn::Last;
    if let Selection::Menu { opens, ends, .. } = &mut profile.selection {
        (*opens, *ends) = (ListOpens::LastUsed, ListEnds::Clamp);
    }
    while profile.inputs.len() < 8 {
        let id = InputId(Uuid::from_u128(800 + profile.inputs.len() as u128));
        profile.inputs.push(Input { id, name: format!("In {}", profile.inputs.len()), ..profile.inputs[0].clone() });
    }
    let machine = Automaton::new(&profile);
    let every: BTreeSet<State> = machine.states().into_iter().collect();
    let target = Target { on: Some(true), input: Some(6), ..Target::default() };
    group.bench_function(format!("a list of eight that remembers, from {} states", every.len()), |b| {
        b.iter(|| home(black_box(&machine), &every, target, |_| 108).unwrap());
    });
    for (name, text, to) in [
        ("ten devices on two media", include_str!("../tests/data/truth/ten-devices-on-two-media.kdune.json"), "Act 1"),
        (
            "ten devices with long sends",
            include_str!("../tests/data/truth/ten-devices-with-long-sends.kdune.json"),
            "Act 1",
        ),
        ("ten devices with rules", include_str!("../tests/data/truth/ten-devices-with-rules.kdune.json"), "Act 1"),
        (
            "a list that no sequence leaves",
            include_str!("../tests/data/truth/a-list-that-no-sequence-leaves.kdune.json"),
            "Act 1",
        ),
        ("five that couple", include_str!("../tests/data/truth/five-that-couple.kdune.json"), "A"),
    ] {
        let (site, room) = house(text);
        let activity = site.activities.iter().find(|known| known.name == to).unwrap_or(&site.activities[0]).id;
        group.bench_function(format!("{name}, proved and planned"), |b| {
            b.iter(|| Analysis::of(black_box(&site), room).cell_plan(Situation::Off, Situation::In { activity }));
        });
    }
    group.finish();
}

/// A house of 40 rooms, each like the Slip Deck: the time grows with the rooms and no faster.
fn many_rooms(c: &mut Criterion) {
    let demo = demo::marram_point();
    let rooms = |count: u128| {
        let mut site = demo.clone();
        let before: BTreeSet<RoomId> = site.rooms.iter().map(|room| room.id).collect();
        for number in 0..count {
            let mut next = (number + 1) << 64;
            let mut fresh = || {
                next += 1;
                Uuid::from_u128(next)
            };
            copy::room(&demo, ids::slip_deck(), &mut fresh).unwrap().into_iter().for_each(|entity| site.put(entity));
        }
        let own: Vec<RoomId> = site.rooms.iter().map(|room| room.id).filter(|id| !before.contains(id)).collect();
        (site, own)
    };
    let mut group = c.benchmark_group("rooms that nothing couples, each proved");
    group.sample_size(10);
    for count in [10, 40] {
        let (site, own) = rooms(count);
        assert_eq!(own.len() as u128, count);
        group.bench_function(count.to_string(), |b| {
            b.iter(|| own.iter().map(|&room| Analysis::of(black_box(&site), room).matrix().cells.len()).sum::<usize>());
        });
    }
    group.finish();
}

/// The cues of a room: what is wrong with them, and an evening of them. A room is looked at with every keystroke.
fn lighting(c: &mut Criterion) {
    let site = demo::marram_point();
    let mut group = c.benchmark_group("cues");
    group.bench_function("what is wrong with nine cues that fight, Bunk Cabin", |b| {
        b.iter(|| find::findings(black_box(&site), ids::bunk_cabin()));
    });
    let start = "2027-01-15T20:00:00Z".parse().unwrap();
    let events = preview::usual(&site, ids::feature_film());
    group.bench_function("an evening of two hours, Boat Hall", |b| {
        b.iter(|| preview::play(black_box(&site), ids::boat_hall(), start, 7_200_000, &events));
    });
    group.finish();
}

/// Files as large as anybody may send: each is walked once.
fn readers(c: &mut Criterion) {
    let keymap = |count: u32| {
        let mut text = "[[protocols]]\nprotocol = \"nec\"\nvariant = \"nec\"\n[protocols.scancodes]\n".to_owned();
        (0..count).for_each(|code| text.push_str(&format!("0x{code:04x} = \"KEY_{code}\"\n")));
        text
    };
    let mut group = c.benchmark_group("a keymap of many scancodes");
    for count in [10_000, 40_000] {
        let text = keymap(count);
        group.bench_function(count.to_string(), |b| b.iter(|| import::read(black_box(&text)).unwrap().1.found.len()));
    }
    group.finish();
}

/// The notes of the Boat Hall: from nothing, and where what its plans rest on was not touched.
fn notes(c: &mut Criterion) {
    let (site, room) = (demo::marram_point(), ids::boat_hall());
    let planned = check::planned(&site, room);
    let mut other = site.clone();
    other.house.name.push('!');
    let mut group = c.benchmark_group("notes of the Boat Hall");
    group.bench_function("from nothing", |b| b.iter(|| check::room(black_box(&site), room)));
    group.bench_function("its plans stand", |b| {
        b.iter(|| {
            assert!(stands(black_box(&site), &other, room));
            check::room_planned(&other, room, &planned)
        });
    });
    group.finish();
}

/// The visit: the tests of a house of 40 rooms, what one edit costs them, and the round of 12 situations.
fn visit(c: &mut Criterion) {
    use kestrel_core::commission::{list, round, runs};
    let demo = demo::marram_point();
    let mut site = demo.clone();
    for number in 0..40_u128 {
        let mut next = (number + 1) << 64;
        let mut fresh = || {
            next += 1;
            Uuid::from_u128(next)
        };
        copy::room(&demo, ids::slip_deck(), &mut fresh).unwrap().into_iter().for_each(|entity| site.put(entity));
    }
    let mut group = c.benchmark_group("the visit");
    group.sample_size(10);
    let rooms: Vec<RoomId> = site.rooms.iter().map(|room| room.id).collect();
    group.bench_function("tests of a house with 40 rooms more", |b| {
        b.iter(|| rooms.iter().map(|&room| list(black_box(&site), room, &runs(&site, room)).len()).sum::<usize>());
    });
    let known = runs(&site, rooms[0]);
    group.bench_function("tests of the Boat Hall, its plans known", |b| {
        b.iter(|| list(black_box(&site), rooms[0], &known).len());
    });
    let n = 12;
    let cost: Vec<Vec<Option<u64>>> =
        (0..n).map(|a| (0..n).map(|b| (a != b).then(|| 20 + (a * 7 + b * 13) as u64 % 90)).collect()).collect();
    let every: Vec<(usize, usize)> = (0..n).flat_map(|a| (0..n).map(move |b| (a, b))).filter(|(a, b)| a != b).collect();
    let some: Vec<(usize, usize)> =
        every.iter().copied().filter(|(a, b)| (a + 2 * b) % 5 == 0 && a / 4 == b / 4).collect();
    group.bench_function("the round of 12 situations, 132 switches", |b| {
        b.iter(|| round::round(black_box(&cost), &every, 0).unwrap().cost);
    });
    group.bench_function("the round of 12 situations, islands", |b| {
        b.iter(|| round::round(black_box(&cost), &some, 0).unwrap().cost);
    });
    group.finish();
}

/// The field of a room follows a drag; the cheapest set of twelve rooms is found with its bound.
fn space(c: &mut Criterion) {
    let demo = kestrel_core::demo::marram_point();
    let mut site = demo.clone();
    let mut number = 0_u128;
    let mut fresh = || {
        number += 1;
        Uuid::from_u128(0x5bac_0000 + number)
    };
    for _ in 0..11 {
        copy::room(&demo, ids::boat_hall(), &mut fresh).unwrap().into_iter().for_each(|entity| site.put(entity));
    }
    let gateway = demo.devices.iter().find(|own| own.name == "Hall gateway").unwrap().id;
    let up = Posture::default();
    let mut group = c.benchmark_group("the room in space");
    group.sample_size(10);
    group.bench_function("the field of a gateway, 0.1 m, one bounce", |b| {
        b.iter(|| reach::field(black_box(&demo), ids::boat_hall(), gateway, ids::receiver(), &up).unwrap());
    });
    group.bench_function("what a gateway reaches, with what would help", |b| {
        b.iter(|| reach::reach(black_box(&demo), ids::boat_hall(), gateway, &up).unwrap());
    });
    group.bench_function("what is wrong in the hall", |b| {
        b.iter(|| room_in_space::find::findings(black_box(&demo), ids::boat_hall()));
    });
    let rooms: Vec<RoomId> = site.rooms.iter().filter(|room| room.floor.is_drawn()).map(|room| room.id).collect();
    let models: Vec<&kestrel_core::model::Profile> = site.profiles.iter().collect();
    group.bench_function("the cheapest gateways of 12 rooms", |b| {
        b.iter(|| gateways::set(black_box(&site), &rooms, &models, &mut |_| true).price);
    });
    group.finish();
}

criterion_group!(benches, readers, notes, planning, words, proving, many_rooms, large, lighting, visit, space);
criterion_main!(benches);
