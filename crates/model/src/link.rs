use crate::{Name, ProjectFacts};

/// What in a file's facts a [`Link`] was found from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum LinkSource {
    /// An index into [`crate::FileFacts::uses`].
    Use(u32),
    /// An index into [`crate::FileFacts::paths`].
    Path(u32),
    /// The file as a whole.
    File,
}

/// One thing in a file that leads to another file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Link {
    /// The file that it leads to, by index.
    pub to: u32,
    /// What it was found from.
    pub source: LinkSource,
    /// First byte of the first place.
    pub at: u32,
    /// Number of places.
    pub count: u32,
    /// The declared name that is meant; zero where the file itself is.
    pub name: Name,
    /// The file that declares what is imported, where the one that is named only shows it on.
    pub behind: Option<u32>,
    /// It is no dependency by itself.
    pub weak: bool,
}

impl Link {
    /// Where it was found as one number: that of a use is its index, that of all else its first byte.
    pub fn place(&self) -> u64 {
        match self.source {
            LinkSource::Use(at) => u64::from(at),
            LinkSource::Path(_) => 1 << 32 | u64::from(self.at),
            LinkSource::File => 2 << 32 | u64::from(self.at),
        }
    }
}

/// A package outside of the project that a file uses.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PackageUse {
    /// Its name in the ecosystem.
    pub name: Box<str>,
    /// First byte of the place.
    pub at: u32,
}

/// Where the imports of one file lead.
#[derive(Clone, Debug, Default)]
pub struct Links {
    /// To files of the project.
    pub files: Vec<Link>,
    /// To packages outside.
    pub packages: Vec<PackageUse>,
    /// To files that should be there and are not: indices into [`crate::FileFacts::paths`].
    pub missing: Vec<u32>,
}

/// Knows for one family of languages where the imports of each file of a project lead.
pub trait Linker: Send + Sync {
    /// Where the imports of the file with this index lead. Cost grows with the file's imports and uses.
    fn links(&self, file: usize) -> Links;
}

/// Makes a linker for a project; cost grows with its files.
pub type MakeLinker = for<'p> fn(&'p ProjectFacts) -> Box<dyn Linker + 'p>;
