//! Modules and the ties between them.

use crate::map::Modules;
use crate::resolve::{FileTie, Shared};
use std::collections::BTreeMap;

/// How much module `from` depends on module `to`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Tie {
    /// The module that uses.
    pub from: usize,
    /// The module that is used.
    pub to: usize,
    /// Number of references.
    pub weight: u32,
    /// The ties between files that it is made of.
    pub files: Vec<FileTie>,
}

/// The graph of modules, by index; code in no module is left out.
#[derive(Clone, Debug, Default)]
pub struct Graph {
    /// Number of modules.
    pub modules: usize,
    /// Ties sorted by `from`, then `to`; none from a module to itself.
    pub ties: Vec<Tie>,
}

impl Graph {
    /// Gathers ties between files into ties between modules; what is `shared` by several files of a module is one
    /// reference to it.
    pub fn new(modules: &Modules, file_ties: &[FileTie], shared: &[Shared]) -> Self {
        let mut gathered: BTreeMap<(usize, usize), Vec<FileTie>> = BTreeMap::new();
        for tie in file_ties {
            let ends = (modules.of_file[tie.from as usize], modules.of_file[tie.to as usize]);
            if let (Some(from), Some(to)) = ends
                && from != to
            {
                gathered.entry((from, to)).or_default().push(*tie);
            }
        }
        let ties = gathered.into_iter().map(|((from, to), files)| {
            let weight = files.iter().map(|tie| tie.references).sum();
            Tie { from, to, weight, files }
        });
        let mut graph = Self { modules: modules.list.len(), ties: ties.collect() };
        for of_several in shared {
            graph.count_once(modules, of_several);
        }
        graph
    }

    fn count_once(&mut self, modules: &Modules, shared: &Shared) {
        let Some(from) = modules.of_file[shared.from as usize] else { return };
        let mut to: Vec<usize> =
            shared.to.iter().filter_map(|file| modules.of_file[*file as usize]).collect();
        to.sort_unstable();
        for same in to.chunk_by(|a, b| a == b) {
            let found = self.ties.binary_search_by_key(&(from, same[0]), |tie| (tie.from, tie.to));
            if let Some(tie) = found.ok().and_then(|at| self.ties.get_mut(at)) {
                let twice = shared.references * (same.len() as u32 - 1);
                tie.weight = tie.weight.saturating_sub(twice);
            }
        }
    }

    /// The tie from one module to another.
    pub fn tie(&self, from: usize, to: usize) -> Option<&Tie> {
        let at = self.ties.binary_search_by_key(&(from, to), |tie| (tie.from, tie.to)).ok()?;
        self.ties.get(at)
    }

    /// Modules that `module` uses directly.
    pub fn uses(&self, module: usize) -> impl Iterator<Item = &Tie> {
        self.ties.iter().filter(move |tie| tie.from == module)
    }

    /// Modules that use `module` directly.
    pub fn used_by(&self, module: usize) -> impl Iterator<Item = &Tie> {
        self.ties.iter().filter(move |tie| tie.to == module)
    }

    /// For each module, the modules that it uses.
    pub fn adjacency(&self) -> Vec<Vec<usize>> {
        let mut adjacency = vec![Vec::new(); self.modules];
        for tie in &self.ties {
            adjacency[tie.from].push(tie.to);
        }
        adjacency
    }

    /// A shortest way from one module to another along ties, both ends included.
    pub fn shortest_way(&self, from: usize, to: usize) -> Option<Vec<usize>> {
        let adjacency = self.adjacency();
        let mut before: Vec<Option<usize>> = vec![None; self.modules];
        let mut queue = std::collections::VecDeque::from([from]);
        while let Some(at) = queue.pop_front() {
            for &next in &adjacency[at] {
                if next != from && before[next].is_none() {
                    before[next] = Some(at);
                    if next == to {
                        let mut way = vec![to];
                        while let Some(previous) = before[way[way.len() - 1]] {
                            way.push(previous);
                        }
                        way.reverse();
                        return Some(way);
                    }
                    queue.push_back(next);
                }
            }
        }
        None
    }

    /// For each module how many steps of ties lie below it, cycles counted as one step.
    pub fn depths(&self) -> Vec<usize> {
        let adjacency = self.adjacency();
        let components = crate::components::components(&adjacency);
        let mut component_of = vec![0; self.modules];
        for (at, members) in components.iter().enumerate() {
            members.iter().for_each(|&member| component_of[member] = at);
        }
        // Components come with what they use before them, so one pass is enough.
        let mut depth = vec![0usize; components.len()];
        for (at, members) in components.iter().enumerate() {
            let below = members.iter().flat_map(|&member| &adjacency[member]);
            let deepest =
                below.filter(|&&next| component_of[next] != at).map(|&next| depth[component_of[next]] + 1);
            depth[at] = deepest.max().unwrap_or(0);
        }
        component_of.into_iter().map(|component| depth[component]).collect()
    }
}
