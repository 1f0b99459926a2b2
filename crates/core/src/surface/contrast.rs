//! The contrast of two colours, as WCAG 2.2 defines it (contrast ratio and relative luminance).

/// The least contrast of a label (WCAG 2.2, success criterion 1.4.3, level AA).
pub const LEAST: f64 = 4.5;

/// A colour as `#rrggbb`.
#[must_use]
pub fn parse(colour: &str) -> Option<[u8; 3]> {
    let digits = colour.strip_prefix('#').filter(|digits| digits.len() == 6 && digits.is_ascii())?;
    let part = |at: usize| u8::from_str_radix(digits.get(at..at + 2)?, 16).ok();
    Some([part(0)?, part(2)?, part(4)?])
}

/// The relative luminance of a colour, 0 (black) to 1 (white).
#[must_use]
pub fn luminance(colour: [u8; 3]) -> f64 {
    let linear = |part: u8| {
        let value = f64::from(part) / 255.0;
        if value <= 0.04045 { value / 12.92 } else { ((value + 0.055) / 1.055).powf(2.4) }
    };
    let [red, green, blue] = colour.map(linear);
    0.2126 * red + 0.7152 * green + 0.0722 * blue
}

/// The contrast of two colours, 1 (none) to 21 (black on white).
#[must_use]
pub fn contrast(a: [u8; 3], b: [u8; 3]) -> f64 {
    let (a, b) = (luminance(a), luminance(b));
    (a.max(b) + 0.05) / (a.min(b) + 0.05)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// W3C, Understanding WCAG 2.2, success criterion 1.4.3: black on white is 21 to 1, a colour on itself 1 to 1; and
    /// the examples of technique G18: `#767676` on white is just above 4.5 to 1, `#777777` just below.
    #[rstest]
    #[case("#000000", "#ffffff", 21.0)]
    #[case("#ffffff", "#ffffff", 1.0)]
    #[case("#767676", "#ffffff", 4.54)]
    #[case("#777777", "#ffffff", 4.48)]
    #[case("#ff0000", "#ffffff", 4.0)]
    fn contrast_is_that_of_wcag(#[case] a: &str, #[case] b: &str, #[case] expected: f64) {
        let ratio = contrast(parse(a).unwrap(), parse(b).unwrap());
        assert!((ratio - expected).abs() < 0.005, "{ratio}");
        assert!((ratio - contrast(parse(b).unwrap(), parse(a).unwrap())).abs() < 1e-12);
    }

    #[rstest]
    #[case("767676")]
    #[case("#76767")]
    #[case("#76767g")]
    #[case("#ééé")]
    fn what_is_no_colour_is_refused(#[case] text: &str) {
        assert_eq!(parse(text), None);
    }
}
