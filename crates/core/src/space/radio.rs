//! Radio at 433.92 MHz: what arrives of a sender, through walls, over what a receiver needs.
//!
//! Margin = P_tx + G − FSPL(d) − Σ losses of walls − sensitivity, with FSPL = 20·log₁₀ d + 20·log₁₀ f − 147.55 dB (free
//! space; Friis 1946). Fading of 10 dB is taken off where *surely* is asked, and added where *surely not* is.

/// The frequency, in Hz.
pub const HZ: f64 = 433.92e6;

/// What fading takes at most, in dB (*common practice* for one wall-mounted sender and receiver).
pub const FADING_DB: f64 = 10.0;

/// Nearer than this the formula does not hold: a quarter of a wave, in m.
const NEAREST: f64 = 0.17;

/// The loss of free space over a distance, in dB.
#[must_use]
pub fn free_space_db(metres: f64) -> f64 {
    20.0 * metres.max(NEAREST).log10() + 20.0 * HZ.log10() - 147.55
}

/// A sender and a receiver.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Link {
    /// The power that is sent, in dBm.
    pub sends_dbm: f64,
    /// The gain of both antennas together, in dB.
    pub gain_db: f64,
    /// What the receiver needs, in dBm.
    pub needs_dbm: f64,
}

impl Link {
    /// The margin over a distance and through walls that take so much together, in dB, fading left out.
    #[must_use]
    pub fn margin_db(&self, metres: f64, walls_db: f64) -> f64 {
        self.sends_dbm + self.gain_db - free_space_db(metres) - walls_db - self.needs_dbm
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// space.md: “FSPL 45.2 dB at 10 m”.
    #[test]
    fn ten_metres_of_free_space_take_45_2_db() {
        assert!((free_space_db(10.0) - 45.2).abs() < 0.05);
        assert!((free_space_db(20.0) - free_space_db(10.0) - 6.0206).abs() < 1e-3);
        assert_eq!(free_space_db(0.0), free_space_db(NEAREST), "no sender is nearer than a quarter of a wave");
    }

    #[test]
    fn walls_and_a_deaf_receiver_cost_margin() {
        let own = Link { sends_dbm: 10.0, gain_db: -4.0, needs_dbm: -95.0 };
        assert!((own.margin_db(10.0, 0.0) - 55.8).abs() < 0.1);
        assert!((own.margin_db(10.0, 24.0) - 31.8).abs() < 0.1);
    }
}
