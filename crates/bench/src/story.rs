//! An evening played again: in memory, on the simulated clock, as fast as it can be computed.

use crate::mind::{Notice, RunView};
use crate::rehearsal::{Rehearsal, RehearsalError};
use crate::world::WireLine;
use kestrel_core::id::RoomId;
use kestrel_core::model::{Deed, End, Site, Situation, Story, StoryEvent, situation_name};
use kestrel_core::plan::goal;
use kestrel_core::prove::{Analysis, Handed, handed};
use kestrel_core::room::DeviceView;
use kestrel_core::room::ending::differences;
use kestrel_core::service::Trouble;
use serde::Serialize;
use std::sync::Arc;
use std::time::Instant;
use utoipa::ToSchema;

/// What came of an evening.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Played {
    /// Did it end as it should?
    pub passed: bool,
    /// Where it did not: a sentence for each device.
    pub differences: Vec<String>,
    /// What could not be done on the way.
    pub refused: Vec<String>,
    /// What the runtime noticed.
    pub notices: Vec<Notice>,
    /// The last run.
    pub run: Option<RunView>,
    /// The wire log.
    pub wire: Vec<WireLine>,
    /// How long the evening was, in ms.
    pub simulated_ms: u64,
    /// How long it took to compute, in ms.
    pub took_ms: u64,
}

/// How an evening stands at its end.
pub(crate) struct EveningEnd {
    pub(crate) rehearsal: Rehearsal,
    pub(crate) refused: Vec<String>,
}

impl Rehearsal {
    /// Does what a story says.
    ///
    /// # Errors
    /// Where it cannot be done.
    pub async fn carry_out(&self, deed: &Deed) -> Result<(), RehearsalError> {
        match deed {
            Deed::Request { to } => self.run(*to).await,
            Deed::Stop => self.stop().await,
            Deed::Complete => self.complete().await,
            Deed::Hand { hand } => self.hand(hand).map(|_| ()),
            Deed::Fault { device, faults } => self.set_faults(*device, *faults),
            Deed::Restart { device } => self.restart(*device),
            Deed::Time { local } => self.set_time(local),
            Deed::Switch { switch, on } => {
                self.set_switch(*switch, *on);
                Ok(())
            }
            Deed::Stand { devices, taken_for, pace_percent } => {
                self.stand(devices, *taken_for, *pace_percent).await;
                Ok(())
            }
        }
    }

    /// Plays events in this room, at the pace of its clock, from now on.
    pub async fn play(&self, events: &[StoryEvent]) -> Vec<String> {
        let start = self.clock().now_ms();
        let mut refused = Vec::new();
        for event in events {
            self.clock().sleep_until(start + event.at_ms).await;
            if let Err(error) = self.carry_out(&event.deed).await {
                refused.push(error.to_string());
            }
        }
        refused
    }
}

/// Plays an evening to its end. To be called on a clock that may stand still or be paused.
pub(crate) async fn evening(
    site: Arc<Site>,
    room: RoomId,
    seed: u64,
    events: &[StoryEvent],
    length_ms: u64,
    handed: &Handed,
) -> EveningEnd {
    let rehearsal = Rehearsal::with_chance(site, room, seed, handed);
    let refused = rehearsal.play(events).await;
    rehearsal.clock().sleep_until(length_ms).await;
    EveningEnd { rehearsal, refused }
}

/// Runs something on a clock of its own that never waits: time passes as soon as nothing is left to do.
///
/// # Errors
/// Where the system refuses.
pub fn on_simulated_clock<T>(work: impl Future<Output = T>) -> std::io::Result<T> {
    let runtime = tokio::runtime::Builder::new_current_thread().enable_time().start_paused(true).build()?;
    Ok(runtime.block_on(work))
}

/// Plays a story again; blocks until it is over.
///
/// # Errors
/// Where the system refuses.
pub fn replay(site: Arc<Site>, room: RoomId, story: &Story) -> std::io::Result<Played> {
    let started = Instant::now();
    let off = handed(&site, room, Situation::Off);
    on_simulated_clock(async {
        let EveningEnd { rehearsal, refused } =
            evening(site.clone(), room, story.seed, &story.events, story.length_ms, &off).await;
        let view = rehearsal.view();
        let differences = differences(&site, story, &view.devices, view.taken_for);
        Played {
            passed: differences.is_empty(),
            differences,
            refused,
            notices: view.notices,
            run: view.run,
            wire: rehearsal.world().log(),
            simulated_ms: view.now_ms,
            took_ms: u64::try_from(started.elapsed().as_millis()).unwrap_or(u64::MAX),
        }
    })
}

/// How a story has to end, from how the room stands now.
#[must_use]
pub fn ends_here(rehearsal: &Rehearsal) -> (Vec<kestrel_core::model::End>, Option<Situation>) {
    let views: Vec<DeviceView> = rehearsal.world().with(|truth, _| truth.sim.view());
    (kestrel_core::room::ending::ends(&rehearsal.world().site(), &views), rehearsal.taken_for())
}

/// A counterexample of the proof, as an evening.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Counterexample {
    /// In one sentence.
    pub headline: String,
    /// How the room is found, and the request; it should end as what was asked for wants it.
    pub story: Story,
    /// Where the room is otherwise than that when it is played; empty where the runtime did better than the plan
    /// that was proved, because a device told it what it is.
    pub ends_wrong: Vec<String>,
}

/// Where in their intervals durations are tried, in %.
const PACES: [u8; 5] = [80, 100, 0, 50, 20];

/// How long a room is watched after a plan is over, in ms.
const AFTER_MS: u64 = 90_000;

/// When the request of a counterexample comes, in ms: at once, so that what is under way is still under way.
const REQUEST_MS: u64 = 1;

/// The counterexample of a cell of the switch matrix as an evening, at a pace at which it ends wrong, where there is
/// one; blocks. `None` where the cell has none.
///
/// # Errors
/// Where the system refuses.
pub fn counterexample(
    site: &Arc<Site>,
    room: RoomId,
    from: Situation,
    to: Situation,
) -> std::io::Result<Option<Counterexample>> {
    let found = Analysis::of(site, room).cell_plan(from, to);
    let Some(told) = found.cell.story else { return Ok(None) };
    let length_ms = u64::from(found.plan.span_ms()) + AFTER_MS;
    let mut first = None;
    for pace_percent in PACES {
        let stand = Deed::Stand { devices: told.stands.clone(), taken_for: from, pace_percent };
        let events =
            vec![StoryEvent { at_ms: 0, deed: stand }, StoryEvent { at_ms: REQUEST_MS, deed: Deed::Request { to } }];
        let (ends_wrong, ends) = tried(site, room, &events, to, length_ms)?;
        let wrong = !ends_wrong.is_empty();
        let story = Story {
            position: 0,
            id: uuid::Uuid::now_v7().into(),
            name: format!(
                "{} → {}: {}",
                situation_name(site, from),
                situation_name(site, to),
                site.device_name(told.device)
            ),
            seed: 1,
            events,
            length_ms,
            ends,
            taken_for: Some(to),
        };
        let example = Counterexample { headline: told.headline.clone(), story, ends_wrong };
        if wrong {
            return Ok(Some(example));
        }
        first.get_or_insert(example);
    }
    Ok(first)
}

/// What a call has ended in, as an evening by which the house is tested from now on: it should end as what was asked for wants
/// it. Blocks.
///
/// # Errors
/// Where the system refuses.
pub fn of_call(
    site: &Arc<Site>,
    room: RoomId,
    to: Situation,
    settled_ms: u64,
    trouble: Trouble,
) -> std::io::Result<Counterexample> {
    let Trouble { name, mut events, asks_ms } = trouble;
    events.push(StoryEvent { at_ms: asks_ms, deed: Deed::Request { to } });
    let length_ms = asks_ms + settled_ms + AFTER_MS;
    let (ends_wrong, ends) = tried(site, room, &events, to, length_ms)?;
    let story = Story {
        position: 0,
        id: uuid::Uuid::now_v7().into(),
        name: name.clone(),
        seed: 1,
        events,
        length_ms,
        ends,
        taken_for: Some(to),
    };
    Ok(Counterexample { headline: name, story, ends_wrong })
}

/// Where a room is not as `to` wants it at the end of an evening, and how it would have to end.
///
/// # Errors
/// Where the system refuses.
pub(crate) fn tried(
    site: &Arc<Site>,
    room: RoomId,
    events: &[StoryEvent],
    to: Situation,
    length_ms: u64,
) -> std::io::Result<(Vec<String>, Vec<End>)> {
    let off = handed(site, room, Situation::Off);
    on_simulated_clock(async {
        let EveningEnd { rehearsal, refused } = evening(site.clone(), room, 1, events, length_ms, &off).await;
        let goals = goal::goals(site, room, to).devices;
        let (mut wrong, views) = rehearsal.world().with(|truth, _| (truth.sim.differences(&goals), truth.sim.view()));
        wrong.extend(refused);
        let mut ends = kestrel_core::room::ending::ends(site, &views);
        for goal in &goals {
            let Some(end) = ends.iter_mut().find(|end| end.device == goal.device) else { continue };
            end.on = goal.on.unwrap_or(end.on);
            end.input = if end.on { goal.input.or(end.input) } else { None };
            let stands = goal
                .position
                .zip(site.profile_of(goal.device))
                .and_then(|(to, profile)| u8::try_from(profile.down_per_mille(to.into()) / 10).ok());
            end.down_percent = stands.or(end.down_percent);
        }
        (wrong, ends)
    })
}
