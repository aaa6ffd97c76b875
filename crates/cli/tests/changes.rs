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
    "tests/fixtures/php",
    "tests/fixtures/python",
    "tests/fixtures/r",
    "tests/fixtures/rust",
    "tests/fixtures/typescript",
];

/// Files of Kotlin, of which there is no project yet.
const KOTLIN: &[(&str, &str)] = &[
    (
        "Bed.kt",
        "package moss.beds\n\n/* a /* nested */ comment */\nclass Bed(val width: Int) {\n    companion object { const val DEEP = 3 }\n}\n\nfun Bed.dig(): Bed = this\n",
    ),
    (
        "Label.kt",
        "package moss.labels\n\nimport moss.beds.Bed\nimport moss.beds.dig as digUp\n\nclass Label(val bed: Bed) {\n    fun text() = \"${bed.digUp()} ${Ink.name}\"\n}\n",
    ),
    (
        "Ink.kt",
        "package moss.labels\n\nobject Ink { val name = \"ink\" }\n\nfun shaded(label: Label): Label = label\n",
    ),
    (
        "Walk.kt",
        "package moss.walks\n\nimport moss.labels.*\n\nval first: Label? = null\nfun walk() {\n    first?.let { shaded(it) }\n    println(moss.beds.Bed.DEEP)\n}\n",
    ),
];

fn projects() -> impl Iterator<Item = (&'static str, Project)> {
    let folders = PROJECTS.iter().map(|folder| (*folder, Project::copy_of(folder)));
    folders.chain(std::iter::once_with(|| ("Kotlin", Project::new(KOTLIN))))
}

/// Extensions of manifests and markup.
const MANIFESTS: &[&str] =
    &["csproj", "props", "sln", "slnx", "xaml", "xml", "json", "toml", "mod", "work", "gradle", "txt", "cfg"];

/// Extensions of code.
const CODE: &[&str] = &[
    "cs", "razor", "java", "kt", "php", "ts", "tsx", "js", "mjs", "py", "go", "rs", "c", "h", "cc", "cpp",
    "hpp", "ino", "r", "R", "css",
];

fn texts_below(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            texts_below(&path, found);
        } else if let Some(extension) =
            Some(path.extension().and_then(|extension| extension.to_str()).unwrap_or_default())
            && (CODE.contains(&extension)
                || MANIFESTS.contains(&extension) && path.file_name() != Some("ferngate.toml".as_ref()))
        {
            found.push(path);
        }
    }
}

/// Changes the files of code and the manifests of every project; the ties between files must stay.
fn keeps_ties(change: impl Fn(&str, &str) -> Option<String>) {
    for (project, project_files) in projects() {
        let before = project_files.run(&["export", "--level", "file"]);
        assert!(before.out.lines().count() > 3, "{project}: {}", before.all());
        let mut files = Vec::new();
        texts_below(project_files.root(), &mut files);
        let mut changed = 0;
        for path in files {
            let extension = path.extension().and_then(|name| name.to_str()).unwrap_or_default().to_owned();
            let Ok(text) = std::fs::read_to_string(&path) else { continue };
            if let Some(new) = change(&extension, &text) {
                changed += usize::from(new != text);
                std::fs::write(&path, new).unwrap();
            }
        }
        assert!(changed > 0, "nothing was changed in {project}");
        let after = project_files.run(&["export", "--level", "file"]);
        let differs = |one: &str, other: &str| {
            one.lines()
                .filter(|line| !other.lines().any(|known| known == *line))
                .collect::<Vec<_>>()
                .join("\n")
        };
        let (lost, won) = (differs(&before.out, &after.out), differs(&after.out, &before.out));
        assert!(before.out == after.out, "{project}\nlost:\n{lost}\nwon:\n{won}");
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
        !text.contains("\\\n") && !text.contains("\"\"\"") && !text.contains('`') && !text.contains("<<<")
    };
    keeps_ties(|extension, text| {
        (CODE.contains(&extension) && plain(text)).then(|| format!("{}\n\n\n", text.replace('\n', "  \t\n")))
    });
}

#[test]
fn comments_behind_the_code_change_nothing() {
    keeps_ties(|extension, text| {
        if !CODE.contains(&extension) {
            return None;
        }
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
    for (project, project_files) in projects() {
        for call in
            [&["export", "--level", "file"][..], &["check", "--all"], &["survey", "--all"], &["cycles"]]
        {
            let one = project_files.run_with(&[("RAYON_NUM_THREADS", "1")], call);
            let many = project_files.run_with(&[("RAYON_NUM_THREADS", "7")], call);
            assert_eq!(one.all(), many.all(), "{project} {call:?}");
        }
    }
}

/// Two copies of a project in one tree, as vendored code and samples are.
#[test]
fn a_copy_beside_a_project_changes_no_tie() {
    for (name, project) in projects() {
        let before = project.run(&["export", "--level", "file"]).out;
        let both = Project::new(&[]);
        for (path, (bytes, _)) in project.snapshot().iter().filter(|(path, _)| !path.ends_with('/')) {
            // One map counts for the whole tree.
            if path == "ferngate.toml" {
                continue;
            }
            for copy in ["one", "two"] {
                let path = both.root().join(copy).join(path);
                std::fs::create_dir_all(path.parent().unwrap()).unwrap();
                std::fs::write(path, bytes).unwrap();
            }
        }
        let expected: std::collections::BTreeSet<String> = before
            .lines()
            .skip(1)
            .flat_map(|row| {
                ["one", "two"].map(|copy| format!("{copy}/{}", row.replacen(',', &format!(",{copy}/"), 1)))
            })
            .collect();
        let after = both.run(&["export", "--level", "file"]).out;
        let found: std::collections::BTreeSet<String> = after.lines().skip(1).map(str::to_owned).collect();
        let differs = |one: &std::collections::BTreeSet<String>,
                       other: &std::collections::BTreeSet<String>| {
            one.difference(other).cloned().collect::<Vec<_>>().join("\n")
        };
        let (lost, won) = (differs(&expected, &found), differs(&found, &expected));
        assert!(expected == found, "{name}\nlost:\n{lost}\nwon:\n{won}");
    }
}
