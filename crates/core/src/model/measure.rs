//! Readings of a stopwatch: how long one device took once.

use crate::id::{DeviceId, MeasurementId};
use crate::model::{Basis, Override, Power, Profile, Selection, Span};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What is timed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Timing {
    /// From power-on until commands are taken.
    WarmUp,
    /// From power-on until there is a picture or sound.
    Picture,
    /// From power-off until power keys are taken again.
    CoolDown,
    /// From the choice of an input until it shows.
    Input,
    /// The whole way up.
    TravelUp,
    /// The whole way down.
    TravelDown,
    /// How long the motor must stand still before it is reversed.
    MotorPause,
    /// Until a list closes by itself.
    ListCloses,
    /// Until what is coupled to it follows.
    Coupling,
    /// From mains coming back until it answers.
    Boot,
    /// The shortest pause between commands that it follows.
    Gap,
    /// The shortest pause between digits that it follows.
    Digits,
}

impl Timing {
    /// Every one of them.
    pub const ALL: [Self; 12] = [
        Self::WarmUp,
        Self::Picture,
        Self::CoolDown,
        Self::Input,
        Self::TravelUp,
        Self::TravelDown,
        Self::MotorPause,
        Self::ListCloses,
        Self::Coupling,
        Self::Boot,
        Self::Gap,
        Self::Digits,
    ];

    /// From what to what, as the stopwatch says it.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::WarmUp => "power on → takes commands",
            Self::Picture => "power on → picture or sound",
            Self::CoolDown => "power off → takes power keys again",
            Self::Input => "input chosen → shows it",
            Self::TravelUp => "the whole way up",
            Self::TravelDown => "the whole way down",
            Self::MotorPause => "stopped → may be reversed",
            Self::ListCloses => "list opened → closes by itself",
            Self::Coupling => "switched → what is coupled follows",
            Self::Boot => "mains back → answers",
            Self::Gap => "pause between commands",
            Self::Digits => "pause between digits",
        }
    }

    /// What is used of it: the longest alone, the shortest alone (a list that must still be open), or both ends.
    #[must_use]
    pub const fn used(self) -> Ends {
        match self {
            Self::ListCloses => Ends::Shortest,
            Self::Coupling => Ends::Both,
            _ => Ends::Longest,
        }
    }

    /// The interval that a model gives for it; none where it has no such time.
    #[must_use]
    pub fn span(self, profile: &Profile) -> Option<Span> {
        let times = &profile.times;
        let span = match self {
            Self::WarmUp => times.warm_up,
            Self::Picture => times.picture,
            Self::CoolDown => times.cool_down,
            Self::Input => times.input,
            Self::TravelUp => profile.motion?.travel_up,
            Self::TravelDown => profile.motion?.travel_down,
            Self::MotorPause => {
                let ms = profile.motion?.reversal_ms;
                Span::profile(ms, ms)
            }
            Self::ListCloses => match profile.selection {
                Selection::Menu { closes_after, .. } => closes_after,
                _ => return None,
            },
            Self::Coupling => match profile.power {
                Power::Follows { delay } => delay,
                _ => profile.couples?.delay,
            },
            Self::Gap => Span { lo_ms: 0, hi_ms: times.gap_ms, basis: times.gap_basis },
            Self::Digits => times.digits,
            Self::Boot => return None,
        };
        (span.hi_ms > 0).then_some(span)
    }

    /// What a device has of its own, once the interval is this; nothing where a model has no such time.
    #[must_use]
    pub fn with(self, profile: &Profile, span: Span) -> Vec<Override> {
        match self {
            Self::Gap => vec![Override::Gap(span.hi_ms), Override::GapBasis(span.basis)],
            _ => self.with_one(profile, span).into_iter().collect(),
        }
    }

    fn with_one(self, profile: &Profile, span: Span) -> Option<Override> {
        Some(match self {
            Self::WarmUp => Override::WarmUp(span),
            Self::Picture => Override::Picture(span),
            Self::CoolDown => Override::CoolDown(span),
            Self::Input => Override::InputChange(span),
            Self::TravelUp | Self::TravelDown | Self::MotorPause => {
                let mut motion = profile.motion?;
                match self {
                    Self::TravelUp => motion.travel_up = span,
                    Self::TravelDown => motion.travel_down = span,
                    _ => motion.reversal_ms = span.hi_ms,
                }
                Override::Motion(Some(motion))
            }
            Self::ListCloses => {
                let mut selection = profile.selection;
                match &mut selection {
                    Selection::Menu { closes_after, .. } => *closes_after = span,
                    _ => return None,
                }
                Override::Selection(selection)
            }
            Self::Coupling => match profile.power {
                Power::Follows { .. } => Override::Power(Power::Follows { delay: span }),
                _ => {
                    let mut couples = profile.couples?;
                    couples.delay = span;
                    Override::Couples(Some(couples))
                }
            },
            Self::Digits => Override::Digits(span),
            Self::Boot | Self::Gap => return None,
        })
    }

    /// Does a device say it by itself, and not by its model?
    #[must_use]
    pub fn is_own(self, overrides: &[Override]) -> bool {
        overrides.iter().any(|own| match self {
            Self::WarmUp => matches!(own, Override::WarmUp(_)),
            Self::Picture => matches!(own, Override::Picture(_)),
            Self::CoolDown => matches!(own, Override::CoolDown(_)),
            Self::Input => matches!(own, Override::InputChange(_)),
            Self::TravelUp | Self::TravelDown | Self::MotorPause => matches!(own, Override::Motion(_)),
            Self::ListCloses => matches!(own, Override::Selection(_)),
            Self::Coupling => matches!(own, Override::Couples(_) | Override::Power(_)),
            Self::Gap => matches!(own, Override::GapBasis(_)),
            Self::Digits => matches!(own, Override::Digits(_)),
            Self::Boot => false,
        })
    }
}

/// Which end of an interval is used.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Ends {
    /// It takes no longer than this.
    Longest,
    /// It takes no less than this.
    Shortest,
    /// Both.
    Both,
}

/// Where a reading was taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SeenIn {
    /// On this device, in this house: it counts.
    House,
    /// In the rehearsal room: it shows how it goes, and counts for nothing.
    Rehearsed,
}

/// One reading of one duration of one device. It is never taken away: what went wrong is struck, with a reason.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Measurement {
    /// Its id.
    pub id: MeasurementId,
    /// Of which device.
    pub device: DeviceId,
    /// Of what.
    pub timing: Timing,
    /// How long it took, in ms (1 ms to 10 min).
    pub ms: u32,
    /// How much earlier it may have been, in ms: where a device reported it, a poll interval and the time-out of its reply.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub early_ms: u32,
    /// Was nothing seen until then? It took longer than all that were seen.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub timed_out: bool,
    /// For a pause: how many presses were sent at it, and how many were counted.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub burst: Option<Burst>,
    /// Was the device still warm from the time before?
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub hot: bool,
    /// Where.
    pub seen: SeenIn,
    /// How it was taken: by hand, by what the device reports, over which path.
    #[serde(default)]
    pub by_way: String,
    /// When, in UTC.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// By whom.
    #[serde(default)]
    pub who: String,
    /// Anything else.
    #[serde(default)]
    pub note: String,
    /// Why it is left out of the interval; it still counts in how many there are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub struck: Option<String>,
}

impl Measurement {
    /// A plain reading: in the house, of a device that had settled, with nothing more said of it.
    #[must_use]
    pub const fn new(id: MeasurementId, device: DeviceId, timing: Timing, ms: u32, at: Timestamp) -> Self {
        Self {
            id,
            device,
            timing,
            ms,
            early_ms: 0,
            timed_out: false,
            burst: None,
            hot: false,
            seen: SeenIn::House,
            by_way: String::new(),
            at,
            who: String::new(),
            note: String::new(),
            struck: None,
        }
    }

    /// The shortest that it may have taken, in ms.
    #[must_use]
    pub const fn earliest_ms(&self) -> u32 {
        self.ms.saturating_sub(self.early_ms)
    }
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "as serde asks")]
const fn is_zero(ms: &u32) -> bool {
    *ms == 0
}

/// Presses in a row, and how many of them were counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
pub struct Burst {
    /// Sent (1–20).
    pub sent: u32,
    /// Counted.
    pub counted: u32,
}

/// The longest reading that is taken, in ms: what takes longer is no wait of a plan.
pub const READING_MAX_MS: u32 = 600_000;

/// The most readings of one time of one device.
pub const READINGS_MAX: usize = 2_000;

impl Basis {
    /// Readings, none of them struck.
    #[must_use]
    pub const fn measured(n: u32) -> Self {
        Self::Measured { n, struck: 0 }
    }
}
