//! Calls of the household: something is not right, said on a surface. Facts beside the house, never undone.

use crate::schema::service_call;
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::RunQueryDsl;
use kestrel_core::id::{HouseId, RoomId};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// What somebody says is wrong.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Amiss {
    /// No picture.
    NoPicture,
    /// No sound.
    NoSound,
    /// Too dark, or too bright.
    Light,
    /// Something else.
    Else,
}

impl Amiss {
    fn name(self) -> &'static str {
        match self {
            Self::NoPicture => "no-picture",
            Self::NoSound => "no-sound",
            Self::Light => "light",
            Self::Else => "else",
        }
    }

    fn parse(name: &str) -> Result<Self, StoreError> {
        let known =
            [Self::NoPicture, Self::NoSound, Self::Light, Self::Else].into_iter().find(|own| own.name() == name);
        known.ok_or_else(|| StoreError::Unreadable(name.to_owned()))
    }
}

/// A call of the household.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ServiceCall {
    /// Its id.
    pub id: Uuid,
    /// From which room.
    pub room: RoomId,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// What is wrong.
    pub what: Amiss,
    /// Whose surface said so.
    pub said_by: String,
    /// What the room was in then, what was believed and seen of its devices, and what had been sent: as sentences.
    pub facts: Facts,
    /// When it was closed, in UTC; none while it is open.
    pub closed_at: Option<DateTime<Utc>>,
    /// What it was.
    pub outcome: String,
}

/// How the room stood when somebody called.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Facts {
    /// What the room was taken for.
    pub taken_for: String,
    /// What was believed of each device.
    pub believed: Vec<String>,
    /// What each device had told of itself.
    pub seen: Vec<String>,
    /// What was sent last, the newest last.
    pub sent: Vec<String>,
}

type Row = (Uuid, Uuid, DateTime<Utc>, String, String, serde_json::Value, Option<DateTime<Utc>>, String);

fn call((id, room, at, what, said_by, facts, closed_at, outcome): Row) -> Result<ServiceCall, StoreError> {
    let facts = serde_json::from_value(facts)?;
    Ok(ServiceCall { id, room: room.into(), at, what: Amiss::parse(&what)?, said_by, facts, closed_at, outcome })
}

/// Calls that are told at once.
const MOST: i64 = 200;

impl Store {
    /// Keeps a call.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn keep_call(
        &self,
        house: HouseId,
        room: RoomId,
        what: Amiss,
        said_by: &str,
        facts: &Facts,
    ) -> Result<Uuid, StoreError> {
        let mut conn = self.connection().await?;
        let id = Uuid::now_v7();
        let values = (
            service_call::house_id.eq(house.0),
            service_call::id.eq(id),
            service_call::room_id.eq(room.0),
            service_call::what.eq(what.name()),
            service_call::said_by.eq(said_by),
            service_call::facts.eq(serde_json::to_value(facts)?),
        );
        diesel::insert_into(service_call::table).values(values).execute(&mut conn).await?;
        Ok(id)
    }

    /// The calls of a house, the open ones first, the newest first among them.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn calls(&self, house: HouseId) -> Result<Vec<ServiceCall>, StoreError> {
        let mut conn = self.connection().await?;
        let columns = (
            service_call::id,
            service_call::room_id,
            service_call::at,
            service_call::what,
            service_call::said_by,
            service_call::facts,
            service_call::closed_at,
            service_call::outcome,
        );
        let rows: Vec<Row> = service_call::table
            .filter(service_call::house_id.eq(house.0))
            .order((service_call::closed_at.is_not_null(), service_call::at.desc()))
            .limit(MOST)
            .select(columns)
            .load(&mut conn)
            .await?;
        rows.into_iter().map(call).collect()
    }

    /// Closes a call with what it was. False where there is no such open call.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn close_call(&self, house: HouseId, id: Uuid, outcome: &str) -> Result<bool, StoreError> {
        let mut conn = self.connection().await?;
        let open = service_call::table.find((house.0, id)).filter(service_call::closed_at.is_null());
        let values = (service_call::closed_at.eq(Utc::now()), service_call::outcome.eq(outcome));
        Ok(diesel::update(open).set(values).execute(&mut conn).await? > 0)
    }

    /// How many calls are open, by house.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn open_calls(&self) -> Result<BTreeMap<HouseId, i64>, StoreError> {
        let mut conn = self.connection().await?;
        let rows: Vec<(Uuid, i64)> = service_call::table
            .filter(service_call::closed_at.is_null())
            .group_by(service_call::house_id)
            .select((service_call::house_id, diesel::dsl::count_star()))
            .load(&mut conn)
            .await?;
        Ok(rows.into_iter().map(|(house, many)| (house.into(), many)).collect())
    }
}
