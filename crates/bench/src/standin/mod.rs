//! The stand-ins: what answers in place of the devices of a room, each a task of its own, each in the
//! protocol of its device. Whatever they are told goes to the [`World`]; whatever is broken there shows here.
//!
//! Faults are those of the real thing: an answer that is lost, garbled or late, a device that takes a
//! connection and says nothing, one that closes it at once, one whose plug is out.

pub mod e131;
pub mod gateway;
pub mod http;
pub mod json;
pub mod lines;
pub mod mqtt;
pub mod pjlink;

use crate::net::{Datagrams, Listener, Stream};
use crate::world::{NewLine, World};
use kestrel_core::adopt::{input_called, reported_name};
use kestrel_core::id::DeviceId;
use kestrel_core::model::{Medium, Profile, Site, Talk, Tell};
use kestrel_core::room::{DeviceView, Outcome, PowerView, Want};
use std::io;
use std::sync::Arc;
use std::time::Duration;
use tokio::io::{AsyncWrite, AsyncWriteExt};
use tokio::task::JoinSet;

/// The stand-in of one device.
#[derive(Clone)]
pub struct Standin {
    /// The room in which it stands.
    pub world: World,
    /// Which device.
    pub device: DeviceId,
}

impl Standin {
    /// Serves every connection in the protocol of its device, until the task is aborted.
    pub async fn listen(self, mut listener: Listener) {
        let mut connections = JoinSet::new();
        loop {
            match listener.accept().await {
                // A device that is not there, or closes every connection: the peer sees it end at once.
                Ok(stream) if !self.world.answers(self.device) => drop(stream),
                Ok(stream) => {
                    connections.spawn(self.clone().connection(stream));
                }
                Err(error) if error.kind() == io::ErrorKind::NotConnected => return,
                Err(_) => tokio::time::sleep(Duration::from_millis(100)).await,
            }
            while connections.try_join_next().is_some() {}
        }
    }

    /// Serves one connection until its end, or until it is cut.
    async fn connection(self, stream: Stream) {
        let cut = self.cut();
        let talk = self.site().talk_of(self.device);
        let serve = async {
            match talk {
                Talk::Pjlink => pjlink::serve(&self, stream).await,
                Talk::Http => http::serve(&self, stream).await,
                Talk::Player | Talk::Speaker => json::serve(&self, stream).await,
                Talk::Lines | Talk::Mqtt | Talk::E131 => lines::serve(&self, stream).await,
            }
        };
        tokio::select! {
            _ = serve => {}
            () = cut => {}
        }
    }

    /// Resolves when its connections are cut: its plug is pulled, it restarts.
    pub(crate) fn cut(&self) -> impl Future<Output = ()> + Send + 'static + use<> {
        let (world, device) = (self.world.clone(), self.device);
        let before = world.cuts(device);
        async move {
            let mut changes = world.changes();
            while world.cuts(device) == before {
                if changes.changed().await.is_err() {
                    return;
                }
            }
        }
    }

    /// Takes datagrams: packets that wake it, levels, and its own commands.
    pub async fn take_datagrams(self, mut datagrams: Datagrams) {
        let mut levels = e131::StripReceiver::default();
        while let Some(bytes) = datagrams.next().await {
            if !self.world.answers(self.device) || self.world.faults(self.device).silent {
                continue;
            }
            if let Some(mac) = http::woken(&bytes) {
                self.wake(mac, &bytes);
            } else if let Ok(packet) = e131::parse(&bytes) {
                if let Some(want) = levels.take(&packet) {
                    self.write(
                        NewLine { routine: true, ..NewLine::out(b"") },
                        &format!("levels, sequence {}", packet.sequence),
                    );
                    self.world.want(self.device, &want);
                }
            } else {
                let _ = self.world.receive_bytes(self.device, &bytes);
            }
        }
    }

    fn wake(&self, mac: [u8; 6], bytes: &[u8]) {
        let own =
            self.site().device(self.device).and_then(|device| kestrel_signal::ip::parse_mac(&device.network.mac).ok());
        let mine = own == Some(mac);
        let meaning = if mine { "Wake-on-LAN" } else { "Wake-on-LAN for another device" };
        self.write(NewLine { bytes: hex_of(bytes), ..NewLine::out(b"") }, meaning);
        if mine {
            self.world.want(self.device, &Want::Power { on: true });
        }
    }

    pub(crate) fn site(&self) -> Arc<Site> {
        self.world.site()
    }

    pub(crate) fn profile(&self) -> Option<Profile> {
        self.site().profile_of(self.device).map(std::borrow::Cow::into_owned)
    }

    pub(crate) fn view(&self) -> Option<DeviceView> {
        self.world.view(self.device)
    }

    /// What the device calls the input that it shows.
    pub(crate) fn shown_input(&self) -> Option<String> {
        let input = self.view()?.input?;
        reported_name(&self.site(), self.device, input)
    }

    /// Does the model tell this of itself?
    pub(crate) fn tells(&self, what: Tell) -> bool {
        self.site().profile_of(self.device).is_some_and(|profile| profile.feedback.tells(what))
    }

    /// It is told something by name.
    pub(crate) fn want(&self, want: &Want) -> Outcome {
        self.world.want(self.device, want)
    }

    /// The input that is meant by a name or a label.
    pub(crate) fn input_named(&self, name: &str) -> Option<u8> {
        let site = self.site();
        let profile = site.profile_of(self.device)?;
        let label = profile.inputs.iter().position(|input| input.name.eq_ignore_ascii_case(name));
        input_called(&site, self.device, name).or_else(|| u8::try_from(label?).ok())
    }

    /// Writes a line of the wire log about this device.
    pub(crate) fn write(&self, line: NewLine, meaning: &str) {
        let meaning = meaning.to_owned();
        self.world.write(NewLine { device: Some(self.device), medium: Some(Medium::Ip), meaning, ..line });
    }

    /// What came in, for the wire log.
    pub(crate) fn heard(&self, bytes: &[u8], routine: bool) {
        let line = NewLine::out(bytes);
        let meaning = line.meaning.clone();
        self.write(NewLine { routine, ..line }, meaning.trim_end_matches("\\r").trim_end_matches("\\n"));
    }

    /// Answers, or fails to, as its faults want it.
    pub(crate) async fn reply(
        &self,
        write: &mut (impl AsyncWrite + Unpin),
        bytes: &[u8],
        routine: bool,
    ) -> io::Result<()> {
        let Some(bytes) = self.spoilt(bytes).await else { return Ok(()) };
        let line = NewLine::back(&bytes);
        let meaning = line.meaning.clone();
        self.write(NewLine { routine, ..line }, meaning.trim_end_matches("\\r").trim_end_matches("\\n"));
        write.write_all(&bytes).await?;
        write.flush().await
    }

    /// What is left of an answer; `None` where nothing is.
    pub(crate) async fn spoilt(&self, bytes: &[u8]) -> Option<Vec<u8>> {
        let faults = self.world.faults(self.device);
        if faults.silent || self.world.happens(faults.lost_percent) {
            return None;
        }
        if faults.slow_ms > 0 {
            self.world.clock().sleep(u64::from(faults.slow_ms)).await;
        }
        let mut bytes = bytes.to_vec();
        if self.world.happens(faults.garbled_percent) {
            // What ends the line survives, so that the peer sees a line that makes no sense.
            for byte in bytes.iter_mut().filter(|byte| !byte.is_ascii_control()) {
                *byte = byte.wrapping_add(7) % 0x5e + 0x21;
            }
        }
        Some(bytes)
    }
}

/// Bytes as hex.
pub(crate) fn hex_of(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect::<Vec<_>>().join(" ")
}

/// Power in one word.
pub(crate) fn power_word(power: PowerView) -> &'static str {
    match power {
        PowerView::Off => "off",
        PowerView::Starting => "starting",
        PowerView::On | PowerView::Always => "on",
        PowerView::Cooling => "cooling",
    }
}
