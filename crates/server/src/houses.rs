//! The houses that are open: their present snapshots, their rehearsals, and who listens.

use crate::problem::Problem;
use chrono::{DateTime, Utc};
use futures::future::BoxFuture;
use kestrel_bench::Rehearsal;
use kestrel_bench::rehearsal::{Elsewhere, Watched};
use kestrel_bench::trials::{Progress, TrialReport, TrialRequest};
use kestrel_core::edit::Edit;
use kestrel_core::id::{HouseId, RoomId};
use kestrel_core::model::situation_name;
use kestrel_core::prove::Matrix;
use kestrel_store::{LogKind, Saved, Snapshot, Store};
use serde::Serialize;
use std::collections::HashMap;
use std::net::SocketAddr;
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::{broadcast, watch};
use utoipa::ToSchema;

/// Tells open pages that a house has changed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Edited {
    /// The house.
    pub house: HouseId,
    /// Its revision after the change.
    pub revision: i64,
    /// When, in UTC.
    pub at: DateTime<Utc>,
    /// Who.
    pub who: String,
    /// The page that asked for it, as it named itself; empty where it did not.
    pub page: String,
    /// What kind of change.
    pub kind: LogKind,
    /// What happened, in words.
    pub title: String,
}

/// The proof of a room, with a number that changes with what it rests on.
type Proved = (u64, Arc<Matrix>);

/// Everything that routes share.
#[derive(Clone)]
pub struct Houses {
    store: Store,
    open: Arc<Mutex<HashMap<HouseId, Arc<Snapshot>>>>,
    rehearsals: Arc<tokio::sync::Mutex<HashMap<RoomId, (HouseId, Rehearsal)>>>,
    proofs: Arc<Mutex<HashMap<RoomId, Proved>>>,
    edits: broadcast::Sender<Edited>,
    closing: watch::Sender<bool>,
    /// Links that are withdrawn.
    withdrawn: broadcast::Sender<String>,
    /// The MQTT broker of the rehearsal rooms.
    broker: Option<SocketAddr>,
    trials: Arc<Mutex<HashMap<RoomId, Trial>>>,
}

/// Trials at random of a room, under way or done.
#[derive(Clone)]
pub struct Trial {
    /// What was asked for.
    pub asked: TrialRequest,
    /// How far it is.
    pub progress: Arc<Progress>,
    /// What came of it, once it is done.
    pub report: Arc<Mutex<Option<TrialReport>>>,
}

/// Who asks for a change, and from which page.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Who {
    /// The name for the log.
    pub name: String,
    /// The page, as it named itself.
    pub page: String,
}

/// What is done to the history.
#[derive(Debug, Clone, Copy)]
pub enum Step {
    Undo,
    Redo,
}

impl Houses {
    pub fn new(store: Store, broker: Option<SocketAddr>) -> Self {
        Self {
            store,
            open: Arc::default(),
            rehearsals: Arc::default(),
            proofs: Arc::default(),
            edits: broadcast::channel(256).0,
            closing: watch::channel(false).0,
            withdrawn: broadcast::channel(64).0,
            broker,
            trials: Arc::default(),
        }
    }

    /// The proof of a room, where nothing that it rests on was touched since.
    pub fn proof(&self, room: RoomId, touched: u64) -> Option<Arc<Matrix>> {
        lock(&self.proofs).get(&room).filter(|(known, _)| *known == touched).map(|(_, matrix)| matrix.clone())
    }

    /// Keeps the proof of a room.
    pub fn keep_proof(&self, room: RoomId, touched: u64, matrix: Matrix) -> Arc<Matrix> {
        let matrix = Arc::new(matrix);
        lock(&self.proofs).insert(room, (touched, matrix.clone()));
        matrix
    }

    /// The trials of a room, under way or done last.
    pub fn trial(&self, room: RoomId) -> Option<Trial> {
        lock(&self.trials).get(&room).cloned()
    }

    /// Keeps the trials of a room in place of those before, which are cancelled.
    pub fn keep_trial(&self, room: RoomId, trial: Trial) {
        if let Some(old) = lock(&self.trials).insert(room, trial) {
            old.progress.cancelled.store(true, std::sync::atomic::Ordering::Relaxed);
        }
    }

    pub fn store(&self) -> &Store {
        &self.store
    }

    /// Ends every stream of events, so that the server can stop.
    pub fn close(&self) {
        let _ = self.closing.send(true);
    }

    /// Resolves when the server stops.
    pub fn closing(&self) -> impl Future<Output = ()> + Send + 'static + use<> {
        let mut closing = self.closing.subscribe();
        async move {
            let _ = closing.wait_for(|closed| *closed).await;
        }
    }

    /// A link is withdrawn: pages that are open behind it close.
    pub fn withdrawn(&self, token: &str) {
        let _ = self.withdrawn.send(token.to_owned());
    }

    /// Resolves when this link is withdrawn.
    pub fn when_withdrawn(&self, token: String) -> impl Future<Output = ()> + Send + 'static + use<> {
        let mut withdrawn = self.withdrawn.subscribe();
        async move {
            loop {
                match withdrawn.recv().await {
                    Ok(gone) if gone != token => {}
                    // Too many to keep up with: the page opens its stream again and is told.
                    _ => return,
                }
            }
        }
    }

    pub fn edits(&self) -> broadcast::Receiver<Edited> {
        self.edits.subscribe()
    }

    /// A house as it stands; read from the database only where it has changed there.
    pub async fn snapshot(&self, house: HouseId) -> Result<Arc<Snapshot>, Problem> {
        let revision = self.store.revision(house).await?;
        if let Some(known) = lock(&self.open).get(&house).filter(|known| known.revision == revision) {
            return Ok(known.clone());
        }
        let fresh = Arc::new(self.store.load(house).await?);
        lock(&self.open).insert(house, fresh.clone());
        Ok(fresh)
    }

    /// Carries edits out and tells everyone.
    pub async fn edit(&self, house: HouseId, who: &Who, edits: &[Edit]) -> Result<(Arc<Snapshot>, String), Problem> {
        let saved = self.store.edit(house, &who.name, edits).await?;
        Ok(self.announce(house, who, saved).await)
    }

    /// Undoes or redoes and tells everyone.
    pub async fn step(&self, house: HouseId, who: &Who, step: Step) -> Result<(Arc<Snapshot>, String), Problem> {
        let saved = match step {
            Step::Undo => self.store.undo(house, &who.name).await?,
            Step::Redo => self.store.redo(house, &who.name).await?,
        };
        Ok(self.announce(house, who, saved).await)
    }

    async fn announce(&self, house: HouseId, who: &Who, saved: Saved) -> (Arc<Snapshot>, String) {
        let snapshot = Arc::new(saved.snapshot);
        let newer = lock(&self.open).get(&house).is_some_and(|known| known.revision > snapshot.revision);
        if !newer {
            lock(&self.open).insert(house, snapshot.clone());
        }
        if !saved.changes.is_empty() {
            let site = Arc::new(snapshot.site.clone());
            let mut rehearsals = self.rehearsals.lock().await;
            rehearsals.retain(|room, (owner, rehearsal)| {
                let stays = *owner != house || site.room(*room).is_some();
                if stays && *owner == house {
                    rehearsal.refit(site.clone());
                }
                stays
            });
            let _ = self.edits.send(Edited {
                house,
                revision: snapshot.revision,
                at: saved.at,
                who: who.name.clone(),
                page: who.page.clone(),
                kind: saved.kind,
                title: saved.title.clone(),
            });
        }
        (snapshot, saved.title)
    }

    /// The rehearsal of a room; started where there is none yet.
    pub async fn rehearsal(&self, house: HouseId, room: RoomId) -> Result<Rehearsal, Problem> {
        let snapshot = self.snapshot(house).await?;
        snapshot.site.room(room).ok_or_else(no_room)?;
        let mut rehearsals = self.rehearsals.lock().await;
        if let Some((_, rehearsal)) = rehearsals.get(&room) {
            return Ok(rehearsal.clone());
        }
        let fresh = Rehearsal::start(Arc::new(snapshot.site.clone()), room, 1.0, self.broker).await?;
        if let Some(to) = self.store.take_run(room).await? {
            fresh.forget(&format!(
                "The server was stopped in the middle of {to}: nobody knows what the room is in now. Press what should be on, or room off."
            ));
        }
        rehearsals.insert(room, (house, fresh.clone()));
        tokio::spawn(light_other_rooms(self.clone(), house, fresh.elsewhere()));
        tokio::spawn(note_runs(self.clone(), room, fresh.changes(), fresh.watched()));
        Ok(fresh)
    }
}

/// A look may light zones of other rooms: those are driven by their own rehearsals. Ends with the room.
fn light_other_rooms(
    houses: Houses,
    house: HouseId,
    mut elsewhere: broadcast::Receiver<Elsewhere>,
) -> BoxFuture<'static, ()> {
    // Boxed, since the rehearsal of another room begins with one of these too.
    Box::pin(async move {
        loop {
            match elsewhere.recv().await {
                Ok(level) => match houses.rehearsal(house, level.room).await {
                    Ok(other) => other.dim(level.zone, level.percent, level.fade_ms),
                    Err(error) => tracing::warn!(?error, "a zone of another room could not be lit"),
                },
                // The newest levels come.
                Err(broadcast::error::RecvError::Lagged(_)) => {}
                Err(broadcast::error::RecvError::Closed) => return,
            }
        }
    })
}

/// Keeps the note of a macro that nobody asked for: what an adopted room completes by itself, and what a story plays.
async fn note_runs(houses: Houses, room: RoomId, mut changes: watch::Receiver<u64>, watched: Watched) {
    let mut noted = None;
    while changes.changed().await.is_ok() {
        let Some(rehearsal) = watched.upgrade() else { return };
        let last = rehearsal.last_run();
        if last == noted {
            continue;
        }
        let written = match last {
            Some((_, to, true)) => houses.store.run_began(room, &situation_name(&rehearsal.world().site(), to)).await,
            _ => houses.store.run_ended(room).await,
        };
        if let Err(error) = written {
            tracing::warn!(%error, "a macro that is under way could not be written down");
        }
        noted = last;
    }
}

/// There is no such room.
pub fn no_room() -> Problem {
    Problem::not_found("There is no such room in this house. Choose one from the list.")
}

fn lock<T>(mutex: &Mutex<T>) -> std::sync::MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
