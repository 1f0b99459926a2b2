//! A page in another room: each key finds there what it is here.

use super::offer::{Proposed, every_offer, tap};
use crate::id::{PageId, RoomId};
use crate::model::{Does, Role, Site, Surface, SurfaceKey, SurfacePage};
use uuid::Uuid;

/// A page for another room, and the keys for which there is nothing there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Copied {
    /// The page; it goes behind the others.
    pub page: SurfacePage,
    /// Labels of keys that were left out, and why.
    pub left_out: Vec<String>,
}

/// What something is, whichever room it is in.
fn alike(site: &Site, a: &Role, b: &Role) -> bool {
    let device = |id| site.profile_of(id).map(|profile| profile.kind);
    match (a, b) {
        (Role::Activity { activity: a }, Role::Activity { activity: b }) => {
            site.activity(*a).map(|known| known.name.to_lowercase())
                == site.activity(*b).map(|known| known.name.to_lowercase())
        }
        (Role::Look { look: a }, Role::Look { look: b }) => {
            let name = |id| site.rooms.iter().find_map(|room| room.lighting.look(id)).map(|look| &look.name);
            name(*a) == name(*b)
        }
        (Role::Switch { switch: a }, Role::Switch { switch: b }) => {
            let name = |id| site.rooms.iter().find_map(|room| room.lighting.switch(id)).map(|switch| &switch.name);
            name(*a) == name(*b)
        }
        (Role::Moves { device: a, function: f }, Role::Moves { device: b, function: g }) => {
            device(*a) == device(*b) && site.function_name(*a, *f) == site.function_name(*b, *g)
        }
        (Role::Power { device: a }, Role::Power { device: b }) => device(*a) == device(*b),
        (a, b) => a == b,
    }
}

/// Copies a page to a surface of another room.
#[must_use]
pub fn page(site: &Site, page: &SurfacePage, to_room: RoomId, to: &Surface, fresh: &mut dyn FnMut() -> Uuid) -> Copied {
    // The activity there that is called the same, else the first one.
    let name = page.activity.and_then(|id| site.activity(id)).map(|activity| activity.name.to_lowercase());
    let own = || site.activities.iter().filter(|activity| activity.room == to_room);
    let activity = name.and_then(|name| own().find(|known| known.name.to_lowercase() == name).or_else(|| own().next()));
    let offers = every_offer(site, to_room, activity);
    let mut left_out = Vec::new();
    let mut keys = Vec::new();
    for key in &page.keys {
        let found: Option<&Proposed> =
            key.role.as_ref().and_then(|role| offers.iter().find(|offer| alike(site, role, &offer.role)));
        if key.role == Some(Role::Start)
            && let Some(first) = to.pages.first()
        {
            let bindings = vec![tap(Does::Page { page: first.id })];
            keys.push(SurfaceKey { id: fresh().into(), bindings, by_hand: true, ..key.clone() });
            continue;
        }
        match found {
            Some(offer) if key.column.saturating_add(key.wide) <= to.columns => keys.push(SurfaceKey {
                id: fresh().into(),
                role: Some(offer.role.clone()),
                bindings: offer.bindings.clone(),
                lit: offer.lit.clone(),
                sends: None,
                by_hand: true,
                ..key.clone()
            }),
            Some(_) => left_out.push(format!("{}: the grid there is narrower", key.label)),
            None if key.role.is_none() => left_out.push(format!("{}: made by hand for this room", key.label)),
            None => left_out.push(format!("{}: nothing like it there", key.label)),
        }
    }
    let mut name = page.name.clone();
    while to.pages.iter().any(|known| known.name == name) {
        name.push_str(", copied");
    }
    let activity =
        activity.map(|activity| activity.id).filter(|id| to.pages.iter().all(|page| page.activity != Some(*id)));
    Copied { page: SurfacePage { id: PageId(fresh()), name, activity, keys, without: vec![] }, left_out }
}
