//! The driver of a gateway: asks over its line protocol, waits for the answer, says what went wrong.

use crate::gateway::{Line, next_line};
use crate::wire::{Answer, Ask, HeardSignal, Request};
use kestrel_core::device::Medium;
use std::collections::HashMap;
use std::net::SocketAddr;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use thiserror::Error;
use tokio::io::{AsyncRead, AsyncWrite, AsyncWriteExt, BufReader};
use tokio::net::TcpStream;
use tokio::sync::oneshot;

/// How long an answer may take on top of the transmission itself, in real time.
pub const PATIENCE: Duration = Duration::from_secs(3);

/// Why a command did not go out.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum DriverError {
    /// No connection can be made.
    #[error("the gateway at {address} cannot be reached ({why})")]
    Unreachable {
        /// Where it should be.
        address: String,
        /// What the system says.
        why: String,
    },
    /// It hung up.
    #[error("the gateway closed the connection")]
    Closed,
    /// It says nothing.
    #[error("the gateway did not answer within {0} s")]
    Silent(u64),
    /// No connection to a device can be made.
    #[error("the device at {address} cannot be reached ({why})")]
    DeviceUnreachable {
        /// Where it should be.
        address: String,
        /// What the system says.
        why: String,
    },
    /// A device hung up.
    #[error("the device closed the connection without an answer")]
    DeviceClosed,
    /// A device says nothing.
    #[error("the device did not answer within {0} s")]
    DeviceSilent(u64),
    /// A device answers something else.
    #[error("the device answered “{got}” where “{expected}” was expected")]
    Answer {
        /// What should have come.
        expected: String,
        /// What came.
        got: String,
    },
    /// There is no way to send it here.
    #[error("{0}")]
    NoWay(String),
    /// It refused.
    #[error("the gateway refused: {0}")]
    Refused(String),
}

type Waiting = Arc<Mutex<HashMap<u64, oneshot::Sender<Answer>>>>;

/// A connection to a gateway. Requests may overlap.
pub struct Driver {
    write: tokio::sync::Mutex<Box<dyn AsyncWrite + Unpin + Send>>,
    waiting: Waiting,
    next: AtomicU64,
    reader: tokio::task::JoinHandle<()>,
}

impl Driver {
    /// Connects over TCP and checks that a gateway answers.
    ///
    /// # Errors
    /// Where nobody listens, or what listens is no gateway.
    pub async fn connect(address: SocketAddr) -> Result<Self, DriverError> {
        let unreachable = |why: String| DriverError::Unreachable { address: address.to_string(), why };
        let stream = match tokio::time::timeout(PATIENCE, TcpStream::connect(address)).await {
            Ok(stream) => stream.map_err(|error| unreachable(error.to_string()))?,
            Err(_) => return Err(unreachable("no answer".to_owned())),
        };
        let _ = stream.set_nodelay(true);
        let (read, write) = stream.into_split();
        let driver = Self::over(read, write);
        driver.ask(Ask::Hello, PATIENCE).await?;
        Ok(driver)
    }

    /// A driver over any pair of streams.
    pub fn over(
        read: impl AsyncRead + Unpin + Send + 'static,
        write: impl AsyncWrite + Unpin + Send + 'static,
    ) -> Self {
        let waiting = Waiting::default();
        let reader = tokio::spawn(read_answers(BufReader::new(read), waiting.clone()));
        Self { write: tokio::sync::Mutex::new(Box::new(write)), waiting, next: AtomicU64::new(1), reader }
    }

    /// Sends a signal; returns when its last silence has passed. `rate` is that of the clock on which
    /// the gateway runs (1 for a real one).
    ///
    /// # Errors
    /// Where the gateway is gone, silent, or refuses.
    pub async fn send(
        &self,
        medium: Medium,
        carrier_hz: u32,
        durations_us: &[u32],
        rate: f64,
    ) -> Result<(), DriverError> {
        let us: u64 = durations_us.iter().map(|&us| u64::from(us)).sum();
        let patience = PATIENCE + Duration::from_secs_f64(us as f64 / 1e6 / rate.max(0.01));
        let ask = Ask::Send { medium, carrier_hz, durations_us: durations_us.to_vec() };
        self.ask(ask, patience).await.map(|_| ())
    }

    /// Sends what the gateway learned before, by its payload (base64), which lasts about `send_ms`.
    ///
    /// # Errors
    /// Where the gateway is gone, silent, or does not know the payload.
    pub async fn send_payload(
        &self,
        medium: Medium,
        payload: &str,
        send_ms: u32,
        rate: f64,
    ) -> Result<(), DriverError> {
        let patience = PATIENCE + Duration::from_secs_f64(f64::from(send_ms) / 1e3 / rate.max(0.01));
        self.ask(Ask::SendPayload { medium, payload: payload.to_owned() }, patience).await.map(|_| ())
    }

    /// Listens for a key of a handset, for `listen_ms` on the gateway's clock at most.
    ///
    /// # Errors
    /// Where the gateway is gone or silent.
    pub async fn learn(&self, listen_ms: u32, rate: f64) -> Result<Vec<HeardSignal>, DriverError> {
        let patience = PATIENCE + Duration::from_secs_f64(f64::from(listen_ms) / 1e3 / rate.max(0.01));
        Ok(self.ask(Ask::Learn { listen_ms }, patience).await?.heard.unwrap_or_default())
    }

    /// Listens for the frequency of a radio key that is held; none where nothing was heard.
    ///
    /// # Errors
    /// Where the gateway is gone or silent.
    pub async fn sweep(&self, listen_ms: u32, rate: f64) -> Result<Option<u32>, DriverError> {
        let patience = PATIENCE + Duration::from_secs_f64(f64::from(listen_ms) / 1e3 / rate.max(0.01));
        Ok(self.ask(Ask::Sweep { listen_ms }, patience).await?.frequency_hz)
    }

    async fn ask(&self, ask: Ask, patience: Duration) -> Result<Answer, DriverError> {
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
        let answer = tokio::time::timeout(patience, async {
            written.await.map_err(|_| DriverError::Closed)?;
            told.await.map_err(|_| DriverError::Closed)
        });
        let answer = answer.await.unwrap_or(Err(DriverError::Silent(patience.as_secs())));
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
        match next_line(&mut reader).await {
            Line::End => break,
            Line::TooLong => tracing::warn!("the gateway sent a line that is too long"),
            Line::Text(line) => match serde_json::from_str::<Answer>(&line) {
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
