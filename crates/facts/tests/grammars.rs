//! Holds the readers of Java, Kotlin and PHP against the grammars of these languages: what a file declares, under
//! which namespace, and what it imports, each with its place.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::print_stdout, reason = "a test may fail loudly")]

use ferngate_facts::languages::{LANGUAGES, language_of};
use ferngate_model::{DeclarationKind, ReadOptions, ScopeKind, Span};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use tree_sitter::{Language, Node, Parser};

/// Byte offset and text: of a declared name its start, of an import its end.
type Places = BTreeSet<(usize, String)>;

/// What both sides say of one file.
#[derive(Debug, Default)]
struct View {
    declared: Places,
    namespaces: Places,
    imports: Places,
}

/// Where a grammar keeps what is compared.
struct Grammar {
    extension: &'static str,
    language: fn() -> Language,
    /// Nodes that declare, wherever they stand.
    types: &'static [&'static str],
    /// Nodes that declare outside of types only.
    outer: &'static [&'static str],
    namespaces: &'static [&'static str],
    imports: &'static [&'static str],
}

const GRAMMARS: &[Grammar] = &[
    Grammar {
        extension: "java",
        language: || tree_sitter_java::LANGUAGE.into(),
        types: &[
            "class_declaration",
            "interface_declaration",
            "enum_declaration",
            "record_declaration",
            "annotation_type_declaration",
        ],
        outer: &[],
        namespaces: &["package_declaration"],
        imports: &["import_declaration"],
    },
    Grammar {
        extension: "kt",
        language: || tree_sitter_kotlin_ng::LANGUAGE.into(),
        types: &["class_declaration", "object_declaration", "companion_object", "type_alias"],
        outer: &["function_declaration", "property_declaration"],
        namespaces: &["package_header"],
        imports: &["import"],
    },
    Grammar {
        extension: "php",
        language: || tree_sitter_php::LANGUAGE_PHP.into(),
        types: &["class_declaration", "interface_declaration", "trait_declaration", "enum_declaration"],
        outer: &["function_definition"],
        namespaces: &["namespace_definition"],
        imports: &["namespace_use_clause"],
    },
];

fn text_of(text: &[u8], start: usize, end: usize) -> String {
    let plain = String::from_utf8_lossy(&text[start..end]).into_owned();
    plain.chars().filter(|c| !c.is_whitespace() && *c != '`').collect()
}

fn ours(grammar: &Grammar, text: &[u8]) -> View {
    let language = LANGUAGES[language_of(grammar.extension).unwrap()];
    let facts = language.facts(text, ReadOptions::default());
    let place = |span: Span| (span.start as usize, text_of(text, span.start as usize, span.end as usize));
    let mut view = View::default();
    for declared in &facts.declarations {
        // `define` of PHP and the names that we make up are no declarations for a grammar.
        let spelled = !matches!(declared.kind, DeclarationKind::Anonymous | DeclarationKind::Facade);
        let constant = grammar.extension == "php" && declared.kind == DeclarationKind::Constant;
        if spelled && !constant && !declared.name_span.is_empty() {
            view.declared.insert(place(declared.name_span));
        }
    }
    for scope in &facts.scopes {
        if let ScopeKind::Namespace { name, .. } = &scope.kind
            && !name.is_empty()
        {
            view.namespaces.insert(place(*name));
        }
    }
    for import in &facts.imports {
        let last = import.target_span.of(text).rsplit(|byte| !byte.is_ascii_alphanumeric() && *byte != b'_');
        let last = last.map(|part| String::from_utf8_lossy(part).into_owned()).find(|part| !part.is_empty());
        view.imports.insert((import.target_span.end as usize, last.unwrap_or_default()));
    }
    view
}

fn theirs(grammar: &Grammar, text: &[u8]) -> Option<View> {
    let mut parser = Parser::new();
    parser.set_language(&(grammar.language)()).unwrap();
    let tree = parser.parse(text, None)?;
    if tree.root_node().has_error() {
        return None;
    }
    let mut view = View::default();
    let mut open = vec![(tree.root_node(), true)];
    while let Some((node, outer)) = open.pop() {
        let kind = node.kind();
        let place = |name: Node| (name.start_byte(), text_of(text, name.start_byte(), name.end_byte()));
        if grammar.types.contains(&kind) || outer && grammar.outer.contains(&kind) {
            view.declared.extend(name_of(node).map(place));
        }
        if grammar.namespaces.contains(&kind) {
            view.namespaces.extend(
                named(node, &["scoped_identifier", "identifier", "qualified_identifier", "namespace_name"])
                    .map(place),
            );
        }
        if grammar.imports.contains(&kind) {
            let kinds = ["scoped_identifier", "identifier", "qualified_identifier", "qualified_name", "name"];
            view.imports.extend(named(node, &kinds).map(|target| {
                let whole = text_of(text, target.start_byte(), target.end_byte());
                let last = whole.rsplit(['.', '\\']).next().unwrap_or_default().to_owned();
                (target.end_byte(), last)
            }));
            continue;
        }
        // Code inside of functions and types declares nothing that others see.
        let closes = matches!(
            kind,
            "class_body"
                | "enum_class_body"
                | "function_body"
                | "declaration_list"
                | "lambda_literal"
                | "getter"
                | "setter"
                | "function_definition"
                | "anonymous_function"
                | "control_structure_body"
                | "block"
        );
        let inside_php_function = grammar.extension == "php" && kind == "compound_statement";
        let mut cursor = node.walk();
        for child in node.children(&mut cursor) {
            open.push((child, outer && (!closes || inside_php_function)));
        }
    }
    Some(view)
}

fn name_of(node: Node) -> Option<Node> {
    if let Some(name) = node.child_by_field_name("name") {
        return Some(name);
    }
    if let Some(name) = node.child_by_field_name("type").filter(|_| node.kind() == "type_alias") {
        return Some(name);
    }
    if node.kind() == "companion_object" {
        return named(node, &["identifier"]);
    }
    let inner = named(node, &["variable_declaration"]).unwrap_or(node);
    named(inner, &["identifier"])
}

fn named<'t>(node: Node<'t>, kinds: &[&str]) -> Option<Node<'t>> {
    let mut cursor = node.walk();
    node.named_children(&mut cursor).find(|child| kinds.contains(&child.kind()))
}

fn files(root: &Path, extension: &str, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(root).into_iter().flatten().flatten() {
        let path = entry.path();
        if path.is_dir() {
            files(&path, extension, found);
        } else if path.extension().is_some_and(|own| own == extension) {
            found.push(path);
        }
    }
}

/// Compares all files below `root`; the share of facts that differ, with the first of them.
fn compare(grammar: &Grammar, root: &Path) -> (f64, Vec<String>) {
    let mut paths = Vec::new();
    files(root, grammar.extension, &mut paths);
    paths.sort();
    let (mut facts, mut unread, mut differing) = (0usize, 0usize, Vec::new());
    for path in &paths {
        let Ok(text) = std::fs::read(path) else { continue };
        let Some(grammars) = theirs(grammar, &text) else {
            unread += 1;
            continue;
        };
        let own = ours(grammar, &text);
        let pairs = [
            ("declared", &own.declared, &grammars.declared),
            ("namespace", &own.namespaces, &grammars.namespaces),
            ("import", &own.imports, &grammars.imports),
        ];
        for (what, a, b) in pairs {
            facts += b.len();
            differing.extend(a.difference(b).map(|x| format!("{}: {what} only here: {x:?}", path.display())));
            differing
                .extend(b.difference(a).map(|x| format!("{}: {what} only there: {x:?}", path.display())));
        }
    }
    println!(
        "{}: {} files, {unread} with errors for the grammar, {facts} facts, {} differ",
        grammar.extension,
        paths.len(),
        differing.len()
    );
    (differing.len() as f64 / facts.max(1) as f64, differing)
}

#[test]
fn agrees_on_every_fixture() {
    let cli = Path::new(env!("CARGO_MANIFEST_DIR")).join("../cli");
    for grammar in GRAMMARS {
        for folder in ["tests/fixtures", "demo/mossgrove"] {
            let (_, differing) = compare(grammar, &cli.join(folder));
            assert!(differing.is_empty(), "{differing:#?}");
        }
    }
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn agrees_on_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    for grammar in GRAMMARS {
        let (share, differing) = compare(grammar, Path::new(&root));
        let shown = &differing[..differing.len().min(90)];
        assert!(share <= 0.001, "{shown:#?}");
    }
}
