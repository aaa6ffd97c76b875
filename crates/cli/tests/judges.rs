//! The graph, file to file, against each language's own compiler or parser: on the demo, on small projects of shapes
//! that fool readers of text, and on real code where `FERNGATE_CORPUS_DIR` names a folder of it.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::print_stdout,
    dead_code,
    reason = "a test may fail loudly"
)]

mod common;

use common::Project;
use common::named::{csharp, csharp_names, java, kotlin, php};
use common::scores::exact;
use std::path::Path;

#[test]
#[cfg_attr(not(has_javac), ignore = "needs javac")]
fn java_shapes_are_understood_as_the_compiler_does() {
    exact(&java(Project::copy_of("tests/fixtures/java").root()));
    exact(&java(Project::copy_of("demo/mossgrove/irrigation").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn java_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let score = java(Path::new(&root));
    assert!(score.recall >= 0.999, "{:#?}", score.missed);
    assert!(score.precision >= 0.995, "{:#?}", score.surplus);
}

#[test]
#[cfg_attr(not(all(has_javac, has_kotlin)), ignore = "needs javac and the Kotlin compiler")]
fn kotlin_shapes_are_understood_as_the_compiler_does() {
    exact(&kotlin(Project::copy_of("tests/fixtures/kotlin").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn kotlin_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let score = kotlin(Path::new(&root));
    assert!(score.recall >= 0.97, "{:#?}", score.missed);
    assert!(score.precision >= 0.98, "{:#?}", score.surplus);
}

#[test]
#[cfg_attr(not(all(has_php, has_php_parser)), ignore = "needs php and php-parser")]
fn php_shapes_are_understood_as_a_parser_does() {
    exact(&php(Project::copy_of("tests/fixtures/php").root()));
    exact(&php(Project::copy_of("demo/mossgrove/letters").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn php_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let score = php(Path::new(&root));
    assert!(score.recall >= 0.999, "{:#?}", score.missed);
    assert!(score.precision >= 0.995, "{:#?}", score.surplus);
}

#[test]
#[cfg_attr(not(all(has_mcs, has_cecil)), ignore = "needs mcs and Mono.Cecil")]
fn csharp_of_the_demo_is_understood_as_the_compiler_does() {
    let score = csharp(Project::copy_of("demo/mossgrove").root(), &[]);
    assert!(score.missed.is_empty(), "{:#?}", score.missed);
}

#[test]
#[ignore = "needs FERNGATE_CORPUS_COMPILER"]
fn names_of_the_demo_in_csharp() {
    exact(&csharp_names(Project::copy_of("demo/mossgrove").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR, and FERNGATE_CORPUS_COMPILER"]
fn names_of_real_code_in_csharp() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let score = csharp_names(Path::new(&root));
    assert!(score.recall >= 0.995, "{:#?}", score.missed);
    assert!(score.precision >= 0.995, "{:#?}", score.surplus);
}

/// Of constants, of what only comments name, and of base types of base types an assembly says nothing, so the surplus is
/// no error.
#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR, and the compiler's arguments in FERNGATE_CORPUS_BUILD"]
fn csharp_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let build = std::env::var("FERNGATE_CORPUS_BUILD").unwrap_or_default();
    let score = csharp(Path::new(&root), &build.split_whitespace().collect::<Vec<_>>());
    assert!(score.recall >= 0.99, "{:#?}", score.missed);
}
