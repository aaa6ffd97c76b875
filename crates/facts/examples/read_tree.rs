//! Reads a tree and prints how much was found: `cargo run --release -p ferngate-facts --example read_tree DIR`.
#![allow(clippy::print_stdout, reason = "an example speaks to a person")]
use std::time::Instant;

fn main() {
    let root = std::path::PathBuf::from(std::env::args().nth(1).unwrap_or_default());
    let begin = Instant::now();
    let walk = ferngate_facts::walk(&root);
    println!("walk {:?} {}", begin.elapsed(), walk.files.len());
    let begin = Instant::now();
    let project = ferngate_facts::read_project(&root, &walk, Default::default());
    println!("read {:?} {} bytes", begin.elapsed(), project.bytes);
    let facts = project.files.iter().filter_map(|file| file.facts.as_deref());
    let (mut lines, mut uses, mut declarations, mut members) = (0u64, 0, 0, 0);
    for f in facts {
        lines += u64::from(f.lines);
        uses += f.uses.len();
        declarations += f.declarations.len();
        members += f.members.len();
    }
    println!(
        "{lines} lines {uses} uses {declarations} declarations {members} members {} problems",
        project.problems.len()
    );
}
