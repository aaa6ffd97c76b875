//! The only writer of the user's files: applies a planned move, journaled, and takes it back.
//!
//! Before the first change everything that the move touches is saved in `.ferngate/moves/N/`, with a journal that
//! lists the steps. A run that is cut short leaves the journal in the state `begun`; the next move or undo then takes
//! the finished steps back first. Each step can be taken back whether or not it was made.

use crate::error::{CommandError, plain};
use ferngate_core::moves::MovePlan;
use ferngate_model::{Name, ProjectPath};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

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

/// What a file had besides its bytes.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
struct Attributes {
    /// Permission bits; 0 where the system has none.
    mode: u32,
    /// Time of the last change, in nanoseconds since 1970.
    modified: u64,
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
    recover(root)?;
    unchanged(root, plan, seen)?;
    let folder = next_folder(root)?;
    let mut journal = prepare(root, plan, &folder, title)?;
    save(&folder, &journal)?;
    let outcome = steps(root, plan, &mut journal, &folder);
    match outcome {
        Ok(()) => {
            journal.state = "done".into();
            save(&folder, &journal)
        }
        Err(error) => {
            take_back(root, &folder, &journal)?;
            journal.state = "undone".into();
            save(&folder, &journal)?;
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

fn next_folder(root: &Path) -> Result<PathBuf, CommandError> {
    let base = root.join(FOLDER);
    fs::create_dir_all(&base).map_err(|error| failed("made", &base, &error))?;
    let ignore = root.join(".ferngate/.gitignore");
    if !ignore.exists() {
        fs::write(&ignore, "*\n").map_err(|error| failed("written", &ignore, &error))?;
    }
    let folder = base.join(format!("{:06}", numbers(&base).last().map_or(1, |last| last + 1)));
    fs::create_dir(&folder).map_err(|error| failed("made", &folder, &error))?;
    Ok(folder)
}

fn numbers(base: &Path) -> Vec<u32> {
    let entries = fs::read_dir(base).into_iter().flatten().flatten();
    let mut found: Vec<u32> = entries.filter_map(|entry| entry.file_name().to_str()?.parse().ok()).collect();
    found.sort_unstable();
    found
}

fn prepare(root: &Path, plan: &MovePlan, folder: &Path, title: &str) -> Result<Journal, CommandError> {
    let old: BTreeMap<&ProjectPath, &ProjectPath> =
        plan.renames.iter().map(|(old, new)| (new, old)).collect();
    let mut steps = Vec::new();
    for (from, to) in &plan.renames {
        if !plan.contents.contains_key(to) {
            steps.push(Step::Rename { from: from.to_string(), to: to.to_string() });
        }
    }
    for (saved, (path, bytes)) in plan.contents.iter().enumerate() {
        let made = fingerprint(bytes);
        if plan.created.contains(path) {
            steps.push(Step::Create { path: path.to_string(), made });
            continue;
        }
        let from = old.get(path).unwrap_or(&path);
        let source = root.join(from.as_str());
        let attributes = attributes(&source).map_err(|error| failed("read", &source, &error))?;
        let copy = folder.join(saved.to_string());
        fs::copy(&source, &copy).map_err(|error| failed("saved", &source, &error))?;
        steps.push(Step::Replace { from: from.to_string(), to: path.to_string(), saved, made, attributes });
    }
    let schema = "ferngate/move/1".to_owned();
    let (state, title) = ("begun".to_owned(), title.to_owned());
    Ok(Journal { schema, state, title, steps, made_folders: Vec::new(), removed_folders: Vec::new() })
}

fn save(folder: &Path, journal: &Journal) -> Result<(), CommandError> {
    let path = folder.join("journal.json");
    let text =
        serde_json::to_vec_pretty(journal).map_err(|error| CommandError::Machine(error.to_string()))?;
    replace(&path, &text, None).map_err(|error| failed("written", &path, &error))
}

/// Writes beside `path` and renames, so that either the old or the new bytes are there.
fn replace(path: &Path, bytes: &[u8], attributes: Option<Attributes>) -> io::Result<()> {
    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let beside = path.with_file_name(format!(".{name}.ferngate"));
    let outcome = (|| {
        let mut file = fs::File::create(&beside)?;
        file.write_all(bytes)?;
        if let Some(attributes) = attributes {
            set_mode(&file, attributes.mode)?;
            file.set_modified(SystemTime::UNIX_EPOCH + Duration::from_nanos(attributes.modified))?;
        }
        file.sync_data()?;
        fs::rename(&beside, path)
    })();
    if outcome.is_err() {
        let _ = fs::remove_file(&beside);
    }
    outcome
}

fn attributes(path: &Path) -> io::Result<Attributes> {
    let found = fs::metadata(path)?;
    let since = found.modified()?.duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
    Ok(Attributes { mode: mode(&found), modified: since.as_nanos() as u64 })
}

#[cfg(unix)]
fn mode(found: &fs::Metadata) -> u32 {
    std::os::unix::fs::PermissionsExt::mode(&found.permissions())
}

#[cfg(not(unix))]
fn mode(_: &fs::Metadata) -> u32 {
    0
}

#[cfg(unix)]
fn set_mode(file: &fs::File, mode: u32) -> io::Result<()> {
    file.set_permissions(std::os::unix::fs::PermissionsExt::from_mode(mode))
}

#[cfg(not(unix))]
fn set_mode(_: &fs::File, _: u32) -> io::Result<()> {
    Ok(())
}

fn steps(root: &Path, plan: &MovePlan, journal: &mut Journal, folder: &Path) -> Result<(), CommandError> {
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
    save(folder, journal)?;
    for made in &journal.made_folders {
        let path = root.join(made);
        fs::create_dir_all(&path).map_err(|error| failed("made", &path, &error))?;
    }
    // Paths may be exchanged, so what is renamed first goes out of the way.
    for step in &journal.steps {
        if let Step::Rename { from, to } = step {
            let (from, to) = (root.join(from), root.join(to));
            fs::rename(&from, &to).map_err(|error| failed("moved", &from, &error))?;
        }
    }
    for step in &journal.steps {
        match step {
            Step::Rename { .. } => {}
            Step::Replace { from, to, attributes, .. } => {
                let (old, new) = (root.join(from), root.join(to));
                let bytes = &plan.contents[&ProjectPath::new(to)];
                let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
                let fresh = Attributes { modified: now.as_nanos() as u64, ..*attributes };
                replace(&new, bytes, Some(fresh)).map_err(|error| failed("written", &new, &error))?;
                if old != new {
                    fs::remove_file(&old).map_err(|error| failed("removed", &old, &error))?;
                }
            }
            Step::Create { path, .. } => {
                let new = root.join(path);
                replace(&new, &plan.contents[&ProjectPath::new(path)], None)
                    .map_err(|error| failed("written", &new, &error))?;
            }
        }
    }
    remove_emptied(root, plan, journal);
    Ok(())
}

/// Folders that the move emptied go.
fn remove_emptied(root: &Path, plan: &MovePlan, journal: &mut Journal) {
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
        if fs::remove_dir(root.join(&folder)).is_ok() {
            journal.removed_folders.insert(0, folder);
        }
    }
}

/// Takes back every step, made or not.
fn take_back(root: &Path, folder: &Path, journal: &Journal) -> Result<(), CommandError> {
    for removed in &journal.removed_folders {
        let path = root.join(removed);
        fs::create_dir_all(&path).map_err(|error| failed("made", &path, &error))?;
    }
    for step in journal.steps.iter().rev() {
        match step {
            Step::Rename { from, to } => {
                let (old, new) = (root.join(from), root.join(to));
                if new.exists() && !old.exists() {
                    fs::rename(&new, &old).map_err(|error| failed("moved back", &new, &error))?;
                }
            }
            Step::Replace { from, to, saved, attributes, .. } => {
                let (old, new) = (root.join(from), root.join(to));
                let copy = folder.join(saved.to_string());
                let bytes = fs::read(&copy).map_err(|error| failed("read", &copy, &error))?;
                if old != new && new.exists() {
                    fs::remove_file(&new).map_err(|error| failed("removed", &new, &error))?;
                }
                replace(&old, &bytes, Some(*attributes)).map_err(|error| failed("restored", &old, &error))?;
            }
            Step::Create { path, .. } => {
                let new = root.join(path);
                if new.exists() {
                    fs::remove_file(&new).map_err(|error| failed("removed", &new, &error))?;
                }
            }
        }
    }
    for made in journal.made_folders.iter().rev() {
        // A folder that holds something by now is somebody's.
        let _ = fs::remove_dir(root.join(made));
    }
    Ok(())
}

fn journal(folder: &Path) -> Option<Journal> {
    serde_json::from_slice(&fs::read(folder.join("journal.json")).ok()?).ok()
}

/// Takes back a move that was cut short.
pub fn recover(root: &Path) -> Result<Option<String>, CommandError> {
    let base = root.join(FOLDER);
    let Some(last) = numbers(&base).last().copied() else { return Ok(None) };
    let folder = base.join(format!("{last:06}"));
    let Some(mut found) = journal(&folder).filter(|journal| journal.state == "begun") else {
        return Ok(None);
    };
    take_back(root, &folder, &found)?;
    found.state = "undone".into();
    save(&folder, &found)?;
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
    if let Some(title) = recover(root)? {
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
        take_back(root, &folder, &found)?;
        found.state = "undone".into();
        save(&folder, &found)?;
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
