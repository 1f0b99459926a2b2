//! Readings taken over: what a device has of its own then, and what that changes in the verdicts of its rooms.

use crate::evidence::known;
use crate::id::{DeviceId, RoomId};
use crate::model::{Basis, Device, SeenIn, Site, Situation, Span, Timing, situation_name};
use crate::prove::{Guarantee, Matrix};
use crate::words::seconds;
use serde::Serialize;
use std::mem::discriminant;
use utoipa::ToSchema;

/// A device with the interval of its readings in use; none where there is nothing to take over.
#[must_use]
pub fn taken_over(site: &Site, device: DeviceId, timing: Timing) -> Option<Device> {
    let span = known(site, device, timing, false).proposal?;
    with(site, device, timing, span)
}

/// The same with any interval.
#[must_use]
pub fn with(site: &Site, device: DeviceId, timing: Timing, mut span: Span) -> Option<Device> {
    let profile = site.profile_of(device)?;
    let before = timing.span(&profile)?;
    if timing == Timing::ListCloses {
        // What is used of a list is how soon it may close; how late it may is the worse of both.
        span.hi_ms = span.hi_ms.max(before.hi_ms.min(span.lo_ms.saturating_mul(4)));
    }
    let mut own = site.device(device)?.clone();
    for change in timing.with(&profile, span) {
        own.overrides.retain(|known| discriminant(known) != discriminant(&change));
        own.overrides.push(change);
    }
    // Picture and sound cannot be there before commands are taken.
    let after = crate::model::with_overrides(site.model_of(device)?, &own.overrides);
    if timing == Timing::WarmUp && after.times.picture.hi_ms < after.times.warm_up.hi_ms {
        let (lo_ms, hi_ms) = (after.times.picture.lo_ms.max(span.lo_ms), span.hi_ms);
        let picture = Span { lo_ms: lo_ms.min(hi_ms), hi_ms, ..after.times.picture };
        own.overrides.retain(|known| !matches!(known, crate::model::Override::Picture(_)));
        own.overrides.push(crate::model::Override::Picture(picture));
    }
    Some(own)
}

/// The house as it would be with the readings of one time taken over. With `rehearsed`, those of the rehearsal room are
/// looked at as if they had been taken in the house.
#[must_use]
pub fn as_if(site: &Site, device: DeviceId, timing: Timing, rehearsed: bool) -> Option<Site> {
    let mut site = site.clone();
    if rehearsed {
        let mine = |own: &crate::model::Measurement| own.device == device && own.timing == timing;
        site.measurements.retain(|own| !mine(own) || own.seen == SeenIn::Rehearsed);
        while let Some(own) = site.measurements.find_mut(|own| mine(own) && own.seen == SeenIn::Rehearsed) {
            own.seen = SeenIn::House;
        }
    }
    let own = taken_over(&site, device, timing)?;
    site.put(crate::model::Entity::Device(own));
    Some(site)
}

/// A verdict that would be another one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct VerdictChange {
    /// Of which room.
    pub room: RoomId,
    /// From.
    pub from: Situation,
    /// To.
    pub to: Situation,
    /// The same in words.
    pub what: String,
    /// The verdict before.
    pub before: String,
    /// After.
    pub after: String,
    /// When it was ready before, in ms.
    pub ready_before_ms: Option<u32>,
    /// After, in ms.
    pub ready_after_ms: Option<u32>,
    /// Does it turn certain, with waits that hold?
    pub turns_certain: bool,
}

/// Verdicts and times that differ between two matrices of a room.
#[must_use]
pub fn changes(site: &Site, before: &Matrix, after: &Matrix) -> Vec<VerdictChange> {
    let certain = |cell: &crate::prove::Cell| cell.guarantee == Guarantee::Certain && cell.waits_hold;
    let mut all = Vec::new();
    for cell in &after.cells {
        let Some(then) = before.cells.iter().find(|own| (own.from, own.to) == (cell.from, cell.to)) else { continue };
        if then.verdict == cell.verdict && then.ready_ms == cell.ready_ms {
            continue;
        }
        let name = |to| situation_name(site, to);
        all.push(VerdictChange {
            room: after.room,
            from: cell.from,
            to: cell.to,
            what: format!("{} → {}", name(cell.from), name(cell.to)),
            before: then.verdict.clone(),
            after: cell.verdict.clone(),
            ready_before_ms: then.ready_ms,
            ready_after_ms: cell.ready_ms,
            turns_certain: certain(cell) && !certain(then),
        });
    }
    all
}

/// The same in a sentence or two.
#[must_use]
pub fn in_words(changes: &[VerdictChange], would: bool) -> Vec<String> {
    let (turn, other) = if would { ("would turn", "would change") } else { ("turn", "change") };
    let certain = changes.iter().filter(|change| change.turns_certain).count();
    let mut said = Vec::new();
    if certain > 0 {
        let verdicts = if certain == 1 { "verdict" } else { "verdicts" };
        let turn = if certain == 1 && !would { "turns" } else { turn };
        said.push(format!("{certain} {verdicts} {turn} certain."));
    }
    let words = changes.iter().filter(|change| !change.turns_certain && change.before != change.after).count();
    if words > 0 {
        said.push(format!("{words} other {} {other}.", if words == 1 { "verdict" } else { "verdicts" }));
    }
    let times: Vec<(&VerdictChange, i64)> = changes
        .iter()
        .filter_map(|change| {
            let (before, after) = (change.ready_before_ms?, change.ready_after_ms?);
            (before != after).then(|| (change, i64::from(after) - i64::from(before)))
        })
        .collect();
    let by = |ms: i64| {
        let long = seconds(u32::try_from(ms.unsigned_abs()).unwrap_or(u32::MAX));
        format!("{long} {}", if ms < 0 { "sooner" } else { "later" })
    };
    for (change, ms) in times.iter().take(3) {
        said.push(format!("{} is ready {}.", change.what, by(*ms)));
    }
    if times.len() > 3 {
        said.push(format!("{} more are ready at another time.", times.len() - 3));
    }
    if said.is_empty() {
        said.push("No verdict and no time changes by it.".to_owned());
    }
    said
}

/// A gap that was found: the device with it in use, resting on its clean bursts. `longest` says which end of the pause between
/// digits it is.
#[must_use]
pub fn with_gap(site: &Site, device: DeviceId, timing: Timing, pause_ms: u32, longest: bool) -> Option<Device> {
    let basis = Basis::measured(u32::try_from(crate::evidence::CLEAN_BURSTS).unwrap_or(3));
    let profile = site.profile_of(device)?;
    let digits = profile.times.digits;
    let span = match timing {
        Timing::Digits if longest => Span { lo_ms: digits.lo_ms.min(pause_ms), hi_ms: pause_ms, basis },
        Timing::Digits => Span { lo_ms: pause_ms, hi_ms: digits.hi_ms.max(pause_ms), basis },
        _ => Span { lo_ms: 0, hi_ms: pause_ms, basis },
    };
    let mut own = site.device(device)?.clone();
    for change in timing.with(&profile, span) {
        own.overrides.retain(|known| discriminant(known) != discriminant(&change));
        own.overrides.push(change);
    }
    Some(own)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::id::MeasurementId;
    use crate::model::{Entity, Measurement};
    use crate::prove::Analysis;
    use uuid::Uuid;

    fn read(site: &mut Site, seen: SeenIn, timing: Timing, times: &[u32]) {
        let from = site.measurements.len() as u128;
        site.measurements.extend((from..).zip(times).map(|(number, &ms)| {
            let (id, at) = (MeasurementId(Uuid::from_u128(5_000 + number)), "2027-05-03T10:00:00Z".parse().unwrap());
            Measurement { seen, ..Measurement::new(id, ids::projector(), timing, ms, at) }
        }));
    }

    const NINE: [u32; 9] = [24_100, 25_000, 25_400, 26_000, 26_100, 26_600, 27_900, 28_400, 28_900];

    #[test]
    fn what_nine_readings_would_change_is_named_before_they_are_taken_over() {
        let mut site = demo::with_disc();
        let before = Analysis::of(&site, ids::boat_hall()).matrix();
        assert!(before.waits.iter().any(|wait| !wait.rest.holds && wait.rest.device == ids::projector()));
        read(&mut site, SeenIn::Rehearsed, Timing::WarmUp, &NINE);
        assert_eq!(taken_over(&site, ids::projector(), Timing::WarmUp), None, "a rehearsed reading is no reading");
        let would = as_if(&site, ids::projector(), Timing::WarmUp, true).unwrap();
        let after = Analysis::of(&would, ids::boat_hall()).matrix();
        let found = changes(&site, &before, &after);
        assert!(in_words(&found, true).iter().any(|line| line.contains("sooner")), "{:?}", in_words(&found, true));
        read(&mut site, SeenIn::House, Timing::WarmUp, &NINE);
        let own = taken_over(&site, ids::projector(), Timing::WarmUp).unwrap();
        site.put(Entity::Device(own));
        let told = known(&site, ids::projector(), Timing::WarmUp, false);
        assert_eq!(told.in_use.unwrap().basis, Basis::measured(9));
        assert_eq!((told.in_use.unwrap().lo_ms, told.in_use.unwrap().hi_ms), (24_100, 28_900));
    }

    #[test]
    fn a_pause_that_was_found_is_in_use_and_rests_on_its_bursts() {
        let mut site = demo::with_disc();
        let own = with_gap(&site, ids::receiver(), Timing::Gap, 130, false).unwrap();
        site.put(Entity::Device(own));
        let profile = site.profile_of(ids::receiver()).unwrap();
        assert_eq!((profile.times.gap_ms, profile.times.gap_basis), (130, Basis::measured(3)));
    }
}
