//! PostgreSQL through Diesel.
//!
//! A house is read as one [`Snapshot`] and changed only through [`Store::edit`], [`Store::undo`] and
//! [`Store::redo`]: each locks the house, checks versions, applies the change in the core, writes the
//! rows and a line of history in one transaction, and gives the new snapshot back.
//!
//! Files in the order in which data flows: [`schema`] tables, `rows` between rows and core types,
//! `write` single changes, `history` the log, `house` the operations, `attempts` what was tried (never undone).

mod attempts;
mod error;
mod history;
mod house;
mod links;
mod rows;
pub mod schema;
#[cfg(any(test, feature = "testing"))]
pub mod testing;
#[cfg(test)]
mod tests;
mod under_way;
mod write;

pub use attempts::{Attempt, AttemptKind, NewAttempt, PHOTO_MAX};
pub use error::StoreError;
pub use history::{LogEntry, LogKind};
pub use house::{HouseSummary, Saved, Snapshot, Store};
pub use links::Link;
