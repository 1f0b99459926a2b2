//! The logbook: everything that happened to the house, and the house as it was.

use super::houses::saved;
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem, Query};
use crate::views::SavedView;
use axum::Json;
use axum::extract::State;
use axum::http::HeaderMap;
use axum::response::Response;
use chrono::{DateTime, Utc};
use kestrel_core::compare::{HouseDifference, compare};
use kestrel_core::edit::{self, Edit, EntityKind};
use kestrel_core::id::{DeviceId, HouseId, PhotoId, RoomId};
use kestrel_core::model::{About, EntityKey, Site, keep_secrets};
use kestrel_core::sheet;
use kestrel_store::{Amiss, LogEntry, NewVisit, Snapshot, Touched, VisitKind};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::fmt::Write as _;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// What a line of the logbook is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum LineKind {
    /// Something was edited.
    Edit,
    /// Something was timed.
    Measurement,
    /// A test was done.
    Test,
    /// Somebody was in the house.
    Visit,
    /// Something worth keeping.
    Note,
    /// A call of the household, or one on the telephone.
    Call,
    /// The house was handed over.
    Handover,
}

impl LineKind {
    const fn word(self) -> &'static str {
        match self {
            Self::Edit => "edit",
            Self::Measurement => "measurement",
            Self::Test => "test",
            Self::Visit => "visit",
            Self::Note => "note",
            Self::Call => "call",
            Self::Handover => "handover",
        }
    }
}

/// A line of the logbook.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LogbookLine {
    /// When, in UTC.
    at: DateTime<Utc>,
    /// What it is.
    kind: LineKind,
    /// Who.
    who: String,
    /// What happened.
    text: String,
    /// Rooms that it is about; none for the house.
    rooms: Vec<RoomId>,
    /// Devices that it is about.
    devices: Vec<DeviceId>,
    /// The revision that it made, for an edit.
    revision: Option<i64>,
    /// Was it taken back since?
    undone: bool,
    /// A photo of it.
    photo: Option<PhotoId>,
    /// How long it took, in minutes.
    minutes: Option<i32>,
}

/// Which lines.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LogbookQuery {
    /// Only of this room.
    #[serde(default)]
    room: Option<RoomId>,
    /// Only about this device.
    #[serde(default)]
    device: Option<DeviceId>,
    /// Only of this kind.
    #[serde(default)]
    kind: Option<LineKind>,
    /// Only since then, in UTC.
    #[serde(default)]
    since: Option<DateTime<Utc>>,
    /// At most so many edits are looked at, the newest (1 to 5,000).
    #[serde(default)]
    limit: Option<u32>,
}

/// What a change is about. What is gone is known by its own id alone.
fn about(site: &Site, touched: &Touched) -> About {
    match edit::find(site, EntityKey { kind: touched.kind, id: touched.id }) {
        Some(entity) => entity.about(site),
        None => match touched.kind {
            EntityKind::Light | EntityKind::Voice | EntityKind::Plans => About::room(touched.id.into()),
            EntityKind::Device => About::device(site, touched.id.into()),
            _ => About::default(),
        },
    }
}

fn of_edit(site: &Site, entry: LogEntry) -> LogbookLine {
    let mut concerns = About::default();
    entry.changes.iter().for_each(|touched| concerns.and(about(site, touched)));
    let all = |kind: EntityKind| !entry.changes.is_empty() && entry.changes.iter().all(|own| own.kind == kind);
    let kind = if all(EntityKind::Measurement) {
        LineKind::Measurement
    } else if all(EntityKind::Result) {
        LineKind::Test
    } else {
        LineKind::Edit
    };
    LogbookLine {
        at: entry.at,
        kind,
        who: entry.who,
        text: entry.title,
        rooms: concerns.rooms.into_iter().collect(),
        devices: concerns.devices.into_iter().collect(),
        revision: Some(entry.revision),
        undone: entry.undone,
        photo: None,
        minutes: None,
    }
}

async fn lines(houses: &Houses, house: HouseId, query: &LogbookQuery) -> Result<Vec<LogbookLine>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let site = &snapshot.site;
    let limit = query.limit.unwrap_or(1_000).clamp(1, 5_000);
    let edits = houses.store().log(house, None, limit).await?;
    let mut all: Vec<LogbookLine> = edits.into_iter().map(|entry| of_edit(site, entry)).collect();
    for own in houses.store().visits(house).await? {
        let kind = match own.kind {
            VisitKind::Visit => LineKind::Visit,
            VisitKind::Note => LineKind::Note,
            VisitKind::Call => LineKind::Call,
            VisitKind::Tests => LineKind::Test,
            VisitKind::Handover => LineKind::Handover,
        };
        all.push(LogbookLine {
            at: own.at,
            kind,
            who: own.who,
            text: own.text,
            rooms: own.room.into_iter().collect(),
            devices: own.device.into_iter().collect(),
            revision: None,
            undone: false,
            photo: own.photo,
            minutes: own.minutes,
        });
    }
    for call in houses.store().calls(house).await? {
        let what = match call.what {
            Amiss::NoPicture => "no picture",
            Amiss::NoSound => "no sound",
            Amiss::Light => "the light",
            Amiss::Else => "something else",
        };
        let outcome = if call.outcome.is_empty() { "open".to_owned() } else { call.outcome };
        all.push(LogbookLine {
            at: call.at,
            kind: LineKind::Call,
            who: call.said_by,
            text: format!("Not right: {what}, while it was taken for {}. {outcome}", call.facts.taken_for),
            rooms: vec![call.room],
            devices: vec![],
            revision: None,
            undone: false,
            photo: None,
            minutes: None,
        });
    }
    all.retain(|line| {
        query.room.is_none_or(|room| line.rooms.contains(&room))
            && query.device.is_none_or(|device| line.devices.contains(&device))
            && query.kind.is_none_or(|kind| line.kind == kind)
            && query.since.is_none_or(|since| line.at >= since)
    });
    all.sort_by(|a, b| b.at.cmp(&a.at).then_with(|| b.revision.cmp(&a.revision)));
    Ok(all)
}

/// The logbook, the newest line first.
#[utoipa::path(
    get, path = "/api/houses/{house}/logbook", tag = "handover", params(("house" = HouseId, Path), LogbookQuery),
    responses((status = 200, body = Vec<LogbookLine>), (status = 404, body = Problem))
)]
pub async fn logbook(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<LogbookQuery>,
) -> Result<Json<Vec<LogbookLine>>, Problem> {
    Ok(Json(lines(&houses, house, &query).await?))
}

/// The logbook as a file: `csv` or `md` (Markdown).
#[utoipa::path(
    get, path = "/api/houses/{house}/logbook/{format}", tag = "handover",
    params(("house" = HouseId, Path), ("format" = String, Path), LogbookQuery),
    responses((status = 200, content_type = "text/csv", body = String), (status = 404, body = Problem))
)]
pub async fn logbook_file(
    State(houses): State<Houses>,
    Path((house, format)): Path<(HouseId, String)>,
    Query(query): Query<LogbookQuery>,
) -> Result<Response, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let site = &snapshot.site;
    let all = lines(&houses, house, &query).await?;
    let names = |line: &LogbookLine| {
        let rooms = line.rooms.iter().filter_map(|id| site.room(*id)).map(|room| room.name.clone());
        let devices = line.devices.iter().map(|id| site.device_name(*id));
        (rooms.collect::<Vec<_>>().join(", "), devices.collect::<Vec<_>>().join(", "))
    };
    match format.as_str() {
        "csv" => {
            let head = ["at", "kind", "who", "room", "device", "minutes", "what"].map(str::to_owned).to_vec();
            let rows = all.iter().map(|line| {
                let (rooms, devices) = names(line);
                let minutes = line.minutes.map(|own| own.to_string()).unwrap_or_default();
                let at = line.at.to_rfc3339();
                vec![at, line.kind.word().to_owned(), line.who.clone(), rooms, devices, minutes, line.text.clone()]
            });
            super::csv_file("logbook.csv", sheet::written(std::iter::once(head).chain(rows)))
        }
        "md" => {
            let mut text = format!("# {}: logbook\n\n", plain(&site.house.name));
            for line in &all {
                let (rooms, _) = names(line);
                let place = if rooms.is_empty() { String::new() } else { format!(" · {}", plain(&rooms)) };
                let at = line.at.format("%Y-%m-%d %H:%M");
                let _ = writeln!(
                    text,
                    "- **{at} UTC** · {} · {}{place}: {}",
                    line.kind.word(),
                    plain(&line.who),
                    plain(&line.text)
                );
            }
            super::download("logbook.md", "text/markdown; charset=utf-8", text, 0)
        }
        _ => Err(Problem::not_found("A logbook is saved as csv or md. Choose one of them.")),
    }
}

/// A text that says in Markdown what it says.
fn plain(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\n' | '\r' => out.push(' '),
            '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>' | '#' | '|' => {
                out.push('\\');
                out.push(c);
            }
            c if c.is_control() => {}
            c => out.push(c),
        }
    }
    out
}

/// Writes a line into the logbook.
#[utoipa::path(
    post, path = "/api/houses/{house}/logbook", tag = "handover", params(("house" = HouseId, Path)),
    request_body = NewVisit,
    responses((status = 200, body = Uuid), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn write_note(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
    Body(new): Body<NewVisit>,
) -> Result<Json<Uuid>, Problem> {
    let text = new.text.trim().to_owned();
    if text.is_empty() || text.chars().count() > 4_000 {
        return Err(Problem::refused("Say in 1 to 4,000 characters what happened."));
    }
    if new.minutes.is_some_and(|minutes| !(0..=6_000).contains(&minutes)) {
        return Err(Problem::refused("Minutes go from 0 to 6,000."));
    }
    let new = NewVisit { text, ..new };
    Ok(Json(houses.store().note(house, &super::who(&headers).name, &new).await?))
}

/// Which revision, and what of it.
#[derive(Debug, Deserialize, ToSchema)]
pub struct RestoreRequest {
    /// Put back as it was at this revision.
    revision: i64,
    /// Only this thing, by kind and id; the whole house, if none.
    #[serde(default)]
    only: Option<OnlyThis>,
}

/// One thing of a house.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct OnlyThis {
    /// Its kind.
    kind: EntityKind,
    /// Its id.
    id: Uuid,
}

async fn then(houses: &Houses, house: HouseId, revision: i64) -> Result<(std::sync::Arc<Snapshot>, Site), Problem> {
    let snapshot = houses.snapshot(house).await?;
    let site = houses.store().as_it_was(house, revision).await?;
    let none = || Problem::not_found("This house has no such revision. Choose a line of the logbook.");
    let mut site = site.ok_or_else(none)?;
    // What was seen since stays seen, and keys that are known now are not forgotten.
    site.measurements = snapshot.site.measurements.clone();
    site.results = snapshot.site.results.clone();
    let there: BTreeSet<DeviceId> = site.devices.iter().map(|own| own.id).collect();
    site.measurements.retain(|own| there.contains(&own.device));
    keep_secrets(&snapshot.site, &mut site);
    Ok((snapshot, site))
}

/// What is another thing today than it was at a revision, in sentences.
#[utoipa::path(
    get, path = "/api/houses/{house}/as-it-was/{revision}", tag = "handover",
    params(("house" = HouseId, Path), ("revision" = i64, Path)),
    responses((status = 200, body = Vec<HouseDifference>), (status = 404, body = Problem))
)]
pub async fn as_it_was(
    State(houses): State<Houses>,
    Path((house, revision)): Path<(HouseId, i64)>,
) -> Result<Json<Vec<HouseDifference>>, Problem> {
    let (snapshot, site) = then(&houses, house, revision).await?;
    Ok(Json(compare(&site, &snapshot.site)))
}

/// Puts the house, or one thing of it, back as it was at a revision: one step, which undo takes back. Readings and results of
/// tests stay.
#[utoipa::path(
    post, path = "/api/houses/{house}/as-it-was", tag = "handover", params(("house" = HouseId, Path)),
    request_body = RestoreRequest,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem))
)]
pub async fn restore_as_it_was(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
    Body(request): Body<RestoreRequest>,
) -> Result<Json<SavedView>, Problem> {
    let (snapshot, site) = then(&houses, house, request.revision).await?;
    let key = |edit: &Edit| match edit {
        Edit::Put { entity, .. } => entity.key(),
        Edit::Remove { kind, id, .. } => EntityKey { kind: *kind, id: *id },
    };
    let mut edits = edit::replacing(&snapshot.site, &snapshot.versions, &site);
    edits.retain(|edit| {
        let own = key(edit);
        let wanted = request.only.is_none_or(|only| (only.kind, only.id) == (own.kind, own.id));
        let same = matches!(edit, Edit::Put { entity, .. } if edit::find(&snapshot.site, own).as_ref() == Some(entity));
        wanted && !own.kind.is_evidence() && !same
    });
    if edits.is_empty() {
        return Err(Problem::refused("It is as it was then: there is nothing to put back."));
    }
    Ok(Json(saved(&houses.edit(house, &super::who(&headers), &edits).await?)))
}
