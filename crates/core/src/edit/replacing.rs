//! A whole house in the place of another one.

use super::Edit;
use crate::model::{Entity, EntityKey, Site, entities};
use std::collections::{BTreeMap, BTreeSet};

/// The edits that turn one site into another, each over the version that `versions` says.
#[must_use]
pub fn replacing(known: &Site, versions: &BTreeMap<EntityKey, i64>, wanted: &Site) -> Vec<Edit> {
    let keys: BTreeSet<_> = entities(wanted).iter().map(Entity::key).collect();
    let mut edits: Vec<Edit> = entities(wanted)
        .into_iter()
        .map(|entity| Edit::Put { base: versions.get(&entity.key()).copied(), entity })
        .collect();
    let gone = entities(known).into_iter().rev().map(|entity| entity.key()).filter(|key| !keys.contains(key));
    edits.extend(gone.map(|key| Edit::Remove {
        kind: key.kind,
        id: key.id,
        base: versions.get(&key).copied().unwrap_or(0),
    }));
    edits
}
