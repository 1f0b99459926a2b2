//! Macros that are under way. What is still here when the server starts was cut off in the middle: the room is
//! unknown then.

use crate::schema::under_way;
use crate::{Store, StoreError};
use diesel::prelude::*;
use diesel_async::RunQueryDsl;
use kestrel_core::id::{HouseId, RoomId};

impl Store {
    /// A macro begins in a room; `leads_to` names where to.
    ///
    /// # Errors
    /// Where the database cannot be reached.
    pub async fn run_began(&self, house: HouseId, room: RoomId, leads_to: &str) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        let row = (under_way::house_id.eq(house.0), under_way::room_id.eq(room.0), under_way::leads_to.eq(leads_to));
        diesel::insert_into(under_way::table)
            .values(row)
            .on_conflict((under_way::house_id, under_way::room_id))
            .do_update()
            .set(under_way::leads_to.eq(leads_to))
            .execute(&mut conn)
            .await?;
        Ok(())
    }

    /// It has ended, one way or another.
    ///
    /// # Errors
    /// Where the database cannot be reached.
    pub async fn run_ended(&self, house: HouseId, room: RoomId) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        diesel::delete(under_way::table.find((house.0, room.0))).execute(&mut conn).await?;
        Ok(())
    }

    /// Takes out what was cut off in a room: where it led.
    ///
    /// # Errors
    /// Where the database cannot be reached.
    pub async fn take_run(&self, house: HouseId, room: RoomId) -> Result<Option<String>, StoreError> {
        let mut conn = self.connection().await?;
        let cut = diesel::delete(under_way::table.find((house.0, room.0))).returning(under_way::leads_to);
        Ok(cut.get_result(&mut conn).await.optional()?)
    }

    /// Is a run noted there? Looks without taking it out.
    ///
    /// # Errors
    /// Where the database cannot be reached.
    #[cfg(feature = "testing")]
    pub async fn is_under_way(&self, house: HouseId, room: RoomId) -> Result<bool, StoreError> {
        let mut conn = self.connection().await?;
        let noted = under_way::table.find((house.0, room.0)).select(under_way::leads_to);
        Ok(noted.first::<String>(&mut conn).await.optional()?.is_some())
    }
}
