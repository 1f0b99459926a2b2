//! Codes from a file or another device: what would happen to each, and the edits that make it so. An import
//! is previewed first and then carried out as one step, whole or not at all.

use crate::codes::formats::{Found, Import, keymap, named, recording, table};
use crate::id::{DeviceId, FunctionId, ProfileId};
use crate::model::{
    Code, CodeBody, CodeSet, Entity, Function, Means, Medium, NAME_MAX, Profile, SetKey, Site, TestEffect, Tested,
};
use indexmap::IndexMap;
use jiff::Timestamp;
use kestrel_signal::exchange::ExchangeError;
use kestrel_signal::reading::DOUBTFUL;
use kestrel_signal::{Protocols, read_among};
use serde::Serialize;
use std::collections::{BTreeMap, HashMap, HashSet};
use utoipa::ToSchema;
use uuid::Uuid;

/// The largest file that is read, in bytes.
pub const MAX_BYTES: usize = 4_000_000;

/// What an import would do with a code.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum LineFate {
    /// The model gets a new function, and the device its code.
    NewFunction,
    /// The function has no code of this kind yet.
    NewCode,
    /// The function's code becomes another one.
    Replaces,
    /// The function holds this code already.
    Same,
    /// Nobody knows for which device it is.
    NoDevice,
}

/// One code of an import.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ImportLine {
    /// Where it stands in the file, counted from 1.
    pub line: usize,
    /// The device that gets it.
    pub device: Option<DeviceId>,
    /// The device that the file names.
    pub named: Option<String>,
    /// The function.
    pub name: String,
    /// The function that the model has under this name.
    pub function: Option<FunctionId>,
    /// What is sent, in words.
    pub summary: String,
    /// Was it understood? Timing, opaque payloads and typed bytes are not.
    pub decoded: bool,
    /// What would happen.
    pub fate: LineFate,
}

/// Reads a file that holds several codes, whatever its format; names the format.
///
/// # Errors
/// Where it holds no codes under names.
pub fn read(text: &str) -> Result<(&'static str, Import), ExchangeError> {
    read_with(text, Protocols::built_in())
}

/// The same with the protocols that a house knows.
///
/// # Errors
/// As above.
pub fn read_with(text: &str, known: &Protocols) -> Result<(&'static str, Import), ExchangeError> {
    if text.len() > MAX_BYTES {
        let why = format!("The file is {} bytes long; at most 4 MB can be read. Split it by device.", text.len());
        return Err(ExchangeError::Shape(why));
    }
    // Spreadsheets begin a file of UTF-8 with a byte order mark.
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    if text.trim().is_empty() {
        return Err(ExchangeError::Shape("The file is empty. Choose one that holds codes under names.".to_owned()));
    }
    if text.contains('\0') {
        return Err(ExchangeError::Shape("This is not text. Export the codes as a keymap or as CSV.".to_owned()));
    }
    let (format, mut import) = if keymap::looks_like(text) {
        ("keymap", keymap::read(text)?)
    } else if table::looks_like(text) {
        ("csv", table::read(text)?)
    } else if named::looks_like(text) {
        ("named captures", named::read(text)?)
    } else if let Some(heard) = recording::read(text, known) {
        ("recording", heard)
    } else {
        return Err(no_format());
    };
    if known.iter().len() > Protocols::built_in().iter().len() {
        import.found.iter_mut().for_each(|found| understood(&mut found.body, known));
    }
    import.number_repeats();
    Ok((format, import))
}

/// Timing that says something in a protocol that this house has described becomes a message.
fn understood(body: &mut CodeBody, known: &Protocols) {
    if let CodeBody::Raw { capture, medium: Medium::Ir } = body
        && let Some(best) = read_among(capture, known).best.filter(|best| best.confidence >= DOUBTFUL)
    {
        *body = CodeBody::heard(best.message, capture.carrier_hz(), best.whole_repeats);
    }
}

fn no_format() -> ExchangeError {
    ExchangeError::Shape(
        "This is neither a remote keymap ([[protocols]] …), nor a CSV with the columns function and code, nor captures under names (# Receiver · Disc), nor one long recording of several keys. A single capture is pasted at its function.".to_owned(),
    )
}

/// The codes of a device as an import for another one.
#[must_use]
pub fn of_device(site: &Site, device: DeviceId) -> Import {
    let Some(profile) = site.model_of(device) else { return Import::default() };
    let found = site.codes.iter().filter(|code| code.device == device).enumerate().filter_map(|(at, code)| {
        let function = profile.function(code.function)?;
        Some(Found {
            name: function.name.clone(),
            device: None,
            press: function.press,
            body: code.body.clone(),
            line: at + 1,
        })
    });
    Import { found: found.collect(), ..Import::default() }
}

/// The devices of a house by the names that a file may call them, and the functions of their models: looked up for
/// every line of a file.
struct Directory<'a> {
    site: &'a Site,
    /// The device that takes everything, whatever the file says.
    given: Option<DeviceId>,
    /// By name in small letters; none where two devices have it.
    devices: HashMap<String, Option<DeviceId>>,
    functions: HashMap<ProfileId, HashMap<String, FunctionId>>,
}

impl<'a> Directory<'a> {
    fn new(site: &'a Site, given: Option<DeviceId>) -> Self {
        let mut devices = HashMap::new();
        for device in &site.devices {
            devices.entry(device.name.to_lowercase()).and_modify(|known| *known = None).or_insert(Some(device.id));
        }
        Self { site, given, devices, functions: HashMap::new() }
    }

    fn device(&self, found: &Found) -> Option<DeviceId> {
        self.given.or_else(|| self.devices.get(&found.device.as_ref()?.to_lowercase()).copied().flatten())
    }

    /// The function that the model of a device has under this name.
    fn function(&mut self, device: DeviceId, name: &str) -> Option<FunctionId> {
        let model = self.site.model_of(device)?;
        self.functions_of(model).get(&name.to_lowercase()).copied()
    }

    fn functions_of(&mut self, model: &Profile) -> &mut HashMap<String, FunctionId> {
        self.functions.entry(model.id).or_insert_with(|| {
            // Of two with one name the first is meant.
            model.functions.iter().rev().map(|function| (function.name.to_lowercase(), function.id)).collect()
        })
    }
}

/// What would happen to each code. `device` takes all of them; without it the names in the file tell.
#[must_use]
pub fn preview(site: &Site, device: Option<DeviceId>, import: &Import) -> Vec<ImportLine> {
    let mut directory = Directory::new(site, device);
    import
        .found
        .iter()
        .map(|found| {
            let device = directory.device(found);
            let own = device.and_then(|device| directory.function(device, &found.name));
            let known = device.zip(own).and_then(|(device, function)| {
                site.codes_of(device, function).find(|code| code.body.medium() == found.body.medium())
            });
            let fate = match (device, own, known) {
                (None, ..) => LineFate::NoDevice,
                (_, None, _) => LineFate::NewFunction,
                (_, _, None) => LineFate::NewCode,
                (_, _, Some(code)) if code.body == found.body => LineFate::Same,
                _ => LineFate::Replaces,
            };
            ImportLine {
                line: found.line,
                device,
                named: found.device.clone(),
                name: found.name.clone(),
                function: own,
                summary: found.body.to_string(),
                decoded: found.body.is_decoded(),
                fate,
            }
        })
        .collect()
}

/// The entities that carry an import out: profiles with their new functions, then codes. `chosen` are places
/// in the list of [`preview`]; later ones of the same function win.
#[must_use]
pub fn entities(
    site: &Site,
    device: Option<DeviceId>,
    import: &Import,
    chosen: &[usize],
    now: Timestamp,
    fresh: &mut impl FnMut() -> Uuid,
) -> Vec<Entity> {
    let mut directory = Directory::new(site, device);
    let mut profiles: BTreeMap<ProfileId, Profile> = BTreeMap::new();
    let mut codes: IndexMap<(DeviceId, FunctionId, Medium), Code> = IndexMap::new();
    for found in chosen.iter().filter_map(|&at| import.found.get(at)) {
        let Some(device) = directory.device(found) else { continue };
        let Some(model) = site.model_of(device) else { continue };
        let profile = profiles.entry(model.id).or_insert_with(|| model.clone());
        let own = match directory.function(device, &found.name) {
            Some(function) => function,
            None => {
                let id = FunctionId(fresh());
                directory.functions_of(model).insert(found.name.to_lowercase(), id);
                profile.functions.push(Function {
                    id,
                    name: found.name.chars().take(NAME_MAX).collect(),
                    press: found.press,
                    frames: None,
                    answers_to: None,
                    means: Means::of_name(&found.name),
                    bounces: false,
                });
                id
            }
        };
        let medium = found.body.medium();
        let known = site.codes_of(device, own).find(|code| code.body.medium() == medium);
        if known.is_some_and(|code| code.body == found.body) {
            continue;
        }
        let id = known.map_or_else(|| fresh().into(), |code| code.id);
        let body = found.body.clone();
        let code = Code { id, device, function: own, body, captured: None, since: Some(now), tested: None };
        codes.insert((device, own, medium), code);
    }
    let changed = profiles.into_values().filter(|profile| site.profile(profile.id) != Some(profile));
    changed.map(Entity::Profile).chain(codes.into_values().map(Entity::Code)).collect()
}

/// The entities that keep keys for a device that were sent to it and worked: functions by their names where the
/// model lacks them, codes in the place of what was there, each tested.
#[must_use]
pub fn proven(
    site: &Site,
    device: DeviceId,
    keys: &[SetKey],
    note: &str,
    now: Timestamp,
    fresh: &mut impl FnMut() -> Uuid,
) -> Vec<Entity> {
    let found = keys.iter().enumerate().map(|(at, key)| Found {
        name: key.name.clone(),
        device: None,
        press: key.press,
        body: key.body.clone(),
        line: at + 1,
    });
    let import = Import { found: found.collect(), ..Import::default() };
    let chosen: Vec<usize> = (0..keys.len()).collect();
    let tested = Some(Tested { at: now, effect: TestEffect::Worked, note: note.to_owned() });
    let mut made = entities(site, Some(device), &import, &chosen, now, fresh);
    for entity in &mut made {
        if let Entity::Code(code) = entity {
            code.tested.clone_from(&tested);
        }
    }
    // A code that was there already is proved by it, too.
    let there = site.codes.iter().filter(|code| {
        let name = site.function_name(device, code.function).to_lowercase();
        code.device == device && keys.iter().any(|key| key.name.to_lowercase() == name && key.body == code.body)
    });
    made.extend(there.map(|code| Entity::Code(Code { tested: tested.clone(), ..code.clone() })));
    made
}

/// An import as a code set to try.
#[must_use]
pub fn as_set(import: &Import, name: &str, source: &str, fresh: &mut impl FnMut() -> Uuid) -> CodeSet {
    let mut keys: Vec<SetKey> = Vec::new();
    let mut names = HashSet::new();
    for found in &import.found {
        if names.insert(found.name.to_lowercase()) {
            keys.push(SetKey { name: found.name.clone(), press: found.press, body: found.body.clone() });
        }
    }
    CodeSet { id: fresh().into(), name: name.to_owned(), kind: None, source: source.to_owned(), keys }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::edit::{Edit, apply};
    use crate::model::{CodeBody, Press};

    const KEYMAP: &str = "[[protocols]]\nprotocol = \"nec\"\nvariant = \"necx\"\n[protocols.scancodes]\n0x117a31 = \"KEY_DVD\"\n0x117a02 = \"KEY_VOLUMEUP\"\n0x117a09 = \"KEY_VOLUMEDOWN\"\n0x117a40 = \"KEY_FROBNICATE\"\n";

    fn numbers() -> impl FnMut() -> Uuid {
        let mut next = 900u128;
        move || {
            next += 1;
            Uuid::from_u128(next)
        }
    }

    #[test]
    fn what_worked_is_kept_as_tested_and_what_was_there_is_proved() {
        let mut site = demo::marram_point();
        let device = ids::receiver();
        let there = site.codes.iter().find(|code| code.device == device).unwrap().clone();
        let key = |name: &str, body: CodeBody| SetKey { name: name.to_owned(), press: Press::default(), body };
        let keys = [
            key(&site.function_name(device, there.function).to_uppercase(), there.body.clone()),
            key("disc", demo::missing_code().unwrap()),
            key("Night mode", demo::missing_code().unwrap()),
        ];
        let made = proven(&site, device, &keys, "It hummed.", Timestamp::UNIX_EPOCH, &mut numbers());
        let codes: Vec<&Code> =
            made.iter().filter_map(|entity| if let Entity::Code(code) = entity { Some(code) } else { None }).collect();
        assert_eq!((made.len(), codes.len()), (4, 3), "one new function in the model, and three codes");
        assert!(codes.iter().all(|code| code.tested.as_ref().is_some_and(|t| t.note == "It hummed.")));
        assert!(codes.iter().any(|code| code.id == there.id), "it stays the same code");
        assert!(codes.iter().any(|code| code.function == ids::receiver_disc()), "names are compared without case");
        for entity in made {
            apply(&mut site, &Edit::Put { entity, base: None }).unwrap();
        }
        assert!(site.model_of(device).unwrap().functions.iter().any(|function| function.name == "Night mode"));
    }

    #[test]
    fn a_keymap_is_previewed_code_by_code() {
        let site = demo::marram_point();
        let (format, import) = read(KEYMAP).unwrap();
        let fates: Vec<(String, LineFate)> =
            preview(&site, Some(ids::receiver()), &import).into_iter().map(|line| (line.name, line.fate)).collect();
        let expected = [
            ("Disc", LineFate::NewCode),
            ("Volume up", LineFate::Same),
            ("Volume down", LineFate::Replaces),
            ("KEY_FROBNICATE", LineFate::NewFunction),
        ];
        assert_eq!(format, "keymap");
        assert_eq!(fates, expected.map(|(name, fate)| (name.to_owned(), fate)));
    }

    #[test]
    fn what_is_chosen_is_carried_out_and_the_rest_is_left() {
        let mut site = demo::marram_point();
        let (_, import) = read(KEYMAP).unwrap();
        let entities =
            entities(&site, Some(ids::receiver()), &import, &[0, 1, 3], Timestamp::UNIX_EPOCH, &mut numbers());
        assert_eq!(entities.len(), 3, "the profile with one more function, and two codes");
        for entity in entities {
            apply(&mut site, &Edit::Put { entity, base: None }).unwrap();
        }
        let after: Vec<LineFate> =
            preview(&site, Some(ids::receiver()), &import).into_iter().map(|line| line.fate).collect();
        assert_eq!(after, [LineFate::Same, LineFate::Same, LineFate::Replaces, LineFate::Same]);
    }

    #[test]
    fn names_of_devices_in_the_file_tell_where_codes_belong() {
        let site = demo::marram_point();
        let text = "device,function,code\nreceiver,Disc,nec address=1 command=2\nNobody,Disc,nec address=1 command=2\n";
        let (_, import) = read(text).unwrap();
        let lines = preview(&site, None, &import);
        assert_eq!((lines[0].device, lines[0].fate), (Some(ids::receiver()), LineFate::NewCode));
        assert_eq!((lines[1].device, lines[1].fate), (None, LineFate::NoDevice));
        assert!(entities(&site, None, &import, &[1], Timestamp::UNIX_EPOCH, &mut numbers()).is_empty());
    }

    #[test]
    fn codes_are_copied_from_one_device_to_another() {
        let site = demo::marram_point();
        let import = of_device(&site, ids::disc_player());
        let lines = preview(&site, Some(ids::cabin_disc_player()), &import);
        let replaced: Vec<&str> =
            lines.iter().filter(|l| l.fate == LineFate::Replaces).map(|l| l.name.as_str()).collect();
        assert_eq!(replaced, ["Power on", "Power off"], "those that were swapped");
    }

    #[test]
    fn key_names_that_repeat_in_one_file_are_each_kept_under_a_number_and_that_is_said() {
        let text = "[[protocols]]\nprotocol = \"nec\"\nvariant = \"nec\"\n[protocols.scancodes]\n0x0401 = \"KEY_OK\"\n0x0402 = \"KEY_OK\"\n0x0403 = \"KEY_OK\"\n0x0404 = \"KEY_FROBNICATE\"\n[[protocols]]\nprotocol = \"nec\"\nvariant = \"nec\"\n[protocols.scancodes]\n0x0404 = \"KEY_FROBNICATE\"\n";
        let (_, import) = read(text).unwrap();
        let names: Vec<&str> = import.found.iter().map(|found| found.name.as_str()).collect();
        assert_eq!(names, ["OK", "OK 2", "OK 3", "KEY_FROBNICATE"]);
        assert_eq!(
            import.remarks,
            [
                "One line with the same code of “KEY_FROBNICATE” once more is left out.",
                "“OK” stands 3 times with different codes: the others are kept as “OK 2” to “OK 3”.",
            ]
        );
        let site = demo::marram_point();
        let made =
            entities(&site, Some(ids::receiver()), &import, &[0, 1, 2, 3], Timestamp::UNIX_EPOCH, &mut numbers());
        let codes = made.iter().filter(|entity| matches!(entity, Entity::Code(_)));
        assert_eq!(codes.count(), 4, "no code is lost");
    }

    #[test]
    fn a_number_that_the_file_uses_itself_is_passed_over() {
        let text = "function,code\nDisc,nec address=1 command=2\ndisc 2,nec address=1 command=3\nDisc,nec address=1 command=4\n";
        let (_, import) = read(text).unwrap();
        let names: Vec<&str> = import.found.iter().map(|found| found.name.as_str()).collect();
        assert_eq!(names, ["Disc", "disc 2", "Disc 3"]);
        assert_eq!(import.remarks, ["“Disc” stands twice with different codes: the second is kept as “Disc 3”."]);
    }

    #[test]
    fn a_keymap_of_forty_thousand_scancodes_is_walked_once() {
        let mut text = "[[protocols]]\nprotocol = \"nec\"\nvariant = \"nec\"\n[protocols.scancodes]\n".to_owned();
        for code in 0..40_000 {
            text.push_str(&format!("0x{code:04x} = \"KEY_{}\"\n", code % 20_000));
        }
        let (_, import) = read(&text).unwrap();
        assert_eq!((import.found.len(), import.remarks.len()), (40_000, 51));
        assert_eq!(import.found[39_999].line, 40_004);
        assert_eq!(preview(&demo::marram_point(), Some(ids::receiver()), &import).len(), 40_000);
    }

    #[test]
    fn an_import_can_become_a_set_to_try() {
        let set = as_set(&read(KEYMAP).unwrap().1, "Found in a drawer", "a file", &mut numbers());
        assert_eq!(set.keys.len(), 4);
        assert!(set.key("volume UP").is_some());
    }

    #[test]
    fn what_is_no_file_of_codes_says_what_would_be() {
        for (text, expected) in [("", "is empty"), ("hello", "neither a remote keymap"), ("a\0b", "not text")] {
            assert!(read(text).unwrap_err().to_string().contains(expected), "{text}");
        }
        assert!(read(&"x".repeat(MAX_BYTES + 1)).unwrap_err().to_string().contains("4 MB"));
    }
}
