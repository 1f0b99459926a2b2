//! What is wrong with the cues of a room, by exact reasoning over intervals and conditions.
//!
//! The conditions of a cue are a conjunction: sets of minutes of the day, days of the week, dark or light, mode switches, and
//! what the room is in. Two cues *fight* where these can hold together, their moments are the same (or one implies the
//! other, or clock and sun coincide on a date of the horizon), and they give one zone different levels. Otherwise the
//! last one wins, which is no fight.

use crate::finding::Finding;
use crate::id::{ActivityId, CueId, DeviceId, RoomId, SwitchId, ZoneId};
use crate::light::hours;
use crate::light::watch::is_at;
use crate::model::{
    Also, Cue, DeviceKind, Disagreement, ExitPath, Feedback, FindingKind, Light, Lighting, Means, Moment, Profile,
    Provided, Site, Situation, Standpoint, Tell,
};
use jiff::ToSpan;
use jiff::civil::Date;
use std::collections::{BTreeMap, BTreeSet};

/// Minutes of a day.
const DAY: u16 = 1440;

/// For so many days coincidences of the clock and the sun are looked for.
const HORIZON_DAYS: i64 = 366;

/// The longest fade that can be seen as a flash, in ms: more than three changes a second are one (WCAG 2.2, 2.3.1).
const FLASH_MS: u32 = 167;

/// The longest that the way out may take to come up, in ms.
const RISE_MS: u32 = 1_000;

/// Sorted, disjoint intervals of minutes, the end not included.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Minutes(Vec<(u16, u16)>);

impl Minutes {
    /// The whole day.
    #[must_use]
    pub fn all() -> Self {
        Self(vec![(0, DAY)])
    }

    /// From one to another; over midnight, where the second is the earlier one.
    #[must_use]
    pub fn between(from: u16, to: u16) -> Self {
        let (from, to) = (from.min(DAY), to.min(DAY));
        Self(if from <= to { vec![(from, to)] } else { vec![(0, to), (from, DAY)] }).tidy()
    }

    fn tidy(mut self) -> Self {
        self.0.retain(|(from, to)| from < to);
        self
    }

    /// What is in both.
    #[must_use]
    pub fn and(&self, other: &Self) -> Self {
        let mut both = Vec::new();
        for (a, b) in &self.0 {
            for (c, d) in &other.0 {
                both.push((*a.max(c), *b.min(d)));
            }
        }
        both.sort_unstable();
        Self(both).tidy()
    }

    /// What is in none of it.
    #[must_use]
    pub fn rest(&self) -> Self {
        let mut rest = Vec::new();
        let mut from = 0;
        for &(start, end) in &self.0 {
            rest.push((from, start));
            from = end;
        }
        rest.push((from, DAY));
        Self(rest).tidy()
    }

    /// Is nothing in it?
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// Is this minute in it?
    #[must_use]
    pub fn has(&self, minute: u16) -> bool {
        self.0.iter().any(|(from, to)| (*from..*to).contains(&minute))
    }
}

/// What the room may be in.
#[derive(Debug, Clone, PartialEq, Eq)]
enum Within {
    Only(Option<ActivityId>),
    AllBut(BTreeSet<Option<ActivityId>>),
}

impl Within {
    fn and(&self, other: &Self) -> Option<Self> {
        match (self, other) {
            (Self::Only(a), Self::Only(b)) => (a == b).then(|| self.clone()),
            (Self::Only(a), Self::AllBut(not)) | (Self::AllBut(not), Self::Only(a)) => {
                (!not.contains(a)).then_some(Self::Only(*a))
            }
            (Self::AllBut(a), Self::AllBut(b)) => Some(Self::AllBut(a | b)),
        }
    }
}

/// A conjunction of conditions that can hold; what cannot is none at all.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Conditions {
    minutes: Minutes,
    /// A bit a day, Monday first.
    days: u8,
    dark: Option<bool>,
    switches: BTreeMap<SwitchId, bool>,
    within: Within,
}

impl Conditions {
    /// Nothing is asked for.
    #[must_use]
    pub fn any() -> Self {
        Self {
            minutes: Minutes::all(),
            days: 0b111_1111,
            dark: None,
            switches: BTreeMap::new(),
            within: Within::AllBut(BTreeSet::new()),
        }
    }

    fn of_one(provided: &Provided) -> Self {
        let any = Self::any();
        match provided {
            Provided::Between { from_min, to_min } => Self { minutes: Minutes::between(*from_min, *to_min), ..any },
            Provided::Days { days } => {
                let bits = days.iter().filter(|day| (1..=7).contains(*day)).fold(0, |bits, day| bits | 1 << (day - 1));
                Self { days: bits, ..any }
            }
            Provided::Dark { dark } => Self { dark: Some(*dark), ..any },
            Provided::Switch { switch, on } => Self { switches: BTreeMap::from([(*switch, *on)]), ..any },
            Provided::In { activity } => Self { within: Within::Only(*activity), ..any },
            Provided::NotIn { activity } => Self { within: Within::AllBut(BTreeSet::from([*activity])), ..any },
        }
    }

    /// Both hold.
    #[must_use]
    pub fn and(&self, other: &Self) -> Option<Self> {
        let minutes = self.minutes.and(&other.minutes);
        let days = self.days & other.days;
        let dark = match (self.dark, other.dark) {
            (Some(a), Some(b)) if a != b => return None,
            (a, b) => a.or(b),
        };
        let mut switches = self.switches.clone();
        for (&switch, &on) in &other.switches {
            if switches.insert(switch, on).is_some_and(|known| known != on) {
                return None;
            }
        }
        let within = self.within.and(&other.within)?;
        (!minutes.is_empty() && days != 0).then_some(Self { minutes, days, dark, switches, within })
    }

    /// All conditions of a cue, and what its moment implies.
    #[must_use]
    pub fn of(cue: &Cue) -> Option<Self> {
        let implied = match &cue.moment {
            Moment::Starts { activity: Some(activity) } => Provided::In { activity: Some(*activity) },
            Moment::Starts { activity: None } => Provided::NotIn { activity: None },
            Moment::RoomOff => Provided::In { activity: None },
            Moment::Switched { switch, on } => Provided::Switch { switch: *switch, on: *on },
            _ => Provided::Between { from_min: 0, to_min: DAY },
        };
        cue.provided.iter().chain([&implied]).try_fold(Self::any(), |all, one| all.and(&Self::of_one(one)))
    }

    /// Is there a date of the year, and a minute of it, at which clock, day and sun allow it?
    #[must_use]
    pub fn happens(&self, year: &Year<'_>) -> bool {
        let Some(dark) = self.dark else { return true };
        let fits =
            |(day, _): &(Date, Minutes)| self.has_day(*day) && !self.minutes.and(&year.lit(*day, dark)).is_empty();
        year.days.iter().any(fits)
    }

    fn has_day(&self, day: Date) -> bool {
        self.days & 1 << (day.weekday().to_monday_one_offset() - 1) != 0
    }

    /// Does it allow this moment of a date?
    fn allows(&self, year: &Year<'_>, day: Date, minute: u16) -> bool {
        let light = self.dark.is_none_or(|dark| year.lit(day, dark).has(minute));
        self.has_day(day) && self.minutes.has(minute) && light
    }
}

/// The year that is reasoned over: any will do, and this one starts with a Friday.
const FIRST: Date = jiff::civil::date(2027, 1, 1);

/// When it is dark outside, day by day.
pub struct Year<'a> {
    place: Option<&'a Standpoint>,
    days: Vec<(Date, Minutes)>,
}

impl<'a> Year<'a> {
    /// A year at a place.
    #[must_use]
    pub fn at(place: Option<&'a Standpoint>) -> Self {
        let dates = (0..HORIZON_DAYS).filter_map(|after| FIRST.checked_add(after.days()).ok());
        let days = dates.map(|day| (day, place.map_or_else(Minutes::all, |place| dark(place, day)))).collect();
        Self { place, days }
    }

    /// The minutes of a day at which it is dark, or light; all of them where nobody has said where the house stands.
    fn lit(&self, day: Date, is_dark: bool) -> Minutes {
        let known = self.days.iter().find(|(known, _)| *known == day);
        match (self.place, known) {
            (Some(_), Some((_, dark))) if is_dark => dark.clone(),
            (Some(_), Some((_, dark))) => dark.rest(),
            _ => Minutes::all(),
        }
    }
}

/// The minutes of a day at which it is dark outside.
fn dark(place: &Standpoint, day: Date) -> Minutes {
    if let Some((rise, set)) = place.minute_of(day, true).zip(place.minute_of(day, false)) {
        return Minutes::between(set, rise);
    }
    // The sun stays up or down all day.
    let noon = day.at(12, 0, 0, 0).to_zoned(place.time_zone()).map(|noon| place.is_dark(noon.timestamp()));
    if noon.is_ok_and(|dark| dark) { Minutes::all() } else { Minutes(vec![]) }
}

/// Everything that is wrong with the cues of a room.
#[must_use]
pub fn findings(site: &Site, room: RoomId) -> Vec<Finding> {
    let Some(own) = site.room(room) else { return vec![] };
    if own.lighting == Lighting::default() {
        return vec![];
    }
    let place = site.house.place.as_ref();
    let find = Find { site, room, lighting: &own.lighting, place, year: Year::at(place) };
    let mut found = find.fights();
    found.extend(find.never_fires());
    found.extend(find.cycles());
    found.extend(find.switches());
    found.extend(find.ways());
    found.extend(find.flashes());
    found.extend(find.floors());
    found.extend(find.loud());
    found.extend(find.unattended());
    found
}

struct Find<'a> {
    site: &'a Site,
    room: RoomId,
    lighting: &'a Lighting,
    place: Option<&'a Standpoint>,
    year: Year<'a>,
}

impl Find<'_> {
    fn days(&self) -> impl Iterator<Item = Date> {
        self.year.days.iter().map(|(day, _)| *day)
    }

    fn cues(&self) -> impl Iterator<Item = &Cue> {
        self.lighting.cues.iter().filter(|cue| !cue.off)
    }

    fn say(&self, kind: FindingKind) -> Finding {
        Finding::of(self.site, kind)
    }

    /// The levels that a cue gives; none at all for what goes back to before.
    fn target(&self, cue: &Cue) -> BTreeMap<ZoneId, u8> {
        match &cue.light {
            Light::Look { look, .. } => {
                let look = self.lighting.look(*look);
                look.into_iter().flat_map(|look| &look.levels).map(|level| (level.zone, level.percent)).collect()
            }
            Light::Stays | Light::Before { .. } => BTreeMap::new(),
        }
    }

    fn fade_ms(&self, cue: &Cue) -> u32 {
        match &cue.light {
            Light::Look { look, fade_ms } => {
                fade_ms.or_else(|| self.lighting.look(*look).map(|look| look.fade_ms)).unwrap_or(0)
            }
            Light::Before { fade_ms } => *fade_ms,
            Light::Stays => 0,
        }
    }

    fn profile(&self, device: DeviceId) -> Option<std::borrow::Cow<'_, Profile>> {
        self.site.profile_of(device)
    }

    fn fights(&self) -> Vec<Finding> {
        let cues: Vec<&Cue> = self.cues().collect();
        let mut found = Vec::new();
        for (at, a) in cues.iter().enumerate() {
            for b in &cues[at + 1..] {
                let (left, right) = (self.target(a), self.target(b));
                let differs =
                    left.iter().find(|(zone, percent)| right.get(*zone).is_some_and(|other| other != *percent));
                let before = |cue: &Cue| matches!(cue.light, Light::Before { .. });
                // What it was before can be anything.
                let with_before = before(a) && !right.is_empty() || before(b) && !left.is_empty();
                if differs.is_none() && !with_before {
                    continue;
                }
                let Some(together) = Conditions::of(a).zip(Conditions::of(b)).and_then(|(a, b)| a.and(&b)) else {
                    continue;
                };
                let Some(on) = self.coincide(a, b, &together) else { continue };
                let zone = differs.map(|(&zone, &percent)| {
                    let other_percent = right.get(&zone).copied().unwrap_or(percent);
                    Disagreement { zone, percent, other_percent }
                });
                let on = on.map(|day| day.to_string());
                found.push(self.say(FindingKind::Fight { cue: a.id, other: b.id, on, zone }));
            }
        }
        found
    }

    /// Do two moments coincide while `together` holds? With the date on which, if that matters.
    fn coincide(&self, a: &Cue, b: &Cue, together: &Conditions) -> Option<Option<Date>> {
        let timed = |moment: &Moment| matches!(moment, Moment::Clock { .. } | Moment::Sun { .. });
        if timed(&a.moment) && timed(&b.moment) {
            let zone = hours::zone(self.place);
            let minute = |moment: &Moment, day: Date| {
                let local = hours::on(self.place, moment, day)?.to_zoned(zone.clone());
                let minute = i32::from(local.hour()) * 60 + i32::from(local.minute());
                Some((local.date(), u16::try_from(minute).ok()?))
            };
            let meet = |day: &Date| {
                minute(&a.moment, *day)
                    .zip(minute(&b.moment, *day))
                    .is_some_and(|(a, b)| a == b && together.allows(&self.year, a.0, a.1))
            };
            return self.days().find(meet).map(Some);
        }
        let same =
            is_at(&a.moment, &b.moment) || is_at(&b.moment, &a.moment) || self.implies(a, b) || self.implies(b, a);
        (same && together.happens(&self.year)).then_some(None)
    }

    /// Does the moment of one bring about that of the other at once?
    fn implies(&self, a: &Cue, b: &Cue) -> bool {
        match (&a.moment, &b.moment) {
            // Room-off ends whatever was on.
            (Moment::RoomOff, Moment::Ends { .. }) => true,
            // The key that is sent is what the source then says that it does.
            (Moment::Sent { device, function }, Moment::Says { device: says, transport }) => {
                let means = self.profile(*device).and_then(|profile| profile.function(*function)?.means);
                let wants = match transport {
                    crate::model::Playback::Playing => Means::Play,
                    crate::model::Playback::Paused => Means::Pause,
                    crate::model::Playback::Stopped => Means::Stop,
                };
                device == says && means == Some(wants)
            }
            (_, Moment::Switched { switch, on }) => {
                a.also.iter().any(|also| matches!(also, Also::Set { switch: s, on: o } if s == switch && o == on))
            }
            _ => false,
        }
    }

    fn never_fires(&self) -> Vec<Finding> {
        let mut found = Vec::new();
        for cue in self.cues() {
            let Some(why) = self.why_never(cue) else { continue };
            found.push(self.say(FindingKind::NeverFires { cue: cue.id, why }));
        }
        found
    }

    fn why_never(&self, cue: &Cue) -> Option<String> {
        let Some(conditions) = Conditions::of(cue) else {
            return Some("its conditions exclude each other, or its own moment".to_owned());
        };
        for (&switch, &on) in &conditions.switches {
            let known = self.lighting.switch(switch);
            let set = self.cues().any(|other| {
                other.also.iter().any(|also| matches!(also, Also::Set { switch: s, on: o } if *s == switch && *o == on))
            });
            let falls = !on && known.is_some_and(|known| known.off_after_min.is_some());
            if known.is_none_or(|known| known.at_first != on) && !set && !falls {
                let name = known.map_or("a switch that is gone", |known| known.name.as_str());
                return Some(format!("nothing switches {name} {}", if on { "on" } else { "off" }));
            }
        }
        let tells =
            |device: DeviceId, what: Tell| self.profile(device).is_some_and(|profile| profile.feedback.tells(what));
        match &cue.moment {
            Moment::Says { device, .. } | Moment::Credits { device } if !tells(*device, Tell::Transport) => {
                Some(format!("{} does not say what it plays", self.site.device_name(*device)))
            }
            Moment::Starts { activity: Some(id) } | Moment::Ends { activity: Some(id) }
                if self.site.activity(*id).is_none_or(|known| known.room != self.room) =>
            {
                Some("its activity is not one of this room".to_owned())
            }
            Moment::Sun { .. } if self.place.is_none() => {
                Some("nobody has said where the house stands (Cues ▸ Place)".to_owned())
            }
            Moment::Clock { .. } | Moment::Sun { .. } => {
                let zone = hours::zone(self.place);
                let ever = self.days().any(|day| {
                    hours::on(self.place, &cue.moment, day).is_some_and(|at| {
                        let local = at.to_zoned(zone.clone());
                        let minute = i32::from(local.hour()) * 60 + i32::from(local.minute());
                        u16::try_from(minute).is_ok_and(|minute| conditions.allows(&self.year, local.date(), minute))
                    })
                });
                (!ever).then(|| "its moment never falls into its own conditions".to_owned())
            }
            _ if !conditions.happens(&self.year) => {
                Some("it is never so dark, or so light, at those hours here".to_owned())
            }
            _ => None,
        }
    }

    /// Cues that lead to each other in a ring.
    fn cycles(&self) -> Vec<Finding> {
        let cues: Vec<&Cue> = self.cues().collect();
        let follows = |from: &Cue, to: &Cue| {
            let moments: Vec<Moment> = from
                .also
                .iter()
                .flat_map(|also| match also {
                    Also::Set { switch, on } => vec![Moment::Switched { switch: *switch, on: *on }],
                    Also::Macro { to: Situation::In { activity } } => {
                        vec![Moment::Starts { activity: Some(*activity) }, Moment::Ends { activity: None }]
                    }
                    Also::Macro { to: Situation::Off } => vec![Moment::RoomOff, Moment::Ends { activity: None }],
                    _ => vec![],
                })
                .collect();
            let meets = |moment: &Moment| is_at(&to.moment, moment) || is_at(moment, &to.moment);
            moments.iter().any(meets) && Conditions::of(to).is_some()
        };
        let mut found = Vec::new();
        let mut told: BTreeSet<CueId> = BTreeSet::new();
        for &start in &cues {
            if told.contains(&start.id) {
                continue;
            }
            // The shortest way back to where it starts.
            let mut ways: Vec<Vec<&Cue>> = vec![vec![start]];
            let mut seen: BTreeSet<CueId> = BTreeSet::new();
            while let Some(way) = ways.pop() {
                let Some(&last) = way.last() else { continue };
                for &next in cues.iter().filter(|next| follows(last, next)) {
                    if next.id == start.id {
                        told.extend(way.iter().map(|cue| cue.id));
                        let cues = way.iter().map(|cue| cue.id).collect();
                        found.push(self.say(FindingKind::Ring { cues }));
                        ways.clear();
                        break;
                    }
                    if seen.insert(next.id) {
                        let mut longer = way.clone();
                        longer.push(next);
                        ways.insert(0, longer);
                    }
                }
            }
        }
        found
    }

    fn switches(&self) -> Vec<Finding> {
        let mut found = Vec::new();
        let sets = |id: SwitchId, on: bool| {
            self.cues().any(|cue| {
                cue.also.iter().any(|a| matches!(a, Also::Set { switch, on: o } if *switch == id && *o == on))
            })
        };
        for switch in &self.lighting.switches {
            let (on, off) = (sets(switch.id, true), sets(switch.id, false) || switch.off_after_min.is_some());
            if on && !off {
                let kind = FindingKind::NeverReset { room: self.room, switch: switch.name.clone() };
                found.push(self.say(kind));
            }
        }
        found
    }

    /// Can cue `cue` fire at `moment` in the dark?
    fn at_night(&self, moment: &Moment, activity: Option<ActivityId>) -> Vec<&Cue> {
        let night = Conditions { dark: Some(true), within: Within::Only(activity), ..Conditions::any() };
        self.cues()
            .filter(|cue| is_at(&cue.moment, moment))
            .filter(|cue| {
                Conditions::of(cue).and_then(|own| own.and(&night)).is_some_and(|both| both.happens(&self.year))
            })
            .collect()
    }

    /// The lit way out, and in.
    fn ways(&self) -> Vec<Finding> {
        let mut found = Vec::new();
        let Some(exit) = &self.lighting.exit else {
            let dims = self.lighting.looks.iter().any(|look| look.levels.iter().any(|level| level.percent == 0));
            if dims && !self.lighting.zones.is_empty() {
                found.push(self.say(FindingKind::NoWayOut));
            }
            return found;
        };
        let activities: Vec<_> = self.site.activities.iter().filter(|activity| activity.room == self.room).collect();
        let off: Vec<&Cue> = [Moment::RoomOff]
            .into_iter()
            .chain(activities.iter().map(|activity| Moment::Ends { activity: Some(activity.id) }))
            .flat_map(|moment| self.at_night(&moment, None))
            .collect();
        found.extend(self.dark(exit, &off, None));
        for activity in &activities {
            let moment = Moment::Starts { activity: Some(activity.id) };
            let cues = self.at_night(&moment, Some(activity.id));
            found.extend(self.dark(exit, &cues, Some(activity.id)));
        }
        let mut once: Vec<Finding> = Vec::new();
        for finding in found {
            if !once.iter().any(|known| known.kind == finding.kind) {
                once.push(finding);
            }
        }
        once
    }

    /// Where cues of leaving or arriving let people stand in the dark.
    fn dark(&self, exit: &ExitPath, cues: &[&Cue], arrival: Option<ActivityId>) -> Vec<Finding> {
        let leaving = arrival.is_none();
        let mut found = Vec::new();
        let walk_ms = exit.walk_s.saturating_mul(1_000);
        for &zone in &exit.zones {
            // The last on the sheet wins.
            let last = cues.iter().rev().find_map(|cue| self.target(cue).get(&zone).map(|percent| (*cue, *percent)));
            match last {
                Some((cue, percent)) if percent < exit.percent && (!leaving || self.fade_ms(cue) < walk_ms) => {
                    found.push(self.say(FindingKind::Dark {
                        cue: cue.id,
                        zone,
                        percent,
                        least_percent: exit.percent,
                        walk_s: exit.walk_s,
                        arrival,
                    }));
                }
                Some((cue, _)) if leaving && self.fade_ms(cue) > RISE_MS && self.dims(zone, exit.percent) => {
                    let fade_ms = self.fade_ms(cue);
                    found.push(self.say(FindingKind::SlowLight { cue: cue.id, zone, fade_ms }));
                }
                None if leaving && self.dims(zone, exit.percent) => {
                    found.push(self.say(FindingKind::NothingLit { zone, least_percent: exit.percent }));
                }
                _ => {}
            }
        }
        found
    }

    /// Does some cue set this zone lower than that?
    fn dims(&self, zone: ZoneId, percent: u8) -> bool {
        self.cues().any(|cue| self.target(cue).get(&zone).is_some_and(|level| *level < percent))
    }

    /// More than three changes a second.
    fn flashes(&self) -> Vec<Finding> {
        let mut found = Vec::new();
        for cue in self.cues() {
            let Moment::Sensor { device, tripped: true } = cue.moment else { continue };
            let delay_ms = match self.profile(device).map(|profile| profile.feedback.clone()) {
                Some(Feedback::Push { delay_ms, .. } | Feedback::Sensor { delay_ms, .. }) => delay_ms,
                _ => continue,
            };
            let rest = Moment::Sensor { device, tripped: false };
            for other in self.cues().filter(|other| other.moment == rest) {
                let (up, down) = (self.target(cue), self.target(other));
                let zone = up
                    .iter()
                    .find(|(zone, percent)| down.get(*zone).is_some_and(|level| level.abs_diff(**percent) > 10));
                let quick = self.fade_ms(cue) < FLASH_MS && self.fade_ms(other) < FLASH_MS && delay_ms * 2 < 333;
                if let Some((&zone, _)) = zone.filter(|_| quick) {
                    found.push(self.say(FindingKind::Flash { cue: cue.id, other: other.id, zone }));
                }
            }
        }
        found
    }

    fn floors(&self) -> Vec<Finding> {
        let mut found = Vec::new();
        for zone in &self.lighting.zones {
            if self.profile(zone.device).is_none_or(|profile| profile.kind != DeviceKind::Light) {
                found.push(self.say(FindingKind::NoDimmer { zone: zone.id }));
            }
        }
        for look in &self.lighting.looks {
            for level in &look.levels {
                let Some(zone) = self.site.zone(level.zone) else { continue };
                if (1..zone.floor_percent).contains(&level.percent) {
                    found.push(self.say(FindingKind::BelowFloor {
                        look: look.name.clone(),
                        zone: zone.id,
                        percent: level.percent,
                        floor_percent: zone.floor_percent,
                    }));
                }
            }
        }
        found
    }

    fn loud(&self) -> Vec<Finding> {
        let mut found = Vec::new();
        for cue in self.cues() {
            for also in &cue.also {
                let (Also::Say { device, percent, .. } | Also::Chime { device, percent, .. }) = also else { continue };
                let volume = self.profile(*device).and_then(|profile| profile.volume);
                let over_ceiling =
                    volume.is_some_and(|volume| volume.range * u32::from(*percent) / 100 > volume.ceiling);
                if over_ceiling || *percent > 70 {
                    let (device, percent) = (*device, *percent);
                    found.push(self.say(FindingKind::Loud { cue: cue.id, device, percent, over_ceiling }));
                }
            }
        }
        found
    }

    /// Heat or movement that a schedule starts while nobody is there.
    fn unattended(&self) -> Vec<Finding> {
        let mut found = Vec::new();
        for cue in self.cues().filter(|cue| matches!(cue.moment, Moment::Clock { .. } | Moment::Sun { .. })) {
            for also in &cue.also {
                let cue = cue.id;
                let starts = match also {
                    Also::Command { device, .. } => self.profile(*device).and_then(|profile| {
                        let movement = FindingKind::UnattendedMovement { cue, device: Some(*device), activity: None };
                        if profile.kind == DeviceKind::Heater {
                            Some(FindingKind::UnattendedHeat { cue, device: *device })
                        } else {
                            profile.motion.is_some().then_some(movement)
                        }
                    }),
                    Also::Macro { to: Situation::In { activity } } => {
                        let moves = self.site.activity(*activity).is_some_and(|known| !known.moves.is_empty());
                        let activity = Some(*activity);
                        moves.then_some(FindingKind::UnattendedMovement { cue, device: None, activity })
                    }
                    _ => None,
                };
                found.extend(starts.map(|kind| self.say(kind)));
            }
        }
        found
    }
}
