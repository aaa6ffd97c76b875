//! What people see at a terminal: questions, colours, and lines that fit.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test may fail loudly")]

mod common;

use common::Project;
use std::io::Write as _;
use std::process::{Command, Stdio};

/// What the program shows at a terminal of so many columns where `typed` is what the user types, and the exit status.
fn at_terminal(project: &Project, columns: u16, arguments: &[&str], typed: &str) -> (String, i32) {
    let words: Vec<String> =
        arguments.iter().map(|word| format!("'{}'", word.replace('\'', "'\\''"))).collect();
    let program = env!("CARGO_BIN_EXE_ferngate");
    let call = format!("stty cols {columns} rows 40; '{program}' {}", words.join(" "));
    let mut script = Command::new("script")
        .args(["--quiet", "--return", "--command", &call, "/dev/null"])
        .current_dir(project.root())
        .env_remove("NO_COLOR")
        .env("TERM", "xterm-256color")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    script.stdin.take().unwrap().write_all(typed.as_bytes()).unwrap();
    let output = script.wait_with_output().unwrap();
    let text = String::from_utf8_lossy(&output.stdout).replace('\r', "");
    (text, output.status.code().unwrap_or(-1))
}

/// The text without its colours.
fn bare(text: &str) -> String {
    let mut parts = text.split("\x1b[");
    let first = parts.next().unwrap_or_default().to_owned();
    parts.fold(first, |text, part| text + part.split_once('m').map_or(part, |(_, rest)| rest))
}

const MOVE: &[&str] = &["move", "src/Mossgrove/Models/Ticket.cs", "src/Mossgrove/Visits/"];

#[test]
#[cfg_attr(not(has_script), ignore = "the program script is not installed")]
fn a_move_is_asked_about() {
    let project = Project::demo();
    let before = project.snapshot();
    for no in ["n\n", "\n", "what?\n"] {
        let (shown, status) = at_terminal(&project, 100, MOVE, no);
        assert_eq!(status, 0, "{shown}");
        assert!(shown.contains("Make this move? [y/N]"), "{shown}");
        assert!(shown.trim_end().ends_with("nothing was written"), "{shown}");
        assert!(project.snapshot() == before, "{no:?} moved something");
    }
    let (shown, status) = at_terminal(&project, 100, MOVE, "y\n");
    assert_eq!(status, 0, "{shown}");
    assert!(bare(&shown).contains("done: ") && shown.matches("new full names").count() == 1, "{shown}");
    assert!(project.exists("src/Mossgrove/Visits/Ticket.cs"));
    let (shown, status) = at_terminal(&project, 100, &["undo"], "");
    assert_eq!(status, 0, "{shown}");
    let bytes = |snapshot: common::Snapshot| {
        snapshot.into_iter().map(|(path, (bytes, _))| (path, bytes)).collect::<Vec<_>>()
    };
    assert_eq!(bytes(project.snapshot()), bytes(before));
}

#[test]
#[cfg_attr(not(has_script), ignore = "the program script is not installed")]
fn a_refused_move_is_not_asked_about() {
    let project = Project::garden();
    // The catalogue would need what needs it.
    let call = ["move", "src/Visits/Tour.cs", "nowhere/Tour.cs"];
    let (shown, status) = at_terminal(&project, 100, &call, "y\n");
    assert_eq!(status, 1, "{shown}");
    assert!(shown.contains("refused") && !shown.contains("Make this move?"), "{shown}");
    assert!(project.exists("src/Visits/Tour.cs"));
}

#[test]
#[cfg_attr(not(has_script), ignore = "the program script is not installed")]
fn answers_have_colours_there_and_the_same_words() {
    let project = Project::demo();
    for call in [&["survey"][..], &["check"], &["cycles"], &["why", "visits", "models"], &["find", "Ticket"]]
    {
        let (shown, status) = at_terminal(&project, 1000, call, "");
        let plain = project.run(call);
        let name = project.root().file_name().unwrap().to_string_lossy().into_owned();
        assert_eq!((bare(&shown).replace(&name, "garden"), status), (plain.out, plain.status), "{call:?}");
        assert!(shown.contains("\x1b["), "{call:?}");
    }
}

#[test]
#[cfg_attr(not(has_script), ignore = "the program script is not installed")]
fn lines_fit_a_narrow_terminal() {
    let project = Project::demo();
    for call in [&["check"][..], &["cycles"], &["why", "visits", "models"], &["explain", "cycle"]] {
        for columns in [60, 80, 100] {
            let (shown, _) = at_terminal(&project, columns, call, "");
            for line in bare(&shown).lines() {
                // A line of code, and one word that is longer than a line, stay whole.
                let is_code = line.contains(" | ");
                let words = line.split_whitespace().map(|word| word.chars().count());
                let longest = words.max().unwrap_or(0) + line.len() - line.trim_start().len();
                let fits = line.chars().count() <= usize::from(columns).max(longest);
                assert!(is_code || fits, "{call:?} at {columns}: {line}");
            }
            let plain: Vec<String> = project.run(call).out.split_whitespace().map(str::to_owned).collect();
            let name = project.root().file_name().unwrap().to_string_lossy().into_owned();
            let words: Vec<String> =
                bare(&shown).replace(&name, "garden").split_whitespace().map(str::to_owned).collect();
            assert_eq!(words, plain, "{call:?} at {columns}");
        }
    }
}
