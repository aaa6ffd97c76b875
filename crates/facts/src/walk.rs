//! Finds the project's files: what version control ignores, hidden folders and built output are left out; what it keeps
//! is not.

use crate::linking::{parent, upwards};
use crate::manifests::MANIFESTS;
use crate::tracked::tracked;
use ferngate_model::{Problem, ProjectPath, Span};
use ignore::gitignore::Gitignore;
use ignore::{Match, WalkBuilder, WalkState};
use rustc_hash::FxHashMap;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError, mpsc};

/// Folder names that hold other people's code or built files wherever they stand.
const VENDORED: &[&str] = &["node_modules", "bower_components"];
/// Folder names that hold built files where a manifest of this extension lies beside them.
const BUILT: &[(&str, &str)] = &[("bin", "csproj"), ("obj", "csproj")];

/// The files of a project.
#[derive(Debug, Default)]
pub struct Walk {
    /// Paths, sorted.
    pub files: Vec<ProjectPath>,
    /// Folders that were left out though version control does not ignore them, sorted.
    pub skipped: Vec<ProjectPath>,
    /// Folders and names that could not be read.
    pub problems: Vec<(ProjectPath, Problem)>,
}

enum Entry {
    File(ProjectPath),
    Skipped(ProjectPath),
    Problem(ProjectPath, String),
}

/// Lists the files below `root`, in parallel; symbolic links are not followed.
pub fn walk(root: &Path) -> Walk {
    let kept_below = root.to_path_buf();
    let kept = std::thread::spawn(move || tracked(&kept_below));
    let (sender, receiver) = mpsc::channel();
    let filter_sender = sender.clone();
    let filter_root = root.to_path_buf();
    let mut builder = WalkBuilder::new(root);
    builder.require_git(false).threads(std::thread::available_parallelism().map_or(2, usize::from));
    builder.filter_entry(move |entry| {
        // A list of what is ignored may say of a hidden folder that it is not; it is hidden all the same.
        if entry.depth() > 0 && entry.file_name().as_encoded_bytes().starts_with(b".") {
            return false;
        }
        let name = entry.file_name().to_str().unwrap_or_default();
        let vendored = VENDORED.contains(&name) || is_filled(name, entry.path());
        if vendored && let Ok(path) = project_path(&filter_root, entry.path()) {
            let _ = filter_sender.send(Entry::Skipped(path));
        }
        !vendored
    });
    builder.build_parallel().run(|| {
        let (sender, root) = (sender.clone(), root.to_path_buf());
        Box::new(move |entry| {
            if let Some(entry) = classify(&root, entry) {
                // The receiver outlives the walk, so sending cannot fail.
                let _ = sender.send(entry);
            }
            WalkState::Continue
        })
    });
    drop((sender, builder));
    let mut walk = Walk::default();
    for entry in receiver {
        match entry {
            Entry::File(path) => walk.files.push(path),
            Entry::Skipped(path) => walk.skipped.push(path),
            Entry::Problem(path, text) => walk.problems.push((path, Problem { span: Span::default(), text })),
        }
    }
    walk.files.sort_unstable();
    let foreign = walk.skipped.clone();
    leave_out_built(&mut walk);
    add_kept(&mut walk, root, &foreign, kept.join().unwrap_or_default());
    walk.skipped.sort_unstable();
    walk.problems.sort_by(|a, b| a.0.cmp(&b.0));
    walk
}

/// Whether a tool has put other people's code into the folder `name` at `path`.
fn is_filled(name: &str, path: &Path) -> bool {
    let first_inside = || std::fs::read_dir(path).ok()?.flatten().find(|inside| inside.path().is_dir());
    let is_left = |file: &str| match file.strip_prefix("*/") {
        Some(file) => first_inside().is_some_and(|inside| inside.path().join(file).is_file()),
        None => path.join(file).is_file(),
    };
    let filled = MANIFESTS.iter().flat_map(|reader| reader.filled_folders());
    filled.filter(|(folder, _)| *folder == name).any(|(_, file)| is_left(file))
}

/// Whether `path` below `root` lies in a folder that tools fill with other people's code, and have not filled yet.
pub fn is_to_be_filled(root: &Path, path: &ProjectPath) -> bool {
    let filled = || MANIFESTS.iter().flat_map(|reader| reader.filled_folders()).map(|(folder, _)| *folder);
    let is_filled = |name: &str| VENDORED.contains(&name) || filled().any(|folder| folder == name);
    let ends = path.as_str().match_indices('/').map(|(at, _)| at).chain([path.as_str().len()]);
    let mut folders = ends.map(|end| &path.as_str()[..end]);
    let filled = folders.find(|folder| is_filled(folder.rsplit('/').next().unwrap_or(folder)));
    filled.is_some_and(|folder| !root.join(folder).exists())
}

/// Adds what version control keeps though it would ignore it, as a package called `target`, but nothing in the folders
/// with `foreign` code.
fn add_kept(walk: &mut Walk, root: &Path, foreign: &[ProjectPath], kept: Vec<ProjectPath>) {
    let is_hidden = |part: &str| part.starts_with('.') || VENDORED.contains(&part);
    let is_missed = |path: &ProjectPath| {
        walk.files.binary_search(path).is_err()
            && !path.as_str().split('/').any(is_hidden)
            && !foreign.iter().any(|folder| path.is_within(folder.as_str()))
            && root.join(path.as_str()).symlink_metadata().is_ok_and(|found| found.is_file())
    };
    let missed: Vec<ProjectPath> = kept.into_iter().filter(is_missed).collect();
    if missed.is_empty() {
        return;
    }
    walk.skipped.retain(|folder| !missed.iter().any(|path| path.is_within(folder.as_str())));
    walk.files.extend(missed);
    walk.files.sort_unstable();
}

fn classify(root: &Path, entry: Result<ignore::DirEntry, ignore::Error>) -> Option<Entry> {
    match entry {
        Ok(entry) if entry.file_type().is_some_and(|kind| kind.is_file()) => {
            Some(match project_path(root, entry.path()) {
                Ok(path) => Entry::File(path),
                Err(shown) => {
                    Entry::Problem(ProjectPath::new(&shown), "the name is not UTF-8; left out".into())
                }
            })
        }
        Ok(_) => None,
        Err(error) => {
            let shown = error.to_string();
            Some(Entry::Problem(ProjectPath::new(""), format!("could not be listed: {shown}")))
        }
    }
}

fn project_path(root: &Path, path: &Path) -> Result<ProjectPath, String> {
    let relative = path.strip_prefix(root).unwrap_or(path);
    match relative.to_str() {
        Some(text) if std::path::MAIN_SEPARATOR == '/' => Ok(ProjectPath::new(text)),
        Some(text) => Ok(ProjectPath::new(&text.replace(std::path::MAIN_SEPARATOR, "/"))),
        None => Err(relative.to_string_lossy().into_owned()),
    }
}

/// What version control ignores below a folder, asked for single paths, whether or not something lies there.
#[derive(Debug)]
pub struct Ignored {
    root: PathBuf,
    /// What the `.gitignore` of each folder says that was asked about.
    rules: Mutex<FxHashMap<String, Gitignore>>,
}

impl Ignored {
    /// Of the project in `root`; nothing is read yet.
    pub fn new(root: &Path) -> Self {
        Self { root: root.to_path_buf(), rules: Mutex::default() }
    }

    /// Whether `path` or a folder around it is ignored: of each the nearest `.gitignore` that names it decides, and what is
    /// below an ignored folder stays ignored. One that cannot be read says nothing.
    pub fn covers(&self, path: &ProjectPath) -> bool {
        let mut rules = self.rules.lock().unwrap_or_else(PoisonError::into_inner);
        let text = path.as_str();
        let folders = text.match_indices('/').map(|(at, _)| (&text[..at], true));
        folders.chain([(text, false)]).any(|(part, is_folder)| {
            let mut says = |folder: &str| {
                let known = rules.entry(folder.to_owned()).or_insert_with(|| self.read(folder));
                match known.matched(self.root.join(part), is_folder) {
                    Match::Ignore(_) => Some(true),
                    Match::Whitelist(_) => Some(false),
                    Match::None => None,
                }
            };
            upwards(parent(part)).find_map(&mut says).unwrap_or_default()
        })
    }

    fn read(&self, folder: &str) -> Gitignore {
        let file = self.root.join(folder).join(".gitignore");
        if file.is_file() { Gitignore::new(file).0 } else { Gitignore::empty() }
    }
}

/// Takes out `bin` and `obj` beside a project file.
fn leave_out_built(walk: &mut Walk) {
    let mut built: Vec<String> = Vec::new();
    for path in &walk.files {
        for (folder, extension) in BUILT {
            if path.extension().eq_ignore_ascii_case(extension) {
                built.push(if path.parent().is_empty() {
                    (*folder).into()
                } else {
                    format!("{}/{folder}", path.parent())
                });
            }
        }
    }
    if built.is_empty() {
        return;
    }
    built.sort_unstable();
    let holder = |path: &ProjectPath| {
        let text = path.as_str();
        text.match_indices('/')
            .map(|(at, _)| &text[..at])
            .find(|folder| built.binary_search_by(|b| b.as_str().cmp(folder)).is_ok())
            .map(ProjectPath::new)
    };
    let mut skipped: Vec<ProjectPath> = Vec::new();
    walk.files.retain(|path| match holder(path) {
        Some(folder) => {
            skipped.push(folder);
            false
        }
        None => true,
    });
    skipped.dedup();
    walk.skipped.extend(skipped);
}
