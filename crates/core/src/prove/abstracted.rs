//! A quick proof for coupled groups: one set of states a member instead of sets of joint states.
//!
//! What the members may be in together is forgotten, so that more courses of events are looked at than
//! can be. Where even these all end right, the script is certain; where they do not, nothing is said and
//! the joint states have to be looked at. The work grows with the sum of the members' states instead of
//! their product.

use crate::device::group::{CouplingAct, Group};
use crate::device::timed::{self, FOREVER_MS};
use crate::device::{Target, Timed, Window};
use crate::plan::ScriptStep;
use std::collections::{BTreeMap, BTreeSet};

type Sets = Vec<BTreeSet<Timed>>;

/// Do all courses of events end at the targets, whatever the members may be in together?
#[must_use]
pub fn all_arrive(group: &Group<'_>, starts: &[Vec<Timed>], steps: &[ScriptStep], targets: &[Target]) -> bool {
    let relevant =
        |(states, target): (&Vec<Timed>, &Target)| states.iter().map(|state| state.relevant(target)).collect();
    let mut sets: Sets = starts.iter().zip(targets).map(relevant).collect();
    let mut pending: BTreeMap<usize, Window> = BTreeMap::new();
    for step in steps {
        pass(group, &mut sets, &mut pending, step.after);
        let mut after = BTreeSet::new();
        for before in &sets[step.member] {
            for (next, _) in timed::press(group.machine(step.member), before, step.letter) {
                caused(group, step.member, before, &next, &mut pending);
                after.insert(next.relevant(&targets[step.member]));
            }
        }
        sets[step.member] = after;
    }
    for _ in 0..4 {
        pass(group, &mut sets, &mut pending, Window { lo_ms: FOREVER_MS, hi_ms: FOREVER_MS });
    }
    sets.iter().zip(targets).enumerate().all(|(member, (states, target))| {
        let settled = |state: &Timed| timed::elapse(group.machine(member), state, Window::exactly(FOREVER_MS));
        states.iter().flat_map(settled).all(|state| target.met_by(state.state))
    })
}

/// What a change of power sets on its way.
fn caused(group: &Group<'_>, member: usize, before: &Timed, after: &Timed, pending: &mut BTreeMap<usize, Window>) {
    if before.state.on == after.state.on {
        return;
    }
    for (at, link) in group.links.iter().enumerate() {
        if link.from == member && link.on == after.state.on {
            let known = pending.entry(at).or_insert(link.delay);
            known.lo_ms = known.lo_ms.min(link.delay.lo_ms);
            known.hi_ms = known.hi_ms.max(link.delay.hi_ms);
        }
    }
}

/// Time goes by; every event that may land does so, or does not.
fn pass(group: &Group<'_>, sets: &mut Sets, pending: &mut BTreeMap<usize, Window>, passed: Window) {
    let mut after: Sets = sets
        .iter()
        .enumerate()
        .map(|(member, states)| {
            states.iter().flat_map(|state| timed::elapse(group.machine(member), state, passed)).collect()
        })
        .collect();
    // An event may land at any moment of this time, and set off others.
    for _ in 0..group.members.len() + 1 {
        for (&at, left) in &pending.clone() {
            if left.lo_ms > passed.hi_ms {
                continue;
            }
            let link = group.links[at];
            let sources: Vec<Timed> = sets[link.to].union(&after[link.to]).copied().collect();
            for before in sources {
                for next in landed(group, link.to, &before, link.deed) {
                    caused(group, link.to, &before, &next, pending);
                    after[link.to].insert(Timed { busy: Window { lo_ms: 0, ..next.busy }, ..next });
                }
            }
        }
    }
    *sets = after;
    pending.retain(|_, left| {
        *left = left.after(passed);
        left.hi_ms > 0
    });
}

fn landed(group: &Group<'_>, member: usize, before: &Timed, deed: CouplingAct) -> Vec<Timed> {
    crate::device::group::deed_done(group.machine(member), before, deed)
}
