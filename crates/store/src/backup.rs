//! Everything that the database holds of houses, as rows of JSON, and the way back.
//!
//! A table is text: one row a line, as PostgreSQL writes it. Rows are put back in one transaction that ends only if every
//! house can be read again: whatever is wrong with them, nothing is touched then.

use crate::house::snapshot;
use crate::{Store, StoreError};
use diesel::prelude::*;
use diesel::sql_types::{Array, Json, Text, Uuid as SqlUuid};
use diesel_async::{AsyncConnection, AsyncPgConnection, RunQueryDsl};
use kestrel_core::file;
use kestrel_core::id::HouseId;
use kestrel_core::model::Secrets;
use serde_json::Value;
use std::collections::BTreeMap;
use std::fmt::Write as _;
use uuid::Uuid;

/// The tables of a house, each after those that it refers to, with the columns that order its rows.
const TABLES: [(&str, &str); 30] = [
    ("house", "id"),
    ("room", "id"),
    ("profile", "id"),
    ("device", "id"),
    ("connection", "id"),
    ("code", "id"),
    ("activity", "id"),
    ("code_set", "id"),
    ("picture", "id"),
    ("light", "id"),
    ("voice", "id"),
    ("plan_rules", "id"),
    ("described", "id"),
    ("floor", "id"),
    ("placed", "id"),
    ("cue", "id"),
    ("surface", "id"),
    ("story", "id"),
    ("accepted", "id"),
    ("measurement", "id"),
    ("test_result", "id"),
    ("wanted", "id"),
    ("change", "house_id, revision"),
    ("attempt", "at, id"),
    ("photo", "house_id, id"),
    ("service_call", "at, id"),
    ("visit", "at, id"),
    ("handover", "house_id, number"),
    ("surface_link", "token"),
    ("house_before", "house_id"),
];

/// Texts that are secret, wherever they stand in a row.
const SECRET: [&str; 3] = ["password", "local_key", "account"];

/// The leave to drive a real device: of this installation, and never in a backup.
const LEAVE: &str = "allowed";

/// Rows that are put back at once.
const ROWS: usize = 500;

/// Tables by name, one row a line.
pub type Tables = BTreeMap<String, String>;

/// Why rows cannot be put back.
#[derive(Debug, thiserror::Error)]
pub enum RestoreError {
    /// A table that this program does not have.
    #[error("there is a table “{0}”, which this program does not know. Take a newer one")]
    UnknownTable(String),
    /// A line that is no row.
    #[error("{table}, line {line}: {problem}. The backup is damaged: take another one")]
    Row {
        /// Of which table.
        table: String,
        /// From 1.
        line: usize,
        /// What is wrong.
        problem: String,
    },
    /// A house that cannot be read back.
    #[error("{house}: {problem}. The backup is damaged: take another one")]
    House {
        /// Which.
        house: String,
        /// What is wrong.
        problem: String,
    },
    /// The database failed.
    #[error(transparent)]
    Store(#[from] StoreError),
}

impl From<diesel::result::Error> for RestoreError {
    fn from(error: diesel::result::Error) -> Self {
        Self::Store(error.into())
    }
}

#[derive(QueryableByName)]
struct Line {
    #[diesel(sql_type = Text)]
    line: String,
}

/// Which column of a table names the house.
fn owner(table: &str) -> &'static str {
    if table == "house" { "id" } else { "house_id" }
}

impl Store {
    /// The rows of these houses, as they stand at one moment. Leave to drive real devices is not among them; keys,
    /// passwords, accounts and links only where they are asked for.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn rows_of(&self, houses: &[HouseId], secrets: Secrets) -> Result<Tables, StoreError> {
        let ids: Vec<Uuid> = houses.iter().map(|house| house.0).collect();
        let mut conn = self.connection().await?;
        let tables = conn
            .build_transaction()
            .read_only()
            .repeatable_read()
            .run(async |conn| {
                let mut tables = Tables::new();
                for (table, order) in TABLES {
                    if table == "surface_link" && secrets == Secrets::LeftOut {
                        continue;
                    }
                    let own = owner(table);
                    let sql = format!(
                        "select row_to_json(t)::text as line from {table} t where {own} = any($1) order by {order}"
                    );
                    let rows: Vec<Line> = diesel::sql_query(sql).bind::<Array<SqlUuid>, _>(&ids).load(conn).await?;
                    let mut text = String::new();
                    for row in rows {
                        let _ = writeln!(text, "{}", without(&row.line, secrets)?);
                    }
                    tables.insert(table.to_owned(), text);
                }
                Ok::<_, StoreError>(tables)
            })
            .await?;
        Ok(tables)
    }

    /// Puts rows in the place of the houses that they are of. Other houses stay as they are.
    ///
    /// # Errors
    /// A [`RestoreError`]; nothing was touched then.
    pub async fn put_rows(&self, houses: &[HouseId], tables: &Tables) -> Result<(), RestoreError> {
        let read = read(houses, tables)?;
        let ids: Vec<Uuid> = houses.iter().map(|house| house.0).collect();
        let mut conn = self.connection().await?;
        conn.transaction(async |conn| {
            diesel::sql_query("delete from house where id = any($1)")
                .bind::<Array<SqlUuid>, _>(&ids)
                .execute(conn)
                .await?;
            for (table, _) in TABLES {
                for rows in read.get(table).map(Vec::as_slice).unwrap_or_default().chunks(ROWS) {
                    insert(conn, table, rows).await?;
                }
            }
            for &house in houses {
                readable(conn, house).await?;
            }
            Ok::<_, RestoreError>(())
        })
        .await?;
        self.forget(houses);
        Ok(())
    }
}

async fn insert(conn: &mut AsyncPgConnection, table: &str, rows: &[Value]) -> Result<(), RestoreError> {
    let sql = format!("insert into {table} select * from json_populate_recordset(null::{table}, $1)");
    let done = diesel::sql_query(sql).bind::<Json, _>(Value::Array(rows.to_vec())).execute(conn).await;
    match done.map_err(StoreError::from) {
        Ok(_) => Ok(()),
        Err(StoreError::Database(error)) => {
            Err(RestoreError::Row { table: table.to_owned(), line: 1, problem: error.to_string() })
        }
        Err(other) => Err(other.into()),
    }
}

/// Can the house be read, and is it one that a file could hold?
async fn readable(conn: &mut AsyncPgConnection, house: HouseId) -> Result<(), RestoreError> {
    let wrong = |problem: String| RestoreError::House { house: house.to_string(), problem };
    let found = snapshot(conn, house, false).await;
    let found = found.map_err(|error| match error {
        StoreError::Unreadable(why) => wrong(why),
        StoreError::NoHouse => wrong("it is not there".to_owned()),
        other => other.into(),
    })?;
    file::read(&file::write(&found.site)).map(|_| ()).map_err(|error| wrong(error.to_string()))
}

/// The rows of all tables, each of one of the houses.
fn read(houses: &[HouseId], tables: &Tables) -> Result<BTreeMap<String, Vec<Value>>, RestoreError> {
    let mut all = BTreeMap::new();
    for (table, text) in tables {
        if !TABLES.iter().any(|(known, _)| known == table) {
            return Err(RestoreError::UnknownTable(table.clone()));
        }
        let mut rows = Vec::new();
        for (at, line) in text.lines().enumerate() {
            let wrong = |problem: String| RestoreError::Row { table: table.clone(), line: at + 1, problem };
            let mut row: Value = serde_json::from_str(line).map_err(|error| wrong(error.to_string()))?;
            let of = row.get(owner(table)).and_then(Value::as_str).and_then(|id| id.parse::<Uuid>().ok());
            if !of.is_some_and(|of| houses.iter().any(|house| house.0 == of)) {
                return Err(wrong("it is of no house of this backup".to_owned()));
            }
            // Whoever wrote the file: leave is given here, never brought along.
            blank(&mut row, &|name| name == LEAVE);
            rows.push(row);
        }
        all.insert(table.clone(), rows);
    }
    Ok(all)
}

/// A row without what may not leave.
fn without(line: &str, secrets: Secrets) -> Result<Value, StoreError> {
    let mut row: Value = serde_json::from_str(line)?;
    blank(&mut row, &|name| name == LEAVE || (secrets == Secrets::LeftOut && SECRET.contains(&name)));
    Ok(row)
}

/// Empties every text under one of these names: as a field, and as what a difference of the history puts in its place.
fn blank(value: &mut Value, is: &dyn Fn(&str) -> bool) {
    match value {
        Value::Array(list) => list.iter_mut().for_each(|one| blank(one, is)),
        Value::Object(fields) => {
            let of_path = fields.get("path").and_then(Value::as_str).and_then(|path| path.rsplit('/').next());
            let puts = of_path.is_some_and(is);
            for (name, one) in fields.iter_mut() {
                match one {
                    Value::String(text) if is(name) || (puts && name == "value") => text.clear(),
                    other => blank(other, is),
                }
            }
        }
        _ => {}
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn secrets_are_emptied_as_fields_and_in_differences() {
        let row = json!({
            "body": {"network": {"allowed": "192.0.2.7:23", "password": "p", "ip": "192.0.2.7"}, "records": {"local_key": "k"}},
            "changes": [{"forth": [{"op": "replace", "path": "/network/password", "value": "q"},
                {"op": "replace", "path": "/network", "value": {"allowed": "a", "account": "c"}}]}]
        });
        let kept = without(&row.to_string(), Secrets::Kept).unwrap();
        assert_eq!(kept["body"]["network"], json!({"allowed": "", "password": "p", "ip": "192.0.2.7"}));
        assert_eq!(kept["changes"][0]["forth"][1]["value"], json!({"allowed": "", "account": "c"}));
        let bare = without(&row.to_string(), Secrets::LeftOut).unwrap();
        assert_eq!(
            bare["body"],
            json!({"network": {"allowed": "", "password": "", "ip": "192.0.2.7"}, "records": {"local_key": ""}})
        );
        assert_eq!(bare["changes"][0]["forth"][0]["value"], "");
    }

    #[test]
    fn a_row_of_another_house_is_refused() {
        let (own, other) = (Uuid::from_u128(1), Uuid::from_u128(2));
        let tables = Tables::from([("room".to_owned(), json!({"house_id": other, "id": other}).to_string())]);
        let said = read(&[HouseId(own)], &tables).unwrap_err().to_string();
        assert!(said.starts_with("room, line 1: it is of no house of this backup"), "{said}");
    }
}
