//! What a key that goes down and comes up again means: a tap, a double tap, a hold and its release.
//!
//! A tap is known at once where nobody waits for a second one; otherwise after [`DOUBLE_MS`]. A hold is known while
//! the key is still down, after [`HOLD_MS`] (both *common practice*, and both can be felt: a double tap on a key
//! delays its tap).

use crate::id::{DeviceId, FunctionId};
use crate::model::{DOUBLE_MS, Gesture, HOLD_MS};
use std::collections::BTreeMap;

type Key = (DeviceId, FunctionId);

#[derive(Debug, Clone, Copy)]
struct Stroke {
    down_ms: u64,
    /// Has it been told as a hold?
    held: bool,
    /// Is it the second of two?
    second: bool,
}

/// Tells gestures from strokes.
#[derive(Debug, Clone, Default)]
pub struct Detector {
    down: BTreeMap<Key, Stroke>,
    /// Taps that may become double ones: when the first came up.
    once: BTreeMap<Key, u64>,
}

impl Detector {
    /// A key goes down or comes up. `doubles` says whether anybody cares for a double tap on it.
    pub fn stroke(&mut self, now_ms: u64, key: Key, down: bool, doubles: bool) -> Vec<(Key, Gesture)> {
        let mut told = self.pass(now_ms);
        if down {
            let second = self.once.remove(&key).is_some();
            self.down.insert(key, Stroke { down_ms: now_ms, held: false, second });
            return told;
        }
        let Some(stroke) = self.down.remove(&key) else { return told };
        match stroke {
            Stroke { held: true, .. } => told.push((key, Gesture::Release)),
            Stroke { second: true, .. } => told.push((key, Gesture::DoubleTap)),
            _ if doubles => {
                self.once.insert(key, now_ms);
            }
            _ => told.push((key, Gesture::Tap)),
        }
        told
    }

    /// Time passes: what has become clear by then.
    pub fn pass(&mut self, now_ms: u64) -> Vec<(Key, Gesture)> {
        let mut told = Vec::new();
        self.once.retain(|key, up_ms| {
            let waits = now_ms < *up_ms + DOUBLE_MS;
            if !waits {
                told.push((*key, Gesture::Tap));
            }
            waits
        });
        for (key, stroke) in &mut self.down {
            if !stroke.held && now_ms >= stroke.down_ms + HOLD_MS {
                stroke.held = true;
                if stroke.second {
                    // Tap, then hold: the tap counts on its own.
                    told.push((*key, Gesture::Tap));
                }
                told.push((*key, Gesture::Hold));
            }
        }
        told
    }

    /// When something becomes clear by itself, in ms.
    #[must_use]
    pub fn next_ms(&self) -> Option<u64> {
        let taps = self.once.values().map(|up| up + DOUBLE_MS);
        let holds = self.down.values().filter(|stroke| !stroke.held).map(|stroke| stroke.down_ms + HOLD_MS);
        taps.chain(holds).min()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn key() -> Key {
        (uuid::Uuid::from_u128(1).into(), uuid::Uuid::from_u128(2).into())
    }

    fn told(strokes: &[(u64, bool)], doubles: bool) -> Vec<(u64, Gesture)> {
        let mut detector = Detector::default();
        let mut told = Vec::new();
        for ms in 0..3_000 {
            let gestures = match strokes.iter().find(|(at, _)| *at == ms) {
                Some((_, down)) => detector.stroke(ms, key(), *down, doubles),
                None => detector.pass(ms),
            };
            told.extend(gestures.into_iter().map(|(_, gesture)| (ms, gesture)));
        }
        assert_eq!(detector.next_ms(), None);
        told
    }

    #[rstest]
    #[case::tap(Gesture::Tap, false, &[(90, Gesture::Tap)])]
    #[case::tap_that_waits_for_a_second(Gesture::Tap, true, &[(440, Gesture::Tap)])]
    #[case::two_taps_where_nobody_asks(Gesture::DoubleTap, false, &[(90, Gesture::Tap), (300, Gesture::Tap)])]
    #[case::double(Gesture::DoubleTap, true, &[(300, Gesture::DoubleTap)])]
    #[case::hold(Gesture::Hold, true, &[(600, Gesture::Hold), (1_500, Gesture::Release)])]
    fn a_finger_is_understood(#[case] does: Gesture, #[case] doubles: bool, #[case] expected: &[(u64, Gesture)]) {
        assert_eq!(told(does.strokes(), doubles), expected);
    }

    #[test]
    fn a_tap_and_then_a_hold_are_both_told() {
        let strokes = [(0, true), (90, false), (200, true), (1_000, false)];
        assert_eq!(told(&strokes, true), [(800, Gesture::Tap), (800, Gesture::Hold), (1_000, Gesture::Release)]);
    }

    #[test]
    fn two_slow_taps_are_two_taps() {
        let strokes = [(0, true), (90, false), (600, true), (690, false)];
        assert_eq!(told(&strokes, true), [(440, Gesture::Tap), (1_040, Gesture::Tap)]);
    }

    #[test]
    fn a_key_that_comes_up_without_having_gone_down_means_nothing() {
        assert_eq!(Detector::default().stroke(5, key(), false, true), []);
    }
}
