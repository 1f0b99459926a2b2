//! The codes of a device, a room or the house in one file of each format that can hold them.

use crate::codes::formats::{keymap, table};
use crate::id::{DeviceId, RoomId};
use crate::model::{CodeBody, Site};
use kestrel_signal::exchange::vcd;
use kestrel_signal::{Capture, text};
use serde::{Deserialize, Serialize};
use std::fmt::Write as _;
use utoipa::ToSchema;

/// A format.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Format {
    /// A code set as CSV: holds everything.
    Csv,
    /// A Linux remote keymap: infrared.
    Keymap,
    /// Pulse/space text under names: everything that has timing.
    Pulse,
    /// Signed text under names: the same.
    Signed,
    /// A value change dump with a signal each: the same.
    Vcd,
}

impl Format {
    /// The ending of its file.
    #[must_use]
    pub fn ending(self) -> &'static str {
        match self {
            Self::Csv => "csv",
            Self::Keymap => "toml",
            Self::Pulse => "pulse",
            Self::Signed => "txt",
            Self::Vcd => "vcd",
        }
    }
}

/// Whose codes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// Of a device.
    Device(DeviceId),
    /// Of the devices that serve a room.
    Room(RoomId),
    /// Of all.
    House,
}

/// A file, and what it could not hold.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Export {
    /// Its text.
    pub text: String,
    /// Functions that are not in it, each with the reason.
    pub left_out: Vec<String>,
}

/// Writes codes to a file.
///
/// # Errors
/// Where a file cannot be put together (they are made in memory, so never in practice).
pub fn export(site: &Site, scope: Scope, format: Format) -> Result<Export, String> {
    let inside = |id: DeviceId| match scope {
        Scope::Device(device) => id == device,
        Scope::Room(room) => site.device(id).is_some_and(|device| device.serves(room)),
        Scope::House => true,
    };
    let mut rows = Vec::new();
    for device in site.devices.iter().filter(|device| inside(device.id)) {
        let Some(profile) = site.model_of(device.id) else { continue };
        for function in &profile.functions {
            rows.extend(site.codes_of(device.id, function.id).map(|code| (device, function, &code.body)));
        }
    }
    let mut left_out = Vec::new();
    let one_device = matches!(scope, Scope::Device(_));
    let label = |device: &crate::model::Device, function: &crate::model::Function| {
        format!("{} · {}", device.name, function.name)
    };
    let text = match format {
        Format::Csv => {
            let rows: Vec<table::Row<'_>> = rows
                .iter()
                .map(|(device, function, body)| (device.name.as_str(), function.name.as_str(), function.press, *body))
                .collect();
            table::write(&rows).map_err(|error| error.to_string())?
        }
        Format::Keymap => {
            // A keymap knows keys and no devices: in a file for several, the name says whose it is.
            let names: Vec<String> =
                rows.iter().map(|(d, f, _)| if one_device { f.name.clone() } else { label(d, f) }).collect();
            let mut entries = Vec::new();
            for (name, (_, function, body)) in names.iter().zip(&rows) {
                if function.press.is_tap() {
                    entries.push(keymap::Entry { name, body });
                } else {
                    left_out.push(format!("{name}: a keymap says nothing of how a key is pressed"));
                }
            }
            let (text, more) = keymap::write(&title(site, scope), &entries);
            left_out.extend(more);
            text
        }
        Format::Pulse | Format::Signed | Format::Vcd => {
            let named = rows.iter().map(|(d, f, body)| (label(d, f), f.press, f.frames, *body));
            waveforms(named, format, &mut left_out)?
        }
    };
    Ok(Export { text, left_out })
}

/// Codes as waveforms under their names; a code without timing is left out, and said.
fn waveforms<'a>(
    rows: impl Iterator<Item = (String, crate::model::Press, Option<u32>, &'a CodeBody)>,
    format: Format,
    left_out: &mut Vec<String>,
) -> Result<String, String> {
    let mut captures = Vec::new();
    for (name, press, frames, body) in rows {
        let durations = body.send_us(press, frames);
        match Capture::new(durations, carrier(body)) {
            Ok(capture) => captures.push((name, capture)),
            Err(_) => left_out.push(format!("{name}: {body} has no timing")),
        }
    }
    if format == Format::Vcd {
        let signals: Vec<(String, &Capture)> = captures.iter().map(|(name, capture)| (name.clone(), capture)).collect();
        vcd::write(&signals).map_err(|error| error.to_string())
    } else {
        Ok(captures.iter().fold(String::new(), |mut text, (name, capture)| {
            let body = if format == Format::Pulse {
                text::to_pulse_space(capture)
            } else {
                format!("{}\n", text::to_signed(capture.durations_us()).trim_end())
            };
            let _ = write!(text, "# {name}\n{body}\n");
            text
        }))
    }
}

fn carrier(body: &CodeBody) -> Option<u32> {
    let hz = body.carrier_hz();
    (10_000..=1_000_000).contains(&hz).then_some(hz)
}

/// What the file holds, in words.
#[must_use]
pub fn title(site: &Site, scope: Scope) -> String {
    match scope {
        Scope::Device(device) => site.device_name(device),
        Scope::Room(room) => site.room(room).map_or_else(|| "room".to_owned(), |room| room.name.clone()),
        Scope::House => site.house.name.clone(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::codes::import::{LineFate, preview, read};
    use crate::demo::{self, ids};
    use rstest::rstest;

    #[rstest]
    #[case::everything(Format::Csv, 0)]
    #[case::timing(Format::Pulse, 0)]
    #[case::signed(Format::Signed, 0)]
    fn a_room_that_is_written_is_read_back_the_same(#[case] format: Format, #[case] left_out: usize) {
        let site = demo::marram_point();
        let file = export(&site, Scope::Room(ids::boat_hall()), format).unwrap();
        assert_eq!(file.left_out.len(), left_out, "{:?}", file.left_out);
        let (_, import) = read(&file.text).unwrap();
        assert!(import.unread.is_empty(), "{:?}", import.unread);
        let lines = preview(&site, None, &import);
        assert!(lines.len() > 30);
        let other: Vec<&str> =
            lines.iter().filter(|line| line.fate != LineFate::Same).map(|line| line.name.as_str()).collect();
        assert_eq!(other, Vec::<&str>::new());
    }

    #[test]
    fn a_keymap_of_a_device_is_read_back_and_says_what_it_cannot_hold() {
        let site = demo::marram_point();
        let file = export(&site, Scope::Device(ids::streamer()), Format::Keymap).unwrap();
        assert_eq!(file.left_out.len(), 2, "home twice and home held: {:?}", file.left_out);
        let (_, import) = read(&file.text).unwrap();
        assert!(preview(&site, Some(ids::streamer()), &import).iter().all(|line| line.fate == LineFate::Same));
        let radio = export(&site, Scope::Device(ids::screen()), Format::Keymap).unwrap();
        assert!(radio.left_out[0].contains("infrared alone"));
    }

    #[test]
    fn a_dump_has_a_signal_for_every_function() {
        let site = demo::marram_point();
        let file = export(&site, Scope::Device(ids::screen()), Format::Vcd).unwrap();
        assert_eq!(file.text.matches("$var").count(), 3);
        let deck = export(&site, Scope::Device(ids::deck_display()), Format::Vcd).unwrap();
        assert_eq!(deck.left_out.len(), 2, "commands on the network have no timing");
    }
}
