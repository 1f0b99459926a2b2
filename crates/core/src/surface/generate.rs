//! The whole default layout of a surface, from the activities of its room and their devices.
//!
//! A function has one place on the grid, in every activity and every room: whoever has learned one page has learned
//! all of them. Rows that nothing in the house uses are left out. What has no place of its own (apps, favourites,
//! looks, what moves) follows below, in that order.
//!
//! Generated anew, a layout keeps what a hand has made: keys that were changed stay where and as they are, keys that
//! were taken away stay away, pages that were added stay.

use super::offer::{
    BEFORE, Proposed, activities, house_rest, light, moves, of_activity, offer, on, powers, room_off, stop_all,
    tell_apart, twist,
};
use super::place::{Grid, laid, used_rows};
use crate::codes::vocabulary::TERMS;
use crate::id::{ActivityId, FunctionId, PageId, RoomId};
use crate::model::{Activity, Binding, Does, Gesture, Held, LISTED, Role, Site, Surface, SurfaceKind, SurfacePage};
use std::collections::BTreeSet;
use uuid::Uuid;

/// A page before it has places.
struct Sketch {
    name: String,
    activity: Option<ActivityId>,
    offers: Vec<Proposed>,
}

/// The first page.
const START: &str = "Start";

/// What the first page was called before; a surface that is laid out anew is called as it is now.
const EARLIER: &str = "Activities";
const TROUBLE: &str = "If something is wrong";

fn page_role(name: &str) -> Role {
    Role::Page { name: name.to_owned() }
}

/// The pages of a surface of glass.
fn sketches(site: &Site, room: RoomId) -> Vec<Sketch> {
    let mut first = activities(site, room);
    first.extend([stop_all(), room_off()]);
    first.extend(light(site, room));
    first.extend(moves(site, room));
    first.extend(house_rest(site));
    tell_apart(&mut first);
    let mut pages = vec![Sketch { name: START.to_owned(), activity: None, offers: first }];
    for activity in site.activities.iter().filter(|activity| activity.room == room) {
        let back = offer(Role::Start, START, Does::Page { page: PageId(Uuid::nil()) }, None);
        let mut offers = vec![back, stop_all(), room_off()];
        if site.activities.iter().filter(|known| known.room == room).count() > 1 {
            offers.push(offer(Role::Before, BEFORE, Does::Before, None));
        }
        offers.extend(of_activity(site, activity));
        offers.extend(light(site, room));
        offers.extend(moves(site, room));
        tell_apart(&mut offers);
        pages.push(Sketch { name: activity.name.clone(), activity: Some(activity.id), offers });
    }
    let powers = powers(site, room);
    if !powers.is_empty() {
        let back = offer(Role::Start, START, Does::Page { page: PageId(Uuid::nil()) }, None);
        let mut offers = vec![back, stop_all(), room_off()];
        offers.extend(powers);
        pages.push(Sketch { name: TROUBLE.to_owned(), activity: None, offers });
        let to = offer(page_role(TROUBLE), TROUBLE, Does::Page { page: PageId(Uuid::nil()) }, None);
        pages[0].offers.push(to);
    }
    pages
}

/// What a key does in an activity.
type Meant = (ActivityId, Vec<Binding>);

/// One page for all activities: what has hard keys means something else in each of them.
fn one_for_all(site: &Site, room: RoomId, offers: &mut Vec<Proposed>) {
    let own: Vec<&Activity> = site.activities.iter().filter(|activity| activity.room == room).collect();
    let mut by_role: Vec<(Proposed, Vec<Meant>)> = Vec::new();
    for activity in &own {
        for offer in of_activity(site, activity) {
            let meant = (activity.id, offer.bindings.clone());
            match by_role.iter_mut().find(|(known, _)| known.role == offer.role) {
                Some((_, all)) => all.push(meant),
                None => by_role.push((offer, vec![meant])),
            }
        }
    }
    for (mut offer, meant) in by_role {
        let same = meant.len() == own.len() && meant.windows(2).all(|pair| pair[0].1 == pair[1].1);
        if !same {
            offer.bindings = meant
                .into_iter()
                .flat_map(|(activity, bindings)| {
                    bindings.into_iter().map(move |binding| Binding { in_activity: Some(activity), ..binding })
                })
                .collect();
        }
        offers.push(offer);
    }
}

/// Lays a surface out anew. What a hand has made stays.
#[must_use]
pub fn generate(site: &Site, room: RoomId, surface: &Surface, fresh: &mut dyn FnMut() -> Uuid) -> Surface {
    let mut made = surface.clone();
    if surface.kind.is_glass() {
        glass(site, room, surface, &mut made, fresh);
    } else {
        hard(site, room, surface, &mut made, fresh);
    }
    turn_pages(&mut made);
    made
}

fn glass(site: &Site, room: RoomId, old: &Surface, made: &mut Surface, fresh: &mut dyn FnMut() -> Uuid) {
    let rows = used_rows(site);
    let sketches = sketches(site, room);
    let mut pages = Vec::new();
    let mut known = BTreeSet::new();
    for sketch in &sketches {
        let same = |page: &&SurfacePage| match sketch.activity {
            Some(activity) => page.activity == Some(activity),
            // Before version 4 the first page was called otherwise.
            None => {
                page.activity.is_none() && (page.name == sketch.name || (sketch.name == START && page.name == EARLIER))
            }
        };
        let before = old.pages.iter().find(same);
        known.extend(before.map(|page| page.id));
        let id = before.map_or_else(|| PageId(fresh()), |page| page.id);
        // On the first page activities are what one looks for.
        let first = sketch.name == START;
        let grid = Grid { columns: old.columns, rows: &rows, last: None, top: u8::from(first) };
        let keys = laid(&grid, &sketch.offers, before, None, fresh);
        let without = before.map(|page| page.without.clone()).unwrap_or_default();
        pages.push(SurfacePage { id, name: sketch.name.clone(), activity: sketch.activity, keys, without });
    }
    // What a hand has added stays, behind the rest; pages of activities that are gone go.
    let extra = old.pages.iter().filter(|page| !known.contains(&page.id));
    let kept = extra.filter(|page| page.activity.is_none() && page.keys.iter().any(|key| key.by_hand));
    pages.extend(kept.cloned());
    made.pages = pages;
}

fn hard(site: &Site, room: RoomId, old: &Surface, made: &mut Surface, fresh: &mut dyn FnMut() -> Uuid) {
    // The keys of a remote with a display stand behind what the display lists.
    let before = old.pages.iter().find(|page| page.name != LISTED);
    let functions: Vec<(FunctionId, String)> = old
        .device
        .and_then(|device| site.profile_of(device))
        .map(|profile| profile.functions.iter().map(|function| (function.id, function.name.clone())).collect())
        .unwrap_or_default();
    let remote = matches!(old.kind, SurfaceKind::HandRemote | SurfaceKind::DisplayRemote);
    let mut offers = activities(site, room);
    if remote && functions.is_empty() {
        offers.extend([stop_all(), room_off()]);
        one_for_all(site, room, &mut offers);
        offers.extend(light(site, room));
        offers.extend(moves(site, room));
        tell_apart(&mut offers);
    } else if remote {
        offers.extend([room_off(), stop_all()]);
        one_for_all(site, room, &mut offers);
        offers.extend(light(site, room));
    } else {
        offers = few(site, room, old, functions.len());
    }
    let rows: Vec<u8> = if remote { used_rows(site) } else { vec![] };
    let keys = if functions.is_empty() {
        let top = if remote { 1 } else { 0 };
        let grid = Grid { columns: old.columns, rows: &rows, last: Some(old.rows), top };
        laid(&grid, &offers, before, None, fresh)
    } else {
        let pairs = on_hard_keys(site, &offers, &functions, remote);
        let grid = Grid { columns: old.columns, rows: &[], last: None, top: 0 };
        laid(&grid, &pairs.iter().map(|(offer, _)| offer.clone()).collect::<Vec<_>>(), before, Some(&pairs), fresh)
    };
    let id = before.map_or_else(|| PageId(fresh()), |page| page.id);
    let without = before.map(|page| page.without.clone()).unwrap_or_default();
    let name = before.map_or_else(|| "Keys".to_owned(), |page| page.name.clone());
    made.pages = vec![SurfacePage { id, name, activity: None, keys, without }];
    if old.kind == SurfaceKind::DisplayRemote {
        made.pages.insert(0, listed(site, room, old, fresh));
    }
}

/// What can be watched, as lines on the small display of a remote: activities, then the channels of their sources and
/// their favourites.
fn listed(site: &Site, room: RoomId, old: &Surface, fresh: &mut dyn FnMut() -> Uuid) -> SurfacePage {
    let before = old.pages.iter().find(|page| page.name == LISTED);
    let mut offers = activities(site, room);
    for activity in site.activities.iter().filter(|activity| activity.room == room) {
        for mut offer in of_activity(site, activity) {
            if matches!(offer.role, Role::App { .. } | Role::Favourite { .. })
                && offers.iter().all(|known| known.label != offer.label)
            {
                for binding in &mut offer.bindings {
                    binding.in_activity = Some(activity.id);
                }
                offers.push(offer);
            }
        }
    }
    let grid = Grid { columns: 1, rows: &[], last: None, top: 0 };
    let mut keys = laid(&grid, &offers, before, None, fresh);
    // A line is as wide as the display.
    keys.iter_mut().filter(|key| !key.by_hand).for_each(|key| key.wide = old.columns);
    let id = before.map_or_else(|| PageId(fresh()), |page| page.id);
    let without = before.map(|page| page.without.clone()).unwrap_or_default();
    SurfacePage { id, name: LISTED.to_owned(), activity: None, keys, without }
}

/// The few keys of a keypad, a fob or a controller. The last one is *Finish*; with a single key it is held for that.
fn few(site: &Site, room: RoomId, surface: &Surface, hard_keys: usize) -> Vec<Proposed> {
    let cells = usize::from(surface.columns) * usize::from(surface.rows);
    let many = if hard_keys > 0 { hard_keys } else { cells };
    let many = surface.kind.most_keys().map_or(many, |most| many.min(most));
    let mut wanted = if surface.kind == SurfaceKind::KeyFob { moves(site, room) } else { vec![] };
    wanted.extend(activities(site, room));
    wanted.extend(light(site, room));
    if surface.kind != SurfaceKind::KeyFob {
        wanted.extend(moves(site, room));
    }
    tell_apart(&mut wanted);
    let Some(first) = wanted.first().cloned() else { return vec![] };
    if many <= 1 {
        let mut only = first;
        only.bindings.push(on(Gesture::Hold, Does::RoomOff, Held::Once));
        return vec![only];
    }
    wanted.truncate(many - 1);
    wanted.push(room_off());
    wanted
}

/// The hard keys of a device, each with what its name says, or else what is next in line.
fn on_hard_keys(
    site: &Site,
    offers: &[Proposed],
    functions: &[(FunctionId, String)],
    by_name: bool,
) -> Vec<(Proposed, FunctionId)> {
    let mut left: Vec<&Proposed> = offers.iter().collect();
    let mut pairs: Vec<(Option<&Proposed>, FunctionId, &str)> = Vec::new();
    let mut twists = Vec::new();
    for (function, name) in functions {
        if let Some(turned) = twist(name).filter(|_| !by_name) {
            twists.push((turned, *function));
            continue;
        }
        let found = by_name.then(|| left.iter().position(|offer| means(site, &offer.role, name))).flatten();
        pairs.push((found.map(|at| left.remove(at)), *function, name));
    }
    let mut rest = left.into_iter();
    pairs
        .into_iter()
        .filter_map(|(found, function, name)| {
            let next = || if by_name { None } else { rest.next() };
            let offer = found.or_else(next)?;
            let label = if by_name { name.to_owned() } else { offer.label.clone() };
            Some((Proposed { label, ..offer.clone() }, function))
        })
        .chain(twists)
        .collect()
}

/// Does the name of a hard key say this role?
fn means(site: &Site, role: &Role, name: &str) -> bool {
    let lower = name.to_lowercase();
    match role {
        Role::Term { name: term } => {
            *term == name || TERMS.iter().any(|known| known.name == term && known.also.contains(&lower.as_str()))
        }
        Role::RoomOff => matches!(lower.as_str(), "finish" | "off" | "power off" | "all off"),
        Role::Activity { activity } => site.activity(*activity).is_some_and(|known| {
            known.name.to_lowercase() == lower
                || (lower == "see" && known.seen_on.is_some())
                || (lower == "hear" && known.seen_on.is_none() && known.heard_on.is_some())
        }),
        Role::Look { look } => site.rooms.iter().filter_map(|room| room.lighting.look(*look)).any(|l| l.name == name),
        _ => false,
    }
}

/// Keys that turn a page point at it.
fn turn_pages(surface: &mut Surface) {
    let pages: Vec<(PageId, String)> = surface.pages.iter().map(|page| (page.id, page.name.clone())).collect();
    let Some((first, _)) = pages.first().cloned() else { return };
    for key in surface.pages.iter_mut().flat_map(|page| &mut page.keys) {
        let to = match &key.role {
            Some(Role::Start) => Some(first),
            Some(Role::Page { name }) => pages.iter().find(|(_, known)| known == name).map(|(id, _)| *id),
            _ => None,
        };
        for binding in &mut key.bindings {
            if let (Does::Page { page }, Some(to)) = (&mut binding.does, to) {
                *page = to;
            }
        }
    }
}
