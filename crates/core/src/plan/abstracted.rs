//! A quick proof for coupled groups: one set of states a member instead of sets of joint states.
//!
//! What the members may be in together is forgotten, so that more courses of events are looked at than
//! can be. Where even these all end right, the script is certain; where they do not, nothing is said and
//! the joint states have to be looked at. The work grows with the sum of the members' states instead of
//! their product.
//!
//! An event lands at any moment of the wait in which it can, and what it causes in the middle of a wait has only the
//! rest of that wait behind it.

use crate::device::group::{CouplingAct, Group, deed_done};
use crate::device::timed::{self, FOREVER_MS};
use crate::device::{Target, Timed, Window};
use crate::plan::ScriptStep;
use std::collections::{BTreeMap, BTreeSet};

type Sets = Vec<BTreeSet<Timed>>;

/// States of one member that are kept apart before it is given up.
const STATES: usize = 4_000;

/// Do all courses of events end at the targets, whatever the members may be in together and whatever couplings have on
/// their way?
#[must_use]
pub fn all_arrive(group: &Group<'_>, starts: &[Vec<Timed>], steps: &[ScriptStep], targets: &[Target]) -> bool {
    // What one key does to two devices, and what a screen hides, is a matter of joint states.
    if group.is_in_doubt() {
        return false;
    }
    let relevant =
        |(states, target): (&Vec<Timed>, &Target)| states.iter().map(|state| state.relevant(target)).collect();
    let mut sets: Sets = starts.iter().zip(targets).map(relevant).collect();
    let mut pending: BTreeMap<usize, Window> =
        group.links.iter().enumerate().map(|(at, link)| (at, link.delay.or_over())).collect();
    for step in steps {
        if !pass(group, &mut sets, &mut pending, step.after) {
            return false;
        }
        let mut after = BTreeSet::new();
        for before in &sets[step.member] {
            for (next, _) in timed::press(group.machine(step.member), before, step.letter) {
                for (at, delay) in caused(group, step.member, before, &next) {
                    add(&mut pending, at, delay);
                }
                after.insert(next.relevant(&targets[step.member]));
            }
        }
        sets[step.member] = after;
    }
    if !pass(group, &mut sets, &mut pending, Window { lo_ms: FOREVER_MS, hi_ms: FOREVER_MS }) {
        return false;
    }
    sets.iter().zip(targets).enumerate().all(|(member, (states, target))| {
        let settled = |state: &Timed| timed::elapse(group.machine(member), state, Window::exactly(FOREVER_MS));
        states.iter().flat_map(settled).all(|state| target.met_by(state.state))
    })
}

/// What a change of power sets on its way, and when it lands.
fn caused(group: &Group<'_>, member: usize, before: &Timed, after: &Timed) -> Vec<(usize, Window)> {
    if before.state.on == after.state.on {
        return vec![];
    }
    let sets_off =
        |(_, link): &(usize, &crate::device::group::CoupledBy)| link.from == member && link.on == after.state.on;
    group.links.iter().enumerate().filter(sets_off).map(|(at, link)| (at, link.delay)).collect()
}

/// One more event that may be on its way. Tells whether that is new.
fn add(pending: &mut BTreeMap<usize, Window>, at: usize, left: Window) -> bool {
    let before = pending.get(&at).copied();
    let after = before.map_or(left, |known| known.or(left));
    pending.insert(at, after);
    before != Some(after)
}

/// Time goes by; every event that may land does so, or does not. False where too much would have to be followed.
fn pass(group: &Group<'_>, sets: &mut Sets, pending: &mut BTreeMap<usize, Window>, passed: Window) -> bool {
    let elapsed = |member: usize, states: &BTreeSet<Timed>, passed: Window| -> BTreeSet<Timed> {
        states.iter().flat_map(|state| timed::elapse(group.machine(member), state, passed)).collect()
    };
    let ends = sets.iter().enumerate().map(|(member, states)| elapsed(member, states, passed)).collect::<Sets>();
    // What each member may be at any moment of this time.
    let any = Window { lo_ms: 0, hi_ms: passed.hi_ms };
    let mut meanwhile: Sets = sets.iter().enumerate().map(|(member, states)| elapsed(member, states, any)).collect();
    let mut landed: Sets = vec![BTreeSet::new(); sets.len()];
    // What is caused in the middle of the wait, and when it lands from then on.
    let mut within: BTreeMap<usize, Window> = BTreeMap::new();
    loop {
        let mut more = false;
        let lands = pending.iter().chain(&within).filter(|(_, left)| left.lo_ms <= passed.hi_ms);
        let lands: BTreeSet<usize> = lands.map(|(&at, _)| at).collect();
        for at in lands {
            let link = group.links[at];
            for before in meanwhile[link.to].clone() {
                for next in deed(group, link.to, &before, link.deed) {
                    for (caused, delay) in caused(group, link.to, &before, &next) {
                        more |= add(&mut within, caused, delay);
                    }
                    // It may have landed long before the end of the wait, or just then.
                    let next = next.any_time_later();
                    more |= landed[link.to].insert(next);
                    meanwhile[link.to].extend(elapsed(link.to, &BTreeSet::from([next]), any));
                }
            }
            if meanwhile[link.to].len() > STATES {
                return false;
            }
        }
        if !more {
            break;
        }
    }
    for (member, (end, landed)) in ends.into_iter().zip(landed).enumerate() {
        let mut all = end;
        all.extend(elapsed(member, &landed, Window { lo_ms: 0, hi_ms: 0 }));
        if passed.lo_ms >= FOREVER_MS {
            all = elapsed(member, &all, passed);
        }
        sets[member] = all;
    }
    if passed.lo_ms >= FOREVER_MS {
        // Everything that could land has landed.
        pending.clear();
        return true;
    }
    pending.retain(|_, left| {
        *left = left.after(passed);
        left.lasts()
    });
    for (at, delay) in within {
        add(pending, at, Window { lo_ms: delay.lo_ms.saturating_sub(passed.hi_ms), hi_ms: delay.hi_ms });
    }
    true
}

fn deed(group: &Group<'_>, member: usize, before: &Timed, deed: CouplingAct) -> Vec<Timed> {
    deed_done(group.machine(member), before, deed)
}
