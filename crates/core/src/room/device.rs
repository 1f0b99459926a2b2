//! One simulated device: its automaton in time.

use super::receiver::{Asked, Receiver, Secret};
use super::{Heard, takes};
use crate::device::group::CouplingAct;
use crate::device::look::{self, Seen};
use crate::device::{Automaton, State, Timed};
use crate::id::{DeviceId, FunctionId, InputId};
use crate::model::{
    AfterMains, App, Device, DeviceKind, Effect, Hand, Means, Medium, Mute, Playback, Position, Power, Profile, Reach,
    Selection, Standing, TimedStop,
};
use crate::plan::goal::DeviceGoal;
use crate::room::comfort::{Comfort, NowPlaying, Want};
use crate::words::seconds;
use serde::Serialize;
use utoipa::ToSchema;

/// A device that gets its next key sooner than this share of its gap does not notice it.
const DEAF_SHARE: u32 = 2;

/// What a device says that is told to be what it is already.
const NOTHING_TO_CHANGE: &str = "nothing to change";

/// What a device did with a key that it understood.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case", tag = "did")]
pub enum Outcome {
    /// It did as told.
    Obeyed {
        /// What happened, in words.
        what: String,
    },
    /// It understood, and was so already.
    Unchanged {
        /// In words.
        what: String,
    },
    /// It did nothing.
    Ignored {
        /// Why.
        why: String,
    },
}

impl Outcome {
    /// It did this; or it was so already, where that is nothing.
    fn done(what: Option<String>) -> Self {
        what.map_or_else(|| Self::Unchanged { what: NOTHING_TO_CHANGE.to_owned() }, |what| Self::Obeyed { what })
    }
}

/// Power, as anyone can see it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PowerView {
    /// Off.
    Off,
    /// Starting up.
    Starting,
    /// On.
    On,
    /// Off and cooling.
    Cooling,
    /// It is always on.
    Always,
}

/// A device as it stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct DeviceView {
    /// The device.
    pub device: DeviceId,
    /// Its power.
    pub power: PowerView,
    /// The chosen input, if it has inputs.
    pub input: Option<InputId>,
    /// The marked entry, while its list is open.
    pub marked: Option<InputId>,
    /// How far it is down, in %, if it moves.
    pub down_percent: Option<u8>,
    /// Which way it is moving.
    pub moving: Option<Position>,
    /// Until when it is busy, in ms.
    pub busy_until_ms: Option<u64>,
    /// What it is doing, in words.
    pub doing: Option<String>,
    /// Is its plug in the wall?
    pub plugged: bool,
    /// How often its motor was driven the other way without a stop and its pause: each time is damage.
    pub reversed: u32,
    /// How loud, in tenths of its scale's unit, if it sounds.
    pub volume_tenths: Option<u32>,
    /// Is its sound off?
    pub muted: Option<bool>,
    /// What it plays, if it plays.
    pub playing: Option<NowPlaying>,
    /// How bright, in %, if it is a light.
    pub level_percent: Option<u8>,
    /// What it shows or says to everybody.
    pub message: Option<String>,
    /// Is it tripped, if it is a sensor?
    pub tripped: Option<bool>,
}

/// Something under way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Busy {
    effect: Effect,
    from_ms: u64,
    until_ms: u64,
    /// How far down it was when it started to move, in ‰.
    from_down: u32,
}

/// Everything that can be under way in a device at once; one never ends another, but a device that is switched off has no
/// input that comes up.
#[derive(Debug, Clone, Copy, Default)]
struct UnderWay {
    /// It starts or cools.
    power: Option<Busy>,
    /// Another input comes up.
    input: Option<Busy>,
    /// It travels.
    travel: Option<Busy>,
    /// Its motor stands still until then, in ms, before it may be driven the other way.
    pause_ms: u64,
}

impl UnderWay {
    fn all(&self) -> impl Iterator<Item = Busy> {
        [self.travel, self.power, self.input].into_iter().flatten()
    }

    /// The one that is told first.
    fn first(&self, now_ms: u64) -> Option<Busy> {
        self.all().find(|busy| busy.until_ms > now_ms)
    }
}

#[derive(Debug, Clone)]
pub(super) struct SimDevice {
    id: DeviceId,
    name: String,
    profile: Profile,
    receiver: Receiver,
    pace: f64,
    state: State,
    /// How far it is down, in ‰, when it stands still.
    down: u32,
    under_way: UnderWay,
    /// How often its motor was driven the other way without a stop and its pause: each time is damage.
    reversed: u32,
    last_key_ms: Option<u64>,
    list_closes_ms: Option<u64>,
    comfort: Comfort,
    /// The digits of a number that is being entered.
    number: String,
    number_closes_ms: Option<u64>,
    plugged: bool,
    /// Was it on when its plug was pulled?
    was_on: bool,
    /// When it was last used, for those that go off by themselves.
    used_ms: u64,
    /// The screen that hides it when it is down.
    behind: Option<DeviceId>,
}

impl SimDevice {
    pub(super) fn new(device: &Device, profile: &Profile, receiver: Receiver, pace: f64) -> Self {
        let on = Automaton::new(profile).never_off();
        Self {
            id: device.id,
            name: device.name.clone(),
            profile: profile.clone(),
            receiver,
            pace,
            state: State { on, ..State::default() },
            down: 0,
            under_way: UnderWay::default(),
            reversed: 0,
            last_key_ms: None,
            list_closes_ms: None,
            comfort: Comfort::new(profile),
            number: String::new(),
            number_closes_ms: None,
            plugged: true,
            was_on: on,
            used_ms: 0,
            behind: device.behind,
        }
    }

    pub(super) fn behind(&self) -> Option<DeviceId> {
        self.behind
    }

    /// Nothing stands before it, as far as is said of it.
    pub(super) fn stand_free(&mut self) {
        self.behind = None;
    }

    /// How far down it is, as a share of its way; none where it does not move.
    pub(super) fn down_share(&self, now_ms: u64) -> Option<f64> {
        self.profile.motion.is_some().then(|| f64::from(self.down_at(now_ms)) / 1_000.0)
    }

    pub(super) fn is_plugged(&self) -> bool {
        self.plugged
    }

    /// Does its power follow another device's?
    pub(super) fn follows(&self) -> bool {
        matches!(self.profile.power, Power::Follows { .. })
    }

    /// Is it down and still?
    pub(super) fn is_down(&self) -> bool {
        self.profile.motion.is_some() && self.down == 1000 && self.under_way.travel.is_none()
    }

    /// When it goes off by itself, if nobody uses it until then.
    pub(super) fn standby_ms(&self) -> Option<u64> {
        let span = self.profile.auto_standby.filter(|_| self.state.on && !self.comfort.plays())?;
        Some(self.used_ms + takes(span, self.pace))
    }

    /// It goes off by itself.
    pub(super) fn stand_by(&mut self, now_ms: u64) {
        let (state, effect) = Automaton::new(&self.profile).switch(self.state, false);
        self.take(now_ms, state, effect);
    }

    /// Its plug goes in or out. `follows` says whether what it follows is on.
    pub(super) fn plug(&mut self, now_ms: u64, plugged: bool, follows: Option<bool>) {
        if plugged == self.plugged {
            return;
        }
        self.plugged = plugged;
        if !plugged {
            self.was_on = self.state.on;
            if self.profile.motion.is_some() {
                self.halt(now_ms);
            }
            self.state = State { on: false, cursor: None, ..self.state };
            (self.under_way, self.list_closes_ms) = (UnderWay::default(), None);
            self.comfort.dark(now_ms);
            return;
        }
        let automaton = Automaton::new(&self.profile);
        let on = match (follows, self.profile.after_mains) {
            (Some(on), _) => on,
            (None, _) if automaton.never_off() => true,
            (None, AfterMains::Off) => false,
            (None, AfterMains::On) => true,
            (None, AfterMains::Last) => self.was_on,
        };
        if on {
            let (state, effect) = automaton.switch(State { on: false, ..self.state }, true);
            self.take(now_ms, State { on, ..state }, effect);
        }
    }

    /// A hand at the device itself.
    pub(super) fn by_hand(&mut self, now_ms: u64, hand: &Hand) -> String {
        if !self.plugged {
            return "nothing: its plug is out".to_owned();
        }
        self.used_ms = now_ms;
        let told = |outcome: Outcome| match outcome {
            Outcome::Obeyed { what } | Outcome::Unchanged { what } => what,
            Outcome::Ignored { why } => format!("nothing: {why}"),
        };
        match hand {
            Hand::Power { .. } if Automaton::new(&self.profile).never_off() || self.follows() => {
                "nothing: it has no power button".to_owned()
            }
            Hand::Power { .. } => told(self.want(now_ms, &Want::Power { on: !self.state.on })),
            Hand::Input { input, .. } => {
                match self.profile.input_index(*input).and_then(|index| u8::try_from(index).ok()) {
                    Some(index) => told(self.want(now_ms, &Want::Input { index })),
                    None => "nothing: it has no such input".to_owned(),
                }
            }
            Hand::Key { function, .. } => {
                // What a hand does to a motor is no fault of ours.
                let reversed = self.reversed;
                let heard = self.asked(now_ms, *function);
                self.reversed = reversed;
                told(heard.outcome)
            }
            Hand::Level { percent, .. } if self.profile.kind == DeviceKind::Light => {
                self.comfort.fade(now_ms, *percent, 0)
            }
            Hand::Cast { .. } if self.profile.kind == DeviceKind::Streamer => {
                self.want(now_ms, &Want::Power { on: true });
                told(self.want(now_ms, &Want::Transport { to: Playback::Playing, from_ms: Some(0) }))
            }
            Hand::Press { function, gesture, .. }
                if matches!(self.profile.kind, DeviceKind::Keypad | DeviceKind::Light) =>
            {
                match self.profile.function(*function) {
                    Some(key) => format!("“{}” {}", key.name, gesture.words()),
                    None => "nothing: it has no such key".to_owned(),
                }
            }
            Hand::Trip { on, .. } if self.profile.kind == DeviceKind::Sensor => {
                self.comfort.tripped = *on;
                if *on { "tripped" } else { "at rest" }.to_owned()
            }
            _ => "nothing: it cannot do that".to_owned(),
        }
    }

    /// It is told something by name.
    pub(super) fn want(&mut self, now_ms: u64, want: &Want) -> Outcome {
        if !self.plugged {
            return Outcome::Ignored { why: "its plug is out".to_owned() };
        }
        let power = matches!(want, Want::Power { .. });
        if let Some(why) = self.deaf_to(now_ms, power, false) {
            return Outcome::Ignored { why };
        }
        self.used_ms = now_ms;
        if let Some(done) = self.comfort.want(now_ms, &self.profile, want) {
            return match done {
                Ok(what) => Outcome::done(what),
                Err(why) => Outcome::Ignored { why },
            };
        }
        let ignored = |why: &str| Outcome::Ignored { why: why.to_owned() };
        match want {
            Want::Power { on } if *on == self.state.on => Outcome::done(None),
            Want::Power { .. } if self.follows() || Automaton::new(&self.profile).never_off() => {
                ignored("it has no power of its own")
            }
            Want::Power { on } => {
                let before = self.state;
                let (state, effect) = Automaton::new(&self.profile).switch(self.state, *on);
                self.take(now_ms, state, effect);
                Outcome::Obeyed { what: self.told(before, effect) }
            }
            Want::Input { index } if usize::from(*index) >= self.profile.inputs.len() => {
                ignored("it has no such input")
            }
            Want::Input { index } if self.state.input == *index => Outcome::done(None),
            Want::Input { index } => {
                let before = self.state;
                let (state, effect) = Automaton::new(&self.profile).choose(self.state, *index);
                self.take(now_ms, state, effect);
                Outcome::Obeyed { what: self.told(before, effect) }
            }
            Want::App { name } => match self.profile.apps.iter().position(|app| app.name.eq_ignore_ascii_case(name)) {
                Some(at) => {
                    self.state.app = u8::try_from(at + 1).unwrap_or(0);
                    Outcome::Obeyed { what: format!("runs {}", self.app().unwrap_or_default()) }
                }
                None => Outcome::Ignored { why: format!("it has no “{name}”") },
            },
            Want::Mute { on } => {
                self.state.muted = *on;
                Outcome::done(Some(if *on { "silent" } else { "sounding" }.to_owned()))
            }
            Want::Move { down } => match self.profile.motion {
                Some(motion) => self.press(now_ms, if *down { motion.down } else { motion.up }),
                None => ignored("it does not move"),
            },
            Want::Halt => match self.profile.motion {
                Some(_) => Outcome::Obeyed { what: self.halt(now_ms) },
                None => ignored("it does not move"),
            },
            _ => ignored("it cannot do that"),
        }
    }

    /// It is found in a state, with what is under way in it; durations lie at `pace` of their intervals from now on.
    pub(super) fn stand(&mut self, now_ms: u64, timed: &Timed, pace: f64) {
        self.pace = pace;
        let left_ms = |window: crate::device::Window| takes(window.into(), pace);
        (self.state, self.used_ms, self.last_key_ms) = (timed.state, now_ms, None);
        self.state.on |= Automaton::new(&self.profile).never_off();
        if !self.plugged {
            (self.state.on, self.state.cursor) = (false, None);
        }
        self.down = self.profile.down_per_mille(timed.state.position);
        self.under_way = UnderWay { pause_ms: now_ms + left_ms(timed.pause), ..UnderWay::default() };
        let busy = |effect: Effect, window, from_down: u32| {
            let ms = left_ms(window);
            (ms > 0).then_some(Busy { effect, from_ms: now_ms, until_ms: now_ms + ms, from_down })
        };
        let starts = if timed.state.on { Effect::WarmUp } else { Effect::CoolDown };
        self.under_way.power = busy(starts, timed.power, self.down);
        self.under_way.input = busy(Effect::Input, timed.input, self.down);
        let travel_ms = left_ms(timed.travel);
        if travel_ms > 0 {
            let down = timed.state.position == Standing::Down;
            let motion = self.profile.motion;
            let whole = motion.map_or(1, |m| takes(if down { m.travel_down } else { m.travel_up }, pace)).max(1);
            let open = u32::try_from(travel_ms.min(whole) * 1000 / whole).unwrap_or(1000);
            self.down = if down { 1000 - open } else { open };
            self.under_way.travel = busy(Effect::Travel, timed.travel, self.down);
        }
        self.list_closes_ms = timed.state.cursor.map(|_| now_ms + left_ms(timed.closes).max(1));
        match self.state.on {
            true => self.comfort.woken(&self.profile),
            false => self.comfort.dark(now_ms),
        }
    }

    /// Stands still where it is.
    fn halt(&mut self, now_ms: u64) -> String {
        self.down = self.down_at(now_ms);
        let from_top = self.under_way.travel.is_some_and(|busy| busy.from_down == 0);
        if self.under_way.travel.take().is_some() {
            self.under_way.pause_ms = now_ms + u64::from(Automaton::new(&self.profile).reversal_ms());
        }
        self.state.position = match self.down {
            0 => Standing::Up,
            1000 => Standing::Down,
            // Stopped by time, it stands at its stop as far as that can be told.
            down => {
                let there = |(at, stop): &(u8, TimedStop)| {
                    let nominal = self.profile.down_per_mille(Standing::Stop(*at));
                    from_top && down.abs_diff(nominal) <= u32::from(stop.spread_per_mille)
                };
                self.profile.timed_stops().find(there).map_or(Standing::Between, |(at, _)| Standing::Stop(at))
            }
        };
        format!("stopped at {} % down", self.down / 10)
    }

    pub(super) fn id(&self) -> DeviceId {
        self.id
    }

    /// Goes on from where `old`, the same device before an edit, was.
    pub(super) fn take_state(&mut self, old: &Self) {
        let inputs = u8::try_from(self.profile.inputs.len()).unwrap_or(u8::MAX).max(1);
        self.state = State { input: old.state.input.min(inputs - 1), cursor: None, ..old.state };
        self.state.on |= Automaton::new(&self.profile).never_off();
        (self.down, self.under_way, self.last_key_ms) = (old.down, old.under_way, old.last_key_ms);
        self.reversed = old.reversed;
        (self.plugged, self.was_on, self.used_ms) = (old.plugged, old.was_on, old.used_ms);
        self.state.on &= self.plugged;
        self.comfort.take(&old.comfort);
    }

    pub(super) fn busy_until_ms(&self) -> Option<u64> {
        self.under_way.all().map(|busy| busy.until_ms).min()
    }

    pub(super) fn advance(&mut self, now_ms: u64) {
        let over = |busy: &Busy| busy.until_ms <= now_ms;
        if let Some(travel) = self.under_way.travel.filter(over) {
            self.down = self.down_at(now_ms);
            self.under_way.travel = None;
            self.under_way.pause_ms = travel.until_ms + u64::from(Automaton::new(&self.profile).reversal_ms());
        }
        self.under_way.power = self.under_way.power.filter(|busy| !over(busy));
        self.under_way.input = self.under_way.input.filter(|busy| !over(busy));
        if self.list_closes_ms.is_some_and(|at| at <= now_ms) {
            self.state.cursor = None;
            self.list_closes_ms = None;
        }
        self.comfort.advance(now_ms);
    }

    /// How far down it is, in ‰.
    fn down_at(&self, now_ms: u64) -> u32 {
        let Some(busy) = self.under_way.travel else { return self.down };
        let target = f64::from(self.profile.down_per_mille(self.state.position));
        let whole = (busy.until_ms - busy.from_ms).max(1);
        let share = (now_ms.saturating_sub(busy.from_ms) as f64 / whole as f64).min(1.0);
        let from = f64::from(busy.from_down);
        #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "between 0 and 1000")]
        let down = (from + share * (target - from)).round() as u32;
        down
    }

    pub(super) fn receive(&mut self, now_ms: u64, medium: Medium, durations_us: &[u32]) -> Option<Heard> {
        if !self.plugged {
            return None;
        }
        let function = match self.receiver.understand(medium, durations_us)? {
            Asked::Function(function) => function,
            Asked::Secret(secret) => return self.obey_secret(now_ms, secret),
        };
        Some(self.asked(now_ms, function))
    }

    /// Bytes arrive on its socket: what it does, and what it answers.
    pub(super) fn receive_bytes(&mut self, now_ms: u64, bytes: &[u8]) -> Option<(Heard, Vec<u8>)> {
        let (function, answer) = self.receiver.understand_bytes(bytes)?;
        Some((self.asked(now_ms, function), answer))
    }

    /// A key that no remote has: it works like the one that the profile lacks.
    fn obey_secret(&mut self, now_ms: u64, secret: Secret) -> Option<Heard> {
        let power = match self.profile.power {
            Power::Toggle { key } => key,
            Power::Discrete { on, .. } | Power::NetworkWake { wake: on, .. } => on,
            Power::AlwaysOn | Power::Follows { .. } => return None,
        };
        let wanted = secret == Secret::On;
        let outcome = match self.deaf(now_ms, power) {
            Some(why) => Outcome::Ignored { why },
            None if self.state.on == wanted => Outcome::done(None),
            None => self.press(now_ms, power),
        };
        self.last_key_ms = Some(now_ms);
        let name = if wanted { "On (no key of its remote)" } else { "Off (no key of its remote)" };
        Some(Heard { device: self.id, function: power, name: name.to_owned(), outcome })
    }

    fn asked(&mut self, now_ms: u64, function: FunctionId) -> Heard {
        let name = self.profile.function(function).map_or_else(String::new, |f| f.name.clone());
        let outcome = match self.deaf(now_ms, function) {
            Some(why) => Outcome::Ignored { why },
            None => self.press(now_ms, function),
        };
        self.last_key_ms = Some(now_ms);
        Heard { device: self.id, function, name, outcome }
    }

    /// Why it does not take this key now.
    fn deaf(&self, now_ms: u64, key: FunctionId) -> Option<String> {
        self.deaf_to(now_ms, Automaton::new(&self.profile).is_power_key(key), true)
    }

    /// The same for something that is not a key: `paced` where it wants a pause after the last one.
    fn deaf_to(&self, now_ms: u64, power_key: bool, paced: bool) -> Option<String> {
        if !self.plugged {
            return Some("its plug is out".to_owned());
        }
        for busy in self.under_way.all() {
            let left = seconds(u32::try_from(busy.until_ms.saturating_sub(now_ms)).unwrap_or(u32::MAX));
            match busy.effect {
                Effect::WarmUp => return Some(format!("it is starting up and takes commands in {left}")),
                Effect::CoolDown if power_key => return Some(format!("it is cooling and takes power keys in {left}")),
                Effect::Input => return Some(format!("its input is changing for {left} more")),
                _ => {}
            }
        }
        let gap = u64::from(self.profile.times.gap_ms / DEAF_SHARE);
        if paced && self.last_key_ms.is_some_and(|last| now_ms < last + gap) {
            return Some(format!(
                "the key came too soon after the last; it wants {}",
                seconds(self.profile.times.gap_ms)
            ));
        }
        if !self.state.on && !power_key {
            return Some("it is off".to_owned());
        }
        None
    }

    fn press(&mut self, now_ms: u64, key: FunctionId) -> Outcome {
        if let Some(outcome) = self.press_moving(now_ms, key) {
            return outcome;
        }
        self.used_ms = now_ms;
        let before = self.state;
        let (after, effect) = Automaton::new(&self.profile).press(before, key);
        self.take(now_ms, after, effect);
        if let Some(what) = self.digit(now_ms, key) {
            return Outcome::Obeyed { what };
        }
        if let Some(what) = self.comfort.key(now_ms, &self.profile, key) {
            return Outcome::done(what);
        }
        if before == after && effect == Effect::None {
            let known = self.profile.keys().iter().any(|(id, _)| *id == key);
            return Outcome::done((!known).then(|| "done".to_owned()));
        }
        Outcome::Obeyed { what: self.told(before, effect) }
    }

    /// A digit, or the enter key behind one: the number is taken once it is that of a channel.
    fn digit(&mut self, now_ms: u64, key: FunctionId) -> Option<String> {
        let number_of = |app: &App| match &app.reach {
            Reach::Digits { number } => Some(number.clone()),
            Reach::Launch { .. } => None,
        };
        self.profile.apps.iter().find_map(number_of)?;
        let means = self.profile.function(key)?.means?;
        if let Some(digit) = means.digit() {
            let open = self.number_closes_ms.is_some_and(|at| now_ms <= at);
            if !open {
                self.number.clear();
            }
            self.number.push(digit);
            self.number_closes_ms = Some(now_ms + takes(self.profile.times.digits, 1.0));
        } else if matches!(means, Means::Enter | Means::Ok) && !self.number.is_empty() {
            self.number_closes_ms = None;
            let entered = std::mem::take(&mut self.number);
            return Some(format!("channel {entered}"));
        } else {
            return None;
        }
        let at = self.profile.apps.iter().position(|app| number_of(app).as_ref() == Some(&self.number));
        self.state.app = at.and_then(|at| u8::try_from(at + 1).ok()).unwrap_or(0);
        Some(format!("number {}", self.number))
    }

    /// What it runs or receives.
    fn app(&self) -> Option<String> {
        let at = usize::from(self.state.app).checked_sub(1)?;
        self.profile.apps.get(at).map(|app| app.name.clone())
    }

    /// Keys of something that moves: a stop, and a reversal, which only stops the motor.
    fn press_moving(&mut self, now_ms: u64, key: FunctionId) -> Option<Outcome> {
        let motion = self.profile.motion?;
        let stop = motion.stop == Some(key);
        let moving = self.under_way.travel.is_some();
        let named = Automaton::new(&self.profile).named_stop(key);
        let drives_to = match named {
            Some(at) => Some(Standing::Stop(at)),
            None if key == motion.up => Some(Standing::Up),
            None => (key == motion.down).then_some(Standing::Down),
        };
        // On the way to anywhere else, another key of its motor only stops it.
        let reversal = drives_to.is_some_and(|to| to != self.state.position);
        if moving && reversal && !stop {
            // A motor that is driven against itself: it stops, and not by its own brake.
            self.reversed += 1;
        }
        if stop || (moving && reversal) {
            return Some(Outcome::Obeyed { what: self.halt(now_ms) });
        }
        if reversal && now_ms < self.under_way.pause_ms {
            self.reversed += 1;
            return Some(Outcome::Ignored { why: "its motor was not ready to be reversed".to_owned() });
        }
        // Stopped half-way: the state alone does not say so, the position does.
        let (to, target, span) = if key == motion.down {
            (Position::Down, 1000, motion.travel_down)
        } else if key == motion.up {
            (Position::Up, 0, motion.travel_up)
        } else {
            let at = named?;
            let target = self.profile.down_per_mille(Standing::Stop(at));
            (Position::Stop(at), target, if target > self.down { motion.travel_down } else { motion.travel_up })
        };
        if moving || self.down == target {
            return Some(Outcome::done(None));
        }
        let whole = takes(span, self.pace);
        let until_ms = now_ms + whole * u64::from(self.down.abs_diff(target)) / 1000;
        self.under_way.travel = Some(Busy { effect: Effect::Travel, from_ms: now_ms, until_ms, from_down: self.down });
        self.state.position = to.into();
        let what = if target > self.down { "going down" } else { "going up" };
        Some(Outcome::Obeyed { what: what.to_owned() })
    }

    /// Where its durations lie in their intervals, from 0 to 1.
    pub(super) fn pace(&self) -> f64 {
        self.pace
    }

    /// Is it on?
    pub(super) fn is_on(&self) -> bool {
        self.state.on
    }

    /// What it tells of itself.
    pub(super) fn seen(&self) -> Seen {
        if !self.plugged {
            return Seen::default();
        }
        look::seen(&self.profile, &Timed::from(self.state))
    }

    /// Another device switches it.
    pub(super) fn coupled(&mut self, now_ms: u64, deed: CouplingAct) {
        if !self.plugged {
            return;
        }
        self.used_ms = now_ms;
        let (state, effect) = {
            let automaton = Automaton::new(&self.profile);
            let cooling =
                self.under_way.power.is_some_and(|busy| busy.effect == Effect::CoolDown && busy.until_ms > now_ms);
            match deed {
                CouplingAct::Follow(on) => automaton.switch(self.state, on),
                // What is always on cannot be switched off by another device.
                CouplingAct::Sleep if automaton.never_off() => return,
                CouplingAct::Sleep => automaton.switch(self.state, false),
                CouplingAct::Wake(_) if cooling => return,
                CouplingAct::Wake(input) => {
                    let (woken, effect) = automaton.switch(self.state, true);
                    match input {
                        Some(input) if effect == Effect::None => automaton.choose(woken, input),
                        Some(input) => (State { input, ..woken }, effect),
                        None => (woken, effect),
                    }
                }
            }
        };
        self.take(now_ms, state, effect);
    }

    /// Goes into a state and starts whatever that sets in motion.
    fn take(&mut self, now_ms: u64, after: State, effect: Effect) {
        let automaton = Automaton::new(&self.profile);
        let settle = match effect {
            Effect::Input => automaton.shows_after(after, effect),
            _ => automaton.settle(after, effect),
        };
        let (takes_ms, from_down) = (takes(settle, self.pace), self.down);
        match (self.state.on, after.on) {
            (true, false) => self.comfort.dark(now_ms),
            (false, true) => self.comfort.woken(&self.profile),
            _ => {}
        }
        self.state = after;
        self.list_closes_ms = after.cursor.and(self.list_closes(now_ms));
        let busy = (takes_ms > 0).then_some(Busy { effect, from_ms: now_ms, until_ms: now_ms + takes_ms, from_down });
        match effect {
            Effect::WarmUp | Effect::CoolDown => (self.under_way.power, self.under_way.input) = (busy, None),
            Effect::Input => self.under_way.input = busy,
            Effect::Travel => self.under_way.travel = busy,
            Effect::Halt | Effect::None => {}
        }
    }

    fn list_closes(&self, now_ms: u64) -> Option<u64> {
        match self.profile.selection {
            Selection::Menu { closes_after, .. } => Some(now_ms + takes(closes_after, self.pace)),
            _ => None,
        }
    }

    fn told(&self, before: State, effect: Effect) -> String {
        let input = |index: u8| self.profile.inputs.get(usize::from(index)).map_or("?", |input| input.name.as_str());
        match effect {
            Effect::WarmUp => "starting up".to_owned(),
            Effect::CoolDown if self.profile.times.cool_down.hi_ms > 0 => "off, cooling".to_owned(),
            Effect::CoolDown => "off".to_owned(),
            Effect::Input => format!("input {} → {}", input(before.input), input(self.state.input)),
            Effect::Travel => "moving".to_owned(),
            Effect::Halt => "stopped".to_owned(),
            Effect::None => match self.state.cursor {
                Some(entry) => format!("list at {}", input(entry)),
                None if before.cursor.is_some() => format!("list closed, input {}", input(self.state.input)),
                None => "on".to_owned(),
            },
        }
    }

    fn input_id(&self, index: u8) -> Option<InputId> {
        self.profile.inputs.get(usize::from(index)).map(|input| input.id)
    }

    pub(super) fn view(&self, now_ms: u64) -> DeviceView {
        let lasts = |busy: &Busy| busy.until_ms > now_ms;
        let busy = self.under_way.first(now_ms);
        let switching = self.under_way.power.filter(lasts).map(|busy| busy.effect);
        let power = match (self.profile.power, self.state.on, switching) {
            (Power::AlwaysOn, true, _) => PowerView::Always,
            (_, true, Some(Effect::WarmUp)) => PowerView::Starting,
            (_, true, _) => PowerView::On,
            (_, false, Some(Effect::CoolDown)) => PowerView::Cooling,
            (_, false, _) => PowerView::Off,
        };
        let down = self.profile.motion.is_some().then(|| self.down_at(now_ms));
        let moving = self.under_way.travel.filter(lasts);
        let moving = moving.map(|_| if self.state.position == Standing::Up { Position::Up } else { Position::Down });
        DeviceView {
            device: self.id,
            power,
            input: self.state.on.then(|| self.input_id(self.state.input)).flatten(),
            marked: self.state.cursor.and_then(|entry| self.input_id(entry)),
            down_percent: down.and_then(|down| u8::try_from(down / 10).ok()),
            moving,
            busy_until_ms: busy.map(|busy| busy.until_ms),
            doing: busy.map(|busy| doing(busy.effect, self.state).to_owned()),
            plugged: self.plugged,
            reversed: self.reversed,
            volume_tenths: self.profile.volume.map(|_| self.comfort.volume_tenths),
            muted: self.profile.volume.and_then(|volume| volume.mute).map(|_: Mute| self.state.muted),
            playing: self.profile.kind.plays().then(|| self.comfort.playing(now_ms, self.app())),
            level_percent: (self.profile.kind == DeviceKind::Light).then(|| self.comfort.level_percent(now_ms)),
            message: self.comfort.message.clone(),
            tripped: (self.profile.kind == DeviceKind::Sensor).then_some(self.comfort.tripped),
        }
    }

    /// Is a fade under way?
    pub(super) fn fading(&self, now_ms: u64) -> bool {
        self.comfort.fading(now_ms)
    }

    /// Where it is not what `goal` wants: a sentence.
    pub(super) fn difference(&self, goal: &DeviceGoal, now_ms: u64) -> Option<String> {
        // What is stopped by time is where it should be within its spread.
        let spread = |to: Position| match to {
            Position::Stop(at) => self.profile.stops.get(usize::from(at)).and_then(|stop| stop.timed),
            Position::Up | Position::Down => None,
        };
        let standing = goal.position.is_none_or(|to| {
            let off = self.down_at(now_ms).abs_diff(self.profile.down_per_mille(to.into()));
            off <= spread(to).map_or(0, |timed| u32::from(timed.spread_per_mille))
        });
        let waking = self.under_way.all().any(|busy| busy.until_ms > now_ms && busy.effect != Effect::CoolDown);
        if goal.target(&self.profile).met_by(self.state) && standing && !waking {
            return None;
        }
        Some(format!("{} should be {} but is {}.", self.name, goal.wish, self.is_now(now_ms)))
    }

    fn is_now(&self, now_ms: u64) -> String {
        let mut words = Vec::new();
        if self.profile.motion.is_some() {
            words.push(format!("{} % down", self.down_at(now_ms) / 10));
        } else {
            words.push(if self.state.on { "on" } else { "off" }.to_owned());
        }
        if let Some(input) = self.state.on.then(|| self.profile.inputs.get(usize::from(self.state.input))).flatten() {
            words.push(format!("input {}", input.name));
        }
        if self.state.cursor.is_some() {
            words.push("with its list open".to_owned());
        }
        words.extend(self.under_way.first(now_ms).map(|busy| doing(busy.effect, self.state).to_owned()));
        words.join(", ")
    }
}

fn doing(effect: Effect, state: State) -> &'static str {
    match effect {
        Effect::None => "busy",
        Effect::WarmUp => "starting up",
        Effect::CoolDown => "cooling down",
        Effect::Input => "input coming up",
        Effect::Travel if state.position == Standing::Down => "going down",
        Effect::Travel => "going up",
        Effect::Halt => "standing still",
    }
}
