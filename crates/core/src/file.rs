//! The site file: the whole of a house as one open document.
//!
//! A `*.kdune.json` file holds `format`, `version` and `site`; docs/site.schema.json describes it. Writing
//! is stable (fields in the order of the types, entities in the order of [`Site::sort`]), and nothing is
//! lost: what was read is written again byte for byte, if this version wrote it. A file of a newer version,
//! one with a field that this version does not know, and one that refers to what is not there are refused
//! with the place.

use crate::edit::{self, EditError};
use crate::model::{Secrets, Site, leaving};
use crate::upgrade;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use thiserror::Error;
use utoipa::ToSchema;

/// The word by which a site file is known.
pub const FORMAT: &str = "kestrel-dune-site";

/// The version that is written, and the newest that is read.
pub const VERSION: u32 = 5;

/// The largest site file that is taken, in bytes; the largest house that fits the other bounds is a tenth of it.
pub const BYTES_MAX: usize = 200_000_000;

/// The most devices of a house.
pub const DEVICES_MAX: usize = 5_000;

/// The most codes of a house.
pub const CODES_MAX: usize = 200_000;

/// A site file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct SiteFile {
    /// Always `kestrel-dune-site`.
    pub format: String,
    /// The version of the format; this is 5.
    pub version: u32,
    /// The house.
    pub site: Site,
}

/// Why a site file cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum FileError {
    /// It is no JSON, or it ends too soon.
    #[error("line {line}, column {column}: {problem}. {}", if *.truncated { "The file ends too soon: copy it again, whole" } else { "Mend it there, or export it again" })]
    Malformed {
        /// From 1.
        line: usize,
        /// From 1.
        column: usize,
        /// What is wrong there.
        problem: String,
        /// Does it just end?
        truncated: bool,
    },
    /// It is something else.
    #[error("this is no site file: “format” is not “{FORMAT}”. Export one with kestrel-dune export")]
    NotOurs,
    /// Its version is none.
    #[error(
        "“version” is {0}; it is a whole number from 1 to {VERSION}. Export the file again with kestrel-dune export"
    )]
    NoVersion(String),
    /// It is of a later version.
    #[error("this file has version {0}; this program reads up to version {VERSION}. Take a newer one")]
    Newer(u64),
    /// It holds something that this version does not know.
    #[error("“{0}” is not known to this version, and would be lost. Take it out, or take a newer program")]
    Unknown(String),
    /// It is too large.
    #[error("there are {count} {what}; a house has at most {most}. Split the file")]
    TooMany {
        /// Of what.
        what: &'static str,
        /// How many.
        count: usize,
        /// How many fit.
        most: usize,
    },
    /// An entity contradicts itself, or refers to what is not there.
    #[error("{what}: {error}")]
    Wrong {
        /// Which entity.
        what: String,
        /// What is wrong with it.
        error: EditError,
    },
}

/// Reads a site file.
///
/// # Errors
/// A [`FileError`] with a sentence that says where and what to do.
pub fn read(text: &str) -> Result<Site, FileError> {
    // Some editors begin a file of UTF-8 with a byte order mark.
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let value: Value = serde_json::from_str(text).map_err(malformed)?;
    if value.get("format").and_then(Value::as_str) != Some(FORMAT) {
        return Err(FileError::NotOurs);
    }
    let version = match value.get("version").and_then(Value::as_u64) {
        Some(version) if version > u64::from(VERSION) => return Err(FileError::Newer(version)),
        Some(version @ 1..) => version,
        _ => {
            let told = value.get("version").map_or_else(|| "missing".to_owned(), Value::to_string);
            return Err(FileError::NoVersion(told.chars().take(40).collect()));
        }
    };
    let count = |name: &str| value.pointer(&format!("/site/{name}")).and_then(Value::as_array).map_or(0, Vec::len);
    for (what, most) in [
        ("rooms", edit::ROOMS_MAX),
        ("activities", edit::ACTIVITIES_MAX),
        ("devices", DEVICES_MAX),
        ("codes", CODES_MAX),
        ("profiles", DEVICES_MAX),
        ("connections", CODES_MAX),
        ("code_sets", DEVICES_MAX),
        ("pictures", DEVICES_MAX),
        ("protocols", DEVICES_MAX),
        ("placed", DEVICES_MAX),
        ("measurements", CODES_MAX),
        ("results", CODES_MAX),
        ("orders", CODES_MAX),
    ] {
        if count(what) > most {
            return Err(FileError::TooMany { what, count: count(what), most });
        }
    }
    if version < u64::from(VERSION) {
        return older(value, version);
    }
    // From the text again: errors then have a line.
    let file: SiteFile = serde_json::from_str(text).map_err(malformed)?;
    let mut site = file.site;
    let known = serde_json::to_value(&site).map_err(malformed)?;
    if let Some(lost) = value.get("site").and_then(|given| unknown(given, &known, "site")) {
        return Err(FileError::Unknown(lost));
    }
    site.sort();
    validated(&site)?;
    Ok(site)
}

/// Reads a file of an older version: brought up to date first.
fn older(mut value: Value, version: u64) -> Result<Site, FileError> {
    let mut given = value.get_mut("site").map(Value::take).unwrap_or_default();
    // Versions 3 to 5 only say more than the one before.
    if version < 2 {
        upgrade::site(&mut given);
    }
    let mut site: Site = serde_json::from_value(given.clone()).map_err(malformed)?;
    let known = serde_json::to_value(&site).map_err(malformed)?;
    if let Some(lost) = unknown(&given, &known, "site") {
        return Err(FileError::Unknown(lost));
    }
    site.sort();
    if version < 4 {
        upgrade::plain_names(&mut site);
    }
    upgrade::from_the_profile(&mut site);
    validated(&site)?;
    upgrade::settle(&mut site);
    Ok(site)
}

/// Writes a site file, ending with a line break. Leave to drive real devices is never in it.
#[must_use]
pub fn write(site: &Site) -> String {
    let mut site = leaving(site, Secrets::Kept);
    site.sort();
    let file = SiteFile { format: FORMAT.to_owned(), version: VERSION, site };
    let mut text = serde_json::to_string_pretty(&file).unwrap_or_default();
    text.push('\n');
    text
}

/// The JSON Schema of the site file (2020-12), made from the types.
#[must_use]
pub fn schema() -> Value {
    let mut schemas = Vec::new();
    SiteFile::schemas(&mut schemas);
    let defs: serde_json::Map<String, Value> =
        schemas.into_iter().filter_map(|(name, schema)| Some((name, serde_json::to_value(schema).ok()?))).collect();
    let own = serde_json::to_value(<SiteFile as utoipa::PartialSchema>::schema()).unwrap_or_default();
    let mut whole = serde_json::json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Kestrel Dune site file, version 5",
    });
    if let (Some(whole), Value::Object(own)) = (whole.as_object_mut(), own) {
        whole.extend(own);
        whole.insert("$defs".to_owned(), Value::Object(defs));
    }
    bound(&mut whole);
    let text = whole.to_string().replace("#/components/schemas/", "#/$defs/");
    serde_json::from_str(&text).unwrap_or_default()
}

/// The greatest whole number that every reader of JSON keeps exactly (RFC 8259, section 6): 2^53 − 1.
const EXACT: i64 = 9_007_199_254_740_991;

/// Gives every whole number in a schema the bounds of its type, within those that it has already.
pub fn bound(schema: &mut Value) {
    match schema {
        Value::Array(list) => list.iter_mut().for_each(bound),
        Value::Object(fields) => {
            let (least, greatest) = match fields.get("format").and_then(Value::as_str) {
                Some("int8") => (i8::MIN.into(), i8::MAX.into()),
                Some("int16") => (i16::MIN.into(), i16::MAX.into()),
                Some("int32") => (i32::MIN.into(), i32::MAX.into()),
                Some("int64") => (-EXACT, EXACT),
                Some("u-int8") => (0, u8::MAX.into()),
                Some("u-int16") => (0, u16::MAX.into()),
                Some("u-int32") => (0, u32::MAX.into()),
                Some("u-int64") => (0, EXACT),
                _ if fields.get("type").is_some_and(|kind| kind == "integer" || kind[0] == "integer") => (0, EXACT),
                _ => return fields.values_mut().for_each(bound),
            };
            fields.remove("format");
            fields.entry("minimum").or_insert(least.into());
            fields.entry("maximum").or_insert(greatest.into());
        }
        _ => {}
    }
}

fn malformed(error: serde_json::Error) -> FileError {
    let text = error.to_string();
    let problem = text.split(" at line ").next().unwrap_or(&text).to_owned();
    FileError::Malformed { line: error.line(), column: error.column(), problem, truncated: error.is_eof() }
}

/// The place of a field that was given and is not known.
fn unknown(given: &Value, known: &Value, place: &str) -> Option<String> {
    match (given, known) {
        (Value::Object(given), Value::Object(known)) => given.iter().find_map(|(name, value)| {
            let here = format!("{place}.{name}");
            match known.get(name) {
                Some(own) => unknown(value, own, &here),
                // What is empty may be left out when it is written.
                None if is_empty(value) => None,
                None => Some(here),
            }
        }),
        (Value::Array(given), Value::Array(known)) => given
            .iter()
            .zip(known)
            .enumerate()
            .find_map(|(at, (given, known))| unknown(given, known, &format!("{place}[{at}]"))),
        _ => None,
    }
}

fn is_empty(value: &Value) -> bool {
    match value {
        Value::Null => true,
        Value::Array(list) => list.is_empty(),
        Value::Object(fields) => fields.is_empty(),
        _ => false,
    }
}

/// Every id once, and every entity one that an edit would accept.
fn validated(site: &Site) -> Result<(), FileError> {
    edit::whole(site)
        .map_err(|(key, error)| FileError::Wrong { what: format!("{} {}", key.kind.word(), key.id), error })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo;
    use rstest::rstest;
    use std::collections::BTreeSet;

    #[test]
    fn what_is_written_is_read_and_written_again_byte_for_byte() {
        let text = write(&demo::marram_point());
        let site = read(&text).unwrap();
        assert_eq!(site, demo::marram_point());
        assert_eq!(write(&site), text);
    }

    #[rstest]
    #[case::newer(|text: &str| text.replacen("\"version\": 5", "\"version\": 6", 1), "reads up to version 5")]
    #[case::truncated(|text: &str| text[..text.len() / 2].to_owned(), "The file ends too soon")]
    #[case::other(|_: &str| "{\"format\": \"else\"}".to_owned(), "no site file")]
    #[case::no_json(|_: &str| "hello".to_owned(), "line 1, column 1")]
    #[case::unknown(|text: &str| text.replacen("\"house\": {", "\"house\": { \"moon\": 1,", 1), "“site.house.moon” is not known")]
    #[case::no_id(|text: &str| text.replacen("\"id\": \"", "\"id\": \"x", 1), "invalid character")]
    #[case::empty(|_: &str| String::new(), "ends too soon")]
    #[case::negative(|text: &str| text.replacen("\"version\": 5", "\"version\": -1", 1), "“version” is -1; it is a whole number from 1 to 5")]
    #[case::no_version(|text: &str| text.replacen("\"version\": 5,", "", 1), "“version” is missing")]
    #[case::far_back(|text: &str| text.replacen("\"position\": 0", "\"position\": 2147483648", 1), "2147483648 is too far back")]
    fn a_bad_file_is_refused_with_the_place(#[case] spoil: fn(&str) -> String, #[case] expected: &str) {
        let error =
            read(&spoil(&write(&demo::marram_point()))).err().map(|error| error.to_string()).unwrap_or_default();
        assert!(error.contains(expected), "{error}");
    }

    #[test]
    fn an_activity_whose_source_is_gone_is_named() {
        let mut site = demo::marram_point();
        site.activities[0].source = crate::id::DeviceId(uuid::Uuid::from_u128(5));
        let error = read(&write(&site)).unwrap_err().to_string();
        assert!(error.starts_with("activity ") && error.contains("source"), "{error}");
    }

    #[test]
    fn a_million_devices_are_refused_before_they_are_looked_at() {
        let devices = vec!["0"; 1_000_000].join(",");
        let text = format!("{{\"format\":\"{FORMAT}\",\"version\":1,\"site\":{{\"devices\":[{devices}]}}}}");
        let error = read(&text).unwrap_err().to_string();
        assert!(error.contains("1000000 devices; a house has at most 5000"), "{error}");
    }

    #[test]
    fn a_byte_order_mark_is_passed_over() {
        let text = write(&demo::marram_point());
        assert_eq!(read(&format!("\u{feff}{text}")).unwrap(), demo::marram_point());
    }

    #[rstest]
    #[case::rooms("rooms", "20007 rooms; a house has at most 1000")]
    #[case::activities("activities", "20012 activities; a house has at most 5000")]
    fn twenty_thousand_of_one_kind_are_refused_before_they_are_compared(#[case] what: &str, #[case] expected: &str) {
        let mut file: Value = serde_json::from_str(&write(&demo::marram_point())).unwrap();
        let list = file["site"][what].as_array_mut().unwrap();
        list.extend((0..20_000).map(|n| serde_json::json!({ "name": format!("Number {n}") })));
        let error = read(&file.to_string()).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }

    #[test]
    fn names_that_are_taken_are_found_in_a_large_file() {
        let mut site = demo::marram_point();
        let one = site.activities[0].clone();
        for n in 0..4_000u128 {
            let id = crate::id::ActivityId(uuid::Uuid::from_u128(n + 7));
            site.activities.push(crate::model::Activity { id, name: format!("Number {n}"), ..one.clone() });
        }
        assert!(read(&write(&site)).is_ok());
        site.activities.last_mut().unwrap().name = "NUMBER 7".to_owned();
        let error = read(&write(&site)).unwrap_err().to_string();
        assert!(error.contains("is taken"), "{error}");
    }

    #[test]
    fn the_schema_names_every_type_that_it_refers_to() {
        let schema = schema().to_string();
        let names: BTreeSet<&str> =
            schema.split("#/$defs/").skip(1).filter_map(|rest| rest.split('"').next()).collect();
        assert!(names.len() > 20, "{names:?}");
        for name in names {
            assert!(schema.contains(&format!("\"{name}\":{{")), "{name} is missing");
        }
    }
}
