//! The protocols that a reader tries, as a value.

use super::{BuiltIn, FieldError, Protocol, ProtocolId};
use std::sync::LazyLock;

/// A set of protocols, in the order in which they are tried.
/// One that is described is added with [`Protocols::with`]; see [`super::describe`].
#[derive(Clone)]
pub struct Protocols(Vec<&'static Protocol>);

static BUILT_IN: LazyLock<Protocols> =
    LazyLock::new(|| Protocols(BuiltIn::ALL.into_iter().map(BuiltIn::protocol).collect()));

impl Protocols {
    /// Those that come with this crate.
    #[must_use]
    pub fn built_in() -> &'static Self {
        &BUILT_IN
    }

    /// The same set with one more protocol, in place of one with the same id.
    #[must_use]
    pub fn with(mut self, protocol: &'static Protocol) -> Self {
        self.0.retain(|known| known.id != protocol.id);
        self.0.push(protocol);
        self
    }

    /// The protocols in their order.
    pub fn iter(&self) -> impl ExactSizeIterator<Item = &'static Protocol> {
        self.0.iter().copied()
    }

    /// The protocol of this id.
    #[must_use]
    pub fn get(&self, id: ProtocolId) -> Option<&'static Protocol> {
        self.iter().find(|known| known.id == id)
    }

    /// That there is no protocol of this name, and which there are.
    pub(super) fn unknown(&self, name: &str) -> FieldError {
        let known: Vec<String> = self.iter().map(|known| known.id.to_string()).collect();
        FieldError::Protocol { name: name.chars().take(60).collect(), known: known.join(", ") }
    }
}
