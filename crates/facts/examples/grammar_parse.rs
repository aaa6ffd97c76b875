//! Parses a tree's C# files with the grammar, two threads at once, to compare with reading them:
//! `cargo run --release -p ferngate-facts --example grammar_parse DIR`.
#![allow(clippy::print_stdout, reason = "an example speaks to a person")]

use rayon::prelude::*;

fn main() {
    let root = std::path::PathBuf::from(std::env::args().nth(1).unwrap_or_default());
    let walk = ferngate_facts::walk(&root);
    let nodes: usize = walk
        .files
        .par_iter()
        .filter(|path| path.extension() == "cs")
        .map_init(tree_sitter::Parser::new, |parser, path| {
            let Ok(text) = std::fs::read(root.join(path.as_str())) else { return 0 };
            if parser.set_language(&tree_sitter_c_sharp::LANGUAGE.into()).is_err() {
                return 0;
            }
            parser.parse(&text, None).map_or(0, |tree| tree.root_node().descendant_count())
        })
        .sum();
    println!("{nodes} nodes");
}
