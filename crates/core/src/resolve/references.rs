//! From the names that a file uses to the types that they mean.

use super::{Container, EntityId, ImportTarget, NamespaceId, Reach, Target, Visibility, World, view};
use ferngate_model::{Context, FUNCTION, FileFacts, MemberKind, NAMESPACE, Name, Root, Use};
use rustc_hash::FxHashSet;

/// One distinct use that means a declared type.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Reference {
    /// Index into the file's uses.
    pub used: u32,
    /// What it means.
    pub entity: EntityId,
    /// How often.
    pub count: u32,
    /// It is the call of an extension method that `entity` declares.
    pub extension: bool,
    /// The one file that declares the member that is meant; [`PARTS`] where there are several; [`ANY_FILE`] where the type
    /// itself is meant.
    pub file: u32,
}

/// Whichever files declare a type.
pub const ANY_FILE: u32 = u32::MAX;

/// Some of the files that declare a type, those in [`FileReferences::parts`].
pub const PARTS: u32 = u32::MAX - 1;

/// What a file's names mean.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct FileReferences {
    /// Uses that mean declared types; mentions in comments are left out.
    pub references: Vec<Reference>,
    /// Mentions in comments and strings that mean declared types.
    pub weak: Vec<Reference>,
    /// Members used of a value whose type is not spelled there; each means the type that declares the member.
    pub members: Vec<Reference>,
    /// Of types that are spread over files: by which use of which of them a member in which file is meant, sorted.
    pub parts: Vec<(u32, EntityId, u32)>,
    /// The members that are used of types that other files declare: the type and the name; kept on request only
    /// ([`World::keeps_members`]).
    pub used_members: Vec<(EntityId, Name)>,
    /// Calls of what the type itself has, by their number of arguments, that a method in sight which extends the type may be
    /// meant by as well; kept on request only.
    pub doubtful: Vec<Reference>,
}

impl FileReferences {
    /// The files of `reference` that is marked as [`PARTS`].
    pub fn parts_of(&self, reference: &Reference) -> impl Iterator<Item = u32> {
        let key = (reference.used, reference.entity);
        let first = self.parts.partition_point(|(used, entity, _)| (*used, *entity) < key);
        self.parts[first..].iter().take_while(move |part| (part.0, part.1) == key).map(|part| part.2)
    }

    /// What counts as a dependency: spelled names, and members.
    pub fn strong(&self) -> impl Iterator<Item = &Reference> {
        self.uses().map(|(_, reference)| reference)
    }

    /// The same, each with whether it is a member.
    pub fn uses(&self) -> impl Iterator<Item = (bool, &Reference)> {
        let members = self.members.iter().map(|reference| (true, reference));
        self.references.iter().map(|reference| (false, reference)).chain(members)
    }
}

/// What the names of a file mean, as far as that is known without the members of other files.
pub(super) struct Resolved {
    pub(super) found: FileReferences,
    /// For each use, what is known of it.
    pub(super) states: Vec<State>,
    /// Namespaces in sight that hold methods called as if they belonged to another type; empty where no name calls one.
    pub(super) extending: Vec<NamespaceId>,
}

/// How far a chain of names has been understood.
#[derive(Clone, Copy, PartialEq)]
pub(super) enum State {
    Unknown,
    Namespace(NamespaceId),
    Entity(EntityId),
    /// A value named like this type, unless what follows belongs to the type.
    ValueOr(EntityId),
    /// A member of a type; what follows is of unknown type.
    Member,
}

/// Resolves every name that `file` spells.
pub(super) fn resolve_file(world: &World, file: usize, view: &mut Visibility) -> Resolved {
    let Some(facts) = world.table.named_facts(&world.project.files[file]) else {
        return Resolved { found: FileReferences::default(), states: Vec::new(), extending: Vec::new() };
    };
    let parameters = facts.members.iter().filter(|member| member.kind == MemberKind::TypeParameter);
    let mut resolver = Resolver {
        world,
        file,
        facts,
        view,
        entered: None,
        states: Vec::with_capacity(facts.uses.len()),
        found: FileReferences::default(),
        calls: Vec::new(),
        aliases: view::aliases_in_sight(world, file),
        parameters: parameters.map(|member| (member.owner, member.name)).collect(),
        imported: imported(world, file, facts),
        calls_construct: world.naming_of(file).is_some_and(|naming| naming.calls_construct),
        bare_members: world.naming_of(file).is_none_or(|naming| naming.bare_members),
    };
    for (at, used) in facts.uses.iter().enumerate() {
        resolver.resolve(at as u32, used);
    }
    let extending = resolver.extension_calls();
    let Resolver { found, states, .. } = resolver;
    Resolved { found, states, extending }
}

/// A type that names another as its base.
#[derive(Clone, Copy)]
pub(super) struct Base {
    pub(super) entity: EntityId,
    pub(super) base: EntityId,
    /// It is named inside of a type, which may inherit that name.
    pub(super) inside_type: bool,
}

/// The bases that types of `file` name.
///
/// With `inherited` only those named inside of types, where names that a type around inherits are looked up too, by the
/// bases known so far.
pub(super) fn bases_of(world: &World, file: usize, view: &mut Visibility, inherited: bool) -> Vec<Base> {
    let Some(facts) = world.table.named_facts(&world.project.files[file]) else { return Vec::new() };
    if facts.bases.is_empty() {
        return Vec::new();
    }
    let mut found = Vec::new();
    let mut entered = None;
    for (declaration, node) in &facts.bases {
        let mut chain = Vec::new();
        let mut at = *node;
        let scope = loop {
            let Some(used) = facts.uses.get(at as usize) else { break None };
            chain.push(used);
            match used.parent.get() {
                Ok(Root::Scope(scope)) => break Some(scope),
                Ok(_) => break None,
                Err(parent) => at = parent,
            }
        };
        chain.reverse();
        let Some((head, rest)) = chain.split_first() else { continue };
        let inside_type = scope.is_some_and(|scope| facts.types_around(scope).next().is_some());
        if inherited && !inside_type {
            continue;
        }
        let first = match scope {
            Some(scope) => {
                if entered.replace(scope) != Some(scope) {
                    view.enter(world, file, scope, inherited);
                }
                view.find(world, file, head.name, head.arity)
            }
            None => inside(world, Container::Namespace(world.root_of_file(file)), head.name, head.arity),
        };
        let target = rest.iter().try_fold(first, |target, used| {
            let container = match target? {
                Target::Namespace(id) => Container::Namespace(id),
                Target::Entity(id) => Container::Entity(id),
            };
            Some(inside(world, container, used.name, used.arity))
        });
        if let Some(Some(Target::Entity(base))) = target {
            let entity = world.table.declared[file][*declaration as usize];
            found.push(Base { entity, base, inside_type });
        }
    }
    found
}

/// What `name` means directly inside `container`.
fn inside(world: &World, container: Container, name: Name, arity: u8) -> Option<Target> {
    if let Some(entity) = world.table.child_entity(container, name, arity) {
        return Some(Target::Entity(entity));
    }
    match container {
        Container::Namespace(id) if matches!(arity, 0 | NAMESPACE) => {
            world.table.child_namespace(id, name).map(Target::Namespace)
        }
        _ => None,
    }
}

struct Resolver<'w, 'v> {
    world: &'w World<'w>,
    file: usize,
    facts: &'w FileFacts,
    view: &'v mut Visibility,
    entered: Option<u32>,
    states: Vec<State>,
    found: FileReferences,
    /// Calls after a dot that may be extension methods.
    calls: Vec<u32>,
    /// Names that are aliases somewhere in sight.
    aliases: view::NameSet,
    /// Type parameters with the declarations that have them.
    parameters: Vec<(u32, Name)>,
    /// The uses by which imports name types, with what they mean, in order.
    imported: Vec<(u32, EntityId)>,
    /// Whether objects are made by a call without a word before it.
    calls_construct: bool,
    /// Whether members need no name before them.
    bare_members: bool,
}

fn imported(world: &World, file: usize, facts: &FileFacts) -> Vec<(u32, EntityId)> {
    let named = facts.imports.iter().zip(&world.imports[file]).filter_map(|(import, target)| match target {
        ImportTarget::Entity(entity) => Some((import.target, *entity)),
        _ => None,
    });
    let mut found: Vec<(u32, EntityId)> = named.collect();
    // Two imports that name the same use mean what the first one does.
    found.sort_by_key(|(used, _)| *used);
    found.dedup_by_key(|(used, _)| *used);
    found
}

impl Resolver<'_, '_> {
    fn resolve(&mut self, at: u32, used: &Use) {
        let parent = used.parent.get();
        let state = match parent {
            Ok(Root::Member | Root::Value(_) | Root::This(_)) => State::Unknown,
            // It was taken back.
            Ok(_) if used.count == 0 => State::Unknown,
            // What an import means was found before.
            Ok(_) if used.context == Context::Import => State::Unknown,
            Ok(Root::Global) => {
                let root = Container::Namespace(self.world.root_of_file(self.file));
                self.state(inside(self.world, root, used.name, used.arity))
            }
            Ok(Root::Scope(scope)) => self.head(scope, used),
            Err(parent) => self.below(parent, used),
        };
        let on_value = match parent {
            Ok(root) => matches!(root, Root::Member | Root::Value(_)),
            Err(parent) => match self.states[parent as usize] {
                State::Unknown | State::Member | State::ValueOr(_) => true,
                State::Entity(entity) => self.world.table.gives_value(entity),
                State::Namespace(_) => false,
            },
        };
        if on_value
            && used.context == Context::Value
            && let Some(owners) = self.world.table.extensions.get(&used.name)
            && (used.called || owners.iter().any(|owner| self.world.table.is_constant(*owner)))
        {
            self.calls.push(at);
        }
        if let State::Entity(entity) = state {
            self.add(at, used, entity, false);
        }
        self.states.push(state);
        if used.context == Context::Import {
            self.import(at, used);
        }
    }

    fn state(&self, target: Option<Target>) -> State {
        match target {
            Some(Target::Namespace(id)) => State::Namespace(id),
            Some(Target::Entity(id)) => State::Entity(id),
            None => State::Unknown,
        }
    }

    fn add(&mut self, at: u32, used: &Use, entity: EntityId, extension: bool) {
        let list =
            if used.context == Context::Weak { &mut self.found.weak } else { &mut self.found.references };
        // Which of its files is meant is known only with the members.
        list.push(Reference { used: at, entity, count: used.count, extension, file: ANY_FILE });
    }

    /// An import of a type is a reference; of a namespace it is none.
    fn import(&mut self, at: u32, used: &Use) {
        if let Ok(found) = self.imported.binary_search_by_key(&at, |(used, _)| *used) {
            self.add(at, used, self.imported[found].1, false);
        }
    }

    /// A name that begins a chain.
    fn head(&mut self, scope: u32, used: &Use) -> State {
        let table = &self.world.table;
        let suffixed = match used.context {
            Context::Attribute => table.attribute_names.get(&used.name).copied(),
            _ => None,
        };
        if suffixed.is_none()
            && !self.aliases.contains(used.name)
            && table.candidates(used.name, used.arity).is_empty()
            && (!self.constructs(used) || table.candidates(used.name, 0).is_empty())
        {
            return State::Unknown;
        }
        if self.entered != Some(scope) {
            self.view.enter(self.world, self.file, scope, true);
            self.entered = Some(scope);
        }
        if let Some(full) = suffixed
            && let Some(target) = self.view.find(self.world, self.file, full, used.arity)
        {
            return self.state(Some(target));
        }
        if used.arity == 0 && self.is_type_parameter(scope, used.name) {
            return State::Unknown;
        }
        if used.arity == FUNCTION
            && self.bare_members
            && self.view.around.iter().any(|around| {
                let access = table.methods.get(&(*around, used.name));
                access.is_some_and(|access| self.world.may_use(self.file, *around, *access))
            })
        {
            return State::Member;
        }
        let mut target = self.view.find(self.world, self.file, used.name, used.arity);
        if target.is_none() && self.constructs(used) {
            target = self.view.find(self.world, self.file, used.name, 0);
        }
        match (used.context, target) {
            (Context::Value, Some(target)) => self.value_or(used.name, target),
            (_, target) => self.state(target),
        }
    }

    /// Whether `used` calls a function or, where there is none of that name, makes an object of a class.
    fn constructs(&self, used: &Use) -> bool {
        self.calls_construct && used.arity == FUNCTION
    }

    /// A name that could be a value: a member of the types around hides the type or namespace of its name.
    fn value_or(&self, name: Name, target: Target) -> State {
        if !self.bare_members {
            return self.state(Some(target));
        }
        for around in &self.view.around {
            let value = self.world.table.values.get(&(*around, name));
            if let Some((type_name, access)) = value
                && self.world.may_use(self.file, *around, *access)
            {
                return match target {
                    Target::Entity(entity) if *type_name == name && !self.world.table.gives_value(entity) => {
                        State::ValueOr(entity)
                    }
                    _ => State::Member,
                };
            }
        }
        self.state(Some(target))
    }

    fn is_type_parameter(&self, scope: u32, name: Name) -> bool {
        if self.parameters.iter().all(|(_, parameter)| *parameter != name) {
            return false;
        }
        self.facts.types_around(scope).any(|declaration| self.parameters.contains(&(declaration, name)))
    }

    /// A name behind another one.
    fn below(&mut self, parent: u32, used: &Use) -> State {
        match self.states[parent as usize] {
            State::Unknown => State::Unknown,
            State::Member => State::Member,
            State::Namespace(id) => {
                let container = Container::Namespace(id);
                let suffixed = match used.context {
                    Context::Attribute => self.world.table.attribute_names.get(&used.name),
                    _ => None,
                };
                let full = suffixed.and_then(|name| inside(self.world, container, *name, used.arity));
                self.state(full.or_else(|| inside(self.world, container, used.name, used.arity)))
            }
            State::Entity(entity) => self.nested(entity, used),
            State::ValueOr(entity) => {
                if self.belongs_to_type(entity, used.name) {
                    let above = self.facts.uses[parent as usize];
                    self.add(parent, &above, entity, false);
                    return self.nested(entity, used);
                }
                State::Member
            }
        }
    }

    fn nested(&self, entity: EntityId, used: &Use) -> State {
        for around in self.world.with_bases(entity) {
            let suffixed = match used.context {
                Context::Attribute => self.world.table.attribute_names.get(&used.name),
                _ => None,
            };
            for name in suffixed.into_iter().chain([&used.name]) {
                if let Some(found) =
                    self.world.table.child_entity(Container::Entity(around), *name, used.arity)
                    && self.world.may_use_type(self.file, found)
                {
                    return State::Entity(found);
                }
            }
        }
        State::Member
    }

    /// Whether `name` is a constant, static value or nested type of `entity`.
    fn belongs_to_type(&self, entity: EntityId, name: Name) -> bool {
        let table = &self.world.table;
        table.child_entity(Container::Entity(entity), name, 0).is_some()
            || table.entities[entity.index()].declarations.iter().any(|(file, declaration)| {
                self.world.project.files[*file as usize].facts.as_deref().is_some_and(|facts| {
                    facts.members.iter().any(|member| {
                        member.owner == *declaration
                            && member.kind == MemberKind::Static
                            && member.name == name
                    })
                })
            })
    }

    /// Decides which calls after a dot are calls of extension methods: those whose class can be seen from the file,
    /// and, where a type of the project has a method of that name too, those without which an import would serve
    /// nobody. Gives the namespaces in sight that hold such methods; further calls are decided by what they are called on.
    fn extension_calls(&mut self) -> Vec<NamespaceId> {
        if self.calls.is_empty() {
            return Vec::new();
        }
        let (world, calls) = (self.world, std::mem::take(&mut self.calls));
        let visible = self.visible_namespaces();
        let mut served: FxHashSet<NamespaceId> = self.served_by_imports().collect();
        for sure in [true, false] {
            for at in &calls {
                let used = self.facts.uses[*at as usize];
                if world.table.instance_methods.contains(&used.name) == sure {
                    continue;
                }
                for &owner in &world.table.extensions[&used.name] {
                    // A property that extends a type is taken without a call; one node may stand for both.
                    if !used.called && !world.table.is_constant(owner) {
                        continue;
                    }
                    let namespace = world.table.namespace_of(owner);
                    let Some(imported) = visible.iter().find(|(id, _)| *id == namespace).map(|found| found.1)
                    else {
                        continue;
                    };
                    let needed = sure || imported && !served.contains(&namespace);
                    if !needed && !world.keeps_members || !view::sees_entity(world, self.file, owner) {
                        continue;
                    }
                    if !needed {
                        let (entity, count) = (owner, used.count);
                        let doubtful =
                            Reference { used: *at, entity, count, extension: true, file: ANY_FILE };
                        self.found.doubtful.push(doubtful);
                        continue;
                    }
                    self.add(*at, &used, owner, true);
                    if !sure {
                        served.insert(namespace);
                    }
                }
            }
            served.extend(self.served_by_imports());
        }
        visible.into_iter().map(|(namespace, _)| namespace).collect()
    }

    /// The namespaces whose names the file uses as an import brings them: by themselves, and under no other name.
    fn served_by_imports(&self) -> impl Iterator<Item = NamespaceId> {
        let serves = |reference: &&Reference| {
            let used = self.facts.uses[reference.used as usize];
            reference.extension
                || matches!(used.parent.get(), Ok(Root::Scope(_)))
                    && used.context != Context::Import
                    && !self.aliases.contains(used.name)
        };
        let references = self.found.references.iter().filter(serves);
        references.map(|reference| self.world.table.namespace_of(reference.entity))
    }

    /// All namespaces that some scope of the file sees, and whether only by an import.
    fn visible_namespaces(&mut self) -> Vec<(NamespaceId, bool)> {
        let mut found: Vec<(NamespaceId, bool)> = Vec::new();
        let owners = self.extending_namespaces();
        for scope in 0..self.facts.scopes.len() as u32 {
            if self.facts.type_of(scope).is_some() {
                continue;
            }
            self.view.enter(self.world, self.file, scope, false);
            for namespace in &owners {
                if let Some((_, reach)) = self.view.rank(Container::Namespace(*namespace)) {
                    let own = &self.world.table.scope_namespaces[self.file];
                    let imported = reach == Reach::Declared && !own.contains(namespace);
                    match found.iter_mut().find(|known| known.0 == *namespace) {
                        Some(known) => known.1 &= imported,
                        None => found.push((*namespace, imported)),
                    }
                }
            }
        }
        self.entered = None;
        found
    }

    /// The namespaces of what extends other types by some name that the file uses.
    fn extending_namespaces(&self) -> FxHashSet<NamespaceId> {
        let table = &self.world.table;
        let owners = self.facts.uses.iter().filter_map(|used| table.extensions.get(&used.name)).flatten();
        owners.map(|owner| table.namespace_of(*owner)).collect()
    }
}
