//! Solutions that nobody wrote by hand: three projects whose types name each other in any of the ways that C# has, and
//! moves of files, folders and single types between them. Each move is refused with nothing changed, or the solution
//! builds as before; undo brings back the same bytes.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::for_many;
use common::solution::{build, build_but_comments};
use common::written::{FOLDERS, PROJECTS, Sort, Type, solutions};
use proptest::prelude::*;

/// What is moved.
#[derive(Clone, Debug)]
enum Moved {
    File(usize),
    Name(usize),
    Folder(usize),
    Files(usize, usize),
}

/// What is moved, and where to: a project, and a folder of it.
fn moves() -> impl Strategy<Value = Vec<(Moved, usize, usize)>> {
    let what = prop_oneof![
        (0usize..100).prop_map(Moved::File),
        (0usize..100).prop_map(Moved::Name),
        (0usize..100).prop_map(Moved::Folder),
        (0usize..100, 0usize..100).prop_map(|(one, other)| Moved::Files(one, other)),
    ];
    prop::collection::vec((what, 0..PROJECTS.len(), 0usize..4), 1..3)
}

/// The arguments of one move.
fn call((what, project, folder): &(Moved, usize, usize), types: &[Type], files: &[String]) -> Vec<String> {
    let place = match FOLDERS.get(*folder) {
        Some(&"") => format!("{}/", PROJECTS[*project]),
        Some(folder) => format!("{}/{folder}/", PROJECTS[*project]),
        None => format!("{}/Made/", PROJECTS[*project]),
    };
    let of = |at: &usize| at % types.len();
    let what = match what {
        Moved::File(at) => vec![files[of(at)].clone()],
        Moved::Files(one, other) => {
            let mut both = vec![files[of(one)].clone(), files[of(other)].clone()];
            both.dedup();
            both
        }
        Moved::Folder(at) => vec![types[of(at)].folder()],
        Moved::Name(at) => {
            let class = if types[of(at)].sort == Sort::Attribute { "Attribute" } else { "" };
            vec![format!("name:{}.T{}{class}", types[of(at)].namespace(), of(at))]
        }
    };
    let before = ["move", "--apply", "--widen"].map(str::to_owned);
    before.into_iter().chain(what).chain([place]).collect()
}

#[test]
#[cfg_attr(not(has_mcs), ignore = "the C# compiler mcs is not installed")]
fn moves_between_written_projects_build_and_are_taken_back() {
    // More of them, and others, where one goes looking: `FERNGATE_CASES=200 FERNGATE_SEED=5`.
    let asked = |name: &str| std::env::var(name).ok().and_then(|text| text.parse::<u32>().ok());
    let (cases, seed) = (asked("FERNGATE_CASES").unwrap_or(6), asked("FERNGATE_SEED").unwrap_or(71));
    for_many((cases, u64::from(seed)), &(solutions(), moves()), |(solution, moves)| {
        let (project, files) = solution.write();
        if let Err(errors) = build(project.root()) {
            panic!("what was written does not build: {errors}");
        }
        let before = project.snapshot();
        for moved in &moves {
            let call = call(moved, &solution.types, &files);
            let call: Vec<&str> = call.iter().map(String::as_str).collect();
            let answer = project.run(&call);
            if answer.status != 0 {
                prop_assert!([1, 2].contains(&answer.status), "{call:?}: {}", answer.all());
                prop_assert_eq!(project.snapshot(), before.clone(), "{:?}: {}", call, answer.all());
                continue;
            }
            let is_said = answer.out.contains("a comment names");
            let built = if is_said { build_but_comments(project.root()) } else { build(project.root()) };
            prop_assert!(built.is_ok(), "{call:?}: {}\n{}", built.unwrap_err(), answer.all());
            prop_assert_eq!(project.run(&["undo"]).status, 0);
            prop_assert_eq!(project.snapshot(), before.clone(), "{:?} was not taken back", call);
        }
        Ok(())
    });
}
