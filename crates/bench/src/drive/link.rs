//! A connection to a device that is kept, made again when it breaks, and used by one command at a time.
//!
//! A connection that cannot be made is tried again after 0.25 s, 0.5 s, 1 s and so on up to 8 s, as long as the
//! patience of whoever waits lasts. A question is asked again on a new connection where the old one broke
//! under it; a command is not: nobody knows whether it arrived.

use super::{DriverError, Report};
use crate::clock::Clock;
use crate::lines::{TextLine, next_line};
use crate::net::{Net, Stream};
use std::net::SocketAddr;
use std::time::Duration;
use tokio::io::{AsyncWriteExt, BufReader, WriteHalf};
use tokio::sync::{Mutex, broadcast, mpsc};
use tokio::task::JoinHandle;

/// How long an answer may take, in ms of the bench's clock.
pub const PATIENCE_MS: u64 = 3_000;

/// How long it may take at least in real time, however fast the clock runs.
pub const LEAST: Duration = Duration::from_millis(600);

/// Which line is an answer, and which comes by itself.
#[derive(Debug, Clone, Copy)]
pub struct Dialect {
    /// What ends a line.
    pub end: u8,
    /// How a line starts that comes by itself.
    pub push: &'static str,
    /// Does the device speak first?
    pub greets: bool,
    /// What is sent first on every connection, with its answer left unread but for being one.
    pub hello: Option<&'static str>,
}

/// What a device tells by itself, read line by line for as long as this lives.
pub struct TellsItself {
    reports: broadcast::Sender<Report>,
    pump: JoinHandle<()>,
}

impl Drop for TellsItself {
    fn drop(&mut self) {
        self.pump.abort();
    }
}

impl TellsItself {
    /// Reads `lines`; what `read` makes nothing of is no news.
    pub fn new(mut lines: broadcast::Receiver<String>, read: impl Fn(&str) -> Option<Report> + Send + 'static) -> Self {
        let reports = broadcast::channel(64).0;
        let tell = reports.clone();
        let pump = tokio::spawn(async move {
            loop {
                match lines.recv().await {
                    Ok(line) => {
                        if let Some(report) = read(&line) {
                            let _ = tell.send(report);
                        }
                    }
                    Err(broadcast::error::RecvError::Lagged(_)) => {}
                    Err(broadcast::error::RecvError::Closed) => return,
                }
            }
        });
        Self { reports, pump }
    }

    /// From now on.
    #[must_use]
    pub fn reports(&self) -> broadcast::Receiver<Report> {
        self.reports.subscribe()
    }
}

/// A kept connection.
pub struct KeptLine {
    net: Net,
    to: SocketAddr,
    clock: Clock,
    dialect: Dialect,
    session: Mutex<Option<Session>>,
    pushes: broadcast::Sender<String>,
}

/// One connection.
pub struct Session {
    write: WriteHalf<Stream>,
    answers: mpsc::Receiver<String>,
    reader: JoinHandle<()>,
    /// What it greeted with.
    pub greeting: String,
    /// Has anything been sent on it?
    pub fresh: bool,
}

impl Drop for Session {
    fn drop(&mut self) {
        self.reader.abort();
    }
}

impl KeptLine {
    /// A link to `to`; nothing is connected yet.
    #[must_use]
    pub fn new(net: Net, to: SocketAddr, clock: Clock, dialect: Dialect) -> Self {
        Self { net, to, clock, dialect, session: Mutex::new(None), pushes: broadcast::channel(64).0 }
    }

    /// Where it leads.
    #[must_use]
    pub fn to(&self) -> SocketAddr {
        self.to
    }

    /// Lines that come by themselves.
    #[must_use]
    pub fn pushes(&self) -> broadcast::Receiver<String> {
        self.pushes.subscribe()
    }

    /// Connects if need be, so that lines that come by themselves can come.
    ///
    /// # Errors
    /// Where no connection can be made in time.
    pub async fn open(&self) -> Result<(), DriverError> {
        let mut session = self.session.lock().await;
        if session.as_ref().is_none_or(|open| open.reader.is_finished()) {
            *session = Some(self.within(self.connect()).await?);
        }
        Ok(())
    }

    /// Sends what `say` makes of the session (a line with its end) and waits for one line. `again` where it may
    /// be sent twice.
    ///
    /// # Errors
    /// Where nobody answers, or the connection breaks.
    pub async fn ask(&self, say: impl Fn(&Session) -> Vec<u8>, again: bool) -> Result<String, DriverError> {
        let mut session = self.session.lock().await;
        let mut tries = if again { 2 } else { 1 };
        loop {
            if session.as_ref().is_none_or(|open| open.reader.is_finished()) {
                // A broken connection is replaced before anything is sent.
                *session = None;
                *session = Some(self.within(self.connect()).await?);
            }
            let Some(open) = session.as_mut() else { return Err(self.closed()) };
            let bytes = say(open);
            open.fresh = false;
            let answer = self.within(async {
                let written = async {
                    open.write.write_all(&bytes).await?;
                    open.write.flush().await
                };
                written.await.map_err(|_| self.closed())?;
                open.answers.recv().await.ok_or_else(|| self.closed())
            });
            match answer.await {
                Ok(line) => return Ok(line),
                Err(error) => {
                    // A late answer must not be taken for that of the next question.
                    *session = None;
                    tries -= 1;
                    if tries == 0 || matches!(error, DriverError::DeviceSilent(_)) {
                        return Err(error);
                    }
                }
            }
        }
    }

    fn closed(&self) -> DriverError {
        DriverError::DeviceClosed
    }

    /// Gives up when the patience is over.
    async fn within<T>(&self, work: impl Future<Output = Result<T, DriverError>>) -> Result<T, DriverError> {
        tokio::select! {
            biased;
            done = work => done,
            () = self.clock.patience(PATIENCE_MS, LEAST) => Err(DriverError::DeviceSilent(PATIENCE_MS / 1000)),
        }
    }

    async fn connect(&self) -> Result<Session, DriverError> {
        let connected = self.clock.trying(|| self.net.connect(self.to)).await;
        let stream = connected
            .map_err(|error| DriverError::DeviceUnreachable { address: self.to.to_string(), why: error.to_string() })?;
        let (read, write) = tokio::io::split(stream);
        let (tell, answers) = mpsc::channel(16);
        let (dialect, pushes) = (self.dialect, self.pushes.clone());
        let reader = tokio::spawn(async move {
            let mut reader = BufReader::new(read);
            loop {
                match next_line(&mut reader, dialect.end).await {
                    TextLine::End => return,
                    TextLine::TooLong => {}
                    TextLine::Text(line) if !dialect.push.is_empty() && line.starts_with(dialect.push) => {
                        let _ = pushes.send(line);
                    }
                    TextLine::Text(line) => {
                        // Answers that nobody waits for are let go rather than kept for the next question.
                        let _ = tell.try_send(line);
                    }
                }
            }
        });
        let mut session = Session { write, answers, reader, greeting: String::new(), fresh: true };
        if dialect.greets {
            session.greeting = session.answers.recv().await.ok_or(DriverError::DeviceClosed)?;
        }
        if let Some(hello) = dialect.hello {
            session.write.write_all(hello.as_bytes()).await.map_err(|_| DriverError::DeviceClosed)?;
            session.answers.recv().await.ok_or(DriverError::DeviceClosed)?;
        }
        Ok(session)
    }
}
