//! Work that takes longer than a moment.

use crate::problem::Problem;
use std::sync::LazyLock;
use tokio::sync::Semaphore;

/// So many proofs at once that one core is left for whoever waits for an answer.
static PROOFS: LazyLock<Semaphore> = LazyLock::new(|| {
    let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    Semaphore::new(cores.saturating_sub(1).max(1))
});

/// Work that takes longer than a moment, away from the threads that answer.
pub async fn worked_out<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, Problem> {
    // The semaphore is never closed; without its permit the work is done all the same.
    let _turn = PROOFS.acquire().await.ok();
    tokio::task::spawn_blocking(work).await.map_err(|_| {
        Problem::new(
            axum::http::StatusCode::INTERNAL_SERVER_ERROR,
            "internal",
            "The proof ended unexpectedly. Try again.",
        )
    })
}
