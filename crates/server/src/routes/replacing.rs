//! Another model in the place of a device: what becomes of its keys and sockets, what it changes, and the step itself.

use super::houses::{edits, saved};
use crate::houses::{Houses, no_room};
use crate::problem::{Body, Path, Problem};
use crate::views::SavedView;
use crate::work::{Asker, PROOF, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use kestrel_core::edit::Step;
use kestrel_core::edit::exchange::{self, Chosen, Exchange, Mapped, MappedPart};
use kestrel_core::id::{DeviceId, HouseId, ProfileId, RoomId};
use kestrel_core::library;
use kestrel_core::model::{Cable, Profile, Site};
use kestrel_core::prove::Analysis;
use kestrel_core::prove::changes::{CellChange, changes};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::ToSchema;
use uuid::Uuid;

/// Which model takes the place of that of a device, and how.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct Replacing {
    /// A model of the house, or of the library.
    model: ProfileId,
    /// What was chosen by hand; everything else goes by name, by meaning and by what is plugged.
    #[serde(default)]
    chosen: Vec<Chosen>,
    /// Does the new model answer to the codes of the old one?
    #[serde(default)]
    codes_stay: bool,
}

/// A key or socket of the new model.
#[derive(Debug, Serialize, ToSchema)]
pub struct ModelPart {
    what: Mapped,
    id: Uuid,
    name: String,
    /// What plugs in; none for a key.
    cable: Option<Cable>,
}

/// What a replacement would do.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReplacingView {
    /// The new model.
    model: String,
    /// Each key and socket of the old model, and what becomes of it.
    parts: Vec<MappedPart>,
    /// Each key and socket of the new model.
    choices: Vec<ModelPart>,
    /// What is lost, in sentences.
    lost: Vec<String>,
    /// Why it cannot be done as it is, with what to change first; none where it can.
    refused: Option<String>,
}

/// What a replacement changes in the plans of a room.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoomChanges {
    room: RoomId,
    /// The cells of which something else is said.
    changes: Vec<CellChange>,
    /// Cells that stay as they are.
    unchanged: usize,
}

fn no_model() -> Problem {
    Problem::not_found("This model is neither in the house nor in the library. Choose another one.")
}

/// The model, and the exchange by its own ids.
fn worked_out(site: &Site, device: DeviceId, asked: &Replacing) -> Result<(Profile, Exchange), Problem> {
    let known = site.device(device).ok_or_else(|| {
        Problem::not_found("This device is not in the house any more. Undo its removal, or choose another one.")
    })?;
    let model = site.profile(asked.model).or_else(|| library::all().iter().find(|known| known.id == asked.model));
    let model = model.ok_or_else(no_model)?;
    if known.profile == model.id {
        let said = format!("{} is a {} {} already. Choose another model.", known.name, model.maker, model.model);
        return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "invalid", said));
    }
    let mapping = exchange::suggest(site, device, model).with(&asked.chosen, model);
    Ok((model.clone(), exchange::exchange(site, device, model, &mapping, asked.codes_stay, &mut Uuid::now_v7)))
}

/// The steps by which it is carried out: a model of the library becomes one of the house first.
fn steps(site: &Site, device: DeviceId, asked: &Replacing) -> Result<Vec<Step>, Problem> {
    let (model, done) = worked_out(site, device, asked)?;
    if site.profile(model.id).is_some() {
        return Ok(done.steps);
    }
    let mapping = exchange::suggest(site, device, &model).with(&asked.chosen, &model);
    let mut fresh = Uuid::now_v7;
    let (own, mapping) = exchange::adopted(&model, &mapping, &mut fresh);
    Ok(exchange::exchange(site, device, &own, &mapping, asked.codes_stay, &mut fresh).steps)
}

fn choices(model: &Profile) -> Vec<ModelPart> {
    let part = |what, id, name: &str, cable| ModelPart { what, id, name: name.to_owned(), cable };
    let inputs = model.inputs.iter().map(|own| part(Mapped::Input, own.id.0, &own.name, Some(own.cable)));
    let outputs = model.outputs.iter().map(|own| part(Mapped::Output, own.id.0, &own.name, Some(own.cable)));
    let keys = model.functions.iter().map(|own| part(Mapped::Key, own.id.0, &own.name, None));
    inputs.chain(outputs).chain(keys).collect()
}

/// What another model in the place of a device would do: what becomes of keys and sockets, and what is lost. Nothing is
/// changed.
#[utoipa::path(
    post, path = "/api/houses/{house}/devices/{device}/replacement/preview", tag = "kit",
    params(("house" = HouseId, Path), ("device" = DeviceId, Path)), request_body = Replacing,
    responses((status = 200, body = ReplacingView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn preview(
    State(houses): State<Houses>,
    Path((house, device)): Path<(HouseId, DeviceId)>,
    Body(asked): Body<Replacing>,
) -> Result<Json<ReplacingView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let view = SOON.run(move || {
        let (model, done) = worked_out(&snapshot.site, device, &asked)?;
        let steps = steps(&snapshot.site, device, &asked)?;
        Ok(ReplacingView {
            model: format!("{} {}", model.maker, model.model),
            parts: done.parts,
            choices: choices(&model),
            lost: done.lost,
            refused: exchange::after(&snapshot.site, &steps).err(),
        })
    });
    view.await?.map(Json)
}

/// What another model in the place of a device would change in plans and verdicts of the rooms that it serves. Nothing is
/// changed.
#[utoipa::path(
    post, path = "/api/houses/{house}/devices/{device}/replacement/effect", tag = "kit",
    params(("house" = HouseId, Path), ("device" = DeviceId, Path)), request_body = Replacing,
    responses((status = 200, body = Vec<RoomChanges>), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn effect(
    State(houses): State<Houses>,
    Path((house, device)): Path<(HouseId, DeviceId)>,
    Body(asked): Body<Replacing>,
) -> Result<Json<Vec<RoomChanges>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let steps = steps(&snapshot.site, device, &asked)?;
    let refused = |said| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "invalid", said);
    let after = exchange::after(&snapshot.site, &steps).map_err(refused)?;
    // Whoever closes the page takes the proof along.
    let (_asker, waiting) = Asker::new();
    let rooms = PROOF.run(move || {
        let rooms = snapshot.site.device(device).map(|own| own.rooms().to_vec()).unwrap_or_default();
        rooms
            .into_iter()
            .map(|room| {
                let known = houses.proof((house, room), &snapshot.site);
                let before = known.or_else(|| {
                    Analysis::of(&snapshot.site, room).matrix_watched(|_, _| !waiting.is_gone()).map(Arc::new)
                })?;
                let now = Analysis::of(&after, room).matrix_watched(|_, _| !waiting.is_gone())?;
                let changes = changes(&after, &before, &now);
                let unchanged = now.cells.len() - changes.iter().filter(|change| change.after.is_some()).count();
                Some(RoomChanges { room, changes, unchanged })
            })
            .collect::<Option<Vec<RoomChanges>>>()
    });
    rooms.await?.map(Json).ok_or_else(no_room)
}

/// Puts another model in the place of that of a device, as one step of the history. What runs in its rooms is stopped first.
#[utoipa::path(
    post, path = "/api/houses/{house}/devices/{device}/replacement", tag = "kit",
    params(("house" = HouseId, Path), ("device" = DeviceId, Path)), request_body = Replacing,
    responses(
        (status = 200, body = SavedView), (status = 404, body = Problem), (status = 409, body = Problem),
        (status = 422, body = Problem),
    )
)]
pub async fn replace(
    State(houses): State<Houses>,
    Path((house, device)): Path<(HouseId, DeviceId)>,
    headers: HeaderMap,
    Body(asked): Body<Replacing>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let steps = steps(&snapshot.site, device, &asked)?;
    let refused = |said| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "invalid", said);
    exchange::after(&snapshot.site, &steps).map_err(refused)?;
    for room in snapshot.site.device(device).map(|own| own.rooms().to_vec()).unwrap_or_default() {
        houses.stop_room((house, room)).await;
    }
    Ok(Json(saved(&houses.edit(house, &super::who(&headers), &edits(&snapshot, steps)).await?)))
}
