//! Writing single changes.

use crate::StoreError;
use crate::rows::{ActivityRow, CodeRow, CodeSetRow, ConnectionRow, DeviceRow, ProfileRows, RoomRow};
use crate::schema::{activity, code, code_set, connection, device, function, house, input, output, profile, room};
use diesel::prelude::*;
use diesel::upsert::excluded;
use diesel_async::{AsyncPgConnection, RunQueryDsl};
use kestrel_core::edit::Change;
use kestrel_core::model::{Entity, EntityKind};
use uuid::Uuid;

/// Writes changes in their order; `version` is the revision in which they happen.
pub(crate) async fn changes(
    conn: &mut AsyncPgConnection,
    house_id: Uuid,
    changes: &[Change],
    version: i64,
) -> Result<(), StoreError> {
    for change in changes {
        match (&change.before, &change.after) {
            (_, Some(entity)) => put(conn, house_id, entity, version).await?,
            (Some(entity), None) => remove(conn, entity.key()).await?,
            (None, None) => {}
        }
    }
    Ok(())
}

/// Inserts a row, or replaces the one that has its id.
macro_rules! upsert {
    ($conn:ident, $table:ident, $row:expr) => {{
        let row = $row;
        diesel::insert_into($table::table)
            .values(&row)
            .on_conflict($table::id)
            .do_update()
            .set(&row)
            .execute($conn)
            .await?;
    }};
}

async fn put(conn: &mut AsyncPgConnection, house_id: Uuid, entity: &Entity, version: i64) -> Result<(), StoreError> {
    match entity {
        Entity::House(e) => {
            let order = serde_json::to_value(&e.path_order)?;
            let coverage = house::coverage_percent.eq(i16::from(e.coverage_percent));
            let place = e.place.as_ref().map(serde_json::to_value).transpose()?;
            let values = (
                house::name.eq(&e.name),
                house::path_order.eq(order),
                coverage,
                house::place.eq(place),
                house::version.eq(version),
            );
            diesel::update(house::table.find(e.id.0)).set(values).execute(conn).await?;
        }
        Entity::Room(e) => upsert!(conn, room, RoomRow::new(house_id, e, version)?),
        Entity::Profile(e) => put_profile(conn, ProfileRows::new(house_id, e, version)?).await?,
        Entity::Device(e) => upsert!(conn, device, DeviceRow::new(house_id, e, version)?),
        Entity::Connection(e) => upsert!(conn, connection, ConnectionRow::new(house_id, e, version)),
        Entity::Code(e) => upsert!(conn, code, CodeRow::new(house_id, e, version)?),
        Entity::Activity(e) => upsert!(conn, activity, ActivityRow::new(house_id, e, version)?),
        Entity::CodeSet(e) => upsert!(conn, code_set, CodeSetRow::new(house_id, e, version)?),
    }
    Ok(())
}

/// Parts that stay keep their rows, because cables and codes refer to them.
async fn put_profile(conn: &mut AsyncPgConnection, rows: ProfileRows) -> Result<(), StoreError> {
    let id = rows.profile.id;
    upsert!(conn, profile, rows.profile);
    let kept: Vec<Uuid> = rows.inputs.iter().map(|row| row.id).collect();
    diesel::delete(input::table.filter(input::profile_id.eq(id)).filter(input::id.ne_all(kept))).execute(conn).await?;
    let kept: Vec<Uuid> = rows.outputs.iter().map(|row| row.id).collect();
    diesel::delete(output::table.filter(output::profile_id.eq(id)).filter(output::id.ne_all(kept)))
        .execute(conn)
        .await?;
    let kept: Vec<Uuid> = rows.functions.iter().map(|row| row.id).collect();
    diesel::delete(function::table.filter(function::profile_id.eq(id)).filter(function::id.ne_all(kept)))
        .execute(conn)
        .await?;
    diesel::insert_into(function::table)
        .values(rows.functions)
        .on_conflict(function::id)
        .do_update()
        .set((
            function::position.eq(excluded(function::position)),
            function::name.eq(excluded(function::name)),
            function::press.eq(excluded(function::press)),
            function::frames.eq(excluded(function::frames)),
            function::answers_to.eq(excluded(function::answers_to)),
        ))
        .execute(conn)
        .await?;
    diesel::insert_into(input::table)
        .values(rows.inputs)
        .on_conflict(input::id)
        .do_update()
        .set((
            input::position.eq(excluded(input::position)),
            input::name.eq(excluded(input::name)),
            input::cable.eq(excluded(input::cable)),
            input::select_function_id.eq(excluded(input::select_function_id)),
            input::reports.eq(excluded(input::reports)),
        ))
        .execute(conn)
        .await?;
    diesel::insert_into(output::table)
        .values(rows.outputs)
        .on_conflict(output::id)
        .do_update()
        .set((
            output::position.eq(excluded(output::position)),
            output::name.eq(excluded(output::name)),
            output::cable.eq(excluded(output::cable)),
            output::returns_input_id.eq(excluded(output::returns_input_id)),
        ))
        .execute(conn)
        .await?;
    Ok(())
}

async fn remove(conn: &mut AsyncPgConnection, (kind, id): (EntityKind, Uuid)) -> Result<(), StoreError> {
    match kind {
        EntityKind::House => diesel::delete(house::table.find(id)).execute(conn).await?,
        EntityKind::Room => diesel::delete(room::table.find(id)).execute(conn).await?,
        EntityKind::Profile => diesel::delete(profile::table.find(id)).execute(conn).await?,
        EntityKind::Device => diesel::delete(device::table.find(id)).execute(conn).await?,
        EntityKind::Connection => diesel::delete(connection::table.find(id)).execute(conn).await?,
        EntityKind::Code => diesel::delete(code::table.find(id)).execute(conn).await?,
        EntityKind::Activity => diesel::delete(activity::table.find(id)).execute(conn).await?,
        EntityKind::CodeSet => diesel::delete(code_set::table.find(id)).execute(conn).await?,
    };
    Ok(())
}
