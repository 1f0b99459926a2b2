//! Two states of a house, compared in sentences: today against a handover, or two handovers.

use crate::edit::{Change, describe};
use crate::model::{Entity, EntityKey, EntityKind, Site, entities};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// Something that is another one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = HouseDifference)]
pub struct HouseDifference {
    /// What kind of thing.
    pub kind: EntityKind,
    /// Which; none where only a number of them is told.
    pub id: Option<Uuid>,
    /// In a sentence.
    pub text: String,
}

/// Is it evidence, of which only the number is told?
fn evidence(kind: EntityKind) -> Option<&'static str> {
    match kind {
        EntityKind::Measurement => Some("reading"),
        EntityKind::Result => Some("test result"),
        _ => None,
    }
}

/// What differs from `before` to `after`.
#[must_use]
pub fn compare(before: &Site, after: &Site) -> Vec<HouseDifference> {
    let by_key = |site: &Site| -> BTreeMap<EntityKey, Entity> {
        entities(site).into_iter().map(|own| (own.key(), own)).collect()
    };
    let (then, now) = (by_key(before), by_key(after));
    let mut all = Vec::new();
    let mut counts: BTreeMap<EntityKind, [usize; 3]> = BTreeMap::new();
    let keys: std::collections::BTreeSet<&EntityKey> = then.keys().chain(now.keys()).collect();
    for key in keys {
        let (was, is) = (then.get(key), now.get(key));
        if was == is {
            continue;
        }
        if evidence(key.kind).is_some() {
            let at = match (was, is) {
                (None, _) => 0,
                (_, None) => 1,
                _ => 2,
            };
            counts.entry(key.kind).or_default()[at] += 1;
            continue;
        }
        let change = Change { before: was.cloned(), after: is.cloned() };
        // What is gone is named by the house in which it was.
        let site = if is.is_some() { after } else { before };
        let text = format!("{}.", describe(site, std::slice::from_ref(&change)));
        all.push(HouseDifference { kind: key.kind, id: Some(key.id), text });
    }
    for (kind, [added, removed, changed]) in counts {
        let what = evidence(kind).unwrap_or_default();
        for (count, did) in [(added, "new"), (changed, "changed"), (removed, "gone")] {
            if count > 0 {
                let many = if count == 1 { format!("1 {what} is") } else { format!("{count} {what}s are") };
                all.push(HouseDifference { kind, id: None, text: format!("{many} {did}.") });
            }
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};

    #[test]
    fn today_against_then_says_what_was_edited() {
        let before = demo::marram_point();
        assert_eq!(compare(&before, &before), []);
        let mut after = before.clone();
        let model = after.device(ids::projector()).unwrap().profile;
        after.profiles.find_mut(|own| own.id == model).unwrap().times.warm_up.hi_ms += 2_000;
        let found = compare(&before, &after);
        assert_eq!(found.len(), 1);
        assert!(found[0].text.contains("longest time 29.4 s → 31.4 s"), "{}", found[0].text);
        assert_eq!(found[0].id, Some(model.0));
        after.connections = before.connections.iter().skip(1).copied().collect();
        after.results = Default::default();
        let found = compare(&before, &after);
        assert!(found.iter().any(|own| own.text.starts_with("Removed the cable")), "{found:?}");
        assert!(found.iter().any(|own| own.text.contains("test results are gone") && own.id.is_none()), "{found:?}");
    }
}
