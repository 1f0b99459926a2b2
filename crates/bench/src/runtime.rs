//! Executing a plan: every command at its time, never before the one it follows has settled.
//!
//! Commands that share a medium go out in the order of the plan, media and wires side by side. A command keeps its
//! distance from the one before it on the same device even where that one was late; one that comes
//! after its latest time (the list has closed) ends the run, because what follows would be wrong.
//!
//! Where a device tells what it is doing, a wait for it ends as soon as it says so (*closed loop*), once every
//! command that the plan has before it is out; at the end of the interval it ends in any case. A
//! device that says it is something else than it was told to be ends the run, which is then derived anew.

use crate::clock::Clock;
use crate::drive::DriverError;
use crate::wires::{Wires, lane};
use kestrel_core::id::{DeviceId, FunctionId};
use kestrel_core::model::Effect;
use kestrel_core::plan::{Plan, Step};
use kestrel_core::words::seconds;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::{Arc, Mutex, PoisonError};
use thiserror::Error;
use tokio::sync::watch;

/// What happened to a step.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum StepEvent {
    /// It goes out.
    Sending,
    /// It went out; its last silence has passed.
    Sent,
    /// It did not, or nobody knows.
    Failed(String),
}

/// Why a run ended early.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum RunError {
    /// A command did not go out.
    #[error("“{name}” did not go out: {error}.")]
    Driver {
        /// The command.
        name: String,
        /// To which device.
        device: DeviceId,
        /// Why.
        error: DriverError,
    },
    /// A command has no code.
    #[error("“{0}” has no code. Learn it in Codes.")]
    NoCode(String),
    /// A list has closed before its next key.
    #[error("“{name}” came {late} too late: the list had closed.")]
    Late {
        /// The command.
        name: String,
        /// By how much.
        late: String,
    },
    /// A device says that it is something else.
    #[error("{0} says that it is not what it was told to be.")]
    Contradicted(String),
}

impl RunError {
    /// Can a plan from what is known now succeed where this one did not?
    #[must_use]
    pub fn derivable(&self) -> bool {
        self.refused_by().is_some() || matches!(self, Self::Late { .. } | Self::Contradicted(_))
    }

    /// The device that did not want the command now: it is in something else than was believed.
    #[must_use]
    pub fn refused_by(&self) -> Option<DeviceId> {
        match self {
            Self::Driver { device, error: DriverError::DeviceRefused(_), .. } => Some(*device),
            _ => None,
        }
    }
}

/// What the runtime has seen, as a run needs to know it.
pub trait Eyes: Send + Sync {
    /// Has this device said, after `since_ms`, that it is settled as it should be?
    fn settled(&self, device: DeviceId, since_ms: u64) -> bool;
    /// The name of a device that has said that it is something else, since the run began.
    fn contradicted(&self) -> Option<String>;
    /// Changes whenever something is seen.
    fn changes(&self) -> watch::Receiver<u64>;
    /// The right to send to a device: whoever sends takes it first.
    fn writer(&self, device: DeviceId) -> Arc<tokio::sync::Mutex<()>>;
    /// How long the last command, whoever sent it, may still make a device deaf, in ms.
    fn deaf_ms(&self, device: DeviceId) -> u64;
    /// Would this key reverse a motor that, by what is believed now, may still run or has to stand still?
    fn reverses(&self, device: DeviceId, function: FunctionId) -> bool;
}

/// How the steps of one run move against their plan.
struct Run<'a> {
    plan: &'a Plan,
    wires: &'a Wires,
    clock: &'a Clock,
    start_ms: u64,
    eyes: &'a dyn Eyes,
    /// How much later (or sooner) than planned each device's last command ended, in ms.
    shifts: Mutex<BTreeMap<DeviceId, i64>>,
    /// The steps that are out, by their index.
    out: Mutex<BTreeSet<usize>>,
}

/// Sends the steps of a plan whose time 0 is `start_ms` on the clock; gives the simulated time at
/// which picture and sound should be there.
///
/// # Errors
/// A [`RunError`] at the first step that cannot be sent; later ones are not tried.
pub async fn execute(
    plan: &Plan,
    wires: &Wires,
    clock: &Clock,
    start_ms: u64,
    eyes: &dyn Eyes,
    tell: impl Fn(&Step, StepEvent) + Sync,
) -> Result<u64, RunError> {
    let run = Run { plan, wires, clock, start_ms, eyes, shifts: Mutex::default(), out: Mutex::default() };
    let lanes: BTreeSet<_> = plan.steps.iter().map(|step| lane(step.medium, step.device)).collect();
    let send = async |own| {
        for step in plan.steps.iter().filter(|step| lane(step.medium, step.device) == own) {
            run.send(step, &tell).await?;
        }
        Ok(())
    };
    futures::future::try_join_all(lanes.into_iter().map(send)).await?;
    let shifts = run.shifts.lock().unwrap_or_else(PoisonError::into_inner);
    // Without a command of its own a device keeps the time of the plan, so nothing counts as sooner.
    let behind = shifts.values().copied().max().unwrap_or(0).max(0);
    Ok(later(start_ms + u64::from(plan.ready_ms.unwrap_or(0)), behind))
}

fn later(ms: u64, shift: i64) -> u64 {
    ms.saturating_add_signed(shift)
}

impl Run<'_> {
    /// Waits until a step is due: at its time, or sooner once what it waits for has been seen.
    async fn due(&self, step: &Step, at_ms: u64) {
        let Some(since_ms) = self.waits_since(step) else { return self.clock.sleep_until(at_ms).await };
        let mut changes = self.eyes.changes();
        loop {
            let settled = self.eyes.settled(step.device, since_ms) && self.earlier_are_out(step);
            if settled || self.eyes.contradicted().is_some() {
                return;
            }
            tokio::select! {
                () = self.clock.sleep_until(at_ms) => return,
                _ = changes.changed() => {}
            }
        }
    }

    /// Since when a wait that feedback can end is under way for this step; `None` where there is none.
    fn waits_since(&self, step: &Step) -> Option<u64> {
        if step.latest_ms.is_some() {
            return None;
        }
        let ends = |wait: &&kestrel_core::plan::Wait| {
            wait.device == step.device
                && matches!(wait.effect, Effect::WarmUp | Effect::Input)
                && wait.to_ms <= step.start_ms
                && wait.from_ms < step.start_ms
        };
        let wait = self.plan.waits.iter().filter(ends).max_by_key(|wait| wait.to_ms)?;
        // Another command between the wait and this one: what was seen is of before.
        let between =
            self.plan.steps.iter().any(|other| {
                other.device == step.device && other.start_ms >= wait.to_ms && other.start_ms < step.start_ms
            });
        (!between).then(|| later(self.start_ms + u64::from(wait.from_ms), self.shift(step.device)))
    }

    /// Has everything gone out that the plan has before this step? Then it may go sooner without changing an order.
    fn earlier_are_out(&self, step: &Step) -> bool {
        let out = self.out.lock().unwrap_or_else(PoisonError::into_inner);
        self.plan.steps.iter().filter(|other| other.start_ms < step.start_ms).all(|other| out.contains(&other.index))
    }

    fn shift(&self, device: DeviceId) -> i64 {
        self.shifts.lock().unwrap_or_else(PoisonError::into_inner).get(&device).copied().unwrap_or(0)
    }

    async fn send(&self, step: &Step, tell: &(impl Fn(&Step, StepEvent) + Sync)) -> Result<(), RunError> {
        let name = || step.name.clone();
        let fail = |error: RunError| {
            tell(step, StepEvent::Failed(error.to_string()));
            error
        };
        let shift = self.shift(step.device);
        self.due(step, later(self.start_ms + u64::from(step.start_ms), shift)).await;
        if let Some(device) = self.eyes.contradicted() {
            return Err(RunError::Contradicted(device));
        }
        if let Some(latest_ms) = step.latest_ms {
            let latest = later(self.start_ms + u64::from(latest_ms), shift);
            let over = self.clock.now_ms().saturating_sub(latest);
            if over > 0 {
                let late = seconds(u32::try_from(over).unwrap_or(u32::MAX));
                return Err(fail(RunError::Late { name: name(), late }));
            }
        }
        let Some(code) = &step.code else { return Err(fail(RunError::NoCode(name()))) };
        let _writer = self.eyes.writer(step.device).lock_owned().await;
        let deaf_ms = self.eyes.deaf_ms(step.device);
        if deaf_ms > 0 && self.clock.rate() > 0.0 {
            self.clock.sleep(deaf_ms).await;
        }
        if self.eyes.reverses(step.device, step.function) {
            // Another hand has moved it since the plan was made.
            return Err(RunError::Contradicted(format!("The motor behind “{}”", step.name)));
        }
        tell(step, StepEvent::Sending);
        let sent = self.wires.send(step.device, code, step.press, step.frames).await;
        sent.map_err(|error| fail(RunError::Driver { name: name(), device: step.device, error }))?;
        let planned = self.start_ms + u64::from(step.end_ms);
        let shift = i64::try_from(self.clock.now_ms()).unwrap_or(i64::MAX) - i64::try_from(planned).unwrap_or(i64::MAX);
        self.shifts.lock().unwrap_or_else(PoisonError::into_inner).insert(step.device, shift);
        self.out.lock().unwrap_or_else(PoisonError::into_inner).insert(step.index);
        tell(step, StepEvent::Sent);
        Ok(())
    }
}
