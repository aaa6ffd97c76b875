//! From every path in a file to the files that declare what it means.

use super::crates::crates;
use super::names::{Def, Lookup, Names, Want};
use crate::linking::{Tree, join, path_link};
use ferngate_model::{
    Context, FUNCTION, FileFacts, Link, LinkSource, Linker, Links, MACRO, Name, PackageUse, PathBase,
    ProjectFacts, Root,
};

/// Makes the linker.
pub fn make(project: &ProjectFacts) -> Box<dyn Linker + '_> {
    Box::new(RustLinker { tree: Tree::new(project) }.linked())
}

struct RustLinker<'p> {
    tree: Tree<'p>,
}

struct Linked {
    links: Vec<Links>,
}

impl RustLinker<'_> {
    /// Links of all files. The modules borrow the tree, so they are used here and let go.
    fn linked(&self) -> Linked {
        use rayon::prelude::*;
        let mut names = Names::new(&self.tree, crates(&self.tree));
        names.enter_parts();
        let files = 0..self.tree.project.files.len();
        Linked { links: files.into_par_iter().map(|file| links_of(&names, file as u32)).collect() }
    }
}

impl Linker for Linked {
    fn links(&self, file: usize) -> Links {
        self.links[file].clone()
    }
}

fn links_of(names: &Names, file: u32) -> Links {
    let mut links = Links::default();
    let (Some(facts), Some(bases)) = (names.facts(file), names.instances.get(&file)) else { return links };
    for (at, path) in facts.paths.iter().enumerate() {
        let found = match path.base {
            PathBase::Anywhere => {
                join(names.tree.folder_of(file as usize), &path.path).and_then(|path| names.tree.file(&path))
            }
            _ => names.modules.get(&(file, at as u32)).copied(),
        };
        match found {
            Some(to) => links.files.push(path_link(at, path, to)),
            None if !path.weak && path.base == PathBase::Folder => links.missing.push(at as u32),
            None => {}
        }
    }
    let counts = own_counts(facts);
    for &base in bases {
        let mut lookup = Lookup::new(names);
        for (node, &count) in counts.iter().enumerate() {
            if count > 0 {
                follow(&mut lookup, facts, (file, base), (node as u32, count), &mut links);
            }
        }
    }
    links
}

/// For each use, how often a path ends with it.
fn own_counts(facts: &FileFacts) -> Vec<u32> {
    let mut counts: Vec<u32> = facts.uses.iter().map(|used| used.count).collect();
    for used in &facts.uses {
        if let Err(parent) = used.parent.get() {
            let around = &mut counts[parent as usize];
            *around = around.saturating_sub(used.count);
        }
    }
    counts
}

fn follow(
    lookup: &mut Lookup,
    facts: &FileFacts,
    (file, base): (u32, u32),
    (node, count): (u32, u32),
    links: &mut Links,
) {
    let used = &facts.uses[node as usize];
    let want = match (used.context, used.arity) {
        (Context::Import, _) => Want::All,
        (_, MACRO) => Want::Macro,
        (_, FUNCTION) => Want::Value,
        _ => Want::TypeOrValue,
    };
    let found = lookup.used(facts, base, node, want);
    if found.is_empty() {
        package(lookup.names, facts, (base, node), links);
    }
    for def in found {
        let (to, name) = match def {
            Def::Module(space) => (lookup.names.spaces[space as usize].file, Name(0)),
            Def::Part(file, name) => (file, name),
            Def::Item(file, at) => {
                let name =
                    lookup.names.facts(file).map_or(Name(0), |facts| facts.declarations[at as usize].name);
                (file, name)
            }
        };
        let source = LinkSource::Use(node);
        let known =
            links.files.iter().any(|link| link.to == to && link.source == source && link.name == name);
        if to != file && !known {
            links.files.push(Link { to, source, at: used.first, count, name, behind: None, weak: false });
        }
    }
}

/// What leads nowhere here may begin with the name of a package.
fn package(names: &Names, facts: &FileFacts, (base, node): (u32, u32), links: &mut Links) {
    let mut at = node;
    let (mut first, root) = loop {
        let used = &facts.uses[at as usize];
        match used.parent.get() {
            Ok(root) => break (used, root),
            Err(parent) => at = parent,
        }
    };
    if root == Root::Member {
        first = &facts.uses[node as usize];
    }
    let krate = names.spaces[base as usize].krate as usize;
    if let Some(name) = names.crates[krate].packages.get(&first.name)
        && links.packages.iter().all(|package| *package.name != **name)
    {
        links.packages.push(PackageUse { name: (*name).into(), at: first.first });
    }
}
