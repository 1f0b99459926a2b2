//! The stand-in for a handset and a hand: what the learner hears when a key is pressed.
//!
//! The remote of a model sends what the model answers to, but as real remotes do: with a clock that is a
//! little off, edges that jitter, and marks that the learner's receiver stretches. A key can bounce (a
//! stump of a frame comes before the press), and one key of an infrared handset can be radio.

use crate::id::{DeviceId, FunctionId};
use crate::model::{CodeBody, Medium, Press, Site};
use kestrel_signal::{Capture, MAX_DURATIONS};
use serde::Serialize;
use utoipa::ToSchema;

/// How far an edge jitters at most, in µs (*invented*).
const JITTER_US: i64 = 40;

/// By how much the learner's receiver stretches marks, in µs (*invented*; real ones −60 to +150).
const STRETCH_US: i64 = 70;

/// How fast the handset's clock is, in ‰ (*invented*).
const CLOCK_PER_MILLE: i64 = 1_008;

/// A key of a handset.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct HandsetKey {
    /// The function that its maker meant.
    pub function: FunctionId,
    /// What is printed on it.
    pub name: String,
    /// On what it sends.
    pub medium: Medium,
}

/// What the thumb does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Thumb {
    /// Presses as the function asks.
    Press(Press),
    /// Slips: the key is let go during its first frame.
    Slip,
}

/// What one press radiates.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Radiated {
    /// On what.
    pub medium: Medium,
    /// Marks and spaces, as the learner's receiver gives them.
    pub capture: Capture,
}

/// The keys of the handset that came with a device: one for each different thing it sends.
#[must_use]
pub fn keys(site: &Site, device: DeviceId) -> Vec<HandsetKey> {
    let Some(profile) = site.model_of(device) else { return vec![] };
    let sends = |function: &&crate::model::Function| {
        function.press.is_tap()
            && function.answers_to.as_ref().is_some_and(|body| body.medium().learnable() && !body.press_us().is_empty())
    };
    profile
        .functions
        .iter()
        .filter(sends)
        .map(|function| HandsetKey {
            function: function.id,
            name: function.name.clone(),
            medium: function.answers_to.as_ref().map_or(Medium::Ir, CodeBody::medium),
        })
        .collect()
}

/// What the learner hears when a key is pressed; `seed` chooses the jitter. None where the handset has
/// no such key.
#[must_use]
pub fn press(site: &Site, device: DeviceId, key: FunctionId, thumb: Thumb, seed: u64) -> Option<Radiated> {
    let profile = site.model_of(device)?;
    let body = profile.function(key)?.answers_to.as_ref()?;
    let press = if let Thumb::Press(press) = thumb { press } else { Press::default() };
    let mut durations = body.send_us(press, None);
    if durations.is_empty() {
        return None;
    }
    if thumb == Thumb::Slip {
        let first = durations.iter().enumerate().find(|(index, us)| index % 2 == 1 && **us > 5_600).map(|(at, _)| at);
        durations.truncate(first.unwrap_or(durations.len()));
        durations.truncate((durations.len() * 2 / 3).max(1) | 1);
    }
    if profile.function(key)?.bounces {
        let stump: Vec<u32> = durations.iter().copied().take(9).chain([24_000]).collect();
        durations = stump.into_iter().chain(durations).collect();
    }
    let mut noise = Noise(seed | 1);
    let heard = durations.iter().take(MAX_DURATIONS).enumerate().map(|(index, &us)| {
        let sign = if index % 2 == 0 { 1 } else { -1 };
        let stretch = if body.medium() == Medium::Ir { sign * STRETCH_US } else { 0 };
        let us = i64::from(us) * CLOCK_PER_MILLE / 1_000 + stretch + noise.within(JITTER_US);
        u32::try_from(us.max(60)).unwrap_or(u32::MAX)
    });
    Capture::new(heard.collect(), None).ok().map(|capture| Radiated { medium: body.medium(), capture })
}

/// A small generator (xorshift, Marsaglia 2003), so that a seed always gives the same press.
struct Noise(u64);

impl Noise {
    fn within(&mut self, most: i64) -> i64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        let span = u64::try_from(2 * most + 1).unwrap_or(1);
        i64::try_from(self.0 % span).unwrap_or(0) - most
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use kestrel_signal::{radio, read};

    #[test]
    fn every_key_of_every_handset_reads_as_what_it_sends() {
        let site = demo::marram_point();
        for device in &site.devices {
            for key in keys(&site, device.id) {
                for seed in 1..20 {
                    let hold = Thumb::Press(Press { hold_ms: 300, ..Press::default() });
                    let heard = press(&site, device.id, key.function, hold, seed * 7_919).unwrap();
                    let body = site.model_of(device.id).unwrap().function(key.function).unwrap().answers_to.clone();
                    let said = match heard.medium {
                        Medium::Ir => read(&heard.capture).best.map(|best| best.message.with_toggle(false).to_string()),
                        _ => radio::read(&heard.capture).ok().map(|heard| heard.candidates[0].to_string()),
                    };
                    assert_eq!(said, body.unwrap().key_words(), "{} {}", device.name, key.name);
                }
            }
        }
    }

    #[test]
    fn a_key_that_bounces_sends_a_stump_first() {
        let site = demo::marram_point();
        let key = site.model_of(demo::ids::projector()).unwrap().functions.iter().find(|f| f.bounces).unwrap().id;
        let heard = press(&site, ids::projector(), key, Thumb::Press(Press::default()), 5).unwrap();
        let best = read(&heard.capture).best.unwrap();
        assert_eq!((best.frames_matched, best.frames_total), (1, 2));
    }

    #[test]
    fn a_slip_is_too_short_to_be_read() {
        let site = demo::marram_point();
        let on = site.model_of(ids::disc_player()).unwrap().functions[0].id;
        let heard = press(&site, ids::disc_player(), on, Thumb::Slip, 5).unwrap();
        assert!(read(&heard.capture).best.is_none());
    }

    #[test]
    fn three_functions_of_one_key_are_one_key_of_the_handset() {
        let site = demo::marram_point();
        let names: Vec<String> = keys(&site, ids::streamer()).into_iter().map(|key| key.name).collect();
        assert_eq!(
            names,
            ["Home", "OK", "Play", "Pause", "Back", "Up", "Down", "Left", "Right", "Rewind", "Forward", "Menu"]
        );
    }
}
