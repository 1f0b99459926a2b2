//! The service call: what the client says, what it can be, and what it was.

use super::houses::put_all;
use super::proofs::{matrix_of, room_of};
use crate::houses::{Houses, RoomKey};
use crate::problem::{Body, Path, Problem};
use crate::views::SavedView;
use crate::work::{LONG, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::HeaderMap;
use kestrel_bench::story::of_call;
use kestrel_core::id::{HouseId, RoomId};
use kestrel_core::model::{Entity, InRoom, Story};
use kestrel_core::service::{ClientSays, ServiceView, asked_for, trouble, weigh};
use kestrel_store::{NewVisit, Snapshot, VisitKind};
use serde::{Deserialize, Serialize};
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
    /// What was ticked and answered, for the story of the cause.
    #[serde(default)]
    says: ClientSays,
    /// Shall a cause that can be one be kept as a story, by which the house is tested from now on?
    #[serde(default)]
    story: bool,
    /// How long it took, in minutes (0 to 6,000).
    #[serde(default)]
    minutes: Option<i32>,
}

/// A call that was written down.
#[derive(Debug, Serialize, ToSchema)]
pub struct WrittenCall {
    /// Its line of the log.
    line: Uuid,
    /// What the story is called that was made of it, where one was.
    story: Option<String>,
    /// The edit that keeps the story.
    saved: Option<SavedView>,
}

/// The story of a cause; none where it is not one that asking once more brings the room out of.
async fn story_of(
    houses: &Houses,
    (house, room): RoomKey,
    snapshot: &Snapshot,
    told: &CallOutcome,
) -> Result<Option<Story>, Problem> {
    let Some(cause) = told.cause.clone().filter(|_| told.story) else { return Ok(None) };
    let (houses, site, says) = (houses.clone(), snapshot.site.clone(), told.says.clone());
    let made = LONG.run(move || -> std::io::Result<Option<Story>> {
        let runs = houses.runs((house, room), &site);
        let Some(run) = asked_for(&runs, &says) else { return Ok(None) };
        let settled_ms = u64::from(run.settled_ms());
        let Some(trouble) = trouble(&site, room, &cause, run.to, settled_ms) else { return Ok(None) };
        let mut story = of_call(&site, room, run.to, settled_ms, trouble)?.story;
        let known = site.room(room).map_or(&[][..], |own| &own.rehearsal.stories[..]);
        // The same cause may come again, in another evening.
        let again = (2..).map(|n| format!("{} ({n})", story.name));
        let name = std::iter::once(story.name.clone()).chain(again);
        story.position = known.iter().map(|one| one.position + 1).max().unwrap_or(0);
        story.name = name.into_iter().find(|name| known.iter().all(|one| one.name != *name)).unwrap_or_default();
        Ok(Some(story))
    });
    let story = made.await?;
    story.map_err(|error| Problem::refused(format!("The story could not be played: {error}.")))
}

/// Writes a call down: what was said, what it was, how long it took. A cause that can be played is kept as a story as well.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/service/outcome", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = CallOutcome,
    responses((status = 200, body = WrittenCall), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn write_call(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(told): Body<CallOutcome>,
) -> Result<Json<WrittenCall>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
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
    let story = story_of(&houses, (house, room), &snapshot, &told).await?;
    let cause = told.cause.as_deref();
    if let Some(cause) = cause.filter(|cause| cause.len() <= 100 && !cause.contains('\n')) {
        text = format!("{text}\n{CAUSE}{cause}");
    }
    let line =
        NewVisit { kind: VisitKind::Call, room: Some(room), device: None, text, photo: None, minutes: told.minutes };
    let line = houses.store().note(house, &super::who(&headers).name, &line).await?;
    let name = story.as_ref().map(|story| story.name.clone());
    let mut saved = None;
    if let Some(story) = story {
        let entity = Entity::Story(InRoom::new(room, story));
        saved = Some(put_all(&houses, house, &headers, &snapshot, vec![entity]).await?);
    }
    Ok(Json(WrittenCall { line, story: name, saved }))
}
