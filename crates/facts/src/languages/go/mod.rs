//! Go.
//!
//! Read are imports, names declared outside of functions, and every name used that is no local one. A use of
//! `package.Name` leads to the file that declares the name, as does a plain name of the own package; an import of which
//! no name is used leads to the package's first file ([`linker`]).

mod heads;
mod linker;
mod reader;
mod signatures;
#[cfg(test)]
mod tests;

use ferngate_model::{ImportSpelling, Language, MakeLinker, Name, Naming, Recorder};

/// Go.
#[derive(Debug)]
pub struct Go;

/// Stands for the name under which an import is known where the import does not say.
pub(super) const OWN_NAME: Name = Name(0);

/// Stands for an import that brings the names of a package without its own.
pub(super) const DOT: Name = Name(1);

/// Stands for an import for its side effects.
pub(super) const BLANK: Name = Name(2);

impl Language for Go {
    fn name(&self) -> &'static str {
        "Go"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["go"]
    }

    fn naming(&self) -> Naming {
        Naming { folders_are_packages: true, ..Naming::by_path("go", "/") }
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "import \"", after: "\"" }
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(linker::make)
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        reader::read(text, recorder);
    }
}
