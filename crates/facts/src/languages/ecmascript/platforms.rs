//! Files of which each is for one platform: `plan.ios.js` beside `plan.android.js`, both imported as `./plan`.
//!
//! Which one is taken a build decides by its target, so that all of them are meant.

use ferngate_model::ProjectFacts;
use rustc_hash::FxHashMap;

/// What stands before the ending.
const PLATFORMS: [&str; 6] = ["ios", "android", "native", "web", "windows", "macos"];

/// With one of these among them, files of one name are for platforms though one of them is for all; `.web` may mean
/// anything then.
const CERTAIN: [&str; 3] = ["ios", "android", "native"];

/// Files that stand for one name.
#[derive(Debug, Default)]
struct Group {
    files: Vec<u32>,
    certain: bool,
}

/// The files of a project that are for one platform, by folder and name without platform and ending.
#[derive(Debug, Default)]
pub struct Platforms<'p> {
    groups: FxHashMap<&'p str, Group>,
}

/// A path without platform and ending, and the platform.
fn parts(path: &str) -> (&str, Option<&str>) {
    let whole = path.rfind('.').map_or(path, |at| &path[..at]);
    let split = whole.rsplit_once('.').filter(|(_, platform)| PLATFORMS.contains(platform));
    split.map_or((whole, None), |(base, platform)| (base, Some(platform)))
}

impl<'p> Platforms<'p> {
    /// Those among `files`, which are indices into the project's.
    pub fn new(project: &'p ProjectFacts, files: impl Iterator<Item = usize>) -> Self {
        let mut groups: FxHashMap<&str, Group> = FxHashMap::default();
        for file in files {
            if let (base, Some(platform)) = parts(project.files[file].path.as_str()) {
                let group = groups.entry(base).or_default();
                group.files.push(file as u32);
                group.certain |= CERTAIN.contains(&platform);
            }
        }
        Self { groups }
    }

    /// The first file that `path`, a file without platform and ending or a folder, means on some platform, or on that of
    /// the file `from`.
    pub fn first(&self, project: &ProjectFacts, from: usize, path: &str) -> Option<u32> {
        if self.groups.is_empty() {
            return None;
        }
        let group = self.groups.get(path).or_else(|| self.groups.get(format!("{path}/index").as_str()))?;
        let own = group.files.iter().find(|file| same_platform(project, from, **file));
        own.or(group.files.first()).copied()
    }

    /// The other files that are meant where the specifier `name` in the file `from` leads to the file `to`.
    pub fn others(&self, project: &ProjectFacts, from: usize, name: &str, to: u32) -> Vec<u32> {
        let (base, platform) = parts(project.files[to as usize].path.as_str());
        // One that is spelled with its platform means just that.
        let is_spelled = || platform.is_some_and(|platform| name.contains(&format!(".{platform}")));
        let group = if self.groups.is_empty() { None } else { self.groups.get(base) };
        let Some(group) = group.filter(|group| !is_spelled() && (platform.is_some() || group.certain)) else {
            return Vec::new();
        };
        // What is for one platform itself is built with the files for that.
        let own = |file: &u32| same_platform(project, from, *file);
        let others = group.files.iter().copied().filter(|other| *other != to);
        match own(&to) {
            true => Vec::new(),
            false if group.files.iter().any(own) => others.filter(own).collect(),
            false => others.collect(),
        }
    }
}

/// Whether both files are for one platform.
fn same_platform(project: &ProjectFacts, file: usize, other: u32) -> bool {
    let platform = |file: usize| parts(project.files[file].path.as_str()).1;
    platform(file).is_some_and(|own| platform(other as usize) == Some(own))
}
