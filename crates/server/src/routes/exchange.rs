//! Files in and out: imports that are previewed and carried out as one step, exports of every format.

use super::download;
use super::houses::put_all;
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem, Query};
use crate::views::SavedView;
use crate::work::FILES;
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use axum::response::Response;
use jiff::Timestamp;
use kestrel_core::codes::export::{Format, Scope, export, title};
use kestrel_core::codes::formats::{Import, Unread};
use kestrel_core::codes::import::{ImportLine, as_set, entities, of_device, preview, read_with};
use kestrel_core::id::{DeviceId, HouseId, RoomId};
use kestrel_core::model::{Entity, Site};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// Where codes come from.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "from")]
pub enum ImportSource {
    /// A file: a remote keymap, a code set as CSV, or captures under names.
    File {
        /// Its text (at most 4 MB).
        text: String,
    },
    /// Another device, of this house or another one.
    Device {
        /// The house.
        house: HouseId,
        /// The device.
        device: DeviceId,
    },
}

/// What to import, and where to.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ImportRequest {
    /// Where codes come from.
    source: ImportSource,
    /// The device that gets them; none where the file names devices.
    device: Option<DeviceId>,
    /// Places in the list of the preview, counted from 0; ignored by the preview.
    #[serde(default)]
    chosen: Vec<usize>,
    /// Keep them as a code set of this name instead.
    #[serde(default)]
    as_set: Option<String>,
}

/// What an import would do.
#[derive(Debug, Serialize, ToSchema)]
pub struct ImportView {
    /// `keymap`, `csv`, `named captures` or `device`.
    pub format: String,
    /// Code by code.
    pub lines: Vec<ImportLine>,
    /// The lines that cannot be read.
    pub unread: Vec<Unread>,
    /// What was done about names that stand more than once.
    pub remarks: Vec<String>,
}

async fn found(houses: &Houses, site: &Arc<Site>, source: ImportSource) -> Result<(String, Import), Problem> {
    match source {
        ImportSource::File { text } => {
            let site = site.clone();
            let read = FILES.run(move || read_with(&text, &site.protocols_read())).await?;
            let (format, import) =
                read.map_err(|error| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "import", error.to_string()))?;
            Ok((format.to_owned(), import))
        }
        ImportSource::Device { house, device } => {
            let snapshot = houses.snapshot(house).await?;
            snapshot.site.device(device).ok_or_else(super::kit::no_device)?;
            Ok(("device".to_owned(), of_device(&snapshot.site, device)))
        }
    }
}

/// Says what an import would do; changes nothing.
#[utoipa::path(
    post, path = "/api/houses/{house}/imports/preview", tag = "exchange", params(("house" = HouseId, Path)),
    request_body = ImportRequest,
    responses((status = 200, body = ImportView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn look(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Body(request): Body<ImportRequest>,
) -> Result<Json<ImportView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let (format, import) = found(&houses, &snapshot.site, request.source).await?;
    let view = FILES.run(move || ImportView {
        format,
        lines: preview(&snapshot.site, request.device, &import),
        unread: import.unread,
        remarks: import.remarks,
    });
    view.await.map(Json)
}

/// Carries an import out as one step of the history.
#[utoipa::path(
    post, path = "/api/houses/{house}/imports", tag = "exchange", params(("house" = HouseId, Path)),
    request_body = ImportRequest,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn carry_out(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
    Body(request): Body<ImportRequest>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let (format, import) = found(&houses, &snapshot.site, request.source).await?;
    let site = snapshot.site.clone();
    let made = FILES.run(move || match &request.as_set {
        Some(name) => {
            let source = format!("Imported ({format}) on {}.", Timestamp::now().strftime("%Y-%m-%d"));
            vec![Entity::CodeSet(as_set(&import, name, &source, &mut Uuid::now_v7))]
        }
        None => entities(&site, request.device, &import, &request.chosen, Timestamp::now(), &mut Uuid::now_v7),
    });
    let made = made.await?;
    if made.is_empty() {
        let detail = "There is nothing to import: every chosen code is there already, or nothing was chosen.";
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "nothing", detail));
    }
    put_all(&houses, house, &headers, &snapshot, made).await.map(Json)
}

/// What to export.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ExportQuery {
    /// Only of this device.
    device: Option<DeviceId>,
    /// Only of this room.
    room: Option<RoomId>,
    /// `csv`, `keymap`, `pulse`, `signed` or `vcd`.
    format: Format,
}

/// The codes of a device, a room or the house as a file. The header `kestrel-left-out` counts the functions
/// that the format cannot hold.
#[utoipa::path(
    get, path = "/api/houses/{house}/codes.export", tag = "exchange", params(("house" = HouseId, Path), ExportQuery),
    responses((status = 200, content_type = "text/plain", body = String), (status = 404, body = Problem))
)]
pub async fn codes(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<ExportQuery>,
) -> Result<Response, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let site = &snapshot.site;
    let scope = match (query.device, query.room) {
        (Some(device), _) => {
            site.device(device).ok_or_else(super::kit::no_device)?;
            Scope::Device(device)
        }
        (None, Some(room)) => {
            site.room(room).ok_or_else(crate::houses::no_room)?;
            Scope::Room(room)
        }
        (None, None) => Scope::House,
    };
    let name: String = title(site, scope)
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' })
        .collect();
    let file = FILES.run(move || export(&snapshot.site, scope, query.format)).await?;
    let file = file.map_err(|error| Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "export", error))?;
    download(&format!("{name}.{}", query.format.ending()), "text/plain; charset=utf-8", file.text, file.left_out.len())
}
