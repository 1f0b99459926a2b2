//! Single commands: a key sent once, a nudge of the volume, a level, a message, a spoken line.

use super::light::is_transport_key;
use super::run::direction;
use super::{Rehearsal, RehearsalError};
use crate::belief::Reversal;
use kestrel_core::id::{DeviceId, FunctionId};
use kestrel_core::light::watch::Happening;
use kestrel_core::model::{CodeBody, Press};
use kestrel_core::plan::press_of;
use kestrel_core::room::comfort::tenths;
use kestrel_core::room::{Heard, Outcome, Want};
use kestrel_core::words::seconds;
use serde::Serialize;
use std::time::Duration;
use utoipa::ToSchema;

/// A step that somebody gives and that could not go out within this time is dropped, in ms.
pub const STALE_MS: u64 = 2_000;

/// What came of a nudge.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Nudged {
    /// How many steps went out.
    pub sent: u32,
    /// Why the rest did not; none where all did.
    pub held: Option<String>,
}

impl Rehearsal {
    /// Sends a function once, as its code says. What moves is stopped before it is reversed.
    ///
    /// # Errors
    /// Where there is no code or it did not go out.
    pub async fn send_once(&self, device: DeviceId, function: FunctionId) -> Result<Vec<Heard>, RehearsalError> {
        let (body, press, frames) = self.code(device, function)?;
        let seen = self.inner.world.last_line();
        let stops = self.inner.stops();
        let _writer = self.inner.writer(device).lock_owned().await;
        self.stop_first(device, function).await?;
        self.heard_again(device).await;
        if self.inner.stops() != stops {
            return Err(RehearsalError::NotNow("Everything was stopped meanwhile.".to_owned()));
        }
        self.send_believed(device, function, &body, press, frames).await?;
        if is_transport_key(&self.inner.world.site(), device, function) {
            self.inner.happened(&Happening::Sent { device, function });
        }
        self.touch();
        Ok(self.heard_since(seen))
    }

    fn code(&self, device: DeviceId, function: FunctionId) -> Result<(CodeBody, Press, Option<u32>), RehearsalError> {
        let site = self.inner.world.site();
        self.here(device)?;
        let code = site.code(device, function).ok_or_else(|| RehearsalError::NoCode {
            device: site.device_name(device),
            function: site.function_name(device, function),
        })?;
        let (press, frames) = press_of(&site, device, function);
        Ok((code.body.clone(), press, frames))
    }

    /// A motor that runs the other way, or may, is stopped and stands still before it is reversed.
    async fn stop_first(&self, device: DeviceId, function: FunctionId) -> Result<(), RehearsalError> {
        let Some(target) = direction(&self.inner, device, function) else { return Ok(()) };
        let site = self.inner.world.site();
        let Some(motion) = site.profile_of(device).and_then(|profile| profile.motion) else { return Ok(()) };
        let now = self.clock().now_ms();
        let reversal = self.mind().beliefs.reversal(&site, device, target, now);
        let moves_ms = match reversal {
            None => return Ok(()),
            Some(Reversal::Pauses { for_ms }) => {
                self.clock().sleep(u64::from(for_ms)).await;
                return Ok(());
            }
            Some(Reversal::Moves { for_ms }) => for_ms,
        };
        let Some(stop) = motion.stop else {
            return Err(RehearsalError::NotNow(format!(
                "{} may still be moving the other way and has no stop: try again in {}.",
                site.device_name(device),
                seconds(moves_ms)
            )));
        };
        let (body, press, frames) = self.code(device, stop)?;
        self.heard_again(device).await;
        self.send_believed(device, stop, &body, press, frames).await?;
        let gap_ms = site.profile_of(device).map_or(0, |profile| profile.times.gap_ms);
        self.clock().sleep(u64::from(motion.reversal_ms.max(gap_ms))).await;
        Ok(())
    }

    /// Waits until a device hears the next command, whoever sent the last one.
    async fn heard_again(&self, device: DeviceId) {
        let now = self.clock().now_ms();
        let deaf_ms = self.mind().beliefs.deaf_ms(&self.inner.world.site(), device, now);
        if deaf_ms > 0 {
            self.clock().sleep(deaf_ms).await;
        }
    }

    /// Sends a key and believes what follows from it: that it may have arrived before the bytes leave, that it has once
    /// they have.
    pub(super) async fn send_believed(
        &self,
        device: DeviceId,
        function: FunctionId,
        body: &CodeBody,
        press: Press,
        frames: Option<u32>,
    ) -> Result<(), RehearsalError> {
        let now = self.clock().now_ms();
        self.mind().telling(device, function, now);
        let sent = self.send_now(device, body, press, frames).await;
        let now = self.clock().now_ms();
        match sent {
            Ok(()) => self.mind().sent(device, function, now),
            Err(_) => self.mind().perhaps_sent(device, function, now),
        }
        sent
    }

    /// Sends something to a device that no function holds (yet); says who understood it.
    ///
    /// # Errors
    /// Where it did not go out.
    pub async fn send_body(
        &self,
        device: DeviceId,
        body: &CodeBody,
        press: Press,
        frames: Option<u32>,
    ) -> Result<Vec<Heard>, RehearsalError> {
        let seen = self.inner.world.last_line();
        self.send_now(device, body, press, frames).await?;
        self.touch();
        Ok(self.heard_since(seen))
    }

    async fn send_now(
        &self,
        device: DeviceId,
        body: &CodeBody,
        press: Press,
        frames: Option<u32>,
    ) -> Result<(), RehearsalError> {
        let wires = self.wires().await?;
        wires.send(device, body, press, frames).await?;
        if matches!(body, CodeBody::Ip { command } if command.expected().is_none()) {
            // Nothing comes back that would say that it has arrived.
            tokio::time::sleep(Duration::from_millis(60)).await;
        }
        Ok(())
    }

    /// Presses of one key with a pause after each, however soon that is for the device; how many it followed.
    pub(crate) async fn pressed_in_a_row(
        &self,
        device: DeviceId,
        function: FunctionId,
        pause_ms: u32,
        presses: u32,
    ) -> Result<u32, RehearsalError> {
        let (body, press, frames) = self.code(device, function)?;
        let stops = self.inner.stops();
        let _writer = self.inner.writer(device).lock_owned().await;
        self.heard_again(device).await;
        let seen = self.inner.world.last_line();
        for _ in 0..presses {
            if self.inner.stops() != stops {
                return Err(RehearsalError::NotNow("Everything was stopped meanwhile.".to_owned()));
            }
            self.send_believed(device, function, &body, press, frames).await?;
            self.clock().sleep(u64::from(pause_ms)).await;
        }
        self.touch();
        let followed = |heard: &Heard| {
            heard.device == device && heard.function == function && !matches!(heard.outcome, Outcome::Ignored { .. })
        };
        Ok(self.heard_since(seen).iter().filter(|heard| followed(heard)).count().try_into().unwrap_or(u32::MAX))
    }

    fn heard_since(&self, line: u64) -> Vec<Heard> {
        self.inner.world.log().into_iter().filter(|known| known.number > line).flat_map(|line| line.heard).collect()
    }

    /// Louder or softer by steps. A step that has waited longer than 2 s is dropped, never sent in a burst, and
    /// the upper end of what the volume may be never passes the ceiling: an unknown volume is stepped down first.
    ///
    /// # Errors
    /// Where the device has no volume, or a step did not go out.
    pub async fn nudge(&self, device: DeviceId, steps: i8) -> Result<Nudged, RehearsalError> {
        self.here(device)?;
        let asked_ms = self.clock().now_ms();
        let site = self.inner.world.site();
        let volume = site
            .profile_of(device)
            .and_then(|profile| profile.volume)
            .ok_or_else(|| RehearsalError::NotNow(format!("{} has no volume keys.", site.device_name(device))))?;
        let gap_ms = u64::from(site.profile_of(device).map_or(0, |profile| profile.times.gap_ms));
        let ceiling = volume.ceiling * 10;
        let mut nudged = Nudged { sent: 0, held: None };
        let stops = self.inner.stops();
        let _turn = self.inner.commands.lock().await;
        if steps > 0 {
            // Down first where it may be too loud already: these steps are ours and are sent for certain.
            let (_, hi) = self.mind().beliefs.volume(&site, device).unwrap_or((0, 0));
            let over = hi.saturating_sub(ceiling).div_ceil(volume.step_tenths.max(1));
            for _ in 0..over {
                self.one_step(device, volume.down, gap_ms).await?;
            }
            self.mind().beliefs.softer(&site, device, over);
        }
        let function = if steps > 0 { volume.up } else { volume.down };
        for _ in 0..steps.unsigned_abs() {
            if self.inner.stops() != stops {
                nudged.held = Some("Everything was stopped meanwhile.".to_owned());
                break;
            }
            if self.clock().now_ms() > asked_ms + STALE_MS + gap_ms * u64::from(steps.unsigned_abs()) {
                nudged.held = Some("It had to wait for longer than 2 s, so the rest was dropped.".to_owned());
                break;
            }
            if steps > 0 {
                let (_, hi) = self.mind().beliefs.volume(&site, device).unwrap_or((0, 0));
                if hi + volume.step_tenths > ceiling {
                    nudged.held = Some(format!("It may be at its ceiling of {} already.", tenths(ceiling)));
                    break;
                }
            }
            self.one_step(device, function, gap_ms).await?;
            nudged.sent += 1;
        }
        self.touch();
        Ok(nudged)
    }

    async fn one_step(&self, device: DeviceId, function: FunctionId, gap_ms: u64) -> Result<(), RehearsalError> {
        let (body, press, frames) = self.code(device, function)?;
        let _writer = self.inner.writer(device).lock_owned().await;
        let now = self.clock().now_ms();
        self.mind().telling(device, function, now);
        let sent = self.send_now(device, &body, press, frames).await;
        // A step that may have gone out counts as if it had.
        let now = self.clock().now_ms();
        self.mind().sent(device, function, now);
        sent?;
        self.clock().sleep(gap_ms).await;
        Ok(())
    }

    /// Tells a device on the network something by name: a level, a message, a spoken line.
    ///
    /// # Errors
    /// Where it is not on the network, or says no.
    pub async fn want(&self, device: DeviceId, want: &Want) -> Result<(), RehearsalError> {
        self.here(device)?;
        if let Want::Volume { tenths: to } = want {
            let site = self.inner.world.site();
            if let Some(volume) = site.profile_of(device).and_then(|profile| profile.volume)
                && *to > volume.ceiling * 10
            {
                return Err(RehearsalError::NotNow(format!(
                    "{} is above the ceiling of {}.",
                    tenths(*to),
                    volume.ceiling
                )));
            }
        }
        let drive = self.wires().await?.drive(device)?;
        drive.want(want).await?;
        self.touch();
        Ok(())
    }
}
