//! Trees that nobody wrote by hand, in languages whose imports are paths: the same few names again and again, in every
//! folder, with every ending, asked for in every form that a language has. What leads where is told by each language's own
//! compiler or interpreter; nothing that it finds may be missed.
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

mod c;
mod doors;
mod go;
mod python;
mod r;
mod rust;
mod scripts;

use common::judged;
use common::trees::{for_trees, join, of_missed};

/// The names of most files and folders.
const STEMS: &[&str] = &["bed", "rose", "tour", "beds"];

/// The relative path from the folder `from` to `to`, both from the root, without a mark of where it starts.
fn relative(from: &str, to: &str) -> String {
    let parts = |path: &str| path.split('/').filter(|part| !part.is_empty()).map(str::to_owned).collect();
    let (from, to): (Vec<String>, Vec<String>) = (parts(from), parts(to));
    let shared = from.iter().zip(&to).take_while(|(one, other)| one == other).count();
    let up = from[shared..].iter().map(|_| "..".to_owned());
    up.chain(to[shared..].iter().cloned()).collect::<Vec<_>>().join("/")
}

/// The folder that a path lies in; nothing for the root.
fn folder_of(path: &str) -> &str {
    path.rsplit_once('/').map_or("", |(folder, _)| folder)
}

#[test]
#[cfg_attr(not(all(has_node, has_typescript)), ignore = "needs node and typescript")]
fn written_scripts_lead_where_the_compiler_says() {
    for_trees(3, scripts::write, |project| of_missed(judged::scripts(project.root())));
}

#[test]
#[cfg_attr(not(all(has_node, has_typescript)), ignore = "needs node and typescript")]
fn written_packages_show_what_the_compiler_finds() {
    for_trees(3, doors::write, |project| of_missed(judged::scripts_by_maps(project.root())));
}

#[test]
#[cfg_attr(not(has_python), ignore = "needs python3")]
fn written_python_leads_where_the_interpreter_says() {
    for_trees(4, python::write, |project| judged::python(project.root()));
}

#[test]
#[cfg_attr(not(has_gxx), ignore = "needs g++")]
fn written_includes_lead_where_the_preprocessor_says() {
    for_trees(2, c::write, |project| of_missed(judged::cpp(project.root(), c::FOLDERS, &["-DSLOW", ""])));
}

#[test]
#[cfg_attr(not(has_go), ignore = "needs go")]
fn written_go_leads_where_the_type_checker_says() {
    for_trees(3, go::write, |project| judged::go(project.root()));
}

#[test]
#[cfg_attr(not(has_python), ignore = "needs python3")]
fn written_rust_leads_where_the_compiler_says() {
    for_trees(1, rust::write, |project| of_missed(judged::rust(project.root())));
}

#[test]
#[cfg_attr(not(has_r), ignore = "needs R and its package codetools")]
fn written_r_leads_where_its_parser_says() {
    for_trees(4, r::write, |project| judged::r(project.root()));
}
