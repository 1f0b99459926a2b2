//! The cheapest set of gateways that reaches every device: a small 0/1 programme, solved to its end.
//!
//! A *candidate* is a box of one model at one spot with one facing. It costs its price, and serves a device for nothing, for
//! the price of a lead, or not at all. Which candidates are opened, and which of them serves each device, is a facility
//! location problem. The bound of a branch is that of dual ascent [Erlenkotter 1978]: each device offers what it would pay,
//! raised in turn until every candidate that it could use is paid for; what all offer together no set can beat.

use std::collections::BTreeSet;

/// How a candidate serves one device.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Serves {
    /// What it costs besides the box: a lead; in the smallest unit of the house's money.
    pub extra: u64,
    /// The margin with which it is reached, in dB.
    pub margin_db: f64,
}

/// A box of one model at one spot with one facing.
#[derive(Debug, Clone, PartialEq)]
pub struct Candidate {
    /// What it costs, in the smallest unit of the house's money.
    pub price: u64,
    /// How it serves each device; none where it does not.
    pub serves: Vec<Option<Serves>>,
}

/// A set of gateways.
#[derive(Debug, Clone, PartialEq)]
pub struct Cover {
    /// Which candidates.
    pub chosen: Vec<usize>,
    /// Which of them serves each device.
    pub by: Vec<usize>,
    /// What all of it costs.
    pub price: u64,
    /// No set costs less than this.
    pub bound: u64,
    /// The smallest margin of all devices, in dB.
    pub least_db: f64,
    /// Devices of which no two can be served by one candidate: that many boxes are needed at least.
    pub apart: Vec<usize>,
}

impl Cover {
    /// Is it proved that no set is cheaper?
    #[must_use]
    pub const fn is_proved(&self) -> bool {
        self.bound == self.price
    }
}

/// Why there is no set.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NoCover {
    /// These devices are reached by nothing.
    Unreached(Vec<usize>),
    /// It was given up before any set was found.
    Stopped,
}

/// The cheapest set for so many devices; among equals the one whose smallest margin is greatest. `goes_on` is asked now and
/// then, with the price of what was found so far and what no set costs less than: where it says no, the best set so far is
/// told with its bound.
///
/// # Errors
/// Where some device is reached by nothing, or it was given up before any set was found.
pub fn cheapest(
    candidates: &[Candidate],
    devices: usize,
    goes_on: &mut dyn FnMut(Option<u64>, u64) -> bool,
) -> Result<Cover, NoCover> {
    let unreached: Vec<usize> =
        (0..devices).filter(|&device| candidates.iter().all(|own| own.serves[device].is_none())).collect();
    if !unreached.is_empty() {
        return Err(NoCover::Unreached(unreached));
    }
    let own = worth_it(candidates, devices);
    let mut search = Search::new(candidates, &own, devices, f64::NEG_INFINITY);
    let proved = search.run(u64::MAX, goes_on);
    let Some((price, mut open)) = search.best.take() else { return Err(NoCover::Stopped) };
    let bound = if proved { price } else { search.least_bound.min(price) };
    // Among equals: the greatest margin for which there is still a set of that price.
    let mut margins: Vec<f64> =
        candidates.iter().flat_map(|own| own.serves.iter().flatten().map(|serves| serves.margin_db)).collect();
    margins.sort_by(f64::total_cmp);
    margins.dedup();
    let (mut low, mut high) = (0, margins.len());
    while proved && high - low > 1 {
        let middle = usize::midpoint(low, high);
        let mut narrower =
            Search::new(candidates, &worth_above(candidates, devices, margins[middle]), devices, margins[middle]);
        let ended = narrower.run(price + 1, goes_on);
        match narrower.best {
            Some((_, found)) => {
                open = found;
                low = middle;
            }
            None => high = middle,
        }
        if !ended {
            break;
        }
    }
    let at_least = margins.get(low).copied().filter(|_| low > 0).unwrap_or(f64::NEG_INFINITY);
    Ok(told(candidates, devices, &open, at_least, bound))
}

fn told(candidates: &[Candidate], devices: usize, open: &[usize], at_least: f64, bound: u64) -> Cover {
    let mut by = Vec::with_capacity(devices);
    let (mut extras, mut least_db) = (0, f64::INFINITY);
    for device in 0..devices {
        let ways = open.iter().filter_map(|&at| Some((at, candidates[at].serves[device]?)));
        let ways = ways.filter(|(_, own)| own.margin_db >= at_least);
        let best = ways.min_by(|(_, a), (_, b)| a.extra.cmp(&b.extra).then(b.margin_db.total_cmp(&a.margin_db)));
        let Some((at, own)) = best else { continue };
        by.push(at);
        extras += own.extra;
        least_db = least_db.min(own.margin_db);
    }
    let used: BTreeSet<usize> = by.iter().copied().collect();
    let chosen: Vec<usize> = used.into_iter().collect();
    let price = extras + chosen.iter().map(|&at| candidates[at].price).sum::<u64>();
    Cover { chosen, by, price, bound, least_db, apart: apart(candidates, devices) }
}

/// Devices of which no two can be served by one candidate: those that fewest serve first.
fn apart(candidates: &[Candidate], devices: usize) -> Vec<usize> {
    let serving = |device: usize| candidates.iter().filter(move |own| own.serves[device].is_some());
    let mut order: Vec<usize> = (0..devices).collect();
    order.sort_by_key(|&device| serving(device).count());
    let mut apart: Vec<usize> = Vec::new();
    for device in order {
        if serving(device).all(|own| apart.iter().all(|&other| own.serves[other].is_none())) {
            apart.push(device);
        }
    }
    apart
}

/// Candidates that no other one makes needless: none that costs no more serves all that it does for no more.
fn worth_it(candidates: &[Candidate], devices: usize) -> Vec<usize> {
    worth_above(candidates, devices, f64::NEG_INFINITY)
}

fn worth_above(candidates: &[Candidate], devices: usize, at_least: f64) -> Vec<usize> {
    let cost = |at: usize, device: usize| {
        candidates[at].serves[device].filter(|own| own.margin_db >= at_least).map(|own| own.extra)
    };
    let reaches = |at: usize| (0..devices).filter(|&device| cost(at, device).is_some()).count();
    let mut order: Vec<(usize, usize)> = (0..candidates.len()).map(|at| (at, reaches(at))).collect();
    order.retain(|(_, many)| *many > 0);
    // Whoever reaches most and costs least comes first, and makes the others needless.
    order.sort_by_key(|&(at, many)| (std::cmp::Reverse(many), candidates[at].price, at));
    let mut kept: Vec<usize> = Vec::new();
    for (at, _) in order {
        let beaten = kept.iter().any(|&other| {
            candidates[other].price <= candidates[at].price
                && (0..devices).all(|device| match (cost(at, device), cost(other, device)) {
                    (None, _) => true,
                    (Some(own), Some(theirs)) => theirs <= own,
                    (Some(_), None) => false,
                })
        });
        if !beaten {
            kept.push(at);
        }
    }
    kept
}

/// Costs nothing can have.
const NEVER: u64 = u64::MAX / 4;

struct Search {
    /// Which candidate each one is.
    names: Vec<usize>,
    price: Vec<u64>,
    /// What a candidate takes for a device: by candidate, then device.
    cost: Vec<Vec<u64>>,
    devices: usize,
    best: Option<(u64, Vec<usize>)>,
    /// The least bound of what was left when it was given up.
    least_bound: u64,
    /// No set that it looks for costs less than this.
    root_bound: u64,
    nodes: u64,
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Fixed {
    Free,
    Open,
    Shut,
}

/// What dual ascent says of a branch.
struct Dual {
    bound: u64,
    /// What each device offers.
    offers: Vec<u64>,
    /// What is still unpaid of each candidate.
    unpaid: Vec<u64>,
}

impl Search {
    fn new(candidates: &[Candidate], own: &[usize], devices: usize, at_least: f64) -> Self {
        let cost = |at: usize, device: usize| {
            candidates[at].serves[device].filter(|own| own.margin_db >= at_least).map_or(NEVER, |own| own.extra)
        };
        Self {
            names: own.to_vec(),
            price: own.iter().map(|&at| candidates[at].price).collect(),
            cost: own.iter().map(|&at| (0..devices).map(|device| cost(at, device)).collect()).collect(),
            devices,
            best: None,
            least_bound: u64::MAX,
            root_bound: 0,
            nodes: 0,
        }
    }

    /// Looks for the cheapest set below a price. Was it looked for to the end?
    fn run(&mut self, below: u64, goes_on: &mut dyn FnMut(Option<u64>, u64) -> bool) -> bool {
        self.branch(&mut vec![Fixed::Free; self.price.len()], below, goes_on)
    }

    fn best_below(&self, below: u64) -> u64 {
        self.best.as_ref().map_or(below, |(price, _)| (*price).min(below))
    }

    fn branch(&mut self, fixed: &mut [Fixed], below: u64, goes_on: &mut dyn FnMut(Option<u64>, u64) -> bool) -> bool {
        self.nodes += 1;
        let Some(dual) = self.ascend(fixed) else { return true };
        if self.nodes == 1 {
            self.root_bound = dual.bound;
        }
        if dual.bound >= self.best_below(below) {
            return true;
        }
        if self.nodes.is_multiple_of(64) && !goes_on(self.best.as_ref().map(|(price, _)| *price), self.root_bound) {
            self.least_bound = self.least_bound.min(dual.bound);
            return false;
        }
        let (price, open) = self.primal(fixed, &dual);
        if price < self.best_below(below) {
            self.best = Some((price, open.iter().map(|&at| self.names[at]).collect()));
        }
        if price <= dual.bound {
            return true;
        }
        let Some(at) = self.branches_at(fixed, &dual, &open) else { return true };
        let mut ended = true;
        for way in [Fixed::Open, Fixed::Shut] {
            fixed[at] = way;
            ended &= self.branch(fixed, below, goes_on);
            if !ended {
                self.least_bound = self.least_bound.min(dual.bound);
                break;
            }
        }
        fixed[at] = Fixed::Free;
        ended
    }

    /// Raises what each device offers until everything that it could use is paid for. None where a device has nothing left.
    fn ascend(&self, fixed: &[Fixed]) -> Option<Dual> {
        let there: Vec<usize> = (0..fixed.len()).filter(|&at| fixed[at] != Fixed::Shut).collect();
        let mut unpaid: Vec<u64> =
            (0..fixed.len()).map(|at| if fixed[at] == Fixed::Open { 0 } else { self.price[at] }).collect();
        let mut offers = Vec::with_capacity(self.devices);
        let mut steps: Vec<Vec<u64>> = Vec::with_capacity(self.devices);
        for device in 0..self.devices {
            let mut all: Vec<u64> =
                there.iter().map(|&at| self.cost[at][device]).filter(|cost| *cost < NEVER).collect();
            all.sort_unstable();
            all.dedup();
            offers.push(*all.first()?);
            steps.push(all);
        }
        // Devices that few can serve first: what they offer is offered by nobody else.
        let mut order: Vec<usize> = (0..self.devices).collect();
        order.sort_by_key(|&device| there.iter().filter(|&&at| self.cost[at][device] < NEVER).count());
        let mut raised = true;
        while raised {
            raised = false;
            for &device in &order {
                let own = offers[device];
                let pays = |at: &&usize| self.cost[**at][device] <= own;
                let most = there.iter().filter(pays).map(|&at| unpaid[at]).min().unwrap_or(0);
                let next = steps[device].iter().copied().find(|step| *step > own);
                let by = next.map_or(most, |next| most.min(next - own));
                if by == 0 {
                    continue;
                }
                for &at in &there {
                    if self.cost[at][device] <= own {
                        unpaid[at] -= by;
                    }
                }
                offers[device] = own + by;
                raised = true;
            }
        }
        let fixed_price: u64 = (0..fixed.len()).filter(|&at| fixed[at] == Fixed::Open).map(|at| self.price[at]).sum();
        Some(Dual { bound: fixed_price + offers.iter().sum::<u64>(), offers, unpaid })
    }

    /// A set that is there: what is open, and of what is paid for as little as serves everybody.
    fn primal(&self, fixed: &[Fixed], dual: &Dual) -> (u64, Vec<usize>) {
        let mut open: Vec<usize> = (0..fixed.len()).filter(|&at| fixed[at] == Fixed::Open).collect();
        let paid: Vec<usize> =
            (0..fixed.len()).filter(|&at| fixed[at] == Fixed::Free && dual.unpaid[at] == 0).collect();
        for device in 0..self.devices {
            let serves = |at: &usize| self.cost[*at][device] <= dual.offers[device];
            if open.iter().any(serves) {
                continue;
            }
            let least = paid.iter().copied().filter(serves).min_by_key(|&at| (self.cost[at][device], self.price[at]));
            open.extend(least);
        }
        // What is needless goes again.
        let mut price = self.price_of(&open);
        let mut at = 0;
        while at < open.len() {
            if fixed[open[at]] == Fixed::Open {
                at += 1;
                continue;
            }
            let mut without = open.clone();
            without.remove(at);
            let less = self.price_of(&without);
            if less <= price {
                (open, price) = (without, less);
            } else {
                at += 1;
            }
        }
        (price, open)
    }

    fn price_of(&self, open: &[usize]) -> u64 {
        let mut price: u64 = open.iter().map(|&at| self.price[at]).sum();
        for device in 0..self.devices {
            price = price.saturating_add(open.iter().map(|&at| self.cost[at][device]).min().unwrap_or(NEVER));
        }
        price
    }

    /// The candidate on which the two sides differ most: free, paid for, and paid by the most devices.
    fn branches_at(&self, fixed: &[Fixed], dual: &Dual, open: &[usize]) -> Option<usize> {
        let free = (0..fixed.len()).filter(|&at| fixed[at] == Fixed::Free);
        free.max_by_key(|&at| {
            let pay = (0..self.devices).filter(|&device| self.cost[at][device] < dual.offers[device]).count();
            (dual.unpaid[at] == 0, open.contains(&at), pay)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn box_of(price: u64, serves: &[Option<(u64, f64)>]) -> Candidate {
        let serves = serves.iter().map(|own| own.map(|(extra, margin_db)| Serves { extra, margin_db })).collect();
        Candidate { price, serves }
    }

    fn solved(candidates: &[Candidate], devices: usize) -> Result<Cover, NoCover> {
        cheapest(candidates, devices, &mut |_, _| true)
    }

    #[test]
    fn two_boxes_at_58_are_cheaper_than_one_for_everything_at_74() {
        let all = [
            box_of(2_900, &[Some((0, 9.0)), Some((0, 8.0)), None]),
            box_of(2_900, &[None, None, Some((0, 7.0))]),
            box_of(7_400, &[Some((0, 20.0)), Some((0, 20.0)), Some((0, 20.0))]),
        ];
        let found = solved(&all, 3).unwrap();
        assert_eq!((found.price, found.bound, &found.chosen[..]), (5_800, 5_800, &[0, 1][..]));
        assert_eq!((found.least_db, found.apart.len()), (7.0, 1));
        assert!(found.is_proved());
    }

    #[test]
    fn a_lead_is_bought_where_it_is_cheaper_than_another_box() {
        let all = [box_of(2_900, &[Some((0, 9.0)), Some((600, 21.0))]), box_of(2_900, &[None, Some((0, 9.0))])];
        let found = solved(&all, 2).unwrap();
        assert_eq!((found.price, &found.chosen[..], &found.by[..]), (3_500, &[0][..], &[0, 0][..]));
    }

    #[test]
    fn among_equals_the_greatest_smallest_margin_wins() {
        let all = [
            box_of(2_900, &[Some((0, 6.5)), Some((0, 20.0))]),
            box_of(2_900, &[Some((0, 9.0)), Some((0, 8.0))]),
            box_of(3_000, &[Some((0, 30.0)), Some((0, 30.0))]),
        ];
        let found = solved(&all, 2).unwrap();
        assert_eq!((&found.chosen[..], found.least_db), (&[1][..], 8.0));
    }

    #[test]
    fn what_nothing_reaches_is_named_and_what_needs_two_boxes_says_so() {
        let all = [box_of(100, &[Some((0, 9.0)), None, None]), box_of(100, &[None, None, Some((0, 9.0))])];
        assert_eq!(solved(&all, 3), Err(NoCover::Unreached(vec![1])));
        let all = [box_of(100, &[Some((0, 9.0)), None]), box_of(100, &[None, Some((0, 9.0))])];
        assert_eq!(solved(&all, 2).unwrap().apart.len(), 2, "no box serves both");
    }

    #[test]
    fn nobody_waits_for_what_was_given_up() {
        let all: Vec<Candidate> = (0..60_u64)
            .map(|at| {
                let serves = |device: u64| ((at * 7 + device * 13) % 5 < 2).then_some(((at + device) % 3, 9.0));
                box_of(100 + at % 7, &(0..30).map(serves).collect::<Vec<_>>())
            })
            .collect();
        let mut asked = 0;
        let stopped = cheapest(&all, 30, &mut |_, _| {
            asked += 1;
            false
        });
        let whole = solved(&all, 30).unwrap();
        assert!(whole.is_proved());
        if let Ok(cut) = stopped {
            assert!(asked == 0 || cut.bound <= whole.price && cut.price >= whole.price, "{cut:?}");
        }
    }

    /// Every set of candidates, tried.
    fn by_force(candidates: &[Candidate], devices: usize) -> Option<(u64, f64)> {
        let mut best: Option<(u64, f64)> = None;
        for set in 1_u32..1 << candidates.len() {
            let open: Vec<&Candidate> =
                (0..candidates.len()).filter(|at| set >> at & 1 == 1).map(|at| &candidates[at]).collect();
            let bare: u64 = open.iter().map(|own| own.price).sum();
            // For every margin that could be the least one.
            let margins: BTreeSet<u64> =
                open.iter().flat_map(|own| own.serves.iter().flatten()).map(|own| own.margin_db.to_bits()).collect();
            for least in margins.into_iter().map(f64::from_bits) {
                let extra = |device: usize| {
                    let ways = open.iter().filter_map(|own| own.serves[device]);
                    ways.filter(|own| own.margin_db >= least).map(|own| own.extra).min()
                };
                let extras: Option<u64> = (0..devices).map(extra).sum();
                let Some(price) = extras.map(|extras| extras + bare) else { continue };
                if best.is_none_or(|(known, db)| price < known || price == known && least > db) {
                    best = Some((price, least));
                }
            }
        }
        best
    }

    fn some() -> impl Strategy<Value = (usize, Vec<Candidate>)> {
        (1_usize..7).prop_flat_map(|devices| {
            let serves = proptest::option::weighted(0.5, (0_u64..4, 6_u32..20));
            let own = (1_u64..30, proptest::collection::vec(serves, devices)).prop_map(|(price, serves)| {
                let serves: Vec<_> =
                    serves.into_iter().map(|own| own.map(|(extra, db)| (extra, f64::from(db)))).collect();
                box_of(price, &serves)
            });
            (Just(devices), proptest::collection::vec(own, 1..9))
        })
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        /// space.md: “Set cover against brute force on small cases”.
        #[test]
        fn no_set_is_cheaper((devices, candidates) in some()) {
            match (solved(&candidates, devices), by_force(&candidates, devices)) {
                (Ok(found), Some((price, least))) => {
                    prop_assert_eq!((found.price, found.bound), (price, price));
                    prop_assert!(found.least_db >= least, "{} of {least} dB", found.least_db);
                    prop_assert!(found.apart.len() <= found.chosen.len());
                }
                (Err(NoCover::Unreached(_)), None) => {}
                other => prop_assert!(false, "{:?}", other),
            }
        }

        #[test]
        fn fourteen_spots_are_no_trouble(candidates in proptest::collection::vec(
            (1_u64..30, proptest::collection::vec(proptest::option::weighted(0.4, (0_u64..4, 6_u32..20)), 8)), 14
        )) {
            let all: Vec<Candidate> = candidates.into_iter().map(|(price, serves)| {
                let serves: Vec<_> = serves.into_iter().map(|own| own.map(|(extra, db)| (extra, f64::from(db)))).collect();
                box_of(price, &serves)
            }).collect();
            let found = solved(&all, 8);
            let forced = by_force(&all, 8).map(|(price, _)| price);
            prop_assert_eq!(found.ok().map(|own| own.price), forced);
        }
    }
}
