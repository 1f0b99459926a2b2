//! Links by which a surface opens on a phone: nobody can guess one, and each can be withdrawn. Never undone.

use crate::schema::surface_link;
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::RunQueryDsl;
use kestrel_core::id::{HouseId, RoomId, SurfaceId};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// A link to a surface.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = SurfaceLink)]
pub struct SurfaceLink {
    /// What makes it unguessable: 244 random bits, as 64 hex digits.
    pub token: String,
    /// The house.
    pub house: HouseId,
    /// The room.
    pub room: RoomId,
    /// The surface.
    pub surface: SurfaceId,
    /// Whose it is.
    pub label: String,
    /// When it was made, in UTC.
    pub made_at: DateTime<Utc>,
    /// When it was opened last, in UTC.
    pub used_at: Option<DateTime<Utc>>,
}

/// Does it look like one of ours? Anything else is in no table.
fn is_token(token: &str) -> bool {
    token.len() == 64 && token.bytes().all(|byte| byte.is_ascii_hexdigit())
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = surface_link, check_for_backend(diesel::pg::Pg))]
struct LinkRow {
    token: String,
    house_id: Uuid,
    room_id: Uuid,
    surface_id: Uuid,
    label: String,
    made_at: DateTime<Utc>,
    used_at: Option<DateTime<Utc>>,
}

impl From<LinkRow> for SurfaceLink {
    fn from(row: LinkRow) -> Self {
        Self {
            token: row.token,
            house: row.house_id.into(),
            room: row.room_id.into(),
            surface: row.surface_id.into(),
            label: row.label,
            made_at: row.made_at,
            used_at: row.used_at,
        }
    }
}

impl Store {
    /// Makes a link to a surface.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn make_link(
        &self,
        house: HouseId,
        room: RoomId,
        surface: SurfaceId,
        label: &str,
    ) -> Result<SurfaceLink, StoreError> {
        let mut conn = self.connection().await?;
        let token = format!("{}{}", Uuid::new_v4().simple(), Uuid::new_v4().simple());
        let values = (
            surface_link::token.eq(token),
            surface_link::house_id.eq(house.0),
            surface_link::room_id.eq(room.0),
            surface_link::surface_id.eq(surface.0),
            surface_link::label.eq(label),
        );
        let row: LinkRow = diesel::insert_into(surface_link::table)
            .values(values)
            .returning(LinkRow::as_returning())
            .get_result(&mut conn)
            .await?;
        Ok(row.into())
    }

    /// The links to the surfaces of a room, the newest first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn links(&self, house: HouseId, room: RoomId) -> Result<Vec<SurfaceLink>, StoreError> {
        let mut conn = self.connection().await?;
        let rows: Vec<LinkRow> = surface_link::table
            .filter(surface_link::house_id.eq(house.0))
            .filter(surface_link::room_id.eq(room.0))
            .order(surface_link::made_at.desc())
            .select(LinkRow::as_select())
            .load(&mut conn)
            .await?;
        Ok(rows.into_iter().map(SurfaceLink::from).collect())
    }

    /// The link with this token; none where there is none, or it was withdrawn.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn link(&self, token: &str) -> Result<Option<SurfaceLink>, StoreError> {
        if !is_token(token) {
            return Ok(None);
        }
        let mut conn = self.connection().await?;
        let row: Option<LinkRow> =
            surface_link::table.find(token).select(LinkRow::as_select()).first(&mut conn).await.optional()?;
        Ok(row.map(SurfaceLink::from))
    }

    /// A link was opened.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn link_used(&self, token: &str) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        diesel::update(surface_link::table.find(token))
            .set(surface_link::used_at.eq(Utc::now()))
            .execute(&mut conn)
            .await?;
        Ok(())
    }

    /// Withdraws a link. Whoever has the page open is told with the next press.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn withdraw_link(&self, house: HouseId, token: &str) -> Result<bool, StoreError> {
        if !is_token(token) {
            return Ok(false);
        }
        let mut conn = self.connection().await?;
        let own = surface_link::table.find(token).filter(surface_link::house_id.eq(house.0));
        Ok(diesel::delete(own).execute(&mut conn).await? > 0)
    }
}
