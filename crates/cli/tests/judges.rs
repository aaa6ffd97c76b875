//! The graph, file to file, against each language's own compiler or parser: on the demo, on small projects of shapes
//! that fool readers of text, and on real code where `FERNGATE_CORPUS_DIR` names a folder of it.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::print_stdout,
    dead_code,
    reason = "a test may fail loudly"
)]

mod common;

use common::Project;
use common::scores::{Score, Tie, exact, judge_source, ours, run, score, truth};
use std::path::{Path, PathBuf};
use std::process::Command;

fn java(root: &Path) -> Score {
    let out = tempfile::tempdir().unwrap();
    run(Command::new("javac").arg("-d").arg(out.path()).arg(judge_source("JavaJudge.java")));
    let said = run(Command::new("java").arg("-cp").arg(out.path()).arg("JavaJudge").arg(root));
    score(&ours(root, ".java"), &truth(&said), |_| true)
}

#[test]
#[cfg_attr(not(has_javac), ignore = "needs javac")]
fn java_shapes_are_understood_as_the_compiler_does() {
    exact(&java(Project::copy_of("tests/fixtures/java").root()));
    exact(&java(Project::copy_of("demo/mossgrove/irrigation").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn java_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let score = java(Path::new(&root));
    assert!(score.recall >= 0.999, "{:#?}", score.missed);
    assert!(score.precision >= 0.995, "{:#?}", score.surplus);
}

const KOTLIN: &str = "/usr/share/kotlin/kotlinc/lib";

/// Asks the compiler's own analysis, with Java beside it; what a class inherits from several others may be any of them.
fn kotlin(root: &Path) -> Score {
    let out = tempfile::tempdir().unwrap();
    let library = |name: &str| format!("{KOTLIN}/{name}.jar");
    let libraries = [
        "kotlin-compiler",
        "kotlin-stdlib",
        "kotlin-reflect",
        "kotlin-script-runtime",
        "trove4j",
        "annotations-13.0",
    ];
    let mut path = libraries.map(library).join(":");
    run(Command::new("javac")
        .args(["-cp", &path, "-d"])
        .arg(out.path())
        .arg(judge_source("KotlinJudge.java")));
    path = format!("{}:{path}", out.path().display());
    // The compiler's classes come from several compilers, and not all of them pass today's verifier.
    let mut judge = Command::new("java");
    judge.args(["-Xmx4g", "-Xverify:none", "-cp", &path, "KotlinJudge"]).arg(root);
    let said = run(judge.arg(library("kotlin-stdlib")));
    let ours = ours(root, ".kt");
    let judged: String = said
        .lines()
        .filter(|line| line.split('\t').nth(2).is_some_and(|to| to.ends_with(".kt")))
        .fold(String::new(), |all, line| all + line + "\n");
    score(&ours, &truth(&judged), |sort| sort != "several")
}

#[test]
#[cfg_attr(not(all(has_javac, has_kotlin)), ignore = "needs javac and the Kotlin compiler")]
fn kotlin_shapes_are_understood_as_the_compiler_does() {
    exact(&kotlin(Project::copy_of("tests/fixtures/kotlin").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn kotlin_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let score = kotlin(Path::new(&root));
    assert!(score.recall >= 0.97, "{:#?}", score.missed);
    assert!(score.precision >= 0.98, "{:#?}", score.surplus);
}

fn php(root: &Path) -> Score {
    let mut command = Command::new("php");
    let said = run(command.args(["-d", "memory_limit=-1"]).arg(judge_source("judge.php")).arg(root));
    // Of a class that several files declare, one is meant; the judge does not say which.
    let sorts = said.lines().map(|line| match line.rsplit_once('\t') {
        Some((tie, "1")) => format!("{tie}\n"),
        _ => format!("several\t{}\n", line.split_once('\t').map_or("", |(_, tie)| tie)),
    });
    let mut judged = truth(&sorts.collect::<String>());
    // The judge does not follow paths, nor constants that a call of `define` declares.
    let own = ours(root, ".php");
    let spelled = |(from, to): &&Tie| {
        let text =
            |path: &str| String::from_utf8_lossy(&std::fs::read(root.join(path)).unwrap()).into_owned();
        let name = Path::new(to).file_name().unwrap().to_string_lossy().into_owned();
        let by_path =
            text(from).lines().any(|l| (l.contains("require") || l.contains("include")) && l.contains(&name));
        by_path || text(to).contains("define(")
    };
    let not_judged: Vec<Tie> =
        own.iter().filter(|tie| !judged.contains_key(*tie)).filter(spelled).cloned().collect();
    for tie in not_judged {
        judged.entry(tie).or_default().insert(("path".into(), String::new()));
    }
    score(&own, &judged, |sort| !matches!(sort, "path" | "several"))
}

#[test]
#[cfg_attr(not(all(has_php, has_php_parser)), ignore = "needs php and php-parser")]
fn php_shapes_are_understood_as_a_parser_does() {
    exact(&php(Project::copy_of("tests/fixtures/php").root()));
    exact(&php(Project::copy_of("demo/mossgrove/letters").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn php_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let score = php(Path::new(&root));
    assert!(score.recall >= 0.999, "{:#?}", score.missed);
    assert!(score.precision >= 0.995, "{:#?}", score.surplus);
}

fn sources(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            sources(&path, found);
        } else if path.extension().is_some_and(|extension| extension == "cs") {
            found.push(path);
        }
    }
}

/// Builds what lies below `root` and asks its assembly, with the debugging symbols, which file uses what of which.
fn csharp(root: &Path, arguments: &[&str]) -> Score {
    let root = std::fs::canonicalize(root).unwrap();
    let out = tempfile::tempdir().unwrap();
    let mut files = Vec::new();
    sources(&root, &mut files);
    let list = out.path().join("sources.txt");
    let lines: Vec<String> = files.iter().map(|path| path.display().to_string()).collect();
    std::fs::write(&list, lines.join("\n")).unwrap();
    let assembly = out.path().join("Mossgrove.dll");
    let mut compiler = Command::new("mcs");
    compiler.args(["-target:library", "-debug", "-nologo", "-unsafe", "-langversion:7.2"]).args(arguments);
    run(compiler.arg(format!("-out:{}", assembly.display())).args(&files));
    let judge = out.path().join("judge.exe");
    for library in ["Mono.Cecil.dll", "Mono.Cecil.Mdb.dll"] {
        std::fs::copy(Path::new("/usr/lib/mono-cecil").join(library), out.path().join(library)).unwrap();
    }
    let mut compiler = Command::new("mcs");
    compiler
        .arg("-nologo")
        .arg(format!("-lib:{}", out.path().display()))
        .arg(format!("-out:{}", judge.display()));
    run(compiler.args(["-r:Mono.Cecil.dll", "-r:Mono.Cecil.Mdb.dll"]).arg(judge_source("CSharpJudge.cs")));
    let said = run(Command::new("mono").arg(&judge).arg(&assembly).arg(&root).arg(&list));
    score(&ours(&root, ".cs"), &truth(&said), |sort| !matches!(sort, "inferred" | "overridden"))
}

#[test]
#[cfg_attr(not(all(has_mcs, has_cecil)), ignore = "needs mcs and Mono.Cecil")]
fn csharp_of_the_demo_is_understood_as_the_compiler_does() {
    let score = csharp(Project::copy_of("demo/mossgrove").root(), &[]);
    assert!(score.missed.is_empty(), "{:#?}", score.missed);
}

/// Asks the compiler that its makers publish as a library what each name means; `FERNGATE_CORPUS_COMPILER` is the folder
/// with it and with what it needs to run.
fn csharp_names(root: &Path) -> Score {
    let compiler =
        std::env::var("FERNGATE_CORPUS_COMPILER").expect("FERNGATE_CORPUS_COMPILER names a folder");
    let out = tempfile::tempdir().unwrap();
    let copied = run(Command::new("cp").args(["-r", &format!("{compiler}/.")]).arg(out.path()));
    assert!(copied.is_empty(), "{copied}");
    let judge = out.path().join("judge.exe");
    let mut build = Command::new("mcs");
    build.args(["-nologo", "-warn:0", "-langversion:7.2"]).arg(format!("-lib:{}", out.path().display()));
    let libraries = [
        "netstandard",
        "System.Collections.Immutable",
        "Microsoft.CodeAnalysis",
        "Microsoft.CodeAnalysis.CSharp",
    ];
    build.args(libraries.map(|library| format!("-r:{library}.dll"))).arg(format!("-out:{}", judge.display()));
    run(build.arg(judge_source("NamesJudge.cs")));
    let root = std::fs::canonicalize(root).unwrap();
    let said = run(Command::new("mono").arg(&judge).arg(&root).arg("/usr/lib/mono/4.5"));
    score(&ours(&root, ".cs"), &truth(&said), |sort| sort == "name")
}

#[test]
#[ignore = "needs FERNGATE_CORPUS_COMPILER"]
fn names_of_the_demo_in_csharp() {
    exact(&csharp_names(Project::copy_of("demo/mossgrove").root()));
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR, and FERNGATE_CORPUS_COMPILER"]
fn names_of_real_code_in_csharp() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let score = csharp_names(Path::new(&root));
    assert!(score.recall >= 0.995, "{:#?}", score.missed);
    assert!(score.precision >= 0.995, "{:#?}", score.surplus);
}

/// Of constants, of what only comments name, and of base types of base types an assembly says nothing, so the surplus is
/// no error.
#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR, and the compiler's arguments in FERNGATE_CORPUS_BUILD"]
fn csharp_of_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let build = std::env::var("FERNGATE_CORPUS_BUILD").unwrap_or_default();
    let score = csharp(Path::new(&root), &build.split_whitespace().collect::<Vec<_>>());
    assert!(score.recall >= 0.99, "{:#?}", score.missed);
}
