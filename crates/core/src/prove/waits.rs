//! The waits that the verdicts of a room rest on, the one first that most of them wait for.

use super::rests::RestsOn;
use super::{Cell, Guarantee};
use crate::model::Basis;
use serde::Serialize;
use utoipa::ToSchema;

/// A wait, and how many verdicts of the room hang on it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct WaitOfRoom {
    /// The wait, in the first verdict that needs it.
    pub rest: RestsOn,
    /// Verdicts that need it.
    pub needed_by: u32,
    /// Those of them in which it is the only wait that is not known well enough.
    pub decides: u32,
}

/// The waits of some cells: those that are not known well enough first, by how many verdicts they decide, what nobody
/// measured before what a profile says, then by how many need them.
#[must_use]
pub fn waits(cells: &[(Cell, Vec<RestsOn>)]) -> Vec<WaitOfRoom> {
    let mut all: Vec<WaitOfRoom> = Vec::new();
    for (cell, rests) in cells {
        let open = rests.iter().filter(|rest| !rest.holds).count();
        for rest in rests {
            let decides = !rest.holds && open == 1 && cell.guarantee != Guarantee::AtRisk;
            let same = |known: &&mut WaitOfRoom| {
                (known.rest.device, known.rest.timing, &known.rest.what) == (rest.device, rest.timing, &rest.what)
            };
            match all.iter_mut().find(same) {
                Some(known) => {
                    known.needed_by += 1;
                    known.decides += u32::from(decides);
                }
                None => all.push(WaitOfRoom { rest: rest.clone(), needed_by: 1, decides: u32::from(decides) }),
            }
        }
    }
    all.sort_by_key(|wait| {
        let most = std::cmp::Reverse;
        let known = wait.rest.span.basis != Basis::Assumed;
        (wait.rest.holds, most(wait.decides), known, most(wait.needed_by), most(wait.rest.span.hi_ms))
    });
    all
}
