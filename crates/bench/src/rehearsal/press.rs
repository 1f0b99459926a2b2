//! Keys of keypads and hand remotes: from strokes to what a finger meant.

use super::Inner;
use crate::drive::Stroke;
use crate::pressed::Pressed;
use kestrel_core::id::{DeviceId, FunctionId};
use kestrel_core::light::watch::Happening;
use kestrel_core::model::Gesture;
use std::sync::Arc;

impl Inner {
    /// A keypad tells of a key. A key that it does not have is left alone.
    pub(super) fn stroke(self: &Arc<Self>, device: DeviceId, stroke: &Stroke) {
        let now = self.world.clock().now_ms();
        let site = self.world.site();
        let Some(profile) = site.profile_of(device) else { return };
        let Some(function) = profile.functions.iter().find(|known| known.name == stroke.key) else { return };
        let doubles = self.light().cares_for(device, function.id, Gesture::DoubleTap)
            || self.surface_cares(&site, device, function.id);
        let told = self.mind().fingers.stroke(now, (device, function.id), stroke.down, doubles);
        self.meant(now, told);
        self.wait_for_fingers();
    }

    /// What becomes clear by itself: a hold, a tap that stays alone.
    fn wait_for_fingers(self: &Arc<Self>) {
        let Some(next_ms) = self.mind().fingers.next_ms() else { return };
        let (inner, clock) = (Arc::downgrade(self), self.world.clock().clone());
        tokio::spawn(async move {
            clock.sleep_until(next_ms).await;
            let Some(inner) = inner.upgrade() else { return };
            let now = clock.now_ms();
            let told = inner.mind().fingers.pass(now);
            inner.meant(now, told);
        });
    }

    fn meant(self: &Arc<Self>, now_ms: u64, told: Vec<((DeviceId, FunctionId), Gesture)>) {
        if told.is_empty() {
            return;
        }
        for ((device, function), gesture) in told {
            self.mind().press(Pressed { at_ms: now_ms, device, function, gesture });
            self.happened(&Happening::Press { device, function, gesture });
            self.hard_key(device, function, gesture);
        }
        self.touch();
    }
}
