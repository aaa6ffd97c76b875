//! The map: the file `ferngate.toml`, its modules and its rules.

mod assign;
mod default_names;
mod defaults;
mod error;
mod evened;
mod read;
mod sentence;

pub use assign::{AssignError, Pattern};
pub use defaults::{default_modules, is_test_data, is_test_path};
pub use error::{MapError, nearest};
pub use read::read_map;
pub use sentence::{Objects, Rule, Selector, Verb};

use ferngate_model::Span;
use std::collections::BTreeMap;

/// The name of a map's file.
pub const MAP_FILE: &str = "ferngate.toml";

/// How much a finding matters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// It is not looked for.
    Off,
    /// It is shown.
    Warning,
    /// It is shown and makes the check fail.
    Error,
}

/// A map as written.
#[derive(Clone, Debug, Default)]
pub struct Map {
    /// The project's name.
    pub name: Option<String>,
    /// Patterns of files that are not read.
    pub skip: Vec<Pattern>,
    /// Layers from the core outwards; each is a list of names or globs.
    pub layers: Vec<Vec<String>>,
    /// Where `layers` stands, and its text, to quote.
    pub layers_text: String,
    /// The sentences.
    pub rules: Vec<Rule>,
    /// The modules in the order of the map.
    pub modules: Vec<ModuleEntry>,
    /// How much each finding matters.
    pub checks: BTreeMap<String, Severity>,
}

/// One entry under `[modules]`; a family where its name has `{…}` in it.
#[derive(Clone, Debug, Default)]
pub struct ModuleEntry {
    /// Its name.
    pub name: String,
    /// Where the name stands in the map.
    pub span: Span,
    /// Folders, files and globs; those with `excludes` take out again.
    pub paths: Vec<Pattern>,
    /// Namespaces: a name, or `Name.**` for all below.
    pub namespaces: Vec<String>,
    /// A free label.
    pub kind: Option<String>,
    /// Who to ask.
    pub owner: Option<String>,
    /// What others may use, as patterns below the module's own folder; all where it is empty.
    pub public: Vec<Pattern>,
    /// What it is for.
    pub purpose: Option<String>,
    /// Patterns of its test files.
    pub tests: Vec<Pattern>,
    /// Modules that it depends on in ways that no reader can see.
    pub assumes: Vec<String>,
}

/// A module of the project as it stands.
#[derive(Clone, Debug, Default)]
pub struct Module {
    /// Its name.
    pub name: String,
    /// Index of its entry in [`Map::modules`]; `None` without a map.
    pub entry: Option<usize>,
    /// A free label.
    pub kind: Option<String>,
    /// Who to ask.
    pub owner: Option<String>,
    /// Its place in the layers, 0 at the core.
    pub layer: Option<usize>,
    /// The folder that holds all of it, as far as its patterns tell.
    pub folder: String,
    /// What others may use; all where it is empty.
    pub public: Vec<Pattern>,
    /// Modules that it is stated to depend on.
    pub assumes: Vec<usize>,
}

/// The modules of a project and which files they hold.
#[derive(Clone, Debug, Default)]
pub struct Modules {
    /// The modules in the order of the map.
    pub list: Vec<Module>,
    /// For each file, its module.
    pub of_file: Vec<Option<usize>>,
    /// For each file, whether it is test code.
    pub tests: Vec<bool>,
}

impl Modules {
    /// The module called `name`.
    pub fn named(&self, name: &str) -> Option<usize> {
        self.list.iter().position(|module| module.name == name)
    }

    /// The files of `module`.
    pub fn files(&self, module: usize) -> impl Iterator<Item = usize> + '_ {
        self.of_file.iter().enumerate().filter(move |(_, of)| **of == Some(module)).map(|(file, _)| file)
    }
}

/// Whether `name` matches `pattern`, in which `*` stands for any text.
pub fn name_matches(pattern: &str, name: &str) -> bool {
    match pattern.split_once('*') {
        None => pattern == name,
        Some((start, rest)) => {
            let Some(tail) = name.strip_prefix(start) else { return false };
            rest.is_empty()
                || (0..=tail.len())
                    .filter(|&at| tail.is_char_boundary(at))
                    .any(|at| name_matches(rest, &tail[at..]))
        }
    }
}
