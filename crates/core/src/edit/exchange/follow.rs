//! Follows the keys, inputs and settings of a device through whatever names them, when another model takes its place.

use super::Mapping;
use crate::id::DeviceId;
use crate::model::{Entity, Profile};
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};
use uuid::Uuid;

/// What follows of an entity.
pub(super) struct Followed {
    /// The entity as it is then; none where it makes no sense any more.
    pub after: Option<Entity>,
    /// What it named, by ids of the old model.
    pub met: BTreeSet<Uuid>,
    /// What it named that has no place any more.
    pub gone: Vec<String>,
}

/// Follows the keys, inputs and settings of a device through whatever names them.
pub(super) struct Follow {
    owner: String,
    /// What becomes of each id.
    ids: BTreeMap<String, Option<String>>,
    names: BTreeMap<String, String>,
    /// The values of each setting of the new model.
    settings: BTreeMap<String, BTreeSet<String>>,
    /// What the old and the new model run by name.
    apps: (BTreeSet<String>, BTreeSet<String>),
}

/// A place in a JSON value.
#[derive(Debug, Clone)]
enum Place {
    Field(String),
    Item(usize),
}

impl Follow {
    pub fn of(owner: DeviceId, old: &Profile, model: &Profile, mapping: &Mapping) -> Self {
        let functions = old.functions.iter().map(|own| (own.id.to_string(), &own.name, mapping.function(own.id)));
        let functions = functions.map(|(id, name, to)| (id, name, to.map(|to| to.to_string())));
        let inputs = old.inputs.iter().map(|own| (own.id.to_string(), &own.name, mapping.input(own.id)));
        let inputs = inputs.map(|(id, name, to)| (id, name, to.map(|to| to.to_string())));
        let (mut ids, mut names) = (BTreeMap::new(), BTreeMap::new());
        for (id, name, to) in functions.chain(inputs) {
            ids.insert(id.clone(), to);
            names.insert(id, name.clone());
        }
        let settings = model.modes.iter().map(|mode| {
            let values = mode.values.iter().map(|value| value.name.clone()).collect();
            (mode.name.clone(), values)
        });
        let apps = |model: &Profile| model.apps.iter().map(|app| app.name.clone()).collect();
        Self { owner: owner.to_string(), ids, names, settings: settings.collect(), apps: (apps(old), apps(model)) }
    }

    /// Is the device named anywhere?
    pub fn names(&self, value: &Value) -> bool {
        match value {
            Value::String(text) => *text == self.owner,
            Value::Array(list) => list.iter().any(|one| self.names(one)),
            Value::Object(fields) => fields.values().any(|one| self.names(one)),
            _ => false,
        }
    }

    /// `plays` says that it is an activity whose source the device is: its favourites and its app are the device's.
    pub fn entity(&self, mut value: Value, plays: bool) -> Followed {
        let (mut met, mut gone) = (BTreeSet::new(), Vec::new());
        // Each round takes one thing away that has no place any more, and the least that must go with it.
        loop {
            let mut stuck = None;
            self.walk(&mut value, plays, &mut Vec::new(), &mut met, &mut stuck);
            let Some((path, name)) = stuck else { break };
            gone.push(name);
            let without = (1..=path.len()).rev().find_map(|length| {
                let cut = without(&value, &path[..length])?;
                serde_json::from_value::<Entity>(cut.clone()).is_ok().then_some(cut)
            });
            match without {
                Some(cut) => value = cut,
                None => return Followed { after: None, met, gone },
            }
        }
        Followed { after: serde_json::from_value(value).ok(), met, gone }
    }

    /// Rewrites what can be, and tells the first place of what cannot. `ours` says that ids here are the device's.
    fn walk(
        &self,
        value: &mut Value,
        ours: bool,
        path: &mut Vec<Place>,
        met: &mut BTreeSet<Uuid>,
        stuck: &mut Option<(Vec<Place>, String)>,
    ) {
        match value {
            Value::String(text) if ours => match self.ids.get(text.as_str()) {
                Some(to) => {
                    met.extend(Uuid::parse_str(text));
                    match to {
                        Some(other) => text.clone_from(other),
                        None if stuck.is_none() => {
                            *stuck = Some((path.clone(), self.names.get(text.as_str()).cloned().unwrap_or_default()));
                        }
                        None => {}
                    }
                }
                None => self.by_name(text, path, stuck),
            },
            Value::Array(list) => {
                for (at, one) in list.iter_mut().enumerate() {
                    path.push(Place::Item(at));
                    self.walk(one, ours, path, met, stuck);
                    path.pop();
                }
            }
            Value::Object(fields) => {
                let named = fields.get("device").and_then(Value::as_str);
                let ours = named.map_or(ours, |device| device == self.owner);
                if let Some((mode, wanted)) = setting(fields).filter(|_| ours && stuck.is_none())
                    && !self.settings.get(mode).is_some_and(|values| values.contains(wanted))
                {
                    *stuck = Some((path.clone(), format!("{mode}: {wanted}")));
                }
                for (name, one) in fields.iter_mut() {
                    path.push(Place::Field(name.clone()));
                    self.walk(one, ours, path, met, stuck);
                    path.pop();
                }
            }
            _ => {}
        }
    }

    /// An app is named as the source calls it.
    fn by_name(&self, text: &str, path: &[Place], stuck: &mut Option<(Vec<Place>, String)>) {
        let app = matches!(path, [.., Place::Field(field)] if field == "app")
            || matches!(path, [.., Place::Field(does), Place::Field(field)] if does == "does" && field == "name");
        if app && stuck.is_none() && self.apps.0.contains(text) && !self.apps.1.contains(text) {
            *stuck = Some((path.to_vec(), text.to_owned()));
        }
    }
}

/// The setting that an object wants of a device, and to which value.
fn setting(fields: &serde_json::Map<String, Value>) -> Option<(&str, &str)> {
    Some((fields.get("mode")?.as_str()?, fields.get("value")?.as_str()?))
}

/// A value without what stands at a place.
fn without(value: &Value, path: &[Place]) -> Option<Value> {
    let (last, before) = path.split_last()?;
    let mut cut = value.clone();
    let holder = before.iter().try_fold(&mut cut, |value, place| match place {
        Place::Field(name) => value.get_mut(name),
        Place::Item(at) => value.get_mut(at),
    })?;
    match (holder, last) {
        (Value::Object(fields), Place::Field(name)) => drop(fields.remove(name)),
        (Value::Array(list), Place::Item(at)) if *at < list.len() => drop(list.remove(*at)),
        _ => return None,
    }
    Some(cut)
}
