//! The parts of a run, timed on their own: `cargo bench -p ferngate --bench parts`. Whole processes are compared by `benches/run`.

#![allow(
    clippy::unwrap_used,
    missing_docs,
    reason = "a benchmark may fail loudly, and its group is made by a macro"
)]

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use ferngate_core::resolve::World;
use ferngate_facts::languages::{LANGUAGES, language_of};
use ferngate_model::{ProjectFacts, ProjectPath, ReadOptions, Recorder, SourceFile};
use std::fmt::Write;
use std::hint::black_box;
use std::path::Path;

/// The fixtures of each language, read as one text again and again.
fn reading(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("read");
    let fixtures = Path::new(env!("CARGO_MANIFEST_DIR")).join("demo/mossgrove");
    let walk = ferngate_facts::walk(&fixtures);
    for (at, language) in LANGUAGES.iter().enumerate() {
        let own = walk.files.iter().filter(|path| language_of(path.extension()) == Some(at));
        let texts: Vec<Vec<u8>> =
            own.map(|path| std::fs::read(fixtures.join(path.as_str())).unwrap()).collect();
        let bytes: usize = texts.iter().map(Vec::len).sum();
        if bytes == 0 {
            continue;
        }
        group.throughput(Throughput::Bytes(bytes as u64));
        group.bench_function(language.name(), |bencher| {
            let mut recorder = Recorder::default();
            bencher.iter(|| {
                for text in &texts {
                    recorder.begin(text.len(), ReadOptions::default());
                    language.read(text, &mut recorder);
                    black_box(recorder.finish());
                }
            });
        });
    }
    group.finish();
}

/// A project of `files` classes, each of which uses a few others by name and by member.
fn garden(files: usize) -> ProjectFacts {
    let language = language_of("cs").unwrap();
    let mut project = ProjectFacts::default();
    for at in 0..files {
        let mut text = format!("using Moss.Beds{};\nnamespace Moss.Beds{} {{\n", (at * 7) % 40, at % 40);
        writeln!(text, "  public class Bed{at} : Plot{} {{", at % 40).unwrap();
        for use_of in 0..6 {
            let other = (at * 13 + use_of * 101) % files;
            writeln!(
                text,
                "    public Moss.Beds{}.Bed{other} Next{use_of}() {{ return Next{}().Next0(); }}",
                other % 40,
                (use_of + 1) % 6
            )
            .unwrap();
        }
        write!(text, "  }}\n  public class Plot{at} {{ }}\n}}\n").unwrap();
        let facts = LANGUAGES[language].facts(text.as_bytes(), ReadOptions::default());
        let path = ProjectPath::new(&format!("beds{}/Bed{at:05}.cs", at % 40));
        project.files.push(SourceFile { path, language: Some(language), facts: Some(Box::new(facts)) });
    }
    project.files.sort_by(|a, b| a.path.cmp(&b.path));
    project
}

/// Twice the files must not take more than twice the time.
fn resolving(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("resolve");
    group.sample_size(20);
    for files in [500, 1_000, 2_000, 4_000] {
        let project = garden(files);
        group.throughput(Throughput::Elements(files as u64));
        group.bench_with_input(BenchmarkId::from_parameter(files), &project, |bencher, project| {
            bencher.iter(|| black_box(World::new(project, LANGUAGES).file_ties().0.len()));
        });
    }
    group.finish();
}

criterion_group!(parts, reading, resolving);
criterion_main!(parts);
