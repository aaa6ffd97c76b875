//! Modules that reach each other, and where to cut.

use crate::components::components;
use crate::graph::{Graph, Tie};
use std::collections::BTreeMap;

/// A cycle: modules that all reach each other.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Cycle {
    /// The modules, by index, sorted.
    pub modules: Vec<usize>,
    /// A shortest closed way through it; the first module is not repeated.
    pub way: Vec<usize>,
    /// Ties whose removal opens the cycle, as pairs of modules, lightest set found.
    pub cuts: Vec<(usize, usize)>,
}

/// All cycles of `graph`, the largest first, then by their first module.
pub fn cycles(graph: &Graph) -> Vec<Cycle> {
    let adjacency = graph.adjacency();
    let mut found: Vec<Cycle> = components(&adjacency)
        .into_iter()
        .filter(|modules| modules.len() > 1)
        .map(|modules| {
            let way = shortest_closed_way(&adjacency, &modules);
            let cuts = cheapest_cuts(graph, &modules);
            Cycle { modules, way, cuts }
        })
        .collect();
    found.sort_by_key(|cycle| (std::cmp::Reverse(cycle.modules.len()), cycle.modules.clone()));
    found
}

fn shortest_closed_way(adjacency: &[Vec<usize>], modules: &[usize]) -> Vec<usize> {
    let inside = |module: usize| modules.binary_search(&module).is_ok();
    let mut best: Vec<usize> = Vec::new();
    for &start in modules {
        let mut before = vec![usize::MAX; adjacency.len()];
        let mut queue = std::collections::VecDeque::from([start]);
        'search: while let Some(at) = queue.pop_front() {
            for &next in adjacency[at].iter().filter(|&&next| inside(next)) {
                if next == start {
                    let mut way = vec![at];
                    while way[way.len() - 1] != start {
                        way.push(before[way[way.len() - 1]]);
                    }
                    way.reverse();
                    if best.is_empty() || way.len() < best.len() {
                        best = way;
                    }
                    break 'search;
                }
                if before[next] == usize::MAX {
                    before[next] = at;
                    queue.push_back(next);
                }
            }
        }
        if best.len() == 2 {
            break;
        }
    }
    best
}

/// Orders the modules so that little runs backwards, and returns what does (Eades, Lin and Smyth 1993, "A fast and
/// effective heuristic for the feedback arc set problem", with weights), less what turns out not to be needed.
fn cheapest_cuts(graph: &Graph, modules: &[usize]) -> Vec<(usize, usize)> {
    let inside: Vec<&Tie> = graph
        .ties
        .iter()
        .filter(|tie| modules.binary_search(&tie.from).is_ok() && modules.binary_search(&tie.to).is_ok())
        .collect();
    let order = feedback_order(&inside, modules);
    let place: BTreeMap<usize, usize> = order.iter().enumerate().map(|(at, &module)| (module, at)).collect();
    let mut cuts: Vec<&Tie> =
        inside.iter().copied().filter(|tie| place[&tie.from] > place[&tie.to]).collect();
    // Put the heaviest back where nothing closes by it.
    cuts.sort_by_key(|tie| (std::cmp::Reverse(tie.weight), tie.from, tie.to));
    let mut adjacency = vec![Vec::new(); graph.modules];
    for tie in inside.iter().filter(|tie| place[&tie.from] < place[&tie.to]) {
        adjacency[tie.from].push(tie.to);
    }
    let mut kept = Vec::new();
    for tie in cuts {
        if reaches(&adjacency, tie.to, tie.from) {
            kept.push((tie.from, tie.to));
        } else {
            adjacency[tie.from].push(tie.to);
        }
    }
    kept.sort_unstable();
    kept
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

/// O(modules² + ties).
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

    fn graph(modules: usize, ties: &[(usize, usize, u32)]) -> Graph {
        let tie = |&(from, to, weight): &(usize, usize, u32)| Tie { from, to, weight, files: Vec::new() };
        Graph { modules, ties: ties.iter().map(tie).collect() }
    }

    fn is_acyclic(ties: &[&Tie], without: &[(usize, usize)], modules: usize) -> bool {
        let mut adjacency = vec![Vec::new(); modules];
        for tie in ties.iter().filter(|tie| !without.contains(&(tie.from, tie.to))) {
            adjacency[tie.from].push(tie.to);
        }
        components(&adjacency).iter().all(|members| members.len() == 1)
    }

    #[test]
    fn finds_the_cheapest_cut() {
        let found = cycles(&graph(4, &[(0, 1, 9), (1, 2, 9), (2, 0, 2), (2, 3, 5)]));
        assert_eq!(found.len(), 1);
        assert_eq!((&found[0].modules[..], &found[0].cuts[..]), (&[0, 1, 2][..], &[(2, 0)][..]));
        assert_eq!(found[0].way.len(), 3);
    }

    #[test]
    fn every_cut_set_opens_its_cycle() {
        // A deterministic heap of small graphs.
        let mut seed = 7u64;
        for _ in 0..300 {
            let mut ties = Vec::new();
            for from in 0..7 {
                for to in 0..7 {
                    seed =
                        seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
                    if from != to && seed >> 61 < 3 {
                        ties.push((from, to, (seed >> 40) as u32 % 20 + 1));
                    }
                }
            }
            let graph = graph(7, &ties);
            for cycle in cycles(&graph) {
                let inside: Vec<&Tie> = graph.ties.iter().collect();
                let mut cuts = cycle.cuts.clone();
                cuts.extend(cycles(&graph).iter().flat_map(|other| other.cuts.clone()));
                assert!(is_acyclic(&inside, &cuts, 7));
                assert!(!cycle.cuts.is_empty() && cycle.way.len() >= 2);
            }
        }
    }
}
