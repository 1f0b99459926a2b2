//! The log of a house, and the line along which a programmer undoes and redoes.
//!
//! The line is made of edits. Undo takes back its last edit that stands; redo makes the last one again that was taken
//! back. A new edit discards what was taken back: it stays in the log and is never made again. What a client of a surface
//! stores is in the log and not on the line.

use crate::StoreError;
use crate::kept::{self, Kept, Touched};
use crate::schema::change;
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::{AsyncPgConnection, RunQueryDsl};
use kestrel_core::model::Site;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// What kind of line a line of the log is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum LogKind {
    /// Something was changed.
    Edit,
    /// A change was taken back.
    Undo,
    /// A change that had been taken back was made again.
    Redo,
}

impl LogKind {
    pub(crate) fn name(self) -> &'static str {
        match self {
            Self::Edit => "edit",
            Self::Undo => "undo",
            Self::Redo => "redo",
        }
    }
}

/// A line of the log.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LogEntry {
    /// The revision of the house that it made.
    pub revision: i64,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// Who: the name that the page gave.
    pub who: String,
    /// Its kind.
    pub kind: LogKind,
    /// What happened, in words.
    pub title: String,
    /// Has it been taken back?
    pub undone: bool,
    /// Was it made by a client of a surface?
    pub by_client: bool,
    /// What happened to each entity.
    pub changes: Vec<Touched>,
}

/// What undo would take back, or redo make again.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = HistoryStep)]
pub struct HistoryStep {
    /// What it was, in words.
    pub title: String,
    /// Who did it.
    pub who: String,
    /// When, in UTC.
    pub at: DateTime<Utc>,
}

#[derive(Queryable, Selectable, Insertable)]
#[diesel(table_name = change, check_for_backend(diesel::pg::Pg))]
pub(crate) struct ChangeRow {
    pub(crate) house_id: Uuid,
    pub(crate) revision: i64,
    pub(crate) at: DateTime<Utc>,
    pub(crate) who: String,
    pub(crate) kind: String,
    pub(crate) title: String,
    pub(crate) changes: serde_json::Value,
    pub(crate) undone: bool,
    pub(crate) about: Option<i64>,
    pub(crate) format: i32,
    pub(crate) discarded: bool,
    pub(crate) by_client: bool,
    pub(crate) request: Option<Uuid>,
}

impl ChangeRow {
    pub(crate) fn kept(&self, site: &Site) -> Result<Vec<Kept>, StoreError> {
        kept::read(&self.changes, self.format, site)
    }

    pub(crate) fn log_kind(&self) -> Result<LogKind, StoreError> {
        [LogKind::Edit, LogKind::Undo, LogKind::Redo]
            .into_iter()
            .find(|kind| kind.name() == self.kind)
            .ok_or_else(|| StoreError::Unreadable(self.kind.clone()))
    }

    fn into_entry(self, site: &Site) -> Result<LogEntry, StoreError> {
        let changes = self.kept(site)?.iter().map(Kept::touched).collect();
        Ok(LogEntry {
            kind: self.log_kind()?,
            revision: self.revision,
            at: self.at,
            undone: self.undone,
            by_client: self.by_client,
            changes,
            who: self.who,
            title: self.title,
        })
    }
}

/// The ends of the line: what undo would take back and what redo would make again, without their changes.
pub(crate) async fn steps(
    conn: &mut AsyncPgConnection,
    house: Uuid,
) -> Result<(Option<HistoryStep>, Option<HistoryStep>), StoreError> {
    let step = |(title, who, at)| HistoryStep { title, who, at };
    let columns = (change::title, change::who, change::at);
    let line = || {
        change::table
            .filter(change::house_id.eq(house))
            .filter(change::kind.eq(LogKind::Edit.name()))
            .filter(change::discarded.eq(false))
            .filter(change::by_client.eq(false))
    };
    let undo: Option<(String, String, DateTime<Utc>)> = line()
        .filter(change::undone.eq(false))
        .order(change::revision.desc())
        .select(columns)
        .first(conn)
        .await
        .optional()?;
    let redo: Option<(String, String, DateTime<Utc>)> = line()
        .filter(change::undone.eq(true))
        .order(change::revision.asc())
        .select(columns)
        .first(conn)
        .await
        .optional()?;
    Ok((undo.map(step), redo.map(step)))
}

/// The edit that undo would take back: the last of the line that stands.
pub(crate) async fn undoable(conn: &mut AsyncPgConnection, house: Uuid) -> Result<Option<ChangeRow>, StoreError> {
    Ok(change::table
        .filter(change::house_id.eq(house))
        .filter(change::kind.eq(LogKind::Edit.name()))
        .filter(change::undone.eq(false))
        .filter(change::by_client.eq(false))
        .order(change::revision.desc())
        .select(ChangeRow::as_select())
        .first(conn)
        .await
        .optional()?)
}

/// The edit that redo would make again: the first of the line that was taken back.
pub(crate) async fn redoable(conn: &mut AsyncPgConnection, house: Uuid) -> Result<Option<ChangeRow>, StoreError> {
    Ok(change::table
        .filter(change::house_id.eq(house))
        .filter(change::kind.eq(LogKind::Edit.name()))
        .filter(change::undone.eq(true))
        .filter(change::discarded.eq(false))
        .filter(change::by_client.eq(false))
        .order(change::revision.asc())
        .select(ChangeRow::as_select())
        .first(conn)
        .await
        .optional()?)
}

/// A new edit: what had been taken back is never made again.
pub(crate) async fn discard_undone(conn: &mut AsyncPgConnection, house: Uuid) -> Result<(), StoreError> {
    let undone = change::table
        .filter(change::house_id.eq(house))
        .filter(change::kind.eq(LogKind::Edit.name()))
        .filter(change::undone.eq(true))
        .filter(change::discarded.eq(false));
    diesel::update(undone).set(change::discarded.eq(true)).execute(conn).await?;
    Ok(())
}

/// The line that a request has made already.
pub(crate) async fn of_request(
    conn: &mut AsyncPgConnection,
    house: Uuid,
    request: Uuid,
) -> Result<Option<ChangeRow>, StoreError> {
    Ok(change::table
        .filter(change::house_id.eq(house))
        .filter(change::request.eq(request))
        .select(ChangeRow::as_select())
        .first(conn)
        .await
        .optional()?)
}

/// The line that made this revision, in words.
pub(crate) async fn title(conn: &mut AsyncPgConnection, house: Uuid, revision: i64) -> Result<String, StoreError> {
    let line: Option<(String, String, DateTime<Utc>)> = change::table
        .find((house, revision))
        .select((change::title, change::who, change::at))
        .first(conn)
        .await
        .optional()?;
    Ok(line.map_or_else(
        || "by someone else".to_owned(),
        |(title, who, at)| format!("“{title}” by {who}, {} UTC", at.format("%H:%M")),
    ))
}

/// At most `limit` lines before revision `before` (or the newest), the newest first.
pub(crate) async fn lines(
    conn: &mut AsyncPgConnection,
    site: &Site,
    before: Option<i64>,
    limit: i64,
) -> Result<Vec<LogEntry>, StoreError> {
    let rows: Vec<ChangeRow> = change::table
        .filter(change::house_id.eq(site.house.id.0))
        .filter(change::revision.lt(before.unwrap_or(i64::MAX)))
        .order(change::revision.desc())
        .limit(limit)
        .select(ChangeRow::as_select())
        .load(conn)
        .await?;
    rows.into_iter().map(|row| row.into_entry(site)).collect()
}
