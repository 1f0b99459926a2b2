//! Problem details (RFC 9457): every error on the wire has this shape.

use axum::Json;
use axum::extract::rejection::{BytesRejection, JsonRejection, PathRejection, QueryRejection};
use axum::extract::{FromRequest, FromRequestParts};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use kestrel_bench::rehearsal::RehearsalError;
use kestrel_signal::CaptureError;
use kestrel_signal::exchange::ExchangeError;
use kestrel_store::StoreError;
use serde::Serialize;
use std::time::Duration;
use utoipa::ToSchema;

/// What went wrong, for a program (`kind`, `status`) and for a person (`detail`).
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Problem {
    /// Always `about:blank`: the kind tells more.
    #[serde(rename = "type")]
    pub type_uri: &'static str,
    /// The status in words.
    pub title: &'static str,
    /// The HTTP status.
    pub status: u16,
    /// A word for programs: `stale`, `refused`, `not-found`, `bad-request`, `unreachable`, ….
    pub kind: &'static str,
    /// A sentence that says what happened and what to do.
    pub detail: String,
    /// The version that is there now, for `stale`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub version: Option<i64>,
    /// What to choose from, for `choose-signal`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub choices: Option<Box<[String]>>,
}

impl Problem {
    /// A problem.
    pub fn new(status: StatusCode, kind: &'static str, detail: impl Into<String>) -> Self {
        Self {
            type_uri: "about:blank",
            title: status.canonical_reason().unwrap_or("Error"),
            status: status.as_u16(),
            kind,
            detail: detail.into(),
            version: None,
            choices: None,
        }
    }

    /// Well-formed, and not possible; `why` says what to do.
    pub fn refused(why: impl Into<String>) -> Self {
        Self::new(StatusCode::UNPROCESSABLE_ENTITY, "refused", why)
    }

    /// Nothing of that name.
    pub fn not_found(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::NOT_FOUND, "not-found", detail)
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        (status, [(header::CONTENT_TYPE, "application/problem+json")], Json(self)).into_response()
    }
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        let detail = error.to_string();
        match error {
            StoreError::NoHouse => Self::not_found(detail),
            StoreError::Stale { version, .. } => {
                Self { version: Some(version), ..Self::new(StatusCode::CONFLICT, "stale", detail) }
            }
            StoreError::Overtaken { .. } => Self::new(StatusCode::CONFLICT, "overtaken", detail),
            StoreError::Tied => Self::new(StatusCode::CONFLICT, "tied", detail),
            StoreError::Exists | StoreError::Nothing(_) => Self::new(StatusCode::CONFLICT, "conflict", detail),
            StoreError::Refused(kestrel_core::edit::EditError::Gone) => Self::new(StatusCode::CONFLICT, "gone", detail),
            StoreError::Refused(_) | StoreError::Nul => Self::refused(detail),
            StoreError::Unknown(why) => {
                tracing::warn!(%why, "it is not known whether a change was saved");
                Self::new(StatusCode::SERVICE_UNAVAILABLE, "unknown", detail)
            }
            StoreError::Unreachable(why) => {
                tracing::warn!(%why, "the database cannot be reached");
                Self::new(StatusCode::SERVICE_UNAVAILABLE, "unreachable", detail)
            }
            StoreError::Unreadable(_) | StoreError::Database(_) => {
                tracing::error!(?error, "the store failed");
                Self::new(StatusCode::INTERNAL_SERVER_ERROR, "store", detail)
            }
        }
    }
}

impl From<CaptureError> for Problem {
    fn from(error: CaptureError) -> Self {
        let status = match error {
            CaptureError::TooLarge(_) => StatusCode::PAYLOAD_TOO_LARGE,
            _ => StatusCode::UNPROCESSABLE_ENTITY,
        };
        Self::new(status, "capture", error.to_string())
    }
}

impl From<ExchangeError> for Problem {
    fn from(error: ExchangeError) -> Self {
        let detail = error.to_string();
        match error {
            ExchangeError::Capture(error) => error.into(),
            ExchangeError::Signals(names) => Self {
                choices: Some(names.into()),
                ..Self::new(StatusCode::UNPROCESSABLE_ENTITY, "choose-signal", detail)
            },
            ExchangeError::Shape(_) => Self::new(StatusCode::UNPROCESSABLE_ENTITY, "capture", detail),
        }
    }
}

impl From<RehearsalError> for Problem {
    fn from(error: RehearsalError) -> Self {
        let detail = error.to_string();
        match error {
            RehearsalError::Socket(_) => Self::new(StatusCode::SERVICE_UNAVAILABLE, "socket", detail),
            RehearsalError::Driver(_) => Self::new(StatusCode::BAD_GATEWAY, "driver", detail),
            RehearsalError::NoCode { .. } => Self::new(StatusCode::UNPROCESSABLE_ENTITY, "no-code", detail),
            RehearsalError::Unsure(_) => Self::new(StatusCode::CONFLICT, "unsure", detail),
            RehearsalError::NotNow(_) | RehearsalError::Barred { .. } => {
                Self::new(StatusCode::UNPROCESSABLE_ENTITY, "not-now", detail)
            }
            RehearsalError::NotRunnable(_) => Self::new(StatusCode::UNPROCESSABLE_ENTITY, "not-runnable", detail),
            RehearsalError::NoDevice => Self::not_found(detail),
            RehearsalError::Handset(_) => Self::new(StatusCode::UNPROCESSABLE_ENTITY, "handset", detail),
            RehearsalError::NoFeedback(_) => Self::new(StatusCode::UNPROCESSABLE_ENTITY, "no-feedback", detail),
        }
    }
}

macro_rules! rejections {
    ($($rejection:ty),+) => {$(
        impl From<$rejection> for Problem {
            fn from(rejection: $rejection) -> Self {
                let status = rejection.status();
                if status == StatusCode::PAYLOAD_TOO_LARGE {
                    return Self::new(status, "too-large", "It is larger than 9 MB. Make it smaller, or send it in parts.");
                }
                Self::new(status, "bad-request", format!("The request cannot be read: {}.", rejection.body_text()))
            }
        }
    )+};
}

rejections!(JsonRejection, PathRejection, QueryRejection, BytesRejection);

/// How long a body may take, from its request on.
const BODY_TIME: Duration = Duration::from_secs(30);

/// What reads a body, within its time.
async fn in_time<T, E: Into<Problem>>(reading: impl Future<Output = Result<T, E>>) -> Result<T, Problem> {
    match tokio::time::timeout(BODY_TIME, reading).await {
        Ok(read) => read.map_err(Into::into),
        Err(_) => {
            let detail = format!("The request did not arrive within {} s. Send it again.", BODY_TIME.as_secs());
            Err(Problem::new(StatusCode::REQUEST_TIMEOUT, "slow", detail))
        }
    }
}

/// A JSON body; what is wrong with it is told as a problem.
pub struct Body<T>(pub T);

impl<T: serde::de::DeserializeOwned, S: Send + Sync> FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: axum::extract::Request, state: &S) -> Result<Self, Problem> {
        let Json(value) = in_time(Json::from_request(request, state)).await?;
        Ok(Self(value))
    }
}

/// Parts of the path; what is wrong with them is told as a problem.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(Problem))]
pub struct Path<T>(pub T);

/// The query; what is wrong with it is told as a problem.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(Problem))]
pub struct Query<T>(pub T);

/// A file of up to so many bytes; what is wrong with it is told as a problem.
pub struct Large<const MOST: usize>(pub axum::body::Bytes);

/// How long a file may take to arrive.
const FILE_TIME: Duration = Duration::from_secs(300);

impl<S: Send + Sync, const MOST: usize> FromRequest<S> for Large<MOST> {
    type Rejection = Problem;

    async fn from_request(request: axum::extract::Request, _: &S) -> Result<Self, Problem> {
        let too_large = || {
            let detail = format!("The file is larger than {} MB: is it the right one?", MOST / 1_000_000);
            Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", detail)
        };
        let told = request.headers().get(header::CONTENT_LENGTH).and_then(|text| text.to_str().ok());
        if told.and_then(|text| text.parse::<usize>().ok()).is_some_and(|length| length > MOST) {
            return Err(too_large());
        }
        match tokio::time::timeout(FILE_TIME, axum::body::to_bytes(request.into_body(), MOST)).await {
            Ok(Ok(bytes)) => Ok(Self(bytes)),
            Ok(Err(error)) if error.to_string().contains("length limit") => Err(too_large()),
            Ok(Err(error)) => {
                let detail = format!("The file did not arrive whole ({error}). Send it again.");
                Err(Problem::new(StatusCode::BAD_REQUEST, "bad-request", detail))
            }
            Err(_) => {
                let detail = format!("The file did not arrive within {} s. Send it again.", FILE_TIME.as_secs());
                Err(Problem::new(StatusCode::REQUEST_TIMEOUT, "slow", detail))
            }
        }
    }
}

/// Raw bytes; what is wrong with them is told as a problem.
pub struct Raw(pub axum::body::Bytes);

impl<S: Send + Sync> FromRequest<S> for Raw {
    type Rejection = Problem;

    async fn from_request(request: axum::extract::Request, state: &S) -> Result<Self, Problem> {
        Ok(Self(in_time(axum::body::Bytes::from_request(request, state)).await?))
    }
}
