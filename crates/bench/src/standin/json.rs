//! Players and speakers: one JSON document a line over TCP (*our own protocol*).
//!
//! | you send | it answers |
//! | --- | --- |
//! | `{"do": "state"}` | `{"ok": true, "state": {"power": "on", "transport": "playing", "position_ms": 61000, "credits": false, "app": "Tideline", "volume": 12.0}}` |
//! | `{"do": "power", "on": true}` · `{"do": "play"}` `pause` `stop` · `{"do": "seek", "to_ms": 60000}` · `{"do": "app", "name": "…"}` | `{"ok": true}` |
//! | `{"do": "cast", "title": "…", "from_ms": 0}` | the same: it wakes, and plays |
//! | `{"do": "say", "text": "…", "volume_percent": 40}` | the same: it says it, and returns to the volume before |
//! | `{"do": "follow"}` | `{"ok": true}`; from then on `{"event": "state", "state": …}` whenever transport, app, credits or power change |
//!
//! What cannot be done is answered with `{"ok": false, "error": "…"}`; the connection stays open.

use super::{Standin, power_word};
use crate::lines::{TextLine, next_line};
use crate::net::Stream;
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use kestrel_core::model::Playback;
use kestrel_core::room::{Outcome, PowerView, Want};
use serde::{Deserialize, Serialize};
use serde_json::json;
use std::io;
use tokio::io::BufReader;

/// What is asked.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", tag = "do")]
pub enum JsonAsk {
    /// What are you doing?
    State,
    /// On or off.
    Power {
        /// On?
        on: bool,
    },
    /// Play.
    Play,
    /// Pause.
    Pause,
    /// Stop.
    Stop,
    /// Go to a place.
    Seek {
        /// In ms.
        to_ms: u64,
    },
    /// Run an app, receive a channel.
    App {
        /// Its name.
        name: String,
    },
    /// Play what a phone sends.
    Cast {
        /// Its title.
        title: String,
        /// From here on, in ms.
        #[serde(default)]
        from_ms: u64,
    },
    /// Say a line, or play a file, and return to what was.
    Say {
        /// What.
        text: String,
        /// How loud, in %.
        volume_percent: u8,
    },
    /// Play a sound, and return to what was.
    Chime {
        /// What it is called.
        name: String,
        /// What is played: WAV in base64.
        wav: String,
        /// How loud, in %.
        volume_percent: u8,
    },
    /// Tell of every change from now on.
    Follow,
}

/// What it is doing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PlayerState {
    /// Power in a word.
    pub power: String,
    /// What the transport does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub transport: Option<Playback>,
    /// Where it is, in ms.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub position_ms: Option<u64>,
    /// Do the credits roll?
    #[serde(default)]
    pub credits: bool,
    /// What it runs or receives.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub app: Option<String>,
    /// How loud.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub volume: Option<f64>,
    /// What it says.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub says: Option<String>,
}

/// Serves one connection until its end.
pub async fn serve(own: &Standin, stream: Stream) -> io::Result<()> {
    let (read, mut write) = tokio::io::split(stream);
    let mut reader = BufReader::new(read);
    let mut changes = own.world.changes();
    let mut told: Option<PlayerState> = None;
    loop {
        tokio::select! {
            line = next_line(&mut reader, b'\n') => {
                let line = match line {
                    TextLine::End => return Ok(()),
                    TextLine::TooLong => "(a line that is too long)".to_owned(),
                    TextLine::Text(line) => line,
                };
                if line.trim().is_empty() {
                    continue;
                }
                let ask = serde_json::from_str::<JsonAsk>(&line);
                let routine = matches!(ask, Ok(JsonAsk::State | JsonAsk::Follow));
                own.heard(line.as_bytes(), routine);
                let answer = match ask {
                    Err(error) => Err(format!("not a request: {error}")),
                    Ok(JsonAsk::State) => Ok(true),
                    Ok(JsonAsk::Follow) => {
                        told = Some(state(own));
                        Ok(false)
                    }
                    Ok(ask) => carry_out(own, &ask).map(|()| false),
                };
                let answer = match answer {
                    Ok(true) => json!({"ok": true, "state": state(own)}),
                    Ok(false) => json!({"ok": true}),
                    Err(error) => json!({"ok": false, "error": error}),
                };
                own.reply(&mut write, format!("{answer}\n").as_bytes(), routine).await?;
            }
            changed = changes.changed(), if told.is_some() => {
                if changed.is_err() {
                    return Ok(());
                }
                let now = state(own);
                let news = |state: &PlayerState| (state.power.clone(), state.transport, state.credits, state.app.clone());
                if told.as_ref().map(news) != Some(news(&now)) {
                    let event = json!({"event": "state", "state": now});
                    told = Some(now);
                    own.reply(&mut write, format!("{event}\n").as_bytes(), false).await?;
                }
            }
        }
    }
}

fn state(own: &Standin) -> PlayerState {
    let view = own.view();
    let playing = view.as_ref().and_then(|view| view.playing.clone());
    PlayerState {
        power: power_word(view.as_ref().map_or(PowerView::Off, |view| view.power)).to_owned(),
        transport: playing.as_ref().map(|playing| playing.transport),
        position_ms: playing.as_ref().map(|playing| playing.position_ms),
        credits: playing.as_ref().is_some_and(|playing| playing.credits),
        app: playing.and_then(|playing| playing.app),
        volume: view.as_ref().and_then(|view| view.volume_tenths).map(|tenths| f64::from(tenths) / 10.0),
        says: view.and_then(|view| view.message),
    }
}

fn carry_out(own: &Standin, ask: &JsonAsk) -> Result<(), String> {
    let play = |from_ms| Want::Transport { to: Playback::Playing, from_ms };
    let wants = match ask {
        JsonAsk::State | JsonAsk::Follow => vec![],
        JsonAsk::Power { on } => vec![Want::Power { on: *on }],
        JsonAsk::Play => vec![play(None)],
        JsonAsk::Pause => vec![Want::Transport { to: Playback::Paused, from_ms: None }],
        JsonAsk::Stop => vec![Want::Transport { to: Playback::Stopped, from_ms: None }],
        JsonAsk::Seek { to_ms } => vec![play(Some(*to_ms))],
        JsonAsk::App { name } => vec![Want::App { name: name.clone() }],
        JsonAsk::Cast { from_ms, .. } => vec![Want::Power { on: true }, play(Some(*from_ms))],
        JsonAsk::Say { text, volume_percent } => {
            vec![Want::Say { text: text.chars().take(400).collect(), percent: *volume_percent }]
        }
        JsonAsk::Chime { name, wav, volume_percent } => {
            let length_ms = wav_length_ms(wav).ok_or("that is no WAV sound")?;
            let name = name.chars().take(80).collect();
            vec![Want::Chime { name, length_ms, percent: *volume_percent, wav: vec![] }]
        }
    };
    for want in wants {
        // What is on already says that there is nothing to do, which is no error.
        if let Outcome::Ignored { why } = own.want(&want) {
            return Err(why);
        }
    }
    Ok(())
}

/// How long a WAV sound in base64 is, as its own head says, in ms; none where it is no such sound.
fn wav_length_ms(base64: &str) -> Option<u32> {
    let bytes = STANDARD.decode(base64).ok()?;
    let number = |at: usize| Some(u32::from_le_bytes(bytes.get(at..at + 4)?.try_into().ok()?));
    if bytes.get(..4)? != b"RIFF" || bytes.get(8..12)? != b"WAVE" {
        return None;
    }
    let (mut at, mut bytes_per_s) = (12, None);
    loop {
        let (kind, size) = (bytes.get(at..at + 4)?, number(at + 4)?);
        match kind {
            b"fmt " => bytes_per_s = number(at + 16),
            b"data" => {
                let there = u64::from(size).min(bytes.len().saturating_sub(at + 8) as u64);
                return u32::try_from(there * 1_000 / u64::from(bytes_per_s.filter(|rate| *rate > 0)?)).ok();
            }
            _ => {}
        }
        at += 8 + usize::try_from(size).ok()? + usize::try_from(size % 2).ok()?;
    }
}
