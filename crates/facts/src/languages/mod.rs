//! The languages that are read, one file or folder each.

mod c;
mod csharp;
mod css;
mod ecmascript;
mod go;
mod java;
mod kotlin;
mod php;
mod python;
mod r;
mod razor;
mod rust;
mod xaml;

use ferngate_model::Language;

/// All languages, sorted by name.
pub static LANGUAGES: &[&dyn Language] = &[
    &c::C,
    &csharp::CSharp,
    &go::Go,
    &java::Java,
    &ecmascript::JAVASCRIPT,
    &kotlin::Kotlin,
    &ecmascript::PAGE,
    &php::Php,
    &python::Python,
    &r::R,
    &razor::Razor,
    &rust::Rust,
    &css::Css,
    &ecmascript::TYPESCRIPT,
    &xaml::Xaml,
];

/// The names of all languages, for a sentence: `C#, Java, PHP`.
pub fn language_names() -> String {
    let names: Vec<&str> = LANGUAGES.iter().map(|language| language.name()).collect();
    names.join(", ")
}

/// The language of a file by its extension (any case), as an index into [`LANGUAGES`].
pub fn language_of(extension: &str) -> Option<usize> {
    LANGUAGES
        .iter()
        .position(|language| language.extensions().iter().any(|ext| ext.eq_ignore_ascii_case(extension)))
}
