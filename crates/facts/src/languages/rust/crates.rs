//! The crates of a project: by each manifest a library, programs, tests, examples and benches, and what they may use.

use crate::linking::{ByFolder, Tree, join};
use ferngate_model::{ManifestFacts, Name, ProjectFacts};
use rustc_hash::{FxHashMap, FxHashSet};

/// One crate.
pub struct Crate<'p> {
    /// Its root file.
    pub root: u32,
    /// The manifest that makes it; `None` for a file that stands alone.
    pub manifest: Option<&'p ManifestFacts>,
    /// Other crates of the project by the name under which this one knows them.
    pub known: FxHashMap<Name, usize>,
    /// Packages outside by the name under which this one knows them.
    pub packages: FxHashMap<Name, &'p str>,
    /// Paths of imports begin at the root of the crate, as they did in the edition of 2015.
    pub old_paths: bool,
    /// Its functions are macros for others.
    pub makes_macros: bool,
}

/// Folders whose files are crates of their own.
const TARGETS: &[&str] = &["src/bin", "tests", "examples", "benches"];

/// All crates that manifests make, libraries first.
pub fn crates<'p>(tree: &Tree<'p>) -> Vec<Crate<'p>> {
    let project = tree.project;
    let manifests: Vec<&ManifestFacts> = {
        let by_folder = ByFolder::new(project, &["Cargo.toml"]);
        let mut all: Vec<&ManifestFacts> = by_folder.all().collect();
        all.sort_by_key(|manifest| manifest.folder());
        all
    };
    let mut found: Vec<Crate> = Vec::new();
    let mut libraries: FxHashMap<&str, usize> = FxHashMap::default();
    let packaged = || manifests.iter().copied().filter(|manifest| manifest.setting("package").is_some());
    for manifest in packaged() {
        let path = manifest.setting("lib").unwrap_or("src/lib.rs");
        let root = join(manifest.folder(), path).and_then(|path| tree.file(&path));
        if let Some(root) = root {
            libraries.insert(manifest.folder(), found.len());
            found.push(new_crate(root, Some(manifest)));
        }
    }
    for manifest in packaged() {
        for root in targets(tree, manifest) {
            if found.iter().all(|other| other.root != root) {
                found.push(new_crate(root, Some(manifest)));
            }
        }
    }
    let folders: FxHashMap<&str, &ManifestFacts> = manifests.iter().map(|m| (m.folder(), *m)).collect();
    for one in &mut found {
        know(one, &libraries, &folders);
    }
    found
}

/// A crate of a file that no manifest reaches.
pub fn lone(root: u32) -> Crate<'static> {
    new_crate(root, None)
}

fn new_crate(root: u32, manifest: Option<&ManifestFacts>) -> Crate<'_> {
    let edition = manifest.map_or("2021", |manifest| manifest.setting("edition").unwrap_or("2015"));
    Crate {
        root,
        manifest,
        known: FxHashMap::default(),
        packages: FxHashMap::default(),
        old_paths: edition == "2015",
        makes_macros: manifest.is_some_and(|manifest| manifest.setting("proc-macro").is_some()),
    }
}

/// Root files of programs, tests, examples, benches and the build script.
fn targets(tree: &Tree, manifest: &ManifestFacts) -> Vec<u32> {
    let folder = manifest.folder();
    let mut roots: Vec<u32> = Vec::new();
    let stated = manifest.settings_of("target:").map(|(_, path)| path);
    let build = manifest.setting("build").unwrap_or("build.rs");
    let usual = stated.chain(["src/main.rs", build]);
    roots.extend(usual.filter_map(|path| tree.file(&join(folder, path)?)));
    for target in TARGETS {
        let Some(home) = join(folder, target) else { continue };
        let prefix = format!("{home}/");
        let files = &tree.project.files;
        let first = files.partition_point(|file| file.path.as_str() < prefix.as_str());
        for (at, file) in files.iter().enumerate().skip(first) {
            let Some(rest) = file.path.as_str().strip_prefix(&prefix) else { break };
            let is_root = match rest.split_once('/') {
                None => rest.ends_with(".rs"),
                Some((_, below)) => below == "main.rs",
            };
            if is_root {
                roots.push(at as u32);
            }
        }
    }
    roots
}

fn know<'p>(
    one: &mut Crate<'p>,
    libraries: &FxHashMap<&'p str, usize>,
    folders: &FxHashMap<&'p str, &'p ManifestFacts>,
) {
    let Some(manifest) = one.manifest else { return };
    if let Some(&own) = libraries.get(manifest.folder()) {
        one.known.insert(extern_name(manifest), own);
    }
    let workspace = crate::linking::upwards(manifest.folder())
        .filter_map(|folder| folders.get(folder))
        .find(|above| above.setting("workspace").is_some());
    for (key, value) in manifest.settings_of("dep:") {
        let mut stated = dependency(manifest, value);
        if stated.inherited {
            let Some((above, inherited)) = workspace.and_then(|above| {
                Some((above, above.settings_of("workspace-dep:").find(|(name, _)| *name == key)?.1))
            }) else {
                continue;
            };
            stated = dependency(above, inherited);
        }
        let package = if stated.package.is_empty() { key } else { stated.package };
        let local = stated.folder.as_deref().and_then(|folder| libraries.get_key_value(folder));
        match local {
            Some((folder, &library)) => {
                // Without a new name the crate is called as its library is.
                let renamed = !stated.package.is_empty();
                let name = match folders.get(folder) {
                    Some(target) if !renamed => extern_name(target),
                    _ => Name::new(key.replace('-', "_").as_bytes()),
                };
                one.known.insert(name, library);
            }
            None => {
                one.packages.insert(Name::new(key.replace('-', "_").as_bytes()), package);
            }
        }
    }
}

/// The name under which others know the library of `manifest`.
fn extern_name(manifest: &ManifestFacts) -> Name {
    let name = manifest.setting("lib-name").or(manifest.setting("package")).unwrap_or_default();
    Name::new(name.replace('-', "_").as_bytes())
}

struct Dependency<'m> {
    folder: Option<String>,
    package: &'m str,
    inherited: bool,
}

/// The parts of a dependency's setting: path, package, `workspace`, with line ends between.
fn dependency<'m>(manifest: &ManifestFacts, value: &'m str) -> Dependency<'m> {
    let mut parts = value.split('\n');
    let mut next = || parts.next().unwrap_or_default();
    let (path, package, inherited) = (next(), next(), next());
    let folder = if path.is_empty() { None } else { join(manifest.folder(), path) };
    Dependency { folder, package, inherited: !inherited.is_empty() }
}

/// Files with this language that none of the `claimed` are, those first that look like roots.
pub fn left_over(project: &ProjectFacts, claimed: &FxHashSet<u32>) -> Vec<u32> {
    let rust = project
        .files
        .iter()
        .enumerate()
        .filter(|(_, file)| file.path.extension() == "rs" && file.facts.is_some());
    let mut left: Vec<u32> = rust.map(|(at, _)| at as u32).filter(|at| !claimed.contains(at)).collect();
    left.sort_by_key(|at| {
        let path = &project.files[*at as usize].path;
        let is_root = matches!(path.file_name(), "lib.rs" | "main.rs");
        (!is_root, path.as_str().matches('/').count(), *at)
    });
    left
}
