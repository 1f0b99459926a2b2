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
//! A protocol is a value: what is built in stands in [`BuiltIn`], and who knows another one makes a [`Protocol`] and
//! hands it to a reader in a set ([`Protocols`], [`read_among`]).
//!
//! # A capture and what it says
//! ```
//! use kestrel_signal::{Capture, Message, ProtocolId, read};
//!
//! // What a learner would hear of the key, held for two frames: marks and spaces in µs.
//! let key = Message::new(ProtocolId::Nec, [("address", 4), ("command", 8)])?;
//! let mut heard = key.encode(2);
//! heard.pop(); // A capture ends with a mark.
//! let reading = read(&Capture::new(heard, None)?);
//! let best = reading.best.expect("it is a clean signal");
//! assert_eq!(best.message, key);
//! assert_eq!(best.message.to_string(), "nec address=4 command=8");
//! assert!(best.confidence > 0.99);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # The text forms of a capture
//! ```
//! use kestrel_signal::exchange;
//!
//! let parsed = exchange::capture(b"+9024 -4512 +564 -564 +564 -1692 +564", None)?;
//! assert_eq!(parsed.capture.durations_us()[..2], [9024, 4512]);
//! let error = exchange::capture(b"pulse 9000\nspace soon", None).unwrap_err();
//! assert!(error.to_string().contains("“soon”"), "the word that is no duration is named");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # Bytes of a command on the network
//! ```
//! use kestrel_signal::ip::IpCommand;
//!
//! let on = IpCommand::Pjlink { command: "POWR 1".to_owned() };
//! assert_eq!(on.bytes()?, b"%1POWR 1\r");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! [`combine`] makes one better reading of several captures of one key. [`radio`] reads and writes fixed
//! codes, [`propose`] describes a remote that no protocol fits, [`long`] takes a recording of a whole handset apart, [`ip`] commands on the network, [`payload`] what only a gateway understands; [`exchange`] has
//! the open file formats.
//!
//! The other way, [`Message::encode`] gives exact timing: edges are rounded cumulatively, so that a
//! frame never drifts from its nominal length by more than half a microsecond.

mod capture;
pub mod clean;
pub mod combine;
mod envelope;
pub mod exchange;
pub mod ip;
pub mod layout;
pub mod long;
pub mod payload;
pub mod propose;
pub mod protocol;
pub mod radio;
pub mod reading;
pub mod text;

pub use capture::{Capture, CaptureError, MAX_DURATION_US, MAX_DURATIONS};
pub use protocol::{BuiltIn, FieldError, Message, Misfit, Protocol, ProtocolId, Protocols};
pub use reading::{Candidate, Reading, read, read_among};
