//! A device's own ear: which of its functions a waveform or a handful of bytes asks for.

use crate::id::FunctionId;
use crate::model::{CodeBody, Device, Medium, Press, Profile, Site, Unlisted};
use kestrel_signal::clean::clean;
use kestrel_signal::radio::{self, RadioCode};
use kestrel_signal::{Capture, Message, Protocol};

/// How far a duration of a raw code may be off and still be recognised: a quarter, and 100 µs.
const RAW_TOLERANCE: f64 = 0.25;

/// How many equal frames a radio receiver wants (*common practice*: two, so that noise opens nothing).
const RADIO_FRAMES: usize = 2;

/// Silence that separates two presses of a key, in µs: longer than the silence between the frames of
/// one press in any protocol here (at most 95 ms).
const PRESS_GAP_US: u32 = 150_000;

/// A key that no remote of the model has, as makers keep them for service.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Secret {
    On,
    Off,
}

/// What a waveform asks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Asked {
    Function(FunctionId),
    Secret(Secret),
}

/// What a device listens for.
#[derive(Debug, Clone)]
pub(super) struct Receiver {
    words: Vec<Word>,
    secrets: Vec<(Message, Secret)>,
}

/// One function with what it answers to.
#[derive(Debug, Clone)]
struct Word {
    function: FunctionId,
    press: Press,
    frames: Option<u32>,
    body: CodeBody,
}

impl Receiver {
    /// It answers to what its model's remote sends where that is known, else to what was learned.
    pub(super) fn new(site: &Site, device: &Device, profile: &Profile) -> Self {
        let mut words = Vec::new();
        for function in &profile.functions {
            let learned = site.codes_of(device.id, function.id).map(|code| code.body.clone());
            let bodies: Vec<CodeBody> = function.answers_to.clone().map_or_else(|| learned.collect(), |own| vec![own]);
            let word = |body| Word { function: function.id, press: function.press, frames: function.frames, body };
            words.extend(bodies.into_iter().map(word));
        }
        Self { words, secrets: secrets(profile) }
    }

    /// What these durations ask for: enough frames in a row must say so. Of several functions of one key
    /// it is the one whose presses and hold fit.
    pub(super) fn understand(&self, medium: Medium, durations_us: &[u32]) -> Option<Asked> {
        let fits: Vec<&Word> = self
            .words
            .iter()
            .filter(|word| {
                let least = word.frames.unwrap_or(0);
                word.body.medium() == medium
                    && match &word.body {
                        CodeBody::Decoded { message, .. } => says(durations_us, message, least),
                        CodeBody::Radio { code, .. } => tells(durations_us, code),
                        CodeBody::Raw { capture, .. } => resembles(durations_us, capture.durations_us()),
                        CodeBody::Opaque { .. } | CodeBody::Ip { .. } => false,
                    }
            })
            .collect();
        if fits.is_empty() {
            let secret = self.secrets.iter().find(|(message, _)| says(durations_us, message, 0));
            return secret.filter(|_| medium == Medium::Ir).map(|(_, secret)| Asked::Secret(*secret));
        }
        let (presses, hold_ms) = pressed(durations_us);
        let meant =
            |word: &&&Word| u32::from(word.press.presses.max(1)) == presses && word.press.hold_ms <= hold_ms + 150;
        let best = fits.iter().filter(meant).max_by_key(|word| word.press.hold_ms);
        let tap = || fits.iter().find(|word| word.press.is_tap()).or(fits.first());
        best.or_else(tap).map(|word| Asked::Function(word.function))
    }

    /// What these bytes ask for, and what is answered.
    pub(super) fn understand_bytes(&self, bytes: &[u8]) -> Option<(FunctionId, Vec<u8>)> {
        self.words.iter().find_map(|word| match &word.body {
            CodeBody::Ip { command } if command.bytes().is_ok_and(|own| own == bytes) => {
                Some((word.function, command.expected().unwrap_or_default()))
            }
            _ => None,
        })
    }
}

/// What no key of its remote sends.
fn secrets(profile: &Profile) -> Vec<(Message, Secret)> {
    let secret = |unlisted: &Unlisted| match &unlisted.sends {
        CodeBody::Decoded { message, .. } => Some((*message, if unlisted.on { Secret::On } else { Secret::Off })),
        _ => None,
    };
    profile.unlisted.iter().filter_map(secret).collect()
}

/// How often the key was pressed, and how long the last press was held, in ms.
fn pressed(durations_us: &[u32]) -> (u32, u32) {
    let (mut presses, mut held) = (1, 0u64);
    let last_mark = durations_us.len().saturating_sub(1) / 2 * 2;
    for (index, &us) in durations_us.iter().enumerate().take(last_mark + 1) {
        if index % 2 == 1 && us >= PRESS_GAP_US {
            presses += 1;
            held = 0;
        } else {
            held += u64::from(us);
        }
    }
    (presses, u32::try_from(held / 1000).unwrap_or(u32::MAX))
}

/// Do at least as many frames in a row as the protocol (or the receiver) wants say this message?
fn says(durations_us: &[u32], message: &Message, least: u32) -> bool {
    let Ok(capture) = Capture::new(durations_us.to_vec(), None) else { return false };
    let protocol: &'static Protocol = message.protocol();
    let cleaned = clean(&capture);
    let (mut row, mut longest) = (0, 0);
    for frame in cleaned.frames() {
        let same = protocol.decode(frame.durations_us).is_ok_and(|heard| heard.same_key(message));
        if same || (row > 0 && protocol.is_held_sign(frame.durations_us)) {
            row += 1;
            longest = longest.max(row);
        } else {
            row = 0;
        }
    }
    longest >= protocol.least_frames.max(least)
}

/// Do enough radio frames say this code?
fn tells(durations_us: &[u32], code: &RadioCode) -> bool {
    Capture::new(durations_us.to_vec(), None)
        .ok()
        .and_then(|capture| radio::read(&capture).ok())
        .is_some_and(|heard| heard.frames >= RADIO_FRAMES && heard.candidates[0].pulses() == code.pulses())
}

fn resembles(heard: &[u32], known: &[u32]) -> bool {
    let marks = |durations: &[u32]| durations.len() - usize::from(durations.len().is_multiple_of(2));
    let (count, expected) = (marks(heard), marks(known));
    count == expected
        && heard
            .iter()
            .zip(known)
            .take(count)
            .all(|(&a, &b)| (f64::from(a) - f64::from(b)).abs() <= RAW_TOLERANCE * f64::from(b) + 100.0)
}
