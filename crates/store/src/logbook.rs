//! Lines of the logbook that no edit makes: visits, notes, calls, tests of a visit. Facts beside the house, never undone.

use crate::history::ChangeRow;
use crate::kept;
use crate::schema::{change, visit};
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::RunQueryDsl;
use kestrel_core::id::{DeviceId, HouseId, PhotoId, RoomId};
use kestrel_core::model::Site;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// What a line is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[schema(as = LogbookKind)]
pub enum VisitKind {
    /// Somebody was in the house.
    Visit,
    /// Something worth keeping.
    Note,
    /// The telephone rang.
    Call,
    /// Tests were done.
    Tests,
    /// The house was handed over.
    Handover,
}

impl VisitKind {
    const ALL: [Self; 5] = [Self::Visit, Self::Note, Self::Call, Self::Tests, Self::Handover];

    /// Its word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Visit => "visit",
            Self::Note => "note",
            Self::Call => "call",
            Self::Tests => "tests",
            Self::Handover => "handover",
        }
    }
}

/// What is written down.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize, ToSchema)]
#[schema(as = LogbookNote)]
pub struct NewVisit {
    /// What it is.
    pub kind: VisitKind,
    /// In which room; none for the house.
    #[serde(default)]
    pub room: Option<RoomId>,
    /// About which device.
    #[serde(default)]
    pub device: Option<DeviceId>,
    /// What happened (1 to 4,000 characters).
    pub text: String,
    /// A photo that was kept.
    #[serde(default)]
    pub photo: Option<PhotoId>,
    /// How long it took, in minutes (0 to 6,000).
    #[serde(default)]
    pub minutes: Option<i32>,
}

/// A line of the logbook that no edit made.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = LogbookVisit)]
pub struct Visit {
    /// Its id.
    pub id: Uuid,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// What it is.
    pub kind: VisitKind,
    /// Who.
    pub who: String,
    /// In which room.
    pub room: Option<RoomId>,
    /// About which device.
    pub device: Option<DeviceId>,
    /// What happened.
    pub text: String,
    /// A photo of it.
    pub photo: Option<PhotoId>,
    /// How long it took, in minutes.
    pub minutes: Option<i32>,
}

/// Lines that are told at once.
const MOST: i64 = 2_000;

type Row = (Uuid, DateTime<Utc>, String, String, Option<Uuid>, Option<Uuid>, String, Option<Uuid>, Option<i32>);

fn told((id, at, kind, who, room, device, text, photo, minutes): Row) -> Result<Visit, StoreError> {
    let known = VisitKind::ALL.into_iter().find(|own| own.word() == kind);
    Ok(Visit {
        id,
        at,
        kind: known.ok_or(StoreError::Unreadable(kind))?,
        who,
        room: room.map(Into::into),
        device: device.map(Into::into),
        text,
        photo: photo.map(Into::into),
        minutes,
    })
}

impl Store {
    /// When somebody was last in each house.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn last_visits(&self) -> Result<BTreeMap<HouseId, DateTime<Utc>>, StoreError> {
        let mut conn = self.connection().await?;
        let rows: Vec<(Uuid, Option<DateTime<Utc>>)> = visit::table
            .filter(visit::kind.eq(VisitKind::Visit.word()))
            .group_by(visit::house_id)
            .select((visit::house_id, diesel::dsl::max(visit::at)))
            .load(&mut conn)
            .await?;
        Ok(rows.into_iter().filter_map(|(house, at)| Some((house.into(), at?))).collect())
    }

    /// Writes a line into the logbook.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn note(&self, house: HouseId, who: &str, new: &NewVisit) -> Result<Uuid, StoreError> {
        self.revision(house).await?;
        let mut conn = self.connection().await?;
        let id = Uuid::now_v7();
        let values = (
            visit::house_id.eq(house.0),
            visit::id.eq(id),
            visit::at.eq(Utc::now()),
            visit::kind.eq(new.kind.word()),
            visit::who.eq(who),
            visit::room_id.eq(new.room.map(|room| room.0)),
            visit::device_id.eq(new.device.map(|device| device.0)),
            visit::text.eq(&new.text),
            visit::photo_id.eq(new.photo.map(|photo| photo.0)),
            visit::minutes.eq(new.minutes),
        );
        diesel::insert_into(visit::table).values(values).execute(&mut conn).await?;
        Ok(id)
    }

    /// The house as it was at a revision: every line of the history since is taken back, the newest first. None where the
    /// house has never had that revision.
    ///
    /// # Errors
    /// Where the history cannot be read, or was written by a later version of the program.
    pub async fn as_it_was(&self, house: HouseId, revision: i64) -> Result<Option<Site>, StoreError> {
        let now = self.load(house).await?;
        if !(0..=now.revision).contains(&revision) {
            return Ok(None);
        }
        let mut conn = self.connection().await?;
        let rows: Vec<ChangeRow> = change::table
            .filter(change::house_id.eq(house.0))
            .filter(change::revision.gt(revision))
            .filter(change::revision.le(now.revision))
            .order(change::revision.desc())
            .select(ChangeRow::as_select())
            .load(&mut conn)
            .await?;
        let mut site = (*now.site).clone();
        for row in rows {
            if row.format > kestrel_core::upgrade::VERSION {
                let what = "a later version of this program has changed this house since: take that version to go back";
                return Err(StoreError::Unreadable(what.to_owned()));
            }
            let kept = row.kept(&now.site)?;
            if let Err(key) = kept::again(&mut site, &kept, false)? {
                let what = format!("revision {}, {} {}", row.revision, key.kind.word(), key.id);
                return Err(StoreError::Unreadable(what));
            }
        }
        Ok(Some(site))
    }

    /// The lines that no edit made, the newest first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn visits(&self, house: HouseId) -> Result<Vec<Visit>, StoreError> {
        let mut conn = self.connection().await?;
        let rows: Vec<Row> = visit::table
            .filter(visit::house_id.eq(house.0))
            .order((visit::at.desc(), visit::id.desc()))
            .limit(MOST)
            .select((
                visit::id,
                visit::at,
                visit::kind,
                visit::who,
                visit::room_id,
                visit::device_id,
                visit::text,
                visit::photo_id,
                visit::minutes,
            ))
            .load(&mut conn)
            .await?;
        rows.into_iter().map(told).collect()
    }
}
