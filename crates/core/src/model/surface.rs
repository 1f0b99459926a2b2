//! What people press in a room: surfaces, their pages and keys.

use super::surface_kind::SurfaceKind;
use super::{Gesture, LoudUnit};
use crate::id::{
    ActivityId, DeviceId, FunctionId, InputId, KeyId, LookId, PageId, PictureId, SurfaceId, SwitchId, ZoneId,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// What people press in a room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Surface {
    /// Its id.
    pub id: SurfaceId,
    /// Its place in the list.
    #[serde(default)]
    pub position: u32,
    /// What it is called.
    pub name: String,
    /// What it is.
    pub kind: SurfaceKind,
    /// How wide the part with the keys is, in mm.
    pub width_mm: u16,
    /// How high it is, in mm.
    pub height_mm: u16,
    /// Keys side by side.
    pub columns: u8,
    /// Keys one above the other. A page on glass may be longer and is scrolled then.
    pub rows: u8,
    /// The keypad, hand remote or controller in Kit that sends its presses; none for what has a screen of its own.
    #[serde(default)]
    pub device: Option<DeviceId>,
    /// Its pages, the one that opens first at the front. What has hard keys has one, with meanings by activity.
    #[serde(default)]
    pub pages: Vec<SurfacePage>,
    /// May people change looks with it, and within what limits? Not, if none.
    #[serde(default)]
    pub may: Option<May>,
    /// Its trial before it is engraved.
    #[serde(default)]
    pub trial: Option<SurfaceTrial>,
    /// The height of engraved capitals, in tenths of a mm.
    #[serde(default = "Surface::usual_letters")]
    pub letter_tenths_mm: u16,
}

/// The levels that people may give a look.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct May {
    /// No darker than this, in %.
    pub least_percent: u8,
    /// No brighter than this, in %.
    pub most_percent: u8,
}

/// Days in use before something is cut into metal.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = SurfaceTrial)]
pub struct SurfaceTrial {
    /// When it began.
    #[schema(value_type = String, format = DateTime)]
    pub since: jiff::Timestamp,
    /// Engraving is offered once nothing has changed for so many days.
    pub quiet_days: u16,
}

/// What is seen at once.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = SurfacePage)]
pub struct SurfacePage {
    /// Its id.
    pub id: PageId,
    /// What it is called.
    pub name: String,
    /// The activity that it is for; it opens when that starts.
    #[serde(default)]
    pub activity: Option<ActivityId>,
    /// Its keys.
    pub keys: Vec<SurfaceKey>,
    /// Keys that would be generated and are not wanted here.
    #[serde(default)]
    pub without: Vec<Role>,
}

/// One key.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = SurfaceKey)]
pub struct SurfaceKey {
    /// Its id.
    pub id: KeyId,
    /// What it is there for, by which it keeps its place and is found again in another room; none where a hand made it.
    #[serde(default)]
    pub role: Option<Role>,
    /// What is written on it.
    pub label: String,
    /// A picture of its own, as a data address (PNG, JPEG or WebP, up to 60 kB).
    #[serde(default)]
    pub picture: Option<PictureId>,
    /// Its left column, from 0.
    pub column: u8,
    /// Its upper row, from 0.
    pub row: u8,
    /// How many columns it takes.
    #[serde(default = "one")]
    pub wide: u8,
    /// How many rows it takes.
    #[serde(default = "one")]
    pub tall: u8,
    /// What it does.
    #[serde(default)]
    pub bindings: Vec<Binding>,
    /// When it is lit.
    #[serde(default)]
    pub lit: Option<Lit>,
    /// The hard key, face or gesture of the device that stands for it.
    #[serde(default)]
    pub sends: Option<FunctionId>,
    /// Its own colours.
    #[serde(default)]
    pub tint: Option<Tint>,
    /// Was it changed by hand? Then it stays as it is when the layout is generated anew.
    #[serde(default)]
    pub by_hand: bool,
}

fn one() -> u8 {
    1
}

/// Colours of a key, as `#1c6470`.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Tint {
    /// Of the letters.
    pub ink: String,
    /// Of the key.
    pub ground: String,
}

/// What a key is there for.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
#[schema(as = KeyRole)]
pub enum Role {
    /// Back to the page that opens first.
    Start,
    /// Everything off.
    RoomOff,
    /// Everything in the house off.
    HouseRest,
    /// Stops a macro and what moves.
    StopAll,
    /// Back to the activity before.
    Before,
    /// A function of the vocabulary, wherever it goes: up, play, volume up.
    Term {
        /// Its name.
        name: String,
    },
    /// An app or a channel of the source.
    App {
        /// Its name.
        name: String,
    },
    /// An activity.
    Activity {
        /// Which.
        activity: ActivityId,
    },
    /// A look.
    Look {
        /// Which.
        look: LookId,
    },
    /// A mode switch.
    Switch {
        /// Which.
        switch: SwitchId,
    },
    /// What moves a screen, a blind or an awning.
    Moves {
        /// Which device.
        device: DeviceId,
        /// Which of its functions.
        function: FunctionId,
    },
    /// A favourite of an activity.
    Favourite {
        /// Its name.
        name: String,
    },
    /// A jump in what plays.
    Jump {
        /// On?
        on: bool,
    },
    /// The power of one device, for when something went wrong.
    Power {
        /// Which.
        device: DeviceId,
    },
    /// Another page.
    Page {
        /// Its name.
        name: String,
    },
}

/// What a gesture on a key does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Binding {
    /// Which gesture.
    #[serde(default)]
    pub gesture: Gesture,
    /// Only in this activity; in all of them, if none.
    #[serde(default)]
    pub in_activity: Option<ActivityId>,
    /// What it does.
    pub does: Does,
    /// What a key that stays down does.
    #[serde(default)]
    pub held: Held,
    /// So many of it count in a second at most: a twist that comes in a burst; all of them, if none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub most_per_s: Option<u8>,
}

/// What a key that stays down does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Held {
    /// Nothing more.
    #[default]
    Once,
    /// The same again and again: volume.
    Repeats,
    /// The command is held as well, until the key is let go: navigation, winding.
    Passes,
}

/// What can be done from a key.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "does")]
pub enum Does {
    /// Starts an activity.
    Activity {
        /// Which.
        activity: ActivityId,
    },
    /// Puts the room off.
    RoomOff,
    /// Stops what runs and what moves.
    StopAll,
    /// Back to the activity before this one.
    Before,
    /// Sends a command, several times for a skip.
    Command {
        /// To which device.
        device: DeviceId,
        /// Which.
        function: FunctionId,
        /// How often, 1–30.
        #[serde(default = "one")]
        times: u8,
    },
    /// Louder or softer.
    Volume {
        /// By which device; by the one that sounds in this activity, if none.
        #[serde(default)]
        device: Option<DeviceId>,
        /// How much, up or down, not 0: 30 steps, 50 % or 20 dB at most.
        steps: i8,
        /// In what.
        #[serde(default)]
        unit: LoudUnit,
    },
    /// Jumps in what plays, by the keys that its source has for that.
    Jump {
        /// In which source; in that of the running activity, if none.
        #[serde(default)]
        device: Option<DeviceId>,
        /// So many seconds on; back, where negative. −600 to 600, not 0.
        seconds: i16,
    },
    /// Puts the whole house to rest: every room is finished, and ways out stay lit. Only on a key that is held.
    HouseRest,
    /// Silences what sounds in this activity, and back.
    Mute,
    /// Calls a look.
    Look {
        /// Which.
        look: LookId,
    },
    /// Sets a mode switch.
    Switch {
        /// Which.
        switch: SwitchId,
        /// On, or off; the other way, if none.
        #[serde(default)]
        on: Option<bool>,
    },
    /// Turns to a page.
    Page {
        /// Which.
        page: PageId,
    },
    /// Opens an app or a channel of the source.
    App {
        /// Of which source.
        device: DeviceId,
        /// Its name in the profile.
        name: String,
    },
    /// A favourite of the running activity.
    Favourite {
        /// Its name.
        name: String,
    },
    /// Switches a device on, or off, by what is known of it.
    Power {
        /// Which.
        device: DeviceId,
    },
}

/// When a key is lit.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "when")]
pub enum Lit {
    /// The room is in an activity.
    Activity {
        /// Which.
        activity: ActivityId,
    },
    /// The room is off.
    Off,
    /// A device is on.
    On {
        /// Which.
        device: DeviceId,
    },
    /// A device has an input chosen.
    Input {
        /// Which device.
        device: DeviceId,
        /// Which input.
        input: InputId,
    },
    /// A source runs an app, or receives a channel.
    App {
        /// Which source.
        device: DeviceId,
        /// The name of the app.
        name: String,
    },
    /// A setting of a device has a value.
    Mode {
        /// Which device.
        device: DeviceId,
        /// Which setting.
        mode: String,
        /// Which value.
        value: String,
    },
    /// A mode switch is on.
    Switch {
        /// Which.
        switch: SwitchId,
    },
    /// Every zone of a look has its level.
    Look {
        /// Which.
        look: LookId,
    },
    /// A zone is brighter than this.
    Level {
        /// Which.
        zone: ZoneId,
        /// In %.
        above_percent: u8,
    },
    /// The sound is off.
    Muted,
}

impl Surface {
    /// A surface of the usual size of its kind, with nothing on it.
    #[must_use]
    pub fn blank(id: SurfaceId, name: &str, kind: SurfaceKind) -> Self {
        let size = kind.usual();
        Self {
            id,
            position: 0,
            name: name.to_owned(),
            kind,
            width_mm: size.width_mm,
            height_mm: size.height_mm,
            columns: size.columns,
            rows: size.rows,
            device: None,
            pages: vec![],
            may: None,
            trial: None,
            letter_tenths_mm: Self::usual_letters(),
        }
    }

    /// The ids that are its own.
    pub fn ids(&self) -> impl Iterator<Item = Uuid> {
        let pages = self.pages.iter().map(|page| page.id.0);
        pages.chain(self.keys().map(|(_, key)| key.id.0)).chain([self.id.0])
    }

    /// Capitals of 3.5 mm (*common practice*: read at arm's length).
    #[must_use]
    pub const fn usual_letters() -> u16 {
        35
    }

    /// A key of it, and the page that it is on.
    #[must_use]
    pub fn key(&self, id: KeyId) -> Option<(&SurfacePage, &SurfaceKey)> {
        self.pages.iter().find_map(|page| page.keys.iter().find(|key| key.id == id).map(|key| (page, key)))
    }

    /// The key that a hard key of its device stands for.
    #[must_use]
    pub fn hard_key(&self, function: FunctionId) -> Option<&SurfaceKey> {
        self.keys().map(|(_, key)| key).find(|key| key.sends == Some(function))
    }

    /// Every key with its page.
    pub fn keys(&self) -> impl Iterator<Item = (&SurfacePage, &SurfaceKey)> {
        self.pages.iter().flat_map(|page| page.keys.iter().map(move |key| (page, key)))
    }

    /// The keys that labels are made for: what a display shows has none.
    pub fn labelled(&self) -> impl Iterator<Item = &SurfaceKey> {
        self.pages.iter().filter(|page| page.name != LISTED).flat_map(|page| &page.keys)
    }

    /// The pages whose keys are cut, printed or stuck on: none of glass, and not what a display shows.
    pub fn labelled_pages(&self) -> impl Iterator<Item = &SurfacePage> {
        self.pages.iter().filter(|page| self.kind.has_labels() && page.name != LISTED)
    }

    /// How wide and high one cell of the grid is, in mm.
    #[must_use]
    pub fn cell_mm(&self) -> (f64, f64) {
        let sheets = f64::from(self.kind.sheets());
        let across = f64::from(self.width_mm) / sheets / f64::from(self.columns.max(1));
        (across, f64::from(self.height_mm) / f64::from(self.rows.max(1)))
    }

    /// How wide and high a key is, in mm, without the gap around it.
    #[must_use]
    pub fn key_mm(&self, key: &SurfaceKey) -> (f64, f64) {
        let (wide, high) = self.cell_mm();
        let size = |cells: u8, cell: f64| (f64::from(cells) * cell - GAP_MM).max(0.0);
        (size(key.wide, wide), size(key.tall, high))
    }
}

/// The page that the small display of a remote shows, beside its keys.
pub const LISTED: &str = "On its display";

/// What stays free between two keys, in mm.
pub const GAP_MM: f64 = 2.0;

impl SurfaceKey {
    /// What a gesture does in an activity: what is meant for that activity goes before what is meant for all.
    #[must_use]
    pub fn binding(&self, gesture: Gesture, activity: Option<ActivityId>) -> Option<&Binding> {
        let meant = |binding: &&Binding| binding.gesture == gesture;
        let own =
            activity.and_then(|id| self.bindings.iter().filter(meant).find(|binding| binding.in_activity == Some(id)));
        own.or_else(|| self.bindings.iter().filter(meant).find(|binding| binding.in_activity.is_none()))
    }

    /// Does it share a cell with another one?
    #[must_use]
    pub fn covers(&self, other: &Self) -> bool {
        let meets = |a: u8, long: u8, b: u8, other: u8| a < b.saturating_add(other) && b < a.saturating_add(long);
        meets(self.column, self.wide, other.column, other.wide) && meets(self.row, self.tall, other.row, other.tall)
    }
}
