//! Runs the cases in `tests/cases`: small projects, commands on them, and all that the built program answers.
//!
//! A file of cases is plain text. Lines that begin with `@@` part it:
//!
//! - `@@ case TITLE` begins a case; what follows up to the next such line says why it is there.
//! - `@@ demo` makes the project a copy of the demo.
//! - `@@ file PATH` writes a file of the project with the lines that follow.
//! - `@@ run ARGUMENTS` runs the program; the lines that follow are its answer, with `--- stderr` before what it says
//!   beside the answer and `--- status N` at the end unless it is 0.
//! - `@@ reads PATH` says what a file of the project holds by then.
//! - `@@ same` says that the project is, to the byte, what it was before the first command.
//!
//! With `FERNGATE_ACCEPT=1` the expected texts are written anew from what the program does; look at what has changed.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::{Project, Snapshot};
use libtest_mimic::{Arguments, Failed, Trial};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

/// What begins a part of a case.
const MARK: &str = "@@ ";

/// One part of a case: what is done, and the text that follows.
#[derive(Clone, Debug)]
struct Part {
    /// `demo`, `file`, `run`, `reads` or `same`.
    verb: String,
    /// The path or the arguments.
    object: String,
    /// The lines that follow, each with its line end.
    text: String,
}

/// One case of a file.
#[derive(Clone, Debug)]
struct Case {
    title: String,
    why: String,
    parts: Vec<Part>,
}

/// What stands before the first case, and the cases.
fn parse(text: &str) -> (String, Vec<Case>) {
    let (mut start, mut cases) = (String::new(), Vec::<Case>::new());
    for line in text.split_inclusive('\n') {
        if let Some(mark) = line.strip_prefix(MARK) {
            let (verb, object) = mark.trim_end().split_once(' ').unwrap_or((mark.trim_end(), ""));
            if verb == "case" {
                cases.push(Case { title: object.to_owned(), why: String::new(), parts: Vec::new() });
                continue;
            }
            assert!(["demo", "file", "run", "reads", "same"].contains(&verb), "no such part: {line}");
            let part = Part { verb: verb.to_owned(), object: object.to_owned(), text: String::new() };
            cases.last_mut().expect("a part stands in a case").parts.push(part);
            continue;
        }
        match cases.last_mut() {
            Some(case) => match case.parts.last_mut() {
                Some(part) => part.text.push_str(line),
                None => case.why.push_str(line),
            },
            None => start.push_str(line),
        }
    }
    (start, cases)
}

/// The text of a case, as it was parsed.
fn written(case: &Case) -> String {
    let mut text = format!("{MARK}case {}\n{}", case.title, case.why);
    for part in &case.parts {
        text.push_str(format!("{MARK}{} {}", part.verb, part.object).trim_end());
        text.push('\n');
        text.push_str(&part.text);
    }
    text
}

/// Arguments as a shell would part them, with single quotes only.
fn arguments(line: &str) -> Vec<String> {
    let mut found = Vec::new();
    for (at, piece) in line.split('\'').enumerate() {
        if at % 2 == 1 {
            found.push(piece.to_owned());
        } else {
            found.extend(piece.split_whitespace().map(str::to_owned));
        }
    }
    found
}

/// The case as the program makes it: the expected texts are what came.
fn play(case: &Case) -> Case {
    let is_demo = case.parts.iter().any(|part| part.verb == "demo");
    let project = if is_demo { Project::demo() } else { Project::new(&[]) };
    let mut played = case.clone();
    let mut before: Option<Snapshot> = None;
    for (at, part) in played.parts.iter_mut().enumerate() {
        // An empty line before the next part is for the eye.
        let gap = if part.text.ends_with("\n\n") || part.text == "\n" { "\n" } else { "" };
        match part.verb.as_str() {
            "file" => project.write(&part.object, &part.text),
            "run" => {
                before.get_or_insert_with(|| project.snapshot());
                let words = arguments(&part.object);
                let answer = project.run(&words.iter().map(String::as_str).collect::<Vec<_>>());
                let all = answer.all();
                let all = all.strip_suffix("--- status 0\n").unwrap_or(&all);
                part.text = format!("{}{gap}", all.trim_end_matches('\n').to_owned() + "\n");
            }
            "demo" => {}
            "reads" => part.text = project.read(&part.object),
            _ => {
                let same = before.as_ref() == Some(&project.snapshot());
                assert!(same, "part {at} of \"{}\": the project is not what it was", case.title);
            }
        }
    }
    played
}

/// What a person sees of two texts that differ: each line with a sign.
fn difference(expected: &str, found: &str) -> String {
    let diff = similar::TextDiff::from_lines(expected, found);
    let lines = diff.iter_all_changes().map(|change| format!("{}{}", change.tag(), change.value()));
    lines.collect()
}

fn run(case: &Case) -> Result<(), Failed> {
    let played = play(case);
    let (expected, found) = (written(case), written(&played));
    if expected == found {
        return Ok(());
    }
    Err(format!("- is expected, + came\n{}", difference(&expected, &found)).into())
}

fn files() -> Vec<PathBuf> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases");
    let mut files: Vec<PathBuf> =
        std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.sort();
    files
}

fn main() -> ExitCode {
    let arguments = Arguments::from_args();
    let accepts = std::env::var_os("FERNGATE_ACCEPT").is_some();
    let mut trials = Vec::new();
    for file in files() {
        let text = std::fs::read_to_string(&file).unwrap();
        let (start, cases) = parse(&text);
        if accepts {
            let played: String = cases.iter().map(|case| written(&play(case))).collect();
            std::fs::write(&file, start + &played).unwrap();
            continue;
        }
        let topic = file.file_stem().unwrap().to_string_lossy().into_owned();
        for case in cases {
            trials.push(Trial::test(format!("{topic}: {}", case.title), move || run(&case)));
        }
    }
    libtest_mimic::run(&arguments, trials).exit_code()
}
