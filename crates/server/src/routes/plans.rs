//! Plans and the notes in the margin.

use crate::houses::{Houses, no_room};
use crate::problem::{Path, Problem, Query};
use crate::work::SOON;
use axum::Json;
use axum::extract::State;
use kestrel_core::check::Notes;
use kestrel_core::finding::Finding;
use kestrel_core::id::{ActivityId, HouseId, RoomId};
use kestrel_core::model::{EntityKey, EntityKind, FindingKind, Situation, find};
use kestrel_core::plan;
use kestrel_core::plan::Plan;
use kestrel_store::Snapshot;
use serde::Deserialize;
use std::sync::Arc;
use utoipa::IntoParams;
use uuid::Uuid;

/// What is left to do in a room, and what was found about it.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/notes", tag = "plans",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Notes), (status = 404, body = Problem))
)]
pub async fn notes(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Arc<Notes>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    let since = since_handover(&houses, house, room, &snapshot).await?;
    let notes = SOON.run(move || {
        let notes = houses.notes((house, room), &snapshot.site);
        match since {
            None => notes,
            Some(kind) => {
                let mut with = (*notes).clone();
                with.findings.push(Finding::of(&snapshot.site, kind));
                Arc::new(with)
            }
        }
    });
    Ok(Json(notes.await?))
}

/// A house that was handed over and edited since says so. Readings, results and orders are no edits of it.
async fn since_handover(
    houses: &Houses,
    house: HouseId,
    room: RoomId,
    snapshot: &Snapshot,
) -> Result<Option<FindingKind>, Problem> {
    let Some(last) = houses.store().last_handover(house, room).await? else { return Ok(None) };
    let site = &snapshot.site;
    let concerns = |key: EntityKey| match key.kind {
        EntityKind::Measurement | EntityKind::Result | EntityKind::Order => false,
        EntityKind::House => true,
        _ => find(site, key).is_some_and(|own| own.about(site).rooms.contains(&room)),
    };
    let count = snapshot.versions.iter().filter(|(key, version)| **version > last.1 && concerns(**key)).count();
    let count = u32::try_from(count).unwrap_or(u32::MAX);
    Ok((count > 0).then_some(FindingKind::ChangedSince { number: last.0, count }))
}

/// From where to where.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PlanQuery {
    /// `off`, `unknown`, or the id of an activity.
    from: String,
    /// `off`, or the id of an activity.
    to: String,
}

/// The plan that leads from one situation to another.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/plan", tag = "plans",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), PlanQuery),
    responses((status = 200, body = Plan), (status = 400, body = Problem), (status = 404, body = Problem))
)]
pub async fn plan(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<PlanQuery>,
) -> Result<Json<Plan>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    let (from, to) = (situation("from", &query.from)?, situation("to", &query.to)?);
    if to == Situation::Unknown {
        return Err(bad("to", "a plan cannot lead to “unknown”"));
    }
    Ok(Json(SOON.run(move || plan::plan(&snapshot.site, room, from, to)).await?))
}

pub(super) fn situation(name: &str, word: &str) -> Result<Situation, Problem> {
    match word {
        "off" => Ok(Situation::Off),
        "unknown" => Ok(Situation::Unknown),
        id => match id.parse::<Uuid>() {
            Ok(id) => Ok(Situation::In { activity: ActivityId(id) }),
            Err(_) => Err(bad(name, "expected off, unknown, or the id of an activity")),
        },
    }
}

pub(super) fn bad(name: &str, why: &str) -> Problem {
    Problem::new(axum::http::StatusCode::BAD_REQUEST, "bad-request", format!("The query “{name}”: {why}."))
}
