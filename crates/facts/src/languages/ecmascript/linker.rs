//! Where the imports of scripts lead, and the files behind those that only show on what others declare.

use super::platforms::Platforms;
use super::resolver::{Resolved, Resolver};
use super::{DEFAULT, EVERYTHING, SHOWN_ON};
use crate::linking::path_link;
use ferngate_model::{
    DeclarationKind, FileFacts, Link, LinkSource, Linker, Links, Name, PackageUse, PathUse, ProjectFacts,
    SourceFile, shared_folders,
};
use rayon::prelude::*;
use rustc_hash::FxHashMap;

/// How many files may stand between an import and the file that declares the name.
const LONGEST_WAY: usize = 16;

/// Makes the linker.
pub fn make(project: &ProjectFacts) -> Box<dyn Linker + '_> {
    let families = [&super::TYPESCRIPT, &super::JAVASCRIPT, &super::PAGE];
    let is_script = |file: usize| {
        let extension = project.files[file].path.extension();
        families.iter().any(|script| script.extensions.contains(&extension))
    };
    let resolver = Resolver::new(project, (0..project.files.len()).filter(|file| is_script(*file)));
    let mut ambient: FxHashMap<&str, Vec<u32>> = FxHashMap::default();
    let is_typed = |file: &SourceFile| super::TYPESCRIPT.extensions.contains(&file.path.extension());
    for (at, file) in project.files.iter().enumerate().filter(|(_, file)| is_typed(file)) {
        let Some(facts) = &file.facts else { continue };
        for declared in facts.declarations.iter().filter(|found| found.kind == DeclarationKind::Module) {
            ambient.entry(facts.texts.text(declared.name)).or_default().push(at as u32);
        }
    }
    let resolved = (0..project.files.len())
        .into_par_iter()
        .map(|file| match &project.files[file].facts {
            Some(facts) if is_script(file) => {
                facts.paths.iter().map(|path| resolver.resolve(file, path)).collect()
            }
            _ => Vec::new(),
        })
        .collect();
    let mut needs: FxHashMap<u32, Vec<u32>> = FxHashMap::default();
    for (file, need) in resolver.needs() {
        needs.entry(file).or_default().push(need);
    }
    Box::new(ScriptLinker { project, resolved, ambient, needs, platforms: resolver.platforms })
}

struct ScriptLinker<'p> {
    project: &'p ProjectFacts,
    /// For each file, where each of its paths leads.
    resolved: Vec<Vec<Resolved>>,
    /// Modules that files declare under a name of their own.
    /// Files that say what packages hold, by the name of each.
    ambient: FxHashMap<&'p str, Vec<u32>>,
    /// For each script that says nothing itself, what a loader is told that it needs.
    needs: FxHashMap<u32, Vec<u32>>,
    platforms: Platforms<'p>,
}

impl ScriptLinker<'_> {
    fn facts(&self, file: u32) -> Option<&FileFacts> {
        self.project.files[file as usize].facts.as_deref()
    }

    /// The file that declares `name`, which `file` shows.
    fn declaring(&self, file: u32, name: Name, left: usize) -> Option<u32> {
        let facts = self.facts(file)?;
        if facts.declarations.iter().any(|declared| declared.name == name) {
            return Some(file);
        }
        if left == 0 {
            return None;
        }
        let shown = |own: Name| {
            facts.paths.iter().enumerate().flat_map(move |(at, path)| {
                let brought = path.names.iter().filter(move |(_, shown)| *shown == own);
                brought.map(move |(taken, _)| (at, *taken))
            })
        };
        let next = |at: usize| match self.resolved[file as usize][at] {
            Resolved::File(next) if next != file => Some(next),
            _ => None,
        };
        for (at, taken) in shown(name) {
            let Some(next) = next(at) else { continue };
            return if taken == EVERYTHING { Some(next) } else { self.declaring(next, taken, left - 1) };
        }
        shown(SHOWN_ON).find_map(|(at, _)| self.declaring(next(at)?, name, left - 1))
    }

    /// The name that is taken, where it is one that `file` declares.
    fn only_name(&self, file: u32, names: &[(Name, Name)]) -> Name {
        let [(taken, _)] = names else { return EVERYTHING };
        let declares = |facts: &FileFacts| facts.declarations.iter().any(|declared| declared.name == *taken);
        if *taken != Name::new(DEFAULT) && self.facts(file).is_some_and(declares) {
            *taken
        } else {
            EVERYTHING
        }
    }

    /// The file behind the one that is imported, where all names that are taken come from one.
    fn behind(&self, to: u32, names: &[(Name, Name)]) -> Option<u32> {
        let mut found = None;
        for (taken, _) in names.iter().filter(|(taken, _)| *taken != EVERYTHING) {
            let declaring = self.declaring(to, *taken, LONGEST_WAY)?;
            if declaring == to || found.is_some_and(|other| other != declaring) {
                return None;
            }
            found = Some(declaring);
        }
        found
    }
}

impl ScriptLinker<'_> {
    /// The file that says for the code of `file` what the package `name` holds: the nearest one. What tests say counts
    /// among them only.
    fn ambient(&self, file: usize, name: &str) -> Option<u32> {
        let own = &self.project.files[file].path;
        let path = |at: u32| &self.project.files[at as usize].path;
        let counts = |at: &&u32| test_folder(path(**at).as_str()).is_none_or(|tests| own.is_within(tests));
        let near = |at: &&u32| shared_folders(own.parent(), path(**at).parent());
        let all = self.ambient.get(name)?.iter().filter(counts);
        // Of several that are as near the first one.
        all.rev().max_by_key(near).copied()
    }
}

/// The outermost folder of tests that holds `path`.
fn test_folder(path: &str) -> Option<&str> {
    let is_test = |folder: &str| {
        let name = folder.rsplit('/').next().unwrap_or(folder);
        matches!(name, "test" | "tests" | "__tests__" | "spec" | "fixtures" | "__fixtures__")
    };
    path.match_indices('/').map(|(end, _)| &path[..end]).find(|folder| is_test(folder))
}

impl Linker for ScriptLinker<'_> {
    fn links(&self, file: usize) -> Links {
        let mut links = Links::default();
        let Some(facts) = self.facts(file as u32) else { return links };
        for &to in self.needs.get(&(file as u32)).into_iter().flatten() {
            let (source, name) = (LinkSource::File, EVERYTHING);
            links.files.push(Link { to, source, at: 0, count: 1, name, behind: None, weak: false });
        }
        let page = self.project.files[file].path.extension().starts_with("htm");
        let typed = self.project.files[file].path.extension().contains("ts");
        let joined = is_joined(&facts.paths, &self.resolved[file]);
        for ((at, path), resolved) in facts.paths.iter().enumerate().zip(&self.resolved[file]) {
            match *resolved {
                Resolved::File(to) => {
                    let behind = self.behind(to, &path.names);
                    let name = self.only_name(behind.unwrap_or(to), &path.names);
                    // What reads its package's own manifest does not depend on the code around that.
                    let weak =
                        path.weak || self.project.files[to as usize].path.file_name() == "package.json";
                    links.files.push(Link { behind, name, weak, ..path_link(at, path, to) });
                    let others = self.platforms.others(self.project, file, &path.path, to);
                    let others = others.into_iter().map(|other| Link { weak, ..path_link(at, path, other) });
                    links.files.extend(others);
                }
                // A page names what a build puts beside it.
                Resolved::Missing if !path.weak && !page && !joined && !is_installed(&path.path) => {
                    links.missing.push(at as u32);
                }
                // A script is run without what only the compiler knows.
                Resolved::Package if !path.weak => match self.ambient(file, &path.path).filter(|_| typed) {
                    Some(to) => links.files.push(path_link(at, path, to)),
                    None => links
                        .packages
                        .push(PackageUse { name: package_of(&path.path).into(), at: path.span.start }),
                },
                _ => {}
            }
        }
        links
    }
}

/// Whether a script is several that a tool has written into one: functions in it load files that lie nowhere, as they did
/// each by itself.
fn is_joined(paths: &[PathUse], resolved: &[Resolved]) -> bool {
    let relative = || paths.iter().zip(resolved).filter(|(path, _)| !path.weak && path.path.starts_with('.'));
    relative().all(|(path, found)| path.inner && !matches!(found, Resolved::File(_)))
        && relative().nth(1).is_some()
}

/// Whether a path leads to what is installed, and so is no part of the project.
fn is_installed(path: &str) -> bool {
    path.split('/').any(|part| part == "node_modules")
}

/// The package's part of a specifier.
fn package_of(specifier: &str) -> &str {
    let from = usize::from(specifier.starts_with('@'));
    let mut slashes = specifier.match_indices('/').map(|(at, _)| at);
    slashes.nth(from).map_or(specifier, |at| &specifier[..at])
}
