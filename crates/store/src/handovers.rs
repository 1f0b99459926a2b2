//! Handovers: the house and its papers as they were, numbered and dated, kept unchanged.

use crate::schema::handover;
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::RunQueryDsl;
use kestrel_core::file;
use kestrel_core::id::{HouseId, RoomId};
use kestrel_core::model::Site;
use serde::Serialize;
use serde_json::Value;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// A handover, without its papers.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Handover {
    /// Counts up from 1, in the house.
    pub number: i32,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// Who handed over.
    pub who: String,
    /// The revision of the house then.
    pub revision: i64,
    /// What was said.
    pub note: String,
    /// The rooms that were handed over; all of them, if none.
    pub rooms: Vec<RoomId>,
    /// Its papers, by name.
    pub papers: Vec<String>,
}

/// What is kept of a handover.
#[derive(Debug, Clone, Copy)]
pub struct NewHandover<'a> {
    /// The next free number.
    pub number: i32,
    /// Who hands over.
    pub who: &'a str,
    /// The revision of the house.
    pub revision: i64,
    /// What is said.
    pub note: &'a str,
    /// The rooms; all of them, if none.
    pub rooms: &'a [RoomId],
    /// The house.
    pub site: &'a Site,
    /// Its papers, by name.
    pub papers: &'a BTreeMap<String, String>,
}

type Row = (i32, DateTime<Utc>, String, i64, String, Value, Value);

fn told((number, at, who, revision, note, rooms, papers): Row) -> Handover {
    let rooms = serde_json::from_value(rooms).unwrap_or_default();
    let names = papers.as_object().map(|own| own.keys().cloned().collect()).unwrap_or_default();
    Handover { number, at, who, revision, note, rooms, papers: names }
}

impl Store {
    /// The handovers of a house, the newest first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn handovers(&self, house: HouseId) -> Result<Vec<Handover>, StoreError> {
        let mut conn = self.connection().await?;
        let rows: Vec<Row> = handover::table
            .filter(handover::house_id.eq(house.0))
            .order(handover::number.desc())
            .select((
                handover::number,
                handover::at,
                handover::who,
                handover::revision,
                handover::note,
                handover::rooms,
                handover::papers,
            ))
            .load(&mut conn)
            .await?;
        Ok(rows.into_iter().map(told).collect())
    }

    /// The number of the last handover of a room, and the revision of the house then.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn last_handover(&self, house: HouseId, room: RoomId) -> Result<Option<(i32, i64)>, StoreError> {
        let mut conn = self.connection().await?;
        let all: Vec<(i32, i64, Value)> = handover::table
            .filter(handover::house_id.eq(house.0))
            .order(handover::number.desc())
            .select((handover::number, handover::revision, handover::rooms))
            .load(&mut conn)
            .await?;
        let of_room = |rooms: &Value| {
            let rooms: Vec<RoomId> = serde_json::from_value(rooms.clone()).unwrap_or_default();
            rooms.is_empty() || rooms.contains(&room)
        };
        Ok(all.into_iter().find(|(_, _, rooms)| of_room(rooms)).map(|(number, revision, _)| (number, revision)))
    }

    /// Keeps a handover under the next free number, which is the one that its papers name. False where somebody else has
    /// taken that number meanwhile.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn hand_over(&self, house: HouseId, new: &NewHandover<'_>) -> Result<bool, StoreError> {
        let mut conn = self.connection().await?;
        let values = (
            handover::house_id.eq(house.0),
            handover::number.eq(new.number),
            handover::at.eq(Utc::now()),
            handover::who.eq(new.who),
            handover::revision.eq(new.revision),
            handover::note.eq(new.note),
            handover::rooms.eq(serde_json::to_value(new.rooms)?),
            handover::site.eq(file::write(new.site)),
            handover::papers.eq(serde_json::to_value(new.papers)?),
        );
        let done =
            diesel::insert_into(handover::table).values(values).on_conflict_do_nothing().execute(&mut conn).await?;
        Ok(done > 0)
    }

    /// The house as it was handed over; none where there is no such handover.
    ///
    /// # Errors
    /// Where it cannot be read.
    pub async fn handed_over(&self, house: HouseId, number: i32) -> Result<Option<Site>, StoreError> {
        let mut conn = self.connection().await?;
        let text: Option<String> =
            handover::table.find((house.0, number)).select(handover::site).first(&mut conn).await.optional()?;
        let read = |text: String| file::read(&text).map_err(|error| StoreError::Unreadable(error.to_string()));
        text.map(read).transpose()
    }

    /// A paper of a handover, as it was.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn paper(&self, house: HouseId, number: i32, name: &str) -> Result<Option<String>, StoreError> {
        let mut conn = self.connection().await?;
        let papers: Option<Value> =
            handover::table.find((house.0, number)).select(handover::papers).first(&mut conn).await.optional()?;
        Ok(papers.and_then(|papers| Some(papers.get(name)?.as_str()?.to_owned())))
    }
}
