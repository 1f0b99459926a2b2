//! The driver of PJLink class 1; see [`crate::standin::pjlink`] for the protocol.

use super::link::{Dialect, KeptLine, Session};
use super::{DriverError, Report};
use crate::clock::Clock;
use crate::lines::printable;
use crate::net::Net;
use kestrel_core::room::Want;
use kestrel_signal::ip::{IpCommand, pjlink_digest};
use std::net::SocketAddr;

/// The driver.
pub struct Pjlink {
    link: KeptLine,
    password: String,
}

impl Pjlink {
    /// A driver.
    #[must_use]
    pub fn new(net: &Net, to: SocketAddr, clock: &Clock, password: String) -> Self {
        let dialect = Dialect { end: b'\r', push: "", greets: true, hello: None };
        Self { link: KeptLine::new(net.clone(), to, clock.clone(), dialect), password }
    }

    /// Sends a command such as `POWR 1`; gives the value of the answer.
    async fn exchange(&self, command: &str, again: bool) -> Result<String, DriverError> {
        let say = |session: &Session| {
            // The digest goes before the first command of a connection whose greeting asks for it.
            let digits = session.greeting.strip_prefix("PJLINK 1 ").filter(|_| session.fresh);
            let digest = digits.map(|digits| pjlink_digest(digits.trim(), &self.password)).unwrap_or_default();
            format!("{digest}%1{command}\r").into_bytes()
        };
        let answer = self.link.ask(say, again).await?;
        if answer == "PJLINK ERRA" {
            return Err(DriverError::Password);
        }
        let name = command.get(..4).unwrap_or_default();
        let value = answer.strip_prefix("%1").and_then(|rest| rest.strip_prefix(name)?.strip_prefix('='));
        match value {
            Some("ERR1") => Err(DriverError::DeviceRefused(format!("it does not know {name}"))),
            Some("ERR2") => Err(DriverError::DeviceRefused("it does not take this parameter".to_owned())),
            Some("ERR3") => Err(DriverError::DeviceRefused("it cannot do that at this time".to_owned())),
            Some("ERR4") => Err(DriverError::DeviceRefused("it has failed".to_owned())),
            Some(value) => Ok(value.to_owned()),
            None => Err(DriverError::Answer { expected: format!("%1{name}=…"), got: printable(answer.as_bytes()) }),
        }
    }

    /// Sends a command and checks that it was taken.
    ///
    /// # Errors
    /// What the projector says, or that it says nothing.
    pub async fn command(&self, command: &IpCommand) -> Result<(), DriverError> {
        let IpCommand::Pjlink { command } = command else {
            return Err(DriverError::NoWay("this projector speaks PJLink alone".to_owned()));
        };
        self.exchange(command, false).await.map(|_| ())
    }

    /// Tells it something by name.
    ///
    /// # Errors
    /// As for a command.
    pub async fn want(&self, want: &Want) -> Result<(), DriverError> {
        let command = match want {
            Want::Power { on } => format!("POWR {}", u8::from(*on)),
            Want::Mute { on } => format!("AVMT 3{}", u8::from(*on)),
            Want::Input { index } => format!("INPT 3{}", index + 1),
            _ => return Err(DriverError::NoWay("PJLink has no word for that".to_owned())),
        };
        self.exchange(&command, false).await.map(|_| ())
    }

    /// Asks for power and, where it is on, for the input.
    ///
    /// # Errors
    /// As for a command.
    pub async fn poll(&self) -> Result<Report, DriverError> {
        let power = match self.exchange("POWR ?", true).await?.as_str() {
            "0" => "off",
            "1" => "on",
            "2" => "cooling",
            "3" => "starting",
            other => {
                return Err(DriverError::Answer { expected: "POWR=0 to 3".to_owned(), got: other.to_owned() });
            }
        };
        let input = match power {
            "on" => match self.exchange("INPT ?", true).await {
                Ok(code) => Some(code),
                // It says so while its input changes.
                Err(DriverError::DeviceRefused(_)) => None,
                Err(error) => return Err(error),
            },
            _ => None,
        };
        Ok(Report { power: Some(power.to_owned()), input, ..Report::default() })
    }
}
