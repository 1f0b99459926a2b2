//! Whoever has signed in from the network of the house. Of what the cookie holds only a digest is kept.

use crate::schema::session;
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::RunQueryDsl;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// Somebody who has signed in.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Queryable, ToSchema)]
pub struct Session {
    /// Its id.
    pub id: Uuid,
    /// When, in UTC.
    pub made_at: DateTime<Utc>,
    /// When it was used last, in UTC.
    pub used_at: DateTime<Utc>,
    /// The browser, as it named itself.
    pub label: String,
}

/// A session that nobody uses ends after so many days.
const DAYS: i64 = 30;

impl Store {
    /// Keeps a session under the digest of what its cookie holds.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn sign_in(&self, digest: &str, label: &str) -> Result<Uuid, StoreError> {
        let mut conn = self.connection().await?;
        let id = Uuid::now_v7();
        let now = Utc::now();
        let label: String = label.chars().filter(|c| !c.is_control()).take(200).collect();
        let values = (
            session::id.eq(id),
            session::digest.eq(digest),
            session::made_at.eq(now),
            session::used_at.eq(now),
            session::label.eq(label),
        );
        diesel::insert_into(session::table).values(values).execute(&mut conn).await?;
        Ok(id)
    }

    /// The session of a digest, if there is one; it is used now.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn session(&self, digest: &str) -> Result<Option<Uuid>, StoreError> {
        let mut conn = self.connection().await?;
        let now = Utc::now();
        let since = now - chrono::Duration::days(DAYS);
        let own = session::table.filter(session::digest.eq(digest)).filter(session::used_at.gt(since));
        let id: Option<Uuid> = own.select(session::id).first(&mut conn).await.optional()?;
        if let Some(id) = id {
            // Once a minute is often enough.
            let old = session::table.find(id).filter(session::used_at.lt(now - chrono::Duration::minutes(1)));
            diesel::update(old).set(session::used_at.eq(now)).execute(&mut conn).await?;
        }
        Ok(id)
    }

    /// Everybody who has signed in, the newest first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn sessions(&self) -> Result<Vec<Session>, StoreError> {
        let mut conn = self.connection().await?;
        let all = session::table
            .order(session::used_at.desc())
            .select((session::id, session::made_at, session::used_at, session::label))
            .load(&mut conn)
            .await?;
        Ok(all)
    }

    /// Ends a session, or all of them. Tells how many there were.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn sign_out(&self, id: Option<Uuid>) -> Result<usize, StoreError> {
        let mut conn = self.connection().await?;
        let done = match id {
            Some(id) => diesel::delete(session::table.find(id)).execute(&mut conn).await?,
            None => diesel::delete(session::table).execute(&mut conn).await?,
        };
        Ok(done)
    }
}
