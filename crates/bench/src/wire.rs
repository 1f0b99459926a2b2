//! The gateway's line protocol: one JSON document a line, each way, UTF-8, at most 1 MB a line.
//!
//! | you send | it answers |
//! | --- | --- |
//! | `{"id": 1, "do": "hello"}` | `{"id": 1, "ok": true, "name": "…", "media": ["ir", "rf433"]}` |
//! | `{"id": 3, "do": "learn", "listen_ms": 10000}` | `{"id": 3, "ok": true, "heard": [{"medium": "ir", "durations_us": [9074, …], "payload": "S0Q…"}]}`; an empty list where nothing was heard |
//! | `{"id": 4, "do": "sweep", "listen_ms": 10000}` | `{"id": 4, "ok": true, "frequency_hz": 433920000}` once a radio key has been held for 0.5 s; without it where none was |
//! | `{"id": 5, "do": "send-payload", "medium": "ir", "payload": "S0Q…"}` | `{"id": 5, "ok": true}` for a payload that it learned itself |
//! | `{"id": 2, "do": "send", "medium": "ir", "carrier_hz": 38000, "durations_us": [9000, 4500, …]}` | `{"id": 2, "ok": true}` once the last silence has passed |
//!
//! A payload is base64 of what the gateway keeps of a key: the letters KD, then each duration in units of
//! 8 µs, two bytes, low byte first. Nobody else needs to know that: it travels as an opaque payload.
//!
//! `id` is any number up to 2⁶⁴ − 1 and comes back. Durations are µs, a mark first; a number of
//! durations may be odd. Sends on one medium are queued in the order in which they come, sends on
//! different media overlap. What is wrong is answered with `{"id": …, "ok": false, "error": "…"}`
//! (`id` 0 where it could not be read), and the connection stays open.

use kestrel_core::model::Medium;
use serde::{Deserialize, Serialize};

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
    /// Listen for a key of a handset.
    Learn {
        /// For how long, in ms.
        listen_ms: u32,
    },
    /// Listen for the frequency of a radio key that is held.
    Sweep {
        /// For how long, in ms.
        listen_ms: u32,
    },
    /// Send what was learned before, by its payload.
    SendPayload {
        /// By which medium.
        medium: Medium,
        /// Base64.
        payload: String,
    },
}

/// What a learner heard.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct HeardSignal {
    /// By which medium.
    pub medium: Medium,
    /// Marks and spaces in µs.
    pub durations_us: Vec<u32>,
    /// The same as an opaque payload, in base64.
    pub payload: String,
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
    /// What was heard, to a learn.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heard: Option<Vec<HeardSignal>>,
    /// What was found, to a sweep, in Hz.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub frequency_hz: Option<u32>,
    /// Why it was not done.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub error: Option<String>,
}
