//! Signing in from the network of the house, signing out, and who is signed in.

use crate::guard::{COOKIE, cookie_of};
use crate::houses::Houses;
use crate::password;
use crate::problem::{Body, Path, Problem};
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use kestrel_store::Session;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// A password.
#[derive(Deserialize, ToSchema)]
pub struct SignIn {
    /// As it was set with `kestrel-dune password`.
    password: String,
}

/// Whether one has to sign in here.
#[derive(Debug, Serialize, ToSchema)]
pub struct SessionView {
    /// Is this browser signed in, with a session of its own?
    signed_in: bool,
    /// Everybody who is signed in from the network of the house.
    sessions: Vec<Session>,
}

/// Signs in: a session in a cookie that scripts cannot read.
#[utoipa::path(
    post, path = "/api/session", tag = "session", request_body = SignIn,
    responses(
        (status = 204, description = "Signed in."),
        (status = 401, description = "The password is wrong.", body = Problem),
        (status = 429, description = "Too many were tried.", body = Problem),
    )
)]
pub async fn sign_in(
    State(houses): State<Houses>,
    headers: HeaderMap,
    Body(asked): Body<SignIn>,
) -> Result<Response, Problem> {
    if !password::tried(houses.tries(), houses.store(), asked.password).await? {
        let detail = "The password is wrong. It was set with: kestrel-dune password";
        return Err(Problem::new(StatusCode::UNAUTHORIZED, "password", detail));
    }
    let (secret, digest) = password::fresh();
    let label = headers.get(header::USER_AGENT).and_then(|own| own.to_str().ok()).unwrap_or("a browser");
    houses.store().sign_in(&digest, label).await?;
    let cookie = format!("{COOKIE}={secret}; Path=/; HttpOnly; SameSite=Strict; Max-Age=2592000");
    Ok((StatusCode::NO_CONTENT, [(header::SET_COOKIE, cookie)]).into_response())
}

/// Signs this browser out.
#[utoipa::path(delete, path = "/api/session", tag = "session", responses((status = 204)))]
pub async fn sign_out(State(houses): State<Houses>, headers: HeaderMap) -> Result<Response, Problem> {
    if let Some(secret) = cookie_of(&headers)
        && let Some(id) = houses.store().session(&password::digest(&secret)).await?
    {
        houses.store().sign_out(Some(id)).await?;
    }
    let cookie = format!("{COOKIE}=; Path=/; HttpOnly; SameSite=Strict; Max-Age=0");
    Ok((StatusCode::NO_CONTENT, [(header::SET_COOKIE, cookie)]).into_response())
}

/// Who is signed in.
#[utoipa::path(get, path = "/api/session", tag = "session", responses((status = 200, body = SessionView)))]
pub async fn session(State(houses): State<Houses>, headers: HeaderMap) -> Result<Json<SessionView>, Problem> {
    let own = match cookie_of(&headers) {
        Some(secret) => houses.store().session(&password::digest(&secret)).await?,
        None => None,
    };
    Ok(Json(SessionView { signed_in: own.is_some(), sessions: houses.store().sessions().await? }))
}

/// Ends a session.
#[utoipa::path(
    delete, path = "/api/sessions/{id}", tag = "session", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem))
)]
pub async fn end_session(State(houses): State<Houses>, Path(id): Path<Uuid>) -> Result<StatusCode, Problem> {
    if houses.store().sign_out(Some(id)).await? == 0 {
        return Err(Problem::not_found("That session has ended already."));
    }
    Ok(StatusCode::NO_CONTENT)
}
