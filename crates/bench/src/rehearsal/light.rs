//! Light in the rehearsal room: what devices tell becomes what happens, and what cues decide goes out.

use super::surface::Elsewhere;
use super::{Inner, Rehearsal, RehearsalError};
use crate::drive::Report;
use crate::mind::Cause;
use kestrel_core::cue::starts::key_for;
use kestrel_core::id::{DeviceId, RoomId, SwitchId, ZoneId};
use kestrel_core::light::watch::{Fired, Happening, Watch};
use kestrel_core::light::{hours, watch};
use kestrel_core::model::{Also, Deed, Playback, Site, Situation};
use kestrel_core::room::Want;
use serde::Serialize;
use std::sync::{Arc, MutexGuard, PoisonError, Weak};
use utoipa::ToSchema;

/// When an evening begins, unless somebody says otherwise: 20:00 by the clock of the house, on a winter's Friday.
const BEGINS: &str = "2027-01-15T20:00";

/// How often the clock and the sun are looked at, in ms of the bench's clock.
const LOOK_MS: u64 = 30_000;

/// How many fired cues a view carries.
const FIRED: usize = 30;

/// The level of a zone, as the runtime set it last.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ZoneView {
    /// The zone.
    pub zone: ZoneId,
    /// Its level now, in %.
    pub percent: f64,
    /// Where it is going, in %.
    pub to_percent: f64,
}

/// A mode switch.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct SwitchView {
    /// Which.
    pub switch: SwitchId,
    /// On?
    pub on: bool,
}

/// The light of a room under rehearsal.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LightView {
    /// The time of the world, by the clock of the house: `2027-01-15T20:00`.
    pub time: String,
    /// Is it dark outside?
    pub dark: bool,
    /// The zones.
    pub zones: Vec<ZoneView>,
    /// The mode switches.
    pub switches: Vec<SwitchView>,
    /// What fired last, and what was held and why, the newest last.
    pub fired: Vec<Fired>,
}

/// What watches over the light of a room where its evening begins.
pub(super) fn begins(site: &Site, room: RoomId) -> Watch {
    Watch::new(site, room, hours::typed(site.house.place.as_ref(), BEGINS).unwrap_or_default())
}

impl Inner {
    pub(super) fn light(&self) -> MutexGuard<'_, Watch> {
        self.light.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Something happens: the cues that it fires are carried out.
    pub(super) fn happened(self: &Arc<Self>, happening: &Happening) {
        let now = self.world.clock().now_ms();
        let deeds = self.light().happen(now, happening);
        self.carry_out(deeds);
        self.relit.notify_waiters();
    }

    /// A device tells something new: what that means for the light.
    pub(super) fn noticed(self: &Arc<Self>, device: DeviceId, before: &Report, report: &Report) {
        let site = self.world.site();
        if let Some(playing) = &report.playing {
            let was = before.playing.as_ref();
            let transport = playing.transport;
            // The first word of a device is no news, unless it plays.
            if was.map_or(transport != Playback::Stopped, |was| was.transport != transport) {
                self.happened(&Happening::Says { device, transport });
            }
            if playing.credits && !was.is_some_and(|was| was.credits) {
                self.happened(&Happening::Credits { device });
            }
        }
        if let Some(tripped) = report.tripped
            && before.tripped.is_some_and(|was| was != tripped)
        {
            self.happened(&Happening::Sensor { device, tripped });
        }
        if let Some(percent) = report.level_percent.filter(|_| report.by_hand) {
            let own = site.room(self.world.room()).map(|room| room.lighting.zones.as_slice()).unwrap_or_default();
            for zone in own.iter().filter(|zone| zone.device == device) {
                self.happened(&Happening::Hand { zone: zone.id, percent });
            }
        }
    }

    fn carry_out(self: &Arc<Self>, deeds: Vec<watch::CueAct>) {
        for deed in deeds {
            let rehearsal = Rehearsal { inner: self.clone() };
            tokio::spawn(async move {
                if let Err(error) = rehearsal.cued(&deed).await {
                    let now = rehearsal.clock().now_ms();
                    rehearsal.mind().held(now, format!("A cue could not do all of it: {error}"));
                }
                rehearsal.touch();
            });
        }
        self.touch();
    }
}

/// A volume in % that does not rise above the ceiling of the device: nobody is to be startled.
fn under_ceiling(site: &Site, device: DeviceId, percent: u8) -> u8 {
    let volume = site.profile_of(device).and_then(|profile| profile.volume);
    let most = volume.map_or(100, |volume| volume.ceiling * 100 / volume.range.max(1));
    percent.min(u8::try_from(most).unwrap_or(100))
}

/// Lets the clock, the sun, and what comes by itself fire their cues, each at its time.
pub(super) async fn tick(inner: Weak<Inner>) {
    loop {
        let Some(own) = inner.upgrade() else { return };
        let (clock, relit) = (own.world.clock().clone(), own.relit.clone());
        // Whatever happens from here on is looked at again.
        let again = relit.notified();
        let now = clock.now_ms();
        let due = own.light().pass(now);
        if !due.is_empty() {
            own.carry_out(due.into_iter().map(|(_, deed)| deed).collect());
        }
        let next = own.light().next_ms(now).unwrap_or(u64::MAX).min(now + LOOK_MS);
        drop(own);
        tokio::select! {
            () = clock.sleep_until(next) => {}
            () = again => {}
        }
    }
}

impl Rehearsal {
    /// Does what a cue says.
    async fn cued(&self, deed: &watch::CueAct) -> Result<(), RehearsalError> {
        match deed {
            watch::CueAct::Level { zone, percent, fade_ms } => self.level(*zone, *percent, *fade_ms).await,
            watch::CueAct::Ask { to } => self.run_because(*to, Cause::Cued, false).await,
            watch::CueAct::Transport { device, transport } => self.transport(*device, *transport).await,
            watch::CueAct::Also { what } => self.also(what).await,
        }
    }

    async fn level(&self, zone: ZoneId, percent: u8, fade_ms: u32) -> Result<(), RehearsalError> {
        // Another cue may have decided otherwise meanwhile.
        if (self.inner.light().fade(zone).to - f64::from(percent)).abs() > 0.5 {
            return Ok(());
        }
        let site = self.inner.world.site();
        let Some(device) = site.zone(zone).map(|zone| zone.device) else { return Ok(()) };
        let own = self.inner.world.room();
        if site.device(device).is_none_or(|known| !known.serves(own)) {
            // A zone of another room: whoever has that room drives it.
            if let Some(room) = site.device(device).map(|known| known.room) {
                let _ = self.inner.elsewhere.send(Elsewhere::Level { room, zone, percent, fade_ms });
            }
            return Ok(());
        }
        self.want(device, &Want::Level { percent, fade_ms }).await
    }

    /// A source plays, pauses or stops: by its own protocol, where it has one, otherwise by its key.
    async fn transport(&self, device: DeviceId, transport: Playback) -> Result<(), RehearsalError> {
        let site = self.inner.world.site();
        if site.talk_of(device) == kestrel_core::model::Talk::Player {
            return self.want(device, &Want::Transport { to: transport, from_ms: None }).await;
        }
        let key = site.profile_of(device).and_then(|profile| key_for(&profile, transport));
        match key {
            Some(function) => self.send_once(device, function).await.map(|_| ()),
            None => Err(RehearsalError::NotNow(format!("{} has no key for that.", site.device_name(device)))),
        }
    }

    async fn also(&self, what: &Also) -> Result<(), RehearsalError> {
        match what {
            Also::Command { device, function } => self.send_once(*device, *function).await.map(|_| ()),
            Also::Volume { device, steps, unit } => {
                let volume = self.inner.world.site().profile_of(*device).and_then(|profile| profile.volume);
                let presses = volume.and_then(|volume| volume.presses(*steps, *unit));
                let name = || self.inner.world.site().device_name(*device);
                let none = || RehearsalError::NotNow(format!("{} cannot be made louder or softer by that.", name()));
                self.nudge(*device, presses.ok_or_else(none)?).await.map(|_| ())
            }
            Also::Say { device, text, percent } => {
                let percent = under_ceiling(&self.inner.world.site(), *device, *percent);
                self.want(*device, &Want::Say { text: text.clone(), percent }).await
            }
            Also::Chime { device, sound, name, length_ms, percent } => {
                let site = self.inner.world.site();
                let wav = site.pictures.iter().find(|known| known.id == *sound).map(|known| known.bytes.clone());
                let gone =
                    || RehearsalError::NotNow(format!("The sound of “{name}” is gone. Upload it again in Cues."));
                let wav = wav.ok_or_else(gone)?;
                let percent = under_ceiling(&site, *device, *percent);
                let want = Want::Chime { name: name.clone(), length_ms: *length_ms, percent, wav };
                self.want(*device, &want).await
            }
            Also::Message { device, text } => self.want(*device, &Want::Message { text: text.clone() }).await,
            // What the watch itself decides.
            Also::Macro { .. } | Also::Set { .. } | Also::PauseAndOff { .. } | Also::StepAside { .. } => Ok(()),
        }
    }

    /// Sets the time of the world: `2027-01-15T20:00` by the clock of the house.
    ///
    /// # Errors
    /// Where that is no time.
    pub fn set_time(&self, local: &str) -> Result<(), RehearsalError> {
        let site = self.inner.world.site();
        let time = hours::typed(site.house.place.as_ref(), local)
            .ok_or_else(|| RehearsalError::NotNow(format!("“{local}” is no time. Type it as 2027-01-15T20:00.")))?;
        let now = self.clock().now_ms();
        self.inner.light().set_time(now, time);
        self.inner.relit.notify_waiters();
        self.record(Deed::Time { local: local.to_owned() });
        self.touch();
        Ok(())
    }

    /// Sets a mode switch.
    pub fn set_switch(&self, switch: SwitchId, on: bool) {
        self.inner.happened(&Happening::Set { switch, on });
        self.record(Deed::Switch { switch, on });
    }

    pub(super) fn light_view(&self, now_ms: u64) -> LightView {
        let site = self.inner.world.site();
        let own = site.room(self.inner.world.room()).map(|room| room.lighting.clone()).unwrap_or_default();
        let light = self.inner.light();
        let local = light.time(now_ms).to_zoned(hours::zone(site.house.place.as_ref()));
        let fired = light.fired();
        LightView {
            time: local.strftime("%Y-%m-%dT%H:%M").to_string(),
            dark: light.is_dark(now_ms),
            zones: own
                .zones
                .iter()
                .map(|zone| ZoneView {
                    zone: zone.id,
                    percent: (light.level(zone.id, now_ms) * 10.0).round() / 10.0,
                    to_percent: light.fade(zone.id).to,
                })
                .collect(),
            switches: own
                .switches
                .iter()
                .map(|known| SwitchView { switch: known.id, on: light.is_on(known.id) })
                .collect(),
            fired: fired[fired.len().saturating_sub(FIRED)..].to_vec(),
        }
    }
}

/// What the room goes into when a macro begins: the arrival look comes at once.
pub(super) fn going(to: Situation) -> Option<Happening> {
    match to {
        Situation::In { activity } => Some(Happening::Starts { activity }),
        Situation::Off => Some(Happening::RoomOff),
        Situation::Unknown => None,
    }
}

/// Is this a key of a source for playing, pausing or stopping?
pub(super) fn is_transport_key(site: &Site, device: DeviceId, function: kestrel_core::id::FunctionId) -> bool {
    let Some(profile) = site.profile_of(device).filter(|profile| profile.kind.plays()) else { return false };
    [Playback::Playing, Playback::Paused, Playback::Stopped]
        .into_iter()
        .any(|transport| key_for(&profile, transport) == Some(function))
}
