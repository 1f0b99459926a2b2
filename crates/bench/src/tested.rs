//! Tests of the house that the rehearsal room can do by itself, in memory and on a clock that never waits.

use crate::rehearsal::{Rehearsal, RehearsalError};
use crate::story::{on_simulated_clock, tried};
use kestrel_core::commission::gap;
use kestrel_core::cue::preview::{self, TimedEvent};
use kestrel_core::id::{CueId, DeviceId, FunctionId, RoomId};
use kestrel_core::light::watch::Happening;
use kestrel_core::model::{Deed, Hand, Moment, Playback, Site, Situation, StoryEvent, situation_name};
use kestrel_core::prove::handed;
use kestrel_core::room::PowerView;
use kestrel_core::words::seconds;
use std::sync::Arc;

/// How long a room is watched after something that was asked for, in ms.
const AFTER_MS: u64 = 90_000;

/// Did it pass, and what was seen?
pub type Verdict = (bool, String);

/// Sends a function once: is it understood by the device that it is meant for?
///
/// # Errors
/// Where the system refuses.
pub fn function(site: &Arc<Site>, room: RoomId, device: DeviceId, function: FunctionId) -> std::io::Result<Verdict> {
    let off = handed(site, room, Situation::Off);
    on_simulated_clock(async {
        let rehearsal = Rehearsal::with_chance(site.clone(), room, 1, &off);
        // What is off hears its power keys only: everything else is tried once it is on.
        let power = site.profile_of(device).and_then(|profile| profile.power_keys());
        if let Some((on, _)) = power.filter(|keys| keys.0 != function && keys.1 != function) {
            let _ = rehearsal.send_once(device, on).await;
            rehearsal.clock().sleep(AFTER_MS).await;
        }
        let name = site.device_name(device);
        match rehearsal.send_once(device, function).await {
            Ok(heard) if heard.iter().any(|own| own.device == device && own.function == function) => {
                (true, format!("{name} understood it in the rehearsal room."))
            }
            Ok(heard) => match heard.first() {
                Some(other) => {
                    (false, format!("{} understood “{}” instead.", site.device_name(other.device), other.name))
                }
                None => (false, format!("{name} understood nothing.")),
            },
            Err(error) => (false, error.to_string()),
        }
    })
}

/// Runs a switch from its start, everything settled: does the room end as it is wanted?
///
/// # Errors
/// Where the system refuses.
pub fn switch(site: &Arc<Site>, room: RoomId, from: Situation, to: Situation) -> std::io::Result<Verdict> {
    const SETTLED_MS: u64 = 600_000;
    let mut events = Vec::new();
    if from != Situation::Off {
        events.push(StoryEvent { at_ms: 1, deed: Deed::Request { to: from } });
    }
    events.push(StoryEvent { at_ms: SETTLED_MS, deed: Deed::Request { to } });
    let (wrong, _) = tried(site, room, &events, to, 2 * SETTLED_MS)?;
    Ok(match wrong.first() {
        None => (true, format!("{} was there in the rehearsal room.", situation_name(site, to))),
        Some(first) => (false, first.clone()),
    })
}

/// Presses the own power button of a device: does the runtime hear of it in time?
///
/// # Errors
/// Where the system refuses.
pub fn noticed(site: &Arc<Site>, room: RoomId, device: DeviceId) -> std::io::Result<Verdict> {
    let off = handed(site, room, Situation::Off);
    on_simulated_clock(async {
        let rehearsal = Rehearsal::with_chance(site.clone(), room, 1, &off);
        rehearsal.clock().sleep(AFTER_MS).await;
        if let Err(error) = rehearsal.hand(&Hand::Power { device }) {
            return (false, error.to_string());
        }
        let lost = site.room(room).map_or(0, |room| room.rehearsal.adoption.lost_polls);
        let profile = site.profile_of(device);
        let Some(ms) = profile.as_ref().and_then(|profile| kestrel_core::adopt::noticed_ms(profile, lost)) else {
            return (false, "It tells nothing of itself.".to_owned());
        };
        // A device that starts up says so once it can.
        let warm_ms = profile.map_or(0, |profile| profile.times.warm_up.hi_ms);
        rehearsal.clock().sleep(u64::from(ms.max(1)) + u64::from(warm_ms)).await;
        let is_on = rehearsal
            .world()
            .view(device)
            .is_some_and(|view| matches!(view.power, PowerView::On | PowerView::Starting | PowerView::Always));
        let told =
            rehearsal.view().drives.into_iter().find(|drive| drive.device == device).and_then(|drive| drive.told);
        let seen = told.map(|report| report.seen(site, device).on);
        if seen == Some(Some(is_on)) {
            (true, format!("It was noticed in the rehearsal room, within {}.", seconds(ms)))
        } else {
            (false, format!("After {} it was not noticed.", seconds(ms)))
        }
    })
}

/// Makes the moment of a cue happen: does it fire?
#[must_use]
pub fn cue(site: &Site, id: CueId) -> Verdict {
    let Some((room, cue)) = site.cue(id) else { return (false, "It is not on the sheet any more.".to_owned()) };
    let first = || site.activities.iter().find(|activity| activity.room == room.id).map(|activity| activity.id);
    let happens = |what| preview::Act::Happens { what };
    let acts: Vec<preview::Act> = match &cue.moment {
        Moment::Starts { activity } => {
            activity.or_else(first).map(|activity| happens(Happening::Starts { activity })).into_iter().collect()
        }
        Moment::Ends { activity } => activity
            .or_else(first)
            .map(|activity| vec![happens(Happening::Starts { activity }), happens(Happening::RoomOff)])
            .unwrap_or_default(),
        Moment::RoomOff => first()
            .map(|activity| vec![happens(Happening::Starts { activity }), happens(Happening::RoomOff)])
            .unwrap_or_default(),
        Moment::Says { device, transport } => {
            let before = if *transport == Playback::Playing { Playback::Paused } else { Playback::Playing };
            let says = |transport| happens(Happening::Says { device: *device, transport });
            let source = site.activities.iter().find(|own| own.room == room.id && own.source == *device);
            let starts = source.map(|own| happens(Happening::Starts { activity: own.id }));
            starts.into_iter().chain([says(before), says(*transport)]).collect()
        }
        Moment::Sent { device, function } => vec![happens(Happening::Sent { device: *device, function: *function })],
        Moment::Credits { device } => vec![happens(Happening::Credits { device: *device })],
        Moment::Sensor { device, tripped } => vec![
            happens(Happening::Sensor { device: *device, tripped: !tripped }),
            happens(Happening::Sensor { device: *device, tripped: *tripped }),
        ],
        Moment::Press { device, function, gesture } => {
            vec![happens(Happening::Press { device: *device, function: *function, gesture: *gesture })]
        }
        Moment::Switched { switch, on } => vec![
            happens(Happening::Set { switch: *switch, on: !on }),
            happens(Happening::Set { switch: *switch, on: *on }),
        ],
        // The clock and the sun come by themselves within two days.
        Moment::Clock { .. } | Moment::Sun { .. } => vec![],
    };
    let events: Vec<TimedEvent> = (1..).zip(acts).map(|(at, act)| TimedEvent { at_ms: at * 60_000, act }).collect();
    let length_ms = if events.is_empty() { 2 * 86_400_000 } else { 3_600_000 };
    // At dusk, at noon and at night: what a cue asks for besides its moment may hold at one of them only.
    let mut held = None;
    for start in ["2027-01-15T20:00:00Z", "2027-06-16T12:00:00Z", "2027-06-19T02:00:00Z", "2027-03-17T18:30:00Z"] {
        let Ok(start) = start.parse() else { continue };
        let evening = preview::play(site, room.id, start, length_ms, &events);
        for fired in evening.fired.iter().filter(|fired| fired.cue == id) {
            match &fired.held {
                None => return (true, "It fired in the rehearsal room.".to_owned()),
                Some(why) => held = Some(why.clone()),
            }
        }
    }
    (
        false,
        held.map_or_else(|| "Its moment came, and it did not fire.".to_owned(), |why| format!("It was held: {why}.")),
    )
}

impl Rehearsal {
    /// Sends a key several times with a pause between, and counts how many presses the device followed: what somebody in
    /// front of it would count. The device has to hear at all: it is switched on first, where it is off.
    ///
    /// # Errors
    /// Where there is no code or it did not go out.
    pub async fn burst(
        &self,
        device: DeviceId,
        function: FunctionId,
        pause_ms: u32,
        presses: u32,
    ) -> Result<u32, RehearsalError> {
        self.is_simulated(device)?;
        self.on_and_warm(device).await?;
        self.pressed_in_a_row(device, function, pause_ms, presses).await
    }

    /// Enters a number several times with a pause between its digits, and counts how often the device took it as one number.
    ///
    /// # Errors
    /// Where the device takes no number of two digits, or one did not go out.
    pub async fn numbers(&self, device: DeviceId, pause_ms: u32, numbers: u32) -> Result<u32, RehearsalError> {
        self.is_simulated(device)?;
        let site = self.world().site();
        let none = || {
            let name = site.device_name(device);
            RehearsalError::NotNow(format!(
                "{name} has no channel of two digits whose keys are learned. Add one in Kit, and learn its digits in Codes."
            ))
        };
        let (app, keys) = gap::number(&site, device).ok_or_else(none)?;
        let profile = site.profile_of(device).ok_or(RehearsalError::NoDevice)?;
        let wanted = profile.apps.get(usize::from(app) - 1).map(|app| app.name.clone());
        let closes_ms = u64::from(profile.times.digits.hi_ms + profile.times.gap_ms);
        self.on_and_warm(device).await?;
        let mut taken = 0;
        for _ in 0..numbers {
            // The first digit alone is another channel, or none: what is shown afterwards is of this number.
            self.pressed_in_a_row(device, keys[0], 1, 1).await?;
            self.clock().sleep(closes_ms * 2).await;
            for key in &keys {
                self.pressed_in_a_row(device, *key, pause_ms, 1).await?;
            }
            let shows = self.world().view(device).and_then(|view| view.playing?.app);
            taken += u32::from(shows.is_some() && shows == wanted);
            self.clock().sleep(closes_ms * 2).await;
        }
        Ok(taken)
    }

    /// A device that is off is switched on, and has warmed up.
    async fn on_and_warm(&self, device: DeviceId) -> Result<(), RehearsalError> {
        let site = self.world().site();
        let view = self.world().view(device).ok_or(RehearsalError::NoDevice)?;
        if let Some((on, _)) = site.profile_of(device).and_then(|profile| profile.power_keys())
            && matches!(view.power, PowerView::Off | PowerView::Cooling)
        {
            self.send_once(device, on).await?;
        }
        let warm = site.profile_of(device).map_or(0, |profile| profile.times.warm_up.hi_ms + profile.times.gap_ms);
        if view.power != PowerView::Always && view.power != PowerView::On {
            self.clock().sleep(u64::from(warm) + 1_000).await;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use kestrel_core::demo::{self, ids};
    use rstest::rstest;

    fn hall() -> Arc<Site> {
        Arc::new(demo::with_disc())
    }

    #[test]
    fn a_function_is_understood_and_a_wrong_code_is_not() {
        let site = hall();
        let (passed, said) = function(&site, ids::boat_hall(), ids::receiver(), ids::receiver_disc()).unwrap();
        assert!(passed, "{said}");
        let mut wrong = (*site).clone();
        let volume = site.profile_of(ids::receiver()).unwrap().volume.unwrap().down;
        let other = site.code(ids::receiver(), volume).unwrap().body.clone();
        let own = wrong.codes.find_mut(|code| code.function == ids::receiver_disc()).unwrap();
        own.body = other;
        let (passed, said) =
            function(&Arc::new(wrong), ids::boat_hall(), ids::receiver(), ids::receiver_disc()).unwrap();
        assert!(!passed && !said.is_empty(), "{said}");
    }

    #[test]
    fn a_switch_ends_as_it_is_wanted() {
        let film = Situation::In { activity: ids::feature_film() };
        let (passed, said) = switch(&hall(), ids::boat_hall(), Situation::Off, film).unwrap();
        assert!(passed, "{said}");
        let (passed, said) = switch(&hall(), ids::boat_hall(), film, Situation::Off).unwrap();
        assert!(passed, "{said}");
    }

    #[test]
    fn the_own_button_of_the_receiver_is_noticed() {
        let (passed, said) = noticed(&hall(), ids::boat_hall(), ids::receiver()).unwrap();
        assert!(passed, "{said}");
    }

    #[test]
    fn most_cues_of_the_hall_fire_when_their_moment_comes() {
        let site = hall();
        let cues = &site.room(ids::boat_hall()).unwrap().lighting.cues;
        let fired = cues.iter().filter(|own| cue(&site, own.id).0).count();
        assert!(fired * 10 >= cues.len() * 8, "{fired} of {}", cues.len());
    }

    #[rstest]
    #[case(1_000, true)]
    #[case(40, false)]
    fn a_burst_is_followed_at_a_long_pause_and_not_at_a_short_one(#[case] pause_ms: u32, #[case] all: bool) {
        let site = hall();
        let down = site.profile_of(ids::receiver()).unwrap().volume.unwrap().down;
        let off = handed(&site, ids::boat_hall(), Situation::Off);
        let counted = on_simulated_clock(async {
            let rehearsal = Rehearsal::with_chance(site.clone(), ids::boat_hall(), 1, &off);
            rehearsal.burst(ids::receiver(), down, pause_ms, 6).await.unwrap()
        });
        assert_eq!(counted.unwrap() == 6, all);
    }
}
