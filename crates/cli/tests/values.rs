//! Members that values lead to, though no name spells the type of the value: rows of code in `values`, each with the files
//! that the language's compiler binds its names to. What we do not find is not among them; `docs/languages.md` says what
//! that is.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::Project;
use std::collections::BTreeMap;

/// What a file of rows holds.
struct Rows {
    /// What every row may use: path and text.
    files: Vec<(String, String)>,
    /// The path of a row's file and the text around its code.
    around: (String, String),
    /// The files that each leads to, by the names of their types, and its code.
    rows: Vec<(String, String)>,
}

fn read(text: &str) -> Rows {
    let (mut files, mut around, mut rows) = (Vec::new(), Default::default(), Vec::new());
    for part in text.split("@@ ").skip(1) {
        let (head, body) = part.split_once('\n').unwrap();
        match head.split_once(' ').unwrap_or((head, "")) {
            ("file", path) => files.push((path.to_owned(), body.to_owned())),
            ("around", path) => around = (path.to_owned(), body.to_owned()),
            ("rows", _) => rows.extend(body.lines().map(|line| {
                let (leads_to, code) = line.split_once(" | ").unwrap();
                (leads_to.to_owned(), code.to_owned())
            })),
            (other, _) => panic!("no such part: {other}"),
        }
    }
    Rows { files, around, rows }
}

/// Makes one project of all rows and compares where each leads.
fn compare(text: &str) {
    let Rows { mut files, around: (path, around), rows } = read(text);
    for (at, (_, code)) in rows.iter().enumerate() {
        // What stands for the row's own name may stand in its code, too.
        let fill = |text: &str| text.replace("USER", &format!("User{at}"));
        files.push((fill(&path), fill(&around.replace("ROW", &code.replace(" ;; ", "\n")))));
    }
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
    let answer = Project::new(&files).run(&["export", "--level", "file"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    let stem = |path: &str| {
        let name = path.rsplit('/').next().unwrap_or_default();
        name.split('.').next().unwrap_or_default().to_owned()
    };
    let mut found: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for line in answer.out.lines().skip(1) {
        let mut fields = line.split(',').map(stem);
        found.entry(fields.next().unwrap()).or_default().push(fields.next().unwrap());
    }
    let mut wrong = Vec::new();
    for (at, (expected, code)) in rows.iter().enumerate() {
        let mut leads_to = found.remove(&format!("User{at}")).unwrap_or_default();
        leads_to.sort();
        if leads_to.join(" ") != *expected {
            wrong.push(format!("{code}\n  leads to {leads_to:?}, not to {expected:?}"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), rows.len(), wrong.join("\n"));
}

#[test]
fn rows_of_csharp_lead_where_the_compiler_says() {
    compare(include_str!("values/csharp.txt"));
}

#[test]
fn rows_of_java_lead_where_the_compiler_says() {
    compare(include_str!("values/java.txt"));
}

#[test]
fn rows_of_kotlin_lead_where_the_compiler_says() {
    compare(include_str!("values/kotlin.txt"));
}
