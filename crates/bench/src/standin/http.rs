//! HTTP with JSON bodies (*our own paths, for displays*), and Wake-on-LAN on UDP.
//!
//! | request | answer |
//! | --- | --- |
//! | `GET /state` | `{"power": "on", "input": "HDMI 1", "volume": 12.5, "muted": false, "message": null}`, as far as it tells |
//! | `PUT /power` `{"on": true}` · `PUT /input` `{"input": "HDMI 1"}` · `PUT /volume` `{"volume": 12.5}` · `PUT /mute` `{"on": true}` | 204 |
//! | `PUT /message` `{"text": "…"}` | 204; shown until it is replaced by an empty one |
//!
//! What cannot be done now is answered with 409, what makes no sense with 400, another path with 404; the
//! body is `{"error": "…"}`. A display that is off answers all the same, as long as its plug is in.

use super::{Standin, power_word};
use crate::net::Stream;
use http_body_util::{BodyExt, Full, Limited};
use hyper::body::{Bytes, Incoming};
use hyper::{Method, Request, Response, StatusCode};
use hyper_util::rt::TokioIo;
use kestrel_core::model::Tell;
use kestrel_core::room::{Outcome, Want};
use serde_json::{Value, json};
use std::convert::Infallible;
use std::io;

/// The largest body, in bytes.
const BODY_MAX: usize = 16_384;

/// Serves one connection until its end.
pub async fn serve(own: &Standin, stream: Stream) -> io::Result<()> {
    let service = hyper::service::service_fn(|request| respond(own, request));
    let served = hyper::server::conn::http1::Builder::new()
        .keep_alive(false)
        .serve_connection(TokioIo::new(stream), service)
        .await;
    served.map_err(io::Error::other)
}

async fn respond(own: &Standin, request: Request<Incoming>) -> Result<Response<Full<Bytes>>, Infallible> {
    let (method, path) = (request.method().clone(), request.uri().path().to_owned());
    let body = match Limited::new(request.into_body(), BODY_MAX).collect().await {
        Ok(body) => body.to_bytes(),
        Err(_) => Bytes::from_static(b"too long"),
    };
    let routine = method == Method::GET;
    let line = format!("{method} {path} {}", String::from_utf8_lossy(&body));
    own.heard(line.trim_end().as_bytes(), routine);
    let (status, answer) = match answer(own, &method, &path, &body) {
        Ok(None) => (StatusCode::NO_CONTENT, String::new()),
        Ok(Some(value)) => (StatusCode::OK, value.to_string()),
        Err((status, why)) => (status, json!({ "error": why }).to_string()),
    };
    let Some(bytes) = own.spoilt(answer.as_bytes()).await else {
        // It is lost: the peer waits until it gives up.
        return std::future::pending().await;
    };
    let shown = format!("{} {}", status.as_u16(), String::from_utf8_lossy(&bytes));
    let said = crate::world::NewLine { routine, ..crate::world::NewLine::back(shown.trim_end().as_bytes()) };
    own.write(said, shown.trim_end());
    let mut response = Response::new(Full::new(Bytes::from(bytes)));
    *response.status_mut() = status;
    let json = hyper::header::HeaderValue::from_static("application/json");
    response.headers_mut().insert(hyper::header::CONTENT_TYPE, json);
    Ok(response)
}

type Answer = Result<Option<Value>, (StatusCode, String)>;

fn answer(own: &Standin, method: &Method, path: &str, body: &[u8]) -> Answer {
    if method == Method::GET && path == "/state" {
        return Ok(Some(state(own)));
    }
    if method != Method::PUT {
        return Err((StatusCode::NOT_FOUND, "there is GET /state and PUT of its parts".to_owned()));
    }
    let wrong = |why: &str| (StatusCode::BAD_REQUEST, why.to_owned());
    let value: Value = serde_json::from_slice(body).map_err(|error| wrong(&format!("no JSON: {error}")))?;
    let on = || value["on"].as_bool().ok_or_else(|| wrong("“on” is true or false"));
    let want = match path {
        "/power" => Want::Power { on: on()? },
        "/mute" => Want::Mute { on: on()? },
        "/input" => {
            let name = value["input"].as_str().ok_or_else(|| wrong("“input” is a name"))?;
            Want::Input { index: own.input_named(name).ok_or_else(|| wrong("there is no such input"))? }
        }
        "/volume" => {
            let volume = value["volume"].as_f64().filter(|volume| (0.0..=1000.0).contains(volume));
            #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "between 0 and 1000")]
            let tenths = (volume.ok_or_else(|| wrong("“volume” is a number"))? * 10.0).round() as u32;
            Want::Volume { tenths }
        }
        "/message" => {
            let text = value["text"].as_str().ok_or_else(|| wrong("“text” is a text"))?;
            Want::Message { text: text.chars().take(200).collect() }
        }
        _ => return Err((StatusCode::NOT_FOUND, "there is no such path".to_owned())),
    };
    match own.want(&want) {
        Outcome::Obeyed { .. } | Outcome::Unchanged { .. } => Ok(None),
        Outcome::Ignored { why } => Err((StatusCode::CONFLICT, why)),
    }
}

fn state(own: &Standin) -> Value {
    let Some(view) = own.view() else { return json!({}) };
    let mut state = serde_json::Map::new();
    if own.tells(Tell::Power) {
        state.insert("power".to_owned(), power_word(view.power).into());
    }
    if own.tells(Tell::Input) {
        state.insert("input".to_owned(), own.shown_input().into());
    }
    if own.tells(Tell::Volume) {
        state.insert("volume".to_owned(), view.volume_tenths.map(|tenths| f64::from(tenths) / 10.0).into());
        state.insert("muted".to_owned(), view.muted.into());
    }
    state.insert("message".to_owned(), view.message.into());
    state.into()
}

/// The MAC address that a magic packet wakes: six bytes FF, then the address 16 times.
#[must_use]
pub fn woken(packet: &[u8]) -> Option<[u8; 6]> {
    let copies = packet.strip_prefix(&[0xff; 6])?;
    let mac: [u8; 6] = copies.get(..6)?.try_into().ok()?;
    (copies.len() == 96 && copies.chunks_exact(6).all(|copy| copy == mac)).then_some(mac)
}
