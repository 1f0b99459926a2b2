//! Simulated time: the wall's clock at a rate, or standing still.

use backon::{ExponentialBuilder, Retryable};
use std::time::Duration;
use tokio::sync::watch;
use tokio::time::Instant;

/// A clock that runs at a rate and starts at 0 ms. Clones show the same time.
#[derive(Debug, Clone)]
pub struct Clock {
    state: watch::Sender<State>,
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

/// A rate below this counts as standing still.
const STILL: f64 = 1e-9;

impl Clock {
    /// A clock at `rate` times real time; 0 stands still.
    #[must_use]
    pub fn new(rate: f64) -> Self {
        let (state, _) = watch::channel(State { since: Instant::now(), base_ms: 0.0, rate });
        Self { state }
    }

    /// Simulated time since the start, in ms.
    #[must_use]
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "time since a start is not negative")]
    pub fn now_ms(&self) -> u64 {
        self.state.borrow().now_ms() as u64
    }

    /// How many times faster than the wall's clock; 0 where it stands still.
    #[must_use]
    pub fn rate(&self) -> f64 {
        self.state.borrow().rate
    }

    /// Changes the rate from now on.
    pub fn set_rate(&self, rate: f64) {
        self.state.send_modify(|state| {
            *state = State { since: Instant::now(), base_ms: state.now_ms(), rate: rate.max(0.0) };
        });
    }

    /// Jumps ahead by `ms`: a step of a clock that stands still.
    pub fn step(&self, ms: u64) {
        self.state.send_modify(|state| state.base_ms += ms as f64);
    }

    /// Waits until the simulated time is `at_ms`, however the clock is turned meanwhile.
    pub async fn sleep_until(&self, at_ms: u64) {
        let mut turned = self.state.subscribe();
        loop {
            let state = *turned.borrow_and_update();
            let left_ms = at_ms as f64 - state.now_ms();
            if left_ms <= 0.0 {
                return;
            }
            if state.rate < STILL {
                // The clock lives as long as its clones do, so this cannot fail.
                let _ = turned.changed().await;
                continue;
            }
            let real = Duration::from_secs_f64(left_ms / 1000.0 / state.rate);
            // A sleep ends on a whole ms of the wall's clock; one more is cheaper than spinning.
            tokio::select! {
                () = tokio::time::sleep(real.max(Duration::from_millis(1))) => {}
                _ = turned.changed() => {}
            }
        }
    }

    /// Waits for `ms` of simulated time.
    pub async fn sleep(&self, ms: u64) {
        self.sleep_until(self.now_ms() + ms).await;
    }

    /// Waits for `ms` of simulated time and at least `least` of real time: a time-out over real sockets must
    /// not shrink with the clock.
    pub async fn patience(&self, ms: u64, least: Duration) {
        tokio::join!(self.sleep(ms), tokio::time::sleep(least));
    }
}

/// The first pause before something is tried again, which doubles; and how often that is.
const FIRST_PAUSE: Duration = Duration::from_millis(250);
const AGAIN: usize = 3;

impl Clock {
    /// Tries something, and a few times again with longer and longer pauses on this clock where it fails.
    ///
    /// # Errors
    /// The last failure.
    pub async fn trying<T, E, F: Future<Output = Result<T, E>>>(&self, attempt: impl FnMut() -> F) -> Result<T, E> {
        let clock = self.clone();
        let pause = move |pause: Duration| {
            let clock = clock.clone();
            async move { clock.sleep(u64::try_from(pause.as_millis()).unwrap_or(u64::MAX)).await }
        };
        let pauses = ExponentialBuilder::default().with_min_delay(FIRST_PAUSE).with_max_times(AGAIN);
        attempt.retry(pauses).sleep(pause).await
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test(start_paused = true)]
    async fn something_is_tried_again_with_longer_and_longer_pauses() {
        let clock = Clock::new(1.0);
        let mut at = Vec::new();
        let failed: Result<(), u64> = clock
            .trying(|| {
                at.push(clock.now_ms());
                std::future::ready(Err(clock.now_ms()))
            })
            .await;
        assert_eq!((at, failed), (vec![0, 250, 750, 1_750], Err(1_750)));
        let mut tries = 0;
        let done: Result<&str, ()> = clock
            .trying(|| {
                tries += 1;
                std::future::ready(if tries == 2 { Ok("there") } else { Err(()) })
            })
            .await;
        assert_eq!(done, Ok("there"));
    }

    #[tokio::test(start_paused = true)]
    async fn a_clock_that_stands_still_moves_by_steps() {
        let clock = Clock::new(0.0);
        tokio::time::sleep(Duration::from_secs(5)).await;
        assert_eq!(clock.now_ms(), 0);
        let sleeper = tokio::spawn({
            let clock = clock.clone();
            async move { clock.sleep(100).await }
        });
        tokio::task::yield_now().await;
        clock.step(60);
        tokio::time::sleep(Duration::from_secs(1)).await;
        assert!(!sleeper.is_finished());
        clock.step(40);
        sleeper.await.unwrap();
        assert_eq!(clock.now_ms(), 100);
    }

    #[tokio::test(start_paused = true)]
    async fn another_rate_is_felt_at_once() {
        let clock = Clock::new(1.0);
        let sleeper = tokio::spawn({
            let clock = clock.clone();
            async move { clock.sleep(100_000).await }
        });
        tokio::time::sleep(Duration::from_secs(10)).await;
        let before = Instant::now();
        clock.set_rate(9.0);
        sleeper.await.unwrap();
        assert!(before.elapsed() <= Duration::from_secs(11), "{:?}", before.elapsed());
    }
}
