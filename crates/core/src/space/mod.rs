//! The room in space: what reaches what, and what is seen from where.
//!
//! Everything is worked out in metres in the frame of a room ([`geometry`]). Infrared light goes straight and by one bounce
//! ([`infrared`]), radio by free space and walls ([`radio`]); [`scene`] makes both out of a floor plan and what is placed on it,
//! [`reach`] says what a gateway reaches and why not, [`gateways`] finds the cheapest set of them ([`cover`]). The picture has a
//! size, a throw, light and sight lines ([`picture`], [`seats`]), the screen stops at a height ([`stop`]), and cables have a
//! length ([`cables`]).
//!
//! What is not placed, or of which nothing is known, gets no claim. [`hears`] says who hears what, and [`way`] how a key gets
//! to its device: plans and proofs rest on these two.

pub mod cables;
pub mod cover;
pub mod find;
pub mod gateways;
pub mod geometry;
pub mod hears;
pub mod infrared;
pub mod picture;
pub mod radio;
pub mod reach;
pub mod scene;
pub mod seats;
pub mod stop;
#[cfg(test)]
mod tests;
pub mod way;
