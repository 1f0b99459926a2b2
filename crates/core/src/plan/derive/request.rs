//! What a plan is asked for, and what comes of it.

use super::PRODUCT_MAX;
use crate::device::group::Cut;
use crate::device::homing::{Homed, NoWord};
use crate::device::look::Seen;
use crate::device::{Group, Joint, Letter, Target, Timed, Window};
use crate::id::{DeviceId, RoomId};
use crate::model::{NoWay, Site, Situation};
use crate::plan::{Plan, Start};
use rustc_hash::FxHashMap;
use std::cell::{Cell, RefCell};
use std::collections::{BTreeMap, BTreeSet};

/// What a plan is asked for.
pub struct PlanRequest<'a> {
    /// The house.
    pub site: &'a Site,
    /// The room.
    pub room: RoomId,
    /// Where it starts, where that has a name: changes by hand go by it.
    pub from: Option<Situation>,
    /// Where it leads.
    pub to: Situation,
    /// The devices of the room in groups.
    pub groups: &'a [Group<'a>],
    /// What each group may be in.
    pub known: Vec<BTreeSet<Joint>>,
    /// For a plan that switches the house off: the rooms that are left alone.
    pub house_except: Option<&'a [RoomId]>,
    /// Sequences that were found before for the same groups.
    pub cache: Option<&'a HomeCache>,
    /// The state of each group that is handed over: of two parts of a belief as large as each other, the one with it
    /// is served.
    pub handed: Vec<Option<Joint>>,
    /// Sets of states that one search for keys may look at.
    pub nodes: usize,
    /// Is `known` all that a group may be in? Else it holds every pair of states of two members, which is enough to find
    /// sequences, and not to say that a whole group arrives.
    pub whole: bool,
}

/// What is asked for: a group by its first device, or a member of it; what is known, what is wanted, and how many sets may
/// be looked at.
pub(super) type Asked = ((DeviceId, Option<usize>), BTreeSet<Joint>, Vec<Target>, usize);

/// Why there is no sequence from all of what is known, the one for the largest part, and that part.
pub(super) type ShortOf = (NoWay, Option<Homed>, BTreeSet<Joint>);

/// Sequences of keys that were found for the groups of a room: many plans ask for the same ones.
#[derive(Debug, Default)]
pub struct HomeCache {
    pub(super) found: RefCell<FxHashMap<Asked, Result<Homed, NoWord>>>,
    /// The same where there is none, by what is handed over.
    pub(super) short: RefCell<FxHashMap<(Asked, Option<Joint>), ShortOf>>,
    /// States to which letters were sent, in all searches together.
    pub(crate) spent: Cell<usize>,
}

/// What is sent to one group, in order of time.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Script {
    /// The keys.
    pub steps: Vec<ScriptStep>,
    /// A look that comes first, and what is sent after each thing that can be seen.
    pub look: Option<LookScript>,
}

impl Script {
    /// Are the same keys sent at the same times? Which steps of a plan they are does not count.
    #[must_use]
    pub fn sends_as(&self, other: &Self) -> bool {
        let keys = |steps: &[ScriptStep]| -> Vec<(usize, Letter, Window)> {
            steps.iter().map(|step| (step.member, step.letter, step.after)).collect()
        };
        self.look == other.look && keys(&self.steps) == keys(&other.steps)
    }
}

/// A look at a device that is alone in its group.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LookScript {
    /// How long it takes at most, in ms.
    pub ms: u32,
    /// What can be seen and what is sent then.
    pub branches: Vec<(Seen, Vec<ScriptStep>)>,
}

/// One key of a script.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ScriptStep {
    /// To which member of the group.
    pub member: usize,
    /// What.
    pub letter: Letter,
    /// When it takes effect: the end of its send, in ms.
    pub at_ms: u32,
    /// How long after the key before (or the start), with every delay that the plan allows.
    pub after: Window,
    /// The step of the plan that completes it; none for a branch that the plan does not show.
    pub step: Option<usize>,
}

/// A plan and the scripts of its groups, in their order.
#[derive(Debug, Clone, PartialEq)]
pub struct Derived {
    /// The plan.
    pub plan: Plan,
    /// What each group is sent.
    pub scripts: Vec<Script>,
    /// Groups that no sequence brings home from all of what is known, each with the part that it was made for; an empty
    /// part where there is none.
    pub parts: BTreeMap<usize, BTreeSet<Joint>>,
    /// Groups whose states could not be counted: nothing was derived for them from what is known.
    pub cut: BTreeSet<usize>,
}

/// Every combination of the members' states that can be; devices that are not named may be in any state.
///
/// # Errors
/// Where there are too many: a part of them would say nothing.
pub fn joint(group: &Group<'_>, start: &Start) -> Result<BTreeSet<Joint>, Cut> {
    let mut all = vec![Joint::default()];
    for (device, machine) in &group.members {
        let states: Vec<Timed> = match start.get(device) {
            Some(known) => known.iter().copied().collect(),
            None => machine.states().into_iter().map(Timed::from).collect(),
        };
        if all.len().saturating_mul(states.len()) > PRODUCT_MAX {
            return Err(Cut);
        }
        let joined = |joint: &Joint| {
            let joint = joint.clone();
            states
                .iter()
                .map(move |&state| {
                    let mut next = joint.clone();
                    next.members.push(state);
                    next
                })
                .collect::<Vec<_>>()
        };
        all = all.iter().flat_map(joined).filter(|joint| group.is_consistent(joint)).collect();
    }
    Ok(all.into_iter().collect())
}
