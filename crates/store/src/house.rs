//! Reading and changing a house.

use crate::history::{self, ChangeRow, HistoryStep, LogEntry, LogKind};
use crate::kept::{self, Kept};
use crate::schema::{change, house};
use crate::{StoreError, rows};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::pooled_connection::AsyncDieselConnectionManager;
use diesel_async::pooled_connection::deadpool::{Object, Pool};
use diesel_async::{AsyncConnection, AsyncPgConnection, RunQueryDsl};
use kestrel_core::edit::{self, Change, Edit, Entity, EntityKey};
use kestrel_core::id::HouseId;
use kestrel_core::model::{House, Site, entities};
use kestrel_core::upgrade;
use kestrel_core::words::capital;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use utoipa::ToSchema;
use uuid::Uuid;

/// How long a connection is waited for before the database counts as gone.
const WAIT: Duration = Duration::from_secs(3);

/// How often a request whose answer was lost is looked for, and how long between.
const LOOKS: u32 = 5;
const BETWEEN_LOOKS: Duration = Duration::from_millis(700);

/// For every entity, the revision in which it was last written.
pub type Versions = BTreeMap<EntityKey, i64>;

/// A house as it stands, and what is needed to change it. Copies share everything.
#[derive(Debug, Clone, PartialEq)]
pub struct Snapshot {
    /// The house.
    pub site: Arc<Site>,
    /// For every entity, the revision in which it was last written.
    pub versions: Arc<Versions>,
    /// How many changes there have been.
    pub revision: i64,
    /// What undo would take back.
    pub undo: Option<HistoryStep>,
    /// What redo would make again.
    pub redo: Option<HistoryStep>,
}

/// What a change did.
#[derive(Debug, Clone, PartialEq)]
pub struct Saved {
    /// The house before it; the same as after it, where a request was answered a second time.
    pub before: Arc<Snapshot>,
    /// The house after it.
    pub snapshot: Arc<Snapshot>,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// What happened, in words.
    pub title: String,
    /// Its kind.
    pub kind: LogKind,
    /// The entities that it changed.
    pub touched: Vec<EntityKey>,
    /// Was this request carried out before, and its answer lost?
    pub again: bool,
}

/// Who changes a house, and by which request.
#[derive(Debug, Clone, Default)]
pub struct By<'a> {
    /// The name for the log.
    pub who: &'a str,
    /// The request; one that was carried out already gets the same answer again.
    pub request: Option<Uuid>,
    /// Is it a client of a surface? Then it is not on the programmer's line of undo.
    pub client: bool,
}

impl<'a> By<'a> {
    /// Somebody at the workbench.
    #[must_use]
    pub const fn name(who: &'a str) -> Self {
        Self { who, request: None, client: false }
    }
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
    #[cfg(test)]
    address: String,
    /// Houses as they stood when they were read or changed last.
    open: Arc<Mutex<HashMap<HouseId, Arc<Snapshot>>>>,
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
        Ok(Self {
            pool,
            #[cfg(test)]
            address: url.to_owned(),
            open: Arc::default(),
        })
    }

    /// Where the database is.
    #[cfg(test)]
    pub(crate) fn address(&self) -> &str {
        &self.address
    }

    pub(crate) async fn connection(&self) -> Result<Object<AsyncPgConnection>, StoreError> {
        self.pool.get().await.map_err(|error| StoreError::Unreachable(error.to_string()))
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
        let rows: Vec<(Uuid, String, i64)> = house::table
            .filter(house::removed_at.is_null())
            .order((house::name, house::id))
            .select((house::id, house::name, house::revision))
            .load(&mut conn)
            .await?;
        Ok(rows.into_iter().map(|(id, name, revision)| HouseSummary { id: id.into(), name, revision }).collect())
    }

    /// Adds a whole house, if its id is free; tells whether it did. A house whose parts have ids that another house has
    /// gets new ones first ([`Self::apart`]).
    ///
    /// # Errors
    /// Where a part of it is refused or the database fails.
    pub async fn add_house(&self, site: &Site) -> Result<bool, StoreError> {
        let mut conn = self.connection().await?;
        conn.transaction(async |conn| {
            let added = insert_house(conn, &site.house).await?;
            if added {
                write(conn, site.house.id, &entities(site), 0).await?;
            }
            Ok(added)
        })
        .await
    }

    /// Makes a house apart from all others: where an id of it, or its own id, is one of another house, everything in it
    /// gets a new id. Tells whether that was so.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn apart(&self, site: Site) -> Result<(Site, bool), StoreError> {
        for known in self.houses().await? {
            let other = self.load(known.id).await?;
            if known.id == site.house.id || edit::copy::share_ids(&site, &other.site) {
                return Ok((edit::copy::house(&site, &mut Uuid::now_v7), true));
            }
        }
        Ok((site, false))
    }

    /// How many changes a house has seen.
    ///
    /// # Errors
    /// [`StoreError::NoHouse`] where there is none.
    pub async fn revision(&self, house: HouseId) -> Result<i64, StoreError> {
        let mut conn = self.connection().await?;
        let there = house::table.find(house.0).filter(house::removed_at.is_null());
        let revision = there.select(house::revision).first(&mut conn).await.optional()?;
        revision.ok_or(StoreError::NoHouse)
    }

    /// A house as it stands; read from the database only where it has changed there.
    ///
    /// # Errors
    /// [`StoreError::NoHouse`] where there is none.
    pub async fn load(&self, house: HouseId) -> Result<Arc<Snapshot>, StoreError> {
        let revision = self.revision(house).await?;
        if let Some(known) = self.known(house).filter(|known| known.revision == revision) {
            return Ok(known);
        }
        let mut conn = self.connection().await?;
        let fresh = conn
            .build_transaction()
            .read_only()
            .repeatable_read()
            .run(async |conn| snapshot(conn, house, false).await)
            .await?;
        let fresh = Arc::new(fresh);
        self.keep(house, &fresh);
        Ok(fresh)
    }

    /// What is known of these houses is not true any more.
    pub(crate) fn forget(&self, houses: &[HouseId]) {
        self.open.lock().unwrap_or_else(PoisonError::into_inner).retain(|house, _| !houses.contains(house));
    }

    fn known(&self, house: HouseId) -> Option<Arc<Snapshot>> {
        self.open.lock().unwrap_or_else(PoisonError::into_inner).get(&house).cloned()
    }

    fn keep(&self, house: HouseId, snapshot: &Arc<Snapshot>) {
        let mut open = self.open.lock().unwrap_or_else(PoisonError::into_inner);
        if open.get(&house).is_none_or(|known| known.revision <= snapshot.revision) {
            open.insert(house, snapshot.clone());
        }
    }

    /// The house with its row locked against other edits: as it is known, if it still is so.
    async fn locked(&self, conn: &mut AsyncPgConnection, id: HouseId) -> Result<Arc<Snapshot>, StoreError> {
        let revision: Option<i64> = house::table
            .find(id.0)
            .filter(house::removed_at.is_null())
            .select(house::revision)
            .for_update()
            .first(conn)
            .await
            .optional()?;
        let revision = revision.ok_or(StoreError::NoHouse)?;
        match self.known(id).filter(|known| known.revision == revision) {
            Some(known) => Ok(known),
            None => Ok(Arc::new(snapshot(conn, id, true).await?)),
        }
    }

    /// Carries edits out as one step that undo takes back whole.
    ///
    /// # Errors
    /// Where an edit is stale or refused; nothing is saved then.
    pub async fn edit(&self, house: HouseId, by: By<'_>, edits: &[Edit]) -> Result<Saved, StoreError> {
        // A request of one's own tells afterwards whether it was carried out, where the answer is lost.
        let by = By { request: Some(by.request.unwrap_or_else(Uuid::now_v7)), ..by };
        let on_its_way = AtomicBool::new(false);
        let done = self.edit_once(house, &by, edits, &on_its_way).await;
        self.surely(house, &by, done, &on_its_way).await
    }

    async fn edit_once(
        &self,
        house: HouseId,
        by: &By<'_>,
        edits: &[Edit],
        on_its_way: &AtomicBool,
    ) -> Result<Saved, StoreError> {
        let mut conn = self.connection().await?;
        let saved = conn
            .transaction(async |conn| {
                let now = self.locked(conn, house).await?;
                if let Some(saved) = answered(conn, &now, by).await? {
                    return Ok(saved);
                }
                let mut site = (*now.site).clone();
                let mut touched = BTreeSet::new();
                let mut changes = Vec::new();
                for edit in edits {
                    fresh(conn, &now, edit, &touched).await?;
                    let made = edit::apply(&mut site, edit)?;
                    touched.extend(made.iter().filter_map(Change::key));
                    changes.extend(made);
                }
                let title = edit::describe(&site, &changes);
                if changes.is_empty() {
                    return Ok(Saved {
                        before: now.clone(),
                        snapshot: now,
                        at: Utc::now(),
                        title,
                        kind: LogKind::Edit,
                        touched: vec![],
                        again: false,
                    });
                }
                let saved =
                    record(conn, now, site, Line { by, kind: LogKind::Edit, title, changes, about: None }).await?;
                on_its_way.store(true, Ordering::Relaxed);
                Ok::<_, StoreError>(saved)
            })
            .await?;
        self.keep(house, &saved.snapshot);
        Ok(saved)
    }

    /// Takes the last edit back.
    ///
    /// # Errors
    /// [`StoreError::Nothing`] where there is none, [`StoreError::Overtaken`] where something of it was changed since.
    pub async fn undo(&self, house: HouseId, by: By<'_>) -> Result<Saved, StoreError> {
        let by = By { request: Some(by.request.unwrap_or_else(Uuid::now_v7)), ..by };
        let on_its_way = AtomicBool::new(false);
        let done = self.again_once(house, &by, LogKind::Undo, &on_its_way).await;
        self.surely(house, &by, done, &on_its_way).await
    }

    /// Makes the last undone edit again.
    ///
    /// # Errors
    /// [`StoreError::Nothing`] where there is none, [`StoreError::Overtaken`] where something of it was changed since.
    pub async fn redo(&self, house: HouseId, by: By<'_>) -> Result<Saved, StoreError> {
        let by = By { request: Some(by.request.unwrap_or_else(Uuid::now_v7)), ..by };
        let on_its_way = AtomicBool::new(false);
        let done = self.again_once(house, &by, LogKind::Redo, &on_its_way).await;
        self.surely(house, &by, done, &on_its_way).await
    }

    async fn again_once(
        &self,
        house: HouseId,
        by: &By<'_>,
        kind: LogKind,
        on_its_way: &AtomicBool,
    ) -> Result<Saved, StoreError> {
        let mut conn = self.connection().await?;
        let saved = conn
            .transaction(async |conn| {
                let now = self.locked(conn, house).await?;
                if let Some(saved) = answered(conn, &now, by).await? {
                    return Ok(saved);
                }
                let undo = kind == LogKind::Undo;
                let row: Option<ChangeRow> = if undo {
                    history::undoable(conn, house.0).await?
                } else {
                    history::redoable(conn, house.0).await?
                };
                let row = row.ok_or(StoreError::Nothing(kind.name()))?;
                let mut site = (*now.site).clone();
                let changes = match kept::again(&mut site, &row.kept(&now.site)?, !undo)? {
                    Ok(changes) => changes,
                    Err(key) => {
                        let version = now.versions.get(&key).copied().unwrap_or(now.revision);
                        let since = history::title(conn, house.0, version).await?;
                        let name = name_of(&now.site, key);
                        return Err(StoreError::Overtaken { doing: kind.name(), title: row.title, name, by: since });
                    }
                };
                // What stands after it must be a house that an edit could have made.
                for entity in changes.iter().filter_map(|change| change.after.as_ref()) {
                    edit::validate(&site, entity)?;
                }
                diesel::update(change::table.find((house.0, row.revision)))
                    .set(change::undone.eq(undo))
                    .execute(conn)
                    .await?;
                let word = if undo { "Undone" } else { "Redone" };
                let whose = if row.who == by.who { String::new() } else { format!(" (by {})", row.who) };
                let title = format!("{word}: {}{whose}", row.title);
                let saved =
                    record(conn, now, site, Line { by, kind, title, changes, about: Some(row.revision) }).await?;
                on_its_way.store(true, Ordering::Relaxed);
                Ok::<_, StoreError>(saved)
            })
            .await?;
        self.keep(house, &saved.snapshot);
        Ok(saved)
    }

    /// Makes sure whether a change was carried out: where the connection broke while it was being committed, the request
    /// is looked for. Where it broke before that, nothing was saved for certain.
    async fn surely(
        &self,
        house: HouseId,
        by: &By<'_>,
        done: Result<Saved, StoreError>,
        on_its_way: &AtomicBool,
    ) -> Result<Saved, StoreError> {
        let lost = match done {
            Err(StoreError::Unreachable(why)) if on_its_way.load(Ordering::Relaxed) => why,
            other => return other,
        };
        for _ in 0..LOOKS {
            tokio::time::sleep(BETWEEN_LOOKS).await;
            match self.found(house, by).await {
                Ok(Some(saved)) => return Ok(saved),
                Ok(None) => return Err(StoreError::Unreachable(lost)),
                Err(_) => {}
            }
        }
        Err(StoreError::Unknown(lost))
    }

    /// What a request did, if it was carried out. The house is locked meanwhile, so that a change that is still on its way
    /// is either in or out.
    async fn found(&self, house: HouseId, by: &By<'_>) -> Result<Option<Saved>, StoreError> {
        let mut conn = self.connection().await?;
        let found = conn
            .transaction(async |conn| {
                let now = self.locked(conn, house).await?;
                answered(conn, &now, by).await
            })
            .await?;
        if let Some(saved) = &found {
            self.keep(house, &saved.snapshot);
        }
        Ok(found.map(|saved| Saved { again: false, ..saved }))
    }

    /// Lines of the log, the newest first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn log(&self, house: HouseId, before: Option<i64>, limit: u32) -> Result<Vec<LogEntry>, StoreError> {
        let now = self.load(house).await?;
        let mut conn = self.connection().await?;
        history::lines(&mut conn, &now.site, before, i64::from(limit.clamp(1, 500))).await
    }
}

/// The answer to a request that was carried out already: what it did, as the house stands now.
async fn answered(conn: &mut AsyncPgConnection, now: &Arc<Snapshot>, by: &By<'_>) -> Result<Option<Saved>, StoreError> {
    let Some(request) = by.request else { return Ok(None) };
    let Some(row) = history::of_request(conn, now.site.house.id.0, request).await? else { return Ok(None) };
    let touched = row.kept(&now.site)?.iter().map(Kept::key).collect();
    Ok(Some(Saved {
        before: now.clone(),
        snapshot: now.clone(),
        at: row.at,
        kind: row.log_kind()?,
        title: row.title,
        touched,
        again: true,
    }))
}

/// Is the edit made from the present version? Entities that this step touched before are.
async fn fresh(
    conn: &mut AsyncPgConnection,
    now: &Snapshot,
    edit: &Edit,
    touched: &BTreeSet<EntityKey>,
) -> Result<(), StoreError> {
    let (key, base) = match edit {
        Edit::Put { entity, base } => (entity.key(), *base),
        Edit::Remove { kind, id, base } => (EntityKey { kind: *kind, id: *id }, Some(*base)),
    };
    if touched.contains(&key) {
        return Ok(());
    }
    match (base, now.versions.get(&key)) {
        (None, None) => Ok(()),
        (Some(base), Some(&version)) if base == version => Ok(()),
        // The same picture again is the same picture.
        (None, Some(_)) if key.kind == edit::EntityKind::Picture => Ok(()),
        (None, Some(_)) => Err(StoreError::Exists),
        (Some(_), None) => Err(edit::EditError::Gone.into()),
        (Some(_), Some(&version)) => {
            let by = history::title(conn, now.site.house.id.0, version).await?;
            Err(StoreError::Stale { name: name_of(&now.site, key), by, version })
        }
    }
}

fn name_of(site: &Site, key: EntityKey) -> String {
    let name = edit::find(site, key).map(|entity| edit::name(site, &entity)).unwrap_or_default();
    if name.is_empty() { "Something of it".to_owned() } else { capital(&name) }
}

/// A line to be written.
struct Line<'a> {
    by: &'a By<'a>,
    kind: LogKind,
    title: String,
    changes: Vec<Change>,
    about: Option<i64>,
}

/// Writes changes and their line of the log, and gives the house after them.
async fn record(
    conn: &mut AsyncPgConnection,
    before: Arc<Snapshot>,
    site: Site,
    line: Line<'_>,
) -> Result<Saved, StoreError> {
    let id = site.house.id;
    let revision = before.revision + 1;
    let mut versions = (*before.versions).clone();
    let mut touched = BTreeSet::new();
    for change in &line.changes {
        let Some(key) = change.key() else { continue };
        touched.insert(key);
        if let Some(entity) = &change.after {
            rows::put(conn, id.0, entity, revision).await?;
            versions.insert(key, revision);
        } else {
            rows::take(conn, id.0, key).await?;
            versions.remove(&key);
        }
    }
    if line.kind == LogKind::Edit && !line.by.client {
        history::discard_undone(conn, id.0).await?;
    }
    let kept: Vec<Kept> =
        line.changes.iter().filter_map(|change| Kept::of(change).transpose()).collect::<Result<_, _>>()?;
    let at = Utc::now();
    let row = ChangeRow {
        house_id: id.0,
        revision,
        at,
        who: line.by.who.to_owned(),
        kind: line.kind.name().to_owned(),
        title: line.title.clone(),
        changes: serde_json::to_value(&kept)?,
        undone: false,
        about: line.about,
        format: upgrade::VERSION,
        discarded: false,
        by_client: line.by.client,
        request: line.by.request,
    };
    diesel::insert_into(change::table).values(&row).execute(conn).await?;
    diesel::update(house::table.find(id.0)).set(house::revision.eq(revision)).execute(conn).await?;
    let (undo, redo) = history::steps(conn, id.0).await?;
    let snapshot = Arc::new(Snapshot { site: Arc::new(site), versions: Arc::new(versions), revision, undo, redo });
    let touched = touched.into_iter().collect();
    Ok(Saved { before, snapshot, at, title: line.title, kind: line.kind, touched, again: false })
}

/// The row of a house; tells whether its id was free.
pub(crate) async fn insert_house(conn: &mut AsyncPgConnection, own: &House) -> Result<bool, StoreError> {
    let values = (house::id.eq(own.id.0), house::name.eq(&own.name), house::body.eq(serde_json::to_value(own)?));
    let added = diesel::insert_into(house::table)
        .values((values, house::revision.eq(0), house::version.eq(0)))
        .on_conflict_do_nothing()
        .execute(conn)
        .await?;
    Ok(added > 0)
}

/// Writes entities as they are.
pub(crate) async fn write(
    conn: &mut AsyncPgConnection,
    house: HouseId,
    all: &[Entity],
    version: i64,
) -> Result<(), StoreError> {
    for entity in all {
        rows::put(conn, house.0, entity, version).await?;
    }
    Ok(())
}

/// Reads a whole house, its row locked against other edits where `lock` is set.
pub(crate) async fn snapshot(conn: &mut AsyncPgConnection, id: HouseId, lock: bool) -> Result<Snapshot, StoreError> {
    let query = house::table.find(id.0).select((house::revision, house::version, house::body));
    let row: Option<(i64, i64, serde_json::Value)> =
        if lock { query.for_update().first(conn).await } else { query.first(conn).await }.optional()?;
    let (revision, version, body) = row.ok_or(StoreError::NoHouse)?;
    let own: House = serde_json::from_value(body)?;
    let mut versions = Versions::from([(Entity::House(own.clone()).key(), version)]);
    let mut site = Site::empty(own);
    for stored in rows::load(conn, id.0).await? {
        versions.insert(stored.key, stored.version);
        site.put(stored.entity);
    }
    site.sort();
    let (undo, redo) = history::steps(conn, id.0).await?;
    Ok(Snapshot { site: Arc::new(site), versions: Arc::new(versions), revision, undo, redo })
}
