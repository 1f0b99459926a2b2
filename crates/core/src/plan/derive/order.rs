//! The order: what holds a job back, and what a send occupies.

use super::{Chain, Deriver};
use crate::device::Group;
use crate::finding::Finding;
use crate::id::DeviceId;
use crate::model::{DeviceKind, Effect, FindingKind, Goes, Medium, OrderRule, Situation, When};
use crate::plan::KeptRule;
use crate::plan::chain::Send;
use crate::plan::jobs::{Before, Job, Op};

impl Deriver<'_> {
    pub(super) fn job(&self, sends: &[Send], chain: &Chain) -> Job {
        let look = chain.look.as_ref().map_or(0, |look| look.ms);
        let head_ms = look + sends.first().map_or(0, |send| send.wait_ms);
        let op = |(at, send): (usize, &Send)| {
            let next = sends.get(at + 1);
            let shows_ms = send.shows.hi_ms;
            Op {
                media: self.media.media(send),
                send_ms: send.send_ms,
                lag_ms: next.map_or(0, |next| next.wait_ms),
                within_ms: next.and_then(|next| next.within_ms),
                shows_ms,
                settles_ms: shows_ms.max(send.settle.hi_ms),
                needed: send.needed,
                pin_ms: send.pin_ms,
            }
        };
        Job { head_ms, ops: sends.iter().enumerate().map(op).collect() }
    }

    /// What goes before what: links, hidden devices, built-in rules and the room's own.
    pub(super) fn before(
        &self,
        sends: &[Vec<Send>],
        arrival_from: usize,
        links: &[(usize, usize, u32)],
        notes: &mut Vec<Finding>,
    ) -> (Vec<Before>, Vec<KeptRule>) {
        let site = self.request.site;
        let mut before = Vec::new();
        let mut kept = Vec::new();
        let ends = |job: usize| sends[job].len().checked_sub(1);
        let mut first_then = |first: usize, then: usize, lag_ms: u32| {
            if let (Some(end), false) = (ends(first), sends[then].is_empty() || first == then) {
                before.push(Before { first: (first, end), then: (then, 0), lag_ms });
            }
        };
        for &(first, then, lag_ms) in links {
            first_then(first, then, lag_ms);
        }
        let owner = |job: usize| sends[job].first().map(|send| send.device);
        let kind = |device: DeviceId| site.model_of(device).map(|profile| profile.kind);
        let starting = matches!(self.request.to, Situation::In { .. });
        // Lights first.
        for light in arrival_from..sends.len() {
            for other in 0..arrival_from {
                first_then(light, other, 0);
            }
        }
        if arrival_from < sends.len() {
            let text = "Light first: nobody comes into a dark room (built in).";
            kept.push(KeptRule { text: text.to_owned(), built_in: true });
        }
        // Power amplifiers last on, first off.
        for job in 0..arrival_from {
            let Some(device) = owner(job).filter(|&device| kind(device) == Some(DeviceKind::Amplifier)) else {
                continue;
            };
            for other in (0..arrival_from)
                .filter(|&other| other != job && owner(other).and_then(kind) != Some(DeviceKind::Amplifier))
            {
                if starting { first_then(other, job, 0) } else { first_then(job, other, 0) }
            }
            let name = site.device_name(device);
            let text = if starting {
                format!("{name} last: a power amplifier comes on when everything before it is quiet (built in).")
            } else {
                format!(
                    "{name} first: a power amplifier goes off before what it amplifies, so that nothing thumps (built in)."
                )
            };
            kept.push(KeptRule { text, built_in: true });
        }
        self.own_rules(sends, starting, &mut first_then, &mut kept);
        self.hidden(sends, &mut before, &mut kept, notes);
        (before, kept)
    }

    /// The order rules of the room.
    fn own_rules(
        &self,
        sends: &[Vec<Send>],
        starting: bool,
        first_then: &mut impl FnMut(usize, usize, u32),
        kept: &mut Vec<KeptRule>,
    ) {
        let site = self.request.site;
        let job_of =
            |device: DeviceId| sends.iter().position(|own| own.first().is_some_and(|send| send.device == device));
        let own: &[OrderRule] = site.room(self.request.room).map_or(&[], |room| &room.plans.rules);
        for rule in own {
            let applies = match rule.when {
                When::Always => true,
                When::Starting => starting,
                When::Stopping => !starting,
            };
            let Some(job) = job_of(rule.device).filter(|_| applies) else { continue };
            let name = site.device_name(rule.device);
            let text = match rule.goes {
                Goes::First => {
                    (0..sends.len()).for_each(|other| first_then(job, other, 0));
                    format!("{name} first (a rule of this room).")
                }
                Goes::Last => {
                    (0..sends.len()).for_each(|other| first_then(other, job, 0));
                    format!("{name} last (a rule of this room).")
                }
                Goes::After { other } => {
                    let Some(first) = job_of(other) else { continue };
                    first_then(first, job, 0);
                    format!("{name} after {} (a rule of this room).", site.device_name(other))
                }
            };
            kept.push(KeptRule { text, built_in: false });
        }
    }

    /// A device that a screen cuts off is told what it has to do while the screen is up.
    pub(super) fn hidden(
        &self,
        sends: &[Vec<Send>],
        before: &mut Vec<Before>,
        kept: &mut Vec<KeptRule>,
        notes: &mut Vec<Finding>,
    ) {
        let site = self.request.site;
        for (job, own) in sends.iter().enumerate() {
            let Some(first) = own.first() else { continue };
            if !own.iter().any(|send| send.medium == Medium::Ir) {
                continue;
            }
            for screen in self.cut_off_by(first.device) {
                let (name, screen_name) = (site.device_name(first.device), site.device_name(screen));
                let moves = sends.iter().enumerate().find_map(|(other, sends)| {
                    let travel = |send: &Send| send.device == screen && send.effect == Effect::Travel;
                    sends.iter().rposition(travel).map(|place| (other, place, sends[place]))
                });
                match moves {
                    Some((other, place, travel)) => {
                        let up = site.profile_of(screen).and_then(|profile| profile.motion).map(|motion| motion.up);
                        if up == Some(travel.function) {
                            before.push(Before { first: (other, place), then: (job, 0), lag_ms: travel.settle.hi_ms });
                            let text = format!(
                                "{name} after {screen_name} is up: it is cut off from its emitter before (built in)."
                            );
                            kept.push(KeptRule { text, built_in: true });
                        } else {
                            before.push(Before { first: (job, own.len() - 1), then: (other, place), lag_ms: 0 });
                            let text = format!(
                                "{name} before {screen_name} comes down: it is cut off from its emitter then (built in)."
                            );
                            kept.push(KeptRule { text, built_in: true });
                        }
                    }
                    None => {
                        let down = self
                            .goals
                            .get(&screen)
                            .and_then(|goal| goal.position)
                            .is_some_and(|to| to != crate::model::Position::Up);
                        if down {
                            let kind = FindingKind::CutOff { device: first.device, screen };
                            notes.push(Finding::of(site, kind));
                        }
                    }
                }
            }
        }
    }

    /// The screens that cut a device off from its emitter while they are down.
    fn cut_off_by(&self, device: DeviceId) -> Vec<DeviceId> {
        let of_group = |group: &Group<'_>| {
            let member = group.place(device)?;
            let own = group.screens.iter().filter(|own| own.hidden == member);
            Some(own.map(|own| group.members[own.screen].0).collect())
        };
        self.request.groups.iter().find_map(of_group).unwrap_or_default()
    }
}
