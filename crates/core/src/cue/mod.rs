//! Cues: light that follows what happens in a room.
//!
//! *Zones* are functions of time: a *look* sets levels with a fade from whatever they are then (linear in level; the
//! lamp's [`curve`] follows). A *cue* reads as one line of a cue sheet: *moment · provided · light · also*. [`watch`]
//! decides which cues fire, for the runtime and for the [`preview`] of an evening alike; [`find`] reasons over their
//! conditions; [`starts`] says which of the ways of starting playback they catch; [`sun`] and [`hours`] know when.

pub mod calendar;
pub mod find;
pub mod preview;
pub mod starts;
#[cfg(test)]
mod tests;
