//! The houses that are open: their present snapshots, their rehearsals, and who listens.

use crate::password::Line;
use crate::problem::Problem;
use crate::views::Edited;
use futures::future::BoxFuture;
use jiff::Timestamp;
use kestrel_bench::Rehearsal;
use kestrel_bench::rehearsal::{Elsewhere, Watched};
use kestrel_bench::trials::{Progress, TrialReport, TrialRequest};
use kestrel_core::check::{self, Notes, Planned};
use kestrel_core::commission::Run;
use kestrel_core::commission::feedback::{self, Reported};
use kestrel_core::edit::Edit;
use kestrel_core::id::{HouseId, MeasurementId, RoomId, SurfaceId};
use kestrel_core::model::{Entity, SeenIn, Site, situation_name};
use kestrel_core::prove::{Matrix, stands};
use kestrel_core::space::gateways::Looking;
use kestrel_store::{By, Saved, Snapshot, Store};
use std::collections::HashMap;
use std::net::SocketAddr;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::{broadcast, watch};
use uuid::Uuid;

/// A room of a house: ids belong to a house, so a room alone names nothing.
pub type RoomKey = (HouseId, RoomId);

/// Something that was worked out for a room, and the house that it was worked out for.
struct Known<T> {
    site: Arc<Site>,
    what: Arc<T>,
}

/// What is known of each room.
type KnownOf<T> = Arc<Mutex<HashMap<RoomKey, Known<T>>>>;

/// Everything that routes share.
#[derive(Clone)]
pub struct Houses {
    store: Store,
    rehearsals: Arc<tokio::sync::Mutex<HashMap<RoomKey, Rehearsal>>>,
    proofs: KnownOf<Matrix>,
    plans: KnownOf<Planned>,
    notes: KnownOf<Notes>,
    /// Where tries of a password wait.
    tries: Arc<Line>,
    edits: broadcast::Sender<Arc<Edited>>,
    /// Houses that are gone from the shelf, or are another one from now on.
    gone: broadcast::Sender<HouseId>,
    /// Houses that have come.
    new: broadcast::Sender<HouseId>,
    closing: watch::Sender<bool>,
    /// Links that are withdrawn.
    withdrawn: broadcast::Sender<String>,
    /// The MQTT broker of the rehearsal rooms.
    broker: Option<SocketAddr>,
    trials: Arc<Mutex<HashMap<RoomKey, Trial>>>,
    proving: Arc<Mutex<HashMap<RoomKey, Arc<Proving>>>>,
    looking: Searches,
}

/// How far each search for gateways is that is under way.
type Searches = Arc<Mutex<HashMap<RoomKey, Looking>>>;

/// A search for gateways that is under way: what is dropped is over.
pub struct Looks {
    searches: Searches,
    room: RoomKey,
}

impl Looks {
    /// It is so far.
    pub fn is_at(&self, how_far: Looking) {
        lock(&self.searches).insert(self.room, how_far);
    }
}

impl Drop for Looks {
    fn drop(&mut self) {
        lock(&self.searches).remove(&self.room);
    }
}

/// Trials at random of a room: waiting, under way, or over.
#[derive(Clone)]
pub struct Trial {
    /// What was asked for.
    pub asked: TrialRequest,
    /// How far it is.
    pub progress: Arc<Progress>,
    outcome: Arc<Mutex<Option<Outcome>>>,
}

/// What came of trials, or why nothing did.
type Outcome = Result<TrialReport, String>;

impl Trial {
    /// Trials that wait for their turn.
    pub fn new(asked: TrialRequest) -> Self {
        Self { asked, progress: Arc::default(), outcome: Arc::default() }
    }

    /// What came of it; none while it waits or runs.
    pub fn outcome(&self) -> Option<Outcome> {
        lock(&self.outcome).clone()
    }

    /// They are over; what was said of their end first stays.
    pub fn ends(&self, outcome: Outcome) {
        lock(&self.outcome).get_or_insert(outcome);
    }

    /// Ends them: those that wait are over at once.
    pub fn cancel(&self) {
        self.progress.cancelled.store(true, Ordering::Relaxed);
        if !self.progress.begun.load(Ordering::Relaxed) {
            self.ends(Err("Cancelled before the first evening.".to_owned()));
        }
    }
}

/// A proof that is under way: how far it is, and the way to end it.
pub struct Proving {
    /// Of the house as it stood.
    site: Arc<Site>,
    done: AtomicUsize,
    of: AtomicUsize,
    cancelled: AtomicBool,
    /// Pages that wait for it.
    askers: AtomicUsize,
}

impl Proving {
    fn of(site: Arc<Site>) -> Self {
        Self {
            site,
            done: AtomicUsize::new(0),
            of: AtomicUsize::new(0),
            cancelled: AtomicBool::new(false),
            askers: AtomicUsize::new(0),
        }
    }

    /// So many cells are done; says whether to go on.
    pub fn goes_on(&self, done: usize, of: usize) -> bool {
        self.done.store(done, Ordering::Relaxed);
        self.of.store(of, Ordering::Relaxed);
        !self.cancelled.load(Ordering::Relaxed)
    }

    /// Cells that are done, and of how many; 0 of 0 before it has begun.
    pub fn so_far(&self) -> (usize, usize) {
        (self.done.load(Ordering::Relaxed), self.of.load(Ordering::Relaxed))
    }

    /// Ends it after the cell that is being proved.
    pub fn cancel(&self) {
        self.cancelled.store(true, Ordering::Relaxed);
    }
}

/// Who asks for a change, and from which page.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Who {
    /// The name for the log.
    pub name: String,
    /// The page, as it named itself.
    pub page: String,
    /// The request, as the page named it: one that comes twice is carried out once.
    pub request: Option<uuid::Uuid>,
    /// Is it a client of a surface?
    pub client: bool,
}

impl Who {
    /// What the house does by itself: it is on nobody's line of undo.
    fn itself() -> Self {
        Self { name: "the house itself".to_owned(), page: String::new(), request: None, client: true }
    }

    fn by(&self) -> By<'_> {
        By { who: &self.name, request: self.request, client: self.client }
    }
}

impl Houses {
    pub fn new(store: Store, broker: Option<SocketAddr>) -> Self {
        Self {
            store,
            rehearsals: Arc::default(),
            proofs: Arc::default(),
            plans: Arc::default(),
            notes: Arc::default(),
            tries: Arc::default(),
            edits: broadcast::channel(256).0,
            gone: broadcast::channel(256).0,
            new: broadcast::channel(256).0,
            closing: watch::channel(false).0,
            withdrawn: broadcast::channel(64).0,
            broker,
            trials: Arc::default(),
            proving: Arc::default(),
            looking: Searches::default(),
        }
    }

    /// The proof of a room, where nothing that it rests on was touched since.
    pub fn proof(&self, room: RoomKey, site: &Arc<Site>) -> Option<Arc<Matrix>> {
        known(&self.proofs, room, |then| stands(then, site, room.1))
    }

    /// Keeps the proof of a room.
    pub fn keep_proof(&self, room: RoomKey, site: Arc<Site>, matrix: Matrix) -> Arc<Matrix> {
        keep(&self.proofs, room, site, matrix)
    }

    /// What is left to do in a room; worked out as far as something that it rests on was touched since.
    pub fn notes(&self, room: RoomKey, site: &Arc<Site>) -> Arc<Notes> {
        if let Some(notes) = known(&self.notes, room, |then| Arc::ptr_eq(then, site)) {
            return notes;
        }
        let plans = known(&self.plans, room, |then| stands(then, site, room.1))
            .unwrap_or_else(|| keep(&self.plans, room, site.clone(), check::planned(site, room.1)));
        keep(&self.notes, room, site.clone(), check::room_planned(site, room.1, &plans))
    }

    /// The switches of a room with their plans; worked out anew where something that they rest on was touched.
    pub fn runs(&self, room: RoomKey, site: &Arc<Site>) -> Arc<Vec<Run>> {
        known(&self.plans, room, |then| stands(then, site, room.1))
            .unwrap_or_else(|| keep(&self.plans, room, site.clone(), check::planned(site, room.1)))
            .runs
            .clone()
    }

    /// One more page waits for the proof of a room: the one that is under way, or a new one where the house was edited
    /// since. What was asked of the house as it was ends with the last page that waits for it.
    pub fn proving(&self, room: RoomKey, site: &Arc<Site>) -> Arc<Proving> {
        let mut proving = lock(&self.proving);
        let known = proving.get(&room).filter(|known| Arc::ptr_eq(&known.site, site)).cloned();
        let proof = known.unwrap_or_else(|| Arc::new(Proving::of(site.clone())));
        proof.askers.fetch_add(1, Ordering::Relaxed);
        proving.insert(room, proof.clone());
        proof
    }

    /// A page does not wait any more: with the last one the proof ends.
    pub fn waits_no_more(&self, room: RoomKey, proof: &Arc<Proving>) {
        let mut proving = lock(&self.proving);
        if proof.askers.fetch_sub(1, Ordering::Relaxed) == 1 {
            proof.cancel();
            if proving.get(&room).is_some_and(|known| Arc::ptr_eq(known, proof)) {
                proving.remove(&room);
            }
        }
    }

    /// The proof of a room that is under way; none where none is.
    pub fn under_proof(&self, room: RoomKey) -> Option<Arc<Proving>> {
        lock(&self.proving).get(&room).cloned()
    }

    /// Ends the proof of a room that is under way; whoever asks from now on gets a new one.
    pub fn cancel_proof(&self, room: RoomKey) {
        if let Some(proof) = lock(&self.proving).remove(&room) {
            proof.cancel();
        }
    }

    /// A search for gateways begins.
    pub fn looks(&self, room: RoomKey) -> Looks {
        Looks { searches: self.looking.clone(), room }
    }

    /// How far the search for gateways of a room is; none where none is under way.
    pub fn looking(&self, room: RoomKey) -> Option<Looking> {
        lock(&self.looking).get(&room).copied()
    }

    /// The trials of a room, under way or done last.
    pub fn trial(&self, room: RoomKey) -> Option<Trial> {
        lock(&self.trials).get(&room).cloned()
    }

    /// Keeps the trials of a room in place of those before, which are cancelled.
    pub fn keep_trial(&self, room: RoomKey, trial: Trial) {
        if let Some(old) = lock(&self.trials).insert(room, trial) {
            old.cancel();
        }
    }

    /// The line in which tries of a password wait.
    pub fn tries(&self) -> &Line {
        &self.tries
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

    /// A house has come to the shelf.
    pub fn is_new(&self, house: HouseId) {
        let _ = self.new.send(house);
    }

    /// Houses that come to the shelf.
    pub fn comers(&self) -> broadcast::Receiver<HouseId> {
        self.new.subscribe()
    }

    /// A house is gone, or is another one: pages that show it read it again.
    pub fn is_gone(&self, house: HouseId) {
        let _ = self.gone.send(house);
    }

    /// Houses that go, or become others.
    pub fn goers(&self) -> broadcast::Receiver<HouseId> {
        self.gone.subscribe()
    }

    /// Stops everything that runs or moves in a room, as far as it is open.
    pub async fn stop_room(&self, room: RoomKey) {
        let rehearsal = self.rehearsals.lock().await.get(&room).cloned();
        if let Some(rehearsal) = rehearsal
            && let Err(error) = rehearsal.stop().await
        {
            tracing::warn!(%error, "something could not be stopped before its room changes");
        }
    }

    /// Lets go of what a surface holds down, where its room is open.
    pub async fn release(&self, room: RoomKey, surface: SurfaceId) {
        if let Some(rehearsal) = self.rehearsals.lock().await.get(&room) {
            rehearsal.release(surface);
        }
    }

    /// Stops everything that runs or moves in a house.
    pub async fn stop_house(&self, house: HouseId) {
        let rooms: Vec<RoomKey> =
            self.rehearsals.lock().await.keys().filter(|(owner, _)| *owner == house).copied().collect();
        for room in rooms {
            self.stop_room(room).await;
        }
    }

    /// Stops everything in a house and closes its rooms: nothing of it is known any more.
    pub async fn shut(&self, house: HouseId) {
        self.stop_house(house).await;
        self.rehearsals.lock().await.retain(|(owner, _), _| *owner != house);
        let others = |(owner, _): &RoomKey| *owner != house;
        lock(&self.proofs).retain(|room, _| others(room));
        lock(&self.plans).retain(|room, _| others(room));
        lock(&self.notes).retain(|room, _| others(room));
        lock(&self.trials).retain(|room, trial| {
            if !others(room) {
                trial.cancel();
            }
            others(room)
        });
        lock(&self.proving).retain(|room, proof| {
            if !others(room) {
                proof.cancel();
            }
            others(room)
        });
    }

    pub fn edits(&self) -> broadcast::Receiver<Arc<Edited>> {
        self.edits.subscribe()
    }

    /// A house as it stands.
    pub async fn snapshot(&self, house: HouseId) -> Result<Arc<Snapshot>, Problem> {
        Ok(self.store.load(house).await?)
    }

    /// Carries edits out and tells everyone.
    pub async fn edit(&self, house: HouseId, who: &Who, edits: &[Edit]) -> Result<Saved, Problem> {
        let saved = self.store.edit(house, who.by(), edits).await?;
        self.announce(house, who, &saved).await;
        Ok(saved)
    }

    /// Takes the last edit back and tells everyone.
    pub async fn undo(&self, house: HouseId, who: &Who) -> Result<Saved, Problem> {
        let saved = self.store.undo(house, who.by()).await?;
        self.announce(house, who, &saved).await;
        Ok(saved)
    }

    /// Makes the last undone edit again and tells everyone.
    pub async fn redo(&self, house: HouseId, who: &Who) -> Result<Saved, Problem> {
        let saved = self.store.redo(house, who.by()).await?;
        self.announce(house, who, &saved).await;
        Ok(saved)
    }

    async fn announce(&self, house: HouseId, who: &Who, saved: &Saved) {
        if saved.touched.is_empty() || saved.again {
            return;
        }
        let site = saved.snapshot.site.clone();
        // A reading changes nothing that a room is driven by: a key that somebody holds stays held.
        let refits = saved.touched.iter().any(|key| !key.kind.is_evidence());
        let mut rehearsals = self.rehearsals.lock().await;
        rehearsals.retain(|(owner, room), rehearsal| {
            let stays = *owner != house || site.room(*room).is_some();
            if stays && refits && *owner == house {
                rehearsal.refit(site.clone());
            }
            stays
        });
        let there = |(owner, room): &RoomKey| *owner != house || saved.snapshot.site.room(*room).is_some();
        lock(&self.proofs).retain(|room, _| there(room));
        lock(&self.plans).retain(|room, _| there(room));
        lock(&self.notes).retain(|room, _| there(room));
        let _ = self.edits.send(Arc::new(Edited {
            at: saved.at,
            who: who.name.clone(),
            page: who.page.clone(),
            kind: saved.kind,
            title: saved.title.clone(),
            changed: saved.into(),
        }));
    }

    /// The rehearsal of a room; started where there is none yet.
    pub async fn rehearsal(&self, house: HouseId, room: RoomId) -> Result<Rehearsal, Problem> {
        let snapshot = self.snapshot(house).await?;
        snapshot.site.room(room).ok_or_else(no_room)?;
        let mut rehearsals = self.rehearsals.lock().await;
        if let Some(rehearsal) = rehearsals.get(&(house, room)) {
            return Ok(rehearsal.clone());
        }
        let fresh = Rehearsal::start(snapshot.site.clone(), room, 1.0, self.broker).await?;
        if let Some(to) = self.store.take_run(house, room).await? {
            fresh.forget(&format!(
                "The server was stopped in the middle of {to}: nobody knows what the room is in now. Press what should be on, or Finish."
            ));
        }
        rehearsals.insert((house, room), fresh.clone());
        tokio::spawn(light_other_rooms(self.clone(), house, fresh.elsewhere()));
        tokio::spawn(note_runs(self.clone(), (house, room), fresh.changes(), fresh.watched()));
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
                Ok(Elsewhere::Level { room, zone, percent, fade_ms }) => match houses.rehearsal(house, room).await {
                    Ok(other) => other.dim(zone, percent, fade_ms),
                    Err(error) => tracing::warn!(?error, "a zone of another room could not be lit"),
                },
                Ok(Elsewhere::Rest) => put_to_rest(&houses, house).await,
                // The newest levels come.
                Err(broadcast::error::RecvError::Lagged(_)) => {}
                Err(broadcast::error::RecvError::Closed) => return,
            }
        }
    })
}

/// Every room of the house is finished, each by its own runtime.
async fn put_to_rest(houses: &Houses, house: HouseId) {
    let Ok(snapshot) = houses.snapshot(house).await else { return };
    let rooms: Vec<RoomId> = snapshot.site.rooms.iter().map(|room| room.id).collect();
    let all = rooms.into_iter().map(async |room| match houses.rehearsal(house, room).await {
        Ok(own) => {
            if let Err(error) = own.rest().await {
                own.came_to_nothing(format!("The house was put to rest, and this room was not finished: {error}"));
            }
        }
        Err(error) => tracing::warn!(?error, "a room could not be put to rest"),
    });
    futures::future::join_all(all).await;
}

/// Keeps the note of a macro that nobody asked for: what an adopted room completes by itself, and what a story plays.
async fn note_runs(houses: Houses, (house, room): RoomKey, mut changes: watch::Receiver<u64>, watched: Watched) {
    let mut noted = None;
    while changes.changed().await.is_ok() {
        let Some(rehearsal) = watched.upgrade() else { return };
        let last = rehearsal.last_run();
        if last.is_none_or(|(_, _, under_way)| !under_way) {
            keep_readings(&houses, house, rehearsal.take_readings()).await;
        }
        if last == noted {
            continue;
        }
        let written = match last {
            Some((_, to, true)) => {
                houses.store.run_began(house, room, &situation_name(&rehearsal.world().site(), to)).await
            }
            _ => houses.store.run_ended(house, room).await,
        };
        if let Err(error) = written {
            tracing::warn!(%error, "a macro that is under way could not be written down");
        }
        noted = last;
    }
}

/// Keeps what devices reported of themselves while the room was driven. It is on nobody's line of undo.
async fn keep_readings(houses: &Houses, house: HouseId, told: Vec<(Reported, SeenIn)>) {
    if told.is_empty() {
        return;
    }
    let Ok(snapshot) = houses.snapshot(house).await else { return };
    let readings = feedback::kept(&snapshot.site, told, Timestamp::now(), || MeasurementId(Uuid::now_v7()));
    let put = |own| Edit::Put { entity: Entity::Measurement(own), base: None };
    let edits: Vec<Edit> = readings.into_iter().map(put).collect();
    if edits.is_empty() {
        return;
    }
    if let Err(error) = houses.edit(house, &Who::itself(), &edits).await {
        tracing::warn!(?error, "readings of a run could not be kept");
    }
}

/// What is known of a room, if it stands.
fn known<T>(of: &KnownOf<T>, room: RoomKey, holds: impl FnOnce(&Arc<Site>) -> bool) -> Option<Arc<T>> {
    lock(of).get(&room).filter(|known| holds(&known.site)).map(|known| known.what.clone())
}

fn keep<T>(of: &KnownOf<T>, room: RoomKey, site: Arc<Site>, what: T) -> Arc<T> {
    let what = Arc::new(what);
    lock(of).insert(room, Known { site, what: what.clone() });
    what
}

/// There is no such room.
pub fn no_room() -> Problem {
    Problem::not_found("There is no such room in this house. Choose one from the list.")
}

fn lock<T>(mutex: &Mutex<T>) -> std::sync::MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
