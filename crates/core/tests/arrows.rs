//! The order of modules: in every crate each one uses only those that stand before it. A reader who knows where a matter
//! stands knows what it can depend on, and a change to the right never touches what is to the left.
//!
//! The arrows are read from the sources: `use crate::x`, `crate::x::…` and `use super::x` between siblings. Tests are left
//! out: they may use anything. There are no exceptions.

#![allow(clippy::unwrap_used, clippy::panic, reason = "a test")]

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

/// The modules of each crate, each before those that use it.
const ORDER: [(&str, &[&str]); 5] = [
    (
        "signal",
        &[
            "capture", "envelope", "text", "clean", "layout", "protocol", "reading", "combine", "propose", "radio",
            "long", "payload", "ip", "exchange",
        ],
    ),
    (
        "core",
        &[
            "id",
            "words",
            "sheet",
            "model",
            "finding",
            "evidence",
            "codes",
            "device",
            "wiring",
            "space",
            "plan",
            "kit",
            "light",
            "prove",
            "room",
            "adopt",
            "cue",
            "surface",
            "commission",
            "service",
            "papers",
            "next",
            "check",
            "summary",
            "edit",
            "compare",
            "library",
            "begin",
            "upgrade",
            "file",
            "demo",
        ],
    ),
    (
        "bench",
        &[
            "lines",
            "clock",
            "air",
            "net",
            "bus",
            "wire",
            "world",
            "standin",
            "drive",
            "belief",
            "wires",
            "runtime",
            "pressed",
            "mind",
            "handset",
            "rehearsal",
            "learning",
            "story",
            "tested",
            "trials",
        ],
    ),
    (
        "store",
        &[
            "schema",
            "error",
            "rows",
            "kept",
            "history",
            "house",
            "links",
            "under_way",
            "attempts",
            "calls",
            "logbook",
            "handovers",
            "sessions",
            "shelf",
            "backup",
            "migrate",
            "testing",
        ],
    ),
    (
        "server",
        &[
            "problem", "console", "work", "chime", "access", "password", "views", "houses", "guard", "backup",
            "summary", "page", "routes", "upgrade", "listen", "serve", "verbs", "visit", "spatial", "cli", "main",
        ],
    ),
];

fn sources(crate_name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..").join(crate_name).join("src")
}

/// The files of a folder and below it with their paths from there, tests left out.
fn files(root: &Path, below: &Path, found: &mut Vec<(String, String)>) {
    for entry in fs::read_dir(below).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap().to_string_lossy().into_owned();
        if path.is_dir() {
            if name != "tests" {
                files(root, &path, found);
            }
        } else if name.ends_with(".rs") && name != "tests.rs" && name != "lib.rs" {
            let relative = path.strip_prefix(root).unwrap().to_string_lossy().replace(".rs", "");
            found.push((relative, code(&fs::read_to_string(&path).unwrap())));
        }
    }
}

/// A file without comments and without its tests.
fn code(text: &str) -> String {
    let until = text.find("#[cfg(test)]\nmod tests {").unwrap_or(text.len());
    let plain = text[..until].lines().map(|line| line.split("//").next().unwrap_or(""));
    plain.collect::<Vec<_>>().join("\n")
}

/// The names that follow `prefix` in a text: `crate::x`, `crate::{x, y::z}`.
fn named(text: &str, prefix: &str) -> BTreeSet<String> {
    let mut names = BTreeSet::new();
    for (at, _) in text.match_indices(prefix) {
        let before = text[..at].chars().next_back();
        if before.is_some_and(|c| c.is_alphanumeric() || c == '_' || c == ':') {
            continue;
        }
        let rest = &text[at + prefix.len()..];
        match rest.strip_prefix('{') {
            Some(group) => {
                let mut depth = 0;
                let mut part = String::new();
                for letter in group.chars() {
                    match letter {
                        '{' => depth += 1,
                        '}' if depth == 0 => break,
                        '}' => depth -= 1,
                        ',' if depth == 0 => drop(names.insert(word(&std::mem::take(&mut part)))),
                        other if depth == 0 => part.push(other),
                        _ => {}
                    }
                }
                names.insert(word(&part));
            }
            None => {
                names.insert(word(rest));
            }
        }
    }
    names
}

fn word(text: &str) -> String {
    text.trim_start().chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect()
}

#[test]
fn every_module_uses_only_those_before_it() {
    let mut wrong = Vec::new();
    for (crate_name, order) in ORDER {
        let root = sources(crate_name);
        let mut found = Vec::new();
        files(&root, &root, &mut found);
        for (file, text) in &found {
            let own = file.split('/').next().unwrap();
            let Some(place) = order.iter().position(|known| *known == own) else {
                wrong.push(format!("{crate_name}/{file}: the module “{own}” has no place in the order: give it one"));
                continue;
            };
            for used in named(text, "crate::") {
                if order.iter().position(|known| *known == used).is_some_and(|other| other > place) {
                    wrong.push(format!("{crate_name}/{file} uses {used}, which stands after {own}"));
                }
            }
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
}

/// Siblings of one folder do not use each other in a circle either.
#[test]
fn no_files_of_a_folder_use_each_other_in_a_circle() {
    let mut wrong = Vec::new();
    for (crate_name, _) in ORDER {
        let root = sources(crate_name);
        let mut found = Vec::new();
        files(&root, &root, &mut found);
        let mut folders: BTreeMap<String, BTreeMap<String, BTreeSet<String>>> = BTreeMap::new();
        for (file, text) in &found {
            let (folder, name) = file.rsplit_once('/').unwrap_or(("", file));
            if name != "mod" && !folder.is_empty() {
                let path = format!("crate::{}::", folder.replace('/', "::"));
                let mut used = named(text, "super::");
                used.extend(named(text, &path));
                folders.entry(folder.to_owned()).or_default().insert(name.to_owned(), used);
            }
        }
        for (folder, files) in &folders {
            for start in files.keys() {
                if let Some(way) = way_back(files, start) {
                    wrong.push(format!("{crate_name}/{folder}: {}", way.join(" → ")));
                }
            }
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
}

/// A way from a file back to itself.
fn way_back(files: &BTreeMap<String, BTreeSet<String>>, start: &str) -> Option<Vec<String>> {
    let mut ways = vec![vec![start.to_owned()]];
    let mut seen = BTreeSet::new();
    while let Some(way) = ways.pop() {
        for next in files.get(way.last()?)?.iter().filter(|next| files.contains_key(*next)) {
            if next == start && way.len() > 1 {
                return Some([way.as_slice(), std::slice::from_ref(next)].concat());
            }
            if next != way.last()? && seen.insert(next.clone()) {
                ways.push([way.as_slice(), std::slice::from_ref(next)].concat());
            }
        }
    }
    None
}

#[test]
fn the_reader_of_arrows_sees_groups_and_skips_other_paths() {
    let text = "use crate::{edit::{Change, Edit}, model};\nlet x = crate::plan::seconds;\nuse other_crate::wiring;";
    let expected: BTreeSet<String> = ["edit", "model", "plan"].map(str::to_owned).into();
    assert_eq!(named(text, "crate::"), expected);
}
