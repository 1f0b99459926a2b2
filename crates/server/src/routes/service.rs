//! The service call: what the client says, what it can be, and what it was.

use super::proofs::{matrix_of, room_of};
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem};
use crate::work::SOON;
use axum::Json;
use axum::extract::State;
use axum::http::HeaderMap;
use kestrel_core::id::{HouseId, RoomId};
use kestrel_core::service::{ClientSays, ServiceView, weigh};
use kestrel_store::{NewVisit, VisitKind};
use serde::Deserialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// Before the cause of a call in its line of the log: by it causes are counted.
const CAUSE: &str = "cause: ";

/// The causes of closed calls of a house.
async fn counted(houses: &Houses, house: HouseId) -> Result<BTreeMap<String, u32>, Problem> {
    let mut counts = BTreeMap::new();
    for own in houses.store().visits(house).await?.into_iter().filter(|own| own.kind == VisitKind::Call) {
        let cause = own.text.lines().find_map(|line| line.strip_prefix(CAUSE));
        if let Some(cause) = cause {
            *counts.entry(cause.trim().to_owned()).or_default() += 1;
        }
    }
    Ok(counts)
}

/// Weighs what the client says: causes, the next question, the least surprising check.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/service", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = ClientSays,
    responses((status = 200, body = ServiceView), (status = 404, body = Problem), (status = 409, body = Problem))
)]
pub async fn weigh_call(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(says): Body<ClientSays>,
) -> Result<Json<ServiceView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let matrix = matrix_of(&houses, house, room).await?;
    let log = counted(&houses, house).await?;
    let view = SOON.run(move || {
        let runs = houses.runs((house, room), &snapshot.site);
        weigh(&snapshot.site, room, &matrix, &runs, &says, &log)
    });
    Ok(Json(view.await?))
}

/// What a call was.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CallOutcome {
    /// What the client said, in words.
    said: String,
    /// What it was, and what was done.
    outcome: String,
    /// The cause, by its id, where one was found.
    #[serde(default)]
    cause: Option<String>,
    /// How long it took, in minutes (0 to 6,000).
    #[serde(default)]
    minutes: Option<i32>,
}

/// Writes a call down: what was said, what it was, how long it took.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/service/outcome", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = CallOutcome,
    responses((status = 200, body = Uuid), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn write_call(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(told): Body<CallOutcome>,
) -> Result<Json<Uuid>, Problem> {
    room_of(&houses, house, room).await?;
    let one_line = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let (said, was) = (one_line(&told.said), one_line(&told.outcome));
    if was.is_empty() || was.chars().count() > 2_000 || said.chars().count() > 1_000 {
        return Err(Problem::refused(
            "Say in up to 2,000 characters what it was; what the client said in up to 1,000.",
        ));
    }
    if told.minutes.is_some_and(|minutes| !(0..=6_000).contains(&minutes)) {
        return Err(Problem::refused("Minutes go from 0 to 6,000."));
    }
    let mut text = format!("{}. {was}", if said.is_empty() { "A call" } else { &said });
    if let Some(cause) = told.cause.filter(|cause| cause.len() <= 100 && !cause.contains('\n')) {
        text = format!("{text}\n{CAUSE}{cause}");
    }
    let line =
        NewVisit { kind: VisitKind::Call, room: Some(room), device: None, text, photo: None, minutes: told.minutes };
    Ok(Json(houses.store().note(house, &super::who(&headers).name, &line).await?))
}
