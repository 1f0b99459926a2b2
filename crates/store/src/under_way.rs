//! Macros that are under way. What is still here when the server starts was cut off in the middle: the room is
//! unknown then.

use crate::schema::run_under_way;
use crate::{Store, StoreError};
use diesel::prelude::*;
use diesel_async::RunQueryDsl;
use kestrel_core::id::RoomId;

impl Store {
    /// A macro begins in a room; `leads_to` names where to.
    ///
    /// # Errors
    /// Where the database cannot be reached.
    pub async fn run_began(&self, room: RoomId, leads_to: &str) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        let row = (run_under_way::room_id.eq(room.0), run_under_way::leads_to.eq(leads_to));
        diesel::insert_into(run_under_way::table)
            .values(row)
            .on_conflict(run_under_way::room_id)
            .do_update()
            .set(run_under_way::leads_to.eq(leads_to))
            .execute(&mut conn)
            .await?;
        Ok(())
    }

    /// It has ended, one way or another.
    ///
    /// # Errors
    /// Where the database cannot be reached.
    pub async fn run_ended(&self, room: RoomId) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        diesel::delete(run_under_way::table.find(room.0)).execute(&mut conn).await?;
        Ok(())
    }

    /// Takes out what was cut off in a room: where it led.
    ///
    /// # Errors
    /// Where the database cannot be reached.
    pub async fn take_run(&self, room: RoomId) -> Result<Option<String>, StoreError> {
        let mut conn = self.connection().await?;
        let cut = diesel::delete(run_under_way::table.find(room.0)).returning(run_under_way::leads_to);
        Ok(cut.get_result(&mut conn).await.optional()?)
    }
}
