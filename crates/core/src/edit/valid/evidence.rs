//! Readings, results of tests, and what is missing.

use super::{EditError, field, name, text};
use crate::model::{Burst, Measurement, NOTE_MAX, Order, Outcome, READING_MAX_MS, READINGS_MAX, Site, TestResult};

/// The most things that are missing, and results, of a house.
const MOST: usize = 20_000;

pub(super) fn reading(site: &Site, own: &Measurement) -> Result<(), EditError> {
    site.device(own.device).ok_or(EditError::NoSuch("device"))?;
    if !(1..=READING_MAX_MS).contains(&own.ms) {
        return Err(field("Reading", "lies between 1 ms and 10 minutes. Measure it again: start, then stop."));
    }
    if own.early_ms > own.ms {
        return Err(field("Reading", "cannot have begun to be true before the command was sent."));
    }
    if let Some(Burst { sent, counted }) = own.burst
        && (!(1..=20).contains(&sent) || counted > 2 * sent)
    {
        return Err(field("Burst", "has 1 to 20 presses, and no more than twice as many can have been counted."));
    }
    if own.burst.is_some() != own.timing.is_pause() {
        return Err(field("Reading", "a pause is found by bursts, everything else by a stopwatch."));
    }
    text("Way", &own.by_way, NOTE_MAX)?;
    text("Who", &own.who, NOTE_MAX)?;
    text("Note", &own.note, NOTE_MAX)?;
    if let Some(reason) = &own.struck {
        name("Reason", reason)?;
    }
    let others = crate::evidence::readings(site, own.device, own.timing).filter(|known| known.id != own.id);
    if others.count() >= READINGS_MAX {
        return Err(field("Readings", format!("there are {READINGS_MAX} of this already. They are enough.")));
    }
    Ok(())
}

pub(super) fn result(site: &Site, own: &TestResult) -> Result<(), EditError> {
    text("What was seen", &own.note, NOTE_MAX)?;
    text("Who", &own.who, NOTE_MAX)?;
    if own.outcome != Outcome::Passed && own.note.is_empty() {
        let what = if own.outcome == Outcome::Failed { "what was seen instead" } else { "why it is not possible here" };
        return Err(field("What was seen", format!("say {what}.")));
    }
    if site.result_of(&own.of).is_some_and(|known| known.id != own.id) {
        let problem = "somebody else has written down a result of this test. Look at it, and say again what you saw.";
        return Err(field("Test", problem));
    }
    if site.results.len() >= MOST && site.result_of(&own.of).is_none() {
        return Err(field("Tests", format!("a house has {MOST} results at most.")));
    }
    Ok(())
}

pub(super) fn order(site: &Site, own: &Order) -> Result<(), EditError> {
    name("What", &own.what)?;
    text("What for", &own.note, NOTE_MAX)?;
    if let Some(room) = own.room {
        site.room(room).ok_or(EditError::NoSuch("room"))?;
    }
    if !(1..=999).contains(&own.quantity) {
        return Err(field("Quantity", "is a number from 1 to 999."));
    }
    if site.orders.len() >= MOST {
        return Err(field("Order list", format!("has {MOST} lines at most.")));
    }
    Ok(())
}
