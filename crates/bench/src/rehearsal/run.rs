//! Runs: from what is asked for to an honest word about what came of it.

use super::light::going;
use super::{Inner, Rehearsal, RehearsalError};
use crate::clock::Clock;
use crate::mind::{Cause, RunEnd, StepState};
use crate::runtime::{self, Eyes, RunError, StepEvent};
use crate::wires::Wires;
use kestrel_core::id::{DeviceId, FunctionId};
use kestrel_core::model::{Deed, Feedback, Situation, Standing};
use kestrel_core::plan::goal::DeviceGoal;
use kestrel_core::plan::{Derived, Plan, press_of};
use kestrel_core::prove::supported;
use kestrel_core::room::Outcome;
use kestrel_core::surface::bar::the;
use std::collections::BTreeSet;
use std::sync::atomic::Ordering;
use std::sync::{Arc, PoisonError};
use tokio::sync::watch;

/// How often the runtime looks whether everything has settled, in ms.
const GLANCE_MS: u64 = 200;

/// How often a run is derived anew before it is given up.
const ANEW: u32 = 2;

impl Rehearsal {
    /// The plan that a request for `to` would run now, from what is believed.
    #[must_use]
    pub fn plan(&self, to: Situation) -> Plan {
        let now = self.clock().now_ms();
        self.mind().derive(now, to).plan
    }

    /// Starts a run that somebody asks for; one that is under way is superseded.
    ///
    /// # Errors
    /// Where the plan cannot be sent as it is.
    pub async fn run(&self, to: Situation) -> Result<(), RehearsalError> {
        self.record(Deed::Request { to });
        self.run_because(to, Cause::Asked, false).await
    }

    /// The same where somebody has said that a plan which may end wrong shall be sent.
    ///
    /// # Errors
    /// Where the plan cannot be sent.
    pub async fn run_all_the_same(&self, to: Situation) -> Result<(), RehearsalError> {
        self.record(Deed::Request { to });
        self.run_because(to, Cause::Asked, true).await
    }

    /// Where the room should be: where it goes, or was taken for, or went last; off, where nobody knows.
    #[must_use]
    pub fn should_be(&self) -> Situation {
        let last = self.last_run().map(|(_, to, _)| to);
        let on = self.known().activity.map(|activity| Situation::In { activity });
        on.or(self.taken_for()).or(last).filter(|to| *to != Situation::Unknown).unwrap_or(Situation::Off)
    }

    /// The plan by which [`Self::put_right`] would go; none where nobody can promise anything from here.
    #[must_use]
    pub fn plan_anyhow(&self, to: Situation) -> Option<Plan> {
        let now = self.clock().now_ms();
        let plan = self.mind().derive_anyhow(now, to).plan;
        (plan.runnable && plan.confirm.is_empty()).then_some(plan)
    }

    /// Puts the room right for somebody who finds something wrong with it: by the plan that ends right whatever is on.
    ///
    /// # Errors
    /// Where there is no such plan.
    pub async fn put_right(&self, to: Situation) -> Result<(), RehearsalError> {
        self.record(Deed::Request { to });
        self.run_because(to, Cause::Righted, false).await
    }

    /// Brings the adopted activity to its end: sound, screen and light.
    ///
    /// # Errors
    /// Where nothing was adopted, or the plan cannot be sent.
    pub async fn complete(&self) -> Result<(), RehearsalError> {
        self.record(Deed::Complete);
        match self.taken_for() {
            Some(to @ Situation::In { .. }) => self.run_because(to, Cause::Completed, false).await,
            _ => Err(RehearsalError::NotNow(
                "The room is not taken for an activity: there is nothing to complete.".to_owned(),
            )),
        }
    }

    pub(super) async fn run_because(&self, to: Situation, cause: Cause, confirmed: bool) -> Result<(), RehearsalError> {
        let wires = self.wires().await?;
        let _turn = self.inner.commands.lock().await;
        self.end_run(RunEnd::Stopped);
        let start_ms = self.clock().now_ms();
        let derived = match cause {
            Cause::Righted => self.mind().derive_anyhow(start_ms, to),
            Cause::Asked | Cause::Completed | Cause::Cued => self.mind().derive(start_ms, to),
        };
        if !derived.plan.runnable {
            let stops = derived.plan.findings.iter().filter(|f| f.weight == kestrel_core::finding::Weight::Stops);
            let reasons: Vec<&str> = stops.map(|finding| finding.text.as_str()).collect();
            return Err(RehearsalError::NotRunnable(reasons.join(" ")));
        }
        if !confirmed && !derived.plan.confirm.is_empty() {
            let short = derived.plan.findings.iter().filter(|finding| finding.no_safe_way().is_some());
            let reasons: Vec<&str> = short.map(|finding| finding.text.as_str()).collect();
            return Err(RehearsalError::Unsure(reasons.join(" ")));
        }
        let number = self.mind().begin(&derived.plan, start_ms, cause);
        // Whoever asks again for what is on does not arrive; what was adopted and is completed does.
        let there = matches!(to, Situation::In { activity } if self.inner.light().activity() == Some(activity));
        if let Some(happening) = going(to).filter(|_| !there || cause == Cause::Completed) {
            self.inner.happened(&happening);
        }
        let task = tokio::spawn(follow(self.inner.clone(), wires, derived, start_ms, number, confirmed));
        *self.inner.run.lock().unwrap_or_else(PoisonError::into_inner) = Some(task.abort_handle());
        self.touch();
        Ok(())
    }

    pub(super) fn end_run(&self, end: RunEnd) {
        if let Some(task) = self.inner.run.lock().unwrap_or_else(PoisonError::into_inner).take() {
            task.abort();
        }
        let now = self.clock().now_ms();
        self.mind().finish(now, end, vec![]);
    }

    /// Stops the run and everything that can move, whether it is believed to move or not.
    ///
    /// # Errors
    /// Where a stop could not be sent; all the others were tried all the same.
    pub async fn stop(&self) -> Result<(), RehearsalError> {
        // First of all: what is on its way is not sent any more, and nothing that is held goes on.
        self.inner.stops.fetch_add(1, Ordering::SeqCst);
        self.release_all();
        self.end_run(RunEnd::Stopped);
        let _turn = self.inner.commands.lock().await;
        self.record(Deed::Stop);
        self.end_run(RunEnd::Stopped);
        self.touch();
        let wires = self.wires().await?;
        let site = self.inner.world.site();
        let movers: Vec<DeviceId> = site
            .devices_in(self.inner.world.room())
            .filter(|device| site.profile_of(device.id).is_some_and(|p| p.motion.is_some_and(|m| m.stop.is_some())))
            .map(|device| device.id)
            .collect();
        let failed = halt(&self.inner, &wires, &movers).await;
        if failed.is_empty() {
            return Ok(());
        }
        let names: Vec<String> = failed.iter().map(|(device, _)| the(&site.device_name(*device))).collect();
        let plainly =
            format!("{} may still be moving. Keep clear, and stop it at its own switch.", names.join(" and "));
        let why: Vec<String> = failed.into_iter().map(|(_, why)| why).collect();
        Err(RehearsalError::Barred { exactly: why.join(" "), plainly })
    }
}

/// Sends a stop to each of these devices; a sentence for each that could not be stopped.
async fn halt(inner: &Arc<Inner>, wires: &Wires, movers: &[DeviceId]) -> Vec<(DeviceId, String)> {
    let site = inner.world.site();
    let mut failed = Vec::new();
    for &device in movers {
        let name = site.device_name(device);
        let stop = site.profile_of(device).and_then(|profile| profile.motion?.stop);
        let Some(stop) = stop else {
            failed.push((device, format!("{name} has no stop: it goes on to its end. Keep clear.")));
            continue;
        };
        let Some(code) = site.code(device, stop) else {
            let why =
                format!("The stop of {name} has no code: it may still be moving. Keep clear, and learn it in Codes.");
            failed.push((device, why));
            continue;
        };
        let (press, frames) = press_of(&site, device, stop);
        let _writer = inner.writer(device).lock_owned().await;
        inner.mind().telling(device, stop, inner.world.clock().now_ms());
        // At once; and once more where the device may not have heard it for another command just before.
        let clock = inner.world.clock().clone();
        let deaf_ms = inner.mind().beliefs.deaf_ms(&site, device, clock.now_ms());
        let mut sent = wires.send(device, &code.body, press, frames).await;
        if deaf_ms > 0 && sent.is_ok() {
            clock.sleep(deaf_ms).await;
            sent = wires.send(device, &code.body, press, frames).await;
        }
        match sent {
            Ok(()) => inner.mind().sent(device, stop, inner.world.clock().now_ms()),
            Err(error) => {
                let why = format!("{name} may still be moving: its stop could not be sent ({error}). Keep clear.");
                failed.push((device, why));
            }
        }
    }
    failed
}

/// What a run needs to know of what was seen.
struct RunEyes {
    inner: Arc<Inner>,
    goals: Vec<DeviceGoal>,
}

impl Eyes for RunEyes {
    fn settled(&self, device: DeviceId, since_ms: u64) -> bool {
        let goal = self.goals.iter().find(|goal| goal.device == device);
        // On the way the input need not be there yet; that it is on and settled is what a wait is for.
        let on_the_way = goal.map(|goal| DeviceGoal { input: None, position: None, ..goal.clone() });
        let now = self.inner.world.clock().now_ms();
        self.inner.mind().settled(device, on_the_way.as_ref(), since_ms, now)
    }

    fn contradicted(&self) -> Option<String> {
        let mind = self.inner.mind();
        let device = mind.contradicted()?;
        // A device that is not asked for anything may be what it likes.
        let goal = self.goals.iter().find(|goal| goal.device == device)?;
        (goal.on.is_some() || goal.input.is_some()).then(|| mind.site.device_name(device))
    }

    fn changes(&self) -> watch::Receiver<u64> {
        self.inner.minded.subscribe()
    }

    fn writer(&self, device: DeviceId) -> Arc<tokio::sync::Mutex<()>> {
        self.inner.writer(device)
    }

    fn deaf_ms(&self, device: DeviceId) -> u64 {
        let now = self.inner.world.clock().now_ms();
        let site = self.inner.world.site();
        self.inner.mind().beliefs.deaf_ms(&site, device, now)
    }

    fn reverses(&self, device: DeviceId, function: FunctionId) -> bool {
        let Some(target) = direction(&self.inner, device, function) else { return false };
        let now = self.inner.world.clock().now_ms();
        let site = self.inner.world.site();
        self.inner.mind().beliefs.reversal(&site, device, target, now).is_some()
    }
}

/// Runs a plan to its end, derived anew where a device says that it is something else.
async fn follow(
    inner: Arc<Inner>,
    wires: Wires,
    mut derived: Derived,
    mut start_ms: u64,
    number: u64,
    confirmed: bool,
) {
    let clock = inner.world.clock().clone();
    let (run_started_ms, to) = (start_ms, derived.plan.to);
    let mut anew = 0;
    let (end, troubles) = loop {
        if let Some(look_ms) = derived.plan.looks.iter().map(|look| look.to_ms).max() {
            // Look, then act: what is seen decides, and the plan is derived anew from it.
            look(&inner, &wires, &derived.plan).await;
            let latest = start_ms + u64::from(look_ms);
            if derived.plan.looks.iter().any(|look| !heard_since(&inner, look.device, start_ms)) {
                clock.sleep_until(latest).await;
            }
            start_ms = clock.now_ms();
            derived = inner.mind().derive(start_ms, to);
            inner.mind().amend(number, &derived.plan, start_ms, None);
            inner.touch();
        }
        let supported = supported(&inner.world.site(), inner.world.room(), &derived);
        match send_all(&inner, &wires, &derived.plan, start_ms, number).await {
            Ok(ready_ms) => {
                arrive(&inner, &derived.plan, run_started_ms, ready_ms, &clock).await;
                ask_all(&inner, &wires, &derived.plan).await;
                let (end, wrong) = inner.mind().conclude(&derived.plan, &supported, start_ms, clock.now_ms());
                if end != RunEnd::Wrong || anew == ANEW {
                    break (end, wrong);
                }
                anew += 1;
                start_ms = clock.now_ms();
                derived = derive_anew(&inner, number, to, start_ms, wrong.join(" "));
            }
            Err(error) if error.derivable() && anew < ANEW => {
                anew += 1;
                ask(&inner, &wires, error.refused_by().into_iter().collect()).await;
                start_ms = clock.now_ms();
                derived = derive_anew(&inner, number, to, start_ms, error.to_string());
            }
            Err(error) => break (RunEnd::Failed, give_up(&inner, &wires, &error.to_string()).await),
        }
        if !derived.plan.runnable || (!confirmed && !derived.plan.confirm.is_empty()) {
            break (RunEnd::Failed, vec!["From here no plan can be sent.".to_owned()]);
        }
    };
    let in_truth = in_truth(&inner, &derived.plan, run_started_ms);
    close(&inner, number, to, end, troubles, in_truth);
    // What was collected meanwhile is looked at once the last echo must have come.
    let window_ms = inner.mind().window_ms();
    tokio::spawn(async move {
        clock.sleep_until(window_ms).await;
        inner.evaluate();
    });
}

/// A plan that cannot go on: what still moves is stopped, and what went wrong is told.
async fn give_up(inner: &Arc<Inner>, wires: &Wires, why: &str) -> Vec<String> {
    let mut troubles = vec![why.to_owned()];
    let site = inner.world.site();
    let now_ms = inner.world.clock().now_ms();
    let moving: Vec<DeviceId> = site
        .devices_in(inner.world.room())
        .filter(|device| inner.mind().beliefs.may_move(&site, device.id, now_ms))
        .map(|device| device.id)
        .collect();
    troubles.extend(halt(inner, wires, &moving).await.into_iter().map(|(_, why)| why));
    troubles
}

/// Writes down how a run ended, and what can be asked for next.
fn close(inner: &Arc<Inner>, number: u64, to: Situation, end: RunEnd, troubles: Vec<String>, in_truth: Vec<String>) {
    let now = inner.world.clock().now_ms();
    {
        let mut mind = inner.mind();
        mind.finish(now, end, troubles);
        let offers = match end {
            RunEnd::Ready | RunEnd::Sent | RunEnd::Stopped => vec![],
            RunEnd::Wrong | RunEnd::Failed => mind.offers(now, [to, Situation::Off]),
        };
        if let Some(run) = mind.run.as_mut().filter(|run| run.number == number) {
            (run.offers, run.in_truth) = (offers, in_truth);
        }
    }
    inner.touch();
}

fn derive_anew(inner: &Arc<Inner>, number: u64, to: Situation, now_ms: u64, why: String) -> Derived {
    let mut mind = inner.mind();
    let derived = mind.derive(now_ms, to);
    mind.amend(number, &derived.plan, now_ms, Some(format!("{why} The rest was derived anew.")));
    drop(mind);
    inner.touch();
    derived
}

async fn send_all(inner: &Arc<Inner>, wires: &Wires, plan: &Plan, start_ms: u64, number: u64) -> Result<u64, RunError> {
    let clock = inner.world.clock();
    let eyes = RunEyes { inner: inner.clone(), goals: plan.goals.clone() };
    let tell = |step: &kestrel_core::plan::Step, event: StepEvent| {
        let mut mind = inner.mind();
        let now = clock.now_ms();
        let state = match event {
            StepEvent::Sending => StepState::Sending,
            StepEvent::Sent => StepState::Sent,
            StepEvent::Failed(_) => StepState::Failed,
        };
        match event {
            StepEvent::Sent => mind.sent(step.device, step.function, now),
            StepEvent::Failed(_) if step.code.is_some() => mind.perhaps_sent(step.device, step.function, now),
            StepEvent::Sending => mind.telling(step.device, step.function, now),
            StepEvent::Failed(_) => {}
        }
        mind.step(number, plan.steps.len(), step.index, state);
        drop(mind);
        inner.touch();
    };
    runtime::execute(plan, wires, clock, start_ms, &eyes, tell).await
}

/// Waits until picture and sound must be there, or every device that they hang on says that it is.
async fn arrive(inner: &Arc<Inner>, plan: &Plan, since_ms: u64, ready_ms: u64, clock: &Clock) {
    let mut changes = inner.minded.subscribe();
    loop {
        let all = {
            let mind = inner.mind();
            // What is always on has nothing to say about it.
            let rests = |goal: &DeviceGoal| mind.site.automaton(goal.device).is_some_and(|machine| machine.never_off());
            let waits =
                |goal: &&DeviceGoal| (goal.needed && (goal.input.is_some() || !rests(goal))) || goal.position.is_some();
            let needed = || plan.goals.iter().filter(waits);
            needed().next().is_some()
                && needed().all(|goal| mind.settled(goal.device, Some(goal), since_ms, clock.now_ms()))
        };
        if all {
            return;
        }
        tokio::select! {
            () = clock.sleep_until(ready_ms) => return,
            () = clock.sleep(GLANCE_MS) => {}
            _ = changes.changed() => {}
        }
    }
}

fn heard_since(inner: &Arc<Inner>, device: DeviceId, since_ms: u64) -> bool {
    inner.mind().heard.get(&device).is_some_and(|heard| heard.at_ms >= since_ms && heard.lost == 0)
}

/// Asks the devices that are looked at.
async fn look(inner: &Arc<Inner>, wires: &Wires, plan: &Plan) {
    let devices: BTreeSet<DeviceId> = plan.looks.iter().map(|look| look.device).collect();
    ask(inner, wires, devices).await;
}

/// Asks every device that is wanted to be something and can tell.
async fn ask_all(inner: &Arc<Inner>, wires: &Wires, plan: &Plan) {
    let site = inner.world.site();
    let tells = |goal: &&DeviceGoal| site.profile_of(goal.device).is_some_and(|p| p.feedback != Feedback::None);
    let devices = plan.goals.iter().filter(tells).map(|goal| goal.device).collect();
    ask(inner, wires, devices).await;
}

async fn ask(inner: &Arc<Inner>, wires: &Wires, devices: BTreeSet<DeviceId>) {
    let questions = devices.into_iter().map(async |device| {
        let Ok(drive) = wires.eyes(device) else { return };
        let answer = drive.poll().await;
        let now = inner.world.clock().now_ms();
        match answer {
            Ok(report) => inner.hear(device, report, now),
            Err(error) => inner.mind().missed(device, &error.to_string(), now),
        }
    });
    futures::future::join_all(questions).await;
}

/// Where the room is not what the plan wants, with what the wire log says about it.
fn in_truth(inner: &Arc<Inner>, plan: &Plan, since_ms: u64) -> Vec<String> {
    let mut troubles = inner.world.with(|truth, _| truth.sim.differences(&plan.goals));
    if troubles.is_empty() {
        return troubles;
    }
    let site = inner.world.site();
    for line in inner.world.log().iter().filter(|line| line.at_ms >= since_ms && !line.routine) {
        for heard in &line.heard {
            if let Outcome::Ignored { why } = &heard.outcome {
                let device = site.device_name(heard.device);
                troubles.push(format!("{device} ignored “{}”: {why}.", heard.name));
            }
        }
        if line.heard.is_empty() && line.medium.is_some_and(kestrel_core::model::Medium::shared) {
            troubles.push(format!("Nobody understood {}.", line.meaning));
        }
    }
    troubles.dedup();
    troubles
}

/// Where a key drives a device that moves, for whoever sends single keys.
#[must_use]
pub(super) fn direction(inner: &Inner, device: DeviceId, function: FunctionId) -> Option<Standing> {
    let site = inner.world.site();
    let motion = site.profile_of(device)?.motion?;
    if function == motion.down {
        Some(Standing::Down)
    } else if function == motion.up {
        Some(Standing::Up)
    } else {
        site.automaton(device)?.named_stop(function).map(Standing::Stop)
    }
}
