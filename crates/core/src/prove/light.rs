//! What the light does where a room goes from one situation to another: part of what a plan has to bring about.
//!
//! The cues are carried out by the very [`Watch`] that the runtime asks, by night and by day and for every setting of the
//! mode switches. On arrival nothing along the way out may be lowered below its level while it is dark; on the way out it
//! is there within [`RISE_MS`] and stays for the time that the walk takes.

use crate::id::{RoomId, SwitchId, ZoneId};
use crate::light::hours;
use crate::light::watch::{Happening, Watch};
use crate::model::{Site, Situation};
use crate::words::seconds;
use serde::Serialize;
use utoipa::ToSchema;

/// How long the way out may take to be lit, in ms (`engine.md`, 7).
const RISE_MS: u64 = 1_000;

/// Mode switches whose settings are all looked at.
const SWITCHES_MAX: usize = 8;

/// By night and by day, by the clock of the house.
const NIGHT: &str = "2027-01-15T22:00";
const DAY: &str = "2027-06-15T13:00";

/// The level of a zone once the fades are over.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct LightGoal {
    /// Which zone.
    pub zone: ZoneId,
    /// Its name.
    pub name: String,
    /// How bright, in %.
    pub percent: u8,
}

/// What the light does in a cell.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct LightProof {
    /// Levels that cues set by night, as the mode switches are at first.
    pub night: Vec<LightGoal>,
    /// The same by day.
    pub day: Vec<LightGoal>,
    /// What goes wrong, in a sentence; none where people can see their way.
    pub wrong: Option<String>,
}

/// What the light does from one situation to another; none where no cue of the room sets a level.
#[must_use]
pub fn light(site: &Site, room: RoomId, from: Situation, to: Situation) -> Option<LightProof> {
    let own = &site.room(room)?.lighting;
    if own.cues.is_empty() {
        return None;
    }
    let switches: Vec<SwitchId> = own.switches.iter().map(|switch| switch.id).take(SWITCHES_MAX).collect();
    let first = switches.iter().map(|id| own.switch(*id).is_some_and(|switch| switch.at_first)).collect::<Vec<bool>>();
    let night = run(site, room, from, to, NIGHT, &switches, &first);
    let day = run(site, room, from, to, DAY, &switches, &first);
    let wrong = (0..1u32 << switches.len()).find_map(|setting| {
        let on: Vec<bool> = (0..switches.len()).map(|at| setting >> at & 1 == 1).collect();
        let named: Vec<&str> = switches
            .iter()
            .zip(&on)
            .filter(|(_, on)| **on)
            .filter_map(|(id, _)| own.switch(*id).map(|switch| switch.name.as_str()))
            .collect();
        let found = run(site, room, from, to, NIGHT, &switches, &on).wrong?;
        Some(if named.is_empty() { found } else { format!("{found} So it is with {} on.", named.join(", ")) })
    });
    Some(LightProof { night: night.goals, day: day.goals, wrong })
}

struct Ran {
    goals: Vec<LightGoal>,
    wrong: Option<String>,
}

fn run(
    site: &Site,
    room: RoomId,
    from: Situation,
    to: Situation,
    time: &str,
    switches: &[SwitchId],
    on: &[bool],
) -> Ran {
    let nothing = Ran { goals: vec![], wrong: None };
    let Some(own) = site.room(room).map(|room| &room.lighting) else { return nothing };
    let start = hours::typed(site.house.place.as_ref(), time).unwrap_or_default();
    let mut watch = Watch::new(site, room, start);
    if let Situation::In { activity } = from {
        watch.taken_for(Some(activity));
    }
    for (switch, on) in switches.iter().zip(on) {
        // How they stand is a fact, and nothing follows from it.
        let _ = watch.happen(0, &Happening::Set { switch: *switch, on: *on });
    }
    let dims = |zone: ZoneId| own.looks.iter().any(|look| look.level(zone).is_some_and(|percent| percent == 0));
    let leaving = to == Situation::Off;
    for zone in &own.zones {
        // The worst that there is: bright, where something may lower it; dark, where something has to light it.
        let percent = if leaving && dims(zone.id) { 0 } else { 100 };
        let _ = watch.happen(0, &Happening::Hand { zone: zone.id, percent });
    }
    let before: Vec<_> = own.zones.iter().map(|zone| watch.fade(zone.id)).collect();
    let happening = match to {
        Situation::In { activity } => Happening::Starts { activity },
        _ => Happening::RoomOff,
    };
    let _ = watch.happen(0, &happening);
    let set = own.zones.iter().zip(before).filter(|(zone, before)| watch.fade(zone.id) != *before);
    let goals = set
        .map(|(zone, _)| LightGoal { zone: zone.id, name: zone.name.clone(), percent: whole(watch.fade(zone.id).to) })
        .collect();
    let wrong = too_dark(own, &watch, leaving);
    Ran { goals, wrong }
}

/// Whether the way in or out is too dark by night, and when.
fn too_dark(own: &crate::model::Lighting, watch: &Watch, leaving: bool) -> Option<String> {
    own.exit.as_ref().filter(|_| watch.is_dark(0)).and_then(|exit| {
        exit.zones.iter().find_map(|&zone| {
            let name = own.zone(zone).map_or("a zone", |zone| zone.name.as_str());
            let needs = f64::from(exit.percent);
            if !leaving {
                let level = watch.fade(zone).to;
                return (level < needs).then(|| {
                    format!("By night {name} goes to {} % on arrival; the way needs {} %.", whole(level), exit.percent)
                });
            }
            let mut watch = watch.clone();
            (1..=u64::from(exit.walk_s)).map(|second| second * 1_000).find_map(|ms| {
                let _ = watch.pass(ms);
                let level = watch.level(zone, ms.max(RISE_MS));
                (level + 0.5 < needs).then(|| {
                    let at = seconds(u32::try_from(ms).unwrap_or(u32::MAX));
                    format!(
                        "By night {name} is at {} % {at} after Finish; the way out needs {} % for {} s.",
                        whole(level),
                        exit.percent,
                        exit.walk_s
                    )
                })
            })
        })
    })
}

#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "clamped")]
fn whole(level: f64) -> u8 {
    level.clamp(0.0, 100.0).round() as u8
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::model::{Light, Moment};
    use crate::prove::{Analysis, Guarantee};

    fn percents(goals: &[LightGoal]) -> Vec<(&str, u8)> {
        goals.iter().map(|goal| (goal.name.as_str(), goal.percent)).collect()
    }

    #[test]
    fn the_arrival_look_and_the_way_out_are_part_of_what_a_plan_brings_about() {
        let site = demo::with_disc();
        let film = Situation::In { activity: ids::feature_film() };
        let on = light(&site, ids::boat_hall(), Situation::Off, film).unwrap();
        assert_eq!(percents(&on.night), [("Ceiling", 60), ("Walls", 40), ("Steps", 40), ("Shelf", 30)]);
        assert_eq!(on.wrong, None);
        let off = light(&site, ids::boat_hall(), film, Situation::Off).unwrap();
        assert_eq!(percents(&off.night), [("Ceiling", 20), ("Walls", 0), ("Steps", 40), ("Shelf", 0)]);
        assert!(off.day.iter().all(|goal| goal.percent == 0), "by day nobody needs it: {off:?}");
        assert_eq!(off.wrong, None);
    }

    #[test]
    fn a_dark_way_out_puts_a_cell_at_risk() {
        let mut site = demo::with_disc();
        let film = Situation::In { activity: ids::feature_film() };
        let before = Analysis::of(&site, ids::boat_hall()).cell(film, Situation::Off);
        let room = site.rooms.iter_mut().find(|room| room.id == ids::boat_hall()).unwrap();
        let way_out = room.lighting.cues.iter_mut().filter(|cue| cue.moment == Moment::RoomOff);
        way_out.for_each(|cue| cue.light = Light::Stays);
        let after = Analysis::of(&site, ids::boat_hall()).cell(film, Situation::Off);
        assert_ne!(before.guarantee, Guarantee::AtRisk);
        assert_eq!(after.guarantee, Guarantee::AtRisk);
        let wrong = after.light.unwrap().wrong.unwrap();
        assert!(wrong.starts_with("By night Steps is at 0 % 1 s after Finish"), "{wrong}");
        assert!(after.verdict.contains("light"), "{}", after.verdict);
    }

    #[test]
    fn a_mode_switch_that_makes_the_arrival_dark_is_named() {
        let site = demo::marram_point();
        let cartoons = site.activities.iter().find(|activity| activity.room == ids::bunk_cabin()).unwrap().id;
        let proof = light(&site, ids::bunk_cabin(), Situation::Off, Situation::In { activity: cartoons }).unwrap();
        assert!(proof.wrong.unwrap().contains("on arrival"));
        assert_eq!(light(&site, ids::watch_room(), Situation::Off, Situation::Off), None, "no cues there");
    }
}
