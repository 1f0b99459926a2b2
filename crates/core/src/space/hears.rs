//! Who hears what: surely, maybe, or surely not.
//!
//! [`heard`] is the one place that says whether a device hears what a gateway sends, and what screens make of it. The
//! schedule asks it which sends are in each other's way, the proof which frames arrive, the rehearsal room answers by the
//! same geometry. In a room without a floor plan everybody hears everything that is sent in it, as long as nobody has
//! drawn anything; in a room with one, what is not placed, or of whose window nothing is known, *may* hear everything.
//!
//! What light does between the things of a room is worked out once for each way in which they can stand, and kept by
//! what it rests on ([`ears`]): plans and proofs ask thousands of times.

use super::infrared::{Emitter, FINE, Lit, Scene, Window};
use super::reach::{BARELY_DB, Hears, NEVER_DB, REACHES_DB, radio_db, radio_hears, senders};
use super::scene::{Posture, optics, place_of, placed, scene, screens};
use crate::codes::paths::is_gateway;
use crate::id::{DeviceId, RoomId};
use crate::model::{Device, FloorPlan, Medium, Optics, Placed, Site};
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;
use std::sync::{Arc, LazyLock, Mutex, PoisonError};

/// How a device hears what a gateway sends.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Heard {
    /// With every screen up.
    pub up: Hears,
    /// While one of these screens is all the way down, where that makes it hear less.
    pub down: Vec<(DeviceId, Hears)>,
}

impl Heard {
    /// However the room stands.
    #[must_use]
    pub fn always(up: Hears) -> Self {
        Self { up, down: vec![] }
    }

    /// May it be heard, however the room stands?
    #[must_use]
    pub fn may_be(&self) -> bool {
        self.up != Hears::SurelyNot || self.down.iter().any(|(_, down)| *down != Hears::SurelyNot)
    }

    /// Is it surely heard, however the room stands?
    #[must_use]
    pub fn is_sure(&self) -> bool {
        self.up == Hears::Surely && self.down.is_empty()
    }

    /// How good it is: the smaller, the better.
    #[must_use]
    pub fn rank(&self) -> u8 {
        match self.up {
            Hears::Surely if self.down.is_empty() => 0,
            Hears::Surely => 1,
            Hears::Maybe => 2,
            Hears::SurelyNot => 3,
        }
    }
}

/// Has this room a floor plan?
#[must_use]
pub fn is_drawn(site: &Site, room: RoomId) -> bool {
    site.room(room).is_some_and(|room| room.floor.is_drawn())
}

/// Does infrared of this gateway get into a room of the device?
#[must_use]
pub fn in_sight(site: &Site, device: &Device, gateway: DeviceId) -> bool {
    site.device(gateway).is_some_and(|known| {
        is_gateway(site, known) && (known.room == device.room || device.rooms().iter().any(|&room| known.serves(room)))
    })
}

/// Do two devices stand in, or serve, one room?
fn share_a_room(a: &Device, b: &Device) -> bool {
    a.room == b.room || a.rooms().iter().any(|room| b.rooms().contains(room))
}

/// Is this device reached by a lead of this gateway, stuck on its window?
#[must_use]
pub fn by_lead(site: &Site, gateway: DeviceId, device: DeviceId) -> bool {
    place_of(site, gateway).is_some_and(|own| own.leads.contains(&device))
}

/// How `device` hears what is sent to `meant` through a gateway; through whichever there is, where none is given.
#[must_use]
pub fn heard(site: &Site, gateway: Option<DeviceId>, meant: DeviceId, device: DeviceId, medium: Medium) -> Heard {
    let sure = |yes: bool| Heard::always(if yes { Hears::Surely } else { Hears::SurelyNot });
    match medium {
        Medium::Ir => {
            let (Some(a), Some(b)) = (site.device(meant), site.device(device)) else { return sure(meant == device) };
            if !is_drawn(site, b.room) {
                return sure(meant == device || share_a_room(a, b));
            }
            match gateway {
                None => {
                    Heard::always(if meant == device || share_a_room(a, b) { Hears::Maybe } else { Hears::SurelyNot })
                }
                Some(gateway) if by_lead(site, gateway, meant) => sure(meant == device),
                Some(gateway) if !in_sight(site, b, gateway) => sure(false),
                Some(gateway) => match ears(site, b.room).of.get(&(gateway, device)) {
                    Some(ear) => ear.heard.clone(),
                    None => Heard::always(Hears::Maybe),
                },
            }
        }
        Medium::Rf433 => {
            let room = |device: DeviceId| site.device(device).map(|device| device.room);
            let drawn = |device: DeviceId| room(device).is_some_and(|room| is_drawn(site, room));
            let Some(gateway) = gateway.filter(|&gateway| drawn(gateway) && drawn(device)) else { return sure(true) };
            Heard::always(radio_db(site, gateway, device).map_or(Hears::Maybe, radio_hears))
        }
        _ => sure(meant == device),
    }
}

/// May `device` hear what is sent to `meant`, through whichever gateway that is?
#[must_use]
pub fn may_hear(site: &Site, meant: DeviceId, device: DeviceId, medium: Medium) -> bool {
    let own = site.paths_of(meant).into_iter().find(|path| path.medium == medium).and_then(|path| path.through);
    let gateways: Vec<DeviceId> = match (own, site.device(meant)) {
        (Some(own), _) => vec![own],
        (None, Some(meant)) => crate::codes::paths::gateways_near(site, meant, medium).collect(),
        (None, None) => vec![],
    };
    if gateways.is_empty() {
        return heard(site, None, meant, device, medium).may_be();
    }
    gateways.into_iter().any(|gateway| heard(site, Some(gateway), meant, device, medium).may_be())
}

/// How a window hears an emitter, in figures.
#[derive(Debug, Clone, PartialEq)]
pub struct Ear {
    /// What that says.
    pub heard: Heard,
    /// The margin with every screen up and doors as the plan says, in dB; minus infinity in the dark.
    pub up_db: f64,
    /// The margin with one of these screens down and the others up, in dB.
    pub lowered_db: Vec<(DeviceId, f64)>,
}

impl Ear {
    /// The least margin with a screen down, in dB; that with all up, where none comes down.
    #[must_use]
    pub fn down_db(&self) -> f64 {
        self.lowered_db.iter().map(|(_, db)| *db).fold(self.up_db, f64::min)
    }
}

/// How the windows of a room hear its gateways.
#[derive(Debug, Default)]
pub struct Ears {
    /// By gateway and device. What is not placed, or of which nothing is known, is not here.
    pub of: BTreeMap<(DeviceId, DeviceId), Ear>,
}

/// What [`Ears`] rest on: the plan, and what stands on it with what is known of that.
#[derive(PartialEq)]
struct RestsOn {
    plan: FloorPlan,
    things: Vec<(Placed, Option<Optics>)>,
}

impl RestsOn {
    fn of(site: &Site, room: RoomId) -> Option<Self> {
        let things = placed(site, room).map(|own| (own.clone(), optics(site, own.device).cloned())).collect();
        Some(Self { plan: site.room(room)?.floor.clone(), things })
    }

    /// Is this what it is in `site`? Asked often, so nothing is copied for it.
    fn still(&self, site: &Site, room: RoomId) -> bool {
        let things = || self.things.iter().map(|(own, optics)| (own, optics.as_ref()));
        let plan = site.room(room).is_some_and(|own| own.floor == self.plan);
        plan && placed(site, room).map(|own| (own, optics(site, own.device))).eq(things())
    }
}

/// Ways in which one room stood that are kept.
const KEPT_EACH: usize = 4;

/// Rooms that are kept.
const KEPT_ROOMS: usize = 256;

type Kept = FxHashMap<RoomId, Vec<Arc<(RestsOn, Arc<Ears>)>>>;

/// The ears of rooms by what they rest on. A pure function that remembers: what is kept here changes no answer.
static KEPT: LazyLock<Mutex<Kept>> = LazyLock::new(Mutex::default);

/// How the windows of a room hear its gateways.
#[must_use]
pub fn ears(site: &Site, room: RoomId) -> Arc<Ears> {
    let kept = || KEPT.lock().unwrap_or_else(PoisonError::into_inner);
    let known = kept().get(&room).and_then(|own| own.iter().find(|known| known.0.still(site, room)).map(Arc::clone));
    if let Some(known) = known {
        return Arc::clone(&known.1);
    }
    let Some(rests_on) = RestsOn::of(site, room) else { return Arc::default() };
    let ears = Arc::new(worked_out(site, room));
    let mut all = kept();
    if all.len() >= KEPT_ROOMS {
        all.clear();
    }
    let own = all.entry(room).or_default();
    own.insert(0, Arc::new((rests_on, Arc::clone(&ears))));
    own.truncate(KEPT_EACH);
    ears
}

/// Patches are so coarse at first: this is worked out after every edit of a plan.
const ROUGH: f64 = 0.6;

/// A margin that is nearer than this to what is asked is worked out with fine patches, in dB.
const NEAR_DB: f64 = 2.0;

/// What the gateways of a room send while it stands in one way, made once for all of its devices.
struct Sent {
    scene: Scene,
    boxes: Vec<(DeviceId, Emitter, Vec<Lit>)>,
}

impl Sent {
    fn of(site: &Site, room: RoomId, posture: &Posture) -> Self {
        let scene = scene(site, room, posture);
        let emitters =
            senders(site, room).filter_map(|own| Some((own, place_of(site, own)?.emitter(&optics(site, own)?.emits?))));
        let boxes = emitters.map(|(own, emitter)| (own, emitter, scene.lit(&emitter, None, ROUGH))).collect();
        Self { scene, boxes }
    }

    fn margin(&self, place: usize, window: &Window) -> f64 {
        let (_, emitter, lit) = &self.boxes[place];
        let rough = window.margin_db(self.scene.straight(emitter, window) + self.scene.bounced(lit, window));
        let close = [NEVER_DB, BARELY_DB, REACHES_DB].into_iter().any(|asked| (rough - asked).abs() < NEAR_DB);
        if close { window.margin_db(self.scene.irradiance(emitter, window, FINE)) } else { rough }
    }
}

/// A margin as the plan has it, and with every door open.
fn hears(as_it_is_db: f64, open_db: f64) -> Hears {
    if as_it_is_db >= REACHES_DB {
        Hears::Surely
    } else if open_db.max(as_it_is_db) < NEVER_DB {
        Hears::SurelyNot
    } else {
        Hears::Maybe
    }
}

/// The room with these screens down: as the plan has its doors, and with every door open.
struct Stood {
    as_it_is: Sent,
    open: Option<Sent>,
}

impl Stood {
    fn of(site: &Site, room: RoomId, down: &[DeviceId]) -> Self {
        let posture = |open| Posture { down: down.iter().map(|&screen| (screen, 1.0)).collect(), open };
        let doors = site.room(room).is_some_and(|own| own.floor.cupboards.iter().any(|own| own.closed));
        let sent = |open| Sent::of(site, room, &posture(open));
        Self { as_it_is: sent(false), open: doors.then(|| sent(true)) }
    }

    fn hears(&self, place: usize, window: &Window) -> (Hears, f64) {
        let own = self.as_it_is.margin(place, window);
        let open = self.open.as_ref().map_or(own, |open| open.margin(place, window));
        (hears(own, open), own)
    }
}

fn worked_out(site: &Site, room: RoomId) -> Ears {
    if !is_drawn(site, room) {
        return Ears::default();
    }
    let screens: Vec<DeviceId> = screens(site, room).map(|(own, _)| own.device).collect();
    let up = Stood::of(site, room, &[]);
    let down: Vec<(DeviceId, Stood)> =
        screens.iter().map(|&screen| (screen, Stood::of(site, room, &[screen]))).collect();
    let all_down = (screens.len() > 1).then(|| Stood::of(site, room, &screens));
    let mut ears = Ears::default();
    for own in placed(site, room) {
        let Some(window) = optics(site, own.device).and_then(|optics| optics.hears).map(|hears| own.window(&hears))
        else {
            continue;
        };
        for (place, (gateway, ..)) in
            up.as_it_is.boxes.iter().enumerate().filter(|(_, own_box)| own_box.0 != own.device)
        {
            let (heard_up, up_db) = up.hears(place, &window);
            let lowered: Vec<(DeviceId, Hears, f64)> = down
                .iter()
                .map(|(screen, stood)| {
                    let (heard, db) = stood.hears(place, &window);
                    (*screen, heard, db)
                })
                .collect();
            let lowered_db = lowered.iter().map(|(screen, _, db)| (*screen, *db)).collect();
            // Light that a lowered screen throws back helps nobody to be sure: what counts is that it hears less.
            let mut less: Vec<(DeviceId, Hears)> = lowered
                .into_iter()
                .filter(|(_, heard, _)| *heard > heard_up)
                .map(|(screen, heard, _)| (screen, heard))
                .collect();
            if let Some(all) = &all_down {
                let worst = less.iter().map(|(_, heard)| *heard).max().unwrap_or(heard_up);
                if all.hears(place, &window).0 > worst {
                    // Only together they cut it off: each of them may.
                    less = screens.iter().map(|&screen| (screen, Hears::Maybe)).collect();
                }
            }
            ears.of
                .insert((*gateway, own.device), Ear { heard: Heard { up: heard_up, down: less }, up_db, lowered_db });
        }
    }
    ears
}

/// Does a frame of a gateway arrive at a device while the room really stands like this? In a room without a plan it does;
/// what is not placed, or of which nothing is known, takes the benefit of the doubt.
#[must_use]
pub fn arrives(
    site: &Site,
    room: RoomId,
    gateway: DeviceId,
    device: DeviceId,
    medium: Medium,
    posture: &Posture,
) -> bool {
    match medium {
        Medium::Ir if is_drawn(site, room) && !by_lead(site, gateway, device) => {
            // At rest it is as it is for plans and proofs; half-way down it is worked out.
            let lowered: Vec<(DeviceId, f64)> =
                posture.down.iter().map(|(&screen, &down)| (screen, down)).filter(|(_, down)| *down > 0.02).collect();
            let ears = ears(site, room);
            let margin = match (ears.of.get(&(gateway, device)), &lowered[..]) {
                (Some(ear), []) => Some(ear.up_db),
                (Some(ear), [(screen, down)]) if *down > 0.98 => {
                    let own = ear.lowered_db.iter().find(|(known, _)| known == screen);
                    Some(own.map_or(ear.up_db, |(_, db)| *db))
                }
                _ => None,
            };
            if let Some(margin) = margin.filter(|_| !posture.open) {
                return margin >= BARELY_DB;
            }
            let here = site.device(gateway).is_some_and(|own| own.room == room);
            let emitter = place_of(site, gateway).filter(|_| here);
            let emitter = emitter.zip(optics(site, gateway).and_then(|own| own.emits));
            let window = place_of(site, device).zip(optics(site, device).and_then(|own| own.hears));
            let (Some((from, emits)), Some((at, hears))) = (emitter, window) else { return true };
            let (emitter, window) = (from.emitter(&emits), at.window(&hears));
            let fine = scene(site, room, posture).irradiance(&emitter, &window, ROUGH);
            window.margin_db(fine) >= BARELY_DB
        }
        Medium::Rf433 => radio_db(site, gateway, device).is_none_or(|margin| margin >= BARELY_DB),
        _ => true,
    }
}
