//! A house as the page shows it, and what a change did to it.

use chrono::{DateTime, Utc};
use kestrel_core::codes::{CodeState, state_of};
use kestrel_core::edit::{EntityKey, EntityKind, find};
use kestrel_core::id::{CodeId, CodeSetId, DeviceId, FunctionId, HouseId, PictureId, RoomId};
use kestrel_core::model::{
    Accepted, Activity, Code, CodeSet, Connection, Cue, DescribedProtocol, Device, DeviceKind, Entity, FloorPlan,
    House, InRoom, List, Measurement, Medium, Order, Placed, Press, Profile, Room, RoomCard, RoomLight, RoomPlans,
    Site, Story, Surface, TestResult, Tested, Voice,
};
use kestrel_store::{HistoryStep, LogKind, Saved, Snapshot};
use serde::Serialize;
use std::borrow::Cow;
use std::collections::{BTreeMap, HashMap};
use utoipa::ToSchema;
use uuid::Uuid;

/// A code without its capture: enough for a table.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CodeLine {
    /// Its id.
    pub id: CodeId,
    /// The device.
    pub device: DeviceId,
    /// The function.
    pub function: FunctionId,
    /// How far it is proved.
    pub state: CodeState,
    /// On what it is sent.
    pub medium: Medium,
    /// Is it the one that is sent, where a function has several?
    pub preferred: bool,
    /// When it was captured or entered, in UTC.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub since: Option<jiff::Timestamp>,
    /// What the last test showed.
    pub tested: Option<Tested>,
    /// What is sent, in words.
    pub summary: String,
    /// How long one press lasts, in ms.
    pub send_ms: u32,
}

/// Codes of a site as lines of a table.
fn code_lines<'a>(site: &'a Site, codes: impl Iterator<Item = &'a Code>) -> Vec<CodeLine> {
    let mut number: HashMap<(DeviceId, FunctionId), u32> = HashMap::new();
    for code in &site.codes {
        *number.entry((code.device, code.function)).or_default() += 1;
    }
    // Two cells hold thousands of functions in a large house: each profile's are looked up once.
    let functions: HashMap<FunctionId, (Press, Option<u32>)> =
        site.profiles.iter().flat_map(|p| &p.functions).map(|f| (f.id, (f.press, f.frames))).collect();
    let line = |code: &Code| {
        let alone = number.get(&(code.device, code.function)) == Some(&1);
        let (press, frames) = functions.get(&code.function).copied().unwrap_or_default();
        line_of(code, alone || is_sent(site, code), press, frames)
    };
    codes.map(line).collect()
}

/// A code set without its codes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct SetLine {
    /// Its id.
    pub id: CodeSetId,
    /// What it is called.
    pub name: String,
    /// What kind of device it is for, where known.
    pub kind: Option<DeviceKind>,
    /// Where it comes from.
    pub source: String,
    /// The names of its functions.
    pub functions: Vec<String>,
    /// Does it ship with the product?
    pub shipped: bool,
}

impl From<&CodeSet> for SetLine {
    fn from(set: &CodeSet) -> Self {
        Self {
            id: set.id,
            name: set.name.clone(),
            kind: set.kind,
            source: set.source.clone(),
            functions: set.keys.iter().map(|key| key.name.clone()).collect(),
            shipped: false,
        }
    }
}

/// What follows from a device and its model.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Behaves {
    /// The rooms that it serves.
    pub serves: Vec<RoomId>,
    /// Its model with its own fields in place; none where it has none of its own.
    pub own: Option<Profile>,
}

fn behaves(site: &Site, device: &Device) -> (DeviceId, Behaves) {
    let own = site.profile_of(device.id).filter(|_| !device.overrides.is_empty());
    (device.id, Behaves { serves: device.rooms().to_vec(), own: own.map(Cow::into_owned) })
}

/// A house as the page shows it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct HouseView {
    /// The house.
    pub house: House,
    /// Its rooms, in order.
    #[schema(value_type = Vec<Room>)]
    pub rooms: List<Room>,
    /// Its profiles.
    #[schema(value_type = Vec<Profile>)]
    pub profiles: List<Profile>,
    /// Its devices, in order.
    #[schema(value_type = Vec<Device>)]
    pub devices: List<Device>,
    /// For every device, how it behaves and whom it serves.
    #[schema(value_type = BTreeMap<String, Behaves>)]
    pub behaves: BTreeMap<DeviceId, Behaves>,
    /// Its cables.
    #[schema(value_type = Vec<Connection>)]
    pub connections: List<Connection>,
    /// Its codes.
    pub codes: Vec<CodeLine>,
    /// Its code sets.
    pub code_sets: Vec<SetLine>,
    /// Its activities, in order.
    #[schema(value_type = Vec<Activity>)]
    pub activities: List<Activity>,
    /// Protocols that its people have described.
    #[schema(value_type = Vec<DescribedProtocol>)]
    pub protocols: List<DescribedProtocol>,
    /// Where its devices stand.
    #[schema(value_type = Vec<Placed>)]
    pub placed: List<Placed>,
    /// What the stopwatch said.
    #[schema(value_type = Vec<Measurement>)]
    pub measurements: List<Measurement>,
    /// The last result of each test, without what it rests on.
    pub results: Vec<TestResult>,
    /// What is missing.
    #[schema(value_type = Vec<Order>)]
    pub orders: List<Order>,
    /// For every entity, the version that an edit has to name as its base. Its key is the entity's id; `light:`, `voice:` or
    /// `plans:` and the room's id, where there is one of it a room.
    pub versions: BTreeMap<String, i64>,
    /// How many changes there have been.
    pub revision: i64,
    /// What undo would take back.
    pub undo: Option<HistoryStep>,
    /// What redo would make again.
    pub redo: Option<HistoryStep>,
}

impl From<&Snapshot> for HouseView {
    fn from(snapshot: &Snapshot) -> Self {
        let site = &snapshot.site;
        Self {
            house: site.house.clone(),
            rooms: site.rooms.clone(),
            profiles: site.profiles.clone(),
            devices: site.devices.clone(),
            behaves: site.devices.iter().map(|device| behaves(site, device)).collect(),
            connections: site.connections.clone(),
            codes: code_lines(site, site.codes.iter()),
            code_sets: site.code_sets.iter().map(SetLine::from).collect(),
            activities: site.activities.clone(),
            measurements: site.measurements.clone(),
            results: site.results.iter().cloned().map(TestResult::without_facts).collect(),
            orders: site.orders.clone(),
            protocols: site.protocols.clone(),
            placed: site.placed.clone(),
            versions: snapshot.versions.iter().map(|(key, version)| (key.to_string(), *version)).collect(),
            revision: snapshot.revision,
            undo: snapshot.undo.clone(),
            redo: snapshot.redo.clone(),
        }
    }
}

/// An entity as the page keeps it: codes without their captures, pictures without their bytes.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "entity", content = "value")]
#[allow(missing_docs, clippy::large_enum_variant, reason = "named as the entities are; a few at a time")]
pub enum EntityView {
    House(House),
    Room(RoomCard),
    Profile(Profile),
    Device(Device),
    Connection(Connection),
    Code(CodeLine),
    Activity(Activity),
    CodeSet(SetLine),
    Light(RoomLight),
    Cue(InRoom<Cue>),
    Surface(InRoom<Surface>),
    Story(InRoom<Story>),
    Voice(InRoom<Voice>),
    Plans(InRoom<RoomPlans>),
    Floor(InRoom<FloorPlan>),
    Protocol(DescribedProtocol),
    Placed(Placed),
    Accepted(InRoom<Accepted>),
    Picture(PictureLine),
    Measurement(Measurement),
    Result(TestResult),
    Order(Order),
}

/// A picture without its bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct PictureLine {
    /// Its id.
    pub id: PictureId,
}

/// An entity that a change put in its place.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Put {
    /// Its key in `versions`; none where only its line of the table has changed.
    pub key: Option<String>,
    /// Its version from now on; 0 where only its line of the table has changed.
    pub version: i64,
    /// What it is now.
    #[serde(flatten)]
    pub entity: EntityView,
}

/// An entity that a change took away.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Taken {
    /// Its key in `versions`.
    pub key: String,
    /// Its kind.
    pub kind: EntityKind,
    /// Its id; that of its room, where there is one of it a room.
    pub id: Uuid,
}

/// What a change did to a house.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Changed {
    /// The house.
    pub house: HouseId,
    /// Its revision after the change.
    pub revision: i64,
    /// What is as it says now.
    pub put: Vec<Put>,
    /// What is gone.
    pub taken: Vec<Taken>,
    /// How devices behave that are changed, or whose model is.
    #[schema(value_type = BTreeMap<String, Behaves>)]
    pub behaves: BTreeMap<DeviceId, Behaves>,
    /// What undo would take back.
    pub undo: Option<HistoryStep>,
    /// What redo would make again.
    pub redo: Option<HistoryStep>,
}

/// What a request did.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SavedView {
    /// What happened, in words.
    pub title: String,
    /// The thing that was made, where the request made one.
    pub made: Option<Uuid>,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// Was this request carried out before, and its answer lost on the way?
    pub again: bool,
    /// What it changed.
    pub changed: Changed,
}

/// Tells open pages that a house has changed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Edited {
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// Who.
    pub who: String,
    /// The page that asked for it, as it named itself; empty where it did not.
    pub page: String,
    /// What kind of change.
    pub kind: LogKind,
    /// What happened, in words.
    pub title: String,
    /// What it changed.
    pub changed: Changed,
}

impl From<&Saved> for Changed {
    fn from(saved: &Saved) -> Self {
        let (before, after) = (&saved.before.site, &saved.snapshot);
        let mut changed = Self {
            house: after.site.house.id,
            revision: after.revision,
            put: vec![],
            taken: vec![],
            behaves: BTreeMap::new(),
            undo: after.undo.clone(),
            redo: after.redo.clone(),
        };
        for &key in &saved.touched {
            match find(&after.site, key).map(|entity| view(&after.site, entity)) {
                Some(entity) => changed.put.push(Put {
                    key: Some(key.to_string()),
                    version: after.versions.get(&key).copied().unwrap_or(after.revision),
                    entity,
                }),
                None => changed.taken.push(Taken { key: key.to_string(), kind: key.kind, id: key.id }),
            }
        }
        let is = |kind, id| saved.touched.binary_search(&EntityKey { kind, id }).is_ok();
        let devices = after.site.devices.iter();
        let affected = devices.filter(|own| is(EntityKind::Device, own.id.0) || is(EntityKind::Profile, own.profile.0));
        changed.behaves = affected.map(|device| behaves(&after.site, device)).collect();
        let lines = other_lines(before, &after.site, &saved.touched);
        changed.put.extend(lines.into_iter().map(|line| Put { key: None, version: 0, entity: EntityView::Code(line) }));
        changed
    }
}

fn view(site: &Site, entity: Entity) -> EntityView {
    match entity {
        Entity::House(e) => EntityView::House(e),
        Entity::Room(e) => EntityView::Room(e),
        Entity::Profile(e) => EntityView::Profile(e),
        Entity::Device(e) => EntityView::Device(e),
        Entity::Connection(e) => EntityView::Connection(e),
        Entity::Code(e) => EntityView::Code(code_line(site, &e)),
        Entity::Activity(e) => EntityView::Activity(e),
        Entity::CodeSet(e) => EntityView::CodeSet(SetLine::from(&e)),
        Entity::Light(e) => EntityView::Light(e),
        Entity::Cue(e) => EntityView::Cue(e),
        Entity::Surface(e) => EntityView::Surface(e),
        Entity::Story(e) => EntityView::Story(e),
        Entity::Voice(e) => EntityView::Voice(e),
        Entity::Plans(e) => EntityView::Plans(e),
        Entity::Floor(e) => EntityView::Floor(e),
        Entity::Protocol(e) => EntityView::Protocol(e),
        Entity::Placed(e) => EntityView::Placed(e),
        Entity::Accepted(e) => EntityView::Accepted(e),
        Entity::Picture(e) => EntityView::Picture(PictureLine { id: e.id }),
        Entity::Measurement(e) => EntityView::Measurement(e),
        Entity::Result(e) => EntityView::Result(e.without_facts()),
        Entity::Order(e) => EntityView::Order(e),
    }
}

/// The line of one code, which is one of the site.
fn code_line(site: &Site, code: &Code) -> CodeLine {
    let profile = site.model_of(code.device);
    let function = profile.and_then(|profile| profile.function(code.function));
    let (press, frames) = function.map(|function| (function.press, function.frames)).unwrap_or_default();
    line_of(code, is_sent(site, code), press, frames)
}

/// Is it the code that is sent for its function?
fn is_sent(site: &Site, code: &Code) -> bool {
    site.code(code.device, code.function).map(|known| known.id) == Some(code.id)
}

fn line_of(code: &Code, preferred: bool, press: Press, frames: Option<u32>) -> CodeLine {
    CodeLine {
        id: code.id,
        device: code.device,
        function: code.function,
        state: state_of(Some(code)),
        medium: code.body.medium(),
        preferred,
        since: code.since,
        tested: code.tested.clone(),
        summary: code.body.to_string(),
        send_ms: code.body.send_ms(press, frames),
    }
}

/// Lines of codes that have changed although the codes have not: another code of the function is sent now, the device
/// has other paths, or its model another press.
fn other_lines(before: &Site, after: &Site, touched: &[EntityKey]) -> Vec<CodeLine> {
    let is = |kind: EntityKind, id: Uuid| touched.binary_search(&EntityKey { kind, id }).is_ok();
    let everywhere = touched.iter().any(|key| key.kind == EntityKind::House);
    let code_devices: Vec<DeviceId> = touched
        .iter()
        .filter(|key| key.kind == EntityKind::Code)
        .filter_map(|key| {
            let code = |site: &Site| site.codes.iter().find(|code| code.id.0 == key.id).map(|code| code.device);
            code(after).or_else(|| code(before))
        })
        .collect();
    let devices: Vec<&Device> = after
        .devices
        .iter()
        .filter(|device| {
            let own = is(EntityKind::Device, device.id.0) || is(EntityKind::Profile, device.profile.0);
            own || everywhere || code_devices.contains(&device.id)
        })
        .collect();
    if devices.is_empty() {
        return vec![];
    }
    let mine = |code: &&Code| devices.iter().any(|device| device.id == code.device) && !is(EntityKind::Code, code.id.0);
    let known: HashMap<CodeId, CodeLine> =
        code_lines(before, before.codes.iter().filter(mine)).into_iter().map(|line| (line.id, line)).collect();
    let mut lines = code_lines(after, after.codes.iter().filter(mine));
    lines.retain(|line| known.get(&line.id) != Some(line));
    lines
}
