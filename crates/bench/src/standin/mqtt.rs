//! Dimmers, sensors and keypads on MQTT (*our own topics, below `kestrel-dune/DEVICE/`*).
//!
//! | topic | who publishes it | payload |
//! | --- | --- | --- |
//! | `level/set` | the driver | `{"percent": 40, "fade_ms": 2000, "id": 7}` |
//! | `get` | the driver | `{"id": 8}`: asks for the state |
//! | `press` | a keypad or a hand remote | `{"key": "Key 1", "down": true}`, and `false` when it comes up |
//! | `state` | the device, retained | `{"level_percent": 40, "by": "wall"}` (`command`), `{"tripped": true}`; of a sensor that was added to a device `{"on": true}` or `{"down": true}` |
//!
//! The state that answers a question or a command carries its number: `"answers": 7`. A press on the wall is reported
//! like any other change, with `"by": "wall"`. A payload that makes no sense is left alone; the device says what it is
//! instead.

use super::Standin;
use crate::bus::{Bus, topic};
use crate::world::{Direction, NewLine};
use kestrel_core::id::FunctionId;
use kestrel_core::model::{DeviceKind, Feedback, Gesture, Medium, Tell};
use kestrel_core::room::Want;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use tokio::sync::broadcast::error::RecvError;
use tokio::task::JoinSet;

/// What is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Set {
    /// How bright, in %.
    pub percent: u8,
    /// How long the fade takes, in ms.
    #[serde(default)]
    pub fade_ms: u32,
    /// Comes back in the state that answers it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub id: Option<u64>,
}

/// Serves one device until the task is aborted.
pub async fn serve(own: Standin, bus: Bus) {
    let mut messages = bus.listen();
    let mut changes = own.world.changes();
    let (set, get, state_topic) =
        (topic(own.device, "level/set"), topic(own.device, "get"), topic(own.device, "state"));
    let mut told = told(&own, "command");
    let mut fingers = own.world.fingers();
    let mut typing = JoinSet::new();
    // The level that we were told last: what else it becomes is the wall's doing.
    let mut wanted: Option<u8> = None;
    // The driver may have been there first, waiting for what is retained.
    publish(&own, &bus, &state_topic, &told, true).await;
    loop {
        let by = tokio::select! {
            message = messages.recv() => {
                let message = match message {
                    Ok(message) => message,
                    Err(RecvError::Lagged(_)) => continue,
                    Err(RecvError::Closed) => return,
                };
                let gone = !own.world.answers(own.device) || own.world.faults(own.device).silent;
                if gone || (message.topic != set && message.topic != get) {
                    continue;
                }
                if message.topic == set {
                    wanted = take(&own, &message.payload).or(wanted);
                }
                told = self::told(&own, "command");
                let mut answer = told.clone();
                let asked = serde_json::from_slice::<Value>(&message.payload).unwrap_or_default();
                if let Some(id) = asked["id"].as_u64() {
                    answer["answers"] = id.into();
                }
                publish(&own, &bus, &state_topic, &answer, message.topic == get).await;
                continue;
            }
            finger = fingers.recv() => {
                if let Ok((device, key, gesture)) = finger
                    && device == own.device
                {
                    typing.spawn(press(own.clone(), bus.clone(), key, gesture));
                }
                while typing.try_join_next().is_some() {}
                continue;
            }
            changed = changes.changed() => {
                if changed.is_err() {
                    return;
                }
                let level = own.view().and_then(|view| view.level_percent);
                if wanted.is_some() && level == wanted { "command" } else { "wall" }
            }
        };
        let now = self::told(&own, by);
        if news(&now) != news(&told) && !own.world.with(|truth, _| truth.sim.under_way()) {
            told = now;
            publish(&own, &bus, &state_topic, &told, false).await;
        }
    }
}

/// What is told, whoever did it.
fn news(value: &Value) -> Value {
    let mut news = value.clone();
    news["by"].take();
    news
}

/// Takes a level; the level, where it can be read and is one.
fn take(own: &Standin, payload: &[u8]) -> Option<u8> {
    line(own, Direction::Out, "level/set", payload, false);
    match serde_json::from_slice::<Set>(payload) {
        Ok(asked) if asked.percent <= 100 => {
            own.want(&Want::Level { percent: asked.percent, fade_ms: asked.fade_ms });
            Some(asked.percent)
        }
        _ => {
            line(own, Direction::In, "left alone", payload, false);
            None
        }
    }
}

/// A finger on a key: down and up, in its own time.
async fn press(own: Standin, bus: Bus, key: FunctionId, gesture: Gesture) {
    let name = own.site().function_name(own.device, key);
    let start = own.world.clock().now_ms();
    for &(after_ms, down) in gesture.strokes() {
        own.world.clock().sleep_until(start + after_ms).await;
        if !own.world.answers(own.device) || own.world.faults(own.device).silent {
            continue;
        }
        let stroke = json!({ "key": name, "down": down });
        if let Some(payload) = own.spoilt(stroke.to_string().as_bytes()).await {
            line(&own, Direction::In, "press", &payload, false);
            let _ = bus.publish(&topic(own.device, "press"), payload, false).await;
        }
    }
}

fn told(own: &Standin, by: &str) -> Value {
    let view = own.view();
    if let Some(Feedback::Sensor { senses, .. }) = own.profile().map(|profile| profile.feedback) {
        // A sensor that was added: it tells of the device, and has mains of its own.
        let seen = own.world.with(|truth, _| truth.sim.seen(own.device)).unwrap_or_default();
        return if senses.tells() == Tell::Position && seen.down.is_some() {
            json!({ "down": seen.down })
        } else {
            json!({ "on": seen.on.unwrap_or(false) })
        };
    }
    if own.profile().is_some_and(|profile| profile.kind == DeviceKind::Keypad) {
        return json!({ "here": true });
    }
    match view.as_ref().and_then(|view| view.tripped) {
        Some(tripped) => json!({ "tripped": tripped }),
        None => json!({ "level_percent": view.and_then(|view| view.level_percent), "by": by }),
    }
}

async fn publish(own: &Standin, bus: &Bus, topic: &str, told: &Value, routine: bool) {
    if !own.world.answers(own.device) {
        return;
    }
    if let Some(payload) = own.spoilt(told.to_string().as_bytes()).await {
        line(own, Direction::In, "state", &payload, routine);
        let _ = bus.publish(topic, payload, true).await;
    }
}

fn line(own: &Standin, direction: Direction, what: &str, payload: &[u8], routine: bool) {
    let meaning = format!("{what} {}", String::from_utf8_lossy(payload));
    own.world.write(NewLine {
        direction: Some(direction),
        device: Some(own.device),
        medium: Some(Medium::Mesh),
        meaning,
        routine,
        ..NewLine::out(payload)
    });
}
