//! The graph of languages whose imports are paths, file to file, against each language's own compiler or interpreter: on
//! the demo, on small projects of shapes that fool readers of text, and on real code where `FERNGATE_CORPUS_DIR` names a
//! folder of it.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::print_stdout,
    clippy::panic,
    dead_code,
    reason = "a test may fail loudly"
)]

mod common;

use common::Project;
use common::judged::{cpp, go, python, r, rust, scripts};
use common::scores::{Tie, exact, ours_of};
use std::collections::BTreeSet;
use std::path::Path;

#[test]
#[cfg_attr(not(all(has_node, has_typescript)), ignore = "needs node and typescript")]
fn script_shapes_are_understood_as_the_compiler_does() {
    let score = scripts(Project::copy_of("tests/fixtures/typescript").root());
    assert!(score.missed.is_empty(), "{:#?}", score.missed);
    // The compiler knows nothing of the workspace before it is installed, nor of the package's own `imports`.
    let expected = [
        ("packages/seeds/src/late.ts", "packages/post/src/index.ts"),
        ("packages/seeds/src/late.ts", "packages/seeds/src/clock.ts"),
    ];
    assert_eq!(score.surplus, expected.map(|tie| format!("{tie:?}")));
    exact(&scripts(Project::copy_of("demo/mossgrove/exchange").root()));
}

#[test]
#[cfg_attr(not(has_python), ignore = "needs python3")]
fn python_shapes_are_understood_as_the_interpreter_does() {
    exact(&python(Project::copy_of("tests/fixtures/python").root()));
    exact(&python(Project::copy_of("demo/mossgrove/phenology").root()));
}

#[test]
#[cfg_attr(not(has_go), ignore = "needs go")]
fn go_shapes_are_understood_as_the_type_checker_does() {
    exact(&go(Project::copy_of("tests/fixtures/go").root()));
    exact(&go(Project::copy_of("demo/mossgrove/raingauge").root()));
}

#[test]
#[cfg_attr(not(has_gxx), ignore = "needs g++")]
fn includes_are_understood_as_the_preprocessor_does() {
    exact(&cpp(Project::copy_of("tests/fixtures/cpp").root(), &["include", "src"], &["-DSLOW", ""]));
    exact(&cpp(Project::copy_of("demo/mossgrove/valves").root(), &["include"], &[""]));
}

#[test]
#[cfg_attr(not(has_python), ignore = "needs python3")]
fn rust_shapes_are_understood_as_the_compiler_does() {
    let score = rust(Project::copy_of("tests/fixtures/rust").root());
    assert!(score.missed.is_empty(), "{:#?}", score.missed);
    // An import of everything, and of a module of another crate, is linked to nothing by the tool.
    let expected = [
        ("counter/src/lib.rs", "facade/src/lib.rs"),
        ("facade/src/lib.rs", "shapes/src/round/mod.rs"),
        ("shapes/src/lib.rs", "shapes/src/round/ball.rs"),
    ];
    assert_eq!(score.surplus, expected.map(|tie| format!("{tie:?}")));
    let between: BTreeSet<Tie> = ours_of(Project::copy_of("tests/fixtures/rust").root());
    let expected = [
        ("counter/src/lib.rs", "facade/src/lib.rs"),
        ("counter/src/lib.rs", "shapes/src/flat/mod.rs"),
        ("counter/src/lib.rs", "shapes/src/lib.rs"),
        ("counter/src/lib.rs", "shapes/src/round/ball.rs"),
        ("counter/src/lib.rs", "shapes/src/tables/oddly_named.rs"),
    ];
    let found: Vec<&Tie> =
        between.iter().filter(|tie| tie.0 == "counter/src/lib.rs" && !tie.1.starts_with("counter")).collect();
    assert_eq!(found, expected.map(|(from, to)| (from.to_owned(), to.to_owned())).iter().collect::<Vec<_>>());
    exact(&rust(Project::copy_of("demo/mossgrove/spores").root()));
}

#[test]
#[cfg_attr(not(has_r), ignore = "needs Rscript and its package codetools")]
fn r_shapes_are_understood_as_the_interpreter_does() {
    exact(&r(Project::copy_of("tests/fixtures/r").root()));
    exact(&r(Project::copy_of("demo/mossgrove/bloomsurvey").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR, and its language in FERNGATE_CORPUS_LANGUAGE"]
fn paths_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let root = Path::new(&root);
    let score = match std::env::var("FERNGATE_CORPUS_LANGUAGE").as_deref() {
        Ok("typescript") => scripts(root),
        Ok("python") => python(root),
        Ok("go") => go(root),
        Ok("cpp") => {
            let folders = std::env::var("FERNGATE_CORPUS_FOLDERS");
            let folders = folders.as_deref().unwrap_or("include test test/gtest");
            cpp(root, &folders.split_whitespace().collect::<Vec<_>>(), &[""])
        }
        Ok("rust") => rust(root),
        Ok("r") => r(root),
        other => panic!("FERNGATE_CORPUS_LANGUAGE is {other:?}"),
    };
    assert!(score.recall >= 0.999, "{:#?}", score.missed);
    let precision = match std::env::var("FERNGATE_CORPUS_LANGUAGE").as_deref() {
        // The preprocessor takes one branch of each condition, and opens a guarded header once.
        Ok("cpp") => 0.9,
        // The tool links neither globs nor macros by example nor test code.
        Ok("rust") => 0.97,
        _ => 0.995,
    };
    assert!(score.precision >= precision, "{:#?}", score.surplus);
}
