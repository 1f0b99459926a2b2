//! Where things are: the floor plan of a room, and what stands in it. Lengths are in mm; x runs along the length of the room,
//! y along its width, z up from the floor.

use crate::id::{DeviceId, PlacedId, ZoneId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The longest side of a room, in mm.
pub const SIDE_MAX_MM: u32 = 60_000;

/// The shortest, in mm.
pub const SIDE_LEAST_MM: u32 = 1_000;

/// A wall of a room.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Wall {
    /// Where x is 0: on the left of the plan.
    Left,
    /// Where x is the length of the room: on the right.
    Right,
    /// Where y is 0: at the top of the plan.
    Top,
    /// Where y is the width of the room: at the bottom.
    Bottom,
}

impl Wall {
    /// Every one of them.
    pub const ALL: [Self; 4] = [Self::Left, Self::Right, Self::Top, Self::Bottom];
}

/// What a surface is made of: how much infrared light comes back from it, and what it takes of radio.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Material {
    /// White plaster: 70 % comes back (*from memory*, as all of these).
    #[default]
    Plaster,
    /// Wood: 40 %.
    Wood,
    /// Dark cloth: 10 %.
    DarkCloth,
    /// Brick, bare: 40 %.
    Brick,
    /// Concrete: 40 %.
    Concrete,
    /// Glass: 10 %.
    Glass,
}

impl Material {
    /// How much infrared light comes back, in % (*from memory*).
    #[must_use]
    pub const fn reflects_percent(self) -> u8 {
        match self {
            Self::Plaster => 70,
            Self::Wood | Self::Brick | Self::Concrete => 40,
            Self::DarkCloth | Self::Glass => 10,
        }
    }

    /// What a wall of it takes of radio at 433.92 MHz, in dB (*from memory*).
    #[must_use]
    pub const fn takes_db(self) -> u8 {
        match self {
            Self::Plaster | Self::Wood | Self::DarkCloth => 3,
            Self::Glass => 2,
            Self::Brick => 6,
            Self::Concrete => 12,
        }
    }
}

/// A door or a window.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Opening {
    /// In which wall.
    pub wall: Wall,
    /// What it is.
    pub kind: OpeningKind,
    /// Where it begins along the wall, from the corner with the smaller x or y, in mm.
    pub from_mm: u32,
    /// How wide it is, in mm.
    pub width_mm: u32,
    /// How high its lower edge is above the floor, in mm.
    pub bottom_mm: u32,
    /// How high it is, in mm.
    pub height_mm: u32,
}

/// What an opening is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum OpeningKind {
    /// A door.
    Door,
    /// A window.
    Window,
}

/// A place where somebody sits.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Seat {
    /// What it is called: *front row, middle*.
    pub name: String,
    /// Where its eye is, in mm.
    pub eye_mm: [i32; 3],
    /// Its row, counted from 1 at the picture.
    pub row: u8,
}

/// A cupboard or a shelf.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Cupboard {
    /// What it is called.
    pub name: String,
    /// Its middle, in mm.
    pub at_mm: [i32; 3],
    /// How large it is along x, y and z, in mm.
    pub size_mm: [u32; 3],
    /// The side that opens, as the wall that it looks at; none for a shelf that is open all round.
    pub opens_to: Option<Wall>,
    /// Is its door closed?
    pub closed: bool,
    /// How much infrared light goes through its closed door, in %: 0 for wood, 85 for glass (*from memory*).
    #[serde(default)]
    pub door_passes_percent: u8,
}

/// A spot at which a gateway may be mounted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Spot {
    /// What it is called.
    pub name: String,
    /// Where, in mm.
    pub at_mm: [i32; 3],
}

/// The floor plan of a room. One with no length is none.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct FloorPlan {
    /// Length (x), width (y) and height (z), in mm.
    pub size_mm: [u32; 3],
    /// On which storey; 0 is the ground floor.
    pub storey: i8,
    /// Where its corner with the least x and y stands on the plan of the house, in mm.
    pub at_mm: [i32; 2],
    /// What its walls are made of: left, right, top, bottom.
    pub walls: [Material; 4],
    /// What its floor is made of.
    pub floor: Material,
    /// What its ceiling is made of.
    pub ceiling: Material,
    /// Doors and windows.
    pub openings: Vec<Opening>,
    /// Where people sit.
    pub seats: Vec<Seat>,
    /// Cupboards and shelves.
    pub cupboards: Vec<Cupboard>,
    /// Where gateways may be mounted, besides the usual places.
    pub spots: Vec<Spot>,
    /// Lamps, zone by zone.
    pub lamps: Vec<Lamp>,
    /// Daylight on the screen wall with everything open, in lux.
    pub daylight_lux: u32,
}

impl FloorPlan {
    /// Was it never drawn, and nothing said of it?
    #[must_use]
    pub fn is_bare(&self) -> bool {
        *self == Self::default()
    }

    /// Is there a plan?
    #[must_use]
    pub fn is_drawn(&self) -> bool {
        self.size_mm[0] > 0
    }
}

/// A device that stands somewhere.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Placed {
    /// Its id.
    pub id: PlacedId,
    /// Which. A device stands in one place.
    pub device: DeviceId,
    /// Its middle, in mm; of a screen that comes down, the middle of its case.
    pub at_mm: [i32; 3],
    /// How large it is: wide, deep and high, in mm.
    pub size_mm: [u32; 3],
    /// Where its front looks, in degrees from x towards y (−180 to 180).
    pub azimuth_deg: i16,
    /// How far up, in degrees (−90 to 90).
    pub elevation_deg: i8,
    /// Devices to whose windows a lead of this gateway is stuck.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub leads: Vec<DeviceId>,
}

/// What is known of a model in space. Every figure is of the model and may be typed in; what is not known is none.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Optics {
    /// On what these figures rest.
    pub figures: FiguresFrom,
    /// Its infrared emitter.
    pub emits: Option<Emits>,
    /// Its infrared window.
    pub hears: Option<Hears>,
    /// Its radio at 433.92 MHz.
    pub radio: Option<Radio>,
    /// Its lens.
    pub lens: Option<Lens>,
    /// Its picture: a screen, or the panel of a display.
    pub surface: Option<PictureSurface>,
    /// What it costs, in the smallest unit of the house's money; none where it is no article.
    pub price: Option<u32>,
}

/// On what figures rest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum FiguresFrom {
    /// Invented for the demo, plausible.
    #[default]
    Invented,
    /// From a data sheet.
    DataSheet,
    /// Usual for such devices.
    CommonPractice,
    /// Measured.
    Measured,
}

/// An infrared emitter.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = InfraredEmitter)]
pub struct Emits {
    /// Its radiant intensity straight ahead, in mW/sr.
    pub mw_per_sr: u32,
    /// The angle at which half of that is left, in degrees.
    pub half_deg: u8,
    /// Can it send on several outputs at once?
    #[serde(default)]
    pub several_at_once: bool,
    /// How many leads can be plugged in.
    #[serde(default)]
    pub leads: u8,
}

/// An infrared window.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = InfraredWindow)]
pub struct Hears {
    /// The least irradiance that it follows straight ahead, in µW/m².
    pub least_uw_per_m2: u32,
    /// The angle at which it needs twice as much, in degrees.
    pub half_deg: u8,
}

/// A radio.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = RadioLink)]
pub struct Radio {
    /// What it sends, in tenths of a dBm; none where it only receives.
    pub sends_tenths_dbm: Option<i16>,
    /// What it needs, in dBm; none where it only sends.
    pub needs_dbm: Option<i16>,
    /// The gain of its antenna, in tenths of a dB.
    pub gain_tenths_db: i16,
}

/// A lens of a projector.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = ProjectorLens)]
pub struct Lens {
    /// The least throw ratio, in hundredths.
    pub throw_least_hundredths: u16,
    /// The greatest throw ratio, in hundredths.
    pub throw_most_hundredths: u16,
    /// How far the picture shifts up or down, in % of its height.
    pub shift_v_percent: u8,
    /// How far sideways, in % of its width.
    pub shift_h_percent: u8,
    /// Its light, in lm.
    pub lumens: u32,
    /// Its raster: columns and lines.
    pub raster: [u16; 2],
    /// What is left of its light by lens, mode and age, in %.
    pub kept_percent: u8,
    /// Its contrast, to 1.
    pub contrast: u32,
}

/// A surface with a picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct PictureSurface {
    /// Its width and its height, in mm.
    pub size_mm: [u32; 2],
    /// Its gain straight ahead, in hundredths; 100 for a display.
    pub gain_hundredths: u16,
    /// The angle at which half of its gain is left, in degrees; 90 where it is matt.
    pub half_gain_deg: u8,
    /// What it leaves of ambient light, in %.
    pub ambient_percent: u8,
    /// The black cloth above the picture when it is down, in mm; 0 where nothing comes down.
    #[serde(default)]
    pub black_mm: u32,
    /// What hangs below the picture, in mm.
    #[serde(default)]
    pub below_mm: u32,
    /// How much infrared light goes through it, in %: 5 where it is perforated (*from memory*).
    #[serde(default)]
    pub passes_percent: u8,
    /// Its mass, in g.
    #[serde(default)]
    pub mass_g: u32,
}

/// A lamp of a zone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Lamp {
    /// Of which zone.
    pub zone: ZoneId,
    /// Where, in mm.
    pub at_mm: [i32; 3],
    /// Its light at 100 %, in lm.
    pub lumens: u32,
}
