//! The proof and the bench agree: what starts as the proof says ends as the proof says, in the rooms of the demo house and
//! in rooms whose devices behave otherwise. On the simulated clock, over the very same stand-ins and drivers.

use super::*;
use crate::story::{counterexample, replay, tried};
use kestrel_core::device::Timed;
use kestrel_core::id::RoomId;
use kestrel_core::model::{Couples, Deed, Feedback, Override, Policy, Power, Selection, Span, Stand, StoryEvent};
use kestrel_core::prove::{Analysis, Cell, Guarantee};
use proptest::prelude::*;
use proptest::sample::Index;

/// How long a room is watched after its plan, in ms.
const AFTER_MS: u64 = 120_000;

fn evening(stands: Vec<Stand>, from: Situation, to: Situation, pace_percent: u8) -> Vec<StoryEvent> {
    let stand = Deed::Stand { devices: stands, taken_for: from, pace_percent };
    vec![StoryEvent { at_ms: 0, deed: stand }, StoryEvent { at_ms: 1, deed: Deed::Request { to } }]
}

/// Start states that a verdict speaks of: of ours, and for a certain cell of anything that there is. A room of the trusting
/// policy that is taken for settled gets the quicker plan: somebody may have touched it, but not just now.
fn starts(analysis: &Analysis<'_>, cell: &Cell, pick: &Index) -> Vec<Vec<Stand>> {
    let (from, hot) = (cell.from, cell.policy == Policy::Safe);
    let ours = analysis.ours();
    let stand = |group: usize, members: &[Timed]| {
        let of = |((device, machine), timed): (&(DeviceId, kestrel_core::device::Automaton<'_>), &Timed)| {
            Stand::of(machine.profile(), *device, timed)
        };
        ours.groups[group].members.iter().zip(members).map(of).collect::<Vec<Stand>>()
    };
    let mut from_ours = Vec::new();
    for (group, set) in ours.settled.get(&from).unwrap_or(&ours.nominal[&from]).iter().enumerate() {
        if !set.is_empty() {
            let joint = set.iter().nth(pick.index(set.len())).unwrap();
            from_ours.extend(stand(group, &joint.members));
        }
    }
    let mut all = vec![from_ours];
    if cell.guarantee == Guarantee::Certain {
        let mut anything = Vec::new();
        for group in 0..ours.groups.len() {
            let lists = ours.anything(group);
            let any = lists.iter().map(|list| list[pick.index(list.len())]);
            let members: Vec<Timed> =
                if hot { any.collect() } else { any.map(|timed| Timed::from(timed.state)).collect() };
            anything.extend(stand(group, &members));
        }
        all.push(anything);
    }
    all
}

/// Runs a cell from a start that its verdict speaks of, and tells where it ends otherwise.
fn disagreement(site: &Arc<Site>, room: RoomId, cell: (Index, Index, Index), pace: u8) -> Option<String> {
    let analysis = Analysis::of(site, room);
    let situations = analysis.ours().situations.clone();
    let from = situations[cell.0.index(situations.len())];
    let others: Vec<Situation> = situations.into_iter().filter(|&to| to != from).collect();
    let to = others[cell.1.index(others.len())];
    let found = analysis.cell_plan(from, to);
    if !found.plan.runnable || found.cell.guarantee == Guarantee::AtRisk || found.cell.not_proved.is_some() {
        return None;
    }
    let length_ms = u64::from(found.plan.span_ms()) + AFTER_MS;
    starts(&analysis, &found.cell, &cell.2).into_iter().find_map(|stands| {
        let (wrong, _) = tried(site, room, &evening(stands.clone(), from, to, pace), to, length_ms).unwrap();
        let way = format!("{from:?} → {to:?} {:?} from {stands:?}", found.cell.guarantee);
        (!wrong.is_empty()).then(|| format!("{way}: {wrong:?} {}", course(site, room, &stands, (from, to), pace)))
    })
}

/// What happened in an evening that ended wrong.
fn course(site: &Arc<Site>, room: RoomId, stands: &[Stand], way: (Situation, Situation), pace: u8) -> String {
    let off = kestrel_core::prove::handed(site, room, Situation::Off);
    let events = evening(stands.to_vec(), way.0, way.1, pace);
    crate::story::on_simulated_clock(async {
        let evening = crate::story::evening(site.clone(), room, 1, &events, 300_000, &off).await;
        let view = evening.rehearsal.view();
        let run = view.run.map(|run| (run.end, run.ended_ms, run.troubles, run.ready_ms));
        let log = evening.rehearsal.world().log();
        let lines: Vec<String> = log
            .iter()
            .filter(|line| !line.routine)
            .take(40)
            .map(|line| format!("{} {} {:?}", line.at_ms, line.meaning, line.heard))
            .collect();
        format!("{run:?} {:?}\n{}", view.notices, lines.join("\n"))
    })
    .unwrap()
}

/// The house with devices of a room that are slower or quicker, toggle where they had a key for each, cycle through
/// their inputs, tell nothing, or wake each other and put each other to standby.
fn otherwise(room: RoomId, changes: &[(Index, u8, u32, u32)], policy: Policy) -> Site {
    let mut site = whole();
    let devices: Vec<DeviceId> = site.devices_in(room).map(|device| device.id).collect();
    for (which, what, lo_ms, more_ms) in changes {
        let id = devices[which.index(devices.len())];
        let profile = site.profile_of(id).unwrap();
        let span = Span::profile(*lo_ms, lo_ms + more_ms);
        // What is told by name over the network cannot be a toggle.
        let by_light = |key| site.code(id, key).is_some_and(|code| code.body.medium() == Medium::Ir);
        let change = match (what % 10, profile.power, &profile.selection) {
            (0, Power::Discrete { on, .. }, _) if by_light(on) => Override::Power(Power::Toggle { key: on }),
            (1, _, Selection::Discrete) => match profile.inputs.iter().find_map(|input| input.select) {
                Some(next) if by_light(next) => Override::Selection(Selection::Cycle { next, previous: None }),
                _ => continue,
            },
            (2, ..) => Override::Feedback(Feedback::None),
            (3, ..) => Override::WarmUp(span),
            (4, ..) => Override::Picture(span),
            (5, ..) => Override::CoolDown(span),
            (6, ..) => Override::InputChange(span),
            // Over HDMI it wakes, is woken, puts to standby or is put there: every combination comes up.
            (7 | 8, ..) => {
                let has = |bit: u32| (lo_ms + more_ms) >> bit & 1 == 1;
                let delay = Span::profile(lo_ms % 2_500, lo_ms % 2_500 + more_ms % 1_500);
                let (wakes, woken, sleeps, put_to_sleep) = (has(0), has(1), has(2), has(3));
                Override::Couples(Some(Couples { wakes, woken, sleeps, put_to_sleep, delay }))
            }
            _ => Override::Gap(100 + more_ms / 20),
        };
        let device = site.devices.iter_mut().find(|device| device.id == id).unwrap();
        device.overrides.push(change);
    }
    site.rooms.iter_mut().filter(|known| known.id == room).for_each(|room| room.plans.policy = policy);
    site
}

fn rooms() -> [RoomId; 4] {
    [ids::tidy_cabin(), ids::chart_loft(), ids::watch_room(), ids::boat_hall()]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn every_cell_of_the_demo_house_ends_as_proved(
        room in 0usize..4, from in any::<Index>(), to in any::<Index>(), start in any::<Index>(), pace in 0u8..=100,
    ) {
        let site = Arc::new(whole());
        prop_assert_eq!(disagreement(&site, rooms()[room], (from, to, start), pace), None);
    }

    #[test]
    fn every_cell_of_a_generated_room_ends_as_proved(
        room in 0usize..3,
        changes in prop::collection::vec((any::<Index>(), any::<u8>(), 0u32..12_000, 0u32..8_000), 0..6),
        safe in any::<bool>(),
        from in any::<Index>(), to in any::<Index>(), start in any::<Index>(), pace in 0u8..=100,
    ) {
        let policy = if safe { Policy::Safe } else { Policy::Trusting };
        let site = Arc::new(otherwise(rooms()[room], &changes, policy));
        prop_assert_eq!(disagreement(&site, rooms()[room], (from, to, start), pace), None);
    }
}

/// A cell at risk has a story, and played in the room it goes wrong as it was told. A device that tells what it is
/// keeps the runtime from the mistake that the plan alone would make.
#[test]
fn a_counterexample_of_the_proof_goes_wrong_on_the_bench_too() {
    let site = Arc::new(whole());
    let mut wrong = 0;
    for room in [ids::tidy_cabin(), ids::watch_room(), ids::slip_deck()] {
        for cell in Analysis::of(&site, room).matrix().cells.iter().filter(|cell| cell.runnable) {
            let Some(example) = counterexample(&site, room, cell.from, cell.to).unwrap() else {
                assert!(cell.story.is_none(), "{cell:?}");
                continue;
            };
            assert!(matches!(&example.story.events[0].deed, Deed::Stand { taken_for, .. } if *taken_for == cell.from));
            let again = replay(site.clone(), room, &example.story).unwrap();
            assert_eq!(again.passed, example.ends_wrong.is_empty(), "{:?} {example:?}", again.differences);
            let device = cell.story.as_ref().unwrap().device;
            let tells = site.profile_of(device).unwrap().feedback != Feedback::None;
            wrong += usize::from(!example.ends_wrong.is_empty());
            assert!(tells || !example.ends_wrong.is_empty(), "{room:?} {:?} → {:?}: {example:?}", cell.from, cell.to);
        }
    }
    assert!(wrong > 0);
}
