//! The manifests that are read, one file each.

mod cargo;
mod cmake;
mod composer;
mod description;
mod go_mod;
mod gradle;
mod listing;
mod maven;
mod package_json;
mod project;
mod python;
mod solution;

use ferngate_model::ManifestReader;

/// All manifest readers.
pub static MANIFESTS: &[&dyn ManifestReader] = &[
    &cargo::Cargo,
    &cmake::CMake,
    &cmake::CompileCommands,
    &composer::Composer,
    &description::Description,
    &go_mod::GoModule,
    &go_mod::GoWorkspace,
    &gradle::Gradle,
    &maven::Maven,
    &package_json::CompilerSettings,
    &package_json::Package,
    &project::MsBuild,
    &python::PythonProject,
    &solution::Solution,
    &solution::XmlSolution,
    // What no other reader knows.
    &listing::Listing,
];

/// The reader for a file of this name, as an index into [`MANIFESTS`].
pub fn manifest_of(file_name: &str) -> Option<usize> {
    let lower = file_name.to_ascii_lowercase();
    MANIFESTS.iter().position(|manifest| manifest.matches(&lower))
}
