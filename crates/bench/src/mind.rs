//! What the runtime knows of a room: beliefs, what the devices told, what the room is taken for, and the
//! run that is under way. It hears only what drivers report, and never looks into the world.

use crate::belief::Beliefs;
use crate::drive::Report;
use crate::pressed::Pressed;
use kestrel_core::adopt::{self, InStep, Told, noticed_ms};
use kestrel_core::commission::feedback::{Laps, Reported};
use kestrel_core::device::look::Seen;
use kestrel_core::device::timed;
use kestrel_core::finding::Finding;
use kestrel_core::id::{ActivityId, DeviceId, FunctionId, RoomId};
use kestrel_core::model::{Feedback, Policy, Site, Situation, situation_name};
use kestrel_core::plan::goal::{DeviceGoal, interests};
use kestrel_core::plan::{Derived, Plan, Start, derived_from};
use kestrel_core::surface::finger::Detector;
use kestrel_core::words::seconds;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::sync::Arc;
use utoipa::ToSchema;

/// How many notices are kept.
const NOTICES: usize = 60;

/// The most times that are kept until somebody takes them.
const REPORTED: usize = 100;

/// How many pressed keys are.
const PRESSED: usize = 20;

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
    /// It did not go out, or nobody knows.
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

/// How a run ended, as far as the runtime can tell.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum RunEnd {
    /// The devices say so, or the plan proves it whatever they were before.
    Ready,
    /// All was sent, and nothing says whether it worked everywhere.
    Sent,
    /// All was sent, and a device says that it is something else.
    Wrong,
    /// A command could not be sent.
    Failed,
    /// Someone stopped it, or asked for something else.
    Stopped,
}

/// Who asked for a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Cause {
    /// Somebody.
    Asked,
    /// The runtime, to bring an adopted activity to its end.
    Completed,
    /// A cue.
    Cued,
    /// Somebody who found something wrong: nothing that was believed counts.
    Righted,
}

/// What could be done next.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = WayOn)]
pub struct WayOn {
    /// Where it leads.
    pub to: Situation,
    /// In words.
    pub text: String,
    /// When it would be ready, in ms.
    pub ready_ms: u32,
    /// How many commands it takes.
    pub sends: usize,
}

/// A run of a plan.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RunView {
    /// Counts up.
    pub number: u64,
    /// Where it leads.
    pub to: Situation,
    /// Who asked.
    pub cause: Cause,
    /// When it started, in ms.
    pub started_ms: u64,
    /// When it should be ready, in ms from its start.
    pub ready_ms: u32,
    /// Its steps.
    pub steps: Vec<RunStep>,
    /// How often it was derived anew on the way.
    pub derived_anew: u32,
    /// How it ended; none while it runs.
    pub end: Option<RunEnd>,
    /// When it ended, in ms.
    pub ended_ms: Option<u64>,
    /// Devices that say that they are as they should be.
    pub confirmed: Vec<DeviceId>,
    /// Devices of which the plan proves it, whatever they were before.
    pub proved: Vec<DeviceId>,
    /// Devices of which nothing says so.
    pub unconfirmed: Vec<DeviceId>,
    /// Devices that say that they are otherwise than they should be.
    pub culprits: Vec<DeviceId>,
    /// What went wrong, sentence by sentence.
    pub troubles: Vec<String>,
    /// The ways home, the shortest first, where it ended early.
    pub offers: Vec<WayOn>,
    /// Where the room is otherwise in truth: for whoever rehearses, the runtime does not know it.
    pub in_truth: Vec<String>,
}

/// What kind of thing was noticed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum NoticeKind {
    /// The room is taken for something else now.
    Adopted,
    /// The room is not any more what it was taken for.
    Lost,
    /// Several activities look alike.
    Ambiguous,
    /// A device says nothing any more, or again.
    Silent,
    /// Something was left undone on purpose.
    Held,
}

/// Something that the runtime has noticed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Notice {
    /// Counts up.
    pub number: u64,
    /// When, in ms.
    pub at_ms: u64,
    /// What kind.
    pub kind: NoticeKind,
    /// In a sentence.
    pub text: String,
    /// What could be done about it.
    pub offers: Vec<WayOn>,
}

/// What one device told last.
#[derive(Debug, Clone, Default)]
pub struct LastReport {
    /// When, in ms.
    pub at_ms: u64,
    /// What.
    pub report: Report,
    /// How many questions in a row were not answered.
    pub lost: u32,
}

/// What the runtime knows.
pub struct Mind {
    /// The house.
    pub site: Arc<Site>,
    room: RoomId,
    /// What it believes.
    pub beliefs: Beliefs,
    /// What the devices told.
    pub heard: BTreeMap<DeviceId, LastReport>,
    /// What the room is taken for; none where nobody knows.
    pub taken_for: Option<Situation>,
    /// The activity before the one that was asked for last.
    pub before: Option<ActivityId>,
    /// The last run.
    pub run: Option<RunView>,
    runs: u64,
    /// Observations are collected until then, in ms.
    window_ms: u64,
    /// Rules, gaps and findings of this house.
    pub in_step: InStep,
    notices: VecDeque<Notice>,
    noticed: u64,
    /// A device that has said, during the run, that it is something else.
    contradicted: Option<DeviceId>,
    /// What was completed since somebody last asked for something: nothing is twice in one chain.
    chain: BTreeSet<ActivityId>,
    /// When each device was last told something, in ms.
    told_ms: BTreeMap<DeviceId, u64>,
    /// Those that were told something else than to go on or off: it is named at once and shows later.
    changing: BTreeSet<DeviceId>,
    /// Fingers on keypads.
    pub fingers: Detector,
    pressed: VecDeque<Pressed>,
    /// Commands that are on their way: where a run is cut off, nobody knows whether they arrive.
    on_the_way: BTreeMap<DeviceId, FunctionId>,
    /// What is timed by what devices report.
    laps: Laps,
    /// Times that were reported and that nobody has taken yet.
    reported: Vec<Reported>,
}

/// What follows from an observation.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Consequence {
    /// Nothing.
    Nothing,
    /// The room is taken for something else now.
    Adopted(Situation),
    /// Bring this adopted activity to its end.
    Complete(Situation),
}

impl Mind {
    /// A room that is off, as it is handed over, with what may be believed of it.
    #[must_use]
    pub fn new(site: Arc<Site>, room: RoomId, known: Start) -> Self {
        Self {
            beliefs: Beliefs::at(0, known),
            in_step: adopt::in_step(&site, room),
            site,
            room,
            heard: BTreeMap::new(),
            taken_for: Some(Situation::Off),
            before: None,
            run: None,
            runs: 0,
            window_ms: 0,
            notices: VecDeque::new(),
            noticed: 0,
            contradicted: None,
            chain: BTreeSet::new(),
            told_ms: BTreeMap::new(),
            changing: BTreeSet::new(),
            fingers: Detector::default(),
            pressed: VecDeque::new(),
            on_the_way: BTreeMap::new(),
            laps: Laps::default(),
            reported: Vec::new(),
        }
    }

    /// Nobody knows what the room is in: the server was stopped in the middle of something.
    pub fn forget(&mut self, now_ms: u64, why: &str) {
        self.beliefs = Beliefs::unknown();
        self.laps.forget();
        self.taken_for = None;
        self.note(now_ms, NoticeKind::Lost, why.to_owned(), vec![]);
    }

    /// The room is found in something.
    pub fn found(&mut self, now_ms: u64, taken_for: Situation, known: Start) {
        self.beliefs = Beliefs::at(now_ms, known);
        self.taken_for = (taken_for != Situation::Unknown).then_some(taken_for);
        self.heard.clear();
        self.laps.forget();
        self.told_ms.clear();
        self.changing.clear();
    }

    /// Takes over an edited house.
    pub fn refit(&mut self, site: Arc<Site>) {
        let old = std::mem::replace(&mut self.site, site);
        self.beliefs.refit(&old, &self.site, self.room);
        self.in_step = adopt::in_step(&self.site, self.room);
        let gone = |to: &Situation| match to {
            Situation::In { activity } => self.site.activity(*activity).is_none_or(|known| known.room != self.room),
            _ => false,
        };
        if self.taken_for.as_ref().is_some_and(gone) {
            self.taken_for = None;
        }
    }

    /// The notices, the newest last.
    #[must_use]
    pub fn notices(&self) -> Vec<Notice> {
        self.notices.iter().cloned().collect()
    }

    fn note(&mut self, at_ms: u64, kind: NoticeKind, text: String, offers: Vec<WayOn>) {
        if self.notices.back().is_some_and(|last| last.text == text && last.kind == kind) {
            return;
        }
        self.noticed += 1;
        self.notices.push_back(Notice { number: self.noticed, at_ms, kind, text, offers });
        if self.notices.len() > NOTICES {
            self.notices.pop_front();
        }
    }

    /// A key was pressed.
    pub fn press(&mut self, pressed: Pressed) {
        self.pressed.push_back(pressed);
        if self.pressed.len() > PRESSED {
            self.pressed.pop_front();
        }
    }

    /// Keys that were pressed last, the newest last.
    #[must_use]
    pub fn pressed(&self) -> Vec<Pressed> {
        self.pressed.iter().cloned().collect()
    }

    /// Something was left undone on purpose.
    pub fn held(&mut self, at_ms: u64, text: String) {
        self.note(at_ms, NoticeKind::Held, text, vec![]);
    }

    /// What is believed, where a command that is on its way may have arrived or not.
    fn believed(&self, now_ms: u64) -> Beliefs {
        let mut beliefs = self.beliefs.clone();
        for (&device, &function) in &self.on_the_way {
            beliefs.perhaps_sent(&self.site, self.room, device, function, now_ms);
        }
        beliefs
    }

    /// The plan that leads from what is believed now. Where the policy of the room is the safe one, only what
    /// devices told themselves is believed, as long as there is such a plan.
    #[must_use]
    pub fn derive(&self, now_ms: u64, to: Situation) -> Derived {
        let start = self.believed(now_ms).start(&self.site, now_ms);
        if self.site.room(self.room).is_some_and(|room| room.plans.policy == Policy::Safe) {
            return self.for_anything(&start, to);
        }
        derived_from(&self.site, self.room, &start, to)
    }

    /// The plan for somebody who says that something is wrong: what was believed does not count, only what devices tell
    /// of themselves.
    #[must_use]
    pub fn derive_anyhow(&self, now_ms: u64, to: Situation) -> Derived {
        self.for_anything(&self.believed(now_ms).start(&self.site, now_ms), to)
    }

    /// The plan that ends right whatever every device is in that tells nothing of itself.
    fn for_anything(&self, start: &Start, to: Situation) -> Derived {
        let seen = self.seen();
        let mut safe = start.clone();
        let interests = interests(&self.site, self.room);
        for device in self.site.devices_in(self.room).map(|device| device.id) {
            let told = seen.get(&device).is_some_and(Seen::tells) && self.beliefs.is_seen(device);
            if let Some(machine) = self.site.automaton(device).filter(|_| !told) {
                let interest = interests.get(&device).copied().unwrap_or_default();
                safe.insert(device, timed::anything(&machine, &interest).into_iter().collect());
            }
        }
        let derived = derived_from(&self.site, self.room, &safe, to);
        let without: Vec<DeviceId> = derived.plan.findings.iter().filter_map(Finding::no_safe_way).collect();
        if without.is_empty() {
            return derived;
        }
        // Only a device that no sequence brings there from everything starts from what is believed of it; a finding of
        // another kind changes nothing of that.
        for device in without {
            if let Some(states) = start.get(&device) {
                safe.insert(device, states.clone());
            }
        }
        derived_from(&self.site, self.room, &safe, to)
    }

    /// What could be done from here: these situations, the shortest way first.
    #[must_use]
    pub fn offers(&self, now_ms: u64, to: impl IntoIterator<Item = Situation>) -> Vec<WayOn> {
        let mut offers: Vec<WayOn> = Vec::new();
        for to in to {
            if offers.iter().any(|known| known.to == to) || to == Situation::Unknown {
                continue;
            }
            let plan = self.derive(now_ms, to).plan;
            if plan.runnable && plan.confirm.is_empty() {
                let text = match to {
                    Situation::Off => "Finish".to_owned(),
                    _ => format!("Back to {}", situation_name(&self.site, to)),
                };
                offers.push(WayOn { to, text, ready_ms: plan.ready_ms.unwrap_or(0), sends: plan.steps.len() });
            }
        }
        offers.sort_by_key(|offer| (offer.ready_ms, offer.sends));
        offers
    }

    /// A run begins.
    pub fn begin(&mut self, plan: &Plan, started_ms: u64, cause: Cause) -> u64 {
        self.runs += 1;
        if let Some(Situation::In { activity }) = self.taken_for.filter(|known| *known != plan.to) {
            self.before = Some(activity);
        }
        self.contradicted = None;
        self.window_ms = u64::MAX;
        if cause != Cause::Completed {
            self.chain.clear();
        }
        self.run = Some(RunView {
            number: self.runs,
            to: plan.to,
            cause,
            started_ms,
            ready_ms: plan.ready_ms.unwrap_or(0),
            steps: run_steps(plan, 0),
            derived_anew: 0,
            end: None,
            ended_ms: None,
            confirmed: vec![],
            proved: vec![],
            unconfirmed: vec![],
            culprits: vec![],
            troubles: vec![],
            offers: vec![],
            in_truth: vec![],
        });
        self.runs
    }

    /// The run goes on with another plan, after a look or because it was contradicted.
    pub fn amend(&mut self, number: u64, plan: &Plan, now_ms: u64, why: Option<String>) {
        self.contradicted = None;
        let Some(run) = self.run.as_mut().filter(|run| run.number == number) else { return };
        let later = u32::try_from(now_ms.saturating_sub(run.started_ms)).unwrap_or(0);
        run.ready_ms = later + plan.ready_ms.unwrap_or(0);
        let mut steps: Vec<RunStep> = Vec::new();
        if let Some(why) = why {
            run.derived_anew += 1;
            run.troubles.push(why);
            steps = run.steps.iter().filter(|step| step.state == StepState::Sent).cloned().collect();
        }
        steps.extend(run_steps(plan, later));
        run.steps = steps;
    }

    /// How far a step of the plan is that was derived last.
    pub fn step(&mut self, number: u64, steps_of_plan: usize, index: usize, state: StepState) {
        let Some(run) = self.run.as_mut().filter(|run| run.number == number) else { return };
        let before = run.steps.len().saturating_sub(steps_of_plan);
        if let Some(step) = run.steps.get_mut(before + index) {
            step.state = state;
        }
    }

    /// A command went out.
    pub fn sent(&mut self, device: DeviceId, function: FunctionId, now_ms: u64) {
        let site = self.site.clone();
        self.told_ms.insert(device, now_ms);
        self.on_the_way.remove(&device);
        let says =
            self.heard.get(&device).filter(|heard| heard.lost == 0).map(|heard| heard.report.says(&site, device));
        self.laps.sent(&site, device, function, now_ms, says.unwrap_or_default());
        self.beliefs.sent(&site, self.room, device, function, now_ms);
    }

    /// Times that devices reported since somebody last asked.
    pub fn take_reported(&mut self) -> Vec<Reported> {
        std::mem::take(&mut self.reported)
    }

    /// A command is on its way to a device.
    pub fn telling(&mut self, device: DeviceId, function: FunctionId, now_ms: u64) {
        self.told_ms.insert(device, now_ms);
        self.on_the_way.insert(device, function);
        if self.site.automaton(device).is_some_and(|machine| machine.is_power_key(function)) {
            self.changing.remove(&device);
        } else {
            self.changing.insert(device);
        }
    }

    /// A command may have arrived or not.
    pub fn perhaps_sent(&mut self, device: DeviceId, function: FunctionId, now_ms: u64) {
        let site = self.site.clone();
        self.on_the_way.remove(&device);
        self.laps.lose(device);
        self.beliefs.perhaps_sent(&site, self.room, device, function, now_ms);
    }

    /// May what a device tells now still be of before our last command?
    fn early(&self, device: DeviceId, now_ms: u64) -> bool {
        let Some(profile) = self.site.profile_of(device) else { return false };
        let delay_ms = match &profile.feedback {
            Feedback::None => 0,
            Feedback::Poll { time_out_ms, .. } => *time_out_ms,
            Feedback::Push { delay_ms, .. } | Feedback::Sensor { delay_ms, .. } => *delay_ms,
        };
        let echo_ms = u64::from(delay_ms + profile.times.input.hi_ms.max(profile.times.gap_ms));
        self.told_ms.get(&device).is_some_and(|told| now_ms <= told + echo_ms)
    }

    /// The run ends. Observations are still collected until the last echo of it must have come.
    pub fn finish(&mut self, now_ms: u64, end: RunEnd, troubles: Vec<String>) {
        let Some(run) = self.run.as_mut().filter(|run| run.end.is_none()) else { return };
        (run.end, run.ended_ms) = (Some(end), Some(now_ms));
        run.troubles.extend(troubles);
        for step in run.steps.iter_mut().filter(|step| matches!(step.state, StepState::Waiting | StepState::Sending)) {
            step.state = StepState::Dropped;
        }
        let to = run.to;
        for (device, function) in std::mem::take(&mut self.on_the_way) {
            self.perhaps_sent(device, function, now_ms);
        }
        self.taken_for = match end {
            RunEnd::Ready | RunEnd::Sent => Some(to),
            RunEnd::Wrong | RunEnd::Failed | RunEnd::Stopped => None,
        };
        self.window_ms = now_ms + self.echo_ms();
    }

    /// How long after our last command an echo of it may come, in ms: coupling, poll, time-out and settling of the
    /// slowest device that tells anything.
    #[must_use]
    pub fn echo_ms(&self) -> u64 {
        let lost = self.site.room(self.room).map_or(0, |room| room.rehearsal.adoption.lost_polls);
        let mut longest = 0;
        let mut coupling = 0;
        for device in self.site.devices_in(self.room) {
            let Some(profile) = self.site.profile_of(device.id) else { continue };
            longest = longest.max(noticed_ms(&profile, lost).unwrap_or(0));
            coupling = coupling.max(profile.couples.map_or(0, |couples| couples.delay.hi_ms));
        }
        u64::from(longest) + u64::from(coupling)
    }

    /// When the observations that are collected are looked at, in ms.
    #[must_use]
    pub fn window_ms(&self) -> u64 {
        self.window_ms
    }

    /// The name of a device that has said that it is something else than it was told to be.
    #[must_use]
    pub fn contradicted(&self) -> Option<DeviceId> {
        self.contradicted
    }

    /// A device tells what it is doing. Tells whether it was silent before.
    pub fn hear(&mut self, device: DeviceId, report: Report, now_ms: u64) {
        let site = self.site.clone();
        let (seen, settling) = (report.seen(&site, device), report.settling());
        let heard = self.heard.entry(device).or_default();
        let was_lost = heard.lost;
        (heard.at_ms, heard.lost) = (now_ms, 0);
        if let Some(tenths) = report.volume_tenths {
            self.beliefs.heard_volume(device, tenths);
        }
        let says = report.says(&site, device);
        heard.report = report;
        if let Some(reported) = self.laps.heard(&site, device, says, now_ms)
            && self.reported.len() < REPORTED
        {
            self.reported.push(reported);
        }
        if was_lost > self.tolerated() {
            let text = format!("{} answers again.", site.device_name(device));
            self.note(now_ms, NoticeKind::Silent, text, vec![]);
        }
        if seen.tells() {
            let early = self.early(device, now_ms);
            let fitted = self.beliefs.saw(&site, device, (seen, settling), now_ms, early);
            let running = self.run.as_ref().is_some_and(|run| run.end.is_none());
            if running && !fitted {
                self.contradicted = Some(device);
            }
        }
    }

    /// A device did not answer.
    pub fn missed(&mut self, device: DeviceId, why: &str, now_ms: u64) {
        let tolerated = self.tolerated();
        let heard = self.heard.entry(device).or_default();
        heard.lost += 1;
        if heard.lost == tolerated + 1 {
            let text = format!("{} says nothing any more: {why}.", self.site.device_name(device));
            self.note(now_ms, NoticeKind::Silent, text, vec![]);
        }
    }

    fn tolerated(&self) -> u32 {
        self.site.room(self.room).map_or(0, |room| u32::from(room.rehearsal.adoption.lost_polls))
    }

    /// What devices that still answer have told of themselves.
    #[must_use]
    pub fn seen(&self) -> BTreeMap<DeviceId, Seen> {
        let tolerated = self.tolerated();
        self.heard
            .iter()
            .filter(|(_, heard)| heard.lost <= tolerated && heard.at_ms > 0)
            .map(|(&device, heard)| (device, heard.report.seen(&self.site, device)))
            .collect()
    }

    /// Has a device said, after `since_ms`, that it is as it should be and settled? An input is named at once and
    /// shows later, so it counts once it has had its time.
    #[must_use]
    pub fn settled(&self, device: DeviceId, goal: Option<&DeviceGoal>, since_ms: u64, now_ms: u64) -> bool {
        let shows_ms = self.site.profile_of(device).map_or(0, |profile| u64::from(profile.times.input.hi_ms));
        let told_ms = self.told_ms.get(&device).copied().unwrap_or(0);
        let shows_later = goal.is_some_and(|goal| goal.input.is_some()) || self.changing.contains(&device);
        if shows_later && now_ms < told_ms + shows_ms {
            return false;
        }
        let Some(heard) = self.heard.get(&device).filter(|heard| heard.lost == 0 && heard.at_ms > since_ms) else {
            return false;
        };
        let seen = heard.report.seen(&self.site, device);
        !heard.report.settling() && seen.tells() && goal.is_none_or(|goal| as_wanted(&self.site, goal, &seen))
    }

    /// Looks at what was told, and adopts what it says. Nothing is done while a run of ours, or its echo, is
    /// under way.
    pub fn evaluate(&mut self, now_ms: u64) -> Consequence {
        if now_ms < self.window_ms {
            return Consequence::Nothing;
        }
        let seen = self.seen();
        match adopt::told(&self.site, &self.in_step, &seen, self.taken_for) {
            Told::One(to) if Some(to) == self.taken_for => Consequence::Nothing,
            Told::One(to) => self.adopt(to, now_ms),
            Told::Several(alike) => {
                let names: Vec<String> = alike.iter().map(|&to| situation_name(&self.site, to)).collect();
                let text = format!("What the devices tell fits {}: none of them is adopted.", names.join(" and "));
                let offers = self.offers(now_ms, alike);
                self.note(now_ms, NoticeKind::Ambiguous, text, offers);
                Consequence::Nothing
            }
            Told::Nothing => {
                self.check_current(&seen, now_ms);
                Consequence::Nothing
            }
        }
    }

    fn adopt(&mut self, to: Situation, now_ms: u64) -> Consequence {
        let rule = self.in_step.rules.iter().find(|rule| rule.to == to && rule.on);
        let when: Vec<&str> =
            rule.iter().flat_map(|rule| &rule.conditions).filter(|c| !c.left_out).map(|c| c.text.as_str()).collect();
        let completes = self.site.room(self.room).is_some_and(|room| room.rehearsal.adoption.complete);
        let fresh = match to {
            Situation::In { activity } => completes && self.chain.insert(activity),
            _ => false,
        };
        let follows = if fresh { "Sound, screen and light follow." } else { "Nothing was sent." };
        let text = format!("{}: taken for {} now. {follows}", when.join(", "), situation_name(&self.site, to));
        let before = self.taken_for.filter(|before| *before != to && matches!(before, Situation::In { .. }));
        self.taken_for = Some(to);
        let mut offers = match to {
            Situation::In { .. } if !fresh => {
                let mut offers = self.offers(now_ms, [to]);
                for offer in &mut offers {
                    offer.text = format!("Complete {}", situation_name(&self.site, to));
                }
                offers.retain(|offer| offer.sends > 0);
                offers
            }
            _ => vec![],
        };
        if !fresh {
            offers.extend(self.offers(now_ms, before));
        }
        self.note(now_ms, NoticeKind::Adopted, text, offers);
        if fresh { Consequence::Complete(to) } else { Consequence::Adopted(to) }
    }

    /// Is the room still what it is taken for? A device that tells otherwise ends that.
    fn check_current(&mut self, seen: &BTreeMap<DeviceId, Seen>, now_ms: u64) {
        let Some(current @ Situation::In { activity }) = self.taken_for else {
            if self.taken_for == Some(Situation::Off) {
                self.check_off(seen, now_ms);
            }
            return;
        };
        let Some(rule) = self.in_step.rules.iter().find(|rule| rule.to == current) else { return };
        let broken = rule.conditions.iter().find(|condition| {
            seen.contains_key(&condition.device) && !condition.met(&self.site, seen.get(&condition.device))
        });
        let Some(broken) = broken else { return };
        let device = broken.device;
        let profile = self.site.profile_of(device);
        let is = match (&profile, seen.get(&device)) {
            (Some(profile), Some(seen)) => seen.in_words(profile),
            _ => "something else".to_owned(),
        };
        let text = format!(
            "{} is {is}: the room is not in {} any more.",
            self.site.device_name(device),
            self.site.activity(activity).map_or("its activity", |activity| activity.name.as_str())
        );
        self.taken_for = None;
        let offers = self.offers(now_ms, [current, Situation::Off]);
        self.note(now_ms, NoticeKind::Lost, text, offers);
    }

    /// The room is taken to be off, and something says that it is on.
    fn check_off(&mut self, seen: &BTreeMap<DeviceId, Seen>, now_ms: u64) {
        let goals = kestrel_core::plan::goal::goals(&self.site, self.room, Situation::Off).devices;
        let on = goals.iter().find(|goal| {
            let shows = self.site.profile_of(goal.device).is_some_and(|p| p.kind.shows() || p.kind.sounds());
            shows && goal.on == Some(false) && seen.get(&goal.device).is_some_and(|seen| seen.on == Some(true))
        });
        let Some(device) = on.map(|goal| goal.device) else { return };
        let text = format!("{} is on: the room is not off any more.", self.site.device_name(device));
        self.taken_for = None;
        let offers = self.offers(now_ms, [Situation::Off]);
        self.note(now_ms, NoticeKind::Lost, text, offers);
    }

    /// Has a device told that it is not as wanted? Nobody takes it for granted then.
    #[must_use]
    pub fn knows_otherwise(&self, goal: &DeviceGoal) -> bool {
        self.seen().get(&goal.device).is_some_and(|seen| !as_wanted(&self.site, goal, seen))
    }

    /// What the runtime can say of the devices at the end of a run.
    pub fn conclude(
        &mut self,
        plan: &Plan,
        supported: &BTreeSet<DeviceId>,
        since_ms: u64,
        now_ms: u64,
    ) -> (RunEnd, Vec<String>) {
        let (mut confirmed, mut proved, mut unconfirmed, mut wrong) = (vec![], vec![], vec![], vec![]);
        let mut culprits = vec![];
        for goal in
            plan.goals.iter().filter(|goal| goal.on.is_some() || goal.position.is_some() || goal.input.is_some())
        {
            let heard = self.heard.get(&goal.device).filter(|heard| heard.lost == 0 && heard.at_ms >= since_ms);
            let seen = heard.map(|heard| heard.report.seen(&self.site, goal.device)).filter(Seen::tells);
            match seen {
                Some(seen) if !as_wanted(&self.site, goal, &seen) => {
                    let is = self.site.profile_of(goal.device).map_or_else(String::new, |p| seen.in_words(&p));
                    let name = self.site.device_name(goal.device);
                    culprits.push(goal.device);
                    wrong.push(format!("{name} should be {} and says that it is {is}.", goal.wish));
                    // Everything has settled: what it says now is what it is.
                    let site = self.site.clone();
                    self.beliefs.saw(&site, goal.device, (seen, false), now_ms, false);
                }
                Some(seen) if tells_all(goal, &seen) => confirmed.push(goal.device),
                _ if supported.contains(&goal.device) => proved.push(goal.device),
                _ => unconfirmed.push(goal.device),
            }
        }
        let end = match (wrong.is_empty(), unconfirmed.is_empty()) {
            (false, _) => RunEnd::Wrong,
            (true, true) => RunEnd::Ready,
            (true, false) => RunEnd::Sent,
        };
        if let Some(run) = self.run.as_mut() {
            (run.confirmed, run.proved, run.unconfirmed) = (confirmed, proved, unconfirmed);
            run.culprits = culprits;
        }
        (end, wrong)
    }

    /// How long ago a device was heard last, in words; none where it never was.
    #[must_use]
    pub fn silence(&self, device: DeviceId, now_ms: u64) -> Option<String> {
        let heard = self.heard.get(&device).filter(|heard| heard.lost > self.tolerated())?;
        let since = u32::try_from(now_ms.saturating_sub(heard.at_ms)).unwrap_or(u32::MAX);
        Some(if heard.at_ms == 0 { "never heard".to_owned() } else { format!("silent for {}", seconds(since)) })
    }
}

/// Is what a device tells what is wanted of it, as far as it tells?
fn as_wanted(site: &Site, goal: &DeviceGoal, seen: &Seen) -> bool {
    let input = goal.input.and_then(|input| site.profile_of(goal.device)?.input_index(input));
    let power = goal.on.zip(seen.on).is_none_or(|(wanted, is)| wanted == is);
    let shows = input.zip(seen.input).is_none_or(|(wanted, is)| wanted == usize::from(is));
    let stands = goal
        .position
        .zip(seen.down)
        .is_none_or(|(wanted, down)| (wanted == kestrel_core::model::Position::Down) == down);
    power && (goal.on == Some(false) || shows) && stands
}

/// Does it tell everything that is wanted of it?
fn tells_all(goal: &DeviceGoal, seen: &Seen) -> bool {
    let input = goal.input.is_none() || goal.on == Some(false) || seen.input.is_some();
    (goal.on.is_none() || seen.on.is_some()) && input && (goal.position.is_none() || seen.down.is_some())
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
