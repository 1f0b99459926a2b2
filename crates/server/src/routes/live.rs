//! A surface as it is used: on a phone, by a link that nobody can guess.

use crate::access;
use crate::houses::{Houses, Who};
use crate::problem::{Body, Path, Problem};
use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use futures::{Stream, StreamExt};
use kestrel_bench::Rehearsal;
use kestrel_bench::rehearsal::{DIM_MS, RehearsalError, RunEnd, RunStep, RunView, StepState};
use kestrel_core::edit::Edit;
use kestrel_core::id::{ActivityId, DeviceId, KeyId, LookId, PageId, PictureId, SurfaceId, ZoneId};
use kestrel_core::light::together;
use kestrel_core::model::{
    DeviceKind, Does, Entity, Gesture, Level, May, Programmer, RoomLight, Site, StoredLook, Surface,
};
use kestrel_core::surface::now::{self, KeyNow};
use kestrel_core::surface::plainly;
use kestrel_store::SurfaceLink;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::convert::Infallible;
use std::time::Duration;
use utoipa::ToSchema;

/// The least time between two events of one page.
const PAUSE: Duration = Duration::from_millis(80);

/// A zone of light, as a phone sees it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LiveZone {
    zone: ZoneId,
    name: String,
    /// In %.
    percent: f64,
}

/// A look, as a phone sees it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LiveLook {
    look: LookId,
    name: String,
}

/// Something that can be started in the room, with what it is drawn by.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LiveThing {
    activity: ActivityId,
    /// What it comes from; none where that is gone.
    source: Option<DeviceKind>,
    /// Is there a picture, or only sound?
    seen: bool,
}

/// How loud what is on says that it is.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LiveLoudness {
    /// In tenths of its own scale.
    tenths: u32,
    /// Is it silent?
    silent: bool,
}

/// What went wrong with the last start; it stays until somebody has seen it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LiveTrouble {
    /// Counts up.
    number: u64,
    /// In the words of the family.
    text: String,
}

/// A surface as it is opened.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LiveView {
    /// The room.
    room: String,
    /// The surface.
    surface: Surface,
    /// Levels that may be changed here; none where they may not.
    may: Option<May>,
    /// Looks that can be stored, where levels may be changed.
    looks: Vec<LiveLook>,
    /// What can be started here.
    things: Vec<LiveThing>,
    /// Whom to call where something is wrong; empty where the house does not say.
    programmer: Programmer,
    /// How it stands.
    now: LiveNow,
}

/// A surface at this moment.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LiveNow {
    /// Another number wherever the surface itself was changed: load it again.
    version: String,
    /// What the room is in, in words.
    status: String,
    /// The activity that it is in, or goes into.
    activity: Option<ActivityId>,
    /// How far a macro is, in %; none where none runs.
    done_percent: Option<u8>,
    /// What people should know; none where there is nothing.
    trouble: Option<LiveTrouble>,
    /// How loud it is; none where the device that sounds does not say.
    loudness: Option<LiveLoudness>,
    /// How bright all the light is together, in %.
    together_percent: f64,
    /// What the light is in; none where nothing is to be said of it.
    light: Option<String>,
    /// Is there anything here that moves, or is something being started? Then it can be stopped.
    stops: bool,
    /// Every key at this moment.
    keys: Vec<KeyNow>,
    /// The zones of the room, where levels may be changed.
    zones: Vec<LiveZone>,
}

pub(super) fn gone() -> Problem {
    Problem::new(
        StatusCode::GONE,
        "withdrawn",
        "This link does not work any more. Ask whoever set up the room for a new one.",
    )
}

/// The link of this token. Whoever only guesses waits.
async fn link_of(houses: &Houses, token: &str) -> Result<SurfaceLink, Problem> {
    match houses.store().link(token).await? {
        Some(link) => Ok(link),
        None => {
            access::guessed().await?;
            Err(gone())
        }
    }
}

pub(super) async fn opened(houses: &Houses, token: &str) -> Result<(SurfaceLink, Rehearsal), Problem> {
    let link = link_of(houses, token).await?;
    let rehearsal = houses.rehearsal(link.house, link.room).await?;
    Ok((link, rehearsal))
}

fn whole(rehearsal: &Rehearsal, link: &SurfaceLink) -> Option<LiveView> {
    let site = rehearsal.world().site();
    let room = site.room(link.room)?;
    let surface = room.surface(link.surface)?.clone();
    let looks = room.lighting.looks.iter().filter(|_| surface.may.is_some());
    let looks = looks.map(|look| LiveLook { look: look.id, name: look.name.clone() }).collect();
    let programmer = site.house.programmer.clone();
    let own = site.activities.iter().filter(|own| own.room == link.room);
    let things = own.map(|own| LiveThing {
        activity: own.id,
        source: site.profile_of(own.source).map(|profile| profile.kind),
        seen: own.seen_on.is_some(),
    });
    let things = things.collect();
    Some(LiveView {
        room: room.name.clone(),
        may: surface.may,
        looks,
        things,
        programmer,
        now: view(rehearsal, link)?,
        surface,
    })
}

/// What tells one version of a surface from another.
fn version(surface: &Surface) -> String {
    use std::hash::{DefaultHasher, Hash, Hasher};
    let mut hasher = DefaultHasher::new();
    serde_json::to_string(surface).unwrap_or_default().hash(&mut hasher);
    format!("{:016x}", hasher.finish())
}

fn view(rehearsal: &Rehearsal, link: &SurfaceLink) -> Option<LiveNow> {
    let site = rehearsal.world().site();
    let room = site.room(link.room)?;
    let surface = room.surface(link.surface)?;
    let known = rehearsal.known();
    let run = rehearsal.view_of_run();
    let goes = run.as_ref().filter(|run| run.end.is_none());
    let done_percent = goes.map(|run| {
        let waits = |step: &&RunStep| matches!(step.state, StepState::Waiting | StepState::Sending);
        let left = run.steps.iter().filter(waits).count();
        let percent = ((run.steps.len() - left) * 100).checked_div(run.steps.len());
        percent.and_then(|percent| u8::try_from(percent).ok()).unwrap_or(0)
    });
    let status = plainly::status(&site, &known, goes.map(|run| run.to));
    let trouble = run.as_ref().and_then(|run| trouble(&site, run));
    let loudness = now::sounds(&site, known.activity).and_then(|device| {
        let tenths = *known.loudness.get(&device)?;
        Some(LiveLoudness { tenths, silent: known.muted.contains(&device) })
    });
    let stops = goes.is_some() || site.devices_in(room.id).any(|device| site.moves(device.id));
    let together_percent = together::mean(&known.levels).round();
    let light = plainly::light(&site, room.id, &known);
    let keys = surface.pages.iter().flat_map(|page| now::page(&site, room.id, surface, page, &known)).collect();
    let zones = room.lighting.zones.iter().filter(|_| surface.may.is_some()).map(|zone| LiveZone {
        zone: zone.id,
        name: zone.name.clone(),
        percent: known.levels.get(&zone.id).copied().unwrap_or(0.0).round(),
    });
    let zones = zones.collect();
    let activity = known.activity;
    let version = version(surface);
    Some(LiveNow {
        version,
        status,
        activity,
        done_percent,
        trouble,
        loudness,
        together_percent,
        light,
        stops,
        keys,
        zones,
    })
}

/// What went wrong with a run, in the words of the family; none where nothing did.
fn trouble(site: &Site, run: &RunView) -> Option<LiveTrouble> {
    if !matches!(run.end, Some(RunEnd::Wrong | RunEnd::Failed)) {
        return None;
    }
    let failed = run.steps.iter().filter(|step| step.state == StepState::Failed);
    let deaf: Vec<DeviceId> = failed.map(|step| step.device).collect::<BTreeSet<_>>().into_iter().collect();
    Some(LiveTrouble { number: run.number, text: plainly::trouble(site, &deaf, &run.culprits) })
}

/// A surface as it is opened.
#[utoipa::path(
    get, path = "/api/live/{token}", tag = "live", params(("token" = String, Path)),
    responses((status = 200, body = LiveView), (status = 410, description = "The link was withdrawn.", body = Problem))
)]
pub async fn live(State(houses): State<Houses>, Path(token): Path<String>) -> Result<Json<LiveView>, Problem> {
    let (link, rehearsal) = opened(&houses, &token).await?;
    houses.store().link_used(&token).await?;
    whole(&rehearsal, &link).map(Json).ok_or_else(gone)
}

/// Server-sent events: `live` with a `LiveNow` whenever it changes. Ends when the link is withdrawn.
#[utoipa::path(
    get, path = "/api/live/{token}/events", tag = "live", params(("token" = String, Path)),
    responses((status = 200, content_type = "text/event-stream", body = String), (status = 410, body = Problem))
)]
pub async fn live_events(
    State(houses): State<Houses>,
    Path(token): Path<String>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Problem> {
    let withdrawn = houses.when_withdrawn(token.clone());
    let (link, rehearsal) = opened(&houses, &token).await?;
    let (held_by, surface) = (rehearsal.clone(), link.surface);
    let changes = rehearsal.changes();
    let views = futures::stream::unfold((rehearsal, changes, None), move |(rehearsal, mut changes, last)| {
        let link = link.clone();
        async move {
            loop {
                changes.borrow_and_update();
                let fresh = view(&rehearsal, &link)?;
                if last.as_ref() != Some(&fresh) {
                    return Some((fresh.clone(), (rehearsal, changes, Some(fresh))));
                }
                tokio::time::sleep(PAUSE).await;
                changes.changed().await.ok()?;
            }
        }
    });
    // A page that goes away, and a link that is withdrawn, let go of what was held.
    let held = Held { rehearsal: held_by, surface };
    let views = views.inspect(move |_| {
        let _ = &held;
    });
    let stream = views
        .filter_map(|view| std::future::ready(Event::default().event("live").json_data(view).ok().map(Ok)))
        .take_until(futures::future::select(Box::pin(withdrawn), Box::pin(houses.closing())));
    Ok(Sse::new(stream).keep_alive(KeepAlive::new().interval(Duration::from_secs(5))))
}

/// Lets go of the keys of a surface when its page goes away.
struct Held {
    rehearsal: Rehearsal,
    surface: SurfaceId,
}

impl Drop for Held {
    fn drop(&mut self) {
        self.rehearsal.release(self.surface);
    }
}

/// A key that is pressed.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PressKey {
    /// Which.
    key: KeyId,
    /// How. A hold that has a meaning ends with `release`.
    gesture: Gesture,
}

/// What came of a press.
#[derive(Debug, Serialize, ToSchema)]
pub struct PressedKey {
    /// The page to turn to.
    page: Option<PageId>,
}

/// Does the key stop everything?
fn stops(rehearsal: &Rehearsal, link: &SurfaceLink, request: &PressKey) -> bool {
    let site = rehearsal.world().site();
    let surface = site.room(link.room).and_then(|room| room.surface(link.surface));
    let mut keys = surface.into_iter().flat_map(|surface| surface.pages.iter().flat_map(|page| &page.keys));
    keys.find(|key| key.id == request.key)
        .is_some_and(|key| key.bindings.iter().any(|binding| binding.does == Does::StopAll))
}

/// Presses a key.
#[utoipa::path(
    post, path = "/api/live/{token}/press", tag = "live", params(("token" = String, Path)), request_body = PressKey,
    responses(
        (status = 200, body = PressedKey), (status = 410, body = Problem),
        (status = 422, description = "Nothing happened, and why.", body = Problem), (status = 429, body = Problem),
    )
)]
pub async fn live_press(
    State(houses): State<Houses>,
    Path(token): Path<String>,
    Body(request): Body<PressKey>,
) -> Result<Json<PressedKey>, Problem> {
    let (link, rehearsal) = opened(&houses, &token).await?;
    // A key that is let go, and one that stops, is never too fast.
    if request.gesture != Gesture::Release && !stops(&rehearsal, &link, &request) {
        access::press(&token)?;
    }
    let page = rehearsal.press_key(link.surface, request.key, request.gesture).await;
    let page = page.map_err(|error| plain(&rehearsal, &link, &error))?;
    Ok(Json(PressedKey { page }))
}

/// Why a press came to nothing, in the words of the family: whoever presses cannot mend a code or a gateway. The programmer
/// reads what could not be done in Rehearse.
pub(super) fn plain(rehearsal: &Rehearsal, link: &SurfaceLink, error: &RehearsalError) -> Problem {
    let why = error.to_string();
    match error {
        RehearsalError::Barred { plainly, .. } => Problem::refused(plainly.clone()),
        RehearsalError::Unsure(_) => {
            Problem::refused("Nobody can tell from here what is on, so this might go wrong. Press “Not right?”.")
        }
        _ => {
            tracing::warn!(room = %link.room, %why, "a press on a surface came to nothing");
            rehearsal.came_to_nothing(why);
            Problem::refused("This did not work: something is not set up for it yet, or does not answer.")
        }
    }
}

fn may(rehearsal: &Rehearsal, link: &SurfaceLink) -> Result<May, Problem> {
    let site = rehearsal.world().site();
    let surface = site.room(link.room).and_then(|room| room.surface(link.surface)).ok_or_else(gone)?;
    surface.may.ok_or_else(|| Problem::refused("Levels cannot be changed from here."))
}

/// A level that a finger sets.
#[derive(Debug, Deserialize, ToSchema)]
pub struct DimRequest {
    /// Of which zone; of all of them together, if none: each keeps its share then.
    zone: Option<ZoneId>,
    /// How bright, in %; together, the mean.
    percent: u8,
}

/// Dims a zone or all of them, within the limits.
#[utoipa::path(
    post, path = "/api/live/{token}/dim", tag = "live", params(("token" = String, Path)), request_body = DimRequest,
    responses((status = 204), (status = 410, body = Problem), (status = 422, body = Problem), (status = 429, body = Problem))
)]
pub async fn live_dim(
    State(houses): State<Houses>,
    Path(token): Path<String>,
    Body(request): Body<DimRequest>,
) -> Result<StatusCode, Problem> {
    let (link, rehearsal) = opened(&houses, &token).await?;
    access::press(&token)?;
    let may = may(&rehearsal, &link)?;
    let site = rehearsal.world().site();
    let lighting = &site.room(link.room).ok_or_else(gone)?.lighting;
    let levels = match request.zone {
        None => together::spread(&rehearsal.known().levels, request.percent, may),
        Some(zone) if lighting.zone(zone).is_some() => {
            vec![Level { zone, percent: together::within(f64::from(request.percent), may) }]
        }
        Some(_) => return Err(Problem::refused("That light is gone. Load the page again.")),
    };
    for level in levels {
        rehearsal.dim(level.zone, level.percent, DIM_MS);
    }
    Ok(StatusCode::NO_CONTENT)
}

/// A look that is stored as the light is now.
#[derive(Debug, Deserialize, ToSchema)]
pub struct StoreLook {
    /// Which.
    look: LookId,
}

/// Stores the light as it is now in a look, within the limits. It waits to be reviewed on the workbench.
#[utoipa::path(
    post, path = "/api/live/{token}/store", tag = "live", params(("token" = String, Path)), request_body = StoreLook,
    responses((status = 204), (status = 410, body = Problem), (status = 422, body = Problem), (status = 429, body = Problem))
)]
pub async fn live_store(
    State(houses): State<Houses>,
    Path(token): Path<String>,
    Body(request): Body<StoreLook>,
) -> Result<StatusCode, Problem> {
    let (link, rehearsal) = opened(&houses, &token).await?;
    access::store(&token)?;
    let may = may(&rehearsal, &link)?;
    let snapshot = houses.snapshot(link.house).await?;
    let room = snapshot.site.room(link.room).ok_or_else(gone)?;
    let mut light = RoomLight::of(room.id, &room.lighting);
    let known = rehearsal.known();
    let look = light.looks.iter_mut().find(|look| look.id == request.look);
    let look = look.ok_or_else(|| Problem::refused("That look is gone. Load the page again."))?;
    let level = |level: &Level| {
        let now = known.levels.get(&level.zone).copied().unwrap_or(f64::from(level.percent));
        Level { percent: together::within(now, may), ..*level }
    };
    let fresh: Vec<Level> = look.levels.iter().map(level).collect();
    let before = look.stored.take().map_or_else(|| look.levels.clone(), |stored| stored.before);
    look.levels = fresh;
    look.stored = Some(StoredLook { before, by: link.label.clone(), at: jiff::Timestamp::now() });
    let entity = Entity::Light(light);
    let base = snapshot.versions.get(&entity.key()).copied();
    let who = Who { name: format!("{} (surface)", link.label), client: true, ..Who::default() };
    houses.edit(link.house, &who, &[Edit::Put { entity, base }]).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// A picture that a key of the surface shows.
#[utoipa::path(
    get, path = "/api/live/{token}/pictures/{picture}", tag = "live",
    params(("token" = String, Path), ("picture" = PictureId, Path)),
    responses((status = 200, content_type = "image/*", body = String), (status = 404, body = Problem), (status = 410, body = Problem))
)]
pub async fn live_picture(
    State(houses): State<Houses>,
    Path((token, picture)): Path<(String, PictureId)>,
) -> Result<Response, Problem> {
    let link = link_of(&houses, &token).await?;
    super::houses::shown(&*houses.snapshot(link.house).await?, picture)
}

/// What a phone needs to put the surface on its home screen (W3C web application manifest).
#[utoipa::path(
    get, path = "/api/live/{token}/manifest.webmanifest", tag = "live", params(("token" = String, Path)),
    responses((status = 200, content_type = "application/manifest+json", body = String), (status = 410, body = Problem))
)]
pub async fn live_manifest(State(houses): State<Houses>, Path(token): Path<String>) -> Result<Response, Problem> {
    let link = link_of(&houses, &token).await?;
    let snapshot = houses.snapshot(link.house).await?;
    let room = snapshot.site.room(link.room).ok_or_else(gone)?;
    let surface = room.surface(link.surface).ok_or_else(gone)?;
    let manifest = serde_json::json!({
        "name": format!("{}: {}", room.name, surface.name),
        "short_name": room.name,
        "start_url": format!("/s/{token}"),
        "scope": format!("/s/{token}"),
        "display": "standalone",
        "background_color": "#0f1113",
        "theme_color": "#0f1113",
        "icons": [
            { "src": "/icon-192.png", "sizes": "192x192", "type": "image/png" },
            { "src": "/icon-512.png", "sizes": "512x512", "type": "image/png" },
        ],
    });
    Ok(([(header::CONTENT_TYPE, "application/manifest+json")], manifest.to_string()).into_response())
}
