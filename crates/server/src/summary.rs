//! What the shelf says of a house: worked out in the background, kept as of a revision, and shown until a newer one is
//! there.

use crate::houses::Houses;
use crate::problem::Problem;
use crate::work::SHELF;
use kestrel_core::id::HouseId;
use kestrel_core::model::Room;
use kestrel_core::summary::{RoomSummary, Summary};
use std::collections::BTreeSet;
use std::time::Duration;
use tokio::sync::broadcast::error::RecvError;

/// How long a house is left alone after an edit before it is summed up: somebody is typing.
const CALM: Duration = Duration::from_millis(1_500);

/// Sums a house up as it stands and keeps that.
///
/// # Errors
/// Where there is no such house, or the database fails.
pub async fn of(houses: &Houses, house: HouseId) -> Result<(i64, Summary), Problem> {
    let snapshot = houses.snapshot(house).await?;
    let (own, site) = (houses.clone(), snapshot.site.clone());
    let site_of = site.clone();
    let said = move |room: &Room| RoomSummary::of(room, &own.notes((house, room.id), &site_of));
    let summary = SHELF.run(move || Summary::of(site.rooms.iter().map(said).collect())).await?;
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

/// A summary as it was kept; none where an older version of this program said less in it.
pub fn kept((as_of, body): (i64, serde_json::Value)) -> Option<(i64, Summary)> {
    serde_json::from_value(body).ok().map(|summary| (as_of, summary))
}

/// Houses of which nothing is known as they stand.
async fn behind(houses: &Houses) -> BTreeSet<HouseId> {
    let shelf = houses.store().shelf().await.unwrap_or_default();
    let behind = shelf.into_iter().filter(|house| {
        let known = house.summary.clone().and_then(kept);
        house.removed_at.is_none() && known.is_none_or(|(as_of, _)| as_of != house.revision)
    });
    behind.map(|house| house.id).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn a_summary_of_an_older_version_is_made_anew() {
        let site = kestrel_core::demo::marram_point();
        let rooms = site.rooms.iter().map(|room| RoomSummary::of(room, &kestrel_core::check::room(&site, room.id)));
        let summary = Summary::of(rooms.take(1).collect());
        let mut body = serde_json::to_value(&summary).unwrap();
        assert_eq!(kept((7, body.clone())), Some((7, summary)));
        body["stages"].as_object_mut().unwrap().remove("rehearse");
        assert_eq!(kept((7, body)), None);
        assert_eq!(kept((7, json!({}))), None);
    }
}
