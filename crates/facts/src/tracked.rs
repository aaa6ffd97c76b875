//! Which files version control keeps: those are the project's, even where it would ignore new ones of their sort.

use ferngate_model::ProjectPath;
use std::path::Path;
use std::process::{Command, Stdio};

/// The files below `root` that git keeps, as they lie in its index; none where there is no work tree, no git, or where
/// it does not answer. Names that are not UTF-8 are left out.
pub fn tracked(root: &Path) -> Vec<ProjectPath> {
    let root = std::path::absolute(root).unwrap_or_else(|_| root.to_path_buf());
    if !root.ancestors().any(|folder| folder.join(".git").exists()) {
        return Vec::new();
    }
    // A repository may name a program that is told of changes; nobody has asked for that to be run.
    let mut git = Command::new("git");
    git.args(["-c", "core.fsmonitor=false", "ls-files", "-z"]).current_dir(&root);
    let Ok(answer) = git.stdin(Stdio::null()).stderr(Stdio::null()).output() else { return Vec::new() };
    if !answer.status.success() {
        return Vec::new();
    }
    let names = answer.stdout.split(|byte| *byte == 0).filter(|name| !name.is_empty());
    names.filter_map(|name| std::str::from_utf8(name).ok()).map(ProjectPath::new).collect()
}
