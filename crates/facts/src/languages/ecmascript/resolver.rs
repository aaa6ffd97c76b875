//! From a specifier to a file: relative names, the settings of the compiler, packages of the workspace.

use super::loader::{Loader, loaders};
use super::platforms::Platforms;
use super::rounds::{Round, rounds};
use crate::linking::{ByFolder, Tree, join, upwards};
use ferngate_model::{ManifestFacts, PathBase, PathUse, ProjectFacts, shared_folders};
use rustc_hash::FxHashMap;

/// Folders that hold what is built from `src`.
const BUILT: &[&str] = &["dist", "lib", "build", "out", "es", "esm", "cjs", "types", "umd", "bundles"];
/// Folders of pages whose root a leading slash means.
const PUBLIC: &[&str] = &["public", "static", "www", "app", "src"];
/// How many settings may extend one another.
const LONGEST_CHAIN: usize = 16;

/// Settings of the compiler for a folder and what is below it, those that it extends taken in.
#[derive(Debug)]
struct Settings {
    /// Where names without a dot in front are looked for.
    base: Option<String>,
    /// Patterns with the paths that they stand for, from the root.
    paths: Vec<(String, Vec<String>)>,
}

/// Resolves specifiers.
pub struct Resolver<'p> {
    pub tree: Tree<'p>,
    packages: ByFolder<'p>,
    /// Packages by name, those with the shorter folder first.
    by_name: FxHashMap<&'p str, Vec<&'p ManifestFacts>>,
    settings: FxHashMap<&'p str, Settings>,
    loaders: Vec<Loader>,
    pub platforms: Platforms<'p>,
}

/// What a specifier leads to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Resolved {
    /// A file of the project.
    File(u32),
    /// A package outside.
    Package,
    /// Nothing that is there.
    Missing,
}

impl<'p> Resolver<'p> {
    pub fn new(project: &'p ProjectFacts, scripts: impl Iterator<Item = usize>) -> Self {
        let tree = Tree::new(project);
        let packages = ByFolder::new(project, &["package.json"]);
        let mut by_name: FxHashMap<&str, Vec<&ManifestFacts>> = FxHashMap::default();
        for manifest in packages.all().filter(|manifest| manifest.setting("named").is_some()) {
            by_name.entry(&manifest.name).or_default().push(manifest);
        }
        for named in by_name.values_mut() {
            named.sort_by_key(|manifest| (manifest.folder().len(), manifest.folder()));
        }
        let configs = ByFolder::new(project, &["tsconfig.json", "jsconfig.json"]);
        let settings = configs.all().map(|config| (config.folder(), settings_of(project, config))).collect();
        let loaders = loaders(project, &tree);
        let platforms = Platforms::new(project, scripts);
        Self { tree, packages, by_name, settings, loaders, platforms }
    }

    /// Where `path` in the file with this index leads.
    pub fn resolve(&self, from: usize, path: &PathUse) -> Resolved {
        let folder = self.tree.folder_of(from);
        let typed = self.tree.project.files[from].path.extension().contains("ts");
        // `loader!./name?query` means the file `./name`
        let name = path.path.rsplit('!').next().unwrap_or_default();
        let name = name.find('?').map_or(name, |at| &name[..at]);
        if name.is_empty() || name.contains("://") || name.starts_with("data:") {
            return Resolved::Package;
        }
        let dotted = name.starts_with("./") || name.starts_with("../") || name == "." || name == "..";
        let found = rounds(typed).iter().find_map(|round| {
            if dotted {
                let last = name.rsplit('/').next();
                let is_folder = matches!(last, Some("" | "." | ".."));
                return self.file_or_folder(&join(folder, name)?, round, is_folder);
            }
            if let Some(rest) = name.strip_prefix('/') {
                return self.below_site(folder, rest, round);
            }
            let found =
                self.by_settings(folder, name, round).or_else(|| self.by_package(folder, name, round));
            let by_loader = || self.by_loader(folder, name, round);
            found.or_else(|| (path.base == PathBase::Anywhere).then(by_loader).flatten())
        });
        let other = if dotted { Resolved::Missing } else { Resolved::Package };
        let of_platform =
            || self.platforms.first(self.tree.project, from, &join(folder, name).filter(|_| dotted)?);
        found.or_else(of_platform).map_or(other, Resolved::File)
    }

    /// A path from the root of a site: of the folders around, or of one that is served.
    fn below_site(&self, folder: &str, rest: &str, round: &Round) -> Option<u32> {
        upwards(folder).find_map(|around| {
            let inside = PUBLIC.iter().map(|public| join(around, &format!("{public}/{rest}")));
            let all = std::iter::once(join(around, rest)).chain(inside);
            all.flatten().find_map(|path| self.file_or_folder(&path, round, false))
        })
    }

    /// By the compiler's settings of the nearest folder that has some.
    fn by_settings(&self, folder: &str, name: &str, round: &Round) -> Option<u32> {
        if self.settings.is_empty() {
            return None;
        }
        let settings = upwards(folder).find_map(|folder| self.settings.get(folder))?;
        let mut matching: Vec<(usize, &str, &Vec<String>)> = Vec::new();
        for (pattern, targets) in &settings.paths {
            if let Some(caught) = caught(pattern, name) {
                let exact = if pattern.contains('*') { pattern.find('*').unwrap_or(0) } else { usize::MAX };
                matching.push((exact, caught, targets));
            }
        }
        let Some((_, caught, targets)) = matching.into_iter().rev().max_by_key(|(exact, ..)| *exact) else {
            return self.file_or_folder(&join(settings.base.as_deref()?, name)?, round, false);
        };
        targets.iter().find_map(|target| self.file_or_folder(&target.replacen('*', caught, 1), round, false))
    }

    /// A package of the workspace, or a name of the own package's `imports`.
    fn by_package(&self, folder: &str, name: &str, round: &Round) -> Option<u32> {
        if name.starts_with('#') {
            let own = self.packages.nearest(folder)?;
            return self.by_map(own, "import:", name, round);
        }
        let mut parts = name.split('/');
        let length = match (parts.next()?, parts.next()) {
            (scope, Some(second)) if scope.starts_with('@') => scope.len() + 1 + second.len(),
            (first, _) => first.len(),
        };
        let named = self.by_name.get(&name[..length])?.iter().rev();
        // Of several packages of one name the one that the script is part of, else the nearest.
        let package = named.max_by_key(|package| {
            let holds = upwards(folder).any(|around| around == package.folder());
            (holds, shared_folders(folder, package.folder()))
        })?;
        let below = name[length..].trim_start_matches('/');
        self.in_package(package, below, round)
    }

    /// The file of `package` that the rest of a specifier means.
    fn in_package(&self, package: &ManifestFacts, below: &str, round: &Round) -> Option<u32> {
        let key = if below.is_empty() { ".".to_owned() } else { format!("./{below}") };
        if let Some(found) = self.by_map(package, "export:", &key, round) {
            return Some(found);
        }
        if !below.is_empty() {
            let whole = join(package.folder(), below)?;
            let made_from = || {
                let source = join(package.folder(), &format!("src/{below}"))?;
                self.source_of(package, below).or_else(|| self.file_or_folder(&source, round, false))
            };
            return found_or_made(round, |round| self.file_or_folder(&whole, round, false), made_from);
        }
        self.entry(package, round)
    }

    /// The file that a whole package means.
    fn entry(&self, package: &ManifestFacts, round: &Round) -> Option<u32> {
        let source = || self.index(&join(package.folder(), "src")?, round);
        found_or_made(round, |round| self.known_entry(package, round), source)
    }

    /// The file that a package states for the whole of it, or its index.
    fn known_entry(&self, package: &ManifestFacts, round: &Round) -> Option<u32> {
        let types = if round.knows_types { &["typings", "types"][..] } else { &[] };
        let keys = ["source"].iter().chain(types).chain(&["main", "module", "browser", "types", "typings"]);
        let paths = keys.filter_map(|key| package.setting(key));
        let stated = paths.filter_map(|path| self.stated(package, path, round)).next();
        stated.or_else(|| self.index(package.folder(), round))
    }

    /// The file or folder at `path` of `package`, else what a build would make it from.
    fn stated(&self, package: &ManifestFacts, path: &str, round: &Round) -> Option<u32> {
        let whole = join(package.folder(), path)?;
        let there = |round: &Round| round.file(&self.tree, &whole).or_else(|| self.index(&whole, round));
        found_or_made(round, there, || self.source_of(package, path))
    }

    /// By a map of `exports` or `imports`: the key with most before its star counts, and of such the longest ("Packages:
    /// subpath patterns", the runtime's reference).
    fn by_map(&self, package: &ManifestFacts, sort: &str, key: &str, round: &Round) -> Option<u32> {
        let exactness = |pattern: &str| (pattern.find('*').unwrap_or(usize::MAX), pattern.len());
        let matching = package.settings_of(sort).filter(|(pattern, _)| caught(pattern, key).is_some());
        let (best, _) = matching.max_by_key(|(pattern, _)| exactness(pattern))?;
        let caught = caught(best, key)?;
        let mut targets = package.settings_of(sort).filter(|(pattern, _)| *pattern == best);
        targets.find_map(|(_, target)| self.stated(package, &target.replace('*', caught), round))
    }

    /// The source of what a build puts to `path` of `package`: the same path under `src` instead of the built folder.
    fn source_of(&self, package: &ManifestFacts, path: &str) -> Option<u32> {
        let path = path.trim_start_matches("./");
        let mut rest = path;
        let mut built = false;
        // `dist/esm/index.js`: folders of folders
        while let Some((first, below)) = rest.split_once('/')
            && BUILT.contains(&first)
        {
            (rest, built) = (below, true);
        }
        if !built {
            return None;
        }
        let endings = [".d.ts", ".d.mts", ".d.cts", ".min.js", ".js", ".mjs", ".cjs"];
        let stem = endings.iter().find_map(|ending| rest.strip_suffix(ending)).unwrap_or(rest);
        ["src/", "", "source/", "lib/"].iter().find_map(|root| {
            let whole = join(package.folder(), &format!("{root}{stem}"))?;
            [".ts", ".tsx", ".mts", ".cts", ".js", ".jsx", ".mjs", ".vue"]
                .iter()
                .find_map(|ending| self.tree.file(&format!("{whole}{ending}")))
        })
    }

    /// The file that a loader of modules finds: by what it is told, else from a folder around.
    fn by_loader(&self, folder: &str, name: &str, round: &Round) -> Option<u32> {
        let nearest = self.loaders.iter().filter_map(|loader| Some((loader.covers(folder)?, loader)));
        let told = nearest.max_by_key(|(length, _)| *length).and_then(|(_, loader)| self.told(loader, name));
        if told.is_some() {
            return told;
        }
        upwards(folder).find_map(|around| self.file_or_folder(&join(around, name)?, round, false))
    }

    fn told(&self, loader: &Loader, name: &str) -> Option<u32> {
        let path = loader.path(name)?;
        let named = || rounds(false).iter().find_map(|round| self.file_or_folder(&path, round, false));
        self.tree.file(&format!("{path}.js")).or_else(named)
    }

    /// Files and what they need without saying so.
    pub fn needs(&self) -> impl Iterator<Item = (u32, u32)> + '_ {
        self.loaders.iter().flat_map(|loader| {
            loader
                .needs
                .iter()
                .filter_map(|(name, need)| Some((self.told(loader, name)?, self.told(loader, need)?)))
        })
    }

    /// The file `path`, or what stands for it, or the index of the folder.
    fn file_or_folder(&self, path: &str, round: &Round, only_folder: bool) -> Option<u32> {
        let file = if only_folder { None } else { round.file(&self.tree, path) };
        file.or_else(|| {
            if !self.tree.is_folder(path) {
                return None;
            }
            let package = self.packages.at(path).and_then(|package| self.entry(package, round));
            package.or_else(|| self.index(path, round))
        })
    }

    fn index(&self, folder: &str, round: &Round) -> Option<u32> {
        let index = if folder.is_empty() { "index".to_owned() } else { format!("{folder}/index") };
        round.file(&self.tree, &index)
    }
}

/// What `find` finds in `round`. Where it finds nothing in any round, a build has yet to make it: what it is made from.
fn found_or_made(
    round: &Round,
    find: impl Fn(&Round) -> Option<u32>,
    made_from: impl FnOnce() -> Option<u32>,
) -> Option<u32> {
    let found = find(round);
    let is_somewhere = || rounds(true).iter().any(|round| find(round).is_some());
    if found.is_some() || is_somewhere() { found } else { made_from() }
}

/// What the star of `pattern` stands for in `name`; empty where both are the same.
fn caught<'n>(pattern: &str, name: &'n str) -> Option<&'n str> {
    match pattern.split_once('*') {
        Some((before, after)) => name.strip_prefix(before)?.strip_suffix(after),
        None => (pattern == name).then_some(""),
    }
}

fn settings_of(project: &ProjectFacts, config: &ManifestFacts) -> Settings {
    let mut base = None;
    let mut patterns: Vec<(&str, &str)> = Vec::new();
    let mut root = config.folder();
    let mut chain = vec![config];
    let mut at = 0;
    while at < chain.len() && at < LONGEST_CHAIN {
        let config = chain[at];
        at += 1;
        base = base.or_else(|| join(config.folder(), config.setting("baseUrl")?));
        if patterns.is_empty() {
            patterns.extend(config.settings_of("path:"));
            root = config.folder();
        }
        // What is extended last counts first.
        let extended: Vec<&str> = config.settings_of("extends").map(|(_, name)| name).collect();
        for name in extended.iter().rev() {
            let Some(path) = join(config.folder(), name) else { continue };
            let found = [path.clone(), format!("{path}.json")];
            chain.extend(
                found.iter().find_map(|path| project.manifest(path)).map(|at| &project.manifests[at]),
            );
        }
    }
    // The paths lead from the base, wherever in the chain that is stated.
    let root = base.as_deref().unwrap_or(root);
    let mut paths: Vec<(String, Vec<String>)> = Vec::new();
    for (pattern, target) in patterns {
        let Some(target) = join(root, target) else { continue };
        match paths.last_mut() {
            Some((last, targets)) if last == pattern => targets.push(target),
            _ => paths.push((pattern.to_owned(), vec![target])),
        }
    }
    Settings { base, paths }
}
