//! `docs/data.md` against what the commands answer: every key is described, and nothing else.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test may fail loudly")]

mod common;

use common::Project;
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};

/// For each command, the keys that its part of the document describes, each with its sort.
fn described() -> BTreeMap<String, BTreeMap<String, String>> {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/data.md");
    let text = std::fs::read_to_string(path).unwrap();
    let mut parts: BTreeMap<String, BTreeMap<String, String>> = BTreeMap::new();
    let mut command = String::new();
    for line in text.lines() {
        if let Some(name) = line.strip_prefix("## ") {
            name.clone_into(&mut command);
        }
        let cells: Vec<&str> = line.split(" | ").collect();
        let keys = cells[0].strip_prefix("| ").filter(|keys| keys.starts_with('`') && cells.len() > 2);
        for key in keys.into_iter().flat_map(|keys| keys.split(", ")) {
            let known = parts.entry(command.clone()).or_default();
            let key = key.trim_matches('`').trim_end_matches("[]").to_owned();
            assert!(
                known.insert(key.clone(), cells[1].to_owned()).is_none(),
                "{command}: {key} is said twice"
            );
        }
    }
    parts
}

/// Whether a value is of the sort that the document says.
fn fits(value: &Value, sort: &str) -> bool {
    match value {
        Value::Null => sort.contains("or null"),
        Value::Bool(_) => sort == "yes or no",
        Value::Number(_) => sort.starts_with("number"),
        Value::String(_) => sort.starts_with("text"),
        Value::Array(_) => sort.starts_with("list"),
        Value::Object(_) => {
            ["place", "object", "numbers by name"].iter().any(|start| sort.starts_with(start))
        }
    }
}

/// Enters the keys of `value`, and says which of them the document does not have like that.
fn compare(
    value: &Value,
    key: &str,
    known: &BTreeMap<String, String>,
    seen: &mut BTreeSet<String>,
    wrong: &mut Vec<String>,
) {
    if !key.is_empty() && !key.ends_with("[]") {
        seen.insert(key.to_owned());
        match known.get(key) {
            Some(sort) if fits(value, sort) => {}
            Some(sort) => wrong.push(format!("{key} is said to be {sort}, and is {value}")),
            None => wrong.push(format!("{key} is not described")),
        }
        if known.get(key).is_some_and(|sort| sort == "numbers by name") {
            return;
        }
    }
    match value {
        Value::Object(object) => {
            for (name, value) in object {
                let below = if key.is_empty() { name.clone() } else { format!("{key}.{name}") };
                compare(value, &below, known, seen, wrong);
            }
        }
        Value::Array(values) => {
            for value in values {
                compare(value, &format!("{key}[]"), known, seen, wrong);
            }
        }
        _ => {}
    }
}

/// Calls that together say everything that can be said.
const CALLS: &[&[&str]] = &[
    &["survey"],
    &["init", "--print"],
    &["check"],
    &["find", "Ticket"],
    &["find", "src/Mossgrove/Models/Ticket.cs"],
    &["why", "visits", "models"],
    &["why", "visits", "catalogue"],
    &["why", "visits", "package:Moss.Json"],
    &["why", "src/Mossgrove/Visits/Tour.cs", "src/Mossgrove/Models/Ticket.cs"],
    &["cycles"],
    &["draw"],
    &["export"],
    &["move", "src/Mossgrove/Models/Ticket.cs", "src/Catalogue/"],
    &["move", "src/Mossgrove/Visits", "src/Mossgrove/Walks"],
    &["move", "name:Mossgrove.Models.FeeKind", "src/Catalogue/"],
    &["undo"],
    &["explain"],
    &["explain", "cycle"],
    &["demo", "--unpack", "garden"],
];

#[test]
fn every_key_is_described_as_it_is() {
    let parts = described();
    let mut seen: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    let mut wrong = Vec::new();
    let project = Project::demo();
    // Something to widen, and something that is only mentioned.
    project.write(
        "src/Catalogue/Secret.cs",
        "namespace Mossgrove.Catalogue;\ninternal class Secret { }\npublic class Box { Secret inside; }\n",
    );
    project.write("notes.md", "Mossgrove.Models.Ticket is described in src/Mossgrove/Models/Ticket.cs.\n");
    let more: &[&[&str]] = &[&["move", "name:Mossgrove.Catalogue.Box", "src/Storage/Files/"]];
    for call in CALLS.iter().chain(more) {
        let answer = project.run(&[call, &["--json"][..]].concat());
        assert!(answer.status < 2, "{call:?} {}", answer.all());
        let known = parts.get(call[0]).unwrap_or_else(|| panic!("{} is not described", call[0]));
        let value = answer.json();
        assert_eq!(value["schema"], format!("ferngate/{}/1", call[0]), "{call:?}");
        let mut own = Vec::new();
        compare(&value, "", known, seen.entry(call[0].to_owned()).or_default(), &mut own);
        wrong.extend(own.into_iter().map(|text| format!("{}: {text}", call[0])));
    }
    wrong.sort();
    wrong.dedup();
    assert!(wrong.is_empty(), "{wrong:#?}");
    for (command, known) in &parts {
        let seen = &seen[command];
        // The document writes the elements of a list as the list.
        let unseen: Vec<&String> = known
            .keys()
            .filter(|key| !seen.contains(*key) && !seen.contains(key.trim_end_matches("[]")))
            .collect();
        assert!(unseen.is_empty(), "{command}: {unseen:?} are described and were not seen");
    }
}

#[test]
fn a_refusal_and_its_reasons_are_data() {
    let project = Project::garden();
    let answer = project.run(&["move", "src/Visits/Tour.cs", "nowhere/Tour.cs", "--json"]);
    assert_eq!(answer.status, 1, "{}", answer.all());
    let data = answer.json();
    assert_eq!(data["applied"], false);
    assert!(data["refused"][0].as_str().is_some_and(|why| !why.is_empty()), "{data}");
}

#[test]
fn errors_stay_words_beside_the_data() {
    let project = Project::garden();
    for call in
        [&["why", "nowhere", "visits"][..], &["move", "nowhere.cs", "src/"], &["check", "--only", "nothing"]]
    {
        let answer = project.run(&[call, &["--json"]].concat());
        assert_eq!((answer.status, answer.out.as_str()), (2, ""), "{call:?}");
        assert!(answer.err.starts_with("error: "), "{call:?} {}", answer.err);
    }
}
