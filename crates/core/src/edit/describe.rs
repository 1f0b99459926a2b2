//! What an edit did, in a few words for the log.

use crate::edit::Change;
use crate::finding::weight_and_title;
use crate::model::{Entity, Site, cue_words};
use serde_json::Value;
use uuid::Uuid;

/// A line for the log: what was added, removed, or changed from what to what. `site` is the site
/// after the change; names of what was removed come from the change itself.
#[must_use]
pub fn describe(site: &Site, changes: &[Change]) -> String {
    let Some(change) = changes.last() else { return "Nothing changed".to_owned() };
    let more = changes.len() - 1;
    let line = match (&change.before, &change.after) {
        (None, Some(after)) => format!("Added {}", name(site, after)),
        (Some(before), None) => format!("Removed {}", name(site, before)),
        (Some(before), Some(after)) => format!("{}: {}", name(site, after), difference(site, before, after)),
        (None, None) => "Nothing changed".to_owned(),
    };
    match more {
        0 => line,
        1 => format!("{line}, and 1 thing that hung on it"),
        _ => format!("{line}, and {more} things that hung on it"),
    }
}

/// What an entity is called in a sentence.
#[must_use]
pub fn name(site: &Site, entity: &Entity) -> String {
    let room = |id| site.room(id).map_or("a room that is gone", |room| room.name.as_str());
    match entity {
        Entity::House(e) => e.name.clone(),
        Entity::Room(e) => e.name.clone(),
        Entity::Profile(e) => format!("{} {}", e.maker, e.model),
        Entity::Device(e) => e.name.clone(),
        Entity::Connection(e) => {
            format!("the cable {} → {}", site.device_name(e.from_device), site.device_name(e.to_device))
        }
        Entity::Code(e) => {
            format!("{} “{}” ({})", site.device_name(e.device), site.function_name(e.device, e.function), e.body)
        }
        Entity::Activity(e) => e.name.clone(),
        Entity::CodeSet(e) => format!("the code set “{}”", e.name),
        Entity::Light(e) => format!("the light of {}", room(e.room)),
        Entity::Cue(e) => {
            let lighting = site.room(e.room).map(|room| &room.lighting);
            let line = lighting.map(|lighting| cue_words::line(site, lighting, &e.own)).unwrap_or_default();
            format!("the cue “{line}”")
        }
        Entity::Surface(e) => e.own.name.clone(),
        Entity::Story(e) => format!("the story “{}”", e.own.name),
        Entity::Voice(e) => format!("spoken names of {}", room(e.room)),
        Entity::Plans(e) => format!("plan rules of {}", room(e.room)),
        Entity::Floor(e) => format!("the floor plan of {}", room(e.room)),
        Entity::Protocol(e) => format!("the protocol “{}”", e.name),
        Entity::Placed(e) => format!("the place of {}", site.device_name(e.device)),
        Entity::Accepted(e) => format!("the note “{}” as accepted", weight_and_title(&e.own.found).1),
        Entity::Picture(_) => "a picture".to_owned(),
        Entity::Measurement(e) => {
            format!(
                "a reading of {}, {}: {}",
                site.device_name(e.device),
                e.timing.words(),
                crate::words::seconds(e.ms)
            )
        }
        Entity::Result(e) => format!("the test “{}”", crate::model::test_title(site, &e.of)),
        Entity::Order(e) => format!("{} × {}", e.quantity, e.what),
    }
}

/// The first difference in words, and how many more there are.
fn difference(site: &Site, before: &Entity, after: &Entity) -> String {
    let (Ok(before), Ok(after)) = (serde_json::to_value(before), serde_json::to_value(after)) else {
        return "changed".to_owned();
    };
    if let Some(tested) = test_of(&before, &after) {
        return tested;
    }
    let mut differences = Vec::new();
    walk(site, (&before, &after), "", &mut differences);
    let mut line = differences.first().cloned().unwrap_or_else(|| "changed".to_owned());
    if differences.len() > 1 {
        line = format!("{line}, and {} more", differences.len() - 1);
    }
    line
}

/// A test that was written down, and nothing else.
fn test_of(before: &Value, after: &Value) -> Option<String> {
    let without = |value: &Value| {
        let mut rest = value.clone();
        rest.get_mut("value")?.as_object_mut()?.remove("tested");
        Some(rest)
    };
    let tested = after.get("value")?.get("tested").filter(|tested| !tested.is_null())?;
    (without(before)? == without(after)?).then(|| {
        let effect = tested.get("effect").and_then(Value::as_str).unwrap_or("").replace('-', " ");
        format!("tested, {effect}")
    })
}

fn walk(site: &Site, (before, after): (&Value, &Value), label: &str, found: &mut Vec<String>) {
    match (before, after) {
        (Value::Object(a), Value::Object(b)) => {
            for (key, value) in b {
                walk(site, (a.get(key).unwrap_or(&Value::Null), value), key, found);
            }
        }
        (Value::Array(a), Value::Array(b)) => lists(site, (a, b), label, found),
        _ if before != after => {
            let (was, is) = (plain(site, label, before), plain(site, label, after));
            found.push(format!("{} {was} → {is}", spoken(label)));
        }
        _ => {}
    }
}

/// What tells one thing of a list from the others: its id, where it has one.
fn id_of(item: &Value) -> Option<&str> {
    item.get("id").or_else(|| item.get("zone")).and_then(Value::as_str)
}

/// Things of a list that came, went, or were changed.
fn lists(site: &Site, (before, after): (&[Value], &[Value]), label: &str, found: &mut Vec<String>) {
    let named = after.iter().chain(before).all(|item| id_of(item).is_some());
    let same = |a: &Value, b: &Value| if named { id_of(a) == id_of(b) } else { a == b };
    if !named && before.len() == after.len() {
        before.iter().zip(after).for_each(|pair| walk(site, pair, label, found));
        return;
    }
    let new: Vec<&Value> = after.iter().filter(|item| !before.iter().any(|known| same(known, item))).collect();
    let gone: Vec<&Value> = before.iter().filter(|item| !after.iter().any(|known| same(known, item))).collect();
    for (items, what) in [(&new, "added"), (&gone, "removed")] {
        if !items.is_empty() {
            found.push(format!("{} {what}", some(site, items, label)));
        }
    }
    let stayed = |list: &[Value], other: &[Value]| -> Vec<Value> {
        list.iter().filter(|item| other.iter().any(|known| same(known, item))).cloned().collect()
    };
    let (was, is) = (stayed(before, after), stayed(after, before));
    if named && was.iter().map(id_of).ne(is.iter().map(id_of)) {
        found.push(format!("order of {} changed", spoken(label)));
    }
    if named {
        for item in &is {
            if let Some(known) = was.iter().find(|known| same(known, item)) {
                walk(site, (known, item), label, found);
            }
        }
    }
}

/// Up to three things by their names, or how many there are of what they are.
fn some(site: &Site, items: &[&Value], label: &str) -> String {
    let names: Vec<String> = items.iter().filter_map(|item| item_name(site, item)).collect();
    let what = spoken(label);
    let one = singular(&what);
    if names.len() != items.len() || names.len() > 3 {
        return if items.len() == 1 { format!("a {one}") } else { format!("{} {what}", items.len()) };
    }
    format!("{} {}", if names.len() == 1 { one } else { what }, names.join(", "))
}

/// What a thing of a list is called.
fn item_name(site: &Site, item: &Value) -> Option<String> {
    if let Some(id) = item.as_str() {
        return if id.len() == 36 { named(site, id) } else { Some(format!("“{id}”")) };
    }
    let of = |key: &str| item.get(key).and_then(Value::as_str).filter(|text| !text.is_empty());
    of("name").or_else(|| of("label")).map(|name| format!("“{name}”")).or_else(|| named(site, of("zone")?))
}

/// keys → key, switches → switch.
fn singular(plural: &str) -> String {
    let stems =
        [("switches", "switch"), ("activities", "activity"), ("levels", "level"), ("also", "thing that it does")];
    stems
        .iter()
        .find(|(many, _)| *many == plural)
        .map_or_else(|| plural.strip_suffix('s').unwrap_or(plural).to_owned(), |(_, one)| (*one).to_owned())
}

/// The thing of the house that an id stands for, by its name.
fn named(site: &Site, id: &str) -> Option<String> {
    let id: Uuid = id.parse().ok()?;
    let light = || site.rooms.iter().map(|room| &room.lighting);
    let looks = light().flat_map(|own| &own.looks).map(|look| (look.id.0, &look.name));
    let zones = light().flat_map(|own| &own.zones).map(|zone| (zone.id.0, &zone.name));
    let switches = light().flat_map(|own| &own.switches).map(|switch| (switch.id.0, &switch.name));
    let keys = site.profiles.iter().flat_map(|own| &own.functions).map(|key| (key.id.0, &key.name));
    let inputs = site.profiles.iter().flat_map(|own| &own.inputs).map(|input| (input.id.0, &input.name));
    let rooms = site.rooms.iter().map(|room| (room.id.0, &room.name));
    let devices = site.devices.iter().map(|device| (device.id.0, &device.name));
    let activities = site.activities.iter().map(|activity| (activity.id.0, &activity.name));
    let mut all =
        devices.chain(activities).chain(rooms).chain(looks).chain(zones).chain(switches).chain(keys).chain(inputs);
    let name = all.find(|(known, _)| *known == id).map(|(_, name)| name.clone());
    let model = || site.profile(id.into()).map(|own| format!("{} {}", own.maker, own.model));
    name.or_else(model).map(|name| format!("“{name}”"))
}

/// `hi_ms` → “longest”, `warm_up` → “warm up”.
fn spoken(label: &str) -> String {
    match label {
        "lo_ms" => "shortest time".to_owned(),
        "hi_ms" => "longest time".to_owned(),
        "gap_ms" => "pause after a command".to_owned(),
        "lit" => "when it is lit".to_owned(),
        "does" => "what it does".to_owned(),
        "bindings" => "meanings".to_owned(),
        "provided" => "conditions".to_owned(),
        "may" => "what the family may change".to_owned(),
        other => {
            let plain = ["_ms", "_percent", "_mm", "_min", "_s"].iter().find_map(|unit| other.strip_suffix(unit));
            plain.unwrap_or(other).replace('_', " ")
        }
    }
}

fn plain(site: &Site, label: &str, value: &Value) -> String {
    match value {
        Value::Null => "none".to_owned(),
        Value::Number(ms) if label.ends_with("_ms") => {
            crate::words::seconds(ms.as_u64().and_then(|ms| u32::try_from(ms).ok()).unwrap_or(0))
        }
        Value::String(text) if text.len() == 36 => named(site, text).unwrap_or_else(|| "another".to_owned()),
        Value::String(text) => format!("“{text}”"),
        Value::Bool(on) => if *on { "yes" } else { "no" }.to_owned(),
        Value::Number(percent) if label.ends_with("_percent") || label == "percent" => format!("{percent} %"),
        // Something with parts: by its name, or by what it is.
        Value::Object(parts) => {
            let said =
                ["name", "label", "is", "does", "at", "when", "how"].iter().find_map(|key| parts.get(*key)?.as_str());
            said.map_or_else(|| "something else".to_owned(), |said| format!("“{}”", said.replace('-', " ")))
        }
        Value::Array(items) => items.len().to_string(),
        other => other.to_string(),
    }
}
