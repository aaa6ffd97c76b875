//! C, C++, Arduino sketches, and what code of C with objects (`.m`, `.mm`) imports.
//!
//! Read are includes in quotes and angle brackets in all branches of `#if`, named modules of C++20, and the names of
//! types, functions and macros that stand outside of functions. An include leads to the file that the compiler would
//! open ([`linker`]).

mod linker;
mod reader;
mod system;

use ferngate_model::{ImportSpelling, Language, MakeLinker, Naming, Recorder};

/// C and C++.
#[derive(Debug)]
pub struct C;

/// Every extension that is read, and that an include may name.
pub(super) const EXTENSIONS: &[&str] = &[
    "c", "h", "cc", "cpp", "cxx", "c++", "hh", "hpp", "hxx", "h++", "inl", "ipp", "tpp", "tcc", "txx", "cu",
    "cuh", "cppm", "ixx", "ino", "pde", "inc", "m", "mm",
];

/// What a line of C begins with that no other language with one of these extensions has.
const DIRECTIVES: [&[u8]; 5] = [b"#include", b"#import", b"#define", b"#if", b"#undef"];

/// Endings of templates, from which builds make headers without them.
const TEMPLATES: &[&str] = &[".in", ".cmake", ".cmake.in", ".meson", ".meson.in", ".template", ".tmpl"];

impl Language for C {
    fn name(&self) -> &'static str {
        "C/C++"
    }

    fn extensions(&self) -> &'static [&'static str] {
        EXTENSIONS
    }

    fn doubtful_extensions(&self) -> &'static [&'static str] {
        &["m"]
    }

    fn claims(&self, text: &[u8]) -> bool {
        let is_php = memchr::memmem::find(text, b"<?php").is_some();
        let mut lines = memchr::memchr_iter(b'#', text).filter(|at| *at == 0 || text[at - 1] == b'\n');
        !is_php && lines.any(|at| DIRECTIVES.iter().any(|directive| text[at..].starts_with(directive)))
    }

    fn naming(&self) -> Naming {
        Naming::by_path("c", "::")
    }

    fn made_from(&self, name: &str) -> Vec<String> {
        let inside = name.rsplit_once('.').map(|(stem, ending)| format!("{stem}.in.{ending}"));
        // A window that a designer drew.
        let drawn = name.strip_prefix("ui_").and_then(|name| name.strip_suffix(".h"));
        let templates = TEMPLATES.iter().map(|ending| format!("{name}{ending}"));
        templates.chain(inside).chain(drawn.map(|drawn| format!("{drawn}.ui"))).collect()
    }

    fn import_spelling(&self) -> ImportSpelling {
        ImportSpelling { before: "#include \"", after: "\"" }
    }

    fn linker(&self) -> Option<MakeLinker> {
        Some(linker::make)
    }

    fn read(&self, text: &[u8], recorder: &mut Recorder) {
        reader::read(text, recorder);
    }
}
