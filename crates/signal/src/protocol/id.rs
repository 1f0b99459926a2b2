//! Which protocol: one that is built in, or one that somebody has described.

use super::{
    BuiltIn, FieldError, Protocol, Protocols, kaseikyo, nec, nec_ext, nec32, pd16, pd32, pd42, rc5, rc5_more, rc6,
    rc6_6a, sirc,
};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::collections::BTreeMap;
use std::fmt;
use std::str::FromStr;
use std::sync::{PoisonError, RwLock};
use uuid::Uuid;

/// A protocol that somebody has described.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct DescribedId(pub Uuid);

/// Which protocol. Written as the name of one that is built in, or as `described:` and an id.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum ProtocolId {
    /// It comes with this crate.
    BuiltIn(BuiltIn),
    /// Somebody has described it.
    Described(DescribedId),
}

/// The protocols that were described since the program began: a message names its protocol by its id, and is read back
/// by it. There are as many as people describe, so they are kept for good.
static DESCRIBED: RwLock<BTreeMap<DescribedId, &'static Protocol>> = RwLock::new(BTreeMap::new());

const MARK: &str = "described:";

impl BuiltIn {
    /// All of them.
    pub const ALL: [Self; 16] = [
        Self::Nec,
        Self::NecExt,
        Self::Nec32,
        Self::Rc5,
        Self::Rc5x15,
        Self::Rc5x20,
        Self::Rc6,
        Self::Rc6Mode6a,
        Self::Rc6Mode6aToggle,
        Self::Sirc12,
        Self::Sirc15,
        Self::Sirc20,
        Self::Kaseikyo,
        Self::Pd32,
        Self::Pd16,
        Self::Pd42,
    ];

    /// The protocol of this name.
    #[must_use]
    pub fn protocol(self) -> &'static Protocol {
        match self {
            Self::Nec => &nec::NEC,
            Self::NecExt => &nec_ext::NEC_EXT,
            Self::Nec32 => &nec32::NEC_32,
            Self::Rc5 => &rc5::RC5,
            Self::Rc5x15 => &rc5_more::RC5_15,
            Self::Rc5x20 => &rc5_more::RC5_20,
            Self::Rc6 => &rc6::RC6,
            Self::Rc6Mode6a => &rc6_6a::RC6_6A,
            Self::Rc6Mode6aToggle => &rc6_6a::RC6_6A_T,
            Self::Sirc12 => &sirc::SIRC_12,
            Self::Sirc15 => &sirc::SIRC_15,
            Self::Sirc20 => &sirc::SIRC_20,
            Self::Kaseikyo => &kaseikyo::KASEIKYO,
            Self::Pd32 => &pd32::PD32,
            Self::Pd16 => &pd16::PD16,
            Self::Pd42 => &pd42::PD42,
        }
    }

    /// The name as written.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Nec => "nec",
            Self::NecExt => "nec-ext",
            Self::Nec32 => "nec-32",
            Self::Rc5 => "rc5",
            Self::Rc5x15 => "rc5-15",
            Self::Rc5x20 => "rc5-20",
            Self::Rc6 => "rc6",
            Self::Rc6Mode6a => "rc6-6a",
            Self::Rc6Mode6aToggle => "rc6-6a-t",
            Self::Sirc12 => "sirc-12",
            Self::Sirc15 => "sirc-15",
            Self::Sirc20 => "sirc-20",
            Self::Kaseikyo => "kaseikyo",
            Self::Pd32 => "pd32",
            Self::Pd16 => "pd16",
            Self::Pd42 => "pd42",
        }
    }
}

#[allow(non_upper_case_globals, missing_docs, reason = "the protocols that are built in, under one name")]
impl ProtocolId {
    pub const Nec: Self = Self::BuiltIn(BuiltIn::Nec);
    pub const NecExt: Self = Self::BuiltIn(BuiltIn::NecExt);
    pub const Nec32: Self = Self::BuiltIn(BuiltIn::Nec32);
    pub const Rc5: Self = Self::BuiltIn(BuiltIn::Rc5);
    pub const Rc5x15: Self = Self::BuiltIn(BuiltIn::Rc5x15);
    pub const Rc5x20: Self = Self::BuiltIn(BuiltIn::Rc5x20);
    pub const Rc6: Self = Self::BuiltIn(BuiltIn::Rc6);
    pub const Rc6Mode6a: Self = Self::BuiltIn(BuiltIn::Rc6Mode6a);
    pub const Rc6Mode6aToggle: Self = Self::BuiltIn(BuiltIn::Rc6Mode6aToggle);
    pub const Sirc12: Self = Self::BuiltIn(BuiltIn::Sirc12);
    pub const Sirc15: Self = Self::BuiltIn(BuiltIn::Sirc15);
    pub const Sirc20: Self = Self::BuiltIn(BuiltIn::Sirc20);
    pub const Kaseikyo: Self = Self::BuiltIn(BuiltIn::Kaseikyo);
    pub const Pd32: Self = Self::BuiltIn(BuiltIn::Pd32);
    pub const Pd16: Self = Self::BuiltIn(BuiltIn::Pd16);
    pub const Pd42: Self = Self::BuiltIn(BuiltIn::Pd42);
}

impl ProtocolId {
    /// The protocol; none where it was described elsewhere and is not known here.
    #[must_use]
    pub fn known(self) -> Option<&'static Protocol> {
        match self {
            Self::BuiltIn(own) => Some(own.protocol()),
            Self::Described(own) => DESCRIBED.read().unwrap_or_else(PoisonError::into_inner).get(&own).copied(),
        }
    }

    /// Is it one that comes with this crate?
    #[must_use]
    pub const fn built_in(self) -> Option<BuiltIn> {
        match self {
            Self::BuiltIn(own) => Some(own),
            Self::Described(_) => None,
        }
    }
}

impl From<BuiltIn> for ProtocolId {
    fn from(own: BuiltIn) -> Self {
        Self::BuiltIn(own)
    }
}

impl Protocol {
    /// Makes a described protocol known, in place of what was known under its id, so that messages can name it.
    pub fn make_known(self) -> &'static Self {
        let known: &'static Self = Box::leak(Box::new(self));
        if let ProtocolId::Described(id) = known.id {
            DESCRIBED.write().unwrap_or_else(PoisonError::into_inner).insert(id, known);
        }
        known
    }
}

impl fmt::Display for ProtocolId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::BuiltIn(own) => f.write_str(own.name()),
            Self::Described(own) => write!(f, "{MARK}{}", own.0),
        }
    }
}

impl FromStr for ProtocolId {
    type Err = FieldError;

    fn from_str(name: &str) -> Result<Self, FieldError> {
        if let Some(id) = name.strip_prefix(MARK).and_then(|id| id.parse().ok()) {
            return Ok(Self::Described(DescribedId(id)));
        }
        let own = BuiltIn::ALL.into_iter().find(|own| own.name() == name);
        own.map(Self::BuiltIn).ok_or_else(|| Protocols::built_in().unknown(name))
    }
}

impl Serialize for ProtocolId {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for ProtocolId {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        String::deserialize(deserializer)?.parse().map_err(serde::de::Error::custom)
    }
}

impl utoipa::PartialSchema for ProtocolId {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        <BuiltIn as utoipa::PartialSchema>::schema()
    }
}

impl utoipa::ToSchema for ProtocolId {
    fn name() -> std::borrow::Cow<'static, str> {
        "ProtocolId".into()
    }
}
