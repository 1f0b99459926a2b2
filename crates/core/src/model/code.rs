//! What is sent for a function.

use crate::id::{CodeId, DeviceId, FunctionId};
use crate::model::{Medium, Press, Tested};
use jiff::Timestamp;
use kestrel_signal::ip::{self, IpCommand};
use kestrel_signal::payload::Payload;
use kestrel_signal::radio::RadioCode;
use kestrel_signal::{Capture, Message, radio};
use serde::{Deserialize, Serialize};
use std::fmt;
use utoipa::ToSchema;

/// The radio of fixed codes, in Hz.
pub const RADIO_HZ: u32 = 433_920_000;

/// The silence after a raw capture that ends with a mark, in µs: longer than any gap inside a press.
const RAW_SILENCE_US: u32 = 40_000;

/// How long an opaque payload is taken to last while nobody has measured it, in ms (*common practice*:
/// a few frames).
const OPAQUE_MS: u32 = 300;

/// The most frames of one press: what a minute of holding needs.
const FRAMES_MAX: u32 = 1_500;

/// What is sent for a function.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "as")]
pub enum CodeBody {
    /// A message of a known protocol, sent with exact timing.
    Decoded {
        /// What it says.
        message: Message,
        /// The carrier with which it was captured, in Hz, where that is not the protocol's own.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        carrier_hz: Option<u32>,
        /// Is the whole frame sent again while the key is held, where the protocol has a shorter one for that? So it was captured.
        #[serde(default, skip_serializing_if = "is_false")]
        whole_repeats: bool,
    },
    /// A fixed code by radio at 433.92 MHz.
    Radio {
        /// What it says.
        code: RadioCode,
        /// The short unit it is sent with, in µs.
        unit_us: u32,
    },
    /// Timing as it was captured, sent as it is.
    Raw {
        /// Marks and spaces.
        capture: Capture,
        /// On what it is sent: infrared or radio.
        #[serde(default = "infrared", skip_serializing_if = "is_infrared")]
        medium: Medium,
    },
    /// What a gateway gave for a key, which nothing else can read.
    Opaque {
        /// The bytes.
        payload: Payload,
        /// On what it is sent: infrared or radio.
        medium: Medium,
        /// How long one send was measured to last, in ms.
        #[serde(default)]
        send_ms: Option<u32>,
        /// How many presses one send stands for.
        #[serde(default = "one")]
        presses: u8,
    },
    /// Bytes on the network or a serial line.
    Ip {
        /// Which.
        command: IpCommand,
    },
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks for a reference")]
const fn is_false(value: &bool) -> bool {
    !*value
}

fn infrared() -> Medium {
    Medium::Ir
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks for a reference")]
fn is_infrared(medium: &Medium) -> bool {
    *medium == Medium::Ir
}

fn one() -> u8 {
    1
}

/// A carrier that was measured is the protocol's own where it is not further off than this, as a share: learners do not
/// measure better.
const SAME_CARRIER: f64 = 0.01;

impl CodeBody {
    /// A message, sent with the carrier of its protocol.
    #[must_use]
    pub const fn of(message: Message) -> Self {
        Self::Decoded { message, carrier_hz: None, whole_repeats: false }
    }

    /// A message as it was captured: a carrier that is not the one of its protocol is kept, and sent, and so is the way in which
    /// its held key repeats.
    #[must_use]
    pub fn heard(message: Message, carrier_hz: Option<u32>, whole_repeats: bool) -> Self {
        let own = f64::from(message.protocol().carrier_hz);
        let other = carrier_hz.filter(|hz| *hz > 0 && (f64::from(*hz) / own - 1.0).abs() > SAME_CARRIER);
        Self::Decoded { message, carrier_hz: other, whole_repeats }
    }

    /// On what it is sent.
    #[must_use]
    pub fn medium(&self) -> Medium {
        match self {
            Self::Decoded { .. } => Medium::Ir,
            Self::Radio { .. } => Medium::Rf433,
            Self::Raw { medium, .. } | Self::Opaque { medium, .. } => *medium,
            Self::Ip { command: IpCommand::Payload { transport: ip::Transport::Serial, .. } } => Medium::Serial,
            Self::Ip { .. } => Medium::Ip,
        }
    }

    /// Marks and spaces in µs of one tap, with the silence at its end; empty where it has no timing.
    #[must_use]
    pub fn press_us(&self) -> Vec<u32> {
        self.frames_us(0, 0)
    }

    /// Marks and spaces in µs of a function: its key pressed and held as `press` says, with at least
    /// `frames` frames a press. Empty where the body has no timing.
    #[must_use]
    pub fn send_us(&self, press: Press, frames: Option<u32>) -> Vec<u32> {
        let mut durations: Vec<u32> = Vec::new();
        let presses = press.presses.max(1);
        for number in 0..presses {
            let hold_ms = if number + 1 == presses { press.hold_ms } else { 0 };
            let one = self.turned(number).frames_us(frames.unwrap_or(0), hold_ms);
            let last = durations.last_mut();
            if let (Some(silence), false) = (last, one.is_empty()) {
                // Half of the longest pause: far enough apart for two presses, close enough for one function.
                *silence = (*silence).max(press.gap_ms.saturating_mul(500));
            }
            durations.extend(one);
        }
        durations
    }

    /// The same key pressed for the `number`-th time: a toggle bit flips.
    fn turned(&self, number: u8) -> Self {
        match self {
            &Self::Decoded { message, carrier_hz, whole_repeats } if number > 0 && message.get("toggle").is_some() => {
                let toggle = (message.get("toggle") == Some(1)) != (number % 2 == 1);
                Self::Decoded { message: message.with_toggle(toggle), carrier_hz, whole_repeats }
            }
            other => other.clone(),
        }
    }

    /// One press of at least `frames` frames that lasts at least `hold_ms`.
    fn frames_us(&self, frames: u32, hold_ms: u32) -> Vec<u32> {
        let length = |durations: &[u32]| durations.iter().map(|&us| u64::from(us)).sum::<u64>().div_ceil(1000);
        let needed = |least: u32, more_ms: u64| {
            let more = u64::from(hold_ms).div_ceil(more_ms.max(1));
            u32::try_from(more).unwrap_or(FRAMES_MAX).max(least).max(frames).min(FRAMES_MAX)
        };
        match self {
            Self::Decoded { message, whole_repeats, .. } => {
                let send = |frames| message.encode_held(frames, *whole_repeats);
                let (two, one) = (length(&send(2)), length(&send(1)));
                send(needed(message.least_frames(), two.saturating_sub(one)))
            }
            Self::Radio { code, unit_us } => {
                let frame_ms = u64::from(*unit_us) * 128 / 1000;
                code.encode(*unit_us, needed(radio::LEAST_FRAMES, frame_ms))
            }
            Self::Raw { capture, .. } => {
                let mut once = capture.durations_us().to_vec();
                if once.len() % 2 == 1 {
                    once.push(RAW_SILENCE_US);
                }
                let times = if hold_ms == 0 { 1 } else { needed(1, length(&once)) };
                let fits = kestrel_signal::MAX_DURATIONS / once.len().max(1);
                once.repeat(usize::try_from(times).unwrap_or(1).min(fits.max(1)))
            }
            Self::Opaque { .. } | Self::Ip { .. } => vec![],
        }
    }

    /// The carrier to send with, in Hz; 38 kHz where nobody knows.
    #[must_use]
    pub fn carrier_hz(&self) -> u32 {
        match self {
            Self::Decoded { message, carrier_hz, .. } => carrier_hz.unwrap_or(message.protocol().carrier_hz),
            Self::Radio { .. }
            | Self::Raw { medium: Medium::Rf433, .. }
            | Self::Opaque { medium: Medium::Rf433, .. } => RADIO_HZ,
            Self::Raw { capture, .. } => capture.carrier_hz().unwrap_or(38_000),
            Self::Opaque { .. } | Self::Ip { .. } => 38_000,
        }
    }

    /// What it says, a toggle bit apart: two functions with the same words do the same. Raw timing says
    /// nothing that could be compared.
    #[must_use]
    pub fn key_words(&self) -> Option<String> {
        match self {
            Self::Decoded { message, .. } => Some(message.with_toggle(false).written()),
            Self::Radio { code, .. } => Some(code.to_string()),
            Self::Opaque { payload, .. } => Some(payload.hex()),
            Self::Ip { command } => Some(command.to_string()),
            Self::Raw { .. } => None,
        }
    }

    /// How long one send of a function occupies its medium, in ms, rounded up.
    #[must_use]
    pub fn send_ms(&self, press: Press, frames: Option<u32>) -> u32 {
        match self {
            Self::Opaque { send_ms, presses, .. } => {
                let times = u32::from(press.presses.max(1)).div_ceil(u32::from((*presses).max(1)));
                (send_ms.unwrap_or(OPAQUE_MS) + press.hold_ms).saturating_mul(times)
            }
            Self::Ip { .. } => 0,
            _ => {
                let us: u64 = self.send_us(press, frames).iter().map(|&us| u64::from(us)).sum();
                u32::try_from(us.div_ceil(1000)).unwrap_or(u32::MAX)
            }
        }
    }

    /// Is it understood, so that it can be sent with exact timing and compared field by field?
    #[must_use]
    pub fn is_decoded(&self) -> bool {
        matches!(self, Self::Decoded { .. } | Self::Radio { .. })
    }
}

impl fmt::Display for CodeBody {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Decoded { message, .. } => message.fmt(f),
            Self::Radio { code, .. } => code.fmt(f),
            Self::Raw { capture, .. } => write!(f, "raw timing, {} durations", capture.durations_us().len()),
            Self::Opaque { payload, .. } => write!(f, "opaque payload, {} bytes", payload.bytes().len()),
            Self::Ip { command } => command.fmt(f),
        }
    }
}

/// What is known of one function of one device by one medium.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Code {
    /// Its id.
    pub id: CodeId,
    /// The device.
    pub device: DeviceId,
    /// The function.
    pub function: FunctionId,
    /// What is sent.
    pub body: CodeBody,
    /// The capture that it was read from, if any.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub captured: Option<Capture>,
    /// When it was captured or entered, in UTC.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub since: Option<Timestamp>,
    /// What the last test showed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tested: Option<Tested>,
}

#[cfg(test)]
mod tests {
    use super::*;
    use kestrel_signal::{ProtocolId, read};
    use rstest::rstest;

    fn body(protocol: ProtocolId) -> CodeBody {
        CodeBody::of(Message::new(protocol, [("address", 4), ("command", 8)]).unwrap())
    }

    fn length_ms(durations: &[u32]) -> u32 {
        durations.iter().sum::<u32>().div_ceil(1000)
    }

    #[rstest]
    #[case(ProtocolId::Nec, 108)]
    #[case(ProtocolId::Sirc12, 135)]
    fn a_tap_lasts_as_long_as_the_least_frames(#[case] protocol: ProtocolId, #[case] ms: u32) {
        assert_eq!(body(protocol).send_ms(Press::default(), None), ms);
    }

    #[test]
    fn a_held_key_lasts_at_least_as_long_as_asked() {
        let held = Press { hold_ms: 1_000, ..Press::default() };
        let sent = body(ProtocolId::Nec).send_us(held, None);
        assert!((1_000..1_110).contains(&length_ms(&sent)), "{}", length_ms(&sent));
        let capture = Capture::new(sent, None).unwrap();
        assert_eq!(read(&capture).best.unwrap().held_signs, 9, "short frames say that it is still held");
    }

    #[test]
    fn two_presses_stand_apart_and_flip_the_toggle_bit() {
        let message = Message::new(ProtocolId::Rc5, [("address", 20), ("command", 14)]).unwrap();
        let twice = Press { presses: 2, ..Press::default() };
        let sent = CodeBody::of(message).send_us(twice, None);
        let reading = read(&Capture::new(sent.clone(), None).unwrap());
        assert!(reading.best.unwrap().remarks[0].contains("toggle bit changed"));
        assert_eq!(sent.iter().filter(|&&us| us >= 200_000).count(), 1, "half of the 400 ms");
    }

    #[test]
    fn more_frames_in_a_row_are_sent_where_a_receiver_needs_them() {
        let sent = body(ProtocolId::Sirc12).send_us(Press::default(), Some(5));
        assert_eq!(read(&Capture::new(sent, None).unwrap()).best.unwrap().frames_matched, 5);
    }

    #[test]
    fn an_opaque_payload_lasts_as_long_as_it_was_measured() {
        let body = CodeBody::Opaque {
            payload: Payload::parse("26 00 0a").unwrap(),
            medium: Medium::Ir,
            send_ms: Some(240),
            presses: 1,
        };
        assert_eq!(body.send_ms(Press::default(), None), 240);
        assert!(!body.is_decoded());
    }
}
