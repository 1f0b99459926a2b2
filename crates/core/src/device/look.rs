//! What a device tells of itself, and how long it takes to be told.

use super::timed::Timed;
use crate::model::{Feedback, Profile, Standing, Tell};

/// What can be seen of a device; `None` where nothing is told of a matter.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct Seen {
    /// On or off.
    pub on: Option<bool>,
    /// The input, counted from 0.
    pub input: Option<u8>,
    /// Is it all the way down?
    pub down: Option<bool>,
}

impl Seen {
    /// Does it tell anything?
    #[must_use]
    pub fn tells(&self) -> bool {
        *self != Self::default()
    }

    /// In words, with the names of the inputs.
    #[must_use]
    pub fn in_words(&self, profile: &Profile) -> String {
        let mut words = Vec::new();
        words.extend(self.on.map(|on| if on { "on" } else { "off" }.to_owned()));
        let input = self.input.and_then(|input| profile.inputs.get(usize::from(input)));
        words.extend(input.map(|input| format!("input {}", input.name)));
        words.extend(self.down.map(|down| if down { "down" } else { "not down" }.to_owned()));
        if words.is_empty() { "nothing".to_owned() } else { words.join(", ") }
    }
}

/// How long a look takes at most, in ms: a poll and its time-out, or the delay of what tells by itself.
/// `None` where the device tells nothing.
#[must_use]
pub fn look_ms(profile: &Profile) -> Option<u32> {
    match &profile.feedback {
        Feedback::None => None,
        Feedback::Poll { every_ms, time_out_ms, .. } => Some(every_ms + time_out_ms),
        Feedback::Push { delay_ms, .. } | Feedback::Sensor { delay_ms, .. } => Some(*delay_ms),
    }
}

/// What a look at a device in this state shows.
#[must_use]
pub fn seen(profile: &Profile, timed: &Timed) -> Seen {
    let state = timed.state;
    let down = profile.motion.is_some().then_some(state.position == Standing::Down && !timed.may_travel());
    let told = |what| profile.feedback.tells(what);
    Seen {
        on: told(Tell::Power).then_some(state.on),
        input: (told(Tell::Input) && state.on).then_some(state.input),
        down: down.filter(|_| told(Tell::Position)),
    }
}
