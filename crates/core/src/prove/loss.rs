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
use rustc_hash::FxHashMap;
use serde::Serialize;
use std::collections::BTreeSet;
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
        Letter::Tune(_) | Letter::StopAt(_) => crate::plan::chain::sending(site, device, letter).medium,
    };
    site.paths_of(device).into_iter().find(|path| path.medium == medium).map_or_else(Tries::default, |path| path.tries)
}

/// How many presses a letter is: each digit of a number, and each press of a double press, is one that can be lost.
#[must_use]
pub fn presses_of(site: &Site, device: DeviceId, letter: Letter) -> u32 {
    let of = |function| u32::from(crate::plan::chain::presses_of(site, device, function).max(1));
    crate::plan::chain::keys_of(site, device, letter).into_iter().map(of).sum::<u32>().max(1)
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
    let [arrives] = arrives(group, starts, script, targets, &|step| [loss(step)], presses);
    1.0 - arrives
}

/// The probabilities that it ends right, for several losses of each key at once: the states that are met are the same.
fn arrives<const N: usize>(
    group: &Group<'_>,
    starts: &BTreeSet<Joint>,
    script: &Script,
    targets: &[Target],
    loss: &dyn Fn(&ScriptStep) -> [f64; N],
    presses: &dyn Fn(&ScriptStep) -> u32,
) -> [f64; N] {
    let steps: &[ScriptStep] = match &script.look {
        // After a look the branch that is longest decides.
        Some(look) => {
            look.branches.iter().map(|(_, steps)| steps.as_slice()).max_by_key(|steps| steps.len()).unwrap_or(&[])
        }
        None => &script.steps,
    };
    let each: Vec<([f64; N], u32)> = steps.iter().map(|step| (loss(step), presses(step))).collect();
    if script.look.is_some() {
        return std::array::from_fn(|at| {
            let kept = |(lost, presses): &([f64; N], u32)| 1.0 - lost[at].powi(i32::try_from(*presses).unwrap_or(1));
            each.iter().map(kept).product()
        });
    }
    let mut walk = Walk { group, steps, targets, each: &each, known: vec![FxHashMap::default(); steps.len() + 1] };
    let mut worst = [1.0; N];
    for start in starts {
        let own = walk.right(&group.relevant(start.clone(), targets), 0);
        worst = least(worst, own);
    }
    worst
}

fn least<const N: usize>(a: [f64; N], b: [f64; N]) -> [f64; N] {
    std::array::from_fn(|at| a[at].min(b[at]))
}

/// A script with lost keys, followed from state to state.
struct Walk<'w, 'a, const N: usize> {
    group: &'w Group<'a>,
    steps: &'w [ScriptStep],
    targets: &'w [Target],
    /// For each key how likely it is lost, and how often it is pressed.
    each: &'w [([f64; N], u32)],
    /// For each place of the script what is known of states there.
    known: Vec<FxHashMap<Joint, [f64; N]>>,
}

impl<const N: usize> Walk<'_, '_, N> {
    /// The least probability that all ends right.
    fn right(&mut self, joint: &Joint, at: usize) -> [f64; N] {
        if let Some(&value) = self.known[at].get(joint) {
            return value;
        }
        let value = match self.steps.get(at) {
            None => {
                // What cannot be followed to its end counts as wrong.
                let meets = |end: &Joint| self.group.meets(end, self.targets);
                let right = self.group.settled(joint).is_ok_and(|ends| ends.iter().all(meets));
                [if right { 1.0 } else { 0.0 }; N]
            }
            Some(step) => {
                let then = self.group.elapse(joint, step.after).unwrap_or_default();
                let mut worst = [if then.is_empty() { 0.0 } else { 1.0 }; N];
                for (before, _) in then {
                    worst = least(worst, self.pressed(before, at));
                }
                worst
            }
        };
        self.known[at].insert(joint.clone(), value);
        value
    }

    fn after(&mut self, joint: &Joint, at: usize) -> [f64; N] {
        let joint = self.group.relevant(joint.clone(), self.targets);
        self.right(&joint, at + 1)
    }

    /// Each press arrives or does not; the worst of what may follow.
    fn pressed(&mut self, before: Joint, at: usize) -> [f64; N] {
        let step = self.steps[at];
        let (lost, presses) = self.each[at];
        if presses == 1 {
            let mut arrived = [f64::INFINITY; N];
            for (after, _) in self.group.press(&before, step.member, step.letter) {
                arrived = least(arrived, self.after(&after, at));
            }
            let missed = self.after(&before, at);
            return std::array::from_fn(
                |n| if arrived[n].is_finite() { arrived[n] * (1.0 - lost[n]) } else { 0.0 } + missed[n] * lost[n],
            );
        }
        std::array::from_fn(|n| {
            let mut states = vec![(before.clone(), 1.0)];
            for press in 0..presses {
                let mut next = Vec::new();
                for (state, share) in states {
                    let state = if press == 0 { state } else { waited(self.group, &state, &step) };
                    // Where the device may or may not take it, the worse of the two counts.
                    let arrived = self.group.press(&state, step.member, step.letter).into_iter();
                    let worse =
                        arrived.map(|(after, _)| (self.after(&after, at)[n], after)).min_by(|a, b| a.0.total_cmp(&b.0));
                    if let Some((_, after)) = worse {
                        next.push((after, share * (1.0 - lost[n])));
                    }
                    next.push((state, share * lost[n]));
                }
                states = next;
            }
            states.into_iter().map(|(state, share)| share * self.after(&state, at)[n]).sum()
        })
    }
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
        CodeBody::Decoded { message, .. } => frames.unwrap_or(1).max(message.least_frames()),
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
        let ranges: Vec<Option<Range>> = steps.iter().map(range).collect();
        self.untested
            .extend(steps.iter().zip(&ranges).filter(|(_, range)| range.is_none()).map(|(step, _)| device(step)));
        if ranges.iter().all(Option::is_none) {
            return;
        }
        self.tested = true;
        // As it is, with one frame more and with two, each at both ends of what is known.
        let ends = |step: &ScriptStep| {
            let Some(Range { lo, hi }) = range(step) else { return [0.0; 6] };
            let with = |p: f64, extra: u32| match frames_of(site, device(step), step.letter) {
                Some((needs, _)) => 1.0 - run_of_frames(frame_loss(p, needs, needs), needs, needs + extra),
                None => p,
            };
            [hi, lo, with(hi, 1), with(lo, 1), with(hi, 2), with(lo, 2)]
        };
        let [lo, hi, rest @ ..] = arrives(group, starts, script, targets, &ends, &|_| 1);
        self.kept = (self.kept.0 * lo, self.kept.1 * hi);
        let longer: u32 =
            steps.iter().filter_map(|step| frames_of(site, device(step), step.letter)).map(|(_, ms)| ms).sum();
        for ((extra, sum), own) in (1u32..).zip(&mut self.frames).zip(rest.chunks(2)) {
            *sum = (sum.0 * own[0], sum.1 * own[1], sum.2 + longer * extra);
        }
        let safe: Vec<bool> = (0..steps.len())
            .map(|step| script.look.is_none() && repeat_is_safe(group, starts, &steps, step, targets))
            .collect();
        let twice = |step: &ScriptStep| {
            let place = steps.iter().position(|known| known == step);
            if place.is_some_and(|place| safe[place]) { 2 } else { 1 }
        };
        let own = |step: &ScriptStep| range(step).map_or([0.0; 2], |range| [range.hi, range.lo]);
        let [lo, hi] = arrives(group, starts, script, targets, &own, &twice);
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
