//! The driver of dimmers, sensors and keypads; see [`crate::standin::mqtt`] for the topics.

use super::link::{LEAST, PATIENCE_MS};
use super::{DriverError, Report, Stroke};
use crate::bus::{Bus, topic};
use crate::clock::Clock;
use crate::standin::mqtt::Set;
use kestrel_core::id::DeviceId;
use kestrel_core::room::Want;
use serde::Deserialize;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use tokio::sync::broadcast;
use tokio::sync::broadcast::error::RecvError;

/// The driver.
pub struct Mqtt {
    bus: Bus,
    device: DeviceId,
    clock: Clock,
    reports: broadcast::Sender<Report>,
    /// Answers, by the number of the question.
    answers: broadcast::Sender<(u64, Report)>,
    next: AtomicU64,
    /// Has it ever answered?
    met: AtomicBool,
    pump: tokio::task::JoinHandle<()>,
}

impl Drop for Mqtt {
    fn drop(&mut self) {
        self.pump.abort();
    }
}

#[derive(Deserialize)]
struct State {
    level_percent: Option<u8>,
    by: Option<String>,
    tripped: Option<bool>,
    on: Option<bool>,
    down: Option<bool>,
    /// The number of the question that this answers.
    answers: Option<u64>,
}

impl Mqtt {
    /// A driver.
    #[must_use]
    pub fn new(bus: Bus, device: DeviceId, clock: &Clock) -> Self {
        let reports = broadcast::channel(64).0;
        let answers = broadcast::channel(64).0;
        let (mut messages, tell, answer, own) =
            (bus.listen(), reports.clone(), answers.clone(), topic(device, "state"));
        let press = topic(device, "press");
        let pump = tokio::spawn(async move {
            loop {
                match messages.recv().await {
                    Ok(message) if message.topic == own => {
                        // What is garbled is no news.
                        if let Ok(state) = serde_json::from_slice::<State>(&message.payload) {
                            let report = Report {
                                level_percent: state.level_percent,
                                by_hand: state.by.as_deref() == Some("wall"),
                                tripped: state.tripped,
                                power: state.on.map(|on| if on { "on" } else { "off" }.to_owned()),
                                down_percent: state.down.map(|down| if down { 100 } else { 0 }),
                                ..Report::default()
                            };
                            if let Some(number) = state.answers {
                                let _ = answer.send((number, report.clone()));
                            }
                            let _ = tell.send(report);
                        }
                    }
                    Ok(message) if message.topic == press => {
                        if let Ok(stroke) = serde_json::from_slice::<Stroke>(&message.payload) {
                            let _ = tell.send(Report { stroke: Some(stroke), ..Report::default() });
                        }
                    }
                    Ok(_) | Err(RecvError::Lagged(_)) => {}
                    Err(RecvError::Closed) => return,
                }
            }
        });
        Self {
            bus,
            device,
            clock: clock.clone(),
            reports,
            answers,
            next: AtomicU64::new(1),
            met: AtomicBool::new(false),
            pump,
        }
    }

    /// What it tells by itself.
    #[must_use]
    pub fn reports(&self) -> broadcast::Receiver<Report> {
        self.reports.subscribe()
    }

    /// Sets a level, and waits until the dimmer says so.
    ///
    /// # Errors
    /// Where the broker is gone or the dimmer says nothing.
    pub async fn want(&self, want: &Want) -> Result<(), DriverError> {
        let Want::Level { percent, fade_ms } = want else {
            return Err(DriverError::NoWay("this device knows levels alone".to_owned()));
        };
        let id = self.next.fetch_add(1, Ordering::Relaxed);
        let set = Set { percent: *percent, fade_ms: *fade_ms, id: Some(id) };
        let payload = serde_json::to_vec(&set).map_err(|error| DriverError::NoWay(error.to_string()))?;
        self.ask("level/set", id, payload).await.map(|_| ())
    }

    /// Asks what it is doing.
    ///
    /// # Errors
    /// Where nothing comes back.
    pub async fn poll(&self) -> Result<Report, DriverError> {
        let ask = async || {
            let id = self.next.fetch_add(1, Ordering::Relaxed);
            self.ask("get", id, format!("{{\"id\":{id}}}").into_bytes()).await
        };
        match ask().await {
            // The first question may have been asked before anybody was there to hear it.
            Err(DriverError::DeviceSilent(_)) if !self.met.load(Ordering::Relaxed) => ask().await,
            answer => answer,
        }
    }

    /// Publishes, and waits for the state that answers it; states of before and of others are let pass.
    async fn ask(&self, what: &str, id: u64, payload: Vec<u8>) -> Result<Report, DriverError> {
        let mut answers = self.answers.subscribe();
        let sent = self.bus.publish(&topic(self.device, what), payload, false).await;
        sent.map_err(|error| DriverError::NoWay(error.to_string()))?;
        let answered = async {
            loop {
                match answers.recv().await {
                    Ok((number, report)) if number == id => {
                        self.met.store(true, Ordering::Relaxed);
                        return Ok(report);
                    }
                    Ok(_) | Err(RecvError::Lagged(_)) => {}
                    Err(RecvError::Closed) => return Err(DriverError::DeviceClosed),
                }
            }
        };
        tokio::select! {
            biased;
            report = answered => report,
            () = self.clock.patience(PATIENCE_MS, LEAST) => Err(DriverError::DeviceSilent(PATIENCE_MS / 1000)),
        }
    }
}
