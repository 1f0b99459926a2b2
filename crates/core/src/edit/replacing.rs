//! A whole house in the place of another one.

use super::{Edit, find};
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

/// How much a house would change if it became another one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Difference {
    /// Things that would come.
    pub adds: usize,
    /// Things that would be other ones.
    pub changes: usize,
    /// Things that would go.
    pub removes: usize,
}

/// Counts what [`replacing`] would do.
#[must_use]
pub fn difference(known: &Site, wanted: &Site) -> Difference {
    let mut counted = Difference::default();
    for edit in replacing(known, &BTreeMap::new(), wanted) {
        match edit {
            Edit::Remove { .. } => counted.removes += 1,
            Edit::Put { entity, .. } => match find(known, entity.key()) {
                None => counted.adds += 1,
                Some(before) if before != entity => counted.changes += 1,
                Some(_) => {}
            },
        }
    }
    counted
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo;

    #[test]
    fn what_comes_goes_and_changes_is_counted() {
        let known = demo::marram_point();
        assert_eq!(difference(&known, &known), Difference::default());
        let mut wanted = known.clone();
        wanted.house.note = "Another".to_owned();
        let cable = wanted.connections[0];
        wanted.connections.retain(|own| own.id != cable.id);
        assert_eq!(difference(&known, &wanted), Difference { adds: 0, changes: 1, removes: 1 });
        assert_eq!(difference(&wanted, &known), Difference { adds: 1, changes: 1, removes: 0 });
    }
}
