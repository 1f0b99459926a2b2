//! The inventory of a house: how each device can be told something, where it is on the network, and
//! what one has to know of it at a service call.
//!
//! [`remote`] concludes from three checks what a remote is; [`advise`] ranks what a device offers;
//! [`network`] checks the table of addresses; [`twins`] finds codes that stand in each other's way; [`copy`] duplicates devices, rooms and profiles; [`check`]
//! gathers what the margin says of all this; [`tables`] writes it as CSV; [`library`] has the invented
//! models that ship with the product.

pub mod check;
mod network;
pub mod remote;
pub mod tables;
pub mod twins;
pub mod usual;

pub use network::addresses;
