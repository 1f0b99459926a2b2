//! The telephone rings: what the client says is weighed against what can be wrong in the room, and the next question is the
//! one that tells most.
//!
//! Causes come from the engine (presses that are lost, states from which plans end wrong, waits that are only assumed, over
//! all last actions that fit) and from what it cannot know: a plug, a cable, a gateway, an address, a battery, an update,
//! mute, a paused source. The weight of a cause is (k + 10p)/(N + 10) with k of N closed calls of this house and p from
//! *common practice*; where nobody knows p it is Laplace's (k + 1)/(N + n). What was seen changes it by Bayes' rule. The
//! likelihoods are *common practice* too: they order causes and prove nothing.

mod causes;
mod evening;
#[cfg(test)]
mod tests;

use crate::commission::Run;
use crate::id::{DeviceId, RoomId};
use crate::model::{Site, Situation};
use crate::prove::Matrix;
use causes::{Known, causes};
pub use evening::{Trouble, trouble};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// What happened before.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Before {
    /// Mains were cut.
    PowerCut,
    /// A device was put in or exchanged.
    NewDevice,
    /// Something updated itself.
    Update,
    /// Children played with it, or somebody cleaned.
    Hands,
}

/// What the client says, in ticks; what was not said is absent.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub struct ClientSays {
    /// Is there a picture?
    #[serde(default)]
    pub picture: Option<bool>,
    /// Is there sound?
    #[serde(default)]
    pub sound: Option<bool>,
    /// Is the light as it should be?
    #[serde(default)]
    pub light: Option<bool>,
    /// Is the screen, or what moves, where it should be?
    #[serde(default)]
    pub screen: Option<bool>,
    /// Does the remote, the phone or the keypad do anything?
    #[serde(default)]
    pub remote: Option<bool>,
    /// After what.
    #[serde(default)]
    pub before: Option<Before>,
    /// What was asked for last; any, if none.
    #[serde(default)]
    pub to: Option<Situation>,
    /// Answers to questions, by their ids.
    #[serde(default)]
    pub answers: BTreeMap<String, bool>,
}

/// A cause, and how much speaks for it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = ServiceCause)]
pub struct Cause {
    /// By which it is counted in the log.
    pub id: String,
    /// At which device.
    pub device: Option<DeviceId>,
    /// In a sentence.
    pub text: String,
    /// What to try.
    pub remedy: String,
    /// What it would need, for the order list.
    pub order: Option<String>,
    /// Can it be kept as an evening, by which the house is tested from now on?
    pub becomes_story: bool,
    /// How likely it is among the causes, in %.
    pub percent: f64,
}

/// A question that a client can answer on the telephone.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = ServiceQuestion)]
pub struct Question {
    /// Its id.
    pub id: String,
    /// As it is asked.
    pub text: String,
}

/// What can be said so far.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ServiceView {
    /// Causes, the likeliest first.
    pub causes: Vec<Cause>,
    /// The question that splits them best; none where no answer would tell more.
    pub next: Option<Question>,
    /// How much its answer is expected to tell, in bits.
    pub tells_bits: f64,
    /// What to look at next, whatever it is: the least surprising check.
    pub check: String,
}

/// The least that a question has to tell to be asked, in bits.
const WORTH_BITS: f64 = 0.02;

/// Weighs what can be wrong. `log` counts the causes of closed calls of this house.
#[must_use]
pub fn weigh(
    site: &Site,
    room: RoomId,
    matrix: &Matrix,
    runs: &[Run],
    says: &ClientSays,
    log: &BTreeMap<String, u32>,
) -> ServiceView {
    let all = causes(site, room, matrix, runs, says, log);
    let total: f64 = all.iter().map(|known| known.weight).sum();
    let share = |known: &Known| if total > 0.0 { known.weight / total } else { 0.0 };
    let before = entropy(all.iter().map(&share));
    let mut best: Option<(f64, Question)> = None;
    for question in causes::questions(site, room, &all) {
        if says.answers.contains_key(&question.id) {
            continue;
        }
        let yes: Vec<(f64, f64)> = all.iter().map(|known| (share(known), known.answers(&question.id))).collect();
        let gain = gain(before, &yes);
        if gain > WORTH_BITS && best.as_ref().is_none_or(|(known, _)| gain > *known) {
            best = Some((gain, question));
        }
    }
    let run = asked_for(runs, says);
    let mut told: Vec<Cause> = all
        .iter()
        .map(|known| Cause {
            id: known.id.clone(),
            device: known.device,
            text: known.text.clone(),
            remedy: known.remedy.clone(),
            order: known.order.clone(),
            becomes_story: run
                .is_some_and(|run| trouble(site, room, &known.id, run.to, run.settled_ms().into()).is_some()),
            percent: (share(known) * 1000.0).round() / 10.0,
        })
        .collect();
    told.sort_by(|a, b| b.percent.total_cmp(&a.percent).then_with(|| a.id.cmp(&b.id)));
    let check = told.first().map_or_else(
        || "Ask for a photo of the room, and look at the last lines of the log.".to_owned(),
        |first| first.remedy.clone(),
    );
    told.truncate(12);
    let (tells_bits, next) = best.map_or((0.0, None), |(bits, question)| (bits, Some(question)));
    ServiceView { causes: told, next, tells_bits, check }
}

/// What was asked for last, as far as it is known: from off where that fits.
#[must_use]
pub fn asked_for<'a>(runs: &'a [Run], says: &ClientSays) -> Option<&'a Run> {
    let fits = |run: &&Run| says.to.map_or(run.to != Situation::Off, |to| run.to == to);
    runs.iter().filter(fits).min_by_key(|run| run.from != Situation::Off)
}

/// The entropy of a distribution, in bits.
fn entropy(shares: impl Iterator<Item = f64>) -> f64 {
    shares.filter(|p| *p > 0.0).map(|p| -p * p.log2()).sum()
}

/// What an answer is expected to tell, in bits: causes by their share, and how likely each answers *yes*.
fn gain(before: f64, causes: &[(f64, f64)]) -> f64 {
    let yes: f64 = causes.iter().map(|(share, yes)| share * yes).sum();
    let no = 1.0 - yes;
    let after = |of: f64, answers: &dyn Fn(f64) -> f64| {
        if of <= 0.0 {
            return 0.0;
        }
        of * entropy(causes.iter().map(|(share, yes)| share * answers(*yes) / of))
    };
    before - after(yes, &|yes| yes) - after(no, &|yes| 1.0 - yes)
}
