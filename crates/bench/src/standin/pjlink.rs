//! PJLink class 1 (JBMIA's specification, version 1.04): a projector on TCP.
//!
//! It greets with `PJLINK 0`, or with `PJLINK 1` and eight hex digits where it has a password; then the
//! first command is preceded by the MD5 of digits and password, in hex. Commands are `%1`, four letters, a
//! blank and a parameter, ended by CR. Answers: the value, `OK`, or `ERR1` (no such command), `ERR2`
//! (parameter out of range), `ERR3` (not at this time), `ERR4` (failure); `PJLINK ERRA` where the digest is
//! wrong. A connection is closed after 30 s without a command.

use super::Standin;
use crate::lines::{TextLine as Heard, next_line};
use crate::net::Stream;
use kestrel_core::model::DeviceKind;
use kestrel_core::room::{Outcome, PowerView, Want};
use kestrel_signal::ip::pjlink_digest;
use std::io;
use tokio::io::BufReader;

/// A connection is closed after this long without a command, in ms.
pub const IDLE_MS: u64 = 30_000;

/// The longest command, in bytes: class 1 allows 136 with its header and CR.
const COMMAND_MAX: usize = 136;

/// Serves one connection until its end.
pub async fn serve(own: &Standin, stream: Stream) -> io::Result<()> {
    let (read, mut write) = tokio::io::split(stream);
    let mut reader = BufReader::new(read);
    let password = own.site().device(own.device).map(|device| device.network.password.clone()).unwrap_or_default();
    let digits = format!("{:08x}", own.world.with(|_, now| now.wrapping_mul(0x9e37_79b9) ^ 0x498e_4a67) & 0xffff_ffff);
    let greeting = if password.is_empty() { "PJLINK 0\r".to_owned() } else { format!("PJLINK 1 {digits}\r") };
    own.reply(&mut write, greeting.as_bytes(), true).await?;
    let mut known = password.is_empty();
    loop {
        let line = tokio::select! {
            line = next_line(&mut reader, b'\r') => line,
            () = own.world.clock().sleep(IDLE_MS) => return Ok(()),
        };
        let mut line = match line {
            Heard::End => return Ok(()),
            Heard::TooLong => String::new(),
            Heard::Text(line) => line,
        };
        let asks = line.ends_with('?');
        own.heard(format!("{line}\r").as_bytes(), asks);
        if !known {
            let right = pjlink_digest(&digits, &password);
            let wrong = own.world.faults(own.device).wrong_digest;
            if line.get(..32).is_none_or(|digest| !digest.eq_ignore_ascii_case(&right)) || wrong {
                own.reply(&mut write, b"PJLINK ERRA\r", false).await?;
                return Ok(());
            }
            known = true;
            line.drain(..32);
        }
        let answer = answer(own, line.trim_start_matches('\n'));
        own.reply(&mut write, format!("{answer}\r").as_bytes(), asks).await?;
    }
}

/// The answer to one command.
fn answer(own: &Standin, line: &str) -> String {
    let Some(rest) = line.strip_prefix("%1").filter(|_| line.len() < COMMAND_MAX) else {
        return "%1ERR1".to_owned();
    };
    let Some((name, parameter)) = rest.split_once(' ').filter(|(name, _)| name.len() == 4) else {
        return "%1ERR1".to_owned();
    };
    let name = name.to_uppercase();
    let value = value(own, &name, parameter).unwrap_or_else(|error| error.to_owned());
    format!("%1{name}={value}")
}

/// Its value, or the error.
fn value(own: &Standin, name: &str, parameter: &str) -> Result<String, &'static str> {
    let view = own.view().ok_or("ERR4")?;
    let profile = own.profile().ok_or("ERR4")?;
    let site = own.site();
    let obeyed = |outcome: Outcome| match outcome {
        Outcome::Obeyed { .. } | Outcome::Unchanged { .. } => Ok("OK".to_owned()),
        Outcome::Ignored { .. } => Err("ERR3"),
    };
    let code = |index: usize| format!("3{}", index + 1);
    Ok(match (name, parameter) {
        ("POWR", "?") => match view.power {
            PowerView::Off => "0",
            PowerView::On | PowerView::Always => "1",
            PowerView::Cooling => "2",
            PowerView::Starting => "3",
        }
        .to_owned(),
        ("POWR", "0" | "1") => obeyed(own.want(&Want::Power { on: parameter == "1" }))?,
        ("INPT", "?") => {
            let index = view.input.and_then(|input| profile.input_index(input)).ok_or("ERR3")?;
            code(index)
        }
        ("INPT", wanted) => {
            let index = (0..profile.inputs.len()).find(|&index| code(index) == wanted).ok_or("ERR2")?;
            obeyed(own.want(&Want::Input { index: u8::try_from(index).map_err(|_| "ERR2")? }))?
        }
        ("AVMT", "?") if view.power == PowerView::On => if view.muted == Some(true) { "31" } else { "30" }.to_owned(),
        ("AVMT", "?") => return Err("ERR3"),
        ("AVMT", "10" | "11" | "20" | "21" | "30" | "31") => {
            obeyed(own.want(&Want::Mute { on: parameter.ends_with('1') }))?
        }
        ("ERST", "?") => "000000".to_owned(),
        ("LAMP", "?") if profile.kind == DeviceKind::Projector => {
            let lit = matches!(view.power, PowerView::On | PowerView::Starting);
            format!("1200 {}", u8::from(lit))
        }
        ("INST", "?") => (0..profile.inputs.len()).map(code).collect::<Vec<_>>().join(" "),
        ("NAME", "?") => site.device_name(own.device),
        ("INF1", "?") => profile.maker,
        ("INF2", "?") => profile.model,
        ("INFO", "?") => "rehearsal stand-in".to_owned(),
        ("CLSS", "?") => "1".to_owned(),
        ("POWR" | "AVMT" | "ERST" | "LAMP" | "INST" | "NAME" | "INF1" | "INF2" | "INFO" | "CLSS", _) => {
            return Err("ERR2");
        }
        _ => return Err("ERR1"),
    })
}
