//! The gateway stand-in: takes lines of [`crate::wire`], radiates what it is told into the room.

use super::Standin;
use crate::air::{Air, Sent};
use crate::clock::Clock;
use crate::lines::{MAX_LINE, TextLine, next_line};
use crate::net::{Listener, Stream};
use crate::wire::{Answer, Ask, HeardSignal, Request};
use crate::world::World;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use kestrel_core::id::DeviceId;
use kestrel_core::model::{Medium, RADIO_HZ};
use kestrel_signal::{MAX_DURATION_US, MAX_DURATIONS};
use std::sync::Arc;
use tokio::io::{AsyncRead, AsyncWrite, AsyncWriteExt, BufReader};
use tokio::sync::{Mutex, mpsc};

/// A gateway on the bench.
#[derive(Clone)]
pub struct Gateway {
    world: World,
    /// Which device of the room it is; none where the room has no gateway of its own.
    device: Option<DeviceId>,
    clock: Clock,
    /// Where handsets are pressed in front of its learner.
    air: Air,
    /// One transmission at a time on each medium.
    infrared: Arc<Mutex<()>>,
    radio: Arc<Mutex<()>>,
}

impl Gateway {
    /// A gateway that radiates into `world`.
    #[must_use]
    pub fn new(world: World, device: Option<DeviceId>, air: Air) -> Self {
        let clock = world.clock().clone();
        Self { world, device, clock, air, infrared: Arc::default(), radio: Arc::default() }
    }

    /// Serves every connection to `listener`, until the task is aborted.
    pub async fn listen(self, mut listener: Listener) {
        let mut connections = tokio::task::JoinSet::new();
        loop {
            match listener.accept().await {
                Ok(stream) if self.device.is_some_and(|device| !self.world.answers(device)) => drop(stream),
                Ok(stream) => {
                    connections.spawn(self.clone().connection(stream));
                }
                Err(error) if error.kind() == std::io::ErrorKind::NotConnected => return,
                Err(error) => {
                    tracing::warn!(%error, "the gateway could not take a connection");
                    tokio::time::sleep(std::time::Duration::from_millis(100)).await;
                }
            }
            while connections.try_join_next().is_some() {}
        }
    }

    /// Serves one connection until its end, or until its plug is pulled.
    async fn connection(self, stream: Stream) {
        let (read, write) = tokio::io::split(stream);
        match self.device {
            None => self.serve(read, write).await,
            Some(device) => {
                let cut = Standin { world: self.world.clone(), device }.cut();
                tokio::select! {
                    () = self.serve(read, write) => {}
                    () = cut => {}
                }
            }
        }
    }

    /// Serves one connection until its end.
    pub async fn serve(self, read: impl AsyncRead + Unpin, write: impl AsyncWrite + Unpin + Send + 'static) {
        let (answers, outbox) = mpsc::channel(64);
        let writer = write_answers(outbox, write);
        let reader = self.read_requests(read, answers);
        tokio::join!(reader, writer);
    }

    /// A gateway that hangs keeps what it is told, and goes on with it once it is well again.
    async fn hang(&self) {
        let Some(device) = self.device else { return };
        let mut changes = self.world.changes();
        while self.world.faults(device).silent {
            if changes.changed().await.is_err() {
                return;
            }
        }
        let faults = self.world.faults(device);
        if faults.slow_ms > 0 {
            self.clock.sleep(u64::from(faults.slow_ms)).await;
        }
    }

    async fn read_requests(self, read: impl AsyncRead + Unpin, answers: mpsc::Sender<Answer>) {
        let mut reader = BufReader::new(read);
        let mut sends = tokio::task::JoinSet::new();
        loop {
            match next_line(&mut reader, b'\n').await {
                TextLine::End => break,
                TextLine::TooLong => {
                    let error = format!("a line may have {MAX_LINE} bytes at most");
                    let _ = answers.send(refusal(0, error)).await;
                }
                TextLine::Text(line) if line.trim().is_empty() => {}
                TextLine::Text(line) => match serde_json::from_str::<Request>(&line) {
                    Ok(request) => self.clone().handle(request, &answers, &mut sends).await,
                    Err(error) => {
                        let id = serde_json::from_str::<serde_json::Value>(&line)
                            .ok()
                            .and_then(|value| value.get("id")?.as_u64())
                            .unwrap_or(0);
                        let _ = answers.send(refusal(id, format!("not a request: {error}"))).await;
                    }
                },
            }
        }
    }

    async fn handle(self, request: Request, answers: &mpsc::Sender<Answer>, sends: &mut tokio::task::JoinSet<()>) {
        let id = request.id;
        match request.ask {
            Ask::Hello => {
                let media = Some(vec![Medium::Ir, Medium::Rf433]);
                let answer = Answer { id, ok: true, name: Some(self.name()), media, ..Answer::default() };
                let _ = answers.send(answer).await;
            }
            Ask::Send { durations_us, .. } if !sendable(&durations_us) => {
                let error = format!("durations_us needs 1 to {MAX_DURATIONS} values of 1 to {MAX_DURATION_US} µs");
                let _ = answers.send(refusal(id, error)).await;
            }
            Ask::Learn { listen_ms } | Ask::Sweep { listen_ms } if listen_ms > LISTEN_MAX_MS => {
                let _ = answers.send(refusal(id, format!("listen_ms goes up to {LISTEN_MAX_MS}"))).await;
            }
            Ask::Learn { listen_ms } => {
                let (answers, air) = (answers.clone(), self.air.listen());
                sends.spawn(async move {
                    let heard = self.learn(air, listen_ms).await;
                    let _ = answers.send(Answer { id, ok: true, heard: Some(heard), ..Answer::default() }).await;
                });
            }
            Ask::Sweep { listen_ms } => {
                let (answers, air) = (answers.clone(), self.air.listen());
                sends.spawn(async move {
                    let frequency_hz = self.sweep(air, listen_ms).await;
                    let _ = answers.send(Answer { id, ok: true, frequency_hz, ..Answer::default() }).await;
                });
            }
            Ask::SendPayload { medium, payload } => match unpacked(&payload) {
                Some(durations_us) if sendable(&durations_us) => {
                    let ask = Ask::Send { medium, carrier_hz: 38_000, durations_us };
                    Box::pin(self.handle(Request { id, ask }, answers, sends)).await;
                }
                _ => {
                    let error = "this payload was not learned by this gateway".to_owned();
                    let _ = answers.send(refusal(id, error)).await;
                }
            },
            Ask::Send { medium, .. } if !medium.shared() => {
                let _ = answers.send(refusal(id, format!("{} is not sent by this gateway", medium.name()))).await;
            }
            Ask::Send { medium, durations_us, .. } => {
                self.queue(id, medium, durations_us, answers, sends).await;
            }
        }
        while sends.try_join_next().is_some() {}
    }

    /// Queues a send behind what its transmitter has to do; media overlap.
    async fn queue(
        self,
        id: u64,
        medium: Medium,
        durations_us: Vec<u32>,
        answers: &mpsc::Sender<Answer>,
        sends: &mut tokio::task::JoinSet<()>,
    ) {
        let answers = answers.clone();
        // Queued here, in the order of arrival; sent in a task of its own, so that media overlap.
        let medium_lock = match medium {
            Medium::Rf433 => self.radio.clone(),
            _ => self.infrared.clone(),
        };
        let mut turn = Box::pin(medium_lock.lock_owned());
        let first = poll_once(&mut turn).await;
        sends.spawn(async move {
            let guard = match first {
                Some(guard) => guard,
                None => turn.await,
            };
            let us: u64 = durations_us.iter().map(|&us| u64::from(us)).sum();
            self.hang().await;
            self.clock.sleep(us.div_ceil(1000)).await;
            self.world.radiate(self.device, medium, &durations_us);
            drop(guard);
            let _ = answers.send(Answer { id, ok: true, ..Answer::default() }).await;
        });
    }
}

/// The longest that a learner listens, in ms.
const LISTEN_MAX_MS: u32 = 60_000;

/// A press is over when the air has been quiet for this long, in ms.
const QUIET_MS: u64 = 250;

/// For how long a radio key must be held for its frequency to be found, in ms.
const SWEEP_HOLD_MS: u64 = 500;

impl Gateway {
    fn name(&self) -> String {
        self.device.map_or_else(|| "bench gateway".to_owned(), |device| self.world.site().device_name(device))
    }

    /// Listens until a key has been pressed and the air is quiet again, or the time is over.
    async fn learn(&self, mut air: tokio::sync::broadcast::Receiver<Sent>, listen_ms: u32) -> Vec<HeardSignal> {
        let until = self.clock.now_ms() + u64::from(listen_ms);
        let mut heard: Vec<HeardSignal> = Vec::new();
        loop {
            let wait = if heard.is_empty() { until } else { self.clock.now_ms() + QUIET_MS };
            tokio::select! {
                signal = air.recv() => match signal {
                    Ok(signal) => heard.push(HeardSignal {
                        medium: signal.medium,
                        payload: packed(&signal.durations_us),
                        durations_us: signal.durations_us,
                    }),
                    Err(tokio::sync::broadcast::error::RecvError::Lagged(_)) => {}
                    Err(_) => return heard,
                },
                () = self.clock.sleep_until(wait) => return heard,
            }
        }
    }

    /// Listens until a radio key has been held long enough.
    async fn sweep(&self, mut air: tokio::sync::broadcast::Receiver<Sent>, listen_ms: u32) -> Option<u32> {
        let until = self.clock.now_ms() + u64::from(listen_ms);
        loop {
            tokio::select! {
                signal = air.recv() => match signal {
                    Ok(signal) => {
                        let held_ms = signal.durations_us.iter().map(|&us| u64::from(us)).sum::<u64>() / 1000;
                        if signal.medium == Medium::Rf433 && held_ms >= SWEEP_HOLD_MS {
                            return Some(RADIO_HZ);
                        }
                    }
                    Err(tokio::sync::broadcast::error::RecvError::Lagged(_)) => {}
                    Err(_) => return None,
                },
                () = self.clock.sleep_until(until) => return None,
            }
        }
    }
}

/// Durations as this gateway keeps them.
fn packed(durations_us: &[u32]) -> String {
    let units = durations_us.iter().map(|&us| u16::try_from((us + 4) / 8).unwrap_or(u16::MAX));
    let bytes: Vec<u8> = b"KD".iter().copied().chain(units.flat_map(u16::to_le_bytes)).collect();
    STANDARD.encode(bytes)
}

fn unpacked(payload: &str) -> Option<Vec<u32>> {
    let bytes = STANDARD.decode(payload).ok()?;
    let units = bytes.strip_prefix(b"KD")?;
    (units.len() % 2 == 0)
        .then(|| units.chunks_exact(2).map(|pair| u32::from(u16::from_le_bytes([pair[0], pair[1]])) * 8).collect())
}

/// Polls once, so that a lock's queue is entered now and not when its task first runs.
async fn poll_once<F: Future + Unpin>(future: &mut F) -> Option<F::Output> {
    std::future::poll_fn(|context| {
        std::task::Poll::Ready(match std::pin::Pin::new(&mut *future).poll(context) {
            std::task::Poll::Ready(output) => Some(output),
            std::task::Poll::Pending => None,
        })
    })
    .await
}

fn sendable(durations_us: &[u32]) -> bool {
    (1..=MAX_DURATIONS).contains(&durations_us.len())
        && durations_us.iter().all(|us| (1..=MAX_DURATION_US).contains(us))
}

fn refusal(id: u64, error: String) -> Answer {
    Answer { id, error: Some(error), ..Answer::default() }
}

async fn write_answers(mut outbox: mpsc::Receiver<Answer>, mut write: impl AsyncWrite + Unpin) {
    while let Some(answer) = outbox.recv().await {
        let Ok(mut line) = serde_json::to_vec(&answer) else { continue };
        line.push(b'\n');
        if write.write_all(&line).await.is_err() || write.flush().await.is_err() {
            break;
        }
    }
}
