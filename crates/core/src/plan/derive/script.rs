//! The plan as it is read, and the scripts of its groups as they are proved and run.

use super::request::{LookScript, Script, ScriptStep};
use super::{Chain, Deriver, PlannedLook};
use crate::codes::paths::gateways_near;
use crate::device::homing::{self, Word};
use crate::device::look::Seen;
use crate::device::timed::FOREVER_MS;
use crate::device::{Letter, Window};
use crate::finding::Finding;
use crate::id::{DeviceId, FunctionId};
use crate::model::{Effect, FindingKind, Site, Span};
use crate::plan::chain::{self, Send};
use crate::plan::run;
use crate::plan::schedule::Scheduled;
use crate::plan::{Branch, BranchCommand, LookFirst, Plan, Step, Wait, medium_of, press_of};
use crate::space::way::{Hitch, way};
use crate::words::seconds;
use std::collections::{BTreeMap, BTreeSet};

/// A key of a group's script, as it came out of a chain.
#[derive(Clone, Copy)]
struct KeyAt {
    group: usize,
    chain: usize,
    letter: Letter,
    device: DeviceId,
    at_ms: u32,
    window: Window,
    /// Its step, in the order in which chains were written.
    step: usize,
}

/// Puts steps and waits in the order of time; where each step went.
fn in_order(plan: &mut Plan) -> Vec<usize> {
    let mut order: Vec<usize> = (0..plan.steps.len()).collect();
    order.sort_by_key(|&at| (plan.steps[at].start_ms, plan.steps[at].device, at));
    let mut place = vec![0; order.len()];
    for (new, &old) in order.iter().enumerate() {
        place[old] = new;
    }
    plan.steps.sort_by_key(|step| place[step.index]);
    for (index, step) in plan.steps.iter_mut().enumerate() {
        step.index = index;
    }
    plan.waits.sort_by_key(|wait| (wait.from_ms, wait.device));
    place
}

/// What has to be waited for before the first command of a chain.
fn busy_from_before(device: DeviceId, from_ms: u32, ms: u32) -> Wait {
    Wait {
        device,
        effect: Effect::None,
        from_ms,
        to_ms: from_ms + ms,
        span: Span::assumed(0, ms),
        label: format!("busy from before · ≤ {}", seconds(ms)),
        critical: false,
    }
}

/// What settles after a command.
fn settles(send: &Send, end_ms: u32) -> Option<Wait> {
    let span = if send.shows.hi_ms > send.settle.hi_ms { send.shows } else { send.settle };
    (span.hi_ms > 0).then(|| Wait {
        device: send.device,
        effect: send.effect,
        from_ms: end_ms,
        to_ms: end_ms + span.hi_ms,
        span,
        label: wait_label(send.effect, span),
        critical: false,
    })
}

impl Deriver<'_> {
    /// Steps and waits with their times, and the scripts of the groups.
    pub(super) fn write(
        &self,
        chains: &[Chain],
        sends: &[Vec<Send>],
        scheduled: &Scheduled,
        plan: &mut Plan,
    ) -> Vec<Script> {
        let mut keys: Vec<KeyAt> = Vec::new();
        let mut counted: BTreeMap<(DeviceId, FunctionId), u32> = BTreeMap::new();
        for (at, (chain, own)) in chains.iter().zip(sends).enumerate() {
            self.write_chain((at, chain), own, scheduled, &mut counted, plan, &mut keys);
        }
        let place = in_order(plan);
        self.scripts(chains, keys, &place)
    }

    /// Steps and waits of one chain; its keys, where it is that of a group.
    fn write_chain(
        &self,
        (at, chain): (usize, &Chain),
        own: &[Send],
        scheduled: &Scheduled,
        counted: &mut BTreeMap<(DeviceId, FunctionId), u32>,
        plan: &mut Plan,
        keys: &mut Vec<KeyAt>,
    ) {
        let starts = &scheduled.starts_ms[at];
        let look_ms = chain.look.as_ref().map_or(0, |look| look.ms);
        let head = own.first().map_or(0, |send| send.wait_ms);
        if let Some(look) = &chain.look {
            plan.looks.push(self.look(chain, look));
        }
        if let Some(first) = own.first()
            && head > 0
        {
            let critical = scheduled.is_critical(at, 0);
            plan.waits.push(Wait { critical, ..busy_from_before(first.device, look_ms, head) });
        }
        let (mut last_end, mut since) = (look_ms, Window::default());
        for (number, (send, &start_ms)) in own.iter().zip(starts).enumerate() {
            let end_ms = start_ms + send.send_ms;
            let critical = scheduled.is_critical(at, number);
            let before_ms = if number == 0 { look_ms } else { starts[number - 1] + own[number - 1].send_ms };
            let nth = counted.entry((send.device, send.function)).or_default();
            let latest_ms = send.within_ms.filter(|_| number > 0).map(|within| before_ms + within);
            let step = self.step(send, plan.steps.len(), [start_ms, end_ms], latest_ms, *nth);
            plan.steps.push(Step { critical, ..step });
            *nth += 1;
            since.lo_ms += send.wait_ms + send.send_ms;
            since.hi_ms = match send.within_ms {
                Some(within) if number > 0 => since.hi_ms.saturating_add(within.max(send.wait_ms) + send.send_ms),
                _ if send.pin_ms.is_some() => since.hi_ms.max(end_ms - last_end),
                _ => FOREVER_MS,
            };
            if let Some(letter) = send.letter
                && chain.group != usize::MAX
            {
                let window = Window { lo_ms: since.lo_ms, hi_ms: since.hi_ms.max(since.lo_ms).min(FOREVER_MS) };
                keys.push(KeyAt {
                    group: chain.group,
                    chain: at,
                    letter,
                    device: send.device,
                    at_ms: end_ms,
                    window,
                    step: plan.steps.len() - 1,
                });
                (since, last_end) = (Window::default(), end_ms);
            }
            plan.waits.extend(settles(send, end_ms).map(|wait| Wait { critical, ..wait }));
        }
    }

    /// A send as a step of the plan.
    fn step(&self, send: &Send, index: usize, [start_ms, end_ms]: [u32; 2], latest_ms: Option<u32>, nth: u32) -> Step {
        let site = self.request.site;
        let (press, frames) = press_of(site, send.device, send.function);
        Step {
            index,
            device: send.device,
            function: send.function,
            name: site.function_name(send.device, send.function),
            medium: send.medium,
            start_ms,
            end_ms,
            latest_ms,
            code: site.code(send.device, send.function).map(|code| code.body.clone()),
            press,
            frames,
            why: self.why(send),
            critical: false,
            nth,
            by_hand: send.by_hand,
        }
    }

    /// The scripts of the groups: their keys in the order of time, each with the window in which it comes.
    fn scripts(&self, chains: &[Chain], mut keys: Vec<KeyAt>, place: &[usize]) -> Vec<Script> {
        let mut scripts: Vec<Script> = self.request.groups.iter().map(|_| Script::default()).collect();
        keys.sort_by_key(|key| (key.group, key.at_ms, place[key.step]));
        for (at, &KeyAt { group, chain, letter, device, at_ms, window, step }) in keys.iter().enumerate() {
            let own = &self.request.groups[group];
            let Some(member) = own.place(device) else { continue };
            // Chains of one group side by side: each key comes as planned, or somewhat later.
            let before = keys[..at].iter().rev().find(|key| key.group == group);
            let after = match before {
                Some(before) if before.chain != chain => {
                    let planned = at_ms - before.at_ms;
                    Window { lo_ms: planned, hi_ms: planned + run::LATE_MS }
                }
                None if !own.links.is_empty() => Window { lo_ms: at_ms, hi_ms: at_ms + run::LATE_MS },
                _ => window,
            };
            scripts[group].steps.push(ScriptStep { member, letter, at_ms, after, step: Some(place[step]) });
        }
        for chain in chains.iter().filter(|chain| chain.group != usize::MAX) {
            if let Some(look) = &chain.look {
                let branch = |(number, (seen, word)): (usize, &(Seen, Word))| {
                    if number == look.worst {
                        return (*seen, std::mem::take(&mut scripts[chain.group].steps));
                    }
                    (*seen, script_of(word))
                };
                let branches = look.branches.iter().enumerate().map(branch).collect();
                scripts[chain.group].look = Some(LookScript { ms: look.ms, branches });
            }
        }
        scripts
    }

    pub(super) fn digit(&self, send: &Send) -> bool {
        let name = self.request.site.function_name(send.device, send.function);
        name.len() == 1 && name.bytes().all(|byte| byte.is_ascii_digit())
    }

    pub(super) fn why(&self, send: &Send) -> String {
        if send.by_hand && !send.needed {
            return "Added by hand.".to_owned();
        }
        match self.goals.get(&send.device) {
            // All but the last digit of a number complete nothing yet.
            Some(goal) if send.letter.is_none() && goal.app.is_some() && self.digit(send) => goal.why.clone(),
            Some(goal) if send.letter.is_none() && goal.volume.is_some() => {
                format!("It starts at volume {}.", goal.volume.unwrap_or(0))
            }
            Some(_) if send.letter.is_none() => "The arrival look.".to_owned(),
            Some(goal) => goal.why.clone(),
            None => "The arrival look.".to_owned(),
        }
    }

    pub(super) fn look(&self, chain: &Chain, look: &PlannedLook) -> LookFirst {
        let site = self.request.site;
        let (device, machine) = &self.request.groups[chain.group].members[0];
        let branch = |(number, (seen, word)): (usize, &(Seen, Word))| {
            let mut at = 0;
            let commands = chain::spell(site, word, |_| true).into_iter().map(|send| {
                let start_ms = at + send.wait_ms;
                at = start_ms + send.send_ms;
                BranchCommand { function: send.function, name: site.function_name(*device, send.function), start_ms }
            });
            Branch {
                on: seen.on,
                input: seen.input,
                seen: seen.in_words(machine.profile()),
                commands: commands.collect(),
                ready_ms: word.cost.seen_ms,
                worst: number == look.worst,
            }
        };
        LookFirst {
            device: *device,
            from_ms: 0,
            to_ms: look.ms,
            branches: look.branches.iter().enumerate().map(branch).collect(),
        }
    }
}

/// A branch that the plan does not show, as a script of its own.
pub(super) fn script_of(word: &Word) -> Vec<ScriptStep> {
    let mut at_ms = 0;
    let step = |step: &homing::WordStep| {
        let least = step.wait_ms + step.sending.ms;
        at_ms += least;
        let most = step.within_ms.map_or(FOREVER_MS, |within| within + step.sending.ms);
        let after = Window { lo_ms: least, hi_ms: most.max(least) };
        ScriptStep { member: 0, letter: step.letter, at_ms, after, step: None }
    };
    word.steps.iter().map(step).collect()
}

/// What keeps the commands of a chain from being sent: a code that is missing, a device that nothing reaches.
pub(super) fn unsent(site: &Site, sends: &[Send]) -> Vec<Finding> {
    let keys: BTreeSet<(DeviceId, FunctionId)> = sends.iter().map(|send| (send.device, send.function)).collect();
    let kind = |(device, function): (DeviceId, FunctionId)| {
        let hitch = way(site, device, function).err()?;
        let medium = medium_of(site, device, function);
        let gateway =
            site.paths_of(device).into_iter().find(|path| path.medium == medium).and_then(|path| path.through);
        Some(match (hitch, gateway) {
            (Hitch::NoCode, _) => FindingKind::CodeMissing { device, function },
            (Hitch::WrongGateway, Some(gateway)) => FindingKind::WrongGateway { device, gateway, medium },
            (Hitch::OutOfSight, Some(gateway)) => FindingKind::OutOfSight { device, gateway },
            (Hitch::OutOfReach, named) => {
                let own = site.device(device)?;
                let gateway = named.or_else(|| gateways_near(site, own, medium).next())?;
                FindingKind::NothingArrives { device, gateway }
            }
            (Hitch::Bluetooth, _) => FindingKind::BluetoothOnly { device },
            (Hitch::NoAddress, _) => FindingKind::NowhereToSend { device },
            _ => FindingKind::NoGateway { device, medium },
        })
    };
    let mut found: Vec<Finding> = keys.into_iter().filter_map(kind).map(|kind| Finding::of(site, kind)).collect();
    found.dedup();
    found
}

pub(super) fn hazards(site: &Site, sends: &[Vec<Send>]) -> Vec<Finding> {
    let moves: BTreeSet<DeviceId> =
        sends.iter().flatten().filter(|send| send.effect == Effect::Travel).map(|send| send.device).collect();
    moves
        .into_iter()
        .map(|device| {
            let stop = site.profile_of(device).and_then(|profile| profile.motion).and_then(|motion| motion.stop);
            Finding::of(site, FindingKind::KeepClear { device, stop: stop.is_some() })
        })
        .collect()
}

/// What a device is doing, until when at the latest, and how that is known.
pub(super) fn wait_label(effect: Effect, span: Span) -> String {
    let doing = match effect {
        Effect::None => "settling",
        Effect::WarmUp => "starting up",
        Effect::CoolDown => "cooling down",
        Effect::Input => "input coming up",
        Effect::Travel => "moving",
        Effect::Halt => "standing still",
    };
    format!("{doing} · ≤ {}, {}", seconds(span.hi_ms), span.basis.words())
}
