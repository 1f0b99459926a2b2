//! The built page, embedded in the binary (read from disk in a debug build).

use crate::problem::Problem;
use axum::http::{StatusCode, Uri, header};
use axum::response::{Html, IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "$CARGO_MANIFEST_DIR/../../web/dist"]
struct Files;

const NOT_BUILT: &str = "<!doctype html><html lang=en><meta charset=utf-8><title>Kestrel Dune</title>\
<body style='font:16px/1.5 sans-serif;max-width:40em;margin:3em auto;padding:0 1em'><h1>The page is not built</h1>\
<p>This binary was built without its page. Run <code>./kestrel demo</code> in the repository, which builds both, \
or <code>npm ci</code> and <code>npm run build</code>, then build the binary again.</p>\
<p>The interface for programs works: <a href=/api/openapi.json>/api/openapi.json</a>.</p>";

/// The same for phones: nothing but surfaces and what they are made of.
pub async fn for_phones(uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    if path.starts_with("s/") || (path != "index.html" && Files::get(path).is_some()) {
        return serve(uri).await;
    }
    Problem::not_found("There is nothing at this address. Open the link that you were given.").into_response()
}

/// A file of the page, or the page itself for every address that the page routes on its own.
pub async fn serve(uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    if path == "api" || path.starts_with("api/") {
        return Problem::not_found("There is nothing at this address. /api/openapi.json lists what there is.")
            .into_response();
    }
    if let Some(file) = Files::get(path).filter(|_| path != "index.html") {
        let kind = mime_guess::from_path(path).first_or_octet_stream();
        // Names of assets carry a hash of what is in them.
        let cache = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
        let headers = [(header::CONTENT_TYPE, kind.as_ref()), (header::CACHE_CONTROL, cache)];
        return (headers, file.data.into_owned()).into_response();
    }
    if path.starts_with("assets/") {
        return Problem::not_found("There is no such file. Reload the page.").into_response();
    }
    match Files::get("index.html") {
        Some(index) => {
            let headers = [(header::CONTENT_TYPE, "text/html; charset=utf-8"), (header::CACHE_CONTROL, "no-cache")];
            (headers, index.data.into_owned()).into_response()
        }
        None => (StatusCode::OK, Html(NOT_BUILT)).into_response(),
    }
}
