//! Which cues fire when something happens, and what they do. The runtime and the preview of an evening ask the same
//! [`Watch`]; it has no clock and sends nothing.

use crate::id::{ActivityId, CueId, DeviceId, FunctionId, LookId, RoomId, SwitchId, ZoneId};
use crate::light::fade::Fade;
use crate::light::hours;
use crate::model::{Also, Cue, Gesture, Light, Lighting, Moment, Playback, Provided, Site, Situation, Standpoint};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// Something that happens in a room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "happens")]
pub enum Happening {
    /// The room goes into an activity.
    Starts {
        /// Which.
        activity: ActivityId,
    },
    /// The room goes off.
    RoomOff,
    /// A source says what it does.
    Says {
        /// Which.
        device: DeviceId,
        /// What.
        transport: Playback,
    },
    /// A key of a source is sent by us.
    Sent {
        /// To which.
        device: DeviceId,
        /// Which key.
        function: FunctionId,
    },
    /// A source says that the credits roll.
    Credits {
        /// Which.
        device: DeviceId,
    },
    /// A sensor is tripped, or at rest again.
    Sensor {
        /// Which.
        device: DeviceId,
        /// Tripped?
        tripped: bool,
    },
    /// A key of a keypad.
    Press {
        /// Of which.
        device: DeviceId,
        /// Which key.
        function: FunctionId,
        /// How.
        gesture: Gesture,
    },
    /// A level is set by hand on the wall.
    Hand {
        /// Of which zone.
        zone: ZoneId,
        /// How bright, in %.
        percent: u8,
    },
    /// A mode switch is set.
    Set {
        /// Which.
        switch: SwitchId,
        /// On?
        on: bool,
    },
    /// A look is called from a surface.
    Look {
        /// Which.
        look: LookId,
    },
    /// A level is set from a surface, or from a look of another room.
    Dim {
        /// Of which zone.
        zone: ZoneId,
        /// How bright, in %.
        percent: u8,
        /// How long the fade takes, in ms.
        fade_ms: u32,
    },
    /// The time of a cue of the clock or the sun has come.
    Due {
        /// Of which cue.
        cue: CueId,
    },
}

/// What is to be done.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "do")]
pub enum CueAct {
    /// A zone fades to a level.
    Level {
        /// Which.
        zone: ZoneId,
        /// How bright, in %.
        percent: u8,
        /// How long the fade takes, in ms.
        fade_ms: u32,
    },
    /// A situation is asked for.
    Ask {
        /// Which.
        to: Situation,
    },
    /// A source is told to play, pause or stop.
    Transport {
        /// Which.
        device: DeviceId,
        /// What.
        transport: Playback,
    },
    /// Anything else that a cue says.
    Also {
        /// What.
        what: Also,
    },
}

/// A cue that fired, or that would have but for what was not so.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Fired {
    /// When, in ms.
    pub at_ms: u64,
    /// Which.
    pub cue: CueId,
    /// Why it did not; none where it fired.
    pub held: Option<String>,
}

/// Something that comes by itself.
#[derive(Debug, Clone, PartialEq)]
enum Later {
    Off,
    Reset(SwitchId),
    Back,
    /// The second time of a cue of the clock: what it set goes back.
    Until(Box<Held>),
}

/// What a cue of the clock found when its first time came.
#[derive(Debug, Clone, PartialEq)]
struct Held {
    cue: CueId,
    levels: BTreeMap<ZoneId, f64>,
    switches: Vec<(SwitchId, bool)>,
    fade_ms: u32,
}

/// A short visit elsewhere.
#[derive(Debug, Clone, PartialEq)]
struct Aside {
    cue: CueId,
    device: DeviceId,
    activity: Option<ActivityId>,
    levels: BTreeMap<ZoneId, f64>,
    left: bool,
}

/// What is known of the light of a room, and of what decides over it.
#[derive(Debug, Clone)]
pub struct Watch {
    lighting: Lighting,
    place: Option<Standpoint>,
    /// The time of the world at 0 ms.
    start: Timestamp,
    activity: Option<ActivityId>,
    switches: BTreeMap<SwitchId, bool>,
    levels: BTreeMap<ZoneId, Fade>,
    before: BTreeMap<ZoneId, f64>,
    later: Vec<(u64, Later)>,
    aside: Option<Aside>,
    /// The activity that is come back to from a visit: its start is no arrival.
    returning: Option<ActivityId>,
    /// Cues that led to what is asked for: none is twice in one chain.
    chain: BTreeSet<CueId>,
    /// Up to when moments of the clock and the sun have been looked at, in ms.
    seen_ms: u64,
    fired: Vec<Fired>,
}

impl Watch {
    /// A room that is off and dark, at this time of the world.
    #[must_use]
    pub fn new(site: &Site, room: RoomId, start: Timestamp) -> Self {
        let lighting = site.room(room).map(|room| room.lighting.clone()).unwrap_or_default();
        let switches = lighting.switches.iter().map(|switch| (switch.id, switch.at_first)).collect();
        Self {
            lighting,
            place: site.house.place.clone(),
            start,
            activity: None,
            switches,
            levels: BTreeMap::new(),
            before: BTreeMap::new(),
            later: vec![],
            aside: None,
            returning: None,
            chain: BTreeSet::new(),
            seen_ms: 0,
            fired: vec![],
        }
    }

    /// Takes over an edited house.
    pub fn refit(&mut self, site: &Site, room: RoomId) {
        self.lighting = site.room(room).map(|room| room.lighting.clone()).unwrap_or_default();
        self.place = site.house.place.clone();
        for switch in &self.lighting.switches {
            self.switches.entry(switch.id).or_insert(switch.at_first);
        }
    }

    /// Up to when moments of the clock and the sun have been looked at, in ms.
    #[must_use]
    pub fn seen(&self) -> u64 {
        self.seen_ms
    }

    /// The time of the world at a moment.
    #[must_use]
    pub fn time(&self, now_ms: u64) -> Timestamp {
        let second = self.start.as_second() + i64::try_from(now_ms / 1000).unwrap_or(0);
        Timestamp::from_second(second).unwrap_or(self.start)
    }

    /// Moves the time of the world, so that it is this one at `now_ms`.
    pub fn set_time(&mut self, now_ms: u64, time: Timestamp) {
        let second = time.as_second() - i64::try_from(now_ms / 1000).unwrap_or(0);
        self.start = Timestamp::from_second(second).unwrap_or(time);
        self.seen_ms = now_ms;
    }

    /// The local day and the minute of it.
    #[must_use]
    pub fn local(&self, now_ms: u64) -> (Date, u16) {
        let local = self.time(now_ms).to_zoned(hours::zone(self.place.as_ref()));
        let minute = i32::from(local.hour()) * 60 + i32::from(local.minute());
        (local.date(), u16::try_from(minute).unwrap_or(0))
    }

    /// Is it dark outside? Taken to be so where the house stands nowhere and it is between 18:00 and 6:00.
    #[must_use]
    pub fn is_dark(&self, now_ms: u64) -> bool {
        match &self.place {
            Some(place) => place.is_dark(self.time(now_ms)),
            None => !(360..1080).contains(&self.local(now_ms).1),
        }
    }

    /// The level of a zone, in %.
    #[must_use]
    pub fn level(&self, zone: ZoneId, now_ms: u64) -> f64 {
        self.levels.get(&zone).map_or(0.0, |fade| fade.at(now_ms))
    }

    /// The level of every zone of the room, and of those that its looks set elsewhere, in %.
    fn all_levels(&self, now_ms: u64) -> BTreeMap<ZoneId, f64> {
        let own = self.lighting.zones.iter().map(|zone| zone.id);
        let set = self.lighting.looks.iter().flat_map(|look| &look.levels).map(|level| level.zone);
        own.chain(set).map(|zone| (zone, self.level(zone, now_ms))).collect()
    }

    /// The fade that a zone is in, or was in last.
    #[must_use]
    pub fn fade(&self, zone: ZoneId) -> Fade {
        self.levels.get(&zone).copied().unwrap_or_default()
    }

    /// Does any cue wait for this on a key? Where nobody cares for a double tap, a tap need not wait for one.
    #[must_use]
    pub fn cares_for(&self, device: DeviceId, function: FunctionId, gesture: Gesture) -> bool {
        let moment = Moment::Press { device, function, gesture };
        self.lighting.cues.iter().any(|cue| !cue.off && cue.moment == moment)
    }

    /// Is a mode switch on?
    #[must_use]
    pub fn is_on(&self, switch: SwitchId) -> bool {
        self.switches.get(&switch).copied().unwrap_or(false)
    }

    /// The activity that the room is in.
    #[must_use]
    pub fn activity(&self) -> Option<ActivityId> {
        self.activity
    }

    /// The room is taken for something, and nothing is to follow from that.
    pub fn taken_for(&mut self, activity: Option<ActivityId>) {
        self.activity = activity;
    }

    /// What fired, and what was held, the newest last.
    #[must_use]
    pub fn fired(&self) -> &[Fired] {
        &self.fired
    }

    /// When something comes by itself after `now_ms`, in ms: a cue of the clock or the sun, a switch that goes off, the
    /// end of a visit elsewhere. Looked for in the next two days.
    #[must_use]
    pub fn next_ms(&self, now_ms: u64) -> Option<u64> {
        let timed = self.due_after(now_ms).into_iter().map(|(at_ms, _)| at_ms).min();
        self.later.iter().map(|(at, _)| *at).chain(timed).filter(|at| *at > now_ms).min()
    }

    /// The moments of the clock and the sun that come after `now_ms`, within two days.
    fn due_after(&self, now_ms: u64) -> Vec<(u64, CueId)> {
        let zone = hours::zone(self.place.as_ref());
        let today = self.time(now_ms).to_zoned(zone).date();
        let mut due = Vec::new();
        for day in [today.yesterday().ok(), Some(today), today.tomorrow().ok()].into_iter().flatten() {
            for cue in &self.lighting.cues {
                let Some(at) = hours::on(self.place.as_ref(), &cue.moment, day) else { continue };
                let ms = (at.as_second() - self.start.as_second()) * 1000;
                if let Ok(ms) = u64::try_from(ms)
                    && ms > now_ms
                {
                    due.push((ms, cue.id));
                }
            }
        }
        due.sort_unstable();
        due
    }

    /// Lets time pass: what comes by itself up to `now_ms`, each with its own time.
    pub fn pass(&mut self, now_ms: u64) -> Vec<(u64, CueAct)> {
        let mut done = Vec::new();
        loop {
            let due = self.due_after(self.seen_ms).into_iter().next().filter(|(at, _)| *at <= now_ms);
            let later = self.later.iter().enumerate().map(|(at, (ms, _))| (*ms, at)).min();
            let later = later.filter(|(at, _)| *at <= now_ms);
            match (due, later) {
                (None, None) => break,
                (Some((at_ms, _)), later) if later.is_none_or(|(ms, _)| at_ms <= ms) => {
                    // All cues of one moment fire together, in the order of the sheet.
                    let all: Vec<CueId> = self
                        .due_after(self.seen_ms)
                        .into_iter()
                        .filter(|(at, _)| *at == at_ms)
                        .map(|(_, c)| c)
                        .collect();
                    self.seen_ms = at_ms;
                    for cue in all {
                        done.extend(self.happen(at_ms, &Happening::Due { cue }).into_iter().map(|deed| (at_ms, deed)));
                    }
                }
                (_, Some((at_ms, index))) => {
                    let (_, what) = self.later.remove(index);
                    let deeds = match what {
                        Later::Off => vec![CueAct::Ask { to: Situation::Off }],
                        Later::Reset(switch) => self.happen(at_ms, &Happening::Set { switch, on: false }),
                        Later::Back => self.back(at_ms),
                        Later::Until(held) => self.let_go(at_ms, &held),
                    };
                    done.extend(deeds.into_iter().map(|deed| (at_ms, deed)));
                }
                (Some(_), None) => break,
            }
        }
        self.seen_ms = self.seen_ms.max(now_ms);
        done
    }

    /// Something happens: what is to be done.
    pub fn happen(&mut self, now_ms: u64, happening: &Happening) -> Vec<CueAct> {
        let (moments, only) = match self.taken_in(now_ms, happening) {
            Ok(fires) => fires,
            Err(deeds) => return deeds,
        };
        let asked = matches!(happening, Happening::Starts { .. } | Happening::RoomOff);
        if !asked {
            self.chain.clear();
        }
        let cues: Vec<Cue> = self
            .lighting
            .cues
            .iter()
            .filter(|cue| !cue.off)
            .filter(|cue| only == Some(cue.id) || moments.iter().any(|moment| is_at(&cue.moment, moment)))
            .cloned()
            .collect();
        let mut deeds = Vec::new();
        for cue in cues {
            self.fire(now_ms, &cue, &mut deeds);
        }
        if asked {
            self.chain.clear();
        }
        deeds
    }

    /// The moments of the cue sheet that something is, and the cue that was due.
    ///
    /// # Errors
    /// What is done at once, where no cue has a say in it.
    fn taken_in(&mut self, now_ms: u64, happening: &Happening) -> Result<(Vec<Moment>, Option<CueId>), Vec<CueAct>> {
        let mut moments = Vec::new();
        let mut only: Option<CueId> = None;
        match happening {
            Happening::Starts { activity } => {
                if let Some(before) = self.activity.filter(|before| before != activity) {
                    moments.push(Moment::Ends { activity: Some(before) });
                }
                self.activity = Some(*activity);
                if self.returning.take() == Some(*activity) {
                    return Err(vec![]);
                }
                moments.push(Moment::Starts { activity: Some(*activity) });
            }
            Happening::RoomOff => {
                if let Some(before) = self.activity.take() {
                    moments.push(Moment::Ends { activity: Some(before) });
                }
                self.later.retain(|(_, later)| matches!(later, Later::Reset(_) | Later::Until(_)));
                self.aside = None;
                moments.push(Moment::RoomOff);
            }
            Happening::Says { device, transport } => {
                moments.push(Moment::Says { device: *device, transport: *transport });
            }
            Happening::Sent { device, function } => {
                moments.push(Moment::Sent { device: *device, function: *function });
            }
            Happening::Credits { device } => moments.push(Moment::Credits { device: *device }),
            Happening::Sensor { device, tripped } => {
                moments.push(Moment::Sensor { device: *device, tripped: *tripped });
            }
            Happening::Press { device, function, gesture } => {
                moments.push(Moment::Press { device: *device, function: *function, gesture: *gesture });
            }
            Happening::Hand { zone, percent } => {
                // It holds until the next cue that sets this zone.
                self.levels.insert(*zone, Fade { to: f64::from(*percent), start_ms: now_ms, ..Fade::default() });
                return Err(vec![]);
            }
            Happening::Set { switch, on } => {
                moments.extend(self.set_switch(now_ms, *switch, *on));
            }
            Happening::Look { look } => {
                return Err(self.set_look(now_ms, *look));
            }
            Happening::Dim { zone, percent, fade_ms } => {
                let mut deeds = Vec::new();
                self.set(now_ms, *zone, *percent, *fade_ms, &mut deeds);
                return Err(deeds);
            }
            Happening::Due { cue } => only = Some(*cue),
        }
        Ok((moments, only))
    }

    fn set_look(&mut self, now_ms: u64, look: LookId) -> Vec<CueAct> {
        let mut deeds = Vec::new();
        if let Some(look) = self.lighting.look(look).cloned() {
            self.before = self.all_levels(now_ms);
            for level in &look.levels {
                self.set(now_ms, level.zone, level.percent, look.fade_ms, &mut deeds);
            }
        }
        deeds
    }

    fn fire(&mut self, now_ms: u64, cue: &Cue, deeds: &mut Vec<CueAct>) {
        let held = if self.chain.contains(&cue.id) {
            Some("it caused this itself".to_owned())
        } else {
            cue.provided.iter().find(|provided| !self.holds(provided, now_ms)).map(|not| self.not_so(not))
        };
        let fires = held.is_none();
        self.fired.push(Fired { at_ms: now_ms, cue: cue.id, held });
        if !fires {
            return;
        }
        self.chain.insert(cue.id);
        let was = self.all_levels(now_ms);
        self.hold(now_ms, cue, &was);
        match &cue.light {
            Light::Stays => {}
            Light::Look { look, fade_ms } => {
                if let Some(look) = self.lighting.look(*look).cloned() {
                    self.before.clone_from(&was);
                    for level in &look.levels {
                        self.set(now_ms, level.zone, level.percent, fade_ms.unwrap_or(look.fade_ms), deeds);
                    }
                }
            }
            Light::Before { fade_ms } => {
                for (zone, level) in std::mem::take(&mut self.before) {
                    self.set(now_ms, zone, percent(level), *fade_ms, deeds);
                }
            }
        }
        for also in &cue.also {
            self.also(now_ms, cue, also, &was, deeds);
        }
    }

    /// A cue of two clock times keeps what it found, to go back to it at the second.
    fn hold(&mut self, now_ms: u64, cue: &Cue, was: &BTreeMap<ZoneId, f64>) {
        let Moment::Clock { minute, until: Some(until) } = cue.moment else { return };
        let (look, fade_ms) = match &cue.light {
            Light::Look { look, fade_ms } => (self.lighting.look(*look), *fade_ms),
            Light::Stays | Light::Before { .. } => (None, None),
        };
        let fade_ms = fade_ms.or(look.map(|look| look.fade_ms)).unwrap_or(0);
        let zones: Vec<ZoneId> = look.into_iter().flat_map(|look| &look.levels).map(|level| level.zone).collect();
        let levels = zones.into_iter().map(|zone| (zone, was.get(&zone).copied().unwrap_or(0.0))).collect();
        let set = cue.also.iter().filter_map(|also| match also {
            Also::Set { switch, .. } => Some((*switch, self.is_on(*switch))),
            _ => None,
        });
        let switches = set.collect();
        // Over midnight, where the second time is the earlier one.
        let minutes = (u64::from(until) + 1440 - u64::from(minute)) % 1440;
        self.later.retain(|(_, later)| !matches!(later, Later::Until(held) if held.cue == cue.id));
        let held = Held { cue: cue.id, levels, switches, fade_ms };
        self.later.push((now_ms + minutes * 60_000, Later::Until(Box::new(held))));
    }

    /// The second time of a cue of the clock has come.
    fn let_go(&mut self, now_ms: u64, held: &Held) -> Vec<CueAct> {
        let mut deeds = Vec::new();
        for (zone, level) in &held.levels {
            self.set(now_ms, *zone, percent(*level), held.fade_ms, &mut deeds);
        }
        for (switch, on) in &held.switches {
            deeds.extend(self.happen(now_ms, &Happening::Set { switch: *switch, on: *on }));
        }
        deeds
    }

    /// A mode switch is set: what that is the moment of, if it changes. It goes off by itself, where it does so.
    fn set_switch(&mut self, now_ms: u64, switch: SwitchId, on: bool) -> Option<Moment> {
        let known = self.lighting.switch(switch)?;
        self.later.retain(|(_, later)| *later != Later::Reset(switch));
        if let Some(minutes) = known.off_after_min.filter(|_| on) {
            self.later.push((now_ms + u64::from(minutes) * 60_000, Later::Reset(switch)));
        }
        (self.switches.insert(switch, on) != Some(on)).then_some(Moment::Switched { switch, on })
    }

    /// What else a cue does; `was` is how the light was before it.
    fn also(&mut self, now_ms: u64, cue: &Cue, also: &Also, was: &BTreeMap<ZoneId, f64>, deeds: &mut Vec<CueAct>) {
        match also {
            Also::Macro { to } => deeds.push(CueAct::Ask { to: *to }),
            Also::Set { switch, on } => {
                // What follows from it belongs to the same chain.
                let Some(moment) = self.set_switch(now_ms, *switch, *on) else { return };
                let follow: Vec<Cue> =
                    self.lighting.cues.iter().filter(|cue| !cue.off && cue.moment == moment).cloned().collect();
                for next in follow {
                    self.fire(now_ms, &next, deeds);
                }
            }
            Also::PauseAndOff { device, after_s } => {
                deeds.push(CueAct::Transport { device: *device, transport: Playback::Paused });
                self.later.push((now_ms + u64::from(*after_s) * 1000, Later::Off));
            }
            Also::StepAside { device, to, minutes } => {
                if self.aside.as_ref().is_some_and(|aside| aside.cue == cue.id) {
                    // The same moment again: back.
                    deeds.extend(self.back(now_ms));
                    return;
                }
                let levels = was.clone();
                let left = to.is_some_and(|to| Some(to) != self.activity);
                self.aside = Some(Aside { cue: cue.id, device: *device, activity: self.activity, levels, left });
                deeds.push(CueAct::Transport { device: *device, transport: Playback::Paused });
                if let Some(to) = to.filter(|_| left) {
                    deeds.push(CueAct::Ask { to: Situation::In { activity: to } });
                }
                self.later.push((now_ms + u64::from(*minutes) * 60_000, Later::Back));
            }
            other => deeds.push(CueAct::Also { what: other.clone() }),
        }
    }

    /// Back from a visit elsewhere: source, playback and light as they were.
    fn back(&mut self, now_ms: u64) -> Vec<CueAct> {
        self.later.retain(|(_, later)| *later != Later::Back);
        let Some(aside) = self.aside.take() else { return vec![] };
        let mut deeds = Vec::new();
        if let Some(activity) = aside.activity.filter(|_| aside.left) {
            self.returning = Some(activity);
            deeds.push(CueAct::Ask { to: Situation::In { activity } });
        }
        deeds.push(CueAct::Transport { device: aside.device, transport: Playback::Playing });
        for (zone, level) in aside.levels {
            self.set(now_ms, zone, percent(level), 2_000, &mut deeds);
        }
        deeds
    }

    fn set(&mut self, now_ms: u64, zone: ZoneId, percent: u8, fade_ms: u32, deeds: &mut Vec<CueAct>) {
        self.levels.insert(zone, self.fade(zone).on_to(now_ms, percent, fade_ms));
        // Where two cues of one moment set a zone, the later one on the sheet wins.
        deeds.retain(|deed| !matches!(deed, CueAct::Level { zone: known, .. } if *known == zone));
        deeds.push(CueAct::Level { zone, percent: percent.min(100), fade_ms });
    }

    /// Does a condition hold?
    #[must_use]
    pub fn holds(&self, provided: &Provided, now_ms: u64) -> bool {
        let (day, minute) = self.local(now_ms);
        match provided {
            Provided::Between { from_min, to_min } if from_min <= to_min => (*from_min..*to_min).contains(&minute),
            Provided::Between { from_min, to_min } => minute >= *from_min || minute < *to_min,
            Provided::Days { days } => {
                u8::try_from(day.weekday().to_monday_one_offset()).is_ok_and(|day| days.contains(&day))
            }
            Provided::Dark { dark } => self.is_dark(now_ms) == *dark,
            Provided::Switch { switch, on } => self.is_on(*switch) == *on,
            Provided::In { activity } => self.activity == *activity,
            Provided::NotIn { activity } => self.activity != *activity,
        }
    }

    fn not_so(&self, provided: &Provided) -> String {
        match provided {
            Provided::Between { from_min, to_min } => {
                let clock = crate::words::clock;
                format!("it is not between {} and {}", clock(*from_min), clock(*to_min))
            }
            Provided::Days { .. } => "it is another day".to_owned(),
            Provided::Dark { dark: true } => "it is light outside".to_owned(),
            Provided::Dark { dark: false } => "it is dark outside".to_owned(),
            Provided::Switch { switch, on } => {
                let name = self.lighting.switch(*switch).map_or("a switch", |switch| switch.name.as_str());
                format!("{name} is {}", if *on { "off" } else { "on" })
            }
            Provided::In { .. } | Provided::NotIn { .. } => "the room is in something else".to_owned(),
        }
    }
}

#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "clamped")]
fn percent(level: f64) -> u8 {
    level.clamp(0.0, 100.0).round() as u8
}

/// Is what happened the moment of a cue? An activity that is named is also *any*.
#[must_use]
pub fn is_at(wanted: &Moment, happened: &Moment) -> bool {
    match (wanted, happened) {
        (Moment::Starts { activity: None }, Moment::Starts { .. })
        | (Moment::Ends { activity: None }, Moment::Ends { .. }) => true,
        _ => wanted == happened,
    }
}
