//! Protocols that people describe: looked at while they are typed, proposed from captures, listed with their fields. They are
//! kept and taken out by edits, as everything of a house.

use crate::houses::Houses;
use crate::problem::{Body, Path, Problem};
use crate::work::FILES;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use kestrel_core::id::{DescribedProtocolId, HouseId};
use kestrel_signal::exchange;
use kestrel_signal::propose::{Proposal, propose};
use kestrel_signal::protocol::described::{Looked, look_at};
use kestrel_signal::protocol::{DescribedId, ProtocolId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A description to be looked at.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ProtocolLookRequest {
    /// What it is to be called.
    name: String,
    /// The description, in IRP.
    irp: String,
}

/// What a description says, or where it goes wrong.
#[derive(Debug, Serialize, ToSchema)]
pub struct ProtocolLook {
    /// What it says; none where it is no description.
    looked: Option<Looked>,
    /// What is wrong with it.
    problem: Option<String>,
    /// Where that is, in characters from 0.
    at: Option<usize>,
}

/// Looks at a description while it is typed; keeps nothing.
#[utoipa::path(
    post, path = "/api/protocols/look", tag = "codes", request_body = ProtocolLookRequest,
    responses((status = 200, body = ProtocolLook))
)]
pub async fn look_at_protocol(Body(request): Body<ProtocolLookRequest>) -> Result<Json<ProtocolLook>, Problem> {
    let looked = FILES.run(move || look_at(&request.name, &request.irp)).await?;
    Ok(Json(match looked {
        Ok(looked) => ProtocolLook { looked: Some(looked), problem: None, at: None },
        Err(why) => ProtocolLook { looked: None, problem: Some(why.to_string()), at: why.at },
    }))
}

/// Captures of different keys of one remote.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ProposeRequest {
    /// Each as text, in any form in which captures are read.
    captures: Vec<String>,
}

/// So many captures are taken at most.
const CAPTURES_MOST: usize = 40;

/// Proposes a description of what no protocol fits, from three or more captures of different keys.
#[utoipa::path(
    post, path = "/api/protocols/propose", tag = "codes", request_body = ProposeRequest,
    responses(
        (status = 200, body = Proposal),
        (status = 422, description = "Which capture cannot be read, or why nothing can be proposed.", body = Problem),
    )
)]
pub async fn propose_protocol(Body(request): Body<ProposeRequest>) -> Result<Json<Proposal>, Problem> {
    let refused = |why: String| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "no-proposal", why);
    if request.captures.len() > CAPTURES_MOST {
        return Err(refused(format!("At most {CAPTURES_MOST} captures are compared. Choose some.")));
    }
    let found = FILES.run(move || {
        let mut captures = Vec::new();
        for (at, text) in request.captures.iter().enumerate() {
            let parsed = exchange::capture(text.as_bytes(), None);
            captures.push(parsed.map_err(|why| refused(format!("Capture {}: {why}", at + 1)))?.capture);
        }
        propose(&captures).map_err(|why| refused(why.to_string()))
    });
    found.await.and_then(|found| found).map(Json)
}

/// A protocol that is read in a house besides those that are built in.
#[derive(Debug, Serialize, ToSchema)]
pub struct ProtocolView {
    /// Its id; none where only codes bring it with them.
    id: Option<DescribedProtocolId>,
    /// Its name.
    name: String,
    /// Its description, in IRP.
    irp: String,
    /// Where it is from.
    note: String,
    /// How its messages name it.
    written: String,
    /// What it says.
    looked: Looked,
    /// How many codes are made of it.
    codes: usize,
}

/// The protocols that were described in a house, and those that its codes bring with them.
#[utoipa::path(
    get, path = "/api/houses/{house}/protocols", tag = "codes", params(("house" = HouseId, Path)),
    responses((status = 200, body = Vec<ProtocolView>), (status = 404, body = Problem))
)]
pub async fn protocols(
    State(houses): State<Houses>,
    Path(house): Path<HouseId>,
) -> Result<Json<Vec<ProtocolView>>, Problem> {
    let site = houses.snapshot(house).await?.site.clone();
    let all = FILES.run(move || {
        let known = site.protocols_read();
        let described = known.iter().filter_map(|own| match own.id {
            ProtocolId::Described(id) => Some(id),
            ProtocolId::BuiltIn(_) => None,
        });
        let view = |own: DescribedId| {
            let looked = look_at(own.name(), own.irp()).ok()?;
            let kept = site.protocols.iter().find(|known| known.name == own.name() && known.irp == own.irp());
            Some(ProtocolView {
                id: kept.map(|kept| kept.id),
                name: own.name().to_owned(),
                irp: own.irp().to_owned(),
                note: kept.map(|kept| kept.note.clone()).unwrap_or_default(),
                written: ProtocolId::Described(own).written().into_owned(),
                looked,
                codes: site.codes.iter().filter(|code| code.body.is_of(ProtocolId::Described(own))).count(),
            })
        };
        described.filter_map(view).collect::<Vec<_>>()
    });
    Ok(Json(all.await?))
}
