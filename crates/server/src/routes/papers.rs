//! Papers, handovers, and what has changed since.

use super::proofs::matrix_of;
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem, Query};
use crate::work::{FILES, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, header};
use axum::response::{IntoResponse, Response};
use jiff::Zoned;
use kestrel_core::commission::list;
use kestrel_core::compare::{HouseDifference, compare};
use kestrel_core::id::{HouseId, RoomId, SurfaceId};
use kestrel_core::model::{Secrets, Site, leaving};
use kestrel_core::papers::{self, Chapter, Links, Made, OrderLine, RoomPart};
use kestrel_core::prove::Matrix;
use kestrel_store::{Amiss, Handover, NewHandover, NewVisit, Snapshot, VisitKind};
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};

/// Which paper, of what.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PaperQuery {
    /// Only this room; all rooms, if none.
    #[serde(default)]
    room: Option<RoomId>,
    /// Chapters that are left out, joined by commas.
    #[serde(default)]
    without: String,
    /// Keys, passwords and accounts are in it, too.
    #[serde(default)]
    secrets: bool,
    /// From a handover, as it was then.
    #[serde(default)]
    handover: Option<i32>,
    /// Save it as a file.
    #[serde(default)]
    save: bool,
}

/// What a room needs on paper.
struct Worked {
    room: RoomId,
    matrix: Arc<Matrix>,
    calls: [u32; 3],
}

async fn worked(houses: &Houses, house: HouseId, site: &Site, room: Option<RoomId>) -> Result<Vec<Worked>, Problem> {
    let calls = houses.store().calls(house).await?;
    let mut all = Vec::new();
    for own in site.rooms.iter().filter(|own| room.is_none_or(|room| room == own.id)) {
        let count = |what: &[Amiss]| {
            let own = calls.iter().filter(|call| call.room == own.id && what.contains(&call.what)).count();
            u32::try_from(own).unwrap_or(u32::MAX)
        };
        let calls = [count(&[Amiss::NoPicture]), count(&[Amiss::NoSound]), count(&[Amiss::Light])];
        all.push(Worked { room: own.id, matrix: matrix_of(houses, house, own.id).await?, calls });
    }
    if all.is_empty() {
        return Err(Problem::not_found("There is no such room in this house. Choose one from the list."));
    }
    Ok(all)
}

/// Where phones open the surfaces of a house: only where something stays to serve them.
async fn links(houses: &Houses, house: HouseId, site: &Site) -> Result<Links, Problem> {
    let Some(stays) = &site.house.stays else { return Ok(Links::new()) };
    let mut links: BTreeMap<SurfaceId, String> = BTreeMap::new();
    for room in site.rooms.iter() {
        for link in houses.store().links(house, room.id).await? {
            links.entry(link.surface).or_insert_with(|| format!("http://{stays}/s/{}", link.token));
        }
    }
    Ok(links)
}

fn made(revision: i64, handover: Option<i32>) -> Made {
    let now = Zoned::now();
    Made { date: now.strftime("%-d %B %Y").to_string(), revision, handover }
}

fn chapters(without: &str) -> Vec<Chapter> {
    let out: Vec<&str> = without.split(',').map(str::trim).collect();
    let word = |chapter: &Chapter| serde_json::to_value(chapter).ok().and_then(|own| own.as_str().map(str::to_owned));
    Chapter::ALL.into_iter().filter(|own| !word(own).is_some_and(|word| out.contains(&word.as_str()))).collect()
}

/// The as-built record of some rooms.
async fn record_of(
    houses: &Houses,
    house: HouseId,
    snapshot: &Arc<Snapshot>,
    rooms: Vec<Worked>,
    chapters: Vec<Chapter>,
    secrets: bool,
    made: Made,
) -> Result<String, Problem> {
    let (houses, snapshot) = (houses.clone(), snapshot.clone());
    let text = FILES.run(move || {
        let site = &snapshot.site;
        let parts: Vec<_> = rooms
            .iter()
            .map(|own| {
                let runs = houses.runs((house, own.room), site);
                let tests = list(site, own.room, &runs);
                let findings = houses.notes((house, own.room), site).findings.clone();
                (own, runs, tests, findings)
            })
            .collect();
        let parts: Vec<RoomPart<'_>> = parts
            .iter()
            .map(|(own, runs, tests, findings)| RoomPart { room: own.room, matrix: &own.matrix, runs, tests, findings })
            .collect();
        papers::record(site, &parts, &chapters, secrets, &made)
    });
    text.await
}

fn client_of(site: &Site, rooms: &[Worked], links: &Links, made: &Made) -> String {
    let rooms: Vec<_> = rooms.iter().map(|own| (own.room, &*own.matrix, own.calls)).collect();
    papers::client(site, &rooms, links, made)
}

/// A paper: `record` (as built), `client` (for the family) or `orders`. One HTML document that needs nothing else and prints
/// on A4.
#[utoipa::path(
    get, path = "/api/houses/{house}/papers/{paper}", tag = "handover",
    params(("house" = HouseId, Path), ("paper" = String, Path), PaperQuery),
    responses(
        (status = 200, content_type = "text/html", body = String),
        (status = 404, body = Problem), (status = 409, body = Problem),
    )
)]
pub async fn paper(
    State(houses): State<Houses>,
    Path((house, paper)): Path<(HouseId, String)>,
    Query(query): Query<PaperQuery>,
) -> Result<Response, Problem> {
    let none = || Problem::not_found("There is no such paper. There are: record, client, orders.");
    let snapshot = houses.snapshot(house).await?;
    if let Some(number) = query.handover {
        let kept = houses.store().paper(house, number, &paper).await?;
        return Ok(shown(&paper, kept.ok_or_else(none)?, query.save));
    }
    let made = made(snapshot.revision, None);
    let html = match paper.as_str() {
        "record" => {
            let rooms = worked(&houses, house, &snapshot.site, query.room).await?;
            record_of(&houses, house, &snapshot, rooms, chapters(&query.without), query.secrets, made).await?
        }
        "client" => {
            let rooms = worked(&houses, house, &snapshot.site, query.room).await?;
            let links = links(&houses, house, &snapshot.site).await?;
            client_of(&snapshot.site, &rooms, &links, &made)
        }
        "orders" => papers::orders_html(&snapshot.site, &made),
        _ => return Err(none()),
    };
    Ok(shown(&paper, html, query.save))
}

/// A document of ours: nothing in it may run.
fn shown(name: &str, html: String, save: bool) -> Response {
    let how = if save { "attachment" } else { "inline" };
    let headers = [
        (header::CONTENT_TYPE, "text/html; charset=utf-8".to_owned()),
        (header::CONTENT_DISPOSITION, format!("{how}; filename=\"{name}.html\"")),
    ];
    (headers, html).into_response()
}

/// What is missing in the house: what was written down, and what the house asks for.
#[utoipa::path(
    get, path = "/api/houses/{house}/orders", tag = "handover", params(("house" = HouseId, Path)),
    responses((status = 200, body = Vec<OrderLine>), (status = 404, body = Problem))
)]
pub async fn order_list(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
) -> Result<Json<Vec<OrderLine>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    Ok(Json(papers::orders(&snapshot.site, None)))
}

/// What is said with a handover.
#[derive(Debug, Deserialize, ToSchema)]
pub struct HandoverRequest {
    /// Anything worth keeping (up to 2,000 characters).
    #[serde(default)]
    note: String,
    /// The rooms that are handed over; all of them, if none.
    #[serde(default)]
    rooms: Vec<RoomId>,
}

/// The handovers of a house, the newest first.
#[utoipa::path(
    get, path = "/api/houses/{house}/handovers", tag = "handover", params(("house" = HouseId, Path)),
    responses((status = 200, body = Vec<Handover>), (status = 404, body = Problem))
)]
pub async fn handovers(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
) -> Result<Json<Vec<Handover>>, Problem> {
    houses.store().revision(house).await?;
    Ok(Json(houses.store().handovers(house).await?))
}

/// Hands the house over: its site file, results and papers as they are, under the next number, kept unchanged. Keys,
/// passwords and accounts are not in it.
#[utoipa::path(
    post, path = "/api/houses/{house}/handovers", tag = "handover", params(("house" = HouseId, Path)),
    request_body = HandoverRequest,
    responses((status = 200, body = Handover), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem))
)]
pub async fn hand_over(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    headers: HeaderMap,
    Body(request): Body<HandoverRequest>,
) -> Result<Json<Handover>, Problem> {
    if request.note.chars().count() > 2_000 {
        return Err(Problem::refused("The note has more than 2,000 characters. Shorten it."));
    }
    let who = super::who(&headers).name;
    let number = keep_handover(&houses, house, &who, &request.note, &request.rooms).await?;
    let all = houses.store().handovers(house).await?;
    let own = all.into_iter().find(|own| own.number == number);
    own.map(Json).ok_or_else(|| Problem::not_found("The handover is not there any more."))
}

/// Keeps a handover of a house as it stands.
async fn keep_handover(
    houses: &Houses,
    house: HouseId,
    who: &str,
    note: &str,
    only: &[RoomId],
) -> Result<i32, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let mut rooms = worked(houses, house, &snapshot.site, None).await?;
    rooms.retain(|own| only.is_empty() || only.contains(&own.room));
    if rooms.is_empty() {
        return Err(Problem::refused("None of these rooms is in the house. Choose a room that is there."));
    }
    let links = links(houses, house, &snapshot.site).await?;
    // The number is known only when it is kept; papers are made for the one that comes next.
    let next = houses.store().handovers(house).await?.first().map_or(1, |own| own.number + 1);
    let made = made(snapshot.revision, Some(next));
    let client = client_of(&snapshot.site, &rooms, &links, &made);
    let orders = papers::orders_html(&snapshot.site, &made);
    let record = record_of(houses, house, &snapshot, rooms, Chapter::ALL.to_vec(), false, made).await?;
    let site = leaving(&snapshot.site, Secrets::LeftOut);
    let papers =
        BTreeMap::from([("record".to_owned(), record), ("client".to_owned(), client), ("orders".to_owned(), orders)]);
    let new =
        NewHandover { number: next, who, revision: snapshot.revision, note, rooms: only, site: &site, papers: &papers };
    if !houses.store().hand_over(house, &new).await? {
        let detail =
            "Somebody else has handed this house over in this moment. Look at that handover, and hand over again.";
        return Err(Problem::new(axum::http::StatusCode::CONFLICT, "taken", detail));
    }
    let number = next;
    let text = if note.is_empty() { format!("Handover {number}") } else { format!("Handover {number}: {note}") };
    let line = NewVisit { kind: VisitKind::Handover, room: None, device: None, text, photo: None, minutes: None };
    houses.store().note(house, who, &line).await?;
    Ok(number)
}

/// Which two states are compared.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct CompareQuery {
    /// The number of a handover.
    from: i32,
    /// The number of another one; today, if none.
    #[serde(default)]
    to: Option<i32>,
}

/// What differs between a handover and another one, or today, in sentences.
#[utoipa::path(
    get, path = "/api/houses/{house}/compare", tag = "handover", params(("house" = HouseId, Path), CompareQuery),
    responses((status = 200, body = Vec<HouseDifference>), (status = 404, body = Problem))
)]
pub async fn compared(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
    Query(query): Query<CompareQuery>,
) -> Result<Json<Vec<HouseDifference>>, Problem> {
    let snapshot = houses.snapshot(house).await?;
    let of = async |number: i32| {
        let site = houses.store().handed_over(house, number).await?;
        site.ok_or_else(|| Problem::not_found("There is no handover of this number. Choose one from the list."))
    };
    let before = of(query.from).await?;
    let after = match query.to {
        Some(number) => of(number).await?,
        None => leaving(&snapshot.site, Secrets::LeftOut),
    };
    Ok(Json(SOON.run(move || compare(&before, &after)).await?))
}
