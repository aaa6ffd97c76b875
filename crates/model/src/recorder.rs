use crate::{
    ArgumentCounts, Context, Declaration, FileFacts, Import, Member, MemberKind, NO_TYPE, Name, Occurrence,
    ParameterTypes, PathBase, PathUse, Problem, ReadOptions, Root, Scope, ScopeKind, Span, Use, UseParent,
    ValueType,
};
use rustc_hash::FxHashMap;

/// Collects the facts of one file after another; a worker keeps one, so that its tables are allocated once.
#[derive(Debug, Default)]
pub struct Recorder {
    facts: FileFacts,
    options: ReadOptions,
    slots: Vec<Slot>,
    stamp: u32,
    /// The type whose head is being read, and its inside.
    head: Option<(u32, u32)>,
    /// For each scope, how many are around it.
    depths: Vec<u32>,
    /// Where each distinct type of values stands in the list.
    value_types: FxHashMap<ValueType, u32>,
    /// For each use that is a call, what it is given first where it first stands, as far as that is known.
    first_given: Vec<UseParent>,
}

/// Stands for what a use is given first that is not called yet: a value never begins there.
const NOT_CALLED: UseParent = UseParent::GLOBAL_ROOT;

/// Types inside of more types than this are not entered: looking outwards from them would take too long.
const DEEPEST_SCOPE: u32 = 200;

/// So many of the type parameters and fields that the head of a type names are looked at.
const MOST_IN_HEAD: usize = 512;

#[derive(Clone, Copy, Debug, Default)]
struct Slot {
    key: u64,
    stamp: u32,
    used: u32,
}

/// One name of a dotted chain as the reader met it.
#[derive(Clone, Copy, Debug, Default)]
pub struct ChainLink {
    /// The identifier.
    pub name: Name,
    /// Number of type arguments given.
    pub arity: u8,
    /// The identifier's bytes.
    pub span: Span,
}

impl Recorder {
    /// Begins a new file of `length` bytes.
    pub fn begin(&mut self, length: usize, options: ReadOptions) {
        // A file that was begun and never finished is forgotten.
        self.finish();
        self.options = options;
        if self.slots.is_empty() {
            self.slots = vec![Slot::default(); 1024];
        }
        self.stamp = self.stamp.wrapping_add(1);
        if self.stamp == 0 {
            self.slots.fill(Slot::default());
            self.stamp = 1;
        }
        let span = Span::new(0, length);
        self.facts.scopes.push(Scope { parent: 0, kind: ScopeKind::File, span });
        self.value_types.clear();
        self.first_given.clear();
        self.head = None;
        self.depths.clear();
        self.depths.push(0);
    }

    /// Ends the file and hands over its facts, each list in an allocation of just its size: those that grew while the
    /// file was read serve the next one.
    pub fn finish(&mut self) -> FileFacts {
        let FileFacts {
            lines,
            scopes,
            declarations,
            members,
            imports,
            uses,
            paths,
            settings,
            bases,
            base_types,
            value_types,
            parameter_types,
            signatures,
            accessors,
            parameter_texts,
            associated,
            first_arguments,
            friends,
            stated_once,
            texts,
            implicit_namespace,
            occurrences,
            problems,
        } = &mut self.facts;
        // Arguments of inner calls end first; of several calls of one node the first counts.
        first_arguments.sort_by_key(|(call, _)| *call);
        FileFacts {
            lines: std::mem::take(lines),
            scopes: handed_over(scopes),
            declarations: handed_over(declarations),
            members: handed_over(members),
            imports: handed_over(imports),
            uses: handed_over(uses),
            paths: handed_over(paths),
            settings: handed_over(settings),
            bases: handed_over(bases),
            base_types: handed_over(base_types),
            value_types: handed_over(value_types),
            parameter_types: handed_over(parameter_types),
            signatures: handed_over(signatures),
            accessors: handed_over(accessors),
            parameter_texts: handed_over(parameter_texts),
            associated: handed_over(associated),
            first_arguments: handed_over(first_arguments),
            friends: handed_over(friends),
            stated_once: handed_over(stated_once),
            texts: std::mem::take(texts),
            implicit_namespace: std::mem::take(implicit_namespace),
            occurrences: handed_over(occurrences),
            problems: handed_over(problems),
        }
    }

    /// What was asked for.
    pub fn options(&self) -> ReadOptions {
        self.options
    }

    /// The facts so far.
    pub fn facts(&mut self) -> &mut FileFacts {
        &mut self.facts
    }

    /// Opens a scope inside `parent`; its span ends where [`Recorder::close_scope`] says.
    pub fn open_scope(&mut self, parent: u32, kind: ScopeKind, start: usize) -> u32 {
        let span = Span::new(start, start);
        self.facts.scopes.push(Scope { parent, kind, span });
        self.depths.push(self.depths.get(parent as usize).map_or(0, |depth| depth + 1));
        (self.facts.scopes.len() - 1) as u32
    }

    /// Whether nothing more shall be declared inside `scope`.
    pub fn is_deepest(&self, scope: u32) -> bool {
        self.depths.get(scope as usize).is_some_and(|depth| *depth >= DEEPEST_SCOPE)
    }

    /// States where a scope ends.
    pub fn close_scope(&mut self, scope: u32, end: usize) {
        if let Some(scope) = self.facts.scopes.get_mut(scope as usize) {
            scope.span = Span::new(scope.span.start as usize, end);
        }
    }

    /// Adds a declared type and returns its index.
    pub fn declare(&mut self, declaration: Declaration) -> u32 {
        self.facts.declarations.push(declaration);
        (self.facts.declarations.len() - 1) as u32
    }

    /// Adds a member.
    pub fn member(&mut self, member: Member) {
        self.facts.members.push(member);
    }

    /// Adds a member in whose head the types of the use nodes `named` stand.
    pub fn member_with_signature(&mut self, member: Member, named: &[u32]) {
        let at = self.facts.members.len() as u32;
        self.facts.members.push(member);
        self.facts.signatures.extend(named.iter().map(|node| (at, *node)));
    }

    /// The index of a type of values: the node of its last name and of its last type argument; [`NO_TYPE`] for neither.
    pub fn value_type(&mut self, outer: Option<u32>, argument: Option<u32>) -> u32 {
        self.spelled_type(ValueType::new(outer, argument))
    }

    /// The index of this type of values; [`NO_TYPE`] where nothing is known of it.
    pub fn spelled_type(&mut self, found: ValueType) -> u32 {
        if found.is_unknown() {
            return NO_TYPE;
        }
        let list = &mut self.facts.value_types;
        *self.value_types.entry(found).or_insert_with(|| {
            list.push(found);
            list.len() as u32 - 1
        })
    }

    /// Keeps the types of a method's parameters.
    pub fn parameters(&mut self, types: &[u32]) -> ParameterTypes {
        let kept = &mut self.facts.parameter_types;
        let found = ParameterTypes { first: kept.len() as u32, count: types.len() as u32 };
        kept.extend_from_slice(types);
        found
    }

    /// Adds an import.
    pub fn import(&mut self, import: Import) {
        self.facts.imports.push(import);
    }

    /// Adds a use of another file by its path.
    pub fn path(&mut self, span: Span, path: &str, base: PathBase, weak: bool) {
        self.path_with_names(span, path, base, weak, Vec::new());
    }

    /// Adds a use of another file by its path, of which `names` are taken.
    pub fn path_with_names(
        &mut self,
        span: Span,
        path: &str,
        base: PathBase,
        weak: bool,
        names: Vec<(Name, Name)>,
    ) {
        self.facts.paths.push(PathUse { span, path: path.into(), base, weak, inner: false, names });
    }

    /// Adds a problem.
    pub fn problem(&mut self, span: Span, text: &str) {
        self.facts.problems.push(Problem { span, text: text.to_owned() });
    }

    /// Begins the part of the head of `declaration`, with the inside `body`, that names what it derives from: names there
    /// mean what they mean around the type, but for its type parameters.
    pub fn begin_head(&mut self, declaration: u32, body: u32) {
        self.head = Some((declaration, body));
    }

    /// Ends that part.
    pub fn end_head(&mut self) {
        self.head = None;
    }

    /// Whether the head of a type is being read.
    pub fn in_head(&self) -> bool {
        self.head.is_some()
    }

    /// The inside of the type whose head is being read, if `name` is one of its type parameters.
    fn body_with_parameter(&self, name: Name) -> Option<u32> {
        let (declaration, body) = self.head?;
        // Those of the type stand last, because nothing inside of it is read yet.
        let last = self.facts.members.iter().rev().take(MOST_IN_HEAD);
        let own = last.take_while(|member| member.owner == declaration);
        let mut parameters = own.filter(|member| member.kind == MemberKind::TypeParameter);
        parameters.any(|parameter| parameter.name == name).then_some(body)
    }

    /// Records a dotted chain and returns the node of its last name; `None` for an empty chain.
    pub fn chain(&mut self, root: Root, links: &[ChainLink], context: Context, called: bool) -> Option<u32> {
        let root = match (root, links) {
            (Root::Scope(scope), [only]) if self.head.is_some() && only.arity == 0 => {
                Root::Scope(self.body_with_parameter(only.name).unwrap_or(scope))
            }
            _ => root,
        };
        self.chain_below(UseParent::root(root), links, context, called)
    }

    /// The same for a chain that goes on from `parent`.
    pub fn chain_below(
        &mut self,
        mut parent: UseParent,
        links: &[ChainLink],
        context: Context,
        called: bool,
    ) -> Option<u32> {
        let mut last = None;
        for (at, link) in links.iter().enumerate() {
            let used = self.used(parent, *link, context, called && at + 1 == links.len());
            parent = UseParent::node(used);
            last = Some(used);
        }
        last
    }

    /// Records one use below `parent` and returns its node.
    #[inline]
    pub fn used(&mut self, parent: UseParent, link: ChainLink, context: Context, called: bool) -> u32 {
        let index = self.of_key(key_of(parent, &link, context, called), parent, link, context);
        let used = &mut self.facts.uses[index as usize];
        used.count += 1;
        used.called |= called;
        if self.options.occurrences {
            self.facts.occurrences.push(Occurrence { used: index, span: link.span });
        }
        index
    }

    /// The use with this key, which is made where there is none.
    #[inline]
    fn of_key(&mut self, key: u64, parent: UseParent, link: ChainLink, context: Context) -> u32 {
        let mask = self.slots.len() - 1;
        let mut at = place(key) & mask;
        loop {
            let slot = self.slots[at];
            if slot.stamp != self.stamp {
                return self.new_use(at, key, parent, link, context);
            }
            if slot.key == key {
                return slot.used;
            }
            at = (at + 1) & mask;
        }
    }

    /// Takes the last recording of the use `node` back: what stands there means something else.
    pub fn take_back(&mut self, node: u32) {
        if let Some(used) = self.facts.uses.get_mut(node as usize) {
            used.count = used.count.saturating_sub(1);
        }
        let last = self.facts.occurrences.iter().rposition(|occurrence| occurrence.used == node);
        if let Some(last) = last {
            self.facts.occurrences.remove(last);
        }
    }

    /// Takes what was used in the scope `from` as used in `to`: what stands before a package's name is seen from the
    /// package.
    pub fn rescope(&mut self, from: u32, to: u32) {
        let (old, new) = (UseParent::root(Root::Scope(from)), UseParent::root(Root::Scope(to)));
        for used in self.facts.uses.iter_mut().filter(|used| used.parent == old) {
            used.parent = new;
        }
    }

    /// Notes that the last call of the use `node`, whose parenthesis begins at `at`, has `count` arguments. Gives the use that
    /// stands for calls with so many: what they give may differ.
    pub fn called_with(&mut self, node: u32, count: usize, at: usize) -> u32 {
        let Some(used) = self.facts.uses.get_mut(node as usize) else { return node };
        let counts = ArgumentCounts::of(count);
        if used.arguments == counts || used.arguments == ArgumentCounts::default() {
            used.arguments = counts;
            return node;
        }
        let tells = u64::from((*self.first_given(node)).raw()) << 16 | (1 + count.min(7) as u64);
        self.twin(node, tells, at, counts)
    }

    /// What the use `node` is given first where it is called first; no call is given [`NOT_CALLED`].
    fn first_given(&mut self, node: u32) -> &mut UseParent {
        if self.first_given.len() <= node as usize {
            self.first_given.resize(self.facts.uses.len(), NOT_CALLED);
        }
        &mut self.first_given[node as usize]
    }

    /// Notes that the last call of the use `node`, whose parenthesis begins at `at`, is given `argument` first, which
    /// may be of unknown type. Gives the use that stands for calls with that: what they give may differ. Of those that are a
    /// statement by themselves nothing is asked, so one use stands for them.
    pub fn called_on(&mut self, node: u32, argument: UseParent, at: usize, is_statement: bool) -> u32 {
        let Some(used) = self.facts.uses.get(node as usize).copied() else { return node };
        let first = self.first_given(node);
        if *first == NOT_CALLED {
            *first = argument;
        }
        if *first == argument {
            return node;
        }
        let given = if is_statement { NOT_CALLED } else { argument };
        let tells = u64::from(given.raw()) << 16 | 1 << 8 | u64::from(used.arguments.bits());
        let twin = self.twin(node, tells, at, used.arguments);
        *self.first_given(twin) = argument;
        twin
    }

    /// Takes the last call of the use `node` for one of a use of its own, which `tells` it from others of the name.
    fn twin(&mut self, node: u32, tells: u64, at: usize, counts: ArgumentCounts) -> u32 {
        let used = &mut self.facts.uses[node as usize];
        used.count = used.count.saturating_sub(1);
        let Use { parent, name, arity, context, .. } = *used;
        let link = ChainLink { name, arity, span: Span::new(at, at) };
        let key = key_of(parent, &link, context, true) ^ tells.wrapping_mul(MIXER);
        let twin = self.of_key(key, parent, link, context);
        let used = &mut self.facts.uses[twin as usize];
        (used.count, used.called, used.arguments) = (used.count + 1, true, counts);
        // The name stands right before the parenthesis; other calls of it may stand inside.
        let before =
            self.facts.occurrences.partition_point(|occurrence| (occurrence.span.start as usize) < at);
        let named = self.facts.occurrences[..before].iter_mut().rfind(|occurrence| occurrence.used == node);
        if let Some(named) = named {
            named.used = twin;
        }
        twin
    }

    fn new_use(
        &mut self,
        slot: usize,
        key: u64,
        parent: UseParent,
        link: ChainLink,
        context: Context,
    ) -> u32 {
        let used = self.facts.uses.len() as u32;
        self.slots[slot] = Slot { key, stamp: self.stamp, used };
        self.facts.uses.push(Use {
            parent,
            first: link.span.start,
            name: link.name,
            count: 0,
            arity: link.arity,
            context,
            called: false,
            arguments: ArgumentCounts::default(),
        });
        if self.facts.uses.len() * 2 > self.slots.len() {
            self.grow();
        }
        used
    }

    fn grow(&mut self) {
        let live: Vec<Slot> = self.slots.iter().copied().filter(|slot| slot.stamp == self.stamp).collect();
        self.slots = vec![Slot::default(); self.slots.len() * 2];
        let mask = self.slots.len() - 1;
        for slot in live {
            let mut at = place(slot.key) & mask;
            while self.slots[at].stamp == self.stamp {
                at = (at + 1) & mask;
            }
            self.slots[at] = slot;
        }
    }
}

/// An odd number whose bits look random.
const MIXER: u64 = 0x9E37_79B9_7F4A_7C15;

/// What tells a use from the others of a file.
#[inline]
fn key_of(parent: UseParent, link: &ChainLink, context: Context, called: bool) -> u64 {
    // A field and a method of one name are two: `valves.isEmpty()` beside `valves()`.
    let before = u64::from(called) << 32 | u64::from(parent.raw());
    let tag = before << 16 | u64::from(link.arity) << 8 | context as u64;
    link.name.0 ^ tag.wrapping_mul(MIXER)
}

/// Where the search for `key` begins. Its bits are mixed once more: steps that no letter spells have small numbers for
/// names, and a long row of them would lie side by side.
#[inline]
fn place(key: u64) -> usize {
    (key.wrapping_mul(MIXER) >> 32) as usize
}

/// All of `list` in a list of its own, with no room left over; `list` keeps its room.
fn handed_over<T>(list: &mut Vec<T>) -> Vec<T> {
    let mut exact = Vec::with_capacity(list.len());
    exact.append(list);
    exact
}
