//! The demo house: *Marram Point*, a lifeboat station turned family home on an invented coast. It is a site file,
//! `demo/marram-point.kdune.json`, read and checked like any other.
//!
//! Every maker, model, address and code in it is invented; its models began as those of [`crate::library`]. Ids are
//! fixed, so that links and tests stay valid ([`ids`]).
//!
//! *Boat Hall* is nearly done: two codes are missing on purpose, *Disc* on the receiver, which the film
//! needs (a capture of it lies in `demo/captures/receiver-disc.txt`), and *Stop* on the disc player. The
//! *Bunk Cabin* shows the mistakes that people make, and *Bunk Cabin, tidy* is the same room without.

pub mod ids;

use crate::file;
use crate::id::CodeId;
use crate::model::{Code, CodeBody, Site};
use kestrel_signal::{Message, ProtocolId};
use std::sync::LazyLock;

const FILE: &str = include_str!("../../../../demo/marram-point.kdune.json");

static HOUSE: LazyLock<Site> = LazyLock::new(|| {
    #[expect(clippy::expect_used, reason = "the file is part of the program, and read by its tests")]
    file::read(FILE).expect("demo/marram-point.kdune.json is a site file")
});

/// The papers of the first handover, that of *Bunk Cabin, tidy*, by name: as they were made then.
pub const HANDED_OVER: [(&str, &str); 3] = [
    ("record", include_str!("../../../../demo/handover/record.html")),
    ("client", include_str!("../../../../demo/handover/client.html")),
    ("orders", include_str!("../../../../demo/handover/orders.html")),
];

/// The house as a programmer finds it on the second day.
#[must_use]
pub fn marram_point() -> Site {
    HOUSE.clone()
}

/// What the receiver's remote sends for *Disc*, the code that the demo lacks.
#[must_use]
pub fn missing_code() -> Option<CodeBody> {
    let message = Message::new(ProtocolId::NecExt, [("address", 0x7a11), ("command", 0x31)]);
    message.ok().map(CodeBody::of)
}

/// The house with the code for *Disc* learned, so that the film can be sent.
#[must_use]
pub fn with_disc() -> Site {
    let mut site = marram_point();
    site.codes.extend(missing_code().map(|body| Code {
        id: ids::id::<CodeId>(8, 302),
        device: ids::receiver(),
        function: ids::receiver_disc(),
        body,
        captured: None,
        since: None,
        tested: None,
    }));
    site.sort();
    site
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_file_of_the_house_is_written_as_it_is_read() {
        assert_eq!(file::write(&marram_point()), FILE);
    }
}
