//! A device is a small machine.
//!
//! A [`Profile`] says how a kind of device behaves: power, inputs, motion, and how long things take,
//! each duration an interval with its basis. [`Automaton`] is the machine made from it: states, keys,
//! and what a key does in a state. [`timed`] adds what is left of whatever is under way, [`group`] joins
//! devices that switch each other. [`homing`] searches (with [`search`]) for the shortest sequence of keys
//! that brings every state the device may be in to the one that is wanted. [`path`] names the ways in which a
//! command reaches it, and [`Override`] a single field in which one device differs from its model.

mod alone;
pub mod automaton;
pub mod group;
pub mod homing;
pub mod look;
pub mod search;
mod stand;
#[cfg(test)]
mod tests;
pub mod timed;
pub mod words;

pub use automaton::{Automaton, Letter, State, Target};
pub use group::{Group, Joint};
pub use homing::{Word, WordStep, home};
pub use timed::{Residual, Timed, Window};
