//! Surfaces: what people press.
//!
//! A surface is a hand remote, a phone, a keypad: a grid of keys at true size, in [`Page`]s. Its layout is
//! [`mod@generate`]d from the activities of the room and their devices, and edited then; what was made by hand stays.
//! [`now`] says what a key does at this moment, for the runtime and the screen alike; [`cover`] what the old remotes
//! could and this one cannot; [`find`] what is wrong with it; [`engrave`] makes its labels; [`voice`] the names that
//! people say.

pub mod bar;
pub mod contrast;
pub mod copy;
pub mod cover;
pub mod engrave;
pub mod find;
pub mod finger;
pub mod generate;
pub mod guest;
pub mod now;
pub mod offer;
mod place;
pub mod plainly;
#[cfg(test)]
mod tests;
pub mod voice;
