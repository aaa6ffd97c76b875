//! Parses a tree's code with the languages' grammars, on all cores, to compare with reading it:
//! `cargo run --release -p ferngate-facts --example grammar_parse DIR`.
#![allow(clippy::print_stdout, reason = "an example speaks to a person")]

use rayon::prelude::*;
use tree_sitter::{Language, Parser};

fn grammar(extension: &str) -> Option<Language> {
    Some(match extension {
        "cs" => tree_sitter_c_sharp::LANGUAGE.into(),
        "java" => tree_sitter_java::LANGUAGE.into(),
        "kt" => tree_sitter_kotlin_ng::LANGUAGE.into(),
        "php" => tree_sitter_php::LANGUAGE_PHP.into(),
        "ts" => tree_sitter_typescript::LANGUAGE_TYPESCRIPT.into(),
        "js" => tree_sitter_javascript::LANGUAGE.into(),
        "py" => tree_sitter_python::LANGUAGE.into(),
        "go" => tree_sitter_go::LANGUAGE.into(),
        "rs" => tree_sitter_rust::LANGUAGE.into(),
        "c" | "h" | "cc" | "cpp" => tree_sitter_cpp::LANGUAGE.into(),
        "R" => tree_sitter_r::LANGUAGE.into(),
        _ => return None,
    })
}

fn main() {
    let root = std::path::PathBuf::from(std::env::args().nth(1).unwrap_or_default());
    let walk = ferngate_facts::walk(&root);
    let parse = |parser: &mut Parser, path: &ferngate_model::ProjectPath| -> Option<usize> {
        let language = grammar(path.extension())?;
        let text = std::fs::read(root.join(path.as_str())).ok()?;
        parser.set_language(&language).ok()?;
        Some(parser.parse(&text, None)?.root_node().descendant_count())
    };
    let nodes: usize =
        walk.files.par_iter().map_init(Parser::new, |parser, path| parse(parser, path).unwrap_or(0)).sum();
    println!("{nodes} nodes");
}
