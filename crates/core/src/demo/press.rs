//! What people press in the demo house. *Boat Hall* and the tidy cabin have generated phones, the *Chart Loft* its hand
//! remote; the *Bunk Cabin* and the *Slip Deck* show the mistakes that people make. The *Watch Room* has nothing yet.

use super::{BOAT_HALL, BUNK_CABIN, CHART_LOFT, SLIP_DECK, TIDY_CABIN, device_id, id, room_id};
use crate::id::{DeviceId, SurfaceId};
use crate::model::{
    Binding, Called, Does, Gesture, Held, Key, May, Site, Spoken, Surface, SurfaceKind, Tint, Trial, Voice,
};
use crate::surface::generate::generate;
use crate::surface::offer::tap;
use jiff::Timestamp;
use uuid::Uuid;

fn blank(number: u32, name: &str, kind: SurfaceKind, device: Option<DeviceId>) -> Surface {
    Surface { device, ..Surface::blank(id::<SurfaceId>(16, number), name, kind) }
}

/// Puts surfaces and spoken names into the house.
pub(super) fn furnish(site: &mut Site) {
    let phone = Surface {
        may: Some(May { least_percent: 5, most_percent: 80 }),
        ..blank(1, "Hall phone", SurfaceKind::Phone, None)
    };
    let all = [
        (BOAT_HALL, phone),
        (TIDY_CABIN, blank(2, "Cabin phone", SurfaceKind::Phone, None)),
        (
            CHART_LOFT,
            Surface { rows: 3, height_mm: 60, ..blank(3, "Loft remote", SurfaceKind::HandRemote, Some(device_id(52))) },
        ),
        (
            BUNK_CABIN,
            Surface {
                letter_tenths_mm: 12,
                width_mm: 24,
                columns: 2,
                rows: 6,
                ..blank(4, "Toy remote", SurfaceKind::HandRemote, None)
            },
        ),
        (SLIP_DECK, Surface { columns: 2, trial: trial(), ..blank(5, "Deck keypad", SurfaceKind::Keypad, None) }),
    ];
    let mut next = 0u32;
    let mut fresh = || {
        next += 1;
        id::<Uuid>(17, next)
    };
    for (room, surface) in all {
        let room = room_id(room);
        let mut made = generate(site, room, &surface, &mut fresh);
        if surface.name == "Toy remote" {
            spoil(site, &mut made, &mut fresh);
        }
        if surface.name == "Deck keypad" {
            // Somebody took the stop away to make space for the music.
            for page in &mut made.pages {
                page.keys.retain(|key| !key.label.ends_with("stop"));
                for key in &mut page.keys {
                    key.bindings.retain(|binding| binding.does != Does::StopAll);
                    key.by_hand = true;
                }
            }
        }
        if let Some(own) = site.rooms.iter_mut().find(|known| known.id == room) {
            own.surfaces.push(made);
            own.voice = voice(room == room_id(BUNK_CABIN));
        }
    }
}

fn trial() -> Option<Trial> {
    Timestamp::from_second(1_795_000_000).ok().map(|since| Trial { since, quiet_days: 14 })
}

/// Names that collide, in the cabin.
fn voice(cabin: bool) -> Voice {
    if !cabin {
        return Voice::default();
    }
    let spoken = |of, name: &str| Spoken { of, names: vec![name.to_owned()] };
    Voice {
        names: vec![
            spoken(Called::Device { device: device_id(16) }, "screen"),
            spoken(Called::Device { device: device_id(34) }, "cabin disc"),
            spoken(Called::Look { look: id(13, 21) }, "kabin disk"),
        ],
        synced: None,
    }
}

/// What people do to a remote.
fn spoil(site: &Site, surface: &mut Surface, fresh: &mut dyn FnMut() -> Uuid) {
    let display = device_id(16);
    let disc = device_id(34);
    let function = |device: DeviceId, name: &str| {
        let profile = site.profile_of(device);
        profile.and_then(|known| known.functions.iter().find(|f| f.name == name).map(|f| f.id))
    };
    let command = |device: DeviceId, name: &str| {
        function(device, name).map(|function| Does::Command { device, function, times: 1 })
    };
    let mut key = |label: &str, row: u8, bindings: Vec<Binding>| Key {
        id: fresh().into(),
        role: None,
        label: label.to_owned(),
        picture: None,
        column: 1,
        row,
        wide: 1,
        tall: 1,
        bindings,
        lit: None,
        sends: None,
        tint: None,
        by_hand: true,
    };
    let louder = Binding { held: Held::Repeats, ..tap(Does::Volume { device: Some(display), steps: 1 }) };
    let twice = Binding { gesture: Gesture::DoubleTap, ..tap(Does::Volume { device: Some(display), steps: 5 }) };
    let mut keys = vec![key("Louder", 1, vec![louder, twice]), key("AUX", 2, vec![])];
    // “Power off” of the disc player was learned from the wrong key: it switches on.
    keys.extend(command(disc, "Power off").map(|does| key("Disc off", 3, vec![tap(does)])));
    let both = [Some(Does::RoomOff), command(disc, "Play")];
    let mut play = key("Play", 4, both.into_iter().flatten().map(tap).collect());
    play.tint = Some(Tint { ink: "#d9cfb8".to_owned(), ground: "#f6f1e4".to_owned() });
    keys.push(play);
    if let Some(page) = surface.pages.first_mut() {
        page.keys.retain(|known| !keys.iter().any(|key| key.covers(known)));
        page.keys.extend(keys);
    }
}
