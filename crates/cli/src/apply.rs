//! The only writer of the user's files: applies a planned move, journaled, and takes it back.
//!
//! Before the first change everything that the move touches is saved in `.ferngate/moves/N/`, with a journal that
//! lists the steps. A run that is cut short leaves the journal in the state `begun`; the next move or undo then takes
//! the finished steps back first. Each step can be taken back whether or not it was made.

use crate::disk::{Attributes, Disk, beside};
use crate::error::{CommandError, plain};
use ferngate_core::moves::MovePlan;
use ferngate_model::{Name, ProjectPath};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::io;
use std::path::{Path, PathBuf};

/// The folder of journals below the project's root.
const FOLDER: &str = ".ferngate/moves";

/// One step of a move.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Step {
    /// A file gets another path and keeps its bytes.
    Rename { from: String, to: String },
    /// A file gets other bytes, and perhaps another path.
    Replace { from: String, to: String, saved: usize, made: u64, attributes: Attributes },
    /// A file is made.
    Create { path: String, made: u64 },
}

impl Step {
    /// The path that it leaves, if it leaves one.
    fn source(&self) -> Option<&str> {
        match self {
            Self::Rename { from, .. } | Self::Replace { from, .. } => Some(from),
            Self::Create { .. } => None,
        }
    }

    /// The path that it takes.
    fn target(&self) -> &str {
        match self {
            Self::Rename { to, .. } | Self::Replace { to, .. } => to,
            Self::Create { path, .. } => path,
        }
    }
}

/// A journal.
#[derive(Clone, Debug, Serialize, Deserialize)]
struct Journal {
    schema: String,
    /// `begun`, `done` or `undone`.
    state: String,
    /// What was asked for, to show.
    title: String,
    steps: Vec<Step>,
    /// Folders that the move made, outermost first.
    made_folders: Vec<String>,
    /// Folders that the move emptied and removed, outermost first.
    removed_folders: Vec<String>,
}

/// Hashes of the bytes that a plan was made from, by path.
pub type Seen = BTreeMap<ProjectPath, u64>;

/// A hash to see whether bytes are still the same.
pub fn fingerprint(bytes: &[u8]) -> u64 {
    Name::new(bytes).0
}

fn failed(what: &str, path: &Path, error: &io::Error) -> CommandError {
    CommandError::Machine(format!("{} could not be {what}: {}", path.display(), plain(error)))
}

/// Applies `plan`; on any failure everything is put back as it was.
pub fn apply(root: &Path, plan: &MovePlan, seen: &Seen, title: &str) -> Result<(), CommandError> {
    apply_on(&Disk::default(), root, plan, seen, title)
}

fn apply_on(disk: &Disk, root: &Path, plan: &MovePlan, seen: &Seen, title: &str) -> Result<(), CommandError> {
    recover_on(disk, root)?;
    unchanged(root, plan, seen)?;
    let folder = next_folder(disk, root)?;
    let mut journal = prepare(disk, root, plan, &folder, title)?;
    save(disk, &folder, &journal)?;
    let outcome = steps(disk, root, plan, &mut journal, &folder);
    match outcome {
        Ok(()) => {
            journal.state = "done".into();
            save(disk, &folder, &journal)
        }
        Err(error) => {
            take_back(disk, root, &folder, &journal)?;
            journal.state = "undone".into();
            save(disk, &folder, &journal)?;
            Err(error)
        }
    }
}

/// Refuses where a file is not as it was when the plan was made.
fn unchanged(root: &Path, plan: &MovePlan, seen: &Seen) -> Result<(), CommandError> {
    let old: BTreeMap<&ProjectPath, &ProjectPath> =
        plan.renames.iter().map(|(old, new)| (new, old)).collect();
    let created: BTreeSet<&ProjectPath> = plan.created.iter().collect();
    for path in plan.contents.keys().filter(|path| !created.contains(path)) {
        let from = old.get(path).unwrap_or(&path);
        let now = fs::read(root.join(from.as_str())).map(|bytes| fingerprint(&bytes)).ok();
        if now.is_none() || now != seen.get(*from).copied() {
            return Err(CommandError::call_hint(
                format!("{from} has changed since the move was planned; nothing was written"),
                "run the move again",
            ));
        }
    }
    for target in plan.renames.iter().map(|(_, new)| new).chain(&plan.created) {
        if root.join(target.as_str()).exists() && !plan.renames.iter().any(|(old, _)| old == target) {
            return Err(CommandError::call(format!("{target} exists by now; nothing was written")));
        }
        stays_inside(root, target)?;
    }
    Ok(())
}

/// Refuses a target whose folder leads out of the project through a link.
fn stays_inside(root: &Path, target: &ProjectPath) -> Result<(), CommandError> {
    let mut folder = root.join(target.parent());
    while !folder.exists() {
        if !folder.pop() {
            return Ok(());
        }
    }
    match fs::canonicalize(&folder) {
        Ok(real) if real.starts_with(root) => Ok(()),
        _ => Err(CommandError::call(format!("{target} lies behind a link that leads out of the project"))),
    }
}

fn next_folder(disk: &Disk, root: &Path) -> Result<PathBuf, CommandError> {
    let base = root.join(FOLDER);
    disk.make_folders(&base).map_err(|error| failed("made", &base, &error))?;
    let ignore = root.join(".ferngate/.gitignore");
    if !ignore.exists() {
        disk.replace(&ignore, b"*\n", None).map_err(|error| failed("written", &ignore, &error))?;
    }
    let folder = base.join(format!("{:06}", numbers(&base).last().map_or(1, |last| last + 1)));
    disk.make_folders(&folder).map_err(|error| failed("made", &folder, &error))?;
    Ok(folder)
}

fn numbers(base: &Path) -> Vec<u32> {
    let entries = fs::read_dir(base).into_iter().flatten().flatten();
    let mut found: Vec<u32> = entries.filter_map(|entry| entry.file_name().to_str()?.parse().ok()).collect();
    found.sort_unstable();
    found
}

fn prepare(
    disk: &Disk,
    root: &Path,
    plan: &MovePlan,
    folder: &Path,
    title: &str,
) -> Result<Journal, CommandError> {
    let old: BTreeMap<&ProjectPath, &ProjectPath> =
        plan.renames.iter().map(|(old, new)| (new, old)).collect();
    let mut steps = Vec::new();
    let mut copies = 0;
    let mut save_copy = |from: &ProjectPath| {
        let source = root.join(from.as_str());
        let attributes = Attributes::of(&source).map_err(|error| failed("read", &source, &error))?;
        copies += 1;
        let copy = folder.join(copies.to_string());
        disk.copy(&source, &copy).map_err(|error| failed("saved", &source, &error))?;
        Ok::<_, CommandError>((copies, attributes))
    };
    // Where a path is left by one file and taken by another, renaming would overwrite: the bytes are written.
    let taken: BTreeSet<&ProjectPath> = plan.renames.iter().map(|(_, new)| new).collect();
    let is_left = |path: &ProjectPath| plan.renames.iter().any(|(old, _)| old == path);
    for (from, to) in plan.renames.iter().filter(|(_, to)| !plan.contents.contains_key(to)) {
        let (from_text, to_text) = (from.to_string(), to.to_string());
        if taken.contains(from) || is_left(to) {
            let (saved, attributes) = save_copy(from)?;
            let copy = folder.join(saved.to_string());
            let bytes = fs::read(&copy).map_err(|error| failed("read", &copy, &error))?;
            let made = fingerprint(&bytes);
            steps.push(Step::Replace { from: from_text, to: to_text, saved, made, attributes });
        } else {
            steps.push(Step::Rename { from: from_text, to: to_text });
        }
    }
    for (path, bytes) in &plan.contents {
        let made = fingerprint(bytes);
        if plan.created.contains(path) {
            steps.push(Step::Create { path: path.to_string(), made });
            continue;
        }
        let from = old.get(path).unwrap_or(&path);
        let (saved, attributes) = save_copy(from)?;
        steps.push(Step::Replace { from: from.to_string(), to: path.to_string(), saved, made, attributes });
    }
    let schema = "ferngate/move/1".to_owned();
    let (state, title) = ("begun".to_owned(), title.to_owned());
    Ok(Journal { schema, state, title, steps, made_folders: Vec::new(), removed_folders: Vec::new() })
}

fn save(disk: &Disk, folder: &Path, journal: &Journal) -> Result<(), CommandError> {
    let path = folder.join("journal.json");
    let text =
        serde_json::to_vec_pretty(journal).map_err(|error| CommandError::Machine(error.to_string()))?;
    disk.replace(&path, &text, None).map_err(|error| failed("written", &path, &error))
}

fn steps(
    disk: &Disk,
    root: &Path,
    plan: &MovePlan,
    journal: &mut Journal,
    folder: &Path,
) -> Result<(), CommandError> {
    let targets = plan.renames.iter().map(|(_, new)| new).chain(&plan.created);
    let mut wanted: BTreeSet<String> = BTreeSet::new();
    for target in targets {
        for (at, _) in target.as_str().match_indices('/') {
            let parent = &target.as_str()[..at];
            if !root.join(parent).exists() {
                wanted.insert(parent.to_owned());
            }
        }
    }
    journal.made_folders = wanted.into_iter().collect();
    save(disk, folder, journal)?;
    for made in &journal.made_folders {
        let path = root.join(made);
        disk.make_folders(&path).map_err(|error| failed("made", &path, &error))?;
    }
    for step in &journal.steps {
        if let Step::Rename { from, to } = step {
            let (from, to) = (root.join(from), root.join(to));
            disk.rename(&from, &to).map_err(|error| failed("moved", &from, &error))?;
        }
    }
    let written: BTreeSet<&str> = journal.steps.iter().map(Step::target).collect();
    for step in &journal.steps {
        match step {
            Step::Rename { .. } => {}
            Step::Replace { from, to, saved, attributes, .. } => {
                let (old, new) = (root.join(from), root.join(to));
                let written_at = match plan.contents.get(&ProjectPath::new(to)) {
                    Some(bytes) => disk.replace(&new, bytes, Some(attributes.changed_now())),
                    None => fs::read(folder.join(saved.to_string()))
                        .and_then(|bytes| disk.replace(&new, &bytes, Some(*attributes))),
                };
                written_at.map_err(|error| failed("written", &new, &error))?;
                if !written.contains(from.as_str()) {
                    disk.remove(&old).map_err(|error| failed("removed", &old, &error))?;
                }
            }
            Step::Create { path, .. } => {
                let new = root.join(path);
                disk.replace(&new, &plan.contents[&ProjectPath::new(path)], None)
                    .map_err(|error| failed("written", &new, &error))?;
            }
        }
    }
    remove_emptied(disk, root, plan, journal);
    Ok(())
}

/// Folders that the move emptied go.
fn remove_emptied(disk: &Disk, root: &Path, plan: &MovePlan, journal: &mut Journal) {
    let mut left: BTreeSet<String> = BTreeSet::new();
    for (old, _) in &plan.renames {
        let mut folder = old.parent();
        while !folder.is_empty() {
            left.insert(folder.to_owned());
            folder = folder.rfind('/').map_or("", |at| &folder[..at]);
        }
    }
    // Inner folders sort behind outer ones; a folder that is not empty stays, and with it those around it.
    for folder in left.into_iter().rev() {
        if disk.remove_folder(&root.join(&folder)).is_ok() {
            journal.removed_folders.insert(0, folder);
        }
    }
}

/// Takes back every step, made or not.
fn take_back(disk: &Disk, root: &Path, folder: &Path, journal: &Journal) -> Result<(), CommandError> {
    let make = |path: &Path| disk.make_folders(path).map_err(|error| failed("made", path, &error));
    for removed in &journal.removed_folders {
        make(&root.join(removed))?;
    }
    let left: BTreeSet<&str> = journal.steps.iter().filter_map(Step::source).collect();
    for step in journal.steps.iter().rev() {
        if let Step::Rename { from, to } = step {
            let (old, new) = (root.join(from), root.join(to));
            if new.exists() && !old.exists() {
                // A run that was cut short may have removed the folder.
                make(old.parent().unwrap_or(root))?;
                disk.rename(&new, &old).map_err(|error| failed("moved back", &new, &error))?;
            }
        } else if !left.contains(step.target()) {
            let new = root.join(step.target());
            if new.exists() {
                disk.remove(&new).map_err(|error| failed("removed", &new, &error))?;
            }
        }
    }
    for step in &journal.steps {
        if let Step::Replace { from, saved, attributes, .. } = step {
            let old = root.join(from);
            let copy = folder.join(saved.to_string());
            let bytes = fs::read(&copy).map_err(|error| failed("read", &copy, &error))?;
            make(old.parent().unwrap_or(root))?;
            disk.replace(&old, &bytes, Some(*attributes))
                .map_err(|error| failed("restored", &old, &error))?;
        }
    }
    // What was being written when a run was cut short.
    for path in journal.steps.iter().flat_map(|step| step.source().into_iter().chain([step.target()])) {
        let _ = disk.remove(&beside(&root.join(path)));
    }
    for made in journal.made_folders.iter().rev() {
        // A folder that holds something by now is somebody's.
        let _ = disk.remove_folder(&root.join(made));
    }
    Ok(())
}

fn journal(folder: &Path) -> Option<Journal> {
    serde_json::from_slice(&fs::read(folder.join("journal.json")).ok()?).ok()
}

/// Takes back a move that was cut short.
pub fn recover(root: &Path) -> Result<Option<String>, CommandError> {
    recover_on(&Disk::default(), root)
}

fn recover_on(disk: &Disk, root: &Path) -> Result<Option<String>, CommandError> {
    let base = root.join(FOLDER);
    let Some(last) = numbers(&base).last().copied() else { return Ok(None) };
    let folder = base.join(format!("{last:06}"));
    let Some(mut found) = journal(&folder).filter(|journal| journal.state == "begun") else {
        return Ok(None);
    };
    take_back(disk, root, &folder, &found)?;
    found.state = "undone".into();
    save(disk, &folder, &found)?;
    Ok(Some(found.title))
}

/// What was taken back.
pub struct Undone {
    /// The move, as it was asked for.
    pub title: String,
    /// How many files were put back.
    pub files: usize,
}

/// Takes back the last move that was not taken back yet.
pub fn undo(root: &Path, force: bool) -> Result<Option<Undone>, CommandError> {
    undo_on(&Disk::default(), root, force)
}

fn undo_on(disk: &Disk, root: &Path, force: bool) -> Result<Option<Undone>, CommandError> {
    if let Some(title) = recover_on(disk, root)? {
        return Ok(Some(Undone { title, files: 0 }));
    }
    let base = root.join(FOLDER);
    for number in numbers(&base).into_iter().rev() {
        let folder = base.join(format!("{number:06}"));
        let Some(mut found) = journal(&folder) else { continue };
        if found.state != "done" {
            continue;
        }
        if !force {
            untouched(root, &found)?;
        }
        // From here on a run that is cut short is taken up again by the next one.
        found.state = "begun".into();
        save(disk, &folder, &found)?;
        take_back(disk, root, &folder, &found)?;
        found.state = "undone".into();
        save(disk, &folder, &found)?;
        return Ok(Some(Undone { title: found.title, files: found.steps.len() }));
    }
    Ok(None)
}

/// Refuses to take back what somebody has changed since.
fn untouched(root: &Path, journal: &Journal) -> Result<(), CommandError> {
    for step in &journal.steps {
        let (path, same) = match step {
            Step::Rename { to, .. } => (to, root.join(to).exists()),
            Step::Replace { to, made, .. } | Step::Create { path: to, made } => {
                let bytes = fs::read(root.join(to)).ok();
                (to, bytes.is_some_and(|bytes| fingerprint(&bytes) == *made))
            }
        };
        if !same {
            return Err(CommandError::call_hint(
                format!("{path} has changed since the move; nothing was taken back"),
                "--force takes the move back and loses that change",
            ));
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used, reason = "a test may fail loudly")]

    use super::*;
    use std::time::SystemTime;

    type Tree = BTreeMap<String, (Vec<u8>, SystemTime)>;

    /// Files that leave and take each other's places, change where they are, are made, and leave a folder empty.
    fn project() -> (tempfile::TempDir, MovePlan, Seen) {
        let folder = tempfile::tempdir().unwrap();
        let old =
            ["beds/one.cs", "beds/two.cs", "beds/three.cs", "old/plain.cs", "old/changed.cs", "list.xml"];
        let mut seen = Seen::new();
        for path in old {
            let whole = folder.path().join(path);
            fs::create_dir_all(whole.parent().unwrap()).unwrap();
            fs::write(&whole, path).unwrap();
            seen.insert(ProjectPath::new(path), fingerprint(path.as_bytes()));
        }
        let path = ProjectPath::new;
        let renames = [
            ("beds/one.cs", "beds/two.cs"),
            ("beds/two.cs", "beds/one.cs"),
            ("beds/three.cs", "beds/four.cs"),
            ("old/plain.cs", "beds/three.cs"),
            ("old/changed.cs", "new/deep/changed.cs"),
        ];
        let plan = MovePlan {
            renames: renames.iter().map(|(old, new)| (path(old), path(new))).collect(),
            contents: [
                ("beds/one.cs", "two, changed"),
                ("new/deep/changed.cs", "moved"),
                ("list.xml", "listed"),
                ("new/made.cs", "made"),
            ]
            .iter()
            .map(|(name, text)| (path(name), text.as_bytes().to_vec()))
            .collect(),
            created: vec![path("new/made.cs")],
            ..MovePlan::default()
        };
        (folder, plan, seen)
    }

    fn tree(root: &Path) -> Tree {
        let mut found = Tree::new();
        let mut folders = vec![root.to_path_buf()];
        while let Some(folder) = folders.pop() {
            for entry in fs::read_dir(folder).unwrap().flatten() {
                let (path, data) = (entry.path(), entry.metadata().unwrap());
                let name = path.strip_prefix(root).unwrap().display().to_string();
                if name == ".ferngate" {
                } else if data.is_dir() {
                    found.insert(format!("{name}/"), (Vec::new(), SystemTime::UNIX_EPOCH));
                    folders.push(path);
                } else {
                    found.insert(name, (fs::read(&path).unwrap(), data.modified().unwrap()));
                }
            }
        }
        found
    }

    #[test]
    fn files_may_take_each_others_places() {
        let (folder, plan, seen) = project();
        let before = tree(folder.path());
        assert!(apply(folder.path(), &plan, &seen, "exchange").is_ok());
        let after = tree(folder.path());
        let text = |path: &str| String::from_utf8_lossy(&after[path].0).into_owned();
        assert_eq!((text("beds/two.cs"), text("beds/one.cs")), ("beds/one.cs".into(), "two, changed".into()));
        assert_eq!(
            (text("beds/four.cs"), text("beds/three.cs")),
            ("beds/three.cs".into(), "old/plain.cs".into())
        );
        assert!(!after.contains_key("old/"));
        assert!(undo(folder.path(), false).is_ok_and(|undone| undone.is_some()));
        assert_eq!(tree(folder.path()), before);
    }

    #[test]
    fn a_move_that_is_cut_short_anywhere_is_taken_back() {
        for operations in 0.. {
            let (folder, plan, seen) = project();
            let before = tree(folder.path());
            let disk = Disk::failing_after(operations);
            if apply_on(&disk, folder.path(), &plan, &seen, "cut short").is_ok() {
                assert!(operations > 20, "something was done");
                return;
            }
            assert!(recover(folder.path()).is_ok());
            assert_eq!(tree(folder.path()), before, "after {operations} operations");
        }
    }

    #[test]
    fn an_undo_that_is_cut_short_anywhere_is_finished_by_the_next() {
        for operations in 0.. {
            let (folder, plan, seen) = project();
            let before = tree(folder.path());
            assert!(apply(folder.path(), &plan, &seen, "to undo").is_ok());
            let done = undo_on(&Disk::failing_after(operations), folder.path(), false).is_ok();
            if !done {
                assert!(undo(folder.path(), false).is_ok(), "after {operations} operations");
            }
            assert_eq!(tree(folder.path()), before, "after {operations} operations");
            if done {
                assert!(operations > 10, "something was undone");
                return;
            }
        }
    }
}
