//! What keeps other pages and other hosts out: the server is for this machine only, but where it was told to listen on the
//! network of the house; there it asks for a session.

use crate::houses::Houses;
use crate::password;
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

/// The cookie of a session.
pub const COOKIE: &str = "kestrel-session";

/// What the cookie of a session holds, where a request brings one.
pub fn cookie_of(headers: &HeaderMap) -> Option<String> {
    let all = headers.get_all(header::COOKIE).iter().filter_map(|own| own.to_str().ok());
    let mut parts = all.flat_map(|own| own.split(';')).filter_map(|part| part.trim().split_once('='));
    let secret = parts.find(|(name, _)| *name == COOKIE).map(|(_, value)| value.to_owned())?;
    (secret.len() == 64 && secret.bytes().all(|byte| byte.is_ascii_hexdigit())).then_some(secret)
}

/// May somebody ask for this without having signed in? The files of the page hold nothing of a house; links to surfaces
/// open by themselves.
fn is_open(method: &Method, path: &str) -> bool {
    match path {
        "/healthz" => true,
        "/api/session" => *method == Method::POST,
        path => !path.starts_with("/api/") || path.starts_with("/api/live/"),
    }
}

/// Refuses requests from the network of the house that bring no session, and changes that another page asks for.
pub async fn signed_in(State(houses): State<Houses>, request: Request, next: Next) -> Response {
    let headers = request.headers();
    let text = |name: HeaderName| headers.get(name).and_then(|own| own.to_str().ok()).map(str::to_owned);
    let reads = matches!(*request.method(), Method::GET | Method::HEAD | Method::OPTIONS);
    let host = text(header::HOST).or_else(|| request.uri().authority().map(ToString::to_string));
    if !reads && let Some(origin) = text(header::ORIGIN) {
        let own = host.is_some_and(|host| {
            origin.strip_prefix("http://").or_else(|| origin.strip_prefix("https://")) == Some(host.as_str())
        });
        if !own {
            let detail = "Changes are taken only from this server's own page.";
            return Problem::new(StatusCode::FORBIDDEN, "origin", detail).into_response();
        }
    }
    if !is_open(request.method(), request.uri().path()) {
        let known = match cookie_of(headers) {
            Some(secret) => houses.store().session(&password::digest(&secret)).await,
            None => Ok(None),
        };
        match known {
            Ok(Some(_)) => {}
            Ok(None) => {
                let detail = "Sign in first: this is the workbench of a house, reached over its network.";
                return with_headers(Problem::new(StatusCode::UNAUTHORIZED, "sign-in", detail).into_response()).await;
            }
            Err(error) => return Problem::from(error).into_response(),
        }
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
