//! Payloads that only one kind of gateway understands: bytes that travel as hex or base64 (RFC 4648).
//!
//! They are never counted as decoded: nothing here can say which key they are, or whether two are the
//! same key. Either form is read, with white space and, for hex, either case and the usual separators.

use base64::Engine;
use base64::engine::DecodePaddingMode;
use base64::engine::general_purpose::{GeneralPurpose, GeneralPurposeConfig, STANDARD};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use utoipa::ToSchema;

/// The most bytes of a payload.
pub const MAX_BYTES: usize = 16_384;

/// Bytes, written as hex in JSON.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(try_from = "String", into = "String")]
#[schema(value_type = String, example = "26000a00")]
pub struct Payload(Vec<u8>);

/// Why a text is no payload.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum PayloadError {
    /// Nothing there.
    #[error("The payload is empty. Paste it as hex (26 00 0A …) or base64 (JgAK …).")]
    Empty,
    /// Longer than anything a gateway gives.
    #[error("The payload has {0} bytes; at most {MAX_BYTES} can be kept. Keep one key.")]
    TooLong(usize),
    /// An odd number of hex digits.
    #[error("These are {0} hex digits; two make a byte, so one is missing or too many.")]
    Odd(usize),
    /// One of several prefixed bytes is none.
    #[error("“{0}” is no byte: with a prefix each byte has one or two hex digits, such as 0x26.")]
    NoByte(String),
    /// Neither.
    #[error("This is neither hex nor base64: “{character}” at place {place} belongs to neither.")]
    Character {
        /// The first character that does not fit.
        character: char,
        /// Counted from 1.
        place: usize,
    },
    /// Looks like base64, but is damaged.
    #[error("This looks like base64 but is cut short or damaged ({0}). Copy it again, whole.")]
    Damaged(String),
}

/// Bytes that each stand with a prefix, as in source code: `0x26, 0x00`. `None` where the text is not of that kind.
fn prefixed(text: &str) -> Option<Result<Vec<u8>, PayloadError>> {
    let separator = |c: char| c.is_whitespace() || matches!(c, ',' | ';' | ':' | '-' | '{' | '}' | '[' | ']');
    let words: Vec<&str> = text.split(separator).filter(|word| !word.is_empty()).collect();
    let digits = |word: &str| Some(word.strip_prefix("0x").or_else(|| word.strip_prefix("0X"))?.to_owned());
    if words.len() < 2 || words.iter().any(|word| digits(word).is_none()) {
        return None;
    }
    let byte = |word: &&str| {
        let digits = digits(word).filter(|digits| (1..=2).contains(&digits.len()));
        u8::from_str_radix(digits.as_deref()?, 16).ok()
    };
    let bytes =
        words.iter().map(|word| byte(word).ok_or_else(|| PayloadError::NoByte((*word).chars().take(20).collect())));
    Some(bytes.collect())
}

impl Payload {
    /// Bytes as they are.
    ///
    /// # Errors
    /// Where there are none or too many.
    pub fn new(bytes: Vec<u8>) -> Result<Self, PayloadError> {
        match bytes.len() {
            0 => Err(PayloadError::Empty),
            n if n > MAX_BYTES => Err(PayloadError::TooLong(n)),
            _ => Ok(Self(bytes)),
        }
    }

    /// Reads hex or base64. What can be read as hex is hex.
    ///
    /// # Errors
    /// Where it is neither, with the first character that does not fit.
    pub fn parse(text: &str) -> Result<Self, PayloadError> {
        if let Some(bytes) = prefixed(text) {
            return Self::new(bytes?);
        }
        let packed: String = text.chars().filter(|c| !c.is_whitespace()).collect();
        let plain = packed.strip_prefix("0x").or_else(|| packed.strip_prefix("0X")).unwrap_or(&packed);
        let digits: String = plain.chars().filter(|c| !matches!(c, ':' | ',' | '-')).collect();
        if digits.is_empty() {
            return Err(PayloadError::Empty);
        }
        if digits.chars().all(|c| c.is_ascii_hexdigit()) {
            return match hex::decode(&digits) {
                Ok(bytes) => Self::new(bytes),
                Err(_) => Err(PayloadError::Odd(digits.len())),
            };
        }
        let stranger = text
            .chars()
            .enumerate()
            .find(|(_, c)| !c.is_whitespace() && !c.is_ascii_alphanumeric() && !matches!(c, '+' | '/' | '='));
        if let Some((at, character)) = stranger {
            return Err(PayloadError::Character { character, place: at + 1 });
        }
        // Padding may be missing: many tools leave it out.
        let lenient = GeneralPurposeConfig::new().with_decode_padding_mode(DecodePaddingMode::Indifferent);
        let engine = GeneralPurpose::new(&base64::alphabet::STANDARD, lenient);
        let bytes = engine.decode(&packed).map_err(|error| PayloadError::Damaged(error.to_string()))?;
        Self::new(bytes)
    }

    /// The bytes.
    #[must_use]
    pub fn bytes(&self) -> &[u8] {
        &self.0
    }

    /// As hex, in small letters.
    #[must_use]
    pub fn hex(&self) -> String {
        hex::encode(&self.0)
    }

    /// As base64, with padding.
    #[must_use]
    pub fn base64(&self) -> String {
        STANDARD.encode(&self.0)
    }
}

impl TryFrom<String> for Payload {
    type Error = PayloadError;

    fn try_from(text: String) -> Result<Self, PayloadError> {
        Self::parse(&text)
    }
}

impl From<Payload> for String {
    fn from(payload: Payload) -> Self {
        payload.hex()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    /// The test vectors of RFC 4648, section 10, both ways.
    #[rstest]
    #[case("f", "Zg==", "66")]
    #[case("fo", "Zm8=", "666f")]
    #[case("foo", "Zm9v", "666f6f")]
    #[case("foob", "Zm9vYg==", "666f6f62")]
    #[case("fooba", "Zm9vYmE=", "666f6f6261")]
    #[case("foobar", "Zm9vYmFy", "666f6f626172")]
    fn rfc_4648_vectors(#[case] text: &str, #[case] base64: &str, #[case] hex: &str) {
        let payload = Payload::new(text.as_bytes().to_vec()).unwrap();
        assert_eq!((payload.base64().as_str(), payload.hex().as_str()), (base64, hex));
        assert_eq!(Payload::parse(base64), Ok(payload.clone()));
        assert_eq!(Payload::parse(hex), Ok(payload));
    }

    #[rstest]
    #[case("26 00 0A 00")]
    #[case("26000a00")]
    #[case("0x26000A00")]
    #[case("26:00:0a:00")]
    #[case(" 26,00,\n0a,00 ")]
    #[case("0x26 0x00 0x0a 0x00")]
    #[case("{ 0x26, 0x0, 0X0A, 0x00 }")]
    #[case("JgAKAA==")]
    #[case("JgAK\nAA")]
    fn white_space_case_and_padding_are_tolerated(#[case] text: &str) {
        assert_eq!(Payload::parse(text).unwrap().bytes(), [0x26, 0, 0x0a, 0]);
    }

    #[rstest]
    #[case("", "is empty")]
    #[case("  \n", "is empty")]
    #[case("26 00 0", "5 hex digits")]
    #[case("26 00 zä", "“ä” at place 8")]
    #[case("JgAKA", "cut short or damaged")]
    #[case("0x26 0x100", "“0x100” is no byte")]
    #[case("0x26 0xzz", "“0xzz” is no byte")]
    fn what_is_neither_says_why(#[case] text: &str, #[case] expected: &str) {
        let error = Payload::parse(text).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
    }

    #[test]
    fn a_payload_that_is_too_long_is_refused() {
        assert_eq!(Payload::new(vec![0; MAX_BYTES + 1]), Err(PayloadError::TooLong(MAX_BYTES + 1)));
    }

    proptest! {
        #[test]
        fn both_forms_come_back(bytes in prop::collection::vec(any::<u8>(), 1..300)) {
            let payload = Payload::new(bytes).unwrap();
            prop_assert_eq!(Payload::parse(&payload.hex()), Ok(payload.clone()));
            // Base64 that happens to consist of hex digits alone is read as hex, as said above.
            if !payload.base64().chars().all(|c| c.is_ascii_hexdigit()) {
                prop_assert_eq!(Payload::parse(&payload.base64()), Ok(payload));
            }
        }
    }
}
