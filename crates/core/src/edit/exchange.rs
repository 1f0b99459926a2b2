//! Another model in the place of a device: its keys and sockets are mapped, and everything that names them follows.

mod follow;

use self::follow::Follow;
use super::Step;
use super::copy;
use crate::id::{DeviceId, FunctionId, InputId, OutputId};
use crate::model::{
    Activity, Cable, Code, Connection, Device, Entity, Motion, Mute, Power, Profile, Selection, Site, entities, find,
};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;
use uuid::Uuid;

/// What becomes of each key and socket of the old model: another one, or none.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Mapping {
    /// Keys.
    pub functions: BTreeMap<FunctionId, Option<FunctionId>>,
    /// Inputs.
    pub inputs: BTreeMap<InputId, Option<InputId>>,
    /// Outputs.
    pub outputs: BTreeMap<OutputId, Option<OutputId>>,
}

/// What somebody chose for a key or a socket.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Chosen {
    /// Of the old model.
    pub id: Uuid,
    /// Of the new one; it has no place there, if none.
    #[serde(default)]
    pub to: Option<Uuid>,
}

impl Mapping {
    fn function(&self, id: FunctionId) -> Option<FunctionId> {
        self.functions.get(&id).copied().flatten()
    }

    fn input(&self, id: InputId) -> Option<InputId> {
        self.inputs.get(&id).copied().flatten()
    }

    fn output(&self, id: OutputId) -> Option<OutputId> {
        self.outputs.get(&id).copied().flatten()
    }

    /// This one, with what was chosen by hand in the place of what was suggested. What the new model does not have is no
    /// choice.
    #[must_use]
    pub fn with(mut self, by_hand: &[Chosen], model: &Profile) -> Self {
        for Chosen { id, to } in by_hand {
            if let Some(known) = self.functions.get_mut(&FunctionId(*id)) {
                *known = to.map(FunctionId).filter(|to| model.function(*to).is_some());
            } else if let Some(known) = self.inputs.get_mut(&InputId(*id)) {
                *known = to.map(InputId).filter(|to| model.inputs.iter().any(|own| own.id == *to));
            } else if let Some(known) = self.outputs.get_mut(&OutputId(*id)) {
                *known = to.map(OutputId).filter(|to| model.outputs.iter().any(|own| own.id == *to));
            }
        }
        self
    }
}

/// What kind of thing of a model is mapped.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Mapped {
    /// A socket that something plugs into.
    Input,
    /// A socket that leads on.
    Output,
    /// A key.
    Key,
}

/// A key or socket of the old model.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct MappedPart {
    /// What it is.
    pub what: Mapped,
    /// Its id in the old model.
    pub id: Uuid,
    /// What it is called there.
    pub name: String,
    /// What uses it today: cables, codes, activities, surfaces, cues.
    pub used_by: Vec<String>,
    /// What becomes of it; nothing, if none.
    pub to: Option<Uuid>,
}

/// An exchange: the steps that carry it out, and what it means.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Exchange {
    /// The steps, in their order.
    pub steps: Vec<Step>,
    /// What is lost, in sentences.
    pub lost: Vec<String>,
    /// Each key and socket of the old model.
    pub parts: Vec<MappedPart>,
}

/// What a key is for in a model, where its behaviour says so.
fn roles(model: &Profile) -> BTreeMap<&'static str, FunctionId> {
    let mut roles = BTreeMap::new();
    match model.power {
        Power::Discrete { on, off } => roles.extend([("on", on), ("off", off)]),
        Power::NetworkWake { wake, off } => roles.extend([("on", wake), ("off", off)]),
        Power::Toggle { key } => roles.extend([("power", key)]),
        Power::AlwaysOn | Power::Follows { .. } => {}
    }
    match model.selection {
        Selection::Cycle { next, .. } => roles.extend([("next input", next)]),
        Selection::Menu { open, next, previous, confirm, .. } => {
            roles.extend([("list", open), ("next entry", next), ("previous entry", previous), ("confirm", confirm)]);
        }
        Selection::None | Selection::Discrete => {}
    }
    if let Some(Motion { up, down, stop, .. }) = model.motion {
        roles.extend([("up", up), ("down", down)]);
        roles.extend(stop.map(|stop| ("stop", stop)));
    }
    if let Some(skips) = &model.skips {
        roles.extend([("jumps back", skips.back), ("jumps on", skips.forward)]);
    }
    if let Some(volume) = &model.volume {
        roles.extend([("louder", volume.up), ("softer", volume.down)]);
        match volume.mute {
            Some(Mute::Toggle { key }) => roles.extend([("mute", key)]),
            Some(Mute::Discrete { on, off }) => roles.extend([("silent", on), ("sounding", off)]),
            None => {}
        }
    }
    roles
}

fn same(a: &str, b: &str) -> bool {
    a.trim().to_lowercase() == b.trim().to_lowercase()
}

/// A socket: its id, what it is called, and what plugs into it.
struct Socket<'a, I>(I, &'a str, Cable);

/// Sockets by name; those that are plugged come first, and go else by what plugs in. Each is taken once.
fn sockets<I: Copy + Ord>(
    old: &[Socket<'_, I>],
    new: &[Socket<'_, I>],
    plugged: &BTreeSet<I>,
) -> BTreeMap<I, Option<I>> {
    let mut taken = BTreeSet::new();
    let mut map: BTreeMap<I, Option<I>> = BTreeMap::new();
    let is_plugged = |own: &&Socket<'_, I>| plugged.contains(&own.0);
    let by_name = |own| (own, true);
    let first = old.iter().filter(is_plugged).map(by_name);
    let by_plug = old.iter().filter(is_plugged).map(|own| (own, false));
    for (Socket(id, name, cable), named) in first.chain(by_plug).chain(old.iter().map(by_name)) {
        if map.contains_key(id) {
            continue;
        }
        let fits =
            |other: &&Socket<'_, I>| other.2 == *cable && !taken.contains(&other.0) && (!named || same(name, other.1));
        if let Some(other) = new.iter().find(fits) {
            taken.insert(other.0);
            map.insert(*id, Some(other.0));
        }
    }
    old.iter().for_each(|own| {
        map.entry(own.0).or_insert(None);
    });
    map
}

/// What becomes of what, as far as names, meanings and cables tell.
#[must_use]
pub fn suggest(site: &Site, device: DeviceId, model: &Profile) -> Mapping {
    let Some(old) = site.model_of(device) else { return Mapping::default() };
    let into = site.connections.iter().filter(|own| own.to_device == device).map(|own| own.to_input).collect();
    let out = site.connections.iter().filter(|own| own.from_device == device).map(|own| own.from_output).collect();
    fn inputs(model: &Profile) -> Vec<Socket<'_, InputId>> {
        model.inputs.iter().map(|own| Socket(own.id, &own.name, own.cable)).collect()
    }
    fn outputs(model: &Profile) -> Vec<Socket<'_, OutputId>> {
        model.outputs.iter().map(|own| Socket(own.id, &own.name, own.cable)).collect()
    }
    let mut mapping = Mapping {
        inputs: sockets(&inputs(old), &inputs(model), &into),
        outputs: sockets(&outputs(old), &outputs(model), &out),
        functions: BTreeMap::new(),
    };
    let (was, is) = (roles(old), roles(model));
    for function in &old.functions {
        let selects = old.inputs.iter().find(|own| own.select == Some(function.id)).and_then(|own| {
            let other = mapping.input(own.id)?;
            model.inputs.iter().find(|own| own.id == other)?.select
        });
        let named = || model.functions.iter().find(|known| same(&known.name, &function.name)).map(|known| known.id);
        let role = || was.iter().find(|(_, id)| **id == function.id).and_then(|(role, _)| is.get(role).copied());
        let means = || {
            let mut like =
                model.functions.iter().filter(|known| known.means.is_some() && known.means == function.means);
            like.next().filter(|_| like.next().is_none()).map(|known| known.id)
        };
        mapping.functions.insert(function.id, selects.or_else(named).or_else(role).or_else(means));
    }
    mapping
}

/// Puts a model in the place of that of a device. `codes_stay` says that the new one answers to the codes of the old one.
#[must_use]
pub fn exchange(
    site: &Site,
    id: DeviceId,
    model: &Profile,
    mapping: &Mapping,
    codes_stay: bool,
    fresh: &mut impl FnMut() -> Uuid,
) -> Exchange {
    let (Some(device), Some(old)) = (site.device(id), site.model_of(id)) else { return Exchange::default() };
    let mut work = Work { site, device, old, model, mapping, done: Exchange::default(), puts: Vec::new() };
    work.parts();
    if site.profile(model.id).is_none() {
        work.puts.push(Entity::Profile(model.clone()));
    }
    work.itself();
    work.cables(fresh);
    work.codes(codes_stay, fresh);
    work.references();
    let Work { mut done, puts, .. } = work;
    done.steps.extend(puts.into_iter().map(|entity| Step::Put(Box::new(entity))));
    done
}

/// An exchange while it is worked out. What goes is taken away before anything is put.
struct Work<'a> {
    site: &'a Site,
    device: &'a Device,
    old: &'a Profile,
    model: &'a Profile,
    mapping: &'a Mapping,
    done: Exchange,
    puts: Vec<Entity>,
}

impl Work<'_> {
    fn lost(&mut self, sentence: String) {
        self.done.lost.push(sentence);
    }

    fn goes(&mut self, entity: &Entity) {
        self.done.steps.push(Step::Remove(entity.key()));
    }

    /// Each key and socket of the old model; what uses it is added as it is met.
    fn parts(&mut self) {
        let (old, mapping) = (self.old, self.mapping);
        let part = |what, id: Uuid, name: &str, to: Option<Uuid>| MappedPart {
            what,
            id,
            name: name.to_owned(),
            used_by: Vec::new(),
            to,
        };
        let inputs =
            old.inputs.iter().map(|own| part(Mapped::Input, own.id.0, &own.name, mapping.input(own.id).map(|to| to.0)));
        let outputs = old
            .outputs
            .iter()
            .map(|own| part(Mapped::Output, own.id.0, &own.name, mapping.output(own.id).map(|to| to.0)));
        let keys = old
            .functions
            .iter()
            .map(|own| part(Mapped::Key, own.id.0, &own.name, mapping.function(own.id).map(|to| to.0)));
        self.done.parts = inputs.chain(outputs).chain(keys).collect();
    }

    fn used(&mut self, id: Uuid, by: String) {
        if let Some(part) = self.done.parts.iter_mut().find(|part| part.id == id && !part.used_by.contains(&by)) {
            part.used_by.push(by);
        }
    }

    /// The device: where it stands, its place on the network and what hides it stay. What was changed or measured of the
    /// old one goes, for it says nothing of another model, and so does what belongs to that piece of hardware, the leave to
    /// drive it included.
    fn itself(&mut self) {
        let mut own = Device { profile: self.model.id, overrides: vec![], ..self.device.clone() };
        own.reported.clear();
        let (network, records) = (&mut own.network, &mut own.records);
        (network.talks, network.port) = (None, None);
        for text in [&mut network.mac, &mut network.password, &mut network.allowed, &mut network.drive_at] {
            text.clear();
        }
        let hardware = [&mut records.serial_number, &mut records.firmware, &mut records.paired, &mut records.local_key];
        let gone = hardware.into_iter().filter(|text| !text.is_empty()).map(|text| text.clear()).count();
        own.paths.retain(|path| self.model.offers.iter().any(|offer| offer.medium == path.medium));
        if !self.device.overrides.is_empty() {
            let what = match self.device.overrides.len() {
                1 => "One value that was".to_owned(),
                more => format!("{more} values that were"),
            };
            self.lost(format!("{what} changed or measured for {} alone: measure the new one.", self.device.name));
        }
        if gone > 0 {
            self.lost(format!("Serial number, firmware, pairing and key of the old {}.", self.device.name));
        }
        if own.paths.len() < self.device.paths.len() {
            let (maker, model) = (&self.model.maker, &self.model.model);
            self.lost(format!("A way to reach {} that {maker} {model} does not listen to.", self.device.name));
        }
        self.puts.push(Entity::Device(own));
    }

    fn cables(&mut self, fresh: &mut impl FnMut() -> Uuid) {
        let (site, id, mapping) = (self.site, self.device.id, self.mapping);
        for cable in site.connections.iter().filter(|own| own.from_device == id || own.to_device == id) {
            self.goes(&Entity::Connection(*cable));
            let mut next = Connection { id: fresh().into(), ..*cable };
            let mut fits = true;
            if cable.to_device == id {
                self.used(cable.to_input.0, format!("the cable from {}", site.device_name(cable.from_device)));
                match mapping.input(cable.to_input) {
                    Some(input) => next.to_input = input,
                    None => fits = false,
                }
            }
            if cable.from_device == id {
                self.used(cable.from_output.0, format!("the cable to {}", site.device_name(cable.to_device)));
                match mapping.output(cable.from_output) {
                    Some(output) => next.from_output = output,
                    None => fits = false,
                }
            }
            if fits {
                self.puts.push(Entity::Connection(next));
            } else {
                let sentence = format!(
                    "The cable {} → {}: it has no socket there any more.",
                    site.device_name(cable.from_device),
                    site.device_name(cable.to_device)
                );
                self.lost(sentence);
            }
        }
    }

    fn codes(&mut self, stay: bool, fresh: &mut impl FnMut() -> Uuid) {
        let (site, id, model, mapping) = (self.site, self.device.id, self.model, self.mapping);
        let (mut coded, mut kinds, mut gone) = (BTreeSet::new(), BTreeSet::new(), 0);
        for code in site.codes.iter().filter(|code| code.device == id) {
            self.goes(&Entity::Code(code.clone()));
            self.used(code.function.0, "a code".to_owned());
            let to = mapping.function(code.function).filter(|_| stay);
            // Where two keys have become one, the first of their codes of a kind is kept.
            match to.filter(|to| kinds.insert((*to, code.body.medium()))) {
                Some(function) => {
                    coded.insert(function);
                    self.puts.push(Entity::Code(Code { id: fresh().into(), function, tested: None, ..code.clone() }));
                }
                None => gone += 1,
            }
        }
        let (mut bare, mut brought) = (0, 0);
        for function in model.functions.iter().filter(|function| !coded.contains(&function.id)) {
            let Some(body) = function.answers_to.clone() else {
                bare += 1;
                continue;
            };
            brought += 1;
            self.puts.push(Entity::Code(Code {
                id: fresh().into(),
                device: id,
                function: function.id,
                body,
                captured: None,
                since: None,
                tested: None,
            }));
        }
        let (old, name) = (self.old, format!("{} {}", model.maker, model.model));
        if gone > 0 {
            let codes = if gone == 1 { "One code" } else { &format!("{gone} codes") };
            let instead = match brought {
                0 => String::new(),
                _ => format!("; the library has {brought} of {name}"),
            };
            self.lost(format!("{codes} of {} {}{instead}.", old.maker, old.model));
        }
        match bare {
            0 => {}
            1 => self.lost(format!("One key of {name} has no code yet: learn it in Codes.")),
            _ => self.lost(format!("{bare} keys of {name} have no code yet: learn them in Codes.")),
        }
    }

    /// Everything else that names a key, an input or a setting of the device.
    fn references(&mut self) {
        let site = self.site;
        let follow = Follow::of(self.device.id, self.old, self.model, self.mapping);
        // Evidence stays what it was: what was seen of the old model is stale, or of nothing, from now on.
        let evidence = |own: &Entity| matches!(own, Entity::Measurement(_) | Entity::Result(_));
        for entity in entities(site).into_iter().filter(|own| !evidence(own)) {
            if matches!(entity, Entity::Device(_) | Entity::Connection(_) | Entity::Code(_) | Entity::Profile(_)) {
                continue;
            }
            let Ok(before) = serde_json::to_value(&entity) else { continue };
            let name = super::name(site, &entity);
            if matches!(entity, Entity::Accepted(_)) {
                // What was accepted of the old model is to be judged again.
                if follow.names(&before) {
                    self.goes(&entity);
                    self.lost(format!("{}: it is asked again.", crate::words::capital(&name)));
                }
                continue;
            }
            let plays = matches!(&entity, Entity::Activity(own) if own.source == self.device.id);
            let followed = follow.entity(before, plays);
            for used in followed.met {
                self.used(used, name.clone());
            }
            for gone in &followed.gone {
                self.lost(format!("“{gone}” in {name}: it goes from there."));
            }
            match followed.after {
                Some(mut after) => {
                    if let Entity::Activity(activity) = &mut after {
                        self.activity(activity);
                    }
                    if after != entity {
                        self.puts.push(after);
                    }
                }
                None => {
                    self.goes(&entity);
                    self.lost(format!("{}: nothing of it is left.", crate::words::capital(&name)));
                }
            }
        }
    }

    /// What an activity wants of the device that the new model cannot do at all.
    fn activity(&mut self, activity: &mut Activity) {
        let (id, name) = (self.device.id, &activity.name);
        if self.old.motion.is_some() && self.model.motion.is_none() {
            let before = activity.moves.len();
            activity.moves.retain(|own| own.device != id);
            if activity.moves.len() < before {
                self.done.lost.push(format!("{} moves for {name}: the new model does not move.", self.device.name));
            }
        }
        if activity.heard_on == Some(id) && self.model.volume.is_none() && activity.extras.volume.take().is_some() {
            self.done.lost.push(format!("The volume at which {name} starts: the new model has no volume keys."));
        }
    }
}

/// A model of the library as one of the house, and a mapping to the former as one to the latter.
pub fn adopted(shipped: &Profile, mapping: &Mapping, fresh: &mut impl FnMut() -> Uuid) -> (Profile, Mapping) {
    let (own, functions) = copy::renumbered(shipped, fresh);
    let inputs: BTreeMap<InputId, InputId> =
        shipped.inputs.iter().zip(&own.inputs).map(|(from, to)| (from.id, to.id)).collect();
    let outputs: BTreeMap<OutputId, OutputId> =
        shipped.outputs.iter().zip(&own.outputs).map(|(from, to)| (from.id, to.id)).collect();
    let mapping = Mapping {
        functions: in_own(&mapping.functions, &functions),
        inputs: in_own(&mapping.inputs, &inputs),
        outputs: in_own(&mapping.outputs, &outputs),
    };
    (own, mapping)
}

fn in_own<I: Copy + Ord>(mapping: &BTreeMap<I, Option<I>>, own: &BTreeMap<I, I>) -> BTreeMap<I, Option<I>> {
    mapping.iter().map(|(from, to)| (*from, to.and_then(|to| own.get(&to).copied()))).collect()
}

/// The house after these steps.
///
/// # Errors
/// A sentence that names what stands in the way, where a step would be refused, or the house as a whole afterwards.
pub fn after(site: &Site, steps: &[Step]) -> Result<Site, String> {
    let mut after = site.clone();
    let refused = |site: &Site, key, error: super::EditError| match find(site, key) {
        Some(entity) => format!("{} – {error}", super::name(site, &entity)),
        None => error.to_string(),
    };
    for step in steps {
        let (key, edit) = match step {
            Step::Put(entity) => (entity.key(), super::Edit::Put { entity: entity.as_ref().clone(), base: None }),
            // What went with something else is gone already.
            Step::Remove(key) if find(&after, *key).is_none() => continue,
            Step::Remove(key) => (*key, super::Edit::Remove { kind: key.kind, id: key.id, base: 0 }),
        };
        super::apply(&mut after, &edit).map_err(|error| refused(site, key, error))?;
    }
    super::whole(&after).map_err(|(key, error)| refused(site, key, error))?;
    Ok(after)
}

#[cfg(test)]
mod tests;
