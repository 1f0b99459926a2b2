//! What the engine has found about a house: the notes in the margin.

pub mod words;

use crate::id::{ActivityId, ConnectionId, CueId, DeviceId, FunctionId, KeyId, SurfaceId};
use crate::model::{FindingKind, Site, Situation};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How much a finding matters. The order is that of the margin, worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Weight {
    /// Someone can be hurt.
    Hazard,
    /// It will not work.
    Stops,
    /// It may not work.
    Caution,
    /// Worth knowing.
    Remark,
}

/// Which stage of the work mends it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Stage {
    /// Devices and wiring.
    Kit,
    /// Commands.
    Codes,
    /// Activities and plans.
    Sequences,
    /// Light that follows.
    Cues,
    /// What people press.
    Surfaces,
    /// The room that answers.
    Rehearse,
    /// The visit, and what comes after it.
    Handover,
}

/// Where a finding is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Place {
    /// The stage that mends it.
    pub stage: Stage,
    /// The device, if it is about one.
    pub device: Option<DeviceId>,
    /// The function, if it is about one.
    pub function: Option<FunctionId>,
    /// The cable, if it is about one.
    pub connection: Option<ConnectionId>,
    /// The activity, if it is about one.
    pub activity: Option<ActivityId>,
    /// The line of the cue sheet, if it is about one.
    pub cue: Option<CueId>,
    /// The surface, if it is about one.
    pub surface: Option<SurfaceId>,
    /// The key of a surface, if it is about one.
    pub key: Option<KeyId>,
}

impl Place {
    /// On a stage, nowhere in particular.
    #[must_use]
    pub const fn on(stage: Stage) -> Self {
        Self {
            stage,
            device: None,
            function: None,
            connection: None,
            activity: None,
            cue: None,
            surface: None,
            key: None,
        }
    }

    /// At a device.
    #[must_use]
    pub const fn device(mut self, device: DeviceId) -> Self {
        self.device = Some(device);
        self
    }

    /// At a function.
    #[must_use]
    pub const fn function(mut self, function: FunctionId) -> Self {
        self.function = Some(function);
        self
    }

    /// At a cable.
    #[must_use]
    pub const fn connection(mut self, connection: ConnectionId) -> Self {
        self.connection = Some(connection);
        self
    }

    /// At a line of the cue sheet.
    #[must_use]
    pub const fn cue(mut self, cue: CueId) -> Self {
        self.cue = Some(cue);
        self
    }

    /// At a surface.
    #[must_use]
    pub const fn surface(mut self, surface: SurfaceId) -> Self {
        self.surface = Some(surface);
        self
    }

    /// At a key of a surface.
    #[must_use]
    pub const fn key(mut self, key: KeyId) -> Self {
        self.key = Some(key);
        self
    }

    /// At an activity.
    #[must_use]
    pub const fn activity(mut self, activity: ActivityId) -> Self {
        self.activity = Some(activity);
        self
    }
}

/// One finding: a sentence with its reason, and where to mend it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Finding {
    /// What was found, with its facts.
    pub kind: FindingKind,
    /// How much it matters.
    pub weight: Weight,
    /// One or two words that name the kind.
    pub title: String,
    /// What was found, why, and what to do.
    pub text: String,
    /// Where.
    pub place: Place,
    /// Why somebody has accepted it; none where nobody has.
    pub accepted: Option<String>,
}

impl Finding {
    /// What was found, in the words of this house.
    #[must_use]
    pub fn of(site: &Site, kind: FindingKind) -> Self {
        let (weight, title) = weight_and_title(&kind);
        Self {
            weight,
            title: title.to_owned(),
            text: words::text(site, &kind),
            place: place(site, &kind),
            accepted: None,
            kind,
        }
    }

    /// The device for which there is no safe way, if this says so.
    #[must_use]
    pub fn no_safe_way(&self) -> Option<DeviceId> {
        match self.kind {
            FindingKind::NoSafeWay { device, .. } => Some(device),
            _ => None,
        }
    }
}

/// How much a kind matters, and the one or two words that name it.
#[must_use]
pub fn weight_and_title(kind: &FindingKind) -> (Weight, &'static str) {
    use FindingKind as K;
    use Weight::{Caution, Hazard, Remark, Stops};
    match kind {
        K::CablesIntoOne { .. } | K::CablesOutOfOne { .. } => (Stops, "Two cables"),
        K::WrongPlug { .. } => (Stops, "Wrong plug"),
        K::CableLoop { .. } => (Stops, "Loop"),
        K::NotWired { .. } => (Caution, "Not wired"),
        K::Unreachable { .. } => (Caution, "Unreachable"),
        K::SoundTwice { .. } => (Caution, "Sound twice"),
        K::UsedBothWays { .. } => (Caution, "Used both ways"),
        K::BluetoothOnly { .. } => (Caution, "Bluetooth only"),
        K::WrongGateway { .. } => (Stops, "Wrong gateway"),
        K::OutOfSight { .. } => (Stops, "Out of sight"),
        K::NoGateway { .. } => (Stops, "No gateway"),
        K::BetterPath { .. } => (Remark, "A better path"),
        K::Heat { .. } => (Hazard, "Heat"),
        K::RoomsClash { .. } => (Stops, "Two rooms, one device"),
        K::RoomsShare { .. } => (Caution, "Two rooms, one device"),
        K::MalformedAddress { .. } | K::UnusableAddress { .. } => (Stops, "Malformed address"),
        K::MalformedMac { .. } => (Caution, "Malformed address"),
        K::SameAddress { .. } => (Stops, "Same address"),
        K::SameMac { .. } => (Caution, "Same MAC address"),
        K::NoAddress { .. } => (Caution, "No address"),
        K::NowhereToSend { .. } => (Stops, "No address"),
        K::NotReserved { .. } => (Caution, "Not reserved"),
        K::NoMac { .. } => (Stops, "No MAC address"),
        K::WrongBand { .. } => (Stops, "Wrong band"),
        K::Assumed { .. } => (Caution, "Assumed"),
        K::OutOfReach { .. } => (Caution, "Not reached"),
        K::BarelyReached { .. } => (Caution, "Barely reached"),
        K::BehindScreen { .. } => (Caution, "Hidden by the screen"),
        K::NothingArrives { .. } => (Stops, "Out of reach"),
        K::ReachUnknown { .. } => (Caution, "Reach not known"),
        K::RadiosMeet { .. } => (Remark, "Radios meet"),
        K::Keystone { .. } => (Caution, "Not square"),
        K::TooSteep { .. } => (Caution, "Too steep"),
        K::LensDoesNotFit { .. } => (Caution, "Does not fit the lens"),
        K::EdgeHidden { .. } => (Caution, "Bottom edge hidden"),
        K::TooDim { .. } => (Remark, "Too dim"),
        K::CableLong { .. } => (Remark, "Cable too long"),
        K::ReadingOutside { .. } => (Caution, "Outside its interval"),
        K::FailedInHouse { .. } => (Caution, "Failed in the house"),
        K::ChangedSince { .. } => (Remark, "Changed since"),
        K::BothReact { .. } => (Caution, "Both react"),
        K::ToggleNotTwo { .. } => (Caution, "A toggle, not two codes"),
        K::SameCode { .. } => (Caution, "Same code"),
        K::Swapped { certain, .. } => (if *certain { Stops } else { Caution }, "On and off swapped"),
        K::TestFailed { .. } => (Caution, "Test failed"),
        K::CodeMissing { .. } => (Stops, "Code missing"),
        K::NoActivity => (Stops, "No activity"),
        K::NoPath { .. } => (Stops, "No path"),
        K::TwoInputs { .. } => (Stops, "Two inputs"),
        K::Elsewhere { .. } => (Remark, "Elsewhere"),
        K::SettingLeftOut { .. } => (Caution, "Setting left out"),
        K::NoSuchApp { .. } => (Stops, "No such app"),
        K::Hidden { .. } => (Stops, "Hidden"),
        K::CutOff { .. } => (Caution, "Cut off"),
        K::NoSafeWay { .. } => (Stops, "No safe way"),
        K::OrderNotKept => (Caution, "Order not kept"),
        K::ShorterThanEvidence { .. } => (Caution, "Shorter than the evidence"),
        K::LongerThanList { .. } => (Caution, "Longer than the list"),
        K::KeepClear { .. } => (Hazard, "Keep clear"),
        K::AtRisk { .. } => (Caution, "At risk"),
        K::WantedTwice { .. } => (Caution, "Wanted twice"),
        K::LooksAlike { .. } => (Caution, "Looks alike"),
        K::OneName { .. } => (Caution, "One name for two inputs"),
        K::Fight { .. } => (Caution, "Two cues fight"),
        K::NeverFires { .. } => (Stops, "Never fires"),
        K::Ring { .. } => (Caution, "A ring of cues"),
        K::NeverReset { .. } => (Caution, "Never reset"),
        K::NoWayOut => (Hazard, "No way out named"),
        K::Dark { arrival: Some(_), .. } => (Hazard, "Dark arrival"),
        K::Dark { .. } | K::SlowLight { .. } | K::NothingLit { .. } => (Hazard, "Dark way out"),
        K::Flash { .. } => (Hazard, "Can flash"),
        K::NoDimmer { .. } => (Stops, "No dimmer"),
        K::BelowFloor { .. } => (Caution, "Below the lamp's floor"),
        K::Loud { .. } => (Hazard, "Sudden loudness"),
        K::UnattendedHeat { .. } => (Hazard, "Unattended heat"),
        K::UnattendedMovement { .. } => (Hazard, "Unattended movement"),
        K::LookToReview { .. } => (Remark, "Look to review"),
        K::KeyDoesNothing { .. } => (Caution, "Key does nothing"),
        K::Idle { .. } => (Remark, "Idle in an activity"),
        K::TwoMeanings { .. } | K::HeldTwice { .. } | K::CueToo { .. } => (Caution, "Two meanings"),
        K::SlowTap { .. } => (Caution, "Slow tap"),
        K::SmallKey { .. } => (Caution, "Small key"),
        K::FaintLabel { .. } => (Caution, "Faint label"),
        K::LabelTooLong { .. } => (Remark, "Label does not fit"),
        K::LabelSaysOtherwise { .. } => (Caution, "Label says otherwise"),
        K::NoStop { .. } => (Hazard, "Nothing to stop it"),
        K::ActivityWithoutKey { .. } => (Caution, "Activity without a key"),
        K::GuestAsks { .. } => (Remark, "A guest would ask"),
        K::GuestStuck { .. } => (Caution, "A guest gets stuck"),
        K::LessThanBefore { .. } => (Remark, "Less than before"),
        K::DeadKeys { .. } => (Remark, "Dead hard keys"),
        K::NamesCollide { .. } => (Caution, "Names collide"),
        K::NotSynced { .. } => (Remark, "Changed since last sync"),
        K::Earlier { .. } => (Remark, "Accepted earlier"),
    }
}

/// Where a kind is mended.
#[must_use]
pub fn place(site: &Site, kind: &FindingKind) -> Place {
    use FindingKind as K;
    let cable = |id: ConnectionId, from: bool| {
        let device = site.connections.iter().find(|known| known.id == id);
        let device = device.map(|known| if from { known.from_device } else { known.to_device });
        Place { device, ..Place::on(Stage::Kit).connection(id) }
    };
    match *kind {
        K::CablesIntoOne { connection } | K::CablesOutOfOne { connection } | K::WrongPlug { connection } => {
            cable(connection, false)
        }
        K::SoundTwice { connection } | K::UsedBothWays { connection, .. } | K::CableLong { connection, .. } => {
            cable(connection, true)
        }
        K::CableLoop { device, .. }
        | K::NotWired { device }
        | K::Unreachable { device }
        | K::BluetoothOnly { device }
        | K::WrongGateway { device, .. }
        | K::OutOfSight { device, .. }
        | K::NoGateway { device, .. }
        | K::BetterPath { device, .. }
        | K::Heat { device }
        | K::MalformedAddress { device, .. }
        | K::UnusableAddress { device, .. }
        | K::SameAddress { device, .. }
        | K::MalformedMac { device, .. }
        | K::SameMac { device, .. }
        | K::NoAddress { device }
        | K::NowhereToSend { device }
        | K::NotReserved { device, .. }
        | K::NoMac { device }
        | K::WrongBand { device }
        | K::Assumed { device, .. }
        | K::OutOfReach { device, .. }
        | K::BarelyReached { device, .. }
        | K::BehindScreen { device, .. }
        | K::NothingArrives { device, .. }
        | K::ReachUnknown { device, .. }
        | K::RadiosMeet { device, .. }
        | K::Keystone { device, .. }
        | K::TooSteep { device, .. }
        | K::LensDoesNotFit { device, .. }
        | K::EdgeHidden { device, .. }
        | K::TooDim { device, .. }
        | K::CutOff { device, .. }
        | K::KeepClear { device, .. } => Place::on(Stage::Kit).device(device),
        K::ReadingOutside { device, .. } => Place::on(Stage::Handover).device(device),
        K::FailedInHouse { .. } | K::ChangedSince { .. } => Place::on(Stage::Handover),
        K::RoomsClash { device, mine, .. } | K::RoomsShare { device, mine, .. } => {
            Place::on(Stage::Kit).device(device).activity(mine)
        }
        K::NoPath { activity, sink: device, .. }
        | K::TwoInputs { activity, device }
        | K::Elsewhere { activity, device } => Place::on(Stage::Kit).activity(activity).device(device),
        K::BothReact { device, function, .. }
        | K::ToggleNotTwo { device, function, .. }
        | K::SameCode { device, function, .. }
        | K::TestFailed { device, function, .. }
        | K::CodeMissing { device, function } => Place::on(Stage::Codes).device(device).function(function),
        K::Swapped { device, function, .. } => Place { function, ..Place::on(Stage::Codes).device(device) },
        K::NoActivity | K::OrderNotKept => Place::on(Stage::Sequences),
        K::SettingLeftOut { activity, .. } | K::NoSuchApp { activity, .. } => {
            Place::on(Stage::Sequences).activity(activity)
        }
        K::Hidden { activity, screen, .. } => Place::on(Stage::Sequences).activity(activity).device(screen),
        K::NoSafeWay { device, .. } | K::WantedTwice { device, .. } => Place::on(Stage::Sequences).device(device),
        K::ShorterThanEvidence { device, function, .. } | K::LongerThanList { device, function, .. } => {
            Place::on(Stage::Sequences).device(device).function(function)
        }
        K::AtRisk { to, device, .. } => {
            Place { activity: in_activity(to), ..Place::on(Stage::Sequences).device(device) }
        }
        K::LooksAlike { other, .. } => Place { activity: in_activity(other), ..Place::on(Stage::Rehearse) },
        K::OneName { device, .. } => Place::on(Stage::Rehearse).device(device),
        K::Fight { cue: _, other: cue, .. }
        | K::NeverFires { cue, .. }
        | K::Dark { cue, .. }
        | K::SlowLight { cue, .. }
        | K::Flash { other: cue, .. }
        | K::Loud { cue, .. }
        | K::UnattendedHeat { cue, .. }
        | K::UnattendedMovement { cue, .. } => Place::on(Stage::Cues).cue(cue),
        K::Ring { ref cues } => Place { cue: cues.first().copied(), ..Place::on(Stage::Cues) },
        K::NeverReset { .. }
        | K::NoWayOut
        | K::NothingLit { .. }
        | K::NoDimmer { .. }
        | K::BelowFloor { .. }
        | K::LookToReview { .. } => Place::on(Stage::Cues),
        K::KeyDoesNothing { surface, key }
        | K::Idle { surface, key, .. }
        | K::TwoMeanings { surface, key, .. }
        | K::HeldTwice { surface, key }
        | K::CueToo { surface, key, .. }
        | K::SlowTap { surface, key }
        | K::SmallKey { surface, key, .. }
        | K::FaintLabel { surface, key, .. }
        | K::LabelTooLong { surface, key, .. }
        | K::LabelSaysOtherwise { surface, key, .. }
        | K::GuestAsks { surface, key, .. } => Place::on(Stage::Surfaces).surface(surface).key(key),
        K::NoStop { surface, device, .. } => Place::on(Stage::Surfaces).surface(surface).device(device),
        K::ActivityWithoutKey { surface, activity } | K::GuestStuck { surface, activity, .. } => {
            Place::on(Stage::Surfaces).surface(surface).activity(activity)
        }
        K::LessThanBefore { surface, .. } | K::DeadKeys { surface, .. } => Place::on(Stage::Surfaces).surface(surface),
        K::NamesCollide { .. } | K::NotSynced { .. } => Place::on(Stage::Surfaces),
        K::Earlier { .. } => Place::on(Stage::Kit),
    }
}

fn in_activity(situation: Situation) -> Option<ActivityId> {
    match situation {
        Situation::In { activity } => Some(activity),
        _ => None,
    }
}
