//! What older versions of the program wrote, brought up to date: site files, rows and lines of the history.
//!
//! | version | what it had | what it is now |
//! | --- | --- | --- |
//! | 1 | what a device tells as free text | an enum; only “contact” meant a position, other words for a sensor meant power, unknown words meant nothing and are left out |
//! | 1 | accepted findings by title and sentence | by kind and facts ([`settle`]); what fits no finding any more is kept as *earlier* and matches nothing |
//! | 1 | order of cues, surfaces and stories by where they stood | a position each |
//! | 1 | pictures inside keys | kept once, by their hash |
//! | 1 | what a key is for told by its name | a field of the function, from its name |
//! | 3 | keys and pages of surfaces called as the program called them then | as it calls them now ([`plain_names`]) |
//! | 1 | keys that bounce and commands that no key sends known to the program by model | fields of the model |

use crate::edit::Change;
use crate::id::RoomId;
use crate::model::{Accepted, Entity, EntityKey, FindingKind, Means, Picture, Room, RoomCard, Site, parts};
use crate::{check, library};
use serde_json::{Map, Value, json};
use std::collections::BTreeMap;
use uuid::Uuid;

/// The version in which this program writes. Rows and history lines of an earlier one go through here.
pub const VERSION: i32 = 2;

/// Brings the site of a file of version 1 up to date. What cannot be understood stays as it is, and is refused later with
/// its place.
pub fn site(site: &mut Value) {
    feedback(site);
    let mut pictures: BTreeMap<String, Value> = BTreeMap::new();
    for room in array(site, "rooms") {
        self::room(room, &mut pictures);
    }
    for profile in array(site, "profiles") {
        self::profile(profile);
    }
    if let Some(site) = site.as_object_mut()
        && !pictures.is_empty()
    {
        site.insert("pictures".to_owned(), pictures.into_values().collect());
    }
}

/// Names that the program gave pages and keys of surfaces before version 4, and those that it gives them now.
const PLAIN_NAMES: [(&str, &str); 3] = [("Activities", "Start"), ("Room off", "Finish"), ("Stop all", "Stop moving")];

/// Pages and keys that are still called as the program called them before version 4 are called as it does now; what a
/// hand has named otherwise stays.
pub fn plain_names(site: &mut Site) {
    let plain = |name: &mut String| {
        if let Some((_, now)) = PLAIN_NAMES.iter().find(|(before, _)| before == name) {
            *name = (*now).to_owned();
        }
    };
    for page in site.rooms.iter_mut().flat_map(|room| &mut room.surfaces).flat_map(|surface| &mut surface.pages) {
        plain(&mut page.name);
        page.keys.iter_mut().for_each(|key| plain(&mut key.label));
    }
}

/// What files before version 5 call measured has no readings: nobody can say on which device in which house. It is from
/// the profile now.
pub fn from_the_profile(site: &mut Site) {
    fn plain(value: &mut Value) {
        match value {
            Value::Array(list) => list.iter_mut().for_each(plain),
            Value::Object(fields) => {
                if fields.get("from").and_then(Value::as_str) == Some("measured") {
                    *value = serde_json::json!({ "from": "profile" });
                } else {
                    fields.values_mut().for_each(plain);
                }
            }
            _ => {}
        }
    }
    fn settled<T: serde::Serialize + serde::de::DeserializeOwned>(own: &mut T) {
        let Ok(before) = serde_json::to_value(&*own) else { return };
        let mut after = before.clone();
        plain(&mut after);
        if after != before
            && let Ok(after) = serde_json::from_value(after)
        {
            *own = after;
        }
    }
    site.profiles.iter_mut().for_each(settled);
    site.devices.iter_mut().for_each(settled);
}

/// Accepted findings of version 1, by title and sentence, as what they are: once, with what the house says now.
pub fn settle(site: &mut Site) {
    let before = site.clone();
    let earlier = |known: &Accepted| matches!(known.found, FindingKind::Earlier { .. });
    for room in site.rooms.iter_mut().filter(|room| room.accepted.iter().any(earlier)) {
        let id = room.id;
        room.accepted.iter_mut().for_each(|accepted| settle_one(&before, id, accepted));
    }
}

/// The same for one of them: as the house has it already, or as one of its findings says it now.
fn settle_one(site: &Site, room: RoomId, accepted: &mut Accepted) {
    let FindingKind::Earlier { title, text } = &accepted.found else { return };
    let known = site.room(room).and_then(|room| room.accepted.iter().find(|known| known.id == accepted.id));
    let now = match known.map(|known| &known.found) {
        Some(found) if !matches!(found, FindingKind::Earlier { .. }) => Some(found.clone()),
        _ => {
            let findings = check::room(site, room).findings;
            findings.into_iter().find(|known| known.title == *title && known.text == *text).map(|known| known.kind)
        }
    };
    if let Some(now) = now {
        accepted.found = now;
    }
}

/// The changes of a line of the history that version 1 wrote: an entity of then can be several of now.
///
/// # Errors
/// Where an entity of it cannot be read.
pub fn changes(lines: &Value, site: &Site) -> Result<Vec<Change>, serde_json::Error> {
    let mut all = Vec::new();
    for line in lines.as_array().into_iter().flatten() {
        let read = |side: &str| match line.get(side) {
            None | Some(Value::Null) => Ok(vec![]),
            Some(entity) => entities(entity.clone(), site),
        };
        let (before, after) = (read("before")?, read("after")?);
        let at = |list: &[Entity], key: EntityKey| list.iter().find(|entity| entity.key() == key).cloned();
        let removed = before.iter().rev().filter(|entity| at(&after, entity.key()).is_none());
        all.extend(removed.map(|entity| Change { before: Some(entity.clone()), after: None }));
        for entity in &after {
            let before = at(&before, entity.key());
            if before.as_ref() != Some(entity) {
                all.push(Change { before, after: Some(entity.clone()) });
            }
        }
    }
    Ok(all)
}

/// An entity of version 1 as the entities that it is now.
fn entities(mut entity: Value, site: &Site) -> Result<Vec<Entity>, serde_json::Error> {
    feedback(&mut entity);
    let kind = entity.get("entity").and_then(Value::as_str).unwrap_or_default().to_owned();
    let value = entity.get_mut("value").map(Value::take).unwrap_or_default();
    match kind.as_str() {
        "room" => {
            let (mut value, mut pictures) = (value, BTreeMap::new());
            room(&mut value, &mut pictures);
            let mut room: Room = serde_json::from_value(value)?;
            room.accepted.iter_mut().for_each(|accepted| settle_one(site, room.id, accepted));
            let mut all = vec![Entity::Room(RoomCard::from(&room))];
            for picture in pictures.into_values() {
                all.push(Entity::Picture(serde_json::from_value(picture)?));
            }
            all.extend(parts(&room));
            Ok(all)
        }
        "profile" => {
            let mut value = value;
            profile(&mut value);
            Ok(vec![Entity::Profile(serde_json::from_value(value)?)])
        }
        _ => Ok(vec![serde_json::from_value(json!({ "entity": kind, "value": value }))?]),
    }
}

fn array<'a>(value: &'a mut Value, name: &str) -> impl Iterator<Item = &'a mut Value> + use<'a> {
    value.get_mut(name).and_then(Value::as_array_mut).into_iter().flatten()
}

fn at<'a>(value: &'a mut Value, path: &[&str]) -> impl Iterator<Item = &'a mut Value> + use<'a> {
    let found = path.iter().try_fold(value, |value, name| value.get_mut(*name));
    found.and_then(Value::as_array_mut).into_iter().flatten()
}

fn number<'a>(items: impl Iterator<Item = &'a mut Value>) {
    for (position, item) in items.filter_map(Value::as_object_mut).enumerate() {
        item.insert("position".to_owned(), position.into());
    }
}

fn room(room: &mut Value, pictures: &mut BTreeMap<String, Value>) {
    let id = room.get("id").and_then(Value::as_str).unwrap_or_default().to_owned();
    number(at(room, &["lighting", "cues"]));
    number(at(room, &["rehearsal", "stories"]));
    number(array(room, "surfaces"));
    for accepted in array(room, "accepted").filter_map(Value::as_object_mut) {
        self::accepted(&id, accepted);
    }
    for surface in array(room, "surfaces") {
        for key in array(surface, "pages").flat_map(|page| array(page, "keys")).filter_map(Value::as_object_mut) {
            let Some(picture) = key.get("picture").and_then(Value::as_str).and_then(Picture::of_data_url) else {
                continue;
            };
            key.insert("picture".to_owned(), json!(picture.id));
            pictures.insert(picture.id.to_string(), json!(picture));
        }
    }
}

fn accepted(room: &str, accepted: &mut Map<String, Value>) {
    let text = |value: Option<Value>| value.and_then(|value| value.as_str().map(str::to_owned)).unwrap_or_default();
    let (title, said) = (text(accepted.remove("title")), text(accepted.remove("text")));
    // The same note of the same room has the same id in the file, in its row and in the history.
    let id = Uuid::new_v5(&Uuid::NAMESPACE_OID, format!("{room} {title} {said}").as_bytes());
    accepted.insert("id".to_owned(), json!(id));
    accepted.insert("found".to_owned(), json!({ "kind": "earlier", "title": title, "text": said }));
}

fn profile(profile: &mut Value) {
    let name = |name: &str| profile.get(name).and_then(Value::as_str).unwrap_or_default().to_owned();
    let (maker, model) = (name("maker"), name("model"));
    let shipped = library::all().iter().find(|known| known.maker == maker && known.model == model);
    for function in array(profile, "functions").filter_map(Value::as_object_mut) {
        let name = function.get("name").and_then(Value::as_str).unwrap_or_default();
        if let Some(means) = Means::of_name(name) {
            function.insert("means".to_owned(), json!(means));
        }
        let id = function.get("id").and_then(Value::as_str).unwrap_or_default().to_owned();
        let own = shipped.iter().flat_map(|model| &model.functions).find(|known| known.id.to_string() == id);
        if own.is_some_and(|known| known.bounces) {
            function.insert("bounces".to_owned(), true.into());
        }
    }
    if let (Some(shipped), Some(profile)) = (shipped, profile.as_object_mut())
        && !shipped.unlisted.is_empty()
    {
        profile.insert("unlisted".to_owned(), json!(shipped.unlisted));
    }
}

/// What a device tells, wherever it stands: in a profile, or in what a device has of its own.
fn feedback(value: &mut Value) {
    match value {
        Value::Array(items) => items.iter_mut().for_each(feedback),
        Value::Object(fields) => {
            if let Some(Value::Array(words)) = fields.get_mut("tells") {
                let known: Vec<Value> =
                    words.iter().filter_map(Value::as_str).filter_map(tell).map(Value::from).collect();
                *words = known;
            }
            if let Some(Value::String(word)) = fields.get_mut("senses") {
                *word = sense(word).to_owned();
            }
            fields.values_mut().for_each(feedback);
        }
        _ => {}
    }
}

fn tell(word: &str) -> Option<&'static str> {
    const KNOWN: [&str; 12] = [
        "power",
        "input",
        "volume",
        "mute",
        "transport",
        "app",
        "position",
        "level",
        "motion",
        "presence",
        "door",
        "presses",
    ];
    let word = word.trim().to_lowercase();
    KNOWN.into_iter().find(|known| *known == word)
}

fn sense(word: &str) -> &'static str {
    let word = word.to_lowercase();
    if word.contains("contact") {
        "contact"
    } else if word.contains("light") {
        "light"
    } else {
        "power-draw"
    }
}
