//! Trials at random: evenings that nobody would think of, from a seed, faster than real time.
//!
//! An evening has requests, hands and faults at random times, and ends with a quiet stretch in which
//! everything settles. It ended *wrong* where the runtime says or believes something that is not true, a
//! volume stands above its ceiling, or something still moves. That the room is not as asked for after a
//! hand or a fault is no fault of the runtime, as long as it does not say otherwise.

use crate::mind::{Notice, NoticeKind, RunEnd};
use crate::rehearsal::Rehearsal;
use crate::story::{EveningEnd, evening, on_simulated_clock};
use crate::world::Chance;
use kestrel_core::id::{DeviceId, RoomId};
use kestrel_core::model::{Deed, DeviceKind, Faults, Gesture, Hand, Site, Situation, Story, StoryEvent};
use kestrel_core::plan::goal;
use kestrel_core::prove::handed;
use kestrel_core::room::ending::ends;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU32, Ordering};
use std::time::Instant;
use utoipa::ToSchema;

/// The most evenings of one trial.
pub const EVENINGS_MAX: u32 = 2_000;

/// How many wrong evenings are kept to be played again.
const KEPT: usize = 20;

/// The quiet stretch at the end, in ms.
const QUIET_MS: u64 = 300_000;

/// What is tried.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct TrialRequest {
    /// How many evenings, 1–2000.
    pub evenings: u32,
    /// Where chance starts.
    pub seed: u64,
    /// Do hands meddle?
    pub hands: bool,
    /// Does something break?
    pub faults: bool,
}

/// An evening that ended wrong.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct WrongEvening {
    /// What was wrong, sentence by sentence.
    pub what: Vec<String>,
    /// The evening, to be played again.
    pub story: Story,
}

/// What came of the trials.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct TrialReport {
    /// What was tried.
    pub asked: TrialRequest,
    /// How many evenings were played; fewer than asked where it was cancelled.
    pub evenings: u32,
    /// How many runs they had.
    pub runs: u32,
    /// Runs that ended ready.
    pub ready: u32,
    /// Runs that ended sent, not confirmed.
    pub sent: u32,
    /// Runs that failed or ended wrong, and said so.
    pub told: u32,
    /// How many evenings ended wrong.
    pub wrong: u32,
    /// The first of those.
    pub wrongs: Vec<WrongEvening>,
    /// How much time was simulated, in ms.
    pub simulated_ms: u64,
    /// How long it took, in ms.
    pub took_ms: u64,
}

/// How far a trial is, and the way to end it.
#[derive(Debug, Default)]
pub struct Progress {
    /// Has it begun?
    pub begun: AtomicBool,
    /// Evenings played.
    pub done: AtomicU32,
    /// It should end.
    pub cancelled: AtomicBool,
}

/// An evening from a seed.
#[must_use]
pub fn make_up(site: &Site, room: RoomId, seed: u64, asked: &TrialRequest) -> (Vec<StoryEvent>, u64) {
    let mut chance = Chance::new(seed);
    let devices: Vec<DeviceId> = site.devices_in(room).map(|device| device.id).collect();
    let mut situations = vec![Situation::Off];
    situations.extend(site.activities.iter().filter(|a| a.room == room).map(|a| Situation::In { activity: a.id }));
    let pick = |chance: &mut Chance, most: usize| usize::try_from(chance.below(most as u64)).unwrap_or(0);
    let mut events = Vec::new();
    let mut at_ms = 0;
    for _ in 0..3 + chance.below(6) {
        at_ms += 2_000 + chance.below(240_000);
        let kind = chance.below(10);
        let device = devices.get(pick(&mut chance, devices.len())).copied();
        let deed = match (kind, device) {
            (6 | 7, Some(device)) if asked.hands => Deed::Hand { hand: some_hand(site, device, &mut chance) },
            (8, Some(device)) if asked.faults => {
                let lost_percent = if chance.below(2) == 0 { 30 } else { 0 };
                Deed::Fault { device, faults: Faults { lost_percent, silent: lost_percent == 0, ..Faults::default() } }
            }
            (9, Some(device)) if asked.faults => Deed::Fault { device, faults: Faults::default() },
            (5, _) if chance.below(3) == 0 => Deed::Stop,
            _ => Deed::Request { to: situations[pick(&mut chance, situations.len())] },
        };
        events.push(StoryEvent { at_ms, deed });
    }
    (events, at_ms + QUIET_MS)
}

/// Something that a hand might do to a device.
fn some_hand(site: &Site, device: DeviceId, chance: &mut Chance) -> Hand {
    let Some(profile) = site.profile_of(device) else { return Hand::Power { device } };
    let input = profile.inputs.get(usize::try_from(chance.below(profile.inputs.len().max(1) as u64)).unwrap_or(0));
    match (profile.kind, chance.below(4)) {
        (DeviceKind::Light, _) => Hand::Level { device, percent: u8::try_from(chance.below(101)).unwrap_or(0) },
        (DeviceKind::Keypad, _) => {
            let key = usize::try_from(chance.below(profile.functions.len().max(1) as u64)).unwrap_or(0);
            let gesture = [Gesture::Tap, Gesture::DoubleTap, Gesture::Hold][usize::from(chance.below(3) as u8)];
            profile.functions.get(key).map_or(Hand::Power { device }, |key| Hand::Press {
                device,
                function: key.id,
                gesture,
            })
        }
        (DeviceKind::Streamer, 1) => Hand::Cast { device },
        (DeviceKind::Sensor, _) => Hand::Trip { device, on: chance.below(2) == 0 },
        (_, 0) => match input {
            Some(input) if profile.inputs.len() > 1 => Hand::Input { device, input: input.id },
            _ => Hand::Power { device },
        },
        (_, 1) => match profile.motion {
            Some(motion) => Hand::Key { device, function: if chance.below(2) == 0 { motion.up } else { motion.down } },
            None => Hand::Power { device },
        },
        _ => Hand::Power { device },
    }
}

/// What is wrong at the end of an evening.
fn wrong_at_end(site: &Site, room: RoomId, rehearsal: &Rehearsal) -> Vec<String> {
    let view = rehearsal.view();
    let mut wrong = Vec::new();
    for device in &view.devices {
        let name = site.device_name(device.device);
        if device.reversed > 0 {
            wrong.push(format!("The motor of {name} was driven the other way without its stop and pause."));
        }
        if device.moving.is_some() {
            wrong.push(format!("{name} still moves."));
        }
        let ceiling =
            site.profile_of(device.device).and_then(|profile| profile.volume).map(|volume| volume.ceiling * 10);
        if device.volume_tenths.zip(ceiling).is_some_and(|(is, most)| is > most) {
            wrong.push(format!("{name} is louder than its ceiling."));
        }
    }
    let Some(run) = view.run.filter(|run| run.end == Some(RunEnd::Ready)) else { return wrong };
    // *Ready* was said of these, and the room is taken for that still: it has to be true of what hangs on it.
    // Where it was lost and adopted since, nobody says *ready*: what it is taken for rests on the conditions of its rule.
    let adopted = |notice: &Notice| {
        matches!(notice.kind, NoticeKind::Lost | NoticeKind::Adopted)
            && run.ended_ms.is_some_and(|ended_ms| notice.at_ms > ended_ms)
    };
    if view.taken_for == Some(run.to) && !view.notices.iter().any(adopted) {
        let goals = goal::goals(site, room, run.to).devices;
        // What is switched on beside an activity does not end it, and a source that wakes does not end *off*: nothing shows
        // or sounds. That it is on is known where it was told.
        let besides = |goal: &goal::DeviceGoal| {
            let seen = site.profile_of(goal.device).is_some_and(|own| own.kind.shows() || own.kind.sounds());
            let ends_it = run.to == Situation::Off && seen;
            goal.on == Some(false) && !ends_it && rehearsal.mind().knows_otherwise(goal)
        };
        // A device that says nothing any more is told as silent: what hands do to it then, nobody claims to know.
        let silent = |goal: &goal::DeviceGoal| rehearsal.mind().silence(goal.device, view.now_ms).is_some();
        let said =
            goals.into_iter().filter(|goal| run.confirmed.contains(&goal.device) && !besides(goal) && !silent(goal));
        let said: Vec<goal::DeviceGoal> = said.collect();
        let not = rehearsal.world().with(|truth, _| truth.sim.differences(&said));
        wrong.extend(not.into_iter().map(|what| format!("{what} The runtime takes it for granted.")));
    }
    wrong
}

/// Plays evenings until all are done or it is cancelled; blocks.
///
/// # Errors
/// Where the system refuses.
pub fn run(site: &Arc<Site>, room: RoomId, asked: &TrialRequest, progress: &Progress) -> std::io::Result<TrialReport> {
    progress.begun.store(true, Ordering::Relaxed);
    let started = Instant::now();
    let mut report = TrialReport {
        asked: *asked,
        evenings: 0,
        runs: 0,
        ready: 0,
        sent: 0,
        told: 0,
        wrong: 0,
        wrongs: vec![],
        simulated_ms: 0,
        took_ms: 0,
    };
    let off = handed(site, room, Situation::Off);
    for number in 0..asked.evenings.min(EVENINGS_MAX) {
        if progress.cancelled.load(Ordering::Relaxed) {
            break;
        }
        let seed = asked.seed.wrapping_add(u64::from(number));
        let (events, length_ms) = make_up(site, room, seed, asked);
        let (what, ends, taken_for, run) = on_simulated_clock(async {
            let EveningEnd { rehearsal, .. } = evening(site.clone(), room, seed, &events, length_ms, &off).await;
            let view = rehearsal.view();
            (wrong_at_end(site, room, &rehearsal), ends(site, &view.devices), view.taken_for, view.run)
        })?;
        report.evenings += 1;
        report.simulated_ms += length_ms;
        if let Some(run) = run {
            report.runs += u32::try_from(run.number).unwrap_or(u32::MAX);
            match run.end {
                Some(RunEnd::Ready) => report.ready += 1,
                Some(RunEnd::Sent) => report.sent += 1,
                Some(RunEnd::Failed | RunEnd::Wrong) => report.told += 1,
                Some(RunEnd::Stopped) | None => {}
            }
        }
        if !what.is_empty() {
            report.wrong += 1;
            if report.wrongs.len() < KEPT {
                let id = uuid::Uuid::from_u64_pair(asked.seed, u64::from(number)).into();
                let name = format!("Trial {seed}");
                let story = Story { id, position: 0, name, seed, events, length_ms, ends, taken_for };
                report.wrongs.push(WrongEvening { what, story });
            }
        }
        progress.done.store(number + 1, Ordering::Relaxed);
    }
    report.took_ms = u64::try_from(started.elapsed().as_millis()).unwrap_or(u64::MAX);
    Ok(report)
}
