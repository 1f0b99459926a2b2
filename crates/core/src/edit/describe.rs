//! What an edit did, in a few words for the log.

use crate::edit::Change;
use crate::finding::weight_and_title;
use crate::model::{Entity, Site, cue_words};
use serde_json::Value;

/// A line for the log: what was added, removed, or changed from what to what. `site` is the site
/// after the change; names of what was removed come from the change itself.
#[must_use]
pub fn describe(site: &Site, changes: &[Change]) -> String {
    let Some(change) = changes.last() else { return "Nothing changed".to_owned() };
    let more = changes.len() - 1;
    let line = match (&change.before, &change.after) {
        (None, Some(after)) => format!("Added {}", name(site, after)),
        (Some(before), None) => format!("Removed {}", name(site, before)),
        (Some(before), Some(after)) => format!("{}: {}", name(site, after), difference(before, after)),
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
        Entity::Accepted(e) => format!("the note “{}” as accepted", weight_and_title(&e.own.found).1),
        Entity::Picture(_) => "a picture".to_owned(),
    }
}

/// The first difference in words, and how many more there are.
fn difference(before: &Entity, after: &Entity) -> String {
    let (Ok(before), Ok(after)) = (serde_json::to_value(before), serde_json::to_value(after)) else {
        return "changed".to_owned();
    };
    if let Some(tested) = test_of(&before, &after) {
        return tested;
    }
    let mut differences = Vec::new();
    walk(&before, &after, "", &mut differences);
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

fn walk(before: &Value, after: &Value, label: &str, found: &mut Vec<String>) {
    match (before, after) {
        (Value::Object(a), Value::Object(b)) => {
            for (key, value) in b {
                walk(a.get(key).unwrap_or(&Value::Null), value, key, found);
            }
        }
        (Value::Array(a), Value::Array(b)) if a.len() == b.len() => {
            a.iter().zip(b).for_each(|(a, b)| walk(a, b, label, found));
        }
        (Value::Array(a), Value::Array(b)) => found.push(format!("{} {} → {}", spoken(label), a.len(), b.len())),
        _ if before != after => {
            found.push(format!("{} {} → {}", spoken(label), plain(label, before), plain(label, after)))
        }
        _ => {}
    }
}

/// `hi_ms` → “longest”, `warm_up` → “warm up”.
fn spoken(label: &str) -> String {
    match label {
        "lo_ms" => "shortest time".to_owned(),
        "hi_ms" => "longest time".to_owned(),
        "gap_ms" => "pause after a command".to_owned(),
        other => other.replace('_', " "),
    }
}

fn plain(label: &str, value: &Value) -> String {
    match value {
        Value::Null => "none".to_owned(),
        Value::Number(ms) if label.ends_with("_ms") => {
            crate::words::seconds(ms.as_u64().and_then(|ms| u32::try_from(ms).ok()).unwrap_or(0))
        }
        Value::String(text) if text.len() == 36 => "another".to_owned(),
        Value::String(text) => format!("“{text}”"),
        Value::Object(_) | Value::Array(_) => "changed".to_owned(),
        other => other.to_string(),
    }
}
