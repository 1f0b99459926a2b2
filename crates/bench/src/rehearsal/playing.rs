//! An evening that is played in the room, at the pace of its clock: one at a time, and it can be stopped.

use super::{Inner, Rehearsal};
use kestrel_core::model::StoryEvent;
use serde::Serialize;
use std::sync::{Arc, MutexGuard, PoisonError};
use tokio::task::AbortHandle;
use utoipa::ToSchema;

/// An evening that is played, or was played last.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct PlayView {
    /// Events that have happened.
    pub done: u32,
    /// Of how many.
    pub of: u32,
    /// Is it still under way?
    pub under_way: bool,
    /// What could not be done, sentence by sentence.
    pub refused: Vec<String>,
}

/// What is known of it.
pub(super) struct Playing {
    view: PlayView,
    task: Option<AbortHandle>,
}

impl Inner {
    fn playing(&self) -> MutexGuard<'_, Option<Playing>> {
        self.playing.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Ends what is being played; the room stays as it stands.
    pub(super) fn stop_playing(&self) {
        if let Some(playing) = self.playing().as_mut() {
            playing.view.under_way = false;
            if let Some(task) = playing.task.take() {
                task.abort();
            }
        }
    }

    /// The same, and it is not told of any more.
    pub(super) fn forget_playing(&self) {
        self.stop_playing();
        *self.playing() = None;
    }
}

impl Rehearsal {
    /// Puts the room back to off and plays events in it, in place of what was being played.
    pub async fn play_here(&self, events: Vec<StoryEvent>) {
        // Two that are asked for at once come one after the other, and the second ends the first.
        let _turn = self.inner.plays.lock().await;
        self.reset().await;
        let of = u32::try_from(events.len()).unwrap_or(u32::MAX);
        let view = PlayView { done: 0, of, under_way: true, refused: vec![] };
        let mut playing = self.inner.playing();
        let task = tokio::spawn(play(Arc::downgrade(&self.inner), events)).abort_handle();
        *playing = Some(Playing { view, task: Some(task) });
        drop(playing);
        self.touch();
    }

    /// Ends the evening that is being played; the room stays as it stands.
    pub fn stop_playing(&self) {
        self.inner.stop_playing();
        self.touch();
    }

    /// The evening that is played, or was played last.
    #[must_use]
    pub fn playing(&self) -> Option<PlayView> {
        self.inner.playing().as_ref().map(|playing| playing.view.clone())
    }
}

/// Does what events say, each at its time. Does not keep the room alive.
async fn play(inner: std::sync::Weak<Inner>, events: Vec<StoryEvent>) {
    let Some(clock) = inner.upgrade().map(|inner| inner.world.clock().clone()) else { return };
    let start = clock.now_ms();
    for event in events {
        clock.sleep_until(start + event.at_ms).await;
        let Some(inner) = inner.upgrade() else { return };
        let rehearsal = Rehearsal { inner };
        let done = rehearsal.carry_out(&event.deed).await;
        if let Some(playing) = rehearsal.inner.playing().as_mut() {
            playing.view.done += 1;
            playing.view.refused.extend(done.err().map(|error| error.to_string()));
        }
        rehearsal.touch();
    }
    let Some(inner) = inner.upgrade() else { return };
    if let Some(playing) = inner.playing().as_mut() {
        playing.view.under_way = false;
    }
    inner.touch();
}
