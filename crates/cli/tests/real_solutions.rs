//! Moves of real code between the projects of a real solution: what built before builds afterwards, or the move was
//! refused with nothing changed; taken back, every byte is as it was.
//!
//! `FERNGATE_CORPUS_DIR` is a folder with C# projects; `FERNGATE_CORPUS_MOVES` says how many moves are made (default 40),
//! `FERNGATE_CORPUS_SEED` which.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::print_stdout,
    dead_code,
    reason = "a test may fail loudly"
)]

mod common;

use common::Project;
use common::calls::{Choice, asked, told};
use common::msbuild::{BEHIND, Builder};
use common::numbers::Numbers;
use std::path::Path;

#[test]
#[cfg_attr(not(has_mcs), ignore = "the C# compiler mcs is not installed")]
fn moves_between_the_demo_s_projects_build() {
    let (written, refused) = play(&Path::new(env!("CARGO_MANIFEST_DIR")).join("demo/mossgrove"), 24, 3);
    assert!(written > 4, "{written} written, {refused} refused");
}

#[test]
#[ignore = "needs FERNGATE_CORPUS_DIR"]
fn moves_between_real_projects_build() {
    let (folder, moves, seed) = asked();
    let (written, refused) = play(&folder, moves, seed);
    println!("{moves} moves: {written} built and taken back, {refused} refused, none broken");
}

/// Makes the moves, each on the solution as it was; how many were written, and how many were refused.
fn play(folder: &Path, moves: u64, seed: u64) -> (u64, u64) {
    let project = Project::copy_of(&folder.display().to_string());
    let mut builder = Builder::new(project.root());
    let outcome = builder.build();
    let building = outcome.values().filter(|outcome| outcome.is_ok()).count();
    println!("{building} of {} projects build", outcome.len());
    if std::env::var("FERNGATE_ERRORS").is_ok() {
        for (file, outcome) in &outcome {
            println!("{}: {outcome:?}", file.display());
        }
    }
    assert!(building > 0, "no project builds as it is: {outcome:?}");
    let before = project.snapshot();
    let choice = Choice::new(&before, builder.code_of(&outcome));
    let (mut numbers, lists) = (Numbers::new(seed), tempfile::tempdir().unwrap());
    let (mut written, mut broken) = (0, Vec::new());
    for _ in 0..moves {
        let call = choice.call(&mut numbers, lists.path());
        let answer = project.run(&call.iter().map(String::as_str).collect::<Vec<_>>());
        let call = told(&call);
        if answer.status != 0 {
            assert!([1, 2].contains(&answer.status), "{call}: {}", answer.all());
            assert!(project.snapshot() == before, "{call} was refused and changed something");
            let why = answer.out.lines().find(|line| line.starts_with("  - "));
            println!("{call}: {}", why.or(answer.err.lines().next()).unwrap_or_default());
            continue;
        }
        written += 1;
        // What it says that only a person can settle need not build.
        let is_said = ["so that other code of it is compiled", "add that by hand"]
            .iter()
            .any(|warning| answer.out.contains(warning));
        let now = if is_said { outcome.clone() } else { builder.build() };
        for (file, _) in outcome.iter().filter(|(_, outcome)| outcome.is_ok()) {
            if let Some(Err(errors)) = now.get(file).filter(|now| **now != Err(BEHIND.to_owned())) {
                broken.push(format!("{call}: {}\n{errors}", file.display()));
            }
        }
        assert_eq!(project.run(&["undo"]).status, 0, "{call}");
        assert!(project.snapshot() == before, "{call} was not taken back to the same bytes");
    }
    assert!(broken.is_empty(), "{} projects do not build:\n{}", broken.len(), broken.join("\n"));
    (written, moves - written)
}
