//! A device is a small machine.
//!
//! A [`Profile`] says how a kind of device behaves: power, inputs, motion, and how long things take,
//! each duration an interval with its basis. [`Automaton`] is the machine made from it: states, keys,
//! and what a key does in a state. [`homing`] searches for the shortest sequence of keys that brings
//! every state the device may be in to the one that is wanted.

pub mod automaton;
pub mod homing;
mod profile;
#[cfg(test)]
mod tests;

pub use automaton::{Automaton, Effect, Position, State, Target};
pub use homing::{Word, WordStep, home};
pub use profile::{
    AfterPowerOn, Basis, Cable, DeviceKind, Function, Input, ListEnds, ListOpens, Medium, Motion, Output, Power,
    Profile, Selection, Span, Times,
};
