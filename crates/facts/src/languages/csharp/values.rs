//! Values: of what type each is as far as that is spelled, and which of its members are used.

use super::tokens::{Kind, Word};
use super::{Arguments, Before, Chain, Reader};
use crate::values::{FunctionBegins, Gives, PARTS, UNKNOWN, behind_names, names, step, value_of};
use ferngate_model::{BUILT_IN, ChainLink, Context, Name, Root, UseParent};
use std::sync::LazyLock;

/// What a delegate does when it is called.
pub(super) const INVOKE: &[u8] = b"Invoke";

/// What functions of the platform give.
pub(super) static GIVES: LazyLock<Gives> = LazyLock::new(|| Gives {
    as_function: names("Select SelectMany ConvertAll ContinueWith GetOrAdd Run"),
    as_argument: names("FromResult Repeat Exchange CompareExchange EnsureInitialized WhenAll WhenAny"),
    numbered: &[],
    of_call_around: &[],
    with_keys: &[],
});

impl Reader<'_, '_> {
    /// Whether the parenthesis here holds the arguments of what stands before it.
    pub(super) fn opens_arguments(&self) -> bool {
        match self.before[0] {
            (Kind::Identifier, word) => !matches!(word, Word::Prefix | Word::Query | Word::Pattern),
            (Kind::Mark(b'>'), _) => true,
            _ => false,
        }
    }

    /// The value that the dot here follows.
    pub(super) fn value_before_dot(&mut self) -> UseParent {
        let scope = self.scope();
        let own = match self.before[0] {
            // `shelf?.Name`, `shelf!.Name`
            (Kind::Mark(b')' | b']' | b'?' | b'!' | b'>') | Kind::Identifier, _) => return self.values.value,
            (Kind::Keyword, Word::This) => Name::THIS,
            (Kind::Keyword, Word::Base) => Name::SUPER,
            _ => return UNKNOWN,
        };
        step(self.recorder, UseParent::root(Root::This(scope)), own, self.lexer.token.start())
    }

    /// A value of the type just read, of which `node` is the last name, or an array of such.
    pub(super) fn value_of_type(&mut self, node: Option<u32>, array: bool) -> UseParent {
        let given = std::mem::take(&mut self.given);
        value_of(given.spelled(node, array, self.recorder))
    }

    /// Records a name that may be a value or a type, with the members behind it.
    pub(super) fn value(&mut self, chain: &Chain, scope: u32, opens: Before, operator: Before) {
        let called = self.lexer.token.is(b'(');
        let links = chain.links();
        let Some(first) = links.first() else { return };
        if links.len() == 1
            && let Some(made) = self.initialized(opens)
        {
            return self.members_of(made, links, false);
        }
        if !chain.global
            && let Some(value) = self.values.of_local(first.name)
        {
            self.values.value = value;
            if links.len() > 1 {
                return self.members_of(value, &links[1..], called);
            }
            if !called {
                return;
            }
            if value != UNKNOWN {
                // `price(bed)`, where the local is a function
                let call = ChainLink { name: Name::new(INVOKE), ..*first };
                return self.values.member(self.recorder, value, &[call], true);
            }
        }
        let node = if links.len() > 1 {
            self.recorder.chain(chain.root(scope), links, Context::Value, called)
        } else if first.arity > 0 && !called {
            self.recorder.chain(chain.root(scope), links, Context::Type, false)
        } else if self.may_stand_alone(opens, operator) {
            // `Climate.Zone => …`, `nameof(Ticket)`, `Ticket { Paid: true }` in a pattern
            self.recorder.chain(chain.root(scope), links, Context::Value, called)
        } else if called || self.may_be_inherited() {
            self.recorder.chain(Root::This(scope), links, Context::Value, called)
        } else {
            None
        };
        self.values.value = node.map_or(UNKNOWN, UseParent::node);
    }

    /// Whether a bare name is worth noting as that of a member: what follows, or what the file derives from, needs it.
    pub(super) fn may_be_inherited(&mut self) -> bool {
        matches!(self.lexer.token.kind, Kind::Mark(b'[' | b'?' | b'!'))
            || self.lexer.token.is(b'+') && self.peek().is(b'=')
            || self.values.decides()
            || self.is_first_argument()
            || self.has_parts
            || !self.recorder.facts().bases.is_empty()
    }

    /// Whether the name just read is the first argument of a call, which may tell what that gives.
    fn is_first_argument(&self) -> bool {
        self.before[1].0 == Kind::Mark(b'(')
            && matches!(self.lexer.token.kind, Kind::Mark(b',' | b')'))
            && self.values.opens_call()
    }

    pub(super) fn may_stand_alone(&self, opens: Before, operator: Before) -> bool {
        let in_arm = self.lexer.token.kind == Kind::Arrow && matches!(opens.0, Kind::Mark(b',' | b'{'));
        in_arm || opens.0 == Kind::Mark(b'(') && operator.1 == Word::Nameof
    }

    /// Records names behind a dot on `value`; of an unknown one only what is called, which may be an extension method.
    pub(super) fn members_of(&mut self, value: UseParent, links: &[ChainLink], called: bool) {
        // Of what the language has a word for only a call behind it matters, which may be an extension method.
        let is_built_in = value == value_of(BUILT_IN);
        if value != UNKNOWN && (!is_built_in || called && links.len() == 1) {
            return self.values.member(self.recorder, value, links, called);
        }
        self.values.value = UNKNOWN;
        if let (true, Some(last)) = (called, links.last()) {
            self.recorder.chain(Root::Member, &[*last], Context::Value, true);
        }
    }

    /// Reads names after a dot on some value.
    pub(super) fn after_dot(&mut self, value: UseParent) {
        let scope = self.scope();
        let chain = self.chain(scope, Arguments::Unsure);
        let called = self.lexer.token.is(b'(');
        self.members_of(value, chain.links(), called);
    }

    /// The local behind `var`.
    pub(super) fn untyped_local(&mut self) {
        if self.is_operator_word() && !self.names_local() {
            return;
        }
        let (name, next) = (self.lexer.token.name, self.peek());
        let at = self.lexer.token.start();
        match next.kind {
            _ if self.before[1].1 == Word::Argument => self.values.given_by_call(name, self.recorder, at),
            Kind::Mark(b'=') => self.values.untyped(name, false),
            Kind::Keyword if next.word == Word::Argument => self.values.untyped(name, true),
            _ => self.values.local(name, UNKNOWN),
        }
        self.advance();
    }

    /// The locals in `var (bed, width) = …`, if that is what the parenthesis here begins; it is passed then.
    pub(super) fn parts_of_value(&mut self) -> bool {
        let behind = behind_names(&self.text[self.lexer.token.end()..]);
        let is_loop = behind.is_some_and(|behind| behind.starts_with(b"in"));
        if !is_loop && !behind.is_some_and(|behind| behind.starts_with(b"=") && !behind.starts_with(b"=>")) {
            return false;
        }
        let names = self.names_in_parenthesis();
        self.values.untyped_parts(&names[..names.len().min(PARTS.len())], is_loop);
        true
    }

    fn names_in_parenthesis(&mut self) -> Vec<Name> {
        let mut names = Vec::new();
        self.advance();
        while !matches!(self.lexer.token.kind, Kind::Mark(b')') | Kind::End) {
            if self.lexer.token.is_identifier() {
                names.push(self.lexer.token.name);
            }
            self.advance();
        }
        self.advance();
        names
    }

    /// The names in `(bed, width) =>`, if that is what the parenthesis here begins; it is passed then.
    pub(super) fn untyped_parameters(&mut self) -> bool {
        let opens = matches!(
            self.before[0].0,
            Kind::Mark(b'(' | b',' | b'=' | b'?' | b':') | Kind::Arrow | Kind::Keyword | Kind::Identifier
        );
        if !opens || !lists_names_of_function(&self.text[self.lexer.token.end()..]) {
            return false;
        }
        let at = self.lexer.token.start();
        let taker = self.values.taker(begins(self.before[0]), self.frames.len());
        for (number, name) in self.names_in_parenthesis().into_iter().enumerate() {
            self.values.parameter(name, number, taker, self.recorder, at);
        }
        if !self.text[self.lexer.token.end()..].trim_ascii_start().starts_with(b"{") {
            self.values.function_as_argument();
        }
        true
    }

    /// Whether the name just read is the parameter of a function that is an argument. In `x switch { Open => … }` it
    /// would be a constant, but these begin with a capital letter.
    pub(super) fn is_parameter(&self, chain: &Chain, opens: Before) -> bool {
        let [only] = chain.links() else { return false };
        let first = self.text.get(only.span.start as usize).copied().unwrap_or_default();
        self.lexer.token.kind == Kind::Arrow
            && !first.is_ascii_uppercase()
            && matches!(opens.0, Kind::Mark(b'(' | b',' | b'=') | Kind::Keyword | Kind::Identifier)
    }
}

/// How a function without spelled types begins behind the token `before`.
pub(super) fn begins(before: Before) -> FunctionBegins {
    match before {
        (Kind::Mark(b'='), _) => FunctionBegins::Assigned,
        (_, Word::Return) => FunctionBegins::Returned,
        _ => FunctionBegins::Elsewhere,
    }
}

/// Whether `text`, behind a parenthesis, holds nothing but names up to a `) =>`.
fn lists_names_of_function(text: &[u8]) -> bool {
    let none = || text.trim_ascii_start().strip_prefix(b")").map(<[u8]>::trim_ascii_start);
    behind_names(text).or_else(none).is_some_and(|behind| behind.starts_with(b"=>"))
}
