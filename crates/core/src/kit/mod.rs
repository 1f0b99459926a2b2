//! The inventory of a house: how each device can be told something, where it is on the network, and
//! what one has to know of it at a service call.
//!
//! [`remote`] concludes from three checks what a remote is; [`advise`] ranks what a device offers;
//! [`network`] checks the table of addresses; [`copy`] duplicates devices, rooms and profiles; [`check`]
//! gathers what the margin says of all this; [`tables`] writes it as CSV; [`library`] has the invented
//! models that ship with the product.

mod advise;
pub mod check;
pub mod copy;
pub mod library;
mod network;
mod records;
pub mod remote;
pub mod tables;

pub use advise::{Advice, advise};
pub use network::{Link, Network, Talk, addresses};
pub use records::{NOTE_MAX, PHOTOS_MAX, Photo, Records};
