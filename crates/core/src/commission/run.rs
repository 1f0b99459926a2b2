//! The switches of a room as they are walked in the house.

use crate::id::RoomId;
use crate::model::{Site, Situation};
use crate::plan::Plan;
use crate::prove::Analysis;

/// One switch, with its plans.
#[derive(Debug, Clone, PartialEq)]
pub struct Run {
    /// Where it starts.
    pub from: Situation,
    /// Where it leads.
    pub to: Situation,
    /// The plan that is right whenever it is asked for.
    pub plan: Plan,
    /// When it is ready from a room that has settled, in ms; none where there is no plan that could be sent.
    pub ready_ms: Option<u32>,
    /// When it is ready right after the plan before, where that is later, in ms.
    pub hot_ms: Option<u32>,
}

impl Run {
    /// Until everything has settled, in ms.
    #[must_use]
    pub fn settled_ms(&self) -> u32 {
        self.plan.span_ms()
    }

    /// How long of that something is sent, in ms.
    #[must_use]
    pub fn sending_ms(&self) -> u32 {
        self.plan.steps.iter().map(|step| step.end_ms - step.start_ms).sum()
    }
}

/// Every switch of a room that has a plan, row by row.
#[must_use]
pub fn runs(site: &Site, room: RoomId) -> Vec<Run> {
    if !site.activities.iter().any(|activity| activity.room == room) {
        return vec![];
    }
    of(&Analysis::of(site, room))
}

/// The same of a room that is taken apart already.
#[must_use]
pub fn of(analysis: &Analysis<'_>) -> Vec<Run> {
    let situations = analysis.ours().situations.clone();
    let mut all = Vec::new();
    for &from in &situations {
        for &to in situations.iter().filter(|&&to| to != from) {
            let (plan, cold) = analysis.both_plans(from, to);
            let ready_ms = cold.ready_ms;
            let hot_ms = plan.ready_ms.filter(|&ms| ready_ms.is_none_or(|cold| ms > cold));
            all.push(Run { from, to, plan, ready_ms, hot_ms });
        }
    }
    all
}
