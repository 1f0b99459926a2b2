//! The driver of [`crate::standin::http`]: requests with JSON bodies, one connection each, and packets that
//! wake.

use super::link::{LEAST, PATIENCE_MS};
use super::{Address, DriverError, Report};
use crate::clock::Clock;
use crate::lines::printable;
use crate::net::Net;
use http_body_util::{BodyExt, Full, Limited};
use hyper::body::Bytes;
use hyper::{Request, StatusCode};
use hyper_util::rt::TokioIo;
use kestrel_core::room::Want;
use kestrel_signal::ip::{IpCommand, Verb};
use serde::Deserialize;
use serde_json::json;
use tokio::sync::Mutex;

/// The largest answer that is read, in bytes.
const ANSWER_MAX: usize = 65_536;

/// The driver.
pub struct Http {
    net: Net,
    address: Address,
    clock: Clock,
    /// One request at a time.
    turn: Mutex<()>,
}

/// What a display tells.
#[derive(Deserialize)]
struct State {
    power: Option<String>,
    input: Option<String>,
    volume: Option<f64>,
    muted: Option<bool>,
}

impl Http {
    /// A driver.
    #[must_use]
    pub fn new(net: &Net, address: Address, clock: &Clock) -> Self {
        Self { net: net.clone(), address, clock: clock.clone(), turn: Mutex::new(()) }
    }

    /// Sends a request or a packet that wakes.
    ///
    /// # Errors
    /// Where nobody answers, or with an error.
    pub async fn command(&self, command: &IpCommand) -> Result<(), DriverError> {
        match command {
            IpCommand::Http { verb, path, body } => {
                let method = match verb {
                    Verb::Get => "GET",
                    Verb::Post => "POST",
                    Verb::Put => "PUT",
                };
                self.request(method, path, body.clone()).await.map(|_| ())
            }
            _ => {
                let bytes = command.bytes().map_err(|error| DriverError::Refused(error.to_string()))?;
                let sent = self.net.send_datagram(self.address.udp, &bytes).await;
                sent.map_err(|error| DriverError::DeviceUnreachable {
                    address: self.address.udp.to_string(),
                    why: error.to_string(),
                })
            }
        }
    }

    /// Tells it something by name.
    ///
    /// # Errors
    /// As for a command.
    pub async fn want(&self, want: &Want) -> Result<(), DriverError> {
        let (path, body) = match want {
            Want::Power { on } => ("/power", json!({ "on": on })),
            Want::Mute { on } => ("/mute", json!({ "on": on })),
            Want::Volume { tenths } => ("/volume", json!({ "volume": f64::from(*tenths) / 10.0 })),
            Want::Message { text } => ("/message", json!({ "text": text })),
            _ => return Err(DriverError::NoWay("this display is not told that by name".to_owned())),
        };
        self.request("PUT", path, body.to_string()).await.map(|_| ())
    }

    /// Asks what it is doing.
    ///
    /// # Errors
    /// Where nothing sensible comes back.
    pub async fn poll(&self) -> Result<Report, DriverError> {
        let answer = self.request("GET", "/state", String::new()).await?;
        let state: State = serde_json::from_slice(&answer)
            .map_err(|_| DriverError::Answer { expected: "its state".to_owned(), got: printable(&answer) })?;
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "clamped")]
        let tenths = |volume: f64| (volume.clamp(0.0, 1000.0) * 10.0).round() as u32;
        Ok(Report {
            power: state.power,
            input: state.input,
            volume_tenths: state.volume.map(tenths),
            muted: state.muted,
            ..Report::default()
        })
    }

    async fn request(&self, method: &str, path: &str, body: String) -> Result<Bytes, DriverError> {
        let _turn = self.turn.lock().await;
        tokio::select! {
            biased;
            answer = self.exchange(method, path, body) => answer,
            () = self.clock.patience(PATIENCE_MS, LEAST) => Err(DriverError::DeviceSilent(PATIENCE_MS / 1000)),
        }
    }

    async fn exchange(&self, method: &str, path: &str, body: String) -> Result<Bytes, DriverError> {
        let address = self.address.tcp.to_string();
        let stream = self.net.connect(self.address.tcp).await;
        let stream = stream
            .map_err(|error| DriverError::DeviceUnreachable { address: address.clone(), why: error.to_string() })?;
        let closed = |_| DriverError::DeviceClosed;
        let (mut sender, connection) =
            hyper::client::conn::http1::handshake(TokioIo::new(stream)).await.map_err(closed)?;
        let mut request = Request::builder()
            .method(method)
            .uri(path)
            .header("host", address)
            .header("content-type", "application/json");
        if method != "GET" || !body.is_empty() {
            // A request that tells something says how long that is, also where it is nothing (RFC 9110, 8.6).
            request = request.header("content-length", body.len());
        }
        let request = request
            .body(Full::new(Bytes::from(body)))
            .map_err(|error| DriverError::NoWay(format!("this is no request: {error}")))?;
        let talk = async {
            let response = sender.send_request(request).await.map_err(closed)?;
            let status = response.status();
            let body = Limited::new(response.into_body(), ANSWER_MAX).collect().await;
            let body = body.map_err(|_| DriverError::DeviceClosed)?.to_bytes();
            Ok((status, body))
        };
        // The connection is served beside the talk, and ends with it: with the answer, or broken before.
        let served = tokio::spawn(connection);
        let done = talk.await;
        served.abort();
        let (status, body) = done?;
        if status.is_success() {
            return Ok(body);
        }
        let why = serde_json::from_slice::<serde_json::Value>(&body).ok();
        let why = why.and_then(|value| value["error"].as_str().map(str::to_owned));
        let named = if status == StatusCode::NOT_FOUND { "there is no such path" } else { status.as_str() };
        Err(DriverError::DeviceRefused(why.unwrap_or_else(|| named.to_owned())))
    }
}
