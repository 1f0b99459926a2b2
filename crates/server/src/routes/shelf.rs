//! The shelf: all houses of the practice. Starting, copying, removing and putting back; files and backups.

use super::houses::put_all;
use super::who;
use crate::backup::{self, BackupError, Daily, HouseIn, LastDaily, Manifest};
use crate::houses::Houses;
use crate::problem::{Body, Large, Path, Problem, Query};
use crate::summary;
use crate::views::SavedView;
use crate::work::FILES;
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, Response, StatusCode, header};
use axum::response::IntoResponse;
use chrono::{DateTime, Utc};
use kestrel_core::begin::{self, StartingPoint};
use kestrel_core::edit::room::{Going, removal};
use kestrel_core::edit::{self, Edit};
use kestrel_core::file;
use kestrel_core::id::{HouseId, RoomId};
use kestrel_core::model::{Entity, House, NAME_MAX, Programmer, Secrets, Site, keep_secrets, leaving};
use kestrel_core::summary::Summary;
use kestrel_core::words::capital;
use kestrel_store::{KEPT, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// The most rooms that a new house begins with.
const ROOMS: usize = 40;

/// A house on the shelf.
#[derive(Debug, Serialize, ToSchema)]
pub struct ShelfLine {
    /// Its id.
    id: HouseId,
    /// Its name.
    name: String,
    /// What one wants to know of it at a glance.
    note: String,
    /// Whose it is.
    client: String,
    /// How many changes there have been.
    revision: i64,
    /// When it was changed last, or made, in UTC.
    edited_at: DateTime<Utc>,
    /// What is said of it; none where that is still being worked out.
    summary: Option<Summary>,
    /// As of which revision that is.
    as_of: Option<i64>,
    /// When somebody was there last, in UTC; none where no visit was written down.
    last_visit: Option<DateTime<Utc>>,
    /// What the household found wrong and nobody has closed yet.
    open_calls: i64,
}

/// A house that was removed and can be put back.
#[derive(Debug, Serialize, ToSchema)]
pub struct RemovedLine {
    /// Its id.
    id: HouseId,
    /// Its name.
    name: String,
    /// When it was removed, in UTC.
    removed_at: DateTime<Utc>,
    /// Until when it is kept, in UTC.
    kept_until: DateTime<Utc>,
}

/// The shelf.
#[derive(Debug, Serialize, ToSchema)]
pub struct Shelf {
    /// Houses, by name.
    houses: Vec<ShelfLine>,
    /// Houses that were removed, by name.
    removed: Vec<RemovedLine>,
    /// How backups are made by themselves.
    daily: Daily,
    /// What became of the last of them.
    last: LastDaily,
}

/// A text of a house's row.
fn text(body: &serde_json::Value, name: &str) -> String {
    body.get(name).and_then(serde_json::Value::as_str).unwrap_or_default().to_owned()
}

/// All houses of the practice, the removed ones, and how they are backed up.
#[utoipa::path(get, path = "/api/shelf", tag = "shelf", responses(
    (status = 200, body = Shelf), (status = 503, body = Problem),
))]
pub async fn shelf(State(houses): State<Houses>) -> Result<Json<Shelf>, Problem> {
    let store = houses.store();
    let (mut there, mut removed) = (vec![], vec![]);
    let (open, visited) = (store.open_calls().await?, store.last_visits().await?);
    for house in store.shelf().await? {
        let (id, name) = (house.id, house.name);
        if let Some(removed_at) = house.removed_at {
            removed.push(RemovedLine { id, name, removed_at, kept_until: removed_at + KEPT });
            continue;
        }
        let (as_of, summary) = house.summary.and_then(summary::kept).unzip();
        there.push(ShelfLine {
            id,
            name,
            note: text(&house.body, "note"),
            client: text(&house.body, "client"),
            revision: house.revision,
            edited_at: house.edited_at,
            summary,
            as_of,
            last_visit: visited.get(&id).copied(),
            open_calls: open.get(&id).copied().unwrap_or(0),
        });
    }
    let daily = store.setting(backup::DAILY).await?.unwrap_or_default();
    Ok(Json(Shelf { houses: there, removed, daily, last: backup::last(store).await? }))
}

/// What is said of a house as it stands.
#[utoipa::path(get, path = "/api/houses/{house}/summary", tag = "shelf", params(("house" = HouseId, Path)), responses(
    (status = 200, body = Summary), (status = 404, body = Problem),
))]
pub async fn house_summary(State(houses): State<Houses>, Path(house): Path<HouseId>) -> Result<Json<Summary>, Problem> {
    Ok(Json(summary::of(&houses, house).await?.1))
}

/// A starting point.
#[derive(Debug, Serialize, ToSchema)]
pub struct PointLine {
    /// Which.
    point: StartingPoint,
    /// What it is called.
    name: &'static str,
    /// What stands in it; empty for the empty room.
    about: String,
}

/// What a room may begin with.
#[utoipa::path(get, path = "/api/starting-points", tag = "shelf", responses((status = 200, body = Vec<PointLine>)))]
pub async fn starting_points() -> Json<Vec<PointLine>> {
    let line = |point: StartingPoint| PointLine { point, name: point.name(), about: point.about() };
    Json(StartingPoint::ALL.into_iter().map(line).collect())
}

/// A room to begin with.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct NewRoom {
    /// Its name, 1–80 characters.
    name: String,
    /// What it begins with.
    start: StartingPoint,
}

/// A house to begin with.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NewHouse {
    /// Its name, 1–80 characters.
    name: String,
    /// What one wants to know of it at a glance.
    #[serde(default)]
    note: String,
    /// Whose it is.
    #[serde(default)]
    client: String,
    /// Who programs it.
    #[serde(default)]
    programmer: Programmer,
    /// Its rooms, in order (at most 40).
    #[serde(default)]
    rooms: Vec<NewRoom>,
}

/// A house that is there now.
#[derive(Debug, Serialize, ToSchema)]
pub struct Made {
    /// Its id.
    house: HouseId,
    /// Its name.
    name: String,
    /// Its first room, where it has one.
    room: Option<RoomId>,
    /// What happened, in words.
    said: String,
}

fn made(site: &Site, said: String) -> Made {
    let room = site.rooms.first().map(|room| room.id);
    Made { house: site.house.id, name: site.house.name.clone(), room, said }
}

fn named(what: &str, name: &str) -> Result<String, Problem> {
    let name = name.trim();
    if name.is_empty() || name.chars().count() > NAME_MAX || name.chars().any(char::is_control) {
        return Err(Problem::refused(format!("{what}: give it a name of 1 to {NAME_MAX} characters, on one line.")));
    }
    Ok(name.to_owned())
}

/// Starts a house with its rooms.
#[utoipa::path(post, path = "/api/houses", tag = "shelf", request_body = NewHouse, responses(
    (status = 200, body = Made), (status = 422, body = Problem), (status = 503, body = Problem),
))]
pub async fn start_house(State(houses): State<Houses>, Body(asked): Body<NewHouse>) -> Result<Json<Made>, Problem> {
    if asked.rooms.len() > ROOMS {
        return Err(Problem::refused(format!("A house begins with at most {ROOMS} rooms. Add the others in it.")));
    }
    let (note, client, programmer) = (asked.note, asked.client, asked.programmer);
    let name = named("Name of the house", &asked.name)?;
    let bare = House::new(HouseId(Uuid::now_v7()), name);
    let own = House { note, client, programmer, ..bare.clone() };
    let rooms: Vec<(String, StartingPoint)> = asked
        .rooms
        .iter()
        .map(|room| Ok((named("Name of the room", &room.name)?, room.start)))
        .collect::<Result<_, Problem>>()?;
    // Its lines are tidied and checked as any edit of them would be.
    let mut site = Site::empty(bare);
    edit::apply(&mut site, &Edit::Put { entity: Entity::House(own), base: None }).map_err(StoreError::from)?;
    let site = begin::house(site.house, &rooms, &mut Uuid::now_v7);
    houses.store().add_house(&site).await?;
    let said = format!("{} is started.", site.house.name);
    houses.is_new(site.house.id);
    Ok(Json(made(&site, said)))
}

/// Adds a room with what it begins with, as one step of the history.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms", tag = "shelf", params(("house" = HouseId, Path)), request_body = NewRoom,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn add_room(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
    Body(asked): Body<NewRoom>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let name = named("Name of the room", &asked.name)?;
    let id = RoomId(Uuid::now_v7());
    let entities = begin::room(&snapshot.site, id, &name, asked.start, &mut Uuid::now_v7);
    let saved = put_all(&houses, house, &headers, &snapshot, entities).await?;
    Ok(Json(saved))
}

/// What goes with a room.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/removal", tag = "shelf",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Going), (status = 404, body = Problem))
)]
pub async fn what_goes(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Going>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(crate::houses::no_room)?;
    Ok(Json(removal(&snapshot.site, room).0))
}

/// Removes a room with everything in it, as one step of the history; what moves in it is stopped first.
#[utoipa::path(
    delete, path = "/api/houses/{house}/rooms/{room}", tag = "shelf",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 409, body = Problem))
)]
pub async fn remove_room(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(crate::houses::no_room)?;
    houses.stop_room((house, room)).await;
    let edits = super::houses::edits(&snapshot, removal(&snapshot.site, room).1);
    Ok(Json(super::houses::saved(&houses.edit(house, &who(&headers), &edits).await?)))
}

/// Puts the demo house on the shelf; one that is there already stays as it is, and a removed one comes back.
#[utoipa::path(post, path = "/api/shelf/demo", tag = "shelf", responses(
    (status = 200, body = Made), (status = 503, body = Problem),
))]
pub async fn demo_house(State(houses): State<Houses>) -> Result<Json<Made>, Problem> {
    let site = kestrel_core::demo::marram_point();
    let id = site.house.id;
    let store = houses.store();
    if store.removed_at(id).await?.is_some() {
        store.put_back(id).await?;
    } else {
        store.add_house(&site).await?;
    }
    houses.is_new(id);
    let snapshot = houses.snapshot(id).await?;
    let said =
        format!("{} is on the shelf: an invented house to look at and to try things in.", snapshot.site.house.name);
    Ok(Json(made(&snapshot.site, said)))
}

/// A copy of a house, with ids of its own.
#[utoipa::path(post, path = "/api/houses/{house}/copy", tag = "shelf", params(("house" = HouseId, Path)), responses(
    (status = 200, body = Made), (status = 404, body = Problem),
))]
pub async fn copy_house(State(houses): State<Houses>, Path(house): Path<HouseId>) -> Result<Json<Made>, Problem> {
    let (id, name) = houses.store().copy_house(house).await?;
    houses.is_new(id);
    let snapshot = houses.snapshot(id).await?;
    Ok(Json(made(&snapshot.site, format!("{name} is a copy with things of its own; its history begins now."))))
}

/// Takes a house from the shelf. It is kept for thirty days; what moves in it is stopped first.
#[utoipa::path(delete, path = "/api/houses/{house}", tag = "shelf", params(("house" = HouseId, Path)), responses(
    (status = 204), (status = 404, body = Problem),
))]
pub async fn remove_house(State(houses): State<Houses>, Path(house): Path<HouseId>) -> Result<StatusCode, Problem> {
    houses.store().revision(house).await?;
    houses.shut(house).await;
    houses.store().remove_house(house).await?;
    houses.is_gone(house);
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a removed house back.
#[utoipa::path(post, path = "/api/shelf/removed/{house}", tag = "shelf", params(("house" = HouseId, Path)), responses(
    (status = 200, body = Made), (status = 404, body = Problem),
))]
pub async fn put_back(State(houses): State<Houses>, Path(house): Path<HouseId>) -> Result<Json<Made>, Problem> {
    houses.store().put_back(house).await.map_err(|error| match error {
        StoreError::NoHouse => {
            Problem::not_found("That house is not among the removed ones: it is back, or was kept too long.")
        }
        other => other.into(),
    })?;
    let snapshot = houses.snapshot(house).await?;
    let said = format!("{} is back, as it was.", snapshot.site.house.name);
    Ok(Json(made(&snapshot.site, said)))
}

/// What an export holds.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SecretsQuery {
    /// Are keys, passwords and accounts in it?
    #[serde(default)]
    secrets: bool,
}

impl SecretsQuery {
    fn which(&self) -> Secrets {
        if self.secrets { Secrets::Kept } else { Secrets::LeftOut }
    }
}

/// The site file of a house.
#[utoipa::path(
    get, path = "/api/houses/{house}/site", tag = "shelf", params(("house" = HouseId, Path), SecretsQuery),
    responses((status = 200, content_type = "application/json", body = String), (status = 404, body = Problem))
)]
pub async fn site_file(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<SecretsQuery>,
) -> Result<Response<axum::body::Body>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let name = backup::slug(&snapshot.site.house.name);
    let text = FILES.run(move || file::write(&leaving(&snapshot.site, query.which()))).await?;
    super::download(&format!("{name}.kdune.json"), "application/json", text, 0)
}

/// What a site file holds, and what would become of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct SitePreview {
    /// The name of its house.
    name: String,
    /// The names of its rooms.
    rooms: Vec<String>,
    /// How many devices.
    devices: usize,
    /// How many codes.
    codes: usize,
    /// How many activities.
    activities: usize,
    /// Are keys, passwords or accounts in it?
    secrets: bool,
    /// The house of this installation that it is a version of; none where it is not there.
    there: Option<HouseThere>,
}

/// A house that is there already.
#[derive(Debug, Serialize, ToSchema)]
pub struct HouseThere {
    /// Its id.
    id: HouseId,
    /// Its name.
    name: String,
    /// Was it removed, and only kept for a while? Put it back first, to replace it.
    removed: bool,
    /// How many things the file would add.
    adds: usize,
    /// How many it would change.
    changes: usize,
    /// How many it would take away.
    removes: usize,
}

fn refused_file(error: &file::FileError) -> Problem {
    let said = capital(&error.to_string());
    Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "site-file", format!("{said}. Nothing was changed."))
}

/// The house of a file that was sent.
async fn sent(bytes: axum::body::Bytes) -> Result<Site, Problem> {
    let wrong = |why: &str| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "site-file", why);
    match bytes.as_ref() {
        [] => return Err(wrong("The file is empty. Choose a site file (*.kdune.json).")),
        [b'P', b'K', ..] => {
            return Err(wrong("This is a ZIP archive. Unpack it, and choose the *.kdune.json in it."));
        }
        [0x89, b'P', b'N', b'G', ..] | [0xff, 0xd8, ..] => {
            return Err(wrong("This is a picture, whatever its name says. Choose a site file (*.kdune.json)."));
        }
        _ => {}
    }
    let read = FILES.run(move || match std::str::from_utf8(&bytes) {
        Ok(text) => file::read(text).map_err(|error| refused_file(&error)),
        Err(_) => {
            let why = "This is no text, so it is no site file (*.kdune.json). A backup is restored, not imported.";
            Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "site-file", why))
        }
    });
    read.await?
}

async fn there(houses: &Houses, site: &Site) -> Result<Option<HouseThere>, Problem> {
    let known = houses.store().shelf().await?.into_iter().find(|known| known.id == site.house.id);
    let Some(known) = known else { return Ok(None) };
    let mut there = HouseThere {
        id: known.id,
        name: known.name,
        removed: known.removed_at.is_some(),
        adds: 0,
        changes: 0,
        removes: 0,
    };
    if there.removed {
        return Ok(Some(there));
    }
    let snapshot = houses.snapshot(site.house.id).await?;
    let mut wanted = site.clone();
    keep_secrets(&snapshot.site, &mut wanted);
    let edit::Difference { adds, changes, removes } = edit::difference(&snapshot.site, &wanted);
    (there.adds, there.changes, there.removes) = (adds, changes, removes);
    Ok(Some(there))
}

/// Says what a site file holds and what is there already; changes nothing.
#[utoipa::path(
    post, path = "/api/shelf/imports/preview", tag = "shelf",
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 200, body = SitePreview), (status = 413, body = Problem), (status = 422, body = Problem))
)]
pub async fn look_at_file(
    State(houses): State<Houses>,
    Large(bytes): Large<{ file::BYTES_MAX }>,
) -> Result<Json<SitePreview>, Problem> {
    let site = sent(bytes).await?;
    let there = there(&houses, &site).await?;
    Ok(Json(SitePreview {
        name: site.house.name.clone(),
        rooms: site.rooms.iter().map(|room| room.name.clone()).collect(),
        devices: site.devices.len(),
        codes: site.codes.len(),
        activities: site.activities.len(),
        secrets: leaving(&site, Secrets::LeftOut) != leaving(&site, Secrets::Kept),
        there,
    }))
}

/// How a file is taken in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Taking {
    /// As a house that is not there yet; with ids of its own where some are taken.
    New,
    /// As a copy beside the one that is there, with ids of its own.
    Copy,
    /// In place of the one that is there, as one step of its history.
    Replace,
}

/// How the file is taken in.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TakingQuery {
    /// `new`, `copy` or `replace`.
    how: Taking,
}

/// Takes a site file in. In place of a house, what moves there is stopped first, and undo takes it back.
#[utoipa::path(
    post, path = "/api/shelf/imports", tag = "shelf", params(TakingQuery),
    request_body(content = String, content_type = "application/octet-stream"),
    responses(
        (status = 200, body = Made), (status = 409, body = Problem), (status = 413, body = Problem),
        (status = 422, body = Problem),
    )
)]
pub async fn take_file(
    State(houses): State<Houses>,
    Query(query): Query<TakingQuery>,
    headers: HeaderMap,
    Large(bytes): Large<{ file::BYTES_MAX }>,
) -> Result<Json<Made>, Problem> {
    // Leave to drive real devices is given here, never brought along.
    let site = leaving(&sent(bytes).await?, Secrets::Kept);
    let store = houses.store();
    let known = store.shelf().await?.into_iter().find(|known| known.id == site.house.id);
    match query.how {
        Taking::Replace => {
            let gone = || {
                Problem::new(
                    StatusCode::CONFLICT,
                    "gone",
                    "The house is not there any more. Take the file in as a new one.",
                )
            };
            known.filter(|known| known.removed_at.is_none()).ok_or_else(gone)?;
            let snapshot = houses.snapshot(site.house.id).await?;
            let mut wanted = site;
            keep_secrets(&snapshot.site, &mut wanted);
            houses.stop_house(wanted.house.id).await;
            let edits = edit::replacing(&snapshot.site, &snapshot.versions, &wanted);
            houses.edit(wanted.house.id, &who(&headers), &edits).await?;
            let said = format!("{} is as in the file. Undo in the house takes it back.", wanted.house.name);
            Ok(Json(made(&wanted, said)))
        }
        Taking::New if known.is_none() => {
            let (site, new_ids) = store.apart(site).await?;
            add(&houses, site, if new_ids { " It was given ids of its own." } else { "" }).await
        }
        Taking::New => Err(Problem::new(
            StatusCode::CONFLICT,
            "there",
            "This house is there already. Take the file in as a copy, or in place of it.",
        )),
        Taking::Copy => {
            let taken: Vec<String> = store.houses().await?.into_iter().map(|known| known.name).collect();
            let mut site = edit::copy::house(&site, &mut Uuid::now_v7);
            let short: String = site.house.name.chars().take(NAME_MAX - 4).collect();
            site.house.name = edit::copy::free_name(&short, &taken);
            add(&houses, site, " It is a copy with things of its own.").await
        }
    }
}

async fn add(houses: &Houses, site: Site, also: &str) -> Result<Json<Made>, Problem> {
    if !houses.store().add_house(&site).await? {
        return Err(Problem::new(StatusCode::CONFLICT, "there", "This house was added meanwhile. Look at the shelf."));
    }
    houses.is_new(site.house.id);
    let said = format!("{} is on the shelf.{also}", site.house.name);
    Ok(Json(made(&site, said)))
}

impl From<BackupError> for Problem {
    fn from(error: BackupError) -> Self {
        let said = capital(&error.to_string());
        match error {
            BackupError::Store(error) => error.into(),
            BackupError::Disk { .. } => Self::new(StatusCode::UNPROCESSABLE_ENTITY, "disk", format!("{said}.")),
            _ => Self::new(StatusCode::UNPROCESSABLE_ENTITY, "backup", format!("{said}.")),
        }
    }
}

/// A backup of everything, as a file to save. It holds keys, unless they are left out: keep it as one would keep those.
#[utoipa::path(
    get, path = "/api/backup", tag = "shelf", params(SecretsQuery),
    responses((status = 200, content_type = "application/x-tar", body = String), (status = 503, body = Problem))
)]
pub async fn make_backup(
    State(houses): State<Houses>,
    Query(query): Query<SecretsQuery>,
) -> Result<Response<axum::body::Body>, Problem> {
    let now = Utc::now();
    let bytes = backup::make(houses.store(), query.which(), now).await?;
    let name = format!("kestrel-dune-{}.{}", now.format("%Y%m%d-%H%M"), backup::ENDING);
    let headers = [
        (header::CONTENT_TYPE, "application/x-tar".to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\"")),
    ];
    Ok((headers, bytes).into_response())
}

/// What a backup holds, and what is there already.
#[derive(Debug, Serialize, ToSchema)]
pub struct BackupPreview {
    /// What it holds.
    manifest: Manifest,
    /// Houses that would be put in the place of those that are there.
    replaces: Vec<HouseIn>,
}

/// The largest backup that is taken over HTTP, in bytes.
const BACKUP_MAX: usize = 1_000_000_000;

/// Says what a backup holds; changes nothing.
#[utoipa::path(
    post, path = "/api/restore/preview", tag = "shelf",
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 200, body = BackupPreview), (status = 413, body = Problem), (status = 422, body = Problem))
)]
pub async fn look_at_backup(
    State(houses): State<Houses>,
    Large(bytes): Large<BACKUP_MAX>,
) -> Result<Json<BackupPreview>, Problem> {
    let read = FILES.run(move || backup::read(&bytes)).await??;
    let known: Vec<HouseId> = houses.store().shelf().await?.into_iter().map(|known| known.id).collect();
    let replaces = read.manifest.houses.iter().filter(|house| known.contains(&house.id)).cloned().collect();
    Ok(Json(BackupPreview { manifest: read.manifest, replaces }))
}

/// Puts every house of a backup in its place; other houses stay. What moves is stopped first.
#[utoipa::path(
    post, path = "/api/restore", tag = "shelf",
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 200, body = Manifest), (status = 413, body = Problem), (status = 422, body = Problem))
)]
pub async fn restore(State(houses): State<Houses>, Large(bytes): Large<BACKUP_MAX>) -> Result<Json<Manifest>, Problem> {
    let read = FILES.run(move || backup::read(&bytes)).await??;
    for house in &read.manifest.houses {
        houses.shut(house.id).await;
    }
    backup::restore(houses.store(), &read).await?;
    for house in &read.manifest.houses {
        houses.is_gone(house.id);
        houses.is_new(house.id);
    }
    Ok(Json(read.manifest))
}

/// Sets where backups go by themselves, and how many are kept. One is made at once, so that what is wrong is seen.
#[utoipa::path(put, path = "/api/shelf/daily-backup", tag = "shelf", request_body = Daily, responses(
    (status = 200, body = LastDaily), (status = 422, body = Problem),
))]
pub async fn set_daily(State(houses): State<Houses>, Body(asked): Body<Daily>) -> Result<Json<LastDaily>, Problem> {
    let folder = asked.folder.trim().to_owned();
    if !folder.is_empty() && !std::path::Path::new(&folder).is_absolute() {
        return Err(Problem::refused("Name the whole path of the folder, such as /home/me/backups."));
    }
    if !(1..=365).contains(&asked.keep) {
        return Err(Problem::refused("Between 1 and 365 backups are kept."));
    }
    let store = houses.store();
    let asked = Daily { folder, ..asked };
    if !asked.folder.is_empty() {
        backup::try_folder(&asked)?;
    }
    store.set(backup::DAILY, &asked).await?;
    backup::forget_last(store).await?;
    backup::daily(store, Utc::now()).await?;
    Ok(Json(backup::last(store).await?))
}
