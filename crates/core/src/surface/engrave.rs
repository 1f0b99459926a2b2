//! Labels: what is cut, printed, stuck on or raised, at true scale.
//!
//! A capital is about 0.9 of its height wide with its gap (*your own measure*: take it from the letters of the
//! engraver). Braille cells follow the usual figures of raised labels (*from memory*): dots 2.5 mm apart, cells 6.0 mm,
//! lines 10.0 mm, dots 1.5 mm across.

use crate::id::KeyId;
use crate::model::{GAP_MM, Surface, SurfaceKey, SurfacePage};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use svg::Document;
use svg::node::element::{Circle, Group, Rectangle, Text};
use utoipa::ToSchema;

/// What is made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Labels {
    /// The whole face, to be engraved.
    Engraved,
    /// One sticker a key, with room to cut.
    Stickers,
    /// Raised dots, one label a key.
    Braille,
}

/// How a label fits on its key.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Fit {
    /// Which key.
    pub key: KeyId,
    /// What is written on it.
    pub label: String,
    /// Letters that fit on a line.
    pub letters: u32,
    /// Lines that fit.
    pub lines: u32,
    /// The label in lines.
    pub set: Vec<String>,
    /// Does it fit?
    pub fits: bool,
}

/// May it be cut?
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Trying {
    /// Whole days since the trial began; none where it has not.
    pub days_in_use: Option<u32>,
    /// Whole days since the last change, or since the trial began.
    pub days_quiet: Option<u32>,
    /// Changes since the trial began.
    pub changes: u32,
    /// Is engraving offered?
    pub offered: bool,
    /// Why not, and what to do.
    pub why_not: Option<String>,
}

/// The width of a capital and its gap, in heights of a capital.
const ADVANCE: f64 = 0.9;

/// From line to line, in heights of a capital.
const LEADING: f64 = 1.6;

/// How the label of a key fits.
#[must_use]
pub fn fit(surface: &Surface, key: &SurfaceKey) -> Fit {
    let (wide, high) = surface.key_mm(key);
    let capital = f64::from(surface.letter_tenths_mm) / 10.0;
    let whole = |value: f64| if value < 1.0 { 0 } else { value.floor().min(1_000.0) as u32 };
    let letters = whole((wide - 1.0) / (capital * ADVANCE));
    let lines = whole((high - 1.0) / (capital * LEADING));
    let set = set(&key.label, usize::try_from(letters).unwrap_or(0));
    let fits = set.len() <= usize::try_from(lines).unwrap_or(0)
        && set.iter().all(|line| line.chars().count() <= usize::try_from(letters).unwrap_or(0));
    Fit { key: key.id, label: key.label.clone(), letters, lines, set, fits }
}

/// Words in lines of so many letters; a word that is too long has a line of its own.
fn set(label: &str, letters: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in label.split_whitespace() {
        match lines.last_mut() {
            Some(line) if line.chars().count() + 1 + word.chars().count() <= letters => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(word.to_owned()),
        }
    }
    lines
}

/// Dots of a letter, as a number of bits: dot 1 is bit 0 (six-dot braille, ISO 11548-1 and Unicode U+2800).
fn dots(letter: char) -> Option<u8> {
    const LETTERS: [u8; 26] = [
        0x01, 0x03, 0x09, 0x19, 0x11, 0x0b, 0x1b, 0x13, 0x0a, 0x1a, 0x05, 0x07, 0x0d, 0x1d, 0x15, 0x0f, 0x1f, 0x17,
        0x0e, 0x1e, 0x25, 0x27, 0x3a, 0x2d, 0x3d, 0x35,
    ];
    match letter {
        'a'..='z' => LETTERS.get(usize::from(u8::try_from(letter).ok()? - b'a')).copied(),
        ' ' => Some(0),
        '-' => Some(0x24),
        '/' => Some(0x0c),
        _ => None,
    }
}

/// The sign before figures.
const NUMBER: u8 = 0x3c;

/// A label in uncontracted braille, as dots of each cell. Letters that have none are left out.
#[must_use]
pub fn braille(label: &str) -> Vec<u8> {
    let mut cells = Vec::new();
    let mut figures = false;
    for letter in label.to_lowercase().chars() {
        if let Some(digit) = letter.to_digit(10) {
            if !figures {
                cells.push(NUMBER);
            }
            figures = true;
            // 1 to 9 and 0 are a to j.
            cells.extend(dots(char::from(b'a' + u8::try_from((digit + 9) % 10).unwrap_or(0))));
        } else {
            figures = false;
            cells.extend(dots(letter));
        }
    }
    cells
}

/// Cells as the characters that show them.
#[must_use]
pub fn braille_text(cells: &[u8]) -> String {
    cells.iter().filter_map(|dots| char::from_u32(0x2800 + u32::from(*dots))).collect()
}

const DOT_MM: f64 = 2.5;
const CELL_MM: f64 = 6.0;
const LINE_MM: f64 = 10.0;

/// How far apart stickers lie.
const CUT_MM: f64 = 4.0;

/// A sheet of one page as SVG, in mm at true scale.
#[must_use]
pub fn sheet(surface: &Surface, page: &SurfacePage, labels: Labels) -> String {
    match labels {
        Labels::Engraved => engraved(surface, page),
        Labels::Stickers => stickers(surface, page),
        Labels::Braille => raised(page),
    }
}

fn document(wide: f64, high: f64) -> Document {
    Document::new()
        .set("width", format!("{wide:.2}mm"))
        .set("height", format!("{high:.2}mm"))
        .set("viewBox", format!("0 0 {wide:.2} {high:.2}"))
}

fn outline(x: f64, y: f64, wide: f64, high: f64, dashed: bool) -> Rectangle {
    let rectangle = Rectangle::new()
        .set("x", format!("{x:.2}"))
        .set("y", format!("{y:.2}"))
        .set("width", format!("{wide:.2}"))
        .set("height", format!("{high:.2}"))
        .set("rx", 1)
        .set("fill", "none")
        .set("stroke", "#000000")
        .set("stroke-width", "0.15");
    if dashed { rectangle.set("stroke-dasharray", "1 1") } else { rectangle }
}

/// A label in the middle of its key.
fn label(surface: &Surface, key: &SurfaceKey, x: f64, y: f64, wide: f64, high: f64) -> Group {
    let capital = f64::from(surface.letter_tenths_mm) / 10.0;
    let lines = fit(surface, key).set;
    let block = capital * LEADING * (lines.len().saturating_sub(1)) as f64;
    let mut group = Group::new();
    for (at, line) in lines.into_iter().enumerate() {
        let base = y + high / 2.0 - block / 2.0 + capital / 2.0 + at as f64 * capital * LEADING;
        // A capital is about 0.7 of the size of its type.
        let text = Text::new(line)
            .set("x", format!("{:.2}", x + wide / 2.0))
            .set("y", format!("{base:.2}"))
            .set("text-anchor", "middle")
            .set("font-family", "Atkinson Hyperlegible Next, sans-serif")
            .set("font-size", format!("{:.2}", capital / 0.7))
            .set("fill", "#000000");
        group = group.add(text);
    }
    group
}

fn engraved(surface: &Surface, page: &SurfacePage) -> String {
    let (wide, high) = (f64::from(surface.width_mm), f64::from(surface.height_mm));
    let (cell_wide, cell_high) = surface.cell_mm();
    let mut document = document(wide, high).add(outline(0.1, 0.1, wide - 0.2, high - 0.2, false));
    for key in &page.keys {
        let (key_wide, key_high) = surface.key_mm(key);
        let x = f64::from(key.column) * cell_wide + GAP_MM / 2.0;
        let y = f64::from(key.row) * cell_high + GAP_MM / 2.0;
        document =
            document.add(outline(x, y, key_wide, key_high, true)).add(label(surface, key, x, y, key_wide, key_high));
    }
    document.to_string()
}

/// Stickers in rows, in the order of the keys.
fn stickers(surface: &Surface, page: &SurfacePage) -> String {
    let across: f64 = 180.0;
    let (mut x, mut y, mut row): (f64, f64, f64) = (0.0, 0.0, 0.0);
    let mut placed = Vec::new();
    for key in &page.keys {
        let (wide, high) = surface.key_mm(key);
        if x > 0.0 && x + wide > across {
            (x, y, row) = (0.0, y + row + CUT_MM, 0.0);
        }
        placed.push((key, x, y, wide, high));
        x += wide + CUT_MM;
        row = row.max(high);
    }
    let mut document = document(across, (y + row).max(1.0));
    for (key, x, y, wide, high) in placed {
        document = document.add(outline(x, y, wide, high, true)).add(label(surface, key, x, y, wide, high));
    }
    document.to_string()
}

/// Raised labels, one a line, with the words beside them for whoever sticks them on.
fn raised(page: &SurfacePage) -> String {
    let labels: Vec<(&str, Vec<u8>)> = page.keys.iter().map(|key| (key.label.as_str(), braille(&key.label))).collect();
    let longest = labels.iter().map(|(_, cells)| cells.len()).max().unwrap_or(1);
    let wide = longest as f64 * CELL_MM + 60.0;
    let mut document = document(wide, (labels.len() as f64 * LINE_MM).max(1.0));
    for (line, (words, cells)) in labels.iter().enumerate() {
        let top = line as f64 * LINE_MM + 2.0;
        for (at, cell) in cells.iter().enumerate() {
            for dot in 0..6u8 {
                if cell & (1 << dot) == 0 {
                    continue;
                }
                let x = at as f64 * CELL_MM + 1.5 + f64::from(dot / 3) * DOT_MM;
                let y = top + f64::from(dot % 3) * DOT_MM;
                let circle = Circle::new().set("cx", format!("{x:.2}")).set("cy", format!("{y:.2}")).set("r", "0.75");
                document = document.add(circle);
            }
        }
        let text = Text::new(*words)
            .set("x", format!("{:.2}", longest as f64 * CELL_MM + 4.0))
            .set("y", format!("{:.2}", top + 4.0))
            .set("font-size", "4");
        document = document.add(text);
    }
    document.to_string()
}

/// Is the trial over? `changed` are the times at which the surface was changed.
#[must_use]
pub fn trying(surface: &Surface, changed: &[Timestamp], unreviewed: bool, now: Timestamp) -> Trying {
    let Some(trial) = &surface.trial else {
        return Trying {
            days_in_use: None,
            days_quiet: None,
            changes: 0,
            offered: false,
            why_not: Some("Let the family use it first: begin a trial.".to_owned()),
        };
    };
    let days =
        |since: Timestamp| u32::try_from((now.as_second() - since.as_second()).max(0) / 86_400).unwrap_or(u32::MAX);
    let since: Vec<Timestamp> = changed.iter().copied().filter(|at| *at > trial.since).collect();
    let quiet = days(since.iter().max().copied().unwrap_or(trial.since));
    let wanted = u32::from(trial.quiet_days);
    let misfit = surface.labelled().map(|key| fit(surface, key)).find(|fit| !fit.fits && !fit.label.is_empty());
    let why_not = if quiet < wanted {
        Some(format!("Nothing has changed for {quiet} of {wanted} days."))
    } else if unreviewed {
        Some("The household has stored looks that nobody has reviewed: see Cues.".to_owned())
    } else {
        misfit.map(|fit| format!("“{}” does not fit: {} letters do. Shorten it.", fit.label, fit.letters))
    };
    Trying {
        days_in_use: Some(days(trial.since)),
        days_quiet: Some(quiet),
        changes: u32::try_from(since.len()).unwrap_or(u32::MAX),
        offered: why_not.is_none(),
        why_not,
    }
}
