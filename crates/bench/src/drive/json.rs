//! The driver of players and speakers; see [`crate::standin::json`] for the protocol.

use super::link::{Dialect, KeptLine, TellsItself};
use super::{DriverError, Report};
use crate::clock::Clock;
use crate::lines::printable;
use crate::net::Net;
use crate::standin::json::{JsonAsk, PlayerState};
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use kestrel_core::model::Playback;
use kestrel_core::room::{NowPlaying, Want};
use kestrel_signal::ip::IpCommand;
use serde::Deserialize;
use std::net::SocketAddr;
use tokio::sync::broadcast;

/// The driver.
pub struct Json {
    link: KeptLine,
    told: TellsItself,
}

#[derive(Deserialize)]
struct Answer {
    ok: bool,
    error: Option<String>,
    state: Option<PlayerState>,
}

#[derive(Deserialize)]
struct Event {
    state: PlayerState,
}

impl Json {
    /// A driver.
    #[must_use]
    pub fn new(net: &Net, to: SocketAddr, clock: &Clock) -> Self {
        let dialect = Dialect { end: b'\n', push: "{\"event\"", greets: false, hello: Some("{\"do\":\"follow\"}\n") };
        let link = KeptLine::new(net.clone(), to, clock.clone(), dialect);
        let told = TellsItself::new(link.pushes(), |line| {
            serde_json::from_str::<Event>(line).ok().map(|event| report(event.state))
        });
        Self { link, told }
    }

    /// What it tells by itself.
    #[must_use]
    pub fn reports(&self) -> broadcast::Receiver<Report> {
        self.told.reports()
    }

    async fn ask(&self, ask: &JsonAsk, again: bool) -> Result<Option<PlayerState>, DriverError> {
        let mut line = serde_json::to_vec(ask).map_err(|error| DriverError::NoWay(error.to_string()))?;
        line.push(b'\n');
        self.answered(line, again).await
    }

    /// Sends a line, and reads what it says to it.
    async fn answered(&self, line: Vec<u8>, again: bool) -> Result<Option<PlayerState>, DriverError> {
        let answer = self.link.ask(|_| line.clone(), again).await?;
        let wrong = || DriverError::Answer { expected: "its answer".to_owned(), got: printable(answer.as_bytes()) };
        let answer: Answer = serde_json::from_str(&answer).map_err(|_| wrong())?;
        if answer.ok {
            Ok(answer.state)
        } else {
            Err(DriverError::DeviceRefused(answer.error.unwrap_or_else(|| "no reason given".to_owned())))
        }
    }

    /// Sends one of its own commands, a document a line, and checks that it was done.
    ///
    /// # Errors
    /// Where it did not go out or was refused.
    pub async fn command(&self, command: &IpCommand) -> Result<(), DriverError> {
        let mut bytes = command.bytes().map_err(|error| DriverError::Refused(error.to_string()))?;
        if bytes.last() != Some(&b'\n') {
            bytes.push(b'\n');
        }
        self.answered(bytes, false).await.map(|_| ())
    }

    /// Tells it something by name.
    ///
    /// # Errors
    /// Where it did not go out or was refused.
    pub async fn want(&self, want: &Want) -> Result<(), DriverError> {
        let ask = match want {
            Want::Power { on } => JsonAsk::Power { on: *on },
            Want::Transport { to: Playback::Playing, from_ms: Some(from) } => JsonAsk::Seek { to_ms: *from },
            Want::Transport { to: Playback::Playing, from_ms: None } => JsonAsk::Play,
            Want::Transport { to: Playback::Paused, .. } => JsonAsk::Pause,
            Want::Transport { to: Playback::Stopped, .. } => JsonAsk::Stop,
            Want::App { name } => JsonAsk::App { name: name.clone() },
            Want::Say { text, percent } => JsonAsk::Say { text: text.clone(), volume_percent: *percent },
            Want::Chime { name, percent, wav, .. } => {
                JsonAsk::Chime { name: name.clone(), wav: STANDARD.encode(wav), volume_percent: *percent }
            }
            _ => return Err(DriverError::NoWay("this player is not told that by name".to_owned())),
        };
        self.ask(&ask, false).await.map(|_| ())
    }

    /// Plays what a phone sends, from `from_ms` on.
    ///
    /// # Errors
    /// As for a command.
    pub async fn cast(&self, title: &str, from_ms: u64) -> Result<(), DriverError> {
        self.ask(&JsonAsk::Cast { title: title.to_owned(), from_ms }, false).await.map(|_| ())
    }

    /// Asks what it is doing.
    ///
    /// # Errors
    /// Where nothing sensible comes back.
    pub async fn poll(&self) -> Result<Report, DriverError> {
        let state = self.ask(&JsonAsk::State, true).await?;
        state.map(report).ok_or_else(|| DriverError::Answer {
            expected: "its state".to_owned(),
            got: "an answer without one".to_owned(),
        })
    }
}

fn report(state: PlayerState) -> Report {
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "clamped")]
    let tenths = |volume: f64| (volume.clamp(0.0, 1000.0) * 10.0).round() as u32;
    Report {
        power: Some(state.power),
        volume_tenths: state.volume.map(tenths),
        playing: state.transport.map(|transport| NowPlaying {
            transport,
            position_ms: state.position_ms.unwrap_or(0),
            credits: state.credits,
            app: state.app,
        }),
        ..Report::default()
    }
}
