//! The client's page: one sheet a room, in the words of the family and in large type. No word of the trade stands on it;
//! names that a hand has given are the house's own.

use super::html::{escaped, page, place};
use super::{Links, Made};
use crate::id::RoomId;
use crate::model::{Does, Medium, Site, SurfaceKind, Tell};
use crate::prove::Matrix;
use crate::words::{and, seconds};
use std::fmt::Write as _;

/// Something that can go wrong in a room, and what to do then: both as the family would say it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Trouble {
    /// What is seen.
    pub seen: String,
    /// What to do.
    pub to_do: String,
    /// How likely it is, beside the others: from the proofs and from the log.
    pub weight: u32,
}

/// The three likeliest troubles of a room. `calls` are those of the log, by what the family said: picture, sound, light.
#[must_use]
pub fn troubles(site: &Site, room: RoomId, matrix: &Matrix, calls: [u32; 3]) -> Vec<Trouble> {
    let phone = site.room(room).is_some_and(|room| room.surfaces.iter().any(|own| own.kind.is_glass()));
    let again = if phone {
        "Press Not right? on the phone, and follow what it says."
    } else {
        "Press the same key once more, then wait half a minute."
    };
    let mut all = Vec::new();
    let risky = matrix.cells.iter().filter(|cell| cell.guarantee == crate::prove::Guarantee::AtRisk).count();
    let picture = 4 + u32::try_from(risky).unwrap_or(0) * 2 + calls[0] * 10;
    all.push(Trouble { seen: "There is no picture.".to_owned(), to_do: again.to_owned(), weight: picture });
    let sound = "Press louder a few times. If that is not it, press the key for what you want to see once more.";
    all.push(Trouble {
        seen: "There is a picture and no sound.".to_owned(),
        to_do: sound.to_owned(),
        weight: 3 + calls[1] * 10,
    });
    let seen_by =
        |device: &&crate::model::Device| site.paths_of(device.id).first().is_some_and(|path| path.medium == Medium::Ir);
    let blind: Vec<String> = site.devices_in(room).filter(seen_by).map(|device| device.name.clone()).collect();
    if !blind.is_empty() {
        all.push(Trouble {
            seen: "A key does nothing.".to_owned(),
            to_do: format!(
                "Nothing may stand in front of {}: open what is shut, move away what stands before it, and press again.",
                and(&blind[..blind.len().min(3)])
            ),
            weight: 3 + u32::try_from(blind.len()).unwrap_or(0),
        });
    }
    if site.room(room).is_some_and(|room| !room.lighting.cues.is_empty()) {
        all.push(Trouble {
            seen: "It is too dark, or too bright.".to_owned(),
            to_do: "Use the switch at the door: it always works.".to_owned(),
            weight: 1 + calls[2] * 10,
        });
    }
    if site.devices_in(room).any(|device| !device.records.battery.is_empty()) {
        all.push(Trouble {
            seen: "The hand remote does nothing at all.".to_owned(),
            to_do: "Its battery is empty: change it, the same kind as before.".to_owned(),
            weight: 2,
        });
    }
    let silent = site.devices_in(room).filter(|device| {
        site.profile_of(device.id).is_some_and(|own| own.power_keys().is_some() && !own.feedback.tells(Tell::Power))
    });
    if silent.count() > 0 {
        all.push(Trouble {
            seen: "Something is on that should be off, or the other way round.".to_owned(),
            to_do: again.to_owned(),
            weight: 2 + u32::try_from(risky).unwrap_or(0),
        });
    }
    all.sort_by_key(|trouble| std::cmp::Reverse(trouble.weight));
    all.truncate(3);
    all
}

/// Round and small: a coin cell, by what is written in the records.
fn coin(battery: &str) -> bool {
    let text = battery.to_lowercase();
    ["cr20", "cr24", "cr16", "lr44", "lr41", "coin", "button"].iter().any(|kind| text.contains(kind))
}

/// The sheet of each room.
#[must_use]
pub fn client(site: &Site, rooms: &[(RoomId, &Matrix, [u32; 3])], links: &Links, made: &Made) -> String {
    let mut body = String::from("<div class=\"large\">\n");
    let mut names = Vec::new();
    for (id, matrix, calls) in rooms {
        let Some(room) = site.room(*id).filter(|room| !room.rack) else { continue };
        names.push(room.name.clone());
        let _ = writeln!(body, "<section class=\"sheet\"><h1>{}</h1>", escaped(&room.name));
        start(site, *id, matrix, &mut body);
        say(site, *id, &mut body);
        let _ = writeln!(body, "<h2>When something is not right</h2>\n<ul>");
        for trouble in troubles(site, *id, matrix, *calls) {
            let _ = writeln!(body, "<li><strong>{}</strong> {}</li>", escaped(&trouble.seen), escaped(&trouble.to_do));
        }
        body.push_str("</ul>\n");
        let moving: Vec<String> =
            site.devices_in(*id).filter(|device| site.moves(device.id)).map(|device| device.name.clone()).collect();
        if !moving.is_empty() {
            let _ = writeln!(
                body,
                "<p class=\"care\">{} can move without anybody at hand: keep clear, and keep children and pets away. <strong>Stop moving</strong> stops what moves.</p>",
                escaped(&and(&moving))
            );
        }
        if site.devices_in(*id).any(|device| coin(&device.records.battery)) {
            body.push_str("<p class=\"care\">Small round batteries are dangerous when swallowed. Keep them, and remotes with a loose lid, away from children; if one was swallowed, go to a hospital at once.</p>\n");
        }
        let codes: Vec<(&String, &String)> =
            room.surfaces.iter().filter_map(|surface| Some((&surface.name, links.get(&surface.id)?))).collect();
        if !codes.is_empty() {
            body.push_str("<h2>On a phone</h2>\n<div class=\"codes\">\n");
            for (name, link) in codes {
                if let Some(drawn) = qr(link) {
                    let _ = writeln!(body, "<figure>{drawn}<figcaption>{}</figcaption></figure>", escaped(name));
                }
            }
            body.push_str("</div>\n");
        }
        let programmer = &site.house.programmer;
        let whom = match (programmer.name.as_str(), programmer.phone.as_str()) {
            ("", "") => "Whoever set this up.".to_owned(),
            (name, "") | ("", name) => name.to_owned(),
            (name, phone) => format!("{name}, {phone}"),
        };
        let _ = writeln!(body, "<h2>Whom to call</h2>\n<p>{}</p>\n</section>", escaped(&whom));
    }
    body.push_str("</div>");
    page(&site.house.name, &place(&site.house.name, &names), made, &body)
}

/// How to start each thing: on which key of what, or by what is said.
fn start(site: &Site, room: RoomId, matrix: &Matrix, body: &mut String) {
    let _ = writeln!(body, "<h2>To start</h2>\n<ul>");
    let surfaces = site.room(room).map(|room| room.surfaces.as_slice()).unwrap_or_default();
    for activity in site.activities.iter().filter(|activity| activity.room == room) {
        let on = surfaces.iter().find_map(|surface| {
            let starts = |key: &crate::model::SurfaceKey| {
                key.bindings.iter().any(|own| own.does == Does::Activity { activity: activity.id })
            };
            let (_, key) = surface.keys().find(|(_, key)| starts(key))?;
            Some(match surface.kind {
                kind if kind.is_glass() => format!(
                    "press <strong>{}</strong> on the {}",
                    escaped(&key.label),
                    kind.words().replace("page in the browser", "screen")
                ),
                SurfaceKind::Keypad => format!("press <strong>{}</strong> on the wall", escaped(&key.label)),
                kind => format!("press <strong>{}</strong> on the {}", escaped(&key.label), kind.words()),
            })
        });
        let to = crate::model::Situation::In { activity: activity.id };
        let from = crate::model::Situation::Off;
        let ready = matrix.cells.iter().find(|cell| (cell.from, cell.to) == (from, to)).and_then(|cell| cell.ready_ms);
        let soon = ready
            .map(|ms| format!(" It is there in about {}.", seconds(ms.div_ceil(1_000) * 1_000)))
            .unwrap_or_default();
        let how = on.unwrap_or_else(|| "ask whoever set this up".to_owned());
        let _ = writeln!(body, "<li><strong>{}</strong>: {how}.{}</li>", escaped(&activity.name), escaped(&soon));
    }
    body.push_str("<li><strong>When you are done</strong>: press <strong>Finish</strong>.</li>\n</ul>\n");
}

/// What can be said.
fn say(site: &Site, room: RoomId, body: &mut String) {
    let Some(own) = site.room(room).filter(|room| !room.voice.names.is_empty()) else { return };
    let phrases: Vec<String> = own
        .voice
        .names
        .iter()
        .filter(|spoken| matches!(spoken.of, crate::model::Called::Activity { .. }))
        .flat_map(|spoken| spoken.names.iter().map(|name| format!("“Start {name}”")))
        .collect();
    if !phrases.is_empty() {
        let _ = writeln!(body, "<h2>You can also say</h2>\n<p>{}</p>", escaped(&and(&phrases)));
    }
}

/// A QR code of a link, as a drawing.
fn qr(link: &str) -> Option<String> {
    let code = qrcode::QrCode::with_error_correction_level(link, qrcode::EcLevel::M).ok()?;
    let drawn = code.render::<qrcode::render::svg::Color<'_>>().min_dimensions(160, 160).quiet_zone(true).build();
    // Without its declaration it may stand in HTML.
    Some(drawn.split_once("?>").map_or(drawn.clone(), |(_, own)| own.to_owned()))
}
