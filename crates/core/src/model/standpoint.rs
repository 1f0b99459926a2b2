//! Where a house stands.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Degrees of latitude or longitude, kept in ten-thousandths (some 11 m).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(from = "f64", into = "f64")]
#[schema(value_type = f64)]
pub struct Degrees(i32);

impl From<f64> for Degrees {
    fn from(degrees: f64) -> Self {
        #[expect(clippy::cast_possible_truncation, reason = "clamped")]
        Self((degrees.clamp(-360.0, 360.0) * 10_000.0).round() as i32)
    }
}

impl From<Degrees> for f64 {
    fn from(degrees: Degrees) -> Self {
        Self::from(degrees.0) / 10_000.0
    }
}

/// Where a house stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Standpoint {
    /// North of the equator; south, where negative. −90 to 90.
    pub latitude: Degrees,
    /// East of the prime meridian; west, where negative. −180 to 180.
    pub longitude: Degrees,
    /// Its time zone: an IANA name, or a rule as in POSIX (`XST0XDT,M3.5.0/1,M10.5.0`).
    pub zone: String,
}
