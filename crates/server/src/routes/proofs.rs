//! The switch matrix, its cells, their remedies, and what is asked of them.

use super::plans::{bad, situation};
use crate::houses::{Houses, Proving, RoomKey, no_room};
use crate::problem::{Body, Path, Problem, Query};
use crate::work::{PROOF, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use kestrel_core::id::{ActivityId, DeviceId, HouseId, RoomId};
use kestrel_core::model::{Site, Situation};
use kestrel_core::plan;
use kestrel_core::plan::Plan;
use kestrel_core::plan::favourite::{FavouritePlan, favourites};
use kestrel_core::prove::diagnose::{Diagnosis, DisplaySeen, diagnose};
use kestrel_core::prove::explore::{Exploration, Explore, explore};
use kestrel_core::prove::hands::{Hand, hands};
use kestrel_core::prove::remedy::{Remedy, Schools, remedies, schools};
use kestrel_core::prove::{Analysis, CellPlan, Matrix};
use kestrel_store::Snapshot;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// A cell of the matrix.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct CellQuery {
    /// `off`, or the id of an activity.
    from: String,
    /// `off`, or the id of an activity.
    to: String,
}

impl CellQuery {
    pub(super) fn ends(&self, site: &Site, room: RoomId) -> Result<(Situation, Situation), Problem> {
        let (from, to) = (situation("from", &self.from)?, situation("to", &self.to)?);
        for (name, end) in [("from", from), ("to", to)] {
            let known = match end {
                Situation::Off => true,
                Situation::Unknown => false,
                Situation::In { activity } => site.activity(activity).is_some_and(|known| known.room == room),
            };
            if !known {
                return Err(bad(name, "expected off, or an activity of this room"));
            }
        }
        if from == to {
            return Err(bad("to", "the cell leads to where it starts; choose two different ones"));
        }
        Ok((from, to))
    }
}

/// The house, with a room that is there.
pub(super) async fn room_of(houses: &Houses, house: HouseId, room: RoomId) -> Result<Arc<Snapshot>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    snapshot.site.room(room).ok_or_else(no_room)?;
    Ok(snapshot)
}

/// The switch matrix of a room: every pair of situations with time, transmissions and verdict. Rooms that
/// were not touched since are not proved again.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/matrix", tag = "proofs",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses(
        (status = 200, body = Matrix), (status = 404, body = Problem),
        (status = 409, description = "It was cancelled.", body = Problem),
    )
)]
pub async fn matrix(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Arc<Matrix>>, Problem> {
    matrix_of(&houses, house, room).await.map(Json)
}

/// The proof of a room as it stands, worked out where it is not known.
pub(super) async fn matrix_of(houses: &Houses, house: HouseId, room: RoomId) -> Result<Arc<Matrix>, Problem> {
    let snapshot = room_of(houses, house, room).await?;
    if let Some(known) = houses.proof((house, room), &snapshot.site) {
        return Ok(known);
    }
    let proving = houses.proving((house, room), &snapshot.site);
    let asked = Asked { houses: houses.clone(), room: (house, room), proving };
    let proving = asked.proving.clone();
    let houses = houses.clone();
    let matrix = PROOF.run(move || {
        // Another page may have asked for the same, and have been first.
        houses.proof((house, room), &snapshot.site).or_else(|| {
            let matrix = Analysis::of(&snapshot.site, room).matrix_watched(|done, of| proving.goes_on(done, of))?;
            Some(houses.keep_proof((house, room), snapshot.site.clone(), matrix))
        })
    });
    matrix.await?.ok_or_else(|| {
        let detail = "The proof was cancelled. Ask again to have the matrix worked out.";
        Problem::new(StatusCode::CONFLICT, "cancelled", detail)
    })
}

/// A page that waits for a matrix; dropped with its request.
struct Asked {
    houses: Houses,
    room: RoomKey,
    proving: Arc<Proving>,
}

impl Drop for Asked {
    fn drop(&mut self) {
        self.houses.waits_no_more(self.room, &self.proving);
    }
}

/// How far a proof is.
#[derive(Debug, Serialize, ToSchema)]
pub struct ProvingView {
    /// Cells that are proved.
    done: usize,
    /// Of how many; 0 before it has begun.
    of: usize,
}

/// How far the proof of a room is; none where none is under way.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/matrix/progress", tag = "proofs",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Option<ProvingView>), (status = 404, body = Problem))
)]
pub async fn matrix_progress(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Option<ProvingView>>, Problem> {
    room_of(&houses, house, room).await?;
    let view = |proving: Arc<Proving>| {
        let (done, of) = proving.so_far();
        ProvingView { done, of }
    };
    Ok(Json(houses.under_proof((house, room)).map(view)))
}

/// Ends the proof of a room that is under way; whoever waits for it is told so.
#[utoipa::path(
    delete, path = "/api/houses/{house}/rooms/{room}/matrix/progress", tag = "proofs",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 204), (status = 404, body = Problem))
)]
pub async fn cancel_matrix(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<StatusCode, Problem> {
    room_of(&houses, house, room).await?;
    houses.cancel_proof((house, room));
    Ok(StatusCode::NO_CONTENT)
}

/// One cell: its plan, what it rests on, and how it can go wrong.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/cell", tag = "proofs",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), CellQuery),
    responses((status = 200, body = CellPlan), (status = 400, body = Problem), (status = 404, body = Problem))
)]
pub async fn cell(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<CellQuery>,
) -> Result<Json<CellPlan>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let (from, to) = query.ends(&snapshot.site, room)?;
    Ok(Json(PROOF.run(move || Analysis::of(&snapshot.site, room).cell_plan(from, to)).await?))
}

/// What would make a cell certain, each remedy solved again.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/remedies", tag = "proofs",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), CellQuery),
    responses((status = 200, body = Vec<Remedy>), (status = 400, body = Problem), (status = 404, body = Problem))
)]
pub async fn cell_remedies(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<CellQuery>,
) -> Result<Json<Vec<Remedy>>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let (from, to) = query.ends(&snapshot.site, room)?;
    Ok(Json(PROOF.run(move || remedies(&snapshot.site, room, from, to)).await?))
}

/// What other hands do to a cell: each device's own buttons, automatic standby, the mains.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/hands", tag = "proofs",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), CellQuery),
    responses((status = 200, body = Vec<Hand>), (status = 400, body = Problem), (status = 404, body = Problem))
)]
pub async fn other_hands(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<CellQuery>,
) -> Result<Json<Vec<Hand>>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let (from, to) = query.ends(&snapshot.site, room)?;
    Ok(Json(PROOF.run(move || hands(&Analysis::of(&snapshot.site, room), from, to)).await?))
}

/// Control over HDMI left on, or switched off: both proved.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/schools", tag = "proofs",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Schools), (status = 404, body = Problem))
)]
pub async fn two_schools(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Schools>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    Ok(Json(PROOF.run(move || schools(&snapshot.site, room)).await?))
}

/// What can have produced what was seen after a plan.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/diagnosis", tag = "proofs",
    params(("house" = HouseId, Path), ("room" = RoomId, Path), CellQuery), request_body = DisplaySeen,
    responses((status = 200, body = Diagnosis), (status = 400, body = Problem), (status = 404, body = Problem))
)]
pub async fn diagnosis(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Query(query): Query<CellQuery>,
    Body(seen): Body<DisplaySeen>,
) -> Result<Json<Diagnosis>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let (from, to) = query.ends(&snapshot.site, room)?;
    Ok(Json(PROOF.run(move || diagnose(&Analysis::of(&snapshot.site, room), from, to, &seen)).await?))
}

/// The favourites of an activity as the presses that they stand for.
#[utoipa::path(
    get, path = "/api/houses/{house}/activities/{activity}/favourites", tag = "plans",
    params(("house" = HouseId, Path), ("activity" = ActivityId, Path)),
    responses((status = 200, body = Vec<FavouritePlan>), (status = 404, body = Problem))
)]
pub async fn activity_favourites(
    State(houses): State<Houses>,
    Path((house, activity)): Path<(HouseId, ActivityId)>,
) -> Result<Json<Vec<FavouritePlan>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let known = snapshot
        .site
        .activity(activity)
        .ok_or_else(|| Problem::not_found("This activity is not there any more. Choose another one."))?;
    Ok(Json(favourites(&snapshot.site, known)))
}

/// Which rooms stay as they are.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Except {
    /// Ids of rooms, joined by commas; may be empty.
    #[serde(default)]
    except: String,
}

/// The plan that switches the whole house off, but the rooms excepted.
#[utoipa::path(
    get, path = "/api/houses/{house}/off", tag = "plans",
    params(("house" = HouseId, Path), Except),
    responses((status = 200, body = Plan), (status = 400, body = Problem), (status = 404, body = Problem))
)]
pub async fn house_off(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<Except>,
) -> Result<Json<Plan>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let ids = query.except.split(',').map(str::trim).filter(|id| !id.is_empty());
    let except: Vec<RoomId> = ids
        .map(|id| id.parse::<Uuid>().map(RoomId).map_err(|_| bad("except", "expected ids of rooms, joined by commas")))
        .collect::<Result<_, _>>()?;
    let plan = SOON.run(move || plan::house_off(&snapshot.site, &except)).await?;
    plan.map(Json).ok_or_else(|| bad("except", "every room is excepted; leave at least one to switch off"))
}

/// The machine of a device to play with: press keys on it and see what it may be in.
#[utoipa::path(
    post, path = "/api/houses/{house}/devices/{device}/explore", tag = "kit",
    params(("house" = HouseId, Path), ("device" = DeviceId, Path)), request_body = Explore,
    responses((status = 200, body = Exploration), (status = 404, body = Problem))
)]
pub async fn explore_device(
    State(houses): State<Houses>,
    Path((house, device)): Path<(HouseId, DeviceId)>,
    Body(asked): Body<Explore>,
) -> Result<Json<Exploration>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let explored = explore(&snapshot.site, device, &asked);
    explored.map(Json).ok_or_else(|| Problem::not_found("This device is not there any more. Choose another one."))
}
