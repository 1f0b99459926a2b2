//! The rehearsal room.

use crate::houses::{Houses, RoomKey};
use crate::problem::{Body, Path, Problem};
use axum::Json;
use axum::extract::State;
use axum::response::sse::{Event, KeepAlive, Sse};
use futures::{Stream, StreamExt};
use kestrel_bench::rehearsal::RehearsalError;
use kestrel_bench::{Rehearsal, RehearsalView};
use kestrel_core::id::{DeviceId, FunctionId, HouseId, RoomId};
use kestrel_core::model::Situation;
use kestrel_core::room::Heard;
use serde::{Deserialize, Serialize};
use std::convert::Infallible;
use std::time::Duration;
use utoipa::ToSchema;

/// The least time between two events of one page.
const PAUSE: Duration = Duration::from_millis(50);

/// Where a run should lead.
#[derive(Debug, Deserialize, ToSchema)]
pub struct RunRequest {
    /// Off, or an activity.
    to: Situation,
    /// Shall a plan be sent that is right only from what is likeliest? It is refused with `unsure` otherwise.
    #[serde(default)]
    confirmed: bool,
}

/// How fast the clock should run.
#[derive(Debug, Deserialize, ToSchema)]
pub struct RateRequest {
    /// Times real time, 0.1–20; 0 stands still.
    rate: f64,
}

/// How far a clock that stands still moves ahead.
#[derive(Debug, Deserialize, ToSchema)]
pub struct StepRequest {
    /// In ms, up to an hour; to the next thing that happens, if none.
    #[serde(default)]
    ms: Option<u64>,
}

/// Which function to send.
#[derive(Debug, Deserialize, ToSchema)]
pub struct SendRequest {
    /// The device.
    device: DeviceId,
    /// The function.
    function: FunctionId,
}

/// What came of one press.
#[derive(Debug, Serialize, ToSchema)]
pub struct SendView {
    /// Who understood it and what they did; empty where nobody did.
    pub heard: Vec<Heard>,
}

/// The rehearsal room as it stands.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/rehearsal", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem))
)]
pub async fn rehearsal_view(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<RehearsalView>, Problem> {
    Ok(Json(houses.rehearsal(house, room).await?.view()))
}

/// Server-sent events: `rehearsal` with the whole view whenever something changes.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/rehearsal/events", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, content_type = "text/event-stream", body = String), (status = 404, body = Problem))
)]
pub async fn events(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    let stream = views(rehearsal)
        .filter_map(|view| std::future::ready(Event::default().event("rehearsal").json_data(view).ok().map(Ok)))
        .take_until(houses.closing());
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}

/// The view now, and again after every change, with a pause between.
fn views(rehearsal: Rehearsal) -> impl Stream<Item = RehearsalView> {
    let changes = rehearsal.changes();
    futures::stream::unfold((rehearsal, changes, true), |(rehearsal, mut changes, first)| async move {
        if !first {
            tokio::time::sleep(PAUSE).await;
            changes.changed().await.ok()?;
        }
        changes.borrow_and_update();
        let view = rehearsal.view();
        Some((view, (rehearsal, changes, false)))
    })
}

/// Starts a macro; one that is running is superseded.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/run", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = RunRequest,
    responses(
        (status = 200, body = RehearsalView), (status = 404, body = Problem),
        (status = 409, description = "The plan may end wrong: ask again with `confirmed`.", body = Problem),
        (status = 422, description = "The plan cannot be sent, with the reason.", body = Problem),
        (status = 502, description = "The gateway failed.", body = Problem),
    )
)]
pub async fn run(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<RunRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    if request.to == Situation::Unknown {
        return Err(Problem::refused("A macro cannot lead to “unknown”. Choose an activity or off."));
    }
    let start = async {
        if request.confirmed { rehearsal.run_all_the_same(request.to).await } else { rehearsal.run(request.to).await }
    };
    noted(&houses, (house, room), &rehearsal, request.to, start).await?;
    Ok(Json(rehearsal.view()))
}

/// Starts a macro that leads to `to`, with a note in the database before anything is sent; whoever watches the room
/// takes the note away at its end.
pub(super) async fn noted(
    houses: &Houses,
    (house, room): RoomKey,
    rehearsal: &Rehearsal,
    to: Situation,
    start: impl Future<Output = Result<(), RehearsalError>>,
) -> Result<(), Problem> {
    houses.store().run_began(house, room, &kestrel_core::model::situation_name(&rehearsal.world().site(), to)).await?;
    if let Err(error) = start.await {
        houses.store().run_ended(house, room).await?;
        return Err(error.into());
    }
    Ok(())
}

/// Stops the running macro, the evening that is played, and everything that moves.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/stop", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem), (status = 502, body = Problem))
)]
pub async fn stop(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.stop_playing();
    rehearsal.stop().await?;
    Ok(Json(rehearsal.view()))
}

/// Puts the room back to off and clears the wire log.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/reset", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem))
)]
pub async fn reset(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.reset().await;
    Ok(Json(rehearsal.view()))
}

/// Sets how fast the clock runs; 0 stands still.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/rate", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = RateRequest,
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn rate(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<RateRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    if request.rate != 0.0 && !kestrel_bench::rehearsal::RATES.contains(&request.rate) {
        let status = axum::http::StatusCode::UNPROCESSABLE_ENTITY;
        return Err(Problem::new(
            status,
            "refused",
            "The clock runs at 0.1 to 20 times real time, or stands still at 0.",
        ));
    }
    rehearsal.set_rate(request.rate);
    Ok(Json(rehearsal.view()))
}

/// Moves a clock that stands still ahead.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/step", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = StepRequest,
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem))
)]
pub async fn step(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<StepRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.step(request.ms);
    Ok(Json(rehearsal.view()))
}

/// Sends one press of a function to the room and says who understood it.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/send", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = SendRequest,
    responses(
        (status = 200, body = SendView), (status = 404, body = Problem),
        (status = 422, description = "No code.", body = Problem), (status = 502, body = Problem),
    )
)]
pub async fn send(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<SendRequest>,
) -> Result<Json<SendView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    let heard = rehearsal.send_once(request.device, request.function).await?;
    Ok(Json(SendView { heard }))
}
