//! How the light of a lamp follows its level.

use crate::model::Curve;

/// The light of level `n` (1–254) by IEC 62386-102, in %: `10^((n − 1)/(253/3) − 1)`; 0 is dark.
#[must_use]
pub fn iec_percent(n: u8) -> f64 {
    match n {
        0 => 0.0,
        n => 10f64.powf((f64::from(n.min(254)) - 1.0) / (253.0 / 3.0) - 1.0),
    }
}

/// CIE 1976 lightness L* (0–100) of a relative luminance Y (0–1).
#[must_use]
pub fn lightness(y: f64) -> f64 {
    if y <= 216.0 / 24389.0 { 24389.0 / 27.0 * y } else { 116.0 * y.cbrt() - 16.0 }
}

/// The relative luminance (0–1) of a CIE 1976 lightness (0–100).
#[must_use]
pub fn luminance(lightness: f64) -> f64 {
    if lightness <= 8.0 { lightness * 27.0 / 24389.0 } else { ((lightness + 16.0) / 116.0).powi(3) }
}

impl Curve {
    /// The light that a level gives, both in %.
    #[must_use]
    pub fn light(self, level_percent: f64) -> f64 {
        let level = level_percent.clamp(0.0, 100.0);
        match self {
            Self::Linear => level,
            Self::Logarithmic if level == 0.0 => 0.0,
            // 0–100 % are the levels 1–254, as the standard numbers them.
            Self::Logarithmic => 10f64.powf(level / 100.0 * 3.0 - 1.0),
            Self::Perceptual => 100.0 * luminance(level),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// IEC 62386-102: level 1 is 0.1 %, 254 is 100 %, and every step is the same factor.
    #[rstest]
    #[case(0, 0.0)]
    #[case(1, 0.1)]
    #[case(85, 0.991)]
    #[case(170, 10.09)]
    #[case(254, 100.0)]
    fn iec_62386_102(#[case] n: u8, #[case] percent: f64) {
        assert!((iec_percent(n) - percent).abs() < percent / 500.0 + 1e-9, "{}", iec_percent(n));
    }

    #[test]
    fn every_step_of_iec_62386_102_is_the_same_factor() {
        let factor = iec_percent(2) / iec_percent(1);
        for n in 2..=254 {
            assert!((iec_percent(n) / iec_percent(n - 1) / factor - 1.0).abs() < 1e-9);
        }
    }

    /// CIE 1976: Y = 18.4 % is L* = 50, Y = 100 % is 100, and below 0.008856 it is 903.3 · Y.
    #[rstest]
    #[case(0.184, 50.0)]
    #[case(1.0, 100.0)]
    #[case(0.008, 7.2264)]
    #[case(0.0, 0.0)]
    fn cie_1976_lightness(#[case] y: f64, #[case] expected: f64) {
        assert!((lightness(y) - expected).abs() < 0.05, "{}", lightness(y));
        assert!((luminance(lightness(y)) - y).abs() < 1e-12);
    }

    #[rstest]
    #[case(Curve::Linear, 50.0)]
    #[case(Curve::Logarithmic, 3.162)]
    #[case(Curve::Perceptual, 18.42)]
    fn half_the_level(#[case] curve: Curve, #[case] light: f64) {
        assert!((curve.light(50.0) - light).abs() < 0.01, "{}", curve.light(50.0));
        assert_eq!(curve.light(0.0), 0.0);
        assert!((curve.light(100.0) - 100.0).abs() < 1e-9);
        assert!((0..100).all(|level| curve.light(f64::from(level)) < curve.light(f64::from(level + 1))));
    }
}
