//! Light over time: which cues fire and what the levels are then.
//!
//! [`sun`] and [`hours`] know when, [`fade`] and [`curve`] how bright, [`together`] how bright all of it is under one finger; [`watch`] decides which cues fire, for the runtime,
//! for the preview of an evening and for the proof alike.

pub mod curve;
pub mod fade;
pub mod hours;
pub mod sun;
pub mod together;
pub mod watch;
