//! Learning at the bench: the gateway listens, a handset is pressed; and what a device calls its inputs.

use crate::handset::{PressAnswer, PressRequest};
use crate::rehearsal::{Rehearsal, RehearsalError};
use kestrel_core::codes::judge::LISTEN_MS;
use kestrel_core::id::{DeviceId, InputId};
use kestrel_core::model::Medium;
use kestrel_core::room::handset::{HandsetKey, keys};
use kestrel_signal::Capture;
use std::time::Duration;
use tokio::io::{AsyncBufReadExt, AsyncWriteExt, BufReader};

/// How long the stand-in's answer may take beyond the press itself, in real time.
const PATIENCE: Duration = Duration::from_secs(15);

impl Rehearsal {
    /// Lets the gateway listen for a key, for 10 s of the bench's clock at most.
    ///
    /// # Errors
    /// Where the gateway cannot be reached.
    pub async fn learn(&self) -> Result<Vec<(Medium, Capture)>, RehearsalError> {
        let heard = self.driver().await?.learn(LISTEN_MS).await?;
        let captures = heard
            .into_iter()
            .filter_map(|signal| Capture::new(signal.durations_us, None).ok().map(|capture| (signal.medium, capture)));
        Ok(captures.collect())
    }

    /// Lets the gateway sweep for the frequency of a radio key that is held.
    ///
    /// # Errors
    /// Where the gateway cannot be reached.
    pub async fn sweep(&self) -> Result<Option<u32>, RehearsalError> {
        Ok(self.driver().await?.sweep(LISTEN_MS).await?)
    }

    /// The keys of the handset that came with a device.
    #[must_use]
    pub fn handset(&self, device: DeviceId) -> Vec<HandsetKey> {
        keys(&self.inner.world.site(), device)
    }

    /// Presses a key of a handset, over the stand-in's socket.
    ///
    /// # Errors
    /// Where there is no such key.
    pub async fn press_handset(&self, request: &PressRequest) -> Result<(), RehearsalError> {
        // The stand-ins are there before the handset is put on the table among them.
        self.wires().await?;
        let address = self.handset_address().await?;
        let talk = async {
            let mut stream = self.inner.net.connect(address).await?;
            let mut line = serde_json::to_vec(request).map_err(std::io::Error::other)?;
            line.push(b'\n');
            stream.write_all(&line).await?;
            let mut answer = String::new();
            BufReader::new(stream).read_line(&mut answer).await?;
            serde_json::from_str::<PressAnswer>(&answer).map_err(std::io::Error::other)
        };
        let answer = tokio::time::timeout(PATIENCE, talk)
            .await
            .map_err(|_| RehearsalError::Handset("it did not answer".to_owned()))??;
        match answer.error {
            Some(error) => Err(RehearsalError::Handset(error)),
            None => Ok(()),
        }
    }

    /// Selects an input of a device and reads back what the device itself calls it.
    ///
    /// # Errors
    /// Where the device gives no feedback, the input cannot be chosen by a key of its own, or the device
    /// does not show it in time.
    pub async fn read_back(&self, device: DeviceId, input: InputId) -> Result<String, RehearsalError> {
        let (select, name, wait_ms) = {
            let site = self.inner.world.site();
            let name = site.device_name(device);
            let profile = site.profile_of(device).ok_or(RehearsalError::NoDevice)?;
            if profile.feedback == kestrel_core::model::Feedback::None {
                return Err(RehearsalError::NoFeedback(format!(
                    "{name} tells nothing of itself, so there is nothing to read back. Type the name that it shows."
                )));
            }
            let known = profile.inputs.iter().find(|known| known.id == input).ok_or(RehearsalError::NoDevice)?;
            let select = known.select.ok_or_else(|| {
                RehearsalError::NoFeedback(format!(
                    "“{}” of {name} has no key of its own. Choose it by hand, then type the name that the device shows.",
                    known.name
                ))
            })?;
            (select, name, profile.times.input.hi_ms + profile.times.gap_ms)
        };
        self.send_once(device, select).await?;
        self.clock().sleep(u64::from(wait_ms)).await;
        let reported = self.wires().await?.drive(device)?.poll().await?.input;
        let shown = self.inner.world.view(device).and_then(|view| view.input);
        match reported {
            Some(reported) if shown == Some(input) => Ok(reported),
            _ => Err(RehearsalError::NoFeedback(format!(
                "{name} does not show this input. Is it on? Switch it on in Rehearse, wait until it has started, and try again."
            ))),
        }
    }
}
