//! A message: a protocol with the values of its fields.

use super::{Layout, MAX_FIELDS, Period, Protocol, ProtocolId, Protocols, Turn, Values};
use serde::de::{Error as _, MapAccess, Visitor};
use serde::{Deserialize, Deserializer, Serialize};
use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::fmt;
use std::hash::{Hash, Hasher};
use thiserror::Error;
use utoipa::ToSchema;

/// A protocol and the values of its fields: what one key says.
#[derive(Clone, Copy, Serialize, Deserialize)]
#[serde(try_from = "RawMessage", into = "RawMessage")]
pub struct Message {
    protocol: &'static Protocol,
    values: Values,
}

// Two messages are told apart by what they say.
impl Message {
    fn says(&self) -> (ProtocolId, Values) {
        (self.protocol.id, self.values)
    }
}

impl PartialEq for Message {
    fn eq(&self, other: &Self) -> bool {
        self.says() == other.says()
    }
}

impl Eq for Message {}

impl Hash for Message {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.says().hash(state);
    }
}

impl PartialOrd for Message {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Message {
    fn cmp(&self, other: &Self) -> Ordering {
        self.says().cmp(&other.says())
    }
}

/// A message as it stands in JSON.
#[derive(Clone, Serialize, Deserialize, ToSchema)]
#[schema(as = Message)]
pub struct RawMessage {
    /// The protocol's name.
    protocol: ProtocolId,
    /// Field names and values, such as `{"address": 4, "command": 8}`.
    #[serde(deserialize_with = "each_once")]
    fields: BTreeMap<String, u32>,
}

/// Fields by name; one that is given twice is a mistake, not the last of the two.
fn each_once<'de, D: Deserializer<'de>>(deserializer: D) -> Result<BTreeMap<String, u32>, D::Error> {
    struct Fields;

    impl<'de> Visitor<'de> for Fields {
        type Value = BTreeMap<String, u32>;

        fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
            f.write_str("field names and values")
        }

        fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
            let mut fields = BTreeMap::new();
            while let Some((name, value)) = map.next_entry::<String, u32>()? {
                let said: String = name.chars().take(40).collect();
                if fields.insert(name, value).is_some() {
                    return Err(A::Error::custom(format!("the field “{said}” is given twice")));
                }
            }
            Ok(fields)
        }
    }

    deserializer.deserialize_map(Fields)
}

impl utoipa::PartialSchema for Message {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        <RawMessage as utoipa::PartialSchema>::schema()
    }
}

impl ToSchema for Message {
    fn name() -> std::borrow::Cow<'static, str> {
        "Message".into()
    }

    fn schemas(schemas: &mut Vec<(String, utoipa::openapi::RefOr<utoipa::openapi::schema::Schema>)>) {
        <RawMessage as ToSchema>::schemas(schemas);
    }
}

/// Why fields do not make a message.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum FieldError {
    /// No such protocol.
    #[error("There is no protocol “{name}”. Known are: {known}.")]
    Protocol {
        /// What was asked for.
        name: String,
        /// What there is.
        known: String,
    },
    /// No such field.
    #[error("{protocol} has no field “{name}”. Its fields are: {known}.")]
    Unknown {
        /// The protocol.
        protocol: ProtocolId,
        /// What was given.
        name: String,
        /// What there is.
        known: String,
    },
    /// A field without a value.
    #[error("{protocol} needs the field “{name}” (0–{max}).")]
    Missing {
        /// The protocol.
        protocol: ProtocolId,
        /// The field.
        name: &'static str,
        /// Its greatest value.
        max: u32,
    },
    /// A value outside of its range.
    #[error("The field “{name}” of {protocol} is {value}; it goes from 0 to {max}.")]
    Range {
        /// The protocol.
        protocol: ProtocolId,
        /// The field.
        name: &'static str,
        /// What was given.
        value: u32,
        /// Its greatest value.
        max: u32,
    },
    /// A field that is given twice.
    #[error("The field “{name}” of {protocol} is given twice. Give it once.")]
    Twice {
        /// The protocol.
        protocol: ProtocolId,
        /// The field.
        name: &'static str,
    },
    /// A protocol that is no description.
    #[error("{0}")]
    Described(String),
    /// Values that do not go together.
    #[error("{0}")]
    Rule(&'static str),
}

impl From<Message> for RawMessage {
    fn from(message: Message) -> Self {
        Self {
            protocol: message.protocol.id,
            fields: message.fields().map(|(name, value)| (name.to_owned(), value)).collect(),
        }
    }
}

impl TryFrom<RawMessage> for Message {
    type Error = FieldError;

    fn try_from(raw: RawMessage) -> Result<Self, FieldError> {
        Self::new(raw.protocol, raw.fields.iter().map(|(name, &value)| (name.as_str(), value)))
    }
}

impl Message {
    /// A message from named values; a `toggle` that is not given is 0.
    ///
    /// # Errors
    /// Where the protocol is not known, a field is unknown, missing or out of range, or values do not go together.
    pub fn new<'a>(protocol: ProtocolId, fields: impl IntoIterator<Item = (&'a str, u32)>) -> Result<Self, FieldError> {
        let known = protocol.known().ok_or_else(|| Protocols::built_in().unknown(&protocol.to_string()))?;
        Self::of(known, fields)
    }

    /// The same of a protocol that is at hand.
    ///
    /// # Errors
    /// As above.
    pub fn of<'a>(
        known: &'static Protocol,
        fields: impl IntoIterator<Item = (&'a str, u32)>,
    ) -> Result<Self, FieldError> {
        let (protocol, specs) = (known.id, known.fields);
        let mut given = [None; MAX_FIELDS];
        for (name, value) in fields {
            let at = specs.iter().position(|spec| spec.name == name).ok_or_else(|| FieldError::Unknown {
                protocol,
                name: name.chars().take(40).collect(),
                known: specs.iter().map(|spec| spec.name).collect::<Vec<_>>().join(", "),
            })?;
            if value > specs[at].max {
                let (name, max) = (specs[at].name, specs[at].max);
                return Err(FieldError::Range { protocol, name, value, max });
            }
            if given[at].replace(value).is_some() {
                return Err(FieldError::Twice { protocol, name: specs[at].name });
            }
        }
        let mut values = [0; MAX_FIELDS];
        for (at, spec) in specs.iter().enumerate() {
            values[at] =
                given[at].or(spec.default).ok_or(FieldError::Missing { protocol, name: spec.name, max: spec.max })?;
        }
        known.coding.valid(&values).map_err(FieldError::Rule)?;
        Ok(Self { protocol: known, values })
    }

    pub(super) fn from_values(protocol: &'static Protocol, values: Values) -> Self {
        Self { protocol, values }
    }

    /// As it is written down, so that it is read everywhere: with its description, where somebody has described it.
    #[must_use]
    pub fn written(&self) -> String {
        let fields = self.fields().map(|(name, value)| format!(" {name}={value}"));
        std::iter::once(self.protocol.id.written().into_owned()).chain(fields).collect()
    }

    /// Its protocol's name.
    #[must_use]
    pub fn protocol_id(&self) -> ProtocolId {
        self.protocol.id
    }

    /// Its protocol.
    #[must_use]
    pub fn protocol(&self) -> &'static Protocol {
        self.protocol
    }

    /// Field names and values in canonical order.
    pub fn fields(&self) -> impl Iterator<Item = (&'static str, u32)> {
        self.protocol().fields.iter().zip(self.values).map(|(spec, value)| (spec.name, value))
    }

    /// The value of one field.
    #[must_use]
    pub fn get(&self, name: &str) -> Option<u32> {
        self.fields().find(|(field, _)| *field == name).map(|(_, value)| value)
    }

    /// The same message with its toggle bit set to `toggle`; unchanged where the protocol has none.
    #[must_use]
    pub fn with_toggle(mut self, toggle: bool) -> Self {
        if let Some(at) = self.protocol().fields.iter().position(|spec| spec.name == "toggle") {
            self.values[at] = u32::from(toggle);
        }
        self
    }

    /// Do both say the same, a toggle bit apart?
    #[must_use]
    pub fn same_key(&self, other: &Self) -> bool {
        self.with_toggle(false) == other.with_toggle(false)
    }

    /// One frame laid out in units.
    #[must_use]
    pub fn layout(&self, turn: Turn) -> Layout {
        self.protocol.coding.layout(&self.values, turn)
    }

    /// Marks and spaces in µs of a press of `frames` frames (at least 1), each with its silence, so
    /// that the sum is the time for which the press occupies the medium.
    #[must_use]
    pub fn encode(&self, frames: u32) -> Vec<u32> {
        self.encode_held(frames, false)
    }

    /// The same; `again` sends the whole frame again while the key is held, where the protocol has a shorter one for that.
    #[must_use]
    pub fn encode_held(&self, frames: u32, again: bool) -> Vec<u32> {
        let mut durations = Vec::new();
        let (mut due, mut sent) = (0.0, 0u32);
        for number in 0..frames.max(1) {
            let layout = self.layout(if number == 0 || again { Turn::First } else { Turn::Held });
            let frame = layout.durations_us();
            let length: u32 = frame.iter().sum();
            due += match self.protocol().period {
                Period::StartToStart(us) => us,
                Period::Silence(us) => f64::from(layout.length_us()) + us,
            };
            sent += length;
            durations.extend(frame);
            let silence = whole(due).saturating_sub(sent).max(1);
            sent += silence;
            durations.push(silence);
        }
        durations
    }

    /// How many frames a press should have: what receivers want at least.
    #[must_use]
    pub fn least_frames(&self) -> u32 {
        self.protocol().least_frames
    }
}

#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a press is far shorter than u32::MAX µs")]
fn whole(us: f64) -> u32 {
    us.round() as u32
}

impl fmt::Debug for Message {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{self}")
    }
}

impl fmt::Display for Message {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}", self.protocol.id)?;
        for (name, value) in self.fields() {
            write!(f, " {name}={value}")?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_field_that_is_given_twice_is_an_error_and_not_the_last_one() {
        let twice = Message::new(ProtocolId::Nec, [("address", 4), ("command", 8), ("address", 5)]).unwrap_err();
        assert_eq!(twice.to_string(), "The field “address” of nec is given twice. Give it once.");
        let text = r#"{"protocol":"nec","fields":{"address":4,"command":8,"command":9}}"#;
        let error = serde_json::from_str::<Message>(text).unwrap_err().to_string();
        assert!(error.contains("the field “command” is given twice"), "{error}");
    }
}
