//! Packages are folders: a use leads to the file of the package that declares the name.

use super::{BLANK, DOT, OWN_NAME};
use crate::linking::{ByFolder, Tree, join, path_link, upwards};
use ferngate_model::{
    DeclarationKind, FileFacts, Link, LinkSource, Linker, Links, ManifestFacts, Name, PackageUse, PathBase,
    PathUse, ProjectFacts, Root, shared_folders,
};
use rustc_hash::FxHashMap;

/// A name that more files of a package declare than this (for many systems, say) means none of them.
const MOST_DECLARING: usize = 24;

/// Makes the linker.
pub fn make(project: &ProjectFacts) -> Box<dyn Linker + '_> {
    Box::new(GoLinker::new(project))
}

/// The files of one folder with one package clause.
struct Package {
    name: Name,
    /// Files, in the order of their paths.
    files: Vec<u32>,
    declared: FxHashMap<Name, Vec<(u32, bool)>>,
}

struct GoLinker<'p> {
    tree: Tree<'p>,
    modules: ByFolder<'p>,
    packages: Vec<Package>,
    /// For each folder, its packages; the one that others import first.
    by_folder: FxHashMap<&'p str, Vec<u32>>,
    of_file: FxHashMap<u32, u32>,
    /// Module paths with the folders that hold them, the longest path first.
    homes: Vec<(String, String)>,
}

impl<'p> GoLinker<'p> {
    fn new(project: &'p ProjectFacts) -> Self {
        let tree = Tree::new(project);
        let modules = ByFolder::new(project, &["go.mod"]);
        let mut homes: Vec<(String, String)> = Vec::new();
        for module in modules.all() {
            homes.extend(module.setting("module").map(|path| (path.to_owned(), module.folder().to_owned())));
            let replaced = module.settings_of("replace:").filter(|(_, to)| to.starts_with('.'));
            homes.extend(
                replaced.filter_map(|(from, to)| Some((from.to_owned(), join(module.folder(), to)?))),
            );
        }
        homes.sort_by(|a, b| (b.0.len(), &a.0, &a.1).cmp(&(a.0.len(), &b.0, &b.1)));
        let mut linker = Self {
            tree,
            modules,
            packages: Vec::new(),
            by_folder: FxHashMap::default(),
            of_file: FxHashMap::default(),
            homes,
        };
        for (at, file) in project.files.iter().enumerate().filter(|(_, file)| file.path.extension() == "go") {
            if let Some(facts) = &file.facts {
                linker.enter(at as u32, file.path.parent(), facts);
            }
        }
        if linker.homes.is_empty() {
            linker.homes.extend(linker.outer_path().map(|path| (path, String::new())));
        }
        for packages in linker.by_folder.values_mut() {
            // The tests of a package may be a package beside it.
            let all = &linker.packages;
            packages.sort_by_key(|at| {
                let package = &all[*at as usize];
                let name = project.files[package.files[0] as usize]
                    .facts
                    .as_deref()
                    .map_or("", |facts| facts.texts.text(package.name));
                (name.ends_with("_test") || name == "main", std::cmp::Reverse(package.files.len()), *at)
            });
        }
        linker
    }

    /// The import path of the folder that is read, where its module lies above it: what most imports say that end with a
    /// folder of it behind its name.
    fn outer_path(&self) -> Option<String> {
        let own = format!("/{}", self.tree.project.name);
        let mut counts: FxHashMap<&str, usize> = FxHashMap::default();
        let files = self.tree.project.files.iter().filter(|file| file.path.extension() == "go");
        for path in files.filter_map(|file| file.facts.as_deref()).flat_map(|facts| &facts.paths) {
            let path = path.path.as_ref();
            let ends = path.match_indices(own.as_str()).map(|(at, found)| at + found.len());
            let leads = |end: &usize| {
                let rest = &path[*end..];
                let below = rest.strip_prefix('/').or_else(|| rest.is_empty().then_some(rest));
                below.is_some_and(|below| self.by_folder.contains_key(below))
            };
            if let Some(end) = ends.filter(leads).last() {
                *counts.entry(&path[..end]).or_default() += 1;
            }
        }
        let most = counts.into_iter().max_by(|(a, x), (b, y)| (x, b).cmp(&(y, a)));
        most.map(|(path, _)| path.to_owned())
    }

    fn is_test(&self, file: u32) -> bool {
        self.tree.project.files[file as usize].path.stem().ends_with("_test")
    }

    fn enter(&mut self, file: u32, folder: &'p str, facts: &FileFacts) {
        let clause = facts.declarations.iter().find(|found| found.kind == DeclarationKind::Module);
        let Some(name) = clause.map(|clause| clause.name) else { return };
        let packages = self.by_folder.entry(folder).or_default();
        let known = packages.iter().copied().find(|at| self.packages[*at as usize].name == name);
        let at = known.unwrap_or_else(|| {
            let at = self.packages.len() as u32;
            self.packages.push(Package { name, files: Vec::new(), declared: FxHashMap::default() });
            packages.push(at);
            at
        });
        self.of_file.insert(file, at);
        let is_test = self.is_test(file);
        let package = &mut self.packages[at as usize];
        package.files.push(file);
        for declared in facts.declarations.iter().filter(|found| found.kind != DeclarationKind::Module) {
            let files = package.declared.entry(declared.name).or_default();
            if files.last() != Some(&(file, is_test)) {
                files.push((file, is_test));
            }
        }
    }

    /// The folder that an import path means, seen from a file in `from`.
    fn folder(&self, from: &str, path: &str) -> Option<String> {
        let below = |home: &str, rest: &str| {
            join(home, rest).filter(|folder| self.by_folder.contains_key(folder.as_str()))
        };
        if path.starts_with('.') {
            return below(from, path);
        }
        for around in upwards(from) {
            let vendored = join(around, &format!("vendor/{path}"));
            if let Some(found) = vendored.filter(|folder| self.by_folder.contains_key(folder.as_str())) {
                return Some(found);
            }
        }
        // Of modules of one path, copies of each other, the one nearest to the file is meant.
        let mut best: Option<(&str, usize, String)> = None;
        for (module, home) in &self.homes {
            if best.as_ref().is_some_and(|(longest, ..)| *longest != module) {
                break;
            }
            let Some(rest) = path.strip_prefix(module.as_str()) else { continue };
            if !(rest.is_empty() || rest.starts_with('/')) {
                continue;
            }
            if let Some(found) = below(home, rest.trim_start_matches('/'))
                && self.modules.nearest(&found).is_none_or(|own: &ManifestFacts| own.folder() == home)
            {
                let shared = shared_folders(from, home);
                if best.as_ref().is_none_or(|(_, most, _)| shared > *most) {
                    best = Some((module, shared, found));
                }
            }
        }
        // A workspace of old holds everything below `src`.
        best.map(|(.., found)| found).or_else(|| below("src", path).filter(|_| self.homes.is_empty()))
    }

    /// The package that `path` imports.
    fn imported(&self, from: &str, path: &PathUse) -> Option<u32> {
        let folder = self.folder(from, &path.path)?;
        self.by_folder.get(folder.as_str())?.first().copied()
    }

    /// The files of `package` that declare `name`, as a file that is a test or not sees them.
    fn declaring(&self, package: u32, name: Name, test: bool) -> Vec<u32> {
        let Some(files) = self.packages[package as usize].declared.get(&name) else { return Vec::new() };
        let seen: Vec<u32> =
            files.iter().filter(|(_, is_test)| test || !is_test).map(|(file, _)| *file).collect();
        if seen.len() > MOST_DECLARING { Vec::new() } else { seen }
    }
}

/// What is known of an import while the uses of its file are followed.
struct Known {
    path: usize,
    name: Name,
    package: u32,
    used: bool,
}

impl Linker for GoLinker<'_> {
    fn links(&self, file: usize) -> Links {
        let mut links = Links::default();
        let Some(facts) = &self.tree.project.files[file].facts else { return links };
        let folder = self.tree.folder_of(file);
        let mut known: Vec<Known> = Vec::new();
        let mut outside: Vec<Name> = Vec::new();
        for (at, path) in facts.paths.iter().enumerate() {
            let alias = path.names.first().map_or(OWN_NAME, |(alias, _)| *alias);
            if path.base == PathBase::Folder {
                let found = join(folder, &path.path).and_then(|path| self.tree.file(&path));
                links.files.extend(found.map(|to| path_link(at, path, to)));
                continue;
            }
            match self.imported(folder, path) {
                Some(package) => {
                    let name = if alias == OWN_NAME { self.packages[package as usize].name } else { alias };
                    known.push(Known { path: at, name, package, used: false });
                }
                None => {
                    outside.push(if alias == OWN_NAME { last_part(&path.path) } else { alias });
                    links.packages.push(PackageUse { name: path.path.clone(), at: path.span.start });
                }
            }
        }
        self.follow(file as u32, facts, &mut known, &outside, &mut links);
        for import in known.iter().filter(|import| !import.used) {
            let path = &facts.paths[import.path];
            let files = &self.packages[import.package as usize].files;
            let first = files.iter().find(|file| !self.is_test(**file)).or(files.first());
            links.files.extend(first.map(|to| path_link(import.path, path, *to)));
        }
        links
    }
}

impl GoLinker<'_> {
    fn follow(&self, file: u32, facts: &FileFacts, known: &mut [Known], outside: &[Name], links: &mut Links) {
        let own = self.of_file.get(&file).copied();
        let test = self.is_test(file);
        let mut followed: FxHashMap<u32, usize> = FxHashMap::default();
        for (at, used) in facts.uses.iter().enumerate() {
            let around = used.parent.get();
            let package = match around {
                Err(parent) => match followed.get(&parent) {
                    Some(import) => known[*import].package,
                    None => continue,
                },
                Ok(_) => {
                    let import = known.iter().position(|import| {
                        import.name == used.name && import.name != DOT && import.name != BLANK
                    });
                    if let Some(import) = import {
                        followed.insert(at as u32, import);
                        continue;
                    }
                    match own {
                        Some(own) if !outside.contains(&used.name) => own,
                        _ => continue,
                    }
                }
            };
            let mut files = self.declaring(package, used.name, test && Some(package) == own);
            if files.is_empty() && around == Ok(Root::Scope(0)) {
                for import in known.iter_mut().filter(|import| import.name == DOT) {
                    files.extend(self.declaring(import.package, used.name, false));
                    import.used |= !files.is_empty();
                }
            }
            if let (Err(parent), false) = (around, files.is_empty()) {
                known[followed[&parent]].used = true;
            }
            let count = used.count;
            let source = LinkSource::Use(at as u32);
            for to in files.into_iter().filter(|to| *to != file) {
                links.files.push(Link {
                    to,
                    source,
                    at: used.first,
                    count,
                    name: used.name,
                    behind: None,
                    weak: false,
                });
            }
        }
    }
}

/// The name under which a package outside is known: the last part of its path, versions left out.
fn last_part(path: &str) -> Name {
    let is_version = |part: &&str| {
        part.len() > 1 && part.starts_with('v') && part[1..].bytes().all(|b| b.is_ascii_digit())
    };
    let last = path.rsplit('/').find(|part| !is_version(part)).unwrap_or(path);
    let last = last.split(".v").next().unwrap_or(last);
    Name::new(last.strip_prefix("go-").unwrap_or(last).as_bytes())
}
