//! The stopwatch of a room: what can be timed, what starts a lap and what is seen at its end, and which laps would say
//! something else than they seem to.

use super::gap;
use crate::evidence::{TimingKnown, known, readings};
use crate::id::{DeviceId, FunctionId, RoomId};
use crate::model::{Measurement, Motion, Profile, SeenIn, Selection, Site, Timing};
use crate::prove::{Matrix, WaitOfRoom};
use jiff::{SignedDuration, Timestamp};
use serde::Serialize;
use utoipa::ToSchema;

/// A motor runs no longer than so in a quarter of an hour, in ms, or its thermal stop falsifies what is read (*common
/// practice* for tubular motors).
pub const MOTOR_RUNS_MS: u32 = 240_000;

/// The quarter of an hour.
const MOTOR_RESTS: SignedDuration = SignedDuration::from_mins(15);

/// A time that can be measured.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TimingLine {
    /// What the readings of the house say.
    pub known: TimingKnown,
    /// What those of the rehearsal room would say.
    pub rehearsed: TimingKnown,
    /// How many verdicts hang on it; none where no plan of the room waits for it.
    pub wait: Option<WaitOfRoom>,
    /// The key that starts it; none where a hand does (the mains).
    pub starts: Option<FunctionId>,
    /// The key that leads back to where the next lap starts; none where nothing has to be sent.
    pub back: Option<FunctionId>,
    /// What is seen at its end.
    pub look_for: String,
    /// What to take care of.
    pub care: Option<String>,
    /// How often the device was started and timed in the house, where each lap starts it: its lamp feels every one.
    pub strikes: usize,
    /// Until when its motor has to rest, in UTC; none where it may run.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub rests_until: Option<Timestamp>,
    /// Until when a lap counts as hot, in UTC: the device has not cooled from the one before.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub hot_until: Option<Timestamp>,
}

/// A device whose shortest pause can be found.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct GapDevice {
    /// Which.
    pub device: DeviceId,
    /// Keys whose effect can be counted.
    pub keys: Vec<FunctionId>,
    /// The digits of a number that it takes, for the longest pause between them; empty where it takes none.
    pub number: Vec<FunctionId>,
    /// What the readings say.
    pub known: TimingKnown,
}

/// The stopwatch of a room.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Stopwatch {
    /// What can be measured: what decides most verdicts first.
    pub lines: Vec<TimingLine>,
    /// Waits that are only assumed, or from a profile.
    pub open: usize,
    /// The coverage that the house wants, in %.
    pub percent: u8,
    /// Devices whose shortest pause can be found, each with the keys that may be sent in bursts.
    pub gaps: Vec<GapDevice>,
}

/// What can be measured in a room whose verdicts are these, and how well each is known now.
#[must_use]
pub fn stopwatch(site: &Site, room: RoomId, matrix: &Matrix, now: Timestamp) -> Stopwatch {
    let place = |known: &TimingKnown| {
        matrix.waits.iter().position(|wait| (wait.rest.device, wait.rest.timing) == (known.device, Some(known.timing)))
    };
    let mut lines = Vec::new();
    let mut gaps = Vec::new();
    for device in site.devices_in(room).filter(|device| device.room == room) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        for timing in Timing::ALL.into_iter().filter(|timing| !timing.is_pause()) {
            let known_here = known(site, device.id, timing, false);
            if known_here.in_use.is_none() && known_here.n == 0 && timing != Timing::Boot {
                continue;
            }
            let Lap { starts, back, look_for } = Lap::of(&profile, timing);
            lines.push(TimingLine {
                rehearsed: known(site, device.id, timing, true),
                wait: place(&known_here).and_then(|at| matrix.waits.get(at)).cloned(),
                starts,
                back,
                look_for: look_for.to_owned(),
                care: care(&site.device_name(device.id), &profile, timing),
                strikes: if is_start(timing) { laps(site, device.id, is_start).count() } else { 0 },
                rests_until: if is_travel(timing) { rests_until(site, device.id, now) } else { None },
                hot_until: if is_start(timing) { hot_until(site, device.id, now) } else { None },
                known: known_here,
            });
        }
        let keys = gap::keys(site, device.id);
        if !keys.is_empty() {
            let number = gap::number(site, device.id).map(|(_, keys)| keys).unwrap_or_default();
            gaps.push(GapDevice { device: device.id, keys, number, known: known(site, device.id, Timing::Gap, false) });
        }
    }
    lines.sort_by_key(|line| {
        let decides = place(&line.known);
        (decides.is_none(), decides, line.known.in_use.is_none())
    });
    let open = matrix.waits.iter().filter(|wait| !wait.rest.holds).count();
    Stopwatch { lines, open, percent: site.house.coverage_percent, gaps }
}

/// The keys that start a time and lead back, and what is seen at its end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Lap {
    /// The key that starts it; none where a hand does.
    pub starts: Option<FunctionId>,
    /// The key that leads back to where the next lap starts.
    pub back: Option<FunctionId>,
    /// What is seen at its end.
    pub look_for: &'static str,
}

impl Lap {
    /// Of one time of a model.
    #[must_use]
    pub fn of(profile: &Profile, timing: Timing) -> Self {
        let power = profile.power_keys();
        let (on, off) = (power.map(|keys| keys.0), power.map(|keys| keys.1));
        let motion = |of: fn(&Motion) -> FunctionId| profile.motion.as_ref().map(of);
        let (starts, back, look_for) = match timing {
            Timing::WarmUp => (on, off, "it takes a command: its list opens, its lamp stops blinking"),
            Timing::Picture => (on, off, "its picture or its sound is there"),
            Timing::CoolDown => (off, on, "its fan stops and power keys work again"),
            Timing::Input => (profile.inputs.iter().find_map(|input| input.select), None, "the other input is there"),
            Timing::TravelUp => (motion(|own| own.up), motion(|own| own.down), "it stands at its upper end"),
            Timing::TravelDown => (motion(|own| own.down), motion(|own| own.up), "it stands at its lower end"),
            Timing::MotorPause => {
                (profile.motion.and_then(|own| own.stop), None, "the motor has come to rest and may be reversed")
            }
            Timing::ListCloses => match profile.selection {
                Selection::Menu { open, .. } => (Some(open), None, "its list is gone"),
                _ => (None, None, "its list is gone"),
            },
            Timing::Coupling => (on, off, "what is coupled to it follows"),
            Timing::Boot => (None, None, "it answers again"),
            Timing::Gap | Timing::Digits => (None, None, "the presses that were seen"),
        };
        Self { starts, back, look_for }
    }
}

/// What to take care of while this is measured again and again.
fn care(name: &str, profile: &Profile, timing: Timing) -> Option<String> {
    match timing {
        Timing::TravelUp | Timing::TravelDown | Timing::MotorPause => Some(format!(
            "{name} moves: keep clear, and stand where you can see it. After 4 min of running let the motor rest for a quarter of an hour (common practice): its thermal stop would falsify the readings."
        )),
        Timing::WarmUp | Timing::Picture | Timing::CoolDown if profile.times.cool_down.hi_ms > 5_000 => Some(format!(
            "Each lap strikes the lamp of {name} once and has to wait out its cooling; a lap that does not counts as hot."
        )),
        _ => None,
    }
}

/// Does something travel in it?
const fn is_travel(timing: Timing) -> bool {
    matches!(timing, Timing::TravelUp | Timing::TravelDown)
}

/// Is the device started for it?
const fn is_start(timing: Timing) -> bool {
    matches!(timing, Timing::WarmUp | Timing::Picture)
}

/// Laps of these times of a device in the house.
fn laps(site: &Site, device: DeviceId, of: fn(Timing) -> bool) -> impl Iterator<Item = &Measurement> {
    let of_these = Timing::ALL.into_iter().filter(move |timing| of(*timing));
    of_these.flat_map(move |timing| readings(site, device, timing)).filter(|own| own.seen == SeenIn::House)
}

/// Until when a motor has to rest after its laps; none where they leave it some time. A lap that was struck has run all
/// the same.
#[must_use]
pub fn rests_until(site: &Site, device: DeviceId, now: Timestamp) -> Option<Timestamp> {
    let mut runs: Vec<&Measurement> = laps(site, device, is_travel).filter(|own| own.at <= now).collect();
    runs.sort_by_key(|own| std::cmp::Reverse(own.at));
    let mut ran_ms = 0_u32;
    // The run that fills the measure, looking back from the last one: once that is a quarter of an hour ago, it may run.
    let fills = runs.into_iter().find(|own| {
        ran_ms = ran_ms.saturating_add(own.ms);
        ran_ms >= MOTOR_RUNS_MS
    })?;
    fills.at.checked_add(MOTOR_RESTS).ok().filter(|until| *until > now)
}

/// Until when a device has not cooled from its last start before now; none where it has, or was not started.
#[must_use]
pub fn hot_until(site: &Site, device: DeviceId, now: Timestamp) -> Option<Timestamp> {
    let cools_ms = site.profile_of(device)?.times.cool_down.hi_ms;
    let last = laps(site, device, is_start).map(|own| own.at).filter(|at| *at <= now).max()?;
    last.checked_add(SignedDuration::from_millis(i64::from(cools_ms))).ok().filter(|until| *until > now)
}

/// Does a lap count as hot: did it begin before the device had cooled from the one before?
#[must_use]
pub fn is_hot(site: &Site, lap: &Measurement) -> bool {
    let began = lap.at.checked_sub(SignedDuration::from_millis(i64::from(lap.ms))).unwrap_or(lap.at);
    let cools_ms = site.profile_of(lap.device).map_or(0, |own| own.times.cool_down.hi_ms);
    let others = laps(site, lap.device, is_start).filter(|own| own.id != lap.id && own.at <= lap.at);
    let cooled = others
        .map(|own| own.at)
        .max()
        .and_then(|last| last.checked_add(SignedDuration::from_millis(i64::from(cools_ms))).ok());
    lap.seen == SeenIn::House && is_start(lap.timing) && cooled.is_some_and(|until| began < until)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::id::MeasurementId;
    use crate::model::Entity;
    use crate::prove::Analysis;
    use rstest::rstest;
    use uuid::Uuid;

    fn at(s: i64) -> Timestamp {
        Timestamp::from_second(1_800_000_000 + s).unwrap()
    }

    fn lap(number: u128, device: DeviceId, timing: Timing, ms: u32, at_s: i64) -> Measurement {
        Measurement::new(MeasurementId(Uuid::from_u128(number)), device, timing, ms, at(at_s))
    }

    fn with(laps: impl IntoIterator<Item = Measurement>) -> Site {
        let mut site = demo::with_disc();
        site.measurements = Default::default();
        laps.into_iter().for_each(|lap| site.put(Entity::Measurement(lap)));
        site
    }

    #[test]
    fn a_motor_runs_four_minutes_in_a_quarter_of_an_hour_and_rests_then() {
        let down = |number: u128, at_s| lap(number, ids::screen(), Timing::TravelDown, 24_000, at_s);
        let nine = with((1..=9).map(|n| down(n, i64::try_from(n).unwrap() * 30)));
        assert_eq!(rests_until(&nine, ids::screen(), at(400)), None, "216 s of 240");
        let ten = with((1..=10).map(|n| down(n, i64::try_from(n).unwrap() * 30)));
        assert_eq!(
            rests_until(&ten, ids::screen(), at(400)),
            Some(at(30 + 900)),
            "until the first is a quarter of an hour ago"
        );
        assert_eq!(rests_until(&ten, ids::screen(), at(30 + 900)), None, "and no longer");
        // One more of each direction: the last ten of them fill the measure.
        let up = lap(11, ids::screen(), Timing::TravelUp, 24_000, 330);
        let eleven = with((1..=10).map(|n| down(n, i64::try_from(n).unwrap() * 30)).chain([up]));
        assert_eq!(rests_until(&eleven, ids::screen(), at(400)), Some(at(60 + 900)));
        let rehearsed = with((1..=10).map(|n| Measurement { seen: SeenIn::Rehearsed, ..down(n, 0) }));
        assert_eq!(rests_until(&rehearsed, ids::screen(), at(400)), None);
        assert_eq!(rests_until(&ten, ids::projector(), at(400)), None);
    }

    #[rstest]
    #[case::a_start_right_after_a_start(Timing::WarmUp, 60, true)]
    #[case::after_it_has_cooled(Timing::WarmUp, 3_600, false)]
    #[case::what_starts_nothing(Timing::Input, 60, false)]
    fn a_start_before_it_has_cooled_is_hot(#[case] timing: Timing, #[case] after_s: i64, #[case] hot: bool) {
        let site = with([lap(1, ids::projector(), Timing::Picture, 25_000, 0)]);
        assert!(site.profile_of(ids::projector()).unwrap().times.cool_down.hi_ms > 60_000);
        let next = lap(2, ids::projector(), timing, 20_000, after_s);
        assert_eq!(is_hot(&site, &next), hot);
        assert!(!is_hot(&site, &Measurement { seen: SeenIn::Rehearsed, ..next.clone() }));
        assert!(!is_hot(&with([]), &next));
    }

    #[test]
    fn a_lap_that_begins_hot_and_ends_cool_is_hot() {
        let site = with([lap(1, ids::projector(), Timing::WarmUp, 25_000, 0)]);
        assert_eq!(hot_until(&site, ids::projector(), at(-1)), None, "what is still to come makes nothing hot");
        let until = hot_until(&site, ids::projector(), at(1)).unwrap();
        let cools_s = (until - at(0)).total(jiff::Unit::Second).unwrap();
        assert_eq!(cools_s * 1_000.0, f64::from(site.profile_of(ids::projector()).unwrap().times.cool_down.hi_ms));
        let next = |began: SignedDuration| Measurement {
            at: until + began + SignedDuration::from_secs(20),
            ..lap(2, ids::projector(), Timing::WarmUp, 20_000, 0)
        };
        assert!(is_hot(&site, &next(SignedDuration::from_millis(-1))));
        assert!(!is_hot(&site, &next(SignedDuration::ZERO)));
    }

    #[test]
    fn what_decides_most_verdicts_stands_first_and_what_no_plan_needs_last() {
        let site = with([]);
        let matrix = Analysis::of(&site, ids::boat_hall()).matrix();
        let all = stopwatch(&site, ids::boat_hall(), &matrix, at(0));
        let waits: Vec<_> = matrix.waits.iter().filter(|wait| wait.rest.timing.is_some()).collect();
        let first = &all.lines[0];
        assert_eq!((Some(first.known.timing), first.known.device), (waits[0].rest.timing, waits[0].rest.device));
        let needed = all.lines.iter().take_while(|line| line.wait.is_some()).count();
        assert!(needed > 3 && all.lines[needed..].iter().all(|line| line.wait.is_none()));
        assert_eq!(all.open, matrix.waits.iter().filter(|wait| !wait.rest.holds).count());
        assert!(all.gaps.iter().any(|gap| gap.device == ids::receiver()));
        assert!(
            all.lines.iter().all(|line| line.strikes == 0 && line.rests_until.is_none() && line.hot_until.is_none())
        );
    }

    #[test]
    fn starts_are_counted_whatever_was_timed_by_them() {
        let site = with([
            lap(1, ids::projector(), Timing::WarmUp, 25_000, 0),
            lap(2, ids::projector(), Timing::Picture, 31_000, 900),
            lap(3, ids::projector(), Timing::CoolDown, 90_000, 1_800),
        ]);
        let all = stopwatch(&site, ids::boat_hall(), &Analysis::of(&site, ids::boat_hall()).matrix(), at(0));
        let strikes = |timing| {
            let of = |line: &&TimingLine| (line.known.device, line.known.timing) == (ids::projector(), timing);
            all.lines.iter().find(of).unwrap().strikes
        };
        assert_eq!((strikes(Timing::WarmUp), strikes(Timing::Picture), strikes(Timing::CoolDown)), (2, 2, 0));
    }

    #[test]
    fn every_lap_of_the_projector_begins_with_a_key_and_leads_back() {
        let site = with([]);
        let profile = site.profile_of(ids::projector()).unwrap();
        let (on, off) = profile.power_keys().unwrap();
        let keys = |timing| {
            let own = Lap::of(&profile, timing);
            (own.starts, own.back)
        };
        assert_eq!(keys(Timing::WarmUp), (Some(on), Some(off)));
        assert_eq!(keys(Timing::CoolDown), (Some(off), Some(on)));
        assert_eq!(keys(Timing::Boot), (None, None));
    }
}
