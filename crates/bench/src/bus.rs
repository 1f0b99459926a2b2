//! MQTT: the wire of dimmers, sensors and keypads. Over sockets it goes through an ordinary broker; on the
//! simulated clock messages pass in memory.

use rumqttc::{AsyncClient, Event, MqttOptions, Packet, QoS};
use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use thiserror::Error;
use tokio::sync::broadcast;
use tokio::task::JoinHandle;

/// What every topic of ours starts with.
pub const PREFIX: &str = "kestrel-dune";

/// The pause before a lost broker is tried again.
const AGAIN: Duration = Duration::from_secs(1);

/// A message.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BusMessage {
    /// Its topic.
    pub topic: String,
    /// What it says.
    pub payload: Vec<u8>,
}

/// The broker does not take a message.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("the MQTT broker does not take messages: {0}")]
pub struct BusError(String);

/// A way to publish and to listen.
#[derive(Clone)]
pub enum Bus {
    /// In memory.
    Memory(Memory),
    /// Through a broker.
    Broker(Arc<Broker>),
}

/// Messages in memory, the retained ones kept.
#[derive(Clone)]
pub struct Memory {
    messages: broadcast::Sender<BusMessage>,
    retained: Arc<Mutex<BTreeMap<String, Vec<u8>>>>,
}

/// A connection to a broker.
pub struct Broker {
    client: AsyncClient,
    messages: broadcast::Sender<BusMessage>,
    pump: JoinHandle<()>,
}

impl Drop for Broker {
    fn drop(&mut self) {
        self.pump.abort();
    }
}

impl Bus {
    /// In memory.
    #[must_use]
    pub fn memory() -> Self {
        Self::Memory(Memory { messages: broadcast::channel(1_024).0, retained: Arc::default() })
    }

    /// Through the broker at `address`, as the client `name`. It connects in the background, and again
    /// whenever the connection is lost.
    #[must_use]
    pub fn broker(address: SocketAddr, name: &str) -> Self {
        let mut options = MqttOptions::new(name, address.ip().to_string(), address.port());
        options.set_keep_alive(Duration::from_secs(10));
        let (client, mut events) = AsyncClient::new(options, 256);
        let messages = broadcast::channel(1_024).0;
        let (tell, again) = (messages.clone(), client.clone());
        let pump = tokio::spawn(async move {
            loop {
                match events.poll().await {
                    Ok(Event::Incoming(Packet::ConnAck(_))) => {
                        // Whoever subscribes also gets what was retained.
                        let _ = again.try_subscribe(format!("{PREFIX}/#"), QoS::AtLeastOnce);
                    }
                    Ok(Event::Incoming(Packet::Publish(message))) => {
                        let payload = message.payload.to_vec();
                        let _ = tell.send(BusMessage { topic: message.topic, payload });
                    }
                    Ok(_) => {}
                    Err(error) => {
                        tracing::debug!(%error, "the MQTT broker is away");
                        tokio::time::sleep(AGAIN).await;
                    }
                }
            }
        });
        Self::Broker(Arc::new(Broker { client, messages, pump }))
    }

    /// Everything that is published from now on.
    #[must_use]
    pub fn listen(&self) -> broadcast::Receiver<BusMessage> {
        match self {
            Self::Memory(memory) => memory.messages.subscribe(),
            Self::Broker(broker) => broker.messages.subscribe(),
        }
    }

    /// Publishes; a retained message is told to those who come later too.
    ///
    /// # Errors
    /// Where the broker is gone.
    pub async fn publish(&self, topic: &str, payload: Vec<u8>, retain: bool) -> Result<(), BusError> {
        match self {
            Self::Memory(memory) => {
                if retain {
                    let mut retained = memory.retained.lock().unwrap_or_else(PoisonError::into_inner);
                    retained.insert(topic.to_owned(), payload.clone());
                }
                let _ = memory.messages.send(BusMessage { topic: topic.to_owned(), payload });
                Ok(())
            }
            Self::Broker(broker) => {
                let sent = broker.client.publish(topic, QoS::AtLeastOnce, retain, payload).await;
                sent.map_err(|error| BusError(error.to_string()))
            }
        }
    }
}

/// `kestrel-dune/DEVICE/WHAT`.
#[must_use]
pub fn topic(device: kestrel_core::id::DeviceId, what: &str) -> String {
    format!("{PREFIX}/{device}/{what}")
}
