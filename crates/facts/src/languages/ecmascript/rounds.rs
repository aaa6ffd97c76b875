//! The rounds in which a specifier's file is looked for: by each of them in all places, before the next.
//!
//! So does the compiler of TypeScript ("Module Resolution", its handbook): a typed file of a package's folder comes before
//! the plain one that its description names. A script is run, so what the runtime opens is looked for first ("Modules:
//! loading", the runtime's reference).

use crate::linking::Tree;

/// Endings, each of which stands for some others.
type Replaced = &'static [(&'static str, &'static [&'static str])];

/// What counts in one round.
pub struct Round {
    /// Endings that may be left out.
    added: &'static [&'static str],
    /// What an ending that is spelled may stand for; longer endings first.
    replaced: Replaced,
    /// The endings that a whole path must have to count; any, where none is named.
    whole: &'static [&'static str],
    /// Whether a package's types come before what it runs.
    pub knows_types: bool,
}

/// What is there before the compiler has run. Of a source that is spelled with its ending, only the declarations may be.
const SOURCES: Replaced = &[
    (".d.ts", &[".ts", ".tsx"]),
    (".d.mts", &[".mts"]),
    (".d.cts", &[".cts"]),
    (".ts", &[".d.ts"]),
    (".tsx", &[".d.ts"]),
    (".mts", &[".d.mts"]),
    (".cts", &[".d.cts"]),
    (".js", &[".ts", ".tsx", ".d.ts"]),
    (".jsx", &[".ts", ".tsx", ".d.ts"]),
    (".mjs", &[".mts", ".d.mts"]),
    (".cjs", &[".cts", ".d.cts"]),
];
/// What is left when the compiler is told to keep elements as they are.
const SCRIPTS: Replaced = &[(".js", &[".jsx"]), (".jsx", &[".js"])];

/// What is found last: endings that must be spelled, but for tools that are told otherwise.
const REST: Round = Round {
    added: &[".json", ".mts", ".cts", ".mjs", ".cjs", ".vue", ".svelte"],
    replaced: SCRIPTS,
    whole: &[],
    knows_types: false,
};

/// From a file of TypeScript.
const TYPED: &[Round] = &[
    Round {
        added: &[".ts", ".tsx", ".d.ts"],
        replaced: SOURCES,
        whole: &[".ts", ".tsx", ".mts", ".cts"],
        knows_types: true,
    },
    Round { added: &[".js", ".jsx"], replaced: &[], whole: &[], knows_types: false },
    REST,
];

/// From a file of JavaScript.
const PLAIN: &[Round] = &[
    Round { added: &[".js", ".jsx", ".json"], replaced: &[], whole: &[], knows_types: false },
    Round { added: &[".ts", ".tsx", ".d.ts"], replaced: SOURCES, whole: &[], knows_types: true },
    REST,
];

/// The rounds from a file with types, or without.
pub fn rounds(typed: bool) -> &'static [Round] {
    if typed { TYPED } else { PLAIN }
}

impl Round {
    /// The file that `path` means, written whole or without its ending.
    pub fn file(&self, tree: &Tree, path: &str) -> Option<u32> {
        let counts = self.whole.is_empty() || self.whole.iter().any(|ending| path.ends_with(ending));
        let whole = if counts { tree.file(path) } else { None };
        whole.or_else(|| with_ending(tree, path, self.added)).or_else(|| {
            let (ending, sources) = self.replaced.iter().find(|(ending, _)| path.ends_with(ending))?;
            with_ending(tree, &path[..path.len() - ending.len()], sources)
        })
    }
}

fn with_ending(tree: &Tree, path: &str, endings: &[&str]) -> Option<u32> {
    let mut whole = path.to_owned();
    endings.iter().find_map(|ending| {
        whole.truncate(path.len());
        whole.push_str(ending);
        tree.file(&whole)
    })
}
