//! Moves of real code that nobody chose: files, several files, folders and single types go to other folders at random.
//! Each result is built by the compiler and taken back to the same bytes, or was refused with nothing changed.
//!
//! `FERNGATE_CORPUS_DIR` is a folder of C# that builds as one library; `FERNGATE_CORPUS_BUILD` holds further arguments
//! of the compiler, `FERNGATE_CORPUS_MOVES` how many moves are made (default 40), `FERNGATE_CORPUS_SEED` which.
//! Code that is newer than that compiler, or lacks libraries, is judged by the compiler that its makers publish
//! (`FERNGATE_CORPUS_COMPILER`): no move may bring it more errors of any sort.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::print_stdout,
    dead_code,
    reason = "a test may fail loudly"
)]

mod common;

use common::calls::{Choice, asked, told};
use common::numbers::Numbers;
use common::{Answer, Project, Snapshot};
use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::process::Command;

/// All C# of `folder` in a project of its own; what else lies there stays behind, so that no list of files is stale.
fn copy_of(folder: &Path) -> Project {
    let project = Project::new(&[(
        "Library.csproj",
        "<Project Sdk=\"Microsoft.NET.Sdk\"><PropertyGroup><RootNamespace></RootNamespace></PropertyGroup></Project>\n",
    )]);
    copy_code(folder, folder, &project);
    project
}

fn copy_code(root: &Path, folder: &Path, project: &Project) {
    let mut entries: Vec<_> = std::fs::read_dir(folder).unwrap().flatten().map(|e| e.path()).collect();
    entries.sort();
    for path in entries {
        if path.is_dir() {
            copy_code(root, &path, project);
        } else if path.extension().is_some_and(|ending| ending == "cs") {
            let target = project.root().join(path.strip_prefix(root).unwrap());
            std::fs::create_dir_all(target.parent().unwrap()).unwrap();
            std::fs::copy(&path, target).unwrap();
        }
    }
}

fn code_files(snapshot: &Snapshot) -> Vec<&String> {
    snapshot.keys().filter(|path| path.ends_with(".cs")).collect()
}

fn build(project: &Project) -> Result<(), String> {
    let snapshot = project.snapshot();
    let further = std::env::var("FERNGATE_CORPUS_BUILD").unwrap_or_default();
    let out = tempfile::tempdir().unwrap();
    let output = Command::new("mcs")
        .args(["-target:library", "-nologo", "-warn:0", "-unsafe"])
        .args(further.split_whitespace())
        .arg(format!("-out:{}", out.path().join("Library.dll").display()))
        .args(code_files(&snapshot))
        .current_dir(project.root())
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    if output.status.success() {
        return Ok(());
    }
    let errors: Vec<&str> = said.lines().filter(|line| line.contains("error")).take(4).collect();
    Err(errors.join("\n"))
}

fn run(project: &Project, call: &[String]) -> Answer {
    project.run(&call.iter().map(String::as_str).collect::<Vec<_>>())
}

#[test]
#[cfg_attr(not(has_mcs), ignore = "the C# compiler mcs is not installed")]
fn moves_of_a_small_library_build() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("demo/mossgrove/src/Catalogue");
    let (written, _) = play(&copy_of(&folder), 12, 7, &build);
    assert!(written > 2);
}

#[test]
#[ignore = "needs FERNGATE_CORPUS_DIR"]
fn moves_of_real_code_build() {
    let (folder, moves, seed) = asked();
    let (written, refused) = play(&copy_of(&folder), moves, seed, &build);
    println!("{moves} moves: {written} built and taken back, {refused} refused, none broken");
    assert!(written > refused);
}

#[test]
#[ignore = "needs FERNGATE_CORPUS_DIR and FERNGATE_CORPUS_COMPILER"]
fn moves_of_newer_code_bring_no_errors() {
    let (folder, moves, seed) = asked();
    let (project, errors) = (copy_of(&folder), common::named::csharp_errors());
    let before = by_number(errors(project.root()));
    let counts: Vec<String> =
        before.iter().map(|(number, lines)| format!("{number} {}", lines.len())).collect();
    println!("errors as it is: {}", counts.join(", "));
    let none = Vec::new();
    let check = |project: &Project| {
        // Where a library is missing, a further file that imports of it is one error more, in words that were said before.
        let new = |(number, said): (String, Vec<String>)| {
            let before = before.get(&number).unwrap_or(&none);
            let words = |line: &str| line.split_once('\t').map(|(_, words)| words.to_owned());
            let known: BTreeSet<Option<String>> = before.iter().map(|line| words(line)).collect();
            let new: Vec<String> =
                said.iter().filter(|line| !known.contains(&words(line))).cloned().collect();
            if said.len() > before.len() { new } else { Vec::new() }
        };
        let new: Vec<String> = by_number(errors(project.root())).into_iter().flat_map(new).take(4).collect();
        if new.is_empty() { Ok(()) } else { Err(new.join("\n")) }
    };
    let (written, refused) = play(&project, moves, seed, &check);
    println!("{moves} moves: {written} as before and taken back, {refused} refused, none broken");
}

/// The errors by their numbers.
fn by_number(errors: Vec<String>) -> BTreeMap<String, Vec<String>> {
    let mut all: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for line in errors {
        let number = line.split('\t').nth(1).unwrap_or_default().to_owned();
        all.entry(number).or_default().push(line);
    }
    all
}

/// Makes the moves, each on the library as it was; how many were written, and how many were refused.
fn play(
    project: &Project,
    moves: u64,
    seed: u64,
    build: &dyn Fn(&Project) -> Result<(), String>,
) -> (u64, u64) {
    build(project).unwrap_or_else(|errors| panic!("it does not build as it is:\n{errors}"));
    let before = project.snapshot();
    let choice = Choice::new(&before, code_files(&before).into_iter().cloned().collect());
    let (mut numbers, lists) = (Numbers::new(seed), tempfile::tempdir().unwrap());
    let (mut written, mut broken) = (0, Vec::new());
    for _ in 0..moves {
        let call = choice.call(&mut numbers, lists.path());
        let answer = run(project, &call);
        let call = told(&call);
        if answer.status != 0 {
            assert!([1, 2].contains(&answer.status), "{call}: {}", answer.all());
            assert_eq!(project.snapshot(), before, "{call} was refused and changed something");
            let why = answer.all().lines().find(|line| line.contains("  - ")).unwrap_or_default().to_owned();
            println!("{call}: {why}");
            continue;
        }
        written += 1;
        if let Err(errors) = build(project) {
            broken.push(format!("{call}\n{errors}"));
        }
        assert_eq!(project.run(&["undo"]).status, 0, "{call}");
        assert!(project.snapshot() == before, "{call} was not taken back to the same bytes");
    }
    assert!(broken.is_empty(), "{} moves do not build:\n{}", broken.len(), broken.join("\n"));
    (written, moves - written)
}
