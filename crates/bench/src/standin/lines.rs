//! Text lines over TCP, each ended by a carriage return (*our own protocol, for receivers and the like*).
//!
//! | you send | it answers |
//! | --- | --- |
//! | `?power` `?input` `?volume` `?mute` `?position` | `power=on` (`off`, `starting`, `cooling`) · `input=NAME` · `volume=35.5` · `mute=off` · `position=40`: % down |
//! | `?all` | everything that it tells, with `;` between |
//! | `power on` `input NAME` `volume 35.5` `mute on` `move down` `stop` | `ok`, or `err WHY` |
//! | `push on` | `ok`; from then on a line such as `!power=on;input=BD` after every change |
//! | the bytes of one of its model's own commands | what that command says |
//!
//! What it does not tell, and what it does not understand, is answered with `?`. A command that is not
//! ended by a carriage return counts as whole after 30 ms without another byte.

use super::{Standin, power_word};
use crate::net::Stream;
use kestrel_core::model::{Feedback, Tell};
use kestrel_core::room::comfort::tenths;
use kestrel_core::room::{Outcome, Want};
use std::io;
use std::time::Duration;
use tokio::io::AsyncReadExt;

/// More bytes than any command has.
const MAX_BYTES: usize = 16_384;

/// After this long without another byte a command is taken to be whole, in real time.
const PAUSE: Duration = Duration::from_millis(30);

/// What can be asked for.
const TOLD: [&str; 5] = ["power", "input", "volume", "mute", "position"];

/// Serves one connection until its end.
pub async fn serve(own: &Standin, stream: Stream) -> io::Result<()> {
    let (mut read, mut write) = tokio::io::split(stream);
    let mut pending: Vec<u8> = Vec::new();
    let mut buffer = vec![0; 1_024];
    let mut changes = own.world.changes();
    let mut pushed: Option<String> = None;
    loop {
        while let Some(end) = pending.iter().position(|&byte| byte == b'\r') {
            let line: Vec<u8> = pending.drain(..=end).collect();
            take(own, &line, &mut write, &mut pushed).await?;
        }
        let waiting = !pending.is_empty();
        tokio::select! {
            length = read.read(&mut buffer) => match length? {
                0 => {
                    // The sender has closed its side: what has come is the command.
                    if waiting {
                        let _ = own.world.receive_bytes(own.device, &pending);
                    }
                    return Ok(());
                }
                length => {
                    pending.extend_from_slice(&buffer[..length]);
                    if pending.len() > MAX_BYTES {
                        own.heard(b"(a line that is too long)", false);
                        own.reply(&mut write, b"?\r", false).await?;
                        return Ok(());
                    }
                }
            },
            () = tokio::time::sleep(PAUSE), if waiting => {
                let command = std::mem::take(&mut pending);
                take(own, &command, &mut write, &mut pushed).await?;
            }
            changed = changes.changed(), if pushed.is_some() => {
                if changed.is_err() {
                    return Ok(());
                }
                let now = all(own);
                if pushed.as_ref() != Some(&now) {
                    if let Some(Feedback::Push { delay_ms, .. }) = own.profile().map(|profile| profile.feedback) {
                        own.world.clock().sleep(u64::from(delay_ms)).await;
                    }
                    let now = all(own);
                    pushed = Some(now.clone());
                    own.reply(&mut write, format!("!{now}\r").as_bytes(), false).await?;
                }
            }
        }
    }
}

/// Takes one command and answers it.
async fn take(
    own: &Standin,
    bytes: &[u8],
    write: &mut (impl tokio::io::AsyncWrite + Unpin),
    pushed: &mut Option<String>,
) -> io::Result<()> {
    let text = String::from_utf8_lossy(bytes);
    let text = text.trim_end_matches('\r');
    if let Some(what) = text.strip_prefix('?') {
        own.heard(bytes, true);
        let answer = if what == "all" { Some(all(own)).filter(|all| !all.is_empty()) } else { told(own, what) };
        return own.reply(write, format!("{}\r", answer.unwrap_or_else(|| "?".to_owned())).as_bytes(), true).await;
    }
    if text == "push on" {
        own.heard(bytes, true);
        let can = matches!(own.profile().map(|profile| profile.feedback), Some(Feedback::Push { .. }));
        if can {
            *pushed = Some(all(own));
        }
        return own.reply(write, if can { b"ok\r" } else { b"?\r" }, true).await;
    }
    if let Some(want) = wanted(own, text) {
        own.heard(bytes, false);
        let answer = match own.want(&want) {
            Outcome::Obeyed { .. } | Outcome::Unchanged { .. } => "ok\r".to_owned(),
            Outcome::Ignored { why } => format!("err {why}\r"),
        };
        return own.reply(write, answer.as_bytes(), false).await;
    }
    let answer = own.world.receive_bytes(own.device, bytes).unwrap_or_else(|| b"?\r".to_vec());
    own.reply(write, &answer, false).await
}

/// One thing that it tells of itself, as `name=value`.
fn told(own: &Standin, what: &str) -> Option<String> {
    let asked = match what {
        "power" => own.tells(Tell::Power),
        "input" => own.tells(Tell::Input),
        "volume" => own.tells(Tell::Volume),
        "mute" => own.tells(Tell::Mute) || own.tells(Tell::Volume),
        "app" => own.tells(Tell::App),
        "position" => own.tells(Tell::Position),
        _ => false,
    };
    if !asked {
        return None;
    }
    let view = own.view()?;
    let value = match what {
        "power" => power_word(view.power).to_owned(),
        "input" => own.shown_input().unwrap_or_default(),
        "volume" => tenths(view.volume_tenths?),
        "mute" => if view.muted? { "on" } else { "off" }.to_owned(),
        "position" => view.down_percent?.to_string(),
        _ => return None,
    };
    Some(format!("{what}={value}"))
}

fn all(own: &Standin) -> String {
    TOLD.iter().filter_map(|what| told(own, what)).collect::<Vec<_>>().join(";")
}

fn wanted(own: &Standin, text: &str) -> Option<Want> {
    let (word, value) = text.split_once(' ').unwrap_or((text, ""));
    let switch = || match value {
        "on" => Some(true),
        "off" => Some(false),
        _ => None,
    };
    Some(match word {
        "power" => Want::Power { on: switch()? },
        "mute" => Want::Mute { on: switch()? },
        "input" => Want::Input { index: own.input_named(value)? },
        "volume" => Want::Volume { tenths: parse_tenths(value)? },
        "move" => Want::Move { down: value == "down" },
        "stop" if value.is_empty() => Want::Halt,
        _ => return None,
    })
}

/// “35.5” → 355.
#[must_use]
pub fn parse_tenths(text: &str) -> Option<u32> {
    let (whole, part) = text.split_once('.').unwrap_or((text, "0"));
    let digit = part.get(..1).filter(|_| part.len() == 1)?.parse::<u32>().ok()?;
    whole.parse::<u32>().ok()?.checked_mul(10)?.checked_add(digit)
}
