//! A house and its rooms.

use super::{Adoption, FindingKind, FloorPlan, Lighting, PathClass, RoomPlans, Standpoint, Story, Surface, Voice};
use crate::id::{AcceptedId, HouseId, RoomId, SurfaceId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A house.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct House {
    /// Its id.
    pub id: HouseId,
    /// What it is called.
    pub name: String,
    /// What one wants to know of it at a glance, in a line.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// Whose it is.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub client: String,
    /// Who programs it: whom surfaces and papers name where something is wrong.
    #[serde(default, skip_serializing_if = "Programmer::is_empty")]
    pub programmer: Programmer,
    /// The order in which control paths are preferred here; the usual one where it is empty.
    #[serde(default)]
    pub path_order: Vec<PathClass>,
    /// How often, in %, a measured wait must cover the next time for a verdict to rest on it (50–99).
    #[serde(default = "House::usual_coverage")]
    pub coverage_percent: u8,
    /// Where it stands, for sunrise and sunset; none where nobody has said.
    #[serde(default)]
    pub place: Option<Standpoint>,
    /// The machine that stays in the house and serves its surfaces, as phones reach it: host and port. Nothing stays, if
    /// none; then no paper carries a code to be scanned.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stays: Option<String>,
}

/// Who programs a house, as its family reaches them.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Programmer {
    /// The name.
    pub name: String,
    /// The telephone number, as one would write it.
    pub phone: String,
}

impl Programmer {
    fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

impl House {
    /// A house with nothing said of it but its name.
    #[must_use]
    pub fn new(id: HouseId, name: String) -> Self {
        Self {
            id,
            name,
            note: String::new(),
            client: String::new(),
            programmer: Programmer::default(),
            path_order: vec![],
            coverage_percent: Self::usual_coverage(),
            place: None,
            stays: None,
        }
    }

    /// Nine measurements cover nine times of ten.
    #[must_use]
    pub const fn usual_coverage() -> u8 {
        90
    }

    /// The order in which control paths are preferred: the house's own, completed by the usual one.
    #[must_use]
    pub fn preferred_paths(&self) -> Vec<PathClass> {
        let mut order = self.path_order.clone();
        order.extend(PathClass::USUAL.into_iter().filter(|class| !self.path_order.contains(class)));
        order
    }
}

/// A room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Room {
    /// Its id.
    pub id: RoomId,
    /// What it is called.
    pub name: String,
    /// Its place in the list.
    pub position: u32,
    /// Is it a cupboard or a rack that holds equipment for other rooms?
    #[serde(default)]
    pub rack: bool,
    /// How its plans are made, and what was changed in them by hand.
    #[serde(default)]
    pub plans: RoomPlans,
    /// How it stays in step, and the stories that are its tests.
    #[serde(default)]
    pub rehearsal: Rehearsing,
    /// Its zones, looks, cues and mode switches.
    #[serde(default)]
    pub lighting: Lighting,
    /// What people press here.
    #[serde(default)]
    pub surfaces: Vec<Surface>,
    /// What people say here.
    #[serde(default)]
    pub voice: Voice,
    /// Findings that somebody has looked at and accepted.
    #[serde(default)]
    pub accepted: Vec<Accepted>,
    /// Its floor plan; one that was never drawn has no length.
    #[serde(default, skip_serializing_if = "FloorPlan::is_bare")]
    pub floor: FloorPlan,
}

/// A finding that somebody has accepted. It comes back when its facts change.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Accepted {
    /// Its id.
    pub id: AcceptedId,
    /// What was found, with its facts.
    pub found: FindingKind,
    /// Why it is no trouble here.
    pub reason: String,
}

/// How a room is rehearsed.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Rehearsing {
    /// How it stays in step with what its devices tell.
    pub adoption: Adoption,
    /// Evenings that were recorded and are kept as tests.
    pub stories: Vec<Story>,
}

impl Room {
    /// A surface of this room.
    #[must_use]
    pub fn surface(&self, id: SurfaceId) -> Option<&Surface> {
        self.surfaces.iter().find(|surface| surface.id == id)
    }
}

/// The longest name of anything, in characters.
pub const NAME_MAX: usize = 80;

impl From<super::RoomCard> for Room {
    /// A room with nothing in it.
    fn from(card: super::RoomCard) -> Self {
        Self {
            id: card.id,
            name: card.name,
            position: card.position,
            rack: card.rack,
            plans: RoomPlans::default(),
            rehearsal: Rehearsing { adoption: card.adoption, stories: vec![] },
            lighting: Lighting::default(),
            surfaces: vec![],
            voice: Voice::default(),
            accepted: vec![],
            floor: FloorPlan::default(),
        }
    }
}
