//! TypeScript and JavaScript, alone and in the script blocks of pages and components.
//!
//! Read are imports and exports of all kinds, `require` and AMD's `define` with literal names, references in
//! triple-slash comments, and the names declared outside of functions. A specifier leads to the file that the
//! ecosystem's tools would open ([`linker`]).

mod blanks;
mod linker;
mod loader;
mod named_modules;
mod pages;
mod platforms;
mod reader;
mod resolver;
mod rounds;
mod statements;

use ferngate_model::{ImportSpelling, Language, MakeLinker, Name, Naming, Recorder};

/// One of the languages of the family.
#[derive(Debug)]
pub struct Script {
    name: &'static str,
    extensions: &'static [&'static str],
    read: fn(&[u8], &mut Recorder),
}

/// TypeScript.
pub static TYPESCRIPT: Script =
    Script { name: "TypeScript", extensions: &["ts", "tsx", "mts", "cts"], read: read_whole };

/// JavaScript.
pub static JAVASCRIPT: Script =
    Script { name: "JavaScript", extensions: &["js", "jsx", "mjs", "cjs"], read: read_whole };

/// Pages and components that hold scripts: Vue, Svelte, HTML.
pub static PAGE: Script =
    Script { name: "pages", extensions: &["vue", "svelte", "html", "htm"], read: pages::read };

fn read_whole(text: &[u8], recorder: &mut Recorder) {
    reader::read(text, 0..text.len(), recorder);
}

/// The name of a module's default export.
pub(super) const DEFAULT: &[u8] = b"default";

/// Stands for everything that a module shows.
pub(super) const EVERYTHING: Name = Name(0);

/// Stands for everything where it is shown on to others under its own names.
pub(super) const SHOWN_ON: Name = Name(1);

impl Language for Script {
    fn name(&self) -> &'static str {
        self.name
    }

    fn extensions(&self) -> &'static [&'static str] {
        self.extensions
    }

    fn doubtful_extensions(&self) -> &'static [&'static str] {
        // Translations of programs with windows have this ending, too.
        &["ts"]
    }

    fn claims(&self, text: &[u8]) -> bool {
        let text = text.strip_prefix(b"\xef\xbb\xbf").unwrap_or(text).trim_ascii_start();
        !text.starts_with(b"<?xml") && !text.starts_with(b"<!DOCTYPE TS")
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
        (self.read)(text, recorder);
    }
}
