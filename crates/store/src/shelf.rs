//! All houses of the practice: what is said of each, removing one and putting it back, and what belongs to the
//! installation.

use crate::house::{insert_house, write};
use crate::schema::{change, house, house_summary, setting};
use crate::{Store, StoreError};
use chrono::{DateTime, TimeDelta, Utc};
use diesel::prelude::*;
use diesel_async::{AsyncConnection, RunQueryDsl};
use kestrel_core::edit::copy;
use kestrel_core::id::HouseId;
use kestrel_core::model::{Site, entities};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::collections::HashMap;
use uuid::Uuid;

/// How long a removed house is kept.
pub const KEPT: TimeDelta = TimeDelta::days(30);

/// The longest name that a copy gets, in characters.
const NAME: usize = kestrel_core::model::NAME_MAX;

/// A house on the shelf.
#[derive(Debug, Clone, PartialEq)]
pub struct OnShelf {
    /// Its id.
    pub id: HouseId,
    /// The house itself, as it is kept.
    pub body: Value,
    /// Its name.
    pub name: String,
    /// How many changes there have been.
    pub revision: i64,
    /// When it was changed last, or made, in UTC.
    pub edited_at: DateTime<Utc>,
    /// When it was removed; none where it stands.
    pub removed_at: Option<DateTime<Utc>>,
    /// What is said of it, and as of which revision; none where that is still being worked out.
    pub summary: Option<(i64, Value)>,
}

impl Store {
    /// Every house, removed ones among them, by name.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn shelf(&self) -> Result<Vec<OnShelf>, StoreError> {
        type Row = (Uuid, String, i64, DateTime<Utc>, Option<DateTime<Utc>>, Value);
        let mut conn = self.connection().await?;
        let rows: Vec<Row> = house::table
            .order((house::name, house::id))
            .select((house::id, house::name, house::revision, house::created_at, house::removed_at, house::body))
            .load(&mut conn)
            .await?;
        let edited: Vec<(Uuid, Option<DateTime<Utc>>)> = change::table
            .group_by(change::house_id)
            .select((change::house_id, diesel::dsl::max(change::at)))
            .load(&mut conn)
            .await?;
        let edited: HashMap<Uuid, DateTime<Utc>> =
            edited.into_iter().filter_map(|(id, at)| at.map(|at| (id, at))).collect();
        let told: Vec<(Uuid, i64, Value)> = house_summary::table
            .select((house_summary::house_id, house_summary::revision, house_summary::body))
            .load(&mut conn)
            .await?;
        let mut told: HashMap<Uuid, (i64, Value)> =
            told.into_iter().map(|(id, revision, body)| (id, (revision, body))).collect();
        let line = |(id, name, revision, made, removed_at, body): Row| OnShelf {
            id: id.into(),
            name,
            body,
            revision,
            edited_at: edited.get(&id).copied().unwrap_or(made),
            removed_at,
            summary: told.remove(&id),
        };
        Ok(rows.into_iter().map(line).collect())
    }

    /// Keeps what is said of a house as of a revision, unless something newer is known.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn keep_summary(&self, id: HouseId, revision: i64, body: Value) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        let values =
            (house_summary::house_id.eq(id.0), house_summary::revision.eq(revision), house_summary::body.eq(&body));
        diesel::insert_into(house_summary::table)
            .values(values)
            .on_conflict(house_summary::house_id)
            .do_update()
            .set((house_summary::revision.eq(revision), house_summary::body.eq(&body)))
            .execute(&mut conn)
            .await?;
        Ok(())
    }

    /// Takes a house from the shelf; it is kept for [`KEPT`].
    ///
    /// # Errors
    /// [`StoreError::NoHouse`] where there is none.
    pub async fn remove_house(&self, id: HouseId) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        let there = house::table.filter(house::id.eq(id.0)).filter(house::removed_at.is_null());
        let gone = diesel::update(there).set(house::removed_at.eq(Utc::now())).execute(&mut conn).await?;
        self.forget(&[id]);
        if gone == 0 { Err(StoreError::NoHouse) } else { Ok(()) }
    }

    /// Puts a removed house back.
    ///
    /// # Errors
    /// [`StoreError::NoHouse`] where none of this id was removed, or it is kept no longer.
    pub async fn put_back(&self, id: HouseId) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        let gone = house::table.filter(house::id.eq(id.0)).filter(house::removed_at.is_not_null());
        let back = diesel::update(gone).set(house::removed_at.eq(None::<DateTime<Utc>>)).execute(&mut conn).await?;
        if back == 0 { Err(StoreError::NoHouse) } else { Ok(()) }
    }

    /// When a house was removed; none where it was not, or there never was one.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn removed_at(&self, id: HouseId) -> Result<Option<DateTime<Utc>>, StoreError> {
        let mut conn = self.connection().await?;
        let at = house::table.find(id.0).select(house::removed_at).first(&mut conn).await.optional()?;
        Ok(at.flatten())
    }

    /// Lets go of houses that were removed too long ago; gives how many.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn let_go(&self, now: DateTime<Utc>) -> Result<usize, StoreError> {
        let mut conn = self.connection().await?;
        let old = house::table.filter(house::removed_at.lt(now - KEPT));
        Ok(diesel::delete(old).execute(&mut conn).await?)
    }

    /// A copy of a house with ids of its own, its photos, and a name that is free; without its history and its attempts.
    ///
    /// # Errors
    /// [`StoreError::NoHouse`] where there is none.
    pub async fn copy_house(&self, id: HouseId) -> Result<(HouseId, String), StoreError> {
        let known = self.load(id).await?;
        let taken: Vec<String> = self.houses().await?.into_iter().map(|known| known.name).collect();
        let mut site = copy::house(&known.site, &mut Uuid::now_v7);
        let name: String = known.site.house.name.chars().take(NAME - 4).collect();
        site.house.name = copy::free_name(&name, &taken);
        self.add_with_photos(&site, Some(id)).await?;
        Ok((site.house.id, site.house.name))
    }

    /// Adds a house whose ids are its own, with the photos of another one.
    async fn add_with_photos(&self, site: &Site, of: Option<HouseId>) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        conn.transaction(async |conn| {
            if !insert_house(conn, &site.house).await? {
                return Err(StoreError::Exists);
            }
            write(conn, site.house.id, &entities(site), 0).await?;
            if let Some(of) = of {
                let sql = "insert into photo (house_id, id, media_type, bytes, at) \
                           select $1, id, media_type, bytes, at from photo where house_id = $2";
                diesel::sql_query(sql)
                    .bind::<diesel::sql_types::Uuid, _>(site.house.id.0)
                    .bind::<diesel::sql_types::Uuid, _>(of.0)
                    .execute(conn)
                    .await?;
            }
            Ok(())
        })
        .await
    }

    /// A setting of the installation; none where it was never made.
    ///
    /// # Errors
    /// Where the database fails, or the setting is one of a newer version.
    pub async fn setting<T: DeserializeOwned>(&self, name: &str) -> Result<Option<T>, StoreError> {
        let mut conn = self.connection().await?;
        let value: Option<Value> =
            setting::table.find(name).select(setting::value).first(&mut conn).await.optional()?;
        Ok(value.map(serde_json::from_value).transpose()?)
    }

    /// Keeps a setting of the installation.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn set<T: Serialize + Sync>(&self, name: &str, value: &T) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        let value = serde_json::to_value(value)?;
        diesel::insert_into(setting::table)
            .values((setting::name.eq(name), setting::value.eq(&value)))
            .on_conflict(setting::name)
            .do_update()
            .set(setting::value.eq(&value))
            .execute(&mut conn)
            .await?;
        Ok(())
    }
}
