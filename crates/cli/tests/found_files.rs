//! Which files are the project's: what version control ignores is not, what it keeps is.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::{Project, used_by};
use std::os::unix::fs::PermissionsExt as _;
use std::process::Command;

/// A package that is called as what builds make, and what a build has made.
const FILES: &[(&str, &str)] = &[
    (".gitignore", "target/\n*.tmp.java\n"),
    ("src/main/java/moss/Bed.java", "package moss; class Bed { moss.target.Goal goal; }"),
    ("src/main/java/moss/target/Goal.java", "package moss.target; public class Goal { }"),
    ("src/main/java/moss/target/Gone.java", "package moss.target; public class Gone { }"),
    ("src/main/java/moss/Old.tmp.java", "package moss; class Old { }"),
    ("target/made/Made.java", "package moss; class Made { }"),
    ("node_modules/pack/index.js", "exports.pack = 1;"),
    (".tools/tool.py", "print(1)\n"),
];

fn git(project: &Project, arguments: &[&str]) {
    let call = Command::new("git").args(arguments).current_dir(project.root()).output().unwrap();
    assert!(call.status.success(), "{arguments:?}: {}", String::from_utf8_lossy(&call.stderr));
}

/// The first line that `survey` says.
fn verdict(project: &Project) -> String {
    project.run(&["survey"]).out.lines().next().unwrap_or_default().to_owned()
}

#[test]
fn what_is_ignored_is_left_out_without_version_control_too() {
    let project = Project::new(FILES);
    assert!(verdict(&project).starts_with("garden: 1 file, 1 line"), "{}", verdict(&project));
    assert_eq!(used_by("src/main/java/moss/Bed.java", FILES), Vec::<String>::new());
}

#[test]
#[cfg_attr(not(has_git), ignore = "the program git is not installed")]
fn what_version_control_keeps_is_never_ignored() {
    let project = Project::new(FILES);
    git(&project, &["init", "-q"]);
    assert!(verdict(&project).contains(" 1 file, "), "nothing is kept yet: {}", verdict(&project));
    git(&project, &["add", "--force", "src", "node_modules", ".tools"]);
    assert!(verdict(&project).contains(" 4 files, "), "{}", verdict(&project));
    let ties = project.run(&["export", "--level", "file"]).out;
    assert!(ties.contains("src/main/java/moss/Bed.java,src/main/java/moss/target/Goal.java,1"), "{ties}");
    // What is kept and was deleted is not there, and a folder inside sees its own part.
    std::fs::remove_file(project.root().join("src/main/java/moss/target/Gone.java")).unwrap();
    assert!(verdict(&project).contains(" 3 files, "), "{}", verdict(&project));
    let inside = project.run(&["-C", "src/main", "survey"]).out;
    assert!(inside.contains(" 3 files, "), "{inside}");
}

#[test]
#[cfg_attr(not(has_git), ignore = "the program git is not installed")]
fn a_repository_cannot_have_its_programs_run() {
    let project = Project::new(FILES);
    git(&project, &["init", "-q"]);
    git(&project, &["add", "--force", "src"]);
    let spy = project.root().join("spy.sh");
    project.write("spy.sh", "#!/bin/sh\ntouch \"$(dirname \"$0\")/was-run\"\n");
    std::fs::set_permissions(&spy, std::fs::Permissions::from_mode(0o755)).unwrap();
    git(&project, &["config", "core.fsmonitor", &spy.display().to_string()]);
    assert!(verdict(&project).contains(" 4 files, "), "{}", verdict(&project));
    assert!(!project.exists("was-run"));
}

#[test]
#[cfg_attr(not(has_git), ignore = "the program git is not installed")]
fn a_broken_repository_is_read_as_if_there_were_none() {
    let project = Project::new(FILES);
    git(&project, &["init", "-q"]);
    git(&project, &["add", "--force", "src"]);
    project.write(".git/index", "no index at all");
    assert!(verdict(&project).contains(" 1 file, "), "{}", verdict(&project));
    assert_eq!(project.run(&["check"]).status, 0);
}

#[test]
fn a_folder_that_a_tool_filled_with_packages_is_left_out() {
    for (filled_by, is_left_out) in [
        ("vendor/modules.txt", true),
        ("rain/vendor/modules.txt", true),
        ("vendor/composer/installed.json", true),
        ("vendor/autoload.php", true),
        ("vendor/other/.cargo-checksum.json", true),
        ("vendor/README.md", false),
        ("vendored/modules.txt", false),
    ] {
        let folder = filled_by.split_once("ed/").map_or("vendor", |_| "vendored");
        let folder = if filled_by.starts_with("rain/") { "rain/vendor" } else { folder };
        let other = format!("{folder}/other/other.go");
        let files = [
            ("go.mod", "module moss\n"),
            ("main.go", "package main\n"),
            (&*other, "package other\n"),
            (filled_by, "{}"),
        ];
        let project = Project::new(&files);
        let answer = project.run(&["survey", "-v"]);
        let (count, told) = if is_left_out { ("1 file,", true) } else { ("2 files,", false) };
        assert!(answer.out.contains(&format!(": {count}")), "{filled_by}: {}", answer.all());
        assert_eq!(
            answer.err.contains(&format!("left out: {folder}/")),
            told,
            "{filled_by}: {}",
            answer.all()
        );
    }
}

#[test]
#[cfg_attr(not(has_git), ignore = "the program git is not installed")]
fn packages_that_version_control_keeps_are_left_out_too() {
    let files = [
        ("go.mod", "module moss\n"),
        ("main.go", "package main\n"),
        ("vendor/other/other.go", "package other\n"),
        ("vendor/modules.txt", ""),
    ];
    let project = Project::new(&files);
    git(&project, &["init", "-q"]);
    git(&project, &["add", "--all"]);
    assert!(verdict(&project).contains(": 1 file,"), "{}", verdict(&project));
}
