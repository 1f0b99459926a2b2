//! A state of the machine as it can be set up in a rehearsal room, and back.

use super::{State, Timed, Window};
use crate::id::{DeviceId, InputId};
use crate::model::{Profile, Stand};

impl Stand {
    /// A state as it can be set up in a rehearsal room.
    #[must_use]
    pub fn of(profile: &Profile, device: DeviceId, timed: &Timed) -> Self {
        let input = |index: u8| profile.inputs.get(usize::from(index)).map(|input| input.id);
        let state = timed.state;
        let (doing, busy) = timed.doing();
        let left = if state.cursor.is_some() { timed.closes } else { busy };
        Self {
            device,
            on: state.on,
            input: input(state.input),
            marked: state.cursor.and_then(input),
            last: input(state.last),
            position: state.position,
            muted: state.muted,
            settings: state.modes,
            app: state.app,
            doing,
            left_lo_ms: left.lo_ms,
            left_hi_ms: left.hi_ms,
        }
    }

    /// The same as a state of the machine; inputs that are gone become the first.
    #[must_use]
    pub fn timed(&self, profile: &Profile) -> Timed {
        let index = |input: Option<InputId>| {
            input.and_then(|input| profile.input_index(input)).and_then(|index| u8::try_from(index).ok())
        };
        let state = State {
            on: self.on,
            input: index(self.input).unwrap_or(0),
            cursor: index(self.marked),
            last: index(self.last).unwrap_or(0),
            position: self.position,
            muted: self.muted,
            modes: self.settings,
            app: self.app,
        };
        let left = Window { lo_ms: self.left_lo_ms.min(self.left_hi_ms), hi_ms: self.left_hi_ms };
        match self.marked {
            Some(_) => Timed { closes: left, ..Timed::from(state) },
            None => Timed::from(state).with_doing(self.doing, left),
        }
    }
}
