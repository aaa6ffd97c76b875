//! What means the same gives the same graph: other line ends, a mark at the start, comments, blank lines, another folder.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::Project;
use std::collections::BTreeSet;

const FIXTURES: [&str; 10] =
    ["cpp", "css", "go", "java", "kotlin", "php", "python", "r", "rust", "typescript"];

/// The line comment of files that end like `path`, if they are code.
fn comment(path: &str) -> Option<&'static str> {
    match path.rsplit_once('.')?.1 {
        "cs" | "java" | "kt" | "go" | "rs" | "ts" | "tsx" | "js" | "c" | "h" | "cpp" | "hpp" | "ino"
        | "php" => Some("//"),
        "py" | "r" | "R" => Some("#"),
        "scss" => Some("//"),
        _ => None,
    }
}

fn graph(project: &Project) -> String {
    let answer = project.run(&["export", "--level", "file"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    answer.out
}

/// Changes every file of code by `change` and compares the graph of the demo and of all shapes.
fn stays_the_same(change: impl Fn(&str, &str) -> String) {
    let demo = std::iter::once(("demo/mossgrove".to_owned(), Project::demo()));
    let shapes = FIXTURES.iter().map(|name| format!("tests/fixtures/{name}"));
    for (name, project) in demo.chain(shapes.map(|name| (name.clone(), Project::copy_of(&name)))) {
        let before = graph(&project);
        assert!(before.lines().count() > 1, "{name} has no ties");
        let mut changed = 0;
        for path in project.snapshot().into_keys().filter(|path| comment(path).is_some()) {
            let text = project.read(&path);
            project.write(&path, &change(&path, &text));
            changed += 1;
        }
        assert!(changed > 0, "{name}");
        assert_eq!(graph(&project), before, "{name}");
    }
}

#[test]
fn with_the_line_ends_of_another_system() {
    stays_the_same(|_, text| text.replace("\r\n", "\n").replace('\n', "\r\n"));
}

#[test]
fn with_a_mark_of_its_encoding_at_the_start() {
    stays_the_same(|_, text| format!("\u{feff}{text}"));
}

#[test]
fn without_a_line_end_at_the_end() {
    stays_the_same(|_, text| text.trim_end().to_owned());
}

#[test]
fn with_comments_that_spell_code() {
    stays_the_same(|path, text| {
        let mark = comment(path).unwrap();
        // Where PHP ends with `?>`, what follows is no code.
        if text.trim_end().ends_with("?>") {
            return text.to_owned();
        }
        format!("{text}\n{mark} import moss.Bed; use Bed; new Bed(); #include \"bed.h\"\n")
    });
}

#[test]
fn with_blank_lines_at_the_end() {
    stays_the_same(|_, text| format!("{text}\n\n   \n"));
}

/// `text` with each of `words` given another name, wherever it stands as a word of its own.
fn renamed(text: &str, words: &BTreeSet<String>) -> String {
    let is_part = |byte: u8| byte.is_ascii_alphanumeric() || byte == b'_' || byte >= 0x80;
    let (mut out, mut rest) = (String::new(), text);
    while !rest.is_empty() {
        let length = rest.bytes().take_while(|byte| is_part(*byte)).count();
        let (word, behind) = rest.split_at(length);
        out.push_str(word);
        if words.contains(word) {
            out.push_str("zz");
        }
        let other = behind.bytes().take_while(|byte| !is_part(*byte)).count();
        out.push_str(&behind[..other]);
        rest = &behind[other..];
    }
    out
}

/// What files are called here that means something to a language or one of its tools.
const TAKEN: [&str; 14] = [
    "index", "main", "mod", "lib", "start", "init", "setup", "build", "page", "types", "test", "tests",
    "list", "round",
];

#[test]
fn with_other_names_for_all_that_files_are_called_after() {
    for folder in FIXTURES {
        let project = Project::copy_of(&format!("tests/fixtures/{folder}"));
        let files: Vec<String> = project.snapshot().into_keys().filter(|path| !path.ends_with('/')).collect();
        let stems = files.iter().filter(|path| comment(path).is_some()).filter_map(|path| {
            let stem = path.rsplit('/').next()?.split('.').next()?;
            (stem.len() > 3 && !TAKEN.contains(&stem) && !stem.starts_with('_')).then(|| stem.to_owned())
        });
        let words: BTreeSet<String> = stems.collect();
        assert!(!words.is_empty(), "{folder}");
        let other = Project::new(&[]);
        for path in &files {
            match String::from_utf8(std::fs::read(project.root().join(path)).unwrap()) {
                Ok(text) => other.write(&renamed(path, &words), &renamed(&text, &words)),
                Err(binary) => {
                    other.write(&renamed(path, &words), "");
                    std::fs::write(other.root().join(renamed(path, &words)), binary.into_bytes()).unwrap();
                }
            }
        }
        let rows = |text: &str| text.lines().map(str::to_owned).collect::<BTreeSet<_>>();
        assert_eq!(rows(&graph(&other)), rows(&renamed(&graph(&project), &words)), "{folder}: {words:?}");
    }
}

#[test]
fn from_another_folder() {
    for name in FIXTURES {
        let project = Project::copy_of(&format!("tests/fixtures/{name}"));
        let inside = graph(&project);
        let root = project.root().to_str().unwrap().to_owned();
        let elsewhere = Project::new(&[]).run(&["export", "--level", "file", "-C", &root]);
        assert_eq!(elsewhere.out, inside, "{name}");
    }
}

#[test]
fn however_often_and_by_however_many() {
    let project = Project::demo();
    let one = project.run_with(&[("RAYON_NUM_THREADS", "1")], &["check", "--json"]).out;
    for threads in ["2", "3", "8"] {
        assert_eq!(project.run_with(&[("RAYON_NUM_THREADS", threads)], &["check", "--json"]).out, one);
    }
}
