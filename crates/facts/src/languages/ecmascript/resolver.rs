//! From a specifier to a file: relative names, the settings of the compiler, packages of the workspace.

use super::loader::{Loader, loaders};
use crate::linking::{ByFolder, Tree, join, upwards};
use ferngate_model::{ManifestFacts, PathBase, PathUse, ProjectFacts, shared_folders};
use rustc_hash::FxHashMap;

/// Endings that are tried behind a name without one, as the compiler of TypeScript does.
const TYPED_ENDINGS: &[&str] =
    &[".ts", ".tsx", ".d.ts", ".js", ".jsx", ".json", ".mts", ".cts", ".mjs", ".cjs", ".vue", ".svelte"];
/// The same from a file of JavaScript, as the runtime does.
const PLAIN_ENDINGS: &[&str] =
    &[".js", ".jsx", ".mjs", ".cjs", ".json", ".ts", ".tsx", ".d.ts", ".mts", ".cts", ".vue", ".svelte"];
/// What an ending may stand for before the compiler has run.
const SOURCES: &[(&str, &[&str])] = &[
    (".js", &[".ts", ".tsx", ".d.ts"]),
    (".jsx", &[".tsx", ".d.ts"]),
    (".mjs", &[".mts", ".d.mts"]),
    (".cjs", &[".cts", ".d.cts"]),
    (".d.ts", &[".ts", ".tsx"]),
    (".d.mts", &[".mts"]),
    (".d.cts", &[".cts"]),
];
/// Folders that hold what is built from `src`.
const BUILT: &[&str] = &["dist", "lib", "build", "out", "es", "esm", "cjs", "types", "umd", "bundles"];
/// Folders of pages whose root a leading slash means.
const PUBLIC: &[&str] = &["public", "static", "www", "app", "src"];
/// How many settings may extend one another.
const LONGEST_CHAIN: usize = 16;

/// Settings of the compiler for a folder and what is below it, those that it extends taken in.
#[derive(Debug, Default)]
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
    pub fn new(project: &'p ProjectFacts) -> Self {
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
        Self { tree, packages, by_name, settings, loaders }
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
        if name.starts_with("./") || name.starts_with("../") || name == "." || name == ".." {
            let found =
                join(folder, name).and_then(|path| self.file_or_folder(&path, typed, name.ends_with('/')));
            return found.map_or(Resolved::Missing, Resolved::File);
        }
        if let Some(rest) = name.strip_prefix('/') {
            return self.below_site(folder, rest, typed).map_or(Resolved::Package, Resolved::File);
        }
        let found = self.by_settings(folder, name, typed).or_else(|| self.by_package(folder, name, typed));
        let found = found.or_else(|| {
            (path.base == PathBase::Anywhere).then(|| self.by_loader(folder, name, typed)).flatten()
        });
        found.map_or(Resolved::Package, Resolved::File)
    }

    /// A path from the root of a site: of the folders around, or of one that is served.
    fn below_site(&self, folder: &str, rest: &str, typed: bool) -> Option<u32> {
        upwards(folder).find_map(|around| {
            let inside = PUBLIC.iter().map(|public| join(around, &format!("{public}/{rest}")));
            let all = std::iter::once(join(around, rest)).chain(inside);
            all.flatten().find_map(|path| self.file_or_folder(&path, typed, false))
        })
    }

    /// By the compiler's settings of the nearest folder that has some.
    fn by_settings(&self, folder: &str, name: &str, typed: bool) -> Option<u32> {
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
        matching.sort_by_key(|(exact, ..)| std::cmp::Reverse(*exact));
        let mapped = matching.into_iter().next().and_then(|(_, caught, targets)| {
            targets
                .iter()
                .find_map(|target| self.file_or_folder(&target.replacen('*', caught, 1), typed, false))
        });
        let based = || self.file_or_folder(&join(settings.base.as_deref()?, name)?, typed, false);
        mapped.or_else(based)
    }

    /// A package of the workspace, or a name of the own package's `imports`.
    fn by_package(&self, folder: &str, name: &str, typed: bool) -> Option<u32> {
        if name.starts_with('#') {
            let own = self.packages.nearest(folder)?;
            return self.by_map(own, "import:", name, typed);
        }
        let mut parts = name.split('/');
        let length = match (parts.next()?, parts.next()) {
            (scope, Some(second)) if scope.starts_with('@') => scope.len() + 1 + second.len(),
            (first, _) => first.len(),
        };
        let named = self.by_name.get(&name[..length])?.iter().rev();
        let package = named.max_by_key(|package| shared_folders(folder, package.folder()))?;
        let below = name[length..].trim_start_matches('/');
        self.in_package(package, below, typed)
    }

    /// The file of `package` that the rest of a specifier means.
    fn in_package(&self, package: &ManifestFacts, below: &str, typed: bool) -> Option<u32> {
        let key = if below.is_empty() { ".".to_owned() } else { format!("./{below}") };
        if let Some(found) = self.by_map(package, "export:", &key, typed) {
            return Some(found);
        }
        if !below.is_empty() {
            let whole = join(package.folder(), below)?;
            let source =
                || self.file_or_folder(&join(package.folder(), &format!("src/{below}"))?, typed, false);
            return self
                .file_or_folder(&whole, typed, false)
                .or_else(|| self.source_of(package, below))
                .or_else(source);
        }
        self.entry(package, typed)
    }

    /// The file that a whole package means.
    fn entry(&self, package: &ManifestFacts, typed: bool) -> Option<u32> {
        let types = if typed { &["types", "typings"][..] } else { &[] };
        let keys = ["source"].iter().chain(types).chain(&["main", "module", "browser", "types", "typings"]);
        let stated = keys.filter_map(|key| package.setting(key)).find_map(|path| {
            let whole = join(package.folder(), path)?;
            self.source_of(package, path)
                .or_else(|| self.file_only(&whole, typed))
                .or_else(|| self.index(&whole, typed))
        });
        let index = || self.index(package.folder(), typed);
        let source = || self.index(&join(package.folder(), "src")?, typed);
        stated.or_else(index).or_else(source)
    }

    /// By a map of `exports` or `imports`.
    fn by_map(&self, package: &ManifestFacts, sort: &str, key: &str, typed: bool) -> Option<u32> {
        let mut matching: Vec<(usize, String)> = Vec::new();
        for (pattern, target) in package.settings_of(sort) {
            let Some(caught) = caught(pattern, key) else { continue };
            matching.push((pattern.find('*').unwrap_or(usize::MAX), target.replacen('*', caught, 1)));
        }
        let best = matching.iter().map(|(length, _)| *length).max()?;
        let targets =
            || matching.iter().filter(|(length, _)| *length == best).map(|(_, target)| target.as_str());
        let sources = targets().find_map(|target| self.source_of(package, target));
        sources.or_else(|| {
            targets().find_map(|target| {
                let whole = join(package.folder(), target)?;
                self.file_only(&whole, typed).or_else(|| self.index(&whole, typed))
            })
        })
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
        let stem = [".d.ts", ".d.mts", ".d.cts", ".js", ".mjs", ".cjs", ".min.js"]
            .iter()
            .find_map(|ending| rest.strip_suffix(ending));
        let stem = stem.unwrap_or(rest);
        if !built {
            let whole = join(package.folder(), path)?;
            let sources = [".ts", ".tsx", ".mts", ".cts"].map(|ending| {
                format!(
                    "{}{ending}",
                    whole.strip_suffix(rest).map_or(String::new(), |front| format!("{front}{stem}"))
                )
            });
            return sources.iter().find_map(|path| self.tree.file(path));
        }
        ["src/", "", "source/", "lib/"].iter().find_map(|root| {
            let whole = join(package.folder(), &format!("{root}{stem}"))?;
            [".ts", ".tsx", ".mts", ".cts", ".js", ".jsx", ".mjs", ".vue"]
                .iter()
                .find_map(|ending| self.tree.file(&format!("{whole}{ending}")))
        })
    }

    /// The file that a loader of modules finds: by what it is told, else from a folder around.
    fn by_loader(&self, folder: &str, name: &str, typed: bool) -> Option<u32> {
        let nearest = self.loaders.iter().filter_map(|loader| Some((loader.covers(folder)?, loader)));
        let told = nearest.max_by_key(|(length, _)| *length).and_then(|(_, loader)| self.told(loader, name));
        if told.is_some() {
            return told;
        }
        upwards(folder).find_map(|around| self.file_or_folder(&join(around, name)?, typed, false))
    }

    fn told(&self, loader: &Loader, name: &str) -> Option<u32> {
        let path = loader.path(name)?;
        self.tree.file(&format!("{path}.js")).or_else(|| self.file_or_folder(&path, false, false))
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
    fn file_or_folder(&self, path: &str, typed: bool, only_folder: bool) -> Option<u32> {
        let file = if only_folder { None } else { self.file_only(path, typed) };
        file.or_else(|| {
            if !self.tree.is_folder(path) {
                return None;
            }
            let package = self.packages.at(path).and_then(|package| self.entry(package, typed));
            package.or_else(|| self.index(path, typed))
        })
    }

    fn index(&self, folder: &str, typed: bool) -> Option<u32> {
        let index = if folder.is_empty() { "index".to_owned() } else { format!("{folder}/index") };
        self.with_ending(index, typed)
    }

    fn file_only(&self, path: &str, typed: bool) -> Option<u32> {
        let source = || {
            let (ending, sources) = SOURCES.iter().rev().find(|(ending, _)| path.ends_with(ending))?;
            let stem = &path[..path.len() - ending.len()];
            sources.iter().find_map(|ending| self.tree.file(&format!("{stem}{ending}")))
        };
        let (first, second) = (self.tree.file(path), source());
        let exact = if typed { second.or(first) } else { first.or(second) };
        exact.or_else(|| self.with_ending(path.to_owned(), typed)).or_else(|| self.declared_only(path))
    }

    /// A source that is spelled with its ending, of which only the declarations are there.
    fn declared_only(&self, path: &str) -> Option<u32> {
        let endings = [(".ts", ".d.ts"), (".tsx", ".d.ts"), (".mts", ".d.mts"), (".cts", ".d.cts")];
        let declared =
            |(ending, declared): (&str, &str)| Some(format!("{}{declared}", path.strip_suffix(ending)?));
        endings.into_iter().filter_map(declared).find_map(|path| self.tree.file(&path))
    }

    fn with_ending(&self, mut path: String, typed: bool) -> Option<u32> {
        let length = path.len();
        let endings = if typed { TYPED_ENDINGS } else { PLAIN_ENDINGS };
        endings.iter().find_map(|ending| {
            path.truncate(length);
            path.push_str(ending);
            self.tree.file(&path)
        })
    }
}

/// What the star of `pattern` stands for in `name`; empty where both are the same.
fn caught<'n>(pattern: &str, name: &'n str) -> Option<&'n str> {
    match pattern.split_once('*') {
        Some((before, after)) => name.strip_prefix(before)?.strip_suffix(after),
        None => (pattern == name).then_some(""),
    }
}

fn settings_of(project: &ProjectFacts, config: &ManifestFacts) -> Settings {
    let mut settings = Settings::default();
    let mut chain = vec![config];
    let mut at = 0;
    while at < chain.len() && at < LONGEST_CHAIN {
        let config = chain[at];
        at += 1;
        let base = config.setting("baseUrl").and_then(|base| join(config.folder(), base));
        if settings.paths.is_empty() {
            let root = base.clone().unwrap_or_else(|| config.folder().to_owned());
            for (pattern, target) in config.settings_of("path:") {
                let Some(target) = join(&root, target) else { continue };
                match settings.paths.last_mut() {
                    Some((last, targets)) if last == pattern => targets.push(target),
                    _ => settings.paths.push((pattern.to_owned(), vec![target])),
                }
            }
        }
        settings.base = settings.base.or(base);
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
    settings
}
