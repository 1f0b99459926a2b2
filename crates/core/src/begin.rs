//! Starting points: what a room may begin with, so that its first plan stands at once and is then made true.
//!
//! A starting point is made of models of the library with the codes that they answer to, cabled, with the usual activities
//! and a gateway that sends. Nothing in it is finished: names, models, codes and waits are the practitioner's to mend.

use crate::edit::copy;
use crate::id::{ConnectionId, DeviceId, RoomId};
use crate::library;
use crate::model::{
    Activity, Adoption, Code, Connection, Device, Entity, Extras, House, Move, Position, Profile, RoomCard, Site,
};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// What a room may begin with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum StartingPoint {
    /// A projector, a screen that comes down, a receiver and two sources.
    Cinema,
    /// A display, a receiver and two sources.
    LivingRoom,
    /// A display and a source.
    Bedroom,
    /// A display, a source and an awning.
    Terrace,
    /// Nothing.
    Empty,
}

/// A device of a starting point.
struct Stands {
    name: &'static str,
    maker: &'static str,
    model: &'static str,
}

/// An activity of a starting point: what plays, where it is seen and heard, and what comes down for it.
struct Does {
    name: &'static str,
    source: &'static str,
    seen_on: &'static str,
    heard_on: &'static str,
    lowers: Option<&'static str>,
}

/// A starting point as a table.
struct Plan {
    devices: &'static [Stands],
    /// From which socket of which device to which of which.
    cables: &'static [[&'static str; 4]],
    activities: &'static [Does],
}

const fn stands(name: &'static str, maker: &'static str, model: &'static str) -> Stands {
    Stands { name, maker, model }
}

const GATEWAY: Stands = stands("Gateway", "Brackwater", "Bridge 2");
const STREAMER: Stands = stands("Streamer", "Pellan", "S1");

const CINEMA: Plan = Plan {
    devices: &[
        STREAMER,
        stands("Disc player", "Orrin", "D1"),
        stands("Receiver", "Ruskel", "R9"),
        stands("Projector", "Tarnbeck", "P2"),
        stands("Screen", "Skerrow", "120"),
        GATEWAY,
    ],
    cables: &[
        ["Streamer", "HDMI out", "Receiver", "Stream"],
        ["Disc player", "HDMI out", "Receiver", "Disc"],
        ["Receiver", "Monitor out", "Projector", "HDMI 1"],
    ],
    activities: &[
        Does {
            name: "Film",
            source: "Disc player",
            seen_on: "Projector",
            heard_on: "Receiver",
            lowers: Some("Screen"),
        },
        Does {
            name: "Streaming",
            source: "Streamer",
            seen_on: "Projector",
            heard_on: "Receiver",
            lowers: Some("Screen"),
        },
    ],
};

const LIVING_ROOM: Plan = Plan {
    devices: &[
        stands("Tuner", "Pellan", "T1"),
        STREAMER,
        stands("Receiver", "Ruskel", "R9"),
        stands("Display", "Haldane", "C32 B"),
        GATEWAY,
    ],
    cables: &[
        ["Tuner", "HDMI out", "Receiver", "Disc"],
        ["Streamer", "HDMI out", "Receiver", "Stream"],
        ["Receiver", "Monitor out", "Display", "HDMI 1"],
    ],
    activities: &[
        Does { name: "Television", source: "Tuner", seen_on: "Display", heard_on: "Receiver", lowers: None },
        Does { name: "Streaming", source: "Streamer", seen_on: "Display", heard_on: "Receiver", lowers: None },
    ],
};

const BEDROOM: Plan = Plan {
    devices: &[STREAMER, stands("Display", "Haldane", "C32 B"), GATEWAY],
    cables: &[["Streamer", "HDMI out", "Display", "HDMI 1"]],
    activities: &[Does {
        name: "Streaming",
        source: "Streamer",
        seen_on: "Display",
        heard_on: "Display",
        lowers: None,
    }],
};

const TERRACE: Plan = Plan {
    devices: &[STREAMER, stands("Display", "Haldane", "O55"), stands("Awning", "Skerrow", "A3"), GATEWAY],
    cables: &[["Streamer", "HDMI out", "Display", "HDMI 1"]],
    activities: &[Does {
        name: "Streaming",
        source: "Streamer",
        seen_on: "Display",
        heard_on: "Display",
        lowers: None,
    }],
};

const EMPTY: Plan = Plan { devices: &[], cables: &[], activities: &[] };

impl StartingPoint {
    /// Every one of them.
    pub const ALL: [Self; 5] = [Self::Cinema, Self::LivingRoom, Self::Bedroom, Self::Terrace, Self::Empty];

    /// What it is called.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Cinema => "Cinema with projector and screen",
            Self::LivingRoom => "Living room with display and sound",
            Self::Bedroom => "Bedroom",
            Self::Terrace => "Terrace",
            Self::Empty => "Empty room",
        }
    }

    fn plan(self) -> &'static Plan {
        match self {
            Self::Cinema => &CINEMA,
            Self::LivingRoom => &LIVING_ROOM,
            Self::Bedroom => &BEDROOM,
            Self::Terrace => &TERRACE,
            Self::Empty => &EMPTY,
        }
    }

    /// What stands in it, in words; empty for the empty room.
    #[must_use]
    pub fn about(self) -> String {
        let names: Vec<String> = self.plan().devices.iter().map(|own| own.name.to_lowercase()).collect();
        names.join(", ")
    }
}

/// What a room begins with, as entities of `site`: those of the room, the models that the house does not have yet, devices,
/// cables, codes and activities.
pub fn room(
    site: &Site,
    id: RoomId,
    name: &str,
    point: StartingPoint,
    fresh: &mut impl FnMut() -> Uuid,
) -> Vec<Entity> {
    let plan = point.plan();
    let position = site.rooms.iter().map(|room| room.position + 1).max().unwrap_or(0);
    let card = RoomCard { id, name: name.to_owned(), position, rack: false, adoption: Adoption::default() };
    let mut all = vec![Entity::Room(card)];
    let mut devices: BTreeMap<&str, (Device, Profile)> = BTreeMap::new();
    let mut codes = Vec::new();
    for (position, own) in (0..).zip(plan.devices) {
        let Some(profile) = model(site, own, fresh) else { continue };
        if site.profile(profile.id).is_none() {
            all.push(Entity::Profile(profile.clone()));
        }
        let device = device(fresh().into(), id, &profile, own.name, position);
        for function in &profile.functions {
            let Some(body) = function.answers_to.clone() else { continue };
            let (device, function) = (device.id, function.id);
            codes.push(Code { id: fresh().into(), device, function, body, captured: None, since: None, tested: None });
        }
        devices.insert(own.name, (device, profile));
    }
    all.extend(plan.devices.iter().filter_map(|own| Some(Entity::Device(devices.get(own.name)?.0.clone()))));
    all.extend(plan.cables.iter().filter_map(|ends| cable(&devices, ends, fresh().into()).map(Entity::Connection)));
    all.extend(codes.into_iter().map(Entity::Code));
    let of = |name: &str| devices.get(name).map(|(device, _)| device.id);
    for (position, own) in (1..).zip(plan.activities) {
        let Some(source) = of(own.source) else { continue };
        let lowered = own.lowers.and_then(of).map(|device| Move { device, to: Position::Down });
        all.push(Entity::Activity(Activity {
            id: fresh().into(),
            room: id,
            name: own.name.to_owned(),
            position,
            source,
            seen_on: of(own.seen_on),
            heard_on: of(own.heard_on),
            moves: lowered.into_iter().collect(),
            extras: Extras::default(),
        }));
    }
    all
}

/// A new house with its rooms.
#[must_use]
pub fn house(own: House, rooms: &[(String, StartingPoint)], fresh: &mut impl FnMut() -> Uuid) -> Site {
    let mut site = Site::empty(own);
    for (name, point) in rooms {
        let id = fresh().into();
        for entity in room(&site, id, name, *point, fresh) {
            site.put(entity);
        }
        site.sort();
    }
    site
}

/// The model as the house has it already, or a copy of that of the library.
fn model(site: &Site, own: &Stands, fresh: &mut impl FnMut() -> Uuid) -> Option<Profile> {
    let is = |known: &&Profile| known.maker == own.maker && known.model == own.model;
    let there = site.profiles.iter().find(is).cloned();
    there.or_else(|| library::all().iter().find(is).map(|shipped| copy::renumbered(shipped, fresh).0))
}

fn device(id: DeviceId, room: RoomId, profile: &Profile, name: &str, position: u32) -> Device {
    Device { position, ..Device::new(id, room, profile.id, name.to_owned()) }
}

fn cable(
    devices: &BTreeMap<&str, (Device, Profile)>,
    [from, output, to, input]: &[&str; 4],
    id: ConnectionId,
) -> Option<Connection> {
    let ((from, gives), (to, takes)) = (devices.get(from)?, devices.get(to)?);
    Some(Connection {
        id,
        from_device: from.id,
        from_output: gives.outputs.iter().find(|known| known.name == *output)?.id,
        to_device: to.id,
        to_input: takes.inputs.iter().find(|known| known.name == *input)?.id,
        return_audio: false,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::check;
    use crate::edit::{self, Edit};
    use crate::id::HouseId;
    use crate::model::Situation;
    use crate::prove::{Analysis, Guarantee};
    use rstest::rstest;

    fn fresh() -> impl FnMut() -> Uuid {
        let mut number = 0x7000;
        move || {
            number += 1;
            Uuid::from_u128(number)
        }
    }

    fn begun(point: StartingPoint) -> Site {
        let own = House::new(HouseId(Uuid::from_u128(1)), "Teal House".to_owned());
        house(own, &[("Den".to_owned(), point)], &mut fresh())
    }

    #[rstest]
    #[case(StartingPoint::Cinema, 2)]
    #[case(StartingPoint::LivingRoom, 2)]
    #[case(StartingPoint::Bedroom, 1)]
    #[case(StartingPoint::Terrace, 1)]
    fn the_first_plan_of_a_starting_point_can_be_sent(#[case] point: StartingPoint, #[case] activities: usize) {
        let site = begun(point);
        let room = site.rooms[0].id;
        assert_eq!(site.devices.len(), point.plan().devices.len(), "a model is not in the library");
        assert_eq!(site.connections.len(), point.plan().cables.len(), "a socket is not there");
        assert_eq!(site.activities.len(), activities);
        let matrix = Analysis::of(&site, room).matrix();
        for cell in matrix.cells {
            assert!(cell.runnable && cell.cannot_be_sent.is_empty(), "{}", cell.verdict);
            assert_ne!(cell.guarantee, Guarantee::NotProved, "{}", cell.verdict);
            let from_off = cell.from == Situation::Off;
            assert!(!from_off || cell.guarantee != Guarantee::AtRisk, "{point:?} {:?}", cell.story);
        }
        let notes = check::room(&site, room);
        assert_eq!(notes.codes.done, notes.codes.total);
        assert_eq!(notes.next, None, "nothing is left of a beginning");
    }

    #[test]
    fn what_a_starting_point_makes_is_accepted_edit_by_edit() {
        for point in StartingPoint::ALL {
            let mut site = Site::empty(House::new(HouseId(Uuid::from_u128(1)), "Teal House".to_owned()));
            for entity in room(&site.clone(), RoomId(Uuid::from_u128(2)), "Den", point, &mut fresh()) {
                edit::apply(&mut site, &Edit::Put { entity, base: None }).unwrap();
            }
            assert_eq!(site.rooms.len(), 1);
        }
    }

    #[test]
    fn a_second_room_shares_the_models_of_the_first() {
        let rooms = [("Den".to_owned(), StartingPoint::Bedroom), ("Attic".to_owned(), StartingPoint::Bedroom)];
        let own = House::new(HouseId(Uuid::from_u128(1)), "Teal House".to_owned());
        let site = house(own, &rooms, &mut fresh());
        assert_eq!((site.profiles.len(), site.devices.len(), site.rooms.len()), (3, 6, 2));
        assert_eq!(site.rooms.iter().map(|room| room.position).collect::<Vec<_>>(), [0, 1]);
    }

    #[test]
    fn each_says_what_stands_in_it() {
        assert_eq!(StartingPoint::Bedroom.about(), "streamer, display, gateway");
        assert_eq!(StartingPoint::Empty.about(), "");
    }
}
