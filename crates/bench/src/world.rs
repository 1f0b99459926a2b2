//! What is true in a rehearsal room: the simulated devices, what is broken, and everything that was on a
//! wire. Stand-ins speak for it, hands change it; the runtime never looks into it.

use crate::clock::Clock;
use crate::lines::printable;
use kestrel_core::id::{DeviceId, FunctionId, RoomId};
use kestrel_core::model::{Faults, Gesture, Hand, Medium, Site, Stand};
use kestrel_core::room::{DeviceView, Heard, Outcome, SimRoom, Want, meaning};
use kestrel_core::space::hears;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use tokio::sync::{broadcast, watch};
use utoipa::ToSchema;

/// How many lines of the wire log are kept.
const WIRE_LINES: usize = 1_000;

/// How many of them may be polls and their answers.
const ROUTINE_LINES: usize = 200;

/// The most bytes of a line that are shown.
const SHOWN_BYTES: usize = 400;

/// Where real durations lie within their intervals.
pub const PACE: f64 = 0.8;

/// Which way something went.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Direction {
    /// From the controller to a device.
    Out,
    /// From a device to the controller.
    In,
    /// By a hand, or by the mains: on no wire.
    Hand,
}

/// A line of the wire log.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct WireLine {
    /// Counts up.
    pub number: u64,
    /// Simulated time, in ms.
    pub at_ms: u64,
    /// Which way.
    pub direction: Direction,
    /// To or from which device; none for what is on the air for all.
    pub device: Option<DeviceId>,
    /// By which medium; none for a hand.
    pub medium: Option<Medium>,
    /// What it says, in words.
    pub meaning: String,
    /// The bytes as text with escapes; empty for what is on the air.
    pub bytes: String,
    /// How many durations it has.
    pub durations: usize,
    /// How long it was, in ms.
    pub length_ms: u32,
    /// Who understood it and what they did; empty where nobody did.
    pub heard: Vec<Heard>,
    /// A question that is asked again and again, or its answer.
    pub routine: bool,
}

/// The truth about a room. Clones share it.
#[derive(Clone)]
pub struct World {
    inner: Arc<Inner>,
}

struct Inner {
    room: RoomId,
    clock: Clock,
    truth: Mutex<Truth>,
    changed: watch::Sender<u64>,
    /// Fingers on keypads: which key of which, and how.
    fingers: broadcast::Sender<(DeviceId, FunctionId, Gesture)>,
}

/// What the world guards.
pub struct Truth {
    /// The house.
    pub site: Arc<Site>,
    /// The devices.
    pub sim: SimRoom,
    /// What is broken.
    pub faults: BTreeMap<DeviceId, Faults>,
    /// How often each device has restarted or lost its plug: its connections end when this changes.
    cuts: BTreeMap<DeviceId, u64>,
    log: VecDeque<WireLine>,
    lines: u64,
    chance: Chance,
}

/// A small generator (xorshift, Marsaglia 2003), so that a seed always gives the same evening.
#[derive(Debug, Clone, Copy)]
pub struct Chance(u64);

impl Chance {
    /// From a seed.
    #[must_use]
    pub fn new(seed: u64) -> Self {
        // Seeds that differ in one bit alone must not start alike.
        let mixed = (seed ^ 0x9e37_79b9_7f4a_7c15).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        Self(mixed ^ (mixed >> 31) | 1)
    }

    /// A number below `most` (0 where that is 0).
    pub fn below(&mut self, most: u64) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        if most == 0 { 0 } else { self.0 % most }
    }

    /// Does something happen that happens in so many of a hundred cases?
    pub fn happens(&mut self, percent: u8) -> bool {
        percent > 0 && self.below(100) < u64::from(percent)
    }
}

impl World {
    /// A room in which everything is off.
    #[must_use]
    pub fn new(site: Arc<Site>, room: RoomId, clock: Clock, seed: u64) -> Self {
        let truth = Truth {
            sim: SimRoom::new(&site, room, PACE),
            site,
            faults: BTreeMap::new(),
            cuts: BTreeMap::new(),
            log: VecDeque::new(),
            lines: 0,
            chance: Chance::new(seed),
        };
        Self {
            inner: Arc::new(Inner {
                room,
                clock,
                truth: Mutex::new(truth),
                changed: watch::channel(0).0,
                fingers: broadcast::channel(64).0,
            }),
        }
    }

    /// The room.
    #[must_use]
    pub fn room(&self) -> RoomId {
        self.inner.room
    }

    /// Its clock.
    #[must_use]
    pub fn clock(&self) -> &Clock {
        &self.inner.clock
    }

    /// Changes whenever the room does.
    #[must_use]
    pub fn changes(&self) -> watch::Receiver<u64> {
        self.inner.changed.subscribe()
    }

    /// Fingers on keypads, from now on.
    #[must_use]
    pub fn fingers(&self) -> broadcast::Receiver<(DeviceId, FunctionId, Gesture)> {
        self.inner.fingers.subscribe()
    }

    /// Tells everyone that something has changed.
    pub fn touch(&self) {
        self.inner.changed.send_modify(|n| *n += 1);
    }

    /// Looks at the truth, or changes it; time has passed up to now.
    pub fn with<T>(&self, look: impl FnOnce(&mut Truth, u64) -> T) -> T {
        let now_ms = self.inner.clock.now_ms();
        let mut truth = self.lock();
        truth.sim.advance(now_ms);
        look(&mut truth, now_ms)
    }

    fn lock(&self) -> MutexGuard<'_, Truth> {
        self.inner.truth.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The house.
    #[must_use]
    pub fn site(&self) -> Arc<Site> {
        self.lock().site.clone()
    }

    /// A device as it stands.
    #[must_use]
    pub fn view(&self, device: DeviceId) -> Option<DeviceView> {
        self.with(|truth, _| truth.sim.view().into_iter().find(|view| view.device == device))
    }

    /// What is wrong with a device or its wire.
    #[must_use]
    pub fn faults(&self, device: DeviceId) -> Faults {
        self.lock().faults.get(&device).copied().unwrap_or_default()
    }

    /// Breaks something, or mends it.
    pub fn set_faults(&self, device: DeviceId, faults: Faults) {
        self.with(|truth, _| {
            if faults.any() {
                truth.faults.insert(device, faults);
            } else {
                truth.faults.remove(&device);
            }
            if faults.closes {
                truth.cut(device);
            }
        });
        self.touch();
    }

    /// How often its connections were cut.
    #[must_use]
    pub fn cuts(&self, device: DeviceId) -> u64 {
        self.lock().cuts.get(&device).copied().unwrap_or(0)
    }

    /// Can it be reached: is its plug in, and does it keep connections?
    #[must_use]
    pub fn answers(&self, device: DeviceId) -> bool {
        let truth = self.lock();
        truth.sim.plugged(device) && !truth.faults.get(&device).is_some_and(|faults| faults.closes)
    }

    /// A device is told something by name over a protocol of its own.
    pub fn want(&self, device: DeviceId, want: &Want) -> Outcome {
        let outcome = self.with(|truth, now| truth.sim.want(now, device, want));
        self.touch();
        outcome.unwrap_or_else(|| Outcome::Ignored { why: "it is not in this room".to_owned() })
    }

    /// Bytes of its own commands arrive at a device: what it answers, if it understood them.
    pub fn receive_bytes(&self, device: DeviceId, bytes: &[u8]) -> Option<Vec<u8>> {
        let answer = self.with(|truth, now| {
            let understood = truth.sim.receive_bytes(now, device, bytes);
            let heard = understood.iter().map(|(heard, _)| heard.clone()).collect();
            let line = NewLine { device: Some(device), medium: Some(Medium::Ip), heard, ..NewLine::out(bytes) };
            truth.write(now, line);
            understood.map(|(_, answer)| answer)
        });
        self.touch();
        answer
    }

    /// A transmission of a gateway ends: devices in its reach act on it, unless it is lost on the way. What was set up
    /// to be reached through other gateways is out of the reach of this one.
    pub fn radiate(&self, from: Option<DeviceId>, medium: Medium, durations_us: &[u32]) {
        self.with(|truth, now| {
            let mut lost: BTreeSet<DeviceId> = truth
                .site
                .devices_in(self.inner.room)
                .filter(|device| from.is_some_and(|gateway| !truth.site.reaches(gateway, device.id, medium)))
                .map(|device| device.id)
                .collect();
            if let Some(gateway) = from {
                let (room, posture) = (self.inner.room, truth.sim.posture(now));
                let deaf = truth
                    .site
                    .devices_in(room)
                    .map(|device| device.id)
                    .filter(|&device| !hears::arrives(&truth.site, room, gateway, device, medium, &posture));
                lost.extend(deaf);
            }
            for (&device, faults) in &truth.faults {
                if truth.chance.happens(faults.lost_percent) {
                    lost.insert(device);
                }
            }
            let heard = truth.sim.radiate_but(now, medium, durations_us, &lost);
            let us: u64 = durations_us.iter().map(|&us| u64::from(us)).sum();
            let line = NewLine {
                direction: Some(Direction::Out),
                medium: Some(medium),
                meaning: meaning(&truth.site, medium, durations_us),
                durations: durations_us.len(),
                length_ms: u32::try_from(us.div_ceil(1000)).unwrap_or(u32::MAX),
                heard,
                ..NewLine::default()
            };
            truth.write(now, line);
        });
        self.touch();
    }

    /// A hand does something. `None` where the device is not here.
    pub fn hand(&self, hand: &Hand) -> Option<String> {
        let said = self.with(|truth, now| {
            let said = truth.sim.hand(now, hand)?;
            if let Hand::Press { device, function, gesture } = hand {
                // Nobody listens where the keypad is not on the network; the press is then for nothing.
                let _ = self.inner.fingers.send((*device, *function, *gesture));
            }
            match hand {
                Hand::Plug { device, plugged: false } => truth.cut(*device),
                Hand::Mains { on: false } => {
                    let all: Vec<DeviceId> = truth.site.devices_in(self.inner.room).map(|device| device.id).collect();
                    all.into_iter().for_each(|device| truth.cut(device));
                }
                _ => {}
            }
            let name = hand.device().map_or("The mains".to_owned(), |device| truth.site.device_name(device));
            let meaning = format!("{} · {said}", hand_words(&truth.site, hand, &name));
            let line =
                NewLine { direction: Some(Direction::Hand), device: hand.device(), meaning, ..NewLine::default() };
            truth.write(now, line);
            Some(said)
        });
        self.touch();
        said
    }

    /// A device restarts: its connections end, and it comes back as after a cut of the mains.
    pub fn restart(&self, device: DeviceId) {
        self.hand(&Hand::Plug { device, plugged: false });
        self.hand(&Hand::Plug { device, plugged: true });
    }

    /// Writes a line of the wire log.
    pub fn write(&self, line: NewLine) {
        self.with(|truth, now| truth.write(now, line));
        self.touch();
    }

    /// Does something happen that happens in so many of a hundred cases?
    #[must_use]
    pub fn happens(&self, percent: u8) -> bool {
        self.lock().chance.happens(percent)
    }

    /// The wire log, the newest line last.
    #[must_use]
    pub fn log(&self) -> Vec<WireLine> {
        self.lock().log.iter().cloned().collect()
    }

    /// The wire log as CSV.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub fn log_csv(&self) -> Result<String, String> {
        let site = self.site();
        let head = ["at_ms", "direction", "device", "medium", "meaning", "bytes", "heard"].map(str::to_owned).to_vec();
        let row = |line: WireLine| {
            let direction = match line.direction {
                Direction::Out => "out",
                Direction::In => "in",
                Direction::Hand => "hand",
            };
            let device = line.device.map(|device| site.device_name(device)).unwrap_or_default();
            let heard: Vec<String> =
                line.heard.iter().map(|heard| format!("{}: {}", site.device_name(heard.device), heard.name)).collect();
            let medium = line.medium.map_or("", Medium::name);
            let (direction, medium) = (direction.to_owned(), medium.to_owned());
            vec![line.at_ms.to_string(), direction, device, medium, line.meaning, line.bytes, heard.join("; ")]
        };
        let rows = std::iter::once(head).chain(self.log().into_iter().map(row));
        kestrel_core::sheet::written(rows).map_err(|error| error.to_string())
    }

    /// The number of the last line.
    #[must_use]
    pub fn last_line(&self) -> u64 {
        self.lock().lines
    }

    /// Takes over an edited house; what is on stays on.
    pub fn refit(&self, site: Arc<Site>) {
        self.with(|truth, _| {
            truth.sim.refit(&site, self.inner.room, PACE);
            truth.site = site;
        });
        self.touch();
    }

    /// The room is found like this.
    pub fn stand(&self, stands: &[Stand], pace: f64) {
        self.with(|truth, now| truth.sim.stand(now, &truth.site, stands, pace));
        self.touch();
    }

    /// Everything off and whole again, with an empty log.
    pub fn reset(&self, seed: u64) {
        self.with(|truth, now| {
            truth.sim = SimRoom::new(&truth.site, self.inner.room, PACE);
            truth.sim.advance(now);
            truth.faults.clear();
            truth.log.clear();
            truth.chance = Chance::new(seed);
        });
        self.touch();
    }
}

/// A line that is to be written.
#[derive(Debug, Clone, Default)]
pub struct NewLine {
    /// Which way; out, if none.
    pub direction: Option<Direction>,
    /// To or from which device.
    pub device: Option<DeviceId>,
    /// By which medium.
    pub medium: Option<Medium>,
    /// What it says.
    pub meaning: String,
    /// Its bytes as text.
    pub bytes: String,
    /// How many durations.
    pub durations: usize,
    /// How long, in ms.
    pub length_ms: u32,
    /// Who understood it.
    pub heard: Vec<Heard>,
    /// Is it asked again and again?
    pub routine: bool,
}

impl NewLine {
    /// Bytes to a device.
    #[must_use]
    pub fn out(bytes: &[u8]) -> Self {
        let text = printable(bytes);
        Self { direction: Some(Direction::Out), meaning: shown(&text), bytes: text, ..Self::default() }
    }

    /// Bytes from a device.
    #[must_use]
    pub fn back(bytes: &[u8]) -> Self {
        Self { direction: Some(Direction::In), ..Self::out(bytes) }
    }
}

fn shown(text: &str) -> String {
    if text.chars().count() <= SHOWN_BYTES {
        text.to_owned()
    } else {
        text.chars().take(SHOWN_BYTES).chain(['…']).collect()
    }
}

impl Truth {
    fn cut(&mut self, device: DeviceId) {
        *self.cuts.entry(device).or_default() += 1;
    }

    fn write(&mut self, at_ms: u64, line: NewLine) {
        self.lines += 1;
        self.log.push_back(WireLine {
            number: self.lines,
            at_ms,
            direction: line.direction.unwrap_or(Direction::Out),
            device: line.device,
            medium: line.medium,
            meaning: line.meaning,
            bytes: shown(&line.bytes),
            durations: line.durations,
            length_ms: line.length_ms,
            heard: line.heard,
            routine: line.routine,
        });
        let routine = line.routine && self.log.iter().filter(|line| line.routine).count() > ROUTINE_LINES;
        if let Some(oldest) = self.log.iter().position(|line| line.routine).filter(|_| routine) {
            self.log.remove(oldest);
        }
        if self.log.len() > WIRE_LINES {
            self.log.pop_front();
        }
    }
}

/// What a hand does, in words.
#[must_use]
pub fn hand_words(site: &Site, hand: &Hand, name: &str) -> String {
    match hand {
        Hand::Power { .. } => format!("{name}: its own power button"),
        Hand::Input { device, input } => {
            let label = site.input(*device, *input).map_or("?", |input| input.name.as_str());
            format!("{name}: input {label} by hand")
        }
        Hand::Key { device, function } => {
            format!("{name}: “{}” on its own remote", site.function_name(*device, *function))
        }
        Hand::Plug { plugged: false, .. } => format!("{name}: plug out"),
        Hand::Plug { .. } => format!("{name}: plug in"),
        Hand::Mains { on: false } => "The mains are cut".to_owned(),
        Hand::Mains { .. } => "The mains come back".to_owned(),
        Hand::Level { percent, .. } => format!("{name}: {percent} % on the wall"),
        Hand::Cast { .. } => format!("{name}: cast from a phone"),
        Hand::Press { device, function, gesture } => {
            format!("{name}: “{}” {}", site.function_name(*device, *function), gesture.words())
        }
        Hand::Trip { on: true, .. } => format!("{name}: somebody walks by"),
        Hand::Trip { .. } => format!("{name}: nobody there"),
    }
}
