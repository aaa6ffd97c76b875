//! The graph of languages whose imports are paths, by each language's own compiler or interpreter.

use super::scores::{Score, Tie, Truth, judge_source, ours_of, run, score};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::process::Command;

/// Our ties between files that the judge looked at; it says which in lines of `,path`.
fn ours_among(root: &Path, endings: &[&str], judged: Option<&BTreeSet<String>>) -> BTreeSet<Tie> {
    let all: BTreeSet<Tie> = endings.iter().flat_map(|from| ties_between(root, from, endings)).collect();
    let looked_at = |path: &String| judged.is_none_or(|judged| judged.contains(path));
    all.into_iter().filter(|(from, to)| looked_at(from) && looked_at(to)).collect()
}

fn ties_between(root: &Path, from: &str, to: &[&str]) -> Vec<Tie> {
    let ties = ours_of(root).into_iter();
    ties.filter(|tie| tie.0.ends_with(from) && to.iter().any(|ending| tie.1.ends_with(ending))).collect()
}

/// Lines `from,to`, and the files that were looked at, where lines `,path` say so.
fn plain(said: &str) -> (Truth, Option<BTreeSet<String>>) {
    let mut truth = Truth::new();
    let mut files = BTreeSet::new();
    for line in said.lines() {
        match line.split_once(',') {
            Some(("", path)) => _ = files.insert(path.to_owned()),
            Some((from, to)) => {
                truth
                    .entry((from.to_owned(), to.to_owned()))
                    .or_default()
                    .insert(("import".into(), String::new()));
            }
            None => {}
        }
    }
    let files = if files.is_empty() { None } else { Some(files) };
    (truth, files)
}

const SCRIPTS: &[&str] = &[".ts", ".tsx", ".mts", ".cts", ".js", ".jsx", ".mjs", ".cjs"];

pub fn scripts(root: &Path) -> Score {
    scripts_by(root, &[])
}

/// The same, by the maps in which packages say what they show.
pub fn scripts_by_maps(root: &Path) -> Score {
    scripts_by(root, &["node16"])
}

fn scripts_by(root: &Path, mode: &[&str]) -> Score {
    let mut command = Command::new("node");
    let compiler = ["/usr/share/nodejs/typescript", "/usr/lib/node_modules/typescript"];
    let compiler = compiler.iter().find(|path| Path::new(path).exists()).unwrap();
    let said = run(command.arg(judge_source("judge.js")).arg(compiler).arg(root).args(mode));
    let (judged, files) = plain(&said);
    score(&ours_among(root, SCRIPTS, files.as_ref()), &judged, |_| true)
}

pub fn python(root: &Path) -> Score {
    let (judged, _) = plain(&run(Command::new("python3").arg(judge_source("judge.py")).arg(root)));
    score(&ours_among(root, &[".py", ".pyi"], None), &judged, |_| true)
}

pub fn go(root: &Path) -> Score {
    let mut command = Command::new("go");
    let cache = tempfile::tempdir().unwrap();
    command.env("GOCACHE", cache.path()).env("GOFLAGS", "-mod=mod").env("GO111MODULE", "off");
    let (judged, files) = plain(&run(command.arg("run").arg(judge_source("judge.go")).arg(root)));
    score(&ours_among(root, &[".go"], files.as_ref()), &judged, |_| true)
}

const SOURCES: [&str; 14] = [
    ".c", ".cc", ".cpp", ".cxx", ".h", ".hh", ".hpp", ".hxx", ".inl", ".ipp", ".tpp", ".tcc", ".txx", ".inc",
];

/// What the preprocessor opens from which file, on both sides of the conditions that `defines` decides.
pub fn cpp(root: &Path, folders: &[&str], defines: &[&str]) -> Score {
    let root = std::fs::canonicalize(root).unwrap();
    let mut files = Vec::new();
    collect(&root, &SOURCES, &mut files);
    let mut judged = Truth::new();
    for file in &files {
        for define in defines {
            let mut command = Command::new("g++");
            command.args(define.split_whitespace()).current_dir(&root);
            command.args(folders.iter().map(|folder| format!("-I{}", root.join(folder).display())));
            // Headers that are missing here do not stop it, as they do where text is asked for.
            let output =
                command.args(["-M", "-MG", "-H", "-o", "/dev/null", "-x", "c++"]).arg(file).output().unwrap();
            let mut open = vec![file.display().to_string()];
            for line in String::from_utf8_lossy(&output.stderr).lines() {
                // As many dots as the header lies deep: `.. include/rain.h`
                let Some((dots, path)) = line.split_once(' ').filter(|(dots, _)| is_depth(dots)) else {
                    continue;
                };
                open.truncate(dots.len());
                let inside = |path: &str| {
                    let whole = std::fs::canonicalize(root.join(path)).ok()?;
                    Some(whole.strip_prefix(&root).ok()?.display().to_string())
                };
                if let (Some(from), Some(to)) = (open.last().and_then(|p| inside(p)), inside(path))
                    && from != to
                {
                    judged.entry((from, to)).or_default().insert(("include".into(), String::new()));
                }
                open.push(path.to_owned());
            }
        }
    }
    score(&ours_among(&root, &SOURCES, None), &judged, |_| true)
}

fn is_depth(dots: &str) -> bool {
    !dots.is_empty() && dots.bytes().all(|byte| byte == b'.')
}

fn collect(folder: &Path, endings: &[&str], found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            collect(&path, endings, found);
        } else if endings.iter().any(|ending| path.to_string_lossy().ends_with(ending)) {
            found.push(path);
        }
    }
}

/// Names, by the links of the compiler's documentation tool.
pub fn rust(root: &Path) -> Score {
    let pages = tempfile::tempdir().unwrap();
    // Names of another crate are linked only where its pages are there already, so the pages are written twice, one
    // crate after the other: those of a crate are taken away before they are written anew.
    for (lints, jobs) in [("allow", "2"), ("warn", "1")] {
        let mut command = Command::new("cargo");
        command.env("RUSTC_BOOTSTRAP", "1").current_dir(root).env("CARGO_TARGET_DIR", pages.path());
        let links = "-Zunstable-options --generate-link-to-definition --document-private-items";
        command.env("RUSTDOCFLAGS", format!("{links} --cap-lints {lints}"));
        run(command.args(["doc", "--offline", "--no-deps", "--workspace", "--quiet", "--jobs", jobs]));
    }
    let mut command = Command::new("python3");
    let said = run(command.arg(judge_source("rust_pages.py")).arg(pages.path().join("doc")));
    let (judged, files) = plain(&said);
    score(&ours_among(root, &[".rs"], files.as_ref()), &judged, |_| true)
}

/// Names of a package's own files, by the parser of R and its package for code.
pub fn r(root: &Path) -> Score {
    let (judged, files) = plain(&run(Command::new("Rscript").arg(judge_source("judge.R")).arg(root)));
    score(&ours_among(root, &[".R", ".r"], files.as_ref()), &judged, |_| true)
}
