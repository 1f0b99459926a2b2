//! The room in space: what a gateway reaches, the cheapest set of gateways, the picture as its seats see it.

use super::houses::put_all;
use super::proofs::room_of;
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem, Query};
use crate::views::SavedView;
use crate::work::{Asker, LONG, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::HeaderMap;
use kestrel_core::id::{DeviceId, HouseId, LookId, PlacedId, RoomId};
use kestrel_core::model::{Device, Entity, Profile, Site};
use kestrel_core::space::find::{self, CableLength};
use kestrel_core::space::gateways::{self, GatewaySet, Looking};
use kestrel_core::space::reach::{self, Field, Reach};
use kestrel_core::space::scene::Posture;
use kestrel_core::space::seats::{self, Asked, RoomPicture};
use serde::{Deserialize, Serialize};
use std::time::{Duration, Instant};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// How long the cheapest set is looked for before the best so far is told with its bound.
const LOOKS: Duration = Duration::from_secs(20);

/// From where, and how the room stands.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ReachQuery {
    /// Which gateway.
    gateway: DeviceId,
    /// For which device the field is drawn: at its height, with its window; none without it.
    device: Option<DeviceId>,
    /// Are all screens of the room down?
    #[serde(default)]
    down: bool,
}

/// What a gateway reaches.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReachView {
    /// Devices with their margins.
    reach: Reach,
    /// The field on the plan.
    field: Option<Field>,
}

/// What an infrared gateway reaches in its room, with what margin and why not, and its field on the plan.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/reach", tag = "space",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), ReachQuery),
    responses((status = 200, body = ReachView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn room_reach(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<ReachQuery>,
) -> Result<Json<ReachView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let found = SOON.run(move || {
        let site = &snapshot.site;
        let posture = if query.down { Posture::all_down(site, room) } else { Posture::default() };
        let reach = reach::reach(site, room, query.gateway, &posture)?;
        let field = query.device.and_then(|device| reach::field(site, room, query.gateway, device, &posture));
        Some(ReachView { reach, field })
    });
    found.await?.map(Json).ok_or_else(|| {
        Problem::refused(
            "This gateway is not placed, or nothing is known of its emitter. Place it on the plan; its model says what it sends.",
        )
    })
}

/// For which rooms.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct GatewaysRequest {
    /// The whole house, instead of this room.
    #[serde(default)]
    whole_house: bool,
}

/// Models that can be bought: of the house and of the library, each once.
fn models(site: &Site) -> Vec<Profile> {
    let own = site.profiles.iter().cloned();
    let sold = |profile: &Profile| profile.optics.as_deref().is_some_and(|own| own.price.is_some());
    let mut all: Vec<Profile> = own.filter(sold).collect();
    for profile in kestrel_core::library::all() {
        let known = all.iter().any(|own| (&own.maker, &own.model) == (&profile.maker, &profile.model));
        if sold(profile) && !known {
            all.push(profile.clone());
        }
    }
    all
}

async fn cheapest(
    houses: &Houses,
    house: HouseId,
    room: RoomId,
    asked: GatewaysRequest,
) -> Result<(GatewaySet, Vec<Profile>), Problem> {
    let snapshot = room_of(houses, house, room).await?;
    // Whoever cancels, or closes the page, ends the search.
    let (_asker, waiting) = Asker::new();
    let looking = houses.looks((house, room));
    let found = LONG.run(move || {
        let site = &snapshot.site;
        let drawn = |id: &RoomId| site.room(*id).is_some_and(|own| own.floor.is_drawn());
        let rooms: Vec<RoomId> = if asked.whole_house {
            site.rooms.iter().map(|own| own.id).filter(drawn).collect()
        } else {
            [room].into_iter().filter(drawn).collect()
        };
        let models = models(site);
        let sold: Vec<&Profile> = models.iter().collect();
        let began = Instant::now();
        let found = gateways::set(site, &rooms, &sold, &mut |how_far| {
            looking.is_at(how_far);
            began.elapsed() < LOOKS && !waiting.is_gone()
        });
        (found, models)
    });
    found.await
}

/// How far the search for gateways is that somebody has begun from this room; none where none is under way.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/gateways/progress", tag = "space",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Option<Looking>), (status = 404, body = Problem))
)]
pub async fn gateways_progress(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Option<Looking>>, Problem> {
    room_of(&houses, house, room).await?;
    Ok(Json(houses.looking((house, room))))
}

/// The cheapest set of gateways that reaches every device that is placed, with its bound.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gateways", tag = "space",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = GatewaysRequest,
    responses((status = 200, body = GatewaySet), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn cheapest_gateways(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<GatewaysRequest>,
) -> Result<Json<GatewaySet>, Problem> {
    Ok(Json(cheapest(&houses, house, room, asked).await?.0))
}

/// Puts the cheapest set into the house: devices and their places, as one step that undo takes back. Gateways that are there
/// stay; which device is sent through which is chosen in Kit.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gateways/apply", tag = "space",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = GatewaysRequest,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn apply_gateways(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(asked): Body<GatewaysRequest>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let (found, models) = cheapest(&houses, house, room, asked).await?;
    if found.boxes.is_empty() {
        return Err(Problem::refused(
            "There is no set to put into the house: nothing is placed, or something is not reached.",
        ));
    }
    let site = &snapshot.site;
    let mut all = Vec::new();
    for profile in &models {
        let used = found.boxes.iter().any(|own| own.profile == profile.id);
        if used && site.profile(profile.id).is_none() {
            all.push(Entity::Profile(profile.clone()));
        }
    }
    let mut names: Vec<String> = site.devices.iter().map(|own| own.name.clone()).collect();
    for own in &found.boxes {
        let room_name = site.room(own.room).map_or("", |room| &room.name);
        let free = (1..).map(|n| if n == 1 { format!("{room_name} box") } else { format!("{room_name} box {n}") });
        let name = free.into_iter().find(|name| !names.contains(name)).unwrap_or_default();
        names.push(name.clone());
        let id = DeviceId(Uuid::now_v7());
        let position = site.devices.iter().map(|device| device.position + 1).max().unwrap_or(0);
        let device = Device { position, ..Device::new(id, own.room, own.profile, name) };
        all.push(Entity::Device(device));
        all.push(Entity::Placed(gateways::as_placed(own, PlacedId(Uuid::now_v7()), id)));
    }
    Ok(Json(put_all(&houses, house, &headers, &snapshot, all).await?))
}

/// How long the cables of a room are along its walls and its ceiling, where both ends are placed.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/cables", tag = "space",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Vec<CableLength>), (status = 404, body = Problem))
)]
pub async fn room_cables(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Vec<CableLength>>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    Ok(Json(find::cables(&snapshot.site, room)))
}

/// What is asked of the picture.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PictureQuery {
    /// How high its bottom edge should be above the floor, in mm; all the way down, if none.
    bottom_mm: Option<u32>,
    /// Which look lights the room; dark, if none.
    look: Option<LookId>,
    /// Is daylight let in?
    #[serde(default)]
    daylight: bool,
}

/// The pictures of a room as its seats see them: size, throw, light, sight lines, stop height.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/picture", tag = "space",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), PictureQuery),
    responses((status = 200, body = Vec<RoomPicture>), (status = 404, body = Problem))
)]
pub async fn room_picture(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<PictureQuery>,
) -> Result<Json<Vec<RoomPicture>>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let bottom = query.bottom_mm.map(|mm| f64::from(mm) / 1_000.0);
    let asked = Asked { bottom, look: query.look, daylight: query.daylight };
    Ok(Json(seats::pictures(&snapshot.site, room, asked)))
}
