//! Programs that nobody wrote by hand, of classes that share their names and members' names: chains of members whose
//! types only declarations, generic arguments, casts and values tell. What leads where is told by each language's own
//! compiler.
//!
//! More of them, and others, where one goes looking: `FERNGATE_CASES=200 FERNGATE_SEED=5`.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stdout,
    dead_code,
    reason = "a test may fail loudly"
)]

#[path = "../common/mod.rs"]
mod common;

mod php;
mod program;
mod tongues;

use common::named;
use common::trees::{for_trees, of_missed};

#[test]
#[cfg_attr(not(has_javac), ignore = "needs javac")]
fn written_java_is_understood_as_the_compiler_does() {
    for_trees(2, tongues::java, |project| named::java(project.root()));
}

#[test]
#[cfg_attr(not(all(has_javac, has_kotlin)), ignore = "needs javac and the Kotlin compiler")]
fn written_kotlin_is_understood_as_the_compiler_does() {
    for_trees(1, tongues::kotlin, |project| named::kotlin(project.root()));
}

#[test]
#[cfg_attr(not(all(has_mcs, has_cecil)), ignore = "needs mcs and Mono.Cecil")]
fn written_csharp_is_understood_as_the_compiler_does() {
    for_trees(2, tongues::csharp, |project| of_missed(named::csharp(project.root(), &[])));
}

#[test]
#[cfg_attr(not(all(has_php, has_php_parser)), ignore = "needs php and php-parser")]
fn written_php_is_understood_as_a_parser_does() {
    for_trees(4, php::write, |project| named::php(project.root()));
}
