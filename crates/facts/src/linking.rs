//! What the linkers of all languages share: files and folders by path, and the manifests above a folder.

use ferngate_model::{Link, LinkSource, ManifestFacts, Name, PathUse, ProjectFacts, ProjectPath};
use rustc_hash::{FxHashMap, FxHashSet};

/// The files and folders of a project by path.
pub struct Tree<'p> {
    /// What was read.
    pub project: &'p ProjectFacts,
    files: FxHashMap<&'p str, u32>,
    folders: FxHashSet<&'p str>,
}

impl<'p> Tree<'p> {
    /// Enters all files.
    pub fn new(project: &'p ProjectFacts) -> Self {
        let paths = || project.files.iter().map(|file| file.path.as_str());
        let files = paths().enumerate().map(|(at, path)| (path, at as u32)).collect();
        let mut folders = FxHashSet::default();
        folders.insert("");
        for path in paths() {
            let mut folder = parent(path);
            while folders.insert(folder) {
                folder = parent(folder);
            }
        }
        Self { project, files, folders }
    }

    /// The file at `path`.
    pub fn file(&self, path: &str) -> Option<u32> {
        self.files.get(path).copied()
    }

    /// Whether files lie in or below `path`.
    pub fn is_folder(&self, path: &str) -> bool {
        self.folders.contains(path)
    }

    /// The folder that holds the file with this index.
    pub fn folder_of(&self, file: usize) -> &'p str {
        self.project.files[file].path.parent()
    }
}

/// The folder around `path`; empty for what lies in the root, and for the root.
pub fn parent(path: &str) -> &str {
    path.rfind('/').map_or("", |at| &path[..at])
}

/// `folder` and the folders around it up to the root, the innermost first.
pub fn upwards(folder: &str) -> impl Iterator<Item = &str> {
    std::iter::successors(Some(folder), |folder| (!folder.is_empty()).then(|| parent(folder)))
}

/// `relative` (with `/`) seen from `folder`; `None` where it leaves the project.
pub fn join(folder: &str, relative: &str) -> Option<String> {
    let mut path = if relative.starts_with('/') { String::new() } else { folder.to_owned() };
    for part in relative.split('/') {
        match part {
            "" | "." => {}
            ".." if path.is_empty() => return None,
            ".." => path.truncate(parent(&path).len()),
            part => {
                if !path.is_empty() {
                    path.push('/');
                }
                path.push_str(part);
            }
        }
    }
    Some(path)
}

/// Manifests of one sort by the folder that they lie in.
pub struct ByFolder<'p> {
    found: FxHashMap<&'p str, &'p ManifestFacts>,
}

impl<'p> ByFolder<'p> {
    /// Those whose file has one of these names; of several in one folder the first name counts.
    pub fn new(project: &'p ProjectFacts, names: &[&str]) -> Self {
        let mut found: FxHashMap<&str, (usize, &ManifestFacts)> = FxHashMap::default();
        for manifest in &project.manifests {
            let name = manifest.path.as_ref().map_or("", ProjectPath::file_name);
            let Some(rank) = names.iter().position(|wanted| *wanted == name) else { continue };
            let entry = found.entry(manifest.folder()).or_insert((rank, manifest));
            if rank < entry.0 {
                *entry = (rank, manifest);
            }
        }
        Self { found: found.into_iter().map(|(folder, (_, manifest))| (folder, manifest)).collect() }
    }

    /// The one in `folder`.
    pub fn at(&self, folder: &str) -> Option<&'p ManifestFacts> {
        self.found.get(folder).copied()
    }

    /// The one in `folder` or in the nearest folder around it.
    pub fn nearest(&self, folder: &str) -> Option<&'p ManifestFacts> {
        if self.found.is_empty() {
            return None;
        }
        upwards(folder).find_map(|folder| self.at(folder))
    }

    /// All of them, in no order.
    pub fn all(&self) -> impl Iterator<Item = &'p ManifestFacts> {
        self.found.values().copied()
    }
}

/// A link from the path with index `at`.
pub fn path_link(at: usize, path: &PathUse, to: u32) -> Link {
    let (source, weak) = (LinkSource::Path(at as u32), path.weak);
    Link { to, source, at: path.span.start, count: 1, name: Name(0), behind: None, weak }
}

/// Whether a string in code may be the path of a file: short, of plain characters, with a folder or an ending.
pub fn looks_like_path(text: &[u8]) -> bool {
    let plain = |byte: &u8| {
        byte.is_ascii_alphanumeric()
            || matches!(byte, b'_' | b'-' | b'.' | b'/' | b'@' | b'+')
            || *byte >= 0x80
    };
    let letters = |byte: &u8| byte.is_ascii_alphabetic();
    let (folder, ending) = (text.contains(&b'/'), text.iter().rposition(|byte| *byte == b'.'));
    (3..=200).contains(&text.len())
        && text.iter().all(plain)
        && text.iter().any(letters)
        && !text.ends_with(b"/")
        && (folder || ending.is_some_and(|at| at > 0 && (1..=5).contains(&(text.len() - at - 1))))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn joins_and_climbs() {
        assert_eq!(join("web/src", "../lib/./seed.ts").as_deref(), Some("web/lib/seed.ts"));
        assert_eq!(join("", "..").as_deref(), None);
        assert_eq!(join("web", "..").as_deref(), Some(""));
        assert_eq!(upwards("a/b").collect::<Vec<_>>(), ["a/b", "a", ""]);
    }
}
