//! Executing a plan: every command at its time, never before the one it follows has settled.
//!
//! Commands that share a medium go out in the order of the plan, media and wires side by side. A command keeps its
//! distance from the one before it on the same device even where that one was late; one that comes
//! after its latest time (the list has closed) ends the run, because what follows would be wrong.

use crate::clock::Clock;
use crate::driver::DriverError;
use crate::wires::{Wires, lane};
use kestrel_core::id::DeviceId;
use kestrel_core::plan::{Plan, Step, seconds};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::{Mutex, PoisonError};
use thiserror::Error;

/// What happened to a step.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum StepEvent {
    /// It goes out.
    Sending,
    /// It went out; its last silence has passed.
    Sent,
    /// It did not.
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
        /// Why.
        error: DriverError,
    },
    /// A command has no code.
    #[error("“{0}” has no code. Learn it in Codes.")]
    NoCode(String),
    /// A list has closed before its next key.
    #[error("“{name}” came {late} too late: the list had closed. Run it again.")]
    Late {
        /// The command.
        name: String,
        /// By how much.
        late: String,
    },
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
    tell: impl Fn(&Step, StepEvent) + Sync,
) -> Result<u64, RunError> {
    // How much later than planned each device's last command ended.
    let late = Mutex::new(BTreeMap::<DeviceId, u64>::new());
    let lanes: BTreeSet<_> = plan.steps.iter().map(|step| lane(step.medium, step.device)).collect();
    let run = async |own| {
        for step in plan.steps.iter().filter(|step| lane(step.medium, step.device) == own) {
            send(step, wires, clock, start_ms, &late, &tell).await?;
        }
        Ok(())
    };
    futures::future::try_join_all(lanes.into_iter().map(run)).await?;
    let behind = late.lock().unwrap_or_else(PoisonError::into_inner).values().copied().max().unwrap_or(0);
    Ok(start_ms + u64::from(plan.ready_ms) + behind)
}

async fn send(
    step: &Step,
    wires: &Wires,
    clock: &Clock,
    start_ms: u64,
    late: &Mutex<BTreeMap<DeviceId, u64>>,
    tell: &(impl Fn(&Step, StepEvent) + Sync),
) -> Result<(), RunError> {
    let name = || step.name.clone();
    let fail = |error: RunError| {
        tell(step, StepEvent::Failed(error.to_string()));
        error
    };
    let shift = late.lock().unwrap_or_else(PoisonError::into_inner).get(&step.device).copied().unwrap_or(0);
    clock.sleep_until(start_ms + shift + u64::from(step.start_ms)).await;
    if let Some(latest_ms) = step.latest_ms {
        let latest = start_ms + shift + u64::from(latest_ms);
        let over = clock.now_ms().saturating_sub(latest);
        if over > 0 {
            let late = seconds(u32::try_from(over).unwrap_or(u32::MAX));
            return Err(fail(RunError::Late { name: name(), late }));
        }
    }
    let Some(code) = &step.code else { return Err(fail(RunError::NoCode(name()))) };
    tell(step, StepEvent::Sending);
    let sent = wires.send(step.device, code, step.press, step.frames, clock.rate()).await;
    sent.map_err(|error| fail(RunError::Driver { name: name(), error }))?;
    let behind = clock.now_ms().saturating_sub(start_ms + u64::from(step.end_ms));
    late.lock().unwrap_or_else(PoisonError::into_inner).insert(step.device, behind);
    tell(step, StepEvent::Sent);
    Ok(())
}
