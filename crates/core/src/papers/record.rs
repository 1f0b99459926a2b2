//! The as-built record: what stands where, how it is reached, what was proved, measured and tested.

use super::Made;
use super::html::{escaped, page, place, table};
use super::orders::orders;
use crate::codes::state_of;
use crate::commission::{TestLine, TestState};
use crate::evidence::known;
use crate::finding::{Finding, Weight};
use crate::id::{DeviceId, RoomId};
use crate::model::{Basis, Site, Timing, cue_words, situation_name};
use crate::prove::Matrix;
use crate::words::{and, seconds};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::fmt::Write as _;
use utoipa::ToSchema;

/// A chapter of the record.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[schema(as = RecordChapter)]
#[allow(missing_docs, reason = "named as what they are")]
pub enum Chapter {
    Cautions,
    Devices,
    Plan,
    Wiring,
    Control,
    Codes,
    Activities,
    Matrix,
    Cues,
    Surfaces,
    Measurements,
    Tests,
    Open,
}

impl Chapter {
    /// Every one of them, in their order.
    pub const ALL: [Self; 13] = [
        Self::Cautions,
        Self::Devices,
        Self::Plan,
        Self::Wiring,
        Self::Control,
        Self::Codes,
        Self::Activities,
        Self::Matrix,
        Self::Cues,
        Self::Surfaces,
        Self::Measurements,
        Self::Tests,
        Self::Open,
    ];

    /// Its title.
    #[must_use]
    pub const fn title(self) -> &'static str {
        match self {
            Self::Cautions => "Cautions",
            Self::Devices => "Devices",
            Self::Plan => "The room",
            Self::Wiring => "Wiring",
            Self::Control => "Ways of control",
            Self::Codes => "Codes",
            Self::Activities => "Activities and their steps",
            Self::Matrix => "Switch matrix",
            Self::Cues => "Cues",
            Self::Surfaces => "Surfaces and their keys",
            Self::Measurements => "Measured times",
            Self::Tests => "Tests",
            Self::Open => "Open points",
        }
    }
}

/// What was worked out for a room.
#[derive(Debug, Clone)]
pub struct RoomPart<'a> {
    /// Which.
    pub room: RoomId,
    /// Its proofs.
    pub matrix: &'a Matrix,
    /// Its plans, for step sheets.
    pub runs: &'a [crate::commission::Run],
    /// Its tests.
    pub tests: &'a [TestLine],
    /// What the margin says of it.
    pub findings: &'a [Finding],
}

/// The as-built record of some rooms, with these chapters. Keys, passwords and accounts are in it only with `secrets`.
#[must_use]
pub fn record(site: &Site, rooms: &[RoomPart<'_>], chapters: &[Chapter], secrets: bool, made: &Made) -> String {
    let mut body = String::new();
    let _ = writeln!(body, "<h1>{}: as built</h1>", escaped(&site.house.name));
    let names: Vec<String> =
        rooms.iter().filter_map(|part| site.room(part.room)).map(|room| room.name.clone()).collect();
    let _ = writeln!(body, "<p>{} · {} · revision {}</p>", escaped(&and(&names)), escaped(&made.date), made.revision);
    let programmer = &site.house.programmer;
    if !programmer.name.is_empty() {
        let _ = writeln!(body, "<p>Programmed by {} {}</p>", escaped(&programmer.name), escaped(&programmer.phone));
    }
    for part in rooms {
        let Some(room) = site.room(part.room) else { continue };
        let _ = writeln!(body, "<section class=\"sheet\"><h2>{}</h2>", escaped(&room.name));
        for chapter in Chapter::ALL.into_iter().filter(|chapter| chapters.contains(chapter)) {
            let text = chapter_of(site, part, chapter, secrets);
            if !text.is_empty() {
                let _ = writeln!(body, "<h3>{}</h3>\n{text}", escaped(chapter.title()));
            }
        }
        body.push_str("</section>\n");
    }
    page(&format!("{}: as built", site.house.name), &place(&site.house.name, &names), made, &body)
}

fn chapter_of(site: &Site, part: &RoomPart<'_>, chapter: Chapter, secrets: bool) -> String {
    let room = part.room;
    match chapter {
        Chapter::Cautions => cautions(part),
        Chapter::Devices => devices(site, room, secrets),
        Chapter::Plan => super::plan::drawn(site, room),
        Chapter::Wiring => wiring(site, room),
        Chapter::Control => control(site, room),
        Chapter::Codes => codes(site, room),
        Chapter::Activities => activities(site, part),
        Chapter::Matrix => matrix(site, part),
        Chapter::Cues => cues(site, room),
        Chapter::Surfaces => surfaces(site, room),
        Chapter::Measurements => measurements(site, room),
        Chapter::Tests => tests(part),
        Chapter::Open => open(site, part),
    }
}

fn list(lines: impl IntoIterator<Item = String>) -> String {
    let items: String = lines.into_iter().map(|line| format!("<li>{}</li>\n", escaped(&line))).collect();
    if items.is_empty() { items } else { format!("<ul>\n{items}</ul>\n") }
}

fn cautions(part: &RoomPart<'_>) -> String {
    let hazards = part.findings.iter().filter(|found| found.weight == Weight::Hazard).map(|found| found.text.clone());
    let text = list(hazards);
    if text.is_empty() { text } else { format!("<div class=\"care\">{text}</div>") }
}

fn devices(site: &Site, room: RoomId, secrets: bool) -> String {
    let rows: Vec<Vec<String>> = site
        .devices_in(room)
        .map(|device| {
            let model = site.profile(device.profile).map(|own| format!("{} {}", own.maker, own.model));
            let own = &device.records;
            let mut network: Vec<String> = [device.network.ip.clone(), device.network.mac.clone()].to_vec();
            if secrets {
                network.extend([own.local_key.clone(), own.account.clone(), device.network.password.clone()]);
            }
            network.retain(|text| !text.is_empty());
            let kept = [&own.serial_number, &own.firmware, &own.battery].map(String::as_str);
            let kept: Vec<&str> = kept.into_iter().filter(|text| !text.is_empty()).collect();
            vec![
                device.name.clone(),
                model.unwrap_or_default(),
                network.join(", "),
                kept.join(", "),
                own.stands.clone(),
            ]
        })
        .collect();
    table(&["Device", "Model", "Address", "Serial number, firmware, battery", "Stands"], &rows)
}

fn wiring(site: &Site, room: RoomId) -> String {
    let here: Vec<_> = site.devices_in(room).map(|device| device.id).collect();
    let plug = |list: Vec<(uuid::Uuid, String)>, id: uuid::Uuid| {
        list.into_iter().find(|(known, _)| *known == id).map(|(_, name)| name).unwrap_or_default()
    };
    let rows: Vec<Vec<String>> = site
        .connections
        .iter()
        .filter(|cable| here.contains(&cable.from_device) || here.contains(&cable.to_device))
        .map(|cable| {
            let outputs = site
                .model_of(cable.from_device)
                .map(|model| model.outputs.iter().map(|output| (output.id.0, output.name.clone())).collect::<Vec<_>>());
            let inputs = site
                .model_of(cable.to_device)
                .map(|model| model.inputs.iter().map(|input| (input.id.0, input.name.clone())).collect::<Vec<_>>());
            vec![
                format!(
                    "{} ▸ {}",
                    site.device_name(cable.from_device),
                    plug(outputs.unwrap_or_default(), cable.from_output.0)
                ),
                format!(
                    "{} ▸ {}",
                    site.device_name(cable.to_device),
                    plug(inputs.unwrap_or_default(), cable.to_input.0)
                ),
                site.cable(cable).map(|cable| cable.name().to_owned()).unwrap_or_default(),
            ]
        })
        .collect();
    format!("{}{}", drawing(site, room), table(&["From", "To", "Cable"], &rows))
}

/// The devices of a room and the cables between them: what gives stands left of what takes.
fn drawing(site: &Site, room: RoomId) -> String {
    const WIDE: usize = 120;
    const HIGH: usize = 30;
    let here: Vec<DeviceId> = site.devices_in(room).map(|device| device.id).collect();
    let cables: Vec<(DeviceId, DeviceId)> = site
        .connections
        .iter()
        .map(|cable| (cable.from_device, cable.to_device))
        .filter(|(from, to)| here.contains(from) && here.contains(to))
        .collect();
    let mut column: BTreeMap<DeviceId, usize> = cables.iter().flat_map(|&(from, to)| [(from, 0), (to, 0)]).collect();
    // As many steps as there are devices: a circle of cables ends then.
    for _ in 0..column.len() {
        for (from, to) in &cables {
            let least = column[from] + 1;
            if column[to] < least && least < here.len() {
                column.insert(*to, least);
            }
        }
    }
    if column.is_empty() {
        return String::new();
    }
    let mut rows: BTreeMap<usize, usize> = BTreeMap::new();
    let mut place: BTreeMap<DeviceId, (usize, usize)> = BTreeMap::new();
    for device in here.iter().filter(|device| column.contains_key(device)) {
        let row = rows.entry(column[device]).or_default();
        place.insert(*device, (column[device] * (WIDE + 40), *row * (HIGH + 14)));
        *row += 1;
    }
    let (wide, high) = (
        place.values().map(|(x, _)| x + WIDE).max().unwrap_or(0),
        place.values().map(|(_, y)| y + HIGH).max().unwrap_or(0),
    );
    let mut out =
        format!("<svg viewBox=\"-2 -2 {} {}\" role=\"img\" style=\"max-width:100%;height:auto\">", wide + 4, high + 4);
    for (from, to) in &cables {
        let ((x1, y1), (x2, y2)) = (place[from], place[to]);
        let (x1, y1, y2) = (x1 + WIDE, y1 + HIGH / 2, y2 + HIGH / 2);
        let _ = write!(out, "<path d=\"M{x1} {y1} L{x2} {y2}\" fill=\"none\" stroke=\"#000\"/>");
    }
    for (device, (x, y)) in &place {
        let name: String = site.device_name(*device).chars().take(18).collect();
        let _ = write!(
            out,
            "<rect x=\"{x}\" y=\"{y}\" width=\"{WIDE}\" height=\"{HIGH}\" fill=\"#fff\" stroke=\"#000\"/><text x=\"{}\" y=\"{}\" text-anchor=\"middle\" font-size=\"11\">{}</text>",
            x + WIDE / 2,
            y + HIGH / 2 + 4,
            escaped(&name)
        );
    }
    out.push_str("</svg>\n");
    out
}

fn control(site: &Site, room: RoomId) -> String {
    let rows: Vec<Vec<String>> = site
        .devices_in(room)
        .flat_map(|device| {
            site.paths_of(device.id).into_iter().enumerate().map(move |(at, path)| {
                let through = path.through.map(|gateway| site.device_name(gateway)).unwrap_or_default();
                let lost = if path.tries.of > 0 {
                    format!("{} of {} lost", path.tries.lost, path.tries.of)
                } else {
                    "not counted".to_owned()
                };
                vec![
                    if at == 0 { device.name.clone() } else { String::new() },
                    path.medium.name().to_owned(),
                    through,
                    if path.replies { "answers" } else { "does not answer" }.to_owned(),
                    lost,
                    path.note,
                ]
            })
        })
        .collect();
    table(&["Device", "On", "Through", "Answers", "Presses", "Note"], &rows)
}

fn codes(site: &Site, room: RoomId) -> String {
    let mut rows = Vec::new();
    for device in site.devices_in(room).filter(|device| device.room == room) {
        let Some(model) = site.model_of(device.id) else { continue };
        for function in &model.functions {
            let Some(code) = site.code(device.id, function.id) else { continue };
            let state = format!("{:?}", state_of(Some(code))).to_lowercase();
            rows.push(vec![device.name.clone(), function.name.clone(), code.body.to_string(), state]);
        }
    }
    table(&["Device", "Function", "Sent", "Proved"], &rows)
}

fn activities(site: &Site, part: &RoomPart<'_>) -> String {
    let mut text = String::new();
    for run in part.runs.iter().filter(|run| run.from == crate::model::Situation::Off) {
        let ready = run.ready_ms.map_or_else(|| "cannot be sent".to_owned(), |ms| format!("ready in {}", seconds(ms)));
        let _ = writeln!(text, "<p><strong>{}</strong>, {ready}</p>", escaped(&situation_name(site, run.to)));
        let rows: Vec<Vec<String>> = run
            .plan
            .steps
            .iter()
            .map(|step| {
                vec![
                    (step.index + 1).to_string(),
                    seconds(step.start_ms),
                    format!("{} ▸ {}", site.device_name(step.device), step.name),
                    step.why.clone(),
                ]
            })
            .collect();
        text.push_str(&table(&["Step", "At", "Command", "Why"], &rows));
    }
    text
}

fn matrix(site: &Site, part: &RoomPart<'_>) -> String {
    let rows: Vec<Vec<String>> = part
        .matrix
        .cells
        .iter()
        .map(|cell| {
            vec![
                format!("{} → {}", situation_name(site, cell.from), situation_name(site, cell.to)),
                cell.ready_ms.map(seconds).unwrap_or_default(),
                cell.verdict.clone(),
                cell.weakest
                    .as_ref()
                    .map(|rest| format!("{} ({})", rest.what, rest.span.basis.words()))
                    .unwrap_or_default(),
            ]
        })
        .collect();
    table(&["Switch", "Ready in", "Verdict", "Rests most weakly on"], &rows)
}

fn cues(site: &Site, room: RoomId) -> String {
    let lighting = site.room(room).map(|room| &room.lighting);
    list(lighting.into_iter().flat_map(|own| own.cues.iter().map(|cue| cue_words::line(site, own, cue))))
}

fn surfaces(site: &Site, room: RoomId) -> String {
    let mut rows = Vec::new();
    for surface in site.room(room).map(|room| room.surfaces.as_slice()).unwrap_or_default() {
        for (page, key) in surface.keys() {
            let does: Vec<String> = key
                .bindings
                .iter()
                .map(|own| {
                    format!(
                        "{}: {}",
                        own.gesture.words(),
                        crate::surface::now::words(site, room, Some(surface), &own.does)
                    )
                })
                .collect();
            rows.push(vec![surface.name.clone(), page.name.clone(), key.label.clone(), does.join("; ")]);
        }
    }
    table(&["Surface", "Page", "Key", "Does"], &rows)
}

fn measurements(site: &Site, room: RoomId) -> String {
    let mut rows = Vec::new();
    for device in site.devices_in(room) {
        for timing in Timing::ALL {
            let own = known(site, device.id, timing, false);
            let Some(span) = own.in_use.filter(|span| own.n > 0 || matches!(span.basis, Basis::Measured { .. })) else {
                continue;
            };
            rows.push(vec![
                format!("{}, {}", device.name, own.span),
                format!("{} to {}", seconds(span.lo_ms), seconds(span.hi_ms)),
                span.basis.words(),
                own.in_use_percent.map(|percent| format!("{percent} %")).unwrap_or_default(),
            ]);
        }
    }
    table(&["Time", "In use", "From", "Covers the next one"], &rows)
}

/// How a test stands, in a word or two.
#[must_use]
fn state(line: &TestLine) -> &'static str {
    match line.state {
        TestState::Failed => "failed",
        TestState::Stale => "stale",
        TestState::Open => "open",
        TestState::Rehearsed => "rehearsed only",
        TestState::NotPossible => "not possible here",
        TestState::Passed => "passed",
    }
}

fn tests(part: &RoomPart<'_>) -> String {
    let row = |line: &TestLine| {
        let seen = line.result.as_ref().map(|own| format!("{} {}", own.note, own.who)).unwrap_or_default();
        vec![
            line.kind.to_owned(),
            line.title.clone(),
            line.to_see.clone(),
            state(line).to_owned(),
            seen.trim().to_owned(),
        ]
    };
    let rows: Vec<Vec<String>> = part.tests.iter().map(row).collect();
    table(&["Kind", "Test", "Must be seen", "Stands", "Seen"], &rows)
}

fn open(site: &Site, part: &RoomPart<'_>) -> String {
    let mut lines: Vec<String> = part
        .tests
        .iter()
        .filter(|line| matches!(line.state, TestState::Failed | TestState::Stale))
        .map(|line| format!("{}: {}. {}", line.title, state(line), line.because.join("; ")))
        .collect();
    let serious = |found: &&Finding| found.weight <= Weight::Caution && found.accepted.is_none();
    lines.extend(part.findings.iter().filter(serious).map(|found| format!("{}: {}", found.title, found.text)));
    lines.extend(
        orders(site, Some(part.room))
            .into_iter()
            .map(|line| format!("{} × {}, {}", line.quantity, line.what, line.why)),
    );
    list(lines)
}
