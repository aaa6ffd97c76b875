//! Moves that nobody chose: something to move, and where to.

use super::Snapshot;
use super::numbers::Numbers;
use std::path::{Path, PathBuf};

/// The folder of real code that is asked for, how many moves are to be made of it, and which.
pub fn asked() -> (PathBuf, u64, u64) {
    let folder = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let number = |name: &str| std::env::var(name).ok().and_then(|text| text.parse::<u64>().ok());
    let (moves, seed) = (number("FERNGATE_CORPUS_MOVES"), number("FERNGATE_CORPUS_SEED"));
    (folder.into(), moves.unwrap_or(40), seed.unwrap_or(1))
}

/// What can be moved, and where to.
pub struct Choice {
    files: Vec<String>,
    folders: Vec<String>,
    /// Full names of types, as `move` takes them.
    names: Vec<String>,
}

impl Choice {
    /// The code in `files` of a project as it is, and its folders.
    pub fn new(snapshot: &Snapshot, files: Vec<String>) -> Self {
        let texts = files.iter().map(|path| String::from_utf8_lossy(&snapshot[path].0).into_owned());
        // Only of files that declare several types: of the others the file is moved.
        let names = texts.map(|text| declared(&text)).filter(|all| all.len() > 1).flatten().collect();
        let folders = snapshot.keys().filter_map(|path| path.strip_suffix('/'));
        let holds = |folder: &&str| files.iter().any(|file| file.starts_with(&format!("{folder}/")));
        let folders = folders.filter(holds).map(str::to_owned).collect();
        Self { files, folders, names }
    }

    /// The arguments of one move that is to be made; several planned together are a list in `folder`.
    pub fn call(&self, numbers: &mut Numbers, folder: &Path) -> Vec<String> {
        let mut call = ["move", "--apply", "--widen"].map(str::to_owned).to_vec();
        if !numbers.next().is_multiple_of(5) {
            call.extend(self.sources(numbers));
            call.push(self.target(numbers));
            return call;
        }
        let lines = (0..2 + numbers.next() % 3).map(|_| {
            let sources = self.sources(numbers);
            format!("{} -> {}\n", sources[0], self.target(numbers))
        });
        let lines: String = lines.collect();
        let list = folder.join("moves.txt");
        std::fs::write(&list, lines).unwrap();
        call.extend(["--list".to_owned(), list.display().to_string()]);
        call
    }

    fn sources(&self, numbers: &mut Numbers) -> Vec<String> {
        match numbers.next() % 6 {
            4 | 5 if !self.names.is_empty() => vec![numbers.of(&self.names).clone()],
            0 if !self.folders.is_empty() => vec![numbers.of(&self.folders).clone()],
            1 => {
                let mut chosen: Vec<String> = (0..3).map(|_| numbers.of(&self.files).clone()).collect();
                chosen.sort();
                chosen.dedup();
                chosen
            }
            _ => vec![numbers.of(&self.files).clone()],
        }
    }

    fn target(&self, numbers: &mut Numbers) -> String {
        match numbers.next() % 8 {
            0 => "Moved/Deep/Er/".to_owned(),
            1 => "./".to_owned(),
            _ if self.folders.is_empty() => "Moved/".to_owned(),
            2 => format!("{}/Moved/", numbers.of(&self.folders)),
            _ => format!("{}/", numbers.of(&self.folders)),
        }
    }
}

/// What a call does, for a message: with the lines of its list.
pub fn told(call: &[String]) -> String {
    let list = call.iter().position(|word| word == "--list").and_then(|at| call.get(at + 1));
    let lines = list.and_then(|path| std::fs::read_to_string(path).ok()).unwrap_or_default();
    format!("{} {}", call.join(" "), lines.replace('\n', "; "))
}

/// The full names of what a text declares, by its lines: nested types may be among them, which cannot be moved alone.
fn declared(text: &str) -> Vec<String> {
    let word_after = |line: &str, word: &str| {
        let rest = line.split_once(word)?.1;
        let end = rest.find(|c: char| !c.is_alphanumeric() && !matches!(c, '_' | '.')).unwrap_or(rest.len());
        (end > 0).then(|| rest[..end].to_owned())
    };
    let mut namespace = String::new();
    let mut found = Vec::new();
    for line in text.lines().map(str::trim_start).filter(|line| !line.starts_with(['/', '*', '#'])) {
        if let Some(name) = line.strip_prefix("namespace").and_then(|_| word_after(line, "namespace ")) {
            namespace = name;
        }
        let kinds = ["class ", "struct ", "interface ", "enum "];
        let name = kinds.iter().find_map(|kind| word_after(line, kind));
        found.extend(name.map(|name| format!("name:{namespace}.{name}")));
    }
    found
}
