//! Infrared signals: from what a learner heard to what the key means, and back.
//!
//! A remote keys a carrier on and off. A *mark* is carrier on, a *space* is carrier off; both are
//! measured in µs. Data flows through the files in this order:
//!
//! 1. [`text`] parses what was pasted into a [`Capture`].
//! 2. [`clean`] takes out stray blips and splits the capture into *frames* at long silences.
//! 3. [`protocol`] turns one frame into the fields of one [`Message`], or says where it stops fitting.
//! 4. [`reading`] does so for every protocol, ranks what fits, and measures how well it fits.
//!
//! [`combine`] makes one better reading of several captures of one key. [`radio`] reads and writes fixed
//! codes, [`ip`] commands on the network, [`payload`] what only a gateway understands; [`exchange`] has
//! the open file formats.
//!
//! The other way, [`Message::encode`] gives exact timing: edges are rounded cumulatively, so that a
//! frame never drifts from its nominal length by more than half a microsecond.

mod capture;
pub mod clean;
pub mod combine;
pub mod exchange;
pub mod ip;
pub mod layout;
pub mod payload;
pub mod protocol;
pub mod radio;
pub mod reading;
pub mod text;

pub use capture::{Capture, CaptureError, MAX_DURATION_US, MAX_DURATIONS};
pub use protocol::{FieldError, Message, Misfit, Protocol, ProtocolId};
pub use reading::{Candidate, Reading, read};
