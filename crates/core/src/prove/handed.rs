//! Where an evening starts: how a room stands where a situation is current, and what may be believed of it.

use super::Analysis;
use crate::device::Timed;
use crate::id::RoomId;
use crate::model::{Policy, Site, Situation, Stand};
use crate::plan::{Start, goal};
use std::collections::BTreeSet;

/// A room in which a situation is current.
#[derive(Debug, Clone, Default)]
pub struct Handed {
    /// How its devices stand.
    pub stands: Vec<Stand>,
    /// What may be believed of them.
    pub known: Start,
}

impl Analysis<'_> {
    /// The room where `from` is current, as the proof sees it. A device that has a sequence from every state that
    /// our plans can leave is believed to be in any of them; another is as it was handed over.
    #[must_use]
    pub fn handed(&self, from: Situation) -> Handed {
        let ours = self.ours();
        let nominal = ours.nominal.get(&from).cloned().unwrap_or_default();
        let mut known = self.ours_in(from, false);
        for &to in ours.situations.iter().filter(|&&to| to != from) {
            for group in self.cold(from, to, Policy::Trusting).derived.parts.into_keys() {
                known[group] = nominal[group].iter().take(1).cloned().collect();
            }
        }
        let mut handed = Handed::default();
        for (group, (nominal, known)) in ours.groups.iter().zip(nominal.iter().zip(&known)) {
            for (member, (device, machine)) in group.members.iter().enumerate() {
                if let Some(joint) = nominal.first() {
                    handed.stands.push(Stand::of(machine.profile(), *device, &joint.members[member]));
                }
                let states: BTreeSet<Timed> = known.iter().map(|joint| joint.members[member]).collect();
                handed.known.insert(*device, states);
            }
        }
        handed
    }
}

/// The room where `from` is current; see [`Analysis::handed`].
#[must_use]
pub fn handed(site: &Site, room: RoomId, from: Situation) -> Handed {
    if from == Situation::Unknown {
        return Handed { stands: vec![], known: goal::start(site, room, from) };
    }
    Analysis::of(site, room).handed(from)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::plan::derived_from;

    /// The display of the Watch Room only cycles its inputs: without knowing where it was left there is no plan.
    #[test]
    fn from_what_is_handed_over_every_activity_can_be_asked_for() {
        let site = demo::marram_point();
        for room in site.rooms.iter().map(|room| room.id) {
            let handed = handed(&site, room, Situation::Off);
            for activity in site.activities.iter().filter(|activity| activity.room == room) {
                let to = Situation::In { activity: activity.id };
                let plan = derived_from(&site, room, &handed.known, to).plan;
                let blind = derived_from(&site, room, &goal::start(&site, room, Situation::Off), to).plan;
                assert!(plan.runnable || !blind.runnable, "{}: {:?}", activity.name, plan.findings);
                if room == ids::watch_room() {
                    assert!(plan.runnable, "{}: {:?}", activity.name, plan.findings);
                }
            }
        }
    }

    #[test]
    fn what_stands_is_among_what_is_known() {
        let site = demo::with_disc();
        let film = Situation::In { activity: ids::feature_film() };
        for from in [Situation::Off, film] {
            let handed = handed(&site, ids::boat_hall(), from);
            assert!(handed.stands.len() > 8);
            for stand in &handed.stands {
                let timed = stand.timed(&site.profile_of(stand.device).unwrap());
                let known = &handed.known[&stand.device];
                assert!(known.iter().any(|known| known.state.on == timed.state.on), "{stand:?}");
            }
        }
    }
}
