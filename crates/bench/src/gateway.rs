//! The gateway stand-in: takes lines of [`crate::wire`], radiates what it is told into the room.

use crate::clock::Clock;
use crate::wire::{Answer, Ask, MAX_LINE, Request};
use kestrel_core::device::Medium;
use kestrel_core::signal::{MAX_DURATION_US, MAX_DURATIONS};
use std::sync::Arc;
use tokio::io::{AsyncBufReadExt, AsyncRead, AsyncReadExt, AsyncWrite, AsyncWriteExt, BufReader};
use tokio::net::TcpListener;
use tokio::sync::{Mutex, mpsc};

/// Told of every transmission when its last silence has passed: simulated ms, medium, durations in µs.
pub type Radiate = dyn Fn(u64, Medium, &[u32]) + Send + Sync;

/// A gateway on the bench.
#[derive(Clone)]
pub struct Gateway {
    name: String,
    clock: Clock,
    radiate: Arc<Radiate>,
    /// One transmission at a time on each medium.
    infrared: Arc<Mutex<()>>,
    radio: Arc<Mutex<()>>,
}

impl Gateway {
    /// A gateway that radiates through `radiate`.
    pub fn new(name: &str, clock: Clock, radiate: impl Fn(u64, Medium, &[u32]) + Send + Sync + 'static) -> Self {
        Self {
            name: name.to_owned(),
            clock,
            radiate: Arc::new(radiate),
            infrared: Arc::default(),
            radio: Arc::default(),
        }
    }

    /// Serves every connection to `listener`, until the task is aborted.
    pub async fn listen(self, listener: TcpListener) {
        let mut connections = tokio::task::JoinSet::new();
        loop {
            match listener.accept().await {
                Ok((stream, _)) => {
                    let _ = stream.set_nodelay(true);
                    let (read, write) = stream.into_split();
                    connections.spawn(self.clone().serve(read, write));
                }
                Err(error) => {
                    tracing::warn!(%error, "the gateway could not take a connection");
                    tokio::time::sleep(std::time::Duration::from_millis(100)).await;
                }
            }
            while connections.try_join_next().is_some() {}
        }
    }

    /// Serves one connection until its end.
    pub async fn serve(self, read: impl AsyncRead + Unpin, write: impl AsyncWrite + Unpin + Send + 'static) {
        let (answers, outbox) = mpsc::channel(64);
        let writer = write_answers(outbox, write);
        let reader = self.read_requests(read, answers);
        tokio::join!(reader, writer);
    }

    async fn read_requests(self, read: impl AsyncRead + Unpin, answers: mpsc::Sender<Answer>) {
        let mut reader = BufReader::new(read);
        let mut sends = tokio::task::JoinSet::new();
        loop {
            match next_line(&mut reader).await {
                Line::End => break,
                Line::TooLong => {
                    let error = format!("a line may have {MAX_LINE} bytes at most");
                    let _ = answers.send(refusal(0, error)).await;
                }
                Line::Text(line) if line.trim().is_empty() => {}
                Line::Text(line) => match serde_json::from_str::<Request>(&line) {
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
                let answer = Answer { id, ok: true, name: Some(self.name.clone()), media, error: None };
                let _ = answers.send(answer).await;
            }
            Ask::Send { durations_us, .. } if !sendable(&durations_us) => {
                let error = format!("durations_us needs 1 to {MAX_DURATIONS} values of 1 to {MAX_DURATION_US} µs");
                let _ = answers.send(refusal(id, error)).await;
            }
            Ask::Send { medium, durations_us, .. } => {
                let answers = answers.clone();
                // Queued here, in the order of arrival; sent in a task of its own, so that media overlap.
                let medium_lock = match medium {
                    Medium::Ir => self.infrared.clone(),
                    Medium::Rf433 => self.radio.clone(),
                };
                let mut turn = Box::pin(medium_lock.lock_owned());
                let first = poll_once(&mut turn).await;
                sends.spawn(async move {
                    let guard = match first {
                        Some(guard) => guard,
                        None => turn.await,
                    };
                    let us: u64 = durations_us.iter().map(|&us| u64::from(us)).sum();
                    self.clock.sleep(us.div_ceil(1000)).await;
                    (self.radiate)(self.clock.now_ms(), medium, &durations_us);
                    drop(guard);
                    let _ = answers.send(Answer { id, ok: true, ..Answer::default() }).await;
                });
            }
        }
        while sends.try_join_next().is_some() {}
    }
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

/// One line of a peer.
pub(crate) enum Line {
    Text(String),
    /// Longer than [`MAX_LINE`]; what belonged to it was skipped.
    TooLong,
    End,
}

/// Reads a line of at most [`MAX_LINE`] bytes; bytes that are no UTF-8 are replaced.
pub(crate) async fn next_line(reader: &mut (impl AsyncBufReadExt + Unpin)) -> Line {
    let mut line = Vec::new();
    let limit = MAX_LINE as u64 + 1;
    match (&mut *reader).take(limit).read_until(b'\n', &mut line).await {
        Err(_) | Ok(0) => Line::End,
        Ok(_) if line.last() == Some(&b'\n') => Line::Text(String::from_utf8_lossy(&line).into_owned()),
        Ok(read) if (read as u64) < limit => Line::Text(String::from_utf8_lossy(&line).into_owned()),
        Ok(_) => {
            loop {
                line.clear();
                match (&mut *reader).take(limit).read_until(b'\n', &mut line).await {
                    Ok(read) if read > 0 && line.last() != Some(&b'\n') => {}
                    _ => break,
                }
            }
            Line::TooLong
        }
    }
}
