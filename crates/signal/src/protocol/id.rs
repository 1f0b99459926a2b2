//! Which protocol: one that is built in, or one that somebody has described.

use super::{
    BuiltIn, FieldError, Protocol, Protocols,
    described::{Known, describe},
    kaseikyo, nec, nec_ext, nec32, pd16, pd32, pd42, rc5, rc5_more, rc6, rc6_6a, sirc,
};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fmt;
use std::str::FromStr;
use std::sync::{PoisonError, RwLock};

/// A protocol that somebody has described: its name and its notation together, such as `doorbell{36k,400}<…`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct DescribedId(&'static str);

impl DescribedId {
    /// Of what is not kept yet.
    pub(super) const fn none() -> Self {
        Self("")
    }

    /// The protocol of this name and notation, where it is known.
    pub(super) fn known(text: &str) -> Option<&'static Protocol> {
        DESCRIBED.read().unwrap_or_else(PoisonError::into_inner).get(text).copied()
    }

    /// How many are known.
    pub(super) fn many() -> usize {
        DESCRIBED.read().unwrap_or_else(PoisonError::into_inner).len()
    }

    /// Its name.
    #[must_use]
    pub fn name(self) -> &'static str {
        self.0.split_once('{').map_or(self.0, |(name, _)| name)
    }

    /// Its notation.
    #[must_use]
    pub fn irp(self) -> &'static str {
        &self.0[self.name().len()..]
    }
}

/// Which protocol. Written as the name of one that is built in, or as `irp:`, the name and the notation of one that somebody
/// has described: that says what it means wherever it is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum ProtocolId {
    /// It comes with this crate.
    BuiltIn(BuiltIn),
    /// Somebody has described it.
    Described(DescribedId),
}

/// The protocols that were described since the program began. There are as many as people describe, so they are kept for
/// good.
static DESCRIBED: RwLock<Known> = RwLock::new(BTreeMap::new());

const MARK: &str = "irp:";

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
            Self::Described(own) => DescribedId::known(own.0),
        }
    }

    /// As it is written down: with its description, where it is one that somebody has described.
    #[must_use]
    pub fn written(self) -> Cow<'static, str> {
        match self {
            Self::BuiltIn(own) => own.name().into(),
            Self::Described(own) => format!("{MARK}{}", own.0).into(),
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
    /// Makes a described protocol known under its name and notation, so that messages can name it.
    pub(super) fn make_known(mut self, text: String) -> &'static Self {
        let mut all = DESCRIBED.write().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = all.get(&text) {
            return known;
        }
        self.id = ProtocolId::Described(DescribedId(text.clone().leak()));
        let known: &'static Self = Box::leak(Box::new(self));
        all.insert(text, known);
        known
    }
}

impl fmt::Display for ProtocolId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::BuiltIn(own) => f.write_str(own.name()),
            Self::Described(own) => f.write_str(own.name()),
        }
    }
}

impl FromStr for ProtocolId {
    type Err = FieldError;

    fn from_str(name: &str) -> Result<Self, FieldError> {
        if let Some(text) = name.strip_prefix(MARK) {
            let (name, _) = text.split_once('{').unwrap_or((text, ""));
            let described = describe(name, &text[name.len()..]);
            return described.map(|own| own.id).map_err(|why| FieldError::Described(why.to_string()));
        }
        let own = BuiltIn::ALL.into_iter().find(|own| own.name() == name);
        own.map(Self::BuiltIn).ok_or_else(|| Protocols::built_in().unknown(name))
    }
}

impl Serialize for ProtocolId {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&self.written())
    }
}

impl<'de> Deserialize<'de> for ProtocolId {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        String::deserialize(deserializer)?.parse().map_err(serde::de::Error::custom)
    }
}

impl utoipa::PartialSchema for ProtocolId {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        utoipa::openapi::ObjectBuilder::new()
            .schema_type(utoipa::openapi::schema::Type::String)
            .description(Some(
                "The name of a protocol that is built in, or `irp:`, a name and a description in IRP, such as `irp:doorbell{36k,400}<1,-1|1,-3>(6,-2,K:8,~K:8,1,^50m)*[K:0..255]`.",
            ))
            .into()
    }
}

impl utoipa::ToSchema for ProtocolId {
    fn name() -> std::borrow::Cow<'static, str> {
        "ProtocolId".into()
    }
}
