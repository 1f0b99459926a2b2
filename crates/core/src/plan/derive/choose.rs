//! Which sequence each device is sent: branch and bound over the words of all chains, and within each choice over the
//! order of its sends.
//!
//! First the plan that is ready soonest, and of those the one that ends first. Then, as long as none of it is ready later
//! and all of it ends at most [`LATER_MS`] later, the one with the fewest transmissions. A choice is laid out only where
//! no bound says that it cannot be the best: for each chain the soonest of the words that are still open to it, for each
//! medium what all chains send on it at least ([`schedule::one_medium`]).

use super::{Chain, Deriver, Laid};
use crate::plan::chain::Send;
use crate::plan::jobs::Job;
use crate::plan::schedule::{self, BoundBy, Piece, Scheduled};
use crate::plan::{KeptRule, hand};
use smallvec::SmallVec;

/// For fewer transmissions the whole may end so much later, in ms.
const LATER_MS: u32 = 5_000;

/// Choices and partial schedules that are looked at in all.
const NODES: usize = 120_000;

/// Partial schedules that one choice may look at, round by round.
const EACH: [usize; 3] = [1_000, 10_000, NODES];

/// Choices that are laid out where rules, pins and lists can be kept in none of them.
const UNKEPT: usize = 24;

/// What came of it.
pub(super) struct Choice {
    pub(super) best: Option<Laid>,
    /// No plan is ready sooner, and why.
    pub(super) bound: (u32, Option<BoundBy>),
    /// Is it proved that no choice and no order is ready sooner?
    pub(super) proved: bool,
    pub(super) rules: Vec<KeptRule>,
    /// Choices and partial schedules looked at.
    pub(super) nodes: usize,
}

/// What one word of a chain adds to a plan, whatever else is sent.
#[derive(Clone)]
struct Figures {
    ready_ms: u32,
    end_ms: u32,
    sends: usize,
    /// What it sends on each medium before *ready*, as one piece: never sooner, never less, never a shorter tail.
    media: SmallVec<[(usize, Piece); 2]>,
}

impl Figures {
    fn of(job: &Job) -> Self {
        let mut media: SmallVec<[(usize, Piece); 2]> = SmallVec::new();
        let mut at = job.head_ms;
        for (place, op) in job.ops.iter().enumerate() {
            let rest = job.ready_rest(place);
            let tail_ms = rest.saturating_sub(op.send_ms);
            for medium in op.media.each().filter(|_| rest > 0) {
                match media.iter_mut().find(|(known, _)| *known == medium) {
                    Some((_, piece)) => {
                        piece.send_ms += op.send_ms;
                        piece.tail_ms = piece.tail_ms.min(tail_ms);
                    }
                    None => media.push((medium, Piece { head_ms: at, send_ms: op.send_ms, tail_ms })),
                }
            }
            at += op.send_ms + op.lag_ms;
        }
        Self {
            ready_ms: job.needed_ms(),
            end_ms: job.head_ms + job.rest(0, |op| op.settles_ms),
            sends: job.ops.len(),
            media,
        }
    }

    /// What holds for either of two words.
    fn least(&self, other: &Self) -> Self {
        let both = |(medium, own): &(usize, Piece)| {
            let (_, theirs) = other.media.iter().find(|(known, _)| known == medium)?;
            let piece = Piece {
                head_ms: own.head_ms.min(theirs.head_ms),
                send_ms: own.send_ms.min(theirs.send_ms),
                tail_ms: own.tail_ms.min(theirs.tail_ms),
            };
            Some((*medium, piece))
        };
        Self {
            ready_ms: self.ready_ms.min(other.ready_ms),
            end_ms: self.end_ms.min(other.end_ms),
            sends: self.sends.min(other.sends),
            media: self.media.iter().filter_map(both).collect(),
        }
    }
}

/// What no completion of a choice can be better than.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Bound {
    ready_ms: u32,
    by: Option<BoundBy>,
    end_ms: u32,
    sends: usize,
}

/// What is looked for.
#[derive(Clone, Copy)]
enum Aim {
    /// Ready before this, or as soon and ended before it.
    Sooner,
    /// No later, with fewer transmissions, or as many and ended sooner.
    Fewer { ready_ms: u32, end_ms: u32 },
}

struct Choosing<'c, 'd, 'r> {
    deriver: &'d Deriver<'r>,
    chains: &'c [Chain],
    arrival_from: usize,
    links: &'c [(usize, usize, u32)],
    /// For each chain what each of its words adds.
    words: Vec<Vec<Figures>>,
    /// For each chain what holds for all of its words.
    least: Vec<Figures>,
    /// The chains, those first whose words differ most.
    order: Vec<usize>,
    best: Option<(Laid, Vec<KeptRule>)>,
    nodes: usize,
    /// Choices that were laid out.
    laid: usize,
    /// Partial schedules that one choice may look at.
    each: usize,
    proved: bool,
}

impl Deriver<'_> {
    /// The best of the choices of words, each scheduled, and the bound over all of them.
    pub(super) fn best_choice(&self, chains: &[Chain], arrival_from: usize, links: &[(usize, usize, u32)]) -> Choice {
        let site = self.request.site;
        let figures = |chain: &Chain| -> Vec<Figures> {
            let one = |sends: &Vec<Send>| {
                let mut own = vec![sends.clone()];
                hand::carry_out(site, &mut own, &self.changes, &mut Vec::new());
                Figures::of(&self.job(&own[0], chain))
            };
            chain.options.iter().map(one).collect()
        };
        let words: Vec<Vec<Figures>> = chains.iter().map(figures).collect();
        let choosing = Choosing {
            deriver: self,
            chains,
            arrival_from,
            links,
            least: least_of(&words),
            order: (0..chains.len()).collect(),
            words,
            best: None,
            nodes: 0,
            laid: 0,
            each: 0,
            proved: true,
        };
        choosing.choose()
    }
}

impl Choosing<'_, '_, '_> {
    fn choose(mut self) -> Choice {
        let spread = |words: &[Figures]| {
            let ready = words.iter().map(|word| word.ready_ms);
            ready.clone().max().unwrap_or(0) - ready.min().unwrap_or(0)
        };
        let mut order = std::mem::take(&mut self.order);
        order.sort_by_key(|&at| (self.words[at].len() < 2, std::cmp::Reverse(spread(&self.words[at])), at));
        self.order = order;
        let open: Vec<Option<usize>> = self.words.iter().map(|words| (words.len() == 1).then_some(0)).collect();
        let root = self.bound(&open);
        // Each choice is first looked at for a short while: a poor one is not followed to its end before a better one.
        for each in EACH {
            (self.each, self.proved) = (each, true);
            self.go(&mut open.clone(), 0, Aim::Sooner);
            if self.proved || self.nodes > NODES {
                break;
            }
        }
        if let Some((known, _)) = &self.best
            && known.scheduled.feasible
        {
            let (ready_ms, end_ms) = (known.scheduled.ready_ms, known.scheduled.end_ms + LATER_MS);
            let proved = self.proved;
            self.go(&mut open.clone(), 0, Aim::Fewer { ready_ms, end_ms });
            // That none is ready sooner is known from before.
            self.proved = proved;
        }
        let (best, rules) = self.best.map_or((None, vec![]), |(best, rules)| (Some(best), rules));
        Choice { best, bound: (root.ready_ms, root.by), proved: self.proved, rules, nodes: self.nodes }
    }

    fn bound(&self, open: &[Option<usize>]) -> Bound {
        bound(&self.words, &self.least, open)
    }

    /// Can nothing that completes this choice be what is looked for?
    fn hopeless(&self, bound: Bound, aim: Aim) -> bool {
        let Some((known, _)) = &self.best else { return false };
        if !known.scheduled.feasible {
            return false;
        }
        let of_known = (known.scheduled.ready_ms, known.scheduled.end_ms, sent(&known.sends));
        match aim {
            Aim::Sooner => (bound.ready_ms, bound.end_ms) >= (of_known.0, of_known.1),
            Aim::Fewer { ready_ms, end_ms } => {
                bound.ready_ms > ready_ms
                    || bound.end_ms > end_ms
                    || (bound.sends, bound.end_ms) >= (of_known.2, of_known.1)
            }
        }
    }

    fn go(&mut self, open: &mut Vec<Option<usize>>, depth: usize, aim: Aim) {
        self.nodes += 1;
        let kept = self.best.as_ref().is_none_or(|(known, _)| known.scheduled.feasible);
        if self.nodes > NODES || (!kept && self.laid > UNKEPT) {
            self.proved = false;
            return;
        }
        if self.hopeless(self.bound(open), aim) {
            return;
        }
        let Some(&at) = self.order.get(depth).filter(|&&at| open[at].is_none()) else {
            return self.lay_out(open, aim);
        };
        let mut words: SmallVec<[usize; 8]> = (0..self.words[at].len()).collect();
        let key = |word: &Figures| match aim {
            Aim::Sooner => (word.ready_ms, word.end_ms, word.sends),
            Aim::Fewer { .. } => (0, 0, word.sends),
        };
        words.sort_by_key(|&word| key(&self.words[at][word]));
        for word in words {
            open[at] = Some(word);
            self.go(open, depth + 1, aim);
        }
        open[at] = None;
    }

    /// Schedules a choice, and keeps it where it is the best so far.
    fn lay_out(&mut self, open: &[Option<usize>], aim: Aim) {
        self.laid += 1;
        let site = self.deriver.request.site;
        let own = open.iter().zip(self.chains).map(|(word, chain)| chain.options[word.unwrap_or(0)].clone());
        let mut sends: Vec<Vec<Send>> = own.collect();
        let mut notes = Vec::new();
        let misfits = hand::carry_out(site, &mut sends, &self.deriver.changes, &mut notes);
        let jobs: Vec<Job> = sends.iter().zip(self.chains).map(|(own, chain)| self.deriver.job(own, chain)).collect();
        let (before, rules) = self.deriver.before(&sends, self.arrival_from, self.links, &mut notes);
        let known = self.best.as_ref().map(|(known, _)| &known.scheduled).filter(|known| known.feasible);
        let left = NODES.saturating_sub(self.nodes).min(self.each);
        let limit = known.map(|known| match aim {
            Aim::Sooner => (known.ready_ms, known.end_ms),
            // Fewer or as many, ended sooner: what ends with more was passed over by its bound.
            Aim::Fewer { ready_ms, end_ms } => (ready_ms, end_ms + 1),
        });
        let scheduled = match limit {
            None => schedule::schedule_within(&jobs, &before, left.max(EACH[0])),
            Some(limit) => {
                let below = schedule::schedule_below(&jobs, &before, left, Some(limit));
                self.nodes += below.nodes;
                self.proved &= below.proved;
                let Some(found) = below.found else { return };
                found
            }
        };
        if limit.is_none() {
            self.nodes += scheduled.nodes;
            self.proved &= scheduled.optimal;
        }
        let better = match (&self.best, aim) {
            (None, _) => true,
            (Some((known, _)), _) if !known.scheduled.feasible => figure(&scheduled) < figure(&known.scheduled),
            (_, Aim::Sooner) => true,
            (Some((known, _)), Aim::Fewer { .. }) => {
                (sent(&sends), scheduled.end_ms) < (sent(&known.sends), known.scheduled.end_ms)
            }
        };
        if better {
            self.best = Some((Laid { sends, jobs, scheduled, misfits, notes }, rules));
        }
    }
}

/// What no completion of a choice can be better than.
fn bound(words: &[Vec<Figures>], least: &[Figures], open: &[Option<usize>]) -> Bound {
    let mut bound = Bound { ready_ms: 0, by: None, end_ms: 0, sends: 0 };
    let mut media: SmallVec<[(usize, SmallVec<[Piece; 8]>); 4]> = SmallVec::new();
    for (at, chosen) in open.iter().enumerate() {
        let own = chosen.map_or(&least[at], |word| &words[at][word]);
        if own.ready_ms > bound.ready_ms {
            (bound.ready_ms, bound.by) = (own.ready_ms, Some(BoundBy::Chain(at)));
        }
        bound.end_ms = bound.end_ms.max(own.end_ms);
        bound.sends += own.sends;
        for &(medium, piece) in &own.media {
            match media.iter_mut().find(|(known, _)| *known == medium) {
                Some((_, pieces)) => pieces.push(piece),
                None => media.push((medium, SmallVec::from_slice(&[piece]))),
            }
        }
    }
    for (medium, mut pieces) in media {
        let soonest = schedule::one_medium(&mut pieces);
        if soonest > bound.ready_ms {
            (bound.ready_ms, bound.by) = (soonest, u8::try_from(medium).ok().map(BoundBy::Medium));
        }
    }
    bound.end_ms = bound.end_ms.max(bound.ready_ms);
    bound
}

fn least_of(words: &[Vec<Figures>]) -> Vec<Figures> {
    let none = Figures { ready_ms: 0, end_ms: 0, sends: 0, media: SmallVec::new() };
    words.iter().map(|words| words.iter().cloned().reduce(|a, b| a.least(&b)).unwrap_or(none.clone())).collect()
}

fn sent(sends: &[Vec<Send>]) -> usize {
    sends.iter().map(Vec::len).sum()
}

fn figure(scheduled: &Scheduled) -> (bool, u32, u32) {
    (!scheduled.feasible, scheduled.ready_ms, scheduled.end_ms)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::plan::jobs::{Media, Op};
    use proptest::prelude::*;

    fn any_word() -> impl Strategy<Value = Job> {
        let op = (0u8..3, 1u32..300, 0u32..400, 0u32..900, prop::bool::weighted(0.8));
        let op = op.prop_map(|(medium, send_ms, lag_ms, tail, needed)| Op {
            media: if medium < 2 { Media::one(medium) } else { Media::NONE },
            send_ms,
            lag_ms,
            within_ms: None,
            shows_ms: tail,
            settles_ms: tail,
            needed,
            pin_ms: None,
        });
        (prop::collection::vec(op, 0..4), 0u32..300).prop_map(|(ops, head_ms)| Job { head_ms, ops })
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(150))]

        /// Whatever words are taken for the chains that are open, no schedule of them is better than the bound.
        #[test]
        fn no_completion_of_a_choice_beats_its_bound(
            chains in prop::collection::vec(prop::collection::vec(any_word(), 1..4), 1..4),
            taken in prop::collection::vec(prop::option::of(0usize..3), 3),
        ) {
            let words: Vec<Vec<Figures>> = chains.iter().map(|words| words.iter().map(Figures::of).collect()).collect();
            let open: Vec<Option<usize>> =
                chains.iter().zip(&taken).map(|(words, taken)| taken.map(|word| word % words.len())).collect();
            let bound = bound(&words, &least_of(&words), &open);
            let mut choices: Vec<Vec<usize>> = vec![vec![]];
            for (words, open) in chains.iter().zip(&open) {
                let own: Vec<usize> = open.map_or_else(|| (0..words.len()).collect(), |word| vec![word]);
                choices = choices
                    .iter()
                    .flat_map(|known| own.iter().map(|&word| [known.as_slice(), &[word]].concat()).collect::<Vec<_>>())
                    .collect();
            }
            for choice in choices {
                let jobs: Vec<Job> = choice.iter().zip(&chains).map(|(&word, words)| words[word].clone()).collect();
                let scheduled = schedule::schedule(&jobs, &[]);
                prop_assert!(bound.ready_ms <= scheduled.ready_ms, "{bound:?} {scheduled:?}");
                prop_assert!(bound.end_ms <= scheduled.end_ms.max(scheduled.ready_ms));
                prop_assert!(bound.sends <= jobs.iter().map(|job| job.ops.len()).sum());
            }
        }
    }

    use crate::file;
    use crate::model::{Site, Situation};
    use crate::plan::airspace::Airspace;
    use crate::plan::{PlanRequest, couple, goal};
    use rstest::rstest;

    /// Ready, transmissions and end of the best choice, and of the best of all choices laid out one by one; none where
    /// there are too many of them.
    fn both_ways(site: &Site, to: &str) -> Option<[(u32, usize, u32); 2]> {
        let room = site.rooms.iter().find(|room| room.name == "R").unwrap().id;
        let activity = site.activities.iter().find(|known| known.name == to).unwrap().id;
        let (from, to) = (Situation::Off, Situation::In { activity });
        let groups = couple::groups(site, room);
        let start = goal::start(site, room, from);
        let request = PlanRequest { from: Some(from), ..crate::plan::request(site, room, &groups, &start, to) };
        let goals = goal::goals(site, room, to).devices.into_iter().map(|goal| (goal.device, goal)).collect();
        let media = Airspace::of(&request);
        let deriver = Deriver { request: &request, goals, changes: vec![], media, findings: vec![] };
        let known = groups.iter().zip(&request.known).enumerate();
        let chains: Vec<Chain> =
            known.filter_map(|(at, (group, known))| deriver.single(at, group, known).chain).collect();
        let product = chains.iter().map(|chain| chain.options.len()).product::<usize>();
        if product > 1_500 {
            return None;
        }
        let mut choices: Vec<Vec<Vec<Send>>> = vec![vec![]];
        for chain in &chains {
            let with = |known: &Vec<Vec<Send>>| {
                chain
                    .options
                    .iter()
                    .map(|own| [known.as_slice(), std::slice::from_ref(own)].concat())
                    .collect::<Vec<_>>()
            };
            choices = choices.iter().flat_map(with).collect();
        }
        let figures = choices.into_iter().map(|sends| {
            let jobs: Vec<Job> = sends.iter().zip(&chains).map(|(own, chain)| deriver.job(own, chain)).collect();
            let (before, _) = deriver.before(&sends, chains.len(), &[], &mut Vec::new());
            let scheduled = schedule::schedule(&jobs, &before);
            (scheduled.ready_ms, sent(&sends), scheduled.end_ms)
        });
        let figures: Vec<(u32, usize, u32)> = figures.collect();
        let ready = figures.iter().map(|figure| figure.0).min()?;
        let as_soon = || figures.iter().filter(|figure| figure.0 == ready);
        let end = as_soon().map(|figure| figure.2).min()?;
        let few = as_soon().filter(|figure| figure.2 <= end + LATER_MS).min_by_key(|figure| (figure.1, figure.2))?;
        let best = deriver.best_choice(&chains, chains.len(), &[]).best?;
        Some([(best.scheduled.ready_ms, sent(&best.sends), best.scheduled.end_ms), *few])
    }

    #[rstest]
    #[case(include_str!("../../../tests/data/truth/the-right-input-already.kdune.json"), "B")]
    #[case(include_str!("../../../tests/data/truth/a-chain-that-comes-on-right.kdune.json"), "Act 1")]
    #[case(include_str!("../../../tests/data/truth/something-that-moves-and-switches.kdune.json"), "B")]
    fn no_choice_of_words_tried_one_by_one_is_better(#[case] text: &str, #[case] to: &str) {
        let [found, best] = both_ways(&file::read(text).unwrap(), to).expect("few enough choices");
        assert_eq!(found, best);
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        /// The same for one of these rooms whose devices take other times.
        #[test]
        fn nor_where_devices_take_other_times(
            times in prop::collection::vec((0u32..9_000, 0u32..6_000, 0u32..3_000, 0u32..900), 12),
        ) {
            let mut site =
                file::read(include_str!("../../../tests/data/truth/a-chain-that-comes-on-right.kdune.json")).unwrap();
            for (profile, (warm, picture, input, gap)) in site.profiles.iter_mut().zip(times) {
                profile.times.warm_up.hi_ms = profile.times.warm_up.lo_ms.max(warm);
                profile.times.picture.hi_ms = profile.times.picture.lo_ms.max(warm + picture);
                profile.times.input.hi_ms = profile.times.input.lo_ms.max(input);
                profile.times.gap_ms = gap;
            }
            if let Some([found, best]) = both_ways(&site, "Act 1") {
                prop_assert_eq!(found, best);
            }
        }
    }
}
