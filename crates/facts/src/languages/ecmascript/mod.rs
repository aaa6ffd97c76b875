//! TypeScript and JavaScript, alone and in the script blocks of pages and components.
//!
//! Read are imports and exports of all kinds, `require` and AMD's `define` with literal names, references in
//! triple-slash comments, and the names declared outside of functions. A specifier leads to the file that the
//! ecosystem's tools would open ([`linker`]).

mod linker;
mod pages;
mod reader;
mod resolver;
mod statements;

use ferngate_model::{ImportSpelling, Language, MakeLinker, Name, Naming, Recorder};

/// TypeScript.
#[derive(Debug)]
pub struct TypeScript;

/// JavaScript.
#[derive(Debug)]
pub struct JavaScript;

/// Pages and components that hold scripts: Vue, Svelte, HTML.
#[derive(Debug)]
pub struct Page;

/// The name of a module's default export.
pub(super) const DEFAULT: &[u8] = b"default";

/// Stands for everything that a module shows.
pub(super) const EVERYTHING: Name = Name(0);

/// Stands for everything where it is shown on to others under its own names.
pub(super) const SHOWN_ON: Name = Name(1);

impl Language for TypeScript {
    fn name(&self) -> &'static str {
        "TypeScript"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["ts", "tsx", "mts", "cts"]
    }

    fn naming(&self) -> Naming {
        Naming::by_path("ecmascript", "/")
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "import \"", after: "\";" }
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(linker::make)
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        reader::read(text, 0..text.len(), recorder);
    }
}

impl Language for JavaScript {
    fn name(&self) -> &'static str {
        "JavaScript"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["js", "jsx", "mjs", "cjs"]
    }

    fn naming(&self) -> Naming {
        TypeScript.naming()
    }

    fn import_spelling(&self) -> ImportSpelling {
        TypeScript.import_spelling()
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(linker::make)
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        reader::read(text, 0..text.len(), recorder);
    }
}

impl Language for Page {
    fn name(&self) -> &'static str {
        "pages"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["vue", "svelte", "html", "htm"]
    }

    fn naming(&self) -> Naming {
        TypeScript.naming()
    }

    fn import_spelling(&self) -> ImportSpelling {
        TypeScript.import_spelling()
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(linker::make)
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        pages::read(text, recorder);
    }
}
