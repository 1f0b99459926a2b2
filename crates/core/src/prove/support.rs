//! What a plan proves of each device, whatever state it starts from: what the runtime may call *ready*
//! without having seen it.

use super::ours::Product;
use super::run;
use crate::device::{Joint, Target, Timed, timed};
use crate::id::{DeviceId, RoomId};
use crate::model::Site;
use crate::plan::abstracted;
use crate::plan::{Derived, couple, goal};
use std::collections::BTreeSet;

/// More start states of one group than this are not gone through while somebody waits.
const STARTS_MAX: usize = 60_000;

/// The devices that end as the plan wants them from every state that they can be in, with no help of what was
/// believed.
#[must_use]
pub fn supported(site: &Site, room: RoomId, derived: &Derived) -> BTreeSet<DeviceId> {
    let groups = couple::groups(site, room);
    let interests = goal::interests(site, room);
    let mut supported = BTreeSet::new();
    for (group, script) in groups.iter().zip(&derived.scripts) {
        let targets: Vec<Target> = group
            .members
            .iter()
            .map(|(device, machine)| {
                let goal = derived.plan.goals.iter().find(|goal| goal.device == *device);
                goal.map(|goal| goal.target(machine.profile())).unwrap_or_default()
            })
            .collect();
        let lists: Vec<Vec<Timed>> = group
            .members
            .iter()
            .map(|(device, machine)| timed::anything(machine, &interests.get(device).copied().unwrap_or_default()))
            .collect();
        let quick = || script.look.is_none() && abstracted::all_arrive(group, &lists, &script.steps, &targets);
        let whole = || {
            let starts: Vec<Joint> = Product::new(group, &lists).take(STARTS_MAX + 1).collect();
            starts.len() <= STARTS_MAX && run::all_arrive(group, starts.iter(), script, &targets)
        };
        if quick() || whole() {
            supported.extend(group.members.iter().map(|(device, _)| *device));
        }
    }
    supported
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::model::Situation;
    use crate::plan::derived_from;

    /// The display of the Watch Room has one power key for on and off: no plan proves anything about it. The
    /// sound bar has a key for each, so a plan made for whatever it may be in does.
    #[test]
    fn a_toggle_proves_nothing_and_discrete_codes_do() {
        let site = demo::with_disc();
        let room = ids::watch_room();
        let start = goal::start(&site, room, Situation::Unknown);
        let television = Situation::In { activity: ids::television() };
        let derived = derived_from(&site, room, &start, television);
        let supported = supported(&site, room, &derived);
        assert!(!supported.contains(&ids::watch_display()));
        let bar = site.devices.iter().find(|device| device.name == "Sound bar").unwrap().id;
        assert!(supported.contains(&bar), "{supported:?}");
    }
}
