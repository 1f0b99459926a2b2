//! What a verdict rests on: the waits, and how well each is known.
//!
//! A wait no shorter than n exchangeable observations covers the next one with probability at least
//! n/(n+1), whatever the distribution (order statistics, a standard result): nine measurements for 90 %. What
//! rests on the shortest reading (a list that must still be open, a coupling that may come early) is covered in the same
//! way; what rests on both ends is covered with (n−1)/(n+1), so 19 for 90 %. All of them hold together with at
//! least 1 − Σ 1/(nᵢ+1), or 1 − Σ 2/(nᵢ+1) for those at both ends.
//!
//! The waits are read off the courses that are proved: what could still be under way when a key is sent, if nobody
//! waited for it, is what the key rests on.

use super::ours::Sets;
use crate::device::group::{Cut, Group};
use crate::device::timed::{self, Residual, Timed};
use crate::device::{Joint, Letter, Target};
use crate::evidence;
use crate::id::DeviceId;
pub use crate::model::Ends;
use crate::model::{Basis, Effect, Profile, Selection, Site, Span, Standing, Timing};
use crate::plan::{Derived, ScriptStep};
use crate::words::seconds;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// A wait that the verdict needs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RestsOn {
    /// Of which device.
    pub device: DeviceId,
    /// What is waited for, in words.
    pub what: String,
    /// What a stopwatch would measure for it; none where nothing can be.
    pub timing: Option<Timing>,
    /// The interval and its basis.
    pub span: Span,
    /// Which end of it is needed.
    pub ends: Ends,
    /// Is it confirmed, or measured often enough?
    pub holds: bool,
    /// How many measurements are missing for that.
    pub lacks: u32,
    /// How sure it is, in %, where it was measured.
    pub coverage_percent: Option<u8>,
}

/// How surely all waits hold together, in % (rounded down); none where one was neither confirmed nor measured, or none
/// was measured.
#[must_use]
pub fn together(rests: &[RestsOn]) -> Option<u8> {
    let mut missed = 0.0;
    let mut measured = false;
    for rest in rests {
        match rest.span.basis {
            Basis::Confirmed => {}
            Basis::Measured { n, struck } => {
                measured = true;
                let ends = if rest.ends == Ends::Both { 2.0 } else { 1.0 };
                missed += (ends + f64::from(struck)) / (f64::from(n) + 1.0);
            }
            Basis::Profile | Basis::Assumed => return None,
        }
    }
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "between 0 and 100")]
    measured.then(|| ((1.0 - missed).max(0.0) * 100.0).floor() as u8)
}

/// What a wait is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Source {
    Own(Residual),
    /// The screen's or motor's travel to this place.
    Travel(Standing),
    /// What a coupling has on its way: the link.
    Event(usize),
}

type Needs = BTreeMap<(DeviceId, Source), Ends>;

/// The waits that a plan needs, from what is known of each group (and, for a plan that is right from everything, from
/// everything that each device may be in), the weakest first.
#[must_use]
pub fn rests_on(
    site: &Site,
    groups: &[Group<'_>],
    known: &Sets,
    everything: Option<&[Vec<Vec<Timed>>]>,
    derived: &Derived,
) -> Vec<RestsOn> {
    let mut rests = Vec::new();
    for (at, (group, starts)) in groups.iter().zip(known).enumerate() {
        let goal = |device: DeviceId| derived.plan.goals.iter().find(|goal| goal.device == device);
        let targets: Vec<Target> = group
            .members
            .iter()
            .map(|(device, machine)| goal(*device).map(|goal| goal.target(machine.profile())).unwrap_or_default())
            .collect();
        let needed: Vec<bool> =
            group.members.iter().map(|(device, _)| goal(*device).is_some_and(|goal| goal.needed)).collect();
        let script = &derived.scripts[at];
        let mut needs = Needs::new();
        let courses: Vec<&[ScriptStep]> = match &script.look {
            Some(look) => look.branches.iter().map(|(_, steps)| steps.as_slice()).collect(),
            None => vec![script.steps.as_slice()],
        };
        for steps in courses {
            let _ = follow(group, starts, steps, &targets, &needed, &mut needs);
            for (member, list) in everything.map(|all| all[at].as_slice()).unwrap_or_default().iter().enumerate() {
                // Alone: what other members do to it in between is among what is known of the group.
                let alone = Group::single(group.members[member].0, group.machine(member).clone());
                let own: Vec<ScriptStep> = alone_in(steps, member);
                let starts = list.iter().map(|&timed| Joint::of([timed])).collect();
                let _ = follow(&alone, &starts, &own, &targets[member..=member], &needed[member..=member], &mut needs);
            }
        }
        rests.extend(needs.into_iter().filter_map(|((device, source), ends)| told(site, group, device, source, ends)));
    }
    let strength = |rest: &RestsOn| match rest.span.basis {
        Basis::Assumed => 0,
        Basis::Profile => 1,
        Basis::Measured { n, struck } => 2 + n.saturating_sub(struck),
        Basis::Confirmed => u32::MAX,
    };
    rests.sort_by_key(|rest| (rest.holds, strength(rest), std::cmp::Reverse(rest.span.hi_ms)));
    rests.dedup_by(|a, b| a.what == b.what);
    rests
}

/// The keys of one member, each after the time since its last one.
fn alone_in(steps: &[ScriptStep], member: usize) -> Vec<ScriptStep> {
    let mut own = Vec::new();
    let mut since = crate::device::Window::default();
    for step in steps {
        since.lo_ms = since.lo_ms.saturating_add(step.after.lo_ms).min(timed::FOREVER_MS);
        since.hi_ms = since.hi_ms.saturating_add(step.after.hi_ms).min(timed::FOREVER_MS);
        if step.member == member {
            own.push(ScriptStep { member: 0, after: since, ..*step });
            since = crate::device::Window::default();
        }
    }
    own
}

/// Follows a script and notes what each key, and being ready, rests on.
fn follow(
    group: &Group<'_>,
    starts: &BTreeSet<Joint>,
    steps: &[ScriptStep],
    targets: &[Target],
    needed: &[bool],
    needs: &mut Needs,
) -> Result<(), Cut> {
    let mut set: BTreeSet<Joint> = starts.iter().map(|joint| group.relevant(joint.clone(), targets)).collect();
    for step in steps {
        let mut next = BTreeSet::new();
        for joint in &set {
            let device = group.members[step.member].0;
            let (machine, timed) = (group.machine(step.member), &joint.members[step.member]);
            for (kind, _) in timed::blocked(machine, timed, step.letter) {
                note(needs, device, source(kind, timed), Ends::Longest);
            }
            if timed.state.cursor.is_some() {
                // Either it is still open, or it has been waited out.
                let open = step.after.hi_ms < timed.closes.hi_ms;
                note(needs, device, Source::Own(Residual::List), if open { Ends::Shortest } else { Ends::Longest });
            }
            if matches!(step.letter, Letter::StopAt(_)) {
                // Where it is stopped by time hangs on how long the whole way takes.
                note(needs, device, Source::Travel(Standing::Down), Ends::Both);
            }
            for event in &joint.pending {
                let ends = if event.left.hi_ms <= step.after.lo_ms { Ends::Longest } else { Ends::Both };
                note(needs, group.members[group.links[event.link].from].0, Source::Event(event.link), ends);
            }
            for (before, _) in group.elapse(joint, step.after)? {
                for (after, _) in group.press(&before, step.member, step.letter) {
                    next.insert(group.relevant(after, targets));
                }
            }
        }
        if next.len() > 20_000 {
            return Err(Cut);
        }
        set = next;
    }
    for joint in &set {
        for event in &joint.pending {
            note(needs, group.members[group.links[event.link].from].0, Source::Event(event.link), Ends::Longest);
        }
        for (member, timed) in joint.members.iter().enumerate().filter(|(member, _)| needed[*member]) {
            let shows = |kind: &Residual| {
                matches!(kind, Residual::WarmUp | Residual::Picture | Residual::Input | Residual::Travel)
            };
            for (kind, _) in timed.under_way().iter().filter(|(kind, _)| shows(kind)) {
                note(needs, group.members[member].0, source(*kind, timed), Ends::Longest);
            }
        }
    }
    Ok(())
}

fn source(kind: Residual, timed: &Timed) -> Source {
    match kind {
        Residual::Travel => Source::Travel(timed.state.position),
        kind => Source::Own(kind),
    }
}

fn note(needs: &mut Needs, device: DeviceId, source: Source, ends: Ends) {
    let known = needs.entry((device, source)).or_insert(ends);
    if *known != ends {
        *known = Ends::Both;
    }
}

/// The interval behind a wait, and what it is called; none where it takes no time.
fn span_of(group: &Group<'_>, profile: &Profile, device: DeviceId, source: Source) -> Option<(Span, String)> {
    let times = &profile.times;
    let gap = Span { lo_ms: 0, hi_ms: times.gap_ms, basis: times.gap_basis };
    let machine = group.place(device).map(|member| group.machine(member))?;
    let (span, what) = match source {
        Source::Own(Residual::WarmUp) => (times.warm_up, "starting up".to_owned()),
        Source::Own(Residual::CoolDown) => (times.cool_down, "cooling".to_owned()),
        Source::Own(Residual::Picture) => {
            let state = crate::device::State { on: true, ..Default::default() };
            (machine.shows_after(state, Effect::WarmUp), "until its picture or sound is there".to_owned())
        }
        Source::Own(Residual::Input) => (times.input, "its input coming up".to_owned()),
        Source::Own(Residual::Gap) => (gap, "its pause after a command".to_owned()),
        Source::Own(Residual::List) => match profile.selection {
            Selection::Menu { closes_after, .. } => (closes_after, "its list closing by itself".to_owned()),
            _ => return None,
        },
        Source::Own(Residual::Pause) => {
            let ms = profile.motion?.reversal_ms;
            (Span { lo_ms: ms, ..Span::profile(ms, ms) }, "its motor standing still".to_owned())
        }
        Source::Own(Residual::Travel) => return None,
        Source::Travel(position) => {
            let state = crate::device::State { position, ..Default::default() };
            let way = if position == Standing::Up { "going up" } else { "going down" };
            (machine.settle(state, Effect::Travel), way.to_owned())
        }
        Source::Event(link) => return event_span(group, profile, link),
    };
    (span.hi_ms > 0).then_some((span, what))
}

/// What a coupling takes: the delay of the one that causes it, or of the one that follows.
fn event_span(group: &Group<'_>, profile: &Profile, link: usize) -> Option<(Span, String)> {
    let link = group.links.get(link)?;
    let target = group.machine(link.to).profile();
    let span = match (link.deed, target.power) {
        (crate::device::group::CouplingAct::Follow(_), crate::model::Power::Follows { delay }) => delay,
        _ => profile.couples?.delay,
    };
    (span.hi_ms > 0).then(|| (span, "switching what is coupled to it".to_owned()))
}

fn told(site: &Site, group: &Group<'_>, device: DeviceId, source: Source, ends: Ends) -> Option<RestsOn> {
    let profile = site.profile_of(device)?;
    let (span, doing) = span_of(group, &profile, device, source)?;
    let percent = site.house.coverage_percent;
    let timing = timing_of(source);
    let basis = timing.map_or(span.basis, |timing| evidence::basis(site, device, timing, span, ends));
    let span = Span { basis, ..span };
    let (holds, lacks, coverage_percent) = match span.basis {
        Basis::Confirmed => (true, 0, None),
        Basis::Measured { n, struck } => {
            let lacks = evidence::lacking(n, struck, ends, percent);
            (lacks == 0, lacks, Some(evidence::coverage(n, struck, ends)))
        }
        Basis::Profile | Basis::Assumed => (false, evidence::lacking(0, 0, ends, percent), None),
    };
    let ms = match ends {
        Ends::Longest => format!("up to {}", seconds(span.hi_ms)),
        Ends::Shortest => format!("at least {}", seconds(span.lo_ms)),
        Ends::Both => format!("{} to {}", seconds(span.lo_ms), seconds(span.hi_ms)),
    };
    let what = format!("{} {doing}, {ms}", site.device_name(device));
    Some(RestsOn { device, what, timing, span, ends, holds, lacks, coverage_percent })
}

/// What a stopwatch would measure for it.
fn timing_of(source: Source) -> Option<Timing> {
    Some(match source {
        Source::Own(Residual::WarmUp) => Timing::WarmUp,
        Source::Own(Residual::CoolDown) => Timing::CoolDown,
        Source::Own(Residual::Picture) => Timing::Picture,
        Source::Own(Residual::Input) => Timing::Input,
        Source::Own(Residual::Gap) => Timing::Gap,
        Source::Own(Residual::List) => Timing::ListCloses,
        Source::Own(Residual::Pause) => Timing::MotorPause,
        Source::Own(Residual::Travel) => return None,
        Source::Travel(Standing::Up) => Timing::TravelUp,
        Source::Travel(_) => Timing::TravelDown,
        Source::Event(_) => Timing::Coupling,
    })
}
