//! What a page sees of a rehearsal.

use super::{LightView, PlayView, Pressed, Rehearsal};
use crate::belief::BeliefView;
use crate::drive::Report;
use crate::mind::{Notice, RunView};
use crate::world::WireLine;
use kestrel_core::id::{DeviceId, RoomId};
use kestrel_core::model::{Faults, Situation, Talk};
use kestrel_core::room::DeviceView;
use serde::Serialize;
use utoipa::ToSchema;

/// What is wrong with a device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FaultView {
    /// The device.
    pub device: DeviceId,
    /// What is wrong.
    pub faults: Faults,
}

/// How a device on the network is driven.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DriveView {
    /// The device.
    pub device: DeviceId,
    /// In which protocol.
    pub talks: Talk,
    /// Why it cannot be driven, if so.
    pub held: Option<String>,
    /// What it told last; none where it never did.
    pub told: Option<Report>,
    /// How long ago that was, in ms.
    pub told_ago_ms: Option<u64>,
    /// For how long it has said nothing, where it should have.
    pub silent: Option<String>,
}

/// A rehearsal as it stands.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RehearsalView {
    /// The room.
    pub room: RoomId,
    /// Simulated time, in ms.
    pub now_ms: u64,
    /// How many times faster than real time; 0 stands still.
    pub rate: f64,
    /// Where the gateway listens.
    pub gateway: String,
    /// Does the gateway answer?
    pub gateway_answers: bool,
    /// The devices as they are.
    pub devices: Vec<DeviceView>,
    /// The devices as the runtime believes they are.
    pub beliefs: Vec<BeliefView>,
    /// Devices on the network.
    pub drives: Vec<DriveView>,
    /// What is broken.
    pub faults: Vec<FaultView>,
    /// What the runtime takes the room to be in; none where it does not know.
    pub taken_for: Option<Situation>,
    /// What it has noticed, the newest last.
    pub notices: Vec<Notice>,
    /// The last run.
    pub run: Option<RunView>,
    /// Its light, the time of the world, and the cues that fired.
    pub light: LightView,
    /// Keys of keypads and hand remotes that were pressed last, the newest last.
    pub pressed: Vec<Pressed>,
    /// Is the evening being recorded?
    pub recording: bool,
    /// The evening that is played here, or was played last.
    pub playing: Option<PlayView>,
    /// The newest lines of the wire log, the newest last.
    pub wire: Vec<WireLine>,
}

/// How many lines of the wire log a view carries.
const LINES: usize = 300;

impl Rehearsal {
    /// The rehearsal as it stands.
    #[must_use]
    pub fn view(&self) -> RehearsalView {
        let world = &self.inner.world;
        let (devices, faults, now_ms) = world.with(|truth, now| {
            let faults = truth.faults.iter().map(|(&device, &faults)| FaultView { device, faults }).collect();
            (truth.sim.view(), faults, now)
        });
        let site = world.site();
        let gateway_device = site.devices_in(world.room()).find(|device| {
            site.profile_of(device.id).is_some_and(|p| p.kind == kestrel_core::model::DeviceKind::Gateway)
        });
        let gateway_answers = gateway_device.is_none_or(|device| world.answers(device.id));
        let (gateway, drives) = self.fitted_view();
        let mind = self.mind();
        let drives = drives
            .into_iter()
            .map(|(device, held)| {
                let heard = mind.heard.get(&device).filter(|heard| heard.at_ms > 0);
                DriveView {
                    device,
                    talks: site.talk_of(device),
                    held,
                    told: heard.map(|heard| heard.report.clone()),
                    told_ago_ms: heard.map(|heard| now_ms.saturating_sub(heard.at_ms)),
                    silent: mind.silence(device, now_ms),
                }
            })
            .collect();
        let beliefs = mind.beliefs.view(&site, world.room(), &devices, now_ms);
        let (taken_for, notices, run) = (mind.taken_for, mind.notices(), mind.run.clone());
        let pressed = mind.pressed();
        drop(mind);
        let mut wire = world.log();
        let surplus = wire.len().saturating_sub(LINES);
        wire.drain(..surplus);
        RehearsalView {
            room: world.room(),
            now_ms,
            rate: world.clock().rate(),
            gateway,
            gateway_answers,
            devices,
            beliefs,
            drives,
            faults,
            taken_for,
            notices,
            run,
            light: self.light_view(now_ms),
            pressed,
            recording: self.is_recording(),
            playing: self.playing(),
            wire,
        }
    }

    /// Where the gateway listens, and which devices are driven, or why they are not.
    fn fitted_view(&self) -> (String, Vec<(DeviceId, Option<String>)>) {
        match self.inner.fitted.try_lock().as_deref() {
            Ok(Some(fitted)) => {
                let address = match self.inner.net {
                    crate::net::Net::Sockets => fitted.wires.gateway.address().to_string(),
                    crate::net::Net::Pipes(_) => "in memory".to_owned(),
                };
                let held: Vec<(DeviceId, Option<String>)> = fitted
                    .wires
                    .drives
                    .iter()
                    .map(|(&device, drive)| (device, drive.as_ref().err().map(ToString::to_string)))
                    .collect();
                (address, held)
            }
            _ => ("starting".to_owned(), vec![]),
        }
    }
}
