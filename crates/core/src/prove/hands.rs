//! Other hands: what does the next plan do after somebody pressed the device's own button?

use super::Analysis;
use super::story::story;
use crate::device::group::Group;
use crate::device::{Joint, Letter, Timed, timed, words};
use crate::id::DeviceId;
use crate::model::{AfterMains, Power, Profile, Selection, Situation};
use serde::Serialize;
use utoipa::ToSchema;

/// What a hand, a timer or the mains did.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Hand {
    /// To which device.
    pub device: DeviceId,
    /// What was done, in words.
    pub what: String,
    /// What the device was then.
    pub left: String,
    /// Does the next plan end right all the same?
    pub ends_right: bool,
    /// What goes wrong.
    pub story: Option<String>,
    /// The same as a hand of the rehearsal room, where it has one.
    pub rehearse: Option<crate::model::Hand>,
}

/// What can be done to one member of a group, and what that leaves.
pub(super) fn deeds(group: &Group<'_>, member: usize, joint: &Joint) -> Vec<(String, Joint)> {
    let machine = group.machine(member);
    let profile = machine.profile();
    let before = joint.members[member];
    let mut done: Vec<(String, Joint)> = Vec::new();
    let mut switched = |what: &str, on: bool| {
        let (state, effect) = machine.switch(before.state, on);
        if state.on != before.state.on {
            let after = timed::set_off(machine, &before, state, effect);
            done.push((what.to_owned(), group.changed(joint, member, after)));
        }
    };
    if !machine.never_off() && !matches!(profile.power, Power::Follows { .. }) {
        switched("its own power button was pressed", !before.state.on);
    }
    if profile.auto_standby.is_some() && before.state.on {
        switched("it switched itself off", false);
    }
    if !machine.never_off() {
        match profile.after_mains {
            AfterMains::Off => switched("the mains were cut and came back", false),
            AfterMains::On => switched("the mains were cut and came back", true),
            AfterMains::Last => {}
        }
    }
    done.extend(by_keys(group, member, joint));
    done
}

/// Its own input keys and its remote, and a hand on what moves.
fn by_keys(group: &Group<'_>, member: usize, joint: &Joint) -> Vec<(String, Joint)> {
    let machine = group.machine(member);
    let profile = machine.profile();
    let before = joint.members[member];
    let mut done: Vec<(String, Joint)> = Vec::new();
    let keys: Vec<Letter> = match profile.selection {
        Selection::Cycle { next, .. } => vec![Letter::Key(next)],
        Selection::Discrete => profile.inputs.iter().filter_map(|input| input.select).map(Letter::Key).collect(),
        Selection::Menu { .. } | Selection::None => vec![],
    };
    for key in keys {
        for (after, _) in timed::press(machine, &before, key) {
            if after.state != before.state {
                done.push(("its own input key was pressed".to_owned(), group.changed(joint, member, after)));
            }
        }
    }
    if let Selection::Menu { .. } = profile.selection
        && before.state.on
    {
        for input in 0..u8::try_from(profile.inputs.len()).unwrap_or(u8::MAX) {
            if input != before.state.input {
                let after = Timed::from(crate::device::State { input, cursor: None, ..before.state });
                done.push((
                    "its input was changed with its own remote".to_owned(),
                    group.changed(joint, member, after),
                ));
            }
        }
    }
    if let Some(motion) = profile.motion {
        for key in [motion.up, motion.down] {
            for (after, _) in timed::press(machine, &before, Letter::Key(key)) {
                if after.state != before.state {
                    done.push(("it was moved by hand".to_owned(), group.changed(joint, member, after)));
                }
            }
        }
    }
    done
}

/// What was done, as a hand of the rehearsal room.
fn in_the_room(profile: &Profile, device: DeviceId, what: &str, left: &Timed) -> Option<crate::model::Hand> {
    use crate::model::Hand as Room;
    match what {
        "its own power button was pressed" | "it switched itself off" => Some(Room::Power { device }),
        "its own input key was pressed" | "its input was changed with its own remote" => {
            let input = profile.inputs.get(usize::from(left.state.input))?.id;
            Some(Room::Input { device, input })
        }
        "it was moved by hand" => {
            let motion = profile.motion?;
            let down = left.state.position == crate::model::Standing::Down;
            Some(Room::Key { device, function: if down { motion.down } else { motion.up } })
        }
        _ => None,
    }
}

/// What every other hand does to the plan that leads from one situation to another.
#[must_use]
pub fn hands(analysis: &Analysis<'_>, from: Situation, to: Situation) -> Vec<Hand> {
    let ours = analysis.ours();
    let made = analysis.make(from, to, analysis.policy());
    let mut hands: Vec<Hand> = Vec::new();
    for (at, group) in ours.groups.iter().enumerate() {
        let targets = ours.targets(&made.derived.plan.goals, at);
        let Some(usual) = ours.nominal.get(&from).and_then(|sets| sets[at].iter().next()).cloned() else { continue };
        for member in 0..group.members.len() {
            for (what, left) in deeds(group, member, &usual) {
                let Ok(settled) = group.settled(&left) else { continue };
                let script = &made.derived.scripts[at];
                let failure = crate::plan::run::first_failure(group, settled.iter(), script, &targets).failure;
                let told = failure.as_ref().and_then(|start| {
                    story(ours.site, group, start, Some(&usual), script, &made.derived.plan, &targets)
                });
                let machine = group.machine(member);
                let state = settled.iter().next().unwrap_or(&left).members[member];
                let device = group.members[member].0;
                let hand = Hand {
                    device,
                    rehearse: in_the_room(machine.profile(), device, &what, &left.members[member]),
                    what,
                    left: words::state(machine.profile(), &state),
                    ends_right: failure.is_none(),
                    story: told.map(|story| story.end),
                };
                if !hands.contains(&hand) {
                    hands.push(hand);
                }
            }
        }
    }
    hands.sort_by_key(|hand| hand.ends_right);
    hands
}
