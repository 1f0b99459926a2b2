//! Every kind of finding, with the facts that it rests on. Two findings are the same where kind and facts are.

use super::{Gesture, Medium, PathClass, Situation, TestEffect};
use crate::id::{ActivityId, ConnectionId, CueId, DeviceId, FunctionId, KeyId, RoomId, SurfaceId, ZoneId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What was found, with its facts. Text, weight and place are made from it in [`crate::finding`] and nowhere else.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "kind")]
#[allow(missing_docs, reason = "fields are named as what they are: ids, names, figures with their unit")]
pub enum FindingKind {
    // Kit: cables.
    /// Two cables go into one input.
    CablesIntoOne { connection: ConnectionId },
    /// Two cables come out of one output.
    CablesOutOfOne { connection: ConnectionId },
    /// A plug that does not fit.
    WrongPlug { connection: ConnectionId },
    /// Cables in a circle: of sound, or of power where `power` is set.
    CableLoop { device: DeviceId, power: bool },
    /// A source that is wired to nothing.
    NotWired { device: DeviceId },
    /// A source whose cables end before anything that shows or sounds.
    Unreachable { device: DeviceId },
    /// Sound that comes by two ways.
    SoundTwice { connection: ConnectionId },
    /// A cable that carries a picture one way and sound the other.
    UsedBothWays { connection: ConnectionId, forward: ActivityId, back: ActivityId },
    // Kit: ways of control.
    /// Reached by Bluetooth alone.
    BluetoothOnly { device: DeviceId },
    /// Its gateway does not send on its medium.
    WrongGateway { device: DeviceId, gateway: DeviceId, medium: Medium },
    /// Its gateway stands in another room.
    OutOfSight { device: DeviceId, gateway: DeviceId },
    /// Nothing reaches it.
    NoGateway { device: DeviceId, medium: Medium },
    /// A path that stands earlier in the house's order is set up and not used.
    BetterPath { device: DeviceId, used: PathClass, better: PathClass, why: String },
    /// It makes heat.
    Heat { device: DeviceId },
    /// Two rooms want different inputs of one device.
    RoomsClash { device: DeviceId, mine: ActivityId, room: RoomId, other: ActivityId },
    /// A source that plays for two rooms.
    RoomsShare { device: DeviceId, mine: ActivityId, room: RoomId, other: ActivityId },
    // Kit: addresses.
    /// No IP address.
    MalformedAddress { device: DeviceId, ip: String },
    /// An address that no device can have.
    UnusableAddress { device: DeviceId, ip: String },
    /// Two devices at one address.
    SameAddress { device: DeviceId, other: DeviceId, ip: String },
    /// No MAC address.
    MalformedMac { device: DeviceId, problem: String },
    /// Two devices with one MAC address.
    SameMac { device: DeviceId, other: DeviceId, mac: String },
    /// Controlled over the network, and nobody knows where.
    NoAddress { device: DeviceId },
    /// A plan speaks to it on the network, and nobody knows its address.
    NowhereToSend { device: DeviceId },
    /// An address that can change.
    NotReserved { device: DeviceId, ip: String },
    /// Woken over the network without a MAC address.
    NoMac { device: DeviceId },
    /// A radio for another band.
    WrongBand { device: DeviceId },
    /// A reading of the house outside the interval in use.
    ReadingOutside { device: DeviceId, timing: super::Timing, count: u32, lo_ms: u32, hi_ms: u32 },
    /// Tests that failed in the house, and nothing came of it.
    FailedInHouse { room: RoomId, count: u32, first: super::TestOf },
    /// A house that was handed over, and edited since.
    ChangedSince { number: i32, count: u32 },
    /// A device that no gateway of its room reaches by infrared, where it stands.
    OutOfReach { device: DeviceId, gateway: DeviceId },
    /// A device that is barely reached; the margin is in tenths of a dB.
    BarelyReached { device: DeviceId, gateway: DeviceId, tenths_db: i16 },
    /// A device that is not reached while a screen is down.
    BehindScreen { device: DeviceId, gateway: DeviceId },
    /// A device to which nothing of what its gateway sends arrives, however the room stands.
    NothingArrives { device: DeviceId, gateway: DeviceId },
    /// A device in a room with a plan of which nobody knows whether it hears its gateway: it is not placed, or its model has no
    /// figures for its window.
    ReachUnknown { device: DeviceId, placed: bool },
    /// A gateway whose radio a receiver hears together with that of another room's.
    RadiosMeet { device: DeviceId, other: DeviceId, heard_by: DeviceId },
    /// A projector that is not square to its picture, in degrees.
    Keystone { device: DeviceId, deg: u32 },
    /// A top edge that the front row looks up to too steeply, in degrees.
    TooSteep { device: DeviceId, seat: String, deg: u32 },
    /// A projector whose spot does not fit its lens.
    LensDoesNotFit { device: DeviceId, why: String },
    /// Seats that do not see the bottom edge of the picture; by how much, in cm.
    EdgeHidden { device: DeviceId, seats: Vec<String>, cm: u32 },
    /// A cable that is too long for its kind, in tenths of a m, and how long it may be in m.
    CableLong { connection: ConnectionId, tenths_m: u32, most_m: u32 },
    /// White that is below cinema white, in cd/m².
    TooDim { device: DeviceId, white: u32 },
    /// A time that nobody measured.
    Assumed { device: DeviceId, time: AssumedTime, lo_ms: u32, hi_ms: u32 },
    // Codes.
    /// Two devices react to one code.
    BothReact { device: DeviceId, function: FunctionId, other: DeviceId, other_function: FunctionId, code: String },
    /// Two functions that differ in the toggle bit alone.
    ToggleNotTwo { device: DeviceId, function: FunctionId, first: FunctionId, code: String },
    /// Two functions with one code.
    SameCode { device: DeviceId, function: FunctionId, first: FunctionId, code: String },
    /// On and off do each other's work.
    Swapped { device: DeviceId, function: Option<FunctionId>, certain: bool, why: String },
    /// A test that failed.
    TestFailed { device: DeviceId, function: FunctionId, effect: TestEffect, note: String },
    /// A function that a plan needs has no code.
    CodeMissing { device: DeviceId, function: FunctionId },
    // Sequences.
    /// An activity that is gone.
    NoActivity,
    /// No cable brings the picture, or the sound, there.
    NoPath { activity: ActivityId, source: DeviceId, sink: DeviceId, picture: bool },
    /// One device would need two inputs at once.
    TwoInputs { activity: ActivityId, device: DeviceId },
    /// A device that does not serve the room.
    Elsewhere { activity: ActivityId, device: DeviceId },
    /// A setting that nothing carries out.
    SettingLeftOut { activity: ActivityId, device: DeviceId, mode: String, value: String, known: bool },
    /// An app that the source does not know.
    NoSuchApp { activity: ActivityId, source: DeviceId, app: String },
    /// A display behind a screen that is down.
    Hidden { activity: ActivityId, display: DeviceId, screen: DeviceId },
    /// Infrared that a screen cuts off.
    CutOff { device: DeviceId, screen: DeviceId },
    /// No sequence of keys is right from every state.
    NoSafeWay { device: DeviceId, wish: String, why: NoWay },
    /// Rules and pinned times that exclude each other.
    OrderNotKept,
    /// A pause by hand that is shorter than the evidence.
    ShorterThanEvidence { device: DeviceId, function: FunctionId, ms: u32, evidence_ms: u32 },
    /// A pause by hand in which a list closes.
    LongerThanList { device: DeviceId, function: FunctionId, ms: u32, closes_ms: u32 },
    /// Something moves.
    KeepClear { device: DeviceId, stop: bool },
    /// A cell of the matrix that can end wrong.
    AtRisk { from: Situation, to: Situation, device: DeviceId, story: String },
    /// A device of two rooms that want it in different states.
    WantedTwice { device: DeviceId, room: RoomId, here: String, there: String },
    // Staying in step.
    /// Two situations that look the same.
    LooksAlike { one: Situation, other: Situation },
    /// Two inputs that are reported by one name.
    OneName { device: DeviceId, name: String, inputs: Vec<String> },
    // Cues.
    /// Two cues that set one zone at the same moment.
    Fight { cue: CueId, other: CueId, on: Option<String>, zone: Option<Disagreement> },
    /// A cue that never fires.
    NeverFires { cue: CueId, why: String },
    /// Cues that lead to each other.
    Ring { cues: Vec<CueId> },
    /// A mode switch that nothing sets back.
    NeverReset { room: RoomId, switch: String },
    /// Nobody has said what lights the way out.
    NoWayOut,
    /// A cue that leaves the way dark; on arrival in the activity, or on the way out.
    Dark { cue: CueId, zone: ZoneId, percent: u8, least_percent: u8, walk_s: u32, arrival: Option<ActivityId> },
    /// A cue that lights the way too slowly.
    SlowLight { cue: CueId, zone: ZoneId, fade_ms: u32 },
    /// No cue lights the way out.
    NothingLit { zone: ZoneId, least_percent: u8 },
    /// Light that can change more than three times a second.
    Flash { cue: CueId, other: CueId, zone: ZoneId },
    /// A zone that nothing dims.
    NoDimmer { zone: ZoneId },
    /// A level at which the lamp drops out.
    BelowFloor { look: String, zone: ZoneId, percent: u8, floor_percent: u8 },
    /// A voice that is suddenly loud.
    Loud { cue: CueId, device: DeviceId, percent: u8, over_ceiling: bool },
    /// Heat that a schedule starts.
    UnattendedHeat { cue: CueId, device: DeviceId },
    /// Movement that a schedule starts, of a device or with an activity.
    UnattendedMovement { cue: CueId, device: Option<DeviceId>, activity: Option<ActivityId> },
    /// Levels that the household has stored.
    LookToReview { look: String, by: String },
    // Surfaces.
    /// A key without a meaning.
    KeyDoesNothing { surface: SurfaceId, key: KeyId },
    /// A key without a meaning in some activities.
    Idle { surface: SurfaceId, key: KeyId, activities: Vec<ActivityId> },
    /// One gesture that means two things.
    TwoMeanings { surface: SurfaceId, key: KeyId, gesture: Gesture },
    /// A key that goes on while it is held and means something else for a hold.
    HeldTwice { surface: SurfaceId, key: KeyId },
    /// A key with a cue of its own.
    CueToo { surface: SurfaceId, key: KeyId, gesture: Gesture },
    /// A double tap that delays taps.
    SlowTap { surface: SurfaceId, key: KeyId },
    /// A key that fingers miss, in tenths of a mm.
    SmallKey { surface: SurfaceId, key: KeyId, wide_tenths: u32, high_tenths: u32, least_tenths: u32 },
    /// A label that cannot be read; contrasts in tenths.
    FaintLabel { surface: SurfaceId, key: KeyId, contrast_tenths: u32, least_tenths: u32 },
    /// A label that does not fit.
    LabelTooLong { surface: SurfaceId, key: KeyId, letters: u32, lines: u32 },
    /// A label that says something else than the key does.
    LabelSaysOtherwise { surface: SurfaceId, key: KeyId, does: String },
    /// Something that moves and cannot be stopped from the same page.
    NoStop { surface: SurfaceId, page: String, device: DeviceId, known: bool },
    /// An activity without a key.
    ActivityWithoutKey { surface: SurfaceId, activity: ActivityId },
    /// A key that a guest would ask about.
    GuestAsks { surface: SurfaceId, activity: ActivityId, key: KeyId, label: String, why: String },
    /// An activity that a guest does not reach.
    GuestStuck { surface: SurfaceId, activity: ActivityId, missing: String },
    /// Functions of old remotes that have no key.
    LessThanBefore { surface: SurfaceId, missing: Vec<MissingFunctions> },
    /// Hard keys that do nothing.
    DeadKeys { surface: SurfaceId, keys: Vec<String> },
    /// Spoken names that collide.
    NamesCollide { room: RoomId, name: String, with: String, why: Likeness, instead: Option<String> },
    /// The voice service knows other phrases.
    NotSynced { room: RoomId, fresh: usize, gone: usize },
    /// Accepted before findings had kinds, when a title and a sentence were compared. It matches nothing.
    Earlier { title: String, text: String },
}

/// A time of a device.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[allow(missing_docs, reason = "named as what they are")]
pub enum AssumedTime {
    WarmUp,
    CoolDown,
    Input,
    TravelUp,
    TravelDown,
}

/// Why no sequence of keys leads somewhere.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "is")]
pub enum NoWay {
    /// Proved: these states together have none, in words; each smaller part has one.
    Proved {
        /// The states; none where only all of them together say so.
        states: Vec<String>,
        /// Is every smaller part of them harmless, as far as was proved?
        minimal: bool,
    },
    /// The search was given up.
    GaveUp {
        /// After so many sets of states.
        sets: usize,
    },
}

/// How two spoken names resemble each other.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[allow(missing_docs, reason = "named as what they are")]
pub enum Likeness {
    Same,
    SoundsAlike,
    Contained,
}

/// A zone that two cues set differently.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Disagreement {
    /// Which.
    pub zone: ZoneId,
    /// The level of the one, in %.
    pub percent: u8,
    /// The level of the other, in %.
    pub other_percent: u8,
}

/// Functions of a device that have no key.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct MissingFunctions {
    /// Of which device.
    pub device: DeviceId,
    /// By name.
    pub functions: Vec<String>,
}
