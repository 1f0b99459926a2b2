//! Light that follows what happens in a room: zones, looks, mode switches, and the lines of a cue sheet.

use super::{Gesture, LoudUnit, Playback, Situation};
use crate::id::{ActivityId, CueId, DeviceId, FunctionId, LookId, PictureId, SwitchId, ZoneId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// A dimmer curve.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Curve {
    /// Half the level is half the light.
    #[default]
    Linear,
    /// The logarithmic curve of IEC 62386-102.
    Logarithmic,
    /// Half the level looks half as bright: CIE 1976 lightness.
    Perceptual,
}

/// The light of a room: its zones, looks, cues and mode switches.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Lighting {
    /// What is dimmed together.
    pub zones: Vec<Zone>,
    /// Levels that belong together.
    pub looks: Vec<Look>,
    /// What happens when, in the order of the sheet. Where two set one zone at the same moment, the later wins.
    pub cues: Vec<Cue>,
    /// Switches of the mood: guests, bedtime, holiday.
    pub switches: Vec<ModeSwitch>,
    /// What stays lit for people on their way out and in.
    pub exit: Option<ExitPath>,
}

impl Lighting {
    /// A zone of this room.
    #[must_use]
    pub fn zone(&self, id: ZoneId) -> Option<&Zone> {
        self.zones.iter().find(|zone| zone.id == id)
    }

    /// A look of this room.
    #[must_use]
    pub fn look(&self, id: LookId) -> Option<&Look> {
        self.looks.iter().find(|look| look.id == id)
    }

    /// The ids that are its own.
    pub fn ids(&self) -> impl Iterator<Item = Uuid> {
        let zones = self.zones.iter().map(|zone| zone.id.0);
        let looks = self.looks.iter().map(|look| look.id.0);
        let cues = self.cues.iter().map(|cue| cue.id.0);
        let switches = self.switches.iter().map(|switch| switch.id.0);
        zones.chain(looks).chain(cues).chain(switches)
    }

    /// A mode switch of this room.
    #[must_use]
    pub fn switch(&self, id: SwitchId) -> Option<&ModeSwitch> {
        self.switches.iter().find(|switch| switch.id == id)
    }
}

/// A lamp, or several that are dimmed together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Zone {
    /// Its id.
    pub id: ZoneId,
    /// What it is called.
    pub name: String,
    /// The dimmer or strip that feeds it.
    pub device: DeviceId,
    /// Below this level, in %, the lamp drops out; 0 is always allowed (5 % for many LEDs, *common practice*).
    #[serde(default)]
    pub floor_percent: u8,
    /// How its light follows its level.
    #[serde(default)]
    pub curve: Curve,
}

/// Levels that belong together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = LightLook)]
pub struct Look {
    /// Its id.
    pub id: LookId,
    /// What it is called.
    pub name: String,
    /// The level of each zone; zones that are left out stay as they are. A zone of another room (stairs, a landing)
    /// may be among them.
    pub levels: Vec<Level>,
    /// How long the fade takes, in ms.
    #[serde(default)]
    pub fade_ms: u32,
    /// What the household stored over it, until somebody has reviewed that.
    #[serde(default)]
    pub stored: Option<StoredLook>,
}

/// Levels that the household gave a look.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct StoredLook {
    /// The levels before.
    pub before: Vec<Level>,
    /// From which surface.
    pub by: String,
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: jiff::Timestamp,
}

impl Look {
    /// The level that it gives a zone, in %.
    #[must_use]
    pub fn level(&self, zone: ZoneId) -> Option<u8> {
        self.levels.iter().find(|level| level.zone == zone).map(|level| level.percent)
    }
}

/// The level of a zone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Level {
    /// Which zone.
    pub zone: ZoneId,
    /// How bright, in %.
    pub percent: u8,
}

/// A switch of the mood.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct ModeSwitch {
    /// Its id.
    pub id: SwitchId,
    /// What it is called.
    pub name: String,
    /// Is it on until something sets it?
    #[serde(default)]
    pub at_first: bool,
    /// It goes off by itself so many minutes after it was set; never, if none.
    #[serde(default)]
    pub off_after_min: Option<u32>,
}

/// What stays lit for people on their way.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct ExitPath {
    /// The zones along it.
    pub zones: Vec<ZoneId>,
    /// At least so bright, in %.
    pub percent: u8,
    /// For so long after room-off, in s (*your own measure*: walk it).
    pub walk_s: u32,
}

/// A line of the cue sheet.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Cue {
    /// Its id.
    pub id: CueId,
    /// Its place on the sheet.
    #[serde(default)]
    pub position: u32,
    /// When it fires.
    pub moment: Moment,
    /// What has to hold then; all of it.
    #[serde(default)]
    pub provided: Vec<Provided>,
    /// What the light does.
    #[serde(default)]
    pub light: Light,
    /// What else happens.
    #[serde(default)]
    pub also: Vec<Also>,
    /// Is it left out for now?
    #[serde(default)]
    pub off: bool,
}

/// When a cue fires.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "at")]
pub enum Moment {
    /// An activity starts; any, if none is named.
    Starts {
        /// Which.
        activity: Option<ActivityId>,
    },
    /// An activity ends: the room goes off, or into another one. Any, if none is named.
    Ends {
        /// Which.
        activity: Option<ActivityId>,
    },
    /// The room goes off.
    RoomOff,
    /// A source says that it plays, pauses or stops, however that was brought about.
    Says {
        /// Which source.
        device: DeviceId,
        /// What it says.
        transport: Playback,
    },
    /// A key for playing, pausing or stopping is sent by us.
    Sent {
        /// To which source.
        device: DeviceId,
        /// Which key.
        function: FunctionId,
    },
    /// A source says that the credits roll.
    Credits {
        /// Which.
        device: DeviceId,
    },
    /// The clock shows a time.
    Clock {
        /// In minutes after midnight.
        minute: u16,
        /// Until then it holds, in minutes after midnight: what it set goes back to what it was. For good, if none.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        until: Option<u16>,
    },
    /// The sun rises or sets.
    Sun {
        /// Which.
        rises: bool,
        /// So many minutes later; earlier, where negative.
        offset_min: i16,
    },
    /// A sensor is tripped, or at rest again: presence, motion, a door, the doorbell.
    Sensor {
        /// Which.
        device: DeviceId,
        /// Tripped?
        tripped: bool,
    },
    /// A key of a keypad or a controller, or a gesture on it.
    Press {
        /// Of which.
        device: DeviceId,
        /// Which key.
        function: FunctionId,
        /// How.
        gesture: Gesture,
    },
    /// A mode switch goes on or off.
    Switched {
        /// Which.
        switch: SwitchId,
        /// On?
        on: bool,
    },
}

/// What has to hold at the moment of a cue.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum Provided {
    /// The time lies between two; over midnight, where the second is the earlier one.
    Between {
        /// From, in minutes after midnight.
        from_min: u16,
        /// To, in minutes after midnight; not included.
        to_min: u16,
    },
    /// It is one of these days.
    Days {
        /// 1 is Monday, 7 is Sunday.
        days: Vec<u8>,
    },
    /// It is dark outside, or not: the sun is below the horizon.
    Dark {
        /// Dark?
        dark: bool,
    },
    /// A mode switch is on, or off.
    Switch {
        /// Which.
        switch: SwitchId,
        /// On?
        on: bool,
    },
    /// The room is in an activity, or off.
    In {
        /// Which; off, if none.
        activity: Option<ActivityId>,
    },
    /// The room is not in an activity, or not off.
    NotIn {
        /// Which; off, if none.
        activity: Option<ActivityId>,
    },
}

/// What the light does.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "does")]
pub enum Light {
    /// Nothing.
    #[default]
    Stays,
    /// It goes into a look.
    Look {
        /// Which.
        look: LookId,
        /// How long the fade takes, where it is another than the look's, in ms.
        #[serde(default)]
        fade_ms: Option<u32>,
    },
    /// It goes back to what it was before the last look that a cue set.
    Before {
        /// How long the fade takes, in ms.
        fade_ms: u32,
    },
}

/// What else a cue does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "also")]
pub enum Also {
    /// An activity is asked for, or off.
    Macro {
        /// Which.
        to: Situation,
    },
    /// A command is sent.
    Command {
        /// To which device.
        device: DeviceId,
        /// Which.
        function: FunctionId,
    },
    /// Louder or softer by steps.
    Volume {
        /// Of which device.
        device: DeviceId,
        /// How much, up or down: 30 steps, 50 % or 20 dB at most.
        steps: i8,
        /// In what.
        #[serde(default)]
        unit: LoudUnit,
    },
    /// A line is said or a chime played, and the volume put back.
    Say {
        /// By which speaker.
        device: DeviceId,
        /// What.
        text: String,
        /// How loud, in % of its range.
        percent: u8,
    },
    /// A chime with a sound of one's own is played, and the volume put back.
    Chime {
        /// By which speaker.
        device: DeviceId,
        /// Which sound.
        sound: PictureId,
        /// What it is called.
        name: String,
        /// How long it is, in ms.
        length_ms: u32,
        /// How loud, in % of the range; never above the ceiling.
        percent: u8,
    },
    /// A message is shown.
    Message {
        /// On which display.
        device: DeviceId,
        /// What; an empty one takes it away.
        text: String,
    },
    /// A mode switch is set.
    Set {
        /// Which.
        switch: SwitchId,
        /// On?
        on: bool,
    },
    /// The source is paused, and the room goes off so many seconds later.
    PauseAndOff {
        /// Which source.
        device: DeviceId,
        /// How much later, in s.
        after_s: u32,
    },
    /// A short visit elsewhere: the source is paused, and after so many minutes, or with the same moment again, source,
    /// playback and light are as they were.
    StepAside {
        /// Which source is paused.
        device: DeviceId,
        /// To another activity; a snack break in the same one, if none.
        to: Option<ActivityId>,
        /// For how long at most, in minutes.
        minutes: u16,
    },
}
