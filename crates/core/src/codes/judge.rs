//! What a learner heard, looked at with everything already known of the device: is it this key, and can
//! it be kept? Wrong situations are named, each with what to do.

use crate::id::{DeviceId, FunctionId};
use crate::model::{Code, CodeBody, Medium, Power, Site};
use kestrel_signal::combine::combine_among;
use kestrel_signal::radio::{self, RadioError, RadioReading};
use kestrel_signal::{Capture, Reading, read_among};
use serde::Serialize;
use utoipa::ToSchema;

/// For how long a learner listens, in ms.
pub const LISTEN_MS: u32 = 10_000;

/// What is wrong with what was heard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Trouble {
    /// Nothing was heard.
    NothingHeard,
    /// Two keys were heard.
    TwoKeys,
    /// It is the code of another function of this device.
    SameAsAnother,
    /// It differs from another function in the toggle bit alone.
    ToggleOnly,
    /// On and off were learned the other way round.
    Swapped,
    /// It was not held long enough.
    TooShort,
    /// It is radio where infrared was expected.
    IsRadio,
    /// It is infrared where radio was expected.
    IsInfrared,
    /// It is a rolling code.
    Rolling,
    /// A second press is needed.
    PressAgain,
    /// No protocol explains it.
    Unknown,
}

/// One thing that is wrong or worth knowing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Remark {
    /// What it is.
    pub trouble: Trouble,
    /// In a sentence, with what to do.
    pub text: String,
    /// The other function, where it is about one.
    pub function: Option<FunctionId>,
    /// Must it be mended before the code can be kept?
    pub stops: bool,
}

/// What was heard, and what follows.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Judgement {
    /// The capture that would be kept (several presses combined).
    pub capture: Option<Capture>,
    /// What it says as infrared.
    pub reading: Option<Reading>,
    /// What it says as a fixed radio code.
    pub radio: Option<RadioReading>,
    /// The code that would be kept.
    pub body: Option<CodeBody>,
    /// What is wrong, worst first; empty where it can be kept without a second thought.
    pub remarks: Vec<Remark>,
}

fn remark(trouble: Trouble, stops: bool, text: impl Into<String>) -> Remark {
    Remark { trouble, text: text.into(), function: None, stops }
}

/// The silence that is put between signals of one press, in µs: no frame is as long.
const BETWEEN_US: u32 = 60_000;

/// What was heard while the learner listened once: several infrared signals are frames of one press.
#[must_use]
pub fn joined(heard: Vec<(Medium, Capture)>) -> Vec<(Medium, Capture)> {
    let mut presses: Vec<(Medium, Capture)> = Vec::new();
    for (medium, capture) in heard {
        match presses.last_mut().filter(|(before, _)| *before == medium && medium == Medium::Ir) {
            Some((_, press)) => {
                let mut durations = press.durations_us().to_vec();
                if !durations.len().is_multiple_of(2) {
                    durations.push(BETWEEN_US);
                }
                durations.extend(capture.durations_us());
                if let Ok(longer) = Capture::new(durations, press.carrier_hz()) {
                    *press = longer;
                }
            }
            None => presses.push((medium, capture)),
        }
    }
    presses
}

/// Judges what was heard for a function of a device: the presses of one key, in order. `medium` is the
/// one on which it was expected.
#[must_use]
pub fn judge(
    site: &Site,
    device: DeviceId,
    function: FunctionId,
    medium: Medium,
    presses: &[(Medium, Capture)],
) -> Judgement {
    let mut judgement = Judgement { capture: None, reading: None, radio: None, body: None, remarks: vec![] };
    let Some((heard_on, _)) = presses.last() else {
        let text = format!(
            "Nothing was heard in {} s. Hold the remote within a few centimetres of the learner, check its battery, and try again. A remote that works through a hand in front of it is radio.",
            LISTEN_MS / 1000
        );
        judgement.remarks.push(remark(Trouble::NothingHeard, true, text));
        return judgement;
    };
    if *heard_on != medium {
        let (trouble, text) = if *heard_on == Medium::Rf433 {
            (
                Trouble::IsRadio,
                "This key sends radio and no infrared. Learn it as radio: hold it while the learner sweeps, then press it once.",
            )
        } else {
            (Trouble::IsInfrared, "This key sends infrared and no radio. Learn it as infrared.")
        };
        judgement.remarks.push(remark(trouble, true, text));
        return judgement;
    }
    let captures: Vec<Capture> = presses.iter().map(|(_, capture)| capture.clone()).collect();
    if medium == Medium::Rf433 {
        judge_radio(&captures, &mut judgement)
    } else {
        judge_infrared(site, &captures, &mut judgement)
    }
    if let Some(body) = judgement.body.clone() {
        judgement.remarks.extend(compare(site, device, function, &body));
    }
    judgement.remarks.sort_by_key(|remark| !remark.stops);
    judgement
}

fn judge_radio(captures: &[Capture], judgement: &mut Judgement) {
    judgement.capture = captures.last().cloned();
    let read = match radio::read_presses(captures) {
        Err(RadioError::OnePress) => {
            if let Some(heard) = captures.first().and_then(|capture| radio::read(capture).ok()) {
                judgement.radio = Some(heard);
                judgement.remarks.push(remark(Trouble::PressAgain, true, RadioError::OnePress.to_string()));
                return;
            }
            captures.first().map_or(Err(RadioError::NoSync), radio::read)
        }
        other => other,
    };
    match read {
        Ok(heard) => {
            #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "150 to 700")]
            let unit_us = heard.unit_us.round() as u32;
            judgement.body = heard.candidates.first().map(|&code| CodeBody::Radio { code, unit_us });
            judgement.radio = Some(heard);
        }
        Err(error @ RadioError::Rolling { .. }) => {
            judgement.capture = None;
            judgement.remarks.push(remark(Trouble::Rolling, true, error.to_string()));
        }
        Err(error) => judgement.remarks.push(remark(Trouble::Unknown, true, error.to_string())),
    }
}

fn judge_infrared(site: &Site, captures: &[Capture], judgement: &mut Judgement) {
    let known = site.protocols_read();
    let Some(combined) = combine_among(captures, &known) else { return };
    let reading = combined.reading;
    judgement.capture = Some(combined.capture.clone());
    match &reading.best {
        Some(best) => {
            judgement.body = Some(CodeBody::heard(best.message, combined.capture.carrier_hz(), best.whole_repeats));
            let another = captures
                .iter()
                .filter_map(|capture| read_among(capture, &known).best)
                .find(|other| !other.message.same_key(&best.message));
            if let Some(other) = &another {
                let text = format!(
                    "Two keys were heard: one press says {}, another {}. Discard them, and press one key.",
                    best.message, other.message
                );
                judgement.remarks.push(remark(Trouble::TwoKeys, true, text));
            }
            let two = best.remarks.iter().find(|text| text.contains("Two keys were heard"));
            if let (Some(text), None) = (two, another) {
                judgement.remarks.push(remark(Trouble::TwoKeys, true, text.clone()));
            }
            let frames = best.frames_matched + best.held_signs;
            let needed = best.message.protocol().least_frames as usize;
            if frames < needed {
                let text = format!(
                    "Held too short: {frames} of the {needed} frames that receivers want were heard. Hold the key a little longer."
                );
                judgement.remarks.push(remark(Trouble::TooShort, false, text));
            }
        }
        None => {
            let short = reading.why.contains("held too briefly") || reading.why.contains("cut short");
            judgement.body = Some(CodeBody::Raw { capture: combined.capture, medium: Medium::Ir });
            let (trouble, stops) = if short { (Trouble::TooShort, true) } else { (Trouble::Unknown, false) };
            judgement.remarks.push(remark(trouble, stops, reading.why.clone()));
        }
    }
    judgement.reading = Some(reading);
}

/// What the new code has to do with those that are known.
fn compare(site: &Site, device: DeviceId, function: FunctionId, body: &CodeBody) -> Vec<Remark> {
    let mut remarks = Vec::new();
    let Some(words) = body.key_words() else { return remarks };
    let Some(profile) = site.profile_of(device) else { return remarks };
    let press = profile.function(function).map(|function| function.press);
    let same = |code: &&Code| {
        code.device == device
            && code.function != function
            && code.body.key_words().as_deref() == Some(words.as_str())
            && profile.function(code.function).map(|other| other.press) == press
    };
    let name = |id: FunctionId| site.function_name(device, id);
    if let Some(code) = site.codes.iter().find(same) {
        let pair = partner(&profile.power, function) == Some(code.function);
        let (trouble, text) = if code.body != *body {
            (
                Trouble::ToggleOnly,
                format!(
                    "It differs from “{}” in the toggle bit alone, which flips at every press: this is the same key and no second code.",
                    name(code.function)
                ),
            )
        } else if pair {
            (
                Trouble::Swapped,
                format!(
                    "This is the code that “{}” holds. Either the same key was pressed twice, or the two were learned in the wrong order: press the other key, and exchange them if it holds this one.",
                    name(code.function)
                ),
            )
        } else {
            (
                Trouble::SameAsAnother,
                format!(
                    "This is the code of “{}”. One key was pressed for both: press the key for “{}”.",
                    name(code.function),
                    name(function)
                ),
            )
        };
        remarks.push(Remark { trouble, text, function: Some(code.function), stops: false });
    }
    if remarks.is_empty()
        && let Some(swapped) = swapped_against(site, device, function, &words)
    {
        remarks.push(swapped);
    }
    remarks
}

/// The function that undoes this one: off for on.
fn partner(power: &Power, function: FunctionId) -> Option<FunctionId> {
    match *power {
        Power::Discrete { on, off } | Power::NetworkWake { wake: on, off } => {
            (function == on).then_some(off).or((function == off).then_some(on))
        }
        _ => None,
    }
}

/// Is this what other devices of the same model hold for the opposite function?
fn swapped_against(site: &Site, device: DeviceId, function: FunctionId, words: &str) -> Option<Remark> {
    let own = site.device(device)?;
    let opposite = partner(&site.model_of(device)?.power, function)?;
    let twin = site.codes.iter().find(|code| {
        code.device != device
            && code.function == opposite
            && code.body.key_words().as_deref() == Some(words)
            && site.device(code.device).is_some_and(|other| other.profile == own.profile)
    })?;
    let text = format!(
        "On {}, which is the same model, this is “{}”: on and off may have been swapped here. Test it before going on.",
        site.device_name(twin.device),
        site.function_name(twin.device, opposite)
    );
    Some(Remark { trouble: Trouble::Swapped, text, function: Some(opposite), stops: false })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::model::Press;
    use crate::room::handset::{self, Thumb};
    use kestrel_signal::radio::RadioCode;
    use kestrel_signal::{Message, ProtocolId};

    fn key(site: &Site, device: DeviceId, name: &str) -> FunctionId {
        site.model_of(device).unwrap().functions.iter().find(|function| function.name == name).unwrap().id
    }

    fn pressed(site: &Site, device: DeviceId, name: &str, thumb: Thumb) -> (Medium, Capture) {
        let heard = handset::press(site, device, key(site, device, name), thumb, 99).unwrap();
        (heard.medium, heard.capture)
    }

    const TAP: Thumb = Thumb::Press(Press { presses: 1, hold_ms: 0, gap_ms: 400 });

    fn troubles(judgement: &Judgement) -> Vec<Trouble> {
        judgement.remarks.iter().map(|remark| remark.trouble).collect()
    }

    /// The demo without the codes of a device.
    fn without_codes(device: DeviceId) -> Site {
        let mut site = demo::marram_point();
        site.codes.retain(|code| code.device != device);
        site
    }

    #[test]
    fn the_right_key_is_kept_without_a_word() {
        let site = demo::marram_point();
        let heard = pressed(&site, ids::receiver(), "Disc", TAP);
        let judged = judge(&site, ids::receiver(), ids::receiver_disc(), Medium::Ir, &[heard]);
        assert_eq!((judged.body, judged.remarks), (demo::missing_code(), vec![]));
    }

    #[test]
    fn nothing_heard_says_what_to_try() {
        let judged = judge(&demo::marram_point(), ids::receiver(), ids::receiver_disc(), Medium::Ir, &[]);
        assert_eq!(troubles(&judged), [Trouble::NothingHeard]);
        assert!(judged.remarks[0].text.contains("10 s"));
    }

    #[test]
    fn two_keys_in_one_press_are_refused() {
        let site = demo::marram_point();
        let mut both = pressed(&site, ids::receiver(), "Disc", TAP).1.durations_us().to_vec();
        both.extend(pressed(&site, ids::receiver(), "Game", TAP).1.durations_us());
        let heard = (Medium::Ir, Capture::new(both, None).unwrap());
        let judged = judge(&site, ids::receiver(), ids::receiver_disc(), Medium::Ir, &[heard]);
        assert_eq!(troubles(&judged), [Trouble::TwoKeys]);
        assert!(judged.remarks[0].stops);
    }

    #[test]
    fn the_code_of_another_key_is_recognised() {
        let site = demo::marram_point();
        let heard = pressed(&site, ids::receiver(), "Stream", TAP);
        let judged = judge(&site, ids::receiver(), ids::receiver_disc(), Medium::Ir, &[heard]);
        assert_eq!(troubles(&judged), [Trouble::SameAsAnother]);
        assert!(judged.remarks[0].text.contains("“Stream”"));
    }

    #[test]
    fn a_toggle_bit_is_no_second_code() {
        let mut site = without_codes(ids::receiver());
        let (on, off) = (key(&site, ids::receiver(), "Power on"), key(&site, ids::receiver(), "Power off"));
        let message = Message::new(ProtocolId::Rc5, [("address", 3), ("command", 12)]).unwrap();
        let house = demo::marram_point();
        let known = house.codes.iter().find(|c| c.function == on && c.device == ids::receiver()).unwrap().clone();
        site.codes.push(Code { body: CodeBody::of(message), ..known });
        let press = Capture::new(message.with_toggle(true).encode(2), None).unwrap();
        let judged = judge(&site, ids::receiver(), off, Medium::Ir, &[(Medium::Ir, press)]);
        assert_eq!(troubles(&judged), [Trouble::ToggleOnly]);
    }

    #[test]
    fn on_and_off_in_the_wrong_order_are_noticed() {
        let site = demo::marram_point();
        let device = ids::cabin_disc_player();
        let mut fresh = site.clone();
        fresh.codes.retain(|code| code.device != device);
        let off_for_on = pressed(&site, device, "Power off", TAP);
        let judged = judge(&fresh, device, key(&site, device, "Power on"), Medium::Ir, &[off_for_on]);
        assert_eq!(
            troubles(&judged),
            [Trouble::TooShort, Trouble::Swapped]
                .map(|t| t)
                .into_iter()
                .filter(|t| troubles(&judged).contains(t))
                .collect::<Vec<_>>()
        );
        assert!(
            judged.remarks.iter().any(|r| r.trouble == Trouble::Swapped && r.text.contains("same model")),
            "{:?}",
            judged.remarks
        );
    }

    #[test]
    fn learning_off_again_from_the_on_key_is_noticed_by_order() {
        let site = demo::marram_point();
        let heard = pressed(&site, ids::receiver(), "Power on", TAP);
        let judged = judge(&site, ids::receiver(), key(&site, ids::receiver(), "Power off"), Medium::Ir, &[heard]);
        assert_eq!(troubles(&judged), [Trouble::Swapped]);
        assert!(judged.remarks[0].text.contains("wrong order"));
    }

    #[test]
    fn a_slip_is_too_short() {
        let site = demo::marram_point();
        let heard = pressed(&site, ids::receiver(), "Disc", Thumb::Slip);
        let judged = judge(&site, ids::receiver(), ids::receiver_disc(), Medium::Ir, &[heard]);
        assert_eq!(troubles(&judged), [Trouble::TooShort]);
        assert!(judged.remarks[0].stops);
    }

    #[test]
    fn fewer_frames_than_receivers_want_are_said() {
        let site = without_codes(ids::disc_player());
        let message = Message::new(ProtocolId::Sirc20, [("address", 26), ("command", 50), ("extended", 90)]).unwrap();
        let press = Capture::new(message.encode(1), None).unwrap();
        let play = key(&site, ids::disc_player(), "Play");
        let judged = judge(&site, ids::disc_player(), play, Medium::Ir, &[(Medium::Ir, press)]);
        assert_eq!(troubles(&judged), [Trouble::TooShort]);
        assert!(!judged.remarks[0].stops, "it can be kept: a press is sent with all its frames");
    }

    #[test]
    fn a_radio_key_on_an_infrared_handset_is_named() {
        let site = demo::marram_point();
        let lamp = key(&site, ids::cabin_display(), "Lamp");
        let heard = pressed(&site, ids::cabin_display(), "Lamp", TAP);
        let judged = judge(&site, ids::cabin_display(), lamp, Medium::Ir, std::slice::from_ref(&heard));
        assert_eq!(troubles(&judged), [Trouble::IsRadio]);
        let once = judge(&site, ids::cabin_display(), lamp, Medium::Rf433, std::slice::from_ref(&heard));
        assert_eq!(troubles(&once), [Trouble::PressAgain]);
        let twice = judge(&site, ids::cabin_display(), lamp, Medium::Rf433, &[heard.clone(), heard]);
        assert!(twice.remarks.is_empty() && twice.body.unwrap().is_decoded());
    }

    #[test]
    fn a_rolling_code_is_refused_and_not_kept() {
        let presses = [0x5a3c1, 0x1f7e2].map(|identity| {
            let code = RadioCode::ook24(identity, 1).unwrap();
            (Medium::Rf433, Capture::new(code.encode(350, 4), None).unwrap())
        });
        let site = demo::marram_point();
        let down = key(&site, ids::screen(), "Down");
        let judged = judge(&site, ids::screen(), down, Medium::Rf433, &presses);
        assert_eq!(troubles(&judged), [Trouble::Rolling]);
        assert_eq!((judged.capture, judged.body), (None, None));
    }
}
