//! The folders of all files by number, so that how near two files lie is told without looking at their paths.

use ferngate_model::ProjectFacts;
use rustc_hash::FxHashMap;

/// The tree of the folders that hold files; number 0 is the project's root.
#[derive(Clone, Debug, Default)]
pub struct Folders {
    of_file: Vec<u32>,
    folders: Vec<Folder>,
}

#[derive(Clone, Copy, Debug, Default)]
struct Folder {
    /// The folder around it; the root's is itself.
    around: u32,
    /// How many folders are around it.
    depth: u32,
}

impl Folders {
    /// Of all files of `project`.
    pub fn new(project: &ProjectFacts) -> Self {
        let mut known: FxHashMap<&str, u32> = FxHashMap::from_iter([("", 0)]);
        let mut folders = Self { of_file: Vec::with_capacity(project.files.len()), ..Self::default() };
        folders.folders.push(Folder::default());
        // Files are sorted, so most lie where the one before them does.
        let mut last = ("", 0);
        for file in &project.files {
            let path = file.path.parent();
            if path != last.0 {
                last = (path, folders.number(path, &mut known));
            }
            folders.of_file.push(last.1);
        }
        folders
    }

    /// The number of `path`, whose folders are entered where they are new.
    fn number<'p>(&mut self, path: &'p str, known: &mut FxHashMap<&'p str, u32>) -> u32 {
        let mut around = 0;
        for end in path.match_indices('/').map(|(at, _)| at).chain([path.len()]) {
            around = *known.entry(&path[..end]).or_insert_with(|| {
                let depth = self.folders[around as usize].depth + 1;
                self.folders.push(Folder { around, depth });
                self.folders.len() as u32 - 1
            });
        }
        around
    }

    /// Whether two files lie right in the same folder.
    pub fn beside(&self, file: usize, other: usize) -> bool {
        self.of_file[file] == self.of_file[other]
    }

    /// The folders around a file, from the inside out; the root is the last.
    pub fn around(&self, file: usize) -> impl Iterator<Item = u32> {
        let outer = |folder: &u32| (*folder != 0).then(|| self.folders[*folder as usize].around);
        std::iter::successors(Some(self.of_file[file]), outer)
    }

    /// Whether the folder `inner` is `outer` or lies somewhere in it.
    pub fn holds(&self, outer: u32, mut inner: u32) -> bool {
        while self.folders[inner as usize].depth > self.folders[outer as usize].depth {
            inner = self.folders[inner as usize].around;
        }
        inner == outer
    }

    /// How many folders below the root lie around both files.
    pub fn shared(&self, file: usize, other: usize) -> u32 {
        let (mut one, mut other) = (self.of_file[file], self.of_file[other]);
        while one != other {
            let (first, second) = (self.folders[one as usize], self.folders[other as usize]);
            if first.depth >= second.depth {
                one = first.around;
            } else {
                other = second.around;
            }
        }
        self.folders[one as usize].depth
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ferngate_model::{ProjectPath, SourceFile, shared_folders};

    fn folders(paths: &[&str]) -> Folders {
        let file = |path: &&str| SourceFile { path: ProjectPath::new(path), language: None, facts: None };
        Folders::new(&ProjectFacts { files: paths.iter().map(file).collect(), ..ProjectFacts::default() })
    }

    #[test]
    fn counts_the_same_folders_as_the_paths_do() {
        let paths =
            ["a.cs", "beds/b.cs", "beds/old/c.cs", "beds/old/deep/d.cs", "beds/older/e.cs", "rows/f.cs"];
        let folders = folders(&paths);
        let parent = |at: usize| paths[at].rsplit_once('/').map_or("", |(folder, _)| folder);
        for one in 0..paths.len() {
            for other in 0..paths.len() {
                let expected = shared_folders(parent(one), parent(other));
                assert_eq!(folders.shared(one, other) as usize, expected, "{} {}", paths[one], paths[other]);
                assert_eq!(folders.beside(one, other), parent(one) == parent(other));
                let (own, others) =
                    (folders.around(one).next().unwrap(), folders.around(other).next().unwrap());
                let holds = format!("{}/", parent(other)).starts_with(&format!("{}/", parent(one)));
                assert_eq!(folders.holds(own, others), holds || parent(one).is_empty());
            }
        }
    }
}
