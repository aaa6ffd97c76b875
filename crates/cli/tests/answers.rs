//! What one command says is what the others say: the same files, modules, ties and cycles, in text and as data.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::Project;
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};

/// The demo, and the folders of shapes that have no map.
fn projects() -> Vec<(&'static str, Project)> {
    let mut all = vec![("the demo", Project::demo()), ("a garden", Project::garden())];
    for folder in ["cpp", "css", "go", "java", "kotlin", "php", "python", "r", "rust", "typescript"] {
        all.push((folder, Project::copy_of(&format!("tests/fixtures/{folder}"))));
    }
    all
}

fn answer(project: &Project, arguments: &[&str]) -> Value {
    project.run(&[arguments, &["--json"]].concat()).json()
}

fn number(value: &Value, key: &str) -> u64 {
    value[key].as_u64().unwrap_or_else(|| panic!("{key} is no number in {value}"))
}

fn text(value: &Value, key: &str) -> String {
    value[key].as_str().unwrap_or_else(|| panic!("{key} is no text in {value}")).to_owned()
}

fn list<'v>(value: &'v Value, key: &str) -> &'v [Value] {
    value[key].as_array().unwrap_or_else(|| panic!("{key} is no list in {value}"))
}

/// The ties of a level, with how many references make each.
fn ties(project: &Project, level: &str) -> BTreeMap<(String, String), u64> {
    let export = answer(project, &["export", "--level", level]);
    let ties = list(&export, "ties").iter();
    ties.map(|tie| ((text(tie, "from"), text(tie, "to")), number(tie, "references"))).collect()
}

#[test]
fn check_counts_what_it_lists() {
    for (name, project) in projects() {
        let check = answer(&project, &["check"]);
        let of = |severity| {
            list(&check, "findings").iter().filter(|finding| text(finding, "severity") == severity).count()
        };
        assert_eq!(number(&check, "errors"), of("error") as u64, "{name}");
        assert_eq!(number(&check, "warnings"), of("warning") as u64, "{name}");
        let status = project.run(&["check"]).status;
        assert_eq!(status, i32::from(of("error") > 0), "{name}");
    }
}

#[test]
fn check_and_survey_look_at_the_same_code() {
    for (name, project) in projects() {
        let (check, survey) = (answer(&project, &["check"]), answer(&project, &["survey"]));
        for key in ["files", "lines"] {
            assert_eq!(number(&check, key), number(&survey, key), "{name}: {key}");
            let sum = |of: &str| list(&survey, of).iter().map(|row| number(row, key)).sum::<u64>();
            assert_eq!(sum("languages"), number(&survey, key), "{name}: {key}");
            assert!(sum("modules") <= number(&survey, key), "{name}: {key}");
        }
        let first = project.run(&["check"]).first_line().to_owned();
        let files = number(&check, "files");
        assert!(first.contains(&format!("({files} file")), "{name}: {first}");
    }
}

#[test]
fn survey_counts_the_ties_that_export_lists() {
    for (name, project) in projects() {
        let ties = ties(&project, "module");
        let survey = answer(&project, &["survey"]);
        for module in list(&survey, "modules") {
            let called = text(module, "module");
            let (uses, used_by) = (
                ties.keys().filter(|(from, _)| *from == called).count() as u64,
                ties.keys().filter(|(_, to)| *to == called).count() as u64,
            );
            assert_eq!(
                (number(module, "uses"), number(module, "used_by")),
                (uses, used_by),
                "{name}: {called}"
            );
        }
    }
}

/// A module as the program calls it: one that is called like the project's folder is shown as `garden` here.
fn called(project: &Project, module: &str) -> String {
    let folder = project.root().file_name().unwrap().to_string_lossy();
    if module == "garden" { folder.into_owned() } else { module.to_owned() }
}

#[test]
fn why_shows_each_reference_that_export_counts() {
    for (name, project) in projects() {
        let files = ties(&project, "file").into_iter().take(60);
        for ((from, to), references) in files.chain(ties(&project, "module")) {
            let why = answer(&project, &["why", &called(&project, &from), &called(&project, &to)]);
            assert_eq!(number(&why, "references"), references, "{name}: {from} {to}");
            let places = list(&why, "names").iter().map(|name| list(name, "places").len()).sum::<usize>();
            assert_eq!(places as u64, references, "{name}: {from} {to}");
        }
    }
}

#[test]
fn places_that_why_shows_stand_in_the_files() {
    let project = Project::demo();
    for (from, to) in ties(&project, "module").into_keys() {
        for shown in list(&answer(&project, &["why", &from, &to]), "names") {
            let full = text(shown, "name");
            let last = full.rsplit(['.', '\\', '/', ':', ' ']).next().unwrap().to_owned();
            for place in list(shown, "places") {
                let (path, line, column) =
                    (text(place, "path"), number(place, "line") as usize, number(place, "column") as usize);
                let source = project.read(&path);
                let row: String = source.lines().nth(line - 1).unwrap().chars().skip(column - 1).collect();
                assert!(!row.trim().is_empty(), "{path}:{line}:{column} of {last}");
            }
        }
    }
}

/// The groups of more than one module that reach each other, by trying all ways.
fn groups(ties: &BTreeMap<(String, String), u64>) -> BTreeSet<BTreeSet<String>> {
    let mut reach: BTreeSet<(String, String)> = ties.keys().cloned().collect();
    loop {
        let further: Vec<_> = reach
            .iter()
            .flat_map(|(a, b)| {
                reach.iter().filter(move |(c, _)| c == b).map(move |(_, d)| (a.clone(), d.clone()))
            })
            .filter(|pair| !reach.contains(pair))
            .collect();
        if further.is_empty() {
            break;
        }
        reach.extend(further);
    }
    let both = |a: &String, b: &String| {
        reach.contains(&(a.clone(), b.clone())) && reach.contains(&(b.clone(), a.clone()))
    };
    let ends: BTreeSet<&String> = reach.iter().flat_map(|(a, b)| [a, b]).collect();
    let group =
        |of: &&String| ends.iter().filter(|other| both(of, other)).map(|other| (*other).clone()).collect();
    ends.iter().map(group).filter(|group: &BTreeSet<String>| group.len() > 1).collect()
}

#[test]
fn cycles_are_the_groups_whose_modules_reach_each_other() {
    for (name, project) in projects() {
        let ties = ties(&project, "module");
        let answer = answer(&project, &["cycles"]);
        let mut found = BTreeSet::new();
        for cycle in list(&answer, "cycles") {
            let names = |key: &str| -> Vec<String> {
                list(cycle, key).iter().map(|module| module.as_str().unwrap().to_owned()).collect()
            };
            let way = names("way");
            for (at, from) in way.iter().enumerate() {
                let to = &way[(at + 1) % way.len()];
                assert!(ties.contains_key(&(from.clone(), to.clone())), "{name}: no tie {from} → {to}");
            }
            found.insert(names("modules").into_iter().collect::<BTreeSet<String>>());
            // Without the cuts, these modules are in no circle any more.
            let mut rest = ties.clone();
            for cut in list(cycle, "cuts") {
                let removed = rest.remove(&(text(cut, "from"), text(cut, "to")));
                assert_eq!(removed, Some(number(cut, "references")), "{name}");
            }
            let members = names("modules");
            assert!(
                groups(&rest).iter().all(|group| members.iter().all(|member| !group.contains(member))),
                "{name}: the cuts leave a circle"
            );
        }
        assert_eq!(found, groups(&ties), "{name}");
    }
}

#[test]
fn find_and_why_tell_the_same_of_two_files() {
    let project = Project::demo();
    for ((from, to), references) in ties(&project, "file").into_iter().take(40) {
        let why = answer(&project, &["why", &from, &to]);
        assert_eq!(number(&why, "references"), references, "{from} {to}");
        let find = answer(&project, &["find", &from]);
        let uses = list(&find["file"], "uses").iter().map(|used| text(used, "path"));
        assert!(uses.clone().any(|path| path == to), "{from} uses {to}: {:?}", uses.collect::<Vec<_>>());
    }
}

#[test]
fn every_answer_names_its_form() {
    let project = Project::demo();
    for command in [
        &["survey"][..],
        &["check"],
        &["cycles"],
        &["export"],
        &["find", "Ticket"],
        &["why", "visits", "catalogue"],
        &["explain", "cycle"],
        &["move", "src/Mossgrove/Models/Ticket.cs", "src/Mossgrove/Visits/"],
    ] {
        let answer = answer(&project, command);
        assert_eq!(text(&answer, "schema"), format!("ferngate/{}/1", command[0]), "{command:?}");
    }
}

#[test]
fn what_no_letter_spells_has_its_places_too() {
    let project = Project::new(&[
        (
            "Rows.cs",
            "namespace Moss { public class Rows { public int this[int at] => at; public int Count; } }",
        ),
        ("Shelf.cs", "namespace Moss { public class Shelf { public Rows Rows; } }"),
        (
            "User.cs",
            "namespace Moss { class User {\nint A(Shelf shelf) => shelf.Rows[1]\n + shelf.Rows[2];\nint B(Shelf shelf) => shelf.Rows[3]; } }",
        ),
    ]);
    let why = answer(&project, &["why", "User.cs", "Rows.cs"]);
    let lines: Vec<u64> =
        list(&list(&why, "names")[0], "places").iter().map(|place| number(place, "line")).collect();
    assert_eq!((number(&why, "references"), lines), (3, vec![2, 3, 4]));
}
