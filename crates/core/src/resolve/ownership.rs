//! Which manifest holds which file, and which manifests see each other.

use super::DeclaringFiles;
use super::dependencies::Dependencies;
use super::folders::Folders;
use ferngate_model::{INHERITED, INHERITED_AT, ItemAction, ManifestFacts, PLACE, ProjectFacts, ProjectPath};
use globset::{GlobBuilder, GlobMatcher};
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use smallvec::SmallVec;

/// Files by manifest and manifests by file. Manifests are indices into [`ProjectFacts::manifests`].
#[derive(Clone, Debug, Default)]
pub struct Ownership {
    /// For each file, the manifests that hold it; usually one.
    pub owners: Vec<Vec<u32>>,
    /// For each manifest, the manifests that it declares to use, directly.
    pub declared: Vec<Vec<u32>>,
    /// For each manifest, all that is declared from it on, itself included, sorted.
    pub visible: Vec<Vec<u32>>,
    /// For each manifest, all that its code may use, itself included, sorted: references do not always reach on.
    pub usable: Vec<Vec<u32>>,
    /// For each manifest, whether its code may use more than it declares.
    pub open: Vec<bool>,
    /// For each manifest, its root namespace.
    pub root_namespaces: Vec<Option<String>>,
    /// Where the files lie.
    folders: Folders,
    /// Some manifest says where namespaces lie.
    places: bool,
}

/// Whether `path` matches `pattern`; a pattern that cannot be read matches nothing.
pub fn glob_matches(pattern: &str, path: &str) -> bool {
    glob(pattern).is_some_and(|glob| glob.is_match(path))
}

fn glob(pattern: &str) -> Option<GlobMatcher> {
    Some(GlobBuilder::new(pattern).literal_separator(true).build().ok()?.compile_matcher())
}

fn manifests_by_path(project: &ProjectFacts) -> FxHashMap<&str, usize> {
    let paths =
        project.manifests.iter().enumerate().filter_map(|(at, m)| Some((m.path.as_ref()?.as_str(), at)));
    paths.collect()
}

impl Ownership {
    /// Works out who holds and who sees what.
    pub fn new(project: &ProjectFacts) -> Self {
        let mut ownership = Self { owners: vec![Vec::new(); project.files.len()], ..Self::default() };
        ownership.folders = Folders::new(project);
        ownership.places = project.manifests.iter().any(|manifest| !manifest.namespace_folders.is_empty());
        ownership.open = project.manifests.iter().map(|manifest| manifest.open).collect();
        ownership.listed(project);
        ownership.taken(project);
        ownership.declare(project);
        ownership.close();
        let dependencies = Dependencies::new(project, &ownership.declared);
        ownership.usable =
            (0..project.manifests.len() as u32).map(|manifest| dependencies.usable(manifest, None)).collect();
        ownership.name_roots(project);
        ownership
    }

    /// Files that a manifest lists, directly or in settings that it imports.
    fn listed(&mut self, project: &ProjectFacts) {
        let by_path = manifests_by_path(project);
        for (index, manifest) in project.manifests.iter().enumerate() {
            if manifest.kind != "project" {
                continue;
            }
            self.list(project, manifest, index as u32);
            for import in manifest.mentions.iter().filter(|mention| mention.action == ItemAction::Import) {
                let found =
                    resolve(manifest, &import.written).and_then(|path| by_path.get(path.as_str()).copied());
                if let Some(settings) = found {
                    self.list(project, &project.manifests[settings], index as u32);
                }
            }
        }
    }

    fn list(&mut self, project: &ProjectFacts, manifest: &ManifestFacts, owner: u32) {
        for mention in &manifest.mentions {
            if !matches!(mention.action, ItemAction::Compile | ItemAction::Content) {
                continue;
            }
            let Some(path) = resolve(manifest, &mention.written) else { continue };
            if path.as_str().contains('*') {
                self.list_glob(project, path.as_str(), owner);
            } else if let Some(file) = project.file(path.as_str()) {
                self.own(file, owner);
            }
        }
    }

    /// Files that match a listed pattern; only those below its fixed start are looked at.
    fn list_glob(&mut self, project: &ProjectFacts, pattern: &str, owner: u32) {
        let Some(matcher) = glob(pattern) else { return };
        let fixed = pattern.find('*').map_or(pattern, |at| &pattern[..at]);
        let first = project.files.partition_point(|file| file.path.as_str() < fixed);
        for (at, file) in project.files[first..].iter().enumerate() {
            if !file.path.as_str().starts_with(fixed) {
                break;
            }
            if file.language.is_some() && matcher.is_match(file.path.as_str()) {
                self.own(first + at, owner);
            }
        }
    }

    fn own(&mut self, file: usize, owner: u32) {
        if !self.owners[file].contains(&owner) {
            self.owners[file].push(owner);
        }
    }

    /// Files that lie below a manifest that takes all; the nearest such manifest above a file holds it.
    fn taken(&mut self, project: &ProjectFacts) {
        let mut takers: FxHashMap<&str, Vec<u32>> = FxHashMap::default();
        for (index, manifest) in project.manifests.iter().enumerate() {
            if manifest.takes_all
                && manifest.kind == "project"
                && let Some(path) = &manifest.path
            {
                takers.entry(path.parent()).or_default().push(index as u32);
            }
        }
        if takers.is_empty() {
            return;
        }
        let excluded: Vec<Vec<(ProjectPath, Option<GlobMatcher>)>> =
            project.manifests.iter().map(exclusions).collect();
        let taken: Vec<SmallVec<[u32; 2]>> = project
            .files
            .par_iter()
            .map(|found| {
                let of = |owner: &&u32| {
                    let extensions = project.manifests[**owner as usize].extensions;
                    extensions.is_empty() || extensions.contains(&found.path.extension())
                };
                let excludes = |owner: u32| {
                    excluded[owner as usize].iter().any(|exclusion| excludes(exclusion, &found.path))
                };
                let takers = |folder: &str| takers.get(folder).into_iter().flatten().filter(of).copied();
                let mut folders = folders_above(&found.path).filter(|_| found.language.is_some());
                let nearest = folders.find(|folder| takers(folder).next().is_some());
                nearest.into_iter().flat_map(takers).filter(|owner| !excludes(*owner)).collect()
            })
            .collect();
        for (file, owners) in taken.iter().enumerate() {
            owners.iter().for_each(|owner| self.own(file, *owner));
        }
    }

    fn declare(&mut self, project: &ProjectFacts) {
        let mut by_name: FxHashMap<&str, Vec<u32>> = FxHashMap::default();
        let mut by_path: FxHashMap<&str, u32> = FxHashMap::default();
        for (index, manifest) in project.manifests.iter().enumerate() {
            if let (Some(path), "project") = (&manifest.path, manifest.kind) {
                for name in manifest.answers_to() {
                    by_name.entry(name).or_default().push(index as u32);
                }
                by_path.insert(path.as_str(), index as u32);
            }
        }
        // A project may be called otherwise than its folder says.
        for solution in &project.manifests {
            for (name, folder) in solution.settings_of(PLACE) {
                let Some(folder) = resolve(solution, folder) else { continue };
                let there =
                    |other: &ManifestFacts| other.kind == "project" && other.folder() == folder.as_str();
                let placed = project.manifests.iter().enumerate().filter(|(_, other)| there(other));
                by_name.entry(name).or_default().extend(placed.map(|(at, _)| at as u32));
            }
        }
        for manifest in &project.manifests {
            let mut declared: Vec<u32> = Vec::new();
            for reference in &manifest.references {
                if reference.by_name {
                    let named = by_name.get(reference.target.as_str()).map_or(&[][..], |named| named);
                    declared.extend(nearest_manifests(project, manifest, named));
                } else {
                    let path = resolve(manifest, &reference.target);
                    let exact = path.as_ref().and_then(|path| by_path.get(path.as_str()).copied());
                    declared.extend(exact.or_else(|| only_of_that_name(project, &reference.target)));
                }
            }
            declared.sort_unstable();
            declared.dedup();
            self.declared.push(declared);
        }
        self.inherit(project, &by_path);
    }

    /// Adds what manifests have of those that they name as their parents.
    fn inherit(&mut self, project: &ProjectFacts, by_path: &FxHashMap<&str, u32>) {
        let parent = |manifest: &ManifestFacts| {
            let at = resolve(manifest, manifest.setting(INHERITED_AT)?)?;
            let own_name = manifest.path.as_ref()?.file_name();
            let inside = ProjectPath::resolve(at.as_str(), own_name)?;
            let found = [&at, &inside].into_iter().find_map(|path| by_path.get(path.as_str()))?;
            let is_meant =
                Some(project.manifests[*found as usize].name.as_str()) == manifest.setting(INHERITED);
            is_meant.then_some(*found)
        };
        let parents: Vec<Option<u32>> = project.manifests.iter().map(parent).collect();
        let own = self.declared.clone();
        for (at, declared) in self.declared.iter_mut().enumerate() {
            let above = std::iter::successors(parents[at], |parent| parents[*parent as usize]);
            for parent in above.take(MOST_PARENTS) {
                declared.extend(own[parent as usize].iter().filter(|inherited| **inherited as usize != at));
            }
            declared.sort_unstable();
            declared.dedup();
        }
    }

    /// What is reached through declared dependencies.
    fn close(&mut self) {
        for start in 0..self.declared.len() as u32 {
            let mut seen = vec![start];
            let mut at = 0;
            while let Some(manifest) = seen.get(at) {
                for next in &self.declared[*manifest as usize] {
                    if !seen.contains(next) {
                        seen.push(*next);
                    }
                }
                at += 1;
            }
            seen.sort_unstable();
            self.visible.push(seen);
        }
    }

    /// Root namespaces: as stated, else as the nearest settings above state it, else the manifest's own file name.
    fn name_roots(&mut self, project: &ProjectFacts) {
        for manifest in &project.manifests {
            let Some(path) = manifest.path.as_ref().filter(|_| manifest.kind == "project") else {
                self.root_namespaces.push(None);
                continue;
            };
            let above = || {
                let settings = project.manifests.iter().filter(|other| other.kind == "settings");
                let holding = settings.filter(|other| {
                    other.path.as_ref().is_some_and(|p| {
                        p.file_name().eq_ignore_ascii_case("Directory.Build.props")
                            && path.is_within(p.parent())
                    })
                });
                let nearest = holding
                    .filter(|other| other.root_namespace.is_some())
                    .max_by_key(|other| other.path.as_ref().map_or(0, |p| p.parent().len()));
                nearest.and_then(|other| other.root_namespace.clone())
            };
            let stem = path.stem().replace([' ', '-'], "_");
            let stated = manifest.root_namespace.clone().or_else(above);
            let expanded = stated.map(|text| {
                let text = text.replace(".Replace(\" \", \"_\")", "");
                text.replace("$(MSBuildProjectName)", &stem).replace("$(AssemblyName)", &manifest.name)
            });
            let known = expanded.filter(|text| !text.contains("$("));
            self.root_namespaces.push(known.or(manifest.named_root.then_some(stem)));
        }
    }

    /// Whether code of `file` can see what `other` declares, as far as manifests tell.
    pub fn sees(&self, file: usize, other: usize) -> bool {
        self.is_in(&self.visible, file, other)
    }

    /// Whether code of `file` may use what `other` declares, as far as manifests tell.
    pub fn may_use(&self, file: usize, other: usize) -> bool {
        self.is_in(&self.usable, file, other)
    }

    fn is_in(&self, reach: &[Vec<u32>], file: usize, other: usize) -> bool {
        let (from, to) = (&self.owners[file], &self.owners[other]);
        if from.is_empty() || to.is_empty() || from.iter().any(|owner| self.open[*owner as usize]) {
            return true;
        }
        from.iter().any(|f| to.iter().any(|t| reach[*f as usize].binary_search(t).is_ok()))
    }

    /// Whether both files belong to one manifest, or neither to any.
    pub fn together(&self, file: usize, other: usize) -> bool {
        let (a, b) = (&self.owners[file], &self.owners[other]);
        a.is_empty() && b.is_empty() || a.iter().any(|owner| b.contains(owner))
    }

    /// Of several files that declare one name, those of `file`'s own manifest, else those that its manifest can see.
    /// `None` where that tells nothing.
    pub fn of_manifest(&self, file: usize, files: &[u32]) -> Option<DeclaringFiles> {
        if self.owners[file].is_empty() {
            return None;
        }
        let pick = |keep: &dyn Fn(usize) -> bool| -> DeclaringFiles {
            files.iter().copied().filter(|other| keep(*other as usize)).collect()
        };
        let own = pick(&|other| self.together(file, other));
        if !own.is_empty() {
            return Some(own);
        }
        let seen = pick(&|other| self.sees(file, other));
        (!seen.is_empty() && seen.len() < files.len()).then_some(seen)
    }

    /// The folders of all files.
    pub fn folders(&self) -> &Folders {
        &self.folders
    }

    /// Of several files that declare one name, those that lie nearest to `file`.
    pub fn nearest(&self, file: usize, files: DeclaringFiles) -> DeclaringFiles {
        // Without a manifest a name that is declared again in another part of the tree is another name, unless both
        // lie equally near.
        let mut most = 0;
        let mut nearest = DeclaringFiles::new();
        for other in files {
            let shared = self.folders.shared(file, other as usize);
            if shared > most {
                nearest.clear();
            }
            if shared >= most {
                most = shared;
                nearest.push(other);
            }
        }
        nearest
    }

    /// Of several files that declare a name of `namespace`, those that lie where their manifest loads that namespace
    /// from, if some do. Copies elsewhere, such as the data of tests, are meant by what lies beside them only.
    pub fn placed(
        &self,
        project: &ProjectFacts,
        file: usize,
        files: DeclaringFiles,
        namespace: impl Fn() -> String,
    ) -> DeclaringFiles {
        if !self.places || files.len() < 2 {
            return files;
        }
        let namespace = namespace();
        let folder = |file: u32| project.files[file as usize].path.parent();
        let lies_right = |other: u32| {
            let mapping = |owner: &&u32| !project.manifests[**owner as usize].namespace_folders.is_empty();
            let mut owners = self.owners[other as usize].iter().filter(mapping);
            owners.any(|owner| {
                self.folder_namespace(project, *owner, folder(other)).as_ref() == Some(&namespace)
            })
        };
        let (right, others): (DeclaringFiles, DeclaringFiles) =
            files.iter().copied().partition(|other| lies_right(*other));
        let beside = others.iter().any(|other| self.folders.beside(file, *other as usize));
        if right.is_empty() || beside { files } else { right }
    }

    /// The namespace that `folder` should have in the manifest `owner`, by its root namespace.
    pub fn folder_namespace(&self, project: &ProjectFacts, owner: u32, folder: &str) -> Option<String> {
        let manifest = &project.manifests[owner as usize];
        let home = manifest.path.as_ref()?.parent();
        let below = ProjectPath::new(folder).below(home)?.to_owned();
        let (root, below, separator) = match self.root_namespaces[owner as usize].as_deref() {
            Some(root) => (root, below.as_str(), "."),
            // The deepest folder with a namespace of its own counts.
            None => {
                let holding = manifest.namespace_folders.iter().filter_map(|(folder, namespace)| {
                    Some((folder.len(), namespace, ProjectPath::new(&below).below(folder)?.len()))
                });
                let (_, namespace, rest) = holding.max_by_key(|(length, ..)| *length)?;
                (namespace.as_str(), &below[below.len() - rest..], "\\")
            }
        };
        let mut namespace = root.to_owned();
        for part in below.split('/').filter(|part| !part.is_empty()) {
            if !namespace.is_empty() {
                namespace.push_str(separator);
            }
            namespace.push_str(&identifier(part));
        }
        Some(namespace)
    }
}

/// A folder's name as a part of a namespace.
fn identifier(part: &str) -> String {
    let mut out: String =
        part.chars().map(|c| if c.is_alphanumeric() || c == '_' || c == '.' { c } else { '_' }).collect();
    if out.starts_with(|c: char| c.is_ascii_digit()) {
        out.insert(0, '_');
    }
    out
}

/// The folders that hold `path`, the innermost first and the root last.
fn folders_above(path: &ProjectPath) -> impl Iterator<Item = &str> {
    std::iter::successors(Some(path.parent()), |folder| match folder.rfind('/') {
        Some(at) => Some(&folder[..at]),
        None => (!folder.is_empty()).then_some(""),
    })
}

/// What a manifest takes out again: paths, with their patterns where they are patterns.
fn exclusions(manifest: &ManifestFacts) -> Vec<(ProjectPath, Option<GlobMatcher>)> {
    let excluded = manifest.mentions.iter().filter(|mention| mention.action == ItemAction::Exclude);
    let paths = excluded.filter_map(|mention| resolve(manifest, &mention.written));
    paths
        .map(|path| (path.clone(), path.as_str().contains(['*', '?']).then(|| glob(path.as_str())).flatten()))
        .collect()
}

/// Whether `manifest` says that it does not hold the file at `path`.
pub fn is_excluded(manifest: &ManifestFacts, path: &ProjectPath) -> bool {
    exclusions(manifest).iter().any(|exclusion| excludes(exclusion, path))
}

fn excludes((path, matcher): &(ProjectPath, Option<GlobMatcher>), file: &ProjectPath) -> bool {
    path == file || matcher.as_ref().is_some_and(|matcher| matcher.is_match(file.as_str()))
}

/// The only manifest with the file name of a path that leads nowhere: what was moved is still meant.
fn only_of_that_name(project: &ProjectFacts, written: &str) -> Option<u32> {
    let name = written.rsplit(['/', '\\']).next()?;
    let named =
        |manifest: &ManifestFacts| manifest.path.as_ref().is_some_and(|path| path.file_name() == name);
    let mut found = project.manifests.iter().enumerate().filter(|(_, manifest)| named(manifest));
    match (found.next(), found.next()) {
        (Some((only, _)), None) => Some(only as u32),
        _ => None,
    }
}

/// Manifests inherit over no more steps than this.
const MOST_PARENTS: usize = 16;

/// Of manifests of one name, those that lie nearest to `from`; of equally near ones those with the shortest path.
fn nearest_manifests(project: &ProjectFacts, from: &ManifestFacts, named: &[u32]) -> Vec<u32> {
    let folder =
        |manifest: &ManifestFacts| manifest.path.as_ref().map_or("", |path| path.parent()).to_owned();
    let here = folder(from);
    let rank = |at: &u32| {
        let there = folder(&project.manifests[*at as usize]);
        let shared = here.split('/').zip(there.split('/')).take_while(|(a, b)| a == b).count();
        (std::cmp::Reverse(shared), there.split('/').count())
    };
    let may_be_meant = |at: &&u32| from.shares_language(&project.manifests[**at as usize]);
    let best = named.iter().filter(may_be_meant).map(rank).min();
    named.iter().filter(may_be_meant).copied().filter(|at| Some(rank(at)) == best).collect()
}

/// A path written in `manifest`, from the project's root.
pub fn resolve(manifest: &ManifestFacts, written: &str) -> Option<ProjectPath> {
    let written =
        written.replace("$(MSBuildThisFileDirectory)", "").replace("$(MSBuildProjectDirectory)", ".");
    if written.contains("$(") {
        return None;
    }
    ProjectPath::resolve(manifest.path.as_ref()?.parent(), &written)
}
