//! A look at a house that remembers what it saw: the facts on which a test rests.
//!
//! Whoever makes a test reads the house through this; what was read becomes the test's fingerprint, each fact under a key
//! that does not depend on names, with a digest of what it said. So a test is stale where, and only where, something that it
//! was made from says something else, and a new kind of fact joins by being read.

use crate::id::{DeviceId, FunctionId};
use crate::model::{Code, ControlPath, Profile, RestingFact, Site, Timing};
use crate::space::hears::heard;
use crate::space::way::gateway_for;
use serde::Serialize;
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;

/// A house, and what was read of it.
#[derive(Debug)]
pub struct Reader<'a> {
    /// The house; what is read from it directly is no fact.
    pub site: &'a Site,
    facts: BTreeMap<String, (String, String)>,
}

/// A digest of anything, in 16 hex digits.
fn digest(value: &impl Serialize) -> String {
    let bytes = serde_json::to_vec(value).unwrap_or_default();
    let sum = Sha256::digest(&bytes);
    sum.iter().take(8).map(|byte| format!("{byte:02x}")).collect()
}

impl<'a> Reader<'a> {
    /// Nothing has been read yet.
    #[must_use]
    pub fn new(site: &'a Site) -> Self {
        Self { site, facts: BTreeMap::new() }
    }

    /// Notes something that was read.
    pub fn read(&mut self, key: String, what: String, value: &impl Serialize) {
        self.facts.entry(key).or_insert_with(|| (what, digest(value)));
    }

    /// The code that is sent for a function.
    pub fn code(&mut self, device: DeviceId, function: FunctionId) -> Option<&'a Code> {
        let code = self.site.code(device, function);
        let (of, on) = (self.site.function_name(device, function), self.site.device_name(device));
        self.read(format!("code {device} {function}"), format!("the code of {of} on {on}"), &code.map(|own| &own.body));
        let press = crate::plan::press_of(self.site, device, function);
        self.read(format!("press {device} {function}"), format!("how {of} on {on} is pressed"), &press);
        self.way(device);
        code
    }

    /// The ways of a device, and where it is on the network.
    pub fn way(&mut self, device: DeviceId) -> Vec<ControlPath> {
        let ways = self.site.paths_of(device);
        // How many presses were lost on a path changes no command.
        let plain: Vec<_> = ways.iter().map(|way| (way.medium, way.replies, way.through)).collect();
        let name = self.site.device_name(device);
        self.read(format!("way {device}"), format!("the way to {name}"), &plain);
        // Where nothing is in doubt, nobody has to have drawn a plan.
        for medium in ways.iter().map(|way| way.medium).filter(|medium| medium.shared()) {
            let gateway = self.site.device(device).and_then(|own| gateway_for(self.site, own, medium).ok());
            let heard = gateway.map(|gateway| heard(self.site, Some(gateway), device, device, medium));
            if let Some(heard) = heard.filter(|heard| !heard.is_sure()) {
                let down: Vec<_> = heard.down.iter().collect();
                self.read(format!("reach {device}"), format!("how {name} hears its gateway"), &(heard.up, down));
            }
        }
        for one in std::iter::once(device).chain(ways.iter().filter_map(|way| way.through)) {
            if let Some(own) = self.site.device(one) {
                let name = &own.name;
                self.read(
                    format!("address {one}"),
                    format!("the address of {name}"),
                    &(&own.network.ip, own.network.talks),
                );
            }
        }
        ways
    }

    /// A time of a device, as plans wait for it.
    pub fn time(&mut self, device: DeviceId, timing: Timing) {
        let span = self.site.profile_of(device).and_then(|profile| timing.span(&profile));
        let name = self.site.device_name(device);
        let (what, ms) = (format!("{name}, {}", timing.words()), span.map(|span| (span.lo_ms, span.hi_ms)));
        self.read(format!("time {device} {timing:?}"), format!("the time “{what}”"), &ms);
    }

    /// Something of how a device behaves.
    pub fn behaviour<T: Serialize>(&mut self, device: DeviceId, what: &str, of: impl Fn(&Profile) -> T) -> Option<T> {
        let value = self.site.profile_of(device).map(|profile| of(&profile));
        let name = self.site.device_name(device);
        self.read(format!("{what} {device}"), format!("{what} of {name}"), &value);
        value
    }

    /// All that was read.
    #[must_use]
    pub fn facts(self) -> Vec<RestingFact> {
        self.facts.into_iter().map(|(key, (what, digest))| RestingFact { key, what, digest }).collect()
    }
}

/// What differs between what a test rested on and what it would rest on now, each in words; nothing where it is current.
#[must_use]
pub fn differences(then: &[RestingFact], now: &[RestingFact]) -> Vec<String> {
    let of =
        |facts: &'_ [RestingFact], key: &str| facts.iter().find(|fact| fact.key == key).map(|fact| fact.digest.clone());
    let mut said: Vec<String> = Vec::new();
    for fact in now {
        match of(then, &fact.key) {
            Some(before) if before == fact.digest => {}
            Some(_) => said.push(format!("{} was changed", fact.what)),
            None => said.push(format!("{} is new to it", fact.what)),
        }
    }
    let gone = then.iter().filter(|fact| of(now, &fact.key).is_none());
    said.extend(gone.map(|fact| format!("it does not rest on {} any more", fact.what)));
    said
}
