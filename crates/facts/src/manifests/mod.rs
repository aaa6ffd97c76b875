//! The manifests that are read, one file each.

mod cargo;
mod cmake;
mod composer;
mod description;
mod go_mod;
mod gradle;
mod listing;
mod makefile;
mod maven;
mod package_json;
mod phpunit;
mod project;
mod python;
mod services;
mod solution;

use ferngate_model::{ManifestReader, ProjectPath};
use std::borrow::Cow;

pub use makefile::SOMEWHERE_ABOVE;

/// All manifest readers.
pub static MANIFESTS: &[&dyn ManifestReader] = &[
    &cargo::Cargo,
    &cmake::CMake,
    &cmake::CompileCommands,
    &composer::Composer,
    &description::Description,
    &description::Namespace,
    &go_mod::GoModule,
    &go_mod::GoWorkspace,
    &gradle::Gradle,
    &makefile::Makefile,
    &makefile::Meson,
    &maven::Maven,
    &package_json::CompilerSettings,
    &package_json::Package,
    &package_json::PnpmWorkspace,
    &phpunit::PhpUnit,
    &project::MsBuild,
    &python::PythonProject,
    &services::Services,
    &solution::Solution,
    &solution::XmlSolution,
    // What no other reader knows.
    &listing::Listing,
];

/// The reader for a file at `path`, as an index into [`MANIFESTS`].
pub fn manifest_of(path: &ProjectPath) -> Option<usize> {
    let file_name = path.file_name().to_ascii_lowercase();
    MANIFESTS.iter().position(|manifest| manifest.matches_at(path, &file_name))
}

/// What some editors write at the start of a text.
const BYTE_ORDER_MARK: char = '\u{feff}';

/// The text as far as it is UTF-8; every other byte is one question mark, so that places stay what they are.
fn text_of(bytes: &[u8]) -> Cow<'_, str> {
    if let Ok(text) = std::str::from_utf8(bytes) {
        return Cow::Borrowed(text);
    }
    let mut text = String::with_capacity(bytes.len());
    for chunk in bytes.utf8_chunks() {
        text.push_str(chunk.valid());
        text.extend(chunk.invalid().iter().map(|_| '?'));
    }
    Cow::Owned(text)
}
