//! Papers that nobody has to write: the as-built record, the client's page, the order list. Each is one HTML document that
//! needs nothing else, prints on A4 in black and white, and carries house, room, date, revision and page number on every
//! page. A browser makes the PDF.

mod client;
mod html;
mod orders;
mod plan;
mod record;
#[cfg(test)]
mod tests;

pub use client::{Trouble, client, troubles};
pub use html::{escaped, page, place};
pub use orders::{OrderLine, orders, orders_html};
pub use record::{Chapter, RoomPart, record};

use crate::id::SurfaceId;
use std::collections::BTreeMap;

/// When a paper was made, and from which state of the house.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Made {
    /// The day, as it is printed.
    pub date: String,
    /// The revision of the house.
    pub revision: i64,
    /// The number of the handover, where it is one.
    pub handover: Option<i32>,
}

/// Where phones open each surface; empty where nothing stays in the house that would serve them.
pub type Links = BTreeMap<SurfaceId, String>;
