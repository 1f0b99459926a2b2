//! *What is this remote?* Three checks that need no instrument.
//!
//! A hand in front of it blocks infrared and nothing else; the camera of a telephone often shows
//! infrared as a violet flicker (some cameras filter it out, so that seeing nothing proves little); a
//! radio remote states its frequency on its label; a Bluetooth remote can be learned by neither
//! (*common practice*).

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What was seen; `None` where it was not tried.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Checks {
    /// Does it still work with a hand in front of it?
    pub works_through_hand: Option<bool>,
    /// Does a telephone's camera show a flicker at its front while a key is held?
    pub camera_shows: Option<bool>,
    /// The frequency on its label, in MHz; 0 where the label names none.
    pub label_mhz: Option<f64>,
}

/// What a remote is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum RemoteKind {
    /// Infrared.
    Infrared,
    /// Radio at 433.92 MHz.
    Radio433,
    /// Radio at another frequency.
    RadioOther,
    /// Bluetooth or another radio at 2.4 GHz.
    Bluetooth,
    /// It sends both infrared and radio.
    Both,
    /// The checks do not say.
    Unknown,
}

/// What follows from the checks.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Conclusion {
    /// What it is.
    pub kind: RemoteKind,
    /// Do the checks leave no doubt?
    pub certain: bool,
    /// Why, in a sentence.
    pub why: String,
    /// What to do with it, or which check to make next.
    pub next: String,
}

/// Concludes what a remote is.
#[must_use]
pub fn conclude(checks: Checks) -> Conclusion {
    use RemoteKind::{Bluetooth, Both, Infrared, Radio433, RadioOther, Unknown};
    let label = checks.label_mhz.filter(|mhz| mhz.is_finite());
    let band = label.map(|mhz| match mhz {
        433.0..=434.8 => Radio433,
        2_400.0..=2_500.0 | 2.4..=2.5 => Bluetooth,
        mhz if mhz > 0.0 => RadioOther,
        _ => Unknown,
    });
    let learn_ir = "Learn it with the gateway: remote within a few centimetres, one key at a time.";
    match (checks.works_through_hand, checks.camera_shows, band) {
        (Some(true), Some(true), _) => answer(
            Both,
            true,
            "The camera shows infrared, and yet it works through a hand: it sends both, or the hand did not cover it.",
            "Cover its front tightly and try again; if it still works, learn the keys as infrared and use the device's radio only with its own remote.",
        ),
        (Some(false), _, None | Some(Unknown)) | (_, Some(true), None | Some(Unknown)) => answer(
            Infrared,
            checks.works_through_hand == Some(false) && checks.camera_shows != Some(false)
                || checks.camera_shows == Some(true),
            if checks.camera_shows == Some(true) {
                "The camera shows it flicker: that is infrared."
            } else {
                "A hand in front of it stops it: that is infrared."
            },
            learn_ir,
        ),
        (Some(false), _, Some(_)) | (_, Some(true), Some(_)) => answer(
            Both,
            false,
            "It behaves like infrared, but its label names a radio frequency: it may send both.",
            "Try each key with a hand in front of it: keys that still work are radio.",
        ),
        _ => unseen(checks, band, label),
    }
}

/// What it is where nothing speaks for infrared: its label decides, then the hand in front of it.
fn unseen(checks: Checks, band: Option<RemoteKind>, label: Option<f64>) -> Conclusion {
    use RemoteKind::{Bluetooth, Radio433, RadioOther, Unknown};
    let learn_rf = "Learn it in two steps: hold a key while the gateway sweeps for the frequency, then press it once.";
    let other = format!(
        "Ask whether the gateway has {}; most have 433.92 MHz only.",
        label.map_or_else(|| "its frequency".to_owned(), |mhz| format!("{mhz} MHz"))
    );
    match (checks.works_through_hand, checks.camera_shows, band) {
        (_, _, Some(Radio433)) => answer(
            Radio433,
            checks.works_through_hand == Some(true),
            "Its label says 433 MHz, and nothing speaks for infrared.",
            learn_rf,
        ),
        (_, _, Some(Bluetooth)) => answer(
            Bluetooth,
            checks.works_through_hand == Some(true),
            "Its label says 2.4 GHz: Bluetooth or the like.",
            "It cannot be learned. Look for another way into the device: its network, infrared, or a key of its own.",
        ),
        (_, _, Some(RadioOther)) => {
            answer(RadioOther, checks.works_through_hand == Some(true), "Its label names another frequency.", &other)
        }
        (Some(true), _, Some(Unknown)) => answer(
            Bluetooth,
            false,
            "It works through a hand and its label names no frequency: most likely Bluetooth.",
            "Take the device off the mains for a minute: a Bluetooth remote has to connect again before it works. If it is one, it cannot be learned.",
        ),
        (Some(true), _, _) => answer(
            Unknown,
            false,
            "It works through a hand, so it is radio of some kind.",
            "Read the label on its back or in its battery compartment: which frequency does it name?",
        ),
        _ => answer(
            Unknown,
            false,
            "Nothing has been tried that would tell.",
            "Cover its front with a hand and press a key: does the device still react?",
        ),
    }
}

fn answer(kind: RemoteKind, certain: bool, why: &str, next: &str) -> Conclusion {
    Conclusion { kind, certain, why: why.to_owned(), next: next.to_owned() }
}

#[cfg(test)]
mod tests {
    use super::*;
    use RemoteKind::{Bluetooth, Both, Infrared, Radio433, RadioOther, Unknown};
    use rstest::rstest;

    #[rstest]
    #[case::hand_stops_it(Some(false), None, None, Infrared, true)]
    #[case::camera_shows_it(None, Some(true), None, Infrared, true)]
    #[case::camera_filters_infrared(Some(false), Some(false), None, Infrared, false)]
    #[case::label_names_none(Some(false), Some(true), Some(0.0), Infrared, true)]
    #[case::radio(Some(true), Some(false), Some(433.92), Radio433, true)]
    #[case::label_alone_is_not_certain(None, None, Some(433.92), Radio433, false)]
    #[case::other_radio(Some(true), None, Some(868.3), RadioOther, true)]
    #[case::bluetooth(Some(true), Some(false), Some(2400.0), Bluetooth, true)]
    #[case::in_ghz(Some(true), None, Some(2.4), Bluetooth, true)]
    #[case::no_label(Some(true), Some(false), Some(0.0), Bluetooth, false)]
    #[case::both(Some(true), Some(true), None, Both, true)]
    #[case::one_key_is_radio(Some(false), None, Some(433.92), Both, false)]
    #[case::nothing_tried(None, None, None, Unknown, false)]
    #[case::read_the_label(Some(true), None, None, Unknown, false)]
    fn three_checks_tell_what_a_remote_is(
        #[case] works_through_hand: Option<bool>,
        #[case] camera_shows: Option<bool>,
        #[case] label_mhz: Option<f64>,
        #[case] kind: RemoteKind,
        #[case] certain: bool,
    ) {
        let conclusion = conclude(Checks { works_through_hand, camera_shows, label_mhz });
        assert_eq!((conclusion.kind, conclusion.certain), (kind, certain), "{}", conclusion.why);
    }

    #[test]
    fn a_bluetooth_remote_is_said_to_be_beyond_learning() {
        let checks = Checks { works_through_hand: Some(true), camera_shows: None, label_mhz: Some(2400.0) };
        assert!(conclude(checks).next.contains("cannot be learned"));
    }

    #[test]
    fn another_frequency_is_named() {
        let checks = Checks { works_through_hand: Some(true), camera_shows: None, label_mhz: Some(315.0) };
        assert!(conclude(checks).next.contains("315 MHz"));
    }
}
