//! Folders and files with names that shells, patterns and formats take apart: every answer spells them as they are.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test may fail loudly")]

mod common;

use common::{Project, for_many};
use proptest::prelude::*;
use std::collections::BTreeSet;

/// Names that a file system takes.
fn name() -> impl Strategy<Value = String> {
    prop_oneof![
        2 => "[A-Za-z][a-z0-9]{0,5}",
        3 => "[a-z][ ,;'\"#%&{}()\\[\\]!$=+~@^`<>|苔ä☘-]{1,4}[a-z]",
        1 => "[-#!~@ ][a-z]{1,3}",
        1 => "[a-z]\n[a-z]",
    ]
}

/// A garden of folders with a file each; all use the class in the first.
fn garden(names: &BTreeSet<(String, String)>) -> (Project, Vec<String>) {
    let project = Project::new(&[("Hub.cs", "namespace Moss; public class Hub { }\n")]);
    let paths: Vec<String> = names.iter().map(|(folder, file)| format!("{folder}/{file}.cs")).collect();
    for (at, path) in paths.iter().enumerate() {
        project.write(path, &format!("namespace Moss; class Part{at} {{ Hub hub; }}\n"));
    }
    (project, paths)
}

fn names() -> impl Strategy<Value = BTreeSet<(String, String)>> {
    prop::collection::btree_set((name(), name()), 1..5)
}

/// Rows of fields as RFC 4180 has them.
fn rows(text: &str) -> Vec<Vec<String>> {
    let (mut rows, mut row, mut field, mut quoted) = (Vec::new(), Vec::new(), String::new(), false);
    let mut letters = text.chars().peekable();
    while let Some(letter) = letters.next() {
        match letter {
            '"' if quoted && letters.peek() == Some(&'"') => field.extend(letters.next()),
            '"' => quoted = !quoted,
            ',' if !quoted => row.push(std::mem::take(&mut field)),
            '\n' if !quoted => {
                row.push(std::mem::take(&mut field));
                rows.push(std::mem::take(&mut row));
            }
            letter => field.push(letter),
        }
    }
    assert!(!quoted && field.is_empty() && row.is_empty(), "{text}");
    rows
}

#[test]
fn exports_spell_paths_as_they_are() {
    for_many((80, 31), &names(), |names| {
        let (project, paths) = garden(&names);
        let expected: Vec<(String, String)> =
            paths.iter().map(|path| (path.clone(), "Hub.cs".to_owned())).collect();
        let csv = project.run(&["export", "--level", "file"]);
        let read = rows(&csv.out);
        let ties: BTreeSet<_> = read[1..].iter().map(|row| (row[0].clone(), row[1].clone())).collect();
        prop_assert_eq!(&ties, &expected.iter().cloned().collect::<BTreeSet<_>>(), "{}", csv.out);
        let data = project.run(&["export", "--level", "file", "--json"]).json();
        let text = |value: &serde_json::Value| value.as_str().unwrap().to_owned();
        let ties = data["ties"].as_array().unwrap().iter();
        let ties: BTreeSet<_> = ties.map(|tie| (text(&tie["from"]), text(&tie["to"]))).collect();
        prop_assert_eq!(&ties, &expected.into_iter().collect::<BTreeSet<_>>());
        Ok(())
    });
}

#[test]
fn answers_for_people_send_no_control_bytes_and_break_no_line() {
    for_many((40, 32), &names(), |names| {
        let (project, paths) = garden(&names);
        for call in [&["survey", "--all"][..], &["check"], &["find", "Hub"], &["draw"], &["export"]] {
            let answer = project.run(call);
            prop_assert!(answer.status < 2, "{call:?} {}", answer.all());
            prop_assert!(
                !answer.out.contains(|c: char| c.is_control() && c != '\n'),
                "{call:?} {}",
                answer.out
            );
        }
        let find = project.run(&["find", "Hub", "--all"]).out;
        for path in paths {
            let shown = path.replace('\n', "\\n");
            prop_assert!(find.lines().any(|line| line.contains(&shown)), "{shown} {find}");
        }
        Ok(())
    });
}

#[test]
fn a_map_that_is_written_names_them_again() {
    for_many((80, 33), &names(), |names| {
        let (project, paths) = garden(&names);
        let first = project.run(&["survey", "--json"]).json();
        let init = project.run(&["init"]);
        prop_assert_eq!(init.status, 0, "{}", init.all());
        let check = project.run(&["check", "--json"]);
        prop_assert!(check.status < 2, "{}\n{}", check.all(), project.read("ferngate.toml"));
        let second = project.run(&["survey", "--json"]).json();
        let files = |survey: &serde_json::Value| {
            let modules = survey["modules"].as_array().unwrap().iter();
            modules.map(|module| module["files"].as_u64().unwrap()).sum::<u64>()
        };
        prop_assert_eq!(files(&first), files(&second), "{:?}\n{}", paths, project.read("ferngate.toml"));
        Ok(())
    });
}

#[test]
fn they_move_and_come_back() {
    for_many((60, 34), &(names(), name()), |(names, target)| {
        let (project, paths) = garden(&names);
        let folder = names.iter().next().unwrap().0.clone();
        let target = format!("moved/{target}");
        let bytes = |project: &Project| {
            project.snapshot().into_iter().map(|(path, (bytes, _))| (path, bytes)).collect::<Vec<_>>()
        };
        let before = bytes(&project);
        let moved = project.run(&["move", "--apply", "--", &folder, &target]);
        prop_assert_eq!(moved.status, 0, "{}", moved.all());
        for path in paths.iter().filter(|path| path.starts_with(&format!("{folder}/"))) {
            let new = format!("{target}/{}", &path[folder.len() + 1..]);
            prop_assert!(project.exists(&new) && !project.exists(path), "{path} to {new}: {}", moved.all());
        }
        prop_assert_eq!(project.run(&["undo"]).status, 0);
        prop_assert_eq!(bytes(&project), before);
        Ok(())
    });
}
