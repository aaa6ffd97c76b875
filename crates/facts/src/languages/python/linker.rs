//! Where an import leads: from the folders in which a run looks for packages, by the names of folders and files.

use super::{EVERYTHING, SHOWN_ON, SHOWN_TO_ALL};
use crate::linking::{Tree, join, looks_like_path, parent, path_link};
use ferngate_model::{
    FileFacts, Link, Linker, Links, Name, PackageUse, PathBase, PathUse, ProjectFacts, shared_folders,
};

/// How many files may stand between an import and the file that binds the name.
const LONGEST_WAY: usize = 16;

/// Makes the linker.
pub fn make(project: &ProjectFacts) -> Box<dyn Linker + '_> {
    let tree = Tree::new(project);
    let mut roots: Vec<String> = Vec::new();
    for manifest in &project.manifests {
        let stated =
            manifest.settings_of("python-root").filter_map(|(_, root)| join(manifest.folder(), root));
        roots.extend(stated);
        if manifest.setting("python").is_some() {
            roots.push(manifest.folder().to_owned());
            roots.extend(join(manifest.folder(), "src").filter(|source| tree.is_folder(source)));
        }
    }
    roots.extend([String::new(), "src".to_owned()]);
    let mut seen = rustc_hash::FxHashSet::default();
    roots.retain(|root| seen.insert(root.clone()));
    Box::new(PythonLinker { tree, roots })
}

struct PythonLinker<'p> {
    tree: Tree<'p>,
    /// Folders in which packages are looked for, whoever looks.
    roots: Vec<String>,
}

/// What a dotted name leads to.
enum Found {
    /// A module, or the `__init__` of a package: its file, and the folder of the package.
    File(u32, Option<String>),
    /// A folder of modules without a file of its own.
    Folder(String),
}

impl PythonLinker<'_> {
    fn facts(&self, file: u32) -> Option<&FileFacts> {
        self.tree.project.files[file as usize].facts.as_deref()
    }

    fn init(&self, folder: &str) -> Option<u32> {
        ["__init__.py", "__init__.pyi"].iter().find_map(|name| self.tree.file(&join(folder, name)?))
    }

    /// The module `path`, given without its ending.
    fn module(&self, path: &str) -> Option<Found> {
        if let Some(file) = self.init(path) {
            return Some(Found::File(file, Some(path.to_owned())));
        }
        let file = ["py", "pyi", "pyw"].iter().find_map(|ending| self.tree.file(&format!("{path}.{ending}")));
        if let Some(file) = file {
            return Some(Found::File(file, None));
        }
        (!path.is_empty() && self.tree.is_folder(path)).then(|| Found::Folder(path.to_owned()))
    }

    /// The folder from which the names of a file's own package begin.
    fn own_root<'f>(&self, folder: &'f str) -> &'f str {
        let mut root = folder;
        while !root.is_empty() && self.init(root).is_some() {
            root = parent(root);
        }
        root
    }

    fn module_below(&self, root: &str, name: &str) -> Option<Found> {
        let path = join(root, &name.replace('.', "/"))?;
        let found = self.module(&path)?;
        let below = path.rfind('/').map_or(0, |at| at.max(root.len()));
        let mut around = &path[..below];
        while around.len() > root.len() {
            // A module hides a folder of its name that has no file of its own.
            if self.init(around).is_none() && self.tree.file(&format!("{around}.py")).is_some() {
                return None;
            }
            around = parent(around);
        }
        Some(found)
    }

    /// What `name` means in a file in `folder`; the longest part that leads somewhere counts.
    fn find(&self, folder: &str, name: &str) -> Option<Found> {
        let level = name.len() - name.trim_start_matches('.').len();
        if level > 0 {
            let mut base = folder;
            for _ in 1..level {
                if base.is_empty() {
                    return None;
                }
                base = parent(base);
            }
            let rest = &name[level..];
            return if rest.is_empty() {
                self.init(base).map_or(Some(Found::Folder(base.to_owned())), |file| {
                    Some(Found::File(file, Some(base.to_owned())))
                })
            } else {
                self.module_below(base, rest).or_else(|| self.around(name, folder))
            };
        }
        // Of copies of a package side by side, the one nearest to the file is meant.
        let shared = |root: &str| shared_folders(root, folder);
        let most = self.roots.iter().map(|root| shared(root)).max().unwrap_or(0);
        let near = |is_near: bool| {
            let roots = self.roots.iter().map(String::as_str);
            roots.filter(move |root| (shared(root) == most) == is_near)
        };
        let roots = || std::iter::once(self.own_root(folder)).chain(near(true)).chain(near(false));
        // A folder that holds no module of any depth is none; a file beats a folder without one, wherever both lie.
        let whole = roots().filter_map(|root| self.module_below(root, name));
        let mut folder_found = None;
        for found in whole {
            match found {
                Found::File(..) => return Some(found),
                Found::Folder(_) => folder_found = folder_found.or(Some(found)),
            }
        }
        folder_found.or_else(|| self.in_whole(name)).or_else(|| self.around(name, folder))
    }

    /// What `name` means where the folder that is read is the inside of a package, by which its own code calls it.
    fn in_whole(&self, name: &str) -> Option<Found> {
        let init = self.init("")?;
        let rest = name.strip_prefix(self.tree.project.name.as_str())?;
        match rest.strip_prefix('.') {
            Some(rest) => self.module_below("", rest),
            None => rest.is_empty().then(|| Found::File(init, Some(String::new()))),
        }
    }

    /// `import a.b` where `b` is a name in `a`: what holds it counts.
    fn around(&self, name: &str, folder: &str) -> Option<Found> {
        let shorter =
            name.rfind('.').map(|at| &name[..at]).filter(|shorter| shorter.contains(|c| c != '.'))?;
        match self.find(folder, shorter)? {
            Found::File(file, _) => Some(Found::File(file, None)),
            Found::Folder(_) => None,
        }
    }

    fn declares(&self, file: u32, name: Name) -> bool {
        self.facts(file).is_some_and(|facts| facts.declarations.iter().any(|declared| declared.name == name))
    }

    /// The file that declares what `file` binds as `name`.
    fn declaring(&self, file: u32, name: Name, left: usize) -> Option<u32> {
        if self.declares(file, name) {
            return Some(file);
        }
        let facts = self.facts(file).filter(|_| left > 0)?;
        let folder = self.tree.folder_of(file as usize);
        let bindings = facts.paths.iter().filter(|path| !path.weak);
        let found = bindings.filter_map(|path| {
            let (taken, shown) = path.names.iter().find(|(_, shown)| *shown == name || *shown == SHOWN_ON)?;
            match self.find(folder, &path.path)? {
                Found::File(next, package) => {
                    let taken = if *shown == SHOWN_ON { name } else { *taken };
                    if taken == EVERYTHING {
                        return Some(next);
                    }
                    let text = facts.texts.text(taken);
                    let below = package.and_then(|package| self.module_below(&package, text));
                    if let Some(Found::File(module, _)) = below {
                        return Some(module);
                    }
                    (next != file).then(|| self.declaring(next, taken, left - 1))?
                }
                Found::Folder(folder) => match self.module_below(&folder, facts.texts.text(*taken))? {
                    Found::File(module, _) => Some(module),
                    Found::Folder(_) => None,
                },
            }
        });
        found.into_iter().next()
    }

    /// The modules in the package `folder` that its file `init` shows to those who import everything.
    fn shown_modules(&self, init: u32, folder: &str) -> Vec<u32> {
        let Some(facts) = self.facts(init) else { return Vec::new() };
        let lists = facts.paths.iter().filter(|path| &*path.path == SHOWN_TO_ALL);
        let names = lists.flat_map(|list| &list.names);
        let modules = names.filter_map(|(name, _)| self.module_below(folder, facts.texts.text(*name)));
        let files = modules.filter_map(|found| match found {
            Found::File(file, _) => Some(file),
            Found::Folder(_) => None,
        });
        files.collect()
    }

    fn follow(&self, file: usize, at: usize, path: &PathUse, facts: &FileFacts, links: &mut Links) {
        let folder = self.tree.folder_of(file);
        let Some(found) = self.find(folder, &path.path) else {
            if path.weak {
            } else if path.path.starts_with('.') {
                links.missing.push(at as u32);
            } else {
                let name = path.path.split('.').next().unwrap_or_default().into();
                links.packages.push(PackageUse { name, at: path.span.start });
            }
            return;
        };
        let (own, inside) = match found {
            Found::File(to, package) => (Some(to), package),
            Found::Folder(folder) => (None, Some(folder)),
        };
        let mut own_names: Vec<Name> = Vec::new();
        let mut modules: Vec<u32> = Vec::new();
        for (taken, _) in path.names.iter().filter(|(taken, _)| *taken != EVERYTHING) {
            let below =
                inside.as_ref().and_then(|inside| self.module_below(inside, facts.texts.text(*taken)));
            match below {
                Some(Found::File(module, _)) => modules.push(module),
                // A folder without a file of its own is no file to lead to.
                Some(Found::Folder(_)) if own.is_none() => {}
                _ => own_names.push(*taken),
            }
        }
        let takes_all = path.names.iter().any(|(_, shown)| *shown == SHOWN_ON);
        if let (Some(to), Some(inside), true) = (own, &inside, takes_all) {
            modules.extend(self.shown_modules(to, inside));
        }
        modules.sort_unstable();
        modules.dedup();
        links.files.extend(modules.iter().map(|&to| path_link(at, path, to)));
        let Some(to) = own else { return };
        let only_modules = !modules.is_empty() && own_names.is_empty() && !takes_all;
        if !only_modules {
            let declaring: Vec<Option<u32>> =
                own_names.iter().map(|name| self.declaring(to, *name, LONGEST_WAY)).collect();
            let behind = match declaring.first() {
                Some(Some(first)) if *first != to && declaring.iter().all(|other| *other == Some(*first)) => {
                    Some(*first)
                }
                _ => None,
            };
            let name = match own_names[..] {
                [only] if self.declares(behind.unwrap_or(to), only) => only,
                _ => EVERYTHING,
            };
            links.files.push(Link { behind, name, ..path_link(at, path, to) });
        }
    }
}

impl Linker for PythonLinker<'_> {
    fn links(&self, file: usize) -> Links {
        let mut links = Links::default();
        let Some(facts) = self.facts(file as u32) else { return links };
        for (at, path) in facts.paths.iter().enumerate() {
            if &*path.path == SHOWN_TO_ALL {
                continue;
            }
            if path.base == PathBase::Name {
                self.follow(file, at, path, facts, &mut links);
            } else if looks_like_path(path.path.as_bytes()) {
                let folder = self.tree.folder_of(file);
                let beside = join(folder, &path.path).and_then(|path| self.tree.file(&path));
                let found = beside.or_else(|| self.tree.file(&path.path));
                links.files.extend(found.map(|to| path_link(at, path, to)));
            }
        }
        links
    }
}
