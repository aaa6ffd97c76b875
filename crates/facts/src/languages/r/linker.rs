//! The files of a package share its names; scripts are sourced by their path.

use crate::linking::{ByFolder, Tree, join, path_link, upwards};
use ferngate_model::{
    DeclarationKind, FUNCTION, FileFacts, Link, LinkSource, Linker, Links, ManifestFacts, Name, PackageUse,
    PathBase, ProjectFacts, Root, shared_folders,
};
use rustc_hash::{FxHashMap, FxHashSet};

/// A name that more files bind than this means none of them.
const MOST_BINDING: usize = 3;

/// Makes the linker.
pub fn make(project: &ProjectFacts) -> Box<dyn Linker + '_> {
    let tree = Tree::new(project);
    let packages = ByFolder::new(project, &["DESCRIPTION"]);
    let namespaces = ByFolder::new(project, &["NAMESPACE"]);
    let mut bound: FxHashMap<&str, Bound> = FxHashMap::default();
    let mut by_name: FxHashMap<Name, Vec<&str>> = FxHashMap::default();
    for package in packages.all() {
        by_name.entry(Name::new(package.name.as_bytes())).or_default().push(package.folder());
        let Some(code) = join(package.folder(), "R") else { continue };
        let names = bound.entry(package.folder()).or_default();
        for (at, file) in project.files.iter().enumerate() {
            if let (true, Some(facts)) =
                (is_script(file.path.as_str()) && file.path.parent() == code, &file.facts)
            {
                for declared in &facts.declarations {
                    let is_function = declared.kind != DeclarationKind::Constant;
                    names.entry(declared.name).or_default().push((at as u32, is_function));
                }
            }
        }
    }
    let exported = namespaces.all().filter_map(|namespace| Some((namespace.folder(), exported(namespace)?)));
    let exported = exported.collect();
    Box::new(RLinker { tree, packages, namespaces, bound, exported, by_name })
}

/// The names that others may take; none where a pattern stands for many.
fn exported(namespace: &ManifestFacts) -> Option<FxHashSet<Name>> {
    let names = namespace.settings_of("export").map(|(_, name)| name);
    names.map(|name| (!name.is_empty()).then(|| Name::new(name.as_bytes()))).collect()
}

fn is_script(path: &str) -> bool {
    path.ends_with(".R") || path.ends_with(".r")
}

/// Names that the files of a package bind, and whether as functions.
type Bound = FxHashMap<Name, Vec<(u32, bool)>>;

/// What a file sees of a package.
#[derive(Clone, Copy)]
enum Seen {
    /// All that its code binds: it is the own one.
    All,
    /// What it exports.
    Exported,
    /// One name.
    Only(Name),
}

struct RLinker<'p> {
    tree: Tree<'p>,
    packages: ByFolder<'p>,
    /// What each package takes from others for all its code.
    namespaces: ByFolder<'p>,
    /// By the folder of each package.
    bound: FxHashMap<&'p str, Bound>,
    /// By the folder of each package that says so by name: what it exports.
    exported: FxHashMap<&'p str, FxHashSet<Name>>,
    by_name: FxHashMap<Name, Vec<&'p str>>,
}

impl RLinker<'_> {
    /// A script by its path: beside the one that names it, in the folders around, or from the root.
    fn script(&self, folder: &str, path: &str) -> Option<u32> {
        upwards(folder).find_map(|around| self.tree.file(&join(around, path)?))
    }

    /// The folder of the package `name`, as `file` means it.
    fn package(&self, file: usize, name: Name) -> Option<&str> {
        let own = self.tree.folder_of(file);
        let folders = self.by_name.get(&name)?.iter().copied();
        // Of several equally near, the first.
        folders.rev().max_by_key(|folder| shared_folders(own, folder))
    }

    /// The folders of packages whose names the file sees without saying so, with what of them it sees.
    fn seen(&self, file: usize, facts: &FileFacts) -> Vec<(&str, Seen)> {
        let own = self.packages.nearest(self.tree.folder_of(file)).map(ManifestFacts::folder);
        let taken = own.and_then(|folder| self.namespaces.at(folder));
        let taken = taken.into_iter().flat_map(|namespace| namespace.settings_of("import:"));
        let taken = taken.filter_map(|(package, name)| {
            let folder = self.package(file, Name::new(package.as_bytes()))?;
            let seen = if name.is_empty() { Seen::Exported } else { Seen::Only(Name::new(name.as_bytes())) };
            Some((folder, seen))
        });
        let attached =
            facts.paths.iter().filter(|path| path.base == PathBase::Name && !path.names.is_empty());
        let attached = attached.filter_map(|path| self.package(file, Name::new(path.path.as_bytes())));
        let attached = attached.map(|folder| (folder, Seen::Exported));
        own.into_iter().map(|folder| (folder, Seen::All)).chain(attached).chain(taken).collect()
    }

    /// Whether `name` of the package in `folder` is among what is `seen` of it.
    fn shows(&self, folder: &str, seen: Seen, name: Name) -> bool {
        match seen {
            Seen::All => true,
            Seen::Only(only) => only == name,
            Seen::Exported => self.exported.get(folder).is_none_or(|exported| exported.contains(&name)),
        }
    }

    fn binding(&self, folder: &str, name: Name, called: bool) -> Vec<u32> {
        let Some(found) = self.bound.get(folder).and_then(|bound| bound.get(&name)) else {
            return Vec::new();
        };
        let fitting = found.iter().filter(|(_, function)| *function || !called);
        let mut fitting: Vec<u32> = fitting.map(|(file, _)| *file).collect();
        fitting.dedup();
        if fitting.len() > MOST_BINDING { Vec::new() } else { fitting }
    }
}

impl Linker for RLinker<'_> {
    fn links(&self, file: usize) -> Links {
        let mut links = Links::default();
        let Some(facts) = &self.tree.project.files[file].facts else { return links };
        let folder = self.tree.folder_of(file);
        for (at, path) in facts.paths.iter().enumerate() {
            if path.base == PathBase::Name {
                if !self.by_name.contains_key(&Name::new(path.path.as_bytes())) {
                    links.packages.push(PackageUse { name: path.path.clone(), at: path.span.start });
                }
                continue;
            }
            match self.script(folder, &path.path) {
                Some(to) => links.files.push(path_link(at, path, to)),
                None if !path.weak && !path.path.contains("://") => links.missing.push(at as u32),
                None => {}
            }
        }
        let seen = self.seen(file, facts);
        let own = |name: Name| facts.declarations.iter().any(|declared| declared.name == name);
        for (at, used) in facts.uses.iter().enumerate() {
            let found = match used.parent.get() {
                // `package::name`
                Err(parent) => match self.package(file, facts.uses[parent as usize].name) {
                    Some(package) => self.binding(package, used.name, false),
                    None => continue,
                },
                Ok(Root::Global) => continue,
                Ok(_) if own(used.name) => continue,
                Ok(_) => {
                    let called = used.arity == FUNCTION;
                    let seen = seen.iter().filter(|(folder, seen)| self.shows(folder, *seen, used.name));
                    let found = seen.map(|(package, _)| self.binding(package, used.name, called));
                    found.into_iter().find(|found| !found.is_empty()).unwrap_or_default()
                }
            };
            let source = LinkSource::Use(at as u32);
            let (count, name) = (used.count, used.name);
            let others = found.into_iter().filter(|to| *to as usize != file);
            links.files.extend(others.map(|to| Link {
                to,
                source,
                at: used.first,
                count,
                name,
                behind: None,
                weak: false,
            }));
        }
        links
    }
}
