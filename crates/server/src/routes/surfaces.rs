//! Surfaces on the workbench: generated, compared with the old remotes, labelled, spoken of, and the links to them.

use crate::houses::{Houses, no_room};
use crate::problem::{Body, Path, Problem, Query};
use axum::Json;
use axum::extract::State;
use axum::http::{Response, StatusCode, header};
use axum::response::IntoResponse;
use kestrel_core::edit::EntityKind;
use kestrel_core::id::{ActivityId, HouseId, KeyId, PageId, RoomId, SurfaceId};
use kestrel_core::model::{Binding, Gesture, Site, Surface, SurfaceKey, SurfacePage};
use kestrel_core::surface::cover::{Covered, cover};
use kestrel_core::surface::engrave::{self, Fit, Labels, Trying};
use kestrel_core::surface::guest::{self, GuestWay};
use kestrel_core::surface::voice::{self, VoiceSheet};
use kestrel_core::surface::{copy, generate};
use kestrel_store::{Fate, LogEntry, SurfaceLink, Touched};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// A surface, worked out.
#[derive(Debug, Serialize, ToSchema)]
pub struct SurfaceSheet {
    /// The old remotes against it.
    cover: Vec<Covered>,
    /// The way of a guest to each activity.
    guest: Vec<GuestWay>,
    /// How its labels fit.
    fits: Vec<Fit>,
    /// May it be engraved?
    trying: Trying,
}

fn no_surface() -> Problem {
    Problem::not_found("There is no such surface in this room any more. Undo brings a removed one back.")
}

fn surface(site: &Site, room: RoomId, surface: SurfaceId) -> Result<&Surface, Problem> {
    site.room(room).ok_or_else(no_room)?.surface(surface).ok_or_else(no_surface)
}

/// When the pages of a surface were changed, as the log tells.
fn changed(log: &[LogEntry], surface: SurfaceId) -> Vec<jiff::Timestamp> {
    let own = |touched: &Touched| {
        (touched.kind, touched.id) == (EntityKind::Surface, surface.0)
            && (touched.fate != Fate::Changed || touched.fields.iter().any(|field| field == "pages"))
    };
    let lines = log.iter().filter(|entry| entry.changes.iter().any(own));
    lines.filter_map(|entry| jiff::Timestamp::from_millisecond(entry.at.timestamp_millis()).ok()).collect()
}

/// A surface against the old remotes, the guest test, its labels and its trial.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/surfaces/{surface}", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), ("surface" = SurfaceId, Path)),
    responses((status = 200, body = SurfaceSheet), (status = 404, body = Problem))
)]
pub async fn surface_sheet(
    State(houses): State<Houses>,
    Path((house, room, id)): Path<(HouseId, RoomId, SurfaceId)>,
) -> Result<Json<SurfaceSheet>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let site = &snapshot.site;
    let own = surface(site, room, id)?;
    let log = houses.store().log(house, None, 500).await?;
    let stored = site.room(room).is_some_and(|room| room.lighting.looks.iter().any(|look| look.stored.is_some()));
    Ok(Json(SurfaceSheet {
        cover: cover(site, room, own),
        guest: guest::test(site, room, own),
        fits: own.labelled().map(|key| engrave::fit(own, key)).collect(),
        trying: engrave::trying(own, &changed(&log, id), stored, jiff::Timestamp::now()),
    }))
}

/// In which activity.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct MeantQuery {
    /// The activity; none for what holds in all.
    activity: Option<ActivityId>,
}

/// What a gesture on a key does.
#[derive(Debug, Serialize, ToSchema)]
pub struct Meant {
    /// The key.
    key: KeyId,
    /// The gesture, and what it does.
    #[serde(flatten)]
    binding: Binding,
}

/// What every key of a surface does in an activity: what is meant for that activity goes before what is meant for all.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/surfaces/{surface}/keys", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), ("surface" = SurfaceId, Path), MeantQuery),
    responses((status = 200, body = Vec<Meant>), (status = 404, body = Problem))
)]
pub async fn surface_keys(
    State(houses): State<Houses>,
    Path((house, room, id)): Path<(HouseId, RoomId, SurfaceId)>,
    Query(query): Query<MeantQuery>,
) -> Result<Json<Vec<Meant>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let own = surface(&snapshot.site, room, id)?;
    let keys = own.pages.iter().flat_map(|page| &page.keys);
    let meant = |key: &SurfaceKey| {
        let bindings = Gesture::ALL.into_iter().filter_map(|gesture| key.binding(gesture, query.activity));
        bindings.map(|binding| Meant { key: key.id, binding: binding.clone() }).collect::<Vec<_>>()
    };
    Ok(Json(keys.flat_map(meant).collect()))
}

/// Lays a surface out from the activities of the room; what a hand has made in it stays. Nothing is saved.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/surfaces/generate", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = Surface,
    responses((status = 200, body = Surface), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn generate_surface(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(own): Body<Surface>,
) -> Result<Json<Surface>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    if !(1..=40).contains(&own.columns) || !(1..=40).contains(&own.rows) {
        return Err(Problem::refused("A grid has 1 to 40 columns and rows."));
    }
    Ok(Json(generate::generate(&snapshot.site, room, &own, &mut Uuid::now_v7)))
}

/// Which page goes where.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CopyPageRequest {
    /// The page.
    page: PageId,
    /// Of which surface.
    surface: SurfaceId,
    /// To which room.
    to_room: RoomId,
    /// To which surface there.
    to: SurfaceId,
}

/// A page as it would be in another room.
#[derive(Debug, Serialize, ToSchema)]
pub struct CopiedPage {
    /// The page.
    page: SurfacePage,
    /// Keys that were left out, and why.
    left_out: Vec<String>,
}

/// A page of this room as it would be on a surface of another one. Nothing is saved.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/surfaces/copy", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = CopyPageRequest,
    responses((status = 200, body = CopiedPage), (status = 404, body = Problem))
)]
pub async fn copy_page(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<CopyPageRequest>,
) -> Result<Json<CopiedPage>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let site = &snapshot.site;
    let from = surface(site, room, request.surface)?;
    let page = from.pages.iter().find(|page| page.id == request.page);
    let page = page.ok_or_else(|| Problem::not_found("There is no such page any more."))?;
    let to = surface(site, request.to_room, request.to)?;
    let copied = copy::page(site, page, request.to_room, to, &mut Uuid::now_v7);
    Ok(Json(CopiedPage { page: copied.page, left_out: copied.left_out }))
}

/// Which labels.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LabelQuery {
    /// Engraved, stickers or braille.
    labels: Labels,
    /// Of which page; of the first that has labels, if none.
    page: Option<PageId>,
}

/// Labels of one page of a surface as SVG, at true scale in mm.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/surfaces/{surface}/labels.svg", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), ("surface" = SurfaceId, Path), LabelQuery),
    responses(
        (status = 200, content_type = "image/svg+xml", body = String), (status = 404, body = Problem),
        (status = 422, description = "A surface of glass.", body = Problem),
    )
)]
pub async fn labels(
    State(houses): State<Houses>,
    Path((house, room, id)): Path<(HouseId, RoomId, SurfaceId)>,
    Query(query): Query<LabelQuery>,
) -> Result<Response<axum::body::Body>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let own = surface(&snapshot.site, room, id)?;
    if !own.kind.has_labels() {
        let kind = own.kind.words();
        return Err(Problem::refused(format!(
            "A {kind} has no labels to cut or stick on: its keys are drawn on glass."
        )));
    }
    let page = own.labelled_pages().find(|page| query.page.is_none_or(|wanted| page.id == wanted));
    let page = page.ok_or_else(|| Problem::not_found("There is no such page with labels any more."))?;
    let text = engrave::sheet(own, page, query.labels);
    Ok(([(header::CONTENT_TYPE, "image/svg+xml")], text).into_response())
}

/// The names that people say in a room, their collisions, and the phrases.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/voice", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = VoiceSheet), (status = 404, body = Problem))
)]
pub async fn voice_sheet(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<VoiceSheet>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    Ok(Json(voice::sheet(&snapshot.site, room)))
}

/// The links to the surfaces of a room.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/surface-links", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Vec<SurfaceLink>), (status = 404, body = Problem))
)]
pub async fn surface_links(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Vec<SurfaceLink>>, Problem> {
    Ok(Json(houses.store().links(house, room).await?))
}

/// Whose link it is.
#[derive(Debug, Deserialize, ToSchema)]
pub struct LinkRequest {
    /// To which surface.
    surface: SurfaceId,
    /// Whose it is, 1–80 characters.
    label: String,
}

/// Makes a link to a surface, which nobody can guess.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/surface-links", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = LinkRequest,
    responses((status = 200, body = SurfaceLink), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn make_surface_link(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<LinkRequest>,
) -> Result<Json<SurfaceLink>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    surface(&snapshot.site, room, request.surface)?;
    let label = request.label.trim();
    if label.is_empty() || label.chars().count() > 80 || label.chars().any(char::is_control) {
        return Err(Problem::refused("Say in 1 to 80 characters, on one line, whose link it is."));
    }
    Ok(Json(houses.store().make_link(house, room, request.surface, label).await?))
}

/// Withdraws a link: the page behind it stops working at once.
#[utoipa::path(
    delete, path = "/api/houses/{house}/rooms/{room}/surface-links/{token}", tag = "surfaces",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), ("token" = String, Path)),
    responses((status = 204), (status = 404, body = Problem))
)]
pub async fn withdraw_surface_link(
    State(houses): State<Houses>,
    Path((house, _, token)): Path<(HouseId, RoomId, String)>,
) -> Result<StatusCode, Problem> {
    let link = houses.store().link(&token).await?.filter(|link| link.house == house);
    if houses.store().withdraw_link(house, &token).await? {
        houses.withdrawn(&token);
        // Also a key that is held by a page without a stream of events.
        if let Some(link) = link {
            houses.release((house, link.room), link.surface).await;
        }
        Ok(StatusCode::NO_CONTENT)
    } else {
        Err(Problem::not_found("That link was withdrawn already."))
    }
}
