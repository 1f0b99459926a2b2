//! A second opinion: a small, slow and plainly written simulator of devices, made from the description of the engine
//! alone. It knows nothing of windows, beliefs or proofs: one device is one set of plain facts with clocks that say when
//! something is over, and every duration is one number out of its interval.
//!
//! Random rooms are judged by the prover, and their plans are then run here: what is called *certain* never ends wrong from
//! any state, also right after another plan and with couplings on their way; *certain if nobody else* never ends wrong
//! after any sequence of our own plans; what is *at risk* does end wrong for some state.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test")]

use kestrel_core::file;
use kestrel_core::id::{DeviceId, FunctionId, InputId};
use kestrel_core::model::{
    AfterPowerOn, Basis, Couples, Device, Input, Policy, Power, Profile, Selection, Site, Situation, Span,
};
use kestrel_core::plan::Plan;
use kestrel_core::prove::{Analysis, Guarantee};
use kestrel_signal::protocol::Message;
use proptest::prelude::*;
use proptest::test_runner::{Config, TestRunner};
use std::collections::BTreeMap;
use uuid::Uuid;

// ---- the simulator -----------------------------------------------------------------------------------------------

/// A device as it is in truth.
#[derive(Debug, Clone)]
struct Real {
    on: bool,
    input: Option<InputId>,
    /// Until when it starts (on) or cools (off), in ms.
    power_until: u64,
    /// Until when its new input comes up, in ms.
    input_until: u64,
    /// Until when a command comes too soon, in ms.
    gap_until: u64,
}

/// Something that one device does to another, later.
#[derive(Debug, Clone)]
struct Coming {
    at: u64,
    to: DeviceId,
    wakes: bool,
    input: Option<InputId>,
}

/// Where in its interval a duration lies: 0, 1 or 2 halves of the way, by a plain counter of choices.
#[derive(Debug, Clone)]
struct Choices(u64);

impl Choices {
    fn of(&mut self, span: Span) -> u64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let (lo, hi) = (u64::from(span.lo_ms), u64::from(span.hi_ms));
        lo + (hi - lo) * ((self.0 >> 33) % 3) / 2
    }

    fn below(&mut self, n: u64) -> u64 {
        self.of(Span { lo_ms: 0, hi_ms: 0, basis: Basis::Confirmed });
        (self.0 >> 33) % n.max(1)
    }
}

struct RealRoom<'a> {
    site: &'a Site,
    now: u64,
    devices: BTreeMap<DeviceId, Real>,
    coming: Vec<Coming>,
    choices: Choices,
}

impl RealRoom<'_> {
    fn profile(&self, device: DeviceId) -> Profile {
        self.site.profile_of(device).unwrap().into_owned()
    }

    /// Lets time pass until `at`, with everything that lands meanwhile.
    fn until(&mut self, at: u64) {
        loop {
            let next = self.coming.iter().enumerate().filter(|(_, coming)| coming.at <= at).min_by_key(|(_, c)| c.at);
            let Some(place) = next.map(|(place, _)| place) else { break };
            let coming = self.coming.remove(place);
            self.now = self.now.max(coming.at);
            self.land(&coming);
        }
        self.now = self.now.max(at);
    }

    fn land(&mut self, coming: &Coming) {
        let is = self.devices[&coming.to].clone();
        if !coming.wakes {
            if is.on {
                self.switch(coming.to, false);
            }
            return;
        }
        // A device that still cools is not woken.
        if !is.on && self.now < is.power_until {
            return;
        }
        if !is.on {
            self.switch(coming.to, true);
        }
        if let Some(input) = coming.input {
            self.choose(coming.to, input);
        }
    }

    fn switch(&mut self, device: DeviceId, on: bool) {
        let profile = self.profile(device);
        let took = self.choices.of(if on { profile.times.warm_up } else { profile.times.cool_down });
        let now = self.now;
        let real = self.devices.get_mut(&device).unwrap();
        (real.on, real.power_until, real.input_until) = (on, now + took, now);
        if let (true, AfterPowerOn::Fixed { id }) = (on, profile.after_power_on) {
            real.input = Some(id);
        }
        self.tell_others(device, on);
    }

    /// What a device that has gone on or off does to those that it is coupled to over HDMI.
    fn tell_others(&mut self, device: DeviceId, on: bool) {
        let Some(own) = self.profile(device).couples else { return };
        for cable in self.site.connections.iter() {
            let (from, to) = (cable.from_device, cable.to_device);
            let (other, downstream) = if from == device { (to, true) } else { (from, false) };
            if from != device && to != device {
                continue;
            }
            let Some(theirs) = self.profile(other).couples else { continue };
            // One cable carries one message of a kind: a newer one takes the place of one that is on its way.
            let wakes = on && own.wakes && theirs.woken && downstream;
            let sleeps = !on && own.sleeps && theirs.put_to_sleep;
            if wakes || sleeps {
                let at = self.now + self.choices.of(own.delay);
                let input = downstream.then_some(cable.to_input);
                self.coming.retain(|known| (known.to, known.wakes) != (other, wakes));
                self.coming.push(Coming { at, to: other, wakes, input: input.filter(|_| wakes) });
            }
        }
    }

    fn choose(&mut self, device: DeviceId, input: InputId) {
        let profile = self.profile(device);
        let took = self.choices.of(profile.times.input);
        let now = self.now;
        let real = self.devices.get_mut(&device).unwrap();
        if real.input != Some(input) {
            real.input = Some(input);
            // While it starts, the input comes with the picture.
            if now >= real.power_until {
                real.input_until = now + took;
            }
        }
    }

    /// A key is sent.
    fn press(&mut self, device: DeviceId, key: FunctionId) {
        let profile = self.profile(device);
        let now = self.now;
        let is = self.devices[&device].clone();
        self.devices.get_mut(&device).unwrap().gap_until = now + u64::from(profile.times.gap_ms);
        let switches = match profile.power {
            Power::Discrete { on, .. } if key == on => Some(true),
            Power::Discrete { off, .. } if key == off => Some(false),
            Power::Toggle { key: toggle } if key == toggle => Some(!is.on),
            _ => None,
        };
        let busy = now < is.gap_until || (is.on && now < is.power_until) || now < is.input_until;
        let cools = !is.on && now < is.power_until && switches.is_some();
        if busy || cools {
            return;
        }
        match switches {
            Some(on) if on != is.on => self.switch(device, on),
            Some(_) => {}
            None if !is.on => {}
            None => match profile.selection {
                Selection::Discrete => {
                    if let Some(input) = profile.inputs.iter().find(|input| input.select == Some(key)) {
                        self.choose(device, input.id);
                    }
                }
                Selection::Cycle { next, .. } if key == next => {
                    let at = profile.inputs.iter().position(|input| Some(input.id) == is.input).unwrap_or(0);
                    let next = profile.inputs[(at + 1) % profile.inputs.len()].id;
                    self.choose(device, next);
                }
                _ => {}
            },
        }
    }

    /// Sends a plan from now on; `steps` of it, where it is broken off.
    fn send(&mut self, plan: &Plan) {
        let begun = self.now;
        let mut steps: Vec<_> = plan.steps.iter().collect();
        steps.sort_by_key(|step| step.end_ms);
        for step in steps {
            self.until(begun + u64::from(step.end_ms));
            self.press(step.device, step.function);
        }
    }

    /// Is everything as the plan wants it, once all has settled?
    fn ends_right(&mut self, plan: &Plan) -> bool {
        self.until(self.now + 600_000);
        plan.goals.iter().all(|goal| {
            let Some(real) = self.devices.get(&goal.device) else { return true };
            let wired =
                self.profile(goal.device).inputs.len() > 1 || self.profile(goal.device).selection != Selection::None;
            goal.on.is_none_or(|on| on == real.on)
                && (goal.on == Some(false) || !wired || goal.input.is_none_or(|input| Some(input) == real.input))
        })
    }
}

// ---- random rooms ------------------------------------------------------------------------------------------------

#[derive(Debug, Clone)]
struct Kind {
    toggle: bool,
    warm: (u32, u32),
    cool: (u32, u32),
    couples: Option<(bool, bool, bool, bool, u32, u32)>,
}

fn kind() -> impl Strategy<Value = Kind> {
    let span = |most: u32| (0..=most, 0..=most).prop_map(|(a, b)| (a.min(b) * 1_000, a.max(b) * 1_000));
    let couples = proptest::option::of((any::<bool>(), any::<bool>(), any::<bool>(), any::<bool>(), 0..3u32, 0..4u32));
    (prop::bool::weighted(0.3), span(4), span(6), couples).prop_map(|(toggle, warm, cool, couples)| Kind {
        toggle,
        warm,
        cool,
        couples,
    })
}

fn span((lo_ms, hi_ms): (u32, u32)) -> Span {
    Span { lo_ms, hi_ms, basis: Basis::Confirmed }
}

/// Two sources and a display with two inputs, as the kinds say.
fn room_of(kinds: &[Kind; 3], cycles: bool, policy: Policy) -> Site {
    let path = format!("{}/tests/data/truth/two-that-couple-asked-at-once.kdune.json", env!("CARGO_MANIFEST_DIR"));
    let mut site = file::read(&std::fs::read_to_string(path).unwrap()).unwrap();
    let id = |n: u128| Uuid::from_u128(0x5ec0_0000 + n);
    let source = site.activities[0].source;
    let display = site.activities[0].seen_on.unwrap();
    let of = |site: &Site, device: DeviceId| site.device(device).unwrap().profile;
    let (source_model, display_model) = (of(&site, source), of(&site, display));
    // A second source of a model of its own.
    let mut second = site.profile(source_model).unwrap().clone();
    second.id = id(1).into();
    let twin = Device {
        id: id(2).into(),
        profile: second.id,
        name: "S1".to_owned(),
        position: 9,
        ..site.device(source).unwrap().clone()
    };
    let codes: Vec<_> = site.codes.iter().filter(|code| code.device == source).cloned().collect();
    for (n, code) in (10..).zip(codes) {
        site.codes.push(kestrel_core::model::Code { id: id(n).into(), device: twin.id, ..code });
    }
    site.profiles.push(second);
    let mut cable = site.connections[0];
    let mut activity = site.activities[0].clone();
    (cable.id, cable.from_device, cable.to_input) = (id(3).into(), twin.id, id(4).into());
    (activity.id, activity.source, activity.name, activity.position) = (id(5).into(), twin.id, "A1".to_owned(), 1);
    let models = [source_model, id(1).into(), display_model];
    for (profile, kind) in models.iter().zip(kinds) {
        let own = site.profiles.iter_mut().find(|known| known.id == *profile).unwrap();
        let keys: Vec<FunctionId> = own.functions.iter().map(|function| function.id).collect();
        own.power =
            if kind.toggle { Power::Toggle { key: keys[0] } } else { Power::Discrete { on: keys[0], off: keys[1] } };
        own.auto_standby = None;
        (own.times.warm_up, own.times.picture, own.times.cool_down) =
            (span(kind.warm), span(kind.warm), span(kind.cool));
        own.times.input = Span { basis: Basis::Confirmed, ..span((0, 1_000)) };
        own.couples = kind.couples.map(|(wakes, woken, sleeps, put_to_sleep, lo, more)| Couples {
            wakes,
            woken,
            sleeps,
            put_to_sleep,
            delay: span((lo * 1_000, (lo + more) * 1_000)),
        });
    }
    let own = site.profiles.iter_mut().find(|known| known.id == display_model).unwrap();
    let keys: Vec<FunctionId> = own.functions.iter().map(|function| function.id).collect();
    let first = own.inputs[0].clone();
    own.inputs = vec![
        Input { select: keys.get(2).copied().or(first.select), ..first.clone() },
        Input { id: id(4).into(), name: "In1".to_owned(), select: None, ..first },
    ];
    own.selection = if cycles {
        Selection::Cycle { next: keys[2], previous: None }
    } else {
        let second =
            kestrel_core::model::Function { id: id(6).into(), name: "Sel1".to_owned(), ..own.functions[2].clone() };
        own.functions.push(second);
        own.inputs[1].select = Some(id(6).into());
        Selection::Discrete
    };
    let model_code = site.codes.iter().find(|code| code.device == display).unwrap().clone();
    if !cycles {
        site.codes.push(kestrel_core::model::Code { id: id(7).into(), function: id(6).into(), ..model_code });
    }
    for (n, code) in site.codes.iter_mut().enumerate() {
        // A code of its own for each key: none is heard by two.
        if let kestrel_core::model::CodeBody::Decoded { message, .. } = &mut code.body {
            let fields = [("address", 3), ("command", u32::try_from(n).unwrap())];
            *message = Message::new(message.protocol_id(), fields).unwrap();
        }
    }
    site.devices.push(twin);
    site.connections.push(cable);
    site.activities.push(activity);
    site.rooms[0].plans.policy = policy;
    site
}

fn any_state(site: &Site, choices: &mut Choices) -> BTreeMap<DeviceId, Real> {
    site.devices
        .iter()
        .map(|device| {
            let profile = site.profile_of(device.id).unwrap();
            let on = choices.below(2) == 0 || profile.power == Power::AlwaysOn;
            let input = (!profile.inputs.is_empty())
                .then(|| profile.inputs[usize::try_from(choices.below(profile.inputs.len() as u64)).unwrap()].id);
            let any = |span: Span| Span { lo_ms: 0, ..span };
            let power_until = choices.of(any(if on { profile.times.warm_up } else { profile.times.cool_down }));
            (device.id, Real { on, input, power_until, input_until: 0, gap_until: 0 })
        })
        .collect()
}

/// Plans of every cell, each with its verdict.
type Judged = BTreeMap<(Situation, Situation), (Guarantee, Plan, bool)>;

fn judged(site: &Site) -> Judged {
    let analysis = Analysis::of(site, site.rooms[0].id);
    let mut all = Judged::new();
    for cell in analysis.matrix().cells {
        let found = analysis.cell_plan(cell.from, cell.to);
        all.insert((cell.from, cell.to), (cell.guarantee, found.plan, cell.confirm.is_empty()));
    }
    all
}

fn run_from<'a>(site: &'a Site, devices: BTreeMap<DeviceId, Real>, seed: u64) -> RealRoom<'a> {
    RealRoom { site, now: 0, devices, coming: vec![], choices: Choices(seed) }
}

/// The room off and settled, with the inputs of its first activity, as it is handed over.
fn handed_over(site: &Site) -> BTreeMap<DeviceId, Real> {
    let of = |device: &Device| {
        let profile = site.profile_of(device.id).unwrap();
        let on = profile.power == Power::AlwaysOn;
        (
            device.id,
            Real { on, input: profile.inputs.first().map(|i| i.id), power_until: 0, input_until: 0, gap_until: 0 },
        )
    };
    site.devices.iter().map(of).collect()
}

/// A plan in one line.
fn written(site: &Site, plan: &Plan) -> String {
    let step =
        |step: &kestrel_core::plan::Step| format!("{} {} {}", step.end_ms, site.device_name(step.device), step.name);
    plan.steps.iter().map(step).collect::<Vec<_>>().join(", ")
}

/// Rooms that are judged; each run in some hundred courses of events.
const ROOMS: u32 = 60;

#[test]
fn the_simulator_finds_no_wrong_end_where_the_proof_says_that_there_is_none() {
    let rooms = ((kind(), kind(), kind()), any::<bool>(), any::<bool>(), any::<u64>());
    let mut seen: BTreeMap<Guarantee, usize> = BTreeMap::new();
    let mut runner = TestRunner::new_with_rng(
        Config { cases: ROOMS, failure_persistence: None, ..Config::default() },
        proptest::test_runner::TestRng::deterministic_rng(proptest::test_runner::RngAlgorithm::ChaCha),
    );
    let seen_now = std::cell::RefCell::new(&mut seen);
    runner
        .run(&rooms, |((a, b, c), cycles, safe, seed)| {
            let policy = if safe { Policy::Safe } else { Policy::Trusting };
            let site = room_of(&[a, b, c], cycles, policy);
            let all = judged(&site);
            let mut choices = Choices(seed);
            for ((from, to), (guarantee, plan, _)) in &all {
                *seen_now.borrow_mut().entry(*guarantee).or_default() += 1;
                if *guarantee == Guarantee::Certain {
                    for course in 0..40 {
                        let mut room = run_from(&site, any_state(&site, &mut choices), seed ^ course);
                        room.send(plan);
                        prop_assert!(
                            room.ends_right(plan),
                            "certain {from:?} → {to:?}, course {course}: {:?}",
                            room.devices
                        );
                    }
                }
            }
            // Evenings of our own plans, each asked for at any moment after the last command of the one before.
            for evening in 0..60u64 {
                let mut room = run_from(&site, handed_over(&site), seed ^ (evening << 8));
                let mut at = Situation::Off;
                let mut told = Vec::new();
                for _ in 0..5 {
                    let ways: Vec<_> = all.keys().filter(|(from, _)| *from == at).copied().collect();
                    let way = ways[usize::try_from(choices.below(ways.len() as u64)).unwrap()];
                    let (guarantee, plan, _) = &all[&way];
                    told.push(format!("at {} ms {way:?} {guarantee:?}: {}", room.now, written(&site, plan)));
                    room.send(plan);
                    // Everything goes on from here; what it would come to is looked at in a copy.
                    let mut end = run_from(&site, room.devices.clone(), room.choices.0);
                    (end.now, end.coming) = (room.now, room.coming.clone());
                    let right = end.ends_right(plan);
                    let promised = *guarantee <= Guarantee::IfNobodyElse;
                    prop_assert!(right || !promised, "evening {evening}:\n{}\n{:#?}", told.join("\n"), end.devices);
                    let wait = [0, 100, 900, 2_500, 30_000][usize::try_from(choices.below(5)).unwrap()];
                    room.until(room.now + wait);
                    at = way.1;
                }
            }
            Ok(())
        })
        .unwrap();
    for guarantee in [Guarantee::Certain, Guarantee::IfNobodyElse, Guarantee::AtRisk] {
        assert!(seen.get(&guarantee).is_some_and(|&count| count > 10), "too few of them to say anything: {seen:?}");
    }
}

#[test]
fn what_is_at_risk_does_end_wrong_for_some_course_of_our_own() {
    let rooms = ((kind(), kind(), kind()), any::<bool>(), any::<u64>());
    let (mut risky, mut shown) = (0, 0);
    let mut runner = TestRunner::new_with_rng(
        Config { cases: 40, failure_persistence: None, ..Config::default() },
        proptest::test_runner::TestRng::deterministic_rng(proptest::test_runner::RngAlgorithm::ChaCha),
    );
    let counted = std::cell::RefCell::new((&mut risky, &mut shown));
    runner
        .run(&rooms, |((a, b, c), cycles, seed)| {
            let site = room_of(&[a, b, c], cycles, Policy::Trusting);
            let all = judged(&site);
            let mut choices = Choices(seed);
            for (way, (guarantee, plan, _)) in all.iter().filter(|(_, (guarantee, ..))| *guarantee == Guarantee::AtRisk)
            {
                assert_eq!(*guarantee, Guarantee::AtRisk, "{way:?}");
                *counted.borrow_mut().0 += 1;
                let wrong = (0..400).any(|course| {
                    let mut room = run_from(&site, any_state(&site, &mut choices), seed ^ course);
                    room.send(plan);
                    !room.ends_right(plan)
                });
                *counted.borrow_mut().1 += usize::from(wrong);
            }
            Ok(())
        })
        .unwrap();
    assert!(risky > 20 && shown * 10 >= risky * 9, "{shown} of {risky} that are at risk were seen to end wrong");
}
