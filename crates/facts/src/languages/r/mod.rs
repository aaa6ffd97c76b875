//! R.
//!
//! Read are scripts that are sourced, packages that are attached or named with `::`, names that a script binds outside
//! of functions, and names that are used. The files of a package share its names: a use leads to the file that binds
//! the name ([`linker`]).

mod calls;
mod linker;
mod reader;
mod strings;

use ferngate_model::{ImportSpelling, Language, MakeLinker, Naming, Recorder};

/// R.
#[derive(Debug)]
pub struct R;

impl Language for R {
    fn name(&self) -> &'static str {
        "R"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["r"]
    }

    fn naming(&self) -> Naming {
        Naming::by_path("r", "::")
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "source(\"", after: "\")" }
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(linker::make)
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        reader::read(text, recorder);
    }
}
