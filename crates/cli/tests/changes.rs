//! Changes of files that change no meaning: what code depends on stays the same, in every language.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::Project;
use std::path::{Path, PathBuf};

/// The projects that tests and the demo have.
const PROJECTS: &[&str] = &[
    "demo/mossgrove",
    "tests/fixtures/cpp",
    "tests/fixtures/go",
    "tests/fixtures/java",
    "tests/fixtures/kotlin",
    "tests/fixtures/php",
    "tests/fixtures/python",
    "tests/fixtures/r",
    "tests/fixtures/rust",
    "tests/fixtures/typescript",
];

/// Extensions of code; manifests are left as they are.
const CODE: &[&str] = &[
    "cs", "razor", "java", "kt", "php", "ts", "tsx", "js", "mjs", "py", "go", "rs", "c", "h", "cc", "cpp",
    "hpp", "ino", "r", "R", "css",
];

fn code_below(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            code_below(&path, found);
        } else if path.extension().is_some_and(|extension| CODE.iter().any(|code| extension == *code)) {
            found.push(path);
        }
    }
}

/// Changes every file of code of every project; the ties between files must stay.
fn keeps_ties(change: impl Fn(&str, &str) -> Option<String>) {
    for project in PROJECTS {
        let project_files = Project::copy_of(project);
        let before = project_files.run(&["export", "--level", "file"]);
        assert!(before.out.lines().count() > 3, "{project}: {}", before.all());
        let mut files = Vec::new();
        code_below(project_files.root(), &mut files);
        let mut changed = 0;
        for path in files {
            let extension = path.extension().unwrap().to_str().unwrap().to_owned();
            let Ok(text) = std::fs::read_to_string(&path) else { continue };
            if let Some(new) = change(&extension, &text) {
                changed += usize::from(new != text);
                std::fs::write(&path, new).unwrap();
            }
        }
        assert!(changed > 0, "nothing was changed in {project}");
        let after = project_files.run(&["export", "--level", "file"]);
        assert_eq!(before.out, after.out, "{project}");
    }
}

#[test]
fn line_ends_of_another_system_change_nothing() {
    keeps_ties(|_, text| (!text.contains('\r')).then(|| text.replace('\n', "\r\n")));
}

#[test]
fn a_mark_of_byte_order_changes_nothing() {
    keeps_ties(|_, text| (!text.starts_with('\u{feff}')).then(|| format!("\u{feff}{text}")));
}

#[test]
fn blank_lines_and_blanks_at_line_ends_change_nothing() {
    // Behind a backslash a blank is none, and text between quotes may run over lines.
    let plain = |text: &str| {
        !text.contains('\\') && !text.contains("\"\"\"") && !text.contains('`') && !text.contains("<<<")
    };
    keeps_ties(|_, text| plain(text).then(|| format!("{}\n\n\n", text.replace('\n', "  \t\n"))));
}

#[test]
fn comments_behind_the_code_change_nothing() {
    keeps_ties(|extension, text| {
        let comment = match extension {
            "py" | "r" | "R" => "# import beds; from garden import *; source(\"beds.R\"); library(beds)",
            "razor" => "@* @using Mossgrove.Nowhere <Ticket /> *@",
            "css" => "/* @import \"nowhere.css\"; */",
            // Text outside of code is none of PHP's business.
            "php" if text.contains("?>") => return None,
            _ => {
                "/* import \"./nowhere\"; use crate::nowhere; using Nowhere; #include \"nowhere.h\" Ticket x; */ // new Bed()"
            }
        };
        Some(format!("{}\n{comment}\n", text.trim_end_matches('\n')))
    });
}

#[test]
fn a_file_without_a_last_line_end_says_the_same() {
    keeps_ties(|_, text| Some(text.trim_end().to_owned()));
}

#[test]
fn the_number_of_threads_changes_no_answer() {
    for project in PROJECTS {
        let project_files = Project::copy_of(project);
        for call in
            [&["export", "--level", "file"][..], &["check", "--all"], &["survey", "--all"], &["cycles"]]
        {
            let one = project_files.run_with(&[("RAYON_NUM_THREADS", "1")], call);
            let many = project_files.run_with(&[("RAYON_NUM_THREADS", "7")], call);
            assert_eq!(one.all(), many.all(), "{project} {call:?}");
        }
    }
}
