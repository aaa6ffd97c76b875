//! What `check` reports. Each sort of finding is one file and one row of [`CHECKS`].

mod cycle;
mod empty_module;
mod manifests;
mod missing_file;
mod name_mismatch;
mod not_permitted;
mod private_use;
mod root_namespace;
mod stale_path;
mod unmapped;

pub use missing_file::ALSO;
pub use not_permitted::reason_text;

use crate::cycles::{Cycle, cycles};
use crate::graph::Graph;
use crate::map::{Map, Modules, Severity};
use crate::resolve::{FileTie, World};
use ferngate_model::ProjectPath;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

/// What there is to know about one sort of finding.
#[derive(Clone, Copy, Debug)]
pub struct About {
    /// Its stable name.
    pub name: &'static str,
    /// How much it matters unless the map says otherwise.
    pub severity: Severity,
    /// One sentence: what is wrong.
    pub meaning: &'static str,
    /// A few lines of an example.
    pub example: &'static str,
    /// What one can do.
    pub ways_out: &'static [&'static str],
}

/// A sort of finding.
pub trait Check: Sync {
    /// What there is to know about it.
    fn about(&self) -> About;

    /// Adds all findings of this sort.
    fn find(&self, view: &View, found: &mut Vec<Finding>);
}

/// All sorts of findings, the most important first.
pub static CHECKS: &[&dyn Check] = &[
    &not_permitted::NotPermitted,
    &private_use::PrivateUse,
    &cycle::CycleCheck,
    &manifests::Undeclared,
    &manifests::Unused,
    &stale_path::StalePath,
    &missing_file::MissingFile,
    &name_mismatch::NameMismatch,
    &root_namespace::RootNamespace,
    &unmapped::Unmapped,
    &empty_module::EmptyModule,
];

/// A place that a finding points at.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Place {
    /// The file.
    pub path: ProjectPath,
    /// The byte, where one is meant.
    pub offset: Option<u32>,
}

/// One thing that is not as it should be.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// The sort: a name in [`CHECKS`].
    pub check: &'static str,
    /// How much it matters here.
    pub severity: Severity,
    /// One sentence with the names in it.
    pub message: String,
    /// What belongs together: findings of one heading are shown under it once.
    pub heading: String,
    /// Where.
    pub place: Option<Place>,
    /// Further places, each with a word on it.
    pub related: Vec<(Place, String)>,
    /// The rule or convention that it breaks.
    pub rule: String,
    /// What to do.
    pub way_out: String,
}

/// All that a check looks at.
pub struct View<'v> {
    /// Names and what they mean.
    pub world: &'v World<'v>,
    /// The map; an empty one where there is none.
    pub map: &'v Map,
    /// Whether a map was read.
    pub has_map: bool,
    /// The modules.
    pub modules: &'v Modules,
    /// The graph of modules.
    pub graph: &'v Graph,
    /// Its cycles.
    pub cycles: &'v [Cycle],
    /// Ties between files.
    pub file_ties: &'v [FileTie],
    /// Whether something lies at a path, or is made there by builds; asked for paths that manifests name.
    pub exists: &'v (dyn Fn(&ProjectPath) -> bool + Sync),
}

impl View<'_> {
    /// A finding of the sort `about`, with its default severity.
    fn finding(&self, about: &About, heading: String, message: String) -> Finding {
        Finding {
            check: about.name,
            severity: about.severity,
            message,
            heading,
            place: None,
            related: Vec::new(),
            rule: String::new(),
            way_out: String::new(),
        }
    }

    fn module_name(&self, module: usize) -> &str {
        &self.modules.list[module].name
    }

    fn path(&self, file: usize) -> &ProjectPath {
        &self.world.project.files[file].path
    }
}

/// Files by name, where the name is that of one file only.
type ByName<'v> = FxHashMap<&'v str, Option<&'v str>>;

/// The files by name, where the name is that of one file only: what a path that leads nowhere may have meant.
fn only_of_name<'v>(view: &'v View) -> ByName<'v> {
    let mut only: ByName = FxHashMap::default();
    for file in &view.world.project.files {
        only.entry(file.path.file_name())
            .and_modify(|known| *known = None)
            .or_insert(Some(file.path.as_str()));
    }
    only
}

/// Everything that is not as it should be, in the order of [`CHECKS`], then by place. Findings that the map turns
/// off are left out.
pub fn check(view: &View) -> Vec<Finding> {
    let found_by = |check: &&dyn Check| {
        let mut found = Vec::new();
        let stated = view.map.checks.get(check.about().name).copied();
        if stated == Some(Severity::Off) {
            return found;
        }
        check.find(view, &mut found);
        found.sort_by(|a, b| (&a.heading, &a.place, &a.message).cmp(&(&b.heading, &b.place, &b.message)));
        if let Some(severity) = stated {
            found.iter_mut().for_each(|finding| finding.severity = severity);
        }
        found
    };
    CHECKS.par_iter().flat_map_iter(found_by).collect()
}

/// `1 reference`, `12 references`.
fn references(count: u32) -> String {
    if count == 1 { "1 reference".to_owned() } else { format!("{count} references") }
}

/// The graph and cycles of `world` under `modules`, ready to be checked.
pub fn graph_of(world: &World, modules: &Modules) -> (Vec<FileTie>, Graph, Vec<Cycle>) {
    let (ties, shared) = world.file_ties();
    let mut graph = Graph::new(modules, &ties, &shared);
    for (from, module) in modules.list.iter().enumerate() {
        for &to in &module.assumes {
            if from != to && graph.tie(from, to).is_none() {
                graph.ties.push(crate::graph::Tie { from, to, weight: 0, files: Vec::new() });
            }
        }
    }
    graph.ties.sort_by_key(|tie| (tie.from, tie.to));
    let cycles = cycles(&graph);
    (ties, graph, cycles)
}

/// The sort of finding called `name`.
pub fn about(name: &str) -> Option<About> {
    CHECKS.iter().map(|check| check.about()).find(|about| about.name == name)
}
