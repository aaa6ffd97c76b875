//! Names follow: usings, qualified names and namespace declarations of one file after the move.

use super::MoveError;
use super::texts::Texts;
use crate::resolve::{Container, EntityId, ImportTarget, NamespaceId, Target, Visibility, World};
use ferngate_model::{
    Context, Edit, FileFacts, Import, ImportKind, LineIndex, Name, ProjectPath, ReadOptions, Root, ScopeKind,
    Span,
};
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
    /// Plans all edits of the file.
    pub fn follow(&mut self, texts: &mut Texts) -> Result<(), MoveError> {
        let text = texts.get(self.path)?.to_vec();
        let Some(language) = self.world.project.files[self.file].language else { return Ok(()) };
        let language = self.world.languages[language];
        let facts = language.facts(&text, ReadOptions { occurrences: true, weak: true });
        self.imports_of_types(&facts, &text, texts);
        let mut broken = self.broken();
        let mut namespaces: BTreeSet<(u32, NamespaceId)> = BTreeSet::new();
        let mut spelled: Vec<Meant> = Vec::new();
        for meant in &broken {
            match self.import_for(&facts, *meant) {
                Some(import) => {
                    namespaces.insert(import);
                }
                None => spelled.push(*meant),
            }
        }
        // What an import would make ambiguous is spelled out instead.
        namespaces.retain(|&(_, namespace)| {
            let clashes = self.clashes(&facts, namespace);
            if clashes {
                let own = |meant: &&Meant| self.world.table.namespace_of(meant.entity) == namespace;
                spelled.extend(broken.iter().filter(own).filter(|meant| !meant.extension));
            }
            !clashes
        });
        self.world.added_imports[self.file].extend(namespaces.iter().copied());
        broken = self.broken();
        spelled.extend(broken.iter().copied());
        spelled.sort_by_key(|meant| meant.used);
        spelled.dedup();
        let markup = facts.scopes.iter().any(|scope| scope.kind == ScopeKind::Isolated);
        if markup {
            self.markup(&facts, &text, texts);
        }
        for meant in spelled.iter().filter(|meant| !meant.extension && !self.behind_prefix(&facts, meant)) {
            self.spell(&facts, &text, *meant, texts);
        }
        if !markup {
            self.drop_imports(&facts, &text, texts);
            for (scope, namespace) in namespaces {
                self.add_import(&facts, &text, scope, namespace, texts);
            }
        }
        Ok(())
    }

    /// Uses that would mean something else, or nothing.
    fn broken(&self) -> Vec<Meant> {
        let now = self.world.references_of(self.file);
        let mut found: BTreeMap<(u32, bool), BTreeSet<EntityId>> = BTreeMap::new();
        for reference in now.references.iter().chain(&now.weak) {
            found.entry((reference.used, reference.extension)).or_default().insert(reference.entity);
        }
        let holds = |meant: &Meant| {
            found.get(&(meant.used, meant.extension)).is_some_and(|set| set.contains(&meant.entity))
        };
        self.meant.iter().copied().filter(|meant| !holds(meant)).collect()
    }

    /// The chain of uses down to `used`, its root, and how many namespace parts stand in front of the type.
    fn chain(&self, facts: &FileFacts, used: u32) -> (Option<Root>, Vec<u32>) {
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
    fn depth(&self, entity: EntityId) -> usize {
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
        let own =
            facts.occurrences.iter().enumerate().filter(|(_, occurrence)| occurrence.used == meant.used);
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

    /// Imports of types and aliases: their target is spelled anew in full.
    fn imports_of_types(&mut self, facts: &FileFacts, text: &[u8], texts: &mut Texts) {
        for (at, (import, meant)) in facts.imports.iter().zip(self.imports).enumerate() {
            match meant {
                ImportMeant::Entity(entity) => {
                    let now = self.world.imports[self.file].get(at).copied();
                    self.world.imports[self.file][at] = ImportTarget::Entity(*entity);
                    if now != Some(ImportTarget::Entity(*entity)) {
                        self.retarget(import, &self.world.table.entity_text(*entity), text, texts);
                    }
                }
                ImportMeant::Namespace(old) if matches!(import.kind, ImportKind::Alias(_)) => {
                    // An alias of a namespace that has gone follows its types, if they all went to one place.
                    let gone = self.world.table.namespace_named(old).is_none();
                    let now: BTreeSet<NamespaceId> = self.aliased(facts, import);
                    if let (true, 1, Some(only)) = (gone, now.len(), now.first().copied()) {
                        self.world.imports[self.file][at] = ImportTarget::Namespace(only);
                        self.retarget(import, &self.world.table.namespace_text(only), text, texts);
                    }
                }
                _ => {}
            }
        }
    }

    /// The namespaces that now hold what the file names through an alias.
    fn aliased(&self, facts: &FileFacts, import: &Import) -> BTreeSet<NamespaceId> {
        let ImportKind::Alias(name) = import.kind else { return BTreeSet::new() };
        let through = self.meant.iter().filter(|meant| {
            let (_, chain) = self.chain(facts, meant.used);
            chain.len() > self.depth(meant.entity) && facts.uses[chain[0] as usize].name == name
        });
        through.map(|meant| self.world.table.namespace_of(meant.entity)).collect()
    }

    fn retarget(&self, import: &Import, name: &str, text: &[u8], texts: &mut Texts) {
        let written = import.target_span.of(text);
        let prefix = if written.starts_with(b"global::") { "global::" } else { "" };
        let new = format!("{prefix}{name}");
        if written != new.as_bytes() {
            let edit = Edit { span: import.target_span, text: new, what: "import follows" };
            texts.edit(self.path, edit, name);
        }
    }

    /// Takes out imports that served only what went elsewhere, and those of namespaces that are gone.
    fn drop_imports(&self, facts: &FileFacts, text: &[u8], texts: &mut Texts) {
        let now = &self.world.imports[self.file];
        for ((import, meant), now) in facts.imports.iter().zip(self.imports).zip(now) {
            let (ImportMeant::Namespace(old), ImportKind::Namespace) = (meant, import.kind) else { continue };
            // A partly written name may mean another namespace from where the file is now.
            let current = match now {
                ImportTarget::Namespace(id) => self.world.table.namespace_text(*id),
                _ => old.clone(),
            };
            let gone = !self.lives(&current);
            let became_own = !self.seen_before.contains(old) && self.sees_without_import(facts, &current);
            let serves = |meant: &Meant| {
                self.world.table.namespace_text(self.world.table.namespace_of(meant.entity)) == current
            };
            let left = self.meant.iter().any(|meant| serves(meant) && self.needs_import(facts, meant));
            // A file that the move makes was given all imports of the file that it leaves.
            let made = self.path.as_str().contains('#');
            let emptied = (self.served_before(facts, old) || made) && !left;
            if gone || became_own || emptied {
                let span = line_with_end(text, import.span);
                let edit = Edit { span, text: String::new(), what: "using removed" };
                texts.edit(self.path, edit, old.clone());
            }
        }
    }

    /// Whether any type still lives in or below the namespace `text`, or an import of it must be left alone because
    /// nothing of it was ever declared here.
    fn lives(&self, text: &str) -> bool {
        let Some(id) = self.world.table.namespace_named(text) else { return false };
        let table = &self.world.table;
        (0..table.namespaces.len()).any(|at| {
            let mut up = NamespaceId(at as u32);
            if !table.namespaces[at].holds_types {
                return false;
            }
            while up != id && !self.world.table.is_outermost(up) {
                up = table.namespaces[up.0 as usize].parent;
            }
            up == id
        })
    }

    fn needs_import(&self, facts: &FileFacts, meant: &Meant) -> bool {
        if meant.extension {
            return true;
        }
        let (root, chain) = self.chain(facts, meant.used);
        matches!(root, Some(Root::Scope(_))) && chain.len() == self.depth(meant.entity)
    }

    /// Whether, before the move, some name without qualifier was found in the namespace `old` that is now elsewhere.
    fn served_before(&self, facts: &FileFacts, old: &str) -> bool {
        self.meant.iter().any(|meant| {
            let now = self.world.table.namespace_text(self.world.table.namespace_of(meant.entity));
            self.needs_import(facts, meant) && now != old && self.was_in(meant.entity, old)
        })
    }

    /// Whether the declaration of `entity` stood in the namespace `old`: by the text that its file still has.
    fn was_in(&self, entity: EntityId, old: &str) -> bool {
        let outermost = self.world.table.outermost(entity);
        self.world.former.get(&outermost).is_some_and(|former| former == old)
    }

    /// Whether the namespace `text` is now around the file's own code.
    fn sees_without_import(&self, facts: &FileFacts, text: &str) -> bool {
        let spaces = &self.world.table.scope_namespaces[self.file];
        let declared =
            facts.scopes.iter().enumerate().filter(|(_, s)| matches!(s.kind, ScopeKind::Namespace { .. }));
        let mut any = false;
        for (at, _) in declared {
            let own = spaces.get(at).map(|id| self.world.table.namespace_text(*id)).unwrap_or_default();
            any = true;
            if !(own == text || own.starts_with(&format!("{text}."))) {
                return false;
            }
        }
        any
    }

    /// Adds an import in the file's own order and style.
    fn add_import(
        &self,
        facts: &FileFacts,
        text: &[u8],
        scope: u32,
        namespace: NamespaceId,
        texts: &mut Texts,
    ) {
        let Some(language) = self.world.project.files[self.file].language else { return };
        let spelling = self.world.languages[language].import_spelling();
        let name = self.world.table.namespace_text(namespace);
        let newline = line_end(text);
        let statement = format!("{}{name}{}", spelling.before, spelling.after);
        let plain = |import: &&Import| {
            import.scope == scope && import.kind == ImportKind::Namespace && !import.global
        };
        let known: Vec<&Import> = facts.imports.iter().filter(plain).collect();
        let (at, new) = match place_among(&known, &name, text) {
            Some((at, indent, true)) => (at, format!("{indent}{statement}{newline}")),
            Some((at, indent, false)) => (at, format!("{newline}{indent}{statement}")),
            None => {
                let at = first_code(facts, text);
                let gap = if spelling.after.is_empty() { "" } else { newline };
                (at, format!("{statement}{newline}{gap}"))
            }
        };
        let edit = Edit { span: Span::new(at, at), text: new, what: "using added" };
        texts.edit(self.path, edit, name);
    }

    /// Markup: the namespace of a prefix follows what is named with it.
    fn markup(&self, facts: &FileFacts, text: &[u8], texts: &mut Texts) {
        for import in &facts.imports {
            let through: Vec<&Meant> = self
                .meant
                .iter()
                .filter(|meant| self.chain(facts, meant.used).0 == Some(Root::Scope(import.scope)))
                .collect();
            let homes: BTreeSet<(String, Option<String>)> =
                through.iter().map(|meant| self.markup_home(meant.entity)).collect();
            let written = markup_written(text, import);
            match homes.len() {
                0 => {}
                1 => {
                    if let Some(home) = homes.first().filter(|home| !same_home(home, &written)) {
                        let new = markup_spelled(home);
                        let edit = Edit { span: written.2, text: new, what: "prefix of markup follows" };
                        texts.edit(self.path, edit, home.0.clone());
                    }
                }
                _ => self.second_prefix(facts, text, &through, &written, texts),
            }
        }
    }

    /// Names behind one prefix went to several namespaces: those that left get a prefix of their own.
    fn second_prefix(
        &self,
        facts: &FileFacts,
        text: &[u8],
        through: &[&Meant],
        written: &(String, Option<String>, Span),
        texts: &mut Texts,
    ) {
        let mut made: BTreeMap<(String, Option<String>), String> = BTreeMap::new();
        for meant in through {
            let home = self.markup_home(meant.entity);
            if same_home(&home, written) {
                continue;
            }
            let prefix = made.entry(home.clone()).or_insert_with(|| prefix_for(&home.0, text)).clone();
            for occurrence in facts.occurrences.iter().filter(|o| o.used == meant.used) {
                let colon = occurrence.span.start as usize - 1;
                let length = text[..colon]
                    .iter()
                    .rev()
                    .take_while(|b| b.is_ascii_alphanumeric() || **b == b'_')
                    .count();
                let span = Span::new(colon - length, colon);
                texts.edit(
                    self.path,
                    Edit { span, text: prefix.clone(), what: "prefix of markup follows" },
                    home.0.clone(),
                );
            }
        }
        for (home, prefix) in made {
            // Behind the declaration of the old prefix.
            let quote = written.2.end as usize + 1;
            let new = format!(" xmlns:{prefix}=\"{}\"", markup_spelled(&home));
            let edit = Edit { span: Span::new(quote, quote), text: new, what: "prefix of markup added" };
            texts.edit(self.path, edit, home.0);
        }
    }

    /// The namespace of a type, and its assembly where that is not the file's own.
    fn markup_home(&self, entity: EntityId) -> (String, Option<String>) {
        let namespace = self.world.table.namespace_text(self.world.table.namespace_of(entity));
        let declaring = self.world.declaring_files(entity, self.file);
        let owner = |file: usize| self.world.ownership.owners[file].first().copied();
        let theirs = declaring.first().and_then(|&file| owner(file as usize));
        let assembly = match (theirs, owner(self.file)) {
            (Some(theirs), Some(own)) if theirs != own => {
                Some(self.world.project.manifests[theirs as usize].name.clone())
            }
            _ => None,
        };
        (namespace, assembly)
    }
}

fn outermost_named(follower: &Follower, facts: &FileFacts, head: u32, outermost: EntityId) -> bool {
    let used = &facts.uses[head as usize];
    let name = follower.world.table.entities[outermost.index()].name;
    used.name == name || follower.world.table.attribute_names.get(&used.name) == Some(&name)
}

/// Namespace, assembly and place of a prefix as written; the place is the whole value in quotes.
fn markup_written(text: &[u8], import: &Import) -> (String, Option<String>, Span) {
    let from = text[..import.target_span.start as usize].iter().rposition(|b| matches!(b, b'"' | b'\''));
    let start = from.map_or(import.target_span.start as usize, |at| at + 1);
    let rest = &text[import.target_span.end as usize..];
    let length = rest.iter().position(|b| matches!(b, b'"' | b'\'')).unwrap_or(0);
    let span = Span::new(start, import.target_span.end as usize + length);
    let tail = String::from_utf8_lossy(&rest[..length]).into_owned();
    let assembly = tail.strip_prefix(";assembly=").map(str::to_owned);
    (import.text.to_string(), assembly, span)
}

fn same_home(home: &(String, Option<String>), written: &(String, Option<String>, Span)) -> bool {
    // An assembly may be named even where it is one's own.
    home.0 == written.0 && (home.1 == written.1 || home.1.is_none() && written.1.is_none())
}

fn markup_spelled(home: &(String, Option<String>)) -> String {
    match &home.1 {
        Some(assembly) => format!("clr-namespace:{};assembly={assembly}", home.0),
        None => format!("clr-namespace:{}", home.0),
    }
}

fn prefix_for(namespace: &str, text: &[u8]) -> String {
    let base = namespace.rsplit('.').next().unwrap_or("moved").to_lowercase();
    let taken = |prefix: &str| {
        let declaration = format!("xmlns:{prefix}=");
        text.windows(declaration.len()).any(|window| window == declaration.as_bytes())
    };
    let mut prefix = base.clone();
    let mut number = 2;
    while taken(&prefix) {
        prefix = format!("{base}{number}");
        number += 1;
    }
    prefix
}

/// Where an import of `name` goes among `known`, with the indent of its neighbour, and whether before it.
fn place_among(known: &[&Import], name: &str, text: &[u8]) -> Option<(usize, String, bool)> {
    let last = known.last()?;
    let key = |name: &str| {
        let system = name == "System" || name.starts_with("System.");
        (!system, name.to_lowercase())
    };
    let plain = |name: &str| (true, name.to_lowercase());
    let sorted_by =
        |key: &dyn Fn(&str) -> (bool, String)| known.is_sorted_by(|a, b| key(&a.text) <= key(&b.text));
    let system_first = known.len() < 2 || sorted_by(&key);
    let sorted = system_first || sorted_by(&plain);
    let order = |name: &str| if system_first { key(name) } else { plain(name) };
    let indent = |import: &Import| {
        let start = import.span.start as usize;
        let line = text[..start].iter().rposition(|&byte| byte == b'\n').map_or(0, |at| at + 1);
        String::from_utf8_lossy(&text[line..start])
            .chars()
            .filter(|c| *c == ' ' || *c == '\t')
            .collect::<String>()
    };
    if sorted && let Some(next) = known.iter().find(|import| order(&import.text) > order(name)) {
        let line = line_with_end(text, next.span);
        return Some((line.start as usize, indent(next), true));
    }
    // Behind the line of the last one, so that it may itself go.
    let line = line_with_end(text, last.span);
    let ends = line.of(text).ends_with(b"\n");
    Some((line.end as usize, indent(last), ends))
}

/// The lines of a statement that stands alone on them, with the line end; else the statement.
fn line_with_end(text: &[u8], span: Span) -> Span {
    let (mut start, mut end) = (span.start as usize, span.end as usize);
    while start > 0 && matches!(text[start - 1], b' ' | b'\t') {
        start -= 1;
    }
    while matches!(text.get(end), Some(b' ' | b'\t' | b'\r')) {
        end += 1;
    }
    let begins = start == 0 || text[start - 1] == b'\n' || text[..start].ends_with(b"\xEF\xBB\xBF");
    match text.get(end) {
        Some(b'\n') if begins => Span::new(start, end + 1),
        _ => span,
    }
}

/// The line on which the first code stands, behind comments at the top and a byte order mark.
fn first_code(facts: &FileFacts, text: &[u8]) -> usize {
    let scopes = facts.scopes.iter().skip(1).map(|scope| scope.span.start);
    let declarations = facts.declarations.iter().map(|declaration| declaration.span.start);
    let occurrences = facts.occurrences.iter().map(|occurrence| occurrence.span.start);
    let first = scopes.chain(declarations).chain(occurrences).min().unwrap_or(0);
    let mark = if text.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 };
    if facts.implicit_namespace {
        return mark;
    }
    let lines = LineIndex::new(text);
    let mut line = lines.position(text, first).line;
    // A comment on the declaration stays with it.
    while line > 1 && lines.line_text(text, line - 1).trim_ascii_start().starts_with(b"///") {
        line -= 1;
    }
    let start =
        text.split_inclusive(|&byte| byte == b'\n').take(line as usize - 1).map(<[u8]>::len).sum::<usize>();
    start.max(mark)
}
