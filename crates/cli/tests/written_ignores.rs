//! Which files are the project's, in repositories that nobody wrote by hand: lists of what is ignored in several folders,
//! in all forms that a pattern has, beside files that version control keeps. What is found, and what is said of single paths,
//! is what `git` says.
//!
//! More of them, and others, where one goes looking: `FERNGATE_CASES=500 FERNGATE_SEED=5`.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    dead_code,
    reason = "a test may fail loudly"
)]

mod common;

use common::Project;
use common::numbers::Numbers;
use common::trees::{asked, join};
use ferngate_facts::{Ignored, walk};
use ferngate_model::ProjectPath;
use std::collections::BTreeSet;
use std::io::Write as _;
use std::path::Path;
use std::process::{Command, Stdio};

const FOLDERS: &[&str] = &["", "bed", "bed/rose", "bed/rose/tour", "tour", "tour/bed", "build", "build/bed"];
const NAMES: &[&str] =
    &["bed.py", "rose.js", "tour", "bed.tmp", "#rose.py", "!tour.py", "sp ace.py", "BED.py", "build.py"];
const PATTERNS: &[&str] = &[
    "*.tmp",
    "/bed.py",
    "build/",
    "/build",
    "bed/rose",
    "**/rose.js",
    "bed/**",
    "bed/**/tour",
    "**/tour/",
    "\\#rose.py",
    "#rose.py",
    "\\!tour.py",
    "sp\\ ace.py",
    "sp ace.py   ",
    "[br]*.py",
    "[!b]*.js",
    "?ed.py",
    "*/rose.js",
    "/*",
    "/*/",
    "*",
    "tour",
    "tour/*",
    "bed.*",
    "",
    "  ",
    "rose/tour/",
    "*e*",
    "bed/rose/../tour",
];

#[test]
#[cfg_attr(not(has_git), ignore = "the program git is not installed")]
fn what_is_found_is_what_version_control_does_not_ignore() {
    for_repositories(|root, lists| {
        let kept = git(root, &["ls-files", "-z"], "");
        let listed = git(root, &["ls-files", "-z", "--others", "--exclude-standard"], "");
        let theirs: BTreeSet<&str> =
            names(&kept).chain(names(&listed)).filter(|path| is_shown(path)).collect();
        let found = walk(root);
        let ours: BTreeSet<&str> = found.files.iter().map(ProjectPath::as_str).collect();
        let differ: Vec<&&str> = ours.symmetric_difference(&theirs).collect();
        assert!(differ.is_empty(), "{differ:?}\n{lists}\nours: {ours:#?}");
    });
}

#[test]
#[cfg_attr(not(has_git), ignore = "the program git is not installed")]
fn what_is_said_of_a_path_is_what_version_control_says() {
    for_repositories(|root, lists| {
        let all = FOLDERS.iter().flat_map(|folder| NAMES.iter().map(|name| join(folder, name)));
        let paths: Vec<String> = all.filter(|path| !FOLDERS.contains(&path.as_str())).collect();
        let said = git(root, &["check-ignore", "-z", "--no-index", "--stdin"], &paths.join("\0"));
        let theirs: BTreeSet<&str> = names(&said).collect();
        let ignored = Ignored::new(root);
        for path in &paths {
            let ours = ignored.covers(&ProjectPath::new(path));
            assert_eq!(ours, theirs.contains(path.as_str()), "{path}\n{lists}");
        }
    });
}

/// Writes repositories, and has each looked at: its root, and what its lists say.
fn for_repositories(check: impl Fn(&Path, &str)) {
    let seed = asked("FERNGATE_SEED").unwrap_or(1) * 1000;
    for case in 0..asked("FERNGATE_CASES").unwrap_or(40) {
        let (project, lists) = repository(&mut Numbers::new(seed + case));
        check(project.root(), &lists);
    }
}

/// A repository with files in every folder, lists of what is ignored in some, and some files that are kept nevertheless.
fn repository(numbers: &mut Numbers) -> (Project, String) {
    let project = Project::new(&[]);
    git(project.root(), &["init", "-q"], "");
    let mut paths = Vec::new();
    let mut lists = String::new();
    for folder in FOLDERS {
        for name in NAMES {
            let path = join(folder, name);
            if !numbers.one_in(3) && !FOLDERS.contains(&path.as_str()) {
                project.write(&path, "x = 1\n");
                paths.push(path);
            }
        }
        if folder.is_empty() || numbers.one_in(2) {
            let list = list(numbers);
            lists.push_str(&format!("--- {folder}/.gitignore\n{list}"));
            project.write(&join(folder, ".gitignore"), &list);
        }
    }
    let kept: Vec<&str> = paths.iter().map(String::as_str).filter(|_| numbers.one_in(8)).collect();
    if !kept.is_empty() {
        git(project.root(), &[&["add", "--force", "--"], &kept[..]].concat(), "");
        lists.push_str(&format!("kept: {kept:?}\n"));
    }
    (project, lists)
}

fn list(numbers: &mut Numbers) -> String {
    let end = numbers.of(&["\n", "\n", "\r\n"]);
    let mut lines = String::new();
    for _ in 0..1 + numbers.next() % 4 {
        let pattern = numbers.of(PATTERNS);
        let not = if numbers.one_in(3) && !pattern.trim().is_empty() { "!" } else { "" };
        lines.push_str(&format!("{not}{pattern}{end}"));
    }
    lines
}

fn is_shown(path: &str) -> bool {
    !path.split('/').any(|part| part.starts_with('.'))
}

fn names(listed: &str) -> impl Iterator<Item = &str> {
    listed.split('\0').filter(|name| !name.is_empty())
}

/// What `git` prints; it ends with 1 where nothing matches.
fn git(root: &Path, arguments: &[&str], input: &str) -> String {
    let mut command = Command::new("git");
    command.args(arguments).current_dir(root).stdin(Stdio::piped()).stdout(Stdio::piped());
    let mut call = command.spawn().unwrap();
    call.stdin.take().unwrap().write_all(input.as_bytes()).unwrap();
    let output = call.wait_with_output().unwrap();
    assert!(output.status.code().is_some_and(|code| code <= 1), "git {arguments:?}");
    String::from_utf8(output.stdout).unwrap()
}
