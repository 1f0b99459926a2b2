//! Changes by hand, carried out on chains.

use super::chain::{Send, keys_of};
use crate::device::Letter;
use crate::finding::Finding;
use crate::id::{DeviceId, FunctionId};
use crate::model::{FindingKind, HandChange, PlanChange, Site, Situation};
use crate::words::seconds;

/// The changes of one plan, in their order.
pub(super) fn of(changes: &[HandChange], from: Option<Situation>, to: Situation) -> Vec<PlanChange> {
    changes.iter().filter(|known| Some(known.from) == from && known.to == to).map(|known| known.change).collect()
}

/// Is this letter never to be sent to this device? A number is not where one of its digits is not, a stop by time is not
/// where the stop key is not.
pub(super) fn forbids(site: &Site, changes: &[PlanChange], device: DeviceId, letter: Letter) -> bool {
    let mut forbidden = changes.iter().filter_map(|change| match *change {
        PlanChange::Forbid { device: own, function } => (own == device).then_some(function),
        _ => None,
    });
    forbidden.any(|function| keys_of(site, device, letter).contains(&function))
}

/// What one change does to a chain; false where it finds no command to change.
fn change(site: &Site, sends: &mut Vec<Send>, change: &PlanChange, findings: &mut Vec<Finding>) -> bool {
    let find = |sends: &[Send], device: DeviceId, function: FunctionId, nth: u32| {
        let same = sends.iter().enumerate().filter(|(_, send)| send.device == device && send.function == function);
        same.map(|(at, _)| at).nth(usize::try_from(nth).unwrap_or(usize::MAX))
    };
    match *change {
        PlanChange::Forbid { .. } => true,
        PlanChange::Pin { device, function, nth, at_ms } => {
            let Some(at) = find(sends, device, function, nth) else { return false };
            sends[at].pin_ms = Some(at_ms);
            sends[at].by_hand = true;
            true
        }
        PlanChange::Wait { device, function, nth, ms } => {
            let Some(at) = find(sends, device, function, nth) else { return false };
            let send = &mut sends[at];
            (send.wait_ms, send.by_hand) = (ms, true);
            if ms < send.evidence_ms {
                let evidence_ms = send.evidence_ms;
                let kind = FindingKind::ShorterThanEvidence { device, function, ms, evidence_ms };
                findings.push(Finding::of(site, kind));
            }
            if let Some(closes_ms) = send.within_ms.filter(|within| ms > *within) {
                findings.push(Finding::of(site, FindingKind::LongerThanList { device, function, ms, closes_ms }));
                send.within_ms = None;
            }
            true
        }
        PlanChange::Add { device, function, after_ms } => {
            let Some(at) = sends.iter().rposition(|send| send.device == device) else { return false };
            let send = Send { by_hand: true, ..Send::single(site, device, function, after_ms) };
            sends.insert(at + 1, send);
            true
        }
    }
}

/// Carries changes out on the chains; gives the sentences of those that fit nothing.
pub(super) fn carry_out(
    site: &Site,
    chains: &mut [Vec<Send>],
    changes: &[PlanChange],
    findings: &mut Vec<Finding>,
) -> Vec<String> {
    let mut misfits = Vec::new();
    for known in changes {
        let (device, function) = known.about();
        let there = chains.iter_mut().any(|sends| change(site, sends, known, findings));
        if !there {
            let what = match known {
                PlanChange::Pin { at_ms, .. } => format!("start “{{}}” of {{}} at {}", seconds(*at_ms)),
                PlanChange::Wait { ms, .. } => format!("wait {} before “{{}}” of {{}}", seconds(*ms)),
                PlanChange::Add { .. } => "send “{}” to {} once more".to_owned(),
                PlanChange::Forbid { .. } => "never send “{}” to {}".to_owned(),
            };
            let (function, device) = (site.function_name(device, function), site.device_name(device));
            misfits.push(what.replacen("{}", &function, 1).replacen("{}", &device, 1));
        }
    }
    misfits
}
