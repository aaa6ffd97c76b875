//! Modules, what each declares and imports, and names looked up in them through every re-export.
//!
//! The rules are those of the reference of the language, chapter *Names*: items before globs, blocks before the module
//! around them, crates behind both.

use super::crates::Crate;
use crate::linking::{Tree, join, parent};
use ferngate_model::{
    Access, Context, DeclarationKind, FUNCTION, FileFacts, ImportKind, MACRO, Name, PathBase, Root,
    ScopeKind, UseParent,
};
use rustc_hash::{FxHashMap, FxHashSet};

/// A file may be a module of this many crates.
const MOST_INSTANCES: usize = 6;
/// Modules inside of modules are followed this deep, in files.
const DEEPEST_MODULE: usize = 48;
/// Imports of imports are followed this far.
pub(super) const LONGEST_WAY: usize = 40;

/// What a name means.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Def {
    /// A module: its space.
    Module(u32),
    /// A declared item: its file and its index there.
    Item(u32, u32),
    /// What a block in this file gives to a type.
    Part(u32, Name),
}

/// Which of the spaces of names an item must be in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Want {
    /// Any: the target of an import.
    All,
    /// A module or type, with more of the path behind it.
    Around,
    /// A type or value.
    TypeOrValue,
    /// A function, constant or constructor.
    Value,
    /// A macro.
    Macro,
}

/// A place in which names are looked up: a module or a block.
pub struct Space {
    /// The module around a module; what is around a block.
    pub parent: Option<u32>,
    pub is_module: bool,
    pub krate: u32,
    pub file: u32,
    items: FxHashMap<Name, Vec<Def>>,
    imports: FxHashMap<Name, Vec<u32>>,
    globs: Vec<u32>,
}

/// All modules of all crates.
pub struct Names<'t, 'p> {
    pub tree: &'t Tree<'p>,
    pub crates: Vec<Crate<'p>>,
    pub spaces: Vec<Space>,
    /// For each crate, the space of its root.
    pub roots: Vec<u32>,
    /// For each file, where its spaces begin: one for each crate that it is part of.
    pub instances: FxHashMap<u32, Vec<u32>>,
    /// For each file and path that stands for a module, the file of the module.
    pub modules: FxHashMap<(u32, u32), u32>,
    /// Macros of a crate by name, wherever they are declared.
    macros: FxHashMap<(u32, Name), Vec<(u32, u32)>>,
    /// Functions and constants of a type that blocks in other files give to it: by the type and the name, the files.
    pub(super) parts: FxHashMap<(Def, Name), Vec<u32>>,
}

struct Start {
    krate: u32,
    file: u32,
    parent: Option<u32>,
    /// The folder of the files of its modules.
    home: String,
    depth: usize,
}

impl<'t, 'p> Names<'t, 'p> {
    /// Enters the modules of `crates`, and of files that none of them reaches.
    pub fn new(tree: &'t Tree<'p>, crates: Vec<Crate<'p>>) -> Self {
        let mut names = Self {
            tree,
            crates: Vec::new(),
            spaces: Vec::new(),
            roots: Vec::new(),
            instances: FxHashMap::default(),
            modules: FxHashMap::default(),
            macros: FxHashMap::default(),
            parts: FxHashMap::default(),
        };
        let mut claimed = FxHashSet::default();
        for one in crates {
            names.enter_crate(one, &mut claimed);
        }
        for file in super::crates::left_over(tree.project, &claimed) {
            if !claimed.contains(&file) {
                names.enter_crate(super::crates::lone(file), &mut claimed);
            }
        }
        names
    }

    pub fn facts(&self, file: u32) -> Option<&'p FileFacts> {
        self.tree.project.files[file as usize].facts.as_deref()
    }

    fn enter_crate(&mut self, one: Crate<'p>, claimed: &mut FxHashSet<u32>) {
        let (krate, root) = (self.crates.len() as u32, one.root);
        self.crates.push(one);
        self.roots.push(self.spaces.len() as u32);
        let home = self.tree.folder_of(root as usize).to_owned();
        self.enter_file(&Start { krate, file: root, parent: None, home, depth: 0 });
        let entered = self.spaces[self.roots[krate as usize] as usize..].iter();
        claimed.extend(entered.map(|space| space.file));
        claimed.insert(root);
    }

    /// Enters the spaces of one file and of the files of its modules.
    fn enter_file(&mut self, start: &Start) {
        let Some(facts) = self.facts(start.file) else { return };
        let base = self.spaces.len() as u32;
        self.instances.entry(start.file).or_default().push(base);
        let mut homes: Vec<String> = Vec::with_capacity(facts.scopes.len());
        for (at, scope) in facts.scopes.iter().enumerate() {
            let around = base + scope.parent;
            let (parent, is_module, home) = match &scope.kind {
                ScopeKind::Namespace { path, .. } if at > 0 => {
                    let name = path.first().map_or("", |name| facts.texts.text(*name));
                    let home = format!("{}/{name}", homes[scope.parent as usize]);
                    (Some(self.module_around(around)), true, home.trim_start_matches('/').to_owned())
                }
                _ if at > 0 => (Some(around), false, homes[scope.parent as usize].clone()),
                _ => (start.parent, true, start.home.clone()),
            };
            homes.push(home);
            self.spaces.push(Space {
                parent,
                is_module,
                krate: start.krate,
                file: start.file,
                items: FxHashMap::default(),
                imports: FxHashMap::default(),
                globs: Vec::new(),
            });
        }
        self.enter_imports(facts, base);
        self.enter_items(facts, base, start, &homes);
    }

    fn enter_imports(&mut self, facts: &FileFacts, base: u32) {
        for (at, import) in facts.imports.iter().enumerate() {
            let space = &mut self.spaces[(base + import.scope) as usize];
            match import.kind {
                ImportKind::Alias(name) => space.imports.entry(name).or_default().push(at as u32),
                _ => space.globs.push(at as u32),
            }
        }
    }

    fn enter_items(&mut self, facts: &FileFacts, base: u32, start: &Start, homes: &[String]) {
        let mut paths = facts.paths.iter().enumerate().filter(|(_, path)| path.base != PathBase::Anywhere);
        for (at, declared) in facts.declarations.iter().enumerate() {
            let space = base + declared.scope;
            if declared.kind != DeclarationKind::Module {
                let item = (start.file, at as u32);
                if declared.arity == MACRO {
                    self.macros.entry((start.krate, declared.name)).or_default().push(item);
                    // What is exported stands at the root of the crate.
                    let at_root = if declared.is_static { self.roots[start.krate as usize] } else { space };
                    self.add(at_root, declared.name, Def::Item(item.0, item.1));
                } else {
                    self.add(space, declared.name, Def::Item(item.0, item.1));
                }
                continue;
            }
            if declared.body != u32::MAX {
                self.add(space, declared.name, Def::Module(base + declared.body));
                continue;
            }
            let Some((path_at, path)) = paths.next() else { continue };
            let home = &homes[declared.scope as usize];
            let Some((file, child_home)) = self.module_file(start.file, home, path.base, &path.path) else {
                continue;
            };
            self.modules.insert((start.file, path_at as u32), file);
            let many = self.instances.get(&file).is_some_and(|found| found.len() >= MOST_INSTANCES);
            if start.depth >= DEEPEST_MODULE || many || file == start.file {
                continue;
            }
            let around = self.module_around(space);
            // The module's space is known now, because it is entered now.
            let child = self.spaces.len() as u32;
            self.add(space, declared.name, Def::Module(child));
            let depth = start.depth + 1;
            self.enter_file(&Start {
                krate: start.krate,
                file,
                parent: Some(around),
                home: child_home,
                depth,
            });
        }
    }

    fn add(&mut self, space: u32, name: Name, def: Def) {
        self.spaces[space as usize].items.entry(name).or_default().push(def);
    }

    /// The file of a module that is declared in `file`, and the folder of the files of its own modules.
    fn module_file(&self, file: u32, home: &str, base: PathBase, path: &str) -> Option<(u32, String)> {
        let folder = self.tree.folder_of(file as usize);
        if base == PathBase::Folder {
            let whole = join(folder, path)?;
            let found = self.tree.file(&whole)?;
            return Some((found, parent(&whole).to_owned()));
        }
        let below = join(home, path)?;
        let beside = self.tree.file(&format!("{below}.rs"));
        let found = beside.or_else(|| self.tree.file(&format!("{below}/mod.rs")))?;
        Some((found, below))
    }

    /// The module that `space` is or stands in.
    pub fn module_around(&self, mut space: u32) -> u32 {
        while !self.spaces[space as usize].is_module {
            match self.spaces[space as usize].parent {
                Some(parent) => space = parent,
                None => break,
            }
        }
        space
    }

    /// Whether `def` is in the space of names that is wanted.
    fn fits(&self, def: Def, want: Want) -> bool {
        if let Def::Part(..) = def {
            return want != Want::Macro;
        }
        let Def::Item(file, at) = def else {
            return matches!(want, Want::All | Want::Around | Want::TypeOrValue);
        };
        let Some(declared) = self.facts(file).map(|facts| &facts.declarations[at as usize]) else {
            return false;
        };
        match want {
            Want::All => true,
            Want::Around => declared.arity == 0,
            Want::TypeOrValue => declared.arity != MACRO,
            Want::Value => declared.arity == FUNCTION || declared.kind == DeclarationKind::Struct,
            Want::Macro => declared.arity == MACRO || declared.arity == FUNCTION && self.makes_macros(file),
        }
    }

    fn makes_macros(&self, file: u32) -> bool {
        let instances = self.instances.get(&file).into_iter().flatten();
        instances.into_iter().any(|base| self.crates[self.spaces[*base as usize].krate as usize].makes_macros)
    }
}

/// One question at a time, with what it has found so far.
pub struct Lookup<'n, 't, 'p> {
    pub names: &'n Names<'t, 'p>,
    known: FxHashMap<(u32, Name, Want, bool), Vec<Def>>,
    pub(super) open: Vec<(u32, Name, Want, bool)>,
    /// Something was left out because it was asked for already; such an answer is not kept.
    cut: bool,
}

impl<'n, 't, 'p> Lookup<'n, 't, 'p> {
    pub fn new(names: &'n Names<'t, 'p>) -> Self {
        Self { names, known: FxHashMap::default(), open: Vec::new(), cut: false }
    }

    /// What the use with index `node` in a file whose spaces begin at `base` means.
    pub fn used(&mut self, facts: &FileFacts, base: u32, node: u32, want: Want) -> Vec<Def> {
        let mut path: Vec<Name> = Vec::new();
        let mut at = UseParent::node(node);
        let root = loop {
            match at.get() {
                Ok(root) => break root,
                Err(node) => {
                    let Some(used) = facts.uses.get(node as usize) else { return Vec::new() };
                    path.push(used.name);
                    at = used.parent;
                }
            }
        };
        path.reverse();
        let imported = facts.uses.get(node as usize).is_some_and(|used| used.context == Context::Import);
        let space = match root {
            Root::Scope(scope) => base + scope,
            _ => base,
        };
        self.path(space, root == Root::Global, imported, &path, want)
    }

    /// What `path` means in `space`.
    fn path(&mut self, space: u32, global: bool, imported: bool, path: &[Name], want: Want) -> Vec<Def> {
        let (mut at, mut from) = (0, self.names.module_around(space));
        let (word_crate, word_self, word_super) =
            (Name::new(b"crate"), Name::new(b"self"), Name::new(b"super"));
        let krate = self.names.spaces[space as usize].krate as usize;
        let mut found: Option<Vec<Def>> = None;
        while let Some(name) = path.get(at) {
            if *name == word_crate {
                from = self.names.roots[krate];
            } else if *name == word_super {
                let Some(parent) = self.names.spaces[from as usize].parent else { return Vec::new() };
                from = self.names.module_around(parent);
            } else if *name != word_self {
                break;
            }
            found = Some(vec![Def::Module(from)]);
            at += 1;
        }
        if at == path.len() {
            return found.unwrap_or_default();
        }
        if found.is_none() {
            let wanted = if path.len() > 1 { Want::Around } else { want };
            let first = self.first(space, global, imported, path[0], wanted);
            at = 1;
            found = Some(first);
        }
        let mut defs = found.unwrap_or_default();
        while at < path.len() {
            let wanted = if at + 1 < path.len() { Want::Around } else { want };
            let mut next: Vec<Def> = Vec::new();
            for def in &defs {
                match *def {
                    Def::Module(module) => {
                        let private = self.is_inside(space, module);
                        next.extend(self.in_space(module, path[at], wanted, private));
                    }
                    // What follows a type belongs to it.
                    Def::Item(..) => {
                        next.push(*def);
                        for of in self.stood_for(*def) {
                            match self.names.parts.get(&(of, path[at])) {
                                Some(files) => {
                                    next.extend(files.iter().map(|file| Def::Part(*file, path[at])))
                                }
                                None => next.push(of),
                            }
                        }
                    }
                    Def::Part(..) => next.push(*def),
                }
            }
            next.dedup();
            if next.is_empty() && matches!(want, Want::All | Want::TypeOrValue | Want::Value) {
                return self.makers(&defs, path[at]);
            }
            defs = next;
            at += 1;
        }
        defs
    }

    /// The modules among `defs` that neither import `name` nor anything whole: they do not declare the name that is
    /// looked for in them, so a macro makes it there.
    fn makers(&self, defs: &[Def], name: Name) -> Vec<Def> {
        let makes = |def: &Def| {
            let Def::Module(space) = *def else { return false };
            let space = &self.names.spaces[space as usize];
            space.globs.is_empty() && !space.imports.contains_key(&name)
        };
        defs.iter().copied().filter(makes).collect()
    }

    /// The first name of a path: from the blocks and the module around, else a crate.
    fn first(&mut self, space: u32, global: bool, imported: bool, name: Name, want: Want) -> Vec<Def> {
        let krate = self.names.spaces[space as usize].krate as usize;
        let old = self.names.crates[krate].old_paths;
        if (global || imported) && old {
            let found = self.in_space(self.names.roots[krate], name, want, true);
            if !found.is_empty() {
                return found;
            }
        } else if !global {
            let mut at = Some(space);
            while let Some(space) = at {
                let found = self.in_space(space, name, want, true);
                if !found.is_empty() {
                    return found;
                }
                let here = &self.names.spaces[space as usize];
                at = if here.is_module { None } else { here.parent };
            }
        }
        let of_crate = self.names.crates[krate].known.get(&name);
        if let Some(&other) = of_crate.filter(|_| want != Want::Macro) {
            return vec![Def::Module(self.names.roots[other])];
        }
        if want == Want::Macro { self.macro_anywhere(krate, name) } else { Vec::new() }
    }

    /// A macro that is in scope by the order of the text, or by `#[macro_use]` on a crate.
    fn macro_anywhere(&self, krate: usize, name: Name) -> Vec<Def> {
        let declared = |krate: usize| self.names.macros.get(&(krate as u32, name)).into_iter().flatten();
        let own: Vec<Def> = declared(krate).map(|(file, at)| Def::Item(*file, *at)).collect();
        if !own.is_empty() {
            return own;
        }
        let exported = |(file, at): &&(u32, u32)| {
            self.names.facts(*file).is_some_and(|facts| facts.declarations[*at as usize].is_static)
        };
        let others = self.names.crates[krate].known.values();
        others
            .flat_map(|other| declared(*other).filter(exported))
            .map(|(file, at)| Def::Item(*file, *at))
            .collect()
    }

    /// Whether `space` lies in the module `module`, so that it sees what is private there.
    fn is_inside(&self, space: u32, module: u32) -> bool {
        let mut at = Some(space);
        while let Some(space) = at {
            if space == module {
                return true;
            }
            at = self.names.spaces[space as usize].parent;
        }
        false
    }

    /// What `name` means in one module or block: its items and imports, else what it imports whole.
    fn in_space(&mut self, space: u32, name: Name, want: Want, private: bool) -> Vec<Def> {
        let key = (space, name, want, private);
        if let Some(known) = self.known.get(&key) {
            return known.clone();
        }
        if self.open.contains(&key) || self.open.len() > LONGEST_WAY {
            self.cut = true;
            return Vec::new();
        }
        let cut_before = std::mem::replace(&mut self.cut, false);
        self.open.push(key);
        let found = self.search(space, name, want, private);
        self.open.pop();
        if !self.cut || self.open.is_empty() {
            self.known.insert(key, found.clone());
        }
        self.cut |= cut_before;
        found
    }

    fn search(&mut self, space: u32, name: Name, want: Want, private: bool) -> Vec<Def> {
        let names = self.names;
        let here = &names.spaces[space as usize];
        let Some(facts) = names.facts(here.file) else { return Vec::new() };
        let base = self.base_of(space);
        let mut found: Vec<Def> = Vec::new();
        for def in here.items.get(&name).into_iter().flatten() {
            let visible = private || self.is_shown(*def);
            if visible && names.fits(*def, want) {
                found.push(*def);
            }
        }
        for &at in here.imports.get(&name).into_iter().flatten() {
            let import = &facts.imports[at as usize];
            if private || import.shown {
                let brought = self.used(facts, base, import.target, want);
                found.extend(brought.into_iter().filter(|def| names.fits(*def, want)));
            }
        }
        if found.is_empty() {
            for &at in &here.globs {
                let import = &facts.imports[at as usize];
                if !private && !import.shown {
                    continue;
                }
                for def in self.used(facts, base, import.target, Want::Around) {
                    if let Def::Module(module) = def
                        && module != space
                    {
                        let inside = self.is_inside(space, module);
                        found.extend(self.in_space(module, name, want, inside));
                    }
                }
            }
        }
        found.sort_by_key(|def| match def {
            Def::Module(space) => (0, *space, 0),
            Def::Item(file, at) => (1, *file, *at),
            Def::Part(file, _) => (2, *file, 0),
        });
        found.dedup();
        found
    }

    /// Modules count as shown: whether they are is the compiler's business, and tests reach into private ones.
    fn is_shown(&self, def: Def) -> bool {
        match def {
            Def::Module(_) | Def::Part(..) => true,
            Def::Item(file, at) => {
                let facts = self.names.facts(file);
                facts.is_some_and(|facts| {
                    let declared = &facts.declarations[at as usize];
                    declared.access == Access::Public || declared.arity == MACRO
                })
            }
        }
    }

    fn base_of(&self, space: u32) -> u32 {
        let file = self.names.spaces[space as usize].file;
        let bases = self.names.instances.get(&file).into_iter().flatten();
        bases.copied().filter(|base| *base <= space).max().unwrap_or(space)
    }
}
