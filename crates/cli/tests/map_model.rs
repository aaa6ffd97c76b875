//! Maps held against a model that is as simple as their documentation: whose file is it?

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test may fail loudly")]

mod common;

use common::{Project, for_many};
use proptest::prelude::*;
use proptest::sample::{select, subsequence};
use std::collections::{BTreeMap, BTreeSet};

/// The files of every garden here; each uses `Hub`, so that one answer tells the modules of all.
const FILES: &[&str] = &[
    "Top.cs",
    "src/Bed.cs",
    "src/Bee.cs",
    "src/Beds/Bed.cs",
    "src/Beds/Row.cs",
    "src/Beds/Deep/Bed.cs",
    "src/Beds/Deep/Far/Root.cs",
    "src/Tours/Bed.cs",
    "src/Tours/Tour.cs",
    "src/Bedside/Bed.cs",
    "lib/Beds/Bed.cs",
    "lib/Beds/Old/Bed.cs",
    "lib/Tour.cs",
    "lib/[Bed]/Row.cs",
    "lib/B/Row.cs",
];

/// Paths, globs, and what takes out again.
const PATTERNS: &[&str] = &[
    "src",
    "src/",
    "./src",
    "lib",
    "src/Beds",
    "src/Beds/Deep",
    "src/Tours",
    "src/Bed.cs",
    "src/Beds/Bed.cs",
    "lib/Beds",
    "src/*",
    "src/*.cs",
    "src/Bed*",
    "src/Bed*/Bed.cs",
    "src/*/Bed.cs",
    "src/B?d.cs",
    "src/**",
    "**/Bed.cs",
    "**/Beds",
    "src/**/Bed.cs",
    "*/Beds/*.cs",
    "src/Beds/**/*.cs",
    "*.cs",
    "**/Old/**",
    "lib/[BT]*",
    ".",
    "nowhere",
    "src/Tours/T*.cs",
    "lib/[Bed]",
    "lib/[Bed]/*.cs",
];

/// Whether a glob's part matches one part of a path.
fn part_matches(pattern: &[u8], part: &[u8]) -> bool {
    match pattern {
        [] => part.is_empty(),
        [b'*', rest @ ..] => (0..=part.len()).any(|at| part_matches(rest, &part[at..])),
        [b'?', rest @ ..] => !part.is_empty() && part_matches(rest, &part[1..]),
        [b'[', rest @ ..] => {
            let close = rest.iter().position(|byte| *byte == b']').unwrap();
            part.first().is_some_and(|first| rest[..close].contains(first))
                && part_matches(&rest[close + 1..], &part[1..])
        }
        [letter, rest @ ..] => part.first() == Some(letter) && part_matches(rest, &part[1..]),
    }
}

/// Whether a glob matches the parts of a path; `**` stands for any number of folders, at the end for all that is below.
fn glob_matches(pattern: &[&str], path: &[&str]) -> bool {
    match pattern {
        [] => path.is_empty(),
        ["**"] => !path.is_empty(),
        ["**", rest @ ..] => (0..=path.len()).any(|at| glob_matches(rest, &path[at..])),
        [part, rest @ ..] => {
            !path.is_empty()
                && part_matches(part.as_bytes(), path[0].as_bytes())
                && glob_matches(rest, &path[1..])
        }
    }
}

/// How well a pattern fits a file: exactly, and by how long a fixed start; none where it does not.
fn fit(pattern: &str, file: &str) -> Option<(bool, usize)> {
    let pattern = pattern.trim_start_matches("./").trim_end_matches('/');
    let pattern = if pattern == "." { "" } else { pattern };
    let parts: Vec<&str> = file.split('/').collect();
    // A folder may be called as the pattern is written.
    if pattern.is_empty() || file == pattern || file.starts_with(&format!("{pattern}/")) {
        return Some((pattern == file, pattern.len()));
    }
    let fixed = pattern.find(['*', '?', '['])?;
    let wanted: Vec<&str> = pattern.split('/').collect();
    // A glob that names a folder takes all that is in it, unless it says itself how deep it goes.
    let shortest = if pattern.contains("**") { parts.len() } else { 1 };
    (shortest..=parts.len()).any(|many| glob_matches(&wanted, &parts[..many])).then_some((false, fixed))
}

/// A module with its patterns: true for those that take out.
type Module = Vec<(bool, &'static str)>;

fn module() -> impl Strategy<Value = Module> {
    let taken = prop::collection::vec((prop::bool::weighted(0.25), select(PATTERNS)), 0..3);
    (select(PATTERNS), taken).prop_map(|(first, more)| [(false, first)].into_iter().chain(more).collect())
}

/// Whose file it is by the model: a module, none, or several that claim it equally.
fn owner(modules: &[Module], file: &str) -> Result<Option<usize>, Vec<usize>> {
    let score = |module: &Module| {
        let last = module.iter().rfind(|(_, pattern)| fit(pattern, file).is_some())?;
        if last.0 { None } else { fit(last.1, file) }
    };
    let scores: Vec<_> = modules.iter().map(score).collect();
    let Some(best) = scores.iter().flatten().max() else { return Ok(None) };
    let owners: Vec<usize> = (0..modules.len()).filter(|&at| scores[at].as_ref() == Some(best)).collect();
    match owners[..] {
        [one] => Ok(Some(one)),
        _ => Err(owners),
    }
}

fn garden(modules: &[Module], files: &[&str]) -> Project {
    let project = Project::new(&[("Hub.cs", "public class Hub { }\n")]);
    for (at, file) in files.iter().enumerate() {
        project.write(file, &format!("class Part{at} {{ Hub hub; }}\n"));
    }
    let lines = modules.iter().enumerate().map(|(at, patterns)| {
        let quoted =
            patterns.iter().map(|(out, pattern)| format!("\"{}{pattern}\"", if *out { "!" } else { "" }));
        format!("part-{at} = {{ path = [{}] }}\n", quoted.collect::<Vec<_>>().join(", "))
    });
    project.write("ferngate.toml", &format!("[modules]\n{}", lines.collect::<String>()));
    project
}

#[test]
fn each_file_is_whose_the_documentation_says() {
    let gardens = (prop::collection::vec(module(), 1..6), subsequence(FILES, 3..FILES.len()));
    for_many((400, 21), &gardens, |(modules, files)| {
        let project = garden(&modules, &files);
        let owners: Vec<_> =
            ["Hub.cs"].iter().chain(&files).map(|file| (*file, owner(&modules, file))).collect();
        let answer = project.run(&["find", "Hub", "--json"]);
        let claimed: Vec<_> =
            owners.iter().filter_map(|(file, owner)| owner.as_ref().err().map(|_| *file)).collect();
        if !claimed.is_empty() {
            prop_assert_eq!(answer.status, 2, "{:?} {}", &modules, answer.all());
            let named = claimed.iter().any(|file| answer.err.contains(&format!("{file} belongs to both")));
            prop_assert!(named, "{modules:?} {claimed:?} {}", answer.all());
            return Ok(());
        }
        prop_assert_eq!(answer.status, 0, "{:?} {}", &modules, answer.all());
        let found = answer.json();
        let users = found["names"][0]["users"].as_array().unwrap();
        let told: BTreeMap<&str, Option<&str>> = users
            .iter()
            .map(|user| (user["first"]["path"].as_str().unwrap(), user["first"]["module"].as_str()))
            .collect();
        for (file, owner) in &owners[1..] {
            let expected = owner.clone().unwrap().map_or("rest".to_owned(), |at| format!("part-{at}"));
            prop_assert_eq!(
                told.get(file).copied().flatten(),
                Some(expected.as_str()),
                "{} {:?}",
                file,
                &modules
            );
        }
        Ok(())
    });
}

/// What a module shows, below its folder.
const SHOWN: &[&str] = &[
    "One.cs",
    "./Two.cs",
    "*.cs",
    "T*.cs",
    "Sub",
    "Sub/",
    "Sub/*",
    "Sub/*.cs",
    "Sub/**",
    "Sub/Deep",
    "**/*.cs",
    "**/Four.cs",
    "Sub/Deep/Four.cs",
    "nowhere.cs",
    "S*",
];
const OWN: &[(&str, &str)] =
    &[("One.cs", "One"), ("Two.cs", "Two"), ("Sub/Three.cs", "Three"), ("Sub/Deep/Four.cs", "Four")];

#[test]
fn a_module_shows_what_the_documentation_says() {
    let folders = select(&["src/Beds", "Beds", "src/[Beds]"][..]);
    for_many((120, 22), &(folders, subsequence(SHOWN, 0..4)), |(folder, shown)| {
        let project = Project::new(&[]);
        for (path, name) in OWN {
            project.write(&format!("{folder}/{path}"), &format!("public class {name} {{ }}\n"));
        }
        let uses: String = OWN.iter().map(|(_, name)| format!("    {name} of{name};\n")).collect();
        project.write("Tours/Tour.cs", &format!("class Tour\n{{\n{uses}}}\n"));
        let public = match shown[..] {
            [] => String::new(),
            _ => format!(", public = {shown:?}"),
        };
        let map = format!("[modules]\nbeds = {{ path = \"{folder}\"{public} }}\ntours = \"Tours\"\n");
        project.write("ferngate.toml", &map);
        let found = project.run(&["check", "--only", "private-use", "--json"]).json();
        let lines = found["findings"].as_array().unwrap().iter();
        let lines: BTreeSet<u64> = lines.map(|finding| finding["place"]["line"].as_u64().unwrap()).collect();
        let is_hidden =
            |path: &str| !shown.is_empty() && shown.iter().all(|pattern| fit(pattern, path).is_none());
        let hidden = OWN.iter().zip(3..).filter(|((path, _), _)| is_hidden(path)).map(|(_, line)| line);
        prop_assert_eq!(lines, hidden.collect::<BTreeSet<u64>>(), "{} {:?}", folder, shown);
        Ok(())
    });
}
