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

/// The languages of files with this extension (any case), as indices into [`LANGUAGES`].
pub fn languages_of(extension: &str) -> impl Iterator<Item = usize> {
    let has = move |language: &&dyn Language| {
        language.extensions().iter().any(|other| other.eq_ignore_ascii_case(extension))
    };
    LANGUAGES.iter().enumerate().filter(move |(_, language)| has(language)).map(|(at, _)| at)
}

/// The first language of files with this extension (any case), as an index into [`LANGUAGES`].
pub fn language_of(extension: &str) -> Option<usize> {
    languages_of(extension).next()
}

/// The language of a file with this extension and text; several share some extensions.
pub fn language_of_text(extension: &str, text: &[u8]) -> Option<usize> {
    let mut all = languages_of(extension).peekable();
    let first = all.next()?;
    let doubtful = LANGUAGES[first].doubtful_extensions();
    let shared =
        all.peek().is_some() || doubtful.iter().any(|doubtful| doubtful.eq_ignore_ascii_case(extension));
    std::iter::once(first).chain(all).find(|language| !shared || LANGUAGES[*language].claims(text))
}
