//! What a link to a surface may do in a time, and what a guess costs: whoever reaches the listener of the phones is no
//! friend by that alone.

use crate::problem::Problem;
use axum::http::StatusCode;
use governor::{DefaultKeyedRateLimiter, Quota, RateLimiter};
use std::num::NonZeroU32;
use std::sync::LazyLock;
use std::time::Duration;
use tokio::sync::Semaphore;

/// Presses and levels of one link: so many a second, and so many at once. A finger is slower, a script is not.
const PRESSES: (u32, u32) = (10, 40);

/// Looks that one link stores: so many a minute, and so many at once.
const STORES: (u32, u32) = (6, 4);

/// Calls that something is not right, of one link: so many a minute, and so many at once.
const CALLS: (u32, u32) = (6, 4);

/// How long a guess waits for its answer; all guesses wait in one line.
const GUESS: Duration = Duration::from_millis(250);

/// So many guesses wait; more are told to stay away.
const GUESSES: usize = 40;

type Limiter = LazyLock<DefaultKeyedRateLimiter<String>>;

const fn positive(n: u32) -> NonZeroU32 {
    match NonZeroU32::new(n) {
        Some(n) => n,
        None => NonZeroU32::MIN,
    }
}

static PRESSED: Limiter =
    LazyLock::new(|| RateLimiter::keyed(Quota::per_second(positive(PRESSES.0)).allow_burst(positive(PRESSES.1))));

static CALLED: Limiter =
    LazyLock::new(|| RateLimiter::keyed(Quota::per_minute(positive(CALLS.0)).allow_burst(positive(CALLS.1))));

static STORED: Limiter =
    LazyLock::new(|| RateLimiter::keyed(Quota::per_minute(positive(STORES.0)).allow_burst(positive(STORES.1))));

/// The line in which guesses wait, and the room that there is to wait.
struct Guesses {
    line: Semaphore,
    room: Semaphore,
}

static OURS: LazyLock<Guesses> = LazyLock::new(Guesses::new);

impl Guesses {
    fn new() -> Self {
        Self { line: Semaphore::new(1), room: Semaphore::new(GUESSES) }
    }

    async fn wait(&self) -> Result<(), Problem> {
        let Ok(_room) = self.room.try_acquire() else {
            return Err(too_many("Too many links that open nothing were tried. Try again later."));
        };
        let _turn = self.line.acquire().await;
        tokio::time::sleep(GUESS).await;
        Ok(())
    }
}

fn too_many(what: &str) -> Problem {
    Problem::new(StatusCode::TOO_MANY_REQUESTS, "too-many", what)
}

/// May this link press a key, or set a level, now? Letting go of a key and stopping is never asked here.
pub fn press(token: &str) -> Result<(), Problem> {
    PRESSED.check_key(&token.to_owned()).map_err(|_| too_many("That was too fast. Wait a moment, then press again."))
}

/// May this link store a look now?
pub fn store(token: &str) -> Result<(), Problem> {
    STORED
        .check_key(&token.to_owned())
        .map_err(|_| too_many("Looks were stored many times just now. Wait a minute, then store it again."))
}

/// May this link say now that something is not right?
pub fn call(token: &str) -> Result<(), Problem> {
    let said = "That was said several times just now, and is written down. Wait a minute, then say it again.";
    CALLED.check_key(&token.to_owned()).map_err(|_| too_many(said))
}

/// A token that opens nothing was tried: the answer waits for those before it.
pub async fn guessed() -> Result<(), Problem> {
    OURS.wait().await
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_link_that_presses_too_fast_is_refused_and_another_one_is_not() {
        let many = (0..PRESSES.1 * 2).filter(|_| press("a finger of steel").is_err()).count();
        assert!(many > 0, "twice the burst at once goes through");
        assert!(press("another phone").is_ok());
        let refused = (0..=STORES.1).find_map(|_| store("a finger of steel").err()).unwrap();
        assert_eq!((refused.status, refused.kind), (429, "too-many"));
    }

    #[tokio::test(start_paused = true)]
    async fn guesses_wait_in_one_line_and_a_crowd_is_sent_away() {
        let began = tokio::time::Instant::now();
        let guesses = Guesses::new();
        let crowd = futures::future::join_all((0..GUESSES + 5).map(|_| guesses.wait())).await;
        assert_eq!(crowd.iter().filter(|answer| answer.is_err()).count(), 5);
        assert!(began.elapsed() >= GUESS * u32::try_from(GUESSES).unwrap());
    }
}
