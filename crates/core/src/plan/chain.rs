//! The commands of one device or group: words spelled out as single sends.

use super::{ASSUMED_SEND_MS, medium_of, press_of, send_ms};
use crate::device::homing::Sending;
use crate::device::{Letter, Word};
use crate::id::{DeviceId, FunctionId};
use crate::model::{Effect, Means, Medium, Profile, Reach, Site, Span};

/// One send of a chain.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Send {
    /// To which device.
    pub device: DeviceId,
    /// Which function.
    pub function: FunctionId,
    /// The letter that it completes; none for all but the last digit of a number, and for what no machine
    /// takes note of (a step of volume, a light).
    pub letter: Option<Letter>,
    /// On what.
    pub medium: Medium,
    /// How long, in ms.
    pub send_ms: u32,
    /// The least pause before it, in ms.
    pub wait_ms: u32,
    /// What the pause is at least by the evidence, where a hand has changed it, in ms.
    pub evidence_ms: u32,
    /// The greatest pause before it, in ms.
    pub within_ms: Option<u32>,
    /// What it sets in motion.
    pub effect: Effect,
    /// How long that keeps the device busy.
    pub settle: Span,
    /// How long until it can be seen or heard.
    pub shows: Span,
    /// Does *ready* wait for it?
    pub needed: bool,
    /// It starts then and at no other time, in ms.
    pub pin_ms: Option<u32>,
    /// Was it changed by hand?
    pub by_hand: bool,
}

impl Send {
    /// A single press that nothing hangs on.
    #[must_use]
    pub fn single(site: &Site, device: DeviceId, function: FunctionId, wait_ms: u32) -> Self {
        Self {
            device,
            function,
            letter: Some(Letter::Key(function)),
            medium: medium_of(site, device, function),
            send_ms: send_ms(site, device, function),
            wait_ms,
            evidence_ms: wait_ms,
            within_ms: None,
            effect: Effect::None,
            settle: Span::NONE,
            shows: Span::NONE,
            needed: false,
            pin_ms: None,
            by_hand: false,
        }
    }
}

/// How a letter is sent to a device: how long, and on what.
#[must_use]
pub fn sending(site: &Site, device: DeviceId, letter: Letter) -> Sending {
    match letter {
        Letter::Key(key) => Sending { ms: send_ms(site, device, key), medium: medium_of(site, device, key) },
        Letter::StopAt(_) => match stop_key(site, device) {
            Some(key) => Sending { ms: send_ms(site, device, key), medium: medium_of(site, device, key) },
            None => Sending { ms: ASSUMED_SEND_MS, medium: Medium::Ir },
        },
        Letter::Tune(app) => {
            let digits = digits_of(site, device, app);
            let first = digits.first().map(|&key| medium_of(site, device, key)).unwrap_or(Medium::Ir);
            let gap = site.profile_of(device).map_or(0, |profile| digit_gap(&profile));
            let presses: u32 = digits.iter().map(|&key| send_ms(site, device, key)).sum();
            let gaps = gap * u32::try_from(digits.len().saturating_sub(1)).unwrap_or(0);
            Sending { ms: (presses + gaps).max(ASSUMED_SEND_MS), medium: first }
        }
    }
}

/// The key that stops what moves.
pub(crate) fn stop_key(site: &Site, device: DeviceId) -> Option<FunctionId> {
    site.profile_of(device)?.motion?.stop
}

/// The keys that a letter is sent with.
pub(crate) fn keys_of(site: &Site, device: DeviceId, letter: Letter) -> Vec<FunctionId> {
    match letter {
        Letter::Key(key) => vec![key],
        Letter::Tune(app) => digits_of(site, device, app),
        Letter::StopAt(_) => stop_key(site, device).into_iter().collect(),
    }
}

fn digit_gap(profile: &Profile) -> u32 {
    profile.times.digits.lo_ms.max(profile.times.gap_ms)
}

/// The keys of a channel number: its digits, and the enter key where the model has one.
#[must_use]
pub fn number_keys(profile: &Profile, number: &str) -> Vec<FunctionId> {
    let digits = number.chars().filter_map(Means::of_digit).filter_map(|digit| profile.function_for(digit));
    let mut keys: Vec<FunctionId> = digits.map(|function| function.id).collect();
    let enter = [Means::Enter, Means::Ok].into_iter().find_map(|means| profile.function_for(means));
    keys.extend(enter.map(|function| function.id));
    keys
}

/// The keys of an app or channel that is reached by digits, counted from 1.
pub(crate) fn digits_of(site: &Site, device: DeviceId, app: u8) -> Vec<FunctionId> {
    let Some(profile) = site.profile_of(device) else { return vec![] };
    match usize::from(app).checked_sub(1).and_then(|at| profile.apps.get(at)).map(|app| &app.reach) {
        Some(Reach::Digits { number }) => number_keys(&profile, number),
        _ => vec![],
    }
}

/// Spells a word out. `needed` tells whether *ready* waits for a device.
#[must_use]
pub fn spell(site: &Site, word: &Word, needed: impl Fn(DeviceId) -> bool) -> Vec<Send> {
    let mut sends = Vec::with_capacity(word.steps.len());
    for step in &word.steps {
        let key = |function, letter, wait_ms, within_ms| Send {
            device: step.device,
            function,
            letter,
            medium: medium_of(site, step.device, function),
            send_ms: send_ms(site, step.device, function),
            wait_ms,
            evidence_ms: wait_ms,
            within_ms,
            effect: Effect::None,
            settle: Span::NONE,
            shows: Span::NONE,
            needed: needed(step.device),
            pin_ms: None,
            by_hand: false,
        };
        let own = match step.letter {
            Letter::Key(function) => Some(function),
            Letter::StopAt(_) => stop_key(site, step.device),
            Letter::Tune(_) => None,
        };
        if let Some(function) = own {
            sends.push(Send {
                effect: step.effect,
                settle: step.settle,
                shows: step.shows,
                ..key(function, Some(step.letter), step.wait_ms, step.within_ms)
            });
        }
        match step.letter {
            Letter::Key(_) | Letter::StopAt(_) => {}
            Letter::Tune(app) => {
                let digits = digits_of(site, step.device, app);
                let times = site.profile_of(step.device).map(|profile| (digit_gap(&profile), profile.times.digits));
                let (gap, span) = times.unwrap_or((0, Span::NONE));
                for (at, &digit) in digits.iter().enumerate() {
                    let last = at + 1 == digits.len();
                    let within = span.hi_ms.saturating_sub(send_ms(site, step.device, digit)).max(gap);
                    let (wait, within) = if at == 0 { (step.wait_ms, step.within_ms) } else { (gap, Some(within)) };
                    sends.push(key(digit, last.then_some(step.letter), wait, within));
                }
            }
        }
    }
    sends
}

/// Presses that bring the volume from `belief` (in tenths, least and greatest) to `wanted`, the greatest
/// value never passing the ceiling: an unknown volume is first stepped down to the end of the scale.
#[must_use]
pub fn volume(profile: &Profile, belief: (u32, u32), wanted: u32) -> Vec<FunctionId> {
    let Some(volume) = profile.volume else { return vec![] };
    let step = volume.step_tenths.max(1);
    let wanted = wanted.min(volume.ceiling) * 10;
    let (least, greatest) = belief;
    let mut keys = Vec::new();
    let mut at = least;
    if least != greatest {
        let presses = greatest.div_ceil(step);
        keys.extend((0..presses).map(|_| volume.down));
        at = 0;
    }
    let presses = at.abs_diff(wanted) / step;
    keys.extend((0..presses).map(|_| if at < wanted { volume.up } else { volume.down }));
    keys
}

/// Presses a key needs beyond its first: used by what sends single keys.
#[must_use]
pub fn presses_of(site: &Site, device: DeviceId, function: FunctionId) -> u8 {
    press_of(site, device, function).0.presses
}
