//! All declared names of a project, found by one look-up.

use super::Ownership;
use super::extending::seen_extensions;
use super::members::{self, Members};
use super::pages::implicit_namespace;
use super::sieve::Sieve;
use ferngate_model::{
    Access, CONSTANT, DeclarationKind, FUNCTION, FileFacts, ImportKind, Language, MemberKind, NAMESPACE,
    Name, NameTexts, ProjectFacts, ScopeKind, Share, SourceFile,
};
use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;

/// A namespace, by index into [`Table::namespaces`]; the first ones are the outermost of each family of languages.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct NamespaceId(pub u32);

/// A declared type, by index into [`Table::entities`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct EntityId(pub u32);

impl EntityId {
    /// The index.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// What directly holds a declared name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Container {
    /// A namespace.
    Namespace(NamespaceId),
    /// A type around it.
    Entity(EntityId),
}

/// What a name can mean.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Target {
    /// A namespace.
    Namespace(NamespaceId),
    /// A declared type.
    Entity(EntityId),
}

/// A namespace in the tree of namespaces.
#[derive(Clone, Copy, Debug)]
pub struct Namespace {
    /// The namespace around it; itself for the outermost.
    pub parent: NamespaceId,
    /// Its last part.
    pub name: Name,
    /// Whether a type is declared directly in it.
    pub holds_types: bool,
}

/// A type by its full name; its declarations may stand in several files.
#[derive(Clone, Debug)]
pub struct Entity {
    /// What holds it.
    pub container: Container,
    /// Its simple name.
    pub name: Name,
    /// Number of type parameters.
    pub arity: u8,
    /// Its sort.
    pub kind: DeclarationKind,
    /// File and index of each declaration, in file order.
    pub declarations: Vec<(u32, u32)>,
    /// The manifests that hold some declaration, sorted.
    pub owners: Vec<u32>,
    /// Some declaration is held by no manifest.
    pub unowned: bool,
    /// Who may use it, by its most open declaration.
    pub access: Access,
}

/// All declared names.
#[derive(Debug, Default)]
pub struct Table {
    /// The trees of namespaces, outermost first.
    pub namespaces: Vec<Namespace>,
    /// For each language, whether its imports are paths, so that its names stand in no namespace.
    linked: Vec<bool>,
    /// For each language, the outermost namespace of its family.
    pub roots: Vec<NamespaceId>,
    /// For each outermost namespace, what stands between the parts of a name below it.
    separators: Vec<&'static str>,
    /// The declared types in file order.
    pub entities: Vec<Entity>,
    /// Their texts.
    pub texts: NameTexts,
    /// For each file, the namespace of each scope.
    pub scope_namespaces: Vec<Vec<NamespaceId>>,
    /// For each file, the entity of each declaration.
    pub declared: Vec<Vec<EntityId>>,
    candidates: FxHashMap<u64, SmallVec<[(Container, Target); 1]>>,
    /// Which keys `candidates` may have.
    declared_names: Sieve,
    children: FxHashMap<(NamespaceId, Name), NamespaceId>,
    /// Attribute names without the suffix that may be left out, to those with it.
    pub attribute_names: FxHashMap<Name, Name>,
    /// Extension methods by name, to the types that declare them.
    pub extensions: FxHashMap<Name, Vec<EntityId>>,
    /// Some value extends a type, as a method would: it is taken without a call.
    pub extends_by_values: bool,
    /// Names of extension methods that are also methods of instances somewhere.
    pub instance_methods: FxHashSet<Name>,
    /// The members of all types.
    pub(super) members: Members,
    /// The names that some member may have.
    pub(super) member_names: Sieve,
    /// For each type, the bits of the names of its members.
    pub(super) member_signs: Vec<u64>,
    /// Types and functions that some file declares for all platforms, each of which answers with its own.
    pub(super) expected: FxHashSet<EntityId>,
    /// Methods that are named like a function outside of types or like a type, with who may use them.
    pub methods: FxHashMap<(EntityId, Name), Access>,
    /// For each language, the namespaces that its files import without a word.
    pub implicit_imports: Vec<Vec<NamespaceId>>,
    /// Values that are named like a type or namespace, with the last name of their type and who may use them.
    pub values: FxHashMap<(EntityId, Name), (Name, Access)>,
}

/// What a file of a language whose names live in namespaces says.
fn named_facts<'p>(source: &'p SourceFile, linked: &[bool]) -> Option<&'p FileFacts> {
    source.facts.as_deref().filter(|_| source.language.is_none_or(|language| !linked[language]))
}

impl Table {
    /// What `source` says, if names of its language live in namespaces.
    pub fn named_facts<'p>(&self, source: &'p SourceFile) -> Option<&'p FileFacts> {
        named_facts(source, &self.linked)
    }

    /// Enters everything that `project` declares.
    pub fn new(project: &ProjectFacts, languages: &[&dyn Language], ownership: &Ownership) -> Self {
        let linked = languages.iter().map(|language| language.linker().is_some()).collect();
        let mut table = Self { linked, ..Self::default() };
        table.enter_families(languages);
        let read = || project.files.iter().filter_map(|source| source.facts.as_deref());
        let texts = || {
            let mut texts = NameTexts::default();
            read().for_each(|facts| texts.extend(&facts.texts));
            texts
        };
        let (texts, ()) = rayon::join(texts, || table.enter_files(project, languages, ownership));
        let added = std::mem::replace(&mut table.texts, texts);
        table.texts.extend(&added);
        for entity in &mut table.entities {
            for (file, _) in &entity.declarations {
                let owners = &ownership.owners[*file as usize];
                entity.unowned |= owners.is_empty();
                entity.owners.extend(owners);
            }
            entity.owners.sort_unstable();
            entity.owners.dedup();
        }
        for (language, root) in languages.iter().zip(table.roots.clone()) {
            let named = |text: &&str| {
                let mut parts = text.split('.');
                parts.try_fold(root, |id, part| table.child_namespace(id, Name::new(part.as_bytes())))
            };
            let found = language.naming().implicit_imports.iter().filter_map(named).collect();
            table.implicit_imports.push(found);
        }
        table.enter_suffixes(languages);
        table.enter_members(project);
        table
    }

    /// Enters the namespaces and declarations of all files.
    fn enter_files(&mut self, project: &ProjectFacts, languages: &[&dyn Language], ownership: &Ownership) {
        let mut known: FxHashMap<(Container, Name, u8), EntityId> = FxHashMap::default();
        let nothing = FileFacts::default();
        for (file, source) in project.files.iter().enumerate() {
            let facts = named_facts(source, &self.linked).unwrap_or(&nothing);
            let named = || implicit_namespace(project, languages, ownership, file);
            let implicit = facts.implicit_namespace.then(named).flatten();
            let root = source.language.map_or(NamespaceId(0), |language| self.roots[language]);
            self.enter_scopes(facts, root, implicit);
            self.enter_declarations(file, facts, source.path.stem(), &mut known);
        }
        self.declared_names = Sieve::new(self.candidates.len());
        self.candidates.keys().for_each(|key| self.declared_names.add(*key));
    }

    /// Families share nothing: each has an outermost namespace of its own.
    fn enter_families(&mut self, languages: &[&dyn Language]) {
        let mut families: Vec<&str> = Vec::new();
        for language in languages {
            let naming = language.naming();
            let at = families.iter().position(|family| *family == naming.family).unwrap_or(families.len());
            let root = NamespaceId(at as u32);
            if at == families.len() {
                families.push(naming.family);
                self.separators.push(naming.separator);
                self.namespaces.push(Namespace { parent: root, name: Name(0), holds_types: false });
            }
            self.roots.push(root);
        }
    }

    fn enter_scopes(&mut self, facts: &FileFacts, root: NamespaceId, implicit: Option<String>) {
        let mut namespaces: Vec<NamespaceId> = Vec::with_capacity(facts.scopes.len());
        for (at, scope) in facts.scopes.iter().enumerate() {
            let mut id = if at == 0 { root } else { namespaces[scope.parent as usize] };
            if let (0, Some(text)) = (at, &implicit) {
                id = self.namespace_by_text(root, text);
            }
            if let ScopeKind::Namespace { path, .. } = &scope.kind {
                id = path.iter().fold(id, |id, part| self.child(id, *part));
            }
            namespaces.push(id);
        }
        self.scope_namespaces.push(namespaces);
    }

    fn namespace_by_text(&mut self, root: NamespaceId, text: &str) -> NamespaceId {
        text.split('.').filter(|part| !part.is_empty()).fold(root, |id, part| {
            let name = self.texts.add(part);
            self.child(id, name)
        })
    }

    fn child(&mut self, parent: NamespaceId, name: Name) -> NamespaceId {
        if let Some(id) = self.children.get(&(parent, name)) {
            return *id;
        }
        let id = NamespaceId(self.namespaces.len() as u32);
        self.namespaces.push(Namespace { parent, name, holds_types: false });
        self.children.insert((parent, name), id);
        let candidate = (Container::Namespace(parent), Target::Namespace(id));
        for arity in [0, NAMESPACE] {
            self.candidates.entry(name.mixed(u64::from(arity))).or_default().push(candidate);
        }
        id
    }

    fn enter_declarations(
        &mut self,
        file: usize,
        facts: &FileFacts,
        stem: &str,
        known: &mut FxHashMap<(Container, Name, u8), EntityId>,
    ) {
        let mut declared: Vec<EntityId> = Vec::with_capacity(facts.declarations.len());
        for (at, declaration) in facts.declarations.iter().enumerate() {
            let name = match (declaration.name, declaration.kind) {
                (Name(0), DeclarationKind::Facade) => self.texts.add(&facade_name(stem)),
                (Name(0), _) => self.texts.add(stem),
                (name, _) => name,
            };
            let container = match facts.type_of(declaration.scope) {
                // A type's scope comes after its declaration, so what is around is entered already.
                Some(around) if (around as usize) < at => Container::Entity(declared[around as usize]),
                _ => Container::Namespace(self.scope_namespaces[file][declaration.scope as usize]),
            };
            let entities = &mut self.entities;
            let candidates = &mut self.candidates;
            let id = *known.entry((container, name, declaration.arity)).or_insert_with(|| {
                let id = EntityId(entities.len() as u32);
                let (arity, kind) = (declaration.arity, declaration.kind);
                entities.push(Entity {
                    container,
                    name,
                    arity,
                    kind,
                    declarations: Vec::new(),
                    owners: Vec::new(),
                    unowned: false,
                    access: declaration.access,
                });
                let key = name.mixed(u64::from(arity));
                candidates.entry(key).or_default().push((container, Target::Entity(id)));
                id
            });
            if let Container::Namespace(namespace) = container {
                self.namespaces[namespace.0 as usize].holds_types = true;
            }
            let entity = &mut self.entities[id.index()];
            entity.declarations.push((file as u32, at as u32));
            if declaration.share == Share::Expected {
                self.expected.insert(id);
            }
            // Not every part of a type needs to say it.
            entity.access = entity.access.min(declaration.access);
            declared.push(id);
        }
        self.declared.push(declared);
    }

    fn enter_suffixes(&mut self, languages: &[&dyn Language]) {
        let mut suffixes: Vec<&str> =
            languages.iter().map(|language| language.naming().attribute_suffix).collect();
        suffixes.sort_unstable();
        suffixes.dedup();
        for suffix in suffixes.into_iter().filter(|suffix| !suffix.is_empty()) {
            for entity in &self.entities {
                let short = self.texts.text(entity.name).strip_suffix(suffix);
                if let Some(short) = short.filter(|short| !short.is_empty()) {
                    self.attribute_names.insert(Name::new(short.as_bytes()), entity.name);
                }
            }
        }
    }

    fn enter_members(&mut self, project: &ProjectFacts) {
        let (linked, declared) = (self.linked.clone(), std::mem::take(&mut self.declared));
        let facts = || {
            project.files.iter().enumerate().filter_map(|(at, file)| Some((at, named_facts(file, &linked)?)))
        };
        let of_file = |file: usize| named_facts(&project.files[file], &linked);
        let entities = self.entities.len();
        let members = || members::enter(of_file, &declared, entities);
        let (members, ()) = rayon::join(members, || self.enter_values(&facts, &declared));
        (self.members, self.member_names, self.member_signs) = members;
        self.declared = declared;
    }

    /// Enters the members that a use could mean instead of a type, and extension methods; `declared` holds the entities
    /// of each file.
    fn enter_values<'p, I: Iterator<Item = (usize, &'p FileFacts)>>(
        &mut self,
        facts: &impl Fn() -> I,
        declared: &[Vec<EntityId>],
    ) {
        for (file, facts) in facts() {
            for (name, owner) in seen_extensions(facts) {
                let owner = declared[file][owner as usize];
                self.extends_by_values |= self.is_constant(owner);
                let owners = self.extensions.entry(name).or_default();
                if !owners.contains(&owner) {
                    owners.push(owner);
                }
            }
        }
        // `using Sign = …; Sign Sign;`: a name that an import gives can be that of a value too.
        let imports = facts().flat_map(|(_, facts)| facts.imports.iter().map(move |import| (facts, import)));
        let aliases: FxHashSet<Name> = imports
            .filter_map(|(facts, import)| match import.kind {
                ImportKind::Alias(name) => {
                    facts.uses.get(import.target as usize).map(|used| (name, used.arity))
                }
                _ => None,
            })
            .filter(|(_, arity)| !matches!(*arity, FUNCTION | CONSTANT))
            .map(|(name, _)| name)
            .collect();
        for (file, facts) in facts() {
            for member in &facts.members {
                match member.kind {
                    MemberKind::Method => {
                        if self.extensions.contains_key(&member.name) {
                            self.instance_methods.insert(member.name);
                        }
                        // Where objects are made without a word, a class may be called, too.
                        let declared_as = |arity| !self.candidates(member.name, arity).is_empty();
                        if declared_as(FUNCTION) || declared_as(0) {
                            let owner = declared[file][member.owner as usize];
                            let access = self.methods.entry((owner, member.name)).or_insert(member.access);
                            *access = member.access.min(*access);
                        }
                    }
                    MemberKind::Value | MemberKind::Static => {
                        let extends = self.extensions.get(&member.name);
                        if extends.is_some_and(|owners| owners.iter().any(|owner| self.is_constant(*owner))) {
                            self.instance_methods.insert(member.name);
                        }
                        let declared_as = |arity| !self.candidates(member.name, arity).is_empty();
                        if declared_as(0) || declared_as(CONSTANT) || aliases.contains(&member.name) {
                            let owner = declared[file][member.owner as usize];
                            let value = (facts.type_name(member), member.access);
                            self.values.insert((owner, member.name), value);
                        }
                    }
                    MemberKind::Extension | MemberKind::Accessor | MemberKind::TypeParameter => {}
                }
            }
        }
    }

    /// Everything that a name with `arity` type arguments is declared as, anywhere.
    #[inline]
    pub fn candidates(&self, name: Name, arity: u8) -> &[(Container, Target)] {
        let key = name.mixed(u64::from(arity));
        if !self.declared_names.may_hold(key) {
            return &[];
        }
        self.candidates.get(&key).map_or(&[], |found| found)
    }

    /// Whether `entity` is a value outside of types.
    pub fn is_constant(&self, entity: EntityId) -> bool {
        self.entities[entity.index()].arity == CONSTANT
    }

    /// Whether `entity` is a function or constant outside of types, of which a use gives a value.
    pub fn gives_value(&self, entity: EntityId) -> bool {
        matches!(self.entities[entity.index()].arity, FUNCTION | CONSTANT)
    }

    /// The namespace `name` directly inside `parent`.
    pub fn child_namespace(&self, parent: NamespaceId, name: Name) -> Option<NamespaceId> {
        self.children.get(&(parent, name)).copied()
    }

    /// The type `name` directly inside `container`.
    pub fn child_entity(&self, container: Container, name: Name, arity: u8) -> Option<EntityId> {
        self.candidates(name, arity).iter().find_map(|(around, target)| match target {
            Target::Entity(id) if *around == container => Some(*id),
            _ => None,
        })
    }

    /// The namespace spelled `text` in some family of languages, if anything declares it.
    pub fn namespace_named(&self, text: &str) -> Option<NamespaceId> {
        self.separators.iter().enumerate().find_map(|(root, separator)| {
            text.split(separator).try_fold(NamespaceId(root as u32), |id, part| {
                self.child_namespace(id, Name::new(part.as_bytes()))
            })
        })
    }

    /// The type spelled `text` in full in some family of languages; types inside of it stand behind a dot, `$` or `+`.
    pub fn entity_named(&self, text: &str) -> Option<EntityId> {
        self.separators.iter().enumerate().find_map(|(root, separator)| {
            let parts = text.split([separator.chars().next()?, '$', '+']).filter(|part| !part.is_empty());
            let mut at = Container::Namespace(NamespaceId(root as u32));
            for part in parts {
                let name = Name::new(part.as_bytes());
                let namespace = match at {
                    Container::Namespace(id) => self.child_namespace(id, name).map(Container::Namespace),
                    Container::Entity(_) => None,
                };
                at = self.child_entity(at, name, 0).map(Container::Entity).or(namespace)?;
            }
            match at {
                Container::Entity(found) => Some(found),
                Container::Namespace(_) => None,
            }
        })
    }

    /// Whether nothing is around `id`.
    pub fn is_outermost(&self, id: NamespaceId) -> bool {
        (id.0 as usize) < self.separators.len()
    }

    /// The outermost namespace around `id`.
    pub fn root_of(&self, id: NamespaceId) -> NamespaceId {
        let mut at = id;
        while !self.is_outermost(at) {
            at = self.namespaces[at.0 as usize].parent;
        }
        at
    }

    /// The full name of a namespace; empty for the outermost.
    pub fn namespace_text(&self, id: NamespaceId) -> String {
        let mut parts = Vec::new();
        let mut at = id;
        while !self.is_outermost(at) {
            parts.push(self.texts.text(self.namespaces[at.0 as usize].name));
            at = self.namespaces[at.0 as usize].parent;
        }
        parts.reverse();
        parts.join(self.separators[at.0 as usize])
    }

    /// The namespace that holds `entity`, through the types around it.
    pub fn namespace_of(&self, entity: EntityId) -> NamespaceId {
        let mut at = self.entities[entity.index()].container;
        loop {
            match at {
                Container::Namespace(id) => return id,
                Container::Entity(id) => at = self.entities[id.index()].container,
            }
        }
    }

    /// The outermost type around `entity`, or itself.
    pub fn outermost(&self, entity: EntityId) -> EntityId {
        let mut at = entity;
        while let Container::Entity(around) = self.entities[at.index()].container {
            at = around;
        }
        at
    }

    /// The full name of a type, with the types around it.
    pub fn entity_text(&self, entity: EntityId) -> String {
        let mut parts = vec![self.texts.text(self.entities[entity.index()].name)];
        let mut at = self.entities[entity.index()].container;
        loop {
            match at {
                Container::Entity(around) => {
                    parts.push(self.texts.text(self.entities[around.index()].name));
                    at = self.entities[around.index()].container;
                }
                Container::Namespace(id) => {
                    let namespace = self.namespace_text(id);
                    parts.reverse();
                    let own = parts.join(".");
                    let separator = self.separators[self.root_of(id).0 as usize];
                    return if namespace.is_empty() { own } else { format!("{namespace}{separator}{own}") };
                }
            }
        }
    }
}

/// `letters` becomes `LettersKt`.
fn facade_name(stem: &str) -> String {
    let mut rest = stem.chars();
    rest.next().map_or_else(String::new, |first| format!("{}{}Kt", first.to_uppercase(), rest.as_str()))
}
