//! The names that functions go by, in the order in which a handset is usually learned, with the words
//! that people type for them and the key names of the Linux kernel's keymaps (*from memory*).

use serde::Serialize;
use utoipa::ToSchema;

/// A group of functions.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[allow(missing_docs, reason = "named as they are")]
pub enum Group {
    Power,
    Inputs,
    Navigation,
    Transport,
    Digits,
    Volume,
    Picture,
    Motion,
    Presets,
}

/// One name of the vocabulary.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Term {
    /// Its group.
    pub group: Group,
    /// The name.
    pub name: &'static str,
    /// Words that people type for it.
    pub also: &'static [&'static str],
    /// The kernel's key name, without `KEY_`; empty where there is none.
    pub key: &'static str,
}

const fn term(group: Group, name: &'static str, key: &'static str, also: &'static [&'static str]) -> Term {
    Term { group, name, also, key }
}

use Group::{Digits, Inputs, Motion, Navigation, Picture, Power, Presets, Transport, Volume};

/// Every term.
pub const TERMS: [Term; 92] = [
    term(Power, "Power", "POWER", &["toggle", "standby", "on/off"]),
    term(Power, "Power on", "WAKEUP", &["on", "wake"]),
    term(Power, "Power off", "SLEEP", &["off", "standby"]),
    term(Power, "Wake", "", &["wake on lan"]),
    term(Power, "Sleep timer", "TIMER", &["sleep"]),
    term(Inputs, "Source", "VIDEO", &["input", "in"]),
    term(Inputs, "Next input", "VIDEO_NEXT", &["input +"]),
    term(Inputs, "Previous input", "VIDEO_PREV", &["input -"]),
    term(Inputs, "HDMI 1", "", &["hdmi"]),
    term(Inputs, "HDMI 2", "", &[]),
    term(Inputs, "HDMI 3", "", &[]),
    term(Inputs, "HDMI 4", "", &[]),
    term(Inputs, "Disc", "DVD", &["player", "bd"]),
    term(Inputs, "Stream", "", &["media"]),
    term(Inputs, "Game", "GAMES", &["console"]),
    term(Inputs, "Tuner", "TUNER", &["radio"]),
    term(Inputs, "TV", "TV", &["aerial", "antenna"]),
    term(Inputs, "TV audio", "", &["return audio"]),
    term(Inputs, "Optical", "", &["digital in"]),
    term(Inputs, "Analogue", "AUX", &["aux", "line in"]),
    term(Navigation, "Up", "UP", &["cursor up"]),
    term(Navigation, "Down", "DOWN", &["cursor down"]),
    term(Navigation, "Left", "LEFT", &["cursor left"]),
    term(Navigation, "Right", "RIGHT", &["cursor right"]),
    term(Navigation, "OK", "OK", &["enter", "select"]),
    term(Navigation, "Select", "SELECT", &[]),
    term(Navigation, "Back", "BACK", &["return"]),
    term(Navigation, "Exit", "EXIT", &["leave"]),
    term(Navigation, "Home", "HOMEPAGE", &["start"]),
    term(Navigation, "Home twice", "", &[]),
    term(Navigation, "Home held", "", &[]),
    term(Navigation, "Menu", "MENU", &["setup"]),
    term(Navigation, "Top menu", "TITLE", &["disc menu"]),
    term(Navigation, "Options", "OPTION", &["tools"]),
    term(Navigation, "Info", "INFO", &["display"]),
    term(Navigation, "Guide", "EPG", &["programme"]),
    term(Navigation, "Page up", "PAGEUP", &[]),
    term(Navigation, "Page down", "PAGEDOWN", &[]),
    term(Navigation, "Red", "RED", &[]),
    term(Navigation, "Green", "GREEN", &[]),
    term(Navigation, "Yellow", "YELLOW", &[]),
    term(Navigation, "Blue", "BLUE", &[]),
    term(Transport, "Play", "PLAY", &[]),
    term(Transport, "Pause", "PAUSE", &[]),
    term(Transport, "Play/pause", "PLAYPAUSE", &[]),
    term(Transport, "Stop", "STOP", &["halt"]),
    term(Transport, "Record", "RECORD", &[]),
    term(Transport, "Forward", "FASTFORWARD", &["ff"]),
    term(Transport, "Rewind", "REWIND", &["rew"]),
    term(Transport, "Next", "NEXT", &["skip"]),
    term(Transport, "Previous", "PREVIOUS", &["skip back"]),
    term(Transport, "Eject", "EJECTCD", &["open/close"]),
    term(Transport, "Subtitles", "SUBTITLE", &["captions"]),
    term(Transport, "Audio track", "LANGUAGE", &["language"]),
    term(Digits, "0", "NUMERIC_0", &["zero"]),
    term(Digits, "1", "NUMERIC_1", &["one"]),
    term(Digits, "2", "NUMERIC_2", &["two"]),
    term(Digits, "3", "NUMERIC_3", &["three"]),
    term(Digits, "4", "NUMERIC_4", &["four"]),
    term(Digits, "5", "NUMERIC_5", &["five"]),
    term(Digits, "6", "NUMERIC_6", &["six"]),
    term(Digits, "7", "NUMERIC_7", &["seven"]),
    term(Digits, "8", "NUMERIC_8", &["eight"]),
    term(Digits, "9", "NUMERIC_9", &["nine"]),
    term(Digits, "Enter", "ENTER", &["confirm number"]),
    term(Digits, "Channel up", "CHANNELUP", &["ch +"]),
    term(Digits, "Channel down", "CHANNELDOWN", &["ch -"]),
    term(Digits, "Last channel", "LAST", &["recall"]),
    term(Volume, "Volume up", "VOLUMEUP", &["louder", "vol +"]),
    term(Volume, "Volume down", "VOLUMEDOWN", &["softer", "vol -"]),
    term(Volume, "Mute", "MUTE", &["silence"]),
    term(Volume, "Mute on", "", &[]),
    term(Volume, "Mute off", "", &[]),
    term(Volume, "Sound mode", "SOUND", &["surround"]),
    term(Picture, "Picture mode", "", &["cinema"]),
    term(Picture, "Aspect", "ASPECT_RATIO", &["zoom", "ratio"]),
    term(Picture, "Picture mute on", "", &["blank", "shutter"]),
    term(Picture, "Picture mute off", "", &["unblank"]),
    term(Picture, "Brighter", "BRIGHTNESSUP", &[]),
    term(Picture, "Darker", "BRIGHTNESSDOWN", &[]),
    term(Motion, "Screen up", "", &["raise"]),
    term(Motion, "Screen down", "", &["lower"]),
    term(Motion, "Screen stop", "", &[]),
    term(Motion, "Out", "", &["extend"]),
    term(Motion, "In", "", &["retract"]),
    term(Presets, "Lens memory 1", "", &["lens"]),
    term(Presets, "Lens memory 2", "", &[]),
    term(Presets, "Lens memory 3", "", &[]),
    term(Presets, "Screen preset 1", "", &["masking"]),
    term(Presets, "Screen preset 2", "", &[]),
    term(Presets, "Preset 1", "", &["memory 1"]),
    term(Presets, "Preset 2", "", &["memory 2"]),
];

/// Our name for a key of a keymap, such as `KEY_VOLUMEUP`.
#[must_use]
pub fn of_keymap(key: &str) -> Option<&'static str> {
    let plain = key.strip_prefix("KEY_").or_else(|| key.strip_prefix("BTN_"))?;
    // Older names of the same keys.
    let plain = match plain {
        "0" | "1" | "2" | "3" | "4" | "5" | "6" | "7" | "8" | "9" => {
            return TERMS.iter().find(|term| term.group == Digits && term.name == plain).map(|term| term.name);
        }
        "HOME" => "HOMEPAGE",
        "NEXTSONG" => "NEXT",
        "PREVIOUSSONG" => "PREVIOUS",
        "PLAYCD" => "PLAY",
        "STOPCD" => "STOP",
        "PAUSECD" => "PAUSE",
        other => other,
    };
    TERMS.iter().find(|term| !term.key.is_empty() && term.key == plain).map(|term| term.name)
}

/// The keymap's name for a function, where it has one.
#[must_use]
pub fn to_keymap(name: &str) -> Option<&'static str> {
    let term = TERMS.iter().find(|term| !term.key.is_empty() && term.name.eq_ignore_ascii_case(name))?;
    KEYS.iter().find(|(key, _)| *key == term.key).map(|(_, full)| *full)
}

macro_rules! keys {
    ($($key:literal)+) => { &[$(($key, concat!("KEY_", $key)),)+] };
}

const KEYS: &[(&str, &str)] = keys! {
    "POWER" "WAKEUP" "SLEEP" "TIMER" "VIDEO" "VIDEO_NEXT" "VIDEO_PREV" "DVD" "GAMES" "TUNER" "TV" "AUX" "UP" "DOWN"
    "LEFT" "RIGHT" "OK" "SELECT" "BACK" "EXIT" "HOMEPAGE" "MENU" "TITLE" "OPTION" "INFO" "EPG" "PAGEUP" "PAGEDOWN"
    "RED" "GREEN" "YELLOW" "BLUE" "PLAY" "PAUSE" "PLAYPAUSE" "STOP" "RECORD" "FASTFORWARD" "REWIND" "NEXT"
    "PREVIOUS" "EJECTCD" "SUBTITLE" "LANGUAGE" "NUMERIC_0" "NUMERIC_1" "NUMERIC_2" "NUMERIC_3" "NUMERIC_4"
    "NUMERIC_5" "NUMERIC_6" "NUMERIC_7" "NUMERIC_8" "NUMERIC_9" "ENTER" "CHANNELUP" "CHANNELDOWN" "LAST" "VOLUMEUP"
    "VOLUMEDOWN" "MUTE" "SOUND" "ASPECT_RATIO" "BRIGHTNESSUP" "BRIGHTNESSDOWN"
};

/// Where a function stands in the table: its place in the vocabulary; strangers come last, by name.
#[must_use]
pub fn rank(name: &str) -> usize {
    TERMS.iter().position(|term| term.name.eq_ignore_ascii_case(name)).unwrap_or(TERMS.len())
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    #[test]
    fn names_and_keys_are_all_different() {
        let names: BTreeSet<String> = TERMS.iter().map(|term| term.name.to_lowercase()).collect();
        assert_eq!(names.len(), TERMS.len());
        let keyed: Vec<&str> = TERMS.iter().map(|term| term.key).filter(|key| !key.is_empty()).collect();
        assert_eq!(keyed.iter().collect::<BTreeSet<_>>().len(), keyed.len());
    }

    #[test]
    fn a_term_with_a_key_name_goes_there_and_back() {
        for term in TERMS.iter().filter(|term| !term.key.is_empty()) {
            let key = to_keymap(term.name).unwrap_or_else(|| panic!("{}", term.name));
            assert_eq!(of_keymap(key), Some(term.name));
        }
    }

    #[test]
    fn older_key_names_are_known_and_strangers_are_not() {
        assert_eq!(of_keymap("KEY_7"), Some("7"));
        assert_eq!(of_keymap("KEY_NEXTSONG"), Some("Next"));
        assert_eq!(of_keymap("KEY_FROBNICATE"), None);
        assert_eq!(to_keymap("Lens memory 1"), None);
    }
}
