//! Commands of a house: what is sent for a function, how far it is proved, and the tools that find
//! the mistakes people make when they capture them.
//!
//! [`body`] says what can be sent for a function; [`state`] how far a code is proved. [`judge`] looks
//! at what a learner heard and names what is wrong with it; [`preset`] finds out which of several code sets a device follows with the fewest
//! presses; [`search`] orders the commands of an address that nobody has tried. [`vocabulary`] has the
//! names that functions go by; [`import`] and [`export`] bring codes in and out in open formats.

pub mod export;
pub mod formats;
pub mod import;
pub mod judge;
pub mod paths;
pub mod preset;
pub mod search;
mod state;
pub mod vocabulary;

pub use state::{CodeState, state_of};
