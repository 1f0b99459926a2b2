//! What would make a cell certain, each remedy solved again: guarantee, ready time, what it takes.

use super::{Analysis, Guarantee};
use crate::finding::Finding;
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::model::{
    Device, Entity, Feedback, Function, InRoom, Means, Override, Policy, Power, Press, Profile, RoomPlans, Selection,
    Sense, Site, Situation,
};
use crate::plan::couple;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// A remedy, solved.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Remedy {
    /// What is done.
    pub title: String,
    /// What it takes.
    pub takes: String,
    /// How far the cell can be relied on then; none where it has no plan even then.
    pub guarantee: Option<Guarantee>,
    /// Do all waits hold then?
    pub waits_hold: bool,
    /// The verdict in words.
    pub verdict: String,
    /// When it is ready then, in ms.
    pub ready_ms: Option<u32>,
    /// How much that is more or less than now, in ms.
    pub change_ms: Option<i64>,
    /// How many cells of the room are at risk then.
    pub at_risk: usize,
    /// The entities as they would be.
    pub changes: Vec<Entity>,
}

struct Idea {
    /// Does it make the room use its safe plans?
    safe: bool,
    title: String,
    takes: String,
    changes: Vec<Entity>,
}

/// The remedies for a cell, the best first.
#[must_use]
pub fn remedies(site: &Site, room: RoomId, from: Situation, to: Situation) -> Vec<Remedy> {
    let analysis = Analysis::of(site, room);
    let now = analysis.cell_plan(from, to);
    if now.cell.guarantee == Guarantee::Certain {
        return vec![];
    }
    let mut culprits: Vec<DeviceId> = now.cell.story.iter().map(|story| story.device).collect();
    culprits.extend(now.plan.findings.iter().filter_map(Finding::no_safe_way));
    culprits.extend(analysis.weak_spots(from, to));
    culprits.sort_unstable();
    culprits.dedup();
    let mut ideas = Vec::new();
    for &device in &culprits {
        ideas.extend(for_device(site, device));
    }
    let for_room = for_room(site, room, now.cell.guarantee);
    // Many a remedy makes a plan possible that is right from every state: then with the safe plans.
    if let Some(safe) = for_room.iter().find(|idea| idea.safe) {
        let both: Vec<Idea> = ideas
            .iter()
            .map(|idea| Idea {
                safe: true,
                title: format!("{}, and use the safe plans", idea.title),
                takes: idea.takes.clone(),
                changes: idea.changes.iter().chain(&safe.changes).cloned().collect(),
            })
            .collect();
        ideas.extend(both);
    }
    ideas.extend(for_room);
    let mut remedies: Vec<Remedy> =
        ideas.into_iter().map(|idea| solve(site, room, (from, to), now.cell.ready_ms, idea)).collect();
    // Only what helps is offered.
    remedies.retain(|remedy| {
        let better = remedy.guarantee.is_some_and(|guarantee| guarantee < now.cell.guarantee);
        better || (remedy.guarantee == Some(now.cell.guarantee) && remedy.waits_hold && !now.cell.waits_hold)
    });
    remedies.sort_by_key(|remedy| {
        (remedy.guarantee.unwrap_or(Guarantee::AtRisk), remedy.at_risk, !remedy.waits_hold, remedy.ready_ms)
    });
    remedies
}

fn solve(site: &Site, room: RoomId, (from, to): (Situation, Situation), now_ms: Option<u32>, idea: Idea) -> Remedy {
    let changed = with(site, &idea.changes);
    let matrix = Analysis::of(&changed, room).matrix();
    let at_risk = matrix.cells.iter().filter(|cell| cell.guarantee == Guarantee::AtRisk).count();
    let after = matrix.cells.into_iter().find(|cell| (cell.from, cell.to) == (from, to));
    Remedy {
        title: idea.title,
        takes: idea.takes,
        guarantee: after.as_ref().map(|after| after.guarantee),
        waits_hold: after.as_ref().is_some_and(|after| after.waits_hold),
        verdict: after.as_ref().map_or_else(String::new, |after| after.verdict.clone()),
        ready_ms: after.as_ref().and_then(|after| after.ready_ms),
        change_ms: after.as_ref().and_then(|after| Some(i64::from(after.ready_ms?) - i64::from(now_ms?))),
        at_risk,
        changes: idea.changes,
    }
}

/// The site with entities in their places, unchecked.
#[must_use]
pub fn with(site: &Site, changes: &[Entity]) -> Site {
    let mut site = site.clone();
    changes.iter().for_each(|change| site.put(change.clone()));
    site
}

/// The device with one field that differs from its model.
#[must_use]
pub fn differing(device: &Device, own: Override) -> Device {
    let mut device = device.clone();
    device.overrides.retain(|known| std::mem::discriminant(known) != std::mem::discriminant(&own));
    device.overrides.push(own);
    device
}

fn for_device(site: &Site, id: DeviceId) -> Vec<Idea> {
    let (Some(device), Some(profile)) = (site.device(id), site.profile_of(id)) else { return vec![] };
    let name = &device.name;
    let mut ideas = Vec::new();
    let own = |title: String, takes: String, field: Override| Idea {
        safe: false,
        title,
        takes,
        changes: vec![Entity::Device(differing(device, field))],
    };
    if profile.auto_standby.is_some() {
        ideas.push(own(
            format!("Switch the automatic standby of {name} off"),
            "A setting in its own menu. Some models come with it on again after an update.".to_owned(),
            Override::AutoStandby(None),
        ));
    }
    if let Power::Toggle { key } = profile.power {
        ideas.push(discrete(site, device, &profile));
        if let Some(wake) = wake_candidate(&profile, key) {
            let key_name = site.function_name(id, wake);
            ideas.push(own(
                format!("Use “{key_name}” of {name} as a wake key, if it wakes it"),
                format!("Press {key_name} while it is off: if it comes on, and never goes off by it, this holds."),
                Override::WakeKeys(vec![wake]),
            ));
        }
    }
    let knows = crate::device::look::look_ms(&profile).is_some();
    if !knows && !matches!(profile.power, Power::AlwaysOn | Power::Follows { .. }) {
        ideas.push(own(
            format!("Add a power sensor to {name}"),
            "A sensor on its mains cable that tells on from off, and a look of 2 s before each plan. Mains work is for a licensed electrician.".to_owned(),
            Override::Feedback(Feedback::Sensor { senses: Sense::PowerDraw, delay_ms: 2_000 }),
        ));
    }
    if !knows && profile.motion.is_some() {
        ideas.push(own(
            format!("Add a contact at the lower end of {name}"),
            "A contact at its bottom bar that tells down from not down.".to_owned(),
            Override::Feedback(Feedback::Sensor { senses: Sense::Contact, delay_ms: 500 }),
        ));
    }
    if matches!(profile.power, Power::Toggle { .. } | Power::Discrete { .. }) && profile.times.cool_down.hi_ms < 30_000
    {
        let on = differing(device, Override::Power(Power::AlwaysOn));
        ideas.push(Idea {
            safe: false,
            title: format!("Leave {name} always on"),
            takes: "Its draw day and night, its automatic standby off, and its power key off the surfaces.".to_owned(),
            changes: vec![Entity::Device(differing(&on, Override::AutoStandby(None)))],
        });
    }
    if profile.couples.is_some() {
        ideas.push(couplings_off(site, device));
    }
    ideas
}

/// A code of its own for on and for off.
fn discrete(site: &Site, device: &Device, profile: &Profile) -> Idea {
    let on = profile.function_for(Means::On).map(|function| function.id);
    let off = profile.function_for(Means::Off).map(|function| function.id);
    let mut changes = Vec::new();
    let mut missing = false;
    let (on, off) = match (on, off) {
        (Some(on), Some(off)) => (on, off),
        _ => {
            missing = true;
            let own = |salt: u128| FunctionId(Uuid::from_u128(profile.id.0.as_u128() ^ salt));
            let (on, off) = (own(0x6f6e), own(0x6f66_6600));
            let function = |id, name: &str| Function {
                id,
                name: name.to_owned(),
                means: Means::of_name(name),
                press: Press::default(),
                frames: None,
                answers_to: None,
                bounces: false,
            };
            if let Some(model) = site.model_of(device.id) {
                let mut model = model.clone();
                model.functions.retain(|known| known.id != on && known.id != off);
                model.functions.extend([function(on, "On (discrete)"), function(off, "Off (discrete)")]);
                changes.push(Entity::Profile(model));
            }
            (on, off)
        }
    };
    changes.push(Entity::Device(differing(device, Override::Power(Power::Discrete { on, off }))));
    let takes = if missing {
        "Codes that its remote does not have: many models know them all the same. Codes ▸ More ▸ Hidden functions tries them."
    } else {
        "Codes for them, where they are still missing."
    };
    Idea {
        safe: false,
        title: format!("Give {} a code for on and one for off", device.name),
        takes: takes.to_owned(),
        changes,
    }
}

/// A key that might wake a device: that of its inputs, or any digit.
fn wake_candidate(profile: &Profile, toggle: FunctionId) -> Option<FunctionId> {
    let selects = match profile.selection {
        Selection::Cycle { next, .. } => Some(next),
        Selection::Menu { open, .. } => Some(open),
        Selection::Discrete => profile.inputs.iter().find_map(|input| input.select),
        Selection::None => None,
    };
    let other = || profile.functions.iter().map(|function| function.id).find(|&id| id != toggle);
    selects.filter(|key| !profile.wake_keys.contains(key)).or_else(other)
}

/// Control over HDMI switched off on everything that this device shares it with.
fn couplings_off(site: &Site, device: &Device) -> Idea {
    let group: Vec<DeviceId> = couple::groups(site, device.room)
        .into_iter()
        .find(|group| group.place(device.id).is_some())
        .map(|group| group.members.iter().map(|(id, _)| *id).collect())
        .unwrap_or_default();
    let coupled = |id: &DeviceId| site.profile_of(*id).is_some_and(|profile| profile.couples.is_some());
    let devices: Vec<&Device> = group.iter().filter(|id| coupled(id)).filter_map(|id| site.device(*id)).collect();
    let names: Vec<&str> = devices.iter().map(|device| device.name.as_str()).collect();
    Idea {
        safe: false,
        title: "Switch control over HDMI off".to_owned(),
        takes: format!(
            "A setting in the menu of {}; then nothing switches anything behind our back.",
            names.join(", ")
        ),
        changes: devices.iter().map(|device| Entity::Device(differing(device, Override::Couples(None)))).collect(),
    }
}

fn for_room(site: &Site, room: RoomId, guarantee: Guarantee) -> Vec<Idea> {
    let Some(room) = site.room(room) else { return vec![] };
    let mut ideas = Vec::new();
    if room.plans.policy == Policy::Trusting {
        let changed = RoomPlans { policy: Policy::Safe, ..room.plans.clone() };
        ideas.push(Idea {
            safe: true,
            title: "Use the safe plans in this room".to_owned(),
            takes: "Longer plans: each is right from every state that a device can be in.".to_owned(),
            changes: vec![Entity::Plans(InRoom::new(room.id, changed))],
        });
    }
    if !room.plans.nobody_else && guarantee == Guarantee::IfNobodyElse {
        let changed = RoomPlans { nobody_else: true, ..room.plans.clone() };
        ideas.push(Idea {
            safe: false,
            title: "Make it a rule that nobody else touches the devices".to_owned(),
            takes: "The makers' remotes locked away, and the family's word.".to_owned(),
            changes: vec![Entity::Plans(InRoom::new(room.id, changed))],
        });
    }
    ideas
}

/// The two schools of control over HDMI, compared for a room.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Schools {
    /// Does anything in the room speak over HDMI?
    pub couples: bool,
    /// Left on and followed.
    pub on: School,
    /// Switched off everywhere.
    pub off: School,
    /// The devices with the couplings taken off.
    pub changes: Vec<Entity>,
}

/// What one school gives.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct School {
    /// Cells that are certain.
    pub certain: usize,
    /// Cells that are certain if nobody else touches the room.
    pub if_nobody_else: usize,
    /// Cells at risk.
    pub at_risk: usize,
    /// The longest time from off to an activity, in ms.
    pub slowest_ms: u32,
    /// Transmissions of all cells.
    pub sends: usize,
}

/// Compares the two schools.
#[must_use]
pub fn schools(site: &Site, room: RoomId) -> Schools {
    let coupled: Vec<Entity> = site
        .devices_in(room)
        .filter(|device| {
            let model = site.model_of(device.id).is_some_and(|model| model.couples.is_some());
            model || site.profile_of(device.id).is_some_and(|profile| profile.couples.is_some())
        })
        .map(|device| Entity::Device(differing(device, Override::Couples(None))))
        .collect();
    let off = with(site, &coupled);
    let followed: Vec<Entity> = site
        .devices_in(room)
        .filter(|device| site.model_of(device.id).is_some_and(|model| model.couples.is_some()))
        .map(|device| {
            let mut device = device.clone();
            device.overrides.retain(|field| !matches!(field, Override::Couples(None)));
            Entity::Device(device)
        })
        .collect();
    let on = with(site, &followed);
    Schools { couples: !coupled.is_empty(), on: school(&on, room), off: school(&off, room), changes: coupled }
}

fn school(site: &Site, room: RoomId) -> School {
    let matrix = Analysis::of(site, room).matrix();
    let count = |guarantee| matrix.cells.iter().filter(|cell| cell.guarantee == guarantee).count();
    School {
        certain: count(Guarantee::Certain),
        if_nobody_else: count(Guarantee::IfNobodyElse),
        at_risk: count(Guarantee::AtRisk),
        slowest_ms: matrix
            .cells
            .iter()
            .filter(|cell| cell.from == Situation::Off)
            .filter_map(|cell| cell.ready_ms)
            .max()
            .unwrap_or(0),
        sends: matrix.cells.iter().map(|cell| cell.sends).sum(),
    }
}
