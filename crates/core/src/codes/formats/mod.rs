//! The open file formats that hold several codes.
//!
//! | format | holds | module |
//! | --- | --- | --- |
//! | signed text, each with its `# name` | captures | [`named`] |
//! | Linux remote keymap (TOML) | decoded infrared codes and raw timing | [`keymap`] |
//! | code set CSV | every code, field by field | [`table`] |
//! | one long recording | every key of a handset, pressed in turn | [`recording`] |
//!
//! What holds a single capture is read by [`kestrel_signal::exchange`].

use crate::model::NAME_MAX;
use std::collections::{BTreeMap, HashMap, HashSet};

pub mod keymap;
pub mod named;
pub mod recording;
pub mod table;

/// A code as an import finds it: a name and what is sent.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Found {
    /// The name of the function.
    pub name: String,
    /// The device that the file names, if it does.
    pub device: Option<String>,
    /// How its key is pressed.
    pub press: crate::model::Press,
    /// What is sent.
    pub body: crate::model::CodeBody,
    /// The line of the file where it stands, counted from 1.
    pub line: usize,
}

/// A line of a file that could not be read.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, utoipa::ToSchema)]
pub struct Unread {
    /// Counted from 1.
    pub line: usize,
    /// What is wrong with it.
    pub why: String,
}

/// What was found in a file that holds several codes.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Import {
    /// The codes.
    pub found: Vec<Found>,
    /// The lines that could not be read.
    pub unread: Vec<Unread>,
    /// What was done about names that stand more than once.
    pub remarks: Vec<String>,
}

impl Import {
    /// One name can hold one code of a kind: of several the first keeps the name, and each other one gets a number
    /// behind it. The same code once more is left out. Both are said.
    pub(super) fn number_repeats(&mut self) {
        let key = |found: &Found, name: &str| (found.device.clone(), name.to_lowercase(), found.body.medium());
        let mut taken: HashMap<_, HashSet<String>> = HashMap::new();
        let mut repeats: BTreeMap<String, Repeat> = BTreeMap::new();
        // Names that the file itself has are not given to anything else.
        let own: HashSet<_> = self.found.iter().map(|found| key(found, &found.name)).collect();
        let mut next: HashMap<_, u32> = HashMap::new();
        let mut kept = Vec::with_capacity(self.found.len());
        for mut found in std::mem::take(&mut self.found) {
            let place = key(&found, &found.name);
            let there = taken.entry(place.clone()).or_default();
            if !there.insert(serde_json::to_string(&found.body).unwrap_or_default()) {
                repeats.entry(found.name.clone()).or_default().same += 1;
                continue;
            }
            if there.len() > 1 {
                let plain = found.name.clone();
                let number = next.entry(place).or_insert(1);
                loop {
                    *number += 1;
                    found.name = numbered(&plain, *number);
                    if !own.contains(&key(&found, &found.name)) {
                        break;
                    }
                }
                repeats.entry(plain).or_default().names.push(found.name.clone());
            }
            kept.push(found);
        }
        self.found = kept;
        let more = repeats.len().saturating_sub(REMARKS);
        self.remarks.extend(repeats.into_iter().take(REMARKS).map(|(name, repeat)| repeat.told(&name)));
        if more > 0 {
            self.remarks.push(format!("{more} more names stand more than once and are numbered in the same way."));
        }
    }
}

/// So many repeated names are told one by one.
const REMARKS: usize = 50;

/// A name with a number behind it, as long as a name may be.
fn numbered(name: &str, number: u32) -> String {
    let ending = format!(" {number}");
    name.chars().take(NAME_MAX - ending.len()).chain(ending.chars()).collect()
}

/// What became of the repeats of a name.
#[derive(Default)]
struct Repeat {
    names: Vec<String>,
    same: usize,
}

impl Repeat {
    fn told(&self, name: &str) -> String {
        let other = match self.names.as_slice() {
            [] => String::new(),
            [only] => format!("“{name}” stands twice with different codes: the second is kept as “{only}”. "),
            [first, .., last] => format!(
                "“{name}” stands {} times with different codes: the others are kept as “{first}” to “{last}”. ",
                self.names.len() + 1,
            ),
        };
        let same = match self.same {
            0 => String::new(),
            1 => format!("One line with the same code of “{name}” once more is left out. "),
            more => format!("{more} lines with the same code of “{name}” again are left out. "),
        };
        format!("{other}{same}").trim_end().to_owned()
    }
}
