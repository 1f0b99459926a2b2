//! A rehearsal of one room: the [`World`] that is true, the stand-ins that speak for it, the drivers that talk to
//! them, and the runtime with its [`Mind`]. Drivers and stand-ins meet over loopback sockets, or in memory.

mod fit;
mod lap;
mod light;
mod playing;
mod press;
mod run;
mod surface;
mod tell;
mod view;

pub use crate::pressed::Pressed;
pub use light::{LightView, SwitchView, ZoneView};
pub use playing::PlayView;
pub use surface::{DIM_MS, Elsewhere};
pub use tell::Nudged;
pub use view::{DriveView, FaultView, RehearsalView};

pub use crate::mind::{Cause, Notice, NoticeKind, RunEnd, RunStep, RunView, StepState, WayOn};
pub use crate::world::{Direction, WireLine};

use crate::air::Air;
use crate::clock::Clock;
use crate::drive::gateway::Driver;
use crate::drive::{DriverError, typed_address};
use crate::handset::Handsets;
use crate::mind::{Consequence, Mind};
use crate::net::Net;
use crate::wires::Wires;
use crate::world::{PACE, World, hand_words};
use fit::Fitted;
use kestrel_core::commission::feedback::Reported;
use kestrel_core::id::{DeviceId, KeyId, RoomId};
use kestrel_core::light::watch::Watch;
use kestrel_core::model::{Deed, Faults, Hand, SeenIn, Site, Situation, Stand, StoryEvent};
use kestrel_core::prove::{Handed, handed};
use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;
use thiserror::Error;
use tokio::sync::{Notify, broadcast, watch};
use tokio::task::AbortHandle;

/// How often the page is told of what moves, in real time.
const TICK: Duration = Duration::from_millis(120);

/// The slowest and the fastest clock that moves; 0 stands still.
pub const RATES: std::ops::RangeInclusive<f64> = 0.1..=20.0;

/// The longest step of a clock that stands still, in ms.
pub const STEP_MAX_MS: u64 = 3_600_000;

/// Chance starts here, unless a story says otherwise.
const SEED: u64 = 1;

/// Why something cannot be done in the rehearsal room.
#[derive(Debug, Error)]
pub enum RehearsalError {
    /// No socket.
    #[error("The rehearsal room could not open a socket on loopback: {0}.")]
    Socket(#[from] std::io::Error),
    /// The driver failed.
    #[error("The command did not go out: {0}.")]
    Driver(#[from] DriverError),
    /// There is no code.
    #[error("{device} has no code for “{function}”. Paste a capture of that key in Codes.")]
    NoCode {
        /// The device.
        device: String,
        /// The function.
        function: String,
    },
    /// The plan cannot be sent.
    #[error("{0}")]
    NotRunnable(String),
    /// The plan can be sent, and may end wrong: somebody has to say that it shall be.
    #[error("{0} It serves what is likeliest. Send it all the same?")]
    Unsure(String),
    /// The device is not in this room.
    #[error("That device is not in this room any more.")]
    NoDevice,
    /// The handset stand-in refused.
    #[error("The handset could not be pressed: {0}.")]
    Handset(String),
    /// A device says nothing of itself.
    #[error("{0}")]
    NoFeedback(String),
    /// It makes no sense now.
    #[error("{0}")]
    NotNow(String),
    /// A key would do nothing, or not all of it: for the programmer, and for whoever pressed it.
    #[error("{exactly}")]
    Barred {
        /// In the words of the trade.
        exactly: String,
        /// In those of the family.
        plainly: String,
    },
}

impl RehearsalError {
    /// What is said to both in the same words.
    fn plain(why: impl Into<String>) -> Self {
        let exactly = why.into();
        Self::Barred { plainly: exactly.clone(), exactly }
    }
}

/// One room under rehearsal. Ends with its last clone.
#[derive(Clone)]
pub struct Rehearsal {
    pub(crate) inner: Arc<Inner>,
}

pub(crate) struct Inner {
    pub(crate) world: World,
    pub(crate) net: Net,
    /// Where the MQTT broker listens; messages pass in memory without one.
    broker: Option<SocketAddr>,
    air: Air,
    pub(crate) handsets: Handsets,
    mind: Mutex<Mind>,
    light: Mutex<Watch>,
    /// Something has happened that may bring another moment nearer.
    relit: Arc<Notify>,
    /// Changes whenever the mind does.
    minded: watch::Sender<u64>,
    fitted: tokio::sync::Mutex<Option<Fitted>>,
    run: Mutex<Option<AbortHandle>>,
    /// Levels for zones of other rooms.
    elsewhere: broadcast::Sender<Elsewhere>,
    /// Keys of surfaces that are held down.
    holds: Mutex<BTreeMap<KeyId, AbortHandle>>,
    /// When keys that only count so often were pressed last, in ms.
    twists: Mutex<BTreeMap<KeyId, Vec<u64>>>,
    /// One command at a time: a reset must not fall between the planning of a run and its start.
    commands: tokio::sync::Mutex<()>,
    /// One writer a device: whatever sends to it takes this first, and believes what follows before the bytes leave.
    writers: Mutex<BTreeMap<DeviceId, Arc<tokio::sync::Mutex<()>>>>,
    /// How often everything was stopped: what was on its way before then is not sent any more.
    stops: AtomicU64,
    recording: Mutex<Option<Recording>>,
    playing: Mutex<Option<playing::Playing>>,
    /// One evening at a time is begun.
    plays: tokio::sync::Mutex<()>,
    ticker: Mutex<Option<AbortHandle>>,
}

/// An evening that is being recorded.
struct Recording {
    since_ms: u64,
    events: Vec<StoryEvent>,
}

impl Drop for Inner {
    fn drop(&mut self) {
        self.stop_playing();
        for (_, task) in std::mem::take(&mut *self.holds.lock().unwrap_or_else(PoisonError::into_inner)) {
            task.abort();
        }
        for task in [&self.run, &self.ticker] {
            if let Some(task) = task.lock().unwrap_or_else(PoisonError::into_inner).take() {
                task.abort();
            }
        }
    }
}

/// A rehearsal that is not kept alive by this.
#[derive(Clone)]
pub struct Watched(std::sync::Weak<Inner>);

impl Watched {
    /// The rehearsal, while it lives.
    #[must_use]
    pub fn upgrade(&self) -> Option<Rehearsal> {
        self.0.upgrade().map(|inner| Rehearsal { inner })
    }
}

impl Rehearsal {
    /// This rehearsal, without keeping it alive.
    #[must_use]
    pub fn watched(&self) -> Watched {
        Watched(Arc::downgrade(&self.inner))
    }

    /// The number of the last run, where it leads, and whether it is still under way; none where there was none.
    #[must_use]
    pub fn last_run(&self) -> Option<(u64, Situation, bool)> {
        self.mind().run.as_ref().map(|run| (run.number, run.to, run.end.is_none()))
    }

    /// Times that devices reported since somebody last asked, and where that was: in the house where a device is driven for
    /// real, in the rehearsal room where its stand-in answers. A clock that is not the wall's times nothing in the house.
    #[must_use]
    pub fn take_readings(&self) -> Vec<(Reported, SeenIn)> {
        let reported = self.mind().take_reported();
        let site = self.inner.world.site();
        let real_time = (self.clock().rate() - 1.0).abs() < f64::EPSILON;
        let seen = |own: Reported| match typed_address(&site, own.device) {
            Ok(None) => Some((own, SeenIn::Rehearsed)),
            Ok(Some(_)) if real_time => Some((own, SeenIn::House)),
            _ => None,
        };
        reported.into_iter().filter_map(seen).collect()
    }

    /// The last run, as it stands.
    #[must_use]
    pub fn view_of_run(&self) -> Option<RunView> {
        self.mind().run.clone()
    }

    /// Opens the sockets of the room on loopback and starts it, with everything off. Dimmers and sensors meet at
    /// the MQTT broker, where there is one.
    ///
    /// # Errors
    /// Where no socket can be had.
    pub async fn start(
        site: Arc<Site>,
        room: RoomId,
        rate: f64,
        broker: Option<SocketAddr>,
    ) -> Result<Self, RehearsalError> {
        let off = handed_over(site.clone(), room).await;
        let rehearsal = Self::build(site, room, rate, Net::Sockets, broker, SEED, &off);
        rehearsal.wires().await?;
        Ok(rehearsal)
    }

    /// The same room without sockets: drivers reach the stand-ins through pipes in memory.
    #[must_use]
    pub fn in_memory(site: Arc<Site>, room: RoomId, rate: f64) -> Self {
        let handed = handed(&site, room, Situation::Off);
        Self::build(site, room, rate, Net::pipes(), None, SEED, &handed).fitted_soon()
    }

    /// The same with another chance, in a room that is known to be handed over like this.
    #[must_use]
    pub fn with_chance(site: Arc<Site>, room: RoomId, seed: u64, handed: &Handed) -> Self {
        Self::build(site, room, 1.0, Net::pipes(), None, seed, handed).fitted_soon()
    }

    /// Stand-ins and drivers come in the background.
    fn fitted_soon(self) -> Self {
        let weak = Arc::downgrade(&self.inner);
        tokio::spawn(async move {
            if let Some(inner) = weak.upgrade() {
                // Where no socket can be had, the next command says so.
                let _ = Self { inner }.wires().await;
            }
        });
        self
    }

    fn build(
        site: Arc<Site>,
        room: RoomId,
        rate: f64,
        net: Net,
        broker: Option<SocketAddr>,
        seed: u64,
        handed: &Handed,
    ) -> Self {
        let clock = Clock::new(rate);
        let world = World::new(site.clone(), room, clock.clone(), seed);
        world.stand(&handed.stands, PACE);
        let air = Air::default();
        let house = world.clone();
        let handsets = Handsets::new(clock, air.clone(), move || house.site());
        let inner = Arc::new(Inner {
            light: Mutex::new(light::begins(&site, room)),
            relit: Arc::default(),
            mind: Mutex::new(Mind::new(site, room, handed.known.clone())),
            minded: watch::channel(0).0,
            world,
            net,
            broker,
            air,
            handsets,
            fitted: tokio::sync::Mutex::new(None),
            run: Mutex::new(None),
            elsewhere: broadcast::channel(64).0,
            holds: Mutex::default(),
            twists: Mutex::default(),
            commands: tokio::sync::Mutex::new(()),
            writers: Mutex::default(),
            stops: AtomicU64::new(0),
            recording: Mutex::new(None),
            playing: Mutex::new(None),
            plays: tokio::sync::Mutex::new(()),
            ticker: Mutex::new(None),
        });
        tokio::spawn(light::tick(Arc::downgrade(&inner)));
        let ticker = tokio::spawn(tick(Arc::downgrade(&inner)));
        *inner.ticker.lock().unwrap_or_else(PoisonError::into_inner) = Some(ticker.abort_handle());
        Self { inner }
    }

    /// Changes whenever the view does.
    #[must_use]
    pub fn changes(&self) -> watch::Receiver<u64> {
        self.inner.world.changes()
    }

    /// The clock of this room.
    #[must_use]
    pub fn clock(&self) -> &Clock {
        self.inner.world.clock()
    }

    /// The truth about this room.
    #[must_use]
    pub fn world(&self) -> &World {
        &self.inner.world
    }

    pub(crate) fn mind(&self) -> MutexGuard<'_, Mind> {
        self.inner.mind()
    }

    pub(crate) fn touch(&self) {
        self.inner.touch();
    }

    /// Nobody knows what the room is in: the server was stopped in the middle of something.
    pub fn forget(&self, why: &str) {
        let now = self.clock().now_ms();
        self.mind().forget(now, why);
        self.touch();
    }

    /// Takes over an edited house; what is on stays on. Drivers and stand-ins follow with the next command.
    pub fn refit(&self, site: Arc<Site>) {
        self.inner.world.refit(site.clone());
        self.inner.light().refit(&site, self.inner.world.room());
        self.mind().refit(site);
        // A held key of a surface that has changed is let go.
        self.release_all();
        self.touch();
        let _ = self.clone().fitted_soon();
    }

    /// Sets the clock's rate, kept within [`RATES`]; 0 stands still.
    pub fn set_rate(&self, rate: f64) {
        let rate = if rate <= 0.0 { 0.0 } else { rate.clamp(*RATES.start(), *RATES.end()) };
        self.clock().set_rate(rate);
        self.touch();
    }

    /// Moves a clock that stands still ahead; without `ms` to the next thing that happens by itself, or by 1 s.
    pub fn step(&self, ms: Option<u64>) {
        let now = self.clock().now_ms();
        let next = self.inner.world.with(|truth, _| truth.sim.next_event_ms());
        let due = {
            let mind = self.mind();
            let run = mind.run.as_ref().filter(|run| run.end.is_none());
            run.and_then(|run| {
                let waiting = run.steps.iter().filter(|step| step.state == StepState::Waiting);
                let due = waiting.map(|step| run.started_ms + u64::from(step.due_ms)).filter(|at| *at > now).min();
                due.or(Some(run.started_ms + u64::from(run.ready_ms))).filter(|at| *at > now)
            })
        };
        let next = next.into_iter().chain(due).filter(|at| *at > now).min();
        let ms = ms.unwrap_or_else(|| next.map_or(1_000, |at| at - now)).clamp(1, STEP_MAX_MS);
        self.clock().step(ms);
        self.touch();
    }

    /// Stops the run and puts the room back to off and whole, as if it had just been handed over.
    pub async fn reset(&self) {
        let _turn = self.inner.commands.lock().await;
        self.start_over(SEED).await;
    }

    async fn start_over(&self, seed: u64) {
        self.inner.forget_playing();
        self.end_run(RunEnd::Stopped);
        let (site, room) = (self.inner.world.site(), self.inner.world.room());
        let off = handed_over(site.clone(), room).await;
        self.inner.world.reset(seed);
        self.inner.world.stand(&off.stands, PACE);
        let now = self.clock().now_ms();
        let mut light = light::begins(&site, room);
        let begins = light.time(0);
        light.set_time(now, begins);
        *self.inner.light() = light;
        *self.mind() = Mind::new(site, room, off.known);
        *self.inner.recording.lock().unwrap_or_else(PoisonError::into_inner) = None;
        self.touch();
    }

    /// The room is found like this, and taken for something.
    pub async fn stand(&self, devices: &[Stand], taken_for: Situation, pace_percent: u8) {
        let _turn = self.inner.commands.lock().await;
        self.end_run(RunEnd::Stopped);
        let (site, room) = (self.inner.world.site(), self.inner.world.room());
        let found = worked_out(move || handed(&site, room, taken_for)).await;
        let pace = f64::from(pace_percent.min(100)) / 100.0;
        self.inner.world.stand(&found.stands, pace);
        self.inner.world.stand(devices, pace);
        let now = self.clock().now_ms();
        self.mind().found(now, taken_for, found.known);
        self.record(Deed::Stand { devices: devices.to_vec(), taken_for, pace_percent });
        self.touch();
    }

    /// A hand does something in the room; says what came of it.
    ///
    /// # Errors
    /// Where the device is not in this room.
    pub fn hand(&self, hand: &Hand) -> Result<String, RehearsalError> {
        let said = self.inner.world.hand(hand).ok_or(RehearsalError::NoDevice)?;
        self.record(Deed::Hand { hand: hand.clone() });
        Ok(said)
    }

    /// A hand in words.
    #[must_use]
    pub fn hand_in_words(&self, hand: &Hand) -> String {
        let site = self.inner.world.site();
        let name = hand.device().map_or("The mains".to_owned(), |device| site.device_name(device));
        hand_words(&site, hand, &name)
    }

    /// Breaks something, or mends it.
    ///
    /// # Errors
    /// Where the device is not in this room.
    pub fn set_faults(&self, device: kestrel_core::id::DeviceId, faults: Faults) -> Result<(), RehearsalError> {
        self.here(device)?;
        self.inner.world.set_faults(device, faults);
        self.record(Deed::Fault { device, faults });
        Ok(())
    }

    /// A device restarts.
    ///
    /// # Errors
    /// Where the device is not in this room.
    pub fn restart(&self, device: kestrel_core::id::DeviceId) -> Result<(), RehearsalError> {
        self.here(device)?;
        self.inner.world.restart(device);
        self.record(Deed::Restart { device });
        Ok(())
    }

    fn here(&self, device: kestrel_core::id::DeviceId) -> Result<(), RehearsalError> {
        let site = self.inner.world.site();
        let found = site.device(device).is_some_and(|known| known.serves(self.inner.world.room()));
        if found { Ok(()) } else { Err(RehearsalError::NoDevice) }
    }

    /// Everything that a command can leave by.
    pub(crate) async fn wires(&self) -> Result<Wires, RehearsalError> {
        let mut fitted = self.inner.fitted.lock().await;
        let key = fit::key(&self.inner.world.site(), self.inner.world.room());
        if let Some(known) = fitted.as_ref().filter(|known| known.key == key) {
            return Ok(known.wires.clone());
        }
        // The old stand-ins and drivers go before the new ones come.
        *fitted = None;
        let fresh = Fitted::make(&self.inner, key).await?;
        let wires = fresh.wires.clone();
        *fitted = Some(fresh);
        Ok(wires)
    }

    pub(crate) async fn driver(&self) -> Result<Arc<Driver>, RehearsalError> {
        Ok(self.wires().await?.gateway.driver().await?)
    }

    /// Starts to record what happens from now on, in a room that was put back to off.
    pub async fn record_from_here(&self) {
        let _turn = self.inner.commands.lock().await;
        self.start_over(SEED).await;
        let since_ms = self.clock().now_ms();
        *self.inner.recording.lock().unwrap_or_else(PoisonError::into_inner) =
            Some(Recording { since_ms, events: vec![] });
        self.touch();
    }

    /// What was recorded so far, and how long the evening is.
    ///
    /// # Errors
    /// Where nothing is being recorded.
    pub fn recorded(&self) -> Result<(Vec<StoryEvent>, u64), RehearsalError> {
        let recording = self.inner.recording.lock().unwrap_or_else(PoisonError::into_inner);
        let recording = recording
            .as_ref()
            .ok_or_else(|| RehearsalError::NotNow("Nothing is being recorded. Press “Record” first.".to_owned()))?;
        Ok((recording.events.clone(), self.clock().now_ms() - recording.since_ms))
    }

    /// Ends the recording.
    pub fn end_recording(&self) {
        *self.inner.recording.lock().unwrap_or_else(PoisonError::into_inner) = None;
        self.touch();
    }

    /// The number that chance starts from in a recorded evening.
    #[must_use]
    pub const fn seed() -> u64 {
        SEED
    }

    /// What the runtime takes the room to be in; none where it does not know.
    #[must_use]
    pub fn taken_for(&self) -> Option<Situation> {
        self.mind().taken_for
    }

    pub(super) fn record(&self, deed: Deed) {
        let now = self.clock().now_ms();
        let mut recording = self.inner.recording.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(recording) = recording.as_mut() {
            recording.events.push(StoryEvent { at_ms: now - recording.since_ms, deed });
        }
    }

    fn is_recording(&self) -> bool {
        self.inner.recording.lock().unwrap_or_else(PoisonError::into_inner).is_some()
    }
}

impl Inner {
    pub(crate) fn mind(&self) -> MutexGuard<'_, Mind> {
        self.mind.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The right to send to a device: one at a time.
    pub(crate) fn writer(&self, device: DeviceId) -> Arc<tokio::sync::Mutex<()>> {
        self.writers.lock().unwrap_or_else(PoisonError::into_inner).entry(device).or_default().clone()
    }

    /// How often everything was stopped so far.
    pub(crate) fn stops(&self) -> u64 {
        self.stops.load(Ordering::SeqCst)
    }

    pub(crate) fn touch(&self) {
        self.minded.send_modify(|n| *n += 1);
        self.world.touch();
    }

    /// Looks at what was told; carries out what follows from it.
    pub(crate) fn evaluate(self: &Arc<Self>) {
        let now = self.world.clock().now_ms();
        let consequence = self.mind().evaluate(now);
        self.touch();
        // To adopt sends nothing: the light follows when the activity is completed, or when it plays.
        if let Consequence::Adopted(to) = consequence {
            let activity = if let Situation::In { activity } = to { Some(activity) } else { None };
            self.light().taken_for(activity);
        }
        if let Consequence::Complete(to) = consequence {
            let rehearsal = Rehearsal { inner: self.clone() };
            tokio::spawn(async move {
                if let Err(error) = rehearsal.run_because(to, Cause::Completed, false).await {
                    let now = rehearsal.clock().now_ms();
                    rehearsal.mind().held(now, error.to_string());
                    rehearsal.touch();
                }
            });
        }
    }
}

/// How a room is handed over.
async fn handed_over(site: Arc<Site>, room: RoomId) -> Handed {
    worked_out(move || handed(&site, room, Situation::Off)).await
}

/// Works something out beside the event loop, where there is a thread to spare; a clock that is paused must not
/// run ahead meanwhile.
async fn worked_out<T: Send + Default + 'static>(work: impl FnOnce() -> T + Send + 'static) -> T {
    use tokio::runtime::{Handle, RuntimeFlavor};
    if Handle::current().runtime_flavor() == RuntimeFlavor::CurrentThread {
        work()
    } else {
        tokio::task::spawn_blocking(work).await.unwrap_or_default()
    }
}

/// Tells the page of movement and of the end of warm-ups, as long as there is any.
async fn tick(inner: std::sync::Weak<Inner>) {
    let mut last = None;
    loop {
        tokio::time::sleep(TICK).await;
        let Some(inner) = inner.upgrade() else { return };
        let (view, under_way) = inner.world.with(|truth, _| (truth.sim.view(), truth.sim.under_way()));
        let running = inner.mind().run.as_ref().is_some_and(|run| run.end.is_none());
        if running || under_way || last.as_ref() != Some(&view) {
            last = Some(view);
            inner.world.touch();
        }
    }
}
