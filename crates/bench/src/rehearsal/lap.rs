//! Laps of the stopwatch in the rehearsal room: each begins from where such a lap begins in the house.

use super::{Rehearsal, RehearsalError};
use crate::drive::typed_address;
use kestrel_core::commission::stopwatch::Lap;
use kestrel_core::id::DeviceId;
use kestrel_core::model::{Hand, Profile, Timing};

/// How long a motor runs before it is stopped to time its pause, in ms.
const RUNS_MS: u64 = 1_000;

impl Rehearsal {
    /// Puts the room back, brings the device to where a lap of this time begins, and sends the key that starts it. What has to
    /// pass before that passes at once: the clock is set ahead.
    ///
    /// # Errors
    /// Where the device is none of this room or a real one, where a code is missing, or a command did not go out.
    pub async fn begin_lap(&self, device: DeviceId, timing: Timing) -> Result<(), RehearsalError> {
        self.is_simulated(device)?;
        let site = self.world().site();
        let profile = site.profile_of(device).ok_or(RehearsalError::NoDevice)?;
        self.reset().await;
        self.lead_to(device, &profile, timing).await?;
        match (timing, Lap::of(&profile, timing).starts) {
            (Timing::Boot, _) => {
                for plugged in [false, true] {
                    self.hand(&Hand::Plug { device, plugged })?;
                }
            }
            (_, Some(starts)) => {
                self.send_once(device, starts).await?;
            }
            (_, None) => {
                let name = site.device_name(device);
                return Err(RehearsalError::NotNow(format!(
                    "No key of {name} starts this, so the rehearsal room cannot. Time it in the house."
                )));
            }
        }
        Ok(())
    }

    /// Only what is simulated counts as rehearsed: a real device would be timed, or pressed, in the house.
    pub(crate) fn is_simulated(&self, device: DeviceId) -> Result<(), RehearsalError> {
        self.here(device)?;
        let site = self.world().site();
        if typed_address(&site, device)?.is_none() {
            return Ok(());
        }
        let name = site.device_name(device);
        Err(RehearsalError::NotNow(format!(
            "{name} is driven at an address of its own, so nothing of it is rehearsed. Time it in the house, or take the address out in Kit."
        )))
    }

    async fn lead_to(&self, device: DeviceId, profile: &Profile, timing: Timing) -> Result<(), RehearsalError> {
        let times = &profile.times;
        if matches!(timing, Timing::CoolDown | Timing::Input | Timing::ListCloses)
            && let Some((on, _)) = profile.power_keys()
        {
            self.send_once(device, on).await?;
            self.ahead(times.picture.hi_ms.max(times.warm_up.hi_ms).saturating_add(times.gap_ms));
        }
        match timing {
            Timing::Input => {
                // From another input than the one that is timed.
                let starts = Lap::of(profile, timing).starts;
                let other = profile.inputs.iter().filter_map(|input| input.select).find(|key| Some(*key) != starts);
                if let Some(other) = other {
                    self.send_once(device, other).await?;
                    self.ahead(times.input.hi_ms.saturating_add(times.gap_ms));
                }
            }
            Timing::TravelUp | Timing::TravelDown => {
                if let (Some(motion), Some(back)) = (profile.motion, Lap::of(profile, timing).back) {
                    self.send_once(device, back).await?;
                    self.ahead(motion.travel_up.hi_ms.max(motion.travel_down.hi_ms).saturating_add(motion.reversal_ms));
                }
            }
            Timing::MotorPause => {
                if let Some(motion) = profile.motion {
                    self.send_once(device, motion.down).await?;
                    self.clock().step(RUNS_MS);
                }
            }
            _ => {}
        }
        Ok(())
    }

    /// Lets so much time pass at once.
    fn ahead(&self, ms: u32) {
        self.clock().step(u64::from(ms));
        self.touch();
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::story::on_simulated_clock;
    use kestrel_core::demo::{self, ids};
    use kestrel_core::model::{Position, Site};
    use kestrel_core::prove::handed;
    use kestrel_core::room::{DeviceView, PowerView};
    use rstest::rstest;
    use std::sync::Arc;

    fn begun(site: &Arc<Site>, device: DeviceId, timing: Timing) -> Result<(DeviceView, u64), RehearsalError> {
        let off = handed(site, ids::boat_hall(), kestrel_core::model::Situation::Off);
        let run = on_simulated_clock(async {
            let rehearsal = Rehearsal::with_chance(site.clone(), ids::boat_hall(), 1, &off);
            rehearsal.begin_lap(device, timing).await?;
            Ok((rehearsal.world().view(device).unwrap(), rehearsal.clock().now_ms()))
        });
        run.unwrap()
    }

    #[rstest]
    #[case::warm_up(Timing::WarmUp, PowerView::Starting)]
    #[case::cool_down(Timing::CoolDown, PowerView::Cooling)]
    fn a_lap_of_the_projector_begins_as_in_the_house(#[case] timing: Timing, #[case] power: PowerView) {
        let (view, now_ms) = begun(&Arc::new(demo::with_disc()), ids::projector(), timing).unwrap();
        assert_eq!(view.power, power, "{view:?}");
        assert!(view.busy_until_ms.is_some_and(|until| until > now_ms));
    }

    #[rstest]
    #[case::down(Timing::TravelDown, Position::Down, ..=5)]
    #[case::up(Timing::TravelUp, Position::Up, 95..)]
    fn the_screen_travels_the_whole_way(
        #[case] timing: Timing,
        #[case] goes: Position,
        #[case] from_percent: impl std::ops::RangeBounds<u8>,
    ) {
        let (view, _) = begun(&Arc::new(demo::with_disc()), ids::screen(), timing).unwrap();
        assert_eq!(view.moving, Some(goes), "{view:?}");
        assert!(from_percent.contains(&view.down_percent.unwrap()), "{view:?}");
        assert_eq!(view.reversed, 0, "it is stopped and rests before it is reversed");
    }

    #[test]
    fn the_receiver_changes_to_another_input_than_it_was_on() {
        let site = Arc::new(demo::with_disc());
        let profile = site.profile_of(ids::receiver()).unwrap();
        let first = profile.inputs.iter().find(|input| input.select.is_some()).unwrap().id;
        let (view, now_ms) = begun(&site, ids::receiver(), Timing::Input).unwrap();
        assert_eq!(view.input, Some(first));
        assert!(view.busy_until_ms.is_some_and(|until| until > now_ms), "{view:?}");
    }

    #[test]
    fn what_no_key_starts_and_what_is_driven_for_real_is_refused() {
        let mut site = demo::with_disc();
        let refused = begun(&Arc::new(site.clone()), ids::receiver(), Timing::TravelUp).unwrap_err();
        assert!(refused.to_string().contains("No key of"), "{refused}");
        let own = site.devices.find_mut(|own| own.id == ids::projector()).unwrap();
        own.network.drive_at = "127.0.0.1:4352".to_owned();
        let refused = begun(&Arc::new(site), ids::projector(), Timing::WarmUp).unwrap_err();
        assert!(refused.to_string().contains("an address of its own"), "{refused}");
    }
}
