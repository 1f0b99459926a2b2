//! What an edit of spoken names must satisfy.

use super::{EditError, field, name};
use crate::model::Voice;

pub(super) fn valid(voice: &Voice) -> Result<(), EditError> {
    if voice.names.len() > 500 {
        return Err(field("Spoken names", "500 things have names of their own at most."));
    }
    for spoken in &voice.names {
        if spoken.names.len() > 12 {
            return Err(field("Spoken names", "a thing has 12 names at most. Remove some."));
        }
        spoken.names.iter().try_for_each(|known| name("Spoken name", known))?;
    }
    Ok(())
}
