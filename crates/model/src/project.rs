use crate::{FileFacts, ManifestFacts, Problem, ProjectPath};

/// A file of the project.
#[derive(Clone, Debug)]
pub struct SourceFile {
    /// Where it lies.
    pub path: ProjectPath,
    /// The language it was read as: an index into the list of languages.
    pub language: Option<usize>,
    /// What it says; `None` for files that are not code or could not be read.
    pub facts: Option<Box<FileFacts>>,
}

/// Everything that was read of a project, files sorted by path.
#[derive(Clone, Debug, Default)]
pub struct ProjectFacts {
    /// The name of the folder that holds everything; empty where it has none.
    pub name: String,
    /// All files that are not ignored, sorted by path.
    pub files: Vec<SourceFile>,
    /// All manifests, sorted by path.
    pub manifests: Vec<ManifestFacts>,
    /// What could not be read, by path.
    pub problems: Vec<(ProjectPath, Problem)>,
    /// Bytes of code that were read.
    pub bytes: u64,
}

impl ProjectFacts {
    /// The index of the file at `path`.
    pub fn file(&self, path: &str) -> Option<usize> {
        self.files.binary_search_by(|file| file.path.as_str().cmp(path)).ok()
    }

    /// The manifest at `path`.
    pub fn manifest(&self, path: &str) -> Option<usize> {
        self.manifests.iter().position(|found| found.path.as_ref().is_some_and(|own| own.as_str() == path))
    }
}
