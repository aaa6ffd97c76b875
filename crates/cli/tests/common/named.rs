//! The graph of languages whose names live in namespaces, by each language's own compiler or parser.

use super::scores::{Score, Tie, judge_source, ours, run, score, truth};
use std::path::{Path, PathBuf};
use std::process::Command;

pub fn java(root: &Path) -> Score {
    let out = tempfile::tempdir().unwrap();
    run(Command::new("javac").arg("-d").arg(out.path()).arg(judge_source("JavaJudge.java")));
    let said = run(Command::new("java").arg("-cp").arg(out.path()).arg("JavaJudge").arg(root));
    score(&ours(root, ".java"), &truth(&said), |_| true)
}

const KOTLIN: &str = "/usr/share/kotlin/kotlinc/lib";

/// Asks the compiler's own analysis, with Java beside it; what a class inherits from several others may be any of them.
pub fn kotlin(root: &Path) -> Score {
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

pub fn php(root: &Path) -> Score {
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
pub fn csharp(root: &Path, arguments: &[&str]) -> Score {
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

/// Where the compiler of C# keeps the libraries of its framework.
const FRAMEWORK: &str = "/usr/lib/mono/4.5";

/// Builds the judge `source` in the folder `out` with the compiler that its makers publish as a library;
/// `FERNGATE_CORPUS_COMPILER` is the folder with that and with what it needs to run.
fn compiler_judge(out: &Path, source: &str) -> PathBuf {
    let compiler =
        std::env::var("FERNGATE_CORPUS_COMPILER").expect("FERNGATE_CORPUS_COMPILER names a folder");
    let copied = run(Command::new("cp").args(["-r", &format!("{compiler}/.")]).arg(out));
    assert!(copied.is_empty(), "{copied}");
    let judge = out.join("judge.exe");
    let mut build = Command::new("mcs");
    build.args(["-nologo", "-warn:0", "-langversion:7.2"]).arg(format!("-lib:{}", out.display()));
    let libraries = [
        "netstandard",
        "System.Collections.Immutable",
        "Microsoft.CodeAnalysis",
        "Microsoft.CodeAnalysis.CSharp",
    ];
    build.args(libraries.map(|library| format!("-r:{library}.dll"))).arg(format!("-out:{}", judge.display()));
    run(build.args([judge_source(source), judge_source("Libraries.cs")]));
    judge
}

/// Asks that compiler what each name means.
pub fn csharp_names(root: &Path) -> Score {
    let out = tempfile::tempdir().unwrap();
    let judge = compiler_judge(out.path(), "NamesJudge.cs");
    let root = std::fs::canonicalize(root).unwrap();
    let said = run(Command::new("mono").arg(&judge).arg(&root).arg(FRAMEWORK));
    score(&ours(&root, ".cs"), &truth(&said), |sort| sort == "name")
}

/// Asks that compiler for the errors of a folder, a line each; also where libraries are missing.
pub fn csharp_errors() -> impl Fn(&Path) -> Vec<String> {
    let out = tempfile::tempdir().unwrap();
    let judge = compiler_judge(out.path(), "ErrorsJudge.cs");
    move |root| {
        let _kept = &out;
        let root = std::fs::canonicalize(root).unwrap();
        let said = run(Command::new("mono").arg(&judge).arg(&root).arg(FRAMEWORK));
        said.lines().map(str::to_owned).collect()
    }
}
