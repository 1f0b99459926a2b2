//! A rehearsal of one room: the simulated room, its gateway on a loopback socket, and the runtime.

use crate::air::Air;
use crate::belief::{BeliefView, Beliefs};
use crate::clock::Clock;
use crate::driver::{Driver, DriverError};
use crate::gateway::Gateway;
use crate::handset::Handsets;
use crate::ip::{self, Address};
use crate::runtime::{self, StepEvent};
use crate::wires::Wires;
use kestrel_core::device::{Feedback, Medium, Press};
use kestrel_core::id::{DeviceId, FunctionId, RoomId};
use kestrel_core::plan::{Plan, Situation, plan_from, press_of};
use kestrel_core::room::{DeviceView, Heard, Outcome, SimRoom, meaning};
use kestrel_core::site::{CodeBody, Site};
use serde::Serialize;
use std::collections::{BTreeMap, VecDeque};
use std::net::SocketAddr;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;
use thiserror::Error;
use tokio::net::TcpListener;
use tokio::sync::watch;
use tokio::task::{AbortHandle, JoinSet};
use utoipa::ToSchema;

/// How many lines of the wire log are kept.
const WIRE_LINES: usize = 400;

/// How often the page is told of what moves, in real time.
const TICK: Duration = Duration::from_millis(120);

/// Where real durations lie within their intervals.
const PACE: f64 = 0.8;

/// The slowest and the fastest clock.
pub const RATES: std::ops::RangeInclusive<f64> = 0.1..=20.0;

/// A line of the wire log.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct WireLine {
    /// Counts up.
    pub number: u64,
    /// Simulated time, in ms.
    pub at_ms: u64,
    /// By which medium.
    pub medium: Medium,
    /// What was on the air, in words.
    pub meaning: String,
    /// How many durations, and how long in ms.
    pub durations: usize,
    /// How long it was, in ms.
    pub length_ms: u32,
    /// Who understood it and what they did; empty where nobody did.
    pub heard: Vec<Heard>,
}

/// How far a step of a run is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum StepState {
    /// Its time has not come.
    Waiting,
    /// It goes out.
    Sending,
    /// It went out.
    Sent,
    /// It did not go out.
    Failed,
    /// The run ended before it.
    Dropped,
}

/// A step of a run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RunStep {
    /// The device.
    pub device: DeviceId,
    /// The function's name.
    pub name: String,
    /// When it is due, in ms from the start of the run.
    pub due_ms: u32,
    /// How far it is.
    pub state: StepState,
}

/// How a run ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum RunEnd {
    /// The room is what it should be, as the simulated devices themselves show.
    Ready,
    /// All was sent, but the room is not what it should be.
    Wrong,
    /// A command could not be sent.
    Failed,
    /// Someone stopped it, or asked for something else.
    Stopped,
}

/// A run of a plan.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RunView {
    /// Counts up.
    pub number: u64,
    /// Where it leads.
    pub to: Situation,
    /// When it started, in ms.
    pub started_ms: u64,
    /// When it should be ready, in ms from its start.
    pub ready_ms: u32,
    /// Its steps.
    pub steps: Vec<RunStep>,
    /// How it ended; none while it runs.
    pub end: Option<RunEnd>,
    /// When it ended, in ms.
    pub ended_ms: Option<u64>,
    /// What went wrong, sentence by sentence.
    pub troubles: Vec<String>,
}

/// A rehearsal as it stands.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RehearsalView {
    /// The room.
    pub room: RoomId,
    /// Simulated time, in ms.
    pub now_ms: u64,
    /// How many times faster than real time.
    pub rate: f64,
    /// Where the gateway listens.
    pub gateway: String,
    /// The devices as they are.
    pub devices: Vec<DeviceView>,
    /// The devices as the runtime believes they are.
    pub beliefs: Vec<BeliefView>,
    /// The last run.
    pub run: Option<RunView>,
    /// The newest lines of the wire log, the newest last.
    pub wire: Vec<WireLine>,
}

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
    /// The device is not in this room.
    #[error("That device is not in this room any more.")]
    NoDevice,
    /// The handset stand-in refused.
    #[error("The handset could not be pressed: {0}.")]
    Handset(String),
    /// A device says nothing of itself.
    #[error("{0}")]
    NoFeedback(String),
}

/// One room under rehearsal. Ends with its last clone.
#[derive(Clone)]
pub struct Rehearsal {
    pub(crate) inner: Arc<Inner>,
}

/// How the driver reaches the gateway.
enum Transport {
    /// A socket on loopback: real time and up to [`RATES`] times as fast.
    Socket(SocketAddr),
    /// A pipe in memory, for a clock that is paused or runs faster than sockets can follow.
    Pipe(Gateway),
}

pub(crate) struct Inner {
    pub(crate) room: RoomId,
    pub(crate) clock: Clock,
    transport: Transport,
    driver: tokio::sync::Mutex<Option<Arc<Driver>>>,
    pub(crate) sockets: tokio::sync::Mutex<Sockets>,
    pub(crate) handsets: Handsets,
    pub(crate) state: Arc<Mutex<Shared>>,
    run: Mutex<Option<AbortHandle>>,
    /// One command at a time: a reset must not fall between the planning of a run and its start.
    commands: tokio::sync::Mutex<()>,
    changed: watch::Sender<u64>,
    tasks: JoinSet<()>,
}

/// Sockets that are opened when they are first needed, with the tasks behind them.
#[derive(Default)]
pub(crate) struct Sockets {
    devices: BTreeMap<DeviceId, Address>,
    pub(crate) handset: Option<SocketAddr>,
    pub(crate) tasks: JoinSet<()>,
}

/// What the gateway's task and the runtime share.
pub(crate) struct Shared {
    pub(crate) site: Arc<Site>,
    pub(crate) sim: SimRoom,
    beliefs: Beliefs,
    run: Option<RunView>,
    wire: VecDeque<WireLine>,
    lines: u64,
    runs: u64,
}

pub(crate) fn lock(state: &Mutex<Shared>) -> MutexGuard<'_, Shared> {
    state.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Rehearsal {
    /// Opens the gateway's socket on loopback and starts the room, with everything off.
    ///
    /// # Errors
    /// Where no socket can be had.
    pub async fn start(site: Arc<Site>, room: RoomId, rate: f64) -> Result<Self, RehearsalError> {
        let listener = TcpListener::bind(("127.0.0.1", 0)).await?;
        let address = listener.local_addr()?;
        let mut rehearsal = Self::build(site, room, rate);
        let gateway = std::mem::replace(&mut rehearsal.transport, Transport::Socket(address));
        if let Transport::Pipe(gateway) = gateway {
            rehearsal.tasks.spawn(gateway.listen(listener));
        }
        Ok(Self { inner: Arc::new(rehearsal) })
    }

    /// The same room without sockets: the driver reaches the gateway through a pipe in memory.
    #[must_use]
    pub fn in_memory(site: Arc<Site>, room: RoomId, rate: f64) -> Self {
        Self { inner: Arc::new(Self::build(site, room, rate)) }
    }

    fn build(site: Arc<Site>, room: RoomId, rate: f64) -> Inner {
        let clock = Clock::new(rate);
        let (changed, _) = watch::channel(0);
        let state = Arc::new(Mutex::new(Shared {
            sim: SimRoom::new(&site, room, PACE),
            beliefs: Beliefs::off(&site, room),
            site,
            run: None,
            wire: VecDeque::new(),
            lines: 0,
            runs: 0,
        }));
        let (air, told) = (state.clone(), changed.clone());
        let handset_air = Air::default();
        let house = state.clone();
        let handsets = Handsets::new(clock.clone(), handset_air.clone(), move || lock(&house).site.clone());
        let gateway = Gateway::new("bench gateway", clock.clone(), handset_air, move |at_ms, medium, durations_us| {
            lock(&air).radiate(at_ms, medium, durations_us);
            told.send_modify(|n| *n += 1);
        });
        let mut tasks = JoinSet::new();
        tasks.spawn(tick(state.clone(), clock.clone(), changed.clone()));
        let (driver, run, commands) = (tokio::sync::Mutex::new(None), Mutex::new(None), tokio::sync::Mutex::new(()));
        let transport = Transport::Pipe(gateway);
        let sockets = tokio::sync::Mutex::new(Sockets::default());
        Inner { room, clock, transport, driver, sockets, handsets, state, run, commands, changed, tasks }
    }

    /// Changes whenever the view does.
    #[must_use]
    pub fn changes(&self) -> watch::Receiver<u64> {
        self.inner.changed.subscribe()
    }

    fn touch(&self) {
        self.inner.changed.send_modify(|n| *n += 1);
    }

    /// The rehearsal as it stands.
    #[must_use]
    pub fn view(&self) -> RehearsalView {
        let now_ms = self.inner.clock.now_ms();
        let mut state = lock(&self.inner.state);
        state.sim.advance(now_ms);
        RehearsalView {
            room: self.inner.room,
            now_ms,
            rate: self.inner.clock.rate(),
            gateway: match &self.inner.transport {
                Transport::Socket(address) => address.to_string(),
                Transport::Pipe(_) => "in memory".to_owned(),
            },
            devices: state.sim.view(),
            beliefs: state.beliefs.view(&state.site, self.inner.room),
            run: state.run.clone(),
            wire: state.wire.iter().cloned().collect(),
        }
    }

    /// Takes over an edited house; what is on stays on.
    pub fn refit(&self, site: Arc<Site>) {
        {
            let mut state = lock(&self.inner.state);
            let old = std::mem::replace(&mut state.site, site.clone());
            state.sim.refit(&site, self.inner.room, PACE);
            state.beliefs.refit(&old, &site, self.inner.room);
        }
        self.touch();
    }

    /// Sets the clock's rate, kept within [`RATES`].
    pub fn set_rate(&self, rate: f64) {
        self.inner.clock.set_rate(rate.clamp(*RATES.start(), *RATES.end()));
        self.touch();
    }

    /// Stops the run and puts the room back to off, as if it had just been switched on at the mains.
    pub async fn reset(&self) {
        let _turn = self.inner.commands.lock().await;
        self.end_run(RunEnd::Stopped);
        {
            let mut state = lock(&self.inner.state);
            let now = self.inner.clock.now_ms();
            state.sim = SimRoom::new(&state.site, self.inner.room, PACE);
            state.sim.advance(now);
            state.beliefs = Beliefs::off(&state.site, self.inner.room);
            state.run = None;
            state.wire.clear();
        }
        self.touch();
    }

    /// Everything that a command can leave by. Devices on the network get their sockets here.
    pub(crate) async fn wires(&self) -> Result<Wires, RehearsalError> {
        let gateway = self.driver().await?;
        let mut sockets = self.inner.sockets.lock().await;
        let site = lock(&self.inner.state).site.clone();
        for device in site.devices_in(self.inner.room) {
            if sockets.devices.contains_key(&device.id) || !on_the_network(&site, device.id) {
                continue;
            }
            let tcp = TcpListener::bind(("127.0.0.1", 0)).await?;
            let udp = tokio::net::UdpSocket::bind(("127.0.0.1", 0)).await?;
            let address = Address { tcp: tcp.local_addr()?, udp: udp.local_addr()? };
            let (state, clock, changed) =
                (self.inner.state.clone(), self.inner.clock.clone(), self.inner.changed.clone());
            let understand = move |device: DeviceId, bytes: &[u8]| {
                let answer = lock(&state).receive_bytes(clock.now_ms(), device, bytes);
                changed.send_modify(|n| *n += 1);
                answer
            };
            sockets.tasks.spawn(ip::Device::new(device.id, Arc::new(understand)).listen(tcp, udp));
            sockets.devices.insert(device.id, address);
        }
        Ok(Wires { gateway, devices: Arc::new(sockets.devices.clone()) })
    }

    pub(crate) async fn driver(&self) -> Result<Arc<Driver>, DriverError> {
        let mut driver = self.inner.driver.lock().await;
        if let Some(driver) = driver.as_ref() {
            return Ok(driver.clone());
        }
        let fresh = Arc::new(match &self.inner.transport {
            Transport::Socket(address) => Driver::connect(*address).await?,
            Transport::Pipe(gateway) => {
                let ((read, answers), (requests, write)) = (tokio::io::duplex(65_536), tokio::io::duplex(65_536));
                tokio::spawn(gateway.clone().serve(requests, answers));
                Driver::over(read, write)
            }
        });
        *driver = Some(fresh.clone());
        Ok(fresh)
    }

    /// Sends a function once, as its code says.
    ///
    /// # Errors
    /// Where there is no code or it did not go out.
    pub async fn send_once(&self, device: DeviceId, function: FunctionId) -> Result<Vec<Heard>, RehearsalError> {
        let (body, press, frames) = {
            let state = lock(&self.inner.state);
            let site = &state.site;
            site.device(device).filter(|d| d.serves(self.inner.room)).ok_or(RehearsalError::NoDevice)?;
            let code = site.code(device, function).ok_or_else(|| RehearsalError::NoCode {
                device: site.device_name(device),
                function: site.function_name(device, function),
            })?;
            let (press, frames) = press_of(site, device, function);
            (code.body.clone(), press, frames)
        };
        let heard = self.send_body(device, &body, press, frames).await?;
        let mut state = lock(&self.inner.state);
        let now = self.inner.clock.now_ms();
        let site = state.site.clone();
        state.beliefs.sent(&site, self.inner.room, device, function, now);
        drop(state);
        self.touch();
        Ok(heard)
    }

    /// Sends something to a device that no function holds (yet); says who understood it.
    ///
    /// # Errors
    /// Where it did not go out.
    pub async fn send_body(
        &self,
        device: DeviceId,
        body: &CodeBody,
        press: Press,
        frames: Option<u32>,
    ) -> Result<Vec<Heard>, RehearsalError> {
        let seen = lock(&self.inner.state).lines;
        let wires = self.wires().await?;
        let sent = wires.send(device, body, press, frames, self.inner.clock.rate()).await;
        // What arrived before it went wrong is worth knowing too, but the error comes first.
        if let Err(error) = sent {
            // The next command makes a new connection.
            *self.inner.driver.lock().await = None;
            return Err(error.into());
        }
        if matches!(body, CodeBody::Ip { command } if command.expected().is_none()) {
            // Nothing comes back that would say that it has arrived.
            tokio::time::sleep(Duration::from_millis(60)).await;
        }
        let state = lock(&self.inner.state);
        let heard = state.wire.iter().filter(|line| line.number > seen).flat_map(|line| line.heard.clone()).collect();
        drop(state);
        self.touch();
        Ok(heard)
    }

    /// The plan that a request for `to` would run now, from what is believed.
    #[must_use]
    pub fn plan(&self, to: Situation) -> Plan {
        let state = lock(&self.inner.state);
        state.plan(self.inner.room, self.inner.clock.now_ms(), to)
    }

    /// Starts a run; one that is under way is superseded.
    ///
    /// # Errors
    /// Where the plan cannot be sent as it is, or the gateway cannot be reached.
    pub async fn run(&self, to: Situation) -> Result<(), RehearsalError> {
        let wires = self.wires().await?;
        let _turn = self.inner.commands.lock().await;
        self.end_run(RunEnd::Stopped);
        let plan = self.plan(to);
        if !plan.runnable {
            let stops = plan.findings.iter().filter(|f| f.weight == kestrel_core::finding::Weight::Stops);
            let reasons: Vec<&str> = stops.map(|finding| finding.text.as_str()).collect();
            return Err(RehearsalError::NotRunnable(reasons.join(" ")));
        }
        let start_ms = self.inner.clock.now_ms();
        let number = lock(&self.inner.state).begin(&plan, start_ms);
        let (state, clock, changed) = (self.inner.state.clone(), self.inner.clock.clone(), self.inner.changed.clone());
        let room = self.inner.room;
        let task = tokio::spawn(follow(Follower { room, plan, wires, clock, state, changed, start_ms, number }));
        *self.inner.run.lock().unwrap_or_else(PoisonError::into_inner) = Some(task.abort_handle());
        self.touch();
        Ok(())
    }

    fn end_run(&self, end: RunEnd) {
        if let Some(task) = self.inner.run.lock().unwrap_or_else(PoisonError::into_inner).take() {
            task.abort();
        }
        let now = self.inner.clock.now_ms();
        lock(&self.inner.state).finish(now, end, vec![]);
    }

    /// Stops the run and everything that moves.
    ///
    /// # Errors
    /// Where a stop could not be sent.
    pub async fn stop(&self) -> Result<(), RehearsalError> {
        let _turn = self.inner.commands.lock().await;
        self.end_run(RunEnd::Stopped);
        self.touch();
        let stops: Vec<(DeviceId, FunctionId)> = {
            let mut state = lock(&self.inner.state);
            state.sim.advance(self.inner.clock.now_ms());
            let moving = state.sim.view().into_iter().filter(|view| view.moving.is_some());
            moving.filter_map(|view| Some((view.device, state.site.profile_of(view.device)?.motion?.stop?))).collect()
        };
        for (device, function) in stops {
            self.send_once(device, function).await?;
        }
        Ok(())
    }
}

impl Drop for Inner {
    fn drop(&mut self) {
        if let Some(task) = self.run.lock().unwrap_or_else(PoisonError::into_inner).take() {
            task.abort();
        }
    }
}

/// Does anything reach this device over the network, or does it tell something of itself there?
fn on_the_network(site: &Site, device: DeviceId) -> bool {
    let ip = |body: &CodeBody| matches!(body, CodeBody::Ip { .. });
    let answers = site.model_of(device).is_some_and(|model| {
        model.feedback != Feedback::None || model.functions.iter().filter_map(|f| f.answers_to.as_ref()).any(ip)
    });
    answers || site.codes.iter().any(|code| code.device == device && ip(&code.body))
}

impl Shared {
    /// Bytes arrive at a device: what it answers.
    fn receive_bytes(&mut self, at_ms: u64, device: DeviceId, bytes: &[u8]) -> Option<Vec<u8>> {
        if bytes == ip::ASK_INPUT {
            self.sim.advance(at_ms);
            return self.reported_input(device).map(|name| format!("input={name}\r").into_bytes());
        }
        let understood = self.sim.receive_bytes(at_ms, device, bytes);
        self.lines += 1;
        self.wire.push_back(WireLine {
            number: self.lines,
            at_ms,
            medium: Medium::Ip,
            meaning: format!("to {}: {}", self.site.device_name(device), ip::printable(bytes)),
            durations: 0,
            length_ms: 0,
            heard: understood.iter().map(|(heard, _)| heard.clone()).collect(),
        });
        if self.wire.len() > WIRE_LINES {
            self.wire.pop_front();
        }
        understood.map(|(_, answer)| answer)
    }

    /// What a device that gives feedback calls the input that it shows.
    fn reported_input(&self, device: DeviceId) -> Option<String> {
        let profile = self.site.profile_of(device)?;
        if profile.feedback == Feedback::None {
            return None;
        }
        let shown = self.sim.view().into_iter().find(|view| view.device == device)?.input?;
        let input = profile.inputs.iter().find(|input| input.id == shown)?;
        Some(input.reports.clone().unwrap_or_else(|| input.name.to_uppercase()))
    }

    fn radiate(&mut self, at_ms: u64, medium: Medium, durations_us: &[u32]) {
        let heard = self.sim.radiate(at_ms, medium, durations_us);
        self.lines += 1;
        let us: u64 = durations_us.iter().map(|&us| u64::from(us)).sum();
        self.wire.push_back(WireLine {
            number: self.lines,
            at_ms,
            medium,
            meaning: meaning(medium, durations_us),
            durations: durations_us.len(),
            length_ms: u32::try_from(us.div_ceil(1000)).unwrap_or(u32::MAX),
            heard,
        });
        if self.wire.len() > WIRE_LINES {
            self.wire.pop_front();
        }
    }

    /// The plan that leads from what is believed now.
    fn plan(&self, room: RoomId, now_ms: u64, to: Situation) -> Plan {
        plan_from(&self.site, room, &self.beliefs.start(&self.site, now_ms), to)
    }

    /// What the devices tell of themselves narrows what is believed.
    fn look(&mut self, plan: &Plan, now_ms: u64) {
        self.sim.advance(now_ms);
        for look in &plan.looks {
            if let Some(seen) = self.sim.seen(look.device) {
                self.beliefs.saw(&self.site, look.device, seen, now_ms);
            }
        }
    }

    /// The run goes on with another plan, after a look.
    fn amend(&mut self, number: u64, plan: &Plan, now_ms: u64) {
        if let Some(run) = self.run.as_mut().filter(|run| run.number == number) {
            let later = u32::try_from(now_ms.saturating_sub(run.started_ms)).unwrap_or(0);
            run.ready_ms = later + plan.ready_ms;
            run.steps = run_steps(plan, later);
        }
    }

    fn begin(&mut self, plan: &Plan, started_ms: u64) -> u64 {
        self.runs += 1;
        self.run = Some(RunView {
            number: self.runs,
            to: plan.to,
            started_ms,
            ready_ms: plan.ready_ms,
            steps: run_steps(plan, 0),
            end: None,
            ended_ms: None,
            troubles: vec![],
        });
        self.runs
    }

    fn finish(&mut self, now_ms: u64, end: RunEnd, troubles: Vec<String>) {
        let Some(run) = self.run.as_mut().filter(|run| run.end.is_none()) else { return };
        (run.end, run.ended_ms) = (Some(end), Some(now_ms));
        run.troubles.extend(troubles);
        for step in run.steps.iter_mut().filter(|step| matches!(step.state, StepState::Waiting | StepState::Sending)) {
            step.state = StepState::Dropped;
        }
    }
}

fn run_steps(plan: &Plan, later_ms: u32) -> Vec<RunStep> {
    let step = |step: &kestrel_core::plan::Step| RunStep {
        device: step.device,
        name: step.name.clone(),
        due_ms: later_ms + step.start_ms,
        state: StepState::Waiting,
    };
    plan.steps.iter().map(step).collect()
}

/// What the task of a run needs.
struct Follower {
    room: RoomId,
    plan: Plan,
    wires: Wires,
    clock: Clock,
    state: Arc<Mutex<Shared>>,
    changed: watch::Sender<u64>,
    start_ms: u64,
    number: u64,
}

/// Runs a plan to its end and compares the room with what it should be.
async fn follow(mut own: Follower) {
    if let Some(look_ms) = own.plan.looks.iter().map(|look| look.to_ms).max() {
        // Look, then act: what is seen decides, and the plan is derived anew from it.
        own.clock.sleep_until(own.start_ms + u64::from(look_ms)).await;
        own.start_ms = own.clock.now_ms();
        let mut state = lock(&own.state);
        state.look(&own.plan, own.start_ms);
        let plan = state.plan(own.room, own.start_ms, own.plan.to);
        state.amend(own.number, &plan, own.start_ms);
        own.plan = plan;
        drop(state);
        own.changed.send_modify(|n| *n += 1);
    }
    let own = own;
    let tell = |step: &kestrel_core::plan::Step, event: StepEvent| {
        let mut state = lock(&own.state);
        let site = state.site.clone();
        if event == StepEvent::Sent {
            state.beliefs.sent(&site, own.room, step.device, step.function, own.clock.now_ms());
        }
        let step_state = match event {
            StepEvent::Sending => StepState::Sending,
            StepEvent::Sent => StepState::Sent,
            StepEvent::Failed(_) => StepState::Failed,
        };
        if let Some(run) = state.run.as_mut().filter(|run| run.number == own.number)
            && let Some(known) = run.steps.get_mut(step.index)
        {
            known.state = step_state;
        }
        drop(state);
        own.changed.send_modify(|n| *n += 1);
    };
    let result = runtime::execute(&own.plan, &own.wires, &own.clock, own.start_ms, tell).await;
    let (end, troubles) = match result {
        Err(error) => (RunEnd::Failed, vec![error.to_string()]),
        Ok(ready_ms) => {
            own.clock.sleep_until(ready_ms).await;
            let mut state = lock(&own.state);
            state.sim.advance(own.clock.now_ms());
            let troubles = state.explain(&own.plan, own.start_ms);
            (if troubles.is_empty() { RunEnd::Ready } else { RunEnd::Wrong }, troubles)
        }
    };
    lock(&own.state).finish(own.clock.now_ms(), end, troubles);
    own.changed.send_modify(|n| *n += 1);
}

impl Shared {
    /// Where the room is not what the plan wants, with what the wire log says about it.
    fn explain(&self, plan: &Plan, since_ms: u64) -> Vec<String> {
        let mut troubles = self.sim.differences(&plan.goals);
        if troubles.is_empty() {
            return troubles;
        }
        for line in self.wire.iter().filter(|line| line.at_ms >= since_ms) {
            for heard in &line.heard {
                if let Outcome::Ignored { why } = &heard.outcome {
                    let device = self.site.device_name(heard.device);
                    troubles.push(format!("{device} ignored “{}”: {why}.", heard.name));
                }
            }
            if line.heard.is_empty() {
                troubles.push(format!("Nobody understood {}.", line.meaning));
            }
        }
        troubles
    }
}

/// Tells the page of movement and of the end of warm-ups, as long as there is any.
async fn tick(state: Arc<Mutex<Shared>>, clock: Clock, changed: watch::Sender<u64>) {
    let mut last: Option<Vec<DeviceView>> = None;
    loop {
        tokio::time::sleep(TICK).await;
        let (view, running) = {
            let mut state = lock(&state);
            state.sim.advance(clock.now_ms());
            (state.sim.view(), state.run.as_ref().is_some_and(|run| run.end.is_none()))
        };
        let under_way = running || view.iter().any(|device| device.busy_until_ms.is_some());
        if under_way || last.as_ref() != Some(&view) {
            last = Some(view);
            changed.send_modify(|n| *n += 1);
        }
    }
}
