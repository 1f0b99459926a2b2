//! The driver of an LED strip on E1.31; see [`crate::standin::e131`] for the packets.
//!
//! During a fade a packet goes out every 25 ms, and once the strip stands the last one is repeated every
//! 800 ms, so that a strip that was switched on late finds its level.

use super::DriverError;
use crate::clock::Clock;
use crate::net::Net;
use crate::standin::e131::{Packet, SLOTS};
use kestrel_core::room::Want;
use std::net::SocketAddr;
use std::sync::Arc;
use tokio::sync::Mutex;
use tokio::task::JoinHandle;

/// Between two packets of a fade, in ms: 40 a second, below the 44 that a DMX universe can carry.
const FRAME_MS: u64 = 25;

/// Between two packets of a strip that stands, in ms (the standard asks for 800 to 1000).
const KEEP_ALIVE_MS: u64 = 800;

/// So many packets of a strip that stands, then it is left alone: a bench does not fill its log for ever.
const REPEATS: u32 = 3;

/// The driver.
pub struct Strip {
    net: Net,
    to: SocketAddr,
    clock: Clock,
    state: Arc<Mutex<(u8, f64)>>,
    fade: Mutex<Option<JoinHandle<()>>>,
}

impl Drop for Strip {
    fn drop(&mut self) {
        if let Some(fade) = self.fade.get_mut().take() {
            fade.abort();
        }
    }
}

impl Strip {
    /// A driver.
    #[must_use]
    pub fn new(net: &Net, to: SocketAddr, clock: &Clock) -> Self {
        Self { net: net.clone(), to, clock: clock.clone(), state: Arc::default(), fade: Mutex::new(None) }
    }

    /// Fades to a level.
    ///
    /// # Errors
    /// Where the first packet cannot be sent.
    pub async fn want(&self, want: &Want) -> Result<(), DriverError> {
        let Want::Level { percent, fade_ms } = want else {
            return Err(DriverError::NoWay("an LED strip knows levels alone".to_owned()));
        };
        let mut fade = self.fade.lock().await;
        if let Some(old) = fade.take() {
            old.abort();
        }
        let (from, to) = (self.state.lock().await.1, f64::from((*percent).min(100)) / 100.0);
        let (net, address, clock, state) = (self.net.clone(), self.to, self.clock.clone(), self.state.clone());
        let length_ms = u64::from(*fade_ms);
        let send = move |level: f64| {
            let (net, state) = (net.clone(), state.clone());
            async move {
                let mut state = state.lock().await;
                *state = (state.0.wrapping_add(1), level);
                #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "between 0 and 255")]
                let slot = (level * 255.0).round() as u8;
                let packet = Packet {
                    cid: *b"kestrel dune cid",
                    source: "Kestrel Dune".to_owned(),
                    priority: 100,
                    sequence: state.0,
                    terminated: false,
                    universe: 1,
                    slots: vec![slot; SLOTS],
                };
                net.send_datagram(address, &packet.bytes()).await
            }
        };
        let first = if length_ms == 0 { to } else { from };
        send(first)
            .await
            .map_err(|error| DriverError::DeviceUnreachable { address: address.to_string(), why: error.to_string() })?;
        *fade = Some(tokio::spawn(async move {
            let start = clock.now_ms();
            let mut share = if length_ms == 0 { 1.0 } else { 0.0 };
            while share < 1.0 {
                clock.sleep(FRAME_MS).await;
                share = ((clock.now_ms() - start) as f64 / length_ms as f64).min(1.0);
                let _ = send(from + (to - from) * share).await;
            }
            for _ in 0..REPEATS {
                clock.sleep(KEEP_ALIVE_MS).await;
                let _ = send(to).await;
            }
        }));
        Ok(())
    }
}
