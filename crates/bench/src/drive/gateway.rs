//! The driver of a gateway: asks over its line protocol, waits for the answer, says what went wrong.

use super::DriverError;
use super::link::{LEAST, PATIENCE_MS};
use crate::clock::Clock;
use crate::lines::{TextLine, next_line};
use crate::net::Net;
use crate::wire::{Answer, Ask, HeardSignal, Request};
use kestrel_core::model::Medium;
use std::collections::HashMap;
use std::net::SocketAddr;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::io::{AsyncRead, AsyncWrite, AsyncWriteExt, BufReader};
use tokio::sync::oneshot;

/// How long a connection may take, in real time.
const PATIENCE: Duration = Duration::from_secs(3);

type Waiting = Arc<Mutex<HashMap<u64, oneshot::Sender<Answer>>>>;

/// A connection to a gateway. Requests may overlap.
pub struct Driver {
    write: tokio::sync::Mutex<Box<dyn AsyncWrite + Unpin + Send>>,
    waiting: Waiting,
    next: AtomicU64,
    reader: tokio::task::JoinHandle<()>,
    clock: Clock,
}

impl Driver {
    /// Connects and checks that a gateway answers.
    ///
    /// # Errors
    /// Where nobody listens, or what listens is no gateway.
    pub async fn connect(net: &Net, address: SocketAddr, clock: Clock) -> Result<Self, DriverError> {
        let unreachable = |why: String| DriverError::Unreachable { address: address.to_string(), why };
        let stream = match tokio::time::timeout(PATIENCE, net.connect(address)).await {
            Ok(stream) => stream.map_err(|error| unreachable(error.to_string()))?,
            Err(_) => return Err(unreachable("no answer".to_owned())),
        };
        let (read, write) = tokio::io::split(stream);
        let driver = Self::over(read, write, clock);
        driver.ask(Ask::Hello, 0).await?;
        Ok(driver)
    }

    /// Is the connection gone?
    #[must_use]
    pub fn gone(&self) -> bool {
        self.reader.is_finished()
    }

    /// A driver over any pair of streams.
    pub fn over(
        read: impl AsyncRead + Unpin + Send + 'static,
        write: impl AsyncWrite + Unpin + Send + 'static,
        clock: Clock,
    ) -> Self {
        let waiting = Waiting::default();
        let reader = tokio::spawn(read_answers(BufReader::new(read), waiting.clone()));
        Self { write: tokio::sync::Mutex::new(Box::new(write)), waiting, next: AtomicU64::new(1), reader, clock }
    }

    /// Sends a signal; returns when its last silence has passed.
    ///
    /// # Errors
    /// Where the gateway is gone, silent, or refuses.
    pub async fn send(&self, medium: Medium, carrier_hz: u32, durations_us: &[u32]) -> Result<(), DriverError> {
        let us: u64 = durations_us.iter().map(|&us| u64::from(us)).sum();
        let ask = Ask::Send { medium, carrier_hz, durations_us: durations_us.to_vec() };
        self.ask(ask, us.div_ceil(1000)).await.map(|_| ())
    }

    /// Sends what the gateway learned before, by its payload (base64), which lasts about `send_ms`.
    ///
    /// # Errors
    /// Where the gateway is gone, silent, or does not know the payload.
    pub async fn send_payload(&self, medium: Medium, payload: &str, send_ms: u32) -> Result<(), DriverError> {
        self.ask(Ask::SendPayload { medium, payload: payload.to_owned() }, u64::from(send_ms)).await.map(|_| ())
    }

    /// Listens for a key of a handset, for `listen_ms` on the gateway's clock at most.
    ///
    /// # Errors
    /// Where the gateway is gone or silent.
    pub async fn learn(&self, listen_ms: u32) -> Result<Vec<HeardSignal>, DriverError> {
        Ok(self.ask(Ask::Learn { listen_ms }, u64::from(listen_ms)).await?.heard.unwrap_or_default())
    }

    /// Listens for the frequency of a radio key that is held; none where nothing was heard.
    ///
    /// # Errors
    /// Where the gateway is gone or silent.
    pub async fn sweep(&self, listen_ms: u32) -> Result<Option<u32>, DriverError> {
        Ok(self.ask(Ask::Sweep { listen_ms }, u64::from(listen_ms)).await?.frequency_hz)
    }

    /// Asks, and waits for the answer: it takes `work_ms` on the gateway's clock, and some patience.
    async fn ask(&self, ask: Ask, work_ms: u64) -> Result<Answer, DriverError> {
        let id = self.next.fetch_add(1, Ordering::Relaxed);
        let (tell, told) = oneshot::channel();
        lock(&self.waiting).insert(id, tell);
        if self.reader.is_finished() {
            return Err(DriverError::Closed);
        }
        let mut line = serde_json::to_vec(&Request { id, ask }).map_err(|e| DriverError::Refused(e.to_string()))?;
        line.push(b'\n');
        let written = async {
            let mut write = self.write.lock().await;
            write.write_all(&line).await?;
            write.flush().await
        };
        let answered = async {
            written.await.map_err(|_| DriverError::Closed)?;
            told.await.map_err(|_| DriverError::Closed)
        };
        let answer = tokio::select! {
            biased;
            answer = answered => answer,
            () = self.clock.patience(work_ms + PATIENCE_MS, LEAST) => Err(DriverError::Silent(PATIENCE_MS / 1000)),
        };
        lock(&self.waiting).remove(&id);
        match answer? {
            answer if answer.ok => Ok(answer),
            answer => Err(DriverError::Refused(answer.error.unwrap_or_else(|| "no reason given".to_owned()))),
        }
    }
}

impl Drop for Driver {
    fn drop(&mut self) {
        self.reader.abort();
    }
}

fn lock(waiting: &Waiting) -> std::sync::MutexGuard<'_, HashMap<u64, oneshot::Sender<Answer>>> {
    waiting.lock().unwrap_or_else(PoisonError::into_inner)
}

async fn read_answers(mut reader: BufReader<impl AsyncRead + Unpin>, waiting: Waiting) {
    loop {
        match next_line(&mut reader, b'\n').await {
            TextLine::End => break,
            TextLine::TooLong => tracing::warn!("the gateway sent a line that is too long"),
            TextLine::Text(line) => match serde_json::from_str::<Answer>(&line) {
                Ok(answer) => {
                    if let Some(tell) = lock(&waiting).remove(&answer.id) {
                        let _ = tell.send(answer);
                    }
                }
                Err(error) => tracing::warn!(%error, "the gateway sent something that is no answer"),
            },
        }
    }
    // Whoever still waits is told that nobody will answer.
    lock(&waiting).clear();
}
