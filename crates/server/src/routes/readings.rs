//! Reading captures.

use crate::houses::Houses;

use crate::problem::{Path, Problem, Query, Raw};
use crate::work::FILES;
use axum::Json;
use axum::extract::State;
use kestrel_core::id::{CodeId, HouseId};
use kestrel_core::model::Code;
use kestrel_core::plan::press_of;
use kestrel_signal::radio::{self, RadioReading};
use kestrel_signal::{Capture, Protocols, Reading, exchange, read_among, text};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// What was pasted, as a capture, and what it says.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ReadText {
    /// `pulse-space`, `signed`, `csv` or `vcd`.
    pub format: String,
    /// What had to be assumed or joined.
    pub remarks: Vec<String>,
    /// The capture.
    pub capture: Capture,
    /// What it says as infrared.
    pub reading: Reading,
    /// What it says as a fixed radio code, where it is no infrared.
    pub radio: Option<RadioReading>,
}

/// The protocols that are read with: of a house, or those that are built in.
pub(super) async fn protocols_of(houses: &Houses, house: Option<HouseId>) -> Result<Protocols, Problem> {
    let Some(house) = house else { return Ok(Protocols::built_in().clone()) };
    let site = houses.snapshot(house).await?.site.clone();
    FILES.run(move || site.protocols_read()).await
}

/// A fixed radio code, where infrared explains nothing.
fn as_radio(capture: &Capture, reading: &Reading) -> Option<RadioReading> {
    if reading.best.is_some() { None } else { radio::read(capture).ok() }
}

/// Which signal of a file with several.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SignalQuery {
    /// Its name.
    signal: Option<String>,
    /// The house whose protocols are tried besides those that are built in.
    house: Option<HouseId>,
}

/// Reads a capture: pulse/space text, signed text, a CSV of durations or a VCD, at most 1 MB. A VCD with
/// several signals asks which (`choose-signal`).
#[utoipa::path(
    post, path = "/api/readings", tag = "codes", params(SignalQuery),
    request_body(content = String, content_type = "text/plain"),
    responses(
        (status = 200, body = ReadText),
        (status = 413, description = "Too long.", body = Problem),
        (status = 422, description = "Not a capture, with the line.", body = Problem),
    )
)]
pub async fn read_text(
    State(houses): State<Houses>,
    Query(query): Query<SignalQuery>,
    Raw(bytes): Raw,
) -> Result<Json<ReadText>, Problem> {
    let known = protocols_of(&houses, query.house).await?;
    let read = FILES.run(move || {
        let parsed = exchange::capture(&bytes, query.signal.as_deref())?;
        let reading = read_among(&parsed.capture, &known);
        let radio = as_radio(&parsed.capture, &reading);
        let format = parsed.format.to_owned();
        Ok(ReadText { format, remarks: parsed.remarks, capture: parsed.capture, reading, radio })
    });
    read.await?.map(Json)
}

/// A stored code with its reading.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ReadCode {
    /// The code.
    pub code: Code,
    /// The timing as signed text; none where the code has none.
    pub text: Option<String>,
    /// Is the reading that of a capture, or of the timing that would be sent?
    pub captured: bool,
    /// What it says as infrared; none where the code has no timing.
    pub reading: Option<Reading>,
    /// What it says as a fixed radio code, where it is no infrared.
    pub radio: Option<RadioReading>,
}

/// A stored code: what it says, over its capture or over the timing that is sent.
#[utoipa::path(
    get, path = "/api/houses/{house}/codes/{code}", tag = "codes",
    params(("house" = HouseId, Path), ("code" = CodeId, Path)),
    responses((status = 200, body = ReadCode), (status = 404, body = Problem))
)]
pub async fn read_code(
    State(houses): State<Houses>,
    Path((house, code)): Path<(HouseId, CodeId)>,
) -> Result<Json<ReadCode>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let code = snapshot.site.codes.iter().find(|known| known.id == code).cloned();
    let code = code.ok_or_else(|| Problem::not_found("This code was removed. Undo brings it back."))?;
    let capture = code.captured.clone().or_else(|| {
        let (press, frames) = press_of(&snapshot.site, code.device, code.function);
        Capture::new(code.body.send_us(press, frames), None).ok()
    });
    let known = snapshot.site.protocols_read();
    let reading = capture.as_ref().map(|capture| read_among(capture, &known));
    let radio = capture.as_ref().zip(reading.as_ref()).and_then(|(capture, reading)| as_radio(capture, reading));
    let text = capture.as_ref().map(|capture| text::to_signed(capture.durations_us()));
    Ok(Json(ReadCode { captured: code.captured.is_some(), text, reading, radio, code }))
}
