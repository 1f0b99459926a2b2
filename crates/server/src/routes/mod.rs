//! The HTTP interface, described once: `/api/openapi.json` is made from these functions.

mod cues;
mod described;
mod evenings;
mod exchange;
mod finding;
mod houses;
mod kit;
mod learning;
mod live;
mod logbook;
mod papers;
mod plans;
mod proofs;
mod protocols;
mod readings;
mod rehearsals;
mod replacing;
mod righting;
mod rules;
mod service;
mod session;
mod shelf;
mod space;
mod surfaces;
mod visit;

#[cfg(test)]
pub use evenings::TrialView;

use crate::houses::{Houses, Who};
use crate::problem::Problem;
use axum::Router;
use axum::body::Body;
use axum::extract::State;
use axum::http::{HeaderMap, Response, StatusCode};
use axum::response::IntoResponse;
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

#[derive(OpenApi)]
#[openapi(
    info(
        title = "Kestrel Dune",
        description = "The workbench of a home cinema and AV control programmer. Durations end in _us or _ms, \
                       levels in _percent. Errors are problem details (RFC 9457).",
        license(name = "MIT OR Apache-2.0")
    ),
    components(schemas(
        crate::routes::shelf::Taking,
        crate::views::Edited,
        kestrel_core::codes::export::Format,
        kestrel_core::surface::engrave::Labels
    ))
)]
struct Description;

/// The routes and their description.
pub fn api() -> (Router<Houses>, serde_json::Value) {
    let (router, description) = OpenApiRouter::with_openapi(Description::openapi())
        .merge(of_shelf())
        .merge(of_houses())
        .merge(of_plans())
        .merge(of_rehearsals())
        .merge(of_cues_and_surfaces())
        .merge(of_kit_and_codes())
        .merge(of_handover())
        .split_for_parts();
    (router, described::complete(serde_json::to_value(description).unwrap_or_default()))
}

/// All houses: starting, copying, removing, files and backups.
fn of_shelf() -> OpenApiRouter<Houses> {
    OpenApiRouter::new()
        .routes(routes!(shelf::shelf))
        .routes(routes!(shelf::starting_points))
        .routes(routes!(shelf::house_summary))
        .routes(routes!(shelf::add_room))
        .routes(routes!(shelf::what_goes))
        .routes(routes!(shelf::remove_room))
        .routes(routes!(shelf::copy_house))
        .routes(routes!(shelf::demo_house))
        .routes(routes!(shelf::put_back))
        .routes(routes!(shelf::site_file))
        .routes(routes!(shelf::look_at_file))
        .routes(routes!(shelf::take_file))
        .routes(routes!(shelf::make_backup))
        .routes(routes!(shelf::look_at_backup))
        .routes(routes!(shelf::restore))
        .routes(routes!(shelf::set_daily))
}

/// A house, its edits and its history.
fn of_houses() -> OpenApiRouter<Houses> {
    OpenApiRouter::new()
        .routes(routes!(health))
        .routes(routes!(houses::list, shelf::start_house))
        .routes(routes!(houses::show, shelf::remove_house))
        .routes(routes!(houses::edit))
        .routes(routes!(houses::undo))
        .routes(routes!(houses::redo))
        .routes(routes!(houses::log))
        .routes(routes!(houses::events))
        .routes(routes!(houses::picture))
        .routes(routes!(houses::name_picture))
}

/// Readings, plans and proofs.
fn of_plans() -> OpenApiRouter<Houses> {
    OpenApiRouter::new()
        .routes(routes!(readings::read_text))
        .routes(routes!(readings::read_code))
        .routes(routes!(plans::notes))
        .routes(routes!(plans::plan))
        .routes(routes!(proofs::matrix))
        .routes(routes!(proofs::matrix_progress, proofs::cancel_matrix))
        .routes(routes!(proofs::cell))
        .routes(routes!(proofs::cell_remedies))
        .routes(routes!(proofs::other_hands))
        .routes(routes!(proofs::two_schools))
        .routes(routes!(proofs::diagnosis))
        .routes(routes!(proofs::activity_favourites))
        .routes(routes!(proofs::house_off))
        .routes(routes!(proofs::explore_device))
}

/// The rehearsal room: runs, hands, evenings, trials.
fn of_rehearsals() -> OpenApiRouter<Houses> {
    OpenApiRouter::new()
        .routes(routes!(rehearsals::rehearsal_view))
        .routes(routes!(rehearsals::events))
        .routes(routes!(rehearsals::run))
        .routes(routes!(rehearsals::stop))
        .routes(routes!(rehearsals::reset))
        .routes(routes!(rehearsals::rate))
        .routes(routes!(rehearsals::step))
        .routes(routes!(rehearsals::send))
        .routes(routes!(evenings::in_step))
        .routes(routes!(evenings::hand))
        .routes(routes!(evenings::fault))
        .routes(routes!(evenings::restart))
        .routes(routes!(evenings::complete))
        .routes(routes!(evenings::nudge))
        .routes(routes!(evenings::want))
        .routes(routes!(evenings::wire))
        .routes(routes!(evenings::record))
        .routes(routes!(evenings::keep))
        .routes(routes!(evenings::play, evenings::stop_playing))
        .routes(routes!(evenings::cell_counterexample))
        .routes(routes!(evenings::replay_stories))
        .routes(routes!(evenings::start_trials, evenings::trials, evenings::cancel_trials))
}

/// Cues, surfaces, links and spoken names.
fn of_cues_and_surfaces() -> OpenApiRouter<Houses> {
    OpenApiRouter::new()
        .routes(routes!(cues::sheet))
        .routes(routes!(cues::evening))
        .routes(routes!(cues::cue_calendar))
        .routes(routes!(cues::time))
        .routes(routes!(cues::mode_switch))
        .routes(routes!(surfaces::surface_sheet))
        .routes(routes!(surfaces::surface_keys))
        .routes(routes!(surfaces::generate_surface))
        .routes(routes!(surfaces::copy_page))
        .routes(routes!(surfaces::labels))
        .routes(routes!(surfaces::voice_sheet))
        .routes(routes!(surfaces::surface_links, surfaces::make_surface_link))
        .routes(routes!(surfaces::withdraw_surface_link))
        .routes(routes!(houses::name_sound))
        .routes(routes!(righting::calls))
        .routes(routes!(righting::close_call))
        .merge(live_routes())
}

/// Devices, learning, finding and exchanging codes.
fn of_kit_and_codes() -> OpenApiRouter<Houses> {
    OpenApiRouter::new()
        .routes(routes!(kit::advice))
        .routes(routes!(kit::remote))
        .routes(routes!(kit::models))
        .routes(routes!(rules::rules))
        .routes(routes!(kit::duplicate))
        .routes(routes!(replacing::preview))
        .routes(routes!(replacing::effect))
        .routes(routes!(replacing::replace))
        .routes(routes!(kit::keep_photo))
        .routes(routes!(kit::show_photo))
        .routes(routes!(kit::address_table))
        .routes(routes!(kit::record_table))
        .routes(routes!(kit::read_back))
        .routes(routes!(learning::learn))
        .routes(routes!(learning::sweep))
        .routes(routes!(learning::handset, learning::press_handset))
        .routes(routes!(learning::test))
        .routes(routes!(learning::try_code))
        .routes(routes!(learning::attempted, learning::attempts))
        .routes(routes!(finding::vocabulary))
        .routes(routes!(finding::code_sets))
        .routes(routes!(finding::presets))
        .routes(routes!(finding::keep_proven))
        .routes(routes!(finding::search))
        .routes(routes!(finding::twins))
        .routes(routes!(finding::combined))
        .routes(routes!(finding::payload))
        .routes(routes!(finding::command))
        .routes(routes!(finding::pjlink))
        .routes(routes!(exchange::look))
        .routes(routes!(exchange::carry_out))
        .routes(routes!(exchange::codes))
}

/// The visit: stopwatch, tests, papers, logbook, service call.
fn of_handover() -> OpenApiRouter<Houses> {
    OpenApiRouter::new()
        .routes(routes!(protocols::look_at_protocol))
        .routes(routes!(protocols::propose_protocol))
        .routes(routes!(protocols::protocols))
        .routes(routes!(space::room_reach))
        .routes(routes!(space::cheapest_gateways))
        .routes(routes!(space::gateways_progress))
        .routes(routes!(space::apply_gateways))
        .routes(routes!(space::room_picture))
        .routes(routes!(space::room_cables))
        .routes(routes!(visit::room_stopwatch))
        .routes(routes!(visit::keep_lap))
        .routes(routes!(visit::begin_lap))
        .routes(routes!(visit::stopwatch_effect))
        .routes(routes!(visit::take_readings))
        .routes(routes!(visit::gap_next))
        .routes(routes!(visit::gap_burst))
        .routes(routes!(visit::gap_numbers))
        .routes(routes!(visit::take_gap))
        .routes(routes!(visit::room_tests))
        .routes(routes!(visit::write_result))
        .routes(routes!(visit::rehearse_test))
        .routes(routes!(papers::paper))
        .routes(routes!(papers::order_list))
        .routes(routes!(papers::handovers, papers::hand_over))
        .routes(routes!(papers::compared))
        .routes(routes!(logbook::logbook, logbook::write_note))
        .routes(routes!(logbook::logbook_file))
        .routes(routes!(logbook::as_it_was))
        .routes(routes!(logbook::restore_as_it_was))
        .routes(routes!(service::weigh_call))
        .routes(routes!(service::write_call))
        .routes(routes!(session::session, session::sign_in, session::sign_out))
        .routes(routes!(session::end_session))
}

/// What a phone needs: a surface behind a link that nobody can guess, and nothing else.
fn live_routes() -> OpenApiRouter<Houses> {
    OpenApiRouter::new()
        .routes(routes!(live::live))
        .routes(routes!(live::live_events))
        .routes(routes!(live::live_press))
        .routes(routes!(live::live_dim))
        .routes(routes!(live::live_store))
        .routes(routes!(live::live_manifest))
        .routes(routes!(live::live_picture))
        .routes(routes!(righting::live_not_right))
        .routes(routes!(righting::live_put_right))
        .routes(routes!(righting::live_stop))
        .routes(routes!(righting::live_soon))
}

/// The same without its description, for the address that phones can reach.
pub fn for_phones() -> Router<Houses> {
    live_routes().split_for_parts().0
}

/// The rules as the page ships with them.
pub fn rules_json() -> Result<String, String> {
    serde_json::to_string_pretty(&rules::all()).map_err(|error| error.to_string())
}

/// The description as it is kept in docs/.
pub fn openapi_json() -> Result<String, String> {
    serde_json::to_string_pretty(&api().1).map_err(|error| error.to_string())
}

/// Is the server up, and does its database answer?
#[utoipa::path(get, path = "/healthz", responses(
    (status = 200, description = "Both do.", body = String),
    (status = 503, description = "The database does not answer.", body = Problem),
))]
async fn health(State(houses): State<Houses>) -> Result<&'static str, Problem> {
    houses.store().ping().await?;
    Ok("ok")
}

/// The address exists, the method does not.
pub async fn wrong_method() -> Problem {
    Problem::new(StatusCode::METHOD_NOT_ALLOWED, "method", "This address does not take that method.")
}

/// A bug: the request fails, the server goes on.
pub fn panicked(_: Box<dyn std::any::Any + Send>) -> Response<Body> {
    let detail = "Something in the server went wrong. Nothing was saved; try again.";
    Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "internal", detail).into_response()
}

/// A text as a file to save; the header `kestrel-left-out` counts what it cannot hold.
fn download(name: &str, media_type: &str, text: String, left_out: usize) -> Result<Response<Body>, Problem> {
    let headers = [
        (axum::http::header::CONTENT_TYPE.as_str(), media_type.to_owned()),
        (axum::http::header::CONTENT_DISPOSITION.as_str(), format!("attachment; filename=\"{name}\"")),
        ("kestrel-left-out", left_out.to_string()),
    ];
    Ok((headers, text).into_response())
}

/// A table as a CSV file to save.
fn csv_file<E: std::fmt::Display>(name: &str, text: Result<String, E>) -> Result<Response<Body>, Problem> {
    let text = text.map_err(|error| {
        Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "export", format!("The file failed: {error}."))
    })?;
    download(name, "text/csv; charset=utf-8", text, 0)
}

/// Who asks: the name that the page was given, for the log.
fn who(headers: &HeaderMap) -> Who {
    let text = |name: &str| headers.get(name).and_then(|value| value.to_str().ok()).unwrap_or("").trim();
    // A name in any script travels percent-encoded (RFC 3986).
    let name = percent_encoding::percent_decode_str(text("kestrel-who")).decode_utf8_lossy();
    let name = name.trim();
    Who {
        name: if name.is_empty() {
            "someone".to_owned()
        } else {
            name.chars().filter(|c| !c.is_control()).take(80).collect()
        },
        page: text("kestrel-page").chars().take(80).collect(),
        request: text("kestrel-request").parse().ok(),
        client: false,
    }
}
