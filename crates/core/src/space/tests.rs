//! The Boat Hall of the demo house in space: its gateway, its cupboard, its screen and its seats.

use super::reach::{Hears, Help, Reach, ReachLine, Reached, Why, field, radio_db, reach};
use super::scene::{Posture, place_of, screens};
use super::seats::{Asked, pictures};
use super::{gateways, picture};
use crate::demo::{self, ids};
use crate::edit::{Edit, apply};
use crate::id::{DeviceId, PlacedId, RoomId};
use crate::model::{Entity, InRoom, Material, Optics, Placed, Profile, Radio, Site};
use rstest::rstest;
use uuid::Uuid;

fn gateway(site: &Site) -> DeviceId {
    site.devices.iter().find(|own| own.name == "Hall gateway").unwrap().id
}

fn amplifier(site: &Site) -> DeviceId {
    site.devices.iter().find(|own| own.name == "Amplifier").unwrap().id
}

fn reached(site: &Site, posture: &Posture) -> Reach {
    reach(site, ids::boat_hall(), gateway(site), posture).unwrap()
}

fn line(reach: &Reach, device: DeviceId) -> &ReachLine {
    reach.lines.iter().find(|line| line.device == device).unwrap()
}

fn moved(site: &mut Site, device: DeviceId, change: impl Fn(&mut Placed)) {
    let own = site.placed.find_mut(|own| own.device == device).unwrap();
    change(own);
}

#[test]
fn the_gateway_reaches_what_it_sees_and_not_what_is_in_the_cupboard() {
    let site = demo::marram_point();
    let found = reached(&site, &Posture::default());
    for device in [ids::receiver(), ids::disc_player()] {
        let own = line(&found, device);
        assert_eq!((own.reached, own.hears), (Reached::Reaches, Hears::Surely), "{own:?}");
        assert_eq!((&own.why, own.help.len()), (&None, 0));
    }
    let own = line(&found, amplifier(&site));
    assert_eq!((own.reached, own.why.clone()), (Reached::Not, Some(Why::Cupboard { name: "Cupboard".to_owned() })));
    assert!(own.help.contains(&Help::Lead), "{own:?}");
    assert!(own.help.iter().any(|help| matches!(help, Help::Open { margin_db } if *margin_db >= 6.0)), "{own:?}");
    assert_ne!(own.hears, Hears::SurelyNot, "with the door open it would hear");
}

#[test]
fn a_lead_reaches_what_is_behind_the_door() {
    let mut site = demo::marram_point();
    let (box_, deaf) = (gateway(&site), amplifier(&site));
    moved(&mut site, box_, |own| own.leads.push(deaf));
    let found = reached(&site, &Posture::default());
    let own = line(&found, deaf);
    assert_eq!((own.reached, own.hears, own.lead), (Reached::Reaches, Hears::Surely, true));
}

#[test]
fn a_lowered_screen_cuts_off_what_is_behind_it() {
    let mut site = demo::marram_point();
    moved(&mut site, ids::disc_player(), |own| {
        // Its front is behind the cloth.
        own.at_mm = [20, 2_100, 1_200];
        own.azimuth_deg = 0;
    });
    let up = reached(&site, &Posture::default());
    assert_eq!(line(&up, ids::disc_player()).reached, Reached::Reaches);
    let down = reached(&site, &Posture::all_down(&site, ids::boat_hall()));
    let own = line(&down, ids::disc_player());
    assert_eq!(own.why, Some(Why::Screen { screen: ids::screen() }), "{own:?}");
    // What depends on the screen is heard maybe, whichever way it stands now.
    assert_eq!((line(&up, ids::disc_player()).hears, own.hears), (Hears::Maybe, Hears::Maybe));
}

/// space.md: a *maybe* is never better than both of its outcomes.
#[test]
fn a_maybe_lies_between_its_outcomes() {
    let site = demo::marram_point();
    for posture in [Posture::default(), Posture::all_down(&site, ids::boat_hall()), Posture::best()] {
        for own in reached(&site, &posture).lines.iter().filter(|own| !own.lead) {
            let best = own.best_db.unwrap_or(f64::NEG_INFINITY);
            let now = own.margin_db.unwrap_or(f64::NEG_INFINITY);
            match own.hears {
                Hears::Surely => assert!(now >= 6.0, "{own:?}"),
                Hears::SurelyNot => assert!(best < -10.0, "{own:?}"),
                Hears::Maybe => assert!(best >= -10.0, "{own:?}"),
            }
        }
    }
}

#[test]
fn a_gateway_that_is_turned_away_says_so_and_how_to_turn_it() {
    let mut site = demo::marram_point();
    let box_ = gateway(&site);
    // Dark walls: nothing bounces.
    let hall = site.rooms.find_mut(|room| room.id == ids::boat_hall()).unwrap();
    (hall.floor.walls, hall.floor.floor, hall.floor.ceiling) =
        ([Material::DarkCloth; 4], Material::DarkCloth, Material::DarkCloth);
    moved(&mut site, ids::receiver(), |own| own.azimuth_deg = 0);
    let model = site.device(box_).unwrap().profile;
    let optics = site.profiles.find_mut(|own| own.id == model).unwrap().optics.as_mut().unwrap();
    optics.emits.as_mut().unwrap().mw_per_sr = 60;
    moved(&mut site, box_, |own| own.azimuth_deg = 0);
    let found = reached(&site, &Posture::default());
    let own = line(&found, ids::receiver());
    assert_eq!((own.reached, own.why.clone()), (Reached::Not, Some(Why::TurnedAway)), "{own:?}");
    let turn = own.help.iter().find_map(|help| match help {
        Help::Turn { azimuth_deg, elevation_deg, .. } => Some((*azimuth_deg, *elevation_deg)),
        _ => None,
    });
    let (azimuth, elevation) = turn.expect("to turn it is the first help");
    moved(&mut site, box_, |own| (own.azimuth_deg, own.elevation_deg) = (azimuth, elevation));
    assert_eq!(line(&reached(&site, &Posture::default()), ids::receiver()).reached, Reached::Reaches);
}

#[test]
fn what_is_not_placed_gets_no_claim() {
    let mut site = demo::marram_point();
    site.placed.retain(|own| own.device != ids::receiver());
    let found = reached(&site, &Posture::default());
    assert!(found.unknown.contains(&ids::receiver()));
    assert!(found.lines.iter().all(|line| line.device != ids::receiver()));
    site.placed.retain(|own| own.device != gateway(&demo::marram_point()));
    assert_eq!(reach(&site, ids::boat_hall(), gateway(&site), &Posture::default()), None);
}

#[test]
fn the_field_is_bright_before_the_gateway_and_dark_behind_the_door() {
    let site = demo::marram_point();
    let own = field(&site, ids::boat_hall(), gateway(&site), ids::receiver(), &Posture::default()).unwrap();
    assert_eq!((own.columns, own.rows, own.tenths_db.len()), (64, 42, 64 * 42));
    let at = |x: usize, y: usize| own.tenths_db[y * own.columns + x];
    assert!(at(3, 37) < 0, "inside the cupboard: {}", at(3, 37));
    // The receiver's window looks down the plan: what is above it on the plan is behind it.
    let (before, behind) = (at(17, 2), at(17, 40));
    assert!(before > behind, "{before} {behind}");
}

#[test]
fn the_cheapest_set_reaches_everything_and_names_its_price() {
    let site = demo::marram_point();
    let models: Vec<&Profile> = site.profiles.iter().collect();
    let found = gateways::set(&site, &[ids::boat_hall()], &models, &mut |_| true);
    assert!(found.proved && found.unreached.is_empty(), "{found:?}");
    assert_eq!((found.boxes.len(), found.price), (1, 2_900), "{found:?}");
    assert!(found.least_db >= 6.0 && found.boxes[0].serves.iter().all(|own| own.margin_db >= 6.0));
    assert!(found.words[0].starts_with("One box at 29 reaches everything; no set is cheaper."), "{:?}", found.words);
    // Nobody has placed anything: there is nothing to reach, and nothing is claimed.
    let mut bare = site.clone();
    bare.placed = Default::default();
    let none = gateways::set(&bare, &[ids::boat_hall()], &models, &mut |_| true);
    assert!(none.boxes.is_empty() && !none.unknown.is_empty());
}

/// Weighing, then choosing: each is told, and whoever gives it up gets no verdict that is cut short.
#[test]
fn a_search_for_gateways_tells_how_far_it_is_and_can_be_given_up() {
    let site = demo::marram_point();
    let models: Vec<&Profile> = site.profiles.iter().collect();
    let mut told = Vec::new();
    let whole = gateways::set(&site, &[ids::boat_hall()], &models, &mut |how_far| {
        told.push(how_far);
        true
    });
    let weighed: Vec<(usize, usize)> = told
        .iter()
        .filter_map(|own| match *own {
            gateways::Looking::Weighing { done, of } => Some((done, of)),
            _ => None,
        })
        .collect();
    let of = weighed.len();
    assert!(of > 10 && weighed.iter().enumerate().all(|(at, own)| *own == (at, of)), "{weighed:?}");
    assert!(whole.proved && !whole.stopped);
    // Given up half-way: no set, no bound, and nothing is said to be unreached.
    let cut = gateways::set(&site, &[ids::boat_hall()], &models, &mut |how_far| match how_far {
        gateways::Looking::Weighing { done, .. } => done < of / 2,
        _ => true,
    });
    assert!(cut.stopped && !cut.proved && cut.boxes.is_empty() && cut.unreached.is_empty(), "{cut:?}");
    assert!(cut.words[0].starts_with("It was given up before any set was found"), "{:?}", cut.words);
}

#[test]
fn the_picture_of_the_hall_fits_its_projector_and_its_seats() {
    let site = demo::marram_point();
    let all = pictures(&site, ids::boat_hall(), Asked::default());
    let own = all.iter().find(|own| own.on == ids::screen()).unwrap();
    assert!((own.diagonal_m / picture::INCH - 120.0).abs() < 0.5, "{own:?}");
    let throw = own.throw.as_ref().unwrap();
    assert!(throw.ratio > 1.35 && throw.ratio < 2.02 && throw.wrong.is_none(), "{throw:?}");
    assert_eq!(own.seats.len(), 5);
    let seat = |name: &str| own.seats.iter().find(|seat| seat.name == name).unwrap();
    assert!(seat("front row, middle").wide_deg > seat("back row, left").wide_deg);
    assert!(seat("front row, middle").over_heads_m.is_none(), "nobody sits in front");
    assert!(seat("back row, left").over_heads_m.is_some_and(|over| over > 0.0 && over < 0.1), "{own:?}");
    assert!(own.white.unwrap() > 48.0);
    assert_eq!(own.stop.as_ref().map(|stop| (stop.after_ms, stop.wrong.clone())), Some((0, None)), "at its limit");
}

#[test]
fn a_stop_on_the_way_has_a_time_and_a_spread() {
    let site = demo::marram_point();
    let asked = Asked { bottom: Some(0.84), ..Asked::default() };
    let all = pictures(&site, ids::boat_hall(), asked);
    let stop = all[0].stop.as_ref().unwrap();
    // 161 cm of 195.4 are 82.4 % of the way: of 22 to 24 s some 18.9 s.
    assert!((stop.percent - 82.4).abs() < 0.1, "{stop:?}");
    assert!((18_500..19_500).contains(&stop.after_ms), "{stop:?}");
    assert!(stop.spread_percent > 3.0 && stop.spread_percent < 6.0, "{stop:?}");
    let low = pictures(&site, ids::boat_hall(), Asked { bottom: Some(0.1), ..Asked::default() });
    assert!(low[0].stop.as_ref().unwrap().wrong.as_ref().unwrap().contains("no further than"));
}

#[test]
fn light_in_the_room_costs_contrast() {
    let site = demo::marram_point();
    let looks = &site.room(ids::boat_hall()).unwrap().lighting.looks;
    let look = |name: &str| looks.iter().find(|look| look.name == name).unwrap().id;
    let contrast = |look, daylight| {
        let asked = Asked { look, daylight, bottom: None };
        pictures(&site, ids::boat_hall(), asked)[0].seats[1].contrast.unwrap()
    };
    let (dark, film, arrival, day) = (
        contrast(None, false),
        contrast(Some(look("Film")), false),
        contrast(Some(look("Arrival")), false),
        contrast(None, true),
    );
    assert!(dark >= film && film > arrival && dark > day, "{dark} {film} {arrival} {day}");
}

fn refused(change: impl Fn(&mut Site) -> Entity) -> String {
    let mut site = demo::marram_point();
    let entity = change(&mut site);
    apply(&mut site, &Edit::Put { entity, base: Some(0) }).unwrap_err().to_string()
}

fn floor(change: impl Fn(&mut crate::model::FloorPlan)) -> String {
    refused(|site| {
        let mut own = site.room(ids::boat_hall()).unwrap().floor.clone();
        change(&mut own);
        Entity::Floor(InRoom::new(ids::boat_hall(), own))
    })
}

fn place(change: impl Fn(&mut Placed)) -> String {
    refused(|site| {
        let mut own = place_of(site, ids::receiver()).unwrap().clone();
        change(&mut own);
        Entity::Placed(own)
    })
}

#[test]
fn what_cannot_be_is_said_in_a_sentence() {
    assert!(floor(|own| own.size_mm = [0, 4_000, 2_500]).contains("lies between 1.00 m and 60.00 m"));
    assert!(floor(|own| own.size_mm = [500_000, 4_000, 2_500]).contains("500.00 m is none"));
    let smaller = floor(|own| {
        *own = crate::model::FloorPlan { size_mm: [3_000, 4_200, 2_600], ..Default::default() };
    });
    assert!(smaller.contains("outside the room"), "what stands there stays inside: {smaller}");
    assert!(floor(|own| own.openings[0].from_mm = 9_000).contains("lies in its wall"));
    assert!(floor(|own| own.seats[0].row = 0).contains("from 1 to 40"));
    assert!(place(|own| own.at_mm = [9_000, 0, 0]).contains("outside the room, which is 6.40 m by 4.20 m"));
    assert!(place(|own| own.azimuth_deg = 400).contains("−180° and 180°"));
    assert!(place(|own| own.id = PlacedId(Uuid::from_u128(77))).contains("stands somewhere already"));
    assert!(place(|own| own.leads = vec![ids::projector()]).contains("no plug left"));
    assert!(place(|own| own.device = ids::loft_projector()).contains("has no plan yet"));
}

#[test]
fn what_goes_or_moves_away_leaves_its_place() {
    let mut site = demo::marram_point();
    let (box_, deaf) = (gateway(&site), amplifier(&site));
    moved(&mut site, box_, |own| own.leads.push(deaf));
    let remove = Edit::Remove { kind: crate::model::EntityKind::Device, id: deaf.0, base: 0 };
    let before = site.clone();
    let changes = apply(&mut site, &remove).unwrap();
    assert!(place_of(&site, deaf).is_none() && place_of(&site, box_).unwrap().leads.is_empty());
    let back = crate::edit::revert(&mut site, &changes);
    assert_eq!(back.len(), changes.len());
    site.sort();
    assert_eq!(site, before, "and undo puts it back");
    let mut away = site.device(ids::receiver()).unwrap().clone();
    away.room = ids::chart_loft();
    apply(&mut site, &Edit::Put { entity: Entity::Device(away), base: Some(0) }).unwrap();
    assert!(place_of(&site, ids::receiver()).is_none());
    let bare = Entity::Floor(InRoom::new(ids::boat_hall(), Default::default()));
    apply(&mut site, &Edit::Put { entity: bare, base: Some(0) }).unwrap();
    assert_eq!(screens(&site, ids::boat_hall()).count(), 0, "without a plan nothing has a place");
}

#[test]
fn a_copied_room_stands_as_the_first_one() {
    let mut site = demo::marram_point();
    let mut number = 0_u128;
    let mut fresh = || {
        number += 1;
        Uuid::from_u128(0xc0_0000 + number)
    };
    let copied = crate::edit::copy::room(&site, ids::boat_hall(), &mut fresh).unwrap();
    let room = copied.iter().find_map(|own| if let Entity::Room(card) = own { Some(card.id) } else { None }).unwrap();
    copied.into_iter().for_each(|entity| site.put(entity));
    let (first, second) =
        (super::scene::placed(&site, ids::boat_hall()).count(), super::scene::placed(&site, room).count());
    assert_eq!(first, second);
    let box_ =
        site.devices.iter().find(|own| own.room == room && own.profile == site.device(gateway(&site)).unwrap().profile);
    let found = reach(&site, room, box_.unwrap().id, &Posture::default()).unwrap();
    let before = reached(&site, &Posture::default());
    let margins = |reach: &Reach| {
        let mut all: Vec<String> = reach.lines.iter().map(|line| format!("{:?}", line.margin_db)).collect();
        all.sort();
        all
    };
    assert_eq!(margins(&found), margins(&before));
}

/// Two rooms side by side share one wall, though both plans draw it.
#[rstest]
#[case::one_wall(0, 3.0)]
#[case::a_room_between(4_000, 6.0)]
fn a_wall_between_two_rooms_counts_once(#[case] apart: i32, #[case] walls_db: f64) {
    let mut site = demo::marram_point();
    let radio = |sends: Option<i16>, needs: Option<i16>| {
        let radio = Radio { sends_tenths_dbm: sends, needs_dbm: needs, gain_tenths_db: 0 };
        Some(Box::new(Optics { radio: Some(radio), ..Optics::default() }))
    };
    let (a, b) = (ids::boat_hall(), ids::chart_loft());
    let (sender, receiver) = (gateway(&site), ids::loft_projector());
    let model = |site: &Site, device: DeviceId| site.device(device).unwrap().profile;
    let (p, q) = (model(&site, sender), model(&site, receiver));
    site.profiles.find_mut(|own| own.id == p).unwrap().optics = radio(Some(100), None);
    site.profiles.find_mut(|own| own.id == q).unwrap().optics = radio(None, Some(-95));
    let hall = site.room(a).unwrap().floor.clone();
    let plan = |at_mm| crate::model::FloorPlan { walls: [Material::Plaster; 4], at_mm, ..hall.clone() };
    let mut put = |room: RoomId, at_mm| site.put(Entity::Floor(InRoom::new(room, plan(at_mm))));
    put(a, [0, 0]);
    put(b, [6_400 + apart, 0]);
    let place = |number: u128, device, at_mm| Placed {
        id: PlacedId(Uuid::from_u128(number)),
        device,
        at_mm,
        size_mm: [100, 100, 100],
        azimuth_deg: 0,
        elevation_deg: 0,
        leads: vec![],
    };
    site.placed = Default::default();
    site.placed.push(place(1, sender, [1_000, 2_000, 1_000]));
    site.placed.push(place(2, receiver, [1_000, 2_000, 1_000]));
    let metres = 6.4 + f64::from(apart) / 1_000.0;
    let free = 10.0 - super::radio::free_space_db(metres) + 95.0;
    let found = radio_db(&site, sender, receiver).unwrap();
    assert!((found - (free - walls_db)).abs() < 1e-9, "{found} of {free}");
}

fn found(site: &Site) -> Vec<&'static str> {
    let all = super::find::findings(site, ids::boat_hall());
    assert!(all.iter().all(|own| own.text.ends_with('.')), "{all:?}");
    all.iter().map(|own| crate::finding::weight_and_title(&own.kind).1).collect()
}

#[test]
fn the_hall_of_the_demo_stands_as_it_should() {
    assert_eq!(found(&demo::marram_point()), Vec::<&str>::new());
    let mut bare = demo::marram_point();
    bare.rooms.find_mut(|room| room.id == ids::boat_hall()).unwrap().floor = Default::default();
    assert_eq!(found(&bare), Vec::<&str>::new(), "without a plan nothing is claimed");
}

#[test]
fn what_is_wrong_in_space_is_a_finding() {
    let mut site = demo::marram_point();
    moved(&mut site, ids::disc_player(), |own| (own.at_mm, own.azimuth_deg) = ([480, 3_700, 900], 0));
    assert_eq!(found(&site), ["Not reached"]);
    moved(&mut site, ids::disc_player(), |own| (own.at_mm, own.azimuth_deg) = ([20, 2_100, 1_200], 0));
    assert_eq!(found(&site), ["Hidden by the screen"]);
    let mut site = demo::marram_point();
    moved(&mut site, ids::projector(), |own| own.at_mm[0] = 2_000);
    assert!(found(&site).contains(&"Does not fit the lens"));
    let mut site = demo::marram_point();
    let hall = site.rooms.find_mut(|room| room.id == ids::boat_hall()).unwrap();
    hall.floor.seats.iter_mut().filter(|seat| seat.row == 2).for_each(|seat| {
        seat.eye_mm[2] = 1_150;
    });
    assert_eq!(found(&site), ["Bottom edge hidden"]);
    let mut site = demo::marram_point();
    let model = site.device(ids::projector()).unwrap().profile;
    let optics = site.profiles.find_mut(|own| own.id == model).unwrap().optics.as_mut().unwrap();
    optics.lens.as_mut().unwrap().lumens = 200;
    assert_eq!(found(&site), ["Too dim"]);
    // A hall of 30 m: the projector hangs at its far end.
    let mut site = demo::marram_point();
    let hall = site.rooms.find_mut(|room| room.id == ids::boat_hall()).unwrap();
    hall.floor.size_mm[0] = 30_000;
    moved(&mut site, ids::projector(), |own| own.at_mm[0] = 28_000);
    assert!(found(&site).contains(&"Cable too long"));
}
