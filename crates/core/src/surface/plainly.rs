//! What a surface says to the family: in their words, never in those of the trade.

use super::bar::the;
use super::now::{Known, is_lit};
use crate::id::{DeviceId, RoomId};
use crate::model::{Lit, Site, Situation};

/// Words of the trade, in lower case: none of them stands on a key, in a status or in a fault that the family sees. Names
/// that a hand has given (of devices, activities, looks) are the house's own and may be what they like.
pub const TRADE: [&str; 48] = [
    "activity",
    "activities",
    "adopt",
    "automaton",
    "av",
    "aux",
    "belief",
    "binding",
    "cec",
    "code",
    "codes",
    "command",
    "cue",
    "discrete",
    "device",
    "driver",
    "function",
    "gateway",
    "hdmi",
    "infrared",
    "input",
    "inputs",
    "ip",
    "ir",
    "listen",
    "macro",
    "mode",
    "network",
    "output",
    "path",
    "plan",
    "poll",
    "preset",
    "profile",
    "protocol",
    "relay",
    "rf",
    "rs-232",
    "scene",
    "sensor",
    "serial",
    "signal",
    "sink",
    "source",
    "standby",
    "toggle",
    "watch",
    "zone",
];

/// The first word of the trade in a text.
#[must_use]
pub fn trade_word(text: &str) -> Option<&'static str> {
    let said: Vec<String> =
        text.to_lowercase().split(|c: char| !c.is_alphanumeric() && c != '-').map(str::to_owned).collect();
    let word = TRADE.into_iter().find(|word| said.iter().any(|said| said == word));
    word.or_else(|| text.to_lowercase().contains("room off").then_some("room off"))
}

/// What the room is in, or on its way to.
#[must_use]
pub fn status(site: &Site, known: &Known, goes: Option<Situation>) -> String {
    let name = |id| site.activity(id).map_or_else(String::new, |own| own.name.clone());
    match (goes, known.activity, known.off) {
        (Some(Situation::Off), ..) => "Finishing".to_owned(),
        (Some(Situation::In { activity }), ..) => format!("Starting {}", name(activity)),
        (_, Some(activity), _) => format!("{} is on", name(activity)),
        (_, None, true) => "Everything is off".to_owned(),
        (_, None, false) => "Nobody can tell from here what is on. Press what you would like.".to_owned(),
    }
}

/// What the light does: the look that it is in, and what stays lit for people on their way.
#[must_use]
pub fn light(site: &Site, room: RoomId, known: &Known) -> Option<String> {
    let lighting = &site.room(room)?.lighting;
    let lit = lighting.looks.iter().find(|look| is_lit(site, room, &Lit::Look { look: look.id }, known));
    let mut parts: Vec<String> = lit.map(|look| look.name.clone()).into_iter().collect();
    for zone in lighting.exit.iter().flat_map(|exit| &exit.zones).filter_map(|id| lighting.zone(*id)) {
        let percent = known.levels.get(&zone.id).copied().unwrap_or(0.0).round();
        if percent >= 1.0 {
            parts.push(format!("{} at {percent} %", zone.name));
        }
    }
    (!parts.is_empty()).then(|| parts.join(" · "))
}

/// What went wrong, for somebody who wants a picture: which things did not follow, and which could not be told.
#[must_use]
pub fn trouble(site: &Site, deaf: &[DeviceId], otherwise: &[DeviceId]) -> String {
    let one = |device: &DeviceId, what: &str| format!("{} {what}", the(&site.device_name(*device)));
    let mut said: Vec<String> = deaf.iter().map(|device| one(device, "does not answer.")).collect();
    said.extend(otherwise.iter().filter(|device| !deaf.contains(device)).map(|device| one(device, "did not follow.")));
    if said.is_empty() { "That did not work to the end.".to_owned() } else { said.join(" ") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::id::FunctionId;
    use crate::model::{Surface, SurfaceKind};
    use crate::surface::bar::Bar;
    use crate::surface::generate::generate;
    use crate::surface::now;
    use rstest::rstest;
    use uuid::Uuid;

    /// Every name that a hand has given in the house: those may be what they like.
    fn own_names(site: &Site) -> Vec<String> {
        let mut names: Vec<String> = site.devices.iter().map(|own| own.name.clone()).collect();
        names.extend(site.activities.iter().map(|own| own.name.clone()));
        for room in &site.rooms {
            names.push(room.name.clone());
            names.extend(room.lighting.looks.iter().map(|own| own.name.clone()));
            names.extend(room.lighting.switches.iter().map(|own| own.name.clone()));
            names.extend(room.lighting.zones.iter().map(|own| own.name.clone()));
        }
        let apps = site.profiles.iter().flat_map(|own| &own.apps).map(|app| app.name.clone());
        names.extend(apps);
        let favourites = site.activities.iter().flat_map(|own| &own.extras.favourites).map(|own| own.name.clone());
        names.extend(favourites);
        names.sort_by_key(|name| std::cmp::Reverse(name.len()));
        names
    }

    fn plain(site: &Site, text: &str) {
        let mut rest = text.to_owned();
        for name in own_names(site) {
            rest = rest.replace(&name, " ").replace(&the(&name), " ");
        }
        assert_eq!(trade_word(&rest), None, "“{text}”");
    }

    /// Labels, titles of pages, what keys say that they do and why they would do nothing, on every kind of surface.
    #[rstest]
    #[case::phone(SurfaceKind::Phone)]
    #[case::folding(SurfaceKind::FoldingPhone)]
    #[case::tablet(SurfaceKind::Tablet)]
    #[case::hand_remote(SurfaceKind::HandRemote)]
    #[case::display_remote(SurfaceKind::DisplayRemote)]
    #[case::keypad(SurfaceKind::Keypad)]
    #[case::fob(SurfaceKind::KeyFob)]
    #[case::controller(SurfaceKind::Controller)]
    fn surfaces_speak_the_words_of_the_family(#[case] kind: SurfaceKind) {
        let site = demo::marram_point();
        for room in &site.rooms {
            let blank = Surface::blank(Uuid::from_u128(1).into(), "Phone", kind);
            let mut next = 10;
            let made = generate(&site, room.id, &blank, &mut || {
                next += 1;
                Uuid::from_u128(next)
            });
            let mut all = vec![Known::default(), Known { off: true, ..Known::default() }];
            let own = site.activities.iter().filter(|activity| activity.room == room.id);
            all.extend(own.map(|own| Known { activity: Some(own.id), ..Known::default() }));
            for page in &made.pages {
                plain(&site, &page.name);
                page.keys.iter().for_each(|key| plain(&site, &key.label));
                for known in &all {
                    for key in now::page(&site, room.id, &made, page, known) {
                        for meaning in key.meanings {
                            plain(&site, &meaning.words);
                            meaning.barred.iter().for_each(|barred| plain(&site, barred));
                        }
                    }
                    plain(&site, &status(&site, known, None));
                    plain(&site, &status(&site, known, Some(Situation::Off)));
                }
            }
        }
    }

    #[test]
    fn why_a_key_does_nothing_is_said_without_the_trade_whatever_the_reason() {
        let site = demo::marram_point();
        let (device, function) = (ids::disc_player(), FunctionId(Uuid::from_u128(7)));
        let activity = ids::feature_film();
        for bar in [
            Bar::Gone { what: "look" },
            Bar::NothingBefore,
            Bar::NothingPlays,
            Bar::Unused { device },
            Bar::NotOf { favourite: "Tideline".to_owned(), activity },
            Bar::NoKeys { device, what: "volume keys" },
            Bar::NoCode { device, function },
            Bar::NoWay { device, function },
            Bar::NoShortcut { device, why: "No code for “1”.".to_owned() },
            Bar::Off { device },
            Bar::Unsure { device },
        ] {
            plain(&site, &bar.plainly(&site));
            assert_ne!(bar.exactly(&site), bar.plainly(&site), "the programmer is told what is missing");
        }
    }

    #[rstest]
    #[case::nothing(&[], &[], "That did not work to the end.")]
    #[case::deaf(&[ids::projector()], &[], "The projector does not answer.")]
    #[case::otherwise(&[], &[ids::disc_player()], "The disc player did not follow.")]
    #[case::both(&[ids::projector()], &[ids::projector(), ids::receiver()], "The projector does not answer. The receiver did not follow.")]
    fn a_fault_names_the_thing(#[case] deaf: &[DeviceId], #[case] otherwise: &[DeviceId], #[case] says: &str) {
        let site = demo::marram_point();
        assert_eq!(trouble(&site, deaf, otherwise), says);
        plain(&site, says);
    }

    #[test]
    fn the_light_is_called_by_its_look_and_the_way_out_by_its_level() {
        let site = demo::marram_point();
        let room = site.room(ids::boat_hall()).unwrap();
        let film = room.lighting.looks.iter().find(|look| look.name == "Film").unwrap();
        let mut known = Known::default();
        assert_eq!(light(&site, room.id, &known), None);
        known.levels = film.levels.iter().map(|level| (level.zone, f64::from(level.percent))).collect();
        let said = light(&site, room.id, &known).unwrap();
        assert!(said.starts_with("Film"), "{said}");
        assert!(room.lighting.exit.is_none() || said.contains(" %"), "{said}");
    }

    #[rstest]
    #[case("Choose the source", Some("source"))]
    #[case("Room off", Some("room off"))]
    #[case("HDMI 2", Some("hdmi"))]
    #[case("Its menu", None)]
    #[case("Resource", None)]
    fn a_word_of_the_trade_is_found_as_a_whole_word(#[case] text: &str, #[case] word: Option<&str>) {
        assert_eq!(trade_word(text), word);
    }
}
