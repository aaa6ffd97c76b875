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
use common::scores::{Score, Tie, Truth, exact, judge_source, ours_of, run, score};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::process::Command;

/// Our ties between files that the judge looked at; it says which in lines of `,path`.
fn ours_among(root: &Path, endings: &[&str], judged: Option<&BTreeSet<String>>) -> BTreeSet<Tie> {
    let all: BTreeSet<Tie> = endings.iter().flat_map(|from| ties_between(root, from, endings)).collect();
    let looked_at = |path: &String| judged.is_none_or(|judged| judged.contains(path));
    all.into_iter().filter(|(from, to)| looked_at(from) && looked_at(to)).collect()
}

fn ties_between(root: &Path, from: &str, to: &[&str]) -> Vec<Tie> {
    let ties = ours_of(root).into_iter();
    ties.filter(|tie| tie.0.ends_with(from) && to.iter().any(|ending| tie.1.ends_with(ending))).collect()
}

/// Lines `from,to`, and the files that were looked at, where lines `,path` say so.
fn plain(said: &str) -> (Truth, Option<BTreeSet<String>>) {
    let mut truth = Truth::new();
    let mut files = BTreeSet::new();
    for line in said.lines() {
        match line.split_once(',') {
            Some(("", path)) => _ = files.insert(path.to_owned()),
            Some((from, to)) => {
                truth
                    .entry((from.to_owned(), to.to_owned()))
                    .or_default()
                    .insert(("import".into(), String::new()));
            }
            None => {}
        }
    }
    let files = if files.is_empty() { None } else { Some(files) };
    (truth, files)
}

const SCRIPTS: &[&str] = &[".ts", ".tsx", ".mts", ".cts", ".js", ".jsx", ".mjs", ".cjs"];

fn scripts(root: &Path) -> Score {
    let mut command = Command::new("node");
    let compiler = ["/usr/share/nodejs/typescript", "/usr/lib/node_modules/typescript"];
    let compiler = compiler.iter().find(|path| Path::new(path).exists()).unwrap();
    let said = run(command.arg(judge_source("judge.js")).arg(compiler).arg(root));
    let (judged, files) = plain(&said);
    score(&ours_among(root, SCRIPTS, files.as_ref()), &judged, |_| true)
}

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

fn python(root: &Path) -> Score {
    let (judged, _) = plain(&run(Command::new("python3").arg(judge_source("judge.py")).arg(root)));
    score(&ours_among(root, &[".py", ".pyi"], None), &judged, |_| true)
}

#[test]
#[cfg_attr(not(has_python), ignore = "needs python3")]
fn python_shapes_are_understood_as_the_interpreter_does() {
    exact(&python(Project::copy_of("tests/fixtures/python").root()));
    exact(&python(Project::copy_of("demo/mossgrove/phenology").root()));
}

fn go(root: &Path) -> Score {
    let mut command = Command::new("go");
    let cache = tempfile::tempdir().unwrap();
    command.env("GOCACHE", cache.path()).env("GOFLAGS", "-mod=mod").env("GO111MODULE", "off");
    let (judged, files) = plain(&run(command.arg("run").arg(judge_source("judge.go")).arg(root)));
    score(&ours_among(root, &[".go"], files.as_ref()), &judged, |_| true)
}

#[test]
#[cfg_attr(not(has_go), ignore = "needs go")]
fn go_shapes_are_understood_as_the_type_checker_does() {
    exact(&go(Project::copy_of("tests/fixtures/go").root()));
    exact(&go(Project::copy_of("demo/mossgrove/raingauge").root()));
}

const SOURCES: [&str; 14] = [
    ".c", ".cc", ".cpp", ".cxx", ".h", ".hh", ".hpp", ".hxx", ".inl", ".ipp", ".tpp", ".tcc", ".txx", ".inc",
];

/// What the preprocessor opens from which file, on both sides of the conditions that `defines` decides.
fn cpp(root: &Path, folders: &[&str], defines: &[&str]) -> Score {
    let root = std::fs::canonicalize(root).unwrap();
    let mut files = Vec::new();
    collect(&root, &SOURCES, &mut files);
    let mut judged = Truth::new();
    for file in &files {
        for define in defines {
            let mut command = Command::new("g++");
            command.args(define.split_whitespace()).current_dir(&root);
            command.args(folders.iter().map(|folder| format!("-I{}", root.join(folder).display())));
            // Headers that are missing here do not stop it, as they do where text is asked for.
            let output =
                command.args(["-M", "-MG", "-H", "-o", "/dev/null", "-x", "c++"]).arg(file).output().unwrap();
            let mut open = vec![file.display().to_string()];
            for line in String::from_utf8_lossy(&output.stderr).lines() {
                // As many dots as the header lies deep: `.. include/rain.h`
                let Some((dots, path)) = line.split_once(' ').filter(|(dots, _)| is_depth(dots)) else {
                    continue;
                };
                open.truncate(dots.len());
                let inside = |path: &str| {
                    let whole = std::fs::canonicalize(root.join(path)).ok()?;
                    Some(whole.strip_prefix(&root).ok()?.display().to_string())
                };
                if let (Some(from), Some(to)) = (open.last().and_then(|p| inside(p)), inside(path))
                    && from != to
                {
                    judged.entry((from, to)).or_default().insert(("include".into(), String::new()));
                }
                open.push(path.to_owned());
            }
        }
    }
    score(&ours_among(&root, &SOURCES, None), &judged, |_| true)
}

fn is_depth(dots: &str) -> bool {
    !dots.is_empty() && dots.bytes().all(|byte| byte == b'.')
}

fn collect(folder: &Path, endings: &[&str], found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            collect(&path, endings, found);
        } else if endings.iter().any(|ending| path.to_string_lossy().ends_with(ending)) {
            found.push(path);
        }
    }
}

#[test]
#[cfg_attr(not(has_gxx), ignore = "needs g++")]
fn includes_are_understood_as_the_preprocessor_does() {
    exact(&cpp(Project::copy_of("tests/fixtures/cpp").root(), &["include", "src"], &["-DSLOW", ""]));
    exact(&cpp(Project::copy_of("demo/mossgrove/valves").root(), &["include"], &[""]));
}

/// Names, by the links of the compiler's documentation tool.
fn rust(root: &Path) -> Score {
    let pages = tempfile::tempdir().unwrap();
    // Names of another crate are linked only where its pages are there already, so the pages are written twice, one
    // crate after the other: those of a crate are taken away before they are written anew.
    for (lints, jobs) in [("allow", "2"), ("warn", "1")] {
        let mut command = Command::new("cargo");
        command.env("RUSTC_BOOTSTRAP", "1").current_dir(root).env("CARGO_TARGET_DIR", pages.path());
        let links = "-Zunstable-options --generate-link-to-definition --document-private-items";
        command.env("RUSTDOCFLAGS", format!("{links} --cap-lints {lints}"));
        run(command.args(["doc", "--offline", "--no-deps", "--workspace", "--quiet", "--jobs", jobs]));
    }
    let mut command = Command::new("python3");
    let said = run(command.arg(judge_source("rust_pages.py")).arg(pages.path().join("doc")));
    let (judged, files) = plain(&said);
    score(&ours_among(root, &[".rs"], files.as_ref()), &judged, |_| true)
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

/// Names of a package's own files, by the parser of R and its package for code.
fn r(root: &Path) -> Score {
    let (judged, files) = plain(&run(Command::new("Rscript").arg(judge_source("judge.R")).arg(root)));
    score(&ours_among(root, &[".R", ".r"], files.as_ref()), &judged, |_| true)
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
