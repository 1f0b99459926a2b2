//! Finding codes: presets, untried commands, twins, several captures of one key.

use super::houses::put_all;
use super::kit::no_device;
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem, Query};
use crate::views::{SavedView, SetLine};
use crate::work::{FILES, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use jiff::Timestamp;
use kestrel_core::codes::import::proven;
use kestrel_core::codes::preset::{Ranking, Tried, tell_apart};
use kestrel_core::codes::search::{CAUTION, Untried, untried};
use kestrel_core::codes::vocabulary::{TERMS, Term};
use kestrel_core::id::{CodeId, CodeSetId, DeviceId, HouseId};
use kestrel_core::kit::twins::{Twin, near};
use kestrel_core::library;
use kestrel_core::model::{CodeSet, SetKey, Site};
use kestrel_signal::Capture;
use kestrel_signal::combine::{Combined, combine_among};
use kestrel_signal::ip::{IpCommand, PJLINK_SET};
use kestrel_signal::payload::Payload;
use kestrel_store::AttemptKind;
use serde::{Deserialize, Serialize};
use std::collections::HashSet;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// The names that functions go by.
#[utoipa::path(get, path = "/api/vocabulary", tag = "codes", responses((status = 200, body = Vec<Term>)))]
pub async fn vocabulary() -> Json<Vec<Term>> {
    Json(TERMS.to_vec())
}

fn sets(site: &Site) -> Vec<CodeSet> {
    site.code_sets.iter().cloned().chain(library::code_sets()).collect()
}

/// The code sets of a house and of the library, without their codes.
#[utoipa::path(
    get, path = "/api/houses/{house}/code-sets", tag = "codes", params(("house" = HouseId, Path)),
    responses((status = 200, body = Vec<SetLine>), (status = 404, body = Problem))
)]
pub async fn code_sets(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
) -> Result<Json<Vec<SetLine>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let shipped = library::code_sets();
    let own = snapshot.site.code_sets.iter().map(SetLine::from);
    Ok(Json(own.chain(shipped.iter().map(|set| SetLine { shipped: true, ..SetLine::from(set) })).collect()))
}

/// So many sets are compared at once, at most.
const SETS_MAX: usize = 1_000;

/// A set that is tried on a device.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PresetRequest {
    /// The sets that are compared.
    sets: Vec<CodeSetId>,
    /// What was tried so far.
    trials: Vec<Tried>,
}

/// How far the sets are told apart.
#[derive(Debug, Serialize, ToSchema)]
pub struct PresetView {
    /// The ranking, and the press to make next.
    pub ranking: Ranking,
    /// The keys of every set that was asked about.
    pub keys: Vec<PresetKeys>,
}

/// The keys of one set.
#[derive(Debug, Serialize, ToSchema)]
pub struct PresetKeys {
    /// The set.
    pub set: CodeSetId,
    /// Its keys.
    pub keys: Vec<PresetKey>,
}

/// A key of a set.
#[derive(Debug, Serialize, ToSchema)]
pub struct PresetKey {
    /// What is sent, in the words by which sets are compared; none for raw timing, which cannot be.
    pub words: Option<String>,
    /// The key.
    pub key: SetKey,
}

impl From<SetKey> for PresetKey {
    fn from(key: SetKey) -> Self {
        Self { words: key.body.key_words(), key }
    }
}

/// Ranks code sets by what was tried, and finds the press that tells the rest apart soonest.
#[utoipa::path(
    post, path = "/api/houses/{house}/presets", tag = "codes", params(("house" = HouseId, Path)),
    request_body = PresetRequest,
    responses((status = 200, body = PresetView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn presets(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Body(request): Body<PresetRequest>,
) -> Result<Json<PresetView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    if request.sets.len() > SETS_MAX || request.trials.len() > 1_000 {
        let detail = format!("At most {SETS_MAX} sets and 1000 presses can be compared at once. Take some out.");
        return Err(Problem::refused(detail));
    }
    let asked: HashSet<CodeSetId> = request.sets.iter().copied().collect();
    let chosen: Vec<CodeSet> = sets(&snapshot.site).into_iter().filter(|set| asked.contains(&set.id)).collect();
    if chosen.len() != asked.len() {
        return Err(Problem::not_found("One of the code sets does not exist any more. Reload the page."));
    }
    let (ranking, chosen) = SOON.run(move || (tell_apart(&chosen, &request.trials), chosen)).await?;
    let keys = chosen
        .into_iter()
        .map(|set| {
            let keys = set.keys.into_iter().map(PresetKey::from).collect();
            PresetKeys { set: set.id, keys }
        })
        .collect();
    Ok(Json(PresetView { ranking, keys }))
}

/// Keys that were sent to a device and worked.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ProvenRequest {
    /// The keys (at most 400).
    keys: Vec<SetKey>,
    /// How it was found out.
    note: String,
}

/// Keeps keys that worked as tested codes of a device, with functions for those that its model lacks; one step of
/// the history.
#[utoipa::path(
    post, path = "/api/houses/{house}/devices/{device}/proven", tag = "codes",
    params(("house" = HouseId, Path), ("device" = DeviceId, Path)), request_body = ProvenRequest,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn keep_proven(
    State(houses): State<Houses>,
    Path((house, device)): Path<(HouseId, DeviceId)>,
    headers: HeaderMap,
    Body(request): Body<ProvenRequest>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.device(device).ok_or_else(no_device)?;
    let ProvenRequest { keys, note } = request;
    if keys.is_empty() || keys.len() > 400 {
        let detail = "Name 1 to 400 keys that worked.";
        return Err(Problem::refused(detail));
    }
    let made = proven(&snapshot.site, device, &keys, &note, Timestamp::now(), &mut Uuid::now_v7);
    put_all(&houses, house, &headers, &snapshot, made).await.map(Json)
}

/// Untried commands of a device's address.
#[derive(Debug, Serialize, ToSchema)]
pub struct UntriedView {
    /// What to bear in mind.
    pub caution: String,
    /// The next ones, the most promising first.
    pub next: Vec<Untried>,
    /// How many are left.
    pub left: usize,
    /// How many were tried.
    pub tried: usize,
}

/// The commands of a device's address that no key sends and nobody has tried.
#[utoipa::path(
    get, path = "/api/houses/{house}/devices/{device}/untried", tag = "codes",
    params(("house" = HouseId, Path), ("device" = DeviceId, Path)),
    responses((status = 200, body = UntriedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn search(
    State(houses): State<Houses>,
    Path((house, device)): Path<(HouseId, DeviceId)>,
) -> Result<Json<UntriedView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.device(device).ok_or_else(no_device)?;
    let attempts = houses.store().attempts(house, device, None, 5_000).await?;
    let tried: Vec<String> =
        attempts.into_iter().filter(|a| a.what == AttemptKind::Search).filter_map(|attempt| attempt.sent).collect();
    let mut next = untried(&snapshot.site, device, &tried)
        .map_err(|detail| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "no-address", detail))?;
    let left = next.len();
    next.truncate(12);
    Ok(Json(UntriedView { caution: CAUTION.to_owned(), next, left, tried: tried.len() }))
}

/// Codes of the house that resemble this one.
#[utoipa::path(
    get, path = "/api/houses/{house}/codes/{code}/twins", tag = "codes",
    params(("house" = HouseId, Path), ("code" = CodeId, Path)),
    responses((status = 200, body = Vec<Twin>), (status = 404, body = Problem))
)]
pub async fn twins(
    State(houses): State<Houses>,
    Path((house, code)): Path<(HouseId, CodeId)>,
) -> Result<Json<Vec<Twin>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let code = snapshot.site.codes.iter().find(|known| known.id == code);
    let code = code.ok_or_else(|| Problem::not_found("This code was removed. Undo brings it back."))?;
    let mut twins = near(&snapshot.site, code.device, Some(code.id), &code.body, 2);
    twins.truncate(40);
    Ok(Json(twins))
}

/// Several captures of one key.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CombineRequest {
    /// In the order in which they were heard (2–16).
    captures: Vec<Capture>,
}

/// With whose protocols.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct CombineQuery {
    /// The house whose protocols are tried besides those that are built in.
    house: Option<HouseId>,
}

/// Makes one better reading of several captures of one key.
#[utoipa::path(
    post, path = "/api/readings/combined", tag = "codes", params(CombineQuery), request_body = CombineRequest,
    responses((status = 200, body = Combined), (status = 422, body = Problem))
)]
pub async fn combined(
    State(houses): State<Houses>,
    Query(query): Query<CombineQuery>,
    Body(request): Body<CombineRequest>,
) -> Result<Json<Combined>, Problem> {
    let refuse = || {
        let detail = "Give 1 to 16 captures of one key.";
        Problem::refused(detail)
    };
    if request.captures.len() > 16 {
        return Err(refuse());
    }
    let known = super::readings::protocols_of(&houses, query.house).await?;
    FILES.run(move || combine_among(&request.captures, &known)).await?.map(Json).ok_or_else(refuse)
}

/// A payload in both forms.
#[derive(Debug, Serialize, ToSchema)]
pub struct PayloadView {
    /// As hex.
    pub hex: String,
    /// As base64.
    pub base64: String,
    /// How many bytes.
    pub bytes: usize,
}

/// A text that is hex or base64.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PayloadRequest {
    /// As it was pasted.
    text: String,
}

/// Reads an opaque payload, hex or base64, and gives it in both forms.
#[utoipa::path(
    post, path = "/api/payloads", tag = "codes", request_body = PayloadRequest,
    responses((status = 200, body = PayloadView), (status = 422, body = Problem))
)]
pub async fn payload(Body(request): Body<PayloadRequest>) -> Result<Json<PayloadView>, Problem> {
    let payload = Payload::parse(&request.text)
        .map_err(|error| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "payload", error.to_string()))?;
    Ok(Json(PayloadView { hex: payload.hex(), base64: payload.base64(), bytes: payload.bytes().len() }))
}

/// A command as bytes.
#[derive(Debug, Serialize, ToSchema)]
pub struct CommandView {
    /// The bytes that are sent, in hex with blanks.
    pub hex: String,
    /// The same as text, with escapes.
    pub text: String,
    /// How many bytes.
    pub bytes: usize,
    /// The bytes that should come back, as text with escapes; none where nothing does.
    pub expects: Option<String>,
}

/// To whom.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct HostQuery {
    /// The address of the device: an HTTP request names it.
    host: Option<String>,
}

/// Shows the bytes of a command on the network.
#[utoipa::path(
    post, path = "/api/commands", tag = "codes", params(HostQuery), request_body = IpCommand,
    responses((status = 200, body = CommandView), (status = 422, body = Problem))
)]
pub async fn command(
    Query(query): Query<HostQuery>,
    Body(command): Body<IpCommand>,
) -> Result<Json<CommandView>, Problem> {
    let host = query.host.as_deref().map(str::trim).filter(|host| !host.is_empty());
    let bytes = host
        .map_or_else(|| command.bytes(), |host| command.bytes_to(host))
        .map_err(|error| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "command", error.to_string()))?;
    let hex: Vec<String> = bytes.iter().map(|byte| format!("{byte:02x}")).collect();
    let text = |bytes: &[u8]| kestrel_bench::lines::printable(bytes);
    Ok(Json(CommandView {
        hex: hex.join(" "),
        text: text(&bytes),
        bytes: bytes.len(),
        expects: command.expected().map(|expected| text(&expected)),
    }))
}

/// A ready-made command.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReadyCommand {
    /// The function that it is for.
    pub name: &'static str,
    /// The command.
    pub command: IpCommand,
}

/// The ready-made set of PJLink class 1.
#[utoipa::path(get, path = "/api/commands/pjlink", tag = "codes", responses((status = 200, body = Vec<ReadyCommand>)))]
pub async fn pjlink() -> Json<Vec<ReadyCommand>> {
    let ready = |(name, command): (&'static str, &str)| ReadyCommand {
        name,
        command: IpCommand::Pjlink { command: command.to_owned() },
    };
    Json(PJLINK_SET.into_iter().map(ready).collect())
}
