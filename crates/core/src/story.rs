//! An evening in a room, as it was recorded: what was asked for, what hands did, what was broken, and how it
//! ended. Played again after an edit it is a test of the house.

use crate::device::{Effect, Profile, Selection, Standing, State, Timed, Window};
use crate::id::{DeviceId, InputId, StoryId, SwitchId};
use crate::plan::Situation;
use crate::room::{DeviceView, Hand, PowerView};
use crate::site::Site;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What is wrong with a device or its wire.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Faults {
    /// So many of its frames or answers are lost, in %.
    pub lost_percent: u8,
    /// So many of its answers arrive garbled, in %.
    pub garbled_percent: u8,
    /// Its answers come this much later, in ms.
    pub slow_ms: u32,
    /// It takes connections and says nothing.
    pub silent: bool,
    /// It closes every connection at once.
    pub closes: bool,
    /// It refuses the right password.
    pub wrong_digest: bool,
}

impl Faults {
    /// Is anything wrong?
    #[must_use]
    pub fn any(&self) -> bool {
        *self != Self::default()
    }
}

/// The longest delay of an answer, in ms.
pub const SLOW_MAX_MS: u32 = 60_000;

/// Something that happens in an evening.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum Deed {
    /// Somebody asks for an activity, or for off.
    Request {
        /// Which.
        to: Situation,
    },
    /// Somebody presses stop.
    Stop,
    /// Somebody lets the runtime bring an adopted activity to its end.
    Complete,
    /// A hand.
    Hand {
        /// Which.
        hand: Hand,
    },
    /// Something breaks, or is mended.
    Fault {
        /// At which device.
        device: DeviceId,
        /// What is wrong from now on.
        faults: Faults,
    },
    /// A device restarts.
    Restart {
        /// Which.
        device: DeviceId,
    },
    /// The clock of the house shows this time.
    Time {
        /// As it is typed: `2027-01-15T20:00`.
        local: String,
    },
    /// Somebody sets a mode switch.
    Switch {
        /// Which.
        switch: SwitchId,
        /// On?
        on: bool,
    },
    /// The room is found like this, and taken for something: where a counterexample of the proof starts.
    Stand {
        /// How its devices stand; those that are left out stay as they are.
        devices: Vec<Stand>,
        /// What the runtime takes it for.
        taken_for: Situation,
        /// Where in their intervals the durations lie from now on, in %.
        pace_percent: u8,
    },
}

/// How a device is found.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Stand {
    /// The device.
    pub device: DeviceId,
    /// On?
    pub on: bool,
    /// Its input; the one to come back to, while it is off.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub input: Option<InputId>,
    /// The marked entry of its list, while that is open.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub marked: Option<InputId>,
    /// The entry at which its list opens, where it opens at the last one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub last: Option<InputId>,
    /// Where it stands or travels to, where it moves.
    #[serde(default)]
    pub position: Standing,
    /// Is its sound off?
    #[serde(default)]
    pub muted: bool,
    /// The value of each setting.
    #[serde(default)]
    pub settings: [u8; 4],
    /// What it runs or receives, counted from 1; 0 is anything else.
    #[serde(default)]
    pub app: u8,
    /// What is under way.
    #[serde(default)]
    pub doing: Effect,
    /// How long that still takes, or its list stays open, at least, in ms.
    #[serde(default)]
    pub left_lo_ms: u32,
    /// The same at most, in ms.
    #[serde(default)]
    pub left_hi_ms: u32,
}

impl Stand {
    /// A state as it can be set up in a rehearsal room.
    #[must_use]
    pub fn of(profile: &Profile, device: DeviceId, timed: &Timed) -> Self {
        let input = |index: u8| profile.inputs.get(usize::from(index)).map(|input| input.id);
        let state = timed.state;
        let left = if state.cursor.is_some() { timed.closes } else { timed.busy };
        Self {
            device,
            on: state.on,
            input: input(state.input),
            marked: state.cursor.and_then(input),
            last: input(state.last),
            position: state.position,
            muted: state.muted,
            settings: state.modes,
            app: state.app,
            doing: timed.effect,
            left_lo_ms: left.lo_ms,
            left_hi_ms: left.hi_ms,
        }
    }

    /// The same as a state of the machine; inputs that are gone become the first.
    #[must_use]
    pub fn timed(&self, profile: &Profile) -> Timed {
        let index = |input: Option<InputId>| {
            input.and_then(|input| profile.input_index(input)).and_then(|index| u8::try_from(index).ok())
        };
        let state = State {
            on: self.on,
            input: index(self.input).unwrap_or(0),
            cursor: index(self.marked),
            last: index(self.last).unwrap_or(0),
            position: self.position,
            muted: self.muted,
            modes: self.settings,
            app: self.app,
        };
        let left = Window { lo_ms: self.left_lo_ms.min(self.left_hi_ms), hi_ms: self.left_hi_ms };
        let (busy, closes) = if self.marked.is_some() { (Window::default(), left) } else { (left, Window::default()) };
        Timed { state, effect: self.doing, busy, closes, ..Timed::default() }
    }
}

/// A deed and its time.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct StoryEvent {
    /// When, in ms from the start of the evening.
    pub at_ms: u64,
    /// What.
    #[serde(flatten)]
    pub deed: Deed,
}

/// How a device has to stand at the end.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct End {
    /// The device.
    pub device: DeviceId,
    /// On?
    pub on: bool,
    /// The input, where it is on and has several.
    #[serde(default)]
    pub input: Option<InputId>,
    /// How far down, in %, where it moves.
    #[serde(default)]
    pub down_percent: Option<u8>,
}

/// An evening.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = KeptStory)]
pub struct Story {
    /// Its id.
    pub id: StoryId,
    /// What it is called.
    pub name: String,
    /// Chance, where something is lost at random: the same number gives the same evening.
    pub seed: u64,
    /// What happens, in order of time.
    pub events: Vec<StoryEvent>,
    /// How long the evening lasts, in ms.
    pub length_ms: u64,
    /// How the devices stand at its end.
    pub ends: Vec<End>,
    /// What the runtime takes the room to be in at its end; none where it does not know.
    #[serde(default)]
    pub taken_for: Option<Situation>,
}

/// The most events of a story.
pub const EVENTS_MAX: usize = 2_000;

/// The longest evening, in ms: a day.
pub const LENGTH_MAX_MS: u64 = 86_400_000;

/// How devices stand.
#[must_use]
pub fn ends(site: &Site, views: &[DeviceView]) -> Vec<End> {
    let end = |view: &DeviceView| {
        let on = matches!(view.power, PowerView::On | PowerView::Starting | PowerView::Always);
        let several = site
            .profile_of(view.device)
            .is_some_and(|profile| profile.inputs.len() > 1 && profile.selection != Selection::None);
        End { device: view.device, on, input: view.input.filter(|_| on && several), down_percent: view.down_percent }
    };
    views.iter().map(end).collect()
}

/// Where an evening ended otherwise than it should: a sentence for each device.
#[must_use]
pub fn differences(site: &Site, story: &Story, views: &[DeviceView], taken_for: Option<Situation>) -> Vec<String> {
    let now = ends(site, views);
    let mut wrong = Vec::new();
    for end in &story.ends {
        let name = site.device_name(end.device);
        match now.iter().find(|known| known.device == end.device) {
            None => wrong.push(format!("{name} is not in the room any more.")),
            Some(is) if is != end => {
                wrong.push(format!("{name} should end {} and ends {}.", words(site, end), words(site, is)));
            }
            Some(_) => {}
        }
    }
    if story.taken_for != taken_for {
        let name = |to: Option<Situation>| to.map_or_else(|| "not known".to_owned(), |to| crate::prove::name(site, to));
        let (should, is) = (name(story.taken_for), name(taken_for));
        wrong.push(format!("The room should be taken for {should} and is taken for {is}."));
    }
    wrong
}

fn words(site: &Site, end: &End) -> String {
    let input = end.input.and_then(|id| site.input(end.device, id)).map(|input| format!(", input {}", input.name));
    match end.down_percent {
        Some(percent) => format!("{percent} % down"),
        None => format!("{}{}", if end.on { "on" } else { "off" }, input.unwrap_or_default()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::room::SimRoom;

    fn story(site: &Site, views: &[DeviceView]) -> Story {
        Story {
            id: uuid::Uuid::from_u128(5).into(),
            name: "Quiet evening".to_owned(),
            seed: 1,
            events: vec![StoryEvent { at_ms: 0, deed: Deed::Hand { hand: Hand::Power { device: ids::receiver() } } }],
            length_ms: 60_000,
            ends: ends(site, views),
            taken_for: Some(Situation::Off),
        }
    }

    #[test]
    fn a_story_that_ends_as_it_did_has_no_differences() {
        let site = demo::with_disc();
        let room = SimRoom::new(&site, ids::boat_hall(), 0.8);
        let story = story(&site, &room.view());
        assert_eq!(differences(&site, &story, &room.view(), Some(Situation::Off)), Vec::<String>::new());
    }

    #[test]
    fn another_end_is_told_device_by_device() {
        let site = demo::with_disc();
        let mut room = SimRoom::new(&site, ids::boat_hall(), 0.8);
        let story = story(&site, &room.view());
        room.hand(1_000, &Hand::Power { device: ids::receiver() });
        room.advance(60_000);
        let film = Situation::In { activity: ids::feature_film() };
        assert_eq!(
            differences(&site, &story, &room.view(), Some(film)),
            [
                "Receiver should end off and ends on, input Disc.",
                "Amplifier should end off and ends on.",
                "The room should be taken for Off and is taken for Feature film.",
            ]
        );
    }

    #[test]
    fn a_story_survives_the_way_through_json() {
        let site = demo::with_disc();
        let room = SimRoom::new(&site, ids::boat_hall(), 0.8);
        let story = story(&site, &room.view());
        let json = serde_json::to_string(&story).unwrap();
        assert!(json.contains(r#""is":"hand","hand":{"does":"power""#), "{json}");
        assert_eq!(serde_json::from_str::<Story>(&json).unwrap(), story);
    }
}
