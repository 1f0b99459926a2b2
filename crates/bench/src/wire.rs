//! The gateway's line protocol: one JSON document a line, each way, UTF-8, at most 1 MB a line.
//!
//! | you send | it answers |
//! | --- | --- |
//! | `{"id": 1, "do": "hello"}` | `{"id": 1, "ok": true, "name": "…", "media": ["ir", "rf433"]}` |
//! | `{"id": 2, "do": "send", "medium": "ir", "carrier_hz": 38000, "durations_us": [9000, 4500, …]}` | `{"id": 2, "ok": true}` once the last silence has passed |
//!
//! `id` is any number up to 2⁶⁴ − 1 and comes back. Durations are µs, a mark first; a number of
//! durations may be odd. Sends on one medium are queued in the order in which they come, sends on
//! different media overlap. What is wrong is answered with `{"id": …, "ok": false, "error": "…"}`
//! (`id` 0 where it could not be read), and the connection stays open.

use kestrel_core::device::Medium;
use serde::{Deserialize, Serialize};

/// The longest line, in bytes.
pub const MAX_LINE: usize = 1_000_000;

/// What is asked of a gateway.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Request {
    /// Comes back in the answer.
    pub id: u64,
    /// What to do.
    #[serde(flatten)]
    pub ask: Ask,
}

/// What a gateway can do.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", tag = "do")]
pub enum Ask {
    /// Say who you are.
    Hello,
    /// Send a signal.
    Send {
        /// By which medium.
        medium: Medium,
        /// Carrier in Hz; radio ignores it.
        carrier_hz: u32,
        /// Marks and spaces in µs.
        durations_us: Vec<u32>,
    },
}

/// What a gateway answers.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Answer {
    /// The request's.
    pub id: u64,
    /// Was it done?
    pub ok: bool,
    /// Its name, to a hello.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// What it can send by, to a hello.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub media: Option<Vec<Medium>>,
    /// Why it was not done.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub error: Option<String>,
}
