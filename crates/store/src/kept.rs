//! How a line of the history keeps what happened: what was added or removed whole, what was changed as the difference
//! both ways (RFC 6902), so that an ordinary edit is a few hundred bytes.
//!
//! A difference can only be taken back from the very state that it led to. That state is known by a checksum, so an undo
//! that would overwrite what somebody else has done since is told apart and refused.

use crate::StoreError;
use crc::{CRC_32_ISCSI, Crc};
use json_patch::Patch;
use kestrel_core::edit::Change;
use kestrel_core::model::{Entity, EntityKey, EntityKind, Site, find};
use kestrel_core::upgrade;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::BTreeSet;
use utoipa::ToSchema;
use uuid::Uuid;

const SUM: Crc<u32> = Crc::<u32>::new(&CRC_32_ISCSI);

/// What happened to one entity, as a line of the history keeps it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", tag = "was")]
pub(crate) enum Kept {
    Added { entity: Entity },
    Removed { entity: Entity },
    Changed { kind: EntityKind, id: Uuid, forth: Patch, back: Patch, before: u32, after: u32 },
}

/// What happened to an entity.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Fate {
    /// It is new.
    Added,
    /// It was changed.
    Changed,
    /// It is gone.
    Removed,
}

/// An entity that a line of the log is about.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = TouchedEntity)]
pub struct Touched {
    /// Its kind.
    pub kind: EntityKind,
    /// Its id; the id of its room, where there is one of it a room.
    pub id: Uuid,
    /// What happened to it.
    pub fate: Fate,
    /// The fields that differ, where it was changed.
    pub fields: Vec<String>,
}

fn sum(value: &Value) -> u32 {
    SUM.checksum(value.to_string().as_bytes())
}

fn value(entity: &Entity) -> Result<Value, StoreError> {
    Ok(serde_json::to_value(entity)?)
}

impl Kept {
    /// Keeps a change; nothing where nothing happened.
    pub(crate) fn of(change: &Change) -> Result<Option<Self>, StoreError> {
        Ok(match (&change.before, &change.after) {
            (None, None) => None,
            (None, Some(entity)) => Some(Self::Added { entity: entity.clone() }),
            (Some(entity), None) => Some(Self::Removed { entity: entity.clone() }),
            (Some(before), Some(after)) => {
                let EntityKey { kind, id } = after.key();
                let (before, after) = (value(before)?, value(after)?);
                Some(Self::Changed {
                    kind,
                    id,
                    forth: json_patch::diff(&before, &after),
                    back: json_patch::diff(&after, &before),
                    before: sum(&before),
                    after: sum(&after),
                })
            }
        })
    }

    pub(crate) fn key(&self) -> EntityKey {
        match self {
            Self::Added { entity } | Self::Removed { entity } => entity.key(),
            Self::Changed { kind, id, .. } => EntityKey { kind: *kind, id: *id },
        }
    }

    pub(crate) fn touched(&self) -> Touched {
        let EntityKey { kind, id } = self.key();
        let (fate, fields) = match self {
            Self::Added { .. } => (Fate::Added, vec![]),
            Self::Removed { .. } => (Fate::Removed, vec![]),
            Self::Changed { forth, .. } => {
                // Paths are those of an entity: /value/name/….
                let names = forth.0.iter().filter_map(|step| step.path().as_str().split('/').nth(2).map(str::to_owned));
                (Fate::Changed, names.collect::<BTreeSet<_>>().into_iter().collect())
            }
        };
        Touched { kind, id, fate, fields }
    }

    /// The change that makes this again (`forth`) or takes it back, on the site as it is; the key of what stands in the
    /// way, where that is no longer what this led to or began with.
    fn step(&self, site: &Site, forth: bool) -> Result<Result<Change, EntityKey>, StoreError> {
        let key = self.key();
        let now = find(site, key);
        let (expected, put) = match (self, forth) {
            (Self::Added { entity }, true) | (Self::Removed { entity }, false) => (None, Some(entity.clone())),
            (Self::Added { entity }, false) | (Self::Removed { entity }, true) => (Some(entity), None),
            (Self::Changed { forth: to, back, before, after, .. }, _) => {
                let (patch, expected) = if forth { (to, *before) } else { (back, *after) };
                let Some(now) = now else { return Ok(Err(key)) };
                let mut document = value(&now)?;
                if sum(&document) != expected {
                    return Ok(Err(key));
                }
                json_patch::patch(&mut document, patch).map_err(|error| StoreError::Unreadable(error.to_string()))?;
                return Ok(Ok(Change { before: Some(now), after: Some(serde_json::from_value(document)?) }));
            }
        };
        if now.as_ref() != expected {
            return Ok(Err(key));
        }
        Ok(Ok(Change { before: now, after: put }))
    }
}

/// The changes of a line of the history, in the form in which it was written.
pub(crate) fn read(changes: &Value, format: i32, site: &Site) -> Result<Vec<Kept>, StoreError> {
    if format >= 2 {
        return Ok(serde_json::from_value(changes.clone())?);
    }
    upgrade::changes(changes, site)?.iter().filter_map(|change| Kept::of(change).transpose()).collect()
}

/// Takes kept changes back, or makes them again, on a site; gives what that changed. The key of what stands in the way,
/// where something has been changed since.
pub(crate) fn again(site: &mut Site, kept: &[Kept], forth: bool) -> Result<Result<Vec<Change>, EntityKey>, StoreError> {
    let mut changes = Vec::with_capacity(kept.len());
    let in_order: Box<dyn Iterator<Item = &Kept>> =
        if forth { Box::new(kept.iter()) } else { Box::new(kept.iter().rev()) };
    for one in in_order {
        match one.step(site, forth)? {
            Ok(change) => {
                kestrel_core::edit::carry_out(site, std::slice::from_ref(&change));
                changes.push(change);
            }
            Err(key) => return Ok(Err(key)),
        }
    }
    Ok(Ok(changes))
}
