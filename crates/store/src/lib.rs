//! PostgreSQL through Diesel.
//!
//! A house is read as one [`Snapshot`] and changed only through [`Store::edit`], [`Store::undo`] and
//! [`Store::redo`]: each locks the house, checks versions, applies the change in the core, writes the
//! rows and a line of history in one transaction, and gives the new snapshot back.
//!
//! Files in the order in which data flows: [`schema`] tables, `rows` between rows and entities, `kept` how a line of the
//! history keeps what happened, `history` the log and the line of undo, `house` the operations, `migrate` from older
//! versions; `attempts`, `calls`, `links`, `logbook`, `handovers` and `under_way` are facts beside the house, never undone.

mod attempts;
mod backup;
mod calls;
mod error;
mod handovers;
mod history;
mod house;
mod kept;
mod links;
mod logbook;
mod migrate;
mod rows;
pub mod schema;
mod sessions;
mod shelf;
#[cfg(any(test, feature = "testing"))]
pub mod testing;
#[cfg(test)]
mod tests;
mod under_way;

pub use attempts::{Attempt, AttemptKind, NewAttempt, PHOTO_MAX};
pub use backup::{RestoreError, Tables};
pub use calls::{Amiss, Facts, ServiceCall};
pub use error::StoreError;
pub use handovers::{Handover, NewHandover};
pub use history::{HistoryStep, LogEntry, LogKind};
pub use house::{By, HouseSummary, Saved, Snapshot, Store, Versions};
pub use kept::{Fate, Touched};
pub use links::SurfaceLink;
pub use logbook::{NewVisit, Visit, VisitKind};
pub use sessions::Session;
pub use shelf::{KEPT, OnShelf};
