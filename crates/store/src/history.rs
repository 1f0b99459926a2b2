//! The log of a house.

use crate::StoreError;
use crate::schema::change;
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel_async::{AsyncPgConnection, RunQueryDsl};
use kestrel_core::edit::Change;
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
    /// What happened to each entity.
    pub changes: Vec<Change>,
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
}

impl ChangeRow {
    pub(crate) fn changes(&self) -> Result<Vec<Change>, StoreError> {
        Ok(serde_json::from_value(self.changes.clone())?)
    }

    fn into_entry(self) -> Result<LogEntry, StoreError> {
        let kind = match self.kind.as_str() {
            "edit" => LogKind::Edit,
            "undo" => LogKind::Undo,
            "redo" => LogKind::Redo,
            other => return Err(StoreError::Unreadable(other.to_owned())),
        };
        Ok(LogEntry {
            revision: self.revision,
            at: self.at,
            kind,
            undone: self.undone,
            changes: self.changes()?,
            who: self.who,
            title: self.title,
        })
    }
}

/// The edit that undo would take back: the last one that is not undone.
pub(crate) async fn undoable(conn: &mut AsyncPgConnection, house: Uuid) -> Result<Option<ChangeRow>, StoreError> {
    Ok(change::table
        .filter(change::house_id.eq(house))
        .filter(change::kind.eq(LogKind::Edit.name()))
        .filter(change::undone.eq(false))
        .order(change::revision.desc())
        .select(ChangeRow::as_select())
        .first(conn)
        .await
        .optional()?)
}

/// The edit that redo would make again: the first undone one after the last that stands.
pub(crate) async fn redoable(conn: &mut AsyncPgConnection, house: Uuid) -> Result<Option<ChangeRow>, StoreError> {
    let last: Option<i64> = change::table
        .filter(change::house_id.eq(house))
        .filter(change::kind.eq(LogKind::Edit.name()))
        .filter(change::undone.eq(false))
        .select(diesel::dsl::max(change::revision))
        .first(conn)
        .await?;
    Ok(change::table
        .filter(change::house_id.eq(house))
        .filter(change::kind.eq(LogKind::Edit.name()))
        .filter(change::undone.eq(true))
        .filter(change::revision.gt(last.unwrap_or(0)))
        .order(change::revision.asc())
        .select(ChangeRow::as_select())
        .first(conn)
        .await
        .optional()?)
}

/// The line that made this revision, in words.
pub(crate) async fn title(conn: &mut AsyncPgConnection, house: Uuid, revision: i64) -> Result<String, StoreError> {
    let title: Option<(String, DateTime<Utc>)> =
        change::table.find((house, revision)).select((change::title, change::at)).first(conn).await.optional()?;
    Ok(title
        .map_or_else(|| "by someone else".to_owned(), |(title, at)| format!("“{title}”, {} UTC", at.format("%H:%M"))))
}

/// At most `limit` lines before revision `before` (or the newest), the newest first.
pub(crate) async fn lines(
    conn: &mut AsyncPgConnection,
    house: Uuid,
    before: Option<i64>,
    limit: i64,
) -> Result<Vec<LogEntry>, StoreError> {
    let rows: Vec<ChangeRow> = change::table
        .filter(change::house_id.eq(house))
        .filter(change::revision.lt(before.unwrap_or(i64::MAX)))
        .order(change::revision.desc())
        .limit(limit)
        .select(ChangeRow::as_select())
        .load(conn)
        .await?;
    rows.into_iter().map(ChangeRow::into_entry).collect()
}
