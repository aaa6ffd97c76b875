//! No input makes a reader panic or loop: every prefix and thousands of mutations of every fixture.

#![allow(clippy::unwrap_used, reason = "a test may fail loudly")]

use ferngate_facts::languages::{LANGUAGES, language_of};
use ferngate_facts::manifests::{MANIFESTS, manifest_of};
use ferngate_model::{FileFacts, ProjectPath, ReadOptions};
use proptest::prelude::*;
use std::path::PathBuf;

fn fixtures() -> Vec<(String, Vec<u8>)> {
    let root = PathBuf::from(env!("CARGO_MANIFEST_DIR"));
    let mut found = Vec::new();
    for folder in [
        "tests/fixtures/csharp",
        "../cli/tests/fixtures",
        "../cli/demo/mossgrove/apps",
        "../cli/demo/mossgrove/src/Storage",
        "../cli/demo/mossgrove/irrigation",
        "../cli/demo/mossgrove/letters",
    ] {
        collect(&root.join(folder), &mut found);
    }
    assert!(found.len() > 50);
    found
}

fn collect(folder: &std::path::Path, found: &mut Vec<(String, Vec<u8>)>) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        if entry.path().is_dir() {
            collect(&entry.path(), found);
        } else {
            let name = entry.file_name().to_string_lossy().into_owned();
            found.push((name, std::fs::read(entry.path()).unwrap()));
        }
    }
}

/// Reads `text` as a file called `name` and checks that all places lie inside it.
fn read(name: &str, text: &[u8]) {
    let path = ProjectPath::new(name);
    if let Some(language) = language_of(path.extension()) {
        let facts = LANGUAGES[language].facts(text, ReadOptions { occurrences: true, weak: true });
        within(&facts, text.len() as u32, name);
    } else if let Some(manifest) = manifest_of(&ProjectPath::new(name)) {
        let facts = MANIFESTS[manifest].read(&path, text);
        for mention in facts.mentions {
            assert!(
                mention.span.end as usize <= text.len() && mention.element.end as usize <= text.len(),
                "{name}"
            );
        }
    }
}

fn within(facts: &FileFacts, end: u32, name: &str) {
    assert!(facts.occurrences.iter().all(|occurrence| occurrence.span.end <= end), "{name}");
    assert!(facts.declarations.iter().all(|d| d.span.end <= end && d.name_span.end <= end), "{name}");
    assert!(facts.scopes.iter().all(|scope| scope.span.end <= end), "{name}");
    assert!(facts.imports.iter().all(|import| import.span.end <= end), "{name}");
    let uses = facts.uses.len() as u32;
    assert!(facts.occurrences.iter().all(|occurrence| occurrence.used < uses), "{name}");
    // A parent stands before its children.
    assert!(
        facts.uses.iter().enumerate().all(|(at, used)| used.parent.get().err().is_none_or(|p| p < at as u32))
    );
}

#[test]
fn every_prefix_is_read() {
    for (name, text) in fixtures() {
        for end in 0..=text.len() {
            read(&name, &text[..end]);
        }
    }
}

#[test]
fn what_is_read_once_is_read_the_same_again() {
    for (name, text) in fixtures() {
        let Some(language) = language_of(ProjectPath::new(&name).extension()) else { continue };
        let plain = LANGUAGES[language].facts(&text, ReadOptions::default());
        let placed = LANGUAGES[language].facts(&text, ReadOptions { occurrences: true, weak: false });
        // Places are found again by the index of a use, so looking for places must not change the tree of uses.
        let tree = |facts: &FileFacts| {
            facts.uses.iter().map(|u| (u.name, u.parent.raw(), u.count)).collect::<Vec<_>>()
        };
        assert_eq!(tree(&plain), tree(&placed), "{name}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 10_000, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn mutations_are_read(
        which in 0usize..1000,
        changes in prop::collection::vec((0usize..100_000, any::<u8>(), 0u8..4), 1..12),
    ) {
        thread_local!(static FIXTURES: Vec<(String, Vec<u8>)> = fixtures());
        FIXTURES.with(|fixtures| {
            let (name, text) = &fixtures[which % fixtures.len()];
            let mut text = text.clone();
            for (at, byte, kind) in changes {
                let at = at % text.len().max(1);
                match kind {
                    0 => text[at] = byte,
                    1 => text.insert(at, b"\"'{}()<>[]$@#/*\\\n"[byte as usize % 17]),
                    2 => drop(text.drain(at..(at + byte as usize).min(text.len()))),
                    _ => {
                        let piece = text[at..(at + byte as usize).min(text.len())].to_vec();
                        text.splice(at..at, piece);
                    }
                }
                if text.is_empty() {
                    text.push(byte);
                }
            }
            read(name, &text);
        });
    }
}

/// Beginnings that never end, as often as a megabyte holds: what is looked at ahead must not be looked at again for each.
const ENDLESS: &[(&str, &[&str])] = &[
    (
        "ts",
        &[
            "(",
            "`${",
            "<a>",
            "<a b={",
            "import {a,",
            "require([\"a\",",
            "a<b>",
            "x=/[",
            "<T>(",
            "</a>",
            "@a ",
        ],
    ),
    (
        "py",
        &["(", "f'{", "f\"{'", "import a.", "from a import b,", "__all__ = [\n", "'''>>> import a\n", "\\\n"],
    ),
    ("go", &["func(", "a, ", "type T[\n", "var (\na ", "func (g *G) M(", "x := func() {", "interface{ M("]),
    ("rs", &["mod a {", "use a::{", "#[", "r#\n", "r#\"", "macro_rules! a {", "fn f() { use a;", "'a", "b'"]),
    ("cpp", &["import ", "R\"(", "template<", "namespace a {", "#define a \\\n", "export module ", "x'"]),
    ("R", &["function(a,", "{x<-1;", "%", "`", "a::", "\\(", "r\"("]),
    (
        "kt",
        &[
            "listOf(",
            "b to (",
            "\"$a${",
            "x.map { y ->",
            "fun f() {",
            "() -> ",
            "return@a ",
            "constructor(a: B) : this(",
            "(",
            "{",
            "fun f(a: Int = ",
            "object : B by ",
            "object : B(",
            "x.let { it",
            "if (a) { b",
            "\"${",
            "List<",
            "when (a) { is B -> ",
            "class A(val a: A = ",
            "fun a.",
            "@A(",
            "val a = ",
            "x { a, b -> it.c ",
            "val a: (A, ",
            "a shl ",
        ],
    ),
    (
        "java",
        &[
            "List.of(",
            "new A<>(",
            "l.sort(comparing(b ->",
            "m.forEach((k, v) ->",
            "() ->",
            "(",
            "{",
            "new A() {",
            "a -> ",
            "A<",
            "case a:",
            "(A) ",
            "@A(",
            "class A {",
            "a.b.",
            "f(a, ",
            "switch (a) {",
        ],
    ),
    (
        "cs",
        &[
            "[A(B = 1)",
            "[A(",
            "Task.FromResult(",
            "(",
            "{",
            "$\"{",
            "#if A\n",
            "class A {",
            "x => ",
            "new A { B = ",
            "A<",
            "a?.b",
            "[A(",
            "delegate(",
            "(a, b) => ",
        ],
    ),
    (
        "php",
        &[
            "<?php (",
            "<?php {",
            "<?php fn() => ",
            "<?php new class {",
            "<?php \"{$a",
            "<?php #[A(",
            "<?php use A\\{",
            "?->a",
        ],
    ),
    ("vue", &["<script>", "<script src='", "<!--", "<"]),
];

#[test]
fn beginnings_without_an_end_are_read_once() {
    for (extension, beginnings) in ENDLESS {
        for beginning in *beginnings {
            let text = beginning.repeat(1_000_000 / beginning.len());
            let begin = std::time::Instant::now();
            read(&format!("x.{extension}"), text.as_bytes());
            // Read once it takes some milliseconds; read again for each beginning, hours.
            assert!(begin.elapsed().as_secs() < 20, "{extension}: {beginning:?} took {:?}", begin.elapsed());
        }
    }
}
