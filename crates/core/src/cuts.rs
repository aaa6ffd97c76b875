//! Which ties to cut so that modules no longer reach each other: the minimum feedback arc set, with weights.

use crate::graph::{Graph, Tie};
use std::collections::BTreeMap;

/// The lightest set is worked out for cycles of up to so many modules; the work doubles with each.
const MOST_EXACT: usize = 15;

/// Ties between `modules`, sorted, without which they do not reach each other, and whether no other such set is lighter.
pub fn cheapest_cuts(graph: &Graph, modules: &[usize]) -> (Vec<(usize, usize)>, bool) {
    let inside: Vec<&Tie> = graph
        .ties
        .iter()
        .filter(|tie| modules.binary_search(&tie.from).is_ok() && modules.binary_search(&tie.to).is_ok())
        .collect();
    let costs = Costs::new(&inside, modules);
    let mut order = costs.sifted(feedback_order(&inside, modules));
    let mut cuts = backward(&inside, &order, graph.modules);
    let exact = modules.len() <= MOST_EXACT;
    if exact {
        order = costs.lightest_order();
        let best = backward(&inside, &order, graph.modules);
        let weight = |cuts: &[&Tie]| -> u64 { cuts.iter().map(|tie| weight_of(tie)).sum() };
        // Of sets of one weight the one that was found first stays.
        if weight(&best) < weight(&cuts) {
            cuts = best;
        }
    }
    let mut pairs: Vec<(usize, usize)> = cuts.iter().map(|tie| (tie.from, tie.to)).collect();
    pairs.sort_unstable();
    (pairs, exact)
}

/// A tie that only the map states weighs as much as one reference.
fn weight_of(tie: &Tie) -> u64 {
    u64::from(tie.weight.max(1))
}

/// The ties that run backwards in `order`, less what turns out not to be needed.
fn backward<'t>(inside: &[&'t Tie], order: &[usize], modules: usize) -> Vec<&'t Tie> {
    let place: BTreeMap<usize, usize> = order.iter().enumerate().map(|(at, &module)| (module, at)).collect();
    let mut cuts: Vec<&Tie> =
        inside.iter().copied().filter(|tie| place[&tie.from] > place[&tie.to]).collect();
    // Put the heaviest back where nothing closes by it.
    cuts.sort_by_key(|tie| (std::cmp::Reverse(tie.weight), tie.from, tie.to));
    let mut adjacency = vec![Vec::new(); modules];
    for tie in inside.iter().filter(|tie| place[&tie.from] < place[&tie.to]) {
        adjacency[tie.from].push(tie.to);
    }
    cuts.retain(|tie| {
        let needed = reaches(&adjacency, tie.to, tie.from);
        if !needed {
            adjacency[tie.from].push(tie.to);
        }
        needed
    });
    cuts
}

/// Whether `to` is reached from `from`.
fn reaches(adjacency: &[Vec<usize>], from: usize, to: usize) -> bool {
    let mut seen = vec![false; adjacency.len()];
    let mut work = vec![from];
    while let Some(at) = work.pop() {
        if at == to {
            return true;
        }
        if !std::mem::replace(&mut seen[at], true) {
            work.extend(&adjacency[at]);
        }
    }
    false
}

/// What it costs that one module stands behind another: the weights of its ties to that.
struct Costs<'m> {
    modules: &'m [usize],
    /// By places in `modules`.
    between: Vec<Vec<u64>>,
}

impl<'m> Costs<'m> {
    fn new(inside: &[&Tie], modules: &'m [usize]) -> Self {
        let mut between = vec![vec![0; modules.len()]; modules.len()];
        for tie in inside {
            if let (Ok(from), Ok(to)) = (modules.binary_search(&tie.from), modules.binary_search(&tie.to)) {
                between[from][to] += weight_of(tie);
            }
        }
        Self { modules, between }
    }

    /// `order` with each module moved to where it costs least, for as long as that gains something.
    fn sifted(&self, order: Vec<usize>) -> Vec<usize> {
        let place = |module: &usize| self.modules.binary_search(module).unwrap_or_default();
        let mut order: Vec<usize> = order.iter().map(place).collect();
        let mut gained = true;
        while gained {
            gained = false;
            for module in 0..order.len() {
                let Some(at) = order.iter().position(|other| *other == module) else { continue };
                order.remove(at);
                // From the front on: what stands before it costs what it uses of that, what stands behind what that uses of it.
                let mut cost: u64 = order.iter().map(|other| self.between[*other][module]).sum();
                let (mut best, mut here) = ((cost, 0), cost);
                for (before, other) in order.iter().enumerate() {
                    cost = cost - self.between[*other][module] + self.between[module][*other];
                    if before + 1 == at {
                        here = cost;
                    }
                    best = best.min((cost, before + 1));
                }
                let to = if best.0 < here { best.1 } else { at };
                gained |= to != at;
                order.insert(to, module);
            }
        }
        order.into_iter().map(|place| self.modules[place]).collect()
    }

    /// An order in which as little as possible runs backwards: the lightest for each set of modules follows from those
    /// of the sets with one less (Lawler 1964, "A comment on minimum feedback arc sets"). O(2ⁿ n²) of n modules.
    fn lightest_order(&self) -> Vec<usize> {
        let count = self.modules.len();
        // For each set of modules that stand in front: the cost of their best order, and its last module.
        let mut best: Vec<(u64, usize)> = vec![(u64::MAX, 0); 1 << count];
        best[0] = (0, 0);
        for set in 0..best.len() {
            let cost_here = best[set].0;
            for last in (0..count).filter(|module| set & (1 << module) == 0) {
                let members = (0..count).filter(|module| set & (1 << module) != 0);
                let cost = cost_here + members.map(|module| self.between[last][module]).sum::<u64>();
                let with = &mut best[set | 1 << last];
                if cost < with.0 {
                    *with = (cost, last);
                }
            }
        }
        let mut order = Vec::with_capacity(count);
        let mut set = best.len() - 1;
        while set != 0 {
            let last = best[set].1;
            order.push(self.modules[last]);
            set &= !(1 << last);
        }
        order.reverse();
        order
    }
}

/// An order in which little runs backwards (Eades, Lin and Smyth 1993, "A fast and effective heuristic for the feedback
/// arc set problem", with weights). O(modules² + ties).
fn feedback_order(ties: &[&Tie], modules: &[usize]) -> Vec<usize> {
    let mut weights: BTreeMap<usize, (i64, i64)> = modules.iter().map(|&module| (module, (0, 0))).collect();
    let mut touching: BTreeMap<usize, Vec<&Tie>> = BTreeMap::new();
    for tie in ties {
        let weight = i64::from(tie.weight.max(1));
        weights.entry(tie.from).or_default().0 += weight;
        weights.entry(tie.to).or_default().1 += weight;
        touching.entry(tie.from).or_default().push(tie);
        touching.entry(tie.to).or_default().push(tie);
    }
    let (mut front, mut back) = (Vec::new(), Vec::new());
    while !weights.is_empty() {
        let sink = weights.iter().find(|(_, (out, _))| *out == 0).map(|(module, _)| *module);
        let source = weights.iter().find(|(_, (_, inward))| *inward == 0).map(|(module, _)| *module);
        let best =
            weights.iter().max_by_key(|(module, (out, inward))| (out - inward, std::cmp::Reverse(**module)));
        let Some(module) = sink.or(source).or(best.map(|(module, _)| *module)) else { break };
        weights.remove(&module);
        if sink.is_some() {
            back.push(module)
        } else {
            front.push(module)
        }
        for tie in touching.get(&module).into_iter().flatten() {
            let weight = i64::from(tie.weight.max(1));
            if let Some(other) = weights.get_mut(&tie.to).filter(|_| tie.from == module) {
                other.1 -= weight;
            }
            if let Some(other) = weights.get_mut(&tie.from).filter(|_| tie.to == module) {
                other.0 -= weight;
            }
        }
    }
    front.extend(back.into_iter().rev());
    front
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const MODULES: usize = 6;

    /// The weight of the lightest set, by trying every order.
    fn lightest(ties: &[Tie], order: &mut Vec<usize>, left: &mut Vec<usize>) -> u64 {
        if left.is_empty() {
            let place = |module: usize| order.iter().position(|other| *other == module);
            return ties.iter().filter(|tie| place(tie.from) > place(tie.to)).map(weight_of).sum();
        }
        let mut best = u64::MAX;
        for at in 0..left.len() {
            let module = left.remove(at);
            order.push(module);
            best = best.min(lightest(ties, order, left));
            order.pop();
            left.insert(at, module);
        }
        best
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

        #[test]
        fn no_set_of_ties_is_lighter(weights in prop::collection::btree_map((0..MODULES, 0..MODULES), 1..9u32, 1..24)) {
            let ties = weights.iter().filter(|((from, to), _)| from != to);
            let ties: Vec<Tie> = ties.map(|(&(from, to), &weight)| Tie { from, to, weight, files: Vec::new() }).collect();
            let graph = Graph { modules: MODULES, ties };
            let (cuts, cheapest) = cheapest_cuts(&graph, &(0..MODULES).collect::<Vec<_>>());
            let weight: u64 = graph.ties.iter().filter(|tie| cuts.contains(&(tie.from, tie.to))).map(weight_of).sum();
            prop_assert!(cheapest);
            prop_assert_eq!(weight, lightest(&graph.ties, &mut Vec::new(), &mut (0..MODULES).collect()));
        }
    }

    #[test]
    fn of_many_modules_a_light_set_is_found() {
        // A chain of twenty modules with one heavy tie on and one light tie back between neighbours.
        let ties = (0..19).flat_map(|at| [(at, at + 1, 9), (at + 1, at, 1 + at as u32 % 3)]);
        let ties = ties.map(|(from, to, weight)| Tie { from, to, weight, files: Vec::new() });
        let graph = Graph { modules: 20, ties: ties.collect() };
        let (cuts, cheapest) = cheapest_cuts(&graph, &(0..20).collect::<Vec<_>>());
        assert!(!cheapest);
        assert_eq!(cuts, (0..19).map(|at| (at + 1, at)).collect::<Vec<_>>());
    }
}
