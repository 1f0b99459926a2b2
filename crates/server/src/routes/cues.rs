//! The cue sheet: its lines in words, an evening as curves, the ways of starting, the calendar.

use crate::houses::{Houses, no_room};
use crate::problem::{Body, Path, Problem, Query};
use crate::work::SOON;
use axum::Json;
use axum::extract::State;
use axum::http::{Response, header};
use kestrel_bench::RehearsalView;
use kestrel_core::cue::calendar;
use kestrel_core::cue::preview::{self, Evening, LENGTH_MAX_MS, TimedEvent};
use kestrel_core::cue::starts::{ActivityStart, starts};
use kestrel_core::id::{ActivityId, CueId, HouseId, RoomId, SwitchId};
use kestrel_core::light::hours;
use kestrel_core::model::{EVENTS_MAX, cue_words as words};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// A line of the cue sheet in words.
#[derive(Debug, Serialize, ToSchema)]
pub struct CueLine {
    /// Which.
    cue: CueId,
    /// Moment.
    moment: String,
    /// Provided.
    provided: Vec<String>,
    /// Light.
    light: String,
    /// Also.
    also: Vec<String>,
}

/// The cue sheet of a room in words.
#[derive(Debug, Serialize, ToSchema)]
pub struct CueSheet {
    /// Its lines, in their order.
    lines: Vec<CueLine>,
    /// Every way in which playback starts, pauses and stops, with the cues that catch it.
    starts: Vec<ActivityStart>,
}

/// The cue sheet of a room in words, and the ways of starting.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/cues", tag = "cues",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = CueSheet), (status = 404, body = Problem))
)]
pub async fn sheet(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<CueSheet>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let site = &snapshot.site;
    let lighting = &site.room(room).ok_or_else(no_room)?.lighting;
    let line = |cue: &kestrel_core::model::Cue| CueLine {
        cue: cue.id,
        moment: words::moment(site, lighting, &cue.moment),
        provided: cue.provided.iter().map(|one| words::provided(site, lighting, one)).collect(),
        light: words::light(lighting, &cue.light),
        also: cue.also.iter().map(|one| words::also(site, lighting, one)).collect(),
    };
    Ok(Json(CueSheet { lines: lighting.cues.iter().map(line).collect(), starts: starts(site, room) }))
}

/// An evening that is to be played.
#[derive(Debug, Deserialize, ToSchema)]
pub struct EveningRequest {
    /// When it begins, by the clock of the house: `2027-01-15T20:00`.
    start: String,
    /// How long it is, in ms; two days at most.
    length_ms: u64,
    /// What people do in it; the usual course of `activity`, if none is given.
    events: Option<Vec<TimedEvent>>,
    /// The activity of the usual course.
    activity: Option<ActivityId>,
}

/// Plays an evening on the simulated clock: every zone's level over time, what fired, and what did not and why.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/evening", tag = "cues",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = EveningRequest,
    responses((status = 200, body = Evening), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn evening(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<EveningRequest>,
) -> Result<Json<Evening>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    if request.length_ms == 0 || request.length_ms > LENGTH_MAX_MS {
        return Err(Problem::refused("An evening lasts between 1 ms and two days."));
    }
    if request.events.as_ref().is_some_and(|events| events.len() > EVENTS_MAX) {
        return Err(Problem::refused(format!("An evening has {EVENTS_MAX} events at most.")));
    }
    let start = hours::typed(snapshot.site.house.place.as_ref(), &request.start)
        .ok_or_else(|| Problem::refused(format!("“{}” is no time. Type it as 2027-01-15T20:00.", request.start)))?;
    let played = SOON.run(move || {
        let usual = || request.activity.map(|activity| preview::usual(&snapshot.site, activity)).unwrap_or_default();
        let events = request.events.unwrap_or_else(usual);
        preview::play(&snapshot.site, room, start, request.length_ms, &events)
    });
    Ok(Json(played.await?))
}

/// From which day on.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct CalendarQuery {
    /// A date, as 2027-01-15; today, if none.
    from: Option<String>,
}

/// The cues of the clock and the sun of a year, as iCalendar (RFC 5545).
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/cues.ics", tag = "cues",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), CalendarQuery),
    responses((status = 200, content_type = "text/calendar", body = String), (status = 404, body = Problem))
)]
pub async fn cue_calendar(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<CalendarQuery>,
) -> Result<Response<axum::body::Body>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    let from = match query.from {
        None => jiff::Zoned::now().date(),
        Some(text) => {
            text.parse().map_err(|_| Problem::refused(format!("“{text}” is no date. Type it as 2027-01-15.")))?
        }
    };
    let text = SOON.run(move || calendar::calendar(&snapshot.site, room, from)).await?;
    Response::builder()
        .header(header::CONTENT_TYPE, "text/calendar; charset=utf-8")
        .header(header::CONTENT_DISPOSITION, "attachment; filename=\"cues.ics\"")
        .body(axum::body::Body::from(text))
        .map_err(|error| Problem::refused(error.to_string()))
}

/// The time of the world in a rehearsal.
#[derive(Debug, Deserialize, ToSchema)]
pub struct TimeRequest {
    /// By the clock of the house: `2027-01-15T20:00`.
    time: String,
}

/// Sets the time of the world of the rehearsal room.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/time", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = TimeRequest,
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn time(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<TimeRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.set_time(&request.time)?;
    Ok(Json(rehearsal.view()))
}

/// A mode switch and its state.
#[derive(Debug, Deserialize, ToSchema)]
pub struct SwitchRequest {
    /// Which.
    switch: SwitchId,
    /// On?
    on: bool,
}

/// Sets a mode switch of the rehearsal room.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/rehearsal/switch", tag = "rehearsal",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = SwitchRequest,
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem))
)]
pub async fn mode_switch(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<SwitchRequest>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.set_switch(request.switch, request.on);
    Ok(Json(rehearsal.view()))
}
