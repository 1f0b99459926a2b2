//! Rows of entities: one table a kind, all of one shape. `body` is the entity as the program writes it in a site file;
//! columns beside it carry what refers to other rows, so that the database itself keeps a house whole and apart.

use crate::{StoreError, schema};
use diesel::prelude::*;
use diesel_async::{AsyncPgConnection, RunQueryDsl};
use kestrel_core::model::{Entity, EntityKey, EntityKind};
use serde_json::{Value, json};
use uuid::Uuid;

/// An entity as it stands in its row, and the revision in which it was last written.
pub(crate) struct Stored {
    pub(crate) key: EntityKey,
    pub(crate) version: i64,
    pub(crate) entity: Entity,
}

fn body(entity: &Entity) -> Result<Value, StoreError> {
    let mut whole = serde_json::to_value(entity)?;
    Ok(whole.get_mut("value").map(Value::take).unwrap_or_default())
}

fn stored(kind: EntityKind, id: Uuid, version: i64, body: Value) -> Result<Stored, StoreError> {
    let key = EntityKey { kind, id };
    let whole = json!({ "entity": kind.word(), "value": body });
    let entity = serde_json::from_value(whole)
        .map_err(|error| StoreError::Unreadable(format!("{} {id}: {error}", kind.word())))?;
    Ok(Stored { key, version, entity })
}

/// Makes the functions of one table: all rows of a house, one row put, one taken out.
macro_rules! table {
    ($table:ident as $kind:ident { $($column:ident: $type:ty = |$entity:ident| $value:expr),* $(,)? }) => {
        pub(super) mod $table {
            use super::*;
            use schema::$table as own;

            pub(super) async fn load(conn: &mut AsyncPgConnection, house: Uuid) -> Result<Vec<Stored>, StoreError> {
                let rows: Vec<(Uuid, i64, Value)> = own::table
                    .filter(own::house_id.eq(house))
                    .select((own::id, own::version, own::body))
                    .load(conn)
                    .await?;
                rows.into_iter().map(|(id, version, body)| stored(EntityKind::$kind, id, version, body)).collect()
            }

            pub(super) async fn put(
                conn: &mut AsyncPgConnection,
                house: Uuid,
                entity: &Entity,
                version: i64,
            ) -> Result<(), StoreError> {
                let Entity::$kind(_inner) = entity else { return Ok(()) };
                $(let $column: $type = { let $entity = _inner; $value };)*
                let values = (own::version.eq(version), own::body.eq(body(entity)?), $(own::$column.eq($column),)*);
                diesel::insert_into(own::table)
                    .values((own::house_id.eq(house), own::id.eq(entity.key().id), values.clone()))
                    .on_conflict((own::house_id, own::id))
                    .do_update()
                    .set(values)
                    .execute(conn)
                    .await?;
                Ok(())
            }

            pub(super) async fn take(conn: &mut AsyncPgConnection, house: Uuid, id: Uuid) -> Result<(), StoreError> {
                diesel::delete(own::table.find((house, id))).execute(conn).await?;
                Ok(())
            }
        }
    };
}

table! { room as Room {} }
table! { profile as Profile {} }
table! { device as Device { room_id: Uuid = |e| e.room.0, profile_id: Uuid = |e| e.profile.0 } }
table! { connection as Connection { from_device_id: Uuid = |e| e.from_device.0, to_device_id: Uuid = |e| e.to_device.0 } }
table! { code as Code { device_id: Uuid = |e| e.device.0 } }
table! { activity as Activity {
    room_id: Uuid = |e| e.room.0,
    source_id: Uuid = |e| e.source.0,
    seen_on_id: Option<Uuid> = |e| e.seen_on.map(|id| id.0),
    heard_on_id: Option<Uuid> = |e| e.heard_on.map(|id| id.0),
} }
table! { code_set as CodeSet {} }
table! { picture as Picture {} }
table! { measurement as Measurement { device_id: Uuid = |e| e.device.0 } }
table! { test_result as Result {} }
table! { wanted as Order {} }
table! { floor as Floor {} }
table! { described as Protocol {} }
table! { placed as Placed { device_id: Uuid = |e| e.device.0 } }
table! { light as Light {} }
table! { voice as Voice {} }
table! { plan_rules as Plans {} }
table! { cue as Cue { room_id: Uuid = |e| e.room.0 } }
table! { surface as Surface { room_id: Uuid = |e| e.room.0 } }
table! { story as Story { room_id: Uuid = |e| e.room.0 } }
table! { accepted as Accepted { room_id: Uuid = |e| e.room.0 } }

/// Everything of a house but the house itself, rooms before what belongs to them.
pub(crate) async fn load(conn: &mut AsyncPgConnection, house: Uuid) -> Result<Vec<Stored>, StoreError> {
    let mut all = room::load(conn, house).await?;
    macro_rules! more {
        ($($table:ident),+) => { $(all.extend($table::load(conn, house).await?);)+ };
    }
    more!(
        profile, device, connection, code, activity, code_set, picture, light, voice, plan_rules, cue, surface, story
    );
    more!(described, floor, placed, accepted, measurement, test_result, wanted);
    Ok(all)
}

/// Puts an entity in its row; `version` is the revision in which that happens.
pub(crate) async fn put(
    conn: &mut AsyncPgConnection,
    house: Uuid,
    entity: &Entity,
    version: i64,
) -> Result<(), StoreError> {
    match entity {
        Entity::House(own) => {
            use schema::house as t;
            let values = (t::name.eq(&own.name), t::version.eq(version), t::body.eq(body(entity)?));
            diesel::update(t::table.find(house)).set(values).execute(conn).await?;
            Ok(())
        }
        Entity::Room(_) => room::put(conn, house, entity, version).await,
        Entity::Profile(_) => profile::put(conn, house, entity, version).await,
        Entity::Device(_) => device::put(conn, house, entity, version).await,
        Entity::Connection(_) => connection::put(conn, house, entity, version).await,
        Entity::Code(_) => code::put(conn, house, entity, version).await,
        Entity::Activity(_) => activity::put(conn, house, entity, version).await,
        Entity::CodeSet(_) => code_set::put(conn, house, entity, version).await,
        Entity::Picture(_) => picture::put(conn, house, entity, version).await,
        Entity::Measurement(_) => measurement::put(conn, house, entity, version).await,
        Entity::Result(_) => test_result::put(conn, house, entity, version).await,
        Entity::Order(_) => wanted::put(conn, house, entity, version).await,
        Entity::Light(_) => light::put(conn, house, entity, version).await,
        Entity::Voice(_) => voice::put(conn, house, entity, version).await,
        Entity::Plans(_) => plan_rules::put(conn, house, entity, version).await,
        Entity::Floor(_) => floor::put(conn, house, entity, version).await,
        Entity::Protocol(_) => described::put(conn, house, entity, version).await,
        Entity::Placed(_) => placed::put(conn, house, entity, version).await,
        Entity::Cue(_) => cue::put(conn, house, entity, version).await,
        Entity::Surface(_) => surface::put(conn, house, entity, version).await,
        Entity::Story(_) => story::put(conn, house, entity, version).await,
        Entity::Accepted(_) => accepted::put(conn, house, entity, version).await,
    }
}

/// Takes the row of an entity out. A house is removed as a whole, elsewhere.
pub(crate) async fn take(conn: &mut AsyncPgConnection, house: Uuid, key: EntityKey) -> Result<(), StoreError> {
    match key.kind {
        EntityKind::House => Ok(()),
        EntityKind::Room => room::take(conn, house, key.id).await,
        EntityKind::Profile => profile::take(conn, house, key.id).await,
        EntityKind::Device => device::take(conn, house, key.id).await,
        EntityKind::Connection => connection::take(conn, house, key.id).await,
        EntityKind::Code => code::take(conn, house, key.id).await,
        EntityKind::Activity => activity::take(conn, house, key.id).await,
        EntityKind::CodeSet => code_set::take(conn, house, key.id).await,
        EntityKind::Picture => picture::take(conn, house, key.id).await,
        EntityKind::Measurement => measurement::take(conn, house, key.id).await,
        EntityKind::Result => test_result::take(conn, house, key.id).await,
        EntityKind::Order => wanted::take(conn, house, key.id).await,
        EntityKind::Light => light::take(conn, house, key.id).await,
        EntityKind::Voice => voice::take(conn, house, key.id).await,
        EntityKind::Plans => plan_rules::take(conn, house, key.id).await,
        EntityKind::Floor => floor::take(conn, house, key.id).await,
        EntityKind::Protocol => described::take(conn, house, key.id).await,
        EntityKind::Placed => placed::take(conn, house, key.id).await,
        EntityKind::Cue => cue::take(conn, house, key.id).await,
        EntityKind::Surface => surface::take(conn, house, key.id).await,
        EntityKind::Story => story::take(conn, house, key.id).await,
        EntityKind::Accepted => accepted::take(conn, house, key.id).await,
    }
}
