//! Python, with stubs.
//!
//! Read are imports wherever they stand (in functions, `try`, `TYPE_CHECKING`), modules that are imported by a literal
//! name, and the names that a module binds. An import leads to the submodule that it names, else to the module or the
//! package's `__init__` that binds the name ([`linker`]).

mod linker;
mod reader;

use ferngate_model::{ImportSpelling, Language, MakeLinker, Name, Naming, Recorder};

/// Python.
#[derive(Debug)]
pub struct Python;

/// Stands for everything that a module binds.
pub(super) const EVERYTHING: Name = Name(0);

/// Stands for everything where it is shown on to others under its own names.
pub(super) const SHOWN_ON: Name = Name(1);

/// Stands for the list of what a module shows to those who import everything.
pub(super) const SHOWN_TO_ALL: &str = "__all__";

impl Language for Python {
    fn name(&self) -> &'static str {
        "Python"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["py", "pyi", "pyw"]
    }

    fn naming(&self) -> Naming {
        Naming::by_path("python", ".")
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "import ", after: "" }
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(linker::make)
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        reader::read(text, recorder);
    }
}
