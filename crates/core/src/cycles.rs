//! Modules that reach each other, and where to cut.

use crate::components::components;
use crate::cuts::cheapest_cuts;
use crate::graph::Graph;

/// A cycle: modules that all reach each other.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Cycle {
    /// The modules, by index, sorted.
    pub modules: Vec<usize>,
    /// A shortest closed way through it; the first module is not repeated.
    pub way: Vec<usize>,
    /// Ties whose removal opens the cycle, as pairs of modules, sorted.
    pub cuts: Vec<(usize, usize)>,
    /// No other set of ties that opens it is lighter; of large cycles that is not known.
    pub cheapest: bool,
}

/// All cycles of `graph`, the largest first, then by their first module.
pub fn cycles(graph: &Graph) -> Vec<Cycle> {
    let adjacency = graph.adjacency();
    let mut found: Vec<Cycle> = components(&adjacency)
        .into_iter()
        .filter(|modules| modules.len() > 1)
        .map(|modules| {
            let way = shortest_closed_way(&adjacency, &modules);
            let (cuts, cheapest) = cheapest_cuts(graph, &modules);
            Cycle { modules, way, cuts, cheapest }
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::graph::Tie;

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
