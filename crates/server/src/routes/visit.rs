//! The visit to the house: the stopwatch, the gap finder, the list of tests and its round.

use super::houses::put_all;
use super::proofs::{matrix_of, room_of};
use crate::houses::Houses;
use crate::problem::{Body, Path, Problem};
use crate::views::SavedView;
use crate::work::{LONG, PROOF, SOON};
use axum::Json;
use axum::extract::State;
use axum::http::HeaderMap;
use jiff::Timestamp;
use kestrel_bench::rehearsal::RehearsalError;
use kestrel_bench::tested;
use kestrel_core::commission::gap::{self, LostAt, NextBurst, Tried};
use kestrel_core::commission::list::is_left;
use kestrel_core::commission::round::{self, Round};
use kestrel_core::commission::take::{self, VerdictChange};
use kestrel_core::commission::{Run, TestLine, list};
use kestrel_core::evidence::{TimingKnown, known};
use kestrel_core::id::{DeviceId, FunctionId, HouseId, MeasurementId, PhotoId, ResultId, RoomId};
use kestrel_core::model::{
    Burst, Entity, Measurement, Motion, Outcome, Profile, SeenIn, Selection, Site, Situation, Span, TestOf, TestResult,
    Timing,
};
use kestrel_core::prove::{Analysis, WaitOfRoom};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;
use uuid::Uuid;

/// A time that can be measured.
#[derive(Debug, Serialize, ToSchema)]
pub struct TimingLine {
    /// What the readings of the house say.
    known: TimingKnown,
    /// What those of the rehearsal room would say.
    rehearsed: TimingKnown,
    /// How many verdicts hang on it; none where no plan of the room waits for it.
    wait: Option<WaitOfRoom>,
    /// The key that starts it; none where a hand does (the mains, a list that is open).
    starts: Option<FunctionId>,
    /// The key that leads back to where the next lap starts; none where nothing has to be sent.
    back: Option<FunctionId>,
    /// What is seen at its end.
    look_for: String,
    /// What to take care of.
    care: Option<String>,
}

/// The stopwatch of a room.
#[derive(Debug, Serialize, ToSchema)]
pub struct Stopwatch {
    /// What can be measured: what decides most verdicts first.
    lines: Vec<TimingLine>,
    /// Waits that are only assumed, or from a profile.
    open: usize,
    /// The coverage that the house wants, in %.
    percent: u8,
    /// Devices whose shortest pause can be found, each with the keys that may be sent in bursts.
    gaps: Vec<GapDevice>,
}

/// A device whose shortest pause can be found.
#[derive(Debug, Serialize, ToSchema)]
pub struct GapDevice {
    /// Which.
    device: DeviceId,
    /// Keys whose effect can be counted.
    keys: Vec<FunctionId>,
    /// What the readings say.
    known: TimingKnown,
}

/// The keys that start a time and lead back, and what is seen at its end.
fn keys_of(profile: &Profile, timing: Timing) -> (Option<FunctionId>, Option<FunctionId>, &'static str) {
    let power = profile.power_keys();
    let motion = |of: fn(&Motion) -> FunctionId| profile.motion.as_ref().map(of);
    let input = || profile.inputs.iter().find_map(|input| input.select);
    match timing {
        Timing::WarmUp => (
            power.map(|keys| keys.0),
            power.map(|keys| keys.1),
            "it takes a command: its list opens, its lamp stops blinking",
        ),
        Timing::Picture => (power.map(|keys| keys.0), power.map(|keys| keys.1), "its picture or its sound is there"),
        Timing::CoolDown => {
            (power.map(|keys| keys.1), power.map(|keys| keys.0), "its fan stops and power keys work again")
        }
        Timing::Input => (input(), None, "the other input is there"),
        Timing::TravelUp => (motion(|own| own.up), motion(|own| own.down), "it stands at its upper end"),
        Timing::TravelDown => (motion(|own| own.down), motion(|own| own.up), "it stands at its lower end"),
        Timing::MotorPause => {
            (profile.motion.and_then(|own| own.stop), None, "the motor has come to rest and may be reversed")
        }
        Timing::ListCloses => match profile.selection {
            Selection::Menu { open, .. } => (Some(open), None, "its list is gone"),
            _ => (None, None, "its list is gone"),
        },
        Timing::Coupling => (power.map(|keys| keys.0), power.map(|keys| keys.1), "what is coupled to it follows"),
        Timing::Boot => (None, None, "it answers again"),
        Timing::Gap | Timing::Digits => (None, None, "the presses that were seen"),
    }
}

/// What to take care of while this is measured again and again.
fn care(site: &Site, device: DeviceId, profile: &Profile, timing: Timing) -> Option<String> {
    let name = site.device_name(device);
    match timing {
        Timing::TravelUp | Timing::TravelDown | Timing::MotorPause => Some(format!(
            "{name} moves: keep clear, and stand where you can see it. After 4 min of running let the motor rest for a quarter of an hour (common practice): its thermal stop would falsify the readings."
        )),
        Timing::WarmUp | Timing::Picture | Timing::CoolDown if profile.times.cool_down.hi_ms > 5_000 => Some(format!(
            "Each lap strikes the lamp of {name} once and has to wait out its cooling; a lap that does not counts as hot."
        )),
        _ => None,
    }
}

/// What can be measured in a room, and how well each is known.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/stopwatch", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = Stopwatch), (status = 404, body = Problem), (status = 409, body = Problem))
)]
pub async fn stopwatch(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<Stopwatch>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let matrix = matrix_of(&houses, house, room).await?;
    let site = &snapshot.site;
    let place = |device: DeviceId, timing: Timing| {
        matrix.waits.iter().position(|wait| (wait.rest.device, wait.rest.timing) == (device, Some(timing)))
    };
    let mut lines = Vec::new();
    let mut gaps = Vec::new();
    for device in site.devices_in(room).filter(|device| device.room == room) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        for timing in Timing::ALL.into_iter().filter(|timing| !timing.is_pause()) {
            let known_here = known(site, device.id, timing, false);
            if known_here.in_use.is_none() && known_here.n == 0 && timing != Timing::Boot {
                continue;
            }
            let (starts, back, look_for) = keys_of(&profile, timing);
            lines.push(TimingLine {
                rehearsed: known(site, device.id, timing, true),
                wait: place(device.id, timing).and_then(|at| matrix.waits.get(at)).cloned(),
                starts,
                back,
                look_for: look_for.to_owned(),
                care: care(site, device.id, &profile, timing),
                known: known_here,
            });
        }
        let keys = gap::keys(site, device.id);
        if !keys.is_empty() {
            gaps.push(GapDevice { device: device.id, keys, known: known(site, device.id, Timing::Gap, false) });
        }
    }
    let order = |line: &TimingLine| {
        let weak = place(line.known.device, line.known.timing);
        (weak.is_none(), weak, line.known.in_use.is_none())
    };
    lines.sort_by_key(order);
    let open = matrix.waits.iter().filter(|wait| !wait.rest.holds).count();
    Ok(Json(Stopwatch { lines, open, percent: site.house.coverage_percent, gaps }))
}

/// One time of one device.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[schema(as = TimedRequest)]
pub struct Timed {
    /// Which device.
    device: DeviceId,
    /// Which time.
    timing: Timing,
    /// Look at readings of the rehearsal room as if they had been taken in the house: what would they change?
    #[serde(default)]
    rehearsed: bool,
}

/// What taking readings over changes.
#[derive(Debug, Serialize, ToSchema)]
#[schema(as = TakingOver)]
pub struct Effect {
    /// The interval that would be in use.
    span: Span,
    /// Verdicts and times that would be others.
    changes: Vec<VerdictChange>,
    /// The same in sentences.
    words: Vec<String>,
}

fn nothing() -> Problem {
    Problem::refused(
        "There are no readings of this in the house yet, or plans wait for no such time. Take readings first.",
    )
}

/// What would change if the readings of a time were taken over. Nothing is saved.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/stopwatch/effect", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = Timed,
    responses((status = 200, body = Effect), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn stopwatch_effect(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<Timed>,
) -> Result<Json<Effect>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let before = matrix_of(&houses, house, room).await?;
    let site = snapshot.site.clone();
    let found = PROOF.run(move || {
        let after = take::as_if(&site, asked.device, asked.timing, asked.rehearsed)?;
        let span = known(&site, asked.device, asked.timing, asked.rehearsed).proposal?;
        let changes = take::changes(&site, &before, &Analysis::of(&after, room).matrix());
        let words = take::in_words(&changes, asked.rehearsed);
        Some(Effect { span, changes, words })
    });
    found.await?.map(Json).ok_or_else(nothing)
}

/// Takes the readings of a time over, as an override of the device: one step, which undo takes back.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/stopwatch/take", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = Timed,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn take_readings(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(asked): Body<Timed>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let device = take::taken_over(&snapshot.site, asked.device, asked.timing).ok_or_else(nothing)?;
    Ok(Json(put_all(&houses, house, &headers, &snapshot, vec![Entity::Device(device)]).await?))
}

/// Bursts that were sent so far.
#[derive(Debug, Deserialize, ToSchema)]
pub struct GapRequest {
    /// Of which device.
    device: DeviceId,
    /// What was counted, in the order in which it was sent.
    #[serde(default)]
    tried: Vec<Tried>,
}

/// Where the gap finder is.
#[derive(Debug, Serialize, ToSchema)]
pub struct GapView {
    /// What comes next.
    next: NextBurst,
    /// What was lost at each pause so far.
    lost: Vec<LostAt>,
}

/// So many bursts end any search.
const BURSTS_MAX: usize = 60;

fn gap_view(site: &Site, asked: &GapRequest) -> Result<GapView, Problem> {
    let wrong = |one: &Tried| one.sent == 0 || one.sent > 20 || one.counted > 2 * one.sent || one.pause_ms > 5_000;
    if asked.tried.len() > BURSTS_MAX || asked.tried.iter().any(wrong) {
        return Err(Problem::refused(
            "A burst has 1 to 20 presses, at most 5 s apart, and at most twice as many are counted. Begin again.",
        ));
    }
    Ok(GapView { next: gap::next(&asked.tried, gap::least_ms(site, asked.device)), lost: gap::lost(&asked.tried) })
}

/// What the gap finder sends next.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gap", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = GapRequest,
    responses((status = 200, body = GapView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn gap_next(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<GapRequest>,
) -> Result<Json<GapView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    gap_view(&snapshot.site, &asked).map(Json)
}

/// A burst to be sent.
#[derive(Debug, Deserialize, ToSchema)]
pub struct BurstRequest {
    /// To which device.
    device: DeviceId,
    /// Which key.
    function: FunctionId,
    /// The pause between presses, in ms (40 to 5,000).
    pause_ms: u32,
    /// How many presses (1–20).
    presses: u32,
}

/// What came of a burst.
#[derive(Debug, Serialize, ToSchema)]
pub struct BurstView {
    /// Presses that the device followed, as it stands in the rehearsal room: what somebody in front of it would count.
    counted: u32,
}

/// Sends a burst in the rehearsal room, and tells how many presses were followed there.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gap/burst", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = BurstRequest,
    responses((status = 200, body = BurstView), (status = 404, body = Problem), (status = 422, body = Problem), (status = 502, body = Problem))
)]
pub async fn gap_burst(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    Body(asked): Body<BurstRequest>,
) -> Result<Json<BurstView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let site = &snapshot.site;
    if !gap::keys(site, asked.device).contains(&asked.function) {
        return Err(Problem::refused(
            "This key is never sent in bursts: it switches power, moves, heats or makes louder, or nothing is learned for it. Choose one whose effect can be counted.",
        ));
    }
    let least = gap::least_ms(site, asked.device);
    if !(least..=5_000).contains(&asked.pause_ms) || !(1..=20).contains(&asked.presses) {
        return Err(Problem::refused(
            "A burst has 1 to 20 presses, 40 ms to 5 s apart; light changes at most three times a second.",
        ));
    }
    let rehearsal = houses.rehearsal(house, room).await?;
    let counted = rehearsal.burst(asked.device, asked.function, asked.pause_ms, asked.presses).await?;
    Ok(Json(BurstView { counted }))
}

/// A pause that was found.
#[derive(Debug, Deserialize, ToSchema)]
pub struct FoundGap {
    /// Of which device.
    device: DeviceId,
    /// Between commands, or between digits.
    timing: Timing,
    /// All bursts, in the order in which they were sent.
    tried: Vec<Tried>,
    /// Where they were counted.
    seen: SeenIn,
}

/// Keeps the bursts of a search; what was found in the house is in use from now on. One step.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/gap/take", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = FoundGap,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem))
)]
pub async fn take_gap(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(found): Body<FoundGap>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let site = &snapshot.site;
    let asked = GapRequest { device: found.device, tried: found.tried };
    let NextBurst::Found { pause_ms, .. } = gap_view(site, &asked)?.next else {
        return Err(Problem::refused("The search has not come to its end. Send the next burst."));
    };
    if !found.timing.is_pause() {
        return Err(Problem::refused("Bursts find the pause between commands or between digits. Choose one of them."));
    }
    let who = super::who(&headers).name;
    let reading = |one: &Tried| {
        Entity::Measurement(Measurement {
            id: MeasurementId(Uuid::now_v7()),
            device: asked.device,
            timing: found.timing,
            ms: one.pause_ms,
            timed_out: false,
            burst: Some(Burst { sent: one.sent, counted: one.counted }),
            hot: false,
            seen: found.seen,
            by_way: "gap finder".to_owned(),
            at: Timestamp::now(),
            who: who.clone(),
            note: String::new(),
            struck: None,
        })
    };
    let mut all: Vec<Entity> = asked.tried.iter().map(reading).collect();
    if found.seen == SeenIn::House {
        all.extend(take::with_gap(site, asked.device, found.timing, pause_ms).map(Entity::Device));
    }
    Ok(Json(put_all(&houses, house, &headers, &snapshot, all).await?))
}

/// One switch of a round.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoundStop {
    /// From.
    from: Situation,
    /// To.
    to: Situation,
    /// Is it wanted, or does it only lead on?
    wanted: bool,
    /// When it begins, in s from the start of the round.
    at_s: u32,
    /// How long it takes, with a look at what is seen, in s.
    takes_s: u32,
    /// How long of that nothing is sent and nothing has to be done, in s.
    waits_s: u32,
    /// Tests that fit into that wait, by their place in the list.
    fits: Vec<usize>,
}

/// The round: the switches that are left, in the order that takes the least time.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoundView {
    /// Its switches.
    stops: Vec<RoundStop>,
    /// How long it takes, in s.
    takes_s: u32,
    /// How long of that is waiting, in s.
    waits_s: u32,
    /// No round takes less, in s.
    bound_s: u32,
    /// The same in a sentence.
    words: String,
}

/// The tests of a room.
#[derive(Debug, Serialize, ToSchema)]
pub struct TestsView {
    /// Every test, in the order of a visit.
    lines: Vec<TestLine>,
    /// Passed, or not possible here.
    done: usize,
    /// The round through the switches that are left; none where none is.
    round: Option<RoundView>,
    /// How long everything that is left takes, the round among it, in s.
    visit_s: u32,
    /// How long of that is waiting, in s.
    waiting_s: u32,
}

fn round_of(runs: &[Run], lines: &[TestLine]) -> Option<RoundView> {
    let mut places: Vec<Situation> = vec![Situation::Off];
    places.extend(runs.iter().map(|run| run.from).filter(|from| *from != Situation::Off));
    let unique: BTreeSet<Situation> = places.iter().copied().collect();
    places.retain({
        let mut left = unique;
        move |place| left.remove(place)
    });
    let at = |situation: Situation| places.iter().position(|place| *place == situation);
    let look = kestrel_core::commission::list::LOOK_S;
    let takes = |run: &Run| u64::from(run.settled_ms().div_ceil(1_000) + look);
    let mut cost = vec![vec![None; places.len()]; places.len()];
    for run in runs.iter().filter(|run| run.ready_ms.is_some()) {
        cost[at(run.from)?][at(run.to)?] = Some(takes(run));
    }
    let left = lines.iter().filter(|line| is_left(line)).filter_map(|line| match line.of {
        TestOf::Switch { from, to, hot: false, .. } => Some((at(from)?, at(to)?)),
        _ => None,
    });
    let wanted: Vec<(usize, usize)> = left.collect();
    if wanted.is_empty() {
        return None;
    }
    let Round { stops, cost: takes_s, bound } = round::round(&cost, &wanted, 0)?;
    let mut fits: Vec<usize> =
        lines.iter().enumerate().filter(|(_, line)| line.fits_in && is_left(line)).map(|(at, _)| at).collect();
    let mut open: BTreeSet<(usize, usize)> = wanted.iter().copied().collect();
    let mut at_s = 0;
    let mut all = Vec::new();
    for pair in stops.windows(2) {
        let (from, to) = (places[pair[0]], places[pair[1]]);
        let run = runs.iter().find(|run| (run.from, run.to) == (from, to))?;
        let takes_s = u32::try_from(takes(run)).unwrap_or(u32::MAX);
        let waits_s = (run.settled_ms().saturating_sub(run.sending_ms())) / 1_000;
        let mut room_s = waits_s;
        let mut here = Vec::new();
        fits.retain(|&line| {
            let goes = lines[line].takes_s <= room_s;
            if goes {
                room_s -= lines[line].takes_s;
                here.push(line);
            }
            !goes
        });
        all.push(RoundStop { from, to, wanted: open.remove(&(pair[0], pair[1])), at_s, takes_s, waits_s, fits: here });
        at_s += takes_s;
    }
    let s = |all: u64| u32::try_from(all).unwrap_or(u32::MAX);
    let waits_s = all.iter().map(|stop| stop.waits_s).sum();
    let exact = if bound == takes_s {
        "no shorter round exists".to_owned()
    } else {
        format!("no round takes less than {}", minutes(s(bound)))
    };
    let switches = if wanted.len() == 1 { "1 switch".to_owned() } else { format!("{} switches", wanted.len()) };
    let words = format!("{switches} in {}, {} of it waiting; {exact}.", minutes(s(takes_s)), minutes(waits_s));
    Some(RoundView { stops: all, takes_s: s(takes_s), waits_s, bound_s: s(bound), words })
}

/// 90 → “1 min 30 s”; hours from an hour on.
fn minutes(s: u32) -> String {
    match (s / 3_600, s / 60 % 60, s % 60) {
        (0, 0, s) => format!("{s} s"),
        (0, min, 0) => format!("{min} min"),
        (0, min, s) => format!("{min} min {s} s"),
        (h, min, _) => format!("{h} h {min} min"),
    }
}

/// The tests of a room, how each stands, and the round through what is left.
#[utoipa::path(
    get, path = "/api/houses/{house}/rooms/{room}/tests", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)),
    responses((status = 200, body = TestsView), (status = 404, body = Problem))
)]
pub async fn room_tests(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
) -> Result<Json<TestsView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let view = SOON.run(move || {
        let runs = houses.runs((house, room), &snapshot.site);
        let lines = list(&snapshot.site, room, &runs);
        let done = lines.iter().filter(|line| !is_left(line)).count();
        let round = round_of(&runs, &lines);
        let is_switch = |line: &&TestLine| matches!(line.of, TestOf::Switch { hot: false, .. });
        let in_waits: BTreeSet<usize> =
            round.iter().flat_map(|round| &round.stops).flat_map(|stop| stop.fits.iter().copied()).collect();
        let others = lines.iter().enumerate().filter(|(at, line)| is_left(line) && !in_waits.contains(at));
        let others: u32 = others.map(|(_, line)| line).filter(|line| !is_switch(line)).map(|line| line.takes_s).sum();
        let (round_s, waiting_s) = round.as_ref().map_or((0, 0), |round| (round.takes_s, round.waits_s));
        TestsView { lines, done, round, visit_s: others + round_s, waiting_s }
    });
    Ok(Json(view.await?))
}

/// What was seen.
#[derive(Debug, Deserialize, ToSchema)]
#[schema(as = SeenOfTest)]
pub struct Seen {
    /// Of which test.
    of: TestOf,
    /// What came of it.
    outcome: Outcome,
    /// What was seen, or why it is not possible.
    #[serde(default)]
    note: String,
    /// A photo that was kept.
    #[serde(default)]
    photo: Option<PhotoId>,
    /// When the result that was seen on the list was written down, in UTC; none where there was none. Where there is another
    /// one by now, this one is refused.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    known: Option<Timestamp>,
    /// When it was seen, in UTC; now, if none. A result that waited on a tablet says when it was; a clock that is ahead is
    /// taken back to now.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    at: Option<Timestamp>,
}

/// Writes the result of a test down, with what it rests on.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/tests/result", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = Seen,
    responses(
        (status = 200, body = SavedView), (status = 404, body = Problem),
        (status = 409, description = "The test is not on the list any more, or somebody else wrote a result down.", body = Problem),
        (status = 422, body = Problem),
    )
)]
pub async fn write_result(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(seen): Body<Seen>,
) -> Result<Json<SavedView>, Problem> {
    keep(&houses, house, room, &headers, seen, SeenIn::House).await.map(Json)
}

async fn keep(
    houses: &Houses,
    house: HouseId,
    room: RoomId,
    headers: &HeaderMap,
    seen: Seen,
    place: SeenIn,
) -> Result<SavedView, Problem> {
    let snapshot = room_of(houses, house, room).await?;
    let (own, site, of) = (houses.clone(), snapshot.site.clone(), seen.of.clone());
    let line = SOON.run(move || {
        let runs = own.runs((house, room), &site);
        list(&site, room, &runs).into_iter().find(|line| line.of == of)
    });
    let line = line.await?.ok_or_else(|| {
        let detail = "This test is not on the list any more: an edit has removed what it tests. What you saw can be kept as a note in the logbook.";
        Problem::new(axum::http::StatusCode::CONFLICT, "gone", detail)
    })?;
    if let Some(other) = line.result.as_ref().filter(|other| seen.known != Some(other.at)) {
        let what = match other.outcome {
            Outcome::Passed => "passed",
            Outcome::Failed => "failed",
            Outcome::NotPossible => "not possible here",
        };
        let who = if other.who.is_empty() { "Somebody" } else { &other.who };
        let detail =
            format!("{who} has written this test down meanwhile: {what}. Look at it, and say again what you saw.");
        return Err(Problem::new(axum::http::StatusCode::CONFLICT, "meanwhile", detail));
    }
    let now = Timestamp::now();
    let result = TestResult {
        id: line.result.as_ref().map_or_else(|| ResultId(Uuid::now_v7()), |known| known.id),
        of: seen.of,
        outcome: seen.outcome,
        seen: place,
        note: seen.note,
        photo: seen.photo,
        at: seen.at.filter(|at| *at <= now).unwrap_or(now),
        who: super::who(headers).name,
        facts: line.facts,
    };
    put_all(houses, house, headers, &snapshot, vec![Entity::Result(result)]).await
}

/// A test that the rehearsal room does.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ToRehearse {
    /// Which.
    of: TestOf,
}

/// Runs a test in the rehearsal room as far as that can see it, and keeps what came of it as *rehearsed*.
#[utoipa::path(
    post, path = "/api/houses/{house}/rooms/{room}/tests/rehearse", tag = "handover",
    params(("house" = HouseId, Path), ("room" = RoomId, Path)), request_body = ToRehearse,
    responses((status = 200, body = SavedView), (status = 404, body = Problem), (status = 422, body = Problem), (status = 502, body = Problem))
)]
pub async fn rehearse_test(
    State(houses): State<Houses>,
    Path((house, room)): Path<(HouseId, RoomId)>,
    headers: HeaderMap,
    Body(asked): Body<ToRehearse>,
) -> Result<Json<SavedView>, Problem> {
    let snapshot = room_of(&houses, house, room).await?;
    let site = snapshot.site.clone();
    let known = site.result_of(&asked.of);
    if known.is_some_and(|known| known.seen == SeenIn::House && known.outcome == Outcome::Passed) {
        return Err(Problem::refused("This was seen in the house, which says more. Nothing is rehearsed over it."));
    }
    let done = match asked.of.clone() {
        TestOf::Function { device, function } => {
            LONG.run(move || tested::function(&site, room, device, function)).await?
        }
        TestOf::Switch { from, to, hot: false, .. } => LONG.run(move || tested::switch(&site, room, from, to)).await?,
        TestOf::InStep { device, .. } => LONG.run(move || tested::noticed(&site, room, device)).await?,
        TestOf::Cue { cue } => SOON.run(move || Ok(tested::cue(&site, cue))).await?,
        _ => return Err(Problem::refused("The rehearsal room cannot see this by itself. Try it in the house.")),
    };
    let (passed, note) = done.map_err(RehearsalError::from)?;
    let outcome = if passed { Outcome::Passed } else { Outcome::Failed };
    let known = snapshot.site.result_of(&asked.of).map(|known| known.at);
    let seen = Seen { of: asked.of, outcome, note, photo: None, known, at: None };
    keep(&houses, house, room, &headers, seen, SeenIn::Rehearsed).await.map(Json)
}
