//! Where keys go: a function has one place on the grid, in every activity and every room.

use super::offer::{Proposed, of_activity};
use crate::id::FunctionId;
use crate::model::{Role, Site, SurfaceKey, SurfacePage};
use std::collections::BTreeSet;
use uuid::Uuid;

/// Where a function of the vocabulary stands: column and row of a grid of four columns. The four arrows stand around
/// OK with nothing between them, louder and softer one above the other with room for the figure, and what goes back or
/// into a menu below.
const PLACES: [(&str, u8, u8); 42] = [
    ("Up", 1, 1),
    ("Volume up", 3, 1),
    ("Left", 0, 2),
    ("OK", 1, 2),
    ("Right", 2, 2),
    ("Down", 1, 3),
    ("Volume down", 3, 3),
    ("Back", 0, 4),
    ("Home", 1, 4),
    ("Menu", 2, 4),
    ("Mute", 3, 4),
    ("Play", 0, 5),
    ("Pause", 1, 5),
    ("Stop", 2, 5),
    ("Play/pause", 3, 5),
    ("Rewind", 0, 6),
    ("Forward", 1, 6),
    ("Previous", 2, 6),
    ("Next", 3, 6),
    ("Guide", 0, 7),
    ("Last channel", 1, 7),
    ("Channel down", 2, 7),
    ("Channel up", 3, 7),
    ("Red", 0, 8),
    ("Green", 1, 8),
    ("Yellow", 2, 8),
    ("Blue", 3, 8),
    ("1", 0, 9),
    ("2", 1, 9),
    ("3", 2, 9),
    ("Voice", 3, 9),
    ("4", 0, 10),
    ("5", 1, 10),
    ("6", 2, 10),
    ("Subtitles", 3, 10),
    ("7", 0, 11),
    ("8", 1, 11),
    ("9", 2, 11),
    ("Audio track", 3, 11),
    ("0", 1, 12),
    ("Enter", 2, 12),
    ("Info", 3, 12),
];

/// Columns that places are made for.
const COLUMNS: u8 = 4;

fn place(role: &Role) -> Option<(u8, u8)> {
    match role {
        Role::Start => Some((0, 0)),
        Role::Before => Some((1, 0)),
        Role::StopAll => Some((2, 0)),
        Role::RoomOff => Some((3, 0)),
        Role::Term { name } => PLACES.iter().find(|(known, ..)| known == name).map(|&(_, column, row)| (column, row)),
        _ => None,
    }
}

/// Names are longer than one cell.
fn width(role: &Role) -> u8 {
    match role {
        Role::Start | Role::Before | Role::StopAll | Role::RoomOff => 1,
        Role::Jump { .. } => 1,
        Role::Term { name } if place(role).is_some() || name.chars().count() < 10 => 1,
        _ => 2,
    }
}

/// Rows of the grid that something in the house uses, so that a function stands in the same place in every room.
pub(super) fn used_rows(site: &Site) -> Vec<u8> {
    let mut rows: BTreeSet<u8> = BTreeSet::from([0]);
    for activity in &site.activities {
        rows.extend(of_activity(site, activity).iter().filter_map(|offer| place(&offer.role)).map(|(_, row)| row));
    }
    rows.into_iter().collect()
}

/// Where keys go.
pub(super) struct Grid<'a> {
    pub(super) columns: u8,
    /// Rows of places that are there; none where there are no places.
    pub(super) rows: &'a [u8],
    /// Rows in all, where there can be no more.
    pub(super) last: Option<u8>,
    /// Activities come first, below so many rows.
    pub(super) top: u8,
}

/// Keys in their places. What a hand has made stays; what does not fit on hard keys is left out.
pub(super) fn laid(
    grid: &Grid<'_>,
    offers: &[Proposed],
    before: Option<&SurfacePage>,
    sends: Option<&[(Proposed, FunctionId)]>,
    fresh: &mut dyn FnMut() -> Uuid,
) -> Vec<SurfaceKey> {
    let mut keys: Vec<SurfaceKey> =
        before.map(|page| page.keys.iter().filter(|key| key.by_hand).cloned().collect()).unwrap_or_default();
    let wanted: Vec<(usize, &Proposed)> =
        offers.iter().enumerate().filter(|(_, offer)| !unwanted(before, &offer.role)).collect();
    let heads = |offer: &Proposed| grid.top > 0 && matches!(offer.role, Role::Activity { .. });
    let lines = heads_rows(grid, wanted.iter().filter(|(_, offer)| heads(offer)).count());
    let fits = |key: &SurfaceKey, keys: &[SurfaceKey]| {
        key.column.saturating_add(key.wide) <= grid.columns
            && grid.last.is_none_or(|last| key.row < last)
            && !keys.iter().any(|known| known.covers(key))
    };
    let mut later = Vec::new();
    for (at, offer) in wanted {
        let mut key = offered(grid, offer, before, fresh);
        key.sends = sends.and_then(|pairs| pairs.get(at)).map(|(_, function)| *function);
        let own = place(&offer.role).filter(|_| grid.columns >= COLUMNS);
        let row = own.and_then(|(_, row)| grid.rows.iter().position(|known| *known == row));
        if let (Some((column, own_row)), Some(row)) = (own, row) {
            key.column = column;
            key.row = u8::try_from(row).unwrap_or(u8::MAX) + if own_row == 0 { 0 } else { lines };
            if fits(&key, &keys) {
                keys.push(key);
                continue;
            }
        }
        later.push((heads(offer), key));
    }
    let flow = if grid.rows.is_empty() {
        0
    } else {
        let used = keys.iter().filter(|key| !key.by_hand).map(|key| key.row + key.tall).max().unwrap_or(grid.top);
        used.max(grid.top + lines)
    };
    for (head, mut key) in later {
        let from = if head { grid.top } else { flow };
        let to = grid.last.unwrap_or(from.saturating_add(60));
        let free =
            (from..to).flat_map(|row| (0..grid.columns).map(move |column| (column, row))).find(|&(column, row)| {
                (key.column, key.row) = (column, row);
                fits(&key, &keys)
            });
        if let Some((column, row)) = free {
            (key.column, key.row) = (column, row);
            keys.push(key);
        }
    }
    keys.sort_by_key(|key| (key.row, key.column));
    keys
}

/// Was it taken away by hand, or made by hand already?
fn unwanted(before: Option<&SurfacePage>, role: &Role) -> bool {
    before.is_some_and(|page| {
        page.without.contains(role) || page.keys.iter().any(|key| key.by_hand && key.role.as_ref() == Some(role))
    })
}

/// The key of an offer, not yet in its place; one that stood on the page before keeps its id.
fn offered(
    grid: &Grid<'_>,
    offer: &Proposed,
    before: Option<&SurfacePage>,
    fresh: &mut dyn FnMut() -> Uuid,
) -> SurfaceKey {
    SurfaceKey {
        id: before
            .and_then(|page| page.keys.iter().find(|key| key.role.as_ref() == Some(&offer.role)))
            .map_or_else(|| fresh().into(), |key| key.id),
        role: Some(offer.role.clone()),
        label: offer.label.clone(),
        picture: None,
        column: 0,
        row: 0,
        wide: if grid.rows.is_empty() || grid.columns < COLUMNS { 1 } else { width(&offer.role) },
        tall: 1,
        bindings: offer.bindings.clone(),
        lit: offer.lit.clone(),
        sends: None,
        tint: None,
        by_hand: false,
    }
}

/// Rows that so many activities need.
fn heads_rows(grid: &Grid<'_>, many: usize) -> u8 {
    let side_by_side = usize::from((grid.columns / 2).max(1));
    u8::try_from(many.div_ceil(side_by_side)).unwrap_or(u8::MAX)
}
