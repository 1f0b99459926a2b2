//! Pictures of keys and sounds of chimes, kept once by what is in them.

use crate::id::PictureId;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use utoipa::ToSchema;
use uuid::Uuid;

/// The largest picture of a key, in bytes.
pub const PICTURE_MAX: usize = 60_000;

/// The largest sound of a chime, in bytes.
pub const SOUND_MAX: usize = 300_000;

/// A picture, or the sound of a chime. Its id is made from its bytes, so that the same picture is kept once and never changes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Picture {
    /// Its id: the first 122 bits of the SHA-256 of its bytes, as a UUID of version 8.
    pub id: PictureId,
    /// `image/png`, `image/jpeg` or `image/webp`; `audio/wav` for a sound.
    pub media_type: String,
    /// Its bytes in base64 (RFC 4648).
    #[serde(with = "bytes")]
    #[schema(value_type = String)]
    pub bytes: Vec<u8>,
}

impl Picture {
    /// A picture or a sound, if its first bytes are those of a PNG, JPEG, WebP or WAV.
    #[must_use]
    pub fn of(bytes: Vec<u8>) -> Option<Self> {
        let media_type = Self::media_type_of(&bytes)?.to_owned();
        Some(Self { id: Self::id_of(&bytes), media_type, bytes })
    }

    /// Is it a sound?
    #[must_use]
    pub fn is_sound(&self) -> bool {
        self.media_type.starts_with("audio/")
    }

    /// The id of a picture with these bytes.
    #[must_use]
    pub fn id_of(bytes: &[u8]) -> PictureId {
        let hash = Sha256::digest(bytes);
        let mut first = [0; 16];
        first.copy_from_slice(&hash[..16]);
        PictureId(Uuid::new_v8(first))
    }

    /// What kind of picture these bytes are: told by how they begin.
    #[must_use]
    pub fn media_type_of(bytes: &[u8]) -> Option<&'static str> {
        match bytes {
            [0x89, b'P', b'N', b'G', 0x0d, 0x0a, 0x1a, 0x0a, ..] => Some("image/png"),
            [0xff, 0xd8, 0xff, ..] => Some("image/jpeg"),
            [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'E', b'B', b'P', ..] => Some("image/webp"),
            [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'A', b'V', b'E', ..] => Some("audio/wav"),
            _ => None,
        }
    }

    /// A picture as older versions kept it inside a key: `data:image/png;base64,…`.
    #[must_use]
    pub fn of_data_url(url: &str) -> Option<Self> {
        use base64::Engine as _;
        let (_, data) = url.strip_prefix("data:")?.split_once(";base64,")?;
        Self::of(base64::engine::general_purpose::STANDARD.decode(data).ok()?)
    }
}

mod bytes {
    use base64::Engine as _;
    use base64::engine::general_purpose::STANDARD;
    use serde::{Deserialize, Deserializer, Serializer};

    pub fn serialize<S: Serializer>(bytes: &[u8], serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&STANDARD.encode(bytes))
    }

    pub fn deserialize<'de, D: Deserializer<'de>>(deserializer: D) -> Result<Vec<u8>, D::Error> {
        STANDARD.decode(String::deserialize(deserializer)?).map_err(serde::de::Error::custom)
    }
}
