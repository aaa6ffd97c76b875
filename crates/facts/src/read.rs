//! Reads all files of a walk in parallel.

use crate::languages::{LANGUAGES, language_of, language_of_text};
use crate::manifests::{MANIFESTS, manifest_of};
use crate::walk::Walk;
use ferngate_model::{
    FileFacts, ManifestFacts, Problem, ProjectFacts, ProjectPath, ReadOptions, Recorder, SourceFile, Span,
    plain_blanks,
};
use std::fs::File;
use std::io::{ErrorKind, Read};
use std::path::Path;
use std::sync::atomic::{AtomicUsize, Ordering};

/// A file with a zero byte among its first this many is not text.
const FIRST_PROBE: usize = 512;
/// Nor is one of whose first this many bytes more than one of [`TEXT_PER_ZERO`] is zero.
const LONG_PROBE: usize = 8_000;
/// Code that was made by a program may hold bytes of any sort in a string, but mostly it is text.
const TEXT_PER_ZERO: usize = 32;

/// Most files fit into a buffer of this size.
const SMALLEST_BUFFER: usize = 64 * 1024;
/// Places in a file are told by 32 bits.
const LARGEST_FILE: usize = u32::MAX as usize;

/// A thread takes this many files at a time.
const FILES_AT_ONCE: usize = 8;

/// What a worker keeps from file to file.
#[derive(Default)]
struct Worker {
    recorder: Recorder,
    buffer: Vec<u8>,
}

/// What one file was found to be.
#[derive(Default)]
struct Outcome {
    /// An index into [`LANGUAGES`].
    language: Option<usize>,
    code: Option<(Box<FileFacts>, u64)>,
    manifest: Option<Box<ManifestFacts>>,
    failed: Option<Problem>,
}

/// Reads every code file and manifest of `walk` below `root`.
pub fn read_project(root: &Path, walk: &Walk, options: ReadOptions) -> ProjectFacts {
    let outcomes = read_all(walk, |path, worker| {
        // A manifest may be written in a language that is read too; mostly it is a manifest only.
        let manifest = manifest_of(path);
        let is_code = manifest.is_none_or(|manifest| MANIFESTS[manifest].is_code());
        read_one(root, path, is_code, manifest, options, worker)
    });
    let folder = root.canonicalize().ok();
    let name = folder.as_deref().and_then(Path::file_name).map(|name| name.to_string_lossy().into_owned());
    let mut project = ProjectFacts {
        name: name.unwrap_or_default(),
        problems: walk.problems.clone(),
        ..ProjectFacts::default()
    };
    for (path, outcome) in walk.files.iter().zip(outcomes) {
        let mut facts = None;
        let mut note = |problems: &[Problem]| {
            project.problems.extend(problems.iter().map(|problem| (path.clone(), problem.clone())));
        };
        note(outcome.failed.as_slice());
        // A file of unknown form that names no code says nothing.
        let says =
            |read: &ManifestFacts| read.kind != "list" || !read.mentions.is_empty() || !read.names.is_empty();
        let mut manifest = outcome.manifest;
        if let Some(read) = manifest.as_mut().filter(|_| !options.weak) {
            read.names = Vec::new();
        }
        if let Some(read) = manifest.filter(|read| says(read)) {
            note(&read.problems);
            project.manifests.push(*read);
        }
        if let Some((read, bytes)) = outcome.code {
            note(&read.problems);
            project.bytes += bytes;
            facts = Some(read);
        }
        project.files.push(SourceFile { path: path.clone(), language: outcome.language, facts });
    }
    MANIFESTS.iter().for_each(|reader| reader.settle(&mut project.manifests));
    project
}

/// What `read` says of each file of `walk`, in the walk's order. Each thread takes the next few files as soon as it
/// has none, and keeps its worker to the end: split in halves, one thread would wait for the other's last large files.
fn read_all<T: Send>(walk: &Walk, read: impl Fn(&ProjectPath, &mut Worker) -> T + Sync) -> Vec<T> {
    let next = AtomicUsize::new(0);
    let parts = rayon::broadcast(|_| {
        let (mut worker, mut found) = (Worker::default(), Vec::new());
        loop {
            let start = next.fetch_add(FILES_AT_ONCE, Ordering::Relaxed);
            let Some(files) = walk.files.get(start..) else { return found };
            let files = &files[..files.len().min(FILES_AT_ONCE)];
            found.push((start, files.iter().map(|path| read(path, &mut worker)).collect::<Vec<T>>()));
        }
    });
    let mut parts: Vec<(usize, Vec<T>)> = parts.into_iter().flatten().collect();
    parts.sort_unstable_by_key(|(start, _)| *start);
    parts.into_iter().flat_map(|(_, found)| found).collect()
}

fn read_one(
    root: &Path,
    path: &ProjectPath,
    is_code: bool,
    manifest: Option<usize>,
    options: ReadOptions,
    worker: &mut Worker,
) -> Outcome {
    let extension = if is_code { path.extension() } else { "" };
    let language = language_of(extension);
    if language.is_none() && manifest.is_none() {
        return Outcome::default();
    }
    let text = match load(&root.join(path.as_str()), &mut worker.buffer) {
        Ok(length) => &mut worker.buffer[..length],
        Err(error) => return failed(language, format!("could not be read: {error}")),
    };
    if is_binary(text) {
        return failed(language, "is not text; left out".into());
    }
    let manifest = manifest.map(|manifest| Box::new(MANIFESTS[manifest].read(path, text)));
    let language = language_of_text(extension, text);
    let code = language.map(|language| {
        plain_blanks(text);
        worker.recorder.begin(text.len(), options);
        LANGUAGES[language].read(text, &mut worker.recorder);
        let mut facts = worker.recorder.finish();
        facts.lines = count_lines(text);
        (Box::new(facts), text.len() as u64)
    });
    Outcome { language, code, manifest, failed: None }
}

fn failed(language: Option<usize>, text: String) -> Outcome {
    Outcome { language, failed: Some(Problem { span: Span::default(), text }), ..Outcome::default() }
}

/// Whether `text` holds a zero byte near its start, or many of them, and is not UTF-16 with a mark.
pub fn is_binary(text: &[u8]) -> bool {
    let marked = text.starts_with(&[0xFF, 0xFE]) || text.starts_with(&[0xFE, 0xFF]);
    let probe = &text[..text.len().min(LONG_PROBE)];
    match memchr::memchr(0, probe) {
        Some(first) if !marked => {
            first < FIRST_PROBE || memchr::memchr_iter(0, probe).count() > probe.len() / TEXT_PER_ZERO
        }
        _ => false,
    }
}

/// Line ends, plus one for a last line without an end.
pub fn count_lines(text: &[u8]) -> u32 {
    let ends = memchr::memchr_iter(b'\n', text).count() as u32;
    ends + u32::from(text.last().is_some_and(|&byte| byte != b'\n'))
}

/// Reads a file into `buffer`, which only grows, and returns how many of its bytes are the file's.
fn load(path: &Path, buffer: &mut Vec<u8>) -> std::io::Result<usize> {
    let mut file = File::open(path)?;
    let mut filled = 0;
    loop {
        if filled == buffer.len() {
            buffer.resize((filled * 2).max(SMALLEST_BUFFER), 0);
        }
        match file.read(&mut buffer[filled..]) {
            Ok(0) => return Ok(filled),
            Ok(read) => filled += read,
            Err(error) if error.kind() == ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
        if filled > LARGEST_FILE {
            return Err(std::io::Error::other("it is larger than 4 GiB"));
        }
    }
}
