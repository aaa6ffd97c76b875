//! Holds the C# reader against the C# grammar: declared types with their namespaces, usings, and names in places
//! where only a type can stand.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::print_stdout,
    dead_code,
    reason = "a test may fail loudly"
)]

use ferngate_facts::languages::{LANGUAGES, language_of};
use ferngate_model::{Context, FileFacts, ReadOptions, Root};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use tree_sitter::{Node, Parser};

/// What both sides say of one file.
#[derive(Debug, Default, PartialEq)]
struct View {
    declared: BTreeSet<String>,
    usings: BTreeSet<String>,
    /// Offset and text of the first name of each type.
    types: BTreeSet<(u32, String)>,
}

fn ours(text: &[u8]) -> View {
    let csharp = LANGUAGES[language_of("cs").unwrap()];
    let facts = csharp.facts(text, ReadOptions { occurrences: true, weak: false });
    let slice = |span: ferngate_model::Span| String::from_utf8_lossy(span.of(text)).into_owned();
    let mut view = View::default();
    for declaration in &facts.declarations {
        view.declared.insert(full_name(&facts, text, declaration.scope, slice(declaration.name_span)));
    }
    for import in &facts.imports {
        view.usings.insert(squeeze(&slice(import.target_span)));
    }
    for occurrence in &facts.occurrences {
        let used = facts.uses[occurrence.used as usize];
        if used.context == Context::Type && matches!(used.parent.get(), Ok(Root::Scope(_))) {
            view.types.insert((occurrence.span.start, slice(occurrence.span)));
        }
    }
    view
}

fn full_name(facts: &FileFacts, text: &[u8], scope: u32, name: String) -> String {
    let mut parts = vec![name];
    let mut at = scope;
    loop {
        let scope = &facts.scopes[at as usize];
        match &scope.kind {
            ferngate_model::ScopeKind::Namespace { name, .. } => {
                parts.push(squeeze(&String::from_utf8_lossy(name.of(text))));
            }
            ferngate_model::ScopeKind::Type { declaration } => {
                let span = facts.declarations[*declaration as usize].name_span;
                parts.push(String::from_utf8_lossy(span.of(text)).into_owned());
            }
            _ => break,
        }
        at = scope.parent;
    }
    parts.reverse();
    parts.join(".")
}

fn squeeze(text: &str) -> String {
    let text = text.strip_prefix("global::").unwrap_or(text);
    text.split('<').next().unwrap_or_default().chars().filter(|c| !c.is_whitespace() && *c != '@').collect()
}

/// The grammar's view, and the byte ranges in which it found an error.
fn theirs(text: &[u8]) -> Option<View> {
    let mut parser = Parser::new();
    parser.set_language(&tree_sitter_c_sharp::LANGUAGE.into()).unwrap();
    let tree = parser.parse(text, None)?;
    if tree.root_node().has_error() {
        return None;
    }
    let mut view = View::default();
    visit(tree.root_node(), text, &mut Vec::new(), &mut view);
    Some(view)
}

fn visit(node: Node, text: &[u8], around: &mut Vec<String>, view: &mut View) {
    let slice = |node: Node| String::from_utf8_lossy(&text[node.byte_range()]).into_owned();
    let mut pushed = 0;
    match node.kind() {
        "namespace_declaration" | "file_scoped_namespace_declaration" => {
            if let Some(name) = node.child_by_field_name("name") {
                around.push(squeeze(&slice(name)));
                pushed = usize::from(node.kind() == "namespace_declaration");
            }
        }
        "class_declaration"
        | "struct_declaration"
        | "interface_declaration"
        | "enum_declaration"
        | "record_declaration"
        | "delegate_declaration" => {
            if let Some(name) = node.child_by_field_name("name") {
                let own = slice(name).trim_start_matches('@').to_owned();
                let full = around.iter().cloned().chain([own.clone()]).collect::<Vec<_>>().join(".");
                view.declared.insert(full);
                around.push(own);
                pushed = 1;
            }
        }
        "using_directive" => {
            let mut cursor = node.walk();
            if let Some(target) = node.named_children(&mut cursor).last() {
                view.usings.insert(squeeze(&slice(target)));
            }
            return;
        }
        _ => {}
    }
    let mut cursor = node.walk();
    for (at, child) in node.children(&mut cursor).enumerate() {
        let field = node.field_name_for_child(at as u32);
        let in_type_place = field == Some("type")
            || field == Some("returns")
            || matches!(node.kind(), "type_argument_list" | "base_list" | "array_type" | "nullable_type")
                && child.is_named();
        if in_type_place && node.kind() != "using_directive" {
            type_head(child, text, view);
        }
        visit(child, text, around, view);
    }
    around.truncate(around.len() - pushed);
}

/// Notes the first name of the type at `node`.
fn type_head(node: Node, text: &[u8], view: &mut View) {
    let mut node = node;
    loop {
        match node.kind() {
            "identifier" => break,
            "qualified_name" | "generic_name" => match node.child(0) {
                Some(first) => node = first,
                None => return,
            },
            _ => return,
        }
    }
    let name = String::from_utf8_lossy(&text[node.byte_range()]).into_owned();
    // Names of one or two letters are mostly type parameters.
    if !matches!(name.as_str(), "var" | "dynamic")
        && !name.starts_with('@')
        && name.len() > 2
        && !is_parameter_of_method(node, text)
    {
        view.types.insert((node.start_byte() as u32, name));
    }
}

/// Whether the name at `node` is a type parameter of a method around it; we leave these out on purpose.
fn is_parameter_of_method(node: Node, text: &[u8]) -> bool {
    let name = &text[node.byte_range()];
    let mut around = node.parent();
    while let Some(outer) = around {
        if matches!(outer.kind(), "method_declaration" | "delegate_declaration")
            && let Some(parameters) = outer.child_by_field_name("type_parameters")
        {
            let mut cursor = parameters.walk();
            let mut names =
                parameters.named_children(&mut cursor).filter_map(|one| one.child_by_field_name("name"));
            if names.any(|one| &text[one.byte_range()] == name) {
                return true;
            }
        }
        around = outer.parent();
    }
    false
}

fn csharp_files(root: &Path, found: &mut Vec<PathBuf>) {
    let Ok(entries) = std::fs::read_dir(root) else { return };
    for entry in entries.flatten() {
        let path = entry.path();
        if path.is_dir() {
            csharp_files(&path, found);
        } else if path.extension().is_some_and(|ext| ext == "cs") {
            found.push(path);
        }
    }
}

/// Compares all files below `root`; returns how many of them the grammar could not read.
fn compare(root: &Path, tolerated: f64) -> usize {
    let mut files = Vec::new();
    csharp_files(root, &mut files);
    files.sort();
    assert!(!files.is_empty(), "no C# file below {}", root.display());
    let (mut agreed, mut differing, mut unread) = (0usize, Vec::new(), 0usize);
    for path in &files {
        let Ok(text) = std::fs::read(path) else { continue };
        let Some(grammar) = theirs(&text) else {
            unread += 1;
            continue;
        };
        let own = ours(&text);
        let mut note = |kind: &str, a: Vec<String>, b: Vec<String>| {
            differing.extend(a.into_iter().map(|x| format!("{}: {kind} only here: {x}", path.display())));
            differing.extend(
                b.into_iter().map(|x| format!("{}: {kind} only in the grammar: {x}", path.display())),
            );
        };
        let strings =
            |set: &BTreeSet<String>, other: &BTreeSet<String>| set.difference(other).cloned().collect();
        note(
            "declared",
            strings(&own.declared, &grammar.declared),
            strings(&grammar.declared, &own.declared),
        );
        note("using", strings(&own.usings, &grammar.usings), strings(&grammar.usings, &own.usings));
        // The grammar marks fewer places as types than we do (casts, patterns), so only its view must be held.
        let missed =
            grammar.types.difference(&own.types).map(|(at, name)| format!("{name} at {at}")).collect();
        note("type", Vec::new(), missed);
        agreed += grammar.declared.len() + grammar.usings.len() + grammar.types.len();
    }
    let share = differing.len() as f64 / agreed.max(1) as f64;
    if let Ok(file) = std::env::var("FERNGATE_DIFFERENCES") {
        std::fs::write(file, differing.join("\n")).unwrap();
    }
    let shown = differing.iter().take(20).cloned().collect::<Vec<_>>().join("\n");
    println!(
        "{} files, {unread} with errors for the grammar, {agreed} facts, {} differ",
        files.len(),
        differing.len()
    );
    assert!(share <= tolerated, "{} of {agreed} differ:\n{shown}", differing.len());
    unread
}

#[test]
fn agrees_on_every_fixture() {
    let fixtures = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures/csharp");
    assert_eq!(compare(&fixtures, 0.0), 0, "the grammar reads every fixture");
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn agrees_on_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    compare(Path::new(&root), 0.001);
}
