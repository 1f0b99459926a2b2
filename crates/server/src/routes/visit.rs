//! The visit to the house: the stopwatch, the gap finder, the list of tests and its round.

use super::houses::put_all;
use super::proofs::{matrix_of, room_of};
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem};
use crate::views::SavedView;
use crate::work::{LONG, PROOF, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::HeaderMap;
use jiff::Timestamp;
use kestrel_bench::rehearsal::{RehearsalError, RehearsalView};
use kestrel_bench::tested;
use kestrel_core::commission::gap::{self, LostAt, NextBurst, Tried};
use kestrel_core::commission::list;
use kestrel_core::commission::stopwatch::{self, Stopwatch};
use kestrel_core::commission::take::{self, VerdictChange};
use kestrel_core::commission::visit::{self, Visit};
use kestrel_core::evidence::known;
use kestrel_core::id::{DeviceId, FunctionId, HouseId, MeasurementId, PhotoId, ResultId, RoomId};
use kestrel_core::model::{Burst, Entity, Measurement, Outcome, SeenIn, Site, Span, TestOf, TestResult, Timing};
use kestrel_core::prove::Analysis;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// What can be measured in a room, and how well each is known.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/stopwatch", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Stopwatch), (status = 404, body = Problem), (status = 409, body = Problem))
)]
pub async fn room_stopwatch(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Stopwatch>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let matrix = matrix_of(&houses, house, room).await?;
    Ok(Json(stopwatch::stopwatch(&snapshot.site, room, &matrix, Timestamp::now())))
}

/// A lap that was timed by hand.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NewLap {
    /// Of which device.
    device: DeviceId,
    /// Which time.
    timing: Timing,
    /// How long it took, or how long nothing was seen, in ms.
    ms: u32,
    /// Was nothing seen until then?
    #[serde(default)]
    timed_out: bool,
    /// Where.
    seen: SeenIn,
}

/// Keeps a lap as a reading. One that began before the device had cooled from its last start counts as hot.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/stopwatch/lap", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = NewLap,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn keep_lap(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(lap): Body<NewLap>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let id = MeasurementId(Uuid::now_v7());
    let by_way = match lap.seen {
        SeenIn::House => "by hand, ± 0.3 s",
        SeenIn::Rehearsed => "by hand, in the rehearsal room",
    };
    let mut reading = Measurement {
        timed_out: lap.timed_out,
        seen: lap.seen,
        by_way: by_way.to_owned(),
        who: super::who(&headers).name,
        ..Measurement::new(id, lap.device, lap.timing, lap.ms, Timestamp::now())
    };
    reading.hot = stopwatch::is_hot(&snapshot.site, &reading);
    Ok(Json(put_all(&houses, house, &headers, &snapshot, vec![Entity::Measurement(reading)]).await?))
}

/// A lap that the rehearsal room begins.
#[derive(Debug, Deserialize, ToSchema)]
pub struct LapToBegin {
    /// Of which device.
    device: DeviceId,
    /// Which time.
    timing: Timing,
}

/// Begins a lap in the rehearsal room: the room is put back, the device stands as a lap of this time begins, and the key that
/// starts it is sent.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/stopwatch/begin", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = LapToBegin,
    responses((status = 200, body = RehearsalView), (status = 404, body = Problem), (status = 422, body = Problem), (status = 502, body = Problem))
)]
pub async fn begin_lap(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<LapToBegin>,
) -> Result<Json<RehearsalView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    rehearsal.begin_lap(asked.device, asked.timing).await?;
    Ok(Json(rehearsal.view()))
}

/// One time of one device.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[schema(as = TimedRequest)]
pub struct Timed {
    /// Which device.
    device: DeviceId,
    /// Which time.
    timing: Timing,
    /// Look at readings of the rehearsal room as if they had been taken in the house: what would they change?
    #[serde(default)]
    rehearsed: bool,
}

/// What taking readings over changes.
#[derive(Debug, Serialize, ToSchema)]
#[schema(as = TakingOver)]
pub struct Effect {
    /// The interval that would be in use.
    span: Span,
    /// Verdicts and times that would be others.
    changes: Vec<VerdictChange>,
    /// The same in sentences.
    words: Vec<String>,
}

fn nothing() -> Problem {
    Problem::refused(
        "There are no readings of this in the house yet, or plans wait for no such time. Take readings first.",
    )
}

/// What would change if the readings of a time were taken over. Nothing is saved.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/stopwatch/effect", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = Timed,
    responses((status = 200, body = Effect), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn stopwatch_effect(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<Timed>,
) -> Result<Json<Effect>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let before = matrix_of(&houses, house, room).await?;
    let site = snapshot.site.clone();
    let found = PROOF.run(move || {
        let after = take::as_if(&site, asked.device, asked.timing, asked.rehearsed)?;
        let span = known(&site, asked.device, asked.timing, asked.rehearsed).proposal?;
        let changes = take::changes(&site, &before, &Analysis::of(&after, room).matrix());
        let words = take::in_words(&changes, asked.rehearsed);
        Some(Effect { span, changes, words })
    });
    found.await?.map(Json).ok_or_else(nothing)
}

/// Takes the readings of a time over, as an override of the device: one step, which undo takes back.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/stopwatch/take", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = Timed,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn take_readings(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(asked): Body<Timed>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let device = take::taken_over(&snapshot.site, asked.device, asked.timing).ok_or_else(nothing)?;
    Ok(Json(put_all(&houses, house, &headers, &snapshot, vec![Entity::Device(device)]).await?))
}

/// Bursts that were sent so far.
#[derive(Debug, Deserialize, ToSchema)]
pub struct GapRequest {
    /// Of which device.
    device: DeviceId,
    /// What was counted, in the order in which it was sent.
    #[serde(default)]
    tried: Vec<Tried>,
    /// Is the longest pause between the digits of a number looked for, instead of the shortest?
    #[serde(default)]
    longest: bool,
}

/// Where the gap finder is.
#[derive(Debug, Serialize, ToSchema)]
pub struct GapView {
    /// What comes next.
    next: NextBurst,
    /// What was lost at each pause so far.
    lost: Vec<LostAt>,
}

fn gap_view(site: &Site, asked: &GapRequest) -> Result<GapView, Problem> {
    if asked.tried.len() > gap::BURSTS_MAX || !asked.tried.iter().all(Tried::is_sound) {
        return Err(Problem::refused(
            "A burst has 1 to 20 presses, at most 5 s apart, and at most twice as many are counted. Begin again.",
        ));
    }
    let next = if asked.longest {
        gap::next_longest(&asked.tried)
    } else {
        gap::next(&asked.tried, gap::least_ms(site, asked.device))
    };
    Ok(GapView { next, lost: gap::lost(&asked.tried) })
}

/// What the gap finder sends next.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gap", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = GapRequest,
    responses((status = 200, body = GapView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn gap_next(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<GapRequest>,
) -> Result<Json<GapView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    gap_view(&snapshot.site, &asked).map(Json)
}

/// A burst to be sent.
#[derive(Debug, Deserialize, ToSchema)]
pub struct BurstRequest {
    /// To which device.
    device: DeviceId,
    /// Which key.
    function: FunctionId,
    /// The pause between presses, in ms (40 to 5,000).
    pause_ms: u32,
    /// How many presses (1–20).
    presses: u32,
}

/// What came of a burst.
#[derive(Debug, Serialize, ToSchema)]
pub struct BurstView {
    /// Presses that the device followed, as it stands in the rehearsal room: what somebody in front of it would count.
    counted: u32,
}

/// Sends a burst in the rehearsal room, and tells how many presses were followed there.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gap/burst", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = BurstRequest,
    responses((status = 200, body = BurstView), (status = 404, body = Problem), (status = 422, body = Problem), (status = 502, body = Problem))
)]
pub async fn gap_burst(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<BurstRequest>,
) -> Result<Json<BurstView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let site = &snapshot.site;
    if !gap::keys(site, asked.device).contains(&asked.function) {
        return Err(Problem::refused(
            "This key is never sent in bursts: it switches power, moves, heats or makes louder, or nothing is learned for it. Choose one whose effect can be counted.",
        ));
    }
    let least = gap::least_ms(site, asked.device);
    if !(least..=gap::PAUSE_MAX_MS).contains(&asked.pause_ms) || !(1..=gap::PRESSES_MAX).contains(&asked.presses) {
        return Err(Problem::refused(
            "A burst has 1 to 20 presses, 40 ms to 5 s apart; light changes at most three times a second.",
        ));
    }
    let rehearsal = houses.rehearsal(house, room).await?;
    let counted = rehearsal.burst(asked.device, asked.function, asked.pause_ms, asked.presses).await?;
    Ok(Json(BurstView { counted }))
}

/// Numbers to be entered.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NumbersRequest {
    /// On which device.
    device: DeviceId,
    /// The pause between digits, in ms (40 to 5,000).
    pause_ms: u32,
    /// How many times (1–20).
    numbers: u32,
}

/// Enters a number in the rehearsal room, with a pause between its digits, and tells how often it was taken as one.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gap/numbers", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = NumbersRequest,
    responses((status = 200, body = BurstView), (status = 404, body = Problem), (status = 422, body = Problem), (status = 502, body = Problem))
)]
pub async fn gap_numbers(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<NumbersRequest>,
) -> Result<Json<BurstView>, Problem> {
    if !(gap::LEAST_MS..=gap::PAUSE_MAX_MS).contains(&asked.pause_ms)
        || !(1..=gap::PRESSES_MAX).contains(&asked.numbers)
    {
        return Err(Problem::refused("A number is entered 1 to 20 times, its digits 40 ms to 5 s apart."));
    }
    let rehearsal = houses.rehearsal(house, room).await?;
    let counted = rehearsal.numbers(asked.device, asked.pause_ms, asked.numbers).await?;
    Ok(Json(BurstView { counted }))
}

/// A pause that was found.
#[derive(Debug, Deserialize, ToSchema)]
pub struct FoundGap {
    /// Of which device.
    device: DeviceId,
    /// Between commands, or between digits.
    timing: Timing,
    /// All bursts, in the order in which they were sent.
    tried: Vec<Tried>,
    /// Where they were counted.
    seen: SeenIn,
    /// Is it the longest pause between the digits of a number?
    #[serde(default)]
    longest: bool,
}

/// Keeps the bursts of a search; what was found in the house is in use from now on. One step.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gap/take", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = FoundGap,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn take_gap(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(found): Body<FoundGap>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let site = &snapshot.site;
    let asked = GapRequest { device: found.device, tried: found.tried, longest: found.longest };
    let NextBurst::Found { pause_ms, .. } = gap_view(site, &asked)?.next else {
        return Err(Problem::refused("The search has not come to its end. Send the next burst."));
    };
    if !found.timing.is_pause() || (found.longest && found.timing != Timing::Digits) {
        return Err(Problem::refused(
            "Bursts find the pause between commands or between digits; the longest one is that between digits. Choose one of them.",
        ));
    }
    let who = super::who(&headers).name;
    let reading = |one: &Tried| {
        let id = MeasurementId(Uuid::now_v7());
        Entity::Measurement(Measurement {
            burst: Some(Burst { sent: one.sent, counted: one.counted }),
            seen: found.seen,
            by_way: "gap finder".to_owned(),
            who: who.clone(),
            ..Measurement::new(id, asked.device, found.timing, one.pause_ms, Timestamp::now())
        })
    };
    let mut all: Vec<Entity> = asked.tried.iter().map(reading).collect();
    if found.seen == SeenIn::House {
        all.extend(take::with_gap(site, asked.device, found.timing, pause_ms, found.longest).map(Entity::Device));
    }
    Ok(Json(put_all(&houses, house, &headers, &snapshot, all).await?))
}

/// The tests of a room, how each stands, and the round through what is left.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/tests", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Visit), (status = 404, body = Problem))
)]
pub async fn room_tests(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Visit>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let view = SOON.run(move || {
        let runs = houses.runs((house, room), &snapshot.site);
        visit::visit(&snapshot.site, room, &runs)
    });
    Ok(Json(view.await?))
}

/// What was seen.
#[derive(Debug, Deserialize, ToSchema)]
#[schema(as = SeenOfTest)]
pub struct Seen {
    /// Of which test.
    of: TestOf,
    /// What came of it.
    outcome: Outcome,
    /// What was seen, or why it is not possible.
    #[serde(default)]
    note: String,
    /// A photo that was kept.
    #[serde(default)]
    photo: Option<PhotoId>,
    /// When the result that was seen on the list was written down, in UTC; none where there was none. Where there is another
    /// one by now, this one is refused.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    known: Option<Timestamp>,
    /// When it was seen, in UTC; now, if none. A result that waited on a tablet says when it was; a clock that is ahead is
    /// taken back to now.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    at: Option<Timestamp>,
}

/// Writes the result of a test down, with what it rests on.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/tests/result", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = Seen,
    responses(
        (status = 200, body = SavedView), (status = 404, body = Problem),
        (status = 409, description = "The test is not on the list any more, or somebody else wrote a result down.", body = Problem),
        (status = 422, body = Problem),
    )
)]
pub async fn write_result(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(seen): Body<Seen>,
) -> Result<Json<SavedView>, Problem> {
    keep(&houses, house, room, &headers, seen, SeenIn::House).await.map(Json)
}

async fn keep(
    houses: &Houses,
    house: HouseId,
    room: RoomId,
    headers: &HeaderMap,
    seen: Seen,
    place: SeenIn,
) -> Result<SavedView, Problem> {
    let snapshot = room_of(houses, house, room).await?;
    let (own, site, of) = (houses.clone(), snapshot.site.clone(), seen.of.clone());
    let line = SOON.run(move || {
        let runs = own.runs((house, room), &site);
        list(&site, room, &runs).into_iter().find(|line| line.of == of)
    });
    let line = line.await?.ok_or_else(|| {
        let detail = "This test is not on the list any more: an edit has removed what it tests. What you saw can be kept as a note in the logbook.";
        Problem::new(axum::http::StatusCode::CONFLICT, "gone", detail)
    })?;
    if let Some(other) = line.result.as_ref().filter(|other| seen.known != Some(other.at)) {
        let what = match other.outcome {
            Outcome::Passed => "passed",
            Outcome::Failed => "failed",
            Outcome::NotPossible => "not possible here",
        };
        let who = if other.who.is_empty() { "Somebody" } else { &other.who };
        let detail =
            format!("{who} has written this test down meanwhile: {what}. Look at it, and say again what you saw.");
        return Err(Problem::new(axum::http::StatusCode::CONFLICT, "meanwhile", detail));
    }
    let now = Timestamp::now();
    let result = TestResult {
        id: line.result.as_ref().map_or_else(|| ResultId(Uuid::now_v7()), |known| known.id),
        of: seen.of,
        outcome: seen.outcome,
        seen: place,
        note: seen.note,
        photo: seen.photo,
        at: seen.at.filter(|at| *at <= now).unwrap_or(now),
        who: super::who(headers).name,
        facts: line.facts,
    };
    put_all(houses, house, headers, &snapshot, vec![Entity::Result(result)]).await
}

/// A test that the rehearsal room does.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ToRehearse {
    /// Which.
    of: TestOf,
}

/// Runs a test in the rehearsal room as far as that can see it, and keeps what came of it as *rehearsed*.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/tests/rehearse", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = ToRehearse,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem), (status = 502, body = Problem))
)]
pub async fn rehearse_test(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(asked): Body<ToRehearse>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let site = snapshot.site.clone();
    let known = site.result_of(&asked.of);
    if known.is_some_and(|known| known.seen == SeenIn::House && known.outcome == Outcome::Passed) {
        return Err(Problem::refused("This was seen in the house, which says more. Nothing is rehearsed over it."));
    }
    let done = match asked.of.clone() {
        TestOf::Function { device, function } => {
            LONG.run(move || tested::function(&site, room, device, function)).await?
        }
        TestOf::Switch { from, to, hot: false, .. } => LONG.run(move || tested::switch(&site, room, from, to)).await?,
        TestOf::InStep { device, .. } => LONG.run(move || tested::noticed(&site, room, device)).await?,
        TestOf::Cue { cue } => SOON.run(move || Ok(tested::cue(&site, cue))).await?,
        _ => return Err(Problem::refused("The rehearsal room cannot see this by itself. Try it in the house.")),
    };
    let (passed, note) = done.map_err(RehearsalError::from)?;
    let outcome = if passed { Outcome::Passed } else { Outcome::Failed };
    let known = snapshot.site.result_of(&asked.of).map(|known| known.at);
    let seen = Seen { of: asked.of, outcome, note, photo: None, known, at: None };
    keep(&houses, house, room, &headers, seen, SeenIn::Rehearsed).await.map(Json)
}
