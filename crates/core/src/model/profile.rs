//! How a kind of device behaves.

use super::{Feedback, Means, Position, Standing};
use crate::id::{FunctionId, InputId, OutputId, ProfileId};
use crate::model::{CodeBody, Offer, Optics, Talk, Wifi};
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
    /// Loudspeakers without an amplifier.
    Speakers,
    /// A projector.
    Projector,
    /// A display.
    Display,
    /// A screen that moves.
    Screen,
    /// A blind, a curtain or an awning.
    Blind,
    /// A lamp, or the dimmer of one.
    Light,
    /// A heater or a fire.
    Heater,
    /// A sensor.
    Sensor,
    /// A keypad or a hand remote that sends its presses to the runtime.
    Keypad,
    /// What sends infrared or radio for the others.
    Gateway,
    /// A network switch or an access point.
    Network,
}

impl DeviceKind {
    /// Every kind.
    pub const ALL: [Self; 18] = [
        Self::DiscPlayer,
        Self::Streamer,
        Self::Console,
        Self::Tuner,
        Self::Receiver,
        Self::SoundBar,
        Self::Amplifier,
        Self::Speakers,
        Self::Projector,
        Self::Display,
        Self::Screen,
        Self::Blind,
        Self::Light,
        Self::Heater,
        Self::Sensor,
        Self::Keypad,
        Self::Gateway,
        Self::Network,
    ];

    /// Does it show a picture?
    #[must_use]
    pub fn shows(self) -> bool {
        matches!(self, Self::Projector | Self::Display)
    }

    /// Does it make sound?
    #[must_use]
    pub fn sounds(self) -> bool {
        matches!(self, Self::Receiver | Self::SoundBar | Self::Amplifier | Self::Speakers | Self::Display)
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
    /// Network.
    Network,
    /// A 12 V trigger: one device's power drives another.
    Trigger,
    /// USB that carries power: the same.
    UsbPower,
    /// No plug: sound that comes back through an HDMI output (return audio).
    ReturnAudio,
}

impl Cable {
    /// Does it carry a picture?
    #[must_use]
    pub fn carries_video(self) -> bool {
        self == Self::Hdmi
    }

    /// Does it carry sound, in the direction in which it is drawn?
    #[must_use]
    pub fn carries_audio(self) -> bool {
        matches!(self, Self::Hdmi | Self::Optical | Self::Analogue | Self::Speaker)
    }

    /// Does one end's power drive the other's?
    #[must_use]
    pub fn drives_power(self) -> bool {
        matches!(self, Self::Trigger | Self::UsbPower)
    }

    /// Its name in a sentence.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Hdmi => "HDMI",
            Self::Optical => "optical",
            Self::Analogue => "analogue",
            Self::Speaker => "speaker wire",
            Self::Network => "network",
            Self::Trigger => "12 V trigger",
            Self::UsbPower => "USB power",
            Self::ReturnAudio => "return audio",
        }
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
        /// How many of these are struck: left out of the interval, and still counted.
        #[serde(default, skip_serializing_if = "is_zero")]
        struck: u32,
    },
    /// The device reports when it is there.
    Confirmed,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks so")]
const fn is_zero(n: &u32) -> bool {
    *n == 0
}

impl Basis {
    /// In words, as they stand behind a figure.
    #[must_use]
    pub fn words(self) -> String {
        match self {
            Self::Assumed => "assumed".to_owned(),
            Self::Profile => "from the profile".to_owned(),
            Self::Measured { n, struck: 0 } => format!("measured {n} ×"),
            Self::Measured { n, struck } => format!("measured {n} ×, {struck} struck"),
            Self::Confirmed => "confirmed by the device".to_owned(),
        }
    }
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
    /// A packet on the network wakes it; a command switches it off.
    NetworkWake {
        /// Wakes it, and does nothing when it is on.
        wake: FunctionId,
        /// Switches off, and does nothing when it is off.
        off: FunctionId,
    },
    /// It follows the device at the other end of its trigger or USB power cable.
    Follows {
        /// How much later.
        delay: Span,
    },
}

/// What it does when mains come back.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum AfterMains {
    /// It stays off.
    #[default]
    Off,
    /// It comes on.
    On,
    /// As it was.
    Last,
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
    /// At the entry that was marked when it closed.
    LastUsed,
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
    /// How long it must stand still before it is reversed, in ms.
    #[serde(default)]
    pub reversal_ms: u32,
    /// Can it be stopped between its ends?
    #[serde(default)]
    pub stops_between: bool,
    /// When down it hides what stands behind it, or cuts it off from its emitter.
    #[serde(default)]
    pub hides: bool,
}

/// The most stops between its ends that something has.
pub const STOPS_MAX: usize = 8;

/// A place between its ends: one to which a key of its own drives it, or one at which it is stopped by time.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct NamedStop {
    /// What it is called.
    pub name: String,
    /// The key that drives it there, from wherever it stands; where it is stopped by time, the stop key.
    pub key: FunctionId,
    /// How far down it is, in % of the travel (1–99).
    pub down_percent: u8,
    /// When it is stopped; none where it has a key of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub timed: Option<TimedStop>,
}

/// When something that goes down is stopped on its way. The time counts from its upper limit: from anywhere else it goes there
/// first. The time is exact, the place is not.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct TimedStop {
    /// How long after it has left its upper limit the stop is there, at the least, in ms.
    pub after_ms: u32,
    /// How much later it may be there, in ms.
    pub late_ms: u32,
    /// How far off the place may be to either side, in ‰ of the travel.
    pub spread_per_mille: u16,
}

/// How loud it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Volume {
    /// One step louder.
    pub up: FunctionId,
    /// One step softer.
    pub down: FunctionId,
    /// How much one press changes it, in tenths of the scale's unit.
    pub step_tenths: u32,
    /// The greatest value of the scale; the least is 0.
    pub range: u32,
    /// It is never set above this value.
    pub ceiling: u32,
    /// The value after power-on; none where it comes back as it was.
    pub after_power_on: Option<u32>,
    /// Can a value be set, and does the device confirm it?
    pub absolute: bool,
    /// Silences it and back.
    pub mute: Option<Mute>,
    /// Is the unit of its scale a decibel?
    #[serde(default)]
    pub decibels: bool,
}

/// By what loudness is changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum LoudUnit {
    /// Steps of its keys.
    #[default]
    Steps,
    /// Hundredths of its scale.
    Percent,
    /// Decibels, where its scale has them.
    Decibels,
}

impl LoudUnit {
    /// The most that one press or cue may ask for: more at once would be a fright.
    #[must_use]
    pub fn most(self) -> i8 {
        match self {
            Self::Steps => 30,
            Self::Percent => 50,
            Self::Decibels => 20,
        }
    }

    /// An amount in words: “3 steps”, “10 %”, “6 dB”.
    #[must_use]
    pub fn amount(self, by: i8) -> String {
        let many = by.unsigned_abs();
        match self {
            Self::Steps => format!("{many} step{}", if many == 1 { "" } else { "s" }),
            Self::Percent => format!("{many} %"),
            Self::Decibels => format!("{many} dB"),
        }
    }
}

impl Volume {
    /// Presses of its keys for an amount, at least one; none where its scale has no decibels and those are asked for.
    #[must_use]
    pub fn presses(&self, by: i8, unit: LoudUnit) -> Option<i8> {
        let step = self.step_tenths.max(1);
        let tenths = match unit {
            LoudUnit::Steps => return Some(by),
            // A hundredth of the range, in tenths of the unit.
            LoudUnit::Percent => u32::from(by.unsigned_abs()) * self.range / 10,
            LoudUnit::Decibels if self.decibels => u32::from(by.unsigned_abs()) * 10,
            LoudUnit::Decibels => return None,
        };
        let presses = i8::try_from(((tenths + step / 2) / step).max(1)).unwrap_or(i8::MAX);
        Some(if by < 0 { -presses } else { presses })
    }
}

/// How far one press of a source's own keys jumps.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Skips {
    /// Jumps back.
    pub back: FunctionId,
    /// By so much, in s.
    pub back_s: u16,
    /// Jumps on.
    pub forward: FunctionId,
    /// By so much, in s.
    pub forward_s: u16,
}

impl Skips {
    /// The key for a jump of so many seconds, and how often it is pressed: as near as whole presses come, at least one.
    #[must_use]
    pub fn presses(&self, seconds: i16) -> (FunctionId, u8) {
        let (key, one) = if seconds < 0 { (self.back, self.back_s) } else { (self.forward, self.forward_s) };
        let one = one.max(1);
        let times = ((seconds.unsigned_abs() + one / 2) / one).clamp(1, 30);
        (key, u8::try_from(times).unwrap_or(30))
    }
}

/// How sound is silenced.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "how")]
pub enum Mute {
    /// One key for each.
    Discrete {
        /// Silences.
        on: FunctionId,
        /// Sounds again.
        off: FunctionId,
    },
    /// One key for both.
    Toggle {
        /// Silences, and sounds again.
        key: FunctionId,
    },
}

impl Mute {
    /// The keys that silence it, and that bring the sound back: the same one twice, where there is one for both.
    #[must_use]
    pub fn keys(self) -> [FunctionId; 2] {
        match self {
            Self::Discrete { on, off } => [on, off],
            Self::Toggle { key } => [key, key],
        }
    }
}

/// A setting with named values: picture mode, lens memory, sound mode.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Mode {
    /// What it is called.
    pub name: String,
    /// Its values.
    pub values: Vec<ModeValue>,
    /// Steps to the next value, where the values have no keys of their own.
    pub next: Option<FunctionId>,
}

/// One value of a setting.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct ModeValue {
    /// What it is called.
    pub name: String,
    /// The key that sets it.
    pub select: Option<FunctionId>,
    /// The kinds of source that want it, such as low latency for consoles.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub for_kinds: Vec<DeviceKind>,
}

/// Something that a source runs or receives once it is awake.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct App {
    /// What it is called.
    pub name: String,
    /// How one gets there.
    pub reach: Reach,
}

/// How one gets to an app or a channel.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "by")]
pub enum Reach {
    /// A command of its own.
    Launch {
        /// Which.
        function: FunctionId,
    },
    /// Digits, and the enter key where there is one.
    Digits {
        /// The digits, 1 to 6 of them.
        number: String,
    },
}

/// What control over HDMI makes a device do by itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Couples {
    /// When it wakes, it wakes what it is wired to, as far as the picture goes, and takes their inputs.
    pub wakes: bool,
    /// It lets itself be woken, and its input be taken.
    pub woken: bool,
    /// When it goes off, it puts to standby what is wired to it.
    pub sleeps: bool,
    /// It lets itself be put to standby.
    pub put_to_sleep: bool,
    /// How long after the event the other device follows.
    pub delay: Span,
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
    /// Where the pause comes from.
    #[serde(default = "Times::assumed_gap")]
    pub gap_basis: Basis,
    /// The pause between digits; when the longest time has passed the number is taken as it is.
    #[serde(default = "Times::usual_digits")]
    pub digits: Span,
}

impl Times {
    fn assumed_gap() -> Basis {
        Basis::Assumed
    }

    /// 0.5–1 s between digits; a number entry closes after 3 s (*common practice*).
    #[must_use]
    pub fn usual_digits() -> Span {
        Span::assumed(500, 3_000)
    }
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
    /// The name that the device reports when it is chosen, where that is known of the model.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reports: Option<String>,
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
    /// The input as which sound comes back through this output (return audio), if it can.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub returns: Option<InputId>,
}

/// How a key is pressed: once, twice within a gap, or held.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Press {
    /// How many presses, 1–9.
    pub presses: u8,
    /// How long the last one is held, in ms; 0 is a tap.
    pub hold_ms: u32,
    /// The longest pause between two presses, in ms.
    pub gap_ms: u32,
}

impl Default for Press {
    fn default() -> Self {
        Self { presses: 1, hold_ms: 0, gap_ms: Self::USUAL_GAP_MS }
    }
}

impl Press {
    /// Two presses belong together within this time (*common practice*).
    pub const USUAL_GAP_MS: u32 = 400;

    /// Is it a single tap?
    #[must_use]
    pub fn is_tap(&self) -> bool {
        self.presses <= 1 && self.hold_ms == 0
    }
}

/// Something that a key or a command does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Function {
    /// Its id.
    pub id: FunctionId,
    /// What it is called.
    pub name: String,
    /// What it is for, where something depends on that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub means: Option<Means>,
    /// How its key is pressed.
    #[serde(default)]
    pub press: Press,
    /// How many frames in a row the receiver needs; none where the protocol's own number holds.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub frames: Option<u32>,
    /// What the model's own remote sends for it, where that is known: the stand-in of the rehearsal
    /// room answers to this. Without it the stand-in answers to whatever was learned.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub answers_to: Option<CodeBody>,
    /// Its key on the model's own remote bounces: the handset of the rehearsal room sends a stump before each press.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub bounces: bool,
}

/// A command that a model takes although no key of its remote sends it; the stand-in of the rehearsal room knows it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Unlisted {
    /// What is sent.
    pub sends: CodeBody,
    /// Does it switch on? Off, if not.
    pub on: bool,
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
    /// The ways in which the model can be told something.
    pub offers: Vec<Offer>,
    /// Which bands its radio network has; none where it has no radio.
    #[serde(default)]
    pub wifi: Option<Wifi>,
    /// How power is switched.
    pub power: Power,
    /// Keys that switch it on and never off.
    #[serde(default)]
    pub wake_keys: Vec<FunctionId>,
    /// After how long without use it switches itself off.
    #[serde(default)]
    pub auto_standby: Option<Span>,
    /// What it does when mains come back.
    #[serde(default)]
    pub after_mains: AfterMains,
    /// Which input is chosen once it is on.
    pub after_power_on: AfterPowerOn,
    /// How an input is chosen.
    pub selection: Selection,
    /// How it moves.
    pub motion: Option<Motion>,
    /// Places between its ends that have keys of their own.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub stops: Vec<NamedStop>,
    /// How loud it is.
    #[serde(default)]
    pub volume: Option<Volume>,
    /// How far one press of its own keys jumps in what it plays.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub skips: Option<Skips>,
    /// Its settings.
    #[serde(default)]
    pub modes: Vec<Mode>,
    /// What it runs or receives.
    #[serde(default)]
    pub apps: Vec<App>,
    /// What control over HDMI makes it do by itself; none where it has none, or where it is switched off.
    #[serde(default)]
    pub couples: Option<Couples>,
    /// In which protocol it is spoken to on the network; text lines where nothing is said.
    #[serde(default)]
    pub talks: Option<Talk>,
    /// How long things take.
    pub times: Times,
    /// What it tells of itself.
    #[serde(default)]
    pub feedback: Feedback,
    /// Its inputs, in the order of its own list.
    pub inputs: Vec<Input>,
    /// Its outputs.
    pub outputs: Vec<Output>,
    /// What it can be told.
    pub functions: Vec<Function>,
    /// Commands that no key of its remote sends.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub unlisted: Vec<Unlisted>,
    /// What is known of it in space: emitter, window, radio, lens, surface.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Optics>)]
    pub optics: Option<Box<Optics>>,
}

impl Profile {
    /// Where it stands or should stand, in words.
    #[must_use]
    pub fn position_words(&self, position: Position) -> String {
        match position {
            Position::Up => "up".to_owned(),
            Position::Down => "down".to_owned(),
            Position::Stop(at) => self
                .stops
                .get(usize::from(at))
                .map_or_else(|| "at a stop that is gone".to_owned(), |stop| format!("at “{}”", stop.name)),
        }
    }

    /// How far down it stands, in ‰ of the travel; half-way where it was stopped somewhere.
    #[must_use]
    pub fn down_per_mille(&self, standing: Standing) -> u32 {
        match standing {
            Standing::Up => 0,
            Standing::Between => 500,
            Standing::Down => 1_000,
            Standing::Stop(at) => self.stops.get(usize::from(at)).map_or(500, |stop| u32::from(stop.down_percent) * 10),
        }
    }

    /// The stops to which it is brought by time, each with its number.
    pub fn timed_stops(&self) -> impl Iterator<Item = (u8, TimedStop)> + '_ {
        (0u8..).zip(&self.stops).filter_map(|(at, stop)| Some((at, stop.timed?)))
    }

    /// The function that is for this.
    #[must_use]
    pub fn function_for(&self, means: Means) -> Option<&Function> {
        self.functions.iter().find(|function| function.means == Some(means))
    }

    /// The keys that switch it on and off; the same one twice, where it can only be toggled.
    #[must_use]
    pub fn power_keys(&self) -> Option<(FunctionId, FunctionId)> {
        match self.power {
            Power::Discrete { on, off } | Power::NetworkWake { wake: on, off } => Some((on, off)),
            Power::Toggle { key } => Some((key, key)),
            Power::AlwaysOn | Power::Follows { .. } => None,
        }
    }

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
            Power::AlwaysOn | Power::Follows { .. } => {}
            Power::Discrete { on, off } => keys.extend([(on, "power on"), (off, "power off")]),
            Power::Toggle { key } => keys.push((key, "power toggle")),
            Power::NetworkWake { wake, off } => keys.extend([(wake, "wake by network"), (off, "power off")]),
        }
        keys.extend(self.wake_keys.iter().map(|&id| (id, "wake key")));
        let by_key = self.stops.iter().filter(|stop| stop.timed.is_none());
        keys.extend(by_key.map(|stop| (stop.key, "stop between its ends")));
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

    /// Functions that volume, settings and apps rest on, each with the part that it plays.
    #[must_use]
    pub fn comfort_keys(&self) -> Vec<(FunctionId, &'static str)> {
        let mut keys = Vec::new();
        if let Some(skips) = &self.skips {
            keys.extend([(skips.back, "jump back"), (skips.forward, "jump on")]);
        }
        if let Some(volume) = &self.volume {
            keys.extend([(volume.up, "volume up"), (volume.down, "volume down")]);
            match volume.mute {
                Some(Mute::Discrete { on, off }) => keys.extend([(on, "mute on"), (off, "mute off")]),
                Some(Mute::Toggle { key }) => keys.push((key, "mute")),
                None => {}
            }
        }
        for mode in &self.modes {
            keys.extend(mode.next.map(|id| (id, "next value of a setting")));
            keys.extend(mode.values.iter().filter_map(|value| value.select).map(|id| (id, "a value of a setting")));
        }
        for app in &self.apps {
            if let Reach::Launch { function } = app.reach {
                keys.push((function, "launch"));
            }
        }
        keys
    }
}
