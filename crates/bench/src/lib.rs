//! The bench: a rehearsal room that answers over real sockets.
//!
//! [`gateway`] is the stand-in for an infrared and radio gateway; what it sends is radiated into a
//! simulated room of the core. [`handset`] is the stand-in for the remotes of the room, pressed in front of
//! the gateway's learner through the [`air`]; [`ip`] has the devices on the network. [`driver`] talks to a gateway as it would to a real one. [`runtime`]
//! executes a plan through its [`wires`] and keeps a [`belief`] about every device. [`rehearsal`] ties them
//! together for one room. Time comes from a [`clock`] that can run faster than the wall's.

pub mod air;
pub mod belief;
pub mod clock;
pub mod driver;
pub mod gateway;
pub mod handset;
pub mod ip;
mod learning;
pub mod rehearsal;
pub mod runtime;
#[cfg(test)]
mod tests;
pub mod wire;
pub mod wires;

pub use rehearsal::{Rehearsal, RehearsalView};
