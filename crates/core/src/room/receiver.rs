//! A device's own ear: which of its functions a waveform asks for.

use crate::device::{Medium, Profile};
use crate::id::FunctionId;
use crate::signal::clean::clean;
use crate::signal::radio::{self, RadioCode};
use crate::signal::{Capture, Message, Protocol};
use crate::site::{CodeBody, Device, Site};

/// How far a duration of a raw code may be off and still be recognised: a quarter, and 100 µs.
const RAW_TOLERANCE: f64 = 0.25;

/// How many equal frames a radio receiver wants (*common practice*: two, so that noise opens nothing).
const RADIO_FRAMES: usize = 2;

/// What a device listens for.
#[derive(Debug, Clone)]
pub(super) struct Receiver {
    medium: Medium,
    words: Vec<(FunctionId, CodeBody)>,
}

impl Receiver {
    /// It answers to what its model's remote sends where that is known, else to what was learned.
    pub(super) fn new(site: &Site, device: &Device, profile: &Profile) -> Self {
        let words = profile
            .functions
            .iter()
            .filter_map(|function| {
                let learned = || site.code(device.id, function.id).map(|code| code.body.clone());
                function.answers_to.clone().or_else(learned).map(|body| (function.id, body))
            })
            .collect();
        Self { medium: profile.medium, words }
    }

    /// The function that these durations ask for: enough frames in a row must say so.
    pub(super) fn understand(&self, medium: Medium, durations_us: &[u32]) -> Option<FunctionId> {
        if medium != self.medium {
            return None;
        }
        self.words.iter().find_map(|(function, body)| {
            let asked = match body {
                CodeBody::Decoded { message } => says(durations_us, message),
                CodeBody::Radio { code, .. } => tells(durations_us, code),
                CodeBody::Raw { capture } => resembles(durations_us, capture.durations_us()),
            };
            asked.then_some(*function)
        })
    }
}

/// Do at least as many frames in a row as the protocol wants say this message?
fn says(durations_us: &[u32], message: &Message) -> bool {
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
    longest >= protocol.least_frames
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
