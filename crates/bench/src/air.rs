//! The air between a handset and a learner: what is pressed in front of the gateway.

use kestrel_core::model::Medium;
use tokio::sync::broadcast;

/// A key that was pressed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sent {
    /// On what it was sent.
    pub medium: Medium,
    /// Marks and spaces, as the learner's receiver gives them, in µs.
    pub durations_us: Vec<u32>,
}

/// Handsets speak into it, learners listen.
#[derive(Debug, Clone)]
pub struct Air(broadcast::Sender<Sent>);

impl Default for Air {
    fn default() -> Self {
        Self(broadcast::channel(32).0)
    }
}

impl Air {
    /// Everything that is pressed from now on.
    #[must_use]
    pub fn listen(&self) -> broadcast::Receiver<Sent> {
        self.0.subscribe()
    }

    /// Is a learner listening?
    #[must_use]
    pub fn heard(&self) -> bool {
        self.0.receiver_count() > 0
    }

    /// A key is pressed; nobody may be listening.
    pub fn press(&self, signal: Sent) {
        let _ = self.0.send(signal);
    }
}
