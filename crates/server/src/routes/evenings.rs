//! Evenings in the rehearsal room: hands, faults, what the room is taken for, stories, and trials at random.

use super::proofs::CellQuery;
use super::rehearsals::noted;
use super::{csv_file, who};
use crate::houses::{Houses, Trial, no_room};
use crate::problem::{Body, Path, Problem, Query};
use crate::work::{Asker, LONG, PROOF, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, Response};
use kestrel_bench::RehearsalView;
use kestrel_bench::rehearsal::{Nudged, Rehearsal};
use kestrel_bench::story::{Counterexample, Played, counterexample, ends_here, replay};
use kestrel_bench::trials::{self, EVENINGS_MAX, TrialReport, TrialRequest};
use kestrel_core::adopt::{self, InStep};
use kestrel_core::edit::{Edit, valid_deed, valid_faults};
use kestrel_core::id::{DeviceId, HouseId, RoomId, StoryId};
use kestrel_core::model::{EVENTS_MAX, Entity, Faults, Hand, InRoom, Story, StoryEvent};
use kestrel_core::room::Want;
use serde::{Deserialize, Serialize};
use std::sync::atomic::Ordering;
use utoipa::ToSchema;

/// How the room stays in step with what its devices tell: rules, gaps, findings.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/in-step", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = InStep), (status = 404, body = Problem))
)]
pub async fn in_step(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<InStep>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    Ok(Json(SOON.run(move || adopt::in_step(&snapshot.site, room)).await?))
}

/// What a hand did.
#[derive(Debug, Serialize, ToSchema)]
pub struct HandView {
    /// What came of it, in words.
    said: String,
}

/// Somebody, or the mains, does something in the room without asking the runtime.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/hand", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = Hand,
    responses((status = 200, body = HandView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn hand(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(hand): Body<Hand>,
) -> Result<Json<HandView>, Problem> {
    if matches!(hand, Hand::Level { percent, .. } if percent > 100) {
        return Err(Problem::refused("A level lies between 0 and 100 %."));
    }
    let said = houses.rehearsal(house, room).await?.hand(&hand)?;
    Ok(Json(HandView { said }))
}

/// What is wrong with a device.
#[derive(Debug, Deserialize, ToSchema)]
pub struct FaultRequest {
    /// The device.
    device: DeviceId,
    /// What is wrong from now on.
    faults: Faults,
}

/// Breaks something, or mends it.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/fault", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = FaultRequest,
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn fault(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<FaultRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    valid_faults(&request.faults).map_err(|error| Problem::refused(error.to_string()))?;
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.set_faults(request.device, request.faults)?;
    Ok(Json(rehearsal.view()))
}

/// Which device.
#[derive(Debug, Deserialize, ToSchema)]
pub struct DeviceRequest {
    /// The device.
    device: DeviceId,
}

/// A device restarts: its connections end, and it comes back as after a cut of the mains.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/restart", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = DeviceRequest,
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem))
)]
pub async fn restart(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<DeviceRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.restart(request.device)?;
    Ok(Json(rehearsal.view()))
}

/// Brings the adopted activity to its end: sound, screen and light follow.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/complete", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn complete(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    match rehearsal.taken_for() {
        Some(to) => noted(&houses, (house, room), &rehearsal, to, rehearsal.complete()).await?,
        None => rehearsal.complete().await?,
    }
    Ok(Json(rehearsal.view()))
}

/// Louder or softer.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NudgeRequest {
    /// The device.
    device: DeviceId,
    /// Steps, −30 to 30.
    steps: i8,
}

/// Louder or softer by steps. Steps that had to wait are dropped, and the ceiling is never passed.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/nudge", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = NudgeRequest,
    responses((status = 200, body = Nudged), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn nudge(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<NudgeRequest>,
) -> Result<Json<Nudged>, Problem> {
    if request.steps == 0 || request.steps.unsigned_abs() > 30 {
        return Err(Problem::refused("Louder or softer goes by 1 to 30 steps."));
    }
    Ok(Json(houses.rehearsal(house, room).await?.nudge(request.device, request.steps).await?))
}

/// What a device on the network is told by name.
#[derive(Debug, Deserialize, ToSchema)]
pub struct WantRequest {
    /// The device.
    device: DeviceId,
    /// What.
    want: Want,
}

/// Tells a device on the network something by name: a level, a message, a spoken line.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/want", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = WantRequest,
    responses(
        (status = 200, body = RehearsalView), (status = 404, body = Problem), (status = 422, body = Problem),
        (status = 502, description = "The device did not take it.", body = Problem),
    )
)]
pub async fn want(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<WantRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.want(request.device, &request.want).await?;
    Ok(Json(rehearsal.view()))
}

/// The wire log as CSV: time, direction, device, medium, meaning, bytes.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/rehearsal/wire", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, content_type = "text/csv", body = String), (status = 404, body = Problem))
)]
pub async fn wire(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Response<axum::body::Body>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    csv_file("wire-log.csv", rehearsal.world().log_csv())
}

/// Starts to record the evening, in a room that is put back to off.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/record", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem))
)]
pub async fn record(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.record_from_here().await;
    Ok(Json(rehearsal.view()))
}

/// The name of a recorded evening.
#[derive(Debug, Deserialize, ToSchema)]
pub struct KeepRequest {
    /// What it is called.
    name: String,
}

/// Ends the recording and keeps it as a test of the room: how it stands now is how it has to end.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/keep", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = KeepRequest,
    responses((status = 200, body = Story), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn keep(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(request): Body<KeepRequest>,
) -> Result<Json<Story>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    let snapshot = houses.snapshot(house).await?;
    let own = snapshot.site.room(room).ok_or_else(no_room)?;
    let name = request.name.trim().to_owned();
    if name.is_empty() || own.rehearsal.stories.iter().any(|known| known.name == name) {
        // The recording goes on: nothing is lost.
        return Err(Problem::refused("The evening needs a name that no other story of this room has."));
    }
    let (events, length_ms) = rehearsal.recorded()?;
    let (ends, taken_for) = ends_here(&rehearsal);
    let id = StoryId(uuid::Uuid::now_v7());
    let position = own.rehearsal.stories.iter().map(|story| story.position + 1).max().unwrap_or(0);
    let story = Story { id, position, name, seed: Rehearsal::seed(), events, length_ms, ends, taken_for };
    let entity = Entity::Story(InRoom::new(room, story.clone()));
    houses.edit(house, &who(&headers), &[Edit::Put { entity, base: None }]).await?;
    rehearsal.end_recording();
    Ok(Json(story))
}

/// Events to be played.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PlayRequest {
    /// In order of time.
    events: Vec<StoryEvent>,
}

/// Plays events in the rehearsal room, which is put back to off first, at the pace of its clock, in place of what was
/// being played. How far it is, is part of the view.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/play", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = PlayRequest,
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn play(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<PlayRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    if request.events.len() > EVENTS_MAX {
        return Err(Problem::refused(format!("An evening has {EVENTS_MAX} events at most.")));
    }
    for event in &request.events {
        valid_deed(&event.deed).map_err(|error| Problem::refused(error.to_string()))?;
    }
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.play_here(request.events).await;
    Ok(Json(rehearsal.view()))
}

/// Ends the evening that is being played; the room stays as it stands.
#[utoipa::path(
    delete, path = "/api/houses/{house}/rooms/{room}/rehearsal/play", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem))
)]
pub async fn stop_playing(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.stop_playing();
    Ok(Json(rehearsal.view()))
}

/// The counterexample of a cell of the switch matrix as an evening that can be played and kept; none where the cell
/// has no counterexample.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/plan/counterexample", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), CellQuery),
    responses((status = 200, body = Option<Counterexample>), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn cell_counterexample(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<CellQuery>,
) -> Result<Json<Option<Counterexample>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    let (from, to) = query.ends(&snapshot.site, room)?;
    let site = snapshot.site.clone();
    let found = PROOF.run(move || counterexample(&site, room, from, to)).await?;
    let found = found.map_err(|error| Problem::refused(format!("The story could not be played: {error}.")))?;
    Ok(Json(found))
}

/// What came of a story.
#[derive(Debug, Serialize, ToSchema)]
pub struct Replayed {
    /// Which.
    story: StoryId,
    /// What came of it.
    played: Played,
}

/// Plays every story of the room again, in memory and faster than real time.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/stories/replay", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Vec<Replayed>), (status = 404, body = Problem))
)]
pub async fn replay_stories(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Vec<Replayed>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let stories = snapshot.site.room(room).ok_or_else(no_room)?.rehearsal.stories.clone();
    let site = snapshot.site.clone();
    let (asker, gone) = Asker::new();
    let played = LONG.run(move || {
        let one = |story: Story| Ok(Replayed { story: story.id, played: replay(site.clone(), room, &story)? });
        stories.into_iter().take_while(|_| !gone.is_gone()).map(one).collect::<std::io::Result<Vec<Replayed>>>()
    });
    let played =
        played.await?.map_err(|error| Problem::refused(format!("The stories could not be played: {error}.")))?;
    drop(asker);
    Ok(Json(played))
}

/// Trials as they stand.
#[derive(Debug, Serialize, ToSchema)]
pub struct TrialView {
    /// What was asked for.
    asked: TrialRequest,
    /// Do they wait for others to end?
    waiting: bool,
    /// Evenings played so far.
    done: u32,
    /// What came of it; none while it runs, and where it failed.
    report: Option<TrialReport>,
    /// Why nothing came of it, in a sentence; none while it runs, and where something did.
    failed: Option<String>,
}

impl From<Trial> for TrialView {
    fn from(trial: Trial) -> Self {
        let (report, failed) = match trial.outcome() {
            None => (None, None),
            Some(Ok(report)) => (Some(report), None),
            Some(Err(why)) => (None, Some(why)),
        };
        let begun = trial.progress.begun.load(Ordering::Relaxed);
        let waiting = !begun && report.is_none() && failed.is_none();
        Self { asked: trial.asked, waiting, done: trial.progress.done.load(Ordering::Relaxed), report, failed }
    }
}

/// Starts trials at random; those before are cancelled. They wait for trials of other rooms to end.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/trials", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = TrialRequest,
    responses((status = 200, body = TrialView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn start_trials(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<TrialRequest>,
) -> Result<Json<TrialView>, Problem> {
    if !(1..=EVENINGS_MAX).contains(&asked.evenings) {
        return Err(Problem::refused(format!("Between 1 and {EVENINGS_MAX} evenings can be tried.")));
    }
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    let trial = Trial::new(asked);
    houses.keep_trial((house, room), trial.clone());
    let (site, progress) = (snapshot.site.clone(), trial.progress.clone());
    let running = trial.clone();
    tokio::spawn(async move {
        running.ends(match LONG.run(move || trials::run(&site, room, &asked, &progress)).await {
            Ok(Ok(report)) => Ok(report),
            Ok(Err(error)) => Err(format!("The evenings could not be played: {error}. Try again.")),
            Err(problem) => Err(problem.detail),
        });
    });
    Ok(Json(trial.into()))
}

/// The trials of the room, under way or done last.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/trials", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Option<TrialView>), (status = 404, body = Problem))
)]
pub async fn trials(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Option<TrialView>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    Ok(Json(houses.trial((house, room)).map(TrialView::from)))
}

/// Ends the trials: at once where they wait, else after the evening that is being played.
#[utoipa::path(
    delete, path = "/api/houses/{house}/rooms/{room}/trials", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Option<TrialView>), (status = 404, body = Problem))
)]
pub async fn cancel_trials(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Option<TrialView>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    let trial = houses.trial((house, room));
    if let Some(trial) = &trial {
        trial.cancel();
    }
    Ok(Json(trial.map(TrialView::from)))
}
