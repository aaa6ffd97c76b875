//! Reads all files of a walk in parallel.

use crate::languages::{LANGUAGES, language_of};
use crate::manifests::{MANIFESTS, manifest_of};
use crate::walk::Walk;
use ferngate_model::{
    FileFacts, ManifestFacts, Problem, ProjectFacts, ProjectPath, ReadOptions, Recorder, SourceFile, Span,
};
use rayon::prelude::*;
use std::fs::File;
use std::io::Read;
use std::path::Path;

/// A file with a zero byte among its first this many is not text.
const BINARY_PROBE: usize = 8_000;

/// What a worker keeps from file to file.
#[derive(Default)]
struct Worker {
    recorder: Recorder,
    buffer: Vec<u8>,
}

enum Outcome {
    Other,
    Code(Box<FileFacts>, u64),
    Manifest(Box<ManifestFacts>),
    Failed(Problem),
}

/// Reads every code file and manifest of `walk` below `root`.
pub fn read_project(root: &Path, walk: &Walk, options: ReadOptions) -> ProjectFacts {
    let outcomes: Vec<(Option<usize>, Outcome)> = walk
        .files
        .par_iter()
        .map_init(Worker::default, |worker, path| {
            // A manifest may be written in a language that is read too; then it is a manifest.
            let manifest = manifest_of(path.file_name());
            let language = if manifest.is_some() { None } else { language_of(path.extension()) };
            (language, read_one(root, path, language, manifest, options, worker))
        })
        .collect();
    let folder = root.canonicalize().ok();
    let name = folder.as_deref().and_then(Path::file_name).map(|name| name.to_string_lossy().into_owned());
    let mut project = ProjectFacts {
        name: name.unwrap_or_default(),
        problems: walk.problems.clone(),
        ..ProjectFacts::default()
    };
    for (path, (language, outcome)) in walk.files.iter().zip(outcomes) {
        let mut facts = None;
        match outcome {
            Outcome::Other => {}
            Outcome::Code(read, bytes) => {
                project.bytes += bytes;
                project.problems.extend(read.problems.iter().map(|problem| (path.clone(), problem.clone())));
                facts = Some(*read);
            }
            Outcome::Manifest(read) => {
                project.problems.extend(read.problems.iter().map(|problem| (path.clone(), problem.clone())));
                project.manifests.push(*read);
            }
            Outcome::Failed(problem) => project.problems.push((path.clone(), problem)),
        }
        project.files.push(SourceFile { path: path.clone(), language, facts });
    }
    project
}

fn read_one(
    root: &Path,
    path: &ProjectPath,
    language: Option<usize>,
    manifest: Option<usize>,
    options: ReadOptions,
    worker: &mut Worker,
) -> Outcome {
    if language.is_none() && manifest.is_none() {
        return Outcome::Other;
    }
    if let Err(error) = load(&root.join(path.as_str()), &mut worker.buffer) {
        return failed(format!("could not be read: {error}"));
    }
    let text = &worker.buffer[..];
    if is_binary(text) {
        return failed("is not text; left out".into());
    }
    if let Some(manifest) = manifest {
        return Outcome::Manifest(Box::new(MANIFESTS[manifest].read(path, text)));
    }
    let Some(language) = language else { return Outcome::Other };
    worker.recorder.begin(text.len(), options);
    LANGUAGES[language].read(text, &mut worker.recorder);
    let mut facts = worker.recorder.finish();
    facts.lines = count_lines(text);
    Outcome::Code(Box::new(facts), text.len() as u64)
}

fn failed(text: String) -> Outcome {
    Outcome::Failed(Problem { span: Span::default(), text })
}

/// Whether `text` holds a zero byte near its start and is not UTF-16 with a mark.
pub fn is_binary(text: &[u8]) -> bool {
    let marked = text.starts_with(&[0xFF, 0xFE]) || text.starts_with(&[0xFE, 0xFF]);
    !marked && memchr::memchr(0, &text[..text.len().min(BINARY_PROBE)]).is_some()
}

/// Line ends, plus one for a last line without an end.
pub fn count_lines(text: &[u8]) -> u32 {
    let ends = memchr::memchr_iter(b'\n', text).count() as u32;
    ends + u32::from(text.last().is_some_and(|&byte| byte != b'\n'))
}

/// Reads a file into `buffer`, which keeps its allocation.
fn load(path: &Path, buffer: &mut Vec<u8>) -> std::io::Result<()> {
    buffer.clear();
    let mut file = File::open(path)?;
    if buffer.capacity() < 64 * 1024 {
        buffer.reserve(64 * 1024);
    }
    file.read_to_end(buffer)?;
    Ok(())
}
