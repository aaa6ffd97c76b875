//! Names follow: usings, qualified names and namespace declarations of one file after the move.

use super::friends::Friends;
use super::texts::Texts;
use crate::resolve::{
    Container, EntityId, ImportTarget, NamespaceId, SharedImports, Target, Visibility, World,
};
use ferngate_model::{
    Context, Edit, FileFacts, Import, ImportKind, Name, ProjectPath, Root, ScopeKind, Span,
};
use rustc_hash::{FxHashMap, FxHashSet};
use std::collections::{BTreeMap, BTreeSet};

/// The line end that a text uses: that of its first line.
pub fn line_end(text: &[u8]) -> &'static str {
    match text.iter().position(|&byte| byte == b'\n') {
        Some(at) if at > 0 && text[at - 1] == b'\r' => "\r\n",
        _ => "\n",
    }
}

/// What one use meant before the move, in terms of the world after it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Meant {
    /// Index of the use.
    pub used: u32,
    /// What it meant.
    pub entity: EntityId,
    /// It was the call of an extension method.
    pub extension: bool,
    /// It may have been that; nobody has to see more for it.
    pub doubtful: bool,
}

/// One file whose names must keep their meaning.
pub struct Follower<'f, 'w> {
    /// The world after the move.
    pub world: &'f mut World<'w>,
    /// The file's index in it.
    pub file: usize,
    /// Its path before the move, under which its text is kept.
    pub path: &'f ProjectPath,
    /// What its uses meant.
    pub meant: &'f [Meant],
    /// What its imports of namespaces and types meant.
    pub imports: &'f [ImportMeant],
    /// Namespaces that its code saw without an import before the move, as texts.
    pub seen_before: &'f [String],
    /// Names of the types that go elsewhere, with the numbers of their type parameters.
    pub moved: &'f FxHashSet<(Name, u8)>,
    /// What the namespaces hold after the move.
    pub held: &'f FxHashMap<NamespaceId, Vec<EntityId>>,
    /// Who may use what is internal after the move.
    pub friends: &'f Friends,
    /// Namespaces that the types use which are taken out of it, as texts before the move.
    pub taken: Option<&'f BTreeSet<&'f str>>,
}

/// What an import meant before the move.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ImportMeant {
    /// Nothing of the project.
    Outside,
    /// A namespace, by its text before the move, and what served uses: the entities that were found through it.
    Namespace(String),
    /// A type, as it is after the move.
    Entity(EntityId),
}

impl Follower<'_, '_> {
    /// Plans all edits of the file, which says `text`; `facts` are what is read there, with all occurrences.
    pub fn follow(&mut self, text: &[u8], facts: &FileFacts, texts: &mut Texts) {
        self.imports_of_types(facts, text, texts);
        let broken = self.broken();
        let mut spelled: Vec<Meant> = self.unclear(facts);
        let mut namespaces: BTreeSet<(u32, NamespaceId)> = BTreeSet::new();
        for meant in &broken {
            match self.import_for(facts, *meant) {
                Some(_) if self.is_unseen_mention(facts, meant) => {}
                Some(import) if self.is_brought_twice(facts, *meant, import) => spelled.push(*meant),
                Some(import) => {
                    namespaces.insert(import);
                }
                None => spelled.push(*meant),
            }
        }
        // What only a comment names is imported by no file whose project cannot see it: that would not build.
        let unseen = broken.iter().filter(|meant| self.is_unseen_mention(facts, meant));
        spelled.extend(unseen.filter(|meant| {
            self.import_for(facts, **meant).is_some_and(|import| !namespaces.contains(&import))
        }));
        // What is there already, perhaps under a condition, brings nothing when it is there twice.
        let there =
            facts.imports.iter().zip(&self.world.imports[self.file]).filter_map(|(import, target)| {
                match (import.kind, target) {
                    (ImportKind::Namespace, ImportTarget::Namespace(id)) => Some((import.scope, *id)),
                    _ => None,
                }
            });
        there.for_each(|import| {
            namespaces.remove(&import);
        });
        // What an import would make ambiguous is spelled out instead.
        namespaces.retain(|&(_, namespace)| {
            let clashes = self.clashes(facts, namespace);
            if clashes {
                let own = |meant: &&Meant| self.world.table.namespace_of(meant.entity) == namespace;
                spelled.extend(broken.iter().filter(own).filter(|meant| !meant.extension));
            }
            !clashes
        });
        self.world.added_imports[self.file].extend(namespaces.iter().copied());
        let still = self.broken();
        // An import that helps nobody, because what is nearer is found first, is not added.
        let helps = |import: &(u32, NamespaceId)| {
            let mut helped = broken.iter().filter(|meant| !still.contains(meant));
            helped.any(|meant| self.import_for(facts, *meant).as_ref() == Some(import))
        };
        namespaces.retain(helps);
        self.world.added_imports[self.file].retain(|import| namespaces.contains(import));
        spelled.extend(still);
        spelled.sort_by_key(|meant| meant.used);
        spelled.dedup();
        let markup = facts.scopes.iter().any(|scope| scope.kind == ScopeKind::Isolated);
        if markup {
            self.markup(facts, text, texts);
        }
        for meant in spelled.iter().filter(|meant| !meant.extension && !self.behind_prefix(facts, meant)) {
            self.spell(facts, text, *meant, texts);
        }
        if !markup {
            self.drop_imports(facts, text, !namespaces.is_empty(), texts);
            for (scope, namespace) in namespaces {
                self.add_import(facts, text, scope, namespace, texts);
            }
        }
    }

    /// Uses that would mean something else, or nothing.
    fn broken(&self) -> Vec<Meant> {
        let now = self.world.references_of(self.file);
        let mut found: BTreeMap<(u32, bool), BTreeSet<EntityId>> = BTreeMap::new();
        for reference in now.references.iter().chain(&now.weak) {
            found.entry((reference.used, reference.extension)).or_default().insert(reference.entity);
        }
        let holds = |meant: &Meant| {
            if meant.doubtful {
                return self.is_in_sight(self.world.table.namespace_of(meant.entity));
            }
            found.get(&(meant.used, meant.extension)).is_some_and(|set| set.contains(&meant.entity))
        };
        self.meant.iter().copied().filter(|meant| !holds(meant)).collect()
    }

    /// Whether the file's code sees what `namespace` holds, by an import or without one.
    fn is_in_sight(&self, namespace: NamespaceId) -> bool {
        let world = &*self.world;
        let facts = world.project.files[self.file].facts.as_deref();
        let is_around = |facts| self.sees_without_import(facts, &world.table.namespace_text(namespace));
        world.imports[self.file].contains(&ImportTarget::Namespace(namespace))
            || world.added_imports[self.file].iter().any(|(_, added)| *added == namespace)
            || self.shared_imports().any(|shared| shared.namespaces.contains(&namespace))
            || facts.is_some_and(is_around)
    }

    /// What the manifests that hold the file import for all their files.
    fn shared_imports(&self) -> impl Iterator<Item = &SharedImports> {
        let owners = self.world.ownership.owners[self.file].iter();
        owners.filter_map(|owner| self.world.shared_imports.get(*owner as usize))
    }

    /// The chain of uses down to `used`, its root, and how many namespace parts stand in front of the type.
    pub(super) fn chain(&self, facts: &FileFacts, used: u32) -> (Option<Root>, Vec<u32>) {
        let mut chain = Vec::new();
        let mut at = used;
        loop {
            let Some(found) = facts.uses.get(at as usize) else { return (None, chain) };
            chain.push(at);
            match found.parent.get() {
                Ok(root) => {
                    chain.reverse();
                    return (Some(root), chain);
                }
                Err(parent) => at = parent,
            }
        }
    }

    /// The import that would make a broken use good: of the namespace that now holds the type, where the use begins
    /// with the type's own name. `None` where the use is qualified.
    fn import_for(&self, facts: &FileFacts, meant: Meant) -> Option<(u32, NamespaceId)> {
        let namespace = self.world.table.namespace_of(meant.entity);
        if self.world.table.is_outermost(namespace) {
            return None;
        }
        let at = self.import_scope(facts);
        if meant.extension {
            return Some((at, namespace));
        }
        let (root, chain) = self.chain(facts, meant.used);
        let outermost = self.world.table.outermost(meant.entity);
        let depth = self.depth(meant.entity);
        match root {
            Some(Root::Scope(scope))
                if chain.len() == depth && outermost_named(self, facts, chain[0], outermost) =>
            {
                (!matches!(facts.scopes[scope as usize].kind, ScopeKind::Isolated)).then_some((at, namespace))
            }
            _ => None,
        }
    }

    /// Whether another import beside `import` brings a type of the same name, so that neither would count.
    fn is_brought_twice(
        &self,
        facts: &FileFacts,
        meant: Meant,
        (scope, namespace): (u32, NamespaceId),
    ) -> bool {
        if meant.extension {
            return false;
        }
        let brought = &self.world.table.entities[self.world.table.outermost(meant.entity).index()];
        let (name, arity) = (brought.name, brought.arity);
        let targets = facts.imports.iter().zip(&self.world.imports[self.file]);
        let own = targets.filter_map(|(import, target)| match (import.kind, target) {
            (ImportKind::Namespace, ImportTarget::Namespace(id)) if import.scope == scope => Some(*id),
            _ => None,
        });
        let shared = self.shared_imports().filter(|_| scope == 0);
        let mut beside = own.chain(shared.flat_map(|shared| shared.namespaces.iter().copied()));
        beside.any(|other| {
            let same = self.world.table.child_entity(Container::Namespace(other), name, arity);
            other != namespace && same.is_some_and(|same| self.may_use(same))
        })
    }

    /// Uses that mean what they meant for us, but not for a compiler: a type that went elsewhere is brought by another
    /// import under the same name.
    pub fn unclear(&self, facts: &FileFacts) -> Vec<Meant> {
        let table = &self.world.table;
        let is_unclear = |meant: &&Meant| {
            let outermost = table.outermost(meant.entity);
            let entity = &table.entities[outermost.index()];
            if !self.moved.contains(&(entity.name, entity.arity)) || !self.needs_import(facts, meant) {
                return false;
            }
            let namespace = table.namespace_of(outermost);
            let mut targets = facts.imports.iter().zip(&self.world.imports[self.file]);
            let import = targets.find(|(import, target)| {
                import.kind == ImportKind::Namespace && **target == ImportTarget::Namespace(namespace)
            });
            let is_near = || self.sees_without_import(facts, &table.namespace_text(namespace));
            import.is_some_and(|(import, _)| {
                !is_near() && self.is_brought_twice(facts, **meant, (import.scope, namespace))
            })
        };
        self.meant.iter().filter(is_unclear).copied().collect()
    }

    /// Whether a comment, or a call that need not mean it, names what the file's project does not see.
    pub(super) fn is_unseen_mention(&self, facts: &FileFacts, meant: &Meant) -> bool {
        let used = facts.uses.get(meant.used as usize);
        used.is_some_and(|used| used.context == Context::Weak || meant.doubtful)
            && !self.may_use(self.world.table.outermost(meant.entity))
    }

    /// Whether a use begins with a prefix of markup, which says where to look instead of a qualifier.
    fn behind_prefix(&self, facts: &FileFacts, meant: &Meant) -> bool {
        match self.chain(facts, meant.used).0 {
            Some(Root::Scope(scope)) => {
                facts.scopes.get(scope as usize).is_some_and(|scope| scope.kind == ScopeKind::Isolated)
            }
            _ => false,
        }
    }

    /// How many types stand around and including `entity`.
    pub(super) fn depth(&self, entity: EntityId) -> usize {
        let mut depth = 1;
        let mut at = entity;
        while let Container::Entity(around) = self.world.table.entities[at.index()].container {
            at = around;
            depth += 1;
        }
        depth
    }

    /// The scope whose imports the file uses most: the file's, unless they stand inside its namespace.
    fn import_scope(&self, facts: &FileFacts) -> u32 {
        let plain = |import: &&Import| import.kind == ImportKind::Namespace && !import.global;
        let mut counts: BTreeMap<u32, usize> = BTreeMap::new();
        for import in facts.imports.iter().filter(plain) {
            *counts.entry(import.scope).or_default() += 1;
        }
        counts
            .into_iter()
            .max_by_key(|&(scope, count)| (count, std::cmp::Reverse(scope)))
            .map_or(0, |(scope, _)| scope)
    }

    /// Whether an import of `namespace` would give another meaning to a name that the file uses by itself.
    fn clashes(&self, facts: &FileFacts, namespace: NamespaceId) -> bool {
        let meant: BTreeMap<u32, EntityId> = self
            .meant
            .iter()
            .filter(|meant| !meant.extension)
            .map(|meant| (meant.used, meant.entity))
            .collect();
        facts.uses.iter().enumerate().any(|(at, used)| {
            let begins = matches!(used.parent.get(), Ok(Root::Scope(_)));
            if !begins || matches!(used.context, Context::Import | Context::Weak) {
                return false;
            }
            let names = self
                .world
                .table
                .attribute_names
                .get(&used.name)
                .filter(|_| used.context == Context::Attribute);
            let here = |name: &Name| {
                self.world.table.child_entity(Container::Namespace(namespace), *name, used.arity)
            };
            let Some(would) = names.and_then(here).or_else(|| here(&used.name)) else { return false };
            match meant.get(&(at as u32)) {
                Some(entity) => *entity != would && self.world.table.outermost(*entity) != would,
                // A name that meant nothing of the project: a value is no clash, an outside type is.
                None => used.context != Context::Value,
            }
        })
    }

    /// Spells the qualifier of a broken use anew.
    fn spell(&self, facts: &FileFacts, text: &[u8], meant: Meant, texts: &mut Texts) {
        let (root, chain) = self.chain(facts, meant.used);
        let depth = self.depth(meant.entity);
        if chain.len() < depth || facts.uses[meant.used as usize].context == Context::Import {
            return;
        }
        let qualifiers = chain.len() - depth;
        let namespace = self.world.table.namespace_of(meant.entity);
        let full = self.world.table.namespace_text(namespace);
        let outermost = self.world.table.outermost(meant.entity);
        let scope = match root {
            Some(Root::Scope(scope)) => Some(scope),
            _ => None,
        };
        let attribute = facts.uses[meant.used as usize].context == Context::Attribute;
        let qualifier = match scope {
            Some(scope) => self.shortest_qualifier(scope, &full, qualifiers, outermost, attribute),
            None => full.clone(),
        };
        let own = facts
            .occurrences
            .iter()
            .enumerate()
            .filter(|(_, place)| place.used == meant.used && place.is_spelled());
        for (at, _) in own {
            // The names of a chain are recorded one behind the other.
            let first_type = at + 1 - depth;
            let Some(type_start) = facts.occurrences.get(first_type).map(|o| o.span.start as usize) else {
                continue;
            };
            let start = if qualifiers > 0 {
                facts.occurrences[first_type - qualifiers].span.start as usize
            } else {
                type_start
            };
            let replaced = Span::new(start, type_start);
            let new = if qualifier.is_empty() { String::new() } else { format!("{qualifier}.") };
            if replaced.of(text) == new.as_bytes() {
                continue;
            }
            let what = match facts.uses[meant.used as usize].context {
                Context::Weak => "name in a comment follows",
                _ if qualifiers > 0 => "qualified name follows",
                _ => "name qualified",
            };
            let name = self.world.table.entity_text(meant.entity);
            texts.edit(self.path, Edit { span: replaced, text: new, what }, name);
        }
    }

    /// The fewest last parts of `full`, but at least `wanted`, by which `outermost` is found from `scope`.
    fn shortest_qualifier(
        &self,
        scope: u32,
        full: &str,
        wanted: usize,
        outermost: EntityId,
        attribute: bool,
    ) -> String {
        let parts: Vec<&str> = full.split('.').filter(|part| !part.is_empty()).collect();
        let mut view = Visibility::new(&self.world.table);
        view.enter(self.world, self.file, scope, true);
        let entity = &self.world.table.entities[outermost.index()];
        let table = &self.world.table;
        let was_full = wanted >= parts.len();
        let fewest = if was_full { parts.len() } else { wanted.max(1) };
        for count in fewest..=parts.len() {
            let qualifier = &parts[parts.len() - count..];
            let head = qualifier.first().map(|part| Name::new(part.as_bytes()));
            let Some(head) = head else { continue };
            let found = view.find(self.world, self.file, head, 0);
            let mut at = match found {
                Some(Target::Namespace(id)) => Some(id),
                _ => None,
            };
            for part in &qualifier[1..] {
                at = at.and_then(|id| table.child_namespace(id, Name::new(part.as_bytes())));
            }
            let reached =
                at.and_then(|id| table.child_entity(Container::Namespace(id), entity.name, entity.arity));
            if reached == Some(outermost) {
                return qualifier.join(".");
            }
        }
        let global = self.global_prefix();
        if attribute || global.is_empty() { full.to_owned() } else { format!("{global}{full}") }
    }

    fn global_prefix(&self) -> &'static str {
        let language = self.world.project.files[self.file].language;
        language.map_or("", |language| self.world.languages[language].naming().global_prefix)
    }
}

fn outermost_named(follower: &Follower, facts: &FileFacts, head: u32, outermost: EntityId) -> bool {
    let used = &facts.uses[head as usize];
    let name = follower.world.table.entities[outermost.index()].name;
    used.name == name || follower.world.table.attribute_names.get(&used.name) == Some(&name)
}
