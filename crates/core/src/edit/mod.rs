//! The one way in which a site changes.
//!
//! An [`Edit`] puts one entity in its place (new or changed) or removes one. [`apply`] checks it
//! against the whole site, carries it out, and returns every single [`Change`] that it caused, each
//! with the entity before and after: removing a device removes its cables and codes too, and undo is
//! nothing but the same changes with before and after exchanged ([`revert`]).

pub mod copy;
mod describe;
pub mod exchange;
mod replacing;
pub mod room;
#[cfg(test)]
mod tests;
pub mod valid;

use crate::model::parts;
pub use crate::model::{Entity, EntityKey, EntityKind, entities, find};
pub use describe::{describe, name};
pub use replacing::{Difference, difference, replacing};
pub use valid::EditError;
pub use valid::plans::{deed as valid_deed, faults as valid_faults};
pub(crate) use valid::{ACTIVITIES_MAX, ROOMS_MAX, ids_in, whole};

use crate::id::DeviceId;
use crate::model::{Code, Connection, Placed, Profile, Site};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// One edit, with the version of the entity that it was made from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "do")]
#[allow(clippy::large_enum_variant, reason = "a few at a time, never in a hot loop")]
pub enum Edit {
    /// Puts an entity in its place: a new one where `base` is absent, else a changed one.
    Put {
        /// The entity as it should be.
        entity: Entity,
        /// The version that was changed; absent for a new entity.
        base: Option<i64>,
    },
    /// Removes an entity and all that hangs on it.
    Remove {
        /// Its kind.
        kind: EntityKind,
        /// Its id.
        id: Uuid,
        /// The version that was seen.
        base: i64,
    },
}

/// A step of something that changes much at once.
#[derive(Debug, Clone, PartialEq)]
pub enum Step {
    /// This is put in its place.
    Put(Box<Entity>),
    /// This goes.
    Remove(EntityKey),
}

/// What happened to one entity.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Change {
    /// Before; absent where it is new.
    pub before: Option<Entity>,
    /// After; absent where it was removed.
    pub after: Option<Entity>,
}

impl Change {
    /// The name of the entity; `None` for a change of nothing.
    #[must_use]
    pub fn key(&self) -> Option<EntityKey> {
        self.after.as_ref().or(self.before.as_ref()).map(Entity::key)
    }

    /// The same change backwards.
    #[must_use]
    pub fn reversed(&self) -> Self {
        Self { before: self.after.clone(), after: self.before.clone() }
    }
}

/// Carries an edit out and returns what it changed, in an order in which every entity comes after
/// those that it refers to (and is removed before them). Versions are the caller's matter.
///
/// # Errors
/// An [`EditError`] with a sentence; the site is then unchanged.
pub fn apply(site: &mut Site, edit: &Edit) -> Result<Vec<Change>, EditError> {
    match edit {
        Edit::Put { entity, .. } => {
            let entity = valid::tidied(entity.clone());
            let before = find(site, entity.key());
            // An empty one is none: to put it is to remove what there was.
            let after = Some(entity).filter(|entity| !entity.is_empty());
            if before == after {
                return Ok(vec![]);
            }
            let mut changes = Vec::new();
            if let Some(entity) = &after {
                valid::put(site, entity)?;
                if let Entity::Profile(profile) = entity {
                    changes = orphans_of_profile(site, profile);
                }
                if let Entity::Device(device) = entity
                    && site.device(device.id).is_some_and(|known| known.room != device.room)
                {
                    changes = unplaced(site, device.id);
                }
            }
            if let (Some(Entity::Floor(floor)), None) = (&before, &after) {
                // Without a plan nothing of the room has a place.
                let here: Vec<DeviceId> =
                    site.devices.iter().filter(|own| own.room == floor.room).map(|own| own.id).collect();
                changes = here.into_iter().flat_map(|device| unplaced(site, device)).collect();
            }
            changes.push(Change { before, after });
            carry_out(site, &changes);
            Ok(changes)
        }
        Edit::Remove { kind, id, .. } => {
            let entity = find(site, EntityKey { kind: *kind, id: *id }).ok_or(EditError::Gone)?;
            valid::remove(site, &entity)?;
            let mut changes = match &entity {
                Entity::Device(device) => {
                    let readings = site.measurements.iter().filter(|own| own.device == device.id).cloned();
                    let mut gone: Vec<Change> =
                        readings.map(|own| Change { before: Some(Entity::Measurement(own)), after: None }).collect();
                    gone.extend(unplaced(site, device.id));
                    gone.extend(hanging_on(
                        site,
                        |c| c.from_device == device.id || c.to_device == device.id,
                        |c| c.device == device.id,
                    ));
                    gone
                }
                Entity::Room(room) => {
                    let own = site.room(room.id).map(parts).unwrap_or_default();
                    let mut changes: Vec<Change> =
                        own.into_iter().rev().map(|part| Change { before: Some(part), after: None }).collect();
                    // What is missing is still missing, for the house.
                    changes.extend(site.orders.iter().filter(|own| own.room == Some(room.id)).map(|own| Change {
                        before: Some(Entity::Order(own.clone())),
                        after: Some(Entity::Order(crate::model::Order { room: None, ..own.clone() })),
                    }));
                    changes
                }
                _ => vec![],
            };
            changes.push(Change { before: Some(entity), after: None });
            carry_out(site, &changes);
            Ok(changes)
        }
    }
}

/// A device that goes leaves its place, and takes the leads that were stuck to its window.
fn unplaced(site: &Site, device: DeviceId) -> Vec<Change> {
    let touched = site.placed.iter().filter(|own| own.device == device || own.leads.contains(&device));
    let change = |own: &Placed| {
        let mut after = own.clone();
        after.leads.retain(|lead| *lead != device);
        let after = (own.device != device).then_some(Entity::Placed(after));
        Change { before: Some(Entity::Placed(own.clone())), after }
    };
    touched.map(change).collect()
}

/// Would this entity be accepted in a site that holds it, or everything that it refers to?
///
/// # Errors
/// An [`EditError`] with a sentence.
pub fn validate(site: &Site, entity: &Entity) -> Result<(), EditError> {
    valid::put(site, entity)
}

/// Takes changes back, in reverse order.
pub fn revert(site: &mut Site, changes: &[Change]) -> Vec<Change> {
    let reversed: Vec<Change> = changes.iter().rev().map(Change::reversed).collect();
    carry_out(site, &reversed);
    reversed
}

/// Carries changes out as they are.
pub fn carry_out(site: &mut Site, changes: &[Change]) {
    for change in changes {
        if let Some(key) = change.key() {
            match change.after.clone() {
                Some(entity) => site.put(entity),
                None => site.take(key),
            }
        }
    }
    site.sort();
}

/// Cables and codes that lose their input, output or function when a profile becomes `profile`.
fn orphans_of_profile(site: &Site, profile: &Profile) -> Vec<Change> {
    let of = |device| site.device(device).is_some_and(|d| d.profile == profile.id);
    hanging_on(
        site,
        |c| {
            (of(c.from_device) && !profile.outputs.iter().any(|o| o.id == c.from_output))
                || (of(c.to_device) && !profile.inputs.iter().any(|i| i.id == c.to_input))
        },
        |c| of(c.device) && profile.function(c.function).is_none(),
    )
}

fn hanging_on(site: &Site, cable: impl Fn(&Connection) -> bool, code: impl Fn(&Code) -> bool) -> Vec<Change> {
    let cables = site.connections.iter().filter(|c| cable(c)).copied().map(Entity::Connection);
    let codes = site.codes.iter().filter(|c| code(c)).cloned().map(Entity::Code);
    cables.chain(codes).map(|entity| Change { before: Some(entity), after: None }).collect()
}
