//! How a kind of device behaves.

use crate::id::{FunctionId, InputId, OutputId, ProfileId};
use crate::site::CodeBody;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a device is for. The order is that of the signal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum DeviceKind {
    /// Plays discs.
    DiscPlayer,
    /// Plays from the network.
    Streamer,
    /// A game console.
    Console,
    /// Receives channels.
    Tuner,
    /// Switches sources and usually makes the sound.
    Receiver,
    /// A loudspeaker with its own amplifier.
    SoundBar,
    /// A power amplifier.
    Amplifier,
    /// A projector.
    Projector,
    /// A display.
    Display,
    /// A screen that moves.
    Screen,
    /// A blind, a curtain or an awning.
    Blind,
}

impl DeviceKind {
    /// Does it show a picture?
    #[must_use]
    pub fn shows(self) -> bool {
        matches!(self, Self::Projector | Self::Display)
    }

    /// Does it make sound?
    #[must_use]
    pub fn sounds(self) -> bool {
        matches!(self, Self::Receiver | Self::SoundBar | Self::Amplifier | Self::Display)
    }

    /// Is it where a signal starts?
    #[must_use]
    pub fn plays(self) -> bool {
        matches!(self, Self::DiscPlayer | Self::Streamer | Self::Console | Self::Tuner)
    }
}

/// What a plug carries. An output is wired to an input of the same kind.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Cable {
    /// HDMI: picture and sound.
    Hdmi,
    /// Optical: sound.
    Optical,
    /// Analogue line: sound.
    Analogue,
    /// Speaker wire: sound.
    Speaker,
}

impl Cable {
    /// Does it carry a picture?
    #[must_use]
    pub fn carries_video(self) -> bool {
        self == Self::Hdmi
    }
}

/// Where a duration comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "from")]
pub enum Basis {
    /// Nobody measured it.
    Assumed,
    /// From the maker's figures in the profile.
    Profile,
    /// Measured on the device.
    Measured {
        /// How often.
        n: u32,
    },
}

/// How long something takes: after `hi_ms` it is safe to rely on, from `lo_ms` on it may happen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Span {
    /// The shortest, in ms.
    pub lo_ms: u32,
    /// The longest, in ms (at most 10 minutes).
    pub hi_ms: u32,
    /// Where the figures come from.
    pub basis: Basis,
}

impl Span {
    /// Nothing to wait for.
    pub const NONE: Self = Self { lo_ms: 0, hi_ms: 0, basis: Basis::Profile };

    /// From the profile.
    #[must_use]
    pub const fn profile(lo_ms: u32, hi_ms: u32) -> Self {
        Self { lo_ms, hi_ms, basis: Basis::Profile }
    }

    /// Assumed.
    #[must_use]
    pub const fn assumed(lo_ms: u32, hi_ms: u32) -> Self {
        Self { lo_ms, hi_ms, basis: Basis::Assumed }
    }
}

/// How power is switched.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "how")]
pub enum Power {
    /// It is never switched off.
    AlwaysOn,
    /// One key for on and one for off.
    Discrete {
        /// Switches on, and does nothing when it is on.
        on: FunctionId,
        /// Switches off, and does nothing when it is off.
        off: FunctionId,
    },
    /// One key for both.
    Toggle {
        /// Switches on when off and off when on.
        key: FunctionId,
    },
}

/// Which input is chosen once it is on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "input")]
pub enum AfterPowerOn {
    /// The one chosen last.
    Last,
    /// Always the same.
    Fixed {
        /// Which.
        id: InputId,
    },
}

/// Where an input list opens.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ListOpens {
    /// At the current input.
    Current,
    /// At its first entry.
    First,
}

/// What an input list does at its ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ListEnds {
    /// It goes on at the other end.
    Wrap,
    /// It stops.
    Clamp,
}

/// How an input is chosen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "how")]
pub enum Selection {
    /// There is nothing to choose.
    None,
    /// Each input has its own key (`select` of the input).
    Discrete,
    /// One key steps through the inputs in their order.
    Cycle {
        /// To the next.
        next: FunctionId,
        /// To the previous, if there is such a key.
        previous: Option<FunctionId>,
    },
    /// A list on the screen.
    Menu {
        /// Opens the list.
        open: FunctionId,
        /// Moves on.
        next: FunctionId,
        /// Moves back.
        previous: FunctionId,
        /// Takes the marked entry and closes the list.
        confirm: FunctionId,
        /// Where it opens.
        opens: ListOpens,
        /// What it does at its ends.
        ends: ListEnds,
        /// It closes by itself after this long without a key.
        closes_after: Span,
    },
}

/// How something moves.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Motion {
    /// Starts it upwards.
    pub up: FunctionId,
    /// Starts it downwards.
    pub down: FunctionId,
    /// Stops it.
    pub stop: Option<FunctionId>,
    /// The whole way up.
    pub travel_up: Span,
    /// The whole way down.
    pub travel_down: Span,
}

/// How long things take.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Times {
    /// From power-on until commands are accepted.
    pub warm_up: Span,
    /// From power-on until there is a picture or sound (at least as long as the warm-up).
    pub picture: Span,
    /// From power-off until power keys are accepted again.
    pub cool_down: Span,
    /// From the choice of an input until it shows.
    pub input: Span,
    /// The pause after every command, in ms.
    pub gap_ms: u32,
}

/// A socket that takes a signal in.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Input {
    /// Its id.
    pub id: InputId,
    /// The label on its front.
    pub name: String,
    /// What plugs in.
    pub cable: Cable,
    /// The key that chooses it, with discrete selection.
    pub select: Option<FunctionId>,
}

/// A socket that gives a signal out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Output {
    /// Its id.
    pub id: OutputId,
    /// The label.
    pub name: String,
    /// What plugs in.
    pub cable: Cable,
}

/// Something that a key or a command does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Function {
    /// Its id.
    pub id: FunctionId,
    /// What it is called.
    pub name: String,
    /// What the model's own remote sends for it, where that is known: the stand-in of the rehearsal
    /// room answers to this. Without it the stand-in answers to whatever was learned.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub answers_to: Option<CodeBody>,
}

/// How a command reaches a device.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Medium {
    /// Infrared.
    Ir,
    /// Radio at 433.92 MHz.
    Rf433,
}

impl Medium {
    /// Its name in a sentence.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Ir => "infrared",
            Self::Rf433 => "radio",
        }
    }
}

/// How a kind of device behaves.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Profile {
    /// Its id.
    pub id: ProfileId,
    /// Who makes it.
    pub maker: String,
    /// What it is called.
    pub model: String,
    /// What it is for.
    pub kind: DeviceKind,
    /// How a command reaches it.
    pub medium: Medium,
    /// How power is switched.
    pub power: Power,
    /// Which input is chosen once it is on.
    pub after_power_on: AfterPowerOn,
    /// How an input is chosen.
    pub selection: Selection,
    /// How it moves.
    pub motion: Option<Motion>,
    /// How long things take.
    pub times: Times,
    /// Its inputs, in the order of its own list.
    pub inputs: Vec<Input>,
    /// Its outputs.
    pub outputs: Vec<Output>,
    /// What it can be told.
    pub functions: Vec<Function>,
}

impl Profile {
    /// The function of this id.
    #[must_use]
    pub fn function(&self, id: FunctionId) -> Option<&Function> {
        self.functions.iter().find(|function| function.id == id)
    }

    /// The place of this input in the list.
    #[must_use]
    pub fn input_index(&self, id: InputId) -> Option<usize> {
        self.inputs.iter().position(|input| input.id == id)
    }

    /// Functions that power, selection and motion rest on, each with the part that it plays.
    #[must_use]
    pub fn keys(&self) -> Vec<(FunctionId, &'static str)> {
        let mut keys = Vec::new();
        match self.power {
            Power::AlwaysOn => {}
            Power::Discrete { on, off } => keys.extend([(on, "power on"), (off, "power off")]),
            Power::Toggle { key } => keys.push((key, "power toggle")),
        }
        match self.selection {
            Selection::None => {}
            Selection::Discrete => {
                keys.extend(self.inputs.iter().filter_map(|input| input.select).map(|id| (id, "select an input")));
            }
            Selection::Cycle { next, previous } => {
                keys.push((next, "next input"));
                keys.extend(previous.map(|id| (id, "previous input")));
            }
            Selection::Menu { open, next, previous, confirm, .. } => keys.extend([
                (open, "open the input list"),
                (next, "next entry"),
                (previous, "previous entry"),
                (confirm, "take the entry"),
            ]),
        }
        if let Some(motion) = &self.motion {
            keys.extend([(motion.up, "up"), (motion.down, "down")]);
            keys.extend(motion.stop.map(|id| (id, "stop")));
        }
        keys
    }
}
