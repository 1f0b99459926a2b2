//! Protocols that a house's people have described.

use crate::id::DescribedProtocolId;
use crate::model::{CodeBody, Site};
use kestrel_signal::Protocols;
use kestrel_signal::protocol::{NotDescribed, Protocol, ProtocolId, describe};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A protocol that somebody has described. Codes carry the description themselves: this is what captures are read with.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct DescribedProtocol {
    /// Its id.
    pub id: DescribedProtocolId,
    /// What it is called: letters, digits and hyphens.
    pub name: String,
    /// What it says, in IRP.
    pub irp: String,
    /// Where it is from: which remote, who described it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

impl DescribedProtocol {
    /// The protocol itself.
    ///
    /// # Errors
    /// What is wrong with its name or its description.
    pub fn protocol(&self) -> Result<&'static Protocol, NotDescribed> {
        describe(&self.name, &self.irp)
    }
}

impl CodeBody {
    /// Is it a message of this protocol?
    #[must_use]
    pub fn is_of(&self, protocol: ProtocolId) -> bool {
        matches!(self, Self::Decoded { message, .. } if message.protocol_id() == protocol)
    }
}

impl Site {
    /// Every protocol that captures are read with here: what is built in, what this house has described, and what its codes
    /// bring with them.
    #[must_use]
    pub fn protocols_read(&self) -> Protocols {
        let mut all = Protocols::built_in().clone();
        for own in self.protocols.iter().filter_map(|own| own.protocol().ok()) {
            all = all.with(own);
        }
        for code in &self.codes {
            if let CodeBody::Decoded { message, .. } = &code.body
                && matches!(message.protocol_id(), ProtocolId::Described(_))
                && all.get(message.protocol_id()).is_none()
            {
                all = all.with(message.protocol());
            }
        }
        all
    }
}
