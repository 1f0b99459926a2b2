//! What a device has beside power, input and position: volume, what it plays, how bright it is, what it
//! says. The plans hardly care; the family does.

use crate::light::fade::Fade;
use crate::model::{DeviceKind, Means, Playback, Profile};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How long a film of the stand-ins is, in ms (*invented*).
pub const FILM_MS: u64 = 5_400_000;

/// When its credits begin, in ms (*invented*).
pub const CREDITS_MS: u64 = 5_220_000;

/// How long a spoken line takes, in ms for each character (*invented*).
const SPEECH_MS: u64 = 60;

/// What a player shows of itself.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct NowPlaying {
    /// What it is doing.
    pub transport: Playback,
    /// Where in the film it is, in ms.
    pub position_ms: u64,
    /// Do the credits roll?
    pub credits: bool,
    /// What it runs or receives.
    pub app: Option<String>,
}

/// Something that a device can be told over the network, in words of its own protocol.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "want")]
pub enum Want {
    /// On or off.
    Power {
        /// On?
        on: bool,
    },
    /// This input, counted from 0.
    Input {
        /// Which.
        index: u8,
    },
    /// Silent or not.
    Mute {
        /// Silent?
        on: bool,
    },
    /// This loud, in tenths of the scale's unit.
    Volume {
        /// How loud.
        tenths: u32,
    },
    /// Play, pause or stop.
    Transport {
        /// Which.
        to: Playback,
        /// From here on, in ms; where it was, if none.
        #[serde(default)]
        from_ms: Option<u64>,
    },
    /// Run an app or receive a channel.
    App {
        /// Its name.
        name: String,
    },
    /// This bright, in %.
    Level {
        /// How bright.
        percent: u8,
        /// How long the fade takes, in ms.
        fade_ms: u32,
    },
    /// Show a message.
    Message {
        /// Which; an empty one takes it away.
        text: String,
    },
    /// Say a line or play a file at a volume, and return to what it was.
    Say {
        /// What.
        text: String,
        /// How loud, in % of the range.
        percent: u8,
    },
    /// Play a chime at a volume, and return to what it was.
    Chime {
        /// What it is called.
        name: String,
        /// How long it is, in ms.
        length_ms: u32,
        /// How loud, in % of the range.
        percent: u8,
        /// What is played: WAV; empty where only its length is known.
        wav: Vec<u8>,
    },
    /// All the way up or down.
    Move {
        /// Down?
        down: bool,
    },
    /// Stand still.
    Halt,
}

/// The comforts of one device.
#[derive(Debug, Clone)]
pub(super) struct Comfort {
    /// How loud, in tenths of the scale's unit.
    pub(super) volume_tenths: u32,
    transport: Playback,
    position_ms: u64,
    since_ms: u64,
    level: Fade,
    /// Motion, or an open door.
    pub(super) tripped: bool,
    pub(super) message: Option<String>,
    /// A spoken line: until when, and how loud it was before.
    speech: Option<(u64, u32)>,
}

impl Comfort {
    pub(super) fn new(profile: &Profile) -> Self {
        let volume = profile.volume.map_or(0, |volume| volume.after_power_on.unwrap_or(volume.ceiling / 2) * 10);
        Self {
            volume_tenths: volume,
            transport: Playback::Stopped,
            position_ms: 0,
            since_ms: 0,
            level: Fade::default(),
            tripped: false,
            message: None,
            speech: None,
        }
    }

    pub(super) fn advance(&mut self, now_ms: u64) {
        if let Some((until, back)) = self.speech
            && until <= now_ms
        {
            self.volume_tenths = back;
            self.speech = None;
            self.message = None;
        }
        if self.transport == Playback::Playing && self.position(now_ms) >= FILM_MS {
            self.set_transport(now_ms, Playback::Stopped, Some(0));
        }
    }

    fn position(&self, now_ms: u64) -> u64 {
        let running = if self.transport == Playback::Playing { now_ms.saturating_sub(self.since_ms) } else { 0 };
        self.position_ms + running
    }

    /// Plays, pauses or stops; nothing where it does so already.
    pub(super) fn set_transport(&mut self, now_ms: u64, to: Playback, from_ms: Option<u64>) -> Option<String> {
        if to == self.transport && from_ms.is_none() {
            return None;
        }
        self.position_ms = match (from_ms, to) {
            (Some(from), _) => from.min(FILM_MS),
            (None, Playback::Stopped) => 0,
            (None, _) => self.position(now_ms),
        };
        (self.transport, self.since_ms) = (to, now_ms);
        let did = match to {
            Playback::Stopped => "stopped",
            Playback::Playing => "playing",
            Playback::Paused => "paused",
        };
        Some(did.to_owned())
    }

    /// It loses its mains or goes off: nothing plays and nothing is shown.
    pub(super) fn dark(&mut self, now_ms: u64) {
        self.set_transport(now_ms, Playback::Stopped, Some(0));
        self.message = None;
        if let Some((_, back)) = self.speech.take() {
            self.volume_tenths = back;
        }
    }

    /// It comes on: some come back with a volume of their own.
    pub(super) fn woken(&mut self, profile: &Profile) {
        if let Some(start) = profile.volume.and_then(|volume| volume.after_power_on) {
            self.volume_tenths = start * 10;
        }
    }

    pub(super) fn playing(&self, now_ms: u64, app: Option<String>) -> NowPlaying {
        let position_ms = self.position(now_ms);
        NowPlaying {
            transport: self.transport,
            position_ms,
            credits: self.transport != Playback::Stopped && position_ms >= CREDITS_MS,
            app,
        }
    }

    pub(super) fn plays(&self) -> bool {
        self.transport == Playback::Playing
    }

    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "between 0 and 100")]
    pub(super) fn level_percent(&self, now_ms: u64) -> u8 {
        self.level.at(now_ms).round() as u8
    }

    pub(super) fn fading(&self, now_ms: u64) -> bool {
        self.level.under_way(now_ms)
    }

    /// A key of the remote that changes a comfort: what it did, if it is one; nothing within, where there was nothing to
    /// change.
    pub(super) fn key(&mut self, now_ms: u64, profile: &Profile, key: crate::id::FunctionId) -> Option<Option<String>> {
        if let Some(volume) = profile.volume {
            let up = i64::from(volume.step_tenths) * i64::from(key == volume.up);
            let step = up - i64::from(volume.step_tenths) * i64::from(key == volume.down);
            if step != 0 {
                let range = i64::from(volume.range) * 10;
                let to = (i64::from(self.volume_tenths) + step).clamp(0, range);
                self.volume_tenths = u32::try_from(to).unwrap_or(0);
                return Some(Some(format!("volume {}", tenths(self.volume_tenths))));
            }
        }
        let means = profile.function(key)?.means?;
        if profile.kind.plays() {
            let to = match means {
                Means::Play => Playback::Playing,
                Means::Pause => Playback::Paused,
                Means::Stop => Playback::Stopped,
                _ => return None,
            };
            return Some(self.set_transport(now_ms, to, None));
        }
        if profile.kind == DeviceKind::Light {
            let now = self.level_percent(now_ms);
            let to = match means {
                Means::On => 100,
                Means::Off => 0,
                Means::Brighter => now.saturating_add(10).min(100),
                Means::Darker => now.saturating_sub(10),
                _ => return None,
            };
            return Some(Some(self.fade(now_ms, to, 0)));
        }
        None
    }

    pub(super) fn fade(&mut self, now_ms: u64, percent: u8, length_ms: u32) -> String {
        self.level = self.level.on_to(now_ms, percent, length_ms);
        format!("level {} %", percent.min(100))
    }

    /// What is told by name rather than by a key; `None` where the machine has to answer.
    pub(super) fn want(
        &mut self,
        now_ms: u64,
        profile: &Profile,
        want: &Want,
    ) -> Option<Result<Option<String>, String>> {
        Some(match want {
            Want::Volume { tenths: to } => match profile.volume {
                None => Err("it has no volume".to_owned()),
                Some(volume) if *to > volume.range * 10 => Err(format!("its scale ends at {}", volume.range)),
                Some(_) => {
                    self.volume_tenths = *to;
                    Ok(Some(format!("volume {}", tenths(*to))))
                }
            },
            Want::Transport { to, from_ms } if profile.kind.plays() => Ok(self.set_transport(now_ms, *to, *from_ms)),
            Want::Level { percent, fade_ms } if profile.kind == DeviceKind::Light => {
                Ok(Some(self.fade(now_ms, *percent, *fade_ms)))
            }
            Want::Message { text } if profile.kind.shows() => {
                self.message = Some(text.clone()).filter(|text| !text.is_empty());
                Ok(Some(if text.is_empty() { "message taken away" } else { "message shown" }.to_owned()))
            }
            Want::Say { text, percent } if profile.kind.sounds() => {
                let length = text.chars().count() as u64 * SPEECH_MS + 500;
                self.sounds(now_ms, profile, (text, *percent), length);
                Ok(Some(format!("says “{text}”")))
            }
            Want::Chime { name, length_ms, percent, .. } if profile.kind.sounds() => {
                self.sounds(now_ms, profile, (name, *percent), u64::from(*length_ms));
                Ok(Some(format!("plays “{name}”")))
            }
            Want::Transport { .. }
            | Want::Level { .. }
            | Want::Message { .. }
            | Want::Say { .. }
            | Want::Chime { .. } => Err("it cannot do that".to_owned()),
            Want::Power { .. }
            | Want::Input { .. }
            | Want::Mute { .. }
            | Want::App { .. }
            | Want::Move { .. }
            | Want::Halt => {
                return None;
            }
        })
    }

    /// Sounds for a while at a volume of its own, and returns to what it was.
    fn sounds(&mut self, now_ms: u64, profile: &Profile, (text, percent): (&str, u8), length_ms: u64) {
        let range = profile.volume.map_or(100, |volume| volume.range);
        let back = self.speech.map_or(self.volume_tenths, |(_, back)| back);
        self.volume_tenths = range * 10 * u32::from(percent.min(100)) / 100;
        self.speech = Some((now_ms + length_ms, back));
        self.message = Some(text.to_owned());
    }

    /// Goes on from where `old` was.
    pub(super) fn take(&mut self, old: &Self) {
        *self = old.clone();
    }
}

/// 355 → “35.5”, 360 → “36”.
#[must_use]
pub fn tenths(value: u32) -> String {
    if value.is_multiple_of(10) { format!("{}", value / 10) } else { format!("{}.{}", value / 10, value % 10) }
}
