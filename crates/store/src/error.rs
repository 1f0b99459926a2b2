//! What can go wrong between the core and the database.

use kestrel_core::edit::EditError;
use thiserror::Error;

/// Why an operation of the store failed.
#[derive(Debug, Error)]
pub enum StoreError {
    /// There is no such house.
    #[error("There is no such house. Go back to the list of houses.")]
    NoHouse,
    /// The edit was made from an older version than the present one.
    #[error(
        "{name} was changed in the meantime ({by}). Your entries are still here: look at the change, then save again."
    )]
    Stale {
        /// What was changed.
        name: String,
        /// The newer change, in words.
        by: String,
        /// The version that is there now.
        version: i64,
    },
    /// A new entity has an id that is taken.
    #[error("This was saved already, perhaps from another page. Reload to see it.")]
    Exists,
    /// The core refused it.
    #[error(transparent)]
    Refused(#[from] EditError),
    /// What is to be undone or redone has been changed by somebody else since.
    #[error(
        "“{title}” cannot be {}: {name} was changed since ({by}), and that would be overwritten. Change it by hand instead.",
        if *doing == "undo" { "undone" } else { "redone" }
    )]
    Overtaken {
        /// `undo` or `redo`.
        doing: &'static str,
        /// The edit.
        title: String,
        /// What stands in the way.
        name: String,
        /// What has changed it, in words.
        by: String,
    },
    /// There is nothing to undo or redo.
    #[error("There is nothing to {0}.")]
    Nothing(&'static str),
    /// The database holds something that this program does not understand.
    #[error(
        "The database holds a value that this version cannot read ({0}). It was written by a newer version, or by hand."
    )]
    Unreadable(String),
    /// The database cannot be reached.
    #[error("The database cannot be reached at the moment. Nothing was saved; it will be tried again.")]
    Unreachable(String),
    /// The connection broke while a change was on its way, and the database cannot be asked what became of it.
    #[error(
        "The connection to the database broke while this was being saved. It may be saved or not: reload the page to see."
    )]
    Unknown(String),
    /// Something else still needs what was to be removed, or what was referred to is gone.
    #[error(
        "Something else in this house still refers to it, or it refers to what is gone. Reload the page and look again."
    )]
    Tied,
    /// A text holds what no text in a database can.
    #[error("A text holds a NUL character, which cannot be kept. Type it again instead of pasting it.")]
    Nul,
    /// The database refused it.
    #[error("The database refused the change. Nothing was saved.")]
    Database(#[source] diesel::result::Error),
}

impl From<diesel::result::Error> for StoreError {
    fn from(error: diesel::result::Error) -> Self {
        use diesel::result::{DatabaseErrorKind, Error};
        match error {
            Error::DatabaseError(DatabaseErrorKind::ClosedConnection, info) => {
                Self::Unreachable(info.message().to_owned())
            }
            Error::BrokenTransactionManager => Self::Unreachable("the connection broke".to_owned()),
            // An administrator stops the server: class 57 has no kind of its own.
            Error::DatabaseError(_, ref info)
                if ["terminating connection", "connection closed", "shutting down"]
                    .iter()
                    .any(|sign| info.message().contains(sign)) =>
            {
                Self::Unreachable(info.message().to_owned())
            }
            Error::DatabaseError(DatabaseErrorKind::ForeignKeyViolation, _) => Self::Tied,
            // Classes 22021 and 22P05: a NUL in a text, plain or in JSON.
            Error::DatabaseError(_, ref info)
                if ["byte sequence for encoding", "unsupported Unicode escape"]
                    .iter()
                    .any(|sign| info.message().contains(sign)) =>
            {
                Self::Nul
            }
            other => Self::Database(other),
        }
    }
}

impl From<serde_json::Error> for StoreError {
    fn from(error: serde_json::Error) -> Self {
        Self::Unreadable(error.to_string())
    }
}
