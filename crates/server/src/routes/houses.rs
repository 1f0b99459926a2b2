//! Houses: reading, editing, history, live events.

use super::who;
use crate::chime;
use crate::houses::Houses;
use crate::problem::{Body, Large, Path, Problem, Query, Raw};
use crate::views::{HouseView, SavedView};
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use futures::{Stream, StreamExt};
use kestrel_core::edit::{Edit, Step};
use kestrel_core::id::{HouseId, PictureId};
use kestrel_core::model::{Entity, PICTURE_MAX, Picture};
use kestrel_store::{HouseSummary, LogEntry, Saved, Snapshot};
use serde::{Deserialize, Serialize};
use std::convert::Infallible;
use tokio_stream::wrappers::BroadcastStream;
use utoipa::{IntoParams, ToSchema};

/// Edits that are one step.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct Edits {
    /// In order; all of them are carried out, or none.
    pub edits: Vec<Edit>,
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
    Ok(Json(saved(&houses.edit(house, &who(&headers), &edits.edits).await?)))
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
    Ok(Json(saved(&houses.undo(house, &who(&headers)).await?)))
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
    Ok(Json(saved(&houses.redo(house, &who(&headers)).await?)))
}

pub(super) fn saved(saved: &Saved) -> SavedView {
    SavedView { title: saved.title.clone(), made: None, at: saved.at, again: saved.again, changed: saved.into() }
}

/// What a picture is called: its id is made from its bytes. Nothing is kept: it is saved together with what shows it.
#[utoipa::path(
    post, path = "/api/pictures", tag = "houses",
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 200, body = Picture), (status = 413, body = Problem), (status = 422, body = Problem))
)]
pub async fn name_picture(Raw(bytes): Raw) -> Result<Json<Picture>, Problem> {
    let picture = Picture::of(bytes.to_vec()).filter(|own| !own.is_sound() && own.bytes.len() <= PICTURE_MAX);
    let wrong = "A picture is a PNG, JPEG or WebP file of up to 60 kB. Make it smaller.";
    picture.map(Json).ok_or_else(|| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "picture", wrong))
}

/// A sound as it would be kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct NamedSound {
    /// The sound: WAV of one channel and 16 bit at 22.05 kHz.
    sound: Picture,
    /// How long it is, in ms.
    length_ms: u32,
    /// How loud it is, in LUFS (EBU R 128); none where it is too short to be measured.
    loudness: Option<f64>,
    /// Its highest sample, in dB of full scale.
    peak: f64,
}

/// Reads a WAV, FLAC or MP3 sound of 0.1 to 6 s, evens its level out and keeps it under the ceiling. Nothing is kept: it is
/// saved together with the cue that plays it.
#[utoipa::path(
    post, path = "/api/sounds", tag = "houses",
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 200, body = NamedSound), (status = 413, body = Problem), (status = 422, body = Problem))
)]
pub async fn name_sound(Large(bytes): Large<{ chime::FILE_MAX }>) -> Result<Json<NamedSound>, Problem> {
    let taken = tokio::task::spawn_blocking(move || chime::taken(&bytes)).await;
    let taken =
        taken.map_err(|_| Problem::refused("The sound could not be read. Save it again as WAV, and send that."))?;
    let chime = taken.map_err(|error| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "sound", error.to_string()))?;
    Ok(Json(NamedSound { sound: chime.sound, length_ms: chime.length_ms, loudness: chime.loudness, peak: chime.peak }))
}

/// A picture that keys show, or the sound of a chime.
#[utoipa::path(
    get, path = "/api/houses/{house}/pictures/{picture}", tag = "houses",
    params(("house" = HouseId, Path), ("picture" = PictureId, Path)),
    responses((status = 200, content_type = "image/*", body = String), (status = 404, body = Problem))
)]
pub async fn picture(
    State(houses): State<Houses>,
    Path((house, id)): Path<(HouseId, PictureId)>,
) -> Result<Response, Problem> {
    let snapshot = houses.snapshot(house).await?;
    shown(&snapshot, id)
}

/// The bytes of a picture; they never change.
pub(super) fn shown(snapshot: &Snapshot, id: PictureId) -> Result<Response, Problem> {
    let picture = snapshot.site.pictures.iter().find(|known| known.id == id);
    let picture = picture.ok_or_else(|| Problem::not_found("There is no such picture."))?;
    let headers = [
        (header::CONTENT_TYPE, picture.media_type.clone()),
        (header::CACHE_CONTROL, "private, max-age=31536000, immutable".to_owned()),
    ];
    Ok((headers, picture.bytes.clone()).into_response())
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

/// Steps that the core worked out as edits, each over the version that it was worked out from.
pub(super) fn edits(from: &Snapshot, steps: Vec<Step>) -> Vec<Edit> {
    let version = |key| from.versions.get(&key).copied();
    let edit = |step| match step {
        Step::Put(entity) => Edit::Put { base: version(entity.key()), entity: *entity },
        Step::Remove(key) => Edit::Remove { kind: key.kind, id: key.id, base: version(key).unwrap_or(0) },
    };
    steps.into_iter().map(edit).collect()
}

/// Puts entities that the server made as one step of the history, each over the version that they were made from.
pub(super) async fn put_all(
    houses: &Houses,
    house: HouseId,
    headers: &HeaderMap,
    from: &Snapshot,
    entities: Vec<Entity>,
) -> Result<SavedView, Problem> {
    let first = entities.first().map(Entity::key);
    let put = |entity: Entity| Edit::Put { base: from.versions.get(&entity.key()).copied(), entity };
    let edits: Vec<Edit> = entities.into_iter().map(put).collect();
    let done = houses.edit(house, &who(headers), &edits).await?;
    // A request that comes twice has made other ids this time: what is there is what the first one made.
    let made = if done.again {
        first.and_then(|first| done.touched.iter().find(|key| key.kind == first.kind))
    } else {
        first.as_ref()
    };
    Ok(SavedView { made: made.map(|key| key.id), ..saved(&done) })
}

/// Server-sent events: `edited` after every change of this house, with an [`Edited`](crate::views::Edited).
/// `missed` says that some were lost and the page should read the house again; `gone` that it was removed, or is another
/// one from now on.
#[utoipa::path(
    get, path = "/api/houses/{house}/events", tag = "houses", params(("house" = HouseId, Path)),
    responses((status = 200, content_type = "text/event-stream", body = String), (status = 404, body = Problem))
)]
pub async fn events(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Problem> {
    // Subscribed before the check, so that nothing falls between.
    let (edits, goers) = (houses.edits(), houses.goers());
    houses.store().revision(house).await?;
    // A browser drops an event without data.
    let gone = BroadcastStream::new(goers).filter_map(move |gone| {
        // Where some were lost, the page looks for itself.
        let own = gone.map_or(true, |gone| gone == house);
        std::future::ready(own.then(|| Ok(Event::default().event("gone").data("look again"))))
    });
    let edited = BroadcastStream::new(edits).filter_map(move |edited| {
        let event = match edited {
            Ok(edited) if edited.changed.house == house => Event::default().event("edited").json_data(&*edited).ok(),
            Ok(_) => None,
            Err(_) => Some(Event::default().event("missed").data("look again")),
        };
        std::future::ready(event.map(Ok))
    });
    let stream = futures::stream::select(edited, gone).take_until(houses.closing());
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}
