//! Reading and changing a house.

use crate::history::{self, ChangeRow, LogEntry, LogKind};
use crate::rows::{
    ActivityRow, CodeRow, CodeSetRow, ConnectionRow, DeviceRow, FunctionRow, HouseRow, InputRow, OutputRow, ProfileRow,
    ProfileRows, RoomRow,
};
use crate::schema::{
    activity, change, code, code_set, connection, device, function, house, input, output, profile, room,
};
use crate::{StoreError, write};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::pooled_connection::AsyncDieselConnectionManager;
use diesel_async::pooled_connection::deadpool::{Object, Pool};
use diesel_async::{AsyncConnection, AsyncMigrationHarness, AsyncPgConnection, RunQueryDsl};
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};
use kestrel_core::edit;
use kestrel_core::edit::{Change, Edit};
use kestrel_core::id::HouseId;
use kestrel_core::model::{Entity, Site};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use std::time::Duration;
use utoipa::ToSchema;
use uuid::Uuid;

const MIGRATIONS: EmbeddedMigrations = embed_migrations!("../../migrations");

/// How long a connection is waited for before the database counts as gone.
const WAIT: Duration = Duration::from_secs(3);

/// A house as it stands, and what is needed to change it.
#[derive(Debug, Clone, PartialEq)]
pub struct Snapshot {
    /// The house.
    pub site: Site,
    /// For every entity, the revision in which it was last written.
    pub versions: BTreeMap<Uuid, i64>,
    /// How many changes there have been.
    pub revision: i64,
    /// What undo would take back, in words.
    pub undo: Option<String>,
    /// What redo would make again, in words.
    pub redo: Option<String>,
}

/// What a change did.
#[derive(Debug, Clone, PartialEq)]
pub struct Saved {
    /// The house after it.
    pub snapshot: Snapshot,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// What happened, in words.
    pub title: String,
    /// Its kind.
    pub kind: LogKind,
    /// What happened to each entity.
    pub changes: Vec<Change>,
}

/// A line of the list of houses.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct HouseSummary {
    /// Its id.
    pub id: HouseId,
    /// Its name.
    pub name: String,
    /// How many changes there have been.
    pub revision: i64,
}

/// The database.
#[derive(Clone)]
pub struct Store {
    pool: Pool<AsyncPgConnection>,
}

impl Store {
    /// A pool of at most eight connections to `url`. Connects lazily.
    ///
    /// # Errors
    /// Where the pool cannot be made.
    pub fn new(url: &str) -> Result<Self, StoreError> {
        let manager = AsyncDieselConnectionManager::<AsyncPgConnection>::new(url);
        let pool = Pool::builder(manager)
            .max_size(8)
            .wait_timeout(Some(WAIT))
            .create_timeout(Some(WAIT))
            .recycle_timeout(Some(WAIT))
            .runtime(deadpool::Runtime::Tokio1)
            .build()
            .map_err(|error| StoreError::Unreachable(error.to_string()))?;
        Ok(Self { pool })
    }

    pub(crate) async fn connection(&self) -> Result<Object<AsyncPgConnection>, StoreError> {
        self.pool.get().await.map_err(|error| StoreError::Unreachable(error.to_string()))
    }

    /// Brings the schema up to date.
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
            Ok(Ok(())) => Ok(()),
            Ok(Err(error)) => Err(StoreError::Unreadable(error)),
            Err(error) => Err(StoreError::Unreadable(error.to_string())),
        }
    }

    /// Does the database answer?
    ///
    /// # Errors
    /// Where it does not.
    pub async fn ping(&self) -> Result<(), StoreError> {
        let mut conn = self.connection().await?;
        diesel::select(1.into_sql::<diesel::sql_types::Integer>()).execute(&mut conn).await?;
        Ok(())
    }

    /// All houses, by name.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn houses(&self) -> Result<Vec<HouseSummary>, StoreError> {
        let mut conn = self.connection().await?;
        let rows: Vec<HouseRow> =
            house::table.order((house::name, house::id)).select(HouseRow::as_select()).load(&mut conn).await?;
        Ok(rows
            .into_iter()
            .map(|row| HouseSummary { id: row.id.into(), name: row.name, revision: row.revision })
            .collect())
    }

    /// Adds a whole house, if its id is free; tells whether it did.
    ///
    /// # Errors
    /// Where a part of it is refused or the database fails.
    pub async fn add_house(&self, site: &Site) -> Result<bool, StoreError> {
        let mut conn = self.connection().await?;
        conn.transaction(async |conn| {
            let row = HouseRow::new(&site.house, 0, 0)?;
            let added = diesel::insert_into(house::table).values(&row).on_conflict_do_nothing().execute(conn).await?;
            if added == 0 {
                return Ok(false);
            }
            let changes: Vec<Change> =
                edit::entities(site).into_iter().map(|entity| Change { before: None, after: Some(entity) }).collect();
            write::changes(conn, site.house.id.0, &changes, 0).await?;
            Ok(true)
        })
        .await
    }

    /// How many changes a house has seen.
    ///
    /// # Errors
    /// [`StoreError::NoHouse`] where there is none.
    pub async fn revision(&self, house: HouseId) -> Result<i64, StoreError> {
        let mut conn = self.connection().await?;
        let revision = house::table.find(house.0).select(house::revision).first(&mut conn).await.optional()?;
        revision.ok_or(StoreError::NoHouse)
    }

    /// A house as it stands.
    ///
    /// # Errors
    /// [`StoreError::NoHouse`] where there is none.
    pub async fn load(&self, house: HouseId) -> Result<Snapshot, StoreError> {
        let mut conn = self.connection().await?;
        conn.build_transaction()
            .read_only()
            .repeatable_read()
            .run(async |conn| snapshot(conn, house.0, false).await)
            .await
    }

    /// Carries edits out as one step that undo takes back whole.
    ///
    /// # Errors
    /// Where an edit is stale or refused; nothing is saved then.
    pub async fn edit(&self, house: HouseId, who: &str, edits: &[Edit]) -> Result<Saved, StoreError> {
        let mut conn = self.connection().await?;
        conn.transaction(async |conn| {
            let mut now = snapshot(conn, house.0, true).await?;
            let mut touched = BTreeSet::new();
            let mut changes = Vec::new();
            for edit in edits {
                fresh(conn, &now, edit, &touched).await?;
                let made = edit::apply(&mut now.site, edit)?;
                touched.extend(made.iter().filter_map(Change::key).map(|(_, id)| id));
                changes.extend(made);
            }
            let title = edit::describe(&now.site, &changes);
            if changes.is_empty() {
                return Ok(Saved { snapshot: now, at: Utc::now(), title, kind: LogKind::Edit, changes });
            }
            record(conn, now, Line { who, kind: LogKind::Edit, title, changes, about: None }).await
        })
        .await
    }

    /// Takes the last edit back.
    ///
    /// # Errors
    /// [`StoreError::Nothing`] where there is none.
    pub async fn undo(&self, house: HouseId, who: &str) -> Result<Saved, StoreError> {
        self.again(house, who, LogKind::Undo).await
    }

    /// Makes the last undone edit again.
    ///
    /// # Errors
    /// [`StoreError::Nothing`] where there is none.
    pub async fn redo(&self, house: HouseId, who: &str) -> Result<Saved, StoreError> {
        self.again(house, who, LogKind::Redo).await
    }

    async fn again(&self, house: HouseId, who: &str, kind: LogKind) -> Result<Saved, StoreError> {
        let mut conn = self.connection().await?;
        conn.transaction(async |conn| {
            let mut now = snapshot(conn, house.0, true).await?;
            let undo = kind == LogKind::Undo;
            let row: Option<ChangeRow> =
                if undo { history::undoable(conn, house.0).await? } else { history::redoable(conn, house.0).await? };
            let row = row.ok_or(StoreError::Nothing(kind.name()))?;
            let made = row.changes()?;
            let changes = if undo {
                edit::revert(&mut now.site, &made)
            } else {
                edit::carry_out(&mut now.site, &made);
                made
            };
            diesel::update(change::table.find((house.0, row.revision)))
                .set(change::undone.eq(undo))
                .execute(conn)
                .await?;
            let word = if undo { "Undone" } else { "Redone" };
            let title = format!("{word}: {}", row.title);
            record(conn, now, Line { who, kind, title, changes, about: Some(row.revision) }).await
        })
        .await
    }

    /// Lines of the log, the newest first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn log(&self, house: HouseId, before: Option<i64>, limit: u32) -> Result<Vec<LogEntry>, StoreError> {
        let mut conn = self.connection().await?;
        history::lines(&mut conn, house.0, before, i64::from(limit.clamp(1, 500))).await
    }
}

/// Is the edit made from the present version? Entities that this step touched before are.
async fn fresh(
    conn: &mut AsyncPgConnection,
    now: &Snapshot,
    edit: &Edit,
    touched: &BTreeSet<Uuid>,
) -> Result<(), StoreError> {
    let (id, base) = match edit {
        Edit::Put { entity, base } => (entity.key().1, *base),
        Edit::Remove { id, base, .. } => (*id, Some(*base)),
    };
    if touched.contains(&id) {
        return Ok(());
    }
    match (base, now.versions.get(&id)) {
        (None, None) => Ok(()),
        (Some(base), Some(&version)) if base == version => Ok(()),
        (None, Some(_)) => Err(StoreError::Exists),
        (Some(_), None) => Err(kestrel_core::edit::EditError::Gone.into()),
        (Some(_), Some(&version)) => {
            let by = history::title(conn, now.site.house.id.0, version).await?;
            Err(StoreError::Stale { name: name_of(&now.site, id), by, version })
        }
    }
}

fn name_of(site: &Site, id: Uuid) -> String {
    edit::entities(site).into_iter().find(|entity| entity.key().1 == id).map_or_else(
        || "This".to_owned(),
        |entity| match entity {
            Entity::House(e) => e.name,
            Entity::Room(e) => e.name,
            Entity::Profile(e) => format!("{} {}", e.maker, e.model),
            Entity::Device(e) => e.name,
            Entity::Activity(e) => e.name,
            Entity::CodeSet(e) => e.name,
            Entity::Connection(_) => "This cable".to_owned(),
            Entity::Code(_) => "This code".to_owned(),
        },
    )
}

/// A line to be written.
struct Line<'a> {
    who: &'a str,
    kind: LogKind,
    title: String,
    changes: Vec<Change>,
    about: Option<i64>,
}

/// Writes changes and their line of the log, and gives the house after them.
async fn record(conn: &mut AsyncPgConnection, now: Snapshot, line: Line<'_>) -> Result<Saved, StoreError> {
    let house_id = now.site.house.id.0;
    let revision = now.revision + 1;
    write::changes(conn, house_id, &line.changes, revision).await?;
    let at = Utc::now();
    let row = ChangeRow {
        house_id,
        revision,
        at,
        who: line.who.to_owned(),
        kind: line.kind.name().to_owned(),
        title: line.title.clone(),
        changes: serde_json::to_value(&line.changes)?,
        undone: false,
        about: line.about,
    };
    diesel::insert_into(change::table).values(&row).execute(conn).await?;
    diesel::update(house::table.find(house_id)).set(house::revision.eq(revision)).execute(conn).await?;
    let mut versions = now.versions;
    for (change, (_, id)) in line.changes.iter().filter_map(|change| Some((change, change.key()?))) {
        if change.after.is_some() {
            versions.insert(id, revision);
        } else {
            versions.remove(&id);
        }
    }
    let undo = history::undoable(conn, house_id).await?.map(|row| row.title);
    let redo = history::redoable(conn, house_id).await?.map(|row| row.title);
    let snapshot = Snapshot { site: now.site, versions, revision, undo, redo };
    Ok(Saved { snapshot, at, title: line.title, kind: line.kind, changes: line.changes })
}

/// Reads a whole house, its row locked against other edits where `lock` is set.
async fn snapshot(conn: &mut AsyncPgConnection, house_id: Uuid, lock: bool) -> Result<Snapshot, StoreError> {
    let query = house::table.find(house_id).select(HouseRow::as_select());
    let row = if lock { query.for_update().first(conn).await } else { query.first(conn).await };
    let row: HouseRow = row.optional()?.ok_or(StoreError::NoHouse)?;
    let revision = row.revision;
    let mut versions = BTreeMap::from([(row.id, row.version)]);
    let rooms: Vec<RoomRow> =
        room::table.filter(room::house_id.eq(house_id)).select(RoomRow::as_select()).load(conn).await?;
    versions.extend(rooms.iter().map(|row| (row.id, row.version)));
    let devices: Vec<DeviceRow> =
        device::table.filter(device::house_id.eq(house_id)).select(DeviceRow::as_select()).load(conn).await?;
    versions.extend(devices.iter().map(|row| (row.id, row.version)));
    let connections: Vec<ConnectionRow> = connection::table
        .filter(connection::house_id.eq(house_id))
        .select(ConnectionRow::as_select())
        .load(conn)
        .await?;
    versions.extend(connections.iter().map(|row| (row.id, row.version)));
    let codes: Vec<CodeRow> =
        code::table.filter(code::house_id.eq(house_id)).select(CodeRow::as_select()).load(conn).await?;
    versions.extend(codes.iter().map(|row| (row.id, row.version)));
    let activities: Vec<ActivityRow> =
        activity::table.filter(activity::house_id.eq(house_id)).select(ActivityRow::as_select()).load(conn).await?;
    versions.extend(activities.iter().map(|row| (row.id, row.version)));
    let sets: Vec<CodeSetRow> =
        code_set::table.filter(code_set::house_id.eq(house_id)).select(CodeSetRow::as_select()).load(conn).await?;
    versions.extend(sets.iter().map(|row| (row.id, row.version)));
    let profiles = profiles(conn, house_id).await?;
    versions.extend(profiles.iter().map(|rows| (rows.profile.id, rows.profile.version)));
    let mut site = Site {
        house: row.into_core()?,
        rooms: rooms.into_iter().map(RoomRow::into_core).collect::<Result<_, _>>()?,
        profiles: profiles.into_iter().map(ProfileRows::into_core).collect::<Result<_, _>>()?,
        devices: devices.into_iter().map(DeviceRow::into_core).collect::<Result<_, _>>()?,
        connections: connections.into_iter().map(ConnectionRow::into_core).collect(),
        codes: codes.into_iter().map(CodeRow::into_core).collect::<Result<_, _>>()?,
        code_sets: sets.into_iter().map(CodeSetRow::into_core).collect::<Result<_, _>>()?,
        activities: activities.into_iter().map(ActivityRow::into_core).collect::<Result<_, _>>()?,
    };
    site.sort();
    let undo = history::undoable(conn, house_id).await?.map(|row| row.title);
    let redo = history::redoable(conn, house_id).await?.map(|row| row.title);
    Ok(Snapshot { site, versions, revision, undo, redo })
}

async fn profiles(conn: &mut AsyncPgConnection, house_id: Uuid) -> Result<Vec<ProfileRows>, StoreError> {
    let rows: Vec<ProfileRow> =
        profile::table.filter(profile::house_id.eq(house_id)).select(ProfileRow::as_select()).load(conn).await?;
    let ids: Vec<Uuid> = rows.iter().map(|row| row.id).collect();
    let functions: Vec<FunctionRow> = function::table
        .filter(function::profile_id.eq_any(&ids))
        .order(function::position)
        .select(FunctionRow::as_select())
        .load(conn)
        .await?;
    let inputs: Vec<InputRow> = input::table
        .filter(input::profile_id.eq_any(&ids))
        .order(input::position)
        .select(InputRow::as_select())
        .load(conn)
        .await?;
    let outputs: Vec<OutputRow> = output::table
        .filter(output::profile_id.eq_any(&ids))
        .order(output::position)
        .select(OutputRow::as_select())
        .load(conn)
        .await?;
    let mut parts: BTreeMap<Uuid, ProfileRows> = rows
        .into_iter()
        .map(|profile| (profile.id, ProfileRows { profile, functions: vec![], inputs: vec![], outputs: vec![] }))
        .collect();
    for row in functions {
        parts.entry(row.profile_id).and_modify(|rows| rows.functions.push(row));
    }
    for row in inputs {
        parts.entry(row.profile_id).and_modify(|rows| rows.inputs.push(row));
    }
    for row in outputs {
        parts.entry(row.profile_id).and_modify(|rows| rows.outputs.push(row));
    }
    Ok(parts.into_values().collect())
}
