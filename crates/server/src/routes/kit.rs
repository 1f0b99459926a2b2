//! The inventory: advice, remotes, duplicates, the library, photos, tables as CSV.

use super::csv_file;
use super::houses::put_all;
use crate::houses::{Houses, no_room};
use crate::problem::{Body, Path, Problem, Query, Raw};
use crate::views::SavedView;
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use kestrel_core::codes::paths::{Advice, advise};
use kestrel_core::edit::copy;
use kestrel_core::id::{DeviceId, HouseId, InputId, PhotoId, RoomId};
use kestrel_core::kit::remote::{Checks, Conclusion, conclude};
use kestrel_core::kit::tables;
use kestrel_core::library;
use kestrel_core::model::{Entity, Profile};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// The ways of controlling a device, the best first, and why.
#[utoipa::path(
    get, path = "/api/houses/{house}/devices/{device}/advice", tag = "kit",
    params(("house" = HouseId, Path), ("device" = DeviceId, Path)),
    responses((status = 200, body = Vec<Advice>), (status = 404, body = Problem))
)]
pub async fn advice(
    State(houses): State<Houses>,
    Path((house, device)): Path<(HouseId, DeviceId)>,
) -> Result<Json<Vec<Advice>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let device = snapshot.site.device(device).ok_or_else(no_device)?;
    Ok(Json(advise(&snapshot.site, device)))
}

pub(super) fn no_device() -> Problem {
    Problem::not_found("There is no such device in this house any more. Undo brings a removed one back.")
}

/// What is this remote? Concludes from three checks.
#[utoipa::path(post, path = "/api/remotes", tag = "kit", request_body = Checks,
    responses((status = 200, body = Conclusion), (status = 400, body = Problem)))]
pub async fn remote(Body(checks): Body<Checks>) -> Json<Conclusion> {
    Json(conclude(checks))
}

/// The models that ship with the product.
#[utoipa::path(get, path = "/api/library", tag = "kit", responses((status = 200, body = Vec<Profile>)))]
pub async fn models() -> Json<&'static [Profile]> {
    Json(library::all())
}

/// What to make another one of.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "what")]
pub enum CopyRequest {
    /// A device, with its paths and codes.
    Device {
        /// Which.
        id: Uuid,
    },
    /// A room, with its devices, cables, codes and activities.
    Room {
        /// Which.
        id: Uuid,
    },
    /// A profile of the house.
    Profile {
        /// Which.
        id: Uuid,
    },
    /// A model of the library.
    Model {
        /// Which.
        id: Uuid,
    },
}

/// Duplicates a device, a room or a profile, or takes a model of the library over; one step of the history.
#[utoipa::path(
    post, path = "/api/houses/{house}/copies", tag = "kit", params(("house" = HouseId, Path)), request_body = CopyRequest,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn duplicate(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
    Body(request): Body<CopyRequest>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let site = &snapshot.site;
    let mut fresh = Uuid::now_v7;
    let entities = match request {
        CopyRequest::Device { id } => copy::device(site, id.into(), &mut fresh),
        CopyRequest::Room { id } => copy::room(site, id.into(), &mut fresh),
        CopyRequest::Profile { id } => copy::profile(site, id.into(), &mut fresh).map(|entity| vec![entity]),
        CopyRequest::Model { id } => {
            let model = library::all().iter().find(|model| model.id.0 == id);
            model.map(|model| vec![Entity::Profile(copy::renumbered(model, &mut fresh).0)])
        }
    };
    let entities =
        entities.ok_or_else(|| Problem::not_found("There is nothing of that id to copy. Reload the page."))?;
    put_all(&houses, house, &headers, &snapshot, entities).await.map(Json)
}

/// A photo that was kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhotoKept {
    /// Its id: name it in the records of a device.
    pub id: PhotoId,
}

/// What a picture's first bytes say it is.
fn media_type(bytes: &[u8]) -> Option<&'static str> {
    match bytes {
        [0x89, b'P', b'N', b'G', ..] => Some("image/png"),
        [0xff, 0xd8, 0xff, ..] => Some("image/jpeg"),
        [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'E', b'B', b'P', ..] => Some("image/webp"),
        _ => None,
    }
}

/// Keeps a photo (PNG, JPEG or WebP, at most 8 MB). It belongs to a device once its records name it.
#[utoipa::path(
    post, path = "/api/houses/{house}/photos", tag = "kit", params(("house" = HouseId, Path)),
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 200, body = PhotoKept), (status = 413, body = Problem), (status = 422, body = Problem))
)]
pub async fn keep_photo(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Raw(bytes): Raw,
) -> Result<Json<PhotoKept>, Problem> {
    let refuse = |detail: &str| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "photo", detail);
    let media_type =
        media_type(&bytes).ok_or_else(|| refuse("This is no PNG, JPEG or WebP picture. Export it as one of them."))?;
    if bytes.len() > kestrel_store::PHOTO_MAX {
        return Err(refuse("The photo has more than 8 MB. Make it smaller: a label needs no more than 2000 pixels."));
    }
    Ok(Json(PhotoKept { id: houses.store().add_photo(house, media_type, bytes.to_vec()).await? }))
}

/// A photo.
#[utoipa::path(
    get, path = "/api/houses/{house}/photos/{photo}", tag = "kit",
    params(("house" = HouseId, Path), ("photo" = PhotoId, Path)),
    responses((status = 200, content_type = "image/*", body = String), (status = 404, body = Problem))
)]
pub async fn show_photo(
    State(houses): State<Houses>,
    Path((house, photo)): Path<(HouseId, PhotoId)>,
) -> Result<Response, Problem> {
    let kept = houses.store().photo(house, photo).await?;
    let (media_type, bytes) = kept.ok_or_else(|| Problem::not_found("There is no such photo."))?;
    let headers = [
        (header::CONTENT_TYPE, media_type),
        (header::CACHE_CONTROL, "private, max-age=31536000, immutable".to_owned()),
    ];
    Ok((headers, bytes).into_response())
}

/// Which part of the house, and whether secrets may leave it.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TableQuery {
    /// Only this room.
    room: Option<RoomId>,
    /// With local keys and accounts (records only).
    #[serde(default)]
    secrets: bool,
}

/// The day that stands on a table, in UTC.
fn today() -> String {
    chrono::Utc::now().format("%Y-%m-%d").to_string()
}

/// The table of addresses as CSV.
#[utoipa::path(
    get, path = "/api/houses/{house}/tables/addresses.csv", tag = "kit", params(("house" = HouseId, Path), TableQuery),
    responses((status = 200, content_type = "text/csv", body = String), (status = 404, body = Problem))
)]
pub async fn address_table(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<TableQuery>,
) -> Result<Response, Problem> {
    let snapshot = houses.snapshot(house).await?;
    csv_file("addresses.csv", tables::addresses(&snapshot.site, query.room, &today()))
}

/// What a service call needs as CSV; local keys and accounts only where asked for.
#[utoipa::path(
    get, path = "/api/houses/{house}/tables/records.csv", tag = "kit", params(("house" = HouseId, Path), TableQuery),
    responses((status = 200, content_type = "text/csv", body = String), (status = 404, body = Problem))
)]
pub async fn record_table(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<TableQuery>,
) -> Result<Response, Problem> {
    let snapshot = houses.snapshot(house).await?;
    csv_file("records.csv", tables::records(&snapshot.site, query.room, query.secrets, &today()))
}

/// Which input of which device.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ReadBackRequest {
    /// The device.
    device: DeviceId,
    /// The input.
    input: InputId,
}

/// What a device calls an input.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReadBack {
    /// The name that it reports.
    pub reported: String,
}

/// Selects an input in the rehearsal room and reads back the name that the device reports for it.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/read-back", tag = "kit",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = ReadBackRequest,
    responses(
        (status = 200, body = ReadBack), (status = 404, body = Problem),
        (status = 422, description = "It tells nothing, or does not show the input.", body = Problem),
        (status = 502, body = Problem),
    )
)]
pub async fn read_back(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(request): Body<ReadBackRequest>,
) -> Result<Json<ReadBack>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    let reported = houses.rehearsal(house, room).await?.read_back(request.device, request.input).await?;
    Ok(Json(ReadBack { reported }))
}
