//! The driver of [`crate::standin::lines`]: text lines ended by a carriage return.

use super::link::{Dialect, KeptLine, TellsItself};
use super::{DriverError, Report};
use crate::clock::Clock;
use crate::lines::printable;
use crate::net::Net;
use crate::standin::lines::parse_tenths;
use kestrel_core::room::Want;
use kestrel_core::room::comfort::tenths;
use kestrel_signal::ip::IpCommand;
use std::net::SocketAddr;
use tokio::sync::broadcast;

/// The driver.
pub struct Lines {
    link: KeptLine,
    told: TellsItself,
}

impl Lines {
    /// A driver; `pushes` where the device tells of changes by itself.
    #[must_use]
    pub fn new(net: &Net, to: SocketAddr, clock: &Clock, pushes: bool) -> Self {
        let hello = pushes.then_some("push on\r");
        let dialect = Dialect { end: b'\r', push: "!", greets: false, hello };
        let link = KeptLine::new(net.clone(), to, clock.clone(), dialect);
        let told = TellsItself::new(link.pushes(), |line| line.strip_prefix('!').and_then(parse));
        Self { link, told }
    }

    /// What it tells by itself.
    #[must_use]
    pub fn reports(&self) -> broadcast::Receiver<Report> {
        self.told.reports()
    }

    /// Sends the bytes of a command and checks the answer.
    ///
    /// # Errors
    /// Where nobody answers, or with something else.
    pub async fn command(&self, command: &IpCommand) -> Result<(), DriverError> {
        let bytes = command.bytes().map_err(|error| DriverError::Refused(error.to_string()))?;
        let answer = self.link.ask(|_| bytes.clone(), false).await?;
        match command.expected().map(|expected| printable(&expected).trim_end_matches("\\r").to_owned()) {
            Some(expected) if printable(answer.as_bytes()) != expected => {
                Err(DriverError::Answer { expected, got: printable(answer.as_bytes()) })
            }
            _ => Ok(()),
        }
    }

    /// Tells it something by name.
    ///
    /// # Errors
    /// Where it did not go out or was refused.
    pub async fn want(&self, want: &Want) -> Result<(), DriverError> {
        let switch = |on: bool| if on { "on" } else { "off" };
        let line = match want {
            Want::Power { on } => format!("power {}", switch(*on)),
            Want::Mute { on } => format!("mute {}", switch(*on)),
            Want::Volume { tenths: to } => format!("volume {}", tenths(*to)),
            Want::Move { down } => format!("move {}", if *down { "down" } else { "up" }),
            Want::Halt => "stop".to_owned(),
            _ => return Err(DriverError::NoWay("this device is not told that by name".to_owned())),
        };
        let answer = self.link.ask(|_| format!("{line}\r").into_bytes(), false).await?;
        match answer.strip_prefix("err ") {
            Some(why) => Err(DriverError::DeviceRefused(why.to_owned())),
            None if answer == "ok" => Ok(()),
            None => Err(DriverError::Answer { expected: "ok".to_owned(), got: printable(answer.as_bytes()) }),
        }
    }

    /// Asks for everything that it tells.
    ///
    /// # Errors
    /// Where nothing sensible comes back.
    pub async fn poll(&self) -> Result<Report, DriverError> {
        let answer = self.link.ask(|_| b"?all\r".to_vec(), true).await?;
        parse(&answer)
            .ok_or_else(|| DriverError::Answer { expected: "name=value".to_owned(), got: printable(answer.as_bytes()) })
    }
}

/// `power=on;input=BD` as a report; `None` where a part makes no sense.
fn parse(line: &str) -> Option<Report> {
    let mut report = Report::default();
    for part in line.split(';') {
        let (name, value) = part.split_once('=')?;
        match name {
            "power" if ["on", "off", "starting", "cooling"].contains(&value) => report.power = Some(value.to_owned()),
            "input" => report.input = Some(value.to_owned()).filter(|value| !value.is_empty()),
            "volume" => report.volume_tenths = Some(parse_tenths(value)?),
            "mute" => report.muted = Some(value == "on"),
            "position" => report.down_percent = Some(value.parse().ok().filter(|percent| *percent <= 100)?),
            _ => return None,
        }
    }
    Some(report)
}
