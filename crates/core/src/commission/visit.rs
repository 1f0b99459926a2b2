//! The visit: everything that is left to test in a room, the round through its switches, what fits into their waits, and
//! how long all of it takes.

use super::list::{self, LOOK_S, TestLine, is_left};
use super::round;
use super::run::Run;
use crate::id::RoomId;
use crate::model::{Site, Situation, TestOf};
use crate::words::minutes;
use serde::Serialize;
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// One switch of a round.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RoundStop {
    /// From.
    pub from: Situation,
    /// To.
    pub to: Situation,
    /// Is it wanted, or does it only lead on?
    pub wanted: bool,
    /// When it begins, in s from the start of the round.
    pub at_s: u32,
    /// How long it takes, with a look at what is seen, in s.
    pub takes_s: u32,
    /// How long of that nothing is sent and nothing has to be done, in s.
    pub waits_s: u32,
    /// Tests that fit into that wait, by their place in the list.
    pub fits: Vec<usize>,
}

/// The round: the switches that are left, in the order that takes the least time.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct RoundView {
    /// Its switches.
    pub stops: Vec<RoundStop>,
    /// How long it takes, in s.
    pub takes_s: u32,
    /// How long of that is waiting, in s.
    pub waits_s: u32,
    /// No round takes less, in s.
    pub bound_s: u32,
    /// The same in a sentence.
    pub words: String,
}

/// The tests of a room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = TestsView)]
pub struct Visit {
    /// Every test, in the order of a visit.
    pub lines: Vec<TestLine>,
    /// Passed, or not possible here.
    pub done: usize,
    /// The round through the switches that are left; none where none is.
    pub round: Option<RoundView>,
    /// How long everything that is left takes, the round among it, in s.
    pub visit_s: u32,
    /// How long of that is waiting, in s.
    pub waiting_s: u32,
}

/// The visit to a room whose switches are these.
#[must_use]
pub fn visit(site: &Site, room: RoomId, runs: &[Run]) -> Visit {
    let lines = list::list(site, room, runs);
    let done = lines.iter().filter(|line| !is_left(line)).count();
    let round = round_of(runs, &lines);
    let in_waits: BTreeSet<usize> =
        round.iter().flat_map(|round| &round.stops).flat_map(|stop| stop.fits.iter().copied()).collect();
    let by_itself = |(at, line): &(usize, &TestLine)| is_left(line) && walked(line).is_none() && !in_waits.contains(at);
    let others: u32 = lines.iter().enumerate().filter(by_itself).map(|(_, line)| line.takes_s).sum();
    let (round_s, waiting_s) = round.as_ref().map_or((0, 0), |round| (round.takes_s, round.waits_s));
    Visit { lines, done, round, visit_s: others + round_s, waiting_s }
}

/// The switch that a line walks from a room that has settled.
const fn walked(line: &TestLine) -> Option<(Situation, Situation)> {
    match line.of {
        TestOf::Switch { from, to, hot: false, .. } => Some((from, to)),
        _ => None,
    }
}

/// How long a switch takes, with a look at what is seen, in s.
fn takes_s(run: &Run) -> u32 {
    run.settled_ms().div_ceil(1_000).saturating_add(LOOK_S)
}

fn round_of(runs: &[Run], lines: &[TestLine]) -> Option<RoundView> {
    let mut places = vec![Situation::Off];
    for run in runs {
        if !places.contains(&run.from) {
            places.push(run.from);
        }
    }
    let at = |situation: Situation| places.iter().position(|place| *place == situation);
    let arc = |(from, to)| Some((at(from)?, at(to)?));
    let mut cost = vec![vec![None; places.len()]; places.len()];
    for run in runs.iter().filter(|run| run.ready_ms.is_some()) {
        let (from, to) = arc((run.from, run.to))?;
        cost[from][to] = Some(u64::from(takes_s(run)));
    }
    let wanted: Vec<(usize, usize)> =
        lines.iter().filter(|line| is_left(line)).filter_map(walked).filter_map(arc).collect();
    if wanted.is_empty() {
        return None;
    }
    let round::Round { stops, cost: takes, bound } = round::round(&cost, &wanted, 0)?;
    let mut waiting: Vec<usize> =
        lines.iter().enumerate().filter(|(_, line)| line.fits_in && is_left(line)).map(|(at, _)| at).collect();
    let mut open: BTreeSet<(usize, usize)> = wanted.iter().copied().collect();
    let mut at_s = 0;
    let mut all = Vec::new();
    for pair in stops.windows(2) {
        let (from, to) = (places[pair[0]], places[pair[1]]);
        let run = runs.iter().find(|run| (run.from, run.to) == (from, to))?;
        let takes_s = takes_s(run);
        let waits_s = run.settled_ms().saturating_sub(run.sending_ms()) / 1_000;
        let mut left_s = waits_s;
        let fits = waiting.extract_if(.., |line| {
            let goes = lines[*line].takes_s <= left_s;
            left_s -= if goes { lines[*line].takes_s } else { 0 };
            goes
        });
        let fits = fits.collect();
        all.push(RoundStop { from, to, wanted: open.remove(&(pair[0], pair[1])), at_s, takes_s, waits_s, fits });
        at_s += takes_s;
    }
    let s = |all: u64| u32::try_from(all).unwrap_or(u32::MAX);
    let waits_s = all.iter().map(|stop| stop.waits_s).sum();
    let exact = if bound == takes {
        "no shorter round exists".to_owned()
    } else {
        format!("no round takes less than {}", minutes(s(bound)))
    };
    let switches = if wanted.len() == 1 { "1 switch".to_owned() } else { format!("{} switches", wanted.len()) };
    let words = format!("{switches} in {}, {} of it waiting; {exact}.", minutes(s(takes)), minutes(waits_s));
    Some(RoundView { stops: all, takes_s: s(takes), waits_s, bound_s: s(bound), words })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::commission::runs;
    use crate::demo::{self, ids};

    fn of_hall() -> (Vec<Run>, Visit) {
        of_room(ids::boat_hall())
    }

    fn of_room(room: RoomId) -> (Vec<Run>, Visit) {
        let mut site = demo::marram_point();
        site.measurements = Default::default();
        site.results = Default::default();
        let runs = runs(&site, room);
        let visit = visit(&site, room, &runs);
        (runs, visit)
    }

    #[test]
    fn the_round_goes_from_off_to_off_through_every_switch_that_is_left() {
        let (_, visit) = of_hall();
        let round = visit.round.as_ref().unwrap();
        assert_eq!((round.stops[0].from, round.stops.last().unwrap().to), (Situation::Off, Situation::Off));
        assert!(
            round.stops.windows(2).all(|two| two[0].to == two[1].from && two[1].at_s == two[0].at_s + two[0].takes_s)
        );
        let wanted: BTreeSet<(Situation, Situation)> =
            visit.lines.iter().filter(|line| is_left(line)).filter_map(walked).collect();
        let walked: Vec<_> = round.stops.iter().filter(|stop| stop.wanted).map(|stop| (stop.from, stop.to)).collect();
        assert_eq!(walked.len(), wanted.len(), "each once");
        assert_eq!(walked.into_iter().collect::<BTreeSet<_>>(), wanted);
        assert_eq!(round.takes_s, round.stops.iter().map(|stop| stop.takes_s).sum::<u32>());
        assert!(round.bound_s <= round.takes_s);
    }

    #[test]
    fn what_fits_into_a_wait_is_done_once_and_takes_no_time_of_its_own() {
        // The loft has a keypad and a hand remote with labels, and a projector of its own to wait for.
        let (_, visit) = of_room(ids::chart_loft());
        let round = visit.round.as_ref().unwrap();
        let mut done = BTreeSet::new();
        for stop in &round.stops {
            let takes: u32 = stop.fits.iter().map(|&at| visit.lines[at].takes_s).sum();
            assert!(takes <= stop.waits_s);
            assert!(stop.fits.iter().all(|&at| visit.lines[at].fits_in && done.insert(at)));
        }
        assert!(!done.is_empty());
        let others = visit.lines.iter().enumerate().filter(|(at, line)| !done.contains(at) && walked(line).is_none());
        let others: u32 = others.filter(|(_, line)| is_left(line)).map(|(_, line)| line.takes_s).sum();
        assert_eq!(visit.visit_s, round.takes_s + others);
    }

    #[test]
    fn a_room_in_which_nothing_is_left_has_no_round() {
        let (runs, visit) = of_hall();
        let mut lines = visit.lines;
        for line in &mut lines {
            line.state = super::list::TestState::Passed;
        }
        assert_eq!(round_of(&runs, &lines), None);
        lines.iter_mut().find(|line| walked(line).is_some()).unwrap().state = super::list::TestState::Failed;
        assert!(round_of(&runs, &lines).unwrap().words.starts_with("1 switch in "));
    }
}
