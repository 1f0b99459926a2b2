//! A day or an evening played on the simulated clock: every zone's level, what fired, and what did not and why.

use super::starts::{Way, key_for, tells_transport};
use crate::id::{ActivityId, DeviceId, RoomId, ZoneId};
use crate::light::watch::{CueAct, Fired, Happening, Watch};
use crate::model::{Playback, Site, Situation};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// The longest preview, in ms: two days.
pub const LENGTH_MAX_MS: u64 = 2 * 86_400_000;

/// Something that people do in a previewed evening.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "does")]
#[schema(as = EveningAct)]
pub enum Act {
    /// A source is made to play, pause or stop. Whether anybody hears of it depends on the source and on the way.
    Transport {
        /// Which.
        device: DeviceId,
        /// What.
        transport: Playback,
        /// How.
        way: Way,
    },
    /// The credits begin. Only a source that says what it plays tells so.
    Credits {
        /// Of which source.
        device: DeviceId,
    },
    /// Anything else, which the runtime sees as it happens.
    Happens {
        /// What.
        what: Happening,
    },
}

/// An act and its time.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = EveningEvent)]
pub struct TimedEvent {
    /// When, in ms from the start.
    pub at_ms: u64,
    /// What.
    pub act: Act,
}

/// A point of a curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Point {
    /// When, in ms from the start.
    pub at_ms: u64,
    /// The level, in %.
    pub level: f64,
}

/// The level of a zone over time: straight lines between points.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LevelCurve {
    /// The zone.
    pub zone: ZoneId,
    /// Its points.
    pub points: Vec<Point>,
    /// The light that its lamp gives at 0, 1, … 100 % of its level, in %.
    pub light: Vec<f64>,
}

/// Something else that was done.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Done {
    /// When, in ms.
    pub at_ms: u64,
    /// What, in words.
    pub text: String,
}

/// An evening as curves.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Evening {
    /// The minute of the day at which it begins.
    pub start_min: u16,
    /// How long it is, in ms.
    pub length_ms: u64,
    /// When the sun rises, in ms from the start; none where it does not meanwhile.
    pub sunrise_ms: Option<u64>,
    /// When it sets.
    pub sunset_ms: Option<u64>,
    /// Is it dark at the start?
    pub dark_at_start: bool,
    /// The zones.
    pub lines: Vec<LevelCurve>,
    /// What fired, and what was held and why.
    pub fired: Vec<Fired>,
    /// What else was done.
    pub done: Vec<Done>,
    /// What people do in it.
    pub events: Vec<TimedEvent>,
}

/// The usual course of an activity, from its start to room-off, with a pause and the credits: the acts of a preview that
/// nobody has changed yet.
#[must_use]
pub fn usual(site: &Site, activity: ActivityId) -> Vec<TimedEvent> {
    const MINUTE: u64 = 60_000;
    let Some(known) = site.activity(activity) else { return vec![] };
    let device = known.source;
    let way = Way::OurKey;
    let plays = |transport| Act::Transport { device, transport, way };
    let at = |minutes: u64, act| TimedEvent { at_ms: minutes * MINUTE, act };
    vec![
        at(5, Act::Happens { what: Happening::Starts { activity } }),
        at(10, plays(Playback::Playing)),
        at(40, plays(Playback::Paused)),
        at(45, plays(Playback::Playing)),
        at(95, Act::Credits { device }),
        at(100, plays(Playback::Stopped)),
        at(105, Act::Happens { what: Happening::RoomOff }),
    ]
}

/// Plays an evening of a room: from `start` on, for `length_ms`.
#[must_use]
pub fn play(site: &Site, room: RoomId, start: Timestamp, length_ms: u64, events: &[TimedEvent]) -> Evening {
    let length_ms = length_ms.min(LENGTH_MAX_MS);
    let mut watch = Watch::new(site, room, start);
    let mut lines: BTreeMap<ZoneId, Vec<Point>> = BTreeMap::new();
    if let Some(own) = site.room(room) {
        lines.extend(own.lighting.zones.iter().map(|zone| (zone.id, vec![Point { at_ms: 0, level: 0.0 }])));
    }
    let mut done = Vec::new();
    let mut note = |watch: &Watch, at_ms: u64, deeds: Vec<CueAct>, lines: &mut BTreeMap<ZoneId, Vec<Point>>| {
        for deed in deeds {
            match deed {
                CueAct::Level { zone, .. } => {
                    bend(lines.entry(zone).or_insert_with(|| vec![Point { at_ms: 0, level: 0.0 }]), watch, zone, at_ms);
                }
                other => done.extend(told(site, room, &other).map(|text| Done { at_ms, text })),
            }
        }
    };
    let mut ordered: Vec<&TimedEvent> = events.iter().filter(|event| event.at_ms <= length_ms).collect();
    ordered.sort_by_key(|event| event.at_ms);
    for event in ordered {
        pass(&mut watch, event.at_ms, site, &mut note, &mut lines);
        for happening in happenings(site, &event.act) {
            let deeds = watch.happen(event.at_ms, &happening);
            if let Happening::Hand { zone, .. } = happening {
                bend(lines.entry(zone).or_default(), &watch, zone, event.at_ms);
            }
            settle(&mut watch, event.at_ms, site, deeds, &mut note, &mut lines);
        }
    }
    pass(&mut watch, length_ms, site, &mut note, &mut lines);
    for (zone, points) in &mut lines {
        close(points, &watch, *zone, length_ms);
    }
    let (day, start_min) = watch.local(0);
    Evening {
        start_min,
        length_ms,
        sunrise_ms: sun(site, day, start, length_ms, true),
        sunset_ms: sun(site, day, start, length_ms, false),
        dark_at_start: watch.is_dark(0),
        lines: lines
            .into_iter()
            .map(|(zone, points)| LevelCurve { zone, points, light: light_of(site, zone) })
            .collect(),
        fired: watch.fired().to_vec(),
        done,
        events: events.to_vec(),
    }
}

/// What was done beside light, in words.
fn told(site: &Site, room: RoomId, act: &CueAct) -> Option<String> {
    match act {
        CueAct::Level { .. } => None,
        CueAct::Ask { to } => Some(format!("{} is asked for", crate::model::situation_name(site, *to))),
        CueAct::Transport { device, transport } => {
            Some(format!("{} {}", site.device_name(*device), crate::model::cue_words::transport(*transport)))
        }
        CueAct::Also { what } => {
            let lighting = site.room(room).map(|room| room.lighting.clone()).unwrap_or_default();
            Some(crate::model::cue_words::also(site, &lighting, what))
        }
    }
}

/// How the lamps of a zone follow its level.
fn light_of(site: &Site, zone: ZoneId) -> Vec<f64> {
    let curve = site.zone(zone).map(|zone| zone.curve).unwrap_or_default();
    let rounded = |light: f64| (light * 100.0).round() / 100.0;
    (0..=100).map(|level| rounded(curve.light(f64::from(level)))).collect()
}

type Lines = BTreeMap<ZoneId, Vec<Point>>;

/// Time passes, with what comes by itself.
fn pass(
    watch: &mut Watch,
    to_ms: u64,
    site: &Site,
    note: &mut impl FnMut(&Watch, u64, Vec<CueAct>, &mut Lines),
    lines: &mut Lines,
) {
    while let Some(next_ms) = watch.next_ms(watch.seen()).filter(|next| *next <= to_ms) {
        for (at_ms, deed) in watch.pass(next_ms) {
            settle(watch, at_ms, site, vec![deed], note, lines);
        }
    }
    for (at_ms, deed) in watch.pass(to_ms) {
        settle(watch, at_ms, site, vec![deed], note, lines);
    }
}

/// Carries out what was decided: an activity that is asked for starts at once in a preview.
fn settle(
    watch: &mut Watch,
    at_ms: u64,
    site: &Site,
    deeds: Vec<CueAct>,
    note: &mut impl FnMut(&Watch, u64, Vec<CueAct>, &mut Lines),
    lines: &mut Lines,
) {
    let asks: Vec<Situation> =
        deeds.iter().filter_map(|deed| if let CueAct::Ask { to } = deed { Some(*to) } else { None }).collect();
    let told: Vec<(DeviceId, Playback)> = deeds
        .iter()
        .filter_map(
            |deed| if let CueAct::Transport { device, transport } = deed { Some((*device, *transport)) } else { None },
        )
        .collect();
    note(watch, at_ms, deeds, lines);
    for to in asks {
        let happening = match to {
            Situation::In { activity } => Happening::Starts { activity },
            _ => Happening::RoomOff,
        };
        let next = watch.happen(at_ms, &happening);
        note(watch, at_ms, next, lines);
    }
    for (device, transport) in told {
        if site.profile_of(device).is_some_and(|profile| tells_transport(&profile)) {
            let next = watch.happen(at_ms, &Happening::Says { device, transport });
            note(watch, at_ms, next, lines);
        }
    }
}

/// What an act looks like to the runtime: a source that says nothing is not heard, and only our own key is seen.
#[must_use]
pub fn happenings(site: &Site, act: &Act) -> Vec<Happening> {
    match act {
        Act::Transport { device, transport, way } => {
            let mut seen = Vec::new();
            let Some(profile) = site.profile_of(*device) else { return seen };
            if let Some(function) = key_for(&profile, *transport).filter(|_| *way == Way::OurKey) {
                seen.push(Happening::Sent { device: *device, function });
            }
            if tells_transport(&profile) {
                seen.push(Happening::Says { device: *device, transport: *transport });
            }
            seen
        }
        Act::Credits { device } => {
            let tells = site.profile_of(*device).is_some_and(|profile| tells_transport(&profile));
            if tells { vec![Happening::Credits { device: *device }] } else { vec![] }
        }
        Act::Happens { what } => vec![what.clone()],
    }
}

/// A fade begins: the curve up to here is fixed, and goes on from the level of this moment.
fn bend(points: &mut Vec<Point>, watch: &Watch, zone: ZoneId, at_ms: u64) {
    let fade = watch.fade(zone);
    // What was drawn ahead, and is not reached any more.
    let mut level = points.last().map_or(0.0, |last| last.level);
    if let Some(at) = points.iter().position(|point| point.at_ms > at_ms) {
        if let Some(before) = at.checked_sub(1).and_then(|at| points.get(at)).copied() {
            let after = points[at];
            let share = (at_ms - before.at_ms) as f64 / (after.at_ms - before.at_ms).max(1) as f64;
            level = before.level + share * (after.level - before.level);
        }
        points.truncate(at);
    }
    points.push(Point { at_ms, level });
    points.push(Point { at_ms: at_ms + u64::from(fade.length_ms), level: fade.to });
}

fn close(points: &mut Vec<Point>, watch: &Watch, zone: ZoneId, at_ms: u64) {
    points.retain(|point| point.at_ms <= at_ms);
    points.push(Point { at_ms, level: watch.level(zone, at_ms) });
}

fn sun(site: &Site, day: Date, start: Timestamp, length_ms: u64, rises: bool) -> Option<u64> {
    let place = site.house.place.as_ref()?;
    [Some(day), day.tomorrow().ok()].into_iter().flatten().find_map(|day| {
        let ms = (place.sun(day, rises)?.as_second() - start.as_second()) * 1000;
        u64::try_from(ms).ok().filter(|ms| *ms <= length_ms)
    })
}
