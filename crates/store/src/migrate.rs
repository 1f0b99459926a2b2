//! Bringing a database up to date: the schema by migrations, then the houses of an older version by the program.

use crate::schema::{house, house_before};
use crate::{Store, StoreError, rows};
use diesel::prelude::*;
use diesel_async::{AsyncConnection, AsyncMigrationHarness, AsyncPgConnection, RunQueryDsl};
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};
use kestrel_core::model::{EntityKind, Site, entities};
use kestrel_core::upgrade;
use serde_json::Value;
use std::collections::BTreeMap;
use uuid::Uuid;

const MIGRATIONS: EmbeddedMigrations = embed_migrations!("../../migrations");

impl Store {
    /// Brings the database up to date.
    ///
    /// # Errors
    /// Where the database cannot be reached or a migration fails.
    pub async fn migrate(&self) -> Result<(), StoreError> {
        let connection = self.connection().await?;
        // The harness drives the async connection from a blocking call.
        let migrated = tokio::task::spawn_blocking(move || {
            let mut harness = AsyncMigrationHarness::new(connection);
            harness.run_pending_migrations(MIGRATIONS).map(|_| ()).map_err(|error| error.to_string())
        });
        match migrated.await {
            Ok(Ok(())) => self.bring_up_houses().await,
            Ok(Err(error)) => Err(StoreError::Unreadable(error)),
            Err(error) => Err(StoreError::Unreadable(error.to_string())),
        }
    }

    /// Does the database hold houses that a migration is about to touch? Then it is to be dumped first.
    ///
    /// # Errors
    /// Where the database cannot be reached.
    pub async fn wants_a_dump(&self) -> Result<bool, StoreError> {
        let connection = self.connection().await?;
        let pending = tokio::task::spawn_blocking(move || {
            let mut harness = AsyncMigrationHarness::new(connection);
            harness.has_pending_migration(MIGRATIONS).map_err(|error| error.to_string())
        });
        let pending = pending.await.map_err(|error| error.to_string()).and_then(|known| known);
        if !pending.map_err(StoreError::Unreadable)? {
            return Ok(false);
        }
        let mut conn = self.connection().await?;
        #[derive(QueryableByName)]
        struct There {
            #[diesel(sql_type = diesel::sql_types::Bool)]
            there: bool,
        }
        let table: There =
            diesel::sql_query("select to_regclass('house') is not null as there").get_result(&mut conn).await?;
        if !table.there {
            return Ok(false);
        }
        let houses: There =
            diesel::sql_query("select exists (select 1 from house) as there").get_result(&mut conn).await?;
        Ok(houses.there)
    }

    /// Houses that the program still has to bring up to date, each in a transaction of its own: whatever happens, a house
    /// is there as it was or as it is to be.
    async fn bring_up_houses(&self) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        let waiting: Vec<Uuid> = house_before::table.select(house_before::house_id).load(&mut conn).await?;
        for id in waiting {
            conn.transaction(async |conn| bring_up(conn, id).await).await?;
        }
        Ok(())
    }
}

async fn bring_up(conn: &mut AsyncPgConnection, id: Uuid) -> Result<(), StoreError> {
    let row: Option<(Value, Value)> = house_before::table
        .find(id)
        .for_update()
        .select((house_before::site, house_before::versions))
        .first(conn)
        .await
        .optional()?;
    // Another server has done it meanwhile.
    let Some((mut given, versions)) = row else { return Ok(()) };
    upgrade::site(&mut given);
    let mut site: Site =
        serde_json::from_value(given).map_err(|error| StoreError::Unreadable(format!("house {id}: {error}")))?;
    site.sort();
    upgrade::settle(&mut site);
    let versions: BTreeMap<Uuid, i64> = serde_json::from_value(versions)?;
    for entity in entities(&site) {
        // What was a part of its room has the room's version.
        let key = entity.key();
        let of = entity.part_of().map_or(key.id, |room| room.0);
        let version = versions.get(&key.id).or_else(|| versions.get(&of)).copied().unwrap_or(0);
        if key.kind == EntityKind::House {
            let values = (house::version.eq(version), house::body.eq(serde_json::to_value(&site.house)?));
            diesel::update(house::table.find(id)).set(values).execute(conn).await?;
        } else {
            rows::put(conn, id, &entity, version).await?;
        }
    }
    diesel::delete(house_before::table.find(id)).execute(conn).await?;
    Ok(())
}
