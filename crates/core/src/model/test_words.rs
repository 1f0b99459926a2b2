//! What a test is called in a line.

use super::{Site, TestOf, cue_words, situation_name};

/// A test in a few words, as *Receiver ▸ Disc* or *Off → Feature film*.
#[must_use]
pub fn test_title(site: &Site, of: &TestOf) -> String {
    let room = |id| site.room(id).map_or("a room that is gone", |room| room.name.as_str()).to_owned();
    match of {
        TestOf::Function { device, function } => {
            format!("{} ▸ {}", site.device_name(*device), site.function_name(*device, *function))
        }
        TestOf::Wait { device, timing } => format!("{}, {}", site.device_name(*device), timing.words()),
        TestOf::Switch { from, to, hot, .. } => {
            let again = if *hot { ", right after the one before" } else { "" };
            format!("{} → {}{again}", situation_name(site, *from), situation_name(site, *to))
        }
        TestOf::Cue { cue } => site.cue(*cue).map_or_else(
            || "a cue that is gone".to_owned(),
            |(room, cue)| crate::words::capital(&cue_words::line(site, &room.lighting, cue)),
        ),
        TestOf::Key { surface, key, gesture } => {
            let Some(own) = site.surface(*surface) else { return "a key that is gone".to_owned() };
            let label = own.keys().find(|(_, known)| known.id == *key).map(|(_, key)| key.label.as_str());
            format!("{} ▸ “{}” {}", own.name, label.unwrap_or("a key that is gone"), gesture.words())
        }
        TestOf::InStep { device, .. } => format!("The own button of {}", site.device_name(*device)),
        TestOf::Stop { device } => format!("Stop {} on its way", site.device_name(*device)),
        TestOf::Ceiling { device } => format!("{} at its loudest", site.device_name(*device)),
        TestOf::WayOut { room: id } => format!("The way out of {}", room(*id)),
        TestOf::MainsBack { room: id } => format!("Mains back in {}", room(*id)),
        TestOf::Phrase { phrase, .. } => format!("“{phrase}”"),
        TestOf::Label { surface } => {
            format!("Labels of {}", site.surface(*surface).map_or("a surface that is gone", |own| own.name.as_str()))
        }
    }
}
