//! Plans and proofs in a room that is drawn: who hears what, and what is in whose way.

use super::*;
use crate::device::group::{Echo, EchoBy, Faint};
use crate::device::{Group, Joint, Letter, State, Target};
use crate::model::{NamedStop, Placed, TimedStop};
use crate::plan::{Script, ScriptStep, couple};
use crate::space::hears::{Heard, ears, heard};
use crate::space::reach::Hears;
use crate::space::way::{Hitch, way};

fn gateway(site: &Site) -> DeviceId {
    site.devices.iter().find(|own| own.name == "Hall gateway").unwrap().id
}

fn moved(site: &mut Site, device: DeviceId, change: impl Fn(&mut Placed)) {
    change(site.placed.find_mut(|own| own.device == device).unwrap());
}

/// The front of the disc player is behind the cloth of the screen.
fn behind_the_cloth(site: &mut Site) {
    moved(site, ids::disc_player(), |own| (own.at_mm, own.azimuth_deg) = ([20, 2_100, 1_200], 0));
}

/// The window of the disc player takes so much light that nothing in a room would do.
fn deaf(site: &mut Site) {
    let model = site.device(ids::disc_player()).unwrap().profile;
    let profile = site.profiles.find_mut(|profile| profile.id == model).unwrap();
    profile.optics.as_mut().unwrap().hears.as_mut().unwrap().least_uw_per_m2 = 2_000_000_000;
}

fn worst(site: &Site) -> Guarantee {
    let found = Analysis::of(site, ids::boat_hall()).matrix();
    found.cells.iter().map(|cell| cell.guarantee).max().unwrap()
}

#[test]
fn every_device_of_the_boat_hall_that_has_infrared_codes_is_surely_heard() {
    let site = demo::with_disc();
    let own = gateway(&site);
    for device in [ids::projector(), ids::receiver(), ids::streamer(), ids::disc_player()] {
        let found = heard(&site, Some(own), device, device, crate::model::Medium::Ir);
        let ear = ears(&site, ids::boat_hall()).of.get(&(own, device)).cloned();
        assert!(found.is_sure(), "{} {found:?} {ear:?}", site.device_name(device));
    }
    let found = heard(&site, Some(own), ids::screen(), ids::screen(), crate::model::Medium::Rf433);
    assert_eq!(found, Heard::always(Hears::Surely));
    assert!(couple::groups(&site, ids::boat_hall()).iter().all(|group| group.faint.is_empty()));
}

#[test]
fn what_is_not_placed_may_hear_and_the_proof_keeps_both() {
    let mut site = demo::with_disc();
    let before = worst(&site);
    assert_ne!(before, Guarantee::AtRisk);
    site.placed.retain(|own| own.device != ids::disc_player());
    let film = activity(&site, "Feature film");
    let found = cell(&site, ids::boat_hall(), Situation::Off, film);
    assert_eq!(found.cell.guarantee, Guarantee::AtRisk);
    let story = found.cell.story.unwrap();
    assert!(story.headline.contains("nobody knows for sure that it arrives"), "{}", story.headline);
    // In a room without a plan nobody has to place anything.
    site.rooms.find_mut(|room| room.id == ids::boat_hall()).unwrap().floor = Default::default();
    assert_eq!(worst(&site), before);
}

#[test]
fn what_hears_nothing_cannot_be_sent() {
    let mut site = demo::with_disc();
    deaf(&mut site);
    let key = site.codes.iter().find(|code| code.device == ids::disc_player()).unwrap().function;
    assert_eq!(way(&site, ids::disc_player(), key).unwrap_err(), Hitch::OutOfReach);
    let film = activity(&site, "Feature film");
    let found = plan(&site, ids::boat_hall(), Situation::Off, film);
    assert!(found.findings.iter().any(|finding| finding.title == "Out of reach"), "{:?}", found.findings);
    let found = cell(&site, ids::boat_hall(), Situation::Off, film).cell;
    assert!(found.cannot_be_sent.iter().any(|unsent| unsent.hitch == Hitch::OutOfReach), "{found:?}");
    // A lead on its window brings it there.
    let own = gateway(&site);
    moved(&mut site, own, |own| own.leads.push(ids::disc_player()));
    assert!(way(&site, ids::disc_player(), key).is_ok());
    assert!(cell(&site, ids::boat_hall(), Situation::Off, film).cell.cannot_be_sent.is_empty());
}

#[test]
fn a_device_behind_the_cloth_is_told_while_the_screen_is_up() {
    let mut site = demo::with_disc();
    behind_the_cloth(&mut site);
    let groups = couple::groups(&site, ids::boat_hall());
    let group = groups.iter().find(|group| group.place(ids::disc_player()).is_some()).unwrap();
    let member = group.place(ids::disc_player()).unwrap();
    let own: Vec<_> = group.screens.iter().filter(|own| own.hidden == member).collect();
    assert_eq!(own.len(), 1, "{:?}", group.screens);
    assert_eq!(group.members[own[0].screen].0, ids::screen());
    let film = activity(&site, "Feature film");
    let at = |plan: &Plan, device, name: &str| {
        let step = plan.steps.iter().find(|step| step.device == device && step.name == name);
        step.map(|step| (step.start_ms, step.end_ms)).unwrap()
    };
    let on = plan(&site, ids::boat_hall(), Situation::Off, film);
    assert!(at(&on, ids::disc_player(), "Power on").1 <= at(&on, ids::screen(), "Down").0);
    let off = plan(&site, ids::boat_hall(), film, Situation::Off);
    assert!(at(&off, ids::disc_player(), "Power off").0 >= at(&off, ids::screen(), "Up").1 + 26_000);
    // A lead on its window makes all of that needless.
    let own = gateway(&site);
    moved(&mut site, own, |own| own.leads.push(ids::disc_player()));
    let groups = couple::groups(&site, ids::boat_hall());
    assert!(groups.iter().all(|group| group.screens.is_empty() && group.faint.is_empty()));
    let off = plan(&site, ids::boat_hall(), film, Situation::Off);
    assert!(at(&off, ids::disc_player(), "Power off").0 < at(&off, ids::screen(), "Up").1 + 26_000);
}

/// What one lead of a gateway sends is in the way of nothing that its other lead sends, where its model can do both at once.
#[test]
fn two_leads_of_a_gateway_that_can_send_at_once_send_at_once() {
    let mut site = demo::with_disc();
    let own = gateway(&site);
    let hall = ids::boat_hall();
    let film = activity(&site, "Feature film");
    let overlap = |site: &Site| {
        let found = plan(site, hall, Situation::Off, film);
        let of = |device: DeviceId| {
            found.steps.iter().filter(move |step| step.device == device).map(|step| (step.start_ms, step.end_ms))
        };
        let pairs: Vec<_> = of(ids::disc_player()).flat_map(|a| of(ids::projector()).map(move |b| (a, b))).collect();
        pairs.iter().any(|(a, b)| a.0 < b.1 && b.0 < a.1)
    };
    moved(&mut site, own, |own| own.leads = vec![ids::disc_player(), ids::projector()]);
    assert!(!overlap(&site), "one frame at a time");
    let bound = plan(&site, hall, Situation::Off, film).ready_ms;
    let model = site.device(own).unwrap().profile;
    let profile = site.profiles.find_mut(|profile| profile.id == model).unwrap();
    profile.optics.as_mut().unwrap().emits.as_mut().unwrap().several_at_once = true;
    assert!(overlap(&site), "two outputs, two frames");
    assert!(plan(&site, hall, Situation::Off, film).ready_ms <= bound);
}

fn toggled(group: &Group<'_>, key: Letter) -> Script {
    let after = Window::at_least(10_000);
    let step = ScriptStep { member: 0, letter: key, at_ms: 10_000, after, step: None };
    let _ = group;
    Script { look: None, steps: vec![step] }
}

/// space.md: a *maybe* is never better than both of its outcomes. Two devices with one code: the other one hears it surely,
/// not at all, or maybe.
#[test]
fn a_maybe_is_never_better_than_both_of_its_outcomes() {
    let site = demo::marram_point();
    let machine = |device| site.automaton(device).unwrap();
    let toggle = |device: DeviceId| match site.profile_of(device).unwrap().power {
        Power::Toggle { key } => Letter::Key(key),
        _ => panic!("a toggle"),
    };
    let key = toggle(ids::watch_display());
    let on = |on: bool| Timed::from(State { on, ..State::default() });
    let wanted = |on: bool| Target { on: Some(on), ..Target::default() };
    let mut told = 0;
    for (start, other) in [(false, false), (false, true), (true, false), (true, true)] {
        for targets in [(true, true), (true, false), (false, true), (false, false)] {
            let arrives = |by: Option<EchoBy>| {
                let mut group = Group::single(ids::watch_display(), machine(ids::watch_display()));
                group.members.push((ids::watch_display(), machine(ids::watch_display())));
                group.echoes.extend(by.map(|by| Echo { from: 0, letter: key, to: 1, also: key, by }));
                let joint = Joint::of([on(start), on(other)]);
                let script = toggled(&group, key);
                crate::plan::run::all_arrive(&group, [joint].iter(), &script, &[wanted(targets.0), wanted(targets.1)])
            };
            let (surely, never, maybe) = (arrives(Some(EchoBy::Surely)), arrives(None), arrives(Some(EchoBy::Maybe)));
            assert!(!maybe || (surely && never), "{start} {other} {targets:?}");
            told += usize::from(surely || never);
            // And of what is meant for it: a key that may not arrive is no better than one that does, or one that does not.
            let meant = |faint: bool| {
                let mut group = Group::single(ids::watch_display(), machine(ids::watch_display()));
                if faint {
                    group.faint.push(Faint { member: 0, letters: vec![key] });
                }
                let script = toggled(&group, key);
                crate::plan::run::all_arrive(&group, [Joint::of([on(start)])].iter(), &script, &[wanted(targets.0)])
            };
            assert!(!meant(true) || meant(false));
        }
    }
    assert!(told > 0, "some of it arrives");
}

/// The screen of the Boat Hall with a stop at 82 % of its way, by time.
fn with_timed_stop(late_ms: u32) -> Site {
    let mut site = demo::with_disc();
    let model = site.device(ids::screen()).unwrap().profile;
    let profile = site.profiles.find_mut(|profile| profile.id == model).unwrap();
    let motion = profile.motion.as_mut().unwrap();
    motion.stops_between = true;
    let (key, after_ms) = (motion.stop.unwrap(), motion.travel_down.lo_ms * 8 / 10);
    let timed = Some(TimedStop { after_ms, late_ms, spread_per_mille: 30 });
    profile.stops = vec![NamedStop { name: "Scope".to_owned(), key, down_percent: 82, timed }];
    let film = site.activities.iter().position(|own| own.name == "Feature film").unwrap();
    let own = site.activities.iter_mut().nth(film).unwrap();
    own.moves.iter_mut().filter(|own| own.device == ids::screen()).for_each(|own| own.to = Position::Stop(0));
    site
}

#[test]
fn a_stop_by_time_is_reached_from_the_upper_limit_and_proved() {
    let site = with_timed_stop(300);
    let hall = ids::boat_hall();
    let film = activity(&site, "Feature film");
    let travel = site.profile_of(ids::screen()).unwrap().motion.unwrap();
    let on = plan(&site, hall, Situation::Off, film);
    assert!(on.runnable, "{:?}", on.findings);
    let own: Vec<&crate::plan::Step> = on.steps.iter().filter(|step| step.device == ids::screen()).collect();
    let [.., down, stop] = own[..] else { panic!("{:?}", keys(&on, ids::screen())) };
    assert_eq!((down.name.as_str(), stop.name.as_str()), ("Down", "Stop"));
    let after_ms = travel.travel_down.lo_ms * 8 / 10;
    assert!((after_ms..=after_ms + 300).contains(&(stop.end_ms - down.end_ms)), "{} {}", stop.end_ms, down.end_ms);
    // Its greatest lag is its least plus the tolerance.
    assert_eq!(
        stop.latest_ms.unwrap() - (stop.start_ms.max(after_ms + down.end_ms - (stop.end_ms - stop.start_ms))),
        300
    );
    assert_ne!(cell(&site, hall, Situation::Off, film).cell.guarantee, Guarantee::AtRisk);
    // Back, and from anywhere: it goes to its limit first.
    let safe = safe(&site, hall);
    let found = cell(&safe, hall, Situation::Off, film);
    let order = keys(&found.plan, ids::screen());
    assert_eq!(order[order.len() - 3..], ["Up", "Down", "Stop"], "{order:?}");
    assert_eq!(found.cell.guarantee, Guarantee::Certain, "{:?}", found.cell.story);
    // It rests on both ends of the way down.
    let rest = found.rests.iter().find(|rest| rest.device == ids::screen() && rest.ends == crate::model::Ends::Both);
    assert!(rest.is_some_and(|rest| rest.timing == Some(crate::model::Timing::TravelDown)), "{:?}", found.rests);
}

/// The stop key is what a stop by time is sent with: who never sends that never stops between.
#[test]
fn a_forbidden_stop_key_forbids_the_stop_by_time() {
    let mut site = with_timed_stop(300);
    let film = activity(&site, "Feature film");
    let stop = site.profile_of(ids::screen()).unwrap().motion.unwrap().stop.unwrap();
    let change = PlanChange::Forbid { device: ids::screen(), function: stop };
    site.rooms[0].plans.hand.push(HandChange { from: Situation::Off, to: film, change });
    let found = plan(&site, ids::boat_hall(), Situation::Off, film);
    assert!(!keys(&found, ids::screen()).contains(&"Stop"), "{:?}", keys(&found, ids::screen()));
    assert!(found.findings.iter().any(|finding| finding.title == "No safe way"), "{:?}", found.findings);
}

#[test]
fn a_stop_that_comes_too_late_stops_somewhere() {
    let site = with_timed_stop(300);
    let machine = site.automaton(ids::screen()).unwrap();
    let motion = site.profile_of(ids::screen()).unwrap().motion.unwrap();
    let (down, stop) = (Letter::Key(motion.down), Letter::Key(motion.stop.unwrap()));
    let after_ms = motion.travel_down.lo_ms * 8 / 10;
    let top = Timed::from(State { on: true, ..State::default() });
    let stopped = |start: &Timed, passed: Window| -> BTreeSet<crate::model::Standing> {
        let going = timed::press(&machine, start, down).into_iter().map(|(after, _)| after);
        let later = going.flat_map(|own| timed::elapse(&machine, &own, passed));
        later.flat_map(|own| timed::press(&machine, &own, stop)).map(|(own, _)| own.state.position).collect()
    };
    use crate::model::Standing::{Between, Stop};
    assert_eq!(stopped(&top, Window::exactly(after_ms)), BTreeSet::from([Stop(0)]));
    assert_eq!(stopped(&top, Window { lo_ms: after_ms, hi_ms: after_ms + 300 }), BTreeSet::from([Stop(0)]));
    assert_eq!(stopped(&top, Window::exactly(after_ms + 301)), BTreeSet::from([Between]));
    assert_eq!(
        stopped(&top, Window { lo_ms: after_ms - 100, hi_ms: after_ms + 100 }),
        BTreeSet::from([Between, Stop(0)])
    );
    // From half-way nobody knows how far it has come.
    let half = Timed::from(State { on: true, position: Between, ..State::default() });
    assert!(!stopped(&half, Window::exactly(after_ms)).contains(&Stop(0)));
}

#[test]
fn the_rehearsal_room_stops_where_the_plan_says() {
    let site = with_timed_stop(300);
    let motion = site.profile_of(ids::screen()).unwrap().motion.unwrap();
    let code = |key| site.code(ids::screen(), key).unwrap().body.clone();
    let mut sim = SimRoom::new(&site, ids::boat_hall(), 0.5);
    sim.radiate(0, crate::model::Medium::Rf433, &code(motion.down).press_us());
    sim.radiate(
        u64::from(motion.travel_down.lo_ms) * 82 / 100,
        crate::model::Medium::Rf433,
        &code(motion.stop.unwrap()).press_us(),
    );
    let view = sim.view().into_iter().find(|own| own.device == ids::screen()).unwrap();
    assert!((78..=84).contains(&view.down_percent.unwrap()), "{view:?}");
}
