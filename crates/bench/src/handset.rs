//! The handset stand-in: the remotes of a room on the table in front of the learner, and a thumb.
//!
//! It listens on loopback for one JSON document a line and answers each with another:
//!
//! | you send | it answers |
//! | --- | --- |
//! | `{"id": 1, "device": "…", "key": "…", "presses": 1, "hold_ms": 300}` | `{"id": 1, "ok": true}` once the key has been let go |
//! | the same with `"slip": true` | the same; the key was let go during its first frame |
//!
//! `device` and `key` are ids of the house. The remote is held at the learner, so devices do not hear it.

use crate::air::{Air, Sent};
use crate::clock::Clock;
use crate::lines::{TextLine, next_line};
use kestrel_core::id::{DeviceId, FunctionId};
use kestrel_core::model::{Press, Site};
use kestrel_core::room::handset::{self, Thumb};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use tokio::io::{AsyncRead, AsyncWrite, AsyncWriteExt, BufReader};

/// A press that is asked for.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct PressRequest {
    /// Comes back in the answer.
    pub id: u64,
    /// Whose remote.
    pub device: DeviceId,
    /// Which key: the function that its maker meant.
    pub key: FunctionId,
    /// How often.
    #[serde(default = "once")]
    pub presses: u8,
    /// How long the last press is held, in ms.
    #[serde(default)]
    pub hold_ms: u32,
    /// Does the thumb slip?
    #[serde(default)]
    pub slip: bool,
}

fn once() -> u8 {
    1
}

/// What comes back.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct PressAnswer {
    /// The request's.
    pub id: u64,
    /// Was it pressed?
    pub ok: bool,
    /// Why it was not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub error: Option<String>,
}

/// The longest that a key is held, in ms.
const HOLD_MAX_MS: u32 = 10_000;

/// How often the hand looks for the learner's lamp before it presses all the same.
const LAMP_LOOKS: u32 = 50;

/// The pause between two looks, in real time.
const LAMP_PAUSE: std::time::Duration = std::time::Duration::from_millis(20);

/// The handsets of a room.
#[derive(Clone)]
pub struct Handsets {
    clock: Clock,
    air: Air,
    site: Arc<dyn Fn() -> Arc<Site> + Send + Sync>,
    seed: Arc<AtomicU64>,
}

impl Handsets {
    /// Handsets that speak into `air`; `site` gives the house as it stands.
    pub fn new(clock: Clock, air: Air, site: impl Fn() -> Arc<Site> + Send + Sync + 'static) -> Self {
        Self { clock, air, site: Arc::new(site), seed: Arc::new(AtomicU64::new(0x5eed)) }
    }

    /// Serves one connection until its end.
    pub async fn serve(self, read: impl AsyncRead + Unpin, mut write: impl AsyncWrite + Unpin) {
        let mut reader = BufReader::new(read);
        loop {
            let answer = match next_line(&mut reader, b'\n').await {
                TextLine::End => return,
                TextLine::TooLong => refusal(0, "the line is too long"),
                TextLine::Text(line) if line.trim().is_empty() => continue,
                TextLine::Text(line) => match serde_json::from_str::<PressRequest>(&line) {
                    Ok(request) => self.press(&request).await,
                    Err(error) => refusal(0, &format!("not a request: {error}")),
                },
            };
            let Ok(mut line) = serde_json::to_vec(&answer) else { continue };
            line.push(b'\n');
            if write.write_all(&line).await.is_err() || write.flush().await.is_err() {
                return;
            }
        }
    }

    async fn press(&self, request: &PressRequest) -> PressAnswer {
        if !(1..=9).contains(&request.presses) || request.hold_ms > HOLD_MAX_MS {
            return refusal(request.id, "presses go from 1 to 9 and hold_ms up to 10000");
        }
        let press = Press { presses: request.presses, hold_ms: request.hold_ms, ..Press::default() };
        let thumb = if request.slip { Thumb::Slip } else { Thumb::Press(press) };
        let seed = self.seed.fetch_add(0x9e37_79b9, Ordering::Relaxed);
        let Some(heard) = handset::press(&(self.site)(), request.device, request.key, thumb, seed) else {
            return refusal(request.id, "there is no such key on the handset of that device");
        };
        // A hand waits for the learner's lamp, for a moment.
        for _ in 0..LAMP_LOOKS {
            if self.air.heard() {
                break;
            }
            tokio::time::sleep(LAMP_PAUSE).await;
        }
        let durations_us = heard.capture.durations_us().to_vec();
        self.clock.sleep(heard.capture.length_us().div_ceil(1000)).await;
        self.air.press(Sent { medium: heard.medium, durations_us });
        PressAnswer { id: request.id, ok: true, error: None }
    }
}

fn refusal(id: u64, error: &str) -> PressAnswer {
    PressAnswer { id, ok: false, error: Some(error.to_owned()) }
}
