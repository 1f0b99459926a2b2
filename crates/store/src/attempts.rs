//! What was tried to learn, test or find a code; and photos. Both are facts that are kept apart from the
//! house: they are not undone.

use crate::schema::{attempt, photo};
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::RunQueryDsl;
use kestrel_core::id::{AttemptId, DeviceId, FunctionId, HouseId, PhotoId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// What was tried.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum AttemptKind {
    /// To learn a key.
    Learn,
    /// To test a code.
    Test,
    /// To try a code of a set.
    Preset,
    /// To find a command that no key sends.
    Search,
}

impl AttemptKind {
    fn name(self) -> &'static str {
        match self {
            Self::Learn => "learn",
            Self::Test => "test",
            Self::Preset => "preset",
            Self::Search => "search",
        }
    }

    fn parse(name: &str) -> Result<Self, StoreError> {
        [Self::Learn, Self::Test, Self::Preset, Self::Search]
            .into_iter()
            .find(|kind| kind.name() == name)
            .ok_or_else(|| StoreError::Unreadable(name.to_owned()))
    }
}

/// An attempt to be written down.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NewAttempt {
    /// The device.
    pub device: DeviceId,
    /// The function, where it was about one.
    pub function: Option<FunctionId>,
    /// What was tried.
    pub what: AttemptKind,
    /// What came of it, in a word or two.
    pub outcome: String,
    /// What was sent or heard, in words.
    pub sent: Option<String>,
    /// Anything else.
    pub note: String,
}

/// An attempt.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Attempt {
    /// Its id.
    pub id: AttemptId,
    /// The device.
    pub device: DeviceId,
    /// The function, where it was about one.
    pub function: Option<FunctionId>,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// Who.
    pub who: String,
    /// What was tried.
    pub what: AttemptKind,
    /// What came of it, in a word or two.
    pub outcome: String,
    /// What was sent or heard, in words.
    pub sent: Option<String>,
    /// Anything else.
    pub note: String,
}

#[derive(Queryable, Selectable, Insertable)]
#[diesel(table_name = attempt, check_for_backend(diesel::pg::Pg))]
struct AttemptRow {
    id: Uuid,
    house_id: Uuid,
    device_id: Uuid,
    function_id: Option<Uuid>,
    at: DateTime<Utc>,
    who: String,
    what: String,
    outcome: String,
    sent: Option<String>,
    note: String,
}

impl AttemptRow {
    fn into_core(self) -> Result<Attempt, StoreError> {
        Ok(Attempt {
            id: self.id.into(),
            device: self.device_id.into(),
            function: self.function_id.map(Into::into),
            at: self.at,
            who: self.who,
            what: AttemptKind::parse(&self.what)?,
            outcome: self.outcome,
            sent: self.sent,
            note: self.note,
        })
    }
}

/// The most bytes of a photo.
pub const PHOTO_MAX: usize = 8_000_000;

impl Store {
    /// Writes an attempt down.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn attempted(&self, house: HouseId, who: &str, new: NewAttempt) -> Result<Attempt, StoreError> {
        let mut conn = self.connection().await?;
        let row = AttemptRow {
            id: Uuid::now_v7(),
            house_id: house.0,
            device_id: new.device.0,
            function_id: new.function.map(|id| id.0),
            at: Utc::now(),
            who: who.to_owned(),
            what: new.what.name().to_owned(),
            outcome: new.outcome,
            sent: new.sent,
            note: new.note,
        };
        diesel::insert_into(attempt::table).values(&row).execute(&mut conn).await?;
        row.into_core()
    }

    /// What was tried on a device (on one function of it, where that is named), the newest first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn attempts(
        &self,
        house: HouseId,
        device: DeviceId,
        function: Option<FunctionId>,
        limit: u32,
    ) -> Result<Vec<Attempt>, StoreError> {
        let mut conn = self.connection().await?;
        let mut query = attempt::table
            .filter(attempt::house_id.eq(house.0))
            .filter(attempt::device_id.eq(device.0))
            .order((attempt::at.desc(), attempt::id.desc()))
            .limit(i64::from(limit))
            .select(AttemptRow::as_select())
            .into_boxed();
        if let Some(function) = function {
            query = query.filter(attempt::function_id.eq(function.0));
        }
        let rows: Vec<AttemptRow> = query.load(&mut conn).await?;
        rows.into_iter().map(AttemptRow::into_core).collect()
    }

    /// Keeps a photo.
    ///
    /// # Errors
    /// [`StoreError::NoHouse`] where there is no such house.
    pub async fn add_photo(&self, house: HouseId, media_type: &str, bytes: Vec<u8>) -> Result<PhotoId, StoreError> {
        self.revision(house).await?;
        let mut conn = self.connection().await?;
        let id = Uuid::now_v7();
        let values =
            (photo::id.eq(id), photo::house_id.eq(house.0), photo::media_type.eq(media_type), photo::bytes.eq(bytes));
        diesel::insert_into(photo::table).values((values, photo::at.eq(Utc::now()))).execute(&mut conn).await?;
        Ok(id.into())
    }

    /// A photo: its media type and its bytes.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn photo(&self, house: HouseId, id: PhotoId) -> Result<Option<(String, Vec<u8>)>, StoreError> {
        let mut conn = self.connection().await?;
        let row = photo::table
            .filter(photo::house_id.eq(house.0))
            .filter(photo::id.eq(id.0))
            .select((photo::media_type, photo::bytes))
            .first(&mut conn)
            .await
            .optional()?;
        Ok(row)
    }
}
