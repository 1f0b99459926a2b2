//! A level on its way from one to another.

/// A fade: linear in level.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Fade {
    /// From this level, in %.
    pub from: f64,
    /// To this one.
    pub to: f64,
    /// When it starts, in ms.
    pub start_ms: u64,
    /// How long it takes, in ms.
    pub length_ms: u32,
}

impl Fade {
    /// From wherever the level is at `now_ms`.
    #[must_use]
    pub fn on_to(self, now_ms: u64, percent: u8, length_ms: u32) -> Self {
        Self { from: self.at(now_ms), to: f64::from(percent.min(100)), start_ms: now_ms, length_ms }
    }

    /// The level at a moment, in %.
    #[must_use]
    pub fn at(self, now_ms: u64) -> f64 {
        let passed = now_ms.saturating_sub(self.start_ms) as f64;
        if self.length_ms == 0 || passed >= f64::from(self.length_ms) {
            return self.to;
        }
        self.from + (self.to - self.from) * passed / f64::from(self.length_ms)
    }

    /// Is it still under way?
    #[must_use]
    pub fn under_way(self, now_ms: u64) -> bool {
        now_ms < self.start_ms + u64::from(self.length_ms)
    }
}
