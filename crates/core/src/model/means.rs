//! What the key of a function is for, where something depends on it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a function is for. Its name is the user's and can be anything; this steers playback, numbers and light.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[allow(missing_docs, reason = "named as the keys are")]
pub enum Means {
    On,
    Off,
    Play,
    Pause,
    Stop,
    Ok,
    Enter,
    Brighter,
    Darker,
    Digit0,
    Digit1,
    Digit2,
    Digit3,
    Digit4,
    Digit5,
    Digit6,
    Digit7,
    Digit8,
    Digit9,
    /// A key of the device itself that people press, such as a wall switch: nothing is sent to it.
    Pressed,
}

/// The names of our vocabulary, and words that people type for them.
const NAMES: [(&str, Means); 24] = [
    ("on", Means::On),
    ("power on", Means::On),
    ("on (discrete)", Means::On),
    ("off", Means::Off),
    ("power off", Means::Off),
    ("off (discrete)", Means::Off),
    ("play", Means::Play),
    ("pause", Means::Pause),
    ("stop", Means::Stop),
    ("ok", Means::Ok),
    ("enter", Means::Enter),
    ("brighter", Means::Brighter),
    ("darker", Means::Darker),
    ("0", Means::Digit0),
    ("1", Means::Digit1),
    ("2", Means::Digit2),
    ("3", Means::Digit3),
    ("4", Means::Digit4),
    ("5", Means::Digit5),
    ("6", Means::Digit6),
    ("7", Means::Digit7),
    ("8", Means::Digit8),
    ("9", Means::Digit9),
    ("wall switch", Means::Pressed),
];

impl Means {
    const DIGITS: [Self; 10] = [
        Self::Digit0,
        Self::Digit1,
        Self::Digit2,
        Self::Digit3,
        Self::Digit4,
        Self::Digit5,
        Self::Digit6,
        Self::Digit7,
        Self::Digit8,
        Self::Digit9,
    ];

    /// What a function of this name is taken to be for when it is added; none where the name says nothing of the kind.
    #[must_use]
    pub fn of_name(name: &str) -> Option<Self> {
        let name = name.trim();
        NAMES.iter().find(|(known, _)| known.eq_ignore_ascii_case(name)).map(|(_, means)| *means)
    }

    /// The digit that it enters.
    #[must_use]
    pub fn digit(self) -> Option<char> {
        let at = Self::DIGITS.iter().position(|known| *known == self)?;
        char::from_digit(u32::try_from(at).ok()?, 10)
    }

    /// The key of a digit.
    #[must_use]
    pub fn of_digit(digit: char) -> Option<Self> {
        let at = usize::try_from(digit.to_digit(10)?).ok()?;
        Self::DIGITS.get(at).copied()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_of_the_vocabulary_says_what_the_key_is_for_and_any_other_says_nothing() {
        assert_eq!(Means::of_name(" Power On "), Some(Means::On));
        assert_eq!(Means::of_name("7"), Some(Means::Digit7));
        assert_eq!(Means::of_name("banana"), None);
        let digits: String = ('0'..='9').filter_map(|digit| Means::of_digit(digit)?.digit()).collect();
        assert_eq!(digits, "0123456789");
    }
}
