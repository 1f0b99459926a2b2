//! *Not right?*: what somebody in the room finds wrong is kept as an open call for the programmer, and the room is put
//! right by the plan that ends right whatever is on, once whoever asks has been told to keep clear.

use super::live::{gone, opened, plain};
use crate::access;
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use kestrel_bench::Rehearsal;
use kestrel_bench::rehearsal::Direction;
use kestrel_core::id::HouseId;
use kestrel_core::model::{Site, Situation, situation_name};
use kestrel_core::plan::Plan;
use kestrel_core::words::seconds;
use kestrel_store::{Amiss, Facts, ServiceCall};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;
use uuid::Uuid;

/// So many of the last lines of the wire log are kept with a call.
const LINES: usize = 40;

/// What is wrong.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NotRight {
    what: Amiss,
}

/// What can be done about it.
#[derive(Debug, Serialize, ToSchema)]
pub struct WayRight {
    /// What would be on afterwards, in the words of the family; none where nobody can promise anything from here.
    to: Option<String>,
    /// How long that takes, in s.
    takes_s: Option<u32>,
    /// What may move then: keep clear of it.
    moves: Vec<String>,
}

/// What moves in a plan, by name.
fn moving(site: &Site, plan: &Plan) -> Vec<String> {
    let devices: BTreeSet<_> = plan.steps.iter().map(|step| step.device).filter(|device| site.moves(*device)).collect();
    devices.into_iter().map(|device| site.device_name(device)).collect()
}

async fn way(rehearsal: &Rehearsal) -> WayRight {
    let to = rehearsal.should_be();
    let own = rehearsal.clone();
    let plan = tokio::task::spawn_blocking(move || own.plan_anyhow(to)).await.ok().flatten();
    let Some(plan) = plan else { return WayRight { to: None, takes_s: None, moves: vec![] } };
    let site = rehearsal.world().site();
    let name = match to {
        Situation::In { .. } => situation_name(&site, to),
        _ => "Finish: everything off".to_owned(),
    };
    WayRight { to: Some(name), takes_s: plan.ready_ms.map(|ms| ms.div_ceil(1000)), moves: moving(&site, &plan) }
}

/// How the room stands now, in sentences for the programmer.
fn facts(rehearsal: &Rehearsal) -> Facts {
    let view = rehearsal.view();
    let site = rehearsal.world().site();
    let name = |device| site.device_name(device);
    let taken_for = view.taken_for.map_or_else(|| "nobody knew".to_owned(), |to| situation_name(&site, to));
    let believed = view.beliefs.iter().map(|belief| format!("{}: {}", name(belief.device), belief.text)).collect();
    let told = view.drives.iter().filter_map(|drive| {
        let profile = site.profile_of(drive.device)?;
        let report = drive.told.as_ref()?;
        let ago = drive.told_ago_ms.and_then(|ms| u32::try_from(ms).ok()).map_or_else(String::new, seconds);
        let seen = report.seen(&site, drive.device);
        let silent = drive.silent.as_ref().map_or_else(String::new, |words| format!(", {words}"));
        Some(format!("{}: {}, {ago} ago{silent}", name(drive.device), seen.in_words(&profile)))
    });
    let seen = told.collect();
    let lines = view.wire.iter().filter(|line| line.direction == Direction::Out && !line.routine);
    let mut sent: Vec<String> = lines
        .map(|line| {
            let ago = seconds(u32::try_from(view.now_ms.saturating_sub(line.at_ms)).unwrap_or(u32::MAX));
            let to = line.device.map_or_else(|| "on the air".to_owned(), name);
            format!("{ago} before: {to}, {}", line.meaning)
        })
        .collect();
    let surplus = sent.len().saturating_sub(LINES);
    sent.drain(..surplus);
    Facts { taken_for, believed, seen, sent }
}

/// Keeps what somebody finds wrong as an open call, with what was believed, sent and seen, and says what can be done.
#[utoipa::path(
    post, path = "/api/live/{token}/not-right", tag = "live", params(("token" = String, Path)), request_body = NotRight,
    responses((status = 200, body = WayRight), (status = 410, body = Problem), (status = 429, body = Problem))
)]
pub async fn live_not_right(
    State(houses): State<Houses>,
    Path(token): Path<String>,
    Body(request): Body<NotRight>,
) -> Result<Json<WayRight>, Problem> {
    let (link, rehearsal) = opened(&houses, &token).await?;
    access::call(&token)?;
    houses.store().keep_call(link.house, link.room, request.what, &link.label, &facts(&rehearsal)).await?;
    Ok(Json(way(&rehearsal).await))
}

/// Puts the room right by the plan that ends right whatever is on.
#[utoipa::path(
    post, path = "/api/live/{token}/put-right", tag = "live", params(("token" = String, Path)),
    responses(
        (status = 204), (status = 410, body = Problem),
        (status = 422, description = "Nobody can promise anything from here.", body = Problem), (status = 429, body = Problem),
    )
)]
pub async fn live_put_right(State(houses): State<Houses>, Path(token): Path<String>) -> Result<StatusCode, Problem> {
    let (link, rehearsal) = opened(&houses, &token).await?;
    access::press(&token)?;
    let done = rehearsal.put_right(rehearsal.should_be()).await;
    done.map_err(|error| plain(&rehearsal, &link, &error))?;
    Ok(StatusCode::NO_CONTENT)
}

/// Stops whatever moves, and whatever is being started. Never refused for haste.
#[utoipa::path(
    post, path = "/api/live/{token}/stop", tag = "live", params(("token" = String, Path)),
    responses((status = 204), (status = 410, body = Problem), (status = 422, body = Problem))
)]
pub async fn live_stop(State(houses): State<Houses>, Path(token): Path<String>) -> Result<StatusCode, Problem> {
    let (link, rehearsal) = opened(&houses, &token).await?;
    rehearsal.stop().await.map_err(|error| plain(&rehearsal, &link, &error))?;
    Ok(StatusCode::NO_CONTENT)
}

/// How soon something would be there.
#[derive(Debug, Serialize, ToSchema)]
pub struct Soon {
    /// What.
    activity: kestrel_core::id::ActivityId,
    /// In s, from now; none where it cannot be started.
    ready_s: Option<u32>,
}

/// How soon each thing of the room would be there, from how it stands now.
#[utoipa::path(
    get, path = "/api/live/{token}/soon", tag = "live", params(("token" = String, Path)),
    responses((status = 200, body = Vec<Soon>), (status = 410, body = Problem))
)]
pub async fn live_soon(State(houses): State<Houses>, Path(token): Path<String>) -> Result<Json<Vec<Soon>>, Problem> {
    let (link, rehearsal) = opened(&houses, &token).await?;
    let site = rehearsal.world().site();
    let own = site.activities.iter().filter(|own| own.room == link.room).map(|own| own.id).collect::<Vec<_>>();
    let soon = move || {
        let ready = |activity| {
            let plan = rehearsal.plan(Situation::In { activity });
            let ready_s = plan.ready_ms.filter(|_| plan.runnable).map(|ms| ms.div_ceil(1000));
            Soon { activity, ready_s }
        };
        own.into_iter().map(ready).collect()
    };
    tokio::task::spawn_blocking(soon).await.map(Json).map_err(|_| gone())
}

/// The calls of a house: what the household found wrong, the open ones first.
#[utoipa::path(
    get, path = "/api/houses/{house}/calls", tag = "rehearsal", params(("house" = HouseId, Path)),
    responses((status = 200, body = Vec<ServiceCall>), (status = 404, body = Problem))
)]
pub async fn calls(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
) -> Result<Json<Vec<ServiceCall>>, Problem> {
    houses.snapshot(house).await?;
    Ok(Json(houses.store().calls(house).await?))
}

/// What it was.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CloseCall {
    /// In 1 to 2,000 characters.
    outcome: String,
}

/// Closes a call with what it was.
#[utoipa::path(
    post, path = "/api/houses/{house}/calls/{call}/close", tag = "rehearsal",
    params(("house" = HouseId, Path), ("call" = Uuid, Path)), request_body = CloseCall,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn close_call(
    State(houses): State<Houses>,
    Path((house, call)): Path<(HouseId, Uuid)>,
    Body(request): Body<CloseCall>,
) -> Result<StatusCode, Problem> {
    let outcome = request.outcome.trim();
    if outcome.is_empty() || outcome.chars().count() > 2_000 {
        return Err(Problem::refused("Say in 1 to 2,000 characters what it was: that is how it is found again."));
    }
    if houses.store().close_call(house, call, outcome).await? {
        Ok(StatusCode::NO_CONTENT)
    } else {
        Err(Problem::not_found("There is no such open call: it may have been closed already."))
    }
}
