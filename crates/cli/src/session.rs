//! One run's project: its root, its map, its files, and what they mean.

use crate::args::Common;
use crate::error::CommandError;
use crate::ui::{Ui, count};
use ferngate_core::cycles::Cycle;
use ferngate_core::findings::{self, Finding, View};
use ferngate_core::graph::Graph;
use ferngate_core::map::{AssignError, MAP_FILE, Map, Modules, default_modules, nearest, read_map};
use ferngate_core::resolve::{FileTie, World};
use ferngate_facts::languages::LANGUAGES;
use ferngate_facts::{Ignored, is_to_be_filled};
use ferngate_model::{ProjectFacts, ProjectPath, ReadOptions};
use std::mem::ManuallyDrop;
use std::path::{Path, PathBuf};
use std::time::Instant;

/// A project as read.
///
/// What was read and what it means are millions of small pieces, and the program ends right after its answer: they are
/// left to the operating system, which takes them back at once.
pub struct Session {
    /// Its root folder.
    pub root: PathBuf,
    /// The map's file, whether or not it exists.
    pub map_path: PathBuf,
    /// The map; an empty one where there is none.
    pub map: Map,
    /// Whether there is one.
    pub has_map: bool,
    /// What the files say.
    pub project: ManuallyDrop<ProjectFacts>,
    /// Whether mentions in comments and strings count as uses.
    pub weak: bool,
}

/// A project as understood.
pub struct Meaning<'s> {
    /// Names and what they mean.
    pub world: ManuallyDrop<World<'s>>,
    /// Modules and their files.
    pub modules: Modules,
    /// Ties between files.
    pub ties: Vec<FileTie>,
    /// Ties between modules.
    pub graph: Graph,
    /// Cycles of modules.
    pub cycles: Vec<Cycle>,
}

impl Session {
    /// Finds the root and reads the map and all files.
    pub fn load(ui: &mut Ui, common: &Common, options: ReadOptions) -> Result<Self, CommandError> {
        Self::load_from(ui, common, options, |folder| root_above(folder, common))
    }

    /// The same of the folder to work in alone, whatever map lies above it.
    pub fn load_folder(ui: &mut Ui, common: &Common, options: ReadOptions) -> Result<Self, CommandError> {
        Self::load_from(ui, common, options, |folder| folder)
    }

    fn load_from(
        ui: &mut Ui,
        common: &Common,
        options: ReadOptions,
        root_of: impl FnOnce(PathBuf) -> PathBuf,
    ) -> Result<Self, CommandError> {
        let start = match &common.directory {
            Some(directory) => directory.clone(),
            None => PathBuf::from("."),
        };
        let root = std::fs::canonicalize(&start).map_err(|error| {
            CommandError::call(format!(
                "{} is no folder to work in: {}",
                start.display(),
                crate::error::plain(&error)
            ))
        })?;
        if !root.is_dir() {
            return Err(CommandError::call(format!(
                "{} is a file; name the folder to work in",
                start.display()
            )));
        }
        let root = root_of(root);
        let map_path = common.map.clone().unwrap_or_else(|| root.join(MAP_FILE));
        let (map, has_map) = load_map(&map_path, common.map.is_some())?;
        let weak = common.weak;
        let options = ReadOptions { weak: options.weak || weak, ..options };
        let project = ManuallyDrop::new(read_files(ui, &root, &map, options));
        Ok(Self { root, map_path, map, has_map, project, weak })
    }

    /// Resolves names and gathers the graph.
    pub fn understand(&self, ui: &mut Ui) -> Result<Meaning<'_>, CommandError> {
        let begin = Instant::now();
        let world = World::new(&self.project, LANGUAGES);
        ui.note(&format!(
            "names: {} in {:.0?}",
            count(world.table.entities.len() as u64, "declared type", "declared types"),
            begin.elapsed()
        ));
        Ok(self.meaning_of(ui, world)?)
    }

    /// Lays the map on a world and gathers the graph.
    pub fn meaning_of<'w>(&self, ui: &mut Ui, mut world: World<'w>) -> Result<Meaning<'w>, AssignError> {
        let begin = Instant::now();
        if self.weak {
            world.count_mentions();
        }
        let modules = if self.has_map && !self.map.modules.is_empty() {
            Modules::from_map(&self.map, &world)?
        } else {
            default_modules(&world)
        };
        let (ties, graph, cycles) = findings::graph_of(&world, &modules);
        ui.note(&format!(
            "graph: {}, {} in {:.0?}",
            count(modules.list.len() as u64, "module", "modules"),
            count(ties.len() as u64, "tie between files", "ties between files"),
            begin.elapsed()
        ));
        Ok(Meaning { world: ManuallyDrop::new(world), modules, ties, graph, cycles })
    }

    /// Everything that is not as it should be.
    pub fn check(&self, ui: &mut Ui, meaning: &Meaning) -> Vec<Finding> {
        let ignored = Ignored::new(&self.root);
        let exists = |path: &ProjectPath| {
            self.root.join(path.as_str()).exists()
                || ignored.covers(path)
                || is_to_be_filled(&self.root, path)
        };
        self.check_where(ui, meaning, &exists)
    }

    /// The same where `exists` says what is there.
    pub fn check_where(
        &self,
        ui: &mut Ui,
        meaning: &Meaning,
        exists: &(dyn Fn(&ProjectPath) -> bool + Sync),
    ) -> Vec<Finding> {
        let begin = Instant::now();
        let view = View {
            world: &meaning.world,
            map: &self.map,
            has_map: self.has_map,
            modules: &meaning.modules,
            graph: &meaning.graph,
            cycles: &meaning.cycles,
            file_ties: &meaning.ties,
            exists,
        };
        let found = findings::check(&view);
        ui.note(&format!("findings: {} in {:.0?}", found.len(), begin.elapsed()));
        found
    }

    /// The bytes of a file of the project; empty where it cannot be read any more.
    pub fn text(&self, path: &ProjectPath) -> Vec<u8> {
        std::fs::read(self.root.join(path.as_str())).unwrap_or_default()
    }

    /// The project's name: the map's, else that of its folder.
    pub fn name(&self) -> String {
        let folder = || self.root.file_name().map(|name| name.to_string_lossy().into_owned());
        self.map.name.clone().or_else(folder).unwrap_or_else(|| "the project".to_owned())
    }
}

impl Meaning<'_> {
    /// The module that the user calls `name`.
    pub fn module(&self, name: &str) -> Result<usize, CommandError> {
        let exact = self.modules.named(name);
        let loose = || {
            let same = |module: &&ferngate_core::map::Module| module.name.eq_ignore_ascii_case(name);
            let mut found = self.modules.list.iter().filter(same);
            found.next().and_then(|module| self.modules.named(&module.name))
        };
        exact.or_else(loose).ok_or_else(|| {
            let names = || self.modules.list.iter().map(|module| module.name.as_str());
            let hint = match nearest(name, names()) {
                Some(near) => format!("did you mean `{near}`?"),
                None => format!("the modules are: {}", names().take(20).collect::<Vec<_>>().join(", ")),
            };
            CommandError::call_hint(format!("there is no module `{name}`"), hint)
        })
    }
}

/// The nearest folder at or above `start` that has a map, else `start`.
fn root_above(start: PathBuf, common: &Common) -> PathBuf {
    if common.map.is_some() {
        return start;
    }
    let found = start.ancestors().find(|folder| folder.join(MAP_FILE).is_file());
    found.map(Path::to_path_buf).unwrap_or(start)
}

fn load_map(path: &Path, named: bool) -> Result<(Map, bool), CommandError> {
    let text = match std::fs::read_to_string(path) {
        Ok(text) => text,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound && !named => {
            return Ok((Map::default(), false));
        }
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => {
            return Err(CommandError::call(format!("there is no map at {}", path.display())));
        }
        Err(error) => return Err(CommandError::file("read", path, &error)),
    };
    match read_map(&text) {
        Ok(map) => Ok((map, true)),
        Err(errors) => {
            let shown = path.file_name().map_or_else(|| path.to_path_buf(), PathBuf::from);
            Err(CommandError::Map { path: shown, text, errors })
        }
    }
}

fn read_files(ui: &mut Ui, root: &Path, map: &Map, options: ReadOptions) -> ProjectFacts {
    let begin = Instant::now();
    let mut walk = ferngate_facts::walk(root);
    let all = walk.files.len();
    if !map.skip.is_empty() {
        walk.files.retain(|path| !map.skip.iter().any(|pattern| pattern.matches(path.as_str())));
    }
    ui.note(&format!(
        "files: {} found, {} skipped by the map, in {:.0?}",
        all,
        all - walk.files.len(),
        begin.elapsed()
    ));
    for folder in &walk.skipped {
        ui.note(&format!("left out: {folder}/ (built or vendored)"));
    }
    let begin = Instant::now();
    let project = ferngate_facts::read_project(root, &walk, options);
    let code = project.files.iter().filter(|file| file.facts.is_some()).count();
    ui.note(&format!(
        "code: {}, {} of bytes, {} in {:.0?}",
        count(code as u64, "file", "files"),
        crate::ui::number(project.bytes),
        count(project.manifests.len() as u64, "manifest", "manifests"),
        begin.elapsed()
    ));
    for (path, problem) in &project.problems {
        let place = if path.as_str().is_empty() { String::new() } else { format!("{path} ") };
        ui.remark(&format!("note: {place}{}", crate::ui::clean(&problem.text)));
    }
    project
}
