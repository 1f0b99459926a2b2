//! The visit to the house: what has to be tested there, on what each test rests, in which order the switches are walked,
//! what the stopwatch times, what devices report by themselves, and how the shortest pause of a device is found.
//!
//! Nothing here is a form: tests are generated from the house ([`list`]), and what they rest on is recorded as it is read
//! ([`reader`]), so that an edit makes exactly those tests stale whose facts differ.

pub mod feedback;
pub mod gap;
pub mod list;
pub mod reader;
pub mod round;
pub mod run;
pub mod stopwatch;
pub mod take;
#[cfg(test)]
mod tests;
pub mod visit;

pub use list::{TestLine, TestState, list};
pub use run::{Run, runs};
