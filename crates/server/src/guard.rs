//! What keeps other pages and other hosts out: the server is for this machine only.

use crate::problem::Problem;
use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderName, HeaderValue, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use std::sync::Arc;

/// The origins from which the page may come, such as `http://127.0.0.1:7310`.
#[derive(Clone)]
pub struct Allowed(Arc<Vec<String>>);

impl Allowed {
    /// Loopback under its three names at `port`, and an extra origin for development.
    pub fn new(port: u16, extra: Option<String>) -> Self {
        let own = ["127.0.0.1", "localhost", "[::1]"].map(|host| format!("http://{host}:{port}"));
        Self(Arc::new(own.into_iter().chain(extra).collect()))
    }

    fn host(&self, host: &str) -> bool {
        self.0.iter().any(|origin| origin.strip_prefix("http://") == Some(host))
    }

    fn origin(&self, origin: &str) -> bool {
        self.0.iter().any(|allowed| allowed == origin)
    }
}

/// Refuses requests that name another host (a page elsewhere that rebinds its name to loopback), and
/// changes that another page asks for.
pub async fn admit(State(allowed): State<Allowed>, request: Request, next: Next) -> Response {
    let text =
        |headers: &HeaderMap, name: HeaderName| headers.get(name).and_then(|v| v.to_str().ok()).map(str::to_owned);
    let host = text(request.headers(), header::HOST).or_else(|| request.uri().authority().map(ToString::to_string));
    if !host.is_some_and(|host| allowed.host(&host)) {
        let detail = "This server answers only to 127.0.0.1 and localhost. Open the address that it printed.";
        return Problem::new(StatusCode::MISDIRECTED_REQUEST, "host", detail).into_response();
    }
    let reads = matches!(*request.method(), Method::GET | Method::HEAD | Method::OPTIONS);
    if !reads && text(request.headers(), header::ORIGIN).is_some_and(|origin| !allowed.origin(&origin)) {
        let detail = "Changes are taken only from this server's own page.";
        return Problem::new(StatusCode::FORBIDDEN, "origin", detail).into_response();
    }
    with_headers(next.run(request).await).await
}

/// An answer with what keeps other pages out of it.
pub async fn with_headers(mut response: Response) -> Response {
    let headers = response.headers_mut();
    for (name, value) in HEADERS {
        headers.insert(HeaderName::from_static(name), HeaderValue::from_static(value));
    }
    response
}

/// Styles may be inline: the primitives of the page set them; scripts may not.
const HEADERS: [(&str, &str); 7] = [
    (
        "content-security-policy",
        "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; media-src 'self' data:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
    ),
    ("x-content-type-options", "nosniff"),
    ("x-frame-options", "DENY"),
    ("referrer-policy", "no-referrer"),
    ("cross-origin-opener-policy", "same-origin"),
    ("cross-origin-resource-policy", "same-origin"),
    ("permissions-policy", "camera=(), microphone=(), geolocation=()"),
];
