//! Work that takes longer than a moment, away from the threads that answer. Each kind has a budget of its own, so that
//! what takes minutes never stands in the way of what somebody waits for.

use crate::problem::Problem;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, LazyLock};
use tokio::sync::Semaphore;

/// One kind of work.
pub struct Lane {
    /// So many at once.
    turns: LazyLock<Semaphore>,
    /// What it is called where it failed.
    name: &'static str,
}

fn cores() -> usize {
    std::thread::available_parallelism().map_or(1, std::num::NonZero::get)
}

/// Notes, plans and the like: what the margin waits for at every edit.
pub static SOON: Lane = Lane { turns: LazyLock::new(|| Semaphore::new(cores().max(2))), name: "The answer" };

/// Proofs of cells and of whole matrices.
pub static PROOF: Lane =
    Lane { turns: LazyLock::new(|| Semaphore::new(cores().saturating_sub(1).max(1))), name: "The proof" };

/// Trials and stories: minutes, one after another.
pub static LONG: Lane = Lane { turns: LazyLock::new(|| Semaphore::new(1)), name: "The run" };

/// Files that are read or written.
pub static FILES: Lane = Lane { turns: LazyLock::new(|| Semaphore::new(2)), name: "The file" };

/// What the shelf says of houses: in the background, one after another.
pub static SHELF: Lane = Lane { turns: LazyLock::new(|| Semaphore::new(1)), name: "The summary" };

/// Whoever waits for work. When the page that asked is closed or asks no more, this is dropped with the request.
pub struct Asker(Arc<AtomicBool>);

/// Tells work whether anybody still waits for it.
#[derive(Clone)]
pub struct Waiting(Arc<AtomicBool>);

impl Asker {
    pub fn new() -> (Self, Waiting) {
        let gone = Arc::new(AtomicBool::new(false));
        (Self(gone.clone()), Waiting(gone))
    }
}

impl Drop for Asker {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

impl Waiting {
    pub fn is_gone(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}

impl Lane {
    /// Does this work when it is its turn. Whoever goes away before that takes the work along; what has begun is ended.
    pub async fn run<T: Send + 'static>(
        &'static self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, Problem> {
        // The semaphore is never closed; without its permit the work is done all the same.
        let turn = self.turns.acquire().await.ok();
        // The permit goes with the work: it is given back at its end, whoever waits.
        let done = tokio::task::spawn_blocking(move || {
            let _turn = turn;
            work()
        });
        done.await.map_err(|_| {
            let detail = format!("{} ended unexpectedly: that is a fault of this program. Try again.", self.name);
            Problem::new(axum::http::StatusCode::INTERNAL_SERVER_ERROR, "internal", detail)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::mpsc;

    #[tokio::test]
    async fn long_work_holds_nothing_that_somebody_waits_for() {
        let (release, held) = mpsc::channel::<()>();
        let long = tokio::spawn(LONG.run(move || held.recv()));
        let waiting = tokio::spawn(LONG.run(|| "second"));
        for _ in 0..20 {
            assert_eq!(SOON.run(|| 4).await.unwrap(), 4);
            assert_eq!(PROOF.run(|| 5).await.unwrap(), 5);
            assert_eq!(FILES.run(|| 6).await.unwrap(), 6);
        }
        assert!(!long.is_finished() && !waiting.is_finished(), "and long work comes one after another");
        release.send(()).unwrap();
        assert_eq!(waiting.await.unwrap().unwrap(), "second");
    }

    #[tokio::test]
    async fn work_that_fails_is_told_and_gives_its_turn_back() {
        for _ in 0..4 {
            let failed = LONG.run(|| -> u8 { std::panic::panic_any("a fault") }).await.unwrap_err();
            assert_eq!((failed.status, failed.kind), (500, "internal"));
            assert!(failed.detail.starts_with("The run ended unexpectedly"), "{}", failed.detail);
        }
        assert_eq!(LONG.run(|| 7).await.unwrap(), 7);
    }
}
