//! Simulated time: the wall's clock at a rate.

use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::time::Instant;

/// The longest real sleep, so that a change of rate is soon felt.
const NAP: Duration = Duration::from_millis(50);

/// A clock that runs at a rate and starts at 0 ms. Clones show the same time.
#[derive(Debug, Clone)]
pub struct Clock {
    state: Arc<Mutex<State>>,
}

#[derive(Debug, Clone, Copy)]
struct State {
    since: Instant,
    base_ms: f64,
    rate: f64,
}

impl State {
    fn now_ms(&self) -> f64 {
        self.base_ms + self.since.elapsed().as_secs_f64() * 1000.0 * self.rate
    }
}

impl Clock {
    /// A clock at `rate` times real time.
    #[must_use]
    pub fn new(rate: f64) -> Self {
        Self { state: Arc::new(Mutex::new(State { since: Instant::now(), base_ms: 0.0, rate })) }
    }

    fn state(&self) -> State {
        *self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Simulated time since the start, in ms.
    #[must_use]
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "time since a start is not negative")]
    pub fn now_ms(&self) -> u64 {
        self.state().now_ms() as u64
    }

    /// How many times faster than the wall's clock.
    #[must_use]
    pub fn rate(&self) -> f64 {
        self.state().rate
    }

    /// Changes the rate from now on.
    pub fn set_rate(&self, rate: f64) {
        let mut state = self.state.lock().unwrap_or_else(PoisonError::into_inner);
        *state = State { since: Instant::now(), base_ms: state.now_ms(), rate };
    }

    /// Waits until the simulated time is `at_ms`.
    pub async fn sleep_until(&self, at_ms: u64) {
        loop {
            let state = self.state();
            let left_ms = at_ms as f64 - state.now_ms();
            if left_ms <= 0.0 {
                return;
            }
            let real = Duration::from_secs_f64(left_ms / 1000.0 / state.rate);
            // A sleep ends on a whole ms of the wall's clock; one more nap is cheaper than spinning.
            tokio::time::sleep(real.min(NAP).max(Duration::from_millis(1))).await;
        }
    }

    /// Waits for `ms` of simulated time.
    pub async fn sleep(&self, ms: u64) {
        self.sleep_until(self.now_ms() + ms).await;
    }
}
