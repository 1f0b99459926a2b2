//! Learning and testing: the gateway listens, a handset is pressed, codes are tried and what came of it is
//! written down.

use super::kit::no_device;
use super::who;
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem, Query};
use axum::Json;
use axum::extract::State;
use axum::http::HeaderMap;
use jiff::Timestamp;
use kestrel_bench::handset::PressRequest;
use kestrel_core::codes::judge::{Judgement, Remark, joined, judge};
use kestrel_core::edit::Edit;
use kestrel_core::id::{DeviceId, FunctionId, HouseId, RoomId};
use kestrel_core::model::{Code, CodeBody, Entity, Medium, Press, TestEffect, Tested};
use kestrel_core::room::Heard;
use kestrel_core::room::evidence::proved;
use kestrel_core::room::handset::HandsetKey;
use kestrel_signal::Capture;
use kestrel_store::{Attempt, AttemptKind, NewAttempt};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// A press that was heard.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct HeardPress {
    /// On what.
    pub medium: Medium,
    /// Marks and spaces.
    pub capture: Capture,
}

/// What to listen for.
#[derive(Debug, Deserialize, ToSchema)]
pub struct LearnRequest {
    /// The device.
    device: DeviceId,
    /// The function.
    function: FunctionId,
    /// On what it is expected.
    medium: Medium,
    /// Presses of the same key that were heard before.
    #[serde(default)]
    before: Vec<HeardPress>,
}

/// What was heard, and what follows.
#[derive(Debug, Serialize, ToSchema)]
pub struct LearnView {
    /// Every press so far, those before included.
    pub presses: Vec<HeardPress>,
    /// What they say together.
    pub judgement: Judgement,
}

/// The most presses that are combined.
const PRESSES_MAX: usize = 16;

/// Listens for one press of a key, for 10 s of the bench's clock at most, and judges it.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/learn", tag = "learning",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = LearnRequest,
    responses((status = 200, body = LearnView), (status = 404, body = Problem), (status = 502, body = Problem))
)]
pub async fn learn(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(request): Body<LearnRequest>,
) -> Result<Json<LearnView>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    let heard = rehearsal.learn().await?;
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.device(request.device).ok_or_else(no_device)?;
    let mut presses = request.before;
    let fresh = joined(heard);
    let nothing = fresh.is_empty();
    presses.extend(fresh.into_iter().map(|(medium, capture)| HeardPress { medium, capture }));
    presses.truncate(PRESSES_MAX);
    let pairs: Vec<(Medium, Capture)> =
        if nothing { vec![] } else { presses.iter().map(|press| (press.medium, press.capture.clone())).collect() };
    let judgement = judge(&snapshot.site, request.device, request.function, request.medium, &pairs);
    let attempt = NewAttempt {
        device: request.device,
        function: Some(request.function),
        what: AttemptKind::Learn,
        outcome: outcome(&judgement.remarks),
        sent: judgement.body.as_ref().map(ToString::to_string),
        note: judgement.remarks.iter().map(|remark| remark.text.as_str()).collect::<Vec<_>>().join(" "),
    };
    houses.store().attempted(house, &who(&headers).name, attempt).await?;
    Ok(Json(LearnView { presses, judgement }))
}

fn outcome(remarks: &[Remark]) -> String {
    let word = |remark: &Remark| {
        serde_json::to_value(remark.trouble).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
    };
    remarks.first().map_or_else(|| "heard".to_owned(), word)
}

/// What a sweep found.
#[derive(Debug, Serialize, ToSchema)]
pub struct SweepView {
    /// In Hz; none where no radio key was held.
    pub frequency_hz: Option<u32>,
    /// What to do next.
    pub next: String,
}

/// Sweeps for the frequency of a radio key that is held, for 10 s of the bench's clock at most.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/sweep", tag = "learning",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = SweepView), (status = 404, body = Problem), (status = 502, body = Problem))
)]
pub async fn sweep(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<SweepView>, Problem> {
    let frequency_hz = houses.rehearsal(house, room).await?.sweep().await?;
    let next = match frequency_hz {
        Some(_) => "Found. Let go, then press the key once.",
        None => {
            "No radio key was held in 10 s. Hold the key down, close to the learner; if it stays silent, it is not 433 MHz."
        }
    };
    Ok(Json(SweepView { frequency_hz, next: next.to_owned() }))
}

/// Whose handset.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct HandsetQuery {
    /// The device that it came with.
    device: DeviceId,
}

/// The keys of the handset stand-in of a device.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/handset", tag = "learning",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), HandsetQuery),
    responses((status = 200, body = Vec<HandsetKey>), (status = 404, body = Problem))
)]
pub async fn handset(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<HandsetQuery>,
) -> Result<Json<Vec<HandsetKey>>, Problem> {
    Ok(Json(houses.rehearsal(house, room).await?.handset(query.device)))
}

/// Which key to press, and how.
#[derive(Debug, Deserialize, ToSchema)]
pub struct HandsetPress {
    /// The device that the handset came with.
    device: DeviceId,
    /// The key.
    key: FunctionId,
    /// How often (1–9).
    #[serde(default = "once")]
    presses: u8,
    /// How long the last press is held, in ms (0–10000).
    #[serde(default)]
    hold_ms: u32,
    /// Does the thumb slip?
    #[serde(default)]
    slip: bool,
}

fn once() -> u8 {
    1
}

/// Presses a key of the handset stand-in in front of the learner.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/handset", tag = "learning",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = HandsetPress,
    responses((status = 200, body = Vec<HandsetKey>), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn press_handset(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(press): Body<HandsetPress>,
) -> Result<Json<Vec<HandsetKey>>, Problem> {
    let rehearsal = houses.rehearsal(house, room).await?;
    let HandsetPress { device, key, presses, hold_ms, slip } = press;
    rehearsal.press_handset(&PressRequest { id: 1, device, key, presses, hold_ms, slip }).await?;
    Ok(Json(rehearsal.handset(device)))
}

/// Which function to test.
#[derive(Debug, Deserialize, ToSchema)]
pub struct TestRequest {
    /// The device.
    device: DeviceId,
    /// The function.
    function: FunctionId,
}

/// What came of a test.
#[derive(Debug, Serialize, ToSchema)]
pub struct TestView {
    /// Who understood it and what they did; empty where nobody did.
    pub heard: Vec<Heard>,
    /// What it proves; none where it proves nothing, and somebody has to say.
    pub effect: Option<TestEffect>,
    /// In a sentence.
    pub note: String,
}

/// Sends a function once to the rehearsal room and writes down what it proves.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/test", tag = "learning",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = TestRequest,
    responses(
        (status = 200, body = TestView), (status = 404, body = Problem),
        (status = 422, description = "No code.", body = Problem), (status = 502, body = Problem),
    )
)]
pub async fn test(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(request): Body<TestRequest>,
) -> Result<Json<TestView>, Problem> {
    let heard = houses.rehearsal(house, room).await?.send_once(request.device, request.function).await?;
    let snapshot = houses.snapshot(house).await?;
    let (effect, note) = proved(&snapshot.site, request.device, request.function, &heard);
    let code = snapshot.site.code(request.device, request.function);
    if let (Some(effect), Some(code)) = (effect, code) {
        let tested = Some(Tested { at: Timestamp::now(), effect, note: note.clone() });
        let entity = Entity::Code(Code { tested, ..code.clone() });
        let base = snapshot.versions.get(&entity.key()).copied();
        houses.edit(house, &who(&headers), &[Edit::Put { entity, base }]).await?;
    }
    let attempt = NewAttempt {
        device: request.device,
        function: Some(request.function),
        what: AttemptKind::Test,
        outcome: effect.map_or("proves nothing", TestEffect::words).to_owned(),
        sent: code.map(|code| code.body.to_string()),
        note: note.clone(),
    };
    houses.store().attempted(house, &who(&headers).name, attempt).await?;
    Ok(Json(TestView { heard, effect, note }))
}

/// Something to send that no function holds.
#[derive(Debug, Deserialize, ToSchema)]
pub struct TryRequest {
    /// The device.
    device: DeviceId,
    /// What to send.
    body: CodeBody,
    /// How its key is pressed.
    #[serde(default)]
    press: Press,
}

/// Sends something to the rehearsal room without keeping it: a code of a set, or an untried command.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/try", tag = "learning",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = TryRequest,
    responses((status = 200, body = super::rehearsals::SendView), (status = 404, body = Problem), (status = 502, body = Problem))
)]
pub async fn try_code(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<TryRequest>,
) -> Result<Json<super::rehearsals::SendView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.device(request.device).ok_or_else(no_device)?;
    let rehearsal = houses.rehearsal(house, room).await?;
    let heard = rehearsal.send_body(request.device, &request.body, request.press, None).await?;
    Ok(Json(super::rehearsals::SendView { heard }))
}

/// Something that was tried, to be written down.
#[derive(Debug, Deserialize, ToSchema)]
pub struct AttemptRequest {
    /// The device.
    device: DeviceId,
    /// The function, where it is about one.
    function: Option<FunctionId>,
    /// What was tried.
    what: AttemptKind,
    /// What came of it, in a word or two (at most 80 characters).
    outcome: String,
    /// What was sent, in words.
    sent: Option<String>,
    /// Anything else (at most 2000 characters).
    #[serde(default)]
    note: String,
}

/// Writes down what somebody saw.
#[utoipa::path(
    post, path = "/api/houses/{house}/attempts", tag = "learning", params(("house" = HouseId, Path)),
    request_body = AttemptRequest,
    responses((status = 200, body = Attempt), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn attempted(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
    Body(request): Body<AttemptRequest>,
) -> Result<Json<Attempt>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.device(request.device).ok_or_else(no_device)?;
    let fits = |text: &str, most: usize| text.chars().count() <= most && !text.contains('\0');
    if !fits(&request.outcome, 80) || !fits(&request.note, 2_000) || !request.sent.iter().all(|sent| fits(sent, 400)) {
        let detail = "The note is too long or holds a control character. Shorten it.";
        return Err(Problem::refused(detail));
    }
    let AttemptRequest { device, function, what, outcome, sent, note } = request;
    let new = NewAttempt { device, function, what, outcome, sent, note };
    Ok(Json(houses.store().attempted(house, &who(&headers).name, new).await?))
}

/// Whose attempts.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct AttemptsQuery {
    /// The device.
    device: DeviceId,
    /// Only of this function.
    function: Option<FunctionId>,
}

/// What was tried on a device, the newest first.
#[utoipa::path(
    get, path = "/api/houses/{house}/attempts", tag = "learning", params(("house" = HouseId, Path), AttemptsQuery),
    responses((status = 200, body = Vec<Attempt>), (status = 404, body = Problem))
)]
pub async fn attempts(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<AttemptsQuery>,
) -> Result<Json<Vec<Attempt>>, Problem> {
    houses.store().revision(house).await?;
    Ok(Json(houses.store().attempts(house, query.device, query.function, 200).await?))
}
