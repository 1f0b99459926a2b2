//! The bench: a rehearsal room that answers over real sockets.
//!
//! The [`world`] is what is true: simulated devices, what is broken, and a log of every wire. The stand-ins
//! ([`standin`]) speak for it, each in the protocol of its device; the drivers ([`drive`]) talk to them as they
//! would to real devices. Both meet over one [`net`]: loopback sockets, or pipes in memory on a clock that is
//! faster than sockets can follow. [`bus`] is the same for MQTT.
//!
//! The runtime knows only what drivers report: its [`mind`] keeps a [`belief`] about every device and what
//! the room is taken for, [`runtime`] executes a plan through its [`wires`]. [`rehearsal`] ties all of it together
//! for one room; [`story`] plays an evening again, [`trials`] makes up evenings at random. [`handset`] is the
//! stand-in for the remotes of the room, pressed in front of the gateway's learner through the [`air`].

pub mod air;
pub mod belief;
pub mod bus;
pub mod clock;
pub mod drive;
pub mod handset;
mod learning;
pub mod lines;
pub mod mind;
pub mod net;
mod pressed;
pub mod rehearsal;
pub mod runtime;
pub mod standin;
pub mod story;
pub mod tested;
#[cfg(test)]
mod tests;
pub mod trials;
pub mod wire;
pub mod wires;
pub mod world;

pub use rehearsal::{Rehearsal, RehearsalView};
