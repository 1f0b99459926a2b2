//! What the shelf says of a house: worked out in the background, kept as of a revision, and shown until a newer one is
//! there.

use crate::houses::Houses;
use crate::problem::Problem;
use crate::work::SHELF;
use kestrel_core::check::{Notes, Share};
use kestrel_core::finding::Weight;
use kestrel_core::id::{HouseId, RoomId};
use kestrel_core::next::NextStep;
use serde::Serialize;
use std::collections::BTreeSet;
use std::sync::Arc;
use std::time::Duration;
use tokio::sync::broadcast::error::RecvError;
use utoipa::ToSchema;

/// How long a house is left alone after an edit before it is summed up: somebody is typing.
const CALM: Duration = Duration::from_millis(1_500);

/// How far the work is, stage by stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Stages {
    /// Devices without a finding that stops them.
    pub kit: Share,
    /// Functions with a code.
    pub codes: Share,
    /// Plans that can be sent.
    pub sequences: Share,
    /// Lines of the cue sheet about which there is nothing to say.
    pub cues: Share,
    /// Surfaces about which there is nothing to say but remarks.
    pub surfaces: Share,
}

/// The worst that there is to mend. Hazards to people are no faults of the work, and stand in the margin of their room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Worst {
    /// How much it matters.
    pub weight: Weight,
    /// In a word or two.
    pub title: String,
    /// In a sentence.
    pub text: String,
    /// How many there are that matter as much, this one among them.
    pub count: usize,
}

/// What is said of a room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RoomSummary {
    /// Which.
    pub id: RoomId,
    /// Its name.
    pub name: String,
    /// How far the work is.
    pub stages: Stages,
    /// The worst that there is to mend; none where there is nothing.
    pub worst: Option<Worst>,
    /// What comes next in a young room.
    pub next: Option<NextStep>,
}

/// What is said of a house.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Summary {
    /// Its rooms, in order.
    pub rooms: Vec<RoomSummary>,
    /// How far the work is in all of them.
    pub stages: Stages,
    /// The worst that there is to mend, and where.
    pub worst: Option<Worst>,
    /// The room of the worst.
    pub worst_room: Option<RoomId>,
}

fn worst(notes: &Notes) -> Option<Worst> {
    let open = || notes.findings.iter().filter(|finding| finding.accepted.is_none());
    let of = |weight: Weight| open().filter(move |finding| finding.weight == weight);
    let first = of(Weight::Stops).chain(of(Weight::Caution)).next()?;
    Some(Worst {
        weight: first.weight,
        title: first.title.clone(),
        text: first.text.clone(),
        count: of(first.weight).count(),
    })
}

fn stages(notes: &Notes) -> Stages {
    let Notes { kit, codes, sequences, cues, surfaces, .. } = *notes;
    Stages { kit, codes, sequences, cues, surfaces }
}

fn sum<'a>(rooms: impl Iterator<Item = &'a Stages> + Clone) -> Stages {
    let of = |pick: fn(&Stages) -> Share| {
        rooms.clone().map(pick).fold(Share { done: 0, total: 0 }, |sum, own| Share {
            done: sum.done + own.done,
            total: sum.total + own.total,
        })
    };
    Stages {
        kit: of(|own| own.kit),
        codes: of(|own| own.codes),
        sequences: of(|own| own.sequences),
        cues: of(|own| own.cues),
        surfaces: of(|own| own.surfaces),
    }
}

/// Sums a house up as it stands and keeps that.
///
/// # Errors
/// Where there is no such house, or the database fails.
pub async fn of(houses: &Houses, house: HouseId) -> Result<(i64, Summary), Problem> {
    let snapshot = houses.snapshot(house).await?;
    let (own, site) = (houses.clone(), snapshot.site.clone());
    let rooms = SHELF.run(move || {
        let said = |room: &kestrel_core::model::Room| {
            let notes: Arc<Notes> = own.notes((house, room.id), &site);
            RoomSummary {
                id: room.id,
                name: room.name.clone(),
                stages: stages(&notes),
                worst: worst(&notes),
                next: notes.next.clone(),
            }
        };
        site.rooms.iter().map(said).collect::<Vec<RoomSummary>>()
    });
    let rooms = rooms.await?;
    let first =
        rooms.iter().filter(|room| room.worst.is_some()).min_by_key(|room| room.worst.as_ref().map(|w| w.weight));
    let (worst, worst_room) = (first.and_then(|room| room.worst.clone()), first.map(|room| room.id));
    let worst = worst.map(|worst| Worst {
        count: rooms
            .iter()
            .filter_map(|room| room.worst.as_ref())
            .filter(|w| w.weight == worst.weight)
            .map(|w| w.count)
            .sum(),
        ..worst
    });
    let summary = Summary { stages: sum(rooms.iter().map(|room| &room.stages)), rooms, worst, worst_room };
    let body = serde_json::to_value(&summary).map_err(kestrel_store::StoreError::from)?;
    houses.store().keep_summary(house, snapshot.revision, body).await?;
    Ok((snapshot.revision, summary))
}

/// Sums up every house of which nothing is known as it stands, and from then on each that is edited. Ends with the server.
pub async fn keep_up(houses: Houses) {
    let (mut edits, mut comers) = (houses.edits(), houses.comers());
    let mut waiting: BTreeSet<HouseId> = behind(&houses).await;
    loop {
        let next = async {
            tokio::select! {
                edited = edits.recv() => edited.map(|edited| edited.changed.house),
                new = comers.recv() => new,
            }
        };
        // While somebody is typing there is nothing to sum up.
        let calm = if waiting.is_empty() { Duration::MAX } else { CALM };
        match tokio::time::timeout(calm, next).await.ok() {
            Some(Ok(house)) => {
                waiting.insert(house);
            }
            Some(Err(RecvError::Lagged(_))) => waiting.extend(behind(&houses).await),
            Some(Err(RecvError::Closed)) => return,
            None => {
                for house in std::mem::take(&mut waiting) {
                    if let Err(problem) = of(&houses, house).await {
                        tracing::debug!(?problem, "a house could not be summed up");
                    }
                }
            }
        }
    }
}

/// Houses of which nothing is known as they stand.
async fn behind(houses: &Houses) -> BTreeSet<HouseId> {
    let shelf = houses.store().shelf().await.unwrap_or_default();
    let behind = shelf.into_iter().filter(|house| {
        house.removed_at.is_none() && house.summary.as_ref().is_none_or(|(as_of, _)| *as_of != house.revision)
    });
    behind.map(|house| house.id).collect()
}
