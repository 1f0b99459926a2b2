//! How likely a plan is to fail because a press is lost, and what would help.
//!
//! The loss of a path is known from counts, k lost of n, and stated as a 95 % range (Wilson 1927). The
//! distribution over states is carried through the script exactly, from the worst start state and with
//! every free choice (where in its interval a duration lies) made for the worst.

use crate::device::group::Group;
use crate::device::{Joint, Letter, Target};
use crate::id::DeviceId;
use crate::model::{CodeBody, Site, Tries};
use crate::plan::{Script, ScriptStep, press_of};
use serde::Serialize;
use std::collections::{BTreeSet, HashMap};
use utoipa::ToSchema;

/// A probability between two bounds.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Range {
    /// The least.
    pub lo: f64,
    /// The greatest.
    pub hi: f64,
}

/// How likely a plan is to fail by a lost press.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Loss {
    /// The probability, over the devices whose paths were tested; none where none was.
    pub fails: Option<Range>,
    /// Devices whose path has no tests yet.
    pub untested: Vec<DeviceId>,
    /// What would make it less, and what that costs.
    pub raises: Vec<Raise>,
}

/// A way to lose less.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Raise {
    /// What is done.
    pub what: String,
    /// The probability of failure then.
    pub fails: Range,
    /// How much longer the sends take, in ms.
    pub costs_ms: u32,
}

/// The 95 % range of a probability of which `lost` of `of` trials were seen (Wilson's score interval).
#[must_use]
pub fn wilson(tries: Tries) -> Option<Range> {
    if tries.of == 0 {
        return None;
    }
    let (n, z) = (f64::from(tries.of), 1.959_963_985);
    let p = f64::from(tries.lost.min(tries.of)) / n;
    let middle = p + z * z / (2.0 * n);
    let spread = z * (p * (1.0 - p) / n + z * z / (4.0 * n * n)).sqrt();
    let whole = 1.0 + z * z / n;
    Some(Range { lo: ((middle - spread) / whole).max(0.0), hi: ((middle + spread) / whole).min(1.0) })
}

/// How likely `need` frames in a row come through of `sent`, each lost with probability `lost`.
#[must_use]
pub fn run_of_frames(lost: f64, need: u32, sent: u32) -> f64 {
    let need = usize::try_from(need.max(1)).unwrap_or(1);
    let mut run = vec![0.0; need];
    run[0] = 1.0;
    let mut done = 0.0;
    for _ in 0..sent {
        let mut next = vec![0.0; need];
        next[0] = run.iter().sum::<f64>() * lost;
        for length in 0..need {
            let arrives = run[length] * (1.0 - lost);
            if length + 1 == need {
                done += arrives;
            } else {
                next[length + 1] += arrives;
            }
        }
        run = next;
    }
    done
}

/// The loss of a press of `sent` frames of which `need` have to arrive in a row, turned into that of one frame.
#[must_use]
pub fn frame_loss(press_loss: f64, need: u32, sent: u32) -> f64 {
    let (mut lo, mut hi) = (0.0, 1.0);
    for _ in 0..60 {
        let middle = (lo + hi) / 2.0;
        if 1.0 - run_of_frames(middle, need, sent) < press_loss {
            lo = middle;
        } else {
            hi = middle;
        }
    }
    (lo + hi) / 2.0
}

/// The counts of the path on which a device's commands go.
#[must_use]
pub fn tries_of(site: &Site, device: DeviceId, letter: Letter) -> Tries {
    let medium = match letter {
        Letter::Key(function) => crate::plan::medium_of(site, device, function),
        Letter::Tune(_) => crate::plan::chain::sending(site, device, letter).medium,
    };
    site.paths_of(device).into_iter().find(|path| path.medium == medium).map_or_else(Tries::default, |path| path.tries)
}

/// How many presses a letter is: each digit of a number, and each press of a double press, is one that can be lost.
#[must_use]
pub fn presses_of(site: &Site, device: DeviceId, letter: Letter) -> u32 {
    let of = |function| u32::from(crate::plan::chain::presses_of(site, device, function).max(1));
    match letter {
        Letter::Key(function) => of(function),
        Letter::Tune(app) => crate::plan::chain::digits_of(site, device, app).into_iter().map(of).sum::<u32>().max(1),
    }
}

/// The loss of `count` presses of which each has to arrive.
fn of_presses(one: Range, count: u32) -> Range {
    let all = |lost: f64| 1.0 - (1.0 - lost).powi(i32::try_from(count).unwrap_or(i32::MAX));
    Range { lo: all(one.lo), hi: all(one.hi) }
}

/// The probability that a script ends wrong, from the worst of `starts`, where each key is lost with the
/// probability that `loss` gives and sent `presses` times.
#[must_use]
pub fn fails(
    group: &Group<'_>,
    starts: &BTreeSet<Joint>,
    script: &Script,
    targets: &[Target],
    loss: &dyn Fn(&ScriptStep) -> f64,
    presses: &dyn Fn(&ScriptStep) -> u32,
) -> f64 {
    let steps: &[ScriptStep] = match &script.look {
        // After a look the branch that is longest decides.
        Some(look) => {
            look.branches.iter().map(|(_, steps)| steps.as_slice()).max_by_key(|steps| steps.len()).unwrap_or(&[])
        }
        None => &script.steps,
    };
    if script.look.is_some() {
        let kept =
            steps.iter().map(|step| 1.0 - loss(step).powi(i32::try_from(presses(step)).unwrap_or(1))).product::<f64>();
        return 1.0 - kept;
    }
    let mut known = HashMap::new();
    let arrives = starts
        .iter()
        .map(|start| {
            let start = group.relevant(start.clone(), targets);
            right(group, &start, 0, steps, targets, loss, presses, &mut known)
        })
        .fold(1.0, f64::min);
    1.0 - arrives
}

/// The least probability that all ends right.
#[allow(clippy::too_many_arguments, reason = "one recursion over what stays the same")]
fn right(
    group: &Group<'_>,
    joint: &Joint,
    at: usize,
    steps: &[ScriptStep],
    targets: &[Target],
    loss: &dyn Fn(&ScriptStep) -> f64,
    presses: &dyn Fn(&ScriptStep) -> u32,
    known: &mut HashMap<(usize, Joint), f64>,
) -> f64 {
    if let Some(&value) = known.get(&(at, joint.clone())) {
        return value;
    }
    let value = match steps.get(at) {
        None => {
            // What cannot be followed to its end counts as wrong.
            let right = group.settled(joint).is_ok_and(|ends| ends.iter().all(|end| group.meets(end, targets)));
            if right { 1.0 } else { 0.0 }
        }
        Some(step) => {
            let lost = loss(step);
            let then = group.elapse(joint, step.after).unwrap_or_default();
            let mut worst = if then.is_empty() { 0.0 } else { 1.0f64 };
            for (before, _) in then {
                // Each press arrives or does not; the worst of what may follow.
                let mut states = vec![(before, 1.0)];
                for press in 0..presses(step) {
                    let mut next = Vec::new();
                    for (state, share) in states {
                        let state = if press == 0 { state } else { waited(group, &state, step) };
                        let arrived = group.press(&state, step.member, step.letter);
                        // Where the device may or may not take it, the worse of the two counts.
                        let value = |known: &mut HashMap<(usize, Joint), f64>, joint: &Joint| {
                            let joint = group.relevant(joint.clone(), targets);
                            right(group, &joint, at + 1, steps, targets, loss, presses, known)
                        };
                        let worse = arrived
                            .into_iter()
                            .map(|(after, _)| (value(known, &after), after))
                            .min_by(|a, b| a.0.total_cmp(&b.0));
                        if let Some((_, after)) = worse {
                            next.push((after, share * (1.0 - lost)));
                        }
                        next.push((state, share * lost));
                    }
                    states = next;
                }
                let mut sum = 0.0;
                for (state, share) in states {
                    let state = group.relevant(state, targets);
                    sum += share * right(group, &state, at + 1, steps, targets, loss, presses, known);
                }
                worst = worst.min(sum);
            }
            worst
        }
    };
    known.insert((at, joint.clone()), value);
    value
}

/// Before a repeated press the device's own pause goes by.
fn waited(group: &Group<'_>, joint: &Joint, step: &ScriptStep) -> Joint {
    let gap = group.machine(step.member).profile().times.gap_ms;
    let passed = crate::device::Window::exactly(gap);
    let then = group.elapse(joint, passed).unwrap_or_default();
    then.into_iter().next().map_or_else(|| joint.clone(), |(after, _)| after)
}

/// Do one and two arrivals of a key end alike from every state that can be there, earlier presses lost?
#[must_use]
pub fn repeat_is_safe(
    group: &Group<'_>,
    starts: &BTreeSet<Joint>,
    steps: &[ScriptStep],
    at: usize,
    targets: &[Target],
) -> bool {
    let mut states: BTreeSet<Joint> = starts.iter().map(|start| group.relevant(start.clone(), targets)).collect();
    for step in &steps[..at] {
        let mut next = BTreeSet::new();
        for joint in &states {
            let Ok(then) = group.elapse(joint, step.after) else { return false };
            for (before, _) in then {
                next.extend(group.press(&before, step.member, step.letter).into_iter().map(|(after, _)| after));
                next.insert(before);
            }
        }
        states = next.into_iter().map(|joint| group.relevant(joint, targets)).collect();
    }
    let step = &steps[at];
    let states_of = |joint: &Joint| joint.members.iter().map(|m| m.state).collect::<Vec<_>>();
    let settled = |joint: &Joint| {
        Some(group.settled(joint).ok()?.iter().map(states_of).collect::<BTreeSet<Vec<crate::device::State>>>())
    };
    let then: Result<Vec<_>, _> = states.iter().map(|joint| group.elapse(joint, step.after)).collect();
    let Ok(then) = then else { return false };
    then.into_iter().flatten().all(|(before, _)| {
        group.press(&before, step.member, step.letter).into_iter().all(|(once, _)| {
            let again = waited(group, &once, step);
            group.press(&again, step.member, step.letter).into_iter().all(|(twice, _)| {
                // Alike at once (an open list is not a closed one), and alike in the end.
                states_of(&once) == states_of(&twice) && settled(&once).is_some() && settled(&once) == settled(&twice)
            })
        })
    })
}

/// How many frames one press sends and how many the receiver needs in a row, and how long one more lasts.
fn frames_of(site: &Site, device: DeviceId, letter: Letter) -> Option<(u32, u32)> {
    let Letter::Key(key) = letter else { return None };
    let (press, frames) = press_of(site, device, key);
    let body = &site.code(device, key)?.body;
    let needs = match body {
        CodeBody::Decoded { message } => frames.unwrap_or(1).max(message.least_frames()),
        CodeBody::Radio { .. } => frames.unwrap_or(1).max(1),
        _ => return None,
    };
    let longer = body.send_ms(press, Some(needs + 1)).saturating_sub(body.send_ms(press, Some(needs)));
    Some((needs, longer))
}

/// The loss of the plan whose groups have these scripts.
#[must_use]
pub fn loss(
    site: &Site,
    groups: &[Group<'_>],
    starts: &[BTreeSet<Joint>],
    scripts: &[Script],
    targets: &[Vec<Target>],
) -> Loss {
    let mut sums = Sums::default();
    for (at, group) in groups.iter().enumerate() {
        sums.add(site, group, &starts[at], &scripts[at], &targets[at]);
    }
    sums.loss()
}

/// Probabilities of a plan, multiplied over its groups: each ends right, at both ends of what is known of loss.
struct Sums {
    untested: BTreeSet<DeviceId>,
    tested: bool,
    /// As it is.
    kept: (f64, f64),
    /// With one frame more in every press, with two; and how much longer that takes.
    frames: [(f64, f64, u32); 2],
    /// With presses that may be repeated sent twice; how much longer that takes, and how many they are.
    twice: (f64, f64, u32, usize),
}

impl Default for Sums {
    fn default() -> Self {
        Self {
            untested: BTreeSet::new(),
            tested: false,
            kept: (1.0, 1.0),
            frames: [(1.0, 1.0, 0); 2],
            twice: (1.0, 1.0, 0, 0),
        }
    }
}

impl Sums {
    /// Takes in one group.
    fn add(&mut self, site: &Site, group: &Group<'_>, starts: &BTreeSet<Joint>, script: &Script, targets: &[Target]) {
        let steps: Vec<ScriptStep> = match &script.look {
            Some(look) => look.branches.iter().flat_map(|(_, steps)| steps.clone()).collect(),
            None => script.steps.clone(),
        };
        let device = |step: &ScriptStep| group.members[step.member].0;
        let range = |step: &ScriptStep| {
            let one = wilson(tries_of(site, device(step), step.letter))?;
            Some(of_presses(one, presses_of(site, device(step), step.letter)))
        };
        self.untested.extend(steps.iter().filter(|step| range(step).is_none()).map(device));
        if steps.iter().all(|step| range(step).is_none()) {
            return;
        }
        self.tested = true;
        let end =
            |pick: fn(Range) -> f64, change: &dyn Fn(&ScriptStep, f64) -> f64, presses: &dyn Fn(&ScriptStep) -> u32| {
                let loss = |step: &ScriptStep| range(step).map_or(0.0, |range| change(step, pick(range)));
                1.0 - fails(group, starts, script, targets, &loss, presses)
            };
        let both = |change: &dyn Fn(&ScriptStep, f64) -> f64, presses: &dyn Fn(&ScriptStep) -> u32| {
            (end(|range| range.hi, change, presses), end(|range| range.lo, change, presses))
        };
        let (one, same) = (|_: &ScriptStep| 1, |_: &ScriptStep, p: f64| p);
        let (lo, hi) = both(&same, &one);
        self.kept = (self.kept.0 * lo, self.kept.1 * hi);
        for (extra, sum) in (1u32..).zip(&mut self.frames) {
            let change = |step: &ScriptStep, p: f64| match frames_of(site, device(step), step.letter) {
                Some((needs, _)) => 1.0 - run_of_frames(frame_loss(p, needs, needs), needs, needs + extra),
                None => p,
            };
            let (lo, hi) = both(&change, &one);
            let longer = steps.iter().filter_map(|step| frames_of(site, device(step), step.letter));
            *sum = (sum.0 * lo, sum.1 * hi, sum.2 + longer.map(|(_, ms)| ms * extra).sum::<u32>());
        }
        let safe: Vec<bool> = (0..steps.len())
            .map(|step| script.look.is_none() && repeat_is_safe(group, starts, &steps, step, targets))
            .collect();
        let twice = |step: &ScriptStep| {
            let place = steps.iter().position(|known| known == step);
            if place.is_some_and(|place| safe[place]) { 2 } else { 1 }
        };
        let (lo, hi) = both(&same, &twice);
        let repeated = steps.iter().zip(&safe).filter(|(_, safe)| **safe).map(|(step, _)| {
            let gap = group.machine(step.member).profile().times.gap_ms;
            gap + crate::plan::chain::sending(site, device(step), step.letter).ms
        });
        let known = self.twice;
        let count = safe.iter().filter(|safe| **safe).count();
        self.twice = (known.0 * lo, known.1 * hi, known.2 + repeated.sum::<u32>(), known.3 + count);
    }

    fn loss(self) -> Loss {
        let range = |lo: f64, hi: f64| Range { lo: (1.0 - hi).max(0.0), hi: (1.0 - lo).min(1.0) };
        let mut raises = Vec::new();
        for (extra, (lo, hi, costs_ms)) in (1u32..).zip(self.frames).filter(|(_, sum)| sum.2 > 0) {
            let more = if extra == 1 { "frame" } else { "frames" };
            let what = format!("{extra} {more} more in every press (safe for toggles too)");
            raises.push(Raise { what, fails: range(lo, hi), costs_ms });
        }
        let (lo, hi, costs_ms, count) = self.twice;
        if count > 0 {
            let what = format!("{count} of the presses twice: those for which one and two arrivals end alike");
            raises.push(Raise { what, fails: range(lo, hi), costs_ms });
        }
        let fails = self.tested.then(|| range(self.kept.0, self.kept.1));
        Loss { fails, untested: self.untested.into_iter().collect(), raises }
    }
}
