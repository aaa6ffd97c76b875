//! Calls put together at random: each gets an answer or a plain sentence, and only what was asked to write writes.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test may fail loudly")]

mod common;

use common::{Project, for_many};
use proptest::prelude::*;
use proptest::sample::select;
use std::cell::Cell;

/// Each command with what it takes, as a user would write it.
const COMMANDS: &[(&str, &[&str])] = &[
    ("survey", &["--all", "--weak"]),
    ("init", &["--print", "--print", "--force"]),
    ("check", &["--all", "--only cycle", "--only unmapped", "--only private-use", "--weak"]),
    ("find", &["Ticket", "Mossgrove.Models.Ticket", "src/Mossgrove/Models/Ticket.cs", "--all", "taxon"]),
    ("why", &["visits", "catalogue", "models", "apps-desk", "src/Mossgrove/Visits/Tour.cs", "--all"]),
    ("cycles", &["--all", "--weak"]),
    (
        "draw",
        &[
            "--as svg",
            "--as dot",
            "--as text",
            "--around visits",
            "--depth 2",
            "--depth 0",
            "--cycles",
            "--at-least 2",
        ],
    ),
    (
        "export",
        &["--level file", "--level namespace", "--level module", "--as json", "--as csv", "-o out.txt"],
    ),
    (
        "move",
        &[
            "src/Mossgrove/Models/Ticket.cs",
            "src/Mossgrove/Visits/",
            "src/Mossgrove/Guides",
            "src/Catalogue/",
            "name:Mossgrove.Models.Ticket",
            "name:Mossgrove.Models.FeeKind",
            "--diff",
            "--widen",
            "--all",
            "--apply",
            "--mentions",
            "--force",
        ],
    ),
    ("undo", &["--force"]),
    ("explain", &["cycle", "private-use", "stale-path"]),
    ("demo", &["garden", "--unpack"]),
    ("help", &[]),
    ("serve", &[]),
    ("", &[]),
];

/// Words that some command takes, or that none should choke on.
const WORDS: &[&str] = &[
    "--json",
    "-q",
    "-v",
    "--color always",
    "--color sometimes",
    "-C .",
    "-C src",
    "-C nowhere",
    "-C README.md",
    "--map ferngate.toml",
    "--map README.md",
    "--map nowhere",
    "--only nothing",
    "--only cycle,unmapped",
    "--as png",
    "--as gif",
    "-o",
    "-o no/such/folder/out.txt",
    "--around nowhere",
    "--around apps-*",
    "--depth -1",
    "--depth 99999999999999999999",
    "--at-least 0",
    "--list README.md",
    "--list nowhere",
    "name:",
    "name:No.Such.Name",
    "src",
    "/",
    "..",
    "../..",
    "",
    " ",
    "-",
    "--",
    "---",
    "*",
    "{}",
    "\u{7}",
    "苔",
    "'",
    "a b",
    "--help",
    "--version",
    "--no-such-option",
    "-x",
    "src/Mossgrove/Models/Ticket.cs",
    "visits",
];

/// Calls with words that fit and words that do not.
fn calls() -> impl Strategy<Value = Vec<&'static str>> {
    let command = prop_oneof![8 => select(&COMMANDS[..12]), 1 => select(&COMMANDS[12..])];
    command.prop_flat_map(|(command, fitting)| {
        let any = select(WORDS).boxed();
        let word = if fitting.is_empty() { any } else { prop_oneof![5 => select(fitting), 1 => any].boxed() };
        (Just(command), prop::collection::vec(word, 0..5)).prop_map(|(command, words)| {
            let parts = |word: &'static str| match word.starts_with('-') {
                true => word.split(' ').collect(),
                false => vec![word],
            };
            [command].into_iter().chain(words.into_iter().flat_map(parts)).collect()
        })
    })
}

/// Whether a call may write into the project: some commands and some options do.
fn may_write(call: &[&str]) -> bool {
    let has = |word: &str| call.contains(&word);
    has("init") || has("demo") || has("-o") || has("--apply") || has("undo")
}

#[test]
fn any_call_is_answered() {
    let shared = Project::demo();
    let before = shared.snapshot();
    let answered = Cell::new(0);
    for_many((250, 11), &calls(), |call| {
        let own = may_write(&call).then(Project::demo);
        let answer = own.as_ref().unwrap_or(&shared).run(&call);
        prop_assert!(matches!(answer.status, 0..=3), "{call:?}\n{}", answer.all());
        prop_assert!(!answer.err.contains("panicked"), "{call:?}\n{}", answer.all());
        if answer.status >= 2 {
            prop_assert!(answer.out.is_empty(), "{call:?}\n{}", answer.all());
            prop_assert!(answer.err.starts_with("error: "), "{call:?}\n{}", answer.all());
        } else {
            let says = !answer.out.is_empty() || call.contains(&"-o") || call.contains(&"-q");
            prop_assert!(says, "{call:?}\n{}", answer.all());
            answered.set(answered.get() + 1);
        }
        prop_assert!(
            !answer.err.contains('\u{7}') && !answer.out.contains('\u{7}'),
            "{call:?}\n{}",
            answer.all()
        );
        if own.is_none() {
            prop_assert!(shared.snapshot() == before, "{call:?} wrote something");
        }
        Ok(())
    });
    assert!(answered.get() > 60, "{} calls were answered", answered.get());
}

#[test]
fn what_is_asked_for_as_data_is_data_whatever_else_is_asked() {
    let shared = Project::demo();
    let answered = Cell::new(0);
    for_many((150, 12), &calls(), |mut call| {
        call.insert(1, "--json");
        let shows_help = ["--help", "--version", "help"].iter().any(|word| call.contains(word));
        if shows_help || may_write(&call) {
            return Ok(());
        }
        let answer = shared.run(&call);
        if answer.status < 2 {
            let data: Result<serde_json::Value, _> = serde_json::from_str(&answer.out);
            prop_assert!(data.is_ok(), "{call:?}\n{}", answer.all());
            answered.set(answered.get() + 1);
        }
        Ok(())
    });
    assert!(answered.get() > 30, "{} calls were answered", answered.get());
}
