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

    /// The first file that `path`, a file without platform and ending or a folder, means on some platform.
    pub fn first(&self, path: &str) -> Option<u32> {
        if self.groups.is_empty() {
            return None;
        }
        let group = self.groups.get(path).or_else(|| self.groups.get(format!("{path}/index").as_str()));
        group?.files.first().copied()
    }

    /// The other files that are meant where the specifier `name` leads to the file `to` at `path`.
    pub fn others(&self, name: &str, to: u32, path: &str) -> impl Iterator<Item = u32> + '_ {
        let (base, platform) = parts(path);
        // One that is spelled with its platform means just that.
        let is_spelled = || platform.is_some_and(|platform| name.contains(&format!(".{platform}")));
        let group = if self.groups.is_empty() { None } else { self.groups.get(base) };
        let meant = group.filter(|group| !is_spelled() && (platform.is_some() || group.certain));
        meant.into_iter().flat_map(|group| &group.files).copied().filter(move |other| *other != to)
    }
}
