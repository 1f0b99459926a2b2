//! A device's machine to play with: its states, and what a key does in each of them.

use crate::device::timed::{self, Reaction};
use crate::device::{Automaton, Letter, Timed, Window, words};
use crate::id::{DeviceId, FunctionId};
use crate::model::Site;
use crate::plan::send_ms;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// One key, and how long is waited before it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct KeyPressed {
    /// Which key.
    pub function: FunctionId,
    /// The pause before it, in ms; 0–600 000.
    #[serde(default)]
    pub wait_ms: u32,
}

/// What is to be looked at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Explore {
    /// The state to start from, by its place in the list; none starts from all of them.
    pub start: Option<usize>,
    /// The keys in order, at most 40.
    #[serde(default)]
    pub keys: Vec<KeyPressed>,
}

/// What a key led to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Explored {
    /// Which key.
    pub function: FunctionId,
    /// Its name.
    pub name: String,
    /// What the device may have made of it.
    pub reactions: Vec<String>,
    /// What it may be in now.
    pub states: Vec<String>,
}

/// A key of the machine.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct MachineKey {
    /// Which.
    pub function: FunctionId,
    /// Its name.
    pub name: String,
    /// Its part.
    pub part: String,
}

/// The machine of a device, and what became of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Exploration {
    /// Every settled state.
    pub states: Vec<String>,
    /// Its keys.
    pub keys: Vec<MachineKey>,
    /// What each key led to.
    pub steps: Vec<Explored>,
    /// How long until nothing is under way, at the latest, in ms.
    pub settles_ms: u32,
    /// What it may be in once nothing is under way.
    pub ends: Vec<String>,
}

/// Presses keys on the machine of a device; `None` where the device is gone.
#[must_use]
pub fn explore(site: &Site, device: DeviceId, asked: &Explore) -> Option<Exploration> {
    let profile = site.profile_of(device)?;
    let machine = Automaton::new(&profile);
    let all: Vec<Timed> = machine.states().into_iter().map(|state| timed::settled(&machine, state)).collect();
    let say = |timed: &Timed| words::state(&profile, timed);
    let said = |set: &BTreeSet<Timed>| {
        let mut words: Vec<String> = set.iter().map(say).collect();
        words.sort();
        words.dedup();
        words
    };
    let mut set: BTreeSet<Timed> = match asked.start {
        Some(start) => all.get(start).copied().into_iter().collect(),
        None => all.iter().copied().collect(),
    };
    let mut steps = Vec::new();
    for pressed in asked.keys.iter().take(40) {
        let passed = pressed.wait_ms.min(600_000) + send_ms(site, device, pressed.function);
        let before: BTreeSet<Timed> =
            set.iter().flat_map(|timed| timed::elapse(&machine, timed, Window::exactly(passed))).collect();
        let mut reactions = Vec::new();
        let mut after = BTreeSet::new();
        for timed in &before {
            for (next, reaction) in timed::press(&machine, timed, Letter::Key(pressed.function)) {
                let what = match reaction {
                    Reaction::Missed => format!("not taken: {}", say(timed)),
                    Reaction::Halted => "its motor only stopped".to_owned(),
                    Reaction::Took if next.state == timed.state => "changed nothing".to_owned(),
                    Reaction::Took => "taken".to_owned(),
                };
                if !reactions.contains(&what) {
                    reactions.push(what);
                }
                after.insert(next);
            }
        }
        steps.push(Explored {
            function: pressed.function,
            name: profile.function(pressed.function).map_or_else(String::new, |function| function.name.clone()),
            reactions,
            states: said(&after),
        });
        set = after;
    }
    let settles_ms = set.iter().map(Timed::settles_ms).max().unwrap_or(0);
    let mut ends: BTreeSet<Timed> = BTreeSet::new();
    for timed in &set {
        ends.extend(timed::elapse(&machine, timed, Window::exactly(timed.settles_ms())));
    }
    let mut keys: Vec<MachineKey> = Vec::new();
    for (function, part) in profile.keys().into_iter().chain(profile.comfort_keys()) {
        if !keys.iter().any(|key| key.function == function) {
            let name = profile.function(function).map_or_else(String::new, |function| function.name.clone());
            keys.push(MachineKey { function, name, part: part.to_owned() });
        }
    }
    Some(Exploration { states: all.iter().map(say).collect(), keys, steps, settles_ms, ends: said(&ends) })
}
