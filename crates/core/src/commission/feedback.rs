//! Readings by feedback: whenever the house drives a device that tells what it is doing, the time from the command until the
//! device says that it is done is a reading, which nobody has to take.
//!
//! Only what begins from a known state and is seen on its way counts: a lamp that says *starting* and then *on*, an input
//! that was another one, a screen that stood at its end. A sensor that was added tells of power or of one end alone, never
//! when commands are taken: it gives no readings.

use super::stopwatch::is_hot;
use crate::device::look::{Seen, look_ms};
use crate::evidence::readings;
use crate::id::{DeviceId, FunctionId, MeasurementId};
use crate::model::{Feedback, Measurement, Profile, READING_MAX_MS, READINGS_MAX, SeenIn, Site, Timing};
use jiff::Timestamp;
use std::collections::BTreeMap;

/// So many readings of one time are kept of the rehearsal room: they cover nothing.
const REHEARSED_MOST: usize = 20;

/// So many of one time are left free for readings by hand.
const LEFT_FOR_HANDS: usize = 50;

/// What a device says of itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Says {
    /// Power, input, and whether it is down.
    pub seen: Seen,
    /// Is it on its way on or off?
    pub settling: bool,
    /// How far down, in %.
    pub down_percent: Option<u8>,
}

impl Says {
    /// Off or on, and nothing more to come.
    fn settled(self, on: bool) -> bool {
        self.seen.on == Some(on) && !self.settling
    }

    /// On its way on or off.
    fn on_its_way(self, on: bool) -> bool {
        self.seen.on == Some(on) && self.settling
    }
}

/// A time that a device reported.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Reported {
    /// Which device.
    pub device: DeviceId,
    /// Which time.
    pub timing: Timing,
    /// From the command until it was reported, in ms.
    pub ms: u32,
    /// How much earlier it may have been, in ms: a poll interval and the time-out of its reply.
    pub early_ms: u32,
}

#[derive(Debug, Clone, Copy)]
struct Lap {
    timing: Timing,
    sent_ms: u64,
    /// Was it seen on its way?
    on_its_way: bool,
    /// The input that was chosen, counted from 0.
    input: Option<u8>,
}

/// The laps that are under way in a room.
#[derive(Debug, Clone, Default)]
pub struct Laps {
    under_way: BTreeMap<DeviceId, Lap>,
}

impl Laps {
    /// A command went out to a device that last said `says`.
    pub fn sent(&mut self, site: &Site, device: DeviceId, function: FunctionId, now_ms: u64, says: Says) {
        let Some(profile) = site.profile_of(device) else { return };
        if drives(&profile, function) {
            self.under_way.remove(&device);
        }
        let Some((timing, input)) = begins(&profile, function, says) else { return };
        if timing.span(&profile).is_some() {
            self.under_way.insert(device, Lap { timing, sent_ms: now_ms, on_its_way: false, input });
        }
    }

    /// A device says something. Tells what that was the end of.
    pub fn heard(&mut self, site: &Site, device: DeviceId, says: Says, now_ms: u64) -> Option<Reported> {
        let lap = self.under_way.get_mut(&device)?;
        let power = |on: bool, lap: &mut Lap| {
            lap.on_its_way |= says.on_its_way(on);
            (lap.on_its_way && says.settled(on), lap.on_its_way && says.seen.on == Some(!on))
        };
        let (done, failed) = match lap.timing {
            Timing::WarmUp => power(true, lap),
            Timing::CoolDown => power(false, lap),
            Timing::Input => (says.seen.input == lap.input, says.seen.on == Some(false)),
            Timing::TravelDown => (says.down_percent == Some(100), false),
            Timing::TravelUp => (says.down_percent == Some(0), false),
            _ => (false, true),
        };
        let lap = *lap;
        if done || failed {
            self.under_way.remove(&device);
        }
        let ms = u32::try_from(now_ms.saturating_sub(lap.sent_ms)).ok().filter(|ms| (1..=READING_MAX_MS).contains(ms));
        let early_ms = look_ms(&*site.profile_of(device)?)?;
        let ms = ms.filter(|_| done)?;
        Some(Reported { device, timing: lap.timing, ms, early_ms: early_ms.min(ms) })
    }

    /// Nobody knows any more what was sent.
    pub fn forget(&mut self) {
        self.under_way.clear();
    }

    /// A device was sent something that it may not have heard, or a hand was at it.
    pub fn lose(&mut self, device: DeviceId) {
        self.under_way.remove(&device);
    }
}

/// Is it a key after which the device goes somewhere else than it was going?
fn drives(profile: &Profile, function: FunctionId) -> bool {
    let power = profile.power_keys().is_some_and(|(on, off)| [on, off].contains(&function));
    let motion = profile.motion.is_some_and(|own| [Some(own.up), Some(own.down), own.stop].contains(&Some(function)));
    power || motion || profile.inputs.iter().any(|input| input.select == Some(function))
}

/// What a command begins, of a device that last said `says`.
fn begins(profile: &Profile, function: FunctionId, says: Says) -> Option<(Timing, Option<u8>)> {
    if !matches!(profile.feedback, Feedback::Poll { .. } | Feedback::Push { .. }) {
        return None;
    }
    if let Some((on, off)) = profile.power_keys() {
        if function == on && says.settled(false) {
            return Some((Timing::WarmUp, None));
        }
        if function == off && says.settled(true) {
            return Some((Timing::CoolDown, None));
        }
    }
    if let Some(motion) = profile.motion {
        if function == motion.down && says.down_percent == Some(0) {
            return Some((Timing::TravelDown, None));
        }
        if function == motion.up && says.down_percent == Some(100) {
            return Some((Timing::TravelUp, None));
        }
    }
    let chosen = profile.inputs.iter().position(|input| input.select == Some(function))?;
    let chosen = u8::try_from(chosen).ok()?;
    (says.settled(true) && says.seen.input.is_some_and(|input| input != chosen))
        .then_some((Timing::Input, Some(chosen)))
}

/// What devices reported as readings of the house. Of the rehearsal room no more are kept than can be looked at.
pub fn kept(
    site: &Site,
    told: impl IntoIterator<Item = (Reported, SeenIn)>,
    at: Timestamp,
    mut id: impl FnMut() -> MeasurementId,
) -> Vec<Measurement> {
    let mut all: Vec<Measurement> = Vec::new();
    for (own, seen) in told {
        let same = |known: &&Measurement| known.seen == seen;
        let new = all.iter().filter(|known| (known.device, known.timing) == (own.device, own.timing));
        let many = new.filter(same).count() + readings(site, own.device, own.timing).filter(same).count();
        let most = match seen {
            SeenIn::House => READINGS_MAX - LEFT_FOR_HANDS,
            SeenIn::Rehearsed => REHEARSED_MOST,
        };
        if many >= most || site.device(own.device).is_none() {
            continue;
        }
        let mut reading = Measurement {
            early_ms: own.early_ms,
            seen,
            by_way: "by feedback".to_owned(),
            ..Measurement::new(id(), own.device, own.timing, own.ms, at)
        };
        reading.hot = is_hot(site, &reading);
        all.push(reading);
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::model::{Sense, Tell};
    use rstest::rstest;
    use uuid::Uuid;

    /// The projector is asked every 2 s and answers within 1 s.
    fn asked() -> (Site, FunctionId, FunctionId) {
        let mut site = demo::marram_point();
        let model = site.device(ids::projector()).unwrap().profile;
        let own = site.profiles.find_mut(|own| own.id == model).unwrap();
        own.feedback = Feedback::Poll { every_ms: 2_000, time_out_ms: 1_000, tells: vec![Tell::Power, Tell::Input] };
        let (on, off) = site.profile_of(ids::projector()).unwrap().power_keys().unwrap();
        (site, on, off)
    }

    fn says(on: bool, settling: bool) -> Says {
        Says { seen: Seen { on: Some(on), ..Seen::default() }, settling, down_percent: None }
    }

    #[test]
    fn a_warm_up_is_timed_from_the_command_until_it_is_reported() {
        let (site, on, _) = asked();
        let mut laps = Laps::default();
        laps.sent(&site, ids::projector(), on, 1_000, says(false, false));
        // A report that was on its way when the command left says nothing.
        assert_eq!(laps.heard(&site, ids::projector(), says(false, false), 1_500), None);
        assert_eq!(laps.heard(&site, ids::projector(), says(true, true), 3_500), None);
        let told = laps.heard(&site, ids::projector(), says(true, false), 26_000).unwrap();
        assert_eq!((told.timing, told.ms, told.early_ms), (Timing::WarmUp, 25_000, 3_000));
        assert_eq!(laps.heard(&site, ids::projector(), says(true, false), 28_000), None, "once");
    }

    #[rstest]
    #[case::it_was_not_known_to_be_off(Says::default(), says(true, true))]
    #[case::it_was_still_cooling(says(false, true), says(true, true))]
    #[case::it_was_on(says(true, false), says(true, true))]
    #[case::it_was_never_seen_on_its_way(says(false, false), says(true, false))]
    fn what_did_not_begin_from_a_known_state_is_no_reading(#[case] before: Says, #[case] then: Says) {
        let (site, on, _) = asked();
        let mut laps = Laps::default();
        laps.sent(&site, ids::projector(), on, 0, before);
        assert_eq!(laps.heard(&site, ids::projector(), then, 2_000), None);
        assert_eq!(laps.heard(&site, ids::projector(), says(true, false), 25_000), None);
    }

    #[test]
    fn another_power_key_and_a_start_that_fails_end_a_lap() {
        let (site, on, off) = asked();
        let begun = || {
            let mut laps = Laps::default();
            laps.sent(&site, ids::projector(), on, 0, says(false, false));
            laps.heard(&site, ids::projector(), says(true, true), 1_000);
            laps
        };
        let end = |laps: &mut Laps| laps.heard(&site, ids::projector(), says(true, false), 25_000);
        let mut laps = begun();
        laps.sent(&site, ids::projector(), off, 5_000, says(true, true));
        assert_eq!(end(&mut laps), None);
        let mut laps = begun();
        laps.heard(&site, ids::projector(), says(false, false), 6_000);
        assert_eq!(end(&mut laps), None);
        let mut laps = begun();
        laps.lose(ids::projector());
        assert_eq!(end(&mut laps), None);
        assert!(end(&mut begun()).is_some());
    }

    #[test]
    fn an_added_sensor_gives_no_readings() {
        let (mut site, on, _) = asked();
        let model = site.device(ids::projector()).unwrap().profile;
        site.profiles.find_mut(|own| own.id == model).unwrap().feedback =
            Feedback::Sensor { senses: Sense::PowerDraw, delay_ms: 500 };
        let mut laps = Laps::default();
        laps.sent(&site, ids::projector(), on, 0, says(false, false));
        laps.heard(&site, ids::projector(), says(true, true), 1_000);
        assert_eq!(laps.heard(&site, ids::projector(), says(true, false), 2_000), None);
    }

    #[test]
    fn the_rehearsal_room_adds_no_more_than_twenty_and_the_house_counts_hot_ones_apart() {
        let (mut site, ..) = asked();
        site.measurements = Default::default();
        let own = Reported { device: ids::projector(), timing: Timing::WarmUp, ms: 25_000, early_ms: 3_000 };
        let at: Timestamp = "2027-05-03T10:00:00Z".parse().unwrap();
        let mut number = 0;
        let mut id = || {
            number += 1;
            MeasurementId(Uuid::from_u128(number))
        };
        assert_eq!(kept(&site, vec![(own, SeenIn::Rehearsed); 30], at, &mut id).len(), REHEARSED_MOST);
        let first = kept(&site, [(own, SeenIn::House)], at, &mut id);
        assert_eq!((first[0].hot, first[0].early_ms, first[0].by_way.as_str()), (false, 3_000, "by feedback"));
        site.measurements.extend(first);
        let soon = at.checked_add(jiff::SignedDuration::from_secs(30)).unwrap();
        assert!(kept(&site, [(own, SeenIn::House)], soon, &mut id)[0].hot);
        site.devices = Default::default();
        assert_eq!(kept(&site, [(own, SeenIn::House)], at, &mut id), []);
    }
}
