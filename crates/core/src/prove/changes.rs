//! What a change of the house does to the switch matrix of a room.

use super::{Cell, Matrix};
use crate::model::{Site, Situation, situation_name};
use serde::Serialize;
use utoipa::ToSchema;

/// What is said of a cell, in short.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CellSaid {
    /// When it is ready, in ms; none where there is no plan that could be sent.
    pub ready_ms: Option<u32>,
    /// Transmissions.
    pub sends: usize,
    /// The verdict in words.
    pub verdict: String,
}

/// A cell of which something else is said than before.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CellChange {
    /// Where it starts.
    pub from: Situation,
    /// Where it leads.
    pub to: Situation,
    /// The same in words: “Off → Film”.
    pub way: String,
    /// Before; none where there was no such cell.
    pub before: Option<CellSaid>,
    /// After; none where there is no such cell any more.
    pub after: Option<CellSaid>,
}

fn said(cell: &Cell) -> CellSaid {
    let ready_ms = cell.ready_ms.filter(|_| cell.runnable);
    CellSaid { ready_ms, sends: cell.sends, verdict: cell.verdict.clone() }
}

/// The cells of which something else is said, in the order of the later matrix.
#[must_use]
pub fn changes(site: &Site, before: &Matrix, after: &Matrix) -> Vec<CellChange> {
    let of = |matrix: &Matrix, from, to| matrix.cells.iter().find(|cell| (cell.from, cell.to) == (from, to)).map(said);
    let ends = |matrix: &Matrix| matrix.cells.iter().map(|cell| (cell.from, cell.to)).collect::<Vec<_>>();
    let mut all = ends(after);
    all.extend(ends(before).into_iter().filter(|end| of(after, end.0, end.1).is_none()));
    let change = |(from, to)| {
        let way = format!("{} → {}", situation_name(site, from), situation_name(site, to));
        CellChange { from, to, way, before: of(before, from, to), after: of(after, from, to) }
    };
    all.into_iter().map(change).filter(|change| change.before != change.after).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::model::{Entity, Override, Span};
    use crate::prove::Analysis;

    #[test]
    fn cells_that_take_longer_are_told_and_the_others_are_not() {
        let site = demo::marram_point();
        let room = ids::tidy_cabin();
        let before = Analysis::of(&site, room).matrix();
        assert_eq!(changes(&site, &before, &before), vec![]);
        let mut slower = site.clone();
        let display = slower.devices_in(room).find(|own| own.name == "Tidy display").unwrap().id;
        let mut own = slower.device(display).unwrap().clone();
        own.overrides.push(Override::WarmUp(Span::profile(30_000, 31_000)));
        slower.put(Entity::Device(own));
        let after = Analysis::of(&slower, room).matrix();
        let found = changes(&slower, &before, &after);
        let watch = found.iter().find(|change| change.from == Situation::Off).unwrap();
        let (was, is) = (watch.before.as_ref().unwrap(), watch.after.as_ref().unwrap());
        assert_eq!(watch.way, "Off → Cartoons");
        assert!(is.ready_ms.unwrap() > was.ready_ms.unwrap() + 20_000, "{watch:?}");
    }

    #[test]
    fn a_cell_that_is_new_and_one_that_is_gone_are_changes() {
        let site = demo::marram_point();
        let room = ids::tidy_cabin();
        let before = Analysis::of(&site, room).matrix();
        let none = Matrix { cells: vec![], ..before.clone() };
        let gone = changes(&site, &before, &none);
        assert_eq!(gone.len(), before.cells.len());
        assert!(gone.iter().all(|change| change.before.is_some() && change.after.is_none()));
        assert!(changes(&site, &none, &before).iter().all(|change| change.before.is_none() && change.after.is_some()));
    }
}
