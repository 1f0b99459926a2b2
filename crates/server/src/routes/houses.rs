//! Houses: reading, editing, history, live events.

use super::who;
use crate::houses::{Houses, Step};
use crate::problem::{Body, Path, Problem, Query};
use axum::Json;
use axum::extract::State;
use axum::http::HeaderMap;
use axum::response::sse::{Event, KeepAlive, Sse};
use futures::{Stream, StreamExt};
use kestrel_core::codes::{CodeState, state_of};
use kestrel_core::edit::Edit;
use kestrel_core::id::{CodeId, CodeSetId, DeviceId, FunctionId, HouseId};
use kestrel_core::model::{
    Activity, Code, CodeSet, Connection, Device, DeviceKind, Entity, House, Medium, Press, Profile, Room, Site, Tested,
};
use kestrel_store::{HouseSummary, LogEntry, Snapshot};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashMap};
use std::convert::Infallible;
use tokio_stream::wrappers::BroadcastStream;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// A code without its capture: enough for a table.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CodeLine {
    /// Its id.
    pub id: CodeId,
    /// The device.
    pub device: DeviceId,
    /// The function.
    pub function: FunctionId,
    /// How far it is proved.
    pub state: CodeState,
    /// On what it is sent.
    pub medium: Medium,
    /// Is it the one that is sent, where a function has several?
    pub preferred: bool,
    /// When it was captured or entered, in UTC.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub since: Option<jiff::Timestamp>,
    /// What the last test showed.
    pub tested: Option<Tested>,
    /// What is sent, in words.
    pub summary: String,
    /// How long one press lasts, in ms.
    pub send_ms: u32,
}

/// The codes of a site as lines of a table.
fn code_lines(site: &Site) -> Vec<CodeLine> {
    let mut number: HashMap<(DeviceId, FunctionId), u32> = HashMap::new();
    for code in &site.codes {
        *number.entry((code.device, code.function)).or_default() += 1;
    }
    // Two cells hold thousands of functions in a large house: each profile's are looked up once.
    let functions: HashMap<FunctionId, (Press, Option<u32>)> =
        site.profiles.iter().flat_map(|p| &p.functions).map(|f| (f.id, (f.press, f.frames))).collect();
    let line = |code: &Code| {
        let alone = number.get(&(code.device, code.function)) == Some(&1);
        let (press, frames) = functions.get(&code.function).copied().unwrap_or_default();
        CodeLine {
            id: code.id,
            device: code.device,
            function: code.function,
            state: state_of(Some(code)),
            medium: code.body.medium(),
            preferred: alone || site.code(code.device, code.function).map(|known| known.id) == Some(code.id),
            since: code.since,
            tested: code.tested.clone(),
            summary: code.body.to_string(),
            send_ms: code.body.send_ms(press, frames),
        }
    };
    site.codes.iter().map(line).collect()
}

/// A code set without its codes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct SetLine {
    /// Its id.
    pub id: CodeSetId,
    /// What it is called.
    pub name: String,
    /// What kind of device it is for, where known.
    pub kind: Option<DeviceKind>,
    /// Where it comes from.
    pub source: String,
    /// The names of its functions.
    pub functions: Vec<String>,
    /// Does it ship with the product?
    pub shipped: bool,
}

impl From<&CodeSet> for SetLine {
    fn from(set: &CodeSet) -> Self {
        Self {
            id: set.id,
            name: set.name.clone(),
            kind: set.kind,
            source: set.source.clone(),
            functions: set.keys.iter().map(|key| key.name.clone()).collect(),
            shipped: false,
        }
    }
}

/// A house as the page shows it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct HouseView {
    /// The house.
    pub house: House,
    /// Its rooms, in order.
    pub rooms: Vec<Room>,
    /// Its profiles.
    pub profiles: Vec<Profile>,
    /// Its devices, in order.
    pub devices: Vec<Device>,
    /// Its cables.
    pub connections: Vec<Connection>,
    /// Its codes.
    pub codes: Vec<CodeLine>,
    /// Its code sets.
    pub code_sets: Vec<SetLine>,
    /// Its activities, in order.
    pub activities: Vec<Activity>,
    /// For every entity, the version that an edit has to name as its base.
    pub versions: BTreeMap<Uuid, i64>,
    /// How many changes there have been.
    pub revision: i64,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would make again.
    pub redo: Option<String>,
}

impl From<&Snapshot> for HouseView {
    fn from(snapshot: &Snapshot) -> Self {
        let site = &snapshot.site;
        Self {
            house: site.house.clone(),
            rooms: site.rooms.clone(),
            profiles: site.profiles.clone(),
            devices: site.devices.clone(),
            connections: site.connections.clone(),
            codes: code_lines(site),
            code_sets: site.code_sets.iter().map(SetLine::from).collect(),
            activities: site.activities.clone(),
            versions: snapshot.versions.clone(),
            revision: snapshot.revision,
            undo: snapshot.undo.clone(),
            redo: snapshot.redo.clone(),
        }
    }
}

/// Edits that are one step.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct Edits {
    /// In order; all of them are carried out, or none.
    pub edits: Vec<Edit>,
}

/// What a change did.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SavedView {
    /// What happened, in words.
    pub title: String,
    /// The thing that was made, where the request made one.
    pub made: Option<Uuid>,
    /// The house after it.
    pub house: HouseView,
}

/// All houses.
#[utoipa::path(get, path = "/api/houses", tag = "houses", responses(
    (status = 200, body = Vec<HouseSummary>), (status = 503, body = Problem),
))]
pub async fn list(State(houses): State<Houses>) -> Result<Json<Vec<HouseSummary>>, Problem> {
    Ok(Json(houses.store().houses().await?))
}

/// A house with everything but captures.
#[utoipa::path(get, path = "/api/houses/{house}", tag = "houses", params(("house" = HouseId, Path)), responses(
    (status = 200, body = HouseView), (status = 404, body = Problem), (status = 503, body = Problem),
))]
pub async fn show(State(houses): State<Houses>, Path(house): Path<HouseId>) -> Result<Json<HouseView>, Problem> {
    Ok(Json(HouseView::from(&*houses.snapshot(house).await?)))
}

/// Carries edits out as one step of the history.
#[utoipa::path(
    post, path = "/api/houses/{house}/edits", tag = "houses", params(("house" = HouseId, Path)),
    request_body = Edits,
    responses(
        (status = 200, body = SavedView),
        (status = 400, description = "No such request.", body = Problem),
        (status = 404, body = Problem),
        (status = 409, description = "Made from an older version, or gone.", body = Problem),
        (status = 422, description = "Refused, with the reason.", body = Problem),
        (status = 503, body = Problem),
    )
)]
pub async fn edit(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
    Body(edits): Body<Edits>,
) -> Result<Json<SavedView>, Problem> {
    saved(houses.edit(house, &who(&headers), &edits.edits).await?)
}

/// Takes the last change back.
#[utoipa::path(post, path = "/api/houses/{house}/undo", tag = "houses", params(("house" = HouseId, Path)), responses(
    (status = 200, body = SavedView), (status = 404, body = Problem), (status = 409, body = Problem),
))]
pub async fn undo(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
) -> Result<Json<SavedView>, Problem> {
    saved(houses.step(house, &who(&headers), Step::Undo).await?)
}

/// Makes the last undone change again.
#[utoipa::path(post, path = "/api/houses/{house}/redo", tag = "houses", params(("house" = HouseId, Path)), responses(
    (status = 200, body = SavedView), (status = 404, body = Problem), (status = 409, body = Problem),
))]
pub async fn redo(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
) -> Result<Json<SavedView>, Problem> {
    saved(houses.step(house, &who(&headers), Step::Redo).await?)
}

pub(super) fn saved((snapshot, title): (std::sync::Arc<Snapshot>, String)) -> Result<Json<SavedView>, Problem> {
    Ok(Json(SavedView { title, made: None, house: HouseView::from(&*snapshot) }))
}

/// Which lines of the log.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LogQuery {
    /// Only lines before this revision.
    before: Option<i64>,
    /// At most this many (1–500).
    limit: Option<u32>,
}

/// The log of a house, the newest line first.
#[utoipa::path(
    get, path = "/api/houses/{house}/log", tag = "houses", params(("house" = HouseId, Path), LogQuery),
    responses((status = 200, body = Vec<LogEntry>), (status = 404, body = Problem))
)]
pub async fn log(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<LogQuery>,
) -> Result<Json<Vec<LogEntry>>, Problem> {
    houses.store().revision(house).await?;
    Ok(Json(houses.store().log(house, query.before, query.limit.unwrap_or(100)).await?))
}

/// Puts entities that the server made as one step of the history, each over the version that they were made from.
pub(super) async fn put_all(
    houses: &Houses,
    house: HouseId,
    headers: &HeaderMap,
    from: &Snapshot,
    entities: Vec<Entity>,
) -> Result<SavedView, Problem> {
    let made = entities.first().map(|entity| entity.key().1);
    let put = |entity: Entity| Edit::Put { base: from.versions.get(&entity.key().1).copied(), entity };
    let edits: Vec<Edit> = entities.into_iter().map(put).collect();
    let (snapshot, title) = houses.edit(house, &who(headers), &edits).await?;
    Ok(SavedView { title, made, house: HouseView::from(&*snapshot) })
}

/// Server-sent events: `edited` after every change of this house, with an [`Edited`](crate::houses::Edited).
/// `missed` says that some were lost and the page should read the house again.
#[utoipa::path(
    get, path = "/api/houses/{house}/events", tag = "houses", params(("house" = HouseId, Path)),
    responses((status = 200, content_type = "text/event-stream", body = String), (status = 404, body = Problem))
)]
pub async fn events(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Problem> {
    // Subscribed before the check, so that nothing falls between.
    let edits = houses.edits();
    houses.store().revision(house).await?;
    let stream = BroadcastStream::new(edits)
        .filter_map(move |edited| {
            let event = match edited {
                Ok(edited) if edited.house == house => Event::default().event("edited").json_data(&edited).ok(),
                Ok(_) => None,
                Err(_) => Some(Event::default().event("missed").data("")),
            };
            std::future::ready(event.map(Ok))
        })
        .take_until(houses.closing());
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}
