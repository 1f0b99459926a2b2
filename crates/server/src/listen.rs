//! Listening: what one connection may cost, how long it may take, and how many there may be.
//!
//! Every listener has room for so many connections of its own, so that whoever crowds one of them leaves the others
//! alone. A connection ends that does not send its request in time, sends nothing after the last answer, or does not
//! read what it is sent.

use axum::Router;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use std::io::Write;
use std::pin::pin;
use std::sync::Arc;
use std::time::Duration;
use tokio::io::AsyncReadExt;
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::{OwnedSemaphorePermit, Semaphore, TryAcquireError};
use tokio_io_timeout::TimeoutStream;

/// What a listener takes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Limits {
    /// Connections at once.
    pub connections: usize,
    /// From the first byte of a request (or the end of the last answer) to the end of its header.
    pub header: Duration,
    /// How long an answer may wait for whoever reads it.
    pub write: Duration,
}

/// Time for a header, and for the next request of a connection that stays open.
const HEADER_TIME: Duration = Duration::from_secs(20);

/// Time for an answer that nobody reads.
const WRITE_TIME: Duration = Duration::from_secs(30);

/// The most bytes of a request that are held before its handler asks for more; hyper's least is 8 kB.
const BUFFER: usize = 64 * 1024;

/// Connections of the workbench and of phones, at most.
const WORKBENCH: u64 = 1_024;
const PHONES: u64 = 512;

/// Open files that are no connections of ours: the database, rehearsal rooms and their drivers, files.
const OTHER_FILES: u64 = 256;

/// How many connections are refused with time to read it; more get their answer and are closed at once.
const REFUSALS: usize = 64;

/// Time for a refusal to be read.
const REFUSAL_TIME: Duration = Duration::from_millis(500);

/// What both listeners take, within the open files that the system lets this process have: its limit is raised as
/// far as it goes first.
pub fn limits() -> (Limits, Limits) {
    let files = rlimit::increase_nofile_limit(u64::MAX).unwrap_or(WORKBENCH);
    share(files)
}

/// Two thirds for the workbench, one third for phones, where there is not enough for both.
fn share(files: u64) -> (Limits, Limits) {
    let free = files.saturating_sub(OTHER_FILES).max(24);
    let limits = |most: u64, share: u64| Limits {
        connections: usize::try_from(most.min(share)).unwrap_or(24),
        header: HEADER_TIME,
        write: WRITE_TIME,
    };
    (limits(WORKBENCH, free * 2 / 3), limits(PHONES, free / 3))
}

/// Serves until `stop` resolves, then lets what is under way end.
pub async fn serve(listener: TcpListener, router: Router, limits: Limits, stop: impl Future<Output = ()>) {
    // A router that lacks no state is cheap to clone: it is one pointer.
    let service = TowerToHyperService::new(router);
    let room = Arc::new(Semaphore::new(limits.connections));
    let refusals = Arc::new(Semaphore::new(REFUSALS));
    let graceful = GracefulShutdown::new();
    let mut stop = pin!(stop);
    let mut http = http1::Builder::new();
    http.timer(TokioTimer::new()).header_read_timeout(limits.header).max_buf_size(BUFFER).half_close(false);
    loop {
        let accepted = tokio::select! {
            accepted = listener.accept() => accepted,
            () = &mut stop => break,
        };
        let stream = match accepted {
            Ok((stream, _)) => stream,
            Err(error) => {
                // Out of files, or the other side is gone already: what comes next may be served.
                tracing::warn!(%error, "a connection could not be taken");
                tokio::time::sleep(Duration::from_millis(20)).await;
                continue;
            }
        };
        let Ok(place) = room.clone().try_acquire_owned() else {
            let turn = refusals.clone().try_acquire_owned();
            refuse(stream, turn);
            continue;
        };
        let _ = stream.set_nodelay(true);
        let mut stream = TimeoutStream::new(stream);
        stream.set_write_timeout(Some(limits.write));
        let connection = graceful.watch(http.serve_connection(TokioIo::new(Box::pin(stream)), service.clone()));
        tokio::spawn(async move {
            if let Err(error) = connection.await {
                tracing::debug!(%error, "a connection ended");
            }
            drop(place);
        });
    }
    drop(listener);
    graceful.shutdown().await;
}

/// Says that there is no room, whatever was asked. It is short enough for the buffer of any socket, so writing it
/// does not wait.
fn refuse(stream: TcpStream, turn: Result<OwnedSemaphorePermit, TryAcquireError>) {
    let detail = "Too many connections are open. Close pages of this house that nobody uses, or try again in a minute.";
    let problem = crate::problem::Problem::new(axum::http::StatusCode::SERVICE_UNAVAILABLE, "crowded", detail);
    let body = serde_json::to_string(&problem).unwrap_or_default();
    let answer = format!(
        "HTTP/1.1 503 Service Unavailable\r\ncontent-type: application/problem+json\r\ncontent-length: {}\r\n\
         retry-after: 20\r\nconnection: close\r\n\r\n{body}",
        body.len()
    );
    let said = stream.into_std().and_then(|mut stream| {
        stream.write_all(answer.as_bytes())?;
        stream.shutdown(std::net::Shutdown::Write)?;
        Ok(stream)
    });
    let (Ok(stream), Ok(turn)) = (said, turn) else { return };
    tokio::spawn(async move {
        // What was asked is read away: closing a connection with something unread would take the answer back.
        let _ = tokio::time::timeout(REFUSAL_TIME, read_away(stream)).await;
        drop(turn);
    });
}

async fn read_away(stream: std::net::TcpStream) -> std::io::Result<()> {
    let mut stream = TcpStream::from_std(stream)?;
    let mut away = [0; 1024];
    while stream.read(&mut away).await? > 0 {}
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use axum::routing::get;
    use rstest::rstest;
    use std::net::SocketAddr;
    use tokio::io::AsyncWriteExt;

    #[rstest]
    #[case::plenty(1_048_576, 1_024, 512)]
    #[case::a_common_hard_limit(4_096, 1_024, 512)]
    #[case::no_more_than_the_usual(1_024, 512, 256)]
    #[case::hardly_any(100, 16, 8)]
    fn connections_fit_into_the_open_files(#[case] files: u64, #[case] workbench: usize, #[case] phones: usize) {
        let (own, theirs) = share(files);
        assert_eq!((own.connections, theirs.connections), (workbench, phones));
    }

    /// A listener for so many connections, with a header time in ms, and a route that answers.
    async fn listening(connections: usize, header_ms: u64) -> SocketAddr {
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let address = listener.local_addr().unwrap();
        let router = Router::new().route("/", get(|| async { "here" }));
        let limits =
            Limits { connections, header: Duration::from_millis(header_ms), write: Duration::from_millis(header_ms) };
        tokio::spawn(serve(listener, router, limits, std::future::pending()));
        address
    }

    const ASK: &[u8] = b"GET / HTTP/1.1\r\nhost: x\r\nconnection: close\r\n\r\n";

    async fn answer(mut stream: TcpStream) -> String {
        let mut text = String::new();
        stream.read_to_string(&mut text).await.unwrap();
        text
    }

    async fn ask(address: SocketAddr) -> String {
        let mut stream = TcpStream::connect(address).await.unwrap();
        stream.write_all(ASK).await.unwrap();
        answer(stream).await
    }

    #[tokio::test]
    async fn one_connection_too_many_is_refused_in_a_sentence_and_taken_once_another_one_ends() {
        let address = listening(2, 60_000).await;
        let first = TcpStream::connect(address).await.unwrap();
        let mut second = TcpStream::connect(address).await.unwrap();
        // The second has been taken once it is answered, and is kept open.
        second.write_all(b"GET / HTTP/1.1\r\nhost: x\r\n\r\n").await.unwrap();
        let mut status = [0; 15];
        second.read_exact(&mut status).await.unwrap();
        assert_eq!(&status, b"HTTP/1.1 200 OK");
        let refused = ask(address).await;
        assert!(refused.starts_with("HTTP/1.1 503"), "{refused}");
        assert!(refused.contains("application/problem+json") && refused.contains("Too many connections"), "{refused}");
        drop(first);
        // The server sees that it is gone before it can serve another one: ask until it has.
        loop {
            let answered = ask(address).await;
            if answered.contains("here") {
                break;
            }
            tokio::task::yield_now().await;
        }
    }

    #[rstest]
    #[case::idle(b"")]
    #[case::half_a_header(b"GET / HTTP/1.1\r\nhost:")]
    #[tokio::test]
    async fn a_connection_that_sends_no_request_in_time_is_closed(#[case] sent: &[u8]) {
        let address = listening(1, 50).await;
        let mut slow = TcpStream::connect(address).await.unwrap();
        slow.write_all(sent).await.unwrap();
        // Ends only when the server closes it.
        let _ = answer(slow).await;
        assert!(ask(address).await.contains("here"));
    }

    #[tokio::test]
    async fn a_connection_that_stays_open_after_its_answer_is_closed_in_time() {
        let address = listening(1, 50).await;
        let mut kept = TcpStream::connect(address).await.unwrap();
        kept.write_all(b"GET / HTTP/1.1\r\nhost: x\r\n\r\n").await.unwrap();
        assert!(answer(kept).await.ends_with("here"));
        assert!(ask(address).await.contains("here"));
    }

    #[tokio::test]
    async fn a_header_without_end_is_refused() {
        let address = listening(1, 60_000).await;
        let mut stream = TcpStream::connect(address).await.unwrap();
        let _ = stream.write_all(format!("GET / HTTP/1.1\r\nx: {}", "a".repeat(2 * BUFFER)).as_bytes()).await;
        let mut text = String::new();
        let _ = stream.read_to_string(&mut text).await;
        assert!(text.is_empty() || text.starts_with("HTTP/1.1 431"), "{text}");
        assert!(ask(address).await.contains("here"));
    }
}
