//! Rust.
//!
//! Read are modules, trees of `use`, declared items, and paths wherever they stand: in code, attributes and the bodies
//! of macros. A path leads to the file that declares the item, through every re-export ([`linker`]).
//!
//! Functions and macros are told apart from types by the space of names that a use gives as its number of type
//! arguments: [`ferngate_model::FUNCTION`], [`ferngate_model::MACRO`].

mod crates;
mod impls;
mod lexer;
mod linker;
mod names;
mod parts;
mod reader;
mod trees;

use ferngate_model::{ImportSpelling, Language, MakeLinker, Naming, Recorder};

/// Rust.
#[derive(Debug)]
pub struct Rust;

impl Language for Rust {
    fn name(&self) -> &'static str {
        "Rust"
    }

    fn extensions(&self) -> &'static [&'static str] {
        &["rs"]
    }

    fn naming(&self) -> Naming {
        Naming::by_path("rust", "::")
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "use ", after: ";" }
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(linker::make)
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        reader::read(text, recorder);
    }
}
