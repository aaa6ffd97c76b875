//! Holds the readers of languages whose imports are paths against the grammars of these languages: what a file
//! declares outside of functions and types, and what it imports, each with its place.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::print_stdout, reason = "a test may fail loudly")]

use ferngate_facts::languages::{LANGUAGES, language_of};
use ferngate_model::{DeclarationKind, FileFacts, PathBase, ReadOptions, Span};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use tree_sitter::{Language, Node, Parser};

/// What is said, with the first byte and the text.
type Facts = BTreeSet<(&'static str, usize, String)>;

/// How a grammar and we are compared.
struct Grammar {
    extensions: &'static [&'static str],
    language: fn() -> Language,
    /// What one node of the grammar says; whether its children are looked at.
    node: fn(&mut Facts, &[u8], Node) -> bool,
    /// What of our facts is compared.
    ours: fn(&mut Facts, &[u8], &FileFacts),
}

const GRAMMARS: &[Grammar] = &[
    Grammar {
        extensions: &["ts"],
        language: || tree_sitter_typescript::LANGUAGE_TYPESCRIPT.into(),
        node: script,
        ours: imports_only,
    },
    Grammar {
        extensions: &["tsx"],
        language: || tree_sitter_typescript::LANGUAGE_TSX.into(),
        node: script,
        ours: imports_only,
    },
    Grammar {
        extensions: &["js", "jsx"],
        language: || tree_sitter_javascript::LANGUAGE.into(),
        node: script,
        ours: imports_only,
    },
    Grammar {
        extensions: &["py"],
        language: || tree_sitter_python::LANGUAGE.into(),
        node: python,
        ours: python_ours,
    },
    Grammar { extensions: &["go"], language: || tree_sitter_go::LANGUAGE.into(), node: go, ours: all },
    Grammar {
        extensions: &["rs"],
        language: || tree_sitter_rust::LANGUAGE.into(),
        node: rust,
        ours: rust_ours,
    },
    Grammar {
        extensions: &["c", "h", "cpp", "cc", "hpp"],
        language: || tree_sitter_cpp::LANGUAGE.into(),
        node: cpp,
        ours: cpp_ours,
    },
    Grammar { extensions: &["R", "r"], language: || tree_sitter_r::LANGUAGE.into(), node: r, ours: r_ours },
];

fn text_of(text: &[u8], node: Node) -> String {
    String::from_utf8_lossy(&text[node.byte_range()]).into_owned()
}

fn add(facts: &mut Facts, sort: &'static str, text: &[u8], node: Node) {
    facts.insert((sort, node.start_byte(), text_of(text, node)));
}

/// The inside of a string.
fn add_inner(facts: &mut Facts, text: &[u8], string: Node) {
    let whole = text_of(text, string);
    let inner = &whole[1..whole.len().saturating_sub(1).max(1)];
    if !inner.is_empty() {
        facts.insert(("import", string.start_byte() + 1, inner.to_owned()));
    }
}

fn span_fact(sort: &'static str, text: &[u8], span: Span) -> (&'static str, usize, String) {
    (sort, span.start as usize, String::from_utf8_lossy(span.of(text)).into_owned())
}

fn declared(facts: &mut Facts, text: &[u8], own: &FileFacts, counts: impl Fn(DeclarationKind) -> bool) {
    let counted = own.declarations.iter().filter(|declared| counts(declared.kind));
    facts.extend(counted.map(|declared| span_fact("declared", text, declared.name_span)));
}

fn imported(facts: &mut Facts, text: &[u8], own: &FileFacts) {
    facts.extend(own.paths.iter().filter(|path| !path.weak).map(|path| span_fact("import", text, path.span)));
}

fn imports_only(facts: &mut Facts, text: &[u8], own: &FileFacts) {
    imported(facts, text, own);
    // A reference in a comment is a comment for a grammar.
    facts.retain(|(_, at, _)| {
        let line = text[..*at].iter().rposition(|byte| *byte == b'\n').map_or(0, |end| end + 1);
        !text[line..].trim_ascii_start().starts_with(b"///")
    });
}

fn all(facts: &mut Facts, text: &[u8], own: &FileFacts) {
    declared(facts, text, own, |_| true);
    imported(facts, text, own);
}

fn script(facts: &mut Facts, text: &[u8], node: Node) -> bool {
    let literal = |node: Node| node.kind() == "string";
    match node.kind() {
        "import_statement" | "export_statement" => {
            if let Some(source) = node.child_by_field_name("source") {
                add_inner(facts, text, source);
            }
        }
        "import_require_clause" => {
            let source = node.child_by_field_name("source");
            source.into_iter().for_each(|source| add_inner(facts, text, source));
        }
        // In a file that is a module it adds to another one.
        "module" if in_module(node) => {
            let name = node.child_by_field_name("name").filter(|name| literal(*name));
            name.into_iter().for_each(|name| add_inner(facts, text, name));
        }
        "call_expression" => {
            let called = node
                .child_by_field_name("function")
                .map(|function| text_of(text, function))
                .unwrap_or_default();
            let list = node.child_by_field_name("arguments").filter(|list| list.kind() == "arguments");
            let Some(list) = list else { return true };
            let mut cursor = list.walk();
            let plain_arguments =
                list.named_children(&mut cursor).filter(|argument| argument.kind() != "comment");
            let arguments: Vec<Node> = plain_arguments.take(2).collect();
            let Some(&first) = arguments.first() else { return true };
            let names = matches!(
                called.as_str(),
                "import" | "require" | "require.resolve" | "require.resolveWeak" | "require.ensure"
            );
            let plain = first.kind() == "template_string"
                && first.named_child_count() <= 1
                && !text_of(text, first).contains("${");
            if names && (literal(first) || plain) {
                add_inner(facts, text, first);
            }
            if matches!(called.as_str(), "require" | "define" | "requirejs") {
                let list = arguments.iter().enumerate().find(|(at, argument)| {
                    argument.kind() == "array" && (*at == 0 || called == "define" && literal(first))
                });
                if let Some((_, list)) = list {
                    let mut cursor = list.walk();
                    let names = list
                        .named_children(&mut cursor)
                        .take_while(|name| literal(*name) || name.kind() == "comment");
                    for name in names.filter(|name| literal(*name)) {
                        let known = text_of(text, name);
                        if !matches!(known.trim_matches(['"', '\'']), "require" | "exports" | "module") {
                            add_inner(facts, text, name);
                        }
                    }
                }
            }
        }
        _ => {}
    }
    true
}

/// Whether the file around `node` imports or exports at its outermost level.
fn in_module(node: Node) -> bool {
    let root = std::iter::successors(Some(node), |node| node.parent()).last().unwrap_or(node);
    let mut cursor = root.walk();
    root.named_children(&mut cursor)
        .any(|child| matches!(child.kind(), "import_statement" | "export_statement"))
}

fn python(facts: &mut Facts, text: &[u8], node: Node) -> bool {
    match node.kind() {
        "import_statement" => {
            let mut cursor = node.walk();
            let names = node.named_children(&mut cursor);
            for name in names.filter(|name| matches!(name.kind(), "dotted_name" | "aliased_import")) {
                let name = name.child_by_field_name("name").unwrap_or(name);
                add(facts, "import", text, name);
            }
        }
        "import_from_statement" => {
            let module = node.child_by_field_name("module_name");
            module.into_iter().for_each(|module| add(facts, "import", text, module));
        }
        "future_import_statement" => {
            let start = node.start_byte() + text_of(text, node).find("__future__").unwrap_or(0);
            facts.insert(("import", start, "__future__".to_owned()));
        }
        "function_definition" | "class_definition" => {
            let around =
                node.parent().filter(|parent| parent.kind() == "decorated_definition").or(Some(node));
            let outer = around.and_then(|node| node.parent()).is_some_and(|parent| parent.kind() == "module");
            if let (true, Some(name)) = (outer, node.child_by_field_name("name")) {
                add(facts, "declared", text, name);
            }
        }
        _ => {}
    }
    true
}

fn python_ours(facts: &mut Facts, text: &[u8], own: &FileFacts) {
    declared(facts, text, own, |kind| kind != DeclarationKind::Constant);
    // A module that is imported by a call is no import for a grammar.
    let quoted = |span: Span| matches!(text.get((span.start as usize).wrapping_sub(1)), Some(b'"' | b'\''));
    let stated = own.paths.iter().filter(|path| !path.weak && !quoted(path.span));
    facts.extend(stated.map(|path| span_fact("import", text, path.span)));
}

fn go(facts: &mut Facts, text: &[u8], node: Node) -> bool {
    match node.kind() {
        "package_clause" => {
            let name = node.named_child(0);
            name.into_iter().for_each(|name| add(facts, "declared", text, name));
        }
        "import_spec" => {
            let path = node.child_by_field_name("path").filter(|path| text_of(text, *path) != "\"C\"");
            path.into_iter().for_each(|path| add_inner(facts, text, path));
        }
        "function_declaration" | "type_spec" | "type_alias" | "const_spec" | "var_spec" => {
            let mut cursor = node.walk();
            for name in node.children_by_field_name("name", &mut cursor).filter(|name| name.is_named()) {
                if text_of(text, name) != "_" {
                    add(facts, "declared", text, name);
                }
            }
            return false;
        }
        "method_declaration" => return false,
        _ => {}
    }
    true
}

fn rust(facts: &mut Facts, text: &[u8], node: Node) -> bool {
    match node.kind() {
        "use_declaration" => {
            let start = node.start_byte() + text_of(text, node).find("use ").unwrap_or(0);
            facts.insert(("use", start, String::new()));
            return false;
        }
        "function_item"
        | "struct_item"
        | "enum_item"
        | "trait_item"
        | "type_item"
        | "const_item"
        | "static_item"
        | "mod_item"
        | "union_item"
        | "macro_definition"
        | "function_signature_item" => {
            let associated =
                around_item(node).is_some_and(|around| matches!(around.kind(), "impl_item" | "trait_item"));
            let name = node.child_by_field_name("name").filter(|_| !associated);
            if let Some(name) = name.filter(|name| text_of(text, *name) != "_") {
                add(facts, "declared", text, name);
            }
        }
        // What a macro is given is text for a grammar.
        "macro_invocation" => {
            facts.insert(("inside", node.start_byte(), node.end_byte().to_string()));
            return false;
        }
        "token_tree" | "attribute_item" | "macro_rule" => return false,
        _ => {}
    }
    true
}

/// The item that directly holds `node`.
fn around_item(node: Node) -> Option<Node> {
    let items = [
        "impl_item",
        "trait_item",
        "function_item",
        "source_file",
        "mod_item",
        "const_item",
        "closure_expression",
    ];
    std::iter::successors(node.parent(), |node| node.parent()).find(|around| items.contains(&around.kind()))
}

fn rust_ours(facts: &mut Facts, text: &[u8], own: &FileFacts) {
    declared(facts, text, own, |_| true);
    let uses = own.imports.iter().filter(|import| text[import.span.start as usize..].starts_with(b"use"));
    facts.extend(uses.map(|import| ("use", import.span.start as usize, String::new())));
}

fn cpp(facts: &mut Facts, text: &[u8], node: Node) -> bool {
    match node.kind() {
        "preproc_include" => {
            let path = node
                .child_by_field_name("path")
                .filter(|path| path.kind() != "identifier" && path.kind() != "call_expression");
            path.into_iter().for_each(|path| add_inner(facts, text, path));
        }
        "preproc_def" | "preproc_function_def" => {
            let name = node.child_by_field_name("name");
            name.into_iter().for_each(|name| add(facts, "declared", text, name));
        }
        _ => {}
    }
    true
}

fn cpp_ours(facts: &mut Facts, text: &[u8], own: &FileFacts) {
    declared(facts, text, own, |kind| kind == DeclarationKind::Constant);
    let named = own.paths.iter().filter(|path| !path.weak && path.base != PathBase::Name);
    facts.extend(named.map(|path| span_fact("import", text, path.span)));
}

fn r(facts: &mut Facts, text: &[u8], node: Node) -> bool {
    match node.kind() {
        "binary_operator" => {
            let sign =
                node.child_by_field_name("operator").map(|sign| text_of(text, sign)).unwrap_or_default();
            let name = node.child_by_field_name("lhs").filter(|name| name.kind() == "identifier");
            let mut around = std::iter::successors(node.parent(), |node| node.parent());
            let outer = around.all(|around| {
                !matches!(
                    around.kind(),
                    "function_definition"
                        | "call"
                        | "arguments"
                        | "argument"
                        | "subset"
                        | "subset2"
                        | "parameters"
                )
            });
            if let (true, Some(name)) = (outer && matches!(sign.as_str(), "<-" | "="), name) {
                facts.insert((
                    "declared",
                    name.start_byte(),
                    text_of(text, name).trim_matches('`').to_owned(),
                ));
            }
            true
        }
        "namespace_operator" => {
            let package = node.child_by_field_name("lhs");
            package.into_iter().for_each(|package| add(facts, "import", text, package));
            true
        }
        _ => true,
    }
}

fn r_ours(facts: &mut Facts, text: &[u8], own: &FileFacts) {
    for declared in &own.declarations {
        let (sort, at, name) = span_fact("declared", text, declared.name_span);
        let behind = text[declared.name_span.end as usize..].trim_ascii_start();
        let quoted = at > 0 && text[at - 1] == b'`';
        let string = at > 0 && matches!(text[at - 1], b'"' | b'\'');
        if !string && (quoted || behind.starts_with(b"<-") || behind.starts_with(b"=")) {
            facts.insert((sort, at - usize::from(quoted), name));
        }
    }
    let packages = own.paths.iter().filter(|path| text[path.span.end as usize..].starts_with(b"::"));
    facts.extend(packages.map(|path| span_fact("import", text, path.span)));
}

fn theirs(grammar: &Grammar, parser: &mut Parser, text: &[u8]) -> Option<Facts> {
    parser.set_language(&(grammar.language)()).unwrap();
    let tree = parser.parse(text, None)?;
    if tree.root_node().has_error() {
        return None;
    }
    let mut facts = Facts::new();
    let mut open = vec![tree.root_node()];
    while let Some(node) = open.pop() {
        if (grammar.node)(&mut facts, text, node) {
            let mut cursor = node.walk();
            open.extend(node.children(&mut cursor));
        }
    }
    Some(facts)
}

fn files(root: &Path, extensions: &[&str], found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(root).into_iter().flatten().flatten() {
        let path = entry.path();
        if path.is_symlink() {
        } else if path.is_dir() {
            files(&path, extensions, found);
        } else if path.extension().is_some_and(|own| extensions.iter().any(|extension| own == *extension)) {
            found.push(path);
        }
    }
}

/// Compares all files below `root`; the share of facts that differ, with the first of them.
fn compare(grammar: &Grammar, root: &Path) -> (f64, Vec<String>) {
    let mut paths = Vec::new();
    files(root, grammar.extensions, &mut paths);
    paths.sort();
    let (mut count, mut unread, mut differing) = (0usize, 0usize, Vec::new());
    let mut parser = Parser::new();
    for path in &paths {
        let Ok(text) = std::fs::read(path) else { continue };
        let Some(grammars) = theirs(grammar, &mut parser, &text) else {
            unread += 1;
            continue;
        };
        let language = LANGUAGES[language_of(grammar.extensions[0]).unwrap()];
        let mut own = Facts::new();
        (grammar.ours)(&mut own, &text, &language.facts(&text, ReadOptions::default()));
        let inside = |at: usize| {
            let mut ranges = grammars.iter().filter(|(sort, ..)| *sort == "inside");
            ranges.any(|(_, start, end)| *start <= at && at < end.parse().unwrap())
        };
        own.retain(|(_, at, _)| !inside(*at));
        let grammars: Facts = grammars.iter().filter(|(sort, ..)| *sort != "inside").cloned().collect();
        count += grammars.len();
        differing.extend(own.difference(&grammars).map(|x| format!("{}: only here: {x:?}", path.display())));
        differing.extend(grammars.difference(&own).map(|x| format!("{}: only there: {x:?}", path.display())));
    }
    let extension = grammar.extensions[0];
    println!(
        "{extension}: {} files, {unread} with errors for the grammar, {count} facts, {} differ",
        paths.len(),
        differing.len()
    );
    (differing.len() as f64 / count.max(1) as f64, differing)
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
    // Our own code is real code too.
    let rust = GRAMMARS.iter().find(|grammar| grammar.extensions == ["rs"]).unwrap();
    let (share, differing) = compare(rust, &cli.join(".."));
    assert!(share <= 0.001, "{differing:#?}");
}

#[test]
#[ignore = "needs a folder of real code in FERNGATE_CORPUS_DIR"]
fn agrees_on_real_code() {
    let root = std::env::var("FERNGATE_CORPUS_DIR").expect("FERNGATE_CORPUS_DIR names a folder");
    let compared: Vec<(f64, Vec<String>)> =
        GRAMMARS.iter().map(|grammar| compare(grammar, Path::new(&root))).collect();
    for (share, differing) in compared {
        let shown = &differing[..differing.len().min(60)];
        assert!(share <= 0.001, "{shown:#?}");
    }
}
